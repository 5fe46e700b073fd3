#include "plies.hpp"

#include <fmt/format.h>

namespace bordado::part {

Drape read_drape(Table& table, const std::string& name) {
  Drape out{.name = name, .where = table.place()};
  const auto named = [&](std::string_view key, std::optional<Declared<std::string>>& into) {
    if (table.node(key)) into = table.text(key).value_or(Declared<std::string>{"", table.place(key)});
  };
  const auto list = [&](std::string_view key, std::vector<Declared<std::string>>& into) {
    if (!table.node(key)) return;
    if (auto names = table.texts(key)) into = std::move(*names);
    if (into.empty() && table.node(key)->is_array() && table.node(key)->as_array()->empty())
      table.error("part.value", fmt::format("{}: '{}' is an empty list", table.name(), key), table.place(key),
                  "name one and more, or leave it out");
  };
  list("pieces", out.pieces);
  if (!table.has("pieces") && !table.has("seed"))
    table.error("part.key-missing", fmt::format("{} needs one of 'seed' and 'pieces'", table.name()), table.place(),
                "seed = [x, y, z], a point of the surface where the cloth is laid down first");
  if (table.node("seed"))
    if (const auto seed = table.vector("seed", Dimension::length)) out.seed = *seed;
  if (table.node("direction"))
    if (const auto direction = table.vector("direction", Dimension::none)) {
      if (direction->norm() > 0.0)
        out.direction = direction->normalized();
      else
        table.error("part.value", fmt::format("{}: 'direction' has no length", table.name()), table.place("direction"),
                    "write direction = [1, 0, 0]");
    }
  if (table.node("lay"))
    if (const auto lay = table.choice("lay", lay_names)) out.lay = static_cast<Lay>(*lay);
  if (table.node("takes")) {
    constexpr std::string_view what[] = {"angles-and-properties", "angles"};
    if (const auto takes = table.choice("takes", what)) out.angles_only = *takes == 1;
  }
  named("along", out.along);
  if (table.node("cell")) out.cell = table.positive("cell", Dimension::length);
  list("darts", out.darts);
  named("zone", out.zone);
  if (table.has("pieces"))
    for (const std::string_view key : {"seed", "direction", "lay", "along", "cell", "darts", "zone"})
      if (table.has(key))
        table.error("part.value",
                    fmt::format("{}: '{}' goes with a drape of its own, not with 'pieces'", table.name(), key),
                    table.place(key), "say it in the drapes that are its pieces");
  if (out.along && out.lay == Lay::led)
    table.error("part.value", fmt::format("{}: cloth that follows a curve is not led", table.name()),
                table.place("along"), "leave out 'along', or lay = \"led\"");
  return out;
}

}  // namespace bordado::part
