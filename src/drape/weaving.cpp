#include "weaving.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <queue>

namespace bordado::drape {

namespace {

[[noreturn]] void fail(std::string code, std::string what, std::string remedy) {
  throw Failure({Severity::error, std::move(code), std::move(what), {}, std::move(remedy)});
}

}  // namespace

std::pair<Spot, Vec3> seed_on(const SmoothSurface& surface, const Vec3& point) {
  // The nearest facet, then along the normal.
  double least = std::numeric_limits<double>::infinity();
  Spot nearest;
  for (mesh::ElementIndex e = 0; e < surface.own; ++e) {
    const Vec3* const p = surface.control.data() + 9 * static_cast<std::size_t>(e);
    Vec3 centre = Vec3::Zero();
    double radius = 0.0;
    for (unsigned k = 0; k < surface.corners[e]; ++k) centre += p[k] / surface.corners[e];
    for (unsigned k = 0; k < surface.corners[e]; ++k) radius = std::max(radius, (p[k] - centre).norm());
    if ((centre - point).norm() - radius > least) continue;
    // The nearest place of the facet that is inside it.
    Spot spot = surface.on_facet(e, point);
    if (surface.corners[e] == 3) {
      spot.xi = std::clamp(spot.xi, 0.0, 1.0), spot.eta = std::clamp(spot.eta, 0.0, 1.0);
      if (spot.xi + spot.eta > 1.0) {
        const double over = 0.5 * (spot.xi + spot.eta - 1.0);
        spot.xi = std::clamp(spot.xi - over, 0.0, 1.0), spot.eta = 1.0 - spot.xi;
      }
    } else {
      spot.xi = std::clamp(spot.xi, -1.0, 1.0), spot.eta = std::clamp(spot.eta, -1.0, 1.0);
    }
    const double distance = (surface.point(spot) - point).norm();
    if (distance < least) least = distance, nearest = spot;
  }
  // On the border the foot of the point can lie just past it.
  std::optional<Spot> found;
  if (nearest.element != mesh::no_index) found = surface.under(point, nearest.element);
  if (!found || !surface.is_own(found->element)) found = nearest;
  if (found->element == mesh::no_index || (surface.point(*found) - point).norm() > 0.05 * surface.size)
    fail("drape.seed",
         fmt::format("no place of the surface is near the seed {:g}, {:g}, {:g}", point.x(), point.y(), point.z()),
         "give a point on the surface or near it, in the part's axes and units");
  return {*found, surface.at(*found).normal()};
}

Weaving::Weaving(const SmoothSurface& on, const NetOptions& options) : surface(on) {
  net.options = options;
  const NetOptions& o = net.options;
  if (!(o.cell > 0.0) || !std::isfinite(o.cell))
    fail("drape.cell", fmt::format("the cell size is {:g}", o.cell), "it is a length above nought");
  if (o.cell > 0.5 * surface.size)
    fail("drape.cell", fmt::format("the cell size is {:g}, and the whole part is {:g} across", o.cell, surface.size),
         "take a cell of a fiftieth of that, or leave the size to bordado");
  if (o.cell < 1e-5 * surface.size)
    fail("drape.cell",
         fmt::format("the cell size is {:g}, and the part is {:g} across: too many cells", o.cell, surface.size),
         "leave the size to bordado");
  // Where the net may go: cloth is wanted there, or not far from it.
  near.assign(surface.element_count(), 1);
  wanted.assign(surface.element_count(), 0);
  std::fill_n(wanted.begin(), surface.own, std::uint8_t{1});
  if (o.wanted.empty()) return;
  std::copy(o.wanted.begin(), o.wanted.end(), wanted.begin());
  const auto centre = [&](mesh::ElementIndex e) {
    const Vec3* const p = surface.control.data() + 9 * static_cast<std::size_t>(e);
    return surface.corners[e] == 3 ? Vec3((p[0] + p[1] + p[2]) / 3.0) : Vec3(0.25 * (p[0] + p[1] + p[2] + p[3]));
  };
  // By steps from element to element, as far as `beyond`.
  std::copy(wanted.begin(), wanted.end(), near.begin());
  std::vector<double> away(surface.element_count(), std::numeric_limits<double>::infinity());
  using Reached = std::pair<double, mesh::ElementIndex>;
  std::priority_queue<Reached, std::vector<Reached>, std::greater<>> open;
  const auto spread = [&](mesh::ElementIndex e, double distance) {
    for (unsigned k = 0; k < surface.corners[e]; ++k) {
      const mesh::ElementIndex next = surface.neighbours[4 * static_cast<std::size_t>(e) + k];
      if (next == mesh::no_index || wanted[next]) continue;
      const double there = distance + (centre(next) - centre(e)).norm();
      if (there >= away[next] || there > o.beyond + 2.0 * o.cell) continue;
      away[next] = there;
      open.emplace(there, next);
    }
  };
  for (mesh::ElementIndex e = 0; e < surface.own; ++e)
    if (wanted[e]) spread(e, 0.0);
  while (!open.empty()) {
    const auto [distance, e] = open.top();
    open.pop();
    near[e] = 1;
    if (distance <= away[e]) spread(e, distance);
  }
}

Vec3 Weaving::start(Crossing& seed_at) {
  const NetOptions& o = net.options;
  const Spot spot = o.at ? *o.at : seed_on(surface, o.seed).first;
  if (!wanted[spot.element])
    fail("drape.seed",
         fmt::format("the seed {:g}, {:g}, {:g} lies where none of this cloth is wanted", o.seed.x(), o.seed.y(),
                     o.seed.z()),
         "give a point within the zone of its plies");
  visited.assign(surface.element_count(), {0, 0});
  seen.assign(surface.element_count(), 0);
  Knot& seed = net.lattice.make(0, 0);
  const Crossing at = seed_at = crossing_at(surface, spot);
  const Vec3 flat = o.direction - o.direction.dot(at.normal) * at.normal;
  if (!(flat.norm() > 0.0872 * o.direction.norm()))
    fail("drape.direction", "the direction of the warp stands within 5° of the normal at the seed",
         "give a direction along the surface there");
  put(seed, at, 0, 0, 0, false);
  return flat.normalized();
}

void Weaving::put(Knot& knot, const Crossing& at, int i, int j, std::uint8_t lap, bool beside) {
  knot.point = at.point, knot.normal = at.normal, knot.spot = at.spot;
  knot.placed = 1;
  knot.beside = beside || !surface.is_own(at.spot.element);
  const mesh::ElementIndex e = at.spot.element;
  if (lap > 0) {
    knot.lap = static_cast<std::uint8_t>(std::min(lap + 1, 250));
  } else if (!seen[e]) {
    seen[e] = 1;
    visited[e] = {i, j};
  } else if (laps(e, i, j)) {
    knot.lap = 1;
  }
  knot.goes_on = near[e] && knot.lap < 4;
  ++net.knots;
  if (knot.lap > 0) ++net.laps;
  if (net.knots >= net.options.most_knots) net.cut_short = true;
}

void Weaving::stopped(Knot& knot, Stop why, const Crossing& last) {
  knot.stop = why;
  ++net.stops[static_cast<std::size_t>(why)];
  if (why != Stop::border && net.stopped.size() < 1000)
    net.stopped.push_back({why, last.point, wanted[last.spot.element] != 0});
}

bool Weaving::laps(mesh::ElementIndex e, int i, int j) const {
  if (!seen[e]) return false;
  const Vec3* const p = surface.control.data() + 9 * static_cast<std::size_t>(e);
  const double across = surface.corners[e] == 3
                            ? std::max({(p[0] - p[1]).norm(), (p[1] - p[2]).norm(), (p[2] - p[0]).norm()})
                            : std::max((p[0] - p[2]).norm(), (p[1] - p[3]).norm());
  const double cells = std::max(std::abs(i - visited[e][0]), std::abs(j - visited[e][1]));
  return cells > 4.0 * across / net.options.cell + 5.0;
}

}  // namespace bordado::drape
