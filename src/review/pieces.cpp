#include "pieces.hpp"

#include "../mesh/weld.hpp"

#include <algorithm>

namespace bordado::review {

namespace {

/// Elements that hang together and lie in the same zones, as one patch: there are few of them, and what hangs together
/// in a zone is told from them alone.
struct Patches {
  std::vector<mesh::ElementIndex> first;                 ///< an element of each
  std::vector<std::array<std::uint32_t, 2>> neighbours;  ///< patches that share an edge, each pair once
};

Patches patches(const zone::ZoneSets& zones, const mesh::EdgeTable& edges) {
  const std::size_t count = zones.words[0].size();
  const auto alike = [&](mesh::ElementIndex a, mesh::ElementIndex b) {
    return std::all_of(zones.words.begin(), zones.words.end(), [&](const auto& word) { return word[a] == word[b]; });
  };
  const auto each_pair = [&](const auto& body) {
    for (std::size_t j = 0; j < edges.size(); ++j)
      for (std::uint32_t a = edges.first[j]; a < edges.first[j + 1]; ++a)
        for (std::uint32_t b = a + 1; b < edges.first[j + 1]; ++b) body(edges.uses[a].element, edges.uses[b].element);
  };
  mesh::Sets sets(count);
  std::vector<std::array<mesh::ElementIndex, 2>> borders;
  each_pair([&](mesh::ElementIndex a, mesh::ElementIndex b) {
    if (alike(a, b))
      sets.join(a, b);
    else
      borders.push_back({a, b});
  });
  Patches out;
  std::vector<std::uint32_t> number(count);
  for (mesh::ElementIndex e = 0; e < count; ++e) {
    const std::uint32_t root = sets.root(e);  // the smallest of its set
    if (root == e) {
      number[e] = static_cast<std::uint32_t>(out.first.size());
      out.first.push_back(e);
    } else {
      number[e] = number[root];
    }
  }
  for (const auto& [a, b] : borders)
    out.neighbours.push_back({std::min(number[a], number[b]), std::max(number[a], number[b])});
  std::sort(out.neighbours.begin(), out.neighbours.end());
  out.neighbours.erase(std::unique(out.neighbours.begin(), out.neighbours.end()), out.neighbours.end());
  return out;
}

}  // namespace

List<zone::ZoneId, std::size_t> pieces_of_zones(const Design& design, const mesh::EdgeTable& edges) {
  const zone::ZoneSets& zones = design.layup.zones;
  const Patches all = patches(zones, edges);
  List<zone::ZoneId, std::uint8_t> used(zones.names.size(), 0);
  for (const layup::Ply& ply : design.layup.plies) used[ply.zone] = 1;
  List<zone::ZoneId, std::size_t> out(zones.names.size(), 0);
  for (const zone::ZoneId z : zones.names.ids()) {
    if (!used[z]) continue;
    mesh::Sets sets(all.first.size());
    for (const mesh::ElementIndex e : all.first) out[z] += zones.contains(z, e);
    for (const auto& [a, b] : all.neighbours)
      if (zones.contains(z, all.first[a]) && zones.contains(z, all.first[b]) && sets.root(a) != sets.root(b)) {
        sets.join(a, b);
        --out[z];
      }
  }
  return out;
}

List<zone::ZoneId, std::size_t> pieces_of_zones(const Design& design) {
  return pieces_of_zones(design, mesh::edges(design.surface));
}

}  // namespace bordado::review
