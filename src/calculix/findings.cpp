#include "findings.hpp"

#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::calculix {

using mesh::NodeIndex;
using section::SectionId;

namespace {

/// Of the moment with which temperatures from face to face bend a laminate of plies, the largest share that is within
/// layers, which expand by their mean, of those sections that stand as plies.
double lost_within_layers(const Model& model, const deck::Uses& uses, const Standing& standing) {
  const section::Sections& sections = model.design->sections;
  double worst = 0.0;
  std::set<section::SectionId> done;
  for (const deck::Uses::Use& use : uses.all) {
    if (!use.heat || standing.box(use.section).equivalents) continue;
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

/// A number in a bracket names the row of docs/calculix.md.
class Reporter {
 public:
  Reporter(const Plan& plan, Findings& findings) : plan_(plan), part_(plan.model.design->part), findings_(findings) {}

  void report() {
    const Place place = Place::in(part_.file);
    report_heat(place);
    report_equivalents(place);
    if (plan_.options.laminate_only) return;
    report_supports(place);
    if (const std::size_t knots = plan_.survey->knots(); knots > 0)
      findings_.note("deck.knots",
                     fmt::format("{} where thickness, offset or surface direction jump; this solver ties the layers "
                                 "rigidly there",
                                 counted(knots, "node")),
                     place);
    if (const std::size_t moved = plan_.survey->moved(); moved > 0)
      findings_.note(
          "deck.moved-aside",
          fmt::format(
              "{} of these {} moved along the surface by a millionth of an element's size: the normal there lies "
              "along an axis, which this solver does not bear",
              moved, moved == 1 ? "is" : "are"),
          place);
    if (plan_.grouping.largest_error > 1e-6)
      findings_.note("deck.orientations-shared",
                     fmt::format("{} orientations shared by elements within {:g}°: largest error {:.3g}°",
                                 plan_.orientations(), plan_.options.orientation_tolerance.degrees(),
                                 Angle::radians(plan_.grouping.largest_error).degrees()),
                     place);
    check_arcs(place);
    check_slenderness(place);
    check_one_across();
    if (plan_.survey->kinked())
      if (auto thick = thick_at_edge(plan_.model.surface, plan_.model.design->geometry, plan_.model.design->sections))
        findings_.add(std::move(*thick));
  }

 private:
  void report_heat(const Place& place) {
    if (const double lost = lost_within_layers(plan_.model, plan_.uses, plan_.standing); lost > 0.01)
      findings_.warning(
          "deck.heat-layers",
          fmt::format("temperatures change through the thickness, and each ply that stands as a layer has the "
                      "mean of its own: up to {:.2g} % of what bends the laminate is lost",
                      100.0 * lost),
          place, "leave out --real-plies: three layers for all bend as they should");
    if (plan_.uses.within > 0.15 * plan_.uses.varies && plan_.uses.varies > 0.0)
      findings_.warning(
          "deck.heat-coarse",
          fmt::format("temperatures differ by up to {:.2g} K of {:.2g} K within single elements, each of which "
                      "has its mean: what they bend and push comes out some per cent off",
                      plan_.uses.within, plan_.uses.varies),
          place, "mesh finer where the temperature changes");
    if (plan_.uses.rounded > 0.0)
      findings_.note(
          "deck.heat-rounded",
          fmt::format("temperatures that vary stand in {} sets of materials, each within {:.2g} K of its own",
                      plan_.uses.heats.size(), plan_.uses.rounded),
          place);
  }

  void report_equivalents(const Place& place) {
    if (layers_as(plan_.options) == deck::LayersAs::plies) return;
    findings_.note(
        "deck.equivalents",
        fmt::format("{} of {} stand as three layers each, with the A, B, D, transverse shear stiffness, mass "
                    "and expansion of the laminate: displacements and strains are the laminate's, and the "
                    "stress of every ply follows from them",
                    plan_.standing.equivalents(), counted(plan_.standing.boxes().size(), "section")),
        place);
    report_mass_moments(place);
    if (plan_.standing.equivalents() < plan_.standing.boxes().size())
      findings_.note("deck.equivalents-none",
                     fmt::format("{} cannot be three layers that are all stiff: their plies stand as they are",
                                 counted(plan_.standing.boxes().size() - plan_.standing.equivalents(), "section")),
                     place);
  }

  /// Three densities give mass and its first and second moment; where one would be negative, the mass alone.
  void report_mass_moments(const Place& place) {
    std::size_t off = 0;
    double first = 0.0, second = 0.0;
    for (const SectionId s : plan_.standing.boxes().ids()) {
      if (!plan_.standing.boxes()[s].equivalents) continue;
      const MassMoments wanted =
          mass_moments(section::laminate_of(part_, plan_.model.design->sections, s),
                       plan_.model.design->sections.bottom[s], *plan_.standing.boxes()[s].equivalents);
      const MassMoments is = mass_moments(*plan_.standing.boxes()[s].equivalents);
      if (!(wanted.mass > 0.0)) continue;
      const double h = plan_.model.design->sections.thickness[s];
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
    for (const Model::Support& support : plan_.model.supports) {
      if ((support.held & translations) == 0 || (support.held & rotations) == rotations) continue;
      double own = 0.0;
      for (const NodeIndex node : support.nodes)
        if (!plan_.survey->is_knot(node)) own = std::max(own, plan_.survey->to_middle(node).norm());
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
    for (const double arc : plan_.survey->arcs()) {
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
    const mesh::Surface& surface = plan_.model.surface;
    if (std::none_of(plan_.model.cases.begin(), plan_.model.cases.end(), [](const Model::Case& load_case) {
          return load_case.analysis == part::Analysis::large_displacements;
        }))
      return;
    std::vector<std::uint8_t> held(surface.points.size(), 0);
    for (const Model::Support& support : plan_.model.supports)
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
        *std::min_element(plan_.model.design->sections.thickness.begin(), plan_.model.design->sections.thickness.end());
    const double length = extent(plan_.model.surface.points).diagonal();
    if (length > 10000.0 * thinnest)
      findings_.warning("deck.very-thin",
                        fmt::format("the part is {:.0f} times as long as its thinnest laminate is thick: beyond some "
                                    "thousands this solver loses digits",
                                    length / thinnest),
                        place, "compare with a coarser mesh and with a hand calculation");
  }

  const Plan& plan_;
  const part::Part& part_;
  Findings& findings_;
};

}  // namespace

void report(const Plan& plan, Findings& findings) { Reporter(plan, findings).report(); }

}  // namespace bordado::calculix
