// How much of an element a shape covers.
#pragma once

#include <bordado/mesh/surface.hpp>
#include <bordado/part.hpp>

namespace bordado::zone {

/// A place on an element: its position, and the weights of the element's corners there.
struct OnElement {
  mesh::ElementIndex element;
  Vec3 point;
  std::array<double, 4> corners;
};

/// Between two places of an element: a at 0, b at 1.
OnElement mixed(const OnElement& a, const OnElement& b, double s);
/// The middle of an element's corners.
OnElement middle_of(const mesh::Surface& surface, mesh::ElementIndex element);
/// A place of an element with its weights; see mesh::corner_weights().
OnElement place_on(const mesh::Surface& surface, mesh::ElementIndex element, const Vec3& point);

/// Negative inside a shape, positive outside, and never changing faster than the distance one moves: so a ball round a
/// place where it is larger than the radius lies outside altogether.
using Level = std::function<double(const OnElement&)>;

Level level_of(const part::Box& box);
Level level_of(const part::Ball& ball);
Level level_of(const part::Cylinder& cylinder);
Level level_of(const part::HalfSpace& half_space);
/// \param outline corners of the polygon in space; they are seen along `along`.
Level level_of(const part::Polygon& polygon, const std::vector<Vec3>& outline);
/// A piece of a line on the surface, or a point: a piece without length. Those of one line follow each other.
using LineSegment = std::array<Vec3, 2>;
/// Distances at the nodes, less `within`, straight in between. Round what they are measured from, where that is single points
/// and lines, the distance is a cone or a roof, which straight lines between nodes miss: there the straight way to the
/// nearest of these is taken, and what the way along the surface is longer, straight between the nodes.
Level level_of(const mesh::Surface& surface, std::vector<double> distances, double within,
               std::vector<LineSegment> sources = {});

/// The part of an element's area where the level is not positive, 0 to 1: exact where the level is linear over the
/// element, otherwise to 1e-4 of the element's area. Elements are taken as triangles, quadrilaterals as four round
/// their middle.
double covered_part(const mesh::Surface& surface, mesh::ElementIndex element, const Level& level);

/// Where an element is, and how far it reaches: what tells of most elements whether a shape covers them.
struct Extent {
  Vec3 middle;   ///< mean of the corners
  double reach;  ///< of the corners from it
  double slack;  ///< what lies on the border of a shape is inside, rounding or not
};
/// Of all elements, in parallel.
std::vector<Extent> extents(const mesh::Surface& surface);
/// Elements that follow each other: a ball round all of them.
struct ElementRun {
  Vec3 middle;
  double reach;  ///< of all their corners from it
  double slack;  ///< the largest of theirs
  double area;
};
inline constexpr std::size_t elements_of_a_run = 64;
/// Of all elements, in parallel.
std::vector<ElementRun> runs(std::span<const Extent> extents, std::span<const double> areas);
/// Whether a level that asks for nothing but the place says of all elements of a run that they lie inside (true) or
/// outside (false); nothing where each has to be asked.
std::optional<bool> decided(const ElementRun& run, const Level& level);

/// As above, with the element's extent at hand.
double covered_part(const mesh::Surface& surface, mesh::ElementIndex element, const Extent& extent, const Level& level);

}  // namespace bordado::zone
