// Surfaces whose nets are known, and what tests ask of a net.
#pragma once

#include "support.hpp"

#include <bordado/drape.hpp>

#include <cmath>
#include <map>
#include <random>

namespace test {

inline constexpr double pi = std::numbers::pi;

/// A patch of the unit sphere round (0, 0, 1), `half` of arc to its sides' middles.
inline Grid cap(int n, double half, bool triangles = false) {
  return {.nx = n,
          .ny = n,
          .map =
              [half](double u, double v) {
                const double a = (2 * u - 1) * half, b = (2 * v - 1) * half, r = std::hypot(a, b);
                return r > 0.0 ? bordado::Vec3(std::sin(r) * a / r, std::sin(r) * b / r, std::cos(r))
                               : bordado::Vec3(0, 0, 1);
              },
          .triangles = triangles};
}

/// Any map of the unit square, with the inner nodes moved by up to a share of a cell in it.
inline Grid moved(Grid grid, double share, unsigned seed) {
  const auto map = grid.map;
  const int nx = grid.nx, ny = grid.ny;
  grid.map = [=](double u, double v) {
    if (u <= 0.0 || u >= 1.0 || v <= 0.0 || v >= 1.0) return map(u, v);
    std::mt19937 random(seed + static_cast<unsigned>(std::lround(u * nx)) * 7919u +
                        static_cast<unsigned>(std::lround(v * ny)) * 104729u);
    std::uniform_real_distribution<double> by(-share, share);
    const double a = by(random), b = by(random);
    return map(u + a / nx, v + b / ny);
  };
  return grid;
}

/// Quadrilaterals between places of a cubic lattice.
struct Blocks {
  using At = std::array<int, 3>;
  bordado::mesh::Surface mesh;
  std::map<At, bordado::mesh::NodeIndex> nodes;
  double side;

  explicit Blocks(double side_length) : side(side_length) {
    mesh.file = "blocks";
    mesh.first.push_back(0);
  }
  void add(const std::array<At, 4>& corners) {
    for (const At& at : corners) {
      const auto [found, is_new] = nodes.try_emplace(at, static_cast<bordado::mesh::NodeIndex>(mesh.points.size()));
      if (is_new) {
        mesh.points.push_back(side * bordado::Vec3(at[0], at[1], at[2]));
        mesh.node_ids.push_back(static_cast<std::int64_t>(mesh.points.size()));
      }
      mesh.nodes.push_back(found->second);
    }
    mesh.shapes.push_back(bordado::mesh::Shape::quadrilateral4);
    mesh.first.push_back(static_cast<std::uint32_t>(mesh.nodes.size()));
    mesh.element_ids.push_back(static_cast<std::int64_t>(mesh.shapes.size()));
  }
};

struct Laid {
  bordado::mesh::Surface mesh;
  bordado::mesh::Geometry geometry;
  bordado::drape::SmoothSurface surface;
  bordado::drape::Drape drape;

  std::vector<bordado::mesh::ElementIndex> all() const {
    std::vector<bordado::mesh::ElementIndex> out;
    for (bordado::mesh::ElementIndex e = 0; e < mesh.element_count(); ++e) out.push_back(e);
    return out;
  }
  bordado::drape::Verdict verdict(std::optional<double> limit = {}) const {
    return judge(surface, geometry, drape, all(), limit);
  }
  double largest_shear() const {
    const auto v = verdict();
    return std::max(std::abs(v.least_shear), std::abs(v.most_shear));
  }
};

inline Laid lay(bordado::mesh::Surface mesh, bordado::drape::Options options, double margin = 0.15) {
  Laid out;
  out.mesh = std::move(mesh);
  out.geometry = bordado::mesh::geometry(out.mesh);
  bordado::Vec3 low = out.mesh.points.front(), high = low;
  for (const bordado::Vec3& p : out.mesh.points) low = low.cwiseMin(p), high = high.cwiseMax(p);
  bordado::drape::SmoothOptions smoothing;
  smoothing.margin = margin * (high - low).norm();
  out.surface = bordado::drape::smooth(out.mesh, out.geometry, smoothing);
  options.otherwise = [&] {
    smoothing.goes_on = bordado::drape::GoesOn::otherwise;
    return std::make_shared<bordado::drape::SmoothSurface>(bordado::drape::smooth(out.mesh, out.geometry, smoothing));
  };
  out.drape = bordado::drape::lay(out.surface, out.geometry, options);
  return out;
}
inline Laid lay(const Grid& grid, const bordado::Vec3& seed, const bordado::Vec3& direction, double cell = 0.0,
                bordado::part::Lay how = bordado::part::Lay::straight) {
  bordado::drape::Options options;
  options.net.seed = seed;
  options.net.direction = direction;
  options.net.cell = cell;
  options.lay = how;
  return lay(surface(grid), options);
}

/// Warp and weft at a knot, by the knots round it.
struct Yarns {
  bordado::Vec3 warp, weft;
  double between() const { return std::acos(std::clamp(warp.dot(weft), -1.0, 1.0)) * 180.0 / pi; }
};
inline std::optional<Yarns> yarns_at(const bordado::drape::Net& net, int i, int j) {
  const auto* const own = net.lattice.placed(i, j);
  const auto along = [&](int di, int dj) -> std::optional<bordado::Vec3> {
    const auto *const a = net.lattice.placed(i + di, j + dj), *const b = net.lattice.placed(i - di, j - dj);
    if (!own || !a || !b) return std::nullopt;
    const bordado::Vec3 d = a->point - b->point;
    return bordado::Vec3((d - d.dot(own->normal) * own->normal).normalized());
  };
  const auto warp = along(1, 0), weft = along(0, 1);
  if (!warp || !weft) return std::nullopt;
  return Yarns{*warp, *weft};
}

}  // namespace test
