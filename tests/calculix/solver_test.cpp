// What CalculiX makes of the decks, against lamination theory. Every deck here is written by the library from a part
// file.
#include "cases.hpp"

#include <bordado/recovery.hpp>

#include <fmt/format.h>
#include <Eigen/Geometry>
#include <Eigen/LU>

#include <cmath>
#include <numbers>

namespace of_calculix_solver {

using namespace bordado;
using test::Grid;

namespace {

/// A part file for grid.msh: head, materials, plies as code over everything, then supports and loads.
std::string part_text(const std::string& code, const std::string& surface, const std::string& conditions,
                      const std::string& material = "ud") {
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

/// A strip of 100 mm by 20 mm pulled by 200 N at both ends, held so that nothing but rigid motion is taken away: the
/// whole strip is in the state N = (10, 0, 0) N/mm, M = 0 at the mesh, so that theory is exact.
const std::string free_strip = test::held_statically(100, 20) + R"(
[load.pull]
on = "right"
force = [200, 0, 0]
[load.hold]
on = "left"
force = [-200, 0, 0]
)";

laminate::Stiffness theory(const Design& design) {
  return laminate::stiffness(section::laminate_of(design.part, design.sections, section::SectionId{0}),
                             design.sections.bottom.all()[0]);
}

/// Strain and curvature for given resultants: [e0; k] = ABD^-1 [N; M].
Eigen::Matrix<double, 6, 1> strains(const laminate::Stiffness& stiffness,
                                    const Eigen::Matrix<double, 6, 1>& resultants) {
  return stiffness.ABD().inverse() * resultants;
}

}  // namespace

TEST_CASE("an unsymmetric strip in tension stretches and curves as lamination theory says") {
  // Held so that nothing but rigid motion is taken away: the whole strip is in the state N = (Nx, 0, 0), M = 0, so
  // theory is exact. Displacements of a state of constant strain and curvature: u = ex x + gxy/2 y, w = -(kx x^2 + ky
  // y^2 + kxy x y) / 2 (+ rigid motion).
  const test::Folder folder;
  const test::Solved solved =
      test::solve(folder, part_text("[45/-45/0/90]", "middle", free_strip), Grid::rectangle(20, 4, 100, 20));
  Eigen::Matrix<double, 6, 1> resultants;
  resultants << 200.0 / 20.0, 0, 0, 0, 0, 0;
  const auto e = strains(theory(solved.design), resultants);
  const Vec3 x = solved.at({100, 0, 0}), y = solved.at({0, 20, 0});
  const double ex = x.x() / 100, gxy = y.x() / 20;
  const double ey = (solved.at({50, 20, 0}).y() - solved.at({50, 0, 0}).y()) / 20;
  // w = 0 at three corners; what is left at the middles of two edges and at the far corner gives the curvatures.
  const double kx = -2.0 * solved.at({50, 0, 0}).z() / (50 * 50 - 50 * 100);
  const auto w = [&](double across) { return solved.at({50, across, 0}).z(); };
  const double ky = (w(10) - 0.5 * (w(0) + w(20))) / 50;
  const double kxy = -2.0 * solved.at({100, 20, 0}).z() / (100 * 20);
  INFO("ratios: ex " << ex / e[0] << " ey " << ey / e[1] << " kx " << kx / e[3] << " ky " << ky / e[4] << " kxy "
                     << kxy / e[5]);
  // The solver's constant transverse shear and reduced integration leave some tenths of a percent at the free edges.
  CHECK(test::near(ex, e[0], 0.005));
  CHECK(test::near(ey, e[1], 0.005));
  CHECK(std::abs(gxy - e[2]) < 0.005 * std::abs(e[0]));
  CHECK(test::near(kx, e[3], 0.005));
  CHECK(test::near(ky, e[4], 0.005));
  CHECK(test::near(kxy, e[5], 0.005));
}

namespace {

/// Centre deflection of a simply supported specially orthotropic plate a x b under pressure p: Navier's double series.
/// J. N. Reddy, Mechanics of Laminated Composite Plates and Shells (2nd ed.), eqs. 5.2.16 to 5.2.18.
double navier_centre(const laminate::Matrix3& D, double a, double b, double p) {
  const double pi = std::numbers::pi;
  double w = 0.0;
  for (int m = 1; m < 60; m += 2)
    for (int n = 1; n < 60; n += 2) {
      const double x = m * pi / a, y = n * pi / b;
      const double stiffness =
          D(0, 0) * std::pow(x, 4) + 2 * (D(0, 1) + 2 * D(2, 2)) * x * x * y * y + D(1, 1) * std::pow(y, 4);
      w += 16 * p / (pi * pi * m * n) / stiffness * std::sin(m * pi / 2) * std::sin(n * pi / 2);
    }
  return w;
}

const std::string simply_supported = R"(
[support.left]
on = "left"
hold = ["z"]
[support.right]
on = "right"
hold = ["z"]
[support.front]
on = "front"
hold = ["z"]
[support.back]
on = "back"
hold = ["z"]
[support.origin]
on = "corner"
hold = ["x", "y"]
[support.right-corner]
point = [200, 0, 0]
hold = ["y"]
[load.pressure]
on = "plate"
pressure = "0.1 kPa"
face = "tool"
)";

/// Relative error of the centre deflection on n x n cells of a 200 mm plate, 0.5 mm thick (a/h = 400).
double plate_error(int n, bool triangles) {
  const test::Folder folder;
  std::string text = part_text("[0/90]s", "middle", simply_supported);
  const std::string thin = "thickness = \"0.25 mm\"";
  text.replace(text.find(thin), thin.size(), "thickness = \"0.125 mm\"");
  Grid grid = Grid::rectangle(n, n, 200, 200);
  grid.triangles = triangles;
  const test::Solved solved = test::solve(folder, text, grid);
  return solved.at({100, 100, 0}).z() / navier_centre(theory(solved.design).D, 200, 200, 1e-4) - 1.0;
}

}  // namespace

TEST_CASE("a thin simply supported cross-ply plate under pressure deflects as Navier's series says, along the normal") {
  const double coarse = plate_error(4, false), fine = plate_error(16, false);
  INFO("quadrilaterals 4 x 4: " << coarse << ", 16 x 16: " << fine);
  CHECK(std::abs(fine) < 0.01);
  CHECK(std::abs(fine) < std::abs(coarse));
  const double triangles[] = {plate_error(4, true), plate_error(8, true), plate_error(16, true)};
  INFO("triangles 4, 8, 16: " << triangles[0] << " " << triangles[1] << " " << triangles[2]);
  CHECK(std::abs(triangles[1]) < 0.5 * std::abs(triangles[0]));
  CHECK(std::abs(triangles[2]) < 0.5 * std::abs(triangles[1]));
  CHECK(std::abs(triangles[2]) < 0.01);
}

TEST_CASE("a soft-cored sandwich strip bends mostly by shear of its core, and comes out right") {
  const std::string conditions = test::cantilever("[0, 0, 10]");
  double previous = 1.0;
  calculix::SolveOptions options;
  options.deck.layers = deck::LayersAs::plies;  // three layers have the core's shear as it is
  for (const int n : {4, 16}) {
    const test::Folder folder;
    const test::Solved solved =
        test::solve(folder, part_text("[0_4/0F/0_4]", "bottom", conditions), Grid::rectangle(n, 2, 200, 20), options);
    // Narrow cantilever, tip force P: w = P L^3 / (3 E I) + P L / (H b), with E I = b / d11 of the laminate free to
    // stretch.
    const laminate::Stiffness k = laminate::moved(theory(solved.design), 6.0);
    const double b = 20, L = 200, P = 10, d11 = k.ABD().inverse()(3, 3);
    const double bending = P * L * L * L * d11 / (3 * b), shear = P * L / (k.H(0, 0) * b);
    const double ratio = solved.at({200, 10, 0}).z() / (bending + shear);
    INFO("n = " << n << ": shear is " << shear / (bending + shear) << " of the deflection; solver / theory " << ratio);
    CHECK(shear > 0.6 * (bending + shear));
    CHECK(std::abs(ratio - 1) < (n == 16 ? 0.001 : 0.03));
    CHECK(std::abs(ratio - 1) < std::max(previous, 2e-4));
    previous = std::abs(ratio - 1);
    bool told = false;
    for (const Finding& finding : solved.findings.all()) told = told || finding.code == "deck.soft-core";
    CHECK(told);
  }
}

TEST_CASE("a tube of +-45 plies pulled along its axis stretches and shrinks as lamination theory says") {
  const double R = 25, L = 200, force = 5000;
  double errors[3];
  const int around[] = {12, 24, 48};
  for (int i = 0; i < 3; ++i) {
    const test::Folder folder;
    std::string text = part_text("[45/-45]s", "middle", R"(
[support.end]
on = "front"
hold = ["z"]
[support.right]
point = [25, 0, 0]
hold = ["y"]
[support.left]
point = [-25, 0, 0]
hold = ["y"]
[support.top]
point = [0, 25, 0]
hold = ["x"]
[load.pull]
on = "back"
force = [0, 0, 5000]
)");
    text.replace(text.find("along = [0, 0, 1]"), 17, "away-from = [0, 0, 100]");
    text.replace(text.find("vector = [1, 0, 0]"), 18, "vector = [0, 0, 1]");
    const Grid tube{.nx = around[i],
                    .ny = around[i],
                    .map =
                        [=](double u, double v) {
                          return Vec3(R * std::cos(2 * std::numbers::pi * u), R * std::sin(2 * std::numbers::pi * u),
                                      L * v);
                        },
                    .quadratic = true,
                    .closed_u = true};
    const test::Solved solved = test::solve(folder, text, tube);
    const laminate::Matrix3 a = theory(solved.design).A.inverse();
    const double N = force / (2 * std::numbers::pi * R);
    const double axial = (solved.at({R, 0, 150}).z() - solved.at({R, 0, 50}).z()) / 100;
    const double hoop = (solved.at({R, 0, 100}).x() - solved.at({-R, 0, 100}).x()) / (2 * R);
    errors[i] = std::max(std::abs(axial / (N * a(0, 0)) - 1), std::abs(hoop / (N * a(0, 1)) - 1));
    INFO(around[i] << " elements around: axial " << axial / (N * a(0, 0)) << ", hoop " << hoop / (N * a(0, 1)));
    CHECK(errors[i] < 0.1);
  }
  INFO("errors " << errors[0] << " " << errors[1] << " " << errors[2]);
  CHECK(errors[1] < errors[0]);
  CHECK(errors[2] < errors[1]);
  CHECK(errors[2] < 0.01);
}

TEST_CASE("a force on the mesh acts on the mesh, whichever face of the laminate lies there") {
  // A symmetric strip pulled at the mesh: flush with a face it bends, since the force is h/2 from its middle.
  for (const std::string surface : {"bottom", "middle", "top"}) {
    const test::Folder folder;
    const test::Solved solved =
        test::solve(folder, part_text("[0/90]2s", surface, free_strip), Grid::rectangle(20, 4, 100, 20));
    Eigen::Matrix<double, 6, 1> resultants;
    resultants << 200.0 / 20.0, 0, 0, 0, 0, 0;
    const auto e = strains(theory(solved.design), resultants);  // about the mesh surface
    const double z_middle = solved.design.sections.bottom.all()[0] + 1.0;
    const double kx = -2.0 * solved.at({50, 0, 0}).z() / (50 * 50 - 50 * 100);
    const double ky = -2.0 * solved.at({0, 10, 0}).z() / (10 * 10 - 10 * 20);
    // Of the laminate's middle, where the solver has its nodes; at loaded ones, which are knots, they are at the mesh.
    const double ex = (solved.at({60, 10, 0}).x() - solved.at({40, 10, 0}).x()) / 20;
    INFO(surface << ": kx " << kx << " theory " << e[3] << ", ky " << ky << " theory " << e[4] << ", ex " << ex
                 << " theory " << e[0] + z_middle * e[3]);
    CHECK(test::near(z_middle, surface == "bottom" ? 1.0 : surface == "top" ? -1.0 : 0.0));
    CHECK(std::abs(kx - e[3]) < 0.005 * std::abs(e[0]));
    CHECK(std::abs(ky - e[4]) < 0.005 * std::abs(e[0]));
    CHECK(test::near(ex, e[0] + z_middle * e[3], 0.005));
    if (surface == "bottom")
      CHECK(kx < -0.1 * ex);  // pulled below its middle it curves upwards: w = -k x^2 / 2 > 0 at the ends
    if (surface == "top") CHECK(kx > 0.1 * ex);
  }
}

TEST_CASE("a force along the edge enters as the layers bear it: sandwiches and thick cross-plies do not warp there") {
  // Without the ties at loaded nodes a sandwich's edge moved by 0.54 to 1.9 times theory, its energy was 3.5 times that.
  for (const deck::LayersAs layers : {deck::LayersAs::plies, deck::LayersAs::equivalents})
    for (const std::string code : {"[0_4/0{foam}/0_4]", "[0_4/0{foam}/0_8]", "[0_4/90_8/0_4]"}) {
      INFO(code);
      const test::Folder folder;
      const test::Solved solved = test::solve(folder, part_text(code, "middle", free_strip),
                                              Grid::rectangle(20, 4, 100, 20), {.deck = {.layers = layers}});
      Eigen::Matrix<double, 6, 1> resultants;
      resultants << 200.0 / 20.0, 0, 0, 0, 0, 0;
      const auto e = strains(theory(solved.design), resultants);
      for (const double y : {0.0, 5.0, 10.0, 20.0}) {
        const double longer = solved.at({100, y, 0}).x() - solved.at({0, y, 0}).x();
        CHECK(test::near(longer, 100.0 * e[0], 2e-3));
      }
    }
}

TEST_CASE("a plate that stands askew in space answers as the level one does, turned") {
  // The solver treats rotations and moments in global axes: clamps and the moments of eccentric forces must not feel
  // the turn.
  const Eigen::Matrix3d turn = (Eigen::AngleAxisd(0.7, Vec3(0.3, -0.5, 0.8).normalized())).toRotationMatrix();
  std::vector<Vec3> answers;
  for (const Eigen::Matrix3d& R : {Eigen::Matrix3d(Eigen::Matrix3d::Identity()), turn}) {
    const Vec3 force = R * Vec3(200, 30, 0.5), normal = R * Vec3::UnitZ(), reference = R * Vec3::UnitX();
    std::string text = part_text(
        "[30/-45/0/90]", "bottom",
        fmt::format(
            "[support.root]\non = \"left\"\nhold = \"clamped\"\n[load.tip]\non = \"right\"\nforce = [{}, {}, {}]\n",
            force.x(), force.y(), force.z()));
    text.replace(text.find("along = [0, 0, 1]"), 17,
                 fmt::format("along = [{}, {}, {}]", normal.x(), normal.y(), normal.z()));
    text.replace(text.find("vector = [1, 0, 0]"), 18,
                 fmt::format("vector = [{}, {}, {}]", reference.x(), reference.y(), reference.z()));
    Grid grid = Grid::rectangle(10, 4, 100, 40);
    grid.map = [=](double u, double v) { return Vec3(R * Vec3(100 * u, 40 * v, 0)); };
    const test::Folder folder;
    const test::Solved solved = test::solve(folder, text, grid);
    answers.push_back(R.transpose() * solved.at(R * Vec3(100, 20, 0)));
  }
  INFO("level " << answers[0].transpose() << ", askew " << answers[1].transpose());
  CHECK((answers[1] - answers[0]).norm() < 1e-4 * answers[0].norm());
}

TEST_CASE("a quarter of a plate with symmetry supports answers as the whole plate") {
  const auto centre = [](bool quarter) {
    const test::Folder folder;
    const std::string whole =
        "[support.left]\non = \"left\"\nhold = \"clamped\"\n[support.right]\non = \"right\"\nhold = \"clamped\"\n"
        "[support.front]\non = \"front\"\nhold = \"pinned\"\n[support.back]\non = \"back\"\nhold = \"pinned\"\n";
    const std::string part =
        "[support.left]\non = \"left\"\nhold = \"clamped\"\n[support.right]\non = \"right\"\nhold = \"symmetry-x\"\n"
        "[support.front]\non = \"front\"\nhold = \"pinned\"\n[support.back]\non = \"back\"\nhold = \"symmetry-y\"\n";
    const std::string load = "[load.p]\non = \"plate\"\npressure = \"1 kPa\"\nface = \"bag\"\n";
    const double size = quarter ? 0.5 : 1.0;
    const int n = quarter ? 6 : 12;
    return test::solve(folder, part_text("[0/90]s", "middle", (quarter ? part : whole) + load),
                       Grid::rectangle(n, n, size * 200, size * 120))
        .at({100, 60, 0})
        .z();
  };
  const double whole = centre(false);
  CHECK(whole < 0);  // pressure on the bag face pushes against the normal
  CHECK(test::near(centre(true), whole, 1e-4));
}

TEST_CASE("reactions of a clamped curved zone balance the load, where the solver's own sum does not") {
  // Bent about y; the first quarter of its length clamped: six freedoms of many nodes.
  const Grid grid{.nx = 16, .ny = 8, .map = [](double u, double v) {
                    const double angle = 1.05 * (v - 0.5);
                    return Vec3(400 * u, 300 * std::sin(angle), 300 * std::cos(angle) - 290);
                  }};
  for (const std::string load :
       {"on = \"plate\"\npressure = \"1 kPa\"\nface = \"tool\"", "on = \"right\"\nforce = [0, 0, -20]"}) {
    const test::Folder folder;
    const test::Solved solved = test::solve(
        folder,
        part_text(
            "[0/90]s", "bottom",
            "[zone.root]\nbox = { from = [0, -999, -999], to = [100, 999, 999] }\n[support.root]\non = \"root\"\nhold "
            "= \"clamped\"\n[load.p]\n" +
                load + "\n"),
        grid);
    INFO("load " << solved.load.transpose() << ", reaction " << solved.reaction.transpose());
    CHECK(solved.load.norm() > 19.0);
    CHECK((solved.reaction + solved.load).norm() < 1e-4 * solved.load.norm());
  }
}

TEST_CASE("what each clamped support of a curved shell puts on the part is told, and what prescribed motion does") {
  // A tube clamped at both ends, pushed sideways off its middle: as a beam the nearer end bears more. The solver's own
  // sum at a clamped curved edge is 1 to 3 % off.
  const double R = 50, L = 200;
  const Grid grid{.nx = 24,
                  .ny = 20,
                  .map =
                      [&](double u, double v) {
                        const double angle = 2 * std::numbers::pi * u + 0.01;
                        return Vec3(R * std::cos(angle), R * std::sin(angle), L * v);
                      },
                  .closed_u = true};
  for (const std::string surface : {"middle", "bottom"}) {
    CAPTURE(surface);
    const test::Folder folder;
    const test::Cases solved = test::solve_cases(folder,
                                                 test::case_part("[0/45/-45/90]s", R"(
[zone.push]
box = { from = [-99, -99, 39.9], to = [99, 99, 60.1] }
[support.foot]
on = "front"
hold = "clamped"
[support.head]
on = "back"
hold = "clamped"
[load.push]
on = "push"
force = [1000, 0, 0]
[load.lift]
on = "back"
displacement = { z = 0.01 }
[case.push]
loads = ["push"]
[case.lift]
loads = ["lift"]
supports = ["foot"]
)",
                                                                 "", surface),
                                                 grid);
    const auto told = [&](const std::string& name) {
      const std::size_t k = solved.at(name);
      return result::forces_of_supports(solved.model, solved.model.cases[k], solved.all[k].fields,
                                        solved.all[k].reaction);
    };
    const auto push = told("push");
    REQUIRE(push.size() == 2);
    CHECK(test::near(push[0].force.x() + push[1].force.x(), -1000, 1e-5));
    CHECK(push[0].force.x() < 2 * push[1].force.x());
    CHECK(push[0].force.x() < -600);
    CHECK(push[0].force.x() > -950);
    const auto lift = told("lift");
    REQUIRE(lift.size() == 2);
    CHECK(lift[1].moves);
    CHECK(test::near(lift[0].force.z(), -lift[1].force.z(), 1e-6));
    CHECK(lift[1].force.z() > 0);
  }
}

TEST_CASE("each of several supports has its moment: by beam theory, and together they balance the loads") {
  // Strips under pressure, p a length of q: both ends clamped, and one of them.
  const double L = 100, W = 10, q = 0.001 * W;
  const std::string soft =
      "[material.soft]\nkind = \"foam\"\nE = 130\nnu = 0.3\ndensity = \"80 kg/m^3\"\nthickness = \"4 mm\"\nmark = "
      "\"K\"\n";
  struct Try {
    bool solids;
    std::string surface, code;
    deck::LayersAs layers = deck::LayersAs::plies;
  };
  for (const Try& one :
       {Try{false, "middle", "[0/90/0]"}, Try{true, "middle", "[0/90/0]"}, Try{false, "bottom", "[0/90/0]"},
        Try{false, "top", "[0/90]"}, Try{false, "bottom", "[0/0K/0]"},
        Try{false, "bottom", "[0/0K/0]", deck::LayersAs::equivalents}})
    for (const bool both : {true, false}) {
      const bool solids = one.solids;
      INFO((solids ? "solids" : "shells") << " of " << one.code << " on their " << one.surface
                                          << (both ? ", both ends clamped" : ", one end clamped"));
      const test::Folder folder;
      const test::Cases solved = test::solve_cases(
          folder,
          test::case_part(one.code,
                          fmt::format(R"(
[support.left]
on = "left"
hold = "clamped"
[support.right]
on = "right"
hold = {}
[load.press]
on = "plate"
face = "tool"
pressure = 0.001
)",
                                      both ? "\"clamped\"" : "[\"z\"]"),
                          soft, one.surface),
          Grid::rectangle(24, 2, L, W),
          {.solids = solids ? std::optional(model::SolidOptions{model::SolidOptions::Per::ply, 0}) : std::nullopt,
           .layers = one.layers,
           .ply_results = true});
      const auto told =
          result::forces_of_supports(solved.model, solved.model.cases[0], solved.all[0].fields, solved.all[0].reaction);
      REQUIRE(told.size() == 2);
      REQUIRE(told[0].moment.has_value());
      REQUIRE(told[1].moment.has_value());
      // About the origin: the couple at the left end, and at the right one what its force adds.
      // A core that shears takes from the clamp what the beam's formula gives it; ends that are both clamped share alike.
      if (both || one.code != "[0/0K/0]") {
        CHECK(test::near(told[0].force.z(), -(both ? 0.5 : 0.625) * q * L, 0.01));
        CHECK(test::near(told[0].moment->y(), (both ? 1.0 / 12 : 0.125) * q * L * L, 0.015));
        const double couple = told[1].moment->y() + L * told[1].force.z();
        CHECK(test::near(couple, both ? -q * L * L / 12 : 0.0, 0.015, 0.1 * q * L * L));
      }
      CHECK(test::near(told[0].force.z() + told[1].force.z(), -q * L, 1e-5));
      const Vec3 loads = model::total(solved.model, solved.model.loads[0]).moment;
      CHECK((*told[0].moment + *told[1].moment + loads).norm() < 0.004 * loads.norm());
    }
}

TEST_CASE("pressure on a thick curved shell pushes on the face that is named") {
  // A quarter ring of inner radius 96, wall 8 (4 % of its radius): the hoop force is p times the radius of the face.
  const Grid grid{.nx = 24,
                  .ny = 2,
                  .map =
                      [](double u, double v) {
                        const double angle = std::numbers::pi / 2 * u;
                        return Vec3(96 * std::cos(angle), 10 * v, 96 * std::sin(angle));
                      },
                  .quadratic = true};
  const auto widened = [&](const std::string& face) {
    const test::Folder folder;
    std::string text =
        part_text("[90]", "bottom",
                  "[support.a]\non = \"left\"\nhold = \"symmetry-z\"\n[support.b]\non = \"right\"\nhold = "
                  "\"symmetry-x\"\n[support.c]\non = \"front\"\nhold = [\"y\"]\n[support.d]\non = "
                  "\"back\"\nhold = [\"y\"]\n[load.p]\non = \"plate\"\npressure = 1\nface = \"" +
                      face + "\"\n");
    text.replace(text.find("along = [0, 0, 1]"), 17, "away-from = [0, 5, 0]");
    text.replace(text.find("thickness = \"0.25 mm\""), 21, "thickness = \"8 mm\"");
    text.replace(text.find("vector = [1, 0, 0]"), 18, "vector = [0, 1, 0]");
    const test::Solved solved = test::solve(folder, text, grid);
    const double radius = face == "tool" ? 96.0 : 104.0, sign = face == "tool" ? 1.0 : -1.0;
    // A quarter of a ring under pressure: p times radius times width along each axis.
    CHECK(test::near(solved.load.x(), sign * radius * 10.0, 1e-4));
    CHECK(test::near(solved.load.z(), sign * radius * 10.0, 1e-4));
    CHECK((solved.reaction + solved.load).norm() < 1e-4 * solved.load.norm());
    return sign * solved.at({96, 5, 0}).x() / radius;
  };
  // Per radius of the pressed face both widen the ring alike; at one and the same face they would differ by 8 %.
  CHECK(test::near(widened("bag"), widened("tool"), 0.01));
}

TEST_CASE("tied thickness steps at every node do not stiffen the plate") {
  // Every other element 2 % thicker: with nu13 and nu23 of the material the deflection was 4 % short.
  const auto centre = [](const std::string& plies, const std::string& zones) {
    const test::Folder folder;
    const std::string held =
        "[support.l]\non = \"left\"\nhold = [\"z\"]\n[support.r]\non = \"right\"\nhold = [\"z\"]\n"
        "[support.f]\non = \"front\"\nhold = [\"z\"]\n[support.b]\non = \"back\"\nhold = [\"z\"]\n"
        "[support.c]\npoint = [100, 100, 0]\nhold = [\"x\", \"y\"]\n[support.d]\npoint = [200, 100, 0]\nhold = "
        "[\"y\"]\n"
        "[load.p]\non = \"plate\"\npressure = \"1 kPa\"\nface = \"bag\"\n";
    std::string text = part_text("[0/90]s", "middle", zones + held);
    if (!plies.empty()) text.replace(text.find("plies = ["), 9, "plies = [" + plies);
    return test::solve(folder, text, Grid::rectangle(12, 12, 200, 200)).at({100, 100, 0}).z();
  };
  std::string ids;
  const test::Folder folder;
  const mesh::Surface surface = test::surface(Grid::rectangle(12, 12, 200, 200));
  const mesh::Geometry geometry = mesh::geometry(surface);
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
    const auto i = static_cast<int>(geometry.centres[e].x() / 200 * 12),
               j = static_cast<int>(geometry.centres[e].y() / 200 * 12);
    if ((i + j) % 2 == 0) ids += fmt::format("{}, ", surface.element_ids[e]);
  }
  const double even = centre("", "");
  const double steps =
      centre("{ id = \"S\", material = \"ud\", frame = \"x\", angle = 0, zone = \"odd\", thickness = 1e-4 },",
             "[zone.odd]\nelements = [" + ids + "]\n");
  INFO("even " << even << ", with knots at every node " << steps);
  CHECK(std::abs(steps / even - 1.0) < 0.003);
}

}  // namespace of_calculix_solver
