// What lies on an element and how its layers are strained: pieces of it, solids on it, layers that run out.
#pragma once

#include "gradients.hpp"

#include <bordado/design.hpp>
#include <bordado/layup/slopes.hpp>
#include <bordado/recovery.hpp>
#include <bordado/solids.hpp>
#include <bordado/warmth.hpp>

#include <functional>
#include <unordered_map>

namespace bordado::result {

using laminate::Vector2;
using laminate::Vector3;
using mesh::ElementIndex;

/// What is known of a part before any answer: of all its elements. Refers to the design and the model.
struct Known {
  const Design& design;
  const model::Model& model;
  std::vector<laminate::Criterion> criteria;
  std::vector<Doubt> doubt;                             ///< per element, or empty
  layup::LayerSlopes slopes;                            ///< of layers that run out
  std::unordered_map<mesh::ElementIndex, Vec3> across;  ///< the edges of crossed elements
  mesh::NodeTable at_nodes;
  std::vector<Vec3> curved = {};  ///< per element its curvature as made, section axes; empty where no criterion asks
  std::vector<std::uint32_t> first_solid =
      {};  ///< element e has those from first_solid[e] on, before first_solid[e + 1]

  Doubt doubt_of(mesh::ElementIndex e) const { return doubt.empty() ? Doubt::none : doubt[e]; }
  Vec3 curved_of(mesh::ElementIndex e) const { return curved.empty() ? Vec3(Vec3::Zero()) : curved[e]; }
};

/// Keeps the worse of two.
inline void keep_worse(Critical& worst, const Critical& one) {
  if (one.factor < worst.factor) worst = one;
}

/// Layers of a piece of an element, made ready.
struct JudgedPiece {
  std::vector<layup::LaidLayer> laid;
  std::vector<laminate::Layer> layers;
  std::vector<const material::Material*> materials;
  std::vector<PlaneLayer> in_plane;
  double z0 = 0.0;
  std::uint8_t number = 0;
};

/// Stresses of a ply within a solid.
struct SolidStress {
  Vector3 plane = Vector3::Zero();  ///< 1, 2, 12
  Vector2 shear = Vector2::Zero();  ///< 13, 23
  double through = 0.0;             ///< 33
};

/// What strain makes of stress in one layer of a solid: strains in the plane and stresses across it are those of the solid.
struct InLayer {
  laminate::Matrix3 plane;    ///< stress in the plane of the ply where none acts across it
  laminate::Matrix3 squeeze;  ///< strain in the plane that stresses across it make: 33, 23, 13
  Vector3 expansion;          ///< per kelvin, ply axes
  Angle angle;

  explicit InLayer(const laminate::Layer& layer);
};

/// A material of solids.
struct OfSolid {
  Eigen::Matrix<double, 3, 6> across;  ///< stresses 33, 23, 13 from strains in its axes
  material::Vector6 expansion;         ///< per kelvin

  explicit OfSolid(const material::Material& material);
};

/// One element's layers and their judges; kept while the next element has the same. One for each thread.
struct ElementJudge {
  /// Refers to it.
  explicit ElementJudge(const Known& of);

  void turn_to(ElementIndex e);
  /// Whether the strains of solids are read directly. Where edges of plies cross an element its solids are smeared as its
  /// section is, so that its pieces are judged by what both bear.
  bool direct(const model::CaseFields& fields) const;
  /// The strain of the solid of a layer at a place of that, in the section's axes.
  material::Vector6 strain_of(std::size_t layer, int place, std::span<const model::SolidState> states) const;
  /// Stress of a layer at a place. \param heat what it is warmed by, or nothing
  SolidStress stress_of(std::size_t layer, int place, const material::Vector6& strain, const model::Warmth* heat);
  /// How layers of an element run out; nothing where they do not.
  const std::vector<Eigen::Vector2d>* slopes_at(ElementIndex e) const;
  /// Adds to `shear` those that come of layers that run out: N and M stay and are shared otherwise a little further on,
  /// about the same mesh.
  void taper(const JudgedPiece& piece, std::span<const Eigen::Vector2d> slopes, const laminate::Deformation& deformed);
  /// How strain and curvature change along the axes of an element, as N and M do from element to element and as Q says. On
  /// one that edges of plies cross N and M change by Q alone. \param carried_by what an element carries, in its axes
  StrainChanges changes(ElementIndex e, const Vector2& Q, const std::function<Carried(ElementIndex)>& carried_by);
  /// Stresses in ply axes that layers of a piece would have if they were held back from expanding: minus that is what
  /// comes to the stress of the whole strain.
  void expansion(const JudgedPiece& piece, const model::Warmth& heat, std::vector<Vector3>& into) const;
  /// The deformation of a piece that carries the forces of its element's section: that stands for elements alike within
  /// its tolerances, and its angles and thicknesses are not the element's own. \param heat what is in the strains, or
  /// nothing
  laminate::Deformation of_piece(const JudgedPiece& piece, ElementIndex e, const laminate::Deformation& of_section,
                                 const model::Warmth* heat);

  const Known& known;
  layup::LayersOn layers_on;
  SectionForces forces;
  Changing changing;
  std::vector<layup::LaidLayer> key;
  std::vector<JudgedPiece> pieces;
  std::vector<laminate::Judge> judges;
  bool crossed = false;
  std::vector<Eigen::Matrix<double, 6, 6>> own_stiffness;  ///< of the pieces, once it is asked for
  std::vector<Vector3> added, held;
  std::vector<double> through, held_through;
  bool wants_shear = false;                                   ///< how N and M change is asked for
  std::optional<Eigen::Matrix<double, 6, 6>> own_compliance;  ///< of the first piece, once it is asked for
  std::vector<Vector2> shear, held_shear;
  // Of solids.
  std::unordered_map<std::uint32_t, OfSolid> of_solids;  ///< by material, as they are met
  std::vector<model::InSolid> within;
  std::vector<InLayer> in_layers;
};

}  // namespace bordado::result
