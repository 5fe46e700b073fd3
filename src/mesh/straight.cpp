#include <bordado/mesh/straight.hpp>

#include <bordado/mesh/weld.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>

namespace bordado::mesh {

namespace {

constexpr std::uint32_t none = 0xffffffffu;

}  // namespace

namespace {

/// Whether a point lies on a side of an element that no other element shares.
bool on_free_side(const Surface& surface, const NodeTable& at_nodes, ElementIndex e, const Vec3& point) {
  const auto corners = surface.corners_of(e);
  for (std::size_t k = 0; k < corners.size(); ++k) {
    const NodeIndex a = corners[k], b = corners[(k + 1) % corners.size()];
    const Vec3 side = surface.points[b] - surface.points[a], off = point - surface.points[a];
    const double s = off.dot(side) / side.squaredNorm();
    if (s < -1e-6 || s > 1.0 + 1e-6 || (off - s * side).norm() > 1e-6 * side.norm()) continue;
    const auto others = at_nodes.of(a);
    const bool shared = std::any_of(others.begin(), others.end(), [&](ElementIndex other) {
      const auto theirs = surface.corners_of(other);
      return other != e && std::find(theirs.begin(), theirs.end(), b) != theirs.end();
    });
    if (!shared) return true;
  }
  return false;
}

}  // namespace

Straight::Straight(const Surface& surface, const NodeTable& at_nodes, std::vector<LinePiece> pieces, EndsAtBorder how)
    : surface_(surface), at_nodes_(at_nodes), pieces_(std::move(pieces)) {
  first_.assign(surface.element_count() + 1, 0);
  for (const LinePiece& piece : pieces_) ++first_[piece.element + 1];
  for (std::size_t e = 0; e < surface.element_count(); ++e) first_[e + 1] += first_[e];
  on_element_.resize(pieces_.size());
  std::vector<std::uint32_t> next(first_.begin(), first_.end() - 1);
  for (std::uint32_t p = 0; p < pieces_.size(); ++p) on_element_[next[pieces_[p].element]++] = p;
  // Pieces whose ends are one hang together.
  std::vector<Vec3> ends;
  double size = 0.0;
  for (const LinePiece& piece : pieces_) {
    ends.push_back(piece.a);
    ends.push_back(piece.b);
    size = std::max(size, (piece.b - piece.a).norm());
  }
  end_keys_ = weld(ends, 1e-6 * size);
  first_at_end_.assign(ends.size() + 1, 0);
  for (const std::uint32_t key : end_keys_) ++first_at_end_[key + 1];
  for (std::size_t k = 0; k < ends.size(); ++k) first_at_end_[k + 1] += first_at_end_[k];
  at_end_.resize(ends.size());
  std::vector<std::uint32_t> place(first_at_end_.begin(), first_at_end_.end() - 1);
  for (std::uint32_t k = 0; k < ends.size(); ++k) at_end_[place[end_keys_[k]]++] = k / 2;
  label_.assign(surface.points.size(), none);
  goes_on_.assign(ends.size(), 0);
  if (how == EndsAtBorder::are_ends) return;
  for (std::uint32_t k = 0; k < ends.size(); ++k) {
    const LinePiece& piece = pieces_[k / 2];
    if ((piece.b - piece.a).squaredNorm() == 0.0) continue;
    // The pieces of a border stand once for each element that they lie along: other ends there are those of the same line.
    const std::uint32_t key = end_keys_[k];
    const Vec3 way = (ends[k ^ 1u] - ends[k]).normalized();
    bool last = true;
    for (std::uint32_t i = first_at_end_[key]; i < first_at_end_[key + 1]; ++i) {
      const std::uint32_t other = at_end_[i];
      const Vec3 along = pieces_[other].b - pieces_[other].a;
      if (along.squaredNorm() == 0.0) continue;
      const bool from_a = end_keys_[2 * other] == key;
      last = last && ((from_a ? along : Vec3(-along)).normalized() - way).norm() < 1e-6;
    }
    goes_on_[k] = last && on_free_side(surface, at_nodes, piece.element, ends[k]);
  }
}

Straight::Foot Straight::foot(std::uint32_t piece, const Vec3& from) const {
  const LinePiece& p = pieces_[piece];
  const Vec3 along = p.b - p.a;
  const double squared = along.squaredNorm();
  const double s = squared > 0.0 ? (from - p.a).dot(along) / squared : 0.0;
  Foot out;
  out.end = s <= 0.0 ? 0 : s >= 1.0 ? 1 : -1;
  if (out.end >= 0 && goes_on_[2 * piece + static_cast<std::uint32_t>(out.end)]) {
    // No farther than 60° behind the end: what lies beyond is another place of the part.
    const Vec3 straight = p.a + s * along;
    const double square = (from - straight).norm(), behind = (straight - (out.end == 0 ? p.a : p.b)).norm();
    if (behind <= 1.75 * square || square == 0.0) {
      out.beyond = behind > 0.0;
      out.end = -1;
      out.point = straight;
      out.distance = square;
      return out;
    }
  }
  out.point = out.end == 0 ? p.a : out.end == 1 ? p.b : Vec3(p.a + s * along);
  out.distance = (from - out.point).norm();
  return out;
}

std::uint32_t Straight::downhill(std::uint32_t piece, const Vec3& from) const {
  Foot here = foot(piece, from);
  while (here.end >= 0) {
    const std::uint32_t key = end_keys_[2 * piece + static_cast<std::uint32_t>(here.end)];
    std::uint32_t better = none;
    Foot best = here;
    for (std::uint32_t k = first_at_end_[key]; k < first_at_end_[key + 1]; ++k) {
      const Foot there = foot(at_end_[k], from);
      // The same corner seen from another piece is no step.
      if (there.distance < best.distance * (1.0 - 1e-14)) best = there, better = at_end_[k];
    }
    if (better == none) break;
    piece = better;
    here = best;
  }
  return piece;
}

Vec3 Straight::normal(ElementIndex e) const {
  const auto c = surface_.corners_of(e);
  const Vec3 cross =
      (surface_.points[c[2]] - surface_.points[c[0]]).cross(surface_.points[c[c.size() - 1]] - surface_.points[c[1]]);
  const double length = cross.norm();
  return length > 0.0 ? Vec3(cross / length) : Vec3(Vec3::Zero());
}

void Straight::start(const std::function<void(NodeIndex, double, const Vec3&, ElementIndex)>& with) {
  const double sharp = Angle::degrees(30).cos();
  std::vector<ElementIndex> seen;
  for (ElementIndex from = 0; from < surface_.element_count(); ++from) {
    if (first_[from] == first_[from + 1]) continue;
    const Vec3 up = normal(from);
    for (const NodeIndex n : surface_.corners_of(from)) {
      // Each node once from each of its elements that a piece lies on: across a fold these see other pieces.
      const Vec3& x = surface_.points[n];
      Foot best;
      std::uint32_t nearest = none;
      seen.assign(1, from);
      constexpr std::size_t most = 300;
      for (std::size_t k = 0; k < seen.size() && seen.size() < most; ++k) {
        const ElementIndex e = seen[k];
        for (std::uint32_t i = first_[e]; i < first_[e + 1]; ++i)
          if (const Foot there = foot(on_element_[i], x); there.distance < best.distance)
            best = there, nearest = on_element_[i];
        const auto corners = surface_.corners_of(e);
        double longest = 0.0;
        for (std::size_t i = 0; i < corners.size(); ++i)
          longest = std::max(longest,
                             (surface_.points[corners[i]] - surface_.points[corners[(i + 1) % corners.size()]]).norm());
        for (const NodeIndex c : corners) {
          if ((surface_.points[c] - x).norm() > best.distance + longest) continue;
          for (const ElementIndex other : at_nodes_.of(c))
            if (std::find(seen.begin(), seen.end(), other) == seen.end() && std::abs(normal(other).dot(up)) > sharp)
              seen.push_back(other);
        }
      }
      if (nearest == none) continue;
      with(n, best.distance, best.distance > 0.0 ? Vec3((x - best.point) / best.distance) : Vec3(Vec3::Zero()), from);
      if (flat(n, nearest) && (label_[n] == none || best.distance < foot(label_[n], x).distance)) label_[n] = nearest;
    }
  }
}

bool Straight::flat(NodeIndex n, std::uint32_t piece) const {
  const LinePiece& p = pieces_[piece];
  const Vec3 up = normal(p.element), off = surface_.points[n] - p.a;
  if (std::abs(off.dot(up)) > 1e-9 * (off.norm() + (p.b - p.a).norm())) return false;
  for (const ElementIndex e : at_nodes_.of(n))
    if (normal(e).cross(up).squaredNorm() > 1e-14) return false;
  return true;
}

void Straight::straighten(std::vector<double>& distance, std::vector<Vec3>& away) {
  std::vector<NodeIndex> order;
  for (NodeIndex n = 0; n < distance.size(); ++n)
    if (std::isfinite(distance[n]) && distance[n] > 0.0 && !at_nodes_.of(n).empty()) order.push_back(n);
  std::sort(order.begin(), order.end(),
            [&](NodeIndex a, NodeIndex b) { return std::pair(distance[a], a) < std::pair(distance[b], b); });
  // What bends round a corner of the surface is longer than the straight way across the gap: a fiftieth tells them apart,
  // and is more than fronts over bad elements are off.
  constexpr double detour = 0.02;
  const std::vector<double> by_front = distance;
  std::vector<std::uint32_t> tried;
  for (int pass = 0; pass < 6; ++pass) {
    bool changed = false;
    for (const NodeIndex n : order) {
      const Vec3& x = surface_.points[n];
      double best = label_[n] == none ? std::numeric_limits<double>::infinity() : foot(label_[n], x).distance;
      std::uint32_t nearest = label_[n];
      tried.clear();
      for (const ElementIndex e : at_nodes_.of(n))
        for (const NodeIndex c : surface_.corners_of(e)) {
          const std::uint32_t p = label_[c];
          if (p == none || std::find(tried.begin(), tried.end(), p) != tried.end()) continue;
          tried.push_back(p);
          const std::uint32_t down = downhill(p, x);
          if (const double d = foot(down, x).distance; d < best * (1.0 - 1e-13) && flat(n, down))
            best = d, nearest = down;
        }
      if (nearest == label_[n] && (pass > 0 || nearest == none)) continue;
      const Foot there = foot(nearest, x);
      if (!there.beyond && std::abs(there.distance - by_front[n]) > detour * by_front[n]) continue;
      changed = changed || nearest != label_[n];
      label_[n] = nearest;
      distance[n] = there.distance;
      if (there.distance > 0.0) away[n] = (x - there.point) / there.distance;
    }
    if (!changed) break;
  }
}

}  // namespace bordado::mesh
