#include <bordado/bar_margins.hpp>

#include "junctions.hpp"

#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <stdexcept>

namespace bordado::sizing {

namespace {

/// Section resultants at a place of the bar: strain along it is axial + (y, z from the centroid) · curvature + warping ω.
struct Cut {
  double x = 0.0, axial = 0.0, warping = 0.0, twist_rate = 0.0;
  Vector2 curvature = Vector2::Zero(), shear = Vector2::Zero();
};

/// What a wall carries there: nothing across it, so its own deformation follows from the compliance.
laminate::Deformation deformation_at(const Wall& wall, const WallStiffness& k, const laminate::Compliance& c,
                                     const SectionStiffness& section, std::size_t index, const Cut& cut, double share) {
  const Vector2 place = wall.from + share * (wall.to - wall.from) - section.centroid;
  const double omega = section.warping[index][0] + share * (section.warping[index][1] - section.warping[index][0]);
  const Vector2 along =
      k.along * Vector2(cut.axial + place.dot(cut.curvature) + cut.warping * omega, wall.normal().dot(cut.curvature));
  const Vector2 twisted = k.sheared * Vector2(section.twist_shear[index], -2.0) * cut.twist_rate;
  double flow = twisted[0];
  for (std::size_t way = 0; way < 2; ++way) {
    const auto& [first, middle, last] = section.flow[index][way];
    const double t = share;
    flow += cut.shear[static_cast<Eigen::Index>(way)] *
            (first * (1.0 - t) * (1.0 - 2.0 * t) + middle * 4.0 * t * (1.0 - t) + last * t * (2.0 * t - 1.0));
  }
  const Vector3 N(along[0], 0.0, flow), M(along[1], 0.0, twisted[1]);
  return {c.a * N + c.b * M, c.b.transpose() * N + c.d * M};
}

/// Of a tube; nothing where it is pressed nowhere.
std::optional<Dents> dents(const BarCase& given, const SectionStiffness& section, std::span<const Cut> cuts) {
  double round = 0.0;
  for (const Wall& wall : given.walls) round += wall.length();
  const CurvedPanel cylinder = curved_panel(given.walls.front().layers, given.length, round / (2.0 * std::numbers::pi));
  const auto classical = curved_buckling(cylinder, {.axial = -1.0, .pressure = 0.0}, false);
  if (!classical) return std::nullopt;
  Dents out;
  out.classical = classical->factor;
  out.left = knock_down(cylinder);
  const double along = section.EA / round;
  double most = 0.0;
  for (const Cut& cut : cuts)
    most =
        std::max(most, along / out.classical *
                           (-cut.axial / out.left.axial + cylinder.radius * cut.curvature.norm() / out.left.bending));
  if (most <= 0.0) return std::nullopt;
  out.factor = 1.0 / most;
  return out;
}

}  // namespace

BarRange range_of(const BarCase& given, const BarAnswer& answer) {
  BarRange out;
  double size = 0.0;
  out.wall = std::numeric_limits<double>::infinity();
  for (const Wall& wall : given.walls) {
    size = std::max({size, (wall.from - answer.section.centroid).norm(), (wall.to - answer.section.centroid).norm()});
    if (!given.is_tube) out.wall = std::min(out.wall, wall.length() / laminate::thickness(wall.layers));
  }
  out.length = given.length / size;
  out.of_tests = !answer.dents || answer.dents->left.in_range;
  return out;
}

BarAnswer check_bar(const BarCase& given) {
  constexpr double largest_number = 1e30;
  if (!(std::abs(given.force) <= largest_number) || !(given.line_load.cwiseAbs().maxCoeff() <= largest_number) ||
      !(given.through.value_or(Vector2::Zero()).cwiseAbs().maxCoeff() <= largest_number))
    throw std::invalid_argument("forces and places are numbers, no larger than 1e30");
  BarAnswer out;
  out.section = section_stiffness(given.walls);
  const Bar bar{out.section, given.length, given.begin, given.end};
  out.buckling = column_buckling(bar, 3, given.terms);
  if (out.section.mass > 0.0 && given.frequencies > 0)
    out.frequencies = bar_frequencies(bar, given.frequencies, 0.0, given.terms);
  const double compression = -given.force;
  const bool bends = given.line_load != Vector2::Zero();
  if (bends) {
    out.bent_without_force = !out.buckling.empty() && compression >= out.buckling[0].force.value;
    out.bent = bent_bar(bar, given.line_load, given.through.value_or(out.section.shear_centre),
                        out.bent_without_force ? 0.0 : compression, given.terms);
  }

  std::vector<Cut> cuts;
  const double axial = given.force / out.section.EA;
  if (out.bent)
    for (const BarPlace& place : out.bent->places)
      cuts.push_back({place.x, axial, place.warping, place.torque / out.section.GJ, place.curvature, place.shear});
  else if (given.force != 0.0)
    cuts.push_back({0.0, axial, 0.0, 0.0, Vector2::Zero(), Vector2::Zero()});

  // Walls, under the force, or where no force acts under the largest bending.
  if (!cuts.empty() && !given.is_tube) {
    const Cut worst = *std::max_element(cuts.begin(), cuts.end(), [](const Cut& a, const Cut& b) {
      return a.curvature.squaredNorm() < b.curvature.squaredNorm();
    });
    const AxialStrain strain{worst.axial, worst.curvature[0], worst.curvature[1]};
    double narrow = given.walls.front().length(), wide = narrow;
    for (const Wall& wall : given.walls) narrow = std::min(narrow, wall.length()), wide = std::max(wide, wall.length());
    const double longest = std::min(given.length, 8.0 * wide), shortest = std::min(0.2 * narrow, 0.5 * longest);
    out.walls = signature(given.walls, strain, shortest, longest);
  }

  if (!cuts.empty() && given.is_tube) out.dents = dents(given, out.section, cuts);

  // Plies, wall by wall.
  std::map<laminate::Criterion, WallFailing> least;
  const Junctions junctions(given.walls);
  for (std::size_t w = 0; w < given.walls.size(); ++w) {
    const Wall& wall = given.walls[w];
    if (wall.materials.size() != wall.layers.size()) continue;
    const double z0 = -0.5 * laminate::thickness(wall.layers);
    const laminate::Judge judge(wall.layers, wall.materials, z0, given.criteria);
    const WallStiffness k = wall_stiffness(wall.layers);
    const laminate::Compliance c = laminate::compliance(laminate::stiffness(wall.layers, z0));
    for (const Cut& cut : cuts)
      for (const double share : {0.0, 0.25, 0.5, 0.75, 1.0}) {
        laminate::SectionLoad load;
        load.deformation = deformation_at(wall, k, c, out.section, w, cut, share);
        for (const laminate::Failing& failing : judge.all(load)) {
          const WallFailing one{failing, w, cut.x, share * wall.length()};
          const auto [found, is_new] = least.try_emplace(failing.criterion, one);
          if (!is_new && failing.factor < (1.0 - 1e-9) * found->second.failing.factor) found->second = one;
        }
      }
    // The tests were of plain laminates.
    const bool has_core = std::any_of(wall.materials.begin(), wall.materials.end(),
                                      [](const material::Material* m) { return material::is_core(m->kind); });
    if (compression > 0.0 && !has_core) {
      laminate::SectionLoad load;
      load.deformation = {c.a * Vector3(-1.0, 0.0, 0.0), c.b.transpose() * Vector3(-1.0, 0.0, 0.0)};
      Crippling one;
      one.strength = std::numeric_limits<double>::infinity();
      for (const laminate::Failing& failing : judge.all(load))
        if (laminate::of_a_ply(failing.criterion)) one.strength = std::min(one.strength, failing.factor);
      const auto [a, b] = junctions.ends(w);
      one.edge_free = junctions.walls_at(a) == 1 || junctions.walls_at(b) == 1;
      const double slender = wall.length() / laminate::thickness(wall.layers);
      one.share = std::min(1.0, one.edge_free ? 1.63 / std::pow(slender, 0.717) : 11.0 / std::pow(slender, 1.124));
      out.crippling.push_back(one);
    }
  }
  for (const auto& [criterion, failing] : least) out.criteria.push_back(failing);
  std::stable_sort(out.criteria.begin(), out.criteria.end(),
                   [](const auto& a, const auto& b) { return a.failing.factor < b.failing.factor; });
  if (!given.is_tube && out.crippling.size() == given.walls.size()) {
    double all = 0.0;
    for (std::size_t w = 0; w < given.walls.size(); ++w)
      all += given.walls[w].length() * out.crippling[w].share * out.crippling[w].strength;
    if (std::isfinite(all)) out.cripples_at = all;
  }

  if (compression > 0.0 && !out.buckling.empty())
    out.margins.push_back({std::string(column_words), out.buckling[0].force.value / compression});
  if (out.walls && out.walls->local) out.margins.push_back({std::string(wall_words), out.walls->local->factor});
  if (out.dents) out.margins.push_back({std::string(dents_words), out.dents->factor});
  if (out.cripples_at) out.margins.push_back({std::string(crippling_words), *out.cripples_at / compression});
  for (const WallFailing& one : out.criteria)
    out.margins.push_back({std::string(laminate::words(one.failing.mode)), one.failing.factor});
  std::erase_if(out.margins, [](const Margin& margin) { return margin.factor > largest_margin; });
  std::stable_sort(out.margins.begin(), out.margins.end(),
                   [](const Margin& a, const Margin& b) { return a.factor < b.factor; });
  return out;
}

}  // namespace bordado::sizing
