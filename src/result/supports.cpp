// What each support puts on the part.
#include "gradients.hpp"

#include <bordado/design.hpp>

#include <Eigen/Geometry>

#include <utility>

namespace bordado::result {

namespace {

/// Moments that sections bring to held nodes: where the rotation of a shell is held, forces on its nodes do not tell them.
class Couples {
 public:
  Couples(const model::Model& model, const model::Model::Case& load_case, const model::CaseFields& fields)
      : model_(model),
        fields_(fields),
        within_(model, load_case),
        at_nodes_(mesh::elements_at_nodes(model.surface)),
        forces_(model.design->part, model.design->sections),
        changing_(model.surface, model.design->geometry, model.design->sections.references, model.design->layup,
                  at_nodes_) {}

  /// Of what is held on some nodes. \param held as in Support \param axes per node, or empty: the part's
  Vec3 on(const std::vector<mesh::NodeIndex>& nodes, std::uint8_t held, std::span<const model::Model::Axes> axes) {
    Vec3 out = Vec3::Zero();
    std::vector<std::size_t> place(model_.surface.points.size(), nodes.size());
    for (std::size_t i = 0; i < nodes.size(); ++i) place[nodes[i]] = i;
    for (mesh::ElementIndex e = 0; e < model_.surface.element_count(); ++e) {
      const auto corners = model_.surface.corners_of(e);
      for (std::size_t k = 0; k < corners.size(); ++k) {
        const mesh::NodeIndex ends[] = {corners[k], corners[(k + 1) % corners.size()]};
        if (place[ends[0]] == nodes.size() || place[ends[1]] == nodes.size()) continue;
        const Vec3 couple = across(e, model_.surface.points[ends[0]], model_.surface.points[ends[1]]);
        // Only along what is held; half of it at either end.
        for (const mesh::NodeIndex end : ends) {
          const model::Model::Axes own =
              axes.empty() ? model::Model::Axes{Vec3::UnitX(), Vec3::UnitY()} : axes[place[end]];
          const Vec3 direction[] = {own[0], own[1], own[0].cross(own[1])};
          for (int r = 0; r < 3; ++r)
            if (held >> (3 + r) & 1) out += 0.5 * couple.dot(direction[r]) * direction[r];
        }
      }
    }
    return out;
  }

 private:
  /// What is put on an element across a straight side.
  Vec3 across(mesh::ElementIndex e, const Vec3& from, const Vec3& to) {
    const Vec3 &n = model_.design->geometry.normals[e], &r = model_.design->sections.references[e], t = n.cross(r);
    const auto carried_by = [&](mesh::ElementIndex other) -> Carried {
      const model::Warmth heat = within_.heat(other);
      return forces_(other, fields_.sections[other].deformation, within_.warm() ? &heat : nullptr);
    };
    Gradients changes = changing_(e, carried_by);
    balance(changes, fields_.sections[e].Q);
    const Vec3 way = 0.5 * (from + to) - model_.design->geometry.centres[e], side = to - from;
    const Carried there = carried_by(e) + changes * Eigen::Vector2d(way.dot(r), way.dot(t));
    const Vec3 outwards = side.cross(n).normalized();
    const Eigen::Vector2d v(outwards.dot(r), outwards.dot(t));
    const Vec3 pulls = (there[3] * v[0] + there[5] * v[1]) * r + (there[5] * v[0] + there[4] * v[1]) * t;
    return side.norm() * n.cross(pulls);
  }

  const model::Model& model_;
  const model::CaseFields& fields_;
  model::Within within_;
  mesh::NodeTable at_nodes_;
  SectionForces forces_;
  Changing changing_;
};

/// Nodes that are held or moved, and what of them.
struct Holder {
  const std::vector<mesh::NodeIndex>* nodes;
  std::uint8_t held = 0;
  std::span<const model::Model::Axes> axes = {};
};

}  // namespace

std::vector<SupportForce> forces_of_supports(const model::Model& model, const model::Model::Case& load_case,
                                             const model::CaseFields& fields, const Vec3& reaction) {
  std::vector<SupportForce> out;
  std::vector<Holder> holders;
  for (const std::size_t i : load_case.supports) {
    const model::Model::Support& support = model.supports[i];
    out.push_back({support.name, false, Vec3::Zero(), {}});
    holders.push_back({&support.nodes, support.held, support.axes});
  }
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (const auto* const moved = std::get_if<model::Model::Displacement>(&model.loads[i].what);
        moved && load_case.acts(i)) {
      out.push_back({model.loads[i].name, true, Vec3::Zero(), {}});
      std::uint8_t held = 0;
      for (std::size_t k = 0; k < 6; ++k)
        if (moved->by[k]) held = static_cast<std::uint8_t>(held | 1u << k);
      holders.push_back({&moved->nodes, held, {}});
    }
  const bool alone = out.size() == 1 && load_case.beds.empty(), small = load_case.analysis == part::Analysis::linear;
  if (alone) {
    out.front().force = reaction;
    if (small) {
      Vec3 moment = Vec3::Zero();
      for (std::size_t i = 0; i < model.loads.size(); ++i)
        if (load_case.acts(i)) moment -= load_case.factors[i] * model::total(model, model.loads[i]).moment;
      out.front().moment = moment;
    }
    return out;
  }
  if (fields.reactions.empty()) return {};
  std::vector<std::uint8_t> told(fields.reactions.size(), 0);
  // Of solids the nodes of each column tell all; of shells, where rotations are held, the sections.
  std::optional<Couples> couples;
  if (small && !model.solids && !fields.sections.empty()) couples.emplace(model, load_case, fields);
  for (std::size_t k = 0; k < out.size(); ++k) {
    const Holder& holder = holders[k];
    Vec3 moment = Vec3::Zero();
    for (const mesh::NodeIndex n : *holder.nodes) {
      if (std::exchange(told[n], std::uint8_t{1})) continue;
      out[k].force += fields.reactions[n];
      moment += model.surface.points[n].cross(fields.reactions[n]);
      if (!fields.reaction_moments.empty()) moment += fields.reaction_moments[n];
    }
    const bool turns = (holder.held >> 3) != 0;
    if (!small || (turns && !model.solids && !couples)) continue;
    if (turns && couples) moment += couples->on(*holder.nodes, holder.held, holder.axes);
    out[k].moment = moment;
  }
  return out;
}

}  // namespace bordado::result
