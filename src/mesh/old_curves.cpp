#include "old_curves.hpp"

#include <limits>

namespace bordado::mesh {

namespace {

std::array<NodeIndex, 2> sorted(NodeIndex a, NodeIndex b) { return {std::min(a, b), std::max(a, b)}; }

}  // namespace

OldCurves::OldCurves(const Surface& surface) : surface_(surface) {
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    if (!is_quadratic(surface.shapes[e])) continue;
    const auto nodes = surface.nodes_of(e);
    const std::size_t corners = surface.corners_of(e).size();
    for (std::size_t k = 0; k < corners; ++k) {
      const auto side = sorted(nodes[k], nodes[(k + 1) % corners]);
      arcs_.emplace(side, Arc{side[0], nodes[corners + k], side[1]});
    }
  }
}

void OldCurves::keep(const std::array<NodeIndex, 2>& side) {
  if (const auto found = arcs_.find(side); found != arcs_.end()) kept_.push_back(found->second);
}

Vec3 OldCurves::at(const Arc& arc, double share) const {
  const double x = 2.0 * (arc.from + share * (arc.to - arc.from)) - 1.0;
  return 0.5 * x * (x - 1.0) * surface_.points[arc.first] + (1.0 - x * x) * surface_.points[arc.middle] +
         0.5 * x * (x + 1.0) * surface_.points[arc.last];
}

std::optional<OldCurves::Arc> OldCurves::find(NodeIndex a, NodeIndex b) const {
  const auto found = arcs_.find(sorted(a, b));
  if (found == arcs_.end()) return std::nullopt;
  Arc out = found->second;
  if (a > b) std::swap(out.from, out.to);
  return out;
}

void OldCurves::put(NodeIndex a, NodeIndex b, Arc arc) {
  if (a > b) std::swap(arc.from, arc.to);
  arcs_[sorted(a, b)] = arc;
}

std::optional<Vec3> OldCurves::place(NodeIndex a, NodeIndex b, double share) const {
  const auto arc = find(a, b);
  return arc ? std::optional(at(*arc, share)) : std::nullopt;
}

void OldCurves::part(NodeIndex a, NodeIndex b, NodeIndex by, double share) {
  const auto whole = find(a, b);
  if (!whole) return;
  Arc before = *whole, behind = *whole;
  before.to = behind.from = whole->from + share * (whole->to - whole->from);
  arcs_.erase(sorted(a, b));
  put(a, by, before);
  put(by, b, behind);
  on_.insert(by);
}

void OldCurves::slide(NodeIndex node, NodeIndex to, double share, std::span<const NodeIndex> others) {
  std::optional<Arc> rest = find(node, to);
  for (const NodeIndex other : others)
    if (other != node) arcs_.erase(sorted(node, other));
  on_.erase(node);
  if (!rest) return;
  rest->from += share * (rest->to - rest->from);
  put(node, to, *rest);
  on_.insert(node);
}

Vec3 OldCurves::nearest_kept(const Vec3& point) const {
  Vec3 best = point;
  double least = std::numeric_limits<double>::infinity();
  for (const Arc& arc : kept_) {
    const Vec3 &a = surface_.points[arc.first], &b = surface_.points[arc.last];
    if ((0.5 * (a + b) - point).norm() > (b - a).norm() + least) continue;
    // By thirds: the distance has one least place where sides are not bent by a right angle.
    const auto off_at = [&](double share) { return (at(arc, share) - point).squaredNorm(); };
    double low = 0.0, high = 1.0;
    while (high - low > 1e-9) {
      const double third = (high - low) / 3.0;
      if (off_at(low + third) < off_at(high - third))
        high -= third;
      else
        low += third;
    }
    const Vec3 here = at(arc, 0.5 * (low + high));
    if (const double off = (here - point).norm(); off < least) least = off, best = here;
  }
  return best;
}

}  // namespace bordado::mesh
