// What CalculiX makes of the nodes of a deck.
#pragma once

#include <bordado/calculix/boxes.hpp>

namespace bordado::calculix {

/// Per node: whether the middle of a laminate there lies beside the mesh.
std::vector<std::uint8_t> beside_mesh(const Model& model);
/// Per node: whether a case turns it or holds it from turning, in the part's axes. Such a node is made a knot: the solver's
/// force on it is then what holds it. (Held along axes of its own it would turn.)
std::vector<std::uint8_t> held_as_knots(const Model& model, const Model::Case& load_case);

/// Where thickness, offset or normal jump, the solver ties the layers with a rigid knot [6], and its work
/// arrays must be large enough for all of it [7]. Refers to the model and the boxes.
class NodeSurvey {
 public:
  /// \param cases whose forces it is asked about
  NodeSurvey(const Model& model, const List<section::SectionId, SolverBox>& boxes, std::span<const std::size_t> cases);

  bool is_knot(mesh::NodeIndex node) const { return clusters_[node] > 1 || tied_[node] != 0; }
  std::size_t knots() const;  ///< where thickness, offset or normal jump
  std::size_t ties() const;   ///< all of them

  /// Elements that are written once more, nearly without stiffness and a hair's breadth off: their nodes become knots. A
  /// force along the surface enters a layered shell as a stress that is the same in all its layers, and bends them
  /// against each other; at a knot it enters as they bear it [35].
  std::span<const mesh::ElementIndex> overlay() const { return overlay_; }

  /// Whether normals stand at 20° and more to each other anywhere.
  bool kinked() const { return kinked_; }

  /// For every edge between two elements that are not nearly in line, the angle in degrees between their normals.
  std::vector<double> arcs() const;

  /// From a node to the middle of the box there, along the mean normal of its elements.
  Vec3 to_middle(mesh::NodeIndex node) const;
  double height_of_middle(mesh::NodeIndex node) const;
  double mean_height_of_middle(mesh::NodeIndex node) const;  ///< of all elements there: what is printed of a knot
  /// The mean normal of the elements at a node, a unit vector.
  Vec3 normal(mesh::NodeIndex node) const;

  /// Where a node is written. The solver takes the matrix for singular where a knot's normal lies along an axis but for
  /// rounding, on a surface that curves there: such a node is moved in the surface by a millionth of its element's size.
  Vec3 place(mesh::NodeIndex node) const;
  /// How many nodes place() moves.
  std::size_t moved() const;

  /// How often each section card must be written so that the solver's knot array suffices: each copy adds to it.
  std::size_t card_copies() const;

  std::span<const mesh::ElementIndex> elements_of(mesh::NodeIndex node) const { return elements_.of(node); }

 private:
  std::uint8_t clusters(mesh::NodeIndex node) const;
  void find_overlay(std::span<const std::size_t> cases);
  bool kinked_at(mesh::NodeIndex node) const;

  const Model& model_;
  const List<section::SectionId, SolverBox>& boxes_;
  mesh::NodeTable elements_;  ///< nodes in the middle of sides as well
  bool kinked_ = false;
  std::vector<std::uint8_t> clusters_;  ///< per node: groups of like thickness, offset and normal
  std::vector<mesh::ElementIndex> overlay_;
  std::vector<std::uint8_t> tied_;  ///< per node: whether an element of the overlay has it
};

}  // namespace bordado::calculix
