// Walls of metal and of carbon plies, for sections by hand.
#pragma once

#include "support.hpp"

#include <bordado/strength.hpp>

namespace test {

inline constexpr double metal_E = 70e3, metal_G = metal_E / 2.6;

inline bordado::laminate::Stack metal(double t) {
  bordado::laminate::Stack out;
  out.layers.push_back({bordado::material::isotropic(metal_E, 0.3), t, bordado::Angle::degrees(0), 2.7e-9});
  return out;
}
inline bordado::laminate::Stack plies(std::initializer_list<double> angles) {
  bordado::laminate::Stack out;
  for (const double angle : angles) out.layers.push_back({carbon(), 0.2, bordado::Angle::degrees(angle), 1.6e-9});
  return out;
}

}  // namespace test
