// Thickness that varies within a ply by a table of distances or by a field.
#pragma once

#include "laying.hpp"

namespace bordado::layup {

/// \param on its layup with curves, zones, plies and regions; takes the tapers, and the largest thickness of plies that vary.
void vary_thickness(const Laying& on);

}  // namespace bordado::layup
