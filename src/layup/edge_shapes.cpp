#include <bordado/layup/edge_shapes.hpp>

#include <bordado/mesh/chains.hpp>
#include <bordado/mesh/weld.hpp>

#include <bordado/base/work.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace bordado::layup {

Outline outline_of(const mesh::Surface& surface, const zone::Border& border) {
  std::vector<Vec3> ends;
  for (const zone::Border::Piece& piece : border.pieces)
    for (const Vec3& end : piece.ends) ends.push_back(end);
  // A line may run through a node: pieces shorter than this are none.
  const double tiny = 1e-7 * mesh::longest_edge(surface);
  const std::vector<std::uint32_t> same = mesh::weld(ends, tiny);
  std::vector<mesh::Segment> segments;
  std::vector<std::size_t> piece_of;
  for (std::size_t k = 0; k < border.pieces.size(); ++k) {
    if (same[2 * k] == same[2 * k + 1]) continue;
    segments.push_back({{same[2 * k], same[2 * k + 1]}, border.pieces[k].ends});
    piece_of.push_back(k);
  }
  Outline out;
  for (mesh::Chain& chain : mesh::chains(segments)) {
    Outline::Line line{std::move(chain.curve), {}};
    for (const std::uint32_t s : chain.segments) line.inwards.push_back(border.pieces[piece_of[s]].inwards);
    out.lines.push_back(std::move(line));
  }
  return out;
}

namespace {

/// Two straight sides that meet, seen along the line.
struct Corner {
  Vec3 point;
  Vec3 before, behind;          ///< unit directions along the line
  Vec3 out_before, out_behind;  ///< unit, square to them, away from the zone
};

/// Corners of one line.
class Corners {
 public:
  explicit Corners(const Outline::Line& line) : line_(line), n_(line.curve.points.size()) {
    for (std::size_t k = 0; k < pieces(); ++k)
      mean_ += (point(k + 1) - point(k)).norm() / static_cast<double>(pieces());
  }

  std::vector<Corner> find() const {
    std::vector<Corner> out;
    for (std::size_t k = 0; k < n_; ++k) {
      const auto back = side(k, false), on = side(k, true);
      if (!back || !on) continue;
      const double turn = std::acos(std::clamp(back->along.dot(on->along), -1.0, 1.0)) * 180.0 / std::numbers::pi;
      if (turn < 20.0 || turn > 150.0) continue;
      // Where both lines come nearest to each other.
      const Vec3 w = back->from - on->from;
      const double b = back->along.dot(on->along), d = back->along.dot(w), e = on->along.dot(w), det = 1.0 - b * b;
      const double s = (b * e - d) / det, t = (e - b * d) / det;
      const Vec3 at = 0.5 * (back->from + s * back->along + on->from + t * on->along);
      if ((at - point(k)).norm() > 1.5 * mean_) continue;
      if (std::any_of(out.begin(), out.end(), [&](const Corner& c) { return (c.point - at).norm() < 2.0 * mean_; }))
        continue;
      out.push_back({at, back->along, on->along, outwards(*back), outwards(*on)});
    }
    return out;
  }

 private:
  std::size_t pieces() const { return line_.curve.closed ? n_ : n_ - 1; }
  const Vec3& point(std::size_t k) const { return line_.curve.points[k % n_]; }

  struct Side {
    Vec3 from, along, inwards;
  };
  /// A straight stretch that begins a piece or two away from a point, four pieces long and straight to a fiftieth.
  std::optional<Side> side(std::size_t k, bool ahead) const {
    constexpr std::size_t away = 2, pieces_of_a_side = 4;
    std::vector<std::size_t> at;
    for (std::size_t i = away; i <= away + pieces_of_a_side; ++i) {
      if (!line_.curve.closed && (ahead ? k + i >= n_ : k < i)) return std::nullopt;
      at.push_back(ahead ? k + i : k + n_ - i);
    }
    const Vec3 first = point(ahead ? at.front() : at.back()), last = point(ahead ? at.back() : at.front());
    const Vec3 way = last - first;
    if (!(way.norm() > 0.0)) return std::nullopt;
    const Vec3 along = way.normalized();
    for (const std::size_t i : at) {
      const Vec3 off = point(i) - first;
      if ((off - off.dot(along) * along).norm() > 0.02 * mean_) return std::nullopt;
    }
    return Side{first, along, line_.inwards[(ahead ? at.front() : at.front() - 1) % line_.inwards.size()]};
  }
  static Vec3 outwards(const Side& side) {
    return -(side.inwards - side.inwards.dot(side.along) * side.along).normalized();
  }

  const Outline::Line& line_;
  std::size_t n_;
  double mean_ = 0.0;
};

}  // namespace

void mitre(const mesh::Surface& surface, const zone::Border& border, const Outline& outline, double by,
           std::vector<double>& level) {
  if (by == 0.0) return;
  std::vector<Corner> corners;
  for (const Outline::Line& line : outline.lines)
    if (line.curve.points.size() > 8)
      for (Corner& corner : Corners(line).find()) {
        const bool re_entrant = corner.out_before.dot(corner.behind) > 0.0;
        if (re_entrant == (by < 0.0)) corners.push_back(std::move(corner));
      }
  const double reach = 4.0 * std::abs(by) + 2.0 * mesh::longest_edge(surface);
  parallel_blocks(level.size(), [&](std::size_t begin, std::size_t end) {
    for (mesh::NodeIndex n = static_cast<mesh::NodeIndex>(begin); n < end; ++n)
      for (const Corner& corner : corners) {
        const Vec3 v = surface.points[n] - corner.point;
        if (v.squaredNorm() > reach * reach) continue;
        if (v.dot(corner.before) < 0.0 || v.dot(corner.behind) > 0.0) continue;  // beside one of the sides
        if ((border.inside[n] != 0) != (by < 0.0)) continue;
        const double sign = by < 0.0 ? -1.0 : 1.0;
        const double sharp = sign * std::max(sign * v.dot(corner.out_before), sign * v.dot(corner.out_behind)) - by;
        // A sharp corner takes more away inwards and adds more outwards; what other borders do stays.
        level[n] = by < 0.0 ? std::max(level[n], sharp) : std::min(level[n], sharp);
      }
  });
}

void scallop(const mesh::Surface& surface, const Outline& outline, const part::Scallop& scallop, double reach,
             std::vector<double>& level) {
  struct Piece {
    Vec3 from, side;
    double at, length, pitch;
  };
  std::vector<Piece> pieces;
  for (const Outline::Line& line : outline.lines) {
    const double whole = mesh::length(line.curve), pitches = std::max(1.0, std::round(whole / scallop.pitch));
    double at = 0.0;
    const std::size_t n = line.curve.points.size();
    for (std::size_t k = 0; k < line.inwards.size(); ++k) {
      const Vec3& from = line.curve.points[k];
      const Vec3 side = line.curve.points[(k + 1) % n] - from;
      pieces.push_back({from, side, at, side.norm(), whole / pitches});
      at += side.norm();
    }
  }
  parallel_blocks(level.size(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t n = begin; n < end; ++n) {
      if (!(std::abs(level[n]) < reach)) continue;
      double nearest = std::numeric_limits<double>::infinity(), share = 0.0;
      for (const Piece& piece : pieces) {
        const Vec3 v = surface.points[n] - piece.from;
        const double s = std::clamp(v.dot(piece.side) / (piece.length * piece.length), 0.0, 1.0);
        const double d = (v - s * piece.side).squaredNorm();
        if (d < nearest) nearest = d, share = (piece.at + s * piece.length) / piece.pitch;
      }
      const double from_tip = std::abs(share - std::round(share));  // 0 at a tip, 1/2 between two
      level[n] += 2.0 * scallop.depth * from_tip;
    }
  });
}

}  // namespace bordado::layup
