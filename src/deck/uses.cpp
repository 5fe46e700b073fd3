#include <bordado/deck/uses.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <set>
#include <tuple>
#include <unordered_map>

namespace bordado::deck {

using mesh::ElementIndex;

namespace {

/// Calls with(load, factor, case's place in the list).
template <class With>
void for_each_heat(const Model& model, std::span<const std::size_t> cases, With with) {
  for (std::size_t k = 0; k < cases.size(); ++k)
    for_each_load<Model::Temperature>(model, model.cases[cases[k]],
                                      [&](const Model::Temperature& heat, double factor) { with(heat, factor, k); });
}

}  // namespace

bool heat_in_materials(const Model& model, std::span<const std::size_t> cases) {
  bool through = false;
  for_each_heat(model, cases,
                [&](const Model::Temperature& heat, double, std::size_t) { through = through || heat.through; });
  return through || stress_free_temperatures(model, cases).size() > 1;
}

double common_stress_free(const Model& model, std::span<const std::size_t> cases) {
  const std::set<double> all = stress_free_temperatures(model, cases);
  return all.size() == 1 ? *all.begin() : 0.0;
}

std::optional<double> only_stress_free(const Model& model, std::span<const std::size_t> cases) {
  const std::set<double> all = stress_free_temperatures(model, cases);
  if (all.empty()) return std::nullopt;
  if (all.size() > 1)
    throw Failure(
        {Severity::error, "deck.stress-free-differs",
         fmt::format("its materials are free of stress at {} different temperatures, {:g} to {:g}: a deck of "
                     "bulk data has one for each section, and one at which all begins",
                     all.size(), *all.begin(), *all.rbegin()),
         Place::in(model.design->part.file),
         "give them one stress-free-temperature, write the cases without temperature (--case NAME), or a deck "
         "for CalculiX"});
  return *all.begin();
}

namespace {

/// Per element and case what it is warmed to; where loads overlap the later one says.
std::vector<Heats> heats_of(const Model& model, std::span<const std::size_t> cases, double& rounded, double& within,
                            double& varies) {
  std::vector<Heats> out(model.surface.element_count(), Heats(cases.size()));
  double low = std::numeric_limits<double>::infinity(), high = -low;
  for_each_heat(model, cases, [&](const Model::Temperature& heat, double factor, std::size_t k) {
    for (const ElementIndex e : heat.elements) {
      const std::optional<model::Warmth> warm = warmth_by(model.surface, heat, factor, e);
      if (!warm) continue;
      const model::Warmth& here = *warm;
      for (const mesh::NodeIndex n : model.surface.nodes_of(e)) {
        const auto at =
            static_cast<std::size_t>(std::lower_bound(heat.nodes.begin(), heat.nodes.end(), n) - heat.nodes.begin());
        within = std::max({within, std::abs(heat.tool[at] - here.tool), std::abs(heat.bag[at] - here.bag)});
      }
      low = std::min({low, here.tool, here.bag});
      high = std::max({high, here.tool, here.bag});
      out[e][k] = here;
    }
  });
  if (!(high - low > 1e-9 * std::max(1.0, std::abs(high)))) return out;
  varies = high - low;
  constexpr double most = 200.0;  // levels: a change of a two-hundredth of all there is
  const double step = (high - low) / most;
  for (Heats& heats : out)
    for (std::optional<model::Warmth>& heat : heats) {
      if (!heat) continue;
      for (double* const value : {&heat->tool, &heat->bag}) {
        const double level = low + step * std::round((*value - low) / step);
        rounded = std::max(rounded, std::abs(level - *value));
        *value = level;
      }
    }
  return out;
}

}  // namespace

Uses uses(const Model& model, std::span<const std::size_t> cases, bool heated) {
  const section::Sections& sections = model.design->sections;
  const std::vector<double>& added = model.design->layup.added_mass;
  Uses out;
  const std::size_t count = sections.section_of.size();
  out.of.resize(count);
  if (added.empty() && !heated) {
    for (std::size_t e = 0; e < count; ++e) out.of[e] = static_cast<std::uint32_t>(index(sections.section_of[e]));
    for (const section::SectionId s : sections.ids()) out.all.push_back({s});
    return out;
  }
  std::vector<Heats> heats;
  if (heated) heats = heats_of(model, cases, out.rounded, out.within, out.varies);
  std::map<std::vector<double>, std::size_t> heat_of;
  std::map<std::tuple<section::SectionId, double, std::size_t>, std::uint32_t> use_of;
  for (ElementIndex e = 0; e < count; ++e) {
    std::size_t heat = 0;
    if (heated) {
      std::vector<double> key;
      for (const std::optional<model::Warmth>& one : heats[e]) {
        key.insert(key.end(), {one ? 1.0 : 0.0, one ? one->tool : 0.0, one ? one->bag : 0.0, one ? one->factor : 0.0});
      }
      const auto [at, is_new] = heat_of.emplace(std::move(key), out.heats.size());
      if (is_new) out.heats.push_back(heats[e]);
      heat = at->second;
    }
    // What differs by round-off is the same.
    const double mass = added.empty() ? 0.0 : without_stray_bits(static_cast<double>(static_cast<float>(added[e])));
    const auto [at, is_new] =
        use_of.emplace(std::tuple(sections.section_of[e], mass, heat), static_cast<std::uint32_t>(out.all.size()));
    if (is_new)
      out.all.push_back(
          {sections.section_of[e], added.empty() ? 0.0 : added[e], heated ? std::optional(heat) : std::nullopt});
    out.of[e] = at->second;
  }
  return out;
}

Uses turned(Uses uses, std::span<const std::uint8_t> which) {
  std::unordered_map<std::uint32_t, std::uint32_t> other;
  for (std::size_t e = 0; e < which.size(); ++e) {
    if (!which[e]) continue;
    const std::uint32_t use = uses.of[e];
    const auto [at, is_new] = other.emplace(use, static_cast<std::uint32_t>(uses.all.size()));
    if (is_new) {
      Uses::Use copy = uses.all[use];
      copy.upside_down = use;
      uses.all.push_back(copy);
    }
    uses.of[e] = at->second;
  }
  return uses;
}

}  // namespace bordado::deck
