// Which of the solver's forces can be believed.
#include "node_survey.hpp"
#include "set_names.hpp"

#include <algorithm>

namespace bordado::calculix {

using mesh::NodeIndex;

std::vector<ForceSet> force_sets(const Model& model, const Model::Case& load_case) {
  constexpr std::uint8_t translations = part::x | part::y | part::z;
  constexpr std::size_t other = translations + 1;
  std::vector<std::uint8_t> held(model.surface.points.size(), 0), pushed(held.size(), 0), beside(held.size(), 0);
  std::vector<std::uint8_t> untold(held.size(), 0);  // of whose forces sums by x, y and z say nothing
  for (const std::size_t i : load_case.supports) {
    const Model::Support& support = model.supports[i];
    for (const NodeIndex node : support.nodes) {
      held[node] |= support.held;
      if (!support.axes.empty() && (support.held & translations) != translations) untold[node] = 1;
    }
  }
  bool forces = false;
  for_each_load<Model::Force>(model, load_case, [&](const Model::Force& force, double) {
    forces = true;
    for (const NodeIndex node : force.nodes) pushed[node] = 1;
    if (!force.moments.empty())
      for (const NodeIndex node : force.nodes) untold[node] = 1;
  });
  for_each_load<Model::Displacement>(model, load_case, [&](const Model::Displacement& displacement, double) {
    for (const NodeIndex node : displacement.nodes)
      for (std::size_t k = 0; k < 6; ++k)
        if (displacement.by[k]) held[node] |= static_cast<std::uint8_t>(1u << k);
  });
  for_each_load<Model::Link>(model, load_case, [&](const Model::Link& link, double) {
    for (const NodeIndex node : link.nodes) untold[node] = 1;
  });
  for (const std::size_t bed : load_case.beds)
    for (const NodeIndex node : model.beds[bed].nodes) untold[node] = 1;
  if (forces) beside = beside_mesh(model);
  const std::vector<std::uint8_t> knots = held_as_knots(model, load_case);
  std::vector<ForceSet> all;
  for (std::uint8_t directions = 0; directions <= translations; ++directions) {
    all.push_back({directions == 0 ? std::string(free_nodes) : held_nodes(directions), directions, true, {}});
  }
  all.push_back({std::string(untold_nodes), 0, false, {}});
  for (NodeIndex n = 0; n < held.size(); ++n) {
    const auto directions = static_cast<std::uint8_t>(held[n] & translations);
    const bool turned = (held[n] & ~translations) != 0 && directions != translations && !knots[n];
    all[turned || untold[n] || (pushed[n] && beside[n]) ? other : directions].nodes.push_back(n);
  }
  std::erase_if(all, [](const ForceSet& set) { return set.nodes.empty(); });
  return all;
}

bool can_tell_reactions(const Model& model, const Model::Case& load_case) {
  if (load_case.analysis != part::Analysis::linear && load_case.analysis != part::Analysis::large_displacements)
    return false;
  if (model.solids) return true;
  if (!load_case.beds.empty()) return false;
  constexpr std::uint8_t rotations = part::rx | part::ry | part::rz;
  const std::vector<std::uint8_t> knots = held_as_knots(model, load_case);
  bool turned = false;
  const auto look = [&](const std::vector<NodeIndex>& nodes) {
    turned = turned || std::any_of(nodes.begin(), nodes.end(), [&](NodeIndex n) { return knots[n] == 0; });
  };
  for_each_load<Model::Displacement>(model, load_case, [&](const Model::Displacement& displacement, double) {
    if (displacement.by[3] || displacement.by[4] || displacement.by[5]) look(displacement.nodes);
  });
  for (const std::size_t i : load_case.supports)
    if ((model.supports[i].held & rotations) != 0) look(model.supports[i].nodes);
  if (turned) return false;
  for (const ForceSet& set : force_sets(model, load_case)) {
    if (set.trusted) continue;
    for (const std::size_t i : load_case.supports)
      for (const NodeIndex n : model.supports[i].nodes)
        if (std::binary_search(set.nodes.begin(), set.nodes.end(), n)) return false;
  }
  return true;
}

}  // namespace bordado::calculix
