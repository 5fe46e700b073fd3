// The smooth surface against the surfaces that meshes were made from.
#include "parts.hpp"

namespace of_drape_smooth {

using namespace bordado;
using test::cap;
using test::moved;

namespace {

drape::SmoothSurface smoothed(const mesh::Surface& mesh, double margin = 0.0) {
  return drape::smooth(mesh, mesh::geometry(mesh),
                       {.crease = Angle::degrees(35), .creases = {}, .cuts = {}, .margin = margin});
}

/// The largest distance from the unit sphere, of the mesh's own elements or of those that carry it on.
double off_sphere(const drape::SmoothSurface& s, bool own) {
  double worst = 0.0;
  for (mesh::ElementIndex e = 0; e < s.element_count(); ++e) {
    if (s.is_own(e) != own) continue;
    for (int k = 0; k < 5; ++k)
      for (int l = 0; l + k < 5; ++l) {
        const drape::Spot at =
            s.corners[e] == 3 ? drape::Spot{e, 0.2 * k, 0.2 * l} : drape::Spot{e, -1 + 0.4 * k, -1 + 0.4 * l};
        worst = std::max(worst, std::abs(s.point(at).norm() - 1.0));
      }
  }
  return worst;
}

}  // namespace

TEST_CASE("a sphere's patches come nearer to it with the fourth power of the elements' size, moved nodes and all") {
  for (const bool triangles : {false, true})
    for (const double share : {0.0, 0.25}) {
      const double coarse = off_sphere(smoothed(test::surface(moved(cap(16, 0.9, triangles), share, 3))), true),
                   fine = off_sphere(smoothed(test::surface(moved(cap(32, 0.9, triangles), share, 3))), true);
      CHECK(coarse < 2e-4);
      CHECK(std::log2(coarse / fine) > 3.0);
      // Facets: a sagitta of an eighth of the square of the side over the radius.
      CHECK(fine < 0.02 * (1.8 / 32) * (1.8 / 32) / 8);
    }
}

TEST_CASE("past its border a sphere goes on as a sphere, and its hole is filled as one") {
  const auto s = smoothed(test::surface(cap(32, 0.7)), 0.2);
  REQUIRE(s.element_count() > s.own);
  CHECK(off_sphere(s, false) < 1e-3);

  // A round hole of 0.2 radii: the middle ring of elements left out.
  test::Grid ring{.nx = 48, .ny = 20, .map = [](double u, double v) {
                    const double r = 0.2 + 0.7 * v, t = 2 * test::pi * u;
                    return Vec3(std::sin(r) * std::cos(t), std::sin(r) * std::sin(t), std::cos(r));
                  }};
  ring.closed_u = true;
  const auto mesh = test::surface(ring);
  const auto filled = smoothed(mesh, 0.3);
  const auto over = filled.under(mesh::geometry(mesh).normals[0].z() > 0 ? Vec3(0, 0, 1.05) : Vec3(0, 0, 1.05), 0);
  REQUIRE(over);
  CHECK_FALSE(filled.is_own(over->element));
  CHECK(std::abs(filled.point(*over).norm() - 1.0) < 2e-4);
}

TEST_CASE("sharp edges stay sharp, on both sides of a plane each") {
  const auto s = smoothed(test::surface({.nx = 20, .ny = 6, .map = [](double u, double v) {
                                           const double x = 2 * u - 1;
                                           return x < 0 ? Vec3(x, v, 0) : Vec3(0, v, -x);
                                         }}));
  for (mesh::ElementIndex e = 0; e < s.own; ++e) {
    const Vec3 p = s.point({e, 0.3, -0.4});
    CHECK(std::min(std::abs(p.x()), std::abs(p.z())) < 1e-12);
  }
  CHECK(std::count_if(s.sharp.begin(), s.sharp.end(), [](auto bits) { return bits != 0; }) == 12);
}

TEST_CASE("middle nodes of quadratic elements say how sides are curved") {
  auto grid = cap(10, 0.8);
  grid.quadratic = true;
  const auto mesh = test::surface(grid);
  const auto s = smoothed(mesh);
  for (mesh::ElementIndex e = 0; e < mesh.element_count(); ++e)
    CHECK((s.point({e, 0.0, -1.0}) - mesh.points[mesh.nodes_of(e)[4]]).norm() < 1e-12);
  CHECK(off_sphere(s, true) < 1e-4);
}

TEST_CASE("curvature along a direction has the sign of the side it bends to") {
  const auto s = smoothed(test::surface(cap(24, 0.6)));
  // Seen from outside a sphere is no hollow.
  const double outside = s.at({200, 0, 0}).normal().dot(s.point({200, 0, 0}));
  const auto sample = s.at({200, 0.0, 0.0});
  const Vec3 d = sample.by_xi.normalized();
  CHECK(test::near(s.curvature_along({200, 0, 0}, d), outside > 0 ? -1.0 : 1.0, 0.02));
}

}  // namespace of_drape_smooth
