// Where sections do not tell the stress of plies.
#pragma once

#include <bordado/layup.hpp>

#include <unordered_map>
#include <vector>

namespace bordado::result {

/// Per element: whether its centre lies nearer to a step of thickness between two elements than stresses hold to 5 %.
/// Measured with solids, one a ply: on the thick side one thickness where few of many plies end (a step below 6 %), two
/// up to a fifth, three for a block; on the thin side one. Empty where there is no step of 2 %.
std::vector<std::uint8_t> beside_steps(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                       const part::Part& part, const layup::Layup& layup);

/// Of elements that edges of plies cross: the unit direction, in the element's plane, in which the laminate's thickness
/// changes most from its neighbours to it. Nothing of those where it does not change.
std::unordered_map<mesh::ElementIndex, Vec3> across_edges(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                                          const part::Part& part, const layup::Layup& layup);

/// How the thickness of each layer of an element changes along the axes of its section.
using LayerSlopes = std::unordered_map<mesh::ElementIndex, std::vector<Eigen::Vector2d>>;
/// Of elements on which a layer runs out, or grows, by more than 1 in 500, that no edge crosses: by least squares over the
/// neighbours that have it.
LayerSlopes layer_slopes(const mesh::Surface& surface, const mesh::Geometry& geometry, const part::Part& part,
                         const layup::Layup& layup, std::span<const Vec3> references);

}  // namespace bordado::result
