/// \file curves.hpp
/// Curves on the surface, and distance along it.
#ifndef BORDADO_MESH_CURVES_HPP
#define BORDADO_MESH_CURVES_HPP

#include <bordado/base/units.hpp>
#include <bordado/mesh/surface.hpp>

#include <array>
#include <limits>
#include <optional>
#include <span>
#include <vector>

namespace bordado::mesh {

/// A curve on or near the surface: straight lines from point to point; a closed one ends where it begins, and its first
/// point is not repeated.
struct Curve {
  std::vector<Vec3> points;
  std::vector<NodeIndex> nodes;  ///< one per point where it runs along edges of the mesh; otherwise empty
  bool closed = false;
};

double length(const Curve& curve);

/// Pairs of corner nodes, smaller index first, ascending: sides of one element only; edges where the surface turns by
/// at least an angle (seen from whichever side); edges between points of a group.
using NodePairs = std::vector<std::array<NodeIndex, 2>>;

NodePairs free_edges(const Surface& surface);

NodePairs creases(const Surface& surface, const Geometry& geometry, Angle turn);

NodePairs edges_among(const Surface& surface, std::span<const NodeIndex> nodes);

/// Edges put together to curves, as far as they go without a fork; longest first. A curve begins at the end that comes
/// first by x, then y, then z, whatever the numbers of the nodes.
std::vector<Curve> curves_of(const Surface& surface, const NodePairs& edges);

/// The shortest way along the given edges from the node of them nearest to one point to the one nearest to another, by
/// way of a third where it is given; nothing where they do not hang together.
std::optional<Curve> way_along(const Surface& surface, const NodePairs& edges, const Vec3& from, const Vec3& to,
                               const std::optional<Vec3>& through = {});

/// The lines where a level, given at the nodes and straight in between (quadrilaterals as four triangles round their
/// middle), passes through nought; put together as far as they go, longest first. Not a number: no line there.
std::vector<Curve> level_lines(const Surface& surface, std::span<const double> level);

/// What distance is measured from.
struct Sources {
  std::vector<NodeIndex> nodes = {};
  std::vector<Curve> curves = {};  ///< along edges of the mesh, or anywhere on the surface
  std::vector<Vec3> points = {};   ///< anywhere on the surface
};

/// Distance along the surface from the nearest source to every corner node; infinite where it cannot be reached or is
/// beyond `limit`; for middle nodes of quadratic elements between those of the corners. The straight lines of wave
/// fronts through each element are followed as on the plane; between nodes the square of the distance is a cubic, so a
/// flat part is exact for points and straight lines as sources, and a curved one is as good as its elements.
/// After R. Kimmel and J. A. Sethian, Proc. Nat. Acad. Sci. 95 (1998) 8431, with the interpolation as said.
std::vector<double> distances(const Surface& surface, const Sources& sources,
                              double limit = std::numeric_limits<double>::infinity());

}  // namespace bordado::mesh

#endif
