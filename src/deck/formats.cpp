#include "writers.hpp"

namespace bordado::deck {

namespace {

constexpr Format table[] = {
    {"calculix", "CalculiX", ".inp", true, write_calculix},
    {"bulk-data", "bulk data", ".bdf", false, write_bulk_data},
};

}  // namespace

std::span<const Format> formats() { return table; }

const Format* find_format(std::string_view name) {
  for (const Format& format : table)
    if (format.name == name) return &format;
  return nullptr;
}

}  // namespace bordado::deck
