// What came of a part on one page.
#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/review/summary.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::review {

namespace {

using result::Critical;

/// Stray last bits are nought.
std::string vector_text(const Vec3& v) {
  const auto clean = [&](double x) { return rounded_text(std::abs(x) < 1e-9 * v.norm() ? 0.0 : x); };
  return fmt::format("{} {} {}", clean(v.x()), clean(v.y()), clean(v.z()));
}

SummaryTable static_cases(const Results& results) {
  const UnitSystem& units = results.design.part.units;
  const std::string length = units.unit(Dimension::length), force = units.unit(Dimension::force);
  SummaryTable out{
      "Static cases",
      {"case", "loads in all, " + force, "largest deflection, " + length, "least reserve", "fails", "ply", "element"},
      {}};
  for (std::size_t c = 0; c < results.fields.size(); ++c) {
    double most = 0.0;
    for (const Vec3& v : results.fields[c].displacements) most = std::max(most, v.norm());
    const model::Model::Case& load_case = results.model.cases[results.cases[c]];
    const Critical& least = results.reserves.of_cases[c].told();
    std::vector<std::string> row = {load_case.name, vector_text(model::total(results.model, load_case).force),
                                    rounded_text(most)};
    if (least.any())
      row.insert(
          row.end(),
          {rounded_text(least.factor),
           fmt::format("{}{}{}", laminate::words(least.mode), least.doubtful() ? ", " : "", result::words(least.doubt)),
           results.design.part.plies[least.ply].id, std::to_string(results.design.surface.element_ids[least.element])});
    else
      row.insert(row.end(), {"-", "nothing by these criteria", "", ""});
    out.rows.push_back(std::move(row));
  }
  return out;
}

SummaryTable mode_table(const Results& results, std::span<const model::CaseFields> modes) {
  SummaryTable out{"Frequencies and buckling", {"case", "kind", "values"}, {}};
  for (const model::CaseFields& fields : modes) {
    const auto found = std::find_if(results.model.cases.begin(), results.model.cases.end(),
                                    [&](const model::Model::Case& load_case) { return load_case.name == fields.name; });
    const bool buckling = found != results.model.cases.end() && found->analysis == part::Analysis::buckling;
    std::string values;
    std::size_t told = 0;
    for (const model::ModeField& mode : fields.modes) {
      if (mode.reversed) continue;
      if (++told > 6) break;
      values += fmt::format("{}{}", values.empty() ? "" : ", ", rounded_text(mode.value));
    }
    out.rows.push_back({fields.name,
                        buckling ? "factors of the loads"
                                 : fmt::format("frequencies, 1/{}", results.design.part.units.unit(Dimension::time)),
                        values.empty() ? "none found" : values});
  }
  return out;
}

/// Least first, those that nothing is known of at the end.
SummaryTable least_by(const Results& results, std::string_view title, std::string_view of,
                      std::vector<result::NamedLeast> rows) {
  std::stable_sort(rows.begin(), rows.end(),
                   [](const auto& a, const auto& b) { return a.of_both().factor < b.of_both().factor; });
  SummaryTable out{std::string(title),
                   {std::string(of), "least reserve", "fails", "by", "ply", "element", "case", "doubtful places"},
                   {}};
  constexpr std::size_t most = 12;
  for (const result::NamedLeast& row : rows) {
    if (out.rows.size() == most) {
      out.note = fmt::format("and {} more, with larger reserves", rows.size() - most);
      break;
    }
    const std::string beside = row.doubtful.any() ? rounded_text(row.doubtful.factor) : "";
    const Critical& one = row.clear;
    if (one.any())
      out.rows.push_back({row.name, rounded_text(one.factor), std::string(laminate::words(one.mode)),
                          std::string(laminate::name_of(one.criterion)), results.design.part.plies[one.ply].id,
                          std::to_string(results.design.surface.element_ids[one.element]),
                          results.model.cases[one.case_index].name, beside});
    else
      out.rows.push_back({row.name, "", row.doubtful.any() ? "at doubtful places only" : "not judged, or nothing fails",
                          "", "", "", "", beside});
  }
  return out;
}

}  // namespace

Summary summary(const Results& results, std::span<const model::CaseFields> modes, std::span<const Finding> findings) {
  const Design& design = results.design;
  const UnitSystem& units = design.part.units;
  const layup::Mass mass = layup::mass(design);
  Summary out;
  out.title = design.part.name;
  out.subtitle = fmt::format("{}{}: {:.4g} kg, {:.4g} m², {}, {} plies, {}", design.part.file,
                             design.part.variant.empty() ? "" : " (" + design.part.variant + ")",
                             mass.mass * units.to_si(Dimension::mass), mass.area * units.to_si(Dimension::area),
                             counted(design.surface.element_count(), "element"), design.part.plies.size(),
                             counted(design.sections.count(), "section"));
  if (!results.fields.empty()) out.tables.push_back(static_cases(results));
  if (!modes.empty()) out.tables.push_back(mode_table(results, modes));
  out.tables.push_back(
      least_by(results, "Least reserve by material", "material", result::least_of_materials(design, results.reserves)));
  out.tables.push_back(
      least_by(results, "Least reserve by zone", "zone", result::least_of_zones(design, results.reserves)));
  std::string criteria;
  for (const laminate::Criterion criterion : results.recovery.criteria())
    criteria += fmt::format("{}{}", criteria.empty() ? "" : ", ", laminate::name_of(criterion));
  out.assumptions = {
      "Reserves: by what the loads may be multiplied until something fails, temperatures held; criteria: " + criteria +
          ".",
      "Stresses of plies by lamination theory from the solver's section strains, means over elements; transverse shear "
      "by "
      "equilibrium.",
      fmt::format("Sections are off by at most {:.2g} % in A and {:.2g} % in D.",
                  100.0 * design.sections.deviation.largest_A, 100.0 * design.sections.deviation.largest_D)};
  if (results.reserves.doubtful > 0)
    out.assumptions.push_back(
        fmt::format("{} beside steps of thickness, at point forces or points that are held, where stresses of plies do "
                    "not hold, {} told in a "
                    "column of {} own.",
                    counted(results.reserves.doubtful, "element"), results.reserves.doubtful == 1 ? "is" : "are",
                    results.reserves.doubtful == 1 ? "its" : "their"));
  for (const Finding& finding : findings)
    if (finding.severity != Severity::note)
      out.findings.push_back(
          fmt::format("{}: {}", finding.severity == Severity::error ? "error" : "warning", finding.what));
  return out;
}

}  // namespace bordado::review
