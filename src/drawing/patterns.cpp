// Flat patterns and rolls as drawings.
#include "dxf.hpp"
#include "sheet.hpp"

#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/drapes.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::drawing {

namespace {

using drape::Flat;
using Point = Sheet::Point;

constexpr double points_per_millimetre = 72.0 / 25.4;

[[noreturn]] void no_pattern(std::string what) {
  throw Failure({Severity::error,
                 "drape.no-pattern",
                 std::move(what),
                 {},
                 "add drape = \"NAME\" to plies of a net, and [drape.NAME] with a seed"});
}

/// One pattern with what is written on it.
struct Sheeted {
  const drape::Pattern* pattern;
  const layup::Draping* draping;
  const layup::Draping::Piece* piece;
  std::string name;   ///< "H1", "H1 piece 2 of 3"
  std::string about;  ///< material, areas
  Angle zero;         ///< from the warp to 0°
};

class Named {
 public:
  Named(const Design& design, std::span<const review::PlyPattern> plies)
      : millimetre_(design.part.units.to_si(Dimension::length) * 1e3) {
    for (const review::PlyPattern& of : plies) {
      const part::Ply& ply = design.part.plies[of.ply];
      const layup::Draping& draping = *design.layup.draping_of(of.ply);
      const layup::Draping::Piece& piece = draping.pieces[of.piece];
      for (std::size_t k = 0; k < of.patterns.size(); ++k) {
        std::string name = ply.id;
        if (draping.pieces.size() > 1) name += " " + design.part.drapes[piece.declared].name;
        if (of.patterns.size() > 1) name += fmt::format(" piece {} of {}", k + 1, of.patterns.size());
        const double square = millimetre_ * millimetre_ * 1e-6;
        const Flat size = (of.patterns[k].high - of.patterns[k].low) * millimetre_;
        all.push_back({&of.patterns[k], &draping, &piece, name,
                       fmt::format("{}, {:.4g} m², {:.0f} x {:.0f} mm", ply.material.value,
                                   of.patterns[k].area * square, size.x(), size.y()),
                       -draping.angle});
      }
    }
  }
  double millimetre() const { return millimetre_; }
  std::vector<Sheeted> all;

 private:
  double millimetre_;
};

Flat along(Angle angle) { return {angle.cos(), angle.sin()}; }

constexpr std::string_view face = "seen from the face that is laid last: the other face lies towards the mould";

// --- DXF

std::vector<std::pair<std::string, int>> layers() {
  return {{"OUTLINE", 7}, {"HOLE", 7}, {"SEED", 1}, {"ZERO", 5}, {"NOTCH", 3}, {"TEXT", 8}, {"ROLL", 8}};
}

/// A pattern where it lies: from its own millimetres to those of the drawing.
template <class Place>
void add(Dxf& dxf, const Sheeted& one, double millimetre, const Place& place) {
  const drape::Pattern& pattern = *one.pattern;
  std::vector<Flat> line;
  for (std::size_t k = 0; k < pattern.outlines.size(); ++k) {
    line.clear();
    for (const Flat& point : pattern.outlines[k]) line.push_back(place(point * millimetre));
    dxf.line(k == 0 ? "OUTLINE" : "HOLE", line, true);
  }
  for (const auto& [on, inwards] : pattern.notches)
    dxf.line("NOTCH", std::vector{place(on * millimetre), place(inwards * millimetre)}, false);
  const double size = std::max(1.0, 0.02 * (pattern.high - pattern.low).norm() * millimetre);
  const Flat middle = 0.5 * (pattern.low + pattern.high) * millimetre,
             from = pattern.has_seed ? Flat(Flat::Zero()) : middle;
  if (pattern.has_seed) {
    dxf.line("SEED", std::vector{place(Flat(-size, 0)), place(Flat(size, 0))}, false);
    dxf.line("SEED", std::vector{place(Flat(0, -size)), place(Flat(0, size))}, false);
  }
  const Flat way = along(one.zero), side(-way.y(), way.x());
  dxf.line("ZERO", std::vector{place(from), place(from + 5 * size * way)}, false);
  dxf.line("ZERO",
           std::vector{place(from + 4.3 * size * way + 0.3 * size * side), place(from + 5 * size * way),
                       place(from + 4.3 * size * way - 0.3 * size * side)},
           false);
  dxf.text("TEXT", place(from + 5.3 * size * way), 0.7 * size, "0 deg");
  dxf.text("TEXT", place(from + Flat(size, -2.0 * size)), 0.9 * size, one.name);
  dxf.text("TEXT", place(from + Flat(size, -3.4 * size)), 0.6 * size, one.about);
  dxf.text("TEXT", place(from + Flat(size, -4.4 * size)), 0.6 * size, face);
}

// --- on paper

/// Shear as colours: none light, the limit strong, past it red.
Ink shear_ink(double shear, double limit) {
  const double t = std::clamp(std::abs(shear) / limit, 0.0, 1.0);
  if (std::abs(shear) > limit) return {0.76, 0.15, 0.12};
  return {0.97 - 0.80 * t, 0.96 - 0.52 * t, 0.93 - 0.38 * t};
}

class Drawer {
 public:
  Drawer(const Design& design, Sheet& sheet, double millimetre)
      : design_(design), sheet_(sheet), millimetre_(millimetre) {}

  /// \param origin of the pattern's own (0, 0) on the sheet; `scale` points to a millimetre.
  void draw(const Sheeted& one, const Point& origin, double scale, bool turned, bool shear) {
    const drape::Pattern& pattern = *one.pattern;
    const double to = millimetre_ * scale, sense = turned ? -1.0 : 1.0;
    const auto place = [&](const Flat& p) {
      return Point{origin.x + sense * p.x() * to, origin.y - sense * p.y() * to};
    };
    std::vector<std::vector<Point>> lines;
    for (const auto& outline : pattern.outlines) {
      lines.emplace_back();
      for (const Flat& p : outline) lines.back().push_back(place(p));
    }
    if (shear) {
      colour(one, place);
      for (const auto& line : lines) sheet_.line(line, {dark, 0.8, {}}, true);
    } else {
      sheet_.area(lines, {0.95, 0.94, 0.91}, {dark, 0.8, {}});
    }
    for (const auto& [on, inwards] : pattern.notches) sheet_.line({place(on), place(inwards)}, {accent, 1.2, {}});
    const Flat from = pattern.has_seed ? Flat(Flat::Zero()) : Flat(0.5 * (pattern.low + pattern.high));
    const Point seed = place(from);
    if (pattern.has_seed) {
      const double arm =
          std::clamp(0.1 * std::min((pattern.high - pattern.low).x(), (pattern.high - pattern.low).y()) * to, 1.5, 5.0);
      sheet_.circle(seed, 0.6 * arm, {accent, 1.0, {}});
      sheet_.line({{seed.x - arm, seed.y}, {seed.x + arm, seed.y}}, {accent, 0.6, {}});
      sheet_.line({{seed.x, seed.y - arm}, {seed.x, seed.y + arm}}, {accent, 0.6, {}});
    }
    const Flat way = sense * along(one.zero);
    const Flat size = (pattern.high - pattern.low) * to;
    const double x = way.x(), y = -way.y(), reach = std::clamp(0.3 * std::min(size.x(), size.y()), 5.0, 34.0);
    const Point tip{seed.x + reach * x, seed.y + reach * y};
    const double h = 0.18 * reach;
    sheet_.line({seed, tip}, {dark, 1.0, {}});
    sheet_.line({{tip.x - h * x + 0.4 * h * y, tip.y - h * y - 0.4 * h * x},
                 tip,
                 {tip.x - h * x - 0.4 * h * y, tip.y - h * y + 0.4 * h * x}},
                {dark, 1.0, {}});
    if (reach > 12.0) sheet_.text({tip.x + 4 + (x < 0 ? -14 : 0), tip.y + 3}, 7, "0°");
  }

 private:
  template <class Place>
  void colour(const Sheeted& one, const Place& place) {
    const double limit = one.piece->laid.net.options.rest.degrees() > 0 ? limit_of(one) : 30.0;
    std::vector<mesh::ElementIndex> elements;
    for (const auto& beside : one.pattern->beside) elements.insert(elements.end(), beside.begin(), beside.end());
    // All elements that hang together with those on the outline belong to the piece.
    std::map<mesh::ElementIndex, bool> seen;
    std::vector<mesh::ElementIndex> open = elements;
    const drape::SmoothSurface& surface = *one.piece->surface;
    const drape::OnElements& on = one.piece->laid.elements;
    while (!open.empty()) {
      const mesh::ElementIndex e = open.back();
      open.pop_back();
      if (seen.count(e) || !on.reached(e) ||
          !holds(*one.pattern, drape::flat(on.cloth[e][0], on.cloth[e][1], rest(one))))
        continue;
      seen[e] = true;
      for (unsigned k = 0; k < surface.corners[e]; ++k) {
        const auto next = surface.neighbours[4 * static_cast<std::size_t>(e) + k];
        if (next != mesh::no_index && surface.is_own(next) && !seen.count(next)) open.push_back(next);
      }
    }
    for (const auto& [e, drawn] : seen) {
      const Flat at = drape::flat(on.cloth[e][0], on.cloth[e][1], rest(one));
      std::vector<Point> corners;
      const Vec3 &warp = on.warp[e], &weft = on.weft[e];
      const double c = warp.dot(weft), det = std::max(1e-6, 1.0 - c * c);
      for (const mesh::NodeIndex n : design_.surface.corners_of(e)) {
        const Vec3 d = design_.surface.points[n] - design_.geometry.centres[e];
        const double a = d.dot(warp), b = d.dot(weft);
        corners.push_back(place(at + drape::flat((a - c * b) / det, (b - c * a) / det, rest(one))));
      }
      const Ink ink = shear_ink(on.shear[e], limit);
      sheet_.area(std::vector<std::vector<Point>>{corners}, ink, {ink, 0.4, {}});
    }
  }

  static Angle rest(const Sheeted& one) { return one.draping->rest; }

  double limit_of(const Sheeted& one) const {
    for (const part::PlyId p : design_.layup.plies.ids())
      if (design_.layup.draping_of(p) == one.draping)
        return design_.part.materials[design_.layup.plies[p].material].form.shear_limit.value_or(30.0);
    return 30.0;
  }

  /// Whether a place is within the outline, its holes taken out.
  static bool holds(const drape::Pattern& pattern, const Flat& at) {
    bool inside = false;
    for (const auto& line : pattern.outlines)
      for (std::size_t k = 0; k < line.size(); ++k) {
        const Flat &a = line[k], &b = line[(k + 1) % line.size()];
        if ((a.y() > at.y()) != (b.y() > at.y()) &&
            at.x() < a.x() + (b.x() - a.x()) * (at.y() - a.y()) / (b.y() - a.y()))
          inside = !inside;
      }
    return inside;
  }

  const Design& design_;
  Sheet& sheet_;
  double millimetre_;
};

/// The next of 1 : 1, 2, 2.5, 5, 10, ... that is small enough.
double reduction_for(double room) {
  const double up = std::max(1.0, round_above(room)), finer = 1.25 * up / 2.0;
  // round_above knows 1, 2, 5: 2.5 lies before 5.
  return room <= finer && std::abs(std::log10(up / 5.0) - std::round(std::log10(up / 5.0))) < 1e-9 && up > 1.0
             ? 0.5 * up
             : up;
}

/// A bar of a round length, to check the scale by.
void scale_bar(Sheet& sheet, const Point& at, double scale) {
  const double millimetres = round_above(40.0 / scale), length = millimetres * scale;
  sheet.line({{at.x, at.y - 3}, {at.x, at.y + 3}}, {dark, 0.8, {}});
  sheet.line({{at.x, at.y}, {at.x + length, at.y}}, {dark, 0.8, {}});
  sheet.line({{at.x + length, at.y - 3}, {at.x + length, at.y + 3}}, {dark, 0.8, {}});
  sheet.text({at.x + length + 5, at.y + 3}, 8,
             fmt::format("{:g} mm of the part, {:.4g} mm on this sheet", millimetres, length / points_per_millimetre));
}

std::string title_of(const Design& design) {
  return design.part.name + (design.part.variant.empty() ? "" : " (" + design.part.variant + ")");
}

}  // namespace

void draw_patterns(const Design& design, std::span<const review::PlyPattern> patterns, bool shear,
                   const std::string& path) {
  const Named named(design, patterns);
  if (named.all.empty()) no_pattern("there is no flat pattern to draw");
  const double mm = named.millimetre();
  double longest = 0.0, tallest = 0.0, total = 0.0;
  for (const Sheeted& one : named.all) {
    const Flat size = (one.pattern->high - one.pattern->low) * mm;
    longest = std::max(longest, size.x()), tallest = std::max(tallest, size.y());
  }
  const double gap = 0.05 * std::max(longest, tallest) + 20.0;
  for (const Sheeted& one : named.all) total += (one.pattern->high.y() - one.pattern->low.y()) * mm + gap;
  if (ends_in(path, ".dxf")) {
    Dxf dxf(layers());
    double y = 0.0;
    for (const Sheeted& one : named.all) {  // one above the other
      const Flat by(-one.pattern->low.x() * mm, y - one.pattern->low.y() * mm);
      add(dxf, one, mm, [&](const Flat& p) { return Flat(p + by); });
      y += (one.pattern->high.y() - one.pattern->low.y()) * mm + gap;
    }
    dxf.write(path);
    return;
  }
  const bool pages = ends_in(path, ".pdf");
  constexpr double above = 76.0, below = 44.0;
  const double full = points_per_millimetre;
  Sheet sheet(path, pages ? page_width : longest * full + 2 * margin,
              pages ? page_height : total * full + above + below);
  Drawer drawer(design, sheet, mm);
  double y = above;
  bool first = true;
  for (const Sheeted& one : named.all) {
    if (pages && !first) sheet.next_page();
    if (pages || first)
      sheet.text({margin, margin}, 14, fmt::format("{}: flat patterns", title_of(design)), Sheet::Align::left, dark,
                 true);
    if (pages) y = above;
    const Flat size = (one.pattern->high - one.pattern->low) * mm;
    const double reduction =
        pages ? reduction_for(std::max(size.x() / (page_width - 2 * margin), size.y() / (page_height - above - below)) *
                              full)
              : 1.0;
    const double scale = full / reduction, height = size.y() * scale;
    sheet.text({margin, y - 12}, 11, one.name, Sheet::Align::left, dark, true);
    sheet.text({margin + 8 + sheet.width_of(11, one.name, true), y - 12}, 8, one.about + "; " + std::string(face));
    drawer.draw(one, {margin - one.pattern->low.x() * mm * scale, y + one.pattern->high.y() * mm * scale}, scale, false,
                shear);
    if (pages) {
      sheet.text({page_width - margin, margin}, 9, fmt::format("scale 1 : {:g}", reduction), Sheet::Align::right);
      scale_bar(sheet, {margin, page_height - 26}, scale);
      sheet.text({page_width - margin, page_height - 23}, 7,
                 fmt::format("{}warp to the right. Bordado {}",
                             shear ? "Blue: shear up to the limit; red: past it; " : "", version()),
                 Sheet::Align::right, grey);
    }
    y += height + gap * scale;
    first = false;
  }
  sheet.commit();
}

void draw_rolls(const Design& design, std::span<const review::PlyPattern> patterns, std::span<const review::Roll> rolls,
                const std::string& path) {
  if (rolls.empty()) no_pattern("no draped material has a roll-width to lay patterns on");
  const double mm = design.part.units.to_si(Dimension::length) * 1e3;
  double longest = 0.0, total = 0.0;
  constexpr double gap = 120.0;  // millimetres between rolls
  for (const review::Roll& roll : rolls) {
    longest = std::max(longest, roll.nest.length * mm);
    total += roll.nest.width * mm + gap;
  }
  const auto sheeted = [&](const review::Roll& roll, std::size_t k) {
    const review::Roll::Cutting& piece = roll.pieces[k];
    Sheeted out = Named(design, patterns.subspan(piece.ply, 1)).all[piece.pattern];
    out.pattern = &piece.cut;
    if (piece.lanes > 1) out.name += fmt::format(" lane {} of {}", piece.lane + 1, piece.lanes);
    return out;
  };
  const auto about = [&](const review::Roll& roll) {
    std::string text =
        fmt::format("{}, roll {:.0f} mm wide: {:.2f} m used, {:.0f} % waste, {}",
                    design.part.materials[roll.material].name, roll.nest.width * mm, roll.nest.length * mm * 1e-3,
                    100.0 * roll.nest.waste(), counted(roll.nest.placed.size(), "piece"));
    const auto spliced = std::count_if(roll.pieces.begin(), roll.pieces.end(),
                                       [](const review::Roll::Cutting& p) { return p.lanes > 1 && p.lane == 0; });
    if (spliced > 0)
      text += fmt::format("; {} broader than the roll, spliced", counted(static_cast<std::size_t>(spliced), "pattern"));
    return text;
  };
  if (ends_in(path, ".dxf")) {
    Dxf dxf(layers());
    double y = 0.0;
    for (const review::Roll& roll : rolls) {
      const double width = roll.nest.width * mm, length = roll.nest.length * mm;
      dxf.line("ROLL", std::vector<Flat>{{0, y}, {length, y}, {length, y + width}, {0, y + width}}, true);
      dxf.text("TEXT", Dxf::Point{0, y + width + 20}, 30, about(roll));
      for (const drape::Placed& placed : roll.nest.placed)
        add(dxf, sheeted(roll, placed.pattern), mm,
            [&](const Flat& p) { return Flat((placed.turned ? Flat(-p) : p) + placed.by * mm + Flat(0, y)); });
      y += width + gap;
    }
    dxf.write(path);
    return;
  }
  const bool pages = ends_in(path, ".pdf");
  constexpr double wide = 1191.0, high = 842.0, above = 74.0, below = 44.0;  // A3, lying
  const double full = points_per_millimetre;
  Sheet sheet(path, pages ? wide : longest * full + 2 * margin, pages ? high : total * full + above + below);
  Drawer drawer(design, sheet, mm);
  double y = above;
  bool first = true;
  for (const review::Roll& roll : rolls) {
    if (pages && !first) sheet.next_page();
    if (pages) y = above;
    if (pages || first)
      sheet.text({margin, margin}, 14, fmt::format("{}: patterns on the roll", title_of(design)), Sheet::Align::left,
                 dark, true);
    sheet.text({margin, y - 10}, 10, about(roll));
    const double reduction = pages ? reduction_for(std::max(roll.nest.length * mm / (wide - 2 * margin),
                                                            roll.nest.width * mm / (high - above - below)) *
                                                   full)
                                   : 1.0;
    const double scale = full / reduction;
    const double width = roll.nest.width * mm * scale, length = roll.nest.length * mm * scale;
    sheet.line(std::vector<Point>{{margin, y}, {margin + length, y}, {margin + length, y + width}, {margin, y + width}},
               {grey, 0.6, {4, 2}}, true);
    for (const drape::Placed& placed : roll.nest.placed) {
      const Sheeted one = sheeted(roll, placed.pattern);
      const Point origin{margin + placed.by.x() * mm * scale, y + width - placed.by.y() * mm * scale};
      drawer.draw(one, origin, scale, placed.turned, false);
      const Flat middle = placed.at(0.5 * (one.pattern->low + one.pattern->high)) * mm * scale;
      const Flat size = (one.pattern->high - one.pattern->low) * mm * scale;
      const double letters = std::clamp(0.2 * std::min(size.x(), size.y()), 3.5, 9.0);
      sheet.text({margin + middle.x(), y + width - middle.y() + 1.6 * letters}, letters, one.name, Sheet::Align::middle,
                 dark, true);
    }
    if (pages) {
      sheet.text({wide - margin, margin}, 9, fmt::format("scale 1 : {:g}", reduction), Sheet::Align::right);
      scale_bar(sheet, {margin, high - 26}, scale);
      sheet.text({wide - margin, high - 23}, 7, fmt::format("warp along the roll, {}. Bordado {}", face, version()),
                 Sheet::Align::right, grey);
    }
    y += width + gap * scale;
    first = false;
  }
  sheet.commit();
}

}  // namespace bordado::drawing
