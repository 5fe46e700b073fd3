#include "section_forces.hpp"

namespace bordado::result {

const SectionForces::Section& SectionForces::section(mesh::ElementIndex element) {
  const section::SectionId s = sections_.section_of[element];
  if (ready_.empty()) ready_.resize(sections_.count());
  std::optional<Section>& out = ready_[index(s)];
  if (!out) {
    std::vector<laminate::Layer> layers = section::laminate_of(part_, sections_, s);
    const Eigen::Matrix<double, 6, 6> stiffness = laminate::stiffness(layers, sections_.bottom[s]).ABD();
    out = {std::move(layers), stiffness};
  }
  return *out;
}

Carried SectionForces::pushed(mesh::ElementIndex element, const model::Warmth& heat) {
  const section::SectionId s = sections_.section_of[element];
  const auto laid = sections_.layers_of(s);
  return six(held_expansion(
      heat, section(element).layers,
      [&](std::size_t l) -> const material::Material& {
        return section::material_of(part_, sections_, laid[l].material);
      },
      sections_.bottom[s]));
}

Carried SectionForces::operator()(mesh::ElementIndex element, const laminate::Deformation& deformed,
                                  const model::Warmth* heat) {
  Carried out = section(element).stiffness * six(deformed);
  if (heat) out -= pushed(element, *heat);
  return out;
}

}  // namespace bordado::result
