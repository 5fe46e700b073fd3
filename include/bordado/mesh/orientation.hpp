/// \file orientation.hpp
/// What making sides agree came to.
#ifndef BORDADO_MESH_ORIENTATION_HPP
#define BORDADO_MESH_ORIENTATION_HPP

#include <bordado/mesh/surface.hpp>

#include <vector>

namespace bordado::mesh {

/// What was found and done while the sides were made to agree.
struct OrientReport {
  std::size_t pieces = 0;                 ///< connected across edges shared by exactly two elements
  std::size_t flipped = 0;                ///< elements whose node order was turned round
  std::vector<ElementIndex> junction;     ///< elements at an edge that three or more share
  std::vector<ElementIndex> conflicting;  ///< elements whose sides cannot agree (a Möbius strip)
  double agreement = 1.0;                 ///< smallest |sum of area n·side| / sum of area |n·side| of any piece
};

}  // namespace bordado::mesh

#endif
