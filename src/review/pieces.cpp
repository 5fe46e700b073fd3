#include "pieces.hpp"

namespace bordado::review {

Pieces::Pieces(const mesh::Surface& surface) : element_count_(surface.element_count()) {
  const mesh::EdgeTable edges = mesh::edges(surface);
  std::vector<std::uint32_t> counts(element_count_ + 1, 0);
  const auto each_pair = [&](const auto& body) {
    for (std::size_t j = 0; j < edges.size(); ++j)
      for (std::uint32_t a = edges.first[j]; a < edges.first[j + 1]; ++a)
        for (std::uint32_t b = edges.first[j]; b < edges.first[j + 1]; ++b)
          if (a != b) body(edges.uses[a].element, edges.uses[b].element);
  };
  each_pair([&](mesh::ElementIndex a, mesh::ElementIndex) { ++counts[a + 1]; });
  for (std::size_t e = 0; e < element_count_; ++e) counts[e + 1] += counts[e];
  first_ = counts;
  neighbours_.resize(first_.back());
  each_pair([&](mesh::ElementIndex a, mesh::ElementIndex b) { neighbours_[counts[a]++] = b; });
}

std::size_t Pieces::count(std::span<const mesh::ElementIndex> elements) const {
  std::vector<std::uint8_t> open(element_count_, 0);
  for (const mesh::ElementIndex e : elements) open[e] = 1;
  std::size_t pieces = 0;
  std::vector<mesh::ElementIndex> todo;
  for (const mesh::ElementIndex start : elements) {
    if (!open[start]) continue;
    ++pieces;
    open[start] = 0;
    todo.push_back(start);
    while (!todo.empty()) {
      const mesh::ElementIndex e = todo.back();
      todo.pop_back();
      for (std::uint32_t k = first_[e]; k < first_[e + 1]; ++k)
        if (open[neighbours_[k]]) {
          open[neighbours_[k]] = 0;
          todo.push_back(neighbours_[k]);
        }
    }
  }
  return pieces;
}

std::vector<std::size_t> pieces_of_zones(const Design& design) {
  const Pieces pieces(design.surface);
  const zone::ZoneSets& zones = design.layup.zones;
  std::vector<std::uint8_t> used(zones.names.size(), 0);
  for (const layup::Ply& ply : design.layup.plies) used[ply.zone] = 1;
  std::vector<std::size_t> out(zones.names.size(), 0);
  parallel_blocks(
      out.size(),
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t z = begin; z < end; ++z)
          if (used[z]) out[z] = pieces.count(zones.elements(static_cast<zone::ZoneId>(z)));
      },
      1);
  return out;
}

}  // namespace bordado::review
