// Where plies end, as curves in space: the same on another mesh of the part, and in every format.
#include "cases.hpp"

#include <bordado/drawing.hpp>
#include <bordado/review/fields.hpp>

#include <cmath>
#include <set>

namespace of_drawing_ply_lines {

using namespace bordado;
using test::Grid;
using test::near;

namespace {

constexpr double radius = 400.0;

/// A patch of a tube with three plies over a rounded zone of it, ending 1:20.
Design part(const test::Folder& folder, Grid grid) {
  grid.map = [](double u, double v) {
    const double a = 1.2 * (v - 0.5);
    return Vec3(600 * u, radius * std::sin(a), radius * std::cos(a) - radius);
  };
  std::string text = test::case_part("[0/45]s", R"(
[zone.boss]
sphere = { centre = [300, 10, 0], radius = 130 }
[ramp.boss]
from = "boss"
slope = "1:20"
)");
  const std::string all = "plies = [";
  text.replace(text.find(all), all.size(),
               "material = \"ud\"\nframe = \"x\"\nplies = [ { id = \"Q1\", angle = 0, zone = \"boss\" }, { id = "
               "\"Q2\", angle = 90, "
               "zone = \"boss\" }, { id = \"Q3\", angle = 0, zone = \"boss\" },");
  Findings findings;
  return test::open_on(folder, text, grid, findings);
}

double distance(const Vec3& point, const mesh::Curve& curve) {
  double out = 1e300;
  for (std::size_t i = 0; i + (curve.closed ? 0 : 1) < curve.points.size(); ++i) {
    const Vec3 &a = curve.points[i], &b = curve.points[(i + 1) % curve.points.size()];
    const double share = std::clamp((point - a).dot(b - a) / std::max((b - a).squaredNorm(), 1e-300), 0.0, 1.0);
    out = std::min(out, (point - a - share * (b - a)).norm());
  }
  return out;
}

}  // namespace

TEST_CASE("two meshes of one part end their plies on the same curves, as well as their sides lie on the surface") {
  const test::Folder folder;
  // How far the curves of one mesh lie off those of another, both as fine.
  const auto apart = [](int fine) {
    const test::Folder one_folder, other_folder;
    const Design one = part(one_folder, {.nx = 30 * fine, .ny = 24 * fine, .map = {}}),
                 other = part(other_folder, {.nx = 23 * fine, .ny = 20 * fine, .map = {}, .triangles = true});
    const review::EdgeLines a = review::edge_lines(one), b = review::edge_lines(other);
    REQUIRE(a.lines.size() == 3);
    REQUIRE(b.lines.size() == 3);
    double out = 0.0;
    for (std::size_t i = 0; i < 3; ++i) {
      CHECK(one.part.plies[a.plies[i]].id == other.part.plies[b.plies[i]].id);
      CHECK(a.lines[i].closed);
      for (const Vec3& point : a.lines[i].points) out = std::max(out, distance(point, b.lines[i]));
      CHECK(near(mesh::length(a.lines[i]), mesh::length(b.lines[i]), 1e-2 / fine / fine));
    }
    return out;
  };
  // Chords of the tube and of the ball's circle within an element, from corner to corner.
  const double across = std::hypot(600.0 / 23, 1.2 * radius / 20), off = across * across / 8 * (1 / radius + 1 / 130.0);
  const double coarse = apart(1), fine = apart(2);
  CHECK(coarse < off);
  CHECK(fine < off / 4);
  const Design one = part(folder, {.nx = 60, .ny = 48, .map = {}});
  const review::EdgeLines a = review::edge_lines(one);
  // One after another: a thickness of 0.2 takes 4.
  const auto ramps = review::ramp_lines(one);
  std::vector<std::size_t> order;
  for (std::size_t i = 0; i < 3; ++i) {
    REQUIRE(ramps[a.plies[i]].size() == 1);
    order.push_back(ramps[a.plies[i]][0].line);
  }
  CHECK(std::set<std::size_t>(order.begin(), order.end()) == std::set<std::size_t>{1, 2, 3});
  for (std::size_t i = 0; i < 3; ++i)
    for (std::size_t k = 0; k < 3; ++k)
      if (order[k] == order[i] + 1) {
        const double run = one.layup.ramps[ramps[a.plies[i]][0].ramp].steps[order[i] - 1].run;
        for (std::size_t n = 0; n < a.lines[i].points.size(); n += 5)
          CHECK(near(distance(a.lines[i].points[n], a.lines[k]), run, 0.05));
      }
  const test::Folder out;
  CHECK(drawing::write_ply_lines(one, out / "l.vtu") == 3);
  CHECK(drawing::write_ply_lines(one, out / "l.dxf") == 3);
  CHECK_THROWS_WITH_AS(drawing::write_ply_lines(one, out / "l.iges"), doctest::Contains("drawing.lines-ending"),
                       Failure);
}

}  // namespace of_drawing_ply_lines
