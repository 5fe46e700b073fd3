#include <bordado/material.hpp>

#include <fmt/format.h>
#include <Eigen/Cholesky>
#include <Eigen/LU>

#include <cmath>

namespace bordado::material {

using Eigen::Matrix3d;

Elastic transversely_isotropic(double E1, double E2, double nu12, double G12, double nu23, double G23) {
  return {.E1 = E1, .E2 = E2, .E3 = E2, .nu12 = nu12, .nu13 = nu12, .nu23 = nu23, .G12 = G12, .G13 = G12, .G23 = G23};
}

Elastic isotropic(double E, double nu) {
  const double G = E / (2.0 * (1.0 + nu));
  return {.E1 = E, .E2 = E, .E3 = E, .nu12 = nu, .nu13 = nu, .nu23 = nu, .G12 = G, .G13 = G, .G23 = G};
}

namespace {

Matrix6 compliance_of_nine(const Elastic& m) {
  Matrix6 S = Matrix6::Zero();
  S(0, 0) = 1.0 / m.E1;
  S(1, 1) = 1.0 / m.E2;
  S(2, 2) = 1.0 / m.E3;
  S(0, 1) = S(1, 0) = -m.nu12 / m.E1;
  S(0, 2) = S(2, 0) = -m.nu13 / m.E1;
  S(1, 2) = S(2, 1) = -m.nu23 / m.E2;
  S(3, 3) = 1.0 / m.G23;
  S(4, 4) = 1.0 / m.G13;
  S(5, 5) = 1.0 / m.G12;
  return S;
}

Elastic nine_of(const Matrix6& S) {
  return {.E1 = 1.0 / S(0, 0),
          .E2 = 1.0 / S(1, 1),
          .E3 = 1.0 / S(2, 2),
          .nu12 = -S(0, 1) / S(0, 0),
          .nu13 = -S(0, 2) / S(0, 0),
          .nu23 = -S(1, 2) / S(1, 1),
          .G12 = 1.0 / S(5, 5),
          .G13 = 1.0 / S(4, 4),
          .G23 = 1.0 / S(3, 3)};
}

}  // namespace

Elastic from_stiffness(const Matrix6& given) {
  const Matrix6 C = 0.5 * (given + given.transpose());
  Elastic out = nine_of(C.inverse());
  Matrix6 coupling = C;  // what an orthotropic material has not
  coupling.topLeftCorner<3, 3>().setZero();
  coupling.diagonal().setZero();
  if (coupling.norm() > 1e-9 * C.norm()) out.full = C;
  return out;
}

Matrix6 compliance(const Elastic& elastic) {
  return elastic.full ? Matrix6(elastic.full->inverse()) : compliance_of_nine(elastic);
}

Matrix6 stiffness(const Elastic& elastic) {
  return elastic.full ? *elastic.full : Matrix6(compliance_of_nine(elastic).inverse());
}

Matrix6 turned(const Matrix6& stiffness, const Matrix3d& Q) {
  // Column j: what a unit strain j in the new axes is in the old ones, e = Q e' Qᵀ.
  constexpr int row[] = {0, 1, 2, 1, 0, 0}, column[] = {0, 1, 2, 2, 2, 1};
  Matrix6 T;
  for (int j = 0; j < 6; ++j) {
    Matrix3d unit = Matrix3d::Zero();
    unit(row[j], column[j]) += 0.5;  // both together: a direct strain of 1, or 1/2 in each place of a shear of 1
    unit(column[j], row[j]) += 0.5;
    const Matrix3d old = Q * unit * Q.transpose();
    for (int i = 0; i < 6; ++i) T(i, j) = old(row[i], column[i]) * (i < 3 ? 1.0 : 2.0);
  }
  return T.transpose() * stiffness * T;
}

std::optional<std::string> not_positive_definite(const Elastic& m) {
  const std::pair<std::string_view, double> moduli[] = {{"E1", m.E1},   {"E2", m.E2},   {"E3", m.E3},
                                                        {"G12", m.G12}, {"G13", m.G13}, {"G23", m.G23}};
  for (const auto& [name, value] : moduli)
    if (!(value > 0.0) || !std::isfinite(value)) return fmt::format("{} = {:g} is not a positive number", name, value);
  if (m.full) {
    const Eigen::LLT<Matrix6> factors(*m.full);
    if (factors.info() != Eigen::Success) return "the matrix of its 21 constants is not positive definite";
    return std::nullopt;
  }
  struct Pair {
    std::string_view name;
    double nu, ratio;
    std::string_view bound;
  };
  for (const auto& [name, nu, ratio, bound] :
       {Pair{"nu12", m.nu12, m.E1 / m.E2, "sqrt(E1/E2)"}, Pair{"nu13", m.nu13, m.E1 / m.E3, "sqrt(E1/E3)"},
        Pair{"nu23", m.nu23, m.E2 / m.E3, "sqrt(E2/E3)"}})
    if (!(std::abs(nu) < std::sqrt(ratio)))
      return fmt::format("{} = {:g} is outside ±{} = ±{:.4g}", name, nu, bound, std::sqrt(ratio));
  const double nu21 = m.nu12 * m.E2 / m.E1, nu31 = m.nu13 * m.E3 / m.E1, nu32 = m.nu23 * m.E3 / m.E2;
  const double determinant = 1.0 - m.nu12 * nu21 - m.nu23 * nu32 - m.nu13 * nu31 - 2.0 * nu21 * nu32 * m.nu13;
  if (!(determinant > 0.0))
    return fmt::format("1 - nu12 nu21 - nu23 nu32 - nu31 nu13 - 2 nu21 nu32 nu13 = {:.4g} is not positive",
                       determinant);
  return std::nullopt;
}

Layered layered(std::span<const LayerShare> parts) {
  // In the plane (i: 11, 22, 12) strains are common, out of it (o: 33, 23, 13) stresses are.
  constexpr int in[] = {0, 1, 5}, out[] = {2, 3, 4};
  const auto block = [](const Matrix6& C, const int(&rows)[3], const int(&columns)[3]) {
    Matrix3d b;
    for (int i = 0; i < 3; ++i)
      for (int j = 0; j < 3; ++j) b(i, j) = C(rows[i], columns[j]);
    return b;
  };
  const auto pick = [](const Vector6& v, const int(&rows)[3]) { return Vec3(v[rows[0]], v[rows[1]], v[rows[2]]); };
  Matrix3d reduced = Matrix3d::Zero(), softness = Matrix3d::Zero(), carried = Matrix3d::Zero();
  Vec3 push = Vec3::Zero(), growth = Vec3::Zero();
  for (const LayerShare& part : parts) {
    const Matrix6& C = part.stiffness;
    const Matrix3d Cii = block(C, in, in), Cio = block(C, in, out), Coo_inverse = block(C, out, out).inverse();
    const Vector6 held = C * part.expansion;  // stress of a layer that is held while it expands
    reduced += part.share * (Cii - Cio * Coo_inverse * Cio.transpose());
    softness += part.share * Coo_inverse;
    carried += part.share * Coo_inverse * Cio.transpose();
    push += part.share * (pick(held, in) - Cio * Coo_inverse * pick(held, out));
    growth += part.share * Coo_inverse * pick(held, out);
  }
  const Matrix3d Coo = softness.inverse(), Coi = Coo * carried, Cii = reduced + carried.transpose() * Coi;
  const Vec3 in_plane = reduced.inverse() * push, through = growth - carried * in_plane;
  Layered result;
  for (int i = 0; i < 3; ++i) {
    for (int j = 0; j < 3; ++j) {
      result.stiffness(in[i], in[j]) = Cii(i, j);
      result.stiffness(out[i], out[j]) = Coo(i, j);
      result.stiffness(out[i], in[j]) = result.stiffness(in[j], out[i]) = Coi(i, j);
    }
    result.expansion[in[i]] = in_plane[i];
    result.expansion[out[i]] = through[i];
  }
  return result;
}

}  // namespace bordado::material
