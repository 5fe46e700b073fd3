// Borders as they are traced, and what they are traced on.
#pragma once

#include "cover.hpp"

#include <bordado/mesh/divide.hpp>
#include <bordado/zone.hpp>

namespace bordado::zone {

/// A border as it was traced, with places beside each of its pieces.
struct Traced {
  Border border;
  std::vector<OnElement> within, beyond;  ///< per piece: a place just within the zone, and one just outside
  /// Per piece: elements of the surface that it is traced on, within and outside.
  std::vector<std::array<mesh::ElementIndex, 2>> on;
  /// Of elements that it runs through: the share of their area that lies inside, between straight pieces; ascending.
  std::vector<std::pair<mesh::ElementIndex, double>> shares;
};

/// The surface that borders are traced on, and its places on the mesh. Refers to what it is given.
class Tracing {
 public:
  Tracing(const mesh::Surface& surface, const List<ZoneId, Level>& levels, ZoneSets& sets)
      : surface_(surface), levels_(levels), sets_(sets) {}

  /// The surface that is traced on.
  const mesh::Surface& fine() const { return sets_.traced_on(surface_); }
  mesh::ElementIndex of_mesh(mesh::ElementIndex f) const { return sets_.divided ? sets_.divided->from[f] : f; }
  /// A place on an element of that surface.
  OnElement place(mesh::ElementIndex f, const Vec3& point) const { return place_on(surface_, of_mesh(f), point); }
  OnElement middle(mesh::ElementIndex f) const {
    return sets_.divided ? place(f, middle_of(fine(), f).point) : middle_of(surface_, f);
  }
  OnElement corner(mesh::ElementIndex f, std::size_t k) const {
    const mesh::NodeIndex n = fine().corners_of(f)[k];
    if (sets_.divided) return place(f, fine().points[n]);
    OnElement at{f, surface_.points[n], {}};
    at.corners[k] = 1.0;
    return at;
  }
  double level_at(ZoneId id, const OnElement& at) const {
    return levels_[id] ? levels_[id](at) : sets_.contains(id, at.element) ? -1.0 : 1.0;
  }

 protected:
  const mesh::Surface& surface_;
  const List<ZoneId, Level>& levels_;  ///< of zones; none where a zone means whole elements
  ZoneSets& sets_;
};

/// The area of a flat polygon, or one that is nearly that.
double area_within(std::span<const Vec3> corners);

/// Per element of the surface that is traced on, whether it is too large for a border or for an edge of a ply that is moved
/// from it; empty where none is.
std::vector<std::uint8_t> too_large(const part::Part& part, const Tracing& on, const std::map<ZoneId, Traced>& traced);

}  // namespace bordado::zone
