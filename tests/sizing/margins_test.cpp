// All that can happen to a panel, against closed forms and the pieces that it is made of.
#include "support.hpp"

#include <bordado/margins.hpp>

#include <cmath>
#include <numbers>

namespace of_sizing_margins {

using namespace bordado;
using namespace bordado::sizing;
using test::near;

namespace {

constexpr double pi = std::numbers::pi;

/// A stack and its materials, which it points to.
struct Given {
  std::vector<std::unique_ptr<material::Material>> materials;
  PanelCase panel;
  void add(material::Material m, double thickness, double degrees) {
    materials.push_back(std::make_unique<material::Material>(std::move(m)));
    panel.stack.layers.push_back(laminate::layer_of(*materials.back(), thickness, Angle::degrees(degrees)));
    panel.stack.materials.push_back(materials.back().get());
  }
};

material::Material metal() {
  material::Material out;
  out.kind = material::Kind::isotropic;
  out.elastic = material::isotropic(70e3, 0.3);
  out.density = 2.7e-9;
  out.strength.Xt = 200.0;
  return out;
}
material::Material foam() {
  material::Material out;
  out.kind = material::Kind::foam;
  out.elastic = material::isotropic(70.0, 0.3);
  out.density = 8e-11;
  out.strength.S12 = 1.1;
  out.strength.Zc = 1.4;
  return out;
}

Given sandwich(double a, double b, double core = 12.0) {
  Given out;
  out.add(metal(), 0.5, 0);
  out.add(foam(), core, 0);
  out.add(metal(), 0.5, 0);
  out.panel.a = a, out.panel.b = b;
  return out;
}

double margin(const PanelAnswer& answer, std::string_view what) {
  for (const Margin& one : answer.margins)
    if (one.what == what) return one.factor;
  FAIL("no such margin: ", what);
  return 0.0;
}

}  // namespace

TEST_CASE("a sandwich of metal and foam: buckling with core shear as Allen has it, and beside it Navier's") {
  Given given = sandwich(2400, 1200);
  given.panel.N = {-10, 0, 0};
  given.panel.terms = Terms{20, 20};
  const PanelAnswer answer = check_panel(given.panel);
  // Faces about the middle, and about themselves; H. G. Allen, Analysis and Design of Structural Sandwich Panels, chapter 5.
  const double plane = 70e3 / (1 - 0.09), d = 12.5, D = plane * (0.5 * d * d / 2 + 2 * std::pow(0.5, 3) / 12);
  const double S = 70.0 / 2.6 * d * d / 12.0;
  double least = 1e300;
  for (int m = 1; m < 9; ++m) {
    const double p = m * pi / 2400, square = p * p + std::pow(pi / 1200, 2);
    least = std::min(least, D * square * square / (1 + D * square / S) / (p * p));
  }
  // His core carries shear alone, its stiffness in bending is left out: 0.1 %; the equilibrium's shear stiffness is a little other.
  CHECK(near(margin(answer, buckling_words), least / 10, 1e-2));
  REQUIRE(answer.closed);
  CHECK(near(margin(answer, buckling_words), answer.closed->buckling.value(), 1e-5));
  CHECK(near(answer.frequencies.at(0).value, answer.closed->frequency, 1e-6));
  CHECK(answer.sandwich);
  // The core takes its share of stretching.
  for (const Vector3& face : {answer.faces.top, answer.faces.bottom})
    CHECK(near(face[0], -10.0 * 0.5 * 70e3 / (70e3 + 12 * 70.0), 1e-9));
  for (std::size_t i = 1; i < answer.margins.size(); ++i)
    CHECK(answer.margins[i - 1].factor <= answer.margins[i].factor);
  CHECK(answer.left_out.empty());
}

TEST_CASE("loads that are the margin times as large: it is one then") {
  Given given = sandwich(500, 300);
  given.panel.N = {-10, 4, 6};
  const PanelAnswer answer = check_panel(given.panel);
  CHECK(answer.margins.size() >= 4);
  for (const Margin& one : answer.margins) {
    INFO(one.what);
    Given more = sandwich(500, 300);
    more.panel.N = one.factor * given.panel.N;
    CHECK(near(margin(check_panel(more.panel), one.what), 1.0, 1e-4));
  }
}

TEST_CASE("a long strip under pressure: p b²/8 in the middle, p b/2 at its edges, by the laminate's own judgement") {
  Given given = sandwich(3000, 300);
  given.panel.pressure = 0.01;
  given.panel.terms = Terms{30, 16};
  const PanelAnswer answer = check_panel(given.panel);
  const laminate::Stack stack{given.panel.stack.layers, given.panel.stack.materials, -6.5};
  const auto factor = [&](const laminate::Load& load, laminate::Criterion criterion) {
    const laminate::Criterion one[] = {criterion};
    return laminate::first_failures(stack, load, one).at(0).factor;
  };
  laminate::Load bends, shears;
  // Bent into a cylinder: as much along as nu of it.
  bends.M = {0.3 * 0.01 * 300 * 300 / 8, 0.01 * 300 * 300 / 8, 0};
  shears.Q = {0, 0.01 * 300 / 2};
  CHECK(near(margin(answer, laminate::words(laminate::FailureMode::yielding)),
             factor(bends, laminate::Criterion::von_mises), 1e-2));
  CHECK(near(margin(answer, laminate::words(laminate::FailureMode::core_shear)),
             factor(shears, laminate::Criterion::core_shear), 2e-2));
  // The pressure, and what bent faces press by their forces, which goes with the square: R p + R² (M / d) (M / D) = Zc.
  const double M = bends.M[1], by_bending = M / 12.5 * M / answer.panel.plate.D(1, 1);
  const double R = (std::sqrt(0.01 * 0.01 + 4 * 1.4 * by_bending) - 0.01) / (2 * by_bending);
  CHECK(near(margin(answer, laminate::words(laminate::FailureMode::core_crushing)), R, 1e-2));
  CHECK(answer.buckling.forward == std::nullopt);
  // Twice the pressure, half the margins.
  Given twice = sandwich(3000, 300);
  twice.panel.pressure = 0.02;
  twice.panel.terms = given.panel.terms;
  const PanelAnswer halved = check_panel(twice.panel);
  REQUIRE(halved.criteria.size() == answer.criteria.size());
  CHECK(near(halved.margins[0].factor, 0.5 * answer.margins[0].factor, 1e-3));
}

TEST_CASE("a panel with next to no load has no margins that anybody could read") {
  Given given = sandwich(400, 300);
  given.panel.N = {-1e-3, 0, 0};
  CHECK(check_panel(given.panel).margins.size() >= 3);
  given.panel.N = {-1e-12, 0, 0};
  CHECK(check_panel(given.panel).margins.empty());
}

TEST_CASE("forces in the plane add to what the pressure bends, until they buckle it") {
  Given given = sandwich(400, 300);
  given.panel.pressure = 0.01;
  const double alone = check_panel(given.panel).bent->largest.value;
  given.panel.N = {-1, -1, 0};
  const double factor = margin(check_panel(given.panel), buckling_words);
  for (const double share : {0.3, 0.8}) {
    given.panel.N = Vector3(-1, -1, 0) * (share * factor);
    // Navier's sum for plates that are the same in all directions, each mode's stiffness less what the forces take.
    const PanelAnswer answer = check_panel(given.panel);
    const double D = answer.panel.plate.D(0, 0), S = answer.panel.plate.H(0, 0);
    double middle = 0.0;
    for (int m = 1; m < 100; m += 2)
      for (int n = 1; n < 100; n += 2) {
        const double square = std::pow(m * pi / 400, 2) + std::pow(n * pi / 300, 2);
        const double stiffness = D * square * square / (1 + D * square / S) - share * factor * square;
        middle += ((m + n) % 4 == 2 ? 1 : -1) * 16 * 0.01 / (pi * pi * m * n) / stiffness;
      }
    CHECK(near(answer.bent->largest.value, middle, 1e-4));
  }
  given.panel.N = Vector3(-1, -1, 0) * (1.1 * factor);
  const PanelAnswer buckled = check_panel(given.panel);
  CHECK(buckled.bent_without_N);
  CHECK(near(buckled.bent->largest.value, alone, 1e-9));
  CHECK(buckled.margins[0].factor < 1.0);
}

TEST_CASE("formulas that say the least of a face's load; none where nothing is pushed") {
  Given given = sandwich(500, 300, 20.0);
  given.panel.N = {-30, -10, 0};
  const PanelAnswer answer = check_panel(given.panel);
  CHECK(answer.formulas.size() == 2 * (wrinkling_formula_count - 1));  // all but that of honeycomb
  for (const FormulaMargin& one : answer.formulas) {
    CHECK(near(one.factor, one.answer.force / (one.top ? -answer.faces.top[0] : -answer.faces.bottom[0]), 1e-9));
    CHECK(one.direction == 0.0);
  }
  given.panel.N = {30, 10, 0};
  const PanelAnswer pulled = check_panel(given.panel);
  CHECK(pulled.formulas.empty());
  CHECK(!pulled.wave);
  CHECK(!pulled.buckling.forward);
  given.panel.patch = 10.0;
  CHECK(check_panel(given.panel).indentation);
  given.panel.N[0] = std::nan("");
  CHECK_THROWS_AS(check_panel(given.panel), std::invalid_argument);
}

}  // namespace of_sizing_margins
