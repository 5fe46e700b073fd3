#include "writers.hpp"

#include <bordado/base/text.hpp>
#include <bordado/solids.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <filesystem>

namespace bordado::deck {

namespace {

constexpr Format table[] = {
    {"calculix", "CalculiX", ".inp", true, false, write_calculix, "** ", calculix_solid_material, calculix_has_material,
     calculix_material_is},
    {"bulk-data", "bulk data", ".bdf", false, true, write_bulk_data, "$ ", bulk_data_materials, bulk_data_has_material,
     bulk_data_material_is},
};

}  // namespace

std::span<const Format> formats() { return table; }

const Format* find_format(std::string_view name) {
  for (const Format& format : table)
    if (format.name == name) return &format;
  return nullptr;
}

std::vector<std::vector<std::size_t>> decks_of(const Format& format, const Model& model,
                                               std::span<const std::size_t> cases) {
  std::vector<std::size_t> wanted(cases.begin(), cases.end());
  if (wanted.empty())
    for (std::size_t k = 0; k < model.cases.size(); ++k) wanted.push_back(k);
  if (wanted.empty()) return {{}};
  std::vector<std::vector<std::size_t>> out;
  for (const std::size_t k : wanted) {
    const Model::Case& one = model.cases[k];
    const auto same = std::find_if(out.begin(), out.end(), [&](const auto& deck) {
      const Model::Case& first = model.cases[deck.front()];
      return linked_alike(model, first, one) &&
             (format.one_analysis ? first.analysis == one.analysis : held_alike(model, first, one));
    });
    if (same != out.end())
      same->push_back(k);
    else
      out.push_back({k});
  }
  return out;
}

bool linked_alike(const Model& model, const Model::Case& one, const Model::Case& other) {
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (std::holds_alternative<Model::Link>(model.loads[i].what) && one.acts(i) != other.acts(i)) return false;
  return true;
}

void check_linked_alike(const Model& model, const Model::Case& one, const Model::Case& other) {
  if (!linked_alike(model, one, other))
    throw Failure(
        {Severity::error, "deck.cases-apart",
         fmt::format("cases '{}' and '{}' have other stiff links, and a link is there in every case of a deck",
                     one.name, other.name),
         Place::in(model.part->file), "write a deck of each: bordado deck --case NAME"});
}

bool has_forces(const Model& model, const Model::Case& one) {
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (one.acts(i) && !std::holds_alternative<Model::Temperature>(model.loads[i].what) &&
        !std::holds_alternative<Model::Displacement>(model.loads[i].what))
      return true;
  return false;
}

bool has_supports(const Model& model, const Model::Case& one) {
  return !one.supports.empty() || has_load<Model::Displacement>(model, one);
}

bool held_alike(const Model& model, const Model::Case& one, const Model::Case& other) {
  if (one.supports != other.supports || one.beds != other.beds) return false;
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (std::holds_alternative<Model::Displacement>(model.loads[i].what) && one.factors[i] != other.factors[i])
      return false;
  return true;
}

std::string write_names(const Written& written, const Model& model, MayReplace may_replace) {
  const std::filesystem::path deck(written.path);
  const std::string path =
      (deck.parent_path() / fmt::format("{}-{}-names.json", deck.stem().string(), deck.extension().string().substr(1)))
          .string();
  nlohmann::ordered_json names = nlohmann::ordered_json::array();
  for (const Stands& one : written.names) names.push_back({{"name", one.name}, {"kind", one.kind}, {"of", one.of}});
  nlohmann::ordered_json body = {{"what", fmt::format("what stands where in a deck, written by Bordado {}", version())},
                                 {"part", model.part->name},
                                 {"deck", deck.filename().string()},
                                 {"units", model.part->units.name()},
                                 {"names", names}};
  if (written.solids > 0) {
    // Solid number k of the deck: the element that it stands on and the group of plies that it is.
    const Solids& solids = *model.solids;
    std::vector<std::int64_t> elements;
    for (const mesh::ElementIndex e : solids.element) elements.push_back(model.surface.element_ids[e]);
    body["solids"] = {{"groups", solids.groups}, {"element", elements}, {"group", solids.group}};
  }
  OutputFile file(path, may_replace);
  file.write(body.dump(1, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n");
  file.commit();
  return path;
}

}  // namespace bordado::deck
