// By hand against the solver: panels and bars as CalculiX has them, from decks that the library wrote.
#include "cases.hpp"

#include <bordado/bar_margins.hpp>
#include <bordado/margins.hpp>

namespace of_sizing_solver {

using namespace bordado;
using namespace bordado::sizing;
using test::near;

namespace {

/// One of four edge conditions of a panel in its plane z = 0: what each side holds across.
struct Held {
  std::string name;
  Edge x0, x1, y0, y1;
};

std::string supports(const Held& held, double a) {
  std::string out;
  const auto side = [&](const char* name, Edge edge, const char* along) {
    if (edge == Edge::free) return;
    out += fmt::format("[support.{0}]\non = \"{0}\"\nhold = [\"z\", {1}]\n", name,
                       edge == Edge::clamped ? std::string("\"rx\", \"ry\"") : fmt::format("\"{}\"", along));
  };
  // A side that does not turn along itself: about the axis across it.
  side("left", held.x0, "rx"), side("right", held.x1, "rx"), side("front", held.y0, "ry"), side("back", held.y1, "ry");
  return out + fmt::format(
                   "[support.origin]\non = \"corner\"\nhold = [\"x\", \"y\"]\n"
                   "[support.right-corner]\npoint = [{}, 0, 0]\nhold = [\"y\"]\n",
                   a);
}

/// Layers of a softer core move against each other in shells before the panel buckles.
const std::string hard_foam = R"([material.hard]
kind = "foam"
mark = "B"
E = 400
G = 150
density = "200 kg/m^3"
thickness = "5 mm"
)";

const std::string pushed_and_sheared = test::edge_loads() + R"(
[case.bell]
analysis = "frequencies"
count = 8
[case.push]
analysis = "buckling"
loads = { pull-left = -1, pull-right = -1 }
[case.shear]
analysis = "buckling"
loads = ["shear-left", "shear-right", "shear-front", "shear-back"]
)";

/// Walls of one laminate along a line of corners in y, z, as one sheet; u goes along the line, v along the bar.
struct Profile {
  std::vector<Vector2> corners;
  double length;
  Vector2 inside;  ///< plies are laid away from it

  std::vector<Wall> walls(const laminate::Stack& stack) const {
    std::vector<Wall> out;
    for (std::size_t i = 0; i + 1 < corners.size(); ++i)
      out.push_back({corners[i], corners[i + 1], stack.layers, fmt::format("wall {}", i + 1), stack.materials});
    return out;
  }
  double around() const {
    double out = 0.0;
    for (std::size_t i = 0; i + 1 < corners.size(); ++i) out += (corners[i + 1] - corners[i]).norm();
    return out;
  }
  test::Grid grid(int across, int along) const {
    return {.nx = across, .ny = along, .map = [this](double u, double v) {
              double s = u * around();
              std::size_t i = 0;
              for (; i + 2 < corners.size() && s > (corners[i + 1] - corners[i]).norm() + 1e-9; ++i)
                s -= (corners[i + 1] - corners[i]).norm();
              const Vector2 at = corners[i] + s * (corners[i + 1] - corners[i]).normalized();
              return Vec3(length * v, at[0], at[1]);
            }};
  }
  /// Both ends keep their shape and place across, and warp freely; pushed by a force per length of 1.
  std::string part() const {
    return fmt::format(R"(
[part]
name = "Bar"
units = "mm, t, s"
mesh = {{ file = "grid.msh", length = "mm" }}
side = {{ away-from = [{0}, {1}, {2}] }}
surface = "middle"
{3}
[layup]
plies = [ {{ id = "P", material = "ud", frame = "x", code = "[0/45/-45/90]s" }} ]
[support.front]
on = "front"
hold = ["y", "z"]
[support.back]
on = "back"
hold = ["y", "z"]
[support.along]
point = [{0}, {4}, {5}]
hold = ["x"]
[load.front]
on = "front"
edge-force = [-1, 0, 0]
axes = "edge"
[load.back]
on = "back"
edge-force = [-1, 0, 0]
axes = "edge"
[case.push]
analysis = "buckling"
loads = ["front", "back"]
[case.bell]
analysis = "frequencies"
count = 4
)",
                       0.5 * length, inside[0], inside[1], test::materials(), corners[1][0], corners[1][1]);
  }
};

laminate::Stack stack_of(const Design& design) {
  laminate::Stack out;
  for (const laminate::Layer& layer : section::laminate_of(design.part, design.sections, design.sections.section_of[0]))
    out.layers.push_back(layer);
  return out;
}

}  // namespace

TEST_CASE("three laminates by four edge conditions: buckling and frequencies as the solver's shells have them") {
  const double a = 300, b = 200;
  const std::array<Held, 4> all_held{{{"all simple", Edge::simple, Edge::simple, Edge::simple, Edge::simple},
                                      {"all clamped", Edge::clamped, Edge::clamped, Edge::clamped, Edge::clamped},
                                      {"one of each kind", Edge::clamped, Edge::simple, Edge::simple, Edge::free},
                                      {"two sides free", Edge::simple, Edge::simple, Edge::free, Edge::free}}};
  for (const std::string code : {"[0/45/-45/90]s", "[0/90]2", "[45/0/0B/0/45]", "[0_2/45_2]"})
    for (const Held& held : all_held) {
      // Plies whose stretching, bending and twisting all go together: the panel bends before it buckles, and forces in its plane do
      // not stay even. (With couples on its sides that keep it flat the solver is 1 to 4 % above what is told by hand.)
      const bool uneven = code == "[0_2/45_2]";
      if (uneven && held.name != "all simple") continue;
      INFO(code << ", " << held.name);
      const test::Folder folder;
      const test::Cases solved =
          test::solve_cases(folder, test::case_part(code, supports(held, a) + pushed_and_sheared, hard_foam),
                            test::Grid::rectangle(12, 8, a, b), {.solids = {}, .layers = deck::LayersAs::equivalents});
      const auto stiffness = test::stiffness_of(solved.design);
      Panel panel{a, b, {}, held.x0, held.x1, held.y0, held.y1};
      panel.plate = plate_stiffness(stack_of(solved.design).layers);
      const laminate::Matrix3 reduced = stiffness.D - stiffness.B * stiffness.A.inverse() * stiffness.B;
      CHECK(near((panel.plate.D - reduced).norm(), 0.0, 1e-9, reduced.norm()));
      const auto bell = natural_frequencies(panel, 4, laminate::Vector3::Zero(), {20, 20});
      const auto found = solved.bending("bell");
      REQUIRE(found.size() >= 4);
      for (std::size_t i = 0; i < 4; ++i) CHECK(near(bell[i].value, found[i], uneven ? 2e-2 : 1e-2));
      const auto push = buckling_factors(panel, {-1, 0, 0}, {20, 20}),
                 shear = buckling_factors(panel, {0, 0, 1}, {20, 20});
      const auto lowest = [&](const char* name, bool reversed) {
        for (const auto& mode : solved.of(name).modes)
          if (mode.reversed == reversed && mode.across > 0.5) return mode.value;
        return 0.0;
      };
      CHECK(near(push.forward.value().value, lowest("push", false), uneven ? 0.08 : 2e-2));
      CHECK(near(shear.forward.value().value, lowest("shear", false), uneven ? 0.12 : 2e-2));
      CHECK(near(shear.reversed.value().value, lowest("shear", true), uneven ? 0.05 : 2e-2));
    }
}

TEST_CASE("a C and a hat as columns: bent and twisted, and by their walls, as the solver's shells have them") {
  const std::vector<Vector2> C{{40, 0}, {0, 0}, {0, 80}, {40, 80}},
      hat{{-40, 0}, {-20, 0}, {-20, 40}, {20, 40}, {20, 0}, {40, 0}};
  for (const auto& [corners, length, inside] :
       {std::tuple{C, 1500.0, Vector2(30, 40)}, {C, 300.0, {30, 40}}, {hat, 1500.0, {0, 10}}, {hat, 300.0, {0, 10}}}) {
    const Profile profile{corners, length, inside};
    INFO((corners.size() == 4 ? "C" : "hat") << " of " << length);
    const test::Folder folder;
    const test::Cases solved =
        test::solve_cases(folder, profile.part(), profile.grid(corners.size() == 4 ? 12 : 16, length > 1000 ? 50 : 24),
                          {.solids = {}, .layers = deck::LayersAs::equivalents});
    const std::vector<Wall> walls = profile.walls(stack_of(solved.design));
    const Bar bar{section_stiffness(walls), length};
    double by_strips = 1e300;
    for (int waves = 1; waves <= 10; ++waves)
      by_strips = std::min(by_strips, strip_buckling(walls, {}, length / waves).value().factor * bar.section.EA);
    const double by_bar = column_buckling(bar, 1)[0].force.value, found = solved.modes("push").at(0) * profile.around();
    CHECK(near(by_strips, found, 2e-2));
    if (length < 1000) {
      // Its walls go first, or the hat's shape with them.
      CHECK(by_bar > by_strips);
      continue;
    }
    // A bar keeps its section's shape; a hat gives in it, by what stands between both theories.
    CHECK(near(by_bar, found, corners.size() == 4 ? 2e-2 : 3e-2));
    const auto bell = bar_frequencies(bar, 2);
    const auto sung = solved.modes("bell");
    REQUIRE(sung.size() >= 2);
    for (std::size_t i = 0; i < 2; ++i) CHECK(near(bell[i].frequency.value, sung[i], 2e-2));
  }
}

}  // namespace of_sizing_solver
