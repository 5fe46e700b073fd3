// ./run bench, fourth part: nets of a million cells beside the nearest place of the same number of points on the same mesh;
// how time grows with cells and elements; a search of 200 seeds. Ratios are time over that of the floor in the same run.
#include "measure.hpp"

#include <bordado/mesh/locate.hpp>
#include <bordado/seeds.hpp>

#include <fmt/format.h>

#include <cmath>
#include <numbers>

namespace {

using namespace bordado;
using namespace measure;

/// A hull-like shell, 4 m long, of nx by ny quadrilaterals.
Vec3 hull(double u, double v) {
  const double x = 4 * u, w = 0.3 + 0.7 * std::sin(std::numbers::pi * std::min(1.0, 0.9 * u + 0.1)), y = 1.2 * v;
  return {x, y * w, 0.25 * y * y * w + 0.04 * (x - 2) * (x - 2) + 0.05 * std::sin(3 * u)};
}

mesh::Surface shell(int nx, int ny) {
  mesh::Surface out;
  out.file = "shell";
  for (int j = 0; j <= ny; ++j)
    for (int i = 0; i <= nx; ++i) {
      out.points.push_back(hull(double(i) / nx, double(j) / ny));
      out.node_ids.push_back(static_cast<std::int64_t>(out.points.size()));
    }
  out.first.push_back(0);
  for (int j = 0; j < ny; ++j)
    for (int i = 0; i < nx; ++i) {
      const auto node = [&](int a, int b) { return static_cast<mesh::NodeIndex>(b * (nx + 1) + a); };
      for (const mesh::NodeIndex n : {node(i, j), node(i + 1, j), node(i + 1, j + 1), node(i, j + 1)})
        out.nodes.push_back(n);
      out.shapes.push_back(mesh::Shape::quadrilateral4);
      out.first.push_back(static_cast<std::uint32_t>(out.nodes.size()));
      out.element_ids.push_back(static_cast<std::int64_t>(out.shapes.size()));
    }
  return out;
}

void row(std::string_view what, double time, double of, std::string_view aim) {
  fmt::print("{:<58} {:9.3f} s  {:8.2f}  {}\n", what, time, of, aim);
}

}  // namespace

int main(int count, char** arguments) {
  const bool small = count > 1 && std::string_view(arguments[1]) == "small";
  const int scale = small ? 20 : 1;
  fmt::print("{:<58} {:>11}  {:>8}\n", "drape", "time", "ratio");
  const mesh::Surface three = shell(75, 40), million = shell(1500 / scale, 667 / scale);
  const auto options = [](double cell) {
    drape::NetOptions out;
    out.seed = hull(0.5, 0.5);
    out.direction = Vec3::UnitX();
    out.cell = cell;
    return out;
  };
  for (const mesh::Surface* const mesh : {&three, &million}) {
    const mesh::Geometry geometry = mesh::geometry(*mesh);
    std::optional<drape::SmoothSurface> surface;
    const double smoothing = seconds([&] {
      surface =
          drape::smooth(*mesh, geometry, {.crease = Angle::degrees(35), .creases = {}, .cuts = {}, .margin = 0.3});
    });
    const double sweep = best(3, [&] { (void)mesh::geometry(*mesh); });
    row(fmt::format("{} elements as one smooth surface, over their geometry", mesh->element_count()), smoothing,
        smoothing / sweep, "");
    for (const double cell : {0.0052 * scale, 0.0026 * scale}) {
      std::optional<drape::Net> net;
      const double laying = best(small ? 1 : 3, [&] { net = drape::net(*surface, options(cell)); });
      std::vector<Vec3> points;
      net->lattice.for_each([&](int, int, const drape::Knot& knot) { points.push_back(1.001 * knot.point); });
      const mesh::Locator locator(*mesh);
      std::vector<double> away(points.size());
      const double nearest = best(small ? 1 : 3, [&] {
        parallel_blocks(points.size(), [&](std::size_t begin, std::size_t end) {
          for (std::size_t k = begin; k < end; ++k) away[k] = locator.nearest(points[k]).distance;
        });
      });
      row(fmt::format("  a net of {} cells ({:.2f} million a second), over nearest", net->knots,
                      1e-6 * static_cast<double>(net->knots) / laying),
          laying, laying / nearest, "3 at the most");
    }
    std::vector<std::uint8_t> none;
    drape::Options all;
    all.net = options(0.0);
    double time = seconds([&] { (void)drape::lay(*surface, geometry, all); });
    row("  all of a drape, cells chosen, with its error", time, time / sweep, "");
    if (mesh == &million) continue;
    drape::SeedOptions search;
    search.drape.net = options(0.0);
    search.seeds = 25, search.directions = 8;
    time = seconds([&] { (void)search_seeds(*surface, geometry, search); });
    row("  a search of 200 seeds and directions, in redraws of 1/60 s", time, 60.0 * time, "");
  }
}
