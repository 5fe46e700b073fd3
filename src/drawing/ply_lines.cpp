// Where plies end, for those who go on to draw.
#include "dxf.hpp"

#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/drawing.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/review/fields.hpp>

#include <fmt/format.h>

#include <algorithm>

namespace bordado::drawing {

namespace {

void write_dxf(const Design& design, const review::EdgeLines& edges, const std::string& path) {
  const double mm = 1000.0 * design.part.units.to_si(Dimension::length);
  std::vector<std::pair<std::string, int>> layers{{"TEXT", 7}};
  const auto layer_of = [](part::PlyId p) { return fmt::format("PLY-{}", index(p) + 1); };
  for (const part::PlyId p : design.layup.plies.ids())
    if (std::find(edges.plies.begin(), edges.plies.end(), p) != edges.plies.end())
      layers.emplace_back(layer_of(p), 1 + static_cast<int>(index(p) % 6));
  Dxf dxf(std::move(layers));
  const auto ramps = review::ramp_lines(design);
  double size = 0.0;
  for (const Vec3& point : design.surface.points) size = std::max(size, (point - design.surface.points.front()).norm());
  for (std::size_t i = 0; i < edges.lines.size(); ++i) {
    std::vector<Vec3> points = edges.lines[i].points;
    for (Vec3& point : points) point *= mm;
    const part::PlyId p = edges.plies[i];
    dxf.line(layer_of(p), points, edges.lines[i].closed);
    std::string words = design.part.plies[p].id;
    for (const review::RampLine& at : ramps[p])
      words += fmt::format(", {} {}", design.layup.ramps[at.ramp].name, at.line);
    dxf.text("TEXT", points.front(), 0.006 * size * mm, words);
  }
  dxf.write(path);
}

}  // namespace

std::size_t write_ply_lines(const Design& design, const std::string& path) {
  const bool dxf = ends_in(path, ".dxf");
  if (!dxf && !ends_in(path, ".vtu"))
    throw Failure({Severity::error, "drawing.lines-ending", fmt::format("'{}' ends neither in .dxf nor in .vtu", path),
                   Place::in(path), "name it so that its ending says what it is"});
  const review::EdgeLines edges = review::edge_lines(design);
  if (dxf) {
    write_dxf(design, edges, path);
  } else {
    const auto ramps = review::ramp_lines(design);
    std::array<mesh::Array, 3> of_lines{
        {{"ply", false, 1, {}}, {"ramp", false, 1, {}}, {"line of ramp", false, 1, {}}}};
    for (const part::PlyId p : edges.plies) {
      of_lines[0].values.push_back(index(p) + 1.0);
      of_lines[1].values.push_back(ramps[p].empty() ? 0.0 : index(ramps[p].front().ramp) + 1.0);
      of_lines[2].values.push_back(ramps[p].empty() ? 0.0 : static_cast<double>(ramps[p].front().line));
    }
    mesh::write(edges.lines, path, of_lines);
  }
  return edges.lines.size();
}

}  // namespace bordado::drawing
