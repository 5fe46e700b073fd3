// Pictures of a part within a box of a sheet.
#pragma once

#include <bordado/picture.hpp>

#include "sheet.hpp"

namespace bordado::drawing {

/// \throws as draw() of a sheet of pictures, its ending and file left out.
void check(const PictureSheet& sheet);

/// All frames side by side in the box, with their legends, how long a length is and how the part's axes lie. A low box has small
/// letters. \throws Failure "picture.nothing" where a part is seen from its edge.
void draw_frames(const PictureSheet& pictures, Sheet& sheet, Sheet::Point corner, double width, double height);

}  // namespace bordado::drawing
