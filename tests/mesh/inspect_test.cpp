#include "support.hpp"

#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <cmath>

namespace of_mesh_inspect {

using namespace bordado;
using test::Grid;

namespace {

mesh::Inspection inspect(const mesh::Surface& surface) { return mesh::inspect(surface, mesh::geometry(surface)); }

mesh::Surface read(const std::vector<Vec3>& points, const std::vector<std::vector<int>>& elements) {
  std::string text = fmt::format("$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$Nodes\n{}\n", points.size());
  for (std::size_t i = 0; i < points.size(); ++i)
    text += fmt::format("{} {} {} {}\n", i + 1, points[i].x(), points[i].y(), points[i].z());
  text += fmt::format("$EndNodes\n$Elements\n{}\n", elements.size());
  for (std::size_t i = 0; i < elements.size(); ++i)
    text += fmt::format("{} {} 2 0 1 {}\n", i + 1, elements[i].size() == 4 ? 3 : 2, fmt::join(elements[i], " "));
  Findings findings;
  return mesh::read_bytes(text + "$EndElements\n", "small.msh", {}, findings);
}

const std::vector<Vec3> square{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}};

}  // namespace

TEST_CASE("a sound plate has one rim and nothing else") {
  const mesh::Inspection i = inspect(test::surface(Grid::rectangle(6, 4, 3, 2)));
  REQUIRE(i.rims.size() == 1);
  CHECK(test::near(i.rims[0].length, 10.0));
  CHECK(i.rims[0].closed);
  CHECK(i.rims[0].nodes.size() == 20);
  CHECK(i.free_edges == 20);
  CHECK(i.disagreeing_edges == 0);
  CHECK((i.junction.empty() && i.coincident_nodes.empty() && i.twin_elements.empty() && i.flat.empty() &&
         i.folded.empty() && i.warped.empty()));
}

TEST_CASE("openings are rims of their own: a tube has two, a closed surface none") {
  const Grid tube{.nx = 64,
                  .ny = 4,
                  .map =
                      [](double u, double v) {
                        const double a = 2 * std::numbers::pi * u;
                        return Vec3((1 + v) * std::cos(a), (1 + v) * std::sin(a), v);
                      },
                  .closed_u = true};
  const mesh::Inspection i = inspect(test::surface(tube));
  REQUIRE(i.rims.size() == 2);
  CHECK(test::near(i.rims[0].length, 4 * std::numbers::pi, 1e-3));  // longest first
  CHECK(test::near(i.rims[1].length, 2 * std::numbers::pi, 1e-3));
  const mesh::Inspection closed =
      inspect(read({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}}, {{1, 3, 2}, {1, 2, 4}, {2, 3, 4}, {1, 4, 3}}));
  CHECK(closed.rims.empty());
  CHECK(closed.disagreeing_edges == 0);
}

TEST_CASE("a hole of one element, a bow-tie at a point, disagreeing sides and junctions are seen") {
  mesh::Surface holed = test::surface(Grid::rectangle(5, 5, 5, 5));
  std::vector<std::vector<int>> elements;
  for (mesh::ElementIndex e = 0; e < holed.element_count(); ++e)
    if (e != 12) {
      std::vector<int> nodes;
      for (const auto n : holed.nodes_of(e)) nodes.push_back(static_cast<int>(n) + 1);
      elements.push_back(nodes);
    }
  const mesh::Inspection hole = inspect(read(holed.points, elements));
  REQUIRE(hole.rims.size() == 2);
  CHECK(test::near(hole.rims[1].length, 4.0));
  CHECK(hole.rims[1].nodes.size() == 4);

  const mesh::Inspection tie =
      inspect(read({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {-1, 0, 0}, {0, -1, 0}}, {{1, 2, 3}, {1, 4, 5}}));
  REQUIRE(tie.rims.size() == 1);
  CHECK(!tie.rims[0].closed);  // four free edges meet at a node

  const mesh::Inspection against = inspect(read(
      {{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}, {2, 0, 0}, {2, 1, 0}, {1, 0.5, 1}}, {{1, 2, 3, 4}, {2, 3, 6, 5}}));
  CHECK(against.disagreeing_edges == 1);
  const mesh::Inspection tee =
      inspect(read({{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}, {2, 0, 0}, {2, 1, 0}, {1, 0.5, 1}},
                   {{1, 2, 3, 4}, {2, 5, 6, 3}, {2, 3, 7}}));
  CHECK(tee.junction == std::vector<mesh::ElementIndex>{0, 1, 2});
}

TEST_CASE("coincident nodes and twin elements are paired") {
  // Two squares side by side that do not share the nodes of their common edge, and one of them twice.
  std::vector<Vec3> points = square;
  points.insert(points.end(), {{1, 0, 1e-6}, {2, 0, 0}, {2, 1, 0}, {1, 1, -1e-6}});
  const mesh::Inspection i = inspect(read(points, {{1, 2, 3, 4}, {5, 6, 7, 8}, {3, 4, 1, 2}}));
  CHECK(i.coincident_nodes == std::vector<std::array<mesh::NodeIndex, 2>>{{1, 4}, {2, 7}});
  CHECK(i.twin_elements == std::vector<std::array<mesh::ElementIndex, 2>>{{0, 2}});
}

TEST_CASE("coincidence is relative: a part a millionth in size, far from the origin, has none") {
  Grid grid = Grid::rectangle(8, 8, 1e-6, 1e-6);
  CHECK(inspect(test::surface(grid)).coincident_nodes.empty());
  grid.map = [](double u, double v) { return Vec3(1e6 + u, -1e6 + v, 1e6); };
  CHECK(inspect(test::surface(grid)).coincident_nodes.empty());
  grid.map = [](double u, double v) { return Vec3(1e6 * u, 1e6 * v, 0); };
  CHECK(inspect(test::surface(grid)).coincident_nodes.empty());
}

TEST_CASE("flat, folded and warped elements are told apart") {
  std::vector<Vec3> points = square;
  CHECK(inspect(read(points, {{1, 2, 4, 3}})).folded.size() == 1);  // crossed corners
  points[2].z() = 1.0;
  const mesh::Inspection warped = inspect(read(points, {{1, 2, 3, 4}}));
  CHECK(warped.warped.size() == 1);
  // Halves of a unit square with one corner raised by 1: normals (-1, 0, 1) and (0, -1, 1) along that diagonal, 60
  // degrees.
  CHECK(test::near(warped.largest_warp.degrees(), 60.0));
  points = square;
  points.push_back({2, 0, 0});
  const mesh::Inspection flat = inspect(read(points, {{1, 2, 3, 4}, {1, 2, 5}}));
  CHECK(flat.flat == std::vector<mesh::ElementIndex>{1});
}

TEST_CASE("a middle node beyond the corners tangles its element, and that is doubted") {
  Grid grid = Grid::rectangle(3, 3, 3, 3);
  grid.quadratic = true;
  mesh::Surface surface = test::surface(grid);
  CHECK(mesh::tangled(surface, mesh::geometry(surface)).empty());
  const auto nodes = surface.nodes_of(4);
  surface.points[nodes[4]] = surface.points[nodes[0]] + Vec3(-0.4, 0, 0);  // of side 1-2, beyond corner 1
  const mesh::Geometry geometry = mesh::geometry(surface);
  const auto found = mesh::tangled(surface, geometry);
  REQUIRE(std::find(found.begin(), found.end(), 4) != found.end());
  const auto doubts = mesh::doubts(surface, mesh::inspect(surface, geometry));
  CHECK(std::any_of(doubts.begin(), doubts.end(), [](const Finding& f) { return f.code == "mesh.tangled"; }));
  // A strongly curved but sound element is none.
  const Grid quarter{.nx = 1,
                     .ny = 1,
                     .map = [](double u, double v) { return Vec3(std::cos(1.2 * u), v, std::sin(1.2 * u)); },
                     .quadratic = true};
  const mesh::Surface arc = test::surface(quarter);
  CHECK(mesh::tangled(arc, mesh::geometry(arc)).empty());
}

TEST_CASE("coincident nodes are those that comparing each with each finds, across the cells they are looked up in") {
  std::mt19937 engine(5);
  std::uniform_real_distribution<double> place(0.0, 10.0), little(-0.012, 0.012);
  for (int round = 0; round < 20; ++round) {
    // Triangles anywhere, and corners of others set beside theirs, nearer and further than is looked for.
    std::vector<Vec3> points;
    std::vector<std::vector<int>> elements;
    for (int t = 0; t < 150; ++t) {
      for (int k = 0; k < 3; ++k) {
        Vec3 p(place(engine), place(engine), place(engine));
        if (!points.empty() && engine() % 2 == 0)
          p = points[engine() % points.size()] + Vec3(little(engine), little(engine), little(engine));
        points.push_back(p);
      }
      elements.push_back({3 * t + 1, 3 * t + 2, 3 * t + 3});
    }
    const mesh::Surface surface = read(points, elements);
    const mesh::Geometry geometry = mesh::geometry(surface);
    const double reach = 0.002 * mesh::size(surface, geometry).mean_edge;
    std::vector<std::array<mesh::NodeIndex, 2>> expected;
    for (mesh::NodeIndex a = 0; a < surface.points.size(); ++a)
      for (mesh::NodeIndex b = a + 1; b < surface.points.size(); ++b)
        if ((surface.points[a] - surface.points[b]).norm() <= reach) expected.push_back({a, b});
    CHECK(expected.size() > 20);
    CHECK(mesh::inspect(surface, geometry, mesh::InspectOptions{.coincidence = 0.002}).coincident_nodes == expected);
  }
}

TEST_CASE("elements with the same corners are twins, whichever corner they begin with and however they face") {
  const std::vector<Vec3> points{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}, {2, 0, 0}};
  // 1 and 4 the same quadrilateral, 5 too; 2 and 3 share one side with them; 6 and 7 the same triangle.
  const mesh::Inspection i =
      inspect(read(points, {{1, 2, 3, 4}, {2, 5, 3}, {1, 2, 3}, {3, 2, 1, 4}, {4, 1, 2, 3}, {1, 5, 4}, {4, 1, 5}}));
  CHECK(i.twin_elements == std::vector<std::array<mesh::ElementIndex, 2>>{{0, 3}, {0, 4}, {3, 4}, {5, 6}});
}

}  // namespace of_mesh_inspect
