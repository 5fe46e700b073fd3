#include "sheet.hpp"

#include <bordado/base/text.hpp>

#include <bordado/base/files.hpp>
#include <bordado/base/findings.hpp>

#include <cairo-pdf.h>
#include <cairo-svg.h>
#include <cairo.h>

#include <fmt/format.h>

#include <array>
#include <cmath>

namespace bordado::drawing {

namespace {

struct Lab {
  double L, a, b;
};

Ink from_oklab(const Lab& c) {
  const double l = std::pow(c.L + 0.3963377774 * c.a + 0.2158037573 * c.b, 3),
               m = std::pow(c.L - 0.1055613458 * c.a - 0.0638541728 * c.b, 3),
               s = std::pow(c.L - 0.0894841775 * c.a - 1.291485548 * c.b, 3);
  const auto coded = [](double v) {
    v = std::clamp(v, 0.0, 1.0);
    return v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1.0 / 2.4) - 0.055;
  };
  return {coded(4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s),
          coded(-1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s),
          coded(-0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s)};
}

Lab lch(double L, double chroma, double hue) {
  return {L, chroma * Angle::degrees(hue).cos(), chroma * Angle::degrees(hue).sin()};
}

cairo_status_t put(void* to, const unsigned char* bytes, unsigned int count) {
  static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(bytes), count);
  return CAIRO_STATUS_SUCCESS;
}

}  // namespace

Ink direction_ink(Angle angle) {
  static const std::array knots = {lch(0.36, 0.03, 320), lch(0.66, 0.15, 50), lch(0.93, 0.03, 90), lch(0.62, 0.12, 245),
                                   lch(0.36, 0.03, 320)};
  const double t = std::clamp((same_fibre(angle).degrees() + 90.0) / 45.0, 0.0, 4.0);
  const std::size_t k = std::min<std::size_t>(3, static_cast<std::size_t>(t));
  const double f = t - static_cast<double>(k);
  const Lab &p = knots[k], &q = knots[k + 1];
  return from_oklab({p.L + f * (q.L - p.L), p.a + f * (q.a - p.a), p.b + f * (q.b - p.b)});
}

LineLook line_look(std::size_t curve) {
  static const std::vector<LineLook> looks = {
      {{0.11, 0.30, 0.55}, {}},           {{0.60, 0.20, 0.13}, {6, 2}}, {{0.16, 0.45, 0.27}, {2, 2}},
      {{0.52, 0.36, 0.06}, {8, 2, 2, 2}}, {{0.42, 0.20, 0.50}, {4, 4}}, {{0.20, 0.20, 0.20}, {1, 2}},
      {{0.11, 0.30, 0.55}, {2, 2}},       {{0.60, 0.20, 0.13}, {}},     {{0.16, 0.45, 0.27}, {6, 2}},
      {{0.52, 0.36, 0.06}, {1, 2}},       {{0.42, 0.20, 0.50}, {}},     {{0.20, 0.20, 0.20}, {8, 2, 2, 2}}};
  return looks[curve % looks.size()];
}

double round_above(double value) {
  const double power = std::pow(10.0, std::floor(std::log10(value)));
  for (const double m : {1.0, 2.0, 5.0})
    if (m * power >= value * (1.0 - 1e-9)) return m * power;
  return 10.0 * power;
}

struct Sheet::Device {
  OutputFile file;
  std::string bytes;
  cairo_surface_t* surface = nullptr;
  cairo_t* cairo = nullptr;

  Device(const std::string& path) : file(path) {}
  ~Device() {
    cairo_destroy(cairo);
    cairo_surface_destroy(surface);
  }
  Device(const Device&) = delete;
  Device& operator=(const Device&) = delete;

  void use(const Ink& ink) { cairo_set_source_rgb(cairo, ink.r, ink.g, ink.b); }
  void stroke(const Pen& pen) {
    use(pen.ink);
    cairo_set_line_width(cairo, pen.width);
    cairo_set_dash(cairo, pen.dashes.data(), static_cast<int>(pen.dashes.size()), 0.0);
    cairo_stroke(cairo);
  }
  void font(double size, bool bold) {
    cairo_select_font_face(cairo, "sans-serif", CAIRO_FONT_SLANT_NORMAL,
                           bold ? CAIRO_FONT_WEIGHT_BOLD : CAIRO_FONT_WEIGHT_NORMAL);
    cairo_set_font_size(cairo, size);
  }
  void trace(std::span<const Point> points, bool closed) {
    cairo_new_sub_path(cairo);
    for (const Point& p : points) cairo_line_to(cairo, p.x, p.y);
    if (closed) cairo_close_path(cairo);
  }
};

Sheet::Sheet(std::string path, double width, double height) {
  pdf_ = ends_in(path, ".pdf");
  if (!pdf_ && !ends_in(path, ".svg"))
    throw Failure({Severity::error, "drawing.ending-unknown",
                   fmt::format("the name of drawing '{}' ends neither in .svg nor in .pdf", path), Place::in(path),
                   "end it in .svg or .pdf"});
  device_ = std::make_unique<Device>(path);
  device_->surface = pdf_ ? cairo_pdf_surface_create_for_stream(put, &device_->bytes, width, height)
                          : cairo_svg_surface_create_for_stream(put, &device_->bytes, width, height);
  // The same drawing gives the same bytes: no date.
  if (pdf_) {
    cairo_pdf_surface_set_metadata(device_->surface, CAIRO_PDF_METADATA_CREATE_DATE, "2000-01-01T00:00:00Z");
    cairo_pdf_surface_set_metadata(device_->surface, CAIRO_PDF_METADATA_CREATOR,
                                   fmt::format("written by Bordado {}", version()).c_str());
  }
  device_->cairo = cairo_create(device_->surface);
  cairo_set_fill_rule(device_->cairo, CAIRO_FILL_RULE_EVEN_ODD);
  cairo_set_line_join(device_->cairo, CAIRO_LINE_JOIN_ROUND);
  rectangle({0.0, 0.0}, width, height, {1.0, 1.0, 1.0}, {{1.0, 1.0, 1.0}, 0.0, {}});
}

Sheet::~Sheet() = default;

void Sheet::next_page() { cairo_show_page(device_->cairo); }

void Sheet::line(std::span<const Point> points, const Pen& pen, bool closed) {
  device_->trace(points, closed);
  device_->stroke(pen);
}

void Sheet::area(std::span<const std::vector<Point>> outlines, const Ink& fill, const Pen& pen) {
  for (const auto& outline : outlines) device_->trace(outline, true);
  device_->use(fill);
  cairo_fill_preserve(device_->cairo);
  device_->stroke(pen);
}

void Sheet::rectangle(Point corner, double width, double height, const Ink& fill, const Pen& pen) {
  cairo_rectangle(device_->cairo, corner.x, corner.y, width, height);
  device_->use(fill);
  if (pen.width <= 0.0) {
    cairo_fill(device_->cairo);
    return;
  }
  cairo_fill_preserve(device_->cairo);
  device_->stroke(pen);
}

void Sheet::circle(Point centre, double radius, const Pen& pen) {
  cairo_new_sub_path(device_->cairo);
  cairo_arc(device_->cairo, centre.x, centre.y, radius, 0.0, 2.0 * std::numbers::pi);
  device_->stroke(pen);
}

double Sheet::width_of(double size, std::string_view words, bool bold) {
  device_->font(size, bold);
  cairo_text_extents_t extents;
  cairo_text_extents(device_->cairo, std::string(words).c_str(), &extents);
  return extents.x_advance;
}

void Sheet::text(Point at, double size, std::string_view words, Align align, const Ink& ink, bool bold) {
  const double width = width_of(size, words, bold);
  device_->use(ink);
  cairo_move_to(device_->cairo,
                at.x - (align == Align::left    ? 0.0
                        : align == Align::right ? width
                                                : 0.5 * width),
                at.y);
  cairo_show_text(device_->cairo, std::string(words).c_str());
  cairo_new_path(device_->cairo);
}

double Sheet::paragraph(Point at, double width, double size, std::string_view words) {
  std::string now;
  const auto put_line = [&] {
    text(at, size, now);
    at.y += 1.35 * size;
    now.clear();
  };
  while (!words.empty()) {
    const std::size_t end = std::min(words.find(' '), words.size());
    const std::string word(words.substr(0, end));
    words.remove_prefix(std::min(words.size(), end + 1));
    if (!now.empty() && width_of(size, now + " " + word) > width) put_line();
    now += (now.empty() ? "" : " ") + word;
  }
  if (!now.empty()) put_line();
  return at.y;
}

void Sheet::commit() {
  cairo_surface_finish(device_->surface);
  if (const cairo_status_t status = cairo_surface_status(device_->surface); status != CAIRO_STATUS_SUCCESS)
    throw Failure({Severity::error,
                   "file.not-written",
                   fmt::format("the drawing cannot be made: {}", cairo_status_to_string(status)),
                   {},
                   "nothing was left behind"});
  // Cairo numbers the drawings of a process.
  constexpr std::string_view id = "id=\"surface";
  if (const std::size_t at = device_->bytes.find(id); !pdf_ && at != std::string::npos) {
    const std::size_t from = at + id.size();
    device_->bytes.replace(from, device_->bytes.find('"', from) - from, "1");
  }
  if (const std::size_t at = device_->bytes.find("?>\n"); !pdf_ && at != std::string::npos)
    device_->bytes.insert(at + 3, fmt::format("<!-- written by Bordado {} -->\n", version()));
  device_->file.write(device_->bytes);
  device_->file.commit();
}

}  // namespace bordado::drawing
