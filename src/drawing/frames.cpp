// Pictures of a part within a box of a sheet.
#include "frames.hpp"

#include "raster.hpp"

#include <bordado/base/findings.hpp>
#include <bordado/base/text.hpp>
#include <bordado/base/work.hpp>

#include <Eigen/Geometry>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <stdexcept>

namespace bordado::drawing {

namespace {

using Align = Sheet::Align;
using Point = Sheet::Point;
using review::Colouring;
using review::Stroke;

/// What lies right, upright and towards the eye on the picture.
struct Axes {
  Vec3 right, up, near;
};
Axes axes_of(const View& view) {
  Axes out;
  out.near = view.towards_eye.stableNormalized();
  Vec3 right = view.up.cross(out.near);
  if (!(right.norm() > 1e-6 * view.up.norm()))
    right = (std::abs(out.near.x()) < 0.9 ? Vec3::UnitX() : Vec3::UnitY()).cross(out.near);
  out.right = right.normalized();
  out.up = out.near.cross(out.right);
  return out;
}

/// Triangles of an element, by the places of its nodes.
using Part = std::array<std::uint8_t, 3>;
std::span<const Part> parts_of(mesh::Shape shape) {
  static constexpr std::array<Part, 1> triangle{{{0, 1, 2}}};
  static constexpr std::array<Part, 2> quadrilateral{{{0, 1, 2}, {0, 2, 3}}};
  static constexpr std::array<Part, 4> triangle6{{{0, 3, 5}, {3, 1, 4}, {5, 4, 2}, {3, 4, 5}}};
  static constexpr std::array<Part, 6> quadrilateral8{
      {{0, 4, 7}, {4, 1, 5}, {5, 2, 6}, {6, 3, 7}, {4, 5, 6}, {4, 6, 7}}};
  switch (shape) {
    case mesh::Shape::triangle3:
      return triangle;
    case mesh::Shape::quadrilateral4:
      return quadrilateral;
    case mesh::Shape::triangle6:
      return triangle6;
    default:
      return quadrilateral8;
  }
}

/// Sides of elements, each once: bold at the border and along folds beyond 30 degrees, the others thin where they are asked for.
std::vector<RasterLine> lines_of(const mesh::Surface& surface, Lines which, std::span<const std::uint8_t> shown) {
  std::vector<RasterLine> out;
  if (which == Lines::none) return out;
  const mesh::Geometry geometry = mesh::geometry(surface);
  const mesh::EdgeTable table = mesh::edges(surface);
  constexpr double fold = 0.8660254037844387;
  for (std::size_t j = 0; j < table.size(); ++j) {
    std::vector<mesh::EdgeTable::Use> uses;
    for (std::uint32_t u = table.first[j]; u < table.first[j + 1]; ++u)
      if (shown.empty() || shown[table.uses[u].element]) uses.push_back(table.uses[u]);
    if (uses.empty()) continue;
    const bool bold =
        uses.size() != 2 || std::abs(geometry.normals[uses[0].element].dot(geometry.normals[uses[1].element])) < fold;
    if (!bold && which == Lines::borders) continue;
    const auto nodes = surface.nodes_of(uses[0].element);
    const std::size_t corners = surface.corners_of(uses[0].element).size(), side = uses[0].side;
    const mesh::NodeIndex a = nodes[side], b = nodes[(side + 1) % corners];
    if (nodes.size() == corners) {
      out.push_back({{a, b}, bold});
    } else {
      const mesh::NodeIndex middle = nodes[corners + side];
      out.push_back({{a, middle}, bold});
      out.push_back({{middle, b}, bold});
    }
  }
  return out;
}

constexpr Pixel no_value{200, 198, 194, 255}, below_one{153, 51, 33, 255};

Ink ink_of(const Pixel& pixel) { return {pixel[0] / 255.0, pixel[1] / 255.0, pixel[2] / 255.0}; }
Pixel pixel_of(const Ink& ink) {
  const auto byte = [](double part) { return static_cast<std::uint8_t>(std::lround(255.0 * part)); };
  return {byte(ink.r), byte(ink.g), byte(ink.b), 255};
}

/// How values of all frames of one scale become colours.
struct ColourScale {
  double low = 0.0, high = 1.0;
  bool about_nought = false, reserve = false;
  std::vector<std::string> categories;
  std::size_t frames = 0, below = 0;  ///< that have it; elements whose reserve is below one
  double share(double value) const {
    const double at = high > low ? (value - low) / (high - low) : 0.5;
    return reserve ? 1.0 - at : at;
  }
  Pixel pixel(double at) const { return pixel_of(about_nought ? signed_ink(at) : amount_ink(at)); }
  std::size_t category(const std::string& name) const {
    return static_cast<std::size_t>(std::find(categories.begin(), categories.end(), name) - categories.begin());
  }
};

/// What is far from failing is all alike, as on the review page: ten times the load, or three times what the worst place bears.
double most_of_reserves(double least) {
  if (!(least > 10.0 / 3.0)) return 10.0;
  const double power = std::pow(10.0, std::floor(std::log10(3.0 * least)));
  for (const double m : {1.0, 2.0, 5.0})
    if (m * power >= 3.0 * least) return m * power;
  return 10.0 * power;
}

std::vector<ColourScale> scales_of(const PictureSheet& sheet) {
  std::vector<ColourScale> out;
  std::vector<std::optional<std::array<double, 2>>> ranges;
  for (const PictureFrame& frame : sheet.frames) {
    if (frame.scale >= out.size()) out.resize(frame.scale + 1), ranges.resize(frame.scale + 1);
    ColourScale& scale = out[frame.scale];
    ++scale.frames;
    scale.reserve = scale.reserve || frame.colouring.reserve;
    for (const std::string& name : frame.colouring.categories)
      if (scale.category(name) == scale.categories.size()) scale.categories.push_back(name);
    if (frame.colouring.reserve) {
      const std::vector<double> values = values_of(frame);
      scale.below += static_cast<std::size_t>(
          std::count_if(values.begin(), values.end(), [](double value) { return value < 1.0; }));
    }
    const auto own = range_of(frame);
    auto& range = ranges[frame.scale];
    if (own && frame.colouring.categories.empty())
      range = range ? std::array{std::min((*range)[0], (*own)[0]), std::max((*range)[1], (*own)[1])} : *own;
  }
  for (std::size_t s = 0; s < out.size(); ++s) {
    ColourScale& scale = out[s];
    if (scale.reserve && ranges[s] && !sheet.range)
      (*ranges[s])[1] = std::min((*ranges[s])[1], most_of_reserves((*ranges[s])[0]));
    if (sheet.range) ranges[s] = sheet.range;
    if (!ranges[s]) continue;
    const auto [low, high] = *ranges[s];
    scale.low = low, scale.high = high;
    // Rounding is no sign.
    if (low < 0.0 && high > 0.0 && std::min(-low, high) > 0.01 * std::max(-low, high) && !sheet.range)
      scale.high = std::max(-low, high), scale.low = -scale.high;
    scale.about_nought = scale.low == -scale.high && scale.high > 0.0;
  }
  return out;
}

/// Frames within a box of a sheet.
class FramesDrawing {
 public:
  FramesDrawing(const PictureSheet& given, Sheet& sheet, Point corner, double width, double height)
      : given_(given),
        axes_(axes_of(given.view)),
        scales_(scales_of(given)),
        sheet_(sheet),
        left_(corner.x),
        top_(corner.y),
        width_(width),
        height_(height - foot),
        small_(height < 300.0) {
    one_legend_ = std::all_of(given.frames.begin(), given.frames.end(),
                              [&](const PictureFrame& frame) { return frame.scale == given.frames.front().scale; });
  }

  void draw() {
    arrange();
    for (std::size_t f = 0; f < given_.frames.size(); ++f) frame(f);
    length_bar({left_, top_ + height_ + foot - 6});
    triad({left_ + 240, top_ + height_ + foot - 14});
    if (one_legend_)
      legend({left_ + width_ - legend_width + 20, top_}, given_.frames.front(), legend_width - 20,
             std::min(220.0, height_ - 120.0), height_ - 40);
  }

  /// How long a round length is.
  void length_bar(Point at) const {
    const double longest = 120.0 / scale_, length = 0.5 * round_above(longest), width = length * scale_;
    sheet_.line({at, {at.x + width, at.y}}, {dark, 0.8, {}});
    for (const double x : {at.x, at.x + width}) sheet_.line({{x, at.y - 3}, {x, at.y + 3}}, {dark, 0.8, {}});
    sheet_.text({at.x + width + 6, at.y + 3}, 8, fmt::format("{:g} {}", length, given_.length_unit));
  }

  /// Where x, y, z of the part point.
  void triad(Point at) const {
    for (const auto& [axis, name] :
         {std::pair{Vec3(Vec3::UnitX()), "x"}, {Vec3(Vec3::UnitY()), "y"}, {Vec3(Vec3::UnitZ()), "z"}}) {
      const Point p = flat(axis);
      if (std::hypot(p.x, p.y) < 0.08) continue;
      sheet_.line({at, {at.x + 22 * p.x, at.y + 22 * p.y}}, {dark, 1.0, {}});
      sheet_.text({at.x + 29 * p.x, at.y + 29 * p.y + 3}, 8, name, Align::middle);
    }
  }

 private:
  static constexpr double legend_width = 150, gap = 14, head = 16, foot = 44;
  /// Of a cell, beside the picture.
  double in_cell() const { return small_ ? 62 : 84; }
  double letters() const { return small_ ? 7 : 9; }

  Point flat(const Vec3& point) const { return {axes_.right.dot(point), -axes_.up.dot(point)}; }
  static const std::vector<Vec3>& points_of(const PictureFrame& frame) {
    return frame.points.empty() ? frame.surface->points : frame.points;
  }
  static bool is_shown(const PictureFrame& frame, mesh::ElementIndex e) {
    return frame.shown.empty() || frame.shown[e] != 0;
  }
  double room() const { return width_ - (one_legend_ ? legend_width : 0.0); }
  double beside() const { return one_legend_ ? 0.0 : in_cell(); }

  /// How many frames side by side, and how large all of them are.
  void arrange() {
    low_ = {1e300, 1e300}, high_ = {-1e300, -1e300};
    for (const PictureFrame& frame : given_.frames)
      for (mesh::ElementIndex e = 0; e < frame.surface->element_count(); ++e) {
        if (!is_shown(frame, e)) continue;
        for (const mesh::NodeIndex node : frame.surface->nodes_of(e)) {
          const Point p = flat(points_of(frame)[node]);
          low_ = {std::min(low_.x, p.x), std::min(low_.y, p.y)};
          high_ = {std::max(high_.x, p.x), std::max(high_.y, p.y)};
        }
      }
    const double w = std::max(high_.x - low_.x, 1e-300), h = std::max(high_.y - low_.y, 1e-300);
    const std::size_t count = given_.frames.size();
    scale_ = 0.0;
    for (std::size_t columns = 1; columns <= count; ++columns) {
      const std::size_t rows = (count + columns - 1) / columns;
      const double cell_w = room() / static_cast<double>(columns) - gap - beside(),
                   cell_h = height_ / static_cast<double>(rows) - gap - head;
      const double scale = std::min(cell_w / w, cell_h / h);
      if (scale > scale_) scale_ = scale, columns_ = columns, cell_w_ = cell_w, cell_h_ = cell_h;
    }
  }

  void frame(std::size_t f) {
    const PictureFrame& frame = given_.frames[f];
    const ColourScale& scale = scales_[frame.scale];
    const Point corner{left_ + static_cast<double>(f % columns_) * (cell_w_ + gap + beside()),
                       top_ + static_cast<double>(f / columns_) * (cell_h_ + gap + head)},
        upper{corner.x, corner.y + head};
    title(frame, corner);
    // Two pixels a point, each the mean of four.
    constexpr double pixels = 4.0;
    const int width = static_cast<int>(std::ceil(cell_w_ * pixels)),
              height = static_cast<int>(std::ceil(cell_h_ * pixels));
    const double middle_x = 0.5 * (low_.x + high_.x), middle_y = 0.5 * (low_.y + high_.y), k = scale_ * pixels;
    const auto place = [&](const Vec3& point) {
      const Point p = flat(point);
      return RasterPoint{static_cast<float>(0.5 * width + (p.x - middle_x) * k),
                         static_cast<float>(0.5 * height + (p.y - middle_y) * k),
                         static_cast<float>(axes_.near.dot(point) * k)};
    };
    const std::vector<Vec3>& points = points_of(frame);
    std::vector<RasterPoint> seen(points.size());
    parallel_blocks(points.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t i = begin; i < end; ++i) seen[i] = place(points[i]);
    });
    const Raster image = halved(rasterized(width, height, seen, triangles(frame, scale), lines(frame), look(scale)));
    if (std::all_of(image.near.begin(), image.near.end(),
                    [](float near) { return near == std::numeric_limits<float>::lowest(); }))
      throw Failure({Severity::error,
                     "picture.nothing",
                     "seen from there the part lies on its edge and shows nothing",
                     {},
                     fmt::format("another --view: {}; or a direction", fmt::join(view_names(), ", "))});
    sheet_.image(upper, cell_w_, cell_h_, image.width, image.height, image.pixels);
    const auto on_sheet = [&](const RasterPoint& p) {
      return Point{upper.x + static_cast<double>(p.x) / width * cell_w_,
                   upper.y + static_cast<double>(p.y) / height * cell_h_};
    };
    /// How far behind what is seen there, in points of the sheet; nothing beside the image.
    const auto behind = [&](const RasterPoint& p) -> std::optional<double> {
      if (!(p.x >= 0.0f && p.y >= 0.0f)) return std::nullopt;
      const auto column = static_cast<int>(p.x / 2), row = static_cast<int>(p.y / 2);
      if (column >= image.width || row >= image.height) return std::nullopt;
      const float near = image.near[static_cast<std::size_t>(row) * static_cast<std::size_t>(image.width) +
                                    static_cast<std::size_t>(column)];
      if (near == std::numeric_limits<float>::lowest() && !frame.shown.empty()) return std::nullopt;
      return static_cast<double>(near - p.near) / pixels;
    };
    strokes(frame, upper, place, on_sheet, behind);
    lines_over(frame, place, on_sheet, behind);
    if (!one_legend_)
      legend({corner.x + cell_w_ + 10, upper.y}, frame, in_cell() - 10, std::min(150.0, cell_h_ - 80.0), cell_h_);
  }

  void title(const PictureFrame& frame, Point corner) {
    const std::string title = given_.frames.size() > 1 ? frame.title : "";
    const double wide = sheet_.width_of(letters(), title, true) + 8.0 + sheet_.width_of(letters() - 1, frame.note);
    const double scale = std::clamp((cell_w_ + beside() - 4) / wide, 0.5, 1.0);
    sheet_.text({corner.x, corner.y + 8}, scale * letters(), title, Align::left, dark, true);
    const double x = corner.x + (title.empty() ? 0.0 : sheet_.width_of(scale * letters(), title, true) + 8 * scale);
    sheet_.text({x, corner.y + 8}, scale * (letters() - 1), frame.note, Align::left, grey);
  }

  /// No value, reserves below one, then all others.
  RasterLook look(const ColourScale& scale) const {
    RasterLook out;
    out.colours = {no_value, below_one};
    out.steps = !scale.categories.empty();
    if (out.steps)
      for (std::size_t c = 0; c < scale.categories.size(); ++c) out.colours.push_back(pixel_of(kind_ink(c)));
    else
      for (int c = 0; c <= 255; ++c) out.colours.push_back(scale.pixel(c / 255.0));
    return out;
  }

  /// Asked once for each mesh that is drawn whole.
  const std::vector<RasterLine>& lines(const PictureFrame& frame) {
    const mesh::Surface* const whole = frame.shown.empty() ? frame.surface : nullptr;
    for (const auto& [known, all] : lines_)
      if (whole && known == whole) return all;
    return lines_.emplace_back(whole, lines_of(*frame.surface, given_.lines, frame.shown)).second;
  }

  std::vector<RasterTriangle> triangles(const PictureFrame& frame, const ColourScale& scale) const {
    const mesh::Surface& surface = *frame.surface;
    const std::vector<Vec3>& points = points_of(frame);
    const Colouring& colouring = frame.colouring;
    std::vector<float> of_category;
    for (const std::string& name : colouring.categories)
      of_category.push_back(
          static_cast<float>(static_cast<double>(scale.category(name)) /
                             std::max<double>(1.0, static_cast<double>(scale.categories.size()) - 1.0)));
    const auto share = [&](double value) {
      if (!std::isfinite(value)) return std::numeric_limits<float>::quiet_NaN();
      if (!of_category.empty()) return of_category[static_cast<std::size_t>(value)];
      if (colouring.reserve && value < 1.0) return RasterTriangle::special;
      return std::clamp(static_cast<float>(scale.share(value)), 0.0f, 1.0f);
    };
    std::vector<std::size_t> first(surface.element_count() + 1, 0);
    for (std::size_t e = 0; e < surface.element_count(); ++e)
      first[e + 1] =
          first[e] + (is_shown(frame, static_cast<mesh::ElementIndex>(e)) ? parts_of(surface.shapes[e]).size() : 0);
    std::vector<RasterTriangle> out(first.back());
    parallel_blocks(surface.element_count(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t e = begin; e < end; ++e) {
        if (first[e + 1] == first[e]) continue;
        const auto nodes = surface.nodes_of(static_cast<mesh::ElementIndex>(e));
        const float even =
            colouring.of_elements.empty() ? std::numeric_limits<float>::quiet_NaN() : share(colouring.of_elements[e]);
        std::size_t t = first[e];
        for (const Part& part : parts_of(surface.shapes[e])) {
          RasterTriangle& triangle = out[t++];
          for (std::size_t c = 0; c < 3; ++c) {
            const mesh::NodeIndex node = nodes[part[c]];
            triangle.points[c] = node;
            triangle.values[c] = colouring.of_nodes.empty() ? even : share(colouring.of_nodes[node]);
          }
          const Vec3 n = (points[triangle.points[1]] - points[triangle.points[0]])
                             .cross(points[triangle.points[2]] - points[triangle.points[0]]);
          const double facing = n.norm() > 0.0 ? std::abs(n.dot(axes_.near)) / n.norm() : 1.0;
          triangle.light = static_cast<float>(0.7 + 0.3 * facing);
        }
      }
    });
    return out;
  }

  /// One where the nearest of those that are seen lies in each small square.
  template <class Place, class OnSheet, class Behind>
  void strokes(const PictureFrame& frame, Point upper, const Place& place, const OnSheet& on_sheet,
               const Behind& behind) {
    const std::vector<Vec3>& points = points_of(frame);
    constexpr double square = 11.0;  // points of the sheet
    struct Drawn {
      double off;
      Point at;
      const Stroke* stroke;
    };
    std::map<std::pair<int, int>, Drawn> nearest;
    for (const Stroke& stroke : frame.strokes) {
      if (!is_shown(frame, stroke.element)) continue;
      Vec3 centre = Vec3::Zero();
      const auto corners = frame.surface->corners_of(stroke.element);
      for (const mesh::NodeIndex node : corners) centre += points[node] / static_cast<double>(corners.size());
      const RasterPoint p = place(centre);
      const auto far = behind(p);
      if (!far || *far > 4.0) continue;
      const Point at = on_sheet(p);
      const std::pair cell{static_cast<int>((at.x - upper.x) / square), static_cast<int>((at.y - upper.y) / square)};
      const double off =
          std::hypot(at.x - upper.x - (cell.first + 0.5) * square, at.y - upper.y - (cell.second + 0.5) * square);
      const auto [found, is_new] = nearest.try_emplace(cell, Drawn{off, at, &stroke});
      if (!is_new && off < found->second.off) found->second = {off, at, &stroke};
    }
    for (const auto& [cell, one] : nearest) {
      const Point along = flat(one.stroke->along);
      const double half = 0.42 * square;
      sheet_.line({{one.at.x - half * along.x, one.at.y - half * along.y},
                   {one.at.x + half * along.x, one.at.y + half * along.y}},
                  {dark, 0.7, {}});
    }
  }

  /// Pieces of lines that nothing lies before.
  template <class Place, class OnSheet, class Behind>
  void lines_over(const PictureFrame& frame, const Place& place, const OnSheet& on_sheet, const Behind& behind) {
    constexpr double piece = 3.0;  // points of the sheet
    for (const mesh::Curve& curve : frame.over) {
      std::vector<Point> run;
      const auto end_run = [&] {
        if (run.size() > 1) sheet_.line(run, {dark, 0.9, {}});
        run.clear();
      };
      const std::size_t sides = curve.points.size() - (curve.closed ? 0 : 1);
      for (std::size_t i = 0; i < sides; ++i) {
        const Vec3 &a = curve.points[i], &b = curve.points[(i + 1) % curve.points.size()];
        const double long_as = (b - a).norm() * scale_;
        const int pieces = std::max(1, static_cast<int>(std::ceil(std::min(long_as, 1e4) / piece)));
        for (int k = i == 0 ? 0 : 1; k <= pieces; ++k) {
          const RasterPoint p = place(a + (b - a) * (static_cast<double>(k) / pieces));
          if (const auto far = behind(p); far && *far < 4.0)
            run.push_back(on_sheet(p));
          else
            end_run();
        }
      }
      end_run();
    }
  }

  void legend(Point corner, const PictureFrame& frame, double width, double tall, double room_down) {
    const Colouring& colouring = frame.colouring;
    const ColourScale& scale = scales_[frame.scale];
    if (colouring.name.empty()) return;
    double y = sheet_.paragraph({corner.x, corner.y + 8}, width, letters(), colouring.name) + 4;
    const auto box = [&](const Pixel& pixel, const std::string& words) {
      sheet_.rectangle({corner.x, y}, 10, 10, ink_of(pixel), {dark, 0.3, {}});
      y = sheet_.paragraph({corner.x + 15, y + 8}, width - 15, letters() - 1, words) - 4;
    };
    const auto tell_none = [&] {
      if (has_none(frame.scale)) box(no_value, colouring.none);
    };
    if (!scale.categories.empty()) {
      const std::size_t count = scale.categories.size();
      for (std::size_t c = 0; c < count; ++c) {
        if (y > corner.y + room_down - 24 && c + 1 < count) {
          sheet_.text({corner.x, y + 8}, 8, fmt::format("and {} more", count - c));
          return;
        }
        box(pixel_of(kind_ink(c)), scale.categories[c]);
      }
      return tell_none();
    }
    constexpr int across = 16, steps = 256;
    std::vector<Pixel> bar;
    for (int k = 0; k < steps; ++k) bar.insert(bar.end(), across, scale.pixel((steps - 1 - k) / (steps - 1.0)));
    sheet_.image({corner.x, y}, 12, tall, across, steps, bar);
    sheet_.line(std::vector<Point>{{corner.x, y}, {corner.x + 12, y}, {corner.x + 12, y + tall}, {corner.x, y + tall}},
                {dark, 0.4, {}}, true);
    const double size = std::max(std::abs(scale.low), std::abs(scale.high));
    const auto tick = [&](double value, std::string_view words) {
      const double at = y + tall * (1.0 - scale.share(value));
      sheet_.line({{corner.x + 12, at}, {corner.x + 15, at}}, {dark, 0.5, {}});
      sheet_.text({corner.x + 18, at + 2.8}, letters() - 1,
                  fmt::format("{:.4g}{}", std::abs(value) < 1e-6 * size ? 0.0 : value, words));
    };
    if (!(scale.high > scale.low)) {
      tick(scale.low, "");
    } else {
      // Values beyond the ends have the ends' colours.
      const auto own = all_of(frame.scale);
      tick(scale.low, own && (*own)[0] < scale.low - 1e-9 * size ? " and less" : "");
      tick(scale.high, own && (*own)[1] > scale.high + 1e-9 * size ? " and more" : "");
      const double step = round_above((scale.high - scale.low) / std::max(2.0, tall / 28.0)), apart = 11.0 / tall;
      for (double k = std::ceil(scale.low / step); k * step < scale.high; k += 1.0)
        if (const double share = scale.share(k * step); share > apart && share < 1.0 - apart) tick(k * step, "");
    }
    y += tall + 12;
    if (scale.below > 0) box(below_one, fmt::format("below 1: {}", counted(scale.below, "element")));
    if (scale.reserve && scale.below == 0) {
      sheet_.text({corner.x, y + 8}, letters() - 1, "none below 1");
      y += 14;
    }
    tell_none();
  }
  std::optional<std::array<double, 2>> all_of(std::size_t scale) const {
    std::optional<std::array<double, 2>> out;
    for (const PictureFrame& frame : given_.frames)
      if (const auto own = range_of(frame); own && frame.scale == scale)
        out = out ? std::array{std::min((*out)[0], (*own)[0]), std::max((*out)[1], (*own)[1])} : *own;
    return out;
  }
  bool has_none(std::size_t scale) const {
    return std::any_of(given_.frames.begin(), given_.frames.end(), [&](const PictureFrame& frame) {
      const std::vector<double> values = values_of(frame);
      return frame.scale == scale &&
             std::any_of(values.begin(), values.end(), [](double value) { return !std::isfinite(value); });
    });
  }

  const PictureSheet& given_;
  Axes axes_;
  std::vector<ColourScale> scales_;
  Sheet& sheet_;
  double left_, top_, width_, height_;
  bool small_, one_legend_ = true;
  Point low_, high_;
  double scale_ = 1.0, cell_w_ = 0.0, cell_h_ = 0.0;
  std::size_t columns_ = 1;
  std::vector<std::pair<const mesh::Surface*, std::vector<RasterLine>>> lines_;
};

}  // namespace

void check(const PictureSheet& sheet) {
  if (sheet.frames.empty())
    throw Failure({Severity::error, "picture.nothing", "there is nothing to draw", {}, "name a field"});
  for (const PictureFrame& frame : sheet.frames) {
    const mesh::Surface& surface = *frame.surface;
    if (surface.element_count() == 0 ||
        (!frame.shown.empty() && std::none_of(frame.shown.begin(), frame.shown.end(), [](auto is) { return is != 0; })))
      throw Failure({Severity::error,
                     "picture.nothing",
                     "there is no element to draw",
                     {},
                     "see the mesh, or the zone that is named"});
    const auto fits = [](std::size_t given, std::size_t wanted) { return given == 0 || given == wanted; };
    if (!fits(frame.points.size(), surface.points.size()) ||
        !fits(frame.colouring.of_nodes.size(), surface.points.size()) ||
        !fits(frame.colouring.of_elements.size(), surface.element_count()) ||
        !fits(frame.shown.size(), surface.element_count()))
      throw std::invalid_argument("a picture has a value for each element or node, and a place for each node");
    constexpr double most = 1e15;
    for (const Vec3& point : frame.points)
      if (!(point.cwiseAbs().maxCoeff() < most)) throw std::invalid_argument("a node is drawn where no number is");
  }
}

void draw_frames(const PictureSheet& pictures, Sheet& sheet, Sheet::Point corner, double width, double height) {
  FramesDrawing(pictures, sheet, corner, width, height).draw();
}

}  // namespace bordado::drawing
