// Options of a command that stand in a small file.
#pragma once

#include <bordado/base/settings.hpp>

#include <CLI/CLI.hpp>

#include <string>
#include <vector>

namespace bordado::cli {

/// Whether what stands for a laminate names such a file.
bool is_option_file(const std::string& text);

/// Whether such a file has a [part].
bool is_part_file(const std::string& path);

/// Reads a TOML file whose keys are the command's own options, without dashes, and `laminate`; what the command line says
/// goes before. What is written is not said there. Libraries of materials are looked for beside the file.
/// \param laminate where `laminate` goes. \param table_names which tables the file may have: they are the command's own matter.
/// \returns these.
/// \throws Failure "options.key-unknown", "options.value" and as read_settings(), all at once.
std::vector<Settings> read_options(CLI::App& command, const std::string& path, std::string& laminate,
                                   const std::vector<std::string>& table_names);

/// "options.key-unknown" for a key that is none of these, with the nearest.
Finding unknown_key(const Setting& setting, const std::vector<std::string>& known);

}  // namespace bordado::cli
