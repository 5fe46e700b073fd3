// bordado picture, as a user calls it.
#include "cases.hpp"
#include "png.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace of_cli_picture {

using namespace bordado;

namespace {

const std::string panel = test::source("examples/panel/panel.toml"),
                  rudder = test::source("examples/rudder/rudder.toml");

test::Run run(const std::string& arguments, const test::Folder& folder) {
  return test::run(fmt::format("'{}' {}", test::program(), arguments), folder.path());
}
bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

}  // namespace

TEST_CASE("answers as pictures: numbers are those of stress and solve; several parts stand side by side on one scale") {
  const test::Folder folder;
  REQUIRE(run("solve '" + panel + "' --folder out", folder).status == 0);
  const auto json = [&](const std::string& arguments) {
    const test::Run result = run(arguments + " --json", folder);
    INFO(result.err);
    REQUIRE(result.status == 0);
    return nlohmann::json::parse(result.out);
  };
  const auto picture = json("picture '" + panel +
                            "' --of displacement --of reserve --of 'A.8 top: s1' --of zones --folder out -o p.png");
  REQUIRE(picture["pictures"].size() == 4);
  const auto stress = json("stress '" + panel + "' --folder out");
  CHECK(test::near(picture["pictures"][1]["least"].get<double>(), stress["reserves"]["first"]["factor"].get<double>(),
                   1e-9));
  CHECK(picture["pictures"][0]["moved"].get<double>() > 0.0);
  CHECK(picture["pictures"][1]["moved"] == 0.0);
  CHECK(picture["pictures"][3]["categories"].size() == 2);
  const test::Image image = test::read_png(folder / "p.png");
  CHECK(image.width == 1684);
  // A second part beside it; and moved by a stated factor.
  const auto two =
      json("picture '" + panel + "' '" + panel + "' --of displacement --moved 7 --folder out --folder out -o two.pdf");
  CHECK(two["pictures"].size() == 2);
  CHECK(two["pictures"][0]["moved"] == 7.0);
  CHECK(two["pictures"][0]["title"] != two["pictures"][1]["title"]);
  // The summary has the part moved and its reserves, with the same least.
  REQUIRE(run("summary '" + panel + "' --folder out -o sum.html", folder).status == 0);
  const std::string page = read_file(folder / "sum.html");
  CHECK(has(page, "<svg"));
  CHECK(has(page, "<image"));
  REQUIRE(run("summary '" + panel + "' --folder out -o sum.pdf", folder).status == 0);
  const test::Run text = test::run("pdftotext -layout sum.pdf -", folder.path());
  CHECK(has(text.out, "displacement mm"));
  CHECK(has(text.out, fmt::format("{:.4g}", picture["pictures"][1]["least"].get<double>())));
  // A second time it takes its own place.
  CHECK(run("picture '" + panel + "' -o p.png", folder).status == 0);
}

TEST_CASE(
    "of several cases: each moves the part, and what decides is named by its own case, whatever stands before it") {
  const test::Folder folder;
  folder.write("grid.msh", test::msh(test::Grid::rectangle(6, 4, 120, 80)));
  folder.write("p.toml", test::known_part("[0/90]s", R"(
[support.left]
on = "left"
hold = "clamped"
[load.down]
on = "right"
edge-force = [0, 0, -0.02]
[load.pull]
on = "right"
edge-force = [30, 0, 0]
[case.hum]
analysis = "frequencies"
count = 1
[case.bent]
loads = ["down"]
[case.pulled]
loads = ["pull"]
)"));
  REQUIRE(run("solve p.toml", folder).status == 0);
  const test::Run told = run(
      "picture p.toml --of displacement --of 'critical case' --of mode --criterion tsai-wu --json -o p.svg", folder);
  INFO(told.err << told.out);
  REQUIRE(told.status == 0);
  const auto pictures = nlohmann::json::parse(told.out)["pictures"];
  REQUIRE(pictures.size() == 4);
  CHECK(pictures[0]["field"] == "bent: displacement mm");
  CHECK(pictures[1]["field"] == "pulled: displacement mm");
  CHECK(pictures[3]["field"].get<std::string>().starts_with("hum: mode 1"));
  // What stress says of the whole part.
  const auto stress = nlohmann::json::parse(run("stress p.toml --criterion tsai-wu --json", folder).out);
  const std::string decides = stress["reserves"]["first"]["case"];
  bool met = false;
  for (const auto& name : pictures[2]["categories"]) {
    CHECK((name == "bent" || name == "pulled"));
    met = met || name == decides;
  }
  CHECK(met);
  CHECK(run("picture p.toml --view 1e200,1e200,1e200 -o far.png", folder).status == 0);
}

TEST_CASE("variants beside each other have their names; what is drawn from which side is told") {
  const test::Folder folder;
  const test::Run two =
      run("picture '" + rudder + "' '" + rudder + "' --variant - --variant training --view 0,1,0.2 -o two.svg", folder);
  INFO(two.err);
  CHECK(two.status == 0);
  CHECK(has(two.out, "as it is: thickness mm"));
  CHECK(has(two.out, "training: thickness mm"));
  CHECK(has(read_file(folder / "two.svg"), "<image"));
  const test::Run zone = run("picture '" + rudder + "' --zone tip --of thickness -o tip.pdf", folder);
  CHECK(zone.status == 0);
  const test::Run words = test::run("pdftotext -layout tip.pdf -", folder.path());
  CHECK(has(words.out, "of zone tip; seen from corner"));
}

TEST_CASE("what cannot be drawn is told in one message each, and leaves nothing") {
  const test::Folder folder;
  const auto says = [&](const std::string& arguments, const std::vector<std::string>& words) {
    const test::Run result = run("picture " + arguments, folder);
    INFO(arguments << "\n" << result.err);
    CHECK(result.status == 1);
    CHECK(has(result.err, "1 error"));
    for (const std::string& word : words) CHECK(has(result.err, word));
    CHECK(folder.file_count() == 0);
  };
  const std::string part = "'" + panel + "' ";
  says(part + "--view sideways -o p.png", {"picture.view", "above, below, ahead"});
  says(part + "--view 0,0,0 -o p.png", {"picture.view"});
  says(part + "--view 1,2 -o p.png", {"picture.view"});
  says(part + "--range 3,3 -o p.png", {"picture.range"});
  says(part + "--of thicknes -o p.png", {"picture.field-unknown", "did you mean 'thickness'?"});
  says(part + "--of displacement --folder nowhere -o p.png",
       {"picture.field-unknown", "the part itself has no field 'displacement'", "zone NAME", "solve it first"});
  says(part + "--zone root-ent -o p.png", {"zone.unknown", "did you mean 'root-end'?"});
  says(part + "-o p.gif", {"drawing.ending-unknown", ".svg, .pdf or .png"});
  says(part + "--of ply --of zone --of A11 --of D11 --of plies -o p.png", {"picture.too-many"});
  says(part + part + "--variant a --variant b --variant c -o p.png", {"runs.lists", "3 times for 2 parts"});
  // A flat part from its edge.
  folder.write("flat.msh", test::msh(test::Grid::rectangle(2, 2, 100, 100)));
  folder.write("flat.toml",
               "[part]\nname = \"Flat\"\nunits = \"mm, t, s\"\nsurface = \"middle\"\nmesh = { file = \"flat.msh\", "
               "length = \"mm\" }\nside = { along = [0, 0, 1] }\n" +
                   test::materials() +
                   "[layup]\nplies = [ { id = \"P\", material = \"ud\", frame = \"x\", angle = 0 } ]\n");
  const test::Run edge = run("picture flat.toml --view ahead -o p.png", folder);
  CHECK(edge.status == 1);
  CHECK(has(edge.err, "picture.nothing"));
  CHECK(folder.file_count() == 2);
}

}  // namespace of_cli_picture
