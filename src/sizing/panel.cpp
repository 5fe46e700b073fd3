#include <bordado/panel.hpp>

#include "ritz.hpp"

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/LU>
#include <Eigen/SparseCholesky>

#include <fmt/format.h>
#include <tbb/parallel_invoke.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numbers>
#include <random>
#include <stdexcept>

namespace bordado::sizing {

namespace {

/// Beyond this nothing is a length, a load or a stiffness, in whatever units.
constexpr double largest_number = 1e30;
bool is_positive(double value) { return value > 0.0 && value <= largest_number; }
void check_loads(const Vector3& N) {
  if (!(N.cwiseAbs().maxCoeff() <= largest_number) ||
      (N.array() != 0.0 && N.array().abs() < 1.0 / largest_number).any())
    throw std::invalid_argument("loads are numbers between 1e-30 and 1e30, or nought");
}

void check(const Panel& panel, const Terms& terms) {
  if (!is_positive(panel.a) || !is_positive(panel.b))
    throw std::invalid_argument("a panel's lengths are numbers above nought");
  if (terms.x < 4 || terms.y < 4 || terms.x > most_terms || terms.y > most_terms)
    throw std::invalid_argument(fmt::format("terms are 4 to {} along each side", most_terms));
  const auto& [D, H, mass] = panel.plate;
  if (!D.allFinite() || !H.allFinite() || D.llt().info() != Eigen::Success || H.llt().info() != Eigen::Success)
    throw std::invalid_argument("a panel's stiffness in bending and in transverse shear is positive");
  std::size_t clamped = 0, simple = 0;
  for (const Edge edge : {panel.x0, panel.x1, panel.y0, panel.y1}) {
    clamped += edge == Edge::clamped;
    simple += edge == Edge::simple;
  }
  // About a single edge that is simply supported a panel swings.
  if (clamped == 0 && simple < 2)
    throw std::invalid_argument("a panel is held by one clamped edge or by two that are simply supported");
}

/// A symmetric positive matrix (its lower half) as L Lᵀ, rows scaled so that its diagonal is one. Throws where it is not positive.
class Factored {
 public:
  explicit Factored(const SparseMatrix& matrix) : scale_(matrix.diagonal().cwiseSqrt().cwiseInverse()) {
    const SparseMatrix scaled = scale_.asDiagonal() * matrix * scale_.asDiagonal();
    factors_.compute(scaled);
    if (factors_.info() != Eigen::Success || !scale_.allFinite())
      throw std::invalid_argument(
          "the panel has no stiffness left: forces in its plane buckle it, or it is too thin, or its sides too unlike, "
          "for numbers");
  }
  Eigen::VectorXd solve(const Eigen::VectorXd& right) const {
    return scale_.cwiseProduct(factors_.solve(scale_.cwiseProduct(right)));
  }
  /// L⁻¹ times a column, and L⁻ᵀ times one, in the order of the panel's own unknowns.
  Eigen::VectorXd down(Eigen::VectorXd column) const {
    column = factors_.permutationP() * scale_.cwiseProduct(column).eval();
    factors_.matrixL().solveInPlace(column);
    return column;
  }
  Eigen::VectorXd up(Eigen::VectorXd column) const {
    factors_.matrixU().solveInPlace(column);
    return scale_.cwiseProduct(factors_.permutationPinv() * column);
  }

 private:
  Eigen::VectorXd scale_;
  Eigen::SimplicialLLT<SparseMatrix, Eigen::Lower> factors_;
};

/// Outermost eigenvalues of L⁻¹ G L⁻ᵀ by the block Lanczos method with all columns kept at right angles (G. H. Golub and
/// C. F. Van Loan, Matrix Computations, section 10.3.6): as many equal ones as a block has columns are found.
class Lanczos {
 public:
  Lanczos(const Factored& factored, const SparseMatrix& lower_half)
      : factored_(factored), G_(lower_half.selfadjointView<Eigen::Lower>()) {}

  /// \param most, least how many from each end; of one each, equal ones are one. \param near a shape that is near to what is looked
  /// for. \param within of which the square is the error. \returns from the least to the most, all that were found.
  std::vector<double> outermost(std::size_t most, std::size_t least, const Eigen::VectorXd* near = nullptr,
                                double within = 3e-6) {
    const Eigen::Index size = G_.rows();
    const auto from_above = static_cast<Eigen::Index>(most), from_below = static_cast<Eigen::Index>(least);
    const Eigen::Index block =
        from_above <= 1 && from_below <= 1 ? 1 : std::clamp<Eigen::Index>(from_above + from_below, 2, 4);
    const Eigen::Index room = std::min<Eigen::Index>(size, std::max<Eigen::Index>(160, 46 * block));
    basis_.resize(size, room);
    std::mt19937 random(29);
    Eigen::MatrixXd first =
        Eigen::MatrixXd::NullaryExpr(size, block, [&] { return static_cast<double>(random()) / 4294967296.0 - 0.5; });
    if (near) {
      // With some of everything, so that nothing is overlooked that is not like it.
      const Eigen::VectorXd shape = factored_.down(G_ * *near);
      if (const double norm = shape.norm(); norm > 0.0)
        first.col(0) = shape / norm + 0.1 / first.col(0).norm() * first.col(0);
    }
    // A block may bring less than it has columns when nothing new is left.
    append(first);
    Eigen::MatrixXd projected = Eigen::MatrixXd::Zero(room, room);
    for (Eigen::Index begin = 0, looked = 0;;) {
      const Eigen::Index end = columns_;
      const auto known = basis_.leftCols(end);
      Eigen::MatrixXd next(size, end - begin);
      for (Eigen::Index k = begin; k < end; ++k) next.col(k - begin) = factored_.down(G_ * factored_.up(basis_.col(k)));
      projected.block(0, begin, end, end - begin) = known.transpose() * next;
      next -= known * projected.block(0, begin, end, end - begin);
      // Looked at now and then: it costs as much as some more columns.
      if (end < room && end - looked < std::max<Eigen::Index>(4, end / 6)) {
        append(next);
        begin = end;
        if (columns_ > end) continue;
      }
      looked = end;
      const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solved(
          Eigen::MatrixXd(projected.topLeftCorner(end, end).selfadjointView<Eigen::Upper>()));
      const Eigen::VectorXd& values = solved.eigenvalues();
      const double largest = values.cwiseAbs().maxCoeff();
      // The square of what is left is the error.
      const auto is_settled = [&](Eigen::Index i) {
        const double left = (next * solved.eigenvectors().col(i).tail(end - begin)).norm();
        return left <= within * std::abs(values[i]) || std::abs(values[i]) < 1e-10 * largest;
      };
      bool settled = end > from_above + from_below;
      for (Eigen::Index i = 0; settled && i < from_above; ++i) settled = is_settled(end - 1 - i);
      for (Eigen::Index i = 0; settled && i < from_below; ++i) settled = is_settled(i);
      append(next);
      if (settled || columns_ == end) {
        most_ = known * solved.eigenvectors().rightCols<1>();
        least_ = known * solved.eigenvectors().leftCols<1>();
        return {values.begin(), values.end()};
      }
      begin = end;
    }
  }

  /// The eigenvectors of the largest and of the least, once they have been looked for.
  Eigen::VectorXd shape() const { return factored_.up(most_); }
  Eigen::VectorXd least_shape() const { return factored_.up(least_); }

 private:
  /// What of these columns is new, as far as there is room.
  void append(const Eigen::MatrixXd& columns) {
    for (Eigen::Index k = 0; k < columns.cols() && columns_ < basis_.cols(); ++k) {
      Eigen::VectorXd column = columns.col(k);
      const double before = column.norm();
      for (int pass = 0; pass < 2; ++pass)
        column -= basis_.leftCols(columns_) * (basis_.leftCols(columns_).transpose() * column).eval();
      if (const double after = column.norm(); after > 1e-12 * before) basis_.col(columns_++) = column / after;
    }
  }

  const Factored& factored_;
  const SparseMatrix G_;
  Eigen::MatrixXd basis_;
  Eigen::VectorXd most_, least_;
  Eigen::Index columns_ = 0;
};

/// A smaller set of functions: what the last third brought is seen from it.
Terms two_thirds(const Terms& terms) {
  const auto fewer = [](std::size_t n) { return std::max<std::size_t>(4, 2 * n / 3); };
  return {fewer(terms.x), fewer(terms.y)};
}

/// What all functions give and what two thirds of them do, one beside the other.
template <class Solve>
auto with_fewer(const Terms& terms, const Solve& solve) {
  decltype(solve(terms)) all{}, fewer{};
  tbb::parallel_invoke([&] { all = solve(terms); }, [&] { fewer = solve(two_thirds(terms)); });
  return std::pair(std::move(all), std::move(fewer));
}

/// Stiffness with forces in the plane.
SparseMatrix under(const Ritz& ritz, const Vector3& preload) {
  SparseMatrix out = ritz.stiffness();
  if (preload != Vector3::Zero()) out += ritz.forces(preload);
  return out;
}

/// Whether forces push in some direction of the plane: only then they buckle anything.
bool pushes(const Vector3& N) {
  const double middle = 0.5 * (N[0] + N[1]), half = std::hypot(0.5 * (N[0] - N[1]), N[2]);
  return middle - half < -1e-9 * N.norm();
}

/// The least factors forward and reversed, nought where there is none, and the sum of their shapes.
struct LeastFactors {
  std::array<double, 2> factors{};
  Eigen::VectorXd shapes;
};
LeastFactors least_factors(const Ritz& ritz, const Factored& stiffness, const Vector3& N, const Eigen::VectorXd* near) {
  const double size = N.norm();  // the search is for loads of one, so that none is too small or too large for it
  const bool forward = pushes(N), reversed = pushes(-N);
  LeastFactors out;
  Lanczos lanczos(stiffness, ritz.forces(-N / size));
  const std::vector<double> found = lanczos.outermost(forward, reversed, near);
  if (forward && found.back() > 0.0) out.factors[0] = 1.0 / found.back() / size;
  if (reversed && found.front() < 0.0) out.factors[1] = -1.0 / found.front() / size;
  out.shapes = Eigen::VectorXd::Zero(ritz.count());
  if (forward) out.shapes += lanczos.shape();
  if (reversed) out.shapes += lanczos.least_shape();
  return out;
}

/// Eigenvalues of mass against stiffness, as frequencies.
std::vector<double> frequencies(const Panel& panel, std::size_t count, const Vector3& preload, const Terms& terms) {
  const Ritz ritz(panel, terms);
  const Factored stiffness(under(ritz, preload));
  const std::vector<double> found = Lanczos(stiffness, ritz.mass()).outermost(count, 0);
  std::vector<double> out;
  for (auto value = found.rbegin(); value != found.rend() && out.size() < count && *value > 0.0; ++value)
    out.push_back(1.0 / (2.0 * std::numbers::pi * std::sqrt(*value)));
  return out;
}

}  // namespace

PlateStiffness plate_stiffness(std::span<const laminate::Layer> layers) {
  const laminate::Stiffness all = laminate::stiffness(layers, -0.5 * laminate::thickness(layers));
  const Matrix3 reduced = all.D - all.B * all.A.fullPivLu().solve(all.B);
  return {0.5 * (reduced + reduced.transpose()), all.H, laminate::areal_mass(layers)};
}

BucklingFactors buckling_factors(const Panel& panel, const Vector3& N, const Terms& terms) {
  check(panel, terms);
  check_loads(N);
  if (N == Vector3::Zero()) throw std::invalid_argument("loads are not all nought");
  // Two thirds of the functions first; their shapes are where the search among all begins.
  const Terms less = two_thirds(terms);
  const Ritz ritz(panel, terms), smaller(panel, less);
  std::optional<Factored> stiffness;
  LeastFactors fewer;
  tbb::parallel_invoke([&] { stiffness.emplace(ritz.stiffness()); },
                       [&] { fewer = least_factors(smaller, Factored(smaller.stiffness()), N, nullptr); });
  const Eigen::VectorXd near = ritz.with_more(fewer.shapes, smaller);
  const LeastFactors all = least_factors(ritz, *stiffness, N, &near);
  const auto settled = [&](std::size_t k) {
    return all.factors[k] > 0.0 ? std::optional(Settled{all.factors[k], change(all.factors[k], fewer.factors[k])})
                                : std::nullopt;
  };
  return {settled(0), settled(1)};
}

Terms enough_terms(const Panel& panel, const Vector3& N, BucklingFactors& found) {
  Terms terms;
  for (const std::size_t count : {14u, 21u, 30u, 42u}) {
    terms = {count, count};
    found = buckling_factors(panel, N, terms);
    if (!found.forward || found.forward->change <= 1e-3) break;
  }
  return terms;
}

namespace {

/// Directions of loads, one for each patch of their sphere of some ten degrees: of those the load that is the largest.
std::vector<Vector3> directions_of(std::span<const Vector3> loads) {
  std::map<std::array<int, 3>, const Vector3*> largest;
  for (const Vector3& N : loads) {
    if (!pushes(N)) continue;
    const Vector3 unit = N.normalized();
    std::array<int, 3> patch;
    for (std::size_t k = 0; k < 3; ++k)
      patch[k] = static_cast<int>(std::lround(6.0 * unit[static_cast<Eigen::Index>(k)]));
    const Vector3*& place = largest[patch];
    if (!place || N.squaredNorm() > place->squaredNorm()) place = &N;
  }
  std::vector<Vector3> out;
  for (const auto& [patch, load] : largest) out.push_back(load->normalized());
  return out;
}

}  // namespace

ManyLoads::ManyLoads(const Panel& panel, std::span<const Vector3> loads, const Terms& terms, double within) {
  check(panel, terms);
  for (const Vector3& N : loads) check_loads(N);
  const std::vector<Vector3> directions = directions_of(loads);
  if (directions.empty()) return;
  const Ritz ritz(panel, terms);
  const SparseMatrix K = ritz.stiffness();
  const Factored stiffness(K);
  const std::array<SparseMatrix, 3> unit = {ritz.forces({1, 0, 0}), ritz.forces({0, 1, 0}), ritz.forces({0, 0, 1})};
  Eigen::MatrixXd shapes(ritz.count(), 0);  // each with a stiffness of one, at right angles to the others by it
  double top = 0.0;
  // Looks at a direction. \returns whether its share was not known.
  const auto look = [&](const Vector3& direction, double exactly) {
    Lanczos lanczos(stiffness, ritz.forces(-direction));
    double told = 0.0;
    Eigen::VectorXd near;
    if (shapes.cols() > 0) {
      const Exact known = exact_among(direction);
      told = known.share, near = shapes * known.shape;
    }
    const double share = lanczos.outermost(1, 0, told > 0.0 ? &near : nullptr, exactly).back();
    top = std::max(top, share);
    Eigen::VectorXd shape = lanczos.shape();
    for (int pass = 0; pass < 2; ++pass)
      shape -= shapes * (shapes.transpose() * (K.selfadjointView<Eigen::Lower>() * shape)).eval();
    const double left = shape.dot(K.selfadjointView<Eigen::Lower>() * shape);
    if (left > 1e-10) {
      shapes.conservativeResize(Eigen::NoChange, shapes.cols() + 1);
      shapes.rightCols<1>() = shape / std::sqrt(left);
      for (std::size_t k = 0; k < 3; ++k) {
        const Eigen::VectorXd pushed = -(unit[k].selfadjointView<Eigen::Lower>() * shapes.rightCols<1>());
        const Eigen::VectorXd row = shapes.transpose() * pushed;
        by_[k].conservativeResize(row.size(), row.size());
        by_[k].rightCols<1>() = row;
        by_[k].bottomRows<1>() = row.transpose();
      }
    }
    return share - told > within * std::max(share, 0.1 * top);
  };
  // From the first on always the direction that is farthest from all that were looked at.
  std::vector<double> nearest(directions.size(), -1.0);
  std::size_t next = 0;
  for (std::size_t looked = 0, in_a_row = 0; looked < directions.size() && in_a_row < 6; ++looked) {
    in_a_row = look(directions[next], 3e-3) ? 0 : in_a_row + 1;
    for (std::size_t i = 0; i < directions.size(); ++i)
      nearest[i] = std::max(nearest[i], directions[i].dot(directions[next]));
    next = static_cast<std::size_t>(std::min_element(nearest.begin(), nearest.end()) - nearest.begin());
  }
  // And at what needs the least.
  std::vector<Vector3> starts = directions;
  for (int round = 0; round < 20; ++round) {
    start_from(starts);
    const Vector3* least = nullptr;
    double told = std::numeric_limits<double>::infinity();
    for (const Vector3& N : loads)
      if (const double one = factor(N); one < told) told = one, least = &N;
    if (!least) break;
    starts.push_back(least->normalized());
    look(starts.back(), 3e-5);
    if (exact_among(*least).share * told < 1.0 + 1e-6) break;
  }
  start_from(starts);
}

void ManyLoads::start_from(std::span<const Vector3> directions) {
  starts_.resize(by_[0].rows(), static_cast<Eigen::Index>(directions.size()));
  straight_.resize(3, starts_.cols());
  for (Eigen::Index i = 0; i < starts_.cols(); ++i) {
    starts_.col(i) = exact_among(directions[static_cast<std::size_t>(i)]).shape;
    for (std::size_t k = 0; k < 3; ++k)
      straight_(static_cast<Eigen::Index>(k), i) = starts_.col(i).dot(by_[k] * starts_.col(i));
  }
}

ManyLoads::Exact ManyLoads::exact_among(const Vector3& direction) const {
  const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solved(direction[0] * by_[0] + direction[1] * by_[1] +
                                                              direction[2] * by_[2]);
  return {solved.eigenvalues().tail<1>()[0], solved.eigenvectors().rightCols<1>()};
}

double ManyLoads::factor(const Vector3& N) const {
  constexpr double none = std::numeric_limits<double>::infinity();
  if (starts_.cols() == 0 || !pushes(N)) return none;
  Eigen::Index near = 0;
  (straight_.transpose() * N).maxCoeff(&near);
  // The best of what the nearest shape and two that its pushes make are together.
  Eigen::Matrix<double, Eigen::Dynamic, 3> basis(starts_.rows(), 3);
  basis.col(0) = starts_.col(near);
  const Eigen::MatrixXd pushed = N[0] * by_[0] + N[1] * by_[1] + N[2] * by_[2];
  Matrix3 among = Matrix3::Zero();
  Eigen::Index count = 1;
  for (;; ++count) {
    Eigen::VectorXd next = pushed * basis.col(count - 1);
    among.block(0, count - 1, count, 1) = basis.leftCols(count).transpose() * next;
    const double before = next.norm();
    if (count == 3) break;
    for (int pass = 0; pass < 2; ++pass)
      next -= basis.leftCols(count) * (basis.leftCols(count).transpose() * next).eval();
    if (next.norm() < 1e-9 * before) break;
    basis.col(count) = next.normalized();
  }
  const double share =
      Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd>(
          Eigen::MatrixXd(among.topLeftCorner(count, count).selfadjointView<Eigen::Upper>()), Eigen::EigenvaluesOnly)
          .eigenvalues()
          .tail<1>()[0];
  return share > 0.0 ? 1.0 / share : none;
}

std::vector<Settled> natural_frequencies(const Panel& panel, std::size_t count, const Vector3& preload,
                                         const Terms& terms) {
  check(panel, terms);
  if (!is_positive(panel.plate.mass)) throw std::invalid_argument("a panel without mass has no frequencies");
  check_loads(preload);
  const auto [all, fewer] = with_fewer(terms, [&](const Terms& of) { return frequencies(panel, count, preload, of); });
  std::vector<Settled> out;
  for (std::size_t k = 0; k < all.size(); ++k)
    out.push_back({all[k], k < fewer.size() ? change(all[k], fewer[k]) : 1.0});
  return out;
}

namespace {

std::vector<double> evenly(double length, std::size_t rows) {
  std::vector<double> out;
  for (std::size_t i = 0; i < rows; ++i) out.push_back(length * static_cast<double>(i) / static_cast<double>(rows - 1));
  return out;
}

void check_rows(std::size_t rows) {
  if (rows < 2 || rows > 1000) throw std::invalid_argument("rows of places are 2 to 1000");
}

}  // namespace

std::vector<BentPlace> buckling_shape(const Panel& panel, const Vector3& N, const Terms& terms, std::size_t rows) {
  check(panel, terms);
  check_loads(N);
  if (N == Vector3::Zero()) throw std::invalid_argument("loads are not all nought");
  check_rows(rows);
  const Ritz ritz(panel, terms);
  const Factored stiffness(ritz.stiffness());
  Lanczos lanczos(stiffness, ritz.forces(-N / N.norm()));
  if (!pushes(N) || lanczos.outermost(1, 0).back() <= 0.0) throw std::invalid_argument("these loads buckle nothing");
  std::vector<BentPlace> out = ritz.at(lanczos.shape(), evenly(panel.a, rows), evenly(panel.b, rows));
  const BentPlace most = *std::max_element(out.begin(), out.end(), [](const BentPlace& a, const BentPlace& b) {
    return std::abs(a.deflection) < (1.0 - 1e-9) * std::abs(b.deflection);
  });
  for (BentPlace& place : out) {
    place.deflection /= most.deflection;
    place.curvature /= most.deflection;
    place.moment /= most.deflection;
    place.shear /= most.deflection;
  }
  return out;
}

Bent under_pressure(const Panel& panel, double pressure, const Terms& terms, std::size_t rows, const Vector3& preload) {
  check(panel, terms);
  if (!(std::abs(pressure) <= largest_number))
    throw std::invalid_argument("a pressure is a number, no larger than 1e30");
  check_loads(preload);
  check_rows(rows);
  const auto [sum, fewer] = with_fewer(terms, [&](const Terms& of) {
    const Ritz ritz(panel, of);
    return Eigen::VectorXd(pressure * Factored(under(ritz, preload)).solve(ritz.pressure()));
  });
  const Ritz ritz(panel, terms), smaller(panel, two_thirds(terms));
  Bent out;
  out.mean = sum.dot(ritz.pressure()) / (panel.a * panel.b);
  const auto step = static_cast<double>(rows - 1);
  out.places = ritz.at(sum, evenly(panel.a, rows), evenly(panel.b, rows));
  for (const BentPlace& place : out.places)
    if (std::abs(place.deflection) > std::abs(out.largest.value))
      out.largest.value = place.deflection, out.x = place.x, out.y = place.y;
  // From the best place of the grid on, by ever smaller steps.
  for (double part = 0.5 / step; part > 1e-5; part *= 0.5)
    for (const auto& [step_x, step_y] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}}) {
      const double x = std::clamp(out.x + step_x * part * panel.a, 0.0, panel.a),
                   y = std::clamp(out.y + step_y * part * panel.b, 0.0, panel.b);
      const double deflection = ritz.at(sum, x, y).deflection;
      if (std::abs(deflection) <= std::abs(out.largest.value)) continue;
      out.largest.value = deflection;
      out.x = x;
      out.y = y;
    }
  if (out.largest.value != 0.0)
    out.largest.change = change(out.largest.value, smaller.at(fewer, out.x, out.y).deflection);
  return out;
}

std::optional<ClosedForm> closed_form(const Panel& panel, const Vector3& N) {
  check(panel, {});
  check_loads(N);
  const auto& [D, H, mass] = panel.plate;
  const auto is_nought = [](double value, double of) { return std::abs(value) <= 1e-9 * of; };
  for (const Edge edge : {panel.x0, panel.x1, panel.y0, panel.y1})
    if (edge != Edge::simple) return std::nullopt;
  const double small = std::min({D(0, 0), D(1, 1), D(2, 2)});
  if (!is_nought(D(0, 2), small) || !is_nought(D(1, 2), small) || !is_nought(H(0, 1), std::min(H(0, 0), H(1, 1))) ||
      !is_nought(N[2], N.norm()))
    return std::nullopt;
  // A mode's stiffness, its turns moving as they like.
  const auto stiffness = [&D = D, &H = H](double p, double q) {
    Matrix2 turns;
    turns << D(0, 0) * p * p + D(2, 2) * q * q + H(0, 0), (D(0, 1) + D(2, 2)) * p * q, (D(0, 1) + D(2, 2)) * p * q,
        D(2, 2) * p * p + D(1, 1) * q * q + H(1, 1);
    const Vector2 mixed(H(0, 0) * p, H(1, 1) * q);
    return H(0, 0) * p * p + H(1, 1) * q * q - mixed.dot(turns.llt().solve(mixed));
  };
  ClosedForm out;
  constexpr int most = 200;
  double least_square = std::numeric_limits<double>::infinity();
  for (int m = 1; m < most; ++m)
    for (int n = 1; n < most; ++n) {
      const double p = m * std::numbers::pi / panel.a, q = n * std::numbers::pi / panel.b, k = stiffness(p, q);
      least_square = std::min(least_square, k);
      if (m % 2 == 1 && n % 2 == 1)
        out.middle += ((m + n) % 4 == 2 ? 16.0 : -16.0) / (std::numbers::pi * std::numbers::pi * m * n * k);
      const double push = -N[0] * p * p - N[1] * q * q;
      if (push <= 0.0 || (out.buckling && k >= *out.buckling * push)) continue;
      out.buckling = k / push;
      out.m = m, out.n = n;
    }
  if (mass > 0.0) out.frequency = std::sqrt(least_square / mass) / (2.0 * std::numbers::pi);
  return out;
}

}  // namespace bordado::sizing
