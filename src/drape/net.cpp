#include "weaving.hpp"

#include <bordado/base/work.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace bordado::drape {

namespace {

constexpr int floored(int value, int by) { return value >= 0 ? value / by : -((by - 1 - value) / by); }

}  // namespace

const Knot* Lattice::find(int i, int j) const {
  const int r = floored(j, side) - first_;
  if (r < 0 || r >= static_cast<int>(rows_.size())) return nullptr;
  const Row& row = rows_[static_cast<std::size_t>(r)];
  const int c = floored(i, side) - row.first;
  if (c < 0 || c >= static_cast<int>(row.tiles.size())) return nullptr;
  const auto& tile = row.tiles[static_cast<std::size_t>(c)];
  if (!tile) return nullptr;
  return &(*tile)[static_cast<std::size_t>((j - floored(j, side) * side) * side + i - floored(i, side) * side)];
}

Knot& Lattice::make(int i, int j) {
  if (const Knot* const knot = find(i, j)) return const_cast<Knot&>(*knot);
  const int r = floored(j, side), c = floored(i, side);
  if (rows_.empty()) first_ = r;
  while (r < first_) rows_.insert(rows_.begin(), Row{}), --first_;
  if (r - first_ >= static_cast<int>(rows_.size())) rows_.resize(static_cast<std::size_t>(r - first_ + 1));
  Row& row = rows_[static_cast<std::size_t>(r - first_)];
  if (row.tiles.empty()) row.first = c;
  while (c < row.first) row.tiles.insert(row.tiles.begin(), nullptr), --row.first;
  if (c - row.first >= static_cast<int>(row.tiles.size()))
    row.tiles.resize(static_cast<std::size_t>(c - row.first + 1));
  auto& tile = row.tiles[static_cast<std::size_t>(c - row.first)];
  if (!tile) tile = std::make_unique<Tile>();
  return (*tile)[static_cast<std::size_t>((j - r * side) * side + i - c * side)];
}

std::size_t Lattice::bytes() const {
  std::size_t out = 0;
  for (const Row& row : rows_) {
    out += row.tiles.size() * sizeof(void*);
    for (const auto& tile : row.tiles) out += tile ? sizeof(Tile) : 0;
  }
  return out;
}

namespace {

class Weaver : Weaving {
 public:
  Weaver(const SmoothSurface& on, const NetOptions& options) : Weaving(on, options), step_(on) {}

  Net weave() {
    begin();
    for (int s = 1; !front_empty() && !net.cut_short; ++s) diagonal(s);
    if (net.options.fill && !net.cut_short) fill();
    return std::move(net);
  }

 private:
  void begin() {
    const bool led = net.options.along.size() > 1;
    OnLine place;
    if (led) {
      place = nearest_on_line();
      if (place.distance > net.options.cell)
        throw Failure(
            {Severity::error,
             "drape.along-beside",
             fmt::format("the seed lies {:.4g} beside the curve that the cloth is to follow, more than a cell "
                         "of {:.4g}",
                         place.distance, net.options.cell),
             {},
             "put the seed on the curve"});
      net.options.seed = place.point;
    }
    Crossing at;
    Vec3 warp = start(at), weft = turned(warp, at.normal, net.options.rest.radians());
    if (led) lead_along(place, at, warp, weft);
    heading_ = {warp, weft, -warp, -weft};
    running_ = {true, true, true, true};
    for (auto& front : front_) front.assign(1, 0);
  }

  /// Where the line that the cloth follows comes nearest to the seed.
  struct OnLine {
    std::size_t piece = 0;
    Vec3 point = Vec3::Zero();
    double distance = std::numeric_limits<double>::infinity();
  };
  OnLine nearest_on_line() const {
    const auto& line = net.options.along;
    OnLine out;
    for (std::size_t k = 0; k + 1 < line.size(); ++k) {
      const Vec3 side = line[k + 1] - line[k];
      const double t =
          std::clamp((net.options.seed - line[k]).dot(side) / std::max(side.squaredNorm(), 1e-300), 0.0, 1.0);
      const Vec3 point = line[k] + t * side;
      if (const double distance = (point - net.options.seed).norm(); distance < out.distance)
        out = {k, point, distance};
    }
    return out;
  }

  /// Lays the yarn that runs along the line at the seed, warp or weft, exactly along it, and leads it by points on the line
  /// a cell apart. The other stands to it there as it does at rest.
  void lead_along(const OnLine& place, const Crossing& seed, Vec3& warp, Vec3& weft) {
    const auto& line = net.options.along;
    const Vec3 side = line[place.piece + 1] - line[place.piece];
    const Vec3 tangent = (side - side.dot(seed.normal) * seed.normal).normalized();
    const double nearly = std::cos(15.0 * std::numbers::pi / 180.0);
    const bool by_warp = std::abs(tangent.dot(warp)) >= std::abs(tangent.dot(weft));
    const Vec3& yarn = by_warp ? warp : weft;
    if (std::abs(tangent.dot(yarn)) < nearly)
      throw Failure(
          {Severity::error,
           "drape.along-askew",
           fmt::format("at the seed the warp stands at {:.0f}° to the curve that the cloth is to follow, and the "
                       "weft at {:.0f}°",
                       Angle::radians(std::acos(std::min(1.0, std::abs(tangent.dot(warp))))).degrees(),
                       Angle::radians(std::acos(std::min(1.0, std::abs(tangent.dot(weft))))).degrees()),
           {},
           "a yarn can follow it that runs along it: give 'direction' along the curve and plies at 0 or 90 "
           "degrees to it, or leave out 'along'"});
    const bool with = tangent.dot(yarn) >= 0.0;
    const Vec3 led = with ? tangent : Vec3(-tangent);
    const double rest = net.options.rest.radians();
    if (by_warp) {
      warp = led;
      weft = turned(warp, seed.normal, rest);
    } else {
      weft = led;
      warp = turned(weft, seed.normal, -rest);
    }
    for (const bool forward : {true, false}) {
      auto& points = led_[(by_warp ? 0 : 1) + (forward ? 0 : 2)];
      const bool ahead = forward == with;
      points.push_back(place.point);
      for (std::size_t k = ahead ? place.piece + 1 : place.piece; k < line.size(); k += ahead ? 1 : std::size_t(-1))
        points.push_back(line[k]);
    }
  }

  /// The next place of a generator that follows a line: where the line leaves a sphere round the last place.
  std::optional<Crossing> on_line(std::size_t half, const Crossing& from) {
    auto& line = led_[half];
    const double cell = net.options.cell;
    for (std::size_t k = led_at_[half]; k + 1 < line.size(); ++k) {
      const Vec3 d = line[k + 1] - line[k], o = line[k] - from.point;
      const double a = d.squaredNorm(), b = o.dot(d), c = o.squaredNorm() - cell * cell, root = b * b - a * c;
      if (!(a > 0.0) || root < 0.0) continue;
      const double t = (-b + std::sqrt(root)) / a;
      if (t < 0.0 || t > 1.0) continue;
      const auto spot = surface.under(line[k] + t * d, from.spot.element);
      if (!spot) return std::nullopt;
      led_at_[half] = k;
      return crossing_at(surface, *spot);
    }
    return std::nullopt;
  }

  bool front_empty() const {
    return std::all_of(front_.begin(), front_.end(), [](const auto& front) { return front.size() < 2; }) && begun_ &&
           std::none_of(running_.begin(), running_.end(), [](bool runs) { return runs; });
  }

  static constexpr int signs[4][2] = {{1, 1}, {-1, 1}, {-1, -1}, {1, -1}};

  /// The generators one step further, half k from its place s - 1.
  bool generate(std::size_t half, int s) {
    static constexpr int ways[4][2] = {{1, 0}, {0, 1}, {-1, 0}, {0, -1}};
    const Knot* const last = net.lattice.placed(ways[half][0] * (s - 1), ways[half][1] * (s - 1));
    if (!last || !last->goes_on) return false;
    const Steering& steering = net.options.steering[half];
    const double cell = net.options.cell, middle = (s - 1) * cell;
    const Crossing from = as_crossing(*last);
    Crossing next;
    const int i = ways[half][0] * s, j = ways[half][1] * s;
    Knot& knot = net.lattice.make(i, j);
    if (!led_[half].empty())
      if (const auto found = on_line(half, from)) {
        const Vec3 chord = found->point - from.point;
        heading_[half] = (chord - chord.dot(found->normal) * found->normal).normalized();
        put(knot, *found, i, j, last->lap, last->beside);
        return true;
      }
    const double turn = 0.5 * (steering.curvature + steering.change * (middle + 0.5 * cell)) * cell;
    Vec3 direction = turned(heading_[half], from.normal, turn);
    const Stop stop = step_.onward(from, direction, cell, next);
    if (stop != Stop::none) {
      stopped(knot, stop, from);
      return false;
    }
    direction = turned(direction, next.normal, turn);
    heading_[half] = direction;
    put(knot, next, i, j, last->lap, last->beside);
    return true;
  }

  struct Candidate {
    int i, j;
    const Knot *a, *b, *c;
    Knot* own;
    double hand;
    std::size_t quadrant;
    int place;
    Stop stop = Stop::none;
    Crossing crossing = {};
  };

  /// All knots that are s cells from the seed, along warp and weft together.
  void diagonal(int s) {
    begun_ = true;
    for (std::size_t half = 0; half < 4; ++half)
      if (running_[half]) running_[half] = generate(half, s);
    candidates_.clear();
    for (std::size_t q = 0; q < 4; ++q) {
      const auto& front = front_[q];  // ascending |i| of the knots before
      const int si = signs[q][0], sj = signs[q][1];
      for (std::size_t k = 0; k + 1 < front.size(); ++k) {
        if (front[k + 1] != front[k] + 1) continue;
        const int i = front[k] + 1, j = s - i;
        const Knot* const a = net.lattice.placed(si * (i - 1), sj * j);
        const Knot* const b = net.lattice.placed(si * i, sj * (j - 1));
        const Knot* const c = net.lattice.placed(si * (i - 1), sj * (j - 1));
        if (!a || !b || !c || !a->goes_on || !b->goes_on) continue;
        candidates_.push_back({si * i, sj * j, a, b, c, &net.lattice.make(si * i, sj * j), double(si * sj), q, i});
      }
    }
    const auto work = [&](std::size_t begin, std::size_t end) {
      for (std::size_t k = begin; k < end; ++k) {
        Candidate& next = candidates_[k];
        next.stop = step_.meet(as_crossing(*next.a), as_crossing(*next.b), as_crossing(*next.c), net.options.cell,
                               next.hand, next.crossing);
      }
    };
    if (candidates_.size() < 192)
      work(0, candidates_.size());
    else
      parallel_blocks(candidates_.size(), work, 64);
    std::array<std::vector<int>, 4> fronts;
    static constexpr std::size_t warp_half[] = {0, 2, 2, 0}, weft_half[] = {1, 1, 3, 3};
    for (std::size_t q = 0; q < 4; ++q)
      if (running_[weft_half[q]]) fronts[q].push_back(0);
    for (Candidate& next : candidates_) {
      if (next.stop != Stop::none) {
        stopped(*next.own, next.stop, as_crossing(*next.c));
        continue;
      }
      put(*next.own, next.crossing, next.i, next.j, std::min(next.a->lap, next.b->lap),
          next.a->beside || next.b->beside || next.c->beside);
      fronts[next.quadrant].push_back(next.place);
    }
    for (std::size_t q = 0; q < 4; ++q)
      if (running_[warp_half[q]]) fronts[q].push_back(s);
    front_ = std::move(fronts);
  }

  // --- where generators do not reach

  /// Any corner of a cell whose three others are known, nearest to the seed first; then a yarn straight on from where it
  /// ends, and the same again.
  void fill() {
    std::set<std::array<int, 3>> open;  // cells by distance: of which three corners may be known
    const auto offer = [&](int i, int j) {
      for (const int di : {-1, 0})
        for (const int dj : {-1, 0})
          open.insert({std::abs(2 * (i + di) + 1) + std::abs(2 * (j + dj) + 1), i + di, j + dj});
    };
    std::vector<std::array<int, 3>> ends;  // knots from which a yarn may run on
    net.lattice.for_each([&](int i, int j, const Knot& knot) {
      if (!knot.goes_on) return;
      bool rim = false;
      for (const auto& [di, dj] : neighbours4) rim = rim || !net.lattice.placed(i + di, j + dj);
      if (!rim) return;
      ends.push_back({std::abs(i) + std::abs(j), i, j});
      offer(i, j);
    });
    close_cells(open, offer, ends);
    std::sort(ends.begin(), ends.end());
    // First onto elements where cloth is wanted, then past them.
    for (const bool only_wanted : {true, false})
      for (std::size_t k = 0; k < ends.size() && net.filled < most_filled && !net.cut_short; ++k) {
        const auto [distance, i, j] = ends[k];
        for (const auto& [di, dj] : neighbours4) {
          if (!run_on(i, j, di, dj, only_wanted)) continue;
          ends.push_back({distance + 1, i + di, j + dj});
          offer(i + di, j + dj);
          close_cells(open, offer, ends);
        }
      }
  }

  /// The yarn through (i, j) one step straight on, where nothing lies yet.
  bool run_on(int i, int j, int di, int dj, bool only_wanted) {
    if (net.lattice.placed(i + di, j + dj)) return false;
    const Knot* const before = net.lattice.placed(i - di, j - dj);
    const Knot* const own = net.lattice.placed(i, j);
    if (!before || !own || !own->goes_on || own->lap > 0) return false;
    if (const Knot* const tried = net.lattice.find(i + di, j + dj); tried && tried->stop != Stop::none) return false;
    const Crossing from = as_crossing(*own);
    Vec3 direction = -step_.tangent(from, as_crossing(*before));
    Crossing next;
    if (step_.onward(from, direction, net.options.cell, next) != Stop::none) return false;
    const mesh::ElementIndex e = next.spot.element;
    if (!near[e] || (only_wanted && !wanted[e]) || laps(e, i + di, j + dj)) return false;
    Knot& knot = net.lattice.make(i + di, j + dj);
    if (!agrees(next, i + di, j + dj)) {
      stopped(knot, Stop::apart, from);
      return false;
    }
    put(knot, next, i + di, j + dj, 0, own->beside || before->beside);
    ++net.filled;
    return true;
  }

  static constexpr std::size_t most_filled = 20000;
  static constexpr int neighbours4[4][2] = {{1, 0}, {0, 1}, {-1, 0}, {0, -1}};

  /// Whether the knots that are placed next to it are a yarn's length away.
  bool agrees(const Crossing& at, int i, int j) const {
    for (const auto& [di, dj] : neighbours4) {
      const Knot* const other = net.lattice.placed(i + di, j + dj);
      if (!other) continue;
      const double length = at.normal.dot(other->normal) > 0.9 ? (other->point - at.point).norm()
                                                               : step_.way(at, as_crossing(*other)).length;
      if (std::abs(length / net.options.cell - 1.0) > 0.08) return false;
    }
    return true;
  }

  template <class Offer>
  void close_cells(std::set<std::array<int, 3>>& open, const Offer& offer, std::vector<std::array<int, 3>>& ends) {
    while (!open.empty() && !net.cut_short) {
      const auto [distance, i, j] = *open.begin();
      open.erase(open.begin());
      // Corners counter-clockwise; exactly one of them missing, and never tried before.
      static constexpr int around[4][2] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
      int missing = -1, known = 0;
      std::array<const Knot*, 4> corner{};
      for (int k = 0; k < 4; ++k) {
        corner[static_cast<std::size_t>(k)] = net.lattice.placed(i + around[k][0], j + around[k][1]);
        if (corner[static_cast<std::size_t>(k)])
          ++known;
        else
          missing = k;
      }
      if (known != 3) continue;
      const auto& other = [&](int turn) { return corner[static_cast<std::size_t>((missing + turn) % 4)]; };
      const int at_i = i + around[missing][0], at_j = j + around[missing][1];
      const Knot *const a = other(1), *const c = other(2), *const b = other(3);
      if (!a->goes_on || !b->goes_on || !c->goes_on) continue;
      Knot& knot = net.lattice.make(at_i, at_j);
      if (knot.stop != Stop::none) continue;
      Crossing next;
      Stop stop = step_.meet(as_crossing(*a), as_crossing(*b), as_crossing(*c), net.options.cell, 1.0, next);
      if (stop == Stop::none && !agrees(next, at_i, at_j)) stop = Stop::apart;
      if (stop != Stop::none) {
        stopped(knot, stop, as_crossing(*c));
        continue;
      }
      put(knot, next, at_i, at_j, std::min(a->lap, b->lap), a->beside || b->beside || c->beside);
      ends.push_back({std::abs(at_i) + std::abs(at_j), at_i, at_j});
      offer(at_i, at_j);
    }
  }

  Stepper step_;
  std::array<Vec3, 4> heading_;
  std::array<bool, 4> running_{};
  std::array<std::vector<Vec3>, 4> led_;
  std::array<std::size_t, 4> led_at_{};
  std::array<std::vector<int>, 4> front_;
  std::vector<Candidate> candidates_;
  bool begun_ = false;
};

}  // namespace

Net net(const SmoothSurface& surface, const NetOptions& options) { return Weaver(surface, options).weave(); }

}  // namespace bordado::drape
