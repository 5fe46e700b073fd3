// bordado material and bordado laminate, as a user calls them.
#include "support.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <filesystem>

namespace of_cli_material {

using namespace bordado;

namespace {

test::Run run(const std::string& arguments, const std::string& folder = ".") {
  return test::run(fmt::format("'{}' {}", test::program(), arguments), folder);
}
bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }
nlohmann::json json(const std::string& arguments, const std::string& folder = ".") {
  const test::Run result = run(arguments + " --json", folder);
  INFO(result.err);
  REQUIRE(result.status == 0);
  return nlohmann::json::parse(result.out);
}

}  // namespace

TEST_CASE("materials are listed, shown, compared and computed") {
  const auto foams = json("material list --kind foam")["materials"];
  CHECK(foams.size() == 5);
  CHECK(json("material show carbon-ud")["E1"] == 125000.0);
  CHECK(test::near(json("material show carbon-ud --units 'm, kg, s'")["E1"], 125e9));
  const auto sheared = json("material show carbon-twill-yarns --sheared")["sheared"];
  CHECK(test::near(sheared[0]["E1"], sheared[0]["E2"].get<double>()));
  CHECK(test::near(sheared[6]["thickness_ratio"], 1 / std::cos(std::numbers::pi / 6)));
  CHECK(has(run("material compare carbon-ud glass-ud").out, "39000   MPa"));
  const auto computed = json("material compute --fibre e-glass-fibre --matrix epoxy --fibre-volume 0.5")["materials"];
  const auto by = [&](const std::string& theory) {
    return *std::find_if(computed.begin(), computed.end(), [&](const auto& m) { return m["theory"] == theory; });
  };
  CHECK(by("mori-tanaka")["E2"] < by("cylinder-assemblage")["E2"]);
  CHECK(run("material compute --fibre epoxy --matrix epoxy").err ==
        "error: 'epoxy' is resin, not a fibre [material.cannot-mix]\n    see bordado material list\n1 error, 0 "
        "warnings, 0 notes\n");
  CHECK(run("material show carbon-du").err ==
        "error: there is no material 'carbon-du' [material.unknown]\n    did you mean 'carbon-ud'?\n1 error, 0 "
        "warnings, 0 notes\n");
  CHECK(run("material").status == 2);
}

TEST_CASE("materials go to files and come back, and the user's library is found") {
  const test::Folder folder;
  CHECK(run("material write carbon-ud epoxy --to house.toml", folder.path()).status == 0);
  CHECK(run("material write glass-ud --to house.toml --append", folder.path()).status == 0);
  CHECK(has(run("material write glass-ud --to house.toml --append", folder.path()).err, "[material.name-taken]"));
  CHECK(run("material write carbon-ud glass-ud --to house.xml", folder.path()).status == 0);
  CHECK(has(run("material write carbon-ud --to house.pdf", folder.path()).err, "[material.ending-unknown]"));
  for (const char* file : {"house.toml", "house.xml"}) {
    const auto back = json(fmt::format("material show carbon-ud --library '{}'", folder / file));
    CHECK(has(back["from"], file));
    CHECK(back["Xt"] == 1900);
  }
  const test::Run user =
      test::run(fmt::format("BORDADO_MATERIALS=house.xml '{}' material show glass-ud", test::program()), folder.path());
  CHECK(has(user.out, "from house.xml"));
  CHECK(run("material write carbon-ud glass-ud --to m.inp --format calculix", folder.path()).status == 0);
  CHECK(has(read_file(folder / "m.inp"), "NAME=GLASS_UD"));
}

TEST_CASE("computed properties by shear are written, and read back as measured ones") {
  const test::Folder folder;
  CHECK(run("material show carbon-twill-yarns --write table.csv", folder.path()).status == 0);
  folder.write("mine.toml",
               "units = \"mm, t, s\"\n[material.cloth]\nfrom = \"carbon-twill-yarns\"\nsheared = \"table.csv\"\n");
  const auto mine = json(fmt::format("material show cloth --sheared --library '{}'", folder / "mine.toml"))["sheared"];
  const auto computed = json("material show carbon-twill-yarns --sheared")["sheared"];
  REQUIRE(mine.size() == computed.size());
  for (std::size_t i = 0; i < mine.size(); ++i) {
    CHECK(mine[i]["measured"] == true);
    CHECK(computed[i]["measured"] == false);
    CHECK(test::near(mine[i]["E1"].get<double>(), computed[i]["E1"].get<double>()));
  }
}

TEST_CASE("a laminate by its code: constants, layers under a load, as a solver's material") {
  const auto quasi = json("laminate '[0/±45/90]s' --material carbon-ud --force 100,0,0 --warmed -60");
  CHECK(test::near(quasi["in_plane"]["Ex"], quasi["in_plane"]["Ey"].get<double>()));
  CHECK(quasi["load"]["layers"].size() == 24);
  CHECK(quasi["load"]["strain"][0] > 0.0);
  const auto sandwich =
      json("laminate '[0_2/0F/0_2]' --material glass-ud --material pvc-foam-80 --thickness 2 --surface bottom");
  CHECK(sandwich["layers"][2]["material"] == "pvc-foam-80");
  CHECK(sandwich["layers"][0]["z_low"] == 0.0);
  CHECK(sandwich["layers"][0]["thickness"] != 2.0);  // a material that says its thickness keeps it
  CHECK(sandwich["layers"][2]["thickness"] == 2.0);
  CHECK(has(run("laminate '[0]' --material carbon-ud --thickness 2").err, "--thickness 2 is not used"));
  // From the top every list runs from the top, and says what each entry is.
  const auto up = json("laminate '[0/45]' --material carbon-ud --force 1,0,0");
  const auto down = json("laminate '[0/45]' --material carbon-ud --force 1,0,0 --from-top");
  CHECK(down["order"] == "last laid first");
  for (const auto& key : {"layers"}) {
    auto turned = down[key];
    std::reverse(turned.begin(), turned.end());
    CHECK(turned == up[key]);
  }
  auto turned = down["load"]["layers"];
  std::reverse(turned.begin(), turned.end());
  CHECK(turned == up["load"]["layers"]);
  CHECK(turned[0]["place"] == "bottom");
  CHECK(turned[5]["place"] == "top");
  CHECK(turned[5]["layer"] == 2);
  const test::Folder folder;
  const test::Run written = run("laminate '[0/45]' --material carbon-ud --write m.inp --name SKIN", folder.path());
  CHECK(written.status == 0);
  CHECK(has(read_file(folder / "m.inp"), "*MATERIAL, NAME=SKIN\n*ELASTIC, TYPE=ANISO"));
  CHECK(has(read_file(folder / "m.inp"), "** made of: [0/45] of carbon-ud, first laid first"));
  CHECK(has(run("laminate '[0/45' --material carbon-ud").err, "[laminate.code]"));
  CHECK(has(run("laminate '[0/45Y]' --material carbon-ud").err,
            "no material given has the mark or name 'Y': given are 'carbon-ud'"));
  CHECK(has(run("laminate '[0F]' --material pvc-foam-80").err, "material 'pvc-foam-80' has no thickness"));
}

TEST_CASE("a laminate by its name, and as a library's material") {
  const auto named = json("laminate quasi-isotropic --material carbon-ud");
  CHECK(named["A"] == json("laminate '[0/45/-45/90]s' --material carbon-ud")["A"]);
  CHECK(has(run("laminate quasi-isotropc --material carbon-ud").err, "did you mean 'quasi-isotropic'?"));
  CHECK(has(run("laminate '[0/90]'").err, "[laminate.no-material]"));
  CHECK(has(run("laminate quasi-isotropic").err, "laminate 'quasi-isotropic' says no material"));
  CHECK(has(run("laminate '[0]' --material carbon-ud --force 1,0,0 --criterion peel").err, "[result.peel-none]"));
  const test::Folder folder;
  folder.write("house.toml", "units = \"mm, t, s\"\n[laminate.skin]\ncode = \"[0/45]\"\nmaterial = \"glass-ud\"\n");
  CHECK(json("laminate skin --library house.toml", folder.path())["A"] ==
        json("laminate '[0/45]' --material glass-ud")["A"]);
  CHECK(has(run("panel skin --library house.toml --size 300,200 --force -1,0,0", folder.path()).out, "comes first"));
  // As a material: the same by MatML, by a library and by 21 constants; nine are told.
  for (const std::string file : {"s.xml", "s.toml"}) {
    CHECK(run("laminate '[0/45]' --material carbon-ud --name skin --write " + file, folder.path()).status == 0);
    const test::Run shown = run("material show skin --library " + file, folder.path());
    INFO(shown.out << shown.err);
    CHECK(has(shown.out, "skin, anisotropic"));
    CHECK(has(shown.out, "made of [0/45] of carbon-ud"));
  }
  const std::string one = read_file(folder / "s.toml");
  CHECK(
      run("laminate '[0/90]s' --material carbon-ud --name skin --constants 21 --write t.toml", folder.path()).status ==
      0);
  CHECK(has(read_file(folder / "t.toml"), "C = ["));
  const test::Run nine = run("laminate '[0/45]' --material carbon-ud --constants 9 --write n.inp", folder.path());
  CHECK(has(nine.err, "nine constants leave out"));
  CHECK(has(read_file(folder / "n.inp"), "ENGINEERING CONSTANTS"));
  CHECK(has(run("laminate '[0]' --material carbon-ud --format calculix --write x.xml", folder.path()).err,
            "[deck.choices]"));
  CHECK(!std::filesystem::exists(folder / "x.xml"));
}

TEST_CASE("many that add to one file at the same time lose nothing") {
  const test::Folder folder;
  for (const std::string ending : {"toml", "xml"}) {
    CHECK(run("material write glass-ud --to house." + ending, folder.path()).status == 0);
    const std::vector<std::string> more = {"carbon-ud", "carbon-fibre-standard", "e-glass-fibre", "pvc-foam-80",
                                           "balsa"};
    std::string all;
    for (const std::string& name : more)
      all += fmt::format("'{}' material write {} --to house.{} --append & ", test::program(), name, ending);
    test::run(all + "wait", folder.path());
    const test::Run listed = run("material list --library house." + ending, folder.path());
    for (const std::string& name : more) {
      const std::string line = listed.out.substr(std::min(listed.out.find("  " + name + " "), listed.out.size()));
      if (run("material show " + name).status == 0)
        CHECK_MESSAGE(has(line.substr(0, line.find('\n')), "house." + ending), name);
    }
  }
}

}  // namespace of_cli_material
