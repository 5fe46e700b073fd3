// Mass that carries nothing.
#pragma once

#include "laying.hpp"

namespace bordado::layup {

/// Spreads what is declared over the elements there.
void add_masses(const Laying& on);

}  // namespace bordado::layup
