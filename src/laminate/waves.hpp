// Waves of a face or of a sandwich, in any direction.
#pragma once

#include <bordado/laminate.hpp>

#include <cmath>

namespace bordado::laminate {

/// What is asked of components 11, 22, 12 along a direction that waves run in: along.dot(D * along) bends them,
/// along.dot(N) pushes them.
inline Vector3 across_waves(double direction) {
  const double c = std::cos(direction), s = std::sin(direction);
  return {c * c, s * s, 2.0 * c * s};
}

}  // namespace bordado::laminate
