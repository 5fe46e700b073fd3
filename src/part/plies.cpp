#include "plies.hpp"

#include "kinds.hpp"

#include <fmt/format.h>

namespace bordado::part {

namespace {

/// A name that may be left out. One that cannot be read is empty: its error is told, and no other follows from it.
std::optional<Declared<std::string>> text_of(Table& table, std::string_view key) {
  if (!table.node(key)) return std::nullopt;
  return table.text(key).value_or(Declared<std::string>{"", table.place(key)});
}

int repeats(Table& table) {
  if (!table.node("repeat")) return 1;
  const auto count = table.whole("repeat");
  if (count && *count >= 1 && *count <= 1000) return static_cast<int>(*count);
  if (count)
    table.error("part.value", fmt::format("{}: 'repeat' is {}; it can be 1 to 1000", table.name(), *count),
                table.place("repeat"));
  return 1;
}

std::optional<Angle> angle_of(Table& table, std::string_view key) {
  if (!table.node(key)) return std::nullopt;
  const auto value = table.number(key, Dimension::angle);
  return Angle::degrees(value.value_or(0.0));  // where it cannot be read that is told, and enough
}

std::optional<double> thickness_of(Table& table) {
  return table.node("thickness") ? table.positive("thickness", Dimension::length) : std::nullopt;
}

/// A length, or a table by which it varies.
void read_thickness(Table& table, PlyLine& line) {
  const toml::node* const node = table.node("thickness");
  if (node && node->is_table()) {
    line.varies = read_varying_thickness(table);
    if (!line.varies) line.thickness = 1.0;  // what is wrong is told, and enough
  } else {
    line.thickness = thickness_of(table);
  }
}

void only_one(Table& table, std::initializer_list<std::string_view> keys) {
  std::vector<std::string> given;
  for (const std::string_view key : keys)
    if (table.has(key)) given.push_back(fmt::format("'{}'", key));
  if (given.size() > 1)
    table.error("part.value", fmt::format("{} has {}", table.name(), fmt::join(given, " and ")), table.place(),
                "they say the same thing; leave all but one out");
}

}  // namespace

PlyLine read_ply_line(Table& table, std::size_t number) {
  PlyLine line;
  line.where = table.place();
  const auto id = table.text("id");
  line.id = id ? id->value : fmt::format("{}", number);
  line.material = text_of(table, "material");
  line.frame = text_of(table, "frame");
  line.zone = text_of(table, "zone");
  if (table.node("edge")) line.edge = table.number("edge", Dimension::length);
  if (table.node("corners"))
    if (const auto way = table.choice("corners", corners_names)) line.corners = static_cast<Corners>(*way);
  if (table.node("scallop")) line.scallop = read_scallop(table);
  if (table.node("chamfer")) line.chamfer = read_chamfer(table);
  line.drape = text_of(table, "drape");
  line.angle = angle_of(table, "angle");
  read_thickness(table, line);
  line.code = text_of(table, "code");
  line.laminate = text_of(table, "laminate");
  line.follows = text_of(table, "follows");
  line.turned = angle_of(table, "turned");
  line.repeat = repeats(table);
  if (const auto group = text_of(table, "group")) line.group = group->value;
  if (const auto note = text_of(table, "note")) line.note = note->value;
  only_one(table, {"angle", "code", "laminate"});
  if (line.turned && !line.follows)
    table.error("part.value", fmt::format("{}: 'turned' goes with 'follows'", table.name()), table.place("turned"),
                "write the angle itself, or say which ply it follows");
  return line;
}

Laminate read_laminate(Table& table, const std::string& name) {
  Laminate out;
  out.name = name;
  out.where = table.place();
  out.material = text_of(table, "material");
  out.frame = text_of(table, "frame");
  out.code = text_of(table, "code");
  out.repeat = repeats(table);
  if (table.node("symmetric")) {
    constexpr std::string_view ways[] = {"even", "odd"};
    if (const auto way = table.choice("symmetric", ways)) out.mirror = *way == 0 ? Mirror::even : Mirror::odd;
  }
  only_one(table, {"code", "plies"});
  if (!table.has("plies") && !out.code)
    table.error("part.key-missing", fmt::format("{} needs one of 'code' and 'plies'", table.name()), table.place(),
                "write code = \"[0/45/-45/90]\" or plies = [ { angle = 0 }, ... ]");
  if (!table.node("plies")) return out;
  const toml::array* const plies = table.array("plies");
  if (!plies) return out;
  std::size_t number = 0;
  for (const toml::node& node : *plies) {
    ++number;
    if (!node.is_table()) {
      table.error("part.value", fmt::format("{}: ply {} should be a table", table.name(), number), table.place(node),
                  "write { angle = 45, thickness = 0.2 }");
      continue;
    }
    Table ply(*node.as_table(), fmt::format("{} ply {}", table.name(), number), table.file(), table.units(),
              table.findings());
    LaminateLine line;
    line.material = text_of(ply, "material");
    line.frame = text_of(ply, "frame");
    line.angle = angle_of(ply, "angle");
    line.thickness = thickness_of(ply);
    ply.finish();
    out.lines.push_back(std::move(line));
  }
  return out;
}

}  // namespace bordado::part
