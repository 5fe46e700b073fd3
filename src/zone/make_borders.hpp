// The lines round zones that plies' edges are moved from.
#pragma once

#include "cover.hpp"

#include <bordado/zone.hpp>

namespace bordado::zone {

/// Borders of all zones whose edges plies move, and of those that end where a ramp runs; and which zones ramps face.
/// \param levels of zones; none where a zone means whole elements. \param sets takes them.
void make_borders(const part::Part& part, const mesh::Surface& surface, const List<ZoneId, Level>& levels,
                  ZoneSets& sets);

}  // namespace bordado::zone
