/// \file material.hpp
/// What a ply is made of: nine elastic constants in the ply's own axes, density, a usual thickness.
#pragma once

#include <bordado/base.hpp>

namespace bordado::material {

enum class Kind {
  unidirectional,  ///< fibres along axis 1
  fabric,          ///< one orthotropic ply, warp along axis 1, weft along axis 2
  isotropic,       ///< a metal or resin layer
  core             ///< foam or honeycomb; axis 1 is the ribbon direction
};

std::string_view name_of(Kind kind);

/// Orthotropic constants in ply axes: 1 along the fibre, 2 across it in the plane, 3 through the thickness.
/// nu12 is the strain along 2 for a stress along 1: nu12 / E1 = nu21 / E2. Stresses in the part's stress unit.
struct Elastic {
  double E1 = 0, E2 = 0, E3 = 0;
  double nu12 = 0, nu13 = 0, nu23 = 0;
  double G12 = 0, G13 = 0, G23 = 0;
};

/// Transversely isotropic about the fibre: E3 = E2, nu13 = nu12, G13 = G12.
Elastic transversely_isotropic(double E1, double E2, double nu12, double G12, double nu23, double G23);
/// G = E / (2 (1 + nu)) in all planes.
Elastic isotropic(double E, double nu);

/// Why the constants cannot be those of any material, or nothing where they can: all moduli positive and the compliance
/// matrix positive definite. R. M. Jones, Mechanics of Composite Materials (2nd ed.), eqs. 2.44 to 2.52.
std::optional<std::string> not_positive_definite(const Elastic& elastic);

struct Material {
  std::string name;
  std::string mark;  ///< letters that stand for it in laminate codes; may be empty
  Kind kind = Kind::unidirectional;
  Elastic elastic;
  double density = 0;               ///< part's mass per volume; 0 where not given
  std::optional<double> thickness;  ///< of one ply, where the ply does not say its own
  Place where;
};

/// Findings for constants that are possible but look like a slip of units or of an index, judged in SI:
/// "material.stiffness-unlikely", "material.density-unlikely", "material.nu21-for-nu12", "material.thickness-unlikely".
void check_plausible(const Material& material, const UnitSystem& units, Findings& findings);

}  // namespace bordado::material
