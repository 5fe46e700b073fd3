// The writers behind the table of formats, and what they share.
#pragma once

#include <bordado/base/files.hpp>
#include <bordado/deck.hpp>

#include <functional>
#include <set>

namespace bordado::deck {

Written write_calculix(const Model& model, const std::string& path, const WriteOptions& options, Findings& findings);
/// How a laminate stands in a deck of somebody else's.
struct Placement {
  std::string prefix = {};                     ///< of all names of CalculiX
  std::vector<std::uint8_t> upside_down = {};  ///< per element: its nodes there run the other way round; or empty
  std::int64_t properties = 0, materials = 0;  ///< numbers of bulk data that are taken: ours begin behind them
};
/// Materials, orientations, sets and sections, written where the file stands; the file is not committed.
Written put_calculix_laminate(const Model& model, OutputFile& file, const std::string& path,
                              const WriteOptions& options, const Placement& placement, Findings& findings);
/// Elements, properties and materials.
Written put_bulk_data_laminate(const Model& model, OutputFile& file, const std::string& path,
                               const WriteOptions& options, const Placement& placement, Findings& findings);
Written write_calculix_solids(const Model& model, const std::string& path, const WriteOptions& options,
                              Findings& findings);
Written write_bulk_data_solids(const Model& model, const std::string& path, const WriteOptions& options,
                               Findings& findings);
Written write_bulk_data(const Model& model, const std::string& path, const WriteOptions& options, Findings& findings);

/// Lines for the head of every deck, without comment marks: part, units, version, what was condensed and what it cost.
std::vector<std::string> head_lines(const Model& model, std::string_view format_title, const WriteOptions& options);

/// A text in lines of at most 76 characters, broken at blanks: a comment must fit the 80 columns of a card.
std::vector<std::string> wrapped(std::string_view text);

/// Whether two cases hold the same nodes and move them alike. CalculiX crashes where supports of layered shells change
/// from step to step.
bool held_alike(const Model& model, const Model::Case& one, const Model::Case& other);
/// Whether two cases have the same stiff links: a deck has them in all its cases or in none.
bool linked_alike(const Model& model, const Model::Case& one, const Model::Case& other);
/// \throws Failure "deck.cases-apart" where they have not.
void check_linked_alike(const Model& model, const Model::Case& one, const Model::Case& other);
/// Whether a case has loads that are forces: all but temperatures and prescribed motion.
bool has_forces(const Model& model, const Model::Case& one);
/// Whether anything is held or moved in a case.
bool has_supports(const Model& model, const Model::Case& one);

/// The same constants with other stiffnesses through the thickness, along 1 and along 2; of all 21, too.
material::Elastic with_transverse_shear(const material::Elastic& elastic, double G13, double G23);

/// What a layer of a shell bears through its thickness, a stiffness: of a ply, and of any of three layers. Nothing ties it to
/// the plane there (MaterialUse). Cores are stiff: at a node that is held beside the middle one would be pressed in, which
/// no shell is.
double stiffness_through(const material::Material& material);
double stiffness_through(const ThreeLayers& three);

/// What every writer tells of itself at the end; orientations are the writer's own to fill in.
Written summary(const Model& model, const WriteOptions& options, const OutputFile& file, const std::string& path);

/// The plies of a section by their names.
std::string plies_text(const Model& model, section::SectionId section);

/// Warns of cores that run out steeply and are soft: "deck.soft-chamfer". \param surface as it came.
void report_chamfers(const Model& model, const mesh::Surface& surface, Findings& findings);

/// Letters, digits and underscores only, upper case, at most 40 characters.
std::string solver_name(std::string_view name);

/// Names made fit for a deck, each given once: those that come out as one that was given get a number.
class DeckNames {
 public:
  /// \param taken one more name that is not free. Those of our own sets (G1, S1_..., FREE, HELD_...) never are.
  explicit DeckNames(std::string taken) { used_.insert(std::move(taken)); }
  /// \param otherwise what it is called where no letter of it can stand in a deck.
  std::string fit(std::string_view name, std::string_view otherwise);

 private:
  std::set<std::string> used_;
};

/// What a material stands in. In shells of this solver the thickness must not follow the strains in the plane: where
/// thickness steps are tied it could not, and they came out 4 % too stiff. So nu13 and nu23 are nought there.
enum class MaterialUse { shell, solid };

/// *MATERIAL with nine constants (or 21), expansion and density. \param name as the deck calls it.
std::string calculix_material(const std::string& name, const material::Material& material, MaterialUse use);
/// As above, with what a layer expands by (x, y, xy in its axes; engineering) when the temperature in the deck is the
/// number of a case: 1, 2, ...
std::string calculix_heated(const std::string& name, const material::Material& material, std::span<const Vec3> by_case);
/// *EXPANSION as a table over the number of the case.
std::string expansion_by_number(std::span<const Vec3> by_case);

/// What three layers expand by, so that they push and bend as the laminate does under strains that vary through it:
/// `strain` at a height above the mesh is that of a layer, free to expand, in the section's axes.
std::array<laminate::Vector3, 3> expansions(
    const ThreeLayers& three, std::span<const laminate::Layer> layers, double bottom,
    const std::function<laminate::Vector3(std::size_t layer, double z)>& strain);

/// What the table of formats has of materials; see Format.
std::string calculix_solid_material(const material::Material& material, std::int64_t id);
std::string bulk_data_materials(const material::Material& material, std::int64_t id);
bool calculix_has_material(std::string_view deck, const material::Material& material, std::int64_t id);
bool bulk_data_has_material(std::string_view deck, const material::Material& material, std::int64_t id);
std::string calculix_material_is(const material::Material& material, std::int64_t id);
std::string bulk_data_material_is(const material::Material& material, std::int64_t id);
/// Whether a shell's card has no place for a material's transverse shear moduli: MAT2.
bool bulk_data_shears_not(const material::Material& material);
/// MAT1, MAT8 or MAT2 for shells.
std::string bulk_data_shell_material(std::int64_t id, const material::Material& material);
/// MAT9: 21 constants of a solid.
std::string bulk_data_solid_material(std::int64_t id, const material::Material& material);

}  // namespace bordado::deck
