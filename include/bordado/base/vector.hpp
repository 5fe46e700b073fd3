/// \file vector.hpp
/// Vectors in space.
#ifndef BORDADO_BASE_VECTOR_HPP
#define BORDADO_BASE_VECTOR_HPP

#include <Eigen/Core>

namespace bordado {

using Vec3 = Eigen::Vector3d;

/// What a symmetric matrix does along its own axes.
struct Principal {
  Vec3 values;           ///< ascending
  Eigen::Matrix3d axes;  ///< a column each, of unit length
};
Principal principal(const Eigen::Matrix3d& symmetric);

}  // namespace bordado

#endif
