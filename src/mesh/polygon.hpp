// Polygons cut into triangles.
#pragma once

#include <bordado/base/vector.hpp>

#include <span>

namespace bordado::mesh {

/// A face of more corners is refused: to cut it takes time that grows with their square.
inline constexpr std::size_t most_corners = 2000;

/// Triangles of a polygon, concave or not, as positions in `corners`, each running round as the polygon does; n - 2 of
/// them, less those that stand where the one before stands. Ears are clipped in the polygon's mean plane: G. H. Meisters, American Mathematical Monthly 82 (1975) 648.
std::vector<std::array<std::size_t, 3>> cut_polygon(std::span<const Vec3> corners);

/// Whether a quadrilateral turns the same way at each corner.
bool is_convex(std::span<const Vec3> corners);

}  // namespace bordado::mesh
