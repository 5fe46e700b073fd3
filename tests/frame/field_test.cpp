#include "support.hpp"

#include <Eigen/Geometry>

#include <cmath>
#include <random>

using namespace bordado;
using test::Grid;

namespace {

Grid half_tube(int n) {  // axis along y, from +z over +x to -z
  return {.nx = n, .ny = 4, .map = [](double u, double v) {
            return Vec3(std::sin(std::numbers::pi * u), 4 * v, std::cos(std::numbers::pi * u));
          }};
}

part::Frame along(const Vec3& vector, std::optional<Vec3> fallback = {}) {
  return {"f", part::ProjectedVector{vector}, fallback, {}};
}

}  // namespace

TEST_CASE("the projected vector is a unit vector in every element's plane, nearest to the declared one") {
  const mesh::Geometry g = mesh::geometry(test::surface(half_tube(24)));
  const frame::Field field = frame::field(along({0, 1, 0.3}), g);
  CHECK(field.undefined.empty());
  for (std::size_t e = 0; e < g.normals.size(); ++e) {
    const Vec3& r = field.directions[e];
    CHECK(r.norm() == doctest::Approx(1.0).epsilon(1e-14));
    CHECK(std::abs(r.dot(g.normals[e])) < 1e-14);
    // No other direction of the plane is nearer.
    CHECK(r.dot(Vec3(0, 1, 0.3)) ==
          doctest::Approx((Vec3(0, 1, 0.3) - Vec3(0, 1, 0.3).dot(g.normals[e]) * g.normals[e]).norm()));
  }
}

TEST_CASE("where the vector comes within 5 degrees of the normal there is no direction, unless a fallback gives one") {
  const mesh::Geometry g = mesh::geometry(test::surface(half_tube(180)));  // normals in steps of 1 degree
  const frame::Field bare = frame::field(along({1, 0, 0}), g);
  CHECK(bare.undefined.size() == 10 * 4);  // 4.5, 3.5, ... degrees on either side, four rows
  for (const mesh::ElementIndex e : bare.undefined)
    CHECK(std::abs(g.normals[e].x()) > std::cos(5 * std::numbers::pi / 180));
  const frame::Field helped = frame::field(along({1, 0, 0}, Vec3(0, 1, 0)), g);
  CHECK(helped.undefined.empty());
  CHECK(helped.fallen_back == bare.undefined);
  for (const mesh::ElementIndex e : helped.fallen_back) CHECK((helped.directions[e] - Vec3(0, 1, 0)).norm() < 1e-12);
  CHECK(frame::field(along({1, 0, 0}, Vec3(1, 0, 0)), g).undefined ==
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
    CHECK(frame::between(r, d, n).degrees() == doctest::Approx(turn.degrees()).epsilon(1e-12));
    CHECK(frame::between(r, d, -n).degrees() == doctest::Approx(-turn.degrees()).epsilon(1e-12));
    CHECK(d.norm() == doctest::Approx(1.0).epsilon(1e-14));
  }
}

TEST_CASE("an element without area has no direction") {
  mesh::Geometry g;
  g.normals = {Vec3::Zero()};
  g.centres = {Vec3::Zero()};
  g.areas = {0.0};
  CHECK(frame::field(along({1, 0, 0}, Vec3(0, 1, 0)), g).undefined == std::vector<mesh::ElementIndex>{0});
}
