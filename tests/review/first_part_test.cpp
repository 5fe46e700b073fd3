// A first part file from a mesh: the next command already works.
#include "support.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/review/first_part.hpp>

#include <fmt/format.h>

#include <fstream>
#include <numbers>

namespace of_review_first_part {

using namespace bordado;
using test::Grid;

namespace {

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

std::string text_of(const std::string& path) {
  std::ifstream in(path);
  return {std::istreambuf_iterator<char>(in), {}};
}

}  // namespace

TEST_CASE("a part that begins from any of these meshes opens without an error, on the side that the mesh has") {
  using std::numbers::pi;
  const std::pair<std::string, Grid> shapes[] = {
      {"flat", Grid::rectangle(6, 4, 600, 400)},
      {"upside down", {.nx = 6, .ny = 4, .map = [](double u, double v) { return Vec3(400 * v, 600 * u, 0); }}},
      {"upright", {.nx = 6, .ny = 4, .map = [](double u, double v) { return Vec3(0.01, 600 * u, 400 * v); }}},
      {"tube",
       {.nx = 24,
        .ny = 6,
        .map = [](double u, double v) { return Vec3(50 * std::cos(2 * pi * u), 50 * std::sin(2 * pi * u), 300 * v); },
        .closed_u = true}},
      {"tube inside out",
       {.nx = 24,
        .ny = 6,
        .map = [](double u, double v) { return Vec3(50 * std::cos(2 * pi * u), -50 * std::sin(2 * pi * u), 300 * v); },
        .closed_u = true}},
      {"bowl", {.nx = 12, .ny = 12, .map = [](double u, double v) {
                  return Vec3(2 * u, 2 * v, 3 * ((u - 0.5) * (u - 0.5) + (v - 0.5) * (v - 0.5)));
                }}}};
  for (const auto& [name, grid] : shapes) {
    INFO(name);
    const test::Folder folder;
    const std::string mesh = folder.write("a b.msh", test::msh(grid));
    const test::Run begun = test::run(fmt::format("'{}' begin 'a b.msh'", test::program()), folder.path());
    REQUIRE_MESSAGE(begun.status == 0, begun.err);
    const std::string part = text_of(folder / "a b.toml");
    Findings findings;
    const Design design = open(folder / "a b.toml", findings);
    CHECK(design.orientation.flipped == 0);
    CHECK(design.part.plies.size() == 1);
    CHECK(design.sections.count() == 1);
    CHECK(has(part, "zone \"plate\": "));
    CHECK(has(part, "curve \"front\": "));
    CHECK(has(part, "point \"corner\": 1 node"));
    CHECK(has(begun.out, "[begin.length-guessed]"));
    CHECK(design.part.units.name() == (name == "bowl" ? "m, kg, s" : "mm, t, s"));
  }
}

TEST_CASE("sizes in the remarks are those of the mesh") {
  Findings findings;
  const std::string part =
      review::first_part(test::surface(Grid::rectangle(6, 4, 600, 400)), {.length = "mm"}, findings);
  CHECK(findings.all().empty());  // nothing is guessed
  CHECK(has(part, "zone \"plate\": 24 elements, 240000 mm^2"));
  CHECK(has(part, "curve \"front\": 6 edges, 600 mm long"));
  CHECK(has(part, "curve \"left\": 4 edges, 400 mm long"));
}

TEST_CASE("what is there stays, and units that are none are told") {
  const test::Folder folder;
  folder.write("g.msh", test::msh(Grid::rectangle(6, 4, 600, 400)));
  folder.write("g.toml", "mine");
  const auto begin = [&](const std::string& options) {
    return test::run(fmt::format("'{}' begin g.msh {}", test::program(), options), folder.path());
  };
  CHECK(has(begin("").err, "there is a file 'g.toml' already [file.is-there]"));
  CHECK(text_of(folder / "g.toml") == "mine");
  CHECK(has(begin("-o g.msh").err, "[file.was-read]"));
  CHECK(has(begin("-o new.toml --units 'mm, foo'").err, "[part.units]"));
  CHECK(has(begin("-o new.toml --length foo").err, "[part.units]"));
  CHECK(!std::filesystem::exists(folder / "new.toml"));
  CHECK(has(begin("-o -").out, "[part]"));
  // From another folder the mesh is still found.
  std::filesystem::create_directory(folder / "parts");
  CHECK(begin("-o parts/p.toml --length mm").status == 0);
  CHECK(has(text_of(folder / "parts/p.toml"), "file = \"../g.msh\""));
  Findings findings;
  CHECK(open(folder / "parts/p.toml", findings).surface.element_count() == 24);
}

TEST_CASE("the examples' meshes begin as parts") {
  for (const std::string name : {"skiff", "rudder", "spar", "panel", "hatch"}) {
    INFO(name);
    const test::Folder folder;
    Findings findings;
    const mesh::Surface surface = mesh::read(test::source(fmt::format("examples/{0}/{0}.msh", name)), {}, findings);
    const std::string text = review::first_part(
        surface, {.length = "mm", .mesh_as_seen = test::source(fmt::format("examples/{0}/{0}.msh", name))}, findings);
    const Design design = open(folder.write("p.toml", text), findings);
    CHECK(design.sections.count() == 1);
  }
}

}  // namespace of_review_first_part
