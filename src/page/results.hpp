// Results as the page reads them.
#pragma once

#include "arrays.hpp"
#include "coarse.hpp"

#include <bordado/page.hpp>

namespace bordado::page {

/// Null where the part has none.
Json results_json(const PagePart& from, const Drawn& drawn, Arrays& arrays);

}  // namespace bordado::page
