#include "reserve_text.hpp"

#include <fmt/format.h>

#include <set>

namespace bordado::cli {

using laminate::Criterion;
using result::Critical;

namespace {

std::string place_text(const Critical& one) { return std::string(laminate::words(one.criterion, one.place)); }

/// The narrowest zones that hold an element.
std::string zones_at(const Design& design, mesh::ElementIndex e, std::size_t most) {
  const zone::ZoneSets& zones = design.layup.zones;
  std::vector<zone::ZoneId> holding;
  for (const zone::ZoneId z : zones.declared())
    if (zones.contains(z, e)) holding.push_back(z);
  std::stable_sort(holding.begin(), holding.end(),
                   [&](zone::ZoneId a, zone::ZoneId b) { return zones.counts[a] < zones.counts[b]; });
  std::vector<std::string> names;
  for (const zone::ZoneId z : std::span(holding).first(std::min(most, holding.size()))) names.push_back(zones.names[z]);
  return fmt::format("{}", fmt::join(names, ", "));
}

}  // namespace

Json critical_json(const Design& design, const model::Model& model, const Critical& one) {
  return {{"factor", one.factor},
          {"criterion", laminate::name_of(one.criterion)},
          {"mode", laminate::words(one.mode)},
          {"ply", design.part.plies[one.ply].id},
          {"material", design.part.plies[one.ply].material.value},
          {"place", place_text(one)},
          {"piece", one.piece + 1},
          {"element", design.surface.element_ids[one.element]},
          {"at", to_json(design.geometry.centres[one.element])},
          {"zones", zones_at(design, one.element, 100)},
          {"case", model.cases[one.case_index].name},
          {"doubtful", one.doubtful()},
          {"doubt", result::words(one.doubt)}};
}

void find_missing(const Design& design, std::span<const Criterion> criteria, Findings& findings) {
  std::set<part::MaterialId> laid;
  for (const part::PlyId p : design.layup.plies.ids()) laid.insert(design.layup.plies[p].material);
  for (const part::MaterialId m : laid)
    if (auto missing = laminate::strengths_missing(design.part.materials[m], criteria))
      findings.add(std::move(*missing));
}

namespace {

/// The worst of each ply: of clear elements, and of doubtful ones where that is less.
std::vector<Critical> of_plies(const result::Reserves& reserves) {
  std::vector<Critical> out;
  for (const result::Least& least : reserves.of_plies)
    for (const Critical& one : {least.clear, least.doubtful})
      if (one.any() && (!one.doubtful() || one.factor < least.clear.factor)) out.push_back(one);
  std::stable_sort(out.begin(), out.end(), [](const Critical& a, const Critical& b) { return a.factor < b.factor; });
  return out;
}

std::vector<Critical> of_criteria(const result::Reserves& reserves) {
  std::vector<Critical> out;
  for (const result::Least& least : reserves.of_criteria)
    if (least.clear.any()) out.push_back(least.clear);
  std::stable_sort(out.begin(), out.end(), [](const Critical& a, const Critical& b) { return a.factor < b.factor; });
  return out;
}

}  // namespace

Json reserves_json(const Design& design, const model::Model& model, const result::Reserves& reserves) {
  Json out = {{"first", nullptr},
              {"of_criteria", Json::array()},
              {"of_plies", Json::array()},
              {"of_cases", Json::array()},
              {"of_materials", Json::array()},
              {"of_zones", Json::array()},
              {"doubtful_elements", reserves.doubtful},
              {"elements_at_points", reserves.at_points},
              {"elements_below_one", reserves.below_one}};
  for (const Critical& one : of_criteria(reserves)) {
    Json row = critical_json(design, model, one);
    const Critical& next = reserves.next_of_criteria[static_cast<std::size_t>(one.criterion)];
    row["next"] = next.any() ? critical_json(design, model, next) : Json(nullptr);
    out["of_criteria"].push_back(std::move(row));
  }
  if (const auto rows = of_criteria(reserves); !rows.empty()) out["first"] = critical_json(design, model, rows.front());
  for (const Critical& one : of_plies(reserves)) out["of_plies"].push_back(critical_json(design, model, one));
  for (const result::Least& least : reserves.of_cases)
    if (const Critical& one = least.told(); one.any()) out["of_cases"].push_back(critical_json(design, model, one));
  const auto named = [&](Json& into, const std::vector<result::NamedLeast>& rows) {
    const auto critical = [&](const Critical& one) {
      return one.any() ? critical_json(design, model, one) : Json(nullptr);
    };
    for (const result::NamedLeast& row : rows)
      into.push_back({{"name", row.name}, {"least", critical(row.clear)}, {"beside_steps", critical(row.doubtful)}});
  };
  named(out["of_materials"], result::least_of_materials(design, reserves));
  named(out["of_zones"], result::least_of_zones(design, reserves));
  return out;
}

void print_reserves(const Design& design, const model::Model& model, const result::Reserves& reserves,
                    std::size_t most) {
  const auto plies = of_plies(reserves);
  if (plies.empty()) {
    fmt::print("{}\n", no_reserves);
    return;
  }
  const bool cases = reserves.of_cases.size() > 1;
  const auto ply_text = [&](const Critical& one) {
    return fmt::format("{} {:g}°", design.part.plies[one.ply].id,
                       same_fibre(design.layup.plies[one.ply].angle).degrees());
  };
  const auto table_of = [&](const std::vector<Critical>& rows, std::size_t count, bool by_criterion) {
    std::vector<std::string> head = {"reserve", "fails", "by", "ply", "at", "element", "in zone"};
    if (cases) head.push_back("case");
    if (by_criterion) head.push_back("next ply");
    head.push_back("");
    TableText table(std::move(head));
    for (std::size_t i = 0; i < std::min(count, rows.size()); ++i) {
      const Critical& one = rows[i];
      std::vector<std::string> row = {
          one.factor < 1.0 ? styled(number(one.factor), Style::error, fileno(stdout)) : number(one.factor),
          std::string(laminate::words(one.mode)),
          std::string(laminate::name_of(one.criterion)),
          ply_text(one),
          place_text(one),
          fmt::format("{}", design.surface.element_ids[one.element]),
          zones_at(design, one.element, 2)};
      if (cases) row.push_back(model.cases[one.case_index].name);
      if (by_criterion) {
        const Critical& next = reserves.next_of_criteria[static_cast<std::size_t>(one.criterion)];
        row.push_back(next.any() ? fmt::format("{} {}", number(next.factor), ply_text(next)) : "none");
      }
      row.push_back(one.factor < 1.0 && !one.doubtful() ? "below 1" : std::string(result::words(one.doubt)));
      table.add(std::move(row));
    }
    table.print(stdout);
  };
  fmt::print("reserve: times the loads (temperatures held) until\n\n");
  const std::vector<Critical> criteria = of_criteria(reserves);
  if (criteria.empty())
    fmt::print("all that fails lies beside a step of thickness, at a point force or at a point that is held\n");
  else
    table_of(criteria, laminate::criterion_count, true);
  if (reserves.below_one > 0)
    fmt::print("\n{} below 1: something fails there before the loads are all there\n",
               reserves.below_one == 1 ? "one element is" : fmt::format("{} elements are", reserves.below_one));
  fmt::print("\nply by ply, {} of {}:\n\n", std::min(most, plies.size()), plies.size());
  table_of(plies, most, false);
  if (reserves.doubtful == 0) return;
  const std::size_t steps = reserves.doubtful - reserves.at_points;
  std::vector<std::string> where;
  if (steps > 0) where.push_back(fmt::format("{} beside a step of thickness", counted(steps, "element")));
  if (reserves.at_points > 0)
    where.push_back(fmt::format("{} at point forces or points that are held", counted(reserves.at_points, "element")));
  fmt::print(
      "\n{}: stresses of plies do not hold there, {}\n", fmt::join(where, ", "),
      criteria.empty() ? "as the table says" : "so that the first table leaves them out and the second marks them");
}

}  // namespace bordado::cli
