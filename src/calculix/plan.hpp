// What a CalculiX deck will hold, made before any of its text: the text is written from it, findings are told from it, and
// answers are read against it.
#pragma once

#include "axes.hpp"
#include "node_survey.hpp"

#include <bordado/deck/uses.hpp>

#include <optional>

namespace bordado::calculix {

/// The equivalent shear moduli of faces, per section; see deck::fit_soft_core().
struct CoreFits {
  List<section::SectionId, std::optional<deck::ShearFit>> fits;
  std::size_t fitted = 0;              ///< sections that have one
  double worst = 1.0, leftover = 0.0;  ///< the largest of them
};

/// A layer of a section as it stands in the deck.
struct StandingLayer {
  double bottom = 0.0, thickness = 0.0;  ///< from the mesh along n
  Angle angle;                           ///< from 0° of the section to axis 1 of its material
  laminate::Matrix3 Q;                   ///< plane stress, in the section's axes
  laminate::Matrix2 G;                   ///< transverse, xz and yz
  double through = 0.0;                  ///< stiffness through the thickness
  /// Of a ply: its constants as they are written. Of one of three layers nothing.
  std::optional<material::Elastic> elastic = {};
};

/// What a layer of the deck is free to expand by, x, y, xy in the section's axes, and through the thickness.
struct LayerExpansion {
  laminate::Vector3 plane;
  double through;
};

/// Sections as they stand in the deck. Refers to the model.
class Standing {
 public:
  /// Findings: "deck.soft-core" (a note), "deck.soft-core-leftover", "deck.shear-too-stiff" (warnings).
  Standing(const Model& model, const deck::WriteOptions& options, Findings& findings);

  const List<section::SectionId, SolverBox>& boxes() const { return boxes_; }
  const SolverBox& box(section::SectionId section) const { return boxes_[section]; }
  const CoreFits& cores() const { return cores_; }
  /// Sections that stand as three layers.
  std::size_t equivalents() const;
  /// First laid first.
  std::span<const StandingLayer> layers_of(section::SectionId section) const { return layers_[section]; }

  /// Levels of integration points in each layer of an element: its layers are solids of two, a single one in a wedge of three.
  std::size_t levels(section::SectionId section, mesh::Shape shape) const;
  /// Integration points of an element, in the plane and through all layers.
  std::size_t points(mesh::ElementIndex element) const;

  /// Kelvin that a ply which stands as itself is warmed by: its mean.
  double above(section::SectionId section, std::size_t layer, const model::Warmth& heat) const;
  /// What its layers expand by: of three layers exactly what the laminate pushes and bends with. \param through whether plies
  /// expand through the thickness, too
  std::vector<LayerExpansion> expansions(section::SectionId section, const model::Warmth& heat, bool through) const;

 private:
  const Model& model_;
  List<section::SectionId, SolverBox> boxes_;
  CoreFits cores_;
  List<section::SectionId, std::vector<StandingLayer>> layers_;
};

/// A deck of layered shells. Refers to the model and the options, and to itself.
struct Plan {
  /// \param upside_down per element: its nodes run the other way round in the deck; or empty
  Plan(const Model& model, const deck::WriteOptions& options, std::span<const std::uint8_t> upside_down,
       Findings& findings);
  Plan(const Plan&) = delete;
  Plan& operator=(const Plan&) = delete;

  const Model& model;
  const deck::WriteOptions& options;
  std::vector<std::size_t> cases;  ///< in Model::cases; none where the laminate alone is written
  bool heated;                     ///< temperatures stand in the materials, by the number of the case
  Standing standing;
  deck::Uses uses;
  Grouping grouping;
  std::vector<std::set<double>>
      angles;                        ///< per axes of `grouping`: of the orientations that its layers ask for, degrees
  std::optional<NodeSurvey> survey;  ///< none where the laminate alone is written

  std::size_t orientations() const;
};

/// A step of a case.
struct PlannedStep {
  enum class Does {
    linear,
    far,      ///< large displacements
    held,     ///< the temperature alone, of a case that has loads besides
    preload,  ///< the stress that it vibrates under
    frequencies,
    buckling
  };
  Does does = Does::linear;
  double share = 1.0;     ///< of the loads
  std::size_t modes = 0;  ///< that are asked for
  /// Whether its answer begins with what the loads do.
  bool displaces() const { return does != Does::held && does != Does::frequencies; }
};
/// Of the loads, for factors below one.
inline constexpr double share_below_one = 1e-3;
/// In the order of the deck. \param held whether what is held is asked for in a step of its own
std::vector<PlannedStep> steps_of(const Model& model, const Model::Case& load_case, bool held);

}  // namespace bordado::calculix
