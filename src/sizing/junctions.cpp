#include "junctions.hpp"

#include <numeric>
#include <stdexcept>

namespace bordado::sizing {

Junctions::Junctions(std::span<const Wall> walls) {
  if (walls.empty()) throw std::invalid_argument("a section has walls");
  Vector2 low = walls.front().from, high = low;
  for (const Wall& wall : walls) {
    if (!wall.from.allFinite() || !wall.to.allFinite()) throw std::invalid_argument("places of walls are numbers");
    low = low.cwiseMin(wall.from).cwiseMin(wall.to);
    high = high.cwiseMax(wall.from).cwiseMax(wall.to);
  }
  const double close = 1e-6 * (high - low).norm();
  const auto junction = [&](const Vector2& place) {
    for (std::size_t i = 0; i < places_.size(); ++i)
      if ((places_[i] - place).norm() <= close) return ++uses_[i], static_cast<Eigen::Index>(i);
    places_.push_back(place);
    uses_.push_back(1);
    return static_cast<Eigen::Index>(places_.size() - 1);
  };
  for (const Wall& wall : walls) {
    if (wall.length() <= close) throw std::invalid_argument("a wall has a length above a millionth of its section");
    const Eigen::Index from = junction(wall.from), to = junction(wall.to);
    ends_.emplace_back(from, to);
  }
  // All hang together.
  std::vector<std::size_t> group(places_.size());
  std::iota(group.begin(), group.end(), std::size_t{0});
  const auto root = [&](std::size_t i) {
    while (group[i] != i) i = group[i] = group[group[i]];
    return i;
  };
  for (const auto& [from, to] : ends_) group[root(static_cast<std::size_t>(from))] = root(static_cast<std::size_t>(to));
  for (std::size_t i = 0; i < group.size(); ++i)
    if (root(i) != root(0)) throw std::invalid_argument("walls of a section hang together: ends lie at the same place");
}

}  // namespace bordado::sizing
