#include "assembling.hpp"

#include <bordado/design.hpp>
#include <bordado/layup/slopes.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::model {

namespace {

/// How much of a plate's deflection the shear of its laminate makes: 3 D / (H L^2), as of a strip clamped at one end.
double share_of_shear(const Model& model, section::SectionId s, double length) {
  const auto layers = section::laminate_of(model.design->part, model.design->sections, s);
  const laminate::Stiffness k = laminate::stiffness(layers, -0.5 * model.design->sections.thickness[s]);
  return 3.0 * k.D.topLeftCorner<2, 2>().trace() / (k.H.trace() * length * length);
}

}  // namespace

void report_chamfers(const Model& model, const mesh::Surface& surface, Findings& findings) {
  const layup::Layup& layup = model.design->layup;
  const section::Sections& sections = model.design->sections;
  if (layup.tapers.empty()) return;
  const Extent box = extent(surface.points);
  std::optional<mesh::EdgeTable> edges;
  for (const part::PlyId p : layup.plies.ids()) {
    if (!layup.plies[p].taper || !material::is_core(model.design->part.materials[layup.plies[p].material].kind))
      continue;
    if (!edges) edges = mesh::edges(surface);
    const layup::Rise rise = layup::steepest_rise(*model.design, *edges, p);
    constexpr double gentle = 0.05, little = 0.02;
    if (rise.slope <= gentle) continue;
    if (share_of_shear(model, sections.section_of[rise.element], box.diagonal()) <= little) continue;
    findings.warning(
        "deck.soft-chamfer",
        fmt::format("the core '{}' rises 1 in {:.3g} (element {}): there the sloping face carries part of the shear, "
                    "which no section of a shell knows, and this core gives in shear",
                    model.design->part.plies[p].id, 1.0 / rise.slope, surface.element_ids[rise.element]),
        surface.place_of(rise.element),
        "near the slope deflections and stresses may be off by tens of per cent: make it gentler than 1 in 20, or look "
        "at it with solid elements");
  }
}

}  // namespace bordado::model
