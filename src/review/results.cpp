// What was recovered, for tables and viewers.
#include "../base/csv.hpp"

#include <bordado/base/files.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/review/results.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::review {

namespace {

using mesh::ElementIndex;

constexpr std::string_view places[] = {"bottom", "middle", "top"};
/// Components across the section, after its own names; all of the part's.
constexpr std::array<std::string_view, 3> across_section{"sz", "tyz", "txz"};
constexpr std::array<std::string_view, 6> six_components{"xx", "yy", "zz", "yz", "xz", "xy"};

bool among(const std::vector<part::PlyId>& plies, part::PlyId ply) {
  return plies.empty() || std::find(plies.begin(), plies.end(), ply) != plies.end();
}

void write_table(const Results& results, const std::string& path, const Progress& progress,
                 const FieldsToWrite& written) {
  const Design& design = results.design;
  const UnitSystem& units = design.part.units;
  const std::string stress = units.unit(Dimension::stress), length = units.unit(Dimension::length);
  OutputFile out(path);
  std::string head = fmt::format("case,element,layer,ply,material,place,z {}", length);
  const bool solids = results.model.solids != nullptr;
  for (const std::string_view name : {"s1", "s2", "t12", "t13", "t23"}) head += fmt::format(",{} ply {}", name, stress);
  if (solids) head += fmt::format(",s3 ply {}", stress);
  for (const std::string_view name : {"s1", "s2", "t12"}) head += fmt::format(",{} held ply {}", name, stress);
  for (const std::string_view name : {"e1", "e2", "g12"}) head += fmt::format(",{} ply", name);
  for (const std::string_view name : {"sx", "sy", "txy"}) head += fmt::format(",{} section {}", name, stress);
  for (const std::string_view name : {"ex", "ey", "gxy"}) head += fmt::format(",{} section", name);
  for (const std::string_view name : across_section) head += fmt::format(",{} section {}", name, stress);
  for (const std::string_view name : six_components) head += fmt::format(",{} part {}", name, stress);
  out.write(head + "\n");
  for (std::size_t c = 0; c < results.fields.size(); ++c) {
    const std::string name = csv_cell(results.fields[c].name);
    out.write_lines(design.surface.element_count(), [&](std::size_t e, std::string& text) {
      for (const result::PlyState& s :
           results.recovery.at(results.fields[c], results.cases[c], static_cast<ElementIndex>(e))) {
        if (!among(written.plies, s.ply)) continue;
        fmt::format_to(std::back_inserter(text), "{},{},{},{},{},{},{:.6g}", name, design.surface.element_ids[e],
                       s.layer + 1, csv_cell(design.part.plies[s.ply].id),
                       csv_cell(design.part.plies[s.ply].material.value), places[s.place], s.z);
        const auto put = [&](const auto& values) {
          for (const double value : values) fmt::format_to(std::back_inserter(text), ",{:.6g}", value);
        };
        put(s.ply_stress), put(s.ply_shear);
        if (solids) put(std::array{s.ply_through});
        put(s.ply_held), put(s.ply_strain), put(s.stress), put(s.strain);
        const auto section = result::stress_in_section(s);
        put(std::array{section[2], section[3], section[4]});
        put(result::stress_in_part(design, static_cast<ElementIndex>(e), s));
        text += '\n';
      }
    });
    if (progress) progress("writing", static_cast<double>(c + 1) / static_cast<double>(results.fields.size()));
  }
  out.commit();
}

/// Stresses of one ply, on elements where it lies; of one that edges of plies cross, of the piece with the most plies ended.
void add_stresses(const Results& results, std::size_t c, part::PlyId ply, const std::string& of,
                  std::vector<mesh::Array>& out) {
  const Design& design = results.design;
  const std::string unit = design.part.units.unit(Dimension::stress);
  const bool solids = results.model.solids != nullptr;
  std::vector<std::string_view> names = {"s1", "s2", "t12", "t13", "t23"};
  if (solids) names.push_back("s3");
  const std::size_t first = out.size(), count = design.surface.element_count(), own = names.size(), all = own + 12;
  for (const std::string_view place : places) {
    const auto add = [&](std::string_view name, std::string_view axes) {
      out.push_back({fmt::format("{}{} {}: {} {} {}", of, design.part.plies[ply].id, place, name, axes, unit), false, 1,
                     std::vector<double>(count, std::nan(""))});
    };
    for (const std::string_view name : names) add(name, "ply");
    for (const std::string_view axes : {"section", "part"})
      for (const std::string_view name : six_components) add(name, axes);
  }
  parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e)
      for (const result::PlyState& s :
           results.recovery.at(results.fields[c], results.cases[c], static_cast<ElementIndex>(e))) {
        if (s.ply != ply) continue;
        double values[] = {s.ply_stress[0], s.ply_stress[1], s.ply_stress[2],
                           s.ply_shear[0],  s.ply_shear[1],  s.ply_through};
        const auto section = result::stress_in_section(s),
                   part = result::stress_in_part(design, static_cast<ElementIndex>(e), s);
        const auto put = [&](std::size_t k, double value) {
          if (double& there = out[first + s.place * all + k].values[e]; std::isnan(there)) there = value;
        };
        for (std::size_t k = 0; k < own; ++k) put(k, values[k]);
        for (std::size_t k = 0; k < 6; ++k) put(own + k, section[k]), put(own + 6 + k, part[k]);
      }
  });
}

}  // namespace

std::vector<mesh::Array> result_fields(const Results& results, const FieldsToWrite& written) {
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
  of_elements("critical case", [&](ElementIndex e) {
    return critical(e).any() ? static_cast<double>(critical(e).case_index) + 1.0 : none;
  });
  of_elements("stress doubtful", [&](ElementIndex e) { return static_cast<double>(results.recovery.doubt(e)); });
  const bool several = results.fields.size() > 1;
  for (const model::CaseFields& fields : results.fields) {
    const std::string of = several ? fields.name + ": " : "";
    if (fields.displacements.size() >= nodes) {
      mesh::Array moved{fmt::format("{}displacement {}", of, length), true, 3, {}};
      moved.values.reserve(3 * nodes);
      for (std::size_t n = 0; n < nodes; ++n)
        moved.values.insert(moved.values.end(), fields.displacements[n].begin(), fields.displacements[n].end());
      out.push_back(std::move(moved));
      const auto of_nodes = [&](std::string name, const std::vector<Vec3>& values) {
        mesh::Array array{std::move(name), true, 3, {}};
        array.values.reserve(3 * nodes);
        for (std::size_t n = 0; n < nodes; ++n)
          array.values.insert(array.values.end(), values[n].begin(), values[n].end());
        out.push_back(std::move(array));
      };
      of_nodes(fmt::format("{}rotation rad", of), model::rotations(results.model.surface, fields.displacements));
      if (!fields.reactions.empty()) of_nodes(fmt::format("{}reaction {}", of, force), fields.reactions);
    }
    if (fields.sections.empty()) continue;
    const std::vector<result::SectionResultants> carried =
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
                  [&](ElementIndex e) { return carried[e].Q[k]; });
    for (const part::PlyId ply : written.plies)
      add_stresses(results, static_cast<std::size_t>(&fields - results.fields.data()), ply, of, out);
  }
  for (const model::CaseFields& fields : written.modes)
    for (std::size_t m = 0; m < fields.modes.size(); ++m) {
      const model::ModeField& mode = fields.modes[m];
      mesh::Array shape{
          fmt::format("{}: mode {}, {:.4g}{}", fields.name, m + 1, mode.value, mode.reversed ? " reversed" : ""),
          true,
          3,
          {}};
      for (std::size_t n = 0; n < nodes; ++n)
        shape.values.insert(shape.values.end(), mode.moved[n].begin(), mode.moved[n].end());
      out.push_back(std::move(shape));
    }
  return out;
}

void write_results(const Results& results, const std::string& path, const Progress& progress,
                   const FieldsToWrite& written) {
  if (path.ends_with(".csv")) return write_table(results, path, progress, written);
  if (!path.ends_with(".vtu"))
    throw Failure({Severity::error, "results.ending-unknown",
                   fmt::format("'{}' ends neither in .csv nor in .vtu", path), Place::in(path),
                   "name it so that its ending says what it is"});
  mesh::write(results.design.surface, path, result_fields(results, written));
}

}  // namespace bordado::review
