#include <bordado/solids.hpp>

namespace bordado::model {

using material::Vector6;
using mesh::ElementIndex;

std::vector<std::uint32_t> first_solids(const Model& model) {
  const Solids& solids = *model.solids;
  std::vector<std::uint32_t> out(model.surface.element_count() + 1, 0);
  for (const ElementIndex e : solids.element) ++out[e + 1];
  for (std::size_t e = 0; e + 1 < out.size(); ++e) out[e + 1] += out[e];
  return out;
}

void find_in_solids(const Solids& solids, std::size_t begin, std::size_t end, std::span<const layup::LaidLayer> laid,
                    std::vector<InSolid>& out) {
  out.assign(laid.size(), {});
  std::size_t s = begin;
  for (std::size_t l = 0; l < laid.size();) {
    // Layers of one group lie together.
    const std::uint32_t group = solids.group_of[laid[l].ply];
    std::size_t last = l;
    double all = 0.0;
    for (; last < laid.size() && solids.group_of[laid[last].ply] == group; ++last) all += laid[last].thickness;
    while (s < end && solids.group[s] < group) ++s;
    const bool found = s < end && solids.group[s] == group;
    for (double below = 0.0; l < last; ++l) {
      if (!found) continue;
      out[l].solid = static_cast<std::uint32_t>(s);
      out[l].low = 2.0 * below / all - 1.0;
      below += laid[l].thickness;
      out[l].high = 2.0 * below / all - 1.0;
    }
  }
}

Vector6 turned(const Vector6& strains, Angle by) {
  const double c = by.cos(), s = by.sin();
  const laminate::Vector3 plane = laminate::strains_to(by) * laminate::Vector3(strains[0], strains[1], strains[5]);
  Vector6 out;
  out << plane[0], plane[1], strains[2], c * strains[3] - s * strains[4], s * strains[3] + c * strains[4], plane[2];
  return out;
}

}  // namespace bordado::model
