// Edges of plies that are moved against their zones, against exact offset curves.
#include "support.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/review/book.hpp>
#include <bordado/review/fields.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <cmath>
#include <random>

namespace of_layup_edges {

using namespace bordado;
using test::Grid;

namespace {

constexpr double pi = std::numbers::pi;

/// A part of one ply over everything and others as given; `layup` goes before the plies.
std::string text(const std::string& zones, const std::string& plies, const std::string& layup = "",
                 const std::string& frame = "x") {
  return "[part]\nname = \"E\"\nunits = \"mm, t, s\"\nmesh = { file = \"g.msh\", length = \"mm\" }\nside = "
         "\"as-meshed\"\nsurface = \"bottom\"\n" +
         test::materials() + zones + "[layup]\nmaterial = \"ud\"\nframe = \"" + frame + "\"\n" + layup +
         "plies = [\n{ id = \"A\", angle = 0 },\n" + plies + "]\n";
}

Design design(const Grid& grid, const std::string& part_text, Findings& findings) {
  return open(part::read_text(part_text, "e.toml", findings), test::surface(grid), findings);
}
Design design(const Grid& grid, const std::string& part_text) {
  Findings findings;
  return design(grid, part_text, findings);
}

/// Area of the second ply.
double area(const Grid& grid, const std::string& zones, const std::string& plies, const std::string& frame = "x") {
  return review::ply_book(design(grid, text(zones, plies, "", frame))).plies[1].area;
}

/// Whether errors on grids that are halved each time stay below a share of what is exact, and that falls with them.
bool falls(const std::vector<double>& errors, double exact, double share, double order) {
  bool out = true;
  for (std::size_t k = 0; k < errors.size(); ++k)
    out = out && std::abs(errors[k]) < share * exact * std::pow(2.0, -order * static_cast<double>(k));
  return out;
}
/// How fast errors on grids that are halved each time become smaller: the order of the mean from first to last.
double order(const std::vector<double>& errors) {
  return std::log2(std::abs(errors.front() / errors.back())) / static_cast<double>(errors.size() - 1);
}

const std::string box = "[zone.z]\nbox = { from = [21.3, 11.7, -1], to = [71.3, 41.7, 1] }\n";

}  // namespace

TEST_CASE("a rectangle's edge moved in keeps its corners, moved out it rounds them, on grids that fit nothing") {
  for (const double by : {-11.0, -4.0, 0.0, 3.0, 6.0}) {
    const double exact = by <= 0.0 ? (50.0 + 2.0 * by) * (30.0 + 2.0 * by) : 1500.0 + 160.0 * by + pi * by * by;
    std::vector<double> errors;
    for (const int n : {1, 2, 4})
      errors.push_back(area(Grid::rectangle(29 * n, 17 * n, 100, 60), box,
                            fmt::format("{{ id = \"B\", angle = 0, zone = \"z\", edge = {} }},\n", by)) -
                       exact);
    INFO("by ", by, ": ", errors[0], " ", errors[1], " ", errors[2]);
    CHECK(std::abs(errors[2]) < 4e-3 * exact);  // a corner is cut straight within the element that it lies in
    CHECK(falls(errors, exact, 0.035, 1.6));    // the coarsest are divided at corners, and nearer than that
  }
}

TEST_CASE("a disc's edge moved is a disc, on triangles and quadrilaterals") {
  const std::string disc = "[zone.z]\nsphere = { centre = [50, 30, 0], radius = 17 }\n";
  for (const bool triangles : {false, true})
    for (const double by : {-9.0, 0.0, 8.0}) {
      const double exact = pi * (17.0 + by) * (17.0 + by);
      std::vector<double> errors;
      for (const int n : {1, 2, 4}) {
        Grid grid = Grid::rectangle(31 * n, 19 * n, 100, 60);
        grid.triangles = triangles;
        errors.push_back(area(grid, disc, fmt::format("{{ id = \"B\", angle = 0, zone = \"z\", edge = {} }},\n", by)) -
                         exact);
      }
      INFO("by ", by, ": ", errors[0], " ", errors[1], " ", errors[2]);
      CHECK(std::abs(errors[2]) < 3e-3 * exact);
      CHECK(falls(errors, exact, 0.04, 1.7));
    }
}

TEST_CASE("on a tube the edge runs along the surface, at both ends of the zone") {
  std::vector<double> errors;
  for (const int n : {1, 2, 4}) {
    const Grid tube{
        .nx = 40 * n,
        .ny = 23 * n,
        .map = [](double u, double v) { return Vec3(20 * std::cos(2 * pi * u), 20 * std::sin(2 * pi * u), 100 * v); },
        .closed_u = true};
    errors.push_back(
        area(tube, "[frame.z]\nvector = [0, 0, 1]\n[zone.z]\nbox = { from = [-99, -99, 31], to = [99, 99, 77] }\n",
             "{ id = \"B\", angle = 0, zone = \"z\", edge = -7.3 },\n", "z") -
        2 * pi * 20 * (46 - 2 * 7.3));
  }
  CHECK(std::abs(errors[2]) < 1e-3 * 2 * pi * 20 * 46);
  CHECK(order(errors) > 1.7);  // that of the mesh's own area
}

TEST_CASE("on a sphere a cap's edge moved by a way is the cap of the larger angle") {
  const double radius = 50.0;
  for (const double by : {-6.0, 5.0}) {
    // A cap of half angle 0.4 round the pole is what a ball round the pole cuts off.
    const double exact = 2 * pi * radius * radius * (1 - std::cos(0.4 + by / radius));
    std::vector<double> errors;
    for (const int n : {1, 2, 4}) {
      const Grid patch{.nx = 27 * n, .ny = 27 * n, .map = [&](double u, double v) {
                         const Vec3 p(std::tan(0.8 * (2 * u - 1)), std::tan(0.8 * (2 * v - 1)), 1.0);
                         return Vec3(radius * p.normalized());
                       }};
      errors.push_back(area(patch,
                            fmt::format("[zone.z]\nsphere = {{ centre = [0, 0, {0}], radius = {1} }}\n", radius,
                                        2 * radius * std::sin(0.2)),
                            fmt::format("{{ id = \"B\", angle = 0, zone = \"z\", edge = {} }},\n", by)) -
                       exact);
    }
    INFO("by ", by, ": ", errors[0], " ", errors[1], " ", errors[2]);
    CHECK(std::abs(errors[2]) < 2e-3 * exact);
    CHECK(order(errors) > 1.4);
  }
}

TEST_CASE("zones of whole elements are moved from their sides; the part's own border stays where it is") {
  const std::string told = test::failure(
      [] { area(Grid::rectangle(40, 24, 100, 60), "", "{ id = \"B\", angle = 0, zone = \"plate\", edge = -7 },\n"); });
  CHECK(told.find("ply 'B': zone 'plate' has no border within the part that its edge could be moved from") !=
        std::string::npos);
  // Elements by their ids: a corner of the plate, 25 by 30, moved along its two inner sides.
  std::vector<double> errors;
  for (const int n : {1, 2, 4}) {
    const Grid grid = Grid::rectangle(40 * n, 24 * n, 100, 60);
    std::string ids;
    const mesh::Surface plate = test::surface(grid);
    const mesh::Geometry geometry = mesh::geometry(plate);
    for (mesh::ElementIndex e = 0; e < plate.element_count(); ++e)
      if (geometry.centres[e].x() < 25.0 && geometry.centres[e].y() < 30.0)
        ids += fmt::format("{}{}", ids.empty() ? "" : ", ", plate.element_ids[e]);
    errors.push_back(
        area(grid, "[zone.z]\nelements = [" + ids + "]\n", "{ id = \"B\", angle = 0, zone = \"z\", edge = -3 },\n") -
        (25 - 3) * (30 - 3));
  }
  CHECK(std::abs(errors[2]) < 5e-4 * 594);
  CHECK(order(errors) > 1.4);
}

namespace {

/// A rectangle whose inner nodes are moved by up to 30 % of an element, the same way every time.
Grid jittered(int nx, int ny, double length, double width, bool triangles) {
  Grid out = Grid::rectangle(nx, ny, length, width);
  out.triangles = triangles;
  out.map = [=](double u, double v) -> Vec3 {
    const auto at = [](double share, int n) { return static_cast<unsigned>(std::lround(share * n)); };
    std::mt19937 engine(1 + 7919u * at(u, nx) + 104729u * at(v, ny));
    std::uniform_real_distribution<double> by(-0.3, 0.3);
    const double du = by(engine), dv = by(engine);
    const bool inner_u = u > 1e-9 && u<1.0 - 1e-9, inner_v = v> 1e-9 && v < 1.0 - 1e-9;
    return {length * (u + (inner_u ? du / nx : 0.0)), width * (v + (inner_v ? dv / ny : 0.0)), 0.0};
  };
  return out;
}

}  // namespace

TEST_CASE("on a flat part a straight border's edge is straight to round-off, on every mesh") {
  const std::string half = "[zone.z]\nbeyond = { point = [51.3, 0, 0], along = [-1, 0, 0] }\n";
  const std::string askew = "[zone.z]\nbeyond = { point = [50, 0, 0], along = [-1, -0.35, 0] }\n";
  for (const bool triangles : {false, true})
    for (const int n : {1, 2})
      for (const double by : {-23.0, -10.0, -1.3, 0.0, 4.0, 17.0}) {
        const Grid grid = jittered(10 * n, 6 * n, 100, 60, triangles);
        const std::string ply = fmt::format("{{ id = \"B\", angle = 0, zone = \"z\", edge = {} }},\n", by);
        CAPTURE(triangles);
        CAPTURE(by);
        CHECK(test::near(area(grid, half, ply), 60.0 * (51.3 + by), 1e-7));  // shares are kept in single precision
        // Askew: from x = 50 at y = 0 to 50 - 21 at y = 60, moved square to itself.
        const double middle = 50.0 - 0.35 * 30.0 + by * std::hypot(1.0, 0.35);
        CHECK(test::near(area(grid, askew, ply), 60.0 * middle, 1e-7));
      }
}

TEST_CASE("beside a border that turns an edge is as exact as its corners are cut, on bad meshes as on good ones") {
  for (const double by : {-6.0, 0.0, 5.0}) {
    const double exact = by <= 0.0 ? (50.0 + 2.0 * by) * (30.0 + 2.0 * by) : 1500.0 + 160.0 * by + pi * by * by;
    for (const bool triangles : {false, true}) {
      std::vector<double> errors;
      for (const int n : {1, 2, 4})
        errors.push_back(area(jittered(29 * n, 17 * n, 100, 60, triangles), box,
                              fmt::format("{{ id = \"B\", angle = 0, zone = \"z\", edge = {} }},\n", by)) -
                         exact);
      INFO("by ", by, ": ", errors[0], " ", errors[1], " ", errors[2]);
      CHECK(std::abs(errors[2]) < 4e-3 * exact);
      CHECK(falls(errors, exact, 0.02, 1.4));
    }
  }
}

TEST_CASE("mitred corners take no other border back: an L moved inwards") {
  // Arms 45 and 60 wide, 120 by 90, moved in by 11 all round; its re-entrant corner sharp.
  const std::string ell =
      "[zone.long]\nbox = { from = [10, 10, -1], to = [130, 55, 1] }\n[zone.high]\nbox = { from = [10, 10, -1], to = "
      "[70, 100, 1] }\n[zone.z]\nunion = [\"long\", \"high\"]\n";
  const double exact = (120.0 - 22.0) * (45.0 - 22.0) + (60.0 - 22.0) * (90.0 - 45.0);
  CHECK(exact == 3964.0);
  const std::string ply = "{ id = \"B\", angle = 0, zone = \"z\", edge = -11, corners = \"mitred\" },\n";
  CHECK(test::near(area(Grid::rectangle(140, 110, 140, 110), ell, ply), exact, 2e-3));
  CHECK(test::near(area(Grid::rectangle(280, 220, 140, 110), ell, ply), exact, 1e-3));
}

TEST_CASE("strips narrower than elements, and gaps between zones, are as exact as wide ones") {
  const auto strip = [](double width, double side) {
    return fmt::format("[zone.z]\nbox = {{ from = [-1, 23, -1], to = [{}, {}, 1] }}\n", side, 23 + width);
  };
  const auto ply = [](double by) { return fmt::format("{{ id = \"B\", angle = 0, zone = \"z\", edge = {} }},\n", by); };
  for (const bool triangles : {false, true})
    for (const bool askew : {false, true}) {
      Grid grid = askew ? jittered(10, 6, 100, 60, triangles) : Grid::rectangle(10, 6, 100, 60);
      grid.triangles = triangles;
      CAPTURE(triangles);
      CAPTURE(askew);
      for (const double width : {12.0, 7.0, 2.5})
        for (const double by : {0.0, -0.1 * width, 3.0}) {
          CAPTURE(width);
          CAPTURE(by);
          CHECK(test::near(area(grid, strip(width, 101), ply(by)), 100.0 * (width + 2.0 * by), 1e-3));
        }
      // What is left is narrow, of a strip that was not; and a gap that closes all but 1 mm.
      CHECK(test::near(area(grid, strip(12, 101), ply(-5.0)), 200.0, 2e-3));
      CHECK(test::near(area(grid, strip(24, 101), ply(-10.5)), 300.0, 2e-3));
      const std::string two =
          "[zone.a]\nbox = { from = [-1, 3, -1], to = [101, 23, 1] }\n[zone.b]\nbox = { from = [-1, 28, -1], to = "
          "[101, 55, 1] }\n[zone.z]\nunion = [\"a\", \"b\"]\n";
      CHECK(test::near(area(grid, two, ply(2.0)), 5500.0, 1e-3));
      // Within 3 of a line, and of one that turns: its outer corner is round.
      const std::string near =
          "[curve.c]\npoints = [[0, 26, 0], [100, 26, 0]]\n[zone.z]\nnear = { of = \"c\", within = 3 }\n";
      CHECK(test::near(area(grid, near, ply(0.0)), 600.0, 1e-4));
      CHECK(test::near(area(grid, near, ply(-1.0)), 400.0, 1e-3));
      const std::string bent =
          "[curve.c]\npoints = [[0, 26, 0], [48, 26, 0], [48, 60, 0]]\n[zone.z]\nnear = { of = \"c\", within = 3 }\n";
      CHECK(test::near(area(grid, bent, ply(0.0)), 51.0 * 6.0 + 31.0 * 6.0 - (1.0 - pi / 4.0) * 9.0, 5e-3));
      // Chamfers that meet in the middle: 0.25 (1 - 5.9 / 12) in the mean, and half of what 6 of 7 mm leave.
      for (const double length : {2.0, 5.9, 7.0}) {
        const review::PlyEntry entry =
            review::ply_book(design(grid, text(strip(12, 101), fmt::format("{{ id = \"B\", angle = 0, zone = \"z\", "
                                                                           "chamfer = {{ length = {} }} }},\n",
                                                                           length))))
                .plies[1];
        const double mean = 0.25 * (length < 6.0 ? 1.0 - length / 12.0 : 3.0 / length);
        CAPTURE(length);
        CHECK(test::near(*entry.mass, 1200.0 * mean * 1.55e-9, 6e-3));
      }
    }
}

TEST_CASE("a row of elements, and a disc smaller than one, hold what their shapes say") {
  const std::string row = "[zone.z]\nrows = { of = \"front\", count = 1 }\n";
  CHECK(test::near(area(Grid::rectangle(10, 6, 100, 60), row, "{ id = \"B\", angle = 0, zone = \"z\", edge = -2 },\n"),
                   100.0 * (10.0 - 2.0), 1e-6));
  const std::string inner =
      "[zone.first]\nrows = { of = \"front\", count = 1 }\n[zone.z]\nrows = { of = \"first\", "
      "count = 1 }\n";
  CHECK(
      test::near(area(Grid::rectangle(10, 6, 100, 60), inner, "{ id = \"B\", angle = 0, zone = \"z\", edge = -2 },\n"),
                 100.0 * (10.0 - 4.0), 1e-6));
  for (const double radius : {12.0, 6.0, 4.0})
    for (const double by : {0.0, -2.0}) {
      const std::string disc =
          fmt::format("[zone.z]\nsphere = {{ centre = [43.3, 28.7, 0], radius = {} }}\nshare = 0.05\n", radius);
      const double exact = pi * (radius + by) * (radius + by);
      INFO("radius ", radius, " by ", by);
      CHECK(test::near(area(Grid::rectangle(10, 6, 100, 60), disc,
                            fmt::format("{{ id = \"B\", angle = 0, zone = \"z\", edge = {} }},\n", by)),
                       exact, by < 0.0 ? 3e-2 : 1e-2));
    }
}

TEST_CASE("a narrow strip is drawn, cut and ramped as it is") {
  const std::string strip = "[zone.z]\nbox = { from = [-1, 23, -1], to = [101, 30, 1] }\n";
  const std::string ply = "{ id = \"B\", angle = 0, zone = \"z\", edge = 0 },\n";
  const Design d = design(Grid::rectangle(10, 6, 100, 60), text(strip, ply));
  const review::Profile cut = review::profile(d, Vec3(47, 2, 0), Vec3(47, 58, 0));
  REQUIRE(cut.edges.size() == 2);
  CHECK(test::near(cut.edges[0].at, 21.0, 1e-6));
  CHECK(test::near(cut.edges[1].at, 28.0, 1e-6));
  double length = 0.0;
  for (const mesh::Curve& line : layup::edge_lines(d.layup, d.surface, d.layup.plies[part::PlyId{1}].region))
    length += mesh::length(line);
  CHECK(test::near(length, 200.0, 1e-6));
  // The mesh that is cut ends where the strip does: whole elements then.
  mesh::CutReport report;
  Findings findings;
  mesh::Surface parted = layup::cut_at_edges(d, {}, report, findings);
  CHECK(!findings.has_errors());
  double covered = 0.0;
  const Design after = open(part::read_text(text(strip, ply), "e.toml", findings), std::move(parted), findings);
  for (mesh::ElementIndex e = 0; e < after.surface.element_count(); ++e) {
    const double share = after.layup.covered(part::PlyId{1}, e);
    CHECK((share == 0.0 || share == 1.0));
    covered += share * after.geometry.areas[e];
  }
  CHECK(test::near(covered, 700.0, 1e-4));
  // Curved sides are not divided: that is said.
  Grid curved = Grid::rectangle(10, 6, 100, 60);
  curved.quadratic = true;
  const Design of_curved = design(curved, text(strip, ply));
  layup::cut_at_edges(of_curved, {}, report, findings);
  // The third row of elements, and no other.
  const auto& ids = of_curved.surface.element_ids;
  const std::string row = fmt::format("in elements {}, {}, {}", ids[20], ids[21], ids[22]);
  CHECK(std::any_of(findings.all().begin(), findings.all().end(), [&](const Finding& f) {
    return f.code == "zone.narrow" && f.what.find("curved sides") != std::string::npos &&
           f.what.find(row) != std::string::npos;
  }));
}

TEST_CASE("what the smallest elements that borders are traced on do not hold is told, with the width that they do") {
  const auto told = [](const std::string& zone, const std::string& ply) {
    Findings findings;
    std::string out;
    try {
      design(Grid::rectangle(10, 6, 100, 60), text(zone, ply), findings);
    } catch (const Failure& failure) {
      for (const Finding& f : failure.findings()) out += f.code + ": " + f.what + " " + f.remedy + "\n";
    }
    for (const Finding& f : findings.all()) out += f.code + ": " + f.what + " " + f.remedy + "\n";
    return out;
  };
  const auto strip = [](double width) {
    return fmt::format("[zone.z]\nbox = {{ from = [-1, 23, -1], to = [101, {}, 1] }}\n", 23 + width);
  };
  const auto ply = [](double by) { return fmt::format("{{ id = \"B\", angle = 0, zone = \"z\", edge = {} }},\n", by); };
  CHECK(told(strip(12), ply(0.0)).find("zone.narrow") == std::string::npos);
  CHECK(told(strip(3), ply(0.0)).find("no element by 0.5 of its area") != std::string::npos);
  // Elements of 10 are divided six times: two of them are 0.3125 wide.
  const std::string hair = told(strip(0.2), ply(0.0));
  CHECK(hair.find("zone.narrow: zone 'z' is 20 mm^2 by its shape") != std::string::npos);
  CHECK(hair.find("these hold 0.312 mm") != std::string::npos);
  CHECK(told(strip(0.05), ply(0.0)).find("lies between the nodes of this mesh") != std::string::npos);
  CHECK(told(strip(12), ply(-5.999)).find("layup.edge-swallows") != std::string::npos);
  // A scallop that nearly cuts the strip through is not looked for.
  const std::string nearly =
      told(strip(20), "{ id = \"B\", angle = 0, zone = \"z\", edge = 0, scallop = { depth = 9.6, pitch = 40 } },\n");
  INFO(nearly);
  CHECK(nearly.find("layup.edge-narrow: ply 'B'") != std::string::npos);
}

TEST_CASE("ramps into a narrow zone have the room that there is, and leave what they leave") {
  // 24 wide on elements of 10: lines at 0, -5.65 and -11.3, and room for 12.
  const std::string ramp =
      "[zone.z]\nbox = { from = [-1, 23, -1], to = [101, 47, 1] }\n[ramp.r]\nfrom = \"z\"\nslope = "
      "\"1:22.6\"\nside = \"inside\"\n";
  const std::string plies =
      "{ id = \"B\", angle = 0, zone = \"z\" },\n{ id = \"C\", angle = 0, zone = \"z\" },\n{ id = "
      "\"D\", angle = 0, zone = \"z\" },\n";
  const Design d = design(Grid::rectangle(10, 6, 100, 60), text(ramp, plies));
  CHECK(test::near(d.layup.ramps[layup::RampId{0}].room_inside, 12.0));
  std::vector<double> areas;
  for (const review::PlyEntry& entry : review::ply_book(d).plies) areas.push_back(entry.area);
  std::sort(areas.begin(), areas.end());
  REQUIRE(areas.size() == 4);
  CHECK(test::near(areas[0], 140.0, 1e-3));
  CHECK(test::near(areas[1], 1270.0, 1e-3));
  CHECK(test::near(areas[2], 2400.0, 1e-3));
}

TEST_CASE("smeared: mass is that of the ply on every mesh; whole: all or nothing") {
  for (const int n : {7, 20, 53}) {
    const Grid grid = Grid::rectangle(n, n, 100, 60);
    const std::string ply = "{ id = \"B\", angle = 45, zone = \"z\", edge = -4.2 },\n";
    Findings findings;
    const Design smeared = design(grid, text(box, ply), findings);
    CHECK(std::any_of(findings.all().begin(), findings.all().end(), [](const Finding& f) {
      return f.code == "layup.edges" && f.what.find("the covered share") != std::string::npos;
    }));
    const Design whole = design(grid, text(box, ply, "edges = \"whole\"\n"));
    const double per_area = 1.55e-9 * 0.25;
    for (const Design* const d : {&smeared, &whole}) {
      const review::PlyEntry b = review::ply_book(*d).plies[1];
      double laid = 0.0;
      std::size_t crossed = 0;
      layup::LayersOn layers_on(*d);
      for (mesh::ElementIndex e = 0; e < d->surface.element_count(); ++e)
        for (const layup::LaidLayer& layer : layers_on(e)) {
          if (layer.ply != part::PlyId{1}) continue;
          CHECK(test::near(layer.thickness, 0.25 * layer.covered));
          crossed += layer.covered < 1.0;
          laid += layer.thickness * d->geometry.areas[e] * 1.55e-9;
        }
      CHECK((crossed > 0) == (d == &smeared));
      CHECK(test::near(*b.mass, laid));
      CHECK(test::near(b.area * per_area, laid));
      CHECK(test::near(b.thickness, 0.25));
      const double mass = layup::mass(*d).mass;
      CHECK(test::near(mass, 6000 * per_area + laid));
      // Sections keep it, whatever their tolerance.
      double condensed = 0.0;
      for (mesh::ElementIndex e = 0; e < d->surface.element_count(); ++e)
        condensed += d->geometry.areas[e] *
                     laminate::areal_mass(section::laminate_of(d->part, d->sections, d->sections.section_of[e]));
      CHECK(test::near(condensed, mass, 1e-9));
    }
  }
}

TEST_CASE("several plies step by step; one that is swallowed is told, and lists keep their edges") {
  std::string plies;
  for (int k = 0; k < 4; ++k)
    plies += fmt::format("{{ id = \"S{0}\", angle = 0, zone = \"z\", edge = {1} }},\n", k, -2.5 * k);
  const Design d = design(Grid::rectangle(50, 30, 100, 60), text(box, plies));
  const review::PlyBook book = review::ply_book(d);
  for (int k = 0; k < 4; ++k)
    CHECK(test::near(book.plies[static_cast<std::size_t>(k) + 1].area, (50 - 5.0 * k) * (30 - 5.0 * k), 6e-3));
  const std::string told = test::failure([&] {
    design(Grid::rectangle(50, 30, 100, 60),
           text(box, "{ id = \"B\", angle = 0, zone = \"z\", edge = \"-20 mm\" },\n"));
  });
  CHECK(told.find("ply 'B': its edge moved by -20 mm leaves nothing of zone 'z'") != std::string::npos);
  CHECK(told.find("move it by less") != std::string::npos);
  // Through TOML and CSV.
  Findings findings;
  const part::Part part = part::read_text(text(box, plies, "edges = \"whole\"\n"), "e.toml", findings);
  const part::Part again = part::read_text(part::toml_text(part, "e.toml"), "e.toml", findings);
  CHECK(again.list.edges == part::Covered::whole);
  for (const part::PlyId p : part.plies.ids()) CHECK(again.plies[p].edge == part.plies[p].edge);
  CHECK(part::plies_csv(part).find("S1,,0,,z,-2.5,") != std::string::npos);
}

TEST_CASE("fields and the page know what moved edges leave on each element") {
  Findings findings;
  const Design d = design(Grid::rectangle(23, 17, 100, 60),
                          text(box, "{ id = \"B\", angle = 0, zone = \"z\", edge = -4.2 },\n"), findings);
  layup::LayersOn layers_on(d);
  for (const mesh::Array& array : review::fields(d, review::Plies::left_out)) {
    if (array.name != "thickness mm") continue;
    for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
      double h = 0.0;
      for (const layup::LaidLayer& layer : layers_on(e)) h += layer.thickness;
      CHECK(test::near(array.values[e], h, 1e-12));
    }
  }
  // Sections that stand for part-covered elements say how far they are off; whole elements are not off at all.
  REQUIRE(d.sections.off.size() == d.surface.element_count());
  std::size_t exact = 0;
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e)
    if (!d.layup.varies[d.layup.stack_of[e]]) exact += d.sections.off[e] == 0.0f;
  CHECK(exact > 100);
}

}  // namespace of_layup_edges
