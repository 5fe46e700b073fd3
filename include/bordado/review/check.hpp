/// \file check.hpp
/// What to look at in a design before it is analysed or made.
#ifndef BORDADO_REVIEW_CHECK_HPP
#define BORDADO_REVIEW_CHECK_HPP

#include <bordado/base/findings.hpp>

namespace bordado {
struct Design;
}

namespace bordado::review {

/// What is possible but not what one would expect of a good laminate. All are warnings or notes; limits are those of
/// Part::checks. Codes: "laminate.unsymmetric", "laminate.unbalanced", "laminate.few-in-direction", "laminate.row",
/// "laminate.jump", "laminate.outer-ply", "laminate.core-outside", "layup.ends-together", "layup.ends-much",
/// "layup.smeared-misleads", "layup.narrow", "layup.edge-near", "ramp.steep", "ramp.unsymmetric", "ramp.unbalanced",
/// "ramp.neighbours", "ramp.meets", "layup.chamfer-steep", "layup.ply-pieces",
/// "layup.thick", "layup.group-off", "layup.laminate-unused", "material.no-density", "material.no-strength",
/// "material.coupling-left-out", "mesh.size-unlikely", "frame.near-degenerate", "zone.one-element", "zone.same".
void check(const Design& design, Findings& findings);

}  // namespace bordado::review

#endif
