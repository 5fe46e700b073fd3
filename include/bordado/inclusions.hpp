/// \file inclusions.hpp
/// Ellipsoids in a matrix (short fibres, yarns in resin), and fibres that lie in many directions.
///
/// Order of six: 11, 22, 33, 23, 13, 12, with engineering shear strains.
#ifndef BORDADO_INCLUSIONS_HPP
#define BORDADO_INCLUSIONS_HPP

#include <bordado/material.hpp>

namespace bordado::material {

/// Strain in an ellipsoid that would change by a strain of its own if nothing held it: that times this. J. D. Eshelby,
/// Proc. Royal Society A 241 (1957) 376; T. Mura, Micromechanics of Defects in Solids (2nd ed., 1987), eq. 11.16.
/// \param nu Poisson's ratio of the isotropic matrix. \param half_axes along 1, 2, 3; infinite along 1 for a cylinder.
Matrix6 eshelby(double nu, const Vec3& half_axes);

/// Aligned ellipsoids in a matrix. T. Mori and K. Tanaka, Acta Metallurgica 21 (1973) 571; Y. Benveniste, Mechanics of
/// Materials 6 (1987) 147; of spheroids G. P. Tandon and G. J. Weng, Polymer Composites 5 (1984) 327.
/// \param matrix isotropic. \param volume of the ellipsoids in the whole, [0, 1].
Matrix6 in_matrix(const Matrix6& inclusion, const Elastic& matrix, double volume, const Vec3& half_axes);
/// What such a mixture takes by itself when each phase would take a strain by itself: exact for two phases once the
/// stiffness of the whole is known (V. M. Levin, Mechanics of Solids 2 (1967) 58; B. W. Rosen and Z. Hashin, Int. J.
/// Engineering Science 8 (1970) 157).
Vector6 mixed_strain(const Matrix6& inclusion, const Matrix6& matrix, const Matrix6& whole, double volume,
                     const Vector6& of_inclusion, const Vector6& of_matrix);

/// How the mean of products of four directions is had from that of two: S. G. Advani and C. L. Tucker, J. Rheology 31
/// (1987) 751, but for the first.
enum class Closure {
  /// Of fibres that lay in all directions and were carried along by a flow: exact for all aligned, all in a plane and all
  /// in space. V. Verleye and F. Dupret, ASME FED 179 (1993) 139; S. Montgomery-Smith, W. He, D. A. Jack and D. E. Smith,
  /// J. Fluid Mechanics 680 (2011) 321.
  natural,
  hybrid,
  quadratic,
  linear
};
inline constexpr std::array<Closure, 4> closures = {Closure::natural, Closure::hybrid, Closure::quadratic,
                                                    Closure::linear};
std::string_view name_of(Closure closure);

/// Which way fibres lie: the mean of p pᵀ over their directions p. Symmetric, its trace one, nothing less than nought.
struct Orientation {
  Eigen::Matrix3d mean = Eigen::Matrix3d::Identity() / 3.0;
  Closure closure = Closure::natural;
};
/// Why it cannot be; nothing where it can.
std::optional<std::string> not_an_orientation(const Eigen::Matrix3d& mean);

/// The mean of p_i p_j p_k p_l, without any factor for shear: entry (ij, kl). \throws std::invalid_argument as above.
Matrix6 fourth_moment(const Orientation& orientation);

/// The mean of a stiffness that is transversely isotropic about 1, turned into all directions (Advani and Tucker 1987, eqs.
/// 26 to 30), and of six strains or stresses of such a material (its shears are nought).
Matrix6 mean_stiffness(const Matrix6& aligned, const Orientation& orientation);
/// The same of what makes a number of two stresses, as a compliance does.
Matrix6 mean_compliance(const Matrix6& aligned, const Orientation& orientation);

/// A material of fibres in many directions, from what it is when all lie along 1: stiffness the mean of stiffnesses;
/// expansion what the mean stiffness makes of the mean of stresses that hold it; strengths, where all of the aligned
/// material are known and the orientation has its own axes along 1, 2, 3, from the means of the coefficients of Tsai and
/// Wu (F. W. J. van Hattum and C. A. Bernardo, Polymer Composites 20 (1999) 524).
/// \param aligned a unidirectional material. \param form name, mark and what was said; its numbers are kept where given.
/// \throws std::invalid_argument where it is of another kind or not transversely isotropic, or as not_an_orientation().
Material oriented(const Material& aligned, const Orientation& orientation, Material form);

}  // namespace bordado::material

#endif
