// What elements are warmed to: the one place that makes it.
#pragma once

#include <bordado/deck.hpp>

#include <optional>
#include <set>

namespace bordado::deck {

/// What one load warms an element to; nothing where it does not.
std::optional<Warmth> warmth_by(const mesh::Surface& surface, const Model::Temperature& load, double factor,
                                mesh::ElementIndex element);

/// All temperatures at which a material of the part is free of stress in these cases, in degrees Celsius; empty where none is
/// warmed.
std::set<double> stress_free_temperatures(const Model& model, std::span<const std::size_t> cases);

}  // namespace bordado::deck
