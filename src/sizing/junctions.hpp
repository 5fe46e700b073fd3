// Where walls of a section meet.
#ifndef BORDADO_SRC_SIZING_JUNCTIONS_HPP
#define BORDADO_SRC_SIZING_JUNCTIONS_HPP

#include <bordado/walls.hpp>

#include <utility>

namespace bordado::sizing {

/// Ends of walls that lie at the same place, to a millionth of the section's size, are one junction.
class Junctions {
 public:
  /// \throws std::invalid_argument as section_stiffness().
  explicit Junctions(std::span<const Wall> walls);
  std::size_t count() const { return places_.size(); }
  /// Junctions at the beginning and the end of a wall.
  std::pair<Eigen::Index, Eigen::Index> ends(std::size_t wall) const { return ends_[wall]; }
  /// How many walls end at a junction.
  std::size_t walls_at(Eigen::Index junction) const { return uses_[static_cast<std::size_t>(junction)]; }
  /// Closed cells.
  std::size_t cells() const { return ends_.size() + 1 - places_.size(); }

 private:
  std::vector<Vector2> places_;
  std::vector<std::size_t> uses_;
  std::vector<std::pair<Eigen::Index, Eigen::Index>> ends_;
};

}  // namespace bordado::sizing

#endif
