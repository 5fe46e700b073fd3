#include "support.hpp"

#include <bordado/deck.hpp>

#include <Eigen/Eigenvalues>
#include <Eigen/LU>

#include <cmath>
#include <numbers>
#include <random>

namespace of_material_micromechanics {

using namespace bordado;
using namespace bordado::material;

namespace {

struct Random {
  std::mt19937 engine{7};
  double operator()(double low, double high) { return std::uniform_real_distribution<double>(low, high)(engine); }
  double decades(double low, double high) { return std::pow(10.0, (*this)(std::log10(low), std::log10(high))); }
  Elastic resin() { return isotropic(decades(1e3, 6e3), (*this)(0.28, 0.42)); }
  /// Stiffer than any resin above in every way.
  Elastic fibre() {
    for (;;) {
      const double E2 = decades(12e3, 90e3), nu23 = (*this)(0.1, 0.45);
      const Elastic m = transversely_isotropic(decades(E2, 500e3), E2, (*this)(0.15, 0.35), decades(5e3, 40e3), nu23,
                                               E2 / (2 * (1 + nu23)));
      if (!not_positive_definite(m)) return m;
    }
  }
};

double bulk(const Elastic& m) { return 1.0 / (4.0 / m.E2 - 1.0 / m.G23 - 4.0 * m.nu12 * m.nu12 / m.E1); }

/// Hill's and Hashin's bound for parallel fibres with phase `a` around: Z. Hashin, J. Mech. Phys. Solids 13 (1965) 119.
double bound(double b, double a, double share_b, double divisor) {
  return a + share_b / (1.0 / (b - a) + (1.0 - share_b) / divisor);
}

void check_between(double value, double one, double other) {
  const double low = std::min(one, other), high = std::max(one, other);
  CHECK(value >= low * (1 - 1e-9));
  CHECK(value <= high * (1 + 1e-9));
}

/// Mori and Tanaka's stiffness from Eshelby's tensor of a circular cylinder along 1 (T. Mura, Micromechanics of Defects
/// in Solids, 2nd ed. 1987, eq. 11.22).
Matrix6 by_eshelby(const Elastic& fibre, const Elastic& matrix, double vf) {
  const double nu = matrix.nu12, d = 8.0 * (1.0 - nu);
  Matrix6 S = Matrix6::Zero();
  S(1, 1) = S(2, 2) = (5 - 4 * nu) / d;
  S(1, 2) = S(2, 1) = (4 * nu - 1) / d;
  S(1, 0) = S(2, 0) = 4 * nu / d;
  S(3, 3) = 2 * (3 - 4 * nu) / d;
  S(4, 4) = S(5, 5) = 0.5;
  const Matrix6 Cm = stiffness(matrix), difference = stiffness(fibre) - Cm, one = Matrix6::Identity();
  const Matrix6 A = (one + S * Cm.inverse() * difference).inverse();
  return Cm + vf * difference * A * ((1.0 - vf) * one + vf * A).inverse();
}

}  // namespace

TEST_CASE("a textbook ply: glass in epoxy at 70 %") {
  // A. K. Kaw, Mechanics of Composite Materials, 2nd ed. (2006), chapter 3: Ef = 85 GPa, nuf = 0.2, Em = 3.4 GPa, num =
  // 0.3, Vf = 0.7. Halpin-Tsai: E1 60.52, E2 20.20, nu12 0.23, G12 6.169 GPa; elasticity: E1 60.53, E2 15.51 GPa, nu12
  // 0.2238 (printed to four digits).
  const Elastic f = isotropic(85e3, 0.2), m = isotropic(3.4e3, 0.3);
  const Elastic ht = mixed(Theory::halpin_tsai, f, m, 0.7), ca = mixed(Theory::cylinder_assemblage, f, m, 0.7);
  CHECK(test::near(ht.E1, 60.52e3, 2e-4));
  CHECK(test::near(ht.E2, 20.20e3, 5e-4));
  CHECK(test::near(ht.nu12, 0.23, 1e-9));
  CHECK(test::near(ht.G12, 6.169e3, 5e-4));
  CHECK(test::near(ca.E1, 60.53e3, 2e-4));
  CHECK(test::near(ca.nu12, 0.2238, 5e-4));
  CHECK(test::near(ca.E2, 15.51e3, 2e-3));
  CHECK(test::near(ca.G12, 6.169e3, 5e-4));
}

TEST_CASE("measured plies: how near the theories come") {
  // P. D. Soden, M. J. Hinton, A. S. Kaddour, Composites Science and Technology 58 (1998) 1011, tables 1 to 3: fibres,
  // resins and the plies made of them, in GPa. The plies are measured, the fibres' transverse values inferred.
  struct Measured {
    const char* name;
    Elastic fibre;
    double resin_E, resin_nu, fibre_volume;
    double E1, E2, nu12, G12;
  };
  const Measured plies[] = {
      {"AS4/3501-6", transversely_isotropic(225, 15, 0.2, 15, 0.0714, 7), 4.2, 0.34, 0.60, 126, 11, 0.28, 6.6},
      {"T300/BSL914C", transversely_isotropic(230, 15, 0.2, 15, 0.0714, 7), 4.0, 0.35, 0.60, 138, 11, 0.28, 5.5},
      {"E-glass/LY556", isotropic(80, 0.2), 3.35, 0.35, 0.62, 53.48, 17.7, 0.278, 5.83},
      {"E-glass/MY750", isotropic(74, 0.2), 3.35, 0.35, 0.60, 45.6, 16.2, 0.278, 5.83}};
  for (const Measured& m : plies)
    for (const Theory theory : theories) {
      const Elastic ply = mixed(theory, m.fibre, isotropic(m.resin_E, m.resin_nu), m.fibre_volume);
      INFO(m.name << " " << name_of(theory) << " E1 " << ply.E1 / m.E1 << " E2 " << ply.E2 / m.E2 << " nu12 "
                  << ply.nu12 / m.nu12 << " G12 " << ply.G12 / m.G12);
      CHECK(test::near(ply.E1, m.E1, 0.09));
      CHECK(test::near(ply.nu12, m.nu12, 0.12));
      CHECK(ply.E2 > 0.65 * m.E2);  // lower bounds and what is near them fall short across the fibres
      CHECK(ply.E2 < 1.10 * m.E2);
      CHECK(ply.G12 > 0.65 * m.G12);
      CHECK(ply.G12 < 1.05 * m.G12);
    }
}

TEST_CASE("random fibres in random resins stay within the bounds, whatever the theory") {
  Random random;
  for (int round = 0; round < 500; ++round) {
    const Elastic f = random.fibre(), m = random.resin();
    const double vf = random(0.05, 0.72), vm = 1 - vf, kf = bulk(f), km = bulk(m);
    for (const Theory theory : theories) {
      const Elastic ply = mixed(theory, f, m, vf);
      INFO(name_of(theory) << " " << round << " Vf " << vf);
      CHECK(!not_positive_definite(ply));
      check_between(ply.G12, bound(f.G12, m.G12, vf, 2 * m.G12), bound(m.G12, f.G12, vm, 2 * f.G12));
      check_between(ply.G23, bound(f.G23, m.G23, vf, 2 * m.G23 * (km + m.G23) / (km + 2 * m.G23)),
                    bound(m.G23, f.G23, vm, 2 * f.G23 * (kf + f.G23) / (kf + 2 * f.G23)));
      CHECK(ply.E1 >= vf * f.E1 + vm * m.E1 - 1e-6);
      if (theory == Theory::halpin_tsai) {  // Voigt and Reuss
        check_between(ply.E2, 1 / (vf / f.E2 + vm / m.E2), vf * f.E2 + vm * m.E2);
        continue;
      }
      check_between(bulk(ply), bound(kf, km, vf, km + m.G23), bound(km, kf, vm, kf + f.G23));
      const double squeeze = 4 * (f.nu12 - m.nu12) * (f.nu12 - m.nu12) * vf * vm, rule = vf * f.E1 + vm * m.E1;
      check_between(ply.E1, rule + squeeze / (vf / km + vm / kf + 1 / m.G23),
                    rule + squeeze / (vf / km + vm / kf + 1 / f.G23));
    }
  }
}

TEST_CASE("mori-tanaka is what Eshelby's tensor gives") {
  Random random;
  for (int round = 0; round < 100; ++round) {
    const Elastic f = random.fibre(), m = random.resin();
    const double vf = random(0.0, 0.9);
    const Matrix6 truth = by_eshelby(f, m, vf), ours = stiffness(mixed(Theory::mori_tanaka, f, m, vf));
    CHECK((ours - truth).norm() < 1e-9 * truth.norm());
  }
}

TEST_CASE("without fibres there is resin, and equal phases are one") {
  const Elastic m = isotropic(3.3e3, 0.35), f = isotropic(73e3, 0.22);
  for (const Theory theory : theories) {
    CHECK((stiffness(mixed(theory, f, m, 0.0)) - stiffness(m)).norm() < 1e-9 * stiffness(m).norm());
    CHECK((stiffness(mixed(theory, m, m, 0.4)) - stiffness(m)).norm() < 1e-9 * stiffness(m).norm());
  }
  // Nearly all fibres: the cylinder assemblage becomes fibre.
  CHECK((stiffness(mixed(Theory::cylinder_assemblage, f, m, 1 - 1e-12)) - stiffness(f)).norm() <
        1e-6 * stiffness(f).norm());
}

TEST_CASE("pores soften by Hashin's and Shtrikman's upper bound") {
  // Z. Hashin and S. Shtrikman, J. Mech. Phys. Solids 11 (1963) 127, with a phase without stiffness.
  const Elastic m = isotropic(3.3e3, 0.35);
  for (const double c : {0.0, 0.01, 0.05, 0.3}) {
    const Elastic p = porous(m, c);
    const double K = m.E1 / (3 * (1 - 2 * m.nu12)), G = m.G12, left = p.E1 / (3 * (1 - 2 * p.nu12));
    CHECK(test::near(left, K - c / (1 / K - 3 * (1 - c) / (3 * K + 4 * G)), 1e-12));
    CHECK(test::near(p.G12, G - c / (1 / G - 6 * (1 - c) * (K + 2 * G) / (5 * G * (3 * K + 4 * G))), 1e-12));
  }
}

namespace {

Material fibre() {
  Material m;
  m.name = "fibre", m.kind = Kind::fibre, m.density = 1.78e-9;
  m.elastic = transversely_isotropic(230e3, 15e3, 0.2, 15e3, 0.25, 6e3);
  m.thermal = {-0.6e-6, 10e-6, 10e-6};
  return m;
}
Material resin() {
  Material m;
  m.name = "resin", m.kind = Kind::resin, m.density = 1.2e-9;
  m.elastic = isotropic(3.3e3, 0.35);
  m.thermal = {60e-6, 60e-6, 60e-6};
  m.moisture = {0.3, 0.3, 0.3};
  m.stress_free_temperature = 80.0;
  return m;
}

}  // namespace

TEST_CASE("a ply from its constituents has density, expansion, thickness, and says what it is made of") {
  Material form;
  form.name = "ply";
  form.form.areal_weight = 178e-9;  // g/m^2 in t/mm^2
  const Material ply = unidirectional(fibre(), resin(), {Theory::cylinder_assemblage, 0.5, 0.02}, form);
  CHECK(test::near(ply.density.value(), 0.5 * 1.78e-9 + 0.48 * 1.2e-9));
  CHECK(test::near(*ply.thickness, 178e-9 / (1.78e-9 * 0.5)));
  CHECK(*ply.stress_free_temperature == 80.0);
  CHECK(ply.made_of == "fibre 50 % by volume in resin with 2 % voids by cylinder-assemblage");
  // R. A. Schapery, J. Composite Materials 2 (1968) 380, for the fibre direction: within a hundredth part of a
  // millionth.
  const Elastic m = porous(resin().elastic, 0.04);
  const double schapery = (0.5 * 230e3 * -0.6e-6 + 0.5 * m.E1 * 60e-6) / (0.5 * 230e3 + 0.5 * m.E1);
  CHECK(std::abs(*ply.thermal.along - schapery) < 0.15e-6);
  CHECK(*ply.thermal.across > 30e-6);
  CHECK(*ply.moisture.along < 0.05 * *ply.moisture.across);
}

TEST_CASE("free strain: equal phases expand as they do, and a stress-free change of shape of both is that of the ply") {
  Random random;
  for (int round = 0; round < 50; ++round) {
    Material f = fibre(), m = resin();
    f.elastic = random.fibre(), m.elastic = random.resin();
    f.thermal = m.thermal = {12e-6, 30e-6, 30e-6};
    const Material ply =
        unidirectional(f, m, {theories[static_cast<std::size_t>(round % 3)], random(0.1, 0.7), 0.0}, {});
    CHECK(test::near(*ply.thermal.along, 12e-6, 1e-9));
    CHECK(test::near(*ply.thermal.across, 30e-6, 1e-9));
  }
}

TEST_CASE("fractions out of range and wrong constituents are refused with the reason") {
  const auto why = [](const Material& f, const Material& m, Mix mix) {
    try {
      unidirectional(f, m, mix, {});
    } catch (const std::invalid_argument& trouble) {
      return std::string(trouble.what());
    }
    return std::string();
  };
  CHECK(why(fibre(), resin(), {.fibre_volume = 1.0}) == "the fibre volume is 1; it lies between 0 and 1");
  CHECK(why(fibre(), resin(), {.fibre_volume = NAN}) == "the fibre volume is nan; it lies between 0 and 1");
  CHECK(why(fibre(), resin(), {.fibre_volume = 0.6, .voids = 0.4}) ==
        "voids take 0.4 of the volume; they lie between 0 and 0.4");
  CHECK(why(resin(), resin(), {}) == "'resin' is resin, not a fibre");
  CHECK(why(fibre(), fibre(), {}) == "'fibre' is fibre, not a resin");
}

TEST_CASE("crimp: length by the sine wave, stiffness falls as the angle's fourth power of cosine and shear") {
  CHECK(steepest(0.0).degrees() == 0.0);
  // For gentle waves the excess length is slope² / 4.
  CHECK(test::near(std::tan(steepest(0.0025).radians()), 0.1, 0.005));
  const Elastic yarn = mixed(Theory::cylinder_assemblage, fibre().elastic, resin().elastic, 0.6);
  CHECK(crimped(yarn, 0.0) == yarn);
  double last = yarn.E1;
  for (const double crimp : {0.001, 0.004, 0.01, 0.03}) {
    const Elastic wavy = crimped(yarn, crimp);
    CHECK(wavy.E1 < last);
    CHECK(!wavy.full);
    CHECK(!not_positive_definite(wavy));
    // Compliance along the cloth, averaged by hand (Jones eq. 2.97 for axes 1 and 3).
    double sum = 0.0;
    const double slope = std::tan(steepest(crimp).radians());
    for (int i = 0; i < 1000; ++i) {
      const double a = std::atan(slope * std::cos(2 * std::numbers::pi * (i + 0.5) / 1000)), c = std::cos(a),
                   s = std::sin(a);
      sum += (std::pow(c, 4) / yarn.E1 + (1 / yarn.G13 - 2 * yarn.nu13 / yarn.E1) * c * c * s * s +
              std::pow(s, 4) / yarn.E3) /
             1000;
    }
    CHECK(test::near(wavy.E1, 1 / sum, 1e-6));
    last = wavy.E1;
  }
}

TEST_CASE("a fabric at rest is two crossed layers; sheared, its fibres gather along the longer diagonal") {
  const Material yarn = unidirectional(fibre(), resin(), {}, {});
  const Material cloth = fabric(yarn, {.warp_share = 0.5, .crimp = 0.0}, {});
  // In the plane: the mean of the two plane-stress stiffnesses.
  const laminate::Matrix3 Q = laminate::plane_stress_stiffness(yarn.elastic);
  const laminate::Matrix3 mean = 0.5 * (Q + laminate::rotated(Q, Angle::degrees(90)));
  CHECK((laminate::plane_stress_stiffness(cloth.elastic) - mean).norm() < 1e-9 * mean.norm());
  const auto rest = sheared(cloth, Angle());
  REQUIRE(rest);
  CHECK((stiffness(rest->along_warp) - stiffness(cloth.elastic)).norm() < 1e-9 * stiffness(cloth.elastic).norm());
  CHECK(test::near(rest->thickness_ratio, 1.0));
  double last = rest->along_diagonal.E1;
  for (const double shear : {10.0, 20.0, 30.0, 40.0}) {
    const auto now = sheared(cloth, Angle::degrees(shear)), back = sheared(cloth, Angle::degrees(-shear));
    CHECK(now->along_diagonal.E1 > last);
    CHECK(!now->along_diagonal.full);  // a balanced cloth is orthotropic along its diagonals
    CHECK(now->along_warp.full);       // and not along its warp
    CHECK(test::near(now->thickness_ratio, 1 / std::cos(shear * std::numbers::pi / 180)));
    CHECK((stiffness(now->along_diagonal) - stiffness(back->along_diagonal)).norm() <
          1e-9 * stiffness(now->along_diagonal).norm());
    const laminate::Matrix3 along_warp = 0.5 * (Q + laminate::rotated(Q, Angle::degrees(90 - shear)));
    CHECK((laminate::plane_stress_stiffness(now->along_warp) - along_warp).norm() < 1e-9 * along_warp.norm());
    last = now->along_diagonal.E1;
  }
  CHECK(!sheared(cloth, Angle::degrees(90)));
}

TEST_CASE("measured properties of a sheared cloth take the place of computed ones") {
  Material cloth = fabric(unidirectional(fibre(), resin(), {}, {}), {}, {});
  cloth.sheared = {{0, 15e3, 15e3, 0.7, 28e3}, {30, 32e3, 9e3, 0.9, 18e3}};
  const auto middle = sheared(cloth, Angle::degrees(-15));
  REQUIRE(middle);
  CHECK(middle->measured);
  CHECK(test::near(middle->along_diagonal.E1, 23.5e3));
  CHECK(test::near(middle->along_diagonal.nu12, 0.8));
  CHECK(!sheared(cloth, Angle::degrees(31)));  // nothing is made up outside the table
}

TEST_CASE("layers of one material are that material; layers in turns lie between Voigt and Reuss") {
  Random random;
  for (int round = 0; round < 100; ++round) {
    Vector6 expansion = Vector6::Zero();
    expansion.head<3>() = Vec3(random(-1, 30), random(10, 60), random(10, 60)) * 1e-6;
    const Matrix6 C = stiffness(random.fibre());
    const Layered same = layered(std::vector<LayerShare>{{C, 0.3, expansion}, {C, 0.7, expansion}});
    CHECK((same.stiffness - C).norm() < 1e-10 * C.norm());
    CHECK((same.expansion - expansion).norm() < 1e-10 * expansion.norm());
    const Matrix6 D = stiffness(random.resin());
    const double share = random(0.1, 0.9);
    const Matrix6 mixture = layered(std::vector<LayerShare>{{C, share, {}}, {D, 1 - share, {}}}).stiffness;
    const Matrix6 voigt = share * C + (1 - share) * D,
                  reuss = (share * C.inverse() + (1 - share) * D.inverse()).inverse();
    const auto least = [](const Matrix6& m) {
      return Eigen::SelfAdjointEigenSolver<Matrix6>(m).eigenvalues().minCoeff();
    };
    CHECK(least(voigt - mixture) > -1e-9 * voigt.norm());
    CHECK(least(mixture - reuss) > -1e-9 * voigt.norm());
  }
}

TEST_CASE("a cloth whose weft is not square to its warp swells and warms alike, and shears") {
  Material yarn;
  yarn.name = "y";
  yarn.kind = Kind::unidirectional;
  yarn.elastic = test::carbon();
  yarn.thermal = {1e-6, 30e-6, 30e-6};
  yarn.moisture = {1e-6, 30e-6, 30e-6};
  for (const double rest : {90.0, 75.0, 60.0, 120.0}) {
    Material form;
    form.name = "cloth";
    form.form.rest_angle = rest;
    const Material cloth = fabric(yarn, {.warp_share = 0.5, .crimp = 0.0}, form);
    CHECK(cloth.moisture == cloth.thermal);
    const double shear = cloth.thermal.shear.value_or(0.0);
    if (rest == 90.0) {
      CHECK(shear == 0.0);
      continue;
    }
    CHECK(std::abs(shear) > 1e-7);
    // Equal yarns: seen from the line half way between them the cloth is symmetric, so there it does not shear.
    const double a = 0.5 * rest * std::numbers::pi / 180, c = std::cos(a), s = std::sin(a);
    const double along = *cloth.thermal.along, across = *cloth.thermal.across;
    const double turned = -2 * c * s * (along - across) + (c * c - s * s) * shear;
    CHECK(std::abs(turned) < 1e-9 * (std::abs(along) + std::abs(across)));
    // It reaches lamination theory: one ply, free, does just that.
    const std::vector<laminate::Layer> ply = {laminate::layer_of(cloth, 0.3, Angle())};
    const auto free = laminate::free_expansion(ply, -0.15, laminate::Expands::by_temperature);
    CHECK(test::near(free.strain[2], shear, 1e-9));
    CHECK(free.curvature.norm() < 1e-12);
    // And the decks.
    const std::string text = deck::material_text(cloth, UnitSystem(), "calculix", 1);
    CHECK(text.find("*EXPANSION, TYPE=ANISO") != std::string::npos);
    CHECK(deck::material_text(cloth, UnitSystem(), "bulk-data", 1).find("MAT2*") != std::string::npos);
  }
}

}  // namespace of_material_micromechanics
