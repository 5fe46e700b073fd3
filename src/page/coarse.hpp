// A surface with fewer elements to draw.
#pragma once

#include <bordado/mesh/surface.hpp>

namespace bordado::page {

/// Elements to draw, with straight sides: corners of quadratic elements only.
struct Drawn {
  std::vector<Vec3> points;
  std::vector<std::array<mesh::NodeIndex, 4>> corners;  ///< per drawn element; the last of a triangle is mesh::no_index
  std::vector<mesh::ElementIndex> elements;             ///< per drawn element: which one of the surface; ascending
  double cell = 0.0;  ///< side of the cubes whose nodes are drawn as one; 0 where all is drawn as it is
};

/// All elements where there are at most `most`; otherwise nodes that lie in one cube of a regular grid are drawn as
/// one, at their mean, and elements that lose their area, or lie on another one, are left out. J. Rossignac and
/// P. Borrel, Multi-resolution 3D approximations for rendering complex scenes, in: Modeling in Computer Graphics
/// (1993) 455. The cubes are the smallest, by steps of a tenth, that leave no more than `most`.
Drawn drawn(const mesh::Surface& surface, const mesh::Geometry& geometry, std::size_t most);

}  // namespace bordado::page
