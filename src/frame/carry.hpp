// Directions carried from curves across a surface.
#pragma once

#include <bordado/mesh/curves.hpp>

namespace bordado::frame {

/// A direction on every element, and how far it is from being one: 0 where all that is carried there agrees, 1 where
/// it cancels out, or where nothing reaches.
struct Carried {
  std::vector<Vec3> directions;  ///< unit vectors in the elements' planes; zero where the doubt is above 0.95
  std::vector<double> doubt;
};

/// Along the curves the direction is their tangent. In between it changes as little as it can: of all fields of tangent
/// vectors that agree with the curves, the one whose changes (each vector moved to its neighbour along the surface
/// before they are compared) have the least sum of squares. So waves of a curve fade with the distance, nothing jumps
/// where the nearest point of the curve does, and several curves are blended.
/// Finite elements with a complex number for the vector at each node; after F. Knöppel, K. Crane, U. Pinkall and P.
/// Schröder, ACM Trans. Graphics 32 (2013) 59, with the curves as constraints. Solved by conjugate gradients,
/// preconditioned by smoothed aggregation (P. Vaněk, J. Mandel and M. Brezina, Computing 56 (1996) 179).
Carried carry(const mesh::Surface& surface, const mesh::Geometry& geometry, const std::vector<mesh::Curve>& curves);

}  // namespace bordado::frame
