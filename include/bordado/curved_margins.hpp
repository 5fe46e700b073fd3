/// \file curved_margins.hpp
/// All that can happen to a curved panel or a cylinder of one laminate, side by side, and what happens first: buckling with what is
/// usually left of the classical loads, what its plies and its core bear, short waves of faces.
#ifndef BORDADO_CURVED_MARGINS_HPP
#define BORDADO_CURVED_MARGINS_HPP

#include <bordado/curved.hpp>
#include <bordado/margins.hpp>

namespace bordado::sizing {

/// As of curved.hpp: x along the axis, y round it, z outwards, first laid inside; edges keep their shape and turn freely.
struct CurvedCase {
  laminate::Stack stack;  ///< its z0 counts for nothing
  double length = 0.0, radius = 0.0;
  double width = 0.0;     ///< of a panel, round its middle; nought: the whole cylinder
  double axial = 0.0;     ///< force per length of the rim, tension positive
  double shear = 0.0;     ///< likewise; of a cylinder its torque / (2 pi R²)
  double pressure = 0.0;  ///< outwards; what of it pulls at closed ends is axial
  std::vector<laminate::Criterion> criteria{laminate::usual_criteria().begin(), laminate::usual_criteria().end()};
};

/// One load by itself.
struct CurvedShare {
  enum class Of : std::uint8_t { axial, pressure, shear };
  Of of = Of::axial;
  double load = 0.0;       ///< that pushes, positive; of shear its size
  double classical = 0.0;  ///< at which a perfect shape buckles, positive; of a panel's shear that of the flat one
  int m = 0, n = 0;        ///< waves then, as curved_buckling()
  double left = 1.0;       ///< the share of it that is counted on
  bool flat = false;       ///< the flat panel bears more than that, and it is its load that is counted on
  double bears = 0.0;
};
std::string_view name_of(CurvedShare::Of of);

struct CurvedAnswer {
  CurvedPanel panel;
  Vector3 N = Vector3::Zero();      ///< what the wall carries: along, round by the pressure, shear
  std::vector<CurvedShare> shares;  ///< of loads that push
  KnockDown left;
  double coupled = 0.0;           ///< as coupled(): what is left out
  std::optional<double> buckles;  ///< factor: shares of what they bear are added, on the safe side; pulls help nothing
  std::vector<laminate::Failing> criteria;  ///< by factor
  std::vector<laminate::Judge::LeftOut> left_out;
  std::optional<Sandwich> sandwich;
  FaceForces faces;
  std::optional<FaceWave> wave;
  std::vector<Margin> margins;  ///< least first
  double mass = 0.0;            ///< per area
};
inline constexpr std::string_view curved_words = "buckling of the shell, knocked down";

/// How far from where the theory and the tests end.
struct CurvedRange {
  double radius = 0.0;   ///< times the thickness
  double coupled = 0.0;  ///< as coupled()
  bool of_tests = true;  ///< the knock-down is of tests of such
  static constexpr double least_radius = 10.0, most_coupled = 0.05;
  bool is_thick() const { return radius < least_radius; }
  bool is_coupled() const { return coupled > most_coupled; }
};
CurvedRange range_of(const CurvedCase& given, const CurvedAnswer& answer);

/// Away from the edges: the wall stretches and does not bend. \throws std::invalid_argument as curved_buckling() and Judge.
CurvedAnswer check_curved(const CurvedCase& given);

}  // namespace bordado::sizing

#endif
