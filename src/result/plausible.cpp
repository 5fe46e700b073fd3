// What is to be known of an answer before it is believed, and of a criterion before it is asked.
#include <bordado/design.hpp>
#include <bordado/recovery.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::result {

using mesh::ElementIndex;

void check_plausible(const model::CaseFields& fields, const mesh::Surface& surface, Findings& findings) {
  std::size_t most = 0;
  double largest = 0.0;
  for (std::size_t e = 0; e < fields.sections.size(); ++e)
    if (const double strain = fields.sections[e].deformation.strain.cwiseAbs().maxCoeff(); !(strain <= largest))
      largest = strain, most = e;
  if (largest <= 0.2) return;
  findings.warning("result.strain-unlikely",
                   fmt::format("case '{}': element {} is strained by {:.3g}, which nothing bears", fields.name,
                               surface.element_ids[most], largest),
                   {}, "check units, loads and supports; a broken answer looks like this, too");
}

void check_peel(const model::Model& model, std::span<const laminate::Criterion> criteria, Findings& findings) {
  if (std::find(criteria.begin(), criteria.end(), laminate::Criterion::peel) == criteria.end()) return;
  const Design& design = *model.design;
  const Place place = Place::in(design.part.file);
  const auto known = [&](const layup::Ply& ply) {
    return laminate::missing_for(laminate::Criterion::peel, design.part.materials[ply.material]).empty();
  };
  if (!model.solids) {
    findings.warning("result.peel-none", "sections have no stress through the thickness, so that nothing peels", place,
                     "judge solids by it: bordado solve --solids ply, or leave the criterion out");
    return;
  }
  if (std::none_of(design.layup.plies.begin(), design.layup.plies.end(), known)) return;
  // Along the border, where plies of several angles end.
  const mesh::EdgeTable edges = mesh::edges(design.surface);
  layup::LayersOn layers_on(design);
  std::vector<ElementIndex> along;
  double narrowest = std::numeric_limits<double>::infinity(), widest = 0.0;
  for (std::size_t j = 0; j < edges.size(); ++j) {
    if (edges.first[j + 1] - edges.first[j] != 1) continue;
    const ElementIndex e = edges.uses[edges.first[j]].element;
    double thinnest = std::numeric_limits<double>::infinity();
    const auto laid = layers_on(e);
    if (std::none_of(laid.begin(), laid.end(), [&](const layup::LaidLayer& layer) {
          return layer.material != laid.front().material || layer.angle != laid.front().angle;
        }))
      continue;
    for (const layup::LaidLayer& layer : laid) thinnest = std::min(thinnest, layer.thickness);
    const double length = (design.surface.points[edges.nodes[j][0]] - design.surface.points[edges.nodes[j][1]]).norm();
    const double width = design.geometry.areas[e] / length / thinnest;
    narrowest = std::min(narrowest, width), widest = std::max(widest, width);
    along.push_back(e);
  }
  std::sort(along.begin(), along.end());
  along.erase(std::unique(along.begin(), along.end()), along.end());
  if (along.empty()) return;
  findings.note(
      "result.peel-edges",
      fmt::format("{} lie along the border, where stress between plies grows without limit as elements get "
                  "narrower: peel is told of their middle, and they are {:.3g} to {:.3g} times as wide as their "
                  "thinnest ply is thick",
                  counted(along.size(), "element"), narrowest, widest),
      place,
      "mesh a border as wide as a ply or two, and compare reserves there between meshes of that width alone: a "
      "strength that is "
      "read from tests by such a mean is of that width, too");
}

}  // namespace bordado::result
