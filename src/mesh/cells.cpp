#include "cells.hpp"

#include "polygon.hpp"
#include "text.hpp"

namespace bordado::mesh {

namespace {

enum class CellUse { shell, edge, solid };
struct CellKind {
  std::int64_t type;
  CellUse use;
  Shape shape;
  std::size_t nodes, kept;
};
// Reference: VTK user's guide, "VTK file formats", and the list of cell types there.
constexpr CellKind cell_kinds[] = {
    {3, CellUse::edge, {}, 2, 2},
    {21, CellUse::edge, {}, 3, 3},
    {35, CellUse::edge, {}, 4, 2},
    {5, CellUse::shell, Shape::triangle3, 3, 3},
    {8, CellUse::shell, Shape::quadrilateral4, 4, 4},  // a pixel: rows instead of round
    {9, CellUse::shell, Shape::quadrilateral4, 4, 4},
    {22, CellUse::shell, Shape::triangle6, 6, 6},
    {34, CellUse::shell, Shape::triangle6, 7, 6},
    {23, CellUse::shell, Shape::quadrilateral8, 8, 8},
    {28, CellUse::shell, Shape::quadrilateral8, 9, 8},
    {30, CellUse::shell, Shape::quadrilateral4, 6, 4},
};
/// Cells of any order, by their corners.
constexpr CellKind any_order[] = {
    {68, CellUse::edge, {}, 2, 2},
    {69, CellUse::shell, Shape::triangle3, 3, 3},
    {70, CellUse::shell, Shape::quadrilateral4, 4, 4},
    {75, CellUse::edge, {}, 2, 2},
    {76, CellUse::shell, Shape::triangle3, 3, 3},
    {77, CellUse::shell, Shape::quadrilateral4, 4, 4},
};
constexpr std::int64_t solids[] = {10, 11, 12, 13, 14, 15, 16, 24, 25, 26, 27, 29, 31,
                                   32, 33, 37, 41, 42, 71, 72, 73, 74, 78, 79, 80, 81};

}  // namespace

CellSink::CellSink(RawMesh& mesh, const std::string& path) : mesh_(mesh), path_(path) {}

Vec3 CellSink::at(std::int64_t point) const {
  const double* const x = mesh_.coordinates.data() + 3 * static_cast<std::size_t>(point);
  return {x[0], x[1], x[2]};
}

void CellSink::add_shell(Shape shape, std::span<const std::int64_t> points, std::int64_t id) {
  if (cells_.back().elements++ > 0) without_id_.push_back(static_cast<std::uint32_t>(mesh_.shapes.size()));
  cell_of_.push_back(static_cast<std::uint32_t>(cells_.size()) - 1);
  mesh_.shapes.push_back(shape);
  mesh_.element_ids.push_back(id);
  for (const std::int64_t point : points) mesh_.nodes.push_back(mesh_.node_ids[static_cast<std::size_t>(point)]);
}

void CellSink::add_polygon(std::span<const std::int64_t> points, std::int64_t id) {
  if (points.size() > most_corners)
    throw Unreadable{0, fmt::format("cell {} is a polygon of {} corners; at most {} are cut into triangles",
                                    cells_.size(), points.size(), most_corners)};
  if (points.size() < 3) return;
  std::vector<Vec3> corners;
  for (const std::int64_t point : points) corners.push_back(at(point));
  if (points.size() == 3) return add_shell(Shape::triangle3, points, id);
  if (points.size() == 4 && is_convex(corners)) return add_shell(Shape::quadrilateral4, points, id);
  ++polygons_;
  for (const auto& [a, b, c] : cut_polygon(corners))
    add_shell(Shape::triangle3, std::array{points[a], points[b], points[c]}, id);
}

void CellSink::add(std::int64_t type, std::span<const std::int64_t> points, std::int64_t id) {
  for (const std::int64_t point : points)
    if (point < 0 || static_cast<std::size_t>(point) >= mesh_.node_ids.size())
      throw Unreadable{0, fmt::format("cell {} uses point {} of {}", cells_.size() + 1, point, mesh_.node_ids.size())};
  cells_.push_back({static_cast<std::uint32_t>(mesh_.shapes.size()), 0, static_cast<std::uint32_t>(edges_.size()), 0,
                    static_cast<std::uint32_t>(points_.size()), 0});
  const auto node = [&](std::size_t k) { return mesh_.node_ids[static_cast<std::size_t>(points[k])]; };
  if (type == 0) return;  // an empty cell
  if (type == 1 || type == 2) {
    for (std::size_t k = 0; k < points.size(); ++k) points_.push_back(node(k));
    cells_.back().points = static_cast<std::uint32_t>(points.size());
    return;
  }
  if (type == 4 || type == 3) {
    for (std::size_t k = 0; k + 1 < points.size(); ++k) edges_.push_back({node(k), node(k + 1), 0});
    cells_.back().edges = static_cast<std::uint32_t>(edges_.size()) - cells_.back().edge;
    return;
  }
  if (type == 6) {  // a strip: every second triangle the other way round
    for (std::size_t k = 0; k + 2 < points.size(); ++k)
      add_shell(Shape::triangle3,
                k % 2 == 0 ? std::array{points[k], points[k + 1], points[k + 2]}
                           : std::array{points[k + 1], points[k], points[k + 2]},
                id);
    return;
  }
  if (type == 7) return add_polygon(points, id);
  if (std::find(std::begin(solids), std::end(solids), type) != std::end(solids)) {
    ++mesh_.passed_over;
    return;
  }
  const CellKind* found = nullptr;
  for (const CellKind& kind : cell_kinds)
    if (kind.type == type && kind.nodes == points.size()) found = &kind;
  for (const CellKind& kind : any_order)
    if (kind.type == type && points.size() >= kind.nodes) found = &kind;
  if (!found)
    throw Unreadable{
        0, fmt::format("cell {} is of type {} with {} points, which is not read", cells_.size(), type, points.size())};
  if (found->use == CellUse::edge) {
    edges_.push_back({node(0), node(1), found->kept == 3 ? node(2) : 0});
    cells_.back().edges = 1;
    return;
  }
  std::vector<std::int64_t> own(points.begin(), points.begin() + static_cast<std::ptrdiff_t>(found->kept));
  if (type == 8) std::swap(own[2], own[3]);
  if (points.size() > found->kept && !is_quadratic(found->shape)) ++lowered_;
  add_shell(found->shape, own, id);
}

void CellSink::add_group(const std::string& name, std::span<const std::uint32_t> cells) {
  RawMesh::RawGroup groups[3] = {{name, 0, {}, {}, {}}, {name, 1, {}, {}, {}}, {name, 2, {}, {}, {}}};
  for (const std::uint32_t c : cells) {
    const Cell& cell = cells_[c];
    for (std::uint32_t k = 0; k < cell.points; ++k) groups[0].points.push_back(points_[cell.point + k]);
    for (std::uint32_t k = 0; k < cell.edges; ++k) groups[1].edges.push_back(edges_[cell.edge + k]);
    for (std::uint32_t k = 0; k < cell.elements; ++k) groups[2].elements.push_back(cell.element + k);
  }
  for (RawMesh::RawGroup& group : groups)
    if (!group.points.empty() || !group.edges.empty() || !group.elements.empty())
      mesh_.groups.push_back(std::move(group));
}

void CellSink::add_groups_by_value(const std::string& name, std::span<const std::int64_t> values) {
  constexpr std::size_t most_values = 100;
  std::map<std::int64_t, std::vector<std::uint32_t>> members;
  for (std::uint32_t c = 0; c < values.size() && c < cells_.size() && members.size() <= most_values; ++c)
    members[values[c]].push_back(c);
  if (members.size() <= most_values)
    for (const auto& [value, cells] : members) add_group(fmt::format("{} {}", name, value), cells);
}

void CellSink::finish(Findings& findings) {
  if (!without_id_.empty()) {
    std::int64_t last = 0;
    for (const std::int64_t id : mesh_.element_ids) last = std::max(last, id);
    for (const std::uint32_t e : without_id_) mesh_.element_ids[e] = ++last;
  }
  mesh_.no_shells_remedy = "save the triangles and quadrilaterals of the surface";
  if (polygons_ > 0)
    findings.note("mesh.polygons-cut", fmt::format("{} were cut into triangles", counted(polygons_, "polygon")),
                  Place::in(path_));
  if (lowered_ > 0)
    findings.note("mesh.order-lowered",
                  fmt::format("{} of third order or higher were taken by their corners", counted(lowered_, "element")),
                  Place::in(path_));
}

}  // namespace bordado::mesh
