#include <bordado/layup/edges.hpp>

#include <bordado/mesh/corner_weights.hpp>
#include <bordado/mesh/straight.hpp>

#include <bordado/mesh/care.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace bordado::layup {

EdgeLevels::EdgeLevels(const Layup& layup, const mesh::Surface& mesh, zone::ZoneId zone, double reach)
    : layup_(layup),
      surface_(layup.zones.traced_on(mesh)),
      border_(layup.zones.borders.at(zone)),
      zone_(zone),
      reach_(reach) {}

const std::vector<double>& EdgeLevels::from(const std::vector<std::uint8_t>& pieces) {
  const auto [found, is_new] = made_.try_emplace(std::string(pieces.begin(), pieces.end()));
  if (is_new) found->second = mesh::distances_from_border(surface_, zone::lines(surface_, border_, pieces), reach_);
  return found->second;
}

const std::vector<double>& EdgeLevels::distances(std::optional<RampId> ramp) {
  return from(ramp ? layup_.ramps[*ramp].along.at(zone_) : std::vector<std::uint8_t>(border_.pieces.size(), 1));
}

const Outline& EdgeLevels::outline() {
  if (!outline_) outline_ = outline_of(surface_, border_);
  return *outline_;
}

std::vector<double> EdgeLevels::of(const Region& region) {
  std::vector<double> out = moved(region);
  // Corners where the edge is moved by one distance all round; a ramp along a part of the border leaves them round.
  const auto all_round = [&](const std::vector<std::uint8_t>& along) {
    return std::all_of(along.begin(), along.end(), [](std::uint8_t a) { return a != 0; });
  };
  const bool one_ramp = region.moved.size() == 1 && all_round(layup_.ramps[region.moved[0].ramp].along.at(zone_));
  if (region.corners == part::Corners::mitred && (region.edge || one_ramp))
    mitre(surface_, border_, outline(), region.edge ? *region.edge : region.moved[0].by, out);
  if (region.scallop) scallop(surface_, outline(), *region.scallop, reach_, out);
  return out;
}

std::vector<std::pair<const std::vector<double>*, double>> EdgeLevels::parts_of(const Region& region) {
  if (region.moved.empty()) return {{&distances(std::nullopt), region.edge.value_or(0.0)}};
  // Along each part of the border the edge is moved by another distance; by nothing where no ramp runs.
  std::vector<std::pair<const std::vector<double>*, double>> out;
  std::vector<std::uint8_t> rest(border_.pieces.size(), 1);
  for (const Moved& moved : region.moved) {
    const std::vector<std::uint8_t>& along = layup_.ramps[moved.ramp].along.at(zone_);
    for (std::size_t k = 0; k < rest.size(); ++k) rest[k] &= !along[k];
    out.emplace_back(&from(along), moved.by);
  }
  if (std::any_of(rest.begin(), rest.end(), [](std::uint8_t r) { return r != 0; })) out.emplace_back(&from(rest), 0.0);
  return out;
}

std::vector<double> EdgeLevels::moved(const Region& region) {
  std::vector<double> out(surface_.points.size());
  const auto cut_off = [&](double level) { return std::clamp(level, -reach_, reach_); };
  const auto parts = parts_of(region);
  if (region.moved.empty()) {
    const auto& [distance, by] = parts.front();
    for (mesh::NodeIndex n = 0; n < out.size(); ++n)
      out[n] = cut_off((inside(n) ? -(*distance)[n] : (*distance)[n]) - by);
    return out;
  }
  // Inside, every part takes away; outside, the nearest one adds.
  parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
    for (mesh::NodeIndex n = static_cast<mesh::NodeIndex>(begin); n < end; ++n) {
      const double far = std::numeric_limits<double>::infinity();
      double level = inside(n) ? -far : far, nearest = far, nearest_by = 0.0;
      for (const auto& [distance, by] : parts) {
        const double d = (*distance)[n];
        if (inside(n)) {
          level = std::max(level, -d - by);
        } else if (d < nearest || (d == nearest && by > nearest_by)) {
          nearest = d;
          nearest_by = by;
          level = d - by;
        }
      }
      out[n] = cut_off(level);
    }
  });
  return out;
}

double far_of(const Region& region) {
  double far = std::abs(region.edge.value_or(0.0));
  for (const Moved& moved : region.moved) far = std::max(far, std::abs(moved.by));
  return far + (region.scallop ? region.scallop->depth : 0.0);
}

double line_length(const mesh::Surface& surface, mesh::ElementIndex element, std::span<const double> level) {
  const auto corners = surface.corners_of(element);
  const auto in_triangle = [](const std::array<Vec3, 3>& points, const std::array<double, 3>& at) {
    std::array<Vec3, 2> ends;
    std::size_t found = 0;
    for (std::size_t k = 0; k < 3; ++k) {
      const std::size_t next = (k + 1) % 3;
      if ((at[k] <= 0.0) != (at[next] <= 0.0) && found < 2)
        ends[found++] = points[k] + at[k] / (at[k] - at[next]) * (points[next] - points[k]);
    }
    return found == 2 ? (ends[1] - ends[0]).norm() : 0.0;
  };
  const auto point = [&](std::size_t k) -> const Vec3& { return surface.points[corners[k]]; };
  if (corners.size() == 3)
    return in_triangle({point(0), point(1), point(2)}, {level[corners[0]], level[corners[1]], level[corners[2]]});
  Vec3 middle = Vec3::Zero();
  double at_middle = 0.0;
  for (std::size_t k = 0; k < 4; ++k) middle += 0.25 * point(k), at_middle += 0.25 * level[corners[k]];
  double sum = 0.0;
  for (std::size_t k = 0; k < 4; ++k) {
    const std::size_t next = (k + 1) % 4;
    sum += in_triangle({middle, point(k), point(next)}, {at_middle, level[corners[k]], level[corners[next]]});
  }
  return sum;
}

namespace {

/// Zones whose edges go through elements, and how far the furthest is moved.
std::map<zone::ZoneId, double> zones_with_edges(const Layup& layup) {
  std::map<zone::ZoneId, double> out;
  for (const Region& region : layup.regions)
    if (region.has_edge()) out[region.zone] = std::max(out[region.zone], far_of(region));
  return out;
}

std::vector<mesh::Curve> lines_of(const Layup& layup, const mesh::Surface& surface, const Region& region,
                                  EdgeLevels& levels) {
  if (far_of(region) == 0.0) {
    std::vector<mesh::Curve> out;
    for (Outline::Line& line : outline_of(layup.zones.traced_on(surface), layup.zones.borders.at(region.zone)).lines)
      out.push_back(std::move(line.curve));
    return out;
  }
  return mesh::level_lines(layup.zones.traced_on(surface), levels.of(region));
}

/// What cutting the mesh itself along a level would miss: elements where it holds another share of them than on the surface
/// that borders are traced on, ascending, where all of these come to a per cent of what it covers.
std::vector<mesh::ElementIndex> missed_by_mesh(const zone::ZoneSets& zones, const mesh::Surface& surface,
                                               const std::vector<double>& level) {
  const mesh::Surface& traced = zones.traced_on(surface);
  std::vector<mesh::ElementIndex> out;
  double covered = 0.0, of_mesh = 0.0;
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
    double here = 0.0;
    const auto [begin, end] = zones.pieces_of(e);
    for (mesh::ElementIndex f = begin; f < end; ++f)
      here += mesh::flat_area(traced, f) * zone::covered_below(traced, f, level);
    const double area = mesh::flat_area(surface, e), as_mesh = area * zone::covered_below(surface, e, level);
    covered += here;
    of_mesh += as_mesh;
    if (std::abs(here - as_mesh) > 1e-2 * area) out.push_back(e);
  }
  if (std::abs(of_mesh - covered) <= 1e-2 * covered) out.clear();
  return out;
}

}  // namespace

std::vector<mesh::Curve> edge_lines(const Layup& layup, const mesh::Surface& surface, RegionId region) {
  const Region& of = layup.regions[region];
  if (of.has_edge()) {
    EdgeLevels levels(layup, surface, of.zone, far_of(of) + 3.0 * mesh::longest_edge(surface));
    return lines_of(layup, surface, of, levels);
  }
  mesh::NodePairs sides;
  const mesh::EdgeTable edges = mesh::edges(surface);
  for (std::size_t j = 0; j < edges.size(); ++j) {
    std::size_t with = 0;
    const std::uint32_t begin = edges.first[j], end = edges.first[j + 1];
    for (std::uint32_t u = begin; u < end; ++u) with += layup.zones.contains(of.zone, edges.uses[u].element);
    if (with > 0 && with < end - begin) sides.push_back(edges.nodes[j]);
  }
  return mesh::curves_of(surface, sides);
}

List<RegionId, std::vector<mesh::Curve>> edge_lines(const Layup& layup, const mesh::Surface& surface) {
  List<RegionId, std::vector<mesh::Curve>> out(layup.regions.size());
  for (const auto& [zone, far] : zones_with_edges(layup)) {
    EdgeLevels levels(layup, surface, zone, far + 3.0 * mesh::longest_edge(surface));
    for (const RegionId r : layup.regions.ids())
      if (layup.regions[r].has_edge() && layup.regions[r].zone == zone)
        out[r] = lines_of(layup, surface, layup.regions[r], levels);
  }
  return out;
}

mesh::Surface cut_at_edges(const Laid& laid, const mesh::CutOptions& options, mesh::CutReport& report,
                           Findings& findings) {
  const mesh::Surface& surface = laid.surface;
  const mesh::Geometry& geometry = laid.geometry;
  const Layup& layup = laid.layup;
  std::vector<std::vector<double>> levels;
  for (const auto& [zone, furthest] : zones_with_edges(layup)) {
    EdgeLevels of_zone(layup, surface, zone, furthest + 3.0 * mesh::longest_edge(surface));
    for (const Region& region : layup.regions)
      if (region.has_edge() && region.zone == zone) levels.push_back(of_zone.of(region));
  }
  if (levels.empty())
    findings.note("cut.nothing", "no ply has an edge of its own, so the mesh stays as it is", Place::in(surface.file),
                  "edges come from 'edge', 'chamfer' and [ramp.NAME] in the part file");
  // Where the mesh does not hold them, what is cut are the smaller elements that edges are known on.
  const bool curved = std::any_of(surface.shapes.begin(), surface.shapes.end(), mesh::is_quadratic);
  std::set<std::int64_t> missed;
  if (layup.zones.divided)
    for (const std::vector<double>& level : levels)
      for (const mesh::ElementIndex e : missed_by_mesh(layup.zones, surface, level))
        missed.insert(surface.element_ids[e]);
  const mesh::Surface& whole = curved || missed.empty() ? surface : layup.zones.traced_on(surface);
  if (&whole == &surface)
    for (std::vector<double>& level : levels) level.resize(surface.points.size());
  if (curved && !missed.empty())
    findings.warning(
        "zone.narrow",
        fmt::format("elements with curved sides are not divided before they are cut, and what plies cover is narrower "
                    "than two of them in elements {}",
                    listed(std::vector<std::int64_t>(missed.begin(), missed.end()))),
        Place::in(surface.file), "mesh them with two elements over their width and more, or along their outlines");
  mesh::Surface out =
      mesh::cut(whole, &whole == &surface ? geometry : mesh::geometry(whole), std::move(levels), options, report);
  constexpr double sharp = 10.0;  // degrees
  if (!(report.least_angle < std::min(sharp, report.least_before))) return out;
  std::vector<std::int64_t> ids;
  for (mesh::ElementIndex e = 0; e < out.element_count(); ++e)
    if (mesh::least_angle(out.points, out.corners_of(e)) < sharp) ids.push_back(out.element_ids[e]);
  findings.warning(
      "cut.sharp",
      fmt::format("{} {} left with an angle of less than {:g}°, {:.1f}° at the least, where lines run close "
                  "to each other or to a border: elements {}",
                  counted(ids.size(), "element"), ids.size() == 1 ? "is" : "are", sharp, report.least_angle,
                  listed(ids)),
      {surface.file, {}, {}, ids.empty() ? std::optional<std::int64_t>() : ids.front()},
      "mesh finer there before cutting, or let edges that nearly meet run along one line");
  return out;
}

}  // namespace bordado::layup
