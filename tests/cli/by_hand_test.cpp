// What is sized by hand, through the program: the commands of docs/sizing.md, files of options, what is refused.
#include "support.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <filesystem>

namespace of_cli_by_hand {

using namespace bordado;
using Json = nlohmann::json;
using test::Folder;
using test::near;

namespace {

bool has(const std::string& text, const std::string& what) { return text.find(what) != std::string::npos; }

test::Run run(const std::string& what, const std::string& folder = ".") {
  return test::run(fmt::format("'{}' {}", test::program(), what), folder);
}
Json json(const std::string& what, const std::string& folder = ".") {
  const test::Run run = of_cli_by_hand::run(what + " --json", folder);
  INFO(what << "\n" << run.out << run.err);
  CHECK(run.status == 0);
  return Json::parse(run.out);
}

const std::string carbon = "panel '[0/±45/90]s' --material carbon-ud ";

}  // namespace

TEST_CASE("docs/sizing.md: its commands work as written there") {
  int commands = 0;
  std::istringstream page(read_file(test::source("docs/sizing.md")));
  const Folder folder;
  test::run(fmt::format("ln -s '{}' examples", test::source("examples")), folder.path());
  for (std::string line; std::getline(page, line);) {
    if (!line.starts_with("    bordado ")) continue;
    ++commands;
    const test::Run run = of_cli_by_hand::run(line.substr(12, line.find(" # ") - 12), folder.path());
    INFO(line << "\n" << run.out << run.err);
    CHECK(run.status == 0);
    if (!line.starts_with("    bordado solve")) CHECK(has(run.out, "comes first"));
  }
  CHECK(commands >= 7);
  // And its files.
  const std::string text = read_file(test::source("docs/sizing.md"));
  int files = 0;
  for (std::size_t at = text.find("```toml\n"); at != std::string::npos; at = text.find("```toml\n", at + 1)) {
    const std::string file = text.substr(at + 8, text.find("```", at + 8) - at - 8);
    folder.write("shown.toml", file);
    const test::Run run =
        of_cli_by_hand::run((has(file, "[[wall]]") ? "column" : "panel") + std::string(" shown.toml"), folder.path());
    INFO(file << "\n" << run.out << run.err);
    CHECK(run.status == 0);
    ++files;
  }
  CHECK(files == 2);
}

TEST_CASE("a file of options says what the command line says, and the command line goes before it") {
  const Folder folder;
  folder.write("panel.toml",
               "laminate = \"[0/±45/90]s\"\nmaterial = \"carbon-ud\"\nsize = [400, 300.0]\nforce = [-50, 0, 10]\n"
               "edges = [\"simple\", \"clamped\", \"free\", \"simple\"]\n");
  const std::string typed = carbon + "--size 400,300 --edges simple,clamped,free,simple ";
  CHECK(json("panel panel.toml", folder.path()) == json(typed + "--force -50,0,10"));
  CHECK(json("panel panel.toml --force 0,-20,0", folder.path()) == json(typed + "--force 0,-20,0"));
  // A library beside the file, wherever the command runs.
  folder.write("mine.toml",
               "units = \"mm, t, s\"\n[material.mine]\nkind = \"isotropic\"\nE = 70000\nnu = 0.3\nthickness = "
               "2\ndensity = 2.7e-9\n");
  folder.write(
      "metal.toml",
      "laminate = \"[0]\"\nmaterial = \"mine\"\nlibrary = \"mine.toml\"\nsize = [100, 100]\nforce = [-1, 0, 0]\n");
  const Json metal = json(fmt::format("panel '{}'", folder / "metal.toml"));
  const double pi = 3.14159265358979, D = 70000 * 8 / 12.0 / 0.91, S = 5.0 / 6.0 * 2 * 70000 / 2.6,
               square = 2 * pi * pi / 1e4;
  CHECK(near(metal["buckling"]["forward"]["value"], D * square * square / (1 + D * square / S) / (0.5 * square), 1e-6));
  CHECK(metal["governing"] == "buckling of the panel");
}

TEST_CASE("what comes first is what is least, in the table as in JSON") {
  const Json told = json("panel '" + test::source("examples/sizing/daggerboard-case.toml") + "'");
  double before = 0.0;
  for (const Json& margin : told["margins"]) {
    CHECK(margin["factor"] >= before);
    before = margin["factor"];
  }
  CHECK(told["governing"] == told["margins"][0]["what"]);
  CHECK(has(run("panel '" + test::source("examples/sizing/daggerboard-case.toml") + "'").out,
            told["governing"].get<std::string>() + " comes first"));
}

TEST_CASE("a zone of a part under forces of a table is the panel that is typed; all that is wrong with zones is said") {
  const Folder folder;
  test::run(fmt::format("ln -s '{}' examples", test::source("examples")), folder.path());
  folder.write("grid.msh", test::msh(test::Grid::rectangle(4, 3, 400, 300)));
  folder.write("p.toml",
               "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" }\nside = { "
               "along = [0, 0, 1] }\nsurface = \"bottom\"\n[material.carbon-ud]\nfrom = \"carbon-ud\"\n[frame.x]\n"
               "vector = [1, 0, 0]\n[layup]\nframe = \"x\"\nmaterial = \"carbon-ud\"\nplies = [ { id = \"A\", code = "
               "\"[0/±45/90]s\" } ]\n[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.f]\non = \"right\"\nforce = "
               "[10, 0, 0]\n");
  std::string table = "element,Nx,Ny,Nxy,Mx,My,Mxy,Qx,Qy\n";
  const Json typed = json(carbon + "--size 400,300 --force -50,0,10");
  // The mesh lies at the bottom, and moments are about it: what bends nothing acts in the middle.
  const double middle = 0.5 * typed["thickness"].get<double>();
  REQUIRE(of_cli_by_hand::run("stress p.toml --template blank.csv", folder.path()).status == 0);
  std::istringstream blank(read_file(folder / "blank.csv"));
  for (std::string line; std::getline(blank, line);)
    if (!line.empty() && std::isdigit(static_cast<unsigned char>(line[0])) != 0)
      table +=
          line.substr(0, line.find_first_of(",;")) + fmt::format(",-50,0,10,{},0,{},0,0\n", -50 * middle, 10 * middle);
  CHECK(std::count(table.begin(), table.end(), '\n') == 13);
  folder.write("forces.csv", table);
  const Json zone = json("panel p.toml --zone plate --from forces.csv --write panels.vtu", folder.path());
  CHECK(near(zone["buckling"]["forward"]["value"], typed["buckling"]["forward"]["value"], 1e-6));
  CHECK(near(zone["margins"][1]["factor"], typed["margins"][1]["factor"], 1e-6));
  CHECK(zone["governing"] == typed["governing"]);
  CHECK(zone["zones"][0]["elements"] == 12);
  CHECK(near(zone["zones"][0]["reserves"][0]["factor"], typed["buckling"]["forward"]["value"], 1e-3));
  CHECK(has(read_file(folder / "panels.vtu"), "reserve, buckling of the panel"));
  const auto refused = [&](const std::string& what, const std::string& code) {
    const test::Run run = of_cli_by_hand::run("panel p.toml " + what, folder.path());
    INFO(what << "\n" << run.out << run.err);
    CHECK(run.status == 1);
    CHECK(has(run.err, code));
  };
  refused("--zone plate --from forces.csv --force 1,0,0 --patch 3", "[panel.choices]");
  refused("--zone plat --zone nobody --from forces.csv", "did you mean 'plate'?");
  refused("--zone plate", "[result.none]");
  refused("--zone plate --from forces.csv --edges free", "[panel.cannot]");
  refused("--zone plate --from forces.csv --size 0,10", "[panel.size]");
  refused("--zone plate --from forces.csv --write panels.txt", "panels.txt");
  const test::Run no_zone = of_cli_by_hand::run("panel p.toml", folder.path());
  CHECK(no_zone.status == 1);
  CHECK(has(no_zone.err, "--zone"));
  folder.write("options.toml", "laminate = \"[0]\"\nzone = \"plate\"\n");
  CHECK(has(of_cli_by_hand::run("panel options.toml", folder.path()).err, "zones are of a part"));
}

TEST_CASE("bad input of a panel: one clear message each, and several at once") {
  const auto says = [](const std::string& what, const std::string& code, const std::string& words) {
    const test::Run run = of_cli_by_hand::run(what);
    INFO(what << "\n" << run.out << run.err);
    CHECK(run.status != 0);
    CHECK(run.out.empty());
    CHECK(has(run.err, code));
    CHECK(has(run.err, words));
    CHECK(run.err.size() < 1000);
  };
  says(carbon, "panel.size", "--size 400,300");
  says(carbon + "--size 0,300", "panel.size", "above nought");
  says(carbon + "--size 400,300 --edges simple,free", "panel.edges", "not 2");
  says(carbon + "--size 400", "panel.size", "two lengths");
  says(carbon + "--size 400,nan", "command.arguments", "no number");
  says(carbon + "--size 400,300 --edges glued", "command.arguments", "glued");
  says(carbon + "--size 400,300 --edges free --force -1,0,0", "panel.cannot", "held by one clamped edge");
  says(carbon + "--size 400,300 --terms 3", "command.arguments", "terms");
  says(carbon + "--size 1e-9,300 --force -1,0,0", "panel.cannot", "no stiffness left");
  says("panel '[0/45' --material carbon-ud --size 400,300", "laminate.code", "[0/45");
  says("panel '[0]' --material carbon-u --size 400,300", "material.unknown", "carbon-ud");
  const test::Run thin = run(carbon + "--size 400,300 --patch 10");
  CHECK(thin.status == 0);
  CHECK(has(thin.err, "panel.no-sandwich"));
}

TEST_CASE("bad input in a file of options: where it stands, all at once") {
  const Folder folder;
  const auto says = [&](const std::string& text, std::initializer_list<const char*> words) {
    folder.write("p.toml", text);
    const test::Run run = of_cli_by_hand::run("panel p.toml", folder.path());
    INFO(text << "\n" << run.out << run.err);
    CHECK(run.status == 1);
    for (const char* const word : words) CHECK(has(run.err, word));
  };
  const std::string good = "laminate = \"[0/90]s\"\nmaterial = \"carbon-ud\"\nsize = [400, 300]\n";
  says(good + "forse = [1, 0, 0]\npressure = \"much\"\n[wall]\nx = 1\n",
       {"options.key-unknown", "p.toml:4", "did you mean 'force'?", "options.value", "p.toml:5", "much", "[wall]",
        "3 errors"});
  says(good + "force = [1, 0]\n", {"options.value", "p.toml:4", "force"});
  says(good + "force = [1, 0, inf]\n", {"options.value", "p.toml:4"});
  says(good + "edges = \"glued\"\n", {"options.value", "p.toml:4", "glued"});
  says(good + "size = 3\n", {"options.toml", "p.toml:4"});
  says(good + "force = [[1], 0, 0]\n", {"options.toml", "p.toml:4", "list"});
  says(good + "write = \"x\"\n", {"options.key-unknown"});
  says("material = \"carbon-ud\"\n", {"the file says no laminate"});
  says("laminate = [\"[0]\", \"[90]\"]\n", {"options.value", "one code"});
  says("laminate = \n", {"options.toml", "p.toml:1"});
  const test::Run missing = run("panel nowhere.toml");
  CHECK(missing.status == 1);
  CHECK(has(missing.err, "nowhere.toml"));
}

TEST_CASE("a list of walls is the shape that it makes; its own file says what the command line says") {
  const Folder folder;
  folder.write("c.toml", R"(material = "carbon-ud"
length = 900
force = -500
laminate = "[0/45/-45]s"
[[wall]]
from = [30, 60]
to = [0, 60]
name = "upper flange"
[[wall]]
from = [0, 60]
to = [0, 0]
name = "web"
laminate = "[45/-45]s"
[[wall]]
from = [0, 0]
to = [30, 0.0]
name = "lower flange"
)");
  Json walls = json("column c.toml", folder.path());
  Json shape = json(
      "column '[45/-45]s' --flange '[0/45/-45]s' --material carbon-ud --shape C --size 60,30 --length 900 --force "
      "-500");
  CHECK(walls["shape"].is_null());
  CHECK(shape["shape"] == "C");
  walls.erase("shape");
  shape.erase("shape");
  CHECK(walls == shape);
  CHECK(walls["governing"] == walls["margins"][0]["what"]);
  const double half = json("column c.toml --force -1000", folder.path())["margins"][0]["factor"];
  CHECK(near(half, 0.5 * walls["margins"][0]["factor"].get<double>(), 1e-6));
}

TEST_CASE("sheets of a panel and of a section, as SVG and PDF, with what the tables say; other endings are refused") {
  const Folder folder;
  const std::string panel = "panel '" + test::source("examples/sizing/daggerboard-case.toml") + "'";
  const std::string column = "column '" + test::source("examples/sizing/wing-rack.toml") + "'";
  for (const std::string& command : {panel, column}) {
    const Json told = json(command);
    CHECK(run(command + " --draw sheet.svg", folder.path()).status == 0);
    CHECK(read_file(folder / "sheet.svg").size() > 20000);
    CHECK(run(command + " --draw sheet.pdf", folder.path()).status == 0);
    const test::Run text = test::run("pdftotext -layout sheet.pdf -", folder.path());
    REQUIRE(text.status == 0);
    for (const Json& margin : told["margins"]) CHECK(has(text.out, margin["what"].get<std::string>()));
    CHECK(has(text.out, fmt::format("{:.3g}", told["margins"][0]["factor"].get<double>())));
    const test::Run refused = run(command + " --draw sheet.png", folder.path());
    CHECK(refused.status == 1);
    CHECK(has(refused.err, "drawing.ending-unknown"));
  }
}

TEST_CASE("a cylinder and a curved panel: load by load, and what is refused") {
  const std::string tube = "panel '[±45/0/90]s' --material carbon-ud --size 600 --radius 150 ";
  const Json told = json(tube + "--force -40,0,8 --pressure -0.01");
  CHECK(told["width"].is_null());
  REQUIRE(told["shell"]["loads"].size() == 3);
  double all = 0.0;
  for (const Json& load : told["shell"]["loads"]) {
    all += load["pushes"].get<double>() / load["bears"].get<double>();
    CHECK(near(load["bears"].get<double>(), load["left"].get<double>() * load["classical"].get<double>()));
  }
  CHECK(near(told["margins"][0]["factor"].get<double>(), 1.0 / all));
  CHECK(told["shell"]["loads"][1]["left"] == 0.75);
  CHECK(told["shell"]["loads"][2]["left"] == 0.67);
  CHECK(near(told["N"][1].get<double>(), -1.5));
  const test::Run text = run(tube + "--force -40,0,8 --pressure -0.01");
  CHECK(has(text.out, "cylinder 600.0 long, radius 150.0 mm"));
  CHECK(has(text.out, "pressure 0.01000 MPa from outside"));
  CHECK(has(text.out, "buckling of the shell, knocked down comes first"));
  // A panel of a radius without end is the flat one.
  const std::string flat = "panel '[0/90]s' --material carbon-ud --size 400,300 --force -5,0,0 ";
  const Json hardly = json(flat + "--radius 1e7"), plane = json(flat);
  CHECK(near(hardly["margins"][0]["factor"].get<double>(), plane["margins"][0]["factor"].get<double>(), 1e-6));
  CHECK(hardly["shell"]["loads"][0]["flat"] == true);
  // What varies, and the sheet.
  const Json over = json(tube + "--force -40,0,8 --against radius=100:200:3")["against"];
  CHECK(near(
      over["points"].back()["margins"][0]["factor"].get<double>(),
      json("panel '[±45/0/90]s' --material carbon-ud --size 600 --radius 200 --force -40,0,8")["margins"][0]["factor"]
          .get<double>(),
      1e-9));
  const Folder folder;
  CHECK(run(tube + "--force -40,0,8 --draw sheet.pdf", folder.path()).status == 0);
  const test::Run sheet = test::run("pdftotext -layout sheet.pdf -", folder.path());
  CHECK(has(sheet.out, "0.67 of the classical one"));
  const auto says = [&](const std::string& options, const std::string& code, const std::string& words) {
    const test::Run refused = run(options, folder.path());
    INFO(options << "\n" << refused.err);
    CHECK(has(refused.err, code));
    CHECK(has(refused.err, words));
    return refused.status;
  };
  CHECK(says(tube + "--force -1,-3,0", "panel.radius", "--pressure -0.02") == 1);
  CHECK(says(tube + "--force -1,0,0 --edges clamped", "panel.choices", "bears more") == 1);
  CHECK(says(tube + "--force -1,0,0 --frequencies 2 --patch 3", "panel.choices", "--patch is of a flat panel") == 1);
  CHECK(says("panel '[0]' --material carbon-ud --size 600,300 --radius 20", "panel.size", "once round") == 1);
  CHECK(says("panel '[0]' --material carbon-ud --size 600", "panel.size", "two lengths") == 1);
  CHECK(says("panel '[0/90]s' --material carbon-ud --radius 150 --force -1,0,0", "panel.size", "the whole cylinder") ==
        1);
  CHECK(says("panel '[0/90]s' --material carbon-ud --size 600 --radius 3000 --force -1,0,0", "panel.thin-shell",
             "up to 1500") == 0);
  CHECK(says("panel '[30]' --material carbon-ud --size 600 --radius 50 --force -1,0,0", "panel.coupled", "left out") ==
        0);
  CHECK(says("panel '[0_20/90_20]s' --material carbon-ud --size 600 --radius 50 --force -1,0,0", "panel.thick",
             "solids") == 0);
}

TEST_CASE("what changes it most, and what it is over what varies: each is what the command says of that by itself") {
  const std::string sandwich =
      "panel '[0/45/0{pvc-foam-80}/45/0]' --material glass-twill --material pvc-foam-80 --size 420,340 --force "
      "-9,-14,8 ";
  const auto least = [](const Json& told) { return told["margins"][0]["factor"].get<double>(); };
  const Json told = json(sandwich + "--thickness 10 --sensitivities --against core=0.5:30:6");
  CHECK(told["sensitivities"].size() == 5);
  for (const Json& one : told["sensitivities"]) {
    if (one["change"] == "core") {
      const Json thicker = json(sandwich + "--thickness 11");
      CHECK(near(one["more"]["factor"].get<double>(), least(thicker), 1e-4));
      CHECK(one["more"]["what"] == thicker["governing"]);
      CHECK(near(one["more"]["mass"].get<double>(), thicker["areal_mass"].get<double>()));
    }
    if (one["change"] == "angle" && one["layers"] == Json{2, 4}) {
      CHECK(one["now"] == 45.0);
      const Json turned =
          json("panel '[0/50/0{pvc-foam-80}/50/0]" + sandwich.substr(sandwich.find("' --mat")) + "--thickness 10");
      CHECK(near(one["more"]["factor"].get<double>(), least(turned), 1e-4));
    }
  }
  const Json& over = told["against"];
  CHECK(over["varied"][0]["now"] == 10.0);
  CHECK(over["points"].front()["in_range"] == true);
  CHECK(over["points"].size() == over["varied"][0]["values"].size());
  CHECK(over["points"].size() == 6);
  CHECK(over["points"].front()["values"][0] == 0.5);
  CHECK(over["points"].back()["values"][0] == 30.0);
  CHECK(near(over["points"].back()["margins"][0]["factor"].get<double>(), least(json(sandwich + "--thickness 30")),
             1e-9));
  REQUIRE(over["ones"].size() == 1);
  CHECK(near(least(json(sandwich + fmt::format("--thickness {}", over["ones"][0]["value"].get<double>()))), 1.0, 3e-3));
  // A bar: another length of its shape, another count of one laminate's ply.
  const std::string bar =
      "column '[0/±45/90]s' --flange '[0_4/±45]s' --material carbon-ud --shape C --force -2000 --length 900 ";
  const Json wide = json(bar + "--size 80,40 --against size:2=20:60:3");
  CHECK(wide["against"]["varied"][0]["what"] == "flange");
  CHECK(near(wide["against"]["points"].back()["margins"][0]["factor"].get<double>(), least(json(bar + "--size 80,60")),
             1e-6));
  const Json thick = json(bar + "--size 80,40 --against 'count:1:upper flange=1:2'");
  CHECK(near(thick["against"]["points"].back()["margins"][0]["factor"].get<double>(),
             least(json("column '[0/±45/90]s' --flange '[0_5/±45]s' --material carbon-ud --shape C --force -2000 "
                        "--length 900 --size 80,40")),
             1e-6));
  CHECK(json(bar + "--size 80,40")["against"].is_null());
  CHECK(json(bar + "--size 80,40")["sensitivities"].empty());
}

TEST_CASE("charts: curves of one that varies, a map of two, as SVG, PDF and CSV; what --against takes and does not") {
  const Folder folder;
  const std::string panel = carbon + "--size 400,300 --force -5,0,1 ";
  for (const std::string against : {"--against a=200:600:5", "--against a=200:600:3 --against angle:2=0:90:4"}) {
    CHECK(run(panel + against + " --chart chart.svg", folder.path()).status == 0);
    CHECK(read_file(folder / "chart.svg").size() > 10000);
    CHECK(run(panel + against + " --chart chart.pdf", folder.path()).status == 0);
    const test::Run text = test::run("pdftotext -layout chart.pdf -", folder.path());
    CHECK(has(text.out, "length a, mm"));
    CHECK(has(text.out, "largest"));
    const test::Run printed = run(panel + against + " --chart chart.csv", folder.path());
    REQUIRE(printed.status == 0);
    const Json told = json(panel + against)["against"];
    const std::string table = read_file(folder / "chart.csv");
    CHECK(static_cast<std::size_t>(std::count(table.begin(), table.end(), '\n')) == told["points"].size() + 1);
    const double least = told["points"].back()["margins"][0]["factor"];
    CHECK(has(table.substr(table.rfind('\n', table.size() - 2)), fmt::format("\n{:.9g},", least)));
  }
  const auto says = [&](const std::string& options, const std::string& code, const std::string& words) {
    const test::Run refused = run(options, folder.path());
    INFO(options << "\n" << refused.err);
    CHECK(refused.status == 1);
    CHECK(has(refused.err, code));
    CHECK(has(refused.err, words));
  };
  says(panel + "--chart none.svg", "against.form", "--against core=5:40");
  CHECK(!std::filesystem::exists(folder / "none.svg"));
  says(panel + "--against a", "against.form", "'a' does not say");
  says(panel + "--against a=1", "against.form", "from where to where");
  says(panel + "--against a=x:2", "against.form", "from where to where");
  says(panel + "--against a=1:2:3:4", "against.form", "from where to where");
  says(panel + "--against a=1:2:1", "against.form", "2 to 201");
  says(panel + "--against a=1:2:1e9", "against.form", "2 to 201");
  says(panel + "--against a=1:2:x", "against.form", "2 to 201");
  says(panel + "--against a=1:nan", "against.form", "from where to where");
  says(panel + "--against core=5:40", "against.unknown", "one of angle:1");
  says(panel + "--against angle:9=0:90", "against.unknown", "did you mean 'angle:");
  says(panel + "--against a=0:2", "against.range", "above nought");
  says(panel + "--against a=5:2", "against.range", "to a larger one");
  says(panel + "--against count:1=0.5:2", "against.range", "whole number");
  says(panel + "--against count:1=0:1e9", "against.range", "200 at most");
  says(panel + "--against angle:1=0:1e9", "against.range", "360 at most");
  says(panel + "--against a=1:2 --against a=1:3", "against.form", "varies twice");
  says(panel + "--against angle:1=1:2 --against angle:8=1:3", "against.form", "varies twice");
  says(panel + "--against a=1:2 --against b=1:2 --against angle:1=0:9", "against.form", "one number varies, or two");
  says("column '[0/90]s' --material carbon-ud --shape C --size 60,30 --length 900 --force -1 --against size:3=1:2",
       "against.unknown", "size:2");
  const test::Run both = run(panel + "--against core=5:40 --against a=1", folder.path());
  CHECK(has(both.err, "against.unknown"));
  CHECK(has(both.err, "against.form"));
  // In a file, too.
  folder.write("p.toml",
               "laminate = \"[0/±45/90]s\"\nmaterial = \"carbon-ud\"\nsize = [400, 300]\nforce = [-5, 0, 1]\n"
               "against = [\"a=200:600:3\", \"count:1=1:3\"]\nsensitivities = true\n");
  const Json told = json("panel p.toml", folder.path());
  CHECK(told["against"]["varied"].size() == 2);
  CHECK(!told["sensitivities"].empty());
}

TEST_CASE("bad input of a column: one clear message each, where it stands, several at once") {
  const auto says = [](const std::string& what, const std::string& code, const std::string& words) {
    const test::Run run = of_cli_by_hand::run("column '[0/90]s' --material carbon-ud " + what);
    INFO(what << "\n" << run.out << run.err);
    CHECK(run.status != 0);
    CHECK(run.out.empty());
    CHECK(has(run.err, code));
    CHECK(has(run.err, words));
  };
  says("--length 900", "column.shape", "hat");
  says("--shape C --size 60,30", "column.length", "--length 1500");
  says("", "2 errors", "column.length");
  says("--shape C --size 60 --length 900", "column.size", "web, flange");
  says("--shape C --size 60,-3 --length 900", "column.size", "above nought");
  says("--shape D --size 60,3 --length 900", "command.arguments", "hat");
  says("--shape C --size 60,30 --length 900 --ends pinned,free", "column.cannot", "held by one fixed end");
  says("--shape C --size 60,30 --length -1", "command.arguments", "length");
  says("--shape C --size 60,30 --length 900 --force inf", "command.arguments", "no number");
  const Folder folder;
  const auto file = [&](const std::string& text, std::initializer_list<const char*> words) {
    folder.write("c.toml", text);
    const test::Run run = of_cli_by_hand::run("column c.toml", folder.path());
    INFO(text << "\n" << run.out << run.err);
    CHECK(run.status == 1);
    for (const char* const word : words) CHECK(has(run.err, word));
  };
  const std::string good = "material = \"carbon-ud\"\nlaminate = \"[0/90]s\"\nlength = 900\n";
  file(good + "[[wall]]\nfrom = [0, 0]\ntoo = [0, 3]\n[[wall]]\nfrom = [0]\nto = [1, \"x\"]\n",
       {"c.toml:6", "did you mean 'to'?", "'to' is missing", "c.toml:8", "c.toml:9", "two numbers", "4 errors"});
  file(good + "shape = \"C\"\nsize = [60, 30]\n[[wall]]\nfrom = [0, 0]\nto = [0, 30]\n", {"column.shape", "not both"});
  file(good + "[[wall]]\nfrom = [0, 0]\nto = [0, 30]\n[[wall]]\nfrom = [5, 0]\nto = [9, 30]\n",
       {"column.cannot", "hang together"});
  file(good + "[[wal]]\nfrom = [0, 0]\nto = [0, 30]\n", {"options.key-unknown", "[wal]", "c.toml:4", "tables: wall"});
  file("material = \"carbon-ud\"\nlength = 900\n[[wall]]\nfrom = [0, 0]\nto = [0, 30]\n",
       {"a wall has a laminate", "c.toml:3"});
  // Plies at an angle without their opposite: it is said what is left out.
  const test::Run run =
      of_cli_by_hand::run("column '[30/30]' --material carbon-ud --shape C --size 60,30 --length 900 --force -1");
  CHECK(run.status == 0);
  CHECK(has(run.err, "column.unbalanced"));
}

TEST_CASE("loads of any size, and out of range: the same factors scaled, refused beyond 1e30, said where theory ends") {
  const std::string panel = carbon + "--size 400,300 ",
                    column = "column '[0/±45/90]s' --material carbon-ud --shape C --size 60,30 --length 900 ";
  const double one = json(panel + "--force -1,0.5,0")["buckling"]["forward"]["value"];
  for (const double size : {1e-20, 1e-6, 1e20})
    CHECK(near(size * json(panel + fmt::format("--force {0},{1},0", -size, 0.5 * size))["buckling"]["forward"]["value"]
                          .get<double>(),
               one, 1e-7));
  CHECK(json(panel + "--force -1e-20,0,0")["margins"].empty());
  CHECK(json(column + "--force -1e-20")["margins"].empty());
  for (const std::string& bad : {panel + "--force -1e31,0,0", panel + "--force -1e-31,0,0", panel + "--pressure 1e31",
                                 carbon + "--size 1e31,3", column + "--force 1e31", column + "--line-load 0,1e31"}) {
    const test::Run run = of_cli_by_hand::run(bad);
    INFO(bad << run.out << run.err);
    CHECK(run.status == 1);
    CHECK(has(run.err, "1e30") != has(run.err, "above nought"));
  }
  const auto warns = [](const std::string& what, const std::string& code) {
    const test::Run run = of_cli_by_hand::run(what);
    INFO(what << "\n" << run.out << run.err);
    CHECK(run.status == 0);
    CHECK(has(run.err, code));
  };
  warns(carbon + "--size 10,300 --force -1,0,0", "panel.thick");
  warns(panel + "--pressure 0.1", "panel.bends-far");
  warns("column '[0/±45/90]s' --material carbon-ud --shape C --size 60,30 --length 100 --force -1", "column.short");
  warns("column '[0/±45/90]s' --material carbon-ud --shape C --size 60,5 --length 900 --force -1",
        "column.thick-walls");
}

}  // namespace of_cli_by_hand
