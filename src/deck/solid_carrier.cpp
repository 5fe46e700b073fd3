#include "solid_carrier.hpp"

#include "solid_shapes.hpp"

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

namespace bordado::deck {

using mesh::NodeIndex;

SolidCarrier::SolidCarrier(const Model& model, std::string requests, double first_temperature)
    : model_(model),
      solids_(*model.solids),
      requests_(std::move(requests)),
      first_temperature_(first_temperature),
      next_node_(static_cast<std::int64_t>(solids_.points.size()) + 1) {}

namespace {

void put(std::vector<NodeValue>& out, std::uint32_t node, const Vec3& value) {
  for (int k = 0; k < 3; ++k)
    if (std::abs(value[k]) > 1e-14 * value.norm()) out.push_back({id_of(node), k + 1, value[k]});
}

}  // namespace

std::vector<HeldNodes> SolidCarrier::held(const Model::Support& support) const {
  // A freedom is held at all nodes of a column where the rotation that would move its ends that way is held, too, and
  // where it lies along the column. Else in the middle of the laminate only.
  std::map<std::uint8_t, std::map<std::int64_t, Model::Axes>> sets;
  for (std::size_t i = 0; i < support.nodes.size(); ++i) {
    const NodeIndex n = support.nodes[i];
    if (support.nodes.empty() || solids_.column[n] == solids_.column[n + 1]) continue;
    const Model::Axes axes = support.axes.empty() ? Model::Axes{Vec3::UnitX(), Vec3::UnitY()} : support.axes[i];
    const Vec3 direction[] = {axes[0], axes[1], axes[0].cross(axes[1])};
    const Vec3 up = solids_.upright[n].normalized();
    std::uint8_t all = 0, middle = 0;
    for (int k = 0; k < 3; ++k) {
      if ((support.held >> k & 1) == 0) continue;
      // What moves a face along this direction while the middle stands still.
      const Vec3 turning = up.cross(direction[k]);
      double turned = 0.0;
      for (int r = 0; r < 3; ++r)
        if (support.held >> (3 + r) & 1) turned += std::pow(turning.dot(direction[r]), 2);
      const bool along = std::abs(up.dot(direction[k])) > 0.7;
      const auto bit = static_cast<std::uint8_t>(1u << k);
      (turned > 0.5 || along ? all : middle) |= bit;
    }
    const auto nodes = column(n);
    const std::uint32_t centre = nearest(n, solids_.bottom[n] + 0.5 * solids_.height[n]);
    for (const std::uint32_t node : nodes)
      if (const auto bits = static_cast<std::uint8_t>(all | (node == centre ? middle : 0)); bits != 0)
        sets[bits].emplace(id_of(node), axes);
  }
  std::vector<HeldNodes> out;
  for (const auto& [bits, nodes] : sets) {
    HeldNodes one;
    one.held = bits;
    for (const auto& [id, axes] : nodes) {
      one.nodes.push_back(id);
      if (!support.axes.empty()) one.axes.push_back(axes);
    }
    out.push_back(std::move(one));
  }
  return out;
}

LoadCards SolidCarrier::cards(const Model::Load& load) const {
  LoadCards out;
  if (const auto* const pressure = std::get_if<Model::Pressure>(&load.what)) {
    for (std::size_t i = 0; i < pressure->nodes.size(); ++i)
      put(out.forces, face(pressure->nodes[i], pressure->on_tool_face), pressure->forces[i]);
  } else if (const auto* const force = std::get_if<Model::Force>(&load.what)) {
    for (std::size_t i = 0; i < force->nodes.size(); ++i) {
      const NodeIndex n = force->nodes[i];
      put_at_mesh(out.forces, n, force->forces[i]);
      if (!force->moments.empty()) turn(out.forces, n, force->moments[i]);
    }
  } else if (const auto* const inertia = std::get_if<Model::Inertia>(&load.what)) {
    add_inertia(*inertia, out);
  } else if (const auto* const displacement = std::get_if<Model::Displacement>(&load.what)) {
    for (const NodeIndex n : displacement->nodes) move(out.moved, n, *displacement);
  } else if (const auto* const heat = std::get_if<Model::Temperature>(&load.what)) {
    for (std::size_t i = 0; i < heat->nodes.size(); ++i) {
      const NodeIndex n = heat->nodes[i];
      for (const std::uint32_t node : column(n)) {
        const double share = (height_of(n, node) - solids_.bottom[n]) / solids_.height[n];
        out.temperatures.emplace_back(id_of(node), heat->tool[i] + share * (heat->bag[i] - heat->tool[i]));
      }
    }
  }
  return out;
}

std::vector<std::pair<std::string, std::vector<std::int64_t>>> SolidCarrier::sums(const Model::Case& one) const {
  // All nodes: what the elements put on those that are held is what the supports put on the part.
  std::vector<std::int64_t> nodes;
  for (const std::size_t i : one.supports)
    for (const HeldNodes& held : held(model_.supports[i]))
      nodes.insert(nodes.end(), held.nodes.begin(), held.nodes.end());
  for_each_load<Model::Displacement>(model_, one, [&](const Model::Displacement& displacement, double) {
    std::vector<NodeValue> moved;
    for (const NodeIndex n : displacement.nodes) move(moved, n, displacement);
    for (const NodeValue& value : moved) nodes.push_back(value.node);
  });
  std::sort(nodes.begin(), nodes.end());
  nodes.erase(std::unique(nodes.begin(), nodes.end()), nodes.end());
  if (nodes.empty()) return {};
  return {{"HELD", std::move(nodes)}};
}

bool SolidCarrier::node_by_node(const Model::Case& one, const std::string&) const {
  return can_tell_reactions(model_, one);
}

std::vector<std::int64_t> SolidCarrier::linked(const Model::Link& link) const {
  std::vector<std::int64_t> out;
  for (const NodeIndex n : link.nodes)
    for (const std::uint32_t node : column(n)) out.push_back(id_of(node));
  std::sort(out.begin(), out.end());
  return out;
}

double SolidCarrier::height_of(NodeIndex n, std::uint32_t node) const {
  return (solids_.points[node] - model_.surface.points[n]).dot(solids_.upright[n]) / solids_.upright[n].squaredNorm();
}

std::uint32_t SolidCarrier::nearest(NodeIndex n, double height) const {
  std::uint32_t out = solids_.levels[solids_.column[n]];
  double best = std::numeric_limits<double>::infinity();
  for (const std::uint32_t node : column(n)) {
    const double off = std::abs(height_of(n, node) - height);
    if (off < best - 1e-12 * solids_.height[n]) best = off, out = node;
  }
  return out;
}

void SolidCarrier::put_at_mesh(std::vector<NodeValue>& out, NodeIndex n, const Vec3& force) const {
  const auto nodes = column(n);
  std::size_t above = 0;
  while (above < nodes.size() && height_of(n, nodes[above]) < 0.0) ++above;
  if (above == 0 || above == nodes.size()) return put(out, nearest(n, 0.0), force);
  const double low = height_of(n, nodes[above - 1]), high = height_of(n, nodes[above]);
  const double share = -low / (high - low);
  if (share < 1e-9 || share > 1.0 - 1e-9) return put(out, nearest(n, 0.0), force);
  put(out, nodes[above - 1], (1.0 - share) * force);
  put(out, nodes[above], share * force);
}

void SolidCarrier::turn(std::vector<NodeValue>& out, NodeIndex n, const Vec3& moment) const {
  const std::uint32_t low = face(n, true), high = face(n, false);
  const Vec3 arm = solids_.points[high] - solids_.points[low];
  const Vec3 force = moment.cross(arm) / arm.squaredNorm();
  put(out, high, force);
  put(out, low, -force);
}

void SolidCarrier::move(std::vector<NodeValue>& out, NodeIndex n, const Model::Displacement& displacement) const {
  Vec3 turn = Vec3::Zero();
  bool turned = false;
  for (int k = 0; k < 3; ++k)
    if (const auto& by = displacement.by[static_cast<std::size_t>(3 + k)]) turn[k] = *by, turned = true;
  const Vec3 up = solids_.upright[n].normalized();
  for (int k = 0; k < 3; ++k) {
    const auto& by = displacement.by[static_cast<std::size_t>(k)];
    if (!by) continue;
    const bool all = turned || std::abs(up[k]) > 0.7;
    const std::uint32_t centre = nearest(n, 0.0);
    for (const std::uint32_t node : column(n))
      if (all || node == centre)
        out.push_back({id_of(node), k + 1, *by + turn.cross(solids_.points[node] - model_.surface.points[n])[k]});
  }
}

void SolidCarrier::write_beds(const Model::Case& one, OutputFile& file, std::vector<Stands>& names) {
  BedMesh mesh{next_node_, static_cast<std::int64_t>(solids_.count()) + 1, [&](NodeIndex n) { return id_of(foot(n)); },
               [&](NodeIndex n) { return solids_.points[foot(n)]; }};
  for (const std::size_t b : one.beds) grounds_.push_back(write_bed(model_, b, mesh, file, names));
  next_node_ = mesh.next_node;
}

std::vector<std::pair<std::int64_t, Vec3>> loads_on_held(const Model& model, const Model::Case& one) {
  const SolidCarrier carrier(model, {}, 0.0);
  const Solids& solids = *model.solids;
  std::map<std::int64_t, Vec3> sums;
  for (const auto& [name, nodes] : carrier.sums(one))
    for (const std::int64_t node : nodes) sums.emplace(node, Vec3::Zero());
  for (std::size_t i = 0; i < model.loads.size(); ++i) {
    if (!one.acts(i)) continue;
    for (const NodeValue& value : carrier.cards(model.loads[i]).forces)
      if (const auto held = sums.find(value.node); held != sums.end())
        held->second[value.freedom - 1] += one.factors[i] * value.value;
    const auto* const inertia = std::get_if<Model::Inertia>(&model.loads[i].what);
    if (!inertia) continue;
    // What the solver spreads over a solid's nodes by its shape functions.
    for (std::size_t s = 0; s < solids.count(); ++s) {
      const auto nodes = solids.nodes_of(s);
      if (std::none_of(nodes.begin(), nodes.end(), [&](std::uint32_t n) { return sums.count(id_of(n)) > 0; })) continue;
      const double density = solids.materials[solids.material[s]].density.value_or(0.0);
      add_body_forces(
          solids.points, nodes,
          [&](const Vec3& point) -> Vec3 {
            Vec3 out = inertia->gravity;
            if (const auto& r = inertia->rotation) {
              const Vec3 arm = point - r->through;
              out += r->speed * r->speed * (arm - arm.dot(r->along) * r->along);
            }
            return one.factors[i] * density * out;
          },
          [&](std::uint32_t node, const Vec3& force) {
            if (const auto held = sums.find(id_of(node)); held != sums.end()) held->second += force;
          });
    }
  }
  return {sums.begin(), sums.end()};
}

}  // namespace bordado::deck
