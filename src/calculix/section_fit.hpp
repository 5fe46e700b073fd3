// Reading an answer into fields.
#pragma once

#include "plan.hpp"

#include <bordado/calculix.hpp>
#include <bordado/deck.hpp>
#include <bordado/fields.hpp>
#include <bordado/warmth.hpp>

namespace bordado::calculix {

/// Of an element or a solid: of its strains, less what temperature makes of them; and what that alone would be, held back.
struct StrainEnergy {
  double elastic = 0.0, held = 0.0;
};

/// Strains of a layered shell of CalculiX at its integration points as a state of its section: the straight line over z that
/// bears the N and M that the layers of the deck bear with these strains, at each of the points in the plane, then the
/// mean of these (S8R four, S6 three). Forces balance what acts, also where the strain is no straight line: beside knots,
/// where faces on a soft core bend by themselves. Axes at each point are the reference direction laid on the surface there. Transverse forces are sums of the deck's shear stiffness times strain.
/// Refers to the model.
class SectionFit {
 public:
  /// \param cases of the deck
  SectionFit(const Model& model, const deck::WriteOptions& options, std::span<const std::size_t> cases);
  /// Integration points of an element.
  std::size_t points(mesh::ElementIndex element) const { return standing_.points(element); }
  /// \param strains six for each point, as in ReadOptions; points() of them.
  model::SectionState operator()(mesh::ElementIndex element, std::span<const double> strains) const;
  /// Strain energy of an element: what its layers bear times how they are strained, half of it, over the solver's own points,
  /// squeezed through the thickness, too. \param strains as above \param heat what is in them of temperature, or nothing
  StrainEnergy energy(mesh::ElementIndex element, std::span<const double> strains, const model::Warmth* heat) const;

 private:
  /// A point in the plane of an element: the section's axes there, and its share of the area; how that grows with height.
  struct At {
    Vec3 r, t, normal;
    double area;
    std::array<double, 2> grows;  ///< times z, times its square
    double at(double z) const { return area * (1.0 + z * (grows[0] + z * grows[1])); }
  };
  At at(mesh::ElementIndex element, std::size_t point) const;
  struct OfSection {
    std::size_t levels = 2;                ///< of points in each layer
    std::vector<double> z;                 ///< of every level, from the mesh
    std::vector<laminate::Matrix2> shear;  ///< per layer: thickness times G
    std::vector<laminate::Matrix3> bears;  ///< per level: its share of the thickness times the plane stress stiffness
    std::vector<double> squeezed;          ///< per level: its share times the stiffness through the thickness
    Eigen::Matrix<double, 6, 6> flexibility = Eigen::Matrix<double, 6, 6>::Zero();  ///< strain, curvature from N, M
    /// What a level bears, in the axes of its section: stress times its share of the thickness.
    Eigen::Matrix3d borne(std::size_t level, const Eigen::Matrix3d& strain) const;
  };
  /// The axes of a section in the middle of an element, as columns: 0°, across, the normal.
  Eigen::Matrix3d axes_of(mesh::ElementIndex element) const;
  /// Slopes of the shape functions at a point in the plane.
  struct Slopes {
    std::array<double, 8> xi{}, eta{};
  };
  const Model& model_;
  bool heat_in_materials_;
  Findings unheard_;  ///< told when the deck was written
  Standing standing_;
  List<section::SectionId, OfSection> bricks_, wedges_;  ///< of quadrilaterals and triangles
  std::array<std::array<Slopes, 4>, 2> slopes_;
  std::vector<Vec3> normals_;  ///< per use of a node by an element
};

/// An answer and its fields, read in one pass (two where what is held stands in a step of its own).
struct Whole {
  Answer answer;
  model::CaseFields fields;
  std::string odd = {};  ///< what of its strains is not what was asked for, of which check_whole() knows nothing
  std::optional<StrainEnergy> energy = {};  ///< of its strains, of static cases whose strains were asked for
  std::vector<StrainEnergy> energies = {};  ///< likewise, per element or solid
  /// The element whose strains and energy belong together least, where they do not: its id, the energy of its strains, and
  /// the solver's.
  struct OddElement {
    std::int64_t id;
    double own, solver;
  };
  std::optional<OddElement> odd_element = {};
};
/// \throws Failure as read_answer().
Whole read_whole(const Model& model, std::size_t case_index, const std::string& dat, std::span<const deck::Mark> marks,
                 const deck::WriteOptions& options, const Progress& progress);

/// A mode as what the deck's steps say of it together.
struct ModeOfLoads {
  const Mode* mode;
  double value = 0.0;  ///< cycles per part time, or the factor of the loads as they are
  bool reversed = false;
};
/// Of buckling those above nought; where the solver passed over factors below one, by the step that has them. Refers to the
/// answer. \param missed whether it did.
std::vector<ModeOfLoads> modes_of(const Answer& answer, const Model& model, const Model::Case& load_case, bool& missed);

/// \throws Failure "result.cut" where strains are odd, "result.energy" where they do not hold the energy that the solver
/// says. Comes after check_whole(), which tells more.
void check_strains(const Whole& whole, const Model::Case& load_case, const std::string& dat);

}  // namespace bordado::calculix
