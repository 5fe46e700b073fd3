#include "coverings.hpp"
#include "drapes.hpp"
#include "masses.hpp"
#include "ramps.hpp"
#include "tapers.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <map>
#include <tuple>
#include <unordered_map>

namespace bordado::layup {

namespace {

/// The zones that matter to plies, as one or more words per element; elements with equal words have equal stacks.
class Stacker {
 public:
  Stacker(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, Findings& findings,
          const Progress& progress)
      : part_(part), surface_(surface), geometry_(geometry), findings_(findings), progress_(progress) {}

  Layup lay() {
    layup_.curves = zone::curves(part_, surface_, geometry_);
    layup_.zones = zone::zones(part_, surface_, geometry_, layup_.curves, findings_);
    look_up();
    errors_.throw_if_errors();
    const Laying on{part_, surface_, geometry_, layup_, errors_, findings_};
    vary_thickness(on);
    add_masses(on);
    cover(on);
    errors_.throw_if_errors();
    made_.resize(part_.frames.size());
    layup_.frames.resize(part_.frames.size());
    drape(on, made_, progress_);
    errors_.throw_if_errors();
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
      ply.cloth = cloth_of(layup_, {named(part_.frames, declared.frame.value), {}});
      if (!declared.varies)
        ply.thickness =
            declared.thickness ? *declared.thickness : part_.materials[ply.material].thickness.value_or(0.0);
      ply.angle = declared.angle;
      zones.push_back(layup_.zones.find(declared.zone.value));
      if (zones.back()) {
        const bool has_edge = declared.edge || declared.chamfer || declared.scallop;
        if (layup_.zones.counts[*zones.back()] == 0 && !(has_edge && layup_.zones.exact_areas[*zones.back()] > 0.0))
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

  RegionId with_id(Region region) {
    const auto [found, is_new] = region_of_.try_emplace(
        {region.zone, region.edge, region.moved, region.corners, region.scallop}, layup_.regions.next());
    if (is_new) layup_.regions.push_back(std::move(region));
    return found->second;
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
    return here >= most ? HowThick::all : here > run_out * most ? HowThick::some : HowThick::none;
  }

  /// The stack of an element, which other zones and edges may have made already.
  StackId stack_on(mesh::ElementIndex element) {
    std::vector<std::uint32_t> plies;
    for (const PlyId p : layup_.plies.ids()) {
      const double covered = layup_.covered(p, element);
      const auto& taper = layup_.plies[p].taper;
      const HowThick thick = taper ? how_thick(index(*taper), element) : HowThick::all;
      if (covered > 0.0 && thick != HowThick::none)
        plies.push_back(2 * index(p) + (thick == HowThick::some || covered < 1.0 || thickens(p)));
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

  /// Whether a ply is thicker where it is sheared.
  bool thickens(PlyId p) const {
    const Draping* const draping = layup_.draping_of(p);
    return draping && !draping->angles_only &&
           std::any_of(draping->pieces.begin(), draping->pieces.end(),
                       [](const Draping::Piece& piece) { return piece.laid.lay != part::Lay::strips; });
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
    for (const part::FrameId f : part_.frames.ids()) {
      List<StackId, std::uint8_t> stack_uses(layup_.stack_count(), 0);
      for (const StackId s : layup_.stacks())
        for (const PlyId p : layup_.plies_of(s)) stack_uses[s] |= layup_.frame_of(p) == f;
      if (std::none_of(stack_uses.begin(), stack_uses.end(), [](std::uint8_t uses) { return uses != 0; })) continue;
      const frame::Surroundings around{part_, surface_, geometry_, layup_.curves, layup_.zones, &made_};
      try {
        layup_.frames[f] = made_[f] ? *made_[f] : frame::field(part_.frames[f], around, findings_);
        if (!made_[f] && blended(part_.frames[f].name)) made_[f] = layup_.frames[f];
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
          !part_.materials[m].of_others &&
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
  const Progress& progress_;
  Findings errors_;
  Layup layup_;
  List<FrameId, std::optional<frame::Field>> made_;  ///< frames that others, and drapes, need
  std::map<
      std::tuple<zone::ZoneId, std::optional<double>, std::vector<Moved>, part::Corners, std::optional<part::Scallop>>,
      RegionId>
      region_of_;
  std::map<std::vector<std::uint32_t>, StackId> stacks_;
  std::vector<double> runs_out_;  ///< per taper: how thick its plies are at the thickest
  bool told_flat_ = false;
};

}  // namespace

Layup lay(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, Findings& findings,
          const Progress& progress) {
  return Stacker(part, surface, geometry, findings, progress).lay();
}

}  // namespace bordado::layup
