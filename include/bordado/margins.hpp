/// \file margins.hpp
/// All that can happen to a flat panel under its loads, side by side, and what happens first: buckling, what its plies and its
/// core bear, short waves of faces.
///
/// A margin is a factor of the loads as a reserve factor is: 1 is where it happens, below 1 it has happened.
#ifndef BORDADO_MARGINS_HPP
#define BORDADO_MARGINS_HPP

#include <bordado/panel.hpp>
#include <bordado/sandwich.hpp>
#include <bordado/strength.hpp>

#include <string>

namespace bordado::sizing {

/// What else the section of a model carries at a place.
struct AtPlace {
  Vector3 M = Vector3::Zero();  ///< about the laminate's middle
  Vector2 Q = Vector2::Zero();
};

/// A panel, how it is held and what it carries.
struct PanelCase {
  laminate::Stack stack;  ///< its z0 counts for nothing: a panel is loaded in its plane of no bending
  double a = 0.0, b = 0.0;
  Edge x0 = Edge::simple, x1 = Edge::simple, y0 = Edge::simple, y1 = Edge::simple;
  Vector3 N = Vector3::Zero();  ///< the same everywhere, tension positive
  /// Of a model, where plies and faces are judged; buckling is by N alone. Nothing: the panel is flat under N.
  std::optional<AtPlace> place;
  double pressure = 0.0;  ///< along the laminate's normal; negative: the other way
  double patch = 0.0;     ///< radius of a small load on the top face; nought: none
  std::vector<laminate::Criterion> criteria{laminate::usual_criteria().begin(), laminate::usual_criteria().end()};
  /// Functions of the Ritz method; nothing: from 14 each way on as many as it takes until the last third of them changes the
  /// buckling load by no more than 0.1 %, at most 42.
  std::optional<Terms> terms;
  std::size_t frequencies = 4;
  bool margins_only = false;  ///< nothing is told besides: no formulas, no closed form
  Panel panel() const { return {a, b, plate_stiffness(stack.layers), x0, x1, y0, y1}; }
};

/// The least of one criterion, and where on the panel.
struct PlaceFailing {
  laminate::Failing failing;
  double x = 0.0, y = 0.0;
};

/// What a formula for wrinkling says of a face: the factor at which the largest share of it is reached, direction by direction.
struct FormulaMargin {
  FormulaAnswer answer;  ///< in that direction
  bool top = false;      ///< face
  double factor = 0.0;
  double direction = 0.0;
};

/// One thing that can happen.
struct Margin {
  std::string what;  ///< one of these, or words() of a failure mode
  double factor = 0.0;
};
/// Margins beyond it are not told.
inline constexpr double largest_margin = 1e10;
inline constexpr std::string_view buckling_words = "buckling of the panel",
                                  exact_wrinkling_words = "wrinkling, exactly";

struct PanelAnswer {
  Panel panel;
  Terms terms;                         ///< that were taken
  BucklingFactors buckling;            ///< of N; nothing in it where N is nought
  std::optional<ClosedForm> closed;    ///< beside it, where there is one
  std::vector<Settled> frequencies;    ///< nothing in the plane acts; empty without mass
  std::optional<Bent> bent;            ///< under the pressure, N acting, too, as long as it does not buckle the panel
  bool bent_without_N = false;         ///< N buckles it: what is told of the pressure is without it
  std::vector<PlaceFailing> criteria;  ///< by factor
  std::vector<laminate::Judge::LeftOut> left_out;
  std::optional<Sandwich> sandwich;
  FaceForces faces;
  std::optional<FaceWave> wave, mirrored, alike;  ///< half waves up to the shorter side
  std::vector<FormulaMargin> formulas;
  std::optional<Indentation> indentation;
  std::vector<Margin> margins;  ///< those that decide, least first
};

/// How far from where the theory ends, within a few per cent: in times the thickness.
struct PanelRange {
  double side = 0.0;        ///< the shorter one
  double deflection = 0.0;  ///< under the pressure
  static constexpr double least_side = 10.0, most_deflection = 0.5;
  bool is_thick() const { return side < least_side; }
  bool bends_far() const { return deflection > most_deflection; }
};
PanelRange range_of(const PanelCase& given, const PanelAnswer& answer);

/// What N does to a flat panel is counted flat: stretching alone, and M of the pressure by the reduced stiffness.
/// \throws std::invalid_argument as buckling_factors() and Judge.
PanelAnswer check_panel(const PanelCase& given);

}  // namespace bordado::sizing

#endif
