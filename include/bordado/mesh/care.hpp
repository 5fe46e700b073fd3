/// \file care.hpp
/// Sides that agree, what an engineer looks for in a mesh, repairs, cutting along lines.
#ifndef BORDADO_MESH_CARE_HPP
#define BORDADO_MESH_CARE_HPP

#include <bordado/base/units.hpp>
#include <bordado/mesh/orientation.hpp>
#include <bordado/mesh/side.hpp>
#include <bordado/mesh/surface.hpp>

#include <array>
#include <cstddef>
#include <optional>
#include <vector>

namespace bordado::mesh {

/// Turns elements round until neighbours agree, walking across shared edges, then turns whole pieces to `side`.
/// Junctions are not walked across. Findings: "mesh.pieces", "mesh.junction", "mesh.not-orientable",
/// "mesh.side-unclear".
OrientReport orient(Surface& surface, const Side& side, Findings& findings);

/// Overall numbers for a report.
struct Size {
  Vec3 low, high;  ///< bounding box
  std::size_t nodes, triangles, quadrilaterals, quadratic;
  double shortest_edge, mean_edge, longest_edge;
  double area;
};

Size size(const Surface& surface, const Geometry& geometry);

/// As above, where edges() of the surface are at hand.
Size size(const Surface& surface, const Geometry& geometry, const EdgeTable& edges);

/// What an engineer looks for in a surface before any ply.
struct InspectOptions {
  double coincidence = 1e-4;          ///< nodes nearer than this part of the mean edge are coincident; (0, 0.1]
  Angle warp = Angle::degrees(15.0);  ///< quadrilaterals folded along a diagonal by more are warped
};

/// Connected free edges: an outer border or an opening.
struct Rim {
  std::vector<NodeIndex> nodes;  ///< corner nodes, ascending
  double length = 0.0;
  bool closed = true;  ///< every node has two free edges
};

struct Inspection {
  std::vector<Rim> rims;                                   ///< longest first
  std::size_t free_edges = 0;                              ///< sides of one element only
  std::size_t disagreeing_edges = 0;                       ///< two neighbours have opposite sides
  std::vector<ElementIndex> junction;                      ///< at an edge of three or more elements, ascending
  std::vector<std::array<NodeIndex, 2>> coincident_nodes;  ///< pairs, smaller index first
  std::vector<std::array<ElementIndex, 2>> twin_elements;  ///< pairs with the same corners
  std::vector<ElementIndex> flat;     ///< no area to speak of: less than 1e-9 of the mean edge squared
  std::vector<ElementIndex> folded;   ///< quadrilaterals whose halves face away from each other
  std::vector<ElementIndex> tangled;  ///< quadratic ones that a middle node turns inside out somewhere, not folded
  std::vector<ElementIndex> warped;   ///< beyond the limit, not folded
  Angle largest_warp;                 ///< of those not folded
};

Inspection inspect(const Surface& surface, const Geometry& geometry, const InspectOptions& options = {});

/// As above, where edges() of the surface are at hand.
Inspection inspect(const Surface& surface, const Geometry& geometry, const EdgeTable& edges,
                   const InspectOptions& options = {});

/// Quadratic elements that are turned inside out somewhere, ascending: a middle node lies beyond the corners, say.
/// Their areas mean nothing, and solvers stop at them.
std::vector<ElementIndex> tangled(const Surface& surface, const Geometry& geometry);

/// What to look at in an inspected surface, as warnings: "mesh.sides-disagree", "mesh.junction", "mesh.flat",
/// "mesh.folded", "mesh.tangled", "mesh.warped", "mesh.coincident", "mesh.twins", "mesh.border-touches".
std::vector<Finding> doubts(const Surface& surface, const Inspection& inspection, const InspectOptions& options = {});

/// What a repair does beside what it always does.
struct RepairOptions {
  double scale = 1.0;                          ///< coordinates are multiplied by it first
  std::optional<double> merge = std::nullopt;  ///< nodes no further apart are one; 1e-4 of the mean edge if not given
};

/// The surface without coincident nodes, elements without area, elements with the same corners, quadrilaterals whose
/// sides cross, and neighbours of opposite sides. Ids and groups stay as far as their elements do.
/// Every repair is a note in `findings` with the ids: "repair.scaled", "repair.merged", "repair.collapsed",
/// "repair.flat", "repair.twins", "repair.unfolded", "repair.turned"; what cannot be repaired is a warning as orient()
/// tells it.
Surface repaired(Surface surface, const RepairOptions& options, Findings& findings);

/// How elements are cut.
struct CutOptions {
  /// Nodes nearer to a line than this part of the sides at them slide onto it along one of these; (0, 0.4].
  double slide = 0.25;
};

/// What came of it.
struct CutReport {
  std::size_t lines = 0;      ///< levels that pass through nought somewhere
  std::size_t slid = 0;       ///< nodes that were moved onto a line
  std::size_t split = 0;      ///< elements that were parted
  double least_angle = 0.0;   ///< of all corners of all elements, degrees, after
  double least_before = 0.0;  ///< the same before
};

/// The surface cut along lines: each level, given at the nodes and straight along sides, passes through nought only
/// along sides of the new elements. Groups and what lies on them stay: nodes of borders, group edges and creases slide
/// along these only. Parts of an element follow each other in its place and keep its id or take a new one behind the
/// largest; quadratic surfaces stay quadratic, their new middle nodes on the old surface.
Surface cut(const Surface& surface, const Geometry& geometry, std::vector<std::vector<double>> levels,
            const CutOptions& options, CutReport& report);

}  // namespace bordado::mesh

#endif
