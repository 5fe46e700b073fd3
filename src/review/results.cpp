// What was recovered, for tables and viewers.
#include "../base/csv.hpp"

#include <bordado/review.hpp>

#include <fmt/format.h>

#include <cmath>

namespace bordado::review {

namespace {

using mesh::ElementIndex;

constexpr std::string_view places[] = {"bottom", "middle", "top"};

void write_table(const Results& results, const std::string& path, const Progress& progress) {
  const Design& design = results.design;
  const UnitSystem& units = design.part.units;
  const std::string stress = units.unit(Dimension::stress), length = units.unit(Dimension::length);
  OutputFile out(path);
  std::string head = fmt::format("case,element,layer,ply,material,place,z {}", length);
  for (const std::string_view name : {"s1", "s2", "t12", "t13", "t23"}) head += fmt::format(",{} ply {}", name, stress);
  for (const std::string_view name : {"s1", "s2", "t12"}) head += fmt::format(",{} held ply {}", name, stress);
  for (const std::string_view name : {"e1", "e2", "g12"}) head += fmt::format(",{} ply", name);
  for (const std::string_view name : {"sx", "sy", "txy"}) head += fmt::format(",{} section {}", name, stress);
  for (const std::string_view name : {"ex", "ey", "gxy"}) head += fmt::format(",{} section", name);
  out.write(head + "\n");
  for (std::size_t c = 0; c < results.fields.size(); ++c) {
    const std::string name = csv_cell(results.fields[c].name);
    out.write_lines(design.surface.element_count(), [&](std::size_t e, std::string& text) {
      for (const result::PlyState& s :
           results.recovery.at(results.fields[c], results.cases[c], static_cast<ElementIndex>(e))) {
        fmt::format_to(std::back_inserter(text), "{},{},{},{},{},{},{:.6g}", name, design.surface.element_ids[e],
                       s.layer + 1, csv_cell(design.part.plies[s.ply].id),
                       csv_cell(design.part.plies[s.ply].material.value), places[s.place], s.z);
        const auto put = [&](const auto& values) {
          for (const double value : values) fmt::format_to(std::back_inserter(text), ",{:.6g}", value);
        };
        put(s.ply_stress), put(s.ply_shear), put(s.ply_held), put(s.ply_strain), put(s.stress), put(s.strain);
        text += '\n';
      }
    });
    if (progress) progress("writing", static_cast<double>(c + 1) / static_cast<double>(results.fields.size()));
  }
  out.commit();
}

std::vector<mesh::Array> arrays(const Results& results) {
  const Design& design = results.design;
  const UnitSystem& units = design.part.units;
  const std::string length = units.unit(Dimension::length), force = units.unit(Dimension::force);
  const std::size_t elements = design.surface.element_count(), nodes = design.surface.points.size();
  std::vector<mesh::Array> out;
  const auto of_elements = [&](std::string name, auto value) {
    mesh::Array array{std::move(name), false, 1, {}};
    array.values.reserve(elements);
    for (ElementIndex e = 0; e < elements; ++e) array.values.push_back(value(e));
    out.push_back(std::move(array));
  };
  const auto critical = [&](ElementIndex e) -> const result::Critical& { return results.reserves.of_elements[e]; };
  const double none = std::nan("");
  of_elements("reserve", [&](ElementIndex e) { return critical(e).any() ? critical(e).factor : none; });
  of_elements("critical criterion", [&](ElementIndex e) {
    return critical(e).any() ? static_cast<double>(critical(e).criterion) + 1.0 : none;
  });
  of_elements("critical ply", [&](ElementIndex e) { return critical(e).any() ? index(critical(e).ply) + 1.0 : none; });
  of_elements("critical case",
              [&](ElementIndex e) { return critical(e).any() ? static_cast<double>(critical(e).one) + 1.0 : none; });
  of_elements("beside a step", [&](ElementIndex e) { return results.recovery.doubtful(e) ? 1.0 : 0.0; });
  const bool several = results.fields.size() > 1;
  for (const result::CaseFields& fields : results.fields) {
    const std::string of = several ? fields.name + ": " : "";
    if (fields.displacements.size() >= nodes) {
      mesh::Array moved{fmt::format("{}displacement {}", of, length), true, 3, {}};
      moved.values.reserve(3 * nodes);
      for (std::size_t n = 0; n < nodes; ++n)
        moved.values.insert(moved.values.end(), fields.displacements[n].begin(), fields.displacements[n].end());
      out.push_back(std::move(moved));
    }
    if (fields.sections.empty()) continue;
    const std::vector<laminate::Resultants> carried =
        results.recovery.carried(fields, results.cases[static_cast<std::size_t>(&fields - results.fields.data())]);
    constexpr std::string_view directions[] = {"x", "y", "xy"};
    for (int k = 0; k < 3; ++k) {
      const std::string_view d = directions[k];
      of_elements(fmt::format("{}{}{} section", of, k == 2 ? "g" : "e", d),
                  [&](ElementIndex e) { return fields.sections[e].deformation.strain[k]; });
      of_elements(fmt::format("{}k{} section 1/{}", of, d, length),
                  [&](ElementIndex e) { return fields.sections[e].deformation.curvature[k]; });
      of_elements(fmt::format("{}N{} section {}/{}", of, d, force, length),
                  [&](ElementIndex e) { return carried[e].N[k]; });
      of_elements(fmt::format("{}M{} section {}", of, d, force), [&](ElementIndex e) { return carried[e].M[k]; });
    }
    for (int k = 0; k < 2; ++k)
      of_elements(fmt::format("{}Q{} section {}/{}", of, directions[k], force, length),
                  [&](ElementIndex e) { return fields.sections[e].Q[k]; });
  }
  return out;
}

}  // namespace

void write_results(const Results& results, const std::string& path, const Progress& progress) {
  if (path.ends_with(".csv")) return write_table(results, path, progress);
  if (!path.ends_with(".vtu"))
    throw Failure({Severity::error, "results.ending-unknown",
                   fmt::format("'{}' ends neither in .csv nor in .vtu", path), Place::in(path),
                   "name it so that its ending says what it is"});
  mesh::write(results.design.surface, path, arrays(results));
}

}  // namespace bordado::review
