// A cut through the laminate along a line, and its drawing.
#include "../layup/edges.hpp"
#include "../mesh/corner_weights.hpp"
#include "sheet.hpp"

#include <bordado/review.hpp>

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
  explicit Profiler(const Design& design) : design_(design), layup_(design.layup), locator_(design.surface) {}

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
      for (const Vec3& point : design_.surface.points) level.push_back((point - a.point).dot(across) - aside);
      for (const mesh::Curve& line : mesh::level_lines(design_.surface, level)) {
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
    for (const Vec3& point : out_.points) places.push_back(locator_.nearest(point));
    for (const layup::RegionId r : wanted) {
      const zone::ZoneId zone = layup_.regions[r].zone;
      auto found = edges_.find(zone);
      if (found == edges_.end())
        found = edges_.emplace(zone, layup::EdgeLevels(layup_, design_.surface, zone, reach())).first;
      const std::vector<double> level = found->second.of(layup_.regions[r]);
      std::vector<double>& along = levels_[r];
      for (const auto& place : places) {
        double sum = 0.0;
        const auto corners = design_.surface.corners_of(place.element);
        const auto weights = mesh::corner_weights(design_.surface, place.element, place.point);
        for (std::size_t i = 0; i < corners.size(); ++i) sum += weights[i] * level[corners[i]];
        along.push_back(sum);
      }
    }
  }

  double reach() const {
    double far = 0.0;
    for (const layup::Region& region : layup_.regions) far = std::max(far, layup::far_of(region));
    for (const part::PlyId p : layup_.plies.ids())
      far = std::max(far, layup::chamfer_length(design_.part, p).value_or(0.0));
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
        if (const auto length = layup::chamfer_length(design_.part, p)) out.push_back(*length);
    return out;
  }

  void add_stack(std::size_t k, mesh::ElementIndex e, double begin, double end) {
    const auto share = [&](double at) { return (at - out_.at[k - 1]) / (out_.at[k] - out_.at[k - 1]); };
    struct There {
      part::PlyId ply;
      std::array<double, 2> thickness;
    };
    std::vector<There> stack;
    std::array<double, 2> h{};
    for (const part::PlyId p : layup_.plies.ids()) {
      const layup::Ply& ply = layup_.plies[p];
      std::array<double, 2> t{ply.thickness, ply.thickness};
      const auto level = levels_.find(ply.region);
      if (level == levels_.end()) {
        if (!layup_.lies_on(p, e)) continue;  // whole elements, or all of them
        if (ply.taper) t[0] = t[1] = layup_.tapers[*ply.taper].thickness[e];
      } else {
        const auto at = [&](double s) {
          return level->second[k - 1] + share(s) * (level->second[k] - level->second[k - 1]);
        };
        if (at(0.5 * (begin + end)) > 0.0) continue;
        const part::Ply& declared = design_.part.plies[p];
        if (const auto length = layup::chamfer_length(design_.part, p)) {
          const double full = layup::full_thickness(design_.part, p), left = declared.chamfer->edge_thickness;
          for (const std::size_t i : {0u, 1u}) {
            t[i] = left + (full - left) * std::clamp(-at(i == 0 ? begin : end) / *length, 0.0, 1.0);
            if (declared.fills) t[i] = full - t[i];
          }
          if (t[0] <= 1e-6 * full && t[1] <= 1e-6 * full) continue;
        } else if (ply.taper) {
          t[0] = t[1] = layup_.tapers[*ply.taper].thickness[e];
        }
      }
      stack.push_back({p, t});
      h[0] += t[0];
      h[1] += t[1];
    }
    std::array<double, 2> z{layup::bottom(design_.part, h[0]), layup::bottom(design_.part, h[1])};
    for (const There& one : stack) {
      out_.bands.push_back({one.ply, begin, end, z, one.thickness});
      z[0] += one.thickness[0];
      z[1] += one.thickness[1];
    }
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
  mesh::Locator locator_;
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

namespace {

using Align = Sheet::Align;
using Point = Sheet::Point;

class ProfileSheet {
 public:
  static constexpr double width = 1191.0, height = 842.0;  // A3, lying
  /// \param top where the drawing begins on its sheet.
  ProfileSheet(Sheet& sheet, const Profile& profile, const Design& design, std::string title, double top = 0.0)
      : profile_(profile),
        design_(design),
        unit_(design.part.units.unit(Dimension::length)),
        title_(std::move(title)),
        top_(top),
        sheet_(sheet) {}

  void draw() {
    scale();
    sheet_.text({margin, top_ + margin + 14}, 16, title_, Align::left, dark, true);
    const auto place = [](const Vec3& p) { return fmt::format("({:.5g}, {:.5g}, {:.5g})", p[0], p[1], p[2]); };
    sheet_.text(
        {margin, top_ + margin + 30}, 9,
        fmt::format("from {} to {} {}, {:.5g} {} along the surface; {}", place(profile_.points.front()),
                    place(profile_.points.back()), unit_, profile_.at.back(), unit_,
                    exaggeration_ == 1.0 ? std::string("drawn to scale")
                                         : fmt::format("thickness {:g} times as large as lengths", exaggeration_)),
        Align::left, grey);
    draw_bands();
    draw_names();
    draw_dimensions();
    draw_key();
    sheet_.text({margin, top_ + height - 20}, 7,
                fmt::format("lowest: first laid, against the tool; the thin line is the mesh. Distances along the "
                            "surface from the first end of a ply. Bordado {}",
                            version()),
                Align::left, grey);
  }

 private:
  static constexpr double margin = 42.0;

  double x(double at) const { return left_ + at * across_; }
  double y(double z) const { return low_ - (z - z_low_) * up_; }

  void scale() {
    z_low_ = 0.0, z_high_ = 0.0;
    for (const Profile::Band& band : profile_.bands)
      for (const std::size_t i : {0u, 1u}) {
        z_low_ = std::min(z_low_, band.bottom[i]);
        z_high_ = std::max(z_high_, band.bottom[i] + band.thickness[i]);
      }
    across_ = (width - 2 * margin - 70) / profile_.at.back();
    const double tall = 300.0;
    double factor = tall / (z_high_ - z_low_) / across_;
    // A round number that a person can divide by.
    double round = 1.0;
    for (const double step : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 1e4, 1e5})
      if (step <= factor) round = step;
    exaggeration_ = factor < 1.0 ? factor : round;
    up_ = exaggeration_ * across_;
    left_ = margin + 70;
    low_ = top_ + 150.0 + (z_high_ - z_low_) * up_;
  }

  void draw_bands() {
    for (const Profile::Band& band : settled(profile_, exaggeration_)) {
      const layup::Ply& ply = design_.layup.plies[band.ply];
      const Ink fill =
          material::is_core(design_.part.materials[ply.material].kind) ? core_ink : direction_ink(ply.angle);
      const std::vector<Point> outline{{x(band.from), y(band.bottom[0])},
                                       {x(band.to), y(band.bottom[1])},
                                       {x(band.to), y(band.bottom[1] + band.thickness[1])},
                                       {x(band.from), y(band.bottom[0] + band.thickness[0])}};
      const std::vector<std::vector<Point>> outlines{outline};
      sheet_.area(outlines, fill, {fill, 0.2, {}});
      const Sheet::Pen pen{dark, 0.35, {}};
      sheet_.line({outline[0], outline[1]}, pen);
      sheet_.line({outline[2], outline[3]}, pen);
    }
    for (const Profile::Edge& edge : profile_.edges)
      for (const Profile::Band& band : profile_.bands) {
        if (band.ply != edge.ply) continue;
        const std::size_t i = edge.ends ? 1 : 0;
        if (std::abs((edge.ends ? band.to : band.from) - edge.at) > 1e-6 * profile_.at.back()) continue;
        sheet_.line({{x(edge.at), y(band.bottom[i])}, {x(edge.at), y(band.bottom[i] + band.thickness[i])}},
                    {dark, 0.8, {}});
      }
    sheet_.line({{x(0.0), y(0.0)}, {x(profile_.at.back()), y(0.0)}}, {grey, 0.4, {4.0, 2.0}});
  }

  /// Plies named at the left, and at the right where they begin later.
  void draw_names() {
    std::set<part::PlyId> named;
    double last = 1e9;
    for (const Profile::Band& band : profile_.bands) {
      if (band.from > 0.0) continue;
      const double middle = y(band.bottom[0] + 0.5 * band.thickness[0]);
      named.insert(band.ply);
      if (last - middle < 7.0) continue;
      last = middle;
      sheet_.text({left_ - 6, middle + 2.5}, 7,
                  fmt::format("{} {:g}°", design_.part.plies[band.ply].id,
                              same_fibre(design_.layup.plies[band.ply].angle).degrees()),
                  Align::right);
    }
    last = 1e9;
    for (const Profile::Band& band : profile_.bands) {
      if (band.to < profile_.at.back() * (1.0 - 1e-9) || named.count(band.ply)) continue;
      const double middle = y(band.bottom[1] + 0.5 * band.thickness[1]);
      if (last - middle < 7.0) continue;
      last = middle;
      sheet_.text({x(profile_.at.back()) + 4, middle + 2.5}, 7, design_.part.plies[band.ply].id);
    }
  }

  /// Ends of plies from the first one, each on a line of its own; ends at one place share it.
  void draw_dimensions() {
    const double base = low_ + 26.0;
    if (profile_.edges.empty()) {
      sheet_.text({left_, base + 10}, 9, "No ply ends on this line.", Align::left, grey);
      return;
    }
    struct End {
      double at;
      std::string plies;
    };
    std::vector<End> ends;
    for (const Profile::Edge& edge : profile_.edges) {
      const std::string name = fmt::format("{}{}", edge.ends ? "" : "from here ", design_.part.plies[edge.ply].id);
      if (!ends.empty() && edge.at - ends.back().at <= 1e-6 * profile_.at.back())
        ends.back().plies += ", " + name;
      else
        ends.push_back({edge.at, name});
    }
    const double origin = ends.front().at;
    // To a thousandth of the line's length.
    const int digits = std::clamp(static_cast<int>(std::ceil(2.5 - std::log10(profile_.at.back()))), 0, 6);
    const double row = std::min(13.0, (top_ + height - 60.0 - base) / static_cast<double>(ends.size() + 1));
    const double size = std::min(8.0, 0.75 * row);
    for (std::size_t k = 0; k < ends.size(); ++k) {
      const double down = base + row * static_cast<double>(k);
      sheet_.line({{x(ends[k].at), low_ + 4}, {x(ends[k].at), down + 3}}, {hair, 0.5, {}});
      if (k > 0) {
        sheet_.line({{x(origin), down}, {x(ends[k].at), down}}, {dark, 0.5, {}});
        for (const double sign : {-1.0, 1.0}) {  // both ends of the measure
          const double at = sign < 0 ? x(origin) : x(ends[k].at);
          sheet_.line({{at - 2.5, down + 2.5}, {at + 2.5, down - 2.5}}, {dark, 0.8, {}});
        }
      }
      const std::string words =
          k == 0 ? fmt::format("0   {}, {:.{}f} {} from the beginning", ends[k].plies, origin, digits, unit_)
                 : fmt::format("{:.{}f}   {}", ends[k].at - origin, digits, ends[k].plies);
      const double wide = sheet_.width_of(size, words);
      if (x(ends[k].at) + 8 + wide < width - margin)
        sheet_.text({x(ends[k].at) + 8, down + 0.35 * size}, size, words);
      else
        sheet_.text({x(k == 0 ? ends[k].at : origin) - 8, down + 0.35 * size}, size, words, Align::right);
    }
    sheet_.line({{x(origin), low_ + 4}, {x(origin), base + row * static_cast<double>(ends.size() - 1) + 3}},
                {hair, 0.5, {}});
  }

  void draw_key() {
    double at = margin;
    const double down = top_ + 104.0;
    const auto add = [&](const Ink& ink, std::string_view words) {
      sheet_.rectangle({at, down - 7}, 14, 8, ink, {dark, 0.4, {}});
      sheet_.text({at + 19, down}, 8, words);
      at += 19 + sheet_.width_of(8, words) + 18;
    };
    for (const double degrees : {0.0, 45.0, 90.0, -45.0})
      add(direction_ink(Angle::degrees(degrees)), fmt::format("{:g}°", degrees));
    add(core_ink, "core");
  }

  const Profile& profile_;
  const Design& design_;
  std::string unit_, title_;
  double top_;
  Sheet& sheet_;
  double across_ = 1.0, up_ = 1.0, left_ = 0.0, low_ = 0.0, z_low_ = 0.0, z_high_ = 0.0, exaggeration_ = 1.0;
};

}  // namespace

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
    const Vec3 outwards = piece.is_side() ? square(design.geometry.centres[piece.outside] - middle) : Vec3(-inwards);
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

void draw(const Profile& profile, const Design& design, const std::string& path) {
  Sheet sheet(path, ProfileSheet::width, ProfileSheet::height);
  ProfileSheet(sheet, profile, design, fmt::format("{}: section", design.part.name)).draw();
  sheet.commit();
}

void draw_ramps(const Design& design, const std::string& path) {
  std::vector<std::pair<std::string, Profile>> all;
  auto cuts = profiles_across(design);
  for (const layup::RampId r : cuts.ids())
    if (cuts[r])
      all.emplace_back(fmt::format("{}: ramp {}", design.part.name, design.layup.ramps[r].name), std::move(*cuts[r]));
  const bool long_one = path.ends_with(".svg");
  Sheet sheet(path, ProfileSheet::width,
              ProfileSheet::height * (long_one ? static_cast<double>(std::max<std::size_t>(1, all.size())) : 1.0));
  for (std::size_t k = 0; k < all.size(); ++k) {
    if (k > 0 && sheet.has_pages()) sheet.next_page();
    ProfileSheet(sheet, all[k].second, design, all[k].first,
                 sheet.has_pages() ? 0.0 : ProfileSheet::height * static_cast<double>(k))
        .draw();
  }
  if (all.empty()) sheet.text({42, 56}, 12, "no ramp, or none that can be cut across");
  sheet.commit();
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

}  // namespace bordado::review
