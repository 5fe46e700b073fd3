// What changes the least margin most: each change is the panel or the bar with that other laminate, and its outcome what comes of that.
#include "support.hpp"

#include <bordado/sensitivity.hpp>

namespace of_sizing_sensitivity {

using namespace bordado;
using namespace bordado::sizing;
using Kind = StackChange::Kind;
using test::near;

namespace {

/// Materials and stacks that point to them.
struct Shelf {
  material::Material carbon, foam;
  Shelf() {
    carbon.name = "carbon";
    carbon.kind = material::Kind::unidirectional;
    carbon.elastic = test::carbon();
    carbon.density = 1.6e-9;
    carbon.strength.Xt = 1700, carbon.strength.Xc = 1000, carbon.strength.Yt = 45, carbon.strength.Yc = 160,
    carbon.strength.S12 = 75;
    foam.name = "foam";
    foam.kind = material::Kind::foam;
    foam.elastic = material::isotropic(70.0, 0.3);
    foam.density = 8e-11;
  }
  laminate::Stack stack(std::initializer_list<double> angles, double core = 0.0) const {
    laminate::Stack out;
    const auto add = [&](const material::Material& m, double thickness, double degrees) {
      out.layers.push_back(laminate::layer_of(m, thickness, Angle::degrees(degrees)));
      out.materials.push_back(&m);
    };
    std::size_t i = 0;
    for (const double angle : angles) {
      if (core > 0.0 && 2 * i++ == angles.size()) add(foam, core, 0.0);
      add(carbon, 0.2, angle);
    }
    return out;
  }
};

const Sensitivity& of(const std::vector<Sensitivity>& all, Kind kind, std::size_t layer) {
  for (const Sensitivity& one : all)
    if (one.change.kind == kind && one.change.layers.front() == layer) return one;
  FAIL("no such change");
  return all.front();
}

std::optional<laminate::Stack> with_value(const laminate::Stack& stack, StackChange change, double value) {
  const Chosen one{std::move(change), value};
  return with_values(stack, {&one, 1});
}

}  // namespace

TEST_CASE("what can be chosen: pairs of a symmetric laminate, each ply of another, a core's thickness once") {
  const Shelf shelf;
  const auto pairs = changes_of(shelf.stack({0, 45, -45, 90, 90, -45, 45, 0}));
  CHECK(pairs.size() == 8);
  CHECK(pairs[2].layers == std::vector<std::size_t>{1, 6});
  CHECK(changes_of(shelf.stack({0, 45, 90})).size() == 6);
  CHECK(changes_of(shelf.stack({0, 90, 0})).size() == 4);  // the middle one is its own image
  const auto core = changes_of(shelf.stack({0, 45, 45, 0}, 10.0));
  CHECK(core.size() == 5);
  CHECK(core.back().kind == Kind::core);
  CHECK(!with_value(shelf.stack({0}), {Kind::count, {0}}, 0.0));
  CHECK(with_value(shelf.stack({0, 90, 0}), {Kind::count, {0, 2}}, 3.0).value().layers.size() == 7);
  CHECK_THROWS_AS(with_value(shelf.stack({0}), {Kind::count, {0}}, 1.5), std::invalid_argument);
  CHECK_THROWS_AS(with_value(shelf.stack({0}), {Kind::count, {0}}, 201.0), std::invalid_argument);
  CHECK_THROWS_AS(with_value(shelf.stack({0, 0}, 5.0), {Kind::core, {1}}, 0.0), std::invalid_argument);
  const auto turned = with_value(shelf.stack({30, 30}), {Kind::angle, {0, 1}}, 25.0);
  CHECK(near(turned.value().layers[1].angle.degrees(), 25.0, 1e-12));
}

TEST_CASE("several choices at once mean the layers as they were") {
  const Shelf shelf;
  const std::vector<Chosen> both{{{Kind::count, {0, 4}}, 2.0}, {{Kind::angle, {1, 3}}, 30.0}, {{Kind::core, {2}}, 7.0}};
  const laminate::Stack found = with_values(shelf.stack({0, 45, 45, 0}, 10.0), both).value(),
                        wanted = shelf.stack({0, 0, 30, 30, 0, 0}, 7.0);
  REQUIRE(found.layers.size() == wanted.layers.size());
  for (std::size_t i = 0; i < wanted.layers.size(); ++i) {
    CHECK(near(found.layers[i].thickness, wanted.layers[i].thickness, 1e-14));
    CHECK(near(found.layers[i].angle.degrees(), wanted.layers[i].angle.degrees(), 1e-12, 90.0));
    CHECK(found.materials[i] == wanted.materials[i]);
  }
}

TEST_CASE(
    "a sandwich panel: each outcome is that of the other laminate, by hand; most first; loads of nothing change "
    "nothing") {
  const Shelf shelf;
  PanelCase given;
  given.stack = shelf.stack({0, 45, 45, 0}, 10.0);
  given.a = 1200, given.b = 900;
  given.N = {-15, -4, 3};
  const PanelAnswer now = check_panel(given);
  REQUIRE(now.margins.front().what == buckling_words);
  const auto all = sensitivities(given, now.terms);
  REQUIRE(all.size() == 5);
  const auto by_hand = [&](laminate::Stack stack) {
    PanelCase other = given;
    other.stack = std::move(stack);
    other.terms = now.terms;
    return check_panel(other).margins.front();
  };
  const auto same = [&](const std::optional<Outcome>& found, laminate::Stack stack) {
    REQUIRE(found);
    CHECK(near(found->mass, laminate::areal_mass(stack.layers), 1e-12));
    const Margin wanted = by_hand(std::move(stack));
    CHECK(near(found->margins.front().factor, wanted.factor, 1e-9));
    CHECK(found->margins.front().what == wanted.what);
  };
  same(of(all, Kind::angle, 0).more, shelf.stack({5, 45, 45, 5}, 10.0));
  same(of(all, Kind::angle, 1).less, shelf.stack({0, 40, 40, 0}, 10.0));
  same(of(all, Kind::count, 0).more, shelf.stack({0, 0, 45, 45, 0, 0}, 10.0));
  same(of(all, Kind::count, 1).less, shelf.stack({0, 0}, 10.0));
  same(of(all, Kind::core, 2).more, shelf.stack({0, 45, 45, 0}, 11.0));
  same(of(all, Kind::core, 2).less, shelf.stack({0, 45, 45, 0}, 9.0));
  double before = 1e300;
  for (const Sensitivity& one : all) {
    double most = 0.0;
    for (const auto& outcome : {one.less, one.more})
      most = std::max(most, std::abs(outcome.value().margins.front().factor / now.margins.front().factor - 1.0));
    CHECK(most <= before);
    before = most;
  }
  // A thicker core buckles later: a sandwich bends by the square of its thickness, less what shear takes.
  CHECK(of(all, Kind::core, 2).more->margins.front().factor > 1.05 * now.margins.front().factor);
  given.N.setZero();
  CHECK(sensitivities(given, {}).empty());
}

TEST_CASE("a square that is pushed alike both ways: turning its plies one way or the other is the same") {
  const Shelf shelf;
  PanelCase given;
  given.stack = shelf.stack({0, 90, 90, 0});
  given.a = given.b = 200;
  given.N = {-1, -1, 0};
  const auto all = sensitivities(given, {12, 12});
  for (const std::size_t layer : {0u, 1u})
    CHECK(near(of(all, Kind::angle, layer).less.value().margins.front().factor,
               of(all, Kind::angle, layer).more.value().margins.front().factor, 1e-6));
}

TEST_CASE("a bar: walls of one laminate change together, each laminate by itself") {
  const Shelf shelf;
  const laminate::Stack web = shelf.stack({45, -45, -45, 45}), flange = shelf.stack({0, 0, 0, 0});
  BarCase given;
  given.walls = walls_of(Shape::I, std::vector<double>{40, 30}, web, flange);
  given.length = 900;
  given.force = -500;
  given.frequencies = 0;
  const std::vector<std::size_t> laminate_of{0, 1, 1, 1, 1};
  const auto all = sensitivities(given, laminate_of);
  CHECK(all.size() == 8);
  for (const Sensitivity& one : all) {
    if (one.change.kind != Kind::count || one.change.layers.front() != 0 || one.laminate != 1) continue;
    BarCase other = given;
    other.walls = walls_of(Shape::I, std::vector<double>{40, 30}, web, shelf.stack({0, 0, 0, 0, 0, 0}));
    const BarAnswer wanted = check_bar(other);
    CHECK(near(one.more.value().margins.front().factor, wanted.margins.front().factor, 1e-9));
    CHECK(near(one.more.value().mass, wanted.section.mass, 1e-12));
  }
}

}  // namespace of_sizing_sensitivity
