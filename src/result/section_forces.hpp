// What sections carry: the one place that makes it.
#pragma once

#include <bordado/warmth.hpp>

#include <optional>
#include <vector>

namespace bordado::result {

using Carried = Eigen::Matrix<double, 6, 1>;  ///< N and M, about the mesh, in the axes of an element

/// N and M of sections of a part: stiffness times strain, less what temperature pushes. Sections are made ready as they are
/// met, so one of these serves one thread. Refers to what it is given.
class SectionForces {
 public:
  struct Section {
    std::vector<laminate::Layer> layers;
    Eigen::Matrix<double, 6, 6> stiffness;  ///< A, B, D about the mesh
  };

  SectionForces(const part::Part& part, const section::Sections& sections) : part_(part), sections_(sections) {}

  const Section& section(mesh::ElementIndex element);
  /// What would hold it back from expanding, with the sign of what pushes outwards.
  Carried pushed(mesh::ElementIndex element, const model::Warmth& heat);
  /// What it carries so deformed. \param heat what is in the strains, or nothing
  Carried operator()(mesh::ElementIndex element, const laminate::Deformation& deformed, const model::Warmth* heat);

 private:
  const part::Part& part_;
  const section::Sections& sections_;
  std::vector<std::optional<Section>> ready_;
};

/// Strain and curvature as one, and back.
inline Carried six(const laminate::Deformation& deformed) {
  return (Carried() << deformed.strain, deformed.curvature).finished();
}
inline Carried six(const laminate::Resultants& resultants) {
  return (Carried() << resultants.N, resultants.M).finished();
}

}  // namespace bordado::result
