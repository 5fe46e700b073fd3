// The schema of part files: what the readers ask for, complete, and true of every example and every slip.
#include "support.hpp"

#include <bordado/part.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <functional>

namespace of_part_schema {

using namespace bordado;

namespace {

nlohmann::json schema() { return nlohmann::json::parse(part::json_schema()); }

}  // namespace

TEST_CASE("the part file with every key is read without an error") {
  Findings findings;
  part::read(test::source("data/every-key.toml"), findings);
  for (const Finding& finding : findings.all()) CHECK(finding.severity != Severity::error);
}

TEST_CASE("every key of the schema has a kind, and nearly every one the manual's words") {
  const nlohmann::json all = schema();
  std::size_t keys = 0, described = 0;
  const std::function<void(const nlohmann::json&, const std::string&)> walk = [&](const nlohmann::json& table,
                                                                                  const std::string& path) {
    if (table.contains("properties"))
      for (const auto& [key, value] : table["properties"].items()) {
        const std::string here = path + "." + key;
        ++keys;
        described += value.contains("description");
        const bool known =
            value.contains("type") || value.contains("enum") || value.contains("anyOf") || value.contains("items");
        CHECK_MESSAGE(known, here);
        walk(value, here);
        if (value.contains("anyOf"))
          for (const auto& way : value["anyOf"]) walk(way, here);
        if (value.contains("items")) walk(value["items"], here);
      }
    if (table.contains("additionalProperties") && table["additionalProperties"].is_object())
      walk(table["additionalProperties"], path + ".*");
    if (table.contains("items") && table["items"].is_object()) walk(table["items"], path);
  };
  walk(all, "");
  CHECK(keys > 150);
  CHECK(described > keys / 2);
  const auto& plies = all["properties"]["layup"]["properties"]["plies"];
  CHECK(plies.dump().find("\"follows\"") != std::string::npos);
  CHECK(all["properties"]["part"]["properties"]["surface"]["enum"] == nlohmann::json{"bottom", "middle", "top"});
  CHECK(all["properties"]["zone"]["additionalProperties"]["properties"]["box"]["properties"].contains("from"));
  CHECK(all["properties"]["frame"]["additionalProperties"]["properties"]["turn"].dump().find("\"table\"") !=
        std::string::npos);
}

TEST_CASE("part files are held against it by an independent validator: examples pass, slips do not") {
  const test::Folder folder;
  const std::string path = folder / "schema.json";
  const test::Run made = test::run(fmt::format("'{}' schema -o '{}'", test::program(), path));
  REQUIRE(made.status == 0);
  const test::Run held = test::run(
      fmt::format("/usr/bin/python3 '{}' '{}' '{}'", test::source("tests/part/schema.py"), path, test::source(".")));
  CHECK_MESSAGE(held.status == 0, held.out, held.err);
}

}  // namespace of_part_schema
