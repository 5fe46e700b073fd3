#include "assembling.hpp"

#include <bordado/solids.hpp>
#include "writers.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <limits>
#include <map>

namespace bordado::deck {

namespace {

using mesh::NodeIndex;

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
  for (const part::Support& support : part.supports)
    target_of(support.on, fmt::format("[support.{}]", support.name), part, surface, layup, errors, findings);
  for (const part::Load& load : part.loads)
    if (const auto target =
            target_of(load.on, fmt::format("[load.{}]", load.name), part, surface, layup, errors, findings))
      fits(load, *target, errors);
  shares_of_cases(part, errors);
  for (const Finding& error : errors.all()) findings.add(error);
}

Model::Model() = default;
Model::Model(Model&&) noexcept = default;
Model::Model(const Model&) = default;
Model& Model::operator=(Model&&) noexcept = default;
Model& Model::operator=(const Model&) = default;
Model::~Model() = default;

Model assemble(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry,
               const layup::Layup& layup, const section::Sections& sections, const AssembleOptions& options,
               Findings& findings) {
  if (options.solids && !options.quadratic)
    throw Failure({Severity::error, "solid.options", "solids stand on quadratic shells", Place::in(part.file),
                   "ask for a quadratic model"});
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
  if (options.quadratic && (!options.laminate_only || options.solids)) {
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
  if (!options.laminate_only) {
    Findings errors;
    const Assembling on{model, errors, findings};
    assemble_supports(on);
    assemble_loads(on);
    errors.throw_if_errors();
    assemble_cases(on);
    errors.throw_if_errors();
  }
  report_chamfers(model, surface, findings);
  if (options.solids) model.solids = extrude(model, *options.solids, findings);
  return model;
}

}  // namespace bordado::deck
