// Loads, temperature and layers of one laminate, against closed forms, textbooks and the exact theory.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/laminate.hpp>

#include <Eigen/Eigenvalues>
#include <Eigen/LU>

#include <fmt/format.h>

#include <cmath>
#include <random>

namespace of_laminate_response {

using namespace bordado;
using namespace bordado::laminate;

namespace {

Layer layer(const material::Elastic& m, double t, double degrees, const Vec3& thermal = Vec3::Zero()) {
  return {m, t, Angle::degrees(degrees), 1.5e-9, thermal, Vec3::Zero()};
}

std::vector<Layer> random_stack(std::mt19937& engine) {
  const auto in = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(engine); };
  std::vector<Layer> out;
  const int count = 1 + static_cast<int>(in(0, 8));
  for (int i = 0; i < count; ++i) {
    material::Elastic m;
    do
      m = material::transversely_isotropic(in(20e3, 200e3), in(3e3, 15e3), in(0.2, 0.4), in(2e3, 8e3), in(0.2, 0.5),
                                           in(2e3, 5e3));
    while (material::not_positive_definite(m));
    out.push_back(layer(m, in(0.1, 1.0), in(-90, 90), Vec3(in(-1, 5), in(20, 40), in(20, 40)) * 1e-6));
    out.back().moisture = Vec3(in(0, 0.02), in(0.2, 0.6), in(0.2, 0.6));
  }
  return out;
}

/// N. J. Pagano, J. Composite Materials 3 (1969) 398: a long strip, simply supported along two edges a span apart,
/// under q sin(pi x / span) on its top. The four fields u, w, sz, txz obey ds/dz = M s in each layer; exact but for
/// rounding. \return deflection of the middle for q = 1.
double exact_deflection(std::span<const Layer> layers, double span) {
  using Matrix4 = Eigen::Matrix4d;
  const double p = std::numbers::pi / span;
  Matrix4 whole = Matrix4::Identity(), to_middle = Matrix4::Identity();
  const double h = thickness(layers);
  double z = 0.0;
  const auto carry = [&](const Layer& l, double t) -> Matrix4 {
    Eigen::Matrix3d R;
    R << l.angle.cos(), l.angle.sin(), 0, -l.angle.sin(), l.angle.cos(), 0, 0, 0, 1;
    const material::Matrix6 C = material::turned(material::stiffness(l.elastic), R);  // strain along y is nought
    Matrix4 M = Matrix4::Zero();                                                      // of u, w, sz, txz
    M(0, 1) = -p, M(0, 3) = 1 / C(4, 4);
    M(1, 0) = C(0, 2) * p / C(2, 2), M(1, 2) = 1 / C(2, 2);
    M(2, 3) = p;
    M(3, 0) = p * p * (C(0, 0) - C(0, 2) * C(0, 2) / C(2, 2)), M(3, 2) = -p * C(0, 2) / C(2, 2);
    // exp(M t) in 4096 steps of a Taylor series of degree 6.
    const int halvings = 12;
    const Matrix4 small = M * t / std::pow(2.0, halvings);
    Matrix4 term = Matrix4::Identity(), sum = term;
    for (int k = 1; k <= 6; ++k) term = term * small / k, sum += term;
    for (int k = 0; k < halvings; ++k) sum = sum * sum;
    return sum;
  };
  for (const Layer& l : layers) {
    if (z < h / 2 && z + l.thickness >= h / 2) to_middle = carry(l, h / 2 - z) * whole;
    whole = carry(l, l.thickness) * whole;
    z += l.thickness;
  }
  // Nothing acts on the bottom: s = (u, w, 0, 0) there. On top sz = 1, txz = 0.
  Eigen::Matrix2d top;
  top << whole(2, 0), whole(2, 1), whole(3, 0), whole(3, 1);
  const Eigen::Vector2d start = top.fullPivLu().solve(Eigen::Vector2d(1, 0));
  return to_middle(1, 0) * start[0] + to_middle(1, 1) * start[1];
}

/// The same by a section's stiffness: A, B, D and, where asked, H.
double section_deflection(std::span<const Layer> layers, double span, bool with_shear) {
  const double h = thickness(layers), p = std::numbers::pi / span;
  const Stiffness k = stiffness(layers, -0.5 * h);
  const double D = k.D(0, 0) - k.B(0, 0) * k.B(0, 0) / k.A(0, 0);
  return 1 / (std::pow(p, 4) * D) + (with_shear ? 1 / (p * p * k.H(0, 0)) : 0.0);
}

/// Pagano's material: EL = 25 ET, GLT = 0.5 ET, GTT = 0.2 ET, all ratios 0.25.
material::Elastic pagano() {
  return {
      .E1 = 25e3, .E2 = 1e3, .E3 = 1e3, .nu12 = 0.25, .nu13 = 0.25, .nu23 = 0.25, .G12 = 500, .G13 = 500, .G23 = 200};
}

}  // namespace

TEST_CASE("transverse shear against the exact theory: how far off, by span to depth") {
  const std::vector<Layer> three = {layer(pagano(), 1, 0), layer(pagano(), 1, 90), layer(pagano(), 1, 0)};
  // Pagano's printed deflections of the three-ply strip, 100 ET h³ w / (q span⁴): 2.887 at 4, 0.932 at 10, and 0.51 by
  // classical theory.
  const auto printed = [&](double w, double span) { return 100 * 1e3 * 27 * w / std::pow(span, 4); };
  CHECK(test::near(printed(exact_deflection(three, 12), 12), 2.887, 1e-3));
  CHECK(test::near(printed(exact_deflection(three, 30), 30), 0.932, 1e-3));
  CHECK(test::near(printed(section_deflection(three, 30, false), 30), 0.51, 0.01));

  struct Case {
    std::string name;
    std::vector<Layer> layers;
  };
  const std::string theory = read_file(test::source("docs/theory.md"));
  const material::Elastic foam = material::isotropic(75, 0.34);
  const std::vector<Case> cases = {
      {"[0/90/0]", three},
      {"[0/90]", {layer(pagano(), 1, 0), layer(pagano(), 1, 90)}},
      {"[0/90/0/90/0]",
       {layer(pagano(), 1, 0), layer(pagano(), 1, 90), layer(pagano(), 1, 0), layer(pagano(), 1, 90),
        layer(pagano(), 1, 0)}},
      {"sandwich", {layer(pagano(), 0.5, 0), layer(foam, 10, 0), layer(pagano(), 0.5, 0)}}};
  for (const Case& c : cases) {
    const double h = thickness(c.layers);
    std::string row = fmt::format("| {} |", c.name);
    double last = 1.0;
    for (const double ratio : {4.0, 10.0, 20.0, 50.0, 100.0}) {
      const double exact = exact_deflection(c.layers, ratio * h);
      const double ours = section_deflection(c.layers, ratio * h, true) / exact - 1.0;
      const double classical = section_deflection(c.layers, ratio * h, false) / exact - 1.0;
      INFO(c.name << " span/depth " << ratio << ": " << 100 * ours << " %, classical " << 100 * classical << " %");
      CHECK(std::abs(ours) < std::abs(classical));
      CHECK(std::abs(ours) <= last);  // the error falls with the span
      if (ratio >= 10) CHECK(std::abs(ours) < 0.04);
      if (ratio >= 50) CHECK(std::abs(ours) < 0.002);
      last = std::abs(ours) + 1e-6;
      if (ratio <= 50) row += fmt::format(" {:+.1f} / {:+.1f} |", 100 * ours, 100 * classical);
    }
    // The table in docs/theory.md says just that.
    CHECK_MESSAGE(theory.find(row) != std::string::npos, row);
  }
}

TEST_CASE("a bimetal strip curls as Timoshenko says") {
  // S. Timoshenko, J. Optical Society of America 11 (1925) 233, eq. 4; beams, so without lateral contraction.
  for (const double m : {0.5, 1.0, 3.0})
    for (const double n : {0.2, 1.0, 5.0}) {
      const double t2 = 1.0, t1 = m * t2, E2 = 70e3, E1 = n * E2, a1 = 12e-6, a2 = 23e-6, h = t1 + t2;
      const std::vector<Layer> strip = {layer(material::isotropic(E1, 0), t1, 0, Vec3::Constant(a1)),
                                        layer(material::isotropic(E2, 0), t2, 0, Vec3::Constant(a2))};
      const double curvature =
          6 * (a2 - a1) * (1 + m) * (1 + m) / (h * (3 * (1 + m) * (1 + m) + (1 + m * n) * (m * m + 1 / (m * n))));
      const Deformation free = free_expansion(strip, -0.3, Expands::by_temperature);
      CHECK(test::near(free.curvature[0], curvature, 1e-12));  // the upper one grows more
      CHECK(test::near(free.curvature[2], 0.0, 1e-12, curvature));
    }
}

TEST_CASE("residual stresses of a textbook laminate") {
  // Kaw, examples 4.5: [0/90] graphite/epoxy, plies of 5 mm, cooled by 75 kelvin; alpha1 = 0.2e-7, alpha2 = 0.225e-4
  // per kelvin. Printed: strain of the mid-plane -3.907e-4, curvatures -/+ 0.1276 per metre.
  const material::Elastic ply = material::transversely_isotropic(181e9, 10.3e9, 0.28, 7.17e9, 0.4, 3e9);
  const Vec3 alpha(0.2e-7, 0.225e-4, 0.225e-4);
  const std::vector<Layer> stack = {layer(ply, 0.005, 0, alpha), layer(ply, 0.005, 90, alpha)};
  const Deformation cold = deformation(stack, -0.005, {.temperature = -75});
  CHECK(test::near(cold.strain[0], -3.907e-4, 1e-3));
  CHECK(test::near(cold.strain[1], -3.907e-4, 1e-3));
  CHECK(test::near(std::abs(cold.curvature[0]), 0.1276, 1e-3));
  CHECK(test::near(cold.curvature[1], -cold.curvature[0]));
}

TEST_CASE("layers of random laminates are in equilibrium with what the section carries") {
  std::mt19937 engine(5);
  const auto in = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(engine); };
  for (int round = 0; round < 100; ++round) {
    const auto layers = random_stack(engine);
    const double h = thickness(layers), z0 = in(-h, h);
    const Load load{.N = {in(-100, 100), in(-100, 100), in(-100, 100)},
                    .M = {in(-50, 50), in(-50, 50), in(-50, 50)},
                    .Q = {in(-10, 10), in(-10, 10)},
                    .temperature = in(-150, 50),
                    .moisture = in(0, 0.02)};
    const Deformation d = deformation(layers, z0, load);
    const auto states = layer_states(layers, z0, d, load);
    REQUIRE(states.size() == 3 * layers.size());
    Vector3 N = Vector3::Zero(), M = Vector3::Zero();
    Vector2 Q = Vector2::Zero();
    for (std::size_t i = 0; i < layers.size(); ++i) {
      const double weight[] = {1.0 / 6, 4.0 / 6, 1.0 / 6};  // Simpson: exact for what is at most cubic
      for (std::size_t k = 0; k < 3; ++k) {
        const LayerState& s = states[3 * i + k];
        CHECK(s.layer == i);
        N += weight[k] * layers[i].thickness * s.stress;
        M += weight[k] * layers[i].thickness * s.z * s.stress;
        const double c = layers[i].angle.cos(), n = layers[i].angle.sin();
        Q += weight[k] * layers[i].thickness *
             Vector2(c * s.ply_shear[0] - n * s.ply_shear[1], n * s.ply_shear[0] + c * s.ply_shear[1]);
        // The same energy in both axes.
        CHECK(test::near(s.stress.dot(s.strain), s.ply_stress.dot(s.ply_strain), 1e-9));
      }
    }
    CHECK((N - load.N).norm() < 1e-9 * load.N.norm() + 1e-8);
    CHECK((M - load.M).norm() < 1e-9 * load.M.norm() + 1e-8);
    // Shear forces go with moment gradients Mx,x and My,y; each brings its own force exactly, and the other's through
    // the twist that goes with it: the diagonal is exact.
    const auto only_x = layer_states(layers, z0, {}, {.Q = {1, 0}});
    double sum = 0.0, top = 0.0;
    for (std::size_t i = 0; i < layers.size(); ++i) {
      const double c = layers[i].angle.cos(), n = layers[i].angle.sin();
      const double weight[] = {1.0 / 6, 4.0 / 6, 1.0 / 6};
      for (std::size_t k = 0; k < 3; ++k) {
        const Vector2& t = only_x[3 * i + k].ply_shear;
        sum += weight[k] * layers[i].thickness * (c * t[0] - n * t[1]);
        top = t.norm();
      }
    }
    CHECK(test::near(sum, 1.0, 1e-9));
    CHECK(top < 1e-9);  // nothing on the free face
  }
}

TEST_CASE("a free laminate that is warmed carries nothing, and one that is held carries the whole") {
  std::mt19937 engine(6);
  for (int round = 0; round < 50; ++round) {
    const auto layers = random_stack(engine);
    const double z0 = -0.4 * thickness(layers);
    const Deformation free = free_expansion(layers, z0, Expands::by_temperature);
    const Deformation warmed = deformation(layers, z0, {.temperature = 40});
    CHECK((warmed.strain - 40 * free.strain).norm() < 1e-12);
    const Resultants held = held_expansion(layers, z0, Expands::by_temperature);
    const Deformation none = deformation(layers, z0, {.N = -40 * held.N, .M = -40 * held.M, .temperature = 40});
    CHECK(none.strain.norm() < 1e-12);
    CHECK(none.curvature.norm() < 1e-12);
  }
}

TEST_CASE("the solid equivalent of a laminate: in the plane it is A, and an unsymmetric order changes nothing") {
  std::mt19937 engine(8);
  for (int round = 0; round < 50; ++round) {
    auto layers = random_stack(engine);
    const double h = thickness(layers);
    const Equivalent e = equivalent(layers);
    const Matrix3 A = stiffness(layers, 0).A;
    CHECK((plane_stress_stiffness(e.elastic) * h - A).norm() < 1e-9 * A.norm());
    // Expansion in the plane is that of the laminate held flat.
    const Resultants held = held_expansion(layers, 0, Expands::by_temperature);
    const Vector3 flat = A.inverse() * held.N;
    CHECK(test::near(e.thermal[0], flat[0], 1e-9));
    CHECK(test::near(e.thermal[5], flat[2], 1e-9));
    CHECK(test::near(e.density.value(), areal_mass(layers) / h));
    std::reverse(layers.begin(), layers.end());
    CHECK((material::stiffness(equivalent(layers).elastic) - material::stiffness(e.elastic)).norm() <
          1e-9 * material::stiffness(e.elastic).norm());
  }
  // Layers in series through the thickness: stress 33 common, no strain in the plane.
  const material::Elastic stiff = material::isotropic(70e3, 0.3), soft = material::isotropic(3e3, 0.35);
  const material::Matrix6 C =
      material::stiffness(equivalent(std::vector<Layer>{layer(stiff, 1, 0), layer(soft, 3, 0)}).elastic);
  CHECK(test::near(1 / C(2, 2), 0.25 / material::stiffness(stiff)(2, 2) + 0.75 / material::stiffness(soft)(2, 2)));
  CHECK(test::near(1 / C(4, 4), 0.25 / stiff.G13 + 0.75 / soft.G13));
}

TEST_CASE("21 constants: a turned orthotropic ply is the same ply at an angle") {
  const material::Elastic ply = test::carbon();
  const double c = Angle::degrees(30).cos(), s = Angle::degrees(30).sin();
  Eigen::Matrix3d axes;
  axes << c, s, 0, -s, c, 0, 0, 0, 1;
  const material::Elastic turned = material::from_stiffness(material::turned(material::stiffness(ply), axes));
  REQUIRE(turned.full);
  const std::vector<Layer> as_angle = {layer(ply, 0.2, 30)}, as_material = {layer(turned, 0.2, 0)};
  const Stiffness a = stiffness(as_angle, 0), b = stiffness(as_material, 0);
  CHECK((a.ABD() - b.ABD()).norm() < 1e-9 * a.ABD().norm());
  CHECK((a.H - b.H).norm() < 1e-9 * a.H.norm());
}

}  // namespace of_laminate_response
