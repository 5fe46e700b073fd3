/// \file divide.hpp
/// Elements divided into smaller ones.
#ifndef BORDADO_MESH_DIVIDE_HPP
#define BORDADO_MESH_DIVIDE_HPP

#include <bordado/mesh/surface.hpp>

#include <cstdint>
#include <span>
#include <vector>

namespace bordado::mesh {

/// A surface of which some elements are divided. Nodes keep their numbers, new ones come behind them; middle nodes of
/// quadratic elements belong to none.
struct Divided {
  Surface surface;                   ///< linear; with the groups of the first one
  std::vector<ElementIndex> from;    ///< per element: the one of the first surface that it is a piece of
  std::vector<std::uint32_t> first;  ///< element e of the first surface became first[e] .. first[e + 1] - 1
};

/// Elements are divided into four, their neighbours into triangles round their middles, so that all hang together. Sides
/// are straight. \param which per element, whether it is divided
Divided divided(const Surface& surface, std::span<const std::uint8_t> which);

/// The same again. \param which per element of the divided surface
Divided divided(const Divided& once, std::span<const std::uint8_t> which);

}  // namespace bordado::mesh

#endif
