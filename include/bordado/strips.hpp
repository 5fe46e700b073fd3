/// \file strips.hpp
/// How the walls of a long bar buckle, each held by its neighbours; and what a short one bears at the most.
///
/// Waves exp(ikx) along the bar, all walls together: each wall is a laminated plate with stretching, bending and transverse shear
/// (all of A, B, D and H, coupling of directions, too), with functions of high order across. Walls share what moves and turns where
/// they meet. For long half waves the bar bends and twists as a whole, with ends that turn and warp freely. In the manner of finite
/// strips (Y. K. Cheung, Finite Strip Method in Structural Analysis (1976); waves in a complex form: W. H. Wittrick and F. W.
/// Williams, Int. J. Mechanical Sciences 16 (1974) 209).
#ifndef BORDADO_STRIPS_HPP
#define BORDADO_STRIPS_HPP

#include <bordado/walls.hpp>

#include <optional>
#include <span>
#include <vector>

namespace bordado::sizing {

/// Strains of the section under which its walls buckle: ex = axial + (y - centroid) by_y + (z - centroid) by_z.
struct AxialStrain {
  double axial = -1.0, by_y = 0.0, by_z = 0.0;
};

struct StripBuckling {
  double factor = 0.0;     ///< of the strains
  double half_wave = 0.0;  ///< length
  std::size_t wall = 0;    ///< that moves most
};

/// \param half_wave length. \returns nothing where these strains push nothing.
/// \throws std::invalid_argument as section_stiffness(), and for lengths that are not above nought.
std::optional<StripBuckling> strip_buckling(std::span<const Wall> walls, const AxialStrain& strain, double half_wave,
                                            std::size_t terms = 7);

/// The curve of factors over half waves, evenly in their logarithm, and the least of those that need less than both neighbours.
struct Signature {
  std::vector<StripBuckling> curve;
  std::optional<StripBuckling> local;  ///< nothing: the longer the wave, the less it needs
};
Signature signature(std::span<const Wall> walls, const AxialStrain& strain, double shortest, double longest,
                    std::size_t count = 40, std::size_t terms = 7);

}  // namespace bordado::sizing

#endif
