// Margins over numbers that vary: each point is the panel or the bar with that number, and what is told between points holds there.
#include "support.hpp"

#include <bordado/sweep.hpp>

#include <numbers>

namespace of_sizing_sweep {

using namespace bordado;
using namespace bordado::sizing;
using test::near;

namespace {

struct Shelf {
  material::Material carbon, foam, metal;
  Shelf() {
    carbon.name = "carbon", carbon.kind = material::Kind::unidirectional, carbon.elastic = test::carbon();
    carbon.density = 1.6e-9;
    carbon.strength.Xt = 1700, carbon.strength.Xc = 1000, carbon.strength.Yt = 45, carbon.strength.Yc = 160,
    carbon.strength.S12 = 75;
    foam.name = "foam", foam.kind = material::Kind::foam, foam.elastic = material::isotropic(70.0, 0.3);
    foam.density = 8e-11;
    metal.name = "metal", metal.kind = material::Kind::isotropic, metal.elastic = material::isotropic(70000.0, 0.3);
    metal.density = 2.7e-9;
  }
  /// Two plies, a core, two plies.
  laminate::Stack sandwich(double core) const {
    laminate::Stack out;
    for (const auto& [m, thickness, degrees] : {std::tuple{&carbon, 0.2, 0.0},
                                                {&carbon, 0.2, 45.0},
                                                {&foam, core, 0.0},
                                                {&carbon, 0.2, 45.0},
                                                {&carbon, 0.2, 0.0}}) {
      out.layers.push_back(laminate::layer_of(*m, thickness, Angle::degrees(degrees)));
      out.materials.push_back(m);
    }
    return out;
  }
  laminate::Stack sheet(double thickness) const {
    laminate::Stack out;
    out.layers.push_back(laminate::layer_of(metal, thickness, Angle::degrees(0.0)));
    out.materials.push_back(&metal);
    return out;
  }
};

Varied varied(double from, double to, std::size_t count, bool whole = false) {
  return {"it", "mm", even_values(from, to, count, whole), std::nullopt, whole};
}

}  // namespace

TEST_CASE("even values: as many as asked, both ends exactly; of whole numbers no more than there are") {
  CHECK(even_values(0.1, 0.7, 4, false).size() == 4);
  CHECK(even_values(0.1, 0.7, 4, false).front() == 0.1);
  CHECK(even_values(0.1, 0.7, 4, false).back() == 0.7);
  CHECK(even_values(0, 4, 61, true) == std::vector<double>{0, 1, 2, 3, 4});
  CHECK(even_values(0, 200, 61, true).size() <= 61);
  CHECK_THROWS_AS(even_values(1, 1, 5, false), std::invalid_argument);
  CHECK_THROWS_AS(even_values(0, std::nan(""), 5, false), std::invalid_argument);
}

TEST_CASE("a core that grows: points, where the least is 1, what comes first; each as the panel by itself says") {
  const Shelf shelf;
  PanelCase given;
  given.a = 900, given.b = 700;
  given.N = {-60, -20, 15};
  given.pressure = 0.01;
  const PanelWith with = [&](std::span<const double> values) {
    PanelCase out = given;
    out.stack = shelf.sandwich(values[0]);
    return std::optional(out);
  };
  const auto alone = [&](double core) { return check_panel(*with(std::span(&core, 1))).margins; };
  const Sweep found = sweep({varied(2.0, 40.0, 12)}, with);
  REQUIRE(found.points.size() == 12);
  for (std::size_t i = 0; i < 12; i += 4) {
    const double core = found.varied[0].values[i];
    const std::vector<Margin> wanted = alone(core);
    REQUIRE(found.points[i].value().margins.size() == wanted.size());
    for (std::size_t k = 0; k < wanted.size(); ++k) {
      CHECK(found.points[i]->margins[k].what == wanted[k].what);
      CHECK(near(found.points[i]->margins[k].factor, wanted[k].factor, 1e-12));
    }
    CHECK(near(found.points[i]->mass, laminate::areal_mass(shelf.sandwich(core).layers), 1e-12));
  }
  REQUIRE(found.ones.size() == 1);
  CHECK(found.ones[0].rises);
  CHECK(near(alone(found.ones[0].value).front().factor, 1.0, 2e-3));
  // Stretches follow on each other; within each it comes first, a little beyond another one does.
  REQUIRE(found.first.size() >= 2);
  CHECK(found.first.front().from == 2.0);
  CHECK(found.first.back().to == 40.0);
  for (std::size_t i = 0; i < found.first.size(); ++i) {
    const Stretch& one = found.first[i];
    CHECK(alone(one.from + 0.01).front().what == one.what);
    CHECK(alone(one.to - 0.01).front().what == one.what);
    if (i > 0) CHECK(one.from == found.first[i - 1].to);
    if (i > 0) CHECK(one.what != found.first[i - 1].what);
  }
  for (std::size_t i = 0; i < 12; ++i) {
    CHECK(found.least(i)->factor <= found.least(found.largest.value())->factor);
    CHECK(found.least(i)->factor >= found.least(found.smallest.value())->factor);
  }
  CHECK(words_of(found).size() == found.first.size() + 3 + (found.out_of_range > 0 ? 1 : 0));
}

TEST_CASE("a pinned bar: its length where the reserve is 1 is that of Euler's load, less what shear takes") {
  const Shelf shelf;
  BarCase given;
  given.walls = walls_of(Shape::box, std::vector<double>{40, 30}, shelf.sheet(2), shelf.sheet(2));
  given.force = -30000;
  const BarWith with = [&](std::span<const double> values) {
    BarCase out = given;
    out.length = values[0];
    return std::optional(out);
  };
  const Sweep found = sweep({varied(500.0, 3000.0, 8)}, with);
  REQUIRE(found.ones.size() == 1);
  CHECK(!found.ones[0].rises);
  const SectionStiffness section = section_stiffness(given.walls);
  // 1/P = L²/(π² EI) + 1/S; the weak axis is along z: it bends in y.
  const double P = 30000.0, S = 1.0 / section.shear_compliance(0, 0), pi = std::numbers::pi;
  const double wanted = pi * std::sqrt(section.weak * (1.0 / P - 1.0 / S));
  CHECK(near(found.ones[0].value, wanted, 3e-4));
}

TEST_CASE("whole numbers: the first on the other side, though not all of them were asked") {
  const Shelf shelf;
  PanelCase given;
  given.a = given.b = 300;
  given.N = {-40, 0, 0};
  given.terms = Terms{6, 6};
  const auto sheets = [&](double count) {
    PanelCase out = given;
    out.stack = shelf.sheet(0.05 * count);
    return out;
  };
  const PanelWith with = [&](std::span<const double> values) {
    return values[0] == 0.0 ? std::nullopt : std::optional(sheets(values[0]));
  };
  double wanted = 1.0;
  while (check_panel(sheets(wanted)).margins.front().factor < 1.0) wanted += 1.0;
  REQUIRE(wanted > 5.0);
  const Sweep found = sweep({varied(0.0, 100.0, 6, true)}, with);
  REQUIRE(found.ones.size() == 1);
  CHECK(found.ones[0].value == wanted);
  // With none of it there is nothing.
  CHECK(!found.points[0]);
  CHECK(found.least(0) == nullptr);
  REQUIRE(found.first.size() == 2);
  CHECK(found.first[0].what.empty());
  CHECK(found.first[0].to == 0.0);
  CHECK(found.first[1].from == 1.0);
}

TEST_CASE("points where the theory ends are counted and said") {
  const Shelf shelf;
  PanelCase given;
  given.a = 200, given.b = 100;
  given.N = {-20, 0, 0};
  given.terms = Terms{6, 6};
  // Sheets of 2, 6, 10, 14, 18: ten times 10 is the shorter side.
  const Sweep thick = sweep({varied(2, 18, 5)}, [&](std::span<const double> values) {
    PanelCase out = given;
    out.stack = shelf.sheet(values[0]);
    return std::optional(out);
  });
  CHECK(thick.out_of_range == 2);
  CHECK(words_of(thick).back().find("2 of 5") != std::string::npos);
  // Under pressure: where it bends by more than half its thickness.
  given.N.setZero();
  given.stack = shelf.sheet(1.0);
  const auto bent = [&](double pressure) {
    PanelCase out = given;
    out.pressure = pressure;
    return range_of(out, check_panel(out));
  };
  const double half = 0.5 / bent(1e-4).deflection * 1e-4;
  CHECK(!bent(0.99 * half).bends_far());
  CHECK(bent(1.01 * half).bends_far());
  CHECK(near(bent(half).side, 100.0));
  BarCase bar;
  bar.walls = walls_of(Shape::box, std::vector<double>{40, 40}, shelf.sheet(2), shelf.sheet(2));
  bar.force = -1;
  const BarWith with = [&](std::span<const double> values) {
    BarCase out = bar;
    out.length = values[0];
    return std::optional(out);
  };
  const double far = 20.0 * std::sqrt(2.0);
  CHECK(sweep({varied(5.9 * far, 6.1 * far, 2)}, with).out_of_range == 1);
  bar.walls = walls_of(Shape::box, std::vector<double>{40, 40}, shelf.sheet(8.1), shelf.sheet(2));
  CHECK(sweep({varied(10 * far, 12 * far, 2)}, with).out_of_range == 2);
}

TEST_CASE("two that vary: values of the first one after the other; nothing that happens; what is refused") {
  const Shelf shelf;
  PanelCase given;
  given.stack = shelf.sandwich(10);
  given.N = {-20, 0, 0};
  given.terms = Terms{8, 8};
  const PanelWith with = [&](std::span<const double> values) {
    PanelCase out = given;
    out.a = values[0], out.b = values[1];
    return std::optional(out);
  };
  const Sweep found = sweep({varied(300, 500, 3), varied(200, 800, 4)}, with);
  REQUIRE(found.points.size() == 12);
  for (const auto& [column, row] : {std::pair<std::size_t, std::size_t>{2, 1}, {0, 3}}) {
    const std::vector<double> values{found.varied[0].values[column], found.varied[1].values[row]};
    CHECK(near(found.least(row * 3 + column)->factor, check_panel(*with(values)).margins.front().factor, 1e-12));
  }
  CHECK(found.ones.empty());
  given.N.setZero();
  const Sweep nothing = sweep({varied(300, 500, 3)}, [&](std::span<const double> values) {
    PanelCase out = given;
    out.a = out.b = values[0];
    return std::optional(out);
  });
  CHECK(!nothing.largest);
  CHECK(nothing.ones.empty());
  CHECK_THROWS_AS(sweep({}, with), std::invalid_argument);
  CHECK_THROWS_AS(sweep({varied(1, 2, 2), varied(1, 2, 2), varied(1, 2, 2)}, with), std::invalid_argument);
  Varied falls = varied(1, 2, 2);
  std::swap(falls.values[0], falls.values[1]);
  CHECK_THROWS_AS(sweep({falls}, with), std::invalid_argument);
}

}  // namespace of_sizing_sweep
