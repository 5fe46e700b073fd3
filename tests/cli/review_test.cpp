// plies, diff, explain and --variant, as a user calls them.
#include "support.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace of_cli_review {

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
  CHECK(test::near(mass, check["mass"]["mass"].get<double>(), 1e-9));  // plies weigh what the part weighs
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
  CHECK(has(csv, "\nS2,,,,stock-doubler,,,,,,,,,S1,,,,follows S1: one change of angle reaches all four\n"));
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
  CHECK(json("explain laminate")["explanations"].size() >= 7);
  CHECK(json("explain")["explanations"].size() > 100);
  CHECK(has(run("explain laminate.unsymetric").err, "did you mean 'laminate.unsymmetric'?"));
}

TEST_CASE("review writes one page and says what it weighs") {
  const test::Folder folder;
  const auto wrote = json("review '" + skiff + "' -o '" + folder / "s.html" + "'");
  CHECK(wrote["elements"] == 2953);
  CHECK(wrote["drawn"] == 2953);
  CHECK(wrote["bytes"].get<std::size_t>() == read_file(folder / "s.html").size());
  CHECK(wrote["program_bytes"].get<double>() < 1.5e6);
  // Ramps on so coarse a mesh make a section for every eighth element; without them it is far less.
  CHECK(wrote["data_bytes_per_element"].get<double>() < 120.0);
  CHECK(json("review '" + rudder + "' -o '" + folder / "r.html" + "'")["data_bytes_per_element"].get<double>() < 60.0);
  const test::Run cuts =
      run("review '" + rudder + "' --profile 85,10,-300,85,10,-420 --profile 85,10,-200,85,10,-420 -o '" +
          folder / "c.html" + "'");
  CHECK(cuts.status == 0);
  CHECK(run("review '" + rudder + "' --profile 85,10,-300,85,10 -o '" + folder / "c.html" + "'").status == 2);
  CHECK(has(run("review '" + rudder + "' --profile 85,10,-300,85,10,-300 -o '" + folder / "c.html" + "'").err,
            "[profile.no-way]"));
  const test::Run both = run("review '" + rudder + "' --other-variant training -o '" + folder / "b.html" + "'");
  CHECK(both.status == 0);
  CHECK(has(both.out, "5600 elements"));
  CHECK(has(read_file(folder / "b.html"), "<title>Rudder blade and Rudder blade (training)</title>"));
  const test::Run coarse = run("review '" + skiff + "' --most-elements 1000 -o '" + folder / "c.html" + "'");
  CHECK(has(coarse.out, " of 2953 elements are drawn, nodes near each other as one; numbers are of the whole part"));
}

TEST_CASE("review with fields of a file; what cannot be shown is said and nothing is written") {
  const test::Folder folder;
  CHECK(run("fields '" + rudder + "' --write '" + folder / "f.vtu" + "'").status == 0);
  CHECK(run("review '" + rudder + "' --fields '" + folder / "f.vtu" + "' -o '" + folder / "r.html" + "'").status == 0);
  const test::Run elsewhere =
      run("review '" + skiff + "' --fields '" + folder / "f.vtu" + "' -o '" + folder / "e.html" + "'");
  CHECK(elsewhere.status == 0);
  CHECK(has(elsewhere.err, "has no value near any element of the part [page.field-elsewhere]"));
  CHECK(run("review '" + rudder + "' --fields nofile.vtu -o '" + folder / "n.html" + "'").status == 1);
  CHECK(run("review '" + rudder + "' -o '" + folder / "none/n.html" + "'").status == 1);
  CHECK(folder.file_count() == 3);
}

TEST_CASE("stack draws the layers from the top down, and writes a sheet") {
  const test::Folder folder;
  const auto stack = json("stack '" + rudder + "' --element 1000 -o '" + folder / "s.svg" + "'");
  const auto at = json("at '" + rudder + "' --element 1000");
  REQUIRE(stack["layers"].size() == at["layers"].size());
  for (std::size_t i = 0; i < stack["layers"].size(); ++i) {
    CHECK(stack["layers"][i]["ply"] == at["layers"][i]["ply"]);
    CHECK(test::near(stack["layers"][i]["z_low"].get<double>(), at["layers"][i]["z_low"].get<double>()));
  }
  CHECK(stack["stiffness_against_direction"].size() == 72);
  const std::string text = run("stack '" + rudder + "' --element 1000").out;
  const std::size_t first = text.find("T1"), last = text.find("T2");
  CHECK(last < first);  // T1 is laid first: it stands lowest
  CHECK(has(text, "45°  T2"));
  CHECK(!has(text, "-0°"));
  CHECK(std::filesystem::exists(folder / "s.svg"));
  const test::Run drawn =
      run("laminate '[20/-35/70]' --material carbon-ud --thickness 0.2 --draw '" + folder / "l.pdf" + "'");
  CHECK(drawn.status == 0);
  CHECK(std::filesystem::exists(folder / "l.pdf"));
  CHECK(run("plies '" + rudder + "' --draw '" + folder / "p.pdf" + "'").status == 0);
  CHECK(run("plies '" + rudder + "' --draw '" + folder / "p.dxf" + "'").status == 1);
}

}  // namespace of_cli_review
