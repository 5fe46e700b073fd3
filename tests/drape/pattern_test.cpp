// Flat patterns against exact developments; nesting; the search for seeds.
#include "parts.hpp"

#include <bordado/pattern.hpp>
#include <bordado/seeds.hpp>

namespace of_drape_pattern {

using namespace bordado;
using test::cap;
using test::Laid;
using test::lay;
using test::pi;

namespace {

std::vector<drape::Pattern> patterns(const Laid& laid) {
  return drape::patterns(laid.mesh, laid.surface, laid.drape, laid.all());
}

double area(const std::vector<drape::Flat>& line) {
  double sum = 0.0;
  for (std::size_t k = 0; k < line.size(); ++k) {
    const auto &a = line[k], &b = line[(k + 1) % line.size()];
    sum += 0.5 * (a.x() * b.y() - a.y() * b.x());
  }
  return sum;
}

const test::Grid cylinder{.nx = 48, .ny = 32, .map = [](double u, double v) {
                            return Vec3(std::sin((u - 0.5) * pi), 1.5 * v, std::cos((u - 0.5) * pi));
                          }};

}  // namespace

TEST_CASE("a half cylinder's pattern is its rectangle") {
  const Laid laid = lay(cylinder, {0, 0.75, 1}, {1, 0, 0}, 0.02);
  const auto all = patterns(laid);
  REQUIRE(all.size() == 1);
  CHECK(test::near(all[0].area, 1.5 * pi, 1e-5));
  CHECK(test::near(all[0].high.x() - all[0].low.x(), pi, 1e-5));
  CHECK(test::near(all[0].high.y() - all[0].low.y(), 1.5, 5e-5));
  for (const auto& point : all[0].outlines[0])  // every point on a side of it
    CHECK(std::min(std::abs(std::abs(point.x()) - 0.5 * pi), std::abs(std::abs(point.y()) - 0.75)) < 2e-4);
  CHECK(all[0].has_seed);
  REQUIRE(all[0].notches.size() == 4);
  CHECK(test::near(all[0].notches[0][0].x(), 0.5 * pi, 1e-4));
  CHECK(std::abs(all[0].notches[0][0].y()) < 1e-6);
}

TEST_CASE("a cone's pattern is its sector, a box unfolds") {
  const test::Grid cone{.nx = 60, .ny = 40, .map = [](double u, double v) {
                          const double t = (u - 0.5) * pi, r = 0.4 + 0.6 * v;
                          return Vec3(r * std::sin(t), 1.5 * v, r * std::cos(t));
                        }};
  const Laid laid = lay(cone, {0, 0.75, 0.7}, {1, 0.5, 0}, 0.015);
  const auto all = patterns(laid);
  REQUIRE(all.size() == 1);
  const double slant = std::hypot(0.6, 1.5), apex = slant * 0.4 / 0.6;  // from the tip to the smaller end
  CHECK(test::near(all[0].area, pi * 0.7 * slant, 2e-4));
  // All points lie on two circles round one point, or on the two straight sides through it: the tip. The larger circle's
  // radius is known; the tip is where the straight lines from the seed along the cone's line meets it.
  const auto seed_line =
      drape::in_cloth(laid.surface, laid.drape, laid.drape.net.lattice.placed(0, 0)->spot.element, {0, 0.9, 0.76});
  REQUIRE(seed_line);
  const drape::Flat down = seed_line->normalized(), tip = -down * (apex + slant * 0.5);
  std::size_t on_circles = 0;
  for (const auto& point : all[0].outlines[0]) {
    const double r = (point - tip).norm();
    CHECK(r > apex - 1e-3);
    CHECK(r < apex + slant + 1e-3);
    on_circles += std::abs(r - apex) < 1e-3 || std::abs(r - apex - slant) < 1e-3;
  }
  CHECK(on_circles >= 2 * 60);

  const test::Grid fold{.nx = 30, .ny = 20, .map = [](double u, double v) {
                          const double x = 3 * u;
                          return x < 1 ? Vec3(0, v, 1 - x) : x < 2 ? Vec3(x - 1, v, 0) : Vec3(1, v, x - 2);
                        }};
  const auto box = patterns(lay(fold, {0.5, 0.5, 0}, {1, 0, 0}, 0.03));
  REQUIRE(box.size() == 1);
  CHECK(test::near(box[0].area, 3.0, 1e-6));
  CHECK(test::near(box[0].high.x() - box[0].low.x(), 3.0, 1e-6));
}

TEST_CASE("from the part to the cloth and back is the same place") {
  for (const Laid& laid :
       {lay(cap(30, 0.8), {0.1, 0, 1}, {1, 0.3, 0}, 0.03), lay(cylinder, {0, 0.75, 1}, {1, 0.4, 0}, 0.03)}) {
    std::size_t seen = 0;
    for (mesh::ElementIndex e = 0; e < laid.mesh.element_count(); ++e) {
      const Vec3 on = laid.surface.point({e, 0.3, -0.2});
      const auto flat = drape::in_cloth(laid.surface, laid.drape, e, on);
      REQUIRE(flat);
      const auto back = drape::on_part(laid.surface, laid.drape, *flat);
      if (!back) continue;
      CHECK((*back - on).norm() < 1e-6);
      ++seen;
    }
    CHECK(seen > laid.mesh.element_count() * 9 / 10);
  }
}

TEST_CASE("the pattern's area is the part's, each bit over the sine of the angle between its yarns") {
  const Laid laid = lay(cap(60, 0.8), {0, 0, 1}, {1, 0, 0}, 0.02);
  const auto all = patterns(laid);
  REQUIRE(all.size() == 1);
  CHECK(test::near(all[0].area, laid.verdict().cloth_area, 1e-3));
  CHECK(all[0].area > 1.015 * laid.verdict().area);
}

TEST_CASE("cloth whose yarns do not rest at a right angle") {
  for (const double rest : {60.0, 120.0}) {
    drape::Options options;
    options.net.rest = Angle::degrees(rest);
    options.net.seed = Vec3(0.3, 0.2, 0);
    options.net.direction = Vec3(1, 0.3, 0);
    const Laid flat = lay(test::surface(test::Grid::rectangle(20, 12, 1.0, 0.6)), options);
    CHECK(flat.largest_shear() < 1e-6);
    CHECK(test::near(patterns(flat).at(0).area, 0.6, 1e-9));
    options.net.seed = Vec3(0, 0, 1);
    options.net.direction = Vec3(1, 0, 0);
    const Laid round = lay(test::surface(cap(60, 0.7)), options);
    // Flat area times thickness at rest is area times thickness where it lies, whatever the angle at rest.
    CHECK(test::near(patterns(round).at(0).area, round.verdict().cloth_area, 3e-4));
    for (mesh::ElementIndex e = 0; e < round.mesh.element_count(); ++e) {
      const auto& on = round.drape.elements;
      const double between = std::acos(on.warp[e].dot(on.weft[e])) * 180 / pi;
      CHECK(test::near(on.shear[e], rest - between, 1e-6, 1));
    }
  }
}

TEST_CASE("a tube's cloth ends where it meets itself; a hole is a hole") {
  test::Grid tube{.nx = 40, .ny = 40, .map = [](double u, double v) {
                    return Vec3(std::cos(2 * pi * u), 4 * v, -std::sin(2 * pi * u));
                  }};
  tube.closed_u = true;
  const auto round = patterns(lay(tube, {0, 2, 1}, {1, 0, 0}));
  REQUIRE(round.size() == 1);
  CHECK(round[0].outlines.size() == 1);  // no ring: it is open along the seam
  CHECK(test::near(round[0].area, 8 * pi, 1e-3));
  CHECK(test::near(round[0].high.x() - round[0].low.x(), 2 * pi, 1e-3));

  test::Grid ring{.nx = 48, .ny = 10, .map = [](double u, double v) {
                    const double r = 0.2 + 0.4 * v;
                    return Vec3(r * std::cos(2 * pi * u), r * std::sin(2 * pi * u), 0);
                  }};
  ring.closed_u = true;
  const auto holed = patterns(lay(ring, {0.4, 0, 0}, {0, 1, 0}, 0.02));
  REQUIRE(holed.size() == 1);
  REQUIRE(holed[0].outlines.size() == 2);
  CHECK(area(holed[0].outlines[0]) > 0.0);
  CHECK(area(holed[0].outlines[1]) < 0.0);
  const double polygon = 24 * std::sin(2 * pi / 48);  // area of a 48-gon over the square of its radius
  CHECK(test::near(holed[0].area, polygon * (0.36 - 0.04), 1e-4));
}

TEST_CASE("a level cuts through elements") {
  const Laid laid = lay(test::Grid::rectangle(20, 12, 1.0, 0.6), {0.2, 0.3, 0}, {1, 0.3, 0}, 0.02);
  std::vector<double> level;
  for (const Vec3& p : laid.mesh.points) level.push_back(p.x() + 0.5 * p.y() - 0.613);
  const auto all = drape::patterns(laid.mesh, laid.surface, laid.drape, laid.all(), level);
  REQUIRE(all.size() == 1);
  CHECK(test::near(all[0].area, 0.6 * (0.613 - 0.15), 1e-6));
}

TEST_CASE("pieces on a roll lie within it, off each other, and broad ones are spliced") {
  std::vector<drape::Pattern> pieces;
  for (const double size : {0.5, 0.3, 0.4, 0.45})
    for (auto& pattern :
         patterns(lay({.nx = 8,
         .ny = 8,
         .map = [size](double u, double v) { return Vec3(2 * size * u, size * v * (0.5 + 0.5 * u), 0); }},
                      {size, 0.2 * size, 0}, {1, 0, 0})))
      pieces.push_back(std::move(pattern));
  const auto nest = drape::nest(pieces, 0.7, 0.004);
  REQUIRE(nest.placed.size() == 4);
  CHECK(nest.waste() > 0.0);
  CHECK(nest.waste() < 0.5);
  double sum = 0.0;
  const auto inside = [](const std::vector<drape::Flat>& line, const drape::Flat& at) {
    bool in = false;
    for (std::size_t k = 0; k < line.size(); ++k) {
      const auto &a = line[k], &b = line[(k + 1) % line.size()];
      if ((a.y() > at.y()) != (b.y() > at.y()) && at.x() < a.x() + (b.x() - a.x()) * (at.y() - a.y()) / (b.y() - a.y()))
        in = !in;
    }
    return in;
  };
  std::vector<std::vector<drape::Flat>> laid;
  for (const auto& placed : nest.placed) {
    laid.emplace_back();
    for (const auto& point : pieces[placed.pattern].outlines[0]) {
      laid.back().push_back(placed.at(point));
      CHECK(laid.back().back().x() >= -1e-9);
      CHECK(laid.back().back().x() <= nest.length + 1e-9);
      CHECK(laid.back().back().y() >= -1e-9);
      CHECK(laid.back().back().y() <= 0.7 + 1e-9);
    }
    sum += pieces[placed.pattern].area;
  }
  for (std::size_t a = 0; a < laid.size(); ++a)
    for (std::size_t b = 0; b < laid.size(); ++b)
      for (const auto& point : laid[a])
        if (a != b) CHECK_FALSE(inside(laid[b], point));
  CHECK(test::near(nest.area, sum));

  const auto lanes = drape::lanes(pieces[0], 0.2);
  REQUIRE(lanes.size() == 3);
  double spliced = 0.0;
  for (const auto& lane : lanes) {
    spliced += lane.area;
    CHECK(lane.high.y() - lane.low.y() <= 0.2);
  }
  CHECK(test::near(spliced, pieces[0].area));
  CHECK(drape::nest(pieces, 0.2, 0.0).too_wide.size() == 4);
}

TEST_CASE("a search finds the middle of a cap, whatever it begins with, and can be stopped") {
  const auto mesh = test::surface(cap(24, 0.7));
  const auto geometry = mesh::geometry(mesh);
  const auto surface =
      drape::smooth(mesh, geometry, {.crease = Angle::degrees(35), .creases = {}, .cuts = {}, .margin = 0.3});
  drape::SeedOptions options;
  options.drape.net.seed = Vec3(std::sin(0.6), 0, std::cos(0.6));
  options.drape.net.direction = Vec3(0, 1, 0);
  options.seeds = 40, options.directions = 2, options.limit = 20.0, options.alike = true;
  const auto found = search_seeds(surface, geometry, options);
  CHECK(found.asked == 80);
  REQUIRE(found.trials.size() == 80);
  const auto& given = *std::find_if(found.trials.begin(), found.trials.end(), [&](const auto& t) {
    return (t.seed - options.drape.net.seed).norm() < 1e-3 && t.turn.degrees() == 0.0;
  });
  CHECK(found.trials.front().largest < 0.7 * given.largest);
  CHECK(found.trials.front().seed.head<2>().norm() < 0.3);
  for (std::size_t k = 1; k < found.trials.size(); ++k)
    if (found.trials[k].missing <= 0.01) CHECK(found.trials[k - 1].past <= found.trials[k].past + 1e-3);
  int asked = 0;
  options.stop = [&] { return ++asked > 10; };
  work_with(1);
  const auto stopped = search_seeds(surface, geometry, options);
  work_with(2);
  CHECK(stopped.trials.size() == 10);
  options.stop = {};
  options.seeds = 0;
  CHECK_THROWS_AS(search_seeds(surface, geometry, options), Failure);
}

}  // namespace of_drape_pattern
