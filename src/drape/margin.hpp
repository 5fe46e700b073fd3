// The surface carried on past its border and over its holes.
#pragma once

#include "jets.hpp"

#include <bordado/drape.hpp>

namespace bordado::drape {

/// Adds elements behind the surface's own: rings round each border, wider from one to the next, that lie on the conics
/// that touch the surface at the border's nodes, nearer ones counting more; small holes are filled, on a quartic fitted to the nodes
/// round them where these lie on one. No element is added that would fold over. Where the curvature of nodes round about, within the border, is a plane
/// over it, the conics have what that comes to at the border, and change on with it. \param how otherwise: where it is none
void carry_on(const mesh::Surface& surface, const Fans& fans, std::span<const Jet> jets, double margin, GoesOn how,
              SmoothSurface& out);

}  // namespace bordado::drape
