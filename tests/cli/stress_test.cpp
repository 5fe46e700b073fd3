// What plies bear, through the program: reserves, places, tables, answers that are not there or are others.
#include "cases.hpp"

#include <bordado/base/files.hpp>
#include <bordado/mesh/io.hpp>

#include <nlohmann/json.hpp>

namespace of_cli_stress {

using namespace bordado;
using Json = nlohmann::json;
using test::Folder;
using test::Grid;

namespace {

struct Strip {
  Folder folder;
  Strip() {
    folder.write("grid.msh", test::msh(Grid::rectangle(8, 2, 80, 20)));
    std::string text = test::known_part("[0/90]s", R"(
[support.left]
on = "left"
hold = "clamped"
[load.tip]
on = "right"
force = [0, 0, 5]
[load.pull]
on = "right"
force = [100, 0, 0]
[case.bent]
loads = ["tip"]
[case.pulled]
loads = { pull = 2 }
[case.hum]
analysis = "frequencies"
)");
    folder.write("strip.toml", text);
  }
  test::Run run(const std::string& what) const {
    return test::run(fmt::format("'{}' {}", test::program(), what), folder.path());
  }
  Json json(const std::string& what) const {
    const test::Run run = this->run(what + " --json");
    INFO(run.out << run.err);
    CHECK(run.status == 0);
    return Json::parse(run.out);
  }
};

bool has(const std::string& text, const std::string& what) { return text.find(what) != std::string::npos; }

}  // namespace

TEST_CASE("solve ends with what fails first, and stress tells the same from the answers") {
  const Strip strip;
  const Json solved = strip.json("solve strip.toml --criterion tsai-wu --criterion maximum-stress");
  const Json told = strip.json("stress strip.toml --criterion tsai-wu --criterion maximum-stress");
  CHECK(solved["reserves"] == told["reserves"]);
  CHECK(told["cases"] == Json({"bent", "pulled"}));
  const Json& first = told["reserves"]["first"];
  for (const Json& one : told["reserves"]["of_criteria"]) CHECK(first["factor"] <= one["factor"]);
  CHECK(told["reserves"]["of_cases"].size() == 2);
  CHECK(told["reserves"]["of_plies"].size() == 4);

  // At the place of the first, the same ply fails at the same factor.
  const Json place =
      strip.json(fmt::format("stress strip.toml --criterion tsai-wu --criterion maximum-stress --element {}",
                             first["element"].get<int>()))["place"];
  CHECK(place["failing"][0]["factor"] == first["factor"]);
  CHECK(place["failing"][0]["ply"] == first["ply"]);
  CHECK(place["case"] == first["case"]);
  CHECK(place["layers"].size() == 12);

  const test::Run text = strip.run("stress strip.toml --criterion tsai-wu");
  CHECK(text.status == 0);
  CHECK(has(text.out, "reserve: times the loads (temperatures held) until"));
  CHECK(has(text.out, "tsai-wu"));
  // Strengths that the usual criteria would want are told, before the solver is asked.
  const test::Run usual = strip.run("solve strip.toml --case pulled");
  CHECK(has(usual.out, "material 'known' says no S13, S23: it is not judged by interlaminar-shear [strength.missing]"));
  // One case alone: its name is not needed.
  CHECK(strip.json("stress strip.toml --case bent")["cases"] == Json({"bent"}));
}

TEST_CASE("what was recovered is written as a table and as fields, and drawn") {
  const Strip strip;
  // Modes that were not solved are passed over.
  REQUIRE(strip.run("solve strip.toml --case bent --case pulled").status == 0);
  REQUIRE(strip.run("stress strip.toml --write static.vtu").status == 0);
  REQUIRE(strip.run("solve strip.toml").status == 0);
  REQUIRE(strip.run("stress strip.toml --write all.csv").status == 0);
  const std::string table = read_file(strip.folder / "all.csv");
  CHECK(table.starts_with("case,element,layer,ply,material,place,z mm,s1 ply MPa,s2 ply MPa"));
  // Two cases, sixteen elements, four plies at three places, and the headings.
  CHECK(std::count(table.begin(), table.end(), '\n') == 2 * 16 * 4 * 3 + 1);
  REQUIRE(strip.run("stress strip.toml --write all.vtu").status == 0);
  Findings findings;
  const mesh::Sampled fields = mesh::read_sampled(strip.folder / "all.vtu", {}, findings);
  std::vector<std::string> names;
  for (const mesh::Array& array : fields.arrays) names.push_back(array.name);
  for (const std::string name :
       {"reserve", "critical ply", "bent: displacement mm", "pulled: Nx section N/mm", "bent: Mx section N"})
    CHECK_MESSAGE(std::count(names.begin(), names.end(), name) == 1, name);
  // A ply's stresses, and the shapes of modes, where they are asked for; a table of that ply only.
  REQUIRE(strip.run("stress strip.toml --write plies.vtu --ply P.2").status == 0);
  const mesh::Sampled more = mesh::read_sampled(strip.folder / "plies.vtu", {}, findings);
  std::size_t stresses = 0, shapes = 0;
  for (const mesh::Array& array : more.arrays) {
    stresses += has(array.name, "P.2 ");
    shapes += has(array.name, "hum: mode ");
    if (array.name == "pulled: P.2 middle: s2 ply MPa") CHECK(array.values[9] > 0.0);
  }
  CHECK(stresses == 2 * 3 * (5 + 6 + 6));  // at three places: of the ply, of the section, of the part
  CHECK(shapes == 6);
  REQUIRE(strip.run("stress strip.toml --write ply.csv --ply P.2").status == 0);
  const std::string own = read_file(strip.folder / "ply.csv");
  CHECK(std::count(own.begin(), own.end(), '\n') == 2 * 16 * 3 + 1);
  CHECK(has(strip.run("stress strip.toml --write no.csv --ply P.9").err, "[stress.ply-unknown]"));
  // Pulled by 2 x 100 N over 20 mm.
  for (const mesh::Array& array : fields.arrays)
    if (array.name == "pulled: Nx section N/mm") CHECK(test::off(array.values[9], 10.0) < 0.01);
  for (const std::string drawing : {"through.svg", "through.pdf"}) {
    CHECK(strip.run("stress strip.toml --draw " + drawing).status == 0);
    CHECK(std::filesystem::file_size(strip.folder / drawing) > 2000);
  }
  const test::Run ending = strip.run("stress strip.toml --write all.txt");
  CHECK(ending.status == 1);
  CHECK(has(ending.err, "'all.txt' ends neither in .csv nor in .vtu [results.ending-unknown]"));
  CHECK(!std::filesystem::exists(strip.folder / "all.txt"));
}

TEST_CASE("what is left by rounding is nought, and what bears any load has no reserve") {
  const Strip strip;
  Findings unheard;
  const Design design = open(strip.folder / "strip.toml", unheard);
  const auto table = [&](const std::string& name, const std::string& loads) {
    std::string text = "element,Nx,Ny,Nxy,Mx,My,Mxy\n";
    for (const std::int64_t id : design.surface.element_ids) text += fmt::format("{},{},0,0,0\n", id, loads);
    strip.folder.write(name, text);
  };
  table("rounded.csv", "10,3e-12,1e-10");
  table("pulled.csv", "10,0,0");
  table("unloaded.csv", "1e-12,0,0");
  const Json rounded = strip.json(
      fmt::format("stress strip.toml --from rounded.csv --element {}", design.surface.element_ids[5]))["place"];
  CHECK(test::near(rounded["N"][0].get<double>(), 10.0, 1e-9));
  CHECK(rounded["N"][1] == 0.0);  // below 1e-12 of the largest
  CHECK(test::near(rounded["N"][2].get<double>(), 1e-10, 1e-4));
  CHECK(rounded["M"] == Json({0.0, 0.0, 0.0}));
  const std::string judged = "stress strip.toml --criterion maximum-stress --from ";
  CHECK(strip.json(judged + "pulled.csv")["reserves"]["first"]["factor"] > 1.0);
  CHECK(strip.json(judged + "unloaded.csv")["reserves"]["first"].is_null());
  CHECK(strip.json(judged + "unloaded.csv")["reserves"]["of_plies"].empty());
}

TEST_CASE("answers that are not there, or are of another deck, are refused") {
  const Strip strip;
  const test::Run none = strip.run("stress strip.toml");
  CHECK(none.status == 1);
  CHECK(has(none.err, "case 'bent' has no answer './strip-bent.dat' [result.none]"));
  CHECK(has(none.err, "solve it first: bordado solve strip.toml --folder ."));
  REQUIRE(strip.run("solve strip.toml").status == 0);
  CHECK(
      has(strip.run("stress strip.toml --case hum").err, "there is no static case to tell stresses of [result.none]"));
  std::string text = read_file(strip.folder / "strip.toml");
  text.replace(text.find("[0/90]s"), 7, "[90/0]s");
  strip.folder.write("strip.toml", text);
  const test::Run other = strip.run("stress strip.toml");
  CHECK(other.status == 1);
  CHECK(has(other.err, "the answer is of another deck"));
  CHECK(has(other.err, "[result.other-deck]"));
  // Strains that nothing bears are told, wherever they come from.
  std::string table = "element,ex,ey,gxy,kx,ky,kxy\n";
  const Design design = [&] {
    Findings unheard;
    return open(strip.folder / "strip.toml", unheard);
  }();
  for (const std::int64_t id : design.surface.element_ids) table += fmt::format("{},3,0,0,0,0,0\n", id);
  strip.folder.write("absurd.csv", table);
  CHECK(has(strip.run("stress strip.toml --from absurd.csv").out,
            "is strained by 3, which nothing bears [result.strain-unlikely]"));
  // Real plies are another deck, too.
  REQUIRE(strip.run("solve strip.toml --real-plies").status == 0);
  CHECK(strip.run("stress strip.toml --real-plies").status == 0);
  CHECK(strip.run("stress strip.toml").status == 0);  // as the deck's record says
  std::filesystem::remove(strip.folder / "strip-bent-inp-run.json");
  std::filesystem::remove(strip.folder / "strip-pulled-inp-run.json");
  std::filesystem::remove(strip.folder / "strip-hum-inp-run.json");
  CHECK(has(strip.run("stress strip.toml").err, "[result.other-deck]"));
  CHECK(strip.run("stress strip.toml --real-plies").status == 0);
}

TEST_CASE("laminate tells what it bears, goes on to the end, and draws envelopes") {
  const Folder folder;
  const auto run = [&](const std::string& what) {
    return test::run(fmt::format("'{}' laminate '[0/90]s' --material carbon-ud {}", test::program(), what),
                     folder.path());
  };
  const test::Run bears = run("--force 100,0,0 --criterion tsai-wu --discount");
  CHECK(bears.status == 0);
  CHECK(has(bears.out, "reserve: times the load, until"));
  CHECK(has(bears.out, "matrix tension"));
  CHECK(has(bears.out, "ply discount, an estimate: first failure at"));
  const Json json = Json::parse(run("--force 100,0,0 --criterion tsai-wu --discount --json").out);
  const Json& strength = json["strength"];
  CHECK(strength["failing"][0]["factor"] == strength["discount"]["first"]);
  CHECK(strength["discount"]["ultimate"] >= strength["discount"]["first"]);
  CHECK(Json::parse(run("--warmed -50 --json").out)["strength"].is_null());
  for (const std::string file : {"bears.svg", "bears.pdf", "bears.csv"})
    CHECK(run("--criterion puck --criterion hoffman --between Nx,Nxy --envelope " + file).status == 0);
  const std::string points = read_file(folder / "bears.csv");
  CHECK(points.starts_with("criterion,Nx N/mm,Nxy N/mm,layer,ply,mode\npuck,"));
  CHECK(has(points, "\nhoffman,"));
  CHECK(has(run("--between Nx,Nx --envelope a.svg").err, "[strength.components]"));
  CHECK(has(run("--between Nx,Q --envelope a.svg").err, "[strength.components]"));
  CHECK(has(run("--warmed 5000 --envelope a.svg").err, "[strength.no-envelope]"));
  CHECK(run("--criterion nonsense --force 1,0,0").status == 2);
}

TEST_CASE("one deck of several cases, solved elsewhere, is read by its listing or where deck put it") {
  const Strip strip;
  const Json solved = strip.json("solve strip.toml --folder . --criterion tsai-wu");
  const auto elsewhere = [&](const std::string& folder, const std::string& more) {
    std::filesystem::create_directory(strip.folder / folder);
    REQUIRE(strip.run(fmt::format("deck strip.toml --format calculix --folder {} {}", folder, more)).status == 0);
    const test::Run run = test::run("ccx strip", strip.folder / folder);
    INFO(run.out << run.err);
    REQUIRE(has(run.out, "Job finished"));
  };
  // All cases in one deck, beside it the answer: where a case has no answer of its own it is found.
  elsewhere("all", "");
  const Json together = strip.json("stress strip.toml --folder all --criterion tsai-wu");
  CHECK(together["cases"] == Json({"bent", "pulled"}));
  const double own = solved["reserves"]["first"]["factor"], other = together["reserves"]["first"]["factor"];
  CHECK(test::off(own, other) < 1e-4);
  CHECK(strip.run("summary strip.toml --folder all -o all.html").status == 0);
  // A listing by its name, whatever it is called.
  std::filesystem::rename(strip.folder / "all/strip.dat", strip.folder / "from-the-cluster.txt");
  const Json named = strip.json("stress strip.toml --answer from-the-cluster.txt --criterion tsai-wu");
  CHECK(named["reserves"] == together["reserves"]);
  CHECK(strip.json("stress strip.toml --answer from-the-cluster.txt --case pulled")["cases"] == Json({"pulled"}));
  // Of a deck with some of the cases these are to be named; one of a single case is found out.
  elsewhere("some", "--case bent");
  CHECK(strip.json("stress strip.toml --answer some/strip.dat")["cases"] == Json({"bent"}));
  elsewhere("two", "--case pulled --case hum");
  const test::Run unnamed = strip.run("stress strip.toml --answer two/strip.dat");
  CHECK(unnamed.status == 1);
  CHECK(has(unnamed.err, "[result.other-deck]"));
  CHECK(has(unnamed.err, "name with --case the cases that its deck holds"));
  CHECK(strip.json("stress strip.toml --answer two/strip.dat --case pulled --case hum")["cases"] == Json({"pulled"}));
  // What is no answer, and what does not go together.
  strip.folder.write("letter.txt", "Dear all,\n");
  CHECK(has(strip.run("stress strip.toml --answer letter.txt").err, "the answer says of no deck whose it is"));
  CHECK(has(strip.run("stress strip.toml --answer nothing.dat").err, "[file."));
  CHECK(has(strip.run("stress strip.toml --from a.csv --answer b.dat").err, "[deck.choices]"));
  CHECK(has(strip.run("stress strip.toml --solids ply --real-plies").err, "[deck.choices]"));
}

TEST_CASE("solids: reserves with solve, stresses with stress, beside shells with runs, in the page") {
  const Strip strip;
  REQUIRE(strip.run("solve strip.toml --folder .").status == 0);
  std::filesystem::create_directory(strip.folder / "solids");
  const Json solved = strip.json("solve strip.toml --solids ply --folder solids --criterion maximum-stress");
  const Json told = strip.json("stress strip.toml --solids ply --folder solids --criterion maximum-stress");
  CHECK(solved["reserves"] == told["reserves"]);
  CHECK(told["reserves"]["of_plies"].size() == 4);
  const Json place = strip.json("stress strip.toml --solids ply --folder solids --case pulled --element 30")["place"];
  // Pulled by 2 x 100 N over 20 mm.
  CHECK(test::off(place["N"][0].get<double>(), 10.0) < 0.02);
  CHECK(place["layers"].size() == 12);
  CHECK(place["layers"][0].contains("ply_through"));
  CHECK(has(strip.run("stress strip.toml --solids ply --folder solids --element 30").out, "s3"));
  // The deck of shells is another.
  CHECK(has(strip.run("stress strip.toml --solids ply --folder .").err, "[result.other-deck]"));
  CHECK(has(strip.run("stress strip.toml --solids 2 --rough-solids --folder solids").err, "[result.other-deck]"));
  REQUIRE(strip.run("stress strip.toml --solids ply --folder solids --write s.csv").status == 0);
  CHECK(has(read_file(strip.folder / "s.csv"), ",t23 ply MPa,s3 ply MPa,"));
  REQUIRE(strip.run("stress strip.toml --solids ply --folder solids --write s.vtu").status == 0);
  Findings findings;
  std::vector<std::string> names;
  for (const mesh::Array& array : mesh::read_sampled(strip.folder / "s.vtu", {}, findings).arrays)
    names.push_back(array.name);
  for (const std::string name : {"bent: rotation rad", "bent: reaction N", "pulled: Nx section N/mm"})
    CHECK_MESSAGE(std::count(names.begin(), names.end(), name) == 1, name);
  CHECK(strip.run("stress strip.toml --solids ply --folder solids --draw s.svg").status == 0);
  const Json runs = strip.json("runs strip.toml strip.toml --folder . --folder solids --solids - --solids ply");
  bool deflections = false;
  for (const Json& figure : runs["figures"])
    if (figure["name"] == "deflection, bent") {
      deflections = true;
      CHECK(test::off(figure["values"][0].get<double>(), figure["values"][1].get<double>()) < 0.03);
    }
  CHECK(deflections);
  CHECK(
      strip.run("runs strip.toml strip.toml --folder . --folder solids --solids - --solids ply --write d.vtu").status ==
      0);
  CHECK(strip.run("summary strip.toml --solids ply --folder solids -o s.html").status == 0);
}

TEST_CASE("real runs: the rudder's first failing ply is named with its place and way of failing") {
  const Folder folder;
  const test::Run run = test::run(fmt::format("'{}' solve '{}' --case broach --folder . --json", test::program(),
                                              test::source("examples/rudder/rudder.toml")),
                                  folder.path());
  INFO(run.err);
  REQUIRE(run.status == 0);
  const Json first = Json::parse(run.out)["reserves"]["first"];
  Findings findings;
  const Design design = open(test::source("examples/rudder/rudder.toml"), findings);
  CHECK(std::any_of(design.part.plies.begin(), design.part.plies.end(),
                    [&](const part::Ply& ply) { return ply.id == first["ply"].get<std::string>(); }));
  CHECK(!first["mode"].get<std::string>().empty());
  CHECK(first["doubtful"] == false);
  CHECK(first["factor"].get<double>() > 1.0);
  // The same by hand from what its section bears: the stack there under N and M fails at that factor, where no edge
  // of a ply crosses the element.
  const Json place = Json::parse(
      test::run(fmt::format("'{}' stress '{}' --case broach --folder . --element {} --json", test::program(),
                            test::source("examples/rudder/rudder.toml"), first["element"].get<int>()),
                folder.path())
          .out)["place"];
  CHECK(place["failing"][0]["factor"] == first["factor"]);
  CHECK(place["failing"][0]["ply"] == first["ply"]);
}

TEST_CASE("where all that fails lies beside a step of thickness, every command says so and says the same") {
  const Folder folder;
  folder.write("grid.msh", test::msh(Grid::rectangle(2, 2, 6, 20)));
  folder.write("step.toml", R"([part]
name = "Step"
units = "mm, t, s"
mesh = { file = "grid.msh", length = "mm" }
surface = "bottom"
side = { along = [0, 0, 1] }
[material.ud]
from = "carbon-ud"
thickness = 1
[frame.x]
vector = [1, 0, 0]
[zone.half]
box = { from = [-1, -1, -1], to = [3, 100, 1] }
[layup]
frame = "x"
material = "ud"
plies = [ { id = "A", angle = 0 }, { id = "B", angle = 90 }, { id = "C", angle = 0, zone = "half" } ]
[support.left]
on = "left"
hold = "clamped"
[load.pull]
on = "right"
force = [100, 0, 0]
)");
  const auto json = [&](const std::string& what) {
    const test::Run run = test::run(fmt::format("'{}' {} step.toml --json", test::program(), what), folder.path());
    INFO(run.out << run.err);
    CHECK(run.status == 0);
    return Json::parse(run.out);
  };
  const Json solved = json("solve"), told = json("stress"), summed = json("summary");
  CHECK(told["reserves"] == solved["reserves"]);
  const Json& reserves = told["reserves"];
  CHECK(reserves["elements_below_one"] == 0);
  CHECK(reserves["doubtful_elements"] == 4);
  CHECK(reserves["first"].is_null());
  REQUIRE(reserves["of_cases"].size() == 1);
  const Json& of_case = reserves["of_cases"][0];
  CHECK(of_case["doubtful"] == true);
  CHECK(of_case["doubt"] == "beside a step");
  CHECK(reserves["elements_at_points"] == 0);
  CHECK(of_case["factor"] == reserves["of_plies"][0]["factor"]);
  CHECK(reserves["of_materials"][0]["least"].is_null());
  CHECK(of_case["factor"] == reserves["of_materials"][0]["beside_steps"]["factor"]);
  bool found = false;
  for (const Json& table : summed["tables"]) {
    if (table["title"] != "Static cases") continue;
    found = true;
    REQUIRE(table["rows"].size() == 1);
    const std::string fails = table["rows"][0][4].get<std::string>(), factor = table["rows"][0][3].get<std::string>();
    CHECK(has(fails, of_case["mode"].get<std::string>() + ", beside a step"));
    CHECK(test::near(std::stod(factor), of_case["factor"].get<double>(), 1e-3));
  }
  CHECK(found);
  const test::Run text = test::run(fmt::format("'{}' stress step.toml", test::program()), folder.path());
  CHECK(has(text.out, "all that fails lies beside a step of thickness"));
}

}  // namespace of_cli_stress
