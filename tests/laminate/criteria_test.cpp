#include "support.hpp"

#include <bordado/strength.hpp>

#include <cmath>
#include <random>

namespace of_laminate_criteria {

using namespace bordado;
using namespace bordado::laminate;

namespace {

/// Graphite/epoxy of A. K. Kaw, Mechanics of Composite Materials, 2nd ed. (CRC Press 2006), table 2.1; MPa.
material::Material kaw() {
  material::Material m;
  m.name = "graphite-epoxy";
  m.elastic = material::transversely_isotropic(181e3, 10.3e3, 0.28, 7.17e3, 0.4, 3e3);
  m.strength = {1500, 1500, 40, 246, {}, {}, 68, {}, {}};
  return m;
}

/// Stress in ply axes of sx, sy, txy.
Vector3 in_ply(const Vector3& stress, double degrees) {
  const double c = Angle::degrees(degrees).cos(), s = Angle::degrees(degrees).sin();
  return {c * c * stress[0] + s * s * stress[1] + 2 * c * s * stress[2],
          s * s * stress[0] + c * c * stress[1] - 2 * c * s * stress[2],
          c * s * (stress[1] - stress[0]) + (c * c - s * s) * stress[2]};
}

constexpr Criterion of_plies[] = {
    Criterion::maximum_stress, Criterion::maximum_strain, Criterion::tsai_hill, Criterion::tsai_wu,
    Criterion::hoffman,        Criterion::hashin,         Criterion::puck};

/// Whether a stress has failed, written down anew from the papers, without reserves or pieces.
double sum_of(Criterion criterion, const material::Material& m, const Vector3& s) {
  const double Xt = *m.strength.Xt, Xc = *m.strength.Xc, Yt = *m.strength.Yt, Yc = *m.strength.Yc, S = *m.strength.S12;
  const double s1 = s[0], s2 = s[1], t = s[2];
  const auto ratio = [](double value, double pulled, double pushed) {
    return value > 0 ? value / pulled : -value / pushed;
  };
  const double by_stress = std::max({ratio(s1, Xt, Xc), ratio(s2, Yt, Yc), std::abs(t) / S});
  switch (criterion) {
    case Criterion::maximum_stress:
      return by_stress;
    case Criterion::maximum_strain: {
      const auto& e = m.elastic;
      const double e1 = s1 - e.nu12 * s2, e2 = s2 - e.nu12 * e.E2 / e.E1 * s1;  // times the moduli
      return std::max({ratio(e1, Xt, Xc), ratio(e2, Yt, Yc), std::abs(t) / S});
    }
    case Criterion::tsai_hill: {
      const double X = s1 > 0 ? Xt : Xc, Y = s2 > 0 ? Yt : Yc;
      return s1 * s1 / X / X - s1 * s2 / X / X + s2 * s2 / Y / Y + t * t / S / S;
    }
    case Criterion::tsai_wu:
      return (1 / Xt - 1 / Xc) * s1 + (1 / Yt - 1 / Yc) * s2 + s1 * s1 / Xt / Xc + s2 * s2 / Yt / Yc + t * t / S / S -
             s1 * s2 / std::sqrt(Xt * Xc * Yt * Yc);
    case Criterion::hoffman:
      return (1 / Xt - 1 / Xc) * s1 + (1 / Yt - 1 / Yc) * s2 + s1 * s1 / Xt / Xc + s2 * s2 / Yt / Yc + t * t / S / S -
             s1 * s2 / Xt / Xc;
    case Criterion::hashin: {
      const double fibre = s1 > 0 ? s1 * s1 / Xt / Xt + t * t / S / S : s1 * s1 / Xc / Xc;
      const double matrix = s2 > 0 ? s2 * s2 / Yt / Yt + t * t / S / S : s2 * s2 / Yc / Yc + t * t / S / S;
      return std::max(fibre, matrix);  // with S23 = Yc / 2
    }
    default: {
      const double pt = 0.35, pc = 0.30;
      const double RA = S / (2 * pc) * (std::sqrt(1 + 2 * pc * Yc / S) - 1), p22 = pc * RA / S;
      const double tc = S * std::sqrt(1 + 2 * p22);
      double between = 0.0;
      if (s2 >= 0)
        between = std::sqrt(std::pow(t / S, 2) + std::pow((1 - pt * Yt / S) * s2 / Yt, 2)) + pt * s2 / S;
      else if (std::abs(s2) * tc <= RA * std::abs(t))
        between = (std::sqrt(t * t + std::pow(pc * s2, 2)) + pc * s2) / S;
      else
        between = (std::pow(t / (2 * (1 + p22) * S), 2) + std::pow(s2 / Yc, 2)) * Yc / -s2;
      return std::max(between, ratio(s1, Xt, Xc));
    }
  }
}

}  // namespace

TEST_CASE("textbook laminae fail where the book says") {
  // Kaw, examples 2.13 to 2.19: a lamina at 60 degrees under sx = 2 S, sy = -3 S, txy = 4 S. The book prints 16.33
  // (largest stress and largest strain), 16.06 (Tsai-Hill with strengths by sign), 22.39 (Tsai-Wu with F12 = -1/2 of
  // the root).
  const Vector3 stress = in_ply({2, -3, 4}, 60);
  CHECK(test::off(stress[0], 1.714) < 1e-3);
  CHECK(test::off(stress[1], -2.714) < 1e-3);
  CHECK(test::off(stress[2], -4.165) < 1e-3);
  const auto S = [&](Criterion criterion) { return FailureSurface(criterion, kaw()).reserve(stress).factor; };
  CHECK(test::off(S(Criterion::maximum_stress), 16.33) < 5e-4);
  CHECK(test::off(S(Criterion::maximum_strain), 16.33) < 5e-4);
  CHECK(test::off(S(Criterion::tsai_hill), 16.06) < 5e-4);
  CHECK(test::off(S(Criterion::tsai_wu), 22.39) < 5e-4);
  CHECK(FailureSurface(Criterion::maximum_stress, kaw()).reserve(stress).mode == FailureMode::shear);
}

TEST_CASE("a textbook cross-ply fails where the book says, ply after ply") {
  // Kaw, example 5.3: [0/90/0] of 5 mm plies pulled along x. The book: the middle ply fails across its fibres at
  // 7.277 MN/m (Tsai-Wu), the rest at 15.00 MN/m.
  const material::Material m = kaw();
  Stack stack;
  for (const double degrees : {0.0, 90.0, 0.0}) {
    stack.layers.push_back(layer_of(m, 5.0, Angle::degrees(degrees)));
    stack.materials.push_back(&m);
  }
  stack.z0 = -7.5;
  Load load;
  load.N[0] = 1.0;
  const Criterion tsai_wu[] = {Criterion::tsai_wu};
  const auto failing = first_failures(stack, load, tsai_wu);
  CHECK(test::off(failing.front().factor, 7277.0) < 5e-4);
  CHECK(failing.front().layer == 1);
  CHECK(words(failing.front().mode) == "matrix tension");
  CHECK(test::off(discount(stack, load, tsai_wu).first, 7277.0) < 5e-4);
  // In the book nothing of the middle ply is left; here its fibres are, and keep the others from narrowing, which Tsai
  // and Wu count. By the largest stress the others break at 1500 MPa on 10 mm.
  const Criterion by_stress[] = {Criterion::maximum_stress};
  const Discount discounted = discount(stack, load, by_stress);
  CHECK(test::off(discounted.ultimate, 15000.0) < 5e-4);
  REQUIRE(discounted.sequence.size() >= 2);
  CHECK(discounted.sequence[0].failing.front().layer == 1);
  CHECK(discounted.sequence[1].failing.size() == 2);
  CHECK(discounted.sequence[1].failing.front().mode == FailureMode::fibre_tension);
  CHECK(discounted.sequence.size() <= 6);  // each ply fails twice at the most
}

TEST_CASE("all criteria agree at the five strengths") {
  const material::Material m = kaw();
  const std::pair<Vector3, FailureMode> strengths[] = {{{1500, 0, 0}, FailureMode::fibre_tension},
                                                       {{-1500, 0, 0}, FailureMode::fibre_compression},
                                                       {{0, 40, 0}, FailureMode::matrix_tension},
                                                       {{0, -246, 0}, FailureMode::matrix_compression},
                                                       {{0, 0, 68}, FailureMode::shear}};
  for (const Criterion criterion : of_plies)
    for (const auto& [stress, mode] : strengths) {
      const FailureSurface surface(criterion, m);
      CAPTURE(name_of(criterion));
      CAPTURE(stress.transpose());
      CHECK(test::off(surface.reserve(stress).factor, 1.0) < 1e-12);
      CHECK(test::off(surface.reserve(0.25 * stress).factor, 4.0) < 1e-12);
      CHECK(test::off(surface.index(stress), 1.0) < 1e-12);
      if (criterion != Criterion::puck && !(criterion == Criterion::hashin && mode == FailureMode::shear))
        CHECK(words(surface.reserve(stress).mode) == words(mode));
    }
  CHECK(FailureSurface(Criterion::puck, m).reserve({0, 40, 0}).mode == FailureMode::inter_fibre_A);
  CHECK(FailureSurface(Criterion::puck, m).reserve({0, -30, 60}).mode == FailureMode::inter_fibre_B);
  CHECK(FailureSurface(Criterion::puck, m).reserve({0, -246, 10}).mode == FailureMode::inter_fibre_C);
}

TEST_CASE("Puck's inclination that is left out never goes beyond its range: across the fibres a ply fails at Yt") {
  // With 0.35 and a strength in shear of 0.3 Yt the curve would never have met Yt: nothing failed.
  for (const double share : {0.05, 0.2, 0.3, 0.35, 0.38, 1.0, 3.0}) {
    material::Material m = kaw();
    m.interaction.p12t.reset();
    m.strength.S12 = share * *m.strength.Yt;
    const FailureSurface surface(Criterion::puck, m);
    CAPTURE(share);
    CHECK(test::near(surface.reserve({0, 0.5 * *m.strength.Yt, 0}).factor, 2.0, 1e-9));
    CHECK(test::near(surface.reserve({0, 0, 0.5 * *m.strength.S12}).factor, 2.0, 1e-9));
    // Between the two the curve bends outwards: no point of it lies within the straight line.
    const laminate::Reserve both = surface.reserve({0, 0.5 * *m.strength.Yt, 0.5 * *m.strength.S12});
    CHECK(both.mode == FailureMode::inter_fibre_A);
    CHECK(both.factor >= 1.0);
    CHECK(both.factor < std::sqrt(2.0));
  }
}

TEST_CASE("a reserve times its load lies on the surface, as bisection finds it") {
  const material::Material m = kaw();
  std::mt19937 engine(3);
  std::normal_distribution<double> normal;
  for (int trial = 0; trial < 800; ++trial) {
    const Vector3 load(900 * normal(engine), 60 * normal(engine), 40 * normal(engine));
    Vector3 held(100 * normal(engine), 12 * normal(engine), 12 * normal(engine));
    if (trial % 2 == 0) held.setZero();
    for (const Criterion criterion : of_plies) {
      CAPTURE(name_of(criterion));
      CAPTURE(load.transpose());
      CAPTURE(held.transpose());
      const Reserve reserve = FailureSurface(criterion, m).reserve(load, held);
      if (sum_of(criterion, m, held) >= 1.0) {
        CHECK(reserve.factor == 0.0);
        continue;
      }
      REQUIRE(std::isfinite(reserve.factor));
      // The first crossing, on a fine walk from nought, then by halves.
      const auto failed = [&](double R) { return sum_of(criterion, m, held + R * load) >= 1.0; };
      double high = 0.0, step = 1e-3 * reserve.factor;
      while (!failed(high) && high < 2.0 * reserve.factor) high += step;
      double low = high - step;
      for (int k = 0; k < 50; ++k) (failed(0.5 * (low + high)) ? high : low) = 0.5 * (low + high);
      CHECK(test::off(reserve.factor, high) < 1e-9);
    }
  }
}

TEST_CASE("a ply that is held in tension and pushed goes through nought unharmed") {
  const material::Material m = kaw();
  for (const Criterion criterion : of_plies) {
    CAPTURE(name_of(criterion));
    CHECK(test::off(FailureSurface(criterion, m).reserve({0, -1, 0}, {0, 20, 0}).factor, 266.0) < 1e-9);
    CHECK(test::off(FailureSurface(criterion, m).reserve({-1, 0, 0}, {200, 0, 0}).factor, 1700.0) < 1e-9);
  }
}

TEST_CASE("a load of any size has its reserve") {
  const material::Material m = kaw();
  for (const Criterion criterion : of_plies)
    for (const double size : {1e-280, 1e-20, 1e20, 1e280}) {
      CAPTURE(name_of(criterion));
      CAPTURE(size);
      const double one = FailureSurface(criterion, m).reserve({30, -3, 5}).factor;
      CHECK(test::off(FailureSurface(criterion, m).reserve(size * Vector3(30, -3, 5)).factor * size, one) < 1e-12);
    }
}

TEST_CASE("what a criterion adds: numbers of one's own") {
  material::Material m = kaw();
  const Vector3 biaxial(300, 30, 10);
  const auto R = [&](Criterion criterion) { return FailureSurface(criterion, m).reserve(biaxial).factor; };
  const double before = R(Criterion::tsai_wu);
  m.interaction.F12 = 0.0;
  CHECK(R(Criterion::tsai_wu) < before);
  m.interaction = {};
  // A steeper curve bears less under pull and shear together, more under pressure and shear.
  const auto puck = [&](const Vector3& s) { return FailureSurface(Criterion::puck, m).reserve(s).factor; };
  const double pulled = puck({0, 20, 50}), pushed = puck({0, -20, 50});
  m.interaction.p12t = 0.2, m.interaction.p12c = 0.2;
  CHECK(puck({0, 20, 50}) > pulled);
  CHECK(puck({0, -20, 50}) < pushed);
  // Strains of one's own are asked before strengths over moduli.
  m.strain_limits.e2t = 0.5 * 40.0 / m.elastic.E2;
  CHECK(test::off(FailureSurface(Criterion::maximum_strain, m).reserve({0, 40, 0}).factor, 0.5) < 1e-12);
  m.strength.S23 = 60.0;  // Hashin's shear across: no longer half of Yc
  CHECK(test::off(FailureSurface(Criterion::hashin, m).reserve({0, -246, 0}).factor, 1.0) < 1e-12);
}

TEST_CASE("metal is judged by one strength, cloth by the largest stress, cores not at all") {
  material::Material metal;
  metal.kind = material::Kind::isotropic;
  metal.elastic = material::isotropic(70e3, 0.33);
  metal.strength.Xt = 240.0;
  // Tsai-Hill with one strength is von Mises: sx² - sx sy + sy² + 3 t².
  const Vector3 s(100, -50, 60);
  const double mises = std::sqrt(100.0 * 100 + 100 * 50 + 50 * 50 + 3 * 60 * 60);
  const Reserve reserve = FailureSurface(Criterion::tsai_hill, metal).reserve(s);
  CHECK(test::off(reserve.factor, 240.0 / mises) < 1e-12);
  CHECK(words(reserve.mode) == "yielding");

  material::Material cloth = kaw();
  cloth.kind = material::Kind::fabric;
  CHECK(applied(Criterion::puck, cloth) == Criterion::maximum_stress);
  CHECK(FailureSurface(Criterion::puck, cloth).reserve({0, 20, 0}).mode == FailureMode::weft_tension);
  cloth.strength.Xc.reset();
  CHECK(missing_for(Criterion::puck, cloth) == std::vector<std::string_view>{"Xc"});
  CHECK(missing_for(Criterion::interlaminar_shear, cloth) == std::vector<std::string_view>{"S13", "S23"});
  CHECK_THROWS_WITH_AS(FailureSurface(Criterion::hashin, cloth), "Xc is missing", std::invalid_argument);

  material::Material foam = metal;
  foam.kind = material::Kind::foam;
  CHECK(!applied(Criterion::tsai_wu, foam));
  CHECK(applied(Criterion::core_shear, foam) == Criterion::core_shear);
  foam.strength = {};
  CHECK(missing_for(Criterion::core_shear, foam) == std::vector<std::string_view>{"S13", "S23"});
  for (std::size_t i = 0; i < criterion_count; ++i)
    CHECK(criterion_named(name_of(static_cast<Criterion>(i))) == static_cast<Criterion>(i));
  CHECK(!criterion_named("nonsense"));
}

}  // namespace of_laminate_criteria
