#include <bordado/zone_panels.hpp>

#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

namespace bordado::result {

namespace {

constexpr std::array<laminate::Criterion, 3> short_wave_criteria{
    laminate::Criterion::wrinkling, laminate::Criterion::dimpling, laminate::Criterion::crimping};
constexpr double never = std::numeric_limits<double>::infinity();

double degrees(double radians) { return radians * 180.0 / std::numbers::pi; }

sizing::Panel panel_of(const ZonePanel& zone, const PanelEdges& edges, const sizing::PlateStiffness& plate) {
  return {zone.a, zone.b, plate, edges.x0, edges.x1, edges.y0, edges.y1};
}

/// An element under one of the cases.
struct Loaded {
  std::size_t element, which;  ///< in the panel's elements, and of the cases
  laminate::Vector3 N;
};

/// Buckling of every element, by laminates: each is one panel under many loads.
ElementReserves buckling_of(const Design& design, PanelCheck& check,
                            std::span<const std::vector<SectionResultants>> carried,
                            std::span<const std::size_t> cases) {
  const ZonePanel& zone = check.panel;
  std::map<section::SectionId, std::vector<Loaded>> by_section;
  for (std::size_t i = 0; i < zone.elements.size(); ++i)
    for (std::size_t c = 0; c < carried.size(); ++c)
      by_section[design.sections.section_of[zone.elements[i]]].push_back({i, c, carried[c][zone.elements[i]].N});
  check.laminates = by_section.size();
  ElementReserves out{std::string(sizing::buckling_words), std::vector<double>(zone.elements.size(), never),
                      std::vector<std::size_t>(zone.elements.size(), cases.front())};
  std::vector<std::pair<section::SectionId, const std::vector<Loaded>*>> sections;
  for (const auto& [section, loads] : by_section) sections.emplace_back(section, &loads);
  const auto panel_with = [&](section::SectionId section) {
    return panel_of(zone, check.edges,
                    sizing::plate_stiffness(section::laminate_of(design.part, design.sections, section)));
  };
  const auto ask_all = [&] {
    tbb::parallel_for(std::size_t{0}, sections.size(), [&](std::size_t s) {
      const std::vector<Loaded>& all = *sections[s].second;
      std::vector<laminate::Vector3> loads;
      for (const Loaded& one : all) loads.push_back(one.N);
      const sizing::ManyLoads many(panel_with(sections[s].first), loads, check.terms);
      std::vector<double> factors(all.size());
      tbb::parallel_for(tbb::blocked_range<std::size_t>(0, all.size(), 256), [&](const auto& range) {
        for (std::size_t k = range.begin(); k != range.end(); ++k) factors[k] = many.factor(loads[k]);
      });
      // Elements of a section are no other section's: nothing is written twice.
      for (const Loaded& one : all) out.factors[one.element] = never;
      for (std::size_t k = 0; k < all.size(); ++k)
        if (factors[k] < out.factors[all[k].element])
          out.factors[all[k].element] = factors[k], out.cases[all[k].element] = cases[all[k].which];
    });
  };
  ask_all();
  // How many functions it takes is asked where the least is needed.
  const auto least =
      static_cast<std::size_t>(std::min_element(out.factors.begin(), out.factors.end()) - out.factors.begin());
  if (!std::isfinite(out.factors[least])) return out;
  const section::SectionId section = design.sections.section_of[zone.elements[least]];
  for (const Loaded& one : by_section.at(section))
    if (one.element == least && cases[one.which] == out.cases[least]) {
      sizing::BucklingFactors found;
      const sizing::Terms enough = sizing::enough_terms(panel_with(section), one.N, found);
      if (enough.x == check.terms.x) break;
      check.terms = enough;
      ask_all();
      break;
    }
  return out;
}

/// What it comes to.
void sum_up(ElementReserves& thing, const ZonePanel& zone, const mesh::Geometry& geometry) {
  for (std::size_t i = 0; i < thing.factors.size(); ++i) {
    if (thing.factors[i] > sizing::largest_margin) thing.factors[i] = never;
    if (thing.factors[i] < thing.factors[thing.least]) thing.least = i;
    if (thing.factors[i] >= 1.0) continue;
    ++thing.below_one;
    thing.area_below_one += geometry.areas[zone.elements[i]];
  }
}

}  // namespace

std::span<const laminate::Criterion> short_waves() { return short_wave_criteria; }

zone::ZoneId zone_named(const Design& design, const std::string& zone) {
  const zone::ZoneSets& zones = design.layup.zones;
  if (const auto id = zones.find(zone)) return *id;
  std::vector<std::string> known;
  for (const auto z : zones.declared()) known.push_back(zones.names[z]);
  const auto near = nearest_name(zone, known);
  throw Failure({Severity::error, "zone.unknown", fmt::format("there is no zone '{}'", plain_text(zone, 80)),
                 Place::in(design.part.file),
                 near ? fmt::format("did you mean '{}'?", *near) : fmt::format("zones: {}", listed(known, 20))});
}

ZonePanel panel_under(const Design& design, const std::string& zone,
                      const std::optional<std::array<double, 2>>& lengths) {
  const zone::ZoneId id = zone_named(design, zone);
  ZonePanel out;
  out.zone = zone;
  out.elements = design.layup.zones.elements(id);
  if (out.elements.empty())
    throw Failure({Severity::error, "panel.zone-empty", fmt::format("zone '{}' holds no element", plain_text(zone, 80)),
                   Place::in(design.part.file), "name one that does"});
  const mesh::Geometry& geometry = design.geometry;
  Vec3 normal = Vec3::Zero(), along = Vec3::Zero(), middle = Vec3::Zero();
  for (const mesh::ElementIndex e : out.elements) {
    const double area = geometry.areas[e];
    out.area += area;
    normal += area * geometry.normals[e];
    along += area * design.sections.references[e];
    middle += area * geometry.centres[e];
  }
  out.normal = normal.normalized();
  out.middle = middle / out.area;
  along -= along.dot(out.normal) * out.normal;
  if (normal.norm() < 0.8 * out.area || along.norm() < 0.5 * out.area)
    throw Failure({Severity::error, "panel.wraps",
                   fmt::format("zone '{}' turns so far that it is no panel", plain_text(zone, 80)),
                   Place::in(design.part.file), "name a zone that is nearly flat, or declare one"});
  out.x = along.normalized();
  const Vec3 y = out.normal.cross(out.x);
  Vec3 low = Vec3::Constant(never), high = Vec3::Constant(-never);
  for (const mesh::ElementIndex e : out.elements) {
    for (const mesh::NodeIndex n : design.surface.nodes_of(e)) {
      const Vec3 from = design.surface.points[n] - out.middle, at(from.dot(out.x), from.dot(y), from.dot(out.normal));
      low = low.cwiseMin(at), high = high.cwiseMax(at);
    }
    const Vec3& reference = design.sections.references[e];
    out.turns = std::max(out.turns, std::abs(std::atan2(reference.dot(y), reference.dot(out.x))));
  }
  const Vec3 size = high - low;
  out.filled = out.area / (size[0] * size[1]);
  out.bulge = size[2];
  out.a = size[0], out.b = size[1];
  if (lengths) out.a = (*lengths)[0], out.b = (*lengths)[1], out.said = true;
  return out;
}

void tell_shape(const ZonePanel& panel, const UnitSystem& units, const Place& where, Findings& findings) {
  const std::string name = fmt::format("zone '{}'", panel.zone), length = units.unit(Dimension::length);
  if (!panel.said && panel.filled < 0.9)
    findings.warning("panel.not-rectangular",
                     fmt::format("{} fills {:.0f} % of the rectangle that holds it, {:.4g} x {:.4g} {}", name,
                                 100.0 * panel.filled, panel.a, panel.b, length),
                     where, "say between which edges it lies: --size");
  if (panel.turns > 10.0 * std::numbers::pi / 180.0)
    findings.warning("panel.turned",
                     fmt::format("0 degrees turns by up to {:.0f} within {}: each element's panel lies along its own",
                                 degrees(panel.turns), name),
                     where, "take a smaller zone, or a frame that keeps its direction there");
  if (panel.bulge > 0.02 * std::min(panel.a, panel.b))
    findings.note("panel.curved",
                  fmt::format("{} bulges by {:.3g} {}: it is taken as flat, and bears more than is told where it is "
                              "pushed in its plane",
                              name, panel.bulge, length),
                  where);
}

std::vector<PanelCheck> check_panels(const model::Model& model, std::span<const ZonePanel> panels,
                                     const PanelEdges& edges, std::span<const model::CaseFields> fields,
                                     std::span<const std::size_t> cases, const Progress& progress) {
  const Design& design = *model.design;
  const auto tell = [&](std::string_view activity, double fraction) {
    if (progress) progress(activity, fraction);
  };
  std::vector<std::vector<SectionResultants>> carried;
  std::vector<Reserves> waves;
  const Recovery plain(model, {});
  for (std::size_t c = 0; c < fields.size(); ++c) carried.push_back(plain.carried(fields[c], cases[c]));
  for (std::size_t k = 0; k < short_wave_criteria.size(); ++k) {
    tell("short waves of faces", 0.5 * static_cast<double>(k) / static_cast<double>(short_wave_criteria.size()));
    waves.push_back(Recovery(model, {short_wave_criteria[k]}).reserves(fields, cases));
  }
  std::vector<PanelCheck> out;
  for (const ZonePanel& panel : panels) {
    tell("buckling of panels", 0.5 + 0.5 * static_cast<double>(out.size()) / static_cast<double>(panels.size()));
    PanelCheck check;
    check.panel = panel, check.edges = edges;
    check.things.push_back(buckling_of(design, check, carried, cases));
    for (std::size_t k = 0; k < short_wave_criteria.size(); ++k) {
      ElementReserves thing;
      for (const mesh::ElementIndex e : panel.elements) {
        const Critical& critical = waves[k].of_elements[e];
        if (critical.any()) thing.what = laminate::words(critical.mode);
        thing.factors.push_back(critical.any() ? critical.factor : never);
        thing.cases.push_back(critical.case_index);
      }
      if (!thing.what.empty()) check.things.push_back(std::move(thing));
    }
    for (ElementReserves& thing : check.things) sum_up(thing, panel, design.geometry);
    std::stable_sort(check.things.begin(), check.things.end(),
                     [](const auto& a, const auto& b) { return a.factors[a.least] < b.factors[b.least]; });
    out.push_back(std::move(check));
  }
  tell("", 1.0);
  return out;
}

sizing::PanelCase panel_case(const model::Model& model, const PanelCheck& check, mesh::ElementIndex element,
                             const model::CaseFields& fields, std::size_t case_index) {
  const Design& design = *model.design;
  const section::SectionId section = design.sections.section_of[element];
  sizing::PanelCase out;
  out.stack.layers = section::laminate_of(design.part, design.sections, section);
  for (const section::LaidLayer& layer : design.sections.layers_of(section))
    out.stack.materials.push_back(&section::material_of(design.part, design.sections, layer.material));
  out.a = check.panel.a, out.b = check.panel.b;
  out.x0 = check.edges.x0, out.x1 = check.edges.x1, out.y0 = check.edges.y0, out.y1 = check.edges.y1;
  const SectionResultants carried = Recovery(model, {}).carried(fields, case_index)[element];
  const double middle = design.sections.bottom[section] + 0.5 * laminate::thickness(out.stack.layers);
  out.N = carried.N;
  out.place = {carried.M - middle * carried.N, carried.Q};
  return out;
}

void tell_reserves(const PanelCheck& check, const model::Model& model, Findings& findings) {
  const Design& design = *model.design;
  for (const ElementReserves& thing : check.things) {
    if (thing.below_one == 0) continue;
    const bool buckles = thing.what == sizing::buckling_words;
    findings.warning(
        buckles ? "panel.buckles" : "panel.wrinkles",
        fmt::format("zone '{}', case {}: {} at {:.3g} times the load at element {}; below 1 on {} of its elements",
                    check.panel.zone, model.cases[thing.cases[thing.least]].name, thing.what,
                    thing.factors[thing.least], design.surface.element_ids[check.panel.elements[thing.least]],
                    thing.below_one),
        Place::in(design.part.file),
        buckles ? "a thicker core, stiffer plies at the faces, or edges nearer to each other"
                : "thicker faces, or a core that is stiffer or has smaller cells");
  }
}

std::vector<mesh::Array> fields_of(const Design& design, std::span<const PanelCheck> checks) {
  const std::size_t count = design.surface.element_count();
  std::vector<mesh::Array> out{{"panel", false, 1, std::vector<double>(count, std::nan(""))}};
  std::map<std::string, std::vector<double>> reserves;
  for (std::size_t c = 0; c < checks.size(); ++c) {
    for (const mesh::ElementIndex e : checks[c].panel.elements) out[0].values[e] = static_cast<double>(c + 1);
    for (const ElementReserves& thing : checks[c].things) {
      std::vector<double>& values = reserves.try_emplace(thing.what, count, std::nan("")).first->second;
      for (std::size_t i = 0; i < thing.factors.size(); ++i)
        if (std::isfinite(thing.factors[i]))
          values[checks[c].panel.elements[i]] = std::fmin(values[checks[c].panel.elements[i]], thing.factors[i]);
    }
  }
  for (auto& [what, values] : reserves) out.push_back({"reserve, " + what, false, 1, std::move(values)});
  return out;
}

}  // namespace bordado::result
