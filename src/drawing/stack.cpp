// One laminate on one sheet.
#include "sheet.hpp"

#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <cmath>

namespace bordado::drawing {

namespace {

using Align = Sheet::Align;
using Point = Sheet::Point;

/// To a hundredth of a degree.
std::string degrees(Angle angle) { return fmt::format("{:g}°", std::round(angle.degrees() * 100.0) / 100.0 + 0.0); }

/// Heights for labels that want to stand at `wanted` (ascending), at least `gap` from each other, each as near as that
/// allows: neighbours that would touch are gathered and centred on what they want together.
std::vector<double> spread(const std::vector<double>& wanted, double gap) {
  struct Group {
    double sum = 0.0;  ///< of what its members want, less their place in it
    std::size_t count = 0;
    double begin() const { return sum / static_cast<double>(count); }
  };
  std::vector<Group> groups;
  for (const double w : wanted) {
    groups.push_back({w, 1});
    while (groups.size() > 1) {
      Group &last = groups.back(), &before = groups[groups.size() - 2];
      const double end = before.begin() + gap * static_cast<double>(before.count);
      if (last.begin() >= end) break;
      before.sum += last.sum - gap * static_cast<double>(before.count * last.count);
      before.count += last.count;
      groups.pop_back();
    }
  }
  std::vector<double> out;
  for (const Group& g : groups)
    for (std::size_t i = 0; i < g.count; ++i) out.push_back(g.begin() + gap * static_cast<double>(i));
  return out;
}

class StackSheet {
 public:
  StackSheet(const StackDrawing& stack, const UnitSystem& units, const std::string& path)
      : stack_(stack), units_(units), sheet_(path, page_width, page_height), length_(units.unit(Dimension::length)) {}

  void draw() {
    sheet_.text({margin, margin + 14}, 16, stack_.title, Align::left, dark, true);
    sheet_.text({margin, margin + 30}, 9, stack_.subtitle, Align::left, grey);
    draw_layers({margin, 104}, 372, 424);
    draw_polar({640, 196}, 92);
    draw_reading({446, 332}, page_width - margin - 446);
    sheet_.text({margin, page_height - 20}, 7,
                fmt::format("first laid first: the lowest layer lies against the tool; z along the stacking normal; "
                            "angles from the reference towards n × r. Bordado {}",
                            version()),
                Align::left, grey);
    sheet_.commit();
  }

 private:
  void draw_layers(Point corner, double width, double height) {
    const double h = laminate::thickness(stack_.layers), scale = height / h;
    const std::size_t count = stack_.layers.size();
    const double left = corner.x + 46, bar = 120, low = corner.y + height;
    const double gap = std::min(12.0, (height + 24.0) / static_cast<double>(count)), size = std::min(8.0, 0.8 * gap);
    std::vector<double> middles;  // from the top down, as labels are spread
    double z = 0.0;
    std::vector<double> bottoms;
    for (const laminate::Layer& layer : stack_.layers) {
      bottoms.push_back(z);
      z += layer.thickness;
    }
    for (std::size_t i = count; i-- > 0;)
      middles.push_back(low - (bottoms[i] + 0.5 * stack_.layers[i].thickness) * scale);
    std::vector<double> places = spread(middles, gap);
    // Labels of a tall stack may not run off the sheet.
    const double over = places.back() - (low + 14), under = corner.y - 14 - places.front();
    const double shift = over > 0 ? -over : under > 0 ? under : 0.0;
    for (double& p : places) p += shift;
    sheet_.text({left + bar + 40, corner.y - 22}, 7, "angle", Align::right, grey);
    sheet_.text({left + bar + 52, corner.y - 22}, 7, "ply", Align::left, grey);
    sheet_.text({left + bar + 104, corner.y - 22}, 7, "material", Align::left, grey);
    sheet_.text({corner.x + width, corner.y - 22}, 7, "thickness " + length_, Align::right, grey);
    sheet_.text({left - 4, corner.y - 22}, 7, "z " + length_, Align::right, grey);
    for (std::size_t i = 0; i < count; ++i) {
      const laminate::Layer& layer = stack_.layers[i];
      const double top = low - (bottoms[i] + layer.thickness) * scale, tall = layer.thickness * scale;
      const Ink fill = stack_.cores[i] ? core_ink : direction_ink(layer.angle);
      sheet_.rectangle({left, top}, bar, tall, fill, {dark, tall > 2.0 ? 0.6 : 0.2, {}});
      draw_fibre({left + 0.5 * bar, top + 0.5 * tall}, tall, layer.angle, stack_.cores[i], fill);
      const double at = places[count - 1 - i], middle = middles[count - 1 - i];
      sheet_.line({{left + bar, middle}, {left + bar + 10, at}}, {hair, 0.5, {}});
      const double base = at + 0.35 * size;
      sheet_.text({left + bar + 42, base}, size, degrees(same_fibre(layer.angle)), Align::right, dark, true);
      if (i < stack_.plies.size()) sheet_.text({left + bar + 52, base}, size, stack_.plies[i]);
      sheet_.text({left + bar + 104, base}, size, stack_.materials[i]);
      sheet_.text({corner.x + width, base}, size, rounded_text(layer.thickness), Align::right);
    }
    draw_heights(left, low, scale, h, bottoms);
  }

  /// A short line along the fibre, as seen looking down on the layer, x to the right.
  void draw_fibre(Point at, double tall, Angle angle, bool core, const Ink& fill) {
    const double size = std::min(0.42 * tall, 7.0);
    if (size < 1.5) return;
    const bool light = 0.3 * fill.r + 0.6 * fill.g + 0.1 * fill.b < 0.45;
    const Ink ink = light ? Ink{1, 1, 1} : dark;
    if (core) {
      for (int k = -3; k <= 3; ++k) sheet_.circle({at.x + 9.0 * k, at.y}, std::min(size, 3.0), {ink, 0.6, {}});
      return;
    }
    const double dx = size * angle.cos(), dy = size * angle.sin();
    for (int k = -2; k <= 2; ++k)
      sheet_.line({{at.x + 18.0 * k - dx, at.y + dy}, {at.x + 18.0 * k + dx, at.y - dy}}, {ink, 0.9, {}});
  }

  /// z where there is room for it, always at both faces; and the mesh where it lies in or at the laminate.
  void draw_heights(double left, double low, double scale, double h, const std::vector<double>& bottoms) {
    double last = 1e9;
    for (std::size_t i = 0; i <= bottoms.size(); ++i) {
      const double z = i < bottoms.size() ? bottoms[i] : h, y = low - z * scale;
      const bool face = i == 0 || i == bottoms.size();
      if (!face && (last - y < 9.0 || y - (low - h * scale) < 9.0)) continue;
      last = y;
      const double shown = std::abs(z + stack_.z0) < 1e-12 * h ? 0.0 : z + stack_.z0;
      sheet_.line({{left - 3, y}, {left, y}}, {dark, 0.5, {}});
      sheet_.text({left - 5, y + 2.5}, 7, rounded_text(shown), Align::right);
    }
    const double mesh = low + stack_.z0 * scale;
    if (mesh > low + 20 || mesh < low - h * scale - 20) return;
    sheet_.line({{left - 3, mesh}, {left + 126, mesh}}, {accent, 1.2, {5, 3}});
    sheet_.text({left + 60, low + 16}, 7, "dashed: the mesh", Align::middle, accent);
  }

  void draw_polar(Point centre, double radius) {
    const double h = laminate::thickness(stack_.layers), middle = stack_.z0 + 0.5 * h;
    const auto all = laminate::against_direction(laminate::stiffness(stack_.layers, stack_.z0), h, middle, 360);
    double most = 0.0;
    for (const auto& a : all) most = std::max({most, a.in_plane, a.in_plane_held, a.in_bending});
    const double step = round_above(most / 4.0);
    const int rings = static_cast<int>(std::ceil(most / step - 1e-9));
    const double scale = radius / (rings * step);
    sheet_.text({centre.x - 194, centre.y - radius - 24}, 10,
                fmt::format("Stiffness against direction, {}", units_.unit(Dimension::stress)), Align::left, dark,
                true);
    for (int i = 1; i <= rings; ++i) sheet_.circle(centre, i * step * scale, {hair, 0.5, {}});
    for (int degrees = 0; degrees < 180; degrees += 45) {
      const double dx = radius * Angle::degrees(degrees).cos(), dy = radius * Angle::degrees(degrees).sin();
      sheet_.line({{centre.x - dx, centre.y + dy}, {centre.x + dx, centre.y - dy}}, {hair, 0.5, {}});
    }
    sheet_.text({centre.x + radius + 5, centre.y + 3}, 8, "0° x");
    sheet_.text({centre.x, centre.y - radius - 5}, 8, "90° y", Align::middle);
    for (const int degrees : {45, -45})
      sheet_.text({centre.x + (radius + 6) * Angle::degrees(degrees).cos(),
                   centre.y - (radius + 6) * Angle::degrees(degrees).sin() + (degrees < 0 ? 6 : 0)},
                  8, fmt::format("{}°", degrees));
    const auto curve = [&](double laminate::AlongDirection::*value, const Sheet::Pen& pen) {
      std::vector<Point> points;
      for (const auto& a : all)
        points.push_back(
            {centre.x + scale * a.*value * a.direction.cos(), centre.y - scale * a.*value * a.direction.sin()});
      sheet_.line(points, pen, true);
    };
    const Sheet::Pen pens[] = {
        {{0.11, 0.30, 0.55}, 1.6, {}}, {{0.11, 0.30, 0.55}, 0.9, {4, 2}}, {accent, 1.3, {1, 2.2}}};
    curve(&laminate::AlongDirection::in_plane, pens[0]);
    curve(&laminate::AlongDirection::in_plane_held, pens[1]);
    curve(&laminate::AlongDirection::in_bending, pens[2]);
    for (int i = 1; i <= rings; ++i)
      sheet_.text({centre.x + i * step * scale * 0.924 + 1, centre.y - i * step * scale * 0.383}, 6.5,
                  rounded_text(i * step), Align::left, grey);
    const char* names[] = {"pulled, free to bend", "pulled, bending held", "bent"};
    for (int i = 0; i < 3; ++i) {
      const double y = centre.y - radius + 14.0 * i;
      sheet_.line({{centre.x - 194, y}, {centre.x - 172, y}}, pens[i]);
      sheet_.text({centre.x - 168, y + 3}, 8, names[i]);
    }
    const auto in_plane = all.front().in_plane;
    sheet_.text({centre.x - 194, centre.y + 40}, 8, fmt::format("Ex {}", rounded_text(in_plane)));
    sheet_.text({centre.x - 194, centre.y + 52}, 8, fmt::format("Ey {}", rounded_text(all[90].in_plane)));
    sheet_.text({centre.x - 194, centre.y + 64}, 8, fmt::format("Gxy {}", rounded_text(all.front().shear)));
  }

  void draw_reading(Point at, double width) {
    const double h = laminate::thickness(stack_.layers);
    const laminate::Stiffness k = laminate::stiffness(stack_.layers, stack_.z0);
    const std::string force = units_.unit(Dimension::force);
    sheet_.text(at, 10, "A, B, D about the mesh", Align::left, dark, true);
    const double column = width / 3.0;
    const auto block = [&](int i, std::string name, const laminate::Matrix3& m, double noise) {
      const double x = at.x + column * i;
      sheet_.text({x, at.y + 14}, 8, name, Align::left, grey);
      for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 3; ++c)
          sheet_.text({x + (column - 8) / 3.0 * (c + 1) - 2, at.y + 27 + 11.0 * r}, 7.5,
                      std::abs(m(r, c)) <= noise ? "0" : rounded_text(m(r, c)), Align::right, dark, r == c);
    };
    block(0, fmt::format("A, {}/{}", force, length_), k.A, 1e-9 * k.A.norm());
    block(1, fmt::format("B, {}", force), k.B, 1e-9 * k.A.norm() * h);
    block(2, fmt::format("D, {} {}", force, length_), k.D, 1e-9 * k.D.norm());
    double y = at.y + 78;
    sheet_.text({at.x, y}, 10, "What that means", Align::left, dark, true);
    y += 14;
    for (const std::string& sentence : laminate::in_words(stack_.layers, units_))
      y = sheet_.paragraph({at.x, y}, width, 8, sentence) + 3;
  }

  const StackDrawing& stack_;
  const UnitSystem& units_;
  Sheet sheet_;
  std::string length_;
};

}  // namespace

StackDrawing stack_at(const Design& design, mesh::ElementIndex e) {
  StackDrawing out;
  layup::LayersOn layers_on(design);
  const std::span<const layup::LaidLayer> layers = layers_on(e);
  for (const layup::LaidLayer& layer : layers) {
    const part::PlyId p = layer.ply;
    const layup::Ply& ply = design.layup.plies[p];
    const material::Material& m = design.part.materials[ply.material];
    const Vec3& n = design.geometry.normals[e];
    const Vec3 fibre = design.layup.fibre(p, e, n);
    const Angle angle = frame::between(design.sections.references[e], fibre, n);
    // The direction as it is, not the same fibre's other one: the signs of the stresses 13 and 23 belong to it.
    out.layers.push_back(layup::layer_of(design.part, layer));
    out.layers.back().angle = Angle::degrees(std::round(angle.degrees() * 1e9) / 1e9);
    out.plies.push_back(design.part.plies[p].id);
    out.materials.push_back(m.name);
    out.cores.push_back(material::is_core(m.kind));
  }
  const double h = laminate::thickness(out.layers);
  out.z0 = layup::bottom(design.part, h);
  out.title = fmt::format("{}, element {}", design.part.name, design.surface.element_ids[e]);
  out.subtitle = fmt::format("{}, {} {}, {:.4g} kg/m²", layup::code(design.part, design.layup, layers), rounded_text(h),
                             design.part.units.unit(Dimension::length),
                             laminate::areal_mass(out.layers) * design.part.units.to_si(Dimension::areal_mass));
  for (std::size_t i = 0; i < layers.size(); ++i)
    if (layers[i].covered < 1.0)
      out.subtitle += fmt::format("{}{} on {:.0f} % of it",
                                  out.subtitle.find("smeared") == std::string::npos ? "; smeared: " : ", ",
                                  out.plies[i], 100.0 * layers[i].covered);
  return out;
}

void draw(const StackDrawing& stack, const UnitSystem& units, const std::string& path) {
  StackSheet(stack, units, path).draw();
}

}  // namespace bordado::drawing
