#include "polygon.hpp"

#include <Eigen/Geometry>

#include <cmath>
#include <optional>

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
  // Turns of this size are rounding.
  const double least = 1e-12 * normal.squaredNorm();
  std::vector<std::size_t> left;
  for (std::size_t i = 0; i < corners.size(); ++i)
    if (left.empty() || corners[i] != corners[left.back()]) left.push_back(i);
  while (left.size() > 1 && corners[left.back()] == corners[left.front()]) left.pop_back();
  const auto turn = [&](std::size_t a, std::size_t b, std::size_t c) {
    return (corners[b] - corners[a]).cross(corners[c] - corners[b]).dot(normal);
  };
  struct Corner {
    std::size_t a, b, c;
  };
  const auto corner = [&](std::size_t k) {
    const std::size_t n = left.size();
    return Corner{left[(k + n - 1) % n], left[k % n], left[(k + 1) % n]};
  };
  /// Whether no other corner lies within the triangle; \param margin below nought: none on its sides, either
  const auto is_empty = [&](const Corner& of, double margin) {
    const auto& [a, b, c] = of;
    for (const std::size_t p : left)
      if (corners[p] != corners[a] && corners[p] != corners[b] && corners[p] != corners[c] && turn(a, b, p) > margin &&
          turn(b, c, p) > margin && turn(c, a, p) > margin)
        return false;
    return true;
  };
  std::vector<std::array<std::size_t, 3>> out;
  /// The next ear from k on, round once.
  const auto ear_from = [&](std::size_t k, double margin) {
    for (std::size_t i = 0; i < left.size(); ++i)
      if (const Corner one = corner(k + i); turn(one.a, one.b, one.c) > least && is_empty(one, margin))
        return std::optional((k + i) % left.size());
    return std::optional<std::size_t>();
  };
  std::size_t k = 0;
  while (left.size() > 3) {
    std::optional<std::size_t> at = ear_from(k, -least);
    if (!at)
      at = ear_from(k, least);  // the line that cuts it off runs through a corner, as where a side runs there and back
    if (!at) {                  // sides cross, or all corners that are left lie on a line: the flattest goes
      at = 0;
      const auto size = [&](std::size_t i) { return std::abs(turn(corner(i).a, corner(i).b, corner(i).c)); };
      for (std::size_t i = 1; i < left.size(); ++i)
        if (size(i) < size(*at)) at = i;
    }
    const Corner one = corner(*at);
    out.push_back({one.a, one.b, one.c});
    left.erase(left.begin() + static_cast<std::ptrdiff_t>(*at));
    k = *at == 0 ? 0 : *at - 1;
  }
  if (left.size() == 3) out.push_back({left[0], left[1], left[2]});
  return out;
}

}  // namespace bordado::mesh
