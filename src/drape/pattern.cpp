#include <bordado/base/work.hpp>
#include <bordado/pattern.hpp>

#include "cloth_map.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

namespace bordado::drape {

using mesh::ElementIndex;

Flat flat(double along_warp, double along_weft, Angle rest) {
  return {along_warp + along_weft * rest.cos(), along_weft * rest.sin()};
}

std::optional<Flat> in_cloth(const SmoothSurface& surface, const Drape& drape, ElementIndex element,
                             const Vec3& point) {
  if (!drape.elements.reached(element)) return std::nullopt;
  const auto spot = surface.under(point, element);
  if (!spot) return std::nullopt;
  const double cell = drape.net.options.cell;
  const auto& from = drape.elements.cloth[element];
  const auto found = ClothMap(surface, drape.net).find(crossing_at(surface, *spot), from[0] / cell, from[1] / cell);
  if (!found) return std::nullopt;
  return flat(found->u * cell, found->v * cell, drape.net.options.rest);
}

std::optional<Vec3> on_part(const SmoothSurface& surface, const Drape& drape, const Flat& place) {
  const Angle rest = drape.net.options.rest;
  const double cell = drape.net.options.cell, weft = place.y() / rest.sin(), warp = place.x() - weft * rest.cos();
  const auto found = ClothMap(surface, drape.net).place(warp / cell, weft / cell);
  if (!found) return std::nullopt;
  return found->point;
}

namespace {

double area_of(const std::vector<Flat>& line) {
  double sum = 0.0;
  for (std::size_t k = 0; k < line.size(); ++k) {
    const Flat &a = line[k], &b = line[(k + 1) % line.size()];
    sum += 0.5 * (a.x() * b.y() - a.y() * b.x());
  }
  return sum;
}

bool holds(const std::vector<Flat>& line, const Flat& point) {
  bool inside = false;
  for (std::size_t k = 0; k < line.size(); ++k) {
    const Flat &a = line[k], &b = line[(k + 1) % line.size()];
    if ((a.y() > point.y()) == (b.y() > point.y())) continue;
    if (point.x() < a.x() + (b.x() - a.x()) * (point.y() - a.y()) / (b.y() - a.y())) inside = !inside;
  }
  return inside;
}

class Cutter {
 public:
  Cutter(const mesh::Surface& mesh, const SmoothSurface& surface, const Drape& drape,
         std::span<const ElementIndex> elements, std::span<const double> level)
      : mesh_(mesh), surface_(surface), drape_(drape), level_(level), map_(surface, drape.net) {
    taken_.assign(surface.own, 0);
    for (const ElementIndex e : elements)
      if (drape.elements.reached(e) && e < surface.own) taken_[e] = 1, elements_.push_back(e);
  }

  std::vector<Pattern> cut() {
    place_corners();
    hold_together();
    for (const ElementIndex e : elements_) outline(e);
    return loops();
  }

 private:
  static constexpr double none = std::numeric_limits<double>::quiet_NaN();

  std::size_t slot(ElementIndex e, unsigned k) const { return 4 * static_cast<std::size_t>(e) + k; }

  Spot spot_of(ElementIndex e, double corner) const {  // along the border of the element: 0 to 1 is side 1-2, ...
    static constexpr double corner3[][2] = {{0, 0}, {1, 0}, {0, 1}},
                            corner4[][2] = {{-1, -1}, {1, -1}, {1, 1}, {-1, 1}};
    const auto* const c = surface_.corners[e] == 3 ? corner3 : corner4;
    const unsigned n = surface_.corners[e], side = static_cast<unsigned>(corner) % n, next = (side + 1) % n;
    const double t = corner - std::floor(corner);
    return {e, c[side][0] * (1 - t) + c[next][0] * t, c[side][1] * (1 - t) + c[next][1] * t};
  }

  /// A place on the border of an element; where the net does not reach so far, as it goes on from the centre.
  Flat place(ElementIndex e, double corner) const {
    const double cell = drape_.net.options.cell;
    const Angle rest = drape_.net.options.rest;
    const auto& from = drape_.elements.cloth[e];
    const Crossing at = crossing_at(surface_, spot_of(e, corner));
    if (const auto found = map_.find(at, from[0] / cell, from[1] / cell)) {
      const Flat here = flat(found->u * cell, found->v * cell, rest);
      // The same cloth as at the centre: not further from there than an element.
      const double apart = (here - flat(from[0], from[1], rest)).norm();
      if (apart < 4.0 * (at.point - centre(e)).norm()) return here;
    }
    const Vec3 d = at.point - centre(e);
    const Vec3 &warp = drape_.elements.warp[e], &weft = drape_.elements.weft[e];
    const double c = warp.dot(weft), det = std::max(1e-6, 1.0 - c * c), a = d.dot(warp), b = d.dot(weft);
    return flat(from[0] + (a - c * b) / det, from[1] + (b - c * a) / det, rest);
  }
  Vec3 centre(ElementIndex e) const { return surface_.point(surface_.centre(e)); }

  void place_corners() {
    corner_.assign(4 * surface_.own, Flat(none, none));
    parallel_blocks(
        elements_.size(),
        [&](std::size_t begin, std::size_t end) {
          for (std::size_t k = begin; k < end; ++k)
            for (unsigned c = 0; c < surface_.corners[elements_[k]]; ++c)
              corner_[slot(elements_[k], c)] = place(elements_[k], c);
        },
        256);
  }

  std::size_t root(std::size_t of) {
    while (parent_[of] != of) of = parent_[of] = parent_[parent_[of]];
    return of;
  }

  std::optional<unsigned> side_towards(ElementIndex from, ElementIndex to) const {
    for (unsigned k = 0; k < surface_.corners[from]; ++k)
      if (surface_.neighbours[slot(from, k)] == to) return k;
    return std::nullopt;
  }

  /// Corners of elements between which the cloth is whole are one point of it.
  void hold_together() {
    parent_.resize(4 * surface_.own);
    std::iota(parent_.begin(), parent_.end(), std::size_t{0});
    whole_.assign(4 * surface_.own, 0);
    for (const ElementIndex e : elements_)
      for (unsigned k = 0; k < surface_.corners[e]; ++k) {
        const ElementIndex other = surface_.neighbours[slot(e, k)];
        if (other == mesh::no_index || !surface_.is_own(other) || !taken_[other]) continue;
        const auto back = side_towards(other, e);
        if (!back) continue;
        const std::size_t a = slot(e, k), b = slot(e, (k + 1) % surface_.corners[e]),
                          c = slot(other, (*back + 1) % surface_.corners[other]), d = slot(other, *back);
        const double length = (surface_.control[9 * static_cast<std::size_t>(e) + k] -
                               surface_.control[9 * static_cast<std::size_t>(e) + (k + 1) % surface_.corners[e]])
                                  .norm();
        if ((corner_[a] - corner_[c]).norm() > 0.6 * length || (corner_[b] - corner_[d]).norm() > 0.6 * length)
          continue;
        whole_[a] = 1;
        if (e < other) {
          parent_[root(a)] = root(c);
          parent_[root(b)] = root(d);
        }
      }
    count_.assign(4 * surface_.own, 0.0);
    sum_.assign(4 * surface_.own, Flat::Zero());
    for (const ElementIndex e : elements_)
      for (unsigned k = 0; k < surface_.corners[e]; ++k) {
        sum_[root(slot(e, k))] += corner_[slot(e, k)];
        count_[root(slot(e, k))] += 1.0;
      }
  }

  /// A point of an outline: a corner, a place between two corners on a side, or the middle of a side.
  std::size_t vertex(std::size_t a, std::size_t b, const Flat& at) {
    const auto key = std::minmax(a, b);
    const auto [found, is_new] = vertices_.try_emplace({key.first, key.second}, points_.size());
    if (is_new) points_.push_back(at);
    return found->second;
  }
  std::size_t vertex(std::size_t corner) {
    const std::size_t own = root(corner);
    return vertex(own, own, sum_[own] / count_[own]);
  }

  double level(ElementIndex e, unsigned k) const { return level_.empty() ? -1.0 : level_[mesh_.corners_of(e)[k]]; }

  void segment(std::size_t from, std::size_t to, ElementIndex e) {
    if (from != to) next_[from].push_back({to, e});
  }

  /// The sides of an element, as far as the level lets them, that are border; and the line that the level cuts across it.
  void outline(ElementIndex e) {
    const unsigned n = surface_.corners[e];
    struct Gate {
      std::size_t vertex;
      bool leaves;  ///< going round the element one leaves the cloth there
    };
    std::vector<Gate> gates;
    for (unsigned k = 0; k < n; ++k) {
      const unsigned next = (k + 1) % n;
      const double a = level(e, k), b = level(e, next);
      const bool in_a = a <= 0.0, in_b = b <= 0.0;
      std::optional<std::size_t> crossing;
      double t = 0.0;
      if (in_a != in_b) {
        t = a / (a - b);
        crossing = vertex(root(slot(e, k)), root(slot(e, next)), place(e, k + std::clamp(t, 1e-9, 1.0 - 1e-9)));
        gates.push_back({*crossing, in_a});
      }
      if (whole_[slot(e, k)] || (!in_a && !in_b)) continue;
      const std::size_t first = in_a ? vertex(slot(e, k)) : *crossing, last = in_b ? vertex(slot(e, next)) : *crossing;
      // A side can be bent in the cloth: by its middle, too.
      const double from = in_a ? 0.0 : t, to = in_b ? 1.0 : t;
      points_.push_back(place(e, k + 0.5 * (from + to)));
      const std::size_t middle = points_.size() - 1;
      segment(first, middle, e);
      segment(middle, last, e);
    }
    // From where one leaves the cloth to where one comes back to it.
    for (std::size_t k = 0; k < gates.size(); ++k)
      if (gates[k].leaves) segment(gates[k].vertex, gates[(k + 1) % gates.size()].vertex, e);
  }

  std::vector<Pattern> loops() {
    struct Loop {
      std::vector<Flat> line;
      std::vector<ElementIndex> beside;
      double area;
    };
    std::vector<Loop> outer, holes;
    for (auto& [start, ways] : next_)
      while (!ways.empty()) {
        Loop loop;
        std::size_t at = start;
        Flat came = Flat::Zero();
        for (;;) {
          auto& onward = next_[at];
          if (onward.empty()) break;
          // Where several ways go on, the one furthest to the left keeps pieces that touch apart.
          std::size_t best = 0;
          if (onward.size() > 1 && !loop.line.empty()) {
            double most = -10.0;
            for (std::size_t k = 0; k < onward.size(); ++k) {
              const Flat d = points_[onward[k].first] - points_[at];
              const double turn = std::atan2(came.x() * d.y() - came.y() * d.x(), came.dot(d));
              if (turn > most) most = turn, best = k;
            }
          }
          const auto [to, e] = onward[best];
          onward.erase(onward.begin() + static_cast<std::ptrdiff_t>(best));
          loop.line.push_back(points_[at]);
          loop.beside.push_back(e);
          came = points_[to] - points_[at];
          at = to;
          if (at == start) break;
        }
        if (at != start || loop.line.size() < 3) continue;
        loop.area = area_of(loop.line);
        (loop.area > 0.0 ? outer : holes).push_back(std::move(loop));
      }
    std::stable_sort(outer.begin(), outer.end(), [](const Loop& a, const Loop& b) { return a.area > b.area; });
    std::vector<Pattern> out;
    for (Loop& loop : outer) {
      Pattern pattern;
      pattern.area = loop.area;
      pattern.outlines.push_back(std::move(loop.line));
      pattern.beside.push_back(std::move(loop.beside));
      out.push_back(std::move(pattern));
    }
    for (Loop& hole : holes) {
      // The smallest piece round it.
      Pattern* round = nullptr;
      for (Pattern& pattern : out)
        if (holds(pattern.outlines.front(), hole.line.front()) && (!round || pattern.area < round->area))
          round = &pattern;
      if (!round) continue;
      round->area += hole.area;
      round->outlines.push_back(std::move(hole.line));
      round->beside.push_back(std::move(hole.beside));
    }
    for (Pattern& pattern : out) finish(pattern);
    return out;
  }

  void finish(Pattern& pattern) const {
    const auto& line = pattern.outlines.front();
    pattern.low = pattern.high = line.front();
    for (const Flat& point : line) {
      pattern.low = pattern.low.cwiseMin(point);
      pattern.high = pattern.high.cwiseMax(point);
    }
    pattern.has_seed = holds(line, Flat::Zero());
    for (std::size_t k = 1; k < pattern.outlines.size(); ++k)
      if (holds(pattern.outlines[k], Flat::Zero())) pattern.has_seed = false;
    if (!pattern.has_seed) return;
    // The first crossing of each of the four yarns with the outline.
    const Angle rest = drape_.net.options.rest;
    const double mark = 0.01 * (pattern.high - pattern.low).norm();
    for (const Flat& way : {flat(1, 0, rest), flat(0, 1, rest), flat(-1, 0, rest), flat(0, -1, rest)}) {
      double nearest = std::numeric_limits<double>::infinity();
      for (std::size_t k = 0; k < line.size(); ++k) {
        const Flat &a = line[k], side = line[(k + 1) % line.size()] - a;
        const double det = way.x() * side.y() - way.y() * side.x();
        if (det == 0.0) continue;
        const double along = (a.x() * side.y() - a.y() * side.x()) / det, t = (a.x() * way.y() - a.y() * way.x()) / det;
        if (along > 0.0 && t >= 0.0 && t <= 1.0) nearest = std::min(nearest, along);
      }
      if (std::isfinite(nearest)) pattern.notches.push_back({nearest * way, (nearest - mark) * way});
    }
  }

  const mesh::Surface& mesh_;
  const SmoothSurface& surface_;
  const Drape& drape_;
  std::span<const double> level_;
  ClothMap map_;
  std::vector<ElementIndex> elements_;
  std::vector<std::uint8_t> taken_, whole_;
  std::vector<Flat> corner_, sum_;
  std::vector<double> count_;
  std::vector<std::size_t> parent_;
  std::map<std::pair<std::size_t, std::size_t>, std::size_t> vertices_;
  std::vector<Flat> points_;
  std::map<std::size_t, std::vector<std::pair<std::size_t, ElementIndex>>> next_;
};

}  // namespace

std::vector<Pattern> patterns(const mesh::Surface& mesh, const SmoothSurface& surface, const Drape& drape,
                              std::span<const ElementIndex> elements, std::span<const double> level) {
  return Cutter(mesh, surface, drape, elements, level).cut();
}

// --- lanes

namespace {

/// What of a closed line lies above a height (sense 1) or below it (-1), after I. E. Sutherland and G. W. Hodgman, Comm.
/// ACM 17 (1974) 32.
void clip(std::vector<Flat>& line, std::vector<ElementIndex>& beside, double height, double sense) {
  std::vector<Flat> out;
  std::vector<ElementIndex> out_beside;
  for (std::size_t k = 0; k < line.size(); ++k) {
    const Flat &a = line[k], &b = line[(k + 1) % line.size()];
    const double in_a = sense * (a.y() - height), in_b = sense * (b.y() - height);
    if (in_a >= 0.0) out.push_back(a), out_beside.push_back(beside[k]);
    if ((in_a > 0.0 && in_b < 0.0) || (in_a < 0.0 && in_b > 0.0)) {
      const double t = in_a / (in_a - in_b);
      out.push_back({a.x() + t * (b.x() - a.x()), height});
      out_beside.push_back(beside[k]);
    }
  }
  line = std::move(out);
  beside = std::move(out_beside);
}

}  // namespace

std::vector<Pattern> lanes(const Pattern& pattern, double width) {
  const double broad = pattern.high.y() - pattern.low.y();
  if (broad <= width * (1.0 + 1e-9)) return {pattern};
  const auto count = static_cast<std::size_t>(std::ceil(broad / width - 1e-9));
  std::vector<Pattern> out;
  for (std::size_t lane = 0; lane < count; ++lane) {
    const double low = pattern.low.y() + broad * static_cast<double>(lane) / static_cast<double>(count),
                 high = pattern.low.y() + broad * static_cast<double>(lane + 1) / static_cast<double>(count);
    Pattern part;
    for (std::size_t k = 0; k < pattern.outlines.size(); ++k) {
      std::vector<Flat> line = pattern.outlines[k];
      std::vector<ElementIndex> beside = pattern.beside[k];
      if (lane > 0) clip(line, beside, low, 1.0);
      if (lane + 1 < count) clip(line, beside, high, -1.0);
      if (line.size() < 3) continue;
      part.area += area_of(line);
      part.outlines.push_back(std::move(line));
      part.beside.push_back(std::move(beside));
    }
    if (part.outlines.empty()) continue;
    part.low = part.high = part.outlines.front().front();
    for (const Flat& point : part.outlines.front()) {
      part.low = part.low.cwiseMin(point);
      part.high = part.high.cwiseMax(point);
    }
    part.has_seed = pattern.has_seed && low <= 0.0 && high > 0.0;
    for (const auto& notch : pattern.notches)
      if (notch[0].y() >= low && notch[0].y() <= high) part.notches.push_back(notch);
    out.push_back(std::move(part));
  }
  return out;
}

// --- on the roll

namespace {

/// A raster of the roll: rows across it, each a list of bits along it, sixty-four to a word.
class Raster {
 public:
  explicit Raster(std::size_t rows) : rows_(rows) {}
  /// Whether any of the steps from one to another is taken.
  bool taken(std::size_t row, std::size_t from, std::size_t to) const {
    const auto& words = rows_[row];
    for (std::size_t w = from / 64; w < words.size() && 64 * w < to; ++w)
      if (words[w] & mask(w, from, to)) return true;
    return false;
  }
  void take(std::size_t row, std::size_t from, std::size_t to) {
    auto& words = rows_[row];
    if (words.size() < (to + 63) / 64) words.resize((to + 63) / 64, 0);
    for (std::size_t w = from / 64; 64 * w < to; ++w) words[w] |= mask(w, from, to);
    longest_ = std::max(longest_, to);
  }
  std::size_t longest() const { return longest_; }

 private:
  static std::uint64_t mask(std::size_t word, std::size_t from, std::size_t to) {
    const std::size_t low = from > 64 * word ? from - 64 * word : 0, high = std::min<std::size_t>(64, to - 64 * word);
    const std::uint64_t below = high == 64 ? ~std::uint64_t{0} : (std::uint64_t{1} << high) - 1;
    return below & ~((std::uint64_t{1} << low) - 1);
  }
  std::vector<std::vector<std::uint64_t>> rows_;
  std::size_t longest_ = 0;
};

/// What a pattern covers of a raster, from its lower left: runs of taken steps per row.
struct Shape {
  std::vector<std::vector<std::array<std::size_t, 2>>> rows;
  std::size_t width = 0;  ///< in steps along the roll
};

Shape shape_of(const Pattern& pattern, bool turned, double step, double gap) {
  const Flat low = turned ? Flat(-pattern.high) : pattern.low, high = turned ? Flat(-pattern.low) : pattern.high;
  const auto rows = static_cast<std::size_t>(std::ceil((high.y() - low.y() + gap) / step - 1e-9));
  Shape out;
  out.width = static_cast<std::size_t>(std::ceil((high.x() - low.x() + gap) / step - 1e-9));
  out.rows.resize(std::max<std::size_t>(rows, 1));
  const auto at = [&](const Flat& point) { return Flat((turned ? Flat(-point) : point) - low); };
  for (std::size_t r = 0; r < out.rows.size(); ++r) {
    // All that the piece covers between two lines, widened by the gap: what its outline crosses there, and what is inside.
    const double bottom = static_cast<double>(r) * step - gap, top = static_cast<double>(r + 1) * step;
    std::vector<std::array<double, 2>> spans;
    std::vector<double> cuts;
    const double middle = std::clamp(0.5 * (bottom + gap + top), 0.0, high.y() - low.y());
    for (const auto& line : pattern.outlines)
      for (std::size_t k = 0; k < line.size(); ++k) {
        Flat a = at(line[k]), b = at(line[(k + 1) % line.size()]);
        if ((a.y() > middle) != (b.y() > middle))
          cuts.push_back(a.x() + (b.x() - a.x()) * (middle - a.y()) / (b.y() - a.y()));
        if (a.y() > b.y()) std::swap(a, b);
        if (b.y() < bottom || a.y() > top) continue;
        const auto x_at = [&](double y) {
          return b.y() > a.y() ? a.x() + (b.x() - a.x()) * std::clamp((y - a.y()) / (b.y() - a.y()), 0.0, 1.0) : a.x();
        };
        const double one = x_at(bottom), other = b.y() > a.y() ? x_at(top) : b.x();
        spans.push_back({std::min(one, other), std::max(one, other) + gap});
      }
    std::sort(cuts.begin(), cuts.end());
    for (std::size_t k = 0; k + 1 < cuts.size(); k += 2) spans.push_back({cuts[k], cuts[k + 1] + gap});
    std::sort(spans.begin(), spans.end());
    for (const auto& [from, to] : spans) {
      const auto begin = static_cast<std::size_t>(std::max(0.0, std::floor(from / step)));
      const auto end = std::min(out.width, static_cast<std::size_t>(std::max(0.0, std::ceil(to / step))));
      if (!out.rows[r].empty() && begin <= out.rows[r].back()[1])
        out.rows[r].back()[1] = std::max(out.rows[r].back()[1], end);
      else if (end > begin)
        out.rows[r].push_back({begin, end});
    }
  }
  return out;
}

}  // namespace

Nest nest(std::span<const Pattern> patterns, double width, double gap) {
  if (!(width > 0.0) || !(gap >= 0.0 && gap <= width))
    throw Failure({Severity::error,
                   "drape.gap",
                   fmt::format("a gap of {:g} is asked for on a roll {:g} wide", gap, width),
                   {},
                   "it can be nought and more, up to the width"});
  Nest out;
  out.width = width;
  constexpr std::size_t across = 400;
  const double step = width / across;
  Raster raster(across);
  std::vector<std::size_t> order(patterns.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return patterns[a].high.x() - patterns[a].low.x() > patterns[b].high.x() - patterns[b].low.x();
  });
  for (const std::size_t k : order) {
    const Pattern& pattern = patterns[k];
    if (pattern.high.y() - pattern.low.y() > width * (1.0 + 1e-9)) {
      out.too_wide.push_back(k);
      continue;
    }
    std::optional<std::array<std::size_t, 2>> best;
    bool turned = false;
    for (const bool turn : {false, true}) {
      Shape shape = shape_of(pattern, turn, step, std::max(gap, step));
      if (shape.rows.size() > across) shape = shape_of(pattern, turn, step, 0.0);
      if (shape.rows.size() > across) shape.rows.resize(across);
      std::size_t last = 0;  // the row that stood in the way last time mostly does again
      const auto fits = [&](std::size_t x, std::size_t y) {
        for (std::size_t n = 0; n < shape.rows.size(); ++n) {
          const std::size_t r = (last + n) % shape.rows.size();
          for (const auto& [from, to] : shape.rows[r])
            if (raster.taken(y + r, x + from, x + to)) {
              last = r;
              return false;
            }
        }
        return true;
      };
      const std::size_t end = best ? (*best)[0] : raster.longest();
      for (std::size_t x = 0; x <= end; ++x) {
        std::optional<std::size_t> row;
        for (std::size_t y = 0; y + shape.rows.size() <= across && !row; ++y)
          if (fits(x, y)) row = y;
        if (!row) continue;
        if (!best || x < (*best)[0] || (x == (*best)[0] && *row < (*best)[1])) best = {x, *row}, turned = turn;
        break;
      }
    }
    if (!best) continue;
    Shape shape = shape_of(pattern, turned, step, std::max(gap, step));
    if (shape.rows.size() > across) shape.rows.resize(across);
    for (std::size_t r = 0; r < shape.rows.size(); ++r)
      for (const auto& [from, to] : shape.rows[r]) raster.take((*best)[1] + r, (*best)[0] + from, (*best)[0] + to);
    const Flat low = turned ? Flat(-pattern.high) : pattern.low, high = turned ? Flat(-pattern.low) : pattern.high;
    Placed placed{k, turned,
                  Flat(static_cast<double>((*best)[0]) * step, static_cast<double>((*best)[1]) * step) - low};
    // As wide as the roll: it has no room to stand on a step of the raster.
    placed.by.y() = std::min(placed.by.y(), width - high.y());
    out.length = std::max(out.length, high.x() + placed.by.x());
    out.area += pattern.area;
    out.placed.push_back(placed);
  }
  return out;
}

}  // namespace bordado::drape
