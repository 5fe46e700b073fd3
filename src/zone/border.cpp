#include <bordado/mesh/divide.hpp>
#include <bordado/zone.hpp>

#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace bordado::zone {

const mesh::Surface& ZoneSets::traced_on(const mesh::Surface& mesh) const { return divided ? divided->surface : mesh; }

std::array<mesh::ElementIndex, 2> ZoneSets::pieces_of(mesh::ElementIndex element) const {
  if (!divided) return {element, element + 1};
  return {divided->first[element], divided->first[element + 1]};
}

std::vector<mesh::Curve> lines(const mesh::Surface& traced, const Border& border, std::span<const std::uint8_t> taken) {
  std::vector<mesh::Curve> out;
  mesh::NodePairs sides;
  for (std::size_t k = 0; k < border.pieces.size(); ++k) {
    if (!taken.empty() && !taken[k]) continue;
    const Border::Piece& piece = border.pieces[k];
    if (piece.is_side())
      sides.push_back(piece.side);
    else
      out.push_back({{piece.ends[0], piece.ends[1]}, {}, false});
  }
  for (mesh::Curve& line : mesh::curves_of(traced, sides)) out.push_back(std::move(line));
  return out;
}

std::vector<std::uint8_t> shared(const Border& border, const Border& other) {
  std::unordered_multimap<mesh::ElementIndex, const Border::Piece*> at;  // by the element inside
  for (const Border::Piece& piece : other.pieces) at.emplace(piece.inside, &piece);
  const auto same = [](const Border::Piece& a, const Border::Piece& b) {
    if (a.is_side() || b.is_side()) return a.side == b.side;
    // Both cut through the element: at the same places, with the zone on the same side.
    const Vec3 along = a.ends[1] - a.ends[0];
    const double near = 1e-3 * along.norm();
    const bool ends = ((a.ends[0] - b.ends[0]).norm() <= near && (a.ends[1] - b.ends[1]).norm() <= near) ||
                      ((a.ends[0] - b.ends[1]).norm() <= near && (a.ends[1] - b.ends[0]).norm() <= near);
    return ends && a.inwards.dot(b.inwards) > 0.0;
  };
  std::vector<std::uint8_t> out;
  for (const Border::Piece& piece : border.pieces) {
    const auto [begin, end] = at.equal_range(piece.inside);
    out.push_back(std::any_of(begin, end, [&](const auto& one) { return same(piece, *one.second); }));
  }
  return out;
}

namespace {

/// A level over the triangles of an element, weighted by their shares of its area.
template <class OfTriangle>
double over_triangles(const mesh::Surface& surface, mesh::ElementIndex element, std::span<const double> level,
                      OfTriangle of_triangle) {
  const auto corners = surface.corners_of(element);
  if (corners.size() == 3) return of_triangle(level[corners[0]], level[corners[1]], level[corners[2]]);
  Vec3 middle = Vec3::Zero();
  double at_middle = 0.0;
  for (const mesh::NodeIndex n : corners) middle += 0.25 * surface.points[n], at_middle += 0.25 * level[n];
  double sum = 0.0, whole = 0.0;
  for (std::size_t k = 0; k < 4; ++k) {
    const mesh::NodeIndex a = corners[k], b = corners[(k + 1) % 4];
    const double area = (surface.points[a] - middle).cross(surface.points[b] - middle).norm();
    whole += area;
    sum += area * of_triangle(at_middle, level[a], level[b]);
  }
  return whole > 0.0 ? sum / whole : 0.0;
}

/// Part of a triangle where a linear level is not positive.
double part_below(double a, double b, double c) {
  if (a > b) std::swap(a, b);
  if (b > c) std::swap(b, c);
  if (a > b) std::swap(a, b);
  if (c <= 0.0) return 1.0;
  if (a >= 0.0) return 0.0;
  if (b <= 0.0) return 1.0 - c / (c - a) * (c / (c - b));  // a corner is cut off
  return -a / (b - a) * (-a / (c - a));                    // a corner is left
}

/// The mean over a triangle of a linear function where it is positive, nought elsewhere.
double mean_above(double a, double b, double c) {
  if (a > b) std::swap(a, b);
  if (b > c) std::swap(b, c);
  if (a > b) std::swap(a, b);
  const double mean = (a + b + c) / 3.0;
  if (a >= 0.0) return mean;
  if (c <= 0.0) return 0.0;
  if (b <= 0.0) return c / (c - a) * (c / (c - b)) * c / 3.0;
  return mean - a / (a - b) * (a / (a - c)) * a / 3.0;
}

}  // namespace

double covered_below(const mesh::Surface& surface, mesh::ElementIndex element, std::span<const double> level) {
  return over_triangles(surface, element, level, part_below);
}

double mean_depth(const mesh::Surface& surface, mesh::ElementIndex element, std::span<const double> level,
                  double most) {
  return over_triangles(surface, element, level, [most](double a, double b, double c) {
    return mean_above(-a, -b, -c) - mean_above(-a - most, -b - most, -c - most);
  });
}

}  // namespace bordado::zone
