/// \file frame.hpp
/// Declared frames as a reference direction (0°) on every element.
#ifndef BORDADO_FRAME_HPP
#define BORDADO_FRAME_HPP

#include <bordado/zone.hpp>

namespace bordado::frame {

/// Within this angle of the normal a vector has no usable projection.
inline constexpr Angle least_angle_to_normal = Angle::degrees(5.0);

/// The direction of 0° on every element: unit vectors in the element's plane. t = n × r completes the axes.
struct Field {
  std::vector<Vec3> directions;                 ///< per element; zero where there is none
  std::vector<mesh::ElementIndex> fallen_back;  ///< elements that took the fallback, ascending
  std::vector<mesh::ElementIndex> undefined;    ///< elements without a direction, ascending
  /// Per element, where directions come from a curve or another mesh; otherwise empty. Distance: along the surface to
  /// the curve, or through space to the place on the other mesh. Doubt: 0 where all that meets there agrees, 1 where
  /// it cancels out; for a guide surface how far the normals are from parallel.
  std::vector<double> distance, doubt;
  std::optional<double> fit;  ///< mapped by point pairs or best fit: the root mean square distance that is left
};

/// What frames are made from beside their own declaration.
struct Surroundings {
  const part::Part& part;
  const mesh::Surface& surface;
  const mesh::Geometry& geometry;
  const zone::Curves& curves;
  const zone::ZoneSets& zones;
  /// What is made already, so that a blend does not make it again; it leaves what it makes.
  List<part::FrameId, std::optional<Field>>* made = nullptr;
};

/// \throws Failure "frame.unknown", "frame.circular", "frame.of-unknown", "frame.field", and as the readers of its
/// files.
Field field(const part::Frame& frame, const Surroundings& around, Findings& findings);

/// As above, for frames that need neither curves, zones nor other frames.
Field field(const part::Frame& frame, const mesh::Surface& surface, const mesh::Geometry& geometry);

/// A sentence for a person: how 0° came about on an element of a field.
std::string explain(const part::Frame& frame, const part::Part& part, const mesh::Geometry& geometry,
                    const Field& field, mesh::ElementIndex element);

/// Unit projection of a vector on the plane with unit normal n, or nothing within `least_angle_to_normal` of it.
std::optional<Vec3> projected(const Vec3& vector, const Vec3& normal);

/// r turned by an angle towards n × r.
Vec3 turned(const Vec3& r, const Vec3& normal, Angle angle);

/// The angle that turns r into d about n, in (-180°, 180°].
Angle between(const Vec3& r, const Vec3& d, const Vec3& normal);

}  // namespace bordado::frame

#endif
