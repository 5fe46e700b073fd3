/// \file drapes.hpp
/// Draped plies: what is told of them, flat patterns, rolls, fields.
#ifndef BORDADO_REVIEW_DRAPES_HPP
#define BORDADO_REVIEW_DRAPES_HPP

#include <bordado/layup.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/pattern.hpp>
#include <bordado/seeds.hpp>

#include <cstddef>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace bordado {
struct Design;
}

namespace bordado::review {

/// What the shear of a ply's cloth is known to, degrees (see drape::Drape::known_to), and areas of that.
struct ShearKnown {
  double largest = 0.0, mean = 0.0;
  std::optional<mesh::ElementIndex> worst;
  double badly = 0.0;   ///< area where it is known to no more than a degree
  double beside = 0.0;  ///< area with cloth that was led past the border
};

/// What comes of draping a ply.
struct PlyDrape {
  part::PlyId ply{};
  layup::DrapeId drape{};
  std::optional<double> limit;           ///< of its material's shear, degrees
  drape::Verdict verdict;                ///< over its elements
  std::optional<ShearKnown> known = {};  ///< nothing where nobody laid it a second time
};

/// Of every draped ply, in laying order.
std::vector<PlyDrape> draped_plies(const Design& design);

/// What a search for a better seed of a draped ply begins from: how it is draped, where, and its material's limit. Of a
/// drape of pieces the one that is named, or the first. \throws Failure "drape.no-pattern" where the ply is not draped.
drape::SeedOptions seed_options(const Design& design, part::PlyId ply, std::size_t piece = 0);

/// Warp, weft, shear (degrees), what that is known to, whether the cloth was led past the border, thickness over that at
/// rest, and place in the cloth of every drape on the elements: for a VTU file. Not a number, or no vector, where its plies do not lie.
std::vector<mesh::Array> drape_fields(const Design& design);

/// The flat cloth of a draped ply, for one of the pieces of its drape.
struct PlyPattern {
  part::PlyId ply{};
  std::size_t piece = 0;  ///< in layup::Draping::pieces
  std::vector<drape::Pattern> patterns;
};

/// Of every draped ply, in laying order; strips have none. Plies end where their edges truly run.
std::vector<PlyPattern> ply_patterns(const Design& design);

/// The patterns of one material on its roll.
struct Roll {
  part::MaterialId material{};
  struct Cutting {
    std::size_t ply = 0, pattern = 0;  ///< in what was given, and there
    std::size_t lane = 0, lanes = 1;   ///< where it is broader than the roll: spliced from so many
    drape::Pattern cut;
  };
  std::vector<Cutting> pieces;
  drape::Nest nest;
};

/// Of every material with a roll-width. \param gap between pieces, part length.
std::vector<Roll> rolls(const Design& design, std::span<const PlyPattern> patterns, double gap);

}  // namespace bordado::review

#endif
