#include "shell_carrier.hpp"
#include "set_names.hpp"

#include <fmt/format.h>
#include <Eigen/Geometry>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::calculix {

using mesh::ElementIndex;
using mesh::NodeIndex;

ShellCarrier::ShellCarrier(const Model& model, std::span<const std::size_t> cases, const NodeSurvey& survey,
                           std::string of_elements, bool heat_by_number, double first_temperature)
    : model_(model),
      survey_(survey),
      of_elements_(std::move(of_elements)),
      heat_by_number_(heat_by_number),
      first_temperature_(first_temperature) {
  next_node_ = 1 + *std::max_element(model.surface.node_ids.begin(), model.surface.node_ids.end());
  next_element_ = 1 + *std::max_element(model.surface.element_ids.begin(), model.surface.element_ids.end()) +
                  static_cast<std::int64_t>(survey.overlay().size());
  if (cases.empty()) return;
  beds_ = model.cases[cases.front()].beds;
}

std::vector<std::int64_t> ShellCarrier::ids(const std::vector<NodeIndex>& nodes) const {
  std::vector<std::int64_t> out;
  out.reserve(nodes.size());
  for (const NodeIndex n : nodes) out.push_back(model_.surface.node_ids[n]);
  return out;
}

std::vector<deck::HeldNodes> ShellCarrier::held(const Model::Support& support) const {
  return {{ids(support.nodes), support.held, support.axes}};
}

std::vector<std::int64_t> ShellCarrier::linked(const Model::Link& link) const { return ids(link.nodes); }

std::vector<std::pair<std::string, std::vector<std::int64_t>>> ShellCarrier::sums(const Model::Case& load_case) const {
  std::vector<std::pair<std::string, std::vector<std::int64_t>>> out;
  for (const ForceSet& set : force_sets(model_, load_case))
    if (set.trusted) out.emplace_back(set.name, ids(set.nodes));
  return out;
}

bool ShellCarrier::node_by_node(const Model::Case& load_case, const std::string& set) const {
  return is_held_nodes(set) && can_tell_reactions(model_, load_case);
}

namespace {

/// A moment in the plane across n as values of two rotational freedoms. The solver projects each rotation axis on
/// that plane, so a third would depend on the two and stop it [10]; the axis nearest to n is left out.
std::array<std::pair<int, double>, 2> in_two_rotations(const Vec3& moment, const Vec3& n) {
  Eigen::Index nearest = 0;
  n.cwiseAbs().maxCoeff(&nearest);
  const int i = (static_cast<int>(nearest) + 1) % 3, j = (static_cast<int>(nearest) + 2) % 3;
  // A unit load on the rotation about axis e acts as the moment p / |p|^2, p = e - (e.n) n (measured with ccx 2.20).
  const auto acting = [&](int axis) -> Vec3 { return (Vec3::Unit(axis) - n[axis] * n) / (1.0 - n[axis] * n[axis]); };
  const Vec3 u = acting(i), v = acting(j);
  Eigen::Matrix<double, 3, 2> axes;
  axes << u, v;
  const Eigen::Vector2d values = (axes.transpose() * axes).inverse() * (axes.transpose() * moment);
  return {{{i + 4, values[0]}, {j + 4, values[1]}}};
}

}  // namespace

void ShellCarrier::put(std::vector<deck::NodeValue>& out, NodeIndex node, const Vec3& value, int first_freedom) const {
  for (int k = 0; k < 3; ++k)
    if (std::abs(value[k]) > 1e-14 * value.norm())  // not rounding
      out.push_back({model_.surface.node_ids[node], first_freedom + k, value[k]});
}

// Nodes of shells have rotations of their own: a moment there turns with them.
deck::LoadCards ShellCarrier::cards(const Model::Load& load, bool) const {
  deck::LoadCards out;
  if (const auto* const pressure = std::get_if<Model::Pressure>(&load.what)) {
    // The solver's own pressure acts at the face of the first ply whichever face is named [17], so the pressure stands
    // as the forces that it puts on the nodes.
    out.forces.reserve(3 * pressure->nodes.size());
    for (std::size_t i = 0; i < pressure->nodes.size(); ++i)
      put(out.forces, pressure->nodes[i], pressure->forces[i], 1);
  } else if (const auto* const force = std::get_if<Model::Force>(&load.what)) {
    // Forces act on the laminate's middle surface, not at the node [9]: the moment that carries them to the mesh is
    // added. At knots the solver takes them at the node.
    for (std::size_t i = 0; i < force->nodes.size(); ++i) put(out.forces, force->nodes[i], force->forces[i], 1);
    out.remark =
        force->moments.empty()
            ? "moments that carry these forces from the middle surface, where the solver applies them, to the mesh"
            : "moments, with those that carry the forces from the middle surface to the mesh";
    for (std::size_t i = 0; i < force->nodes.size(); ++i) {
      const NodeIndex n = force->nodes[i];
      const Vec3 own = force->moments.empty() ? Vec3::Zero() : force->moments[i];
      const Vec3 middle = survey_.to_middle(n);
      const Vec3 moment = survey_.is_knot(n) ? own : Vec3(own - middle.cross(force->forces[i]));
      if (moment.norm() <= 1e-9 * force->forces[i].norm() * middle.norm()) continue;
      for (const auto& [freedom, value] : in_two_rotations(moment, survey_.normal(n)))
        if (std::abs(value) > 1e-9 * moment.norm()) out.more.push_back({model_.surface.node_ids[n], freedom, value});
    }
  } else if (const auto* const inertia = std::get_if<Model::Inertia>(&load.what)) {
    out.inertia = inertia;
  } else if (const auto* const displacement = std::get_if<Model::Displacement>(&load.what)) {
    for (const NodeIndex n : displacement->nodes)
      for (int f = 0; f < 6; ++f)
        if (const auto& by = displacement->by[static_cast<std::size_t>(f)])
          out.moved.push_back({model_.surface.node_ids[n], f + 1, *by});
  } else if (const auto* const heat = std::get_if<Model::Temperature>(&load.what)) {
    for (std::size_t i = 0; i < heat->nodes.size(); ++i)
      out.temperatures.emplace_back(model_.surface.node_ids[heat->nodes[i]], heat->tool[i]);
  }
  return out;
}

void ShellCarrier::write_beds(OutputFile& file, std::vector<deck::Stands>& names) {
  BedMesh mesh{next_node_, next_element_, [&](NodeIndex n) { return model_.surface.node_ids[n]; },
               [&](NodeIndex n) { return model_.surface.points[n]; }};
  for (const std::size_t b : beds_) grounds_.push_back(write_bed(model_, b, mesh, file, names));
  next_node_ = mesh.next_node;
  next_element_ = mesh.next_element;
}

}  // namespace bordado::calculix
