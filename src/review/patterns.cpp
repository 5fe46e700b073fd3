// The flat cloth of draped plies, and how it lies on rolls.
#include <bordado/layup/edges.hpp>

#include <bordado/design.hpp>
#include <bordado/review/drapes.hpp>

namespace bordado::review {

std::vector<PlyPattern> ply_patterns(const Design& design) {
  const layup::Layup& layup = design.layup;
  std::vector<PlyPattern> out;
  std::map<zone::ZoneId, layup::EdgeLevels> levels;
  const double side = mesh::longest_edge(design.surface);
  for (const part::PlyId p : layup.plies.ids()) {
    const layup::Draping* const draping = layup.draping_of(p);
    if (!draping) continue;
    const layup::Region& region = layup.regions[layup.plies[p].region];
    std::vector<double> level;
    if (region.has_edge()) {
      layup::EdgeLevels of(layup, design.surface, region.zone, layup::far_of(region) + 3.0 * side);
      level = of.of(region);
    }
    for (std::size_t piece = 0; piece < draping->pieces.size(); ++piece) {
      if (draping->pieces[piece].laid.lay == part::Lay::strips) continue;
      std::vector<mesh::ElementIndex> elements;
      for (const mesh::ElementIndex e : layup::covered_by(layup, layup.plies[p].region))
        if (draping->piece_of[e] == piece + 1) elements.push_back(e);
      auto patterns = drape::patterns(design.surface, *draping->pieces[piece].surface, draping->pieces[piece].laid,
                                      elements, level);
      if (!patterns.empty()) out.push_back({p, piece, std::move(patterns)});
    }
  }
  return out;
}

std::vector<Roll> rolls(const Design& design, std::span<const PlyPattern> patterns, double gap) {
  std::vector<Roll> out;
  for (const part::MaterialId m : design.part.materials.ids()) {
    const auto& width = design.part.materials[m].form.roll_width;
    if (!width) continue;
    Roll roll{m, {}, {}};
    std::vector<drape::Pattern> all;
    for (std::size_t i = 0; i < patterns.size(); ++i) {
      if (design.layup.plies[patterns[i].ply].material != m) continue;
      for (std::size_t k = 0; k < patterns[i].patterns.size(); ++k) {
        std::vector<drape::Pattern> lanes = drape::lanes(patterns[i].patterns[k], *width);
        for (std::size_t lane = 0; lane < lanes.size(); ++lane) {
          all.push_back(lanes[lane]);
          roll.pieces.push_back({i, k, lane, lanes.size(), std::move(lanes[lane])});
        }
      }
    }
    if (all.empty()) continue;
    roll.nest = drape::nest(all, *width, gap);
    out.push_back(std::move(roll));
  }
  return out;
}

}  // namespace bordado::review
