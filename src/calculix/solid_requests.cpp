#include "solid_requests.hpp"

#include "set_names.hpp"

#include <bordado/solid_shapes.hpp>

#include <algorithm>
#include <map>
#include <set>

namespace bordado::calculix {

using mesh::NodeIndex;

std::vector<std::pair<std::string, std::vector<std::int64_t>>> SolidRequests::sums(const Model::Case& load_case) const {
  // What the elements put on those that are held is what the supports put on the part.
  std::vector<std::int64_t> nodes = carrier_.held_nodes(load_case);
  if (nodes.empty()) return {};
  return {{std::string(held_columns), std::move(nodes)}};
}

bool SolidRequests::node_by_node(const Model::Case& load_case, const std::string&) const {
  return can_tell_reactions(model_, load_case);
}

void SolidRequests::write_beds(const Model::Case& load_case, deck::SolidCarrier& carrier, OutputFile& file,
                               std::vector<deck::Stands>& names) {
  const model::Solids& solids = *model_.solids;
  BedMesh mesh{carrier.next_node(), static_cast<std::int64_t>(solids.count()) + 1,
               [&](NodeIndex n) { return deck::id_of(carrier.foot(n)); },
               [&](NodeIndex n) { return solids.points[carrier.foot(n)]; }};
  for (const std::size_t b : load_case.beds) grounds_.push_back(write_bed(model_, b, mesh, file, names));
  carrier.take_nodes_below(mesh.next_node);
}

namespace {

/// Calls with(id, force) for all that acts on nodes of the solids; elements whose nodes are all unwanted are passed over.
template <class Wanted, class With>
void for_each_force(const Model& model, const Model::Case& load_case, const deck::SolidCarrier& carrier, Wanted wanted,
                    With with) {
  const model::Solids& solids = *model.solids;
  for (std::size_t i = 0; i < model.loads.size(); ++i) {
    if (!load_case.acts(i)) continue;
    for (const deck::NodeValue& value :
         carrier.cards(model.loads[i], load_case.analysis == part::Analysis::large_displacements).forces)
      if (wanted(value.node))
        with(value.node, Vec3(load_case.factors[i] * value.value * Vec3::Unit(value.freedom - 1)));
    const auto* const inertia = std::get_if<Model::Inertia>(&model.loads[i].what);
    if (!inertia) continue;
    // What the solver spreads over a solid's nodes by its shape functions.
    for (std::size_t s = 0; s < solids.count(); ++s) {
      const auto nodes = solids.nodes_of(s);
      if (std::none_of(nodes.begin(), nodes.end(), [&](std::uint32_t n) { return wanted(deck::id_of(n)); })) continue;
      const double density = solids.materials[solids.material[s]].density.value_or(0.0);
      model::add_body_forces(
          solids.points, nodes,
          [&](const Vec3& point) -> Vec3 {
            Vec3 out = inertia->gravity;
            if (const auto& r = inertia->rotation) {
              const Vec3 arm = point - r->through;
              out += r->speed * r->speed * (arm - arm.dot(r->along) * r->along);
            }
            return load_case.factors[i] * density * out;
          },
          [&](std::uint32_t node, const Vec3& force) {
            if (wanted(deck::id_of(node))) with(deck::id_of(node), force);
          });
    }
  }
}

}  // namespace

std::vector<std::pair<std::int64_t, Vec3>> loads_on_held(const Model& model, const Model::Case& load_case) {
  const deck::SolidCarrier carrier(model, 0.0);
  std::map<std::int64_t, Vec3> sums;
  for (const std::int64_t node : carrier.held_nodes(load_case)) sums.emplace(node, Vec3::Zero());
  for_each_force(
      model, load_case, carrier, [&](std::int64_t node) { return sums.count(node) > 0; },
      [&](std::int64_t node, const Vec3& force) { sums.at(node) += force; });
  return {sums.begin(), sums.end()};
}

std::vector<std::uint8_t> fully_integrated(const Model& model, std::span<const std::size_t> cases) {
  const model::Solids& solids = *model.solids;
  const deck::SolidCarrier carrier(model, 0.0);
  std::set<std::uint32_t> ends;
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (std::any_of(cases.begin(), cases.end(), [&](std::size_t k) {
          return model.cases[k].acts(i) && model.cases[k].analysis == part::Analysis::large_displacements;
        }))
      for (const deck::Couple& couple : carrier.cards(model.loads[i], true).couples)
        for (const std::int64_t id : couple.nodes) ends.insert(static_cast<std::uint32_t>(id - 1));
  std::vector<std::uint8_t> out;
  if (ends.empty()) return out;
  // All that stands on an element with such a column.
  std::vector<std::uint8_t> of_element(model.surface.element_count(), 0);
  for (std::uint32_t s = 0; s < solids.count(); ++s)
    for (const std::uint32_t node : solids.nodes_of(s))
      if (ends.count(node) > 0) of_element[solids.element[s]] = 1;
  for (std::uint32_t s = 0; s < solids.count(); ++s)
    out.push_back(solids.nodes_of(s).size() == 20 ? of_element[solids.element[s]] : std::uint8_t{0});
  return out;
}

model::Total total_on_solids(const Model& model, const Model::Case& load_case) {
  const deck::SolidCarrier carrier(model, 0.0);
  model::Total out;
  for_each_force(
      model, load_case, carrier, [](std::int64_t) { return true; },
      [&](std::int64_t node, const Vec3& force) {
        out.force += force;
        out.moment += model.solids->points[static_cast<std::size_t>(node - 1)].cross(force);
      });
  for_each_load<Model::Link>(model, load_case, [&](const Model::Link& link, double factor) {
    out.force += factor * link.force;
    out.moment += factor * (link.at.cross(link.force) + link.moment);
  });
  return out;
}

}  // namespace bordado::calculix
