#include "loads.hpp"

#include "kinds.hpp"
#include "values.hpp"

#include <fmt/format.h>

#include <cmath>
#include <stdexcept>

namespace bordado::part {

namespace {

/// What a table acts on, by 'on' or 'point'.
std::optional<ActsOn> read_on(Table& table) {
  const bool named = table.node("on") != nullptr, at_point = table.node("point") != nullptr;
  if (named == at_point) {
    table.error("part.key-missing",
                fmt::format("{} needs one of 'on' (a mesh group, curve or zone) and 'point'", table.name()),
                table.place(), "add on = \"...\" or point = [x, y, z]");
    return std::nullopt;
  }
  if (!named) {
    const auto point = table.vector("point", Dimension::length);
    return point ? std::optional(ActsOn{{*point, table.place("point")}}) : std::nullopt;
  }
  if (table.node("on")->is_array()) {
    const auto names = table.texts("on");
    if (!names) return std::nullopt;
    if (names->empty()) {
      table.error("part.value", fmt::format("{}: 'on' lists nothing", table.name()), table.place("on"),
                  "name mesh groups, curves or zones");
      return std::nullopt;
    }
    return ActsOn{{names->front().value, names->front().where}, {names->begin() + 1, names->end()}};
  }
  const auto name = table.text("on");
  return name ? std::optional(ActsOn{{name->value, name->where}}) : std::nullopt;
}

// --- amounts
// ---------------------------------------------------------------------------------------------------------

/// What the numbers of an amount are in, by 'unit'.
double scale_of(Table& table, Dimension dimension) {
  if (!table.node("unit")) return 1.0;
  const auto unit = table.text("unit");
  if (!unit) return 1.0;
  try {
    return table.units().read("1 " + unit->value, dimension);
  } catch (const std::invalid_argument& trouble) {
    table.error("part.units", fmt::format("{}: unit: {}", table.name(), trouble.what()), unit->where,
                fmt::format("write unit = \"{}\"", table.units().unit(dimension)));
    return 1.0;
  }
}

bool any_number(double value) { return std::abs(value) < largest_number; }

std::optional<Amount> varying_amount(Table& table, Dimension dimension) {
  Amount out;
  if (dimension == Dimension::temperature)
    table.node("unit");
  else
    out.scale = scale_of(table, dimension);
  const bool formula = table.node("formula") != nullptr, file = table.node("file") != nullptr;
  const bool along = table.node("along") != nullptr, of = table.node("of") != nullptr;
  if (formula + file + along + of != 1) {
    table.error("load.amount",
                fmt::format("{} should say in one way how it varies; it says {}", table.name(),
                            formula + file + along + of == 0 ? "none" : "several"),
                table.place(),
                "give one of formula = \"...\"; along = [..] and table = [[..]]; of = \"CURVE\" and table = [[..]]; "
                "file = \"...\" and field = \"...\"");
    table.pass_over();
    return std::nullopt;
  }
  if (formula) {
    const auto text = table.text("formula");
    if (!text) return std::nullopt;
    out.kind = Formula{*text};
    return out;
  }
  if (file) {
    auto field = field_of_file<OfField>(table);
    if (!field) return std::nullopt;
    out.kind = std::move(*field);
    return out;
  }
  if (along) {
    AlongAxis by;
    const auto axis = direction(table, "along");
    if (table.node("from"))
      if (const auto from = table.vector("from", Dimension::length)) by.from = *from;
    auto lines = distance_table(table, "a number", "[[0, 0], [400, 5]]", any_number);
    if (!axis || !lines) return std::nullopt;
    by.along = *axis;
    by.table = std::move(*lines);
    out.kind = std::move(by);
    return out;
  }
  const auto source = spot(table, "of");
  auto lines = distance_table(table, "a number", "[[0, 0], [400, 5]]", any_number);
  if (!source || !lines) return std::nullopt;
  out.kind = ByDistance{*source, std::move(*lines)};
  return out;
}

/// A number, or a table that says how it varies.
std::optional<Amount> read_amount(Table& table, std::string_view key, Dimension dimension) {
  const toml::node* const node = table.node(key);
  if (node && node->is_table()) {
    Table inner = *table.inner(key);
    auto out = varying_amount(inner, dimension);
    inner.finish();
    return out;
  }
  const auto value = table.number(key, dimension);
  return value ? std::optional(Amount{*value}) : std::nullopt;
}

// --- kinds of loads
// ------------------------------------------------------------------------------------------------

using LoadKind = decltype(Load::kind);

std::optional<Hydrostatic> hydrostatic(Table& table) {
  Hydrostatic out;
  const auto level = table.number("level", Dimension::length);
  const auto density = table.positive("density", Dimension::density);
  if (table.node("up")) {
    const auto up = direction(table, "up");
    if (!up) return std::nullopt;
    out.up = *up;
  }
  constexpr double standard = 9.80665;  // metres per second squared, ISO 80000-3
  out.acceleration = standard / table.units().to_si(Dimension::acceleration);
  if (table.node("acceleration"))
    if (const auto own = table.positive("acceleration", Dimension::acceleration)) out.acceleration = *own;
  if (!level || !density) return std::nullopt;
  out.level = *level;
  out.density = *density;
  return out;
}

std::optional<LoadKind> read_pressure(Table& table) {
  constexpr std::string_view faces[] = {"tool", "bag"};
  const toml::node* const node = table.node("pressure");
  std::optional<std::variant<Amount, Hydrostatic>> value;
  const toml::table* const inner = node ? node->as_table() : nullptr;
  if (inner && inner->contains("level")) {
    Table level = *table.inner("pressure");
    if (const auto read = hydrostatic(level)) value = *read;
    level.finish();
  } else if (const auto read = read_amount(table, "pressure", Dimension::stress)) {
    value = *read;
  }
  const auto face = table.choice("face", faces);
  if (!value || !face) return std::nullopt;
  return Pressure{std::move(*value), *face == 0};
}

std::optional<LoadKind> read_force(Table& table) {
  Force out;
  bool good = true;
  if (table.node("force")) {
    const auto total = table.vector("force", Dimension::force);
    good = total.has_value();
    out.total = total.value_or(Vec3::Zero());
  }
  if (table.node("moment")) {
    const auto moment = table.vector("moment", Dimension::moment);
    good = good && moment;
    out.moment = moment.value_or(Vec3::Zero());
  }
  if (table.node("at")) out.at = table.vector("at", Dimension::length);
  if (table.node("by"))
    if (const auto reach = table.choice("by", reach_names)) out.reach = static_cast<Reach>(*reach);
  return good ? std::optional<LoadKind>(out) : std::nullopt;
}

std::optional<LoadKind> read_edge_force(Table& table) {
  constexpr std::string_view whose[] = {"part", "edge"};
  EdgeForce out;
  bool good = true;
  const auto vector = [&](std::string_view key, Dimension dimension, Vec3& into) {
    if (!table.node(key)) return;
    const auto value = table.vector(key, dimension);
    good = good && value;
    into = value.value_or(Vec3::Zero());
  };
  vector("edge-force", Dimension::line_force, out.force);
  vector("edge-moment", Dimension::force, out.moment);
  if (table.node("axes"))
    if (const auto axes = table.choice("axes", whose)) out.in_edge_axes = *axes == 1;
  return good ? std::optional<LoadKind>(out) : std::nullopt;
}

std::optional<LoadKind> read_traction(Table& table) {
  Traction out;
  const auto value = table.vector("traction", Dimension::stress);
  if (!value) return std::nullopt;
  out.force = *value;
  return out;
}

std::optional<LoadKind> read_gravity(Table& table) {
  const auto value = table.vector("gravity", Dimension::acceleration);
  return value ? std::optional<LoadKind>(Gravity{*value, false}) : std::nullopt;
}

std::optional<LoadKind> read_acceleration(Table& table) {
  const auto value = table.vector("acceleration", Dimension::acceleration);
  return value ? std::optional<LoadKind>(Gravity{-*value, true}) : std::nullopt;
}

std::optional<LoadKind> read_rotation(Table& table) {
  auto inner = table.inner("rotation");
  if (!inner) return std::nullopt;
  Rotation out;
  const auto through = inner->vector("through", Dimension::length);
  const auto along = direction(*inner, "along");
  const auto speed = inner->number("speed", Dimension::angular_speed);
  inner->finish();
  if (!through || !along || !speed) return std::nullopt;
  return Rotation{*through, *along, *speed};
}

std::optional<LoadKind> read_displacement(Table& table) {
  constexpr std::string_view names[] = {"x", "y", "z", "rx", "ry", "rz"};
  auto inner = table.inner("displacement");
  if (!inner) return std::nullopt;
  Displacement out;
  bool any = false;
  for (std::size_t i = 0; i < 6; ++i) {
    if (!inner->node(names[i])) continue;
    const auto value = inner->number(names[i], i < 3 ? Dimension::length : Dimension::angle);
    if (!value) continue;
    out.by[i] = i < 3 ? *value : Angle::degrees(*value).radians();
    any = true;
  }
  if (!any)
    inner->error("part.value", fmt::format("{}: 'displacement' says no freedom", table.name()),
                 table.place("displacement"), "write displacement = { x = 1.0 }: one or more of x, y, z, rx, ry, rz");
  inner->finish();
  return any ? std::optional<LoadKind>(out) : std::nullopt;
}

std::optional<LoadKind> read_temperature(Table& table) {
  Temperature out;
  const toml::node* const node = table.node("temperature");
  const toml::table* const faces = node ? node->as_table() : nullptr;
  bool good = true;
  if (faces && (faces->contains("tool") || faces->contains("bag"))) {
    Table inner = *table.inner("temperature");
    const auto tool = read_amount(inner, "tool", Dimension::temperature);
    const auto bag = read_amount(inner, "bag", Dimension::temperature);
    inner.finish();
    good = tool && bag;
    if (good) out.tool = *tool, out.bag = *bag, out.through = true;
  } else {
    const auto both = read_amount(table, "temperature", Dimension::temperature);
    good = both.has_value();
    if (good) out.tool = out.bag = *both;
  }
  if (table.node("stress-free")) out.from = table.number("stress-free", Dimension::temperature);
  return good ? std::optional<LoadKind>(std::move(out)) : std::nullopt;
}

struct LoadEntry {
  std::string_view key, example;
  std::optional<LoadKind> (*read)(Table& table);
  bool of_part = false;  ///< acts on all of the part where 'on' is left out
};
constexpr LoadEntry load_table[] = {
    {"pressure", "pressure = \"5 kPa\" and face = \"tool\"", read_pressure},
    {"force", "force = [Fx, Fy, Fz]", read_force},
    {"moment", "moment = [Mx, My, Mz]", read_force},
    {"edge-force", "edge-force = [..], per length", read_edge_force},
    {"edge-moment", "edge-moment = [..], per length", read_edge_force},
    {"traction", "traction = [..], per area", read_traction},
    {"displacement", "displacement = { x = .. }", read_displacement},
    {"gravity", "gravity = [..]", read_gravity, true},
    {"acceleration", "acceleration = [..]", read_acceleration, true},
    {"rotation", "rotation = { through = [..], along = [..], speed = .. }", read_rotation, true},
    {"temperature", "temperature = 20", read_temperature, true},
};

}  // namespace

std::optional<Load> read_load(Table& table, const std::string& name) {
  const LoadEntry* said = nullptr;
  std::size_t kinds = 0;
  std::vector<std::string> ways;
  for (const LoadEntry& entry : load_table) {
    ways.emplace_back(entry.example);
    if (!table.node(entry.key)) continue;
    if (!said || said->read != entry.read) ++kinds;
    said = &entry;
  }
  if (kinds != 1) {
    table.error(
        "part.load-kind",
        fmt::format("{} should say one kind of load; it says {}", table.name(), kinds == 0 ? "none" : "several"),
        table.place(), fmt::format("give one of {}", listed(ways, ways.size())));
    table.pass_over();
    return std::nullopt;
  }
  Load out{name, {{std::string(everything), table.place()}}, {}, table.place()};
  const bool all = said->of_part && !table.has("on") && !table.has("point");
  if (said->of_part) table.node("on");
  const auto on = all ? std::optional(out.on) : read_on(table);
  auto kind = said->read(table);
  if (!on || !kind) return std::nullopt;
  out.on = *on;
  out.kind = std::move(*kind);
  return out;
}

namespace {

/// "clamped", "pinned", "symmetry-x" (mirror plane across x), "symmetry" (across 'normal'), or a list of freedoms.
std::uint8_t read_held(Table& table) {
  constexpr std::string_view kinds[] = {"clamped", "pinned", "symmetry-x", "symmetry-y", "symmetry-z", "symmetry"};
  constexpr std::uint8_t held[] = {
      x | y | z | rx | ry | rz, x | y | z, x | ry | rz, y | rx | rz, z | rx | ry, x | ry | rz};
  constexpr std::string_view names[] = {"x", "y", "z", "rx", "ry", "rz"};
  const toml::node* const node = table.node("hold");
  if (!node || !node->is_array()) {
    const auto kind = table.choice("hold", kinds);
    if (kind && *kind == 5 && !table.has("normal"))
      table.error("part.key-missing", fmt::format("{}: a plane of symmetry needs its 'normal'", table.name()),
                  table.place("hold"), "add normal = [1, 1, 0], or write hold = \"symmetry-x\"");
    return kind ? held[*kind] : 0;
  }
  std::uint8_t out = 0;
  if (const auto list = table.texts("hold"))
    for (const auto& item : *list) {
      const auto found = std::find(std::begin(names), std::end(names), item.value);
      if (found == std::end(names))
        table.error("part.value",
                    fmt::format("{}: '{}' is not one of {}", table.name(), item.value, fmt::join(names, ", ")),
                    item.where);
      else
        out |= static_cast<std::uint8_t>(1u << (found - std::begin(names)));
    }
  return out;
}

}  // namespace

std::optional<Support> read_support(Table& table, const std::string& name) {
  Support out{.name = name, .on = {}, .where = table.place()};
  const auto on = read_on(table);
  if (table.node("bed")) {
    out.bed = table.positive("bed", Dimension::bed);
    if (table.node("hold") || table.node("axes") || table.node("normal"))
      table.error("part.value", fmt::format("{}: a bed holds nothing", table.name()), table.place("bed"),
                  "leave out 'hold', 'axes' and 'normal', or make it two supports");
  } else {
    out.held = read_held(table);
    if (table.node("axes")) out.axes = table.text("axes");
    if (table.node("normal")) out.normal = direction(table, "normal");
    if (out.axes && out.normal)
      table.error("part.value", fmt::format("{}: 'axes' and 'normal' both say directions", table.name()),
                  table.place("normal"), "leave one of them out");
  }
  if (!on || (out.held == 0 && !out.bed)) return std::nullopt;
  out.on = *on;
  return out;
}

std::optional<Mass> read_mass(Table& table, const std::string& name) {
  struct Way {
    std::string_view key;
    Dimension dimension;
  };
  constexpr Way ways[] = {
      {"total", Dimension::mass}, {"per-area", Dimension::areal_mass}, {"per-length", Dimension::line_mass}};
  Mass out{.name = name, .on = {}, .where = table.place()};
  const auto on = read_on(table);
  std::size_t said = 0;
  std::optional<double> value;
  for (std::size_t i = 0; i < std::size(ways); ++i) {
    if (!table.node(ways[i].key)) continue;
    ++said;
    value = table.positive(ways[i].key, ways[i].dimension);
    out.per = static_cast<Mass::Per>(i);
  }
  if (said != 1)
    table.error("part.key-missing",
                fmt::format("{} needs one of 'total', 'per-area' and 'per-length'; it has {}", table.name(),
                            said == 0 ? "none" : "several"),
                table.place(), "add total = \"2 kg\", per-area = \"0.3 kg/m^2\" or per-length = \"0.1 kg/m\"");
  if (!on || !value || said != 1) return std::nullopt;
  out.on = *on;
  out.value = *value;
  return out;
}

namespace {

/// Names with factors: a list of names, or a table of them.
std::vector<Share> read_shares(Table& table, std::string_view key) {
  std::vector<Share> out;
  const toml::node* const node = table.node(key);
  if (!node) return out;
  if (!node->is_table()) {
    if (const auto names = table.texts(key))
      for (const auto& name : *names) out.push_back({name, 1.0});
    return out;
  }
  const toml::table* const inner = table.table(key);
  for (const auto& [name, value] : *inner)
    if (const auto factor = table.number_in(value, key, Dimension::none))
      out.push_back({{std::string(name.str()), table.place(value)}, *factor});
  return out;
}

}  // namespace

Case read_case(Table& table, const std::string& name) {
  Case out{.name = name, .where = table.place()};
  if (table.node("analysis"))
    if (const auto analysis = table.choice("analysis", analysis_names)) out.analysis = static_cast<Analysis>(*analysis);
  out.loads = read_shares(table, "loads");
  out.cases = read_shares(table, "cases");
  if (table.node("supports")) out.supports = table.texts("supports");
  if (table.node("count")) {
    const auto count = table.whole("count");
    if (count && *count >= 1 && *count <= 200)
      out.count = static_cast<int>(*count);
    else if (count)
      table.error("part.value", fmt::format("{}: 'count' is {}; it can be 1 to 200", table.name(), *count),
                  table.place("count"));
    if (out.analysis == Analysis::linear || out.analysis == Analysis::large_displacements)
      table.error("part.value", fmt::format("{}: 'count' goes with frequencies and buckling", table.name()),
                  table.place("count"), "leave it out, or say analysis = \"frequencies\"");
  }
  return out;
}

}  // namespace bordado::part
