// Distance along the surface against closed forms, with refinement. Curves and the nearest place, too.
#include "support.hpp"

#include <bordado/mesh/curves.hpp>
#include <bordado/mesh/locate.hpp>

#include <fmt/format.h>

#include <Eigen/Geometry>

#include <cmath>

namespace of_mesh_distance {

using namespace bordado;
using test::Grid;

namespace {

constexpr double pi = std::numbers::pi;

/// The largest error over all nodes at least `beyond` away, as a part of the exact distance.
double largest_error(const mesh::Surface& surface, const mesh::Sources& sources,
                     const std::function<double(const Vec3&)>& exact, double beyond) {
  const std::vector<double> found = mesh::distances(surface, sources);
  double largest = 0.0;
  for (std::size_t n = 0; n < found.size(); ++n) {
    const double wanted = exact(surface.points[n]);
    if (wanted >= beyond) largest = std::max(largest, std::abs(found[n] - wanted) / wanted);
  }
  return largest;
}

/// Errors on n, 2n, 4n elements a side; the last at most `most`, falling at least with `order` from first to last.
void converges(const std::function<double(int)>& error_with, int n, double most, double order) {
  const double errors[] = {error_with(n), error_with(2 * n), error_with(4 * n)};
  const double observed = std::log2(errors[0] / errors[2]) / 2;
  INFO(fmt::format("errors {:.2e} {:.2e} {:.2e}, order {:.2f}", errors[0], errors[1], errors[2], observed));
  CHECK(errors[2] <= most);
  CHECK(observed >= order);
}

Vec3 on_sphere(double u, double v) {  // a band of radius 2 about the equator
  const double longitude = 1.6 * (u - 0.5), latitude = 1.6 * (v - 0.5);
  return 2 *
         Vec3(std::cos(latitude) * std::cos(longitude), std::cos(latitude) * std::sin(longitude), std::sin(latitude));
}

}  // namespace

TEST_CASE("on a plane distance from points and straight lines is exact, for quadrilaterals and triangles") {
  for (const bool triangles : {false, true}) {
    Grid grid{.nx = 17,
              .ny = 13,
              .map =
                  [](double u, double v) {
                    // sheared and stretched, then tilted in space
                    const double s = 0.6 * u * u + 0.4 * u, t = 0.3 * v * v + 0.7 * v;
                    const Vec3 flat(3 * s + 0.4 * t, 2 * t + 0.3 * s, 0);
                    return Vec3(Eigen::AngleAxisd(0.7, Vec3(1, 2, 3).normalized()) * flat + Vec3(10, 20, 30));
                  },
              .triangles = triangles};
    const mesh::Surface surface = test::surface(grid);
    const Vec3 inside = 0.3 * surface.points[40] + 0.3 * surface.points[41] + 0.4 * surface.points[42];
    for (const Vec3& source : {surface.points[57], inside})
      CHECK(largest_error(
                surface, {.points = {source}}, [&](const Vec3& p) { return (p - source).norm(); }, 1e-3) < 1e-9);
  }
  // A straight line of nodes: the front edge of a rectangle.
  const mesh::Surface plate = test::surface(Grid::rectangle(12, 9, 4, 3));
  const mesh::NodePairs front = [&] {
    mesh::NodePairs out;
    for (const mesh::Edge& edge : plate.group("front", 1)->edges) out.push_back({edge.first, edge.second});
    return out;
  }();
  const auto exact = [](const Vec3& p) { return p.y(); };
  CHECK(largest_error(plate, {.curves = mesh::curves_of(plate, front)}, exact, 1e-3) < 1e-12);
  // The same as a polyline, on the edge and slanting across elements.
  CHECK(largest_error(plate, {.curves = {{{{0, 0, 0}, {4, 0, 0}}, {}, false}}}, exact, 1e-3) < 1e-12);
  const auto slanting = [](const Vec3& p) { return std::abs(3 * p.x() - 4 * p.y()) / 5; };
  CHECK(largest_error(plate, {.curves = {{{{-4, -3, 0}, {8, 6, 0}}, {}, false}}}, slanting, 0.02) < 1e-3);
}

TEST_CASE("on curved surfaces distance is within 1 % and converges") {
  SUBCASE("cylinder, from a point: the helix") {
    converges(
        [](int n) {
          const Grid grid{.nx = n, .ny = n, .map = [](double u, double v) {
                            return Vec3(std::cos(2.4 * u), std::sin(2.4 * u), 2 * v);
                          }};
          const mesh::Surface s = test::surface(grid);
          const double angle = 0.9, height = 0.61;
          return largest_error(
              s, {.points = {{std::cos(angle), std::sin(angle), height}}},
              [&](const Vec3& p) { return std::hypot(std::atan2(p.y(), p.x()) - angle, p.z() - height); }, 0.3);
        },
        8, 0.002, 1.4);
  }
  SUBCASE("cone, from its rim and from a point: a plane once rolled out") {
    const double slope = 0.5;  // radius per slant length
    const auto map = [slope](double u, double v) {
      const double slant = 1 + 2 * v;
      return Vec3(slope * slant * std::cos(2 * u), slope * slant * std::sin(2 * u),
                  std::sqrt(1 - slope * slope) * slant);
    };
    const auto rolled_out = [slope](const Vec3& p) {
      const double slant = p.norm(), angle = slope * std::atan2(p.y(), p.x());
      return Vec3(slant * std::cos(angle), slant * std::sin(angle), 0);
    };
    const Vec3 source = map(0.45, 0.4);
    converges(
        [&](int n) {
          const mesh::Surface s = test::surface({.nx = n, .ny = n, .map = map});
          return largest_error(
              s, {.points = {source}}, [&](const Vec3& p) { return (rolled_out(p) - rolled_out(source)).norm(); }, 0.3);
        },
        8, 0.002, 1.4);
    // From the rim the ways are the cone's straight lines, which are edges of the mesh: exact.
    const mesh::Surface s = test::surface({.nx = 8, .ny = 8, .map = map, .triangles = true});
    mesh::NodePairs rim;
    for (const mesh::Edge& edge : s.group("front", 1)->edges) rim.push_back({edge.first, edge.second});
    CHECK(largest_error(
              s, {.curves = mesh::curves_of(s, rim)}, [&](const Vec3& p) { return p.norm() - 1; }, 0.1) < 1e-12);
  }
  SUBCASE("sphere, from a point: the great circle; quadrilaterals, triangles, 8-node quadrilaterals") {
    for (const int kind : {0, 1, 2}) {
      converges(
          [&](int n) {
            const mesh::Surface s =
                test::surface({.nx = n, .ny = n, .map = on_sphere, .triangles = kind == 1, .quadratic = kind == 2});
            const Vec3 source = on_sphere(0.37, 0.44);
            return largest_error(
                s, {.points = {source}},
                [&](const Vec3& p) { return 2 * std::atan2(p.cross(source).norm(), p.dot(source)); }, 0.5);
          },
          8, 0.002, 1.0);
    }
  }
  SUBCASE("torus, from a circle of latitude: the arc of the tube") {
    converges(
        [](int n) {
          const Grid grid{.nx = n, .ny = n, .map = [](double u, double v) {
                            const double tube = 2.5 * (v - 0.1), round = 3 * (u - 0.5);
                            const double r = 3 + std::cos(tube);
                            return Vec3(r * std::cos(round), r * std::sin(round), std::sin(tube));
                          }};
          const mesh::Surface s = test::surface(grid);
          mesh::NodePairs rim;
          for (const mesh::Edge& edge : s.group("front", 1)->edges) rim.push_back({edge.first, edge.second});
          return largest_error(
              s, {.curves = mesh::curves_of(s, rim)},
              [](const Vec3& p) { return std::atan2(p.z(), std::hypot(p.x(), p.y()) - 3) + 0.25; }, 0.3);
        },
        8, 0.002, 1.4);
  }
}

TEST_CASE("distance bends round an opening and over a fold") {
  // Two plates at a right angle: rolled out they are one plane.
  const Grid folded{.nx = 20, .ny = 7, .map = [](double u, double v) {
                      return u <= 0.5 ? Vec3(4 * u, 2 * v, 0) : Vec3(2, 2 * v, 4 * (u - 0.5));
                    }};
  for (const bool triangles : {false, true}) {
    Grid grid = folded;
    grid.triangles = triangles;
    const mesh::Surface s = test::surface(grid);
    const Vec3 source(0.5, 0.6, 0);
    CHECK(largest_error(
              s, {.points = {source}}, [&](const Vec3& p) { return (Vec3(p.x() + p.z(), p.y(), 0) - source).norm(); },
              0.3) < 5e-3);  // half of what is promised: at the fold a front's direction is known in one element only
  }
}

TEST_CASE("nothing is reached across a gap, beyond the limit, or without a source") {
  const mesh::Surface plate = test::surface(Grid::rectangle(10, 2, 10, 1));
  const auto found = mesh::distances(plate, {.nodes = {*mesh::node_with_id(plate, 1)}}, 3.0);
  for (std::size_t n = 0; n < found.size(); ++n) {
    if (plate.points[n].x() <= 3) CHECK(std::isfinite(found[n]));
    if (plate.points[n].x() > 5) CHECK(found[n] > 3.0);
  }
  for (const double d : mesh::distances(plate, {})) CHECK(std::isinf(d));
}

TEST_CASE("far from the origin, very small and very large parts give the same distances") {
  for (const double scale : {1e-6, 1.0, 1e6}) {
    const Vec3 away = scale * Vec3(1e5, -2e5, 3e5);
    const mesh::Surface s = test::surface(
        {.nx = 16, .ny = 16, .map = [&](double u, double v) { return Vec3(scale * on_sphere(u, v) + away); }});
    const Vec3 source = scale * on_sphere(0.5, 0.5) + away;
    CHECK(largest_error(
              s, {.points = {source}},
              [&](const Vec3& p) {
                const Vec3 a = (p - away) / scale, b = (source - away) / scale;
                return scale * 2 * std::atan2(a.cross(b).norm(), a.dot(b));
              },
              0.5 * scale) < 0.003);
  }
}

TEST_CASE("the nearest place on a surface, with its shape functions") {
  for (const bool quadratic : {false, true}) {
    const mesh::Surface s = test::surface({.nx = 24, .ny = 24, .map = on_sphere, .quadratic = quadratic});
    const mesh::Locator locator(s);
    double worst = 0.0;
    for (double u = 0.013; u < 1; u += 0.0917)
      for (double v = 0.021; v < 1; v += 0.0853) {
        const Vec3 on = on_sphere(u, v), out = 1.001 * on;
        const auto found = locator.nearest(out);
        worst = std::max(worst, (found.point - on).norm());
        Vec3 by_weights = Vec3::Zero();
        double sum = 0.0;
        const auto nodes = s.nodes_of(found.element);
        for (std::size_t k = 0; k < nodes.size(); ++k) {
          by_weights += found.weights[k] * s.points[nodes[k]];
          sum += found.weights[k];
        }
        CHECK((by_weights - found.point).norm() < 1e-12);
        CHECK(test::near(sum, 1.0));
        CHECK(test::near(found.distance, (found.point - out).norm()));
      }
    CHECK(worst < (quadratic ? 5e-5 : 3e-3));  // the faces lie that far inside the sphere
  }
  // Against all elements one by one.
  const mesh::Surface s = test::surface(Grid::rectangle(9, 7, 3, 2));
  const mesh::Locator locator(s);
  CHECK((locator.nearest({1.234, 0.567, 5}).point - Vec3(1.234, 0.567, 0)).norm() < 1e-12);
  CHECK((locator.nearest({-1, 3, 1}).point - Vec3(0, 2, 0)).norm() < 1e-12);
}

TEST_CASE("curves: chains, loops, forks, borders between two points, creases") {
  const mesh::Surface plate = test::surface(Grid::rectangle(6, 4, 3, 2));
  const auto border = mesh::curves_of(plate, mesh::free_edges(plate));
  REQUIRE(border.size() == 1);
  CHECK(border[0].closed);
  CHECK(test::near(mesh::length(border[0]), 10));
  CHECK(border[0].points.front() == Vec3(0, 0, 0));
  const auto way = mesh::way_along(plate, mesh::free_edges(plate), {0.1, 0, 0}, {3, 1, 0});
  REQUIRE(way);
  CHECK(test::near(mesh::length(*way), 4));
  CHECK(way->points.front() == Vec3(0, 0, 0));
  CHECK(way->points.back() == Vec3(3, 1, 0));
  const auto other = mesh::way_along(plate, mesh::free_edges(plate), {0, 0, 0}, {3, 1, 0}, Vec3(0, 2, 0));
  REQUIRE(other);
  CHECK(test::near(mesh::length(*other), 6));
  // An open box has the four creases of its floor as one loop, and four upright ones.
  const Grid tube{.nx = 16,
                  .ny = 3,
                  .map =
                      [](double u, double v) {
                        const double a = 4 * u;
                        const int side = static_cast<int>(a) % 4;
                        const double s = a - std::floor(a);
                        const Vec3 corner[] = {{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}};
                        return Vec3((1 - s) * corner[side] + s * corner[(side + 1) % 4] + Vec3(0, 0, v));
                      },
                  .closed_u = true};
  const mesh::Surface box = test::surface(tube);
  const auto creases = mesh::curves_of(box, mesh::creases(box, mesh::geometry(box), Angle::degrees(30)));
  REQUIRE(creases.size() == 4);
  for (const mesh::Curve& crease : creases) CHECK(test::near(mesh::length(crease), 1));
  CHECK(mesh::edges_among(plate, std::vector<mesh::NodeIndex>{0}).empty());
}

}  // namespace of_mesh_distance
