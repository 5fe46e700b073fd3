#include "support.hpp"

#include <Eigen/Cholesky>

#include <random>

namespace of_material_material {

using namespace bordado;
using material::Elastic;
using material::not_positive_definite;

namespace {

/// The truth: the 3 x 3 normal compliance has a Cholesky factor.
bool compliance_is_positive(const Elastic& m) {
  Eigen::Matrix3d S;
  S << 1 / m.E1, -m.nu12 / m.E1, -m.nu13 / m.E1, -m.nu12 / m.E1, 1 / m.E2, -m.nu23 / m.E2, -m.nu13 / m.E1,
      -m.nu23 / m.E2, 1 / m.E3;
  const Eigen::Vector3d scale = S.diagonal().cwiseSqrt().cwiseInverse();
  return Eigen::LLT<Eigen::Matrix3d>(scale.asDiagonal() * S * scale.asDiagonal()).info() == Eigen::Success;
}

std::vector<std::string> codes(const material::Material& material, const UnitSystem& units) {
  Findings findings;
  material::check_plausible(material, units, findings);
  std::vector<std::string> out;
  for (const Finding& finding : findings.all()) out.push_back(finding.code);
  return out;
}

}  // namespace

TEST_CASE("positive definiteness agrees with a Cholesky factorisation on random constants") {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> exponent(2, 5.3), nu(-1.5, 1.5);
  int possible = 0;
  for (int i = 0; i < 20000; ++i) {
    const Elastic m{.E1 = std::pow(10, exponent(random)),
                    .E2 = std::pow(10, exponent(random)),
                    .E3 = std::pow(10, exponent(random)),
                    .nu12 = nu(random),
                    .nu13 = nu(random),
                    .nu23 = nu(random),
                    .G12 = 1,
                    .G13 = 1,
                    .G23 = 1};
    INFO(m.E1 << " " << m.E2 << " " << m.E3 << " " << m.nu12 << " " << m.nu13 << " " << m.nu23);
    CHECK(!not_positive_definite(m).has_value() == compliance_is_positive(m));
    possible += compliance_is_positive(m);
  }
  CHECK(possible > 1000);  // both answers were met often
  CHECK(possible < 19000);
}

TEST_CASE("the reason names the constant") {
  Elastic m = test::carbon();
  CHECK(!not_positive_definite(m).has_value());
  m.nu12 = 4.5;
  CHECK(*not_positive_definite(m) == "nu12 = 4.5 is outside ±sqrt(E1/E2) = ±3.873");
  m = test::carbon();
  m.G13 = -1;
  CHECK(*not_positive_definite(m) == "G13 = -1 is not a positive number");
  m = test::carbon();
  m.E2 = std::nan("");
  CHECK(not_positive_definite(m).has_value());
  CHECK(not_positive_definite(material::isotropic(70000, 0.5)).has_value());
  CHECK(!not_positive_definite(material::isotropic(70000, 0.33)).has_value());
}

TEST_CASE("slips of units and index are pointed out, sound values are not") {
  const UnitSystem mm;
  material::Material carbon{.name = "carbon",
                            .mark = "",
                            .kind = material::Kind::unidirectional,
                            .elastic = test::carbon(),
                            .density = 1.55e-9,
                            .thickness = 0.25,
                            .where = {}};
  CHECK(codes(carbon, mm).empty());
  material::Material slip = carbon;
  slip.elastic.E1 = 135;  // GPa written into a MPa system
  CHECK(codes(slip, mm) == std::vector<std::string>{"material.stiffness-unlikely"});
  slip = carbon;
  slip.density = 1550;  // kg/m^3 written into t/mm^3
  CHECK(codes(slip, mm) == std::vector<std::string>{"material.density-unlikely"});
  slip = carbon;
  slip.thickness = 0.00025;  // metres
  CHECK(codes(slip, mm) == std::vector<std::string>{"material.thickness-unlikely"});
  slip = carbon;
  slip.elastic.nu12 = 0.3 * 9000 / 135000;
  CHECK(codes(slip, mm) == std::vector<std::string>{"material.nu21-for-nu12"});
}

TEST_CASE("expansions and strengths that smell of units are doubted, usual ones are not") {
  material::Material m;
  m.name = "ply";
  m.elastic = test::carbon();
  m.density = 1.55e-9;
  m.thermal = {0.2e-6, 30e-6, {}};
  m.strength.Xt = 1900;
  m.strength.Yc = 160;
  CHECK(codes(m, UnitSystem()).empty());
  m.thermal.across = 30.0;  // 1e-6 forgotten
  CHECK(codes(m, UnitSystem()) == std::vector<std::string>{"material.expansion-unlikely"});
  m.thermal.across = 30e-6;
  m.strength.Yc = 160e3;  // kPa in a system of MPa
  CHECK(codes(m, UnitSystem()) == std::vector<std::string>{"material.strength-unlikely"});
  Findings findings;
  check_plausible(m, UnitSystem(), findings);
  CHECK(findings.all()[0].what ==
        "material 'ply': Yc = 160000 MPa is 1.6e+05 MPa, unlikely for a unidirectional material");
}

}  // namespace of_material_material
