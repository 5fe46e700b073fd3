#include "margin.hpp"
#include "step.hpp"

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>
#include <limits>

namespace bordado::drape {

namespace {

using mesh::ElementIndex;

/// A side of an element that nothing follows; `source` of the border's own sides it lies before.
struct FrontSide {
  ElementIndex element = mesh::no_index;
  unsigned side = 0;
  std::size_t source = 0;
};
struct FrontNode {
  Vec3 point, normal;
  std::size_t before, after;  ///< the border's own sides that it lies between
};
struct Front {
  std::vector<FrontNode> nodes;
  std::vector<FrontSide> sides;  ///< side k from node k to the next, the surface on its left
  std::size_t size() const { return nodes.size(); }
};

struct Lifted {
  Vec3 point, normal;
};

/// The surface near a node of the border as it would go on: the conic that touches it there and is curved as it is, so that
/// a sphere goes on as that sphere, a cylinder as that cylinder.
struct Osculating {
  Vec3 origin, u, v, w;  ///< w along the normal
  Eigen::Matrix2d bend;  ///< the second fundamental form along u and v
  /// The third terms of the height's series that change along `outwards`: half of x' changes x times the way along it.
  Eigen::Matrix2d changes = Eigen::Matrix2d::Zero();
  Eigen::Vector2d outwards = Eigen::Vector2d::UnitX();  ///< along u and v

  explicit Osculating(const Jet& jet) : origin(jet.origin), w(jet.normal()) {
    u = (jet.u - jet.u.dot(w) * w).normalized();
    v = w.cross(u);
    const auto& t = jet.terms;
    Eigen::Matrix2d second, to;
    second << 2 * t[2], t[3], t[3], 2 * t[4];
    to << u.dot(jet.u), v.dot(jet.u), u.dot(jet.v), v.dot(jet.v);
    bend = to.transpose() * second * to / std::sqrt(1.0 + t[0] * t[0] + t[1] * t[1]);
  }
  Lifted lifted(const Vec3& point) const {
    const Vec3 d = point - origin;
    const Eigen::Vector2d x(d.dot(u), d.dot(v));
    // No more of the third terms than of the second.
    const double most = bend.norm() / std::max(changes.norm(), 1e-300);
    const double by = std::clamp(x.dot(outwards), -most, most);
    const Eigen::Matrix2d own = bend + by * changes;
    const Eigen::Vector2d along = own * x, twice = own * along;
    const double q = x.dot(along), root = std::sqrt(std::max(0.04, 1.0 - along.squaredNorm()));
    const Eigen::Vector2d slope = 2.0 / (1.0 + root) * along + q / (root * (1.0 + root) * (1.0 + root)) * twice +
                                  0.5 * x.dot(changes * x) * outwards;
    return {origin + x.x() * u + x.y() * v + q / (1.0 + root) * w, (w - slope.x() * u - slope.y() * v).normalized()};
  }
};

/// The border that a front begins with.
struct Border {
  std::vector<std::array<Osculating, 2>> ends;  ///< per side, of both its ends
  std::vector<std::size_t> sheet;               ///< per side: a number that changes at sharp edges
  double spacing = 0.0;                         ///< length of its sides in the mean
};

/// Where the surface would go on: as the conics of the border's nodes say, on each side of a sharp edge by itself; or
/// one polynomial over a hole.
class Beyond {
 public:
  explicit Beyond(Border border) : border_(std::move(border)) {}

  bool one_sheet(std::size_t a, std::size_t b) const { return border_.sheet[a] == border_.sheet[b]; }

  Lifted operator()(const Vec3& at, std::size_t source) const {
    if (hole_) return on_hole(at);
    // Sides as far along the border as could count; of many every second or third.
    const std::size_t count = border_.sheet.size();
    const double far = (border_.ends[source][0].origin - at).norm() / border_.spacing;
    const auto reach = static_cast<std::size_t>(std::min(3.0 + 2.5 * far, 0.5 * static_cast<double>(count)));
    const std::size_t stride = 1 + reach / 12;
    const auto each = [&](const auto& with) {
      for (std::size_t k = 0; k <= 2 * reach; k += stride) {
        const std::size_t side = (source + count + k - (reach / stride) * stride) % count;
        if (border_.sheet[side] != border_.sheet[source]) continue;
        for (const Osculating& end : border_.ends[side]) with(end);
      }
    };
    double least = std::numeric_limits<double>::infinity();
    each([&](const Osculating& end) { least = std::min(least, (end.origin - at).squaredNorm()); });
    Vec3 point = Vec3::Zero(), normal = Vec3::Zero();
    double weights = 0.0;
    each([&](const Osculating& end) {
      const double squared = (end.origin - at).squaredNorm();
      if (squared > 4.0 * least) return;
      const double near = least > 0.0 ? least / squared : 1.0, weight = near * near * near;
      const Lifted lifted = end.lifted(at);
      point += weight * lifted.point;
      normal += weight * lifted.normal;
      weights += weight;
    });
    return {point / weights, normal.normalized()};
  }

  /// A front's node: over a sharp edge in the middle of what both sheets say.
  FrontNode node(const Vec3& at, std::size_t before, std::size_t after) const {
    const Lifted one = (*this)(at, after);
    if (hole_ || one_sheet(before, after)) return {one.point, one.normal, before, after};
    const Lifted other = (*this)(at, before);
    return {0.5 * (one.point + other.point), (one.normal + other.normal).normalized(), before, after};
  }

  /// Takes a polynomial of fourth degree through the nodes round a hole, where they lie on one.
  void fill(const mesh::Surface& surface, const Vec3& centre, const Vec3& axis, double radius) {
    u_ = border_.ends.front()[0].origin - centre;
    u_ = (u_ - u_.dot(axis) * axis).normalized();
    v_ = axis.cross(u_);
    w_ = axis, centre_ = centre, radius_ = radius;
    std::vector<Vec3> near;
    for (const Vec3& point : surface.points) {
      const Vec3 d = point - centre;
      if (d.squaredNorm() < 6.25 * radius * radius && std::abs(d.dot(axis)) < 0.8 * d.norm())
        near.push_back(d / radius);
    }
    if (near.size() < 24) return;
    Eigen::MatrixXd rows(static_cast<Eigen::Index>(near.size()), 15);
    Eigen::VectorXd heights(static_cast<Eigen::Index>(near.size()));
    for (std::size_t k = 0; k < near.size(); ++k) {
      rows.row(static_cast<Eigen::Index>(k)) = terms(near[k].dot(u_), near[k].dot(v_)).transpose();
      heights(static_cast<Eigen::Index>(k)) = near[k].dot(w_);
    }
    const Eigen::VectorXd found = rows.colPivHouseholderQr().solve(heights);
    if (!((rows * found - heights).cwiseAbs().maxCoeff() < 0.01)) return;
    quartic_ = found;
    hole_ = true;
  }

 private:
  static Eigen::Matrix<double, 15, 1> terms(double a, double b) {
    Eigen::Matrix<double, 15, 1> out;
    int k = 0;
    for (int degree = 0; degree <= 4; ++degree)
      for (int of_b = 0; of_b <= degree; ++of_b) out(k++) = std::pow(a, degree - of_b) * std::pow(b, of_b);
    return out;
  }
  Lifted on_hole(const Vec3& at) const {
    const Vec3 d = (at - centre_) / radius_;
    const double a = d.dot(u_), b = d.dot(v_), step = 1e-4;
    const auto height = [&](double x, double y) { return terms(x, y).dot(quartic_); };
    const double by_a = (height(a + step, b) - height(a - step, b)) / (2 * step),
                 by_b = (height(a, b + step) - height(a, b - step)) / (2 * step);
    return {centre_ + radius_ * (a * u_ + b * v_ + height(a, b) * w_), (w_ - by_a * u_ - by_b * v_).normalized()};
  }

  Border border_;
  bool hole_ = false;
  Vec3 centre_, u_, v_, w_;
  double radius_ = 0.0;
  Eigen::Matrix<double, 15, 1> quartic_;
};

class Carrier {
 public:
  Carrier(const mesh::Surface& surface, const Fans& fans, std::span<const Jet> jets, double margin, GoesOn how,
          SmoothSurface& out)
      : surface_(surface), fans_(fans), jets_(jets), margin_(margin), how_(how), out_(out), taken_(4 * out.own, 0) {}

  void carry() {
    std::vector<std::array<std::uint32_t, 2>> borders;  // before elements are added behind them
    for (ElementIndex e = 0; e < out_.own; ++e)
      for (unsigned side = 0; side < out_.corners[e]; ++side)
        if (is_border(e, side)) borders.push_back({e, side});
    std::vector<Front> fronts;
    for (const auto& [e, side] : borders)
      if (!taken_[4 * static_cast<std::size_t>(e) + side]) fronts.push_back(loop_from(e, side));
    for (Front& front : fronts) carry_past(std::move(front));
  }

 private:
  std::uint32_t neighbour(ElementIndex e, unsigned side) const {
    return out_.neighbours[4 * static_cast<std::size_t>(e) + side];
  }
  bool is_border(ElementIndex e, unsigned side) const { return neighbour(e, side) == mesh::no_index; }

  /// The border from a side on, round to it; empty where it does not come back.
  Front loop_from(ElementIndex e, unsigned side) {
    Front out;
    while (!taken_[4 * static_cast<std::size_t>(e) + side]) {
      taken_[4 * static_cast<std::size_t>(e) + side] = 1;
      out.sides.push_back({e, side, out.sides.size()});
      // Round the node at the end of this side, to the next side without a neighbour.
      const unsigned end = (side + 1) % out_.corners[e];
      const mesh::NodeIndex node = surface_.corners_of(e)[end];
      side = end;
      for (int turns = 0; !is_border(e, side); ++turns) {
        e = neighbour(e, side);
        const auto corners = surface_.corners_of(e);
        side = static_cast<unsigned>(std::find(corners.begin(), corners.end(), node) - corners.begin());
        if (side == corners.size() || turns > 1000) return {};
      }
    }
    if (out.sides.front().element != e || out.sides.front().side != side) return {};
    return out;
  }

  std::uint32_t fan_at(const FrontSide& side, unsigned end) const {
    return fans_.of_corner[4 * static_cast<std::size_t>(side.element) + (side.side + end) % out_.corners[side.element]];
  }

  /// The conic at a node of the border, beside a side of it.
  Osculating touching(std::uint32_t fan, const Vec3& along) const {
    Osculating out(jets_[fan]);
    std::vector<std::uint32_t> around;
    fans_around(surface_, fans_, fan, 3, around);
    out.outwards = {along.cross(out.w).dot(out.u), along.cross(out.w).dot(out.v)};
    out.outwards.normalize();
    const Eigen::Vector2d beside(-out.outwards.y(), out.outwards.x());
    // A plane through the curvatures of nodes within the border, seen from here.
    Eigen::Matrix3d squares = Eigen::Matrix3d::Zero();
    std::array<Eigen::Matrix2d, 3> products;
    products.fill(Eigen::Matrix2d::Zero());
    double far = 0.0;
    std::vector<std::pair<Eigen::Vector3d, Eigen::Matrix2d>> seen;
    for (const std::uint32_t other : around) {
      if (!fans_.is_round[other]) continue;
      const Osculating there(jets_[other]);
      const Vec3 d = there.origin - out.origin;
      const Eigen::Vector2d x(d.dot(out.u), d.dot(out.v));
      const Vec3 u = carried(out.u, out.w, there.w), v = carried(out.v, out.w, there.w);
      Eigen::Matrix2d turn;
      turn << there.u.dot(u), there.u.dot(v), there.v.dot(u), there.v.dot(v);
      seen.emplace_back(Eigen::Vector3d(1.0, x.dot(out.outwards), x.dot(beside)), turn.transpose() * there.bend * turn);
      far = std::max(far, x.norm());
    }
    for (auto& [row, bend] : seen) {
      row.tail<2>() /= far;
      squares += row * row.transpose();
      for (int k = 0; k < 3; ++k) products[static_cast<std::size_t>(k)] += row[k] * bend;
    }
    const Eigen::LDLT<Eigen::Matrix3d> solver(squares);
    if (seen.size() < 4 || !(solver.vectorD().minCoeff() > 0.01)) return out;
    const Eigen::Matrix3d inverse = solver.solve(Eigen::Matrix3d::Identity());
    std::array<Eigen::Matrix2d, 3> plane;
    plane.fill(Eigen::Matrix2d::Zero());
    for (int of = 0; of < 3; ++of)
      for (int k = 0; k < 3; ++k)
        plane[static_cast<std::size_t>(of)] += inverse(of, k) * products[static_cast<std::size_t>(k)];
    // Likely where it is such a plane, no jump or noise, and does not change so fast that it would soon be another surface.
    double off = 0.0;
    for (const auto& [row, bend] : seen)
      off += (bend - row[0] * plane[0] - row[1] * plane[1] - row[2] * plane[2]).squaredNorm();
    off = std::sqrt(off / static_cast<double>(seen.size()));
    const double change = plane[1].norm() / plane[0].norm();
    const bool likely = change >= 0.03 && change <= 0.5 && off <= 0.1 * plane[1].norm();
    if (likely != (how_ == GoesOn::likely)) return out;
    out.bend = plane[0];
    // What changes across: all of its change; along: a third; both: half (third derivatives of a height are one, in
    // whatever order they are taken).
    Eigen::Matrix2d axes;
    axes << out.outwards, beside;
    Eigen::Matrix2d own = axes.transpose() * plane[1] * axes / far;
    own(0, 0) /= 3.0;
    own(0, 1) = own(1, 0) = 0.25 * (own(0, 1) + own(1, 0));
    out.changes = axes * own * axes.transpose();
    return out;
  }

  void carry_past(Front front) {
    const std::size_t count = front.sides.size();
    if (count < 3) return;
    Border border;
    std::vector<double> bent;
    std::size_t sheet = 0;
    for (std::size_t k = 0; k < count; ++k) {
      const FrontSide &side = front.sides[k], &last = front.sides[(k + count - 1) % count];
      if (k > 0 && fan_at(last, 1) != fan_at(side, 0)) ++sheet;
      border.sheet.push_back(sheet);
      const auto corners = surface_.corners_of(side.element);
      const Vec3 along =
          surface_.points[corners[(side.side + 1) % corners.size()]] - surface_.points[corners[side.side]];
      border.ends.push_back({touching(fan_at(side, 0), along), touching(fan_at(side, 1), along)});
      bent.push_back(jets_[fan_at(side, 0)].curvature());
    }
    if (sheet > 0 && fan_at(front.sides.back(), 1) == fan_at(front.sides.front(), 0))
      for (std::size_t& own : border.sheet)  // the first and the last are one
        if (own == sheet) own = 0;
    std::nth_element(bent.begin(), bent.begin() + static_cast<std::ptrdiff_t>(count * 9 / 10), bent.end());
    const double curvature = bent[count * 9 / 10], radius = curvature > 0.0 ? 1.0 / curvature : 1e300;
    for (std::size_t k = 0; k < count; ++k) {
      const std::size_t last = (k + count - 1) % count;
      front.nodes.push_back(
          {border.ends[k][0].origin, (border.ends[k][0].w + border.ends[last][1].w).normalized(), last, k});
    }
    const bool smooth = std::all_of(border.sheet.begin(), border.sheet.end(), [](std::size_t s) { return s == 0; });
    // The vector area of a hole's rim points against the normals.
    Vec3 area = Vec3::Zero(), normal = Vec3::Zero(), centre = Vec3::Zero();
    double spacing = 0.0;
    for (std::size_t k = 0; k < count; ++k) {
      const Vec3 &here = front.nodes[k].point, &next = front.nodes[(k + 1) % count].point;
      area += 0.5 * (here - front.nodes[0].point).cross(next - front.nodes[0].point);
      normal += front.nodes[k].normal / static_cast<double>(count);
      centre += here / static_cast<double>(count);
      spacing += (next - here).norm() / static_cast<double>(count);
    }
    border.spacing = spacing;
    Beyond beyond(std::move(border));
    double width = std::min(margin_, 0.4 * radius);
    if (normal.norm() > 0.5 && area.dot(normal) < 0.0 && smooth) {
      double hole = 0.0;
      for (const FrontNode& node : front.nodes) hole = std::max(hole, (node.point - centre).norm());
      if (hole <= std::min(margin_, 0.5 * radius)) {
        beyond.fill(surface_, centre, normal.normalized(), hole);
        if (fill_round(front, beyond, centre)) return;
        width = 2.0 * hole;
      }
    }
    double step = 0.7 * spacing, gone = 0.0;
    for (int ring = 0; ring < 200 && gone < width && front.size() >= 3; ++ring) {
      gone += step;
      front = ring_round(front, beyond, step);
      step *= 1.2;
    }
  }

  /// A hole seen whole from its middle: a ring half way, then to the middle. False, and nothing, where it is no such hole.
  bool fill_round(const Front& front, const Beyond& beyond, const Vec3& centre) {
    const std::size_t count = front.size();
    for (std::size_t k = 0; k < count; ++k) {
      const Vec3 &here = front.nodes[k].point, &next = front.nodes[(k + 1) % count].point;
      const Vec3 up = (here - next).cross(centre - next);
      if (!(up.dot(front.nodes[k].normal) > 0.05 * (here - next).norm() * (centre - next).norm())) return false;
    }
    Front half;
    for (const FrontNode& node : front.nodes)
      half.nodes.push_back(beyond.node(0.5 * (node.point + centre), node.before, node.after));
    std::vector<std::size_t> group;
    for (std::size_t k = 0; k < count; ++k) group.push_back(k);
    strip(front, half, group, beyond);
    close(half, beyond, centre);
    return true;
  }

  /// The front one step further, with elements between both.
  Front ring_round(const Front& front, const Beyond& beyond, double step) {
    const std::size_t count = front.size();
    const auto next = [&](std::size_t k) { return (k + 1) % count; };
    double longest = 0.0;
    Vec3 centre = Vec3::Zero();
    for (const FrontNode& node : front.nodes) centre += node.point / static_cast<double>(count);
    for (const FrontNode& node : front.nodes) longest = std::max(longest, (node.point - centre).norm());
    if (count <= 4 || longest < 1.2 * step) {
      if (longest < 2.0 * step) close(front, beyond, centre);
      return {};
    }
    std::vector<Vec3> outwards(count);
    for (std::size_t k = 0; k < count; ++k)
      outwards[k] = (front.nodes[next(k)].point - front.nodes[k].point).cross(front.nodes[k].normal).normalized();
    std::vector<FrontNode> nodes;
    std::vector<std::size_t> group(count), last(count), order;
    for (std::size_t k = 0; k < count; ++k) {
      const FrontNode& node = front.nodes[k];
      Vec3 way = outwards[k] + outwards[(k + count - 1) % count];
      if (way.norm() < 0.2) way = outwards[k];
      nodes.push_back(beyond.node(node.point + step * way.normalized(), node.before, node.after));
      group[k] = last[k] = k;
      order.push_back(k);
    }
    // Neighbours that come too near to each other, or change places, become one.
    std::vector<double> members(count, 1.0);
    for (bool again = true; again && order.size() > 3;) {
      again = false;
      for (std::size_t i = 0; i < order.size() && order.size() > 3; ++i) {
        const std::size_t place_b = (i + 1) % order.size(), a = order[i], b = order[place_b];
        const Vec3 side = nodes[b].point - nodes[a].point,
                   old = front.nodes[next(last[a])].point - front.nodes[last[a]].point;
        if (side.norm() > 0.5 * step && side.dot(old) > 0.3 * side.norm() * old.norm()) continue;
        // A node at a sharp edge stays where it is.
        const bool a_sharp = !beyond.one_sheet(nodes[a].before, nodes[a].after),
                   b_sharp = !beyond.one_sheet(nodes[b].before, nodes[b].after);
        if (a_sharp && b_sharp) continue;
        const double all = members[a] + members[b], share = a_sharp ? 1.0 : b_sharp ? 0.0 : members[a] / all;
        const Vec3 at = share * nodes[a].point + (1.0 - share) * nodes[b].point;
        nodes[a] = b_sharp ? beyond.node(at, nodes[b].before, nodes[b].after)
                           : beyond.node(at, nodes[a].before, a_sharp ? nodes[a].after : nodes[b].after);
        members[a] = all;
        last[a] = last[b];
        for (std::size_t& own : group)
          if (own == b) own = a;
        order.erase(order.begin() + static_cast<std::ptrdiff_t>(place_b));
        again = true;
      }
    }
    Front out;
    std::vector<std::size_t> place(count, 0);
    for (std::size_t i = 0; i < order.size(); ++i) {
      place[order[i]] = i;
      out.nodes.push_back(nodes[order[i]]);
    }
    for (std::size_t& own : group) own = place[own];
    strip(front, out, group, beyond);
    return out;
  }

  /// Elements between two fronts. \param group the outer node that each inner one went to.
  void strip(const Front& front, Front& outer, const std::vector<std::size_t>& group, const Beyond& beyond) {
    const std::size_t count = front.size();
    outer.sides.assign(outer.nodes.size(), {});
    std::vector<ElementIndex> made(count, mesh::no_index);
    for (std::size_t k = 0; k < count; ++k) {
      const FrontSide& inner = front.sides[k];
      const std::size_t next = (k + 1) % count;
      if (group[k] != group[next]) outer.sides[group[k]].source = inner.source;
      if (inner.element == mesh::no_index) continue;
      const FrontNode &p = front.nodes[k], &q = front.nodes[next], &r = outer.nodes[group[k]],
                      &s = outer.nodes[group[next]];
      made[k] = &r == &s ? add({&q, &p, &r, nullptr}, 3, beyond, inner.source)
                         : add({&q, &p, &r, &s}, 4, beyond, inner.source);
      if (made[k] == mesh::no_index) continue;
      join(inner, {made[k], 0, 0}, false);
      if (&r != &s) outer.sides[group[k]] = {made[k], 2, inner.source};
    }
    for (std::size_t k = 0; k < count; ++k) {
      const std::size_t next = (k + 1) % count;
      if (made[k] != mesh::no_index && made[next] != mesh::no_index && made[k] != made[next])
        join({made[k], out_.corners[made[k]] - 1u, 0}, {made[next], 1, 0},
             !beyond.one_sheet(front.sides[k].source, front.sides[next].source));
    }
  }

  /// What is left of a hole, or of a bay, round its middle.
  void close(const Front& front, const Beyond& beyond, const Vec3& centre) {
    const std::size_t count = front.size();
    const FrontNode middle = beyond.node(centre, front.nodes[0].before, front.nodes[0].after);
    std::vector<ElementIndex> made(count, mesh::no_index);
    for (std::size_t k = 0; k < count; ++k) {
      if (front.sides[k].element == mesh::no_index) continue;
      made[k] =
          add({&front.nodes[(k + 1) % count], &front.nodes[k], &middle, nullptr}, 3, beyond, front.sides[k].source);
      if (made[k] != mesh::no_index) join(front.sides[k], {made[k], 0, 0}, false);
    }
    for (std::size_t k = 0; k < count; ++k) {
      const std::size_t next = (k + 1) % count;
      if (made[k] != mesh::no_index && made[next] != mesh::no_index)
        join({made[k], 2, 0}, {made[next], 1, 0}, !beyond.one_sheet(front.sides[k].source, front.sides[next].source));
    }
  }

  /// Makes neighbours of two sides. Both have the same line between them: that of the first.
  void join(const FrontSide& a, const FrontSide& b, bool is_sharp) {
    const auto at = [](const FrontSide& s) { return 4 * static_cast<std::size_t>(s.element) + s.side; };
    out_.neighbours[at(a)] = b.element;
    out_.neighbours[at(b)] = a.element;
    const auto middle = [&](const FrontSide& s) -> Vec3& {
      return out_.control[9 * static_cast<std::size_t>(s.element) + out_.corners[s.element] + s.side];
    };
    middle(b) = middle(a);
    if (!is_sharp) return;
    for (const FrontSide* const s : {&a, &b})
      out_.sharp[s->element] = static_cast<std::uint8_t>(out_.sharp[s->element] | 1u << s->side);
  }

  /// An element with these corners, or no_index where it would fold over.
  ElementIndex add(const std::array<const FrontNode*, 4>& corner, unsigned n, const Beyond& beyond,
                   std::size_t source) {
    for (unsigned k = 0; k < n; ++k) {
      const Vec3 &a = corner[(k + n - 1) % n]->point, &b = corner[k]->point, &c = corner[(k + 1) % n]->point;
      const Vec3 up = (c - b).cross(a - b);
      if (!(up.dot(corner[k]->normal) > 0.02 * (c - b).norm() * (a - b).norm())) return mesh::no_index;
    }
    const auto e = static_cast<ElementIndex>(out_.element_count());
    std::array<Vec3, 9> control;
    control.fill(Vec3::Zero());
    Vec3 middle = Vec3::Zero();
    for (unsigned k = 0; k < n; ++k) {
      control[k] = corner[k]->point;
      control[n + k] = beyond(0.5 * (corner[k]->point + corner[(k + 1) % n]->point), source).point;
      middle += control[k] / n;
    }
    if (n == 4) control[8] = beyond(middle, source).point;
    out_.corners.push_back(static_cast<std::uint8_t>(n));
    out_.control.insert(out_.control.end(), control.begin(), control.end());
    out_.neighbours.insert(out_.neighbours.end(), 4, mesh::no_index);
    out_.sharp.push_back(0);
    out_.radius.push_back(std::numeric_limits<float>::infinity());
    return e;
  }

  const mesh::Surface& surface_;
  const Fans& fans_;
  std::span<const Jet> jets_;
  double margin_;
  GoesOn how_;
  SmoothSurface& out_;
  std::vector<std::uint8_t> taken_;
};

}  // namespace

void carry_on(const mesh::Surface& surface, const Fans& fans, std::span<const Jet> jets, double margin, GoesOn how,
              SmoothSurface& out) {
  Carrier(surface, fans, jets, margin, how, out).carry();
}

}  // namespace bordado::drape
