// Faces of a sandwich: how they wrinkle on their core and dimple over its cells.
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

/// Softness of a core against wrinkles along a direction: sqrt(Ez G).
double softness(const Layer& core, double c, double s) {
  const Vector2 along(c, s);
  const double G = along.dot(transverse_stiffness(core.elastic, core.angle) * along);
  return std::sqrt(core.elastic.E3 * G);
}

Face face_on(std::span<const Layer> layers, std::size_t first, std::size_t last, std::size_t core,
             const material::Material& of_core) {
  Face out;
  out.first = first, out.last = last, out.core = core, out.above = core < first;
  out.D = own_bending(layers.subspan(first, last - first + 1));
  for (std::size_t k = 0; k < out.wrinkles.size(); ++k) {
    const double angle = std::numbers::pi / 36.0 * static_cast<double>(k), c = std::cos(angle), s = std::sin(angle);
    const Vector3 along(c * c, s * s, 2.0 * c * s);
    const double D = along.dot(out.D * along);
    constexpr double wavy = 0.5 / 0.8255;  // 3 / 2^(2/3) / 12^(1/3) = 0.8255
    out.wrinkles[k] = wavy * 3.0 * std::cbrt(0.25 * D * std::pow(softness(layers[core], c, s), 2));
  }
  if (of_core.kind == material::Kind::honeycomb) out.cell = of_core.form.cell;
  const auto& strength = of_core.strength;
  if (strength.Zc)
    out.crushes = *strength.Zc;
  else if (material::is_isotropic(of_core.kind) && strength.Xc)
    out.crushes = *strength.Xc;
  return out;
}

}  // namespace

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
    const bool below = first > 0, above = last + 1 < layers.size();
    if (below || above) {
      const auto soft = [&](std::size_t i) { return softness(layers[i], 1.0, 0.0); };
      const std::size_t on = !above || (below && soft(first - 1) <= soft(last + 1)) ? first - 1 : last + 1;
      out.push_back(face_on(layers, first, last, on, *materials[on]));
    }
    first = last + 1;
  }
  return out;
}

}  // namespace bordado::laminate
