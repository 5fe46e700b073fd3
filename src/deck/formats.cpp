#include <bordado/deck.hpp>

#include <fmt/format.h>

#include <algorithm>

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
    const Model::Case& load_case = model.cases[k];
    const auto same = std::find_if(out.begin(), out.end(), [&](const auto& deck) {
      const Model::Case& first = model.cases[deck.front()];
      return linked_alike(model, first, load_case) &&
             (format.one_analysis ? first.analysis == load_case.analysis : held_alike(model, first, load_case));
    });
    if (same != out.end())
      same->push_back(k);
    else
      out.push_back({k});
  }
  return out;
}

}  // namespace bordado::deck
