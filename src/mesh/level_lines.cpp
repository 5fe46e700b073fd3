// Lines along which a level is nought.
#include <bordado/mesh/chains.hpp>

#include <algorithm>
#include <array>
#include <cmath>

namespace bordado::mesh {

std::vector<Curve> level_lines(const Surface& surface, std::span<const double> level) {
  // A place of the line is on a side (two nodes) or between a corner and the middle of a quadrilateral.
  std::vector<Segment> segments;
  const std::uint64_t nodes = surface.points.size();
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    const auto corners = surface.corners_of(e);
    bool in = false, out = false, known = true;
    for (const NodeIndex n : corners) {
      known = known && !std::isnan(level[n]);
      (level[n] <= 0.0 ? in : out) = true;
    }
    if (!in || !out || !known) continue;
    struct At {
      Vec3 point;
      double level;
      std::uint64_t id;
    };
    const auto in_triangle = [&](const std::array<At, 3>& at) {
      Segment segment;
      std::size_t found = 0;
      for (std::size_t k = 0; k < 3; ++k) {
        const At &a = at[k], &b = at[(k + 1) % 3];
        if ((a.level <= 0.0) == (b.level <= 0.0) || found == 2) continue;
        segment.ends[found] = a.point + a.level / (a.level - b.level) * (b.point - a.point);
        segment.keys[found++] = (std::min(a.id, b.id) << 32) | std::max(a.id, b.id);
      }
      if (found == 2 && segment.keys[0] != segment.keys[1]) segments.push_back(segment);
    };
    const auto corner = [&](std::size_t k) { return At{surface.points[corners[k]], level[corners[k]], corners[k]}; };
    if (corners.size() == 3) {
      in_triangle({corner(0), corner(1), corner(2)});
      continue;
    }
    At middle{Vec3::Zero(), 0.0, nodes + e};
    for (std::size_t k = 0; k < 4; ++k) middle.point += 0.25 * corner(k).point, middle.level += 0.25 * corner(k).level;
    for (std::size_t k = 0; k < 4; ++k) in_triangle({middle, corner(k), corner((k + 1) % 4)});
  }
  std::vector<Curve> out;
  for (Chain& chain : chains(segments)) out.push_back(std::move(chain.curve));
  return out;
}

}  // namespace bordado::mesh
