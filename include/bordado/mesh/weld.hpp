/// \file weld.hpp
/// Points that lie at the same place.
#ifndef BORDADO_MESH_WELD_HPP
#define BORDADO_MESH_WELD_HPP

#include <bordado/base/findings.hpp>
#include <bordado/base/vector.hpp>

namespace bordado::mesh {

/// Connected sets of indices: the smaller root takes the larger, so that results do not depend on the order of joining.
class Sets {
 public:
  explicit Sets(std::size_t count);
  std::uint32_t root(std::uint32_t i) {
    while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
    return i;
  }
  void join(std::uint32_t a, std::uint32_t b) {
    a = root(a);
    b = root(b);
    parent_[std::max(a, b)] = std::min(a, b);
  }

 private:
  std::vector<std::uint32_t> parent_;
};

/// Pairs of points no further apart than `reach`, smaller index first, ascending. None where reach is not positive;
/// reach 0 is allowed and finds equal points. Points that are not finite are near nothing.
std::vector<std::array<std::uint32_t, 2>> near_pairs(std::span<const Vec3> points, double reach);

/// For each point the first point that it is welded to, itself included.
std::vector<std::uint32_t> weld(std::span<const Vec3> points, double tolerance);

struct RawMesh;
/// Welds the nodes of a mesh whose elements share none (STL) or few (OBJ): equal nodes take the first one's id, facets
/// that lose a corner or become twins of nothing fall away. Says so in `findings` ("mesh.welded").
/// \param tolerance in file units; where nothing is given, 1e-6 of the diagonal of the bounding box.
void weld(RawMesh& raw, std::optional<double> tolerance, const std::string& path, Findings& findings);

}  // namespace bordado::mesh

#endif
