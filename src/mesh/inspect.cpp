#include "weld.hpp"

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace bordado::mesh {

namespace {

void find_rims(const Surface& surface, const EdgeTable& table, Inspection& out) {
  Sets sets(surface.points.size());
  std::vector<std::uint8_t> degree(surface.points.size(), 0);
  for (std::size_t j = 0; j < table.size(); ++j) {
    if (table.first[j + 1] - table.first[j] != 1) continue;
    ++out.free_edges;
    const auto& [a, b] = table.nodes[j];
    sets.join(a, b);
    for (const NodeIndex n : {a, b}) degree[n] = static_cast<std::uint8_t>(std::min(degree[n] + 1, 3));
  }
  std::unordered_map<std::uint32_t, std::size_t> rim_of_root;
  for (NodeIndex n = 0; n < degree.size(); ++n) {
    if (degree[n] == 0) continue;
    const auto [found, is_new] = rim_of_root.emplace(sets.root(n), out.rims.size());
    if (is_new) out.rims.emplace_back();
    Rim& rim = out.rims[found->second];
    rim.nodes.push_back(n);
    rim.closed = rim.closed && degree[n] == 2;
  }
  for (std::size_t j = 0; j < table.size(); ++j)
    if (table.first[j + 1] - table.first[j] == 1) {
      const auto& [a, b] = table.nodes[j];
      out.rims[rim_of_root.at(sets.root(a))].length += (surface.points[a] - surface.points[b]).norm();
    }
  std::stable_sort(out.rims.begin(), out.rims.end(), [](const Rim& a, const Rim& b) { return a.length > b.length; });
}

/// Pairs of nodes nearer than `reach`: a grid of that cell size, each node compared with the 27 cells around it.
void find_twins(const Surface& surface, Inspection& out) {
  struct Corners {
    std::array<NodeIndex, 4> nodes;
    ElementIndex element;
  };
  std::vector<Corners> all(surface.element_count());
  for (ElementIndex e = 0; e < all.size(); ++e) {
    all[e] = {{no_index, no_index, no_index, no_index}, e};
    const auto corners = surface.corners_of(e);
    std::copy(corners.begin(), corners.end(), all[e].nodes.begin());
    std::sort(all[e].nodes.begin(), all[e].nodes.end());
  }
  std::sort(all.begin(), all.end(), [](const Corners& a, const Corners& b) {
    return std::tie(a.nodes, a.element) < std::tie(b.nodes, b.element);
  });
  for (std::size_t i = 1; i < all.size(); ++i)
    if (all[i].nodes == all[i - 1].nodes) out.twin_elements.push_back({all[i - 1].element, all[i].element});
  std::sort(out.twin_elements.begin(), out.twin_elements.end());
}

/// Flat, folded and warped elements.
void find_misshapen(const Surface& surface, const Geometry& geometry, double mean_edge, const InspectOptions& options,
                    Inspection& out) {
  double largest = 0.0;
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    if (!(geometry.areas[e] > 1e-9 * mean_edge * mean_edge)) {
      out.flat.push_back(e);
      continue;
    }
    const auto corners = surface.corners_of(e);
    if (corners.size() != 4) continue;
    // Along each diagonal, the halves' normals; the worse of the two is the warp.
    double warp = 0.0;
    for (std::size_t k = 0; k < 2; ++k) {
      const auto at = [&](std::size_t i) -> const Vec3& { return surface.points[corners[(i + k) % 4]]; };
      const Vec3 one = (at(1) - at(0)).cross(at(2) - at(0)), other = (at(2) - at(0)).cross(at(3) - at(0));
      warp = std::max(warp, std::atan2(one.cross(other).norm(), one.dot(other)));
    }
    if (warp > 0.5 * std::numbers::pi) {
      out.folded.push_back(e);
      continue;
    }
    largest = std::max(largest, warp);
    if (warp > options.warp.radians()) out.warped.push_back(e);
  }
  out.largest_warp = Angle::radians(largest);
}

}  // namespace

Inspection inspect(const Surface& surface, const Geometry& geometry, const InspectOptions& options) {
  Inspection out;
  const EdgeTable table = edges(surface);
  double sum = 0.0;
  for (std::size_t j = 0; j < table.size(); ++j) {
    const std::uint32_t begin = table.first[j], end = table.first[j + 1];
    sum += (surface.points[table.nodes[j][0]] - surface.points[table.nodes[j][1]]).norm();
    if (end - begin == 2 && table.uses[begin].forward == table.uses[begin + 1].forward) ++out.disagreeing_edges;
    if (end - begin > 2)
      for (std::uint32_t k = begin; k < end; ++k) out.junction.push_back(table.uses[k].element);
  }
  std::sort(out.junction.begin(), out.junction.end());
  out.junction.erase(std::unique(out.junction.begin(), out.junction.end()), out.junction.end());
  const double mean_edge = sum / static_cast<double>(std::max<std::size_t>(1, table.size()));
  find_rims(surface, table, out);
  out.coincident_nodes = near_pairs(surface.points, options.coincidence * mean_edge);
  find_twins(surface, out);
  find_misshapen(surface, geometry, mean_edge, options, out);
  return out;
}

}  // namespace bordado::mesh
