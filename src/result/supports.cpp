// What each support puts on the part.
#include <bordado/result.hpp>

#include <utility>

namespace bordado::result {

std::vector<SupportForce> forces_of_supports(const deck::Model& model, const deck::Model::Case& one,
                                             const CaseFields& fields, const Vec3& reaction) {
  std::vector<SupportForce> out;
  std::vector<const std::vector<mesh::NodeIndex>*> nodes;
  for (const std::size_t i : one.supports) {
    out.push_back({model.supports[i].name, false, Vec3::Zero(), {}});
    nodes.push_back(&model.supports[i].nodes);
  }
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (const auto* const moved = std::get_if<deck::Model::Displacement>(&model.loads[i].what); moved && one.acts(i)) {
      out.push_back({model.loads[i].name, true, Vec3::Zero(), {}});
      nodes.push_back(&moved->nodes);
    }
  const bool alone = out.size() == 1 && one.beds.empty();
  if (alone) {
    out.front().force = reaction;
    if (one.analysis == part::Analysis::linear) {
      Vec3 moment = Vec3::Zero();
      for (std::size_t i = 0; i < model.loads.size(); ++i)
        if (one.acts(i)) moment -= one.factors[i] * deck::total(model, model.loads[i]).moment;
      out.front().moment = moment;
    }
    return out;
  }
  if (fields.reactions.empty()) return {};
  std::vector<std::uint8_t> told(fields.reactions.size(), 0);
  for (std::size_t k = 0; k < out.size(); ++k)
    for (const mesh::NodeIndex n : *nodes[k])
      if (!std::exchange(told[n], std::uint8_t{1})) out[k].force += fields.reactions[n];
  return out;
}

}  // namespace bordado::result
