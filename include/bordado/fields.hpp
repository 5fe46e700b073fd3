/// \file fields.hpp
/// What answers a model, whoever solved it: fields of a case on its surface.
#ifndef BORDADO_FIELDS_HPP
#define BORDADO_FIELDS_HPP

#include <bordado/model.hpp>

namespace bordado::model {

/// What a section does on one element, about the mesh surface, in the section's axes: x along its reference direction,
/// z along the element's normal.
struct SectionState {
  laminate::Deformation deformation;                ///< whole, with what temperature does
  laminate::Vector2 Q = laminate::Vector2::Zero();  ///< transverse shear forces per length, xz and yz
};

/// Strains of a solid (Solids) in the axes of its element's section, whole, with what temperature does: order
/// 11, 22, 33, 23, 13, 12, engineering shear.
struct SolidState {
  material::Vector6 mean = material::Vector6::Zero();   ///< halfway up
  material::Vector6 slope = material::Vector6::Zero();  ///< from there to the upper face
};

/// A frequency, or a factor of buckling, with its shape on the model's surface.
struct ModeField {
  double value = 0.0;       ///< as calculix::Mode
  bool reversed = false;    ///< it buckles under the loads the other way
  std::vector<Vec3> moved;  ///< per node of the model's surface, of any size
};

/// A case on the model's surface.
struct CaseFields {
  std::string name;
  std::vector<ModeField> modes = {};  ///< by size, of a case that asks for them
  std::vector<Vec3> displacements;    ///< per node of the model's surface, at the middle of the laminate
  /// Per element; empty where the deck did not ask for strains. Of solids the plane through all strains of a column.
  std::vector<SectionState> sections;
  std::vector<SectionState> held;       ///< the same of the temperature alone, which reserves do not multiply; or empty
  std::vector<SolidState> solids = {};  ///< per solid of the model
  std::vector<SolidState> held_solids = {};  ///< likewise
  /// What supports put on the part, per node of the model's surface; empty where the solver's forces cannot be
  /// trusted: see calculix::can_tell_reactions().
  std::vector<Vec3> reactions = {};
  /// Likewise the moment of these about the node, where columns of solids bear it.
  std::vector<Vec3> reaction_moments = {};
  bool shear = true;  ///< whether Q of the sections is known
};

/// How the normal at each node of the surface turns where its nodes move: a vector across it, radians. (Turning about
/// itself is no motion of a normal.) \param displacements per node of the surface, small.
std::vector<Vec3> rotations(const mesh::Surface& surface, const std::vector<Vec3>& displacements);

}  // namespace bordado::model

#endif
