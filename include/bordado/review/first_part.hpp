/// \file first_part.hpp
/// A first part file for a mesh.
#ifndef BORDADO_REVIEW_FIRST_PART_HPP
#define BORDADO_REVIEW_FIRST_PART_HPP

#include <bordado/mesh/surface.hpp>

#include <optional>
#include <string>

namespace bordado::review {

struct FirstPartOptions {
  std::optional<std::string> length = {};  ///< unit of the mesh; guessed from its size where it is not given
  std::optional<std::string> units = {};   ///< of the part file, "mm, t, s"; by the length unit where it is not given
  std::string mesh_as_seen = {};           ///< path of the mesh from where the part file will stand
};

/// The text of a part file that can be read as it is: the mesh with its unit, a side that agrees with it, its groups as
/// remarks with their sizes, a frame along its longest side, a material of the library and one ply.
/// Findings: "begin.length-guessed" (a warning). \throws Failure "part.units" for units that are none.
std::string first_part(const mesh::Surface& surface, const FirstPartOptions& options, Findings& findings);

}  // namespace bordado::review

#endif
