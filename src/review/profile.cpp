// A cut through the laminate along a line.
#include <bordado/layup/edges.hpp>
#include <bordado/mesh/corner_weights.hpp>

#include <bordado/design.hpp>
#include <bordado/mesh/locate.hpp>
#include <bordado/review/fields.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <set>

namespace bordado::review {

namespace {

/// Where a line of the plane passes nearest to a point: a piece of the line and the share of it.
struct OnLine {
  std::size_t piece = 0;
  double share = 0.0, distance = std::numeric_limits<double>::infinity();
};

OnLine nearest_on(const mesh::Curve& line, const Vec3& point) {
  OnLine out;
  const std::size_t pieces = line.points.size() - (line.closed ? 0 : 1);
  for (std::size_t k = 0; k < pieces; ++k) {
    const Vec3 &a = line.points[k], side = line.points[(k + 1) % line.points.size()] - a;
    const double squared = side.squaredNorm();
    const double s = squared > 0.0 ? std::clamp((point - a).dot(side) / squared, 0.0, 1.0) : 0.0;
    const double d = (point - a - s * side).norm();
    if (d < out.distance) out = {k, s, d};
  }
  return out;
}

std::vector<Vec3> between(const mesh::Curve& line, const OnLine& from, const OnLine& to) {
  const std::size_t n = line.points.size();
  const auto at = [&](const OnLine& on) {
    return Vec3(line.points[on.piece] + on.share * (line.points[(on.piece + 1) % n] - line.points[on.piece]));
  };
  std::vector<Vec3> out{at(from)};
  const bool onwards = to.piece > from.piece || (to.piece == from.piece && to.share >= from.share);
  if (line.closed) {
    // Both ways round; the shorter one.
    const auto way = [&](bool ahead) {
      std::vector<Vec3> points{at(from)};
      if (ahead) {
        const std::size_t steps = onwards ? to.piece - from.piece : n - from.piece + to.piece;
        for (std::size_t k = 1; k <= steps; ++k) points.push_back(line.points[(from.piece + k) % n]);
      } else {
        const std::size_t steps = onwards ? n - (to.piece - from.piece) : from.piece - to.piece;
        for (std::size_t k = 0; k < steps; ++k) points.push_back(line.points[(from.piece + n - k) % n]);
      }
      points.push_back(at(to));
      return points;
    };
    std::vector<Vec3> ahead = way(true), back = way(false);
    const auto long_is = [](const std::vector<Vec3>& points) {
      double sum = 0.0;
      for (std::size_t k = 1; k < points.size(); ++k) sum += (points[k] - points[k - 1]).norm();
      return sum;
    };
    return long_is(ahead) <= long_is(back) ? ahead : back;
  }
  if (onwards)
    for (std::size_t k = from.piece + 1; k <= to.piece; ++k) out.push_back(line.points[k]);
  else
    for (std::size_t k = from.piece; k > to.piece; --k) out.push_back(line.points[k]);
  out.push_back(at(to));
  return out;
}

class Profiler {
 public:
  explicit Profiler(const Design& design)
      : design_(design),
        layup_(design.layup),
        traced_(design.layup.zones.traced_on(design.surface)),
        locator_(design.surface),
        layers_on_(design) {}

  Profile cut(const Vec3& from, const Vec3& to) {
    out_ = {};
    elements_.clear();
    levels_.clear();
    find_way(from, to);
    measure_edges();
    for (std::size_t k = 1; k < out_.points.size(); ++k) add_piece(k);
    find_edges();
    return std::move(out_);
  }

 private:
  void find_way(const Vec3& from, const Vec3& to) {
    const auto a = locator_.nearest(from), b = locator_.nearest(to);
    const auto refuse = [&](std::string what, std::string remedy) {
      throw Failure(
          {Severity::error, "profile.no-way", std::move(what), Place::in(design_.part.file), std::move(remedy)});
    };
    const Vec3 way = b.point - a.point;
    if (!(way.norm() > 1e-9 * mesh::longest_edge(design_.surface)))
      refuse("both places of the line are one", "give two places that lie apart");
    const Vec3 &at_a = design_.geometry.normals[a.element], &at_b = design_.geometry.normals[b.element];
    Vec3 across = way.cross(at_a + at_b);
    if (!(across.norm() > 1e-6 * way.norm())) across = way.cross(at_a);
    if (!(across.norm() > 1e-6 * way.norm()))
      refuse("the line between both places runs along the normals there",
             "give places on the same side of the part, or one in between");
    across.normalize();
    const double near = 1e-6 * way.norm() + 1e-3 * mesh::longest_edge(design_.surface);
    // Along a border the plane may pass the surface by a hair's breadth, on one side or the other.
    for (const double aside : {0.0, 1e-3 * near, -1e-3 * near}) {
      std::vector<double> level;
      for (const Vec3& point : traced_.points) level.push_back((point - a.point).dot(across) - aside);
      for (const mesh::Curve& line : mesh::level_lines(traced_, level)) {
        const OnLine first = nearest_on(line, a.point), last = nearest_on(line, b.point);
        if (first.distance > near || last.distance > near) continue;
        for (const Vec3& point : between(line, first, last)) {
          const double step = out_.points.empty() ? 0.0 : (point - out_.points.back()).norm();
          if (!out_.points.empty() && step <= 1e-9 * way.norm()) continue;
          out_.at.push_back(out_.at.empty() ? 0.0 : out_.at.back() + step);
          out_.points.push_back(point);
        }
        if (out_.points.size() >= 2) return;
        out_ = {};
      }
    }
    refuse("the plane through both places leaves the surface between them",
           "give places with nothing but surface between them, or draw the ways in pieces");
  }

  /// Levels of edges along the line, for the plies that it meets.
  void measure_edges() {
    for (std::size_t k = 1; k < out_.points.size(); ++k)
      elements_.push_back(locator_.nearest(0.5 * (out_.points[k - 1] + out_.points[k])).element);
    // Of regions that hold all of these elements, or none of them, nothing needs to be measured.
    std::set<layup::RegionId> wanted;
    for (const layup::RegionId r : layup_.regions.ids()) {
      if (!layup_.regions[r].has_edge()) continue;
      const double first = layup_.covered(r, elements_.front());
      bool same = first == 0.0 || first == 1.0;
      for (const mesh::ElementIndex e : elements_) same = same && layup_.covered(r, e) == first;
      for (const part::PlyId p : layup_.plies.ids())
        same = same && !(layup_.plies[p].region == r && design_.part.plies[p].chamfer);
      if (!same) wanted.insert(r);
    }
    std::vector<mesh::Locator::Found> places;
    std::optional<mesh::Locator> on_traced;
    if (layup_.zones.divided) on_traced.emplace(traced_);
    for (const Vec3& point : out_.points) places.push_back((on_traced ? *on_traced : locator_).nearest(point));
    for (const layup::RegionId r : wanted) {
      const zone::ZoneId zone = layup_.regions[r].zone;
      auto found = edges_.find(zone);
      if (found == edges_.end())
        found = edges_.emplace(zone, layup::EdgeLevels(layup_, design_.surface, zone, reach())).first;
      const std::vector<double> level = found->second.of(layup_.regions[r]);
      std::vector<double>& along = levels_[r];
      for (const auto& place : places) {
        double sum = 0.0;
        const auto corners = traced_.corners_of(place.element);
        const auto weights = mesh::corner_weights(traced_, place.element, place.point);
        for (std::size_t i = 0; i < corners.size(); ++i) sum += weights[i] * level[corners[i]];
        along.push_back(sum);
      }
    }
  }

  double reach() const {
    double far = 0.0;
    for (const layup::Region& region : layup_.regions) far = std::max(far, layup::far_of(region));
    for (const part::PlyId p : layup_.plies.ids())
      far = std::max(far, part::chamfer_length(design_.part, p).value_or(0.0));
    return far + 3.0 * mesh::longest_edge(design_.surface);
  }

  /// All plies over the piece of line before point k, parted where edges cross it.
  void add_piece(std::size_t k) {
    const mesh::ElementIndex e = elements_[k - 1];
    const double begin = out_.at[k - 1], end = out_.at[k];
    std::vector<double> stops{begin, end};
    for (const auto& [r, level] : levels_)
      for (const double height : heights_of(r)) {
        const double a = level[k - 1] + height, b = level[k] + height;
        if (a * b < 0.0) stops.push_back(begin + a / (a - b) * (end - begin));
      }
    std::sort(stops.begin(), stops.end());
    for (std::size_t i = 1; i < stops.size(); ++i) {
      if (stops[i] - stops[i - 1] <= 1e-9 * (out_.at.back())) continue;
      add_stack(k, e, stops[i - 1], stops[i]);
    }
  }

  /// Depths at which something changes: the edge itself, and where a chamfer is done.
  std::vector<double> heights_of(layup::RegionId r) const {
    std::vector<double> out{0.0};
    for (const part::PlyId p : layup_.plies.ids())
      if (layup_.plies[p].region == r)
        if (const auto length = part::chamfer_length(design_.part, p)) out.push_back(*length);
    return out;
  }

  void add_stack(std::size_t k, mesh::ElementIndex e, double begin, double end) {
    const auto share = [&](double at) { return (at - out_.at[k - 1]) / (out_.at[k] - out_.at[k - 1]); };
    const auto inside = [&](layup::RegionId region) -> std::optional<std::array<double, 2>> {
      const auto level = levels_.find(region);
      if (level == levels_.end()) return std::nullopt;
      const auto at = [&](double s) {
        return level->second[k - 1] + share(s) * (level->second[k] - level->second[k - 1]);
      };
      return std::array{-at(begin), -at(end)};
    };
    for (const layup::LayerAlong& layer : layers_on_.along(e, inside))
      out_.bands.push_back({layer.ply, begin, end, layer.bottom, layer.thickness});
  }

  /// Where a ply is on one side and not on the other.
  void find_edges() {
    std::map<part::PlyId, double> until;  // how far each goes without a gap
    double first = out_.bands.empty() ? 0.0 : out_.bands.front().from;
    const double gap = 1e-6 * out_.at.back();
    for (const Profile::Band& band : out_.bands) {
      const auto found = until.find(band.ply);
      if (found == until.end() ? band.from > first + gap : band.from > found->second + gap)
        out_.edges.push_back({band.ply, band.from, false});
      if (found != until.end() && band.from > found->second + gap)
        out_.edges.push_back({band.ply, found->second, true});
      until[band.ply] = band.to;
    }
    for (const auto& [ply, to] : until)
      if (to < out_.at.back() - gap) out_.edges.push_back({ply, to, true});
    std::stable_sort(out_.edges.begin(), out_.edges.end(), [](const Profile::Edge& a, const Profile::Edge& b) {
      return std::pair(a.at, a.ply) < std::pair(b.at, b.ply);
    });
    // Runs of the same ply at one height are one band.
    std::map<part::PlyId, std::size_t> last;
    std::vector<Profile::Band> merged;
    for (const Profile::Band& band : out_.bands) {
      const auto found = last.find(band.ply);
      if (found != last.end()) {
        Profile::Band& before = merged[found->second];
        const bool level = before.bottom[0] == before.bottom[1] && before.thickness[0] == before.thickness[1];
        if (std::abs(before.to - band.from) <= gap && level && before.bottom == band.bottom &&
            before.thickness == band.thickness) {
          before.to = band.to;
          continue;
        }
      }
      last[band.ply] = merged.size();
      merged.push_back(band);
    }
    out_.bands = std::move(merged);
  }

  const Design& design_;
  const layup::Layup& layup_;
  const mesh::Surface& traced_;  ///< that edges of plies are known on
  mesh::Locator locator_;
  layup::LayersOn layers_on_;
  Profile out_;
  std::vector<mesh::ElementIndex> elements_;               ///< of each piece of the line
  std::map<layup::RegionId, std::vector<double>> levels_;  ///< at the points of the line
  std::map<zone::ZoneId, layup::EdgeLevels> edges_;
};

}  // namespace

std::vector<Profile::Band> settled(const Profile& profile, double exaggeration) {
  std::vector<Profile::Band> out;
  std::map<part::PlyId, Profile::Band> last;
  const double near = 1e-6 * profile.at.back();
  for (Profile::Band band : profile.bands) {
    const auto before = last.find(band.ply);
    const double drop = before == last.end() || std::abs(before->second.to - band.from) > near
                            ? 0.0
                            : before->second.bottom[1] - band.bottom[0];
    last[band.ply] = band;
    double next = profile.at.back();  // the nearest end behind
    for (const Profile::Edge& edge : profile.edges)
      if (edge.at > band.from + near) next = std::min(next, edge.at);
    const double way = std::min(std::abs(drop) * exaggeration, 0.8 * (next - band.from));
    if (way <= near || band.from + way >= band.to) {
      out.push_back(band);
      continue;
    }
    const double share = way / (band.to - band.from);
    const auto at = [share](const std::array<double, 2>& of) { return of[0] + share * (of[1] - of[0]); };
    Profile::Band down = band;
    down.to = band.from + way;
    down.bottom = {band.bottom[0] + drop, at(band.bottom)};
    down.thickness[1] = at(band.thickness);
    band.from = down.to;
    band.bottom[0] = down.bottom[1];
    band.thickness[0] = down.thickness[1];
    out.push_back(down);
    out.push_back(band);
  }
  return out;
}

Profile profile(const Design& design, const Vec3& from, const Vec3& to) { return Profiler(design).cut(from, to); }

namespace {

std::optional<Profile> across(const Design& design, Profiler& profiler, layup::RampId id) {
  const layup::Ramp& ramp = design.layup.ramps[id];
  const zone::Border& border = design.layup.zones.borders.at(ramp.from);
  const std::vector<std::uint8_t>& along = ramp.along.at(ramp.from);
  double thickness = 0.0;
  for (const layup::RampStep& step : ramp.steps) thickness += step.thickness;
  const double margin = std::max(0.3 * ramp.run, 8.0 * thickness);
  const double in = margin - ramp.steps.front().by, out = margin + ramp.steps.back().by;
  // From the middle of its length on, until one can be cut.
  std::vector<std::size_t> pieces;
  for (std::size_t k = 0; k < along.size(); ++k)
    if (along[k]) pieces.push_back(k);
  const std::size_t tries = std::min<std::size_t>(pieces.size(), 24);
  for (std::size_t i = 0; i < tries; ++i) {
    const zone::Border::Piece& piece =
        border.pieces[pieces[(pieces.size() / 2 + i * pieces.size() / tries) % pieces.size()]];
    const Vec3 side = (piece.ends[1] - piece.ends[0]).normalized(), middle = 0.5 * (piece.ends[0] + piece.ends[1]);
    const auto square = [&](const Vec3& way) { return Vec3(way - way.dot(side) * side); };
    const Vec3 inwards = square(piece.inwards);
    // Across a fold the surface goes on in another direction.
    const bool two_elements = piece.is_side() && piece.inside != piece.outside;
    const Vec3 outwards = two_elements ? square(design.geometry.centres[piece.outside] - middle) : Vec3(-inwards);
    if (!(inwards.norm() > 0.0) || !(outwards.norm() > 0.0)) continue;
    try {
      Profile found = profiler.cut(middle + in * inwards.normalized(), middle + out * outwards.normalized());
      // Across the whole of it: every step is met.
      std::set<part::PlyId> met;
      for (const Profile::Edge& edge : found.edges) met.insert(edge.ply);
      bool all = true;
      for (const layup::RampStep& step : ramp.steps)
        for (const part::PlyId p : step.plies) all = all && met.count(p) != 0;
      if (all) return found;
    } catch (const Failure&) {
      continue;  // the surface ends or folds there: another place
    }
  }
  return std::nullopt;
}

}  // namespace

List<layup::RampId, std::optional<Profile>> profiles_across(const Design& design) {
  List<layup::RampId, std::optional<Profile>> out;
  std::optional<Profiler> profiler;
  for (const layup::RampId r : design.layup.ramps.ids()) {
    if (!profiler) profiler.emplace(design);
    out.push_back(across(design, *profiler, r));
  }
  return out;
}

EdgeLines edge_lines(const Design& design) {
  EdgeLines out;
  const auto all = layup::edge_lines(design.layup, design.surface);
  for (const part::PlyId p : design.layup.plies.ids())
    for (const mesh::Curve& line : all[design.layup.plies[p].region]) {
      out.lines.push_back(line);
      out.plies.push_back(p);
    }
  return out;
}

List<part::PlyId, std::vector<RampLine>> ramp_lines(const Design& design) {
  List<part::PlyId, std::vector<RampLine>> out;
  for ([[maybe_unused]] const part::PlyId p : design.layup.plies.ids()) out.push_back({});
  for (const layup::RampId r : design.layup.ramps.ids()) {
    const auto& steps = design.layup.ramps[r].steps;
    for (std::size_t k = 0; k < steps.size(); ++k)
      for (const part::PlyId p : steps[k].plies) out[p].push_back({r, k + 1});
  }
  return out;
}

}  // namespace bordado::review
