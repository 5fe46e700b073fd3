// Cases, models and decks that exist, through the program.
#include "cases.hpp"

#include <bordado/base/files.hpp>

#include <nlohmann/json.hpp>

namespace of_cli_cases {

using namespace bordado;
using test::Folder;
using test::Grid;

namespace {

const std::string conditions = R"(
[support.left]
on = "left"
hold = "clamped"
[support.right]
on = "right"
hold = ["z"]
[load.tip]
on = "right"
force = [1, 0, 0]
[load.press]
on = "plate"
face = "tool"
pressure = "1 kPa"
[case.pull]
loads = ["tip"]
[case.press]
loads = { press = 2, tip = 1 }
[case."loose end"]
loads = ["press"]
supports = ["left"]
[case.hum]
analysis = "frequencies"
count = 3
)";

struct Strip {
  Folder folder;
  std::string part;
  Strip() {
    folder.write("grid.msh", test::msh(Grid::rectangle(6, 2, 60, 20)));
    part = folder.write("strip.toml", test::case_part("[0/90]s", conditions));
  }
  test::Run run(const std::string& what) const {
    return test::run(fmt::format("'{}' {}", test::program(), what), folder.path());
  }
};

}  // namespace

TEST_CASE("deck parts cases by what one deck can hold, and says what acts") {
  const Strip strip;
  const test::Run all = strip.run("deck strip.toml --folder . --no-ply-results");
  INFO(all.out << all.err);
  CHECK(all.status == 0);
  for (const std::string name : {"strip-pull.inp", "strip-loose_end.inp", "strip.bdf", "strip-frequencies.bdf",
                                 "strip-pull-inp-names.json", "strip-bdf-names.json"})
    CHECK_MESSAGE(std::filesystem::exists(strip.folder / name), name);
  CHECK(all.out.find("press") != std::string::npos);
  CHECK(all.out.find("moment about the origin N mm") != std::string::npos);
  CHECK(read_file(strip.folder / "strip-pull.inp").find("** case hum: frequencies") != std::string::npos);
  const auto names = nlohmann::json::parse(read_file(strip.folder / "strip-pull-inp-names.json"));
  bool step = false;
  for (const auto& one : names["names"]) step = step || (one["name"] == "step 3" && one["of"] == "case hum");
  CHECK(step);
}

TEST_CASE("solve runs the cases asked for and tells each in its own way") {
  const Strip strip;
  const test::Run run = strip.run("solve strip.toml --case hum --case press --json --no-ply-results");
  INFO(run.out << run.err);
  REQUIRE(run.status == 0);
  const auto answer = nlohmann::json::parse(run.out);
  REQUIRE(answer["cases"].size() == 2);
  CHECK(answer["cases"][0]["case"] == "press");
  CHECK(test::off(answer["cases"][0]["load"][2].get<double>(), 2e-3 * 60 * 20) < 1e-9);
  CHECK(answer["cases"][1]["modes"].size() == 3);
  CHECK(answer["cases"][1]["modes"][0]["frequency"].get<double>() > 0);
  CHECK(std::filesystem::exists(strip.folder / "strip-hum.dat"));
  // A second run replaces its own answers, those of frequencies, too.
  CHECK(strip.run("solve strip.toml --case hum --no-ply-results").status == 0);
  const test::Run text = strip.run("solve strip.toml --case hum --no-ply-results");
  CHECK(text.out.find("Test: hum, frequencies") != std::string::npos);
  CHECK(text.out.find("frequency 1/s") != std::string::npos);
  const test::Run unknown = strip.run("solve strip.toml --case hun");
  CHECK(unknown.status == 1);
  CHECK(unknown.err.find("did you mean 'hum'?") != std::string::npos);
}

TEST_CASE("choices that do not go together are refused") {
  const Strip strip;
  for (const std::string choices :
       {"deck strip.toml --solids 2 --real-plies", "deck strip.toml --laminate-only --case hum",
        "solve strip.toml --solids material --real-plies"}) {
    const test::Run run = strip.run(choices);
    INFO(choices << ": " << run.err);
    CHECK(run.status == 1);
    CHECK(run.err.find("do not go together [deck.choices]") != std::string::npos);
  }
  CHECK(strip.run("deck strip.toml --solids none").status == 2);
  CHECK(strip.run("deck strip.toml --solids 0").status == 2);
}

TEST_CASE("a solve that is interrupted leaves neither solver nor folder behind") {
  const Strip strip;
  strip.folder.write("slow", "#!/bin/sh\nsleep 30\n");
  std::filesystem::permissions(strip.folder / "slow", std::filesystem::perms::owner_all);
  const test::Run run =
      test::run(fmt::format("timeout -s INT 2 '{}' solve strip.toml --solver ./slow --side-by-side 2", test::program()),
                strip.folder.path());
  CHECK(run.status != 0);
  for (const auto& entry : std::filesystem::directory_iterator(strip.folder.path()))
    CHECK(!entry.path().filename().string().starts_with(".bordado"));
  CHECK(test::run("pgrep -f '^/bin/sh ./slow' || true").out.empty());
}

TEST_CASE("a laminate goes into a deck by the command, too") {
  const Strip strip;
  REQUIRE(strip.run("deck strip.toml --format calculix --case press --folder . --no-ply-results").status == 0);
  std::string part = read_file(strip.part);
  part.replace(part.find("grid.msh"), 8, "strip.inp");
  part.replace(part.find("[0/90]s"), 7, "[45/-45]s");
  strip.folder.write("other.toml", part);
  const test::Run run = strip.run("deck other.toml --into strip.inp --folder .");
  INFO(run.out << run.err);
  CHECK(run.status == 0);
  CHECK(std::filesystem::exists(strip.folder / "strip-laminated.inp"));
  CHECK(read_file(strip.folder / "strip-laminated.inp").find("*STEP") != std::string::npos);
  CHECK(strip.run("deck other.toml --into none.inp").status != 0);
  CHECK(strip.run("deck other.toml --into other.toml").status == 1);
}

TEST_CASE("solids as the laminate only: a mesh and sections, to be included in a deck with supports and loads") {
  const Strip strip;
  const test::Run run = strip.run("deck strip.toml --solids ply --laminate-only --folder .");
  INFO(run.out << run.err);
  REQUIRE(run.status == 0);
  const std::string calculix = read_file(strip.folder / "strip-laminate.inp");
  CHECK(calculix.find("*ELEMENT, TYPE=C3D20R") != std::string::npos);
  CHECK(calculix.find("*SOLID SECTION") != std::string::npos);
  for (const char* const card : {"*STEP", "*BOUNDARY", "*CLOAD"}) CHECK(calculix.find(card) == std::string::npos);
  const std::string bulk = read_file(strip.folder / "strip-laminate.bdf");
  CHECK(bulk.find("CHEXA") != std::string::npos);
  for (const char* const card : {"SOL 101", "SUBCASE", "SPC1", "FORCE", "BEGIN BULK", "ENDDATA"})
    CHECK(bulk.find(card) == std::string::npos);
  // Included, it solves: held at one end by its own element sets' nodes, weighed.
  strip.folder.write("whole.inp",
                     "*INCLUDE, INPUT=strip-laminate.inp\n*BOUNDARY\nNALL,1,2\n1,3,3\n*STEP\n*STATIC\n*DLOAD\n"
                     "EALL,GRAV,9810.,0.,0.,-1.\n*NODE PRINT, NSET=NALL\nU\n*END STEP\n");
  const test::Run solver = test::run("ccx -i whole", strip.folder.path());
  CHECK(solver.out.find("Job finished") != std::string::npos);
}

TEST_CASE("solids refuse sections that are fewer than laminates") {
  const Folder folder;
  const test::Run run =
      test::run(fmt::format("'{}' deck '{}' --solids 4 --most-sections 20 --folder '{}'", test::program(),
                            test::source("examples/skiff/skiff.toml"), folder.path()));
  CHECK(run.status == 1);
  CHECK(run.err.find("[solid.sections]") != std::string::npos);
}

}  // namespace of_cli_cases
