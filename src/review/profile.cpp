// A cut through the laminate along a line.
#include <bordado/layup/edges.hpp>
#include <bordado/mesh/corner_weights.hpp>

#include <bordado/base/text.hpp>
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
#include <utility>

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

double length_of(const std::vector<Vec3>& points);

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
    return length_of(ahead) <= length_of(back) ? ahead : back;
  }
  if (onwards)
    for (std::size_t k = from.piece + 1; k <= to.piece; ++k) out.push_back(line.points[k]);
  else
    for (std::size_t k = from.piece; k > to.piece; --k) out.push_back(line.points[k]);
  out.push_back(at(to));
  return out;
}

/// Pieces of a cut in the order and sense in which one goes on where the last leaves off, as near as may be.
class Chain {
 public:
  explicit Chain(const std::vector<mesh::Curve>& lines) : lines_(lines), used_(lines.size(), 0) {}
  /// A piece, and whether it is gone through from its end.
  struct Link {
    std::size_t line;
    bool back;
  };
  void use(std::size_t line) { used_[line] = 1; }
  Vec3 first(const Link& link) const {
    return link.back ? lines_[link.line].points.back() : lines_[link.line].points.front();
  }
  Vec3 last(const Link& link) const { return first({link.line, !link.back}); }
  /// The open piece that begins nearest to a place, of those that are not used yet.
  std::optional<Link> nearest(const Vec3& place) const {
    std::optional<Link> out;
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < lines_.size(); ++i) {
      if (used_[i] || lines_[i].closed || lines_[i].points.size() < 2) continue;
      for (const bool back : {false, true})
        if (const double d = (first({i, back}) - place).norm(); d < least) least = d, out = Link{i, back};
    }
    return out;
  }
  std::vector<Vec3> points(const Link& link) const {
    std::vector<Vec3> out = lines_[link.line].points;
    if (link.back) std::reverse(out.begin(), out.end());
    return out;
  }

 private:
  const std::vector<mesh::Curve>& lines_;
  std::vector<std::uint8_t> used_;
};

double length_of(const std::vector<Vec3>& points) {
  double sum = 0.0;
  for (std::size_t k = 1; k < points.size(); ++k) sum += (points[k] - points[k - 1]).norm();
  return sum;
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
    begin();
    find_way(from, to);
    return finish();
  }

  Profile cut_plane(const Vec3& point, const Vec3& normal) {
    std::vector<double> level;
    for (const Vec3& p : traced_.points) level.push_back((p - point).dot(normal));
    // Along a border the plane may pass the surface by a hair's breadth: on the side that has more of it.
    const double hair = 1e-6 * mesh::longest_edge(design_.surface);
    double most = -1.0, best = 0.0;
    for (const double aside : {0.0, hair, -hair}) {
      take_level(level, aside);
      double on_surface = out_.at.empty() ? 0.0 : out_.at.back();
      for (const auto& [open, end] : out_.openings) on_surface -= end - open;
      if (on_surface > most * (1.0 + 1e-6)) most = on_surface, best = aside;
    }
    take_level(level, best);
    if (out_.points.size() < 2) {
      const auto [low, high] = std::minmax_element(level.begin(), level.end());
      const double at = point.dot(normal);
      std::string words = fmt::format("{:.5g} x + {:.5g} y + {:.5g} z", normal[0], normal[1], normal[2]);
      for (int k = 0; k < 3; ++k)
        if (normal[k] == 1.0) words = "xyz"[k];
      refuse(fmt::format("the plane {} = {:.5g} cuts nothing of the part", words, at),
             fmt::format("the part lies between {:.5g} and {:.5g} of it", at + *low, at + *high));
    }
    return finish();
  }

  /// \param lines on the surface, which need not know its elements
  Profile cut_along(const std::vector<mesh::Curve>& lines) {
    begin();
    std::vector<mesh::Curve> finer;
    for (const mesh::Curve& line : lines) {
      mesh::Curve& out = finer.emplace_back();
      std::vector<Vec3> points = line.points;
      if (line.closed) points.push_back(points.front());
      for (std::size_t k = 0; k < points.size(); ++k) {
        if (k > 0) {
          const Vec3 side = points[k] - points[k - 1];
          const auto there = locator_.nearest(points[k - 1] + 0.5 * side);
          const double size = std::sqrt(design_.geometry.areas[there.element]);
          const auto count = static_cast<std::size_t>(std::clamp(std::ceil(5.0 * side.norm() / size), 1.0, 1e4));
          for (std::size_t i = 1; i < count; ++i)
            out.points.push_back(
                locator_.nearest(points[k - 1] + static_cast<double>(i) / static_cast<double>(count) * side).point);
        }
        out.points.push_back(locator_.nearest(points[k]).point);
      }
    }
    take_all(finer);
    if (out_.points.size() < 2) refuse("the curve has no length", "name one that runs over the part");
    return finish();
  }

 private:
  void begin() {
    out_ = {};
    elements_.clear();
    levels_.clear();
    opening_.clear();
  }
  Profile finish() {
    measure_edges();
    for (std::size_t k = 1; k < out_.points.size(); ++k)
      if (!opening_[k]) add_piece(k);
    find_edges();
    return std::move(out_);
  }

  [[noreturn]] void refuse(std::string what, std::string remedy) const {
    throw Failure(
        {Severity::error, "profile.no-way", std::move(what), Place::in(design_.part.file), std::move(remedy)});
  }

  /// Goes on along these points; from where the line ended to the first of them it is open.
  void go(const std::vector<Vec3>& points, double least) {
    bool first = true;
    for (const Vec3& point : points) {
      const double step = out_.points.empty() ? 0.0 : (point - out_.points.back()).norm();
      const bool open = std::exchange(first, false) && !out_.points.empty();
      if (!out_.points.empty() && step <= least) continue;
      const double before = out_.at.empty() ? 0.0 : out_.at.back();
      if (open) out_.openings.push_back({before, before + step});
      out_.at.push_back(before + step);
      out_.points.push_back(point);
      opening_.push_back(open ? 1 : 0);
    }
  }

  /// The cut where a height above a plane, per node, is so much.
  void take_level(std::vector<double> level, double aside) {
    begin();
    for (double& one : level) one -= aside;
    take_all(mesh::level_lines(traced_, level));
  }

  /// All open pieces from the longest on, to both sides; of closed ones alone the longest, once round.
  void take_all(const std::vector<mesh::Curve>& lines) {
    std::optional<std::size_t> longest;
    double most = 0.0;
    std::size_t closed = 0;
    const bool any_open = std::any_of(lines.begin(), lines.end(), [](const mesh::Curve& line) { return !line.closed; });
    for (std::size_t i = 0; i < lines.size(); ++i) {
      closed += lines[i].closed;
      if (lines[i].closed == any_open) continue;
      if (const double l = length_of(lines[i].points); l > most) most = l, longest = i;
    }
    if (!longest) return;
    const double least = 1e-9 * most;
    if (!any_open) {
      std::vector<Vec3> round = lines[*longest].points;
      round.push_back(round.front());
      go(round, least);
      out_.loops = closed - 1;
      return;
    }
    out_.loops = closed;
    Chain chain(lines);
    std::vector<Chain::Link> links{{*longest, false}};
    chain.use(*longest);
    for (;;) {
      const auto after = chain.nearest(chain.last(links.back())), before = chain.nearest(chain.first(links.front()));
      if (!after) break;
      const double behind = (chain.first(*after) - chain.last(links.back())).norm(),
                   ahead = (chain.first(*before) - chain.first(links.front())).norm();
      if (behind <= ahead) {
        links.push_back(*after);
        chain.use(after->line);
      } else {
        links.insert(links.begin(), {before->line, !before->back});
        chain.use(before->line);
      }
    }
    for (const Chain::Link& link : links) go(chain.points(link), least);
  }

  void find_way(const Vec3& from, const Vec3& to) {
    const auto a = locator_.nearest(from), b = locator_.nearest(to);
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
    std::vector<std::vector<mesh::Curve>> cuts;
    for (const double aside : {0.0, 1e-3 * near, -1e-3 * near}) {
      std::vector<double> level;
      for (const Vec3& point : traced_.points) level.push_back((point - a.point).dot(across) - aside);
      cuts.push_back(mesh::level_lines(traced_, level));
      for (const mesh::Curve& line : cuts.back()) {
        const OnLine first = nearest_on(line, a.point), last = nearest_on(line, b.point);
        if (first.distance > near || last.distance > near) continue;
        go(between(line, first, last), 1e-9 * way.norm());
        if (out_.points.size() >= 2) return;
        begin();
      }
    }
    for (const std::vector<mesh::Curve>& lines : cuts) {
      if (over_openings(lines, a.point, b.point, near)) return;
      begin();
    }
    refuse("the plane through both places leaves the surface between them and does not come back",
           "give places with surface between them, or draw the ways in pieces");
  }

  /// From one piece of the cut to the next that begins nearest, until the one of the other place.
  bool over_openings(const std::vector<mesh::Curve>& lines, const Vec3& a, const Vec3& b, double near) {
    const Vec3 way = b - a;
    std::optional<std::size_t> from, to;
    OnLine at_a, at_b;
    for (std::size_t i = 0; i < lines.size(); ++i) {
      if (lines[i].closed || lines[i].points.size() < 2) continue;
      if (const OnLine on = nearest_on(lines[i], a); on.distance <= near && on.distance < at_a.distance)
        from = i, at_a = on;
      if (const OnLine on = nearest_on(lines[i], b); on.distance <= near && on.distance < at_b.distance)
        to = i, at_b = on;
    }
    if (!from || !to || *from == *to) return false;
    const double least = 1e-9 * way.norm();
    Chain chain(lines);
    chain.use(*from);
    // To the end of its piece that lies towards the other place.
    const mesh::Curve& first = lines[*from];
    const bool ahead = (first.points.back() - first.points.front()).dot(way) >= 0.0;
    const OnLine end{ahead ? first.points.size() - 2 : 0, ahead ? 1.0 : 0.0, 0.0};
    go(between(first, at_a, end), least);
    for (std::size_t step = 0; step < lines.size(); ++step) {
      const auto next = chain.nearest(out_.points.back());
      if (!next) return false;
      if (next->line == *to) {
        const mesh::Curve& last = lines[*to];
        const OnLine begin{next->back ? last.points.size() - 2 : 0, next->back ? 1.0 : 0.0, 0.0};
        go(between(last, begin, at_b), least);
        return out_.points.size() >= 2;
      }
      chain.use(next->line);
      go(chain.points(*next), least);
    }
    return false;
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
    // At the border of an opening the part ends, not a ply.
    std::erase_if(out_.edges, [&](const Profile::Edge& edge) {
      return std::any_of(out_.openings.begin(), out_.openings.end(), [&](const std::array<double, 2>& open) {
        return std::abs(edge.at - open[0]) <= gap || std::abs(edge.at - open[1]) <= gap;
      });
    });
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
  std::vector<mesh::ElementIndex> elements_;  ///< of each piece of the line
  std::vector<std::uint8_t> opening_;         ///< per point: whether nothing lies between it and the one before
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

Profile profile_in_plane(const Design& design, const Vec3& point, const Vec3& normal) {
  if (!(normal.norm() > 0.0))
    throw Failure({Severity::error, "profile.no-way", "the plane has no direction", Place::in(design.part.file),
                   "say x=120, or four numbers a,b,c,d for a x + b y + c z = d"});
  return Profiler(design).cut_plane(point, normal.normalized());
}

Profile profile_along(const Design& design, std::string_view curve) {
  const zone::NamedCurve* const found = design.layup.curves.find(curve);
  if (found && !found->lines.empty()) return Profiler(design).cut_along(found->lines);
  std::vector<std::string> known;
  for (const zone::NamedCurve& one : design.layup.curves.all) known.push_back(one.name);
  const auto near = nearest_name(curve, known);
  throw Failure({Severity::error, "profile.curve-unknown",
                 fmt::format("'{}' is no curve of the part", plain_text(curve)), Place::in(design.part.file),
                 near            ? fmt::format("did you mean '{}'?", *near)
                 : known.empty() ? "declare [curve.NAME], or say --from and --to"
                                 : fmt::format("curves: {}", listed(known, 20))});
}

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
