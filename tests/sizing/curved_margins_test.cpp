// All that can happen to a curved panel or a cylinder: shares of each load by the classical formulas and the source's knock-down.
#include "support.hpp"

#include <bordado/curved_margins.hpp>

#include <numbers>

namespace of_sizing_curved_margins {

using namespace bordado;
using namespace bordado::sizing;
using test::near;

namespace {

constexpr double pi = std::numbers::pi, E = 70e3, nu = 0.3;

struct Shelf {
  material::Material metal, carbon, foam;
  Shelf() {
    metal.name = "metal", metal.kind = material::Kind::isotropic, metal.elastic = material::isotropic(E, nu);
    metal.density = 2.7e-9, metal.strength.Xt = metal.strength.Xc = 300.0;
    carbon.name = "carbon", carbon.kind = material::Kind::unidirectional, carbon.elastic = test::carbon();
    carbon.strength.Xt = 1700, carbon.strength.Xc = 1000, carbon.strength.Yt = 45, carbon.strength.Yc = 160,
    carbon.strength.S12 = 75;
    foam.name = "foam", foam.kind = material::Kind::foam, foam.elastic = material::isotropic(70.0, 0.3);
    foam.strength.S13 = foam.strength.S23 = 1.0, foam.strength.Zc = 1.2;
  }
  laminate::Stack stack(std::initializer_list<std::tuple<const material::Material*, double, double>> layers) const {
    laminate::Stack out;
    for (const auto& [m, thickness, degrees] : layers) {
      out.layers.push_back(laminate::layer_of(*m, thickness, Angle::degrees(degrees)));
      out.materials.push_back(m);
    }
    return out;
  }
  CurvedCase cylinder(double t, double length, double radius) const {
    CurvedCase out;
    out.stack = stack({{&metal, t, 0.0}});
    out.length = length, out.radius = radius;
    return out;
  }
};

const Margin& margin(const CurvedAnswer& answer, std::string_view what) {
  for (const Margin& one : answer.margins)
    if (one.what == what) return one;
  FAIL("no such margin");
  return answer.margins.front();
}

}  // namespace

TEST_CASE("a cylinder of metal: NASA SP-8007's formulas for thrust, pressure and torsion, one by one") {
  const Shelf shelf;
  const double t = 0.5, R = 300.0;
  CurvedCase given = shelf.cylinder(t, 200.0, R);
  given.axial = -10.0;
  CurvedAnswer found = check_curved(given);
  const double phi = std::sqrt(R / t) / 16.0, left = 1.0 - 0.901 * (1.0 - std::exp(-phi));
  REQUIRE(found.shares.size() == 1);
  CHECK(near(found.shares[0].left, left, 1e-6));
  CHECK(near(found.shares[0].classical, E * t * t / R / std::sqrt(3 * (1 - nu * nu)), 2e-2));
  CHECK(near(found.buckles.value(), left * found.shares[0].classical / 10.0, 1e-12));
  CHECK(near(margin(found, curved_words).factor, *found.buckles));
  // Long, under pressure from outside: a ring. Torsion: Donnell.
  given = shelf.cylinder(t, 250 * R, R);
  given.pressure = -1e-5;
  found = check_curved(given);
  const double D = E * t * t * t / 12 / (1 - nu * nu);
  CHECK(found.shares.at(0).n == 2);
  CHECK(near(found.shares[0].bears, 0.75 * 3 * D / (R * R * R), 1e-2));
  CHECK(near(found.buckles.value(), found.shares[0].bears / 1e-5, 1e-12));
  given = shelf.cylinder(0.4, 300.0, 100.0);
  given.shear = 2.0;
  found = check_curved(given);
  CHECK(near(found.shares.at(0).bears, 0.67 * 0.747 * E * std::pow(0.004, 1.25) * std::sqrt(1.0 / 3.0) * 0.4, 6e-2));
  given.shear = -2.0;
  CHECK(near(check_curved(given).buckles.value(), *found.buckles));
}

TEST_CASE("a long cylinder under thrust is Euler's bar, of which nothing is knocked down") {
  const Shelf shelf;
  const double t = 1.0, R = 50.0, length = 4000.0;
  CurvedCase given = shelf.cylinder(t, length, R);
  given.axial = -1.0;
  const CurvedShare thrust = check_curved(given).shares.at(0);
  CHECK(thrust.n == 1);
  CHECK(thrust.left == 1.0);
  CHECK(near(thrust.bears, pi * pi * E * R * R * t / (2 * length * length), 1e-2));
  given.length = 300.0;
  const CurvedShare dents = check_curved(given).shares.at(0);
  CHECK(dents.n != 1);
  CHECK(near(dents.bears, dents.left * dents.classical));
}

TEST_CASE(
    "loads together: shares are added; pulls and inner pressure help nothing, and twice the loads halve the factor") {
  const Shelf shelf;
  CurvedCase given = shelf.cylinder(0.5, 500, 250);
  given.axial = -12.0, given.shear = 5.0, given.pressure = -0.002;
  const CurvedAnswer all = check_curved(given);
  REQUIRE(all.shares.size() == 3);
  double sum = 0.0;
  for (int k = 0; k < 3; ++k) {
    CurvedCase one = given;
    if (k != 0) one.axial = 0.0;
    if (k != 1) one.shear = 0.0;
    if (k != 2) one.pressure = 0.0;
    sum += 1.0 / check_curved(one).buckles.value();
  }
  CHECK(near(all.buckles.value(), 1.0 / sum, 1e-12));
  CurvedCase twice = given;
  twice.axial *= 2, twice.shear *= 2, twice.pressure *= 2;
  CHECK(near(check_curved(twice).buckles.value(), 0.5 / sum, 1e-12));
  CHECK(near(check_curved(twice).criteria.front().factor, 0.5 * all.criteria.front().factor, 1e-9));
  CurvedCase pulled = given;
  pulled.axial = 40.0, pulled.pressure = 1.0;
  CurvedCase sheared = given;
  sheared.axial = 0.0, sheared.pressure = 0.0;
  CHECK(near(check_curved(pulled).buckles.value(), check_curved(sheared).buckles.value()));
  pulled.shear = 0.0;
  CHECK(!check_curved(pulled).buckles);
  pulled.axial = pulled.pressure = 0.0;
  CHECK(check_curved(pulled).margins.empty());
}

TEST_CASE("what the wall bears: pressure inside is p R round; a sandwich's faces press on their core by the radius") {
  const Shelf shelf;
  CurvedCase given = shelf.cylinder(2.0, 500, 250);
  given.pressure = 0.8;
  const CurvedAnswer metal = check_curved(given);
  CHECK(near(metal.N[1], 200.0));
  CHECK(near(metal.criteria.front().factor, 300.0 / (0.8 * 250 / 2.0), 1e-9));
  // Closed ends pull along half of that: Von Mises.
  given.axial = 100.0;
  const double s = 100.0, a = 50.0;
  CHECK(near(check_curved(given).criteria.front().factor, 300.0 / std::sqrt(s * s - s * a + a * a), 1e-9));
  // Equal faces of the wall share p R; each puts its half of it over R on the core: the inner one is pushed against it when the wall is
  // pulled, by p / 2, and the pressure itself is counted, too.
  CurvedCase sandwich = given;
  sandwich.axial = 0.0, sandwich.pressure = 0.1;
  sandwich.stack = shelf.stack({{&shelf.carbon, 0.3, 90.0}, {&shelf.foam, 8.0, 0.0}, {&shelf.carbon, 0.3, 90.0}});
  const CurvedAnswer thin = check_curved(sandwich);
  REQUIRE(thin.sandwich);
  const auto crushes = std::find_if(thin.criteria.begin(), thin.criteria.end(), [](const laminate::Failing& one) {
    return one.criterion == laminate::Criterion::core_crushing;
  });
  REQUIRE(crushes != thin.criteria.end());
  const double of_faces = sandwich.radius * 0.1 * 0.5 / sandwich.radius;  // less the little that the foam carries
  CHECK(near(1.2 / crushes->factor, 0.1 + of_faces, 1e-2));
}

TEST_CASE(
    "a panel: hardly curved it is the flat one, much curved the shell's knocked-down load; more curved never less") {
  const Shelf shelf;
  const double t = 1.0, D = E * t * t * t / 12 / (1 - nu * nu);
  CurvedCase given = shelf.cylinder(t, 400, 1e6);
  given.width = 200;
  given.axial = -10.0;
  CurvedAnswer found = check_curved(given);
  CHECK(found.shares.at(0).flat);
  CHECK(near(found.shares[0].bears, 4 * pi * pi * D / (200.0 * 200.0), 2e-3));
  double before = 0.0;
  for (const double radius : {1e5, 3000.0, 1000.0, 400.0, 150.0}) {
    given.radius = radius;
    found = check_curved(given);
    CHECK(found.shares[0].bears >= before * (1 - 1e-9));
    before = found.shares[0].bears;
  }
  CHECK(!found.shares[0].flat);
  CHECK(near(found.shares[0].bears, found.left.axial * found.shares[0].classical));
  // Shear of a panel: the flat one, with its sign where plies have one.
  given.axial = 0.0, given.shear = 5.0;
  given.stack = shelf.stack({{&shelf.carbon, 1.0, 45.0}});
  const double one_way = check_curved(given).shares.at(0).bears;
  given.shear = -5.0;
  const double other_way = check_curved(given).shares.at(0).bears;
  CHECK(std::max(one_way, other_way) > 1.5 * std::min(one_way, other_way));
}

TEST_CASE("where theory and tests end: R / t beyond 1500, thick walls, directions that go together") {
  const Shelf shelf;
  const auto range = [](const CurvedCase& given) { return range_of(given, check_curved(given)); };
  CHECK(range(shelf.cylinder(0.1, 100, 149)).of_tests);
  CHECK(!range(shelf.cylinder(0.1, 100, 151)).of_tests);
  CHECK(!range(shelf.cylinder(1.0, 100, 10.1)).is_thick());
  CHECK(range(shelf.cylinder(1.0, 100, 9.9)).is_thick());
  CurvedCase turned = shelf.cylinder(1.0, 100, 100);
  CHECK(!range(turned).is_coupled());
  turned.stack = shelf.stack({{&shelf.carbon, 1.0, 30.0}});
  CHECK(range(turned).is_coupled());
}

TEST_CASE("a wall with next to no load has no margins that anybody could read") {
  const Shelf shelf;
  CurvedCase given = shelf.cylinder(1.0, 400, 200);
  given.axial = -1e-3;
  CHECK(check_curved(given).margins.size() >= 2);
  given.axial = -1e-12;
  CHECK(check_curved(given).margins.empty());
}

TEST_CASE("length and stiffness scale as they must; what is no number is refused") {
  const Shelf shelf;
  CurvedCase given = shelf.cylinder(0.5, 500, 250);
  given.axial = -1.0;
  const double small = check_curved(given).buckles.value();
  CurvedCase larger = shelf.cylinder(5.0, 5000, 2500);
  larger.axial = -10.0;  // the same stress
  CHECK(near(check_curved(larger).buckles.value(), small, 1e-9));
  for (double CurvedCase::*const number : {&CurvedCase::length, &CurvedCase::radius, &CurvedCase::axial,
                                           &CurvedCase::shear, &CurvedCase::pressure, &CurvedCase::width})
    for (const double bad : {std::nan(""), 1e40}) {
      CurvedCase broken = given;
      broken.*number = bad;
      CHECK_THROWS_AS(check_curved(broken), std::invalid_argument);
    }
}

}  // namespace of_sizing_curved_margins
