#include "pieces.hpp"

#include <bordado/mesh/weld.hpp>

#include <algorithm>

namespace bordado::review {

namespace {

/// Elements that hang together and have the same plies, as one patch: there are few of them, and what hangs together in
/// a region is told from them alone.
struct Patches {
  std::vector<mesh::ElementIndex> first;                 ///< an element of each
  std::vector<std::array<std::uint32_t, 2>> neighbours;  ///< patches that share an edge, each pair once
};

Patches patches(const std::vector<layup::StackId>& stacks, const mesh::EdgeTable& edges) {
  const std::size_t count = stacks.size();
  const auto each_pair = [&](const auto& body) {
    for (std::size_t j = 0; j < edges.size(); ++j)
      for (std::uint32_t a = edges.first[j]; a < edges.first[j + 1]; ++a)
        for (std::uint32_t b = a + 1; b < edges.first[j + 1]; ++b) body(edges.uses[a].element, edges.uses[b].element);
  };
  mesh::Sets sets(count);
  std::vector<std::array<mesh::ElementIndex, 2>> borders;
  each_pair([&](mesh::ElementIndex a, mesh::ElementIndex b) {
    if (stacks[a] == stacks[b])
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

List<layup::RegionId, std::size_t> pieces_of_regions(const Design& design, const mesh::EdgeTable& edges) {
  const layup::Layup& layup = design.layup;
  const Patches all = patches(layup.stack_of, edges);
  List<layup::RegionId, std::size_t> out(layup.regions.size(), 0);
  for (const layup::RegionId r : layup.regions.ids()) {
    List<layup::StackId, std::uint8_t> holds(layup.stack_count(), 0);
    for (const layup::StackId s : layup.stacks())
      for (const part::PlyId p : layup.plies_of(s)) holds[s] |= layup.plies[p].region == r;
    const auto inside = [&](std::uint32_t patch) { return holds[layup.stack_of[all.first[patch]]] != 0; };
    mesh::Sets sets(all.first.size());
    for (std::uint32_t patch = 0; patch < all.first.size(); ++patch) out[r] += inside(patch);
    for (const auto& [a, b] : all.neighbours)
      if (inside(a) && inside(b) && sets.root(a) != sets.root(b)) {
        sets.join(a, b);
        --out[r];
      }
  }
  return out;
}

List<layup::RegionId, std::size_t> pieces_of_regions(const Design& design) {
  return pieces_of_regions(design, mesh::edges(design.surface));
}

}  // namespace bordado::review
