// Margins over one or two numbers that vary, on one sheet.
#include "../base/csv.hpp"
#include "sheet.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/hand_sheets.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::drawing {

namespace {

using Align = Sheet::Align;
using Point = Sheet::Point;
using sizing::Margin;
using sizing::Sweep;
using sizing::Varied;

std::string axis_name(const Varied& varied) {
  return varied.unit.empty() ? varied.words : fmt::format("{}, {}", varied.words, varied.unit);
}

/// A scale along which values lie evenly, or their logarithms.
struct Scale {
  double low = 0.0, high = 1.0, step = 1.0;
  bool by_powers = false;
  double share(double value) const {
    return by_powers ? std::log(value / low) / std::log(high / low) : (value - low) / (high - low);
  }
  /// Round values on it.
  std::vector<double> ticks() const {
    std::vector<double> out;
    if (!by_powers) {
      for (double k = std::ceil(low / step - 1e-6); k * step <= high + 1e-6 * step; k += 1.0) out.push_back(k * step);
      return out;
    }
    const bool few = high > 200.0 * low;
    for (double ten = std::pow(10.0, std::floor(std::log10(low))); ten <= high * 1.001; ten *= 10.0)
      for (const double digit : {1.0, 2.0, 5.0})
        if (const double value = digit * ten; value >= low * 0.999 && value <= high * 1.001 && (digit == 1.0 || !few))
          out.push_back(value);
    return out;
  }
};
Scale scale_of(const Varied& varied) {
  Scale out{varied.values.front(), varied.values.back(), 1.0, false};
  out.step = round_above((out.high - out.low) / 8.0);
  if (varied.whole) out.step = std::max(1.0, out.step);
  return out;
}

class SweepDrawing {
 public:
  SweepDrawing(const SweepSheet& given, const std::string& path)
      : given_(given),
        sweep_(given.sweep),
        sheet_(path, page_width, page_height),
        x_(scale_of(given.sweep.varied[0])) {}

  void draw() {
    sheet_.text({margin, margin + 14}, 16, given_.title, Align::left, dark, true);
    sheet_.paragraph({margin, margin + 30}, page_width - 2 * margin, 9, given_.subtitle);
    if (!sweep_.largest)
      sheet_.text({left + 20, top + 40}, 10, "Nothing happens to it anywhere here.");
    else if (sweep_.varied.size() == 1)
      curves();
    else
      map();
    sheet_.text({margin, page_height - 20}, 7,
                fmt::format("a reserve is a factor of all loads: at 1 it happens, below 1 it has happened. Bordado {}",
                            version()),
                Align::left, grey);
    sheet_.commit();
  }

 private:
  static constexpr double left = margin + 44, top = 104, width = 470, height = 420;
  static constexpr double key = left + width + 30, key_width = page_width - margin - key;
  static constexpr Ink below_one{0.985, 0.925, 0.905};

  Point at(double x, double y) const { return {left + width * x_.share(x), top + height * (1.0 - y_.share(y))}; }

  void axes(const std::string& upright) {
    for (const double value : x_.ticks()) {
      const double x = left + width * x_.share(value);
      sheet_.line({{x, top}, {x, top + height}}, {hair, 0.4, {}});
      sheet_.text({x, top + height + 11}, 7.5, rounded_text(value), Align::middle, grey);
    }
    for (const double value : y_.ticks()) {
      const double y = top + height * (1.0 - y_.share(value));
      sheet_.line({{left, y}, {left + width, y}}, {hair, 0.4, {}});
      sheet_.text({left - 5, y + 2.5}, 7.5, rounded_text(value), Align::right, grey);
    }
    sheet_.text({left + width, top + height + 24}, 9, axis_name(sweep_.varied[0]), Align::right, dark, true);
    sheet_.text({left - 40, top - 8}, 9, upright, Align::left, dark, true);
  }
  void frame() {
    sheet_.line(
        std::vector<Point>{{left, top}, {left + width, top}, {left + width, top + height}, {left, top + height}},
        {dark, 0.6, {}}, true);
  }

  void words(double size, const std::string& text, const Ink& ink = dark, bool bold = false) {
    sheet_.text({key, row_}, size, text, Align::left, ink, bold);
    row_ += 1.4 * size;
  }
  void told(const std::string& text) { row_ = sheet_.paragraph({key, row_}, key_width, 8, text) + 1.0; }

  // One number varies.
  void curves() {
    const std::vector<double>& values = sweep_.varied[0].values;
    // Of what can happen, by name, the least at each value.
    std::map<std::string, std::vector<std::optional<double>>> all;
    for (std::size_t i = 0; i < values.size(); ++i) {
      if (!sweep_.points[i]) continue;
      for (const Margin& one : sweep_.points[i]->margins) {
        auto& curve = all.try_emplace(one.what, values.size()).first->second;
        if (!curve[i] || one.factor < *curve[i]) curve[i] = one.factor;
      }
    }
    const double most = sweep_.least(*sweep_.largest)->factor, least = sweep_.least(*sweep_.smallest)->factor;
    if (y_.by_powers = most > 20.0 * least; y_.by_powers) {
      y_.low = 0.7 * std::min(least, 0.9), y_.high = 2.0 * std::max(most, 1.0);
    } else {
      y_.step = round_above(1.4 * std::max(most, 1.05) / 9.0);
      y_.low = 0.0, y_.high = y_.step * std::ceil(1.4 * std::max(most, 1.05) / y_.step);
    }
    const double one = at(values.front(), 1.0).y;
    sheet_.rectangle({left, one}, width, top + height - one, below_one, {below_one, 0.1, {}});
    axes("reserve: times the load");
    sheet_.line({{left, one}, {left + width, one}}, {accent, 1.2, {}});
    if (const auto& now = sweep_.varied[0].now; now && *now >= values.front() && *now <= values.back()) {
      const double x = at(*now, 1.0).x;
      sheet_.line({{x, top}, {x, top + height}}, {dark, 0.8, {3, 3}});
      const bool far = x > left + 0.8 * width;
      now_ = {far ? x - 4 : x + 4, far};
    }
    // By the least of each, those first that can be seen.
    std::vector<std::pair<double, std::string>> order;
    for (const auto& [what, curve] : all) {
      double lowest = std::numeric_limits<double>::infinity();
      for (const auto& value : curve)
        if (value) lowest = std::min(lowest, *value);
      order.emplace_back(lowest, what);
    }
    std::sort(order.begin(), order.end());
    std::vector<std::optional<double>> lowest(values.size());
    for (std::size_t i = 0; i < values.size(); ++i)
      if (const Margin* const first = sweep_.least(i)) lowest[i] = first->factor;
    curve(lowest, {{0.86, 0.84, 0.78}, 6.0, {}});
    words(10, "Until", dark, true);
    row_ += 4;
    std::vector<std::string> above;
    std::size_t drawn = 0;
    for (const auto& [least_of_it, what] : order) {
      if (least_of_it > y_.high) {
        above.push_back(what);
        continue;
      }
      const LineLook look = line_look(drawn++);
      curve(all.at(what), {look.ink, 1.4, look.dashes});
      sheet_.line({{key, row_ - 3}, {key + 26, row_ - 3}}, {look.ink, 1.4, look.dashes});
      sheet_.text({key + 32, row_}, 8.5, what, Align::left, look.ink, true);
      row_ += 13;
    }
    if (!above.empty()) {
      row_ += 2;
      told(fmt::format("above this scale: {}", fmt::join(above, "; ")));
    }
    if (now_) {  // over the curves
      const std::string text = "as it is: " + sizing::value_text(sweep_.varied[0], *sweep_.varied[0].now);
      const double wide = sheet_.width_of(8, text);
      sheet_.rectangle({now_->second ? now_->first - wide - 2 : now_->first - 2, top + 2}, wide + 4, 11, {1, 1, 1},
                       {{1, 1, 1}, 0.1, {}});
      sheet_.text({now_->first, top + 10}, 8, text, now_->second ? Align::right : Align::left, dark);
    }
    frame();
    row_ += 10;
    words(10, "In words", dark, true);
    row_ += 2;
    for (const std::string& line : sizing::words_of(sweep_)) told(line);
    if (!sweep_.varied[0].whole)
      for (const sizing::Crossing& crossing : sweep_.ones)
        sheet_.circle(at(crossing.value, 1.0), 3.5, {accent, 1.4, {}});
  }

  /// Cut off where it leaves the frame at its top.
  void curve(const std::vector<std::optional<double>>& curve, const Sheet::Pen& pen) {
    const std::vector<double>& values = sweep_.varied[0].values;
    std::vector<Point> line;
    const auto end_line = [&] {
      if (line.size() > 1) sheet_.line(line, pen);
      line.clear();
    };
    const auto edge = [&](std::size_t inside, std::size_t outside) {
      const double a = y_.share(*curve[inside]), b = y_.share(*curve[outside]), share = (1.0 - a) / (b - a);
      const double x = values[inside] + share * (values[outside] - values[inside]);
      return Point{left + width * x_.share(x), top};
    };
    for (std::size_t i = 0; i < values.size(); ++i) {
      const bool has = curve[i].has_value(), inside = has && *curve[i] <= y_.high;
      const bool before = i > 0 && curve[i - 1], inside_before = before && *curve[i - 1] <= y_.high;
      if (inside) {
        if (before && !inside_before) line.push_back(edge(i, i - 1));
        line.push_back({left + width * x_.share(values[i]), top + height * (1.0 - std::max(0.0, y_.share(*curve[i])))});
        if (sweep_.varied[0].whole && pen.width < 3.0) sheet_.circle(line.back(), 1.5, {pen.ink, 1.5, {}});
      } else {
        if (has && inside_before) line.push_back(edge(i - 1, i));
        end_line();
      }
    }
    end_line();
  }

  // Two numbers vary.
  double least(std::size_t column, std::size_t row) const {
    const Margin* const one = sweep_.least(row * sweep_.varied[0].values.size() + column);
    return one == nullptr ? std::numeric_limits<double>::quiet_NaN() : one->factor;
  }

  void map() {
    y_ = scale_of(sweep_.varied[1]);
    const std::vector<double>&xs = sweep_.varied[0].values, &ys = sweep_.varied[1].values;
    const double most = sweep_.least(*sweep_.largest)->factor, low = sweep_.least(*sweep_.smallest)->factor;
    const double far = std::max({std::log(most), -std::log(low), 0.05});
    const auto ink = [&](double value) {
      const double s = std::log(value) / far, a = 0.75 * std::min(1.0, std::abs(s));
      const Ink end = s >= 0.0 ? Ink{0.20, 0.42, 0.62} : Ink{0.66, 0.24, 0.16};
      return Ink{1.0 + a * (end.r - 1.0), 1.0 + a * (end.g - 1.0), 1.0 + a * (end.b - 1.0)};
    };
    constexpr std::size_t cells = 6;
    for (std::size_t j = 0; j + 1 < ys.size(); ++j)
      for (std::size_t i = 0; i + 1 < xs.size(); ++i) {
        const double a = least(i, j), b = least(i + 1, j), c = least(i, j + 1), d = least(i + 1, j + 1);
        if (std::isnan(a + b + c + d)) continue;
        const Point corner = at(xs[i], ys[j]), end = at(xs[i + 1], ys[j + 1]);
        const double w = (end.x - corner.x) / cells, h = (corner.y - end.y) / cells;
        for (std::size_t l = 0; l < cells; ++l)
          for (std::size_t k = 0; k < cells; ++k) {
            const double x = (static_cast<double>(k) + 0.5) / cells, y = (static_cast<double>(l) + 0.5) / cells;
            const Ink here = ink((1 - y) * ((1 - x) * a + x * b) + y * ((1 - x) * c + x * d));
            sheet_.rectangle({corner.x + w * static_cast<double>(k), corner.y - h * static_cast<double>(l + 1)}, w, h,
                             here, {here, 0.7, {}});
          }
      }
    axes(axis_name(sweep_.varied[1]));
    regions();
    // Round levels, and 1 always.
    Scale levels{low, most, round_above((most - low) / 8.0), most > 20.0 * low};
    for (const double level : levels.ticks())
      if (std::abs(level - 1.0) > 1e-9 && level > low && level < most) contour(level, {dark, 0.6, {}});
    contour(1.0, {accent, 2.0, {}});
    frame();
    const auto now = [&](int k) { return sweep_.varied[static_cast<std::size_t>(k)].now; };
    words(10, "Least reserve", dark, true);
    row_ += 2;
    told("blue above 1, red below; lines at round values, the thick one at 1");
    if (now(0) && now(1) && x_.share(*now(0)) >= 0.0 && x_.share(*now(0)) <= 1.0 && y_.share(*now(1)) >= 0.0 &&
        y_.share(*now(1)) <= 1.0) {
      const Point p = at(*now(0), *now(1));
      for (const auto& [ink_of_it, wide] : {std::pair{Ink{1, 1, 1}, 4.0}, {dark, 1.6}}) {
        sheet_.line({{p.x - 6, p.y}, {p.x + 6, p.y}}, {ink_of_it, wide, {}});
        sheet_.line({{p.x, p.y - 6}, {p.x, p.y + 6}}, {ink_of_it, wide, {}});
      }
      told(fmt::format("the cross: as it is, {} and {}", sizing::value_text(sweep_.varied[0], *now(0)),
                       sizing::value_text(sweep_.varied[1], *now(1))));
    }
    row_ += 8;
    words(10, "What comes first", dark, true);
    row_ += 2;
    for (std::size_t k = 0; k < whats_.size(); ++k) told(fmt::format("{}  {}", k + 1, whats_[k]));
    row_ += 8;
    for (const std::string& line : sizing::words_of(sweep_)) told(line);
  }

  /// Where another thing comes first: lines between, and its number inside.
  void regions() {
    const std::vector<double>&xs = sweep_.varied[0].values, &ys = sweep_.varied[1].values;
    const auto what = [&](std::size_t i, std::size_t j) {
      const Margin* const one = sweep_.least(j * xs.size() + i);
      return one == nullptr ? std::string() : one->what;
    };
    struct Region {
      double x = 0.0, y = 0.0;
      std::vector<std::pair<std::size_t, std::size_t>> nodes;
    };
    std::map<std::string, Region> all;
    for (std::size_t j = 0; j < ys.size(); ++j)
      for (std::size_t i = 0; i < xs.size(); ++i) {
        if (what(i, j).empty()) continue;
        Region& region = all[what(i, j)];
        region.x += static_cast<double>(i), region.y += static_cast<double>(j);
        region.nodes.emplace_back(i, j);
        // Half way between two that differ, across the edge between them.
        const auto middle = [](double a, double b) { return 0.5 * (a + b); };
        const auto clamped = [](const std::vector<double>& values, std::size_t k, bool up) {
          return up ? (k + 1 < values.size() ? 0.5 * (values[k] + values[k + 1]) : values[k])
                    : (k > 0 ? 0.5 * (values[k - 1] + values[k]) : values[k]);
        };
        if (i + 1 < xs.size() && what(i + 1, j) != what(i, j)) {
          const double x = middle(xs[i], xs[i + 1]);
          sheet_.line({at(x, clamped(ys, j, false)), at(x, clamped(ys, j, true))}, {grey, 0.9, {}});
        }
        if (j + 1 < ys.size() && what(i, j + 1) != what(i, j)) {
          const double y = middle(ys[j], ys[j + 1]);
          sheet_.line({at(clamped(xs, i, false), y), at(clamped(xs, i, true), y)}, {grey, 0.9, {}});
        }
      }
    std::vector<std::pair<std::size_t, std::string>> by_size;
    for (const auto& [name, region] : all) by_size.emplace_back(region.nodes.size(), name);
    std::stable_sort(by_size.begin(), by_size.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    for (const auto& [count, name] : by_size) {
      whats_.push_back(name);
      const Region& region = all.at(name);
      const double x = region.x / static_cast<double>(count), y = region.y / static_cast<double>(count);
      const auto nearest =
          std::min_element(region.nodes.begin(), region.nodes.end(), [&](const auto& a, const auto& b) {
            const auto far = [&](const auto& node) {
              return std::hypot(static_cast<double>(node.first) - x, static_cast<double>(node.second) - y);
            };
            return far(a) < far(b);
          });
      const Point p = at(xs[nearest->first], ys[nearest->second]);
      sheet_.circle({p.x, p.y - 3}, 7.0, {dark, 0.7, {}});
      sheet_.text(p, 9, fmt::format("{}", whats_.size()), Align::middle, dark, true);
    }
  }

  /// Straight through each triangle of a cell and its middle.
  void contour(double level, const Sheet::Pen& pen) {
    const std::vector<double>&xs = sweep_.varied[0].values, &ys = sweep_.varied[1].values;
    Point label;
    double nearest = std::numeric_limits<double>::infinity();
    for (std::size_t j = 0; j + 1 < ys.size(); ++j)
      for (std::size_t i = 0; i + 1 < xs.size(); ++i) {
        struct Corner {
          Point p;
          double value;
        };
        const std::array<Corner, 4> corners{{{at(xs[i], ys[j]), least(i, j)},
                                             {at(xs[i + 1], ys[j]), least(i + 1, j)},
                                             {at(xs[i + 1], ys[j + 1]), least(i + 1, j + 1)},
                                             {at(xs[i], ys[j + 1]), least(i, j + 1)}}};
        Corner middle{{0, 0}, 0.0};
        for (const Corner& corner : corners)
          middle.p.x += 0.25 * corner.p.x, middle.p.y += 0.25 * corner.p.y, middle.value += 0.25 * corner.value;
        if (std::isnan(middle.value)) continue;
        for (std::size_t k = 0; k < 4; ++k) {
          const std::array<const Corner*, 3> triangle{&corners[k], &corners[(k + 1) % 4], &middle};
          std::vector<Point> cut;
          for (std::size_t e = 0; e < 3; ++e) {
            const Corner &a = *triangle[e], &b = *triangle[(e + 1) % 3];
            if ((a.value < level) == (b.value < level)) continue;
            const double share = (level - a.value) / (b.value - a.value);
            cut.push_back({a.p.x + share * (b.p.x - a.p.x), a.p.y + share * (b.p.y - a.p.y)});
          }
          if (cut.size() != 2) continue;
          sheet_.line({cut[0], cut[1]}, pen);
          // Its number stands where it crosses the line from the upper left to the lower right corner.
          const Point m{0.5 * (cut[0].x + cut[1].x), 0.5 * (cut[0].y + cut[1].y)};
          const double off = std::abs((m.x - left) / width - (m.y - top) / height);
          if (off < nearest) nearest = off, label = m;
        }
      }
    if (!std::isfinite(nearest)) return;
    const std::string text = fmt::format("{:.3g}", level);
    const double half = 0.5 * sheet_.width_of(7.5, text) + 1.5;
    sheet_.rectangle({label.x - half, label.y - 5}, 2 * half, 10, {1, 1, 1}, {{1, 1, 1}, 0.1, {}});
    sheet_.text({label.x, label.y + 2.7}, 7.5, text, Align::middle, pen.ink, level == 1.0);
  }

  const SweepSheet& given_;
  const Sweep& sweep_;
  Sheet sheet_;
  Scale x_, y_;
  double row_ = top + 2;
  std::optional<std::pair<double, bool>> now_;  ///< where what it is now is told, and whether left of there
  std::vector<std::string> whats_;
};

/// A row for each point: the least margin, the mass, the values, every margin.
void write_points(const Sweep& sweep, const std::string& path) {
  std::vector<std::string> whats;
  for (const auto& point : sweep.points)
    if (point)
      for (const Margin& one : point->margins)
        if (std::find(whats.begin(), whats.end(), one.what) == whats.end()) whats.push_back(one.what);
  OutputFile out(path);
  std::string heading = "reserve,first,mass,in range";
  for (const Varied& one : sweep.varied)
    heading += "," + csv_cell(one.unit.empty() ? one.words : fmt::format("{} {}", one.words, one.unit));
  for (const std::string& what : whats) heading += "," + csv_cell(what);
  out.write(heading + "\n");
  const std::size_t columns = sweep.varied[0].values.size();
  for (std::size_t p = 0; p < sweep.points.size(); ++p) {
    const Margin* const least = sweep.least(p);
    std::string row =
        least == nullptr ? std::string(",") : fmt::format("{:.9g},{}", least->factor, csv_cell(least->what));
    row += sweep.points[p] ? fmt::format(",{:.9g},{}", sweep.points[p]->mass, sweep.points[p]->in_range ? "yes" : "no")
                           : std::string(",,");
    row += fmt::format(",{:.9g}", sweep.varied[0].values[p % columns]);
    if (sweep.varied.size() == 2) row += fmt::format(",{:.9g}", sweep.varied[1].values[p / columns]);
    for (const std::string& what : whats) {
      row += ',';
      if (!sweep.points[p]) continue;
      for (const Margin& one : sweep.points[p]->margins)
        if (one.what == what) {
          row += fmt::format("{:.9g}", one.factor);
          break;
        }
    }
    out.write(row + "\n");
  }
  out.commit();
}

}  // namespace

void draw(const SweepSheet& sweep, const std::string& path) {
  if (path.ends_with(".csv")) return write_points(sweep.sweep, path);
  SweepDrawing(sweep, path).draw();
}

}  // namespace bordado::drawing
