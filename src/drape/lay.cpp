#include "weaving.hpp"

#include <bordado/pattern.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <utility>

namespace bordado::drape {

using mesh::ElementIndex;

std::pair<double, CellBy> cell_for(const SmoothSurface& surface, const mesh::Geometry& geometry,
                                   std::span<const std::uint8_t> wanted, double* radius) {
  std::vector<std::pair<double, double>> bent;  // radius and area
  double area = 0.0;
  for (ElementIndex e = 0; e < surface.own; ++e) {
    if (!wanted.empty() && !wanted[e]) continue;
    area += geometry.areas[e];
    bent.emplace_back(static_cast<double>(surface.radius[e]), geometry.areas[e]);
  }
  std::sort(bent.begin(), bent.end());
  double tight = std::numeric_limits<double>::infinity(), sum = 0.0;
  for (const auto& [r, a] : bent) {
    sum += a;
    if (sum >= 0.05 * area) {
      tight = r;
      break;
    }
  }
  if (radius) *radius = tight;
  const double across = std::sqrt(area), most = across / 40.0, least = across / std::sqrt(200'000.0);
  if (0.1 * tight >= most) return {most, CellBy::size};
  if (0.1 * tight >= least) return {0.1 * tight, CellBy::curvature};
  return {least, CellBy::count};
}

namespace {

/// Elements that no whole cell holds, next to those that one does: at the tip of a dart, in a corner of the border. They
/// take the yarns of their neighbours, carried to them along the surface, and are known no better. Twice, so that they
/// reach two elements far.
void carry_to_neighbours(const SmoothSurface& surface, const std::function<bool(ElementIndex)>& is_wanted,
                         const Net& net, OnElements& on, std::vector<float>& known_to) {
  const Stepper step(surface);
  const auto centre = [&](ElementIndex e) { return crossing_at(surface, surface.centre(e)); };
  for (int ring = 0; ring < 2; ++ring) {
    struct Carried {
      ElementIndex element;
      std::array<Vec3, 3> of;  ///< warp, weft, place
      float known_to;
      bool beside;
    };
    std::vector<Carried> found;
    for (ElementIndex e = 0; e < surface.own; ++e) {
      if (on.reached(e) || !is_wanted(e)) continue;
      Vec3 warp = Vec3::Zero(), weft = Vec3::Zero(), place = Vec3::Zero();
      double count = 0.0;
      float known = 0.0f;
      bool beside = false;
      const Crossing here = centre(e);
      for (unsigned k = 0; k < surface.corners[e]; ++k) {
        const ElementIndex other = surface.neighbours[4 * static_cast<std::size_t>(e) + k];
        if (other == mesh::no_index || !surface.is_own(other) || !on.reached(other)) continue;
        const Crossing from = centre(other);
        const Way way = step.way(from, here);
        const Vec3 to = way.length * way.first;
        const double c = on.warp[other].dot(on.weft[other]), det = std::max(1e-6, 1.0 - c * c),
                     a = to.dot(on.warp[other]), b = to.dot(on.weft[other]);
        place += Vec3(on.cloth[other][0] + (a - c * b) / det, on.cloth[other][1] + (b - c * a) / det, 0.0);
        warp += carried(on.warp[other], from.normal, here.normal);
        weft += carried(on.weft[other], from.normal, here.normal);
        count += 1.0;
        if (!known_to.empty() && !(known_to[other] <= known)) known = known_to[other];
        beside = beside || on.beside[other];
      }
      if (count == 0.0) continue;
      const auto flat = [&](const Vec3& v) { return Vec3((v - v.dot(here.normal) * here.normal).normalized()); };
      found.push_back({e, {flat(warp), flat(weft), place / count}, known, beside});
    }
    for (const auto& [e, of, known, beside] : found) {
      if (!known_to.empty()) known_to[e] = known;
      on.beside[e] = beside;
      on.warp[e] = of[0], on.weft[e] = of[1];
      on.cloth[e] = {of[2].x(), of[2].y()};
      const double sine = of[0].cross(of[1]).norm(), cosine = of[0].dot(of[1]);
      on.shear[e] = net.strips ? 0.0 : net.options.rest.degrees() - Angle::radians(std::atan2(sine, cosine)).degrees();
    }
  }
}

}  // namespace

Drape lay(const SmoothSurface& surface, const mesh::Geometry& geometry, const Options& options) {
  Drape out;
  out.lay = options.lay;
  NetOptions net = options.net;
  const bool given = net.cell != 0.0;
  if (!given) std::tie(net.cell, out.cell_by) = cell_for(surface, geometry, net.wanted, &out.radius);
  double covered = 0.0;
  for (ElementIndex e = 0; e < surface.own; ++e)
    if (net.wanted.empty() || net.wanted[e]) covered += geometry.areas[e];
  if (net.cell > 0.4 * std::sqrt(covered))
    throw Failure(
        {Severity::error,
         "drape.cell",
         fmt::format("the cell size is {:g}, and what is to be covered is {:g} across", net.cell, std::sqrt(covered)),
         {},
         "take a cell of a fortieth of that, or leave the size to bordado"});
  constexpr double most = 5e6;
  if (const double cells = covered / (net.cell * net.cell); given && cells > most)
    throw Failure(
        {Severity::error,
         "drape.cell",
         fmt::format("the cell size is {:g}: {:.3g} million cells would cover this, and {:g} million are the "
                     "most",
                     net.cell, cells / 1e6, most / 1e6),
         {},
         fmt::format("take a cell of {:.2g} or more, or leave the size to bordado", 1.05 * std::sqrt(covered / most))});
  if (options.lay == Lay::led) {
    out.led = led_for_least_shear(surface, net);
    net.steering = out.led.steering;
  }
  const auto laid = [&](const SmoothSurface& on, const NetOptions& with) {
    return options.lay == Lay::strips ? strips(on, with) : drape::net(on, with);
  };
  const auto is_wanted = [&](ElementIndex e) { return net.wanted.empty() || net.wanted[e]; };
  out.net = laid(surface, net);
  out.elements = on_elements(surface, out.net);
  /// How far two differ on an element, degrees: in shear, of strips in direction. Not a number where one does not reach it.
  const auto difference = [&](const OnElements& one, const OnElements& other, ElementIndex e) {
    if (!is_wanted(e) || !one.reached(e) || !other.reached(e)) return std::numeric_limits<double>::quiet_NaN();
    if (options.lay != Lay::strips) return std::abs(one.shear[e] - other.shear[e]);
    return Angle::radians(std::acos(std::clamp(one.warp[e].dot(other.warp[e]), -1.0, 1.0))).degrees();
  };
  const auto sum_up = [&](Drape& of) {
    double largest = 0.0, sum = 0.0, area = 0.0;
    for (ElementIndex e = 0; e < surface.own; ++e) {
      const auto off = static_cast<double>(of.known_to[e]);
      if (std::isnan(off)) continue;
      largest = std::max(largest, off);
      sum += off * geometry.areas[e];
      area += geometry.areas[e];
    }
    if (area > 0.0) of.largest_error = largest, of.mean_error = sum / area;
  };
  const auto compare = [&](Drape& fine, const OnElements& coarse) {
    fine.known_to.resize(surface.own);
    for (ElementIndex e = 0; e < surface.own; ++e)
      fine.known_to[e] = static_cast<float>(difference(fine.elements, coarse, e));
    sum_up(fine);
  };
  if (options.with_error && 2.0 * net.cell < 0.4 * surface.size) {
    NetOptions coarse = net;
    coarse.cell *= 2.0;
    compare(out, on_elements(surface, laid(surface, coarse)));
    constexpr double most_cells = 1e6;
    // The best so far is kept: where cloth is led far over the outside of the surface, finer cells may know less.
    Drape best;
    int in_vain = 0;  // steps: with cells still coarse one may be
    while (in_vain < 2 && options.net.cell == 0.0 && out.largest_error && *out.largest_error > options.aim &&
           4.0 * covered <= most_cells * net.cell * net.cell) {
      net.cell *= 0.5;
      Drape finer;
      finer.lay = out.lay, finer.radius = out.radius, finer.led = out.led;
      finer.net = laid(surface, net);
      finer.elements = on_elements(surface, finer.net);
      finer.cell_by = CellBy::accuracy;
      const double before = *out.largest_error;
      compare(finer, out.elements);
      if (!finer.largest_error) break;
      in_vain = *finer.largest_error > 0.8 * before ? in_vain + 1 : 0;
      if (!best.largest_error || *out.largest_error < *best.largest_error) best = std::move(out);
      out = std::move(finer);
    }
    if (best.largest_error && *best.largest_error < *out.largest_error) out = std::move(best);
    // Where the way leads past the border, what the surface would be there is anyone's guess: a second one tells how much
    // depends on it.
    const auto& beside = out.elements.beside;
    if (options.otherwise && std::find(beside.begin(), beside.end(), 1) != beside.end()) {
      const std::shared_ptr<const SmoothSurface> other = options.otherwise();
      const OnElements there = on_elements(*other, laid(*other, out.net.options));
      for (ElementIndex e = 0; e < surface.own; ++e)
        if (beside[e]) out.known_to[e] += static_cast<float>(difference(out.elements, there, e));
      sum_up(out);
    }
  }
  carry_to_neighbours(surface, is_wanted, out.net, out.elements, out.known_to);
  for (ElementIndex e = 0; e < surface.own; ++e) {
    if (!is_wanted(e)) continue;
    if (!out.elements.reached(e)) out.unreached.push_back(e);
    if (out.elements.reached(e) && surface.sharp[e] != 0) out.folds = true;
  }
  return out;
}

Verdict judge(const SmoothSurface& surface, const mesh::Geometry& geometry, const Drape& drape,
              std::span<const ElementIndex> elements, std::optional<double> limit) {
  Verdict out;
  const OnElements& on = drape.elements;
  const Angle rest = drape.net.options.rest;
  double shear = 0.0, thick = 0.0;
  out.least_shear = std::numeric_limits<double>::infinity();
  out.most_shear = -out.least_shear;
  for (const ElementIndex e : elements) {
    const double area = geometry.areas[e];
    out.area += area;
    if (!on.reached(e)) continue;
    out.reached += area;
    const double own = on.shear[e], factor = thickening(rest, own);
    shear += area * std::abs(own);
    thick += area * factor;
    out.least_shear = std::min(out.least_shear, own);
    out.most_shear = std::max(out.most_shear, own);
    out.most_thickening = std::max(out.most_thickening, factor);
    if (!out.worst || std::abs(own) > std::abs(on.shear[*out.worst])) out.worst = e;
    if (limit && std::abs(own) > *limit) {
      out.past_limit += area;
      out.past.push_back(e);
    }
    if (!on.spacing.empty() && std::isfinite(on.spacing[e])) {
      out.widest_gap = std::max(out.widest_gap, on.spacing[e] - 1.0);
      out.widest_overlap = std::max(out.widest_overlap, 1.0 - on.spacing[e]);
    }
    const Spot centre = surface.centre(e);
    for (const Vec3* const fibre : {&on.warp[e], &on.weft[e]}) {
      if (drape.lay == Lay::strips && fibre == &on.weft[e]) continue;
      const double hollow = surface.curvature_along(centre, *fibre);
      if (hollow > 1e-3 / surface.size && (!out.bridging || 1.0 / hollow < *out.bridging))
        out.bridging = 1.0 / hollow, out.bridges_at = e;
    }
  }
  if (out.reached > 0.0) {
    out.mean_shear = shear / out.reached;
    out.mean_thickening = thick / out.reached;
    out.cloth_area = thick;
  } else {
    out.least_shear = out.most_shear = 0.0;
  }
  std::stable_sort(out.past.begin(), out.past.end(),
                   [&](ElementIndex a, ElementIndex b) { return std::abs(on.shear[a]) > std::abs(on.shear[b]); });
  return out;
}

}  // namespace bordado::drape
