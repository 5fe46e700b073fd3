#include "writers.hpp"

namespace bordado::deck {

namespace {

constexpr Format table[] = {
    {"calculix", "CalculiX", ".inp", true, write_calculix, "** ", calculix_solid_material, calculix_has_material,
     calculix_material_is},
    {"bulk-data", "bulk data", ".bdf", false, write_bulk_data, "$ ", bulk_data_materials, bulk_data_has_material,
     bulk_data_material_is},
};

}  // namespace

std::span<const Format> formats() { return table; }

const Format* find_format(std::string_view name) {
  for (const Format& format : table)
    if (format.name == name) return &format;
  return nullptr;
}

}  // namespace bordado::deck
