#include "axes.hpp"

#include <bordado/base/work.hpp>
#include <bordado/design.hpp>

#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace bordado::calculix {

namespace {

using mesh::ElementIndex;
using section::SectionId;

/// A cell of the grid over (r, t): six whole numbers of at most 21 bits, packed.
struct Cell {
  std::uint64_t r, t;
  friend bool operator==(const Cell&, const Cell&) = default;
};
struct CellHash {
  std::size_t operator()(const Cell& cell) const {
    return static_cast<std::size_t>((cell.r * 0x9E3779B97F4A7C15ull) ^ (cell.t * 0xC2B2AE3D27D4EB4Full >> 7));
  }
};

std::uint64_t packed(const Vec3& unit, double cell) {
  std::uint64_t out = 0;
  for (const double x : unit) out = out << 21 | static_cast<std::uint64_t>(std::llround(x / cell) + (1 << 20));
  return out;
}

}  // namespace

Grouping group(const Model& model, Angle tolerance, std::span<const std::uint32_t> use_of) {
  const double cell = tolerance.radians() / std::sqrt(3.0);  // the diagonal of a cell is the tolerance
  const auto& sections = model.design->sections;
  const std::size_t count = sections.section_of.size();
  std::vector<Cell> cells(count);
  parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e)
      cells[e] = {packed(sections.references[e], cell),
                  packed(model.design->geometry.normals[e].cross(sections.references[e]), cell)};
  });

  Grouping out;
  std::unordered_map<Cell, std::uint32_t, CellHash> axes_of_cell;
  std::unordered_map<std::uint64_t, std::uint32_t> group_of;
  std::vector<std::uint32_t> axes_of(count);
  std::uint32_t current = 0;
  for (ElementIndex e = 0; e < count; ++e) {
    const std::uint32_t s = use_of[e];
    if (e == 0 || !(cells[e] == cells[e - 1]) || s != use_of[e - 1]) {  // neighbours in the list mostly agree
      const auto [found, new_axes] = axes_of_cell.emplace(cells[e], static_cast<std::uint32_t>(out.axes.size()));
      if (new_axes) out.axes.push_back({sections.references[e], model.design->geometry.normals[e]});
      const auto [at, new_group] =
          group_of.emplace(std::uint64_t{s} << 32 | found->second, static_cast<std::uint32_t>(out.groups.size()));
      if (new_group) out.groups.push_back({s, found->second, {}});
      current = at->second;
    }
    axes_of[e] = out.groups[current].axes;
    out.groups[current].elements.push_back(e);
  }

  // The solver projects what it is given on the element's own plane: errors are measured there.
  const std::size_t block = block_of(8192);
  std::vector<double> largest(count / block + 1, 0.0);
  parallel_blocks(
      count,
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t e = begin; e < end; ++e) {
          const Vec3 &n = model.design->geometry.normals[e], &shared = out.axes[axes_of[e]].r;
          const double error =
              std::abs(frame::between(sections.references[e], shared - shared.dot(n) * n, n).radians());
          largest[begin / block] = std::max(largest[begin / block], error);
        }
      },
      block);
  out.largest_error = *std::max_element(largest.begin(), largest.end());
  return out;
}

}  // namespace bordado::calculix
