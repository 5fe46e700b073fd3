// Failure envelopes for the page.
#include "envelopes.hpp"

#include <bordado/design.hpp>

#include <algorithm>
#include <cmath>

namespace bordado::page {

namespace {

using laminate::EnvelopePoint;
using section::SectionId;

/// Components of a load that are drawn against each other: forces, moments, each force with its moment.
constexpr std::array<std::array<std::size_t, 2>, 9> pairs = {
    {{0, 1}, {0, 2}, {1, 2}, {3, 4}, {3, 5}, {4, 5}, {0, 3}, {1, 4}, {2, 5}}};
constexpr std::size_t points_round = 48;

struct Curve {
  std::size_t pair = 0;
  laminate::Criterion criterion{};
  std::vector<EnvelopePoint> points;
};

/// Those of the worst places, and the largest.
std::vector<SectionId> chosen(const PagePart& from, std::size_t most) {
  const Design& design = *from.design;
  List<SectionId, double> areas(design.sections.count(), 0.0);
  for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e)
    areas[design.sections.section_of[e]] += design.geometry.areas[e];
  std::vector<SectionId> out;
  for (const SectionId s : design.sections.ids())
    if (areas[s] > 0.0) out.push_back(s);
  std::stable_sort(out.begin(), out.end(), [&](SectionId a, SectionId b) { return areas[a] > areas[b]; });
  out.resize(std::min(most, out.size()));
  if (from.results)
    for (const result::Critical& one : from.results->worst) out.push_back(design.sections.section_of[one.element]);
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

std::vector<Curve> curves_of(const Design& design, SectionId s, std::span<const laminate::Criterion> criteria) {
  laminate::Stack stack;
  stack.layers = section::laminate_of(design.part, design.sections, s);
  for (const section::LaidLayer& layer : design.sections.layers_of(s))
    stack.materials.push_back(&section::material_of(design.part, design.sections, layer.material));
  stack.z0 = design.sections.bottom[s];
  std::vector<Curve> out;
  for (std::size_t p = 0; p < pairs.size(); ++p)
    for (const laminate::Criterion criterion : criteria) {
      // Shear through the thickness comes with transverse forces, which are none of these.
      if (criterion == laminate::Criterion::interlaminar_shear || criterion == laminate::Criterion::core_shear)
        continue;
      Curve curve{p, criterion, laminate::envelope(stack, {}, pairs[p][0], pairs[p][1], {&criterion, 1}, points_round)};
      if (!curve.points.empty()) out.push_back(std::move(curve));
    }
  return out;
}

/// Where along a curve another ply or mode begins to decide: place, layer, mode in words.
Json pieces_of(const Curve& curve) {
  Json out = Json::array();
  for (std::size_t i = 0; i < curve.points.size(); ++i) {
    const laminate::Failing& own = curve.points[i].failing;
    if (i > 0 && curve.points[i - 1].open() == curve.points[i].open() &&
        curve.points[i - 1].failing.layer == own.layer && curve.points[i - 1].failing.mode == own.mode)
      continue;
    out.push_back({i, curve.points[i].open() ? Json(nullptr) : Json(own.layer), laminate::words(own.mode)});
  }
  return out;
}

}  // namespace

Json envelopes_json(const PagePart& from, Arrays& arrays, std::size_t most) {
  if (from.envelopes.empty()) return nullptr;
  const Design& design = *from.design;
  const std::vector<SectionId> shown = chosen(from, most);
  std::vector<std::vector<Curve>> curves(shown.size());
  parallel_blocks(
      shown.size(),
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i) curves[i] = curves_of(design, shown[i], from.envelopes);
      },
      1);
  Json out = {{"pairs", Json::array()}, {"components", Json::array()}, {"sections", Json::array()}};
  for (const auto& pair : pairs) out["pairs"].push_back(pair);
  for (std::size_t k = 0; k < 6; ++k) out["components"].push_back(laminate::component_name(k));
  std::vector<std::int16_t> points;  // parts of the farthest of each curve, in 30,000
  for (std::size_t i = 0; i < shown.size(); ++i) {
    Json own = Json::array();
    for (const Curve& curve : curves[i]) {
      double far[2] = {0.0, 0.0};
      for (const EnvelopePoint& p : curve.points)
        far[0] = std::max(far[0], std::abs(p.first)), far[1] = std::max(far[1], std::abs(p.second));
      own.push_back({{"pair", curve.pair},
                     {"criterion", laminate::name_of(curve.criterion)},
                     {"from", points.size() / 2},
                     {"count", curve.points.size()},
                     {"far", {far[0], far[1]}},
                     {"pieces", pieces_of(curve)}});
      for (const EnvelopePoint& p : curve.points) {
        const auto part = [](double value, double of) {
          return static_cast<std::int16_t>(of > 0.0 ? std::lround(30000.0 * value / of) : 0);
        };
        points.push_back(part(p.first, far[0]));
        points.push_back(part(p.second, far[1]));
      }
    }
    out["sections"].push_back({{"section", shown[i]}, {"curves", std::move(own)}});
  }
  out["points"] = arrays.add(points);
  return out;
}

}  // namespace bordado::page
