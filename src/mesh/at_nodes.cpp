#include <bordado/mesh/at_nodes.hpp>

namespace bordado::mesh {

NodeUses uses_of_nodes(const Surface& surface) {
  NodeUses out;
  out.first.assign(surface.points.size() + 1, 0);
  for (const NodeIndex n : surface.nodes) ++out.first[n + 1];
  for (std::size_t n = 0; n + 1 < out.first.size(); ++n) out.first[n + 1] += out.first[n];
  out.uses.resize(surface.nodes.size());
  std::vector<std::uint32_t> next(out.first.begin(), out.first.end() - 1);
  for (ElementIndex e = 0; e < surface.element_count(); ++e)
    for (std::uint32_t at = surface.first[e]; at < surface.first[e + 1]; ++at)
      out.uses[next[surface.nodes[at]]++] = {e, at};
  return out;
}

std::vector<Vec3> area_sums_at_nodes(const Surface& surface, const Geometry& geometry,
                                     std::span<const Vec3> of_elements) {
  std::vector<Vec3> out(surface.points.size(), Vec3::Zero());
  for (ElementIndex e = 0; e < surface.element_count(); ++e)
    for (const NodeIndex n : surface.nodes_of(e)) out[n] += geometry.areas[e] * of_elements[e];
  return out;
}

}  // namespace bordado::mesh
