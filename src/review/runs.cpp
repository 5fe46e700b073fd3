// Several runs side by side.
#include <bordado/design.hpp>
#include <bordado/mesh/locate.hpp>
#include <bordado/review/runs.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::review {

namespace {

/// Of a mode's value: that of frequencies; factors have none.
std::string unit_of(const Results& results, const std::string& case_name) {
  for (const model::Model::Case& one : results.model.cases)
    if (one.name == case_name && one.analysis == part::Analysis::frequencies)
      return "1/" + results.design.part.units.unit(Dimension::time);
  return "";
}

}  // namespace

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
        out.modes.push_back({fields.name, ++number, fields.modes[k].value, unit_of(results, fields.name)});
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

namespace {

using Places = std::vector<std::optional<mesh::Locator::Found>>;

/// Where points lie on another mesh; nothing where that is farther than an element.
Places places_on(const Design& there, std::span<const Vec3> points) {
  const mesh::Locator locator(there.surface);
  Places out(points.size());
  parallel_blocks(points.size(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t i = begin; i < end; ++i) {
      const auto found = locator.nearest(points[i]);
      if (found.distance <= std::sqrt(there.geometry.areas[found.element])) out[i] = found;
    }
  });
  return out;
}

/// What nodes' values are at a place.
Vec3 at_place(const mesh::Surface& surface, const mesh::Locator::Found& found, std::span<const Vec3> values) {
  Vec3 out = Vec3::Zero();
  const auto nodes = surface.nodes_of(found.element);
  for (std::size_t i = 0; i < nodes.size(); ++i) out += found.weights[i] * values[nodes[i]];
  return out;
}

/// An even share of each element's area.
std::vector<double> areas_of_nodes(const Design& design) {
  std::vector<double> out(design.surface.points.size(), 0.0);
  for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) {
    const auto nodes = design.surface.nodes_of(e);
    for (const mesh::NodeIndex node : nodes) out[node] += design.geometry.areas[e] / static_cast<double>(nodes.size());
  }
  return out;
}

/// Modes of a case that is asked for with the loads as they are.
std::vector<const model::ModeField*> forward(const model::CaseFields& fields) {
  std::vector<const model::ModeField*> out;
  for (const model::ModeField& mode : fields.modes)
    if (!mode.reversed) out.push_back(&mode);
  return out;
}

const model::CaseFields* named(std::span<const model::CaseFields> all, const std::string& name) {
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const model::CaseFields& one) { return one.name == name; });
  return found == all.end() ? nullptr : &*found;
}

}  // namespace

std::vector<ModeMatch> matched_modes(const Design& first, std::span<const model::CaseFields> modes,
                                     const Design& second, std::span<const model::CaseFields> others) {
  std::vector<ModeMatch> out;
  const std::vector<double> area = areas_of_nodes(first);
  const Places places = places_on(second, first.surface.points);
  for (const model::CaseFields& own : modes) {
    const model::CaseFields* const other = named(others, own.name);
    if (!other) continue;
    const auto a = forward(own), b = forward(*other);
    std::vector<std::vector<Vec3>> looked_up;
    for (const model::ModeField* const mode : b) {
      looked_up.emplace_back(places.size(), Vec3::Zero());
      for (std::size_t n = 0; n < places.size(); ++n)
        if (places[n]) looked_up.back()[n] = at_place(second.surface, *places[n], mode->moved);
    }
    std::vector<ModeMatch> all;
    for (std::size_t i = 0; i < a.size(); ++i)
      for (std::size_t k = 0; k < b.size(); ++k) {
        double both = 0.0, one = 0.0, two = 0.0;
        for (std::size_t n = 0; n < places.size(); ++n) {
          if (!places[n]) continue;
          both += area[n] * a[i]->moved[n].dot(looked_up[k][n]);
          one += area[n] * a[i]->moved[n].squaredNorm(), two += area[n] * looked_up[k][n].squaredNorm();
        }
        if (const double alike = std::min(1.0, both * both / (one * two)); alike > 0.5)
          all.push_back({own.name, i + 1, k + 1, alike});
      }
    std::stable_sort(all.begin(), all.end(), [](const auto& x, const auto& y) { return x.assurance > y.assurance; });
    const std::size_t before = out.size();
    for (const ModeMatch& match : all)
      if (std::none_of(out.begin() + static_cast<std::ptrdiff_t>(before), out.end(), [&](const ModeMatch& taken) {
            return taken.first == match.first || taken.second == match.second;
          }))
        out.push_back(match);
    std::sort(out.begin() + static_cast<std::ptrdiff_t>(before), out.end(),
              [](const auto& x, const auto& y) { return x.first < y.first; });
  }
  return out;
}

std::vector<mesh::Array> mode_fields(const Design& first, std::span<const model::CaseFields> modes,
                                     const Design& second, std::span<const model::CaseFields> others,
                                     std::span<const ModeMatch> matches, std::string_view second_name) {
  std::vector<mesh::Array> out;
  const Places places = places_on(second, first.surface.points);
  const double none = std::nan("");
  for (const ModeMatch& match : matches) {
    const std::vector<Vec3>& own = forward(*named(modes, match.case_name))[match.first - 1]->moved;
    const model::ModeField& other = *forward(*named(others, match.case_name))[match.second - 1];
    std::vector<Vec3> looked_up(places.size(), Vec3(none, none, none));
    double both = 0.0, two = 0.0;
    for (std::size_t n = 0; n < places.size(); ++n) {
      if (!places[n]) continue;
      looked_up[n] = at_place(second.surface, *places[n], other.moved);
      both += own[n].dot(looked_up[n]), two += looked_up[n].squaredNorm();
    }
    mesh::Array shape{
        fmt::format("{}: mode {}, mode {} of the {}", match.case_name, match.first, match.second, second_name),
        true,
        3,
        {}};
    for (std::size_t n = 0; n < places.size(); ++n)
      for (int k = 0; k < 3; ++k) shape.values.push_back(both / two * looked_up[n][k]);
    out.push_back(std::move(shape));
  }
  return out;
}

std::vector<mesh::Array> differences(const Results& first, const Results& second, std::string_view second_name) {
  const mesh::Surface &here = first.design.surface, &there = second.design.surface;
  const double none = std::nan("");
  const std::vector<Vec3>& nodes = here.points;
  const Places at_nodes = places_on(second.design, nodes),
               at_centres = places_on(second.design, first.design.geometry.centres);
  std::vector<mesh::Array> out;
  const std::string length = first.design.part.units.unit(Dimension::length);
  for (const model::CaseFields& a : first.fields)
    for (const model::CaseFields& b : second.fields) {
      if (a.name != b.name || a.displacements.empty() || b.displacements.empty()) continue;
      mesh::Array other{fmt::format("{}: displacement of the {} {}", a.name, second_name, length), true, 3, {}};
      mesh::Array differ{fmt::format("{}: displacement, {} less first {}", a.name, second_name, length), true, 3, {}};
      for (std::size_t n = 0; n < nodes.size(); ++n) {
        Vec3 moved(none, none, none);
        if (at_nodes[n]) moved = at_place(there, *at_nodes[n], b.displacements);
        for (int k = 0; k < 3; ++k) {
          other.values.push_back(moved[k]);
          differ.values.push_back(moved[k] - a.displacements[n][k]);
        }
      }
      out.push_back(std::move(other));
      out.push_back(std::move(differ));
    }
  const std::size_t count = here.element_count();
  mesh::Array own{"reserve", false, 1, {}}, other{fmt::format("reserve of the {}", second_name), false, 1, {}},
      ratio{fmt::format("reserve, {} over first", second_name), false, 1, {}};
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
