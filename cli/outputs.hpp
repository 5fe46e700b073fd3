// Options that name what is written: one rule for all of them.
#pragma once

#include <bordado/base/replacing.hpp>

#include <CLI/CLI.hpp>

#include <string>
#include <vector>

namespace bordado::cli {

/// An option that names a file to write, and --replace with the first of a command. A file that is there and that Bordado
/// did not make goes only with --replace: guarded() looks before it begins.
/// \param added_to where it is true, the file is added to and not replaced
CLI::Option* add_output_option(CLI::App& command, const std::string& names, std::string& path,
                               const std::string& meaning, const bool* added_to = nullptr);

/// An option that names a file that is not there yet: the command itself replaces nothing.
CLI::Option* add_new_file_option(CLI::App& command, const std::string& names, std::string& path,
                                 const std::string& meaning);

/// --folder for files whose names follow from others', and --replace.
void add_output_folder(CLI::App& command, std::string& folder, const std::string& meaning);

/// What --replace says of files whose names follow from others'.
MayReplace may_replace();

/// Makes the folder where it is not there. \throws Failure "file.not-writable"
void make_folder(const std::string& folder);

/// \throws Failure for every file that an option of the command line names and that may not be replaced.
void check_outputs();

/// Names of all options that name what is written, `-o` and `--write` among them.
std::vector<std::string> output_names(const CLI::App& program);

}  // namespace bordado::cli
