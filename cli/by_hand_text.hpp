// What panel and column say alike.
#pragma once

#include "stack_choice.hpp"

#include <bordado/hand_sheets.hpp>

#include <fmt/format.h>

#include <numbers>
#include <span>

namespace bordado::cli {

inline double degrees(double radians) { return radians * 180.0 / std::numbers::pi; }

/// The line over the table of reserves.
inline void print_reserves_head(std::span<const sizing::Margin> margins) {
  fmt::print("\nreserve: times the load, until{}\n\n",
             margins.front().factor < 1.0 ? " (below 1: it has happened)" : "");
}
/// The line below it. \param it "the panel"
inline void print_first(std::span<const sizing::Margin> margins, std::string_view it) {
  fmt::print("\n{} comes first{}\n", margins.front().what,
             margins.front().factor < 1.0 ? fmt::format(", and {} does not bear this load", it) : "");
}

inline Json settled_json(const sizing::Settled& value) { return {{"value", value.value}, {"change", value.change}}; }

}  // namespace bordado::cli
