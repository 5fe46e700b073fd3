#include "toml_table.hpp"

#include <bordado/base/absolute_zero.hpp>
#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <filesystem>

namespace bordado {

namespace {

/// Whatever file a text names is kept, whether this command reads it or not.
void keep_files(const toml::node& node, const std::filesystem::path& folder) {
  if (const auto text = node.value_exact<std::string>()) {
    if (!text->empty() && text->size() < 4096 && text->find('\0') == std::string::npos)
      keep((folder / std::filesystem::path(*text)).string());
  } else if (const auto* const table = node.as_table()) {
    for (const auto& [key, value] : *table) keep_files(value, folder);
  } else if (const auto* const list = node.as_array()) {
    for (const toml::node& value : *list) keep_files(value, folder);
  }
}

}  // namespace

toml::table parse_toml(std::string_view text, const std::string& path) {
  constexpr std::size_t deepest = 1000;
  std::size_t dots = 0, line = 1;
  for (const char c : text) {
    if (c == '\n') ++line;
    if (c == '.')
      ++dots;
    else if (std::isalnum(static_cast<unsigned char>(c)) == 0 && c != '_' && c != '-' && c != '"' && c != '\'' &&
             c != ' ' && c != '\t')
      dots = 0;
    if (dots > deepest)
      throw Failure({Severity::error,
                     "part.toml",
                     fmt::format("a key has more than {} parts", deepest),
                     {path, line, {}, {}},
                     "see docs/part-file.md"});
  }
  toml::table out = toml::parse(text, path);
  keep_files(out, std::filesystem::path(path).parent_path());
  return out;
}

std::optional<double> number_of(const toml::node& node) {
  if (const auto whole = node.value_exact<std::int64_t>()) return static_cast<double>(*whole);
  return node.value_exact<double>();
}

Place Table::place(const toml::node& node) const {
  if (fixed_) return *fixed_;
  const toml::source_position begin = node.source().begin;
  return {file_, begin.line, begin.column, {}};
}

Place Table::place(std::string_view key) const {
  const toml::node* const node = table_.get(key);
  return place(node ? *node : table_);
}

namespace {

RecordedKeys*& recorded() {
  thread_local RecordedKeys* into = nullptr;
  return into;
}

/// The path of a table by what messages call it: "[frame.x] axis", "[laminate.skin] ply 2", "ply 'A' thickness".
std::string path_of(std::string name) {
  std::string out;
  if (name.starts_with('[')) {
    const std::size_t end = std::min(name.find(']'), name.size() - 1), dot = name.find('.');
    out = dot < end ? name.substr(1, dot - 1) + ".*" : name.substr(1, end - 1);
    name.erase(0, std::min(end + 2, name.size()));
  } else if (name == "the part file") {
    return "";
  }
  if (name.starts_with("ply ")) {
    out = out.empty() ? "layup.plies[]" : out + ".plies[]";
    const std::size_t begin = name.starts_with("ply '") ? name.find('\'', 5) : 4;
    const std::size_t blank = name.find(' ', begin);
    name.erase(0, blank == std::string::npos ? name.size() : blank + 1);
  }
  for (std::size_t at = 0; at < name.size();) {
    const std::size_t end = std::min(name.find(' ', at), name.size());
    out += "." + name.substr(at, end - at);
    at = end + 1;
  }
  return out;
}

}  // namespace

KeyRecorder::KeyRecorder(RecordedKeys& into) { recorded() = &into; }
KeyRecorder::~KeyRecorder() { recorded() = nullptr; }

void Table::record(std::string_view key, std::string_view kind, bool has_unit) const {
  RecordedKeys* const into = recorded();
  if (!into) return;
  KeyUse& use = (*into)[path_of(name_)][std::string(key)];
  if (kind.empty())
    use.looked_at = true;
  else
    use.kinds.emplace(kind);
  use.has_unit = use.has_unit || has_unit;
}

const toml::node* Table::node(std::string_view key) {
  record(key, "");
  if (std::find(known_.begin(), known_.end(), key) == known_.end()) known_.emplace_back(key);
  return table_.get(key);
}

const toml::node* Table::find(std::string_view key, std::string_view wanted) {
  const toml::node* const found = node(key);
  if (!found)
    error("part.key-missing", fmt::format("{} has no '{}'", name_, key), place(),
          fmt::format("add {} = {}", key, wanted));
  return found;
}

std::string toml_string(std::string_view text) {
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') out += '\\';
    if (static_cast<unsigned char>(c) < 0x20 || c == 0x7f)
      out += fmt::format("\\u{:04X}", static_cast<unsigned char>(c));
    else
      out += c;
  }
  return out + '"';
}

std::string toml_key(std::string_view name) {
  const bool bare = !name.empty() && std::all_of(name.begin(), name.end(), [](unsigned char c) {
    return c < 0x80 && (std::isalnum(c) || c == '-' || c == '_');
  });
  return bare ? std::string(name) : toml_string(name);
}

std::string toml_number(double value) { return fmt::format("{}", value); }

std::string_view kind_of(const toml::node& node) {
  if (node.is_string()) return "text";
  if (node.is_number()) return "a number";
  if (node.is_boolean()) return "true or false";
  if (node.is_array()) return "a list";
  if (node.is_table()) return "a table";
  return "a date";
}

std::optional<Declared<std::string>> Table::text(std::string_view key) {
  record(key, "text");
  const toml::node* const found = find(key, "\"...\"");
  if (!found) return std::nullopt;
  if (const auto value = found->value_exact<std::string>()) {
    // Notes may run over lines; everything else is a name, a code or a file.
    const bool free = key == "note" || key == "made-of" || key == "weave";
    std::string blank = *value;
    std::replace(blank.begin(), blank.end(), '\t', ' ');
    const bool readable = plain_text(blank, blank.size()) == blank;
    if (value->empty() && !free && key != "mark" && key != "group") {
      error("part.value", fmt::format("{}: '{}' is empty", name_, key), place(*found),
            "write a name, or leave the key out");
      return std::nullopt;
    }
    if (free || readable) return Declared<std::string>{*value, place(*found)};
    error("part.value",
          fmt::format("{}: '{}' holds a line break or another character that is none of a name", name_, key),
          place(*found), "write it on one line, in letters and digits");
    return Declared<std::string>{plain_text(*value), place(*found)};
  }
  error("part.value", fmt::format("{}: '{}' should be text in quotes, not {}", name_, key, kind_of(*found)),
        place(*found));
  return std::nullopt;
}

std::optional<double> Table::number_in(const toml::node& node, std::string_view key, Dimension dimension) {
  const std::string unit = units_.unit(dimension);
  const auto checked = [&](double value) -> std::optional<double> {
    if (dimension != Dimension::temperature || value >= absolute_zero) return value;
    error("part.value", fmt::format("{}: '{}' is {:g} {}, below absolute zero", name_, key, value, unit), place(node),
          fmt::format("give a temperature above {:g} {}", absolute_zero, unit));
    return std::nullopt;
  };
  if (node.is_number()) {
    const double value = *number_of(node);
    if (std::abs(value) <= largest_number) return checked(value);
    error("part.value", fmt::format("{}: '{}' is {}, which is no number to work with", name_, key, value), place(node),
          fmt::format("give a number between -{0:g} and {0:g}", largest_number));
    return std::nullopt;
  }
  std::string why = fmt::format("it is {}", kind_of(node));
  if (const auto text = node.value_exact<std::string>()) {
    try {
      const double value = units_.read(*text, dimension);
      if (std::abs(value) <= largest_number) return checked(value);
      why = fmt::format("'{}' is too large to work with", plain_text(*text, 40));
    } catch (const std::invalid_argument& trouble) {
      why = trouble.what();
    }
  }
  error("part.value",
        fmt::format("{}: '{}' should be a number{}: {}", name_, key,
                    unit.empty() ? "" : fmt::format(" in {} or with its unit", unit), why),
        place(node),
        unit.empty() ? fmt::format("write {} = 0.3", key)
                     : fmt::format("write {} = 1.5 or {} = \"1.5 {}\"", key, key, unit));
  return std::nullopt;
}

std::optional<double> Table::number(std::string_view key, Dimension dimension) {
  const std::string unit = units_.unit(dimension);
  record(key, "number", !unit.empty());
  const toml::node* const found = find(key, unit.empty() ? std::string("0.3") : fmt::format("\"1.5 {}\"", unit));
  return found ? number_in(*found, key, dimension) : std::nullopt;
}

std::optional<double> Table::positive(std::string_view key, Dimension dimension) {
  const auto value = number(key, dimension);
  if (!value || *value > 0.0) return value;
  error("part.value",
        fmt::format("{}: '{}' is {:g}{}{}; it must be positive", name_, key, *value,
                    dimension == Dimension::none ? "" : " ", units_.unit(dimension)),
        place(key));
  return std::nullopt;
}

std::optional<Vec3> Table::vector(std::string_view key, Dimension dimension) {
  record(key, "vector", !units_.unit(dimension).empty());
  const toml::node* const found = find(key, "[0, 0, 1]");
  return found ? read_vector(*found, key, dimension) : std::nullopt;
}

std::optional<Vec3> Table::read_vector(const toml::node& node, std::string_view key, Dimension dimension) {
  const toml::array* const list = node.as_array();
  if (!list || list->size() != 3) {
    error("part.value",
          fmt::format("{}: '{}' should be a list of three numbers, not {}", name_, key,
                      list ? fmt::format("of {}", list->size()) : std::string(kind_of(node))),
          place(node), fmt::format("write {} = [0, 0, 1]", key));
    return std::nullopt;
  }
  Vec3 out;
  for (std::size_t i = 0; i < 3; ++i) {
    const auto value = number_in(*list->get(i), key, dimension);
    if (!value) return std::nullopt;
    out[static_cast<Eigen::Index>(i)] = *value;
  }
  return out;
}

std::optional<std::vector<Declared<std::string>>> Table::texts(std::string_view key) {
  record(key, "texts");
  const toml::array* const list = array(key);
  if (!list) return std::nullopt;
  std::vector<Declared<std::string>> out;
  std::set<std::string> seen;
  for (const toml::node& item : *list) {
    const auto value = item.value_exact<std::string>();
    if (!value) {
      error("part.value",
            fmt::format("{}: '{}' should be a list of names in quotes; one of them is {}", name_, key, kind_of(item)),
            place(item));
      return std::nullopt;
    }
    if (value->empty()) {
      error("part.value", fmt::format("{}: one of the names in '{}' is empty", name_, key), place(item),
            "write a name, or leave it out");
      return std::nullopt;
    }
    if (!seen.insert(*value).second) {
      error("part.value", fmt::format("{}: '{}' stands twice in '{}'", name_, *value, key), place(item),
            "leave one of them out");
      return std::nullopt;
    }
    out.push_back({*value, place(item)});
  }
  return out;
}

std::optional<std::vector<Vec3>> Table::vectors(std::string_view key, Dimension dimension) {
  const toml::array* const list = array(key);
  if (!list) return std::nullopt;
  std::vector<Vec3> out;
  for (const toml::node& item : *list) {
    const auto point = read_vector(item, key, dimension);
    if (!point) return std::nullopt;
    out.push_back(*point);
  }
  return out;
}

std::optional<std::int64_t> Table::whole(std::string_view key) {
  record(key, "whole");
  const toml::node* const found = find(key, "2");
  if (!found) return std::nullopt;
  if (const auto value = found->value_exact<std::int64_t>()) return *value;
  const auto real = found->value_exact<double>();
  error("part.value",
        fmt::format("{}: '{}' should be a whole number, not {}", name_, key,
                    real ? fmt::format("{:g} with a point or an exponent", *real) : std::string(kind_of(*found))),
        place(*found), fmt::format("write {} = 2", key));
  return std::nullopt;
}

const toml::table* Table::table(std::string_view key) {
  record(key, "table");
  const toml::node* const found = find(key, "{ ... }");
  if (found && !found->is_table())
    error("part.value", fmt::format("{}: '{}' should be a table {{ ... }}, not {}", name_, key, kind_of(*found)),
          place(*found));
  return found ? found->as_table() : nullptr;
}

std::optional<Table> Table::inner(std::string_view key) {
  const toml::table* const found = table(key);
  if (!found) return std::nullopt;
  Table out(*found, fmt::format("{} {}", name_, key), file_, units_, findings_);
  if (fixed_) out.all_at(*fixed_);
  return out;
}

const toml::array* Table::array(std::string_view key) {
  record(key, "array");
  const toml::node* const found = find(key, "[ ... ]");
  if (found && !found->is_array())
    error("part.value", fmt::format("{}: '{}' should be a list [ ... ], not {}", name_, key, kind_of(*found)),
          place(*found));
  return found ? found->as_array() : nullptr;
}

std::optional<std::size_t> Table::choice(std::string_view key, std::span<const std::string_view> names) {
  const auto given = text(key);
  if (RecordedKeys* const into = recorded())
    (*into)[path_of(name_)][std::string(key)].choices.assign(names.begin(), names.end());
  if (!given) return std::nullopt;
  const auto found = std::find(names.begin(), names.end(), given->value);
  if (found != names.end()) return static_cast<std::size_t>(found - names.begin());
  error("part.value", fmt::format("{}: '{}' is '{}'; it can be {}", name_, key, given->value, fmt::join(names, ", ")),
        given->where);
  return std::nullopt;
}

void Table::pass_over() {
  for (const auto& [key, value] : table_) node(key.str());
}

void Table::finish() {
  for (const auto& [key, value] : table_) {
    const std::string name(key.str());
    if (std::find(known_.begin(), known_.end(), name) != known_.end()) continue;
    const auto near = nearest_name(name, known_);
    std::vector<std::string> sorted = known_;
    std::sort(sorted.begin(), sorted.end());
    error("part.key-unknown", fmt::format("{}: there is no key '{}' here", name_, name),
          fixed_ ? *fixed_ : Place{file_, key.source().begin.line, key.source().begin.column, {}},
          near ? fmt::format("did you mean '{}'?", *near) : fmt::format("known keys: {}", listed(sorted, 20)));
  }
}

}  // namespace bordado
