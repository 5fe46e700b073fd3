#include <bordado/inclusions.hpp>

#include <fmt/format.h>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace bordado::material {

using Eigen::Matrix3d;

namespace {

constexpr int first_of[] = {0, 1, 2, 1, 0, 0}, second_of[] = {0, 1, 2, 2, 2, 1};  // of six

/// Points and weights of the integral over s from nought to infinity of what has no poles but at -low to -high: the
/// trapezoidal rule in the logarithm of s, whose error falls as exp(-2 pi² / step).
template <class Function>
void over_all(double low, double high, const Function& with) {
  constexpr double step = 0.5;
  for (double u = std::log(low) - 42.0; u < std::log(high) + 64.0; u += step) with(std::exp(u), step * std::exp(u));
}

double delta(int i, int j) { return i == j ? 1.0 : 0.0; }

}  // namespace

Matrix6 eshelby(double nu, const Vec3& half_axes) {
  Vec3 a = half_axes;
  const double across = std::max(a[1], a[2]);
  a[0] = std::min(a[0], 1e6 * across);  // a cylinder, to twelve digits
  const Vec3 squares = a.cwiseProduct(a);
  const double volume = a.prod();
  // I_i and I_ij of Mura over 4 pi.
  Vec3 I = Vec3::Zero();
  Matrix3d I2 = Matrix3d::Zero();
  over_all(squares.minCoeff(), squares.maxCoeff(), [&](double s, double weight) {
    const Vec3 over = (squares.array() + s).inverse();
    const double each = 0.5 * volume * weight * std::sqrt(over.prod());
    I += each * over;
    I2 += each * over * over.transpose();
  });
  const double over = 1.0 / (2.0 * (1.0 - nu));
  Matrix6 S = Matrix6::Zero();
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j)
      S(i, j) = i == j ? over * (3.0 * squares[i] * I2(i, i) + (1.0 - 2.0 * nu) * I[i])
                       : over * (squares[j] * I2(i, j) - (1.0 - 2.0 * nu) * I[i]);
  for (int k = 3; k < 6; ++k) {
    const int i = first_of[k], j = second_of[k];
    S(k, k) = over * ((squares[i] + squares[j]) * I2(i, j) + (1.0 - 2.0 * nu) * (I[i] + I[j]));
  }
  return S;
}

Matrix6 in_matrix(const Matrix6& inclusion, const Elastic& matrix, double volume, const Vec3& half_axes) {
  const Matrix6 Cm = stiffness(matrix), more = inclusion - Cm, one = Matrix6::Identity();
  const Matrix6 alone = (one + eshelby(matrix.nu12, half_axes) * compliance(matrix) * more).inverse();
  const Matrix6 C = Cm + volume * more * alone * ((1.0 - volume) * one + volume * alone).inverse();
  return 0.5 * (C + C.transpose());
}

Vector6 mixed_strain(const Matrix6& inclusion, const Matrix6& matrix, const Matrix6& whole, double volume,
                     const Vector6& of_inclusion, const Vector6& of_matrix) {
  const Vector6 mean = volume * of_inclusion + (1.0 - volume) * of_matrix;
  const Matrix6 Si = inclusion.inverse(), Sm = matrix.inverse(), difference = Si - Sm;
  if (difference.norm() <= 1e-9 * Sm.norm()) return mean;
  const Matrix6 concentrates = (whole.inverse() - volume * Si - (1.0 - volume) * Sm);
  // Where phases differ in one direction only, what is undefined there is nought: by least squares.
  return mean + concentrates * difference.fullPivLu().solve(Vector6(of_inclusion - of_matrix));
}

std::string_view name_of(Closure closure) {
  constexpr std::string_view names[] = {"natural", "hybrid", "quadratic", "linear"};
  return names[static_cast<std::size_t>(closure)];
}

std::optional<std::string> not_an_orientation(const Matrix3d& mean) {
  if (!mean.allFinite()) return "it has what is no number";
  if (std::abs(mean.trace() - 1.0) > 1e-3)
    return fmt::format("its first three add up to {:.6g}, and shares of all directions add up to 1", mean.trace());
  const Principal own = principal(mean);
  if (own.values[0] < -1e-3)
    return fmt::format("along one direction it has a share of {:.4g}, and none is less than nought", own.values[0]);
  return std::nullopt;
}

namespace {

/// What a_iijj are along the axes of an orientation with these shares: of directions that lie on a sphere evenly before
/// it is drawn into an ellipsoid.
Matrix3d of_an_ellipsoid(const Vec3& shares) {
  Vec3 u = Vec3::Zero();  // logarithms of the ellipsoid's constants, whose sum is nought
  // A share of a_i is half the integral of 1 / ((b_i + s) root of the product of all b + s).
  struct Integrals {
    Vec3 share = Vec3::Zero();
    Matrix3d pairs = Matrix3d::Zero(), fourth = Matrix3d::Zero();
  };
  const auto at = [](const Vec3& logs) {
    const Vec3 b = logs.array().exp();
    Integrals out;
    over_all(b.minCoeff(), b.maxCoeff(), [&](double s, double weight) {
      const Vec3 over = (b.array() + s).inverse();
      const double each = 0.5 * weight * std::sqrt(over.prod());
      out.share += each * over;
      out.pairs += each * over * over.transpose();
      out.fourth += 0.5 * s * each * over * over.transpose();
    });
    out.fourth.diagonal() *= 3.0;
    return out;
  };
  auto now = at(u);
  const auto off = [&](const Vec3& share) { return (share.array().log() - shares.array().log()).matrix().eval(); };
  for (int step = 0; step < 200; ++step) {
    const Vec3 residual = off(now.share);
    if (residual.cwiseAbs().maxCoeff() < 1e-12) break;
    // Derivatives of the logarithms of shares; the last row keeps the sum of logarithms.
    Matrix3d J;
    for (int i = 0; i < 3; ++i)
      for (int j = 0; j < 3; ++j) J(i, j) = -(0.5 + delta(i, j)) * now.pairs(i, j) * std::exp(u[j]) / now.share[i];
    Eigen::Matrix<double, 4, 3> all;
    all << J, Eigen::RowVector3d::Ones();
    Eigen::Vector4d wanted;
    wanted << -residual, 0.0;
    const Vec3 by = (all.transpose() * all).fullPivLu().solve(all.transpose() * wanted);
    double part = std::min(1.0, 3.0 / std::max(1e-300, by.cwiseAbs().maxCoeff()));
    Vec3 next = u;
    for (int halving = 0; halving < 30; ++halving, part *= 0.5) {
      next = u + part * by;
      next.array() -= next.mean();
      const auto there = at(next);
      if (off(there.share).norm() < residual.norm()) {
        now = there;
        break;
      }
    }
    if ((next - u).norm() < 1e-14) break;
    u = next;
  }
  return now.fourth;
}

using Fourth = Matrix6;  // a_ijkl at (ij, kl)

Fourth linear_closure(const Matrix3d& a) {
  Fourth out;
  for (int m = 0; m < 6; ++m)
    for (int n = 0; n < 6; ++n) {
      const int i = first_of[m], j = second_of[m], k = first_of[n], l = second_of[n];
      out(m, n) = -1.0 / 35.0 * (delta(i, j) * delta(k, l) + delta(i, k) * delta(j, l) + delta(i, l) * delta(j, k)) +
                  1.0 / 7.0 *
                      (a(i, j) * delta(k, l) + a(i, k) * delta(j, l) + a(i, l) * delta(j, k) + a(k, l) * delta(i, j) +
                       a(j, l) * delta(i, k) + a(j, k) * delta(i, l));
    }
  return out;
}

Fourth quadratic_closure(const Matrix3d& a) {
  Fourth out;
  for (int m = 0; m < 6; ++m)
    for (int n = 0; n < 6; ++n) out(m, n) = a(first_of[m], second_of[m]) * a(first_of[n], second_of[n]);
  return out;
}

Fourth natural_closure(const Matrix3d& a) {
  const Principal own = principal(a);
  // Fibres that lie in a plane, or all along a line, as near as it takes.
  Vec3 shares = own.values.cwiseMax(1e-9);
  shares /= shares.sum();
  const Matrix3d along = of_an_ellipsoid(shares);
  Fourth out = Fourth::Zero();
  const auto& Q = own.axes;
  for (int m = 0; m < 6; ++m)
    for (int n = 0; n < 6; ++n) {
      const int i = first_of[m], j = second_of[m], k = first_of[n], l = second_of[n];
      for (int p = 0; p < 3; ++p)
        for (int q = 0; q < 3; ++q) {
          const double value = along(p, q);
          out(m, n) += value * Q(i, p) * Q(j, p) * Q(k, q) * Q(l, q);
          if (p != q) out(m, n) += value * Q(i, p) * Q(j, q) * (Q(k, p) * Q(l, q) + Q(k, q) * Q(l, p));
        }
    }
  return out;
}

}  // namespace

Matrix6 fourth_moment(const Orientation& orientation) {
  if (const auto why = not_an_orientation(orientation.mean)) throw std::invalid_argument(*why);
  // What was rounded is made whole: nothing below nought, and a sum of one.
  Matrix3d a = 0.5 * (orientation.mean + orientation.mean.transpose());
  const Principal own = principal(a);
  const Vec3 shares = own.values.cwiseMax(0.0);
  a = own.axes * (shares / shares.sum()).asDiagonal() * own.axes.transpose();
  switch (orientation.closure) {
    case Closure::natural:
      return natural_closure(a);
    case Closure::linear:
      return linear_closure(a);
    case Closure::quadratic:
      return quadratic_closure(a);
    case Closure::hybrid:
      break;
  }
  const double f = 1.0 - 27.0 * a.determinant();
  return (1.0 - f) * linear_closure(a) + f * quadratic_closure(a);
}

Matrix6 mean_stiffness(const Matrix6& C, const Orientation& orientation) {
  const Fourth fourth = fourth_moment(orientation);
  Matrix3d a;  // that the fourth moment is of
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j) {
      const int m = i == j ? i : 6 - i - j;
      a(i, j) = fourth(m, 0) + fourth(m, 1) + fourth(m, 2);
    }
  const double B1 = C(0, 0) + C(1, 1) - 2.0 * C(0, 1) - 4.0 * C(5, 5), B2 = C(0, 1) - C(1, 2), B4 = C(1, 2),
               B5 = 0.5 * (C(1, 1) - C(1, 2)), B3 = C(5, 5) - B5;
  Matrix6 out;
  for (int m = 0; m < 6; ++m)
    for (int n = 0; n < 6; ++n) {
      const int i = first_of[m], j = second_of[m], k = first_of[n], l = second_of[n];
      out(m, n) = B1 * fourth(m, n) + B2 * (a(i, j) * delta(k, l) + delta(i, j) * a(k, l)) +
                  B3 * (a(i, k) * delta(j, l) + a(i, l) * delta(j, k) + a(j, k) * delta(i, l) + a(j, l) * delta(i, k)) +
                  B4 * delta(i, j) * delta(k, l) + B5 * (delta(i, k) * delta(j, l) + delta(i, l) * delta(j, k));
    }
  return out;
}

Matrix6 mean_compliance(const Matrix6& S, const Orientation& orientation) {
  Vector6 twice;
  twice << 1, 1, 1, 2, 2, 2;
  const Matrix6 without = twice.cwiseInverse().asDiagonal() * S * twice.cwiseInverse().asDiagonal();
  return twice.asDiagonal() * mean_stiffness(without, orientation) * twice.asDiagonal();
}

namespace {

/// What is `along` the fibres and `across` them, in the mean of six.
Vector6 mean_of(double along, double across, const Matrix3d& a) {
  const Matrix3d m = across * Matrix3d::Identity() + (along - across) * a;
  Vector6 out;
  out << m(0, 0), m(1, 1), m(2, 2), m(1, 2), m(0, 2), m(0, 1);
  return out;
}

bool any_of(const Expansion& e) { return e.along || e.across || e.through; }

/// Strengths along the axes, by the means of the coefficients of Tsai and Wu. \param own that of the aligned material
void strengths(const Material& aligned, const Orientation& orientation, Material& out) {
  const Strength& s = aligned.strength;
  if (!s.Xt || !s.Xc || !s.Yt || !s.Yc || !s.S12) return;
  const double F1 = 1.0 / *s.Xt - 1.0 / *s.Xc, F2 = 1.0 / *s.Yt - 1.0 / *s.Yc, F11 = 1.0 / (*s.Xt * *s.Xc),
               F22 = 1.0 / (*s.Yt * *s.Yc), F66 = 1.0 / (*s.S12 * *s.S12),
               F12 = aligned.interaction.F12.value_or(-0.5) * std::sqrt(F11 * F22);
  const double S23 = s.S23.value_or(0.5 * *s.Yc), F44 = 1.0 / (S23 * S23), F23 = F22 - 0.5 * F44;
  Matrix6 F = Matrix6::Zero();
  F.topLeftCorner<3, 3>() << F11, F12, F12, F12, F22, F23, F12, F23, F22;
  F.diagonal().tail<3>() << F44, F66, F66;
  const Matrix6 mean = mean_compliance(F, orientation);
  const Vector6 linear = mean_of(F1, F2, orientation.mean);
  // So that no root or share below leaves the numbers.
  for (int i = 0; i < 6; ++i)
    if (!(mean(i, i) > 1e-100 && mean(i, i) < 1e100))
      throw std::invalid_argument(
          fmt::format("the strengths of '{}' are no strengths, or too far apart", aligned.name));
  // F1 X + F11 X² = 1
  const auto bears = [&](int i, std::optional<double>& tension, std::optional<double>& compression) {
    const double root = std::sqrt(linear[i] * linear[i] + 4.0 * mean(i, i));
    if (!tension) tension = (root - linear[i]) / (2.0 * mean(i, i));
    if (!compression) compression = (root + linear[i]) / (2.0 * mean(i, i));
  };
  Strength& o = out.strength;
  bears(0, o.Xt, o.Xc), bears(1, o.Yt, o.Yc), bears(2, o.Zt, o.Zc);
  if (!o.S23) o.S23 = 1.0 / std::sqrt(mean(3, 3));
  if (!o.S13) o.S13 = 1.0 / std::sqrt(mean(4, 4));
  if (!o.S12) o.S12 = 1.0 / std::sqrt(mean(5, 5));
  const double f = mean(0, 1) / std::sqrt(mean(0, 0) * mean(1, 1));
  if (!out.interaction.F12 && std::abs(f) < 1.0) out.interaction.F12 = f;
}

}  // namespace

Material oriented(const Material& aligned, const Orientation& orientation, Material form) {
  if (aligned.kind != Kind::unidirectional)
    throw std::invalid_argument(
        fmt::format("'{}' is {}, and fibres that lie in many directions are of a unidirectional material", aligned.name,
                    name_of(aligned.kind)));
  const Elastic& e = aligned.elastic;
  const double G23 = e.E2 / (2.0 * (1.0 + e.nu23));
  const auto differ = [](double a, double b) { return std::abs(a - b) > 0.02 * std::max(std::abs(a), std::abs(b)); };
  if (e.full || differ(e.E2, e.E3) || differ(e.nu12, e.nu13) || differ(e.G12, e.G13) || differ(e.G23, G23))
    throw std::invalid_argument(fmt::format(
        "'{}' is not the same in all directions across its fibres: E3 = E2, nu13 = nu12, G13 = G12 and G23 = "
        "E2 / (2 (1 + nu23)) make it so",
        aligned.name));
  const Matrix6 C = stiffness(transversely_isotropic(e.E1, e.E2, e.nu12, e.G12, e.nu23, G23));
  const Matrix6 mean = mean_stiffness(C, orientation);
  Material out = std::move(form);
  out.elastic = from_stiffness(mean);
  if (!out.density) out.density = aligned.density;
  if (!out.stress_free_temperature) out.stress_free_temperature = aligned.stress_free_temperature;
  if (!out.thickness) out.thickness = aligned.thickness;
  const auto expands = [&](const Expansion& of, Expansion& into) {
    if (!any_of(of) || any_of(into)) return;
    Vector6 strain = Vector6::Zero();
    strain.head<3>() = of.all();
    const Vector6 held = C * strain;
    const Vector6 free = mean.fullPivLu().solve(mean_of(held[0], held[1], orientation.mean));
    into = {free[0], free[1], free[2]};
    if (std::abs(free[5]) > 1e-12 * free.norm()) into.shear = free[5];
  };
  expands(aligned.thermal, out.thermal);
  expands(aligned.moisture, out.moisture);
  if (!out.elastic.full) strengths(aligned, orientation, out);
  out.kind = out.elastic.full ? Kind::anisotropic : Kind::orthotropic;
  const Matrix3d& a = orientation.mean;
  const std::string inside = aligned.name == out.name  ? aligned.made_of
                             : aligned.made_of.empty() ? aligned.name
                                                       : fmt::format("{} ({})", aligned.name, aligned.made_of);
  out.made_of =
      fmt::format("{}, its fibres in all directions by the orientation {:g} {:g} {:g} along 1 2 3{}, {} closure",
                  inside, a(0, 0), a(1, 1), a(2, 2),
                  out.elastic.full ? fmt::format(" and {:g} {:g} {:g} of 23 13 12", a(1, 2), a(0, 2), a(0, 1)) : "",
                  name_of(orientation.closure));
  return out;
}

}  // namespace bordado::material
