// Results as the page reads them.
#pragma once

#include "coarse.hpp"
#include "page_arrays.hpp"

#include <bordado/review/page.hpp>

namespace bordado::review {

/// Null where the part has none.
Json results_json(const PagePart& from, const Drawn& drawn, Arrays& arrays);

}  // namespace bordado::review
