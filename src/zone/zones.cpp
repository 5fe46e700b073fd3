#include <bordado/zone.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <bit>

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

/// One byte per element while zones are worked out; packed into bits once each is complete.
using Members = std::vector<std::uint8_t>;

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
        findings_.warning("zone.empty", fmt::format("zone '{}' has no elements", part_.zones[id].name), part_.zones[id].where,
                          "check its group name, box or length unit");
    return std::move(sets_);
  }

 private:
  enum class State { untouched, open, done };

  void ensure(ZoneId id) {
    if (state_[id] != State::untouched) return;
    state_[id] = State::open;
    Members members(count_, 0);
    if (id == 0) std::fill(members.begin(), members.end(), std::uint8_t{1});
    else if (id <= part_.zones.size())
      std::visit([&](const auto& kind) { fill(kind, part_.zones[id - 1], members); }, part_.zones[id - 1].kind);
    else add_group(sets_.names[id], members);
    auto& words = sets_.words[id / 64];
    std::size_t total = 0;
    for (std::size_t e = 0; e < count_; ++e) {
      words[e] |= std::uint64_t{members[e]} << (id % 64);
      total += members[e];
    }
    sets_.counts[id] = total;
    state_[id] = State::done;
  }

  bool add_group(std::string_view name, Members& members) {
    const mesh::Group* const group = surface_.group(name, 2);
    if (!group) return false;
    for (const mesh::ElementIndex e : group->elements) members[e] = 1;
    return true;
  }

  void fill(const part::MeshGroup& kind, const part::Zone& zone, Members& members) {
    if (add_group(kind.group, members)) return;
    std::vector<std::string> known;
    for (const mesh::Group& group : surface_.groups)
      if (group.dimension == 2) known.push_back(group.name);
    const auto near = nearest_name(kind.group, known);
    errors_.error("zone.group-unknown", fmt::format("zone '{}': the mesh has no element group '{}'", zone.name, kind.group), zone.where,
                  near            ? fmt::format("did you mean '{}'?", *near)
                  : known.empty() ? "the mesh has no named element groups: define physical surfaces, or use a box"
                                  : fmt::format("element groups of the mesh: {}", listed(known, 20)));
  }

  void fill(const part::Box& box, const part::Zone&, Members& members) {
    for (std::size_t e = 0; e < count_; ++e) {
      const Vec3& c = geometry_.centres[e];
      members[e] = (c.array() >= box.low.array()).all() && (c.array() <= box.high.array()).all();
    }
  }

  /// Membership of a zone named by another one, or nothing with an error told.
  std::optional<ZoneId> named(const part::Declared<std::string>& name, const part::Zone& by) {
    const auto id = find_or_error(name, fmt::format("zone '{}'", by.name));
    if (!id) return std::nullopt;
    if (state_[*id] == State::open) {
      errors_.error("zone.circular", fmt::format("zone '{}' is made from '{}', which is made from it", by.name, name.value), name.where, "break the circle");
      return std::nullopt;
    }
    ensure(*id);
    return id;
  }

  void fill(const part::Union& kind, const part::Zone& zone, Members& members) {
    for (const auto& name : kind.zones)
      if (const auto id = named(name, zone))
        for (mesh::ElementIndex e = 0; e < count_; ++e) members[e] |= static_cast<std::uint8_t>(sets_.contains(*id, e));
  }

  void fill(const part::Minus& kind, const part::Zone& zone, Members& members) {
    if (const auto id = named(kind.from, zone))
      for (mesh::ElementIndex e = 0; e < count_; ++e) members[e] = sets_.contains(*id, e);
    for (const auto& name : kind.without)
      if (const auto id = named(name, zone))
        for (mesh::ElementIndex e = 0; e < count_; ++e) members[e] &= static_cast<std::uint8_t>(!sets_.contains(*id, e));
  }

  std::optional<ZoneId> find_or_error(const part::Declared<std::string>& name, const std::string& who) {
    if (const auto id = sets_.find(name.value)) return id;
    const auto near = nearest_name(name.value, sets_.names);
    errors_.error("zone.unknown", fmt::format("{}: zone '{}' is not declared and is no element group of the mesh", who, name.value), name.where,
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

ZoneSets zones(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, Findings& findings) {
  return Resolver(part, surface, geometry, findings).resolve();
}

}  // namespace bordado::zone
