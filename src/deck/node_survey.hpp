// What CalculiX makes of the nodes of a deck.
#pragma once

#include <bordado/deck.hpp>

namespace bordado::deck {

/// The thickness that each section is written with: those within a millionth of each other are made equal to the
/// thinnest of them, since the solver sees a step in any difference above 1e-10 [6].
std::vector<double> settled_thickness(const section::Sections& sections);

/// Where thickness, offset or normal jump, the solver ties the layers with a rigid knot [6], and its work
/// arrays must be large enough for all of it [7]. Refers to the model.
class NodeSurvey {
 public:
  explicit NodeSurvey(const Model& model);

  bool is_knot(mesh::NodeIndex node) const { return clusters_[node] > 1; }
  std::size_t knots() const;

  /// For every edge between two elements that are not nearly in line, the angle in degrees between their normals.
  std::vector<double> arcs() const;

  /// From a node to the middle of the laminate there, along the mean normal of its elements.
  Vec3 to_middle(mesh::NodeIndex node) const;
  double height_of_middle(mesh::NodeIndex node) const;

  /// How often each section card must be written so that the solver's knot array suffices: each copy adds to it.
  std::size_t card_copies() const;

 private:
  std::uint8_t clusters(mesh::NodeIndex node) const;
  std::span<const mesh::ElementIndex> elements_of(mesh::NodeIndex node) const {
    return {elements_.data() + first_[node], elements_.data() + first_[node + 1]};
  }

  const Model& model_;
  std::vector<std::uint32_t> first_;  ///< node n belongs to elements_[first_[n]] .. elements_[first_[n + 1] - 1]
  std::vector<mesh::ElementIndex> elements_;
  std::vector<double> thickness_;       ///< per section, settled
  std::vector<std::uint8_t> clusters_;  ///< per node: groups of like thickness, offset and normal
};

}  // namespace bordado::deck
