#include "ritz.hpp"

#include <cmath>
#include <numbers>

namespace bordado::sizing {

namespace {

/// Legendre polynomials and their slopes, of degree 0 to `most`, at a place. Abramowitz and Stegun 8.5.3; slopes by
/// P'(k) = P'(k-2) + (2k-1) P(k-1).
Eigen::Matrix2Xd legendre(std::size_t most, double place) {
  Eigen::Matrix2Xd out = Eigen::Matrix2Xd::Zero(2, static_cast<Eigen::Index>(most + 1));
  out(0, 0) = 1.0;
  if (most == 0) return out;
  out(0, 1) = place;
  out(1, 1) = 1.0;
  for (Eigen::Index k = 2; k < out.cols(); ++k) {
    const double degree = static_cast<double>(k);
    out(0, k) = ((2.0 * degree - 1.0) * place * out(0, k - 1) - (degree - 1.0) * out(0, k - 2)) / degree;
    out(1, k) = out(1, k - 2) + (2.0 * degree - 1.0) * out(0, k - 1);
  }
  return out;
}

/// Places and weights of Gauss: exact to degree 2 count - 1. Roots of the polynomial by Newton's method.
struct Gauss {
  std::vector<double> places, weights;
  explicit Gauss(std::size_t count) {
    for (std::size_t i = 0; i < count; ++i) {
      double place = std::cos(std::numbers::pi * (static_cast<double>(i) + 0.75) / (static_cast<double>(count) + 0.5));
      for (int step = 0; step < 20; ++step) {
        const auto last = legendre(count, place).rightCols<1>().eval();
        place -= last(0) / last(1);
      }
      const double slope = legendre(count, place)(1, static_cast<Eigen::Index>(count));
      places.push_back(place);
      weights.push_back(2.0 / ((1.0 - place * place) * slope * slope));
    }
  }
};

}  // namespace

Eigen::Matrix2Xd Functions::at(std::size_t count, double place) {
  Eigen::Matrix2Xd out(2, static_cast<Eigen::Index>(count));
  const Eigen::Matrix2Xd p = legendre(count, place);
  out.col(0) << 0.5 * (1.0 - place), -0.5;
  out.col(1) << 0.5 * (1.0 + place), 0.5;
  for (Eigen::Index k = 2; k < out.cols(); ++k)
    out.col(k) = (p.col(k) - p.col(k - 2)) / std::sqrt(2.0 * (2.0 * static_cast<double>(k) - 1.0));
  return out;
}

Functions::Functions(std::size_t count) : neighbours_(count) {
  const auto size = static_cast<Eigen::Index>(count);
  for (auto& row : products_)
    for (auto& products : row) products = Eigen::MatrixXd::Zero(size, size);
  const Gauss gauss(count + 1);
  for (std::size_t q = 0; q < gauss.places.size(); ++q) {
    const Eigen::Matrix2Xd values = at(count, gauss.places[q]);
    for (Eigen::Index i = 0; i < 2; ++i)
      for (Eigen::Index k = 0; k < 2; ++k)
        products_[static_cast<std::size_t>(i)][static_cast<std::size_t>(k)] +=
            gauss.weights[q] * values.row(i).transpose() * values.row(k);
  }
  for (auto& row : products_)
    for (auto& products : row)
      products = (products.array().abs() < 1e-13).select(0.0, products);  // all that is not nought is far above
  for (std::size_t i = 0; i < count; ++i)
    for (std::size_t k = 0; k < count; ++k)
      if (product(false, i, false, k) != 0.0 || product(false, i, true, k) != 0.0 ||
          product(true, i, false, k) != 0.0 || product(true, i, true, k) != 0.0)
        neighbours_[i].push_back(k);
}

Ritz::Ritz(const Panel& panel, const Terms& terms) : panel_(panel), x_(terms.x), y_(terms.y) {
  // The first two functions are the ends. Along a simply supported edge nothing turns.
  const auto held = [](std::size_t function, Edge low, Edge high, bool across) {
    if (function > 1) return false;
    const Edge edge = function == 0 ? low : high;
    return edge == Edge::clamped || (edge == Edge::simple && !across);
  };
  for (auto& numbers : numbers_) numbers.assign(terms.x * terms.y, -1);
  // The three fields of a product stand together, which keeps the factors of the matrices sparse.
  for (std::size_t i = 0; i < terms.x; ++i)
    for (std::size_t j = 0; j < terms.y; ++j)
      for (const Field field : {deflection, turn_x, turn_y})
        if (!held(i, panel.x0, panel.x1, field == turn_x) && !held(j, panel.y0, panel.y1, field == turn_y))
          numbers_[field][i * terms.y + j] = count_++;
}

const std::array<Ritz::Strain, 5>& Ritz::strains() {
  // Curvatures x, y, xy of the turns, and shear xz, yz: turn plus slope.
  static const std::array<Strain, 5> all = {Strain{{turn_x, true, false}},
                                            {{turn_y, false, true}},
                                            {{turn_x, false, true}, {turn_y, true, false}},
                                            {{turn_x, false, false}, {deflection, true, false}},
                                            {{turn_y, false, false}, {deflection, false, true}}};
  return all;
}

void Ritz::add(std::vector<Term>& terms, const Strain& one, const Strain& other, double factor) const {
  if (factor == 0.0) return;
  for (const Part& first : one)
    for (const Part& second : other)
      terms.push_back({first, second,
                       factor * 0.25 * panel_.a * panel_.b * std::pow(2.0 / panel_.a, first.along_x + second.along_x) *
                           std::pow(2.0 / panel_.b, first.along_y + second.along_y)});
}

SparseMatrix Ritz::sum(const std::vector<Term>& terms) const {
  std::vector<Eigen::Triplet<double>> entries;
  for (const Term& term : terms)
    for (std::size_t i = 0; i < x_.count(); ++i)
      for (const std::size_t k : x_.neighbours(i)) {
        const double along_x = term.factor * x_.product(term.first.along_x, i, term.second.along_x, k);
        if (along_x == 0.0) continue;
        for (std::size_t j = 0; j < y_.count(); ++j) {
          const std::int64_t row = number(term.first.field, i, j);
          if (row < 0) continue;
          for (const std::size_t l : y_.neighbours(j)) {
            const std::int64_t column = number(term.second.field, k, l);
            const double both = along_x * y_.product(term.first.along_y, j, term.second.along_y, l);
            if (column >= 0 && column <= row && both != 0.0)
              entries.emplace_back(static_cast<int>(row), static_cast<int>(column), both);
          }
        }
      }
  SparseMatrix out(count_, count_);
  out.setFromTriplets(entries.begin(), entries.end());
  return out;
}

SparseMatrix Ritz::stiffness() const {
  std::vector<Term> terms;
  for (std::size_t p = 0; p < 3; ++p)
    for (std::size_t q = 0; q < 3; ++q)
      add(terms, strains()[p], strains()[q],
          panel_.plate.D(static_cast<Eigen::Index>(p), static_cast<Eigen::Index>(q)));
  for (std::size_t p = 0; p < 2; ++p)
    for (std::size_t q = 0; q < 2; ++q)
      add(terms, strains()[3 + p], strains()[3 + q],
          panel_.plate.H(static_cast<Eigen::Index>(p), static_cast<Eigen::Index>(q)));
  return sum(terms);
}

SparseMatrix Ritz::forces(const Vector3& N) const {
  const Strain x = {{deflection, true, false}}, y = {{deflection, false, true}};
  std::vector<Term> terms;
  add(terms, x, x, N[0]);
  add(terms, y, y, N[1]);
  add(terms, x, y, N[2]);
  add(terms, y, x, N[2]);
  return sum(terms);
}

SparseMatrix Ritz::mass() const {
  const Strain moved = {{deflection, false, false}};
  std::vector<Term> terms;
  add(terms, moved, moved, panel_.plate.mass);
  return sum(terms);
}

Eigen::VectorXd Ritz::pressure() const {
  // The two straight functions sum up to one everywhere.
  const auto whole = [](const Functions& of, std::size_t i) {
    return of.product(false, i, false, 0) + of.product(false, i, false, 1);
  };
  Eigen::VectorXd out = Eigen::VectorXd::Zero(count_);
  for (std::size_t i = 0; i < x_.count(); ++i)
    for (std::size_t j = 0; j < y_.count(); ++j)
      if (const std::int64_t n = number(deflection, i, j); n >= 0)
        out[n] = 0.25 * panel_.a * panel_.b * whole(x_, i) * whole(y_, j);
  return out;
}

Eigen::VectorXd Ritz::with_more(const Eigen::VectorXd& sum, const Ritz& fewer) const {
  Eigen::VectorXd out = Eigen::VectorXd::Zero(count_);
  for (const Field field : {deflection, turn_x, turn_y})
    for (std::size_t i = 0; i < fewer.x_.count(); ++i)
      for (std::size_t j = 0; j < fewer.y_.count(); ++j)
        if (const std::int64_t n = number(field, i, j); n >= 0) out[n] = sum[fewer.number(field, i, j)];
  return out;
}

std::vector<BentPlace> Ritz::at(const Eigen::VectorXd& sum, std::span<const double> x,
                                std::span<const double> y) const {
  // Values (0) and slopes (1) of all functions, a column a place.
  const auto functions_at = [](std::size_t count, std::span<const double> places, double length) {
    std::array<Eigen::MatrixXd, 2> out;
    for (Eigen::MatrixXd& m : out) m.resize(static_cast<Eigen::Index>(count), static_cast<Eigen::Index>(places.size()));
    for (std::size_t p = 0; p < places.size(); ++p) {
      const Eigen::Matrix2Xd both = Functions::at(count, 2.0 * places[p] / length - 1.0);
      out[0].col(static_cast<Eigen::Index>(p)) = both.row(0).transpose();
      out[1].col(static_cast<Eigen::Index>(p)) = both.row(1).transpose() * (2.0 / length);
    }
    return out;
  };
  const auto along_x = functions_at(x_.count(), x, panel_.a), along_y = functions_at(y_.count(), y, panel_.b);
  std::array<Eigen::MatrixXd, 3> factors;
  for (const Field field : {deflection, turn_x, turn_y}) {
    factors[field].setZero(static_cast<Eigen::Index>(x_.count()), static_cast<Eigen::Index>(y_.count()));
    for (std::size_t i = 0; i < x_.count(); ++i)
      for (std::size_t j = 0; j < y_.count(); ++j)
        if (const std::int64_t n = number(field, i, j); n >= 0)
          factors[field](static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(j)) = sum[n];
  }
  const auto values = [&](const Part& part) {
    return Eigen::MatrixXd(along_x[part.along_x].transpose() * factors[part.field] * along_y[part.along_y]);
  };
  const Eigen::MatrixXd w = values({deflection, false, false});
  std::array<Eigen::MatrixXd, 5> strain;
  for (std::size_t s = 0; s < strain.size(); ++s) {
    strain[s].setZero(w.rows(), w.cols());
    for (const Part& part : strains()[s]) strain[s] += values(part);
  }
  std::vector<BentPlace> out;
  for (Eigen::Index j = 0; j < w.cols(); ++j)
    for (Eigen::Index i = 0; i < w.rows(); ++i) {
      BentPlace place;
      place.x = x[static_cast<std::size_t>(i)];
      place.y = y[static_cast<std::size_t>(j)];
      place.deflection = w(i, j);
      place.curvature = {strain[0](i, j), strain[1](i, j), strain[2](i, j)};
      place.moment = panel_.plate.D * place.curvature;
      place.shear = panel_.plate.H * Vector2(strain[3](i, j), strain[4](i, j));
      out.push_back(place);
    }
  return out;
}

}  // namespace bordado::sizing
