/// \file chains.hpp
/// Short pieces of lines put together to long ones.
#ifndef BORDADO_MESH_CHAINS_HPP
#define BORDADO_MESH_CHAINS_HPP

#include <bordado/mesh/curves.hpp>

namespace bordado::mesh {

/// Between two places: ends with the same key are one.
struct Segment {
  std::array<std::uint64_t, 2> keys;
  std::array<Vec3, 2> ends;
};

/// A line with the segments that it is made of: segment k lies between points k and k + 1.
struct Chain {
  Curve curve;
  std::vector<std::uint32_t> segments;
};
/// As far as they go without a fork; longest first.
std::vector<Chain> chains(std::span<const Segment> segments);

}  // namespace bordado::mesh

#endif
