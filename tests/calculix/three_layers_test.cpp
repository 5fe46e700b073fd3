// Three layers for a laminate: what they come to, and that the solver feels the laminate in them.
#include "solving.hpp"

#include <bordado/calculix/boxes.hpp>

#include <fmt/format.h>

#include <Eigen/Eigenvalues>

#include <cmath>
#include <random>

namespace of_calculix_three_layers {

using namespace bordado;
using test::Grid;

namespace {

/// Moments of the three layers about the mesh.
struct Sums {
  laminate::Matrix3 A = laminate::Matrix3::Zero(), B = A, D = A;
  laminate::Vector3 N = laminate::Vector3::Zero(), M = N;  ///< that hold one kelvin back
  double mass = 0.0;
};
Sums sums_of(const calculix::ThreeLayers& three) {
  Sums out;
  double z = three.bottom;
  for (std::size_t i = 0; i < 3; ++i) {
    const double t = three.shares[i] * three.thickness, m = z + 0.5 * t;
    out.A += t * three.Q[i];
    out.B += t * m * three.Q[i];
    out.D += (t * m * m + t * t * t / 12.0) * three.Q[i];
    out.N += t * three.Q[i] * three.expansion[i];
    out.M += t * m * three.Q[i] * three.expansion[i];
    out.mass += t * three.density[i];
    z += t;
  }
  return out;
}

laminate::Layer ud(double thickness, double degrees) {
  laminate::Layer out{test::carbon(), thickness, Angle::degrees(degrees), 1.55e-9};
  out.thermal = {-0.3e-6, 30e-6, 30e-6};
  return out;
}
laminate::Layer foam(double thickness, double E) {
  laminate::Layer out{material::isotropic(E, 0.3), thickness, Angle(), 8e-11};
  out.thermal = {40e-6, 40e-6, 40e-6};
  return out;
}

void check_exact(std::span<const laminate::Layer> layers, double bottom, double box) {
  const auto three = calculix::three_layers(layers, bottom, bottom, box);
  REQUIRE(three.has_value());
  const laminate::Stiffness k = laminate::stiffness(layers, bottom);
  const Sums is = sums_of(*three);
  const double h = laminate::thickness(layers), a = k.A.norm();
  CHECK((is.A - k.A).norm() < 1e-11 * a);
  CHECK((is.B - k.B).norm() < 1e-11 * a * h);
  CHECK((is.D - k.D).norm() < 1e-11 * k.D.norm());
  CHECK((three->G * box - k.H).norm() < 1e-12 * k.H.norm());
  CHECK(test::near(is.mass, laminate::areal_mass(layers), 1e-12));
  const laminate::Resultants push = laminate::held_expansion(layers, bottom, laminate::Expands::by_temperature);
  CHECK((is.N - push.N).norm() < 1e-10 * push.N.norm());
  CHECK((is.M - push.M).norm() < 1e-10 * push.N.norm() * h);
  for (const laminate::Matrix3& Q : three->Q)
    CHECK(Eigen::SelfAdjointEigenSolver<laminate::Matrix3>(Q).eigenvalues().minCoeff() > 0.0);
  CHECK(test::near(three->shares[0] + three->shares[1] + three->shares[2], 1.0, 1e-14));
}

}  // namespace

TEST_CASE("three layers have the laminate's A, B, D, H, mass and thermal forces, whatever the laminate") {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> thickness(0.05, 0.5), angle(-90, 90), box(1.0, 1.2), offset(-3, 1);
  std::uniform_int_distribution<int> plies(1, 40);
  for (int i = 0; i < 60; ++i) {
    std::vector<laminate::Layer> layers;
    for (int p = plies(random); p > 0; --p) layers.push_back(ud(thickness(random), angle(random)));
    if (i % 3 == 0) layers.insert(layers.begin() + static_cast<std::ptrdiff_t>(layers.size() / 2), foam(10.0, 100.0));
    INFO("laminate " << i << " of " << layers.size());
    check_exact(layers, offset(random), box(random) * laminate::thickness(layers));
  }
}

TEST_CASE("sandwiches with thin faces, with one face, and 200 plies are three layers too") {
  check_exact(std::vector{ud(0.2, 0), foam(20, 60), ud(0.2, 0)}, 0.0, 20.4);
  check_exact(std::vector{ud(1, 45), foam(18, 500), ud(1, -45)}, -10.0, 20.0 * 1.2);
  check_exact(std::vector{ud(1, 0), foam(5, 60)}, 0.0, 6.0);
  std::vector<laminate::Layer> many;
  for (int p = 0; p < 200; ++p) many.push_back(ud(0.1, 45.0 * (p % 4)));
  check_exact(many, 0.0, 20.0);
}

TEST_CASE("where three densities cannot have the moments of a laminate's mass, that is said, with how much") {
  // Heavy in the middle: the faces of three layers would have to weigh less than nothing.
  laminate::Layer lead = foam(1, 16000);
  lead.density = 1.1e-8;
  const std::vector<laminate::Layer> heavy = {ud(1, 0), foam(9, 60), lead, foam(10, 60), ud(1, 0)};
  const auto three = calculix::three_layers(heavy, 0.0, 0.0, laminate::thickness(heavy));
  REQUIRE(three.has_value());
  const calculix::MassMoments wanted = calculix::mass_moments(heavy, 0.0, *three), is = calculix::mass_moments(*three);
  CHECK(test::near(is.mass, wanted.mass, 1e-12));
  CHECK(!test::near(is.second, wanted.second, 1e-3));
  const std::vector<laminate::Layer> light = {ud(1, 0), foam(19, 60), ud(0.5, 0)};
  const auto plain = calculix::three_layers(light, 0.0, 0.0, laminate::thickness(light));
  CHECK(test::near(calculix::mass_moments(*plain).first, calculix::mass_moments(light, 0.0, *plain).first, 1e-9));
  CHECK(test::near(calculix::mass_moments(*plain).second, calculix::mass_moments(light, 0.0, *plain).second, 1e-9));
}

namespace {

std::string plate(const std::string& plies, const std::string& surface, const std::string& rest) {
  return fmt::format(
      "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"grid.msh\", length = \"mm\" }}\nside = {{ along "
      "= "
      "[0, 0, 1] }}\nsurface = \"{}\"\n{}[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ {} ]\n{}",
      surface, test::materials(), plies, rest);
}

const calculix::SolveOptions as_three{.deck = {.layers = deck::LayersAs::equivalents}};

}  // namespace

TEST_CASE("the solver feels the laminate in three layers: strains and curvatures of theory, on either face") {
  // A plate pulled by N = 10 N/mm at the mesh, nothing but rigid motion held: theory is exact but for its free edges, where
  // layers at ±45 slide against each other over the laminate's thickness: 1 % of a strip ten times as wide as that.
  const std::string pull =
      "[support.a]\npoint = [0, 0, 0]\nhold = [\"x\", \"y\", \"z\"]\n[support.b]\npoint = [100, 0, 0]\nhold = [\"y\", "
      "\"z\"]\n[support.c]\npoint = [0, 80, 0]\nhold = [\"z\"]\n[load.p]\non = \"right\"\nforce = [800, 0, "
      "0]\n[load.h]\non = \"left\"\nforce = [-800, 0, 0]\n";
  for (const std::string surface : {"bottom", "middle", "top"})
    for (const std::string code : {"[0/90]", "[30/-60/0_2/45]", "[45/-45/0/90]s"}) {
      INFO(surface << " " << code);
      const test::Folder folder;
      const test::Solved s = test::solve(
          folder, plate(fmt::format("{{ id = \"P\", code = \"{}\" }}", code), surface, pull),
          {.nx = 20, .ny = 12, .map = [](double u, double v) { return Vec3(100 * u, 80 * v, 0); }}, as_three);
      const laminate::Stiffness k =
          laminate::stiffness(section::laminate_of(s.design.part, s.design.sections, section::SectionId{0}),
                              s.design.sections.bottom.all()[0]);
      Eigen::Matrix<double, 6, 1> load = Eigen::Matrix<double, 6, 1>::Zero();
      load[0] = 10.0;
      const Eigen::Matrix<double, 6, 1> state = k.ABD().fullPivLu().solve(load);
      // w = -kx x^2/2 - ky y^2/2 - kxy x y/2, and a rigid part; the second difference along x in the middle.
      const double w0 = s.at({40, 40, 0}).z(), w1 = s.at({50, 40, 0}).z(), w2 = s.at({60, 40, 0}).z();
      const double bent = -(w0 - 2.0 * w1 + w2) / 100.0;
      CHECK(std::abs(bent - state[3]) < 0.005 * state.tail<3>().norm() + 1e-9);
      // Displacements are those of the middle of the box: strain there.
      const double middle = s.design.sections.bottom.all()[0] + 0.5 * s.design.sections.thickness.all()[0];
      const double strain = (s.at({60, 40, 0}).x() - s.at({40, 40, 0}).x()) / 20.0;
      CHECK(test::near(strain, state[0] + middle * state[3], 0.003));
    }
}

TEST_CASE("a sandwich bends with its core's shear without softened faces") {
  // A strip clamped at one end: w = F L^3 d11 / 3 b + F L / (b H).
  const double L = 200, b = 20, F = 5;
  const test::Folder folder;
  const test::Solved s = test::solve(
      folder,
      plate("{ id = \"A\", code = \"[0_4]\" }, { id = \"C\", material = \"foam\" }, { id = \"B\", code = \"[0_4]\" }",
            "middle", "[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.p]\non = \"right\"\nforce = [0, 0, -5]\n"),
      {.nx = 40, .ny = 4, .map = [=](double u, double v) { return Vec3(L * u, b * v, 0); }}, as_three);
  const auto layers = section::laminate_of(s.design.part, s.design.sections, section::SectionId{0});
  const laminate::Stiffness k = laminate::stiffness(layers, s.design.sections.bottom.all()[0]);
  const double d11 = laminate::compliance(k).d(0, 0), shear = k.H.inverse()(0, 0);
  const double w = F / b * (L * L * L * d11 / 3.0 + L * shear);
  CHECK(L * shear > 0.3 * (L * L * L * d11 / 3.0));  // so that it matters
  CHECK(test::near(-s.at({L, b / 2, 0}).z(), w, 0.01));
}

namespace {

/// The tapered strip as solids, one row of bricks along it: faces and core by their thickness at each place, fibres along
/// the slope. The deflection of the tip.
double by_solids(const std::function<double(double)>& core, double face, double L, double b, double F, double E,
                 double nu, const test::Folder& folder) {
  const int nx = 60;
  const std::array<double, 5> levels = {0.0, 1.0, 1.5, 2.0, 3.0};  // face, two halves of the core, face
  const auto z_at = [&](double x, double level) {
    const double c = core(x);
    return level <= 1.0 ? level * face : level <= 2.0 ? face + (level - 1.0) * c : face + c + (level - 2.0) * face;
  };
  std::string nodes, elements, orientations, sections;
  const auto id = [](int i, int j, int k) { return 1 + k + 9 * (j + 3 * i); };  // half steps
  for (int i = 0; i <= 2 * nx; ++i)
    for (int j = 0; j <= 2; ++j)
      for (int k = 0; k <= 8; ++k) {
        if ((i % 2) + (j % 2) + (k % 2) > 1) continue;
        const double x = L * i / (2.0 * nx), lower = levels[static_cast<std::size_t>(k / 2)],
                     upper = levels[static_cast<std::size_t>((k + 1) / 2)];
        const double z = 0.5 * (z_at(x, lower) + z_at(x, upper));
        nodes += fmt::format("{},{:.12g},{:.12g},{:.12g}\n", id(i, j, k), x, b * j / 2.0, z);
      }
  std::array<std::string, 4> sets;
  for (int i = 0; i < nx; ++i)
    for (int k = 0; k < 4; ++k) {
      const int I = 2 * i, K = 2 * k, e = 1 + 4 * i + k;
      elements +=
          fmt::format("{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},{},\n{},{},{},{},{}\n", e, id(I, 0, K),
                      id(I + 2, 0, K), id(I + 2, 2, K), id(I, 2, K), id(I, 0, K + 2), id(I + 2, 0, K + 2),
                      id(I + 2, 2, K + 2), id(I, 2, K + 2), id(I + 1, 0, K), id(I + 2, 1, K), id(I + 1, 2, K),
                      id(I, 1, K), id(I + 1, 0, K + 2), id(I + 2, 1, K + 2), id(I + 1, 2, K + 2), id(I, 1, K + 2),
                      id(I, 0, K + 1), id(I + 2, 0, K + 1), id(I + 2, 2, K + 1), id(I, 2, K + 1));
      const double x0 = L * i / nx, x1 = L * (i + 1) / nx;
      const double slope = k == 3 ? (core(x1) - core(x0)) / (x1 - x0) : 0.0;
      sections += fmt::format("*ELSET,ELSET=E{}\n{}\n", e, e);
      if (k == 0 || k == 3) {
        orientations += fmt::format("*ORIENTATION,NAME=O{}\n1,0,{:.12g},0,1,0\n", e, slope);
        sections += fmt::format("*SOLID SECTION,ELSET=E{},MATERIAL=UD,ORIENTATION=O{}\n", e, e);
      } else {
        sections += fmt::format("*SOLID SECTION,ELSET=E{},MATERIAL=FOAM\n", e);
      }
    }
  std::string held = "*NSET,NSET=ROOT\n", pushed = "*CLOAD\n";
  for (int j = 0; j <= 2; ++j)
    for (int k = 0; k <= 8; ++k)
      if ((j % 2) + (k % 2) <= 1) held += fmt::format("{},\n", id(0, j, k));
  // The end of the bottom face: 1/6, 4/6, 1/6 of the force across.
  for (const auto& [j, share] : {std::pair{0, 1.0}, std::pair{1, 4.0}, std::pair{2, 1.0}})
    pushed += fmt::format("{},3,{:.12g}\n", id(2 * nx, j, 0), -F * share / 6.0);
  const material::Elastic m = test::carbon();
  const std::string deck = fmt::format(
      "*NODE,NSET=ALL\n{}*ELEMENT,TYPE=C3D20R,ELSET=EALL\n{}{}*BOUNDARY\nROOT,1,3\n*MATERIAL,NAME=UD\n*ELASTIC,TYPE="
      "ENGINEERING "
      "CONSTANTS\n{},{},{},{},{},{},{},{}\n{}\n*MATERIAL,NAME=FOAM\n*ELASTIC\n{},{}\n{}{}*STEP\n*STATIC\n{}"
      "*NODE PRINT,NSET=ALL\nU\n*END STEP\n",
      nodes, elements, held, m.E1, m.E2, m.E3, m.nu12, m.nu13, m.nu23, m.G12, m.G13, m.G23, E, nu, orientations,
      sections, pushed);
  folder.write("solid.inp", deck);
  const test::Run run = test::run("ccx -i solid", folder.path());
  REQUIRE(run.status == 0);
  const calculix::Answer answer = calculix::read_answer(folder / "solid.dat");
  for (const calculix::NodeRow& row : answer.displacements)
    if (row.id == id(2 * nx, 1, 0)) return -row.value.z();
  return 0.0;
}

}  // namespace

namespace {

/// A strip with faces of 1 mm and a core of 20 mm that comes down to 1 mm, clamped at the thick end, pushed at the other.
struct Strip {
  double L, from, to;  ///< length; where the slope begins and ends
  double E, nu;        ///< of the core
  double b = 20, F = 5;

  double core(double x) const { return 20.0 - 19.0 * std::clamp((x - from) / (to - from), 0.0, 1.0); }

  double by_shells(const calculix::SolveOptions& options, Findings& findings) const {
    const std::string rest = fmt::format(
        "[material.soft]\nkind = \"foam\"\nE = {}\nnu = {}\ndensity = \"80 kg/m^3\"\n[support.s]\non = \"left\"\nhold "
        "= \"clamped\"\n[load.p]\non = \"right\"\nforce = [0, 0, -5]\n",
        E, nu);
    const std::string plies = fmt::format(
        "{{ id = \"A\", code = \"[0_4]\" }}, {{ id = \"C\", material = \"soft\", thickness = {{ of = \"left\", table = "
        "[[{}, 20], [{}, 1]] }} }}, {{ id = \"B\", code = \"[0_4]\" }}",
        from, to);
    const test::Folder folder;
    const double length = L, width = b;
    const test::Solved solved = test::solve(
        folder, plate(plies, "bottom", rest),
        {.nx = 60, .ny = 4, .map = [=](double u, double v) { return Vec3(length * u, width * v, 0); }}, options);
    for (const Finding& finding : solved.findings.all()) findings.add(finding);
    return -solved.at({L, b / 2, 0}).z();
  }

  /// Curvature d11 M and slope V / H, by Simpson's rule.
  double by_beam() const {
    const auto integrand = [&](double x) {
      const std::vector<laminate::Layer> layers{{test::carbon(), 1.0, Angle(), 0},
                                                {material::isotropic(E, nu), core(x), Angle(), 0},
                                                {test::carbon(), 1.0, Angle(), 0}};
      const laminate::Stiffness k = laminate::stiffness(layers, 0.0);
      return F / b * (laminate::compliance(k).d(0, 0) * (L - x) * (L - x) + k.H.inverse()(0, 0));
    };
    double out = 0.0;
    const int steps = 600;
    for (int i = 0; i <= steps; ++i)
      out += (i == 0 || i == steps ? 1.0 : i % 2 == 1 ? 4.0 : 2.0) * integrand(L * i / steps) * L / steps / 3.0;
    return out;
  }
};

}  // namespace

TEST_CASE("a core that runs out: layers either way against a beam, and against solids where plate theory holds") {
  Findings findings;
  // A stiff core, a gentle slope: shear makes little of the deflection.
  const Strip stiff{.L = 600, .from = 100, .to = 500, .E = 1100, .nu = 0.375};
  const double three = stiff.by_shells(as_three, findings), beam = stiff.by_beam();
  const test::Folder folder;
  const double solids =
      by_solids([&](double x) { return stiff.core(x); }, 1.0, stiff.L, stiff.b, stiff.F, stiff.E, stiff.nu, folder);
  INFO("beam " << beam << ", three layers " << three << ", solids " << solids);
  CHECK(test::near(three, beam, 0.02));
  CHECK(test::near(three, solids, 0.02));
  CHECK(test::near(stiff.by_shells({}, findings), beam, 0.02));
  const auto told = [&] {
    return std::any_of(findings.all().begin(), findings.all().end(),
                       [](const Finding& finding) { return finding.code == "deck.soft-chamfer"; });
  };
  CHECK(!told());

  // A soft one, steeper: shells follow the beam, solids do not, and that is said.
  const Strip soft{.L = 300, .from = 50, .to = 250, .E = 70, .nu = 0.4};
  CHECK(test::near(soft.by_shells(as_three, findings), soft.by_beam(), 0.02));
  CHECK(test::near(soft.by_shells({}, findings), soft.by_beam(), 0.03));
  CHECK(by_solids([&](double x) { return soft.core(x); }, 1.0, soft.L, soft.b, soft.F, soft.E, soft.nu, folder) <
        0.7 * soft.by_beam());
  CHECK(told());
}

}  // namespace of_calculix_three_layers
