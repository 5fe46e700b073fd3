// The functions of the Ritz method over a rectangle and the matrices that they give.
#ifndef BORDADO_SRC_SIZING_RITZ_HPP
#define BORDADO_SRC_SIZING_RITZ_HPP

#include <bordado/panel.hpp>

#include <Eigen/SparseCore>

namespace bordado::sizing {

using SparseMatrix = Eigen::SparseMatrix<double>;

/// Functions on -1 to 1: two straight ones, each 1 at one end and 0 at the other, and integrals of Legendre polynomials, which
/// are 0 at both (B. Szabó and I. Babuška, Finite Element Analysis (1991), section 3.1). Products of them and of their slopes
/// integrate to nought but for neighbours, so that matrices are sparse.
class Functions {
 public:
  explicit Functions(std::size_t count);
  std::size_t count() const { return static_cast<std::size_t>(products_[0][0].rows()); }
  /// The integral of one function or slope times another: [0] the function, [1] its slope.
  double product(bool slope_i, std::size_t i, bool slope_k, std::size_t k) const {
    return products_[slope_i][slope_k](static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(k));
  }
  /// The functions that have a product with function i, in rising order.
  const std::vector<std::size_t>& neighbours(std::size_t i) const { return neighbours_[i]; }
  /// All functions (row 0) and slopes (row 1) at a place.
  static Eigen::Matrix2Xd at(std::size_t count, double place);

 private:
  std::array<std::array<Eigen::MatrixXd, 2>, 2> products_;
  std::vector<std::vector<std::size_t>> neighbours_;
};

/// How far fewer functions are from what all of them give, a share of that.
inline double change(double value, double fewer) { return std::abs(fewer - value) / std::abs(value); }

/// Deflection and both turns of a panel as sums of products of functions; those that its edges hold are left out.
class Ritz {
 public:
  Ritz(const Panel& panel, const Terms& terms);
  Eigen::Index count() const { return count_; }

  /// Lower halves: twice the energy of bending and shear; twice the work of forces in the plane through the deflection; mass.
  SparseMatrix stiffness() const;
  SparseMatrix forces(const Vector3& N) const;
  SparseMatrix mass() const;
  /// Work of an even pressure of 1.
  Eigen::VectorXd pressure() const;
  /// A sum of fewer functions as one of all.
  Eigen::VectorXd with_more(const Eigen::VectorXd& sum, const Ritz& fewer) const;
  /// What a sum of the functions is at all places of a grid, row by row along x.
  std::vector<BentPlace> at(const Eigen::VectorXd& sum, std::span<const double> x, std::span<const double> y) const;
  BentPlace at(const Eigen::VectorXd& sum, double x, double y) const { return at(sum, {&x, 1}, {&y, 1}).front(); }

 private:
  enum Field : std::uint8_t { deflection, turn_x, turn_y };
  /// A field, or its slope along x or y.
  struct Part {
    Field field;
    bool along_x, along_y;
  };
  struct Term {
    Part first, second;
    double factor;
  };
  /// One strain as a sum of parts.
  using Strain = std::vector<Part>;
  static const std::array<Strain, 5>& strains();

  void add(std::vector<Term>& terms, const Strain& one, const Strain& other, double factor) const;
  SparseMatrix sum(const std::vector<Term>& terms) const;
  std::int64_t number(Field field, std::size_t i, std::size_t j) const { return numbers_[field][i * y_.count() + j]; }

  const Panel& panel_;
  Functions x_, y_;
  std::array<std::vector<std::int64_t>, 3> numbers_;  ///< of each product, -1 where an edge holds it
  Eigen::Index count_ = 0;
};

}  // namespace bordado::sizing

#endif
