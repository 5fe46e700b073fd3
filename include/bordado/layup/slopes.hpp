/// \file slopes.hpp
/// How steeply what lies on the elements runs out or grows.
#ifndef BORDADO_LAYUP_SLOPES_HPP
#define BORDADO_LAYUP_SLOPES_HPP

#include <bordado/layup.hpp>

#include <span>
#include <unordered_map>
#include <vector>

namespace bordado::layup {

/// The steepest rise of a ply between elements that share a side, by the distance of their centres, and where.
struct Rise {
  double slope = 0.0;
  mesh::ElementIndex element = 0;
};
/// \param edges of the surface
Rise steepest_rise(const Laid& laid, const mesh::EdgeTable& edges, PlyId ply);

/// Of elements that edges of plies cross: the unit direction, in the element's plane, in which the laminate's thickness
/// changes most from its neighbours to it. Nothing of those where it does not change.
std::unordered_map<mesh::ElementIndex, Vec3> across_edges(const Laid& laid);

/// How the thickness of each layer of an element changes along the axes of its section.
using LayerSlopes = std::unordered_map<mesh::ElementIndex, std::vector<Eigen::Vector2d>>;
/// Of elements on which a layer runs out, or grows, by more than 1 in 500, that no edge crosses: by least squares over the
/// neighbours that have it.
LayerSlopes layer_slopes(const Laid& laid, std::span<const Vec3> references);

}  // namespace bordado::layup

#endif
