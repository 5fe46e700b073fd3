/// \file solid_shapes.hpp
/// Shape functions of quadratic bricks and wedges.
#ifndef BORDADO_SOLID_SHAPES_HPP
#define BORDADO_SOLID_SHAPES_HPP

#include <bordado/base/vector.hpp>

#include <cstdint>
#include <functional>
#include <span>
#include <vector>

namespace bordado::model {

struct SolidSize {
  double volume = 0.0;
  double least = 0.0;  ///< of the determinants of the map from the unit solid, at the solver's integration points
};

/// Of a brick of 20 nodes (8 points) or a wedge of 15 (9 points). \param nodes in the order of Solids::nodes.
SolidSize size_of_solid(std::span<const Vec3> points, std::span<const std::uint32_t> nodes);

/// The volume that each of the solver's integration points stands for, in its order. \param full of a brick 27 points
std::vector<double> volumes_of_points(std::span<const Vec3> points, std::span<const std::uint32_t> nodes,
                                      bool full = false);

/// What a force per volume comes to at the nodes of a solid, by its shape functions at the solver's points: calls
/// with(node, force) for each.
void add_body_forces(std::span<const Vec3> points, std::span<const std::uint32_t> nodes,
                     const std::function<Vec3(const Vec3& point)>& per_volume,
                     const std::function<void(std::uint32_t node, const Vec3& force)>& with);

}  // namespace bordado::model

#endif
