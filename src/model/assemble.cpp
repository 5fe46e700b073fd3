#include "assembling.hpp"

#include <bordado/design.hpp>

#include <bordado/solids.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace bordado::model {

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

void check_targets(const layup::Laid& laid, Findings& findings) {
  const part::Part& part = laid.part;
  const mesh::Surface& surface = laid.surface;
  const layup::Layup& layup = laid.layup;
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

Model assemble(std::shared_ptr<const Design> design, const AssembleOptions& options, Findings& findings) {
  const part::Part& part = design->part;
  const mesh::Surface& surface = design->surface;
  if (options.solids && !options.quadratic)
    throw Failure({Severity::error, "solid.options", "solids stand on quadratic shells", Place::in(part.file),
                   "ask for a quadratic model"});
  Model model;
  model.design = std::move(design);
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

}  // namespace bordado::model
