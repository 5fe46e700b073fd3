#include <bordado/layup.hpp>

#include <bordado/laminate.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
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
    stack();
    check_bare();
    lay_frames();
    check_unused();
    errors_.throw_if_errors();
    return std::move(layup_);
  }

 private:
  template <class List>
  static std::uint32_t position(const List& list, std::string_view name) {
    const auto found = std::find_if(list.begin(), list.end(), [&](const auto& item) { return item.name == name; });
    return static_cast<std::uint32_t>(found - list.begin());
  }

  void look_up() {
    for (const part::Ply& declared : part_.plies) {
      Ply ply;
      ply.material = position(part_.materials, declared.material.value);
      ply.frame = position(part_.frames, declared.frame.value);
      ply.thickness = declared.thickness ? *declared.thickness : part_.materials[ply.material].thickness.value_or(0.0);
      ply.angle = declared.angle;
      if (const auto zone = layup_.zones.find(declared.zone.value)) {
        ply.zone = *zone;
        if (layup_.zones.counts[*zone] == 0)
          errors_.error(
              "layup.ply-nowhere",
              fmt::format("ply '{}' lies on zone '{}', which has no elements", declared.id, declared.zone.value),
              declared.zone.where, "correct the zone or take the ply out");
      } else {
        const auto near = nearest_name(declared.zone.value, layup_.zones.names);
        errors_.error(
            "zone.unknown",
            fmt::format("ply '{}': zone '{}' is not declared and is no element group of the mesh", declared.id,
                        declared.zone.value),
            declared.zone.where,
            near ? fmt::format("did you mean '{}'?", *near) : fmt::format("zones: {}", listed(layup_.zones.names, 20)));
      }
      layup_.plies.push_back(ply);
    }
  }

  void stack() {
    const std::size_t count = surface_.element_count();
    const std::size_t words = layup_.zones.words.size();
    std::vector<std::uint64_t> used(words, 0);
    for (const Ply& ply : layup_.plies) used[ply.zone / 64] |= std::uint64_t{1} << (ply.zone % 64);

    // Neighbours in the list mostly share a stack, so each block looks its keys up only where they change.
    layup_.stack_of.resize(count);
    layup_.first.assign(1, 0);
    std::unordered_map<std::string, StackIndex> known;
    std::string key(words * sizeof(std::uint64_t), '\0'), last;
    StackIndex current = 0;
    for (std::size_t e = 0; e < count; ++e) {
      bool changed = e == 0;
      for (std::size_t w = 0; w < words; ++w)
        changed = changed || ((layup_.zones.words[w][e] ^ layup_.zones.words[w][e - 1]) & used[w]) != 0;
      if (changed) {
        for (std::size_t w = 0; w < words; ++w) {
          const std::uint64_t word = layup_.zones.words[w][e] & used[w];
          key.replace(w * sizeof word, sizeof word, reinterpret_cast<const char*>(&word), sizeof word);
        }
        const auto [found, is_new] = known.emplace(key, static_cast<StackIndex>(known.size()));
        current = found->second;
        if (is_new) add_stack(static_cast<mesh::ElementIndex>(e));
      }
      layup_.stack_of[e] = current;
    }
  }

  void add_stack(mesh::ElementIndex element) {
    for (PlyIndex p = 0; p < layup_.plies.size(); ++p)
      if (layup_.zones.contains(layup_.plies[p].zone, element)) layup_.stack_plies.push_back(p);
    layup_.first.push_back(static_cast<std::uint32_t>(layup_.stack_plies.size()));
  }

  std::string ids(std::span<const mesh::ElementIndex> elements) const {
    std::vector<std::int64_t> out;
    for (const mesh::ElementIndex e : elements) out.push_back(surface_.element_ids[e]);
    return listed(out);
  }

  void check_bare() {
    std::vector<mesh::ElementIndex> bare;
    for (mesh::ElementIndex e = 0; e < layup_.stack_of.size(); ++e)
      if (layup_.plies_of(layup_.stack_of[e]).empty()) bare.push_back(e);
    if (bare.empty()) return;
    errors_.error("layup.element-bare", fmt::format("{} elements have no ply: elements {}", bare.size(), ids(bare)),
                  surface_.place_of(bare.front()), "lay a ply over zone 'everything', or over a zone that holds them");
  }

  void lay_frames() {
    layup_.frames.resize(part_.frames.size());
    for (std::uint32_t f = 0; f < part_.frames.size(); ++f) {
      std::vector<std::uint8_t> stack_uses(layup_.stack_count(), 0);
      for (StackIndex s = 0; s < layup_.stack_count(); ++s)
        for (const PlyIndex p : layup_.plies_of(s)) stack_uses[s] |= layup_.plies[p].frame == f;
      if (std::none_of(stack_uses.begin(), stack_uses.end(), [](std::uint8_t uses) { return uses != 0; })) continue;
      const frame::Surroundings around{part_, surface_, geometry_, layup_.curves, layup_.zones};
      try {
        layup_.frames[f] = frame::field(part_.frames[f], around, findings_);
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
                    field.fit > 0.0 ? fmt::format("; fitted to {:.3g} {}", field.fit, unit) : ""),
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
    for (std::uint32_t m = 0; m < part_.materials.size(); ++m)
      if (part_.materials[m].where.file == part_.file &&  // others came with plies of a group that is off
          std::none_of(layup_.plies.begin(), layup_.plies.end(), [&](const Ply& ply) { return ply.material == m; }))
        findings_.note("layup.material-unused", fmt::format("material '{}' is in no ply", part_.materials[m].name),
                       part_.materials[m].where);
    for (std::uint32_t f = 0; f < part_.frames.size(); ++f)
      if (std::none_of(layup_.plies.begin(), layup_.plies.end(), [&](const Ply& ply) { return ply.frame == f; }) &&
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
  bool told_flat_ = false;
};

}  // namespace

Layup lay(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, Findings& findings) {
  return Stacker(part, surface, geometry, findings).lay();
}

double thickness(const Layup& layup, StackIndex stack) {
  double sum = 0.0;
  for (const PlyIndex p : layup.plies_of(stack)) sum += layup.plies[p].thickness;
  return sum;
}

double areal_mass(const part::Part& part, const Layup& layup, StackIndex stack) {
  double sum = 0.0;
  for (const PlyIndex p : layup.plies_of(stack))
    sum += layup.plies[p].thickness * part.materials[layup.plies[p].material].density;
  return sum;
}

double bottom(const part::Part& part, double h) {
  const double share = part.flush == part::Flush::bottom ? 0.0 : part.flush == part::Flush::middle ? 0.5 : 1.0;
  return part.offset - share * h;
}

std::string code(const part::Part& part, const Layup& layup, StackIndex stack) {
  const auto plies = layup.plies_of(stack);
  const bool mixed = std::any_of(plies.begin(), plies.end(),
                                 [&](PlyIndex p) { return layup.plies[p].material != layup.plies[plies[0]].material; });
  std::vector<laminate::CodePly> coded;
  for (const PlyIndex p : plies) {
    const material::Material& material = part.materials[layup.plies[p].material];
    const std::uint32_t frame = layup.plies[p].frame;
    coded.push_back({layup.plies[p].angle,
                     mixed ? (material.mark.empty() ? material.name : material.mark) : std::string(),
                     frame == layup.plies[plies[0]].frame ? std::string() : part.frames[frame].name, 0});
  }
  return laminate::code_of(coded);
}

Mass mass(const part::Part& part, const mesh::Geometry& geometry, const Layup& layup) {
  const std::size_t stacks = layup.stack_count();
  std::vector<double> per_area(stacks), height(stacks);  // mass per area, and height of its centre above the mesh
  for (StackIndex s = 0; s < stacks; ++s) {
    double z = bottom(part, thickness(layup, s)), moment = 0.0;
    for (const PlyIndex p : layup.plies_of(s)) {
      const double t = layup.plies[p].thickness, m = t * part.materials[layup.plies[p].material].density;
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
  Vec3 moment = Vec3::Zero();
  for (mesh::ElementIndex e = 0; e < layup.stack_of.size(); ++e) {
    const StackIndex s = layup.stack_of[e];
    const double area = geometry.areas[e], m = area * per_area[s];
    out.area += area;
    out.mass += m;
    out.stack_areas[s] += area;
    moment += m * (geometry.centres[e] + height[s] * geometry.normals[e]);
    for (std::size_t w = 0; w < layup.zones.words.size(); ++w)
      for (std::uint64_t rest = layup.zones.words[w][e]; rest != 0; rest &= rest - 1) {
        const std::size_t zone = 64 * w + static_cast<std::size_t>(__builtin_ctzll(rest));
        out.zone_areas[zone] += area;
        out.zone_masses[zone] += m;
      }
  }
  if (out.mass > 0.0) out.centre = moment / out.mass;
  return out;
}

}  // namespace bordado::layup
