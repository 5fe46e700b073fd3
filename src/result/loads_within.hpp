// Loads of a case that act within an element: temperature and pressure.
#pragma once

#include <bordado/deck.hpp>
#include <bordado/recovery.hpp>

namespace bordado::result {

using deck::Warmth;
using mesh::ElementIndex;

/// What holds a stack back that would expand: N and M about the mesh, with the sign of what pushes outwards.
/// \param material_of what the layer of a number is of \param z0 where the stack begins
template <class MaterialOf>
laminate::Resultants held_expansion(const Warmth& heat, std::span<const laminate::Layer> layers, MaterialOf material_of,
                                    double z0) {
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

/// Loads of a case that act within an element: looked up where they are asked for, and where there are any.
class Within {
 public:
  Within(const deck::Model& model, const deck::Model::Case& one)
      : model_(model),
        one_(one),
        warm_(deck::has_load<deck::Model::Temperature>(model, one)),
        pressed_(deck::has_load<deck::Model::Pressure>(model, one)) {}
  bool warm() const { return warm_; }
  Warmth heat(ElementIndex e) const { return warm_ ? deck::warmth(model_, one_, e) : Warmth(); }
  double pressure(ElementIndex e) const { return pressed_ ? deck::pressure_on(model_, one_, e) : 0.0; }

 private:
  const deck::Model& model_;
  const deck::Model::Case& one_;
  bool warm_, pressed_;
};

}  // namespace bordado::result
