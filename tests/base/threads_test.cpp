// The same bytes whatever the number of threads, the folder, the time and the language of the machine: every command on a
// part that is many blocks large.
#include "support.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <fstream>
#include <map>
#include <thread>

namespace of_base_threads {

using namespace bordado;
using test::Grid;

namespace {

std::string text_of(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

/// A dome of 616 quadrilaterals with shapes, distances, a blend, a ply that varies, edges and a curve.
void write_part(const test::Folder& folder) {
  folder.write("dome.msh", test::msh({.nx = 28, .ny = 22, .map = [](double u, double v) {
                                        return Vec3(1000 * u, 800 * v, 300 * std::sin(2 * u) * std::cos(v));
                                      }}));
  folder.write(
      "dome.toml",
      "[part]\nname = \"Dome\"\nunits = \"mm, t, s\"\nmesh = { file = \"dome.msh\", length = \"mm\" }\nside = { "
      "along = [0, 0, 1] }\nsurface = \"bottom\"\n" +
          test::materials() +
          "[frame.y]\nvector = [0, 1, 0]\n[frame.edge]\nalong = \"left\"\n[frame.mixed]\nblend = { from = \"x\", "
          "to = \"y\", start = \"left\", over = 700 }\n[zone.ball]\nsphere = { centre = [500, 400, 200], radius = "
          "300 }\n[zone.near]\nnear = { of = \"front\", within = 200 }\n[layup]\nmaterial = \"ud\"\nframe = "
          "\"x\"\nplies = [ { id = \"A\", code = \"[0/45/-45/90]s\" }, { id = \"B\", angle = 0, frame = "
          "\"mixed\", zone = \"ball\" }, { id = \"C\", material = \"foam\", zone = \"near\", thickness = { of = "
          "\"back\", table = [[600, 0], [800, 12]] } }, { id = \"D\", angle = 10, frame = \"edge\" }, { id = \"E\", "
          "angle = 90, zone = \"ball\", edge = -20 }, { id = \"F\", angle = 45, zone = \"near\", edge = 15 } "
          "]\n[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.p]\non = \"ball\"\npressure = \"1 "
          "kPa\"\nface = \"bag\"\n");
}

/// What a command prints and writes, with that many threads. $O is where to write. \param as what stands before it
std::string outcome(const test::Folder& folder, const std::string& command, std::size_t threads,
                    const std::string& as = "") {
  const std::string out = folder / "out";
  std::filesystem::remove_all(out);
  std::filesystem::create_directory(out);
  const test::Run run = test::run(
      fmt::format("O=out; {} '{}' --blocks 50 --threads {} {}", as, test::program(), threads, command), folder.path());
  INFO(command << ": " << run.err);
  CHECK(run.status == 0);
  std::string all = run.out + run.err;
  std::vector<std::string> files;
  for (const auto& entry : std::filesystem::directory_iterator(out)) files.push_back(entry.path().string());
  std::sort(files.begin(), files.end());
  for (const std::string& file : files) all += std::filesystem::path(file).filename().string() + text_of(file);
  return all;
}

}  // namespace

TEST_CASE("every command gives the same bytes with one thread and with many, here and elsewhere, now and later") {
  const test::Folder folder, elsewhere;
  write_part(folder);
  REQUIRE(
      test::run(fmt::format("'{}' solve dome.toml --folder answers && cp -r . '{}'", test::program(), elsewhere.path()),
                folder.path())
          .status == 0);
  // A day later there, in another language, and at home nowhere.
  const std::string other = "env TZ=UTC-14 LANG=de_DE.UTF-8 LC_ALL=de_DE.UTF-8 LANGUAGE=de HOME=/nowhere USER=somebody";
  // What each is called with; $O is where it writes. Loops go in blocks of fifty, so that the part has many.
  const std::map<std::string, std::vector<std::string>> calls = {
      {"surface", {"dome.msh --json"}},
      {"begin", {"dome.msh -o -"}},
      {"check", {"dome.toml --json"}},
      {"zones", {"dome.toml --json"}},
      {"drape", {"dome.toml --json"}},
      {"ramps", {"dome.toml --json --lines $O/l.vtu", "dome.toml --lines $O/l.dxf"}},
      {"frames", {"dome.toml --json --write $O/f.vtu"}},
      {"at", {"dome.toml --point 500,400,200 --json"}},
      {"plies", {"dome.toml --json --write $O/p.csv", "dome.toml --draw $O/p.svg"}},
      {"fields", {"dome.toml --plies --write $O/f.vtu"}},
      {"stack", {"dome.toml --point 500,400,200 -o $O/s.svg", "dome.toml --point 500,400,200 -o $O/s.pdf"}},
      {"profile", {"dome.toml --from 100,400,150 --to 900,400,200 --json"}},
      {"picture",
       {"dome.toml --of thickness --of zones --of \"ply A.2\" --edges --lines mesh -o $O/p.png",
        "dome.toml --of displacement --of reserve --folder answers -o $O/p.svg --json", "dome.toml -o $O/p.pdf"}},
      {"review", {"dome.toml -o $O/r.html"}},
      {"diff", {"dome.toml dome.toml --json"}},
      {"cut", {"dome.toml -o $O/c.msh --json"}},
      {"laminate", {"'[0/45/90]s' --material carbon-ud --json"}},
      {"panel",
       {"'[0/45/90]s' --material carbon-ud --size 400,300 --force -50,0,10 --pressure 0.01 --json",
        "'[0/45/90]s' --material carbon-ud --size 400,300 --force -5,0,1 --sensitivities --against b=200:400:4 --json",
        "dome.toml --zone everything --size 300,200 --folder answers --json --write $O/p.vtu"}},
      {"column",
       {"'[0/45/90]s' --material carbon-ud --shape C --size 60,30 --length 900 --force -50 --line-load 0,1 --json",
        "'[0/45/90]s' --material carbon-ud --shape C --size 60,30 --length 900 --force -50 --against count:1=0:3 "
        "--json"}},
      {"material", {"list --json"}},
      {"deck", {"dome.toml --folder $O --json", "dome.toml --folder $O --most-sections 12 --real-plies"}},
      {"stress", {"dome.toml --folder answers --json", "dome.toml --folder answers --write $O/r.vtu"}},
      {"summary", {"dome.toml --folder answers --json"}},
      {"runs", {"dome.toml dome.toml --folder answers --json"}},
      {"explain", {"mesh --json"}},
      {"schema", {""}}};
  for (const std::string& command : test::commands()) {
    if (command == "solve") continue;  // tells how long the solver took; its deck is deck's, its reserves are stress's
    INFO(command);
    REQUIRE(calls.count(command) == 1);
    for (const std::string& call : calls.at(command)) {
      const std::string one = outcome(folder, command + " " + call, 1);
      CHECK(one.size() > 50);
      // Not printed: they are large.
      const bool same = outcome(elsewhere, command + " " + call, 7, other) == one;
      CHECK_MESSAGE(same, command, " ", call);
      const bool two_same = outcome(folder, command + " " + call, 2) == one;
      CHECK_MESSAGE(two_same, command, " ", call, " with two threads");
    }
  }
}

}  // namespace of_base_threads
