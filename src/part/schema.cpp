#include <bordado/part.hpp>

#include "../base/toml_table.hpp"
#include "manual.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace bordado::part {

namespace {

using Json = nlohmann::ordered_json;

/// One value as the getters of Table take it.
Json value_of(const KeyUse& use, std::string_view kind) {
  const Json number = {{"type", Json::array({"number", "string"})}};  // a string has its unit
  const Json plain = {{"type", "number"}};
  const Json& one = use.has_unit ? number : plain;
  if (kind == "text") {
    if (use.choices.empty()) return {{"type", "string"}};
    return {{"enum", use.choices}};
  }
  if (kind == "number") return one;
  if (kind == "whole") return {{"type", "integer"}};
  if (kind == "vector") return {{"type", "array"}, {"items", one}, {"minItems", 3}, {"maxItems", 3}};
  if (kind == "texts") return {{"type", "array"}, {"items", {{"type", "string"}}}};
  return {{"type", "array"}};
}

class Composer {
 public:
  explicit Composer(const RecordedKeys& keys) : keys_(keys) {}

  Json compose() {
    Json out = {{"$schema", "http://json-schema.org/draft-07/schema#"},
                {"$comment", fmt::format("written by Bordado {}", version())},
                {"title", "Bordado part file"},
                {"type", "object"},
                {"properties", Json::object()},
                {"additionalProperties", false}};
    for (const auto& [path, uses] : keys_) {
      const std::size_t dot = path.find('.');
      const std::string head = path.substr(0, dot);
      if (head.empty() || out["properties"].contains(head)) continue;
      out["properties"][head] = dot != std::string::npos && path[dot + 1] == '*'
                                    ? Json{{"type", "object"}, {"additionalProperties", table(head + ".*")}}
                                    : table(head);
    }
    return out;
  }

 private:
  Json table(const std::string& path) {
    Json out = {{"type", "object"}, {"properties", Json::object()}, {"additionalProperties", false}};
    const auto found = keys_.find(path);
    if (found == keys_.end()) return {{"type", "object"}};
    for (const auto& [key, use] : found->second) out["properties"][key] = key_of(path, key, use);
    return out;
  }

  Json key_of(const std::string& path, const std::string& key, const KeyUse& use) {
    const std::string below = path + "." + key;
    std::vector<Json> ways;
    for (const std::string& kind : use.kinds)
      if (kind != "table" && kind != "array") ways.push_back(value_of(use, kind));
    const bool rows = keys_.count(below + "[]") != 0;
    if (rows) ways.push_back({{"type", "array"}, {"items", table(below + "[]")}});
    if (keys_.count(below))
      ways.push_back(table(below));
    else if (use.kinds.count("table"))  // names of the part's own, with numbers
      ways.push_back({{"type", "object"}, {"additionalProperties", {{"type", "number"}}}});
    if (use.kinds.count("array") && !rows && !use.kinds.count("texts")) ways.push_back({{"type", "array"}});
    // What is looked at in the readers' own ways: anything that is no table, beside what is known.
    if (use.looked_at && rows) ways.push_back({{"type", "string"}});
    if (use.looked_at && use.kinds.empty() && !rows)
      ways.push_back({{"type", Json::array({"string", "number", "array", "boolean"})}});
    Json out = ways.size() == 1 ? ways.front() : ways.empty() ? Json::object() : Json{{"anyOf", ways}};
    if (const std::string text = described(path, key); !text.empty()) out["description"] = text;
    return out;
  }

  const RecordedKeys& keys_;
};

/// The text with another side, of which a part says one.
std::string with_side(std::string text, std::string_view side) {
  constexpr std::string_view as_it_stands = "side = { along = [0, 0, 1] }";
  return text.replace(text.find(as_it_stands), as_it_stands.size(), side);
}

}  // namespace

std::string json_schema() {
  RecordedKeys keys;
  {
    const KeyRecorder recorder(keys);
    const std::string text(every_key());
    for (const std::string& one : {text, with_side(text, "side = { towards = [0, 0, 1] }"),
                                   with_side(text, "side = { away-from = [0, 0, 1] }")}) {
      Findings ignored;
      read_text(one, "every-key.toml", ignored);
    }
    try {  // the only key whose file is read at once
      Findings ignored;
      read_text(text + "[curve.file]\nfile = \"points.csv\"\n", "every-key.toml", ignored);
    } catch (const Failure&) {
    }
  }
  return Composer(keys).compose().dump(2) + "\n";
}

}  // namespace bordado::part
