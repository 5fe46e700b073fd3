#include "kinds.hpp"

#include "values.hpp"

#include "../base/csv.hpp"

#include <fmt/format.h>

#include <cmath>
#include <limits>

namespace bordado::part {

namespace {

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
  const auto of = spot(*near, "of");
  const auto within = near->positive("within", Dimension::length);
  near->finish();
  if (!of || !within) return std::nullopt;
  return Near{*of, *within};
}

std::optional<ZoneKind> read_rows(Table& table) {
  auto rows = table.inner("rows");
  if (!rows) return std::nullopt;
  const auto of = spot(*rows, "of");
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
  return HangingTogether{*near};
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
  std::vector<std::int64_t> sorted = out.ids;
  std::sort(sorted.begin(), sorted.end());
  if (const auto twice = std::adjacent_find(sorted.begin(), sorted.end()); twice != sorted.end()) {
    table.error("part.value", fmt::format("{}: element {} stands twice in 'elements'", table.name(), *twice),
                table.place("elements"), "leave one of them out");
    return std::nullopt;
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

std::optional<FrameKind> read_axes(Table& table) {
  auto axes = table.inner("axes");
  if (!axes) return std::nullopt;
  constexpr std::string_view takes[] = {"x", "y", "z"};
  const auto x = direction(*axes, "x"), y = direction(*axes, "y");
  const auto take = axes->choice("take", takes);
  axes->finish();
  if (!x || !y || !take) return std::nullopt;
  if (std::abs(y->dot(*x)) < 1e-15) return AxisSystem{*x, *y, static_cast<int>(*take)};
  const Vec3 square = *y - y->dot(*x) * *x;
  if (square.norm() > 1e-6) return AxisSystem{*x, square.normalized(), static_cast<int>(*take)};
  table.error("part.value", fmt::format("{}: 'x' and 'y' have the same direction", axes->name()), axes->place("y"));
  return std::nullopt;
}

std::optional<FrameKind> read_along(Table& table) {
  const toml::node* const node = table.node("along");
  if (node && node->is_string()) {
    auto one = table.text("along");
    return AlongCurves{{std::move(*one)}};
  }
  auto curves = table.texts("along");
  if (!curves) return std::nullopt;
  if (!curves->empty()) return AlongCurves{std::move(*curves)};
  table.error("part.value", fmt::format("{}: 'along' is empty", table.name()), table.place("along"));
  return std::nullopt;
}

std::optional<FrameKind> read_guide(Table& table) {
  auto guide = table.inner("guide");
  if (!guide) return std::nullopt;
  GuideSurface out;
  const auto file = other_file(*guide, out.factor);
  const auto edge = guide->text("edge");
  guide->finish();
  if (!file || !edge) return std::nullopt;
  out.file = *file;
  out.edge = edge->value;
  return out;
}

std::optional<FrameKind> read_blend(Table& table) {
  auto blend = table.inner("blend");
  if (!blend) return std::nullopt;
  auto from = blend->text("from"), to = blend->text("to");
  const auto start = spot(*blend, "start");
  const auto over = blend->positive("over", Dimension::length);
  blend->finish();
  if (!from || !to || !start || !over) return std::nullopt;
  return Blend{std::move(*from), std::move(*to), *start, *over};
}

std::optional<PointPairs> read_pairs(Table& table) {
  const toml::array* const list = table.array("pairs");
  if (!list) return std::nullopt;
  PointPairs out;
  for (const toml::node& item : *list) {
    const toml::array* const pair = item.as_array();
    const auto point = [&](std::size_t k) -> std::optional<Vec3> {
      const toml::array* const xyz = pair && pair->size() == 2 ? pair->get(k)->as_array() : nullptr;
      if (!xyz || xyz->size() != 3) return std::nullopt;
      Vec3 p;
      for (std::size_t i = 0; i < 3; ++i) {
        const auto value = number_of(*xyz->get(i));
        if (!value) return std::nullopt;
        p[static_cast<Eigen::Index>(i)] = *value;
      }
      return p;
    };
    const auto there = point(0), here = point(1);
    if (!there || !here) {
      table.error("part.value", fmt::format("{}: a pair should be two points", table.name()), table.place(item),
                  "write pairs = [[[x, y, z], [x, y, z]], ...]: there, here");
      return std::nullopt;
    }
    out.pairs.push_back({*there, *here});
  }
  if (out.pairs.size() >= 3) return out;
  table.error("part.value",
              fmt::format("{}: {} do not fix a position", table.name(), counted(out.pairs.size(), "pair")),
              table.place("pairs"), "give three pairs of points or more, not on one line");
  return std::nullopt;
}

std::optional<FrameKind> read_mapped(Table& table) {
  auto mapped = table.inner("mapped");
  if (!mapped) return std::nullopt;
  Mapped out;
  const auto file = other_file(*mapped, out.factor);
  if (mapped->node("field"))
    if (const auto field = mapped->text("field")) out.field = field->value;
  bool good = file.has_value();
  Rigid rigid;
  const auto vector = [&](std::string_view key, Dimension dimension, Vec3& into) {
    if (!mapped->node(key)) return;
    const auto value = mapped->vector(key, dimension);
    if (value) into = *value;
    good = good && value;
  };
  vector("about", Dimension::length, rigid.about);
  vector("move", Dimension::length, rigid.move);
  if (mapped->node("axis")) {
    const auto axis = direction(*mapped, "axis");
    if (axis) rigid.axis = *axis;
    good = good && axis;
  }
  if (mapped->node("angle"))
    if (const auto angle = mapped->number("angle", Dimension::angle)) rigid.turn = Angle::degrees(*angle);
  out.position = rigid;
  if (mapped->node("pairs")) {
    const auto pairs = read_pairs(*mapped);
    if (pairs) out.position = *pairs;
    good = good && pairs;
  }
  if (const toml::node* const fit = mapped->node("fit"); fit && fit->value_exact<bool>().value_or(false))
    out.position = BestFit{};
  mapped->finish();
  if (!good) return std::nullopt;
  out.file = *file;
  return out;
}

constexpr KindEntry<FrameKind> frame_table[] = {
    {"vector", "vector = [..]", read_vector},
    {"axis", "axis = { through = [..], along = [..], take = \"axial\" }", read_cylindrical},
    {"globe", "globe = { centre = [..], pole = [..], take = \"meridian\" }", read_spherical},
    {"axes", "axes = { x = [..], y = [..], take = \"x\" }", read_axes},
    {"along", "along = \"CURVE\"", read_along},
    {"guide", "guide = { file = \"...\", edge = \"...\" }", read_guide},
    {"blend", "blend = { from = \"...\", to = \"...\", start = \"...\", over = .. }", read_blend},
    {"mapped", "mapped = { file = \"...\", field = \"...\" }", read_mapped},
    {"element", "element = \"side 1-2\"", read_as_meshed},
};

}  // namespace

std::optional<VaryingThickness> read_varying_thickness(Table& table) {
  Table thickness = *table.inner("thickness");
  std::optional<VaryingThickness> out;
  if (thickness.has("file")) {
    if (auto field = field_of_file<ThicknessByField>(thickness)) out = std::move(*field);
  } else {
    const auto of = spot(thickness, "of");
    auto lines = distance_table(thickness, "a thickness that is not negative", "[[0, 0], [60, 20]]",
                                [](double t) { return t >= 0.0 && t < largest_number; });
    if (lines && std::none_of(lines->begin(), lines->end(), [](const auto& one) { return one.second > 0.0; })) {
      thickness.error("part.value", fmt::format("{}: no line of 'table' has a thickness", thickness.name()),
                      thickness.place("table"), "leave the ply out, or write table = [[0, 0], [60, 20]]");
      lines.reset();
    }
    if (of && lines) out = ThicknessByDistance{*of, std::move(*lines)};
  }
  thickness.finish();
  return out;
}

void read_turn(Table& table, Frame& frame) {
  const toml::node* const node = table.node("turn");
  if (!node) return;
  if (!node->is_table()) {
    if (const auto turn = table.number("turn", Dimension::angle)) frame.turn = Angle::degrees(*turn);
    return;
  }
  Table turn = *table.inner("turn");
  if (turn.has("file")) {
    if (auto field = field_of_file<TurnByField>(turn)) frame.turns = std::move(*field);
  } else {
    const auto of = spot(turn, "of");
    const auto lines =
        distance_table(turn, "angle", "[[0, 0], [100, 15]]", [](double angle) { return std::isfinite(angle); });
    if (of && lines) {
      TurnByDistance by{*of, {}};
      for (const auto& [distance, angle] : *lines) by.table.emplace_back(distance, Angle::degrees(angle));
      frame.turns = by;
    }
  }
  turn.finish();
}

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
