// Fewer sections than the tolerances make.
#pragma once

#include <bordado/section.hpp>

namespace bordado::section {

/// Leaves `most` of the sections, chosen so that the largest relative error of A, B and D (as Deviation has it) is small
/// for all elements; each element gets the one that is nearest to its own. Sections stay in the order of their first
/// elements, and densities keep the mass of those that it stands for. \param areas of the elements.
void keep_to_budget(Sections& sections, const part::Part& part, std::span<const double> areas, std::size_t most);

}  // namespace bordado::section
