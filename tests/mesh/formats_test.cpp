// Every mesh format against one small deck written by hand or by an independent writer, against what we write
// ourselves, and against an independent reader (meshio).
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <map>
#include <set>

namespace of_mesh_formats {

using namespace bordado;
using test::Grid;

namespace {

mesh::Surface read(const std::string& path, Findings& findings) { return mesh::read(path, {}, findings); }
mesh::Surface read(const std::string& path) {
  Findings findings;
  return read(path, findings);
}
mesh::Surface read_text(const std::string& text, Findings& findings) {
  return mesh::read_bytes(text, "mesh", {}, findings);
}
std::string seed(const std::string& name) { return test::source("tests/fuzz/seeds/" + name); }

using Corners = std::vector<std::array<double, 3>>;
Corners corners(const mesh::Surface& surface, mesh::ElementIndex e) {
  Corners out;
  for (const mesh::NodeIndex n : surface.corners_of(e))
    out.push_back({surface.points[n].x(), surface.points[n].y(), surface.points[n].z()});
  return out;
}

const std::vector<Corners> wanted{{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}},
                                  {{1, 0, 0}, {2, 0, .5}, {2, 1, .5}, {1, 1, 0}},
                                  {{0, 1, 0}, {1, 1, 0}, {1, 2, 0}},
                                  {{1, 1, 0}, {2, 1, .5}, {1, 2, 0}}};

/// The same surface: ids, coordinates, node order and groups.
void check_equal(const mesh::Surface& a, const mesh::Surface& b, double tolerance = 0.0) {
  REQUIRE(a.points.size() == b.points.size());
  REQUIRE(a.element_count() == b.element_count());
  const auto by_id = [](const mesh::Surface& surface) {
    std::map<std::int64_t, std::pair<mesh::Shape, std::vector<std::int64_t>>> out;
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
      std::vector<std::int64_t> ids;
      for (const mesh::NodeIndex n : surface.nodes_of(e)) ids.push_back(surface.node_ids[n]);
      out[surface.element_ids[e]] = {surface.shapes[e], ids};
    }
    return out;
  };
  CHECK(by_id(a) == by_id(b));
  std::map<std::int64_t, Vec3> points;
  for (std::size_t i = 0; i < a.points.size(); ++i) points[a.node_ids[i]] = a.points[i];
  double largest = 0.0;
  for (std::size_t i = 0; i < b.points.size(); ++i) {
    REQUIRE(points.contains(b.node_ids[i]));
    largest = std::max(largest, (points[b.node_ids[i]] - b.points[i]).norm());
  }
  CHECK(largest <= tolerance);
}

void check_same_groups(const mesh::Surface& a, const mesh::Surface& b) {
  REQUIRE(a.groups.size() == b.groups.size());
  for (const mesh::Group& group : a.groups) {
    INFO(group.name);
    const mesh::Group* const other = b.group(group.name, group.dimension);
    REQUIRE(other);
    CHECK(group.points.size() == other->points.size());
    CHECK(group.edges.size() == other->edges.size());
    const auto ids = [](const mesh::Surface& surface, const mesh::Group& of) {
      std::set<std::int64_t> out;
      for (const mesh::ElementIndex e : of.elements) out.insert(surface.element_ids[e]);
      return out;
    };
    CHECK(ids(a, group) == ids(b, *other));
  }
}

}  // namespace

TEST_CASE("every format gives the same deck") {
  for (const std::string name :
       {"msh/two-text.msh", "msh/two-binary.msh", "msh/four-text.msh", "msh/four-binary.msh", "vtu/ascii.vtu",
        "vtu/inline.vtu", "vtu/zlib.vtu", "vtu/appended-raw.vtu", "vtu/appended-base64.vtu",
        "vtu/appended-big-endian.vtu", "obj/deck.obj", "keywords/deck.inp", "bulk_data/fields.bdf"}) {
    INFO(name);
    const mesh::Surface surface = read(seed(name));
    REQUIRE(surface.element_count() == wanted.size());
    for (mesh::ElementIndex e = 0; e < wanted.size(); ++e) CHECK(corners(surface, e) == wanted[e]);
    CHECK(surface.points.size() == 7);
  }
}

TEST_CASE("groups come with the formats that have them") {
  const auto has = [](const mesh::Surface& surface, std::string_view name, int dimension, std::size_t members) {
    const mesh::Group* const group = surface.group(name, dimension);
    REQUIRE_MESSAGE(group, std::string(name));
    CHECK(std::max({group->points.size(), group->edges.size(), group->elements.size()}) == members);
  };
  for (const std::string name : {"msh/four-text.msh", "obj/deck.obj", "keywords/deck.inp"}) {
    INFO(name);
    const mesh::Surface surface = read(seed(name));
    has(surface, "quads", 2, 2);
    has(surface, "triangles", 2, 2);
    has(surface, "front", 1, 2);
  }
  const mesh::Surface keywords = read(seed("keywords/deck.inp"));
  has(keywords, "outer", 2, 3);  // a set of a set and an element
  has(keywords, "left", 0, 2);   // generated 1, 4
  has(read(seed("bulk_data/fields.bdf")), "property 1", 2, 2);
  has(read(seed("vtu/zlib.vtu")), "panel 2", 2, 2);  // the values of a whole-number array
}

TEST_CASE("STL and OBJ are welded with a stated tolerance") {
  for (const std::string name : {"stl/text.stl", "stl/binary.stl"}) {
    INFO(name);
    Findings findings;
    const mesh::Surface surface = read(seed(name), findings);
    CHECK(surface.points.size() == 7);
    CHECK(surface.element_count() == 6);
    REQUIRE(findings.all().size() == 1);
    CHECK(findings.all()[0].code == "mesh.welded");
    CHECK(findings.all()[0].what.find("18 points were welded to 7") == 0);
  }
  // Corners 0.001 apart stay two with 0.0005 and become one with 0.002.
  const std::string text = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 1.001 0 0\nv 1 1 0\nv 0 1.001 0\nf 1 2 3\nf 4 5 6\n";
  Findings findings;
  CHECK(mesh::read_bytes(text, "a.obj", {.weld = 0.0005}, findings).points.size() == 6);
  CHECK(mesh::read_bytes(text, "a.obj", {.weld = 0.002}, findings).points.size() == 4);
  // A facet smaller than the tolerance falls away, and that is said.
  Findings told;
  const mesh::Surface left = mesh::read_bytes("v 0 0 0\nv 1 0 0\nv 0 1 0\nv 1 .001 0\nv 1.001 0 0\nf 1 2 3\nf 2 4 5\n",
                                              "a.obj", {.weld = 0.01}, told);
  CHECK(left.element_count() == 1);
  CHECK(told.all()[0].what.find("1 facet smaller than that fell away") != std::string::npos);
}

TEST_CASE("points in rectangular, cylindrical and spherical coordinate systems, one in the other") {
  // System 1: origin (1, 0, 0), x along +y, y along -x. System 2: cylindrical in 1. System 3: spherical at the origin.
  const mesh::Surface surface = read(seed("bulk_data/systems.bdf"));
  const Vec3 expected[] = {{1, 1, 0}, {0, 0, 0}, {0, 1, 0}, {1, 0, -1}};
  for (std::size_t i = 0; i < 4; ++i) CHECK((surface.points[i] - expected[i]).norm() < 1e-15);
}

TEST_CASE("what we write is read back equal: ids, nodes, groups, bytes and all") {
  const test::Folder folder;
  const Grid curved{.nx = 4,
                    .ny = 3,
                    .map = [](double u, double v) { return Vec3(u / 3, v * v / 7, std::sin(u)); },
                    .quadratic = true};
  for (const mesh::Surface& surface : {read(test::source("examples/skiff/skiff.msh")), test::surface(curved)})
    for (const std::string ending : {".vtu", ".msh"}) {
      INFO(ending);
      const std::string path = folder / ("out" + ending);
      mesh::write(surface, path);
      const std::string first = read_file(path);
      const mesh::Surface again = read(path);
      check_equal(surface, again);
      check_same_groups(surface, again);
      mesh::write(surface, path);
      CHECK(read_file(path) == first);
    }
  CHECK(test::failure([&] { mesh::write(test::surface(curved), folder / "out.stl"); }).find("mesh.ending-unknown") !=
        std::string::npos);
}

TEST_CASE("the decks that we write are meshes too") {
  const test::Folder folder;
  Findings findings;
  const Design design = open(test::source("examples/skiff/skiff.toml"), findings);
  for (const deck::Format& format : deck::formats()) {
    INFO(format.name);
    const std::string path = folder / ("skiff" + std::string(format.extension));
    write_deck(design, format.name, path, {}, findings);
    check_equal(format.quadratic ? mesh::raised_to_quadratic(design.surface) : design.surface, read(path), 1e-6);
  }
}

TEST_CASE("an independent reader finds the same points, cells and values in what we write") {
  const test::Folder folder;
  const mesh::Surface surface = read(test::source("examples/skiff/skiff.msh"));
  mesh::Array height{"height", true, 1, {}}, side{"side", false, 3, {}};
  const mesh::Geometry geometry = mesh::geometry(surface);
  for (const Vec3& p : surface.points) height.values.push_back(p.z());
  for (const Vec3& n : geometry.normals) side.values.insert(side.values.end(), n.begin(), n.end());
  mesh::write(surface, folder / "skiff.vtu", std::vector{height, side});
  mesh::write(surface, folder / "skiff.msh");
  folder.write("read.py", R"(
import json, sys, meshio
m = meshio.read(sys.argv[1])
print(json.dumps({"points": m.points.tolist(), "cells": sum(len(b.data) for b in m.cells if b.type in ("triangle", "quad")),
                  "height": m.point_data["height"].ravel().tolist() if "height" in m.point_data else [],
                  "side": [v for b, d in zip(m.cells, m.cell_data.get("side", [])) if b.type in ("triangle", "quad") for v in d.ravel().tolist()]}))
)");
  for (const std::string name : {"skiff.vtu", "skiff.msh"}) {
    INFO(name);
    const test::Run run = test::run(fmt::format("/usr/bin/python3 read.py {}", name), folder.path());
    REQUIRE_MESSAGE(run.status == 0, run.err);
    const auto json = nlohmann::json::parse(run.out.substr(run.out.find('{')));
    REQUIRE(json["points"].size() == surface.points.size());
    for (std::size_t i = 0; i < surface.points.size(); i += 97)
      for (std::size_t k = 0; k < 3; ++k)
        CHECK(json["points"][i][k].get<double>() == surface.points[i][static_cast<Eigen::Index>(k)]);
    CHECK(json["cells"] == surface.element_count());
    if (name != "skiff.vtu") continue;
    CHECK(json["height"].get<std::vector<double>>() == height.values);
    CHECK(json["side"].get<std::vector<double>>() == side.values);
  }
}

TEST_CASE("values beside a mesh are read with it, whatever nodes and cells fall away") {
  const test::Folder folder;
  Findings findings;
  const mesh::Sampled zlib = mesh::read_sampled(seed("vtu/zlib.vtu"), {}, findings);
  REQUIRE(zlib.arrays.size() == 3);
  const mesh::Surface grid = test::surface(Grid::rectangle(3, 2, 3, 2));
  mesh::Array x{"x", true, 1, {}};
  for (const Vec3& p : grid.points) x.values.push_back(p.x());
  mesh::write(grid, folder / "grid.vtu", std::vector{x});
  const mesh::Sampled again = mesh::read_sampled(folder / "grid.vtu", {}, findings);
  REQUIRE(again.arrays.size() == 1);
  for (std::size_t i = 0; i < again.surface.points.size(); ++i)
    CHECK(again.arrays[0].values[i] == again.surface.points[i].x());
  CHECK(test::failure([&] { mesh::read_sampled(seed("obj/deck.obj"), {}, findings); }).find("no VTU file") !=
        std::string::npos);
}

TEST_CASE("generated sets hold what the mesh has, however far their numbers run") {
  Findings findings;
  const mesh::Surface plate = read_text(
      "*NODE\n1,0,0\n2,1,0\n3,1,1\n4,0,1\n7,2,0\n9,2,1\n*ELEMENT, TYPE=S4\n5,1,2,3,4\n8,2,7,9,3\n*NSET, NSET=odd, "
      "GENERATE\n"
      "1,9223372036854775807,2\n*ELSET, ELSET=all, GENERATE\n0,1000000000000\n*ELSET, ELSET=of-all\nall\n",
      findings);
  REQUIRE(plate.group("odd", 0));
  CHECK(plate.group("odd", 0)->points.size() == 4);  // 1, 3, 7, 9
  REQUIRE(plate.group("of-all", 2));
  CHECK(plate.group("of-all", 2)->elements.size() == 2);
}

TEST_CASE("broken files: one clear message with its line") {
  const auto trouble = [](const std::string& text) {
    Findings findings;
    return test::failure([&] { read_text(text, findings); });
  };
  const auto says = [&](const std::string& text, std::initializer_list<const char*> parts) {
    const std::string message = trouble(text);
    for (const char* const part : parts) CHECK_MESSAGE(message.find(part) != std::string::npos, message);
  };
  says("*NODE\n1,0,0\n2,1,x\n", {"mesh:3", "'x' stands where a coordinate should"});
  says("*NODE\n1,0,0\n2,1,0\n3,1,1\n*ELEMENT, TYPE=S4\n1,1,2,3\n*STEP\n", {"mesh:7", "element 1 has 3 of the 4 nodes"});
  says("GRID,1,,0,0,0\nGRID,2,7,0,0,0\nCTRIA3,1,1,1,2,2\n", {"coordinate system 7 is not defined"});
  says("CORD2R,1,2,0,0,0,0,0,1\n,1,0,0\nCORD2R,2,1,0,0,0,0,0,1\n,1,0,0\nGRID,1,1,0,0,0\nCTRIA3,1,1,1,1,1\n",
       {"defined in itself"});
  says("GRID,1,,zero,0,0\nGRID,2,,0,0,0\n", {"mesh:1", "field 4 of GRID is 'zero'"});
  says("solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0\nendloop\nendfacet\nendsolid\n",
       {"mesh:6", "'endloop' stands where a number should"});
  says("solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\n", {"mesh.truncated", "ends inside a facet"});
  says("v 0 0 0\nv 1 0 0\nf 1 2 x\n", {"mesh:3", "'x' stands where a point's number should"});
  says("v 0 0 0\nv 1 0 0\nf 1 2 7\n", {"mesh.node-unknown", "node 7"});
  says("<?xml version=\"1.0\"?><VTKFile type=\"PolyData\"></VTKFile>", {"an UnstructuredGrid or PolyData is read"});
  says("<VTKFile><UnstructuredGrid>", {"the XML cannot be read"});
  // Found by fuzzing: a diagonal that is infinite or no number gave welding a cell without size.
  says("v 1e308 0 0\nv -1e308 0 0\nv 0 1e308 0\nf 1 2 3\n", {});
  says("v inf 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", {"mesh.not-finite"});
  for (const char* const bytes : {"\xff\xff\x7f\x7f", "\x00\x00\x80\x7f", "\xff\xff\xff\xff"}) {
    std::string broken = read_file(seed("stl/binary.stl"));
    broken.replace(96, 4, bytes, 4);
    trouble(broken);
  }
  for (const std::string name : {"vtu/zlib.vtu", "vtu/appended-raw.vtu", "vtu/ascii.vtu"}) {
    const std::string whole = read_file(seed(name));
    for (std::size_t cut = 40; cut < whole.size() - 60; cut += 37) CHECK(!trouble(whole.substr(0, cut)).empty());
  }
}

}  // namespace of_mesh_formats
