// The tables of zone and frame kinds as a part file writes them: a new one is a struct in part.hpp, a line here in
// kinds.cpp and its meaning in its room (src/zone/, src/frame/).
#pragma once

#include <bordado/part.hpp>

#include "../base/toml_table.hpp"

namespace bordado::part {

using ZoneKind = decltype(Zone::kind);
using FrameKind = decltype(Frame::kind);
using CurveKind = decltype(Curve::kind);

/// A key that says which kind it is, how it is written, and what reads it: nothing where an error was told.
template <class Value>
struct KindEntry {
  std::string_view key, example;
  std::optional<Value> (*read)(Table& table);
};

std::span<const KindEntry<ZoneKind>> zone_kinds();
std::span<const KindEntry<FrameKind>> frame_kinds();
std::span<const KindEntry<CurveKind>> curve_kinds();

/// Reads how a frame is turned: by an angle, or by a table of its own.
void read_turn(Table& table, Frame& frame);

/// Reads a thickness that varies, from the table behind 'thickness'; nothing where an error was told.
std::optional<VaryingThickness> read_varying_thickness(Table& table);

/// Reads the one kind that a table says; an error with all ways to say it where it says none or several.
template <class Value>
std::optional<Value> read_kind(Table& table, std::span<const KindEntry<Value>> kinds, std::string code,
                               std::string_view what);

}  // namespace bordado::part
