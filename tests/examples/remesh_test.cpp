// One part file on meshes of different size and shape: nothing is lost, and areas, masses and directions converge.
#include "support.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/locate.hpp>

#include <fmt/format.h>

#include <Eigen/Geometry>

#include <cmath>

namespace of_examples_remesh {

using namespace bordado;
using test::Grid;

namespace {

/// A doubly curved panel, wider at one end.
Vec3 panel(double u, double v) {
  const double x = 800 * u, y = (300 + 150 * u) * (v - 0.5);
  return {x, y, 80 * std::sin(2.2 * u) - 4e-4 * y * y};
}

const std::string zones = R"(
[curve.spine]
points = [[0, 0, 0], [250, 10, 50], [520, 30, 78], [800, 20, 65]]
[frame.spine]
along = "spine"
[frame.edge]
along = ["front", "back"]
[frame.mixed]
blend = { from = "spine", to = "edge", start = "spine", over = 120 }
[zone.ring]
near = { of = [400, 0, 71], within = 90 }
[zone.border]
near = { of = "right", within = 60 }
[zone.patch]
polygon = { corners = [[100, -100, 0], [330, -60, 0], [300, 90, 0], [120, 50, 0]], along = [0, 0, 1] }
[zone.field]
from = "everything"
minus = ["ring", "patch"]
[layup]
material = "ud"
frame = "mixed"
plies = [
  { id = "A", angle = 0 },
  { id = "B", angle = 45, zone = "ring", frame = "edge" },
  { id = "C", angle = 90, zone = "border" },
  { id = "D", angle = 0, zone = "patch", frame = "spine" },
  { id = "F", material = "foam", zone = "field" },
]
)";

struct Laid {
  double mass, ring, patch, border;
  std::vector<Vec3> fibres;  ///< of ply A at fixed places
};

Laid lay(int n, bool triangles) {
  const test::Folder folder;
  folder.write("panel.msh", test::msh({.nx = 2 * n, .ny = n, .map = panel, .triangles = triangles}));
  Findings findings;
  const Design d =
      open(folder.write("panel.toml",
                        "[part]\nname = \"Panel\"\nunits = \"mm, t, s\"\nmesh = { file = \"panel.msh\", length "
                        "= \"mm\" }\nside = { along = [0, 0, 1] }\nsurface = \"bottom\"\n" +
                            test::materials() + zones),
           findings);
  CHECK(findings.count(Severity::error) == 0);
  const auto area = [&](std::string_view name) { return d.layup.zones.exact_areas[*d.layup.zones.find(name)]; };
  Laid out{layup::mass(d).mass, area("ring"), area("patch"), area("border"), {}};
  const mesh::Locator locator(d.surface);
  const part::FrameId frame = d.layup.frame_of(part::PlyId{0});
  for (const auto& [u, v] : {std::pair(0.2, 0.3), {0.5, 0.7}, {0.8, 0.2}, {0.65, 0.45}})
    out.fibres.push_back(d.layup.frames[frame].directions[locator.nearest(panel(u, v)).element]);
  return out;
}

}  // namespace

TEST_CASE("the same part file on three meshes and on triangles: areas, masses and frames converge") {
  const Laid finest = lay(96, false);
  for (const bool triangles : {false, true}) {
    double before = 0.0;
    for (const int n : {12, 24, 48}) {
      const Laid laid = lay(n, triangles);
      const double areas = std::max({std::abs(laid.ring / finest.ring - 1), std::abs(laid.patch / finest.patch - 1),
                                     std::abs(laid.border / finest.border - 1)});
      double angle = 0.0;
      for (std::size_t k = 0; k < laid.fibres.size(); ++k)
        angle =
            std::max(angle, Angle::radians(std::acos(std::min(1.0, laid.fibres[k].dot(finest.fibres[k])))).degrees());
      const double mass = std::abs(laid.mass / finest.mass - 1);
      INFO(fmt::format("{} n = {}: areas {:.2e}, mass {:.2e}, angle {:.2f}°",
                       triangles ? "triangles" : "quadrilaterals", n, areas, mass, angle));
      CHECK(areas < 0.5 / n);
      CHECK(mass < 0.4 / n);    // whole elements belong or not
      CHECK(angle < 30.0 / n);  // the field is looked at in the nearest element: first order
      if (before > 0.0) CHECK(areas < 0.6 * before);
      before = areas;
    }
  }
}

}  // namespace of_examples_remesh
