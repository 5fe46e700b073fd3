/// \file corner_weights.hpp
/// Places on elements whose values run straight between corners.
#ifndef BORDADO_MESH_CORNER_WEIGHTS_HPP
#define BORDADO_MESH_CORNER_WEIGHTS_HPP

#include <bordado/mesh/surface.hpp>

namespace bordado::mesh {

/// Weights of an element's corners at a point of it, by the triangle of two neighbouring corners and the middle of all
/// that holds the point (or comes nearest to that): what is straight in these triangles is exact. The fourth is nought
/// for a triangle.
std::array<double, 4> corner_weights(const Surface& surface, ElementIndex element, const Vec3& point);

/// The area of an element by its corners: of a flat one, or one that is nearly that.
double flat_area(const Surface& surface, ElementIndex element);

/// The smallest angle of a polygon's corners, degrees.
double least_angle(const std::vector<Vec3>& points, std::span<const NodeIndex> corners);

}  // namespace bordado::mesh

#endif
