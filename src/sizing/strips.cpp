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
using Eigen::MatrixXd;

/// Columns that an iteration goes on from: of real numbers, or of complex ones.
struct Begun {
  MatrixXd real;
  Eigen::MatrixXcd complex;
};

/// A matrix of the inner unknowns of each wall, which touch only their own, and of those where walls meet: from the block of a wall and
/// what it shares with the last to all, without the zeros between walls.
template <class Scalar>
class Arrow {
 public:
  using Matrix = Eigen::Matrix<Scalar, Eigen::Dynamic, Eigen::Dynamic>;
  Arrow(const Matrix& all, Index blocks, Index size) : blocks_(blocks), size_(size), rest_(all.rows() - blocks * size) {
    for (Index b = 0; b < blocks; ++b) {
      own_.push_back(all.block(b * size, b * size, size, size));
      shared_.push_back(all.block(b * size, blocks * size, size, rest_));
    }
    last_ = all.bottomRightCorner(rest_, rest_);
  }
  Matrix operator*(const Matrix& u) const {
    Matrix out(u.rows(), u.cols());
    out.bottomRows(rest_).noalias() = last_ * u.bottomRows(rest_);
    for (Index b = 0; b < blocks_; ++b) {
      const auto k = static_cast<std::size_t>(b);
      out.middleRows(b * size_, size_).noalias() = own_[k] * u.middleRows(b * size_, size_);
      out.middleRows(b * size_, size_).noalias() += shared_[k] * u.bottomRows(rest_);
      out.bottomRows(rest_).noalias() += shared_[k].adjoint() * u.middleRows(b * size_, size_);
    }
    return out;
  }
  /// Puts its Cholesky factors in its place. \returns false where it is not positive definite.
  bool factorize() {
    for (Index b = 0; b < blocks_; ++b) {
      const auto k = static_cast<std::size_t>(b);
      factors_.emplace_back(own_[k]);
      if (factors_.back().info() != Eigen::Success) return false;
      factors_.back().matrixL().solveInPlace(shared_[k]);
      last_.noalias() -= shared_[k].adjoint() * shared_[k];
    }
    factors_.emplace_back(last_);
    return factors_.back().info() == Eigen::Success;
  }
  /// Once factorized.
  Matrix solve(Matrix u) const {
    for (Index b = 0; b < blocks_; ++b) {
      const auto k = static_cast<std::size_t>(b);
      auto own = u.middleRows(b * size_, size_);
      factors_[k].matrixL().solveInPlace(own);
      u.bottomRows(rest_).noalias() -= shared_[k].adjoint() * own;
    }
    auto last = u.bottomRows(rest_);
    factors_.back().solveInPlace(last);
    for (Index b = 0; b < blocks_; ++b) {
      const auto k = static_cast<std::size_t>(b);
      auto own = u.middleRows(b * size_, size_);
      own.noalias() -= shared_[k] * last;
      factors_[k].matrixU().solveInPlace(own);
    }
    return u;
  }

 private:
  Index blocks_, size_, rest_;
  std::vector<Matrix> own_, shared_;
  Matrix last_;
  std::vector<Eigen::LLT<Matrix>> factors_;
};

/// The walls of one section and the functions across them.
class Strips {
 public:
  Strips(std::span<const Wall> walls, const AxialStrain& strain, std::size_t terms)
      : walls_(walls), junctions_(walls), terms_(terms) {
    const SectionStiffness section = section_stiffness(walls);
    const auto weights = places(terms + 2);
    for (const auto& [place, weight] : weights) gauss_.push_back(Functions::at(terms, place));
    number();
    for (MatrixXd* const matrix : {&bent_, &mixed_, &waved_, &pushed_}) *matrix = MatrixXd::Zero(count_, count_);
    for (std::size_t w = 0; w < walls.size(); ++w) {
      const Wall& wall = walls[w];
      const double middle = -0.5 * laminate::thickness(wall.layers);
      const laminate::Stiffness k = laminate::stiffness(wall.layers, middle);
      Eigen::Matrix<double, 8, 8> all = Eigen::Matrix<double, 8, 8>::Zero();
      all.topLeftCorner<6, 6>() = k.ABD();
      all.bottomRightCorner<2, 2>() = k.H;
      const WallStiffness along = wall_stiffness(wall.layers);
      const Vector2 bent(strain.by_y, strain.by_z);
      const double curvature = wall.normal().dot(bent);
      const auto force = [&](const Vector2& place) {
        return along.along(0, 0) * (strain.axial + bent.dot(place - section.centroid)) + along.along(0, 1) * curvature;
      };
      add(w, all, {force(wall.from), force(wall.to)}, weights);
    }
  }

  /// \param begun columns of the half wave before to go on from, and where these columns are left.
  std::optional<StripBuckling> at(double half_wave, Begun& begun) const {
    const double k = std::numbers::pi / half_wave;
    // Fields along the bar a quarter of a wave ahead: real then, but for what couples directions.
    MatrixXd real = bent_ + k * k * waved_, other = k * mixed_;
    for (Index i = 0; i < count_; ++i)
      for (Index j = 0; j < count_; ++j)
        if (ahead_[static_cast<std::size_t>(i)] != ahead_[static_cast<std::size_t>(j)]) {
          const double way = ahead_[static_cast<std::size_t>(i)] ? 1.0 : -1.0, here = real(i, j);
          real(i, j) = way * other(i, j), other(i, j) = -way * here;
        }
    const Eigen::VectorXd scale = real.diagonal().cwiseSqrt().cwiseInverse();
    const auto scaled = [&](const MatrixXd& matrix) -> MatrixXd {
      return scale.asDiagonal() * matrix * scale.asDiagonal();
    };
    const MatrixXd K = scaled(real), coupled = scaled(other), G = scaled(k * k * pushed_);
    constexpr double round_off = 1e-13;
    if (coupled.cwiseAbs().maxCoeff() < round_off) return solved<double>(half_wave, scale, K, G, begun.real);
    Eigen::MatrixXcd whole(count_, count_);
    whole.real() = K, whole.imag() = coupled;
    return solved<Complex>(half_wave, scale, whole, G, begun.complex);
  }

 private:
  enum Field : std::uint8_t { u, v, w, turn_x, turn_s };

  template <class Scalar>
  std::optional<StripBuckling> solved(double half_wave, const Eigen::VectorXd& scale,
                                      const typename Arrow<Scalar>::Matrix& whole, const MatrixXd& pushes,
                                      typename Arrow<Scalar>::Matrix& begun) const {
    using Matrix = typename Arrow<Scalar>::Matrix;
    const auto blocks = static_cast<Index>(walls_.size()), size = rest_ / blocks;
    Arrow<Scalar> K(whole, blocks, size);
    const Arrow<double> G(pushes, blocks, size);
    if (!K.factorize()) throw std::invalid_argument("walls have no stiffness left for such short or long waves");
    // The largest x of G u = x K u, by iteration of a few columns; one of them is new at each half wave, so that no shape is missed
    // that those before it have nothing of.
    constexpr Index columns = 6;
    std::mt19937 random(29);
    const auto any = [&] { return static_cast<double>(random()) / 4294967296.0 - 0.5; };
    const auto fresh = [&](Index many) -> Matrix {
      return Matrix::NullaryExpr(count_, many, [&]() -> Scalar {
        if constexpr (std::is_same_v<Scalar, double>)
          return any();
        else
          return Scalar(any(), any());
      });
    };
    Matrix u = begun;
    if (u.cols() == columns)
      u.col(0) = fresh(1);
    else
      u = fresh(std::min(columns, count_));
    const auto pushed_by = [&](const Matrix& of) -> Matrix {
      if constexpr (std::is_same_v<Scalar, double>) {
        return G * of;
      } else {
        MatrixXd parts(of.rows(), 2 * of.cols());
        parts << of.real(), of.imag();
        parts = G * parts;
        Matrix out(of.rows(), of.cols());
        out.real() = parts.leftCols(of.cols()), out.imag() = parts.rightCols(of.cols());
        return out;
      }
    };
    Matrix Gu = pushed_by(u);
    double value = 0.0;
    for (int step = 0; step < 200; ++step) {
      const Matrix Ku = Gu;
      u = K.solve(Gu);
      Gu = pushed_by(u);
      // Rayleigh and Ritz: the pencil within these columns.
      const Matrix small_K = u.adjoint() * Ku, small_G = u.adjoint() * Gu;
      const Eigen::SelfAdjointEigenSolver<Matrix> of_K(0.5 * (small_K + small_K.adjoint()));
      const double most = of_K.eigenvalues().maxCoeff();
      if (!(most > 0.0)) return std::nullopt;
      Index none = 0;
      while (of_K.eigenvalues()[none] <= 1e-13 * most) ++none;
      const Index kept = of_K.eigenvalues().size() - none;
      const Matrix basis =
          of_K.eigenvectors().rightCols(kept) *
          of_K.eigenvalues().tail(kept).cwiseSqrt().cwiseInverse().template cast<Scalar>().asDiagonal();
      const Matrix within = basis.adjoint() * small_G * basis;
      const Eigen::SelfAdjointEigenSolver<Matrix> ritz(0.5 * (within + within.adjoint()));
      const Matrix turned = basis * ritz.eigenvectors();
      u = (u * turned).eval();
      Gu = (Gu * turned).eval();
      const double now = ritz.eigenvalues().maxCoeff();
      const bool settled = std::abs(now - value) <= 1e-9 * std::abs(now);
      value = now;
      if (settled && step > 2) break;
    }
    begun = u;
    if (!(value > 0.0)) return std::nullopt;
    StripBuckling out{1.0 / value, half_wave, 0};
    const Eigen::Matrix<Scalar, Eigen::Dynamic, 1> shape = scale.cast<Scalar>().cwiseProduct(u.col(u.cols() - 1));
    double most = 0.0;
    for (std::size_t wall = 0; wall < walls_.size(); ++wall)
      if (const double moved = moved_most(wall, shape.template cast<Complex>()); moved > 1.01 * most)
        most = moved, out.wall = wall;
    return out;
  }

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
    rest_ = static_cast<Index>(walls_.size() * (terms_ - 2) * 5);
    count_ = rest_ + 4 * static_cast<Index>(junctions_.count());
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
    ahead_.assign(static_cast<std::size_t>(count_), false);
    for (std::size_t wall = 0; wall < walls_.size(); ++wall)
      for (std::size_t i = 0; i < terms_; ++i)
        for (const Field field : {u, turn_x})
          for (const Share& share : shares(wall, field, i)) ahead_[static_cast<std::size_t>(share.unknown)] = true;
  }

  /// How a field's function of a wall is made of unknowns.
  struct Share {
    Index unknown;
    double factor;
  };
  std::vector<Share> shares(std::size_t wall, Field field, std::size_t i) const {
    if (i >= 2) return {{static_cast<Index>((wall * (terms_ - 2) + i - 2) * 5 + field), 1.0}};
    const Index base = rest_ + 4 * (i == 0 ? junctions_.ends(wall).first : junctions_.ends(wall).second);
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

  /// Strains are S0 + ik S1 times the unknowns: what they store is S0' C S0 + ik (S0' C S1 - S1' C S0) + k² S1' C S1.
  void add(std::size_t wall, const Eigen::Matrix<double, 8, 8>& stiffness, const std::array<double, 2>& forces,
           const std::vector<std::pair<double, double>>& weights) {
    const double half = 0.5 * walls_[wall].length();
    const auto size = static_cast<Index>(5 * terms_);
    MatrixXd bent = MatrixXd::Zero(size, size), mixed = bent, waved = bent, pushed = bent;
    for (std::size_t q = 0; q < gauss_.size(); ++q) {
      const double weight = weights[q].second * half, place = 0.5 * (1.0 + weights[q].first);
      using Rows = Eigen::Matrix<double, 8, Eigen::Dynamic>;
      Rows still = Rows::Zero(8, size), along = Rows::Zero(8, size);
      Eigen::Matrix<double, 2, Eigen::Dynamic> slopes = Eigen::Matrix<double, 2, Eigen::Dynamic>::Zero(2, size);
      for (std::size_t i = 0; i < terms_; ++i) {
        const double value = gauss_[q](0, static_cast<Index>(i)), slope = gauss_[q](1, static_cast<Index>(i)) / half;
        const auto at = [&](Field field) { return static_cast<Index>(5 * i + field); };
        along(0, at(u)) = value;
        still(1, at(v)) = slope;
        still(2, at(u)) = slope;
        along(2, at(v)) = value;
        along(3, at(turn_x)) = value;
        still(4, at(turn_s)) = slope;
        still(5, at(turn_x)) = slope;
        along(5, at(turn_s)) = value;
        still(6, at(turn_x)) = value;
        along(6, at(w)) = value;
        still(7, at(turn_s)) = value;
        still(7, at(w)) = slope;
        slopes(0, at(v)) = value;
        slopes(1, at(w)) = value;
      }
      const MatrixXd across = still.transpose() * stiffness * along;
      bent += weight * still.transpose() * stiffness * still;
      mixed += weight * (across - across.transpose());
      waved += weight * along.transpose() * stiffness * along;
      pushed -= weight * (forces[0] + (forces[1] - forces[0]) * place) * slopes.transpose() * slopes;
    }
    std::vector<std::vector<Share>> all;
    for (std::size_t i = 0; i < terms_; ++i)
      for (const Field field : {u, v, w, turn_x, turn_s}) all.push_back(shares(wall, field, i));
    for (Index row = 0; row < size; ++row)
      for (Index column = 0; column < size; ++column)
        for (const Share& a : all[static_cast<std::size_t>(row)])
          for (const Share& b : all[static_cast<std::size_t>(column)])
            for (const auto& [to, from] :
                 {std::pair{&bent_, &bent}, {&mixed_, &mixed}, {&waved_, &waved}, {&pushed_, &pushed}})
              (*to)(a.unknown, b.unknown) += a.factor * b.factor * (*from)(row, column);
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
  std::vector<std::array<Index, 2>> own_;  ///< turning about s at both ends of each wall
  std::vector<Eigen::Matrix2Xd> gauss_;    ///< functions and slopes at each place
  MatrixXd bent_, mixed_, waved_;          ///< what strains store: itself, times ik, times k²
  MatrixXd pushed_;                        ///< what the forces do, times k²
  std::vector<bool> ahead_;                ///< along the bar: u and turning about s
  Index rest_ = 0, count_ = 0;             ///< from where on unknowns are those where walls meet
};

void check(double length, std::size_t terms) {
  if (!(length > 0.0) || !std::isfinite(length)) throw std::invalid_argument("a half wave has a length above nought");
  if (terms < 4 || terms > most_terms) throw std::invalid_argument("terms are 4 to 60");
}

}  // namespace

std::optional<StripBuckling> strip_buckling(std::span<const Wall> walls, const AxialStrain& strain, double half_wave,
                                            std::size_t terms) {
  check(half_wave, terms);
  Begun begun;
  return Strips(walls, strain, terms).at(half_wave, begun);
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
  Begun begun;
  const auto at = [&](double log_of_wave) { return strips.at(std::exp(log_of_wave), begun); };
  for (std::size_t i = 0; i < count; ++i) {
    found.push_back(at(low + (high - low) * static_cast<double>(i) / static_cast<double>(count - 1)));
    if (found.back()) out.curve.push_back(*found.back());
  }
  for (std::size_t i = 1; i + 1 < found.size(); ++i) {
    if (!found[i - 1] || !found[i] || !found[i + 1]) continue;
    if (found[i]->factor > found[i - 1]->factor || found[i]->factor >= found[i + 1]->factor) continue;
    if (out.local && out.local->factor <= found[i]->factor) continue;
    // Between its neighbours: where the parabola through three is least, and these closer and closer.
    begun = {};
    struct Tried {
      double place, factor;
    };
    std::array<Tried, 3> near;
    for (std::size_t k = 0; k < 3; ++k) near[k] = {std::log(found[i + k - 1]->half_wave), found[i + k - 1]->factor};
    StripBuckling best = *found[i];
    for (int step = 0; step < 12; ++step) {
      const double left = near[1].place - near[0].place, right = near[2].place - near[1].place,
                   down = near[0].factor - near[1].factor, up = near[2].factor - near[1].factor;
      double next = near[1].place + 0.5 * (right * right * down - left * left * up) / (right * down + left * up);
      // Too near to one that is known, or along a straight line: the middle of the wider side.
      const double width = near[2].place - near[0].place;
      if (!(next > near[0].place && next < near[2].place) || std::abs(next - near[1].place) < 1e-3 * width ||
          std::min(left, right) < 0.05 * width)
        next = near[1].place + (right > left ? 0.5 * right : -0.5 * left);
      const auto there = at(next);
      if (!there) break;
      if (there->factor < best.factor) best = *there;
      const double gain = near[1].factor - there->factor;
      const Tried one{next, there->factor};
      if (one.factor < near[1].factor)
        (next < near[1].place ? near[2] : near[0]) = near[1], near[1] = one;
      else
        (next < near[1].place ? near[0] : near[2]) = one;
      if (std::abs(gain) < 1e-7 * best.factor) break;
    }
    out.local = best;
  }
  return out;
}

}  // namespace bordado::sizing
