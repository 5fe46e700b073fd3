// Where sections do not tell the stress of plies.
#pragma once

#include <bordado/layup.hpp>
#include <bordado/recovery.hpp>

#include <vector>

namespace bordado::result {

/// Marks elements at forces on single nodes and at single nodes that are held, of all cases, where they are not marked yet.
void mark_points(const model::Model& model, const mesh::NodeTable& at_nodes, std::vector<Doubt>& doubt);

/// Per element: whether its centre lies nearer to a step of thickness between two elements than stresses hold to 5 %.
/// Measured with solids, one a ply: on the thick side one thickness where few of many plies end (a step below 6 %), two
/// up to a fifth, three for a block; on the thin side one. Empty where there is no step of 2 %.
std::vector<std::uint8_t> beside_steps(const layup::Laid& laid);

}  // namespace bordado::result
