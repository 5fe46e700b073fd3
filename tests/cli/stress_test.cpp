// What plies bear, through the program: reserves, places, tables, answers that are not there or are others.
#include "cases.hpp"

#include <nlohmann/json.hpp>

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
  CHECK(has(run("--warmed -5000 --envelope a.svg").err, "[strength.no-envelope]"));
  CHECK(run("--criterion nonsense --force 1,0,0").status == 2);
}
