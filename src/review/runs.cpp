// Several runs side by side.
#include <bordado/design.hpp>
#include <bordado/mesh/locate.hpp>
#include <bordado/review/runs.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::review {

RunFigures run_of(const std::string& name, const Results& results, std::span<const model::CaseFields> modes) {
  const Design& design = results.design;
  RunFigures out;
  out.name = name;
  out.elements = design.surface.element_count();
  double area = 0.0;
  for (const double a : design.geometry.areas) area += a;
  out.size = std::sqrt(area / static_cast<double>(std::max<std::size_t>(out.elements, 1)));
  out.mass = layup::mass(design).mass;
  for (std::size_t c = 0; c < results.fields.size(); ++c) {
    double most = 0.0;
    for (const Vec3& v : results.fields[c].displacements) most = std::max(most, v.norm());
    out.deflections.emplace_back(results.fields[c].name, most);
    if (const result::Critical& least = results.reserves.of_cases[c].of_both(); least.any())
      out.reserves.emplace_back(results.fields[c].name, least);
  }
  for (const model::CaseFields& fields : modes)
    for (std::size_t k = 0, number = 0; k < fields.modes.size(); ++k)
      if (!fields.modes[k].reversed)
        out.modes.emplace_back(fmt::format("{} {}", fields.name, ++number), fields.modes[k].value);
  return out;
}

std::optional<Extrapolation> extrapolated(std::array<double, 3> sizes, std::array<double, 3> values) {
  // Coarse to fine.
  std::array<std::size_t, 3> order = {0, 1, 2};
  std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return sizes[a] > sizes[b]; });
  const double h1 = sizes[order[0]], h2 = sizes[order[1]], h3 = sizes[order[2]];
  const double f1 = values[order[0]], f2 = values[order[1]], f3 = values[order[2]];
  if (!(h1 > 1.02 * h2 && h2 > 1.02 * h3 && h3 > 0.0)) return std::nullopt;
  const double coarse = f1 - f2, fine = f2 - f3;
  if (!(coarse / fine > 0.0)) return std::nullopt;
  // (h1^p - h2^p) / (h2^p - h3^p) grows with p.
  const auto ratio = [&](double p) { return (std::pow(h1 / h2, p) - 1.0) / (1.0 - std::pow(h3 / h2, p)); };
  double low = 0.05, high = 12.0;
  if (coarse / fine < ratio(low) || coarse / fine > ratio(high)) return std::nullopt;
  for (int k = 0; k < 60; ++k) (ratio(0.5 * (low + high)) < coarse / fine ? low : high) = 0.5 * (low + high);
  const double p = 0.5 * (low + high);
  return Extrapolation{f3 - fine * std::pow(h3 / h2, p) / (1.0 - std::pow(h3 / h2, p)), p};
}

std::vector<mesh::Array> differences(const Results& first, const Results& second) {
  const mesh::Surface &here = first.design.surface, &there = second.design.surface;
  const mesh::Locator locator(there);
  const double none = std::nan("");
  const auto found_at = [&](std::span<const Vec3> points) {
    std::vector<std::optional<mesh::Locator::Found>> out(points.size());
    parallel_blocks(points.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t i = begin; i < end; ++i) {
        const auto found = locator.nearest(points[i]);
        if (found.distance <= std::sqrt(second.design.geometry.areas[found.element])) out[i] = found;
      }
    });
    return out;
  };
  const std::vector<Vec3> nodes(here.points.begin(), here.points.end());
  const auto at_nodes = found_at(nodes), at_centres = found_at(first.design.geometry.centres);
  std::vector<mesh::Array> out;
  const std::string length = first.design.part.units.unit(Dimension::length);
  for (const model::CaseFields& a : first.fields)
    for (const model::CaseFields& b : second.fields) {
      if (a.name != b.name || a.displacements.empty() || b.displacements.empty()) continue;
      mesh::Array other{fmt::format("{}: displacement of the second {}", a.name, length), true, 3, {}};
      mesh::Array differ{fmt::format("{}: displacement, second less first {}", a.name, length), true, 3, {}};
      for (std::size_t n = 0; n < nodes.size(); ++n) {
        Vec3 moved(none, none, none);
        if (at_nodes[n]) {
          moved.setZero();
          const auto of = there.nodes_of(at_nodes[n]->element);
          for (std::size_t i = 0; i < of.size(); ++i) moved += at_nodes[n]->weights[i] * b.displacements[of[i]];
        }
        for (int k = 0; k < 3; ++k) {
          other.values.push_back(moved[k]);
          differ.values.push_back(moved[k] - a.displacements[n][k]);
        }
      }
      out.push_back(std::move(other));
      out.push_back(std::move(differ));
    }
  const std::size_t count = here.element_count();
  mesh::Array own{"reserve", false, 1, {}}, other{"reserve of the second", false, 1, {}},
      ratio{"reserve, second over first", false, 1, {}};
  for (mesh::ElementIndex e = 0; e < count; ++e) {
    const result::Critical& a = first.reserves.of_elements[e];
    const double x = a.any() ? a.factor : none;
    double y = none;
    if (at_centres[e])
      if (const result::Critical& b = second.reserves.of_elements[at_centres[e]->element]; b.any()) y = b.factor;
    own.values.push_back(x);
    other.values.push_back(y);
    ratio.values.push_back(x > 0.0 ? y / x : none);
  }
  for (mesh::Array* const array : {&own, &other, &ratio}) out.push_back(std::move(*array));
  return out;
}

}  // namespace bordado::review
