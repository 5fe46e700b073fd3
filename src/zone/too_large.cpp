// Where elements are too large for borders to be traced on.
#include <bordado/mesh/corner_weights.hpp>
#include "tracing.hpp"

#include <bordado/base/work.hpp>
#include <bordado/mesh/locate.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>
#include <unordered_map>

namespace bordado::zone {

double area_within(std::span<const Vec3> corners) {
  Vec3 sum = Vec3::Zero();
  for (std::size_t k = 2; k < corners.size(); ++k) sum += (corners[k - 1] - corners[0]).cross(corners[k] - corners[0]);
  return 0.5 * sum.norm();
}

namespace {

/// A piece of a border, or of an edge that is moved from it.
struct Side {
  Vec3 middle, inwards;
  double length;
};

/// What is left between two edges, and how far from the border of the first one to look.
struct Left {
  double between = std::numeric_limits<double>::infinity(), off = 0.0;
};

/// Pieces of a border, moved outwards by a distance, that face each other over the zone or over a gap.
class Facing {
 public:
  /// \param reach pieces of the border further apart than that, and by what both are moved, do not matter
  /// \param of_chamfer the lines are where chamfers end: where two of them pass each other a ridge is left between, for which
  /// a twelfth of the way across is small enough
  Facing(const std::vector<Side>& sides, double reach, double by, bool of_chamfer)
      : sides_(sides), by_(by), of_chamfer_(of_chamfer), cell_(reach + 2.0 * std::abs(by)) {
    for (std::uint32_t k = 0; k < sides.size(); ++k) in_cell_[key(cell_of(sides[k].middle))].push_back(k);
  }

  /// Where the least is left between a piece and one that faces it.
  Left least(std::size_t k) const {
    Left out;
    const Cell at = cell_of(sides_[k].middle);
    for (int i = 0; i < 27; ++i) {
      const auto there = in_cell_.find(key({at[0] + i % 3 - 1, at[1] + i / 3 % 3 - 1, at[2] + i / 9 - 1}));
      if (there == in_cell_.end()) continue;
      for (const std::uint32_t other : there->second) {
        if (other == k) continue;
        const Left left = between(sides_[k], sides_[other]);
        if (left.between > 0.0 && left.between < out.between) out = left;
      }
    }
    return out;
  }

 private:
  using Cell = std::array<std::int64_t, 3>;
  Cell cell_of(const Vec3& at) const {
    Cell out;
    for (Eigen::Index k = 0; k < 3; ++k)
      out[static_cast<std::size_t>(k)] = static_cast<std::int64_t>(std::floor(at[k] / cell_));
    return out;
  }
  static std::uint64_t key(const Cell& at) {
    std::uint64_t out = 0;
    for (const std::int64_t k : at) out = (out ^ static_cast<std::uint64_t>(k)) * 0x9E3779B97F4A7C15ull;
    return out;
  }

  /// Nothing is between those that do not face each other, or move apart.
  Left between(const Side& a, const Side& b) const {
    if (a.inwards.dot(b.inwards) > -0.5) return {};
    const Vec3 way = b.middle - a.middle;
    const double off = way.dot(a.inwards);
    if ((way - off * a.inwards).norm() >= 0.51 * (a.length + b.length)) return {};
    if (off > 0.0 ? by_ > 0.0 : by_ < 0.0) return {};
    const double left = std::abs(off) - 2.0 * std::abs(by_);
    if (of_chamfer_ && left <= 0.0) return {std::abs(off) / 6.0, 0.5 * off};
    return {left, -by_};
  }

  const std::vector<Side>& sides_;
  double by_;
  bool of_chamfer_;
  double cell_;
  std::unordered_map<std::uint64_t, std::vector<std::uint32_t>> in_cell_;
};

class TooLarge : Tracing {
 public:
  TooLarge(const part::Part& part, const Tracing& on) : Tracing(on), part_(part) {}

  std::vector<std::uint8_t> find(const std::map<ZoneId, Traced>& all) const {
    std::vector<std::uint8_t> at_nodes(fine().points.size(), 0);
    bool any = false;
    const auto mark = [&](mesh::ElementIndex f) {
      for (const mesh::NodeIndex n : fine().corners_of(f)) at_nodes[n] = 1;
      any = true;
    };
    for (const auto& [zone, traced] : all) {
      std::set<std::pair<double, bool>> lines{{0.0, false}};
      for (const part::PlyId p : part_.plies.ids()) {
        const part::Ply& ply = part_.plies[p];
        if (sets_.find(ply.zone.value) != zone) continue;
        const double by = ply.edge.value_or(0.0);
        lines.insert({by, false});
        if (const auto length = part::chamfer_length(part_, p)) lines.insert({by - *length, true});
      }
      // How far ramps go in is found later: here the most that they may.
      for (const part::Ramp& ramp : part_.ramps)
        if (ramp.side == part::RampSide::inside && (!ramp.from || sets_.find(ramp.from->value) == zone))
          lines.insert({-longest_run(ramp, zone), true});
      for (const auto& [by, of_chamfer] : lines)
        for (const mesh::ElementIndex f : narrow(zone, traced, by, of_chamfer)) mark(f);
      for (const mesh::ElementIndex f : missed(zone, traced)) mark(f);
    }
    std::vector<std::uint8_t> out;
    if (!any) return out;
    out.assign(fine().element_count(), 0);
    for (mesh::ElementIndex f = 0; f < out.size(); ++f)
      for (const mesh::NodeIndex n : fine().corners_of(f)) out[f] |= at_nodes[n];
    return out;
  }

 private:
  double longest_run(const part::Ramp& ramp, ZoneId zone) const {
    double sum = 0.0;
    for (const part::PlyId p : part_.plies.ids())
      if (sets_.find(part_.plies[p].zone.value) == zone)
        sum += std::max(ramp.step ? *ramp.step : ramp.slope.value_or(0.0) * part::full_thickness(part_, p),
                        ramp.least_step);
    return sum;
  }

  /// How far an element reaches along a direction.
  double width(mesh::ElementIndex f, const Vec3& along) const {
    double low = std::numeric_limits<double>::infinity(), high = -low;
    for (const mesh::NodeIndex n : fine().corners_of(f)) {
      const double at = fine().points[n].dot(along);
      low = std::min(low, at), high = std::max(high, at);
    }
    return high - low;
  }

  /// Elements at an edge, the border moved outwards by a distance, that has another one less than two elements across from
  /// it: a level, straight over elements, does not know the distance from both. Few of them, at the tips of a zone, do not
  /// matter. \param of_chamfer as in Facing
  std::vector<mesh::ElementIndex> narrow(ZoneId zone, const Traced& traced, double by, bool of_chamfer) const {
    std::vector<Side> sides;
    double longest = 0.0, widest = 0.0;
    for (std::size_t k = 0; k < traced.border.pieces.size(); ++k) {
      const Border::Piece& piece = traced.border.pieces[k];
      const Vec3 way = piece.ends[1] - piece.ends[0];
      const double length = way.norm();
      const Vec3 square =
          length > 0.0 ? Vec3(piece.inwards - piece.inwards.dot(way) / (length * length) * way) : piece.inwards;
      sides.push_back({0.5 * (piece.ends[0] + piece.ends[1]), square.normalized(), length});
      for (const mesh::ElementIndex f : traced.on[k]) widest = std::max(widest, width(f, sides[k].inwards));
      longest = std::max(longest, length);
    }
    std::vector<mesh::ElementIndex> out;
    if (!(longest > 0.0)) return out;
    const Facing facing(sides, std::max(longest, 2.0 * widest), by, of_chamfer);
    std::optional<mesh::Locator> locator;
    double area = 0.0;
    for (std::size_t k = 0; k < sides.size(); ++k) {
      const Left left = facing.least(k);
      if (!(left.between < 4.0 * widest)) continue;
      std::array<mesh::ElementIndex, 2> beside = traced.on[k];
      if (left.off != 0.0) {
        if (!locator) locator.emplace(fine());
        const auto found = locator->nearest(sides[k].middle + left.off * sides[k].inwards);
        beside = {found.element, found.element};
        if (found.distance > width(found.element, sides[k].inwards)) continue;
      }
      const double across = std::max(width(beside[0], sides[k].inwards), width(beside[1], sides[k].inwards));
      if (!(left.between < 2.0 * across * (1.0 - 1e-6))) continue;
      area += sides[k].length * across;
      out.insert(out.end(), beside.begin(), beside.end());
    }
    if (area < 5e-3 * sets_.exact_areas[zone]) out.clear();
    return out;
  }

  /// Elements of which a zone's shape holds another share than lies between the pieces of its border, where that comes to
  /// half a per cent of the zone.
  std::vector<mesh::ElementIndex> missed(ZoneId zone, const Traced& traced) const {
    std::vector<mesh::ElementIndex> out;
    if (!levels_[zone]) return out;
    const std::size_t count = fine().element_count();
    std::vector<double> held(count, 1.0);
    for (mesh::ElementIndex f = 0; f < count; ++f)
      for (const mesh::NodeIndex n : fine().corners_of(f))
        if (!traced.border.inside[n]) held[f] = 0.0;
    for (const auto& [f, share] : traced.shares) held[f] = share;
    double sum = 0.0;
    for (mesh::ElementIndex f = 0; f < count; ++f) {
      if (!(held[f] > 0.0)) continue;
      sum += held[f] * mesh::flat_area(fine(), f);
    }
    if (std::abs(sum - sets_.exact_areas[zone]) <= 5e-3 * sets_.exact_areas[zone]) return out;
    const Level& of_zone = levels_[zone];
    const Level level =
        sets_.divided ? Level([&](const OnElement& at) { return of_zone(place(at.element, at.point)); }) : of_zone;
    std::vector<std::uint8_t> differs(count, 0);
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t f = begin; f < end; ++f)
        differs[f] = std::abs(covered_part(fine(), static_cast<mesh::ElementIndex>(f), level) - held[f]) > 5e-3;
    });
    for (mesh::ElementIndex f = 0; f < count; ++f)
      if (differs[f]) out.push_back(f);
    return out;
  }

  const part::Part& part_;
};

}  // namespace

std::vector<std::uint8_t> too_large(const part::Part& part, const Tracing& on, const std::map<ZoneId, Traced>& traced) {
  return TooLarge(part, on).find(traced);
}

}  // namespace bordado::zone
