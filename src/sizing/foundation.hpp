// The core of a sandwich under waves of its faces, as a solid.
#ifndef BORDADO_SRC_SIZING_FOUNDATION_HPP
#define BORDADO_SRC_SIZING_FOUNDATION_HPP

#include <bordado/sandwich.hpp>

namespace bordado::sizing {

/// Faces and core in waves along one direction.
class Foundation {
 public:
  Foundation(const Sandwich& sandwich, double direction);

  /// What waves w = sin kx of 1 of the bottom and of the top face need, force per area; moves in the plane are free.
  Matrix2 stiffness(double k) const;
  /// The same of one face while the other lies on something that does not give, and what of it the core bears across itself.
  struct Lying {
    double whole, below;
  };
  Lying lying(double k, bool above) const;

 private:
  material::Matrix6 core(double k) const;
  Matrix3 face(const laminate::Stiffness& about_core, double k) const;

  material::Matrix6 material_;  ///< of the core, 1 along the waves
  double thickness_;
  laminate::Stiffness bottom_, top_;  ///< 1 along the waves
};

}  // namespace bordado::sizing

#endif
