#include "keyword_sets.hpp"

#include "text.hpp"

#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>

namespace bordado::mesh {

namespace {

class Gatherer {
 public:
  Gatherer(KeywordLists lists, RawMesh& mesh, const std::string& path, Findings& findings)
      : lists_(lists), mesh_(mesh), path_(path), findings_(findings) {}

  void gather() {
    gather_sets();
    gather_surfaces();
  }

 private:
  /// Members of a set with those of the sets it names, each set worked out once, whichever way they are listed.
  const std::vector<std::int64_t>& gather(KeywordSets& sets, KeywordSet& of) {
    // By hand instead of by recursion: sets may name each other tens of thousands deep.
    std::vector<std::pair<KeywordSet*, std::size_t>> open{{&of, 0}};
    if (of.state == KeywordSet::State::gathered) return of.ids;
    of.state = KeywordSet::State::being_gathered;
    while (!open.empty()) {
      auto& [set, next] = open.back();
      if (next < set->sets.size()) {
        const auto found = sets.find(set->sets[next++]);
        if (found == sets.end()) {
          unknown_sets_.push_back(
              fmt::format("'{}' of '{}'", plain_text(set->sets[next - 1], 40), plain_text(set->name, 40)));
        } else if (found->second.state == KeywordSet::State::listed) {
          found->second.state = KeywordSet::State::being_gathered;
          open.emplace_back(&found->second, 0);
        } else if (found->second.state == KeywordSet::State::being_gathered && &found->second != set) {
          circle(found->second.name, set->name);
        }
        continue;
      }
      KeywordSet& done = *set;
      std::vector<std::string> named = std::move(done.sets);
      std::sort(named.begin(), named.end());
      named.erase(std::unique(named.begin(), named.end()), named.end());
      for (const std::string& name : named)
        if (const auto found = sets.find(name); found != sets.end() && &found->second != &done)
          done.ids.insert(done.ids.end(), found->second.ids.begin(), found->second.ids.end());
      count(done);
      std::sort(done.ids.begin(), done.ids.end());
      done.ids.erase(std::unique(done.ids.begin(), done.ids.end()), done.ids.end());
      done.state = KeywordSet::State::gathered;
      open.pop_back();
    }
    return of.ids;
  }

  [[noreturn]] void circle(const std::string& one, const std::string& other) const {
    throw Failure({Severity::error, "mesh.set-circle",
                   fmt::format("the sets '{}' and '{}' name each other, by way of others or not", plain_text(one, 40),
                               plain_text(other, 40)),
                   Place::in(path_), "break the circle: a set names those that are defined before it"});
  }

  /// Sets of sets of sets hold their members again at every level.
  void count(const KeywordSet& set) {
    members_ += set.ids.size();
    if (members_ > most_members) too_large(set, members_, most_members);
  }

  static constexpr std::size_t most_members = 400'000'000, most_generated = 2'000'000'000;
  [[noreturn]] void too_large(const KeywordSet& set, std::size_t members, std::size_t most) const {
    throw Failure(
        {Severity::error, "mesh.set-size",
         fmt::format("with '{}' the sets of the file hold {} members, again and again; {} million are the most",
                     plain_text(set.name, 40), members, most / 1'000'000),
         Place::in(path_), "leave out sets that are not needed, and name fewer sets within sets"});
  }

  /// Of generated numbers those that are there.
  void expand(KeywordSets& sets, std::vector<std::int64_t> there) {
    std::sort(there.begin(), there.end());
    for (auto& [key, set] : sets) {
      const auto once = [&ids = set.ids] {
        std::sort(ids.begin(), ids.end());
        ids.erase(std::unique(ids.begin(), ids.end()), ids.end());
      };
      for (const auto& [from, to, step] : set.runs) {
        const auto first = std::lower_bound(there.begin(), there.end(), from);
        const auto last = std::upper_bound(first, there.end(), to);
        for (auto id = first; id != last; ++id)
          if ((*id - from) % step == 0) set.ids.push_back(*id);
        // Runs may lie over each other.
        if (set.ids.size() > 4 * there.size() + 1'000'000) once();
        generated_ += static_cast<std::size_t>(last - first);
        if (generated_ > most_generated) too_large(set, generated_, most_generated);
      }
    }
  }

  void gather_sets() {
    expand(lists_.node_sets, {mesh_.node_ids.begin(), mesh_.node_ids.end()});
    std::vector<std::int64_t> elements(mesh_.element_ids.begin(), mesh_.element_ids.end());
    elements.insert(elements.end(), lists_.line_ids.begin(), lists_.line_ids.end());
    expand(lists_.element_sets, std::move(elements));
    first_node_.assign(1, 0);
    for (const Shape shape : mesh_.shapes) first_node_.push_back(first_node_.back() + node_count(shape));
    nodes_.emplace(mesh_.node_ids);
    elements_.emplace(mesh_.element_ids);
    lines_.emplace(lists_.line_ids);
    for (auto& [key, listed_set] : lists_.element_sets) {
      RawMesh::RawGroup faces{listed_set.name, 2, {}, {}, {}}, curve{listed_set.name, 1, {}, {}, {}};
      for (const std::int64_t id : gather(lists_.element_sets, listed_set)) {
        if (const std::uint32_t e = elements_->find(id); e != no_index) faces.elements.push_back(e);
        if (const std::uint32_t l = lines_->find(id); l != no_index) curve.edges.push_back(lists_.lines[l]);
      }
      if (!curve.edges.empty()) mesh_.groups.push_back(std::move(curve));
      if (!faces.elements.empty()) mesh_.groups.push_back(std::move(faces));
    }
    for (auto& [key, listed_set] : lists_.node_sets) {
      for (const std::string& name : listed_set.of_elements)
        if (const auto found = lists_.element_sets.find(name); found != lists_.element_sets.end())
          for (const std::int64_t id : gather(lists_.element_sets, found->second))
            if (const std::uint32_t e = elements_->find(id); e != no_index)
              for (std::size_t k = first_node_[e]; k < first_node_[e + 1]; ++k)
                listed_set.ids.push_back(mesh_.nodes[k]);
    }
    for (auto& [key, listed_set] : lists_.node_sets) {
      RawMesh::RawGroup group{listed_set.name, 0, {}, {}, {}};
      for (const std::int64_t id : gather(lists_.node_sets, listed_set))
        if (nodes_->find(id) != no_index) group.points.push_back(id);
      mesh_.groups.push_back(std::move(group));
    }
    if (!unknown_sets_.empty())
      findings_.warning("mesh.set-unknown",
                        fmt::format("sets name others that the file does not define: {}", listed(unknown_sets_)),
                        Place::in(path_), "define them, or take their names out");
  }

  /// Edge k of an element, from 1: corners and what is between them.
  std::array<std::int64_t, 3> edge_of(std::uint32_t e, std::size_t k) const {
    const std::size_t corners = corner_count(mesh_.shapes[e]), first = first_node_[e];
    return {mesh_.nodes[first + k - 1], mesh_.nodes[first + k % corners],
            is_quadratic(mesh_.shapes[e]) ? mesh_.nodes[first + corners + k - 1] : 0};
  }

  /// A face of a shell is the shell, or one of its edges (S3 to S6; of plane elements S1 to S4).
  void gather_surfaces() {
    for (const KeywordSurface& surface : lists_.surfaces) {
      RawMesh::RawGroup faces{surface.name, 2, {}, {}, {}}, edges{surface.name, 1, {}, {}, {}},
          points{surface.name, 0, {}, {}, {}};
      const auto add = [&](std::int64_t id, const std::string& face) {
        const std::uint32_t e = elements_->find(id);
        if (e == no_index) return;
        std::optional<std::size_t> number;
        if (face.size() == 2 && face[0] == 'S' && face[1] >= '1' && face[1] <= '6')
          number = static_cast<std::size_t>(face[1] - '0');
        if (number && !lists_.plane[e]) number = *number > 2 ? std::optional(*number - 2) : std::nullopt;
        if (!number)
          faces.elements.push_back(e);
        else if (*number <= corner_count(mesh_.shapes[e]))
          edges.edges.push_back(edge_of(e, *number));
      };
      for (const auto& [of, face] : surface.faces) {
        if (const auto id = integer_of(of)) {
          add(*id, face);
        } else if (const auto found = lists_.element_sets.find(of); found != lists_.element_sets.end()) {
          for (const std::int64_t own : found->second.ids) add(own, face);
        }
      }
      for (const std::string& of : surface.nodes) {
        if (const auto id = integer_of(of)) {
          points.points.push_back(*id);
        } else if (const auto found = lists_.node_sets.find(of); found != lists_.node_sets.end()) {
          points.points.insert(points.points.end(), found->second.ids.begin(), found->second.ids.end());
        }
      }
      std::erase_if(points.points, [&](std::int64_t id) { return nodes_->find(id) == no_index; });
      if (!faces.elements.empty()) mesh_.groups.push_back(std::move(faces));
      if (!edges.edges.empty()) mesh_.groups.push_back(std::move(edges));
      if (!points.points.empty()) mesh_.groups.push_back(std::move(points));
    }
  }

  KeywordLists lists_;
  RawMesh& mesh_;
  const std::string& path_;
  Findings& findings_;
  std::vector<std::string> unknown_sets_;
  std::size_t members_ = 0, generated_ = 0;
  std::vector<std::size_t> first_node_;
  std::optional<IdMap> nodes_, elements_, lines_;
};

}  // namespace

void gather_sets(KeywordLists lists, RawMesh& mesh, const std::string& path, Findings& findings) {
  Gatherer(lists, mesh, path, findings).gather();
}

}  // namespace bordado::mesh
