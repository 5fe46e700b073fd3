#include <bordado/base/settings.hpp>

#include "toml_table.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <algorithm>

namespace bordado {

namespace {

Place place_of(const toml::node& node, const std::string& path) {
  return {path, node.source().begin.line, node.source().begin.column, {}};
}

class Reader {
 public:
  explicit Reader(const std::string& path) : path_(path) {}

  std::vector<Settings> read(const toml::table& root) {
    out_.emplace_back();  // those of the file go first
    Settings own = settings({}, root, true);
    out_.front() = std::move(own);
    // Tables in the order of the file, and not of their names.
    std::stable_sort(out_.begin() + 1, out_.end(),
                     [](const Settings& a, const Settings& b) { return a.where.line < b.where.line; });
    findings_.throw_if_errors();
    return std::move(out_);
  }

 private:
  void refuse(const toml::node& node, std::string what) {
    findings_.error("options.toml", std::move(what), place_of(node, path_),
                    "a key takes text, a number, true or false, or a list of these");
  }

  std::optional<std::string> text_of(const toml::node& node) {
    if (const auto text = node.value_exact<std::string>()) return *text;
    if (const auto whole = node.value_exact<std::int64_t>()) return std::to_string(*whole);
    if (const auto number = node.value_exact<double>()) return fmt::format("{}", *number);
    if (const auto choice = node.value_exact<bool>()) return *choice ? "true" : "false";
    return std::nullopt;
  }

  Settings settings(std::string name, const toml::table& table, bool is_root) {
    Settings out{std::move(name), place_of(table, path_), {}};
    for (const auto& [key, node] : table) {
      const std::string called(key.str());
      Setting setting{called, {}, node.is_array(), place_of(node, path_)};
      if (const auto* const list = node.as_array()) {
        if (is_root && !list->empty() && list->is_array_of_tables()) {
          for (const toml::node& one : *list) out_.push_back(settings(called, *one.as_table(), false));
          continue;
        }
        for (const toml::node& one : *list) {
          if (auto text = text_of(one))
            setting.values.push_back(std::move(*text));
          else
            refuse(one, fmt::format("'{}' has {} in its list", called, kind_of(one)));
        }
      } else if (const auto* const inner = node.as_table(); inner && is_root) {
        out_.push_back(settings(called, *inner, false));
        continue;
      } else if (auto text = text_of(node)) {
        setting.values.push_back(std::move(*text));
      } else {
        refuse(node, fmt::format("'{}' is {}", called, kind_of(node)));
      }
      out.all.push_back(std::move(setting));
    }
    std::stable_sort(out.all.begin(), out.all.end(),
                     [](const Setting& a, const Setting& b) { return a.where.line < b.where.line; });
    return out;
  }

  const std::string& path_;
  std::vector<Settings> out_;
  Findings findings_;
};

}  // namespace

std::vector<Settings> read_settings(const std::string& path) {
  const std::string text = read_file(path);
  try {
    return Reader(path).read(parse_toml(text, path));
  } catch (const toml::parse_error& trouble) {
    throw Failure({Severity::error,
                   "options.toml",
                   std::string(trouble.description()),
                   {path, trouble.source().begin.line, trouble.source().begin.column, {}},
                   "the file is TOML: key = value, one a line"});
  }
}

}  // namespace bordado
