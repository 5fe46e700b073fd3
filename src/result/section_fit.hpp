// Reading an answer into fields.
#pragma once

#include <bordado/result.hpp>

namespace bordado::result {

/// Strains of a layered shell of CalculiX at its integration points as a state of its section: the straight line over z that
/// bears the N and M that the layers of the deck bear with these strains, at each of the points in the plane, then the
/// mean of these (S8R four, S6 three). Forces balance what acts, also where the strain is no straight line: beside knots,
/// where faces on a soft core bend by themselves. Axes at each point are the reference direction laid on the surface there. Transverse forces are sums of the deck's shear stiffness times strain.
/// Refers to the model.
class SectionFit {
 public:
  SectionFit(const deck::Model& model, const deck::WriteOptions& options);
  /// Integration points of an element.
  std::size_t points(mesh::ElementIndex element) const;
  /// \param strains six for each point, as in ReadOptions; points() of them.
  SectionState operator()(mesh::ElementIndex element, std::span<const double> strains) const;
  /// Strain energy of an element whose strains are all elastic: what its layers bear times how they are strained, half of
  /// it, over the solver's own points. \param strains as above
  double energy(mesh::ElementIndex element, std::span<const double> strains) const;

 private:
  /// A point in the plane of an element: the section's axes there, and its share of the area.
  struct At {
    Vec3 r, t, normal;
    double area;
  };
  At at(mesh::ElementIndex element, std::size_t point) const;
  struct OfSection {
    std::size_t levels = 2;                ///< of points in each layer
    std::vector<double> z;                 ///< of every level, from the mesh
    std::vector<laminate::Matrix2> shear;  ///< per layer: thickness times G
    std::vector<laminate::Matrix3> bears;  ///< per level: its share of the thickness times the plane stress stiffness
    Eigen::Matrix<double, 6, 6> flexibility = Eigen::Matrix<double, 6, 6>::Zero();  ///< strain, curvature from N, M
  };
  /// Slopes of the shape functions at a point in the plane.
  struct Slopes {
    std::array<double, 8> xi{}, eta{};
  };
  const deck::Model& model_;
  List<section::SectionId, OfSection> bricks_, wedges_;  ///< of quadrilaterals and triangles
  std::array<std::array<Slopes, 4>, 2> slopes_;
};

/// An answer and its fields, read in one pass (two where what is held stands in a step of its own).
struct Whole {
  Answer answer;
  CaseFields fields;
  std::string odd = {};  ///< what of its strains is not what was asked for, of which check_whole() knows nothing
  std::optional<double> energy = {};  ///< of its strains, where they are those of shells and all elastic
  std::vector<double> energies = {};  ///< likewise, per element
  /// The element whose strains and energy belong together least, where they do not: its id, the energy of its strains, and
  /// the solver's.
  struct OddElement {
    std::int64_t id;
    double own, solver;
  };
  std::optional<OddElement> odd_element = {};
};
/// \throws Failure as read_calculix().
Whole read_whole(const deck::Model& model, std::size_t one, const std::string& dat, std::span<const deck::Mark> marks,
                 const deck::WriteOptions& options, const Progress& progress);

/// \throws Failure "result.cut" where strains are odd. Comes after check_whole(), which tells more.
void check_strains(const Whole& whole, const std::string& dat);

}  // namespace bordado::result
