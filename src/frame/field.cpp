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

/// What a kind of frame has to go by at one element.
struct Spot {
  const mesh::Surface& surface;
  const mesh::Geometry& geometry;
  mesh::ElementIndex element;
};

// The vector that each kind projects on the element's plane; zero where it has none.

Vec3 vector_at(const part::ProjectedVector& kind, const Spot&) { return kind.vector; }

Vec3 vector_at(const part::Cylindrical& kind, const Spot& spot) {
  const Vec3 from_axis = spot.geometry.centres[spot.element] - kind.through;
  switch (kind.take) {
    case part::Cylindrical::Take::axial:
      return kind.along;
    case part::Cylindrical::Take::hoop:
      return kind.along.cross(from_axis);
    case part::Cylindrical::Take::radial:
      break;
  }
  return from_axis - from_axis.dot(kind.along) * kind.along;
}

Vec3 vector_at(const part::Spherical& kind, const Spot& spot) {
  const Vec3 outward = spot.geometry.centres[spot.element] - kind.centre;
  switch (kind.take) {
    case part::Spherical::Take::meridian:
      return outward.cross(kind.pole).cross(outward);
    case part::Spherical::Take::parallel:
      return kind.pole.cross(outward);
    case part::Spherical::Take::radial:
      break;
  }
  return outward;
}

Vec3 vector_at(const part::AsMeshedSide&, const Spot& spot) {
  const auto corners = spot.surface.corners_of(spot.element);
  return spot.surface.points[corners[1]] - spot.surface.points[corners[0]];
}

}  // namespace

Field field(const part::Frame& frame, const mesh::Surface& surface, const mesh::Geometry& geometry) {
  const std::size_t count = geometry.normals.size();
  Field out;
  out.directions.assign(count, Vec3::Zero());
  enum : std::uint8_t { regular, fallen_back, undefined };
  std::vector<std::uint8_t> state(count, regular);
  parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) {
      const Vec3& normal = geometry.normals[e];
      const bool has_normal = normal.squaredNorm() > 0.5;  // an element without area has none
      const Spot spot{surface, geometry, static_cast<mesh::ElementIndex>(e)};
      auto d = has_normal
                   ? projected(std::visit([&](const auto& kind) { return vector_at(kind, spot); }, frame.kind), normal)
                   : std::nullopt;
      if (!d && has_normal && frame.fallback) {
        d = projected(*frame.fallback, normal);
        state[e] = fallen_back;
      }
      if (d)
        out.directions[e] = turned(*d, normal, frame.turn);
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
