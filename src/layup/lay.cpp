#include <bordado/layup.hpp>

#include <bordado/laminate.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
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
    for (const part::Ply& declared : part_.plies) {
      Ply ply;
      ply.material = named(part_.materials, declared.material.value);
      ply.cloth = cloth(named(part_.frames, declared.frame.value));
      if (!declared.varies)
        ply.thickness =
            declared.thickness ? *declared.thickness : part_.materials[ply.material].thickness.value_or(0.0);
      ply.angle = declared.angle;
      if (const auto zone = layup_.zones.find(declared.zone.value)) {
        ply.region = region(*zone, declared.edge);
        if (layup_.zones.counts[*zone] == 0)
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
  }

  ClothId cloth(FrameId frame) {
    for (const ClothId c : layup_.cloths.ids())
      if (layup_.cloths[c].frame == frame) return c;
    layup_.cloths.push_back({frame});
    return ClothId{static_cast<std::uint32_t>(layup_.cloths.size() - 1)};
  }

  RegionId region(zone::ZoneId zone, const std::optional<double>& edge) {
    const auto [found, is_new] = region_of_.try_emplace({zone, edge}, layup_.regions.next());
    if (is_new) layup_.regions.push_back({zone, edge, {}});
    return found->second;
  }

  /// What regions cover whose edges were moved. Distances are worked out once for each zone.
  void move_edges() {
    std::map<zone::ZoneId, double> furthest;
    for (const Region& region : layup_.regions)
      if (region.edge) furthest[region.zone] = std::max(furthest[region.zone], std::abs(*region.edge));
    for (const auto& [zone, far] : furthest) {
      if (layup_.zones.borders.at(zone).lines.empty()) continue;  // told below
      const std::vector<double> depths =
          zone::depths(surface_, layup_.zones.borders.at(zone), far + 3.0 * mesh::longest_edge(surface_));
      for (Region& region : layup_.regions) {
        if (!region.edge || region.zone != zone) continue;
        region.covered = zone::covered(surface_, depths, *region.edge);
        if (part_.list.edges == part::Covered::whole)
          for (float& part : region.covered) part = part >= 0.5f ? 1.0f : 0.0f;
      }
    }
    for (const PlyId p : layup_.plies.ids()) {
      const Region& region = layup_.regions[layup_.plies[p].region];
      if (region.edge && region.covered.empty()) {
        errors_.error("layup.edge-none",
                      fmt::format("ply '{}': zone '{}' has no border within the part that its edge could be moved from",
                                  part_.plies[p].id, part_.plies[p].zone.value),
                      part_.plies[p].where,
                      "plies end at the part's own border with it; to end one before it, lay it over a zone with "
                      "shrunk = { zone = \"...\", by = ... }");
        continue;
      }
      if (!region.edge || std::any_of(region.covered.begin(), region.covered.end(), [](float c) { return c > 0.0f; }))
        continue;
      const part::Ply& declared = part_.plies[p];
      errors_.error("layup.edge-swallows",
                    fmt::format("ply '{}': its edge moved by {:g} {} leaves nothing of zone '{}'", declared.id,
                                *region.edge, part_.units.unit(Dimension::length), declared.zone.value),
                    declared.where, "move it by less, or take the ply out");
    }
  }

  /// Says which way was taken.
  void tell_of_moved() {
    std::vector<std::uint8_t> crossed(surface_.element_count(), 0);
    std::size_t plies = 0;
    for (const Ply& ply : layup_.plies) plies += layup_.regions[ply.region].edge.has_value();
    if (plies == 0) return;
    for (const Region& region : layup_.regions)
      for (std::size_t e = 0; e < region.covered.size(); ++e)
        crossed[e] |= region.covered[e] > 0.0f && region.covered[e] < 1.0f;
    const bool smeared = part_.list.edges == part::Covered::smeared;
    const auto elements = static_cast<std::size_t>(std::count(crossed.begin(), crossed.end(), 1));
    findings_.note(
        "layup.edges",
        fmt::format("{} moved against {}; {}",
                    plies == 1 ? "the edge of 1 ply is" : fmt::format("the edges of {} plies are", plies),
                    plies == 1 ? "its zone" : "their zones",
                    smeared ? fmt::format("where elements are covered in part ({}), the covered share of the thickness "
                                          "is spread over all of the element",
                                          counted(elements, "element"))
                            : "an element holds such a ply where half of its area is covered and more"),
        Place::in(part_.file), "edges = \"smeared\" or \"whole\" in [layup] says which");
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
    std::vector<const std::vector<std::uint64_t>*> all;
    for (const auto& word : layup_.zones.words) all.push_back(&word);
    std::vector<std::uint64_t> used(all.size(), 0);
    for (const Region& region : layup_.regions)
      if (!region.edge) used[index(region.zone) / 64] |= std::uint64_t{1} << (index(region.zone) % 64);
    const std::vector<std::vector<std::uint64_t>> moved = bits_of_moved();
    for (const auto& word : moved) {
      all.push_back(&word);
      used.push_back(~std::uint64_t{0});
    }
    const std::size_t words = all.size();

    // Neighbours in the list mostly share a stack, so each block looks its keys up only where they change.
    layup_.stack_of.resize(count);
    layup_.first.assign(1, 0);
    std::unordered_map<std::string, StackId> known;
    std::string key(words * sizeof(std::uint64_t), '\0'), last;
    StackId current{};
    for (std::size_t e = 0; e < count; ++e) {
      bool changed = e == 0;
      for (std::size_t w = 0; w < words; ++w) changed = changed || (((*all[w])[e] ^ (*all[w])[e - 1]) & used[w]) != 0;
      if (changed) {
        for (std::size_t w = 0; w < words; ++w) {
          const std::uint64_t word = (*all[w])[e] & used[w];
          key.replace(w * sizeof word, sizeof word, reinterpret_cast<const char*>(&word), sizeof word);
        }
        const auto [found, is_new] = known.emplace(key, static_cast<StackId>(known.size()));
        current = found->second;
        if (is_new) add_stack(static_cast<mesh::ElementIndex>(e));
      }
      layup_.stack_of[e] = current;
    }
  }

  /// Two bits for each region whose edge was moved: whether it covers any of the element, and whether not all.
  std::vector<std::vector<std::uint64_t>> bits_of_moved() const {
    std::vector<std::vector<std::uint64_t>> out;
    std::size_t bit = 0;
    for (const Region& region : layup_.regions) {
      if (!region.edge) continue;
      if (bit % 64 == 0) out.emplace_back(surface_.element_count(), 0);
      std::vector<std::uint64_t>& words = out.back();
      parallel_blocks(words.size(), [&](std::size_t begin, std::size_t end) {
        for (std::size_t e = begin; e < end; ++e) {
          const float part = region.covered[e];
          words[e] |= (std::uint64_t{part > 0.0f} | std::uint64_t{part > 0.0f && part < 1.0f} << 1) << (bit % 64);
        }
      });
      bit += 2;
    }
    return out;
  }

  void add_stack(mesh::ElementIndex element) {
    const std::size_t begin = layup_.stack_plies.size();
    for (const PlyId p : layup_.plies.ids()) {
      const double covered = layup_.covered(p, element);
      if (!(covered > 0.0)) continue;
      layup_.stack_plies.push_back(p);
      layup_.ply_varies.push_back(layup_.plies[p].taper.has_value() || covered < 1.0);
    }
    layup_.varies.push_back(std::any_of(layup_.ply_varies.begin() + static_cast<std::ptrdiff_t>(begin),
                                        layup_.ply_varies.end(), [](std::uint8_t v) { return v != 0; }));
    layup_.first.push_back(static_cast<std::uint32_t>(layup_.stack_plies.size()));
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
  std::map<std::pair<zone::ZoneId, std::optional<double>>, RegionId> region_of_;
  bool told_flat_ = false;
};

}  // namespace

Layup lay(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, Findings& findings) {
  return Stacker(part, surface, geometry, findings).lay();
}

std::vector<mesh::ElementIndex> Layup::elements_of(PlyId ply) const {
  const Region& region = regions[plies[ply].region];
  if (!region.edge) return zones.elements(region.zone);
  std::vector<mesh::ElementIndex> out;
  for (mesh::ElementIndex e = 0; e < region.covered.size(); ++e)
    if (region.covered[e] > 0.0f) out.push_back(e);
  return out;
}

double thickness(const Layup& layup, PlyId ply, mesh::ElementIndex element) {
  const Ply& laid = layup.plies[ply];
  const double covered = layup.regions[laid.region].edge ? layup.covered(ply, element) : 1.0;
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
  for (const PlyId p : plies) {
    const double t = thickness(layup_, p, element);
    if (t == 0.0) continue;
    const Ply& ply = layup_.plies[p];
    if (layup_.cloths[ply.cloth].frame != frame) {
      frame = layup_.cloths[ply.cloth].frame;
      turn = frame == first_frame ? Angle()
                                  : frame::between(reference(element), layup_.frames[frame].directions[element],
                                                   geometry_.normals[element]);
    }
    layers_.push_back(
        {p, ply.material, h, t, layup_.regions[ply.region].edge ? layup_.covered(p, element) : 1.0, ply.angle + turn});
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
