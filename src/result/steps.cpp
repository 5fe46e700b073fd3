#include "steps.hpp"

#include <Eigen/Cholesky>

#include <algorithm>
#include <cmath>

namespace bordado::result {

namespace {

using mesh::ElementIndex;

/// How far from a point the segment between two others is.
double distance(const Vec3& point, const Vec3& from, const Vec3& to) {
  const Vec3 along = to - from;
  const double length = along.squaredNorm();
  const double share = length > 0.0 ? std::clamp((point - from).dot(along) / length, 0.0, 1.0) : 0.0;
  return (point - from - share * along).norm();
}

}  // namespace

std::vector<std::uint8_t> beside_steps(const layup::Laid& laid) {
  const mesh::Surface& surface = laid.surface;
  const mesh::Geometry& geometry = laid.geometry;
  const std::vector<double> thick = layup::thicknesses(laid);
  const mesh::EdgeTable edges = mesh::edges(surface);
  std::vector<std::uint8_t> out;
  std::optional<mesh::NodeTable> at_nodes;
  std::vector<ElementIndex> todo, seen;
  for (std::size_t j = 0; j < edges.size(); ++j) {
    if (edges.first[j + 1] - edges.first[j] != 2) continue;
    const ElementIndex pair[] = {edges.uses[edges.first[j]].element, edges.uses[edges.first[j] + 1].element};
    const double most = std::max(thick[pair[0]], thick[pair[1]]), least = std::min(thick[pair[0]], thick[pair[1]]);
    const double step = most > 0.0 ? (most - least) / most : 0.0;
    if (step < 0.02) continue;
    if (out.empty()) {
      out.assign(surface.element_count(), 0);
      at_nodes = mesh::elements_at_nodes(surface);
    }
    const Vec3 &from = surface.points[edges.nodes[j][0]], &to = surface.points[edges.nodes[j][1]];
    for (const ElementIndex side : pair) {
      const bool thicker = thick[side] == most;
      const double reach = (!thicker ? 1.0 : step < 0.06 ? 1.0 : step < 0.2 ? 2.0 : 3.0) * thick[side];
      // From the element at the step on, over neighbours on its side of the step.
      todo = {side};
      seen = {side};
      while (!todo.empty()) {
        const ElementIndex e = todo.back();
        todo.pop_back();
        if (distance(geometry.centres[e], from, to) > reach) continue;
        out[e] = 1;
        for (const mesh::NodeIndex n : surface.nodes_of(e).first(mesh::corner_count(surface.shapes[e])))
          for (const ElementIndex next : at_nodes->of(n)) {
            const bool there = std::abs(thick[next] - thick[side]) <= 0.5 * (most - least);
            if (!there || std::find(seen.begin(), seen.end(), next) != seen.end()) continue;
            seen.push_back(next);
            todo.push_back(next);
          }
      }
    }
  }
  return out;
}

}  // namespace bordado::result
