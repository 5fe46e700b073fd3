/// \file bordado.hpp
/// All rooms, and the way through them in one call.
///
///     bordado::Findings findings;
///     const bordado::Design design = bordado::open("skiff.toml", findings);
///     for (const bordado::Finding& finding : findings.all()) std::cerr << finding.text() << '\n';
///     bordado::write_deck(design, "calculix", "skiff.inp", {}, findings);
#ifndef BORDADO_BORDADO_HPP
#define BORDADO_BORDADO_HPP

#include <bordado/bar_margins.hpp>
#include <bordado/base.hpp>
#include <bordado/calculix.hpp>
#include <bordado/column.hpp>
#include <bordado/curved.hpp>
#include <bordado/curved_margins.hpp>
#include <bordado/deck.hpp>
#include <bordado/design.hpp>
#include <bordado/drape.hpp>
#include <bordado/drawing.hpp>
#include <bordado/fields.hpp>
#include <bordado/frame.hpp>
#include <bordado/hand_sheets.hpp>
#include <bordado/inclusions.hpp>
#include <bordado/laminate.hpp>
#include <bordado/layup.hpp>
#include <bordado/margins.hpp>
#include <bordado/material.hpp>
#include <bordado/mesh.hpp>
#include <bordado/model.hpp>
#include <bordado/page.hpp>
#include <bordado/panel.hpp>
#include <bordado/part.hpp>
#include <bordado/pattern.hpp>
#include <bordado/picture.hpp>
#include <bordado/recovery.hpp>
#include <bordado/review.hpp>
#include <bordado/sandwich.hpp>
#include <bordado/section.hpp>
#include <bordado/seeds.hpp>
#include <bordado/sensitivity.hpp>
#include <bordado/solids.hpp>
#include <bordado/strength.hpp>
#include <bordado/strips.hpp>
#include <bordado/sweep.hpp>
#include <bordado/walls.hpp>
#include <bordado/warmth.hpp>
#include <bordado/zone.hpp>
#include <bordado/zone_panels.hpp>

#endif
