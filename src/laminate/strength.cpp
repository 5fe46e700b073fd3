// A stack judged: every ply at three places, its shear through the thickness, its faces.
#include "shear_flow.hpp"

#include <bordado/strength.hpp>

#include <algorithm>
#include <cmath>

namespace bordado::laminate {

namespace {

/// Strengths in shear through the thickness, 13 and 23.
std::array<double, 2> shear_strengths(const material::Material& m, Criterion criterion) {
  const auto& s = m.strength;
  if (criterion == Criterion::core_shear && material::is_isotropic(m.kind)) {
    const double both = s.S12.value_or(s.S13.value_or(0.0));
    return {s.S13.value_or(both), s.S23.value_or(both)};
  }
  return {*s.S13, *s.S23};
}

Matrix3 strains_to_ply(Angle angle) {
  const double c = angle.cos(), s = angle.sin();
  Matrix3 out;
  out << c * c, s * s, c * s, s * s, c * c, -c * s, -2 * c * s, 2 * c * s, c * c - s * s;
  return out;
}

FailureMode mode_of(Criterion criterion) {
  switch (criterion) {
    case Criterion::core_shear:
      return FailureMode::core_shear;
    case Criterion::core_crushing:
      return FailureMode::core_crushing;
    case Criterion::wrinkling:
      return FailureMode::wrinkling;
    case Criterion::dimpling:
      return FailureMode::dimpling;
    default:
      return FailureMode::delamination;
  }
}

}  // namespace

Judge::Judge(std::span<const Layer> layers, std::span<const material::Material* const> materials, double z0,
             std::span<const Criterion> criteria) {
  const auto wanted = [&](Criterion criterion) {
    return std::find(criteria.begin(), criteria.end(), criterion) != criteria.end();
  };
  wrinkling_ = wanted(Criterion::wrinkling);
  dimpling_ = wanted(Criterion::dimpling);
  crushing_ = wanted(Criterion::core_crushing);
  const bool any_shear = wanted(Criterion::interlaminar_shear) || wanted(Criterion::core_shear);
  const std::vector<ShearFlow> flows = any_shear ? shear_flows(layers) : std::vector<ShearFlow>{};
  double z = z0;
  layers_.reserve(layers.size());
  for (std::size_t i = 0; i < layers.size(); ++i) {
    const Layer& layer = layers[i];
    const material::Material& m = *materials[i];
    OfLayer of;
    of.bottom = z, of.thickness = layer.thickness;
    of.to_ply = strains_to_ply(layer.angle);
    of.stiffness = plane_stress_stiffness(layer.elastic) * of.to_ply;
    for (const Criterion criterion : criteria) {
      if (!applied(criterion, m)) continue;
      if (auto keys = missing_for(criterion, m); !keys.empty()) {
        left_out_.push_back({i, criterion, std::move(keys)});
      } else if (of_a_ply(criterion)) {
        of.surfaces.push_back({*applied(criterion, m), FailureSurface(criterion, m)});
      } else if (criterion == Criterion::interlaminar_shear || criterion == Criterion::core_shear) {
        of.shear = criterion;
        const auto strengths = shear_strengths(m, criterion);
        of.shear_strengths = {strengths[0], strengths[1]};
        const double c = layer.angle.cos(), s = layer.angle.sin();
        Matrix2 turn;
        turn << c / strengths[0], s / strengths[0], -s / strengths[1], c / strengths[1];
        for (std::size_t k = 0; k < 3; ++k)
          of.shear_from_Q[k] = turn * flows[i].at(flows[i].z + 0.5 * static_cast<double>(k) * layer.thickness);
      }
    }
    layers_.push_back(std::move(of));
    z += layer.thickness;
  }
  if (!wrinkling_ && !dimpling_ && !crushing_) return;
  for (const Face& face : faces_of(layers, materials)) {
    OfFace of{face, Matrix3::Zero(), Matrix3::Zero()};
    for (std::size_t i = face.first; i <= face.last; ++i) {
      const Matrix3 Q = layers_[i].to_ply.transpose() * layers_[i].stiffness;
      of.A += layers_[i].thickness * Q;
      of.B += layers_[i].thickness * (layers_[i].bottom + 0.5 * layers_[i].thickness) * Q;
    }
    faces_.push_back(of);
  }
}

template <class With>
void Judge::judge_face(const OfFace& of, const Straining& straining, With with) const {
  const Face& face = of.face;
  const auto sum = [&](std::span<const Vector3> stresses) -> Vector3 {
    Vector3 out = Vector3::Zero();
    if (stresses.empty()) return out;
    for (std::size_t i = face.first; i <= face.last; ++i) {
      const Vector3* const s = &stresses[3 * i];
      out += layers_[i].thickness / 6.0 * (layers_[i].to_ply.transpose() * (s[0] + 4.0 * s[1] + s[2]));
    }
    return out;
  };
  const Vector3 N = of.A * straining.deformation.strain + of.B * straining.deformation.curvature + sum(straining.more);
  const Vector3 held = sum(straining.held);
  const auto tell = [&](Criterion criterion, double factor) {
    if (factor < std::numeric_limits<double>::infinity())
      with(Failing{std::max(0.0, factor), mode_of(criterion), criterion, face.first, 1});
  };
  double wrinkles = std::numeric_limits<double>::infinity(), dimples = wrinkles;
  const auto least = [&](const Vector3& along, double bears, double& factor) {
    const double pushed = -along.dot(N), before = -along.dot(held);
    if (before >= bears)
      factor = 0.0;
    else if (pushed > 0.0)
      factor = std::min(factor, (bears - before) / pushed);
  };
  const auto across_waves = [](double angle) {
    const double c = std::cos(angle), s = std::sin(angle);
    return Vector3(c * c, s * s, 2.0 * c * s);
  };
  if (wrinkling_) {
    for (std::size_t k = 0; k < face.wrinkles.size(); ++k)
      least(across_waves(std::numbers::pi / 36.0 * static_cast<double>(k)), face.wrinkles[k], wrinkles);
    tell(Criterion::wrinkling, wrinkles);
  }
  if (dimpling_ && face.cell) {
    const Vector3 along = across_waves(0.5 * std::atan2(2.0 * N[2], N[0] - N[1]) + 0.5 * std::numbers::pi);
    least(along, 24.0 * along.dot(face.D * along) / (*face.cell * *face.cell), dimples);
    tell(Criterion::dimpling, dimples);
  }
  if (!crushing_ || !std::isfinite(face.crushes)) return;
  // A face that is pulled over a bend, or pushed into one, presses on the core: its force, which grows with the load, times
  // its curvature, which does so from that it was made with.
  const double side = face.above ? 1.0 : -1.0;
  const double square = side * N.dot(straining.deformation.curvature);
  const double linear =
      std::abs(straining.pressure) + side * held.dot(straining.deformation.curvature) + side * N.dot(straining.curved);
  const double left = face.crushes - side * held.dot(straining.curved);
  if (left <= 0.0) return tell(Criterion::core_crushing, 0.0);
  // square R² + linear R = left, the first positive root.
  if (square == 0.0 && linear <= 0.0) return;
  const double inside = linear * linear + 4.0 * square * left;
  if (inside < 0.0) return;
  const double below = linear + std::sqrt(inside);
  if (below > 0.0) tell(Criterion::core_crushing, 2.0 * left / below);
}

template <class Limit, class With>
void Judge::judge(const Straining& straining, Limit limit, With with) const {
  const Deformation& d = straining.deformation;
  for (std::size_t i = 0; i < layers_.size(); ++i) {
    const OfLayer& of = layers_[i];
    if (!of.surfaces.empty()) {
      const Vector3 at_bottom = of.stiffness * (d.strain + of.bottom * d.curvature);
      const Vector3 over_half = of.stiffness * (0.5 * of.thickness * d.curvature);
      // Limits only fall while they are asked for: those of the first place do for all.
      std::array<double, criterion_count> limits;
      for (const OfPly& ply : of.surfaces) limits[static_cast<std::size_t>(ply.criterion)] = limit(i, ply.criterion);
      for (std::uint8_t place = 0; place < 3; ++place) {
        Vector3 stress = at_bottom + static_cast<double>(place) * over_half;
        if (!straining.more.empty()) stress += straining.more[3 * i + place];
        const Vector3 held = straining.held.empty() ? Vector3(Vector3::Zero()) : straining.held[3 * i + place];
        for (const OfPly& ply : of.surfaces) {
          const double least = limits[static_cast<std::size_t>(ply.criterion)];
          if (std::isfinite(least) && ply.surface.surely_above(least, stress, held)) continue;
          if (const Reserve reserve = ply.surface.reserve(stress, held); reserve.mode != FailureMode::none)
            with(Failing{reserve.factor, reserve.mode, ply.criterion, i, place});
        }
      }
    }
    if (of.shear) {
      const double least = limit(i, *of.shear);
      for (std::uint8_t place = 0; place < 3; ++place) {
        Vector2 used = of.shear_from_Q[place] * straining.Q;
        if (!straining.shear.empty()) used += straining.shear[3 * i + place].cwiseQuotient(of.shear_strengths);
        if (1.5 * std::max(std::abs(used[0]), std::abs(used[1])) * least < 1.0) continue;
        if (const double all = used.stableNorm(); all * least > 1.0)
          with(Failing{1.0 / all, mode_of(*of.shear), *of.shear, i, place});
      }
    }
  }
  for (const OfFace& face : faces_) judge_face(face, straining, with);
}

namespace {

double no_limit(std::size_t, Criterion) { return std::numeric_limits<double>::infinity(); }

}  // namespace

Failing Judge::worst(const Straining& straining) const {
  Failing out;
  const auto limit = [&](std::size_t, Criterion) { return out.factor; };
  judge(straining, limit, [&](const Failing& failing) {
    if (failing.factor < (1.0 - 1e-9) * out.factor) out = failing;  // of equals the first
  });
  return out;
}

std::vector<Failing> Judge::all(const Straining& straining) const {
  std::vector<Failing> out;
  judge(straining, no_limit, [&](const Failing& failing) {
    const auto same = std::find_if(out.begin(), out.end(), [&](const Failing& other) {
      return other.layer == failing.layer && other.criterion == failing.criterion;
    });
    if (same == out.end())
      out.push_back(failing);
    else if (failing.factor < (1.0 - 1e-9) * same->factor)  // of equals the first
      *same = failing;
  });
  std::stable_sort(out.begin(), out.end(), [](const Failing& a, const Failing& b) {
    return std::pair(a.layer, a.criterion) < std::pair(b.layer, b.criterion);
  });
  return out;
}

void Judge::each(const Straining& straining, Watch& watch) const {
  judge(
      straining, [&](std::size_t layer, Criterion criterion) { return watch.limit(layer, criterion); },
      [&](const Failing& failing) { watch.take(failing); });
}

Vector3 Judge::ply_stress(const Deformation& deformation, std::size_t layer, int place) const {
  const OfLayer& of = layers_[layer];
  return of.stiffness * (deformation.strain + (of.bottom + 0.5 * place * of.thickness) * deformation.curvature);
}

std::vector<Vector3> held_stresses(std::span<const Layer> layers, double z0, const Load& load) {
  Load alone;
  alone.temperature = load.temperature, alone.moisture = load.moisture;
  std::vector<Vector3> out;
  for (const LayerState& state : layer_states(layers, z0, deformation(layers, z0, alone), alone))
    out.push_back(state.ply_stress);
  return out;
}

std::vector<Failing> first_failures(const Stack& stack, const Load& load, std::span<const Criterion> criteria) {
  Load multiplied = load;
  multiplied.temperature = multiplied.moisture = 0.0;
  const Judge judge(stack.layers, stack.materials, stack.z0, criteria);
  const std::vector<Vector3> held = held_stresses(stack.layers, stack.z0, load);
  Straining straining;
  straining.deformation = deformation(stack.layers, stack.z0, multiplied);
  straining.Q = load.Q;
  straining.held = held;
  std::vector<Failing> out = judge.all(straining);
  std::stable_sort(out.begin(), out.end(), [](const Failing& a, const Failing& b) { return a.factor < b.factor; });
  return out;
}

}  // namespace bordado::laminate
