#include <bordado/layup/edges.hpp>

#include <bordado/design.hpp>
#include <bordado/review/drapes.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace bordado::review {

namespace {

/// Both together: means by the area that is reached.
drape::Verdict together(const drape::Verdict& a, const drape::Verdict& b, const std::vector<float>& shear) {
  if (b.area == 0.0) return a;
  if (a.area == 0.0) return b;
  drape::Verdict out = a;
  out.area += b.area;
  out.reached += b.reached;
  out.cloth_area += b.cloth_area;
  out.past_limit += b.past_limit;
  if (out.reached > 0.0) {
    out.mean_shear = (a.mean_shear * a.reached + b.mean_shear * b.reached) / out.reached;
    out.mean_thickening = (a.mean_thickening * a.reached + b.mean_thickening * b.reached) / out.reached;
  }
  out.least_shear = std::min(a.least_shear, b.least_shear);
  out.most_shear = std::max(a.most_shear, b.most_shear);
  if (!a.worst || (b.worst && std::abs(shear[*b.worst]) > std::abs(shear[*a.worst]))) out.worst = b.worst;
  out.most_thickening = std::max(a.most_thickening, b.most_thickening);
  out.widest_gap = std::max(a.widest_gap, b.widest_gap);
  out.widest_overlap = std::max(a.widest_overlap, b.widest_overlap);
  if (!a.bridging || (b.bridging && *b.bridging < *a.bridging))
    out.bridging = b.bridging, out.bridges_at = b.bridges_at;
  out.past.insert(out.past.end(), b.past.begin(), b.past.end());
  std::stable_sort(out.past.begin(), out.past.end(),
                   [&](auto e, auto f) { return std::abs(shear[e]) > std::abs(shear[f]); });
  return out;
}

std::optional<ShearKnown> known_of(const Design& design, part::PlyId ply, const layup::Draping& draping) {
  ShearKnown out;
  double sum = 0.0, known = 0.0;
  for (const mesh::ElementIndex e : layup::covered_by(design.layup, design.layup.plies[ply].region)) {
    if (draping.piece_of[e] == 0) continue;
    const drape::Drape& laid = draping.pieces[draping.piece_of[e] - 1u].laid;
    if (laid.known_to.empty()) continue;
    const double area = design.geometry.areas[e];
    const auto to = static_cast<double>(laid.known_to[e]);
    if (!(to <= 1.0)) out.badly += area;
    if (laid.elements.beside[e]) out.beside += area;
    if (std::isnan(to)) continue;
    sum += to * area, known += area;
    if (!out.worst || to > out.largest) out.worst = e, out.largest = to;
  }
  if (!(known > 0.0)) return std::nullopt;
  out.mean = sum / known;
  return out;
}

}  // namespace

std::vector<PlyDrape> draped_plies(const Design& design) {
  std::vector<PlyDrape> out;
  for (const part::PlyId p : design.layup.plies.ids())
    if (const auto& drape = design.layup.cloths[design.layup.plies[p].cloth].drape)
      out.push_back({p, *drape, design.part.materials[design.layup.plies[p].material].form.shear_limit, {}, {}});
  parallel_blocks(
      out.size(),
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t k = begin; k < end; ++k) {
          const layup::Draping& draping = design.layup.drapes[out[k].drape];
          std::vector<std::vector<mesh::ElementIndex>> by_piece(draping.pieces.size() + 1);
          for (const mesh::ElementIndex e : layup::covered_by(design.layup, design.layup.plies[out[k].ply].region))
            by_piece[draping.piece_of[e]].push_back(e);
          for (const mesh::ElementIndex e : by_piece[0]) out[k].verdict.area += design.geometry.areas[e];
          drape::Verdict reached;
          for (std::size_t piece = 0; piece < draping.pieces.size(); ++piece)
            reached = together(reached,
                               drape::judge(*draping.pieces[piece].surface, design.geometry, draping.pieces[piece].laid,
                                            by_piece[piece + 1], out[k].limit),
                               draping.shear);
          reached.area += out[k].verdict.area;
          out[k].verdict = std::move(reached);
          out[k].known = known_of(design, out[k].ply, draping);
        }
      },
      1);
  return out;
}

drape::SeedOptions seed_options(const Design& design, part::PlyId ply, std::size_t piece) {
  const layup::Draping* const draping = design.layup.draping_of(ply);
  if (!draping || piece >= draping->pieces.size())
    throw Failure({Severity::error,
                   "drape.no-pattern",
                   fmt::format("ply '{}' is not draped", design.part.plies[ply].id),
                   {},
                   "add drape = \"NAME\" to it, and [drape.NAME] with a seed"});
  const layup::Draping::Piece& from = draping->pieces[piece];
  drape::SeedOptions out;
  out.drape.net = from.laid.net.options;
  out.drape.net.steering = {};
  out.drape.lay = from.laid.lay == part::Lay::led ? part::Lay::led : part::Lay::straight;
  const material::Material& material = design.part.materials[design.layup.plies[ply].material];
  out.alike = material.kind == material::Kind::fabric;
  out.limit = material.form.shear_limit;
  return out;
}

std::vector<mesh::Array> drape_fields(const Design& design) {
  std::vector<mesh::Array> out;
  const std::string unit = design.part.units.unit(Dimension::length);
  constexpr double none = std::numeric_limits<double>::quiet_NaN();
  for (const layup::DrapeId d : design.layup.drapes.ids()) {
    const layup::Draping& draping = design.layup.drapes[d];
    const std::string name =
        fmt::format("{} {:g} deg: ", design.part.drapes[draping.declared].name, draping.angle.degrees());
    const std::size_t count = design.surface.element_count();
    mesh::Array warp{name + "warp", false, 3, std::vector<double>(3 * count, 0.0)},
        weft{name + "weft", false, 3, std::vector<double>(3 * count, 0.0)},
        shear{name + "shear [deg]", false, 1, std::vector<double>(count, none)},
        known{name + "shear known to [deg]", false, 1, std::vector<double>(count, none)},
        beside{name + "led past the border", false, 1, std::vector<double>(count, 0.0)},
        thicker{name + "thickness over rest", false, 1, std::vector<double>(count, none)},
        cloth{fmt::format("{}place in cloth [{}]", name, unit), false, 2, std::vector<double>(2 * count, none)};
    for (const mesh::ElementIndex e : draping.elements) {
      std::copy(draping.warp[e].begin(), draping.warp[e].end(),
                warp.values.begin() + static_cast<std::ptrdiff_t>(3 * e));
      std::copy(draping.weft[e].begin(), draping.weft[e].end(),
                weft.values.begin() + static_cast<std::ptrdiff_t>(3 * e));
      if (draping.piece_of[e] == 0) continue;
      shear.values[e] = static_cast<double>(draping.shear[e]);
      thicker.values[e] = draping.thickening(e);
      const drape::Drape& laid = draping.pieces[draping.piece_of[e] - 1u].laid;
      if (!laid.known_to.empty()) known.values[e] = static_cast<double>(laid.known_to[e]);
      beside.values[e] = laid.elements.beside[e] ? 1.0 : 0.0;
      const auto& place = laid.elements.cloth[e];
      cloth.values[2 * e] = place[0], cloth.values[2 * e + 1] = place[1];
    }
    for (mesh::Array* const array : {&warp, &weft, &shear, &known, &beside, &thicker, &cloth})
      out.push_back(std::move(*array));
  }
  return out;
}

}  // namespace bordado::review
