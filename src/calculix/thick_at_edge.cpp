#include <bordado/calculix/boxes.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <limits>

namespace bordado::calculix {

std::vector<mesh::ElementIndex> too_thick_at_edges(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                                   const section::Sections& sections) {
  // Most parts have no element that thick: a look at each tells, and no edges are needed.
  std::vector<std::uint8_t> thick(surface.element_count(), 0);
  std::atomic<bool> any{false};
  parallel_blocks(thick.size(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) {
      const auto corners = surface.corners_of(static_cast<mesh::ElementIndex>(e));
      double shortest = std::numeric_limits<double>::infinity();
      for (std::size_t k = 0; k < corners.size(); ++k)
        shortest = std::min(
            shortest, (surface.points[corners[(k + 1) % corners.size()]] - surface.points[corners[k]]).squaredNorm());
      const double twice = 2.0 * sections.thickness[sections.section_of[e]];
      if (twice * twice > shortest) thick[e] = 1, any = true;
    }
  });
  std::vector<mesh::ElementIndex> out;
  if (!any) return out;
  const double sharp = Angle::degrees(20.0).cos();
  const mesh::EdgeTable table = mesh::edges(surface);
  for (std::size_t j = 0; j < table.size(); ++j) {
    const std::uint32_t begin = table.first[j], end = table.first[j + 1];
    for (std::uint32_t a = begin; a < end; ++a)
      for (std::uint32_t b = a + 1; b < end; ++b) {
        const auto &one = table.uses[a], &other = table.uses[b];
        const double same = one.forward == other.forward ? -1.0 : 1.0;
        if (same * geometry.normals[one.element].dot(geometry.normals[other.element]) > sharp) continue;
        for (const mesh::ElementIndex e : {one.element, other.element})
          if (thick[e]) out.push_back(e);
      }
  }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

std::optional<Finding> thick_at_edge(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                     const section::Sections& sections) {
  const std::vector<mesh::ElementIndex> found = too_thick_at_edges(surface, geometry, sections);
  if (found.empty()) return std::nullopt;
  std::vector<std::int64_t> ids;
  for (const mesh::ElementIndex e : found) ids.push_back(surface.element_ids[e]);
  return Finding{Severity::warning, "deck.thick-at-edge",
                 fmt::format("{} at a sharp edge of the surface: the laminate is thicker than half of their shortest "
                             "side, so that solids made of them run into each other: {}",
                             counted(found.size(), "element"), listed(ids)),
                 surface.place_of(found.front()),
                 "CalculiX may stop at these (nonpositive jacobian): mesh coarser along the edge, or round it"};
}

}  // namespace bordado::calculix
