// Panels and sections that are sized by hand, a sheet each.
#include <bordado/hand_sheets.hpp>

#include "sheet.hpp"

#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bordado::drawing {

namespace {

using Align = Sheet::Align;
using Point = Sheet::Point;
using laminate::Vector2;

/// Reserves as bars on a scale of powers of ten, least first. \returns y below the last.
double draw_margins(Sheet& sheet, Point corner, double width, std::span<const sizing::Margin> margins) {
  sheet.text(corner, 10, "Times the load, until", Align::left, dark, true);
  if (margins.empty()) {
    sheet.text({corner.x, corner.y + 16}, 8, "nothing acts, or no strength is known", Align::left, grey);
    return corner.y + 24;
  }
  double least = 1.0, most = 1.0;
  for (const sizing::Margin& one : margins) least = std::min(least, one.factor), most = std::max(most, one.factor);
  least = std::pow(10.0, std::floor(std::log10(std::max(least, 1e-3 * most))));
  most = std::pow(10.0, std::ceil(std::log10(std::min(most, 1e5 * least)) + 1e-9));
  const double names = 172.0, bar = width - names - 40.0, step = 15.0, top = corner.y + 14.0;
  const auto place = [&](double factor) {
    return corner.x + names + bar * std::clamp(std::log(factor / least) / std::log(most / least), 0.0, 1.0);
  };
  const double bottom = top + step * static_cast<double>(margins.size());
  for (double tick = least; tick <= most * 1.001; tick *= 10.0) {
    const bool one = std::abs(tick - 1.0) < 1e-9;
    sheet.line({{place(tick), top}, {place(tick), bottom + 3}}, {one ? accent : hair, one ? 1.2 : 0.5, {}});
    sheet.text({place(tick), bottom + 12}, 7, fmt::format("{:g}", tick), Align::middle, one ? accent : grey);
  }
  double y = top;
  for (const sizing::Margin& one : margins) {
    const bool failed = one.factor < 1.0;
    sheet.rectangle({corner.x + names, y + 3}, place(one.factor) - corner.x - names, step - 6,
                    failed ? accent : Ink{0.35, 0.50, 0.66}, {dark, 0.3, {}});
    sheet.text({corner.x, y + 11}, 8, one.what, Align::left, dark, &one == &margins.front());
    sheet.text({place(one.factor) + 4, y + 11}, 8, fmt::format("{:.3g}", one.factor), Align::left,
               failed ? accent : dark, true);
    y += step;
  }
  return bottom + 20;
}

void draw_heading(Sheet& sheet, const std::string& title, const std::string& subtitle) {
  sheet.text({margin, margin + 14}, 16, title, Align::left, dark, true);
  sheet.text({margin, margin + 30}, 9, subtitle, Align::left, grey);
}

/// A panel as cells of colour by how far each place moves, with its edges: clamped hatched, simple by a line, free dashed.
void draw_field(Sheet& sheet, const sizing::PanelCase& given, Point corner, double width, double height,
                std::span<const sizing::BentPlace> places, const std::string& title, const std::string& scale_words) {
  sheet.text({corner.x, corner.y - 8}, 10, title, Align::left, dark, true);
  const double scale = std::min((width - 16) / given.a, (height - 16) / given.b);
  const double w = given.a * scale, h = given.b * scale, left = corner.x + 8, low = corner.y + 8 + h;
  const auto rows = static_cast<std::size_t>(std::lround(std::sqrt(static_cast<double>(places.size()))));
  double most = 0.0;
  for (const sizing::BentPlace& place : places) most = std::max(most, std::abs(place.deflection));
  // Cells between places, in steps of colour that are finer than these.
  constexpr std::size_t cells = 80;
  const auto value = [&](double share_x, double share_y) {
    const auto last = static_cast<double>(rows - 1);
    const auto i = static_cast<std::size_t>(std::min(share_x * last, last - 1.0)),
               j = static_cast<std::size_t>(std::min(share_y * last, last - 1.0));
    const double x = share_x * last - static_cast<double>(i), y = share_y * last - static_cast<double>(j);
    const auto at = [&](std::size_t k, std::size_t l) { return places[l * rows + k].deflection; };
    return (1 - y) * ((1 - x) * at(i, j) + x * at(i + 1, j)) + y * ((1 - x) * at(i, j + 1) + x * at(i + 1, j + 1));
  };
  const double cell_w = w / cells, cell_h = h / cells;
  for (std::size_t j = 0; j < cells; ++j)
    for (std::size_t i = 0; i < cells; ++i) {
      const double here = value((static_cast<double>(i) + 0.5) / cells, (static_cast<double>(j) + 0.5) / cells);
      const Ink ink = signed_ink(most > 0.0 ? 0.5 - 0.5 * here / most : 0.5);
      sheet.rectangle({left + cell_w * static_cast<double>(i), low - cell_h * static_cast<double>(j + 1)}, cell_w,
                      cell_h, ink, {ink, 0.4, {}});
    }
  const auto edge = [&](Point a, Point b, sizing::Edge kind, Point out) {
    sheet.line({a, b}, {dark, kind == sizing::Edge::free ? 0.6 : 1.4,
                        kind == sizing::Edge::free ? std::vector<double>{3, 3} : std::vector<double>{}});
    if (kind != sizing::Edge::clamped) return;
    const double length = std::hypot(b.x - a.x, b.y - a.y);
    for (double t = 0; t <= length; t += 7.0) {
      const Point at{a.x + (b.x - a.x) * t / length, a.y + (b.y - a.y) * t / length};
      sheet.line({at, {at.x + 6 * out.x + 3 * out.y, at.y + 6 * out.y + 3 * out.x}}, {dark, 0.5, {}});
    }
  };
  edge({left, low}, {left, low - h}, given.x0, {-1, 0});
  edge({left + w, low}, {left + w, low - h}, given.x1, {1, 0});
  edge({left, low}, {left + w, low}, given.y0, {0, 1});
  edge({left, low - h}, {left + w, low - h}, given.y1, {0, -1});
  sheet.text({left, low + 18}, 8, scale_words, Align::left, grey);
}

class PanelDrawing {
 public:
  PanelDrawing(const PanelSheet& panel, const UnitSystem& units, const std::string& path)
      : panel_(panel), units_(units), sheet_(path, page_width, page_height) {}

  void draw() {
    const sizing::PanelCase& given = panel_.given;
    const sizing::PanelAnswer& answer = panel_.answer;
    const std::string length = units_.unit(Dimension::length);
    draw_heading(sheet_, panel_.title, panel_.subtitle);
    double y = 100.0;
    const bool both = answer.buckling.forward && answer.bent;
    const double tall = both ? 195.0 : 400.0;
    if (answer.buckling.forward) {
      draw_field(sheet_, given, {margin, y}, 380, tall, sizing::buckling_shape(answer.panel, given.N, answer.terms, 41),
                 fmt::format("As it buckles, at {:.4g} times the forces", answer.buckling.forward->value),
                 "blue one way, red the other; x to the right, y up");
      y += tall + 48;
    }
    if (answer.bent)
      draw_field(sheet_, given, {margin, y}, 380, tall, answer.bent->places,
                 fmt::format("Under the pressure: {:.4g} {} at {:.4g}, {:.4g}", answer.bent->largest.value, length,
                             answer.bent->x, answer.bent->y),
                 answer.bent_without_N ? "without the forces in the plane, which buckle it"
                                       : "darkest where it goes farthest");
    const double right = 448, width = page_width - margin - right;
    double below = draw_margins(sheet_, {right, 92}, width, answer.margins) + 12;
    sheet_.text({right, below}, 10, "It carries", Align::left, dark, true);
    const std::string per_length = fmt::format("{}/{}", units_.unit(Dimension::force), length);
    sheet_.text({right, below + 14}, 8,
                fmt::format("Nx {:g}, Ny {:g}, Nxy {:g} {}; pressure {:g} {}", given.N[0], given.N[1], given.N[2],
                            per_length, given.pressure, units_.unit(Dimension::stress)));
    below += 34;
    if (!answer.frequencies.empty()) {
      std::vector<std::string> all;
      for (const sizing::Settled& one : answer.frequencies) all.push_back(fmt::format("{:.4g}", one.value));
      sheet_.text({right, below}, 10, "Frequencies, unloaded", Align::left, dark, true);
      sheet_.text({right, below + 14}, 8, fmt::format("{} {}", fmt::join(all, ", "), frequency_unit(units_)));
      below += 34;
    }
    if (answer.wave) {
      sheet_.text({right, below}, 10, "Faces on their core", Align::left, dark, true);
      sheet_.paragraph(
          {right, below + 14}, width, 8,
          answer.wave->longest
              ? std::string("no short wave of their own: the whole sandwich bends or shears off before")
              : fmt::format(
                    "wrinkle, on a solid core, at {:.4g} times the load in half waves of {:.3g} {} along {:.0f}°",
                    answer.wave->factor, answer.wave->half_wave, length,
                    answer.wave->direction * 180.0 / std::numbers::pi));
    }
    sheet_.text(
        {margin, page_height - 20}, 7,
        fmt::format("edges: clamped hatched, simply supported drawn, free dashed. Small deflections. Bordado {}",
                    version()),
        Align::left, grey);
    sheet_.commit();
  }

 private:
  const PanelSheet& panel_;
  const UnitSystem& units_;
  Sheet sheet_;
};

/// Of each load a bar as long as the classical one, filled as far as is counted on, and a mark at what acts.
double draw_shares(Sheet& sheet, Point corner, double width, const sizing::CurvedAnswer& answer,
                   const UnitSystem& units) {
  const std::string flow = fmt::format("{}/{}", units.unit(Dimension::force), units.unit(Dimension::length));
  double y = corner.y;
  for (const sizing::CurvedShare& share : answer.shares) {
    const std::string unit = share.of == sizing::CurvedShare::Of::pressure ? units.unit(Dimension::stress) : flow;
    const double most = std::max({share.classical, share.bears, share.load});
    const auto place = [&](double load) { return corner.x + width * load / most; };
    sheet.text({corner.x, y}, 9, std::string(sizing::name_of(share.of)) + ", " + unit, Align::left, dark, true);
    sheet.rectangle({corner.x, y + 8}, place(share.classical) - corner.x, 20, {1, 1, 1}, {dark, 0.6, {3, 2}});
    sheet.rectangle({corner.x, y + 8}, place(share.bears) - corner.x, 20, {0.80, 0.86, 0.92}, {dark, 0.6, {}});
    const bool failed = share.load > share.bears;
    sheet.rectangle({corner.x, y + 13}, place(share.load) - corner.x, 10, failed ? accent : Ink{0.35, 0.50, 0.66},
                    {dark, 0.3, {}});
    sheet.text({corner.x, y + 40}, 8,
               fmt::format("acts {:.4g}; counted on {:.4g}, {}; classical {:.4g}", share.load, share.bears,
                           share.flat ? std::string("of the flat panel")
                                      : fmt::format("{:.2f} of the classical one", share.left),
                           share.classical),
               Align::left, failed ? accent : dark);
    y += 66;
  }
  return y;
}

class SectionDrawing {
 public:
  SectionDrawing(const SectionSheet& section, const UnitSystem& units, const std::string& path)
      : section_(section), units_(units), sheet_(path, page_width, page_height) {}

  void draw() {
    draw_heading(sheet_, section_.title, section_.subtitle);
    draw_section({margin, 96}, 380, 440);
    const double right = 448, width = page_width - margin - right;
    const double below = draw_margins(sheet_, {right, 92}, width, section_.answer.margins) + 12;
    draw_signature({right, below}, width, page_height - 60 - below);
    sheet_.text({margin, page_height - 20}, 7,
                fmt::format("y to the right, z up, the bar comes out of the sheet. Colours: directions of plies, 0° "
                            "along the bar light. Bordado {}",
                            version()),
                Align::left, grey);
    sheet_.commit();
  }

 private:
  void draw_section(Point corner, double width, double height) {
    const auto& walls = section_.given.walls;
    const sizing::SectionStiffness& s = section_.answer.section;
    Vector2 low = s.shear_centre.cwiseMin(s.centroid), high = s.shear_centre.cwiseMax(s.centroid);
    double thickest = 0.0;
    for (const sizing::Wall& wall : walls) {
      low = low.cwiseMin(wall.from).cwiseMin(wall.to), high = high.cwiseMax(wall.from).cwiseMax(wall.to);
      thickest = std::max(thickest, laminate::thickness(wall.layers));
    }
    const Vector2 size = (high - low).cwiseMax(1e-9 * (high - low).norm());
    const double scale = std::min((width - 90) / size[0], (height - 110) / size[1]);
    const Vector2 middle = 0.5 * (low + high);
    const auto at = [&](const Vector2& p) {
      return Point{corner.x + 0.5 * width + (p[0] - middle[0]) * scale,
                   corner.y + 0.5 * height - (p[1] - middle[1]) * scale};
    };
    // Plies as thick as they can be seen, if that is more than they are.
    const double larger = std::max(1.0, std::min(14.0, 0.12 * scale * size.maxCoeff()) / (thickest * scale));
    for (const sizing::Wall& wall : walls) {
      const Vector2 n = wall.normal();
      double z = -0.5 * laminate::thickness(wall.layers);
      for (const laminate::Layer& layer : wall.layers) {
        const Vector2 below = n * (z * larger), above = n * ((z + layer.thickness) * larger);
        const std::vector<Point> outline{at(wall.from + below), at(wall.to + below), at(wall.to + above),
                                         at(wall.from + above)};
        const bool core =
            &layer < wall.layers.data() + wall.materials.size() &&
            material::is_core(wall.materials[static_cast<std::size_t>(&layer - wall.layers.data())]->kind);
        sheet_.area(std::vector<std::vector<Point>>{outline}, core ? core_ink : direction_ink(layer.angle),
                    {dark, 0.2, {}});
        z += layer.thickness;
      }
    }
    // Principal axes, a little beyond the section.
    const auto reach = [&](const Vector2& along) {
      double out = 0.0;
      for (const sizing::Wall& wall : walls)
        for (const Vector2& end : {wall.from, wall.to}) out = std::max(out, along.dot(end - s.centroid));
      return std::max(out, along.dot(s.shear_centre - s.centroid)) + 16.0 / scale;
    };
    for (const double angle : {s.turned, s.turned + 0.5 * std::numbers::pi}) {
      const Vector2 along(std::cos(angle), std::sin(angle));
      sheet_.line({at(s.centroid - reach(-along) * along), at(s.centroid + reach(along) * along)},
                  {accent, 0.7, {6, 2, 1, 2}});
    }
    if (s.strong > 1.001 * s.weak) {
      Vector2 strong(std::cos(s.turned), std::sin(s.turned));
      if (strong[1] < 0.0) strong = -strong;
      const Point label = at(s.centroid + reach(strong) * strong);
      sheet_.text({label.x + 6, label.y + 4}, 7, "bends most stiffly this way", Align::left, accent);
    }
    const Point c = at(s.centroid), e = at(s.shear_centre);
    sheet_.circle(c, 4.5, {dark, 1.2, {}});
    sheet_.line({{c.x - 7, c.y}, {c.x + 7, c.y}}, {dark, 0.8, {}});
    sheet_.line({{c.x, c.y - 7}, {c.x, c.y + 7}}, {dark, 0.8, {}});
    sheet_.line({{e.x - 5, e.y - 5}, {e.x + 5, e.y + 5}}, {Ink{0.11, 0.30, 0.55}, 1.6, {}});
    sheet_.line({{e.x - 5, e.y + 5}, {e.x + 5, e.y - 5}}, {Ink{0.11, 0.30, 0.55}, 1.6, {}});
    const std::string length = units_.unit(Dimension::length), force = units_.unit(Dimension::force);
    const double y = corner.y + height - 34;
    const auto clean = [&](double value) { return std::abs(value) < 1e-9 * size.norm() ? 0.0 : value; };
    sheet_.circle({corner.x + 6, y - 3}, 3.5, {dark, 1.0, {}});
    sheet_.text({corner.x + 18, y}, 8,
                fmt::format("centroid {:.4g}, {:.4g} {}", clean(s.centroid[0]), clean(s.centroid[1]), length));
    sheet_.line({{corner.x + 2, y + 7}, {corner.x + 10, y + 15}}, {Ink{0.11, 0.30, 0.55}, 1.6, {}});
    sheet_.line({{corner.x + 2, y + 15}, {corner.x + 10, y + 7}}, {Ink{0.11, 0.30, 0.55}, 1.6, {}});
    sheet_.text(
        {corner.x + 18, y + 14}, 8,
        fmt::format("shear centre {:.4g}, {:.4g} {}", clean(s.shear_centre[0]), clean(s.shear_centre[1]), length));
    sheet_.text({corner.x + 18, y + 28}, 8,
                larger > 1.0 ? fmt::format("plies {:.3g} times as thick as they are", larger) : "to scale", Align::left,
                grey);
    const double x = corner.x + 0.52 * width;
    sheet_.text({x, y}, 8, fmt::format("EA {:.4g} {}, GJ {:.4g} {} {}²", s.EA, force, s.GJ, force, length));
    sheet_.text({x, y + 14}, 8, fmt::format("EI {:.4g} and {:.4g} {} {}²", s.strong, s.weak, force, length));
    sheet_.text({x, y + 28}, 8, fmt::format("warping {:.4g} {} {}⁴", s.EGamma, force, length));
    // The size, by a bar.
    const double bar = round_above(0.25 * size.maxCoeff());
    sheet_.line({{corner.x, corner.y + 4}, {corner.x + bar * scale, corner.y + 4}}, {dark, 1.2, {}});
    sheet_.text({corner.x, corner.y}, 7, fmt::format("{:g} {}", bar, length));
  }

  /// At how many times the load walls buckle, over the half wave; both scales by powers.
  void draw_signature(Point corner, double width, double height) {
    if (!section_.answer.walls || section_.answer.walls->curve.size() < 2 || height < 90) return;
    const auto& curve = section_.answer.walls->curve;
    const std::string length = units_.unit(Dimension::length);
    sheet_.text(corner, 10, "Walls buckle: times the load over the half wave", Align::left, dark, true);
    const double left = corner.x + 34, right = corner.x + width - 8, top = corner.y + 12, low = corner.y + height - 16;
    double least = curve.front().factor, most = 0.0;
    for (const auto& one : curve) least = std::min(least, one.factor);
    most = std::min(50.0 * least, std::max_element(curve.begin(), curve.end(), [](const auto& a, const auto& b) {
                                    return a.factor < b.factor;
                                  })->factor);
    least *= 0.6;
    most = std::max(most, 2.0 * least);
    const double first = curve.front().half_wave, last = curve.back().half_wave;
    const auto place = [&](double half_wave, double factor) {
      return Point{left + (right - left) * std::log(half_wave / first) / std::log(last / first),
                   low - (low - top) * std::log(factor / least) / std::log(most / least)};
    };
    const auto ticks = [&](double from, double to, auto draw) {
      for (double ten = std::pow(10.0, std::floor(std::log10(from))); ten <= to; ten *= 10.0)
        for (const double digit : {1.0, 2.0, 5.0})
          if (const double value = digit * ten; value >= from && value <= to) draw(value);
    };
    ticks(first, last, [&](double value) {
      sheet_.line({place(value, least), place(value, most)}, {hair, 0.4, {}});
      sheet_.text({place(value, least).x, low + 10}, 7, fmt::format("{:g}", value), Align::middle, grey);
    });
    ticks(least, most, [&](double value) {
      sheet_.line({place(first, value), place(last, value)}, {hair, 0.4, {}});
      sheet_.text({left - 4, place(first, value).y + 2.5}, 7, fmt::format("{:g}", value), Align::right, grey);
    });
    sheet_.text({right, low + 20}, 7, fmt::format("half wave, {}", length), Align::right, grey);
    std::vector<Point> points;
    for (const auto& one : curve)
      if (one.factor <= most) points.push_back(place(one.half_wave, one.factor));
    sheet_.line(points, {{0.11, 0.30, 0.55}, 1.4, {}});
    if (const auto& local = section_.answer.walls->local) {
      const Point p = place(local->half_wave, local->factor);
      sheet_.circle(p, 3.0, {accent, 1.4, {}});
      sheet_.text({p.x, p.y + 16}, 8,
                  fmt::format("{:.4g}: {} most, {:.3g} {}", local->factor, section_.given.walls[local->wall].name,
                              local->half_wave, length),
                  p.x > 0.6 * right + 0.4 * left ? Align::right : Align::left, accent);
    }
  }

  const SectionSheet& section_;
  const UnitSystem& units_;
  Sheet sheet_;
};

}  // namespace

std::string frequency_unit(const UnitSystem& units) {
  const std::string time = units.unit(Dimension::time);
  return time == "s" ? "Hz" : "1/" + time;
}

void draw(const PanelSheet& panel, const UnitSystem& units, const std::string& path) {
  PanelDrawing(panel, units, path).draw();
}

void draw(const CurvedSheet& curved, const UnitSystem& units, const std::string& path) {
  Sheet sheet(path, page_width, page_height);
  draw_heading(sheet, curved.title, curved.subtitle);
  const sizing::CurvedAnswer& answer = curved.answer;
  sheet.text({margin, 92}, 10, "Buckling, load by load", Align::left, dark, true);
  double y = 112;
  if (answer.shares.empty())
    sheet.text({margin, y}, 8, "nothing pushes", Align::left, grey);
  else
    y = draw_shares(sheet, {margin, y}, 370, answer, units);
  y = sheet.paragraph(
      {margin, y + 10}, 370, 8,
      fmt::format("Dashed: the classical load of a perfect shape. Light: what is counted on, the low side of tests "
                  "(NASA SP-8007, 1968); R / t {:.3g}. Dark: what acts. Shares are added, and what pulls "
                  "helps nothing.",
                  answer.left.radius_to_thickness));
  const double right = 448, width = page_width - margin - right;
  const double below = draw_margins(sheet, {right, 92}, width, answer.margins) + 12;
  const std::string flow = fmt::format("{}/{}", units.unit(Dimension::force), units.unit(Dimension::length));
  sheet.text({right, below}, 10, "Its wall carries", Align::left, dark, true);
  sheet.text({right, below + 14}, 8,
             fmt::format("along {:g}, round {:g}, shear {:g} {}", answer.N[0], answer.N[1], answer.N[2], flow));
  sheet.text({margin, page_height - 20}, 7,
             fmt::format("edges keep their shape and turn freely; away from them the wall does not bend. Bordado {}",
                         version()),
             Align::left, grey);
  sheet.commit();
}

void draw(const SectionSheet& section, const UnitSystem& units, const std::string& path) {
  SectionDrawing(section, units, path).draw();
}

}  // namespace bordado::drawing
