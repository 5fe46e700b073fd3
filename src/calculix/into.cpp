// A laminate put into a CalculiX deck of somebody else's.
#include "writers.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <map>
#include <set>
#include <unordered_map>

namespace bordado::calculix {

namespace {

using deck::folded;
using deck::parted;
using deck::whole;
using mesh::ElementIndex;

class CalculixDeck {
 public:
  /// Refers to the text.
  explicit CalculixDeck(const deck::ExistingDeck& text) : text_(text) {
    for (std::size_t i = 0; i < text_.line_count();) i = read_card(i);
    std::sort(ids_.begin(), ids_.end());
    ids_.erase(std::unique(ids_.begin(), ids_.end()), ids_.end());
  }

  struct Section {
    std::size_t first, last;  ///< lines, the last one behind
    std::string set;
    std::size_t card_lines;  ///< of the keyword itself
  };
  const std::vector<Section>& sections() const { return sections_; }
  const std::unordered_map<std::int64_t, deck::FoundElement>& elements() const { return elements_; }
  const std::map<std::string, std::size_t>& types() const { return types_; }
  bool has_includes() const { return includes_; }

  /// The elements of a set and of all sets that it names, ascending. Each set is looked at once, whichever way they name
  /// each other, and of generated numbers those that the deck has.
  std::vector<std::int64_t> elements_of(const std::string& set) const {
    std::vector<std::int64_t> out;
    std::set<std::string> seen{set};
    for (std::vector<std::string> open{set}; !open.empty();) {
      const auto found = sets_.find(open.back());
      open.pop_back();
      if (found == sets_.end()) continue;
      out.insert(out.end(), found->second.ids.begin(), found->second.ids.end());
      for (const auto& [from, to, step] : found->second.runs) {
        const auto first = std::lower_bound(ids_.begin(), ids_.end(), from);
        for (auto id = first; id != ids_.end() && *id <= to; ++id)
          if ((*id - from) % step == 0) out.push_back(*id);
      }
      for (const std::string& other : found->second.sets)
        if (seen.insert(other).second) open.push_back(other);
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
  }

  /// Something before our names that no name of the deck begins with; nothing where they are free as they are.
  std::string free_prefix() const {
    const auto ours = [](const std::string& name) {
      return name.size() > 1 && std::string_view("MEOG").find(name[0]) != std::string_view::npos &&
             std::isdigit(static_cast<unsigned char>(name[1])) != 0;
    };
    if (std::none_of(names_.begin(), names_.end(), ours)) return {};
    for (int number = 2;; ++number) {
      std::string prefix = fmt::format("L{}_", number);
      if (std::none_of(names_.begin(), names_.end(), [&](const std::string& name) { return name.starts_with(prefix); }))
        return prefix;
    }
  }

 private:
  std::string line(std::size_t i) const { return folded(text_.line(i)); }
  bool is_comment(std::size_t i) const { return line(i).starts_with("**"); }
  bool is_keyword(std::size_t i) const {
    const std::string text = line(i);
    return text.starts_with("*") && !text.starts_with("**");
  }

  std::size_t read_card(std::size_t i) {
    if (!is_keyword(i)) return i + 1;
    std::string card = line(i);
    std::size_t behind = i + 1;
    while (card.ends_with(',') && behind < text_.line_count() && !is_keyword(behind)) card += line(behind++);
    const std::vector<std::string> words = parted(card);
    std::map<std::string, std::string> parameters;
    for (std::size_t k = 1; k < words.size(); ++k) {
      const std::size_t equals = words[k].find('=');
      parameters[words[k].substr(0, equals)] = equals == std::string::npos ? "" : words[k].substr(equals + 1);
    }
    std::size_t end = behind;
    while (end < text_.line_count() && !is_keyword(end)) ++end;
    // Comments in front of the next keyword belong to that.
    std::size_t last = end;
    while (last > behind && (is_comment(last - 1) || line(last - 1).empty())) --last;
    for (const char* const key : {"NAME", "ELSET", "NSET"})
      if (words[0] != "*SHELLSECTION" && parameters.count(key)) names_.push_back(parameters[key]);
    if (words[0] == "*INCLUDE") includes_ = true;
    if (words[0] == "*ELEMENT") read_elements(behind, end, parameters);
    if (words[0] == "*ELSET") read_set(behind, end, parameters);
    if (words[0] == "*SHELLSECTION") sections_.push_back({i, last, parameters["ELSET"], behind - i});
    return end;
  }

  void read_elements(std::size_t first, std::size_t end, std::map<std::string, std::string>& parameters) {
    static const std::map<std::string, std::size_t> shells = {{"S3", 3}, {"S4", 4},  {"S4R", 4},  {"S6", 6},
                                                              {"S8", 8}, {"S8R", 8}, {"CPS4", 4}, {"M3D4", 4}};
    const std::string type = parameters["TYPE"];
    types_.emplace(type, first);
    const auto known = shells.find(type);
    std::vector<std::int64_t> numbers;
    std::size_t began = first;
    for (std::size_t i = first; i < end; ++i) {
      if (is_comment(i)) continue;
      if (numbers.empty()) began = i;
      for (const std::string& word : parted(line(i)))
        if (const auto id = whole(word)) numbers.push_back(*id);
      if (known != shells.end() ? numbers.size() <= known->second : line(i).ends_with(',')) continue;
      if (numbers.empty()) continue;
      sets_[parameters["ELSET"]].ids.push_back(numbers[0]);
      ids_.push_back(numbers[0]);
      if (known != shells.end()) elements_[numbers[0]] = {type, {numbers.begin() + 1, numbers.end()}, began + 1};
      numbers.clear();
    }
  }

  void read_set(std::size_t first, std::size_t end, std::map<std::string, std::string>& parameters) {
    auto& set = sets_[parameters["ELSET"]];
    for (std::size_t i = first; i < end; ++i) {
      if (is_comment(i)) continue;
      std::vector<std::string> words = parted(line(i));
      std::erase(words, "");
      if (!parameters.count("GENERATE")) {
        for (std::string& word : words) {
          if (const auto id = whole(word))
            set.ids.push_back(*id);
          else
            set.sets.push_back(std::move(word));
        }
        continue;
      }
      const auto from = words.empty() ? std::nullopt : whole(words[0]);
      const auto to = words.size() > 1 ? whole(words[1]) : from;
      const auto step = words.size() > 2 ? whole(words[2]) : std::optional<std::int64_t>(1);
      if (from && to && step && *step >= 1 && *from >= 0) set.runs.push_back({*from, *to, *step});
    }
  }

  const deck::ExistingDeck& text_;
  std::unordered_map<std::int64_t, deck::FoundElement> elements_;
  struct Set {
    std::vector<std::int64_t> ids;
    std::vector<std::array<std::int64_t, 3>> runs;  ///< first, last, step
    std::vector<std::string> sets;                  ///< that it names
  };
  std::map<std::string, Set> sets_;
  std::vector<std::int64_t> ids_;  ///< of all elements
  std::vector<std::string> names_;
  std::vector<Section> sections_;
  std::map<std::string, std::size_t> types_;  ///< of elements, and the line behind the keyword of the first
  bool includes_ = false;
};

[[noreturn]] void refuse(std::string code, std::string what, Place where, std::string remedy) {
  throw Failure({Severity::error, std::move(code), std::move(what), std::move(where), std::move(remedy)});
}

}  // namespace

deck::Written write_into(const deck::ExistingDeck& text, const Model& model, const std::string& path,
                         const deck::WriteOptions& options, Findings& findings) {
  const CalculixDeck there(text);
  const std::string& existing = text.path();
  Placement placement;
  placement.upside_down = deck::matched(model, there.elements(), existing, there.has_includes());
  if (std::none_of(placement.upside_down.begin(), placement.upside_down.end(), [](auto one) { return one != 0; }))
    placement.upside_down.clear();
  else if (options.layers == deck::LayersAs::equivalents)
    refuse(
        "into.upside-down",
        "some elements of the deck run the other way round than the part's side, where three layers for all cannot say "
        "what they couple",
        Place::in(existing), "write the plies themselves, or turn the side of the part");
  for (ElementIndex e = 0; e < model.surface.element_count(); ++e) {
    const deck::FoundElement& found = there.elements().at(model.surface.element_ids[e]);
    if (found.type != "S8R" && found.type != "S6")
      refuse("into.type",
             fmt::format("element {} is {}: this solver has layered shells as S8R and S6 only",
                         model.surface.element_ids[e], found.type),
             {existing, found.line, {}, {}}, "raise the deck's shells to quadratic ones in the program that meshed it");
  }
  // Beside layered shells this solver stops at these, or breaks down [36].
  static const std::set<std::string> refused = {"S3",      "S4",      "S4R",  "T3D2", "SPRING1",
                                                "SPRING2", "SPRINGA", "MASS", "B31",  "DCOUP3D"};
  for (const auto& [type, line] : there.types())
    if (refused.count(type) > 0)
      findings.warning(
          "into.refused",
          fmt::format("the deck has elements of type {}, which this solver does not run beside layered shells", type),
          {existing, line, {}, {}},
          type == "S3" || type == "S4" || type == "S4R"
              ? "raise them to S6 and S8R"
              : "put forces, equations or rigid bodies in their place, or write solids (--solids)");
  placement.prefix = there.free_prefix();
  std::vector<std::int64_t> ours = model.surface.element_ids;
  std::sort(ours.begin(), ours.end());
  OutputFile file(path, options.may_replace);
  std::size_t at = 0, gone = 0, shared = 0;
  std::optional<deck::Written> out;
  for (const CalculixDeck::Section& section : there.sections()) {
    const std::vector<std::int64_t> held = there.elements_of(section.set);
    std::vector<std::int64_t> rest;
    std::set_difference(held.begin(), held.end(), ours.begin(), ours.end(), std::back_inserter(rest));
    if (rest.size() == held.size()) continue;
    file.write(text.lines(at, section.first));
    if (!out) {
      out = put_laminate(model, file, path, options, placement, findings);
    }
    ++gone;
    at = section.last;
    if (rest.empty()) continue;
    // Others keep this section, under a set of their own.
    ++shared;
    const std::string name = fmt::format("{}REST{}", placement.prefix, shared);
    std::string set = fmt::format("*ELSET, ELSET={}\n", name);
    for (std::size_t i = 0; i < rest.size(); ++i)
      set += fmt::format("{}{}", rest[i], i % 12 == 11 || i + 1 == rest.size() ? "\n" : ",");
    file.write(set);
    std::string card(text.lines(section.first, section.first + section.card_lines));
    const std::string upper = [&] {
      std::string up = card;
      for (char& c : up) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
      return up;
    }();
    const std::size_t equals = upper.find('=', upper.find("ELSET"));
    const std::size_t stop = std::min(card.find_first_of(",\r\n", equals), card.size());
    card.replace(equals + 1, stop - equals - 1, name);
    file.write(card);
    file.write(text.lines(section.first + section.card_lines, section.last));
  }
  if (!out)
    refuse("into.no-section", "no shell section of the deck holds an element of the part", Place::in(existing),
           "look whether the deck is the right one");
  file.write(text.lines(at, text.line_count()));
  file.commit();
  findings.note("into.replaced",
                fmt::format("{} of '{}' replaced{}; everything else is as it was{}", counted(gone, "shell section"),
                            existing, shared > 0 ? fmt::format(" ({} kept for other elements)", shared) : "",
                            placement.prefix.empty() ? "" : fmt::format("; our names begin with {}", placement.prefix)),
                Place::in(existing));
  findings.note(
      "into.no-locking",
      "layered shells here do not thin where they are held, so they do not lock there: where the deck is coarse, "
      "deflections that come out some per cent larger than its own plain shells gave are the nearer ones",
      Place::in(existing), "mesh both twice as fine where the difference matters: they come together");
  out->bytes = file.bytes();
  return *out;
}

}  // namespace bordado::calculix
