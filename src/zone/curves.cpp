#include <bordado/mesh/care.hpp>
#include <bordado/zone.hpp>

#include <Eigen/Geometry>

#include <fmt/format.h>

#include <algorithm>

namespace bordado::zone {

namespace {

double distance_to(const mesh::Curve& curve, const Vec3& point) {
  double nearest = std::numeric_limits<double>::infinity();
  const std::size_t pieces = curve.points.size() - (curve.closed ? 0 : 1);
  for (std::size_t k = 0; k < pieces; ++k) {
    const Vec3 &a = curve.points[k], side = curve.points[(k + 1) % curve.points.size()] - a;
    const double squared = side.squaredNorm();
    const double s = squared > 0.0 ? std::clamp((point - a).dot(side) / squared, 0.0, 1.0) : 0.0;
    nearest = std::min(nearest, (point - a - s * side).norm());
  }
  return nearest;
}

std::optional<mesh::Curve> nearest_to(const std::vector<mesh::Curve>& curves, const Vec3& point) {
  const mesh::Curve* best = nullptr;
  for (const mesh::Curve& curve : curves)
    if (!best || distance_to(curve, point) < distance_to(*best, point)) best = &curve;
  return best ? std::optional(*best) : std::nullopt;
}

/// Edges of a mesh group; of a group of points, those between its points.
std::optional<mesh::NodePairs> edges_of_group(const mesh::Surface& surface, std::string_view name) {
  if (const mesh::Group* const group = surface.group(name, 1)) {
    mesh::NodePairs out;
    for (const mesh::Edge& edge : group->edges)
      out.push_back({std::min(edge.first, edge.second), std::max(edge.first, edge.second)});
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
  }
  if (const mesh::Group* const group = surface.group(name, 0)) return mesh::edges_among(surface, group->points);
  return std::nullopt;
}

/// What a kind of curve makes: one or more lines, or what is wrong and what to do about it.
struct Made {
  std::vector<mesh::Curve> lines;
  std::string trouble, remedy;
};

struct Maker {
  const mesh::Surface& surface;
  const mesh::Geometry& geometry;

  Made operator()(const part::Polyline& kind) const { return {{{kind.points, {}, kind.closed}}, {}, {}}; }

  Made operator()(const part::EdgeGroup& kind) const {
    const auto edges = edges_of_group(surface, kind.group);
    if (edges && !edges->empty()) return {mesh::curves_of(surface, *edges), {}, {}};
    std::vector<std::string> known;
    for (const mesh::Group& group : surface.groups)
      if (group.dimension < 2) known.push_back(group.name);
    const auto near = nearest_name(kind.group, known);
    return {{},
            edges ? fmt::format("no edges lie between the points of group '{}'", kind.group)
                  : fmt::format("the mesh has no edge group '{}'", kind.group),
            near            ? fmt::format("did you mean '{}'?", *near)
            : known.empty() ? "the mesh has no named edge groups: define physical curves, or say a border or points"
                            : fmt::format("edge and point groups of the mesh: {}", listed(known, 20))};
  }

  Made operator()(const part::Crease& kind) const {
    const auto found = nearest_to(mesh::curves_of(surface, mesh::creases(surface, geometry, kind.turn)), kind.near);
    if (found) return {{*found}, {}, {}};
    return {
        {}, fmt::format("no edge of the surface turns by {:g}° or more", kind.turn.degrees()), "give a smaller 'turn'"};
  }

  Made operator()(const part::Border& kind) const {
    const auto found = mesh::way_along(surface, mesh::free_edges(surface), kind.from, kind.to, kind.through);
    if (found) return {{*found}, {}, {}};
    return {{},
            "no border of the surface runs from one of its points to the other",
            "give two points on the same border; bordado surface lists the borders"};
  }

  Made operator()(const part::Opening& kind) const {
    std::vector<mesh::Curve> loops = mesh::curves_of(surface, mesh::free_edges(surface));
    std::erase_if(loops, [](const mesh::Curve& loop) { return !loop.closed; });
    const auto found = nearest_to(loops, kind.near);
    if (found) return {{*found}, {}, {}};
    return {{}, "the surface has no closed border", "it has no opening: bordado surface lists the borders"};
  }
};

/// A line begins at the end nearest to a point; a closed one at its nearest point.
void begin_at(mesh::Curve& line, const Vec3& from) {
  const auto nearer = [&](const Vec3& a, const Vec3& b) { return (a - from).norm() < (b - from).norm(); };
  if (line.closed) {
    const auto first = std::min_element(line.points.begin(), line.points.end(), nearer) - line.points.begin();
    std::rotate(line.points.begin(), line.points.begin() + first, line.points.end());
    if (!line.nodes.empty()) std::rotate(line.nodes.begin(), line.nodes.begin() + first, line.nodes.end());
  } else if (nearer(line.points.back(), line.points.front())) {
    std::reverse(line.points.begin(), line.points.end());
    std::reverse(line.nodes.begin(), line.nodes.end());
  }
}

}  // namespace

const NamedCurve* Curves::find(std::string_view name) const {
  for (const NamedCurve& curve : all)
    if (curve.name == name) return &curve;
  return nullptr;
}

Curves curves(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry) {
  Findings errors;
  Curves out;
  for (const part::Curve& declared : part.curves) {
    Made made = std::visit(Maker{surface, geometry}, declared.kind);
    if (std::holds_alternative<part::Polyline>(declared.kind)) {
      constexpr std::size_t most_points = 10'000;
      const mesh::Size size = mesh::size(surface, geometry);
      const double reach = 10.0 * (size.high - size.low).norm();
      for (const mesh::Curve& line : made.lines) {
        if (line.points.size() > most_points)
          errors.error("curve.too-long",
                       fmt::format("curve '{}' has {} points; at most {} are followed", declared.name,
                                   line.points.size(), most_points),
                       declared.where, "leave out those that lie on straight lines");
        for (const Vec3& point : line.points)
          if ((point - 0.5 * (size.low + size.high)).norm() > reach) {
            errors.error(
                "curve.far",
                fmt::format(
                    "curve '{}': its point ({:.6g}, {:.6g}, {:.6g}) lies more than ten times the part's size away",
                    declared.name, point.x(), point.y(), point.z()),
                declared.where, "check the point and its length unit");
            break;
          }
      }
    }
    if (made.lines.empty())
      errors.error("curve.nowhere", fmt::format("curve '{}': {}", declared.name, made.trouble), declared.where,
                   made.remedy);
    if (declared.from)
      for (mesh::Curve& line : made.lines) begin_at(line, *declared.from);
    out.all.push_back({declared.name, std::move(made.lines)});
  }
  for (const mesh::Group& group : surface.groups)
    if (group.dimension == 1 && !group.edges.empty() && !out.find(group.name))
      out.all.push_back({group.name, mesh::curves_of(surface, *edges_of_group(surface, group.name))});
  errors.throw_if_errors();
  return out;
}

}  // namespace bordado::zone
