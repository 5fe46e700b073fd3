// The surface carried on past its border and over its holes.
#pragma once

#include "jets.hpp"

namespace bordado::drape {

/// Adds elements behind the surface's own: rings round each border, wider from one to the next, that lie on the conics
/// that touch the surface at the border's nodes, nearer ones counting more; small holes are filled, on a quartic fitted to the nodes
/// round them where these lie on one. No element is added that would fold over.
void carry_on(const mesh::Surface& surface, const Fans& fans, std::span<const Jet> jets, double margin,
              SmoothSurface& out);

}  // namespace bordado::drape
