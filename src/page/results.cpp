// What the solver answered, for the page.
#include "results.hpp"

#include <bordado/design.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace bordado::page {

namespace {

/// The surface's nodes stand first in the model's.
std::vector<Vec3> of_surface(const std::vector<Vec3>& moved, const mesh::Surface& surface) {
  return {moved.begin(), moved.begin() + static_cast<std::ptrdiff_t>(std::min(moved.size(), surface.points.size()))};
}

std::string mode_name(const model::CaseFields& fields, const model::ModeField& mode, const model::Model& model) {
  const auto found = std::find_if(model.cases.begin(), model.cases.end(),
                                  [&](const model::Model::Case& load_case) { return load_case.name == fields.name; });
  const bool buckling = found != model.cases.end() && found->analysis == part::Analysis::buckling;
  return buckling
             ? fmt::format("{}: factor {:.4g}{}", fields.name, mode.value, mode.reversed ? ", reversed" : "")
             : fmt::format("{}: {:.4g} 1/{}", fields.name, mode.value, model.design->part.units.unit(Dimension::time));
}

/// What warms each element. Empty where nothing does.
std::vector<std::array<float, 4>> heat_of(const review::Results& results, std::size_t case_index) {
  std::vector<std::array<float, 4>> out;
  if (!model::has_load<model::Model::Temperature>(results.model, results.model.cases[case_index])) return out;
  out.resize(results.model.surface.element_count());
  for (mesh::ElementIndex e = 0; e < out.size(); ++e) {
    const model::Warmth heat = results.recovery.warmth(case_index, e);
    const auto times = [&](double kelvin) { return static_cast<float>(heat.factor * kelvin); };
    out[e] = {times(heat.tool), times(heat.bag), times(heat.from), static_cast<float>(heat.factor)};
  }
  return out;
}

PageCase page_case(const review::Results& results, std::size_t c) {
  const model::CaseFields& fields = results.fields[c];
  const std::size_t case_index = results.cases[c];
  PageCase out{fields.name, fields.sections, heat_of(results, case_index)};
  for (const result::StrainChanges& of : results.recovery.changes(fields, case_index)) {
    auto& all = out.changes.emplace_back();
    for (Eigen::Index k = 0; k < 12; ++k) all[static_cast<std::size_t>(k)] = static_cast<float>(of(k % 6, k / 6));
  }
  out.carried = results.recovery.carried(fields, case_index);
  if (!fields.solids.empty()) return out;
  for (const mesh::ElementIndex e : results.recovery.tapered()) {
    out.tapered.push_back(e);
    out.first.push_back(out.shear.size());
    for (const result::PlyState& state : results.recovery.at(fields, case_index, e))
      for (const double v : state.ply_shear) out.shear.push_back(static_cast<float>(v));
  }
  return out;
}

/// The least reserves, one for each ply and laminate: not the same corner forty times.
std::vector<result::Critical> worst_places(const review::Results& results, std::size_t most) {
  std::vector<result::Critical> all;
  const auto add = [&](const result::Critical& one) {
    if (one.any()) all.push_back(one);
  };
  // What governs an element hides what else fails there: the least of every ply and criterion is among them, too.
  for (const result::Critical& one : results.reserves.of_elements) add(one);
  for (const result::Least& least : results.reserves.of_plies) add(least.clear), add(least.doubtful);
  for (const result::Least& least : results.reserves.of_criteria) add(least.clear), add(least.doubtful);
  std::stable_sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.factor < b.factor; });
  std::set<std::tuple<part::PlyId, laminate::FailureMode, layup::StackId>> seen;
  std::vector<result::Critical> out;
  for (const result::Critical& one : all) {
    if (out.size() >= most) break;
    if (seen.emplace(one.ply, one.mode, results.design.layup.stack_of[one.element]).second) out.push_back(one);
  }
  return out;
}

}  // namespace

PageResults page_results(const review::Results& results, std::span<const model::CaseFields> with_modes,
                         std::size_t most) {
  const mesh::Surface& surface = results.design.surface;
  PageResults out;
  for (std::size_t c = 0; c < results.fields.size(); ++c) {
    const model::CaseFields& fields = results.fields[c];
    if (!fields.displacements.empty())
      out.shapes.push_back({fields.name, false, of_surface(fields.displacements, surface)});
    if (!fields.sections.empty()) out.cases.push_back(page_case(results, c));
  }
  for (const model::CaseFields& fields : with_modes)
    for (const model::ModeField& mode : fields.modes)
      out.shapes.push_back({mode_name(fields, mode, results.model), true, of_surface(mode.moved, surface)});
  for (const model::Model::Case& load_case : results.model.cases) out.case_names.push_back(load_case.name);
  out.worst = worst_places(results, most);
  out.of_elements = results.reserves.of_elements;
  out.solids = results.model.solids != nullptr;
  return out;
}

namespace {

/// Three numbers for each drawn point: those of a corner that it stands for.
std::vector<float> at_points(const std::vector<Vec3>& moved, const mesh::Surface& surface, const Drawn& drawn) {
  std::vector<float> out(3 * drawn.points.size(), 0.0f);
  for (std::size_t d = 0; d < drawn.elements.size(); ++d) {
    const auto nodes = surface.nodes_of(drawn.elements[d]);
    for (std::size_t i = 0; i < 4 && drawn.corners[d][i] != mesh::no_index; ++i)
      for (int k = 0; k < 3; ++k)
        out[3 * drawn.corners[d][i] + static_cast<std::size_t>(k)] = static_cast<float>(moved[nodes[i]][k]);
  }
  return out;
}

}  // namespace

Json results_json(const PagePart& from, const Drawn& drawn, Arrays& arrays) {
  if (!from.results) return nullptr;
  const PageResults& results = *from.results;
  const Design& design = *from.design;
  Json shapes = Json::array(), cases = Json::array(), worst = Json::array(), criteria = Json::array();
  for (const PageShape& shape : results.shapes) {
    double largest = 0.0;
    for (const Vec3& v : shape.moved) largest = std::max(largest, v.norm());
    shapes.push_back({{"name", shape.name},
                      {"mode", shape.mode},
                      {"largest", largest},
                      {"moves", arrays.add(at_points(shape.moved, design.surface, drawn))}});
  }
  std::vector<std::uint32_t> drawn_of(design.surface.element_count(), mesh::no_index);
  for (std::size_t d = 0; d < drawn.elements.size(); ++d) drawn_of[drawn.elements[d]] = static_cast<std::uint32_t>(d);
  for (const PageCase& one : results.cases) {
    std::vector<float> values;
    values.reserve(6 * drawn.elements.size());
    for (const mesh::ElementIndex e : drawn.elements) {
      const model::SectionState& state = one.sections[e];
      for (const double v : state.deformation.strain) values.push_back(static_cast<float>(v));
      for (const double v : state.deformation.curvature) values.push_back(static_cast<float>(v));
    }
    std::vector<float> carried;  // three, three, two
    carried.reserve(8 * drawn.elements.size());
    for (const mesh::ElementIndex e : drawn.elements) {
      for (const double v : one.carried[e].N) carried.push_back(static_cast<float>(v));
      for (const double v : one.carried[e].M) carried.push_back(static_cast<float>(v));
      for (const double v : one.carried[e].Q) carried.push_back(static_cast<float>(v));
    }
    std::vector<float> changes;
    changes.reserve(12 * drawn.elements.size());
    for (const mesh::ElementIndex e : drawn.elements)
      changes.insert(changes.end(), one.changes[e].begin(), one.changes[e].end());
    std::vector<std::uint32_t> tapered, first;
    for (std::size_t i = 0; i < one.tapered.size(); ++i) {
      if (drawn_of[one.tapered[i]] == mesh::no_index) continue;
      tapered.push_back(drawn_of[one.tapered[i]]);
      first.push_back(static_cast<std::uint32_t>(one.first[i]));
    }
    Json added = {{"name", one.name},
                  {"values", arrays.add(values)},
                  {"carried", arrays.add(carried)},
                  {"changes", arrays.add(changes)},
                  {"tapered", arrays.add(tapered)},
                  {"first", arrays.add(first)},
                  {"shear", arrays.add(one.shear)},
                  {"heat", nullptr}};
    if (!one.heat.empty()) {
      std::vector<float> heat;
      heat.reserve(4 * drawn.elements.size());
      for (const mesh::ElementIndex e : drawn.elements) heat.insert(heat.end(), one.heat[e].begin(), one.heat[e].end());
      added["heat"] = arrays.add(heat);
    }
    cases.push_back(std::move(added));
  }
  for (const result::Critical& one : results.worst) {
    if (drawn_of[one.element] == mesh::no_index) continue;
    worst.push_back({{"factor", one.factor},
                     {"mode", laminate::words(one.mode)},
                     {"criterion", laminate::name_of(one.criterion)},
                     {"ply", one.ply},
                     {"place", laminate::words(one.criterion, one.place)},
                     {"element", drawn_of[one.element]},
                     {"case", results.case_names[one.case_index]},
                     {"doubtful", one.doubtful()},
                     {"doubt", result::words(one.doubt)}});
  }
  std::vector<float> reserve;
  std::vector<std::uint8_t> criterion;
  std::vector<std::uint32_t> ply;
  for (const mesh::ElementIndex e : drawn.elements) {
    const result::Critical& one = results.of_elements[e];
    reserve.push_back(one.any() ? static_cast<float>(one.factor) : std::numeric_limits<float>::quiet_NaN());
    criterion.push_back(one.any() ? static_cast<std::uint8_t>(static_cast<std::uint8_t>(one.criterion) + 1)
                                  : std::uint8_t{0});
    ply.push_back(one.any() ? index(one.ply) + 1 : 0);
  }
  for (std::size_t i = 0; i < laminate::criterion_count; ++i)
    criteria.push_back(laminate::name_of(static_cast<laminate::Criterion>(i)));
  return {{"shapes", shapes},
          {"solids", results.solids},
          {"cases", cases},
          {"worst", worst},
          {"criteria", criteria},
          {"reserve", arrays.add(reserve)},
          {"criterion", arrays.add(criterion)},
          {"ply", arrays.add(ply)}};
}

}  // namespace bordado::page
