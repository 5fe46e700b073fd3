// Where stresses of plies do not hold.
#include "doubts.hpp"

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

/// Per element: whether its centre lies nearer to a step of thickness between two elements than stresses hold to 5 %.
/// Measured with solids, one a ply: on the thick side one thickness where few of many plies end (a step below 6 %), two
/// up to a fifth, three for a block; on the thin side one. Empty where there is no step of 2 %.
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

/// Marks elements at forces on single nodes and at single nodes that are held, of all cases, where they are not marked yet.
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

double thickness_of(std::span<const layup::LaidLayer> laid) {
  double out = 0.0;
  for (const layup::LaidLayer& layer : laid) out += layer.thickness;
  return out;
}

}  // namespace

std::vector<Doubt> doubts(const model::Model& model, const layup::LayerSlopes& slopes) {
  const Design& design = *model.design;
  const std::vector<std::uint8_t> beside = beside_steps(design);
  std::vector<Doubt> out(beside.size(), Doubt::none);
  layup::LayersOn layers_on(design);
  for (ElementIndex e = 0; e < beside.size(); ++e) {
    if (!beside[e]) continue;
    // Of solids only where the element is longer than half the thickness.
    const bool tells = model.solids && std::sqrt(design.geometry.areas[e]) <= 0.5 * thickness_of(layers_on(e));
    if (!tells) out[e] = Doubt::step;
  }
  // Where little is left of a layer that runs out steeply, what lies on both sides of it bends by itself: solids have two
  // thirds of the shear there, and less.
  if (!model.solids)
    for (const auto& [e, of_layers] : slopes) {
      const auto laid = layers_on(e);
      const double h = thickness_of(laid);
      for (std::size_t k = 0; k < laid.size(); ++k)
        if (of_layers[k].norm() > 0.05 && 2.0 * laid[k].thickness < h) {
          out.resize(design.surface.element_count(), Doubt::none);
          out[e] = Doubt::step;
        }
    }
  mark_points(model, mesh::elements_at_nodes(model.surface), out);
  return out;
}

std::string_view words(Doubt doubt) {
  constexpr std::string_view all[] = {"", "beside a step", "at a point force", "at a point that is held"};
  return all[static_cast<std::size_t>(doubt)];
}

}  // namespace bordado::result
