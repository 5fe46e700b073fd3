#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/deck.hpp>
#include <bordado/design.hpp>
#include <bordado/solids.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <filesystem>

// Each of these rooms gives its format; nothing else of them is known here.
namespace bordado::calculix {
const deck::Format& format();
}
namespace bordado::bulk_data {
const deck::Format& format();
}

namespace bordado::deck {

std::span<const Format> formats() {
  static const Format table[] = {calculix::format(), bulk_data::format()};
  return table;
}

const Format* find_format(std::string_view name) {
  for (const Format& format : formats())
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

std::string write_names(const Written& written, const Model& model, MayReplace may_replace) {
  const std::filesystem::path deck(written.path);
  const std::string path =
      (deck.parent_path() / fmt::format("{}-{}-names.json", deck.stem().string(), deck.extension().string().substr(1)))
          .string();
  nlohmann::ordered_json names = nlohmann::ordered_json::array();
  for (const Stands& one : written.names) names.push_back({{"name", one.name}, {"kind", one.kind}, {"of", one.of}});
  nlohmann::ordered_json body = {{"what", fmt::format("what stands where in a deck, written by Bordado {}", version())},
                                 {"part", model.design->part.name},
                                 {"deck", deck.filename().string()},
                                 {"units", model.design->part.units.name()},
                                 {"names", names}};
  if (written.solids > 0) {
    // Solid number k of the deck: the element that it stands on and the group of plies that it is.
    const model::Solids& solids = *model.solids;
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
