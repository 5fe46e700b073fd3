// Values that several tables of a part file have in common.
#pragma once

#include <bordado/loads.hpp>

#include "../base/toml_table.hpp"

namespace bordado::part {

/// A direction made a unit vector; an error where it has no length.
std::optional<Vec3> direction(Table& table, std::string_view key);

/// A name, or a point as a list of three numbers.
std::optional<PointOrName> spot(Table& table, std::string_view key);

/// Path of a file from the part file's folder, with the factor of its length unit.
std::optional<Declared<std::string>> other_file(Table& table, double& factor);

/// Lines of distance and a number, distances rising. \param good what the numbers may be.
std::optional<std::vector<std::pair<double, double>>> distance_table(Table& table, std::string_view what,
                                                                     std::string_view example, bool (*good)(double));

/// A field of another mesh: its file, its name, its length unit.
template <class Field>
std::optional<Field> field_of_file(Table& table) {
  Field out;
  const auto file = other_file(table, out.factor);
  const auto name = table.text("field");
  if (!file || !name) return std::nullopt;
  out.file = *file;
  out.field = name->value;
  return out;
}

}  // namespace bordado::part
