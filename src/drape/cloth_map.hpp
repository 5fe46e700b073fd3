// Places of the surface in a net: cloth coordinates and directions of yarns.
#pragma once

#include "step.hpp"

namespace bordado::drape {

/// What a net says of a place.
struct OnCloth {
  double u = 0.0, v = 0.0;  ///< cells from the seed along warp and weft
  Vec3 warp, weft;          ///< unit tangents
};

/// Refers to both, which must outlive it. Can be used by several threads.
class ClothMap {
 public:
  ClothMap(const SmoothSurface& surface, const Net& net) : surface_(surface), net_(net), step_(surface) {}

  /// \param u, v cells from the seed from where to look: a cell not far from it. Nothing where no whole cell holds it.
  std::optional<OnCloth> find(const Crossing& place, double u, double v) const;

  /// The yarns' directions at a knot, from the knots on both sides of it, as far as there are any.
  struct Yarns {
    Vec3 warp, weft;
  };
  std::optional<Yarns> yarns(int i, int j) const;

  /// The place of the surface at cloth coordinates, counted in cells; nothing where no whole cell holds them.
  std::optional<Crossing> place(double u, double v) const;

 private:
  std::optional<Vec3> direction(int i, int j, int di, int dj) const;
  OnCloth mixed(const Crossing& place, int i, int j, double s, double t, const std::array<const Knot*, 4>& corner,
                bool bent) const;

  const SmoothSurface& surface_;
  const Net& net_;
  Stepper step_;
};

/// Holds the place of each element in the cloth against its neighbours', by their distance along the yarns: a few that lie
/// on other cloth than all round them are looked for again from there, and are not reached where they are not found.
/// \returns how many lay wrong.
std::size_t mend_places(const SmoothSurface& surface, const Net& net, OnElements& on);

}  // namespace bordado::drape
