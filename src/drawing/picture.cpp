// Still pictures of parts.
#include <bordado/picture.hpp>

#include "frames.hpp"

#include <bordado/base/findings.hpp>
#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::drawing {

namespace {

struct NamedView {
  std::string_view name;
  View view;
};
const std::vector<NamedView>& named_views() {
  static const std::vector<NamedView> all{{"corner", {}},
                                          {"above", {Vec3::UnitZ(), Vec3::UnitY()}},
                                          {"below", {-Vec3::UnitZ(), Vec3::UnitY()}},
                                          {"ahead", {Vec3::UnitX(), Vec3::UnitZ()}},
                                          {"behind", {-Vec3::UnitX(), Vec3::UnitZ()}},
                                          {"left", {Vec3::UnitY(), Vec3::UnitZ()}},
                                          {"right", {-Vec3::UnitY(), Vec3::UnitZ()}}};
  return all;
}

}  // namespace

std::vector<double> values_of(const PictureFrame& frame) {
  const review::Colouring& colouring = frame.colouring;
  const bool nodes = !colouring.of_nodes.empty();
  const std::vector<double>& all = nodes ? colouring.of_nodes : colouring.of_elements;
  if (frame.shown.empty()) return all;
  std::vector<std::uint8_t> drawn(all.size(), 0);
  for (mesh::ElementIndex e = 0; e < frame.surface->element_count(); ++e) {
    if (!frame.shown[e] || all.empty()) continue;
    if (!nodes) drawn[e] = 1;
    if (nodes)
      for (const mesh::NodeIndex node : frame.surface->nodes_of(e)) drawn[node] = 1;
  }
  std::vector<double> out;
  for (std::size_t i = 0; i < all.size(); ++i)
    if (drawn[i]) out.push_back(all[i]);
  return out;
}

std::optional<std::array<double, 2>> range_of(const PictureFrame& frame) {
  std::optional<std::array<double, 2>> out;
  for (const double value : values_of(frame)) {
    if (!std::isfinite(value)) continue;
    if (!out)
      out = {value, value};
    else
      (*out)[0] = std::min((*out)[0], value), (*out)[1] = std::max((*out)[1], value);
  }
  return out;
}

std::optional<View> view_named(std::string_view name) {
  for (const NamedView& one : named_views())
    if (one.name == name) return one.view;
  return std::nullopt;
}
std::vector<std::string> view_names() {
  std::vector<std::string> out;
  for (const NamedView& one : named_views()) out.emplace_back(one.name);
  return out;
}

double visible_factor(const mesh::Surface& surface, std::span<const Vec3> moved) {
  Vec3 low = surface.points.front(), high = low;
  double most = 0.0;
  for (const Vec3& point : surface.points) low = low.cwiseMin(point), high = high.cwiseMax(point);
  for (const Vec3& move : moved) most = std::max(most, move.norm());
  if (!(most > 0.0)) return 1.0;
  const double wanted = (high - low).norm() / 15.0 / most, ten = std::pow(10.0, std::floor(std::log10(wanted)));
  return ten * (wanted >= 5.0 * ten ? 5.0 : wanted >= 2.0 * ten ? 2.0 : 1.0);
}

PictureFrame frame_of(const mesh::Surface& surface, review::Shown shown, std::optional<double> factor) {
  PictureFrame out;
  out.surface = &surface;
  out.title = shown.name;
  if (!shown.moved.empty()) {
    out.moved = factor ? *factor : visible_factor(surface, shown.moved);
    out.points = surface.points;
    double most = 0.0;
    for (std::size_t n = 0; n < out.points.size(); ++n) {
      out.points[n] += out.moved * shown.moved[n];
      most = std::fmax(most, out.points[n].cwiseAbs().maxCoeff());
    }
    if (!(most < 1e12))
      throw Failure({Severity::error,
                     "picture.moved",
                     fmt::format("moved {:g} times as far, nothing is left of the part", out.moved),
                     {},
                     "a smaller factor, or none: it is chosen then"});
    if (!shown.of_any_size) out.note = fmt::format("drawn {:g} times as far", out.moved);
  }
  out.colouring = std::move(shown.colouring);
  out.strokes = std::move(shown.strokes);
  return out;
}

void draw(const PictureSheet& pictures, const std::string& path) {
  check(pictures);
  Sheet sheet(path, page_width, page_height, Sheet::Images::too);
  sheet.text({margin, margin + 14}, 16, pictures.title, Sheet::Align::left, dark, true);
  sheet.text({margin, margin + 30}, 9, pictures.subtitle, Sheet::Align::left, grey);
  draw_frames(pictures, sheet, {margin, 84}, page_width - 2 * margin, page_height - 104);
  sheet.text({page_width - margin, page_height - 20}, 7, fmt::format("Bordado {}", version()), Sheet::Align::right,
             grey);
  sheet.commit();
}

}  // namespace bordado::drawing
