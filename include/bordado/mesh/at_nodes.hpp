/// \file at_nodes.hpp
/// What elements bring to their nodes, those in the middle of sides as well.
#ifndef BORDADO_MESH_AT_NODES_HPP
#define BORDADO_MESH_AT_NODES_HPP

#include <bordado/mesh/surface.hpp>

#include <span>
#include <vector>

namespace bordado::mesh {

/// Where nodes are named: node n at uses[first[n]] .. uses[first[n + 1] - 1], ascending by element.
struct NodeUses {
  struct Use {
    ElementIndex element = no_index;
    std::uint32_t at = 0;  ///< in Surface::nodes
  };
  std::vector<std::uint32_t> first;
  std::vector<Use> uses;
  std::span<const Use> of(NodeIndex node) const { return {uses.data() + first[node], uses.data() + first[node + 1]}; }
};

NodeUses uses_of_nodes(const Surface& surface);

/// Of every node the sum of what its elements have, each times its area, in the order of elements. Nought where no element
/// is. \param of_elements a vector for each element
std::vector<Vec3> area_sums_at_nodes(const Surface& surface, const Geometry& geometry,
                                     std::span<const Vec3> of_elements);

}  // namespace bordado::mesh

#endif
