// Connected pieces of what plies cover.
#pragma once

#include <bordado/design.hpp>

namespace bordado::review {

/// Pieces of every region that share no edge.
List<layup::RegionId, std::size_t> pieces_of_regions(const Design& design);
/// As above, where edges() of the surface are at hand.
List<layup::RegionId, std::size_t> pieces_of_regions(const Design& design, const mesh::EdgeTable& edges);

}  // namespace bordado::review
