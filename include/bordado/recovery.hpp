/// \file recovery.hpp
/// From what the solver says of sections to stress in every ply, and what fails first.
#ifndef BORDADO_RECOVERY_HPP
#define BORDADO_RECOVERY_HPP

#include <bordado/fields.hpp>
#include <bordado/strength.hpp>
#include <bordado/warmth.hpp>

#include <memory>

namespace bordado {
struct Design;
}

namespace bordado::result {

/// Section forces or strains of every element from a table or a VTU file, whoever computed them.
///
/// Columns of a table (or data of cells): `element` (an id of the mesh file; cells of a VTU file lie where the part's
/// elements do), then `Nx Ny Nxy Mx My Mxy` (force per length, moment per length about the mesh) or `ex ey gxy kx ky kxy`
/// (engineering strains, curvatures), and, where known, `Qx Qy`; in the axes of each element's section. A unit may stand
/// behind a name, "Nx N/m"; without one it is the part's.
struct GivenSections {
  model::CaseFields fields;
  bool forces = true;  ///< and not strains
  bool shear = true;   ///< whether Qx and Qy are there
};
/// \throws Failure "file.*", "result.columns", "result.units", "result.decimal-comma", "result.element-unknown",
/// "result.element-missing", "result.element-twice", "result.place", "result.not-finite", those of lines all at once.
GivenSections read_sections(const Design& design, const std::string& path);

/// The same with the temperature of a case: forces are what the part carries, to which free expansion comes; strains hold it.
/// What is free to expand is held while loads are multiplied.
model::CaseFields with_temperature(GivenSections given, const Design& design, const model::Model& model,
                                   std::size_t case_index);

/// Writes a table for read_sections(), .csv: every element with where it lies and its 0°, headings with units, and noughts.
/// \throws Failure "file.*".
void write_template(const Design& design, const std::string& path);

/// Findings: "result.strain-unlikely" (a warning) where a section is strained by more than a fifth: nothing laid bears that, and
/// an answer that says so is broken, or of a part that is not held.
void check_plausible(const model::CaseFields& fields, const mesh::Surface& surface, Findings& findings);

/// What a section carries.
struct SectionResultants : laminate::Resultants {
  laminate::Vector2 Q = laminate::Vector2::Zero();  ///< transverse shear force per length
};

/// Why stresses do not hold at a place.
enum class Doubt : std::uint8_t {
  none,
  step,   ///< beside a step of thickness
  force,  ///< at a force on a single node: stress there grows without limit as elements get smaller
  held    ///< at a single node that is held: likewise
};
/// "", "beside a step", "at a point force", "at a point that is held".
std::string_view words(Doubt doubt);

/// Where and how a part fails, or comes nearest to it.
struct Critical {
  double factor = std::numeric_limits<double>::infinity();
  laminate::FailureMode mode = laminate::FailureMode::none;
  laminate::Criterion criterion = laminate::Criterion::maximum_stress;
  std::uint8_t place = 0;  ///< as in laminate::Failing
  std::uint8_t piece = 0;  ///< of an element that edges of plies cross, from the one with the most plies ended
  Doubt doubt = Doubt::none;
  part::PlyId ply{};
  mesh::ElementIndex element = 0;
  std::size_t case_index = 0;  ///< which of the cases
  bool any() const { return mode != laminate::FailureMode::none; }
  bool doubtful() const { return doubt != Doubt::none; }
};

/// The least reserve of something; doubtful places apart.
struct Least {
  Critical clear, doubtful;
  /// The less of both; where nothing fails or no strength is known, none.
  const Critical& of_both() const { return doubtful.factor < clear.factor ? doubtful : clear; }
  /// The clear one; where nothing clear fails, the doubtful one.
  const Critical& told() const { return clear.any() ? clear : doubtful; }
  /// Takes what is less.
  void take(const Critical& one);
  void take(const Least& other);
};

/// The envelope of several cases: the one place where least reserves are kept.
struct Reserves {
  std::vector<Critical> of_elements;  ///< the worst of each
  List<part::PlyId, Least> of_plies;
  std::array<Least, laminate::criterion_count> of_criteria;
  /// Of each criterion the least of all plies but the one that of_criteria has; clear places only.
  std::array<Critical, laminate::criterion_count> next_of_criteria;
  std::vector<Least> of_cases;  ///< whatever the other cases do
  std::size_t doubtful = 0;     ///< elements
  std::size_t at_points = 0;    ///< of these, those at point forces and points that are held
  std::size_t below_one = 0;    ///< clear elements that fail before the loads are all there
  /// Takes what is told of a criterion.
  void take_criterion(const Critical& one);
};

struct NamedLeast : Least {
  std::string name;
};
/// Of every material that is laid, and of every declared zone that holds an element: in the part's order, those for which
/// nothing is known, too. The one place for such tables.
std::vector<NamedLeast> least_of_materials(const Design& design, const Reserves& reserves);
std::vector<NamedLeast> least_of_zones(const Design& design, const Reserves& reserves);

/// A layer at one of its places, as it is told.
struct PlyState {
  part::PlyId ply{};
  std::size_t layer = 0;  ///< of its piece
  std::uint8_t place = 0;
  std::uint8_t piece = 0;                    ///< as in Critical
  double z = 0.0;                            ///< from the mesh
  laminate::Vector3 strain, stress;          ///< x, y, xy in the section's axes; strain whole
  laminate::Vector3 ply_strain, ply_stress;  ///< 1, 2, 12
  laminate::Vector3 ply_held;                ///< the part of the stress that is of temperature
  laminate::Vector2 ply_shear;               ///< 13, 23: by equilibrium, or as solids have it
  double ply_through = 0.0;                  ///< 33, of solids; sections have none
  laminate::Vector2 across;                  ///< xz, yz in the section's axes, of the same shear
};
/// All six components, xx, yy, zz, yz, xz, xy: in the axes of the section (x its 0 degrees, z the normal), and in those of the part.
/// zz of the section is nought where sections stand for the laminate.
std::array<double, 6> stress_in_section(const PlyState& state);
std::array<double, 6> stress_in_part(const Design& design, mesh::ElementIndex element, const PlyState& state);

/// How strain and curvature (rows) of a section change along x and y of its axes (columns), per length.
using StrainChanges = Eigen::Matrix<double, 6, 2>;

struct Known;

/// Judges answers by the plies as they lie on each element, whatever stood for them in the deck. An element that edges of
/// plies cross is judged by its true pieces: they are taken to lie in each other (the ply that covers least lies within
/// those that cover more), each carries the element's forces across the edge and has its strain along the edge, and the
/// edge runs across the steepest change of thickness.
///
/// Shear between plies is that of the stresses as they change from element to element: gradients of N and M by least squares
/// over the neighbours with the same plies, balanced so that Mx,x + Mxy,y = Qx, My,y + Mxy,x = Qy and nothing pulls at the
/// faces. Of elements that edges cross, and where no neighbour tells, Mx,x = Qx and My,y = Qy.
///
/// Where a layer runs out slowly (a chamfered core) its shear is that of the stresses as they change with N and M and with
/// the thickness: an inclined face bears a part of Q, and what it bears of N and M changes along the way.
///
/// Where the model has solids their strains are read directly. Within one (it may stand for several plies) strains in the
/// plane, stresses across it, and how both change with height are the same in all its plies; a ply that ends is judged as
/// its wedge is strained. Refers to the model and its design.
class Recovery {
 public:
  Recovery(const model::Model& model, std::vector<laminate::Criterion> criteria);

  /// Every layer of an element, bottom to top, at bottom, middle and top.
  std::vector<PlyState> at(const model::CaseFields& fields, std::size_t case_index, mesh::ElementIndex element) const;
  /// Every layer and criterion of an element, least factor first.
  std::vector<Critical> failing(const model::CaseFields& fields, std::size_t case_index,
                                mesh::ElementIndex element) const;
  /// What the section of every element carries, about the mesh, in its axes: of the strain that temperature does not make.
  /// What is below 1e-12 of the part's largest is nought: rounding of the solver and of sums.
  std::vector<SectionResultants> carried(const model::CaseFields& fields, std::size_t case_index) const;
  /// Kelvin above the stress-free temperature that all of an element's layers have in a case: nought where it is not warmed,
  /// not a number where they differ or it varies through the thickness.
  double warmed(std::size_t case_index, mesh::ElementIndex element) const;
  model::Warmth warmth(std::size_t case_index, mesh::ElementIndex element) const;
  /// How strains of every element change, from which shear between its plies follows; of what is held, too. Of an element
  /// that edges of plies cross they are those of its section by Q alone.
  std::vector<StrainChanges> changes(const model::CaseFields& fields, std::size_t case_index) const;
  /// Elements on which a layer runs out, so that shear between its plies is not that of the changes alone; ascending.
  std::vector<mesh::ElementIndex> tapered() const;
  /// The worst over all elements and cases. \param cases the fields, and which of the model's cases each is.
  Reserves reserves(std::span<const model::CaseFields> fields, std::span<const std::size_t> cases,
                    const Progress& progress = {}) const;
  /// Whether and why stresses of plies do not hold on an element.
  /// It lies nearer to a step of thickness than they do: three times the thickness on the
  /// thick side, one on the thin side, twice where the step is small. Measured with solids. Of solids only where the
  /// element is longer than half that thickness: what goes on beside a step is as wide as the laminate is thick.
  /// Of sections also where a layer runs out at more than 1 in 20 and less is left of it than of all others.
  /// Or at a force on a single node, or a single node that is held: elements on it, and those whose centre is no further than
  /// the laminate is thick.
  Doubt doubt(mesh::ElementIndex element) const;
  bool doubtful(mesh::ElementIndex element) const { return doubt(element) != Doubt::none; }
  /// The curvature of an element as it was made, x, y, xy in its section's axes; nought where no criterion asks for it.
  Vec3 curved_of(mesh::ElementIndex element) const;
  std::span<const laminate::Criterion> criteria() const;

 private:
  std::shared_ptr<const Known> known_;
};

/// What is to be known of peel, where it is asked for. Findings: "result.peel-none" (a warning) of sections, which have no stress
/// through the thickness; "result.peel-edges" (a note) of solids along the border, where that stress grows without limit.
void check_peel(const model::Model& model, std::span<const laminate::Criterion> criteria, Findings& findings);

/// What a support, or what moves nodes, puts on the part.
struct SupportForce {
  std::string name;
  bool moves = false;         ///< it is a load that prescribes displacements
  Vec3 force = Vec3::Zero();  ///< part force
  /// About the origin of the part's axes, in small displacements: from balance where it alone holds the part; else that of
  /// its forces and, where it holds rotations of a shell, of what the sections at the held sides bring. Nothing where
  /// that is not known.
  std::optional<Vec3> moment;
};
/// Of every support of the case, then of every load that moves nodes; a node of two counts for the first. Empty where the
/// solver's forces at single nodes do not tell (calculix::can_tell_reactions()) and several hold the part.
std::vector<SupportForce> forces_of_supports(const model::Model& model, const model::Model::Case& load_case,
                                             const model::CaseFields& fields, const Vec3& reaction);

}  // namespace bordado::result

#endif
