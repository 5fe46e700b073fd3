/// \file mesh.hpp
/// The surface of the part: nodes, shell elements, named groups; which side is which; how big it is.
#ifndef BORDADO_MESH_HPP
#define BORDADO_MESH_HPP

#include <bordado/base.hpp>

#include <array>
#include <functional>
#include <limits>
#include <memory>
#include <variant>

namespace bordado::mesh {

/// Position of an element in the arrays of a Surface, from 0. The id that the mesh file uses is Surface::element_ids.
using ElementIndex = std::uint32_t;
using NodeIndex = std::uint32_t;
inline constexpr std::uint32_t no_index = 0xffffffffu;

/// Node order: corners counter-clockwise seen from the normal's tip, then the middle of edge 1-2, 2-3, ...
///
///     triangle6   3            quadrilateral8   4---7---3
///                 | \                           |       |
///                 6   5                         8       6
///                 |     \                       |       |
///                 1---4---2                     1---5---2
enum class Shape : std::uint8_t { triangle3, quadrilateral4, triangle6, quadrilateral8 };

constexpr unsigned corner_count(Shape shape) { return shape == Shape::triangle3 || shape == Shape::triangle6 ? 3 : 4; }
constexpr bool is_quadratic(Shape shape) { return shape == Shape::triangle6 || shape == Shape::quadrilateral8; }
constexpr unsigned node_count(Shape shape) { return corner_count(shape) * (is_quadratic(shape) ? 2 : 1); }

/// An edge between two corner nodes; `middle` is no_index on a linear mesh.
struct Edge {
  NodeIndex first, second, middle = no_index;
};

/// A named group of the mesh file (a physical group): points, curves or surfaces.
struct Group {
  std::string name;
  int dimension = 2;                   ///< 0 points, 1 edges, 2 elements
  std::vector<NodeIndex> points;       ///< dimension 0
  std::vector<Edge> edges;             ///< dimension 1
  std::vector<ElementIndex> elements;  ///< dimension 2, ascending
};

/// The meshed surface. Coordinates are in the part's length unit.
struct Surface {
  std::string file;                       ///< where it was read
  std::vector<Vec3> points;               ///< per node
  std::vector<std::int64_t> node_ids;     ///< per node, as in the file
  std::vector<Shape> shapes;              ///< per element
  std::vector<std::uint32_t> first;       ///< element e has nodes[first[e]] .. nodes[first[e + 1] - 1]
  std::vector<NodeIndex> nodes;           ///< node order as Shape says
  std::vector<std::int64_t> element_ids;  ///< per element, as in the file
  std::vector<Group> groups;              ///< in the file's order
  /// Elements that orient() turned round, as 1; empty where it turned none. Their corners 1 and 2 have changed places:
  /// side 1-2 is the same side, run the other way.
  std::vector<std::uint8_t> turned;

  std::size_t element_count() const { return shapes.size(); }
  std::span<const NodeIndex> nodes_of(ElementIndex element) const {
    return {nodes.data() + first[element], nodes.data() + first[element + 1]};
  }
  std::span<const NodeIndex> corners_of(ElementIndex element) const {
    return nodes_of(element).first(corner_count(shapes[element]));
  }
  /// The group of that name (of that dimension where one is asked for), or nullptr.
  const Group* group(std::string_view name, std::optional<int> dimension = {}) const;
  /// A place that names the element by its id.
  Place place_of(ElementIndex element) const { return {file, {}, {}, element_ids[element]}; }
};

/// How file coordinates become part coordinates: one factor, applied once on reading.
struct ReadOptions {
  double factor = 1.0;  ///< part length units in one file length unit, times the declared scale
  /// STL and OBJ: points no further apart than this, in file units, are one; 1e-6 of the mesh's diagonal where not
  /// given.
  std::optional<double> weld = std::nullopt;
  /// Decks may include files of other folders than their own; otherwise that is refused.
  bool includes_anywhere = false;
};

/// Reads a mesh file; the format is recognised by its content: Gmsh MSH 1 to 4.1 (ASCII and binary), VTU and VTP (ASCII,
/// inline and appended, zlib), legacy VTK, CalculiX keywords, bulk data (small, large and free field), STL, OBJ, PLY, OFF.
/// Nodes that no element uses are dropped; solid elements are passed over; both are noted in `findings`.
/// \throws Failure with codes "file.*" or "mesh.*": truncated, not finite, an id twice, a node that does not exist, ...
Surface read(const std::string& path, const ReadOptions& options, Findings& findings);

/// As read(), from bytes in memory; `path` is used in messages only.
Surface read_bytes(std::string_view bytes, const std::string& path, const ReadOptions& options, Findings& findings);

/// Values on the nodes or on the elements of a surface, `components` for each, one after the other.
struct Array {
  std::string name;
  bool on_nodes = false;
  std::size_t components = 1;
  std::vector<double> values;
  /// Makes the values when they are wanted, instead of `values`: many large arrays need not stand side by side.
  std::function<std::vector<double>()> make = {};

  std::vector<double> now() const { return make ? make() : values; }
};

/// A mesh with the values that its file (VTU) holds.
struct Sampled {
  Surface surface;
  std::vector<Array> arrays;
};
/// \throws Failure as read(), and "mesh.format-unknown" where the file is no VTU file.
Sampled read_sampled(const std::string& path, const ReadOptions& options, Findings& findings);

/// Writes the surface with its ids and groups; the ending says the format: .vtu (with the arrays) or .msh (without).
/// The file is written whole or not at all. \throws Failure "mesh.ending-unknown", "file.*".
void write(const Surface& surface, const std::string& path, std::span<const Array> arrays = {});

struct Curve;
/// Lines as a VTU file, each a poly-line, with the arrays, one value for each line. \throws Failure as above.
void write(std::span<const Curve> lines, const std::string& path, std::span<const Array> arrays = {});

/// Position, normal and size of every element.
struct Geometry {
  std::vector<Vec3> centres;  ///< area-weighted centroid
  std::vector<Vec3> normals;  ///< unit; for a quadrilateral the cross product of its diagonals; zero where the area is
  std::vector<double> areas;  ///< of the curved or warped face, by Gauss integration
};
Geometry geometry(const Surface& surface);

/// The integral of each node's shape function over an element: how a load spread evenly over it reaches its nodes.
/// Entries beyond the element's node count are zero.
std::array<double, 8> nodal_areas(const Surface& surface, ElementIndex element);

/// A face of a shell above an element.
struct FaceVectors {
  std::array<Vec3, 8> shares;  ///< the integral of N n dA per node: how a pressure of one along n reaches it
  double over_mesh = 1.0;      ///< area of the face over that of the mesh, both seen along their mean normals
};
/// \param height of the face above the mesh along the normals at the nodes: on a curved part it is larger or smaller
/// than the mesh. \param normals one unit vector for each node of the element. \param pressure one for each node of the
/// element, in between by its shape functions; left out: one everywhere.
FaceVectors nodal_face_vectors(const Surface& surface, ElementIndex element, std::span<const Vec3> normals,
                               double height, std::span<const double> pressure = {});

/// The unit normals at the nodes of every element, in the order of Surface::nodes: those of the elements at the node
/// averaged, without those that stand at 20 degrees and more to the element's own.
std::vector<Vec3> nodal_normals(const Surface& surface, const Geometry& geometry);

/// How a load spread evenly over the edge's length reaches first, second and middle; the last is nought where there is
/// none. They add up to the length of the (curved) edge.
std::array<double, 3> nodal_lengths(const Surface& surface, const Edge& edge);

/// Edges between elements, as arrays sorted by node pair: use k of 0..size() is one side of one element.
/// Uses of the same edge stand next to each other; edge j has uses first[j] .. first[j + 1] - 1.
struct EdgeTable {
  struct Use {
    ElementIndex element;
    std::uint8_t side;  ///< side i runs from corner i to corner i + 1
    bool forward;       ///< runs from the smaller to the larger node index
  };
  std::vector<Use> uses;
  std::vector<std::uint32_t> first;             ///< edge_count + 1
  std::vector<std::array<NodeIndex, 2>> nodes;  ///< smaller index first
  std::size_t size() const { return nodes.size(); }
};
EdgeTable edges(const Surface& surface);

/// The longest side of any element, corner to corner; nought without elements.
double longest_edge(const Surface& surface);

/// Elements at every node, corner nodes only: node n has elements[first[n]] .. elements[first[n + 1] - 1], ascending.
struct NodeTable {
  std::vector<std::uint32_t> first;
  std::vector<ElementIndex> elements;
  std::span<const ElementIndex> of(NodeIndex node) const {
    return {elements.data() + first[node], elements.data() + first[node + 1]};
  }
};
NodeTable elements_at_nodes(const Surface& surface);

/// A surface of which some elements are divided. Nodes keep their numbers, new ones come behind them; middle nodes of
/// quadratic elements belong to none.
struct Divided {
  Surface surface;                   ///< linear; with the groups of the first one
  std::vector<ElementIndex> from;    ///< per element: the one of the first surface that it is a piece of
  std::vector<std::uint32_t> first;  ///< element e of the first surface became first[e] .. first[e + 1] - 1
};
/// Elements are divided into four, their neighbours into triangles round their middles, so that all hang together. Sides
/// are straight. \param which per element, whether it is divided
Divided divided(const Surface& surface, std::span<const std::uint8_t> which);
/// The same again. \param which per element of the divided surface
Divided divided(const Divided& once, std::span<const std::uint8_t> which);

/// Finds the nearest place on a surface. Refers to the surface, which must outlive it.
class Locator {
 public:
  explicit Locator(const Surface& of);
  ~Locator();
  Locator(Locator&&) noexcept;

  struct Found {
    ElementIndex element = no_index;
    Vec3 point = Vec3::Zero();        ///< the nearest place
    double distance = 0.0;            ///< to it
    std::array<double, 8> weights{};  ///< of the element's nodes there: its shape functions
  };
  /// The nearest place of the (curved) surface; where several are as near, in the element that comes first.
  Found nearest(const Vec3& point) const;

 private:
  struct Tree;
  std::unique_ptr<Tree> tree_;
};

/// One number for each point, of the nearest place of another mesh; not a number where it has none there.
/// \param array of that mesh, with one component.
std::vector<double> values_at(const Sampled& sampled, const Array& array, std::span<const Vec3> points);

/// A curve on or near the surface: straight lines from point to point; a closed one ends where it begins, and its first
/// point is not repeated.
struct Curve {
  std::vector<Vec3> points;
  std::vector<NodeIndex> nodes;  ///< one per point where it runs along edges of the mesh; otherwise empty
  bool closed = false;
};
double length(const Curve& curve);

/// Pairs of corner nodes, smaller index first, ascending: sides of one element only; edges where the surface turns by
/// at least an angle (seen from whichever side); edges between points of a group.
using NodePairs = std::vector<std::array<NodeIndex, 2>>;
NodePairs free_edges(const Surface& surface);
NodePairs creases(const Surface& surface, const Geometry& geometry, Angle turn);
NodePairs edges_among(const Surface& surface, std::span<const NodeIndex> nodes);

/// Edges put together to curves, as far as they go without a fork; longest first. A curve begins at the end that comes
/// first by x, then y, then z, whatever the numbers of the nodes.
std::vector<Curve> curves_of(const Surface& surface, const NodePairs& edges);

/// The shortest way along the given edges from the node of them nearest to one point to the one nearest to another, by
/// way of a third where it is given; nothing where they do not hang together.
std::optional<Curve> way_along(const Surface& surface, const NodePairs& edges, const Vec3& from, const Vec3& to,
                               const std::optional<Vec3>& through = {});

/// The lines where a level, given at the nodes and straight in between (quadrilaterals as four triangles round their
/// middle), passes through nought; put together as far as they go, longest first. Not a number: no line there.
std::vector<Curve> level_lines(const Surface& surface, std::span<const double> level);

/// What distance is measured from.
struct Sources {
  std::vector<NodeIndex> nodes = {};
  std::vector<Curve> curves = {};  ///< along edges of the mesh, or anywhere on the surface
  std::vector<Vec3> points = {};   ///< anywhere on the surface
};

/// Distance along the surface from the nearest source to every corner node; infinite where it cannot be reached or is
/// beyond `limit`; for middle nodes of quadratic elements between those of the corners. The straight lines of wave
/// fronts through each element are followed as on the plane; between nodes the square of the distance is a cubic, so a
/// flat part is exact for points and straight lines as sources, and a curved one is as good as its elements.
/// After R. Kimmel and J. A. Sethian, Proc. Nat. Acad. Sci. 95 (1998) 8431, with the interpolation as said.
std::vector<double> distances(const Surface& surface, const Sources& sources,
                              double limit = std::numeric_limits<double>::infinity());

/// Which way the plies build up from the mesh.
struct AsMeshed {};  ///< keep the first element of each piece as it is
struct Towards {
  Vec3 point;
};  ///< normals point to this point, by area-weighted majority of each piece
struct AwayFrom {
  Vec3 point;
};
struct Along {
  Vec3 direction;
};
using Side = std::variant<AsMeshed, Towards, AwayFrom, Along>;

/// What was found and done while the sides were made to agree.
struct OrientReport {
  std::size_t pieces = 0;                 ///< connected across edges shared by exactly two elements
  std::size_t flipped = 0;                ///< elements whose node order was turned round
  std::vector<ElementIndex> junction;     ///< elements at an edge that three or more share
  std::vector<ElementIndex> conflicting;  ///< elements whose sides cannot agree (a Möbius strip)
  double agreement = 1.0;                 ///< smallest |sum of area n·side| / sum of area |n·side| of any piece
};

/// Turns elements round until neighbours agree, walking across shared edges, then turns whole pieces to `side`.
/// Junctions are not walked across. Findings: "mesh.pieces", "mesh.junction", "mesh.not-orientable",
/// "mesh.side-unclear".
OrientReport orient(Surface& surface, const Side& side, Findings& findings);

/// Overall numbers for a report.
struct Size {
  Vec3 low, high;  ///< bounding box
  std::size_t nodes, triangles, quadrilaterals, quadratic;
  double shortest_edge, mean_edge, longest_edge;
  double area;
};
Size size(const Surface& surface, const Geometry& geometry);
/// As above, where edges() of the surface are at hand.
Size size(const Surface& surface, const Geometry& geometry, const EdgeTable& edges);

/// What an engineer looks for in a surface before any ply.
struct InspectOptions {
  double coincidence = 1e-4;          ///< nodes nearer than this part of the mean edge are coincident; (0, 0.1]
  Angle warp = Angle::degrees(15.0);  ///< quadrilaterals folded along a diagonal by more are warped
};
/// Connected free edges: an outer border or an opening.
struct Rim {
  std::vector<NodeIndex> nodes;  ///< corner nodes, ascending
  double length = 0.0;
  bool closed = true;  ///< every node has two free edges
};
struct Inspection {
  std::vector<Rim> rims;                                   ///< longest first
  std::size_t free_edges = 0;                              ///< sides of one element only
  std::size_t disagreeing_edges = 0;                       ///< two neighbours have opposite sides
  std::vector<ElementIndex> junction;                      ///< at an edge of three or more elements, ascending
  std::vector<std::array<NodeIndex, 2>> coincident_nodes;  ///< pairs, smaller index first
  std::vector<std::array<ElementIndex, 2>> twin_elements;  ///< pairs with the same corners
  std::vector<ElementIndex> flat;     ///< no area to speak of: less than 1e-9 of the mean edge squared
  std::vector<ElementIndex> folded;   ///< quadrilaterals whose halves face away from each other
  std::vector<ElementIndex> tangled;  ///< quadratic ones that a middle node turns inside out somewhere, not folded
  std::vector<ElementIndex> warped;   ///< beyond the limit, not folded
  Angle largest_warp;                 ///< of those not folded
};
Inspection inspect(const Surface& surface, const Geometry& geometry, const InspectOptions& options = {});
/// As above, where edges() of the surface are at hand.
Inspection inspect(const Surface& surface, const Geometry& geometry, const EdgeTable& edges,
                   const InspectOptions& options = {});

/// Quadratic elements that are turned inside out somewhere, ascending: a middle node lies beyond the corners, say.
/// Their areas mean nothing, and solvers stop at them.
std::vector<ElementIndex> tangled(const Surface& surface, const Geometry& geometry);

/// What to look at in an inspected surface, as warnings: "mesh.sides-disagree", "mesh.junction", "mesh.flat",
/// "mesh.folded", "mesh.tangled", "mesh.warped", "mesh.coincident", "mesh.twins", "mesh.border-touches".
std::vector<Finding> doubts(const Surface& surface, const Inspection& inspection, const InspectOptions& options = {});

/// What a repair does beside what it always does.
struct RepairOptions {
  double scale = 1.0;                          ///< coordinates are multiplied by it first
  std::optional<double> merge = std::nullopt;  ///< nodes no further apart are one; 1e-4 of the mean edge if not given
};
/// The surface without coincident nodes, elements without area, elements with the same corners, quadrilaterals whose
/// sides cross, and neighbours of opposite sides. Ids and groups stay as far as their elements do.
/// Every repair is a note in `findings` with the ids: "repair.scaled", "repair.merged", "repair.collapsed",
/// "repair.flat", "repair.twins", "repair.unfolded", "repair.turned"; what cannot be repaired is a warning as orient()
/// tells it.
Surface repaired(Surface surface, const RepairOptions& options, Findings& findings);

/// How elements are cut.
struct CutOptions {
  /// Nodes nearer to a line than this part of the sides at them slide onto it along one of these; (0, 0.4].
  double slide = 0.25;
};
/// What came of it.
struct CutReport {
  std::size_t lines = 0;      ///< levels that pass through nought somewhere
  std::size_t slid = 0;       ///< nodes that were moved onto a line
  std::size_t split = 0;      ///< elements that were parted
  double least_angle = 0.0;   ///< of all corners of all elements, degrees, after
  double least_before = 0.0;  ///< the same before
};
/// The surface cut along lines: each level, given at the nodes and straight along sides, passes through nought only
/// along sides of the new elements. Groups and what lies on them stay: nodes of borders, group edges and creases slide
/// along these only. Parts of an element follow each other in its place and keep its id or take a new one behind the
/// largest; quadratic surfaces stay quadratic, their new middle nodes on the old surface.
Surface cut(const Surface& surface, const Geometry& geometry, std::vector<std::vector<double>> levels,
            const CutOptions& options, CutReport& report);

/// The same surface of quadratic elements: straight edges get a node in their middle, shared between neighbours.
/// New node ids follow the largest one. Quadratic elements stay as they are.
Surface raised_to_quadratic(const Surface& surface);

/// The node nearest to a point, and its distance.
struct Nearest {
  std::uint32_t index;
  double distance;
};
Nearest nearest_node(const Surface& surface, const Vec3& point);
/// The element whose centre is nearest to a point.
Nearest nearest_element(const Geometry& geometry, const Vec3& point);

/// The element or node with an id of the mesh file.
std::optional<ElementIndex> element_with_id(const Surface& surface, std::int64_t id);
std::optional<NodeIndex> node_with_id(const Surface& surface, std::int64_t id);

}  // namespace bordado::mesh

#endif
