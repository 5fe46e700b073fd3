// Panels by hand, against closed forms (Navier's solution of the same theory, mode by mode), published tables and invariants.
#include "support.hpp"

#include <bordado/panel.hpp>

#include <Eigen/Eigenvalues>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <random>

namespace of_sizing_panel {

using namespace bordado;
using namespace bordado::sizing;
using test::near;

namespace {

constexpr double pi = std::numbers::pi;

/// Of a sheet of metal so thin that shear hardly counts.
Panel sheet(double a, double b, Edge x0, Edge x1, Edge y0, Edge y1, double nu = 0.3) {
  const double E = 70e3, t = 0.02, bending = E * t * t * t / 12.0 / (1.0 - nu * nu);
  Panel out{a, b, {}, x0, x1, y0, y1};
  out.plate.D << bending, nu * bending, 0.0, nu * bending, bending, 0.0, 0.0, 0.0, 0.5 * (1.0 - nu) * bending;
  out.plate.H = Matrix2::Identity() * (5.0 / 6.0 * t * E / 2.0 / (1.0 + nu));
  out.plate.mass = 2.7e-9 * t;
  return out;
}
Panel sheet(double a, double b, Edge all) { return sheet(a, b, all, all, all, all); }

/// The load as pi² D / b² counts it.
double coefficient(double load, const Panel& panel) {
  return load * panel.b * panel.b / (pi * pi * panel.plate.D(0, 0));
}
/// Angular frequency times a² times the root of mass over D.
double lambda(double frequency, const Panel& panel) {
  return 2.0 * pi * frequency * panel.a * panel.a * std::sqrt(panel.plate.mass / panel.plate.D(0, 0));
}

struct Random {
  std::mt19937 engine{29};
  double operator()(double low, double high) { return std::uniform_real_distribution<double>(low, high)(engine); }
  /// Symmetric, positive, and every entry there.
  template <int Size>
  Eigen::Matrix<double, Size, Size> positive(double scale) {
    Eigen::Matrix<double, Size, Size> out = scale * Eigen::Matrix<double, Size, Size>::Identity();
    for (int k = 0; k < Size; ++k) {
      const auto v = Eigen::Matrix<double, Size, 1>::NullaryExpr([&] { return (*this)(-1.0, 1.0); }).eval();
      out += scale * (*this)(0.1, 2.0) * v * v.transpose();
    }
    return out;
  }
  Panel panel() {
    Panel out{(*this)(100, 600), (*this)(100, 600), {}};
    out.plate = {positive<3>((*this)(1e3, 1e5)), positive<2>((*this)(50, 5000)), (*this)(1e-9, 1e-8)};
    do
      for (Edge* const edge : {&out.x0, &out.x1, &out.y0, &out.y1}) *edge = static_cast<Edge>(engine() % 3);
    while (out.x0 != Edge::clamped && out.y0 != Edge::clamped);
    return out;
  }
  Panel orthotropic() {
    Panel out = panel();
    for (int k = 0; k < 2; ++k) out.plate.D(k, 2) = out.plate.D(2, k) = 0.0;
    out.plate.H(0, 1) = out.plate.H(1, 0) = 0.0;
    out.x0 = out.x1 = out.y0 = out.y1 = Edge::simple;
    return out;
  }
};

/// Stiffness of one mode w = sin(m pi x / a) sin(n pi y / b), turns as cos sin and sin cos, of an orthotropic panel that is
/// simply supported all round, the turns eliminated. J. N. Reddy, Mechanics of Laminated Composite Plates, section 6.3.
double navier(const Panel& panel, int m, int n) {
  const double p = m * pi / panel.a, q = n * pi / panel.b;
  const auto& D = panel.plate.D;
  const auto& H = panel.plate.H;
  Eigen::Matrix3d K;
  K << H(0, 0) * p * p + H(1, 1) * q * q, H(0, 0) * p, H(1, 1) * q,                           //
      H(0, 0) * p, D(0, 0) * p * p + D(2, 2) * q * q + H(0, 0), (D(0, 1) + D(2, 2)) * p * q,  //
      H(1, 1) * q, (D(0, 1) + D(2, 2)) * p * q, D(2, 2) * p * p + D(1, 1) * q * q + H(1, 1);
  return K.determinant() / K.bottomRightCorner<2, 2>().determinant();
}

}  // namespace

TEST_CASE("orthotropic panels, simply supported, whatever their shear: Navier's factors, frequencies, deflection") {
  Random random;
  int counted = 0;
  for (int i = 0; i < 20; ++i) {
    const Panel panel = random.orthotropic();
    const Vector3 N(-random(0.2, 1.0), random(-1.0, 0.5), 0.0);
    int waves = 0;
    double least = std::numeric_limits<double>::infinity();
    std::vector<double> squares;
    double middle = 0.0;
    for (int m = 1; m <= 199; ++m)
      for (int n = 1; n <= 199; ++n) {
        const double stiffness = navier(panel, m, n), p = m * pi / panel.a, q = n * pi / panel.b;
        if (const double push = -N[0] * p * p - N[1] * q * q; push > 0.0 && stiffness / push < least) {
          least = stiffness / push;
          waves = std::max(m, n);
        }
        squares.push_back(stiffness / panel.plate.mass);
        if (m % 2 == 1 && n % 2 == 1) middle += ((m + n) % 4 == 2 ? 1.0 : -1.0) * 16.0 / (pi * pi * m * n) / stiffness;
      }
    std::sort(squares.begin(), squares.end());
    CAPTURE(i);
    const BucklingFactors factors = buckling_factors(panel, N, {20, 20});
    REQUIRE(factors.forward);
    CHECK(factors.forward->value >= least * (1.0 - 1e-10));
    // One that is soft in shear crimps in more waves than these functions have.
    if (waves <= 6) {
      ++counted;
      CHECK(near(factors.forward->value, least, 1e-6));
    } else {
      CHECK(factors.forward->value <= least * (1.0 + factors.forward->change));
    }
    const std::vector<Settled> told = natural_frequencies(panel, 4, Vector3::Zero(), {20, 20});
    REQUIRE(told.size() == 4);
    for (std::size_t k = 0; k < 4; ++k) CHECK(near(told[k].value, std::sqrt(squares[k]) / (2.0 * pi), 1e-6));
    const Bent bent = under_pressure(panel, 0.01, {20, 20}, 3);
    CHECK(near(bent.largest.value, 0.01 * middle, 1e-4));  // what the series lacks
    CHECK(near(bent.x, 0.5 * panel.a, 1e-3));
    CHECK(near(bent.y, 0.5 * panel.b, 1e-3));
  }
  CHECK(counted >= 10);
}

TEST_CASE("thin plates of metal: the coefficients of the tables") {
  const auto pushed = [](const Panel& panel, const Vector3& N, const Terms& terms = {20, 20}) {
    return coefficient(buckling_factors(panel, N, terms).forward.value().value, panel);
  };
  const Edge simple = Edge::simple, clamped = Edge::clamped, free = Edge::free;
  // S. P. Timoshenko and J. M. Gere, Theory of Elastic Stability, second edition, chapter 9. Turned edges are thin here: what
  // shear takes off is below 1e-4.
  CHECK(near(pushed(sheet(100, 100, simple), {-1, 0, 0}), 4.0, 1e-4));
  CHECK(near(pushed(sheet(300, 100, simple), {-1, 0, 0}), 4.0, 1e-4));
  CHECK(near(pushed(sheet(100, 100, simple), {-1, -1, 0}), 2.0, 1e-4));
  CHECK(near(pushed(sheet(100, 100, clamped), {-1, 0, 0}), 10.07, 1e-3));
  CHECK(
      near(pushed(sheet(100, 100, simple), {0, 0, 1}), 9.34, 3e-3));  // M. Stein and J. Neff, NACA TN 1222 (1947): 9.35
  CHECK(near(pushed(sheet(100, 100, clamped), {0, 0, 1}), 14.71,
             6e-3));  // B. Budiansky and R. W. Connor, NACA TN 1559 (1948)
  CHECK(near(pushed(sheet(1000, 100, simple, simple, simple, free, 0.25), {-1, 0, 0}, {30, 12}),
             0.01 + 6.0 * 0.75 / (pi * pi), 5e-3));  // b²/a² + 6 (1 - nu) / pi²: no curvature across
  CHECK(near(pushed(sheet(164, 100, simple, simple, clamped, free, 0.25), {-1, 0, 0}), 1.33, 5e-3));
  // A. W. Leissa, J. Sound and Vibration 31 (1973) 257: bounds from above, by beam functions.
  const auto below = [](const Panel& panel, std::initializer_list<double> table) {
    const std::vector<Settled> told = natural_frequencies(panel, table.size(), Vector3::Zero(), {18, 18});
    std::size_t k = 0;
    for (const double wanted : table) {
      CAPTURE(wanted);
      CHECK(lambda(told.at(k).value, panel) <= wanted * (1.0 + 1e-4));
      CHECK(lambda(told.at(k++).value, panel) > 0.99 * wanted);
    }
  };
  below(sheet(100, 100, clamped), {35.992, 73.413, 73.413, 108.27});
  below(sheet(100, 100, clamped, free, free, free), {3.4917, 8.5246, 21.429, 27.331, 31.111});
  below(sheet(100, 100, simple, simple, free, free), {9.6314, 16.135, 36.726});
}

TEST_CASE("more functions never stiffen, less from step to step, and what is told of the rest holds") {
  Random random;
  for (int i = 0; i < 10; ++i) {
    const Panel panel = random.panel();
    const Vector3 N(random(-1, 1), random(-1, 1), random(-1, 1));
    CAPTURE(i);
    double before = std::numeric_limits<double>::infinity(), bent = 0.0;
    for (const std::size_t n : {6u, 9u, 14u, 21u}) {
      const BucklingFactors factors = buckling_factors(panel, N, {n, n});
      if (!factors.forward) break;
      CHECK(factors.forward->value <= before * (1.0 + 1e-9));
      before = factors.forward->value;
      const double now = under_pressure(panel, 1.0, {n, n}, 2).mean;
      CHECK(now >= bent * (1.0 - 1e-9));
      bent = now;
    }
    const BucklingFactors coarse = buckling_factors(panel, N, {14, 14}), fine = buckling_factors(panel, N, {28, 28});
    REQUIRE(coarse.forward.has_value() == fine.forward.has_value());
    if (coarse.forward) CHECK(coarse.forward->value / fine.forward->value - 1.0 <= coarse.forward->change + 1e-9);
  }
}

TEST_CASE("a panel that is stiffer, turned, mirrored or larger: factors follow") {
  Random random;
  for (int i = 0; i < 20; ++i) {
    const Panel panel = random.panel();
    const Vector3 N(random(-1, 0), random(-1, 1), random(-1, 1));
    const auto least = [](const Panel& of, const Vector3& loads) {
      return buckling_factors(of, loads, {12, 12}).forward.value().value;
    };
    const double factor = least(panel, N);
    CAPTURE(i);
    Panel stiffer = panel;
    stiffer.plate.D += random.positive<3>(1e3);
    stiffer.plate.H += random.positive<2>(10.0);
    CHECK(least(stiffer, N) >= factor * (1.0 - 1e-9));
    Panel round = panel;  // by half a turn
    std::swap(round.x0, round.x1);
    std::swap(round.y0, round.y1);
    CHECK(near(least(round, N), factor, 1e-8));
    Panel turned{panel.b, panel.a, panel.plate, panel.y0, panel.y1, panel.x0, panel.x1};  // x and y change names
    turned.plate.D.row(0).swap(turned.plate.D.row(1));
    turned.plate.D.col(0).swap(turned.plate.D.col(1));
    turned.plate.H.row(0).swap(turned.plate.H.row(1));
    turned.plate.H.col(0).swap(turned.plate.H.col(1));
    CHECK(near(least(turned, {N[1], N[0], N[2]}), factor, 1e-8));
    Panel mirrored = panel;  // y to -y
    std::swap(mirrored.y0, mirrored.y1);
    for (int k = 0; k < 2; ++k) mirrored.plate.D(k, 2) = mirrored.plate.D(2, k) *= -1.0;
    mirrored.plate.H(0, 1) = mirrored.plate.H(1, 0) *= -1.0;
    CHECK(near(least(mirrored, {N[0], N[1], -N[2]}), factor, 1e-8));
    Panel larger = panel;
    larger.a *= 3.0, larger.b *= 3.0, larger.plate.H /= 9.0;
    CHECK(near(least(larger, N), factor / 9.0, 1e-8));
    CHECK(near(least(panel, 2.0 * N), 0.5 * factor, 1e-8));
    const BucklingFactors both = buckling_factors(panel, -N, {12, 12});
    CHECK(near(both.reversed.value().value, factor, 1e-8));
  }
}

TEST_CASE("pushed towards its buckling load a panel sings ever lower, and loads that pull buckle nothing") {
  Random random;
  const Panel panel = random.orthotropic();
  const Vector3 N(-1, -1, 0);
  const double factor = buckling_factors(panel, N).forward.value().value;
  for (const double share : {-0.5, 0.3, 0.9}) {
    // Forces in the plane turn no mode of Navier's into another.
    double least = std::numeric_limits<double>::infinity();
    for (int m = 1; m <= 20; ++m)
      for (int n = 1; n <= 20; ++n) {
        const double p = m * pi / panel.a, q = n * pi / panel.b;
        least = std::min(least, navier(panel, m, n) + share * factor * (N[0] * p * p + N[1] * q * q));
      }
    const double wanted = std::sqrt(least / panel.plate.mass) / (2.0 * pi);
    CHECK(near(natural_frequencies(panel, 1, share * factor * N, {20, 20})[0].value, wanted, 1e-6));
  }
  CHECK_THROWS_AS(natural_frequencies(panel, 1, 1.01 * factor * N), std::invalid_argument);
  const BucklingFactors pulled = buckling_factors(panel, {1, 1, 0});
  CHECK(!pulled.forward);
  CHECK(near(pulled.reversed.value().value, factor, 1e-9));
}

TEST_CASE("the shape of a mode: Navier's sines, its largest deflection 1") {
  const Panel panel = sheet(300, 100, Edge::simple);
  const std::vector<BentPlace> shape = buckling_shape(panel, {-1, 0, 0}, {16, 10}, 13);
  REQUIRE(shape.size() == 169);
  const auto wave = [](const BentPlace& place) {
    return std::sin(3 * pi * place.x / 300) * std::sin(pi * place.y / 100);
  };
  const double sign = std::copysign(1.0, shape[6 * 13 + 2].deflection * wave(shape[6 * 13 + 2]));
  for (const BentPlace& place : shape) CHECK(std::abs(place.deflection - sign * wave(place)) < 1e-3);
  CHECK_THROWS_AS(buckling_shape(panel, {1, 1, 0}), std::invalid_argument);
}

TEST_CASE("shear that pushes along the fibres of a 45 degree ply buckles it later than shear that pulls along them") {
  // Nxy above nought pulls along +45 degrees and pushes along -45.
  const std::vector<laminate::Layer> ply = {{test::carbon(), 1.0, Angle::degrees(45.0), 1.6e-9}};
  const BucklingFactors at_plus = buckling_factors({100, 100, plate_stiffness(ply)}, {0, 0, 1}, {16, 16});
  CHECK(at_plus.reversed.value().value > 1.5 * at_plus.forward.value().value);
  const std::vector<laminate::Layer> other = {{test::carbon(), 1.0, Angle::degrees(-45.0), 1.6e-9}};
  const BucklingFactors at_minus = buckling_factors({100, 100, plate_stiffness(other)}, {0, 0, 1}, {16, 16});
  CHECK(near(at_minus.forward.value().value, at_plus.reversed.value().value, 1e-8));
}

TEST_CASE("stretching and bending that go together: the reduced stiffness is that of bending free of force") {
  std::vector<laminate::Layer> layers;
  for (const double angle : {0.0, 30.0, 75.0, -20.0})
    layers.push_back({test::carbon(), 0.3, Angle::degrees(angle), 1.6e-9});
  const PlateStiffness plate = plate_stiffness(layers);
  for (const double z0 : {0.0, -0.6, 5.0}) {
    const Matrix3 d = laminate::compliance(laminate::stiffness(layers, z0)).d;
    CHECK((plate.D * d - Matrix3::Identity()).norm() < 1e-9);
  }
  CHECK(near(plate.mass, 4 * 0.3 * 1.6e-9, 1e-12));
}

TEST_CASE("many loads on one panel: each as asked alone, never below it, the least exactly") {
  Random random;
  std::normal_distribution<double> normal;
  for (const double spread : {0.3, 3.0}) {
    Panel panel = random.panel();
    const Terms terms{12, 12};
    std::vector<Vector3> loads;
    for (int i = 0; i < 1500; ++i)
      loads.push_back(Vector3(-1, -0.3, 0.4) +
                      spread * Vector3(normal(random.engine), normal(random.engine), normal(random.engine)));
    loads.push_back({1, 1, 0});  // pulls
    loads.push_back(Vector3::Zero());
    const ManyLoads many(panel, loads, terms);
    CHECK(many.shape_count() > 3);
    CHECK(std::isinf(many.factor({1, 1, 0})));
    CHECK(std::isinf(many.factor(Vector3::Zero())));
    const Vector3* least = nullptr;
    double top = 0.0;  // share of a load of one
    for (const Vector3& N : loads) {
      if (!least || many.factor(N) < many.factor(*least)) least = &N;
      if (N.norm() > 0.0) top = std::max(top, 1.0 / many.factor(N) / N.norm());
    }
    CHECK(near(many.factor(*least), buckling_factors(panel, *least, terms).forward.value().value, 2e-4));
    double all = 0.0;
    int counted = 0;
    for (std::size_t i = 0; i < 100; ++i) {
      const auto alone = buckling_factors(panel, loads[i], terms).forward;
      const double told = many.factor(loads[i]);
      if (!alone) {
        CHECK(std::isinf(told));
        continue;
      }
      CHECK(told > alone->value * (1.0 - 2e-4));  // of two shapes that need nearly the same either is found
      if (1.0 / alone->value / loads[i].norm() < 0.1 * top) continue;
      CHECK(near(told, alone->value, 3e-2));
      all += told / alone->value - 1.0;
      ++counted;
    }
    CHECK(all / counted < 3e-3);
    CHECK(near(many.factor(7.0 * loads[0]) * 7.0, many.factor(loads[0]), 1e-12));
  }
}

TEST_CASE("many loads on one panel: what needs the least is asked, however few come near it") {
  Random random;
  std::normal_distribution<double> normal;
  for (int i = 0; i < 6; ++i) {
    const Panel panel = random.panel();
    const Terms terms{9, 9};
    std::vector<Vector3> loads;
    for (int k = 0; k < 400; ++k)
      loads.push_back(Vector3(normal(random.engine), normal(random.engine), normal(random.engine)).normalized());
    const ManyLoads many(panel, loads, terms, 10.0);  // content with six directions else
    double least = 1e300, exactly = 1e300;
    for (const Vector3& N : loads) {
      least = std::min(least, many.factor(N));
      if (const auto alone = buckling_factors(panel, N, terms).forward) exactly = std::min(exactly, alone->value);
    }
    CHECK(near(least, exactly, 5e-5));
  }
}

TEST_CASE("what is no panel is refused, each with what it lacks") {
  const Panel good = sheet(100, 100, Edge::simple);
  const auto says = [](const Panel& panel, const Vector3& N, const Terms& terms, const std::string& what) {
    std::string said;
    try {
      buckling_factors(panel, N, terms);
    } catch (const std::invalid_argument& error) {
      said = error.what();
    }
    INFO(said);
    CHECK(said.find(what) != std::string::npos);
  };
  const Vector3 N(-1, 0, 0);
  says({0.0, 100, good.plate}, N, {}, "lengths");
  says({100, std::nan(""), good.plate}, N, {}, "lengths");
  says({100, 100, {}}, N, {}, "stiffness");
  says(good, Vector3::Zero(), {}, "loads");
  says(good, {std::nan(""), 0, 0}, {}, "loads");
  says(good, N, {3, 14}, "terms");
  says(good, N, {14, most_terms + 1}, "terms");
  for (const Edge other : {Edge::free, Edge::simple})
    says({100, 100, good.plate, other, Edge::free, Edge::free, Edge::free}, N, {},
         "held by one clamped edge or by two");
  CHECK(buckling_factors({100, 100, good.plate, Edge::simple, Edge::free, Edge::simple, Edge::free}, N).forward);
  CHECK_THROWS_AS(under_pressure(good, std::nan("")), std::invalid_argument);
  CHECK_THROWS_AS(natural_frequencies({100, 100, {good.plate.D, good.plate.H, 0.0}}, 1), std::invalid_argument);
}

}  // namespace of_sizing_panel
