// Draped plies for the page: warp and weft, shear, the net on the part, the flat cloth beside it.
#pragma once

#include "arrays.hpp"
#include "coarse.hpp"

#include <bordado/design.hpp>

namespace bordado::page {

/// Every drape on the drawn elements, and its net as pieces of lines. \param angle_of a direction on a drawn element as
/// the page has directions.
Json drapes_json(const Design& design, const Drawn& drawn,
                 const std::function<std::int16_t(std::size_t drawn, const Vec3& direction)>& angle_of, Arrays& arrays);
/// Of every draped ply its limit, what came of it, and the outlines of its cloth, in part lengths.
Json cloths_json(const Design& design, Arrays& arrays);

}  // namespace bordado::page
