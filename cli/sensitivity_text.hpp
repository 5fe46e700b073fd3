// What changes the least margin most, for panel and column.
#pragma once

#include "by_hand_text.hpp"

#include <bordado/sensitivity.hpp>

namespace bordado::cli {

/// \param stacks the laminates, with names of their layers \param now what comes first as it is, and the mass
void print_sensitivities(std::span<const sizing::Sensitivity> all, std::span<const NamedStack> stacks,
                         const sizing::Outcome& now, const UnitSystem& units);
Json sensitivities_json(std::span<const sizing::Sensitivity> all, std::span<const NamedStack> stacks);

}  // namespace bordado::cli
