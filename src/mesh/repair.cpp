// Repairs that an engineer asks for; each one is told.
#include <bordado/mesh/weld.hpp>

#include <bordado/mesh/care.hpp>

#include <Eigen/Geometry>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::mesh {

namespace {

class Repairer {
 public:
  Repairer(Surface surface, const RepairOptions& options, Findings& findings)
      : surface_(std::move(surface)), options_(options), findings_(findings) {}

  Surface repair() {
    if (options_.scale != 1.0) {
      for (Vec3& p : surface_.points) p *= options_.scale;
      tell("repair.scaled", fmt::format("all coordinates were multiplied by {:g}", options_.scale));
    }
    merge();
    remove_flat();
    remove_twins();
    unfold();
    agree();
    drop_loose_nodes();
    return std::move(surface_);
  }

 private:
  void tell(std::string code, std::string what) {
    findings_.note(std::move(code), std::move(what), Place::in(surface_.file));
  }
  std::string ids(const std::vector<ElementIndex>& elements) const {
    std::vector<std::int64_t> out;
    for (const ElementIndex e : elements) out.push_back(surface_.element_ids[e]);
    return listed(out, 20);
  }

  double mean_edge() const {
    double sum = 0.0;
    std::size_t count = 0;
    for (ElementIndex e = 0; e < surface_.element_count(); ++e) {
      const auto corners = surface_.corners_of(e);
      for (std::size_t k = 0; k < corners.size(); ++k, ++count)
        sum += (surface_.points[corners[k]] - surface_.points[corners[(k + 1) % corners.size()]]).norm();
    }
    return count > 0 ? sum / static_cast<double>(count) : 0.0;
  }

  /// Nodes at the same place become the first of them. A quadrilateral that loses a corner becomes a triangle; what
  /// loses more goes.
  void merge() {
    const double reach = options_.merge.value_or(1e-4 * mean_edge());
    const std::vector<std::uint32_t> first = weld(surface_.points, reach);
    std::vector<std::int64_t> merged;
    for (std::uint32_t n = 0; n < first.size(); ++n)
      if (first[n] != n) merged.push_back(surface_.node_ids[n]);
    if (merged.empty()) return;
    for (NodeIndex& n : surface_.nodes) n = first[n];
    for (Group& group : surface_.groups) {
      for (NodeIndex& n : group.points) n = first[n];
      for (Edge& edge : group.edges) {
        edge.first = first[edge.first];
        edge.second = first[edge.second];
        if (edge.middle != no_index) edge.middle = first[edge.middle];
      }
      std::erase_if(group.edges, [](const Edge& edge) { return edge.first == edge.second; });
    }
    tell("repair.merged", fmt::format("{} no further than {:.3g} from another one became that one: nodes {}",
                                      counted(merged.size(), "node"), reach, listed(merged, 20)));
    std::vector<ElementIndex> gone, cut;
    std::vector<std::vector<NodeIndex>> corners_left(surface_.element_count());
    for (ElementIndex e = 0; e < surface_.element_count(); ++e) {
      const auto corners = surface_.corners_of(e);
      std::vector<NodeIndex>& left = corners_left[e];
      for (std::size_t k = 0; k < corners.size(); ++k)
        if (corners[k] != corners[(k + 1) % corners.size()]) left.push_back(corners[k]);
      std::vector<NodeIndex> sorted = left;
      std::sort(sorted.begin(), sorted.end());
      const bool twice = std::adjacent_find(sorted.begin(), sorted.end()) != sorted.end();
      if (left.size() < 3 || twice)
        gone.push_back(e);
      else if (left.size() < corners.size())
        cut.push_back(e);
    }
    if (!cut.empty()) {
      tell("repair.collapsed", fmt::format("{} lost a corner by that and became triangles: elements {}",
                                           counted(cut.size(), "quadrilateral"), ids(cut)));
      std::vector<NodeIndex> nodes;
      std::size_t next = 0;
      std::vector<std::uint32_t> begins{0};
      for (ElementIndex e = 0; e < surface_.element_count(); ++e) {
        const bool here = next < cut.size() && cut[next] == e;
        next += here;
        const auto all = surface_.nodes_of(e);
        if (here) {
          nodes.insert(nodes.end(), corners_left[e].begin(), corners_left[e].end());
          surface_.shapes[e] = Shape::triangle3;
        } else {
          nodes.insert(nodes.end(), all.begin(), all.end());
        }
        begins.push_back(static_cast<std::uint32_t>(nodes.size()));
      }
      surface_.nodes = std::move(nodes);
      surface_.first = std::move(begins);
    }
    remove(gone, "repair.collapsed", "shrank to a line or a point by that and went");
  }

  void remove(const std::vector<ElementIndex>& gone, std::string code, std::string_view what) {
    if (gone.empty()) return;
    tell(std::move(code), fmt::format("{} {}: elements {}", counted(gone.size(), "element"), what, ids(gone)));
    std::vector<std::uint32_t> kept(surface_.element_count(), 0);
    for (const ElementIndex e : gone) kept[e] = no_index;
    std::uint32_t next = 0;
    std::vector<NodeIndex> nodes;
    std::vector<std::uint32_t> begins{0};
    for (ElementIndex e = 0; e < kept.size(); ++e) {
      if (kept[e] == no_index) continue;
      const auto all = surface_.nodes_of(e);
      nodes.insert(nodes.end(), all.begin(), all.end());
      begins.push_back(static_cast<std::uint32_t>(nodes.size()));
      surface_.shapes[next] = surface_.shapes[e];
      surface_.element_ids[next] = surface_.element_ids[e];
      kept[e] = next++;
    }
    surface_.shapes.resize(next);
    surface_.element_ids.resize(next);
    surface_.nodes = std::move(nodes);
    surface_.first = std::move(begins);
    for (Group& group : surface_.groups) {
      for (ElementIndex& e : group.elements) e = kept[e];
      std::erase(group.elements, no_index);
    }
  }

  void remove_flat() { remove(inspect(surface_, geometry(surface_)).flat, "repair.flat", "without area went"); }

  /// Of elements with the same corners the first stays.
  void remove_twins() {
    std::vector<ElementIndex> gone;
    for (const auto& [one, other] : inspect(surface_, geometry(surface_)).twin_elements) gone.push_back(other);
    std::sort(gone.begin(), gone.end());
    gone.erase(std::unique(gone.begin(), gone.end()), gone.end());
    remove(gone, "repair.twins", "had the same corners as another one and went");
  }

  /// A quadrilateral whose sides cross gets its corners in the order that goes round.
  void unfold() {
    std::vector<ElementIndex> mended;
    for (const ElementIndex e : inspect(surface_, geometry(surface_)).folded) {
      if (surface_.shapes[e] != Shape::quadrilateral4) continue;
      NodeIndex* const n = surface_.nodes.data() + surface_.first[e];
      const auto folded = [&] {
        const auto at = [&](std::size_t k) -> const Vec3& { return surface_.points[n[k % 4]]; };
        for (std::size_t k = 0; k < 2; ++k)
          if ((at(k + 1) - at(k)).cross(at(k + 2) - at(k)).dot((at(k + 2) - at(k)).cross(at(k + 3) - at(k))) <= 0.0)
            return true;
        return false;
      };
      for (const auto& [a, b] : {std::pair(2, 3), std::pair(1, 2)}) {
        std::swap(n[a], n[b]);
        if (!folded()) {
          mended.push_back(e);
          break;
        }
        std::swap(n[a], n[b]);
      }
    }
    if (!mended.empty())
      tell("repair.unfolded", fmt::format("{} whose sides crossed got their corners in the order that goes round: "
                                          "elements {}",
                                          counted(mended.size(), "quadrilateral"), ids(mended)));
  }

  void agree() {
    const std::vector<NodeIndex> before = surface_.nodes;
    Findings oriented;
    orient(surface_, AsMeshed{}, oriented);
    std::vector<ElementIndex> turned;
    for (ElementIndex e = 0; e < surface_.element_count(); ++e)
      if (!std::equal(before.begin() + surface_.first[e], before.begin() + surface_.first[e + 1],
                      surface_.nodes.begin() + surface_.first[e]))
        turned.push_back(e);
    if (!turned.empty())
      tell("repair.turned", fmt::format("{} turned round so that neighbours agree: elements {}",
                                        counted(turned.size(), "element"), ids(turned)));
    for (const Finding& finding : oriented.all())
      if (finding.severity != Severity::note) {
        Finding left = finding;
        left.severity = Severity::warning;  // the mesh is written all the same
        findings_.add(left);
      }
  }

  void drop_loose_nodes() {
    std::vector<std::uint32_t> kept(surface_.points.size(), no_index);
    for (const NodeIndex n : surface_.nodes) kept[n] = 0;
    std::uint32_t next = 0;
    for (std::size_t n = 0; n < kept.size(); ++n) {
      if (kept[n] == no_index) continue;
      surface_.points[next] = surface_.points[n];
      surface_.node_ids[next] = surface_.node_ids[n];
      kept[n] = next++;
    }
    surface_.points.resize(next);
    surface_.node_ids.resize(next);
    for (NodeIndex& n : surface_.nodes) n = kept[n];
    for (Group& group : surface_.groups) {
      for (NodeIndex& n : group.points) n = kept[n];
      std::erase(group.points, no_index);
      for (Edge& edge : group.edges) {
        edge.first = kept[edge.first];
        edge.second = kept[edge.second];
        if (edge.middle != no_index) edge.middle = kept[edge.middle];
      }
      std::erase_if(group.edges, [](const Edge& e) { return e.first == no_index || e.second == no_index; });
    }
  }

  Surface surface_;
  const RepairOptions& options_;
  Findings& findings_;
};

}  // namespace

Surface repaired(Surface surface, const RepairOptions& options, Findings& findings) {
  Surface out = Repairer(std::move(surface), options, findings).repair();
  out.turned.clear();  // a new mesh begins anew
  return out;
}

}  // namespace bordado::mesh
