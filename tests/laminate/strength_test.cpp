#include "support.hpp"

#include <bordado/strength.hpp>

#include <cmath>
#include <random>

using namespace bordado;
using namespace bordado::laminate;

namespace {

material::Material ply() {
  material::Material m;
  m.name = "ud";
  m.elastic = test::carbon();
  m.thermal = {-0.3e-6, 30e-6, 30e-6};
  m.strength = {1900, 1100, 45, 160, {}, {}, 70, 80, 45};
  return m;
}

material::Material core(double E, double G) {
  material::Material m;
  m.name = "core";
  m.kind = material::Kind::honeycomb;
  m.elastic = {1.0, 1.0, E, 0.0, 0.0, 0.0, 0.5, G, G, {}};
  m.strength.S13 = 1.2, m.strength.S23 = 0.7, m.strength.Zc = 2.0;
  return m;
}

/// A stack that keeps its materials.
struct Made {
  material::Material face = ply(), middle = core(100.0, 40.0);
  Stack stack;
  Made(const std::string& code, double t, double tc = 0.0) {
    for (const CodePly& p : parse_code(code)) {
      const bool is_core = p.mark == "K";
      stack.materials.push_back(is_core ? &middle : &face);
      stack.layers.push_back(layer_of(is_core ? middle : face, is_core ? tc : t, p.angle));
    }
    stack.z0 = -0.5 * thickness(stack.layers);
  }
};

constexpr Criterion tsai_wu[] = {Criterion::tsai_wu};

}  // namespace

TEST_CASE("the load at which a ply fails puts that ply on the surface") {
  std::mt19937 engine(5);
  std::normal_distribution<double> normal;
  for (int trial = 0; trial < 200; ++trial) {
    Made made("[0/45/-45/90/30]", 0.2);
    Load load;
    for (int k = 0; k < 3; ++k) load.N[k] = 100 * normal(engine), load.M[k] = 20 * normal(engine);
    load.temperature = trial % 2 ? -100.0 : 0.0;
    const Failing worst = first_failures(made.stack, load, tsai_wu).front();
    Load there = load;
    there.N *= worst.factor, there.M *= worst.factor;
    const auto states =
        layer_states(made.stack.layers, made.stack.z0, deformation(made.stack.layers, made.stack.z0, there), there);
    const FailureSurface surface(Criterion::tsai_wu, made.face);
    double most = 0.0;
    std::size_t where = 0;
    for (std::size_t i = 0; i < states.size(); ++i)
      if (const double index = surface.index(states[i].ply_stress); index > most) most = index, where = i;
    CAPTURE(trial);
    CHECK(test::off(most, 1.0) < 1e-9);
    CHECK(where / 3 == worst.layer);
    CHECK(where % 3 == worst.place);
  }
}

TEST_CASE("cooling is held while loads are multiplied") {
  Made made("[0/90]s", 0.25);
  Load load;
  load.N[0] = 50.0;
  const double warm = first_failures(made.stack, load, tsai_wu).front().factor;
  load.temperature = -100.0;
  const double cold = first_failures(made.stack, load, tsai_wu).front().factor;
  CHECK(cold < warm);
  // Twice the load, half the factor: cooling is not in it.
  load.N[0] = 100.0;
  CHECK(test::off(first_failures(made.stack, load, tsai_wu).front().factor, 0.5 * cold) < 1e-12);
  // So cold that it cracks by itself.
  load.temperature = -3000.0;
  CHECK(first_failures(made.stack, load, tsai_wu).front().factor == 0.0);
}

TEST_CASE("a strip in shear splits in its middle at 2/3 of S13 times h") {
  Made made("[0_8]", 0.25);
  Load load;
  load.Q = {1.0, 0.0};
  const Criterion shear[] = {Criterion::interlaminar_shear};
  const Failing failing = first_failures(made.stack, load, shear).front();
  CHECK(test::off(failing.factor, 2.0 / 3.0 * 80.0 * 2.0) < 1e-12);
  CHECK((failing.layer == 3 || failing.layer == 4));
  CHECK(words(failing.mode) == "delamination");
}

TEST_CASE("a sandwich: core shear, crushing, wrinkling and dimpling of its faces by their formulas") {
  const double t = 0.25, tc = 20.0;
  Made made("[0_2/0K/0_2]", t, tc);
  const double tf = 2 * t, d = tc + tf, E = test::carbon().E1, Ec = 100.0, G = 40.0;
  const auto factor = [&](const Load& load, Criterion criterion) {
    const Criterion one[] = {criterion};
    const auto all = first_failures(made.stack, load, one);
    return all.empty() ? std::numeric_limits<double>::infinity() : all.front().factor;
  };
  Load shear;
  shear.Q = {1.0, 0.0};
  // Q / d in a core much softer than its faces; here the core's own E1 = 1 adds nothing.
  CHECK(test::off(factor(shear, Criterion::core_shear), 1.2 * d) < 2e-3);
  shear.Q = {0.0, 1.0};
  CHECK(test::off(factor(shear, Criterion::core_shear), 0.7 * d) < 2e-3);

  Load pushed;
  pushed.N = {-1.0, 0.0, 0.0};  // half to each face
  // 0.5 (Ef Ec Gc)^(1/3); the face is bent as a plate whose nu21 makes Q11 of E.
  const double Q11 = plane_stress_stiffness(test::carbon())(0, 0);
  const double wrinkles = 0.5 * std::cbrt(Q11 * Ec * G) * 2 * tf;
  CHECK(test::off(factor(pushed, Criterion::wrinkling), wrinkles) < 2e-3);
  Load pulled;
  pulled.N = {1.0, 0.0, 0.0};
  CHECK(factor(pulled, Criterion::wrinkling) > 1e3 * wrinkles);
  CHECK(!std::isfinite(factor(pushed, Criterion::dimpling)));
  made.middle.form.cell = 10.0;
  // 2 Ef / (1 - nu12 nu21) (tf / s)²: Q11 is E over that.
  CHECK(test::off(factor(pushed, Criterion::dimpling), 2.0 * Q11 * std::pow(tf / 10.0, 2) * 2 * tf) < 2e-3);

  Load bent;
  bent.M = {1.0, 0.0, 0.0};
  // Forces M / d in faces bent by M / D press with 2 M² / (E tf d³), so Zc is reached at its root. Width is held: none
  // of the moment goes across, but nu21 does a little.
  const double D = E * tf * d * d / 2.0;
  CHECK(test::off(factor(bent, Criterion::core_crushing), std::sqrt(2.0 * d * D)) < 5e-3);
  bent.M = {-1.0, 0.0, 0.0};
  CHECK(test::off(factor(bent, Criterion::core_crushing), std::sqrt(2.0 * d * D)) < 5e-3);

  // Of a part that was made with a radius of 500 a face's force presses by a 500th of it: pulled, the upper face on a core
  // that bends away from it, pushed the lower one. The core holds Zc = 2.
  const Criterion crushing[] = {Criterion::core_crushing};
  const Judge judge(made.stack.layers, made.stack.materials, made.stack.z0, crushing);
  Straining curved;
  for (const double pull : {1.0, -1.0}) {
    Load load;
    load.N = {pull, 0.0, 0.0};
    curved.deformation = deformation(made.stack.layers, made.stack.z0, load);
    curved.curved = {1.0 / 500.0, 0.0, 0.0};
    const Failing failing = judge.worst(curved);
    CHECK(test::off(failing.factor, 2.0 * 500.0 * 2.0) < 5e-3);
    CHECK(failing.layer == (pull > 0.0 ? 3u : 0u));
  }
}

TEST_CASE("wrinkling looks in every direction, from the face as it is laid") {
  Made made("[45/-45/0K/-45/45]", 0.25, 20.0);
  const auto faces = faces_of(made.stack.layers, made.stack.materials);
  REQUIRE(faces.size() == 2);
  CHECK(!faces[0].above);
  CHECK(faces[1].above);
  // Turned by 45 degrees the same face is that of a cross-ply.
  Made turned("[90/0/0K/0/90]", 0.25, 20.0);
  const auto others = faces_of(turned.stack.layers, turned.stack.materials);
  for (std::size_t k = 0; k < 36; ++k) CHECK(test::off(faces[0].wrinkles[k], others[0].wrinkles[(k + 9) % 36]) < 1e-12);
  // Pure shear wrinkles along 45 degrees: the directions there push with N.
  Load shear;
  shear.N = {0.0, 0.0, 1.0};
  const Criterion one[] = {Criterion::wrinkling};
  double least = std::numeric_limits<double>::infinity();
  for (std::size_t k = 0; k < 36; ++k) {
    const double push = -0.5 * std::sin(2.0 * std::numbers::pi / 36.0 * static_cast<double>(k));
    if (push > 0.0) least = std::min(least, faces[0].wrinkles[k] / push);
  }
  CHECK(test::off(first_failures(made.stack, shear, one).front().factor, least) < 1e-3);
  // A stack with cores everywhere but no face, and one without a core, have none.
  CHECK(faces_of(std::span(made.stack.layers).first(2), std::span(made.stack.materials).first(2)).empty());
}

TEST_CASE("an envelope: every point fails there, corners from both sides, none of it inside") {
  Made made("[0/±45/90]s", 0.2);
  const std::vector<Criterion> criteria = {Criterion::puck};
  Load other;
  other.temperature = -60.0;
  const auto points = envelope(made.stack, other, 0, 1, criteria);
  REQUIRE(points.size() >= 180);
  std::size_t changes = 0;
  for (std::size_t i = 0; i < points.size(); ++i) {
    Load load = other;
    load.N = {points[i].first, points[i].second, 0.0};
    const auto failing = first_failures(made.stack, load, criteria);
    CHECK(test::off(failing.front().factor, 1.0) < 1e-9);
    const EnvelopePoint& next = points[(i + 1) % points.size()];
    if (next.failing.mode != points[i].failing.mode || next.failing.layer != points[i].failing.layer) {
      ++changes;
      CHECK(std::hypot(next.first - points[i].first, next.second - points[i].second) <
            1e-4 * std::hypot(points[i].first, points[i].second));
    }
  }
  CHECK(changes >= 3);
  // Of a quasi-isotropic stack Nx and Ny may be exchanged.
  const auto swapped = envelope(made.stack, other, 1, 0, criteria);
  double Nx = 0.0, Ny = 0.0;
  for (const auto& p : points) Nx = std::max(Nx, p.first);
  for (const auto& p : swapped) Ny = std::max(Ny, p.first);
  CHECK(test::off(Nx, Ny) < 1e-3);
  // What is held moves it: with Nxy there already, less of the rest is left.
  other.N = {0.0, 0.0, 120.0};
  double narrower = 0.0;
  for (const auto& p : envelope(made.stack, other, 0, 1, criteria)) narrower = std::max(narrower, p.first);
  CHECK(narrower < Nx);
  other.temperature = -5000.0;
  CHECK(envelope(made.stack, other, 0, 1, criteria).empty());
}

TEST_CASE("strengths that are missing judge nothing, and are told") {
  Made made("[0_2/0K/0_2]", 0.25, 20.0);
  made.face.strength.S13.reset();
  made.face.strength.Yc.reset();
  const Judge judge(made.stack.layers, made.stack.materials, made.stack.z0, usual_criteria());
  REQUIRE(judge.left_out().size() == 8);  // Yc and S13 of each of four plies
  CHECK(judge.left_out()[0].keys == std::vector<std::string_view>{"Yc"});
  CHECK(judge.left_out()[1].criterion == Criterion::interlaminar_shear);
  Straining straining;
  straining.deformation.strain = {1e-3, 0.0, 0.0};
  CHECK(!std::isfinite(judge.worst(straining).factor));
}

TEST_CASE("plies that lie anywhere give the same worst, whichever way the stack is counted") {
  Made made("[0/30/-60/90]", 0.2);
  Load load;
  load.N = {40, -20, 10}, load.M = {3, 2, -1}, load.Q = {2, 1};
  const auto before = first_failures(made.stack, load, usual_criteria());
  // A ply cut in two equal layers bears the same.
  Stack split = made.stack;
  split.layers[1].thickness = 0.1;
  split.layers.insert(split.layers.begin() + 1, split.layers[1]);
  split.materials.push_back(&made.face);
  const auto after = first_failures(split, load, usual_criteria());
  CHECK(test::off(before.front().factor, after.front().factor) < 1e-12);
}
