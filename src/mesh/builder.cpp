#include "builder.hpp"

#include <bordado/base/text.hpp>
#include <bordado/base/work.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <atomic>

namespace bordado::mesh {

IdMap::IdMap(std::span<const std::int64_t> ids) {
  if (ids.empty()) return;
  const auto [low, high] = std::minmax_element(ids.begin(), ids.end());
  const auto spread = static_cast<std::uint64_t>(*high) - static_cast<std::uint64_t>(*low);
  const auto note_duplicate = [&](std::uint32_t index) {
    if (!duplicate_) duplicate_ = index;
  };
  if (spread < 8 * static_cast<std::uint64_t>(ids.size()) + 1024) {
    lowest_ = *low;
    table_.assign(spread + 1, no_index);
    for (std::uint32_t i = 0; i < ids.size(); ++i) {
      std::uint32_t& slot = table_[static_cast<std::size_t>(ids[i] - lowest_)];
      if (slot != no_index)
        note_duplicate(i);
      else
        slot = i;
    }
    return;
  }
  map_.reserve(ids.size());
  for (std::uint32_t i = 0; i < ids.size(); ++i)
    if (!map_.emplace(ids[i], i).second) note_duplicate(i);
}

namespace {

class Builder {
 public:
  Builder(RawMesh&& raw, const std::string& path, const ReadOptions& options, Findings& findings)
      : raw_(std::move(raw)), path_(path), options_(options), findings_(findings), index_of_(raw_.node_ids) {}

  Surface build() {
    check_ids();
    errors_.throw_if_errors();
    connect();
    errors_.throw_if_errors();
    drop_unused_nodes();
    place_nodes();
    straighten();
    add_groups();
    errors_.throw_if_errors();
    tell_types();
    if (raw_.passed_over > 0)
      findings_.note("mesh.solids-passed-over",
                     fmt::format("{} solid elements were passed over: only shells carry plies here", raw_.passed_over),
                     Place::in(path_));
    return std::move(surface_);
  }

 private:
  static std::string counts(const std::map<std::string, std::size_t>& types) {
    std::vector<std::string> out;
    for (const auto& [type, count] : types) out.push_back(fmt::format("{} of {}", count, plain_text(type, 40)));
    return listed(out, 8);
  }

  void tell_types() {
    if (!raw_.guessed_types.empty())
      findings_.warning("mesh.type-guessed",
                        fmt::format("elements of types that this format does not document were read by their number of "
                                    "nodes: {}",
                                    counts(raw_.guessed_types)),
                        Place::in(path_), "look whether they are the shells they are taken for");
    if (!raw_.unknown_types.empty())
      findings_.warning("mesh.type-unknown",
                        fmt::format("elements of unknown types were passed over: {}", counts(raw_.unknown_types)),
                        Place::in(path_), "if they are shells, save them as triangles and quadrilaterals");
  }

  Place node_place(std::size_t i) const { return {path_, raw_.node_line ? raw_.node_line(i) : std::nullopt, {}, {}}; }
  Place element_place(std::size_t i) const {
    return {path_, raw_.element_line ? raw_.element_line(i) : std::nullopt, {}, raw_.element_ids[i]};
  }

  /// What was found instead of shells.
  std::string no_shells() const {
    std::vector<std::string> instead;
    if (raw_.passed_over > 0) instead.push_back(counted(raw_.passed_over, "solid element"));
    if (!raw_.unknown_types.empty()) instead.push_back(counts(raw_.unknown_types));
    if (!raw_.node_ids.empty()) instead.push_back(counted(raw_.node_ids.size(), "node"));
    return fmt::format("the mesh has no triangles and no quadrilaterals{}",
                       instead.empty() ? "" : fmt::format("; it has {}", fmt::join(instead, ", ")));
  }

  void check_ids() {
    if (raw_.shapes.empty())
      errors_.error("mesh.no-shells", no_shells(), Place::in(path_),
                    raw_.no_shells_remedy.empty() ? "mesh the surfaces, and save them too" : raw_.no_shells_remedy);
    if (raw_.node_ids.size() >= no_index || raw_.nodes.size() >= no_index)
      errors_.error("mesh.too-large",
                    fmt::format("the mesh has {} nodes; at most 4294967294 can be held", raw_.node_ids.size()),
                    Place::in(path_), "split the part");
    if (const auto twice = index_of_.duplicate())
      errors_.error("mesh.node-twice", fmt::format("node id {} stands twice", raw_.node_ids[*twice]),
                    node_place(*twice), "renumber the mesh and save it again");
    if (const auto twice = IdMap(raw_.element_ids).duplicate())
      errors_.error("mesh.element-twice", fmt::format("element id {} stands twice", raw_.element_ids[*twice]),
                    element_place(*twice), "renumber the mesh and save it again");
  }

  void connect() {
    const std::size_t count = raw_.shapes.size();
    surface_.first.resize(count + 1);
    surface_.first[0] = 0;
    for (std::size_t e = 0; e < count; ++e) surface_.first[e + 1] = surface_.first[e] + node_count(raw_.shapes[e]);
    surface_.nodes.resize(raw_.nodes.size());
    std::atomic<std::size_t> unknown{raw_.nodes.size()};
    parallel_blocks(raw_.nodes.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t k = begin; k < end; ++k) {
        surface_.nodes[k] = index_of_.find(raw_.nodes[k]);
        if (surface_.nodes[k] != no_index) continue;
        std::size_t known = unknown.load();
        while (k < known && !unknown.compare_exchange_weak(known, k)) {
        }
        break;
      }
    });
    if (const std::size_t k = unknown.load(); k < raw_.nodes.size()) {
      const auto after = std::upper_bound(surface_.first.begin(), surface_.first.end(), k);
      const auto e = static_cast<std::size_t>(after - surface_.first.begin()) - 1;
      errors_.error(
          "mesh.node-unknown",
          fmt::format("element {} uses node {}, which the file does not define", raw_.element_ids[e], raw_.nodes[k]),
          element_place(e), "save the mesh again with all its nodes");
    }
    surface_.shapes = std::move(raw_.shapes);
    surface_.element_ids = std::move(raw_.element_ids);
    raw_.nodes = {};
  }

  void drop_unused_nodes() {
    kept_.assign(raw_.node_ids.size(), 0);
    for (const NodeIndex node : surface_.nodes) kept_[node] = 1;
    std::uint32_t next = 0;
    for (std::uint32_t& kept : kept_) kept = kept ? next++ : no_index;
    const std::size_t stray = kept_.size() - next;
    if (stray > 0)
      findings_.note("mesh.stray-nodes",
                     fmt::format("{} of {} nodes belong to no shell element and were dropped", stray, kept_.size()),
                     Place::in(path_));
    if (stray > 0)
      for (NodeIndex& node : surface_.nodes) node = kept_[node];
    surface_.points.resize(next);
    surface_.node_ids.resize(next);
  }

  void place_nodes() {
    parallel_blocks(kept_.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t i = begin; i < end; ++i) {
        if (kept_[i] == no_index) continue;
        surface_.points[kept_[i]] =
            Vec3(raw_.coordinates[3 * i], raw_.coordinates[3 * i + 1], raw_.coordinates[3 * i + 2]) * options_.factor;
        surface_.node_ids[kept_[i]] = raw_.node_ids[i];
      }
    });
    constexpr double farthest = 1e30;  // masses, inertias and squares of them are still numbers
    std::size_t told = 0;
    for (std::size_t i = 0; i < kept_.size() && told < 20; ++i) {
      if (kept_[i] == no_index) continue;
      const Vec3& point = surface_.points[kept_[i]];
      if (point.allFinite() && point.cwiseAbs().maxCoeff() <= farthest) continue;
      ++told;
      const Vec3 given(raw_.coordinates[3 * i], raw_.coordinates[3 * i + 1], raw_.coordinates[3 * i + 2]);
      errors_.error("mesh.not-finite",
                    fmt::format("node {} has a coordinate that is {}: ({}, {}, {})", raw_.node_ids[i],
                                given.allFinite() ? "beyond 1e30" : "not a number", given.x(), given.y(), given.z()),
                    node_place(i), "repair the geometry and mesh it again");
    }
  }

  /// Meshers leave middle nodes far off where their geometry fails them. Half a circle goes half as far as its chord is long.
  void straighten() {
    std::vector<std::uint8_t> is_corner;
    std::vector<std::int64_t> moved;
    for (ElementIndex e = 0; e < surface_.element_count(); ++e) {
      if (!is_quadratic(surface_.shapes[e])) continue;
      const auto nodes = surface_.nodes_of(e);
      const std::size_t corners = corner_count(surface_.shapes[e]);
      for (std::size_t k = 0; k < corners; ++k) {
        const Vec3 &a = surface_.points[nodes[k]], &b = surface_.points[nodes[(k + 1) % corners]];
        Vec3& middle = surface_.points[nodes[corners + k]];
        const Vec3 halfway = 0.5 * (a + b);
        if (!((middle - halfway).stableNorm() > 0.75 * (b - a).stableNorm()) || a == b) continue;
        if (is_corner.empty()) {
          is_corner.assign(surface_.points.size(), 0);
          for (ElementIndex f = 0; f < surface_.element_count(); ++f)
            for (const NodeIndex corner : surface_.corners_of(f)) is_corner[corner] = 1;
        }
        if (is_corner[nodes[corners + k]]) continue;
        middle = halfway;
        moved.push_back(surface_.node_ids[nodes[corners + k]]);
      }
    }
    if (moved.empty()) return;
    findings_.warning("mesh.middle-far",
                      fmt::format("{} in the middle of edges lie further from these than an arc would, and were put "
                                  "halfway: {}",
                                  counted(moved.size(), "node"), listed(moved)),
                      Place::in(path_), "the mesher failed there: mesh again, finer or with straight edges");
  }

  NodeIndex kept_node(std::int64_t id) const {
    const std::uint32_t raw = index_of_.find(id);
    return raw == no_index ? no_index : kept_[raw];
  }

  /// As people can type it; it is said where it is not as the file has it.
  std::string name_of(const std::string& given) {
    std::string name = plain_text(given);
    if (name.find_first_not_of(' ') == std::string::npos) name = fmt::format("unnamed {}", ++unnamed_);
    if (name != given) renamed_.push_back(fmt::format("'{}'", name));
    return name;
  }

  void add_groups() {
    for (RawMesh::RawGroup& raw : raw_.groups) {
      Group group{name_of(raw.name), raw.dimension, {}, {}, std::move(raw.elements)};
      std::sort(group.elements.begin(), group.elements.end());
      group.elements.erase(std::unique(group.elements.begin(), group.elements.end()), group.elements.end());
      for (const std::int64_t id : raw.points)
        if (const NodeIndex node = kept_node(id); node != no_index) group.points.push_back(node);
      std::size_t loose = raw.points.size() - group.points.size();
      for (const auto& [a, b, middle] : raw.edges) {
        const Edge edge{kept_node(a), kept_node(b), middle ? kept_node(middle) : no_index};
        if (edge.first == no_index || edge.second == no_index)
          ++loose;
        else
          group.edges.push_back(edge);
      }
      if (loose > 0)
        loose_.push_back(fmt::format("{} {} of '{}'", loose, raw.dimension == 0 ? "points" : "edges", group.name));
      surface_.groups.push_back(std::move(group));
    }
    if (!loose_.empty())
      findings_.note(
          "mesh.group-loose",
          fmt::format("points and edges of groups that touch no shell element were left out: {}", listed(loose_)),
          Place::in(path_),
          "where they should be part of the surface, make them so before meshing (embed or fragment)");
    if (!renamed_.empty())
      findings_.note(
          "mesh.name-changed",
          fmt::format("names of groups that are empty, very long, hold control bytes or are not UTF-8 were made to "
                      "be read: {}",
                      listed(renamed_)),
          Place::in(path_), "bordado surface lists the groups as they are called here");
    surface_.file = path_;
  }

  RawMesh raw_;
  const std::string& path_;
  const ReadOptions& options_;
  Findings& findings_;
  Findings errors_;
  IdMap index_of_;
  Surface surface_;
  std::vector<std::string> loose_, renamed_;
  std::size_t unnamed_ = 0;
  std::vector<std::uint32_t> kept_;  ///< used while dropping: 1 or 0; then the new index or no_index
};

}  // namespace

Surface build(RawMesh&& raw, const std::string& path, const ReadOptions& options, Findings& findings) {
  return Builder(std::move(raw), path, options, findings).build();
}

}  // namespace bordado::mesh
