/// \file seeds.hpp
/// Where to lay cloth down first, and which way: seeds and directions tried.
#ifndef BORDADO_SEEDS_HPP
#define BORDADO_SEEDS_HPP

#include <bordado/base/work.hpp>
#include <bordado/drape.hpp>

namespace bordado::drape {

struct SeedOptions {
  /// As it is laid otherwise; its seed and direction are tried first. Where `seeds` is one, only directions are tried.
  Options drape = {};
  std::size_t seeds = 25;  ///< places, spread evenly over where cloth is wanted; 1 to 10,000
  std::size_t directions =
      8;  ///< per place, over 180° (90° where the rest angle is square and all yarns are alike); 1 to 360
  bool alike = false;                ///< warp and weft are alike
  std::optional<double> limit = {};  ///< of the shear, degrees
  /// Asked before each trial; true ends the search with what there is.
  std::function<bool()> stop = {};
  Progress progress = {};
};

/// One trial, by a coarse net of some twenty-five cells across.
struct Trial {
  Vec3 seed = Vec3::Zero();
  mesh::ElementIndex element = mesh::no_index;
  Vec3 direction = Vec3::Zero();  ///< of the warp there
  Angle turn;                     ///< from the direction that the search was given, carried there without turning
  double largest = 0.0;           ///< shear of any knot, degrees
  double mean = 0.0;              ///< eighth power mean over the area, 90° where the net does not come; degrees
  double past = 0.0;              ///< part of the area that is sheared past the limit
  double missing = 0.0;           ///< part of the area that it does not reach
  double waste = 0.0;             ///< part of the rectangle round the flat cloth, warp along it, that is cut away
};

/// Trials, best first: those that reach everything (but for a hundredth), then by area past the limit, by the largest
/// shear (in steps of a tenth of a degree), and by waste.
struct SeedSearch {
  std::vector<Trial> trials;
  std::size_t asked = 0;  ///< how many there would have been
  double cell = 0.0;      ///< of the nets
};
/// \throws Failure "drape.search" where a count is out of its range; as net() for the seed that is given.
SeedSearch search_seeds(const SmoothSurface& surface, const mesh::Geometry& geometry, const SeedOptions& options);

}  // namespace bordado::drape

#endif
