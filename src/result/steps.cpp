#include "steps.hpp"

#include <bordado/design.hpp>

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

namespace {

/// Those of some nodes (ascending) that share no element with another of them.
std::vector<mesh::NodeIndex> single(const mesh::Surface& surface, const mesh::NodeTable& at_nodes,
                                    const std::vector<mesh::NodeIndex>& nodes) {
  std::vector<mesh::NodeIndex> out;
  for (const mesh::NodeIndex n : nodes) {
    const auto near = at_nodes.of(n);
    if (std::none_of(near.begin(), near.end(), [&](ElementIndex e) {
          const auto own = surface.nodes_of(e);
          return std::any_of(own.begin(), own.end(), [&](mesh::NodeIndex other) {
            return other != n && std::binary_search(nodes.begin(), nodes.end(), other);
          });
        }))
      out.push_back(n);
  }
  return out;
}

}  // namespace

void mark_points(const model::Model& model, const mesh::NodeTable& at_nodes, std::vector<Doubt>& doubt) {
  const mesh::Surface& surface = model.surface;
  const Design& design = *model.design;
  std::vector<std::pair<mesh::NodeIndex, Doubt>> points;
  const auto add = [&](const std::vector<mesh::NodeIndex>& nodes, Doubt why) {
    for (const mesh::NodeIndex n : single(surface, at_nodes, nodes)) points.emplace_back(n, why);
  };
  for (const model::Model::Load& load : model.loads)
    if (const auto* const force = std::get_if<model::Model::Force>(&load.what)) {
      std::vector<mesh::NodeIndex> pushed;
      for (std::size_t i = 0; i < force->nodes.size(); ++i)
        if (force->forces[i] != Vec3::Zero() || (!force->moments.empty() && force->moments[i] != Vec3::Zero()))
          pushed.push_back(force->nodes[i]);
      add(pushed, Doubt::force);
    } else if (const auto* const moved = std::get_if<model::Model::Displacement>(&load.what)) {
      std::vector<mesh::NodeIndex> nodes = moved->nodes;
      std::sort(nodes.begin(), nodes.end());
      add(nodes, Doubt::held);
    }
  for (const model::Model::Support& support : model.supports) add(support.nodes, Doubt::held);
  if (points.empty()) return;
  const std::vector<double> thick = layup::thicknesses(design);
  std::vector<ElementIndex> todo, seen;
  for (const auto& [node, why] : points) {
    const auto near = at_nodes.of(node);
    todo.assign(near.begin(), near.end());
    seen = todo;
    while (!todo.empty()) {
      const ElementIndex e = todo.back();
      todo.pop_back();
      const bool touches = std::find(near.begin(), near.end(), e) != near.end();
      if (!touches && (design.geometry.centres[e] - surface.points[node]).norm() > thick[e]) continue;
      if (doubt.empty()) doubt.assign(surface.element_count(), Doubt::none);
      if (doubt[e] == Doubt::none) doubt[e] = why;
      for (const mesh::NodeIndex n : surface.nodes_of(e).first(mesh::corner_count(surface.shapes[e])))
        for (const ElementIndex next : at_nodes.of(n))
          if (std::find(seen.begin(), seen.end(), next) == seen.end()) {
            seen.push_back(next);
            todo.push_back(next);
          }
    }
  }
}

}  // namespace bordado::result
