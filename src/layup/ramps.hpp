// Ramps: which plies end on which line, and how far from the border.
#pragma once

#include <bordado/layup.hpp>

namespace bordado::layup {

/// Makes the ramps of a part.
/// \param layup with zones, and plies with material and thickness; takes the ramps.
/// \param zones per ply; nothing where it has none.
/// \return per ply how ramps move its edge.
List<PlyId, std::vector<Moved>> make_ramps(const part::Part& part,
                                           const std::vector<std::optional<zone::ZoneId>>& zones, Layup& layup,
                                           Findings& errors, Findings& findings);

}  // namespace bordado::layup
