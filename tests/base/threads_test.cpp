// The same bytes whatever the number of threads: every command on a part that is many blocks large.
#include "support.hpp"

#include <fmt/format.h>

#include <fstream>
#include <thread>

namespace of_base_threads {

using namespace bordado;
using test::Grid;

namespace {

std::string text_of(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

/// A dome of 50,000 quadrilaterals (half of these under sanitizers) with shapes, distances, a blend, a ply that varies and a curve.
void write_part(const test::Folder& folder) {
  folder.write("dome.msh", test::msh({.nx = BORDADO_SANITIZED ? 160 : 250,
                                      .ny = BORDADO_SANITIZED ? 150 : 200,
                                      .map = [](double u, double v) {
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
          "\"back\", table = [[600, 0], [800, 12]] } }, { id = \"D\", angle = 10, frame = \"edge\" } "
          "]\n[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.p]\non = \"ball\"\npressure = \"1 "
          "kPa\"\nface = \"bag\"\n");
}

/// What a command prints and writes, with that many threads. $O is where to write.
std::string outcome(const test::Folder& folder, const std::string& command, std::size_t threads) {
  const std::string out = folder / "out";
  std::filesystem::remove_all(out);
  std::filesystem::create_directory(out);
  const test::Run run =
      test::run(fmt::format("O=out; '{}' --threads {} {}", test::program(), threads, command), folder.path());
  INFO(command << ": " << run.err);
  CHECK(run.status == 0);
  std::string all = run.out + run.err;
  std::vector<std::string> files;
  for (const auto& entry : std::filesystem::directory_iterator(out)) files.push_back(entry.path().string());
  std::sort(files.begin(), files.end());
  for (const std::string& file : files) all += file + text_of(file);
  return all;
}

}  // namespace

TEST_CASE("every command gives the same bytes with one thread, two and many") {
  const test::Folder folder;
  write_part(folder);
  std::vector<std::string> commands = {"check dome.toml --json", "deck dome.toml --folder $O",
                                       "review dome.toml -o $O/r.html"};
  std::vector<std::size_t> others = {7};
  if (!BORDADO_SANITIZED) {  // ten times slower
    commands.insert(commands.end(),
                    {"zones dome.toml --json", "frames dome.toml --json --write $O/f.vtu",
                     "at dome.toml --point 500,400,200 --json", "plies dome.toml --json --write $O/p.csv",
                     "plies dome.toml --draw $O/p.svg", "fields dome.toml --plies --write $O/f.vtu",
                     "deck dome.toml --folder $O --most-sections 12 --json", "diff dome.toml dome.toml --json",
                     "stack dome.toml --point 500,400,200 -o $O/s.svg", "surface dome.msh --json",
                     "begin dome.msh -o -", "schema"});
    others.push_back(2);
  }
  for (const std::string& command : commands) {
    const std::string one = outcome(folder, command, 1);
    CHECK(one.size() > 100);
    for (const std::size_t threads : others) {
      const bool same = outcome(folder, command, threads) == one;  // not printed: they are large
      CHECK_MESSAGE(same, command, " with ", threads, " threads");
    }
  }
}

}  // namespace of_base_threads
