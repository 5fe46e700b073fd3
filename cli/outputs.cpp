#include "outputs.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/findings.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

namespace bordado::cli {

namespace {

/// By it the help and the tests tell these options from others.
constexpr const char* output_type = "FILE";

struct Output {
  const std::string* path;
  const bool* added_to;
};
std::vector<Output> outputs;
bool replace = false;

void add_replace_flag(CLI::App& command) {
  if (!command.get_option_no_throw("--replace"))
    command.add_flag("--replace", replace, "What is written may take the place of files that Bordado did not make");
}

}  // namespace

CLI::Option* add_output_option(CLI::App& command, const std::string& names, std::string& path,
                               const std::string& meaning, const bool* added_to) {
  const auto same = [&](const Output& output) { return output.path == &path; };  // of two commands that share it
  if (std::none_of(outputs.begin(), outputs.end(), same)) outputs.push_back({&path, added_to});
  CLI::Option* const option = add_new_file_option(command, names, path, meaning);
  add_replace_flag(command);
  return option;
}

CLI::Option* add_new_file_option(CLI::App& command, const std::string& names, std::string& path,
                                 const std::string& meaning) {
  return command.add_option(names, path, meaning)->type_name(output_type)->check([](const std::string& name) {
    return name.empty() ? "a file has a name" : std::string();
  });
}

void add_output_folder(CLI::App& command, std::string& folder, const std::string& meaning) {
  command.add_option("--folder", folder, meaning)->capture_default_str();
  add_replace_flag(command);
}

MayReplace may_replace() { return replace ? MayReplace::the_one_named : MayReplace::only_our_own; }

void make_folder(const std::string& folder) {
  if (folder.empty()) return;
  std::error_code trouble;
  std::filesystem::create_directories(folder, trouble);
  if (trouble)
    throw Failure({Severity::error, "file.not-writable",
                   fmt::format("folder '{}' cannot be made: {}", folder, trouble.message()), Place::in(folder),
                   "name a folder that may be made, or one that exists"});
}

void check_outputs() {
  Findings refused;
  for (const Output& output : outputs) {
    if (output.path->empty() || (output.added_to && *output.added_to)) continue;
    try {
      check_replaceable(*output.path, may_replace());
    } catch (const Failure& failure) {
      for (const Finding& finding : failure.findings()) refused.add(finding);
    }
  }
  refused.throw_if_errors();
}

std::vector<std::string> output_names(const CLI::App& program) {
  std::vector<std::string> names;
  for (const CLI::Option* const option : program.get_options()) {
    if (option->get_type_name() != output_type) continue;
    for (const std::string& name : option->get_snames()) names.push_back("-" + name);
    for (const std::string& name : option->get_lnames()) names.push_back("--" + name);
  }
  for (const CLI::App* const sub : program.get_subcommands({}))
    for (std::string& name : output_names(*sub)) names.push_back(std::move(name));
  return names;
}

}  // namespace bordado::cli
