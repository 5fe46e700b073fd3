/// \file vector.hpp
/// Vectors in space.
#ifndef BORDADO_BASE_VECTOR_HPP
#define BORDADO_BASE_VECTOR_HPP

#include <Eigen/Core>

#include <span>

namespace bordado {

using Vec3 = Eigen::Vector3d;

/// The box that points lie in.
struct Extent {
  Vec3 low = Vec3::Zero(), high = Vec3::Zero();
  Vec3 middle() const { return 0.5 * (low + high); }
  double diagonal() const { return (high - low).norm(); }
};
/// Without points both ends are nought.
Extent extent(std::span<const Vec3> points);

/// What a symmetric matrix does along its own axes.
struct Principal {
  Vec3 values;           ///< ascending
  Eigen::Matrix3d axes;  ///< a column each, of unit length
};
Principal principal(const Eigen::Matrix3d& symmetric);

}  // namespace bordado

#endif
