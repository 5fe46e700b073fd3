#include "support.hpp"

#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <cstring>

namespace of_mesh_msh {

using namespace bordado;
using test::Grid;

namespace {

/// The same two-element mesh (a quadrilateral and a triangle) in the four ways the format has; edges "rim", points
/// "tip". Nodes 1..5 and a stray one, 9.
struct Bytes {
  std::string text;
  template <class Number>
  Bytes& raw(Number value, bool swap = false) {
    char bytes[sizeof value];
    std::memcpy(bytes, &value, sizeof value);
    if (swap) std::reverse(bytes, bytes + sizeof value);
    text.append(bytes, sizeof value);
    return *this;
  }
};

const std::vector<std::pair<int, Vec3>> nodes{{1, {0, 0, 0}}, {2, {1, 0, 0}},      {3, {1, 1, 0}},
                                              {4, {0, 1, 0}}, {5, {2, 0.5, 0.25}}, {9, {7, 7, 7}}};
const std::string names = "$PhysicalNames\n3\n0 30 \"tip\"\n1 20 \"rim\"\n2 10 \"skin\"\n$EndPhysicalNames\n";

std::string ascii_2() {
  std::string text = "$MeshFormat\n2.2 0 8\n$EndMeshFormat\n" + names + "$Nodes\n6\n";
  for (const auto& [id, p] : nodes) text += fmt::format("{} {} {} {}\n", id, p.x(), p.y(), p.z());
  return text +
         "$EndNodes\n$Elements\n5\n1 15 2 30 1 5\n2 1 2 20 1 1 2\n3 3 2 10 1 1 2 3 4\n4 2 2 10 1 2 5 3\n5 4 2 10 1 1 2 "
         "3 9\n$EndElements\n";
}

std::string binary_2() {
  Bytes out{"$MeshFormat\n2.2 1 8\n"};
  out.raw(1).text += "\n$EndMeshFormat\n" + names + "$Nodes\n6\n";
  for (const auto& [id, p] : nodes) out.raw(id).raw(p.x()).raw(p.y()).raw(p.z());
  out.text += "\n$EndNodes\n$Elements\n4\n";
  const auto element = [&](int type, std::initializer_list<int> numbers) {
    out.raw(type).raw(1).raw(2);
    for (const int n : numbers) out.raw(n);
  };
  element(15, {1, 30, 1, 5});
  element(1, {2, 20, 1, 1, 2});
  element(3, {3, 10, 1, 1, 2, 3, 4});
  element(2, {4, 10, 1, 2, 5, 3});
  out.text += "\n$EndElements\n";
  return out.text;
}

std::string ascii_4() {
  std::string text =
      "$MeshFormat\n4.1 0 8\n$EndMeshFormat\n" + names +
      "$Entities\n1 1 1 0\n1 2 0.5 0.25 1 30 \n1 0 0 0 1 0 0 1 20 2 1 -1 \n1 0 0 0 2 1 1 1 10 1 1 \n$EndEntities\n"
      "$Nodes\n1 6 1 9\n2 1 0 6\n1\n2\n3\n4\n5\n9\n";
  for (const auto& [id, p] : nodes) text += fmt::format("{} {} {}\n", p.x(), p.y(), p.z());
  return text +
         "$EndNodes\n$Elements\n4 4 1 4\n0 1 15 1\n1 5\n1 1 1 1\n2 1 2\n2 1 3 1\n3 1 2 3 4\n2 1 2 1\n4 2 5 "
         "3\n$EndElements\n";
}

std::string binary_4(bool swap) {
  Bytes out{"$MeshFormat\n4.1 1 8\n"};
  out.raw(1, swap).text += "\n$EndMeshFormat\n" + names + "$Entities\n";
  const auto size = [&](std::uint64_t n) { out.raw(n, swap); };
  const auto small = [&](int n) { out.raw(n, swap); };
  const auto real = [&](double x) { out.raw(x, swap); };
  for (const std::uint64_t n : {1u, 1u, 1u, 0u}) size(n);
  small(1), real(2), real(0.5), real(0.25), size(1), small(30);
  small(1);
  for (const double x : {0., 0., 0., 1., 0., 0.}) real(x);
  size(1), small(20), size(2), small(1), small(-1);
  small(1);
  for (const double x : {0., 0., 0., 2., 1., 1.}) real(x);
  size(1), small(10), size(1), small(1);
  out.text += "\n$EndEntities\n$Nodes\n";
  for (const std::uint64_t n : {1u, 6u, 1u, 9u}) size(n);
  small(2), small(1), small(0), size(6);
  for (const auto& [id, p] : nodes) size(static_cast<std::uint64_t>(id));
  for (const auto& [id, p] : nodes) real(p.x()), real(p.y()), real(p.z());
  out.text += "\n$EndNodes\n$Elements\n";
  for (const std::uint64_t n : {4u, 4u, 1u, 4u}) size(n);
  const auto block = [&](int dimension, int type, std::initializer_list<std::uint64_t> numbers) {
    small(dimension), small(1), small(type), size(1);
    for (const auto n : numbers) size(n);
  };
  block(0, 15, {1, 5});
  block(1, 1, {2, 1, 2});
  block(2, 3, {3, 1, 2, 3, 4});
  block(2, 2, {4, 2, 5, 3});
  out.text += "\n$EndElements\n";
  return out.text;
}

mesh::Surface read(const std::string& bytes, Findings& findings) {
  return mesh::read_bytes(bytes, "a.msh", {.factor = 10.0}, findings);
}

std::string refused(const std::string& bytes) {
  return test::failure([&] {
    Findings findings;
    read(bytes, findings);
  });
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
  const auto at = text.find(from);
  REQUIRE(at != std::string::npos);
  return text.replace(at, from.size(), to);
}

}  // namespace

TEST_CASE("all versions and encodings give the same surface") {
  for (const std::string& bytes :
       {ascii_2(), binary_2(), ascii_4(), binary_4(false), binary_4(true), replaced(ascii_4(), "\n", "\r\n")}) {
    Findings findings;
    const mesh::Surface s = read(bytes, findings);
    CHECK(s.node_ids == std::vector<std::int64_t>{1, 2, 3, 4, 5});  // the stray node is dropped, and said
    CHECK(s.element_ids == std::vector<std::int64_t>{3, 4});
    CHECK(s.shapes == std::vector<mesh::Shape>{mesh::Shape::quadrilateral4, mesh::Shape::triangle3});
    CHECK(s.nodes == std::vector<mesh::NodeIndex>{0, 1, 2, 3, 1, 4, 2});
    CHECK((s.points[4] - Vec3(20, 5, 2.5)).norm() < 1e-12);  // the factor is applied once
    REQUIRE(s.group("skin", 2));
    CHECK(s.group("skin", 2)->elements == std::vector<mesh::ElementIndex>{0, 1});
    CHECK(s.group("rim", 1)->edges.size() == 1);
    CHECK(s.group("tip", 0)->points == std::vector<mesh::NodeIndex>{4});
    CHECK(s.group("tip", 1) == nullptr);
    CHECK(findings.all().front().code == "mesh.stray-nodes");
  }
}

TEST_CASE("an element written once per physical group is one element in both groups") {
  Findings findings;
  const mesh::Surface s = read(
      replaced(replaced(ascii_2(), "5 4 2 10 1 1 2 3 9", "5 3 2 11 1 1 2 3 4"), "2 10 \"skin\"\n", "2 10 \"skin\"\n"),
      findings);
  CHECK(s.element_ids == std::vector<std::int64_t>{3, 4});
  CHECK(s.group("skin")->elements == std::vector<mesh::ElementIndex>{0, 1});
  CHECK(s.group("physical 11")->elements == std::vector<mesh::ElementIndex>{0});
}

TEST_CASE("an element that stands twice in one group is no second group: both stay, and the checks tell") {
  const std::string text =
      "$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$Nodes\n3\n1 0 0 0\n2 1 0 0\n3 0 1 0\n$EndNodes\n$Elements\n3\n"
      "1 2 2 7 1 1 2 3\n2 2 2 7 1 1 2 3\n3 2 2 8 1 1 2 3\n$EndElements\n";
  Findings findings;
  const mesh::Surface surface = mesh::read_bytes(text, "twins.msh", {}, findings);
  CHECK(surface.element_count() == 2);  // the third is the first, in group 8
  CHECK(mesh::inspect(surface, mesh::geometry(surface)).twin_elements.size() == 1);
  CHECK(surface.group("physical 8")->elements.size() == 1);
}

TEST_CASE("solids are passed over and said") {
  Findings findings;
  read(ascii_2(), findings);
  CHECK(findings.all().back().what == "1 solid elements were passed over: only shells carry plies here");
}

TEST_CASE("quadratic elements keep their middle nodes, a nine-node quadrilateral loses its centre") {
  Grid grid = Grid::rectangle(2, 2, 2, 2);
  grid.quadratic = true;
  const mesh::Surface s = test::surface(grid);
  CHECK(s.shapes[0] == mesh::Shape::quadrilateral8);
  CHECK(s.points.size() == 21);
  const std::string nine =
      "$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$Nodes\n9\n1 0 0 0\n2 2 0 0\n3 2 2 0\n4 0 2 0\n5 1 0 0\n6 2 1 0\n7 1 2 "
      "0\n8 0 1 0\n9 1 1 0\n$EndNodes\n"
      "$Elements\n1\n1 10 2 0 1 1 2 3 4 5 6 7 8 9\n$EndElements\n";
  Findings findings;
  const mesh::Surface q = read(nine, findings);
  CHECK(q.shapes[0] == mesh::Shape::quadrilateral8);
  CHECK(q.points.size() == 8);
}

TEST_CASE("a large mesh, read in parallel, is the mesh; with odd line breaks too") {
  // 4.1 with more lines than one block of the parallel reader; then the same tokens broken over lines in another way.
  const int n = 200;
  std::string ids, points, elements;
  for (int j = 0; j <= n; ++j)
    for (int i = 0; i <= n; ++i) {
      ids += fmt::format("{}\n", 3 * (j * (n + 1) + i) + 5);
      points += fmt::format("{} {} {}\n", i * 0.5, j * 0.25, i * j * 1e-3);
    }
  for (int j = 0; j < n; ++j)
    for (int i = 0; i < n; ++i) {
      const int a = j * (n + 1) + i;
      elements += fmt::format("{} {} {} {} {}\n", 100 + j * n + i, 3 * a + 5, 3 * (a + 1) + 5, 3 * (a + n + 2) + 5,
                              3 * (a + n + 1) + 5);
    }
  const auto whole = [&](const std::string& point_lines) {
    const int count = (n + 1) * (n + 1);
    return fmt::format(
        "$MeshFormat\n4.1 0 8\n$EndMeshFormat\n$Nodes\n1 {0} 1 99\n2 1 0 {0}\n{1}{2}$EndNodes\n$Elements\n1 {3} 1 9\n2 "
        "1 3 {3}\n{4}$EndElements\n",
        count, ids, point_lines, n * n, elements);
  };
  std::string odd = points;
  for (std::size_t i = 1; i + 1 < odd.size(); i += 97)
    if (odd[i] == ' ') odd[i] = '\n';
  Findings findings;
  const mesh::Surface a = read(whole(points), findings), b = read(whole(odd), findings);
  CHECK(a.points.size() == 201 * 201);
  CHECK(a.element_ids.back() == 100 + n * n - 1);
  CHECK((a.points[5 * 201 + 7] - Vec3(35, 12.5, 0.35)).norm() < 1e-12);
  CHECK(a.points == b.points);
  CHECK(a.nodes == b.nodes);
  CHECK(a.node_ids == b.node_ids);
}

TEST_CASE("broken meshes are refused with one clear message each") {
  CHECK(
      refused("") ==
      "a.msh: error: the mesh file is empty [mesh.format-unknown]\n    formats: Gmsh MSH, VTU or VTP, legacy VTK, PLY, "
      "OFF, STL, CalculiX keywords, OBJ, bulk data");
  CHECK(refused("solid cube") ==
        "a.msh: error: the mesh file is of no format that is read here [mesh.format-unknown]\n    formats: "
        "Gmsh MSH, VTU or VTP, legacy VTK, PLY, OFF, STL, CalculiX keywords, OBJ, bulk data");
  CHECK(refused(replaced(ascii_4(), "4.1 0 8", "5.0 0 8")) ==
        "a.msh:2: error: MSH version 5 is not read; versions 1, 2, 3, 4.0 and 4.1 are [mesh.unreadable]\n    save the "
        "mesh "
        "again (Gmsh MSH 4.1 or 2.2)");
  CHECK(refused(replaced(ascii_2(), "3 3 2 10 1 1 2 3 4", "4 3 2 10 1 1 2 3 4")) ==
        "a.msh: element 4: error: element id 4 stands twice [mesh.element-twice]\n    renumber the mesh and save it "
        "again");
  CHECK(refused(replaced(ascii_2(), "\n3 1 1 0\n", "\n2 1 1 0\n")) ==
        "a.msh: error: node id 2 stands twice [mesh.node-twice]\n    renumber the mesh and save it again");
  CHECK(refused(replaced(ascii_2(), "1 1 2 3 4\n", "1 1 2 3 77\n")) ==
        "a.msh: element 3: error: element 3 uses node 77, which the file does not define [mesh.node-unknown]\n    save "
        "the mesh again with all its nodes");
  CHECK(refused(replaced(ascii_2(), "5 2 0.5 0.25", "5 nan 0.5 0.25")) ==
        "a.msh: error: node 5 has a coordinate that is not a number: (nan, 0.5, 0.25) [mesh.not-finite]\n    repair "
        "the geometry and mesh it again");
  // Its area would be no number.
  CHECK(refused(replaced(ascii_2(), "5 2 0.5 0.25", "5 2 0.5 -1e308")) ==
        "a.msh: error: node 5 has a coordinate that is beyond 1e30: (2, 0.5, -1e+308) [mesh.not-finite]\n    repair "
        "the geometry and mesh it again");
  CHECK(refused(replaced(ascii_2(), "5 2 0.5 0.25", "5 2 O.5 0.25")) ==
        "a.msh:16: error: 'O.5' stands where a number should [mesh.unreadable]\n    save the mesh again (Gmsh MSH 4.1 "
        "or 2.2)");
  CHECK(refused(replaced(ascii_2(), "4 2 2 10", "4 999 2 10")) ==
        "a.msh:24: error: element type 999 is none that the format documents with a number of nodes "
        "[mesh.unreadable]\n    save the mesh again (Gmsh MSH 4.1 or 2.2)");
  CHECK(refused("$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$Nodes\n0\n$EndNodes\n$Elements\n0\n$EndElements\n") ==
        "a.msh: error: the mesh has no triangles and no quadrilaterals [mesh.no-shells]\n    mesh the surfaces (2D); "
        "if physical groups are defined, a surface must be in one to be saved");
}

TEST_CASE("a mesh cut short anywhere is refused, never read as less, never a crash") {
  for (const std::string& bytes : {ascii_2(), binary_2(), ascii_4(), binary_4(false)}) {
    const std::size_t last = bytes.find("\n$EndElements");
    for (std::size_t cut = 0; cut + 1 < last; ++cut) {
      const std::string text = refused(bytes.substr(0, cut));
      INFO("cut at " << cut << " of " << bytes.size());
      if (cut + 2 < last) CHECK(text != "");
    }
  }
  CHECK(refused(ascii_4().substr(0, ascii_4().find("$Elements"))) ==
        "a.msh:32: error: the mesh file is cut short: the file ends without a section $Elements [mesh.truncated]\n    "
        "save the mesh again (Gmsh MSH 4.1 or 2.2)");
}

TEST_CASE("bytes changed at random are refused or read, never a crash") {
  std::uint32_t state = 12345;
  const auto next = [&] { return state = state * 1664525u + 1013904223u; };
  for (const std::string& bytes : {ascii_2(), binary_2(), ascii_4(), binary_4(false)})
    for (int round = 0; round < 1500; ++round) {
      std::string broken = bytes;
      for (int k = 0; k < 1 + round % 3; ++k) broken[(next() >> 8) % broken.size()] = static_cast<char>(next() >> 16);
      CHECK_NOTHROW(refused(broken));
    }
}

}  // namespace of_mesh_msh
