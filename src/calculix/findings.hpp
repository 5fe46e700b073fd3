// What there is to tell of a part that goes to CalculiX, whatever the text of its deck.
#pragma once

#include "plan.hpp"

namespace bordado::calculix {

/// Findings: "deck.equivalents", "deck.support-at-middle", "deck.knots", "deck.orientations-shared", "deck.heat-rounded"
/// (notes), "deck.equivalents-none", "deck.coarse-arc", "deck.very-thin", "deck.thick-at-edge", "deck.one-across",
/// "deck.heat-layers", "deck.heat-coarse" (warnings).
void report(const Plan& plan, Findings& findings);

}  // namespace bordado::calculix
