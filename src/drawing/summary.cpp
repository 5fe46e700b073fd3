// What came of a part on one page, as HTML and as PDF from the same tables.
#include "frames.hpp"
#include "sheet.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/summary.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::drawing {

using review::Summary;
using review::SummaryTable;

namespace {

/// As an SVG.
std::string drawn(const PictureSheet& pictures) {
  constexpr double width = 720.0, height = 250.0;
  Sheet sheet(width, height);
  draw_frames(pictures, sheet, {0, 10}, width, height - 10);
  return sheet.text();
}

void write_html(const Summary& summary, const PictureSheet& pictures, const std::string& path) {
  std::string out = fmt::format(
      "<!doctype html>\n<!-- written by Bordado -->\n<html lang=\"en\"><head><meta "
      "charset=\"utf-8\"><title>{0}</title>\n<style>\n"
      "@page {{ size: A4; margin: 14mm; }}\nbody {{ font: 10.5px/1.4 'DejaVu Sans', sans-serif; color: #22262b; "
      "max-width: "
      "190mm; margin: 14mm auto; }}\nh1 {{ font-size: 18px; margin: 0; }} h2 {{ font-size: 12px; margin: 14px 0 4px; "
      "}}\n"
      "p {{ margin: 2px 0; }} .about {{ color: #77746f; }}\ntable {{ border-collapse: collapse; width: 100%; }}\n"
      "th {{ text-align: left; font-weight: normal; color: #77746f; border-bottom: 1px solid #ccc7bd; padding: 2px 6px "
      "2px 0; "
      "}}\nsvg {{ width: 100%; height: auto; }}\ntd {{ padding: 2px 6px 2px 0; border-bottom: 1px solid #ece9e2; "
      "}}\n</style></head>\n<body>\n<h1>{0}</h1>\n<p "
      "class=\"about\">{1}</p>\n",
      as_html(summary.title), as_html(summary.subtitle));
  for (const SummaryTable& table : summary.tables) {
    out += fmt::format("<h2>{}</h2>\n<table>\n<tr>", as_html(table.title));
    for (const std::string& cell : table.head) out += fmt::format("<th>{}</th>", as_html(cell));
    out += "</tr>\n";
    for (const auto& row : table.rows) {
      out += "<tr>";
      for (const std::string& cell : row) out += fmt::format("<td>{}</td>", as_html(cell));
      out += "</tr>\n";
    }
    out += "</table>\n";
    if (!table.note.empty()) out += fmt::format("<p class=\"about\">{}</p>\n", as_html(table.note));
  }
  if (!pictures.frames.empty()) out += drawn(pictures);
  out += "<h2>Assumptions</h2>\n";
  for (const std::string& text : summary.assumptions) out += fmt::format("<p>{}</p>\n", as_html(text));
  if (!summary.findings.empty()) out += "<h2>Findings</h2>\n";
  for (const std::string& text : summary.findings) out += fmt::format("<p>{}</p>\n", as_html(text));
  out += fmt::format("<p class=\"about\">Bordado {}</p>\n</body></html>\n", version());
  OutputFile file(path);
  file.write(out);
  file.commit();
}

class SummarySheet {
 public:
  SummarySheet(const Summary& summary, const PictureSheet& pictures, const std::string& path)
      : summary_(summary), pictures_(pictures), sheet_(path, width, height) {}

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
    pictures();
    sheet_.commit();
  }

 private:
  void pictures() {
    if (pictures_.frames.empty()) return;
    constexpr double tall = 190.0;
    double y = y_ + 8;
    if (y + tall > bottom) {
      sheet_.next_page();
      y = margin;
    }
    draw_frames(pictures_, sheet_, {margin, y}, width - 2 * margin, tall);
  }

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
  const PictureSheet& pictures_;
  Sheet sheet_;
  double y_ = 0.0;
  bool left_out_ = false;
};

}  // namespace

PictureSheet summary_pictures(const review::Results& results, std::span<const model::CaseFields> modes) {
  PictureSheet out;
  out.length_unit = results.design.part.units.unit(Dimension::length);
  const auto arrays = review::result_fields(results, {modes});
  const auto add = [&](const mesh::Array* array) {
    if (!array) return;
    const auto doubtful = review::arrays_named(arrays, "stress doubtful");
    PictureFrame frame = frame_of(results.design.surface, review::shown(results.design, *array, {},
                                                                        doubtful.empty() ? nullptr : doubtful.front()));
    if (frame.surface->element_count() == 0) return;
    frame.scale = out.frames.size();
    out.frames.push_back(std::move(frame));
  };
  const auto most = [](const mesh::Array& array) {
    double largest = 0.0;
    for (std::size_t i = 0; i + 2 < array.values.size(); i += 3)
      largest = std::max(largest, std::hypot(array.values[i], array.values[i + 1], array.values[i + 2]));
    return largest;
  };
  const mesh::Array *moved = nullptr, *reserve = nullptr;
  for (const mesh::Array& array : arrays) {
    if (array.name.find("displacement ") != std::string::npos && (!moved || most(array) > most(*moved))) moved = &array;
    if (array.name == "reserve" &&
        std::any_of(array.values.begin(), array.values.end(), [](double v) { return std::isfinite(v); }))
      reserve = &array;
  }
  add(moved), add(reserve);
  for (const mesh::Array& array : arrays)
    if (array.name.find(": mode 1,") != std::string::npos && out.frames.size() < 4) add(&array);
  return out;
}

void write(const Summary& summary, const PictureSheet& pictures, const std::string& path) {
  if (ends_in(path, ".html")) return write_html(summary, pictures, path);
  if (ends_in(path, ".pdf")) return SummarySheet(summary, pictures, path).draw();
  throw Failure({Severity::error, "summary.ending-unknown", fmt::format("'{}' ends neither in .html nor in .pdf", path),
                 Place::in(path), "name it so that its ending says what it is"});
}

}  // namespace bordado::drawing
