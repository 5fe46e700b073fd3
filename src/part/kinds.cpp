#include "kinds.hpp"

#include <fmt/format.h>

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

constexpr KindEntry<ZoneKind> zone_table[] = {
    {"group", "group = \"...\"", read_group},
    {"box", "box = { from = [..], to = [..] }", read_box},
    {"sphere", "sphere = { centre = [..], radius = .. }", read_sphere},
    {"cylinder", "cylinder = { through = [..], along = [..], radius = .. }", read_cylinder},
    {"beyond", "beyond = { point = [..], along = [..] }", read_half_space},
    {"facing", "facing = { along = [..], within = .. }", read_facing},
    {"union", "union = [..]", read_union},
    {"common", "common = [..]", read_common},
    {"opposite", "opposite = \"...\"", read_opposite},
    {"from", "from = \"...\" with minus = [..]", read_minus},
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
template std::optional<FrameKind> read_kind(Table&, std::span<const KindEntry<FrameKind>>, std::string,
                                            std::string_view);

}  // namespace bordado::part
