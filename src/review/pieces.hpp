// Connected pieces of sets of elements.
#pragma once

#include <bordado/review.hpp>

namespace bordado::review {

/// Neighbours across edges, found once.
class Pieces {
 public:
  explicit Pieces(const mesh::Surface& surface);
  /// Pieces of a set of elements that share no edge.
  std::size_t count(std::span<const mesh::ElementIndex> elements) const;

 private:
  std::size_t element_count_;
  std::vector<std::uint32_t> first_;  ///< per element, into neighbours_
  std::vector<mesh::ElementIndex> neighbours_;
};

/// Pieces of every zone that a ply lies on; 0 for the others.
std::vector<std::size_t> pieces_of_zones(const Design& design);

}  // namespace bordado::review
