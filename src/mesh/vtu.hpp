// VTU and VTP files as they stand: the mesh and the arrays beside it. Reference: VTK user's guide, "VTK file formats",
// XML unstructured grid and poly data.
#pragma once

#include "builder.hpp"

namespace bordado::mesh {

/// Prefix of the cell arrays that hold the members of a group, as our writer names them.
inline constexpr std::string_view group_prefix = "group:";
inline constexpr std::string_view node_id_name = "node id", element_id_name = "element id";

struct VtuFile {
  RawMesh mesh;
  std::vector<Array> arrays;           ///< on all points or cells of the file
  std::vector<std::uint32_t> cell_of;  ///< per element of the mesh, the file's cell
};

/// \throws Failure "mesh.unreadable" or "mesh.truncated".
VtuFile parse_vtu(std::string_view bytes, const std::string& path, Findings& findings);

}  // namespace bordado::mesh
