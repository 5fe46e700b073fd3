// A laminate put into a bulk data deck of somebody else's.
#include "writers.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <map>
#include <set>
#include <unordered_map>

namespace bordado::bulk_data {

namespace {

using deck::folded;
using deck::parted;
using deck::whole;

class BulkDeck {
 public:
  /// Refers to the text.
  explicit BulkDeck(const deck::ExistingDeck& text) : text_(text) {
    for (std::size_t i = 0; i < text_.line_count();) i = read_card(i);
  }
  struct Card {
    std::size_t first, last;
    std::string name;
    std::int64_t id = 0, property = 0;
  };
  std::vector<Card> shells, properties;
  std::unordered_map<std::int64_t, deck::FoundElement> elements;
  std::int64_t most_property = 0, most_material = 0;
  bool includes = false;

 private:
  std::string_view raw(std::size_t i) const {
    std::string_view out = text_.line(i);
    while (!out.empty() && (out.back() == '\n' || out.back() == '\r')) out.remove_suffix(1);
    return out;
  }
  bool continues(std::size_t i) const {
    const std::string_view line = raw(i);
    return !line.empty() && (line[0] == ' ' || line[0] == '+' || line[0] == '*' || line[0] == ',' || line[0] == '\t') &&
           line.find_first_not_of(" \t") != std::string_view::npos;
  }
  /// Fields behind the name, of this line and those that continue it.
  std::vector<std::string> fields(std::size_t first, std::size_t last) const {
    std::vector<std::string> out;
    for (std::size_t i = first; i < last; ++i) {
      std::string_view line = raw(i);
      line = line.substr(0, line.find('$'));
      if (line.find(',') != std::string_view::npos) {
        std::vector<std::string> words = parted(folded(line));
        words.erase(words.begin());
        words.resize(8);
        out.insert(out.end(), words.begin(), words.end());
        continue;
      }
      const bool large = line.substr(0, 8).find('*') != std::string_view::npos;
      const std::size_t width = large ? 16 : 8, many = large ? 4 : 8;
      for (std::size_t k = 0; k < many; ++k) {
        const std::size_t at = 8 + k * width;
        out.push_back(at < line.size() ? folded(line.substr(at, width)) : std::string());
      }
    }
    return out;
  }

  std::size_t read_card(std::size_t i) {
    const std::string_view line = raw(i);
    if (line.empty() || line[0] == '$' || continues(i)) return i + 1;
    std::size_t end = i + 1;
    while (end < text_.line_count() && continues(end)) ++end;
    std::string name = folded(line.substr(0, std::min(line.find(','), std::min<std::size_t>(8, line.size()))));
    if (name.ends_with('*')) name.pop_back();
    if (name.starts_with("INCLUDE")) includes = true;
    static const std::map<std::string, std::size_t> corners = {{"CQUAD4", 4}, {"CTRIA3", 3}, {"CQUAD8", 8},
                                                               {"CTRIA6", 6}, {"CQUADR", 4}, {"CTRIAR", 3}};
    const bool property =
        name.starts_with('P') && name.size() > 1 && std::isalpha(static_cast<unsigned char>(name[1])) != 0;
    const bool material = name.starts_with("MAT");
    const auto shell = corners.find(name);
    if (!property && !material && shell == corners.end()) return end;
    const std::vector<std::string> words = fields(i, end);
    const auto id = whole(words[0]);
    if (!id) return end;
    if (property) {
      most_property = std::max(most_property, *id);
      if (name == "PSHELL" || name == "PCOMP" || name == "PCOMPG") properties.push_back({i, end, name, *id, 0});
    } else if (material) {
      most_material = std::max(most_material, *id);
    } else {
      Card card{i, end, name, *id, whole(words[1]).value_or(*id)};
      most_property = std::max(most_property, card.property);
      deck::FoundElement found{name, {}, i + 1};
      for (std::size_t k = 0; k < shell->second && 2 + k < words.size(); ++k)
        if (const auto node = whole(words[2 + k])) found.nodes.push_back(*node);
      elements[*id] = std::move(found);
      shells.push_back(std::move(card));
    }
    return end;
  }

  const deck::ExistingDeck& text_;
};

[[noreturn]] void refuse(std::string code, std::string what, Place where, std::string remedy) {
  throw Failure({Severity::error, std::move(code), std::move(what), std::move(where), std::move(remedy)});
}

}  // namespace

deck::Written write_into(const deck::ExistingDeck& text, const Model& model, const std::string& path,
                         const deck::WriteOptions& options, Findings& findings) {
  const BulkDeck there(text);
  const std::string& existing = text.path();
  deck::matched(model, there.elements, existing, there.includes);
  const Taken taken{there.most_property, there.most_material};
  std::vector<std::int64_t> ours = model.surface.element_ids;
  std::sort(ours.begin(), ours.end());
  const auto is_ours = [&](std::int64_t id) { return std::binary_search(ours.begin(), ours.end(), id); };
  std::set<std::int64_t> kept;
  for (const BulkDeck::Card& card : there.shells)
    if (!is_ours(card.id)) kept.insert(card.property);
  std::set<std::int64_t> used;
  std::vector<BulkDeck::Card> gone;
  for (const BulkDeck::Card& card : there.shells)
    if (is_ours(card.id)) used.insert(card.property), gone.push_back(card);
  std::size_t properties = 0;
  for (const BulkDeck::Card& card : there.properties)
    if (used.count(card.id) && !kept.count(card.id)) gone.push_back(card), ++properties;
  std::sort(gone.begin(), gone.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  OutputFile file(path, options.may_replace);
  std::size_t at = 0;
  std::optional<deck::Written> out;
  for (const BulkDeck::Card& card : gone) {
    file.write(text.lines(at, card.first));
    if (!out) out = put_laminate(model, file, path, options, taken, findings);
    at = card.last;
  }
  if (!out)
    refuse("into.no-section", "no shell of the deck is an element of the part", Place::in(existing),
           "look whether the deck is the right one");
  file.write(text.lines(at, text.line_count()));
  file.commit();
  findings.note(
      "into.replaced",
      fmt::format("{} and {} of '{}' replaced; everything else is as it was; our properties are numbered from "
                  "{} and materials from {}",
                  counted(gone.size() - properties, "shell"), counted(properties, "property"), existing,
                  taken.properties + 1, taken.materials + 1),
      Place::in(existing));
  out->bytes = file.bytes();
  return *out;
}

}  // namespace bordado::bulk_data
