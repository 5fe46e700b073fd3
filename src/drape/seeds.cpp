#include <bordado/seeds.hpp>

#include "cloth_map.hpp"
#include "weaving.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <mutex>

namespace bordado::drape {

namespace {

using mesh::ElementIndex;

/// Elements spread evenly: the first nearest to the middle, then always the one furthest from those that are taken.
std::vector<ElementIndex> spread(const SmoothSurface& surface, const std::vector<ElementIndex>& wanted,
                                 const Vec3& first, std::size_t count) {
  std::vector<Vec3> centres;
  for (const ElementIndex e : wanted) centres.push_back(surface.point(surface.centre(e)));
  std::vector<double> away(wanted.size());
  for (std::size_t k = 0; k < wanted.size(); ++k) away[k] = (centres[k] - first).squaredNorm();
  std::vector<ElementIndex> out;
  while (out.size() + 1 < count) {
    const auto next = static_cast<std::size_t>(std::max_element(away.begin(), away.end()) - away.begin());
    if (!(away[next] > 0.0)) break;
    out.push_back(wanted[next]);
    for (std::size_t k = 0; k < wanted.size(); ++k)
      away[k] = std::min(away[k], (centres[k] - centres[next]).squaredNorm());
  }
  return out;
}

Trial tried(const SmoothSurface& surface, const NetOptions& options, double area, std::optional<double> limit) {
  Trial out;
  const Net laid = net(surface, options);
  const ClothMap map(surface, laid);
  double covered = 0.0, sum = 0.0, past = 0.0;
  int low_i = 0, high_i = 0, low_j = 0, high_j = 0;
  const double cell = options.cell;
  laid.lattice.for_each([&](int i, int j, const Knot& knot) {
    if (knot.lap > 0 || !surface.is_own(knot.spot.element)) return;
    if (!options.wanted.empty() && !options.wanted[knot.spot.element]) return;
    const auto yarns = map.yarns(i, j);
    if (!yarns) return;
    const double sine = yarns->warp.cross(yarns->weft).dot(knot.normal);
    const double shear =
        std::abs(options.rest.degrees() - Angle::radians(std::atan2(sine, yarns->warp.dot(yarns->weft))).degrees());
    const double own = cell * cell * std::max(0.0, sine);
    covered += own;
    sum += own * std::pow(shear / 90.0, 8.0);
    if (limit && shear > *limit) past += own;
    out.largest = std::max(out.largest, shear);
    low_i = std::min(low_i, i), high_i = std::max(high_i, i), low_j = std::min(low_j, j), high_j = std::max(high_j, j);
  });
  // Knots near the border stand for less or more than their share: a twentieth is no sign of anything.
  out.missing = std::clamp(1.0 - 1.05 * covered / area, 0.0, 1.0);
  out.past = covered > 0.0 ? past / covered : 0.0;
  out.mean = covered > 0.0 ? 90.0 * std::pow((1.0 - out.missing) * sum / covered + out.missing, 1.0 / 8.0) : 90.0;
  const double box = cell * cell * (high_i - low_i + 1.0) * (high_j - low_j + 1.0);
  out.waste = std::clamp(1.0 - area / box, 0.0, 1.0);
  return out;
}

}  // namespace

SeedSearch search_seeds(const SmoothSurface& surface, const mesh::Geometry& geometry, const SeedOptions& options) {
  const auto bounded = [](std::size_t value, std::size_t most, std::string_view what) {
    if (value < 1 || value > most)
      throw Failure({Severity::error,
                     "drape.search",
                     fmt::format("{} {} are asked for", value, what),
                     {},
                     fmt::format("it can be 1 to {}", most)});
  };
  bounded(options.seeds, 10'000, "seeds");
  bounded(options.directions, 360, "directions");
  NetOptions base = options.drape.net;
  std::vector<ElementIndex> wanted;
  double area = 0.0;
  for (ElementIndex e = 0; e < surface.own; ++e)
    if (base.wanted.empty() || base.wanted[e]) wanted.push_back(e), area += geometry.areas[e];
  SeedSearch out;
  out.cell = base.cell = std::min(std::sqrt(area / 625.0), 0.4 * surface.size);
  base.along.clear();
  base.most_knots = 50'000;

  // The place and direction that are given, then others; directions are those of the given one, turned by the least
  // rotation between the normals.
  const auto on = seed_on(surface, base.seed);
  const Spot& given = on.first;
  const Vec3& given_normal = on.second;
  const Vec3 flat = base.direction - base.direction.dot(given_normal) * given_normal;
  if (!(flat.norm() > 0.0872 * base.direction.norm()))
    throw Failure({Severity::error,
                   "drape.direction",
                   "the direction of the warp stands within 5° of the normal at the seed",
                   {},
                   "give a direction along the surface there"});
  std::vector<Spot> places = {given};
  for (const ElementIndex e : spread(surface, wanted, surface.point(given), options.seeds))
    places.push_back(surface.centre(e));
  const double range = options.alike && base.rest.degrees() == 90.0 ? 90.0 : 180.0;
  out.asked = places.size() * options.directions;
  std::vector<std::optional<Trial>> trials(out.asked);
  std::atomic<bool> stopped = false;
  std::atomic<std::size_t> done = 0;
  std::mutex telling;
  parallel_blocks(
      out.asked,
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t k = begin; k < end && !stopped; ++k) {
          if (options.stop && options.stop()) {
            stopped = true;
            break;
          }
          // Places first, so that a search that is stopped has seen all parts of the surface.
          const Spot& place = places[k % places.size()];
          const std::size_t turn = k / places.size();
          NetOptions net = base;
          net.at = place;
          const auto sample = surface.at(place);
          net.seed = sample.point;
          const Vec3 normal = sample.normal();
          const Vec3 zero = carried(flat.normalized(), given_normal, normal);
          const Angle by = Angle::degrees(range * static_cast<double>(turn) / static_cast<double>(options.directions));
          net.direction = turned((zero - zero.dot(normal) * normal).normalized(), normal, by.radians());
          if (options.drape.lay == Lay::led) net.steering = led_for_least_shear(surface, net).steering;
          Trial trial = tried(surface, net, area, options.limit);
          trial.seed = net.seed;
          trial.element = place.element;
          trial.direction = net.direction;
          trial.turn = by;
          trials[k] = trial;
          const std::size_t count = ++done;
          if (options.progress && count % 8 == 0) {
            const std::lock_guard lock(telling);
            options.progress("trying seeds", static_cast<double>(count) / static_cast<double>(out.asked));
          }
        }
      },
      1);
  for (const auto& trial : trials)
    if (trial) out.trials.push_back(*trial);
  const auto rank = [](const Trial& t) {
    return std::tuple(t.missing > 0.03 ? std::round(100.0 * t.missing) : 0.0, std::round(1000.0 * t.past),
                      std::round(10.0 * t.largest), t.waste);
  };
  std::stable_sort(out.trials.begin(), out.trials.end(),
                   [&](const Trial& a, const Trial& b) { return rank(a) < rank(b); });
  return out;
}

}  // namespace bordado::drape
