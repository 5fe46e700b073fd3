#include <bordado/laminate.hpp>

#include <fmt/format.h>
#include <Eigen/Cholesky>
#include <Eigen/LU>

#include <stdexcept>

namespace bordado::laminate {

Matrix3 plane_stress_stiffness(const material::Elastic& m) {
  const double nu21 = m.nu12 * m.E2 / m.E1, divisor = 1.0 - m.nu12 * nu21;
  Matrix3 Q = Matrix3::Zero();
  Q(0, 0) = m.E1 / divisor;
  Q(1, 1) = m.E2 / divisor;
  Q(0, 1) = Q(1, 0) = m.nu12 * m.E2 / divisor;
  Q(2, 2) = m.G12;
  return Q;
}

Matrix3 rotated(const Matrix3& Q, Angle angle) {
  // Strain in ply axes from strain in reference axes (Jones eq. 2.75 with engineering shear); energy is the same in
  // both.
  const double c = angle.cos(), s = angle.sin();
  Matrix3 T;
  T << c * c, s * s, c * s,  //
      s * s, c * c, -c * s,  //
      -2 * c * s, 2 * c * s, c * c - s * s;
  return T.transpose() * Q * T;
}

Matrix2 transverse_stiffness(const material::Elastic& m, Angle angle) {
  const double c = angle.cos(), s = angle.sin();
  Matrix2 G;
  G(0, 0) = c * c * m.G13 + s * s * m.G23;
  G(1, 1) = s * s * m.G13 + c * c * m.G23;
  G(0, 1) = G(1, 0) = c * s * (m.G13 - m.G23);
  return G;
}

Eigen::Matrix<double, 6, 6> Stiffness::ABD() const {
  Eigen::Matrix<double, 6, 6> out;
  out << A, B, B, D;
  return out;
}

namespace {

void check(std::span<const Layer> layers) {
  if (layers.empty()) throw std::invalid_argument("the stack has no layers");
  for (const Layer& layer : layers)
    if (!(layer.thickness > 0.0))
      throw std::invalid_argument(fmt::format("a layer has thickness {:g}; it must be positive", layer.thickness));
}

Stiffness membrane_and_bending(std::span<const Layer> layers, double z0) {
  Stiffness out;
  double z = z0;
  for (const Layer& layer : layers) {
    const Matrix3 Q = rotated(plane_stress_stiffness(layer.elastic), layer.angle);
    const double t = layer.thickness, middle = z + 0.5 * t;
    out.A += t * Q;
    out.B += t * middle * Q;
    out.D += (t * middle * middle + t * t * t / 12.0) * Q;
    z += t;
  }
  return out;
}

}  // namespace

Matrix2 transverse_shear(std::span<const Layer> layers) {
  check(layers);
  const double h = thickness(layers), bottom = -0.5 * h;
  const Stiffness about_middle = membrane_and_bending(layers, bottom);
  // Strain gradients for unit moment gradients: column 0 for dMx/dx = 1 (derivatives along x), column 1 for dMy/dy = 1
  // (along y).
  const Eigen::Matrix<double, 6, 6> compliance = about_middle.ABD().fullPivLu().inverse();
  const Vector3 e_x = compliance.block<3, 1>(0, 3), k_x = compliance.block<3, 1>(3, 3);
  const Vector3 e_y = compliance.block<3, 1>(0, 4), k_y = compliance.block<3, 1>(3, 4);

  // dt/dz = -(ds along x, y): with d/dx only for column 0 (sx -> txz, txy -> tyz), d/dy only for column 1 (txy -> txz,
  // sy -> tyz).
  const auto gradient = [](const Matrix3& Q, const Vector3& along_x, const Vector3& along_y) {
    const Vector3 x = Q * along_x, y = Q * along_y;
    Matrix2 out;
    out << -x(0), -y(2), -x(2), -y(1);
    return out;
  };

  const double position[] = {-0.7745966692414834, 0.0, 0.7745966692414834}, weight[] = {5.0 / 9, 8.0 / 9, 5.0 / 9};
  Matrix2 flexibility = Matrix2::Zero(), below = Matrix2::Zero();  // below: shear stress at the layer's bottom
  double z = bottom;
  for (const Layer& layer : layers) {
    const Matrix3 Q = rotated(plane_stress_stiffness(layer.elastic), layer.angle);
    const Matrix2 constant = gradient(Q, e_x, e_y), linear = gradient(Q, k_x, k_y);
    const Matrix2 inverse_G = transverse_stiffness(layer.elastic, layer.angle).inverse();
    const auto stress = [&](double height) -> Matrix2 {
      return below + constant * (height - z) + linear * (0.5 * (height * height - z * z));
    };
    for (int q = 0; q < 3; ++q) {
      const Matrix2 t = stress(z + 0.5 * layer.thickness * (1.0 + position[q]));
      flexibility += 0.5 * layer.thickness * weight[q] * (t.transpose() * inverse_G * t);
    }
    below = stress(z + layer.thickness);
    z += layer.thickness;
  }
  return flexibility.inverse();
}

Matrix2 transverse_shear_voigt(std::span<const Layer> layers) {
  Matrix2 out = Matrix2::Zero();
  for (const Layer& layer : layers) out += layer.thickness * transverse_stiffness(layer.elastic, layer.angle);
  return out;
}

Stiffness stiffness(std::span<const Layer> layers, double z0) {
  check(layers);
  Stiffness out = membrane_and_bending(layers, z0);
  out.H = transverse_shear(layers);
  return out;
}

Stiffness moved(const Stiffness& s, double distance) {
  // e0 (new plane) = e0 + distance k and N, M follow: B' = B - d A, D' = D - 2 d B + d² A.
  Stiffness out = s;
  out.B = s.B - distance * s.A;
  out.D = s.D - 2.0 * distance * s.B + distance * distance * s.A;
  return out;
}

namespace {

EngineeringConstants constants(const Matrix3& compliance, double scale) {
  return {1.0 / (scale * compliance(0, 0)), 1.0 / (scale * compliance(1, 1)), 1.0 / (scale * compliance(2, 2)),
          -compliance(0, 1) / compliance(0, 0)};
}

}  // namespace

EngineeringConstants in_plane(const Stiffness& s, double thickness, double middle) {
  const Eigen::Matrix<double, 6, 6> compliance = moved(s, middle).ABD().fullPivLu().inverse();
  return constants(compliance.topLeftCorner<3, 3>(), thickness);
}

EngineeringConstants in_plane_constrained(const Stiffness& s, double thickness) {
  return constants(s.A.inverse(), thickness);
}

EngineeringConstants in_bending(const Stiffness& s, double thickness, double middle) {
  const Eigen::Matrix<double, 6, 6> compliance = moved(s, middle).ABD().fullPivLu().inverse();
  return constants(compliance.bottomRightCorner<3, 3>(), thickness * thickness * thickness / 12.0);
}

double thickness(std::span<const Layer> layers) {
  double sum = 0.0;
  for (const Layer& layer : layers) sum += layer.thickness;
  return sum;
}

double areal_mass(std::span<const Layer> layers) {
  double sum = 0.0;
  for (const Layer& layer : layers) sum += layer.thickness * layer.density;
  return sum;
}

}  // namespace bordado::laminate
