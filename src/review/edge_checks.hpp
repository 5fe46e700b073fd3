// Checks of where plies end: ramps, chamfers, narrow plies, edges near holes, what smearing makes of them.
#pragma once

#include <bordado/design.hpp>

namespace bordado::review {

/// Findings as review::check() lists them.
void check_edges(const Design& design, Findings& findings);

}  // namespace bordado::review
