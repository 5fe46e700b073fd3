#include <bordado/mesh/shape.hpp>
#include <bordado/mesh/weld.hpp>

#include <bordado/base/work.hpp>
#include <bordado/mesh/care.hpp>

#include <fmt/format.h>
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

/// Elements with the same corners share all their sides: seen at the first side of either.
void find_twins(const Surface& surface, const EdgeTable& table, Inspection& out) {
  const auto sorted = [&](ElementIndex e) {
    std::array<NodeIndex, 4> nodes{no_index, no_index, no_index, no_index};
    const auto corners = surface.corners_of(e);
    std::copy(corners.begin(), corners.end(), nodes.begin());
    std::sort(nodes.begin(), nodes.end());
    return nodes;
  };
  for (std::size_t j = 0; j < table.size(); ++j)
    for (std::uint32_t a = table.first[j]; a < table.first[j + 1]; ++a)
      for (std::uint32_t b = a + 1; b < table.first[j + 1]; ++b) {
        const EdgeTable::Use &one = table.uses[a], &other = table.uses[b];
        if ((one.side == 0 || other.side == 0) && one.element != other.element &&
            sorted(one.element) == sorted(other.element))
          out.twin_elements.push_back({std::min(one.element, other.element), std::max(one.element, other.element)});
      }
  std::sort(out.twin_elements.begin(), out.twin_elements.end());
  out.twin_elements.erase(std::unique(out.twin_elements.begin(), out.twin_elements.end()), out.twin_elements.end());
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

/// Where a quadratic element is looked at: its nodes, and places between them.
std::vector<ShapeValues> places_in(Shape shape) {
  std::vector<ShapeValues> out;
  constexpr int steps = 4;
  for (int i = 0; i <= steps; ++i)
    for (int j = 0; j <= steps; ++j) {
      const double u = static_cast<double>(i) / steps, v = static_cast<double>(j) / steps;
      if (corner_count(shape) == 3 && i + j <= steps) out.push_back(shape_values(shape, u, v));
      if (corner_count(shape) == 4) out.push_back(shape_values(shape, 2 * u - 1, 2 * v - 1));
    }
  return out;
}

}  // namespace

std::vector<ElementIndex> tangled(const Surface& surface, const Geometry& geometry) {
  const std::vector<ShapeValues> triangle = places_in(Shape::triangle6), square = places_in(Shape::quadrilateral8);
  std::vector<std::uint8_t> bad(surface.element_count(), 0);
  parallel_blocks(surface.element_count(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) {
      if (!is_quadratic(surface.shapes[e])) continue;
      const auto nodes = surface.nodes_of(static_cast<ElementIndex>(e));
      const Vec3& normal = geometry.normals[e];
      const double corner_area = 0.1 * (surface.points[nodes[1]] - surface.points[nodes[0]])
                                           .cross(surface.points[nodes[2]] - surface.points[nodes[0]])
                                           .norm();
      for (const ShapeValues& s : corner_count(surface.shapes[e]) == 3 ? triangle : square) {
        Vec3 along_xi = Vec3::Zero(), along_eta = Vec3::Zero();
        for (std::size_t i = 0; i < nodes.size(); ++i) {
          along_xi += s.by_xi[i] * surface.points[nodes[i]];
          along_eta += s.by_eta[i] * surface.points[nodes[i]];
        }
        // A strongly curved element may stand steep to its middle normal: not so much that this is lost.
        if (along_xi.cross(along_eta).dot(normal) <= 1e-6 * corner_area) bad[e] = 1;
      }
    }
  });
  std::vector<ElementIndex> out;
  for (ElementIndex e = 0; e < bad.size(); ++e)
    if (bad[e]) out.push_back(e);
  return out;
}

std::vector<Finding> doubts(const Surface& surface, const Inspection& found, const InspectOptions& options) {
  std::vector<Finding> out;
  const auto tell = [&](std::string code, std::string what, std::string remedy, std::optional<ElementIndex> at = {}) {
    out.push_back({Severity::warning, std::move(code), std::move(what),
                   at ? surface.place_of(*at) : Place::in(surface.file), std::move(remedy)});
  };
  const auto elements = [&](std::string code, std::string_view what, const std::vector<ElementIndex>& list,
                            std::string remedy) {
    if (list.empty()) return;
    std::vector<std::int64_t> ids;
    for (const ElementIndex e : list) ids.push_back(surface.element_ids[e]);
    tell(std::move(code), fmt::format("{} {}: {}", counted(list.size(), "element"), what, listed(ids)),
         std::move(remedy), list.front());
  };
  if (found.disagreeing_edges > 0)
    tell("mesh.sides-disagree",
         fmt::format("{} between elements of opposite sides; a part file's 'side' makes them agree",
                     counted(found.disagreeing_edges, "edge")),
         "declare 'side', or repair the mesh: bordado surface ... --repair");
  elements("mesh.junction", "at edges that three or more share", found.junction, "sides are not carried across these");
  elements("mesh.flat", "without area", found.flat, "bordado surface ... --repair takes them out");
  elements("mesh.folded", "folded on themselves", found.folded, "bordado surface ... --repair unfolds what it can");
  elements("mesh.tangled", "turned inside out by a middle node", found.tangled,
           "put the middle nodes between the corners: their area counts wrong, and solvers stop at them");
  elements("mesh.warped", fmt::format("warped by more than {:g}°", options.warp.degrees()), found.warped,
           "mesh finer there, or with triangles");
  if (!found.coincident_nodes.empty()) {
    const auto& [a, b] = found.coincident_nodes.front();
    tell("mesh.coincident",
         fmt::format("{} of coincident nodes, {} and {} the first: the surface may be torn there",
                     counted(found.coincident_nodes.size(), "pair"), surface.node_ids[a], surface.node_ids[b]),
         "bordado surface ... --repair makes them one");
  }
  if (!found.twin_elements.empty()) {
    const auto& [a, b] = found.twin_elements.front();
    tell("mesh.twins",
         fmt::format("{} of elements with the same corners, {} and {} the first",
                     counted(found.twin_elements.size(), "pair"), surface.element_ids[a], surface.element_ids[b]),
         "bordado surface ... --repair keeps one of each", a);
  }
  for (const Rim& rim : found.rims)
    if (!rim.closed) {
      tell("mesh.border-touches", "a border that touches itself: pieces meet at a single node",
           "join the pieces along edges, or part them");
      break;
    }
  return out;
}

Inspection inspect(const Surface& surface, const Geometry& geometry, const InspectOptions& options) {
  return inspect(surface, geometry, edges(surface), options);
}

Inspection inspect(const Surface& surface, const Geometry& geometry, const EdgeTable& table,
                   const InspectOptions& options) {
  Inspection out;
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
  find_twins(surface, table, out);
  find_misshapen(surface, geometry, mean_edge, options, out);
  for (const ElementIndex e : tangled(surface, geometry))
    if (!std::binary_search(out.folded.begin(), out.folded.end(), e) &&
        !std::binary_search(out.flat.begin(), out.flat.end(), e))
      out.tangled.push_back(e);
  return out;
}

}  // namespace bordado::mesh
