#include <bordado/zone.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <atomic>

namespace bordado::zone {

std::optional<ZoneId> ZoneSets::find(std::string_view name) const {
  const auto found = std::find(names.begin(), names.end(), name);
  if (found == names.end()) return std::nullopt;
  return static_cast<ZoneId>(found - names.begin());
}

std::vector<mesh::ElementIndex> ZoneSets::elements(ZoneId zone) const {
  std::vector<mesh::ElementIndex> out;
  out.reserve(counts[zone]);
  for (mesh::ElementIndex e = 0; e < words[0].size(); ++e)
    if (contains(zone, e)) out.push_back(e);
  return out;
}

namespace {

class Resolver {
 public:
  Resolver(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, Findings& findings)
      : part_(part), surface_(surface), geometry_(geometry), findings_(findings), count_(surface.element_count()) {}

  ZoneSets resolve() {
    sets_.names.emplace_back(part::everything);
    for (const part::Zone& zone : part_.zones) sets_.names.push_back(zone.name);
    for (const mesh::Group& group : surface_.groups)
      if (group.dimension == 2 && !sets_.find(group.name)) sets_.names.push_back(group.name);
    sets_.words.assign((sets_.names.size() + 63) / 64, std::vector<std::uint64_t>(count_, 0));
    sets_.counts.assign(sets_.names.size(), 0);
    state_.assign(sets_.names.size(), State::untouched);

    for (ZoneId id = 0; id < sets_.names.size(); ++id) ensure(id);
    errors_.throw_if_errors();
    for (ZoneId id = 0; id < part_.zones.size(); ++id)
      if (sets_.counts[id + 1] == 0)
        findings_.warning("zone.empty", fmt::format("zone '{}' has no elements", part_.zones[id].name),
                          part_.zones[id].where, "check its group name, box or length unit");
    return std::move(sets_);
  }

 private:
  enum class State { untouched, open, done };

  void ensure(ZoneId id) {
    if (state_[id] != State::untouched) return;
    state_[id] = State::open;
    if (id == 0)
      mark(id, [](mesh::ElementIndex) { return true; });
    else if (id <= part_.zones.size())
      std::visit([&](const auto& kind) { fill(kind, part_.zones[id - 1], id); }, part_.zones[id - 1].kind);
    else
      add_group(sets_.names[id], id);
    state_[id] = State::done;
  }

  /// Puts every element into the zone that the question says yes to. Each element has its own word: no two threads
  /// meet.
  template <class Question>
  void mark(ZoneId id, Question holds) {
    std::uint64_t* const words = sets_.words[id / 64].data();
    std::atomic<std::size_t> total{0};
    parallel_blocks(count_, [&](std::size_t begin, std::size_t end) {
      std::size_t found = 0;
      for (std::size_t e = begin; e < end; ++e) {
        const bool inside = holds(static_cast<mesh::ElementIndex>(e));
        words[e] |= std::uint64_t{inside} << (id % 64);
        found += inside;
      }
      total += found;
    });
    sets_.counts[id] = total;
  }

  bool add_group(std::string_view name, ZoneId id) {
    const mesh::Group* const group = surface_.group(name, 2);
    if (!group) return false;
    for (const mesh::ElementIndex e : group->elements) sets_.words[id / 64][e] |= std::uint64_t{1} << (id % 64);
    sets_.counts[id] = group->elements.size();
    return true;
  }

  void fill(const part::MeshGroup& kind, const part::Zone& zone, ZoneId id) {
    if (add_group(kind.group, id)) return;
    std::vector<std::string> known;
    for (const mesh::Group& group : surface_.groups)
      if (group.dimension == 2) known.push_back(group.name);
    const auto near = nearest_name(kind.group, known);
    errors_.error("zone.group-unknown",
                  fmt::format("zone '{}': the mesh has no element group '{}'", zone.name, kind.group), zone.where,
                  near            ? fmt::format("did you mean '{}'?", *near)
                  : known.empty() ? "the mesh has no named element groups: define physical surfaces, or use a box"
                                  : fmt::format("element groups of the mesh: {}", listed(known, 20)));
  }

  void fill(const part::Ball& ball, const part::Zone&, ZoneId id) {
    const double reach = ball.radius * (1.0 + 1e-9);  // a centre on the border is inside, rounding or not
    mark(id, [&](mesh::ElementIndex e) { return (geometry_.centres[e] - ball.centre).norm() <= reach; });
  }

  void fill(const part::Cylinder& cylinder, const part::Zone&, ZoneId id) {
    const double reach = cylinder.radius * (1.0 + 1e-9);
    mark(id, [&](mesh::ElementIndex e) {
      const Vec3 from_axis = geometry_.centres[e] - cylinder.through;
      return (from_axis - from_axis.dot(cylinder.along) * cylinder.along).norm() <= reach;
    });
  }

  void fill(const part::HalfSpace& beyond, const part::Zone&, ZoneId id) {
    mark(id, [&](mesh::ElementIndex e) { return (geometry_.centres[e] - beyond.point).dot(beyond.along) >= 0.0; });
  }

  void fill(const part::Facing& facing, const part::Zone&, ZoneId id) {
    const double least = facing.within.degrees() >= 180.0 ? -2.0 : facing.within.cos() - 1e-12;
    mark(id, [&](mesh::ElementIndex e) { return geometry_.normals[e].dot(facing.along) >= least; });
  }

  void fill(const part::Box& box, const part::Zone&, ZoneId id) {
    // A centre on the border is inside, rounding or not.
    const double slack = 1e-9 * std::max(box.low.cwiseAbs().maxCoeff(), box.high.cwiseAbs().maxCoeff());
    const Vec3 low = box.low.array() - slack, high = box.high.array() + slack;
    mark(id, [&](mesh::ElementIndex e) {
      const Vec3& c = geometry_.centres[e];
      return (c.array() >= low.array()).all() && (c.array() <= high.array()).all();
    });
  }

  /// Membership of a zone named by another one, or nothing with an error told.
  std::optional<ZoneId> named(const part::Declared<std::string>& name, const part::Zone& by) {
    const auto id = find_or_error(name, fmt::format("zone '{}'", by.name));
    if (!id) return std::nullopt;
    if (state_[*id] == State::open) {
      errors_.error("zone.circular",
                    fmt::format("zone '{}' is made from '{}', which is made from it", by.name, name.value), name.where,
                    "break the circle");
      return std::nullopt;
    }
    ensure(*id);
    return id;
  }

  std::vector<ZoneId> all_named(const std::vector<part::Declared<std::string>>& names, const part::Zone& by) {
    std::vector<ZoneId> out;
    for (const auto& name : names)
      if (const auto id = named(name, by)) out.push_back(*id);
    return out;
  }

  bool in_any(const std::vector<ZoneId>& zones, mesh::ElementIndex e) const {
    return std::any_of(zones.begin(), zones.end(), [&](ZoneId zone) { return sets_.contains(zone, e); });
  }

  void fill(const part::Union& kind, const part::Zone& zone, ZoneId id) {
    const std::vector<ZoneId> zones = all_named(kind.zones, zone);
    mark(id, [&](mesh::ElementIndex e) { return in_any(zones, e); });
  }

  void fill(const part::Common& kind, const part::Zone& zone, ZoneId id) {
    const std::vector<ZoneId> zones = all_named(kind.zones, zone);
    mark(id, [&](mesh::ElementIndex e) {
      return std::all_of(zones.begin(), zones.end(), [&](ZoneId other) { return sets_.contains(other, e); });
    });
  }

  void fill(const part::Opposite& kind, const part::Zone& zone, ZoneId id) {
    if (const auto other = named(kind.zone, zone))
      mark(id, [&](mesh::ElementIndex e) { return !sets_.contains(*other, e); });
  }

  void fill(const part::Minus& kind, const part::Zone& zone, ZoneId id) {
    const auto from = named(kind.from, zone);
    const std::vector<ZoneId> without = all_named(kind.without, zone);
    if (from) mark(id, [&](mesh::ElementIndex e) { return sets_.contains(*from, e) && !in_any(without, e); });
  }

  std::optional<ZoneId> find_or_error(const part::Declared<std::string>& name, const std::string& who) {
    if (const auto id = sets_.find(name.value)) return id;
    const auto near = nearest_name(name.value, sets_.names);
    errors_.error("zone.unknown",
                  fmt::format("{}: zone '{}' is not declared and is no element group of the mesh", who, name.value),
                  name.where,
                  near ? fmt::format("did you mean '{}'?", *near) : fmt::format("zones: {}", listed(sets_.names, 20)));
    return std::nullopt;
  }

  const part::Part& part_;
  const mesh::Surface& surface_;
  const mesh::Geometry& geometry_;
  Findings& findings_;
  Findings errors_;
  std::size_t count_;
  ZoneSets sets_;
  std::vector<State> state_;
};

}  // namespace

ZoneSets zones(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry,
               Findings& findings) {
  return Resolver(part, surface, geometry, findings).resolve();
}

}  // namespace bordado::zone
