#include <bordado/layup/slopes.hpp>

#include <algorithm>
#include <cmath>
#include <optional>

namespace bordado::layup {

using mesh::ElementIndex;

Rise steepest_rise(const Laid& laid, const mesh::EdgeTable& edges, PlyId ply) {
  const mesh::Geometry& geometry = laid.geometry;
  const Layup& layup = laid.layup;
  Rise out;
  for (std::size_t j = 0; j < edges.size(); ++j) {
    if (edges.first[j + 1] - edges.first[j] != 2) continue;
    const mesh::ElementIndex e = edges.uses[edges.first[j]].element, f = edges.uses[edges.first[j] + 1].element;
    if (!layup.lies_on(ply, e) || !layup.lies_on(ply, f)) continue;
    const double run = (geometry.centres[e] - geometry.centres[f]).norm();
    const double rise = std::abs(thickness(layup, ply, e) - thickness(layup, ply, f));
    if (run > 0.0 && rise / run > out.slope) out = {rise / run, e};
  }
  return out;
}

std::unordered_map<ElementIndex, Vec3> across_edges(const Laid& laid) {
  const mesh::Surface& surface = laid.surface;
  const mesh::Geometry& geometry = laid.geometry;
  const Layup& layup = laid.layup;
  std::unordered_map<ElementIndex, Vec3> out;
  std::vector<ElementIndex> crossed;
  LayersOn layers_on(laid);
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    if (!layup.varies[layup.stack_of[e]]) continue;
    if (is_crossed(layers_on(e))) crossed.push_back(e);
  }
  if (crossed.empty()) return out;
  const std::vector<double> thick = thicknesses(laid);
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

LayerSlopes layer_slopes(const Laid& laid, std::span<const Vec3> references) {
  const mesh::Surface& surface = laid.surface;
  const mesh::Geometry& geometry = laid.geometry;
  const Layup& layup = laid.layup;
  constexpr double least = 0.002;
  LayerSlopes out;
  std::optional<mesh::NodeTable> at_nodes;
  LayersOn layers_on(laid);
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    if (!layup.varies[layup.stack_of[e]]) continue;
    const auto layers = layers_on(e);
    if (is_crossed(layers)) continue;
    if (!at_nodes) at_nodes = mesh::elements_at_nodes(surface);
    const Vec3& r = references[e];
    const Vec3 t = geometry.normals[e].cross(r);
    std::vector<ElementIndex> around;
    for (const mesh::NodeIndex node : surface.nodes_of(e).first(mesh::corner_count(surface.shapes[e])))
      for (const ElementIndex other : at_nodes->of(node))
        if (other != e && std::find(around.begin(), around.end(), other) == around.end()) around.push_back(other);
    std::vector<Eigen::Vector2d> slopes(layers.size(), Eigen::Vector2d::Zero());
    bool any = false;
    for (std::size_t k = 0; k < layers.size(); ++k) {
      Eigen::Matrix2d squares = Eigen::Matrix2d::Zero();
      Eigen::Vector2d products = Eigen::Vector2d::Zero();
      for (const ElementIndex other : around) {
        const double there = thickness(layup, layers[k].ply, other);
        if (!(there > 0.0)) continue;
        const Vec3 to = geometry.centres[other] - geometry.centres[e];
        const Eigen::Vector2d d(to.dot(r), to.dot(t));
        if (d.squaredNorm() == 0.0) continue;
        squares += d * d.transpose() / d.squaredNorm();
        products += (there - layers[k].thickness) * d / d.squaredNorm();
      }
      if (!(squares.determinant() > 1e-6 * squares.trace() * squares.trace())) continue;
      slopes[k] = squares.ldlt().solve(products);
      any = any || slopes[k].norm() > least;
    }
    if (any) out.emplace(e, std::move(slopes));
  }
  return out;
}

}  // namespace bordado::layup
