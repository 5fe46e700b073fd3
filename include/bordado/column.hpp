/// \file column.hpp
/// A straight bar of a thin-walled section: how it buckles as a whole (bent, twisted, or both together), bends and vibrates.
///
/// Theory: deflections v (in y) and w (in z) of the shear centre and the twist; cross-sections turn and warp by themselves (S. P.
/// Timoshenko's kind of shear for both bendings and for warping: Kollár and Springer, Mechanics of Composite Structures (2003),
/// chapter 6), the section keeps its shape. An axial force acts along the line of centroids, all over the section by its
/// stiffness (V. Z. Vlasov). Closed forms of parts of it are Euler's, Engesser's, Timoshenko's.
///
/// Method: Ritz, with integrated Legendre polynomials along the bar; factors and frequencies come down to the exact ones.
#ifndef BORDADO_COLUMN_HPP
#define BORDADO_COLUMN_HPP

#include <bordado/panel.hpp>
#include <bordado/walls.hpp>

namespace bordado::sizing {

/// How an end is held. Pinned: it neither moves across nor twists, but turns and warps freely (a fork). Fixed: nothing moves.
/// Along the bar the ends are free to come together.
enum class End : std::uint8_t { free, pinned, fixed };

struct Bar {
  SectionStiffness section;
  double length = 0.0;
  End begin = End::pinned, end = End::pinned;
};

/// What moves, as shares of a mode's energy of bending in y, in z, and of twisting; they sum up to one.
struct Modes {
  double bends_y = 0.0, bends_z = 0.0, twists = 0.0;
};
struct ColumnBuckling {
  Settled force;  ///< compression, positive
  Modes shares;
};
/// The lowest, in rising order. \param count of forces.
/// \throws std::invalid_argument where the length is not above nought, the section has no stiffness, or the ends do not hold it.
std::vector<ColumnBuckling> column_buckling(const Bar& bar, std::size_t count = 3, std::size_t terms = 14);

struct BarFrequency {
  Settled frequency;
  Modes shares;
};
/// \param compression that acts meanwhile; negative: tension. \throws std::invalid_argument as above, and where it buckles it.
std::vector<BarFrequency> bar_frequencies(const Bar& bar, std::size_t count, double compression = 0.0,
                                          std::size_t terms = 14);

/// A place along a bent bar.
struct BarPlace {
  double x = 0.0;
  Vector2 deflection = Vector2::Zero();  ///< of the shear centre, y and z
  double twist = 0.0;                    ///< radians
  Vector2 curvature = Vector2::Zero();   ///< strain along the bar per y and per z from the centroid
  double warping = 0.0;                  ///< rate of warping: strain along the bar per warping about the shear centre
  Vector2 shear = Vector2::Zero();       ///< forces in y and z
  double torque = 0.0;                   ///< of walls' own twisting and cells
};
struct BentBar {
  Settled largest;  ///< of deflections
  double x = 0.0;
  std::vector<BarPlace> places;
};
/// Under an even line load in y and z that acts at `through` of the section. \throws std::invalid_argument as above.
BentBar bent_bar(const Bar& bar, const Vector2& line_load, const Vector2& through, double compression = 0.0,
                 std::size_t terms = 14, std::size_t rows = 41);

}  // namespace bordado::sizing

#endif
