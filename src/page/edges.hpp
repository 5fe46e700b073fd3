// Where plies end, for the page: edges on the part, ramps, sections.
#pragma once

#include "arrays.hpp"

#include <bordado/design.hpp>
#include <bordado/page.hpp>

namespace bordado::page {

/// Edges of plies as pieces of lines, two points each; plies that end together share them.
Json edges_json(const Design& design, Arrays& arrays);
/// Every ramp with its steps and the cut across it.
Json ramps_json(const Design& design);
/// The sections that were asked for.
Json profiles_json(const PagePart& part);

}  // namespace bordado::page
