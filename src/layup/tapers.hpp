// Thickness that varies within a ply by a table of distances or by a field.
#pragma once

#include <bordado/layup.hpp>

namespace bordado::layup {

/// \param layup with curves, zones, plies and regions; takes the tapers, and the largest thickness of plies that vary.
void vary_thickness(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, Layup& layup,
                    Findings& errors, Findings& findings);

}  // namespace bordado::layup
