// plies, diff, explain and --variant, as a user calls them.
#include "support.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

using namespace bordado;

namespace {

const std::string rudder = test::source("examples/rudder/rudder.toml"),
                  skiff = test::source("examples/skiff/skiff.toml");

test::Run run(const std::string& arguments) { return test::run(fmt::format("'{}' {}", test::program(), arguments)); }
bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }
nlohmann::json json(const std::string& arguments) {
  const test::Run result = run(arguments + " --json");
  INFO(result.err);
  REQUIRE(result.status == 0);
  return nlohmann::json::parse(result.out);
}

}  // namespace

TEST_CASE("the ply book of the hull") {
  const auto book = json("plies '" + skiff + "'");
  const auto check = json("check '" + skiff + "'");
  double mass = 0.0;
  for (const auto& ply : book["plies"]) mass += ply["mass"].get<double>();
  CHECK(mass ==
        doctest::Approx(check["mass"]["mass"].get<double>()).epsilon(1e-9));  // plies weigh what the part weighs
  CHECK(book["currency"] == "EUR");
  CHECK(book["order"] == "first laid first");
  CHECK(json("plies '" + skiff + "' --from-top")["plies"].back() == book["plies"].front());
  const test::Run text = run("plies '" + skiff + "'");
  CHECK(has(text.out, "listed first laid first (from the tool up); the part file lists them first laid first"));
}

TEST_CASE("the list of plies goes to CSV as it is declared") {
  const test::Folder folder;
  CHECK(run("plies '" + rudder + "' --write '" + folder / "p.csv" + "'").status == 0);
  const std::string csv = read_file(folder / "p.csv");
  CHECK(has(csv, "\nS2,,,,stock-doubler,,,,S1,,,,follows S1: one change of angle reaches all four\n"));
}

TEST_CASE("variants: of check, and what they change") {
  CHECK(json("check '" + rudder + "'")["laminate"]["variant"] == "");
  CHECK(json("check '" + rudder + "' --variant training")["laminate"]["variant"] == "training");
  CHECK(run("check '" + rudder + "' --variant trainig").status == 1);
  CHECK(has(run("diff '" + rudder + "' '" + rudder + "'").out, "no difference"));
  const auto diff = json("diff '" + rudder + "' '" + rudder + "' --variant-after training");
  CHECK(!diff["same"].get<bool>());
  CHECK(diff["changes"].size() == 3);  // the variant's name, G1 on, P1 off
  CHECK(diff["whole"][0]["name"] == "mass");
  CHECK(has(run("diff '" + rudder + "' '" + rudder + "' --variant-after training").out,
            "* ply P1 changed: switched off"));
}

TEST_CASE("findings are explained") {
  CHECK(has(run("explain laminate.unsymmetric").out, "laminate.unsymmetric (note)\n"));
  CHECK(json("explain laminate").size() >= 7);
  CHECK(json("explain").size() > 100);
  CHECK(has(run("explain laminate.unsymetric").err, "did you mean 'laminate.unsymmetric'?"));
}
