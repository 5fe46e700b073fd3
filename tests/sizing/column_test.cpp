// Columns and beams of thin walls: Euler, Engesser and Timoshenko, Vlasov's cubic, the walls' own strips, and invariants.
#include "sections.hpp"

#include <bordado/bar_margins.hpp>

#include <Eigen/Eigenvalues>

#include <cmath>
#include <numbers>
#include <random>

namespace of_sizing_column {

using namespace bordado;
using namespace bordado::sizing;
using test::metal;
using test::near;
using test::plies;

namespace {

constexpr double pi = std::numbers::pi, E = test::metal_E, G = test::metal_G;

/// A section of numbers alone, both principal stiffnesses alike unless said, with shear.
SectionStiffness plain(double EI, double S) {
  SectionStiffness out;
  out.EA = 1e7;
  out.EI << EI, 0, 0, 4 * EI;
  out.weak = EI, out.strong = 4 * EI;
  out.GJ = 1e12;  // no twisting
  out.polar = 1.0;
  out.shear_compliance.diagonal() << 1 / S, 0.25 / S, 0;
  out.mass = 1e-6;
  out.mass_polar = 1e-3;
  return out;
}

}  // namespace

TEST_CASE(
    "bent by compression, with shear: Engesser's P / (1 + P / S) for every pair of ends that has it, Timoshenko's "
    "else") {
  const double EI = 2e9, L = 900;
  for (const double S : {1e12, 2e5, 3e4}) {
    const auto load = [&](End a, End b) { return column_buckling({plain(EI, S), L, a, b}, 1)[0].force.value; };
    const auto engesser = [&](double K) {
      const double euler = pi * pi * EI / (K * K * L * L);
      return euler / (1 + euler / S);
    };
    CAPTURE(S);
    CHECK(near(load(End::pinned, End::pinned), engesser(1), 1e-6));
    CHECK(near(load(End::fixed, End::fixed), engesser(0.5), 1e-6));
    CHECK(near(load(End::fixed, End::free), engesser(2), 1e-6));
    CHECK(near(load(End::free, End::fixed), engesser(2), 1e-6));
    // Fixed and pinned: tan kL = kL (1 - P / S), P = EI k² / (1 + EI k² / S), from the equations of both fields.
    double low = 0.9 * pi / L, high = 1.4999 * pi / L;
    const auto left = [&](double k) { return std::sin(k * L) - k * L / (1 + EI * k * k / S) * std::cos(k * L); };
    for (int i = 0; i < 200; ++i) {
      const double k = 0.5 * (low + high);
      (left(k) * left(high) > 0 ? high : low) = k;
    }
    CHECK(near(load(End::fixed, End::pinned), EI * low * low / (1 + EI * low * low / S), 1e-5));
    CHECK(near(load(End::pinned, End::fixed), load(End::fixed, End::pinned), 1e-7));
  }
}

TEST_CASE("a C that bends and twists together: Vlasov's cubic, far below Euler") {
  const std::vector<Wall> walls = walls_of(Shape::C, std::vector<double>{80, 40}, metal(2), metal(2));
  SectionStiffness s = section_stiffness(walls);
  s.shear_compliance *= 1e-7;  // as he has it
  for (const double L : {500.0, 1500.0, 4000.0})
    for (const double K : {1.0, 0.5}) {
      const double k2 = std::pow(pi / (K * L), 2), Py = s.EI(0, 0) * k2, Pz = s.EI(1, 1) * k2;
      const double Pt = (s.GJ + s.EGamma * k2) / s.polar, arm = s.centroid[0] - s.shear_centre[0],
                   H = 1 - arm * arm / s.polar;
      const double both = (Pz + Pt - std::sqrt(std::pow(Pz + Pt, 2) - 4 * H * Pz * Pt)) / (2 * H);
      const End end = K == 1.0 ? End::pinned : End::fixed;
      const auto found = column_buckling({s, L, end, end}, 3);
      CHECK(near(found.at(0).force.value, std::min(Py, both), 2e-3));
      CHECK(found[0].force.change < 1e-4);
      CHECK(near(found[0].shares.bends_y + found[0].shares.bends_z + found[0].shares.twists, 1.0));
      CHECK((both < Py ? found[0].shares.twists : found[0].shares.bends_y) > 0.5);
    }
}

TEST_CASE(
    "long waves of all walls are the bar's own buckling: C, hat, Z, angle, box and I, of metal and of laminates") {
  const laminate::Stack web = plies({0, 90, 0, 90, 0, 90, 0}), flange = plies({0, 0, 0, 90, 0, 0, 0});
  struct Known {
    Shape shape;
    std::vector<double> lengths;
    double length;
  };
  for (const Known& one : {Known{Shape::C, {40, 25}, 600},
                           {Shape::Z, {40, 20}, 600},
                           {Shape::I, {40, 30}, 700},
                           {Shape::angle, {30, 20}, 500},
                           {Shape::box, {30, 20}, 900},
                           {Shape::hat, {25, 30, 15}, 700}})
    for (const bool is_metal : {true, false}) {
      const std::vector<Wall> walls = is_metal ? walls_of(one.shape, one.lengths, metal(1.5), metal(1.5))
                                               : walls_of(one.shape, one.lengths, web, flange);
      const SectionStiffness s = section_stiffness(walls);
      const double bar = column_buckling({s, one.length}, 1)[0].force.value;
      const auto strips = strip_buckling(walls, {}, one.length);
      INFO(std::string(name_of(one.shape)) << (is_metal ? " of metal" : " of laminates"));
      REQUIRE(strips);
      // What is left: flanges of a C and a hat do give in their shape.
      const bool gives = one.shape == Shape::hat || one.shape == Shape::C;
      CHECK(near(strips->factor * s.EA, bar, (gives ? 3 : 1) * (is_metal ? 4e-3 : 8e-3)));
    }
}

TEST_CASE(
    "walls of a square box: four pi² D / b² each, half waves as long as they are wide; of laminates the plate's "
    "formula") {
  const double t = 0.4, b = 60, D = E * t * t * t / 12 / 0.91;
  const std::vector<Wall> box = walls_of(Shape::box, std::vector<double>{b, b}, metal(t), metal(t));
  const Signature found = signature(box, {}, 0.2 * b, 6 * b);
  REQUIRE(found.local);
  const double force = found.local->factor * section_stiffness(box).EA / (4 * b);
  CHECK(near(force, 4 * pi * pi * D / (b * b), 2e-3));
  CHECK(near(found.local->half_wave, b, 2e-2));
  CHECK(found.curve.size() == 40);
  const laminate::Stack ud = plies({0, 90, 0, 90, 0, 90, 0});
  const std::vector<Wall> cross = walls_of(Shape::box, std::vector<double>{b, b}, ud, ud);
  const PlateStiffness plate = plate_stiffness(ud.layers);
  // Long and simply supported: S. G. Lekhnitskii, Anisotropic Plates; R. M. Jones, section 5.
  const double wanted =
      2 * pi * pi / (b * b) * (std::sqrt(plate.D(0, 0) * plate.D(1, 1)) + plate.D(0, 1) + 2 * plate.D(2, 2));
  const Signature laid = signature(cross, {}, 0.2 * b, 6 * b);
  REQUIRE(laid.local);
  const double found_force = laid.local->factor * section_stiffness(cross).EA / (4 * b);
  CHECK(found_force < wanted * (1 + 1e-9));
  CHECK(near(found_force, wanted, 2e-2));  // less what transverse shear takes
  // Bent about y: the pressed wall goes, later than where all are pressed; bent the other way round the other wall does.
  const double top = 1.0 / 30.0;
  const auto bent = strip_buckling(box, {0.0, 0.0, -top}, b), other = strip_buckling(box, {0.0, 0.0, top}, b),
             all = strip_buckling(box, {-1.0, 0.0, 0.0}, b);
  REQUIRE(bent);
  CHECK(bent->factor > all->factor);
  CHECK(near(other.value().factor, bent->factor, 1e-6));
  CHECK(box[bent->wall].name == "upper flange");
  CHECK(box[other->wall].name == "lower flange");
  CHECK(!strip_buckling(box, {1.0, 0.0, 0.0}, b));
  // More functions never stiffen.
  double before = 1e300;
  for (const std::size_t terms : {4u, 5u, 7u, 9u}) {
    const double now = strip_buckling(box, {}, b, terms)->factor;
    CHECK(now <= before * (1 + 1e-7));
    before = now;
  }
}

TEST_CASE(
    "a curve of half waves: each point is what that half wave says by itself, the least one no more than its "
    "neighbours") {
  const laminate::Stack cross = plies({0, 90, 0, 90, 0}), skew = plies({30, 0, 60}), coupled = plies({45, 0, 0, -20});
  for (const auto& [shape, web, flange] : {std::tuple{Shape::box, cross, cross},
                                           {Shape::C, skew, coupled},
                                           {Shape::I, coupled, skew},
                                           {Shape::hat, skew, skew}}) {
    const std::vector<double> lengths(length_count(shape), 40.0);
    const std::vector<Wall> walls = walls_of(shape, lengths, web, flange);
    for (const AxialStrain& strain : {AxialStrain{}, {0.0, 0.0, -0.05}, {-1.0, 0.03, 0.0}}) {
      const Signature all = signature(walls, strain, 8.0, 320.0);
      for (std::size_t i = 0; i < all.curve.size(); i += 3) {
        const auto one = strip_buckling(walls, strain, all.curve[i].half_wave);
        REQUIRE(one);
        CHECK(near(all.curve[i].factor, one->factor, 1e-6));
      }
      if (!all.local) continue;
      CHECK(near(all.local->factor, strip_buckling(walls, strain, all.local->half_wave)->factor, 1e-6));
      for (const double beside : {0.99, 1.01})
        CHECK(all.local->factor <= strip_buckling(walls, strain, beside * all.local->half_wave)->factor * (1.0 + 1e-6));
    }
  }
}

TEST_CASE(
    "a beam: 5 q L⁴ / 384 EI and q L² / 8 S, its moment and shear; beside the shear centre it twists; frequencies") {
  const double L = 800, q = 0.3;
  const std::vector<Wall> walls = walls_of(Shape::C, std::vector<double>{60, 30}, metal(1.5), metal(1.5));
  const SectionStiffness s = section_stiffness(walls);
  const double S = 1 / s.shear_compliance(1, 1), EI = s.EI(1, 1);
  const Bar bar{s, L};
  const BentBar bent = bent_bar(bar, {0, -q}, s.shear_centre);
  CHECK(near(bent.largest.value, 5 * q * std::pow(L, 4) / 384 / EI + q * L * L / 8 / S, 1e-3));
  CHECK(near(bent.x, L / 2, 1e-9));
  CHECK(near(bent.places[20].curvature[1], -q * L * L / 8 / EI, 2e-3));
  CHECK(near(bent.places[0].shear[1], -q * L / 2, 1e-3));
  const BentBar fixed = bent_bar({s, L, End::fixed, End::fixed}, {0, -q}, s.shear_centre);
  CHECK(near(fixed.largest.value, q * std::pow(L, 4) / 384 / EI + q * L * L / 8 / S, 1e-3));
  const BentBar arm = bent_bar({s, L, End::fixed, End::free}, {0, -q}, s.shear_centre);
  CHECK(near(arm.largest.value, q * std::pow(L, 4) / 8 / EI + q * L * L / 2 / S, 1e-3));
  CHECK(near(arm.x, L, 1e-12));
  // Through the centroid: a torque q e; ends that warp freely: Vlasov's, in the middle. With GJ alone m L² / 8 GJ is its bound.
  const double e = s.centroid[0] - s.shear_centre[0], kL = L * std::sqrt(s.GJ / s.EGamma);
  const double twist = -q * e / s.GJ * (L * L / 8 - L * L / (kL * kL) * (1 - 1 / std::cosh(kL / 2)));
  CHECK(near(bent_bar(bar, {0, -q}, s.centroid).places[20].twist, twist, 2e-2));
  // Compressed to half its load it bends about twice as far.
  const double P = pi * pi * EI / (L * L) / (1 + pi * pi * EI / (L * L) / S);
  SectionStiffness stiff = s;
  stiff.GJ *= 1e4;
  stiff.EI(0, 0) *= 100;
  CHECK(near(bent_bar({stiff, L}, {0, -q}, s.shear_centre, 0.5 * P).largest.value, 2 * bent.largest.value, 2e-2));
  // Frequencies of a plain bar: n² pi² / L² (EI / m)^(1/2), with shear as Engesser's load.
  const auto all = bar_frequencies({plain(2e9, 1e5), L}, 3);
  for (int n = 1; n <= 2; ++n) {
    const double k2 = std::pow(n * pi / L, 2);
    CHECK(near(all.at(static_cast<std::size_t>(n == 1 ? 0 : 2)).frequency.value,
               std::sqrt(2e9 * k2 * k2 / (1 + 2e9 * k2 / 1e5) / 1e-6) / (2 * pi), 1e-5));
  }
  CHECK(all[1].shares.bends_z > 0.999);  // 4 EI, 4 S: exactly twice the first
  CHECK(near(all[1].frequency.value, 2 * all[0].frequency.value, 1e-5));
  CHECK(near(bar_frequencies({plain(2e9, 1e12), L}, 1, 0.75 * pi * pi * 2e9 / (L * L))[0].frequency.value,
             0.5 * bar_frequencies({plain(2e9, 1e12), L}, 1)[0].frequency.value, 1e-6));
  CHECK_THROWS_AS(bar_frequencies({plain(2e9, 1e12), L}, 1, 1.01 * pi * pi * 2e9 / (L * L)), std::invalid_argument);
}

TEST_CASE("of one metal, what buckles is what vibrates: (2 pi f)² = P (pi / L)² / m, bent and twisted together") {
  // Pinned, one half wave: both answers are of the same three equations, mass there where the force is here.
  const double L = 700;
  for (const auto& [shape, lengths] : {std::pair{Shape::angle, std::vector<double>{45, 25}},
                                       {Shape::C, {60, 30}},
                                       {Shape::T, {40, 50}},
                                       {Shape::hat, {25, 30, 15}}}) {
    std::vector<Wall> walls = walls_of(shape, lengths, metal(1.2), metal(1.2));
    std::vector<double> alone;
    for (const double turn : {0.0, 0.5, pi / 2, 2.5}) {
      const auto turned = [&](const Vector2& at) {
        return Vector2(std::cos(turn) * at[0] - std::sin(turn) * at[1],
                       std::sin(turn) * at[0] + std::cos(turn) * at[1]);
      };
      std::vector<Wall> all = walls;
      for (Wall& wall : all) wall.from = turned(wall.from), wall.to = turned(wall.to);
      const SectionStiffness s = section_stiffness(all);
      const auto buckles = column_buckling({s, L}, 1);
      const auto vibrates = bar_frequencies({s, L}, 3);
      INFO(std::string(name_of(shape)) << " turned by " << turn);
      CHECK(near(std::pow(2 * pi * vibrates[0].frequency.value, 2),
                 buckles[0].force.value * std::pow(pi / L, 2) / s.mass, 2e-3));
      for (std::size_t i = 0; i < 3; ++i) {
        if (alone.size() < 3) alone.push_back(vibrates[i].frequency.value);
        CHECK(near(vibrates[i].frequency.value, alone[i], 1e-6));
      }
    }
  }
}

TEST_CASE("random bars: stiffer never buckles earlier, more functions never stiffen, the other way round the same") {
  std::mt19937 random(29);
  const auto number = [&](double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random);
  };
  for (int i = 0; i < 12; ++i) {
    std::vector<Wall> walls;
    Vector2 at(0, 0);
    for (int k = 0; k < 3; ++k) {
      const Vector2 next = at + Vector2(number(10, 40), number(-40, 40));
      walls.push_back({at, next, plies({number(-90, 90), number(-90, 90), 0, number(-90, 90)}).layers, "", {}});
      at = next;
    }
    const End ends[] = {End::fixed, static_cast<End>(random() % 3)};
    const Bar bar{section_stiffness(walls), number(200, 1500), ends[0], ends[1]};
    const double load = column_buckling(bar, 1)[0].force.value;
    CAPTURE(i);
    double before = 1e300;
    for (const std::size_t terms : {5u, 8u, 14u, 20u}) {
      const double now = column_buckling(bar, 1, terms)[0].force.value;
      CHECK(now <= before * (1 + 1e-9));
      before = now;
    }
    Bar stiffer = bar;
    stiffer.section.GJ *= 1.2;
    stiffer.section.EI *= 1.1;
    stiffer.section.EGamma *= 1.3;
    CHECK(column_buckling(stiffer, 1)[0].force.value >= load * (1 - 1e-9));
    CHECK(near(column_buckling({bar.section, bar.length, ends[1], ends[0]}, 1)[0].force.value, load, 1e-8));
    Bar shorter = bar;
    shorter.length *= 0.8;
    CHECK(column_buckling(shorter, 1)[0].force.value > load);
  }
}

TEST_CASE("all that can happen to a column: the pieces that it is made of, least first; what crippling is") {
  material::Material m;
  m.kind = material::Kind::isotropic;
  m.elastic = material::isotropic(E, 0.3);
  m.density = 2.7e-9;
  m.strength.Xt = 200.0;
  laminate::Stack stack = metal(1.5);
  stack.materials = {&m};
  BarCase given;
  given.walls = walls_of(Shape::C, std::vector<double>{60, 30}, stack, stack);
  given.length = 900;
  given.force = -1000;
  const BarAnswer answer = check_bar(given);
  const auto margin = [&](const BarAnswer& of, std::string_view what) {
    for (const Margin& one : of.margins)
      if (one.what == what) return one.factor;
    FAIL("no such margin: ", what);
    return 0.0;
  };
  CHECK(near(margin(answer, column_words), answer.buckling.at(0).force.value / 1000));
  CHECK(near(margin(answer, laminate::words(laminate::FailureMode::yielding)), 200 * 1.5 * 120 / 1000.0, 1e-6));
  const double crippling = 300 * (60 * 11 / std::pow(40, 1.124) + 2 * 30 * 1.63 / std::pow(20, 0.717));
  CHECK(near(margin(answer, crippling_words), crippling / 1000, 1e-6));
  CHECK(answer.crippling.at(0).edge_free);
  CHECK(!answer.crippling.at(1).edge_free);
  REQUIRE(answer.walls);
  CHECK(near(margin(answer, wall_words), answer.walls->local.value().factor));
  for (std::size_t i = 1; i < answer.margins.size(); ++i)
    CHECK(answer.margins[i - 1].factor <= answer.margins[i].factor);
  given.force = -2000;
  const BarAnswer twice = check_bar(given);
  REQUIRE(twice.margins.size() == answer.margins.size());
  for (std::size_t i = 0; i < answer.margins.size(); ++i)
    CHECK(near(twice.margins[i].factor, 0.5 * answer.margins[i].factor, 1e-6));
  // The tests behind that estimate were of plain laminates.
  material::Material foam = m;
  foam.kind = material::Kind::foam;
  BarCase cored = given;
  cored.walls[1].materials = {&foam};
  CHECK(!check_bar(cored).cripples_at);
  // Bent alone: M z / EI at the flanges, q from the shear force in the web's middle.
  given.force = 0;
  given.line_load = {0, -0.5};
  const BarAnswer bent = check_bar(given);
  const double stress = 0.5 * 900 * 900 / 8 * 30.75 / bent.section.EI(1, 1) * E;
  CHECK(near(margin(bent, laminate::words(laminate::FailureMode::yielding)), 200 / stress, 5e-3));
  CHECK(bent.crippling.empty());
  CHECK(near(bent.criteria.at(0).x, 450, 1e-9));
}

TEST_CASE("the wall of a tube: what is left of the classical load, evenly and bent, one beside the other") {
  BarCase given;
  given.is_tube = true;
  given.walls = walls_of(Shape::tube, std::vector<double>{50}, metal(0.5), metal(0.5));
  given.length = 900;
  given.force = -1000;
  const BarAnswer pushed = check_bar(given);
  REQUIRE(pushed.dents);
  const double classical = E * 0.25 / 50 / std::sqrt(3 * 0.91), phi = std::sqrt(100.0) / 16;
  // Long tubes go oval along them at three fifths of the classical load: S. P. Timoshenko and J. M. Gere, section 11.1, n = 2.
  const double left = 1 - 0.901 * (1 - std::exp(-phi));
  CHECK(near(pushed.dents->left.axial, left, 2e-2));  // D has 1 - nu², so that t is 5 % more than the metal is thick
  CHECK(near(pushed.dents->factor, 0.6 * left * classical * 2 * pi * 50 / 1000, 5e-2));
  CHECK(!pushed.walls);
  // The bar's own bending, far below that in a long one, is no dent.
  given.length = 6000;
  CHECK(near(check_bar(given).dents.value().classical, pushed.dents->classical, 5e-2));
  given.length = 900;
  given.force = 0;
  given.line_load = {0, -0.5};
  const BarAnswer bent = check_bar(given);
  // M / (pi R²) is what bending presses with.
  const double pressed = 0.5 * 900 * 900 / 8 / (pi * 50 * 50);
  CHECK(near(bent.dents.value().factor, bent.dents->left.bending * bent.dents->classical / pressed, 5e-3));
  given.force = 1000;
  given.line_load = {0, 0};
  CHECK(!check_bar(given).dents);
}

TEST_CASE("a bar with next to no load has no margins that anybody could read") {
  BarCase given;
  const laminate::Stack wall = metal(1.5);
  given.walls = walls_of(Shape::C, std::vector<double>{60, 30}, wall, wall);
  given.length = 900;
  given.force = -1.0;
  CHECK(check_bar(given).margins.size() >= 2);
  given.force = -1e-9;
  CHECK(check_bar(given).margins.empty());
}

TEST_CASE("what is no bar is refused, each with what it lacks") {
  const SectionStiffness good = plain(1e9, 1e6);
  const auto says = [](const Bar& bar, const std::string& what, std::size_t terms = 14) {
    std::string said;
    try {
      column_buckling(bar, 1, terms);
    } catch (const std::invalid_argument& error) {
      said = error.what();
    }
    INFO(said);
    CHECK(said.find(what) != std::string::npos);
  };
  says({good, 0.0}, "length");
  says({good, std::nan("")}, "length");
  says({{}, 100.0}, "stiffness");
  says({good, 100.0, End::pinned, End::free}, "held by one fixed end or by two");
  says({good, 100.0}, "terms", 3);
  const std::vector<Wall> walls = walls_of(Shape::C, std::vector<double>{60, 30}, metal(1), metal(1));
  CHECK_THROWS_AS(strip_buckling(walls, {}, 0.0), std::invalid_argument);
  CHECK_THROWS_AS(signature(walls, {}, 50.0, 40.0), std::invalid_argument);
  CHECK_THROWS_AS(bent_bar({good, 100.0}, {std::nan(""), 0}, {0, 0}), std::invalid_argument);
}

}  // namespace of_sizing_column
