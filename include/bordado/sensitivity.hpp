/// \file sensitivity.hpp
/// What can be chosen about the laminates of a panel or a bar, what comes of other choices, and which of them change its least margin
/// most.
#ifndef BORDADO_SENSITIVITY_HPP
#define BORDADO_SENSITIVITY_HPP

#include <bordado/bar_margins.hpp>
#include <bordado/base/work.hpp>
#include <bordado/curved_margins.hpp>

namespace bordado::sizing {

/// Something that can be chosen about a laminate. Layers that lie mirrored in a symmetric laminate change together.
struct StackChange {
  enum class Kind : std::uint8_t {
    angle,  ///< of plies that are not the same in all directions, degrees
    count,  ///< how often the ply lies there, one on the other
    core    ///< its thickness
  };
  Kind kind = Kind::angle;
  std::vector<std::size_t> layers;  ///< ascending, from 0
};
std::string_view name_of(StackChange::Kind kind);
/// All that can be chosen, by layers.
std::vector<StackChange> changes_of(const laminate::Stack& stack);
/// What it is in this laminate; a count is 1. Of mirrored layers each.
double value_of(const laminate::Stack& stack, const StackChange& change);
/// How far it is changed to see what that does: 5 degrees, one ply, a tenth of the thickness.
double step_of(const laminate::Stack& stack, const StackChange& change);
inline constexpr double angle_step = 5.0, core_step = 0.1;
/// No ply lies more often on itself than this.
inline constexpr double most_count = 200.0;
/// Several choices at once, with their values. \returns nothing where no layer would be left. \throws std::invalid_argument where an
/// angle is no number, a thickness not above nought, or a count not whole from 0 to most_count.
using Chosen = std::pair<StackChange, double>;
std::optional<laminate::Stack> with_values(const laminate::Stack& stack, std::span<const Chosen> all);

/// What comes of one choice.
struct Outcome {
  std::vector<Margin> margins;  ///< least first
  double mass = 0.0;            ///< of a panel per area, of a bar per length
  bool in_range = true;         ///< of the theory, and of the tests that it leans on
};
Outcome outcome_of(const PanelCase& given, const PanelAnswer& answer);
Outcome outcome_of(const CurvedCase& given, const CurvedAnswer& answer);
Outcome outcome_of(const BarCase& given, const BarAnswer& answer);
/// Of each, on all cores. Nothing where there is no such panel or bar: no plate, no section.
std::vector<std::optional<Outcome>> outcomes(std::span<const PanelCase> cases, const Progress& progress = {});
std::vector<std::optional<Outcome>> outcomes(std::span<const CurvedCase> cases, const Progress& progress = {});
std::vector<std::optional<Outcome>> outcomes(std::span<const BarCase> cases, const Progress& progress = {});

struct Sensitivity {
  StackChange change;
  std::size_t laminate = 0;           ///< which of a bar's
  std::optional<Outcome> less, more;  ///< by a step; nothing where that cannot be, or nothing happens then
};
/// By the largest relative change of the least margin, most first; empty where nothing happens to it as it is.
/// \param terms of the Ritz method, the same for all.
std::vector<Sensitivity> sensitivities(const PanelCase& given, const Terms& terms);
std::vector<Sensitivity> sensitivities(const CurvedCase& given);
/// \param laminate_of which laminate each wall has, from 0; walls of one change together.
std::vector<Sensitivity> sensitivities(const BarCase& given, std::span<const std::size_t> laminate_of);
/// The laminates of a bar's walls. \param laminate_of as above.
/// \throws std::invalid_argument where a wall does not say the material of every layer.
std::vector<laminate::Stack> laminates_of(const BarCase& given, std::span<const std::size_t> laminate_of);
/// The bar with these.
BarCase with_laminates(BarCase given, std::span<const std::size_t> laminate_of, std::span<const laminate::Stack> all);

}  // namespace bordado::sizing

#endif
