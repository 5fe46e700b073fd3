// bordado surface and bordado frames: what they say, write and refuse.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <filesystem>

namespace of_cli_surface {

using namespace bordado;
using nlohmann::json;

namespace {

test::Run bordado_in(const test::Folder& folder, const std::string& arguments) {
  return test::run(fmt::format("'{}' {}", test::program(), arguments), folder.path());
}

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

/// A square torn along its middle, with one half inside out, in inches.
const char* const torn =
    "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 1.0001 0 0\nv 2 0 0\nv 2 1 0\nv 1.0001 1 0\nf 1 2 3 4\nf 5 8 7 6\n";

}  // namespace

TEST_CASE("surface repairs on request, lists what it did, and writes the surface") {
  const test::Folder folder;
  folder.write("torn.obj", torn);
  const test::Run before = bordado_in(folder, "surface torn.obj --json");
  REQUIRE(before.status == 0);
  CHECK(json::parse(before.out)["pieces"] == 2);
  const test::Run run = bordado_in(folder, "surface torn.obj --scale 25.4 --repair --merge 0.01 --write part.msh");
  INFO(run.out << run.err);
  REQUIRE(run.status == 0);
  CHECK(has(run.out, "all coordinates were multiplied by 25.4 [repair.scaled]"));
  CHECK(has(run.out, "2 nodes no further than 0.01 from another one became that one: nodes 5, 8 [repair.merged]"));
  CHECK(has(run.out, "1 element turned round so that neighbours agree: elements 2 [repair.turned]"));
  CHECK(has(run.out, "nothing to doubt"));
  const test::Run after = bordado_in(folder, "surface part.msh --json");
  const json sound = json::parse(after.out);
  CHECK(sound["pieces"] == 1);
  CHECK(test::near(sound["area"].get<double>(), 2 * 25.4 * 25.4, 1e-3));
  CHECK(sound["findings"].empty());
}

TEST_CASE("surface tells creases, and refuses an ending that it does not write without harming what is there") {
  const test::Folder folder;
  folder.write("box.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 1 0 1\nv 1 1 1\nf 1 2 3 4\nf 2 5 6 3\n");
  CHECK(has(bordado_in(folder, "surface box.obj").out, "creases   1 of length 1.000 (edges that turn by 30° or more)"));
  CHECK(has(bordado_in(folder, "surface box.obj --crease 120").out, "none: no edge turns by 120° or more"));
  folder.write("kept.stl", "mine");
  const test::Run refused = bordado_in(folder, "surface box.obj --write kept.stl --replace");
  CHECK(refused.status == 1);
  CHECK(has(refused.err, "end its name with one of .vtu (VTU), .msh (Gmsh MSH 4.1)"));
  CHECK(read_file(folder / "kept.stl") == "mine");
}

TEST_CASE("frames lists what 0° goes by and writes directions that are unit vectors") {
  const test::Folder folder;
  const std::string part = test::source("examples/rudder/rudder.toml");
  const test::Run run = bordado_in(folder, fmt::format("frames '{}' --write frames.vtu", part));
  INFO(run.err);
  REQUIRE(run.status == 0);
  CHECK(has(run.out, "along curves   leading-edge"));
  CHECK(has(run.out, "down to span, over 350"));
  Findings findings;
  const mesh::Sampled written = mesh::read_sampled(folder / "frames.vtu", {}, findings);
  std::size_t directions = 0;
  for (const mesh::Array& array : written.arrays) {
    if (array.components != 3) continue;
    ++directions;
    for (std::size_t e = 0; e < array.values.size(); e += 3)
      CHECK(test::near(Vec3(array.values[e], array.values[e + 1], array.values[e + 2]).norm(), 1.0));
  }
  CHECK(directions == 3);
  const json out = json::parse(bordado_in(folder, fmt::format("frames '{}' --json", part)).out);
  CHECK(out["frames"].size() == 3);
  CHECK(out["frames"][0]["largest_doubt"].get<double>() < 0.1);
  CHECK(has(bordado_in(folder, fmt::format("at '{}' --point 150,10,-800", part)).out,
            "0° of frame 'span': carried over "));
}

TEST_CASE("a frame's missing file is told once, though another frame is blended from it") {
  const test::Folder folder;
  std::string text = read_file(test::source("examples/rudder/rudder.toml"));
  text.replace(text.find("vector = [0, 0, -1]"), 19, "mapped = { file = \"gone.vtu\", field = \"f\" }");
  for (const char* const file : {"rudder.msh", "window.csv", "plies.csv"})
    std::filesystem::copy(test::source(std::string("examples/rudder/") + file), folder / file);
  folder.write("a.toml", text);
  const test::Run run = bordado_in(folder, "check a.toml");
  CHECK(run.status == 1);
  CHECK(has(run.err, "there is no file 'gone.vtu'"));
  CHECK(has(run.err, "1 error, 0 warnings"));
}

}  // namespace of_cli_surface
