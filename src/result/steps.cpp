#include "steps.hpp"

#include <Eigen/Cholesky>

#include <algorithm>
#include <cmath>

namespace bordado::result {

namespace {

using mesh::ElementIndex;

std::vector<double> thicknesses(const mesh::Surface& surface, const mesh::Geometry& geometry, const part::Part& part,
                                const layup::Layup& layup) {
  std::vector<double> out(surface.element_count());
  parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
    layup::LayersOn layers_on(part, geometry, layup);
    for (std::size_t e = begin; e < end; ++e)
      for (const layup::LaidLayer& layer : layers_on(static_cast<ElementIndex>(e))) out[e] += layer.thickness;
  });
  return out;
}

/// How far from a point the segment between two others is.
double distance(const Vec3& point, const Vec3& from, const Vec3& to) {
  const Vec3 along = to - from;
  const double length = along.squaredNorm();
  const double share = length > 0.0 ? std::clamp((point - from).dot(along) / length, 0.0, 1.0) : 0.0;
  return (point - from - share * along).norm();
}

}  // namespace

std::vector<std::uint8_t> beside_steps(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                       const part::Part& part, const layup::Layup& layup) {
  const std::vector<double> thick = thicknesses(surface, geometry, part, layup);
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

std::unordered_map<ElementIndex, Vec3> across_edges(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                                    const part::Part& part, const layup::Layup& layup) {
  std::unordered_map<ElementIndex, Vec3> out;
  std::vector<ElementIndex> crossed;
  layup::LayersOn layers_on(part, geometry, layup);
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    if (!layup.varies[layup.stack_of[e]]) continue;
    const auto laid = layers_on(e);
    if (layup::is_crossed(laid)) crossed.push_back(e);
  }
  if (crossed.empty()) return out;
  const std::vector<double> thick = thicknesses(surface, geometry, part, layup);
  const mesh::NodeTable at_nodes = mesh::elements_at_nodes(surface);
  for (const ElementIndex e : crossed) {
    // The gradient of thickness by least squares over the neighbours, in the element's plane.
    const Vec3& n = geometry.normals[e];
    Eigen::Matrix3d sum = n * n.transpose();
    Vec3 right = Vec3::Zero();
    double scale = 0.0;
    for (const mesh::NodeIndex node : surface.nodes_of(e).first(mesh::corner_count(surface.shapes[e])))
      for (const ElementIndex other : at_nodes.of(node)) {
        if (other == e) continue;
        Vec3 d = geometry.centres[other] - geometry.centres[e];
        d -= d.dot(n) * n;
        if (d.squaredNorm() == 0.0) continue;
        const double weight = 1.0 / d.squaredNorm();
        sum += weight * d * d.transpose();
        right += weight * (thick[other] - thick[e]) * d;
        scale = std::max(scale, std::abs(thick[other] - thick[e]) * std::sqrt(weight));
      }
    const Vec3 gradient = sum.ldlt().solve(right);
    if (const double steep = gradient.norm(); steep > 0.05 * scale) out.emplace(e, gradient / steep);
  }
  return out;
}

LayerSlopes layer_slopes(const mesh::Surface& surface, const mesh::Geometry& geometry, const part::Part& part,
                         const layup::Layup& layup, std::span<const Vec3> references) {
  constexpr double least = 0.002;
  LayerSlopes out;
  std::optional<mesh::NodeTable> at_nodes;
  layup::LayersOn layers_on(part, geometry, layup);
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    if (!layup.varies[layup.stack_of[e]]) continue;
    const auto laid = layers_on(e);
    if (layup::is_crossed(laid)) continue;
    if (!at_nodes) at_nodes = mesh::elements_at_nodes(surface);
    const Vec3& r = references[e];
    const Vec3 t = geometry.normals[e].cross(r);
    std::vector<ElementIndex> around;
    for (const mesh::NodeIndex node : surface.nodes_of(e).first(mesh::corner_count(surface.shapes[e])))
      for (const ElementIndex other : at_nodes->of(node))
        if (other != e && std::find(around.begin(), around.end(), other) == around.end()) around.push_back(other);
    std::vector<Eigen::Vector2d> slopes(laid.size(), Eigen::Vector2d::Zero());
    bool any = false;
    for (std::size_t k = 0; k < laid.size(); ++k) {
      Eigen::Matrix2d squares = Eigen::Matrix2d::Zero();
      Eigen::Vector2d products = Eigen::Vector2d::Zero();
      for (const ElementIndex other : around) {
        const double there = layup::thickness(layup, laid[k].ply, other);
        if (!(there > 0.0)) continue;
        const Vec3 to = geometry.centres[other] - geometry.centres[e];
        const Eigen::Vector2d d(to.dot(r), to.dot(t));
        if (d.squaredNorm() == 0.0) continue;
        squares += d * d.transpose() / d.squaredNorm();
        products += (there - laid[k].thickness) * d / d.squaredNorm();
      }
      if (!(squares.determinant() > 1e-6 * squares.trace() * squares.trace())) continue;
      slopes[k] = squares.ldlt().solve(products);
      any = any || slopes[k].norm() > least;
    }
    if (any) out.emplace(e, std::move(slopes));
  }
  return out;
}

}  // namespace bordado::result
