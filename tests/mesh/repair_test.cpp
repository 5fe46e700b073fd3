// Broken and hard meshes: right answers or clear findings, and repairs that are listed.
#include "support.hpp"

#include <bordado/mesh/care.hpp>
#include <bordado/mesh/curves.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/mesh/locate.hpp>

#include <fmt/format.h>

#include <cmath>

namespace of_mesh_repair {

using namespace bordado;
using test::Grid;

namespace {

constexpr double pi = std::numbers::pi;

mesh::Surface obj(const std::string& text, Findings& findings) {
  return mesh::read_bytes(text, "hard.obj", {.weld = 1e-300}, findings);
}
mesh::Surface obj(const std::string& text) {
  Findings findings;
  return obj(text, findings);
}

std::vector<std::string> codes(const Findings& findings) {
  std::vector<std::string> out;
  for (const Finding& finding : findings.all()) out.push_back(finding.code);
  return out;
}

double area(const mesh::Surface& surface) { return mesh::size(surface, mesh::geometry(surface)).area; }

/// Nothing that works on surfaces may stumble over a hard one.
void put_to_work(const mesh::Surface& surface) {
  const mesh::Geometry geometry = mesh::geometry(surface);
  mesh::inspect(surface, geometry);
  const auto found = mesh::distances(surface, {.points = {surface.points.front()}});
  CHECK(found.size() == surface.points.size());
  mesh::curves_of(surface, mesh::free_edges(surface));
  mesh::curves_of(surface, mesh::creases(surface, geometry, Angle::degrees(20)));
  CHECK(mesh::Locator(surface).nearest(surface.points.back()).distance <= 1e-9 * (1 + surface.points.back().norm()));
}

}  // namespace

TEST_CASE("every repair is made and listed") {
  // Two squares that do not share their nodes, one the wrong way round; a twin; a crossed square; a facet without area.
  Findings findings;
  const mesh::Surface broken =
      obj("v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 1.00001 0 0\nv 2 0 0\nv 2 1 0\nv 1 1.00001 0\nv 3 0 0\nv 3 1 0\nv 2.5 "
          "0 0\n"
          "f 1 2 3 4\nf 5 8 7 6\nf 2 3 4 1\nf 6 7 9 10\nf 6 11 9\n");
  Findings told;
  const mesh::Surface sound = mesh::repaired(broken, {.merge = 0.001}, told);
  CHECK(codes(told) ==
        std::vector<std::string>{"repair.merged", "repair.flat", "repair.twins", "repair.unfolded", "repair.turned"});
  CHECK(told.all()[0].what == "2 nodes no further than 0.001 from another one became that one: nodes 5, 8");
  CHECK(told.all()[2].what.find("elements 3") != std::string::npos);
  CHECK(told.all()[3].what.find("elements 4") != std::string::npos);
  const mesh::Inspection after = mesh::inspect(sound, mesh::geometry(sound));
  CHECK((after.coincident_nodes.empty() && after.flat.empty() && after.twin_elements.empty() && after.folded.empty()));
  CHECK(after.disagreeing_edges == 0);
  CHECK(after.rims.size() == 1);
  CHECK(test::near(area(sound), 3, 1e-4));
  Findings none;
  mesh::repaired(sound, {.merge = 0.001}, none);
  CHECK(none.all().empty());  // a sound mesh stays as it is
}

TEST_CASE("a quadrilateral that loses a corner becomes a triangle, groups follow") {
  const mesh::Surface thin = obj("g a\nv 0 0 0\nv 1 0 0\nv 1 1e-6 0\nv 0 1 0\nf 1 2 3 4\n");
  Findings told;
  const mesh::Surface sound = mesh::repaired(thin, {.scale = 10, .merge = 1e-4}, told);
  CHECK(codes(told) == std::vector<std::string>{"repair.scaled", "repair.merged", "repair.collapsed"});
  CHECK(sound.shapes[0] == mesh::Shape::triangle3);
  CHECK(test::near(area(sound), 50));
  CHECK(sound.group("a", 2)->elements.size() == 1);
}

TEST_CASE("a Moebius strip, a T-junction, pieces that touch at a point, a closed shell, a hole of one element") {
  std::string strip;
  constexpr int n = 24;
  for (int i = 0; i < n; ++i)
    for (const double s : {-0.3, 0.3}) {
      const double a = 2 * pi * i / n;
      strip += fmt::format("v {} {} {}\n", (1 + s * std::cos(a / 2)) * std::cos(a),
                           (1 + s * std::cos(a / 2)) * std::sin(a), s * std::sin(a / 2));
    }
  for (int i = 0; i < n; ++i) {
    const int a = 2 * i + 1, b = a + 1, c = i + 1 < n ? a + 2 : 2, d = i + 1 < n ? a + 3 : 1;
    strip += fmt::format("f {} {} {} {}\n", a, c, d, b);
  }
  const mesh::Surface moebius = obj(strip);
  put_to_work(moebius);
  CHECK(mesh::curves_of(moebius, mesh::free_edges(moebius)).size() == 1);  // one edge only, twice round
  Findings told;
  mesh::repaired(moebius, {}, told);
  CHECK(codes(told).back() == "mesh.not-orientable");

  const mesh::Surface tee = obj(
      "v 0 0 0\nv 0 1 0\nv 1 0 0\nv 1 1 0\nv -1 0 0\nv -1 1 0\nv 0 0 1\nv 0 1 1\nf 1 3 4 2\nf 5 1 2 6\nf 1 7 8 2\n");
  put_to_work(tee);
  const auto over = mesh::distances(tee, {.points = {{-1, 0.5, 0}}});
  CHECK(test::near(over[6], std::hypot(2, 0.5), 0.01));  // up the web
  CHECK(mesh::creases(tee, mesh::geometry(tee), Angle::degrees(170)).size() == 1);

  const mesh::Surface touching =
      obj("v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 2 1 0\nv 2 2 0\nv 1 2 0\nf 1 2 3 4\nf 3 5 6 7\n");
  put_to_work(touching);
  CHECK(test::near(mesh::distances(touching, {.nodes = {0}})[5], 2 * std::sqrt(2)));  // through the point

  const mesh::Surface closed =
      obj("v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv 0 0 1\nv 1 0 1\nv 1 1 1\nv 0 1 1\nf 1 4 3 2\nf 5 6 7 8\nf 1 2 6 5\nf "
          "2 3 7 6\nf 3 4 8 7\nf 4 1 5 8\n");
  put_to_work(closed);
  CHECK(mesh::free_edges(closed).empty());
  CHECK(test::near(mesh::distances(closed, {.nodes = {0}})[6], std::sqrt(5), 0.02));  // over two faces

  std::string holed = "";
  for (int j = 0; j < 6; ++j)
    for (int i = 0; i < 6; ++i) holed += fmt::format("v {} {} 0\n", i, j);
  for (int j = 0; j < 5; ++j)
    for (int i = 0; i < 5; ++i)
      if (i != 2 || j != 2)
        holed += fmt::format("f {} {} {} {}\n", 6 * j + i + 1, 6 * j + i + 2, 6 * j + i + 8, 6 * j + i + 7);
  const mesh::Surface hole = obj(holed);
  put_to_work(hole);
  const auto rims = mesh::curves_of(hole, mesh::free_edges(hole));
  REQUIRE(rims.size() == 2);
  CHECK(test::near(mesh::length(rims[1]), 4));
  // The way from one side of the hole to the other bends round its corner.
  const auto round = mesh::distances(hole, {.points = {{0, 2.5, 0}}});
  CHECK(test::near(round[6 * 2 + 5], std::hypot(2, 0.5) + 3, 0.01));
}

TEST_CASE("slivers, elements without area, a quadrilateral folded on itself: told, and never a crash") {
  Findings findings;
  const mesh::Surface sliver =
      obj("v 0 0 0\nv 1 0 0\nv 2 1e-9 0\nv 1 1 0\nv 0 0 0\nf 1 2 3\nf 1 3 4\nf 1 2 2\nf 1 3 2 4\n", findings);
  put_to_work(sliver);
  const mesh::Inspection inspected = mesh::inspect(sliver, mesh::geometry(sliver));
  CHECK(!inspected.flat.empty());
  Findings told;
  const mesh::Surface sound = mesh::repaired(sliver, {}, told);
  CHECK(mesh::inspect(sound, mesh::geometry(sound)).flat.empty());
}

TEST_CASE("very small, very large and far away parts give the same answers") {
  for (const double scale : {1e-6, 1.0, 1e6})
    for (const Vec3& away : {Vec3(0, 0, 0), Vec3(1e4, -3e4, 2e4)}) {
      const mesh::Surface tube =
          test::surface({.nx = 24,
                         .ny = 10,
                         .map =
                             [&](double u, double v) {
                               return Vec3(scale * (Vec3(std::cos(2 * pi * u), std::sin(2 * pi * u), 2 * v) + away));
                             },
                         .closed_u = true});
      INFO(scale << " " << away.x());
      const mesh::Geometry geometry = mesh::geometry(tube);
      const mesh::Inspection found = mesh::inspect(tube, geometry);
      CHECK(found.rims.size() == 2);
      CHECK((found.flat.empty() && found.coincident_nodes.empty() && found.warped.empty()));
      CHECK(test::near(area(tube) / (scale * scale), 24 * 2 * std::sin(pi / 24) * 2, 1e-6));
      CHECK(mesh::creases(tube, geometry, Angle::degrees(20)).empty());
      CHECK(mesh::creases(tube, geometry, Angle::degrees(14)).size() == 240);
      Findings told;
      mesh::repaired(tube, {}, told);
      CHECK(told.all().empty());
    }
}

}  // namespace of_mesh_repair
