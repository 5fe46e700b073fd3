#include "coverings.hpp"

#include <bordado/base/work.hpp>
#include <bordado/layup/edges.hpp>
#include <bordado/mesh/corner_weights.hpp>

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <set>
#include <tuple>

namespace bordado::layup {

namespace {

class Coverer : Laying {
 public:
  explicit Coverer(const Laying& on) : Laying(on) {}

  void cover() {
    move_edges();
    if (errors.has_errors()) return;
    check_scallops();
    tell_of_moved();
  }

 private:
  /// How far edges of a zone are moved at the most; of zones none of whose edges go through elements nothing.
  std::map<zone::ZoneId, double> furthest() const {
    std::map<zone::ZoneId, double> out;
    for (const Region& region : layup.regions) {
      if (!region.has_edge()) continue;
      out[region.zone] = std::max(out[region.zone], far_of(region));
    }
    for (const Ramp& ramp : layup.ramps) out[ramp.from] = std::max(out[ramp.from], ramp.run);
    for (const PlyId p : layup.plies.ids())
      if (const auto length = part::chamfer_length(part, p)) {
        const Region& region = layup.regions[layup.plies[p].region];
        double& far = out[region.zone];
        far = std::max(far, *length + std::abs(region.edge.value_or(0.0)));
      }
    return out;
  }

  /// Distances are worked out once for each zone.
  void move_edges() {
    const double slack = 3.0 * mesh::longest_edge(surface);
    List<RegionId, Covering> found(layup.regions.size());
    std::vector<std::pair<zone::ZoneId, double>> zones;  // and how far they are looked at
    for (const auto& [zone, far] : furthest())
      if (!layup.zones.borders.at(zone).pieces.empty()) zones.emplace_back(zone, far + slack);  // others are told below
    // Distances are the dear part: those of a few zones at a time, side by side.
    constexpr std::size_t together = 4;
    for (std::size_t first = 0; first < zones.size(); first += together) {
      std::vector<EdgeLevels> ready;
      for (std::size_t k = first; k < std::min(zones.size(), first + together); ++k)
        ready.emplace_back(layup, surface, zones[k].first, zones[k].second);
      parallel_blocks(
          ready.size(),
          [&](std::size_t begin, std::size_t end) {
            for (std::size_t k = begin; k < end; ++k) work_out(zones[first + k].first, ready[k]);
          },
          1);
      for (std::size_t k = 0; k < ready.size(); ++k) {
        const auto& [zone, reach] = zones[first + k];
        EdgeLevels& levels = ready[k];
        measure_room(zone, levels);
        check_narrow(zone, levels, reach);
        for (const RegionId r : layup.regions.ids())
          if (layup.regions[r].has_edge() && layup.regions[r].zone == zone)
            found[r] = covering(zone, levels.of(layup.regions[r]), reach);
        chamfer(zone, levels, found);
      }
    }
    gather(found);
    tell_lengths(found);
    check_ramps();
    check_edges(found);
  }

  /// All distances that are asked of a zone below.
  void work_out(zone::ZoneId zone, EdgeLevels& levels) const {
    levels.work_out({.zone = zone, .edge = 0.0});
    for (const Region& region : layup.regions)
      if (region.has_edge() && region.zone == zone) levels.work_out(region);
    for (const RampId r : layup.ramps.ids())
      if (layup.ramps[r].from == zone) levels.distances(r);
  }

  /// A zone whose border, followed from corner to corner of elements and of smaller ones where it is narrow, does not hold
  /// it: two sides of it cross one of these.
  void check_narrow(zone::ZoneId zone, EdgeLevels& levels, double reach) {
    const double exact = layup.zones.exact_areas[zone];
    const Covering held = covering(zone, levels.of({.zone = zone, .edge = 0.0}), reach);
    double area = 0.0;
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e)
      area += layup.zones.contains(zone, e) ? geometry.areas[e] : 0.0;
    for (const auto& [e, share] : held.parts)
      area += geometry.areas[e] * (static_cast<double>(share) - (layup.zones.contains(zone, e) ? 1.0 : 0.0));
    if (part.list.edges == part::Covered::whole || std::abs(area - exact) <= 1e-2 * exact) return;
    const std::string unit = part.units.unit(Dimension::length);
    findings.warning(
        "zone.narrow",
        fmt::format(
            "zone '{0}' is {1:.4g} {2}^2 by its shape and {3:.4g} {2}^2 between the edges of plies on this mesh: "
            "elements are {4:.3g} {2} long where it is narrow, or its outline turns within one",
            layup.zones.names[zone], exact, unit, area, longest_at_border(zone, false)),
        Place::in(part.file),
        fmt::format("mesh it with two elements over its width and more (these hold {:.3g} {}), or along its outline",
                    2.0 * longest_at_border(zone, true), unit));
  }
  /// Of elements at the border of a zone, or of the smaller ones that it is traced on.
  double longest_at_border(zone::ZoneId zone, bool as_traced) const {
    const auto longest = [](const mesh::Surface& of, mesh::ElementIndex e) {
      const auto corners = of.corners_of(e);
      double out = 0.0;
      for (std::size_t k = 0; k < corners.size(); ++k)
        out = std::max(out, (of.points[corners[k]] - of.points[corners[(k + 1) % corners.size()]]).norm());
      return out;
    };
    double out = 0.0;
    for (const zone::Border::Piece& piece : layup.zones.borders.at(zone).pieces) {
      double here = longest(surface, piece.inside);
      if (as_traced) for_pieces(piece.inside, [&](mesh::ElementIndex f) { here = std::min(here, longest(traced, f)); });
      out = std::max(out, here);
    }
    return out;
  }

  /// The surface that borders are traced on: calls with(element of it) for those that an element of the mesh became.
  const mesh::Surface& traced = layup.zones.traced_on(surface);
  template <class With>
  void for_pieces(mesh::ElementIndex e, With with) const {
    const auto [begin, end] = layup.zones.pieces_of(e);
    for (mesh::ElementIndex f = begin; f < end; ++f) with(f);
  }
  /// The mean of what these have, by their areas.
  template <class Of>
  double mean_over(mesh::ElementIndex e, Of of) const {
    const auto [begin, end] = layup.zones.pieces_of(e);
    if (end == begin + 1) return of(begin);
    double sum = 0.0, whole = 0.0;
    for (mesh::ElementIndex f = begin; f < end; ++f) {
      const double area = mesh::flat_area(traced, f);
      whole += area;
      sum += area * of(f);
    }
    return whole > 0.0 ? sum / whole : 0.0;
  }
  /// How steep a level is over an element: one where it is the distance from one edge.
  double slope(mesh::ElementIndex f, const std::vector<double>& level) const {
    const auto c = traced.corners_of(f);
    const std::size_t last = c.size() - 1;
    const Vec3 u = traced.points[c[2]] - traced.points[c[0]], v = traced.points[c[last]] - traced.points[c[1]];
    const double a = level[c[2]] - level[c[0]], b = level[c[last]] - level[c[1]];
    const double uu = u.squaredNorm(), uv = u.dot(v), vv = v.squaredNorm(), det = uu * vv - uv * uv;
    return det > 0.0 ? std::sqrt(std::max(0.0, (vv * a * a - 2.0 * uv * a * b + uu * b * b) / det)) : 1.0;
  }

  /// Where a region differs from its zone.
  struct Covering {
    std::vector<std::pair<mesh::ElementIndex, float>> parts;  ///< ascending
    double length = 0.0;                                      ///< of its edge through elements
    bool any = false;                                         ///< it covers something
    double area = 0.0, doubtful = 0.0;  ///< of all, and of what may be covered or not where two edges are near
  };

  Covering covering(zone::ZoneId zone, const std::vector<double>& level, double reach) const {
    const std::size_t count = surface.element_count();
    const std::size_t block = block_of(8192);
    std::vector<Covering> of_block((count + block - 1) / block);
    parallel_blocks(
        count,
        [&](std::size_t begin, std::size_t end) {
          Covering& out = of_block[begin / block];
          for (mesh::ElementIndex e = static_cast<mesh::ElementIndex>(begin); e < end; ++e) {
            double least = reach, most = -reach;
            double share = mean_over(e, [&](mesh::ElementIndex f) {
              double low = reach, high = -reach;
              for (const mesh::NodeIndex n : traced.corners_of(f))
                low = std::min(low, level[n]), high = std::max(high, level[n]);
              least = std::min(least, low), most = std::max(most, high);
              if (low <= 0.0 && high > 0.0 && slope(f, level) < 0.6) out.doubtful += mesh::flat_area(traced, f);
              return high <= 0.0 ? 1.0 : low > 0.0 ? 0.0 : zone::covered_below(traced, f, level);
            });
            const bool member = layup.zones.contains(zone, e);
            if (share > 0.0 && share < 1.0) {
              for_pieces(e, [&](mesh::ElementIndex f) { out.length += line_length(traced, f, level); });
              share = part.list.edges == part::Covered::whole ? (share >= 0.5 ? 1.0 : 0.0)
                      : share < 1e-6                          ? 0.0
                      : share > 1.0 - 1e-6                    ? 1.0
                                                              : share;
            }
            if (most == 0.0) for_pieces(e, [&](mesh::ElementIndex f) { out.length += side_length(f, level); });
            out.any = out.any || share > 0.0;
            out.area += share * geometry.areas[e];
            if (share != (member ? 1.0 : 0.0)) out.parts.emplace_back(e, static_cast<float>(share));
          }
        },
        block);
    Covering all;
    for (Covering& one : of_block) {
      all.parts.insert(all.parts.end(), one.parts.begin(), one.parts.end());
      all.length += one.length;
      all.any = all.any || one.any;
      all.area += one.area;
      all.doubtful += one.doubtful;
    }
    return all;
  }

  /// Of sides along which the level is nought.
  double side_length(mesh::ElementIndex e, const std::vector<double>& level) const {
    const auto corners = traced.corners_of(e);
    double sum = 0.0;
    for (std::size_t k = 0; k < corners.size(); ++k) {
      const mesh::NodeIndex a = corners[k], b = corners[(k + 1) % corners.size()];
      if (level[a] == 0.0 && level[b] == 0.0) sum += (traced.points[b] - traced.points[a]).norm();
    }
    return sum;
  }

  /// Puts what regions cover together by element.
  void gather(const List<RegionId, Covering>& found) {
    Parts& parts = layup.parts;
    parts.first.assign(surface.element_count() + 1, 0);
    for (const Covering& one : found)
      for (const auto& [e, share] : one.parts) ++parts.first[e + 1];
    for (std::size_t e = 0; e < surface.element_count(); ++e) parts.first[e + 1] += parts.first[e];
    parts.region.resize(parts.first.back());
    parts.covered.resize(parts.first.back());
    std::vector<std::uint32_t> next(parts.first.begin(), parts.first.end() - 1);
    for (const RegionId r : found.ids())
      for (const auto& [e, share] : found[r].parts) {
        parts.region[next[e]] = r;
        parts.covered[next[e]++] = share;
      }
  }

  /// How far the surface goes on from the line of each ramp that begins at this zone.
  void measure_room(zone::ZoneId zone, EdgeLevels& levels) {
    for (const RampId r : layup.ramps.ids()) {
      Ramp& ramp = layup.ramps[r];
      if (ramp.from != zone) continue;
      const std::vector<double>& distance = levels.distances(r);
      for (mesh::NodeIndex n = 0; n < distance.size(); ++n) {
        double& room = levels.inside(n) ? ramp.room_inside : ramp.room_outside;
        room = std::max(room, distance[n]);  // infinite where it goes on beyond what is looked at
      }
    }
  }

  void tell_lengths(const List<RegionId, Covering>& found) {
    for (Ramp& ramp : layup.ramps)
      for (RampStep& step : ramp.steps) {
        const RegionId r = layup.plies[step.plies.front()].region;
        step.length = step.by == 0.0 ? ramp.length : found[r].length;
      }
  }

  double whole_area() const { return std::accumulate(geometry.areas.begin(), geometry.areas.end(), 0.0); }

  /// What is left of a zone where edges have come near to each other.
  void tell_narrow(PlyId p, const Covering& covering) {
    if (part.list.edges == part::Covered::whole) return;
    const std::string unit = part.units.unit(Dimension::length);
    findings.warning(
        "layup.edge-narrow",
        fmt::format(
            "ply '{0}': two edges of what it covers lie within one element; of {1:.4g} {2}^2 that it covers, {3:.3g} "
            "{2}^2 are in doubt",
            part.plies[p].id, covering.area, unit, covering.doubtful),
        part.plies[p].where, "mesh it with two elements and more over what is left there, or move the edge by less");
  }

  void check_edges(const List<RegionId, Covering>& found) {
    std::set<RegionId> told;
    for (const PlyId p : layup.plies.ids()) {
      const RegionId r = layup.plies[p].region;
      const Region& region = layup.regions[r];
      if (!region.has_edge()) continue;
      const part::Ply& declared = part.plies[p];
      if (layup.zones.borders.at(region.zone).pieces.empty()) {
        // A zone that holds no corner of an element has a border that nobody finds.
        const bool within_elements = layup.zones.exact_areas[region.zone] < 0.999 * whole_area();
        errors.error("layup.edge-none",
                     within_elements
                         ? fmt::format("ply '{}': zone '{}' lies between the nodes of this mesh, so that its border is "
                                       "not found",
                                       declared.id, declared.zone.value)
                         : fmt::format("ply '{}': zone '{}' has no border within the part that its edge could be moved "
                                       "from",
                                       declared.id, declared.zone.value),
                     declared.where,
                     within_elements
                         ? "mesh it with two elements over its width and more, or along its outline"
                         : "plies end at the part's own border with it; to end one before it, lay it over a "
                           "zone with shrunk = { zone = \"...\", by = ... }");
      } else if (found[r].any && found[r].doubtful > 2e-2 * found[r].area && told.insert(r).second) {
        tell_narrow(p, found[r]);
      } else if (!found[r].any && region.edge) {
        errors.error(
            "layup.edge-swallows",
            fmt::format("ply '{}': its edge moved by {:g} {} leaves nothing of zone '{}' that elements could hold",
                        declared.id, *region.edge, part.units.unit(Dimension::length), declared.zone.value),
            declared.where, "move it by less, or take the ply out");
      } else if (!found[r].any) {
        const Moved& first = region.moved.front();
        if (too_long_.count(first.ramp)) continue;  // told already
        const Ramp& ramp = layup.ramps[first.ramp];
        errors.error(
            "ramp.swallows",
            fmt::format("ply '{}': ramp '{}' moves its edge by {:.4g} {}, and nothing of zone '{}' is left",
                        declared.id, ramp.name, first.by, part.units.unit(Dimension::length), declared.zone.value),
            part.ramps[ramp.declared].where,
            "make the ramp steeper, let more plies end together, lay it on the other side of the border, or "
            "make the zone larger");
      }
    }
  }

  /// Every line of a ramp needs a place on the surface.
  void check_ramps() {
    const std::string unit = part.units.unit(Dimension::length);
    for (const RampId r : layup.ramps.ids()) {
      const Ramp& ramp = layup.ramps[r];
      const part::Ramp& declared = part.ramps[ramp.declared];
      const double inwards = -ramp.steps.front().by, outwards = ramp.steps.back().by;
      const bool too_deep = inwards > ramp.room_inside * (1.0 + 1e-9);  // in pieces of the part that it reaches
      if (!too_deep && !(outwards > ramp.room_outside * (1.0 + 1e-9))) continue;
      std::size_t lost = 0;
      for (const RampStep& step : ramp.steps)
        if (too_deep ? -step.by > ramp.room_inside : step.by > ramp.room_outside) lost += step.plies.size();
      const double room = too_deep ? ramp.room_inside : ramp.room_outside;
      too_long_.insert(r);
      errors.error(
          "ramp.too-long",
          fmt::format("ramp '{}' goes {:.4g} {} {}, but there are only {:.4g} {}: {:.4g} {} are missing, and {} would "
                      "have no place",
                      ramp.name, too_deep ? inwards : outwards, unit,
                      too_deep ? fmt::format("into zone '{}'", layup.zones.names[ramp.from])
                               : fmt::format("beyond zone '{}'", layup.zones.names[ramp.from]),
                      room, unit, (too_deep ? inwards : outwards) - room, unit,
                      lost == 1 ? std::string("1 ply") : fmt::format("{} plies", lost)),
          declared.where,
          "make it steeper, let more plies end together, or let it lie on the other side of the border; room is told "
          "from "
          "the nodes, so a mesh of few elements may have more");
    }
  }

  /// The thickness of plies of the zone that are chamfered: exact in the mean over what they cover.
  void chamfer(zone::ZoneId zone, EdgeLevels& levels, const List<RegionId, Covering>& found) {
    std::map<std::tuple<RegionId, double, double, double, bool>, TaperId> made;
    for (const PlyId p : layup.plies.ids()) {
      Ply& ply = layup.plies[p];
      const part::Ply& declared = part.plies[p];
      if (!declared.chamfer || layup.regions[ply.region].zone != zone) continue;
      const double full = part::full_thickness(part, p), length = *part::chamfer_length(part, p),
                   left = declared.chamfer->edge_thickness;
      if (!(left < full)) {
        errors.error("layup.chamfer",
                     fmt::format("ply '{}': the chamfer leaves {:g} {}, the ply has {:g}", declared.id, left,
                                 part.units.unit(Dimension::length), full),
                     declared.where, "edge-thickness is what is left at the border: less than the thickness");
        continue;
      }
      const auto [taper, is_new] =
          made.emplace(std::tuple(ply.region, full, length, left, declared.fills), layup.tapers.next());
      if (is_new) {
        const std::vector<double> level = levels.of(layup.regions[ply.region]);
        std::vector<double> thickness(surface.element_count(), declared.fills ? 0.0 : full);
        parallel_blocks(thickness.size(), [&](std::size_t begin, std::size_t end) {
          for (mesh::ElementIndex e = static_cast<mesh::ElementIndex>(begin); e < end; ++e) {
            bool near = false;
            for_pieces(e, [&](mesh::ElementIndex f) {
              for (const mesh::NodeIndex n : traced.corners_of(f)) near = near || -level[n] < length;
            });
            const auto covered = [&](mesh::ElementIndex f) { return zone::covered_below(traced, f, level); };
            const auto deep = [&](mesh::ElementIndex f) { return zone::mean_depth(traced, f, level, length); };
            const double share = near ? mean_over(e, covered) : 1.0;
            if (!near || share < 1e-6) continue;
            const double mean = left + (full - left) * mean_over(e, deep) / (length * share);
            thickness[e] = declared.fills ? full - mean : mean;
          }
        });
        layup.tapers.push_back({std::move(thickness)});
      }
      ply.taper = taper->second;
      const std::vector<double>& all = layup.tapers[taper->second].thickness;
      std::vector<float> covered(all.size(), -1.0f);
      for (const auto& [e, share] : found[ply.region].parts) covered[e] = share;
      ply.thickness = 0.0;
      for (mesh::ElementIndex e = 0; e < all.size(); ++e)
        if (covered[e] < 0.0f ? layup.zones.contains(zone, e) : covered[e] > 0.0f)
          ply.thickness = std::max(ply.thickness, all[e]);
      double deepest = 0.0;
      if (!declared.fills && ply.thickness < full * (1.0 - 1e-6))
        for (const double here : levels.of(layup.regions[ply.region])) deepest = std::max(deepest, -here);
      if (!declared.fills && ply.thickness < full * (1.0 - 1e-6) && deepest < 0.95 * length)
        findings.warning(
            "layup.chamfer-long",
            fmt::format("ply '{}': its chamfer goes {:.4g} {} in, further than zone '{}' is deep: it is {:.3g} "
                        "{} thick at the most, not {:g}",
                        declared.id, length, part.units.unit(Dimension::length), declared.zone.value,
                        left + (full - left) * deepest / length, part.units.unit(Dimension::length), full),
            declared.where, "make the chamfer shorter, or the zone larger");
    }
  }

  /// An edge that goes to and fro more quickly than elements can follow.
  void check_scallops() {
    double size = 0.0;
    for (const double area : geometry.areas) size += std::sqrt(area) / static_cast<double>(geometry.areas.size());
    std::map<double, std::vector<std::string>> fine;
    for (const PlyId p : layup.plies.ids())
      if (const auto& scallop = part.plies[p].scallop; scallop && scallop->pitch < 2.0 * size)
        fine[scallop->pitch].push_back(part.plies[p].id);
    for (const auto& [pitch, ids] : fine)
      findings.warning(
          "layup.scallop-fine",
          fmt::format("the scalloped edge of {} has a pitch of {:.4g} {}; elements are {:.3g} {} long in the "
                      "mean, so it is not seen as it is",
                      listed(ids, 8), pitch, part.units.unit(Dimension::length), size,
                      part.units.unit(Dimension::length)),
          Place::in(part.file), "mesh finer there, a quarter of the pitch, or leave the scallop out");
  }

  /// Says which way was taken.
  void tell_of_moved() {
    std::size_t plies = 0, elements = 0;
    for (const Ply& ply : layup.plies) plies += layup.regions[ply.region].has_edge();
    if (plies == 0) return;
    const Parts& parts = layup.parts;
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e)
      elements += std::any_of(parts.covered.begin() + parts.first[e], parts.covered.begin() + parts.first[e + 1],
                              [](float c) { return c > 0.0f && c < 1.0f; });
    const bool smeared = part.list.edges == part::Covered::smeared;
    findings.note(
        "layup.edges",
        fmt::format("{} {} within the exact shape of {} or moved against it; {}",
                    plies == 1 ? std::string("1 ply") : fmt::format("{} plies", plies), plies == 1 ? "ends" : "end",
                    plies == 1 ? "its zone" : "their zones",
                    smeared ? fmt::format("where elements are covered in part ({}), the covered share of the thickness "
                                          "is spread over all of the element",
                                          counted(elements, "element"))
                            : "an element holds such a ply where half of its area is covered and more"),
        Place::in(part.file),
        "edges = \"smeared\" or \"whole\" in [layup] says which; bordado cut makes a mesh "
        "whose elements end where plies do");
  }

  std::set<RampId> too_long_;
};

}  // namespace

void cover(const Laying& on) { Coverer(on).cover(); }

}  // namespace bordado::layup
