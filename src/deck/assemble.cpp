#include "writers.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <limits>
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

/// What supports and loads act on.
class Targets {
 public:
  Targets(const part::Part& part, const mesh::Surface& surface, const zone::ZoneSets& zones, Findings& findings,
          Findings& errors)
      : part_(part), surface_(surface), zones_(zones), findings_(findings), errors_(errors) {}

  std::optional<Target> of(const part::Support& support) {
    return find(support.on, fmt::format("[support.{}]", support.name));
  }

  /// Nothing, too, where the load is of a kind that cannot act on it.
  std::optional<Target> of(const part::Load& load) {
    auto out = find(load.on, fmt::format("[load.{}]", load.name));
    if (!out || !std::holds_alternative<part::Pressure>(load.kind) || !out->elements.empty()) return out;
    errors_.error(
        "deck.on-kind",
        fmt::format("[load.{}]: a pressure acts on a zone or element group, not on points or edges", load.name),
        load.on.where, "name a zone, or give a force instead");
    return std::nullopt;
  }

 private:
  static void tidy(std::vector<NodeIndex>& nodes) {
    std::sort(nodes.begin(), nodes.end());
    nodes.erase(std::unique(nodes.begin(), nodes.end()), nodes.end());
  }

  std::optional<Target> find(const part::Spot& on, const std::string& who) {
    if (const Vec3* const point = std::get_if<Vec3>(&on.what)) return at_point(*point, on, who);
    const std::string& name = std::get<std::string>(on.what);
    Target out;
    if (const auto zone = zones_.find(name)) {
      out.elements = zones_.elements(*zone);
    } else if (const mesh::Group* const edges = surface_.group(name, 1)) {
      out.edges = edges->edges;
    } else if (const mesh::Group* const points = surface_.group(name, 0)) {
      out.points = points->points;
    } else {
      std::vector<std::string> known = zones_.names.all();
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
    tidy(out.nodes);
    if (!out.elements.empty()) {
      std::vector<std::uint8_t> touched(surface_.points.size(), 0);
      for (const NodeIndex node : out.nodes) touched[node] = 1;
      for (const mesh::ElementIndex e : out.elements)
        for (const NodeIndex node : surface_.nodes_of(e)) touched[node] = 1;
      out.nodes.clear();
      for (NodeIndex node = 0; node < touched.size(); ++node)
        if (touched[node]) out.nodes.push_back(node);
    }
    if (out.nodes.empty()) {
      errors_.error("deck.on-unknown", fmt::format("{}: '{}' holds no nodes", who, name), on.where,
                    "check the zone or group");
      return std::nullopt;
    }
    return out;
  }

  Target at_point(const Vec3& point, const part::Spot& on, const std::string& who) {
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

  const part::Part& part_;
  const mesh::Surface& surface_;
  const zone::ZoneSets& zones_;
  Findings& findings_;
  Findings& errors_;
};

class Assembler {
 public:
  Assembler(Model& model, Findings& findings)
      : model_(model), part_(*model.part), surface_(model.surface), findings_(findings) {}

  void run() {
    Targets targets(part_, surface_, model_.layup->zones, findings_, errors_);
    for (const part::Support& support : part_.supports)
      if (const auto target = targets.of(support))
        model_.supports.push_back({support.name, support.held, target->nodes});
    for (const part::Load& load : part_.loads)
      if (const auto target = targets.of(load))
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
  void add(const part::Load& load, const part::Pressure& pressure, const Target& target) {
    // The tool face is under the first ply: what pushes on it pushes along n.
    Model::Pressure out{load.name, pressure.on_tool_face ? pressure.value : -pressure.value, target.elements, {}};
    if (normals_.empty()) normals_ = mesh::nodal_normals(surface_, model_.geometry);
    std::vector<Vec3> sums(surface_.points.size(), Vec3::Zero());
    std::vector<std::uint8_t> touched(sums.size(), 0);
    out.face_ratio.resize(target.elements.size());
    // Some elements at a time: their shares side by side, then added up in order, whatever the number of threads.
    constexpr std::size_t at_a_time = 65536;
    std::vector<std::array<Vec3, 8>> shares(std::min(at_a_time, target.elements.size()));
    for (std::size_t from = 0; from < target.elements.size(); from += at_a_time) {
      const std::size_t many = std::min(at_a_time, target.elements.size() - from);
      parallel_blocks(many, [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i)
          shares[i] = pressed_shares(target.elements[from + i], pressure.on_tool_face, out.face_ratio[from + i]);
      });
      for (std::size_t i = 0; i < many; ++i) {
        const auto nodes = surface_.nodes_of(target.elements[from + i]);
        for (std::size_t k = 0; k < nodes.size(); ++k) {
          sums[nodes[k]] += out.along_normal * shares[i][k];
          touched[nodes[k]] = 1;
        }
      }
    }
    for (NodeIndex n = 0; n < sums.size(); ++n) {
      if (!touched[n]) continue;
      out.nodes.push_back(n);
      out.forces.push_back(sums[n]);
    }
    model_.pressures.push_back(std::move(out));
  }

  /// What a pressure of one along n on a face comes to at the nodes of an element, and the face's area over the mesh's.
  std::array<Vec3, 8> pressed_shares(mesh::ElementIndex e, bool on_tool_face, double& face_ratio) const {
    const section::SectionId s = model_.sections->section_of[e];
    const double height = model_.sections->bottom[s] + (on_tool_face ? 0.0 : model_.sections->thickness[s]);
    const std::span<const Vec3> normals(normals_.data() + surface_.first[e], surface_.nodes_of(e).size());
    const mesh::FaceVectors face = mesh::nodal_face_vectors(surface_, e, normals, height);
    face_ratio = std::abs(face.over_mesh - 1.0) >= 1e-12 ? face.over_mesh : 1.0;
    return face.shares;
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
      const auto lengths = mesh::nodal_lengths(surface_, edge);
      give(edge.first, lengths[0]);
      give(edge.second, lengths[1]);
      if (edge.middle != mesh::no_index) give(edge.middle, lengths[2]);
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
  std::vector<Vec3> normals_;  ///< at the nodes of every element, made for the first pressure
};

/// Solvers keep arrays as long as the largest element id: ids that are far from dense are made so.
bool sparse(const std::vector<std::int64_t>& ids) {
  const auto [low, high] = std::minmax_element(ids.begin(), ids.end());
  return *low < 1 || *high > 99999999 || static_cast<std::size_t>(*high) > 10 * ids.size() + 10000;
}

/// The ids that were there are kept in the model.
void number_densely(mesh::Surface& surface, Model& model, Findings& findings) {
  const auto renumber = [&](std::vector<std::int64_t>& ids, std::vector<std::int64_t>& kept, std::string_view what) {
    if (!sparse(ids)) return;
    kept = ids;
    for (std::size_t i = 0; i < ids.size(); ++i) ids[i] = static_cast<std::int64_t>(i) + 1;
    findings.note(
        "deck.renumbered",
        fmt::format("{} ids were made 1 to {}, in the mesh file's order: the file's own are too far apart for a solver",
                    what, ids.size()),
        Place::in(surface.file));
  };
  renumber(surface.element_ids, model.mesh_element_ids, "element");
  renumber(surface.node_ids, model.mesh_node_ids, "node");
}

}  // namespace

Vec3 total_load(const Model& model) {
  Vec3 out = Vec3::Zero();
  for (const Model::Force& force : model.forces)
    for (const Vec3& share : force.forces) out += share;
  for (const Model::Pressure& pressure : model.pressures)
    for (const Vec3& share : pressure.forces) out += share;
  return out;
}

std::vector<Vec3> nodal_loads(const Model& model) {
  std::vector<Vec3> out(model.surface.points.size(), Vec3::Zero());
  const auto add = [&](const std::vector<NodeIndex>& nodes, const std::vector<Vec3>& forces) {
    for (std::size_t i = 0; i < nodes.size(); ++i) out[nodes[i]] += forces[i];
  };
  for (const Model::Force& force : model.forces) add(force.nodes, force.forces);
  for (const Model::Pressure& pressure : model.pressures) add(pressure.nodes, pressure.forces);
  return out;
}

std::vector<ForceSet> force_sets(const Model& model) {
  constexpr std::uint8_t translations = part::x | part::y | part::z;
  constexpr std::size_t other = translations + 1;
  std::vector<std::uint8_t> held(model.surface.points.size(), 0), pushed(held.size(), 0), beside(held.size(), 0);
  for (const Model::Support& support : model.supports)
    for (const NodeIndex node : support.nodes) held[node] |= support.held;
  for (const Model::Force& force : model.forces)
    for (const NodeIndex node : force.nodes) pushed[node] = 1;
  const section::Sections& sections = *model.sections;
  if (!model.forces.empty())
    for (mesh::ElementIndex e = 0; e < model.surface.element_count(); ++e) {
      const section::SectionId s = sections.section_of[e];
      if (std::abs(sections.bottom[s] + 0.5 * sections.thickness[s]) > 1e-9 * sections.thickness[s])
        for (const NodeIndex node : model.surface.nodes_of(e)) beside[node] = 1;
    }
  std::vector<ForceSet> all;
  for (std::uint8_t directions = 0; directions <= translations; ++directions) {
    std::string name = directions == 0 ? "FREE" : "HELD_";
    for (int k = 0; k < 3; ++k)
      if (directions >> k & 1) name += static_cast<char>('X' + k);
    all.push_back({std::move(name), directions, true, {}});
  }
  all.push_back({"OTHER", 0, false, {}});
  for (NodeIndex n = 0; n < held.size(); ++n) {
    const auto directions = static_cast<std::uint8_t>(held[n] & translations);
    const bool turned = (held[n] & ~translations) != 0 && directions != translations;
    all[turned || (pushed[n] && beside[n]) ? other : directions].nodes.push_back(n);
  }
  std::erase_if(all, [](const ForceSet& set) { return set.nodes.empty(); });
  return all;
}

std::vector<mesh::ElementIndex> too_thick_at_edges(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                                   const section::Sections& sections) {
  // Most parts have no element that thick: a look at each tells, and no edges are needed.
  std::vector<std::uint8_t> thick(surface.element_count(), 0);
  std::atomic<bool> any{false};
  parallel_blocks(thick.size(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) {
      const auto corners = surface.corners_of(static_cast<mesh::ElementIndex>(e));
      double shortest = std::numeric_limits<double>::infinity();
      for (std::size_t k = 0; k < corners.size(); ++k)
        shortest = std::min(
            shortest, (surface.points[corners[(k + 1) % corners.size()]] - surface.points[corners[k]]).squaredNorm());
      const double twice = 2.0 * sections.thickness[sections.section_of[e]];
      if (twice * twice > shortest) thick[e] = 1, any = true;
    }
  });
  std::vector<mesh::ElementIndex> out;
  if (!any) return out;
  const double sharp = Angle::degrees(20.0).cos();
  const mesh::EdgeTable table = mesh::edges(surface);
  for (std::size_t j = 0; j < table.size(); ++j) {
    const std::uint32_t begin = table.first[j], end = table.first[j + 1];
    for (std::uint32_t a = begin; a < end; ++a)
      for (std::uint32_t b = a + 1; b < end; ++b) {
        const auto &one = table.uses[a], &other = table.uses[b];
        const double same = one.forward == other.forward ? -1.0 : 1.0;
        if (same * geometry.normals[one.element].dot(geometry.normals[other.element]) > sharp) continue;
        for (const mesh::ElementIndex e : {one.element, other.element})
          if (thick[e]) out.push_back(e);
      }
  }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

std::optional<Finding> thick_at_edge(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                     const section::Sections& sections) {
  const std::vector<mesh::ElementIndex> found = too_thick_at_edges(surface, geometry, sections);
  if (found.empty()) return std::nullopt;
  std::vector<std::int64_t> ids;
  for (const mesh::ElementIndex e : found) ids.push_back(surface.element_ids[e]);
  return Finding{Severity::warning, "deck.thick-at-edge",
                 fmt::format("{} at a sharp edge of the surface: the laminate is thicker than half of their shortest "
                             "side, so that solids made of them run into each other: {}",
                             counted(found.size(), "element"), listed(ids)),
                 surface.place_of(found.front()),
                 "CalculiX may stop at these (nonpositive jacobian): mesh coarser along the edge, or round it"};
}

void check_targets(const part::Part& part, const mesh::Surface& surface, const layup::Layup& layup,
                   Findings& findings) {
  Findings errors;
  Targets targets(part, surface, layup.zones, findings, errors);
  for (const part::Support& support : part.supports) targets.of(support);
  for (const part::Load& load : part.loads) targets.of(load);
  for (const Finding& error : errors.all()) findings.add(error);
}

Model assemble(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry,
               const layup::Layup& layup, const section::Sections& sections, const AssembleOptions& options,
               Findings& findings) {
  Model model;
  model.part = &part;
  model.layup = &layup;
  model.sections = &sections;
  model.geometry = geometry;
  model.mesh_node_count = surface.points.size();
  const bool renumbers = !options.laminate_only && (sparse(surface.element_ids) || sparse(surface.node_ids));
  mesh::Surface numbered;  // a copy only where it is needed
  if (renumbers) {
    numbered = surface;
    number_densely(numbered, model, findings);
  }
  if (options.quadratic && !options.laminate_only) {
    model.surface = mesh::raised_to_quadratic(renumbers ? numbered : surface);
    if (const std::size_t added = model.surface.points.size() - surface.points.size(); added > 0)
      findings.note("deck.raised",
                    fmt::format("the mesh was raised to quadratic elements: {} nodes in the middle of straight edges "
                                "were added to {}, {} in all",
                                added, surface.points.size(), model.surface.points.size()),
                    Place::in(surface.file));
  } else {
    model.surface = renumbers ? std::move(numbered) : surface;
  }
  if (!options.laminate_only) Assembler(model, findings).run();
  report_chamfers(model, surface, findings);
  return model;
}

}  // namespace bordado::deck
