#include "carry.hpp"

#include <bordado/mesh/at_nodes.hpp>
#include <bordado/mesh/shape.hpp>

#include <bordado/base/work.hpp>
#include <bordado/mesh/locate.hpp>

#include <Eigen/Geometry>
#include <Eigen/Sparse>
#include <Eigen/SparseCholesky>

#include <algorithm>
#include <cmath>
#include <complex>
#include <limits>
#include <numeric>

namespace bordado::frame {

namespace {

using Complex = std::complex<double>;
using Matrix = Eigen::SparseMatrix<Complex, Eigen::RowMajor>;
using Vector = Eigen::VectorXcd;

/// The preconditioner is only near to the answer anyway: half the digits are half the memory to go through.
using Number = std::complex<float>;
using Sparse = Eigen::SparseMatrix<Number, Eigen::RowMajor>;
using Short = Eigen::VectorXcf;

/// Nought for what is so small that processors take a hundred times as long over it, as far from a curve as the waves of
/// a solution hardly reach.
template <class Scalar>
Scalar without_dust(Scalar z) {
  using Real = typename Scalar::value_type;
  constexpr Real least = std::numeric_limits<Real>::min() * Real(1e8);
  return {std::abs(z.real()) < least ? Real(0) : z.real(), std::abs(z.imag()) < least ? Real(0) : z.imag()};
}

/// Calls with(k) for each place of a vector, on all cores.
template <class With>
void each(Eigen::Index count, With with) {
  parallel_blocks(static_cast<std::size_t>(count), [&](std::size_t begin, std::size_t end) {
    for (auto k = static_cast<Eigen::Index>(begin); k < static_cast<Eigen::Index>(end); ++k) with(k);
  });
}

/// Calls with(row, (A x) of the row) for each row, on all cores.
template <class A, class X, class With>
void multiply(const A& a, const X& x, With with) {
  using Scalar = typename A::Scalar;
  const auto *outer = a.outerIndexPtr(), *inner = a.innerIndexPtr();
  const Scalar* const values = a.valuePtr();
  each(a.rows(), [&](Eigen::Index row) {
    typename Scalar::value_type real = 0, imaginary = 0;  // written out: complex products look for infinities
    for (auto k = outer[row]; k < outer[row + 1]; ++k) {
      const Scalar v = values[k], w = x[inner[k]];
      real += v.real() * w.real() - v.imag() * w.imag();
      imaginary += v.real() * w.imag() + v.imag() * w.real();
    }
    with(row, without_dust(Scalar(real, imaginary)));
  });
}

Number times(Number a, Number b) {
  return {a.real() * b.real() - a.imag() * b.imag(), a.real() * b.imag() + a.imag() * b.real()};
}

/// A matrix from its rows, made in blocks on all cores: row(i, entries) appends the entries of row i in any order; those
/// of one column are added up.
template <class Row>
Sparse from_rows(Eigen::Index rows, Eigen::Index columns, Row row) {
  using Entry = std::pair<int, Number>;
  struct Block {
    std::vector<int> lengths, inner;
    std::vector<Number> values;
  };
  constexpr std::size_t size = 8192;
  const auto count = static_cast<std::size_t>(rows);
  std::vector<Block> blocks((count + size - 1) / size);
  parallel_blocks(
      count,
      [&](std::size_t begin, std::size_t end) {
        Block& out = blocks[begin / size];
        std::vector<Entry> entries;
        for (std::size_t i = begin; i < end; ++i) {
          entries.clear();
          row(static_cast<Eigen::Index>(i), entries);
          std::sort(entries.begin(), entries.end(), [](const Entry& x, const Entry& y) { return x.first < y.first; });
          int length = 0;
          for (std::size_t k = 0; k < entries.size(); ++k) {
            if (k > 0 && entries[k].first == entries[k - 1].first) {
              out.values.back() += entries[k].second;
              continue;
            }
            out.inner.push_back(entries[k].first);
            out.values.push_back(entries[k].second);
            ++length;
          }
          out.lengths.push_back(length);
        }
      },
      size);
  Sparse out(rows, columns);
  int* const outer = out.outerIndexPtr();
  std::size_t at = 0;
  outer[0] = 0;
  for (const Block& block : blocks)
    for (const int length : block.lengths) outer[at + 1] = outer[at] + length, ++at;
  out.resizeNonZeros(outer[at]);
  parallel_blocks(
      blocks.size(),
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t b = begin; b < end; ++b) {
          std::copy(blocks[b].inner.begin(), blocks[b].inner.end(), out.innerIndexPtr() + outer[b * size]);
          std::copy(blocks[b].values.begin(), blocks[b].values.end(), out.valuePtr() + outer[b * size]);
          blocks[b] = {};
        }
      },
      1);
  return out;
}

Sparse product(const Sparse& a, const Sparse& b) {
  return from_rows(a.rows(), b.cols(), [&](Eigen::Index i, auto& entries) {
    for (Sparse::InnerIterator left(a, i); left; ++left)
      for (Sparse::InnerIterator right(b, left.col()); right; ++right)
        entries.emplace_back(static_cast<int>(right.col()), times(left.value(), right.value()));
  });
}

/// One level of the multigrid preconditioner.
struct Level {
  Sparse a, up, down;  ///< the operator; to it from the next coarser level; from it
  Short inverse_diagonal;
  Short x, b, r;
};

class Multigrid {
 public:
  /// \param ties for each pair of neighbours how strongly they hang together, times what 1 of the column's plane is in
  /// the row's: unlike the operator's own entries they never have the wrong sign, and know nothing of springs.
  Multigrid(Sparse a, Sparse ties) {
    while (a.rows() > 800 && levels_.size() < 20) {
      Level level;
      level.inverse_diagonal = inverse_diagonal(a);
      const Sparse tentative = aggregates(ties);
      if (tentative.cols() * 10 > a.rows() * 9) break;  // nothing hangs together: no coarser level helps
      ties = product(Sparse(tentative.adjoint()), product(ties, tentative));
      // One step of damped Jacobi makes the pieces overlap smoothly.
      level.up = from_rows(a.rows(), tentative.cols(), [&](Eigen::Index row, auto& entries) {
        const float step = -0.66f * level.inverse_diagonal[row].real();
        for (Sparse::InnerIterator own(tentative, row); own; ++own) entries.emplace_back(int(own.col()), own.value());
        for (Sparse::InnerIterator left(a, row); left; ++left)
          for (Sparse::InnerIterator right(tentative, left.col()); right; ++right)
            entries.emplace_back(int(right.col()), step * times(left.value(), right.value()));
      });
      level.down = level.up.adjoint();
      Sparse coarser = product(level.down, product(a, level.up));
      level.a = std::move(a);
      a = std::move(coarser);
      levels_.push_back(std::move(level));
    }
    Eigen::SparseMatrix<Complex> coarsest = a.cast<Complex>();
    for (Eigen::Index k = 0; k < coarsest.rows(); ++k) {
      // Pieces that no curve touches have no answer: any will do, so nought.
      const double scale = std::abs(coarsest.coeff(k, k));
      coarsest.coeffRef(k, k) += scale > 0.0 ? 1e-6 * scale : 1.0;
    }
    factor_.compute(coarsest);
  }

  /// An approximate solution; the same linear, self-adjoint map each time, but for rounding.
  void apply(const Vector& b, Vector& x) {
    const double size = b.norm();  // what is solved for is 1 large: single precision holds no more than 38 decades
    x.resize(b.size());
    if (!(size > 0.0)) {
      x.setZero();
      return;
    }
    short_b_.resize(b.size());
    each(b.size(), [&](Eigen::Index k) { short_b_[k] = without_dust(Number(b[k] / size)); });
    cycle(0, short_b_, short_x_);
    each(b.size(), [&](Eigen::Index k) { x[k] = size * Complex(short_x_[k]); });
  }

 private:
  static Short inverse_diagonal(const Sparse& a) {
    Short out(a.rows());
    each(a.rows(), [&](Eigen::Index k) {
      const float d = a.coeff(k, k).real();
      out[k] = d > 0.0f ? 1.0f / d : 0.0f;
    });
    return out;
  }

  /// Nodes in groups round a root; each with the turn that its strongest tie has to it.
  static Sparse aggregates(const Sparse& ties) {
    const auto count = static_cast<std::size_t>(ties.rows());
    constexpr int none = std::numeric_limits<int>::max();
    std::vector<int> group(count, none);
    std::vector<Number> turn(count, 1.0f);
    std::vector<float> largest(count, 0.0f);
    for (std::size_t i = 0; i < count; ++i)
      for (Sparse::InnerIterator entry(ties, static_cast<Eigen::Index>(i)); entry; ++entry)
        if (entry.col() != entry.row()) largest[i] = std::max(largest[i], std::abs(entry.value()));
    const auto strong = [&](std::size_t i, const Sparse::InnerIterator& entry) {
      return entry.col() != entry.row() && std::abs(entry.value()) > 0.1f * largest[i];
    };
    int groups = 0;
    const auto join = [&](std::size_t i, std::size_t root, Number tie) {
      group[i] = group[root];
      turn[i] = times(tie / std::abs(tie), turn[root]);
    };
    for (std::size_t i = 0; i < count; ++i) {  // groups of a node and all its ties, where these are free
      bool free = group[i] == none;
      for (Sparse::InnerIterator entry(ties, static_cast<Eigen::Index>(i)); entry && free; ++entry)
        free = !strong(i, entry) || group[static_cast<std::size_t>(entry.col())] == none;
      if (!free) continue;
      group[i] = groups++;
      for (Sparse::InnerIterator entry(ties, static_cast<Eigen::Index>(i)); entry; ++entry)
        if (strong(i, entry)) join(static_cast<std::size_t>(entry.col()), i, std::conj(entry.value()));
    }
    const std::vector<int> first = group;
    for (std::size_t i = 0; i < count; ++i) {  // the rest to the neighbour with the strongest tie
      if (group[i] != none) continue;
      float best = 0.0f;
      std::size_t to = i;
      Number tie = 1.0f;
      for (Sparse::InnerIterator entry(ties, static_cast<Eigen::Index>(i)); entry; ++entry) {
        const auto j = static_cast<std::size_t>(entry.col());
        if (j == i || first[j] == none || std::abs(entry.value()) <= best) continue;
        best = std::abs(entry.value());
        to = j;
        tie = entry.value();
      }
      if (to == i)
        group[i] = groups++;
      else
        join(i, to, tie);
    }
    return from_rows(ties.rows(), groups, [&](Eigen::Index i, auto& entries) {
      entries.emplace_back(group[static_cast<std::size_t>(i)], turn[static_cast<std::size_t>(i)]);
    });
  }

  void cycle(std::size_t at, const Short& b, Short& x) {
    if (at == levels_.size()) {
      x = factor_.solve(Vector(b.cast<Complex>())).cast<Number>();
      return;
    }
    Level& level = levels_[at];
    constexpr float damping = 0.6f;
    const auto smooth = [&] {
      multiply(level.a, x, [&](Eigen::Index k, Number ax) {
        level.r[k] = damping * level.inverse_diagonal[k].real() * (b[k] - ax);
      });
      each(x.size(), [&](Eigen::Index k) { x[k] += level.r[k]; });
    };
    x.resize(b.size());
    level.r.resize(b.size());
    level.b.resize(level.down.rows());
    each(x.size(), [&](Eigen::Index k) { x[k] = damping * level.inverse_diagonal[k].real() * b[k]; });
    smooth();
    multiply(level.a, x, [&](Eigen::Index k, Number ax) { level.r[k] = b[k] - ax; });
    multiply(level.down, level.r, [&](Eigen::Index k, Number sum) { level.b[k] = sum; });
    cycle(at + 1, level.b, level.x);
    multiply(level.up, level.x, [&](Eigen::Index k, Number sum) { x[k] += sum; });
    smooth();
    smooth();
  }

  std::vector<Level> levels_;
  Eigen::SimplicialLDLT<Eigen::SparseMatrix<Complex>> factor_;
  Short short_b_, short_x_;
};

/// Summed in blocks, so that it is the same whatever the number of threads.
double dot(const Vector& a, const Vector& b) {
  const std::size_t block = block_of(8192);
  const auto count = static_cast<std::size_t>(a.size());
  std::vector<double> sums((count + block - 1) / block);
  parallel_blocks(
      count,
      [&](std::size_t begin, std::size_t end) {
        const auto from = static_cast<Eigen::Index>(begin), many = static_cast<Eigen::Index>(end - begin);
        sums[begin / block] = a.segment(from, many).dot(b.segment(from, many)).real();
      },
      block);
  return std::accumulate(sums.begin(), sums.end(), 0.0);
}

Vector solve(const Matrix& a, Sparse ties, const Vector& b) {
  Vector x = Vector::Zero(b.size());
  const double squared = dot(b, b);
  if (!(squared > 0.0)) return x;
  Multigrid preconditioner(a.cast<Number>(), std::move(ties));
  Vector r = b, z, p, ap(b.size());
  const double wanted = 1e-18 * squared;
  preconditioner.apply(r, z);
  p = z;
  double rz = dot(r, z);
  for (int step = 0; step < 500 && dot(r, r) > wanted; ++step) {
    multiply(a, p, [&](Eigen::Index k, Complex sum) { ap[k] = sum; });
    const double along = dot(p, ap);
    if (!(along > 0.0)) break;
    const double alpha = rz / along;
    each(x.size(), [&](Eigen::Index k) {
      x[k] += alpha * p[k];
      r[k] -= alpha * ap[k];
    });
    preconditioner.apply(r, z);
    // The preconditioner rounds, so that what is left of the last residual in it is taken off: E. Polak and G. Ribière.
    const double beta = -alpha * dot(ap, z) / rz;
    each(x.size(), [&](Eigen::Index k) { p[k] = z[k] + beta * p[k]; });
    rz = dot(r, z);
  }
  return x;
}

/// Two square directions in a plane, as 1 and i.
struct Basis {
  Vec3 normal, one, other;
  explicit Basis(const Vec3& n = Vec3::UnitZ()) : normal(n), one(n.unitOrthogonal()), other(n.cross(one)) {}
  Complex number(const Vec3& v) const { return {v.dot(one), v.dot(other)}; }
  Vec3 vector(Complex z) const { return z.real() * one + z.imag() * other; }
};

/// What 1 of one plane is in another, turned over by the shortest way.
Complex turn_over(const Basis& from, const Basis& to) {
  const double cosine = from.normal.dot(to.normal);
  Vec3 moved = from.one;
  if (cosine > -0.999) moved -= to.normal.dot(from.one) / (1.0 + cosine) * (from.normal + to.normal);
  const Complex z = to.number(moved);
  const double size = std::sqrt(std::norm(z));
  return size > 0.0 ? z / size : Complex(1.0);
}

class Carrier {
 public:
  Carrier(const mesh::Surface& surface, const mesh::Geometry& geometry) : surface_(surface), geometry_(geometry) {}

  Carried carry(const std::vector<mesh::Curve>& curves) {
    make_bases();
    make_pattern();
    add_changes();
    for (const mesh::Curve& curve : curves) add_curve(curve);
    locator_.reset();
    elements_ = {};
    const Vector z = solve(matrix_, std::move(ties_), load_);
    Carried out;
    out.directions.assign(surface_.element_count(), Vec3::Zero());
    out.doubt.assign(surface_.element_count(), 1.0);
    parallel_blocks(surface_.element_count(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        const auto element = static_cast<mesh::ElementIndex>(e);
        const auto corners = surface_.corners_of(element);
        const Basis basis(normal_of(element));
        Complex sum = 0.0;
        for (const mesh::NodeIndex n : corners)
          sum += turn_over(at_nodes_[n], basis) * z[n] / static_cast<double>(corners.size());
        const double size = std::abs(sum);
        out.doubt[e] = std::clamp(1.0 - size, 0.0, 1.0);
        if (size > 0.05) out.directions[e] = basis.vector(sum / size);
      }
    });
    return out;
  }

 private:
  Vec3 normal_of(mesh::ElementIndex e) const {
    const Vec3& n = geometry_.normals[e];
    return n.squaredNorm() > 0.5 ? n : Vec3(Vec3::UnitZ());
  }

  void make_bases() {
    const std::vector<Vec3> normals = mesh::area_sums_at_nodes(surface_, geometry_, geometry_.normals);
    at_nodes_.resize(normals.size());
    for (std::size_t n = 0; n < normals.size(); ++n) {
      const double length = normals[n].norm();
      if (length > 0.0) at_nodes_[n] = Basis(normals[n] / length);
    }
    load_ = Vector::Zero(static_cast<Eigen::Index>(normals.size()));
  }

  /// Which nodes each node has to do with: all corners of its elements.
  void make_pattern() {
    const std::size_t count = surface_.points.size();
    elements_ = mesh::elements_at_nodes(surface_);
    const auto rows = static_cast<Eigen::Index>(count);
    ties_ = from_rows(rows, rows, [&](Eigen::Index row, auto& entries) {
      entries.emplace_back(static_cast<int>(row), Number());
      for (const mesh::ElementIndex e : elements_.of(static_cast<mesh::NodeIndex>(row)))
        for (const mesh::NodeIndex n : surface_.corners_of(e)) entries.emplace_back(static_cast<int>(n), Number());
    });
    matrix_ = ties_.cast<Complex>();
  }

  /// Where an entry of the pattern lies in the values.
  std::size_t place_of(mesh::NodeIndex row, mesh::NodeIndex column) const {
    const int* const inner = matrix_.innerIndexPtr();
    const int *const begin = inner + matrix_.outerIndexPtr()[row], *const end =
                                                                       inner + matrix_.outerIndexPtr()[row + 1];
    return static_cast<std::size_t>(std::lower_bound(begin, end, static_cast<int>(column)) - inner);
  }

  /// The row of one corner in the stiffness matrix of Laplace's equation over an element.
  std::array<double, 4> changes(std::span<const mesh::NodeIndex> corners, std::size_t i) const {
    static const double g = 1.0 / std::sqrt(3.0);
    static const std::array<mesh::ShapeValues, 5> at = {
        mesh::shape_values(mesh::Shape::quadrilateral4, -g, -g), mesh::shape_values(mesh::Shape::quadrilateral4, g, -g),
        mesh::shape_values(mesh::Shape::quadrilateral4, g, g), mesh::shape_values(mesh::Shape::quadrilateral4, -g, g),
        mesh::shape_values(mesh::Shape::triangle3, 1.0 / 3, 1.0 / 3)};
    const std::size_t count = corners.size();
    std::array<double, 4> out{};
    for (std::size_t q = count == 3 ? 4 : 0; q < (count == 3 ? 5u : 4u); ++q) {
      const mesh::ShapeValues& s = at[q];
      Vec3 a = Vec3::Zero(), b = Vec3::Zero();
      for (std::size_t k = 0; k < count; ++k) {
        a += s.by_xi[k] * surface_.points[corners[k]];
        b += s.by_eta[k] * surface_.points[corners[k]];
      }
      const double aa = a.dot(a), bb = b.dot(b), ab = a.dot(b), squared = aa * bb - ab * ab;
      if (!(squared > 1e-16 * aa * bb)) continue;  // no area: no say
      const double weight = (count == 3 ? 0.5 : 1.0) / std::sqrt(squared);
      for (std::size_t j = 0; j < count; ++j)
        out[j] += weight * (bb * s.by_xi[i] * s.by_xi[j] - ab * (s.by_xi[i] * s.by_eta[j] + s.by_eta[i] * s.by_xi[j]) +
                            aa * s.by_eta[i] * s.by_eta[j]);
    }
    return out;
  }

  /// The sum of squares of the changes over each element, with each node's vector turned over to the element's plane
  /// first. Row by row, so that no two threads meet.
  void add_changes() {
    std::vector<std::array<Complex, 4>> turns(surface_.element_count());
    parallel_blocks(turns.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        const auto corners = surface_.corners_of(static_cast<mesh::ElementIndex>(e));
        const Basis basis(normal_of(static_cast<mesh::ElementIndex>(e)));
        for (std::size_t i = 0; i < corners.size(); ++i) turns[e][i] = turn_over(at_nodes_[corners[i]], basis);
      }
    });
    parallel_blocks(surface_.points.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t n = begin; n < end; ++n) {
        const auto node = static_cast<mesh::NodeIndex>(n);
        matrix_.valuePtr()[place_of(node, node)] += 1e-14;
        for (const mesh::ElementIndex e : elements_.of(node)) {
          const auto corners = surface_.corners_of(e);
          const std::array<Complex, 4>& turn = turns[e];
          for (std::size_t i = 0; i < corners.size(); ++i) {
            if (corners[i] != node) continue;  // a node may be two corners of a degenerate element
            const auto change = changes(corners, i);
            for (std::size_t j = 0; j < corners.size(); ++j) {
              const Complex over = std::conj(turn[i]) * turn[j];
              const std::size_t at = place_of(node, corners[j]);
              matrix_.valuePtr()[at] += change[j] * over;
              if (i != j && change[j] < 0.0) ties_.valuePtr()[at] -= Number(change[j] * over);
            }
          }
        }
      }
    });
  }

  /// Along a curve the field is held to its tangent by a stiff spring at points closer together than nodes are.
  void add_curve(const mesh::Curve& curve) {
    if (!locator_) locator_.emplace(surface_);
    const std::size_t pieces = curve.points.size() - (curve.closed ? 0 : 1);
    for (std::size_t k = 0; k < pieces; ++k) {
      const Vec3 &from = curve.points[k], &to = curve.points[(k + 1) % curve.points.size()];
      const double length = (to - from).norm();
      if (!(length > 0.0)) continue;
      const double width = std::sqrt(geometry_.areas[locator_->nearest(0.5 * (from + to)).element]);
      const auto steps = static_cast<int>(std::clamp(std::ceil(3.0 * length / std::max(width, 1e-300)), 2.0, 1e5));
      for (int i = 0; i < steps; ++i) {
        const auto foot = locator_->nearest(from + (to - from) * ((i + 0.5) / steps));
        const auto corners = surface_.corners_of(foot.element);
        const Basis basis(normal_of(foot.element));
        Complex tangent = basis.number(to - from);
        if (!(std::abs(tangent) > 0.0)) continue;  // it stands on the surface
        tangent /= std::abs(tangent);
        const double here = std::sqrt(geometry_.areas[foot.element]);
        const double spring = 1000.0 * (length / steps) / std::max(here, 1e-300);
        std::array<Complex, 4> turn;
        double sum = 0.0;
        for (std::size_t c = 0; c < corners.size(); ++c) sum += foot.weights[c];
        if (!(sum > 0.0)) continue;
        for (std::size_t c = 0; c < corners.size(); ++c)  // of a quadratic element the corners alone
          turn[c] = std::max(0.0, foot.weights[c]) / sum * turn_over(at_nodes_[corners[c]], basis);
        for (std::size_t c = 0; c < corners.size(); ++c) {
          load_[corners[c]] += spring * std::conj(turn[c]) * tangent;
          for (std::size_t d = 0; d < corners.size(); ++d)
            if (turn[c] != 0.0 && turn[d] != 0.0)
              matrix_.valuePtr()[place_of(corners[c], corners[d])] += spring * std::conj(turn[c]) * turn[d];
        }
      }
    }
  }

  const mesh::Surface& surface_;
  const mesh::Geometry& geometry_;
  std::vector<Basis> at_nodes_;
  mesh::NodeTable elements_;
  Matrix matrix_;
  Sparse ties_;
  Vector load_;
  std::optional<mesh::Locator> locator_;
};

}  // namespace

Carried carry(const mesh::Surface& surface, const mesh::Geometry& geometry, const std::vector<mesh::Curve>& curves) {
  return Carrier(surface, geometry).carry(curves);
}

}  // namespace bordado::frame
