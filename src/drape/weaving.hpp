// What nets and strips share: where cloth may go, the seed, knots as they are placed.
#pragma once

#include "step.hpp"

namespace bordado::drape {

struct Weaving {
  /// \throws Failure "drape.cell".
  Weaving(const SmoothSurface& on, const NetOptions& options);
  /// Places the knot of the seed. Returns the warp's direction there. \throws Failure "drape.seed", "drape.direction".
  Vec3 start(Crossing& seed);
  /// Places a knot, and finds out whether the net lies on itself there.
  /// \param lap, beside of the knots it came from
  void put(Knot& knot, const Crossing& at, int i, int j, std::uint8_t lap, bool beside);
  void stopped(Knot& knot, Stop why, const Crossing& last);
  /// Whether cloth lies on an element already that is far from (i, j) in the net.
  bool laps(mesh::ElementIndex e, int i, int j) const;

  const SmoothSurface& surface;
  Net net;
  std::vector<std::uint8_t> wanted, near;  ///< per element, those that carry the surface on too
  std::vector<std::uint8_t> seen;          ///< whether a knot lies on an element, and the first that does
  std::vector<std::array<int, 2>> visited;
};

/// A knot's place.
inline Crossing as_crossing(const Knot& knot) { return {knot.point, knot.normal, knot.spot}; }

/// A tangent turned about the normal, radians.
inline Vec3 turned(const Vec3& direction, const Vec3& normal, double angle) {
  return direction * std::cos(angle) + normal.cross(direction) * std::sin(angle);
}

}  // namespace bordado::drape
