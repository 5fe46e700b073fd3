// Faces of a sandwich: how they wrinkle on their core and dimple over its cells.
#include "waves.hpp"

#include <bordado/strength.hpp>

#include <Eigen/LU>

#include <cmath>

namespace bordado::laminate {

namespace {

/// The bending stiffness of layers about their own neutral plane, free to stretch.
Matrix3 own_bending(std::span<const Layer> layers) {
  const Stiffness k = stiffness(layers, -0.5 * thickness(layers));
  return k.D - k.B * k.A.inverse() * k.B;
}

Face face_on(std::span<const Layer> layers, std::size_t first, std::size_t last, std::size_t core,
             const material::Material& of_core) {
  Face out;
  out.first = first, out.last = last, out.core = core, out.above = core < first;
  out.D = own_bending(layers.subspan(first, last - first + 1));
  out.core_shear = transverse_stiffness(layers[core].elastic, layers[core].angle);
  out.core_normal = layers[core].elastic.E3;
  if (of_core.kind == material::Kind::honeycomb) out.cell = of_core.form.cell;
  const auto& strength = of_core.strength;
  if (strength.Zc)
    out.crushes = *strength.Zc;
  else if (material::is_isotropic(of_core.kind) && strength.Xc)
    out.crushes = *strength.Xc;
  return out;
}

}  // namespace

double Face::wrinkles(double direction) const {
  const Vector3 along = across_waves(direction);
  const Vector2 u(std::cos(direction), std::sin(direction));
  constexpr double wavy = 0.5 / 0.8255;  // 3 / 2^(2/3) / 12^(1/3) = 0.8255
  return wavy * 3.0 * std::cbrt(0.25 * along.dot(D * along) * core_normal * u.dot(core_shear * u));
}

double Face::dimples(double direction) const {
  if (!cell) return std::numeric_limits<double>::infinity();
  const Vector3 along = across_waves(direction);
  return 24.0 * along.dot(D * along) / (*cell * *cell);
}

std::vector<Face> faces_of(std::span<const Layer> layers, std::span<const material::Material* const> materials) {
  const auto core = [&](std::size_t i) { return material::is_core(materials[i]->kind); };
  std::vector<Face> out;
  for (std::size_t first = 0; first < layers.size();) {
    if (core(first)) {
      ++first;
      continue;
    }
    std::size_t last = first;
    while (last + 1 < layers.size() && !core(last + 1)) ++last;
    if (first > 0) out.push_back(face_on(layers, first, last, first - 1, *materials[first - 1]));
    if (last + 1 < layers.size()) out.push_back(face_on(layers, first, last, last + 1, *materials[last + 1]));
    first = last + 1;
  }
  return out;
}

}  // namespace bordado::laminate
