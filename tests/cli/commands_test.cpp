// The commands on the example, as a user calls them.
#include "support.hpp"

#include <bordado/base/text.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace of_cli_commands {

using namespace bordado;

namespace {

const std::string skiff = test::source("examples/skiff/skiff.toml");

test::Run run(const std::string& arguments) { return test::run(fmt::format("'{}' {}", test::program(), arguments)); }

nlohmann::json json(const std::string& arguments) {
  const test::Run result = run(arguments + " --json");
  INFO(result.err);
  REQUIRE(result.status == 0);
  return nlohmann::json::parse(result.out);
}

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

}  // namespace

TEST_CASE("help tells every command with an example, and its own options") {
  const test::Run help = run("--help");
  CHECK(help.status == 0);
  for (const std::string& command : test::commands()) {
    INFO(command);
    const test::Run own = run(fmt::format("{} --help", command));
    CHECK(own.status == 0);
    if (command == "material") continue;  // has commands of its own
    CHECK(has(own.out, "Example"));
    CHECK(has(own.out, fmt::format("bordado {}", command)));
    // What prints a table prints JSON, too.
    if (command != "begin" && command != "schema" && command != "stack") CHECK(has(own.out, "--json"));
  }
  CHECK(run("--version").out == fmt::format("bordado {}\n", version()));
}

TEST_CASE("wrong use is exit code 2 and says what is missing") {
  CHECK(run("").status == 2);
  CHECK(run("chek x.toml").status == 2);
  CHECK(run("check").status == 2);
  CHECK(has(run("check").err, "part is required"));
  CHECK(run("at '" + skiff + "'").status == 2);
  CHECK(run("at '" + skiff + "' --element 3000 --point 1,2,3").status == 2);
  CHECK(run("deck '" + skiff + "' --format paper").status == 2);
  CHECK(run("deck '" + skiff + "' --angle-tolerance 90").status == 2);
}

TEST_CASE("surface measures a mesh, doubts its unit, and points at what is odd") {
  const std::string mesh = test::source("examples/skiff/skiff.msh");
  const auto all = json("surface '" + mesh + "' --from 0,0,85 --to 4200,0,625");
  CHECK(test::near(all["distance"].get<double>(), std::hypot(4200, 540)));
  CHECK(all["rims"].size() == 1);
  CHECK(all["groups"].size() == 9);
  CHECK(all["doubts"].size() == 2);
  const test::Run text = run("surface '" + mesh + "'");
  CHECK(has(text.out, "4.20 m long if mm; 107 m if inch, 4.20 km if m"));
  CHECK(has(text.out, "look at 96 edges between elements of opposite sides"));
  CHECK(has(run("surface '" + mesh + "' --length m").out, "4.20 km long if m; 4.20 m if mm, 107 m if inch"));
  CHECK(has(run("surface '" + mesh + "' --length kg").err, "'kg' is not a unit of length [part.units]"));
  CHECK(run("surface '" + mesh + "' --from 1,2,3").status == 2);
  CHECK(has(run("surface --help").out, "bordado surface skiff.msh"));
}

TEST_CASE("check sums the part up, plainly in a pipe") {
  const test::Run result = run("check '" + skiff + "'");
  CHECK(result.status == 0);
  CHECK(result.err.empty());  // no progress in a pipe
  CHECK(!has(result.out, "\033["));
  CHECK(has(result.out, "2640 quadrilaterals, 313 triangles"));
  CHECK(has(result.out, "0 errors, 4 warnings, 13 notes"));
  const auto all = json("check '" + skiff + "'");
  CHECK(all["surface"]["quadrilaterals"] == 2640);
  CHECK(all["laminate"]["plies"] >= 24);
  CHECK(all["findings"].size() == 17);
  CHECK(all["findings"][0]["code"] == "mesh.turned");
  CHECK(all["condensing"]["largest_angle_deg"] <= all["condensing"]["angle_tolerance_deg"]);
}

TEST_CASE("zones add up to the part") {
  const auto all = json("zones '" + skiff + "'"), check = json("check '" + skiff + "'");
  double area = 0, mass = 0;
  for (const auto& laminate : all["laminates"]) {
    area += laminate["area"].get<double>();
    mass += laminate["mass"].get<double>();
    CHECK(test::near(laminate["mass"].get<double>(),
                     laminate["area"].get<double>() * laminate["areal_mass"].get<double>()));
    CHECK(!laminate["where"].empty());
  }
  CHECK(test::near(area, check["mass"]["area"].get<double>()));
  CHECK(test::near(mass, check["mass"]["mass"].get<double>()));
  CHECK(all["zones"][0]["zone"] == "everything");
  CHECK(test::near(all["zones"][0]["area"].get<double>(), area));
  const test::Run text = run("zones '" + skiff + "'");
  CHECK(has(text.out, "[45W/0T/0C/±45C/-45C/45C/0T]"));
  CHECK(has(text.out, "marks: C carbon-ud"));
}

TEST_CASE("at lists layers either way up, with real directions and constants that agree with theory") {
  const auto up = json("at '" + skiff + "' --point 1200,300,60"),
             down = json("at '" + skiff + "' --point 1200,300,60 --from-top");
  CHECK(up["order"] == "first laid first");
  CHECK(down["order"] == "last laid first");
  const std::size_t count = up["layers"].size();
  CHECK(count == down["layers"].size());
  for (std::size_t i = 0; i < count; ++i) CHECK(up["layers"][i] == down["layers"][count - 1 - i]);
  CHECK(up["layers"][0]["ply"] == "W1");
  CHECK(up["layers"][0]["z_low"] == 0.0);  // the mesh is the face of the mould
  double z = 0;
  for (const auto& layer : up["layers"]) {
    CHECK(test::near(layer["z_low"].get<double>(), z));
    z += layer["thickness"].get<double>();
    Vec3 direction, normal;
    for (int k = 0; k < 3; ++k)
      direction[k] = layer["direction"][static_cast<std::size_t>(k)],
      normal[k] = up["normal"][static_cast<std::size_t>(k)];
    CHECK(test::near(direction.norm(), 1.0));
    CHECK(std::abs(direction.dot(normal)) < 1e-12);
  }
  CHECK(test::near(up["thickness"].get<double>(), z));
  CHECK(up["in_plane"]["Ex"].get<double>() <= up["in_plane_constrained"]["Ex"].get<double>());
  // The plies' angles about the normal, measured from the first one in the keel frame.
  CHECK(has(run("at '" + skiff + "' --point 1200,300,60 --from-top").out,
            "layers, last laid first (from the top down):"));
  CHECK(json("at '" + skiff + "' --element " + std::to_string(up["element"].get<int>())) == up);
}

TEST_CASE("at says which elements there are when asked for one that is not") {
  const test::Run result = run("at '" + skiff + "' --element 999999");
  CHECK(result.status == 1);
  CHECK(has(result.err, "the mesh has no shell element 999999 [at.element-unknown]"));
  CHECK(has(result.err, "shell element ids run from "));
}

TEST_CASE("at doubts a point that is not on the part, and answers all the same") {
  const test::Run result = run("at '" + skiff + "' --point 1200,300,2000 --json");
  CHECK(result.status == 0);
  CHECK(result.err.empty());
  const auto answer = nlohmann::json::parse(result.out);
  CHECK(answer["layers"].size() > 3);
  CHECK(has(answer["findings"].dump(), "the point lies "));
  CHECK(has(answer["findings"].dump(), "at.point-far"));
}

TEST_CASE("deck writes all formats or one, into the folder asked for") {
  const test::Folder folder;
  const auto all = json(fmt::format("deck '{}' --folder '{}'", skiff, folder.path()));
  CHECK(all["decks"].size() == 2);
  CHECK(folder.file_count() == 6);  // each with its table of names and how it was made
  for (const auto& deck : all["decks"])
    CHECK(std::filesystem::file_size(deck["file"].get<std::string>()) == deck["bytes"].get<std::size_t>());
  const test::Folder other;
  const test::Run one =
      run(fmt::format("deck '{}' --folder '{}' --format bulk-data --laminate-only", skiff, other.path()));
  CHECK(one.status == 0);
  CHECK(std::filesystem::exists(other / "skiff-laminate.bdf"));
  CHECK(other.file_count() == 2);
}

TEST_CASE("solve answers with a deflection, a balance and the files") {
  const test::Folder folder;
  const std::string text = fmt::format(
      "[part]\nname = \"Plate\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"grid.msh\", length = \"mm\" }}\nside = {{ "
      "along = [0, 0, 1] }}\nsurface = \"middle\"\n{}"
      "[layup]\nplies = [ {{ id = \"P\", material = \"ud\", frame = \"x\", code = \"[0/90]s\" }} ]\n[support.s]\non = "
      "\"left\"\nhold = \"clamped\"\n",
      test::materials());
  folder.write("grid.msh", test::msh(test::Grid::rectangle(6, 3, 60, 30)));
  const std::string part = folder.write("plate.toml", text + "[load.f]\non = \"right\"\nforce = [0, 0, 1]\n");
  const auto answer = json(fmt::format("solve '{}' --folder '{}'", part, folder.path()));
  CHECK(answer["cases"][0]["largest_deflection"].get<double>() > 0);
  CHECK(test::near(answer["cases"][0]["reaction"][2].get<double>(), -1.0));
  CHECK(test::near(answer["cases"][0]["at"][0].get<double>(), 60.0));
  for (const auto& file : answer["cases"][0]["results"]) CHECK(std::filesystem::exists(file.get<std::string>()));
  const test::Run missing = run(fmt::format("solve '{}' --folder '{}' --solver no-such-solver", part, folder.path()));
  CHECK(missing.status == 1);
  CHECK(has(missing.err, "the solver 'no-such-solver' is not installed [solve.no-solver]"));
  const test::Run loadless =
      run(fmt::format("solve '{}' --folder '{}'", folder.write("free.toml", text), folder.path()));
  CHECK(loadless.status == 1);
  CHECK(has(loadless.err, "the part declares no load, so there is nothing to solve [solve.no-load]"));
}

TEST_CASE("colours are for a terminal, and NO_COLOR is heeded there") {
  if (test::run("script -qec 'echo there is a terminal' /dev/null").out.find("there is a terminal") ==
      std::string::npos) {
    MESSAGE("no terminal can be opened here; colours were not tried");
    return;
  }
  const auto terminal = [&](const std::string& environment) {
    return test::run(fmt::format("TERM=xterm {} script -qec \"'{}' check '{}'\" /dev/null", environment,
                                 test::program(), skiff))
        .out;
  };
  CHECK(has(terminal(""), "\033[1m"));
  CHECK(!has(terminal("NO_COLOR=1"), "\033[1m"));
}

TEST_CASE("check says what a deck would stumble over: misspelt names, elements without area, torn nodes") {
  const test::Folder folder;
  std::string mesh = test::msh(test::Grid::rectangle(4, 4, 40, 40));
  folder.write("grid.msh", mesh);
  const std::string part =
      "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" }\nside = { along = "
      "[0, "
      "0, 1] }\nsurface = \"bottom\"\n" +
      test::materials() +
      "[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ { id = \"A\", code = \"[0/90]s\" } ]\n[support.s]\non = "
      "\"leftt\"\nhold = \"clamped\"\n[load.f]\non = \"left\"\npressure = 1\nface = \"bag\"\n";
  folder.write("p.toml", part);
  const test::Run misspelt = run(fmt::format("check '{}'", folder / "p.toml"));
  CHECK(misspelt.status == 1);
  CHECK(has(misspelt.out, "[support.s]: 'leftt' is neither a zone nor a group of the mesh [deck.on-unknown]"));
  CHECK(has(misspelt.out, "did you mean 'left'?"));
  CHECK(has(misspelt.out, "[deck.on-kind]"));  // a pressure on an edge
  // A second node on top of one: the surface is torn there.
  const mesh::Surface surface = test::surface(test::Grid::rectangle(4, 4, 40, 40));
  mesh::Surface torn = surface;
  torn.points.push_back(torn.points[12]);
  torn.node_ids.push_back(900);
  *std::find(torn.nodes.begin(), torn.nodes.end(), mesh::NodeIndex{12}) =
      static_cast<mesh::NodeIndex>(torn.points.size() - 1);
  mesh::write(torn, folder / "grid.msh");
  CHECK(has(run(fmt::format("check '{}'", folder / "p.toml")).out, "[mesh.coincident]"));
}

}  // namespace of_cli_commands
