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
          {"doubtful", one.doubtful}};
}

void find_missing(const Design& design, std::span<const Criterion> criteria, Findings& findings) {
  std::set<part::MaterialId> laid;
  for (const part::PlyId p : design.layup.plies.ids()) laid.insert(design.layup.plies[p].material);
  for (const part::MaterialId m : laid)
    if (auto missing = laminate::strengths_missing(design.part.materials[m], criteria))
      findings.add(std::move(*missing));
}

namespace {

/// The worst of each ply: of elements that are not beside a step, or else of those.
std::vector<Critical> of_plies(const result::Reserves& reserves) {
  std::vector<Critical> out;
  for (const result::Least& least : reserves.of_plies)
    for (const Critical& one : {least.clear, least.doubtful})
      if (one.any() && (!one.doubtful || one.factor < least.clear.factor)) out.push_back(one);
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
              {"doubtful_elements", reserves.doubtful}};
  for (const Critical& one : of_criteria(reserves)) out["of_criteria"].push_back(critical_json(design, model, one));
  if (!out["of_criteria"].empty()) out["first"] = out["of_criteria"].front();
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
  const auto table_of = [&](std::string_view first, const std::vector<Critical>& rows, std::size_t count) {
    std::vector<std::string> head = {"reserve", "fails", "by", std::string(first), "at", "element", "in zone"};
    if (cases) head.push_back("case");
    head.push_back("");
    TableText table(std::move(head));
    for (std::size_t i = 0; i < std::min(count, rows.size()); ++i) {
      const Critical& one = rows[i];
      std::vector<std::string> row = {number(one.factor),
                                      std::string(laminate::words(one.mode)),
                                      std::string(laminate::name_of(one.criterion)),
                                      fmt::format("{} {:g}°", design.part.plies[one.ply].id,
                                                  same_fibre(design.layup.plies[one.ply].angle).degrees()),
                                      place_text(one),
                                      fmt::format("{}", design.surface.element_ids[one.element]),
                                      zones_at(design, one.element, 2)};
      if (cases) row.push_back(model.cases[one.case_index].name);
      row.push_back(one.doubtful ? "beside a step" : "");
      table.add(std::move(row));
    }
    table.print(stdout);
  };
  fmt::print("reserve: times the loads (temperatures held) until\n\n");
  const std::vector<Critical> criteria = of_criteria(reserves);
  if (criteria.empty())
    fmt::print("all that fails lies beside a step of thickness\n");
  else
    table_of("ply", criteria, laminate::criterion_count);
  fmt::print("\nply by ply, {} of {}:\n\n", std::min(most, plies.size()), plies.size());
  table_of("ply", plies, most);
  if (reserves.doubtful > 0)
    fmt::print("\n{} {} beside a step of thickness, where stresses of plies do not hold: {}\n",
               counted(reserves.doubtful, "element"), reserves.doubtful == 1 ? "lies" : "lie",
               criteria.empty() ? "the table marks them" : "the first table leaves them out, the second marks them");
}

}  // namespace bordado::cli
