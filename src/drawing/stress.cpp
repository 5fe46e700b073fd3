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
    const Value along = [](const State& s) { return s.ply_stress[0]; };
    const Value across = [](const State& s) { return s.ply_stress[1]; };
    const Value in_plane = [](const State& s) { return s.ply_stress[2]; };
    const Value shear_13 = [](const State& s) { return s.ply_shear[0]; };
    const Value shear_23 = [](const State& s) { return s.ply_shear[1]; };
    const Value through = [](const State& s) { return s.ply_through; };
    const bool solids = std::any_of(profile_.states.begin(), profile_.states.end(),
                                    [](const State& s) { return s.ply_through != 0.0; });
    panel_ = solids ? 90.0 : 108.0;
    component(0, "s1, along fibres", along, {along});
    component(1, "s2, across them", across, {across, in_plane});
    component(2, "t12, in the plane", in_plane, {across, in_plane});
    const std::vector<Value> small =
        solids ? std::vector<Value>{shear_13, shear_23, through} : std::vector<Value>{shear_13, shear_23};
    component(3, "t13, through", shear_13, small);
    component(4, "t23, through", shear_23, small);
    if (solids) component(5, "s3, through", through, small);
    reserves(solids ? 6 : 5);
    sheet_.text(
        {margin, page_height - 20}, 7,
        fmt::format(
            "{} in ply axes; layers from the tool up; {}. s2 and t12 stand to one scale, and all that go through the "
            "thickness. Bordado {}",
            units_.unit(Dimension::stress),
            solids ? "13, 23 and 3 as solids have them" : "13 and 23 by equilibrium with the shear forces", version()),
        Align::left, grey);
    sheet_.commit();
  }

 private:
  using Value = std::function<double(const result::PlyState&)>;
  static constexpr double top = 112, height = 400, first = 124, gap = 9;

  double y(double z) const { return top + height - (z - profile_.stack.z0) * scale_; }

  /// Ply names at the left, those that would touch left out.
  void names() {
    double z = profile_.stack.z0, last = 1e9;
    sheet_.text({first - 8, top - 8}, 7, fmt::format("z {}", units_.unit(Dimension::length)), Align::right, grey);
    for (std::size_t i = 0; i < profile_.stack.layers.size(); ++i) {
      const double t = profile_.stack.layers[i].thickness, middle = y(z + 0.5 * t);
      if (last - middle > 8.5) {
        const std::string ply = i < profile_.stack.plies.size() ? profile_.stack.plies[i] : profile_.stack.materials[i];
        sheet_.text({first - 30, middle + 2.5}, 7,
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

  /// The least reserve of each layer and what fails, where there is room for a line; below one in the colour of what is wrong.
  void reserves(int column) {
    if (profile_.least.empty()) return;
    const double left = first + column * (panel_ + gap) + 2.0;
    sheet_.text({left, top - 20}, 8.5, "least reserve", Align::left, dark, true);
    double z = profile_.stack.z0, last = 1e9;
    for (std::size_t i = 0; i < profile_.stack.layers.size(); ++i) {
      const double t = profile_.stack.layers[i].thickness, middle = y(z + 0.5 * t);
      z += t;
      if (i >= profile_.least.size() || !profile_.least[i].any() || last - middle <= 8.5) continue;
      const result::Critical& one = profile_.least[i];
      const bool below = one.factor < 1.0;
      sheet_.text({left, middle + 2.5}, 7.5, rounded_text(one.factor, 3), Align::left, below ? accent : dark, below);
      if (t * scale_ > 20.0) {
        double line = middle + 11.5;
        for (const std::string& part : words_in(std::string(laminate::words(one.mode)), 20)) {
          sheet_.text({left, line}, 6, part, Align::left, grey);
          line += 7.5;
        }
      }
      last = middle;
    }
  }
  /// A text in lines of no more than so many letters, where blanks allow it.
  static std::vector<std::string> words_in(const std::string& text, std::size_t most) {
    std::vector<std::string> out(1);
    for (std::size_t at = 0; at < text.size();) {
      const std::size_t end = std::min(text.find(' ', at), text.size());
      const std::string word = text.substr(at, end - at);
      if (!out.back().empty() && out.back().size() + 1 + word.size() > most) out.emplace_back();
      out.back() += (out.back().empty() ? "" : " ") + word;
      at = end + 1;
    }
    return out;
  }

  /// \param scale what stands to the same scale
  void component(int column, std::string_view name, const Value& value, const std::vector<Value>& scale) {
    const double left = first + column * (panel_ + gap);
    double low = 0.0, high = 0.0, own_low = 0.0, own_high = 0.0;
    for (const auto& s : profile_.states) {
      for (const Value& one : scale) low = std::min(low, one(s)), high = std::max(high, one(s));
      own_low = std::min(own_low, value(s)), own_high = std::max(own_high, value(s));
    }
    const double span = high - low;
    // The plies behind, lightly.
    double z = profile_.stack.z0;
    for (std::size_t i = 0; i < profile_.stack.layers.size(); ++i) {
      const double t = profile_.stack.layers[i].thickness;
      Ink ink = profile_.stack.cores[i] ? core_ink : direction_ink(profile_.stack.layers[i].angle);
      for (double* const part : {&ink.r, &ink.g, &ink.b}) *part = 0.65 + 0.35 * *part;
      sheet_.rectangle({left, y(z + t)}, panel_, t * scale_, ink, {{1, 1, 1}, 0.3, {}});
      z += t;
    }
    sheet_.text({left, top - 20}, 8.5, name, Align::left, dark, true);
    if (span <= 0.0) {
      sheet_.text({left + 0.5 * panel_, top + height + 11}, 7.5, "0", Align::middle, grey);
      return;
    }
    const double pad = 8.0, across = (panel_ - 2 * pad) / span;
    const auto x = [&](double v) { return left + pad + (v - low) * across; };
    const auto shown = [&](double v) { return rounded_text(std::abs(v) < 1e-9 * span ? 0.0 : v, 3); };
    const double tick = round_above(span / 4.0);
    for (double k = std::ceil(low / tick - 1e-6); k * tick <= high + 1e-6 * span; k += 1.0) {
      sheet_.line({{x(k * tick), top}, {x(k * tick), top + height + 3.0}}, {k == 0.0 ? grey : hair, 0.5, {}});
      sheet_.text({x(k * tick), top + height + 11}, 7, shown(k * tick), Align::middle, grey);
    }
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
    sheet_.text({left + 0.5 * panel_, top + height + 22}, 7.5, fmt::format("{} to {}", shown(own_low), shown(own_high)),
                Align::middle, dark);
  }

  const StressProfile& profile_;
  const UnitSystem& units_;
  Sheet sheet_;
  double h_ = 1.0, scale_ = 1.0, panel_ = 108.0;
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
