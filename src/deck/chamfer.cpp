#include "writers.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::deck {

namespace {

/// The steepest rise of a ply between neighbours, and where.
struct Rise {
  double slope = 0.0;
  mesh::ElementIndex element = 0;
};

Rise steepest(const mesh::EdgeTable& edges, const mesh::Geometry& geometry, const layup::Layup& layup,
              part::PlyId ply) {
  Rise out;
  for (std::size_t j = 0; j < edges.size(); ++j) {
    if (edges.first[j + 1] - edges.first[j] != 2) continue;
    const mesh::ElementIndex e = edges.uses[edges.first[j]].element, f = edges.uses[edges.first[j] + 1].element;
    if (!layup.lies_on(ply, e) || !layup.lies_on(ply, f)) continue;
    const double run = (geometry.centres[e] - geometry.centres[f]).norm();
    const double rise = std::abs(layup::thickness(layup, ply, e) - layup::thickness(layup, ply, f));
    if (run > 0.0 && rise / run > out.slope) out = {rise / run, e};
  }
  return out;
}

/// How much of a plate's deflection the shear of its laminate makes: 3 D / (H L^2), as of a strip clamped at one end.
double share_of_shear(const Model& model, section::SectionId s, double length) {
  const auto layers = section::laminate_of(*model.part, *model.sections, s);
  const laminate::Stiffness k = laminate::stiffness(layers, -0.5 * model.sections->thickness[s]);
  return 3.0 * k.D.topLeftCorner<2, 2>().trace() / (k.H.trace() * length * length);
}

}  // namespace

void report_chamfers(const Model& model, const mesh::Surface& surface, Findings& findings) {
  const layup::Layup& layup = *model.layup;
  const section::Sections& sections = *model.sections;
  if (layup.tapers.empty()) return;
  const Extent box = extent(surface.points);
  std::optional<mesh::EdgeTable> edges;
  for (const part::PlyId p : layup.plies.ids()) {
    if (!layup.plies[p].taper || !material::is_core(model.part->materials[layup.plies[p].material].kind)) continue;
    if (!edges) edges = mesh::edges(surface);
    const Rise rise = steepest(*edges, model.geometry, layup, p);
    constexpr double gentle = 0.05, little = 0.02;
    if (rise.slope <= gentle) continue;
    if (share_of_shear(model, sections.section_of[rise.element], box.diagonal()) <= little) continue;
    findings.warning(
        "deck.soft-chamfer",
        fmt::format("the core '{}' rises 1 in {:.3g} (element {}): there the sloping face carries part of the shear, "
                    "which no section of a shell knows, and this core gives in shear",
                    model.part->plies[p].id, 1.0 / rise.slope, surface.element_ids[rise.element]),
        surface.place_of(rise.element),
        "near the slope deflections and stresses may be off by tens of per cent: make it gentler than 1 in 20, or look "
        "at it with solid elements");
  }
}

}  // namespace bordado::deck
