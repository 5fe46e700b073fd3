#include "carry.hpp"

#include "../mesh/shape.hpp"

#include <Eigen/Geometry>
#include <Eigen/Sparse>
#include <Eigen/SparseCholesky>

#include <algorithm>
#include <cmath>
#include <complex>

namespace bordado::frame {

namespace {

using Complex = std::complex<double>;
using Matrix = Eigen::SparseMatrix<Complex, Eigen::RowMajor>;
using Vector = Eigen::VectorXcd;

/// y = A x, on all cores.
void multiply(const Matrix& a, const Vector& x, Vector& y) {
  y.resize(a.rows());
  parallel_blocks(static_cast<std::size_t>(a.rows()), [&](std::size_t begin, std::size_t end) {
    const auto *outer = a.outerIndexPtr(), *inner = a.innerIndexPtr();
    const Complex* const values = a.valuePtr();
    for (std::size_t row = begin; row < end; ++row) {
      Complex sum = 0.0;
      for (auto k = outer[row]; k < outer[row + 1]; ++k) sum += values[k] * x[inner[k]];
      y[static_cast<Eigen::Index>(row)] = sum;
    }
  });
}

/// One level of the multigrid preconditioner.
struct Level {
  Matrix a, up, down;  ///< the operator; to it from the next coarser level; from it
  Vector inverse_diagonal;
  Vector x, b, r;
};

class Multigrid {
 public:
  /// \param ties for each pair of neighbours how strongly they hang together, times what 1 of the column's plane is in
  /// the row's: unlike the operator's own entries they never have the wrong sign, and know nothing of springs.
  Multigrid(Matrix a, Matrix ties) {
    while (a.rows() > 800 && levels_.size() < 20) {
      Level level;
      level.inverse_diagonal = inverse_diagonal(a);
      const Matrix tentative = aggregates(ties);
      ties = tentative.adjoint() * Matrix(ties * tentative);
      if (tentative.cols() * 10 > a.rows() * 9) break;  // nothing hangs together: no coarser level helps
      // One step of damped Jacobi makes the pieces overlap smoothly.
      Matrix smoothed = a * tentative;
      for (Eigen::Index row = 0; row < smoothed.outerSize(); ++row)
        for (Matrix::InnerIterator entry(smoothed, row); entry; ++entry)
          entry.valueRef() *= -0.66 * level.inverse_diagonal[row];
      level.up = tentative + smoothed;
      level.down = level.up.adjoint();
      Matrix coarser = level.down * (a * level.up);
      level.a = std::move(a);
      a = std::move(coarser);
      levels_.push_back(std::move(level));
    }
    Eigen::SparseMatrix<Complex> coarsest = a;
    for (Eigen::Index k = 0; k < coarsest.rows(); ++k) {
      // Pieces that no curve touches have no answer: any will do, so nought.
      const double scale = std::abs(coarsest.coeff(k, k));
      coarsest.coeffRef(k, k) += scale > 0.0 ? 1e-12 * scale : 1.0;
    }
    factor_.compute(coarsest);
  }

  /// An approximate solution; the same linear, self-adjoint map each time.
  void apply(const Vector& b, Vector& x) { cycle(0, b, x); }

 private:
  static Vector inverse_diagonal(const Matrix& a) {
    Vector out(a.rows());
    for (Eigen::Index k = 0; k < a.rows(); ++k) {
      const double d = a.coeff(k, k).real();
      out[k] = d > 0.0 ? 1.0 / d : 0.0;
    }
    return out;
  }

  /// Nodes in groups round a root; each with the turn that its strongest tie has to it.
  static Matrix aggregates(const Matrix& ties) {
    const auto count = static_cast<std::size_t>(ties.rows());
    std::vector<int> group(count, -1);
    std::vector<Complex> turn(count, 1.0);
    std::vector<double> largest(count, 0.0);
    for (std::size_t i = 0; i < count; ++i)
      for (Matrix::InnerIterator entry(ties, static_cast<Eigen::Index>(i)); entry; ++entry)
        if (entry.col() != entry.row()) largest[i] = std::max(largest[i], std::abs(entry.value()));
    const auto strong = [&](std::size_t i, const Matrix::InnerIterator& entry) {
      return entry.col() != entry.row() && std::abs(entry.value()) > 0.1 * largest[i];
    };
    int groups = 0;
    const auto join = [&](std::size_t i, std::size_t root, Complex tie) {
      group[i] = group[root];
      turn[i] = tie / std::abs(tie) * turn[root];
    };
    for (std::size_t i = 0; i < count; ++i) {  // groups of a node and all its ties, where these are free
      bool free = group[i] < 0;
      for (Matrix::InnerIterator entry(ties, static_cast<Eigen::Index>(i)); entry && free; ++entry)
        free = !strong(i, entry) || group[static_cast<std::size_t>(entry.col())] < 0;
      if (!free) continue;
      group[i] = groups++;
      for (Matrix::InnerIterator entry(ties, static_cast<Eigen::Index>(i)); entry; ++entry)
        if (strong(i, entry)) join(static_cast<std::size_t>(entry.col()), i, std::conj(entry.value()));
    }
    const std::vector<int> first = group;
    for (std::size_t i = 0; i < count; ++i) {  // the rest to the neighbour with the strongest tie
      if (group[i] >= 0) continue;
      double best = 0.0;
      std::size_t to = i;
      Complex tie = 1.0;
      for (Matrix::InnerIterator entry(ties, static_cast<Eigen::Index>(i)); entry; ++entry) {
        const auto j = static_cast<std::size_t>(entry.col());
        if (j == i || first[j] < 0 || std::abs(entry.value()) <= best) continue;
        best = std::abs(entry.value());
        to = j;
        tie = entry.value();
      }
      if (to == i)
        group[i] = groups++;
      else
        join(i, to, tie);
    }
    std::vector<Eigen::Triplet<Complex>> entries;
    entries.reserve(count);
    for (std::size_t i = 0; i < count; ++i) entries.emplace_back(static_cast<int>(i), group[i], turn[i]);
    Matrix out(ties.rows(), groups);
    out.setFromTriplets(entries.begin(), entries.end());
    return out;
  }

  void cycle(std::size_t at, const Vector& b, Vector& x) {
    if (at == levels_.size()) {
      x = factor_.solve(b);
      return;
    }
    Level& level = levels_[at];
    constexpr double damping = 0.6;
    const auto smooth = [&] {
      multiply(level.a, x, level.r);
      x += damping * level.inverse_diagonal.cwiseProduct(b - level.r);
    };
    x = damping * level.inverse_diagonal.cwiseProduct(b);
    smooth();
    multiply(level.a, x, level.r);
    level.r = b - level.r;
    Vector coarse_b, coarse_x;
    multiply(level.down, level.r, coarse_b);
    cycle(at + 1, coarse_b, coarse_x);
    multiply(level.up, coarse_x, level.r);
    x += level.r;
    smooth();
    smooth();
  }

  std::vector<Level> levels_;
  Eigen::SimplicialLDLT<Eigen::SparseMatrix<Complex>> factor_;
};

/// On one core, so that it is the same whatever the number of threads.
double dot(const Vector& a, const Vector& b) { return a.dot(b).real(); }

Vector solve(const Matrix& a, Matrix ties, const Vector& b) {
  Multigrid preconditioner(a, std::move(ties));
  Vector x = Vector::Zero(b.size()), r = b, z, p, ap;
  const double wanted = 1e-9 * b.norm();
  if (!(b.norm() > 0.0)) return x;
  preconditioner.apply(r, z);
  p = z;
  double rz = dot(r, z);
  for (int step = 0; step < 500 && r.norm() > wanted; ++step) {
    multiply(a, p, ap);
    const double along = dot(p, ap);
    if (!(along > 0.0)) break;
    const double alpha = rz / along;
    x += alpha * p;
    r -= alpha * ap;
    preconditioner.apply(r, z);
    const double next = dot(r, z);
    p = z + (next / rz) * p;
    rz = next;
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
  const double size = std::abs(z);
  return size > 0.0 ? z / size : Complex(1.0);
}

class Carrier {
 public:
  Carrier(const mesh::Surface& surface, const mesh::Geometry& geometry) : surface_(surface), geometry_(geometry) {}

  Carried carry(const std::vector<mesh::Curve>& curves) {
    make_bases();
    add_changes();
    for (const mesh::Curve& curve : curves) add_curve(curve);
    const auto count = static_cast<Eigen::Index>(surface_.points.size());
    for (Eigen::Index n = 0; n < count; ++n) entries_.emplace_back(int(n), int(n), Complex(1e-14));
    Matrix a(count, count);
    a.setFromTriplets(entries_.begin(), entries_.end());
    entries_ = {};
    Matrix ties(count, count);
    ties.setFromTriplets(ties_.begin(), ties_.end());
    ties_ = {};
    const Vector z = solve(a, std::move(ties), load_);
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
    std::vector<Vec3> normals(surface_.points.size(), Vec3::Zero());
    for (mesh::ElementIndex e = 0; e < surface_.element_count(); ++e)
      for (const mesh::NodeIndex n : surface_.corners_of(e)) normals[n] += geometry_.areas[e] * geometry_.normals[e];
    at_nodes_.resize(normals.size());
    for (std::size_t n = 0; n < normals.size(); ++n) {
      const double length = normals[n].norm();
      if (length > 0.0) at_nodes_[n] = Basis(normals[n] / length);
    }
    load_ = Vector::Zero(static_cast<Eigen::Index>(normals.size()));
  }

  /// The sum of squares of the changes over each element: the stiffness matrix of Laplace's equation, with each node's
  /// vector turned over to the element's plane first.
  void add_changes() {
    entries_.reserve(17 * surface_.element_count());
    const double g = 1.0 / std::sqrt(3.0);
    const std::array<std::array<double, 2>, 4> square{{{-g, -g}, {g, -g}, {g, g}, {-g, g}}};
    for (mesh::ElementIndex e = 0; e < surface_.element_count(); ++e) {
      const auto corners = surface_.corners_of(e);
      const std::size_t count = corners.size();
      Eigen::Matrix4d k = Eigen::Matrix4d::Zero();
      for (std::size_t q = 0; q < (count == 3 ? 1u : 4u); ++q) {
        const auto s = count == 3 ? mesh::shape_values(mesh::Shape::triangle3, 1.0 / 3, 1.0 / 3)
                                  : mesh::shape_values(mesh::Shape::quadrilateral4, square[q][0], square[q][1]);
        Vec3 a = Vec3::Zero(), b = Vec3::Zero();
        for (std::size_t i = 0; i < count; ++i) {
          a += s.by_xi[i] * surface_.points[corners[i]];
          b += s.by_eta[i] * surface_.points[corners[i]];
        }
        const double aa = a.dot(a), bb = b.dot(b), ab = a.dot(b), squared = aa * bb - ab * ab;
        if (!(squared > 1e-16 * aa * bb)) continue;  // no area: no say
        const double weight = (count == 3 ? 0.5 : 1.0) / std::sqrt(squared);
        for (std::size_t i = 0; i < count; ++i)
          for (std::size_t j = 0; j < count; ++j)
            k(Eigen::Index(i), Eigen::Index(j)) +=
                weight * (bb * s.by_xi[i] * s.by_xi[j] - ab * (s.by_xi[i] * s.by_eta[j] + s.by_eta[i] * s.by_xi[j]) +
                          aa * s.by_eta[i] * s.by_eta[j]);
      }
      const Basis basis(normal_of(e));
      std::array<Complex, 4> turn;
      for (std::size_t i = 0; i < count; ++i) turn[i] = turn_over(at_nodes_[corners[i]], basis);
      for (std::size_t i = 0; i < count; ++i)
        for (std::size_t j = 0; j < count; ++j) {
          const double change = k(Eigen::Index(i), Eigen::Index(j));
          const Complex over = std::conj(turn[i]) * turn[j];
          entries_.emplace_back(int(corners[i]), int(corners[j]), change * over);
          if (i != j && change < 0.0) ties_.emplace_back(int(corners[i]), int(corners[j]), -change * over);
        }
    }
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
              entries_.emplace_back(int(corners[c]), int(corners[d]), spring * std::conj(turn[c]) * turn[d]);
        }
      }
    }
  }

  const mesh::Surface& surface_;
  const mesh::Geometry& geometry_;
  std::vector<Basis> at_nodes_;
  std::vector<Eigen::Triplet<Complex>> entries_, ties_;
  Vector load_;
  std::optional<mesh::Locator> locator_;
};

}  // namespace

Carried carry(const mesh::Surface& surface, const mesh::Geometry& geometry, const std::vector<mesh::Curve>& curves) {
  return Carrier(surface, geometry).carry(curves);
}

}  // namespace bordado::frame
