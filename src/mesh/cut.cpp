#include <bordado/mesh/corner_weights.hpp>
#include "old_curves.hpp"

#include <bordado/base/work.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/mesh/curves.hpp>
#include <bordado/mesh/locate.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numbers>
#include <optional>
#include <set>

namespace bordado::mesh {

namespace {

using NodePair = std::array<NodeIndex, 2>;
NodePair sorted(NodeIndex a, NodeIndex b) { return a < b ? NodePair{a, b} : NodePair{b, a}; }

double angle_at(const Vec3& corner, const Vec3& a, const Vec3& b) {
  const Vec3 u = a - corner, v = b - corner;
  return std::atan2(u.cross(v).norm(), u.dot(v)) * 180.0 / std::numbers::pi;
}

/// Elements by their corners alone.
struct Cells {
  std::vector<std::vector<NodeIndex>> corners;
  std::vector<ElementIndex> from;  ///< the element of the old surface
};

class Cutter {
 public:
  Cutter(const Surface& surface, const Geometry& geometry, std::vector<std::vector<double>> levels,
         const CutOptions& options)
      : surface_(surface),
        levels_(std::move(levels)),
        slide_(options.slide),
        points_(surface.points),
        curves_(surface) {
    for (ElementIndex e = 0; e < surface.element_count(); ++e) {
      const auto corners = surface.corners_of(e);
      cells_.corners.emplace_back(corners.begin(), corners.end());
      cells_.from.push_back(e);
    }
    // What may not change its shape: borders, creases, sides of groups.
    for (const NodePair& side : free_edges(surface)) features_[side] |= border;
    for (const NodePair& side : creases(surface, geometry, Angle::degrees(20.0))) features_[side] |= crease;
    for (const Group& group : surface.groups) {
      for (const Edge& edge : group.edges) features_[sorted(edge.first, edge.second)] |= grouped;
      for (const NodeIndex n : group.points) fixed_.insert(n);
    }
    sides_of_element_groups();
    mark_features();
    for (const auto& [side, what] : features_) curves_.keep(side);
  }

  void cut() {
    for (std::size_t i = 0; i < levels_.size(); ++i) {
      bool below = false, above = false;
      for (const auto& corners : cells_.corners)
        for (const NodeIndex n : corners) {
          below = below || levels_[i][n] < 0.0;
          above = above || levels_[i][n] > 0.0;
        }
      lines_ += below && above;
      slide(i);
      split(i);
    }
    for (int pass = 0; pass < 8 && join_slivers(); ++pass) {
    }
  }

  Surface result(CutReport& report) const {
    report.lines = lines_;
    report.slid = slid_.size();
    report.split = split_.size();
    report.least_before = report.least_angle = 180.0;
    for (ElementIndex e = 0; e < surface_.element_count(); ++e)
      report.least_before = std::min(report.least_before, least_angle(surface_.points, surface_.corners_of(e)));
    for (const auto& corners : cells_.corners)
      report.least_angle = std::min(report.least_angle, least_angle(points_, corners));
    return linear();
  }

  /// Quadrilaterals among these elements of result() become two triangles each. \returns whether there are any.
  bool part(std::span<const ElementIndex> elements) {
    Cells out;
    std::size_t next = 0;
    for (std::size_t c = 0; c < cells_.corners.size(); ++c) {
      const std::vector<NodeIndex>& q = cells_.corners[c];
      const bool wanted = next < elements.size() && elements[next] == c;
      next += wanted;
      std::vector<std::vector<NodeIndex>> parts{q};
      if (wanted && q.size() == 4) {
        const auto halves = [&](std::size_t k) {
          return std::vector<std::vector<NodeIndex>>{{q[k], q[k + 1], q[k + 2]}, {q[k], q[k + 2], q[(k + 3) % 4]}};
        };
        const auto worst = [&](const auto& two) {
          return std::min(least_angle(points_, two[0]), least_angle(points_, two[1]));
        };
        parts = worst(halves(0)) >= worst(halves(1)) ? halves(0) : halves(1);
      }
      for (std::vector<NodeIndex>& corners : parts) {
        out.corners.push_back(std::move(corners));
        out.from.push_back(cells_.from[c]);
      }
    }
    const bool any = out.corners.size() > cells_.corners.size();
    cells_ = std::move(out);
    return any;
  }

  /// Puts the nodes of the surface that result() gave, raised to quadratic elements, on the curves and faces of the old one.
  void bend(Surface& cut) const {
    std::vector<NodeIndex> own;  // of its corners: the node here
    for (const auto& corners : cells_.corners) own.insert(own.end(), corners.begin(), corners.end());
    std::sort(own.begin(), own.end());
    own.erase(std::unique(own.begin(), own.end()), own.end());
    std::set<NodeIndex> on_features;
    for (const auto& [side, what] : features_)
      if ((what & (border | crease | grouped)) != 0) on_features.insert(side.begin(), side.end());
    const Locator locator(surface_);
    parallel_blocks(own.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t n = begin; n < end; ++n) {
        const bool stands = own[n] < surface_.points.size() && !slid_.count(own[n]);
        if (stands || curves_.holds(own[n])) continue;
        cut.points[n] =
            on_features.count(own[n]) ? curves_.nearest_kept(cut.points[n]) : locator.nearest(cut.points[n]).point;
      }
    });
    std::vector<std::array<NodeIndex, 3>> sides;  // ends, and the node between them
    for (ElementIndex e = 0; e < cut.element_count(); ++e) {
      const auto nodes = cut.nodes_of(e);
      const std::size_t corners = cut.corners_of(e).size();
      for (std::size_t k = 0; k < corners; ++k)
        sides.push_back({nodes[k], nodes[(k + 1) % corners], nodes[corners + k]});
    }
    std::sort(sides.begin(), sides.end(), [](const auto& a, const auto& b) { return a[2] < b[2]; });
    sides.erase(std::unique(sides.begin(), sides.end(), [](const auto& a, const auto& b) { return a[2] == b[2]; }),
                sides.end());
    parallel_blocks(sides.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t i = begin; i < end; ++i) {
        const auto& [a, b, middle] = sides[i];
        const NodePair side = sorted(own[a], own[b]);
        const Vec3 halfway = 0.5 * (cut.points[a] + cut.points[b]);
        if (const auto on = curves_.place(own[a], own[b], 0.5))
          cut.points[middle] = *on;
        else if (const auto feature = features_.find(side);
                 feature != features_.end() && (feature->second & (border | crease | grouped)) != 0)
          cut.points[middle] = curves_.nearest_kept(halfway);
        else
          cut.points[middle] = locator.nearest(halfway).point;
      }
    });
  }

 private:
  static constexpr double hair = 0.01;       // of a side
  static constexpr double straight = 175.0;  // degrees; what bends more is a corner
  enum Feature : unsigned { border = 1, crease = 2, grouped = 4, line = 8 };

  /// Sides between elements of which one is in a group and the other is not.
  void sides_of_element_groups() {
    const EdgeTable edges = mesh::edges(surface_);
    std::vector<std::uint64_t> in(surface_.element_count(), 0);
    std::uint64_t number = 0;
    for (const Group& group : surface_.groups)
      if (group.dimension == 2) {
        const std::uint64_t mark = ++number * 0x9E3779B97F4A7C15ull;
        for (const ElementIndex e : group.elements) in[e] += mark;
      }
    for (std::size_t j = 0; j < edges.size(); ++j)
      if (edges.first[j + 1] - edges.first[j] > 2) features_[edges.nodes[j]] |= border;  // a junction
    for (std::size_t j = 0; j < edges.size(); ++j)
      for (std::uint32_t u = edges.first[j] + 1; u < edges.first[j + 1]; ++u)
        if (in[edges.uses[u].element] != in[edges.uses[edges.first[j]].element]) features_[edges.nodes[j]] |= grouped;
  }

  /// Where a line of sides bends or forks, its node stays.
  void mark_features() {
    std::map<NodeIndex, std::vector<NodeIndex>> at;
    for (const auto& [side, what] : features_) {
      at[side[0]].push_back(side[1]);
      at[side[1]].push_back(side[0]);
    }
    for (const auto& [n, others] : at)
      if (others.size() != 2 || angle_at(points_[n], points_[others[0]], points_[others[1]]) < straight)
        fixed_.insert(n);
  }

  std::map<NodeIndex, std::vector<NodeIndex>> neighbours_of_crossed(std::size_t i) const {
    const std::vector<double>& level = levels_[i];
    std::map<NodeIndex, std::vector<NodeIndex>> out;
    for (const auto& corners : cells_.corners)
      for (std::size_t k = 0; k < corners.size(); ++k) {
        const NodeIndex a = corners[k], b = corners[(k + 1) % corners.size()];
        if (!(level[a] * level[b] < 0.0)) continue;
        out[a].push_back(b);
        out[b].push_back(a);
      }
    return out;
  }

  /// Nodes near the line move onto it along a side, the nearest first, where that keeps features and earlier lines and
  /// folds no element.
  void slide(std::size_t i) {
    std::vector<double>& level = levels_[i];
    struct Move {
      double share;
      NodeIndex node, to;
    };
    std::vector<Move> moves;
    for (const auto& [n, others] : neighbours_of_crossed(i)) {
      if (fixed_.count(n)) continue;
      for (const NodeIndex m : others) {
        const double share = level[n] / (level[n] - level[m]);
        if (share < slide_ && keeps(n, m)) moves.push_back({share, n, m});
      }
    }
    std::sort(moves.begin(), moves.end(), [](const Move& a, const Move& b) {
      return std::tie(a.share, a.node, a.to) < std::tie(b.share, b.node, b.to);
    });
    std::map<NodeIndex, std::vector<std::size_t>> cells_at;
    std::set<NodeIndex> wanted;
    for (const Move& move : moves) wanted.insert(move.node);
    for (std::size_t c = 0; c < cells_.corners.size(); ++c)
      for (const NodeIndex n : cells_.corners[c])
        if (wanted.count(n)) cells_at[n].push_back(c);
    for (const Move& move : moves) {
      if (level[move.node] == 0.0 || !(level[move.node] * level[move.to] < 0.0)) continue;
      const double share = level[move.node] / (level[move.node] - level[move.to]);
      const Vec3 before = points_[move.node];
      double least_before = 180.0, least_after = 180.0;
      for (const std::size_t c : cells_at[move.node])
        least_before = std::min(least_before, least_angle(points_, cells_.corners[c]));
      const auto on = curves_.place(move.node, move.to, share);
      points_[move.node] = on ? *on : Vec3(before + share * (points_[move.to] - before));
      bool good = true;
      for (const std::size_t c : cells_at[move.node]) {
        least_after = std::min(least_after, least_angle(points_, cells_.corners[c]));
        good = good && convex(cells_.corners[c]);
      }
      if (!good || least_after < std::min(15.0, least_before)) {
        points_[move.node] = before;
        continue;
      }
      for (std::size_t j = 0; j < levels_.size(); ++j)
        levels_[j][move.node] = (1.0 - share) * levels_[j][move.node] + share * levels_[j][move.to];
      level[move.node] = 0.0;
      slid_.insert(move.node);
      std::vector<NodeIndex> others;
      for (const std::size_t c : cells_at[move.node])
        others.insert(others.end(), cells_.corners[c].begin(), cells_.corners[c].end());
      curves_.slide(move.node, move.to, share, others);
    }
    // A line that passes a node which may not move by a hair's breadth goes through it: another line made it there, or
    // it is a corner.
    for (const auto& [n, others] : neighbours_of_crossed(i)) {
      if (level[n] == 0.0) continue;
      double nearest = 1.0;
      for (const NodeIndex m : others)
        if (level[n] * level[m] < 0.0) nearest = std::min(nearest, level[n] / (level[n] - level[m]));
      if (nearest < hair) level[n] = 0.0;
    }
  }

  /// Whether a node that moves towards another stays on every feature that it lies on.
  bool keeps(NodeIndex n, NodeIndex towards) const {
    unsigned mine = 0u;
    for (const auto& [pair, what] : feature_at(n)) mine |= what;
    const auto side = features_.find(sorted(n, towards));
    const unsigned along = side == features_.end() ? 0u : side->second;
    return (mine & ~along) == 0u;
  }
  std::vector<std::pair<NodePair, unsigned>> feature_at(NodeIndex n) const {
    std::vector<std::pair<NodePair, unsigned>> out;
    if (feature_nodes_.empty())
      for (const auto& [side, what] : features_)
        for (const NodeIndex node : side) feature_nodes_.emplace(node, std::pair(side, what));
    const auto [begin, end] = feature_nodes_.equal_range(n);
    for (auto it = begin; it != end; ++it) out.push_back(it->second);
    return out;
  }

  bool convex(const std::vector<NodeIndex>& corners) const {
    const std::size_t n = corners.size();
    Vec3 normal = Vec3::Zero();
    for (std::size_t k = 1; k + 1 < n; ++k)
      normal += (points_[corners[k]] - points_[corners[0]]).cross(points_[corners[k + 1]] - points_[corners[0]]);
    for (std::size_t k = 0; k < n; ++k) {
      const Vec3 in = points_[corners[k]] - points_[corners[(k + n - 1) % n]],
                 out = points_[corners[(k + 1) % n]] - points_[corners[k]];
      if (!(in.cross(out).dot(normal) > 0.02 * in.norm() * out.norm() * normal.norm())) return false;
    }
    return true;
  }

  /// A node on a side where the line crosses it.
  NodeIndex crossing(std::size_t i, NodeIndex a, NodeIndex b) {
    const NodePair side = sorted(a, b);
    const auto [found, is_new] = crossings_.try_emplace(side, static_cast<NodeIndex>(points_.size()));
    if (!is_new) return found->second;
    const double s = levels_[i][side[0]] / (levels_[i][side[0]] - levels_[i][side[1]]);
    points_.push_back(points_[side[0]] + s * (points_[side[1]] - points_[side[0]]));
    if (const auto on = curves_.place(side[0], side[1], s)) {
      points_.back() = *on;
      curves_.part(side[0], side[1], found->second, s);
    }
    for (std::vector<double>& level : levels_) level.push_back((1.0 - s) * level[side[0]] + s * level[side[1]]);
    levels_[i].back() = 0.0;
    const auto feature = features_.find(side);
    if (feature != features_.end()) {
      const unsigned what = feature->second;
      features_.erase(feature);
      features_[sorted(side[0], found->second)] |= what;
      features_[sorted(found->second, side[1])] |= what;
      parted_[side] = found->second;
    }
    return found->second;
  }

  /// Parts every element that the line crosses.
  void split(std::size_t i) {
    const std::vector<double>& level = levels_[i];
    crossings_.clear();
    feature_nodes_.clear();
    Cells out;
    const auto keep = [&](std::vector<NodeIndex> corners, ElementIndex from) {
      out.corners.push_back(std::move(corners));
      out.from.push_back(from);
    };
    for (std::size_t c = 0; c < cells_.corners.size(); ++c) {
      const std::vector<NodeIndex> corners = cells_.corners[c];
      const ElementIndex from = cells_.from[c];
      bool in = false, beyond = false;
      for (const NodeIndex n : corners) (level[n] < 0.0 ? in : level[n] > 0.0 ? beyond : in) |= level[n] != 0.0;
      if (!in || !beyond) {
        keep(corners, from);
        continue;
      }
      // Walk round: corners of either side, and where the line goes in and out.
      std::vector<NodeIndex> below, above;
      for (std::size_t k = 0; k < corners.size(); ++k) {
        const NodeIndex a = corners[k], b = corners[(k + 1) % corners.size()];
        if (level[a] <= 0.0) below.push_back(a);
        if (level[a] >= 0.0) above.push_back(a);
        if (level[a] * level[b] < 0.0) {
          const NodeIndex n = crossing(i, a, b);
          below.push_back(n);
          above.push_back(n);
        }
      }
      split_.insert(from);
      for (const auto& part : {below, above}) add_parts(part, from, keep);
    }
    cells_ = std::move(out);
    // The line itself is kept by all later ones.
    for (const auto& corners : cells_.corners)
      for (std::size_t k = 0; k < corners.size(); ++k) {
        const NodeIndex a = corners[k], b = corners[(k + 1) % corners.size()];
        if (levels_[i][a] == 0.0 && levels_[i][b] == 0.0) features_[sorted(a, b)] |= line << i % 24;
      }
    feature_nodes_.clear();
  }

  /// A convex polygon as triangles and quadrilaterals of good shape.
  template <class Keep>
  void add_parts(const std::vector<NodeIndex>& polygon, ElementIndex from, Keep keep) {
    const std::size_t n = polygon.size();
    if (n < 3) return;
    if (n == 3 || (n == 4 && convex(polygon))) return keep(polygon, from);
    // Cut off one triangle (of four corners) or a quadrilateral (of more) so that the smallest angle is largest.
    const std::size_t cut_off = n == 4 ? 3 : n == 5 ? 4 : 4;
    double best = -1.0;
    std::vector<NodeIndex> first, rest;
    for (std::size_t start = 0; start < n; ++start) {
      std::vector<NodeIndex> a, b;
      for (std::size_t k = 0; k < cut_off; ++k) a.push_back(polygon[(start + k) % n]);
      for (std::size_t k = cut_off - 1; k <= n; ++k) b.push_back(polygon[(start + k) % n]);
      if (a.size() == 4 && !convex(a)) continue;
      const double worst = std::min(least_angle(points_, a), least_angle(points_, b));
      if (worst > best) best = worst, first = a, rest = b;
    }
    if (first.empty()) {  // nothing but triangles will do
      for (std::size_t k = 1; k + 1 < n; ++k) keep({polygon[0], polygon[k], polygon[k + 1]}, from);
      return;
    }
    keep(first, from);
    add_parts(rest, from, keep);
  }

  /// Elements with an angle sharper than this lose a node, where that can be.
  static constexpr double sharp = 10.0;  // degrees

  /// Takes out nodes of elements that are too sharp: one end of their shortest side becomes the other, if it stays on
  /// its lines, borders and creases and the elements round it become no sharper. \returns whether any was.
  bool join_slivers() {
    std::set<std::size_t> slivers;
    for (std::size_t c = 0; c < cells_.corners.size(); ++c)
      if (least_angle(points_, cells_.corners[c]) < sharp) slivers.insert(c);
    if (slivers.empty()) return false;
    std::set<NodeIndex> wanted;
    for (const std::size_t c : slivers) wanted.insert(cells_.corners[c].begin(), cells_.corners[c].end());
    std::map<NodeIndex, std::vector<std::size_t>> cells_at;
    for (std::size_t c = 0; c < cells_.corners.size(); ++c)
      for (const NodeIndex n : cells_.corners[c])
        if (wanted.count(n)) cells_at[n].push_back(c);
    std::set<std::size_t> gone, touched;
    bool any = false;
    for (const std::size_t c : slivers) {
      if (touched.count(c)) continue;
      const std::vector<NodeIndex> corners = cells_.corners[c];
      std::vector<std::tuple<double, NodeIndex, NodeIndex>> sides;
      for (std::size_t k = 0; k < corners.size(); ++k) {
        const NodeIndex a = corners[k], b = corners[(k + 1) % corners.size()];
        const double size = (points_[a] - points_[b]).norm();
        sides.emplace_back(size, a, b);
        sides.emplace_back(size, b, a);
      }
      std::sort(sides.begin(), sides.end());
      for (std::size_t k = 0; k < std::min<std::size_t>(4, sides.size()); ++k) {
        const auto& [size, out, into] = sides[k];
        if (!fixed_.count(out) && keeps(out, into) && join(out, into, cells_at[out], gone, touched)) {
          any = true;
          break;
        }
      }
    }
    Cells left;
    for (std::size_t c = 0; c < cells_.corners.size(); ++c)
      if (!gone.count(c)) {
        left.corners.push_back(std::move(cells_.corners[c]));
        left.from.push_back(cells_.from[c]);
      }
    cells_ = std::move(left);
    feature_nodes_.clear();
    return any;
  }

  bool join(NodeIndex out, NodeIndex into, const std::vector<std::size_t>& cells, std::set<std::size_t>& gone,
            std::set<std::size_t>& touched) {
    double before = 180.0, after = 180.0;
    std::vector<std::vector<NodeIndex>> changed;
    for (const std::size_t c : cells) {
      if (touched.count(c)) return false;  // in the next pass
      before = std::min(before, least_angle(points_, cells_.corners[c]));
      std::vector<NodeIndex> corners;
      for (const NodeIndex n : cells_.corners[c]) {
        const NodeIndex kept = n == out ? into : n;
        if (std::find(corners.begin(), corners.end(), kept) == corners.end()) corners.push_back(kept);
      }
      if (corners.size() >= 3) {
        if (!convex(corners)) return false;
        after = std::min(after, least_angle(points_, corners));
        for (const std::vector<double>& level : levels_) {
          bool below = false, above = false;
          for (const NodeIndex n : corners) below = below || level[n] < 0.0, above = above || level[n] > 0.0;
          if (below && above) return false;
        }
      }
      changed.push_back(std::move(corners));
    }
    if (after <= before) return false;
    // An element of the old surface may not vanish with its id.
    std::map<ElementIndex, int> parts;
    for (std::size_t k = 0; k < cells.size(); ++k)
      if (changed[k].size() < 3) ++parts[cells_.from[cells[k]]];
    if (!parts.empty()) {
      for (std::size_t c = 0; c < cells_.from.size(); ++c)
        if (const auto found = parts.find(cells_.from[c]); found != parts.end() && !gone.count(c)) --found->second;
      for (const auto& [from, left] : parts)
        if (left >= 0) return false;
    }
    for (std::size_t k = 0; k < cells.size(); ++k) {
      touched.insert(cells[k]);
      if (changed[k].size() < 3)
        gone.insert(cells[k]);
      else
        cells_.corners[cells[k]] = std::move(changed[k]);
    }
    joined_[out] = into;
    std::vector<std::pair<NodePair, unsigned>> sides;
    for (const auto& [side, what] : feature_at(out)) sides.emplace_back(side, what);
    for (const auto& [side, what] : sides) {
      features_.erase(side);
      const NodeIndex other = side[0] == out ? side[1] : side[0];
      if (other != into) features_[sorted(other, into)] |= what;
    }
    feature_nodes_.clear();
    return true;
  }

  /// What became of a node.
  NodeIndex now(NodeIndex n) const {
    for (auto found = joined_.find(n); found != joined_.end(); found = joined_.find(n)) n = found->second;
    return n;
  }

  /// The nodes along what was a side of the old surface, its ends included.
  std::vector<NodeIndex> along(NodeIndex a, NodeIndex b) const {
    const auto found = parted_.find(sorted(a, b));
    if (found == parted_.end()) return {a, b};
    std::vector<NodeIndex> out = along(a, found->second);
    const std::vector<NodeIndex> rest = along(found->second, b);
    out.insert(out.end(), rest.begin() + 1, rest.end());
    return out;
  }

  Surface linear() const {
    Surface out;
    out.file = surface_.file;
    // Corner nodes only; middle ones come back with raised_to_quadratic().
    std::vector<NodeIndex> number(points_.size(), no_index);
    for (const auto& corners : cells_.corners)
      for (const NodeIndex n : corners) number[n] = 0;
    std::int64_t last_node = 0, last_element = 0;
    for (const std::int64_t id : surface_.node_ids) last_node = std::max(last_node, id);
    for (const std::int64_t id : surface_.element_ids) last_element = std::max(last_element, id);
    for (NodeIndex n = 0; n < points_.size(); ++n) {
      if (number[n] == no_index) continue;
      number[n] = static_cast<NodeIndex>(out.points.size());
      out.points.push_back(points_[n]);
      out.node_ids.push_back(n < surface_.points.size() ? surface_.node_ids[n] : ++last_node);
    }
    out.first.push_back(0);
    std::vector<std::vector<ElementIndex>> parts(surface_.element_count());
    const bool turned = !surface_.turned.empty();
    for (std::size_t c = 0; c < cells_.corners.size(); ++c) {
      const ElementIndex from = cells_.from[c];
      out.element_ids.push_back(parts[from].empty() ? surface_.element_ids[from] : ++last_element);
      parts[from].push_back(static_cast<ElementIndex>(c));
      out.shapes.push_back(cells_.corners[c].size() == 3 ? Shape::triangle3 : Shape::quadrilateral4);
      for (const NodeIndex n : cells_.corners[c]) out.nodes.push_back(number[n]);
      out.first.push_back(static_cast<std::uint32_t>(out.nodes.size()));
      if (turned) out.turned.push_back(surface_.turned[from]);
    }
    for (const Group& group : surface_.groups) {
      Group kept{.name = group.name, .dimension = group.dimension, .points = {}, .edges = {}, .elements = {}};
      for (const NodeIndex n : group.points) kept.points.push_back(number[n]);
      for (const Edge& edge : group.edges) {
        const std::vector<NodeIndex> nodes = along(edge.first, edge.second);
        for (std::size_t k = 1; k < nodes.size(); ++k)
          if (const NodeIndex a = now(nodes[k - 1]), b = now(nodes[k]); a != b)
            kept.edges.push_back({number[a], number[b]});
      }
      for (const ElementIndex e : group.elements)
        kept.elements.insert(kept.elements.end(), parts[e].begin(), parts[e].end());
      std::sort(kept.elements.begin(), kept.elements.end());
      out.groups.push_back(std::move(kept));
    }
    return out;
  }

  const Surface& surface_;
  std::vector<std::vector<double>> levels_;
  double slide_;
  std::vector<Vec3> points_;
  Cells cells_;
  std::map<NodePair, unsigned> features_;
  mutable std::multimap<NodeIndex, std::pair<NodePair, unsigned>> feature_nodes_;
  std::set<NodeIndex> fixed_;
  std::map<NodePair, NodeIndex> crossings_, parted_;
  std::map<NodeIndex, NodeIndex> joined_;
  OldCurves curves_;
  std::size_t lines_ = 0;
  std::set<NodeIndex> slid_;
  std::set<ElementIndex> split_;
};

}  // namespace

Surface cut(const Surface& surface, const Geometry& geometry, std::vector<std::vector<double>> levels,
            const CutOptions& options, CutReport& report) {
  if (!(options.slide > 0.0 && options.slide <= 0.4))
    throw std::invalid_argument("CutOptions::slide is a part of a side, above 0 and up to 0.4");
  Cutter cutter(surface, geometry, std::move(levels), options);
  cutter.cut();
  Surface out = cutter.result(report);
  const bool quadratic = std::any_of(surface.shapes.begin(), surface.shapes.end(), is_quadratic);
  if (!quadratic) return out;
  for (;;) {
    out = raised_to_quadratic(out);
    cutter.bend(out);
    // What was just convex between straight sides may not be so between bent ones.
    if (!cutter.part(tangled(out, mesh::geometry(out)))) return out;
    out = cutter.result(report);
  }
}

}  // namespace bordado::mesh
