/// \file book.hpp
/// The ply book: every ply and material with its numbers.
#ifndef BORDADO_REVIEW_BOOK_HPP
#define BORDADO_REVIEW_BOOK_HPP

#include <bordado/mesh/surface.hpp>
#include <bordado/part.hpp>

#include <cstddef>
#include <optional>
#include <vector>

namespace bordado {
struct Design;
}

namespace bordado::review {

/// One ply as the shop needs it. In the part's units.
struct PlyEntry {
  part::PlyId ply{};
  std::size_t elements = 0;
  double area = 0.0;                   ///< of its elements
  double thickness = 0.0;              ///< in the mean over its area where it varies
  std::optional<double> mass;          ///< nothing where the material has no density
  std::size_t pieces = 0;              ///< that share no edge: each is cut by itself
  Vec3 direction = Vec3::Zero();       ///< mean of its fibre directions over its area, sense of the larger part; unit
  Angle furthest;                      ///< largest angle of a fibre against that mean, either sense
  mesh::ElementIndex furthest_at = 0;  ///< where
  /// Sides of the rectangle along and across the mean direction that holds the ply, seen along its mean normal, and
  /// at least as large as the ply. Before draping: a ply that curves needs more.
  double along = 0.0, across = 0.0;
  std::size_t strips = 1;             ///< widths of the roll that `across` takes; 1 where the roll has no width
  std::optional<double> roll_length;  ///< along times strips, where the roll has a width
  std::optional<double> cost;         ///< by area or mass, in the material's currency
};

/// What all plies of one material come to.
struct MaterialEntry {
  part::MaterialId material{};
  std::size_t plies = 0;
  double area = 0.0;
  std::optional<double> mass = {}, roll_length = {}, cost = {};
};

struct PlyBook {
  std::vector<PlyEntry> plies;           ///< in laying order
  std::vector<MaterialEntry> materials;  ///< those in use
};

PlyBook ply_book(const Design& design);

}  // namespace bordado::review

#endif
