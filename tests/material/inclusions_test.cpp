// Ellipsoids in a matrix and fibres in many directions: closed forms, means by turning, published cloths and mats.
#include "support.hpp"

#include <bordado/inclusions.hpp>

#include <Eigen/Geometry>
#include <Eigen/LU>

#include <cmath>
#include <numbers>
#include <random>

namespace of_material_inclusions {

using namespace bordado;
using namespace bordado::material;
using Eigen::Matrix3d;
using test::near;

namespace {

constexpr double pi = std::numbers::pi;
const double endless = std::numeric_limits<double>::infinity();

/// T. Mura, Micromechanics of Defects in Solids (2nd ed. 1987), eqs. 11.28 and 11.29: a prolate spheroid along 1, by g.
Matrix6 of_a_spheroid(double nu, double l) {
  const double d = l * l - 1.0, g = l / std::pow(d, 1.5) * (l * std::sqrt(d) - std::acosh(l)), m = 1.0 - nu;
  const double S11 = (1 - 2 * nu + (3 * l * l - 1) / d - (1 - 2 * nu + 3 * l * l / d) * g) / (2 * m);
  const double S22 = 3.0 / (8 * m) * l * l / d + (1 - 2 * nu - 9.0 / (4 * d)) * g / (4 * m);
  const double S23 = (l * l / (2 * d) - (1 - 2 * nu + 3.0 / (4 * d)) * g) / (4 * m);
  const double S21 = -l * l / (2 * m * d) + (3 * l * l / d - (1 - 2 * nu)) * g / (4 * m);
  const double S12 = -(1 - 2 * nu + 1.0 / d) / (2 * m) + (1 - 2 * nu + 3.0 / (2 * d)) * g / (2 * m);
  const double shear23 = (l * l / (2 * d) + (1 - 2 * nu - 3.0 / (4 * d)) * g) / (4 * m);
  const double shear12 = (1 - 2 * nu - (l * l + 1) / d - 0.5 * (1 - 2 * nu - 3 * (l * l + 1) / d) * g) / (4 * m);
  Matrix6 S = Matrix6::Zero();
  S(0, 0) = S11, S(1, 1) = S(2, 2) = S22, S(1, 2) = S(2, 1) = S23;
  S(1, 0) = S(2, 0) = S21, S(0, 1) = S(0, 2) = S12;
  S(3, 3) = 2 * shear23, S(4, 4) = S(5, 5) = 2 * shear12;
  return S;
}

/// The mean over directions of what a stiffness is, turned into each: `weight` of a direction p.
template <class Weight>
Matrix6 mean_by_turning(const Matrix6& C, const Weight& weight) {
  Matrix6 sum = Matrix6::Zero();
  double all = 0.0;
  constexpr int rings = 120, round = 240;
  for (int i = 0; i < rings; ++i)
    for (int k = 0; k < round; ++k) {
      const double t = pi * (i + 0.5) / rings, f = 2 * pi * (k + 0.5) / round;
      const Vec3 p(std::cos(t), std::sin(t) * std::cos(f), std::sin(t) * std::sin(f));
      const Matrix3d turn = Eigen::Quaterniond::FromTwoVectors(p, Vec3::UnitX()).toRotationMatrix();
      const double w = std::sin(t) * weight(p);
      sum += w * turned(C, turn);
      all += w;
    }
  return sum / all;
}

const Elastic glass = isotropic(72.5e3, 0.22), resin = isotropic(3.2e3, 0.36);
const Elastic ud = transversely_isotropic(38e3, 9e3, 0.28, 3.4e3, 0.42, 9e3 / 2.84);

Material aligned_material() {
  Material m;
  m.name = "aligned", m.kind = Kind::unidirectional, m.elastic = ud, m.density = 1.9e-9;
  m.thermal = {7e-6, 28e-6, 28e-6};
  m.strength.Xt = 900, m.strength.Xc = 600, m.strength.Yt = 40, m.strength.Yc = 140, m.strength.S12 = 65;
  return m;
}

}  // namespace

TEST_CASE("Eshelby's tensor is that of a sphere, of spheroids, and of round and elliptic cylinders") {
  for (const double nu : {0.0, 0.2, 0.36, 0.45}) {
    const Matrix6 sphere = eshelby(nu, {2, 2, 2});
    const double d = 15 * (1 - nu);  // Mura eq. 11.21
    CHECK(near(sphere(0, 0), (7 - 5 * nu) / d, 1e-10));
    CHECK(near(sphere(0, 1), (5 * nu - 1) / d, 1e-10, 1.0 / 3));
    CHECK(near(sphere(3, 3), 2 * (4 - 5 * nu) / d, 1e-10));
    for (const double l : {1.5, 4.0, 25.0, 400.0}) CHECK((eshelby(nu, {l, 1, 1}) - of_a_spheroid(nu, l)).norm() < 1e-9);
    for (const double a : {1.0, 3.0, 12.0}) {  // eq. 11.22, the cylinder along 1, a across 2 and 1 across 3
      const Matrix6 S = eshelby(nu, {endless, a, 1});
      const double over = 1 / (2 * (1 - nu)), sum = (a + 1) * (a + 1);
      CHECK(near(S(1, 1), over * ((1 + 2 * a) / sum + (1 - 2 * nu) / (a + 1)), 1e-9));
      CHECK(near(S(2, 2), over * ((a * a + 2 * a) / sum + (1 - 2 * nu) * a / (a + 1)), 1e-9));
      CHECK(near(S(1, 2), over * (1 / sum - (1 - 2 * nu) / (a + 1)), 1e-9, 1.0));
      CHECK(near(S(2, 1), over * (a * a / sum - (1 - 2 * nu) * a / (a + 1)), 1e-9, 1.0));
      CHECK(near(S(3, 3), over * ((a * a + 1) / sum + (1 - 2 * nu)), 1e-9));
      CHECK(near(S(4, 4), a / (a + 1), 1e-9));  // 13
      CHECK(near(S(5, 5), 1 / (a + 1), 1e-9));  // 12
      CHECK(near(S(1, 0), over * 2 * nu / (a + 1), 1e-9, 1.0));
      CHECK(near(S(2, 0), over * 2 * nu * a / (a + 1), 1e-9, 1.0));
      CHECK(S.row(0).head<3>().norm() < 1e-9);
    }
  }
}

TEST_CASE("aligned spheroids: Tandon and Weng's moduli, long fibres as before, a sphere the same all ways") {
  // G. P. Tandon and G. J. Weng, Polymer Composites 5 (1984) 327, eqs. 25 ff., of isotropic fibres.
  const double nu = resin.nu12, mu0 = resin.G12, mu1 = glass.G12;
  const double l0 = 2 * mu0 * nu / (1 - 2 * nu), l1 = 2 * mu1 * glass.nu12 / (1 - 2 * glass.nu12);
  for (const double aspect : {2.0, 20.0, 200.0})
    for (const double c : {0.05, 0.18, 0.35}) {
      const Matrix6 S = of_a_spheroid(nu, aspect);
      const double D1 = 1 + 2 * (mu1 - mu0) / (l1 - l0), D2 = (l0 + 2 * mu0) / (l1 - l0), D3 = l0 / (l1 - l0);
      const double B1 = c * D1 + D2 + (1 - c) * (D1 * S(0, 0) + 2 * S(1, 0)),
                   B2 = c + D3 + (1 - c) * (D1 * S(0, 1) + S(1, 1) + S(1, 2)),
                   B3 = c + D3 + (1 - c) * (S(0, 0) + (1 + D1) * S(1, 0)),
                   B4 = c * D1 + D2 + (1 - c) * (S(0, 1) + D1 * S(1, 1) + S(1, 2)),
                   B5 = c + D3 + (1 - c) * (S(0, 1) + S(1, 1) + D1 * S(1, 2));
      const double A1 = D1 * (B4 + B5) - 2 * B2, A2 = (1 + D1) * B2 - (B4 + B5), A3 = B1 - D1 * B3,
                   A4 = (1 + D1) * B1 - 2 * B3, A5 = (1 - D1) / (B4 - B5), A6 = 2 * B2 * B3 - B1 * (B4 + B5);
      const Elastic made = from_stiffness(in_matrix(stiffness(glass), resin, c, {aspect, 1, 1}));
      CHECK(near(made.E1, resin.E1 / (1 + c * (A1 + 2 * nu * A2) / A6), 1e-8));
      CHECK(near(made.E2, resin.E1 / (1 + c * (-2 * nu * A3 + (1 - nu) * A4 + (1 + nu) * A5 * A6) / (2 * A6)), 1e-8));
      CHECK(near(made.G12, mu0 * (1 + c / (mu0 / (mu1 - mu0) + (1 - c) * S(5, 5))), 1e-8));
      CHECK(near(made.G23, mu0 * (1 + c / (mu0 / (mu1 - mu0) + (1 - c) * S(3, 3))), 1e-8));
    }
  const Elastic carbon = transversely_isotropic(230e3, 15e3, 0.2, 20e3, 0.3, 15e3 / 2.6);
  const Matrix6 endless_fibres = in_matrix(stiffness(carbon), resin, 0.5, {endless, 1, 1});
  const Matrix6 wanted = stiffness(mixed(Theory::mori_tanaka, carbon, resin, 0.5));
  CHECK((endless_fibres - wanted).norm() < 1e-8 * wanted.norm());
  const Elastic spheres = from_stiffness(in_matrix(stiffness(glass), resin, 0.3, {1, 1, 1}));
  CHECK(near(spheres.E1, spheres.E3, 1e-10));
  CHECK(near(spheres.G12, spheres.E1 / (2 * (1 + spheres.nu12)), 1e-10));
  // The resin alone, the fibre alone.
  CHECK((in_matrix(stiffness(glass), resin, 0.0, {9, 1, 1}) - stiffness(resin)).norm() <
        1e-9 * stiffness(resin).norm());
  CHECK((in_matrix(stiffness(glass), resin, 1.0, {9, 1, 1}) - stiffness(glass)).norm() <
        1e-9 * stiffness(glass).norm());
}

TEST_CASE("short fibres expand as each phase would by itself where both are alike, and less along than across") {
  Material fibre, matrix;
  fibre.name = "f", fibre.kind = Kind::fibre, fibre.elastic = glass, fibre.thermal = {5e-6, 5e-6, 5e-6};
  matrix.name = "m", matrix.kind = Kind::resin, matrix.elastic = resin, matrix.thermal = {60e-6, 60e-6, 60e-6};
  const Mix mix{.fibre_volume = 0.2, .aspect = 20.0};
  const Material made = unidirectional(fibre, matrix, mix, {});
  const Vec3 a = made.thermal.all();
  CHECK(a[0] < 25e-6);
  CHECK(a[1] > 50e-6);
  // By the general way for two phases.
  Vector6 f = Vector6::Zero(), m = Vector6::Zero();
  f.head<3>().setConstant(5e-6), m.head<3>().setConstant(60e-6);
  const Vector6 other = mixed_strain(stiffness(glass), stiffness(resin), stiffness(made.elastic), 0.2, f, m);
  CHECK(near(a[0], other[0], 1e-8));
  CHECK(near(a[1], other[1], 1e-8));
  matrix.thermal = fibre.thermal;
  CHECK(near(unidirectional(fibre, matrix, mix, {}).thermal.all()[1], 5e-6, 1e-9));
  CHECK(made.made_of == "f 20 % by volume, 20 times as long as thick, in m by mori-tanaka");
}

TEST_CASE("the natural closure has the fourth moments of directions that were evenly spread and then drawn out") {
  std::mt19937 engine(3);
  std::uniform_real_distribution<double> any(-1, 1);
  for (int trial = 0; trial < 12; ++trial) {
    Matrix3d F = Matrix3d::Identity();
    for (int i = 0; i < 9; ++i) F(i / 3, i % 3) += 0.8 * any(engine);
    Matrix3d second = Matrix3d::Zero();
    Matrix6 fourth = Matrix6::Zero();
    constexpr int row[] = {0, 1, 2, 1, 0, 0}, column[] = {0, 1, 2, 2, 2, 1};
    double all = 0;
    constexpr int rings = 160, round = 320;
    for (int i = 0; i < rings; ++i)
      for (int k = 0; k < round; ++k) {
        const double t = pi * (i + 0.5) / rings, f = 2 * pi * (k + 0.5) / round, w = std::sin(t);
        const Vec3 p = (F * Vec3(std::cos(t), std::sin(t) * std::cos(f), std::sin(t) * std::sin(f))).normalized();
        second += w * p * p.transpose();
        Vector6 pp;
        for (int m = 0; m < 6; ++m) pp[m] = p[row[m]] * p[column[m]];
        fourth += w * pp * pp.transpose();
        all += w;
      }
    const Matrix6 made = fourth_moment({second / all, Closure::natural});
    CHECK((made - fourth / all).norm() < 3e-4 * (fourth / all).norm());
    // What is summed over one pair is the second moment again.
    for (int m = 0; m < 6; ++m)
      CHECK(near(made(m, 0) + made(m, 1) + made(m, 2), second(row[m], column[m]) / all, 1e-9, 1.0));
  }
}

TEST_CASE(
    "fibres all along one axis, all in a plane, all in space: closed forms; other closures where they are exact") {
  const Matrix6 C = stiffness(ud);
  Orientation along{Vec3(1, 0, 0).asDiagonal(), {}};
  Orientation plane{Vec3(0.5, 0.5, 0).asDiagonal(), {}}, space{Matrix3d::Identity() / 3, {}};
  CHECK((mean_stiffness(C, along) - C).norm() < 1e-6 * C.norm());
  const Matrix6 flat = fourth_moment(plane);
  CHECK(near(flat(0, 0), 3.0 / 8, 1e-6));
  CHECK(near(flat(0, 1), 1.0 / 8, 1e-6));
  CHECK(near(flat(5, 5), 1.0 / 8, 1e-6));
  CHECK(flat.row(2).norm() < 1e-6);
  Matrix6 round = Matrix6::Zero();
  for (int k = 0; k < 36; ++k)
    round += turned(C, Eigen::AngleAxisd(pi * k / 36, Vec3::UnitZ()).toRotationMatrix()) / 36;
  CHECK((mean_stiffness(C, plane) - round).norm() < 1e-6 * C.norm());
  // In space: bulk and shear moduli are the means of Voigt.
  const Matrix6 all_ways = mean_stiffness(C, space);
  const double K = C.topLeftCorner<3, 3>().sum() / 9,
               G = (C(0, 0) + C(1, 1) + C(2, 2) - C(0, 1) - C(0, 2) - C(1, 2) + 3 * (C(3, 3) + C(4, 4) + C(5, 5))) / 15;
  const Elastic made = from_stiffness(all_ways);
  CHECK(near(made.E1, 9 * K * G / (3 * K + G), 1e-9));
  CHECK(near(made.G23, G, 1e-9));
  CHECK(near(made.E3, made.E1, 1e-9));
  // Linear is exact in space, quadratic along an axis, hybrid in both.
  for (const Closure closure : {Closure::linear, Closure::hybrid})
    CHECK((mean_stiffness(C, {space.mean, closure}) - all_ways).norm() < 1e-9 * C.norm());
  for (const Closure closure : {Closure::quadratic, Closure::hybrid})
    CHECK((mean_stiffness(C, {along.mean, closure}) - C).norm() < 1e-9 * C.norm());
  // A mean of compliances is that of turned ones: by a weight whose moments are known, p1².
  const auto weight = [](const Vec3& p) { return p.x() * p.x(); };
  const Matrix6 S = compliance(ud);
  Matrix6 twice = Matrix6::Identity();
  twice.diagonal().tail<3>().setConstant(2.0);
  const Matrix6 tensors = twice.inverse() * S * twice.inverse();
  const Matrix6 numbers = mean_by_turning(tensors, weight);
  // The natural closure is not that of this weight, so only what it does not close is held against it: pairs summed.
  const Orientation by_square{Vec3(0.6, 0.2, 0.2).asDiagonal(), {}};
  const Matrix6 mean = twice.inverse() * mean_compliance(S, by_square) * twice.inverse();
  for (int i = 0; i < 3; ++i) CHECK(near(mean.row(i).head<3>().sum(), numbers.row(i).head<3>().sum(), 1e-4));
}

TEST_CASE("an orientation turns with its material") {
  std::mt19937 engine(5);
  std::uniform_real_distribution<double> any(-1, 1);
  const Matrix6 C = stiffness(ud);
  for (int trial = 0; trial < 20; ++trial) {
    const Matrix3d Q =
        Eigen::Quaterniond(any(engine), any(engine), any(engine), any(engine)).normalized().toRotationMatrix();
    const Vec3 shares = Vec3(0.7, 0.25, 0.05);
    const Orientation here{shares.asDiagonal(), closures[static_cast<std::size_t>(trial % 4)]};
    const Orientation there{Q * here.mean * Q.transpose(), here.closure};
    CHECK((turned(mean_stiffness(C, here), Q.transpose()) - mean_stiffness(C, there)).norm() < 1e-9 * C.norm());
  }
}

TEST_CASE("a material of oriented fibres: aligned it is what it was, in space the same all ways, its strengths too") {
  const Material from = aligned_material();
  Material form;
  form.name = "moulded", form.kind = Kind::orthotropic;
  const Material same = oriented(from, {Vec3(1, 0, 0).asDiagonal(), Closure::quadratic}, form);
  CHECK(near(same.elastic.E1, from.elastic.E1, 1e-9));
  CHECK(near(*same.strength.Xt, 900, 1e-9));
  CHECK(near(*same.strength.Yc, 140, 1e-9));
  CHECK(near(*same.strength.S12, 65, 1e-9));
  CHECK(near(*same.strength.Zt, 40, 1e-9));
  CHECK(near(*same.interaction.F12, -0.5, 1e-9));
  CHECK(near(same.thermal.all()[0], 7e-6, 1e-9));
  const Material space = oriented(from, {}, form);
  CHECK(near(*space.strength.Xt, *space.strength.Zt, 1e-9));
  CHECK(near(*space.strength.S12, *space.strength.S23, 1e-9));
  CHECK(near(space.thermal.all()[0], space.thermal.all()[2], 1e-9));
  CHECK(*space.strength.Xt > 40);
  CHECK(*space.strength.Xt < 900);
  // Expansion in space: what K takes of a pressure, 3 K a = the mean of stresses that hold it.
  const Matrix6 C = stiffness(from.elastic);
  Vector6 strain = Vector6::Zero();
  strain.head<3>() = from.thermal.all();
  const double K = C.topLeftCorner<3, 3>().sum() / 9;
  CHECK(near(space.thermal.all()[0], (C * strain).head<3>().sum() / (9 * K), 1e-9));
  // Tsai and Wu in space: what strengths of tension and compression make together is the mean of all coefficients, here by turning
  // them; F44 of a material without S23 by half of Yc.
  Matrix6 F = Matrix6::Zero();
  const double F11 = 1 / (900.0 * 600), F22 = 1 / (40.0 * 140), F12 = -0.5 * std::sqrt(F11 * F22),
               F44 = 4 / (140.0 * 140);
  F.topLeftCorner<3, 3>() << F11, F12, F12, F12, F22, F22 - F44 / 2, F12, F22 - F44 / 2, F22;
  F.diagonal().tail<3>() << F44 / 4, 1 / (4 * 65.0 * 65), 1 / (4 * 65.0 * 65);  // of tensors
  const Matrix6 all_ways = mean_by_turning(F, [](const Vec3&) { return 1.0; });
  CHECK(near(1 / (*space.strength.Xt * *space.strength.Xc), all_ways(0, 0), 1e-3));
  CHECK(near(1 / std::pow(*space.strength.S12, 2), 4 * all_ways(5, 5), 1e-3));
  Matrix3d askew = Vec3(0.6, 0.3, 0.1).asDiagonal();
  askew(0, 1) = askew(1, 0) = 0.1;
  const Material turned_one = oriented(from, {askew, {}}, form);
  CHECK(turned_one.kind == Kind::anisotropic);
  CHECK(!turned_one.strength.Xt);
  CHECK(turned_one.thermal.shear.has_value());
  CHECK_THROWS_AS(oriented(same, {}, form), std::invalid_argument);
  Material weak = from;
  weak.strength.Yc = 1e-308;
  CHECK_THROWS_AS(oriented(weak, {}, form), std::invalid_argument);
  Material not_round = from;
  not_round.elastic.E3 *= 1.2;
  CHECK_THROWS_AS(oriented(not_round, {}, form), std::invalid_argument);
}

TEST_CASE("orientations that cannot be") {
  CHECK(not_an_orientation(Vec3(0.5, 0.4, 0.2).asDiagonal())->find("1.1") != std::string::npos);
  CHECK(not_an_orientation(Vec3(1.2, -0.1, -0.1).asDiagonal())->find("-0.1") != std::string::npos);
  Matrix3d a = Vec3(0.5, 0.5, 0).asDiagonal();
  a(0, 1) = a(1, 0) = 0.6;
  CHECK(not_an_orientation(a));
  CHECK(!not_an_orientation(Vec3(0.3334, 0.3333, 0.3333).asDiagonal()));
  CHECK_THROWS_AS(fourth_moment({a, {}}), std::invalid_argument);
}

TEST_CASE("glass mats are as stiff as measured ones") {
  // M. Manera, J. Composite Materials 11 (1977) 235: mats of E-glass (73 GPa, 0.25) in polyester (2.25 GPa, 0.4), fibres all
  // ways in the plane; E = (16/45 Ef + 2 Em) V + 8/9 Em is what he holds against measurements from a tenth to four tenths.
  Material fibre, matrix, form;
  fibre.name = "f", fibre.kind = Kind::fibre, fibre.elastic = isotropic(73e3, 0.25);
  matrix.name = "m", matrix.kind = Kind::resin, matrix.elastic = isotropic(2.25e3, 0.4);
  form.kind = Kind::orthotropic;
  for (const double volume : {0.1, 0.2, 0.3, 0.4}) {
    const Material aligned = unidirectional(fibre, matrix, {.fibre_volume = volume, .aspect = 1000.0}, {});
    const Material mat = oriented(aligned, {Vec3(0.5, 0.5, 0).asDiagonal(), {}}, form);
    const double measured = (16.0 / 45 * 73e3 + 2 * 2.25e3) * volume + 8.0 / 9 * 2.25e3;
    CHECK(near(mat.elastic.E1, measured, 0.1));
    CHECK(near(mat.elastic.E1, mat.elastic.E2, 1e-6));
  }
}

TEST_CASE("cloths with resin between their yarns are as stiff as measured ones") {
  // Shears are below what was measured, as those of Mori and Tanaka are the lower bounds.
  // D. Scida, Z. Aboura, M. L. Benzeggagh and E. Bocherens, Composites Science and Technology 59 (1999) 505: plain weave of
  // E-glass in vinyl ester, 55 % of fibres, 80 % in the yarns, whose constants they give; a wave of 1.2 mm, 0.05 mm high
  // yarns that are 0.6 mm wide. Measured: Ex = Ey = 24.8 ± 1.1 GPa, Gxy = 6.5 ± 0.8, nuxy = 0.1 ± 0.01, Ez = 8.5 ± 2.6, Gxz
  // = 4.2 ± 0.7, nuxz = 0.28 ± 0.07.
  Material yarn, between;
  yarn.name = "yarn", yarn.kind = Kind::unidirectional;
  yarn.elastic = transversely_isotropic(57.5e3, 18.8e3, 0.25, 7.44e3, 0.29, 7.26e3);
  between.name = "vinyl-ester", between.kind = Kind::resin, between.elastic = isotropic(3.4e3, 0.35);
  const double slope = pi * 0.05 / 1.2;  // of a wave whose amplitude is half the height of a yarn
  const Weave weave{.crimp = slope * slope / 4, .yarn_volume = 0.55 / 0.80, .yarn_aspect = 12};
  const Elastic cloth = fabric(yarn, weave, {}, &between).elastic;
  CHECK(std::abs(cloth.E1 - 24.8e3) < 2.5e3);
  CHECK(std::abs(cloth.G12 - 6.5e3) < 2.2e3);
  CHECK(std::abs(cloth.E3 - 8.5e3) < 2.6e3);
  CHECK(std::abs(cloth.G13 - 4.2e3) < 1.5e3);
}

TEST_CASE("resin between yarns: none of it is as before, all of it the resin, and never outside what both are") {
  Material yarn = aligned_material(), between;
  between.name = "resin", between.kind = Kind::resin, between.elastic = resin, between.density = 1.2e-9;
  between.thermal = {60e-6, 60e-6, 60e-6};
  yarn.thickness = 0.2;
  const Weave whole{.crimp = 0.004};
  const Material before = fabric(yarn, whole, {}),
                 nearly = fabric(yarn, {.crimp = 0.004, .yarn_volume = 1 - 1e-9}, {}, &between);
  CHECK(near(nearly.elastic.E1, before.elastic.E1, 1e-6));
  CHECK(near(nearly.elastic.G13, before.elastic.G13, 1e-6));
  CHECK(near(nearly.thermal.all()[0], before.thermal.all()[0], 1e-6));
  const Material nothing = fabric(yarn, {.yarn_volume = 1e-9}, {}, &between);
  CHECK(near(nothing.elastic.E1, resin.E1, 1e-6));
  CHECK(near(nothing.elastic.G12, resin.G12, 1e-6));
  double last = before.elastic.E1;
  for (const double share : {0.9, 0.7, 0.5}) {
    const Material some = fabric(yarn, {.crimp = 0.004, .yarn_volume = share, .yarn_aspect = 6}, {}, &between);
    CHECK(some.elastic.E1 < last);
    CHECK(some.elastic.E1 > resin.E1);
    last = some.elastic.E1;
    CHECK(near(*some.density, share * 1.9e-9 + (1 - share) * 1.2e-9, 1e-12));
    CHECK(near(*some.thickness, 0.2 / share, 1e-12));
    // Flatter yarns: more stiffness across them in the plane, less shear through the thickness.
    const Material flat = fabric(yarn, {.crimp = 0.004, .yarn_volume = share, .yarn_aspect = 40}, {}, &between);
    CHECK(flat.elastic.E1 > some.elastic.E1);
    CHECK(flat.elastic.G13 < some.elastic.G13);
  }
  CHECK_THROWS_AS(fabric(yarn, {.yarn_volume = 0.7}, {}), std::invalid_argument);
  CHECK_THROWS_AS(fabric(yarn, {.yarn_volume = 1.2}, {}, &between), std::invalid_argument);
  CHECK_THROWS_AS(fabric(yarn, {.yarn_volume = 0.7, .yarn_aspect = 0.5}, {}, &between), std::invalid_argument);
  CHECK_THROWS_AS(fabric(yarn, {.yarn_volume = 0.7}, {}, &yarn), std::invalid_argument);
}

namespace {

const std::string mixed_of = "fibre = \"e-glass-fibre\"\nmatrix = \"polyamide-6\"\nfibre-volume = ";
const std::string moulded = "[material.x]\nkind = \"orthotropic\"\n" + mixed_of + "0.16\n";

std::optional<Material> read(const std::string& text, const std::string& name, Findings& findings) {
  Library library(UnitSystem::parse("mm, t, s"));
  library.add_text("units = \"mm, t, s\"\n" + text, "m.toml", findings);
  library.add_shipped();
  return library.find(name, findings);
}

std::string mistakes(const std::string& text, const std::string& name = "x") {
  Findings findings;
  std::string out;
  CHECK(!read(text, name, findings));
  for (const Finding& finding : findings.all()) out += finding.code + ": " + finding.what + "\n";
  return out;
}

}  // namespace

TEST_CASE("library files: moulded fibres in one table or by their aligned material, cloth with resin between yarns") {
  Findings findings;
  const auto at_once = read(moulded + "aspect = 25\norientation = [0.75, 0.2, 0.05]\n", "x", findings);
  const auto in_two =
      read("[material.a]\nkind = \"unidirectional\"\n" + mixed_of +
               "0.16\naspect = 25\nXt = 200\nXc = 180\nYt = 60\nYc = 120\nS12 = 50\n[material.x]\nkind = "
               "\"orthotropic\"\naligned = \"a\"\norientation = [0.75, 0.2, 0.05]\nclosure = \"hybrid\"\n",
           "x", findings);
  const std::string weave = "yarn-aspect = 6\ncrimp = 0.005\n";
  const auto cloth = read("[material.x]\nkind = \"fabric\"\n" + mixed_of +
                              "0.45\nyarn-fibre-volume = 0.65\nareal-weight = \"300 g/m^2\"\n" + weave,
                          "x", findings);
  const auto by_yarn =
      read("[material.y]\nkind = \"unidirectional\"\n" + mixed_of +
               "0.65\n[material.x]\nkind = \"fabric\"\nyarn = \"y\"\nmatrix = \"polyamide-6\"\nyarn-volume = "
               "0.69230769230769\n" +
               weave,
           "x", findings);
  const auto fibre = read("[material.z]\nfrom = \"e-glass-fibre\"\n", "e-glass-fibre", findings),
             matrix = read("[material.z]\nfrom = \"e-glass-fibre\"\n", "polyamide-6", findings);
  REQUIRE((fibre && matrix));
  const double glass_weighs = *fibre->density, resin_weighs = *matrix->density;
  REQUIRE((at_once && in_two && cloth && by_yarn));
  CHECK(findings.all().empty());
  CHECK(at_once->kind == Kind::orthotropic);
  CHECK(at_once->elastic.E1 > 1.5 * at_once->elastic.E3);
  CHECK(near(*at_once->density, 0.16 * glass_weighs + 0.84 * resin_weighs, 1e-9));
  CHECK(at_once->made_of.find("25 times as long as thick") != std::string::npos);
  CHECK(*in_two->strength.Xt > *in_two->strength.Yt);
  CHECK(in_two->made_of.find("hybrid closure") != std::string::npos);
  // The thickness holds the cloth's own fibre volume; both ways give the same.
  CHECK(near(*cloth->thickness, 3e-10 / (0.45 * glass_weighs), 1e-6));
  CHECK(near(cloth->elastic.E1, by_yarn->elastic.E1, 1e-9));
  CHECK(near(*cloth->density, 0.45 * glass_weighs + 0.55 * resin_weighs, 1e-9));
  CHECK(cloth->made_of.find("69.23 % of the cloth") != std::string::npos);
}

TEST_CASE("what cannot be has one message, at its line") {
  const auto said = [&](const std::string& text, std::string_view what) {
    const std::string all = mistakes(text);
    CHECK_MESSAGE(all.find(what) != std::string::npos, all);
    CHECK_MESSAGE(std::count(all.begin(), all.end(), '\n') == 1, all);
  };
  said(moulded + "aspect = 25\norientation = [0.75, 0.3, 0.05]\n", "material.orientation");
  said(moulded + "aspect = 25\norientation = [0.75, 0.3]\n", "three numbers or six");
  said(moulded + "aspect = 0.5\norientation = [0.75, 0.2, 0.05]\n", "times as long as thick");
  said(moulded + "aspect = 25\ntheory = \"halpin-tsai\"\norientation = [0.75, 0.2, 0.05]\n",
       "short fibres are mixed by mori-tanaka");
  said(moulded + "aspect = 25\nclosure = \"best\"\norientation = [0.75, 0.2, 0.05]\n", "closure");
  said("[material.x]\nkind = \"orthotropic\"\naligned = \"polyamide-6\"\norientation = [1, 0, 0]\n", "unidirectional");
  said(
      "[material.x]\nkind = \"fabric\"\nfibre = \"e-glass-fibre\"\nmatrix = \"polyamide-6\"\nfibre-volume = "
      "0.6\nyarn-fibre-volume = "
      "0.5\n",
      "fibres lie closer in yarns");
}

}  // namespace of_material_inclusions
