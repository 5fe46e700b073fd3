#include "drapes.hpp"

#include <bordado/review/drapes.hpp>

#include <algorithm>
#include <cmath>
#include <limits>

namespace bordado::page {

namespace {

/// Yarns of a net where its cloth is wanted, no more than some fifty each way, as pieces of lines of two points each.
std::vector<float> yarns_of(const layup::Draping::Piece& piece) {
  const drape::Net& net = piece.laid.net;
  std::vector<std::uint8_t> wanted(piece.surface->element_count(), 0);
  for (const mesh::ElementIndex e : piece.elements) wanted[e] = 1;
  const auto shown = [&](const drape::Knot* knot) { return knot && knot->lap == 0 && wanted[knot->spot.element] != 0; };
  int low[2] = {0, 0}, high[2] = {0, 0};
  net.lattice.for_each([&](int i, int j, const drape::Knot& knot) {
    if (!shown(&knot)) return;
    low[0] = std::min(low[0], i), high[0] = std::max(high[0], i), low[1] = std::min(low[1], j),
    high[1] = std::max(high[1], j);
  });
  const int every = 1 + std::max(high[0] - low[0], high[1] - low[1]) / 50;
  std::vector<float> out;
  net.lattice.for_each([&](int i, int j, const drape::Knot& knot) {
    if (!shown(&knot)) return;
    const auto line_to = [&](const drape::Knot* other) {
      if (!shown(other)) return;
      for (const drape::Knot* const end : {&knot, other})
        for (int k = 0; k < 3; ++k) out.push_back(static_cast<float>(end->point[k]));
    };
    if (j % every == 0) line_to(net.lattice.placed(i + 1, j));
    if (i % every == 0) line_to(net.lattice.placed(i, j + 1));
  });
  return out;
}

}  // namespace

Json drapes_json(const Design& design, const Drawn& drawn,
                 const std::function<std::int16_t(std::size_t drawn, const Vec3& direction)>& angle_of,
                 Arrays& arrays) {
  Json out = Json::array();
  for (const layup::Draping& draping : design.layup.drapes) {
    const std::size_t count = drawn.elements.size();
    std::vector<std::int16_t> warp(count), weft(count);
    std::vector<float> shear(count), known(count), cloth(2 * count);
    constexpr float none = std::numeric_limits<float>::quiet_NaN();
    parallel_blocks(count, [&](std::size_t begin, std::size_t end) {
      for (std::size_t d = begin; d < end; ++d) {
        const mesh::ElementIndex e = drawn.elements[d];
        warp[d] = angle_of(d, draping.warp[e]);
        weft[d] = angle_of(d, draping.weft[e]);
        const bool reached = draping.piece_of[e] != 0;
        shear[d] = reached ? draping.shear[e] : none;
        known[d] = cloth[2 * d] = cloth[2 * d + 1] = none;
        if (!reached) continue;
        const drape::Drape& laid = draping.pieces[draping.piece_of[e] - 1u].laid;
        if (!laid.known_to.empty()) known[d] = laid.known_to[e];
        const auto& place = laid.elements.cloth[e];
        const drape::Flat at = drape::flat(place[0], place[1], draping.rest);
        cloth[2 * d] = static_cast<float>(at.x()), cloth[2 * d + 1] = static_cast<float>(at.y());
      }
    });
    std::vector<float> net;
    std::vector<std::uint8_t> piece(count);
    for (std::size_t d = 0; d < count; ++d) piece[d] = draping.piece_of[drawn.elements[d]];
    for (const layup::Draping::Piece& one : draping.pieces) {
      const std::vector<float> yarns = yarns_of(one);
      net.insert(net.end(), yarns.begin(), yarns.end());
    }
    out.push_back({{"name", design.part.drapes[draping.declared].name},
                   {"angle", draping.angle.degrees()},
                   {"rest", draping.rest.degrees()},
                   {"warp", arrays.add(warp)},
                   {"weft", arrays.add(weft)},
                   {"shear", arrays.add(shear)},
                   {"known", arrays.add(known)},
                   {"cloth", arrays.add(cloth)},
                   {"piece", arrays.add(piece)},
                   {"net", arrays.add(net)}});
  }
  return out;
}

Json cloths_json(const Design& design, Arrays& arrays) {
  Json out = Json::array();
  const std::vector<review::PlyPattern> patterns = review::ply_patterns(design);
  for (const review::PlyDrape& one : review::draped_plies(design)) {
    const layup::Draping& draping = design.layup.drapes[one.drape];
    bool strips = true;
    for (const auto& piece : draping.pieces) strips = strips && piece.laid.lay == part::Lay::strips;
    Json flat = Json::array();
    for (const review::PlyPattern& of : patterns) {
      if (of.ply != one.ply) continue;
      for (const drape::Pattern& pattern : of.patterns) {
        Json outlines = Json::array();
        for (const auto& line : pattern.outlines) {
          std::vector<float> numbers;
          for (const drape::Flat& point : line) {
            numbers.push_back(static_cast<float>(point.x()));
            numbers.push_back(static_cast<float>(point.y()));
          }
          outlines.push_back(arrays.add(numbers));
        }
        flat.push_back({{"piece", of.piece + 1},
                        {"outlines", outlines},
                        {"area", pattern.area},
                        {"seed", pattern.has_seed},
                        {"low", {pattern.low.x(), pattern.low.y()}},
                        {"high", {pattern.high.x(), pattern.high.y()}}});
      }
    }
    const drape::Verdict& v = one.verdict;
    out.push_back({{"ply", index(one.ply)},
                   {"drape", index(one.drape)},
                   {"limit", one.limit ? Json(*one.limit) : Json(nullptr)},
                   {"strips", strips},
                   {"area", v.area},
                   {"reached", v.area > 0.0 ? v.reached / v.area : 1.0},
                   {"mean", v.mean_shear},
                   {"least", v.least_shear},
                   {"most", v.most_shear},
                   {"past", v.area > 0.0 ? v.past_limit / v.area : 0.0},
                   {"thickest", v.most_thickening},
                   {"gap", v.widest_gap},
                   {"overlap", v.widest_overlap},
                   {"error", one.known ? Json(one.known->largest) : Json(nullptr)},
                   {"flat", flat}});
  }
  return out;
}

}  // namespace bordado::page
