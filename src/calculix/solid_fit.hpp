// The strains of solids as states of these, and what plies have of them.
#pragma once

#include "section_fit.hpp"

#include <bordado/fields.hpp>
#include <bordado/solids.hpp>

namespace bordado::calculix {

/// Strains of CalculiX solids at their integration points: the mean of all, and how they change with height; see model::SolidState.
/// Refers to the model, which has solids.
class SolidFit {
 public:
  /// \param cases of the deck
  SolidFit(const Model& model, std::span<const std::size_t> cases);
  /// Integration points of a solid.
  std::size_t points(std::size_t solid) const {
    return solids_.nodes_of(solid).size() == 15 ? 9 : is_full(solid) ? 27 : 8;
  }
  /// \param strains six for each point, as in ReadOptions; points() of them.
  model::SolidState operator()(std::size_t solid, std::span<const double> strains) const;
  /// Strain energy of a solid, over the solver's own points. \param strains as above
  /// \param heat what is in them of temperature, or nothing
  StrainEnergy energy(std::size_t solid, std::span<const double> strains, const model::Warmth* heat) const;
  /// Per element of the surface: the plane through the strains of all that stands on it, each by its thickness, and the sum
  /// of its shear stresses. Nought where nothing stands.
  std::vector<model::SectionState> sections(std::span<const model::SolidState> states) const;

 private:
  const Model& model_;
  bool is_full(std::size_t solid) const { return !full_.empty() && full_[solid] != 0; }
  const model::Solids& solids_;
  std::vector<std::uint8_t> full_;                  ///< per solid, or empty; see calculix::fully_integrated()
  std::vector<material::Matrix6> stiffness_;        ///< per material, in its axes
  std::vector<Eigen::Matrix<double, 2, 6>> shear_;  ///< per material: 13, 23 of its axes from strains in these
};

/// A vector for each node of the model's surface from one for each node of its solids: halfway up its column.
std::vector<Vec3> halfway_up(const Model& model, const std::vector<Vec3>& of_solids);

}  // namespace bordado::calculix
