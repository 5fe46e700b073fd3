// What came of a part on one page, as HTML and as PDF from the same tables.
#include "sheet.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/review/drawing.hpp>
#include <bordado/review/profile.hpp>
#include <bordado/summary.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::review {

namespace {

using result::Critical;

/// Stray last bits are nought.
std::string vector_text(const Vec3& v) {
  const auto clean = [&](double x) { return number(std::abs(x) < 1e-9 * v.norm() ? 0.0 : x); };
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
    const deck::Model::Case& one = results.model.cases[results.cases[c]];
    const Critical& least = results.reserves.of_cases[c];
    std::vector<std::string> row = {one.name, vector_text(deck::total(results.model, one).force), number(most)};
    if (least.any())
      row.insert(row.end(), {number(least.factor), std::string(laminate::words(least.mode)),
                             results.design.part.plies[least.ply].id,
                             std::to_string(results.design.surface.element_ids[least.element])});
    else
      row.insert(row.end(), {"-", "nothing by these criteria", "", ""});
    out.rows.push_back(std::move(row));
  }
  return out;
}

SummaryTable mode_table(const Results& results, std::span<const result::CaseFields> modes) {
  SummaryTable out{"Frequencies and buckling", {"case", "kind", "values"}, {}};
  for (const result::CaseFields& fields : modes) {
    const auto found = std::find_if(results.model.cases.begin(), results.model.cases.end(),
                                    [&](const deck::Model::Case& one) { return one.name == fields.name; });
    const bool buckling = found != results.model.cases.end() && found->analysis == part::Analysis::buckling;
    std::string values;
    std::size_t told = 0;
    for (const result::ModeField& mode : fields.modes) {
      if (mode.reversed) continue;
      if (++told > 6) break;
      values += fmt::format("{}{}", values.empty() ? "" : ", ", number(mode.value));
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
                   [](const auto& a, const auto& b) { return a.least().factor < b.least().factor; });
  SummaryTable out{std::string(title),
                   {std::string(of), "least reserve", "fails", "by", "ply", "element", "case", "beside steps"},
                   {}};
  constexpr std::size_t most = 12;
  for (const result::NamedLeast& row : rows) {
    if (out.rows.size() == most) {
      out.note = fmt::format("and {} more, with larger reserves", rows.size() - most);
      break;
    }
    const std::string beside = row.doubtful.any() ? number(row.doubtful.factor) : "";
    const Critical& one = row.clear;
    if (one.any())
      out.rows.push_back({row.name, number(one.factor), std::string(laminate::words(one.mode)),
                          std::string(laminate::name_of(one.criterion)), results.design.part.plies[one.ply].id,
                          std::to_string(results.design.surface.element_ids[one.element]),
                          results.model.cases[one.one].name, beside});
    else
      out.rows.push_back({row.name, "", row.doubtful.any() ? "beside steps only" : "not judged, or nothing fails", "",
                          "", "", "", beside});
  }
  return out;
}

}  // namespace

Summary summary(const Results& results, std::span<const result::CaseFields> modes, std::span<const Finding> findings) {
  const Design& design = results.design;
  const UnitSystem& units = design.part.units;
  const layup::Mass mass = layup::mass(design.part, design.geometry, design.layup);
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
    out.assumptions.push_back(fmt::format(
        "{} beside a step of thickness, where stresses of plies do not hold, {} told in a column of {} own.",
        counted(results.reserves.doubtful, "element"), results.reserves.doubtful == 1 ? "is" : "are",
        results.reserves.doubtful == 1 ? "its" : "their"));
  for (const Finding& finding : findings)
    if (finding.severity != Severity::note)
      out.findings.push_back(
          fmt::format("{}: {}", finding.severity == Severity::error ? "error" : "warning", finding.what));
  return out;
}

namespace {

std::string html(std::string_view text) {
  std::string out;
  for (const char c : text) out += c == '&' ? "&amp;" : c == '<' ? "&lt;" : c == '>' ? "&gt;" : std::string(1, c);
  return out;
}

void write_html(const Summary& summary, const std::string& path) {
  std::string out = fmt::format(
      "<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>{0}</title>\n<style>\n"
      "@page {{ size: A4; margin: 14mm; }}\nbody {{ font: 10.5px/1.4 'DejaVu Sans', sans-serif; color: #22262b; "
      "max-width: "
      "190mm; margin: 14mm auto; }}\nh1 {{ font-size: 18px; margin: 0; }} h2 {{ font-size: 12px; margin: 14px 0 4px; "
      "}}\n"
      "p {{ margin: 2px 0; }} .about {{ color: #77746f; }}\ntable {{ border-collapse: collapse; width: 100%; }}\n"
      "th {{ text-align: left; font-weight: normal; color: #77746f; border-bottom: 1px solid #ccc7bd; padding: 2px 6px "
      "2px 0; "
      "}}\ntd {{ padding: 2px 6px 2px 0; border-bottom: 1px solid #ece9e2; "
      "}}\n</style></head>\n<body>\n<h1>{0}</h1>\n<p "
      "class=\"about\">{1}</p>\n",
      html(summary.title), html(summary.subtitle));
  for (const SummaryTable& table : summary.tables) {
    out += fmt::format("<h2>{}</h2>\n<table>\n<tr>", html(table.title));
    for (const std::string& cell : table.head) out += fmt::format("<th>{}</th>", html(cell));
    out += "</tr>\n";
    for (const auto& row : table.rows) {
      out += "<tr>";
      for (const std::string& cell : row) out += fmt::format("<td>{}</td>", html(cell));
      out += "</tr>\n";
    }
    out += "</table>\n";
    if (!table.note.empty()) out += fmt::format("<p class=\"about\">{}</p>\n", html(table.note));
  }
  out += "<h2>Assumptions</h2>\n";
  for (const std::string& text : summary.assumptions) out += fmt::format("<p>{}</p>\n", html(text));
  if (!summary.findings.empty()) out += "<h2>Findings</h2>\n";
  for (const std::string& text : summary.findings) out += fmt::format("<p>{}</p>\n", html(text));
  out += fmt::format("<p class=\"about\">Bordado {}</p>\n</body></html>\n", version());
  OutputFile file(path);
  file.write(out);
  file.commit();
}

class SummarySheet {
 public:
  SummarySheet(const Summary& summary, const std::string& path) : summary_(summary), sheet_(path, width, height) {}

  void draw() {
    sheet_.text({margin, margin + 12}, 15, summary_.title, Align::left, dark, true);
    y_ = sheet_.paragraph({margin, margin + 28}, width - 2 * margin, 8, summary_.subtitle) + 6;
    for (const SummaryTable& table : summary_.tables) draw(table);
    paragraphs("Assumptions", summary_.assumptions);
    paragraphs("Findings", summary_.findings);
    sheet_.text({margin, height - 24}, 7,
                fmt::format("{}Bordado {}",
                            left_out_ ? "the rest does not fit this page: write .html for all of it. " : "", version()),
                Align::left, grey);
    sheet_.commit();
  }

 private:
  using Align = Sheet::Align;
  static constexpr double width = 595.0, height = 842.0, margin = 36.0, bottom = height - 44.0;

  bool room(double for_it) {
    if (y_ + for_it <= bottom) return true;
    left_out_ = true;
    return false;
  }

  void draw(const SummaryTable& table) {
    if (table.rows.empty() || !room(40)) return;
    y_ += 10;
    sheet_.text({margin, y_}, 10, table.title, Align::left, dark, true);
    y_ += 13;
    // As wide as their widest cell; what is too much for the page is taken from the widest.
    std::vector<double> wide(table.head.size(), 0.0);
    const auto measure = [&](const std::vector<std::string>& row, double size) {
      for (std::size_t k = 0; k < row.size(); ++k) wide[k] = std::max(wide[k], sheet_.width_of(size, row[k]) + 8.0);
    };
    measure(table.head, 7);
    for (const auto& row : table.rows) measure(row, 7.5);
    double sum = 0.0;
    for (const double w : wide) sum += w;
    const double scale = std::min(1.0, (width - 2 * margin) / sum);
    const auto put = [&](const std::vector<std::string>& row, double size, const Ink& ink) {
      double x = margin;
      for (std::size_t k = 0; k < row.size(); ++k) {
        sheet_.text({x, y_}, size * std::max(0.7, scale), row[k], Align::left, ink);
        x += wide[k] * scale;
      }
    };
    put(table.head, 7, grey);
    sheet_.line({{margin, y_ + 3}, {width - margin, y_ + 3}}, {hair, 0.5, {}});
    y_ += 12;
    for (const auto& row : table.rows) {
      if (!room(11)) return;
      put(row, 7.5, dark);
      y_ += 11;
    }
    if (!table.note.empty() && room(11)) {
      sheet_.text({margin, y_}, 7, table.note, Align::left, grey);
      y_ += 11;
    }
  }

  void paragraphs(std::string_view title, const std::vector<std::string>& all) {
    if (all.empty() || !room(30)) return;
    y_ += 10;
    sheet_.text({margin, y_}, 10, title, Align::left, dark, true);
    y_ += 13;
    for (const std::string& text : all) {
      if (!room(24)) return;
      y_ = sheet_.paragraph({margin, y_}, width - 2 * margin, 7.5, text) + 2;
    }
  }

  const Summary& summary_;
  Sheet sheet_;
  double y_ = 0.0;
  bool left_out_ = false;
};

}  // namespace

void write(const Summary& summary, const std::string& path) {
  if (path.ends_with(".html")) return write_html(summary, path);
  if (path.ends_with(".pdf")) return SummarySheet(summary, path).draw();
  throw Failure({Severity::error, "summary.ending-unknown", fmt::format("'{}' ends neither in .html nor in .pdf", path),
                 Place::in(path), "name it so that its ending says what it is"});
}

}  // namespace bordado::review
