// Distance along the surface.
#include <bordado/mesh/straight.hpp>

#include <bordado/base/work.hpp>
#include <bordado/mesh/locate.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <queue>

namespace bordado::mesh {

namespace {

constexpr double infinity = std::numeric_limits<double>::infinity();

class Front {
 public:
  Front(const Surface& surface, double limit)
      : surface_(surface),
        limit_(limit),
        at_nodes_(elements_at_nodes(surface)),
        distance_(surface.points.size(), infinity),
        away_(surface.points.size(), Vec3::Zero()),
        from_(surface.points.size(), no_index),
        state_(surface.points.size(), State::open) {
    find_sharp();
  }

  void start(NodeIndex node, double distance, const Vec3& away, ElementIndex from) {
    if (!(distance < distance_[node])) return;
    distance_[node] = distance;
    away_[node] = away;
    from_[node] = from;
    state_[node] = State::source;
    open_.push({distance, node});
  }

  /// Every corner of elements that sources lie on, at its distance from these.
  void start(std::vector<LinePiece> pieces, EndsAtBorder ends) {
    straight_.emplace(surface_, at_nodes_, std::move(pieces), ends);
    straight_->start([this](NodeIndex n, double distance, const Vec3& away, ElementIndex element) {
      start(n, distance, away, element);
    });
  }

  const NodeTable& at_nodes() const { return at_nodes_; }

  /// Nearest nodes first. Where elements are obtuse the front may reach a node behind an edge before it has reached
  /// both ends of the edge: such nodes are worked out again at the end.
  std::vector<double> run() {
    while (!open_.empty()) {
      const auto [distance, node] = open_.top();
      open_.pop();
      if (distance > distance_[node]) continue;
      if (distance > limit_) break;
      if (state_[node] == State::open) state_[node] = State::settled;
      for (const ElementIndex e : at_nodes_.of(node)) spread(node, e);
    }
    settle_again();
    if (straight_) straight_->straighten(distance_, away_);
    for (ElementIndex e = 0; e < surface_.element_count(); ++e) {
      const auto nodes = surface_.nodes_of(e);
      const std::size_t corners = corner_count(surface_.shapes[e]);
      for (std::size_t k = corners; k < nodes.size(); ++k)
        distance_[nodes[k]] = between(nodes[k - corners], nodes[(k - corners + 1) % corners]);
    }
    return std::move(distance_);
  }

 private:
  /// Half way along an edge, by the cubic of across().
  double between(NodeIndex a, NodeIndex b) const {
    const double da = distance_[a], db = distance_[b];
    if (da == infinity || db == infinity) return infinity;
    const Vec3 along = surface_.points[b] - surface_.points[a];
    const double square = 0.5 * (da * da + db * db) + 0.25 * (da * away_[a] - db * away_[b]).dot(along);
    return std::clamp(std::sqrt(std::max(0.0, square)), 0.5 * std::abs(da - db), 0.5 * (da + db + along.norm()));
  }

  /// At a sharp node the direction of one element says nothing about the edges of another.
  void find_sharp() {
    const std::size_t nodes = surface_.points.size();
    sharp_.assign(nodes, 0);
    const double least = Angle::degrees(20).cos();
    parallel_blocks(nodes, [&](std::size_t begin, std::size_t end) {
      for (std::size_t n = begin; n < end; ++n) {
        const auto elements = at_nodes_.of(static_cast<NodeIndex>(n));
        Vec3 first = Vec3::Zero();
        for (const ElementIndex e : elements) {
          const auto c = surface_.corners_of(e);
          const Vec3 normal = (surface_.points[c[2]] - surface_.points[c[0]])
                                  .cross(surface_.points[c[c.size() - 1]] - surface_.points[c[1]]);
          const double length = normal.norm();
          if (!(length > 0.0)) continue;
          if (first.isZero()) first = normal / length;
          if (std::abs(first.dot(normal)) < least * length) sharp_[n] = 1;
        }
      }
    });
  }

  void offer(NodeIndex node, double distance, const Vec3& from, ElementIndex element) {
    // Rounding must not send a node round again and again.
    if (state_[node] == State::source || !(distance < distance_[node] * (1.0 - 1e-12))) return;
    if (state_[node] == State::settled) {
      state_[node] = State::open;
      late_.push_back(node);
    }
    take(node, distance, from, element);
    open_.push({distance, node});
  }

  void take(NodeIndex node, double distance, const Vec3& from, ElementIndex element) {
    const Vec3 way = surface_.points[node] - from;
    const double length = way.norm();
    distance_[node] = distance;
    away_[node] = length > 0.0 ? Vec3(way / length) : Vec3(Vec3::Zero());
    from_[node] = element;
  }

  /// Nodes that were found nearer after they had gone through may have misled those behind them, to distances too
  /// small as well as too large: works all of these out afresh from their neighbours, until nothing changes.
  void settle_again() {
    std::vector<std::uint8_t> waiting(distance_.size(), 0);
    std::priority_queue<Open, std::vector<Open>, std::greater<>> queue;
    const auto ask_neighbours = [&](NodeIndex node) {
      for (const ElementIndex e : at_nodes_.of(node))
        for (const NodeIndex n : surface_.corners_of(e))
          if (n != node && state_[n] != State::source && distance_[n] < infinity && !waiting[n]) {
            waiting[n] = 1;
            queue.push({distance_[n], n});
          }
    };
    for (const NodeIndex node : late_) ask_neighbours(node);
    for (std::size_t left = 20 * distance_.size(); !queue.empty() && left > 0; --left) {
      const NodeIndex node = queue.top().node;
      queue.pop();
      waiting[node] = 0;
      const double before = distance_[node];
      const Vec3 away = away_[node];
      work_out(node);
      if (std::abs(distance_[node] - before) > 1e-9 * before || (away_[node] - away).squaredNorm() > 1e-12)
        ask_neighbours(node);
    }
  }

  void work_out(NodeIndex c) {
    double best = infinity;
    Vec3 through = Vec3::Zero();
    ElementIndex element = no_index;
    const auto better = [&](double distance, const Vec3& from, ElementIndex e) {
      if (!(distance < best)) return;
      best = distance;
      through = from;
      element = e;
    };
    for (const ElementIndex e : at_nodes_.of(c)) {
      const auto corners = surface_.corners_of(e);
      for (std::size_t k = 0; k < corners.size(); ++k) {
        const NodeIndex a = corners[k], b = corners[(k + 1) % corners.size()];
        if (a != c) better(distance_[a] + (surface_.points[c] - surface_.points[a]).norm(), surface_.points[a], e);
        if (a == c || b == c || distance_[a] == infinity || distance_[b] == infinity) continue;
        if (const auto crossing = across(a, b, c, best)) better(crossing->distance, crossing->point, e);
      }
    }
    if (best < infinity) take(c, best, through, element);
  }

  void spread(NodeIndex a, ElementIndex element) {
    const auto corners = surface_.corners_of(element);
    const std::size_t count = corners.size();
    std::size_t at = 0;
    while (corners[at] != a) ++at;
    const double d = distance_[a];
    for (std::size_t step = 1; step < count; ++step) {
      const NodeIndex c = corners[(at + step) % count];
      if (distance_[c] <= d) continue;
      offer(c, d + (surface_.points[c] - surface_.points[a]).norm(), surface_.points[a], element);
    }
    // Across each side that begins or ends here, to the other corners.
    for (const std::size_t side : {at, (at + count - 1) % count}) {
      const NodeIndex b = corners[side == at ? (at + 1) % count : side];
      if (state_[b] == State::open) continue;  // its slope may still be that of a detour
      for (std::size_t step = 0; step < count; ++step) {
        const NodeIndex c = corners[step];
        if (c == a || c == b) continue;
        if (const auto crossing = across(a, b, c, distance_[c])) offer(c, crossing->distance, crossing->point, element);
      }
    }
  }

  /// Slope of the distance along the unit vector of an edge at one of its nodes, where it is known.
  std::optional<double> slope(NodeIndex node, NodeIndex other, const Vec3& along) const {
    if (sharp_[node] && distance_[node] > 0.0) {
      if (from_[node] == no_index) return std::nullopt;
      const auto corners = surface_.corners_of(from_[node]);
      if (std::find(corners.begin(), corners.end(), other) == corners.end()) return std::nullopt;
    }
    return away_[node].dot(along);
  }

  /// The nearest way to c that crosses the side between a and b. Along the side the squared distance is a cubic: what
  /// it and its slope are at both ends. That is exact for a point or a straight line as source on a plane.
  /// Nothing where it cannot be shorter than `enough`.
  struct Crossing {
    double distance;
    Vec3 point;
  };
  std::optional<Crossing> across(NodeIndex a, NodeIndex b, NodeIndex c, double enough) const {
    const Vec3 &pa = surface_.points[a], &pc = surface_.points[c];
    const Vec3 side = surface_.points[b] - pa;
    const double length = side.norm();
    if (!(length > 0.0)) return std::nullopt;
    const Vec3 along = side / length;
    const double da = distance_[a], db = distance_[b];
    if (enough <= 0.5 * (da + db - length)) return std::nullopt;  // no point of the side is nearer than that
    const double ua = da * da, ub = db * db;
    const auto sa = slope(a, b, along), sb = slope(b, a, along);
    double va, vb;  // slopes of the square
    const double chord = (ub - ua) / length;
    if (sa && sb) {
      va = 2 * da * *sa;
      vb = 2 * db * *sb;
    } else if (sa || sb) {  // a parabola through both ends
      va = sa ? 2 * da * *sa : 2 * chord - 2 * db * *sb;
      vb = sb ? 2 * db * *sb : 2 * chord - va;
    } else {  // the distance itself is linear
      const double m = (db - da) / length;
      va = 2 * da * m;
      vb = 2 * db * m;
    }
    // U(s) = ua + va s + q s^2 + r s^3
    const double r = (va + vb - 2 * chord) / (length * length), q = (3 * chord - 2 * va - vb) / length;
    const double foot = (pc - pa).dot(along), height = ((pc - pa) - foot * along).norm();
    const double mean = std::clamp((db - da) / length, -0.999, 0.999);
    double s = std::clamp(foot - mean * height / std::sqrt(1 - mean * mean), 0.0, length);
    double low = 0.0, high = length;  // the sum falls at the one and rises at the other
    for (int step = 0; step < 24; ++step) {
      const double u = ua + s * (va + s * (q + s * r)), u1 = va + s * (2 * q + s * 3 * r), u2 = 2 * q + 6 * r * s;
      if (!(u > 0.0)) break;
      const double d = std::sqrt(u), d1 = u1 / (2 * d), d2 = (u2 - 2 * d1 * d1) / (2 * d);
      const double way = std::hypot(height, s - foot);
      if (!(way > 0.0)) break;
      const double slope_of_sum = d1 + (s - foot) / way;
      const double curvature = d2 + height * height / (way * way * way);
      (slope_of_sum > 0.0 ? high : low) = s;
      const double newton = s - slope_of_sum / curvature;
      const double next = curvature > 0.0 && newton > low && newton < high ? newton : 0.5 * (low + high);
      const bool there = std::abs(next - s) < 1e-7 * length;  // the sum is flat here: its error is the square of that
      s = next;
      if (there) break;
    }
    const double square = std::max(0.0, ua + s * (va + s * (q + s * r)));
    // No point of the side is nearer to the source than either end allows.
    const double on_side = std::max({std::sqrt(square), da - s, db - (length - s)});
    return Crossing{on_side + std::hypot(height, s - foot), pa + s * along};
  }

  struct Open {
    double distance;
    NodeIndex node;
    bool operator>(const Open& other) const {
      return distance > other.distance || (distance == other.distance && node > other.node);
    }
  };

  const Surface& surface_;
  double limit_;
  NodeTable at_nodes_;
  std::vector<double> distance_;
  std::vector<Vec3> away_;          ///< unit, the way the distance grows, in the element it came through
  std::vector<ElementIndex> from_;  ///< that element
  enum class State : std::uint8_t { open, settled, source };
  std::vector<State> state_;
  std::vector<NodeIndex> late_;      ///< found nearer after they had been settled
  std::vector<std::uint8_t> sharp_;  ///< elements at the node lie in different planes
  std::optional<Straight> straight_;
  std::priority_queue<Open, std::vector<Open>, std::greater<>> open_;
};

double mean_edge(const Surface& surface) {
  double sum = 0.0;
  std::size_t count = 0;
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    const auto c = surface.corners_of(e);
    sum += (surface.points[c[1]] - surface.points[c[0]]).norm() + (surface.points[c[2]] - surface.points[c[1]]).norm();
    count += 2;
  }
  return count > 0 ? sum / static_cast<double>(count) : 0.0;
}

std::vector<double> measured(const Surface& surface, const Sources& sources, double limit, EndsAtBorder ends) {
  Front front(surface, limit);
  std::vector<LinePiece> pieces;
  const auto add = [&](const Vec3& a, const Vec3& b, ElementIndex element) {
    if (element != no_index) pieces.push_back({a, b, element});
  };
  const NodeTable& at_nodes = front.at_nodes();
  const auto source = [&](NodeIndex n) {
    front.start(n, 0.0, Vec3::Zero(), no_index);
    if (!at_nodes.of(n).empty()) add(surface.points[n], surface.points[n], at_nodes.of(n).front());
  };
  for (const NodeIndex n : sources.nodes) source(n);
  for (const Curve& curve : sources.curves) {
    for (const NodeIndex n : curve.nodes) source(n);
    for (std::size_t k = 0; k + (curve.closed ? 0 : 1) < curve.nodes.size(); ++k) {
      const NodeIndex a = curve.nodes[k], b = curve.nodes[(k + 1) % curve.nodes.size()];
      for (const ElementIndex e : at_nodes.of(a)) {
        const auto corners = surface.corners_of(e);
        if (std::find(corners.begin(), corners.end(), b) != corners.end()) add(surface.points[a], surface.points[b], e);
      }
    }
  }
  const bool anywhere = !sources.points.empty() || std::any_of(sources.curves.begin(), sources.curves.end(),
                                                               [](const Curve& c) { return c.nodes.empty(); });
  std::optional<Locator> locator;
  if (anywhere) locator.emplace(surface);
  for (const Vec3& point : sources.points) {
    const Locator::Found found = locator->nearest(point);
    add(found.point, found.point, found.element);
  }
  const double spacing = 0.25 * mean_edge(surface);
  for (const Curve& curve : sources.curves) {
    if (!curve.nodes.empty() || curve.points.empty()) continue;
    // Its feet on the surface, closer together than nodes are.
    std::vector<Locator::Found> feet;
    const std::size_t count = curve.points.size() - (curve.closed ? 0 : 1);
    feet.push_back(locator->nearest(curve.points.front()));
    for (std::size_t k = 0; k < count; ++k) {
      const Vec3 &a = curve.points[k], &b = curve.points[(k + 1) % curve.points.size()];
      const double wanted = spacing > 0.0 ? (b - a).norm() / spacing : 1.0;
      const auto steps = static_cast<std::size_t>(std::clamp(std::ceil(wanted), 1.0, 1e6));
      for (std::size_t i = 1; i <= steps; ++i)
        feet.push_back(locator->nearest(a + (b - a) * (static_cast<double>(i) / static_cast<double>(steps))));
    }
    if (feet.size() == 1) add(feet[0].point, feet[0].point, feet[0].element);
    for (std::size_t k = 0; k + 1 < feet.size(); ++k) {
      add(feet[k].point, feet[k + 1].point, feet[k].element);
      if (feet[k + 1].element != feet[k].element) add(feet[k].point, feet[k + 1].point, feet[k + 1].element);
    }
  }
  if (!pieces.empty()) front.start(std::move(pieces), ends);
  return front.run();
}

}  // namespace

std::vector<double> distances(const Surface& surface, const Sources& sources, double limit) {
  return measured(surface, sources, limit, EndsAtBorder::are_ends);
}

std::vector<double> distances_from_border(const Surface& surface, std::span<const Curve> lines, double limit) {
  return measured(surface, {.curves = {lines.begin(), lines.end()}}, limit, EndsAtBorder::go_on);
}

}  // namespace bordado::mesh
