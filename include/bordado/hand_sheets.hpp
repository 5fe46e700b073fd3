/// \file hand_sheets.hpp
/// What is sized by hand as drawings: a panel with the shape that it buckles in, a section of walls with its axes,
/// margins over numbers that vary.
#ifndef BORDADO_HAND_SHEETS_HPP
#define BORDADO_HAND_SHEETS_HPP

#include <bordado/sweep.hpp>

namespace bordado::drawing {

/// "Hz" where time is counted in seconds, "1/min", ...
std::string frequency_unit(const UnitSystem& units);

struct PanelSheet {
  std::string title, subtitle;
  sizing::PanelCase given;
  sizing::PanelAnswer answer;
};
/// One sheet, .svg or .pdf: the panel with its edges and loads, how far each place moves as it buckles and as the pressure bends it,
/// and all margins. \throws Failure "drawing.ending-unknown", "file.*".
void draw(const PanelSheet& panel, const UnitSystem& units, const std::string& path);

struct CurvedSheet {
  std::string title, subtitle;
  sizing::CurvedCase given;
  sizing::CurvedAnswer answer;
};
/// One sheet, .svg or .pdf: of each load the classical one, what is left of it and what acts; all margins. \throws Failure as above.
void draw(const CurvedSheet& curved, const UnitSystem& units, const std::string& path);

struct SectionSheet {
  std::string title, subtitle;
  sizing::BarCase given;
  sizing::BarAnswer answer;
};
/// One sheet, .svg or .pdf: the section to scale, its walls' plies thicker than they are by a factor that is told, principal axes,
/// centroid and shear centre; at which compression its walls buckle, over the half wave; all margins. \throws Failure as above.
void draw(const SectionSheet& section, const UnitSystem& units, const std::string& path);

struct SweepSheet {
  std::string title, subtitle;
  sizing::Sweep sweep;
};
/// One sheet, .svg or .pdf: of one number that varies all margins as curves, of two the least as a map with its contours and what
/// comes first where; or the points, .csv. \throws Failure as above.
void draw(const SweepSheet& sweep, const std::string& path);

}  // namespace bordado::drawing

#endif
