// Elements that share laminate axes, for solvers that read directions by name.
#pragma once

#include <bordado/calculix/boxes.hpp>

namespace bordado::calculix {

/// Elements that share a use of a section and a pair of axes: one section card.
struct ElementGroup {
  std::uint32_t use;  ///< in deck::Uses::all
  std::uint32_t axes;
  std::vector<mesh::ElementIndex> elements;
};

/// Reference axes shared by elements, with the fibre directions wanted in them.
struct Axes {
  Vec3 r, n;
};

struct Grouping {
  std::vector<Axes> axes;
  std::vector<ElementGroup> groups;
  double largest_error = 0.0;  ///< radians
};

/// Shares axes among elements whose r and t fall into one cell of a grid with the tolerance as its diagonal; the first
/// element's axes stand for the cell. \param use_of per element.
Grouping group(const Model& model, Angle tolerance, std::span<const std::uint32_t> use_of);

}  // namespace bordado::calculix
