/// \file part.hpp
/// What a part file declares, as plain data with the place of every value; nothing computed. Keys: docs/part-file.md.
#ifndef BORDADO_PART_HPP
#define BORDADO_PART_HPP

#include <bordado/base/ids.hpp>
#include <bordado/loads.hpp>
#include <bordado/material.hpp>
#include <bordado/mesh/side.hpp>
#include <bordado/part/lay.hpp>

#include <array>
#include <variant>

namespace bordado::part {

enum class MaterialId : std::uint32_t {};  ///< in Part::materials
enum class FrameId : std::uint32_t {};     ///< in Part::frames
enum class PlyId : std::uint32_t {};       ///< in Part::plies, in laying order

/// A vector of the part file, projected on the surface, is 0°.
struct ProjectedVector {
  Vec3 vector;
};
/// 0° by an axis: along it, round it (right hand about `along`), or away from it; projected on the surface.
struct Cylindrical {
  enum class Take { axial, hoop, radial };
  Vec3 through, along;  ///< a point of the axis, and its unit direction
  Take take = Take::axial;
};
/// 0° by a centre and a pole: towards the pole (meridian), round it eastwards (parallel), or away from the centre
/// (radial).
struct Spherical {
  enum class Take { meridian, parallel, radial };
  Vec3 centre, pole;  ///< `pole` is a unit direction
  Take take = Take::meridian;
};
/// The element's side 1-2, as the mesher left it: means nothing after a new mesh.
struct AsMeshedSide {};
/// An axis of a right-handed system; x and y are square to each other (y is made so), z = x × y.
struct AxisSystem {
  Vec3 x, y;
  int take = 0;  ///< 0 x, 1 y, 2 z
};
/// 0° runs along curves, and is carried from them across the surface.
struct AlongCurves {
  std::vector<Declared<std::string>> curves;
};
/// The same on another surface that guides this one: each element takes the direction at the nearest place of it.
struct GuideSurface {
  Declared<std::string> file;  ///< path of a mesh
  double factor = 1.0;         ///< part length per length unit of the file
  std::string edge;            ///< an edge group of it
};
/// From one frame to another over a distance along the surface from something.
struct Blend {
  Declared<std::string> from, to;
  PointOrName start;
  double over = 0.0;  ///< part length
};

/// How the other mesh of a mapped frame is brought to where the part is: first turned, then moved.
struct Rigid {
  Vec3 about = Vec3::Zero(), axis = Vec3::UnitZ();
  Angle turn;
  Vec3 move = Vec3::Zero();
};
struct PointPairs {
  std::vector<std::array<Vec3, 2>> pairs;  ///< there, here; three or more
};
struct BestFit {};
/// Directions of another mesh: vectors or tensors on its nodes or cells (VTU), or a table of points (CSV).
struct Mapped {
  Declared<std::string> file;
  std::string field;    ///< an array of the VTU file; empty for CSV
  double factor = 1.0;  ///< part length per length unit of the file
  std::variant<Rigid, PointPairs, BestFit> position;
};

/// Turning that varies: by distance along the surface from something, straight between the lines of a table.
struct TurnByDistance {
  PointOrName of;
  std::vector<std::pair<double, Angle>> table;  ///< distances ascending, part length
};
/// Turning by a field of another mesh that lies where the part is: degrees on the nodes or cells of a VTU file.
struct TurnByField {
  Declared<std::string> file;
  std::string field;
  double factor = 1.0;
};

struct Frame {
  std::string name;
  std::variant<ProjectedVector, Cylindrical, Spherical, AsMeshedSide, AxisSystem, AlongCurves, GuideSurface, Blend,
               Mapped>
      kind;
  Angle turn;                    ///< the direction is turned by this about the normal
  std::optional<Vec3> fallback;  ///< used where the vector is within 5° of the normal
  Place where;
  std::variant<std::monostate, TurnByDistance, TurnByField> turns;  ///< and by this
};

/// Points in order, in part length; straight lines between them.
struct Polyline {
  std::vector<Vec3> points;
  bool closed = false;
};
/// The edges of a mesh group, or those between the points of one.
struct EdgeGroup {
  std::string group;
};
/// Edges where the surface turns by at least an angle: of the curves they make, the one nearest to a point.
struct Crease {
  Angle turn;
  Vec3 near;
};
/// The border of the surface from one point to another, the shorter way or by way of a third.
struct Border {
  Vec3 from, to;
  std::optional<Vec3> through;
};
/// The closed border nearest to a point, the whole way round.
struct Opening {
  Vec3 near;
};
/// A curve on the surface. Every edge group of the mesh is a curve of its own name.
struct Curve {
  std::string name;
  std::variant<Polyline, EdgeGroup, Crease, Border, Opening> kind;
  std::optional<Vec3> from;  ///< it begins at the end nearest to this point
  Place where;
};

struct MeshGroup {
  std::string group;
};
/// A box with sides along the axes.
struct Box {
  Vec3 low, high;  ///< part length
};
struct Ball {
  Vec3 centre;
  double radius = 0.0;  ///< part length
};
/// Within a distance of an axis without ends.
struct Cylinder {
  Vec3 through, along;  ///< `along` is a unit direction
  double radius = 0.0;  ///< part length
};
/// On the far side of a plane.
struct HalfSpace {
  Vec3 point, along;  ///< `along` is a unit direction, from the plane into the half space
};
/// Elements whose normal is within an angle of a direction.
struct Facing {
  Vec3 along;  ///< unit direction
  Angle within;
};
/// Inside a closed line seen along a direction, between two limits along it.
struct Polygon {
  std::variant<std::vector<Vec3>, Declared<std::string>> outline;  ///< corners, or a curve's name
  Vec3 along;                                                      ///< unit direction
  double low, high;                                                ///< of the coordinate along it
};
/// Within a distance along the surface of something.
struct Near {
  PointOrName of;
  double within = 0.0;  ///< part length
};
/// So many rows of elements from something, not counting it.
struct Rows {
  PointOrName of;
  int count = 0;
};
/// The connected piece of the surface that is nearest to a point.
struct HangingTogether {
  Vec3 near;
};
/// A zone made larger (by > 0) or smaller (by < 0) along the surface; smaller from the part's border, too.
struct Grown {
  Declared<std::string> zone;
  double by = 0.0;  ///< part length
};
/// Elements by their ids in the mesh file: gone after a new mesh.
struct ElementIds {
  std::vector<std::int64_t> ids;
};
struct Union {
  std::vector<Declared<std::string>> zones;
};
/// What all of them share.
struct Common {
  std::vector<Declared<std::string>> zones;
};
/// Everything that is not in it.
struct Opposite {
  Declared<std::string> zone;
};
/// The first without all the others.
struct Minus {
  Declared<std::string> from;
  std::vector<Declared<std::string>> without;
};
struct Zone {
  std::string name;
  std::variant<MeshGroup, Box, Ball, Cylinder, HalfSpace, Facing, Polygon, Near, Rows, HangingTogether, Grown,
               ElementIds, Union, Common, Opposite, Minus>
      kind;
  Place where;
  /// Of an element that is partly covered: it belongs where at least this part of its area is covered. (0, 1].
  double share = 0.5;
};

/// A thickness that varies within a ply: by distance along the surface from something, straight between the lines of a
/// table.
struct ThicknessByDistance {
  PointOrName of;
  std::vector<std::pair<double, double>> table;  ///< distance, thickness; distances ascending, in part length
};
/// The same by a field of another mesh that lies where the part is: a number on the nodes or cells of a VTU file, in
/// that file's length unit.
struct ThicknessByField {
  Declared<std::string> file;
  std::string field;
  double factor = 1.0;  ///< part length per length unit of the file
};
using VaryingThickness = std::variant<ThicknessByDistance, ThicknessByField>;

/// What an element counts for that the moved edge of a ply crosses.
enum class Covered {
  smeared,  ///< it holds the ply with the covered part of its thickness: mass is exact
  whole     ///< it holds all of it where half its area is covered and more, otherwise nothing
};
inline constexpr std::array<std::string_view, 2> covered_names = {"smeared", "whole"};

/// How the thickness of a core runs out towards the border of its zone: straight, from all of it to what is left at the
/// border.
struct Chamfer {
  std::optional<double> length;  ///< over which it does, along the surface; part length
  std::optional<Angle> angle;    ///< or the angle of its slope against the surface, in (0, 90) degrees
  double edge_thickness = 0.0;   ///< left at the border; part length
  std::optional<Declared<std::string>> fill = {};  ///< a material that makes up for what is missing
};

/// What a moved edge does where the border of its zone has a corner: outside it, or inside a re-entrant one.
enum class Corners { round, mitred };
inline constexpr std::array<std::string_view, 2> corners_names = {"round", "mitred"};

/// An edge that goes to and fro, straight from tip to tip, so that it does not end on one line: from where it is said to
/// be inwards by `depth` and back within every `pitch` along the border.
struct Scallop {
  double pitch = 0.0, depth = 0.0;  ///< part length
  friend auto operator<=>(const Scallop&, const Scallop&) = default;
};

/// How plies that name it are draped: their fibres run as cloth does that is laid down from a seed on.
struct Drape {
  std::string name;
  Vec3 seed = Vec3::Zero();            ///< a point of the surface, part length
  std::optional<Vec3> direction = {};  ///< of 0° at the seed; without it the ply's frame says
  Lay lay = Lay::straight;
  std::optional<Declared<std::string>> along = {};  ///< a curve that the warp through the seed follows
  std::optional<double> cell = {};                  ///< of the net, part length; chosen where it is left out
  std::vector<Declared<std::string>> darts = {};    ///< curves along which the cloth is cut
  std::optional<Declared<std::string>> zone = {};   ///< where it lies, of the zones of its plies; everywhere without
  /// Instead of all that: other drapes by name, each of a zone, that lie beside each other.
  std::vector<Declared<std::string>> pieces = {};
  /// Of what the cloth does, plies of it take where their fibres run and nothing else: neither the thickness nor the
  /// properties of sheared cloth.
  bool angles_only = false;
  Place where = {};
};

/// One piece of cloth.
struct Ply {
  std::string id;  ///< "H1"; plies of a code are "B.1", "B.2", ...
  Declared<std::string> material;
  std::optional<double> thickness;         ///< part length; where it is not the material's
  std::optional<VaryingThickness> varies;  ///< instead of a thickness
  Angle angle;
  Declared<std::string> frame;
  Declared<std::string> zone;
  Place where;
  std::size_t line = 0;             ///< in PlyList::lines
  std::optional<double> edge = {};  ///< its edge is moved by this against its zone, along the surface; outwards > 0
  Corners corners = Corners::round;
  std::optional<Scallop> scallop = {};
  std::optional<Chamfer> chamfer = {};
  bool fills = false;  ///< it is what Chamfer::fill asks for: as thick as the ply before it has become thinner
  std::optional<Declared<std::string>> drape = {};  ///< how it is draped; without one its fibres follow its frame
};

/// A line of the list of plies as it is written: one ply, or a run of them by a code or a laminate.
struct PlyLine {
  std::string id;
  std::optional<Declared<std::string>> material = {}, frame = {},
                                       zone = {};  ///< left out: as the leader or PlyList says
  std::optional<Angle> angle = {};
  std::optional<double> thickness = {};
  std::optional<VaryingThickness> varies = {};                    ///< instead of a thickness
  std::optional<Declared<std::string>> code = {}, laminate = {};  ///< instead of an angle
  std::optional<double> edge = {};                                ///< as Ply::edge; part length
  std::optional<Corners> corners = {};
  std::optional<Scallop> scallop = {};
  std::optional<Chamfer> chamfer = {};
  std::optional<Declared<std::string>> drape = {};
  std::optional<Declared<std::string>> follows = {};  ///< another line, for all that this one leaves out
  std::optional<Angle> turned = {};                   ///< added to the angles of the line it follows
  int repeat = 1;
  std::string group = {};  ///< plies that are switched on and off together; may be empty
  std::string note = {};
  Place where = {};
};

/// A layer of a laminate; what it leaves out comes from the line that uses the laminate.
struct LaminateLine {
  std::optional<Declared<std::string>> material = {}, frame = {};
  std::optional<Angle> angle = {};
  std::optional<double> thickness = {};
};
/// How the other half of a laminate follows from the half that is given.
enum class Mirror {
  none,
  even,  ///< all of it mirrored
  odd    ///< the last layer is the middle one and counts once
};
/// A stack that is named once and used with any material.
struct Laminate {
  std::string name;
  std::optional<Declared<std::string>> material = {}, frame = {};  ///< where neither layer nor line says one
  std::optional<Declared<std::string>> code = {};                  ///< or layers
  std::vector<LaminateLine> lines = {};
  Mirror mirror = Mirror::none;
  int repeat = 1;  ///< before it is mirrored
  Place where = {};
};

/// A way to build the part: groups of plies switched on or off.
struct Variant {
  std::string name;
  std::vector<Declared<std::string>> on = {}, off = {};
  Place where = {};
};

/// Which end of the stack the list begins with. Plies are always kept first laid first.
enum class Listed { first_laid_first, last_laid_first };

/// The list of plies as it is written.
struct PlyList {
  std::optional<Declared<std::string>> material = {}, frame = {}, zone = {};  ///< for lines that do not say
  Listed listed = Listed::first_laid_first;
  Covered edges = Covered::smeared;
  std::vector<PlyLine> lines = {};
  std::vector<Declared<std::string>> off = {};  ///< groups that are off unless a variant has them on
};

/// Which of the plies that end on a line ends first, seen from the thick zone. Inner is nearer to the middle of the
/// stack, outer nearer to its faces.
enum class EndsFirst {
  inner,
  outer,
  alternating,  ///< the innermost, the outermost, the innermost of what is left, ...
  middle        ///< from the middle one of those that end outwards
};
inline constexpr std::array<std::string_view, 4> ends_first_names = {"inner", "outer", "alternating", "middle"};

/// Where the ramp lies: in the thick zone, in the thin one, or half in each.
enum class RampSide { inside, outside, about };
inline constexpr std::array<std::string_view, 3> ramp_side_names = {"inside", "outside", "about"};

/// How plies end one after another where a thick zone meets a thin one.
struct Ramp {
  std::string name;
  std::optional<Declared<std::string>> from = {};  ///< the thick zone
  std::optional<Declared<std::string>> to = {};    ///< the thin one; without it all that is round `from`
  std::optional<double> jump = {};   ///< instead of `from`: every zone at whose border more than this thickness ends
  std::optional<double> slope = {};  ///< run per rise: a ply of thickness t takes slope * t
  std::optional<double> step = {};   ///< or every line takes this; part length
  double least_step = 0.0;           ///< part length
  EndsFirst first = EndsFirst::inner;
  std::vector<Declared<std::string>> order = {};  ///< instead: ids of plies or lines, in the order in which they end
  int together = 2;                               ///< most plies at one line
  int covers = 1;                                 ///< plies at each face of the thick stack that end after all others
  bool pairs = true;  ///< plies that mirror each other end together, and +θ with -θ, as far as `together` lets them
  RampSide side = RampSide::inside;
  Place where = {};
};

/// Limits of the checks on laminates, and those that are switched off.
struct Checks {
  std::vector<Declared<std::string>> off = {};  ///< codes of findings
  double least_share = 0.1;                     ///< of the thickness, in each of the four directions
  int most_in_a_row = 4;                        ///< plies of one angle
  Angle largest_jump = Angle::degrees(60);      ///< from ply to ply
  int most_ends = 2;                            ///< plies that end on one line
  std::optional<double> most_ended = {};        ///< thickness that ends on one line; part length
  double steepest = 10.0;                       ///< run per rise of ramps, where the material says none
  std::optional<double> edge_distance = {};     ///< least distance of ply edges from holes, borders and other ramps
};

/// Which face of the laminate lies on the mesh.
enum class Flush { bottom, middle, top };

/// The name of the zone that holds every element; always there.
inline constexpr std::string_view everything = "everything";

struct Part {
  std::string file;
  std::string name;
  UnitSystem units;
  Declared<std::string> mesh_file;      ///< as written; see mesh_path()
  double mesh_factor = 1.0;             ///< part length units per mesh file unit, with the declared scale
  std::optional<double> mesh_weld;      ///< in mesh file units; see mesh::ReadOptions
  bool mesh_includes_anywhere = false;  ///< see mesh::ReadOptions
  mesh::Side side;
  Flush flush = Flush::middle;
  double offset = 0.0;  ///< part length; the laminate is moved this far along n beyond `flush`
  std::vector<Declared<std::string>> material_files;  ///< as written: libraries of the project
  List<MaterialId, material::Material> materials;     ///< declared, then those that plies took from libraries
  List<FrameId, Frame> frames;
  std::vector<Curve> curves;
  std::vector<Zone> zones;
  PlyList list;
  std::vector<Laminate> laminates;
  std::vector<Variant> variants;
  std::vector<Ramp> ramps;
  std::vector<Drape> drapes;
  std::string variant;     ///< the one that is read; empty: none
  List<PlyId, Ply> plies;  ///< in laying order, everything written out, groups that are off left out
  Checks checks;
  std::vector<Support> supports;
  std::vector<Load> loads;
  std::vector<Mass> masses;
  std::vector<Case> cases;  ///< none: one static case of all loads

  Part();
  Part(Part&&) noexcept;
  Part(const Part&);
  Part& operator=(Part&&) noexcept;
  Part& operator=(const Part&);
  ~Part();

  /// Path of the mesh: as written when absolute, otherwise from the part file's folder.
  std::string mesh_path() const;
};

/// Over which distance a chamfered ply runs out, by its length or its angle; nothing where it has no chamfer.
std::optional<double> chamfer_length(const Part& part, PlyId ply);
/// The thickness of a chamfered ply where it is whole; of what fills one, that of the ply it fills.
double full_thickness(const Part& part, PlyId ply);

struct ReadOptions {
  /// Files of materials besides those that the part names, looked into after these: TOML or MatML.
  std::vector<std::string> libraries = {};
  std::optional<std::string> variant = {};  ///< instead of the one that the part file says
};

/// Reads and checks the form of a part file (TOML 1.0). All errors are told at once: unknown keys with the nearest
/// known one, missing keys, values of the wrong kind or unit, names that are not declared, materials that cannot be.
/// \param findings takes warnings (unlikely values) and notes.
/// \throws Failure "file.*", "part.*", "material.*", "laminate.code".
Part read(const std::string& path, Findings& findings, const ReadOptions& options = {});

/// As read(), from text in memory; `path` names the place in messages and the folder of the mesh.
Part read_text(std::string_view text, const std::string& path, Findings& findings, const ReadOptions& options = {});

/// A part file that reads back as the same part: materials by their numbers, tables of points and plies written out in
/// place. \param path where it will stand: files are named from its folder.
std::string toml_text(const Part& part, const std::string& path);
/// How a thickness that varies is written, "{ of = ..., table = ... }". \param path of the file it stands in.
std::string toml_text(const VaryingThickness& varies, const std::string& path, const UnitSystem& units);
/// How a chamfer is written, "{ length = 30.0 }".
std::string toml_text(const Chamfer& chamfer);
std::string toml_text(const Scallop& scallop);
/// Writes it. \throws Failure "file.*".
void write(const Part& part, const std::string& path);
/// The list of plies as CSV (RFC 4180), headings first: what [layup] plies = "plies.csv" reads. Values are bare.
std::string plies_csv(const Part& part);

/// What a part file may hold as JSON Schema (draft 7): the keys that the readers ask for, of the kinds that they take,
/// with the manual's words; for editors that complete and mark keys.
std::string json_schema();

/// "bottom", "middle" or "top".
std::string_view name_of(Flush flush);

}  // namespace bordado::part

#endif
