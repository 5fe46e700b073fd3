/// \file deck.hpp
/// Decks: the formats that a model is written in, and a laminate put into a deck that exists.
#ifndef BORDADO_DECK_HPP
#define BORDADO_DECK_HPP

#include <bordado/base/replacing.hpp>
#include <bordado/model.hpp>

#include <functional>

namespace bordado {
struct Design;
namespace laminate {
enum class Criterion : std::uint8_t;
}
}  // namespace bordado

namespace bordado::deck {

using model::Model;

/// How the layers of a section stand in a deck.
enum class LayersAs {
  plies,  ///< each ply as itself
  /// What has the laminate's stiffness, mass and expansion and none of its plies. CalculiX: three layers; see
  /// calculix::three_layers(). Bulk data: a property without layers, whose stretching, bending, coupling and shear are a
  /// material each.
  equivalents
};

struct WriteOptions {
  /// CalculiX reads directions as named orientations. Elements whose axes differ by less share one. (0°, 5°].
  Angle orientation_tolerance = Angle::degrees(0.1);
  bool laminate_only = false;  ///< materials and sections only, to be included in a deck that has mesh and loads
  bool ply_results = true;     ///< ask for stress and strain in every ply; with equivalents for strains alone
  /// Without it plies in bulk data; in CalculiX decks equivalents, and plies where the laminate only is written. Where no
  /// three layers are all positive definite plies stand as themselves.
  std::optional<LayersAs> layers = {};
  std::vector<std::size_t> cases = {};  ///< which, in Model::cases; empty: all
  bool nowhere = false;                 ///< writes no file: what is told of it, and its marks, are as if it had
  /// What a solver is to judge layers by, where its format has a word for it; see Format::judges.
  std::optional<laminate::Criterion> judged_by = {};
  /// Whether a file of that name may go that Bordado did not make.
  MayReplace may_replace = MayReplace::the_one_named;
};

/// How layers stand in a CalculiX deck with these options.
inline LayersAs layers_as(const WriteOptions& options) {
  return options.layers.value_or(options.laminate_only ? LayersAs::plies : LayersAs::equivalents);
}

/// What was done about cores that a solver would make too stiff; see fit_soft_core().
struct ShearFits {
  std::size_t sections = 0;
  double voigt_over_H = 1.0;  ///< the worst of them without it
  double leftover = 0.0;      ///< the largest
};

/// A name of the deck and what it stands for.
struct Stands {
  std::string name;
  std::string kind;  ///< "element set", "node set", "material", "section", "step", "load", "support"
  std::string of;    ///< "zone core", "plies W1 T1", "load sea"
};

/// A step of a deck whose answer is asked for, by the name that the answer carries: it is made of all that was written up
/// to there, so that an answer of another deck, or of this one as it was, has another.
struct Mark {
  std::size_t case_index = 0;  ///< in Model::cases
  std::string name;
  bool held = false;  ///< the temperature alone, of a case that has loads besides: what is not multiplied in reserves
};

/// What a writer did.
struct Written {
  std::string path;
  std::size_t bytes = 0;
  std::size_t nodes = 0, elements = 0, sections = 0, orientations = 0;
  Angle largest_orientation_error;                               ///< by sharing orientations
  std::vector<std::pair<std::string, model::Total>> loads = {};  ///< per case that was written
  std::vector<std::int64_t> mesh_node_ids, mesh_element_ids;     ///< as in Model
  std::optional<ShearFits> shear_fit;                            ///< where sections have a core
  std::size_t equivalent_sections = 0;                           ///< that stand without their plies
  std::size_t solids = 0;          ///< elements that stand for shells; `elements` are shells
  std::vector<Stands> names = {};  ///< what stands where in the deck
  std::vector<Mark> marks = {};    ///< in the order of its steps; CalculiX only
};

class ExistingDeck;  // see deck/into.hpp

/// A solver format. A new one is a room that gives one of these, and a line in the table behind formats().
struct Format {
  std::string_view name;       ///< as the command line says it
  std::string_view title;      ///< as a person says it
  std::string_view extension;  ///< with the dot
  bool quadratic;              ///< needs quadratic elements
  bool one_analysis;           ///< a deck holds cases of one kind of analysis
  Written (*write)(const Model& model, const std::string& path, const WriteOptions& options, Findings& findings);
  /// Puts the laminate into a deck that exists; see write_into().
  Written (*write_into)(const ExistingDeck& existing, const Model& model, const std::string& path,
                        const WriteOptions& options, Findings& findings);
  std::string_view remark;  ///< what a remark begins with
  /// One material: its cards, and whether a deck has one of that name or number.
  std::string (*material)(const material::Material& material, std::int64_t id);
  bool (*has_material)(std::string_view deck, const material::Material& material, std::int64_t id);
  std::string (*material_is)(const material::Material& material, std::int64_t id);  ///< "material NAME"
  /// Calls with each layered shell section that the text of a deck has.
  void (*for_each_section)(std::string_view deck, const std::function<void(double bottom, double thickness)>& with);
  /// Criteria of plies that its solvers can be told to judge layers by.
  std::span<const laminate::Criterion> judges;
};
std::span<const Format> formats();
const Format* find_format(std::string_view name);

/// Cases that a format can put into one deck, in the order of its first case: those with the same stiff links, which are
/// part of a model and not of a load; and of these those that are held alike, or those of each kind of analysis.
std::vector<std::vector<std::size_t>> decks_of(const Format& format, const Model& model,
                                               std::span<const std::size_t> cases);

/// Writes what stands where in a deck, as JSON beside it: "skiff.inp" gets "skiff-inp-names.json". Returns the path.
/// \throws Failure "file.*".
std::string write_names(const Written& written, const Model& model, MayReplace may_replace);

/// Writes a deck that exists again: the sections of the shells of the model's surface are replaced by the laminate's,
/// and everything else is kept byte for byte. Bulk data: properties of those shells go, and their elements are written
/// again with property and material angle. CalculiX: section cards of those shells go; a card that holds other shells,
/// too, keeps them. \param model of the laminate only, on the mesh of that deck.
/// Findings: "into.replaced", "into.places-unknown". \throws Failure "into.no-section", "into.element-missing",
/// "into.nodes-differ", "into.nodes-moved", "into.other-units", "into.upside-down", "into.type", "into.include", "file.*".
Written write_into(const Format& format, const Model& model, const std::string& existing, const std::string& path,
                   const WriteOptions& options, Findings& findings);

/// Where one face of the laminate lies by what a deck says, above the mesh along n, over all its shell sections.
struct FlushFace {
  std::size_t sections = 0;
  double lowest = 0.0, highest = 0.0;
};
/// Read from the text of a deck of any format: offsets and thicknesses of layers of every section.
/// \param face bottom, middle or top. Nothing where the text has no layered shell section.
std::optional<FlushFace> flush_face(std::string_view deck, part::Flush face);

/// One material as a solver's, below a comment that says what it is made of: for CalculiX nine constants (or all 21),
/// expansion and density under its name; for bulk data a shell material with number `id` and a solid one, MAT9, with
/// the next. \param format "calculix" or "bulk-data". \param remarks more lines of the comment.
/// \throws Failure "deck.format-unknown".
std::string material_text(const material::Material& material, const UnitSystem& units, std::string_view format,
                          std::int64_t id, std::span<const std::string> remarks = {});

/// Writes material_text() to a file, or adds it to one.
/// \throws Failure "deck.material-taken" where the file has that name or number already; "file.*"; as material_text().
void write_material(const std::string& path, const material::Material& material, const UnitSystem& units,
                    std::string_view format, std::int64_t id, std::span<const std::string> remarks, Existing existing);

/// The transverse shear moduli that faces get where a solver adds up G t over the layers and so makes a soft core too
/// stiff: with them the sum is the energy-consistent H of laminate::transverse_shear().
struct ShearFit {
  std::vector<double> G13, G23;  ///< per layer; core layers keep theirs
  double voigt_over_H = 1.0;     ///< how much too stiff the plain sum is, largest of xz and yz
  double leftover = 0.0;         ///< relative part of H that the fit cannot give, |H - sum| / |H|
};
/// Nothing where the stack has no core.
std::optional<ShearFit> fit_soft_core(const part::Part& part, const section::Sections& sections,
                                      section::SectionId section);

}  // namespace bordado::deck

namespace bordado {

/// Assembles the model and writes one deck. \param format "calculix" or "bulk-data".
/// \throws Failure "deck.format-unknown", and as assemble() and the writer.
deck::Written write_deck(const Design& design, std::string_view format, const std::string& path,
                         const deck::WriteOptions& options, Findings& findings);

}  // namespace bordado

#endif
