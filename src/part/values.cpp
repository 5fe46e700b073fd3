#include "values.hpp"

#include "../base/csv.hpp"

#include <fmt/format.h>

#include <cmath>

namespace bordado::part {

std::optional<Vec3> direction(Table& table, std::string_view key) {
  const auto vector = table.vector(key, Dimension::none);
  if (!vector) return std::nullopt;
  if (std::abs(vector->squaredNorm() - 1.0) < 1e-15) return vector;  // a unit vector stays as it is, to the last bit
  if (vector->norm() > 0.0) return vector->normalized();
  table.error("part.value", fmt::format("{}: '{}' has no length", table.name(), key), table.place(key));
  return std::nullopt;
}

std::optional<PointOrName> spot(Table& table, std::string_view key) {
  const toml::node* const found = table.node(key);
  if (!found || found->is_string()) {
    auto name = table.text(key);
    return name ? std::optional(PointOrName{std::move(name->value), name->where}) : std::nullopt;
  }
  if (found->is_array()) {
    const auto point = table.vector(key, Dimension::length);
    return point ? std::optional(PointOrName{*point, table.place(*found)}) : std::nullopt;
  }
  table.error("part.value",
              fmt::format("{}: '{}' should be the name of a curve or zone, or a point, not {}", table.name(), key,
                          kind_of(*found)),
              table.place(*found), fmt::format("write {} = \"NAME\" or {} = [x, y, z]", key, key));
  return std::nullopt;
}

std::optional<Declared<std::string>> other_file(Table& table, double& factor) {
  auto file = table.text("file");
  if (file) file->value = beside(table.file(), file->value);
  if (!table.node("length")) return file;
  const auto unit = table.text("length");
  if (!unit) return std::nullopt;
  try {
    factor = metres_in(unit->value) / table.units().to_si(Dimension::length);
  } catch (const std::invalid_argument& trouble) {
    table.error("part.units", fmt::format("{}: length: {}", table.name(), trouble.what()), unit->where,
                "name the length unit of the file, as length = \"mm\"");
    return std::nullopt;
  }
  return file;
}

std::optional<std::vector<std::pair<double, double>>> distance_table(Table& table, std::string_view what,
                                                                     std::string_view example, bool (*good)(double)) {
  const toml::array* const list = table.array("table");
  if (!list) return std::nullopt;
  std::vector<std::pair<double, double>> out;
  bool all = !list->empty();
  for (std::size_t k = 0; k < list->size(); ++k) {
    const toml::array* const line = list->get(k)->as_array();
    const auto distance = line && line->size() == 2 ? number_of(*line->get(0)) : std::nullopt;
    const auto value = line && line->size() == 2 ? number_of(*line->get(1)) : std::nullopt;
    all = all && distance && value && std::abs(*distance) < largest_number && good(*value) &&
          (out.empty() || *distance > out.back().first);
    if (all) out.emplace_back(*distance, *value);
  }
  if (all) return out;
  table.error("part.value",
              fmt::format("{}: 'table' should be lines of distance and {}, distances rising", table.name(), what),
              table.place("table"), fmt::format("write table = {}", example));
  return std::nullopt;
}

}  // namespace bordado::part
