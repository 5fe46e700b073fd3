#include "coverings.hpp"

#include "edges.hpp"

#include <fmt/format.h>

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
      if (const auto length = chamfer_length(part, p)) {
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
    for (const auto& [zone, far] : furthest()) {
      if (layup.zones.borders.at(zone).pieces.empty()) continue;  // told below
      EdgeLevels levels(layup, surface, zone, far + slack);
      measure_room(zone, levels);
      check_narrow(zone, levels, far + slack);
      for (const RegionId r : layup.regions.ids())
        if (layup.regions[r].has_edge() && layup.regions[r].zone == zone)
          found[r] = covering(zone, levels.of(layup.regions[r]), far + slack);
      chamfer(zone, levels, found);
    }
    gather(found);
    tell_lengths(found);
    check_ramps();
    check_edges(found);
  }

  /// A zone that its border, followed from corner to corner of elements, does not hold: two sides of it cross one element.
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
            layup.zones.names[zone], exact, unit, area, longest_at_border(zone)),
        Place::in(part.file),
        fmt::format("mesh it with two elements over its width and more (these hold {:.3g} {}), or along its outline",
                    2.0 * longest_at_border(zone), unit));
  }
  double longest_at_border(zone::ZoneId zone) const {
    double out = 0.0;
    for (const zone::Border::Piece& piece : layup.zones.borders.at(zone).pieces) {
      const auto corners = surface.corners_of(piece.inside);
      for (std::size_t k = 0; k < corners.size(); ++k)
        out = std::max(out, (surface.points[corners[k]] - surface.points[corners[(k + 1) % corners.size()]]).norm());
    }
    return out;
  }

  /// Where a region differs from its zone.
  struct Covering {
    std::vector<std::pair<mesh::ElementIndex, float>> parts;  ///< ascending
    double length = 0.0;                                      ///< of its edge through elements
    bool any = false;                                         ///< it covers something
  };

  Covering covering(zone::ZoneId zone, const std::vector<double>& level, double reach) const {
    const std::size_t count = surface.element_count();
    constexpr std::size_t block = 8192;
    std::vector<Covering> of_block((count + block - 1) / block);
    parallel_blocks(
        count,
        [&](std::size_t begin, std::size_t end) {
          Covering& out = of_block[begin / block];
          for (mesh::ElementIndex e = static_cast<mesh::ElementIndex>(begin); e < end; ++e) {
            double least = reach, most = -reach;
            for (const mesh::NodeIndex n : surface.corners_of(e))
              least = std::min(least, level[n]), most = std::max(most, level[n]);
            const bool member = layup.zones.contains(zone, e);
            double share = most <= 0.0 ? 1.0 : least > 0.0 ? 0.0 : zone::covered_below(surface, e, level);
            if (share > 0.0 && share < 1.0) {
              out.length += line_length(surface, e, level);
              share = part.list.edges == part::Covered::whole ? (share >= 0.5 ? 1.0 : 0.0)
                      : share < 1e-6                          ? 0.0
                      : share > 1.0 - 1e-6                    ? 1.0
                                                              : share;
            }
            if (most == 0.0) out.length += side_length(e, level);
            out.any = out.any || share > 0.0;
            if (share != (member ? 1.0 : 0.0)) out.parts.emplace_back(e, static_cast<float>(share));
          }
        },
        block);
    Covering all;
    for (Covering& one : of_block) {
      all.parts.insert(all.parts.end(), one.parts.begin(), one.parts.end());
      all.length += one.length;
      all.any = all.any || one.any;
    }
    return all;
  }

  /// Of sides along which the level is nought.
  double side_length(mesh::ElementIndex e, const std::vector<double>& level) const {
    const auto corners = surface.corners_of(e);
    double sum = 0.0;
    for (std::size_t k = 0; k < corners.size(); ++k) {
      const mesh::NodeIndex a = corners[k], b = corners[(k + 1) % corners.size()];
      if (level[a] == 0.0 && level[b] == 0.0) sum += (surface.points[b] - surface.points[a]).norm();
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

  void check_edges(const List<RegionId, Covering>& found) {
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
      } else if (!found[r].any && region.edge) {
        errors.error("layup.edge-swallows",
                     fmt::format("ply '{}': its edge moved by {:g} {} leaves nothing of zone '{}'", declared.id,
                                 *region.edge, part.units.unit(Dimension::length), declared.zone.value),
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
      const double full = full_thickness(part, p), length = *chamfer_length(part, p),
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
            for (const mesh::NodeIndex n : surface.corners_of(e)) near = near || -level[n] < length;
            const double share = near ? zone::covered_below(surface, e, level) : 1.0;
            if (!near || share < 1e-6) continue;
            const double mean = left + (full - left) * zone::mean_depth(surface, e, level, length) / (length * share);
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
      if (!declared.fills && ply.thickness < full * (1.0 - 1e-6))
        findings.warning(
            "layup.chamfer-long",
            fmt::format("ply '{}': its chamfer goes {:.4g} {} in, further than zone '{}' is deep: it is {:.3g} "
                        "{} thick at the most, not {:g}",
                        declared.id, length, part.units.unit(Dimension::length), declared.zone.value, ply.thickness,
                        part.units.unit(Dimension::length), full),
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
