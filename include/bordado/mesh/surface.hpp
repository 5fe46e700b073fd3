/// \file surface.hpp
/// The surface of the part: nodes, shell elements, named groups; what lies beside what.
#ifndef BORDADO_MESH_SURFACE_HPP
#define BORDADO_MESH_SURFACE_HPP

#include <bordado/base/findings.hpp>
#include <bordado/base/vector.hpp>

#include <array>
#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

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
