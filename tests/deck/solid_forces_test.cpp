// Forces on columns of solids and what supports hold of them, against lamination theory and beams.
#include "cases.hpp"

namespace of_deck_solid_forces {

using namespace bordado;
using test::Cases;
using test::Grid;
using Per = model::SolidOptions::Per;

namespace {

/// Nothing but rigid motion is held.
const std::string free_strip = test::held_statically(100, 20);

const std::string foam = R"(
[material.soft]
kind = "foam"
E = "130 MPa"
G = "50 MPa"
density = "60 kg/m^3"
thickness = "6 mm"
)";

/// Displacement of every node of the solids.
std::vector<Vec3> moved(const Cases& solved, std::size_t case_index = 0) {
  std::vector<Vec3> out(solved.model.solids->points.size(), Vec3::Zero());
  for (const auto& row : solved.answers[case_index].displacements)
    if (row.id <= static_cast<std::int64_t>(out.size())) out[static_cast<std::size_t>(row.id - 1)] = row.value;
  return out;
}

/// What the laminate does under N and M, about the mesh.
Eigen::Matrix<double, 6, 1> state(const Cases& solved, const Eigen::Matrix<double, 6, 1>& load) {
  return test::stiffness_of(solved.design).ABD().inverse() * load;
}

}  // namespace

TEST_CASE("a force along the edge of solids moves all of the edge as lamination theory says") {
  // On one row of nodes it moved a sandwich's edge by 0.67 to 8.6 times that. The strip is pulled, and sheared by forces
  // along its sides; solids of 4 x 2 a side, so that most of it is near an edge.
  for (const std::string surface : {"middle", "bottom"})
    for (const std::string code : {"[0_4/0{soft}/0_4]", "[0_4/0{soft}/0_8]", "[0_4/90_8/0_4]", "[45/-45/0]"}) {
      INFO(surface << " " << code);
      const test::Folder folder;
      const Cases solved = test::solve_cases(folder,
                                             test::case_part(code, free_strip + R"(
[load.right]
on = "right"
edge-force = [30, 0, 0]
[load.left]
on = "left"
edge-force = [-30, 0, 0]
)",
                                                             foam, surface),
                                             Grid::rectangle(4, 2, 100, 20), {.solids = model::SolidOptions{Per::ply}});
      Eigen::Matrix<double, 6, 1> load = Eigen::Matrix<double, 6, 1>::Zero();
      load[0] = 30;
      const auto e = state(solved, load);
      const std::vector<Vec3> u = moved(solved);
      const auto& points = solved.model.solids->points;
      // One corner is held, and turns: the motion that remains is the theory's and that of a rigid body.
      Eigen::MatrixXd rigid(3 * static_cast<Eigen::Index>(points.size()), 6);
      Eigen::VectorXd left(rigid.rows());
      for (std::size_t n = 0; n < points.size(); ++n) {
        const Vec3& p = points[n];
        const double x = p.x(), y = p.y(), z = p.z();
        const Vec3 theory((e[0] + z * e[3]) * x + 0.5 * (e[2] + z * e[5]) * y,
                          (e[1] + z * e[4]) * y + 0.5 * (e[2] + z * e[5]) * x,
                          -0.5 * (e[3] * x * x + e[4] * y * y + e[5] * x * y));
        for (int k = 0; k < 3; ++k) {
          const auto row = 3 * static_cast<Eigen::Index>(n) + k;
          left[row] = u[n][k] - theory[k];
          for (int r = 0; r < 3; ++r) {
            rigid(row, r) = r == k ? 1.0 : 0.0;
            rigid(row, 3 + r) = Vec3::Unit(r).cross(p)[k];
          }
        }
      }
      const Eigen::VectorXd rest = left - rigid * rigid.colPivHouseholderQr().solve(left);
      // Along the force. Beside the free sides each ply shrinks by its own measure, within a thickness of them.
      double worst = 0.0;
      for (std::size_t n = 0; n < points.size(); ++n)
        worst = std::max(worst, std::abs(rest[3 * static_cast<Eigen::Index>(n)]));
      CHECK(test::near(worst, 0.0, 0.01, 50.0 * std::abs(e[0])));
      CHECK(test::near(solved.all[0].strain_energy, 0.5 * 30 * e[0] * 2000, 2e-3));
    }
}

TEST_CASE("a force across and a couple on the edge of a sandwich of solids enter as shear flow and bending") {
  // The edge moves as one, bottom to top; with all of it on one row the core was squeezed there by a third of the load.
  const test::Folder folder;
  const Cases solved = test::solve_cases(folder,
                                         test::case_part("[0_4/0{soft}/0_4]", R"(
[support.root]
on = "left"
hold = "clamped"
[load.tip]
on = "right"
edge-force = [0, 0, 0.5]
[load.turn]
on = "right"
edge-moment = [0, 20, 0]
[case.tip]
loads = ["tip"]
[case.turn]
loads = ["turn"]
)",
                                                         foam, "bottom"),
                                         Grid::rectangle(10, 2, 200, 20), {.solids = model::SolidOptions{Per::ply}});
  const laminate::Stiffness own = laminate::moved(test::stiffness_of(solved.design), 4.0);
  const double d11 = own.ABD().inverse()(3, 3), H = own.H(0, 0), L = 200;
  const auto edge = [&](std::size_t one, int k) {
    const std::vector<Vec3> u = moved(solved, one);
    double low = 1e300, high = -1e300;
    for (std::size_t n = 0; n < u.size(); ++n)
      if (std::abs(solved.model.solids->points[n].x() - L) < 1e-6)
        low = std::min(low, u[n][k]), high = std::max(high, u[n][k]);
    return std::pair(low, high);
  };
  const auto [low, high] = edge(solved.at("tip"), 2);
  CHECK(test::near(low, 0.5 * (L * L * L * d11 / 3 + L / H), 0.02));
  CHECK(test::near(low, high, 2e-3));
  // Moments about y bend it down: w'' = -k.
  const auto [down_low, down_high] = edge(solved.at("turn"), 2);
  CHECK(test::near(down_low, -20 * d11 * L * L / 2, 0.02));
  CHECK(test::near(down_low, down_high, 2e-3));
}

TEST_CASE("solids pinned at the middle of their thickness are hinged there, where no node lies in the middle, too") {
  // Held at the nearest node the hinge was half a clamp: 30.0 for 94.4 with one solid, 291 N pushed along the strip.
  for (const std::size_t solids : {1u, 2u, 3u, 4u}) {
    INFO(solids << " through the thickness");
    const test::Folder folder;
    const Cases solved =
        test::solve_cases(folder,
                          test::case_part("[0]8", R"(
[support.left]
on = "left"
hold = "pinned"
[support.right]
on = "right"
hold = "pinned"
[load.wind]
on = "everything"
pressure = 0.01
face = "bag"
)",
                                          foam),
                          Grid::rectangle(20, 4, 100, 20), {.solids = model::SolidOptions{Per::count, solids}});
    const laminate::Stiffness k = test::stiffness_of(solved.design);
    // A wide beam whose ends cannot slide: what bends has no force along it, since small deflections call for none.
    const double b = 20, L = 100, q = 0.01;
    const double d11 = k.ABD().inverse()(3, 3);
    const double w = q * (5 * std::pow(L, 4) * d11 / 384 + L * L / (8 * k.H(0, 0)));
    const double found = std::abs(solved.moved("static", {L / 2, b / 2, 0}).z());
    INFO("found " << found << " for " << w);
    CHECK(test::near(found, w, 0.01));
    double along = 0.0;
    const auto& reactions = solved.all[0].fields.reactions;
    for (std::size_t n = 0; n < reactions.size(); ++n)
      if (solved.model.surface.points[n].x() < 1e-9) along += reactions[n].x();
    // The pressure squeezes it a little, which pushes along it by Poisson's ratio.
    CHECK(test::near(along, 0.0, 0.02, q * L * b));
    CHECK(test::near(solved.all[0].reaction.z(), q * L * b, 1e-5));
  }
}

TEST_CASE("what is moved in the middle of solids, and turned, is moved and turned as it says") {
  for (const std::size_t solids : {1u, 3u}) {
    INFO(solids << " through the thickness");
    const test::Folder folder;
    const Cases solved =
        test::solve_cases(folder, test::case_part("[0]8", R"(
[support.left]
on = "left"
hold = "clamped"
[load.turned]
on = "right"
displacement = { ry = 0.5 }
[load.pulled]
on = "right"
displacement = { x = 0.1 }
[case.turned]
loads = ["turned"]
[case.pulled]
loads = ["pulled"]
)"),
                          Grid::rectangle(10, 2, 100, 20), {.solids = model::SolidOptions{Per::count, solids}});
    // A strip turned at its end, and free to go where it will, bends evenly: k = turn / L, M = k / d11.
    const double L = 100, turn = 0.5 * std::numbers::pi / 180, k = turn / L;
    const laminate::Stiffness stiff = test::stiffness_of(solved.design);
    const double d11 = stiff.ABD().inverse()(3, 3), a11 = stiff.ABD().inverse()(0, 0);
    CHECK(test::near(solved.moved("turned", {L, 10, 0}).z(), -0.5 * k * L * L, 0.01));
    CHECK(test::near(solved.of("turned").strain_energy, 0.5 * 20 * L * k * k / d11, 0.02));
    CHECK(test::near(solved.of("turned").reaction.norm(), 0.0, 1e-6, 20 * k / d11 / L));
    const double top = solved.moved("turned", {L, 10, 1}).x(), bottom = solved.moved("turned", {L, 10, -1}).x();
    CHECK(test::near((top - bottom) / solved.model.solids->height[0], turn, 1e-4));
    double pull = 0.0;
    const auto& reactions = solved.of("pulled").fields.reactions;
    for (std::size_t n = 0; n < reactions.size(); ++n)
      if (solved.model.surface.points[n].x() < 1e-9) pull += reactions[n].x();
    CHECK(test::near(pull, -20 * 0.1 / L / a11, 0.02));  // clamped, it cannot shrink there
  }
}

}  // namespace of_deck_solid_forces
