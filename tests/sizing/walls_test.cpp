// Sections of thin walls, against the formulas of the books for metal, invariants, and laminates worked out by hand.
#include "sections.hpp"

#include <bordado/walls.hpp>

#include <Eigen/LU>

#include <cmath>
#include <numbers>
#include <random>

namespace of_sizing_walls {

using namespace bordado;
using namespace bordado::sizing;
using test::metal;
using test::near;
using test::plies;

namespace {

constexpr double pi = std::numbers::pi, E = test::metal_E, G = test::metal_G;

SectionStiffness section(Shape shape, std::vector<double> lengths, const laminate::Stack& web,
                         const laminate::Stack& flange) {
  return section_stiffness(walls_of(shape, lengths, web, flange));
}
SectionStiffness section(Shape shape, std::vector<double> lengths, double t) {
  return section(shape, lengths, metal(t), metal(t));
}

}  // namespace

TEST_CASE("open sections of metal: centroid, bending, twisting, shear centre and warping of the tables") {
  // S. P. Timoshenko and J. M. Gere, Theory of Elastic Stability, second edition, table A-3; W. C. Young, Roark's Formulas. To
  // the share that walls' own thickness has, left out there.
  const double t = 0.2, b = 40, h = 80;
  const SectionStiffness C = section(Shape::C, {h, b}, t);
  CHECK(near(C.EA, E * t * (h + 2 * b)));
  CHECK(near(C.centroid[0], b * b / (h + 2 * b), 1e-9));
  CHECK(near(C.centroid[1], h / 2));
  CHECK(near(C.EI(1, 1), E * t * (h * h * h / 12 + 2 * b * h * h / 4), 1e-5));
  CHECK(near(C.EI(0, 0), E * t * b * b * b * (2 * h + b) / (h + 2 * b) / 3, 1e-5));
  CHECK(near(C.shear_centre[0], -3 * b * b / (h + 6 * b), 1e-4));
  CHECK(near(C.shear_centre[1], h / 2));
  // Less what two free edges give: 0.315 t each.
  CHECK(near(C.GJ, G * t * t * t / 3 * (h + 2 * b - 2 * 0.3152 * t), 1e-5));
  CHECK(near(C.EGamma, E * t * b * b * b * h * h / 12 * (3 * b + 2 * h) / (6 * b + h), 1e-4));
  CHECK(!C.closed);
  const SectionStiffness Z = section(Shape::Z, {h, b}, t);
  CHECK(near(Z.EGamma, E * t * b * b * b * h * h / 12 * (b + 2 * h) / (2 * b + h), 1e-4));
  CHECK((Z.shear_centre - Vector2(0, h / 2)).norm() < 1e-9 * h);
  CHECK(std::abs(Z.turned) > 0.1);
  const SectionStiffness I = section(Shape::I, {h, b}, t);
  CHECK(near(I.EGamma, E * t * b * b * b / 12 * h * h / 2, 1e-4));
  CHECK((I.shear_centre - I.centroid).norm() < 1e-9 * h);
  CHECK(near(I.turned, pi / 2));
  // Walls that meet in one point: through their thickness alone.
  const SectionStiffness angle = section(Shape::angle, {60, 40}, t);
  CHECK(near(angle.EGamma, E * t * t * t * (std::pow(60, 3) + std::pow(40, 3)) / 36, 1e-4));
  CHECK(angle.shear_centre.norm() < t * t / 30);  // what the walls' own thickness does
  const SectionStiffness T = section(Shape::T, {60, 40}, t);
  CHECK(near(T.EGamma, E * t * t * t * (std::pow(40, 3) / 144 + std::pow(60, 3) / 36), 1e-4));
  CHECK((T.shear_centre - Vector2(0, 60)).norm() < t * t / 30);
}

TEST_CASE("a flat bar of metal, ever thicker: k1 b t³ G of the table") {
  // S. P. Timoshenko and J. N. Goodier, Theory of Elasticity, section 109.
  for (const auto& [ratio, k1] : {std::pair{2.0, 0.229}, {3.0, 0.263}, {4.0, 0.281}, {5.0, 0.291}, {10.0, 0.312}}) {
    const double t = 3;
    const std::vector<Wall> one{{{0, 0}, {ratio * t, 0}, metal(t).layers, "bar", {}}};
    const SectionStiffness found = section_stiffness(one);
    CHECK(near(found.GJ, k1 * ratio * t * t * t * t * G, 4e-3));
    // Of a compression that twists: (b² + t²) / 12 about its middle, the thickness counted, too.
    CHECK(near(found.polar, t * t * (ratio * ratio + 1) / 12, 1e-6));
  }
}

TEST_CASE("closed sections of metal: Bredt's twisting, and shear of a thin ring") {
  const double t = 0.5, b = 40, h = 80;
  const SectionStiffness box = section(Shape::box, {h, b}, t);
  CHECK(box.closed);
  CHECK(near(box.GJ, 4 * b * b * h * h / (2 * (b + h) / (G * t)) + 2 * (b + h) * G * t * t * t / 3, 1e-9));
  CHECK((box.shear_centre - Vector2(b / 2, h / 2)).norm() < 1e-9 * h);
  const SectionStiffness square = section(Shape::box, {h, h}, t);
  CHECK(square.EGamma < 1e-3 * section(Shape::C, {h, h}, t).EGamma);  // it does not warp but through its thickness
  const SectionStiffness tube = section(Shape::tube, {30}, t);
  CHECK(near(tube.GJ, 2 * pi * std::pow(30, 3) * t * G, 1e-3));
  CHECK(near(tube.weak, pi * std::pow(30, 3) * t * E, 1e-3));
  CHECK(near(tube.EA, 2 * pi * 30 * t * E, 1e-9));
  CHECK(near(1 / tube.shear_compliance(0, 0), pi * 30 * t * G, 1e-3));  // half its area: k = 1/2
  // Two cells with a wall between that carries nothing under twist: as one.
  std::vector<Wall> two = walls_of(Shape::box, std::vector<double>{h, b}, metal(t), metal(t));
  two.pop_back();
  two.push_back({Vector2(b, 0), Vector2(0.5 * b, 0), metal(t).layers, "", {}});
  two.push_back({Vector2(0.5 * b, 0), Vector2(0, 0), metal(t).layers, "", {}});
  two[1] = {Vector2(0, h), Vector2(0.5 * b, h), metal(t).layers, "", {}};
  two.push_back({Vector2(0.5 * b, h), Vector2(b, h), metal(t).layers, "", {}});
  two.push_back({Vector2(0.5 * b, 0), Vector2(0.5 * b, h), metal(t).layers, "", {}});
  CHECK(near(section_stiffness(two).GJ, box.GJ + h * G * t * t * t / 3, 1e-9));
}

TEST_CASE(
    "flow of shear: its force is the one that acts, its moment about the shear centre is nought, 5/6 of a single "
    "wall") {
  const SectionStiffness wall = section_stiffness(std::vector<Wall>{{{0, 0}, {0, 60}, metal(0.5).layers, "", {}}});
  CHECK(near(1 / wall.shear_compliance(1, 1), 5.0 / 6.0 * G * 0.5 * 60, 1e-9));
  for (const Shape shape : {Shape::C, Shape::Z, Shape::I, Shape::hat, Shape::angle, Shape::T, Shape::box}) {
    std::vector<double> lengths{70, 50, 20};
    lengths.resize(length_count(shape));
    const std::vector<Wall> walls = walls_of(shape, lengths, metal(0.3), metal(0.2));
    const SectionStiffness s = section_stiffness(walls);
    INFO(name_of(shape));
    for (std::size_t c = 0; c < 2; ++c) {
      Vector2 force = Vector2::Zero();
      double moment = 0.0;
      for (std::size_t w = 0; w < walls.size(); ++w) {
        const auto& [first, middle, last] = s.flow[w][c];
        const Vector2 carried = walls[w].along() * (walls[w].length() * (first + 4 * middle + last) / 6);
        force += carried;
        const Vector2 arm = walls[w].from - s.shear_centre;
        moment += arm[0] * carried[1] - arm[1] * carried[0];
      }
      CHECK(near(force[static_cast<Eigen::Index>(c)], 1.0, 1e-3));  // all but what walls carry through their thickness
      CHECK(std::abs(force[static_cast<Eigen::Index>(1 - c)]) < 1e-3);
      CHECK(std::abs(moment) < 1e-2);
    }
  }
}

TEST_CASE("walls of laminates: what each brings, by its own moduli") {
  const laminate::Stack web = plies({45, -45, -45, 45}), flange = plies({0, 0, 90, 0, 0});
  const double h = 80, b = 40;
  const auto modulus = [](const laminate::Stack& stack) {
    return 1 /
           laminate::compliance(laminate::stiffness(stack.layers, -0.5 * laminate::thickness(stack.layers))).a(0, 0);
  };
  const SectionStiffness I = section(Shape::I, {h, b}, web, flange);
  CHECK(near(I.EA, modulus(web) * h + 2 * b * modulus(flange)));
  CHECK(near(I.EI(1, 1), modulus(web) * h * h * h / 12 + 2 * b * modulus(flange) * h * h / 4, 1e-3));
  CHECK(near(I.EGamma, modulus(flange) * b * b * b / 12 * h * h / 2, 1e-3));
  double GJ = 0;
  for (const auto& [stack, width] : {std::pair{&web, h}, {&flange, 2 * b}})
    GJ += 4 * width /
          laminate::compliance(laminate::stiffness(stack->layers, -0.5 * laminate::thickness(stack->layers))).d(2, 2);
  // Less what four free edges give, by the transverse shear there.
  const laminate::Stiffness laid = laminate::stiffness(flange.layers, -0.5);
  const double twist = 1 / laminate::compliance(laid).d(2, 2);
  CHECK(near(I.GJ, GJ - 4 * 4 * twist * std::sqrt(twist / laid.H(0, 0)), 1e-6));
  CHECK(near(I.mass, 1.6e-9 * (0.8 * h + 2 * 1.0 * b), 1e-12));
  CHECK(I.unbalanced < 1e-12);
  CHECK(section(Shape::I, {h, b}, plies({30, 30}), flange).unbalanced > 0.1);
}

TEST_CASE("a section that is turned, moved, larger, or listed in another order is the same section") {
  std::mt19937 random(29);
  const auto number = [&](double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random);
  };
  for (int i = 0; i < 10; ++i) {
    // Unsymmetric walls, a branch, and in every other one a cell.
    std::vector<Wall> walls;
    Vector2 at(0, 0);
    for (int k = 0; k < 4; ++k) {
      const Vector2 next = at + Vector2(number(10, 40), number(-40, 40));
      walls.push_back({at, next, plies({number(-90, 90), number(-90, 90), 0, number(-90, 90)}).layers, "", {}});
      at = next;
    }
    walls.push_back({walls[1].to, walls[1].to + Vector2(5, 30), plies({0, 90}).layers, "", {}});
    if (i % 2 == 0) walls.push_back({walls[3].to, walls[0].from, plies({45, -45}).layers, "", {}});
    const SectionStiffness s = section_stiffness(walls);
    const double angle = number(-3, 3);
    Matrix2 turn;
    turn << std::cos(angle), -std::sin(angle), std::sin(angle), std::cos(angle);
    const Vector2 moved(number(-100, 100), number(-100, 100));
    std::vector<Wall> other = walls;
    for (Wall& wall : other) wall.from = turn * wall.from + moved, wall.to = turn * wall.to + moved;
    std::shuffle(other.begin(), other.end(), random);
    const SectionStiffness o = section_stiffness(other);
    CAPTURE(i);
    CHECK(near(o.EA, s.EA, 1e-9));
    CHECK((o.centroid - (turn * s.centroid + moved)).norm() < 1e-7);
    CHECK((o.shear_centre - (turn * s.shear_centre + moved)).norm() < 1e-6);
    CHECK(near(o.strong, s.strong, 1e-9));
    CHECK(near(o.weak, s.weak, 1e-8));
    CHECK(std::abs(std::sin(o.turned - s.turned - angle)) < 1e-6);
    CHECK(near(o.GJ, s.GJ, 1e-8));
    CHECK(near(o.EGamma, s.EGamma, 1e-7));
    CHECK(near(o.polar, s.polar, 1e-8));
    CHECK(near(o.shear_compliance(2, 2), s.shear_compliance(2, 2), 1e-6));
    const Matrix2 shear = turn * s.shear_compliance.topLeftCorner<2, 2>() * turn.transpose();
    CHECK((o.shear_compliance.topLeftCorner<2, 2>() - shear).norm() < 1e-8 * shear.norm());
    // Each wall the other way round, its laminate turned over with it.
    std::vector<Wall> over = walls;
    for (Wall& wall : over) {
      std::swap(wall.from, wall.to);
      std::reverse(wall.layers.begin(), wall.layers.end());
      for (laminate::Layer& layer : wall.layers) layer.angle = Angle::degrees(-layer.angle.degrees());
    }
    const SectionStiffness r = section_stiffness(over);
    CHECK(near(r.weak, s.weak, 1e-8));
    CHECK(near(r.GJ, s.GJ, 1e-8));
    CHECK(near(r.EGamma, s.EGamma, 1e-7));
    std::vector<Wall> larger = walls;
    for (Wall& wall : larger) {
      wall.from *= 2, wall.to *= 2;
      for (laminate::Layer& layer : wall.layers) layer.thickness *= 2;
    }
    const SectionStiffness l = section_stiffness(larger);
    CHECK(near(l.EA, 4 * s.EA, 1e-9));
    CHECK(near(l.weak, 16 * s.weak, 1e-8));
    CHECK(near(l.GJ, 16 * s.GJ, 1e-8));
    CHECK(near(l.EGamma, 64 * s.EGamma, 1e-7));
  }
}

TEST_CASE("what is no section is refused, each with what it lacks") {
  const auto says = [](const std::vector<Wall>& walls, const std::string& what) {
    std::string said;
    try {
      section_stiffness(walls);
    } catch (const std::invalid_argument& error) {
      said = error.what();
    }
    INFO(said);
    CHECK(said.find(what) != std::string::npos);
  };
  const std::vector<laminate::Layer> one = metal(1).layers;
  says({}, "walls");
  says({{{0, 0}, {0, 0}, one, "", {}}}, "length");
  says({{{0, 0}, {0, 1e9}, one, "", {}}, {{0, 0}, {3, 0}, one, "", {}}}, "a millionth of its section");
  says({{{0, 0}, {1, std::nan("")}, one, "", {}}}, "numbers");
  says({{{0, 0}, {1, 0}, one, "", {}}, {{5, 5}, {6, 6}, one, "", {}}}, "hang together");
  CHECK_THROWS_AS(walls_of(Shape::C, std::vector<double>{80}, metal(1), metal(1)), std::invalid_argument);
  CHECK_THROWS_AS(walls_of(Shape::C, std::vector<double>{80, -1}, metal(1), metal(1)), std::invalid_argument);
}

}  // namespace of_sizing_walls
