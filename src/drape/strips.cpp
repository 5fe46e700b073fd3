#include "weaving.hpp"

#include <bordado/base/work.hpp>

#include <algorithm>
#include <cmath>

namespace bordado::drape {

namespace {

/// Where the line does not reach: strip j + way beside strip j, from the place nearest to the line where there is room.
bool lay_beside(Weaving& weaving, const Stepper& step, int j, int way, int most) {
  const Lattice& lattice = weaving.net.lattice;
  const double cell = weaving.net.options.cell;
  std::vector<int> places;
  lattice.for_each([&](int i, int of, const Knot& knot) {
    if (of == j && knot.goes_on && knot.lap == 0) places.push_back(i);
  });
  std::sort(places.begin(), places.end(),
            [](int a, int b) { return std::pair(std::abs(a), a) < std::pair(std::abs(b), b); });
  for (const int i : places) {
    const Knot* const ahead = lattice.placed(i + 1, j);
    if (!ahead) continue;
    const Crossing from = as_crossing(*lattice.placed(i, j));
    Vec3 across = way * from.normal.cross(step.tangent(from, as_crossing(*ahead)));
    Crossing at;
    if (step.onward(from, across, cell, at) != Stop::none || !weaving.near[at.spot.element] ||
        weaving.laps(at.spot.element, i, j + way))
      continue;
    bool beside = lattice.placed(i, j)->beside;
    Knot& first = weaving.net.lattice.make(i, j + way);
    weaving.put(first, at, i, j + way, 0, beside);
    beside = first.beside;
    for (const int half : {1, -1}) {
      Crossing last = at;
      bool along = beside;
      Vec3 direction = half * way * across.cross(at.normal);
      for (int k = 1; k < most && weaving.near[last.spot.element]; ++k) {
        Crossing next;
        if (step.onward(last, direction, cell, next) != Stop::none ||
            weaving.laps(next.spot.element, i + half * k, j + way))
          break;
        Knot& knot = weaving.net.lattice.make(i + half * k, j + way);
        weaving.put(knot, next, i + half * k, j + way, 0, along);
        along = knot.beside;
        last = next;
      }
    }
    return true;
  }
  return false;
}

}  // namespace

Net strips(const SmoothSurface& surface, const NetOptions& options) {
  Weaving weaving(surface, options);
  weaving.net.strips = true;
  Crossing seed;
  const Vec3 fibres = weaving.start(seed);
  const Stepper step(surface);
  const double cell = options.cell;
  const auto most = static_cast<int>(std::min(1e6, 8.0 * surface.size / cell));

  // The line square to the fibres, both ways; each knot with the direction of its strip.
  struct Strip {
    Crossing at;
    Vec3 direction;
    int j;
    std::array<std::vector<Crossing>, 2> halves = {};
  };
  std::vector<Strip> all{{seed, fibres, 0}};
  for (const int way : {1, -1}) {
    Crossing at = seed;
    Vec3 across = way * seed.normal.cross(fibres);
    for (int j = 1; j < most; ++j) {
      Crossing next;
      if (!weaving.near[at.spot.element] || step.onward(at, across, cell, next) != Stop::none) break;
      // Round a tube the line comes back to where it began.
      if (j > 4 && (next.point - seed.point).norm() < cell && next.normal.dot(seed.normal) > 0.5) break;
      all.push_back({next, way * across.cross(next.normal), way * j});
      at = next;
    }
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const Strip& a, const Strip& b) { return std::abs(a.j) < std::abs(b.j); });
  parallel_blocks(
      all.size(),
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t k = begin; k < end; ++k)
          for (const std::size_t half : {std::size_t{0}, std::size_t{1}}) {
            Crossing at = all[k].at;
            Vec3 direction = half == 0 ? all[k].direction : Vec3(-all[k].direction);
            for (int i = 1; i < most && weaving.near[at.spot.element]; ++i) {
              Crossing next;
              if (step.onward(at, direction, cell, next) != Stop::none) break;
              if (i > 4 && (next.point - all[k].at.point).norm() < cell && next.normal.dot(all[k].at.normal) > 0.5)
                break;
              all[k].halves[half].push_back(next);
              at = next;
            }
          }
      },
      4);
  for (const Strip& strip : all) {
    Knot& middle = weaving.net.lattice.make(0, strip.j);
    const Knot* const before = strip.j == 0 ? nullptr : weaving.net.lattice.placed(0, strip.j - (strip.j > 0 ? 1 : -1));
    if (strip.j != 0) weaving.put(middle, strip.at, 0, strip.j, 0, before && before->beside);
    for (const int half : {0, 1}) {
      int i = 0;
      bool beside = weaving.net.lattice.placed(0, strip.j)->beside;
      for (const Crossing& at : strip.halves[static_cast<std::size_t>(half)]) {
        i += half == 0 ? 1 : -1;
        Knot& knot = weaving.net.lattice.make(i, strip.j);
        weaving.put(knot, at, i, strip.j, 0, beside);
        beside = knot.beside;
      }
    }
  }
  for (const int way : {1, -1}) {
    int j = 0;
    for (const Strip& strip : all)
      if (way * strip.j > way * j) j = strip.j;
    while (std::abs(j) < most && lay_beside(weaving, step, j, way, most)) j += way;
  }
  return std::move(weaving.net);
}

}  // namespace bordado::drape
