#include "edges.hpp"

#include <bordado/review/profile.hpp>

#include <algorithm>
#include <map>

namespace bordado::page {

namespace {

/// Bands as ply, from, to, bottom at both, thickness at both; edges as ply, place, whether it ends there.
Json cut_json(const review::Profile& profile) {
  Json bands = Json::array(), ends = Json::array();
  double low = 0.0, high = 0.0;
  for (const review::Profile::Band& band : profile.bands)
    for (const std::size_t i : {0u, 1u}) {
      low = std::min(low, band.bottom[i]);
      high = std::max(high, band.bottom[i] + band.thickness[i]);
    }
  // As the page draws it, 130 high and 300 wide.
  for (const review::Profile::Band& band : review::settled(profile, 130.0 / 300.0 * profile.at.back() / (high - low)))
    bands.push_back(
        {index(band.ply), band.from, band.to, band.bottom[0], band.bottom[1], band.thickness[0], band.thickness[1]});
  for (const review::Profile::Edge& edge : profile.edges) ends.push_back({index(edge.ply), edge.at, edge.ends});
  return {{"length", profile.at.back()}, {"bands", bands}, {"edges", ends}};
}

/// The points of a line, from its first to its last, but those that lie on the straight way from one to the next.
std::vector<Vec3> bends_of(const mesh::Curve& line, double within) {
  std::vector<Vec3> all = line.points, out;
  if (line.closed && !all.empty()) all.push_back(all.front());
  const auto straight = [&](std::size_t from, std::size_t to) {
    const Vec3 way = all[to] - all[from];
    const double square = way.squaredNorm();
    for (std::size_t k = from + 1; k < to; ++k) {
      const Vec3 off = all[k] - all[from];
      const double share = square > 0.0 ? off.dot(way) / square : -1.0;
      if (share < 0.0 || share > 1.0 || (off - share * way).norm() > within) return false;
    }
    return true;
  };
  constexpr std::size_t most = 64;
  for (std::size_t k = 0, last = 0; k < all.size(); ++k) {
    if (k > 0 && k + 1 < all.size() && k - last < most && straight(last, k + 1)) continue;
    out.push_back(all[k]);
    last = k;
  }
  return out;
}

}  // namespace

Json edges_json(const Design& design, Arrays& arrays) {
  std::map<layup::RegionId, std::vector<std::uint32_t>> plies;
  for (const part::PlyId p : design.layup.plies.ids())
    if (design.layup.regions[design.layup.plies[p].region].has_edge())
      plies[design.layup.plies[p].region].push_back(index(p));
  std::vector<float> points;
  Json lines = Json::array();
  const auto all = layup::edge_lines(design.layup, design.surface);
  for (const auto& [region, of] : plies) {
    const std::size_t from = points.size() / 6;
    for (const mesh::Curve& line : all[region]) {
      const std::vector<Vec3> bends = bends_of(line, 1e-4 * mesh::longest_edge(design.surface));
      for (std::size_t k = 0; k + 1 < bends.size(); ++k)
        for (const Vec3& end : {bends[k], bends[k + 1]})
          for (int i = 0; i < 3; ++i) points.push_back(static_cast<float>(end[i]));
    }
    lines.push_back({{"plies", of}, {"from", from}, {"count", points.size() / 6 - from}});
  }
  return {{"points", arrays.add(points)}, {"lines", lines}};
}

Json ramps_json(const Design& design) {
  Json out = Json::array();
  const auto cuts = review::profiles_across(design);
  for (const layup::RampId r : design.layup.ramps.ids()) {
    const layup::Ramp& ramp = design.layup.ramps[r];
    const auto numbers = [](const std::vector<part::PlyId>& plies) {
      Json all = Json::array();
      for (const part::PlyId p : plies) all.push_back(index(p));
      return all;
    };
    Json steps = Json::array();
    for (const layup::RampStep& step : ramp.steps)
      steps.push_back({{"plies", numbers(step.plies)},
                       {"by", step.by},
                       {"thickness", step.thickness},
                       {"run", step.run},
                       {"symmetric", step.symmetric},
                       {"balanced", step.balanced}});
    out.push_back({{"name", ramp.name},
                   {"from", index(ramp.from)},
                   {"to", ramp.to ? Json(index(*ramp.to)) : Json(nullptr)},
                   {"run", ramp.run},
                   {"length", ramp.length},
                   {"steps", steps},
                   {"cut", cuts[r] ? cut_json(*cuts[r]) : Json()}});
  }
  return out;
}

Json profiles_json(const PagePart& part) {
  Json out = Json::array();
  for (const auto& [from, to] : part.profiles) {
    const review::Profile found = review::profile(*part.design, from, to);
    out.push_back({{"from", vector_json(found.points.front())},
                   {"to", vector_json(found.points.back())},
                   {"cut", cut_json(found)}});
  }
  return out;
}

}  // namespace bordado::page
