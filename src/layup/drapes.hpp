// Cloths of plies: which share one, and how draped ones lie.
#pragma once

#include "laying.hpp"

namespace bordado::layup {

/// The cloth that is so, made where there is none yet.
ClothId cloth_of(Layup& layup, const Cloth& cloth);

/// Drapes the plies that ask for it. Those of one drape, seed, direction and angle at rest share one.
/// \param made fields of frames that were needed for directions at seeds.
void drape(const Laying& on, List<FrameId, std::optional<frame::Field>>& made, const Progress& progress);

}  // namespace bordado::layup
