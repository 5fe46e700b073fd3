/// \file warmth.hpp
/// What elements are warmed to and pressed by in a case, and what warmth does to a stack: the one place that makes it.
#ifndef BORDADO_WARMTH_HPP
#define BORDADO_WARMTH_HPP

#include <bordado/model.hpp>

#include <optional>
#include <set>

namespace bordado::model {

/// Temperatures of an element in a case, all for a load of factor one: at the tool face, at the bag face, and where a
/// material that does not say its own is free of stress. Without a temperature the factor is nought.
struct Warmth {
  double factor = 0.0, tool = 0.0, bag = 0.0, from = 0.0;
  /// Kelvin above a material's stress-free temperature, times the factor, at a share of the thickness from the tool face.
  double above(const material::Material& material, double share) const;
};
/// The mean of the element, as its nodes interpolate. Of several temperatures the last counts, as in the deck.
Warmth warmth(const Model& model, const Model::Case& load_case, mesh::ElementIndex element);
/// The largest pressure on either face of an element in a case, positive; the mean where it varies.
double pressure_on(const Model& model, const Model::Case& load_case, mesh::ElementIndex element);

/// What one load warms an element to; nothing where it does not.
std::optional<Warmth> warmth_by(const mesh::Surface& surface, const Model::Temperature& load, double factor,
                                mesh::ElementIndex element);

/// All temperatures at which a material of the part is free of stress in these cases, in degrees Celsius; empty where none is
/// warmed.
std::set<double> stress_free_temperatures(const Model& model, std::span<const std::size_t> cases);

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
  Within(const Model& model, const Model::Case& load_case)
      : model_(model),
        one_(load_case),
        warm_(has_load<Model::Temperature>(model, load_case)),
        pressed_(has_load<Model::Pressure>(model, load_case)) {}
  bool warm() const { return warm_; }
  Warmth heat(mesh::ElementIndex e) const { return warm_ ? warmth(model_, one_, e) : Warmth(); }
  double pressure(mesh::ElementIndex e) const { return pressed_ ? pressure_on(model_, one_, e) : 0.0; }

 private:
  const Model& model_;
  const Model::Case& one_;
  bool warm_, pressed_;
};

}  // namespace bordado::model

#endif
