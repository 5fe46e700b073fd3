/// \file uses.hpp
/// Sections as a deck needs them: of those that carry nothing, or are warmed unevenly, one for each amount.
#ifndef BORDADO_DECK_USES_HPP
#define BORDADO_DECK_USES_HPP

#include <bordado/deck.hpp>
#include <bordado/warmth.hpp>

#include <algorithm>
#include <optional>

namespace bordado::deck {

/// What an element is warmed to, per case; nothing where it is not.
using Heats = std::vector<std::optional<model::Warmth>>;

struct Uses {
  struct Use {
    section::SectionId section;
    double added = 0.0;                           ///< mass per area that carries nothing
    std::optional<std::size_t> heat = {};         ///< in `heats`
    std::optional<std::size_t> upside_down = {};  ///< it is this use, with its layers in the other order
  };
  std::vector<std::uint32_t> of;  ///< per element, in `all`
  std::vector<Use> all;
  std::vector<Heats> heats;
  double rounded = 0.0;  ///< kelvin, at most
  double within = 0.0;  ///< kelvin, at most, by which a node differs from its element, which has one mean for all of it
  double varies = 0.0;  ///< kelvin, between the least and the largest
};

/// Whether temperatures of these cases must stand in the materials: they differ from face to face, or materials are
/// free of stress at different temperatures.
bool heat_in_materials(const Model& model, std::span<const std::size_t> cases);
/// The temperature at which all materials are free of stress, where it is one; otherwise nought.
double common_stress_free(const Model& model, std::span<const std::size_t> cases);

/// The same where there must be one; nothing where no case is warmed.
/// \throws Failure "deck.stress-free-differs".
std::optional<double> only_stress_free(const Model& model, std::span<const std::size_t> cases);

/// Elements that stand upside down in a deck get uses of their own. \param which per element, or empty.
Uses turned(Uses uses, std::span<const std::uint8_t> which);

/// \param heated whether to part sections by temperature.
Uses uses(const Model& model, std::span<const std::size_t> cases, bool heated);

}  // namespace bordado::deck

#endif
