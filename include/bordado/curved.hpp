/// \file curved.hpp
/// Curved panels and cylinders of one laminate under axial load, pressure and torsion: the classical loads, and what is usually
/// left of them in practice.
///
///      y round the cylinder, x along its axis; 0° of the laminate along x. z outwards, first laid inside.
///      Ends at x = 0 and at its length, and the straight sides of a panel, keep round or straight and turn freely; along themselves
///      sides do not move, across they do.
///
/// Theory: J. L. Sanders, Quarterly of Applied Mathematics 21 (1963) 21, with transverse shear; pressure follows the surface. Waves
/// m along and n round, one by one: exact where A16, A26, B16, B26, D16, D26 and H12 are nought; where they are not they are left
/// out, and `coupled` says how much of them there is. A ring that is long buckles at (n² - 1) D / R³.
#ifndef BORDADO_CURVED_HPP
#define BORDADO_CURVED_HPP

#include <bordado/laminate.hpp>

#include <optional>
#include <span>

namespace bordado::sizing {

using laminate::Matrix2;
using laminate::Matrix3;

struct CurvedPanel {
  laminate::Stiffness about_middle;  ///< A, B, D, H
  double length = 0.0;               ///< along the axis
  double radius = 0.0;               ///< of the laminate's middle
  double width = 0.0;                ///< of a panel, round its middle; nought: the whole cylinder
};
/// \throws std::invalid_argument as laminate::stiffness().
CurvedPanel curved_panel(std::span<const laminate::Layer> layers, double length, double radius, double width = 0.0);

struct CurvedLoad {
  double axial = 0.0;     ///< force per length of the rim, tension positive
  double pressure = 0.0;  ///< from outside on the wall; what of it pushes on closed ends is axial
};
struct CurvedBuckling {
  double factor = 0.0;
  int m = 0, n = 0;  ///< half waves along; waves round a cylinder, half waves across a panel
};
/// The classical factor: a perfect shape. \param as_a_bar whether a cylinder may bend as a whole, too (n = 1, Euler's). \returns nothing where these loads buckle nothing.
/// \throws std::invalid_argument where lengths or stiffness are not above nought, or loads no numbers.
std::optional<CurvedBuckling> curved_buckling(const CurvedPanel& panel, const CurvedLoad& load, bool as_a_bar = true);

/// Classical shear flow at which a whole cylinder buckles under torsion, positive; its waves run round it like a screw. Sums of
/// half waves along, all with the same waves round. \throws std::invalid_argument as above, and for a panel.
CurvedBuckling torsion_buckling(const CurvedPanel& cylinder);

/// How much of the classical load is left in practice, at the low side of what tests of cylinders gave. NASA SP-8007 (1968): axial
/// load 1 - 0.901 (1 - exp(-φ)), bending 1 - 0.731 (1 - exp(-φ)), φ = (R / t)^(1/2) / 16, t the thickness of a plain wall of the same
/// ratio of bending to stretching stiffness; outside pressure 0.75; torsion 0.67. For R / t up to 1500.
struct KnockDown {
  double axial = 1.0, bending = 1.0, pressure = 0.75, torsion = 0.67;
  double radius_to_thickness = 0.0;
  bool in_range = true;
};
KnockDown knock_down(const CurvedPanel& panel);

/// The largest share of what is left out: A16² / (A11 A66) and its like of A26, D16, D26.
double coupled(const CurvedPanel& panel);

}  // namespace bordado::sizing

#endif
