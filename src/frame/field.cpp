#include <bordado/frame.hpp>

#include <Eigen/Geometry>

#include <cmath>

namespace bordado::frame {

std::optional<Vec3> projected(const Vec3& vector, const Vec3& normal) {
  const double length = vector.norm();
  if (!(length > 0.0)) return std::nullopt;
  const Vec3 in_plane = vector / length - (vector.dot(normal) / length) * normal;
  const double sine = in_plane.norm();  // of the angle between vector and normal
  if (!(sine >= least_angle_to_normal.sin())) return std::nullopt;
  return Vec3(in_plane / sine);
}

Vec3 turned(const Vec3& r, const Vec3& normal, Angle angle) { return angle.cos() * r + angle.sin() * normal.cross(r); }

Angle between(const Vec3& r, const Vec3& d, const Vec3& normal) {
  return Angle::radians(std::atan2(normal.cross(r).dot(d), r.dot(d)));
}

namespace {

std::optional<Vec3> direction(const part::ProjectedVector& kind, const Vec3& normal) {
  return projected(kind.vector, normal);
}

}  // namespace

Field field(const part::Frame& frame, const mesh::Geometry& geometry) {
  const std::size_t count = geometry.normals.size();
  Field out;
  out.directions.assign(count, Vec3::Zero());
  enum : std::uint8_t { regular, fallen_back, undefined };
  std::vector<std::uint8_t> state(count, regular);
  parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) {
      const Vec3& normal = geometry.normals[e];
      const bool has_normal = normal.squaredNorm() > 0.5;  // an element without area has none
      auto d =
          has_normal ? std::visit([&](const auto& kind) { return direction(kind, normal); }, frame.kind) : std::nullopt;
      if (!d && has_normal && frame.fallback) {
        d = projected(*frame.fallback, normal);
        state[e] = fallen_back;
      }
      if (d)
        out.directions[e] = *d;
      else
        state[e] = undefined;
    }
  });
  for (mesh::ElementIndex e = 0; e < count; ++e) {
    if (state[e] == fallen_back) out.fallen_back.push_back(e);
    if (state[e] == undefined) out.undefined.push_back(e);
  }
  return out;
}

}  // namespace bordado::frame
