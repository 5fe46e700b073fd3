// Bytes as letters (RFC 4648).
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace bordado {

std::string to_base64(std::string_view bytes);

/// Blanks are passed over; pieces that end in '=' may follow one another. Nothing where a character is not base64.
std::optional<std::string> from_base64(std::string_view text);

}  // namespace bordado
