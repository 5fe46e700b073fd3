#include "kinds.hpp"

#include "csv.hpp"

#include <fmt/format.h>

#include <limits>

namespace bordado::part {

namespace {

/// A direction made a unit vector; an error where it has no length.
std::optional<Vec3> direction(Table& table, std::string_view key) {
  const auto vector = table.vector(key, Dimension::none);
  if (!vector || vector->norm() > 0.0) return vector ? std::optional<Vec3>(vector->normalized()) : std::nullopt;
  table.error("part.value", fmt::format("{}: '{}' has no length", table.name(), key), table.place(key));
  return std::nullopt;
}

// --- zones -----------------------------------------------------------------------------------------------------------

std::optional<ZoneKind> read_group(Table& table) {
  const auto group = table.text("group");
  if (!group) return std::nullopt;
  return MeshGroup{group->value};
}

std::optional<ZoneKind> read_box(Table& table) {
  auto box = table.inner("box");
  if (!box) return std::nullopt;
  const auto from = box->vector("from", Dimension::length), to = box->vector("to", Dimension::length);
  box->finish();
  if (!from || !to) return std::nullopt;
  return Box{from->cwiseMin(*to), from->cwiseMax(*to)};
}

std::optional<ZoneKind> read_sphere(Table& table) {
  auto sphere = table.inner("sphere");
  if (!sphere) return std::nullopt;
  const auto centre = sphere->vector("centre", Dimension::length);
  const auto radius = sphere->positive("radius", Dimension::length);
  sphere->finish();
  if (!centre || !radius) return std::nullopt;
  return Ball{*centre, *radius};
}

std::optional<ZoneKind> read_cylinder(Table& table) {
  auto cylinder = table.inner("cylinder");
  if (!cylinder) return std::nullopt;
  const auto through = cylinder->vector("through", Dimension::length), along = direction(*cylinder, "along");
  const auto radius = cylinder->positive("radius", Dimension::length);
  cylinder->finish();
  if (!through || !along || !radius) return std::nullopt;
  return Cylinder{*through, *along, *radius};
}

std::optional<ZoneKind> read_half_space(Table& table) {
  auto beyond = table.inner("beyond");
  if (!beyond) return std::nullopt;
  const auto point = beyond->vector("point", Dimension::length), along = direction(*beyond, "along");
  beyond->finish();
  if (!point || !along) return std::nullopt;
  return HalfSpace{*point, *along};
}

std::optional<ZoneKind> read_facing(Table& table) {
  auto facing = table.inner("facing");
  if (!facing) return std::nullopt;
  const auto along = direction(*facing, "along");
  const auto within = facing->positive("within", Dimension::angle);
  facing->finish();
  if (!along || !within) return std::nullopt;
  return Facing{*along, Angle::degrees(*within)};
}

std::optional<ZoneKind> read_union(Table& table) {
  auto zones = table.texts("union");
  if (!zones) return std::nullopt;
  return Union{std::move(*zones)};
}

std::optional<ZoneKind> read_common(Table& table) {
  auto zones = table.texts("common");
  if (!zones) return std::nullopt;
  if (!zones->empty()) return Common{std::move(*zones)};
  table.error("part.value", fmt::format("{}: 'common' is empty", table.name()), table.place("common"));
  return std::nullopt;
}

std::optional<ZoneKind> read_opposite(Table& table) {
  auto zone = table.text("opposite");
  if (!zone) return std::nullopt;
  return Opposite{std::move(*zone)};
}

std::optional<ZoneKind> read_minus(Table& table) {
  auto from = table.text("from");
  auto without = table.texts("minus");
  if (!from || !without) return std::nullopt;
  return Minus{std::move(*from), std::move(*without)};
}

std::optional<ZoneKind> read_polygon(Table& table) {
  auto polygon = table.inner("polygon");
  if (!polygon) return std::nullopt;
  const auto along = direction(*polygon, "along");
  Polygon out{{},
              along.value_or(Vec3::UnitZ()),
              -std::numeric_limits<double>::infinity(),
              std::numeric_limits<double>::infinity()};
  bool good = along.has_value();
  if (polygon->has("corners") == polygon->has("curve")) {
    polygon->error("part.value", fmt::format("{} should have one of 'corners' and 'curve'", polygon->name()),
                   polygon->place(), "write corners = [[..], [..], [..]] or curve = \"NAME\"");
    good = false;
  }
  polygon->node("corners");
  polygon->node("curve");
  if (polygon->has("curve")) {
    auto curve = polygon->text("curve");
    good = good && curve;
    if (curve) out.outline = std::move(*curve);
  } else if (polygon->has("corners")) {
    auto corners = polygon->vectors("corners", Dimension::length);
    if (corners && corners->size() < 3) {
      polygon->error("part.value",
                     fmt::format("{}: 'corners' has {}; an outline has three or more", polygon->name(),
                                 counted(corners->size(), "point")),
                     polygon->place("corners"));
      corners.reset();
    }
    good = good && corners;
    if (corners) out.outline = std::move(*corners);
  }
  if (polygon->node("low"))
    if (const auto low = polygon->number("low", Dimension::length)) out.low = *low;
  if (polygon->node("high"))
    if (const auto high = polygon->number("high", Dimension::length)) out.high = *high;
  if (out.low > out.high) {
    polygon->error("part.value", fmt::format("{}: 'low' is above 'high'", polygon->name()), polygon->place("low"));
    good = false;
  }
  polygon->finish();
  return good ? std::optional<ZoneKind>(std::move(out)) : std::nullopt;
}

std::optional<ZoneKind> read_near(Table& table) {
  auto near = table.inner("near");
  if (!near) return std::nullopt;
  const auto of = near->spot("of");
  const auto within = near->positive("within", Dimension::length);
  near->finish();
  if (!of || !within) return std::nullopt;
  return Near{*of, *within};
}

std::optional<ZoneKind> read_rows(Table& table) {
  auto rows = table.inner("rows");
  if (!rows) return std::nullopt;
  const auto of = rows->spot("of");
  const auto count = rows->whole("count");
  if (count && (*count < 1 || *count > 1'000'000))
    rows->error("part.value", fmt::format("{}: 'count' is {}; it should be 1 or more", rows->name(), *count),
                rows->place("count"));
  rows->finish();
  if (!of || !count || *count < 1 || *count > 1'000'000) return std::nullopt;
  return Rows{*of, static_cast<int>(*count)};
}

std::optional<ZoneKind> read_piece(Table& table) {
  const auto near = table.vector("piece", Dimension::length);
  if (!near) return std::nullopt;
  return Piece{*near};
}

std::optional<ZoneKind> read_resized(Table& table, std::string_view key, double sign) {
  auto resized = table.inner(key);
  if (!resized) return std::nullopt;
  auto zone = resized->text("zone");
  const auto by = resized->positive("by", Dimension::length);
  resized->finish();
  if (!zone || !by) return std::nullopt;
  return Grown{std::move(*zone), sign * *by};
}
std::optional<ZoneKind> read_grown(Table& table) { return read_resized(table, "grown", 1.0); }
std::optional<ZoneKind> read_shrunk(Table& table) { return read_resized(table, "shrunk", -1.0); }

std::optional<ZoneKind> read_element_ids(Table& table) {
  const toml::array* const list = table.array("elements");
  if (!list) return std::nullopt;
  ElementIds out;
  for (const toml::node& item : *list) {
    const auto id = item.value_exact<std::int64_t>();
    if (!id) {
      table.error("part.value", fmt::format("{}: 'elements' should be a list of element ids", table.name()),
                  table.place(item), "write elements = [101, 102]");
      return std::nullopt;
    }
    out.ids.push_back(*id);
  }
  return out;
}

constexpr KindEntry<ZoneKind> zone_table[] = {
    {"group", "group = \"...\"", read_group},
    {"box", "box = { from = [..], to = [..] }", read_box},
    {"sphere", "sphere = { centre = [..], radius = .. }", read_sphere},
    {"cylinder", "cylinder = { through = [..], along = [..], radius = .. }", read_cylinder},
    {"beyond", "beyond = { point = [..], along = [..] }", read_half_space},
    {"facing", "facing = { along = [..], within = .. }", read_facing},
    {"polygon", "polygon = { corners = [[..], ..], along = [..] }", read_polygon},
    {"near", "near = { of = \"...\", within = .. }", read_near},
    {"rows", "rows = { of = \"...\", count = .. }", read_rows},
    {"piece", "piece = [..]", read_piece},
    {"grown", "grown = { zone = \"...\", by = .. }", read_grown},
    {"shrunk", "shrunk = { zone = \"...\", by = .. }", read_shrunk},
    {"elements", "elements = [..]", read_element_ids},
    {"union", "union = [..]", read_union},
    {"common", "common = [..]", read_common},
    {"opposite", "opposite = \"...\"", read_opposite},
    {"from", "from = \"...\" with minus = [..]", read_minus},
};

// --- curves ----------------------------------------------------------------------------------------------------------

/// A line through points needs two of them, a closed one three.
std::optional<CurveKind> polyline(Table& table, std::vector<Vec3> points, std::string_view key) {
  Polyline out{std::move(points), false};
  if (const toml::node* const closed = table.node("closed")) {
    if (const auto value = closed->value_exact<bool>())
      out.closed = *value;
    else
      table.error("part.value", fmt::format("{}: 'closed' should be true or false", table.name()),
                  table.place("closed"));
  }
  if (out.closed && out.points.size() > 1 && out.points.front() == out.points.back()) out.points.pop_back();
  if (out.points.size() >= (out.closed ? 3u : 2u)) return out;
  table.error(
      "part.value",
      fmt::format("{}: '{}' has {}: too few for a line", table.name(), key, counted(out.points.size(), "point")),
      table.place(key), "give two or more, three or more where it is closed");
  return std::nullopt;
}

std::optional<CurveKind> read_points(Table& table) {
  auto points = table.vectors("points", Dimension::length);
  return points ? polyline(table, std::move(*points), "points") : std::nullopt;
}

std::optional<CurveKind> read_points_file(Table& table) {
  const auto file = table.text("file");
  if (!file) return std::nullopt;
  try {
    return polyline(table, read_points_csv(beside(table.file(), file->value)), "file");
  } catch (const Failure& failure) {
    for (const Finding& finding : failure.findings()) table.findings().add(finding);
    return std::nullopt;
  }
}

std::optional<CurveKind> read_edges(Table& table) {
  const auto group = table.text("edges");
  if (!group) return std::nullopt;
  return EdgeGroup{group->value};
}

std::optional<CurveKind> read_crease(Table& table) {
  auto crease = table.inner("crease");
  if (!crease) return std::nullopt;
  const auto turn = crease->positive("turn", Dimension::angle);
  const auto near = crease->vector("near", Dimension::length);
  crease->finish();
  if (!turn || !near) return std::nullopt;
  return Crease{Angle::degrees(*turn), *near};
}

std::optional<CurveKind> read_border(Table& table) {
  auto border = table.inner("border");
  if (!border) return std::nullopt;
  const auto from = border->vector("from", Dimension::length), to = border->vector("to", Dimension::length);
  std::optional<Vec3> through;
  if (border->node("through")) through = border->vector("through", Dimension::length);
  border->finish();
  if (!from || !to) return std::nullopt;
  return Border{*from, *to, through};
}

std::optional<CurveKind> read_opening(Table& table) {
  const auto near = table.vector("opening", Dimension::length);
  if (!near) return std::nullopt;
  return Opening{*near};
}

constexpr KindEntry<CurveKind> curve_table[] = {
    {"points", "points = [[..], [..]]", read_points},
    {"file", "file = \"edge.csv\"", read_points_file},
    {"edges", "edges = \"...\"", read_edges},
    {"crease", "crease = { turn = 30, near = [..] }", read_crease},
    {"border", "border = { from = [..], to = [..] }", read_border},
    {"opening", "opening = [..]", read_opening},
};

// --- frames ----------------------------------------------------------------------------------------------------------

std::optional<FrameKind> read_vector(Table& table) {
  const auto vector = direction(table, "vector");
  if (!vector) return std::nullopt;
  return ProjectedVector{*vector};
}

std::optional<FrameKind> read_cylindrical(Table& table) {
  auto axis = table.inner("axis");
  if (!axis) return std::nullopt;
  constexpr std::string_view takes[] = {"axial", "hoop", "radial"};
  const auto through = axis->vector("through", Dimension::length), along = direction(*axis, "along");
  const auto take = axis->choice("take", takes);
  axis->finish();
  if (!through || !along || !take) return std::nullopt;
  return Cylindrical{*through, *along, static_cast<Cylindrical::Take>(*take)};
}

std::optional<FrameKind> read_spherical(Table& table) {
  auto globe = table.inner("globe");
  if (!globe) return std::nullopt;
  constexpr std::string_view takes[] = {"meridian", "parallel", "radial"};
  const auto centre = globe->vector("centre", Dimension::length), pole = direction(*globe, "pole");
  const auto take = globe->choice("take", takes);
  globe->finish();
  if (!centre || !pole || !take) return std::nullopt;
  return Spherical{*centre, *pole, static_cast<Spherical::Take>(*take)};
}

std::optional<FrameKind> read_as_meshed(Table& table) {
  const auto side = table.text("element");
  if (!side) return std::nullopt;
  if (side->value == "side 1-2") return AsMeshedSide{};
  table.error("part.value", fmt::format("{}: 'element' is '{}'; it can be \"side 1-2\"", table.name(), side->value),
              side->where);
  return std::nullopt;
}

constexpr KindEntry<FrameKind> frame_table[] = {
    {"vector", "vector = [..]", read_vector},
    {"axis", "axis = { through = [..], along = [..], take = \"axial\" }", read_cylindrical},
    {"globe", "globe = { centre = [..], pole = [..], take = \"meridian\" }", read_spherical},
    {"element", "element = \"side 1-2\"", read_as_meshed},
};

}  // namespace

std::span<const KindEntry<ZoneKind>> zone_kinds() { return zone_table; }
std::span<const KindEntry<FrameKind>> frame_kinds() { return frame_table; }
std::span<const KindEntry<CurveKind>> curve_kinds() { return curve_table; }

template <class Value>
std::optional<Value> read_kind(Table& table, std::span<const KindEntry<Value>> kinds, std::string code,
                               std::string_view what) {
  const KindEntry<Value>* said = nullptr;
  std::size_t count = 0;
  std::vector<std::string> ways;
  for (const KindEntry<Value>& kind : kinds) {
    ways.emplace_back(kind.example);
    if (!table.node(kind.key)) continue;
    said = &kind;
    ++count;
  }
  if (count == 1) return said->read(table);
  table.error(
      std::move(code),
      fmt::format("{} should say in one way {}; it says {}", table.name(), what, count == 0 ? "none" : "several"),
      table.place(), fmt::format("give one of {}", listed(ways, ways.size())));
  return std::nullopt;
}

template std::optional<ZoneKind> read_kind(Table&, std::span<const KindEntry<ZoneKind>>, std::string, std::string_view);
template std::optional<CurveKind> read_kind(Table&, std::span<const KindEntry<CurveKind>>, std::string,
                                            std::string_view);
template std::optional<FrameKind> read_kind(Table&, std::span<const KindEntry<FrameKind>>, std::string,
                                            std::string_view);

}  // namespace bordado::part
