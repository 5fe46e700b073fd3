#include <bordado/deck/solid_carrier.hpp>

#include "solid_forces.hpp"

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace bordado::deck {

using mesh::NodeIndex;

SolidCarrier::SolidCarrier(const Model& model, double first_temperature)
    : model_(model),
      solids_(*model.solids),
      first_temperature_(first_temperature),
      next_node_(static_cast<std::int64_t>(solids_.points.size()) + 1) {}

namespace {

void put(std::vector<NodeValue>& out, std::uint32_t node, const Vec3& value) {
  for (int k = 0; k < 3; ++k)
    if (std::abs(value[k]) > 1e-14 * value.norm()) out.push_back({id_of(node), k + 1, value[k]});
}

}  // namespace

std::optional<SolidCarrier::HeldColumn> SolidCarrier::held_column(const Model::Support& support, std::size_t i) const {
  const NodeIndex n = support.nodes[i];
  if (solids_.column[n] == solids_.column[n + 1]) return std::nullopt;
  HeldColumn out;
  out.axes = support.axes.empty() ? Model::Axes{Vec3::UnitX(), Vec3::UnitY()} : support.axes[i];
  out.centre = place(n, solids_.bottom[n] + 0.5 * solids_.height[n]);
  // A freedom is held at all nodes of a column where the rotation that would move its ends that way is held, too, and
  // where it lies along the column. Else in the middle of the laminate only.
  const Vec3 direction[] = {out.axes[0], out.axes[1], out.axes[0].cross(out.axes[1])};
  const Vec3 up = solids_.upright[n].normalized();
  for (int k = 0; k < 3; ++k) {
    if ((support.held >> k & 1) == 0) continue;
    // What moves a face along this direction while the middle stands still.
    const Vec3 turning = up.cross(direction[k]);
    double turned = 0.0;
    for (int r = 0; r < 3; ++r)
      if (support.held >> (3 + r) & 1) turned += std::pow(turning.dot(direction[r]), 2);
    const bool along = std::abs(up.dot(direction[k])) > 0.7;
    (turned > 0.5 || along ? out.all : out.middle) |= static_cast<std::uint8_t>(1u << k);
  }
  return out;
}

std::vector<HeldNodes> SolidCarrier::held(const Model::Support& support) const {
  std::map<std::uint8_t, std::map<std::int64_t, Model::Axes>> sets;
  for (std::size_t i = 0; i < support.nodes.size(); ++i) {
    const auto own = held_column(support, i);
    if (!own) continue;
    for (const std::uint32_t node : column(support.nodes[i])) {
      const bool centre = own->centre.at_node() && node == own->centre.low;
      if (const auto bits = static_cast<std::uint8_t>(own->all | (centre ? own->middle : 0)); bits != 0)
        sets[bits].emplace(id_of(node), own->axes);
    }
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

std::vector<HeldSum> SolidCarrier::held_sums(const Model::Support& support) const {
  std::vector<HeldSum> out;
  for (std::size_t i = 0; i < support.nodes.size(); ++i) {
    const auto own = held_column(support, i);
    if (!own || own->centre.at_node()) continue;
    for (int k = 0; k < 3; ++k) {
      if ((own->middle >> k & 1) == 0) continue;
      out.push_back({own->centre.mean(k + 1, 0.0), {}});
      if (!support.axes.empty()) out.back().axes = own->axes;
    }
  }
  return out;
}

LoadCards SolidCarrier::cards(const Model::Load& load, bool turns) const {
  LoadCards out;
  if (const auto* const pressure = std::get_if<Model::Pressure>(&load.what)) {
    for (std::size_t i = 0; i < pressure->nodes.size(); ++i)
      put(out.forces, face(pressure->nodes[i], pressure->on_tool_face), pressure->forces[i]);
  } else if (const auto* const force = std::get_if<Model::Force>(&load.what)) {
    Model::Force pairs = *force;
    if (turns) pairs.moments.clear();
    const SolidForces spread(model_, pairs);
    for (std::size_t i = 0; i < force->nodes.size(); ++i) {
      const NodeIndex n = force->nodes[i];
      const Vec3 up = solids_.upright[n].normalized();
      const SolidForces::Spread own = spread(i);
      for (const auto& [node, value] : own.forces) put(out.forces, node, value);
      if (own.forces.empty())
        put_at_mesh(out.forces, n, force->forces[i]);
      else if (!own.across)
        put_at_mesh(out.forces, n, force->forces[i].dot(up) * up);
      if (own.forces.empty() && !pairs.moments.empty()) turn(out.forces, n, pairs.moments[i]);
      if (!turns || force->moments.empty()) continue;
      const Vec3 moment = force->moments[i] - force->moments[i].dot(up) * up;
      if (!(moment.norm() > 1e-14 * force->moments[i].norm())) continue;
      out.couples.push_back({{id_of(face(n, true)), id_of(face(n, false))}, moment});
    }
  } else if (const auto* const inertia = std::get_if<Model::Inertia>(&load.what)) {
    out.inertia = inertia;
  } else if (const auto* const displacement = std::get_if<Model::Displacement>(&load.what)) {
    for (const NodeIndex n : displacement->nodes) move(out, n, *displacement);
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

std::vector<std::int64_t> SolidCarrier::held_nodes(const Model::Case& load_case) const {
  std::vector<std::int64_t> nodes;
  const auto add = [&](const Sum& sum) {
    for (const NodeValue& term : sum.terms) nodes.push_back(term.node);
  };
  for (const std::size_t i : load_case.supports) {
    for (const HeldNodes& held : held(model_.supports[i]))
      nodes.insert(nodes.end(), held.nodes.begin(), held.nodes.end());
    for (const HeldSum& held : held_sums(model_.supports[i])) add(held.sum);
  }
  for_each_load<Model::Displacement>(model_, load_case, [&](const Model::Displacement& displacement, double) {
    LoadCards moved;
    for (const NodeIndex n : displacement.nodes) move(moved, n, displacement);
    for (const NodeValue& value : moved.moved) nodes.push_back(value.node);
    for (const Sum& sum : moved.moved_sums) add(sum);
  });
  std::sort(nodes.begin(), nodes.end());
  nodes.erase(std::unique(nodes.begin(), nodes.end()), nodes.end());
  return nodes;
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

SolidCarrier::Place SolidCarrier::place(NodeIndex n, double height) const {
  const auto nodes = column(n);
  const auto at = [&](std::uint32_t node) { return Place{node, node, 0.0}; };
  std::size_t above = 0;
  while (above < nodes.size() && height_of(n, nodes[above]) < height) ++above;
  if (above == 0) return at(nodes.front());
  if (above == nodes.size()) return at(nodes.back());
  const double low = height_of(n, nodes[above - 1]), high = height_of(n, nodes[above]);
  const double share = (height - low) / (high - low);
  if (share < 1e-9) return at(nodes[above - 1]);
  if (share > 1.0 - 1e-9) return at(nodes[above]);
  return {nodes[above - 1], nodes[above], share};
}

void SolidCarrier::put_at_mesh(std::vector<NodeValue>& out, NodeIndex n, const Vec3& force) const {
  const Place at = place(n, 0.0);
  put(out, at.low, (1.0 - at.share) * force);
  if (!at.at_node()) put(out, at.high, at.share * force);
}

void SolidCarrier::turn(std::vector<NodeValue>& out, NodeIndex n, const Vec3& moment) const {
  const std::uint32_t low = face(n, true), high = face(n, false);
  const Vec3 arm = solids_.points[high] - solids_.points[low];
  const Vec3 force = moment.cross(arm) / arm.squaredNorm();
  put(out, high, force);
  put(out, low, -force);
}

void SolidCarrier::move(LoadCards& out, NodeIndex n, const Model::Displacement& displacement) const {
  Vec3 turn = Vec3::Zero();
  for (int r = 0; r < 3; ++r) turn[r] = displacement.by[static_cast<std::size_t>(3 + r)].value_or(0.0);
  const Vec3 up = solids_.upright[n].normalized();
  const auto nodes = column(n);
  const Place mesh = place(n, 0.0);
  for (int k = 0; k < 3; ++k) {
    const auto& by = displacement.by[static_cast<std::size_t>(k)];
    // Whether the rotation that moves the ends of the column this way is given.
    const Vec3 turning = up.cross(Vec3::Unit(k));
    double given = 0.0;
    for (int r = 0; r < 3; ++r)
      if (displacement.by[static_cast<std::size_t>(3 + r)]) given += turning[r] * turning[r];
    const bool turned = given > 0.5, along = std::abs(up[k]) > 0.7;
    if (by && (turned || along)) {
      for (const std::uint32_t node : nodes)
        out.moved.push_back({id_of(node), k + 1, *by + turn.cross(solids_.points[node] - model_.surface.points[n])[k]});
    } else if (by && mesh.at_node()) {
      out.moved.push_back({id_of(mesh.low), k + 1, *by});
    } else if (by) {
      out.moved_sums.push_back(mesh.mean(k + 1, *by));
    } else if (turned) {
      // The column turns, and goes where it will.
      for (const std::uint32_t node : nodes)
        if (node != nodes.front())
          out.moved_sums.push_back({{{id_of(node), k + 1, 1.0}, {id_of(nodes.front()), k + 1, -1.0}},
                                    turn.cross(solids_.points[node] - solids_.points[nodes.front()])[k]});
    }
  }
}

}  // namespace bordado::deck
