/// \file solids.hpp
/// Solids through the thickness: the mesh extruded along its normals, ply by ply or group by group.
#ifndef BORDADO_SOLIDS_HPP
#define BORDADO_SOLIDS_HPP

#include <bordado/model.hpp>

namespace bordado::model {

/// What grouping plies costs: |grouped - real| / |real| (Frobenius), the largest over all sections; B against h |A| / 2.
struct GroupingError {
  double A = 0.0, B = 0.0, D = 0.0, H = 0.0;
  /// Of the stress of plies: the largest change under each of the six forces and moments alone, against the largest stress.
  double stress = 0.0;
};

/// Solids that stand on the elements of a surface. The nodes of the surface have columns of nodes: one at each face of
/// a ply or group that goes on to all elements there. What does not go on ends in a wedge.
struct Solids {
  SolidOptions options;
  std::vector<Vec3> points;          ///< per node of the solids
  std::vector<std::uint32_t> first;  ///< solid s has nodes[first[s]] .. nodes[first[s + 1] - 1], 20 or 15
  /// Corners of the lower face, corners of the upper, middle nodes of the lower, of the upper, of the upright edges.
  std::vector<std::uint32_t> nodes;
  std::vector<mesh::ElementIndex> element;  ///< per solid: of the surface that it stands on
  std::vector<std::uint32_t> group;         ///< per solid, in `groups`
  std::vector<std::uint32_t> material;      ///< per solid, in `materials`
  std::vector<Angle> turn;  ///< per solid: from 0° of the element's reference to axis 1 of its material

  std::vector<std::string> groups;                ///< "U1", "U1 to K4"
  List<part::PlyId, std::uint32_t> group_of;      ///< per ply
  std::vector<material::Material> materials;      ///< named after what they are made of
  std::vector<std::vector<part::PlyId>> made_of;  ///< per material: plies; one, where it is of the part

  /// Column of surface node n: levels[column[n]] .. levels[column[n + 1] - 1] are nodes, bottom to top, and
  /// between[...] the one halfway up to the next (none on top, and at nodes in the middle of edges).
  std::vector<std::uint32_t> column, levels, between;
  std::vector<Vec3> upright;  ///< per surface node: the direction of its column, of unit length along the normals
  std::vector<double> bottom, height;  ///< per surface node: of the column, along `upright` from the mesh

  std::size_t wedges = 0;    ///< solids that run out to nothing at a side or corner
  std::size_t vanished = 0;  ///< places of elements where a ply has no room at any corner
  GroupingError error;
  double volume = 0.0;         ///< of all
  double laminate_volume = 0;  ///< of the plies as they lie

  std::size_t count() const { return element.size(); }
  /// All nodes of a column, bottom to top.
  std::vector<std::uint32_t> column_of(mesh::NodeIndex node) const;
  std::span<const std::uint32_t> nodes_of(std::size_t solid) const {
    return {nodes.data() + first[solid], nodes.data() + first[solid + 1]};
  }
};

/// Findings: "solid.inverted" (error: where a solid would be turned inside out, and why), "solid.sheets" (error: three
/// sheets meet), "solid.nothing-goes-on" (error: no ply goes on over an edge), "solid.vanished", "solid.folded"
/// (warnings), "solid.made" (a note), "solid.rough" (error: groups change B or D by more than a fifth). \throws Failure with all errors.
std::shared_ptr<const Solids> extrude(const Model& model, const SolidOptions& options, Findings& findings);

/// Element e has the solids first[e] .. first[e + 1] - 1.
std::vector<std::uint32_t> first_solids(const Model& model);

/// Which part of a solid a layer is: from `low` to `high`, -1 its lower face and 1 its upper.
struct InSolid {
  static constexpr std::uint32_t none = 0xFFFFFFFFu;
  std::uint32_t solid = none;  ///< none where the layer has no room at any corner
  double low = -1.0, high = 1.0;
};
/// Of each layer on an element, bottom to top. \param begin, end the solids that stand on it
void find_in_solids(const Solids& solids, std::size_t begin, std::size_t end, std::span<const layup::LaidLayer> laid,
                    std::vector<InSolid>& out);

/// Strains seen from axes that are turned in the plane: order and shear as in SolidState.
material::Vector6 turned(const material::Vector6& strains, Angle by);

}  // namespace bordado::model

#endif
