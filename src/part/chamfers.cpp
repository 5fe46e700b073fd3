#include <bordado/part.hpp>

#include <algorithm>
#include <cmath>

namespace bordado::part {

std::optional<double> chamfer_length(const Part& part, PlyId ply) {
  const auto& chamfer = part.plies[ply].chamfer;
  if (!chamfer) return std::nullopt;
  if (chamfer->length) return *chamfer->length;
  return std::max(0.0, full_thickness(part, ply) - chamfer->edge_thickness) / std::tan(chamfer->angle->radians());
}

double full_thickness(const Part& part, PlyId ply) {
  const Ply& declared = part.plies[part.plies[ply].fills ? PlyId{static_cast<std::uint32_t>(index(ply) - 1)} : ply];
  if (declared.thickness) return *declared.thickness;
  const auto found =
      std::find_if(part.materials.begin(), part.materials.end(),
                   [&](const material::Material& material) { return material.name == declared.material.value; });
  return found == part.materials.end() ? 0.0 : found->thickness.value_or(0.0);
}

}  // namespace bordado::part
