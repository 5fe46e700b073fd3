// Failure envelopes on one sheet.
#include "../base/csv.hpp"
#include "sheet.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::drawing {

namespace {

using Align = Sheet::Align;
using Point = Sheet::Point;
using laminate::EnvelopePoint;

class EnvelopeSheet {
 public:
  EnvelopeSheet(const EnvelopeDrawing& envelopes, const UnitSystem& units, const std::string& path)
      : envelopes_(envelopes), units_(units), sheet_(path, page_width, page_height) {}

  void draw() {
    sheet_.text({margin, margin + 14}, 16, envelopes_.title, Align::left, dark, true);
    sheet_.text({margin, margin + 30}, 9, envelopes_.subtitle, Align::left, grey);
    frame();
    for (std::size_t c = 0; c < envelopes_.curves.size(); ++c)
      if (!envelopes_.curves[c].empty()) curve(c);
    if (!any_) sheet_.text({left + 20, top + 40}, 10, "Nothing fails in these directions, or it fails by itself.");
    sheet_.text({margin, page_height - 20}, 7,
                fmt::format("inside all lines no ply fails; on a line the ply and mode with its number do. Layers are "
                            "counted from the first laid. Bordado {}",
                            version()),
                Align::left, grey);
    sheet_.commit();
  }

 private:
  static constexpr double left = margin + 44, top = 94, width = 440, height = 440;
  static constexpr double key = left + width + 34;

  Point at(double x, double y) const {
    return {left + (x - low_[0]) * scale_[0], top + height - (y - low_[1]) * scale_[1]};
  }

  /// Axes through the origin with a grid at round numbers; each axis has its own scale.
  void frame() {
    double high[2] = {0.0, 0.0};
    for (const auto& points : envelopes_.curves)
      for (const EnvelopePoint& p : points) {
        const double value[2] = {p.first, p.second};
        for (int k = 0; k < 2; ++k) low_[k] = std::min(low_[k], value[k]), high[k] = std::max(high[k], value[k]);
        any_ = true;
      }
    sheet_.rectangle({left, top}, width, height, {1, 1, 1}, {hair, 0.6, {}});
    if (!any_) return;
    double step[2];
    for (int k = 0; k < 2; ++k) {
      step[k] = round_above((high[k] - low_[k]) / 8.0);
      low_[k] = step[k] * std::floor(low_[k] / step[k] - 0.05);
      high[k] = step[k] * std::ceil(high[k] / step[k] + 0.05);
      scale_[k] = (k == 0 ? width : height) / (high[k] - low_[k]);
    }
    for (int k = 0; k < 2; ++k)
      for (double v = low_[k]; v <= high[k] + 0.5 * step[k]; v += step[k]) {
        const double value = std::abs(v) < 0.01 * step[k] ? 0.0 : v;
        const bool axis = value == 0.0;
        const Sheet::Pen pen{axis ? dark : hair, axis ? 0.7 : 0.4, {}};
        if (k == 0) {
          const double x = at(value, 0.0).x;
          sheet_.line({{x, top}, {x, top + height}}, pen);
          sheet_.text({x, top + height + 11}, 7.5, rounded_text(value), Align::middle, grey);
        } else {
          const double y = at(0.0, value).y;
          sheet_.line({{left, y}, {left + width, y}}, pen);
          sheet_.text({left - 5, y + 2.5}, 7.5, rounded_text(value), Align::right, grey);
        }
      }
    const auto axis_name = [&](std::size_t component) {
      const std::string force = units_.unit(Dimension::force);
      return fmt::format("{}, {}", laminate::component_name(component),
                         component < 3 ? force + "/" + units_.unit(Dimension::length) : force);
    };
    sheet_.text({left + width, top + height + 23}, 9, axis_name(envelopes_.first), Align::right, dark, true);
    sheet_.text({left - 40, top - 8}, 9, axis_name(envelopes_.second), Align::left, dark, true);
  }

  static bool same(const EnvelopePoint& a, const EnvelopePoint& b) {
    if (a.open() || b.open()) return a.open() == b.open();
    return a.failing.layer == b.failing.layer && a.failing.mode == b.failing.mode &&
           a.failing.criterion == b.failing.criterion;
  }

  void curve(std::size_t c) {
    const auto& points = envelopes_.curves[c];
    const LineLook pen = line_look(c);
    // One line round, with gaps where it is open.
    std::vector<Point> line;
    const bool closed = std::none_of(points.begin(), points.end(), [](const EnvelopePoint& p) { return p.open(); });
    const auto end_line = [&] {
      if (line.size() > 1) sheet_.line(line, {pen.ink, 1.4, pen.dashes}, closed);
      line.clear();
    };
    for (std::size_t i = 0; i <= points.size(); ++i) {
      if (closed && i == points.size()) break;
      const EnvelopePoint& p = points[i % points.size()];
      if (p.open())
        end_line();
      else
        line.push_back(at(p.first, p.second));
    }
    end_line();
    sheet_.line({{key, row_ - 3}, {key + 26, row_ - 3}}, {pen.ink, 1.4, pen.dashes});
    sheet_.text({key + 32, row_}, 9, laminate::name_of(envelopes_.criteria[c]), Align::left, pen.ink, true);
    row_ += 13;
    // Pieces of the line along which one ply and mode decide, from a change on.
    std::size_t begin = 0;
    while (begin < points.size() && same(points[begin], points[(begin + points.size() - 1) % points.size()])) ++begin;
    if (begin == points.size()) begin = 0;
    for (std::size_t done = 0; done < points.size();) {
      const std::size_t from = (begin + done) % points.size();
      std::size_t count = 1;
      while (done + count < points.size() && same(points[from], points[(from + count) % points.size()])) ++count;
      piece(points, from, count, pen.ink, 0.35 + 0.12 * static_cast<double>(c % 4));  // curves may lie on each other
      done += count;
    }
    row_ += 6;
  }

  /// \param along where on it the number stands, 0 to 1
  void piece(const std::vector<EnvelopePoint>& points, std::size_t from, std::size_t count, const Ink& ink,
             double along) {
    double length = 0.0;
    const auto place = [&](std::size_t i) {
      const EnvelopePoint& p = points[(from + i) % points.size()];
      return at(p.first, p.second);
    };
    for (std::size_t i = 1; i < count; ++i)
      length += std::hypot(place(i).x - place(i - 1).x, place(i).y - place(i - 1).y);
    if (length < 4.0) return;  // too short to be seen
    ++number_;
    sheet_.circle(place(0), 1.6, {ink, 1.2, {}});
    // The number stands beside the piece, away from the origin.
    double gone = 0.0;
    std::size_t middle = 0;
    for (std::size_t i = 1; i < count && gone < along * length; ++i) {
      gone += std::hypot(place(i).x - place(i - 1).x, place(i).y - place(i - 1).y);
      middle = i;
    }
    const Point p = place(middle), origin = at(0.0, 0.0);
    const double away = std::max(1.0, std::hypot(p.x - origin.x, p.y - origin.y));
    sheet_.text({p.x + 9.0 * (p.x - origin.x) / away, p.y + 9.0 * (p.y - origin.y) / away + 3.0}, 8,
                std::to_string(number_), Align::middle, ink, true);
    if (row_ > page_height - 46) return;
    const laminate::Failing& failing = points[(from + middle) % points.size()].failing;
    sheet_.text({key + 18, row_}, 7.5, std::to_string(number_), Align::right, ink, true);
    sheet_.text({key + 24, row_}, 7.5,
                failing.mode == laminate::FailureMode::none
                    ? "open: nothing fails this way"
                    : fmt::format("{}, {}", envelopes_.layers[failing.layer], laminate::words(failing.mode)));
    row_ += 10.5;
  }

  const EnvelopeDrawing& envelopes_;
  const UnitSystem& units_;
  Sheet sheet_;
  double low_[2] = {0.0, 0.0}, scale_[2] = {1.0, 1.0};
  bool any_ = false;
  double row_ = top + 8;
  int number_ = 0;
};

}  // namespace

namespace {

void write_points(const EnvelopeDrawing& envelopes, const UnitSystem& units, const std::string& path) {
  const auto unit = [&](std::size_t component) {
    const std::string force = units.unit(Dimension::force);
    return component < 3 ? force + "/" + units.unit(Dimension::length) : force;
  };
  OutputFile out(path);
  out.write(fmt::format("criterion,{} {},{} {},layer,ply,mode\n", laminate::component_name(envelopes.first),
                        unit(envelopes.first), laminate::component_name(envelopes.second), unit(envelopes.second)));
  for (std::size_t c = 0; c < envelopes.curves.size(); ++c)
    for (const EnvelopePoint& p : envelopes.curves[c])
      out.write(p.open() ? fmt::format("{},{:.9g},{:.9g},,,{}\n", laminate::name_of(envelopes.criteria[c]), p.first,
                                       p.second, csv_cell(laminate::words(p.failing.mode)))
                         : fmt::format("{},{:.9g},{:.9g},{},{},{}\n", laminate::name_of(envelopes.criteria[c]), p.first,
                                       p.second, p.failing.layer + 1, csv_cell(envelopes.layers[p.failing.layer]),
                                       csv_cell(laminate::words(p.failing.mode))));
  out.commit();
}

}  // namespace

void draw(const EnvelopeDrawing& envelopes, const UnitSystem& units, const std::string& path) {
  if (path.ends_with(".csv")) return write_points(envelopes, units, path);
  EnvelopeSheet(envelopes, units, path).draw();
}

}  // namespace bordado::drawing
