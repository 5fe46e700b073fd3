#include "solid_forces.hpp"

#include <bordado/design.hpp>
#include <bordado/solids.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>

namespace bordado::deck {

using mesh::ElementIndex;
using mesh::NodeIndex;

SolidForces::SolidForces(const Model& model, const Model::Force& force) : model_(model), force_(force) {
  const mesh::Surface& surface = model.surface;
  const model::Solids& solids = *model.solids;
  loaded_.assign(surface.points.size(), 0);
  for (const NodeIndex n : force.nodes) loaded_[n] = 1;
  const auto lists = [](std::size_t owners, std::vector<std::uint32_t>& first, std::vector<std::uint32_t>& all,
                        auto for_each) {
    first.assign(owners + 1, 0);
    for_each([&](std::uint32_t owner, std::uint32_t) { ++first[owner + 1]; });
    for (std::size_t i = 0; i < owners; ++i) first[i + 1] += first[i];
    all.resize(first.back());
    std::vector<std::uint32_t> next(first.begin(), first.end() - 1);
    for_each([&](std::uint32_t owner, std::uint32_t owned) { all[next[owner]++] = owned; });
  };
  lists(loaded_.size(), first_element_, elements_, [&](auto put) {
    for (ElementIndex e = 0; e < surface.element_count(); ++e)
      for (const NodeIndex n : surface.nodes_of(e))
        if (loaded_[n]) put(n, e);
  });
  lists(surface.element_count(), first_solid_, solids_of_, [&](auto put) {
    for (std::uint32_t s = 0; s < solids.count(); ++s) put(solids.element[s], s);
  });
}

std::vector<SolidForces::Bearer> SolidForces::bearers(NodeIndex node) const {
  const mesh::Surface& surface = model_.surface;
  const std::span<const std::uint32_t> here(elements_.data() + first_element_[node],
                                            elements_.data() + first_element_[node + 1]);
  std::vector<Bearer> out;
  for (const ElementIndex e : here) {
    const auto nodes = surface.nodes_of(e);
    const std::size_t corners = surface.corners_of(e).size();
    for (std::size_t i = 0; i < corners; ++i) {
      const NodeIndex side[] = {nodes[i], nodes[(i + 1) % corners], nodes[corners + i]};
      if (std::find(std::begin(side), std::end(side), node) == std::end(side)) continue;
      if (!std::all_of(std::begin(side), std::end(side), [&](NodeIndex n) { return loaded_[n] != 0; })) continue;
      // The node in the middle of a border belongs to one element.
      if (first_element_[side[2] + 1] - first_element_[side[2]] != 1) continue;
      const Vec3 along = surface.points[side[1]] - surface.points[side[0]];
      out.push_back({e, along.cross(model_.design->geometry.normals[e]).normalized()});
    }
  }
  if (out.empty())
    for (const ElementIndex e : here) out.push_back({e, std::nullopt});
  return out;
}

SolidForces::Spread SolidForces::operator()(std::size_t i) const {
  const NodeIndex node = force_.nodes[i];
  const Vec3 force = force_.forces[i], moment = force_.moments.empty() ? Vec3(Vec3::Zero()) : force_.moments[i];
  const Vec3 up = model_.solids->upright[node].normalized();
  const Vec3 along = force - force.dot(up) * up, bending = moment.cross(up);
  Spread out;
  const std::vector<Bearer> all = bearers(node);
  const double share = 1.0 / static_cast<double>(std::max<std::size_t>(all.size(), 1));
  for (const Bearer& bearer : all) {
    if (first_solid_[bearer.element] == first_solid_[bearer.element + 1]) return {};
    Vec3 outward;
    if (bearer.outward)
      outward = *bearer.outward;
    else if (along.norm() > 1e-9 * force.norm())
      outward = along;
    else if (bending.norm() > 1e-9 * moment.norm())
      outward = bending;
    else
      return {};
    outward = (outward - outward.dot(up) * up).normalized();
    out.across = bearer.outward.has_value();
    add(out, node, bearer.element, outward, out.across, share * force, share * moment);
  }
  return out;
}

void SolidForces::add(Spread& out, NodeIndex node, ElementIndex element, const Vec3& outward, bool across,
                      const Vec3& force, const Vec3& moment) const {
  const model::Solids& solids = *model_.solids;
  const Vec3 up = solids.upright[node].normalized(), beside = up.cross(outward);
  const auto height = [&](std::uint32_t n) { return (solids.points[n] - model_.surface.points[node]).dot(up); };
  // The layers of the element here, in axes along and beside the way out.
  struct OfLayer {
    std::vector<std::uint32_t> nodes;  ///< bottom to top
  };
  std::vector<laminate::Layer> layers;
  std::vector<OfLayer> at;
  const std::vector<std::uint32_t> column = solids.column_of(node);
  for (std::uint32_t k = first_solid_[element]; k < first_solid_[element + 1]; ++k) {
    const std::uint32_t s = solids_of_[k];
    OfLayer own;
    const auto nodes = solids.nodes_of(s);
    for (const std::uint32_t n : column)
      if (std::find(nodes.begin(), nodes.end(), n) != nodes.end()) own.nodes.push_back(n);
    if (own.nodes.size() < 2) continue;  // it ends in a wedge
    const Vec3 first = frame::turned(model_.design->sections.references[element],
                                     model_.design->geometry.normals[element], solids.turn[s]);
    layers.push_back(laminate::layer_of(solids.materials[solids.material[s]],
                                        height(own.nodes.back()) - height(own.nodes.front()),
                                        frame::between(outward, first, up)));
    at.push_back(std::move(own));
  }
  if (layers.empty()) return;
  laminate::Load load;
  load.N = laminate::Vector3(force.dot(outward), 0.0, force.dot(beside));
  const Vec3 turning = moment.cross(up);
  load.M = laminate::Vector3(turning.dot(outward), 0.0, turning.dot(beside));
  const double z0 = height(at.front().nodes.front());
  const laminate::Deformation strained = laminate::deformation(layers, z0, load);
  laminate::Load shear;
  if (across) shear.Q = laminate::Vector2(force.dot(up), 0.0);
  const auto states = laminate::layer_states(layers, z0, laminate::Deformation{}, shear);
  double z = z0;
  for (std::size_t k = 0; k < layers.size(); ++k) {
    const laminate::Layer& layer = layers[k];
    const double h = layer.thickness;
    const laminate::Matrix3 Q = laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle);
    const laminate::Vector3 middle = Q * (strained.strain + (z + 0.5 * h) * strained.curvature),
                            to_face = 0.5 * h * Q * strained.curvature;
    z += h;
    // Simpson's rule is exact: the flow is a parabola within a layer.
    double flow = 0.0;
    for (std::size_t p = 0; p < 3; ++p) {
      const laminate::Vector2& ply = states[3 * k + p].ply_shear;
      flow += (p == 1 ? 4.0 : 1.0) / 6.0 * (layer.angle.cos() * ply[0] - layer.angle.sin() * ply[1]);
    }
    const Vec3 even = h * (middle[0] * outward + middle[2] * beside + flow * up);
    const Vec3 uneven = h / 6.0 * (to_face[0] * outward + to_face[2] * beside);
    const std::vector<std::uint32_t>& nodes = at[k].nodes;
    const bool corner = nodes.size() > 2;
    const auto put = [&](std::uint32_t n, const Vec3& value) {
      out.forces.try_emplace(n, Vec3::Zero()).first->second += value;
    };
    put(nodes.front(), (corner ? -0.5 : 0.5) * even - uneven);
    put(nodes.back(), (corner ? -0.5 : 0.5) * even + uneven);
    if (corner) put(nodes[nodes.size() / 2], 2.0 * even);
  }
}

}  // namespace bordado::deck
