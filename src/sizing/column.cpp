#include <bordado/column.hpp>

#include "ritz.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace bordado::sizing {

namespace {

using Eigen::Index;
using Eigen::MatrixXd;
using Eigen::VectorXd;

void check(const Bar& bar, std::size_t terms) {
  if (!(bar.length > 0.0) || bar.length > 1e30)
    throw std::invalid_argument("a bar's length is above nought, and no larger than 1e30");
  if (!(bar.section.EA > 0.0) || !(bar.section.weak > 0.0) || !(bar.section.GJ > 0.0))
    throw std::invalid_argument("a bar's section has stiffness in bending and in twisting");
  if (terms < 4 || terms > most_terms) throw std::invalid_argument("terms are 4 to 60");
  const bool holds =
      bar.begin == End::fixed || bar.end == End::fixed || (bar.begin == End::pinned && bar.end == End::pinned);
  if (!holds) throw std::invalid_argument("a bar is held by one fixed end or by two that are pinned");
}

/// Six fields along the bar: v, w, twist; turning in y and z, rate of warping. Unknowns are counted in lengths: moves across by
/// the bar's length, so that numbers stay alike.
class BarRitz {
 public:
  BarRitz(const Bar& bar, std::size_t terms) : bar_(bar), functions_(terms), terms_(terms) {
    numbers_.assign(6 * terms, -1);
    for (std::size_t i = 0; i < terms; ++i)
      for (std::size_t field = 0; field < 6; ++field) {
        const End end = i == 0 ? bar.begin : bar.end;
        const bool held = i < 2 && (end == End::fixed || (end == End::pinned && field < 3));
        // A section that does not warp has no such field.
        if (!held && !(field == 5 && bar.section.EGamma <= 0.0)) numbers_[field * terms + i] = count_++;
      }
  }
  Index count() const { return count_; }

  MatrixXd stiffness() const {
    MatrixXd out = MatrixXd::Zero(count_, count_);
    const SectionStiffness& s = bar_.section;
    for (std::size_t a = 0; a < 2; ++a)
      for (std::size_t b = 0; b < 2; ++b)
        add(out, {3 + a, true}, {3 + b, true}, s.EI(static_cast<Index>(a), static_cast<Index>(b)));
    add(out, {5, true}, {5, true}, s.EGamma);
    add(out, {2, true}, {2, true}, s.GJ);
    const Matrix3 shear = shear_stiffness();
    for (std::size_t a = 0; a < 3; ++a)
      for (std::size_t b = 0; b < 3; ++b) {
        const double k = shear(static_cast<Index>(a), static_cast<Index>(b));
        // (move' - turn) of each.
        add(out, {a, true}, {b, true}, k);
        add(out, {a, true}, {3 + b, false}, -k);
        add(out, {3 + a, false}, {b, true}, -k);
        add(out, {3 + a, false}, {3 + b, false}, k);
      }
    return out;
  }
  /// Of a compression of one.
  MatrixXd compressed() const {
    MatrixXd out = MatrixXd::Zero(count_, count_);
    const SectionStiffness& s = bar_.section;
    const Vector2 arm = s.centroid - s.shear_centre;
    add(out, {0, true}, {0, true}, 1.0);
    add(out, {1, true}, {1, true}, 1.0);
    add(out, {2, true}, {2, true}, s.polar);
    both(out, {0, true}, {2, true}, -arm[1]);
    both(out, {1, true}, {2, true}, arm[0]);
    return out;
  }
  MatrixXd mass() const {
    MatrixXd out = MatrixXd::Zero(count_, count_);
    const SectionStiffness& s = bar_.section;
    const Vector2 arm = s.mass_centre - s.shear_centre;
    add(out, {0, false}, {0, false}, s.mass);
    add(out, {1, false}, {1, false}, s.mass);
    add(out, {2, false}, {2, false}, s.mass_polar);
    both(out, {0, false}, {2, false}, -s.mass * arm[1]);
    both(out, {1, false}, {2, false}, s.mass * arm[0]);
    return out;
  }
  /// Work of line loads along v, w and of a line torque.
  VectorXd loads(const Eigen::Vector3d& line) const {
    VectorXd out = VectorXd::Zero(count_);
    for (std::size_t field = 0; field < 3; ++field)
      for (std::size_t i = 0; i < terms_; ++i)
        if (const Index n = number(field, i); n >= 0)
          out[n] = line[static_cast<Index>(field)] * 0.5 * bar_.length *
                   (functions_.product(false, i, false, 0) + functions_.product(false, i, false, 1));
    return out;
  }
  /// All fields (row 0) and their slopes (row 1) at a place.
  Eigen::Matrix<double, 2, 6> at(const VectorXd& sum, double x) const {
    const Eigen::Matrix2Xd all = Functions::at(terms_, 2.0 * x / bar_.length - 1.0);
    Eigen::Matrix<double, 2, 6> out = Eigen::Matrix<double, 2, 6>::Zero();
    for (std::size_t field = 0; field < 6; ++field)
      for (std::size_t i = 0; i < terms_; ++i)
        if (const Index n = number(field, i); n >= 0) {
          out(0, static_cast<Index>(field)) += sum[n] * all(0, static_cast<Index>(i));
          out(1, static_cast<Index>(field)) += sum[n] * all(1, static_cast<Index>(i)) * 2.0 / bar_.length;
        }
    return out;
  }
  /// Shares of the energy: of bending in y and in z, with their shear, and of twisting.
  Modes shares(const VectorXd& sum) const {
    const MatrixXd K = stiffness();
    const auto of = [&](std::size_t move) {
      VectorXd part = VectorXd::Zero(count_);
      for (const std::size_t field : {move, move + 3})
        for (std::size_t i = 0; i < terms_; ++i)
          if (const Index n = number(field, i); n >= 0) part[n] = sum[n];
      return std::max(0.0, part.dot(K * part));
    };
    const double y = of(0), z = of(1), t = of(2), all = y + z + t;
    return {y / all, z / all, t / all};
  }
  Matrix3 shear_stiffness() const {
    Matrix3 flexible = bar_.section.shear_compliance;
    // Walls that meet in one point warp through their thickness alone: their flows are those of bending, and do not tell.
    flexible(2, 2) += 1e-8 / bar_.section.GJ;
    if (bar_.section.EGamma > 0.0) return flexible.inverse();
    Matrix3 out = Matrix3::Zero();
    out.topLeftCorner<2, 2>() = flexible.topLeftCorner<2, 2>().inverse();
    return out;
  }

 private:
  struct Part {
    std::size_t field;
    bool slope;
  };
  Index number(std::size_t field, std::size_t i) const { return numbers_[field * terms_ + i]; }
  void add(MatrixXd& out, const Part& one, const Part& other, double factor) const {
    const double scale = factor * 0.5 * bar_.length * std::pow(2.0 / bar_.length, one.slope + other.slope);
    for (std::size_t i = 0; i < terms_; ++i) {
      const Index row = number(one.field, i);
      if (row < 0) continue;
      for (const std::size_t k : functions_.neighbours(i))
        if (const Index column = number(other.field, k); column >= 0)
          out(row, column) += scale * functions_.product(one.slope, i, other.slope, k);
    }
  }
  void both(MatrixXd& out, const Part& one, const Part& other, double factor) const {
    add(out, one, other, factor);
    add(out, other, one, factor);
  }

  const Bar& bar_;
  Functions functions_;
  std::size_t terms_;
  std::vector<Index> numbers_;
  Index count_ = 0;
};

/// The largest x of G u = x K u, with their u. K scaled so that its diagonal is one.
struct Largest {
  std::vector<double> values;
  std::vector<VectorXd> shapes;
};
Largest largest(const MatrixXd& K, const MatrixXd& G, std::size_t count) {
  const VectorXd scale = K.diagonal().cwiseSqrt().cwiseInverse();
  if (!scale.allFinite()) throw std::invalid_argument("the bar has no stiffness left");
  const MatrixXd scaled = scale.asDiagonal() * K * scale.asDiagonal(),
                 forces = scale.asDiagonal() * G * scale.asDiagonal();
  const Eigen::LLT<MatrixXd> factors(scaled);
  if (factors.info() != Eigen::Success)
    throw std::invalid_argument("the bar has no stiffness left: its axial force buckles it");
  MatrixXd inner = factors.matrixL().solve(forces);
  inner = factors.matrixL().solve(inner.transpose()).eval();
  const Eigen::SelfAdjointEigenSolver<MatrixXd> solved(0.5 * (inner + inner.transpose()));
  Largest out;
  for (Index k = solved.eigenvalues().size() - 1; k >= 0 && out.values.size() < count; --k) {
    if (solved.eigenvalues()[k] <= 0.0) break;
    out.values.push_back(solved.eigenvalues()[k]);
    out.shapes.push_back(scale.cwiseProduct(factors.matrixU().solve(solved.eigenvectors().col(k))));
  }
  return out;
}

std::size_t two_thirds(std::size_t terms) { return std::max<std::size_t>(4, 2 * terms / 3); }
}  // namespace

std::vector<ColumnBuckling> column_buckling(const Bar& bar, std::size_t count, std::size_t terms) {
  check(bar, terms);
  const BarRitz all(bar, terms), few(bar, two_thirds(terms));
  const Largest found = largest(all.stiffness(), all.compressed(), count),
                fewer = largest(few.stiffness(), few.compressed(), count);
  std::vector<ColumnBuckling> out;
  for (std::size_t k = 0; k < found.values.size(); ++k) {
    const double force = 1.0 / found.values[k];
    out.push_back(
        {{force, k < fewer.values.size() ? change(force, 1.0 / fewer.values[k]) : 1.0}, all.shares(found.shapes[k])});
  }
  return out;
}

std::vector<BarFrequency> bar_frequencies(const Bar& bar, std::size_t count, double compression, std::size_t terms) {
  check(bar, terms);
  if (!(bar.section.mass > 0.0)) throw std::invalid_argument("a bar without mass has no frequencies");
  if (!std::isfinite(compression)) throw std::invalid_argument("forces are numbers");
  const auto of = [&](std::size_t taken) {
    const BarRitz ritz(bar, taken);
    return largest(ritz.stiffness() - compression * ritz.compressed(), ritz.mass(), count);
  };
  const BarRitz ritz(bar, terms);
  const Largest all = of(terms), fewer = of(two_thirds(terms));
  std::vector<BarFrequency> out;
  const auto frequency = [](double value) { return 1.0 / (2.0 * std::numbers::pi * std::sqrt(value)); };
  for (std::size_t k = 0; k < all.values.size(); ++k) {
    const double value = frequency(all.values[k]);
    out.push_back({{value, k < fewer.values.size() ? change(value, frequency(fewer.values[k])) : 1.0},
                   ritz.shares(all.shapes[k])});
  }
  return out;
}

BentBar bent_bar(const Bar& bar, const Vector2& line_load, const Vector2& through, double compression,
                 std::size_t terms, std::size_t rows) {
  check(bar, terms);
  if (!line_load.allFinite() || !through.allFinite() || !std::isfinite(compression))
    throw std::invalid_argument("forces are numbers");
  if (rows < 2 || rows > 10000) throw std::invalid_argument("rows of places are 2 to 10000");
  const Vector2 arm = through - bar.section.shear_centre;
  const Eigen::Vector3d line(line_load[0], line_load[1], arm[0] * line_load[1] - arm[1] * line_load[0]);
  const auto solve = [&](const BarRitz& ritz) {
    const MatrixXd K = ritz.stiffness() - compression * ritz.compressed();
    const VectorXd scale = K.diagonal().cwiseSqrt().cwiseInverse();
    const Eigen::LLT<MatrixXd> factors(scale.asDiagonal() * K * scale.asDiagonal());
    if (factors.info() != Eigen::Success || !scale.allFinite())
      throw std::invalid_argument("the bar has no stiffness left: its axial force buckles it");
    return VectorXd(scale.cwiseProduct(factors.solve(scale.cwiseProduct(ritz.loads(line)))));
  };
  const BarRitz ritz(bar, terms), few(bar, two_thirds(terms));
  const VectorXd sum = solve(ritz), fewer = solve(few);
  const Matrix3 shear = ritz.shear_stiffness();
  BentBar out;
  for (std::size_t i = 0; i < rows; ++i) {
    const double x = bar.length * static_cast<double>(i) / static_cast<double>(rows - 1);
    const auto f = ritz.at(sum, x);
    BarPlace place;
    place.x = x;
    place.deflection = {f(0, 0), f(0, 1)};
    place.twist = f(0, 2);
    place.curvature = {-f(1, 3), -f(1, 4)};
    place.warping = f(1, 5);
    const Eigen::Vector3d forces = shear * (f.row(1).head<3>() - f.row(0).tail<3>()).transpose();
    place.shear = forces.head<2>();
    place.torque = bar.section.GJ * f(1, 2);
    if (place.deflection.norm() > out.largest.value) out.largest.value = place.deflection.norm(), out.x = x;
    out.places.push_back(place);
  }
  if (out.largest.value > 0.0)
    out.largest.change = change(out.largest.value, few.at(fewer, out.x).row(0).head<2>().norm());
  return out;
}

}  // namespace bordado::sizing
