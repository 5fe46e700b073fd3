// Whether the forces of an answer belong together.
#pragma once

#include <bordado/calculix.hpp>

namespace bordado::calculix {

/// What the elements of shells put on all nodes together: nothing, whatever acts. Of answers some of whose sums are not
/// told it is nought.
Vec3 left_of_forces(const Answer& answer, const Model& model, const Model::Case& load_case);

/// The moment of loads and reactions on solids, which is nothing in small displacements; and what it is to be measured by.
/// Nought where beds bear, too.
struct LeftOfMoments {
  Vec3 moment = Vec3::Zero();
  double scale = 0.0;
};
LeftOfMoments left_of_moments(const Answer& answer, const Model& model, const Model::Case& load_case,
                              const model::Total& loads);

}  // namespace bordado::calculix
