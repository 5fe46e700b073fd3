#include "cloth_map.hpp"

#include "weaving.hpp"

#include <algorithm>
#include <cmath>

namespace bordado::drape {

namespace {

Vec3 flattened(const Vec3& direction, const Vec3& normal) {
  return (direction - direction.dot(normal) * normal).normalized();
}

}  // namespace

std::optional<Vec3> ClothMap::direction(int i, int j, int di, int dj) const {
  const Knot* const own = net_.lattice.placed(i, j);
  if (!own) return std::nullopt;
  const Crossing at = as_crossing(*own);
  const Knot *const ahead = net_.lattice.placed(i + di, j + dj), *const behind = net_.lattice.placed(i - di, j - dj);
  if (ahead && behind)
    return flattened(step_.tangent(at, as_crossing(*ahead)) - step_.tangent(at, as_crossing(*behind)), own->normal);
  if (!ahead && !behind) return std::nullopt;
  // From one side only: as it turned from the next knot to the one after that, it turns here.
  const int way = ahead ? 1 : -1;
  const Crossing next = as_crossing(ahead ? *ahead : *behind);
  const Vec3 leaves = step_.tangent(at, next);
  const Knot* const further = net_.lattice.placed(i + 2 * way * di, j + 2 * way * dj);
  if (!further) return Vec3(way * leaves);
  const Vec3 arrives = -step_.tangent(next, at), goes_on = step_.tangent(next, as_crossing(*further));
  const Vec3 turn = carried(goes_on - arrives, next.normal, own->normal);
  return Vec3(way * flattened(leaves - 0.5 * turn, own->normal));
}

std::optional<ClothMap::Yarns> ClothMap::yarns(int i, int j) const {
  const auto warp = direction(i, j, 1, 0), weft = direction(i, j, 0, 1);
  if (!warp || !weft) return std::nullopt;
  return Yarns{*warp, *weft};
}

OnCloth ClothMap::mixed(const Crossing& place, int i, int j, double s, double t,
                        const std::array<const Knot*, 4>& corner, bool bent) const {
  static constexpr int around[4][2] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
  OnCloth out{i + s, j + t, Vec3::Zero(), Vec3::Zero()};
  double weights = 0.0, u = 0.0, v = 0.0;
  const double bilinear[] = {(1 - s) * (1 - t), s * (1 - t), s * t, (1 - s) * t};
  for (std::size_t k = 0; k < 4; ++k) {
    const int ki = i + around[k][0], kj = j + around[k][1];
    const auto yarn = yarns(ki, kj);
    if (!yarn) continue;
    double weight = bilinear[k];
    if (bent) {  // the cell is no bilinear surface: from each corner along the surface
      const Way way = step_.way(as_crossing(*corner[k]), place);
      const double cells = way.length / net_.options.cell;
      weight = 1.0 / (1e-6 + cells * cells);
      weight *= weight;
      const Vec3 to = way.length > 0.0 ? Vec3(flattened(way.first, corner[k]->normal) * cells) : Vec3(Vec3::Zero());
      const double c = yarn->warp.dot(yarn->weft), det = 1.0 - c * c, a = to.dot(yarn->warp), b = to.dot(yarn->weft);
      u += weight * (ki + (a - c * b) / det);
      v += weight * (kj + (b - c * a) / det);
    }
    weights += weight;
    out.warp += weight * carried(yarn->warp, corner[k]->normal, place.normal);
    out.weft += weight * carried(yarn->weft, corner[k]->normal, place.normal);
  }
  if (bent && weights > 0.0) out.u = u / weights, out.v = v / weights;
  out.warp = flattened(out.warp, place.normal);
  out.weft = flattened(out.weft, place.normal);
  return out;
}

std::optional<OnCloth> ClothMap::find(const Crossing& place, double u, double v) const {
  const Vec3 e1 = flattened(std::abs(place.normal.x()) < 0.7 ? Vec3::UnitX() : Vec3::UnitY(), place.normal),
             e2 = place.normal.cross(e1);
  int i = static_cast<int>(std::floor(u)), j = static_cast<int>(std::floor(v));
  constexpr double slack = 1e-7;
  int before_i = i + 100, before_j = j;
  for (int step = 0; step < 64; ++step) {
    static constexpr int around[4][2] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
    std::array<const Knot*, 4> corner{};
    bool whole = true, bent = false;
    std::array<Eigen::Vector2d, 4> flat;
    for (std::size_t k = 0; k < 4; ++k) {
      corner[k] = net_.lattice.placed(i + around[k][0], j + around[k][1]);
      if (!corner[k]) {
        whole = false;
        break;
      }
      const Vec3 d = corner[k]->point - place.point;
      flat[k] = {d.dot(e1), d.dot(e2)};
      bent = bent || corner[k]->normal.dot(place.normal) < turns_smoothly;
    }
    if (!whole) return std::nullopt;
    const Eigen::Vector2d base = flat[0], by_s = flat[1] - flat[0], by_t = flat[3] - flat[0],
                          twist = flat[2] - flat[1] - flat[3] + flat[0];
    double s = 0.5, t = 0.5;
    for (int k = 0; k < 12; ++k) {
      const Eigen::Vector2d f = base + s * by_s + t * by_t + s * t * twist, fs = by_s + t * twist,
                            ft = by_t + s * twist;
      const double det = fs.x() * ft.y() - fs.y() * ft.x();
      if (!(std::abs(det) > 1e-12 * fs.norm() * ft.norm())) break;
      const double ds = std::clamp((ft.x() * f.y() - ft.y() * f.x()) / det, -1.0, 1.0),
                   dt = std::clamp((fs.y() * f.x() - fs.x() * f.y()) / det, -1.0, 1.0);
      s += ds, t += dt;
      if (std::abs(ds) + std::abs(dt) < 1e-13) break;
    }
    s = std::clamp(s, -3.0, 4.0), t = std::clamp(t, -3.0, 4.0);
    if (bent && s > -0.5 && s < 1.5 && t > -0.5 && t < 1.5) {
      const OnCloth out = mixed(place, i, j, std::clamp(s, 0.0, 1.0), std::clamp(t, 0.0, 1.0), corner, true);
      s = out.u - i, t = out.v - j;
      const bool here = s > -0.02 && s < 1.02 && t > -0.02 && t < 1.02;
      if (here || step > 20) return here ? std::optional(out) : std::nullopt;
    } else if (s >= -slack && s <= 1.0 + slack && t >= -slack && t <= 1.0 + slack) {
      // Under a fold another sheet of cloth can lie: its corners are further than a cell away.
      double nearest = 1e300;
      for (const Knot* const knot : corner) nearest = std::min(nearest, (knot->point - place.point).norm());
      if (nearest > 1.5 * net_.options.cell) return std::nullopt;
      return mixed(place, i, j, s, t, corner, false);
    }
    const int next_i = i + static_cast<int>(std::floor(s)), next_j = j + static_cast<int>(std::floor(t));
    if (next_i == i && next_j == j) return std::nullopt;
    if (next_i == before_i && next_j == before_j)  // on the line between two cells
      return mixed(place, i, j, std::clamp(s, 0.0, 1.0), std::clamp(t, 0.0, 1.0), corner, bent);
    before_i = i, before_j = j;
    i = next_i, j = next_j;
  }
  return std::nullopt;
}

std::optional<Crossing> ClothMap::place(double u, double v) const {
  const int i = static_cast<int>(std::floor(u)), j = static_cast<int>(std::floor(v));
  const double s = u - i, t = v - j;
  std::array<const Knot*, 4> corner{};
  static constexpr int around[4][2] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
  for (std::size_t k = 0; k < 4; ++k) {
    corner[k] = net_.lattice.placed(i + around[k][0], j + around[k][1]);
    if (!corner[k]) return std::nullopt;
  }
  const Vec3 point = (1 - s) * (1 - t) * corner[0]->point + s * (1 - t) * corner[1]->point + s * t * corner[2]->point +
                     (1 - s) * t * corner[3]->point;
  const std::size_t nearest = (t > 0.5 ? (s > 0.5 ? 2u : 3u) : (s > 0.5 ? 1u : 0u));
  const auto spot = surface_.under(point, corner[nearest]->spot.element);
  if (!spot) return std::nullopt;
  return crossing_at(surface_, *spot);
}

}  // namespace bordado::drape
