#include <bordado/fields.hpp>

#include <algorithm>
#include <limits>

namespace bordado::model {

namespace {

/// How the unit normal at each node turns with the displacements: of the first element at the node.
std::vector<Vec3> change_of_normals(const mesh::Surface& surface, const std::vector<Vec3>& moved) {
  double largest = 0.0, shortest = std::numeric_limits<double>::infinity();
  for (const Vec3& u : moved) largest = std::max(largest, u.norm());
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
    const auto nodes = surface.nodes_of(e);
    for (std::size_t i = 1; i < nodes.size(); ++i)
      shortest = std::min(shortest, (surface.points[nodes[i]] - surface.points[nodes[i - 1]]).norm());
  }
  std::vector<Vec3> out(surface.points.size(), Vec3::Zero());
  if (!(largest > 0.0)) return out;
  // A part of the displacements so small that the normals turn in proportion to it, one way and the other.
  const double part = 1e-4 * shortest / largest;
  std::array<std::vector<Vec3>, 2> normals;
  for (const int side : {0, 1}) {
    mesh::Surface other = surface;
    for (std::size_t n = 0; n < moved.size(); ++n) other.points[n] += (side == 0 ? -part : part) * moved[n];
    normals[static_cast<std::size_t>(side)] = mesh::nodal_normals(other, mesh::geometry(other));
  }
  for (std::size_t use = surface.nodes.size(); use-- > 0;)
    out[surface.nodes[use]] = (normals[1][use] - normals[0][use]) / (2.0 * part);
  return out;
}

}  // namespace

std::vector<Vec3> rotations(const mesh::Surface& surface, const std::vector<Vec3>& displacements) {
  const std::vector<Vec3> changes = change_of_normals(surface, displacements);
  const std::vector<Vec3> normals = mesh::nodal_normals(surface, mesh::geometry(surface));
  std::vector<Vec3> out(surface.points.size(), Vec3::Zero());
  for (std::size_t use = surface.nodes.size(); use-- > 0;)
    out[surface.nodes[use]] = normals[use].cross(changes[surface.nodes[use]]);
  return out;
}

}  // namespace bordado::model
