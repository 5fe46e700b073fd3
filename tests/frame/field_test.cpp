#include "support.hpp"

#include <bordado/frame.hpp>
#include <bordado/mesh/care.hpp>

#include <Eigen/Geometry>

#include <cmath>
#include <random>

namespace of_frame_field {

using namespace bordado;
using test::Grid;

namespace {

Grid half_tube(int n) {  // axis along y, from +z over +x to -z
  return {.nx = n, .ny = 4, .map = [](double u, double v) {
            return Vec3(std::sin(std::numbers::pi * u), 4 * v, std::cos(std::numbers::pi * u));
          }};
}

part::Frame along(const Vec3& vector, std::optional<Vec3> fallback = {}) {
  return {"f", part::ProjectedVector{vector}, {}, fallback, {}, {}};
}

}  // namespace

TEST_CASE("the projected vector is a unit vector in every element's plane, nearest to the declared one") {
  const mesh::Surface s = test::surface(half_tube(24));
  const mesh::Geometry g = mesh::geometry(s);
  const frame::Field field = frame::field(along({0, 1, 0.3}), s, g);
  CHECK(field.undefined.empty());
  for (std::size_t e = 0; e < g.normals.size(); ++e) {
    const Vec3& r = field.directions[e];
    CHECK(test::near(r.norm(), 1.0, 1e-14));
    CHECK(std::abs(r.dot(g.normals[e])) < 1e-14);
    // No other direction of the plane is nearer.
    CHECK(test::near(r.dot(Vec3(0, 1, 0.3)),
                     (Vec3(0, 1, 0.3) - Vec3(0, 1, 0.3).dot(g.normals[e]) * g.normals[e]).norm()));
  }
}

TEST_CASE("where the vector comes within 5 degrees of the normal there is no direction, unless a fallback gives one") {
  const mesh::Surface s = test::surface(half_tube(180));
  const mesh::Geometry g = mesh::geometry(s);  // normals in steps of 1 degree
  const frame::Field bare = frame::field(along({1, 0, 0}), s, g);
  CHECK(bare.undefined.size() == 10 * 4);  // 4.5, 3.5, ... degrees on either side, four rows
  for (const mesh::ElementIndex e : bare.undefined)
    CHECK(std::abs(g.normals[e].x()) > std::cos(5 * std::numbers::pi / 180));
  const frame::Field helped = frame::field(along({1, 0, 0}, Vec3(0, 1, 0)), s, g);
  CHECK(helped.undefined.empty());
  CHECK(helped.fallen_back == bare.undefined);
  for (const mesh::ElementIndex e : helped.fallen_back) CHECK((helped.directions[e] - Vec3(0, 1, 0)).norm() < 1e-12);
  CHECK(frame::field(along({1, 0, 0}, Vec3(1, 0, 0)), s, g).undefined ==
        bare.undefined);  // a fallback as bad as the vector
}

TEST_CASE("turning and measuring angles are each other's inverse, right hand about the normal") {
  CHECK((frame::turned({1, 0, 0}, {0, 0, 1}, Angle::degrees(90)) - Vec3(0, 1, 0)).norm() < 1e-15);
  CHECK((frame::turned({1, 0, 0}, {0, 0, -1}, Angle::degrees(90)) - Vec3(0, -1, 0)).norm() <
        1e-15);  // flipped side: the other way
  std::mt19937 random(2);
  std::uniform_real_distribution<double> angle(-179, 179), any(-1, 1);
  for (int i = 0; i < 500; ++i) {
    const Vec3 n = Vec3(any(random), any(random), any(random)).normalized(), r = n.unitOrthogonal();
    const Angle turn = Angle::degrees(angle(random));
    const Vec3 d = frame::turned(r, n, turn);
    CHECK(test::near(frame::between(r, d, n).degrees(), turn.degrees(), 1e-12));
    CHECK(test::near(frame::between(r, d, -n).degrees(), -turn.degrees(), 1e-12));
    CHECK(test::near(d.norm(), 1.0, 1e-14));
  }
}

TEST_CASE("an element without area has no direction") {
  const mesh::Surface s;
  mesh::Geometry g;
  g.normals = {Vec3::Zero()};
  g.centres = {Vec3::Zero()};
  g.areas = {0.0};
  CHECK(frame::field(along({1, 0, 0}, Vec3(0, 1, 0)), s, g).undefined == std::vector<mesh::ElementIndex>{0});
}

TEST_CASE("about an axis: axial, hoop and radial on a cone tend to their closed forms with second order") {
  // A cone about z: radius 1 below, 2 above, height 3.
  const auto error = [](int n) {
    const mesh::Surface s = test::surface({.nx = n,
                                           .ny = 4,
                                           .map =
                                               [](double u, double v) {
                                                 const double a = 2 * std::numbers::pi * u;
                                                 return Vec3((1 + v) * std::cos(a), (1 + v) * std::sin(a), 3 * v);
                                               },
                                           .closed_u = true});
    const mesh::Geometry g = mesh::geometry(s);
    const auto taken = [&](part::Cylindrical::Take take) {
      return frame::field({"f", part::Cylindrical{{0, 0, 7}, {0, 0, 1}, take}, {}, {}, {}, {}}, s, g).directions;
    };
    const auto axial = taken(part::Cylindrical::Take::axial), hoop = taken(part::Cylindrical::Take::hoop),
               radial = taken(part::Cylindrical::Take::radial);
    double largest = 0;
    for (std::size_t e = 0; e < g.normals.size(); ++e) {
      const Vec3 out = Vec3(g.centres[e].x(), g.centres[e].y(), 0).normalized(), round(-out.y(), out.x(), 0);
      CHECK((hoop[e] - round).norm() < 1e-12);
      const Vec3 up_the_side = (out + Vec3(0, 0, 3)).normalized();  // along a straight line of the cone
      largest = std::max({largest, (axial[e] - up_the_side).norm(), (radial[e] - up_the_side).norm()});
    }
    return largest;
  };
  const double order = std::log2(error(24) / error(48));
  CHECK(test::near(order, 2.0, 0.05));
}

TEST_CASE("about a centre: meridians run to the pole, parallels round it, on a sphere off the origin") {
  const Vec3 centre(5, -2, 3);
  const mesh::Surface s = test::surface(
      {.nx = 24,
       .ny = 12,
       .map =
           [&](double u, double v) {
             const double a = 2 * std::numbers::pi * u, b = (v - 0.5) * 2.4;
             return Vec3(centre + 4 * Vec3(std::cos(b) * std::cos(a), std::cos(b) * std::sin(a), std::sin(b)));
           },
       .closed_u = true});
  const mesh::Geometry g = mesh::geometry(s);
  const auto taken = [&](part::Spherical::Take take) {
    return frame::field({"f", part::Spherical{centre, {0, 0, 1}, take}, {}, {}, {}, {}}, s, g);
  };
  const auto meridian = taken(part::Spherical::Take::meridian).directions,
             parallel = taken(part::Spherical::Take::parallel).directions;
  for (std::size_t e = 0; e < g.normals.size(); ++e) {
    CHECK(meridian[e].z() > 0);
    CHECK(std::abs(parallel[e].z()) < 1e-9);
    CHECK((g.normals[e].cross(meridian[e]) + parallel[e]).norm() < 1e-9);  // east, north and out are a right-handed set
  }
  CHECK(taken(part::Spherical::Take::radial).undefined.size() == g.normals.size());  // along the normal everywhere
}

TEST_CASE("a frame is turned by a constant, and can take the mesher's side") {
  const mesh::Surface s = test::surface(half_tube(24));
  const mesh::Geometry g = mesh::geometry(s);
  const auto plain = frame::field(along({0, 1, 0}), s, g).directions;
  part::Frame turned = along({0, 1, 0});
  turned.turn = Angle::degrees(30);
  const auto directions = frame::field(turned, s, g).directions;
  const auto sides = frame::field({"f", part::AsMeshedSide{}, {}, {}, {}, {}}, s, g).directions;
  for (mesh::ElementIndex e = 0; e < s.element_count(); ++e) {
    CHECK(test::near(frame::between(plain[e], directions[e], g.normals[e]).degrees(), 30.0));
    CHECK((sides[e] - (s.points[s.nodes_of(e)[1]] - s.points[s.nodes_of(e)[0]]).normalized()).norm() < 1e-12);
  }
}

TEST_CASE("the element side stays the file's side 1-2 where elements were turned round") {
  for (const bool triangles : {false, true}) {
    Grid grid = Grid::rectangle(4, 3, 4, 3);
    grid.triangles = triangles;
    mesh::Surface surface = test::surface(grid);
    std::vector<Vec3> sides;
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
      const auto corners = surface.corners_of(e);
      sides.push_back((surface.points[corners[1]] - surface.points[corners[0]]).normalized());
    }
    Findings findings;
    mesh::orient(surface, mesh::Along{{0, 0, -1}}, findings);
    part::Frame frame;
    frame.name = "f";
    frame.kind = part::AsMeshedSide{};
    const frame::Field field = frame::field(frame, surface, mesh::geometry(surface));
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e)
      CHECK((field.directions[e] - sides[e]).norm() < 1e-12);
  }
}

}  // namespace of_frame_field
