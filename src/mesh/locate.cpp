// The nearest place on a surface, by a tree of boxes.
#include <bordado/mesh/shape.hpp>

#include <bordado/base/work.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/mesh/locate.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>

namespace bordado::mesh {

namespace {

struct Box {
  Vec3 low, high;
  double squared_distance(const Vec3& p) const { return (low - p).cwiseMax(p - high).cwiseMax(0.0).squaredNorm(); }
};

/// Barycentric weights of the nearest point of a triangle. Reference: C. Ericson, Real-Time Collision Detection
/// (2005), section 5.1.5.
std::array<double, 3> nearest_in_triangle(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c) {
  const Vec3 ab = b - a, ac = c - a, ap = p - a, bp = p - b, cp = p - c;
  const double d1 = ab.dot(ap), d2 = ac.dot(ap), d3 = ab.dot(bp), d4 = ac.dot(bp), d5 = ab.dot(cp), d6 = ac.dot(cp);
  if (d1 <= 0 && d2 <= 0) return {1, 0, 0};
  if (d3 >= 0 && d4 <= d3) return {0, 1, 0};
  if (d6 >= 0 && d5 <= d6) return {0, 0, 1};
  const double vc = d1 * d4 - d3 * d2, vb = d5 * d2 - d1 * d6, va = d3 * d6 - d5 * d4;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return {1 - d1 / (d1 - d3), d1 / (d1 - d3), 0};
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return {1 - d2 / (d2 - d6), 0, d2 / (d2 - d6)};
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const double w = (d4 - d3) / ((d4 - d3) + (d5 - d6));
    return {0, 1 - w, w};
  }
  const double sum = va + vb + vc;
  if (!(sum > 0)) return {1, 0, 0};  // a triangle without area
  return {va / sum, vb / sum, vc / sum};
}

}  // namespace

struct Locator::Tree {
  struct Node {
    Box box;
    std::uint32_t begin, end;  ///< elements of a leaf
    std::uint32_t right = 0;   ///< the second child; the first follows at once; 0 in a leaf
  };
  const Surface& surface;
  std::vector<ElementIndex> order;
  std::vector<Vec3> middles;
  std::vector<Box> boxes;
  std::vector<Node> nodes;

  explicit Tree(const Surface& of) : surface(of) {
    const std::size_t count = of.element_count();
    order.resize(count);
    middles.resize(count);
    boxes.resize(count);
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        const auto element = static_cast<ElementIndex>(e);
        Box box{of.points[of.nodes_of(element)[0]], of.points[of.nodes_of(element)[0]]};
        for (const NodeIndex n : of.nodes_of(element)) {
          box.low = box.low.cwiseMin(of.points[n]);
          box.high = box.high.cwiseMax(of.points[n]);
        }
        if (is_quadratic(of.shapes[e])) {  // the face may bulge beyond its nodes
          const Vec3 margin = Vec3::Constant(0.3 * (box.high - box.low).norm());
          box = {box.low - margin, box.high + margin};
        }
        order[e] = element;
        middles[e] = 0.5 * (box.low + box.high);
        boxes[e] = box;
      }
    });
    nodes.reserve(count / 2 + 1);
    if (count > 0) build(0, static_cast<std::uint32_t>(count));
  }

  void build(std::uint32_t begin, std::uint32_t end) {
    const std::size_t at = nodes.size();
    Box box = boxes[order[begin]];
    Vec3 low = middles[order[begin]], high = low;
    for (std::uint32_t k = begin + 1; k < end; ++k) {
      box = {box.low.cwiseMin(boxes[order[k]].low), box.high.cwiseMax(boxes[order[k]].high)};
      low = low.cwiseMin(middles[order[k]]);
      high = high.cwiseMax(middles[order[k]]);
    }
    nodes.push_back({box, begin, end});
    if (end - begin <= 6) return;
    Eigen::Index axis = 0;
    (high - low).maxCoeff(&axis);
    const std::uint32_t middle = begin + (end - begin) / 2;
    std::nth_element(order.begin() + begin, order.begin() + middle, order.begin() + end,
                     [&](ElementIndex a, ElementIndex b) {
                       return std::pair(middles[a][axis], a) < std::pair(middles[b][axis], b);
                     });
    build(begin, middle);
    nodes[at].right = static_cast<std::uint32_t>(nodes.size());
    build(middle, end);
  }

  /// The nearest place of one element: of its triangles first, then on its curved or warped face by Gauss-Newton.
  Found nearest_in(ElementIndex element, const Vec3& point) const {
    const Shape shape = surface.shapes[element];
    const auto corners = surface.corners_of(element);
    const auto at = [&](std::size_t i) -> const Vec3& { return surface.points[corners[i]]; };
    constexpr double u[] = {0, 1, 0}, v[] = {0, 0, 1};                 // triangle corners
    constexpr double xi4[] = {-1, 1, 1, -1}, eta4[] = {-1, -1, 1, 1};  // quadrilateral corners
    const bool triangle = corners.size() == 3;
    Found found{element, {}, std::numeric_limits<double>::infinity(), {}};
    double xi = 0, eta = 0;
    for (std::size_t half = 0; half < (triangle ? 1u : 2u); ++half) {
      const std::size_t i[] = {0, half + 1, half + 2};
      const auto w = nearest_in_triangle(point, at(i[0]), at(i[1]), at(i[2]));
      const Vec3 place = w[0] * at(i[0]) + w[1] * at(i[1]) + w[2] * at(i[2]);
      const double distance = (place - point).norm();
      if (distance >= found.distance) continue;
      found.distance = distance;
      found.point = place;
      xi = eta = 0;
      for (std::size_t k = 0; k < 3; ++k) {
        xi += w[k] * (triangle ? u[i[k]] : xi4[i[k]]);
        eta += w[k] * (triangle ? v[i[k]] : eta4[i[k]]);
      }
    }
    ShapeValues s = shape_values(shape, xi, eta);
    if (shape == Shape::triangle3) {
      std::copy(s.value, s.value + 8, found.weights.begin());
      return found;
    }
    const auto nodes_here = surface.nodes_of(element);
    double best = std::numeric_limits<double>::infinity();
    for (int step = 0; step < 8; ++step) {
      Vec3 place = Vec3::Zero(), a = Vec3::Zero(), b = Vec3::Zero();
      for (std::size_t k = 0; k < nodes_here.size(); ++k) {
        place += s.value[k] * surface.points[nodes_here[k]];
        a += s.by_xi[k] * surface.points[nodes_here[k]];
        b += s.by_eta[k] * surface.points[nodes_here[k]];
      }
      const double distance = (place - point).norm();
      if (distance < best) {
        best = found.distance = distance;
        found.point = place;
        std::copy(s.value, s.value + 8, found.weights.begin());
      } else {
        break;
      }
      const Vec3 miss = point - place;
      const double aa = a.dot(a), bb = b.dot(b), ab = a.dot(b), determinant = aa * bb - ab * ab;
      if (!(determinant > 1e-14 * aa * bb)) break;
      xi += (bb * a.dot(miss) - ab * b.dot(miss)) / determinant;
      eta += (aa * b.dot(miss) - ab * a.dot(miss)) / determinant;
      if (triangle) {
        xi = std::clamp(xi, 0.0, 1.0);
        eta = std::clamp(eta, 0.0, 1.0);
        if (const double over = xi + eta - 1; over > 0) {
          xi -= over / 2;
          eta -= over / 2;
        }
      } else {
        xi = std::clamp(xi, -1.0, 1.0);
        eta = std::clamp(eta, -1.0, 1.0);
      }
      s = shape_values(shape, xi, eta);
    }
    return found;
  }
};

Locator::Locator(const Surface& of) : tree_(std::make_unique<Tree>(of)) {}
Locator::~Locator() = default;
Locator::Locator(Locator&&) noexcept = default;

Locator::Found Locator::nearest(const Vec3& point) const { return nearest(point, {}); }

Locator::Found Locator::nearest(const Vec3& point, const std::function<bool(ElementIndex)>& among) const {
  Found best{no_index, Vec3::Zero(), std::numeric_limits<double>::infinity(), {}};
  if (tree_->nodes.empty()) return best;
  std::array<std::uint32_t, 128> open;
  std::size_t held = 0;
  open[held++] = 0;
  while (held > 0) {
    const std::uint32_t at = open[--held];
    const Tree::Node& node = tree_->nodes[at];
    if (node.box.squared_distance(point) > best.distance * best.distance) continue;
    if (node.right == 0) {
      for (std::uint32_t k = node.begin; k < node.end; ++k) {
        const ElementIndex e = tree_->order[k];
        if (tree_->boxes[e].squared_distance(point) > best.distance * best.distance) continue;
        if (among && !among(e)) continue;
        const Found found = tree_->nearest_in(e, point);
        if (found.distance < best.distance || (found.distance == best.distance && e < best.element)) best = found;
      }
      continue;
    }
    const bool left_first =
        tree_->nodes[at + 1].box.squared_distance(point) <= tree_->nodes[node.right].box.squared_distance(point);
    open[held++] = left_first ? node.right : at + 1;
    open[held++] = left_first ? at + 1 : node.right;
  }
  return best;
}

std::vector<double> values_at(const Sampled& sampled, const Array& array, std::span<const Vec3> points) {
  const Locator locator(sampled.surface);
  std::vector<double> out(points.size());
  parallel_blocks(
      out.size(),
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i) {
          const auto found = locator.nearest(points[i]);
          const auto nodes = sampled.surface.nodes_of(found.element);
          out[i] = array.on_nodes ? 0.0 : array.values[found.element];
          for (std::size_t k = 0; array.on_nodes && k < nodes.size(); ++k)
            out[i] += found.weights[k] * array.values[nodes[k]];
        }
      },
      512);
  return out;
}

}  // namespace bordado::mesh
