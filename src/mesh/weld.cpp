#include <bordado/mesh/weld.hpp>

#include "../base/arena.hpp"
#include "builder.hpp"

#include <fmt/format.h>
#include <tbb/parallel_sort.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <tuple>

namespace bordado::mesh {

Sets::Sets(std::size_t count) : parent_(count) { std::iota(parent_.begin(), parent_.end(), 0u); }

std::vector<std::array<std::uint32_t, 2>> near_pairs(std::span<const Vec3> points, double reach) {
  std::vector<std::array<std::uint32_t, 2>> out;
  if (!(reach >= 0.0) || points.size() < 2) return out;
  // Cells much larger than the reach: most points look into their own cell only. Not so small that a cell's number
  // overflows far from the origin.
  Vec3 low = Vec3::Zero(), high = Vec3::Zero();
  bool any = false;
  for (const Vec3& p : points) {
    if (!p.allFinite()) continue;
    low = any ? low.cwiseMin(p) : p;
    high = any ? high.cwiseMax(p) : p;
    any = true;
  }
  const double extent = (high - low).maxCoeff();
  if (!std::isfinite(extent) || !std::isfinite(reach)) return out;
  const double cell = std::max({64.0 * reach, extent * 1e-9, 1e-300});
  const auto cell_at = [&](double x, int axis) {
    return static_cast<std::int64_t>(std::floor((x - low[axis]) / cell));
  };
  const auto key = [](std::int64_t i, std::int64_t j, std::int64_t k) {
    std::uint64_t h = static_cast<std::uint64_t>(i) * 0x9E3779B97F4A7C15ull;
    h = (h ^ (h >> 29)) + static_cast<std::uint64_t>(j) * 0xC2B2AE3D27D4EB4Full;
    h = (h ^ (h >> 31)) + static_cast<std::uint64_t>(k) * 0x165667B19E3779F9ull;
    return h ^ (h >> 30);
  };
  struct Slot {
    std::uint64_t key;
    double x;
    std::uint32_t point;
    bool operator<(const Slot& other) const {
      return std::tie(key, x, point) < std::tie(other.key, other.x, other.point);
    }
  };
  std::vector<Slot> slots;
  slots.reserve(points.size());
  for (std::uint32_t i = 0; i < points.size(); ++i) {
    const Vec3& p = points[i];
    if (p.allFinite()) slots.push_back({key(cell_at(p.x(), 0), cell_at(p.y(), 1), cell_at(p.z(), 2)), p.x(), i});
  }
  in_arena([&] { tbb::parallel_sort(slots.begin(), slots.end()); });
  // Within a cell points stand by x: look at those that are near in x only.
  const auto try_pair = [&](std::uint32_t a, std::uint32_t b) {
    if ((points[a] - points[b]).norm() <= reach) out.push_back({std::min(a, b), std::max(a, b)});
  };
  for (std::size_t s = 0; s < slots.size(); ++s)
    for (std::size_t t = s + 1; t < slots.size() && slots[t].key == slots[s].key && slots[t].x <= slots[s].x + reach;
         ++t)
      try_pair(slots[s].point, slots[t].point);
  // Those next to the border of their cell look into its neighbours, too.
  for (std::uint32_t i = 0; i < points.size(); ++i) {
    const Vec3& p = points[i];
    if (!p.allFinite()) continue;
    std::array<std::int64_t, 3> from, to;
    for (int axis = 0; axis < 3; ++axis) {
      from[static_cast<std::size_t>(axis)] = cell_at(p[axis] - reach, axis);
      to[static_cast<std::size_t>(axis)] = cell_at(p[axis] + reach, axis);
    }
    if (from == to) continue;
    const std::uint64_t own = key(cell_at(p.x(), 0), cell_at(p.y(), 1), cell_at(p.z(), 2));
    for (std::int64_t a = from[0]; a <= to[0]; ++a)
      for (std::int64_t b = from[1]; b <= to[1]; ++b)
        for (std::int64_t c = from[2]; c <= to[2]; ++c) {
          const std::uint64_t wanted = key(a, b, c);
          if (wanted == own) continue;
          for (auto slot = std::lower_bound(slots.begin(), slots.end(), Slot{wanted, p.x() - reach, 0});
               slot != slots.end() && slot->key == wanted && slot->x <= p.x() + reach; ++slot)
            if (slot->point > i) try_pair(i, slot->point);
        }
  }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

std::vector<std::uint32_t> weld(std::span<const Vec3> points, double tolerance) {
  // Equal points first: each facet of an STL file brings its own, so they are the most.
  std::vector<std::uint32_t> order(points.size()), first(points.size());
  std::iota(order.begin(), order.end(), 0u);
  const auto key = [&](std::uint32_t i) { return std::tuple(points[i].x(), points[i].y(), points[i].z(), i); };
  in_arena([&] {
    tbb::parallel_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
      // Points that are not finite would break the order: they stand at the end by themselves.
      const bool good_a = points[a].allFinite(), good_b = points[b].allFinite();
      if (!good_a || !good_b) return good_a != good_b ? good_a : a < b;
      return key(a) < key(b);
    });
  });
  std::vector<Vec3> distinct;
  std::vector<std::uint32_t> leader;
  for (std::size_t k = 0; k < order.size(); ++k) {
    const bool same = k > 0 && points[order[k]] == points[order[k - 1]];
    if (!same) {
      distinct.push_back(points[order[k]]);
      leader.push_back(order[k]);  // the smallest index of its points
    }
    first[order[k]] = leader.back();
  }
  Sets sets(points.size());
  for (const auto& [a, b] : near_pairs(distinct, tolerance)) sets.join(leader[a], leader[b]);
  std::vector<std::uint32_t> out(points.size());
  for (std::uint32_t i = 0; i < out.size(); ++i) out[i] = sets.root(first[i]);
  return out;
}

void weld(RawMesh& raw, std::optional<double> tolerance, const std::string& path, Findings& findings) {
  std::vector<Vec3> points(raw.node_ids.size());
  for (std::size_t i = 0; i < points.size(); ++i)
    points[i] = {raw.coordinates[3 * i], raw.coordinates[3 * i + 1], raw.coordinates[3 * i + 2]};
  const double reach = tolerance.value_or(1e-6 * extent(points).diagonal());
  if (!std::isfinite(reach)) return;  // of a mesh that is refused
  const std::vector<std::uint32_t> first = weld(points, reach);
  std::size_t welded = 0;
  for (std::uint32_t i = 0; i < first.size(); ++i) welded += first[i] != i;
  if (welded == 0) return;
  const IdMap index_of(raw.node_ids);
  const auto welded_id = [&](std::int64_t& id) {
    if (const std::uint32_t i = index_of.find(id); i != no_index) id = raw.node_ids[first[i]];
  };
  for (std::int64_t& id : raw.nodes) welded_id(id);
  for (RawMesh::RawGroup& group : raw.groups) {
    for (std::int64_t& id : group.points) welded_id(id);
    for (auto& edge : group.edges)
      for (std::int64_t& id : edge) welded_id(id);
  }
  // Facets that lost a corner.
  std::vector<std::uint32_t> kept(raw.shapes.size(), no_index);
  std::size_t next = 0, from = 0, to = 0;
  for (std::size_t e = 0; e < raw.shapes.size(); ++e) {
    const std::size_t count = node_count(raw.shapes[e]);
    std::vector<std::int64_t> sorted(raw.nodes.begin() + static_cast<std::ptrdiff_t>(from),
                                     raw.nodes.begin() + static_cast<std::ptrdiff_t>(from + count));
    std::sort(sorted.begin(), sorted.end());
    if (std::adjacent_find(sorted.begin(), sorted.end()) == sorted.end()) {
      kept[e] = static_cast<std::uint32_t>(next);
      for (std::size_t k = 0; k < count; ++k) raw.nodes[to++] = raw.nodes[from + k];
      raw.shapes[next] = raw.shapes[e];
      raw.element_ids[next++] = raw.element_ids[e];
    }
    from += count;
  }
  const std::size_t lost = raw.shapes.size() - next;
  raw.shapes.resize(next);
  raw.element_ids.resize(next);
  raw.nodes.resize(to);
  for (RawMesh::RawGroup& group : raw.groups) {
    for (std::uint32_t& e : group.elements) e = kept[e];
    std::erase(group.elements, no_index);
  }
  // The welded nodes go: nothing uses them any more.
  std::size_t stay = 0;
  for (std::size_t i = 0; i < first.size(); ++i) {
    if (first[i] != i) continue;
    raw.node_ids[stay] = raw.node_ids[i];
    for (std::size_t k = 0; k < 3; ++k) raw.coordinates[3 * stay + k] = raw.coordinates[3 * i + k];
    ++stay;
  }
  raw.node_ids.resize(stay);
  raw.coordinates.resize(3 * stay);
  findings.note(
      "mesh.welded",
      fmt::format("{} points were welded to {}: those no further apart than {:.3g} (in the file's unit) are one{}",
                  points.size(), stay, reach,
                  lost > 0 ? fmt::format("; {} smaller than that fell away", counted(lost, "facet")) : ""),
      Place::in(path));
}

}  // namespace bordado::mesh
