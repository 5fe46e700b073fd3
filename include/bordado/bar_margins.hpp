/// \file bar_margins.hpp
/// All that can happen to a column or a beam of laminated walls, side by side, and what happens first: buckling as a whole, of its
/// walls, crippling, what its plies bear.
#ifndef BORDADO_BAR_MARGINS_HPP
#define BORDADO_BAR_MARGINS_HPP

#include <bordado/column.hpp>
#include <bordado/curved.hpp>
#include <bordado/margins.hpp>
#include <bordado/strips.hpp>

namespace bordado::sizing {

struct BarCase {
  std::vector<Wall> walls;
  double length = 0.0;
  End begin = End::pinned, end = End::pinned;
  double force = 0.0;                   ///< along it, through the line of centroids; tension positive
  Vector2 line_load = Vector2::Zero();  ///< per length, in y and z
  std::optional<Vector2> through;       ///< where of the section it acts; nothing: in the shear centre
  std::vector<laminate::Criterion> criteria{laminate::usual_criteria().begin(), laminate::usual_criteria().end()};
  std::size_t terms = 14, frequencies = 4;
  bool is_tube = false;  ///< flats that stand for a circle: their own buckling tells nothing
};

/// The least of one criterion, in which wall, where along the bar and the wall.
struct WallFailing {
  laminate::Failing failing;
  std::size_t wall = 0;
  double x = 0.0, s = 0.0;
};

/// What a wall of a short column bears at the most, an estimate from many tests of carbon laminates: the laminate's strength in
/// compression times 1.63 / (b/t)^0.717 with one edge free, 11 / (b/t)^1.124 with none, at most one. MIL-HDBK-17-3E; C.
/// Kassapoglou, Design and Analysis of Composite Structures (2010), section 8.5.
struct Crippling {
  double share = 1.0;     ///< of the strength
  double strength = 0.0;  ///< force per length at which its first ply fails; infinite where none is known
  bool edge_free = false;
};

/// The wall of a tube buckles in dents: pressed along it evenly and by bending, each beside its own share of the classical load.
struct Dents {
  double classical = 0.0;  ///< force per length
  KnockDown left;
  double factor = 0.0;  ///< of the loads: 1 / (even / (axial share) + bending / (bending share)) of the classical one
};

struct BarAnswer {
  SectionStiffness section;
  std::optional<Dents> dents;            ///< of a tube that is pressed somewhere
  std::vector<ColumnBuckling> buckling;  ///< by compression, in rising order
  std::optional<Signature> walls;    ///< by the strains of the force alone, or of the bending alone where no force acts
  std::vector<Crippling> crippling;  ///< of each wall without a core; empty without compression
  std::optional<double> cripples_at;  ///< compression: all walls at once; nothing where one has a core
  std::vector<BarFrequency> frequencies;
  std::optional<BentBar> bent;  ///< under the line load, the force acting, too, as long as it does not buckle the bar
  bool bent_without_force = false;
  std::vector<WallFailing> criteria;  ///< by factor
  std::vector<Margin> margins;        ///< least first
};
inline constexpr std::string_view column_words = "buckling of the bar", wall_words = "buckling of its walls",
                                  crippling_words = "crippling, an estimate",
                                  dents_words = "dents in its wall, knocked down";

/// How far from where the theory ends.
struct BarRange {
  double length = 0.0;   ///< times how far out the section is from its centroid
  double wall = 0.0;     ///< width of the narrowest wall, times its thickness; of a tube infinite
  bool of_tests = true;  ///< a tube's knock-down is of tests of such
  static constexpr double least_length = 6.0, least_wall = 5.0;
  bool is_short() const { return length < least_length; }
  bool has_thick_walls() const { return wall < least_wall; }
};
BarRange range_of(const BarCase& given, const BarAnswer& answer);

/// \throws std::invalid_argument as section_stiffness() and column_buckling().
BarAnswer check_bar(const BarCase& given);

}  // namespace bordado::sizing

#endif
