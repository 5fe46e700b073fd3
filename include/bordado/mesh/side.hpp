/// \file side.hpp
/// Which way the plies build up from the mesh.
#ifndef BORDADO_MESH_SIDE_HPP
#define BORDADO_MESH_SIDE_HPP

#include <bordado/base/vector.hpp>

#include <variant>

namespace bordado::mesh {

/// Which way the plies build up from the mesh.
struct AsMeshed {};  ///< keep the first element of each piece as it is

struct Towards {
  Vec3 point;
};  ///< normals point to this point, by area-weighted majority of each piece

struct AwayFrom {
  Vec3 point;
};

struct Along {
  Vec3 direction;
};

/// Out of the body that each piece encloses, or into it; every piece has to be closed.
struct Outwards {
  bool inwards = false;
};
using Side = std::variant<AsMeshed, Towards, AwayFrom, Along, Outwards>;

}  // namespace bordado::mesh

#endif
