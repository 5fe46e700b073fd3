// A part solved for real.
#pragma once

#include "support.hpp"

#include <bordado/calculix.hpp>
#include <bordado/design.hpp>

namespace test {

/// A part solved by CalculiX from the deck that the library wrote.
struct Solved {
  bordado::Design design;
  bordado::mesh::Surface nodes;  ///< as in the deck
  bordado::calculix::Answer answer;
  Vec3 reaction, load;
  bordado::Findings findings;
  /// Displacement of the node nearest to a point.
  Vec3 at(const Vec3& point) const;
};
Solved solve(const Folder& folder, const std::string& part_text, const Grid& grid,
             const bordado::calculix::SolveOptions& options = {});

}  // namespace test
