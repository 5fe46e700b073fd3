// What a page of two parts says of their differences.
#pragma once

#include "arrays.hpp"
#include "coarse.hpp"

#include <bordado/design.hpp>

namespace bordado::page {

/// Per drawn element of one design: 0 as in the other, 1 other plies lie there, 2 the other has nothing there.
std::vector<std::uint8_t> differences(const Design& here, const Drawn& drawn, const Design& there);
/// What changed, and figures before and after.
Json compared(const Design& before, const Design& after);

}  // namespace bordado::page
