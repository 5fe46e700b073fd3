/// \file sandwich.hpp
/// What a shell model does not show of a sandwich: short waves of its faces on the core between them, exactly and by the
/// formulas of the books, and what a small load presses into it.
///
///      z ^   ________________  top face: a thin laminate, stiff in stretching and bending
///        |   |    core       |  a layer of a solid, in three dimensions
///        |   |_______________|  bottom face
///        +------------------> x, y: the axes of the laminate
///
/// The exact model: u = U(z) cos kx, v = V(z) cos kx, w = W(z) sin kx, x any direction of the plane. The core keeps the
/// equilibrium and the elasticity of a solid at every height; the faces are plates without transverse shear that hold to it at
/// its two planes. Forces in the faces buckle them into the wave that needs the least of them. Nothing is assumed of how the
/// wave dies out in the core, of which face moves, or of their being alike.
#ifndef BORDADO_SANDWICH_HPP
#define BORDADO_SANDWICH_HPP

#include <bordado/laminate.hpp>

#include <optional>
#include <span>
#include <vector>

namespace bordado::sizing {

using laminate::Matrix2;
using laminate::Matrix3;
using laminate::Vector2;
using laminate::Vector3;

/// A face and the plane in which it lies on the core.
struct CoveringFace {
  double thickness = 0.0;
  laminate::Stiffness about_core;  ///< A, B, D with z from that plane
  Matrix3 D = Matrix3::Zero();     ///< about its own neutral plane, free to stretch
  double plane = 0.0;              ///< height of that plane above the laminate's bottom
};

/// Two faces on one core.
struct Sandwich {
  CoveringFace bottom, top;
  material::Matrix6 core = material::Matrix6::Zero();  ///< stiffness in the laminate's axes: 11 22 33 23 13 12
  double core_thickness = 0.0;
  bool isotropic_core = false;
  std::optional<double> poisson;  ///< of an isotropic core
  std::optional<double> cell;     ///< of a honeycomb core
  std::optional<double> crushes;  ///< stress across the core that it bears
  double core_normal() const;     ///< E3
  Matrix2 core_shear() const;     ///< xz, yz
};
/// Core layers of one material and angle that lie together are one core. \returns nothing where the stack is no face, one core,
/// one face. \param materials one for each layer, as for a Judge.
std::optional<Sandwich> sandwich_of(std::span<const laminate::Layer> layers,
                                    std::span<const material::Material* const> materials);

/// What faces carry in their plane, force per length, tension positive.
struct FaceForces {
  Vector3 bottom = Vector3::Zero(), top = Vector3::Zero();
};
/// \param z0 bottom of the laminate, as the deformation counts z.
FaceForces face_forces(const Sandwich& sandwich, const laminate::Deformation& deformation, double z0);

/// How faces are let move: as they like; or mirrored (symmetric wrinkling: the core swells and thins) or alike
/// (antisymmetric), which is exact where faces and their forces are alike, and from above else.
enum class FaceMotion : std::uint8_t { any, mirrored, alike };

/// A wave in which faces go out of their plane.
struct FaceWave {
  double factor = 0.0;             ///< of the forces
  double half_wave = 0.0;          ///< length
  double direction = 0.0;          ///< radians from x towards y: the waves run along it, their crests lie across
  double bottom = 0.0, top = 0.0;  ///< amplitudes upwards; the larger is 1 or -1
  /// No wave of its own: the longest that was allowed needs the least, where the whole sandwich bends or shears off.
  bool longest = false;
};
/// One wave. \returns nothing where these forces do not push along it.
/// \throws std::invalid_argument where numbers are no numbers, or a length is not positive.
std::optional<FaceWave> face_wave(const Sandwich& sandwich, const FaceForces& forces, double direction,
                                  double half_wave, FaceMotion motion = FaceMotion::any);
/// The wave that needs less than those a little shorter and a little longer, the least of such in all directions and half
/// waves up to the longest; where there is none, the longest. \returns nothing where nothing is pushed.
std::optional<FaceWave> least_face_wave(const Sandwich& sandwich, const FaceForces& forces, double longest_half_wave,
                                        FaceMotion motion = FaceMotion::any);

/// A formula for the compression per length at which a face wrinkles.
enum class WrinklingFormula : std::uint8_t {
  /// 0.91 (Ef Ez G)^(1/3), faces mirrored, waves that die out in the core. N. J. Hoff and S. E. Mautner, J. Aeronautical
  /// Sciences 12 (1945) 285.
  mirrored_thick,
  /// 0.817 (Ef Ez t / c)^(1/2) + 0.166 G c / t, faces mirrored, the whole core strained. The same.
  mirrored_thin,
  /// 0.51 (Ef Ez G)^(1/3) + 0.33 G c / t, faces alike. The same.
  alike_thick,
  /// 0.59 (Ef Ez t / c)^(1/2) + 0.387 G c / t. The same.
  alike_thin,
  /// 0.5 (Ef Ez G)^(1/3): what they advise for real, wavy faces. The criterion `wrinkling` of a laminate.
  advised,
  /// A face on an isotropic solid without end: 3 (12 (3 - v)² (1 + v)²)^(-1/3) (Ef Ec²)^(1/3). G. S. Gough, C. F. Elam, N. A. de
  /// Bruyne, J. Royal Aeronautical Society 44 (1940) 12; H. G. Allen, Analysis and Design of Structural Sandwich Panels
  /// (1969), section 8.2.
  half_space,
  /// A face on springs from a middle that stays: (2/3)^(1/2) (Ef Ez t / c)^(1/2). Allen, section 8.3.
  springs,
  /// 0.33 (Ef Ez t / c)^(1/2): springs with a share for wavy faces, for honeycomb. NASA CR-1457 (1969).
  honeycomb
};
inline constexpr std::size_t wrinkling_formula_count = 8;
/// "mirrored, thick core", ...
std::string_view name_of(WrinklingFormula formula);
/// The formula in letters, and whose it is.
std::string_view words(WrinklingFormula formula);
/// What a formula says.
struct FormulaAnswer {
  WrinklingFormula formula;
  double force = 0.0;           ///< compression per length of the face, positive
  bool in_range = true;         ///< of core thickness and kind
  std::string_view range = {};  ///< what it is meant for
};
/// What each says of a face pushed in a direction; Ef t³ is taken as 12 D of the face as it is laid.
std::vector<FormulaAnswer> wrinkling_formulas(const Sandwich& sandwich, const CoveringFace& face, double direction);

enum class FaceSide : std::uint8_t { bottom, top };
/// What a load on a small round patch of a face does below it, the sandwich lying on something that does not give.
struct Indentation {
  double core_stress = 0.0;  ///< across the core under the middle of the patch, per force: one over an area
  double depth = 0.0;        ///< of the face there, per force
};
/// The exact foundation again, as a sum of waves of all lengths and directions (for springs: H. M. Westergaard, Public Roads 7
/// (1926) 25, whose answers it then gives). \param radius of the patch, pressed evenly. \throws std::invalid_argument as above.
Indentation indentation(const Sandwich& sandwich, FaceSide side, double radius);

}  // namespace bordado::sizing

#endif
