/// \file review.hpp
/// What a colleague looks at: the ply book, checks of the design, and what changed between two of them.
#ifndef BORDADO_REVIEW_HPP
#define BORDADO_REVIEW_HPP

#include <bordado/design.hpp>
#include <bordado/pattern.hpp>
#include <bordado/recovery.hpp>
#include <bordado/seeds.hpp>
#include <bordado/strength.hpp>

namespace bordado::review {

// ---------------------------------------------------------------------------------------------------------------------
// The ply book
// ---------------------------------------------------------------------------------------------------------------------

/// One ply as the shop needs it. In the part's units.
struct PlyEntry {
  part::PlyId ply{};
  std::size_t elements = 0;
  double area = 0.0;                   ///< of its elements
  double thickness = 0.0;              ///< in the mean over its area where it varies
  std::optional<double> mass;          ///< nothing where the material has no density
  std::size_t pieces = 0;              ///< that share no edge: each is cut by itself
  Vec3 direction = Vec3::Zero();       ///< mean of its fibre directions over its area, sense of the larger part; unit
  Angle furthest;                      ///< largest angle of a fibre against that mean, either sense
  mesh::ElementIndex furthest_at = 0;  ///< where
  /// Sides of the rectangle along and across the mean direction that holds the ply, seen along its mean normal, and
  /// at least as large as the ply. Before draping: a ply that curves needs more.
  double along = 0.0, across = 0.0;
  std::size_t strips = 1;             ///< widths of the roll that `across` takes; 1 where the roll has no width
  std::optional<double> roll_length;  ///< along times strips, where the roll has a width
  std::optional<double> cost;         ///< by area or mass, in the material's currency
};

/// What all plies of one material come to.
struct MaterialEntry {
  part::MaterialId material{};
  std::size_t plies = 0;
  double area = 0.0;
  std::optional<double> mass = {}, roll_length = {}, cost = {};
};

struct PlyBook {
  std::vector<PlyEntry> plies;           ///< in laying order
  std::vector<MaterialEntry> materials;  ///< those in use
};
PlyBook ply_book(const Design& design);

// ---------------------------------------------------------------------------------------------------------------------
// Checks
// ---------------------------------------------------------------------------------------------------------------------

/// What is possible but not what one would expect of a good laminate. All are warnings or notes; limits are those of
/// Part::checks. Codes: "laminate.unsymmetric", "laminate.unbalanced", "laminate.few-in-direction", "laminate.row",
/// "laminate.jump", "laminate.outer-ply", "laminate.core-outside", "layup.ends-together", "layup.ends-much",
/// "layup.smeared-misleads", "layup.narrow", "layup.edge-near", "ramp.steep", "ramp.unsymmetric", "ramp.unbalanced",
/// "ramp.neighbours", "ramp.meets", "layup.chamfer-steep", "layup.ply-pieces",
/// "layup.thick", "layup.group-off", "layup.laminate-unused", "material.no-density", "material.no-strength",
/// "material.coupling-left-out", "mesh.size-unlikely", "frame.near-degenerate", "zone.one-element", "zone.same".
void check(const Design& design, Findings& findings);

// ---------------------------------------------------------------------------------------------------------------------
// Two designs
// ---------------------------------------------------------------------------------------------------------------------

/// One difference between two parts, in words.
struct Change {
  enum class What { added, removed, moved, changed };
  What what = What::changed;
  std::string kind;  ///< "ply", "material", "zone", ...
  std::string name;
  std::string detail;  ///< "angle 45 -> -45", one for each thing that changed; empty for added and removed
};

/// A number before and after.
struct Figure {
  std::string name;
  Dimension dimension = Dimension::none;
  double before = 0.0, after = 0.0;
};

/// A zone whose laminates are not the same any more.
struct ZoneChange {
  std::string zone;
  std::string before, after;  ///< the laminate that covers most of it, as a code; "" where there is no such zone
  double area_before = 0.0, area_after = 0.0;
  double mass_before = 0.0, mass_after = 0.0;
  double thickness_before = 0.0, thickness_after = 0.0;  ///< mean over the area
  /// Mean over the area of A11 and D11 about the middle, from 0° of the element's reference.
  double A11_before = 0.0, A11_after = 0.0, D11_before = 0.0, D11_after = 0.0;
};

struct Comparison {
  std::vector<Change> changes;  ///< what is declared
  std::vector<ZoneChange> zones;
  std::vector<Figure> figures;  ///< mass, area, thickness and stiffness of the whole part; those that differ
  bool same() const { return changes.empty() && zones.empty() && figures.empty(); }
};
/// From `before` to `after`. Names are followed, not places in the file. Units and meshes may differ; figures are in
/// the units of `after`.
Comparison compare(const Design& before, const Design& after);

// ---------------------------------------------------------------------------------------------------------------------
// A part begins
// ---------------------------------------------------------------------------------------------------------------------

struct FirstPartOptions {
  std::optional<std::string> length = {};  ///< unit of the mesh; guessed from its size where it is not given
  std::optional<std::string> units = {};   ///< of the part file, "mm, t, s"; by the length unit where it is not given
  std::string mesh_as_seen = {};           ///< path of the mesh from where the part file will stand
};
/// The text of a part file that can be read as it is: the mesh with its unit, a side that agrees with it, its groups as
/// remarks with their sizes, a frame along its longest side, a material of the library and one ply.
/// Findings: "begin.length-guessed" (a warning). \throws Failure "part.units" for units that are none.
std::string first_part(const mesh::Surface& surface, const FirstPartOptions& options, Findings& findings);

// ---------------------------------------------------------------------------------------------------------------------
// Fields
// ---------------------------------------------------------------------------------------------------------------------

/// The edges of plies that have edges of their own, as lines over the surface, and of each the number of its ply, from 1.
/// For mesh::write() of lines.
struct EdgeLines {
  std::vector<mesh::Curve> lines;
  std::vector<part::PlyId> plies;
};
EdgeLines edge_lines(const Design& design);

enum class Plies { left_out, included };
/// Everything that is known of every element, with the unit in the name: numbers of section and laminate (from 1),
/// plies, thickness, bottom, mass per area, diagonal of A and of D about the middle, materials at both faces by number
/// (from 1, in Part::materials), normal, 0 degrees, zones (1 inside, 0 outside); and, where asked, the fibre direction
/// of each ply, a unit vector where it lies and nought elsewhere: made when it is written, so the design must outlive
/// the arrays. For mesh::write().
std::vector<mesh::Array> fields(const Design& design, Plies plies);

// ---------------------------------------------------------------------------------------------------------------------
// The review page
// ---------------------------------------------------------------------------------------------------------------------

/// A number for each element that the page can colour by, beside those of the design; NaN where there is none.
struct PageField {
  std::string name, unit;
  std::vector<double> values;
};
/// Values of a file brought to the elements of a design: of its element that is nearest to the centre, or between its
/// nodes there; of vectors and tensors the length. NaN where the file has no place within the element's size. Its unit
/// is what stands behind the name's last blank, where that is its only one.
std::vector<PageField> page_fields(const mesh::Sampled& file, const Design& design);

/// Cases that were solved.
struct Results {
  const Design& design;
  const deck::Model& model;
  const result::Recovery& recovery;
  std::span<const result::CaseFields> fields;
  std::span<const std::size_t> cases;  ///< in the model's cases
  const result::Reserves& reserves;
};
/// What the part does in a case, or in a mode, for the page to show it moved.
struct PageShape {
  std::string name;         ///< "broach", "hum: 51.6 1/s"
  bool mode = false;        ///< its size means nothing
  std::vector<Vec3> moved;  ///< per node of the design's surface, part length
};
/// The sections of a case, for the page to tell stresses of plies.
struct PageCase {
  std::string name;
  std::vector<result::SectionState> sections;  ///< per element
  /// Per element, of a case with temperatures: those of the tool face and the bag face and the one where materials that do
  /// not say theirs are free of stress, all times the load's factor, and the factor.
  std::vector<std::array<float, 4>> heat = {};
  /// How strain and curvature of each element change along x, then along y: six numbers each. Shear between plies follows.
  std::vector<std::array<float, 12>> changes = {};
  /// Elements of which it does not follow from these alone, ascending; and that shear, 13 and 23, at three places of each
  /// layer: of tapered[i] from first[i] on.
  std::vector<mesh::ElementIndex> tapered = {};
  std::vector<std::size_t> first = {};
  std::vector<float> shear = {};
};
/// What the solver answered, for the page.
struct PageResults {
  std::vector<PageShape> shapes;
  std::vector<PageCase> cases;          ///< static
  std::vector<std::string> case_names;  ///< that Critical::one counts
  std::vector<result::Critical> worst;  ///< places, least factor first
  std::vector<result::Critical> of_elements;
  bool solids = false;  ///< sections are planes through the strains of solids, reserves are of these
};
/// Gathers it. \param most places in the table
PageResults page_results(const Results& results, std::span<const result::CaseFields> with_modes, std::size_t most = 40);

/// One part of a page, and what was found in it. The design must outlive the call.
struct PagePart {
  const Design* design = nullptr;
  std::vector<Finding> findings = {};
  std::vector<PageField> fields = {};
  std::vector<std::array<Vec3, 2>> profiles =
      {};  ///< sections that are shown, from one place to another; see profile()
  std::optional<PageResults> results = {};
  /// Criteria of the failure envelopes that are shown of the laminates with the most area and at the worst places.
  std::vector<laminate::Criterion> envelopes = {};
};
struct PageOptions {
  /// Of each part; at least 1000. A larger mesh is drawn with nodes near each other made one, and the page says so;
  /// numbers and tables are those of the whole part.
  std::size_t most_elements = 200'000;
};
struct Page {
  std::string html;
  std::size_t program_bytes = 0;   ///< of the page without a part
  std::size_t data_bytes = 0;      ///< of everything about the parts
  std::vector<std::size_t> drawn;  ///< elements, of each part
};
/// One HTML page that needs nothing else: the part in 3D and everything declared and computed about it; or two parts
/// (or variants of one) side by side with their differences. The same input gives the same bytes.
/// \throws std::invalid_argument for no part or more than two, and for a field of another length than the mesh.
Page page(std::span<const PagePart> parts, const PageOptions& options = {}, const Progress& progress = {});

// ---------------------------------------------------------------------------------------------------------------------
// Drawings
// ---------------------------------------------------------------------------------------------------------------------

/// A stack to draw, bottom to top, first laid first.
struct StackDrawing {
  std::string title, subtitle;
  std::vector<laminate::Layer> layers;
  std::vector<std::string> plies;      ///< per layer; may be empty
  std::vector<std::string> materials;  ///< per layer
  std::vector<bool> cores;             ///< per layer: drawn as a core
  double z0 = 0.0;                     ///< bottom of the first layer, from the mesh along n
};
/// The laminate that lies on an element, exact at this element: angles of plies in other frames are not rounded as in
/// the sections.
StackDrawing stack_at(const Design& design, mesh::ElementIndex element);
/// One sheet: the stack to scale with ply, material, angle, thickness and z of every layer; stiffness against
/// direction; A, B and D with what they say in words. The ending says the format: .svg or .pdf.
/// \throws Failure "drawing.ending-unknown", "file.*".
void draw(const StackDrawing& stack, const UnitSystem& units, const std::string& path);

/// Failure envelopes of a stack in two components of its load, a curve for each criterion.
struct EnvelopeDrawing {
  std::string title, subtitle;
  std::vector<std::string> layers;    ///< their names, first laid first
  std::size_t first = 0, second = 1;  ///< components, as laminate::component_name()
  std::vector<laminate::Criterion> criteria;
  std::vector<std::vector<laminate::EnvelopePoint>> curves;  ///< beside `criteria`; as laminate::envelope()
};
/// One sheet, .svg or .pdf: the curves to scale, along each the ply and mode that decide, numbered, with a key; or the
/// points, .csv. \throws Failure as draw() of a stack.
void draw(const EnvelopeDrawing& envelopes, const UnitSystem& units, const std::string& path);

/// Stresses of every layer at one place, in one case.
struct StressProfile {
  std::string title, subtitle;
  StackDrawing stack;                    ///< what lies there
  std::vector<result::PlyState> states;  ///< bottom, middle and top of each layer
};
/// What lies on the piece of an element that the states are of.
StackDrawing stack_at(const Design& design, mesh::ElementIndex element, std::span<const result::PlyState> states);
/// One sheet: every stress component through the thickness, in ply axes, with the plies behind it. \throws Failure as
/// draw() of a stack.
void draw(const StressProfile& profile, const UnitSystem& units, const std::string& path);

/// What is written besides, or only.
struct Written {
  std::span<const result::CaseFields> modes = {};  ///< .vtu: their shapes
  std::vector<part::PlyId> plies = {};  ///< .vtu: their stresses at bottom, middle and top; .csv: no others, where any
};
/// Writes what was recovered: .csv, a line for each case, element, layer and place, with stresses and strains in ply axes
/// and in the section's; .vtu, fields for viewers: displacements, rotations, reactions, section forces, strains,
/// reserves with the ply, criterion and case that decide. Units stand in the names.
/// \throws Failure "results.ending-unknown", "file.*".
void write_results(const Results& results, const std::string& path, const Progress& progress = {},
                   const Written& written = {});

/// A cut through the laminate along a line over the surface.
struct Profile {
  /// A ply between two places of the line: z of its bottom and its thickness at both, straight in between.
  struct Band {
    part::PlyId ply{};
    double from = 0.0, to = 0.0;  ///< along the line
    std::array<double, 2> bottom{}, thickness{};
  };
  /// Where the line crosses the edge of a ply.
  struct Edge {
    part::PlyId ply{};
    double at = 0.0;   ///< along the line
    bool ends = true;  ///< the ply lies before it; otherwise behind
  };
  std::vector<Vec3> points;  ///< of the line, where it crosses sides of elements
  std::vector<double> at;    ///< of each, length along the line; part length
  std::vector<Band> bands;   ///< by place along the line, then bottom to top
  std::vector<Edge> edges;   ///< ascending
};
/// Cuts the surface from one place to another by the plane through both that holds the mean of their normals; the
/// places are taken to the nearest of the surface. Plies end where their edges truly run, not smeared over elements.
/// \throws Failure "profile.no-way" where the plane leaves the surface in between, or both places are one.
Profile profile(const Design& design, const Vec3& from, const Vec3& to);
/// Bands as they are drawn: where plies end, those above come down over a short way and leave a pocket.
/// \param exaggeration of heights against lengths: the way down is drawn as long as it is high.
std::vector<Profile::Band> settled(const Profile& profile, double exaggeration);

/// What the shear of a ply's cloth is known to, degrees (see drape::Drape::known_to), and areas of that.
struct ShearKnown {
  double largest = 0.0, mean = 0.0;
  std::optional<mesh::ElementIndex> worst;
  double badly = 0.0;   ///< area where it is known to no more than a degree
  double beside = 0.0;  ///< area with cloth that was led past the border
};
/// What comes of draping a ply.
struct PlyDrape {
  part::PlyId ply{};
  layup::DrapeId drape{};
  std::optional<double> limit;           ///< of its material's shear, degrees
  drape::Verdict verdict;                ///< over its elements
  std::optional<ShearKnown> known = {};  ///< nothing where nobody laid it a second time
};
/// Of every draped ply, in laying order.
std::vector<PlyDrape> draped_plies(const Design& design);
/// What a search for a better seed of a draped ply begins from: how it is draped, where, and its material's limit. Of a
/// drape of pieces the one that is named, or the first. \throws Failure "drape.no-pattern" where the ply is not draped.
drape::SeedOptions seed_options(const Design& design, part::PlyId ply, std::size_t piece = 0);
/// Warp, weft, shear (degrees), what that is known to, whether the cloth was led past the border, thickness over that at
/// rest, and place in the cloth of every drape on the elements: for a VTU file. Not a number, or no vector, where its plies do not lie.
std::vector<mesh::Array> drape_fields(const Design& design);

/// A cut square across each ramp, about where half of its length lies on either side; nothing where none can be made.
List<layup::RampId, std::optional<Profile>> profiles_across(const Design& design);
/// As a drawing for the shop: thickness larger than life, the end of every ply with its distance from the first.
/// \throws Failure as draw().
void draw(const Profile& profile, const Design& design, const std::string& path);
/// The cuts across all ramps, one after the other, each under the name of its ramp; on pages (.pdf), or on one long one
/// (.svg).
void draw_ramps(const Design& design, const std::string& path);

/// The flat cloth of a draped ply, for one of the pieces of its drape.
struct PlyPattern {
  part::PlyId ply{};
  std::size_t piece = 0;  ///< in layup::Draping::pieces
  std::vector<drape::Pattern> patterns;
};
/// Of every draped ply, in laying order; strips have none. Plies end where their edges truly run.
std::vector<PlyPattern> ply_patterns(const Design& design);
/// Every pattern with its name, its areas, the seed and 0°, notches where the yarns through the seed leave it, and which
/// face is seen. As .dxf (R12) at full size in millimetres: closed polylines on the layers OUTLINE and HOLE, marks on SEED,
/// ZERO, NOTCH and TEXT; as .svg at full size; as .pdf to scale, a page each, with a bar to check the scale by. \param shear
/// .svg and .pdf show it as colours. \throws Failure "drawing.ending-unknown", "drape.no-pattern", "file.*".
void draw_patterns(const Design& design, std::span<const PlyPattern> patterns, bool shear, const std::string& path);

/// The patterns of one material on its roll.
struct Roll {
  part::MaterialId material{};
  struct Piece {
    std::size_t ply = 0, pattern = 0;  ///< in what was given, and there
    std::size_t lane = 0, lanes = 1;   ///< where it is broader than the roll: spliced from so many
    drape::Pattern cut;
  };
  std::vector<Piece> pieces;
  drape::Nest nest;
};
/// Of every material with a roll-width. \param gap between pieces, part length.
std::vector<Roll> rolls(const Design& design, std::span<const PlyPattern> patterns, double gap);
/// All rolls, one below the other: .dxf, .svg at full size, .pdf to scale. \throws Failure as above.
void draw_rolls(const Design& design, std::span<const PlyPattern> patterns, std::span<const Roll> rolls,
                const std::string& path);

/// Outlines of plies, each seen square to it, its mean fibre direction to the right, all on one scale; with its
/// rectangle, area, pieces and the roll's width. Curved plies need more cloth: nothing is draped. One ply after the
/// other on as many pages as it takes (.pdf), or on one long one (.svg).
/// \throws Failure as above.
void draw_flat(const Design& design, const std::string& path);

}  // namespace bordado::review

#endif
