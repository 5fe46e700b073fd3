#include "materials.hpp"

#include <Eigen/Cholesky>
#include <Eigen/LU>

#include <algorithm>
#include <array>
#include <cmath>

namespace bordado::calculix {

namespace {

using laminate::Matrix3;
using laminate::Vector3;

/// What layers of these shares of a box come to: row m has, per layer, the integral of z^m, z from the middle of the
/// box.
Matrix3 moments(const std::array<double, 3>& shares, double box) {
  Matrix3 out;
  double low = -0.5 * box;
  for (int i = 0; i < 3; ++i) {
    const double t = shares[static_cast<std::size_t>(i)] * box, z = low + 0.5 * t;
    out.col(i) << t, t * z, t * z * z + t * t * t / 12.0;
    low += t;
  }
  return out;
}

/// The three stiffnesses whose moments are A, B and D.
std::array<Matrix3, 3> solved(const Matrix3& inverse, const laminate::Stiffness& k) {
  std::array<Matrix3, 3> out;
  for (int i = 0; i < 3; ++i)
    out[static_cast<std::size_t>(i)] = inverse(i, 0) * k.A + inverse(i, 1) * k.B + inverse(i, 2) * k.D;
  return out;
}

/// The smallest number that, times the mean stiffness, can be taken from a layer before it is no longer positive
/// definite; by bisection on Cholesky's test, since only order matters.
double margin(const Matrix3& Q, const Matrix3& mean) {
  const auto holds = [&](double share) { return Eigen::LLT<Matrix3>(Q - share * mean).info() == Eigen::Success; };
  if (!holds(0.0)) return -1.0;
  double low = 0.0, high = 1.0;
  for (int step = 0; step < 12; ++step) {
    const double middle = 0.5 * (low + high);
    (holds(middle) ? low : high) = middle;
  }
  return low;
}

constexpr std::array<double, 24> face_shares = {0.0025, 0.005, 0.01, 0.02, 0.04, 0.08, 0.12, 0.16,
                                                0.20,   0.24,  0.28, 0.32, 0.36, 0.40, 0.44, 0.48,
                                                0.52,   0.56,  0.60, 0.64, 0.68, 0.72, 0.76, 0.80};

}  // namespace

std::optional<ThreeLayers> three_layers(std::span<const laminate::Layer> layers, double bottom, double box_bottom,
                                        double box_thickness) {
  const laminate::Stiffness about_mesh = laminate::stiffness(layers, bottom);
  const double middle = box_bottom + 0.5 * box_thickness;
  const laminate::Stiffness k = laminate::moved(about_mesh, middle);
  const Matrix3 mean = k.A / box_thickness;
  ThreeLayers out;
  double best = 0.0;
  Matrix3 inverse = Matrix3::Zero();
  for (const double low : face_shares)
    for (const double high : face_shares) {
      if (low + high > 0.98) continue;
      const std::array<double, 3> shares = {low, 1.0 - low - high, high};
      const Matrix3 back = moments(shares, box_thickness).inverse();
      double least = 1e300;
      const auto Q = solved(back, k);
      for (const Matrix3& one : Q) {
        if (least <= best) break;
        least = std::min(least, margin(one, mean));
      }
      if (least <= best) continue;
      best = least;
      inverse = back;
      out.shares = shares;
      out.Q = Q;
    }
  if (best <= 0.0) return std::nullopt;
  out.bottom = box_bottom;
  out.thickness = box_thickness;
  out.G = k.H / box_thickness;

  // Mass and what would hold the expansion back, each with three moments about the middle of the box.
  const MassMoments masses = mass_moments(layers, bottom, out);
  const Vector3 mass(masses.mass, masses.first, masses.second);
  Matrix3 push = Matrix3::Zero();  // columns: moments
  double z = bottom - middle;
  for (const laminate::Layer& layer : layers) {
    const double t = layer.thickness, m = z + 0.5 * t;
    const Vector3 each(t, t * m, t * m * m + t * t * t / 12.0);
    push += laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle) *
            laminate::free_strain(layer, laminate::Expands::by_temperature) * each.transpose();
    z += t;
  }
  const Vector3 densities = inverse * mass;
  for (int i = 0; i < 3; ++i) {
    const auto at = static_cast<std::size_t>(i);
    out.density[at] = densities.minCoeff() > 0.0 ? densities[i] : mass[0] / box_thickness;
    out.expansion[at] = out.Q[at].inverse() * (push * inverse.row(i).transpose());
  }
  return out;
}

MassMoments mass_moments(std::span<const laminate::Layer> layers, double bottom, const ThreeLayers& about) {
  MassMoments out;
  double z = bottom - (about.bottom + 0.5 * about.thickness);
  for (const laminate::Layer& layer : layers) {
    const double t = layer.thickness, m = z + 0.5 * t, mass = layer.density.value_or(0.0) * t;
    out.mass += mass;
    out.first += mass * m;
    out.second += mass * (m * m + t * t / 12.0);
    z += t;
  }
  return out;
}

MassMoments mass_moments(const ThreeLayers& three) {
  const Matrix3 of = moments(three.shares, three.thickness);
  const Vector3 out = of * Vector3(three.density[0], three.density[1], three.density[2]);
  return {out[0], out[1], out[2]};
}

std::array<Vector3, 3> expansions(const ThreeLayers& three, std::span<const laminate::Layer> layers, double bottom,
                                  const std::function<Vector3(std::size_t layer, double z)>& strain) {
  const double middle = three.bottom + 0.5 * three.thickness;
  // Gauss points: exact where the strain is straight within a layer.
  constexpr double at[] = {-0.7745966692414834, 0.0, 0.7745966692414834};
  constexpr double weights[] = {5.0 / 18.0, 8.0 / 18.0, 5.0 / 18.0};
  Matrix3 push = Matrix3::Zero();
  double z = bottom;
  for (std::size_t k = 0; k < layers.size(); ++k) {
    const laminate::Layer& layer = layers[k];
    const Matrix3 Q = laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle);
    for (int q = 0; q < 3; ++q) {
      const double height = z + 0.5 * (1.0 + at[q]) * layer.thickness, arm = height - middle;
      push += weights[q] * layer.thickness * Q * strain(k, height) * Vector3(1.0, arm, arm * arm).transpose();
    }
    z += layer.thickness;
  }
  const Matrix3 inverse = moments(three.shares, three.thickness).inverse();
  std::array<Vector3, 3> out;
  for (int i = 0; i < 3; ++i) {
    const auto k = static_cast<std::size_t>(i);
    out[k] = three.Q[k].inverse() * (push * inverse.row(i).transpose());
  }
  return out;
}

}  // namespace bordado::calculix
