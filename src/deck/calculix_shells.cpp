#include "calculix_shells.hpp"

#include <fmt/format.h>
#include <Eigen/Geometry>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::deck {

using mesh::ElementIndex;
using mesh::NodeIndex;

ShellCarrier::ShellCarrier(const Model& model, std::span<const std::size_t> cases, const NodeSurvey& survey,
                           std::string requests, bool heat_by_number, double first_temperature)
    : model_(model),
      survey_(survey),
      requests_(std::move(requests)),
      heat_by_number_(heat_by_number),
      first_temperature_(first_temperature) {
  next_node_ = 1 + *std::max_element(model.surface.node_ids.begin(), model.surface.node_ids.end());
  next_element_ = 1 + *std::max_element(model.surface.element_ids.begin(), model.surface.element_ids.end());
  if (cases.empty()) return;
  beds_ = model.cases[cases.front()].beds;
}

std::vector<std::int64_t> ShellCarrier::ids(const std::vector<NodeIndex>& nodes) const {
  std::vector<std::int64_t> out;
  out.reserve(nodes.size());
  for (const NodeIndex n : nodes) out.push_back(model_.surface.node_ids[n]);
  return out;
}

std::vector<HeldNodes> ShellCarrier::held(const Model::Support& support) const {
  return {{ids(support.nodes), support.held, support.axes}};
}

std::vector<std::int64_t> ShellCarrier::linked(const Model::Link& link) const { return ids(link.nodes); }

std::vector<std::pair<std::string, std::vector<std::int64_t>>> ShellCarrier::sums(const Model::Case& one) const {
  std::vector<std::pair<std::string, std::vector<std::int64_t>>> out;
  for (const ForceSet& set : force_sets(model_, one))
    if (set.trusted) out.emplace_back(set.name, ids(set.nodes));
  return out;
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

void ShellCarrier::put(std::vector<NodeValue>& out, NodeIndex node, const Vec3& value, int first_freedom) const {
  for (int k = 0; k < 3; ++k)
    if (std::abs(value[k]) > 1e-14 * value.norm())  // not rounding
      out.push_back({model_.surface.node_ids[node], first_freedom + k, value[k]});
}

LoadCards ShellCarrier::cards(const Model::Load& load) const {
  LoadCards out;
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
    add_inertia(*inertia, out);
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

void ShellCarrier::write_beds(OutputFile& file, std::vector<Stands>& names) {
  for (const std::size_t b : beds_) write_bed(model_.beds[b], b + 1, file, names);
}

void ShellCarrier::write_bed(const Model::Bed& bed, std::size_t number, OutputFile& file, std::vector<Stands>& names) {
  // This solver has no springs beside layered shells; solids that are stiff along the normal only are exact.
  const mesh::Surface& surface = model_.surface;
  double shortest = std::numeric_limits<double>::infinity();
  for (const ElementIndex e : bed.elements) {
    const auto corners = surface.corners_of(e);
    for (std::size_t i = 0; i < corners.size(); ++i)
      shortest =
          std::min(shortest, (surface.points[corners[(i + 1) % corners.size()]] - surface.points[corners[i]]).norm());
  }
  const double depth = 0.05 * shortest;
  const std::string ground = fmt::format("BED{}_GROUND", number), solids = fmt::format("BED{}", number);
  file.write(calculix_comment(
      fmt::format("bed {}: {} {} along the normal, as solids of depth {} whose far face is held", plain_text(bed.name),
                  calculix_real(bed.stiffness), model_.part->units.unit(Dimension::bed), calculix_real(depth))));
  std::map<NodeIndex, std::int64_t> far, middle;
  std::map<NodeIndex, Vec3> normal;
  for (std::size_t i = 0; i < bed.nodes.size(); ++i) normal[bed.nodes[i]] = bed.normals[i];
  std::string text = fmt::format("*NODE, NSET={}\n", ground);
  const auto node = [&](std::int64_t id, const Vec3& p) {
    append_integer(text, id);
    for (const double x : p) {
      text += ',';
      append_real(text, x);
    }
    text += '\n';
  };
  for (const NodeIndex n : bed.nodes) {
    far[n] = next_node_++;
    node(far[n], surface.points[n] - depth * normal[n]);
  }
  text += "*NODE\n";
  for (const ElementIndex e : bed.elements)
    for (const NodeIndex n : surface.corners_of(e))
      if (const auto [at, is_new] = middle.try_emplace(n, next_node_); is_new) {
        ++next_node_;
        node(at->second, surface.points[n] - 0.5 * depth * normal[n]);
      }
  for (const bool four : {true, false}) {
    std::string lines;
    for (const ElementIndex e : bed.elements) {
      const auto nodes = surface.nodes_of(e);
      const std::size_t corners = nodes.size() / 2;
      if ((corners == 4) != four) continue;
      lines += fmt::format("{}", next_element_++);
      std::size_t on_line = 1;
      const auto put_id = [&](std::int64_t id) {
        lines += ',';
        if (on_line++ == 10) {
          lines += '\n';
          on_line = 1;
        }
        append_integer(lines, id);
      };
      for (std::size_t i = 0; i < corners; ++i) put_id(far[nodes[i]]);
      for (std::size_t i = 0; i < corners; ++i) put_id(surface.node_ids[nodes[i]]);
      for (std::size_t i = corners; i < nodes.size(); ++i) put_id(far[nodes[i]]);
      for (std::size_t i = corners; i < nodes.size(); ++i) put_id(surface.node_ids[nodes[i]]);
      for (std::size_t i = 0; i < corners; ++i) put_id(middle[nodes[i]]);
      lines += '\n';
    }
    if (!lines.empty()) text += fmt::format("*ELEMENT, TYPE={}, ELSET={}\n", four ? "C3D20R" : "C3D15", solids) + lines;
  }
  // Stiff along the normal of each element, which differs: directions by element.
  const double stiff = bed.stiffness * depth, soft = 1e-6 * stiff;
  text += fmt::format("*MATERIAL, NAME={}\n*ELASTIC, TYPE=ENGINEERING CONSTANTS\n{},{},{},0.,0.,0.,{},{}\n{}\n", solids,
                      calculix_real(soft), calculix_real(soft), calculix_real(stiff), calculix_real(soft),
                      calculix_real(soft), calculix_real(soft));
  text += fmt::format("*DISTRIBUTION, NAME={}_AXES\n,1.,0.,0.,0.,1.,0.\n", solids);
  std::int64_t id = next_element_ - static_cast<std::int64_t>(bed.elements.size());
  for (const bool four : {true, false})
    for (const ElementIndex e : bed.elements) {
      if ((surface.corners_of(e).size() == 4) != four) continue;
      const Vec3& x = model_.sections->references[e];
      const Vec3 y = model_.geometry.normals[e].cross(x);
      text += fmt::format("{},{},{},{},{},{},{}\n", id++, calculix_real(x.x()), calculix_real(x.y()),
                          calculix_real(x.z()), calculix_real(y.x()), calculix_real(y.y()), calculix_real(y.z()));
    }
  text += fmt::format(
      "*ORIENTATION, NAME={0}_AXES\n{0}_AXES\n*SOLID SECTION, ELSET={0}, MATERIAL={0}, ORIENTATION={0}_AXES\n", solids);
  file.write(text);
  grounds_.push_back(ground);
  names.push_back({solids, "element set", fmt::format("bed {}", bed.name)});
  names.push_back({ground, "node set", fmt::format("the far face of bed {}, held", bed.name)});
}

}  // namespace bordado::deck
