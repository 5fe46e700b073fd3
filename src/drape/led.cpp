#include "cloth_map.hpp"

#include <bordado/base/work.hpp>

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::drape {

namespace {

/// Shear at the knots of a coarse net, and how much cloth is missing.
struct Sheared {
  std::map<std::pair<int, int>, double> knots;  ///< radians, where cloth is wanted
  double missing = 0.0;                         ///< part of the area
  /// The p-th power mean, degrees; 90 where there is no net.
  double mean(double p) const {
    double sum = 0.0;
    for (const auto& [at, shear] : knots) sum += std::pow(std::abs(shear) / (0.5 * std::numbers::pi), p);
    if (knots.empty()) return 90.0;
    return 90.0 * std::pow((1.0 - missing) * sum / static_cast<double>(knots.size()) + missing, 1.0 / p);
  }
};

class Leader {
 public:
  Leader(const SmoothSurface& surface, const NetOptions& options) : surface_(surface), options_(options) {
    const auto is_wanted = [&](mesh::ElementIndex e) { return options.wanted.empty() || options.wanted[e]; };
    for (mesh::ElementIndex e = 0; e < surface.own; ++e)
      if (is_wanted(e)) area_ += area_of(e);
    // Some twelve cells across.
    options_.cell = std::min(std::sqrt(area_ / 144.0), 0.4 * surface.size);
    options_.at = seed_on(surface, options.seed).first;
    scale_ = 6.0 * options_.cell;
  }

  Led lead() {
    Led out;
    Eigen::VectorXd numbers = Eigen::VectorXd::Zero(8);
    Sheared best = sheared(numbers);
    nets_ = 1;
    out.before = best.mean(8.0);
    double best_mean = out.before, damping = 1e-3;
    int idle = 0;
    // The first four numbers bring most; the other four what they can.
    for (int step = 0; step < 14; ++step) {
      const Eigen::Index count = step < 8 ? 4 : 8;
      const double p = step < 2 ? 2.0 : step < 5 ? 4.0 : 8.0;
      if (step == 8) idle = 0, damping = 1e-3;
      if (idle >= 2) {
        if (step >= 8) break;
        continue;
      }
      const Eigen::VectorXd change = gauss_newton(numbers, best, count, p, damping);
      bool better = false;
      for (double length = 1.0; length > 0.2; length *= 0.5) {
        const Eigen::VectorXd next = numbers + length * change;
        const Sheared tried = sheared(next);
        ++nets_;
        if (tried.mean(8.0) < best_mean) {
          better = true;
          idle = best_mean - tried.mean(8.0) < 0.002 * best_mean ? idle + 1 : 0;
          best_mean = tried.mean(8.0);
          best = tried;
          numbers = next;
          break;
        }
      }
      if (better)
        damping = std::max(1e-4, 0.3 * damping);
      else
        damping *= 30.0, ++idle;
    }
    out.after = best_mean;
    out.nets = nets_;
    out.steering = steering(numbers);
    return out;
  }

 private:
  double area_of(mesh::ElementIndex e) const {
    const Vec3* const p = surface_.control.data() + 9 * static_cast<std::size_t>(e);
    return surface_.corners[e] == 3 ? 0.5 * (p[1] - p[0]).cross(p[2] - p[0]).norm()
                                    : 0.5 * (p[2] - p[0]).cross(p[3] - p[1]).norm();
  }

  /// The numbers are turns, in radians, over six cells; then how these change over as much.
  std::array<Steering, 4> steering(const Eigen::VectorXd& numbers) const {
    std::array<Steering, 4> out = options_.steering;
    for (std::size_t k = 0; k < 4; ++k) {
      out[k].curvature += numbers(static_cast<Eigen::Index>(k)) / scale_;
      out[k].change += numbers(static_cast<Eigen::Index>(k + 4)) / (scale_ * scale_);
    }
    return out;
  }

  Sheared sheared(const Eigen::VectorXd& numbers) const {
    NetOptions options = options_;
    options.steering = steering(numbers);
    options.most_knots = 20000;
    const Net net = drape::net(surface_, options);
    const ClothMap map(surface_, net);
    Sheared out;
    double covered = 0.0;
    net.lattice.for_each([&](int i, int j, const Knot& knot) {
      if (knot.lap > 0 || !surface_.is_own(knot.spot.element)) return;
      if (!options.wanted.empty() && !options.wanted[knot.spot.element]) return;
      const auto yarns = map.yarns(i, j);
      if (!yarns) return;
      const double sine = yarns->warp.cross(yarns->weft).dot(knot.normal);
      out.knots[{i, j}] = options.rest.radians() - std::atan2(sine, yarns->warp.dot(yarns->weft));
      covered += options.cell * options.cell * std::max(0.0, sine);
    });
    out.missing = std::clamp(1.0 - 1.05 * covered / area_, 0.0, 1.0);
    return out;
  }

  Eigen::VectorXd gauss_newton(const Eigen::VectorXd& numbers, const Sheared& base, Eigen::Index count, double p,
                               double damping) {
    constexpr double step = 0.02;
    std::vector<Sheared> moved(static_cast<std::size_t>(count));
    parallel_blocks(
        static_cast<std::size_t>(count),
        [&](std::size_t begin, std::size_t end) {
          for (std::size_t k = begin; k < end; ++k) {
            Eigen::VectorXd next = numbers;
            next(static_cast<Eigen::Index>(k)) += step;
            moved[k] = sheared(next);
          }
        },
        1);
    nets_ += static_cast<std::size_t>(count);
    double largest = 1e-9;
    for (const auto& [at, shear] : base.knots) largest = std::max(largest, std::abs(shear));
    Eigen::MatrixXd normal = Eigen::MatrixXd::Zero(count, count);
    Eigen::VectorXd right = Eigen::VectorXd::Zero(count), slope(count);
    for (const auto& [at, shear] : base.knots) {
      bool in_all = true;
      for (Eigen::Index k = 0; k < count && in_all; ++k) {
        const auto found = moved[static_cast<std::size_t>(k)].knots.find(at);
        in_all = found != moved[static_cast<std::size_t>(k)].knots.end();
        if (in_all) slope(k) = (found->second - shear) / step;
      }
      if (!in_all) continue;
      const double weight = std::pow(std::abs(shear) / largest, p - 2.0);
      normal += weight * slope * slope.transpose();
      right -= weight * shear * slope;
    }
    normal.diagonal() *= 1.0 + damping;
    normal.diagonal().array() += 1e-9 * (1.0 + normal.trace());
    Eigen::VectorXd change = Eigen::VectorXd::Zero(8);
    // The weights follow the shear: a whole step of the p-th power is one part in p - 1.
    change.head(count) = normal.ldlt().solve(right) / std::max(1.0, 0.5 * (p - 1.0));
    const double far = change.cwiseAbs().maxCoeff();
    if (far > 0.8) change *= 0.8 / far;
    return change;
  }

  const SmoothSurface& surface_;
  NetOptions options_;
  double area_ = 0.0, scale_ = 1.0;
  std::size_t nets_ = 0;
};

}  // namespace

Led led_for_least_shear(const SmoothSurface& surface, const NetOptions& options) {
  return Leader(surface, options).lead();
}

}  // namespace bordado::drape
