/// \file frame.hpp
/// Declared frames as a reference direction (0°) on every element.
#pragma once

#include <bordado/mesh.hpp>
#include <bordado/part.hpp>

namespace bordado::frame {

/// Within this angle of the normal a vector has no usable projection.
inline constexpr Angle least_angle_to_normal = Angle::degrees(5.0);

/// The direction of 0° on every element: unit vectors in the element's plane. t = n × r completes the axes.
struct Field {
  std::vector<Vec3> directions;                 ///< per element; zero where there is none
  std::vector<mesh::ElementIndex> fallen_back;  ///< elements that took the fallback, ascending
  std::vector<mesh::ElementIndex> undefined;    ///< elements without a direction, ascending
};

Field field(const part::Frame& frame, const mesh::Surface& surface, const mesh::Geometry& geometry);

/// Unit projection of a vector on the plane with unit normal n, or nothing within `least_angle_to_normal` of it.
std::optional<Vec3> projected(const Vec3& vector, const Vec3& normal);

/// r turned by an angle towards n × r.
Vec3 turned(const Vec3& r, const Vec3& normal, Angle angle);

/// The angle that turns r into d about n, in (-180°, 180°].
Angle between(const Vec3& r, const Vec3& d, const Vec3& normal);

}  // namespace bordado::frame
