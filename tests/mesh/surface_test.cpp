#include "support.hpp"

#include <bordado/mesh/at_nodes.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/mesh/locate.hpp>

#include <Eigen/Geometry>

#include <cmath>
#include <set>

namespace of_mesh_surface {

using namespace bordado;
using test::Grid;

namespace {

Grid sphere_patch(int n, bool triangles, bool quadratic) {
  // A patch of the unit sphere between 30 and 60 degrees of latitude, 90 of longitude: area pi/2 (sin 60 - sin 30).
  return {.nx = n,
          .ny = n,
          .map =
              [](double u, double v) {
                const double longitude = u * std::numbers::pi / 2, latitude = (1 + v) * std::numbers::pi / 6;
                return Vec3(std::cos(latitude) * std::cos(longitude), std::cos(latitude) * std::sin(longitude),
                            std::sin(latitude));
              },
          .triangles = triangles,
          .quadratic = quadratic};
}

double total_area(const Grid& grid) {
  double sum = 0;
  for (const double area : mesh::geometry(test::surface(grid)).areas) sum += area;
  return sum;
}

}  // namespace

TEST_CASE("areas and centres of flat elements are exact, of curved ones converge with their order") {
  const mesh::Geometry flat = mesh::geometry(test::surface(Grid::rectangle(3, 2, 6, 4)));
  CHECK(test::near(flat.areas[0], 4.0, 1e-14));
  CHECK((flat.centres[0] - Vec3(1, 1, 0)).norm() < 1e-14);
  CHECK((flat.normals[0] - Vec3(0, 0, 1)).norm() < 1e-14);

  const double exact = std::numbers::pi / 2 * (std::sin(std::numbers::pi / 3) - 0.5);
  for (const bool triangles : {false, true})
    for (const bool quadratic : {false, true}) {
      const double coarse = std::abs(total_area(sphere_patch(4, triangles, quadratic)) - exact),
                   fine = std::abs(total_area(sphere_patch(8, triangles, quadratic)) - exact);
      const double order = std::log2(coarse / fine);
      INFO("triangles " << triangles << " quadratic " << quadratic << " order " << order << " errors " << coarse << " "
                        << fine);
      CHECK(order > (quadratic ? 3.5 : 1.9));
    }
}

TEST_CASE("a trapezium has its centroid at the area's centre, not at the corners' mean") {
  const Grid grid{.nx = 1, .ny = 1, .map = [](double u, double v) { return Vec3(u * (2 - v), v, 0); }};
  const mesh::Geometry shape = mesh::geometry(test::surface(grid));
  CHECK(test::near(shape.areas[0], 1.5));
  CHECK(test::near(shape.centres[0].y(), 4.0 / 9));  // h/3 (a + 2b)/(a + b), a = 2 below, b = 1 above
}

TEST_CASE("nodal areas add up to the area, and a constant load on a quadratic edge has the known weights") {
  for (const bool triangles : {false, true})
    for (const bool quadratic : {false, true}) {
      Grid grid = Grid::rectangle(1, 1, 3, 2);
      grid.triangles = triangles;
      grid.quadratic = quadratic;
      const auto areas = mesh::nodal_areas(test::surface(grid), 0);
      double sum = 0;
      for (const double area : areas) sum += area;
      const double element = triangles ? 3.0 : 6.0;
      CHECK(test::near(sum, element));
      CHECK(test::near(areas[0],
                       element * (triangles   ? (quadratic ? 0.0 : 1.0 / 3)
                                  : quadratic ? -1.0 / 12
                                              : 0.25),
                       1e-12, element));
      if (quadratic) CHECK(test::near(areas[triangles ? 3 : 4], element / 3));
    }
}

TEST_CASE("edges: each is found once with its one or two elements") {
  const mesh::Surface surface = test::surface(Grid::rectangle(3, 2, 3, 2));
  const mesh::EdgeTable table = mesh::edges(surface);
  CHECK(table.size() == 3 * 3 + 4 * 2);
  std::size_t inner = 0;
  std::set<std::array<mesh::NodeIndex, 2>> seen;
  for (std::size_t j = 0; j < table.size(); ++j) {
    CHECK(seen.insert(table.nodes[j]).second);
    CHECK(table.nodes[j][0] < table.nodes[j][1]);
    const auto uses = table.first[j + 1] - table.first[j];
    CHECK((uses == 1 || uses == 2));
    inner += uses == 2;
    if (uses == 2) CHECK(table.uses[table.first[j]].forward != table.uses[table.first[j] + 1].forward);
  }
  CHECK(inner == 3 * 1 + 2 * 2);
}

TEST_CASE("raising to quadratic shares middle nodes and keeps ids, groups and shape") {
  for (const bool triangles : {false, true}) {
    Grid grid = Grid::rectangle(3, 2, 3, 2);
    grid.triangles = triangles;
    const mesh::Surface linear = test::surface(grid), raised = mesh::raised_to_quadratic(linear);
    CHECK(raised.points.size() == linear.points.size() + mesh::edges(linear).size());
    CHECK(std::set<std::int64_t>(raised.node_ids.begin(), raised.node_ids.end()).size() == raised.node_ids.size());
    for (mesh::ElementIndex e = 0; e < raised.element_count(); ++e) {
      const auto nodes = raised.nodes_of(e);
      const std::size_t corners = nodes.size() / 2;
      for (std::size_t i = 0; i < corners; ++i) {
        CHECK(nodes[i] == linear.nodes_of(e)[i]);
        CHECK((raised.points[nodes[corners + i]] -
               0.5 * (raised.points[nodes[i]] + raised.points[nodes[(i + 1) % corners]]))
                  .norm() < 1e-15);
      }
    }
    for (const mesh::Edge& edge : raised.group("left")->edges) CHECK(edge.middle != mesh::no_index);
    // Raising again changes nothing.
    CHECK(mesh::raised_to_quadratic(raised).nodes == raised.nodes);
    CHECK(mesh::raised_to_quadratic(raised).points.size() == raised.points.size());
  }
}

TEST_CASE("size tells box, counts and edge lengths") {
  const mesh::Surface surface = test::surface(Grid::rectangle(4, 2, 8, 2));
  const mesh::Size size = mesh::size(surface, mesh::geometry(surface));
  CHECK(size.high.x() == 8.0);
  CHECK(size.quadrilaterals == 8);
  CHECK(size.triangles == 0);
  CHECK(size.shortest_edge == 1.0);
  CHECK(size.longest_edge == 2.0);
  CHECK(test::near(size.mean_edge, (12 * 2.0 + 10 * 1.0) / 22));
  CHECK(test::near(size.area, 16.0));
  CHECK(test::near(mesh::nearest_node(surface, {8.1, 2.1, 0}).distance, std::sqrt(0.02)));
  CHECK(mesh::element_with_id(surface, surface.element_ids[3]) == 3);
  CHECK(!mesh::element_with_id(surface, 999999).has_value());
}

TEST_CASE("a load along a curved edge is spread by the curve, not by its chords") {
  // An edge of 30 degrees of a circle of radius 10, its middle on the circle: the arc is 1.15 % longer than the chords.
  mesh::Surface surface;
  for (const double degrees : {0.0, 30.0, 15.0}) {
    const Angle a = Angle::degrees(degrees);
    surface.points.emplace_back(10 * a.cos(), 10 * a.sin(), 0);
  }
  const auto shares = mesh::nodal_lengths(surface, {0, 1, 2});
  // The element is a parabola through three points of the circle: 8e-5 shorter.
  CHECK(test::near(shares[0] + shares[1] + shares[2], 10 * Angle::degrees(30).radians(), 1e-4));
  CHECK(test::near(shares[0], shares[1], 1e-12));
  const auto straight = mesh::nodal_lengths(surface, {0, 1});
  CHECK(test::near(straight[0], 0.5 * (surface.points[1] - surface.points[0]).norm(), 1e-15));
  // On a straight edge with its middle off the centre the integral of the shape functions is known: a polynomial.
  surface.points = {{0, 0, 0}, {6, 0, 0}, {2.5, 0, 0}};
  const auto off = mesh::nodal_lengths(surface, {0, 1, 2});  // dx/dxi = 3 + xi
  CHECK(test::near(off[0], 1.0 - 1.0 / 3.0, 1e-12));
  CHECK(test::near(off[1], 1.0 + 1.0 / 3.0, 1e-12));
  CHECK(test::near(off[2], 4.0, 1e-12));
}

TEST_CASE("a pressed face above a sphere is larger by its radius squared") {
  const Grid patch{.nx = 12,
                   .ny = 12,
                   .map =
                       [](double u, double v) {
                         const Vec3 p(u - 0.5, v - 0.5, 1.2);
                         return Vec3(50 * p.normalized());
                       },
                   .quadratic = true};
  const mesh::Surface surface = test::surface(patch);
  const mesh::Geometry geometry = mesh::geometry(surface);
  const auto normals = mesh::nodal_normals(surface, geometry);
  double ratios = 0.0;  // their mean
  const auto total = [&](double height) {
    Vec3 sum = Vec3::Zero();
    ratios = 0.0;
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
      const std::size_t count = surface.nodes_of(e).size();
      const auto vectors = mesh::nodal_face_vectors(surface, e, {normals.data() + surface.first[e], count}, height);
      for (std::size_t i = 0; i < count; ++i) sum += vectors.shares[i];
      ratios += vectors.over_mesh / static_cast<double>(surface.element_count());
    }
    return sum;
  };
  const double sense = normals[0].dot(surface.points[surface.nodes[0]]) > 0 ? 1.0 : -1.0;
  CHECK(test::near(total(3.0).norm() / total(0.0).norm(), std::pow((50 + sense * 3.0) / 50, 2),
                   3e-4));  // 4 degrees an element
  total(3.0);
  CHECK(test::near(ratios, std::pow((50 + sense * 3.0) / 50, 2), 3e-4));
}

TEST_CASE("what elements bring to their nodes: every use once, and of a closed surface area that sums up to nought") {
  const mesh::Surface surface = test::surface(sphere_patch(5, false, true));
  const mesh::Geometry geometry = mesh::geometry(surface);
  const mesh::NodeUses uses = mesh::uses_of_nodes(surface);
  std::vector<std::uint8_t> met(surface.nodes.size(), 0);
  for (mesh::NodeIndex n = 0; n < surface.points.size(); ++n) {
    mesh::ElementIndex last = 0;
    for (const mesh::NodeUses::Use& use : uses.of(n)) {
      CHECK(surface.nodes[use.at] == n);
      CHECK(use.at >= surface.first[use.element]);
      CHECK(use.at < surface.first[use.element + 1]);
      CHECK(use.element >= last);
      last = use.element;
      ++met[use.at];
    }
  }
  CHECK(std::all_of(met.begin(), met.end(), [](auto times) { return times == 1; }));
  // On the unit sphere the mean of the normals round a node inside is nearly where the node is; eight nodes see each area.
  const std::vector<Vec3> sums = mesh::area_sums_at_nodes(surface, geometry, geometry.normals);
  Vec3 all = Vec3::Zero(), by_element = Vec3::Zero();
  for (const Vec3& sum : sums) all += sum;
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e)
    by_element += 8.0 * geometry.areas[e] * geometry.normals[e];
  CHECK((all - by_element).norm() < 1e-12 * by_element.norm());
  std::size_t inside = 0;
  for (mesh::NodeIndex n = 0; n < surface.points.size(); ++n) {
    if (uses.of(n).size() != 4) continue;
    ++inside;
    CHECK(sums[n].normalized().dot(surface.points[n]) > Angle::degrees(1.0).cos());
  }
  CHECK(inside == 16);
}

TEST_CASE("the nearest of some elements: of two skins that lie on each other the one that is asked for") {
  Grid sheet = Grid::rectangle(4, 4, 4, 4);
  mesh::Surface surface = test::surface(sheet);
  const mesh::Locator locator(surface);
  const Vec3 place(0.4, 0.6, 0.3);
  const auto plain = locator.nearest(place);
  CHECK(test::near(plain.distance, 0.3, 1e-12));
  const auto away = [&](mesh::ElementIndex e) { return surface.points[surface.corners_of(e)[0]].x() >= 2.0; };
  const auto found = locator.nearest(place, away);
  CHECK(away(found.element));
  CHECK(test::near(found.distance, std::hypot(1.6, 0.3), 1e-12));
  const auto none = locator.nearest(place, [](mesh::ElementIndex) { return false; });
  CHECK(none.element == mesh::no_index);
  CHECK(std::isinf(none.distance));
}

}  // namespace of_mesh_surface
