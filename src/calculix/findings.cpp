#include "findings.hpp"

#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::calculix {

using mesh::NodeIndex;
using section::SectionId;

CoreFits fit_cores(const Model& model, const List<SectionId, Box>& boxes, Findings& findings) {
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

std::size_t equivalents(const List<SectionId, Box>& boxes) {
  return static_cast<std::size_t>(
      std::count_if(boxes.begin(), boxes.end(), [](const Box& box) { return box.equivalents.has_value(); }));
}

namespace {

/// A number in a bracket names the row of docs/calculix.md.
class Reporter {
 public:
  Reporter(const WrittenDeck& deck, Findings& findings)
      : deck_(deck), part_(deck.model.design->part), findings_(findings) {}

  void report() {
    const Place place = Place::in(part_.file);
    report_equivalents(place);
    if (deck_.options.laminate_only) return;
    report_supports(place);
    if (const std::size_t knots = deck_.survey->knots(); knots > 0)
      findings_.note("deck.knots",
                     fmt::format("{} where thickness, offset or surface direction jump; this solver ties the layers "
                                 "rigidly there",
                                 counted(knots, "node")),
                     place);
    if (const std::size_t moved = deck_.survey->moved(); moved > 0)
      findings_.note(
          "deck.moved-aside",
          fmt::format(
              "{} of these {} moved along the surface by a millionth of an element's size: the normal there lies "
              "along an axis, which this solver does not bear",
              moved, moved == 1 ? "is" : "are"),
          place);
    if (deck_.largest_orientation_error > 1e-6)
      findings_.note("deck.orientations-shared",
                     fmt::format("{} orientations shared by elements within {:g}°: largest error {:.3g}°",
                                 deck_.orientations, deck_.options.orientation_tolerance.degrees(),
                                 Angle::radians(deck_.largest_orientation_error).degrees()),
                     place);
    check_arcs(place);
    check_slenderness(place);
    check_one_across();
    if (deck_.survey->kinked())
      if (auto thick = thick_at_edge(deck_.model.surface, deck_.model.design->geometry, deck_.model.design->sections))
        findings_.add(std::move(*thick));
  }

 private:
  void report_equivalents(const Place& place) {
    if (layers_as(deck_.options) == deck::LayersAs::plies) return;
    findings_.note(
        "deck.equivalents",
        fmt::format("{} of {} stand as three layers each, with the A, B, D, transverse shear stiffness, mass "
                    "and expansion of the laminate: displacements and strains are the laminate's, and the "
                    "stress of every ply follows from them",
                    equivalents(deck_.boxes), counted(deck_.boxes.size(), "section")),
        place);
    report_mass_moments(place);
    if (equivalents(deck_.boxes) < deck_.boxes.size())
      findings_.note("deck.equivalents-none",
                     fmt::format("{} cannot be three layers that are all stiff: their plies stand as they are",
                                 counted(deck_.boxes.size() - equivalents(deck_.boxes), "section")),
                     place);
  }

  /// Three densities give mass and its first and second moment; where one would be negative, the mass alone.
  void report_mass_moments(const Place& place) {
    std::size_t off = 0;
    double first = 0.0, second = 0.0;
    for (const SectionId s : deck_.boxes.ids()) {
      if (!deck_.boxes[s].equivalents) continue;
      const MassMoments wanted = mass_moments(section::laminate_of(part_, deck_.model.design->sections, s),
                                              deck_.model.design->sections.bottom[s], *deck_.boxes[s].equivalents);
      const MassMoments is = mass_moments(*deck_.boxes[s].equivalents);
      if (!(wanted.mass > 0.0)) continue;
      const double h = deck_.model.design->sections.thickness[s];
      const double by_first = std::abs(is.first - wanted.first) / (0.5 * h * wanted.mass),
                   by_second = std::abs(is.second - wanted.second) / wanted.second;
      if (by_first <= 1e-6 && by_second <= 1e-6) continue;
      ++off;
      first = std::max(first, by_first);
      second = std::max(second, by_second);
    }
    if (off > 0)
      findings_.note(
          "deck.mass-moments",
          fmt::format("{} cannot have the moments of the laminate's mass through the thickness with three "
                      "densities above nought: its mass is right; the centre of mass is off by {:.2g} % of half "
                      "the thickness, the second moment about the middle by {:.2g} % at most",
                      counted(off, "section"), 100.0 * first, 100.0 * second),
          place, "matters where masses turn about the surface; --real-plies has every layer's density");
  }

  /// Supports hold the middle of the laminate, not the mesh [11]: said once for all that a lever could matter to.
  void report_supports(const Place& place) {
    constexpr std::uint8_t translations = part::x | part::y | part::z, rotations = part::rx | part::ry | part::rz;
    std::vector<std::string> names;
    double lever = 0.0;
    for (const Model::Support& support : deck_.model.supports) {
      if ((support.held & translations) == 0 || (support.held & rotations) == rotations) continue;
      double own = 0.0;
      for (const NodeIndex node : support.nodes)
        if (!deck_.survey->is_knot(node)) own = std::max(own, deck_.survey->to_middle(node).norm());
      if (own > 1e-9) names.push_back("'" + support.name + "'");
      lever = std::max(lever, own);
    }
    if (!names.empty())
      findings_.note(
          "deck.support-at-middle",
          fmt::format("this solver holds the middle of the laminate, here up to {:.3g} {} from the mesh, at {} {}",
                      lever, part_.units.unit(Dimension::length), names.size() == 1 ? "support" : "supports",
                      listed(names)),
          place, "where that lever matters, clamp the edge or mesh the middle surface");
  }

  /// A stiff fibre leaves a coarsely meshed curved surface: hoop strains 7 % off at 15 degrees of arc an element, 1.5 %
  /// at 7.5 [15].
  void check_arcs(const Place& place) {
    std::size_t coarse = 0;
    double widest = 0.0;
    for (const double arc : deck_.survey->arcs()) {
      if (arc <= 7.5 || arc >= 20.0) continue;  // beyond 20 degrees the edge is a kink
      ++coarse;
      widest = std::max(widest, arc);
    }
    if (coarse > 0)
      findings_.warning("deck.coarse-arc",
                        fmt::format("across {} edges the surface turns by more than 7.5° (up to {:.1f}°) from one "
                                    "element to the next: fibre strains along the arc come out "
                                    "more than 1.5 % wrong",
                                    coarse, widest),
                        place,
                        "mesh finer where the surface is strongly curved; where it has a sharp edge on purpose, this "
                        "solver treats one of less than 20° as curved");
  }

  /// A reduced element that has free sides on both hands is held against twisting in itself by no other: where it turns far
  /// this solver stops (at 21 degrees; with two across at more than 60) [37].
  void check_one_across() {
    const mesh::Surface& surface = deck_.model.surface;
    if (std::none_of(deck_.model.cases.begin(), deck_.model.cases.end(),
                     [](const Model::Case& one) { return one.analysis == part::Analysis::large_displacements; }))
      return;
    std::vector<std::uint8_t> held(surface.points.size(), 0);
    for (const Model::Support& support : deck_.model.supports)
      for (const NodeIndex n : support.nodes) held[n] = 1;
    const mesh::EdgeTable edges = mesh::edges(surface);
    std::vector<std::uint8_t> free_sides(surface.element_count(), 0);  // a bit each
    for (std::size_t j = 0; j < edges.size(); ++j)
      if (edges.first[j + 1] - edges.first[j] == 1 && !(held[edges.nodes[j][0]] && held[edges.nodes[j][1]])) {
        const auto& use = edges.uses[edges.first[j]];
        free_sides[use.element] |= static_cast<std::uint8_t>(1u << use.side);
      }
    std::size_t alone = 0;
    mesh::ElementIndex first = mesh::no_index;
    for (mesh::ElementIndex e = 0; e < free_sides.size(); ++e) {
      const auto bits = free_sides[e];
      if (mesh::corner_count(surface.shapes[e]) != 4 || ((bits & 5) != 5 && (bits & 10) != 10)) continue;
      ++alone;
      if (first == mesh::no_index) first = e;
    }
    if (alone > 0)
      findings_.warning(
          "deck.one-across",
          fmt::format("{} alone across a strip whose sides are free: in large displacements this solver stops "
                      "where such a strip turns by some 20°",
                      alone == 1 ? "an element lies" : fmt::format("{} elements lie", alone)),
          surface.place_of(first), "mesh two elements across");
  }

  void check_slenderness(const Place& place) {
    const double thinnest =
        *std::min_element(deck_.model.design->sections.thickness.begin(), deck_.model.design->sections.thickness.end());
    const double length = extent(deck_.model.surface.points).diagonal();
    if (length > 10000.0 * thinnest)
      findings_.warning("deck.very-thin",
                        fmt::format("the part is {:.0f} times as long as its thinnest laminate is thick: beyond some "
                                    "thousands this solver loses digits",
                                    length / thinnest),
                        place, "compare with a coarser mesh and with a hand calculation");
  }

  const WrittenDeck& deck_;
  const part::Part& part_;
  Findings& findings_;
};

}  // namespace

void report_calculix(const WrittenDeck& deck, Findings& findings) { Reporter(deck, findings).report(); }

double lost_within_layers(const Model& model, const deck::Uses& uses, const List<section::SectionId, Box>& boxes) {
  const section::Sections& sections = model.design->sections;
  double worst = 0.0;
  std::set<section::SectionId> done;
  for (const deck::Uses::Use& use : uses.all) {
    if (!use.heat || boxes[use.section].equivalents) continue;
    const deck::Heats& heats = uses.heats[*use.heat];
    if (std::none_of(heats.begin(), heats.end(), [](const auto& heat) { return heat && heat->tool != heat->bag; }) ||
        !done.insert(use.section).second)
      continue;
    double z = -0.5 * sections.thickness[use.section];
    laminate::Vector3 all = laminate::Vector3::Zero(), lost = all;
    for (const laminate::Layer& layer : section::laminate_of(model.design->part, sections, use.section)) {
      const double t = layer.thickness, m = z + 0.5 * t;
      const laminate::Vector3 push = laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle) *
                                     laminate::free_strain(layer, laminate::Expands::by_temperature);
      all += (t * m * m + t * t * t / 12.0) * push;
      lost += t * t * t / 12.0 * push;
      z += t;
    }
    if (all.norm() > 0.0) worst = std::max(worst, lost.norm() / all.norm());
  }
  return worst;
}

}  // namespace bordado::calculix
