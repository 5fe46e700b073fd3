#include "support.hpp"

#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <cmath>
#include <random>

namespace of_mesh_orient {

using namespace bordado;
using test::Grid;

namespace {

/// Turns random elements of MSH text's surface round by reversing their corners.
void scramble(mesh::Surface& surface, unsigned seed) {
  std::mt19937 random(seed);
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
    if (random() % 2) continue;
    const auto begin = surface.nodes.begin() + surface.first[e];
    const auto corners = mesh::corner_count(surface.shapes[e]);
    std::reverse(begin + 1, begin + corners);
    if (mesh::is_quadratic(surface.shapes[e])) std::reverse(begin + corners, begin + 2 * corners);
  }
}

std::vector<std::string> codes(const Findings& findings) {
  std::vector<std::string> out;
  for (const Finding& finding : findings.all()) out.push_back(finding.code);
  return out;
}

/// Three plates on one edge, or other small surfaces: nodes and quadrilaterals.
mesh::Surface small_surface(const std::vector<Vec3>& points, const std::vector<std::vector<int>>& elements) {
  std::string text = fmt::format("$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$Nodes\n{}\n", points.size());
  for (std::size_t i = 0; i < points.size(); ++i)
    text += fmt::format("{} {} {} {}\n", i + 1, points[i].x(), points[i].y(), points[i].z());
  text += fmt::format("$EndNodes\n$Elements\n{}\n", elements.size());
  for (std::size_t i = 0; i < elements.size(); ++i) {
    text += fmt::format("{} {} 2 0 1", i + 1, elements[i].size() == 4 ? 3 : 2);
    for (const int node : elements[i]) text += fmt::format(" {}", node);
    text += '\n';
  }
  Findings findings;
  return mesh::read_bytes(text + "$EndElements\n", "small.msh", {}, findings);
}

}  // namespace

TEST_CASE("scrambled sides are made to agree, whichever way the side is declared") {
  const Grid dome{
      .nx = 8, .ny = 6, .map = [](double u, double v) { return Vec3(u, v, 0.3 * u * (1 - u) + 0.2 * v * (1 - v)); }};
  for (const bool quadratic : {false, true})
    for (const bool triangles : {false, true}) {
      Grid grid = dome;
      grid.quadratic = quadratic;
      grid.triangles = triangles;
      for (const auto& [side, up] : {std::pair<mesh::Side, double>{mesh::Towards{{0.5, 0.5, 9}}, 1.0},
                                     {mesh::AwayFrom{{0.5, 0.5, 9}}, -1.0},
                                     {mesh::Along{{0.1, 0, 1}}, 1.0},
                                     {mesh::Towards{{0.5, 0.5, -9}}, -1.0}}) {
        mesh::Surface surface = test::surface(grid);
        const double area = mesh::size(surface, mesh::geometry(surface)).area;
        scramble(surface, 17);
        Findings findings;
        const mesh::OrientReport report = mesh::orient(surface, side, findings);
        CHECK(report.pieces == 1);
        CHECK(codes(findings) == std::vector<std::string>{"mesh.turned"});
        const mesh::Geometry geometry = mesh::geometry(surface);
        for (const Vec3& normal : geometry.normals) CHECK(normal.z() * up > 0.5);
        CHECK(test::near(mesh::size(surface, geometry).area, area, 1e-12));  // middle nodes went along
      }
    }
}

TEST_CASE("a closed body has an outside, whatever its shape; an open one has none") {
  // A ring, bent like a banana and closed: most of it faces towards any point as much as away from it.
  const auto ring = [](bool closed) {
    constexpr int around = 12, along = 20;
    std::vector<Vec3> points;
    std::vector<std::vector<int>> elements;
    for (int i = 0; i < along; ++i)
      for (int j = 0; j < around; ++j) {
        const double a = 2 * std::numbers::pi * i / along, b = 2 * std::numbers::pi * j / around;
        const double r = 10 + (2 + std::cos(3 * a)) * std::cos(b);
        points.emplace_back(r * std::cos(a), r * std::sin(a), (2 + std::cos(3 * a)) * std::sin(b) + 1000);
      }
    for (int i = 0; i < (closed ? along : along - 1); ++i)
      for (int j = 0; j < around; ++j) {
        const auto at = [&](int u, int v) { return u % along * around + v % around + 1; };
        elements.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)});
      }
    return small_surface(points, elements);
  };
  for (const bool inwards : {false, true}) {
    mesh::Surface surface = ring(true);
    scramble(surface, 28);
    Findings findings;
    const mesh::OrientReport report = mesh::orient(surface, mesh::Outwards{inwards}, findings);
    CHECK(report.agreement == 1.0);
    CHECK(codes(findings) == std::vector<std::string>{"mesh.turned"});
    const mesh::Geometry geometry = mesh::geometry(surface);
    // What the normals enclose (divergence theorem): the volume of the ring by A. H. Pappus, to a tenth on this mesh.
    double volume = 0.0;
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e)
      volume += geometry.areas[e] * geometry.normals[e].dot(geometry.centres[e]) / 3;
    const double exact = 2 * std::numbers::pi * 10 * std::numbers::pi * 4.5;
    CHECK(test::near(volume, inwards ? -exact : exact, 0.1));
  }
  mesh::Surface open = ring(false);
  Findings findings;
  mesh::orient(open, mesh::Outwards{}, findings);
  CHECK(findings.has_errors());
  CHECK(codes(findings).front() == "mesh.side-open");
}

TEST_CASE("as meshed keeps the first element of each piece") {
  mesh::Surface surface = test::surface(Grid::rectangle(4, 4, 1, 1));
  std::reverse(surface.nodes.begin() + 1, surface.nodes.begin() + 4);
  Findings findings;
  CHECK(mesh::orient(surface, mesh::AsMeshed{}, findings).flipped == 15);
  for (const Vec3& normal : mesh::geometry(surface).normals) CHECK(normal.z() < -0.99);
}

TEST_CASE("a Moebius strip cannot have a side, and is said so") {
  std::vector<Vec3> points;
  std::vector<std::vector<int>> elements;
  const int n = 24;
  for (int i = 0; i < n; ++i)
    for (const double w : {-0.3, 0.3}) {
      const double a = 2 * std::numbers::pi * i / n;
      points.emplace_back((1 + w * std::cos(a / 2)) * std::cos(a), (1 + w * std::cos(a / 2)) * std::sin(a),
                          w * std::sin(a / 2));
    }
  for (int i = 0; i < n; ++i) {
    const bool last = i == n - 1;
    elements.push_back({2 * i + 1, last ? 2 : 2 * i + 3, last ? 1 : 2 * i + 4, 2 * i + 2});
  }
  mesh::Surface surface = small_surface(points, elements);
  Findings findings;
  const mesh::OrientReport report = mesh::orient(surface, mesh::Along{{0, 0, 1}}, findings);
  CHECK(!report.conflicting.empty());
  CHECK(findings.has_errors());
  CHECK(test::failure([&] { findings.throw_if_errors(); }).find("the sides of the surface cannot agree") !=
        std::string::npos);
}

TEST_CASE("a T-junction and loose pieces are found and named") {
  const std::vector<Vec3> points{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0},
                                 {2, 0, 0}, {2, 1, 0}, {1, 0, 1}, {1, 1, 1}};
  mesh::Surface tee = small_surface(points, {{1, 2, 3, 4}, {2, 5, 6, 3}, {2, 7, 8, 3}});
  Findings findings;
  const mesh::OrientReport report = mesh::orient(tee, mesh::Along{{0.1, 0, 1}}, findings);
  CHECK(report.junction == std::vector<mesh::ElementIndex>{0, 1, 2});
  CHECK(findings.all().back().what.find(
            "3 elements meet at edges that three or more share (a T-junction): elements 1, 2, 3") == 0);

  mesh::Surface apart =
      small_surface({{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}, {5, 0, 0}, {6, 0, 0}, {6, 1, 0}, {5, 1, 0}},
                    {{1, 2, 3, 4}, {5, 8, 7, 6}});
  Findings more;
  CHECK(mesh::orient(apart, mesh::Along{{0, 0, 1}}, more).pieces == 2);
  CHECK(codes(more) == std::vector<std::string>{"mesh.turned", "mesh.pieces"});
  for (const Vec3& normal : mesh::geometry(apart).normals) CHECK(normal.z() > 0.99);
}

TEST_CASE("a side that the surface hardly faces is doubted") {
  mesh::Surface tube = test::surface(
      {.nx = 24,
       .ny = 4,
       .map = [](double u,
                 double v) { return Vec3(std::cos(2 * std::numbers::pi * u), std::sin(2 * std::numbers::pi * u), v); },
       .closed_u = true});
  Findings findings;
  CHECK(mesh::orient(tube, mesh::Along{{1, 0, 0}}, findings).agreement < 1e-9);
  CHECK(findings.all().back().code == "mesh.side-unclear");
  Findings fine;
  mesh::orient(tube, mesh::AwayFrom{{0, 0, 0.5}}, fine);
  CHECK(fine.count(Severity::warning) == 0);
}

TEST_CASE("an element that is turned round keeps its side 1-2, run the other way, and says so") {
  for (const bool triangles : {false, true})
    for (const bool quadratic : {false, true}) {
      Grid grid = Grid::rectangle(3, 2, 3, 2);
      grid.triangles = triangles;
      grid.quadratic = quadratic;
      mesh::Surface surface = test::surface(grid);
      const mesh::Surface before = surface;
      Findings findings;
      mesh::orient(surface, mesh::Along{{0, 0, -1}}, findings);
      for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
        const auto was = before.nodes_of(e), now = surface.nodes_of(e);
        CHECK(surface.turned[e] == 1);
        CHECK(now[0] == was[1]);
        CHECK(now[1] == was[0]);
        const std::size_t corners = surface.corners_of(e).size();
        if (!quadratic) continue;
        CHECK(now[corners] == was[corners]);  // the middle of that side
        for (std::size_t k = 0; k < corners; ++k) {
          const Vec3 middle = 0.5 * (surface.points[now[k]] + surface.points[now[(k + 1) % corners]]);
          CHECK((surface.points[now[corners + k]] - middle).norm() < 1e-12);
        }
      }
    }
}

}  // namespace of_mesh_orient
