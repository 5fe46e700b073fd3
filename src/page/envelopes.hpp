// Failure envelopes as the page reads them.
#pragma once

#include "arrays.hpp"

#include <bordado/page.hpp>

namespace bordado::page {

/// Of the sections with the most area, as many as `most`, and of those of the worst places: a curve for each criterion and pair of components. Null where no
/// criterion is asked for.
Json envelopes_json(const PagePart& from, Arrays& arrays, std::size_t most = 8);

}  // namespace bordado::page
