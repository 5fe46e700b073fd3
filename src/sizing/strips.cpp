#include <bordado/strips.hpp>

#include "junctions.hpp"
#include "ritz.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>
#include <stdexcept>

namespace bordado::sizing {

namespace {

using Eigen::Index;
using Complex = std::complex<double>;
using ComplexMatrix = Eigen::MatrixXcd;

/// The walls of one section and the functions across them.
class Strips {
 public:
  Strips(std::span<const Wall> walls, const AxialStrain& strain, std::size_t terms)
      : walls_(walls), junctions_(walls), terms_(terms) {
    const SectionStiffness section = section_stiffness(walls);
    for (const Wall& wall : walls) {
      const double middle = -0.5 * laminate::thickness(wall.layers);
      const laminate::Stiffness k = laminate::stiffness(wall.layers, middle);
      Eigen::Matrix<double, 8, 8> all = Eigen::Matrix<double, 8, 8>::Zero();
      all.topLeftCorner<6, 6>() = k.ABD();
      all.bottomRightCorner<2, 2>() = k.H;
      stiffness_.push_back(all);
      const WallStiffness along = wall_stiffness(wall.layers);
      const Vector2 bent(strain.by_y, strain.by_z);
      const double curvature = wall.normal().dot(bent);
      const auto force = [&](const Vector2& place) {
        return along.along(0, 0) * (strain.axial + bent.dot(place - section.centroid)) + along.along(0, 1) * curvature;
      };
      forces_.push_back({force(wall.from), force(wall.to)});
    }
    number();
    for (std::size_t q = 0; q < terms + 2; ++q) gauss_.push_back(Functions::at(terms, places(terms + 2)[q].first));
    weights_ = places(terms + 2);
  }

  std::optional<StripBuckling> at(double half_wave) const {
    const double k = std::numbers::pi / half_wave;
    ComplexMatrix K = ComplexMatrix::Zero(count_, count_), G = ComplexMatrix::Zero(count_, count_);
    for (std::size_t w = 0; w < walls_.size(); ++w) add(w, k, K, G);
    const Eigen::VectorXd scale = K.diagonal().real().cwiseSqrt().cwiseInverse();
    K = (scale.asDiagonal() * K * scale.asDiagonal()).eval();
    G = (scale.asDiagonal() * G * scale.asDiagonal()).eval();
    const Eigen::LLT<ComplexMatrix> factors(K);
    if (factors.info() != Eigen::Success)
      throw std::invalid_argument("walls have no stiffness left for such short or long waves");
    // The largest x of G u = x K u, by iteration of a few columns.
    constexpr Index columns = 6;
    std::mt19937 random(29);
    ComplexMatrix u = ComplexMatrix::NullaryExpr(count_, std::min(columns, count_), [&] {
      return Complex(static_cast<double>(random()) / 4294967296.0 - 0.5,
                     static_cast<double>(random()) / 4294967296.0 - 0.5);
    });
    double value = 0.0;
    Eigen::VectorXcd shape;
    for (int step = 0; step < 200; ++step) {
      u = factors.solve(G * u).eval();
      // Rayleigh and Ritz: the pencil within these columns.
      const ComplexMatrix small_K = u.adjoint() * K * u, small_G = u.adjoint() * G * u;
      const Eigen::SelfAdjointEigenSolver<ComplexMatrix> of_K(small_K);
      const double most = of_K.eigenvalues().maxCoeff();
      if (!(most > 0.0)) return std::nullopt;
      std::vector<Index> kept;
      for (Index i = 0; i < of_K.eigenvalues().size(); ++i)
        if (of_K.eigenvalues()[i] > 1e-13 * most) kept.push_back(i);
      ComplexMatrix basis(u.cols(), static_cast<Index>(kept.size()));
      for (std::size_t i = 0; i < kept.size(); ++i)
        basis.col(static_cast<Index>(i)) = of_K.eigenvectors().col(kept[i]) / std::sqrt(of_K.eigenvalues()[kept[i]]);
      const Eigen::SelfAdjointEigenSolver<ComplexMatrix> solved(basis.adjoint() * small_G * basis);
      u = (u * basis * solved.eigenvectors()).eval();
      const double now = solved.eigenvalues().maxCoeff();
      shape = u.rightCols<1>();
      const bool settled = std::abs(now - value) <= 1e-9 * std::abs(now);
      value = now;
      if (settled && step > 2) break;
    }
    if (!(value > 0.0)) return std::nullopt;
    StripBuckling out{1.0 / value, half_wave, 0};
    double most = 0.0;
    for (std::size_t w = 0; w < walls_.size(); ++w)
      if (const double moved = moved_most(w, scale.cast<Complex>().cwiseProduct(shape)); moved > 1.01 * most)
        most = moved, out.wall = w;
    return out;
  }

 private:
  enum Field : std::uint8_t { u, v, w, turn_x, turn_s };
  /// Places and weights of Gauss, -1 to 1.
  static std::vector<std::pair<double, double>> places(std::size_t count) {
    std::vector<std::pair<double, double>> out;
    Eigen::MatrixXd jacobi = Eigen::MatrixXd::Zero(static_cast<Index>(count), static_cast<Index>(count));
    for (Index i = 1; i < jacobi.rows(); ++i)
      jacobi(i, i - 1) = jacobi(i - 1, i) = static_cast<double>(i) / std::sqrt(4.0 * static_cast<double>(i * i) - 1.0);
    const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solved(
        jacobi);  // G. H. Golub and J. H. Welsch, Math. Comp. 23 (1969) 221
    for (Index i = 0; i < jacobi.rows(); ++i)
      out.emplace_back(solved.eigenvalues()[i], 2.0 * solved.eigenvectors()(0, i) * solved.eigenvectors()(0, i));
    return out;
  }

  /// Unknowns of a junction: u along the bar, y, z, turning about the bar; turning about s of each wall by itself, but of walls
  /// that go on straight.
  void number() {
    count_ = 4 * static_cast<Index>(junctions_.count());
    own_.assign(walls_.size(), {-1, -1});
    for (std::size_t w = 0; w < walls_.size(); ++w)
      for (std::size_t e = 0; e < 2; ++e) {
        const Index here = e == 0 ? junctions_.ends(w).first : junctions_.ends(w).second;
        for (std::size_t other = 0; other < w && own_[w][e] < 0; ++other) {
          const auto [a, b] = junctions_.ends(other);
          if ((a == here || b == here) && walls_[other].normal().dot(walls_[w].normal()) > 1.0 - 1e-9)
            own_[w][e] = own_[other][a == here ? 0 : 1];
        }
        if (own_[w][e] < 0) own_[w][e] = count_++;
      }
    inner_ = count_;
    count_ += static_cast<Index>(walls_.size() * (terms_ - 2) * 5);
  }

  /// How a field's function of a wall is made of unknowns.
  struct Share {
    Index unknown;
    double factor;
  };
  std::vector<Share> shares(std::size_t wall, Field field, std::size_t i) const {
    if (i >= 2) return {{inner_ + static_cast<Index>((wall * (terms_ - 2) + i - 2) * 5 + field), 1.0}};
    const Index base = 4 * (i == 0 ? junctions_.ends(wall).first : junctions_.ends(wall).second);
    const Vector2 s = walls_[wall].along(), n = walls_[wall].normal();
    switch (field) {
      case u:
        return {{base, 1.0}};
      case v:
        return {{base + 1, s[0]}, {base + 2, s[1]}};
      case w:
        return {{base + 1, n[0]}, {base + 2, n[1]}};
      case turn_s:
        return {{base + 3, 1.0}};
      case turn_x:
        return {{own_[wall][i], 1.0}};
    }
    return {};
  }

  void add(std::size_t wall, double k, ComplexMatrix& K, ComplexMatrix& G) const {
    const double half = 0.5 * walls_[wall].length();
    const auto size = static_cast<Index>(5 * terms_);
    ComplexMatrix own_K = ComplexMatrix::Zero(size, size), own_G = ComplexMatrix::Zero(size, size);
    const Complex along(0.0, k);
    for (std::size_t q = 0; q < gauss_.size(); ++q) {
      const double weight = weights_[q].second * half, place = 0.5 * (1.0 + weights_[q].first);
      Eigen::Matrix<Complex, 8, Eigen::Dynamic> strain = Eigen::Matrix<Complex, 8, Eigen::Dynamic>::Zero(8, size);
      Eigen::Matrix<Complex, 2, Eigen::Dynamic> slopes = Eigen::Matrix<Complex, 2, Eigen::Dynamic>::Zero(2, size);
      for (std::size_t i = 0; i < terms_; ++i) {
        const double value = gauss_[q](0, static_cast<Index>(i)), slope = gauss_[q](1, static_cast<Index>(i)) / half;
        const auto at = [&](Field field) { return static_cast<Index>(5 * i + field); };
        strain(0, at(u)) = along * value;
        strain(1, at(v)) = slope;
        strain(2, at(u)) = slope;
        strain(2, at(v)) = along * value;
        strain(3, at(turn_x)) = along * value;
        strain(4, at(turn_s)) = slope;
        strain(5, at(turn_x)) = slope;
        strain(5, at(turn_s)) = along * value;
        strain(6, at(turn_x)) = value;
        strain(6, at(w)) = along * value;
        strain(7, at(turn_s)) = value;
        strain(7, at(w)) = slope;
        slopes(0, at(v)) = along * value;
        slopes(1, at(w)) = along * value;
      }
      own_K += weight * strain.adjoint() * stiffness_[wall].cast<Complex>() * strain;
      const double force = forces_[wall][0] + (forces_[wall][1] - forces_[wall][0]) * place;
      own_G -= weight * force * slopes.adjoint() * slopes;
    }
    std::vector<std::vector<Share>> all;
    for (std::size_t i = 0; i < terms_; ++i)
      for (const Field field : {u, v, w, turn_x, turn_s}) all.push_back(shares(wall, field, i));
    for (Index row = 0; row < size; ++row)
      for (Index column = 0; column < size; ++column)
        for (const Share& a : all[static_cast<std::size_t>(row)])
          for (const Share& b : all[static_cast<std::size_t>(column)]) {
            K(a.unknown, b.unknown) += a.factor * b.factor * own_K(row, column);
            G(a.unknown, b.unknown) += a.factor * b.factor * own_G(row, column);
          }
  }

  double moved_most(std::size_t wall, const Eigen::VectorXcd& shape) const {
    double out = 0.0;
    for (const Eigen::Matrix2Xd& at : gauss_) {
      Complex moved = 0.0;
      for (std::size_t i = 0; i < terms_; ++i)
        for (const Share& share : shares(wall, w, i))
          moved += share.factor * shape[share.unknown] * at(0, static_cast<Index>(i));
      out = std::max(out, std::abs(moved));
    }
    return out;
  }

  std::span<const Wall> walls_;
  Junctions junctions_;
  std::size_t terms_;
  std::vector<Eigen::Matrix<double, 8, 8>> stiffness_;
  std::vector<std::array<double, 2>> forces_;  ///< along the bar, at both ends of each wall
  std::vector<std::array<Index, 2>> own_;      ///< turning about s at both ends of each wall
  std::vector<Eigen::Matrix2Xd> gauss_;        ///< functions and slopes at each place
  std::vector<std::pair<double, double>> weights_;
  Index inner_ = 0, count_ = 0;
};

void check(double length, std::size_t terms) {
  if (!(length > 0.0) || !std::isfinite(length)) throw std::invalid_argument("a half wave has a length above nought");
  if (terms < 4 || terms > most_terms) throw std::invalid_argument("terms are 4 to 60");
}

}  // namespace

std::optional<StripBuckling> strip_buckling(std::span<const Wall> walls, const AxialStrain& strain, double half_wave,
                                            std::size_t terms) {
  check(half_wave, terms);
  return Strips(walls, strain, terms).at(half_wave);
}

Signature signature(std::span<const Wall> walls, const AxialStrain& strain, double shortest, double longest,
                    std::size_t count, std::size_t terms) {
  check(shortest, terms);
  if (!(longest > shortest) || !std::isfinite(longest) || count < 3 || count > 10000)
    throw std::invalid_argument("half waves go from a shorter to a longer one, 3 to 10000 of them");
  const Strips strips(walls, strain, terms);
  Signature out;
  const double low = std::log(shortest), high = std::log(longest);
  std::vector<std::optional<StripBuckling>> found;
  for (std::size_t i = 0; i < count; ++i) {
    found.push_back(strips.at(std::exp(low + (high - low) * static_cast<double>(i) / static_cast<double>(count - 1))));
    if (found.back()) out.curve.push_back(*found.back());
  }
  for (std::size_t i = 1; i + 1 < found.size(); ++i) {
    if (!found[i - 1] || !found[i] || !found[i + 1]) continue;
    if (found[i]->factor > found[i - 1]->factor || found[i]->factor >= found[i + 1]->factor) continue;
    if (out.local && out.local->factor <= found[i]->factor) continue;
    // Between its neighbours, by the golden section.
    double a = std::log(found[i - 1]->half_wave), b = std::log(found[i + 1]->half_wave);
    StripBuckling best = *found[i];
    for (int step = 0; step < 14; ++step) {
      const double one = b - 0.618034 * (b - a), two = a + 0.618034 * (b - a);
      const auto at_one = strips.at(std::exp(one)), at_two = strips.at(std::exp(two));
      if (!at_one || !at_two) break;
      for (const auto& tried : {*at_one, *at_two})
        if (tried.factor < best.factor) best = tried;
      if (at_one->factor < at_two->factor)
        b = two;
      else
        a = one;
    }
    out.local = best;
  }
  return out;
}

}  // namespace bordado::sizing
