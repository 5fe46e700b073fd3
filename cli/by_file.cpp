#include "by_file.hpp"

#include "outputs.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <filesystem>

namespace bordado::cli {

bool is_option_file(const std::string& text) { return text.ends_with(".toml"); }

Finding unknown_key(const Setting& setting, const std::vector<std::string>& known) {
  const auto near = nearest_name(setting.key, known);
  return {Severity::error, "options.key-unknown", fmt::format("'{}' is no key here", plain_text(setting.key, 40)),
          setting.where,
          near ? fmt::format("did you mean '{}'?", *near) : fmt::format("keys: {}", fmt::join(known, ", "))};
}

bool is_part_file(const std::string& path) {
  const std::string text = read_file(path);
  return text.starts_with("[part]") || text.find("\n[part]") != std::string::npos;
}

std::vector<Settings> read_options(CLI::App& command, const std::string& path, std::string& laminate,
                                   const std::vector<std::string>& table_names) {
  std::vector<Settings> tables = read_settings(path);
  const Settings own = std::move(tables.front());
  tables.erase(tables.begin());
  const std::vector<std::string> outputs = output_names(command);
  std::vector<std::string> known{"laminate"};
  for (const CLI::Option* const option : command.get_options())
    for (const std::string& name : option->get_lnames())
      if (name != "help" && name != "json" && name != "replace" &&
          std::find(outputs.begin(), outputs.end(), "--" + name) == outputs.end())
        known.push_back(name);
  Findings findings;
  laminate.clear();
  for (const Setting& setting : own.all) {
    if (std::find(known.begin(), known.end(), setting.key) == known.end()) {
      findings.add(unknown_key(setting, known));
      continue;
    }
    if (setting.key == "laminate") {
      if (setting.values.size() == 1)
        laminate = setting.values.front();
      else
        findings.error("options.value", "'laminate' is one code", setting.where, "laminate = \"[0/45/-45/90]s\"");
      continue;
    }
    CLI::Option* const option = command.get_option("--" + setting.key);
    if (option->count() > 0) continue;
    std::vector<std::string> values = setting.values;
    if (setting.key == "library")
      for (std::string& value : values)
        value = (std::filesystem::path(path).parent_path() / std::filesystem::path(value)).string();
    try {
      option->add_result(values);
      option->run_callback();
    } catch (const CLI::Error& trouble) {
      findings.error("options.value", plain_text(trouble.what()), setting.where,
                     fmt::format("bordado {} --help tells what it takes", command.get_name()));
    }
  }
  for (const Settings& table : tables)
    if (std::find(table_names.begin(), table_names.end(), table.name) == table_names.end())
      findings.error("options.key-unknown", fmt::format("[{}] is no table here", plain_text(table.name, 40)),
                     table.where,
                     table_names.empty() ? "keys stand in the file itself"
                                         : fmt::format("tables: {}", fmt::join(table_names, ", ")));
  findings.throw_if_errors();
  return tables;
}

}  // namespace bordado::cli
