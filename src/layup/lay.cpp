#include "edges.hpp"
#include "ramps.hpp"

#include <bordado/laminate.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <map>
#include <numbers>
#include <tuple>
#include <unordered_map>

namespace bordado::layup {

namespace {

/// The zones that matter to plies, as one or more words per element; elements with equal words have equal stacks.
class Stacker {
 public:
  Stacker(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, Findings& findings)
      : part_(part), surface_(surface), geometry_(geometry), findings_(findings) {}

  Layup lay() {
    layup_.curves = zone::curves(part_, surface_, geometry_);
    layup_.zones = zone::zones(part_, surface_, geometry_, layup_.curves, findings_);
    look_up();
    errors_.throw_if_errors();
    taper();
    move_edges();
    errors_.throw_if_errors();
    tell_of_moved();
    stack();
    check_bare();
    lay_frames();
    check_unused();
    errors_.throw_if_errors();
    return std::move(layup_);
  }

 private:
  template <class Id, class Item>
  static Id named(const List<Id, Item>& list, std::string_view name) {
    const auto found = std::find_if(list.begin(), list.end(), [&](const Item& item) { return item.name == name; });
    return Id{static_cast<std::uint32_t>(found - list.begin())};
  }

  void look_up() {
    std::vector<std::optional<zone::ZoneId>> zones;
    for (const part::Ply& declared : part_.plies) {
      Ply ply;
      ply.material = named(part_.materials, declared.material.value);
      ply.cloth = cloth(named(part_.frames, declared.frame.value));
      if (!declared.varies)
        ply.thickness =
            declared.thickness ? *declared.thickness : part_.materials[ply.material].thickness.value_or(0.0);
      ply.angle = declared.angle;
      zones.push_back(layup_.zones.find(declared.zone.value));
      if (zones.back()) {
        if (layup_.zones.counts[*zones.back()] == 0)
          errors_.error(
              "layup.ply-nowhere",
              fmt::format("ply '{}' lies on zone '{}', which has no elements", declared.id, declared.zone.value),
              declared.zone.where, "correct the zone or take the ply out");
      } else {
        const auto near = nearest_name(declared.zone.value, layup_.zones.names.all());
        errors_.error("zone.unknown",
                      fmt::format("ply '{}': zone '{}' is not declared and is no element group of the mesh",
                                  declared.id, declared.zone.value),
                      declared.zone.where,
                      near ? fmt::format("did you mean '{}'?", *near)
                           : fmt::format("zones: {}", listed(layup_.zones.names.all(), 20)));
      }
      layup_.plies.push_back(ply);
    }
    if (errors_.has_errors()) return;
    const List<PlyId, std::vector<Moved>> moved = make_ramps(part_, zones, layup_, errors_, findings_);
    for (const PlyId p : layup_.plies.ids()) {
      const part::Ply& declared = part_.plies[p];
      // A chamfer is measured from where the shape ends.
      Region region{*zones[index(p)], declared.edge, moved[p], declared.corners, declared.scallop};
      if (!region.edge && region.moved.empty() && (declared.chamfer || declared.scallop)) region.edge = 0.0;
      layup_.plies[p].region = with_id(std::move(region));
    }
  }

  ClothId cloth(FrameId frame) {
    for (const ClothId c : layup_.cloths.ids())
      if (layup_.cloths[c].frame == frame) return c;
    layup_.cloths.push_back({frame});
    return ClothId{static_cast<std::uint32_t>(layup_.cloths.size() - 1)};
  }

  RegionId with_id(Region region) {
    const auto [found, is_new] = region_of_.try_emplace(
        {region.zone, region.edge, region.moved, region.corners, region.scallop}, layup_.regions.next());
    if (is_new) layup_.regions.push_back(std::move(region));
    return found->second;
  }

  // --- edges
  // -----------------------------------------------------------------------------------------------------------

  /// How far edges of a zone are moved at the most; of zones none of whose edges go through elements nothing.
  std::map<zone::ZoneId, double> furthest() const {
    std::map<zone::ZoneId, double> out;
    for (const Region& region : layup_.regions) {
      if (!region.has_edge()) continue;
      double& far = out[region.zone];
      far = std::max(far, std::abs(region.edge.value_or(0.0)));
      for (const Moved& moved : region.moved) far = std::max(far, std::abs(moved.by));
      if (region.scallop) far += region.scallop->depth;
    }
    for (const Ramp& ramp : layup_.ramps) out[ramp.from] = std::max(out[ramp.from], ramp.run);
    for (const PlyId p : layup_.plies.ids())
      if (const auto length = chamfer_length(part_, p)) {
        const Region& region = layup_.regions[layup_.plies[p].region];
        double& far = out[region.zone];
        far = std::max(far, *length + std::abs(region.edge.value_or(0.0)));
      }
    return out;
  }

  /// What regions cover whose edges go through elements. Distances are worked out once for each zone.
  void move_edges() {
    const double slack = 3.0 * mesh::longest_edge(surface_);
    List<RegionId, Covering> found(layup_.regions.size());
    for (const auto& [zone, far] : furthest()) {
      if (layup_.zones.borders.at(zone).pieces.empty()) continue;  // told below
      EdgeLevels levels(layup_, surface_, zone, far + slack);
      measure_room(zone, levels);
      for (const RegionId r : layup_.regions.ids())
        if (layup_.regions[r].has_edge() && layup_.regions[r].zone == zone)
          found[r] = covering(zone, levels.of(layup_.regions[r]), far + slack);
      chamfer(zone, levels, found);
    }
    gather(found);
    tell_lengths(found);
    check_edges(found);
    check_ramps();
  }

  /// Where a region differs from its zone.
  struct Covering {
    std::vector<std::pair<mesh::ElementIndex, float>> parts;  ///< ascending
    double length = 0.0;                                      ///< of its edge through elements
    bool any = false;                                         ///< it covers something
  };

  Covering covering(zone::ZoneId zone, const std::vector<double>& level, double reach) const {
    const std::size_t count = surface_.element_count();
    constexpr std::size_t block = 8192;
    std::vector<Covering> of_block((count + block - 1) / block);
    parallel_blocks(
        count,
        [&](std::size_t begin, std::size_t end) {
          Covering& out = of_block[begin / block];
          for (mesh::ElementIndex e = static_cast<mesh::ElementIndex>(begin); e < end; ++e) {
            double least = reach, most = -reach;
            for (const mesh::NodeIndex n : surface_.corners_of(e))
              least = std::min(least, level[n]), most = std::max(most, level[n]);
            const bool member = layup_.zones.contains(zone, e);
            double part = most <= 0.0 ? 1.0 : least > 0.0 ? 0.0 : zone::covered_below(surface_, e, level);
            if (part > 0.0 && part < 1.0) {
              out.length += line_length(surface_, e, level);
              part = part_.list.edges == part::Covered::whole ? (part >= 0.5 ? 1.0 : 0.0)
                     : part < 1e-6                            ? 0.0
                     : part > 1.0 - 1e-6                      ? 1.0
                                                              : part;
            }
            if (most == 0.0) out.length += side_length(e, level);
            out.any = out.any || part > 0.0;
            if (part != (member ? 1.0 : 0.0)) out.parts.emplace_back(e, static_cast<float>(part));
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
    const auto corners = surface_.corners_of(e);
    double sum = 0.0;
    for (std::size_t k = 0; k < corners.size(); ++k) {
      const mesh::NodeIndex a = corners[k], b = corners[(k + 1) % corners.size()];
      if (level[a] == 0.0 && level[b] == 0.0) sum += (surface_.points[b] - surface_.points[a]).norm();
    }
    return sum;
  }

  /// Puts what regions cover together by element.
  void gather(const List<RegionId, Covering>& found) {
    Parts& parts = layup_.parts;
    parts.first.assign(surface_.element_count() + 1, 0);
    for (const Covering& one : found)
      for (const auto& [e, part] : one.parts) ++parts.first[e + 1];
    for (std::size_t e = 0; e < surface_.element_count(); ++e) parts.first[e + 1] += parts.first[e];
    parts.region.resize(parts.first.back());
    parts.covered.resize(parts.first.back());
    std::vector<std::uint32_t> next(parts.first.begin(), parts.first.end() - 1);
    for (const RegionId r : found.ids())
      for (const auto& [e, part] : found[r].parts) {
        parts.region[next[e]] = r;
        parts.covered[next[e]++] = part;
      }
  }

  /// How far the surface goes on from the line of each ramp that begins at this zone.
  void measure_room(zone::ZoneId zone, EdgeLevels& levels) {
    for (const RampId r : layup_.ramps.ids()) {
      Ramp& ramp = layup_.ramps[r];
      if (ramp.from != zone) continue;
      const std::vector<double>& distance = levels.distances(r);
      for (mesh::NodeIndex n = 0; n < distance.size(); ++n) {
        double& room = levels.inside(n) ? ramp.room_inside : ramp.room_outside;
        room = std::max(room, distance[n]);  // infinite where it goes on beyond what is looked at
      }
    }
  }

  void tell_lengths(const List<RegionId, Covering>& found) {
    for (Ramp& ramp : layup_.ramps)
      for (RampStep& step : ramp.steps) {
        const RegionId r = layup_.plies[step.plies.front()].region;
        step.length = step.by == 0.0 ? ramp.length : found[r].length;
      }
  }

  void check_edges(const List<RegionId, Covering>& found) {
    for (const PlyId p : layup_.plies.ids()) {
      const RegionId r = layup_.plies[p].region;
      const Region& region = layup_.regions[r];
      if (!region.has_edge()) continue;
      const part::Ply& declared = part_.plies[p];
      if (layup_.zones.borders.at(region.zone).pieces.empty()) {
        errors_.error("layup.edge-none",
                      fmt::format("ply '{}': zone '{}' has no border within the part that its edge could be moved from",
                                  declared.id, declared.zone.value),
                      declared.where,
                      "plies end at the part's own border with it; to end one before it, lay it over a zone with "
                      "shrunk = { zone = \"...\", by = ... }");
      } else if (!found[r].any && region.edge) {
        errors_.error("layup.edge-swallows",
                      fmt::format("ply '{}': its edge moved by {:g} {} leaves nothing of zone '{}'", declared.id,
                                  *region.edge, part_.units.unit(Dimension::length), declared.zone.value),
                      declared.where, "move it by less, or take the ply out");
      }
    }
  }

  /// Every line of a ramp needs a place on the surface.
  void check_ramps() {
    const std::string unit = part_.units.unit(Dimension::length);
    for (const Ramp& ramp : layup_.ramps) {
      const part::Ramp& declared = part_.ramps[ramp.declared];
      const double inwards = -ramp.steps.front().by, outwards = ramp.steps.back().by;
      const bool too_deep = inwards > ramp.room_inside * (1.0 + 1e-9);  // in pieces of the part that it reaches
      if (!too_deep && !(outwards > ramp.room_outside * (1.0 + 1e-9))) continue;
      std::size_t lost = 0;
      for (const RampStep& step : ramp.steps)
        if (too_deep ? -step.by > ramp.room_inside : step.by > ramp.room_outside) lost += step.plies.size();
      const double room = too_deep ? ramp.room_inside : ramp.room_outside;
      errors_.error(
          "ramp.too-long",
          fmt::format("ramp '{}' goes {:.4g} {} {}, but there are only {:.4g} {}: {:.4g} {} are missing, and {} would "
                      "have no place",
                      ramp.name, too_deep ? inwards : outwards, unit,
                      too_deep ? fmt::format("into zone '{}'", layup_.zones.names[ramp.from])
                               : fmt::format("beyond zone '{}'", layup_.zones.names[ramp.from]),
                      room, unit, (too_deep ? inwards : outwards) - room, unit,
                      lost == 1 ? std::string("1 ply") : fmt::format("{} plies", lost)),
          declared.where,
          "make it steeper, let more plies end together, or let it lie on the other side of the border; room is told "
          "from "
          "the nodes, so a mesh of few elements may have more");
    }
  }

  // --- chamfers
  // --------------------------------------------------------------------------------------------------------

  /// The thickness of plies of the zone that are chamfered: exact in the mean over what they cover.
  void chamfer(zone::ZoneId zone, EdgeLevels& levels, const List<RegionId, Covering>& found) {
    std::map<std::tuple<RegionId, double, double, double, bool>, TaperId> made;
    for (const PlyId p : layup_.plies.ids()) {
      Ply& ply = layup_.plies[p];
      const part::Ply& declared = part_.plies[p];
      if (!declared.chamfer || layup_.regions[ply.region].zone != zone) continue;
      const double full = full_thickness(part_, p), length = *chamfer_length(part_, p),
                   left = declared.chamfer->edge_thickness;
      if (!(left < full)) {
        errors_.error("layup.chamfer",
                      fmt::format("ply '{}': the chamfer leaves {:g} {}, the ply has {:g}", declared.id, left,
                                  part_.units.unit(Dimension::length), full),
                      declared.where, "edge-thickness is what is left at the border: less than the thickness");
        continue;
      }
      const auto [taper, is_new] =
          made.emplace(std::tuple(ply.region, full, length, left, declared.fills), layup_.tapers.next());
      if (is_new) {
        const std::vector<double> level = levels.of(layup_.regions[ply.region]);
        std::vector<double> thickness(surface_.element_count(), declared.fills ? 0.0 : full);
        parallel_blocks(thickness.size(), [&](std::size_t begin, std::size_t end) {
          for (mesh::ElementIndex e = static_cast<mesh::ElementIndex>(begin); e < end; ++e) {
            bool near = false;
            for (const mesh::NodeIndex n : surface_.corners_of(e)) near = near || -level[n] < length;
            const double part = near ? zone::covered_below(surface_, e, level) : 1.0;
            if (!near || part < 1e-6) continue;
            const double mean = left + (full - left) * zone::mean_depth(surface_, e, level, length) / (length * part);
            thickness[e] = declared.fills ? full - mean : mean;
          }
        });
        layup_.tapers.push_back({std::move(thickness)});
      }
      ply.taper = taper->second;
      const std::vector<double>& all = layup_.tapers[taper->second].thickness;
      std::vector<float> covered(all.size(), -1.0f);
      for (const auto& [e, part] : found[ply.region].parts) covered[e] = part;
      ply.thickness = 0.0;
      for (mesh::ElementIndex e = 0; e < all.size(); ++e)
        if (covered[e] < 0.0f ? layup_.zones.contains(zone, e) : covered[e] > 0.0f)
          ply.thickness = std::max(ply.thickness, all[e]);
      if (!declared.fills && ply.thickness < full * (1.0 - 1e-6))
        findings_.warning(
            "layup.chamfer-long",
            fmt::format("ply '{}': its chamfer goes {:.4g} {} in, further than zone '{}' is deep: it is {:.3g} "
                        "{} thick at the most, not {:g}",
                        declared.id, length, part_.units.unit(Dimension::length), declared.zone.value, ply.thickness,
                        part_.units.unit(Dimension::length), full),
            declared.where, "make the chamfer shorter, or the zone larger");
    }
  }

  /// An edge that goes to and fro more quickly than elements can follow.
  void check_scallops() {
    double size = 0.0;
    for (const double area : geometry_.areas) size += std::sqrt(area) / static_cast<double>(geometry_.areas.size());
    std::map<double, std::vector<std::string>> fine;
    for (const PlyId p : layup_.plies.ids())
      if (const auto& scallop = part_.plies[p].scallop; scallop && scallop->pitch < 2.0 * size)
        fine[scallop->pitch].push_back(part_.plies[p].id);
    for (const auto& [pitch, ids] : fine)
      findings_.warning(
          "layup.scallop-fine",
          fmt::format("the scalloped edge of {} has a pitch of {:.4g} {}; elements are {:.3g} {} long in the "
                      "mean, so it is not seen as it is",
                      listed(ids, 8), pitch, part_.units.unit(Dimension::length), size,
                      part_.units.unit(Dimension::length)),
          Place::in(part_.file), "mesh finer there, a quarter of the pitch, or leave the scallop out");
  }

  /// Says which way was taken.
  void tell_of_moved() {
    check_scallops();
    std::size_t plies = 0, elements = 0;
    for (const Ply& ply : layup_.plies) plies += layup_.regions[ply.region].has_edge();
    if (plies == 0) return;
    const Parts& parts = layup_.parts;
    for (mesh::ElementIndex e = 0; e < surface_.element_count(); ++e)
      elements += std::any_of(parts.covered.begin() + parts.first[e], parts.covered.begin() + parts.first[e + 1],
                              [](float c) { return c > 0.0f && c < 1.0f; });
    const bool smeared = part_.list.edges == part::Covered::smeared;
    findings_.note(
        "layup.edges",
        fmt::format("{} {} within the exact shape of {} or moved against it; {}",
                    plies == 1 ? std::string("1 ply") : fmt::format("{} plies", plies), plies == 1 ? "ends" : "end",
                    plies == 1 ? "its zone" : "their zones",
                    smeared ? fmt::format("where elements are covered in part ({}), the covered share of the thickness "
                                          "is spread over all of the element",
                                          counted(elements, "element"))
                            : "an element holds such a ply where half of its area is covered and more"),
        Place::in(part_.file),
        "edges = \"smeared\" or \"whole\" in [layup] says which; bordado cut makes a mesh "
        "whose elements end where plies do");
  }

  /// Plies of one line vary alike.
  void taper() {
    std::map<std::size_t, TaperId> of_line;
    for (const PlyId p : layup_.plies.ids()) {
      const part::Ply& declared = part_.plies[p];
      if (!declared.varies) continue;
      const auto [found, is_new] = of_line.emplace(declared.line, layup_.tapers.next());
      if (is_new)
        layup_.tapers.push_back(
            {std::visit([&](const auto& kind) { return thickness_of(declared, kind); }, *declared.varies)});
      Ply& ply = layup_.plies[p];
      const std::vector<double>& all = layup_.tapers[found->second].thickness;
      if (all.empty()) continue;  // what is wrong is told
      for (const mesh::ElementIndex e : layup_.zones.elements(layup_.regions[ply.region].zone))
        ply.thickness = std::max(ply.thickness, all[e]);
      ply.taper = found->second;
      if (ply.thickness == 0.0)
        errors_.error("layup.no-thickness", fmt::format("ply '{}' has no thickness on any element", declared.id),
                      declared.where, "check the distances and thicknesses of its table, or its field");
    }
  }

  /// The mean of what the table says at the corners.
  std::vector<double> thickness_of(const part::Ply& declared, const part::ThicknessByDistance& by) {
    const auto from = zone::sources(by.of, layup_.curves, layup_.zones, surface_);
    if (!from) {
      const auto& name = std::get<std::string>(by.of.what);
      std::vector<std::string> known = layup_.zones.names.all();
      for (const zone::NamedCurve& curve : layup_.curves.all) known.push_back(curve.name);
      const auto near = nearest_name(name, known);
      errors_.error("layup.of-unknown",
                    fmt::format("ply '{}': its thickness goes by the distance from '{}', but there is no such curve or "
                                "zone",
                                declared.id, name),
                    by.of.where,
                    near ? fmt::format("did you mean '{}'?", *near) : fmt::format("known: {}", listed(known, 20)));
      return {};
    }
    std::vector<double> at_nodes = mesh::distances(surface_, *from);
    for (double& value : at_nodes) value = in_table(by.table, value);
    std::vector<double> out(surface_.element_count(), 0.0);
    for (mesh::ElementIndex e = 0; e < out.size(); ++e) {
      const auto corners = surface_.corners_of(e);
      for (const mesh::NodeIndex n : corners) out[e] += at_nodes[n] / static_cast<double>(corners.size());
    }
    return out;
  }

  std::vector<double> thickness_of(const part::Ply& declared, const part::ThicknessByField& by) {
    const auto fail = [&](std::string what, std::string remedy) {
      errors_.error("layup.field", fmt::format("ply '{}': '{}' {}", declared.id, by.file.value, what), by.file.where,
                    std::move(remedy));
      return std::vector<double>();
    };
    const mesh::Sampled sampled = mesh::read_sampled(by.file.value, {.factor = by.factor}, findings_);
    const auto array = std::find_if(sampled.arrays.begin(), sampled.arrays.end(), [&](const mesh::Array& one) {
      return one.name == by.field && one.components == 1;
    });
    if (array == sampled.arrays.end()) {
      std::vector<std::string> known;
      for (const mesh::Array& one : sampled.arrays)
        if (one.components == 1) known.push_back(one.name);
      return fail(fmt::format("holds no field '{}' of one number each", by.field),
                  fmt::format("fields that could be meant: {}", listed(known, 20)));
    }
    std::vector<double> out = mesh::values_at(sampled, *array, geometry_.centres);
    for (mesh::ElementIndex e = 0; e < out.size(); ++e) {
      out[e] *= by.factor;
      if (!(out[e] >= 0.0 && std::isfinite(out[e])))
        return fail(fmt::format("has no thickness in '{}' where element {} lies", by.field, surface_.element_ids[e]),
                    "a thickness is a number that is not negative: repair the field there");
    }
    return out;
  }

  void stack() {
    const std::size_t count = surface_.element_count();
    const auto& all = layup_.zones.words;
    std::vector<std::uint64_t> used(all.size(), 0);
    for (const Region& region : layup_.regions)
      used[index(region.zone) / 64] |= std::uint64_t{1} << (index(region.zone) % 64);
    const std::size_t words = all.size();
    const Parts& parts = layup_.parts;

    // Neighbours in the list mostly share a stack, so keys are looked up only where they change.
    layup_.stack_of.resize(count);
    layup_.first.assign(1, 0);
    std::unordered_map<std::string, StackId> known;
    std::string key;
    runs_out_.assign(layup_.tapers.size(), 0.0);
    for (const Ply& ply : layup_.plies)
      if (ply.taper) runs_out_[index(*ply.taper)] = ply.thickness;
    StackId current{};
    bool had_parts = false;
    for (std::size_t e = 0; e < count; ++e) {
      const bool has_parts = !parts.first.empty() && parts.first[e] != parts.first[e + 1];
      bool changed = e == 0 || has_parts || had_parts;
      for (std::size_t w = 0; w < words && !changed; ++w) changed = ((all[w][e] ^ all[w][e - 1]) & used[w]) != 0;
      for (std::size_t t = 0; t < runs_out_.size() && !changed; ++t) changed = how_thick(t, e) != how_thick(t, e - 1);
      had_parts = has_parts;
      if (changed) {
        key.resize(words * sizeof(std::uint64_t));
        for (std::size_t w = 0; w < words; ++w) {
          const std::uint64_t word = all[w][e] & used[w];
          std::memcpy(key.data() + w * sizeof word, &word, sizeof word);
        }
        // Behind the zones: what differs from them, and whether by a part of the element, all of it or none.
        if (has_parts)
          for (std::uint32_t k = parts.first[e]; k < parts.first[e + 1]; ++k) {
            const std::uint32_t what = 4 * index(parts.region[k]) + (parts.covered[k] <= 0.0f  ? 0u
                                                                     : parts.covered[k] < 1.0f ? 1u
                                                                                               : 2u);
            key.append(reinterpret_cast<const char*>(&what), sizeof what);
          }
        for (std::size_t t = 0; t < runs_out_.size(); ++t) key += static_cast<char>(how_thick(t, e));
        const auto [found, is_new] = known.try_emplace(key);
        if (is_new) found->second = stack_on(static_cast<mesh::ElementIndex>(e));
        current = found->second;
      }
      layup_.stack_of[e] = current;
    }
  }

  /// Whether a ply that varies is as thick as it gets on an element, has run out, or is in between.
  enum class HowThick : char { none, some, all };
  HowThick how_thick(std::size_t taper, std::size_t element) const {
    const double here = layup_.tapers[TaperId(taper)].thickness[element], most = runs_out_[taper];
    return here >= most ? HowThick::all : here > 1e-6 * most ? HowThick::some : HowThick::none;
  }

  /// The stack of an element, which other zones and edges may have made already.
  StackId stack_on(mesh::ElementIndex element) {
    std::vector<std::uint32_t> plies;
    for (const PlyId p : layup_.plies.ids()) {
      const double covered = layup_.covered(p, element);
      const auto& taper = layup_.plies[p].taper;
      const HowThick thick = taper ? how_thick(index(*taper), element) : HowThick::all;
      if (covered > 0.0 && thick != HowThick::none)
        plies.push_back(2 * index(p) + (thick == HowThick::some || covered < 1.0));
    }
    const auto [found, is_new] = stacks_.try_emplace(plies, layup_.varies.next());
    if (!is_new) return found->second;
    bool varies = false;
    for (const std::uint32_t ply : plies) {
      layup_.stack_plies.push_back(PlyId{ply / 2});
      layup_.ply_varies.push_back(ply % 2);
      varies = varies || ply % 2 != 0;
    }
    layup_.varies.push_back(varies);
    layup_.first.push_back(static_cast<std::uint32_t>(layup_.stack_plies.size()));
    return found->second;
  }

  std::string ids(std::span<const mesh::ElementIndex> elements) const {
    std::vector<std::int64_t> out;
    for (const mesh::ElementIndex e : elements) out.push_back(surface_.element_ids[e]);
    return listed(out);
  }

  void check_bare() {
    std::vector<mesh::ElementIndex> bare;
    for (mesh::ElementIndex e = 0; e < layup_.stack_of.size(); ++e) {
      const auto plies = layup_.plies_of(layup_.stack_of[e]);
      if (layup_.varies[layup_.stack_of[e]]
              ? std::all_of(plies.begin(), plies.end(), [&](PlyId p) { return thickness(layup_, p, e) == 0.0; })
              : plies.empty())
        bare.push_back(e);
    }
    if (bare.empty()) return;
    errors_.error("layup.element-bare", fmt::format("{} elements have no ply: elements {}", bare.size(), ids(bare)),
                  surface_.place_of(bare.front()), "lay a ply over zone 'everything', or over a zone that holds them");
  }

  void lay_frames() {
    layup_.frames.resize(part_.frames.size());
    List<FrameId, std::optional<frame::Field>> made(part_.frames.size());
    for (const part::FrameId f : part_.frames.ids()) {
      List<StackId, std::uint8_t> stack_uses(layup_.stack_count(), 0);
      for (const StackId s : layup_.stacks())
        for (const PlyId p : layup_.plies_of(s)) stack_uses[s] |= layup_.frame_of(p) == f;
      if (std::none_of(stack_uses.begin(), stack_uses.end(), [](std::uint8_t uses) { return uses != 0; })) continue;
      const frame::Surroundings around{part_, surface_, geometry_, layup_.curves, layup_.zones, &made};
      try {
        layup_.frames[f] = made[f] ? *made[f] : frame::field(part_.frames[f], around, findings_);
        if (!made[f] && blended(part_.frames[f].name)) made[f] = layup_.frames[f];
      } catch (const Failure& failure) {
        for (const Finding& finding : failure.findings())  // a blend fails for the reason its frames do: once is enough
          if (std::none_of(errors_.all().begin(), errors_.all().end(),
                           [&](const Finding& told) { return told.text() == finding.text(); }))
            errors_.add(finding);
        continue;
      }
      frame::Field& field = layup_.frames[f];
      const auto keep_used = [&](std::vector<mesh::ElementIndex>& elements) {
        std::erase_if(elements, [&](mesh::ElementIndex e) { return !stack_uses[layup_.stack_of[e]]; });
      };
      keep_used(field.undefined);
      keep_used(field.fallen_back);
      report(part_.frames[f], field);
    }
  }

  void report(const part::Frame& frame, const frame::Field& field) {
    std::vector<mesh::ElementIndex> flat, near_normal;
    for (const mesh::ElementIndex e : field.undefined)
      (geometry_.normals[e].squaredNorm() > 0.5 ? near_normal : flat).push_back(e);
    if (!flat.empty() && !told_flat_) {
      told_flat_ = true;
      errors_.error("mesh.no-area",
                    fmt::format("{} elements have no area and so no normal: elements {}", flat.size(), ids(flat)),
                    surface_.place_of(flat.front()), "mesh the part again or delete them");
    }
    if (!near_normal.empty())
      errors_.error(
          "frame.near-normal",
          fmt::format("frame '{}': its direction{} lies within {:g}° of the normal{} on {} elements that plies "
                      "need it on, so 0° has no meaning there: elements {}",
                      frame.name, frame.fallback ? " and its fallback" : "", frame::least_angle_to_normal.degrees(),
                      field.doubt.empty() ? "" : ", or cancels out,", near_normal.size(), ids(near_normal)),
          frame.where, "give the frame a fallback = [x, y, z], or use another frame there");
    report_other_mesh(frame, field);
    if (std::holds_alternative<part::AsMeshedSide>(frame.kind))
      findings_.note(
          "frame.as-meshed",
          fmt::format("frame '{}' takes 0° from each element's side 1-2: it changes with every new mesh", frame.name),
          frame.where, "use a vector or an axis where you can");
    if (!field.fallen_back.empty())
      findings_.note("frame.fallback",
                     fmt::format("frame '{}': {} elements take the fallback because the vector is within {:g}° of "
                                 "their normal: elements {}",
                                 frame.name, field.fallen_back.size(), frame::least_angle_to_normal.degrees(),
                                 ids(field.fallen_back)),
                     frame.where);
  }

  /// How far and how doubtful what a frame takes from another mesh is.
  void report_other_mesh(const part::Frame& frame, const frame::Field& field) {
    if (!std::holds_alternative<part::Mapped>(frame.kind) && !std::holds_alternative<part::GuideSurface>(frame.kind))
      return;
    const auto furthest = static_cast<mesh::ElementIndex>(
        std::max_element(field.distance.begin(), field.distance.end()) - field.distance.begin());
    const auto worst =
        static_cast<mesh::ElementIndex>(std::max_element(field.doubt.begin(), field.doubt.end()) - field.doubt.begin());
    const std::string unit = part_.units.unit(Dimension::length);
    findings_.note(
        "frame.taken",
        fmt::format("frame '{}': the other mesh lies up to {:.3g} {} away (element {}); largest doubt {:.3f} "
                    "(element {}){}",
                    frame.name, field.distance[furthest], unit, surface_.element_ids[furthest], field.doubt[worst],
                    surface_.element_ids[worst],
                    field.fit ? fmt::format("; fitted to {:.3g} {}", *field.fit, unit) : ""),
        frame.where);
    std::vector<mesh::ElementIndex> far;
    for (mesh::ElementIndex e = 0; e < field.distance.size(); ++e)
      if (field.distance[e] > 2.0 * std::sqrt(geometry_.areas[e])) far.push_back(e);
    if (!far.empty())
      findings_.warning("frame.far",
                        fmt::format("frame '{}': {} lie further from the other mesh than twice their own size: "
                                    "elements {}",
                                    frame.name, counted(far.size(), "element"), ids(far)),
                        frame.where,
                        "check its length unit and its position; bordado frames writes a map of the distance");
  }

  void check_unused() {
    for (const part::MaterialId m : part_.materials.ids())
      if (part_.materials[m].where.file == part_.file &&  // others came with plies of a group that is off
          std::none_of(layup_.plies.begin(), layup_.plies.end(), [&](const Ply& ply) { return ply.material == m; }))
        findings_.note("layup.material-unused", fmt::format("material '{}' is in no ply", part_.materials[m].name),
                       part_.materials[m].where);
    for (const part::FrameId f : part_.frames.ids())
      if (std::none_of(layup_.cloths.begin(), layup_.cloths.end(), [&](const Cloth& c) { return c.frame == f; }) &&
          !blended(part_.frames[f].name))
        findings_.note("layup.frame-unused", fmt::format("frame '{}' is in no ply", part_.frames[f].name),
                       part_.frames[f].where);
  }

  bool blended(const std::string& name) const {
    return std::any_of(part_.frames.begin(), part_.frames.end(), [&](const part::Frame& frame) {
      const auto* const blend = std::get_if<part::Blend>(&frame.kind);
      return blend && (blend->from.value == name || blend->to.value == name);
    });
  }

  const part::Part& part_;
  const mesh::Surface& surface_;
  const mesh::Geometry& geometry_;
  Findings& findings_;
  Findings errors_;
  Layup layup_;
  std::map<
      std::tuple<zone::ZoneId, std::optional<double>, std::vector<Moved>, part::Corners, std::optional<part::Scallop>>,
      RegionId>
      region_of_;
  std::map<std::vector<std::uint32_t>, StackId> stacks_;
  std::vector<double> runs_out_;  ///< per taper: how thick its plies are at the thickest
  bool told_flat_ = false;
};

}  // namespace

Layup lay(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, Findings& findings) {
  return Stacker(part, surface, geometry, findings).lay();
}

std::vector<mesh::ElementIndex> Layup::elements_of(PlyId ply) const {
  const Region& region = regions[plies[ply].region];
  if (!region.has_edge()) return zones.elements(region.zone);
  std::vector<mesh::ElementIndex> out;
  for (mesh::ElementIndex e = 0; e < stack_of.size(); ++e)
    if (lies_on(ply, e)) out.push_back(e);
  return out;
}

std::optional<double> chamfer_length(const part::Part& part, PlyId ply) {
  const auto& chamfer = part.plies[ply].chamfer;
  if (!chamfer) return std::nullopt;
  if (chamfer->length) return *chamfer->length;
  return std::max(0.0, full_thickness(part, ply) - chamfer->edge_thickness) / std::tan(chamfer->angle->radians());
}

double full_thickness(const part::Part& part, PlyId ply) {
  const part::Ply& declared =
      part.plies[part.plies[ply].fills ? PlyId{static_cast<std::uint32_t>(index(ply) - 1)} : ply];
  if (declared.thickness) return *declared.thickness;
  const auto found =
      std::find_if(part.materials.begin(), part.materials.end(),
                   [&](const material::Material& material) { return material.name == declared.material.value; });
  return found == part.materials.end() ? 0.0 : found->thickness.value_or(0.0);
}

double thickness(const Layup& layup, PlyId ply, mesh::ElementIndex element) {
  const Ply& laid = layup.plies[ply];
  const double covered = layup.regions[laid.region].has_edge() ? layup.covered(ply, element) : 1.0;
  if (!laid.taper && covered == 1.0) return laid.thickness;
  const double here = covered * (laid.taper ? layup.tapers[*laid.taper].thickness[element] : laid.thickness);
  return here > 1e-6 * laid.thickness ? here : 0.0;
}

const Vec3& LayersOn::reference(mesh::ElementIndex element) const {
  return layup_.directions_of(layup_.plies_of(layup_.stack_of[element]).front())[element];
}

std::span<const LaidLayer> LayersOn::operator()(mesh::ElementIndex element) {
  layers_.clear();
  const auto plies = layup_.plies_of(layup_.stack_of[element]);
  const FrameId first_frame = layup_.frame_of(plies.front());
  FrameId frame = first_frame;
  Angle turn;
  double h = 0.0;
  const auto varying = layup_.varying_of(layup_.stack_of[element]);
  for (std::size_t k = 0; k < plies.size(); ++k) {
    const PlyId p = plies[k];
    const Ply& ply = layup_.plies[p];
    const double t = varying[k] ? thickness(layup_, p, element) : ply.thickness;
    if (t == 0.0) continue;
    if (layup_.cloths[ply.cloth].frame != frame) {
      frame = layup_.cloths[ply.cloth].frame;
      turn = frame == first_frame ? Angle()
                                  : frame::between(reference(element), layup_.frames[frame].directions[element],
                                                   geometry_.normals[element]);
    }
    const double covered = varying[k] && layup_.regions[ply.region].has_edge() ? layup_.covered(p, element) : 1.0;
    layers_.push_back({p, ply.material, h, t, covered, ply.angle + turn});
    h += t;
  }
  const double z = bottom(part_, h);
  for (LaidLayer& layer : layers_) layer.bottom += z;
  return layers_;
}

double thickness(const Layup& layup, StackId stack) {
  double sum = 0.0;
  for (const PlyId p : layup.plies_of(stack)) sum += layup.plies[p].thickness;
  return sum;
}

double areal_mass(const part::Part& part, const Layup& layup, StackId stack) {
  double sum = 0.0;
  for (const PlyId p : layup.plies_of(stack))
    sum += layup.plies[p].thickness * part.materials[layup.plies[p].material].density.value_or(0.0);
  return sum;
}

double bottom(const part::Part& part, double h) {
  const double share = part.flush == part::Flush::bottom ? 0.0 : part.flush == part::Flush::middle ? 0.5 : 1.0;
  return part.offset - share * h;
}

namespace {

std::string code_of(const part::Part& part, const Layup& layup, std::span<const PlyId> plies) {
  const bool mixed = std::any_of(plies.begin(), plies.end(),
                                 [&](PlyId p) { return layup.plies[p].material != layup.plies[plies[0]].material; });
  std::vector<laminate::CodePly> coded;
  for (const PlyId p : plies) {
    const material::Material& material = part.materials[layup.plies[p].material];
    const FrameId frame = layup.frame_of(p);
    coded.push_back({layup.plies[p].angle,
                     mixed ? (material.mark.empty() ? material.name : material.mark) : std::string(),
                     frame == layup.frame_of(plies[0]) ? std::string() : part.frames[frame].name, 0});
  }
  return laminate::code_of(coded);
}

}  // namespace

std::string code(const part::Part& part, const Layup& layup, StackId stack) {
  return code_of(part, layup, layup.plies_of(stack));
}

std::string code(const part::Part& part, const Layup& layup, std::span<const LaidLayer> layers) {
  std::vector<PlyId> plies;
  for (const LaidLayer& layer : layers) plies.push_back(layer.ply);
  return code_of(part, layup, plies);
}

List<StackId, std::vector<std::string>> zones_of_stacks(const Layup& layup) {
  const zone::ZoneSets& zones = layup.zones;
  const std::size_t words = zones.words.size(), count = zones.names.size();
  using Bits = std::vector<std::uint64_t>;
  const auto has = [](const Bits& bits, zone::ZoneId z) { return (bits[index(z) / 64] >> (index(z) % 64) & 1) != 0; };
  // The zones that all elements of a stack share, and those that all elements of each zone share.
  List<StackId, Bits> of_stack(layup.stack_count(), Bits(words, ~std::uint64_t{0}));
  List<zone::ZoneId, Bits> of_zone(count, Bits(words, ~std::uint64_t{0}));
  for (mesh::ElementIndex e = 0; e < layup.stack_of.size(); ++e) {
    const auto keep_shared = [&](Bits& bits) {
      for (std::size_t w = 0; w < words; ++w) bits[w] &= zones.words[w][e];
    };
    keep_shared(of_stack[layup.stack_of[e]]);
    zones.for_each_of(e, [&](zone::ZoneId z) { keep_shared(of_zone[z]); });
  }
  std::vector<zone::ZoneId> by_size;
  for (const zone::ZoneId z : zones.declared()) by_size.push_back(z);
  std::stable_sort(by_size.begin(), by_size.end(), [&](auto a, auto b) { return zones.counts[a] < zones.counts[b]; });
  List<StackId, std::vector<std::string>> out(layup.stack_count());
  for (const StackId s : out.ids()) {
    Bits said(words, 0);
    for (const zone::ZoneId z : by_size) {
      if (!has(of_stack[s], z) || has(said, z)) continue;
      out[s].push_back(zones.names[z]);
      for (std::size_t w = 0; w < words; ++w) said[w] |= of_zone[z][w];
    }
    if (out[s].empty()) out[s].emplace_back(part::everything);
  }
  return out;
}

Mass mass(const part::Part& part, const mesh::Geometry& geometry, const Layup& layup) {
  const std::size_t stacks = layup.stack_count();
  List<StackId, double> per_area(stacks), height(stacks);  // mass per area, and height of its centre above the mesh
  for (const StackId s : layup.stacks()) {
    double z = bottom(part, thickness(layup, s)), moment = 0.0;
    for (const PlyId p : layup.plies_of(s)) {
      const double t = layup.plies[p].thickness, m = t * part.materials[layup.plies[p].material].density.value_or(0.0);
      per_area[s] += m;
      moment += m * (z + 0.5 * t);
      z += t;
    }
    height[s] = per_area[s] > 0.0 ? moment / per_area[s] : 0.0;
  }
  Mass out;
  out.zone_areas.assign(layup.zones.names.size(), 0.0);
  out.zone_masses.assign(layup.zones.names.size(), 0.0);
  out.stack_areas.assign(stacks, 0.0);
  out.stack_masses.assign(stacks, 0.0);
  for (const StackId s : layup.stacks()) {
    const double h = thickness(layup, s);
    out.stack_thickness.push_back(layup.varies[s] ? std::array{h, 0.0} : std::array{h, h});
  }
  LayersOn layers_on(part, geometry, layup);
  Vec3 moment = Vec3::Zero();
  for (mesh::ElementIndex e = 0; e < layup.stack_of.size(); ++e) {
    const StackId s = layup.stack_of[e];
    double each = per_area[s], above = height[s];
    if (layup.varies[s]) {
      double h = each = above = 0.0;
      for (const LaidLayer& layer : layers_on(e)) {
        const double m = layer.thickness * part.materials[layer.material].density.value_or(0.0);
        each += m;
        above += m * (layer.bottom + 0.5 * layer.thickness);
        h += layer.thickness;
      }
      if (each > 0.0) above /= each;
      auto& [least, most] = out.stack_thickness[s];
      least = std::min(least, h), most = std::max(most, h);
    }
    const double area = geometry.areas[e], m = area * each;
    out.area += area;
    out.mass += m;
    out.stack_areas[s] += area;
    if (layup.varies[s]) out.stack_masses[s] += m;
    moment += m * (geometry.centres[e] + above * geometry.normals[e]);
    layup.zones.for_each_of(e, [&](zone::ZoneId zone) {
      out.zone_areas[zone] += area;
      out.zone_masses[zone] += m;
    });
  }
  for (const StackId s : layup.stacks())
    if (!layup.varies[s]) out.stack_masses[s] = per_area[s] * out.stack_areas[s];
  if (out.mass > 0.0) out.centre = moment / out.mass;
  return out;
}

}  // namespace bordado::layup
