// Shear stresses through the thickness by equilibrium.
#pragma once

#include <bordado/laminate.hpp>

namespace bordado::laminate {

/// Shear stresses [txz tyz] = T(z) [Qx Qy] of one layer: T is quadratic, from what has gathered below.
struct ShearFlow {
  double z = 0.0;  ///< of the layer's bottom, from the laminate's middle
  Matrix2 below, constant, linear;
  Matrix2 at(double height) const {
    return below + constant * (height - z) + linear * (0.5 * (height * height - z * z));
  }
};

/// Of every layer, bottom to top. \throws std::invalid_argument as stiffness().
std::vector<ShearFlow> shear_flows(std::span<const Layer> layers);

}  // namespace bordado::laminate
