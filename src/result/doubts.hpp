// Where sections, or solids, do not tell the stress of plies.
#pragma once

#include <bordado/layup/slopes.hpp>
#include <bordado/recovery.hpp>

#include <vector>

namespace bordado::result {

/// Per element of the part, or empty where there is no doubt anywhere; see Recovery::doubt(). \param slopes of layers that run
/// out
std::vector<Doubt> doubts(const model::Model& model, const layup::LayerSlopes& slopes);

}  // namespace bordado::result
