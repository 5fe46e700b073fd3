/// \file boxes.hpp
/// What CalculiX makes of sections and nodes: boxes of layers, columns, sets whose forces can be told.
#ifndef BORDADO_CALCULIX_BOXES_HPP
#define BORDADO_CALCULIX_BOXES_HPP

#include <bordado/deck.hpp>

namespace bordado::calculix {

using model::Model;

/// A laminate as three layers in a box that need not be as thick as it is: with the A, B and D of the laminate about the
/// mesh, its transverse shear stiffness, mass and thermal forces, each to round-off. In the section's axes.
struct ThreeLayers {
  double bottom = 0.0, thickness = 0.0;  ///< of the box; bottom from the mesh along n
  std::array<double, 3> shares{};        ///< of its thickness, bottom to top
  std::array<laminate::Matrix3, 3> Q;    ///< plane stress; positive definite
  laminate::Matrix2 G;                   ///< xz, yz; of all three
  std::array<double, 3> density{};
  std::array<laminate::Vector3, 3> expansion;  ///< strain per kelvin: x, y, xy (engineering)
};
/// The division of the box for which the weakest layer is strongest: A, B and D as three moments of a stiffness that is
/// constant in each layer are three equations for each entry. \param bottom of the laminate. \returns nothing where no
/// division leaves every layer positive definite.
std::optional<ThreeLayers> three_layers(std::span<const laminate::Layer> layers, double bottom, double box_bottom,
                                        double box_thickness);

/// Mass per area and its moments through the thickness, about the middle of the box.
struct MassMoments {
  double mass = 0.0, first = 0.0, second = 0.0;
};
MassMoments mass_moments(const ThreeLayers& three);
/// Those of the laminate that they stand for. \param bottom of the laminate.
MassMoments mass_moments(std::span<const laminate::Layer> layers, double bottom, const ThreeLayers& about);

/// The solid that CalculiX makes of a section: what it takes for the laminate's place.
struct SolverBox {
  double bottom = 0.0, thickness = 0.0;
  std::size_t layers = 0;
  std::optional<ThreeLayers> equivalents;  ///< where they stand for the plies
};
/// Thicknesses within a millionth of each other are made equal, since the solver sees a step in any
/// difference. With equivalents, laminates that vary share boxes with those up to a fifth thinner.
List<section::SectionId, SolverBox> boxes(const Model& model, const deck::WriteOptions& options);

/// Nodes whose forces from the elements are asked for as one sum.
struct ForceSet {
  std::string name;   ///< "FREE", "HELD_X", ..., "HELD_XYZ", "OTHER"
  std::uint8_t held;  ///< which translations supports hold at its nodes, bits as part::Freedom
  /// Whether the sum can be trusted: the solver's forces go wrong at nodes where a rotation is held and a translation
  /// is not, and where a moment acts, as it does where a force pushes beside the middle of the laminate. All these are
  /// in "OTHER", and so are nodes that are held along axes of their own or are linked.
  bool trusted;
  std::vector<mesh::NodeIndex> nodes;  ///< ascending, not empty
};
/// Every node of the model in one of these.
std::vector<ForceSet> force_sets(const Model& model, const Model::Case& load_case);
/// Whether the solver's force at each held node of a static case is what holds it there: no rotation is held or moved, and
/// no node of a support is in "OTHER". Of solids always.
bool can_tell_reactions(const Model& model, const Model::Case& load_case);

/// What acts in a case on nodes that its supports hold, by ids of a deck of solids: the solver's reactions leave it out.
std::vector<std::pair<std::int64_t, Vec3>> loads_on_held(const Model& model, const Model::Case& load_case);

/// What CalculiX makes of a node on which a force acts: a column through the laminate.
struct Column {
  mesh::NodeIndex node;
  /// How far above the mesh, along n, the displacement lies that is printed: the middle of the laminate, at a knot the mean
  /// of the middles of its elements.
  double height;
  Vec3 bottom, top;  ///< its ends, part length
};
/// The columns of the forces of a case, by node; those only whose middle does not lie on the mesh.
std::vector<Column> columns_of_forces(const Model& model, const Model::Case& load_case,
                                      const deck::WriteOptions& options);

/// Elements at a sharp edge (of 20° and more) whose laminate is thicker than half their shortest side, ascending:
/// raised to solids they run into each other there, and a solver may stop.
std::vector<mesh::ElementIndex> too_thick_at_edges(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                                   const section::Sections& sections);
/// The same as a warning, "deck.thick-at-edge"; nothing where there are none.
std::optional<Finding> thick_at_edge(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                     const section::Sections& sections);

}  // namespace bordado::calculix

#endif
