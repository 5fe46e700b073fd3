// Directions and numbers of another mesh, brought to this one.
#pragma once

#include <bordado/frame.hpp>

namespace bordado::frame {

/// What an element of the part gets from another mesh.
struct Transfer {
  std::vector<Vec3> vectors;     ///< per element, in the element's plane; zero where there is none
  std::vector<double> distance;  ///< to the place it comes from
  std::vector<double> doubt;     ///< 0 where directions there agree, 1 where they cancel out
  std::optional<double> fit;     ///< root mean square distance that is left of point pairs or the best fit
};

Transfer transfer(const part::Mapped& kind, const part::Frame& frame, const Surroundings& around, Findings& findings);
Transfer transfer(const part::GuideSurface& kind, const part::Frame& frame, const Surroundings& around,
                  Findings& findings);

/// A number per element, of the nearest place of another mesh. \throws Failure "frame.field".
std::vector<double> transfer(const part::TurnByField& turns, const part::Frame& frame, const Surroundings& around,
                             Findings& findings);

}  // namespace bordado::frame
