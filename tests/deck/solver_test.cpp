// What CalculiX makes of the decks, against lamination theory. Every deck here is written by the library from a part file.
#include "support.hpp"

#include <Eigen/LU>
#include <fmt/format.h>

#include <cmath>

using namespace bordado;
using test::Grid;

namespace {

/// A part file for grid.msh: head, materials, plies as code over everything, then supports and loads.
std::string part_text(const std::string& code, const std::string& surface, const std::string& conditions, const std::string& material = "ud") {
  return fmt::format(R"(
[part]
name = "Test"
units = "mm, t, s"
mesh = {{ file = "grid.msh", length = "mm" }}
side = {{ along = [0, 0, 1] }}
surface = "{}"
{}
[layup]
plies = [ {{ id = "P", material = "{}", frame = "x", code = "{}" }} ]
{}
)",
                     surface, test::materials(), material, code, conditions);
}

laminate::Stiffness theory(const Design& design) { return laminate::stiffness(section::laminate_of(design.part, design.sections, 0), design.sections.bottom[0]); }

/// Strain and curvature for given resultants: [e0; k] = ABD^-1 [N; M].
Eigen::Matrix<double, 6, 1> strains(const laminate::Stiffness& stiffness, const Eigen::Matrix<double, 6, 1>& resultants) {
  return stiffness.ABD().inverse() * resultants;
}

}  // namespace

TEST_CASE("an unsymmetric strip in tension stretches and curves as lamination theory says") {
  // Held so that nothing but rigid motion is taken away: the whole strip is in the state N = (Nx, 0, 0), M = 0, so theory is exact.
  // Displacements of a state of constant strain and curvature: u = ex x + gxy/2 y, w = -(kx x^2 + ky y^2 + kxy x y) / 2 (+ rigid motion).
  const std::string conditions = R"(
[support.origin]
point = [0, 0, 0]
hold = ["x", "y", "z"]
[support.right-corner]
point = [100, 0, 0]
hold = ["y", "z"]
[support.back-corner]
point = [0, 20, 0]
hold = ["z"]
[load.pull]
on = "right"
force = [200, 0, 0]
[load.hold]
on = "left"
force = [-200, 0, 0]
)";
  const test::Folder folder;
  const test::Solved solved = test::solve(folder, part_text("[45/-45/0/90]", "middle", conditions), Grid::rectangle(20, 4, 100, 20));
  Eigen::Matrix<double, 6, 1> resultants;
  resultants << 200.0 / 20.0, 0, 0, 0, 0, 0;
  const auto e = strains(theory(solved.design), resultants);
  const Vec3 x = solved.at({100, 0, 0}), y = solved.at({0, 20, 0});
  const double ex = x.x() / 100, ey = y.y() / 20, gxy = y.x() / 20;
  // w = 0 at three corners; what is left at the middles of two edges and at the far corner gives the curvatures.
  const double kx = -2.0 * solved.at({50, 0, 0}).z() / (50 * 50 - 50 * 100);
  const double ky = -2.0 * solved.at({0, 10, 0}).z() / (10 * 10 - 10 * 20);
  const double kxy = -2.0 * solved.at({100, 20, 0}).z() / (100 * 20);
  INFO("ratios: ex " << ex / e[0] << " ey " << ey / e[1] << " kx " << kx / e[3] << " ky " << ky / e[4] << " kxy " << kxy / e[5]);
  // The solver's constant transverse shear and reduced integration leave some tenths of a percent at the free edges.
  CHECK(ex == doctest::Approx(e[0]).epsilon(0.005));
  CHECK(ey == doctest::Approx(e[1]).epsilon(0.005));
  CHECK(std::abs(gxy - e[2]) < 0.005 * std::abs(e[0]));
  CHECK(kx == doctest::Approx(e[3]).epsilon(0.005));
  CHECK(ky == doctest::Approx(e[4]).epsilon(0.005));
  CHECK(kxy == doctest::Approx(e[5]).epsilon(0.005));
}
