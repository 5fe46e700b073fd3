// Loads of a case that act within an element: temperature and pressure.
#pragma once

#include "../deck/uses.hpp"

#include <bordado/recovery.hpp>

#include <algorithm>
#include <cmath>

namespace bordado::result {

using deck::mean_at;
using mesh::ElementIndex;

/// What temperature does to an element in a case.
struct HeatHere : Warmth {
  /// Kelvin above a material's stress-free temperature, at a share of the thickness from the tool face.
  double above(const material::Material& material, double share) const {
    return factor * (tool + share * (bag - tool) - material.stress_free_temperature.value_or(from));
  }
};

/// What holds a stack back that would expand: N and M about the mesh, with the sign of what pushes outwards.
/// \param material_of what the layer of a number is of \param z0 where the stack begins
template <class MaterialOf>
laminate::Resultants held_expansion(const HeatHere& heat, std::span<const laminate::Layer> layers,
                                    MaterialOf material_of, double z0) {
  laminate::Resultants out;
  const double h = laminate::thickness(layers);
  double z = z0;
  for (std::size_t l = 0; l < layers.size(); ++l) {
    const laminate::Layer& layer = layers[l];
    const laminate::Vector3 per_kelvin =
        laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle) *
        laminate::free_strain(layer, laminate::Expands::by_temperature);
    const material::Material& m = material_of(l);
    const double t = layer.thickness;
    const auto above = [&](double height) { return heat.above(m, h > 0.0 ? (height - z0) / h : 0.0); };
    const double low = above(z), high = above(z + t), mean = 0.5 * (low + high);
    out.N += t * mean * per_kelvin;
    out.M += (t * mean * (z + 0.5 * t) + t * t * (high - low) / 12.0) * per_kelvin;
    z += t;
  }
  return out;
}

/// Loads of a case that act within an element: looked up where they are asked for.
class Within {
 public:
  Within(const deck::Model& model, const deck::Model::Case& one) : model_(model), one_(one) {
    deck::for_each_load<deck::Model::Temperature>(model, one, [&](const auto&, double) { warm_ = true; });
    deck::for_each_load<deck::Model::Pressure>(model, one, [&](const auto&, double) { pressed_ = true; });
  }
  bool warm() const { return warm_; }

  /// Of several temperatures the last counts, as in the deck.
  HeatHere heat(ElementIndex e) const {
    HeatHere out;
    if (!warm_) return out;
    deck::for_each_load<deck::Model::Temperature>(
        model_, one_, [&](const deck::Model::Temperature& load, double factor) {
          const auto tool = mean_at(model_.surface, load, e, [&](std::size_t i) { return load.tool[i]; });
          const auto bag = mean_at(model_.surface, load, e, [&](std::size_t i) { return load.bag[i]; });
          if (tool && bag) out = {{factor, *tool, *bag, load.from.value_or(0.0)}};
        });
    return out;
  }
  /// The largest on either face.
  double pressure(ElementIndex e) const {
    double out = 0.0;
    if (!pressed_) return out;
    deck::for_each_load<deck::Model::Pressure>(model_, one_, [&](const deck::Model::Pressure& load, double factor) {
      std::optional<double> here;
      if (!load.along_normal)
        here = mean_at(model_.surface, load, e, [&](std::size_t i) { return load.at_nodes[i]; });
      else if (std::binary_search(load.elements.begin(), load.elements.end(), e))
        here = load.along_normal;
      if (here) out = std::max(out, std::abs(factor * *here));
    });
    return out;
  }

 private:
  const deck::Model& model_;
  const deck::Model::Case& one_;
  bool warm_ = false, pressed_ = false;
};

}  // namespace bordado::result
