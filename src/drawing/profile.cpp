// Cuts through the laminate as drawings for the shop.
#include "sheet.hpp"

#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

namespace bordado::drawing {

namespace {

using Align = Sheet::Align;
using Point = Sheet::Point;

class ProfileSheet {
 public:
  static constexpr double width = 1191.0, height = 842.0;  // A3, lying
  /// \param top where the drawing begins on its sheet.
  ProfileSheet(Sheet& sheet, const review::Profile& profile, const Design& design, std::string title, double top = 0.0)
      : profile_(profile),
        design_(design),
        unit_(design.part.units.unit(Dimension::length)),
        title_(std::move(title)),
        top_(top),
        sheet_(sheet) {}

  void draw() {
    scale();
    sheet_.text({margin, top_ + margin + 14}, 16, title_, Align::left, dark, true);
    const auto place = [](const Vec3& p) { return fmt::format("({:.5g}, {:.5g}, {:.5g})", p[0], p[1], p[2]); };
    sheet_.text(
        {margin, top_ + margin + 30}, 9,
        fmt::format("from {} to {} {}, {:.5g} {} along the surface; {}", place(profile_.points.front()),
                    place(profile_.points.back()), unit_, profile_.at.back(), unit_,
                    exaggeration_ == 1.0 ? std::string("drawn to scale")
                                         : fmt::format("thickness {:g} times as large as lengths", exaggeration_)),
        Align::left, grey);
    draw_bands();
    draw_names();
    draw_dimensions();
    draw_key();
    sheet_.text({margin, top_ + height - 20}, 7,
                fmt::format("lowest: first laid, against the tool; the thin line is the mesh. Distances along the "
                            "surface from the first end of a ply. Bordado {}",
                            version()),
                Align::left, grey);
  }

 private:
  static constexpr double margin = 42.0;

  double x(double at) const { return left_ + at * across_; }
  double y(double z) const { return low_ - (z - z_low_) * up_; }

  void scale() {
    z_low_ = 0.0, z_high_ = 0.0;
    for (const review::Profile::Band& band : profile_.bands)
      for (const std::size_t i : {0u, 1u}) {
        z_low_ = std::min(z_low_, band.bottom[i]);
        z_high_ = std::max(z_high_, band.bottom[i] + band.thickness[i]);
      }
    across_ = (width - 2 * margin - 70) / profile_.at.back();
    const double tall = 300.0;
    double factor = tall / (z_high_ - z_low_) / across_;
    // A round number that a person can divide by.
    double round = 1.0;
    for (const double step : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 1e4, 1e5})
      if (step <= factor) round = step;
    exaggeration_ = factor < 1.0 ? factor : round;
    up_ = exaggeration_ * across_;
    left_ = margin + 70;
    low_ = top_ + 150.0 + (z_high_ - z_low_) * up_;
  }

  void draw_bands() {
    for (const review::Profile::Band& band : review::settled(profile_, exaggeration_)) {
      const layup::Ply& ply = design_.layup.plies[band.ply];
      const Ink fill =
          material::is_core(design_.part.materials[ply.material].kind) ? core_ink : direction_ink(ply.angle);
      const std::vector<Point> outline{{x(band.from), y(band.bottom[0])},
                                       {x(band.to), y(band.bottom[1])},
                                       {x(band.to), y(band.bottom[1] + band.thickness[1])},
                                       {x(band.from), y(band.bottom[0] + band.thickness[0])}};
      const std::vector<std::vector<Point>> outlines{outline};
      sheet_.area(outlines, fill, {fill, 0.2, {}});
      const Sheet::Pen pen{dark, 0.35, {}};
      sheet_.line({outline[0], outline[1]}, pen);
      sheet_.line({outline[2], outline[3]}, pen);
    }
    for (const review::Profile::Edge& edge : profile_.edges)
      for (const review::Profile::Band& band : profile_.bands) {
        if (band.ply != edge.ply) continue;
        const std::size_t i = edge.ends ? 1 : 0;
        if (std::abs((edge.ends ? band.to : band.from) - edge.at) > 1e-6 * profile_.at.back()) continue;
        sheet_.line({{x(edge.at), y(band.bottom[i])}, {x(edge.at), y(band.bottom[i] + band.thickness[i])}},
                    {dark, 0.8, {}});
      }
    double begin = 0.0;
    for (const auto& [open, end] : profile_.openings) {
      sheet_.line({{x(begin), y(0.0)}, {x(open), y(0.0)}}, {grey, 0.4, {4.0, 2.0}});
      if (x(end) - x(open) > 24.0) sheet_.text({x(0.5 * (open + end)), y(0.0) - 3}, 7, "open", Align::middle, grey);
      begin = end;
    }
    sheet_.line({{x(begin), y(0.0)}, {x(profile_.at.back()), y(0.0)}}, {grey, 0.4, {4.0, 2.0}});
  }

  /// Plies named at the left, and at the right where they begin later.
  void draw_names() {
    std::set<part::PlyId> named;
    double last = 1e9;
    for (const review::Profile::Band& band : profile_.bands) {
      if (band.from > 0.0) continue;
      const double middle = y(band.bottom[0] + 0.5 * band.thickness[0]);
      named.insert(band.ply);
      if (last - middle < 7.0) continue;
      last = middle;
      sheet_.text({left_ - 6, middle + 2.5}, 7,
                  fmt::format("{} {:g}°", design_.part.plies[band.ply].id,
                              same_fibre(design_.layup.plies[band.ply].angle).degrees()),
                  Align::right);
    }
    last = 1e9;
    for (const review::Profile::Band& band : profile_.bands) {
      if (band.to < profile_.at.back() * (1.0 - 1e-9) || named.count(band.ply)) continue;
      const double middle = y(band.bottom[1] + 0.5 * band.thickness[1]);
      if (last - middle < 7.0) continue;
      last = middle;
      sheet_.text({x(profile_.at.back()) + 4, middle + 2.5}, 7, design_.part.plies[band.ply].id);
    }
  }

  /// Ends of plies from the first one, each on a line of its own; ends at one place share it.
  void draw_dimensions() {
    const double base = low_ + 26.0;
    if (profile_.edges.empty()) {
      sheet_.text({left_, base + 10}, 9, "No ply ends on this line.", Align::left, grey);
      return;
    }
    struct End {
      double at;
      std::string plies;
    };
    std::vector<End> ends;
    for (const review::Profile::Edge& edge : profile_.edges) {
      const std::string name = fmt::format("{}{}", edge.ends ? "" : "from here ", design_.part.plies[edge.ply].id);
      if (!ends.empty() && edge.at - ends.back().at <= 1e-6 * profile_.at.back())
        ends.back().plies += ", " + name;
      else
        ends.push_back({edge.at, name});
    }
    const double origin = ends.front().at;
    // To a thousandth of the line's length.
    const int digits = std::clamp(static_cast<int>(std::ceil(2.5 - std::log10(profile_.at.back()))), 0, 6);
    const double row = std::min(13.0, (top_ + height - 60.0 - base) / static_cast<double>(ends.size() + 1));
    const double size = std::min(8.0, 0.75 * row);
    for (std::size_t k = 0; k < ends.size(); ++k) {
      const double down = base + row * static_cast<double>(k);
      sheet_.line({{x(ends[k].at), low_ + 4}, {x(ends[k].at), down + 3}}, {hair, 0.5, {}});
      if (k > 0) {
        sheet_.line({{x(origin), down}, {x(ends[k].at), down}}, {dark, 0.5, {}});
        for (const double sign : {-1.0, 1.0}) {  // both ends of the measure
          const double at = sign < 0 ? x(origin) : x(ends[k].at);
          sheet_.line({{at - 2.5, down + 2.5}, {at + 2.5, down - 2.5}}, {dark, 0.8, {}});
        }
      }
      const std::string words =
          k == 0 ? fmt::format("0   {}, {:.{}f} {} from the beginning", ends[k].plies, origin, digits, unit_)
                 : fmt::format("{:.{}f}   {}", ends[k].at - origin, digits, ends[k].plies);
      const double wide = sheet_.width_of(size, words);
      if (x(ends[k].at) + 8 + wide < width - margin)
        sheet_.text({x(ends[k].at) + 8, down + 0.35 * size}, size, words);
      else
        sheet_.text({x(k == 0 ? ends[k].at : origin) - 8, down + 0.35 * size}, size, words, Align::right);
    }
    sheet_.line({{x(origin), low_ + 4}, {x(origin), base + row * static_cast<double>(ends.size() - 1) + 3}},
                {hair, 0.5, {}});
  }

  void draw_key() {
    double at = margin;
    const double down = top_ + 104.0;
    const auto add = [&](const Ink& ink, std::string_view words) {
      sheet_.rectangle({at, down - 7}, 14, 8, ink, {dark, 0.4, {}});
      sheet_.text({at + 19, down}, 8, words);
      at += 19 + sheet_.width_of(8, words) + 18;
    };
    for (const double degrees : {0.0, 45.0, 90.0, -45.0})
      add(direction_ink(Angle::degrees(degrees)), fmt::format("{:g}°", degrees));
    add(core_ink, "core");
  }

  const review::Profile& profile_;
  const Design& design_;
  std::string unit_, title_;
  double top_;
  Sheet& sheet_;
  double across_ = 1.0, up_ = 1.0, left_ = 0.0, low_ = 0.0, z_low_ = 0.0, z_high_ = 0.0, exaggeration_ = 1.0;
};

}  // namespace

void draw(const review::Profile& profile, const Design& design, const std::string& path) {
  Sheet sheet(path, ProfileSheet::width, ProfileSheet::height);
  ProfileSheet(sheet, profile, design, fmt::format("{}: section", design.part.name)).draw();
  sheet.commit();
}

void draw_ramps(const Design& design, const std::string& path) {
  std::vector<std::pair<std::string, review::Profile>> all;
  auto cuts = review::profiles_across(design);
  for (const layup::RampId r : cuts.ids())
    if (cuts[r])
      all.emplace_back(fmt::format("{}: ramp {}", design.part.name, design.layup.ramps[r].name), std::move(*cuts[r]));
  const bool long_one = ends_in(path, ".svg");
  Sheet sheet(path, ProfileSheet::width,
              ProfileSheet::height * (long_one ? static_cast<double>(std::max<std::size_t>(1, all.size())) : 1.0));
  for (std::size_t k = 0; k < all.size(); ++k) {
    if (k > 0 && sheet.has_pages()) sheet.next_page();
    ProfileSheet(sheet, all[k].second, design, all[k].first,
                 sheet.has_pages() ? 0.0 : ProfileSheet::height * static_cast<double>(k))
        .draw();
  }
  if (all.empty()) sheet.text({42, 56}, 12, "no ramp, or none that can be cut across");
  sheet.commit();
}

}  // namespace bordado::drawing
