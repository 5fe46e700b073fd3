#include "cloth_map.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace bordado::drape {

namespace {

using mesh::ElementIndex;

Spot centre_of(const SmoothSurface& surface, ElementIndex e) {
  return surface.corners[e] == 3 ? Spot{e, 1.0 / 3.0, 1.0 / 3.0} : Spot{e, 0.0, 0.0};
}

}  // namespace

double thickening(Angle rest, double shear_degrees) {
  return rest.sin() / std::max(1e-3, (rest - Angle::degrees(shear_degrees)).sin());
}

OnElements on_elements(const SmoothSurface& surface, const Net& net) {
  const std::size_t count = surface.own;
  constexpr double none = std::numeric_limits<double>::quiet_NaN();
  OnElements out;
  out.warp.assign(count, Vec3::Zero());
  out.weft.assign(count, Vec3::Zero());
  out.shear.assign(count, none);
  out.cloth.assign(count, {none, none});
  if (net.strips) out.spacing.assign(count, none);
  const double cell = net.options.cell;
  const ClothMap map(surface, net);

  // Elements that hold knots look from there; the others from a neighbour that has been found, ring by ring.
  std::vector<std::array<float, 2>> guess(surface.element_count());
  std::vector<std::uint8_t> has_guess(surface.element_count(), 0);
  std::vector<std::int32_t> nearest(surface.element_count(), std::numeric_limits<std::int32_t>::max());
  net.lattice.for_each([&](int i, int j, const Knot& knot) {
    const std::int32_t away = std::abs(i) + std::abs(j) + (knot.lap ? 1 << 28 : 0);
    if (away >= nearest[knot.spot.element]) return;
    nearest[knot.spot.element] = away;
    guess[knot.spot.element] = {static_cast<float>(i), static_cast<float>(j)};
    has_guess[knot.spot.element] = 1;
  });
  std::vector<std::uint8_t> done(surface.element_count(), 0), tries(surface.element_count(), 0);
  std::vector<ElementIndex> open;
  for (ElementIndex e = 0; e < surface.element_count(); ++e)
    if (has_guess[e]) open.push_back(e);
  const auto find = [&](ElementIndex e) {
    const Crossing at = crossing_at(surface, centre_of(surface, e));
    auto found = map.find(at, static_cast<double>(guess[e][0]) + 0.01, static_cast<double>(guess[e][1]) + 0.01);
    for (int k = 1; !found && k < 4; ++k)  // the cells on the knot's other sides
      found = map.find(at, static_cast<double>(guess[e][0]) + (k & 1 ? -0.5 : 0.01),
                       static_cast<double>(guess[e][1]) + (k & 2 ? -0.5 : 0.01));
    if (!found) return;
    done[e] = 1;
    guess[e] = {static_cast<float>(found->u), static_cast<float>(found->v)};
    if (!surface.is_own(e)) return;
    out.cloth[e] = {found->u * cell, found->v * cell};
    out.warp[e] = found->warp;
    out.weft[e] = found->weft;
    const double sine = found->warp.cross(found->weft).dot(at.normal), cosine = found->warp.dot(found->weft);
    if (!net.strips) {
      out.shear[e] = net.options.rest.degrees() - Angle::radians(std::atan2(sine, cosine)).degrees();
      return;
    }
    out.shear[e] = 0.0;
    out.weft[e] = at.normal.cross(found->warp);
    // How far the neighbouring strips' middles are from each other, square to them.
    const int i = static_cast<int>(std::floor(found->u)), j = static_cast<int>(std::floor(found->v));
    const double s = found->u - i;
    const Knot *const a = net.lattice.placed(i, j), *const b = net.lattice.placed(i + 1, j),
                      *const c = net.lattice.placed(i, j + 1), *const d = net.lattice.placed(i + 1, j + 1);
    if (!a || !b || !c || !d) return;
    const Vec3 between = (1 - s) * (c->point - a->point) + s * (d->point - b->point);
    const double turn = std::acos(std::clamp(a->normal.dot(c->normal), -1.0, 1.0));
    out.spacing[e] = (between - between.dot(found->warp) * found->warp).norm() / cell * (1.0 + turn * turn / 24.0);
  };
  std::vector<std::uint32_t> queued(surface.element_count(), 0);
  std::uint32_t round = 0;
  while (!open.empty()) {
    parallel_blocks(
        open.size(),
        [&](std::size_t begin, std::size_t end) {
          for (std::size_t k = begin; k < end; ++k) find(open[k]);
        },
        256);
    // Those next to what was found, each from the first neighbour; a few times, where it was not found from there.
    std::vector<ElementIndex> next;
    ++round;
    for (const ElementIndex e : open)
      for (unsigned k = 0; done[e] && k < surface.corners[e]; ++k) {
        const ElementIndex other = surface.neighbours[4 * static_cast<std::size_t>(e) + k];
        if (other == mesh::no_index || done[other] || queued[other] == round || tries[other] >= 3) continue;
        queued[other] = round;
        ++tries[other];
        guess[other] = guess[e];
        next.push_back(other);
      }
    open = std::move(next);
  }
  return out;
}

}  // namespace bordado::drape
