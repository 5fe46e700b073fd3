#include "cover.hpp"

#include <bordado/mesh/corner_weights.hpp>

#include <bordado/base/work.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>

namespace bordado::zone {

OnElement mixed(const OnElement& a, const OnElement& b, double s) {
  OnElement out{a.element, (1 - s) * a.point + s * b.point, {}};
  for (std::size_t k = 0; k < 4; ++k) out.corners[k] = (1 - s) * a.corners[k] + s * b.corners[k];
  return out;
}

OnElement middle_of(const mesh::Surface& surface, mesh::ElementIndex element) {
  const auto corners = surface.corners_of(element);
  OnElement at{element, Vec3::Zero(), {}};
  for (std::size_t k = 0; k < corners.size(); ++k) {
    at.corners[k] = 1.0 / static_cast<double>(corners.size());
    at.point += at.corners[k] * surface.points[corners[k]];
  }
  return at;
}

OnElement place_on(const mesh::Surface& surface, mesh::ElementIndex element, const Vec3& point) {
  return {element, point, mesh::corner_weights(surface, element, point)};
}

Level level_of(const part::Box& box) {
  return [box](const OnElement& at) { return (box.low - at.point).cwiseMax(at.point - box.high).maxCoeff(); };
}

Level level_of(const part::Ball& ball) {
  return [ball](const OnElement& at) { return (at.point - ball.centre).norm() - ball.radius; };
}

Level level_of(const part::Cylinder& cylinder) {
  return [cylinder](const OnElement& at) {
    const Vec3 from_axis = at.point - cylinder.through;
    return (from_axis - from_axis.dot(cylinder.along) * cylinder.along).norm() - cylinder.radius;
  };
}

Level level_of(const part::HalfSpace& half_space) {
  return [half_space](const OnElement& at) { return (half_space.point - at.point).dot(half_space.along); };
}

Level level_of(const part::Polygon& polygon, const std::vector<Vec3>& outline) {
  using Vec2 = Eigen::Vector2d;
  const Vec3 u = polygon.along.unitOrthogonal(), v = polygon.along.cross(u);
  std::vector<Vec2> corners;
  Vec2 low(u.dot(outline[0]), v.dot(outline[0])), high = low;
  for (const Vec3& corner : outline) {
    corners.emplace_back(u.dot(corner), v.dot(corner));
    low = low.cwiseMin(corners.back());
    high = high.cwiseMax(corners.back());
  }
  const double far = 0.25 * (high - low).norm();
  return [polygon, u, v, corners, low, high, far](const OnElement& at) {
    const double height = at.point.dot(polygon.along);
    const double beyond = std::max(polygon.low - height, height - polygon.high);
    const Vec2 p(u.dot(at.point), v.dot(at.point));
    const double off = (low - p).cwiseMax(p - high).cwiseMax(0.0).norm();
    if (off > far) return std::max(off, beyond);  // no nearer than the box round it
    double nearest = std::numeric_limits<double>::infinity();
    bool inside = false;
    for (std::size_t i = 0, j = corners.size() - 1; i < corners.size(); j = i++) {
      const Vec2 &a = corners[j], &b = corners[i];
      const Vec2 side = b - a;
      const double squared = side.squaredNorm();
      const double s = squared > 0.0 ? std::clamp((p - a).dot(side) / squared, 0.0, 1.0) : 0.0;
      nearest = std::min(nearest, (p - a - s * side).squaredNorm());
      // A ray to the right crosses the side.
      if ((a.y() > p.y()) != (b.y() > p.y()) && p.x() < a.x() + (p.y() - a.y()) / (b.y() - a.y()) * side.x())
        inside = !inside;
    }
    const double distance = std::sqrt(nearest);
    return std::max(inside ? -distance : distance, beyond);
  };
}

namespace {

double between(const Vec3& from, const LineSegment& to) {
  const Vec3 way = to[1] - to[0], off = from - to[0];
  const double square = way.squaredNorm();
  return (off - (square > 0.0 ? std::clamp(off.dot(way) / square, 0.0, 1.0) : 0.0) * way).norm();
}

/// The distance to the nearest piece, downhill from one.
double downhill(const std::vector<LineSegment>& pieces, std::uint32_t at, const Vec3& from) {
  double best = between(from, pieces[at]);
  for (const int way : {-1, 1})
    for (std::int64_t k = std::int64_t{at} + way; k >= 0 && k < std::ssize(pieces); k += way) {
      const double there = between(from, pieces[static_cast<std::size_t>(k)]);
      if (!(there <= best)) break;
      best = there;
    }
  return best;
}

}  // namespace

Level level_of(const mesh::Surface& surface, std::vector<double> distances, double within,
               std::vector<LineSegment> sources) {
  // At nodes that matter: the piece that is nearest, and what the way along the surface is longer.
  const double reach = 1.5 * mesh::longest_edge(surface);
  std::vector<std::uint32_t> nearest(distances.size(), mesh::no_index);
  std::vector<double> longer(distances.size(), 0.0);
  parallel_blocks(sources.empty() ? 0 : distances.size(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t n = begin; n < end; ++n) {
      if (!(std::abs(distances[n] - within) < reach)) continue;
      double least = std::numeric_limits<double>::infinity();
      for (std::uint32_t k = 0; k < sources.size(); ++k)
        if (const double there = between(surface.points[n], sources[k]); there < least) least = there, nearest[n] = k;
      longer[n] = distances[n] - least;
    }
  });
  return [&surface, distances = std::move(distances), nearest = std::move(nearest), longer = std::move(longer), within,
          sources = std::move(sources)](const OnElement& at) {
    const auto corners = surface.corners_of(at.element);
    double straight = std::numeric_limits<double>::infinity(), more = 0.0, sum = 0.0;
    bool near = true;
    for (std::size_t k = 0; k < corners.size(); ++k) {
      const mesh::NodeIndex n = corners[k];
      near = near && nearest[n] != mesh::no_index;
      if (near) straight = std::min(straight, downhill(sources, nearest[n], at.point));
      if (!(at.corners[k] > 0.0)) continue;
      sum += at.corners[k] * distances[n];
      more += at.corners[k] * longer[n];
    }
    return (near ? straight + more : sum) - within;
  };
}

namespace {

constexpr int deep = 5, deepest = 10;

struct Triangle {
  std::array<OnElement, 3> corners;
};

/// Part of a triangle where a linear level with these corner values is not positive.
double linear_part(std::array<double, 3> level) {
  std::sort(level.begin(), level.end());
  const auto [a, b, c] = level;
  if (c <= 0.0) return 1.0;
  if (a > 0.0) return 0.0;
  if (b <= 0.0) return 1.0 - c / (c - a) * (c / (c - b));  // a corner is cut off
  return -a / (b - a) * (-a / (c - a));                    // a corner is left
}

double covered(const Triangle& triangle, const Level& level, double slack, int depth) {
  const auto& c = triangle.corners;
  OnElement middle = mixed(c[0], mixed(c[1], c[2], 0.5), 2.0 / 3.0);
  double radius = 0.0;
  for (const OnElement& corner : c) radius = std::max(radius, (corner.point - middle.point).norm());
  const double at_middle = level(middle) - slack;
  if (!(at_middle < radius)) return 0.0;
  if (at_middle <= -radius) return 1.0;
  std::array<double, 3> at;
  for (std::size_t k = 0; k < 3; ++k) at[k] = level(c[k]) - slack;
  const std::array<OnElement, 3> halves{mixed(c[0], c[1], 0.5), mixed(c[1], c[2], 0.5), mixed(c[2], c[0], 0.5)};
  if (depth == deepest) return linear_part(at);
  double bend = std::abs(at_middle - (at[0] + at[1] + at[2]) / 3);
  for (std::size_t k = 0; k < 3; ++k)
    bend = std::max(bend, std::abs(level(halves[k]) - slack - 0.5 * (at[k] + at[(k + 1) % 3])));
  // Further down only where two borders are near, or one turns.
  if (bend <= (depth < deep ? 1e-5 : 0.05) * radius) return linear_part(at);
  double sum = covered({halves}, level, slack, depth + 1);
  for (std::size_t k = 0; k < 3; ++k) sum += covered({{c[k], halves[k], halves[(k + 2) % 3]}}, level, slack, depth + 1);
  return 0.25 * sum;
}

}  // namespace

namespace {

Extent extent_of(const mesh::Surface& surface, mesh::ElementIndex element) {
  const auto corners = surface.corners_of(element);
  Extent out{Vec3::Zero(), 0.0, 0.0};
  double size = 0.0;
  for (const mesh::NodeIndex n : corners) {
    const Vec3& corner = surface.points[n];
    out.middle += corner / static_cast<double>(corners.size());
    size = std::max(size, corner.cwiseAbs().maxCoeff());
  }
  for (const mesh::NodeIndex n : corners)
    out.reach = std::max(out.reach, (surface.points[n] - out.middle).squaredNorm());
  out.reach = std::sqrt(out.reach);
  out.slack = 1e-12 * size + 1e-9 * out.reach;
  return out;
}

}  // namespace

std::vector<Extent> extents(const mesh::Surface& surface) {
  std::vector<Extent> out(surface.element_count());
  parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) out[e] = extent_of(surface, static_cast<mesh::ElementIndex>(e));
  });
  return out;
}

std::vector<ElementRun> runs(std::span<const Extent> extents, std::span<const double> areas) {
  std::vector<ElementRun> out((extents.size() + elements_of_a_run - 1) / elements_of_a_run);
  parallel_blocks(
      out.size(),
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t r = begin; r < end; ++r) {
          const std::size_t first = r * elements_of_a_run, last = std::min(first + elements_of_a_run, extents.size());
          ElementRun& run = out[r] = {extents[first].middle, 0.0, 0.0, 0.0};
          Vec3 low = run.middle, high = run.middle;
          for (std::size_t e = first; e < last; ++e) {
            low = low.cwiseMin(extents[e].middle);
            high = high.cwiseMax(extents[e].middle);
          }
          run.middle = 0.5 * (low + high);
          for (std::size_t e = first; e < last; ++e) {
            run.reach = std::max(run.reach, (extents[e].middle - run.middle).norm() + extents[e].reach);
            run.slack = std::max(run.slack, extents[e].slack);
            run.area += areas[e];
          }
          run.reach += run.slack;
        }
      },
      128);
  return out;
}

std::optional<bool> decided(const ElementRun& run, const Level& level) {
  const double at_middle = level({mesh::no_index, run.middle, {}});
  if (at_middle >= run.reach + run.slack) return false;
  if (at_middle <= -run.reach) return true;
  return std::nullopt;
}

double covered_part(const mesh::Surface& surface, mesh::ElementIndex element, const Level& level) {
  return covered_part(surface, element, extent_of(surface, element), level);
}

double covered_part(const mesh::Surface& surface, mesh::ElementIndex element, const Extent& extent,
                    const Level& level) {
  // Most elements lie far inside or far outside: one look at their middle tells.
  const std::size_t count = mesh::corner_count(surface.shapes[element]);
  OnElement middle{element, extent.middle, {}};
  for (std::size_t k = 0; k < count; ++k) middle.corners[k] = 1.0 / static_cast<double>(count);
  const double reach = extent.reach, slack = extent.slack;
  const double at_middle = level(middle);
  if (!(at_middle < reach + slack)) return 0.0;
  if (at_middle <= -reach) return 1.0;
  const auto corners = surface.corners_of(element);
  std::array<OnElement, 4> at;
  for (std::size_t k = 0; k < count; ++k) {
    at[k] = {element, surface.points[corners[k]], {}};
    at[k].corners[k] = 1.0;
  }
  if (count == 3) return covered({{at[0], at[1], at[2]}}, level, slack, 0);
  double part = 0.0, whole = 0.0;
  for (std::size_t k = 0; k < 4; ++k) {
    const OnElement &a = at[k], &b = at[(k + 1) % 4];
    const double area = (a.point - middle.point).cross(b.point - middle.point).norm();
    whole += area;
    part += area * covered({{middle, a, b}}, level, slack, 0);
  }
  return whole > 0.0 ? part / whole : 0.0;
}

}  // namespace bordado::zone
