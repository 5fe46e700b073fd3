#include "coarse.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <unordered_map>

namespace bordado::page {

namespace {

std::array<mesh::NodeIndex, 4> corners_of(const mesh::Surface& surface, mesh::ElementIndex e) {
  const auto corners = surface.corners_of(e);
  return {corners[0], corners[1], corners[2], corners.size() == 4 ? corners[3] : mesh::no_index};
}

/// Corners without those that have become one; nothing where fewer than three are left.
std::optional<std::array<mesh::NodeIndex, 4>> without_repeats(const std::array<mesh::NodeIndex, 4>& corners) {
  std::array<mesh::NodeIndex, 4> out;
  out.fill(mesh::no_index);
  std::size_t held = 0;
  for (const mesh::NodeIndex n : corners)
    if (n != mesh::no_index && std::find(out.begin(), out.begin() + held, n) == out.begin() + held) out[held++] = n;
  if (held < 3) return std::nullopt;
  return out;
}

/// Numbers of the cubes that nodes lie in, in order of their first node; other nodes than corners get mesh::no_index.
std::vector<mesh::NodeIndex> cubes(const mesh::Surface& surface, const std::vector<bool>& is_corner, const Vec3& low,
                                   double cell) {
  std::unordered_map<std::uint64_t, mesh::NodeIndex> numbers;
  std::vector<mesh::NodeIndex> out(surface.points.size(), mesh::no_index);
  for (std::size_t n = 0; n < out.size(); ++n) {
    if (!is_corner[n]) continue;
    std::uint64_t key = 0;
    for (int i = 0; i < 3; ++i)
      key = key << 21 | static_cast<std::uint64_t>(std::min((surface.points[n][i] - low[i]) / cell, 2097151.0));
    out[n] = numbers.emplace(key, static_cast<mesh::NodeIndex>(numbers.size())).first->second;
  }
  return out;
}

}  // namespace

Drawn drawn(const mesh::Surface& surface, const mesh::Geometry& geometry, std::size_t most) {
  Drawn out;
  const std::size_t count = surface.element_count();
  std::vector<bool> is_corner(surface.points.size(), false);
  for (mesh::ElementIndex e = 0; e < count; ++e)
    for (const mesh::NodeIndex n : surface.corners_of(e)) is_corner[n] = true;
  std::vector<mesh::NodeIndex> point_of(surface.points.size(), mesh::no_index);
  if (count <= most) {
    for (std::size_t n = 0; n < point_of.size(); ++n) {
      if (!is_corner[n]) continue;
      point_of[n] = static_cast<mesh::NodeIndex>(out.points.size());
      out.points.push_back(surface.points[n]);
    }
    out.elements.resize(count);
    std::iota(out.elements.begin(), out.elements.end(), 0u);
    for (mesh::ElementIndex e = 0; e < count; ++e) {
      out.corners.push_back(corners_of(surface, e));
      for (mesh::NodeIndex& n : out.corners.back())
        if (n != mesh::no_index) n = point_of[n];
    }
    return out;
  }
  const Vec3 low = extent(surface.points).low;
  const double area = std::accumulate(geometry.areas.begin(), geometry.areas.end(), 0.0);
  for (double cell = std::sqrt(area / static_cast<double>(most));; cell *= 1.1) {
    out = {};
    out.cell = cell;
    point_of = cubes(surface, is_corner, low, cell);
    // Of elements on the same corners the first is kept: key by the sorted corners.
    std::vector<std::pair<std::array<mesh::NodeIndex, 4>, mesh::ElementIndex>> kept;
    for (mesh::ElementIndex e = 0; e < count; ++e) {
      std::array<mesh::NodeIndex, 4> corners = corners_of(surface, e);
      for (mesh::NodeIndex& n : corners)
        if (n != mesh::no_index) n = point_of[n];
      auto left = without_repeats(corners);
      if (!left) continue;
      std::sort(left->begin(), left->end());
      kept.emplace_back(*left, e);
    }
    std::sort(kept.begin(), kept.end());
    kept.erase(std::unique(kept.begin(), kept.end(), [](const auto& a, const auto& b) { return a.first == b.first; }),
               kept.end());
    if (kept.size() > most) continue;
    for (const auto& [corners, e] : kept) out.elements.push_back(e);
    std::sort(out.elements.begin(), out.elements.end());
    for (const mesh::ElementIndex e : out.elements) {
      std::array<mesh::NodeIndex, 4> corners = corners_of(surface, e);
      for (mesh::NodeIndex& n : corners)
        if (n != mesh::no_index) n = point_of[n];
      out.corners.push_back(*without_repeats(corners));
    }
    break;
  }
  mesh::NodeIndex points = 0;
  for (const mesh::NodeIndex n : point_of)
    if (n != mesh::no_index) points = std::max(points, n + 1);
  out.points.assign(points, Vec3::Zero());
  std::vector<double> sharing(points, 0.0);
  for (std::size_t n = 0; n < point_of.size(); ++n) {
    if (point_of[n] == mesh::no_index) continue;
    out.points[point_of[n]] += surface.points[n];
    sharing[point_of[n]] += 1.0;
  }
  for (std::size_t n = 0; n < out.points.size(); ++n) out.points[n] /= sharing[n];
  return out;
}

}  // namespace bordado::page
