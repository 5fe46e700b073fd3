/// \file profile.hpp
/// Sections along lines, and ramps, as drawings.
#ifndef BORDADO_REVIEW_PROFILE_HPP
#define BORDADO_REVIEW_PROFILE_HPP

#include <bordado/layup.hpp>

#include <array>
#include <optional>
#include <string>
#include <vector>

namespace bordado {
struct Design;
}

namespace bordado::review {

/// A cut through the laminate along a line over the surface.
struct Profile {
  /// A ply between two places of the line: z of its bottom and its thickness at both, straight in between.
  struct Band {
    part::PlyId ply{};
    double from = 0.0, to = 0.0;  ///< along the line
    std::array<double, 2> bottom{}, thickness{};
  };
  /// Where the line crosses the edge of a ply.
  struct Edge {
    part::PlyId ply{};
    double at = 0.0;   ///< along the line
    bool ends = true;  ///< the ply lies before it; otherwise behind
  };
  std::vector<Vec3> points;  ///< of the line, where it crosses sides of elements
  std::vector<double> at;    ///< of each, length along the line; part length
  std::vector<Band> bands;   ///< by place along the line, then bottom to top
  std::vector<Edge> edges;   ///< ascending; those of the part itself are none
  /// Where the line leaves the surface and comes back to it, along the line, straight across; ascending.
  std::vector<std::array<double, 2>> openings;
  std::size_t loops = 0;  ///< of a plane: closed cuts that are not on the line
};

/// Cuts the surface from one place to another by the plane through both that holds the mean of their normals; the
/// places are taken to the nearest of the surface. Over folds it goes as the surface does; where the plane leaves the surface
/// (an opening, a gap between pieces) it goes straight on to where it comes back. Plies end where their edges truly run, not
/// smeared over elements. \throws Failure "profile.no-way" where it does not come back, or both places are one.
Profile profile(const Design& design, const Vec3& from, const Vec3& to);
/// The whole cut of a plane: its pieces one after the other, each from where it is nearest to the last; of a closed body once
/// round. \throws Failure "profile.no-way" where it cuts nothing.
Profile profile_in_plane(const Design& design, const Vec3& point, const Vec3& normal);
/// Along a curve of the part, by its name; on a border of zones the laminate of one side. \throws Failure
/// "profile.curve-unknown".
Profile profile_along(const Design& design, std::string_view curve);

/// Bands as they are drawn: where plies end, those above come down over a short way and leave a pocket.
/// \param exaggeration of heights against lengths: the way down is drawn as long as it is high.
std::vector<Profile::Band> settled(const Profile& profile, double exaggeration);

/// A cut square across each ramp, about where half of its length lies on either side; nothing where none can be made.
List<layup::RampId, std::optional<Profile>> profiles_across(const Design& design);

}  // namespace bordado::review

#endif
