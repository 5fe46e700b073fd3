#include "step.hpp"

#include <algorithm>
#include <cmath>

namespace bordado::drape {

namespace {

template <class Gates>
double length_of(const Gates& gates, const Vec3& begin, const Vec3& end) {
  double out = 0.0;
  const Vec3* last = &begin;
  for (const auto& gate : gates) {
    out += (gate.point - *last).norm();
    last = &gate.point;
  }
  return out + (end - *last).norm();
}

/// Moves points along the sides that they lie on until the line through them is as short as it can be: Newton steps on
/// the sum of lengths, whose second derivatives are tridiagonal.
template <class Gates, class Move>
void straighten(Gates gates, const Vec3& begin, const Vec3& end, const Move& move) {
  const std::size_t count = gates.size();
  if (count == 0) return;
  std::array<double, 48> diagonal, upper, right;
  for (int step = 0; step < 4; ++step) {
    diagonal.fill(0.0), right.fill(0.0);
    for (std::size_t k = 0; k <= count; ++k) {  // piece k ends at gate k
      const Vec3 piece = (k < count ? gates[k].point : end) - (k > 0 ? gates[k - 1].point : begin);
      const double length = piece.norm();
      if (!(length > 0.0)) return;
      const Vec3 unit = piece / length;
      const auto square = [&](const Vec3& a, const Vec3& b) { return (a.dot(b) - a.dot(unit) * b.dot(unit)) / length; };
      if (k < count) {
        right[k] -= gates[k].along.dot(unit);
        diagonal[k] += square(gates[k].along, gates[k].along);
      }
      if (k > 0) {
        right[k - 1] += gates[k - 1].along.dot(unit);
        diagonal[k - 1] += square(gates[k - 1].along, gates[k - 1].along);
      }
      if (k > 0 && k < count) upper[k - 1] = -square(gates[k - 1].along, gates[k].along);
    }
    for (std::size_t k = 1; k < count; ++k) {
      if (!(diagonal[k - 1] > 0.0)) return;
      const double factor = upper[k - 1] / diagonal[k - 1];
      diagonal[k] -= factor * upper[k - 1];
      right[k] -= factor * right[k - 1];
    }
    double moved = 0.0;
    for (std::size_t k = count; k-- > 0;) {
      if (!(diagonal[k] > 0.0)) return;
      right[k] = (right[k] - (k + 1 < count ? upper[k] * right[k + 1] : 0.0)) / diagonal[k];
    }
    // As far as it makes the line shorter.
    const double before = length_of(gates, begin, end);
    std::array<double, 48> from;
    for (std::size_t k = 0; k < count; ++k) from[k] = gates[k].t;
    for (double share = 1.0;; share *= 0.25) {
      if (share < 1e-4) share = 0.0;
      moved = 0.0;
      for (std::size_t k = 0; k < count; ++k) {
        const double t = std::clamp(from[k] + share * std::clamp(right[k], -0.5, 0.5), 0.0, 1.0);
        moved = std::max(moved, std::abs(t - from[k]));
        move(gates[k], t);
      }
      if (share == 0.0 || length_of(gates, begin, end) <= before) break;
    }
    if (moved < 1e-9) return;
  }
}

}  // namespace

Crossing crossing_at(const SmoothSurface& surface, const Spot& spot) {
  const auto sample = surface.at(spot);
  return {sample.point, sample.normal(), spot};
}

double Stepper::bulge(const Vec3& chord, double length, const Vec3& from, const Vec3& to) {
  // The cubic that leaves and arrives at these slopes against the straight line; exact to the fourth power of the turn.
  const double a = -chord.dot(from) / length, b = -chord.dot(to) / length;
  const double alpha = a * (1.0 + a * a / 6.0), beta = b * (1.0 + b * b / 6.0);
  return 1.0 + (alpha * alpha + beta * beta) / 15.0 - alpha * beta / 30.0;
}

Vec3 carried(const Vec3& tangent, const Vec3& from, const Vec3& to) {
  const double cosine = from.dot(to);
  if (cosine < -0.99) return tangent;
  const Vec3 axis = from.cross(to);
  return cosine * tangent + axis.cross(tangent) + axis * (axis.dot(tangent) / (1.0 + cosine));
}

Way Stepper::way(const Crossing& from, const Crossing& to) const {
  // The sides that the plane crosses on its way.
  const Vec3 chord = to.point - from.point, across = chord.cross(from.normal + to.normal);
  const double whole = chord.squaredNorm();
  struct Gate {
    mesh::ElementIndex leaves, enters;
    unsigned out, in;
    double t;  ///< along the side it leaves by
    Vec3 point, along;
  };
  static constexpr double corner3[][2] = {{0, 0}, {1, 0}, {0, 1}}, corner4[][2] = {{-1, -1}, {1, -1}, {1, 1}, {-1, 1}};
  const auto on_side = [&](mesh::ElementIndex of, unsigned side, double t) {
    const auto* const c = surface_.corners[of] == 3 ? corner3 : corner4;
    const unsigned other = (side + 1) % surface_.corners[of];
    return Spot{of, c[side][0] * (1 - t) + c[other][0] * t, c[side][1] * (1 - t) + c[other][1] * t};
  };
  Way out;
  Vec3 leaves = from.normal;
  std::optional<Vec3> arrives;
  std::array<Gate, 48> gates;
  std::size_t count = 0;
  mesh::ElementIndex element = from.spot.element;
  unsigned entered = 4;
  const auto move = [&](Gate& gate, double t) {
    const unsigned n = surface_.corners[gate.leaves];
    const Vec3* const p = surface_.control.data() + 9 * static_cast<std::size_t>(gate.leaves);
    const Vec3 &a = p[gate.out], &m = p[n + gate.out], &b = p[(gate.out + 1) % n];
    gate.t = t;
    gate.point = a * (1 - t) * (1 - 2 * t) + m * 4 * t * (1 - t) + b * t * (2 * t - 1);
    gate.along = a * (4 * t - 3) + m * (4 - 8 * t) + b * (4 * t - 1);
  };
  while (count < gates.size() && element != to.spot.element) {
    const unsigned n = surface_.corners[element];
    const Vec3* const p = surface_.control.data() + 9 * static_cast<std::size_t>(element);
    double best = -1e300;
    Gate next{element, mesh::no_index, 4, 4, 0.0, Vec3::Zero(), Vec3::Zero()};
    for (unsigned k = 0; k < n; ++k) {
      if (k == entered) continue;
      const double a = across.dot(p[k] - from.point), b = across.dot(p[(k + 1) % n] - from.point);
      if ((a < 0.0) == (b < 0.0)) continue;
      const double m = across.dot(p[n + k] - from.point);
      const double second = 2 * a - 4 * m + 2 * b, first = -3 * a + 4 * m - b;
      double t = a / (a - b);
      for (int step = 0; step < 4; ++step) {
        const double slope = 2 * second * t + first;
        if (slope == 0.0) break;
        t = std::clamp(t - (a + t * (first + t * second)) / slope, 0.0, 1.0);
      }
      Gate tried{element, mesh::no_index, k, 4, 0.0, Vec3::Zero(), Vec3::Zero()};
      move(tried, t);
      const double progress = (tried.point - from.point).dot(chord);
      if (progress > best) best = progress, next = tried;  // the side crossed furthest on
    }
    if (next.out == 4 || best >= whole) break;
    next.enters = surface_.neighbours[4 * static_cast<std::size_t>(element) + next.out];
    if (next.enters == mesh::no_index) break;
    next.in = 0;
    while (next.in < surface_.corners[next.enters] &&
           surface_.neighbours[4 * static_cast<std::size_t>(next.enters) + next.in] != element)
      ++next.in;
    if (next.in == surface_.corners[next.enters]) break;
    // A side that either end lies on is no gate to be moved.
    const bool at_end = (next.point - to.point).squaredNorm() < 1e-10 * whole;
    if (at_end) {
      arrives = surface_.at(on_side(element, next.out, next.t)).normal();
      break;
    }
    const bool at_start = count == 0 && (next.point - from.point).squaredNorm() < 1e-10 * whole;
    if (at_start) leaves = surface_.at(on_side(next.enters, next.in, 1 - next.t)).normal();
    out.over_fold = out.over_fold || (at_start && (surface_.sharp[element] >> next.out & 1));
    element = next.enters;
    entered = next.in;
    if (!at_start) gates[count++] = next;
  }
  straighten(std::span(gates.data(), count), from.point, to.point, move);

  Vec3 point = from.point, normal = leaves;
  const auto add = [&](const Vec3& next, const Vec3& normal_there) {
    const Vec3 piece = next - point;
    const double length = piece.norm();
    if (length * length < 1e-24 * whole) return;
    out.length += length * bulge(piece, length, normal, normal_there);
    // A crossing on a side can belong to the element behind it: directions are those in the plane of its own.
    if (length * length < 1e-8 * whole) return;  // too short to have a direction
    if (out.first.isZero()) out.first = carried(piece / length, normal, from.normal);
    out.last = carried(piece / length, normal_there, to.normal);
  };
  for (std::size_t k = 0; k < count; ++k) {
    const Gate& gate = gates[k];
    add(gate.point, surface_.at(on_side(gate.leaves, gate.out, gate.t)).normal());
    out.over_fold = out.over_fold || (surface_.sharp[gate.leaves] >> gate.out & 1);
    point = gate.point;
    normal = surface_.at(on_side(gate.enters, gate.in, 1 - gate.t)).normal();
  }
  add(to.point, arrives ? *arrives : element == to.spot.element ? to.normal : normal);
  return out;
}

Stepper::Equation Stepper::distance(const Crossing& from, const Crossing& here, double length) const {
  const Vec3 chord = here.point - from.point;
  const double norm = chord.norm();
  if (!(norm > 1e-6 * length)) return {-length, chord};
  if (from.normal.dot(here.normal) > turns_smoothly)
    return {norm - length / bulge(chord, norm, from.normal, here.normal), chord / norm};
  const Way found = way(from, here);
  return {found.length - length, found.last};
}

Vec3 Stepper::tangent(const Crossing& from, const Crossing& to) const {
  const Vec3& n = from.normal;
  const bool smooth = n.dot(to.normal) > turns_smoothly;
  const Vec3 way_on = smooth ? Vec3(to.point - from.point) : way(from, to).first;
  const Vec3 lean = smooth ? Vec3(2.0 * n + to.normal) : n;  // see once()
  return (way_on - way_on.dot(n) / lean.dot(n) * lean).normalized();
}

Vec3 Stepper::leaving(const Crossing& from, const Crossing& to) const {
  if (from.normal.dot(to.normal) > turns_smoothly) return to.point - from.point;
  return way(from, to).first;
}

Spot Stepper::walked(Spot spot, const Vec3& point) const {
  mesh::ElementIndex before = mesh::no_index;
  for (int hops = 0; hops < 4096; ++hops) {
    const auto out = surface_.outside(spot);
    if (!out) break;
    const mesh::ElementIndex next = surface_.neighbours[4 * static_cast<std::size_t>(spot.element) + out->side];
    if (next == mesh::no_index || next == before) break;
    before = spot.element;
    spot = surface_.on_facet(next, point);
  }
  return spot;
}

template <class Equations>
Stop Stepper::solve(Spot spot, const Vec3& guess, double length, const Equations& equations, Crossing& out) const {
  spot = walked(surface_.on_facet(spot.element, guess), guess);
  // The start may lie on the far side of a border that the solution does not cross.
  if (const auto past = surface_.outside(spot)) {
    const double limit = surface_.corners[spot.element] == 3 ? 0.5 : 1.0;
    if (past->by > limit) return Stop::border;
  }
  for (int step = 0; step < 24; ++step) {
    const auto s = surface_.at(spot);
    const Crossing here{s.point, s.normal(), spot};
    const auto [f, g] = equations(here);  // each a value and its gradient
    const double fx = f.gradient.dot(s.by_xi), fy = f.gradient.dot(s.by_eta), gx = g.gradient.dot(s.by_xi),
                 gy = g.gradient.dot(s.by_eta), det = fx * gy - fy * gx;
    if (!(std::abs(det) > 1e-9 * std::hypot(fx, fy) * std::hypot(gx, gy))) return Stop::lost;
    double dx = (fy * g.value - gy * f.value) / det, dy = (gx * f.value - fx * g.value) / det;
    const double moves = (dx * s.by_xi + dy * s.by_eta).norm();
    if (!std::isfinite(moves)) return Stop::lost;
    if (moves > 0.6 * length) dx *= 0.6 * length / moves, dy *= 0.6 * length / moves;
    spot.xi += dx, spot.eta += dy;
    auto past = surface_.outside(spot);
    const bool close = moves < 3e-4 * length;
    if (past && past->by > 1e-9) {
      const mesh::ElementIndex next = surface_.neighbours[4 * static_cast<std::size_t>(spot.element) + past->side];
      if (next == mesh::no_index) {
        if (close || past->by > 1.0) return Stop::border;
        continue;
      }
      if (!(close && past->by < 1e-3)) {
        const Vec3 point = surface_.point(spot);
        Spot moved = surface_.on_facet(next, point);
        const auto back = surface_.outside(moved);
        // Over a sharp edge both sides can send it back: it is at the edge.
        if (back && surface_.neighbours[4 * static_cast<std::size_t>(next) + back->side] == spot.element && step > 12 &&
            back->by < 0.05)
          moved = spot;
        else
          moved = walked(moved, point);
        const bool stays = moved.element == spot.element;
        spot = moved;
        if (!stays || !close) continue;
      }
    }
    if (!close) continue;
    out = crossing_at(surface_, spot);
    return Stop::none;
  }
  return Stop::lost;
}

Stop Stepper::meet(const Crossing& a, const Crossing& b, const Crossing& c, double length, double hand,
                   Crossing& out) const {
  const Vec3 between = a.point - b.point;
  if (between.squaredNorm() >= 4.0 * length * length) return Stop::locked;
  const auto equations = [&](const Crossing& here) {
    return std::array{distance(a, here, length), distance(b, here, length)};
  };
  const Vec3 guess = a.point + b.point - c.point;
  Stop stop = solve(a.spot, guess, length, equations, out);
  // Over folds the parallelogram is bent: from each side as it lies there.
  if (stop != Stop::none)
    for (const Crossing* from : {&a, &b, &c}) {
      const Vec3 start = from == &a   ? Vec3(a.point + carried(b.point - c.point, c.normal, a.normal))
                         : from == &b ? Vec3(b.point + carried(a.point - c.point, c.normal, b.normal))
                                      : guess;
      const Stop again = solve(from->spot, start, length, equations, out);
      if (again == Stop::none || stop == Stop::lost) stop = again;
      if (stop == Stop::none) break;
    }
  if (stop == Stop::lost && between.squaredNorm() > 3.6 * length * length) return Stop::locked;
  if (stop != Stop::none) return stop;
  // Tests for wrong cells: a corner that turns the other way; the other intersection of the spheres.
  const bool flat = a.normal.dot(b.normal) > turns_smoothly && a.normal.dot(out.normal) > turns_smoothly;
  const Vec3 middle = 0.5 * (a.point + b.point);
  if (flat && (out.point - middle).dot(middle - c.point) <= 0.0) return Stop::folded;
  const auto corner = [&](const Vec3& one, const Vec3& other, const Vec3& normal) {
    return hand * one.cross(other).dot(normal) > 1e-3 * one.norm() * other.norm();
  };
  if (!corner(leaving(out, a), leaving(out, b), out.normal) || !corner(leaving(a, c), leaving(a, out), a.normal) ||
      !corner(leaving(b, out), leaving(b, c), b.normal))
    return Stop::folded;
  return Stop::none;
}

Stop Stepper::once(const Crossing& a, Vec3& direction, double length, Crossing& out) const {
  // A geodesic and its tangents, where the normal turns from one to the other: the straight line between its ends lies in
  // the plane of the tangent at one end and twice the normal there plus that at the other, but for the fourth power of
  // the turn. Over a fold it is straight when the surface is unfolded.
  const auto equations = [&](const Crossing& here) {
    const Vec3 chord = here.point - a.point;
    const double norm = chord.norm();
    if (!(norm > 1e-6 * length))
      return std::array{Equation{-length, direction}, Equation{0.0, a.normal.cross(direction)}};
    if (a.normal.dot(here.normal) > turns_smoothly) {
      const Vec3 across = direction.cross(2.0 * a.normal + here.normal).normalized();
      return std::array{distance(a, here, length), Equation{chord.dot(across), across}};
    }
    const Way found = way(a, here);
    return std::array{
        Equation{found.length - length, found.last},
        Equation{found.length * found.first.dot(a.normal.cross(direction)), here.normal.cross(found.last)}};
  };
  const Stop stop = solve(a.spot, a.point + length * direction, length, equations, out);
  if (stop != Stop::none) return stop;
  const Vec3 chord = out.point - a.point;
  if (a.normal.dot(out.normal) > turns_smoothly) {
    if (!(chord.dot(direction) > 0.0)) return Stop::lost;
  } else if (!(way(a, out).first.dot(direction) > 0.9)) {
    return Stop::lost;
  }
  direction = -tangent(out, a);
  return Stop::none;
}

Stop Stepper::onward(const Crossing& a, Vec3& direction, double length, Crossing& out) const {
  constexpr double degree = std::numbers::pi / 180.0;
  Vec3 arrives = direction;
  Stop stop = once(a, arrives, length, out);
  const double turn = stop == Stop::none ? std::acos(std::clamp(a.normal.dot(out.normal), -1.0, 1.0)) : 0.0;
  if (stop == Stop::none && turn < 6.0 * degree) {
    direction = arrives;
    return stop;
  }
  if (stop == Stop::border) return stop;
  // In smaller steps, so that round a fillet none turns by much.
  const int parts = stop == Stop::none ? std::clamp(static_cast<int>(std::ceil(turn / (3.0 * degree))), 2, 16) : 16;
  Crossing at = a;
  for (int k = 0; k < parts; ++k) {
    stop = once(at, direction, length / parts, out);
    if (stop != Stop::none) return stop;
    at = out;
  }
  return Stop::none;
}

}  // namespace bordado::drape
