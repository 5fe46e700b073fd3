#include "cover.hpp"
#include "make_borders.hpp"

#include <bordado/base/work.hpp>
#include <bordado/mesh/locate.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <utility>

namespace bordado::zone {

std::optional<ZoneId> ZoneSets::find(std::string_view name) const {
  const auto found = std::find(names.begin(), names.end(), name);
  if (found == names.end()) return std::nullopt;
  return ZoneId(found - names.begin());
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
  Resolver(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, const Curves& curves,
           Findings& findings)
      : part_(part),
        surface_(surface),
        geometry_(geometry),
        curves_(curves),
        findings_(findings),
        count_(surface.element_count()) {}

  ZoneSets resolve() {
    sets_.names.emplace_back(part::everything);
    for (const part::Zone& zone : part_.zones) sets_.names.push_back(zone.name);
    for (const mesh::Group& group : surface_.groups)
      if (group.dimension == 2 && !sets_.find(group.name)) sets_.names.push_back(group.name);
    sets_.words.assign((sets_.names.size() + 63) / 64, std::vector<std::uint64_t>(count_, 0));
    sets_.counts.assign(sets_.names.size(), 0);
    sets_.element_areas.assign(sets_.names.size(), 0.0);
    sets_.exact_areas.assign(sets_.names.size(), 0.0);
    levels_.resize(sets_.names.size());
    measured_.assign(sets_.names.size(), false);
    state_.assign(sets_.names.size(), State::untouched);

    for (const ZoneId id : sets_.names.ids()) ensure(id);
    errors_.throw_if_errors();
    for (const ZoneId id : sets_.names.ids()) {
      if (measured_[id]) continue;
      if (levels_[id] && extents_.empty()) extents_ = extents(surface_);
      if (levels_[id])
        measure(id, [&](mesh::ElementIndex e, bool) { return covered_part(surface_, e, extents_[e], levels_[id]); });
      else
        measure(id, [](mesh::ElementIndex, bool inside) { return inside ? 1.0 : 0.0; });
    }
    make_borders(part_, surface_, levels_, sets_);
    for (const ZoneId id : sets_.declared())
      if (const part::Zone* const zone = declared(id); zone && sets_.counts[id] == 0)
        tell_empty(*zone, sets_.exact_areas[id]);
    return std::move(sets_);
  }

 private:
  void tell_empty(const part::Zone& zone, double area) {
    if (!(area > 0.0))
      return findings_.warning("zone.empty", fmt::format("zone '{}' has no elements", zone.name), zone.where,
                               "check its group name, box or length unit");
    findings_.warning(
        "zone.empty",
        fmt::format("zone '{}' has no elements: its shape covers {:.4g} {}^2, but no element by {:.3g} of its area",
                    zone.name, area, part_.units.unit(Dimension::length), zone.share),
        zone.where,
        "mesh finer there; plies with an edge of their own (edge = 0, say) lie on parts of elements all the same");
  }

  enum class State { untouched, open, done };
  static constexpr std::size_t most_corners = 10'000;
  std::size_t depth_ = 0;
  bool told_deep_ = false;

  /// The zone of the part file behind an id; nothing for "everything" and groups of the mesh.
  const part::Zone* declared(ZoneId id) const {
    return id != everything && index(id) <= part_.zones.size() ? &part_.zones[index(id) - 1] : nullptr;
  }

  void ensure(ZoneId id) {
    if (state_[id] != State::untouched) return;
    constexpr std::size_t deepest = 500;
    if (depth_ >= deepest) {
      if (const part::Zone* const zone = declared(id); zone && !std::exchange(told_deep_, true))
        errors_.error("zone.too-deep",
                      fmt::format("zone '{}' is made from others by way of more than {}", zone->name, deepest),
                      zone->where, "make it from fewer steps");
      return;
    }
    ++depth_;
    state_[id] = State::open;
    if (id == everything)
      mark(id, [](mesh::ElementIndex) { return true; });
    else if (const part::Zone* const zone = declared(id))
      std::visit([&](const auto& kind) { fill(kind, *zone, id); }, zone->kind);
    else
      add_group(sets_.names[id], id);
    state_[id] = State::done;
    --depth_;
  }

  /// Puts every element into the zone that the question says yes to. Each element has its own word: no two threads
  /// meet.
  template <class Question>
  void mark(ZoneId id, Question holds) {
    std::uint64_t* const words = sets_.words[index(id) / 64].data();
    std::atomic<std::size_t> total{0};
    parallel_blocks(count_, [&](std::size_t begin, std::size_t end) {
      std::size_t found = 0;
      for (std::size_t e = begin; e < end; ++e) {
        const bool inside = holds(static_cast<mesh::ElementIndex>(e));
        words[e] |= std::uint64_t{inside} << (index(id) % 64);
        found += inside;
      }
      total += found;
    });
    sets_.counts[id] = total;
  }

  bool add_group(std::string_view name, ZoneId id) {
    const mesh::Group* const group = surface_.group(name, 2);
    if (!group) return false;
    for (const mesh::ElementIndex e : group->elements)
      sets_.words[index(id) / 64][e] |= std::uint64_t{1} << (index(id) % 64);
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

  void fill(const part::Facing& facing, const part::Zone&, ZoneId id) {
    const double least = facing.within.degrees() >= 180.0 ? -2.0 : facing.within.cos() - 1e-12;
    mark(id, [&](mesh::ElementIndex e) { return geometry_.normals[e].dot(facing.along) >= least; });
  }

  // --- shapes, which may cover elements in part
  // ------------------------------------------------------------------------

  /// What a level has to know: a place is enough for shapes in space, and tells of many elements at once.
  enum class Knows { place, element };

  /// Every element of whose area the shape covers enough, and the areas of both.
  void cover(const part::Zone& zone, ZoneId id, Level level, Knows knows = Knows::element) {
    const double enough = zone.share - 1e-9;
    if (extents_.empty()) extents_ = extents(surface_);
    if (runs_.empty()) runs_ = runs(extents_, geometry_.areas);
    std::uint64_t* const words = sets_.words[index(id) / 64].data();
    const std::uint64_t bit = std::uint64_t{1} << (index(id) % 64);
    struct Sum {
      std::size_t count = 0;
      double elements = 0.0, exact = 0.0;
    };
    const std::size_t block = block_of(128);  // runs
    std::vector<Sum> sums((runs_.size() + block - 1) / block);
    parallel_blocks(
        runs_.size(),
        [&](std::size_t begin, std::size_t end) {
          Sum& sum = sums[begin / block];
          for (std::size_t r = begin; r < end; ++r) {
            const std::size_t first = r * elements_of_a_run, last = std::min(first + elements_of_a_run, count_);
            const auto all = knows == Knows::place ? decided(runs_[r], level) : std::nullopt;
            if (all && !*all) continue;
            if (all) {
              for (std::size_t e = first; e < last; ++e) words[e] |= bit;
              sum.count += last - first;
              sum.elements += runs_[r].area;
              sum.exact += runs_[r].area;
              continue;
            }
            for (std::size_t e = first; e < last; ++e) {
              const double part = covered_part(surface_, static_cast<mesh::ElementIndex>(e), extents_[e], level);
              sum.exact += part * geometry_.areas[e];
              if (!(part > 0.0 && part >= enough)) continue;
              words[e] |= bit;
              ++sum.count;
              sum.elements += geometry_.areas[e];
            }
          }
        },
        block);
    for (const Sum& sum : sums) {
      sets_.counts[id] += sum.count;
      sets_.element_areas[id] += sum.elements;
      sets_.exact_areas[id] += sum.exact;
    }
    levels_[id] = std::move(level);
    measured_[id] = true;
  }

  void in_space(const part::Zone& zone, ZoneId id, Level level) { cover(zone, id, std::move(level), Knows::place); }
  void fill(const part::Box& kind, const part::Zone& zone, ZoneId id) { in_space(zone, id, level_of(kind)); }
  void fill(const part::Ball& kind, const part::Zone& zone, ZoneId id) { in_space(zone, id, level_of(kind)); }
  void fill(const part::Cylinder& kind, const part::Zone& zone, ZoneId id) { in_space(zone, id, level_of(kind)); }
  void fill(const part::HalfSpace& kind, const part::Zone& zone, ZoneId id) { in_space(zone, id, level_of(kind)); }

  void fill(const part::Polygon& kind, const part::Zone& zone, ZoneId id) {
    if (const auto* const corners = std::get_if<std::vector<Vec3>>(&kind.outline);
        corners && corners->size() > most_corners)
      return errors_.error("zone.too-many-corners",
                           fmt::format("zone '{}': its outline has {} corners; at most {} are looked at", zone.name,
                                       corners->size(), most_corners),
                           zone.where, "leave out those that lie on straight lines");
    if (const auto* const corners = std::get_if<std::vector<Vec3>>(&kind.outline))
      return in_space(zone, id, level_of(kind, *corners));
    const auto& name = std::get<Declared<std::string>>(kind.outline);
    const NamedCurve* const curve = curves_.find(name.value);
    if (!curve) return of_unknown(name.value, name.where, zone, false);
    if (curve->lines.size() != 1 || curve->lines[0].points.size() < 3) {
      errors_.error("zone.curve-open",
                    fmt::format("zone '{}': curve '{}' is {}, so it encloses nothing", zone.name, name.value,
                                curve->lines.size() == 1 ? "a single line" : counted(curve->lines.size(), "line")),
                    name.where, "give a closed curve, or the corners of a polygon");
      return;
    }
    in_space(zone, id, level_of(kind, curve->lines[0].points));
  }

  struct Distances {
    std::vector<double> at_nodes;
    std::vector<LineSegment> from;  ///< what they are measured from, where that is points and lines
  };

  /// Distances from a spot, a little further than is asked for, so that elements on the border know all corners.
  std::optional<Distances> distances_from(const part::PointOrName& spot, const part::Zone& zone, double within) {
    if (const auto* const name = std::get_if<std::string>(&spot.what))
      if (!curves_.find(*name) && sets_.find(*name)) {
        const auto other = named({*name, spot.where}, zone);
        if (!other) return std::nullopt;
      }
    const auto from = sources(spot, curves_, sets_, surface_);
    if (from) {
      Distances out{mesh::distances(surface_, *from, within + 3.0 * largest_edge()), {}};
      constexpr std::size_t a_few = 16;
      const auto* const name = std::get_if<std::string>(&spot.what);
      const bool of_zone = name && !curves_.find(*name) && sets_.find(*name);
      if (of_zone || from->nodes.size() + from->points.size() > a_few) return out;
      const mesh::Locator locator(surface_);
      const auto add = [&](const Vec3& point) { out.from.push_back({point, point}); };
      for (const mesh::NodeIndex n : from->nodes) add(surface_.points[n]);
      for (const Vec3& point : from->points) add(locator.nearest(point).point);
      for (const mesh::Curve& curve : from->curves) add_pieces(curve, locator, out.from);
      return out;
    }
    of_unknown(std::get<std::string>(spot.what), spot.where, zone, true);
    return std::nullopt;
  }

  /// A curve as pieces that lie on the surface.
  void add_pieces(const mesh::Curve& curve, const mesh::Locator& locator, std::vector<LineSegment>& pieces) {
    const std::size_t count = curve.points.size();
    if (count == 0) return;
    const auto on_surface = [&](const Vec3& at) { return curve.nodes.empty() ? locator.nearest(at).point : at; };
    Vec3 last = on_surface(curve.points.front());
    for (std::size_t k = 0; k + (curve.closed ? 0 : 1) < count; ++k) {
      const Vec3 &a = curve.points[k], &b = curve.points[(k + 1) % count];
      const double wanted = curve.nodes.empty() ? (b - a).norm() / (0.25 * largest_edge()) : 1.0;
      const auto steps = static_cast<std::size_t>(std::clamp(std::ceil(wanted), 1.0, 1e6));
      for (std::size_t i = 1; i <= steps; ++i) {
        const Vec3 next = on_surface(a + (b - a) * (static_cast<double>(i) / static_cast<double>(steps)));
        pieces.push_back({last, next});
        last = next;
      }
    }
    if (count == 1) pieces.push_back({last, last});
  }

  void fill(const part::Near& kind, const part::Zone& zone, ZoneId id) {
    if (auto from = distances_from(kind.of, zone, kind.within))
      cover(zone, id, level_of(surface_, std::move(from->at_nodes), kind.within, std::move(from->from)));
  }

  void fill(const part::Grown& kind, const part::Zone& zone, ZoneId id) {
    const auto inner = named(kind.zone, zone);
    if (!inner) return;
    // Smaller: what is further than that from everything else and from the part's border.
    mesh::Sources from;
    std::vector<std::uint8_t> touched(surface_.points.size(), 0);
    for (mesh::ElementIndex e = 0; e < count_; ++e)
      if (sets_.contains(*inner, e) == (kind.by > 0.0))
        for (const mesh::NodeIndex n : surface_.corners_of(e)) touched[n] = 1;
    if (kind.by < 0.0)
      for (const auto& [a, b] : mesh::free_edges(surface_)) touched[a] = touched[b] = 1;
    for (mesh::NodeIndex n = 0; n < touched.size(); ++n)
      if (touched[n]) from.nodes.push_back(n);
    const double by = std::abs(kind.by);
    Level level = level_of(surface_, mesh::distances(surface_, from, by + 3.0 * largest_edge()), by);
    if (kind.by > 0.0) return cover(zone, id, std::move(level));
    cover(zone, id, [this, inner = *inner, level = std::move(level)](const OnElement& at) {
      return sets_.contains(inner, at.element) ? -level(at) : outside;
    });
  }

  double largest_edge() {
    if (largest_edge_ == 0.0) largest_edge_ = mesh::longest_edge(surface_);
    return largest_edge_;
  }

  void of_unknown(const std::string& name, const Place& where, const part::Zone& zone, bool zones_too) {
    std::vector<std::string> known;
    for (const NamedCurve& curve : curves_.all) known.push_back(curve.name);
    if (zones_too) known.insert(known.end(), sets_.names.begin(), sets_.names.end());
    const auto near = nearest_name(name, known);
    errors_.error("zone.of-unknown",
                  fmt::format("zone '{}': there is no curve{} '{}'", zone.name, zones_too ? " or zone" : "", name),
                  where,
                  near            ? fmt::format("did you mean '{}'?", *near)
                  : known.empty() ? "declare it as [curve.NAME]"
                                  : fmt::format("known: {}", listed(known, 20)));
  }

  // --- whole elements ------------------------------------------------------------------------------------------------

  void fill(const part::Rows& kind, const part::Zone& zone, ZoneId id) {
    std::vector<std::uint8_t> taken(count_, 0), reached(surface_.points.size(), 0);
    std::vector<mesh::ElementIndex> row;
    int left = kind.count;
    if (const auto* const name = std::get_if<std::string>(&kind.of.what);
        name && !curves_.find(*name) && sets_.find(*name)) {
      const auto other = named({*name, kind.of.where}, zone);
      if (!other) return;
      for (mesh::ElementIndex e = 0; e < count_; ++e)
        if (sets_.contains(*other, e)) {
          taken[e] = 2;  // not counted
          for (const mesh::NodeIndex n : surface_.corners_of(e)) reached[n] = 1;
        }
    } else {
      const auto from = sources(kind.of, curves_, sets_, surface_);
      if (!from) return of_unknown(std::get<std::string>(kind.of.what), kind.of.where, zone, true);
      // Nodes begin a row; a point or a line that runs across elements has these as its first row.
      for (const mesh::NodeIndex n : from->nodes) reached[n] = 1;
      std::vector<Vec3> across = from->points;
      for (const mesh::Curve& curve : from->curves) {
        for (const mesh::NodeIndex n : curve.nodes) reached[n] = 1;
        if (!curve.nodes.empty()) continue;
        const double step = 0.1 * mesh::length(curve) / static_cast<double>(curve.points.size());
        const std::size_t pieces = curve.points.size() - (curve.closed ? 0 : 1);
        const double spacing = std::max(0.05 * largest_edge(), 1e-4 * step);
        for (std::size_t k = 0; k < pieces; ++k) {
          const Vec3 &a = curve.points[k], &b = curve.points[(k + 1) % curve.points.size()];
          const auto steps = static_cast<int>(std::clamp(std::ceil((b - a).norm() / spacing), 1.0, 1e5));
          for (int i = 0; i <= steps; ++i) across.push_back(a + (b - a) * (double(i) / steps));
        }
      }
      if (!across.empty()) {
        const mesh::Locator locator(surface_);
        for (const Vec3& point : across) {
          const mesh::ElementIndex e = locator.nearest(point).element;
          if (taken[e]) continue;
          taken[e] = 1;
          row.push_back(e);
        }
        --left;
        for (const mesh::ElementIndex e : row)
          for (const mesh::NodeIndex n : surface_.corners_of(e)) reached[n] = 1;
      }
    }
    for (; left > 0; --left) {
      row.clear();
      for (mesh::ElementIndex e = 0; e < count_; ++e) {
        const auto corners = surface_.corners_of(e);
        if (!taken[e] && std::any_of(corners.begin(), corners.end(), [&](mesh::NodeIndex n) { return reached[n]; }))
          row.push_back(e);
      }
      if (row.empty()) break;
      for (const mesh::ElementIndex e : row) {
        taken[e] = 1;
        for (const mesh::NodeIndex n : surface_.corners_of(e)) reached[n] = 1;
      }
    }
    mark(id, [&](mesh::ElementIndex e) { return taken[e] == 1; });
  }

  void fill(const part::HangingTogether& kind, const part::Zone&, ZoneId id) {
    const mesh::Locator locator(surface_);
    const mesh::NodeTable at_nodes = mesh::elements_at_nodes(surface_);
    std::vector<std::uint8_t> taken(count_, 0);
    std::vector<mesh::ElementIndex> open{locator.nearest(kind.near).element};
    taken[open[0]] = 1;
    while (!open.empty()) {
      const mesh::ElementIndex e = open.back();
      open.pop_back();
      // Across edges: two corners in common.
      const auto corners = surface_.corners_of(e);
      for (std::size_t k = 0; k < corners.size(); ++k)
        for (const mesh::ElementIndex other : at_nodes.of(corners[k])) {
          if (taken[other]) continue;
          const auto theirs = surface_.corners_of(other);
          if (std::find(theirs.begin(), theirs.end(), corners[(k + 1) % corners.size()]) == theirs.end()) continue;
          taken[other] = 1;
          open.push_back(other);
        }
    }
    mark(id, [&](mesh::ElementIndex e) { return taken[e] != 0; });
  }

  void fill(const part::ElementIds& kind, const part::Zone& zone, ZoneId id) {
    std::vector<std::int64_t> wanted = kind.ids, unknown;
    std::sort(wanted.begin(), wanted.end());
    wanted.erase(std::unique(wanted.begin(), wanted.end()), wanted.end());
    mark(id, [&](mesh::ElementIndex e) {
      return std::binary_search(wanted.begin(), wanted.end(), surface_.element_ids[e]);
    });
    std::vector<std::int64_t> known = surface_.element_ids;
    std::sort(known.begin(), known.end());
    std::set_difference(wanted.begin(), wanted.end(), known.begin(), known.end(), std::back_inserter(unknown));
    if (!unknown.empty())
      errors_.error("zone.element-unknown",
                    fmt::format("zone '{}': the mesh has no {} {}", zone.name,
                                unknown.size() == 1 ? "element" : "elements", listed(unknown)),
                    zone.where, "take ids of this mesh, or better say the zone by its shape");
    findings_.warning("zone.element-ids",
                      fmt::format("zone '{}' is {} by their ids: it will not survive a new mesh", zone.name,
                                  counted(wanted.size(), "element")),
                      zone.where, "say it by a group, a shape or a distance");
  }

  // --- made of other zones -------------------------------------------------------------------------------------------

  /// Membership of a zone named by another one, or nothing with an error told.
  std::optional<ZoneId> named(const Declared<std::string>& name, const part::Zone& by) {
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

  std::vector<ZoneId> all_named(const std::vector<Declared<std::string>>& names, const part::Zone& by) {
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
    levels_[id] = [this, zones](const OnElement& at) { return extreme(zones, at, false); };
  }

  /// The level of a zone; of one without, far inside or far outside.
  double level(ZoneId zone, const OnElement& at) const {
    if (levels_[zone]) return levels_[zone](at);
    return sets_.contains(zone, at.element) ? -outside : outside;
  }
  double extreme(const std::vector<ZoneId>& zones, const OnElement& at, bool largest) const {
    double out = largest ? -outside : outside;
    for (const ZoneId zone : zones) out = largest ? std::max(out, level(zone, at)) : std::min(out, level(zone, at));
    return out;
  }

  /// Areas of a zone: of its elements, and of its shape, by the part of each element that it covers.
  template <class Part>
  void measure(ZoneId id, Part part_of) {
    const std::size_t block = block_of(8192);
    std::vector<std::array<double, 2>> sums((count_ + block - 1) / block, {0.0, 0.0});
    parallel_blocks(
        count_,
        [&](std::size_t begin, std::size_t end) {
          auto& [elements, exact] = sums[begin / block];
          for (std::size_t e = begin; e < end; ++e) {
            const auto element = static_cast<mesh::ElementIndex>(e);
            const double area = geometry_.areas[e];
            const bool inside = sets_.contains(id, element);
            elements += inside ? area : 0.0;
            exact += area * part_of(element, inside);
          }
        },
        block);
    for (const auto& [elements, exact] : sums) {
      sets_.element_areas[id] += elements;
      sets_.exact_areas[id] += exact;
    }
  }

  void fill(const part::Common& kind, const part::Zone& zone, ZoneId id) {
    const std::vector<ZoneId> zones = all_named(kind.zones, zone);
    mark(id, [&](mesh::ElementIndex e) {
      return std::all_of(zones.begin(), zones.end(), [&](ZoneId other) { return sets_.contains(other, e); });
    });
    levels_[id] = [this, zones](const OnElement& at) { return extreme(zones, at, true); };
  }

  void fill(const part::Opposite& kind, const part::Zone& zone, ZoneId id) {
    const auto other = named(kind.zone, zone);
    if (!other) return;
    mark(id, [&](mesh::ElementIndex e) { return !sets_.contains(*other, e); });
    levels_[id] = [this, other = *other](const OnElement& at) { return -level(other, at); };
  }

  void fill(const part::Minus& kind, const part::Zone& zone, ZoneId id) {
    const auto from = named(kind.from, zone);
    const std::vector<ZoneId> without = all_named(kind.without, zone);
    if (!from) return;
    mark(id, [&](mesh::ElementIndex e) { return sets_.contains(*from, e) && !in_any(without, e); });
    levels_[id] = [this, from = *from, without](const OnElement& at) {
      return std::max(level(from, at), -extreme(without, at, false));
    };
  }

  std::optional<ZoneId> find_or_error(const Declared<std::string>& name, const std::string& who) {
    if (const auto id = sets_.find(name.value)) return id;
    const auto near = nearest_name(name.value, sets_.names.all());
    errors_.error(
        "zone.unknown",
        fmt::format("{}: zone '{}' is not declared and is no element group of the mesh", who, name.value), name.where,
        near ? fmt::format("did you mean '{}'?", *near) : fmt::format("zones: {}", listed(sets_.names.all(), 20)));
    return std::nullopt;
  }

  const part::Part& part_;
  const mesh::Surface& surface_;
  const mesh::Geometry& geometry_;
  const Curves& curves_;
  Findings& findings_;
  Findings errors_;
  std::size_t count_;
  List<ZoneId, Level> levels_;  ///< none where it means whole elements
  List<ZoneId, std::uint8_t> measured_;
  std::vector<Extent> extents_;   ///< per element, made for the first shape
  std::vector<ElementRun> runs_;  ///< the same, in runs
  double largest_edge_ = 0.0;
  static constexpr double outside = 1e300;
  ZoneSets sets_;
  List<ZoneId, State> state_;
};

}  // namespace

std::optional<mesh::Sources> sources(const part::PointOrName& spot, const Curves& curves, const ZoneSets& zones,
                                     const mesh::Surface& surface) {
  if (const auto* const point = std::get_if<Vec3>(&spot.what)) return mesh::Sources{.points = {*point}};
  const auto& name = std::get<std::string>(spot.what);
  if (const NamedCurve* const curve = curves.find(name)) return mesh::Sources{.curves = curve->lines};
  if (const auto zone = zones.find(name)) {
    mesh::Sources out;
    std::vector<std::uint8_t> touched(surface.points.size(), 0);
    for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e)
      if (zones.contains(*zone, e))
        for (const mesh::NodeIndex n : surface.corners_of(e)) touched[n] = 1;
    for (mesh::NodeIndex n = 0; n < touched.size(); ++n)
      if (touched[n]) out.nodes.push_back(n);
    return out;
  }
  if (const mesh::Group* const group = surface.group(name, 0)) return mesh::Sources{.nodes = group->points};
  return std::nullopt;
}

ZoneSets zones(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry,
               const Curves& curves, Findings& findings) {
  return Resolver(part, surface, geometry, curves, findings).resolve();
}

ZoneSets zones(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry,
               Findings& findings) {
  return zones(part, surface, geometry, curves(part, surface, geometry), findings);
}

}  // namespace bordado::zone
