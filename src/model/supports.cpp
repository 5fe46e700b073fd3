// What supports and loads act on, and what supports hold.
#include "assembling.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/at_nodes.hpp>

#include <fmt/format.h>

#include <algorithm>

namespace bordado::model {

using mesh::NodeIndex;

namespace {

/// Whether a name stands for something; if not, why.
bool stands_for_something(const std::string& name, const Place& where, const std::string& who,
                          const mesh::Surface& surface, const layup::Layup& layup, Findings& errors) {
  if (zone::target({{name, where}}, layup.curves, layup.zones, surface)) return true;
  const std::vector<std::string> known = zone::targets(layup.curves, layup.zones, surface);
  if (std::find(known.begin(), known.end(), name) != known.end()) {
    errors.error("deck.on-unknown", fmt::format("{}: '{}' holds no nodes", who, name), where,
                 "check the zone or group; a curve has to run along edges of elements");
    return false;
  }
  const auto near = nearest_name(name, known);
  errors.error(
      "deck.on-unknown", fmt::format("{}: '{}' is neither a zone nor a group of the mesh", who, name), where,
      near ? fmt::format("did you mean '{}'?", *near) : fmt::format("zones and groups: {}", listed(known, 20)));
  return false;
}

}  // namespace

std::optional<zone::Target> target_of(const part::ActsOn& on, const std::string& who, const part::Part& part,
                                      const mesh::Surface& surface, const layup::Layup& layup, Findings& errors,
                                      Findings& findings) {
  auto out = zone::target(on, layup.curves, layup.zones, surface);
  if (const Vec3* const point = std::get_if<Vec3>(&on.what)) {
    const NodeIndex node = out->nodes.front();
    const double distance = (surface.points[node] - *point).norm();
    double edge = 0.0;  // the longest at the node
    if (distance > 0.0)
      for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
        const auto corners = surface.corners_of(e);
        const auto at = std::find(corners.begin(), corners.end(), node);
        if (at == corners.end()) continue;
        const NodeIndex next = corners[(static_cast<std::size_t>(at - corners.begin()) + 1) % corners.size()];
        edge = std::max(edge, (surface.points[next] - surface.points[node]).norm());
      }
    if (distance > edge)
      findings.warning(
          "deck.point-far",
          fmt::format("{}: the nearest node {} is {:.4g} {} away from the declared point, more than an element's edge",
                      who, surface.node_ids[node], distance, part.units.unit(Dimension::length)),
          on.where, "check the point and the length unit of the mesh");
    return out;
  }
  if (!out) {
    stands_for_something(std::get<std::string>(on.what), on.where, who, surface, layup, errors);
    for (const auto& name : on.also) stands_for_something(name.value, name.where, who, surface, layup, errors);
  }
  return out;
}

bool fits(const part::Load& load, const zone::Target& target, Findings& errors) {
  const auto wrong = [&](std::string_view what, std::string remedy) {
    errors.error("deck.on-kind", fmt::format("[load.{}]: {}", load.name, what), load.on.where, std::move(remedy));
    return false;
  };
  if (target.elements.empty()) {
    if (std::holds_alternative<part::Pressure>(load.kind))
      return wrong("a pressure acts on a zone or element group, not on points or edges",
                   "name a zone, or give a force instead");
    if (std::holds_alternative<part::Traction>(load.kind))
      return wrong("a traction acts on a zone or element group", "name a zone, or write edge-force = [..], per length");
    if (std::holds_alternative<part::Temperature>(load.kind))
      return wrong("a temperature is that of a zone or element group, not of points or edges", "name a zone");
  }
  if (target.edges.empty() && std::holds_alternative<part::EdgeForce>(load.kind))
    return wrong("a force per length acts on an edge group or curve", "name one, or write traction = [..], per area");
  if (target.elements.empty() + target.edges.empty() + target.points.empty() < 2)
    return wrong("what it acts on together is of several kinds",
                 "name zones, or edges, or points: a load for each kind");
  const bool whole =
      load.on.what == std::variant<std::string, Vec3>(std::string(part::everything)) && load.on.also.empty();
  if (!whole && (std::holds_alternative<part::Gravity>(load.kind) || std::holds_alternative<part::Rotation>(load.kind)))
    return wrong("weight and turning act on the whole part", "leave out 'on'");
  return true;
}

namespace {

/// The directions at a node: of a frame those of its elements in the mean.
std::vector<Model::Axes> axes_of(const part::Support& support, const std::vector<NodeIndex>& nodes,
                                 const Assembling& on) {
  std::vector<Model::Axes> out;
  const mesh::Surface& surface = on.model.surface;
  const mesh::Geometry& geometry = on.model.design->geometry;
  const std::vector<Vec3> up = mesh::area_sums_at_nodes(surface, geometry, geometry.normals);
  if (support.normal) {
    const Vec3 x = *support.normal;
    for (const NodeIndex n : nodes) {
      // y lies in the surface, too, unless the plane does.
      Vec3 y = up[n].normalized().cross(x);
      Eigen::Index least = 0;
      x.cwiseAbs().minCoeff(&least);
      if (y.norm() < 1e-3) y = x.cross(Vec3::Unit(least));
      out.push_back({x, y.normalized()});
    }
    return out;
  }
  const part::Part& part = on.model.design->part;
  std::vector<std::string> names;
  for (const part::Frame& frame : part.frames) names.push_back(frame.name);
  const auto found = std::find(names.begin(), names.end(), support.axes->value);
  if (found == names.end()) {
    const auto near = nearest_name(support.axes->value, names);
    on.errors.error("load.axes", fmt::format("[support.{}]: there is no frame '{}'", support.name, support.axes->value),
                    support.axes->where, near ? fmt::format("did you mean '{}'?", *near) : "declare it");
    return out;
  }
  const auto frame = static_cast<part::FrameId>(found - names.begin());
  const std::vector<Vec3>* directions = &on.model.design->layup.frames[frame].directions;
  frame::Field own;
  if (directions->empty()) {
    const layup::Layup& layup = on.model.design->layup;
    own = frame::field(part.frames[frame], {part, surface, on.model.design->geometry, layup.curves, layup.zones},
                       on.findings);
    directions = &own.directions;
  }
  const std::vector<Vec3> along = mesh::area_sums_at_nodes(surface, geometry, *directions);
  for (const NodeIndex n : nodes) {
    const Vec3 normal = up[n].normalized();
    const Vec3 x = (along[n] - along[n].dot(normal) * normal).normalized();
    out.push_back({x, normal.cross(x)});
  }
  return out;
}

Model::Bed bed_of(const part::Support& support, const zone::Target& target, const Assembling& on) {
  const Model& model = on.model;
  Model::Bed out{support.name, *support.bed, target.elements, target.nodes, {}, {}};
  std::vector<Vec3> sums(model.surface.points.size(), Vec3::Zero());
  std::vector<double> areas(sums.size(), 0.0);
  for (const mesh::ElementIndex e : target.elements) {
    const auto shares = mesh::nodal_areas(model.surface, e);
    const auto nodes = model.surface.nodes_of(e);
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      areas[nodes[i]] += shares[i];
      sums[nodes[i]] += model.design->geometry.normals[e];
    }
  }
  for (const NodeIndex n : target.nodes) {
    out.normals.push_back(sums[n].normalized());
    out.areas.push_back(areas[n]);
  }
  return out;
}

}  // namespace

void assemble_supports(const Assembling& on) {
  Model& model = on.model;
  for (const part::Support& support : model.design->part.supports) {
    const std::string who = fmt::format("[support.{}]", support.name);
    const auto target =
        target_of(support.on, who, model.design->part, model.surface, model.design->layup, on.errors, on.findings);
    if (!target) continue;
    if (support.bed) {
      if (target->elements.empty() || !target->edges.empty() || !target->points.empty())
        on.errors.error("deck.on-kind", fmt::format("{}: a bed lies under a zone, not under points or edges", who),
                        support.on.where, "name a zone");
      else
        model.beds.push_back(bed_of(support, *target, on));
      continue;
    }
    Model::Support out{support.name, support.held, target->nodes, {}};
    if (support.axes || support.normal) out.axes = axes_of(support, target->nodes, on);
    model.supports.push_back(std::move(out));
  }
}

}  // namespace bordado::model
