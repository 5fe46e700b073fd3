#include <bordado/mesh/corner_weights.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace bordado::mesh {

std::array<double, 4> corner_weights(const Surface& surface, ElementIndex element, const Vec3& point) {
  const auto corners = surface.corners_of(element);
  const std::size_t n = corners.size();
  const double share = 1.0 / static_cast<double>(n);
  Vec3 middle = Vec3::Zero();
  for (const NodeIndex c : corners) middle += share * surface.points[c];
  std::array<double, 4> best{};
  std::fill_n(best.begin(), n, share);
  double nearest = -std::numeric_limits<double>::infinity();
  for (std::size_t k = 0; k < n; ++k) {
    const std::size_t next = (k + 1) % n;
    const Vec3 a = surface.points[corners[k]] - middle, b = surface.points[corners[next]] - middle, p = point - middle;
    const double aa = a.dot(a), ab = a.dot(b), bb = b.dot(b), pa = p.dot(a), pb = p.dot(b), det = aa * bb - ab * ab;
    if (!(det > 0.0)) continue;
    const double s = (pa * bb - pb * ab) / det, t = (pb * aa - pa * ab) / det, inside = std::min({s, t, 1.0 - s - t});
    if (inside <= nearest) continue;
    nearest = inside;
    std::fill_n(best.begin(), n, (1.0 - s - t) * share);
    best[k] += s;
    best[next] += t;
  }
  return best;
}

double flat_area(const Surface& surface, ElementIndex element) {
  const auto c = surface.corners_of(element);
  const Vec3 &a = surface.points[c[0]], &b = surface.points[c[1]], &d = surface.points[c[c.size() - 1]];
  return 0.5 * (surface.points[c[2]] - a).cross(d - b).norm();
}

double least_angle(const std::vector<Vec3>& points, std::span<const NodeIndex> corners) {
  double out = 180.0;
  const std::size_t n = corners.size();
  for (std::size_t k = 0; k < n; ++k) {
    const Vec3 &at = points[corners[k]], a = points[corners[(k + 1) % n]] - at,
               b = points[corners[(k + n - 1) % n]] - at;
    out = std::min(out, std::atan2(a.cross(b).norm(), a.dot(b)) * 180.0 / std::numbers::pi);
  }
  return out;
}

}  // namespace bordado::mesh
