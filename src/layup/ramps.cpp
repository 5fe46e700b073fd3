#include "ramps.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <deque>
#include <numeric>
#include <set>
#include <utility>

namespace bordado::layup {

namespace {

using zone::Border;
using zone::ZoneId;
using Mask = std::vector<std::uint8_t>;

bool any(const Mask& mask) {
  return std::any_of(mask.begin(), mask.end(), [](std::uint8_t m) { return m != 0; });
}

class Maker {
 public:
  Maker(const part::Part& part, const std::vector<std::optional<ZoneId>>& zones, Layup& layup, Findings& errors,
        Findings& findings)
      : part_(part), zones_(zones), layup_(layup), errors_(errors), findings_(findings) {
    moved_.resize(part.plies.size());
  }

  List<PlyId, std::vector<Moved>> make() {
    for (std::size_t i = 0; i < part_.ramps.size(); ++i)
      if (part_.ramps[i].from) from_zone(i);
    for (std::size_t i = 0; i < part_.ramps.size(); ++i)
      if (!part_.ramps[i].from) where_thickness_jumps(i);
    return std::move(moved_);
  }

 private:
  std::string unit() const { return part_.units.unit(Dimension::length); }

  /// Plies with an edge of their own, cores, and what runs out by itself take no part.
  bool may_end(PlyId p) const {
    const part::Ply& ply = part_.plies[p];
    return !ply.edge && !ply.varies && !ply.chamfer &&
           !material::is_core(part_.materials[layup_.plies[p].material].kind);
  }
  std::optional<ZoneId> zone_of(PlyId p) const { return zones_[index(p)]; }

  std::optional<ZoneId> named(const part::Ramp& ramp, const Declared<std::string>& name) {
    if (const auto found = layup_.zones.find(name.value)) return found;
    const auto near = nearest_name(name.value, layup_.zones.names.all());
    errors_.error(
        "ramp.zone-unknown",
        fmt::format("ramp '{}': zone '{}' is not declared and is no element group of the mesh", ramp.name, name.value),
        name.where,
        near ? fmt::format("did you mean '{}'?", *near)
             : fmt::format("zones: {}", listed(layup_.zones.names.all(), 20)));
    return std::nullopt;
  }

  double length(const Border& border, const Mask& mask) const {
    double sum = 0.0;
    for (std::size_t k = 0; k < mask.size(); ++k)
      if (mask[k]) sum += (border.pieces[k].ends[1] - border.pieces[k].ends[0]).norm();
    return sum;
  }

  /// Over which length of a border the shape of a zone holds what lies just within: elements may end anywhere.
  double held_along(ZoneId from, const Mask& mask, ZoneId zone) const {
    const Border& border = layup_.zones.borders.at(from);
    if (zone == zone::everything) return length(border, mask);
    const Mask& behind = layup_.zones.behind.at({from, zone});
    Mask both = mask;
    for (std::size_t k = 0; k < both.size(); ++k) both[k] &= behind[k];
    return length(border, both);
  }

  void from_zone(std::size_t number) {
    const part::Ramp& declared = part_.ramps[number];
    const auto from = named(declared, *declared.from);
    const auto to = declared.to ? named(declared, *declared.to) : std::nullopt;
    if (!from || (declared.to && !to)) return;
    const Border& border = layup_.zones.borders.at(*from);
    const Mask mask = to ? layup_.zones.facing.at({*from, *to}) : Mask(border.pieces.size(), 1);
    if (!any(mask)) {
      errors_.error(
          "ramp.nothing-ends",
          to ? fmt::format("ramp '{}': zone '{}' does not meet '{}'", declared.name, declared.from->value,
                           declared.to->value)
             : fmt::format("ramp '{}': zone '{}' has no border within the part", declared.name, declared.from->value),
          declared.from->where, "plies end at the part's own border with it: name a zone that ends within");
      return;
    }
    Ramp ramp;
    ramp.name = declared.name;
    ramp.declared = number;
    ramp.from = *from;
    ramp.to = to;
    ramp.length = length(border, mask);
    Border line;
    for (std::size_t k = 0; k < mask.size(); ++k)
      if (mask[k]) line.pieces.push_back(border.pieces[k]);
    ramp.along[*from] = mask;
    // Every ply that ends along it.
    std::vector<PlyId> ending;
    for (const PlyId p : part_.plies.ids()) {
      const auto z = zone_of(p);
      if (!z || *z == zone::everything || !may_end(p)) continue;
      const auto found = layup_.zones.borders.find(*z);
      if (found == layup_.zones.borders.end()) continue;
      const auto [along, is_new] = ramp.along.try_emplace(*z);
      if (is_new) along->second = zone::shared(found->second, line);
      if (any(along->second)) ending.push_back(p);
    }
    std::erase_if(ramp.along, [](const auto& one) { return !any(one.second); });
    if (!declared.order.empty()) ending = as_listed(declared, ending);
    if (ending.empty()) {
      if (declared.order.empty())
        errors_.error("ramp.nothing-ends",
                      fmt::format("ramp '{}': no ply ends at the border of zone '{}'{}", declared.name,
                                  declared.from->value, to ? fmt::format(" with '{}'", declared.to->value) : ""),
                      declared.from->where,
                      "name the zone that plies are laid over; cores are chamfered, and plies with an edge of their "
                      "own stay");
      return;
    }
    // The stack that it begins with, along most of the line.
    for (const PlyId p : part_.plies.ids()) {
      const auto z = zone_of(p);
      if (!z) continue;
      if (std::find(ending.begin(), ending.end(), p) != ending.end()) {
        ramp.thick.push_back(p);
        continue;
      }
      if (held_along(*from, mask, *z) >= 0.5 * ramp.length) ramp.thick.push_back(p);
    }
    place(std::move(ramp), declared, ending);
  }

  /// The plies of a list, in its order.
  std::vector<PlyId> as_listed(const part::Ramp& declared, const std::vector<PlyId>& ending) {
    std::vector<PlyId> out;
    std::vector<std::string> names;
    for (const PlyId p : ending) names.push_back(part_.plies[p].id);
    for (const Declared<std::string>& name : declared.order) {
      bool known = false, ends = false;
      for (const PlyId p : part_.plies.ids()) {
        if (part_.plies[p].id != name.value && part_.list.lines[part_.plies[p].line].id != name.value) continue;
        known = true;
        if (std::find(ending.begin(), ending.end(), p) == ending.end()) continue;
        ends = true;
        if (std::find(out.begin(), out.end(), p) == out.end()) out.push_back(p);
      }
      if (ends) continue;
      const auto near = nearest_name(name.value, names);
      errors_.error(
          known ? "ramp.ply-not" : "ramp.ply-unknown",
          known ? fmt::format("ramp '{}': ply '{}' does not end there, or not by a ramp", declared.name, name.value)
                : fmt::format("ramp '{}': there is no ply '{}'", declared.name, name.value),
          name.where,
          !known && near  ? fmt::format("did you mean '{}'?", *near)
          : names.empty() ? std::string("no ply ends there")
                          : fmt::format("plies that end there: {}", listed(names, 20)));
    }
    return out;
  }

  /// Zones at whose borders more than a thickness ends; those that share most of their borders are one ramp.
  void where_thickness_jumps(std::size_t number) {
    const part::Ramp& declared = part_.ramps[number];
    std::vector<ZoneId> zones;
    std::map<ZoneId, std::vector<PlyId>> plies;
    for (const PlyId p : part_.plies.ids()) {
      const auto z = zone_of(p);
      if (!z || *z == zone::everything || !may_end(p) || !moved_[p].empty()) continue;
      const auto found = layup_.zones.borders.find(*z);
      if (found == layup_.zones.borders.end() || found->second.pieces.empty()) continue;
      if (plies[*z].empty()) zones.push_back(*z);
      plies[*z].push_back(p);
    }
    const auto whole = [&](ZoneId z) { return Mask(layup_.zones.borders.at(z).pieces.size(), 1); };
    const auto round = [&](ZoneId z) { return length(layup_.zones.borders.at(z), whole(z)); };
    std::vector<std::size_t> group(zones.size());
    std::iota(group.begin(), group.end(), 0);
    for (std::size_t a = 0; a < zones.size(); ++a)
      for (std::size_t b = a + 1; b < zones.size(); ++b) {
        if (group[a] == group[b]) continue;
        const Border& of_a = layup_.zones.borders.at(zones[a]);
        const double common = length(of_a, zone::shared(of_a, layup_.zones.borders.at(zones[b])));
        if (common <= 0.5 * std::min(round(zones[a]), round(zones[b]))) continue;
        const std::size_t old = group[b];
        for (std::size_t& g : group)
          if (g == old) g = group[a];
      }
    bool found = false;
    for (std::size_t g = 0; g < zones.size(); ++g) {
      std::vector<PlyId> ending;
      double ended = 0.0, most = 0.0;
      Ramp ramp;
      ramp.declared = number;
      for (std::size_t i = 0; i < zones.size(); ++i) {
        if (group[i] != g) continue;
        double t = 0.0;
        for (const PlyId p : plies[zones[i]]) t += layup_.plies[p].thickness;
        if (t > most) most = t, ramp.from = zones[i];
        ended += t;
        ending.insert(ending.end(), plies[zones[i]].begin(), plies[zones[i]].end());
        ramp.along[zones[i]] = whole(zones[i]);
      }
      if (!(ended > *declared.jump) || ending.size() < 2) continue;
      found = true;
      std::sort(ending.begin(), ending.end());
      ramp.name = fmt::format("{} {}", declared.name, layup_.zones.names[ramp.from]);
      ramp.length = round(ramp.from);
      for (const PlyId p : part_.plies.ids()) {
        const auto z = zone_of(p);
        if (!z) continue;
        if (std::binary_search(ending.begin(), ending.end(), p) ||
            held_along(ramp.from, whole(ramp.from), *z) >= 0.5 * ramp.length)
          ramp.thick.push_back(p);
      }
      place(std::move(ramp), declared, ending);
    }
    if (!found)
      findings_.warning("ramp.none",
                        fmt::format("ramp '{}': at no border does more than {:g} {} end, by two plies and more",
                                    declared.name, *declared.jump, unit()),
                        declared.where,
                        "lower 'jump', or leave the ramp out; cores and plies with an edge of their "
                        "own do not count");
  }

  // --- order
  // -----------------------------------------------------------------------------------------------------------

  bool alike(PlyId a, PlyId b) const {
    const Ply &x = layup_.plies[a], &y = layup_.plies[b];
    return x.material == y.material && x.cloth == y.cloth && std::abs(x.thickness - y.thickness) <= 1e-9 * x.thickness;
  }
  double turned(PlyId a, PlyId b, double sign) const {
    return std::abs(std::remainder(layup_.plies[a].angle.degrees() - sign * layup_.plies[b].angle.degrees(), 180.0));
  }
  bool mirrors(PlyId a, PlyId b) const { return alike(a, b) && turned(a, b, 1.0) < 1e-6; }
  /// +θ and -θ, neither along nor across.
  bool opposite(PlyId a, PlyId b) const { return alike(a, b) && turned(a, b, -1.0) < 1e-6 && turned(a, b, 1.0) > 1e-6; }

  bool symmetric(const std::vector<PlyId>& stack) const {
    for (std::size_t i = 0; i < stack.size() / 2; ++i)
      if (!mirrors(stack[i], stack[stack.size() - 1 - i])) return false;
    return true;
  }
  bool balanced(const std::vector<PlyId>& stack) const {
    std::vector<std::uint8_t> taken(stack.size(), 0);
    for (std::size_t i = 0; i < stack.size(); ++i) {
      const material::Kind kind = part_.materials[layup_.plies[stack[i]].material].kind;
      if (taken[i] || kind != material::Kind::unidirectional) continue;
      if (turned(stack[i], stack[i], -1.0) < 1e-6) continue;  // along or across
      bool found = false;
      for (std::size_t j = i + 1; j < stack.size() && !found; ++j)
        if (!taken[j] && opposite(stack[i], stack[j])) taken[j] = found = true;
      if (!found) return false;
    }
    return true;
  }

  /// What ends together in any case: a ply, or two that mirror each other.
  using Unit = std::vector<PlyId>;

  std::vector<Unit> units(const Ramp& ramp, const part::Ramp& declared, const std::vector<PlyId>& ending) const {
    const auto ends = [&](PlyId p) { return std::find(ending.begin(), ending.end(), p) != ending.end(); };
    const std::vector<PlyId>& thick = ramp.thick;
    const std::size_t n = thick.size();
    bool mirrored = declared.pairs && declared.together >= 2 && symmetric(thick);
    for (std::size_t i = 0; i < n / 2 && mirrored; ++i) mirrored = ends(thick[i]) == ends(thick[n - 1 - i]);
    std::vector<Unit> out;
    if (!declared.order.empty()) {
      std::vector<PlyId> left = ending;
      while (!left.empty()) {
        Unit unit{left.front()};
        left.erase(left.begin());
        if (mirrored) {
          const auto at = std::find(thick.begin(), thick.end(), unit[0]);
          const PlyId other = thick[n - 1 - static_cast<std::size_t>(at - thick.begin())];
          if (const auto found = std::find(left.begin(), left.end(), other); found != left.end()) {
            unit.push_back(other);
            left.erase(found);
          }
        }
        out.push_back(std::move(unit));
      }
      return out;
    }
    // By height over the middle of the stack, of the lower half where both halves go together.
    double h = 0.0;
    for (const PlyId p : thick) h += layup_.plies[p].thickness;
    double z = -0.5 * h, low = 0.0, high = 0.0;
    std::map<PlyId, double> height;
    bool begun = false;
    for (const PlyId p : thick) {
      const double t = layup_.plies[p].thickness;
      height[p] = z + 0.5 * t;
      if (ends(p) && !std::exchange(begun, true)) low = z;
      if (ends(p)) high = z + t;
      z += t;
    }
    const double middle = declared.first == part::EndsFirst::middle ? 0.5 * (low + high) : 0.0;
    for (std::size_t i = 0; i < n; ++i) {
      if (!ends(thick[i])) continue;
      if (!mirrored) {
        out.push_back({thick[i]});
      } else if (i < n - 1 - i) {
        out.push_back({thick[i], thick[n - 1 - i]});
      } else if (i == n - 1 - i) {
        out.push_back({thick[i]});
      }
    }
    std::stable_sort(out.begin(), out.end(), [&](const Unit& a, const Unit& b) {
      const double x = std::abs(height[a[0]] - middle), y = std::abs(height[b[0]] - middle);
      return x < y - 1e-9 * h;
    });
    if (declared.first == part::EndsFirst::outer) std::reverse(out.begin(), out.end());
    if (declared.first == part::EndsFirst::alternating) {
      std::deque<Unit> left(out.begin(), out.end());
      out.clear();
      for (bool inner = true; !left.empty(); inner = !inner) {
        out.push_back(inner ? left.front() : left.back());
        inner ? left.pop_front() : left.pop_back();
      }
    }
    return out;
  }

  /// One of the outermost plies of a face.
  static bool is_cover(const Ramp& ramp, const part::Ramp& declared, PlyId p) {
    const auto covers = static_cast<std::size_t>(declared.covers);
    const auto at = static_cast<std::size_t>(std::find(ramp.thick.begin(), ramp.thick.end(), p) - ramp.thick.begin());
    return at < covers || at + covers >= ramp.thick.size();
  }

  /// Covers go behind all others. They are told: nothing covers where they end.
  void covers_last(const Ramp& ramp, const part::Ramp& declared, std::vector<Unit>& units) {
    const auto holds_cover = [&](const Unit& unit) {
      return std::any_of(unit.begin(), unit.end(), [&](PlyId p) { return is_cover(ramp, declared, p); });
    };
    std::vector<std::string> told;
    for (const Unit& unit : units)
      for (const PlyId p : unit)
        if (is_cover(ramp, declared, p)) told.push_back(part_.plies[p].id);
    if (told.empty()) return;
    if (declared.order.empty()) {
      std::stable_partition(units.begin(), units.end(), [&](const Unit& unit) { return !holds_cover(unit); });
    }
    findings_.warning(
        "ramp.cover-ends",
        fmt::format("ramp '{}': {} {} among the {} outermost of a face and {}, so {} uncovered", ramp.name,
                    listed(told, 8), told.size() == 1 ? "is" : "are", declared.covers,
                    told.size() == 1 ? "ends" : "end", told.size() == 1 ? "its end lies" : "their ends lie"),
        declared.where, "lay a ply that goes on over them, or say covers = 0");
  }

  /// Lines from units: +θ goes with -θ where that many may end together.
  std::vector<Unit> steps(const Ramp& ramp, const part::Ramp& declared, std::vector<Unit> units) const {
    std::vector<Unit> out;
    const auto holds_cover = [&](const Unit& unit) {
      return std::any_of(unit.begin(), unit.end(), [&](PlyId p) { return is_cover(ramp, declared, p); });
    };
    const auto most = static_cast<std::size_t>(declared.together);
    while (!units.empty()) {
      Unit step = units.front();
      units.erase(units.begin());
      for (auto other = units.begin(); declared.pairs && other != units.end(); ++other) {
        if (step.size() + other->size() > most || other->size() != step.size() || !opposite(step[0], (*other)[0]) ||
            holds_cover(step) != holds_cover(*other))
          continue;
        step.insert(step.end(), other->begin(), other->end());
        units.erase(other);
        break;
      }
      std::sort(step.begin(), step.end());
      out.push_back(std::move(step));
    }
    return out;
  }

  // --- places
  // ----------------------------------------------------------------------------------------------------------

  void place(Ramp ramp, const part::Ramp& declared, const std::vector<PlyId>& ending) {
    std::vector<Unit> order = units(ramp, declared, ending);
    covers_last(ramp, declared, order);
    std::vector<PlyId> left = ramp.thick;
    ramp.symmetric = symmetric(left);
    ramp.balanced = balanced(left);
    double at = 0.0;
    for (Unit& plies : steps(ramp, declared, std::move(order))) {
      RampStep step;
      for (const PlyId p : plies) {
        step.thickness += layup_.plies[p].thickness;
        left.erase(std::find(left.begin(), left.end(), p));
      }
      step.plies = std::move(plies);
      step.by = at;
      step.run = std::max(declared.step ? *declared.step : *declared.slope * step.thickness, declared.least_step);
      step.symmetric = symmetric(left);
      step.balanced = balanced(left);
      at += step.run;
      ramp.steps.push_back(std::move(step));
    }
    ramp.run = ramp.steps.back().by;
    ramp.steps.back().run = 0.0;
    const double back = declared.side == part::RampSide::inside  ? ramp.run
                        : declared.side == part::RampSide::about ? 0.5 * ramp.run
                                                                 : 0.0;
    const RampId id = layup_.ramps.next();
    for (RampStep& step : ramp.steps) {
      step.by -= back;
      if (std::abs(step.by) <= 1e-12 * ramp.run) step.by = 0.0;
      for (const PlyId p : step.plies) move(p, {id, step.by}, ramp);
    }
    layup_.ramps.push_back(std::move(ramp));
  }

  void move(PlyId p, const Moved& moved, const Ramp& ramp) {
    const Mask& along = ramp.along.at(*zone_of(p));
    for (const Moved& before : moved_[p]) {
      const Ramp& other = layup_.ramps[before.ramp];
      const Mask& theirs = other.along.at(*zone_of(p));
      bool both = false;
      for (std::size_t k = 0; k < along.size(); ++k) both = both || (along[k] && theirs[k]);
      if (!both) continue;
      if (told_twice_.insert({other.declared, ramp.declared}).second)
        errors_.error("ramp.twice",
                      fmt::format("ramps '{}' and '{}' both say where ply '{}' ends along the same border", other.name,
                                  ramp.name, part_.plies[p].id),
                      part_.ramps[ramp.declared].where,
                      "leave one out, or part the border: to = \"...\" says towards which zone a ramp goes");
      return;
    }
    moved_[p].push_back(moved);
  }

  const part::Part& part_;
  const std::vector<std::optional<ZoneId>>& zones_;
  Layup& layup_;
  Findings& errors_;
  Findings& findings_;
  List<PlyId, std::vector<Moved>> moved_;
  std::set<std::pair<std::size_t, std::size_t>> told_twice_;
};

}  // namespace

List<PlyId, std::vector<Moved>> make_ramps(const part::Part& part, const std::vector<std::optional<ZoneId>>& zones,
                                           Layup& layup, Findings& errors, Findings& findings) {
  return Maker(part, zones, layup, errors, findings).make();
}

}  // namespace bordado::layup
