/// \file compare.hpp
/// Two designs compared.
#ifndef BORDADO_REVIEW_COMPARE_HPP
#define BORDADO_REVIEW_COMPARE_HPP

#include <bordado/base/units.hpp>

#include <string>
#include <vector>

namespace bordado {
struct Design;
}

namespace bordado::review {

/// One difference between two parts, in words.
struct Change {
  enum class What { added, removed, moved, changed };
  What what = What::changed;
  std::string kind;  ///< "ply", "material", "zone", ...
  std::string name;
  std::string detail;  ///< "angle 45 -> -45", one for each thing that changed; empty for added and removed
};

/// A number before and after.
struct Figure {
  std::string name;
  Dimension dimension = Dimension::none;
  double before = 0.0, after = 0.0;
};

/// A zone whose laminates are not the same any more.
struct ZoneChange {
  std::string zone;
  std::string before, after;  ///< the laminate that covers most of it, as a code; "" where there is no such zone
  double area_before = 0.0, area_after = 0.0;
  double mass_before = 0.0, mass_after = 0.0;
  double thickness_before = 0.0, thickness_after = 0.0;  ///< mean over the area
  /// Mean over the area of A11 and D11 about the middle, from 0° of the element's reference.
  double A11_before = 0.0, A11_after = 0.0, D11_before = 0.0, D11_after = 0.0;
};

struct Comparison {
  std::vector<Change> changes;  ///< what is declared
  std::vector<ZoneChange> zones;
  std::vector<Figure> figures;  ///< mass, area, thickness and stiffness of the whole part; those that differ
  bool same() const { return changes.empty() && zones.empty() && figures.empty(); }
};

/// From `before` to `after`. Names are followed, not places in the file. Units and meshes may differ; figures are in
/// the units of `after`.
Comparison compare(const Design& before, const Design& after);

}  // namespace bordado::review

#endif
