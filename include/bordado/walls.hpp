/// \file walls.hpp
/// Sections of thin walls, each a laminate of its own: C, I, Z, hat, angle, T, box, tube, or any list of straight walls.
///
///      z ^      2      3          x comes out of the paper: the beam's axis, and 0° of every wall's laminate.
///        |      +------+          A wall runs from one point to another along s; its laminate lies with its middle on
///        |      |                 that line, first laid below: n = x × s, to the left of s.
///        |      | wall            Walls hang together where their ends lie at the same place.
///        |      +------+
///        +-----------------> y    1 -> 2 upwards: n points to -y
///
/// Theory: walls are free to contract across (no stress along s), and carry force and moment along the beam and shear flow; the
/// section keeps its shape, and warps out of its plane (V. Z. Vlasov, Thin-Walled Elastic Beams (1961); laminated walls: L. P.
/// Kollár and G. S. Springer, Mechanics of Composite Structures (2003), chapter 6). Coupling of stretching and shear of a wall
/// (a16, and d16) is left out; `unbalanced` says how much of it there is.
#ifndef BORDADO_WALLS_HPP
#define BORDADO_WALLS_HPP

#include <bordado/strength.hpp>

#include <span>
#include <string>
#include <vector>

namespace bordado::sizing {

using laminate::Matrix2;
using laminate::Matrix3;
using laminate::Vector2;
using laminate::Vector3;

/// A straight wall of one laminate.
struct Wall {
  Vector2 from = Vector2::Zero(), to = Vector2::Zero();  ///< y, z of its laminate's middle
  std::vector<laminate::Layer> layers;                   ///< first laid on the right of s
  std::string name;                                      ///< for tables
  std::vector<const material::Material*> materials;      ///< of each layer, where its strength is asked for; else empty
  double length() const { return (to - from).norm(); }
  Vector2 along() const { return (to - from).normalized(); }
  Vector2 normal() const { return {-along()[1], along()[0]}; }
};

/// Stiffness of a section: about its centroid and shear centre, per the strains that it is made of.
struct SectionStiffness {
  double EA = 0.0;                     ///< force
  Vector2 centroid = Vector2::Zero();  ///< y, z, weighted by stiffness
  Matrix2 EI = Matrix2::Zero();  ///< about the centroid: [Iyy Iyz; Iyz Izz] of E y², E y z, E z²: bending in y, in z
  double strong = 0.0, weak = 0.0;         ///< the same about principal axes
  double turned = 0.0;                     ///< radians from y to the direction that it bends most stiffly in
  double GJ = 0.0;                         ///< torque per twist rate, walls' own twisting and closed cells
  Vector2 shear_centre = Vector2::Zero();  ///< y, z
  double EGamma = 0.0;                     ///< warping about the shear centre: force times length to the fourth
  /// Shear strains by shear forces in y and z at the shear centre and by the rate of the bimoment (E. Reissner's kind of shear
  /// flexibility of all three): symmetric, 1 / force, and with lengths for the third.
  Matrix3 shear_compliance = Matrix3::Zero();
  double polar = 0.0;  ///< square of the radius of gyration about the shear centre, by stiffness
  double mass = 0.0;   ///< per length
  Vector2 mass_centre = Vector2::Zero();
  double mass_polar = 0.0;  ///< mass times squared distance from the shear centre, per length
  double unbalanced = 0.0;  ///< the largest a16² / (a11 a66) of its walls: what is left out of them
  bool closed = false;      ///< has a cell
  // Of every wall:
  std::vector<std::array<double, 2>> warping;  ///< about the shear centre, at both ends
  std::vector<double> twist_shear;             ///< shear strain per twist rate; nought but in closed cells
  /// Shear flow along s per force in y, and in z, at the shear centre: at the beginning, in the middle, at the end; quadratic.
  std::vector<std::array<std::array<double, 3>, 2>> flow;
};
/// \throws std::invalid_argument where walls have no length, do not hang together, or lie in one point.
SectionStiffness section_stiffness(std::span<const Wall> walls);

/// Stiffness of a wall's width along the beam: force and moment by strain and curvature; shear flow and twisting moment by shear
/// and twist; nothing across.
struct WallStiffness {
  Matrix2 along = Matrix2::Zero();    ///< Nx, Mx by ex, kx
  Matrix2 sheared = Matrix2::Zero();  ///< q, Mxs by gxs, kxs
};
WallStiffness wall_stiffness(std::span<const laminate::Layer> layers);

// --- shapes
// -------------------------------------------------------------------------------------------------------

enum class Shape : std::uint8_t { angle, T, C, Z, I, hat, box, tube };
inline constexpr std::size_t shape_count = 8;
std::string_view name_of(Shape shape);
/// What its lengths are: "web, flange", ...
std::string_view lengths_of(Shape shape);
std::size_t length_count(Shape shape);
/// Walls of a shape; lengths are those of the walls' middles. \param web of the upright walls (of a tube: of all), \param flange
/// of the others; their z0 counts for nothing. Normals point outwards of box and tube. \throws std::invalid_argument for lengths of another count, or not above nought.
std::vector<Wall> walls_of(Shape shape, std::span<const double> lengths, const laminate::Stack& web,
                           const laminate::Stack& flange);

}  // namespace bordado::sizing

#endif
