// Connected pieces of sets of elements.
#pragma once

#include <bordado/review.hpp>

namespace bordado::review {

/// Pieces that share no edge, of every zone that a ply lies on; 0 for the others.
List<zone::ZoneId, std::size_t> pieces_of_zones(const Design& design);
/// As above, where edges() of the surface are at hand.
List<zone::ZoneId, std::size_t> pieces_of_zones(const Design& design, const mesh::EdgeTable& edges);

}  // namespace bordado::review
