#include <bordado/curved.hpp>

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace bordado::sizing {

namespace {

using Matrix5 = Eigen::Matrix<double, 5, 5>;
constexpr double pi = std::numbers::pi;

void check(const CurvedPanel& panel) {
  const auto is_length = [](double value) { return value > 0.0 && value <= 1e30; };
  if (!is_length(panel.length) || !is_length(panel.radius) || !(panel.width == 0.0 || is_length(panel.width)))
    throw std::invalid_argument("lengths of a curved panel are numbers above nought");
  if (panel.width > 2.0 * pi * panel.radius) throw std::invalid_argument("a curved panel is no wider than once round");
  const auto& [A, B, D, H] = panel.about_middle;
  if (!A.allFinite() || !B.allFinite() || !D.allFinite() || !H.allFinite() ||
      panel.about_middle.ABD().llt().info() != Eigen::Success || H.llt().info() != Eigen::Success)
    throw std::invalid_argument("a curved panel's stiffness is positive");
}

/// Twice the energy per area (over its mean) of u = U cos px sin qy, v = V sin cos, w = W sin sin, turns X cos sin, Y sin cos.
Matrix5 stiffness(const CurvedPanel& panel, double p, double q) {
  const double r = 1.0 / panel.radius;
  // Those that go with sin sin: ex, ey, kx, ky; with cos cos: gxy, kxy; shear by themselves.
  Eigen::Matrix<double, 4, 5> even;
  even << -p, 0, 0, 0, 0,  //
      0, -q, r, 0, 0,      //
      0, 0, 0, -p, 0,      //
      0, 0, 0, 0, -q;
  Eigen::Matrix<double, 2, 5> odd;
  odd << q, p, 0, 0, 0,  //
      -0.5 * r * q, 0.5 * r * p, 0, q, p;
  Eigen::Matrix<double, 2, 5> shear;
  shear << 0, 0, p, 1, 0,  //
      0, -r, q, 0, 1;
  const auto& [A, B, D, H] = panel.about_middle;
  Eigen::Matrix4d of_even;
  of_even << A.topLeftCorner<2, 2>(), B.topLeftCorner<2, 2>(), B.topLeftCorner<2, 2>().transpose(),
      D.topLeftCorner<2, 2>();
  Matrix2 of_odd;
  of_odd << A(2, 2), B(2, 2), B(2, 2), D(2, 2);
  const Matrix2 of_shear = H.diagonal().asDiagonal();
  return even.transpose() * of_even * even + odd.transpose() * of_odd * odd + shear.transpose() * of_shear * shear;
}

/// Likewise of the loads, which take off it.
Matrix5 loads(const CurvedPanel& panel, const CurvedLoad& load, double p, double q) {
  const double R = panel.radius;
  Matrix5 out = Matrix5::Zero();
  out(1, 1) += load.axial * p * p;
  out(2, 2) += load.axial * p * p;
  // Hoop force -pR on the squares of turning, w' - v/R, and of stretching, v' + w/R; and the area that the pressure sweeps.
  const double hoop = -load.pressure * R, swept = load.pressure / R;
  out(1, 1) += hoop * (1.0 / (R * R) + q * q) + swept;
  out(2, 2) += hoop * (q * q + 1.0 / (R * R)) + swept;
  const double mixed = -2.0 * hoop * q / R - swept * R * q;
  out(1, 2) += mixed;
  out(2, 1) += mixed;
  return out;
}

/// The least factor above nought of one wave.
std::optional<double> factor_of(const Matrix5& K, const Matrix5& G) {
  const Eigen::Matrix<double, 5, 1> scale = K.diagonal().cwiseSqrt().cwiseInverse();
  const Eigen::LLT<Matrix5> factors(Matrix5(scale.asDiagonal() * K * scale.asDiagonal()));
  if (factors.info() != Eigen::Success) return std::nullopt;
  Matrix5 inner = factors.matrixL().solve(Matrix5(scale.asDiagonal() * G * scale.asDiagonal()));
  inner = factors.matrixL().solve(Matrix5(inner.transpose())).eval();
  const Eigen::Matrix<double, 5, 1> values =
      Eigen::SelfAdjointEigenSolver<Matrix5>(0.5 * (inner + inner.transpose())).eigenvalues();
  const double most = -values[0];
  // What loads that only pull give is nought but for rounding.
  if (!(most > 1e-9 * values.cwiseAbs().maxCoeff())) return std::nullopt;
  return 1.0 / most;
}

double round_wave(const CurvedPanel& panel, int n) {
  return panel.width > 0.0 ? n * pi / panel.width : n / panel.radius;
}

/// Half waves along that may matter: those of axial load are about as long as (R t)^(1/2).
int most_along(const CurvedPanel& panel) {
  const auto& [A, B, D, H] = panel.about_middle;
  const double thickness = std::sqrt(12.0 * std::min(D(0, 0), D(1, 1)) / std::max(A(0, 0), A(1, 1)));
  const double shortest = 0.5 * std::sqrt(panel.radius * thickness);
  return static_cast<int>(std::clamp(std::ceil(panel.length / shortest), 8.0, 400.0));
}
int most_round(const CurvedPanel& panel) {
  const auto& [A, B, D, H] = panel.about_middle;
  const double thickness = std::sqrt(12.0 * std::min(D(0, 0), D(1, 1)) / std::max(A(0, 0), A(1, 1)));
  const double around = panel.width > 0.0 ? panel.width : pi * panel.radius;
  return static_cast<int>(std::clamp(std::ceil(around / (0.5 * std::sqrt(panel.radius * thickness))), 8.0, 400.0));
}

}  // namespace

CurvedPanel curved_panel(std::span<const laminate::Layer> layers, double length, double radius, double width) {
  return {laminate::stiffness(layers, -0.5 * laminate::thickness(layers)), length, radius, width};
}

std::optional<CurvedBuckling> curved_buckling(const CurvedPanel& panel, const CurvedLoad& load, bool as_a_bar) {
  check(panel);
  const double size = std::max(std::abs(load.axial), std::abs(load.pressure) * panel.radius);
  if (!(size <= 1e30)) throw std::invalid_argument("loads of a curved panel are numbers");
  if (size == 0.0) return std::nullopt;
  const CurvedLoad scaled{load.axial / size, load.pressure / size};
  std::optional<CurvedBuckling> best;
  const int first = panel.width > 0.0 ? 1 : 0;
  for (int m = 1; m <= most_along(panel); ++m)
    for (int n = first; n <= most_round(panel); ++n) {
      if (n == 1 && panel.width == 0.0 && !as_a_bar) continue;
      const double p = m * pi / panel.length, q = round_wave(panel, n);
      Matrix5 K = stiffness(panel, p, q);
      // Without waves round nothing twists and nothing turns about the axis: those two are held.
      if (n == 0)
        for (const int held : {1, 4}) K.row(held).setZero(), K.col(held).setZero(), K(held, held) = 1.0;
      Matrix5 G = loads(panel, scaled, p, q);
      if (n == 0) G.row(1).setZero(), G.col(1).setZero();
      const auto factor = factor_of(K, G);
      if (factor && (!best || *factor / size < best->factor * (1.0 - 1e-12)))
        best = CurvedBuckling{*factor / size, m, n};
    }
  return best;
}

CurvedBuckling torsion_buckling(const CurvedPanel& cylinder) {
  check(cylinder);
  if (cylinder.width != 0.0) throw std::invalid_argument("torsion is of whole cylinders");
  std::optional<CurvedBuckling> best;
  const auto least = [&](int n, int terms) {
    // w = sum of W_m sin(m pi x / L) times cos for odd, sin for even m, of n y / R: shear couples odd with even ones.
    const double q = n / cylinder.radius;
    Eigen::VectorXd stiff(terms);
    for (int m = 1; m <= terms; ++m) {
      const Matrix5 K = stiffness(cylinder, m * pi / cylinder.length, q);
      constexpr std::array<int, 5> order = {0, 1, 3, 4, 2};
      const Matrix5 sorted = K(order, order);
      const Eigen::Vector4d mixed = sorted.topRightCorner<4, 1>();
      stiff[m - 1] = sorted(4, 4) - mixed.dot(sorted.topLeftCorner<4, 4>().llt().solve(mixed));
    }
    Eigen::MatrixXd coupling = Eigen::MatrixXd::Zero(terms, terms);
    for (int m = 1; m <= terms; ++m)
      for (int k = 1; k < m; ++k)
        if ((m + k) % 2 == 1)
          // The work of w,x w,y, against a quarter of the stiffness: the means of sin² each way.
          coupling(m - 1, k - 1) = coupling(k - 1, m - 1) =
              (m % 2 == 1 ? 1.0 : -1.0) * 8.0 * m * k / (static_cast<double>(m * m - k * k)) * q / cylinder.length;
    const Eigen::VectorXd scale = stiff.cwiseSqrt().cwiseInverse();
    const Eigen::MatrixXd scaled = scale.asDiagonal() * coupling * scale.asDiagonal();
    return 1.0 / Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd>(scaled).eigenvalues().cwiseAbs().maxCoeff();
  };
  for (int n = 2; n <= most_round(cylinder); ++n) {
    int terms = 10;
    double flow = least(n, terms);
    for (double before = 2.0 * flow; before - flow > 1e-4 * flow && terms < 320;)
      before = flow, flow = least(n, terms *= 2);
    if (!best || flow < best->factor) best = CurvedBuckling{flow, 0, n};
  }
  return *best;
}

KnockDown knock_down(const CurvedPanel& panel) {
  check(panel);
  const auto& [A, B, D, H] = panel.about_middle;
  const double stretching = std::sqrt(A(0, 0) * A(1, 1)), bending = std::sqrt(D(0, 0) * D(1, 1));
  KnockDown out;
  out.radius_to_thickness = panel.radius / std::sqrt(12.0 * bending / stretching);
  const double phi = std::sqrt(out.radius_to_thickness) / 16.0;
  out.axial = 1.0 - 0.901 * (1.0 - std::exp(-phi));
  out.bending = 1.0 - 0.731 * (1.0 - std::exp(-phi));
  out.in_range = out.radius_to_thickness <= 1500.0;
  return out;
}

double coupled(const CurvedPanel& panel) {
  double out = 0.0;
  for (const Matrix3* const m : {&panel.about_middle.A, &panel.about_middle.D})
    for (const int i : {0, 1}) out = std::max(out, (*m)(i, 2) * (*m)(i, 2) / ((*m)(i, i) * (*m)(2, 2)));
  return out;
}

}  // namespace bordado::sizing
