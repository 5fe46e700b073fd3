// A laminate put into a deck of somebody else's, of which all else stays byte for byte.
#include "writers.hpp"

#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <limits>
#include <map>
#include <set>
#include <unordered_map>

namespace bordado::deck {

namespace {

using mesh::ElementIndex;

struct Line {
  std::size_t begin, end;  ///< with its end of line
};

std::vector<Line> lines_of(std::string_view text) {
  std::vector<Line> out;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = std::min(text.find('\n', at), text.size() - 1) + 1;
    out.push_back({at, end});
    at = end;
  }
  return out;
}

/// Without blanks, in capitals: how CalculiX reads.
std::string folded(std::string_view text) {
  std::string out;
  for (const char c : text)
    if (std::isspace(static_cast<unsigned char>(c)) == 0)
      out += static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
  return out;
}

std::vector<std::string> parted(const std::string& text) {
  std::vector<std::string> out;
  for (std::size_t at = 0; at <= text.size();) {
    const std::size_t end = std::min(text.find(',', at), text.size());
    out.push_back(text.substr(at, end - at));
    at = end + 1;
  }
  return out;
}

std::optional<std::int64_t> whole(std::string_view text) {
  std::int64_t value = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size()) return std::nullopt;
  return value;
}

[[noreturn]] void fail(std::string code, std::string what, Place where, std::string remedy) {
  throw Failure({Severity::error, std::move(code), std::move(what), std::move(where), std::move(remedy)});
}

/// An element of a deck, and where it stands.
struct Found {
  std::string type;
  std::vector<std::int64_t> nodes;
  std::size_t line;
};

/// Whether the corners are the same; set `turned` where they run the other way round.
bool same_corners(std::span<const std::int64_t> theirs, std::span<const std::int64_t> ours, bool& turned) {
  const std::size_t count = ours.size();
  if (theirs.size() < count) return false;
  for (const bool back : {false, true})
    for (std::size_t shift = 0; shift < count; ++shift) {
      bool same = true;
      for (std::size_t i = 0; i < count && same; ++i)
        same = theirs[i] == ours[(back ? shift + count - i : shift + i) % count];
      if (!same) continue;
      turned = back;
      return true;
    }
  return false;
}

/// The elements of the model as the deck has them. \throws Failure where one is missing or has other nodes.
std::vector<std::uint8_t> matched(const Model& model, const std::unordered_map<std::int64_t, Found>& elements,
                                  const std::string& path, bool has_includes) {
  std::vector<std::uint8_t> turned(model.surface.element_count(), 0);
  for (ElementIndex e = 0; e < turned.size(); ++e) {
    const std::int64_t id = model.surface.element_ids[e];
    const auto found = elements.find(id);
    if (found == elements.end())
      fail(has_includes ? "into.include" : "into.element-missing",
           fmt::format("the deck has no shell element {}{}", id,
                       has_includes ? "; files that it includes are not looked into" : ""),
           Place::in(path), "the part's mesh has to be that of the deck: name it as [part] mesh");
    std::vector<std::int64_t> ours;
    for (const mesh::NodeIndex n : model.surface.corners_of(e)) ours.push_back(model.surface.node_ids[n]);
    bool back = false;
    if (!same_corners(found->second.nodes, ours, back))
      fail("into.nodes-differ", fmt::format("element {} has other nodes in the deck than in the part's mesh", id),
           {path, found->second.line, {}, {}}, "the part's mesh has to be that of the deck: name it as [part] mesh");
    turned[e] = back;
  }
  return turned;
}

// --- CalculiX

class CalculixDeck {
 public:
  CalculixDeck(std::string_view text, std::string path) : text_(text), path_(std::move(path)), lines_(lines_of(text)) {
    for (std::size_t i = 0; i < lines_.size();) i = read_card(i);
    std::sort(ids_.begin(), ids_.end());
    ids_.erase(std::unique(ids_.begin(), ids_.end()), ids_.end());
  }

  struct Section {
    std::size_t first, last;  ///< lines, the last one behind
    std::string set;
    std::size_t card_lines;  ///< of the keyword itself
  };
  const std::vector<Section>& sections() const { return sections_; }
  const std::unordered_map<std::int64_t, Found>& elements() const { return elements_; }
  const std::map<std::string, std::size_t>& types() const { return types_; }
  bool has_includes() const { return includes_; }
  std::string_view lines(std::size_t first, std::size_t last) const {
    const std::size_t begin = first < lines_.size() ? lines_[first].begin : text_.size();
    const std::size_t end = last == 0 ? 0 : lines_[last - 1].end;
    return end <= begin ? std::string_view() : text_.substr(begin, end - begin);
  }
  std::size_t line_count() const { return lines_.size(); }

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
  std::string line(std::size_t i) const {
    return folded(text_.substr(lines_[i].begin, lines_[i].end - lines_[i].begin));
  }
  bool is_comment(std::size_t i) const { return line(i).starts_with("**"); }
  bool is_keyword(std::size_t i) const {
    const std::string text = line(i);
    return text.starts_with("*") && !text.starts_with("**");
  }

  std::size_t read_card(std::size_t i) {
    if (!is_keyword(i)) return i + 1;
    std::string card = line(i);
    std::size_t behind = i + 1;
    while (card.ends_with(',') && behind < lines_.size() && !is_keyword(behind)) card += line(behind++);
    const std::vector<std::string> words = parted(card);
    std::map<std::string, std::string> parameters;
    for (std::size_t k = 1; k < words.size(); ++k) {
      const std::size_t equals = words[k].find('=');
      parameters[words[k].substr(0, equals)] = equals == std::string::npos ? "" : words[k].substr(equals + 1);
    }
    std::size_t end = behind;
    while (end < lines_.size() && !is_keyword(end)) ++end;
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

  std::string_view text_;
  std::string path_;
  std::vector<Line> lines_;
  std::unordered_map<std::int64_t, Found> elements_;
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

Written into_calculix(const Model& model, const std::string& existing, std::string_view text, const std::string& path,
                      const WriteOptions& options, Findings& findings) {
  const CalculixDeck deck(text, existing);
  Placement placement;
  placement.upside_down = matched(model, deck.elements(), existing, deck.has_includes());
  if (std::none_of(placement.upside_down.begin(), placement.upside_down.end(), [](auto one) { return one != 0; }))
    placement.upside_down.clear();
  else if (options.layers == LayersAs::equivalents)
    fail(
        "into.upside-down",
        "some elements of the deck run the other way round than the part's side, where three layers for all cannot say "
        "what they couple",
        Place::in(existing), "write the plies themselves, or turn the side of the part");
  for (ElementIndex e = 0; e < model.surface.element_count(); ++e) {
    const Found& found = deck.elements().at(model.surface.element_ids[e]);
    if (found.type != "S8R" && found.type != "S6")
      fail("into.type",
           fmt::format("element {} is {}: this solver has layered shells as S8R and S6 only",
                       model.surface.element_ids[e], found.type),
           {existing, found.line, {}, {}}, "raise the deck's shells to quadratic ones in the program that meshed it");
  }
  // Beside layered shells this solver stops at these, or breaks down [36].
  static const std::set<std::string> refused = {"S3",      "S4",      "S4R",  "T3D2", "SPRING1",
                                                "SPRING2", "SPRINGA", "MASS", "B31",  "DCOUP3D"};
  for (const auto& [type, line] : deck.types())
    if (refused.count(type) > 0)
      findings.warning(
          "into.refused",
          fmt::format("the deck has elements of type {}, which this solver does not run beside layered shells", type),
          {existing, line, {}, {}},
          type == "S3" || type == "S4" || type == "S4R"
              ? "raise them to S6 and S8R"
              : "put forces, equations or rigid bodies in their place, or write solids (--solids)");
  placement.prefix = deck.free_prefix();
  std::vector<std::int64_t> ours = model.surface.element_ids;
  std::sort(ours.begin(), ours.end());
  OutputFile file(path, options.may_replace);
  std::size_t at = 0, gone = 0, shared = 0;
  std::optional<Written> out;
  for (const CalculixDeck::Section& section : deck.sections()) {
    const std::vector<std::int64_t> held = deck.elements_of(section.set);
    std::vector<std::int64_t> rest;
    std::set_difference(held.begin(), held.end(), ours.begin(), ours.end(), std::back_inserter(rest));
    if (rest.size() == held.size()) continue;
    file.write(deck.lines(at, section.first));
    if (!out) {
      out = put_calculix_laminate(model, file, path, options, placement, findings);
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
    std::string card(deck.lines(section.first, section.first + section.card_lines));
    const std::string upper = [&] {
      std::string up = card;
      for (char& c : up) c = static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
      return up;
    }();
    const std::size_t equals = upper.find('=', upper.find("ELSET"));
    const std::size_t stop = std::min(card.find_first_of(",\r\n", equals), card.size());
    card.replace(equals + 1, stop - equals - 1, name);
    file.write(card);
    file.write(deck.lines(section.first + section.card_lines, section.last));
  }
  if (!out)
    fail("into.no-section", "no shell section of the deck holds an element of the part", Place::in(existing),
         "look whether the deck is the right one");
  file.write(deck.lines(at, deck.line_count()));
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

// --- bulk data

class BulkDeck {
 public:
  explicit BulkDeck(std::string_view text) : text_(text), lines_(lines_of(text)) {
    for (std::size_t i = 0; i < lines_.size();) i = read_card(i);
  }
  struct Card {
    std::size_t first, last;
    std::string name;
    std::int64_t id = 0, property = 0;
  };
  std::vector<Card> shells, properties;
  std::unordered_map<std::int64_t, Found> elements;
  std::int64_t most_property = 0, most_material = 0;
  bool includes = false;
  std::string_view lines(std::size_t first, std::size_t last) const {
    const std::size_t begin = first < lines_.size() ? lines_[first].begin : text_.size();
    const std::size_t end = last == 0 ? 0 : lines_[last - 1].end;
    return end <= begin ? std::string_view() : text_.substr(begin, end - begin);
  }
  std::size_t line_count() const { return lines_.size(); }

 private:
  std::string_view raw(std::size_t i) const {
    std::string_view out = text_.substr(lines_[i].begin, lines_[i].end - lines_[i].begin);
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
    while (end < lines_.size() && continues(end)) ++end;
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
      Found found{name, {}, i + 1};
      for (std::size_t k = 0; k < shell->second && 2 + k < words.size(); ++k)
        if (const auto node = whole(words[2 + k])) found.nodes.push_back(*node);
      elements[*id] = std::move(found);
      shells.push_back(std::move(card));
    }
    return end;
  }

  std::string_view text_;
  std::vector<Line> lines_;
};

Written into_bulk_data(const Model& model, const std::string& existing, std::string_view text, const std::string& path,
                       const WriteOptions& options, Findings& findings) {
  const BulkDeck deck(text);
  matched(model, deck.elements, existing, deck.includes);
  Placement placement;
  placement.properties = deck.most_property;
  placement.materials = deck.most_material;
  std::vector<std::int64_t> ours = model.surface.element_ids;
  std::sort(ours.begin(), ours.end());
  const auto is_ours = [&](std::int64_t id) { return std::binary_search(ours.begin(), ours.end(), id); };
  std::set<std::int64_t> kept;
  for (const BulkDeck::Card& card : deck.shells)
    if (!is_ours(card.id)) kept.insert(card.property);
  std::set<std::int64_t> used;
  std::vector<BulkDeck::Card> gone;
  for (const BulkDeck::Card& card : deck.shells)
    if (is_ours(card.id)) used.insert(card.property), gone.push_back(card);
  std::size_t properties = 0;
  for (const BulkDeck::Card& card : deck.properties)
    if (used.count(card.id) && !kept.count(card.id)) gone.push_back(card), ++properties;
  std::sort(gone.begin(), gone.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
  OutputFile file(path, options.may_replace);
  std::size_t at = 0;
  std::optional<Written> out;
  for (const BulkDeck::Card& card : gone) {
    file.write(deck.lines(at, card.first));
    if (!out) out = put_bulk_data_laminate(model, file, path, options, placement, findings);
    at = card.last;
  }
  if (!out)
    fail("into.no-section", "no shell of the deck is an element of the part", Place::in(existing),
         "look whether the deck is the right one");
  file.write(deck.lines(at, deck.line_count()));
  file.commit();
  findings.note(
      "into.replaced",
      fmt::format("{} and {} of '{}' replaced; everything else is as it was; our properties are numbered from "
                  "{} and materials from {}",
                  counted(gone.size() - properties, "shell"), counted(properties, "property"), existing,
                  placement.properties + 1, placement.materials + 1),
      Place::in(existing));
  out->bytes = file.bytes();
  return *out;
}

/// The deck's nodes lie where the part's do, in the same unit: thicknesses and stiffnesses are written in the part's.
void check_places(const Model& model, const std::string& existing, Findings& findings) {
  mesh::Surface there;
  try {
    Findings unheard;
    there = mesh::read(existing, {}, unheard);
  } catch (const Failure& trouble) {
    findings.warning("into.places-unknown",
                     fmt::format("where the nodes of '{}' lie cannot be read ({}), so that its unit of length is not "
                                 "compared with the part's",
                                 existing, trouble.findings().front().what),
                     Place::in(existing), "see that both are in the same units");
    return;
  }
  std::unordered_map<std::int64_t, Vec3> at;
  for (mesh::NodeIndex n = 0; n < there.points.size(); ++n) at.emplace(there.node_ids[n], there.points[n]);
  const mesh::Surface& ours = model.surface;
  Vec3 middle = Vec3::Zero(), their_middle = Vec3::Zero();
  std::vector<std::pair<mesh::NodeIndex, Vec3>> both;
  for (mesh::NodeIndex n = 0; n < ours.points.size(); ++n)
    if (const auto found = at.find(ours.node_ids[n]); found != at.end()) both.emplace_back(n, found->second);
  if (both.size() < 2) return;  // told where elements are matched
  for (const auto& [n, point] : both) {
    middle += ours.points[n] / static_cast<double>(both.size());
    their_middle += point / static_cast<double>(both.size());
  }
  double size = 0.0, their_size = 0.0;
  for (const auto& [n, point] : both) {
    size += (ours.points[n] - middle).squaredNorm();
    their_size += (point - their_middle).squaredNorm();
  }
  const std::string unit = model.part->units.unit(Dimension::length);
  double shortest = std::numeric_limits<double>::infinity();
  for (mesh::ElementIndex e = 0; e < ours.element_count(); ++e) {
    const auto c = ours.corners_of(e);
    for (std::size_t k = 0; k < c.size(); ++k)
      shortest = std::min(shortest, (ours.points[c[(k + 1) % c.size()]] - ours.points[c[k]]).norm());
  }
  // Another unit makes the same shape, larger or smaller.
  const double factor = std::sqrt(their_size / size);
  const bool same_shape = std::all_of(both.begin(), both.end(), [&](const auto& one) {
    const Vec3 grown = their_middle + factor * (ours.points[one.first] - middle);
    return (one.second - grown).norm() <= 1e-3 * factor * shortest;
  });
  if (same_shape && std::abs(factor - 1.0) > 1e-4)
    fail(
        "into.other-units",
        fmt::format("nodes of the deck lie {:.6g} times as far apart as those of the part, which is in {}: thicknesses "
                    "and stiffnesses would be in another unit than its coordinates",
                    factor, unit),
        Place::in(existing),
        "give [part] the units of the deck, and mesh = { length = ... } the same, without 'scale'");
  std::size_t off = 0;
  std::int64_t first = 0;
  for (const auto& [n, point] : both)
    if (!((point - ours.points[n]).norm() <= 1e-3 * shortest) && off++ == 0) first = ours.node_ids[n];
  if (off > 0)
    fail("into.nodes-moved",
         fmt::format("{} of the deck and of the part of one number lie apart, node {} first: this is not the mesh that "
                     "the part was laid on",
                     counted(off, "node"), first),
         Place::in(existing), "lay the part on the deck itself: mesh = { file = \"...\" }");
}

}  // namespace

Written write_into(const Format& format, const Model& model, const std::string& existing, const std::string& path,
                   const WriteOptions& options, Findings& findings) {
  const std::string text = read_file(existing);
  check_places(model, existing, findings);
  return format.name == "calculix" ? into_calculix(model, existing, text, path, options, findings)
                                   : into_bulk_data(model, existing, text, path, options, findings);
}

}  // namespace bordado::deck
