#include "cloth_map.hpp"

#include <bordado/base/work.hpp>

#include <algorithm>
#include <cmath>
#include <limits>

namespace bordado::drape {

namespace {

using mesh::ElementIndex;

/// The place of an element's centre in the net: in the cell of the guess, or in those beside it.
std::optional<OnCloth> look(const SmoothSurface& surface, const ClothMap& map, ElementIndex e,
                            const std::array<float, 2>& guess) {
  const Crossing at = crossing_at(surface, surface.centre(e));
  const auto u = static_cast<double>(guess[0]), v = static_cast<double>(guess[1]);
  auto found = map.find(at, u + 0.01, v + 0.01);
  for (int k = 1; !found && k < 4; ++k)  // the cells on the knot's other sides
    found = map.find(at, u + (k & 1 ? -0.5 : 0.01), v + (k & 2 ? -0.5 : 0.01));
  return found;
}

void put(OnElements& out, const SmoothSurface& surface, const Net& net, ElementIndex e, const OnCloth& found) {
  const double cell = net.options.cell;
  const Crossing at = crossing_at(surface, surface.centre(e));
  out.cloth[e] = {found.u * cell, found.v * cell};
  out.warp[e] = found.warp;
  out.weft[e] = found.weft;
  const int i = static_cast<int>(std::floor(found.u)), j = static_cast<int>(std::floor(found.v));
  for (const auto& [di, dj] : {std::pair(0, 0), {1, 0}, {0, 1}, {1, 1}})
    if (const Knot* const knot = net.lattice.placed(i + di, j + dj); knot && knot->beside) out.beside[e] = 1;
  const double sine = found.warp.cross(found.weft).dot(at.normal), cosine = found.warp.dot(found.weft);
  if (!net.strips) {
    out.shear[e] = net.options.rest.degrees() - Angle::radians(std::atan2(sine, cosine)).degrees();
    return;
  }
  out.shear[e] = 0.0;
  out.weft[e] = at.normal.cross(found.warp);
  // How far the neighbouring strips' middles are from each other, square to them.
  const double s = found.u - i;
  const Knot *const a = net.lattice.placed(i, j), *const b = net.lattice.placed(i + 1, j),
                    *const c = net.lattice.placed(i, j + 1), *const d = net.lattice.placed(i + 1, j + 1);
  if (!a || !b || !c || !d) return;
  const Vec3 between = (1 - s) * (c->point - a->point) + s * (d->point - b->point);
  const double turn = std::acos(std::clamp(a->normal.dot(c->normal), -1.0, 1.0));
  out.spacing[e] = (between - between.dot(found.warp) * found.warp).norm() / cell * (1.0 + turn * turn / 24.0);
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
  out.beside.assign(count, 0);
  if (net.strips) out.spacing.assign(count, none);
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
    const auto found = look(surface, map, e, guess[e]);
    if (!found) return;
    done[e] = 1;
    guess[e] = {static_cast<float>(found->u), static_cast<float>(found->v)};
    if (surface.is_own(e)) put(out, surface, net, e, *found);
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
  if (!net.strips) mend_places(surface, net, out);
  return out;
}

namespace {

/// Whether two neighbours lie on cloth as far apart as they are along their yarns, which do not stretch: to a half of it,
/// which leaves room for the bend of the surface and for shear that changes.
bool agree(const SmoothSurface& surface, const OnElements& on, ElementIndex a, ElementIndex b) {
  const Vec3 way = crossing_at(surface, surface.centre(b)).point - crossing_at(surface, surface.centre(a)).point;
  const Vec3 warp = (on.warp[a] + on.warp[b]).normalized(), weft = (on.weft[a] + on.weft[b]).normalized();
  const double du = on.cloth[b][0] - on.cloth[a][0], dv = on.cloth[b][1] - on.cloth[a][1];
  return (du * warp + dv * weft - way).norm() <= 0.5 * way.norm();
}

}  // namespace

std::size_t mend_places(const SmoothSurface& surface, const Net& net, OnElements& on) {
  // Elements that agree, neighbour by neighbour, are one patch. A patch of a few beside one that is much larger lies on
  // cloth where it should not.
  constexpr std::size_t few = 12, much = 20;
  const auto neighbours = [&](ElementIndex e, auto with) {
    for (unsigned k = 0; k < surface.corners[e]; ++k) {
      const ElementIndex other = surface.neighbours[4 * static_cast<std::size_t>(e) + k];
      if (other != mesh::no_index && surface.is_own(other) && on.reached(other)) with(other);
    }
  };
  constexpr std::uint32_t none = 0xFFFFFFFFu;
  std::vector<std::uint32_t> patch(surface.own, none);
  std::vector<std::vector<ElementIndex>> patches;
  for (ElementIndex start = 0; start < surface.own; ++start) {
    if (!on.reached(start) || patch[start] != none) continue;
    const auto number = static_cast<std::uint32_t>(patches.size());
    std::vector<ElementIndex> members{start};
    patch[start] = number;
    for (std::size_t k = 0; k < members.size(); ++k) {
      const ElementIndex e = members[k];
      neighbours(e, [&](ElementIndex other) {
        if (patch[other] != none || !agree(surface, on, e, other)) return;
        patch[other] = number;
        members.push_back(other);
      });
    }
    patches.push_back(std::move(members));
  }
  const ClothMap map(surface, net);
  std::size_t mended = 0;
  for (const std::vector<ElementIndex>& members : patches) {
    if (members.size() > few) continue;
    std::vector<std::pair<ElementIndex, ElementIndex>> beside;  // a member, and one of a large patch
    for (const ElementIndex e : members)
      neighbours(e, [&](ElementIndex other) {
        if (patches[patch[other]].size() >= much * members.size()) beside.emplace_back(e, other);
      });
    if (beside.empty()) continue;
    // From the large patch inwards; what is not found from there is not reached.
    for (const ElementIndex e : members) {
      on.warp[e] = on.weft[e] = Vec3::Zero();
      on.shear[e] = std::numeric_limits<double>::quiet_NaN();
      on.cloth[e] = {on.shear[e], on.shear[e]};
      ++mended;
    }
    for (std::size_t k = 0; k < beside.size(); ++k) {
      const auto [e, from] = beside[k];
      if (on.reached(e)) continue;
      const double cell = net.options.cell;
      const auto found =
          look(surface, map, e,
               {static_cast<float>(on.cloth[from][0] / cell), static_cast<float>(on.cloth[from][1] / cell)});
      if (!found) continue;
      put(on, surface, net, e, *found);
      if (!agree(surface, on, from, e)) {
        on.warp[e] = on.weft[e] = Vec3::Zero();
        on.shear[e] = std::numeric_limits<double>::quiet_NaN();
        on.cloth[e] = {on.shear[e], on.shear[e]};
        continue;
      }
      for (unsigned side = 0; side < surface.corners[e]; ++side) {
        const ElementIndex next = surface.neighbours[4 * static_cast<std::size_t>(e) + side];
        if (std::find(members.begin(), members.end(), next) != members.end()) beside.emplace_back(next, e);
      }
    }
  }
  return mended;
}

}  // namespace bordado::drape
