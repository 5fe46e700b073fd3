#include "../base/toml_table.hpp"

#include <bordado/design.hpp>
#include <bordado/review/compare.hpp>
#include <bordado/review/drapes.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace bordado::review {

namespace {

using What = Change::What;

/// A value as part files write it, on one line.
std::string text_of(const toml::node& node) {
  if (const auto value = node.value_exact<std::string>()) return toml_string(*value);
  if (node.is_number()) return toml_number(*number_of(node));
  if (const toml::array* const list = node.as_array()) {
    std::string out;
    for (const toml::node& item : *list) out += (out.empty() ? "" : ", ") + text_of(item);
    return "[" + out + "]";
  }
  if (const toml::table* const table = node.as_table()) {
    std::string out;
    for (const auto& [key, item] : *table)
      out += fmt::format("{}{} = {}", out.empty() ? "" : ", ", key.str(), text_of(item));
    return "{ " + out + " }";
  }
  return node.value_or(false) ? "true" : "false";
}

/// Sums over the area of what lies on each element.
struct Means {
  double area = 0.0, mass = 0.0, thickness = 0.0;
  double stiffness[6] = {};                 ///< A11, A22, A66, D11, D22, D66 about the middle
  std::map<std::string, double> laminates;  ///< area of each, told apart by everything that it is
};

class Measured {
 public:
  explicit Measured(const Design& design) : design_(design) {
    const layup::Layup& layup = design.layup;
    for (const layup::StackId s : layup.stacks()) signatures_.push_back(layup::signature(design, s));
    List<section::SectionId, std::array<double, 6>> stiffness;
    List<section::SectionId, double> areal_masses;
    for (const section::SectionId s : design.sections.ids()) {
      const auto stack = section::laminate_of(design.part, design.sections, s);
      const laminate::Stiffness k = laminate::stiffness(stack, -0.5 * design.sections.thickness[s]);
      areal_masses.push_back(laminate::areal_mass(stack));
      stiffness.push_back({k.A(0, 0), k.A(1, 1), k.A(2, 2), k.D(0, 0), k.D(1, 1), k.D(2, 2)});
    }
    // Elements of one zone, stack and section add up alike: gather areas first.
    zones.resize(layup.zones.names.size());
    List<zone::ZoneId, std::map<std::pair<layup::StackId, section::SectionId>, double>> areas(zones.size());
    for (mesh::ElementIndex e = 0; e < layup.stack_of.size(); ++e)
      layup.zones.for_each_of(e, [&](zone::ZoneId zone) {
        areas[zone][{layup.stack_of[e], design.sections.section_of[e]}] += design.geometry.areas[e];
      });
    for (const zone::ZoneId z : zones.ids())
      for (const auto& [key, area] : areas[z]) {
        Means& sum = zones[z];
        sum.area += area;
        const bool varies = layup.varies[key.first] != 0;
        sum.mass += area * (varies ? areal_masses[key.second] : layup::areal_mass(design.part, layup, key.first));
        sum.thickness += area * (varies ? design.sections.thickness[key.second] : layup::thickness(layup, key.first));
        for (std::size_t i = 0; i < 6; ++i) sum.stiffness[i] += area * stiffness[key.second][i];
        sum.laminates[signatures_[key.first]] += area;
      }
    for (const layup::StackId s : signatures_.ids())
      codes.try_emplace(signatures_[s], layup::code(design.part, layup, s));
  }

  const Means* of(std::string_view name) const {
    const auto z = design_.layup.zones.find(name);
    return z ? &zones[*z] : nullptr;
  }
  /// Code of the laminate that covers most.
  std::string main_code(const Means& means) const {
    const auto most = std::max_element(means.laminates.begin(), means.laminates.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    return most == means.laminates.end() ? std::string() : codes.at(most->first);
  }

  List<zone::ZoneId, Means> zones;
  std::map<std::string, std::string> codes;

 private:
  const Design& design_;
  List<layup::StackId, std::string> signatures_;
};

class Comparer {
 public:
  Comparer(const Design& before, const Design& after) : a_(before), b_(after) {}

  Comparison compare() {
    const toml::table before = toml::parse(part::toml_text(a_.part, a_.part.file)),
                      after = toml::parse(part::toml_text(b_.part, b_.part.file));
    keys("part", "part", before["part"].as_table(), after["part"].as_table());
    materials();
    for (const char* kind : {"laminate", "curve", "frame", "zone"}) named(kind, before, after);
    plies(before, after);
    for (const char* kind : {"ramp", "drape", "variant", "support", "load"}) named(kind, before, after);
    keys("checks", "checks", before["checks"].as_table(), after["checks"].as_table());
    measure();
    return std::move(out_);
  }

 private:
  void tell(What what, std::string kind, std::string name, std::string detail = {}) {
    out_.changes.push_back({what, std::move(kind), std::move(name), std::move(detail)});
  }

  /// A change for each key of two tables that differ.
  void keys(const std::string& kind, const std::string& name, const toml::table* a, const toml::table* b,
            const std::set<std::string>& without = {}) {
    std::set<std::string> all;
    for (const toml::table* const table : {a, b})
      if (table)
        for (const auto& [key, node] : *table) all.emplace(key.str());
    for (const std::string& key : all) {
      if (without.count(key)) continue;
      const toml::node* const x = a ? a->get(key) : nullptr;
      const toml::node* const y = b ? b->get(key) : nullptr;
      const std::string from = x ? text_of(*x) : "-", to = y ? text_of(*y) : "-";
      if (from != to) tell(What::changed, kind, name, fmt::format("{} {} -> {}", key, from, to));
    }
  }

  void named(const std::string& kind, const toml::table& before, const toml::table& after) {
    const toml::table* const a = before[kind].as_table();
    const toml::table* const b = after[kind].as_table();
    std::set<std::string> all;
    for (const toml::table* const table : {a, b})
      if (table)
        for (const auto& [name, node] : *table) all.emplace(name.str());
    for (const std::string& name : all) {
      const toml::node* const x = a ? a->get(name) : nullptr;
      const toml::node* const y = b ? b->get(name) : nullptr;
      if (!x || !y)
        tell(x ? What::removed : What::added, kind, name);
      else
        keys(kind, name, x->as_table(), y->as_table());
    }
  }

  void materials() {
    const auto find = [](const part::Part& part, const std::string& name) -> const material::Material* {
      for (const material::Material& m : part.materials)
        if (m.name == name) return &m;
      return nullptr;
    };
    for (const material::Material& m : a_.part.materials)
      if (!find(b_.part, m.name)) tell(What::removed, "material", m.name);
    for (const material::Material& now : b_.part.materials) {
      const material::Material* const then = find(a_.part, now.name);
      if (!then) {
        tell(What::added, "material", now.name);
        continue;
      }
      const material::Material was = in_units(*then, a_.part.units, b_.part.units);
      const std::size_t told = out_.changes.size();
      for (const material::Quantity& q : material::quantities()) {
        const auto x = q.get(was), y = q.get(now);
        if (x == y || (x && y && std::abs(*x - *y) <= 1e-12 * std::abs(*x))) continue;
        const std::string unit = b_.part.units.unit(q.dimension);
        tell(What::changed, "material", now.name,
             fmt::format("{} {} -> {}{}{}", q.key, x ? fmt::format("{:g}", *x) : "-", y ? fmt::format("{:g}", *y) : "-",
                         unit.empty() ? "" : " ", unit));
      }
      if (told == out_.changes.size() && a_.part.units.name() == b_.part.units.name()) {
        const toml::table x = toml::parse(toml_text(was)), y = toml::parse(toml_text(now));
        keys("material", now.name, x["material"][now.name].as_table(), y["material"][now.name].as_table());
      }
    }
  }

  static std::map<std::string, const toml::table*> lines_of(const toml::table& part) {
    std::map<std::string, const toml::table*> out;
    if (const toml::array* const plies = part["layup"]["plies"].as_array())
      for (const toml::node& node : *plies) out[(*node.as_table())["id"].value_or(std::string())] = node.as_table();
    return out;
  }

  static std::vector<std::string> plies_of_line(const part::Part& part, std::size_t line) {
    std::vector<std::string> out;
    for (const part::Ply& ply : part.plies)
      if (ply.line == line)
        out.push_back(fmt::format(
            "{} at {:g}° in {} over {}{}", ply.material.value, ply.angle.degrees(), ply.frame.value, ply.zone.value,
            ply.thickness ? fmt::format(", {:g} thick", *ply.thickness)
            : ply.varies  ? fmt::format(", thickness {}", part::toml_text(*ply.varies, part.file, part.units))
                          : ""));
    return out;
  }

  void plies(const toml::table& before, const toml::table& after) {
    keys("layup", "layup", before["layup"].as_table(), after["layup"].as_table(), {"plies"});
    const auto was = lines_of(before), is = lines_of(after);
    std::map<std::string, std::size_t> place;  // of the lines before
    const auto& old_lines = a_.part.list.lines;
    const auto& new_lines = b_.part.list.lines;
    for (std::size_t i = 0; i < old_lines.size(); ++i) place[old_lines[i].id] = i;
    for (const part::PlyLine& line : old_lines)
      if (!is.count(line.id)) tell(What::removed, "ply", line.id, in_words(a_.part, place[line.id]));
    std::vector<std::size_t> order, at;
    for (std::size_t i = 0; i < new_lines.size(); ++i) {
      const std::string& id = new_lines[i].id;
      if (!was.count(id)) {
        tell(What::added, "ply", id, in_words(b_.part, i));
        continue;
      }
      order.push_back(place[id]);
      at.push_back(i);
      const std::size_t told = out_.changes.size();
      keys("ply", id, was.at(id), is.at(id));
      if (told != out_.changes.size()) continue;
      const auto x = plies_of_line(a_.part, place[id]), y = plies_of_line(b_.part, i);
      if (x == y) continue;
      if (x.empty() || y.empty()) {
        tell(What::changed, "ply", id, x.empty() ? "switched on" : "switched off");
      } else {
        const std::size_t k =
            static_cast<std::size_t>(std::mismatch(x.begin(), x.end(), y.begin(), y.end()).first - x.begin());
        tell(What::changed, "ply", id,
             fmt::format("by what it follows or uses: {} -> {}", k < x.size() ? x[k] : "-", k < y.size() ? y[k] : "-"));
      }
    }
    moved(order, at);
  }

  static std::string in_words(const part::Part& part, std::size_t line) {
    const auto plies = plies_of_line(part, line);
    if (plies.empty()) return "not laid";
    return plies.size() == 1 ? plies[0] : fmt::format("{} plies, the first {}", plies.size(), plies[0]);
  }

  /// Lines that stand out of the longest run that kept its order.
  void moved(const std::vector<std::size_t>& order, const std::vector<std::size_t>& at) {
    std::vector<std::size_t> length(order.size(), 1), previous(order.size());
    std::size_t best = 0;
    for (std::size_t i = 0; i < order.size(); ++i) {
      previous[i] = i;
      for (std::size_t j = 0; j < i; ++j)
        if (order[j] < order[i] && length[j] + 1 > length[i]) length[i] = length[j] + 1, previous[i] = j;
      if (length[i] > length[best]) best = i;
    }
    std::set<std::size_t> kept;
    if (!order.empty())
      for (std::size_t i = best;; i = previous[i]) {
        kept.insert(i);
        if (previous[i] == i) break;
      }
    const auto& old_lines = a_.part.list.lines;
    const auto& new_lines = b_.part.list.lines;
    const auto after = [](const std::vector<part::PlyLine>& lines, std::size_t i) {
      return i == 0 ? std::string("the front") : "behind " + lines[i - 1].id;
    };
    for (std::size_t i = 0; i < order.size(); ++i)
      if (!kept.count(i))
        tell(What::moved, "ply", new_lines[at[i]].id,
             fmt::format("from {} to {}", after(old_lines, order[i]), after(new_lines, at[i])));
  }

  void measure() {
    const Measured a(a_), b(b_);
    const UnitSystem &from = a_.part.units, &to = b_.part.units;
    const auto factor = [&](Dimension d) { return from.to_si(d) / to.to_si(d); };
    const double bending = factor(Dimension::force) * factor(Dimension::length);
    const bool same_mesh =
        a_.surface.element_count() == b_.surface.element_count() && a_.surface.points == b_.surface.points;
    const double tolerance = same_mesh ? 1e-9 : 0.01;  // another mesh has other areas by itself
    const auto mean = [](double sum, double area) { return area > 0.0 ? sum / area : 0.0; };
    std::vector<std::string> names = a_.layup.zones.names.all();
    for (const std::string& name : b_.layup.zones.names)
      if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
    for (const std::string& name : names) {
      const Means none;
      const Means* const was = a.of(name);
      const Means* const is = b.of(name);
      const Means &x = was ? *was : none, &y = is ? *is : none;
      if (was && is && distance(x, y) <= tolerance) continue;
      out_.zones.push_back({.zone = name,
                            .before = a.main_code(x),
                            .after = b.main_code(y),
                            .area_before = x.area * factor(Dimension::area),
                            .area_after = y.area,
                            .mass_before = x.mass * factor(Dimension::mass),
                            .mass_after = y.mass,
                            .thickness_before = mean(x.thickness, x.area) * factor(Dimension::length),
                            .thickness_after = mean(y.thickness, y.area),
                            .A11_before = mean(x.stiffness[0], x.area) * factor(Dimension::line_force),
                            .A11_after = mean(y.stiffness[0], y.area),
                            .D11_before = mean(x.stiffness[3], x.area) * bending,
                            .D11_after = mean(y.stiffness[3], y.area)});
    }
    const Means &x = a.zones[zone::everything], &y = b.zones[zone::everything];
    const auto figure = [&](std::string name, Dimension dimension, double then, double now) {
      if (std::abs(then - now) > 1e-9 * std::max(std::abs(then), std::abs(now)))
        out_.figures.push_back({std::move(name), dimension, then, now});
    };
    figure("mass", Dimension::mass, x.mass * factor(Dimension::mass), y.mass);
    figure("area", Dimension::area, x.area * factor(Dimension::area), y.area);
    figure("mean thickness", Dimension::length, mean(x.thickness, x.area) * factor(Dimension::length),
           mean(y.thickness, y.area));
    constexpr const char* letters[] = {"mean A11", "mean A22", "mean A66", "mean D11", "mean D22", "mean D66"};
    for (int i = 0; i < 6; ++i)
      figure(letters[i], i < 3 ? Dimension::line_force : Dimension::none,
             mean(x.stiffness[i], x.area) * (i < 3 ? factor(Dimension::line_force) : bending),
             mean(y.stiffness[i], y.area));
    const auto a_draped = draped(a_), b_draped = draped(b_);
    std::set<std::string> ids;
    for (const auto* const all : {&a_draped, &b_draped})
      for (const auto& [id, verdict] : *all) ids.insert(id);
    for (const std::string& id : ids) {
      const auto of = [&](const auto& all) {
        const auto found = all.find(id);
        return found == all.end() ? drape::Verdict{} : found->second;
      };
      const drape::Verdict then = of(a_draped), now = of(b_draped);
      const auto largest = [](const drape::Verdict& v) {
        return std::max(std::abs(v.least_shear), std::abs(v.most_shear));
      };
      figure(fmt::format("largest shear of {}", id), Dimension::angle, largest(then), largest(now));
      figure(fmt::format("mean shear of {}", id), Dimension::angle, then.mean_shear, now.mean_shear);
      figure(fmt::format("area of {} past its limit", id), Dimension::area, then.past_limit * factor(Dimension::area),
             now.past_limit);
    }
  }

  /// What came of draped plies, by their ids.
  static std::map<std::string, drape::Verdict> draped(const Design& design) {
    std::map<std::string, drape::Verdict> out;
    for (PlyDrape& one : draped_plies(design)) out.emplace(design.part.plies[one.ply].id, std::move(one.verdict));
    return out;
  }

  /// Half of what differs between two shares of the area, 0 to 1.
  static double distance(const Means& x, const Means& y) {
    std::map<std::string, std::pair<double, double>> shares;
    for (const auto& [key, area] : x.laminates) shares[key].first += area / x.area;
    for (const auto& [key, area] : y.laminates) shares[key].second += area / y.area;
    double sum = 0.0;
    for (const auto& [key, pair] : shares) sum += 0.5 * std::abs(pair.first - pair.second);
    return sum;
  }

  const Design &a_, &b_;
  Comparison out_;
};

}  // namespace

Comparison compare(const Design& before, const Design& after) { return Comparer(before, after).compare(); }

}  // namespace bordado::review
