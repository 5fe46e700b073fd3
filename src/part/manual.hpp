// What the manual says of a key, and a part file with every key.
#pragma once

#include <string>
#include <string_view>

namespace bordado::part {

/// data/every-key.toml.
std::string_view every_key();

/// The meaning of a key by docs/part-file.md and docs/materials.md, without marks. \param path "part", "frame.*",
/// "layup.plies[]". \returns nothing where the manual has no line of its own for it.
std::string described(std::string_view path, std::string_view key);

}  // namespace bordado::part
