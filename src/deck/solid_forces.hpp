// Forces and moments on columns of solids, as their layers bear them.
#pragma once

#include <bordado/deck/carrier.hpp>

namespace bordado::deck {

/// A force on a column goes to its layers as lamination theory says they bear it: along the surface and as a moment by the
/// stresses of a laminate that is free beside the edge, across it by their shear flow; then to the nodes of each layer
/// as the solids' shape functions spread it over their face, straight through each layer. All of it on one node would
/// bend the layers against each other, and shear a soft core.
class SolidForces {
 public:
  /// \param force what acts together: which sides of elements are loaded tells where an edge runs. Refers to both.
  SolidForces(const Model& model, const Model::Force& force);

  /// What acts on the node with this number in the force: per node of the solids. Nothing where the node has no layers,
  /// or where it does not lie on an edge and nothing acts along the surface there. Of a force inside the surface what acts
  /// across is left out.
  struct Spread {
    std::map<std::uint32_t, Vec3> forces;
    bool across = false;  ///< whether what acts across the surface is among them
  };
  Spread operator()(std::size_t i) const;

 private:
  /// An element that bears a share, and the direction along the surface out of it.
  struct Bearer {
    mesh::ElementIndex element;
    std::optional<Vec3> outward;  ///< nothing: no edge
  };
  std::vector<Bearer> bearers(mesh::NodeIndex node) const;
  void add(Spread& out, mesh::NodeIndex node, mesh::ElementIndex element, const Vec3& outward, bool across,
           const Vec3& force, const Vec3& moment) const;

  const Model& model_;
  const Model::Force& force_;
  std::vector<std::uint8_t> loaded_;                        ///< per node of the surface
  std::vector<std::uint32_t> first_element_, first_solid_;  ///< per node of the surface; per element
  std::vector<std::uint32_t> elements_, solids_of_;         ///< solids of an element bottom to top
};

}  // namespace bordado::deck
