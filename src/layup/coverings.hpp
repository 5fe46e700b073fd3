// Which part of every element plies cover whose edges go through elements, and how thick chamfered ones are there.
#pragma once

#include "laying.hpp"

namespace bordado::layup {

/// \param on its layup with zones, plies, regions and ramps; takes the parts of elements that regions cover, the tapers of
/// chamfers, the largest thickness of chamfered plies, and what ramps became.
void cover(const Laying& on);

}  // namespace bordado::layup
