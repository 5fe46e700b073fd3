#include <bordado/mesh/at_nodes.hpp>
#include <bordado/mesh/shape.hpp>

#include <bordado/base/work.hpp>
#include <bordado/mesh/care.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <limits>

namespace bordado::mesh {

const Group* Surface::group(std::string_view name, std::optional<int> dimension) const {
  for (const Group& group : groups)
    if (group.name == name && (!dimension || group.dimension == *dimension)) return &group;
  return nullptr;
}

namespace {

std::optional<std::uint32_t> position(const std::vector<std::int64_t>& ids, std::int64_t id) {
  const auto found = std::find(ids.begin(), ids.end(), id);
  if (found == ids.end()) return std::nullopt;
  return static_cast<std::uint32_t>(found - ids.begin());
}

}  // namespace

std::optional<ElementIndex> element_with_id(const Surface& surface, std::int64_t id) {
  return position(surface.element_ids, id);
}
std::optional<NodeIndex> node_with_id(const Surface& surface, std::int64_t id) {
  return position(surface.node_ids, id);
}

namespace {

struct GaussPoint {
  double xi, eta, weight;
};

/// Enough points for the area of each shape: exact for plane faces, close for warped and curved ones.
std::vector<GaussPoint> gauss_points(Shape shape) {
  const auto square = [](std::initializer_list<std::pair<double, double>> line) {
    std::vector<GaussPoint> points;
    for (const auto& [x, wx] : line)
      for (const auto& [y, wy] : line) points.push_back({x, y, wx * wy});
    return points;
  };
  const double g2 = 1.0 / std::sqrt(3.0), g3 = std::sqrt(0.6);
  switch (shape) {
    case Shape::triangle3:
      return {{1.0 / 3, 1.0 / 3, 0.5}};
    case Shape::triangle6: {
      // Exact to the fourth degree: D. A. Dunavant, Int. J. Numerical Methods in Engineering 21 (1985) 1129.
      constexpr double a = 0.445948490915965, b = 0.091576213509771, wa = 0.5 * 0.223381589678011, wb = 1.0 / 6 - wa;
      return {{a, a, wa}, {1 - 2 * a, a, wa}, {a, 1 - 2 * a, wa}, {b, b, wb}, {1 - 2 * b, b, wb}, {b, 1 - 2 * b, wb}};
    }
    case Shape::quadrilateral4:
      return square({{-g2, 1.0}, {g2, 1.0}});
    case Shape::quadrilateral8:
      break;
  }
  return square({{-g3, 5.0 / 9}, {0.0, 8.0 / 9}, {g3, 5.0 / 9}});
}

struct Rule {
  std::vector<ShapeValues> values;
  std::vector<double> weights;
};

Rule rule_of(Shape shape) {
  Rule rule;
  for (const GaussPoint& point : gauss_points(shape)) {
    rule.values.push_back(shape_values(shape, point.xi, point.eta));
    rule.weights.push_back(point.weight);
  }
  return rule;
}

/// Made once.
const Rule& rule_for(Shape shape) {
  static const std::array<Rule, 4> rules = {rule_of(Shape::triangle3), rule_of(Shape::quadrilateral4),
                                            rule_of(Shape::triangle6), rule_of(Shape::quadrilateral8)};
  return rules[static_cast<std::size_t>(shape)];
}

struct PointOn {
  Vec3 position;
  double area_factor;  ///< area per unit of xi and eta
  Vec3 across;         ///< normal to the face, as long
};

PointOn point_on(const Surface& surface, std::span<const NodeIndex> nodes, const ShapeValues& s) {
  Vec3 position = Vec3::Zero(), along_xi = Vec3::Zero(), along_eta = Vec3::Zero();
  for (std::size_t i = 0; i < nodes.size(); ++i) {
    const Vec3& point = surface.points[nodes[i]];
    position += s.value[i] * point;
    along_xi += s.by_xi[i] * point;
    along_eta += s.by_eta[i] * point;
  }
  const Vec3 across = along_xi.cross(along_eta);
  return {position, across.norm(), across};
}

}  // namespace

Geometry geometry(const Surface& surface) {
  const Rule rules[] = {rule_of(Shape::triangle3), rule_of(Shape::quadrilateral4), rule_of(Shape::triangle6),
                        rule_of(Shape::quadrilateral8)};
  Geometry out;
  const std::size_t count = surface.element_count();
  out.centres.resize(count);
  out.normals.resize(count);
  out.areas.resize(count);
  parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) {
      const auto element = static_cast<ElementIndex>(e);
      const auto nodes = surface.nodes_of(element);
      const Rule& rule = rules[static_cast<std::size_t>(surface.shapes[e])];
      const auto corners = surface.corners_of(element);
      const auto at = [&](std::size_t i) -> const Vec3& { return surface.points[corners[i]]; };
      const Vec3 across =
          corners.size() == 4 ? (at(2) - at(0)).cross(at(3) - at(1)) : (at(1) - at(0)).cross(at(2) - at(0));
      double area = 0.0, turned = 0.0;  // of it what runs the other way: of a quadrilateral with a corner inwards
      Vec3 moment = Vec3::Zero(), turned_moment = Vec3::Zero(), middle = Vec3::Zero();
      for (std::size_t q = 0; q < rule.weights.size(); ++q) {
        const auto [position, area_factor, patch_across] = point_on(surface, nodes, rule.values[q]);
        const double patch = area_factor * rule.weights[q];
        area += patch;
        moment += patch * position;
        middle += position / static_cast<double>(rule.weights.size());
        if (patch_across.dot(across) >= 0.0) continue;
        turned += patch;
        turned_moment += patch * position;
      }
      if (turned > 0.0 && turned < 0.499 * area) {
        area -= 2.0 * turned;
        moment -= 2.0 * turned_moment;
      }
      const double length = across.norm();
      out.areas[e] = area;
      out.centres[e] = area > 0.0 ? Vec3(moment / area) : middle;
      out.normals[e] = length > 0.0 ? Vec3(across / length) : Vec3::Zero();
    }
  });
  return out;
}

std::array<double, 8> nodal_areas(const Surface& surface, ElementIndex element) {
  const Rule& rule = rule_for(surface.shapes[element]);
  const auto nodes = surface.nodes_of(element);
  std::array<double, 8> out{};
  for (std::size_t q = 0; q < rule.weights.size(); ++q) {
    const double patch = point_on(surface, nodes, rule.values[q]).area_factor * rule.weights[q];
    for (std::size_t i = 0; i < nodes.size(); ++i) out[i] += rule.values[q].value[i] * patch;
  }
  return out;
}

FaceVectors nodal_face_vectors(const Surface& surface, ElementIndex element, std::span<const Vec3> normals,
                               double height, std::span<const double> pressure) {
  const Rule& rule = rule_for(surface.shapes[element]);
  const auto nodes = surface.nodes_of(element);
  FaceVectors out;
  out.shares.fill(Vec3::Zero());
  Vec3 face = Vec3::Zero(), of_mesh = Vec3::Zero();
  for (std::size_t q = 0; q < rule.weights.size(); ++q) {
    const ShapeValues& s = rule.values[q];
    Vec3 along_xi = Vec3::Zero(), along_eta = Vec3::Zero(), more_xi = Vec3::Zero(), more_eta = Vec3::Zero();
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      const Vec3& point = surface.points[nodes[i]];
      along_xi += s.by_xi[i] * point;
      along_eta += s.by_eta[i] * point;
      more_xi += s.by_xi[i] * normals[i];
      more_eta += s.by_eta[i] * normals[i];
    }
    const Vec3 patch = rule.weights[q] * (along_xi + height * more_xi).cross(along_eta + height * more_eta);
    double here = 1.0;
    if (!pressure.empty()) {
      here = 0.0;
      for (std::size_t i = 0; i < nodes.size(); ++i) here += s.value[i] * pressure[i];
    }
    for (std::size_t i = 0; i < nodes.size(); ++i) out.shares[i] += here * s.value[i] * patch;
    face += patch;
    of_mesh += rule.weights[q] * along_xi.cross(along_eta);
  }
  if (const double area = of_mesh.norm(); height != 0.0 && area > 0.0) out.over_mesh = face.norm() / area;
  return out;
}

namespace {

/// xi and eta of an element's nodes.
std::pair<double, double> node_position(Shape shape, std::size_t node) {
  constexpr std::pair<double, double> triangle[] = {{0, 0}, {1, 0}, {0, 1}, {0.5, 0}, {0.5, 0.5}, {0, 0.5}};
  constexpr std::pair<double, double> square[] = {{-1, -1}, {1, -1}, {1, 1}, {-1, 1}, {0, -1}, {1, 0}, {0, 1}, {-1, 0}};
  return corner_count(shape) == 3 ? triangle[node] : square[node];
}

}  // namespace

namespace {

/// The shape functions of each shape at its own nodes. Made once.
const std::array<ShapeValues, 8>& values_at_nodes(Shape shape) {
  static const auto all = [] {
    std::array<std::array<ShapeValues, 8>, 4> out{};
    for (const Shape each : {Shape::triangle3, Shape::quadrilateral4, Shape::triangle6, Shape::quadrilateral8})
      for (std::size_t node = 0; node < node_count(each); ++node) {
        const auto [xi, eta] = node_position(each, node);
        out[static_cast<std::size_t>(each)][node] = shape_values(each, xi, eta);
      }
    return out;
  }();
  return all[static_cast<std::size_t>(shape)];
}

}  // namespace

std::vector<Vec3> nodal_normals(const Surface& surface, const Geometry& geometry) {
  const double widest = Angle::degrees(20.0).cos();
  const NodeUses uses = uses_of_nodes(surface);
  const auto own_normal = [&](const NodeUses::Use& use) {
    const ShapeValues& s = values_at_nodes(surface.shapes[use.element])[use.at - surface.first[use.element]];
    const auto nodes = surface.nodes_of(use.element);
    Vec3 along_xi = Vec3::Zero(), along_eta = Vec3::Zero();
    for (std::size_t k = 0; k < nodes.size(); ++k) {
      along_xi += s.by_xi[k] * surface.points[nodes[k]];
      along_eta += s.by_eta[k] * surface.points[nodes[k]];
    }
    const Vec3 normal = along_xi.cross(along_eta);
    const double length = normal.norm();
    return length > 0.0 ? Vec3(normal / length) : geometry.normals[use.element];
  };
  std::vector<Vec3> out(surface.nodes.size());
  parallel_blocks(surface.points.size(), [&](std::size_t begin, std::size_t end) {
    std::vector<Vec3> own;
    for (std::size_t n = begin; n < end; ++n) {
      const auto here = uses.of(static_cast<NodeIndex>(n));
      own.clear();
      for (const NodeUses::Use& use : here) own.push_back(own_normal(use));
      for (std::size_t u = 0; u < here.size(); ++u) {
        Vec3 sum = Vec3::Zero();
        for (std::size_t k = 0; k < here.size(); ++k)
          if (own[k].dot(own[u]) > widest) sum += geometry.areas[here[k].element] * own[k];
        const double length = sum.norm();
        out[here[u].at] = length > 0.0 ? Vec3(sum / length) : own[u];
      }
    }
  });
  return out;
}

std::array<double, 3> nodal_lengths(const Surface& surface, const Edge& edge) {
  const Vec3 &a = surface.points[edge.first], &b = surface.points[edge.second];
  if (edge.middle == no_index) return {0.5 * (b - a).norm(), 0.5 * (b - a).norm(), 0.0};
  const Vec3& m = surface.points[edge.middle];
  // Five Gauss points: an edge that is no straight line has no closed length.
  constexpr double at[] = {-0.9061798459386640, -0.5384693101056831, 0.0, 0.5384693101056831, 0.9061798459386640};
  constexpr double weights[] = {0.2369268850561891, 0.4786286704993665, 0.5688888888888889, 0.4786286704993665,
                                0.2369268850561891};
  std::array<double, 3> out{};
  for (int q = 0; q < 5; ++q) {
    const double x = at[q];
    const double length = weights[q] * ((x - 0.5) * a + (x + 0.5) * b - 2.0 * x * m).norm();
    out[0] += 0.5 * x * (x - 1.0) * length;
    out[1] += 0.5 * x * (x + 1.0) * length;
    out[2] += (1.0 - x * x) * length;
  }
  return out;
}

double longest_edge(const Surface& surface) {
  double squared = 0.0;
  for (ElementIndex e = 0; e < surface.element_count(); ++e) {
    const auto corners = surface.corners_of(e);
    for (std::size_t k = 0; k < corners.size(); ++k)
      squared = std::max(
          squared, (surface.points[corners[k]] - surface.points[corners[(k + 1) % corners.size()]]).squaredNorm());
  }
  return std::sqrt(squared);
}

EdgeTable edges(const Surface& surface) {
  // Counting sort of all sides by their smaller node, then a small sort inside each node's bucket.
  const std::size_t count = surface.element_count();
  std::vector<std::uint32_t> bucket(surface.points.size() + 1, 0);
  const auto for_each_side = [&](auto body) {
    for (std::size_t e = 0; e < count; ++e) {
      const auto corners = surface.corners_of(static_cast<ElementIndex>(e));
      for (std::size_t i = 0; i < corners.size(); ++i)
        body(static_cast<ElementIndex>(e), static_cast<std::uint8_t>(i), corners[i],
             corners[i + 1 == corners.size() ? 0 : i + 1]);
    }
  };
  for_each_side([&](ElementIndex, std::uint8_t, NodeIndex a, NodeIndex b) { ++bucket[std::min(a, b) + 1]; });
  for (std::size_t n = 0; n + 1 < bucket.size(); ++n) bucket[n + 1] += bucket[n];

  struct Sorted {
    NodeIndex larger;
    EdgeTable::Use use;
  };
  std::vector<Sorted> sides(bucket.back());
  std::vector<std::uint32_t> next(bucket.begin(), bucket.end() - 1);
  for_each_side([&](ElementIndex e, std::uint8_t i, NodeIndex a, NodeIndex b) {
    sides[next[std::min(a, b)]++] = {std::max(a, b), {e, i, a < b}};
  });
  parallel_blocks(surface.points.size(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t n = begin; n < end; ++n)
      std::sort(sides.begin() + bucket[n], sides.begin() + bucket[n + 1], [](const Sorted& a, const Sorted& b) {
        return std::pair(a.larger, a.use.element) < std::pair(b.larger, b.use.element);
      });
  });

  EdgeTable table;
  table.uses.reserve(sides.size());
  table.nodes.reserve(sides.size() / 2 + 1);
  for (std::size_t n = 0; n < surface.points.size(); ++n) {
    for (std::uint32_t k = bucket[n]; k < bucket[n + 1]; ++k) {
      if (k == bucket[n] || sides[k].larger != sides[k - 1].larger) {
        table.first.push_back(k);
        table.nodes.push_back({static_cast<NodeIndex>(n), sides[k].larger});
      }
      table.uses.push_back(sides[k].use);
    }
  }
  table.first.push_back(static_cast<std::uint32_t>(sides.size()));
  return table;
}

Size size(const Surface& surface, const Geometry& geometry) { return size(surface, geometry, edges(surface)); }

Size size(const Surface& surface, const Geometry& geometry, const EdgeTable& table) {
  Size out{};
  const double infinity = std::numeric_limits<double>::infinity();
  const Extent box = extent(surface.points);
  out.low = box.low, out.high = box.high;
  out.nodes = surface.points.size();
  for (const Shape shape : surface.shapes) {
    ++(corner_count(shape) == 3 ? out.triangles : out.quadrilaterals);
    if (is_quadratic(shape)) ++out.quadratic;
  }
  double sum = 0.0;
  out.shortest_edge = infinity;
  for (const auto& [a, b] : table.nodes) {
    const double length = (surface.points[a] - surface.points[b]).norm();
    out.shortest_edge = std::min(out.shortest_edge, length);
    out.longest_edge = std::max(out.longest_edge, length);
    sum += length;
  }
  out.mean_edge = sum / static_cast<double>(table.size());
  for (const double area : geometry.areas) out.area += area;
  return out;
}

Surface raised_to_quadratic(const Surface& surface) {
  Surface out = surface;
  const EdgeTable table = edges(surface);
  std::int64_t next_id = 0;
  for (const std::int64_t id : surface.node_ids) next_id = std::max(next_id, id);

  // A node per edge: the one a quadratic neighbour has there already, or a new one in the middle.
  std::vector<NodeIndex> middle(table.size(), no_index);
  std::vector<NodeIndex> middle_of_side(4 * surface.element_count(), no_index);
  for (std::size_t j = 0; j < table.size(); ++j) {
    bool linear = false;
    for (std::uint32_t k = table.first[j]; k < table.first[j + 1]; ++k) {
      const auto& use = table.uses[k];
      if (is_quadratic(surface.shapes[use.element]))
        middle[j] = surface.nodes_of(use.element)[corner_count(surface.shapes[use.element]) + use.side];
      else
        linear = true;
    }
    if (linear && middle[j] == no_index) {
      const auto& [a, b] = table.nodes[j];
      middle[j] = static_cast<NodeIndex>(out.points.size());
      out.points.push_back(0.5 * (surface.points[a] + surface.points[b]));
      out.node_ids.push_back(++next_id);
    }
    for (std::uint32_t k = table.first[j]; k < table.first[j + 1]; ++k)
      middle_of_side[4 * table.uses[k].element + table.uses[k].side] = middle[j];
  }

  out.nodes.clear();
  for (std::size_t e = 0; e < surface.element_count(); ++e) {
    const auto element = static_cast<ElementIndex>(e);
    const auto corners = surface.corners_of(element);
    out.nodes.insert(out.nodes.end(), corners.begin(), corners.end());
    for (std::size_t i = 0; i < corners.size(); ++i) out.nodes.push_back(middle_of_side[4 * e + i]);
    out.shapes[e] = corners.size() == 3 ? Shape::triangle6 : Shape::quadrilateral8;
    out.first[e + 1] = static_cast<std::uint32_t>(out.nodes.size());
  }

  const auto middle_between = [&](NodeIndex a, NodeIndex b) {
    const std::array<NodeIndex, 2> key{std::min(a, b), std::max(a, b)};
    const auto found = std::lower_bound(table.nodes.begin(), table.nodes.end(), key);
    return found != table.nodes.end() && *found == key ? middle[static_cast<std::size_t>(found - table.nodes.begin())]
                                                       : no_index;
  };
  for (Group& group : out.groups)
    for (Edge& edge : group.edges)
      if (edge.middle == no_index) edge.middle = middle_between(edge.first, edge.second);
  return out;
}

namespace {

Nearest nearest(const std::vector<Vec3>& points, const Vec3& target) {
  Nearest best{no_index, std::numeric_limits<double>::infinity()};
  for (std::uint32_t i = 0; i < points.size(); ++i) {
    const double distance = (points[i] - target).norm();
    if (distance < best.distance) best = {i, distance};
  }
  return best;
}

}  // namespace

Nearest nearest_node(const Surface& surface, const Vec3& point) { return nearest(surface.points, point); }
Nearest nearest_element(const Geometry& geometry, const Vec3& point) { return nearest(geometry.centres, point); }

}  // namespace bordado::mesh
