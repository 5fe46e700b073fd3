// Surfaces of which some elements are divided.
#include "support.hpp"

#include <bordado/mesh/curves.hpp>
#include <bordado/mesh/divide.hpp>

#include <random>

namespace of_mesh_divide {

using namespace bordado;
using test::Grid;

namespace {

double area(const mesh::Surface& surface) {
  double sum = 0.0;
  for (const double a : mesh::geometry(surface).areas) sum += a;
  return sum;
}

/// Sides of one element only, as length.
double free_length(const mesh::Surface& surface) {
  double sum = 0.0;
  for (const auto& [a, b] : mesh::free_edges(surface)) sum += (surface.points[a] - surface.points[b]).norm();
  return sum;
}

}  // namespace

TEST_CASE("divided elements and their neighbours hang together, and cover what they covered") {
  for (const bool triangles : {false, true}) {
    Grid grid = Grid::rectangle(9, 6, 90, 60);
    grid.triangles = triangles;
    const mesh::Surface surface = test::surface(grid);
    std::mt19937 random(5);
    std::vector<std::uint8_t> which(surface.element_count());
    for (std::uint8_t& one : which) one = random() % 4 == 0;
    mesh::Divided made = mesh::divided(surface, which);
    for (int again = 0; again < 2; ++again) {
      INFO("triangles ", triangles, ", again ", again);
      CHECK(made.surface.element_count() > surface.element_count());
      CHECK(test::near(area(made.surface), 5400.0));
      CHECK(test::near(free_length(made.surface), 300.0));  // a node in the middle of a side would show here
      const mesh::EdgeTable edges = mesh::edges(made.surface);
      for (std::size_t j = 0; j < edges.size(); ++j) CHECK(edges.first[j + 1] - edges.first[j] <= 2);
      // Nodes keep their numbers; pieces of each element follow each other, face its way and make up its area.
      const mesh::Geometry of_pieces = mesh::geometry(made.surface), of_mesh = mesh::geometry(surface);
      for (mesh::NodeIndex n = 0; n < surface.points.size(); ++n) CHECK(made.surface.points[n] == surface.points[n]);
      REQUIRE(made.first.size() == surface.element_count() + 1);
      for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
        double sum = 0.0;
        for (mesh::ElementIndex f = made.first[e]; f < made.first[e + 1]; ++f) {
          CHECK(made.from[f] == e);
          CHECK(of_pieces.normals[f].dot(of_mesh.normals[e]) > 0.999);
          sum += of_pieces.areas[f];
        }
        CHECK(test::near(sum, of_mesh.areas[e]));
      }
      // Ids stand once; groups hold what they held.
      std::vector<std::int64_t> ids = made.surface.element_ids;
      std::sort(ids.begin(), ids.end());
      CHECK(std::adjacent_find(ids.begin(), ids.end()) == ids.end());
      REQUIRE(made.surface.groups.size() == surface.groups.size());
      for (std::size_t g = 0; g < surface.groups.size(); ++g) {
        const mesh::Group &before = surface.groups[g], &now = made.surface.groups[g];
        CHECK(before.name == now.name);
        CHECK(before.points == now.points);
        double length = 0.0, was = 0.0, covers = 0.0, covered = 0.0;
        for (const mesh::Edge& edge : before.edges)
          was += (surface.points[edge.first] - surface.points[edge.second]).norm();
        for (const mesh::Edge& edge : now.edges)
          length += (made.surface.points[edge.first] - made.surface.points[edge.second]).norm();
        for (const mesh::ElementIndex e : before.elements) covered += of_mesh.areas[e];
        for (const mesh::ElementIndex f : now.elements) covers += of_pieces.areas[f];
        CHECK(test::near(length, was, 1e-12, 1.0));
        CHECK(test::near(covers, covered, 1e-12, 1.0));
      }
      std::vector<std::uint8_t> more(made.surface.element_count());
      for (std::uint8_t& one : more) one = random() % 5 == 0;
      made = mesh::divided(made, more);
    }
  }
}

}  // namespace of_mesh_divide
