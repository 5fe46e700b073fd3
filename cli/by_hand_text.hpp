// What panel and column say alike.
#pragma once

#include "stack_choice.hpp"

#include <bordado/hand_sheets.hpp>

#include <numbers>

namespace bordado::cli {

inline double degrees(double radians) { return radians * 180.0 / std::numbers::pi; }

inline Json settled_json(const sizing::Settled& value) { return {{"value", value.value}, {"change", value.change}}; }

}  // namespace bordado::cli
