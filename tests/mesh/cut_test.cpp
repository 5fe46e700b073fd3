// Meshes cut along lines: areas, groups and shapes of what comes out; and lines where a level is nought.
#include "support.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/mesh/locate.hpp>
#include <bordado/review/book.hpp>

#include <fmt/format.h>

#include <cmath>
#include <set>

namespace of_mesh_cut {

using namespace bordado;
using test::Grid;

namespace {

constexpr double pi = std::numbers::pi;

std::vector<double> level(const mesh::Surface& surface, const std::function<double(const Vec3&)>& of) {
  std::vector<double> out;
  for (const Vec3& p : surface.points) out.push_back(of(p));
  return out;
}

double area(const mesh::Surface& surface) {
  const mesh::Geometry geometry = mesh::geometry(surface);
  double sum = 0.0;
  for (const double a : geometry.areas) sum += a;
  return sum;
}

/// Area of the elements on the low side of a level; every element must lie on one side of it.
double area_below(const mesh::Surface& surface, const std::function<double(const Vec3&)>& of, double tolerance) {
  const mesh::Geometry geometry = mesh::geometry(surface);
  double sum = 0.0;
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
    double low = 1e9, high = -1e9;
    for (const mesh::NodeIndex n : surface.corners_of(e)) {
      low = std::min(low, of(surface.points[n]));
      high = std::max(high, of(surface.points[n]));
    }
    CHECK((low > -tolerance || high < tolerance));
    if (high < tolerance) sum += geometry.areas[e];
  }
  return sum;
}

double least_angle(const mesh::Surface& surface) {
  double out = 180.0;
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
    const auto c = surface.corners_of(e);
    for (std::size_t k = 0; k < c.size(); ++k) {
      const Vec3 u = surface.points[c[(k + 1) % c.size()]] - surface.points[c[k]],
                 v = surface.points[c[(k + c.size() - 1) % c.size()]] - surface.points[c[k]];
      out = std::min(out, std::acos(std::clamp(u.normalized().dot(v.normalized()), -1.0, 1.0)) * 180 / pi);
    }
  }
  return out;
}

}  // namespace

TEST_CASE("a plate cut along straight lines, askew and close together: areas exact, nothing folded, groups kept") {
  for (const bool triangles : {false, true})
    for (const double angle : {0.0, 11.0, 30.0, 45.0}) {
      Grid grid = Grid::rectangle(23, 13, 100, 60);
      grid.triangles = triangles;
      const mesh::Surface plate = test::surface(grid);
      const Vec3 across(std::cos(angle * pi / 180), std::sin(angle * pi / 180), 0);
      std::vector<std::function<double(const Vec3&)>> lines;
      std::vector<std::vector<double>> levels;
      for (const double at : {40.0, 42.5, 45.0, 47.5, 58.0}) {
        lines.emplace_back([=](const Vec3& p) { return p.dot(across) - at; });
        levels.push_back(level(plate, lines.back()));
      }
      mesh::CutReport report;
      const mesh::Surface cut = mesh::cut(plate, mesh::geometry(plate), levels, {}, report);
      INFO("triangles ", triangles, " angle ", angle, " least ", report.least_angle);
      CHECK(test::near(area(cut), 6000, 1e-12));
      // A line that a node of another one or of the border lies within a hundredth of a side from goes through it.
      const double hair = 0.01 * std::hypot(100.0 / 23, 60.0 / 13);
      for (const auto& line : lines) {
        // The exact area of the rectangle below the line, by many thin strips.
        double exact = 0.0;
        for (int i = 0; i < 20000; ++i) {
          const double y = 60 * (i + 0.5) / 20000;
          exact += 60.0 / 20000 * std::clamp((-line(Vec3(0, y, 0))) / across.x(), 0.0, 100.0);
        }
        CHECK(test::near(area_below(cut, line, hair), exact, 1e-4));
      }
      CHECK(report.lines == lines.size());
      CHECK(test::near(report.least_angle, least_angle(cut), 1e-6));
      CHECK(report.least_angle > 3.0);
      for (const Vec3& normal : mesh::geometry(cut).normals) CHECK(normal.z() > 0.999);
      // Groups: the border's length, the whole plate, the corner.
      for (const auto& [name, length] : {std::pair{"left", 60.0}, {"right", 60.0}, {"front", 100.0}, {"back", 100.0}}) {
        const mesh::Group* const group = cut.group(name, 1);
        REQUIRE(group);
        double sum = 0.0;
        for (const mesh::Edge& edge : group->edges) sum += (cut.points[edge.first] - cut.points[edge.second]).norm();
        CHECK(test::near(sum, length));
      }
      CHECK(cut.group("plate", 2)->elements.size() == cut.element_count());
      REQUIRE(cut.group("corner", 0)->points.size() == 1);
      CHECK(cut.points[cut.group("corner", 0)->points[0]].norm() < 1e-12);
      // Every inner side is one of two elements: no gaps, no hanging nodes.
      double border = 0.0;
      for (const auto& [a, b] : mesh::free_edges(cut)) border += (cut.points[a] - cut.points[b]).norm();
      CHECK(test::near(border, 320));
      // Ids are there once.
      std::set<std::int64_t> ids(cut.element_ids.begin(), cut.element_ids.end());
      CHECK(ids.size() == cut.element_count());
    }
}

TEST_CASE("lines that cross each other, and one that runs along sides already") {
  const mesh::Surface plate = test::surface(Grid::rectangle(20, 12, 100, 60));
  const auto first = [](const Vec3& p) { return p.x() - 41.0; };
  const auto second = [](const Vec3& p) { return p.y() + 0.3 * p.x() - 41.0; };
  const auto third = [](const Vec3& p) { return p.x() - 60.0; };
  mesh::CutReport report;
  const mesh::Surface cut = mesh::cut(plate, mesh::geometry(plate),
                                      {level(plate, first), level(plate, second), level(plate, third)}, {}, report);
  CHECK(test::near(area_below(cut, first, 1e-9), 41 * 60.0, 1e-12));
  area_below(cut, second, 1e-9);
  CHECK(test::near(area_below(cut, third, 1e-9), 3600, 1e-12));
  CHECK(test::near(area(cut), 6000, 1e-12));
  // Cut again along the same lines there is nothing to do.
  mesh::CutReport again;
  const mesh::Surface same = mesh::cut(cut, mesh::geometry(cut), {level(cut, first), level(cut, third)}, {}, again);
  CHECK(same.element_count() == cut.element_count());
  CHECK(again.slid == 0);
  CHECK(again.split == 0);
}

TEST_CASE("on a tube of quadratic elements the cut keeps to the curved surface") {
  const auto map = [](double u, double v) {
    return Vec3(20 * std::cos(2 * pi * u), 20 * std::sin(2 * pi * u), 100 * v);
  };
  for (const bool triangles : {false, true}) {
    const mesh::Surface tube =
        test::surface({.nx = 24, .ny = 17, .map = map, .triangles = triangles, .quadratic = true, .closed_u = true});
    const auto ring = [](const Vec3& p) { return p.z() - 47.0; };
    mesh::CutReport report;
    const mesh::Surface cut = mesh::cut(tube, mesh::geometry(tube), {level(tube, ring)}, {}, report);
    CHECK(std::all_of(cut.shapes.begin(), cut.shapes.end(), mesh::is_quadratic));
    CHECK(test::near(area_below(cut, ring, 1e-6), 2 * pi * 20 * 47, 1e-3));
    for (const Vec3& p : cut.points) CHECK(test::near(std::hypot(p.x(), p.y()), 20, 2e-3));
    CHECK(mesh::tangled(cut, mesh::geometry(cut)).empty());
  }
}

TEST_CASE("cut quadratic elements have their corners on the old curves and faces, and middle nodes in the middle") {
  // A barrel of coarse elements, round and along; and a flat ring, whose borders are bent in their plane. Two lines askew.
  const auto barrel = [](double u, double v) {
    const double r = 130 - 40 * (v - 0.5) * (v - 0.5);
    return Vec3(r * std::cos(2 * pi * u), r * std::sin(2 * pi * u), 200 * v);
  };
  const auto ring = [](double u, double v) {
    const double r = 20 + 30 * v;
    return Vec3(r * std::cos(2 * pi * u), r * std::sin(2 * pi * u), 0);
  };
  for (const bool flat : {false, true})
    for (const bool triangles : {false, true}) {
      INFO(flat << " " << triangles);
      test::Grid grid{.nx = 24, .ny = 6, .map = barrel, .triangles = triangles, .quadratic = true, .closed_u = true};
      if (flat) grid.map = ring;
      const mesh::Surface old = test::surface(grid);
      const double size = flat ? 7.0 : 34.0;
      mesh::CutReport report;
      const mesh::Surface cut = mesh::cut(
          old, mesh::geometry(old),
          {level(old, [&](const Vec3& p) { return flat ? p.y() - 0.31 * p.x() - 3.0 : p.z() - 0.37 * p.x() - 83.0; }),
           level(old, [&](const Vec3& p) { return flat ? p.x() + 0.2 * p.y() + 11.0 : p.z() + 0.3 * p.y() - 120.0; })},
          {}, report);
      CHECK(report.slid > 0);
      CHECK(report.split > 10);
      const mesh::Locator locator(old);
      double off = 0.0;
      for (const Vec3& p : cut.points) off = std::max(off, locator.nearest(p).distance);
      CHECK(test::near(off, 0.0, 1e-6, size));
      // Borders: circles, which a quadratic side of 15 degrees holds to 1e-5 of its radius; chords miss them by 9e-3.
      double round = 0.0;
      for (const auto& [a, b] : mesh::free_edges(cut)) {
        const double r = std::hypot(cut.points[a].x(), cut.points[a].y());
        round = std::max(round, std::min(std::abs(r / (flat ? 20 : 120) - 1), std::abs(r / (flat ? 50 : 120) - 1)));
      }
      CHECK(test::near(round, 0.0, 1e-4, 1.0));
      double uneven = 0.0;
      for (mesh::ElementIndex e = 0; e < cut.element_count(); ++e) {
        const auto nodes = cut.nodes_of(e);
        const std::size_t corners = cut.corners_of(e).size();
        for (std::size_t k = 0; k < corners; ++k) {
          const Vec3 &a = cut.points[nodes[k]], &b = cut.points[nodes[(k + 1) % corners]],
                     &m = cut.points[nodes[corners + k]];
          uneven = std::max(uneven, std::abs((m - a).norm() - (b - m).norm()) / (b - a).norm());
        }
      }
      CHECK(test::near(uneven, 0.0, 0.04, 1.0));
      CHECK(mesh::tangled(cut, mesh::geometry(cut)).empty());
    }
}

TEST_CASE("a part on the mesh cut along its edges has whole plies of exact area, by the command, in MSH") {
  const test::Folder folder;
  folder.write("grid.msh", test::msh(Grid::rectangle(31, 17, 100, 60)));
  const std::string part =
      "[part]\nname = \"C\"\nunits = \"mm, t, s\"\nmesh = { file = \"MESH\", length = \"mm\" }\nside = "
      "\"as-meshed\"\nsurface = \"bottom\"\n" +
      test::materials() +
      "[zone.z]\nbox = { from = [21.3, -1, -1], to = [71.3, 99, 1] }\n[layup]\nmaterial = "
      "\"ud\"\nframe = \"x\"\nplies = [\n{ id = \"L\", angle = 0 },\n{ id = \"D\", code = "
      "\"[0/90]s\", zone = \"z\" },\n{ id = \"U\", angle = 0 },\n]\n[ramp.r]\nfrom = \"z\"\nstep = "
      "4.7\n";
  const auto with = [&](std::string mesh, const std::string& more) {
    std::string text = part;
    text.replace(text.find("MESH"), 4, mesh);
    text.replace(text.find("[layup]\n"), 8, "[layup]\n" + more);
    return text;
  };
  folder.write("part.toml", with("grid.msh", ""));
  const test::Run made = test::run(test::program() + " cut part.toml -o cut.msh --json", folder.path());
  CHECK(made.status == 0);
  CHECK(made.out.find("\"elements_parted\"") != std::string::npos);
  folder.write("cut.toml", with("cut.msh", "edges = \"whole\"\n"));
  Findings findings;
  const Design d = open(folder / "cut.toml", findings);
  for (const review::PlyEntry& entry : review::ply_book(d).plies) {
    const layup::Region& region = d.layup.regions[d.layup.plies[entry.ply].region];
    const double by = region.moved.empty() ? 0.0 : region.moved[0].by;
    CHECK(test::near(entry.area, region.has_edge() ? 60 * (50 + 2 * by) : 6000.0, 1e-9));
  }
  for (const layup::StackId s : d.layup.stacks()) CHECK_FALSE(d.layup.varies[s]);
  CHECK(d.surface.group("left", 1)->edges.size() > 0);
  // What was read stays.
  const test::Run over = test::run(test::program() + " cut part.toml -o grid.msh", folder.path());
  CHECK(over.status == 1);
  CHECK(test::run(test::program() + " cut part.toml -o cut.xyz", folder.path()).status == 1);
}

TEST_CASE("lines that lie on each other but for rounding are one; the hull cut along all of its edges is sound") {
  const mesh::Surface plate = test::surface(Grid::rectangle(20, 12, 100, 60));
  const auto line = [](const Vec3& p) { return 0.9 * p.x() + 0.3 * p.y() - 50.0; };
  std::vector<std::vector<double>> levels{level(plate, line), level(plate, line), level(plate, line)};
  for (std::size_t n = 0; n < levels[1].size(); ++n) {
    levels[1][n] += (n % 2 ? 1e-11 : -1e-11);
    levels[2][n] += 1e-4;
  }
  mesh::CutReport once, thrice;
  const mesh::Surface a = mesh::cut(plate, mesh::geometry(plate), {levels[0]}, {}, once);
  const mesh::Surface b = mesh::cut(plate, mesh::geometry(plate), levels, {}, thrice);
  CHECK(a.element_count() == b.element_count());
  CHECK(test::near(thrice.least_angle, once.least_angle, 1e-3));

  Findings findings;
  const Design hull = open(test::source("examples/skiff/skiff.toml"), findings);
  mesh::CutReport report;
  const mesh::Surface cut = layup::cut_at_edges(hull, {}, report, findings);
  const mesh::Geometry geometry = mesh::geometry(cut);
  for (const double one : geometry.areas)
    CHECK(one > 1e-3);  // square millimetres: small where three lines nearly meet, never without area
  CHECK(test::near(area(cut), area(hull.surface), 1e-5));
  const mesh::Inspection before = mesh::inspect(hull.surface, hull.geometry), after = mesh::inspect(cut, geometry);
  CHECK(after.junction.empty());
  CHECK(after.twin_elements.empty());
  CHECK(after.folded.empty());
  REQUIRE(after.rims.size() == before.rims.size());
  CHECK(test::near(after.rims[0].length, before.rims[0].length, 1e-6));
  CHECK(report.least_angle > 1.0);
  for (const mesh::Group& group : hull.surface.groups) {
    if (group.dimension != 1) continue;
    const auto length = [](const mesh::Surface& of, const mesh::Group& edges) {
      double sum = 0.0;
      for (const mesh::Edge& edge : edges.edges) sum += (of.points[edge.first] - of.points[edge.second]).norm();
      return sum;
    };
    CHECK(test::near(length(cut, *cut.group(group.name, 1)), length(hull.surface, group), 1e-5));
  }
}

TEST_CASE("a level's lines: a circle is one closed line of its length") {
  for (const bool triangles : {false, true}) {
    Grid grid = Grid::rectangle(60, 36, 100, 60);
    grid.triangles = triangles;
    const mesh::Surface plate = test::surface(grid);
    const auto lines =
        mesh::level_lines(plate, level(plate, [](const Vec3& p) { return (p - Vec3(50, 30, 0)).norm() - 21.0; }));
    REQUIRE(lines.size() == 1);
    CHECK(lines[0].closed);
    CHECK(test::near(mesh::length(lines[0]), 2 * pi * 21, 2e-3));
    const auto straight = mesh::level_lines(plate, level(plate, [](const Vec3& p) { return p.x() + p.y() - 70.0; }));
    REQUIRE(straight.size() == 1);
    CHECK_FALSE(straight[0].closed);
    CHECK(test::near(mesh::length(straight[0]), 60 * std::sqrt(2.0)));
    CHECK(mesh::level_lines(plate, level(plate, [](const Vec3&) { return 1.0; })).empty());
  }
}

}  // namespace of_mesh_cut
