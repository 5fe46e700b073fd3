#include "plan.hpp"

#include "materials.hpp"

#include <bordado/base/text.hpp>
#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

namespace bordado::calculix {

using mesh::ElementIndex;
using section::SectionId;

namespace {

/// What is done about cores that the solver would make too stiff.
CoreFits fit_cores(const Model& model, const List<SectionId, SolverBox>& boxes, Findings& findings) {
  const part::Part& part = model.design->part;
  const section::Sections& sections = model.design->sections;
  CoreFits out;
  out.fits.resize(sections.count());
  std::size_t stiff = 0;
  for (const SectionId s : sections.ids()) {
    if (boxes[s].equivalents) continue;  // they have the laminate's own transverse shear
    out.fits[s] = deck::fit_soft_core(part, sections, s);
    if (out.fits[s]) {
      ++out.fitted;
      out.worst = std::max(out.worst, out.fits[s]->voigt_over_H);
      out.leftover = std::max(out.leftover, out.fits[s]->leftover);
      continue;
    }
    const auto stack = section::laminate_of(part, sections, s);
    const laminate::Matrix2 H = laminate::transverse_shear(stack), voigt = laminate::transverse_shear_voigt(stack);
    if (voigt(0, 0) > 2.0 * H(0, 0) || voigt(1, 1) > 2.0 * H(1, 1)) ++stiff;
  }
  if (out.fitted > 0)
    findings.note(
        "deck.soft-core",
        fmt::format("{} with a core would come out up to {:.3g} times too stiff in transverse shear; the faces carry "
                    "equivalent shear moduli G13, G23 that give the laminate its true shear stiffness (left over: "
                    "{:.2g} %), so shear stresses in the faces are not real",
                    counted(out.fitted, "section"), out.worst, 100.0 * out.leftover),
        Place::in(part.file));
  if (out.leftover > 0.05)
    findings.warning(
        "deck.soft-core-leftover",
        fmt::format("the equivalent shear moduli of the faces miss the true shear stiffness of a section by {:.2g} %",
                    100.0 * out.leftover),
        Place::in(part.file),
        "the core is much stiffer one way than the other and the faces lie across: check deflections by a hand "
        "calculation");
  if (stiff > 0)
    findings.warning("deck.shear-too-stiff",
                     fmt::format("{} without a core: the layers differ so much in shear that this solver is more than "
                                 "twice too stiff in transverse shear",
                                 counted(stiff, "section")),
                     Place::in(part.file), "declare the soft material as kind = \"foam\" or \"honeycomb\"");
  return out;
}

}  // namespace

Standing::Standing(const Model& model, const deck::WriteOptions& options, Findings& findings)
    : model_(model), boxes_(calculix::boxes(model, options)), cores_(fit_cores(model, boxes_, findings)) {
  const part::Part& part = model.design->part;
  const section::Sections& sections = model.design->sections;
  layers_.resize(sections.count());
  for (const SectionId s : sections.ids()) {
    const SolverBox& box = boxes_[s];
    const auto laid = sections.layers_of(s);
    const auto layers = section::laminate_of(part, sections, s);
    const double settling = box.thickness / sections.thickness[s];  // 1, or off by a millionth at most
    double bottom = box.bottom;
    for (std::size_t k = 0; k < box.layers; ++k) {
      StandingLayer& layer = layers_[s].emplace_back();
      layer.bottom = bottom;
      if (const auto& three = box.equivalents) {
        layer.thickness = three->shares[k] * box.thickness;
        layer.Q = three->Q[k];
        layer.G = three->G;
        layer.through = stiffness_through(*three);
      } else {
        const material::Material& material = section::material_of(part, sections, laid[k].material);
        layer.thickness = layers[k].thickness * settling;
        layer.angle = section::axes_of(part, sections, laid[k]);
        layer.elastic = material.elastic;
        material::Elastic own = layers[k].elastic;
        if (cores_.fits[s] && !material::is_core(material.kind)) {
          const double G13 = cores_.fits[s]->G13[k], G23 = cores_.fits[s]->G23[k];
          layer.elastic = deck::with_transverse_shear(*layer.elastic, G13, G23);
          own = deck::with_transverse_shear(own, G13, G23);
        }
        layer.Q = laminate::rotated(laminate::plane_stress_stiffness(layers[k].elastic), layers[k].angle);
        layer.G = laminate::transverse_stiffness(own, layers[k].angle);
        layer.through = stiffness_through(material);
      }
      bottom += layer.thickness;
    }
  }
}

std::size_t Standing::equivalents() const {
  return static_cast<std::size_t>(
      std::count_if(boxes_.begin(), boxes_.end(), [](const SolverBox& box) { return box.equivalents.has_value(); }));
}

std::size_t Standing::levels(SectionId section, mesh::Shape shape) const {
  return mesh::corner_count(shape) == 3 && boxes_[section].layers == 1 ? 3 : 2;
}

std::size_t Standing::points(ElementIndex element) const {
  const mesh::Shape shape = model_.surface.shapes[element];
  const SectionId s = model_.design->sections.section_of[element];
  return (mesh::corner_count(shape) == 3 ? 3 : 4) * levels(s, shape) * boxes_[s].layers;
}

double Standing::above(SectionId s, std::size_t layer, const model::Warmth& heat) const {
  const section::Sections& sections = model_.design->sections;
  const section::LaidLayer& laid = sections.layers_of(s)[layer];
  const double share = (laid.bottom + 0.5 * laid.thickness - sections.bottom[s]) / sections.thickness[s];
  return heat.above(section::material_of(model_.design->part, sections, laid.material), share);
}

std::vector<LayerExpansion> Standing::expansions(SectionId s, const model::Warmth& heat, bool through) const {
  const section::Sections& sections = model_.design->sections;
  const auto layers = section::laminate_of(model_.design->part, sections, s);
  const auto laid = sections.layers_of(s);
  std::vector<LayerExpansion> out;
  if (const auto& three = boxes_[s].equivalents) {
    const auto free = [&](std::size_t k, double z) -> laminate::Vector3 {
      const double share = (z - sections.bottom[s]) / sections.thickness[s];
      return heat.above(section::material_of(model_.design->part, sections, laid[k].material), share) *
             laminate::free_strain(layers[k], laminate::Expands::by_temperature);
    };
    for (const laminate::Vector3& strain : calculix::expansions(*three, layers, sections.bottom[s], free))
      out.push_back({strain, 0.0});
    return out;
  }
  for (std::size_t k = 0; k < layers.size(); ++k) {
    const double kelvin = above(s, k, heat);
    out.push_back({kelvin * laminate::free_strain(layers[k], laminate::Expands::by_temperature),
                   through ? kelvin * layers[k].thermal[2] : 0.0});
  }
  return out;
}

Plan::Plan(const Model& model, const deck::WriteOptions& options, std::span<const std::uint8_t> upside_down,
           Findings& findings)
    : model(model),
      options(options),
      cases(options.laminate_only ? std::vector<std::size_t>() : deck::wanted_cases(model, options)),
      heated(deck::heat_in_materials(model, cases)),
      standing(model, options, findings),
      uses(deck::turned(deck::uses(model, cases, heated), upside_down)),
      grouping(group(model, options.orientation_tolerance, uses.of)),
      angles(grouping.axes.size()) {
  if (!options.laminate_only) survey.emplace(model, standing.boxes(), cases);
  for (const ElementGroup& group : grouping.groups)
    for (const StandingLayer& layer : standing.layers_of(uses.all[group.use].section))
      angles[group.axes].insert(layer.angle.degrees());
}

std::size_t Plan::orientations() const {
  return std::accumulate(angles.begin(), angles.end(), std::size_t{0},
                         [](std::size_t sum, const std::set<double>& own) { return sum + own.size(); });
}

namespace {

/// Whether a static case has a temperature and other loads.
bool holds_besides(const Model& model, const Model::Case& load_case) {
  bool warm = false, other = false;
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (load_case.acts(i)) (std::holds_alternative<Model::Temperature>(model.loads[i].what) ? warm : other) = true;
  return load_case.analysis == part::Analysis::linear && warm && other;
}

}  // namespace

std::vector<PlannedStep> steps_of(const Model& model, const Model::Case& load_case, bool held) {
  using Does = PlannedStep::Does;
  std::vector<PlannedStep> out;
  switch (load_case.analysis) {
    case part::Analysis::linear:
      out = {{Does::linear}};
      if (held && holds_besides(model, load_case)) out.push_back({Does::held});
      break;
    case part::Analysis::large_displacements:
      out = {{Does::far}};
      break;
    case part::Analysis::frequencies:
      if (load_case.any_load()) out.push_back({Does::preload});
      out.push_back({Does::frequencies, 1.0, static_cast<std::size_t>(load_case.count)});
      break;
    case part::Analysis::buckling:
      // This solver finds factors above nought only, those first that are nearest to one, and none below a half; of few that
      // are asked for the lowest may be wrong; and digits are lost in the large ones. So at least four, and some more times
      // with smaller loads: the same ones for factors below one, and the other way round.
      for (const double share : {1.0, share_below_one, -0.01})
        out.push_back({Does::buckling, share, static_cast<std::size_t>(std::max(4, load_case.count))});
      break;
  }
  return out;
}

}  // namespace bordado::calculix
