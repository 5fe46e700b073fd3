// A sheet to draw on: SVG or PDF by Cairo, in points (1/72 inch), y downwards.
#pragma once

#include <bordado/base/units.hpp>

#include <array>
#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace bordado::drawing {

/// sRGB, 0 to 1.
struct Ink {
  double r = 0.13, g = 0.15, b = 0.17;
};
inline constexpr Ink dark{}, grey{0.47, 0.46, 0.44}, hair{0.80, 0.78, 0.74}, accent{0.60, 0.20, 0.13};

/// A fibre's direction as the review page colours it: 0° light, +45° blue, 90° dark, -45° orange; straight between
/// these in OKLab (B. Ottosson, A perceptual color space for image processing, 2020).
Ink direction_ink(Angle angle);
/// Likewise, as the page has them: from straw to dark indigo, lightness falling evenly, for 0 to 1; one of a row of kinds. And for
/// what has a sign, from blue by white to red, nought at 0.5.
Ink amount_ink(double share);
Ink kind_ink(std::size_t kind);
Ink signed_ink(double share);
inline constexpr Ink core_ink{0.925, 0.878, 0.729};

/// A4, lying, in points.
inline constexpr double page_width = 842.0, page_height = 595.0, margin = 36.0;

class Sheet {
 public:
  enum class Align { left, middle, right };
  struct Point {
    double x = 0.0, y = 0.0;
  };
  struct Pen {
    Ink ink = dark;
    double width = 0.6;
    std::vector<double> dashes = {};
  };

  /// Whether a sheet may be an image (.png), too.
  enum class Images : std::uint8_t { none, too };
  /// \throws Failure "drawing.ending-unknown" where the path ends neither in .svg nor in .pdf (nor in .png where it may);
  /// "file.not-writable".
  Sheet(std::string path, double width, double height, Images images = Images::none);
  /// An SVG that no file holds: text() has it in the end.
  Sheet(double width, double height);
  ~Sheet();
  Sheet(const Sheet&) = delete;
  Sheet& operator=(const Sheet&) = delete;

  bool has_pages() const { return pdf_; }
  void next_page();

  void line(std::span<const Point> points, const Pen& pen, bool closed = false);
  void line(std::initializer_list<Point> points, const Pen& pen) {
    line(std::span(points.begin(), points.size()), pen);
  }
  /// Closed outlines; where they lie in each other the inner one is a hole.
  void area(std::span<const std::vector<Point>> outlines, const Ink& fill, const Pen& pen);
  void rectangle(Point corner, double width, double height, const Ink& fill, const Pen& pen);
  void circle(Point centre, double radius, const Pen& pen);
  void text(Point at, double size, std::string_view words, Align align = Align::left, const Ink& ink = dark,
            bool bold = false);
  /// Pixels row by row from the top: red, green, blue and how much of it covers, 0 to 255.
  void image(Point corner, double width, double height, int columns, int rows,
             std::span<const std::array<std::uint8_t, 4>> pixels);
  double width_of(double size, std::string_view words, bool bold = false);
  /// Words on as many lines as it takes. \returns y below the last.
  double paragraph(Point at, double width, double size, std::string_view words);

  /// Puts the file in place. Without it nothing is left.
  void commit();
  /// In the place of commit() where there is no file: from its first tag on.
  std::string text();

 private:
  void begin(double width, double height);
  void end();

  struct Device;
  std::unique_ptr<Device> device_;
  bool pdf_ = false, png_ = false;
};

/// Ink and dashes of a curve among others, told apart without colour, too.
struct LineLook {
  Ink ink;
  std::vector<double> dashes;
};
LineLook line_look(std::size_t curve);

/// The next of 1, 2, 5, 10, ... at or above a positive value.
double round_above(double value);

}  // namespace bordado::drawing
