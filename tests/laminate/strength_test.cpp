#include "support.hpp"

#include <bordado/strength.hpp>

#include <cmath>
#include <random>

namespace of_laminate_strength {

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
  // 24 D / s² along the fibres is 2 Ef / (1 - nu12 nu21) (tf / s)²; askew a face that is soft across them bears less.
  const Face face = faces_of(made.stack.layers, made.stack.materials)[0];
  CHECK(test::near(face.dimples(0.0), 2.0 * Q11 * std::pow(tf / 10.0, 2) * tf, 2e-3));
  double dimples = std::numeric_limits<double>::infinity();
  for (int k = 0; k < 1000; ++k) {
    const double at = std::numbers::pi / 1000.0 * k;
    dimples = std::min(dimples, face.dimples(at) / (0.5 * std::pow(std::cos(at), 2)));
  }
  CHECK(test::near(factor(pushed, Criterion::dimpling), dimples, 2e-3));
  CHECK(dimples < 0.6 * 2.0 * face.dimples(0.0));

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
  SectionLoad curved;
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
  for (const double at : {0.0, 0.31, 1.0, 2.2})
    CHECK(test::near(faces[0].wrinkles(at), others[0].wrinkles(at + 0.25 * std::numbers::pi), 1e-12));
  // Pure shear pushes along one diagonal and pulls along the other: the least over all directions, looked for here every
  // thousandth of half a turn.
  Load shear;
  shear.N = {0.0, 0.0, 1.0};
  const Criterion one[] = {Criterion::wrinkling};
  double least = std::numeric_limits<double>::infinity();
  for (int k = 0; k < 1000; ++k) {
    const double at = std::numbers::pi / 1000.0 * k, push = -0.5 * std::sin(2.0 * at);
    if (push > 0.0) least = std::min(least, faces[0].wrinkles(at) / push);
  }
  const double factor = first_failures(made.stack, shear, one).front().factor;
  CHECK(test::near(factor, least, 1e-3));  // the core bears a little of the shear
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

TEST_CASE("metal yields by Von Mises, whatever the axes and the criterion of plies") {
  material::Material steel;
  steel.name = "steel", steel.kind = material::Kind::isotropic, steel.elastic = material::isotropic(210000, 0.3);
  steel.strength.Xt = 300.0;
  Stack stack{{layer_of(steel, 1.0, Angle())}, {&steel}, -0.5};
  const auto reserve = [&](const Vector3& N, double degrees, std::span<const Criterion> by) {
    Stack turned = stack;
    turned.layers[0].angle = Angle::degrees(degrees);
    Load load;
    load.N = N;
    const Failing worst = first_failures(turned, load, by).front();
    CHECK(worst.criterion == Criterion::von_mises);
    CHECK(worst.mode == FailureMode::yielding);
    return worst.factor;
  };
  // Pure shear, seen from two pairs of axes: sqrt(3) t = 300.
  for (const Criterion by : {Criterion::puck, Criterion::maximum_stress, Criterion::tsai_wu, Criterion::von_mises})
    for (const double turn : {0.0, 17.0, 45.0}) {
      const Criterion one[] = {by};
      CHECK(test::near(reserve({0, 0, 100}, turn, one), std::sqrt(3.0)));
      CHECK(test::near(reserve({100, -100, 0}, turn, one), std::sqrt(3.0)));
      CHECK(test::near(reserve({100, 0, 0}, turn, one), 3.0));
      CHECK(test::near(reserve({-100, -100, 0}, turn, one), 3.0));
      CHECK(test::near(reserve({200, 100, 0}, turn, one), 300.0 / std::sqrt(30000.0)));
    }
  // Stronger when it is pushed: on the surface in simple tension and compression.
  steel.strength.Xc = 450.0;
  CHECK(test::near(reserve({100, 0, 0}, 30, usual_criteria()), 3.0));
  CHECK(test::near(reserve({0, -100, 0}, 30, usual_criteria()), 4.5));
  // A shear strength of its own limits the largest shear, half the difference of the principal stresses.
  steel.strength.S12 = 50.0;
  CHECK(test::near(reserve({0, 0, 100}, 10, usual_criteria()), 0.5));
  CHECK(test::near(reserve({100, 0, 0}, 10, usual_criteria()), 1.0));
  // Heat that a neighbour holds back is held: a sheet between others that do not expand is pushed both ways alike.
  steel.strength = {};
  steel.strength.Xt = 300.0;
  steel.thermal = {12e-6, 12e-6, 12e-6};
  const FailureSurface surface(Criterion::puck, steel);
  CHECK(test::near(surface.reserve({100, 0, 0}, {-150, -150, 0}).factor, [] {
    // |s|² - s1 s2 with s1 = 100 R - 150, s2 = -150: (100 R)² - 150 (100 R) + 150² = 300².
    return (150.0 + std::sqrt(150.0 * 150.0 + 4.0 * (300.0 * 300.0 - 150.0 * 150.0))) / 200.0;
  }()));
}

TEST_CASE("a face dimples in the direction that bears least, and shares in two directions add up") {
  Made made("[0_2/0K/0_2]", 0.25, 20.0);
  made.middle.form.cell = 10.0;
  const Criterion one[] = {Criterion::dimpling};
  const auto factor = [&](const Vector3& N) {
    Load load;
    load.N = N;
    return first_failures(made.stack, load, one).front().factor;
  };
  // Half of N on each face; 24 D / s² each way, the face free to stretch. The core adds to N by its own E of 1.
  const Face face = faces_of(made.stack.layers, made.stack.materials)[0];
  const double bx = 24.0 * face.D(0, 0) / 100.0, by = 24.0 * face.D(1, 1) / 100.0;
  CHECK(bx > 10.0 * by);
  for (const Vector3& N : {Vector3(-10.1, -10, 0), Vector3(-10, -10.1, 0), Vector3(-1, -20, 0)}) {
    const double shares = -0.5 * N[0] / bx - 0.5 * N[1] / by;
    CHECK(test::near(factor(N), 1.0 / shares, 0.02));
  }
  // Of two loads that differ by a hundredth the reserves do, too.
  CHECK(test::near(factor({-10.1, -10, 0}), factor({-10, -10.1, 0}), 0.02));
  // Pulled along the fibres it dimples by the push across them alone.
  CHECK(test::near(factor({0, -10, 0}), by / 5.0, 0.02));
}

TEST_CASE("two pushes at once: wrinkles by the larger share and the cube of the smaller") {
  Made made("[0/90/0K/90/0]", 0.25, 20.0);
  const Criterion one[] = {Criterion::wrinkling};
  const auto factor = [&](const Vector3& N) {
    Load load;
    load.N = N;
    return first_failures(made.stack, load, one).front().factor;
  };
  // r + r³ = 1 where both shares are alike: isotropic faces and core, pushed alike both ways.
  made.face.kind = material::Kind::isotropic, made.face.elastic = material::isotropic(70000, 0.3);
  made.middle.elastic.E1 = made.middle.elastic.E2 = 1e-3, made.middle.elastic.G12 = 5e-4;
  for (std::size_t i = 0; i < made.stack.layers.size(); ++i)
    made.stack.layers[i] = layer_of(*made.stack.materials[i], made.stack.layers[i].thickness, Angle());
  const double r = 0.6823278038280193;  // r³ + r = 1
  CHECK(test::near(factor({-1, -1, 0}), r * factor({-1, 0, 0}), 1e-5));
  // One alone is as without the rule, whichever way it goes.
  CHECK(test::near(factor({-1, 0, 0}), factor({0, -1, 0}), 1e-9));
  CHECK(test::near(factor({0, 0, 1}), factor({-1, 1, 0}), 1e-9));
}

TEST_CASE("a face between two cores wrinkles on the softer of the direction") {
  // Honeycombs across each other: each is the softer in one direction.
  Made made("[0/0K/0/0K/0]", 0.25, 20.0);
  made.middle.elastic.G13 = 400.0, made.middle.elastic.G23 = 40.0;
  for (std::size_t i = 0; i < made.stack.layers.size(); ++i)
    made.stack.layers[i] =
        layer_of(*made.stack.materials[i], made.stack.layers[i].thickness, Angle::degrees(i == 3 ? 90.0 : 0.0));
  const auto faces = faces_of(made.stack.layers, made.stack.materials);
  REQUIRE(faces.size() == 4);  // the middle one on each of its cores
  CHECK((faces[1].first == 2 && faces[1].core == 1 && faces[2].first == 2 && faces[2].core == 3));
  CHECK(test::near(faces[1].wrinkles(0.0), std::cbrt(10.0) * faces[2].wrinkles(0.0)));
  CHECK(test::near(faces[2].wrinkles(0.5 * std::numbers::pi),
                   std::cbrt(10.0) * faces[1].wrinkles(0.5 * std::numbers::pi)));
}

TEST_CASE("a sandwich crimps where its force is its shear stiffness") {
  Made made("[0_2/0K/0_2]", 0.25, 20.0);
  made.middle.elastic.G13 = 30.0, made.middle.elastic.G23 = 12.0;
  for (std::size_t i = 0; i < made.stack.layers.size(); ++i)
    made.stack.layers[i] = layer_of(*made.stack.materials[i], made.stack.layers[i].thickness, Angle());
  const Criterion one[] = {Criterion::crimping};
  const auto factor = [&](const Vector3& N) {
    Load load;
    load.N = N;
    return first_failures(made.stack, load, one).front();
  };
  // G d² / tc of thin stiff faces (NASA CR-1457).
  CHECK(test::near(factor({-1, 0, 0}).factor, 30.0 * 20.5 * 20.5 / 20.0, 2e-3));
  CHECK(test::near(factor({0, -1, 0}).factor, 12.0 * 20.5 * 20.5 / 20.0, 2e-2));
  CHECK(factor({0, -1, 0}).layer == 2);
  CHECK(words(Criterion::crimping, 1) == "sandwich");
  // In shear it crimps along the diagonal that is pushed, where its stiffness is no more than the mean of both.
  CHECK(factor({0, 0, 1}).factor < 0.5 * (30.0 + 12.0) * 20.5 * 20.5 / 20.0 * 1.02);
  Load pulled;
  pulled.N = {1, 1, 0};
  CHECK(first_failures(made.stack, pulled, one).empty());
}

TEST_CASE("shear between plies is found where it is largest, inside a ply, too") {
  // 1 and 2 mm of one material are one strip of 3: its shear is a parabola with 1.5 Q / h in the middle of it.
  Made made("[0/0]", 1.0);
  made.stack.layers[1].thickness = 2.0;
  made.stack.z0 = -1.5;
  const Criterion shear[] = {Criterion::interlaminar_shear};
  Load load;
  load.Q = {1.0, 0.0};
  const Failing failing = first_failures(made.stack, load, shear).front();
  CHECK(test::near(failing.factor, 80.0 * 3.0 / 1.5, 1e-9));
  CHECK(failing.layer == 1);
  CHECK(words(failing.criterion, failing.place) == "within");
  // Random stacks against the same looked for at a thousand places of each layer.
  std::mt19937 engine(11);
  std::uniform_real_distribution<double> thick(0.1, 3.0), turn(-90.0, 90.0), force(-1.0, 1.0);
  for (int trial = 0; trial < 60; ++trial) {
    Made any("[0/0/0/0]", 1.0);
    for (Layer& layer : any.stack.layers) layer.thickness = thick(engine), layer.angle = Angle::degrees(turn(engine));
    load.Q = {force(engine), force(engine)};
    double most = 0.0;
    // Layers cut in many have their faces at many places; cutting changes nothing of the stress.
    std::vector<Layer> cut;
    for (const Layer& layer : any.stack.layers)
      for (int k = 0; k < 200; ++k) {
        cut.push_back(layer);
        cut.back().thickness /= 200.0;
      }
    for (const LayerState& state : layer_states(cut, 0.0, {}, load))
      most = std::max(most, std::hypot(state.ply_shear[0] / 80.0, state.ply_shear[1] / 45.0));
    CAPTURE(trial);
    CHECK(test::near(first_failures(any.stack, load, shear).front().factor, 1.0 / most, 1e-5));
  }
}

TEST_CASE("an adhesive film between plies is judged by its shear") {
  Made made("[0_2/0/0_2]", 0.25);
  material::Material film;
  film.name = "film", film.kind = material::Kind::isotropic, film.elastic = material::isotropic(3000, 0.35);
  film.strength.S13 = 20.0;
  made.stack.materials[2] = &film;
  made.stack.layers[2] = layer_of(film, 0.2, Angle());
  const Criterion shear[] = {Criterion::interlaminar_shear};
  Load load;
  load.Q = {0.0, 1.0};
  const auto failing = first_failures(made.stack, load, shear);
  REQUIRE(!failing.empty());
  CHECK(failing.front().layer == 2);
  CHECK(test::near(
      failing.front().factor,
      [&] {
        double most = 0.0;
        for (const LayerState& state : layer_states(made.stack.layers, made.stack.z0, {}, load))
          if (state.layer == 2) most = std::max(most, std::abs(state.ply_shear[1]));
        return 20.0 / most;
      }(),
      1e-6));
  film.strength = {};
  for (const Failing& one : first_failures(made.stack, load, shear)) CHECK(one.layer != 2);
}

TEST_CASE("what is held counts: the curvature that a warmed stack has, and shear that is given") {
  // An unsymmetric sandwich bends when it is cooled; its core is crushed by the forces of its faces times that bend and
  // that of the load. By hand, from lamination theory: R N (k held + R k) + N held (k held + R k) on each face.
  Made made("[0_2/0K/90_2]", 0.25, 10.0);
  Load load;
  load.M = {60.0, 0.0, 0.0};
  load.temperature = -120.0;
  const Criterion crushing[] = {Criterion::core_crushing};
  const double told = first_failures(made.stack, load, crushing).front().factor;
  Load alone = load, cold;
  alone.temperature = 0.0, cold.temperature = -120.0;
  const Deformation by_load = deformation(made.stack.layers, made.stack.z0, alone);
  const Deformation by_cold = deformation(made.stack.layers, made.stack.z0, cold);
  const auto pressed = [&](double R) {
    double most = 0.0;
    for (const bool above : {true, false}) {
      Vector3 N = Vector3::Zero();
      const auto at = [&](const Deformation& d, const Load& by, double times) {
        for (std::size_t layer : above ? std::vector<std::size_t>{3, 4} : std::vector<std::size_t>{0, 1}) {
          const auto all = layer_states(made.stack.layers, made.stack.z0, d, by);
          const double t = made.stack.layers[layer].thickness;
          N += times * t / 6.0 * (all[3 * layer].stress + 4.0 * all[3 * layer + 1].stress + all[3 * layer + 2].stress);
        }
      };
      at(by_load, alone, R);
      at(by_cold, cold, 1.0);
      const Vector3 k = R * by_load.curvature + by_cold.curvature;
      most = std::max(most, (above ? 1.0 : -1.0) * N.dot(k));
    }
    return most;
  };
  CHECK(test::near(pressed(told), 2.0, 1e-6));
  CHECK(std::abs(pressed(0.9 * told)) < 2.0);

  // Shear alone fails at 0.028: there is no envelope round it. Half of what it bears narrows one.
  Made flat("[0/90]s", 0.25);
  const std::vector<Criterion> both = {Criterion::puck, Criterion::interlaminar_shear};
  Load other;
  other.Q = {1.0, 0.0};
  const Criterion shear[] = {Criterion::interlaminar_shear};
  const double bears = first_failures(flat.stack, other, shear).front().factor;
  other.Q[0] = bears * 1.01;
  CHECK(envelope(flat.stack, other, 0, 1, both).empty());
  other.Q[0] = 0.5 * bears;
  CHECK(!envelope(flat.stack, other, 0, 1, both).empty());
}

TEST_CASE("an envelope that is open in a direction says so, and ends where a frame does") {
  // Faces wrinkle when they are pushed, and never when they are pulled.
  Made made("[0/90/0K/90/0]", 0.25, 20.0);
  const std::vector<Criterion> one = {Criterion::wrinkling};
  const auto points = envelope(made.stack, {}, 0, 1, one);
  REQUIRE(points.size() >= 180);
  std::size_t open = 0;
  double most = 0.0, pushed = 0.0;
  for (const EnvelopePoint& p : points) {
    open += p.open();
    most = std::max({most, std::abs(p.first), std::abs(p.second)});
    if (!p.open()) pushed = std::max(pushed, -p.first);
    if (p.first > 0.0 && p.second > 0.0) CHECK(p.open());
  }
  CHECK(open > 40);
  CHECK(open < points.size() - 40);
  CHECK(most < 1.001 * open_reach * pushed);
  // A closed one has no such points.
  for (const EnvelopePoint& p : envelope(made.stack, {}, 0, 1, std::vector<Criterion>{Criterion::puck}))
    CHECK(!p.open());
}

TEST_CASE("strengths that are missing judge nothing, and are told") {
  Made made("[0_2/0K/0_2]", 0.25, 20.0);
  made.face.strength.S13.reset();
  made.face.strength.Yc.reset();
  const Judge judge(made.stack.layers, made.stack.materials, made.stack.z0, usual_criteria());
  REQUIRE(judge.left_out().size() == 8);  // Yc and S13 of each of four plies
  CHECK(judge.left_out()[0].keys == std::vector<std::string_view>{"Yc"});
  CHECK(judge.left_out()[1].criterion == Criterion::interlaminar_shear);
  SectionLoad section_load;
  section_load.deformation.strain = {1e-3, 0.0, 0.0};
  CHECK(!std::isfinite(judge.worst(section_load).factor));
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

TEST_CASE("what is told below a limit that falls has the same least as all that is told") {
  // A watch that keeps the least of all lets whatever is surely above it go by.
  struct Least : Judge::Watch {
    double factor = std::numeric_limits<double>::infinity();
    double limit(std::size_t, Criterion) const override { return factor; }
    void take(const Failing& failing) override { factor = std::min(factor, failing.factor); }
  };
  std::mt19937 engine(11);
  std::normal_distribution<double> normal;
  std::size_t by_shear = 0;
  for (int trial = 0; trial < 400; ++trial) {
    Made made("[0/45K/-45/90/30/0]", 0.2, 3.0);
    const Criterion criteria[] = {Criterion::tsai_wu, Criterion::interlaminar_shear, Criterion::core_shear};
    const Judge judge(made.stack.layers, made.stack.materials, made.stack.z0, criteria);
    SectionLoad load;
    for (int k = 0; k < 3; ++k) load.deformation.strain[k] = 4e-3 * normal(engine);
    for (int k = 0; k < 2; ++k) load.Q[k] = 0.1 * normal(engine);
    // Nearly the same in all layers, so that many lie just below the least before them.
    const Vector2 mean(3 * normal(engine), 3 * normal(engine));
    std::vector<Vector2> shear;
    for (std::size_t layer = 0; layer < made.stack.layers.size(); ++layer)
      shear.insert(shear.end(), 3, (1.0 + 0.05 * normal(engine)) * mean);
    load.shear = shear;
    double least = std::numeric_limits<double>::infinity();
    Criterion by = Criterion::tsai_wu;
    for (const Failing& failing : judge.all(load))
      if (failing.factor < least) least = failing.factor, by = failing.criterion;
    Least kept;
    judge.each(load, kept);
    CAPTURE(trial);
    CHECK(test::near(kept.factor, least, 1e-9));
    by_shear += by != Criterion::tsai_wu;
  }
  CHECK(by_shear > 100);
  CHECK(by_shear < 400);
}

TEST_CASE(
    "wrinkling of a face that is held: what pulls it before has to be pushed away first, what pushes it leaves less") {
  material::Material metal, foam;
  metal.name = "metal", metal.kind = material::Kind::isotropic, metal.elastic = material::isotropic(70e3, 0.3);
  foam.name = "foam", foam.kind = material::Kind::foam, foam.elastic = material::isotropic(70.0, 0.3);
  std::vector<laminate::Layer> layers;
  std::vector<const material::Material*> materials;
  for (const auto& [m, thickness] : {std::pair{&metal, 0.5}, {&foam, 20.0}, {&metal, 0.5}}) {
    layers.push_back(laminate::layer_of(*m, thickness, Angle::degrees(0)));
    materials.push_back(m);
  }
  const std::vector<laminate::Criterion> wrinkling{laminate::Criterion::wrinkling};
  const laminate::Judge judge(layers, materials, -10.5, wrinkling);
  laminate::SectionLoad load;
  load.deformation.strain = {-1e-3, 0.3e-3, 0.0};  // along x alone
  const auto factor = [&](double stress) {
    std::vector<laminate::Vector3> held(9, laminate::Vector3::Zero());
    for (const std::size_t k : {0, 1, 2, 6, 7, 8}) held[k][0] = stress;
    load.held = held;
    return judge.all(load).front().factor;
  };
  const double bears = laminate::faces_of(layers, materials).front().wrinkles(0.0) / 0.5;  // as a stress
  const double free = factor(0.0);
  CHECK(test::near(free, bears / 70.0, 1e-6));
  CHECK(test::near(factor(0.4 * bears), 1.4 * free, 1e-6));
  CHECK(test::near(factor(-0.4 * bears), 0.6 * free, 1e-6));
  CHECK(factor(-1.1 * bears) == 0.0);
}

}  // namespace of_laminate_strength
