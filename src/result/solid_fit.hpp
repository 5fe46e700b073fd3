// The strains of solids as states of these, and what plies have of them.
#pragma once

#include "section_fit.hpp"

#include <bordado/solids.hpp>

namespace bordado::result {

/// Strains of CalculiX solids at their integration points: the mean of all, and how they change with height; see SolidState.
/// Refers to the model, which has solids.
class SolidFit {
 public:
  /// \param cases of the deck
  SolidFit(const deck::Model& model, std::span<const std::size_t> cases);
  /// Integration points of a solid.
  std::size_t points(std::size_t solid) const {
    return solids_.nodes_of(solid).size() == 15 ? 9 : is_full(solid) ? 27 : 8;
  }
  /// \param strains six for each point, as in ReadOptions; points() of them.
  SolidState operator()(std::size_t solid, std::span<const double> strains) const;
  /// Strain energy of a solid, over the solver's own points. \param strains as above
  /// \param heat what is in them of temperature, or nothing
  StrainEnergy energy(std::size_t solid, std::span<const double> strains, const Warmth* heat) const;
  /// Per element of the surface: the plane through the strains of all that stands on it, each by its thickness, and the sum
  /// of its shear stresses. Nought where nothing stands.
  std::vector<SectionState> sections(std::span<const SolidState> states) const;

 private:
  const deck::Model& model_;
  bool is_full(std::size_t solid) const { return !full_.empty() && full_[solid] != 0; }
  const deck::Solids& solids_;
  std::vector<std::uint8_t> full_;                  ///< per solid, or empty; see deck::fully_integrated()
  std::vector<material::Matrix6> stiffness_;        ///< per material, in its axes
  std::vector<Eigen::Matrix<double, 2, 6>> shear_;  ///< per material: 13, 23 of its axes from strains in these
};

/// Element e has the solids first[e] .. first[e + 1] - 1.
std::vector<std::uint32_t> first_solids(const deck::Model& model);

/// Which part of a solid a layer is: from `low` to `high`, -1 its lower face and 1 its upper.
struct InSolid {
  static constexpr std::uint32_t none = 0xFFFFFFFFu;
  std::uint32_t solid = none;  ///< none where the layer has no room at any corner
  double low = -1.0, high = 1.0;
};
/// Of each layer on an element, bottom to top. \param begin, end the solids that stand on it
void find_in_solids(const deck::Solids& solids, std::size_t begin, std::size_t end,
                    std::span<const layup::LaidLayer> laid, std::vector<InSolid>& out);

/// Strains seen from axes that are turned in the plane: order and shear as in SolidState.
material::Vector6 turned(const material::Vector6& strains, Angle by);

/// A vector for each node of the model's surface from one for each node of its solids: halfway up its column.
std::vector<Vec3> halfway_up(const deck::Model& model, const std::vector<Vec3>& of_solids);

}  // namespace bordado::result
