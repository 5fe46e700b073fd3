#include "support.hpp"

#include <bordado/zone.hpp>

#include <fmt/format.h>

#include <cmath>

namespace of_zone_zones {

using namespace bordado;
using test::Grid;

namespace {

struct Resolved {
  zone::ZoneSets sets;
  Findings findings;
};

Resolved resolve(const std::string& zones, const Grid& grid = Grid::rectangle(10, 10, 10, 10)) {
  Resolved out;
  const part::Part part = part::read_text(
      "[part]\nname = \"Z\"\nunits = \"mm, t, s\"\nmesh = { file = \"g.msh\", length = \"mm\" }\nside = "
      "\"as-meshed\"\nsurface = \"bottom\"\n" +
          test::materials() + "[layup]\nplies = [ { id = \"P\", material = \"ud\", frame = \"x\", angle = 0 } ]\n" +
          zones,
      "z.toml", out.findings);
  const mesh::Surface surface = test::surface(grid);
  out.sets = zone::zones(part, surface, mesh::geometry(surface), out.findings);
  return out;
}

std::size_t count(const Resolved& resolved, std::string_view name) {
  return resolved.sets.counts[*resolved.sets.find(name)];
}

}  // namespace

TEST_CASE("everything and the mesh's own groups are zones without being declared") {
  const Resolved r = resolve("");
  CHECK(count(r, "everything") == 100);
  CHECK(count(r, "plate") == 100);
  CHECK(!r.sets.find("left").has_value());  // a group of edges is no zone
}

TEST_CASE("boxes take elements by what they cover, whichever corners are given") {
  const Resolved r = resolve(
      "[zone.a]\nbox = { from = [0, 0, -1], to = [5, 10, 1] }\n[zone.b]\nbox = { from = [9.4, 9.4, 1], to = [5.6, 5.6, "
      "-1] }\n[zone.edge]\nbox = { from = [0.5, 0.5, 0], to = [1.5, 1.5, 0] }\n[zone.most]\nbox = { from = [0.5, 0.5, "
      "0], "
      "to = [1.5, 1.5, 0] }\nshare = 0.24\n");
  CHECK(count(r, "a") == 50);
  CHECK(count(r, "b") == 9);
  CHECK(count(r, "edge") == 0);  // covers a quarter of each of four elements
  CHECK(count(r, "most") == 4);
}

TEST_CASE("union and minus follow set algebra in any order of declaration") {
  const Resolved r = resolve(R"([zone.both]
union = ["a", "b"]
[zone.only-a]
from = "a"
minus = ["b"]
[zone.none]
from = "a"
minus = ["everything"]
[zone.a]
box = { from = [0, 0, -1], to = [6, 10, 1] }
[zone.b]
box = { from = [4, 0, -1], to = [10, 10, 1] }
[zone.common]
from = "a"
minus = ["only-a"]
)");
  CHECK(count(r, "both") == 100);
  CHECK(count(r, "only-a") == 40);
  CHECK(count(r, "common") == 20);
  CHECK(count(r, "none") == 0);
  for (mesh::ElementIndex e = 0; e < 100; ++e) {
    const auto in = [&](std::string_view name) { return r.sets.contains(*r.sets.find(name), e); };
    CHECK(in("both") == (in("a") || in("b")));
    CHECK(in("only-a") == (in("a") && !in("b")));
    CHECK(in("common") == (in("a") && in("b")));
  }
  REQUIRE(r.findings.all().size() == 1);
  CHECK(r.findings.all()[0].text() ==
        "z.toml:37:1: warning: zone 'none' has no elements [zone.empty]\n    check its group name, box or length unit");
}

TEST_CASE("balls, cylinders, half spaces and facing directions take elements by what they cover, or by their normal") {
  const Resolved r = resolve(R"([zone.ball]
sphere = { centre = [5, 5, 3], radius = 5 }
[zone.tube]
cylinder = { through = [5, 5, -70], along = [0, 0, -2], radius = 4 }
[zone.disc]
sphere = { centre = [5, 5, 0], radius = 4 }
[zone.far]
beyond = { point = [7, 0, 0], along = [1, 0, 0] }
[zone.up]
facing = { along = [0, 0.1, 1], within = 10 }
[zone.steep]
facing = { along = [1, 0, 0.1], within = "80 deg" }
[zone.all-ways]
facing = { along = [0, 0, -1], within = 180 }
)");
  CHECK(count(r, "ball") == count(r, "tube"));  // a ball of 5 cut 3 above its middle is a disc of 4
  CHECK(count(r, "disc") == count(r, "tube"));
  // Counted with a fine raster.
  std::size_t within = 0;
  for (int i = 0; i < 10; ++i)
    for (int j = 0; j < 10; ++j) {
      int inside = 0;
      for (int k = 0; k < 10000; ++k)
        inside += std::hypot(i - 5 + (k % 100 + 0.5) / 100, j - 5 + (k / 100 + 0.5) / 100) <= 4;
      within += inside >= 5000;
    }
  CHECK(count(r, "disc") == within);
  CHECK(count(r, "far") == 30);
  CHECK(count(r, "up") == 100);
  CHECK(count(r, "steep") == 0);
  CHECK(count(r, "all-ways") == 100);
}

TEST_CASE("common part and opposite follow set algebra") {
  const Resolved r = resolve(
      "[zone.a]\nbox = { from = [0, 0, -1], to = [6, 10, 1] }\n[zone.b]\nbox = { from = [4, 0, -1], to = [10, 10, 1] "
      "}\n"
      "[zone.both]\ncommon = [\"a\", \"b\"]\n[zone.not-a]\nopposite = \"a\"\n");
  CHECK(count(r, "both") == 20);
  CHECK(count(r, "not-a") == 40);
  for (mesh::ElementIndex e = 0; e < 100; ++e) {
    const auto in = [&](std::string_view name) { return r.sets.contains(*r.sets.find(name), e); };
    CHECK(in("both") == (in("a") && in("b")));
    CHECK(in("not-a") == !in("a"));
  }
}

TEST_CASE("a declared zone hides a mesh group of its name, and can be made from a group by the same name") {
  const Resolved r = resolve("[zone.plate]\nbox = { from = [0, 0, -1], to = [1, 1, 1] }\n");
  CHECK(count(r, "plate") == 1);
}

TEST_CASE("more than 64 zones fit") {
  std::string many;
  for (int i = 0; i < 100; ++i)
    many += fmt::format("[zone.z{}]\nbox = {{ from = [{}, {}, -1], to = [{}, {}, 1] }}\n", i, i % 10, i / 10,
                        i % 10 + 1, i / 10 + 1);
  const Resolved r = resolve(many);
  for (int i = 0; i < 100; ++i) {
    CHECK(count(r, fmt::format("z{}", i)) == 1);
    CHECK(r.sets.elements(*r.sets.find(fmt::format("z{}", i))).size() == 1);
  }
}

TEST_CASE("unknown, circular and misspelt names are told together") {
  const std::string told = test::failure([] {
    resolve(
        "[zone.a]\nunion = [\"b\"]\n[zone.b]\nunion = [\"a\"]\n[zone.c]\ngroup = \"plait\"\n[zone.d]\nunion = "
        "[\"platte\"]\n");
  });
  CHECK(told.find("zone 'b' is made from 'a', which is made from it [zone.circular]") != std::string::npos);
  CHECK(told.find("zone 'c': the mesh has no element group 'plait' [zone.group-unknown]") != std::string::npos);
  CHECK(told.find("zone 'd': zone 'platte' is not declared and is no element group of the mesh [zone.unknown]\n    did "
                  "you mean 'plate'?") != std::string::npos);
}

TEST_CASE("areas of shapes are exact where they cut through elements") {
  const Resolved r = resolve(R"([zone.disc]
sphere = { centre = [5.1, 4.8, 0], radius = 3.3 }
[zone.strip]
box = { from = [2.3, -1, -1], to = [2.45, 20, 1] }
[zone.angle]
polygon = { corners = [[1.2, 1.3, 7], [8.9, 1.3, 0], [8.9, 3.6, 0], [3.7, 3.6, 0], [3.7, 9.1, 0], [1.2, 9.1, 0]], along = [0, 0, 1] }
[zone.slanted]
beyond = { point = [0, 2.5, 0], along = [-1, 2, 0] }
[zone.rest]
from = "slanted"
minus = ["disc"]
[zone.below]
polygon = { corners = [[0, 0, 0], [10, 0, 0], [0, 10, 0]], along = [0, 0, 1], low = 0.5 }
)");
  const auto exact = [&](std::string_view name) { return r.sets.exact_areas[*r.sets.find(name)]; };
  const auto elements = [&](std::string_view name) { return r.sets.element_areas[*r.sets.find(name)]; };
  const double disc = std::numbers::pi * 3.3 * 3.3;
  CHECK(test::near(exact("disc"), disc, 1e-5));
  CHECK(test::near(elements("disc"), disc, 0.1));
  CHECK(test::near(exact("strip"), 1.5, 1e-4));  // narrower than the elements
  CHECK(elements("strip") == 0);
  CHECK(test::near(exact("angle"), 7.7 * 2.3 + 2.5 * 5.5, 1e-4));
  CHECK(test::near(exact("slanted"), 50, 1e-9));  // half of the plate lies above y = 2.5 + x / 2
  CHECK(exact("below") == 0);
  // The line passes 2 sqrt(5) / 5 * ... from the disc's centre: a segment of the circle remains.
  const double off = (4.8 - 2.5 - 5.1 / 2) / std::hypot(1, 0.5), half = std::acos(off / 3.3);
  const double above = disc - 3.3 * 3.3 * (half - std::sin(half) * std::cos(half));
  CHECK(test::near(exact("rest"), 50 - above, 2e-5));
}

TEST_CASE("the share decides which partly covered elements belong") {
  const auto with = [](double share) {
    return count(
        resolve(fmt::format("[zone.a]\nbox = {{ from = [0, 0, -1], to = [4.3, 10, 1] }}\nshare = {}\n", share)), "a");
  };
  CHECK(with(0.29) == 50);
  CHECK(with(0.31) == 40);
  CHECK(with(1.0) == 40);
  CHECK(test::failure([&] { with(1.5); }).find("'share' is 1.5; it is a part of an element's area") !=
        std::string::npos);
}

TEST_CASE("within a distance of points, curves, edges, openings and other zones; rows; grown and shrunk; pieces") {
  const Resolved r = resolve(R"([curve.slant]
points = [[0, 0, 0], [10, 10, 0]]
[curve.rim]
opening = [0, 0, 0]
[curve.side]
border = { from = [10, 0, 0], to = [10, 10, 0] }
[zone.spot]
near = { of = [5, 5, 0], within = 2.5 }
[zone.band]
near = { of = "slant", within = 1.5 }
[zone.edge]
near = { of = "left", within = 3 }
[zone.margin]
near = { of = "rim", within = 1 }
[zone.box]
box = { from = [4, 4, -1], to = [6, 6, 1] }
[zone.round-box]
near = { of = "box", within = 2 }
[zone.grown]
grown = { zone = "box", by = 2 }
[zone.smaller]
shrunk = { zone = "grown", by = 1 }
[zone.inner]
shrunk = { zone = "everything", by = 1 }
[zone.two-rows]
rows = { of = "box", count = 2 }
[zone.edge-rows]
rows = { of = "side", count = 3 }
[zone.first-row]
rows = { of = "slant", count = 1 }
[zone.whole]
piece = [1, 1, 5]
)");
  const auto exact = [&](std::string_view name) { return r.sets.exact_areas[*r.sets.find(name)]; };
  const double pi = std::numbers::pi;
  // Between nodes the distance is taken as straight: within a few per cent of an element along a curved border.
  CHECK(test::near(exact("spot"), pi * 2.5 * 2.5, 0.03));
  const double corner = 10 - 1.5 * std::sqrt(2);
  CHECK(test::near(exact("band"), 100 - corner * corner, 0.01));
  CHECK(test::near(exact("edge"), 30, 1e-9));
  CHECK(count(r, "edge") == 30);
  CHECK(test::near(exact("margin"), 36, 1e-9));
  CHECK(test::near(exact("grown"), 4 + 4 * 2 * 2 + pi * 4, 0.02));
  CHECK(exact("round-box") == exact("grown"));
  CHECK(count(r, "inner") == 64);
  CHECK(count(r, "smaller") == 16 - 4);  // the grown box is 6 wide without its corners; one row goes
  CHECK(count(r, "two-rows") == 36 - 4);
  CHECK(count(r, "edge-rows") == 30);
  CHECK(count(r, "first-row") == 10);
  CHECK(count(r, "whole") == 100);
}

TEST_CASE("elements by their ids are taken, with a warning; what cannot be found is told with its place") {
  const Resolved r = resolve("[zone.a]\nelements = [53, 52]\n");
  CHECK(count(r, "a") == 2);
  CHECK(test::failure([] {
          resolve("[zone.a]\nelements = [52, 53, 52]\n");
        }).find("element 52 stands twice in 'elements' [part.value]") != std::string::npos);
  REQUIRE(r.findings.all().size() == 1);
  CHECK(r.findings.all()[0].code == "zone.element-ids");
  const std::string told = test::failure([] {
    resolve(
        "[zone.a]\nelements = [9999]\n[zone.b]\nnear = { of = \"lefft\", within = 1 }\n"
        "[zone.c]\npolygon = { curve = \"left\", along = [0, 0, 1] }\nshare = 0.9\n");
  });
  CHECK(told.find("zone 'a': the mesh has no element 9999 [zone.element-unknown]") != std::string::npos);
  CHECK(told.find("zone 'b': there is no curve or zone 'lefft' [zone.of-unknown]\n    did you mean 'left'?") !=
        std::string::npos);
  CHECK(test::failure([] {
          resolve("[curve.a]\nedges = \"lefft\"\n[curve.b]\ncrease = { turn = 20, near = [0, 0, 0] }\n");
        }).find("curve 'b': no edge of the surface turns by 20° or more [curve.nowhere]") != std::string::npos);
}

TEST_CASE("the same zones on coarser and finer meshes and on triangles: areas converge") {
  const double pi = std::numbers::pi, radius = 10;
  // A half tube; a ball round a point of it cuts out what has no closed form, a strip along the surface has.
  const std::string zones = R"([zone.strip]
near = { of = "front", within = 7 }
[zone.ring]
near = { of = [10, 0, 20], within = 8 }
)";
  for (const bool triangles : {false, true}) {
    double worst = 1.0;
    for (const int n : {12, 24, 48}) {
      const Grid grid{.nx = n,
                      .ny = n,
                      .map =
                          [&](double u, double v) {
                            return Vec3(radius * std::cos(pi * (u - 0.5)), radius * std::sin(pi * (u - 0.5)), 40 * v);
                          },
                      .triangles = triangles};
      const Resolved r = resolve(zones, grid);
      const auto exact = [&](std::string_view name) { return r.sets.exact_areas[*r.sets.find(name)]; };
      const auto elements = [&](std::string_view name) { return r.sets.element_areas[*r.sets.find(name)]; };
      const double strip = std::abs(exact("strip") / (pi * radius * 7) - 1);
      const double ring = std::abs(exact("ring") / (pi * 64) - 1);  // the tube rolled out: a disc
      INFO(n << ": " << strip << " " << ring);
      CHECK(std::max(strip, ring) < 0.35 * worst);  // second order
      CHECK(std::abs(elements("ring") / (pi * 64) - 1) < 2.0 / n);
      worst = std::max(strip, ring);
    }
    CHECK(worst < 0.004);
  }
}

TEST_CASE("round a point a zone has the area of a circle, however few elements it is wide") {
  for (const bool triangles : {false, true})
    for (const Vec3& centre : {Vec3(10, 10, 0), Vec3(10.5, 10.5, 0), Vec3(10.2, 9.7, 0)})
      for (const double radius : {1.2, 1.7, 2.5, 4.0}) {
        Grid grid = Grid::rectangle(20, 20, 20, 20);
        grid.triangles = triangles;
        const Resolved r = resolve(
            fmt::format("[zone.round]\nnear = {{ of = [{}, {}, 0], within = {} }}\n", centre.x(), centre.y(), radius),
            grid);
        const double area = r.sets.exact_areas[*r.sets.find("round")], circle = 3.14159265358979 * radius * radius;
        INFO(centre.transpose() << " " << radius << " " << triangles << ": " << area / circle);
        CHECK(std::abs(area / circle - 1.0) < 0.004);
      }
}

TEST_CASE("elements decided many at once are those that lie inside one by one, in whatever order they stand") {
  // Of each shape the level at an element's middle, by its own formula; elements that its border may cross are left out.
  const auto ball = [](const Vec3& p) { return (p - Vec3(4, 5, 1)).norm() - 3.2; };
  const auto box = [](const Vec3& p) { return (Vec3(1.5, 2.5, -9) - p).cwiseMax(p - Vec3(6.1, 8.3, 9)).maxCoeff(); };
  const auto tube = [](const Vec3& p) { return Vec3(p.x() - 7, 0, p.z()).norm() - 2.3; };
  const auto half = [](const Vec3& p) { return (Vec3(5, 5, 0) - p).dot(Vec3(3, 4, 0) / 5.0); };
  const std::vector<std::pair<std::string, std::function<double(const Vec3&)>>> shapes{
      {"ball", ball}, {"box", box}, {"tube", tube}, {"half", half}};
  Findings findings;
  const part::Part part = part::read_text(
      "[part]\nname = \"Z\"\nunits = \"mm, t, s\"\nmesh = { file = \"g.msh\", length = \"mm\" }\nside = "
      "\"as-meshed\"\nsurface = \"bottom\"\n" +
          test::materials() +
          "[layup]\nplies = [ { id = \"P\", material = \"ud\", frame = \"x\", angle = 0 } ]\n"
          "[zone.ball]\nsphere = { centre = [4, 5, 1], radius = 3.2 }\n"
          "[zone.box]\nbox = { from = [1.5, 2.5, -9], to = [6.1, 8.3, 9] }\n"
          "[zone.tube]\ncylinder = { through = [7, 0, 0], along = [0, 1, 0], radius = 2.3 }\n"
          "[zone.half]\nbeyond = { point = [5, 5, 0], along = [3, 4, 0] }\n",
      "z.toml", findings);
  const Grid bent{.nx = 90, .ny = 80, .map = [](double u, double v) {
                    return Vec3(10 * u, 10 * v, std::sin(5 * u) * std::cos(3 * v));
                  }};
  const mesh::Surface ordered = test::surface(bent);
  std::vector<mesh::ElementIndex> order(ordered.element_count());
  for (mesh::ElementIndex e = 0; e < order.size(); ++e) order[e] = e;
  double areas[2][4];
  for (const int shuffled : {0, 1}) {
    std::mt19937 engine(3);
    if (shuffled) std::shuffle(order.begin(), order.end(), engine);
    mesh::Surface surface = ordered;
    surface.groups.clear();
    surface.nodes.clear();
    for (std::size_t e = 0; e < order.size(); ++e) {
      const auto nodes = ordered.nodes_of(order[e]);
      surface.nodes.insert(surface.nodes.end(), nodes.begin(), nodes.end());
      surface.element_ids[e] = ordered.element_ids[order[e]];
    }
    const mesh::Geometry geometry = mesh::geometry(surface);
    const zone::ZoneSets sets = zone::zones(part, surface, geometry, findings);
    for (std::size_t k = 0; k < shapes.size(); ++k) {
      const zone::ZoneId id = *sets.find(shapes[k].first);
      std::size_t checked = 0;
      for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
        const double level = shapes[k].second(geometry.centres[e]);
        if (std::abs(level) < 0.2) continue;  // half an element's diagonal is less
        ++checked;
        CHECK_MESSAGE(sets.contains(id, e) == (level < 0.0), shapes[k].first, " ", e);
      }
      CHECK(checked > 6000);
      CHECK(sets.counts[id] == sets.elements(id).size());
      areas[shuffled][k] = sets.exact_areas[id];
    }
  }
  for (std::size_t k = 0; k < 4; ++k) CHECK(test::near(areas[0][k], areas[1][k], 1e-12));
}

}  // namespace of_zone_zones
