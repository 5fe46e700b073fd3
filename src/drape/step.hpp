// One step of a net: where two yarns cross next, where one yarn runs on to.
#pragma once

#include <bordado/drape.hpp>

namespace bordado::drape {

/// Where yarns cross.
struct Crossing {
  Vec3 point = Vec3::Zero(), normal = Vec3::Zero();
  Spot spot;
};
Crossing crossing_at(const SmoothSurface& surface, const Spot& spot);

/// The shortest way between two crossings along the surface, over the sides that a plane through both crosses.
struct Way {
  double length = 0.0;
  Vec3 first = Vec3::Zero(), last = Vec3::Zero();  ///< unit directions with which it leaves and arrives
  bool over_fold = false;                          ///< it crosses a sharp edge
};

/// A tangent at one normal brought to another by the least rotation: over a fold between planes, unfolded.
Vec3 carried(const Vec3& tangent, const Vec3& from, const Vec3& to);

/// Normals that lie nearer to each other than 12° (their cosine): a way between is estimated, not followed.
inline constexpr double turns_smoothly = 0.978;

/// Steps on one surface, which must outlive it.
class Stepper {
 public:
  explicit Stepper(const SmoothSurface& surface) : surface_(surface) {}

  Way way(const Crossing& from, const Crossing& to) const;
  /// The unit tangent with which the straightest way leaves.
  Vec3 tangent(const Crossing& from, const Crossing& to) const;

  /// The crossing at equal distances from a and b, away from c: the fourth corner of a cell whose others are known.
  /// \param hand +1 where c, b, (next), a run counter-clockwise seen from the normal's tip, otherwise -1.
  Stop meet(const Crossing& a, const Crossing& b, const Crossing& c, double length, double hand, Crossing& out) const;

  /// Straight on from a along a unit tangent: a geodesic, by steps that turn little. \param direction comes back as the
  /// tangent with which it arrives.
  Stop onward(const Crossing& a, Vec3& direction, double length, Crossing& out) const;

 private:
  struct Equation {
    double value;
    Vec3 gradient;
  };
  /// How far the way from one crossing to another is from a length.
  Equation distance(const Crossing& from, const Crossing& here, double length) const;
  Stop once(const Crossing& a, Vec3& direction, double length, Crossing& out) const;
  /// Length along the surface over that of the straight line, for a way that turns smoothly from one normal to another.
  static double bulge(const Vec3& chord, double length, const Vec3& from, const Vec3& to);
  Vec3 leaving(const Crossing& from, const Crossing& to) const;
  template <class Equations>
  Stop solve(Spot start, const Vec3& guess, double length, const Equations& equations, Crossing& out) const;
  /// Walks over facets to the one under a point; a place outside its element where the surface ends before.
  Spot walked(Spot spot, const Vec3& point) const;

  const SmoothSurface& surface_;
};

}  // namespace bordado::drape
