// Stresses through the thickness on one sheet.
#include "sheet.hpp"

#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::drawing {

namespace {

using Align = Sheet::Align;
using Point = Sheet::Point;

class StressSheet {
 public:
  StressSheet(const StressProfile& profile, const UnitSystem& units, const std::string& path)
      : profile_(profile), units_(units), sheet_(path, page_width, page_height) {}

  void draw() {
    sheet_.text({margin, margin + 14}, 16, profile_.title, Align::left, dark, true);
    sheet_.text({margin, margin + 30}, 9, profile_.subtitle, Align::left, grey);
    const auto& layers = profile_.stack.layers;
    h_ = laminate::thickness(layers);
    scale_ = height / h_;
    names();
    using State = result::PlyState;
    const auto plane = [](int k) { return [k](const State& s) { return s.ply_stress[k]; }; };
    const auto shear = [](int k) { return [k](const State& s) { return s.ply_shear[k]; }; };
    component(0, "s1, along the fibres", plane(0));
    component(1, "s2, across them", plane(1));
    component(2, "t12, in the plane", plane(2));
    component(3, "t13, through", shear(0));
    component(4, "t23, through", shear(1));
    sheet_.text({margin, page_height - 20}, 7,
                fmt::format("{} in ply axes; layers from the tool up; 13 and 23 by equilibrium with the shear forces. "
                            "Bordado {}",
                            units_.unit(Dimension::stress), version()),
                Align::left, grey);
    sheet_.commit();
  }

 private:
  static constexpr double top = 112, height = 400, first = 150, panel = 122, gap = 12;

  double y(double z) const { return top + height - (z - profile_.stack.z0) * scale_; }

  /// Ply names at the left, those that would touch left out.
  void names() {
    double z = profile_.stack.z0, last = 1e9;
    sheet_.text({first - 8, top - 8}, 7, fmt::format("z {}", units_.unit(Dimension::length)), Align::right, grey);
    for (std::size_t i = 0; i < profile_.stack.layers.size(); ++i) {
      const double t = profile_.stack.layers[i].thickness, middle = y(z + 0.5 * t);
      if (last - middle > 8.5) {
        const std::string ply = i < profile_.stack.plies.size() ? profile_.stack.plies[i] : profile_.stack.materials[i];
        sheet_.text({first - 34, middle + 2.5}, 7,
                    fmt::format("{} {:g}°", ply,
                                std::round(10.0 * same_fibre(profile_.stack.layers[i].angle).degrees()) / 10.0 + 0.0),
                    Align::right);
        last = middle;
      }
      z += t;
    }
    for (const double at : {profile_.stack.z0, profile_.stack.z0 + h_})
      sheet_.text({first - 6, y(at) + 2.5}, 7, rounded_text(std::abs(at) < 1e-12 * h_ ? 0.0 : at, 3), Align::right);
  }

  void component(int column, std::string_view name, const std::function<double(const result::PlyState&)>& value) {
    const double left = first + column * (panel + gap);
    double low = 0.0, high = 0.0;
    for (const auto& s : profile_.states) low = std::min(low, value(s)), high = std::max(high, value(s));
    const double span = high - low;
    // The plies behind, lightly.
    double z = profile_.stack.z0;
    for (std::size_t i = 0; i < profile_.stack.layers.size(); ++i) {
      const double t = profile_.stack.layers[i].thickness;
      Ink ink = profile_.stack.cores[i] ? core_ink : direction_ink(profile_.stack.layers[i].angle);
      for (double* const part : {&ink.r, &ink.g, &ink.b}) *part = 0.65 + 0.35 * *part;
      sheet_.rectangle({left, y(z + t)}, panel, t * scale_, ink, {{1, 1, 1}, 0.3, {}});
      z += t;
    }
    sheet_.text({left, top - 20}, 8.5, name, Align::left, dark, true);
    if (span <= 0.0) {
      sheet_.text({left + 0.5 * panel, top + height + 11}, 7.5, "0", Align::middle, grey);
      return;
    }
    const double pad = 8.0, across = (panel - 2 * pad) / span;
    const auto x = [&](double v) { return left + pad + (v - low) * across; };
    sheet_.line({{x(0.0), top}, {x(0.0), top + height}}, {grey, 0.5, {}});
    std::vector<Point> line;
    // Within a layer stresses in the plane are straight, those through it parabolas: three points tell both.
    for (std::size_t i = 0; i + 2 < profile_.states.size(); i += 3) {
      const auto* const s = &profile_.states[i];
      for (int step = 0; step <= 12; ++step) {
        const double u = step / 12.0, a = (1.0 - u) * (1.0 - 2.0 * u), b = 4.0 * u * (1.0 - u), c = u * (2.0 * u - 1.0);
        line.push_back({x(a * value(s[0]) + b * value(s[1]) + c * value(s[2])), y(s[0].z + u * (s[2].z - s[0].z))});
      }
    }
    sheet_.line(line, {accent, 1.5, {}});
    const auto shown = [&](double v) { return rounded_text(std::abs(v) < 1e-9 * span ? 0.0 : v, 3); };
    sheet_.text({left + pad, top + height + 11}, 7.5, shown(low), Align::left, grey);
    sheet_.text({left + panel - pad, top + height + 11}, 7.5, shown(high), Align::right, grey);
  }

  const StressProfile& profile_;
  const UnitSystem& units_;
  Sheet sheet_;
  double h_ = 1.0, scale_ = 1.0;
};

}  // namespace

StackDrawing stack_at(const Design& design, mesh::ElementIndex e, std::span<const result::PlyState> states) {
  StackDrawing all = stack_at(design, e), out;
  layup::LayersOn layers_on(design);
  const auto laid = layers_on(e);
  out.title = all.title, out.subtitle = all.subtitle;
  std::vector<layup::Piece> all_pieces = layup::pieces(design.part, laid);
  const std::size_t number = states.empty() ? 0 : states.front().piece;
  if (number >= all_pieces.size()) return out;
  const layup::Piece& piece = all_pieces[number];
  for (std::size_t i = 0, k = 0; i < laid.size() && k < piece.layers.size(); ++i) {
    if (laid[i].ply != piece.layers[k].ply) continue;
    out.layers.push_back(all.layers[i]);
    out.layers.back().thickness = piece.layers[k++].thickness;
    out.plies.push_back(all.plies[i]);
    out.materials.push_back(all.materials[i]);
    out.cores.push_back(all.cores[i]);
  }
  out.z0 = piece.bottom;
  return out;
}

void draw(const StressProfile& profile, const UnitSystem& units, const std::string& path) {
  StressSheet(profile, units, path).draw();
}

}  // namespace bordado::drawing
