#include "polygon.hpp"

#include <Eigen/Geometry>

namespace bordado::mesh {

namespace {

/// Twice the area with its direction, by M. E. Newell's sums.
Vec3 area_vector(std::span<const Vec3> corners) {
  Vec3 out = Vec3::Zero();
  for (std::size_t i = 0; i < corners.size(); ++i)
    out += (corners[i] - corners[0]).cross(corners[(i + 1) % corners.size()] - corners[0]);
  return out;
}

}  // namespace

bool is_convex(std::span<const Vec3> corners) {
  const Vec3 normal = area_vector(corners);
  const std::size_t n = corners.size();
  for (std::size_t i = 0; i < n; ++i)
    if ((corners[(i + 1) % n] - corners[i]).cross(corners[(i + 2) % n] - corners[(i + 1) % n]).dot(normal) < 0.0)
      return false;
  return true;
}

std::vector<std::array<std::size_t, 3>> cut_polygon(std::span<const Vec3> corners) {
  const Vec3 normal = area_vector(corners);
  std::vector<std::size_t> left(corners.size());
  for (std::size_t i = 0; i < left.size(); ++i) left[i] = i;
  const auto turn = [&](std::size_t a, std::size_t b, std::size_t c) {
    return (corners[b] - corners[a]).cross(corners[c] - corners[b]).dot(normal);
  };
  const auto is_ear = [&](std::size_t k) {
    const std::size_t n = left.size();
    const std::size_t a = left[(k + n - 1) % n], b = left[k], c = left[(k + 1) % n];
    if (!(turn(a, b, c) > 0.0)) return false;
    for (const std::size_t p : left)
      if (p != a && p != b && p != c && turn(a, b, p) >= 0.0 && turn(b, c, p) >= 0.0 && turn(c, a, p) >= 0.0)
        return false;
    return true;
  };
  std::vector<std::array<std::size_t, 3>> out;
  std::size_t k = 0, tried = 0;
  while (left.size() > 3) {
    const std::size_t n = left.size();
    // Where no corner is an ear (sides cross, or all lie on a line) one is cut all the same.
    if (is_ear(k % n) || ++tried > n) {
      const std::size_t at = k % n;
      out.push_back({left[(at + n - 1) % n], left[at], left[(at + 1) % n]});
      left.erase(left.begin() + static_cast<std::ptrdiff_t>(at));
      tried = 0;
      k = at == 0 ? 0 : at - 1;
    } else {
      ++k;
    }
  }
  if (left.size() == 3) out.push_back({left[0], left[1], left[2]});
  return out;
}

}  // namespace bordado::mesh
