// What panel prints of a curved panel or a cylinder.
#pragma once

#include "by_hand_text.hpp"

#include <bordado/curved_margins.hpp>

namespace bordado::cli {

/// How large, what it carries: a line.
std::string curved_text(const sizing::CurvedCase& given, const UnitSystem& units);
/// What of it is beyond what the theory or the tests hold for.
void find_curved(const sizing::CurvedCase& given, const sizing::CurvedAnswer& answer, Findings& findings);
void print_curved(const sizing::CurvedCase& given, const sizing::CurvedAnswer& answer, const NamedStack& stack,
                  const UnitSystem& units);
Json curved_json(const sizing::CurvedCase& given, const sizing::CurvedAnswer& answer, const NamedStack& stack);
void draw_curved(const sizing::CurvedCase& given, const sizing::CurvedAnswer& answer, const NamedStack& stack,
                 const UnitSystem& units, const std::string& path);

}  // namespace bordado::cli
