#include <bordado/deck.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace bordado::deck {

namespace {

using mesh::NodeIndex;

/// What a name or point of a support or load stands for.
struct Target {
  std::vector<NodeIndex> nodes;              ///< all nodes, ascending
  std::vector<NodeIndex> points;             ///< single points, for a force
  std::vector<mesh::Edge> edges;             ///< for a force by length
  std::vector<mesh::ElementIndex> elements;  ///< for a force by area and for pressure
};

class Assembler {
 public:
  Assembler(Model& model, Findings& findings)
      : model_(model), part_(*model.part), surface_(model.surface), findings_(findings) {}

  void run() {
    for (const part::Support& support : part_.supports)
      if (const auto target = find(support.on, fmt::format("[support.{}]", support.name)))
        model_.supports.push_back({support.name, support.held, target->nodes});
    for (const part::Load& load : part_.loads)
      if (const auto target = find(load.on, fmt::format("[load.{}]", load.name)))
        std::visit([&](const auto& kind) { add(load, kind, *target); }, load.kind);
    errors_.throw_if_errors();
    if (part_.supports.empty())
      findings_.warning("deck.no-supports", "the part file declares no support: the part is free in space",
                        Place::in(part_.file),
                        "add [support.NAME] with on = \"...\" and hold = \"clamped\", or write the laminate only");
    if (part_.loads.empty())
      findings_.warning("deck.no-loads", "the part file declares no load", Place::in(part_.file),
                        "add [load.NAME] with pressure or force, or write the laminate only");
  }

 private:
  static void tidy(std::vector<NodeIndex>& nodes) {
    std::sort(nodes.begin(), nodes.end());
    nodes.erase(std::unique(nodes.begin(), nodes.end()), nodes.end());
  }

  std::optional<Target> find(const part::On& on, const std::string& who) {
    if (const Vec3* const point = std::get_if<Vec3>(&on.what)) return at_point(*point, on, who);
    const std::string& name = std::get<std::string>(on.what);
    Target out;
    if (const auto zone = model_.layup->zones.find(name)) {
      out.elements = model_.layup->zones.elements(*zone);
    } else if (const mesh::Group* const edges = surface_.group(name, 1)) {
      out.edges = edges->edges;
    } else if (const mesh::Group* const points = surface_.group(name, 0)) {
      out.points = points->points;
    } else {
      std::vector<std::string> known = model_.layup->zones.names;
      for (const mesh::Group& group : surface_.groups)
        if (group.dimension < 2) known.push_back(group.name);
      const auto near = nearest_name(name, known);
      errors_.error(
          "deck.on-unknown", fmt::format("{}: '{}' is neither a zone nor a group of the mesh", who, name), on.where,
          near ? fmt::format("did you mean '{}'?", *near) : fmt::format("zones and groups: {}", listed(known, 20)));
      return std::nullopt;
    }
    out.nodes = out.points;
    for (const mesh::Edge& edge : out.edges)
      for (const NodeIndex node : {edge.first, edge.second, edge.middle})
        if (node != mesh::no_index) out.nodes.push_back(node);
    for (const mesh::ElementIndex e : out.elements) {
      const auto nodes = surface_.nodes_of(e);
      out.nodes.insert(out.nodes.end(), nodes.begin(), nodes.end());
    }
    tidy(out.nodes);
    if (out.nodes.empty()) {
      errors_.error("deck.on-unknown", fmt::format("{}: '{}' holds no nodes", who, name), on.where,
                    "check the zone or group");
      return std::nullopt;
    }
    return out;
  }

  Target at_point(const Vec3& point, const part::On& on, const std::string& who) {
    // Corner nodes only, so that the same place is taken whether the deck is linear or quadratic.
    double best = std::numeric_limits<double>::infinity(), edge = 0.0;
    NodeIndex node = 0;
    for (mesh::ElementIndex e = 0; e < surface_.element_count(); ++e) {
      const auto corners = surface_.corners_of(e);
      for (std::size_t i = 0; i < corners.size(); ++i) {
        const double distance = (surface_.points[corners[i]] - point).norm();
        if (distance > best || (distance == best && corners[i] >= node)) continue;
        best = distance;
        node = corners[i];
        edge = (surface_.points[corners[(i + 1) % corners.size()]] - surface_.points[corners[i]]).norm();
      }
    }
    if (best > edge)
      findings_.warning(
          "deck.point-far",
          fmt::format("{}: the nearest node {} is {:.4g} {} away from the declared point, more than an element's edge",
                      who, surface_.node_ids[node], best, part_.units.unit(Dimension::length)),
          on.where, "check the point and the length unit of the mesh");
    return {{node}, {node}, {}, {}};
  }

  void add(const part::Load& load, const part::Pressure& pressure, const Target& target) {
    if (target.elements.empty()) {
      errors_.error(
          "deck.on-kind",
          fmt::format("[load.{}]: a pressure acts on a zone or element group, not on points or edges", load.name),
          load.on.where, "name a zone, or give a force instead");
      return;
    }
    // The tool face is under the first ply: what pushes on it pushes along n.
    model_.pressures.push_back({load.name, pressure.on_tool_face ? pressure.value : -pressure.value, target.elements});
  }

  void add(const part::Load& load, const part::Force& force, const Target& target) {
    std::map<NodeIndex, double> shares;  // by node; they add up to `whole`
    double whole = 0.0;
    const auto give = [&](NodeIndex node, double share) {
      shares[node] += share;
      whole += share;
    };
    for (const NodeIndex node : target.points) give(node, 1.0);
    for (const mesh::Edge& edge : target.edges) {
      const double length = (surface_.points[edge.second] - surface_.points[edge.first]).norm();
      const bool quadratic = edge.middle != mesh::no_index;
      give(edge.first, length / (quadratic ? 6.0 : 2.0));
      give(edge.second, length / (quadratic ? 6.0 : 2.0));
      if (quadratic) give(edge.middle, length * 4.0 / 6.0);
    }
    for (const mesh::ElementIndex e : target.elements) {
      const auto areas = mesh::nodal_areas(surface_, e);
      const auto nodes = surface_.nodes_of(e);
      for (std::size_t i = 0; i < nodes.size(); ++i) give(nodes[i], areas[i]);
    }
    if (!(whole > 0.0)) {
      errors_.error("deck.on-kind",
                    fmt::format("[load.{}]: what it acts on has no length or area to spread a force over", load.name),
                    load.on.where);
      return;
    }
    Model::Force out{load.name, {}, {}};
    for (const auto& [node, share] : shares) {
      out.nodes.push_back(node);
      out.forces.push_back(force.total * (share / whole));
    }
    model_.forces.push_back(std::move(out));
  }

  Model& model_;
  const part::Part& part_;
  const mesh::Surface& surface_;
  Findings& findings_;
  Findings errors_;
};

/// Solvers keep arrays as long as the largest element id: ids that are far from dense are made so.
void number_densely(mesh::Surface& surface, Findings& findings) {
  const auto sparse = [](const std::vector<std::int64_t>& ids) {
    const auto [low, high] = std::minmax_element(ids.begin(), ids.end());
    return *low < 1 || *high > 99999999 || static_cast<std::size_t>(*high) > 10 * ids.size() + 10000;
  };
  const auto renumber = [&](std::vector<std::int64_t>& ids, std::string_view what) {
    if (!sparse(ids)) return;
    for (std::size_t i = 0; i < ids.size(); ++i) ids[i] = static_cast<std::int64_t>(i) + 1;
    findings.note(
        "deck.renumbered",
        fmt::format("{} ids were made 1 to {}, in the mesh file's order: the file's own are too far apart for a solver",
                    what, ids.size()),
        Place::in(surface.file));
  };
  renumber(surface.element_ids, "element");
  renumber(surface.node_ids, "node");
}

}  // namespace

Vec3 total_load(const Model& model) {
  Vec3 out = Vec3::Zero();
  for (const Model::Force& force : model.forces)
    for (const Vec3& share : force.forces) out += share;
  for (const Model::Pressure& pressure : model.pressures)
    for (const mesh::ElementIndex e : pressure.elements)
      out += pressure.along_normal * model.geometry.areas[e] * model.geometry.normals[e];
  return out;
}

Model assemble(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry,
               const layup::Layup& layup, const section::Sections& sections, const AssembleOptions& options,
               Findings& findings) {
  Model model;
  model.part = &part;
  model.layup = &layup;
  model.sections = &sections;
  model.geometry = geometry;
  mesh::Surface numbered = surface;
  if (!options.laminate_only) number_densely(numbered, findings);
  if (options.quadratic && !options.laminate_only) {
    model.surface = mesh::raised_to_quadratic(numbered);
    if (const std::size_t added = model.surface.points.size() - surface.points.size(); added > 0)
      findings.note("deck.raised",
                    fmt::format("the mesh was raised to quadratic elements: {} nodes in the middle of straight edges "
                                "were added to {}, {} in all",
                                added, surface.points.size(), model.surface.points.size()),
                    Place::in(surface.file));
  } else {
    model.surface = std::move(numbered);
  }
  if (!options.laminate_only) Assembler(model, findings).run();
  return model;
}

}  // namespace bordado::deck
