// Outlines of plies, as flat as they are seen.
#include <bordado/layup/edges.hpp>
#include "sheet.hpp"

#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/book.hpp>
#include <bordado/review/drapes.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>
#include <Eigen/Geometry>

#include <algorithm>
#include <cmath>

namespace bordado::drawing {

namespace {

using Align = Sheet::Align;
using Point = Sheet::Point;

constexpr double head = 64.0, foot = 30.0;
constexpr double points_per_metre = 72.0 / 0.0254;

/// A ply seen square to it; x along its mean fibre direction.
struct FlatPly {
  const review::PlyEntry* entry = nullptr;
  std::vector<std::vector<Point>> outlines;  ///< metres, from the corner of the rectangle
  double along = 0.0, across = 0.0;          ///< of what is seen, metres
};

/// Sides of one element of the set only.
mesh::NodePairs border(const mesh::Surface& surface, std::span<const mesh::ElementIndex> elements) {
  mesh::NodePairs all, out;
  for (const mesh::ElementIndex e : elements) {
    const auto corners = surface.corners_of(e);
    for (std::size_t i = 0; i < corners.size(); ++i) {
      const mesh::NodeIndex a = corners[i], b = corners[(i + 1) % corners.size()];
      all.push_back({std::min(a, b), std::max(a, b)});
    }
  }
  std::sort(all.begin(), all.end());
  for (std::size_t i = 0; i < all.size();) {
    std::size_t end = i + 1;
    while (end < all.size() && all[end] == all[i]) ++end;
    if (end == i + 1) out.push_back(all[i]);
    i = end;
  }
  return out;
}

FlatPly flattened(const Design& design, const review::PlyEntry& entry) {
  FlatPly out;
  out.entry = &entry;
  const auto elements = layup::covered_by(design.layup, design.layup.plies[entry.ply].region);
  const double metre = design.part.units.to_si(Dimension::length);
  Vec3 normal = Vec3::Zero();
  for (const mesh::ElementIndex e : elements) normal += design.geometry.areas[e] * design.geometry.normals[e];
  const Vec3 x = entry.direction;
  Vec3 y = normal.cross(x);
  if (y.norm() < 1e-6 * entry.area) y = x.unitOrthogonal();  // a closed part has no side to look from
  y.normalize();
  double low[2] = {1e300, 1e300}, high[2] = {-1e300, -1e300};
  for (const mesh::ElementIndex e : elements)
    for (const mesh::NodeIndex n : design.surface.nodes_of(e))
      for (int k = 0; k < 2; ++k) {
        const double at = design.surface.points[n].dot(k == 0 ? x : y) * metre;
        low[k] = std::min(low[k], at);
        high[k] = std::max(high[k], at);
      }
  out.along = high[0] - low[0];
  out.across = high[1] - low[1];
  for (const mesh::Curve& curve : mesh::curves_of(design.surface, border(design.surface, elements))) {
    std::vector<Point> outline;
    for (const Vec3& p : curve.points) outline.push_back({p.dot(x) * metre - low[0], high[1] - p.dot(y) * metre});
    out.outlines.push_back(std::move(outline));
  }
  return out;
}

class FlatSheets {
 public:
  FlatSheets(const Design& design, const std::string& path) : design_(design), book_(review::ply_book(design)) {
    double longest = 0.0, broadest = 0.0;
    for (const review::PlyEntry& entry : book_.plies) {
      if (entry.elements == 0) continue;
      plies_.push_back(flattened(design, entry));
      longest = std::max(longest, plies_.back().along);
      broadest = std::max(broadest, plies_.back().across);
    }
    const double room_along = page_width - 2 * margin - 60, room_across = page_height - head - foot - 70;
    // 1 : 1, 2, 5, 10, 20, ...
    reduction_ = std::max(1.0, round_above(points_per_metre * std::max(longest / room_along, broadest / room_across)));
    scale_ = points_per_metre / reduction_;
    arrange();
    double total = head + foot;
    for (const Row& row : rows_) total += row.height;
    const bool pages = path.size() > 4 && path.substr(path.size() - 4) == ".pdf";
    page_height_ = pages ? page_height : std::max(page_height, total);
    sheet_ = std::make_unique<Sheet>(path, page_width, page_height_);
  }

  void draw() {
    double y = begin_page();
    for (const Row& row : rows_) {
      if (sheet_->has_pages() && y > head && y + row.height > page_height_ - foot) {
        sheet_->next_page();
        y = begin_page();
      }
      sheet_->line({{margin, y}, {page_width - margin, y}}, {hair, 0.5, {}});
      for (std::size_t i = row.first; i < row.last; ++i)
        draw_ply(plies_[i], {margin + (i == row.first ? 0.0 : half), y});
      y += row.height;
    }
    sheet_->commit();
  }

 private:
  static constexpr double half = 0.5 * (page_width - 2.0 * margin) + 8.0;
  /// One ply, or two that are narrow enough, side by side.
  struct Row {
    std::size_t first = 0, last = 0;
    double height = 0.0;
  };
  double height_of(const FlatPly& ply) const { return ply.across * scale_ + 72.0; }
  bool narrow(const FlatPly& ply) const { return ply.along * scale_ + 64.0 < half; }

  void arrange() {
    for (std::size_t i = 0; i < plies_.size();) {
      const bool two = i + 1 < plies_.size() && narrow(plies_[i]) && narrow(plies_[i + 1]);
      rows_.push_back({i, i + (two ? 2 : 1), std::max(height_of(plies_[i]), two ? height_of(plies_[i + 1]) : 0.0)});
      i = rows_.back().last;
    }
  }

  double begin_page() {
    sheet_->text({margin, margin + 10}, 14,
                 fmt::format("{}{}: plies seen flat", design_.part.name,
                             design_.part.variant.empty() ? "" : " (" + design_.part.variant + ")"),
                 Align::left, dark, true);
    sheet_->text({page_width - margin, margin + 10}, 9, fmt::format("scale 1 : {:g}", reduction_), Align::right);
    sheet_->text(
        {margin, page_height_ - 14}, 7,
        fmt::format("Each ply seen square to it, its mean fibre direction to the right. Nothing is draped: a "
                    "curved ply needs more cloth than is seen here. Dash-dotted: widths of the roll. Bordado {}",
                    version()),
        Align::left, grey);
    return head;
  }

  void draw_ply(const FlatPly& ply, Point at) {
    const review::PlyEntry& entry = *ply.entry;
    const part::Ply& declared = design_.part.plies[entry.ply];
    const UnitSystem& units = design_.part.units;
    const std::string length = units.unit(Dimension::length);
    const double metre = units.to_si(Dimension::length);
    sheet_->text({at.x, at.y + 13}, 10, declared.id, Align::left, dark, true);
    sheet_->text({at.x + 8 + sheet_->width_of(10, declared.id, true), at.y + 13}, 8,
                 fmt::format("{}, {:g}° in frame {}, zone {}", declared.material.value, declared.angle.degrees(),
                             declared.frame.value, declared.zone.value));
    std::string facts =
        fmt::format("{:.4g} m², {}", entry.area * units.to_si(Dimension::area), counted(entry.pieces, "piece"));
    if (entry.mass) facts += fmt::format(", {:.4g} kg", *entry.mass * units.to_si(Dimension::mass));
    if (entry.strips > 1) facts += fmt::format(", {} widths of the roll", entry.strips);
    if (entry.furthest.degrees() >= 1.0) facts += fmt::format(", fibres up to {:.0f}° off", entry.furthest.degrees());
    sheet_->text({at.x, at.y + 25}, 8, facts, Align::left, grey);
    const Point corner{at.x + 40, at.y + 38};
    const double w = ply.along * scale_, h = ply.across * scale_;
    std::vector<std::vector<Point>> outlines = ply.outlines;
    for (auto& outline : outlines)
      for (Point& p : outline) p = {corner.x + p.x * scale_, corner.y + p.y * scale_};
    sheet_->area(outlines, direction_ink(declared.angle), {dark, 0.8, {}});
    for (const auto& [a, b] : {std::pair{Point{corner.x, corner.y}, Point{corner.x + w, corner.y}},
                               {Point{corner.x, corner.y + h}, Point{corner.x + w, corner.y + h}},
                               {Point{corner.x, corner.y}, Point{corner.x, corner.y + h}},
                               {Point{corner.x + w, corner.y}, Point{corner.x + w, corner.y + h}}})
      sheet_->line({a, b}, {grey, 0.4, {3, 2}});
    const auto& form = design_.part.materials[design_.layup.plies[entry.ply].material].form;
    if (form.roll_width)
      for (double edge = *form.roll_width * metre; edge < ply.across * (1.0 - 1e-9); edge += *form.roll_width * metre)
        sheet_->line({{corner.x - 8, corner.y + edge * scale_}, {corner.x + w + 8, corner.y + edge * scale_}},
                     {accent, 0.8, {6, 2, 1, 2}});
    sheet_->text({corner.x + 0.5 * w, corner.y + h + 11}, 7.5, fmt::format("{:.4g} {}", ply.along / metre, length),
                 Align::middle);
    sheet_->text({corner.x - 5, corner.y + 0.5 * h + 3}, 7.5, fmt::format("{:.4g}", ply.across / metre), Align::right);
    // Fibres run both ways: an arrow with two heads, clear of the outline.
    const double ax = corner.x, ay = corner.y + h + 20, reach = std::min(60.0, std::max(24.0, 0.3 * w));
    sheet_->line({{ax, ay}, {ax + reach, ay}}, {dark, 0.9, {}});
    for (const double end : {0.0, reach}) {
      const double back = end == 0.0 ? 5.0 : -5.0;
      sheet_->line({{ax + end + back, ay - 2.5}, {ax + end, ay}, {ax + end + back, ay + 2.5}}, {dark, 0.9, {}});
    }
    sheet_->text({ax + reach + 5, ay + 3}, 7.5, "fibre");
  }

  const Design& design_;
  review::PlyBook book_;
  std::vector<FlatPly> plies_;
  std::vector<Row> rows_;
  double reduction_ = 1.0, scale_ = 1.0, page_height_ = page_height;
  std::unique_ptr<Sheet> sheet_;
};

}  // namespace

void draw_flat(const Design& design, const std::string& path) { FlatSheets(design, path).draw(); }

}  // namespace bordado::drawing
