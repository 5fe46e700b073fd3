/// \file pattern.hpp
/// The flat cloth that lies on a part: outlines to cut, and how they fit on a roll.
#ifndef BORDADO_PATTERN_HPP
#define BORDADO_PATTERN_HPP

#include <bordado/drape.hpp>

namespace bordado::drape {

/// A place in the flat cloth, part length: along the warp from the seed, and square to it, to its left where the part's
/// normals point at the viewer.
using Flat = Eigen::Vector2d;

/// Cloth coordinates (along warp, along weft) as a place of the flat cloth, for the angle at rest between both.
Flat flat(double along_warp, double along_weft, Angle rest);

/// The place in the cloth of a point of the surface, looked for from the place of the element it lies on; nothing where
/// no cloth lies.
std::optional<Flat> in_cloth(const SmoothSurface& surface, const Drape& drape, mesh::ElementIndex element,
                             const Vec3& point);
/// The place on the part of a place of the cloth; nothing where no whole cell of the net is.
std::optional<Vec3> on_part(const SmoothSurface& surface, const Drape& drape, const Flat& place);

/// One piece of cloth.
struct Pattern {
  /// Closed lines, not repeating the first point: the outer one counter-clockwise first, then holes clockwise. Along a dart
  /// or a seam where the cloth meets itself the outline goes along both sides.
  std::vector<std::vector<Flat>> outlines;
  std::vector<std::vector<mesh::ElementIndex>> beside;  ///< per point the element that it comes from
  double area = 0.0;
  Flat low = Flat::Zero(), high = Flat::Zero();  ///< box round it
  bool has_seed = false;                         ///< (0, 0) lies in it
  std::vector<std::array<Flat, 2>> notches;  ///< where the yarns through the seed leave it: on the outline, and inwards
};

/// The cloth over some elements, of which only that part where a level, given at the nodes and straight along sides, is
/// not positive; all where no level is given. Pieces that do not hang together are patterns of their own, largest first.
/// \param elements ascending; those that the drape does not reach are left out.
std::vector<Pattern> patterns(const mesh::Surface& mesh, const SmoothSurface& surface, const Drape& drape,
                              std::span<const mesh::ElementIndex> elements, std::span<const double> level = {});

/// A pattern cut into lanes along the warp, none broader than a width and all alike, where it is broader; otherwise itself.
/// Where a lane falls into parts they stay joined by a line along the splice.
std::vector<Pattern> lanes(const Pattern& pattern, double width);

/// A pattern on a roll: turned by half a turn or not, then moved.
struct Placed {
  std::size_t pattern = 0;  ///< in what was given
  bool turned = false;
  Flat by = Flat::Zero();
  Flat at(const Flat& point) const { return (turned ? Flat(-point) : point) + by; }
};
/// How patterns lie on a roll: warp along it.
struct Nest {
  double width = 0.0;   ///< of the roll
  double length = 0.0;  ///< of it that is used
  double area = 0.0;    ///< of all patterns
  std::vector<Placed> placed;
  std::vector<std::size_t> too_wide;  ///< patterns that do not fit on the roll's width
  double waste() const { return length > 0.0 ? 1.0 - area / (width * length) : 0.0; }
};
/// Lays patterns on a roll one after the other, longest first, each as near to its beginning, then to its lower edge, as it
/// goes, as it is or turned by half a turn; on a raster of a four-hundredth of the width that outlines are widened to, with a
/// gap of one raster step at least. \param gap between pieces, part length.
Nest nest(std::span<const Pattern> patterns, double width, double gap = 0.0);

}  // namespace bordado::drape

#endif
