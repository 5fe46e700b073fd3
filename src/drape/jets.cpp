#include "jets.hpp"

#include <bordado/base/work.hpp>

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>

namespace bordado::drape {

double Jet::curvature() const {
  const double p = terms[0], q = terms[1], root = std::sqrt(1.0 + p * p + q * q);
  const double E = 1.0 + p * p, F = p * q, G = 1.0 + q * q;
  const double L = 2.0 * terms[2] / root, M = terms[3] / root, N = 2.0 * terms[4] / root;
  const double det = E * G - F * F, mean = (E * N - 2.0 * F * M + G * L) / (2.0 * det), gauss = (L * N - M * M) / det;
  return std::abs(mean) + std::sqrt(std::max(0.0, mean * mean - gauss));
}

Fans fans(const mesh::Surface& surface, std::span<const std::uint32_t> neighbours,
          std::span<const std::uint8_t> sharp) {
  Fans out;
  const std::size_t count = surface.element_count();
  out.of_corner.assign(4 * count, mesh::no_index);
  out.first.assign(1, 0);
  for (mesh::ElementIndex e = 0; e < count; ++e) {
    const auto corners = surface.corners_of(e);
    for (unsigned k = 0; k < corners.size(); ++k) {
      if (out.of_corner[4 * e + k] != mesh::no_index) continue;
      // Two corners of a quadrilateral may be one node.
      const auto first = static_cast<unsigned>(std::find(corners.begin(), corners.end(), corners[k]) - corners.begin());
      if (first < k) {
        out.of_corner[4 * e + k] = out.of_corner[4 * e + first];
        continue;
      }
      const auto fan = static_cast<std::uint32_t>(out.node.size());
      const mesh::NodeIndex node = corners[k];
      bool all_round = false;
      // Both ways round the node, across the sides that meet at it.
      for (const bool forward : {true, false}) {
        mesh::ElementIndex at = e;
        for (std::size_t steps = 0; steps <= count; ++steps) {
          const auto own = surface.corners_of(at);
          const auto n = static_cast<unsigned>(own.size());
          const auto place = static_cast<unsigned>(std::find(own.begin(), own.end(), node) - own.begin());
          if (place == n) break;
          if (out.of_corner[4 * at + place] == mesh::no_index) {
            out.of_corner[4 * at + place] = fan;
            out.elements.push_back(at);
          }
          const unsigned side = forward ? place : (place + n - 1) % n;
          const mesh::ElementIndex next = neighbours[4 * at + side];
          if (next == mesh::no_index || (sharp[at] >> side & 1)) break;
          if (next == e) {
            all_round = true;
            break;
          }
          at = next;
        }
        if (all_round) break;
      }
      std::sort(out.elements.begin() + out.first.back(), out.elements.end());
      out.first.push_back(static_cast<std::uint32_t>(out.elements.size()));
      out.node.push_back(node);
      out.is_round.push_back(all_round);
    }
  }
  return out;
}

void fans_around(const mesh::Surface& surface, const Fans& fans, std::uint32_t fan, int rings,
                 std::vector<std::uint32_t>& around) {
  around.assign(1, fan);
  for (int ring = 0; ring < rings; ++ring) {
    for (std::size_t k = 0, count = around.size(); k < count; ++k)
      for (const mesh::ElementIndex e : fans.elements_of(around[k]))
        for (unsigned c = 0; c < surface.corners_of(e).size(); ++c) around.push_back(fans.of_corner[4 * e + c]);
    std::sort(around.begin(), around.end());
    around.erase(std::unique(around.begin(), around.end()), around.end());
  }
}

namespace {

/// Nodes of a fan's elements, and of so many rings more of elements next to them across no sharp edge; without the fan's
/// own node, each once.
void rings_of(const mesh::Surface& surface, const Fans& fans, std::uint32_t fan, int more,
              std::vector<mesh::NodeIndex>& nodes, std::vector<std::uint32_t>& around) {
  nodes.clear();
  fans_around(surface, fans, fan, more, around);
  for (const std::uint32_t next : around)
    for (const mesh::ElementIndex e : fans.elements_of(next))
      for (const mesh::NodeIndex node : surface.corners_of(e)) nodes.push_back(node);
  std::sort(nodes.begin(), nodes.end());
  nodes.erase(std::unique(nodes.begin(), nodes.end()), nodes.end());
  std::erase(nodes, fans.node[fan]);
}

Vec3 across(const Vec3& w) {
  const Vec3 axis = std::abs(w.x()) < 0.6 ? Vec3::UnitX() : std::abs(w.y()) < 0.6 ? Vec3::UnitY() : Vec3::UnitZ();
  return (axis - axis.dot(w) * w).normalized();
}

/// Fits five or nine terms to the nodes by least squares, nearer ones counting more. False where they do not tell.
template <int terms>
bool fit(const mesh::Surface& surface, std::span<const mesh::NodeIndex> nodes, Jet& jet) {
  using Matrix = Eigen::Matrix<double, terms, terms>;
  using Vector = Eigen::Matrix<double, terms, 1>;
  double scale = 0.0;
  for (const mesh::NodeIndex node : nodes) scale = std::max(scale, (surface.points[node] - jet.origin).norm());
  if (!(scale > 0.0)) return false;
  Matrix normal = Matrix::Zero();
  Vector right = Vector::Zero();
  const auto row_of = [](double a, double b) {
    Vector row;
    row.template head<5>() << a, b, a * a, a * b, b * b;
    if constexpr (terms == 9) row.template tail<4>() << a * a * a, a * a * b, a * b * b, b * b * b;
    return row;
  };
  for (const mesh::NodeIndex node : nodes) {
    const Vec3 d = (surface.points[node] - jet.origin) / scale;
    const double a = d.dot(jet.u), b = d.dot(jet.v), h = d.dot(jet.w), flat = a * a + b * b;
    if (!(flat > 0.12 * h * h)) return false;  // too steep to be a height: 70 degrees
    const Vector row = row_of(a, b), weighted = row / (flat + h * h + 1e-6);
    normal.noalias() += weighted * row.transpose();
    right += h * weighted;
  }
  const Eigen::LDLT<Matrix> solver(normal);
  const Vector diagonal = solver.vectorD();
  if (solver.info() != Eigen::Success || !(diagonal.minCoeff() > 1e-7 * diagonal.maxCoeff())) return false;
  const Vector found = solver.solve(right);
  double sum = 0.0, misfit = 0.0;
  for (const mesh::NodeIndex node : nodes) {
    const Vec3 d = (surface.points[node] - jet.origin) / scale;
    const double off = d.dot(jet.w) - row_of(d.dot(jet.u), d.dot(jet.v)).dot(found);
    sum += d.squaredNorm();
    misfit += off * off;
  }
  if (!(misfit <= 0.01 * sum)) return false;  // the nodes are no such surface
  jet.terms.fill(0.0);
  for (int k = 0; k < terms; ++k)
    jet.terms[static_cast<std::size_t>(k)] = found(k) / (k < 2 ? 1.0 : k < 5 ? scale : scale * scale);
  return true;
}

}  // namespace

std::vector<Jet> jets(const mesh::Surface& surface, const mesh::Geometry& geometry, const Fans& fans) {
  std::vector<Jet> out(fans.size());
  parallel_blocks(
      fans.size(),
      [&](std::size_t begin, std::size_t end) {
        std::vector<mesh::NodeIndex> nodes;
        std::vector<std::uint32_t> around;
        for (std::size_t f = begin; f < end; ++f) {
          const auto fan = static_cast<std::uint32_t>(f);
          Jet& jet = out[f];
          jet.origin = surface.points[fans.node[f]];
          Vec3 normal = Vec3::Zero();
          for (const mesh::ElementIndex e : fans.elements_of(fan)) normal += geometry.areas[e] * geometry.normals[e];
          jet.w = normal.norm() > 0.0 ? Vec3(normal.normalized()) : Vec3(Vec3::UnitZ());
          jet.u = across(jet.w);
          jet.v = jet.w.cross(jet.u);
          const Jet flat = jet;
          const auto usable = [&](int rings, bool cubic, std::size_t least) {
            rings_of(surface, fans, fan, rings, nodes, around);
            jet = flat;
            return nodes.size() >= least && (cubic ? fit<9>(surface, nodes, jet) : fit<5>(surface, nodes, jet)) &&
                   jet.normal().dot(flat.w) > 0.8;
          };
          // Where nodes lie badly, further ones help.
          if (fans.is_round[f] && (usable(1, true, 12) || usable(2, true, 18))) continue;
          if (usable(1, false, 7) || usable(2, false, 7)) continue;
          jet = flat;
        }
      },
      1024);
  return out;
}

}  // namespace bordado::drape
