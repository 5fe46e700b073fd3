/// \file deck.hpp
/// The finite element model and its writers: CalculiX and bulk data.
#ifndef BORDADO_DECK_HPP
#define BORDADO_DECK_HPP

#include <bordado/section.hpp>

#include <algorithm>
#include <array>
#include <memory>
#include <variant>

namespace bordado {
struct Design;
}

namespace bordado::deck {

struct Solids;  // see solids.hpp

/// Everything a writer needs. Refers to the part, layup and sections it was assembled from: they must outlive it.
struct Model {
  const part::Part* part = nullptr;
  const layup::Layup* layup = nullptr;
  const section::Sections* sections = nullptr;
  mesh::Surface surface;    ///< linear or quadratic as the format needs, ids as written
  mesh::Geometry geometry;  ///< of the surface as it came

  /// Directions x and y of axes; z is across both.
  using Axes = std::array<Vec3, 2>;
  struct Support {
    std::string name;
    std::uint8_t held;                   ///< part::Freedom bits
    std::vector<mesh::NodeIndex> nodes;  ///< ascending
    std::vector<Axes> axes = {};         ///< per node: of what it holds; empty: the part's
  };
  /// Springs along the normal, under every element.
  struct Bed {
    std::string name;
    double stiffness;  ///< stress per length
    std::vector<mesh::ElementIndex> elements;
    std::vector<mesh::NodeIndex> nodes;  ///< ascending
    std::vector<Vec3> normals;           ///< per node
    std::vector<double> areas;           ///< per node: its share of the elements' area
  };

  struct Pressure {
    std::optional<double> along_normal;  ///< positive pushes along n; nothing where it varies
    std::vector<mesh::ElementIndex> elements;
    std::vector<double> face_ratio;      ///< per element: area of the face that is pressed over that of the mesh
    std::vector<mesh::NodeIndex> nodes;  ///< ascending
    std::vector<Vec3> forces;            ///< per node: what the pressure on that face comes to
    std::vector<double> at_nodes;        ///< along n, beside `nodes`
    bool on_tool_face = true;            ///< which face is pressed
  };
  struct Force {
    std::vector<mesh::NodeIndex> nodes;  ///< ascending
    std::vector<Vec3> forces;            ///< per node, at the node, consistent with the elements' shape functions
    std::vector<Vec3> moments = {};      ///< per node, or empty
  };
  /// Weight, or what turning brings about; the solver works it out from densities.
  struct Inertia {
    Vec3 gravity = Vec3::Zero();
    std::optional<part::Rotation> rotation = {};
    std::vector<mesh::NodeIndex> nodes;  ///< ascending
    std::vector<Vec3> forces;            ///< per node: what it comes to
  };
  struct Displacement {
    std::vector<mesh::NodeIndex> nodes;
    std::array<std::optional<double>, 6> by;
  };
  struct Temperature {
    std::vector<mesh::NodeIndex> nodes;        ///< ascending
    std::vector<double> tool, bag;             ///< per node, degrees Celsius
    std::vector<mesh::ElementIndex> elements;  ///< that it holds for
    bool through = false;                      ///< tool and bag differ
    std::optional<double> from = {};           ///< stress-free temperature of materials that say none
  };
  /// Nodes that move as one body, pushed at a point.
  struct Link {
    Vec3 at;
    std::vector<mesh::NodeIndex> nodes;
    Vec3 force, moment;
  };
  struct Load {
    std::string name;
    std::variant<Pressure, Force, Inertia, Displacement, Temperature, Link> what;
  };
  struct Case {
    std::string name;
    part::Analysis analysis = part::Analysis::linear;
    std::vector<double> factors;        ///< per load; nought: it does not act
    std::vector<std::size_t> supports;  ///< that hold
    std::vector<std::size_t> beds;      ///< that the part lies on
    int count = 6;                      ///< frequencies or factors
    bool acts(std::size_t load) const { return factors[load] != 0.0; }
    bool any_load() const {
      return std::any_of(factors.begin(), factors.end(), [](double factor) { return factor != 0.0; });
    }
  };
  std::vector<Support> supports;
  std::vector<Bed> beds;
  std::vector<Load> loads;
  std::vector<Case> cases;  ///< not empty, unless it is of the laminate only

  /// Solids that stand for the shells; nothing: shells.
  std::shared_ptr<const Solids> solids;

  /// Ids that the mesh file has, where the model's are others; empty where they are the same. Nodes that were added in
  /// the middle of edges have none.
  std::vector<std::int64_t> mesh_node_ids, mesh_element_ids;
  std::size_t mesh_node_count = 0;  ///< nodes from here on were added in the middle of edges

  Model();
  Model(Model&&) noexcept;
  Model(const Model&);
  Model& operator=(Model&&) noexcept;
  Model& operator=(const Model&);
  ~Model();
};

/// Calls with(load, factor) for every load of one kind that acts in a case.
template <class Kind, class With>
void for_each_load(const Model& model, const Model::Case& one, With with) {
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (const auto* const what = std::get_if<Kind>(&model.loads[i].what); what && one.acts(i))
      with(*what, one.factors[i]);
}

/// Whether a load of that kind acts in a case.
template <class Kind>
bool has_load(const Model& model, const Model::Case& one) {
  bool out = false;
  for_each_load<Kind>(model, one, [&](const Kind&, double) { out = true; });
  return out;
}

/// Temperatures of an element in a case, all for a load of factor one: at the tool face, at the bag face, and where a
/// material that does not say its own is free of stress. Without a temperature the factor is nought.
struct Warmth {
  double factor = 0.0, tool = 0.0, bag = 0.0, from = 0.0;
  /// Kelvin above a material's stress-free temperature, times the factor, at a share of the thickness from the tool face.
  double above(const material::Material& material, double share) const;
};
/// The mean of the element, as its nodes interpolate. Of several temperatures the last counts, as in the deck.
Warmth warmth(const Model& model, const Model::Case& one, mesh::ElementIndex element);
/// The largest pressure on either face of an element in a case, positive; the mean where it varies.
double pressure_on(const Model& model, const Model::Case& one, mesh::ElementIndex element);

/// Nodes whose forces from the elements are asked for as one sum.
struct ForceSet {
  std::string name;   ///< "FREE", "HELD_X", ..., "HELD_XYZ", "OTHER"
  std::uint8_t held;  ///< which translations supports hold at its nodes, bits as part::Freedom
  /// Whether the sum can be trusted: the solver's forces go wrong at nodes where a rotation is held and a translation
  /// is not, and where a moment acts, as it does where a force pushes beside the middle of the laminate. All these are
  /// in "OTHER", and so are nodes that are held along axes of their own or are linked.
  bool trusted;
  std::vector<mesh::NodeIndex> nodes;  ///< ascending, not empty
};
/// Every node of the model in one of these.
std::vector<ForceSet> force_sets(const Model& model, const Model::Case& one);
/// Whether the solver's force at each held node of a static case is what holds it there: no rotation is held or moved, and
/// no node of a support is in "OTHER". Of solids always.
bool can_tell_reactions(const Model& model, const Model::Case& one);

/// How plies become solids.
struct SolidOptions {
  enum class Per {
    ply,       ///< each ply is one
    material,  ///< plies of a kind that lie together (the faces, a core) are one
    count      ///< so many through the thickness at most
  };
  Per per = Per::ply;
  std::size_t most = 4;  ///< with count; 1 to 1000
  bool rough = false;    ///< also where groups change B or D by more than a fifth
};

struct AssembleOptions {
  bool quadratic = false;      ///< raise linear elements to quadratic ones
  bool laminate_only = false;  ///< keep the mesh file's ids whatever they are; leave out supports and loads
  std::optional<SolidOptions> solids = {};  ///< solids instead of shells; needs quadratic
};

/// What assemble() would say of where supports and loads act; assembles nothing.
void check_targets(const part::Part& part, const mesh::Surface& surface, const layup::Layup& layup, Findings& findings);

/// Looks up where supports and loads act and spreads forces over nodes, and puts cases together.
/// Findings: "deck.on-unknown", "deck.on-kind", "load.formula", "load.field", "load.not-finite", "load.of-unknown",
/// "load.nothing", "load.axes", "case.load-unknown", "case.support-unknown", "case.circular", "case.no-load",
/// "case.no-density", "case.no-expansion", "case.no-stress-free", "case.loose" (errors), "deck.point-far",
/// "deck.no-supports", "deck.no-loads" (warnings), "deck.renumbered", "deck.raised" (notes).
/// \throws Failure with all errors.
Model assemble(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry,
               const layup::Layup& layup, const section::Sections& sections, const AssembleOptions& options,
               Findings& findings);

/// How the layers of a section stand in a CalculiX deck.
enum class LayersAs {
  plies,       ///< each ply as itself
  equivalents  ///< three layers that have the laminate's stiffness, mass and expansion; see three_layers()
};

struct WriteOptions {
  /// CalculiX reads directions as named orientations. Elements whose axes differ by less share one. (0°, 5°].
  Angle orientation_tolerance = Angle::degrees(0.1);
  bool laminate_only = false;  ///< materials and sections only, to be included in a deck that has mesh and loads
  bool ply_results = true;     ///< ask for stress and strain in every ply; with equivalents for strains alone
  /// Without it equivalents, and plies where the laminate only is written. Where no three layers are all positive definite
  /// plies stand as themselves.
  std::optional<LayersAs> layers = {};
  std::vector<std::size_t> cases = {};  ///< which, in Model::cases; empty: all
  bool nowhere = false;                 ///< writes no file: what is told of it, and its marks, are as if it had
  /// Whether a file of that name may go that Bordado did not make.
  MayReplace may_replace = MayReplace::the_one_named;
};

/// How layers stand in a deck with these options.
inline LayersAs layers_as(const WriteOptions& options) {
  return options.layers.value_or(options.laminate_only ? LayersAs::plies : LayersAs::equivalents);
}

/// What was done about cores that a solver would make too stiff; see fit_soft_core().
struct ShearFits {
  std::size_t sections = 0;
  double voigt_over_H = 1.0;  ///< the worst of them without it
  double leftover = 0.0;      ///< the largest
};

/// A laminate as three layers in a box that need not be as thick as it is: with the A, B and D of the laminate about the
/// mesh, its transverse shear stiffness, mass and thermal forces, each to round-off. In the section's axes.
struct ThreeLayers {
  double bottom = 0.0, thickness = 0.0;  ///< of the box; bottom from the mesh along n
  std::array<double, 3> shares{};        ///< of its thickness, bottom to top
  std::array<laminate::Matrix3, 3> Q;    ///< plane stress; positive definite
  laminate::Matrix2 G;                   ///< xz, yz; of all three
  std::array<double, 3> density{};
  std::array<laminate::Vector3, 3> expansion;  ///< strain per kelvin: x, y, xy (engineering)
};
/// The division of the box for which the weakest layer is strongest: A, B and D as three moments of a stiffness that is
/// constant in each layer are three equations for each entry. \param bottom of the laminate. \returns nothing where no
/// division leaves every layer positive definite.
std::optional<ThreeLayers> three_layers(std::span<const laminate::Layer> layers, double bottom, double box_bottom,
                                        double box_thickness);

/// Mass per area and its moments through the thickness, about the middle of the box.
struct MassMoments {
  double mass = 0.0, first = 0.0, second = 0.0;
};
MassMoments mass_moments(const ThreeLayers& three);
/// Those of the laminate that they stand for. \param bottom of the laminate.
MassMoments mass_moments(std::span<const laminate::Layer> layers, double bottom, const ThreeLayers& about);

/// The solid that CalculiX makes of a section: what it takes for the laminate's place.
struct Box {
  double bottom = 0.0, thickness = 0.0;
  std::size_t layers = 0;
  std::optional<ThreeLayers> equivalents;  ///< where they stand for the plies
};
/// Thicknesses within a millionth of each other are made equal, since the solver sees a step in any
/// difference. With equivalents, laminates that vary share boxes with those up to a fifth thinner.
List<section::SectionId, Box> boxes(const Model& model, const WriteOptions& options);

/// A name of the deck and what it stands for.
struct Stands {
  std::string name;
  std::string kind;  ///< "element set", "node set", "material", "section", "step", "load", "support"
  std::string of;    ///< "zone core", "plies W1 T1", "load sea"
};

/// A sum of forces and their moment about the origin of the part's axes.
struct Total {
  Vec3 force = Vec3::Zero(), moment = Vec3::Zero();
};
/// What a load comes to, and all that act in a case, each at the face or place that it acts on.
Total total(const Model& model, const Model::Load& load);
Total total(const Model& model, const Model::Case& one);

/// A step of a deck whose answer is asked for, by the name that the answer carries: it is made of all that was written up
/// to there, so that an answer of another deck, or of this one as it was, has another.
struct Mark {
  std::size_t one = 0;  ///< in Model::cases
  std::string name;
  bool held = false;  ///< the temperature alone, of a case that has loads besides: what is not multiplied in reserves
};

/// What a writer did.
struct Written {
  std::string path;
  std::size_t bytes = 0;
  std::size_t nodes = 0, elements = 0, sections = 0, orientations = 0;
  Angle largest_orientation_error;                            ///< by sharing orientations
  std::vector<std::pair<std::string, Total>> loads = {};      ///< per case that was written
  std::vector<std::int64_t> mesh_node_ids, mesh_element_ids;  ///< as in Model
  std::optional<ShearFits> shear_fit;                         ///< where sections have a core
  std::size_t equivalent_sections = 0;                        ///< that stand as three layers
  std::size_t solids = 0;                                     ///< elements that stand for shells; `elements` are shells
  std::vector<Stands> names = {};                             ///< what stands where in the deck
  std::vector<Mark> marks = {};                               ///< in the order of its steps; CalculiX only
};

/// What a part, or a piece of it, can still do in a case though supports hold it: "the part from moving along (1, 0,
/// 0)". Nothing: it is held.
std::vector<std::string> loose(const Model& model, const Model::Case& one);

/// Per node, all forces of a case; of a link nothing.
std::vector<Vec3> nodal_loads(const Model& model, const Model::Case& one);

/// What CalculiX makes of a node on which a force acts: a column through the laminate.
struct Column {
  mesh::NodeIndex node;
  /// How far above the mesh, along n, the displacement lies that is printed: the middle of the laminate, at a knot the mean
  /// of the middles of its elements.
  double height;
  Vec3 bottom, top;  ///< its ends, part length
};
/// The columns of the forces of a case, by node; those only whose middle does not lie on the mesh.
std::vector<Column> columns_of_forces(const Model& model, const Model::Case& one, const WriteOptions& options);

/// Elements at a sharp edge (of 20° and more) whose laminate is thicker than half their shortest side, ascending:
/// raised to solids they run into each other there, and a solver may stop.
std::vector<mesh::ElementIndex> too_thick_at_edges(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                                   const section::Sections& sections);
/// The same as a warning, "deck.thick-at-edge"; nothing where there are none.
std::optional<Finding> thick_at_edge(const mesh::Surface& surface, const mesh::Geometry& geometry,
                                     const section::Sections& sections);

/// A solver format. A new one is one new file and one line in the table behind formats().
struct Format {
  std::string_view name;       ///< as the command line says it
  std::string_view title;      ///< as a person says it
  std::string_view extension;  ///< with the dot
  bool quadratic;              ///< needs quadratic elements
  bool one_analysis;           ///< a deck holds cases of one kind of analysis
  Written (*write)(const Model& model, const std::string& path, const WriteOptions& options, Findings& findings);
  std::string_view remark;  ///< what a remark begins with
  /// One material: its cards, and whether a deck has one of that name or number.
  std::string (*material)(const material::Material& material, std::int64_t id);
  bool (*has_material)(std::string_view deck, const material::Material& material, std::int64_t id);
  std::string (*material_is)(const material::Material& material, std::int64_t id);  ///< "material NAME"
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
/// Read from the text of a CalculiX or bulk data deck: offsets and thicknesses of layers of every section.
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

/// The model of a design. \throws Failure as deck::assemble().
deck::Model assemble(const Design& design, const deck::AssembleOptions& options, Findings& findings);

}  // namespace bordado

#endif
