// What panel prints of a panel, whether its laminate was typed or lies in a zone.
#pragma once

#include "by_hand_text.hpp"

namespace bordado::cli {

/// "free", "simple", "clamped".
std::vector<std::string> edge_words();
/// Said once for all, or four times: x = 0, x = a, y = 0, y = b. "panel.edges" where it is neither.
std::array<sizing::Edge, 4> edges_named(const std::vector<std::string>& names, Findings& wrong);
/// "all edges simple", ...
std::string edges_text(const sizing::PanelCase& panel);

/// How large, how held, what it carries: a line.
std::string panel_text(const sizing::PanelCase& given, const UnitSystem& units);

void print_panel(const sizing::PanelCase& given, const sizing::PanelAnswer& answer, const NamedStack& stack,
                 const UnitSystem& units);
Json panel_json(const sizing::PanelCase& given, const sizing::PanelAnswer& answer, const NamedStack& stack);
void draw_panel(const sizing::PanelCase& given, const sizing::PanelAnswer& answer, const NamedStack& stack,
                const UnitSystem& units, const std::string& path);

}  // namespace bordado::cli
