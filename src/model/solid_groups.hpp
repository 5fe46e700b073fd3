// What lies on the elements that solids stand on, and which plies make one solid.
#pragma once

#include <bordado/solids.hpp>

namespace bordado::model {

/// Plies and thicknesses of every element as they lie there, bottom to top, in flat arrays.
struct PliesOn {
  std::vector<std::uint32_t> first;  ///< element e has plies[first[e]] .. plies[first[e + 1] - 1]
  std::vector<part::PlyId> plies;
  std::vector<double> thicknesses;  ///< beside `plies`
  std::vector<double> heights;      ///< per element: their sum
  double volume = 0.0;

  std::span<const part::PlyId> of(mesh::ElementIndex e) const {
    return {plies.data() + first[e], plies.data() + first[e + 1]};
  }
  double thickness(mesh::ElementIndex e, std::size_t k) const { return thicknesses[first[e] + k]; }
};
PliesOn plies_on(const Model& model);

/// Per ply its group: runs of the list of plies, the same everywhere, so that solids of neighbours meet face to face.
List<part::PlyId, std::uint32_t> group_plies(const Model& model, const PliesOn& on, const SolidOptions& options);

/// "U1", "U1 to K4": the groups by the plies that lie anywhere.
std::vector<std::string> names_of_groups(const Model& model, const PliesOn& on,
                                         const List<part::PlyId, std::uint32_t>& group_of);

/// What grouping changes at most, over all sections.
GroupingError grouping_error(const Model& model, const PliesOn& on, const List<part::PlyId, std::uint32_t>& group_of);

/// Gives every solid its material and the direction of that; see Solids.
void give_materials(const Model& model, const PliesOn& on, Solids& solids);

}  // namespace bordado::model
