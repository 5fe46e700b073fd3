#include "sheet.hpp"

#include <bordado/base/text.hpp>

#include <bordado/base/files.hpp>
#include <bordado/base/findings.hpp>

#include <cairo-pdf.h>
#include <cairo-svg.h>
#include <cairo.h>
#include <zlib.h>

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <cstring>
#include <optional>

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

/// A colour at a place of a scale.
struct Knot {
  double at;
  Lab colour;
};
/// Between knots straight in OKLab.
Ink through(std::span<const Knot> knots, double share) {
  std::size_t k = 0;
  while (k + 2 < knots.size() && share > knots[k + 1].at) ++k;
  const Knot &p = knots[k], &q = knots[k + 1];
  const double f = std::clamp((share - p.at) / (q.at - p.at), 0.0, 1.0);
  return from_oklab({p.colour.L + f * (q.colour.L - p.colour.L), p.colour.a + f * (q.colour.a - p.colour.a),
                     p.colour.b + f * (q.colour.b - p.colour.b)});
}

cairo_status_t put(void* to, const unsigned char* bytes, unsigned int count) {
  static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(bytes), count);
  return CAIRO_STATUS_SUCCESS;
}

/// Pixels of an image for a point of the sheet.
constexpr double image_scale = 2.0;

/// Says in a PNG file, behind its head, that Bordado wrote it (W3C, Portable Network Graphics, 11.3.4.3).
void say_who(std::string& png) {
  std::string text = fmt::format("tEXtSoftware{}written by Bordado {}", '\0', version());
  const auto number = [](std::uint32_t value) {
    std::string out;
    for (int shift = 24; shift >= 0; shift -= 8) out += static_cast<char>((value >> shift) & 255u);
    return out;
  };
  const auto sum =
      static_cast<std::uint32_t>(crc32(0, reinterpret_cast<const Bytef*>(text.data()), static_cast<uInt>(text.size())));
  constexpr std::size_t head = 8 + 25;  // signature and IHDR
  png.insert(head, number(static_cast<std::uint32_t>(text.size() - 4)) + text + number(sum));
}

/// Cairo numbers the surfaces of a process: `id="image12"` and what points to it from 1, in the order of the file.
void number_anew(std::string& svg, std::string_view thing) {
  const std::string id = fmt::format("id=\"{}", thing);
  int count = 0;
  for (std::size_t at = svg.find(id); at != std::string::npos; at = svg.find(id, at + 1)) {
    const std::size_t from = at + id.size(), end = svg.find('"', from);
    const std::string was = fmt::format("#{}{}\"", thing, svg.substr(from, end - from)),
                      is = fmt::format("#{}-{}\"", thing, ++count);
    svg.replace(from, end - from, fmt::format("-{}", count));
    for (std::size_t to = svg.find(was); to != std::string::npos; to = svg.find(was, to + is.size()))
      svg.replace(to, was.size(), is);
  }
}

}  // namespace

Ink direction_ink(Angle angle) {
  static const std::array knots = {Knot{0.0, lch(0.36, 0.03, 320)}, Knot{0.25, lch(0.66, 0.15, 50)},
                                   Knot{0.5, lch(0.93, 0.03, 90)}, Knot{0.75, lch(0.62, 0.12, 245)},
                                   Knot{1.0, lch(0.36, 0.03, 320)}};
  return through(knots, (same_fibre(angle).degrees() + 90.0) / 180.0);
}

Ink amount_ink(double share) {
  static const std::array knots = {Knot{0.0, lch(0.93, 0.07, 100)}, Knot{0.35, lch(0.705, 0.1, 165)},
                                   Knot{0.7, lch(0.48, 0.1, 240)}, Knot{1.0, lch(0.28, 0.11, 285)}};
  return through(knots, share);
}

Ink signed_ink(double share) {
  static const std::array knots = {Knot{0.0, lch(0.36, 0.12, 255)}, Knot{0.5, lch(0.96, 0.01, 100)},
                                   Knot{1.0, lch(0.46, 0.14, 32)}};
  return through(knots, share);
}

Ink kind_ink(std::size_t kind) {
  struct Hue {
    double L, chroma, hue;
  };
  static constexpr std::array<Hue, 10> hues{{{0.8, 0.09, 230},
                                             {0.6, 0.13, 45},
                                             {0.88, 0.11, 100},
                                             {0.53, 0.08, 165},
                                             {0.72, 0.1, 350},
                                             {0.42, 0.11, 275},
                                             {0.76, 0.12, 145},
                                             {0.55, 0.09, 10},
                                             {0.87, 0.05, 300},
                                             {0.6, 0.03, 90}}};
  const auto [L, chroma, hue] = hues[kind % hues.size()];
  const auto round = static_cast<double>(kind / hues.size() % 3);
  return from_oklab(lch(std::min(0.95, L + 0.06 * round), chroma * (1.0 - 0.25 * round), hue + 12.0 * round));
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
  std::optional<OutputFile> file;
  std::string bytes;
  cairo_surface_t* surface = nullptr;
  cairo_t* cairo = nullptr;

  Device() = default;
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

Sheet::Sheet(std::string path, double width, double height, Images images) {
  pdf_ = ends_in(path, ".pdf");
  png_ = images == Images::too && ends_in(path, ".png");
  if (!pdf_ && !png_ && !ends_in(path, ".svg")) {
    const std::string_view endings = images == Images::too ? ".svg, .pdf or .png" : ".svg or .pdf";
    throw Failure({Severity::error, "drawing.ending-unknown",
                   images == Images::too
                       ? fmt::format("the name of drawing '{}' ends in none of {}", path, endings)
                       : fmt::format("the name of drawing '{}' ends neither in .svg nor in .pdf", path),
                   Place::in(path), fmt::format("end it in {}", endings)});
  }
  device_ = std::make_unique<Device>();
  device_->file.emplace(path);
  begin(width, height);
}

Sheet::Sheet(double width, double height) : device_(std::make_unique<Device>()) { begin(width, height); }

void Sheet::begin(double width, double height) {
  device_->surface =
      pdf_   ? cairo_pdf_surface_create_for_stream(put, &device_->bytes, width, height)
      : png_ ? cairo_image_surface_create(CAIRO_FORMAT_RGB24, static_cast<int>(std::lround(image_scale * width)),
                                          static_cast<int>(std::lround(image_scale * height)))
             : cairo_svg_surface_create_for_stream(put, &device_->bytes, width, height);
  // The same drawing gives the same bytes: no date.
  if (pdf_) {
    cairo_pdf_surface_set_metadata(device_->surface, CAIRO_PDF_METADATA_CREATE_DATE, "2000-01-01T00:00:00Z");
    cairo_pdf_surface_set_metadata(device_->surface, CAIRO_PDF_METADATA_CREATOR,
                                   fmt::format("written by Bordado {}", version()).c_str());
  }
  device_->cairo = cairo_create(device_->surface);
  if (png_) cairo_scale(device_->cairo, image_scale, image_scale);
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

void Sheet::image(Point corner, double width, double height, int columns, int rows,
                  std::span<const std::array<std::uint8_t, 4>> pixels) {
  cairo_surface_t* const image = cairo_image_surface_create(CAIRO_FORMAT_ARGB32, columns, rows);
  if (cairo_surface_status(image) == CAIRO_STATUS_SUCCESS) {
    unsigned char* const bytes = cairo_image_surface_get_data(image);
    const auto stride = static_cast<std::size_t>(cairo_image_surface_get_stride(image));
    for (std::size_t row = 0; row < static_cast<std::size_t>(rows); ++row)
      for (std::size_t column = 0; column < static_cast<std::size_t>(columns); ++column) {
        const auto& [r, g, b, a] = pixels[row * static_cast<std::size_t>(columns) + column];
        const auto part = [alpha = std::uint32_t{a}](std::uint8_t value) { return value * alpha / 255u; };
        const std::uint32_t whole = (std::uint32_t{a} << 24) | (part(r) << 16) | (part(g) << 8) | part(b);
        std::memcpy(bytes + row * stride + 4 * column, &whole, 4);
      }
    cairo_surface_mark_dirty(image);
    cairo_save(device_->cairo);
    cairo_translate(device_->cairo, corner.x, corner.y);
    cairo_scale(device_->cairo, width / columns, height / rows);
    cairo_set_source_surface(device_->cairo, image, 0.0, 0.0);
    cairo_paint(device_->cairo);
    cairo_restore(device_->cairo);
  }
  cairo_surface_destroy(image);
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

void Sheet::end() {
  if (png_) cairo_surface_write_to_png_stream(device_->surface, put, &device_->bytes);
  cairo_surface_finish(device_->surface);
  if (const cairo_status_t status = cairo_surface_status(device_->surface); status != CAIRO_STATUS_SUCCESS)
    throw Failure({Severity::error,
                   "file.not-written",
                   fmt::format("the drawing cannot be made: {}", cairo_status_to_string(status)),
                   {},
                   "nothing was left behind"});
  if (!pdf_ && !png_)
    for (const std::string_view thing : {"surface", "image"}) number_anew(device_->bytes, thing);
  if (const std::size_t at = device_->bytes.find("?>\n"); !pdf_ && !png_ && at != std::string::npos)
    device_->bytes.insert(at + 3, fmt::format("<!-- written by Bordado {} -->\n", version()));
  if (png_ && device_->bytes.size() > 33) say_who(device_->bytes);
}

void Sheet::commit() {
  end();
  device_->file->write(device_->bytes);
  device_->file->commit();
}

std::string Sheet::text() {
  end();
  return device_->bytes.substr(std::min(device_->bytes.find("<svg"), device_->bytes.size()));
}

}  // namespace bordado::drawing
