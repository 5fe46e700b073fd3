#include "foundation.hpp"

#include <Eigen/Cholesky>
#include <Eigen/LU>

#include <cmath>

namespace bordado::sizing {

using material::Matrix6;

namespace {

laminate::Stiffness turned(const laminate::Stiffness& given, double cosine, double sine) {
  // Strains along the old axes from those along the new ones.
  const Matrix3 back = laminate::strains_to(cosine, -sine);
  const auto turn = [&](const Matrix3& m) { return Matrix3(back.transpose() * m * back); };
  return {turn(given.A), turn(given.B), turn(given.D), given.H};
}

/// Two equal layers, one on the other: the plane between them moves as it likes.
Matrix6 doubled(const Matrix6& one) {
  const Matrix3 a = one.topLeftCorner<3, 3>(), b = one.topRightCorner<3, 3>(), d = one.bottomRightCorner<3, 3>();
  const Eigen::LLT<Matrix3> between(d + a);
  const Matrix3 by_upper = between.solve(b), by_lower = between.solve(b.transpose());
  Matrix6 out;
  out.topLeftCorner<3, 3>() = a - b * by_lower;
  out.topRightCorner<3, 3>() = -b * by_upper;
  out.bottomLeftCorner<3, 3>() = out.topRightCorner<3, 3>().transpose();
  out.bottomRightCorner<3, 3>() = d - b.transpose() * by_upper;
  return 0.5 * (out + out.transpose());
}

}  // namespace

Foundation::Foundation(const Sandwich& sandwich, double direction) : thickness_(sandwich.core_thickness) {
  const double c = std::cos(direction), s = std::sin(direction);
  Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();
  axes.topLeftCorner<2, 2>() << c, -s, s, c;
  material_ = material::turned(sandwich.core, axes);
  bottom_ = turned(sandwich.bottom.about_core, c, s);
  top_ = turned(sandwich.top.about_core, c, s);
}

/// Forces per area on the two planes of the core (u, v, w below; u, v, w above) for waves of 1. A layer that is thin beside the
/// wave by the series of its state (displacements and stresses of a plane, d/dz of them by elasticity and equilibrium), then
/// doubled: nothing grows without bound, whatever the thickness, and equal roots do no harm.
Matrix6 Foundation::core(double k) const {
  const Matrix6& C = material_;
  const double scale = C(4, 4);
  Matrix2 G;  // xz, yz
  G << C(4, 4), C(3, 4), C(3, 4), C(3, 3);
  // z counts in 1 / k, stresses in k times the shear modulus.
  const Matrix2 softness = scale * G.inverse();
  Matrix6 slope = Matrix6::Zero();  // of u, v, w, txz, tyz, szz
  slope.block<2, 2>(0, 3) = softness;
  slope(0, 2) = -1.0;
  slope(2, 0) = C(0, 2) / C(2, 2);
  slope(2, 1) = C(2, 5) / C(2, 2);
  slope(2, 5) = scale / C(2, 2);
  // -sxx and -sxy, which t'xz and t'yz hold.
  slope(3, 0) = (C(0, 0) - C(0, 2) * C(0, 2) / C(2, 2)) / scale;
  slope(3, 1) = slope(4, 0) = (C(0, 5) - C(0, 2) * C(2, 5) / C(2, 2)) / scale;
  slope(4, 1) = (C(5, 5) - C(2, 5) * C(2, 5) / C(2, 2)) / scale;
  slope(3, 5) = -C(0, 2) / C(2, 2);
  slope(4, 5) = -C(2, 5) / C(2, 2);
  slope(5, 3) = 1.0;
  double part = k * thickness_;
  int doublings = 0;
  for (; part > 0.2; part *= 0.5) ++doublings;
  Matrix6 transfer = Matrix6::Identity(), term = Matrix6::Identity();
  for (int i = 1; i <= 14; ++i) transfer += (term = term * slope * (part / i)).eval();
  const Matrix3 from_u = transfer.topLeftCorner<3, 3>(), from_t = transfer.topRightCorner<3, 3>();
  const Matrix3 inverse = from_t.inverse();
  Matrix6 out;
  out.topLeftCorner<3, 3>() = inverse * from_u;
  out.topRightCorner<3, 3>() = -inverse;
  out.bottomLeftCorner<3, 3>() = -inverse.transpose();
  out.bottomRightCorner<3, 3>() = transfer.bottomRightCorner<3, 3>() * inverse;
  out = (0.5 * (out + out.transpose())).eval();
  for (int i = 0; i < doublings; ++i) out = doubled(out);
  return k * scale * out;
}

Matrix3 Foundation::face(const laminate::Stiffness& about_core, double k) const {
  const auto& [A, B, D, H] = about_core;
  const Vector3 strain(-k, -k, k * k);  // e along the waves, shear, curvature, by u, v, w of 1
  Matrix3 out;
  out << A(0, 0), A(0, 2), B(0, 0), A(2, 0), A(2, 2), B(2, 0), B(0, 0), B(0, 2), D(0, 0);
  return strain.asDiagonal() * out * strain.asDiagonal();
}

Matrix2 Foundation::stiffness(double k) const {
  Matrix6 all = core(k);
  all.topLeftCorner<3, 3>() += face(bottom_, k);
  all.bottomRightCorner<3, 3>() += face(top_, k);
  // u and v of both, then w of both.
  constexpr std::array<int, 6> order = {0, 1, 3, 4, 2, 5};
  const Matrix6 sorted = all(order, order);
  const Eigen::Matrix4d in_plane = sorted.topLeftCorner<4, 4>();
  const Eigen::Matrix<double, 4, 2> mixed = sorted.topRightCorner<4, 2>();
  const Matrix2 out = sorted.bottomRightCorner<2, 2>() - mixed.transpose() * in_plane.llt().solve(mixed);
  return 0.5 * (out + out.transpose());
}

Foundation::Lying Foundation::lying(double k, bool above) const {
  const Matrix6 both = core(k);
  const Matrix3 below = above ? both.bottomRightCorner<3, 3>() : both.topLeftCorner<3, 3>();
  const Matrix3 all = below + face(above ? top_ : bottom_, k);
  // Moves in the plane that no force holds.
  const Vector2 free = all.topLeftCorner<2, 2>().llt().solve(-all.topRightCorner<2, 1>());
  return {all(2, 2) + all.bottomLeftCorner<1, 2>() * free, below(2, 2) + below.bottomLeftCorner<1, 2>() * free};
}

}  // namespace bordado::sizing
