/// \file edge_shapes.hpp
/// Edges that are not just moved: mitred corners and scallops.
#ifndef BORDADO_LAYUP_EDGE_SHAPES_HPP
#define BORDADO_LAYUP_EDGE_SHAPES_HPP

#include <bordado/zone.hpp>

namespace bordado::layup {

/// The border of a zone as long lines, with the way into the zone at each of their pieces.
struct Outline {
  struct Line {
    mesh::Curve curve;
    std::vector<Vec3> inwards;  ///< per piece; roughly
  };
  std::vector<Line> lines;
};
Outline outline_of(const mesh::Surface& surface, const zone::Border& border);

/// Makes corners of an edge that is moved by a distance sharp: where two straight sides of the outline meet at 20° and
/// more, both are carried on. Corners sharper than 30° inside are left round.
/// \param level of the edge, at the nodes; changed.
void mitre(const mesh::Surface& surface, const zone::Border& border, const Outline& outline, double by,
           std::vector<double>& level);

/// Takes the edge to and fro along the outline. Each line of it has a whole number of pitches, as near to the one asked
/// for as that gets.
void scallop(const mesh::Surface& surface, const Outline& outline, const part::Scallop& scallop, double reach,
             std::vector<double>& level);

}  // namespace bordado::layup

#endif
