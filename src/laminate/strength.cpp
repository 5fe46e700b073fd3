// A stack judged: every ply at three places, its shear through the thickness, its faces.
#include "shear_flow.hpp"
#include "waves.hpp"

#include <bordado/strength.hpp>

#include <algorithm>
#include <cmath>

namespace bordado::laminate {

namespace {

/// Strengths in shear through the thickness, 13 and 23.
std::array<double, 2> shear_strengths(const material::Material& m) {
  const auto& s = m.strength;
  // Of isotropic ones each stands for those that are not given; missing_for() has seen that there is one.
  if (material::is_isotropic(m.kind))
    return {s.S13 ? *s.S13 : s.S12 ? *s.S12 : *s.S23, s.S23 ? *s.S23 : s.S12 ? *s.S12 : *s.S13};
  return {*s.S13, *s.S23};
}

constexpr double infinity = std::numeric_limits<double>::infinity();
constexpr double golden = 0.6180339887498949;

/// The least of a function between two ends, where it has one dip there.
template <class Of>
double least_between(double low, double high, Of of) {
  double a = high - golden * (high - low), b = low + golden * (high - low), at_a = of(a), at_b = of(b);
  for (int step = 0; step < 40; ++step) {
    if (at_a <= at_b) {
      high = b, b = a, at_b = at_a;
      a = high - golden * (high - low), at_a = of(a);
    } else {
      low = a, a = b, at_a = at_b;
      b = low + golden * (high - low), at_b = of(b);
    }
  }
  return std::min(at_a, at_b);
}

/// Directions every 2.5 degrees, and what is asked of components in them.
constexpr std::size_t direction_count = 72;
constexpr double direction_step = std::numbers::pi / static_cast<double>(direction_count);
struct Across {
  std::array<Vector3, direction_count> at;
  Across() {
    for (std::size_t k = 0; k < direction_count; ++k) at[k] = across_waves(direction_step * static_cast<double>(k));
  }
};
const Across& across() {
  static const Across all;
  return all;
}

/// The least of a function of a direction, the same after half a turn: looked for every 2.5 degrees, then between.
/// \param of_step of the kth of these directions \param of of any
template <class OfStep, class Of>
double least_over_directions(OfStep of_step, Of of) {
  std::array<double, direction_count> at;
  for (std::size_t k = 0; k < direction_count; ++k) at[k] = of_step(k);
  double least = *std::min_element(at.begin(), at.end());
  if (!std::isfinite(least) || least == 0.0) return least;
  const double near = 1.3 * least;  // a dip between two directions is not deeper than that
  for (std::size_t k = 0; k < direction_count; ++k) {
    const double here = at[k];
    if (here > near || here > at[(k + direction_count - 1) % direction_count] || here > at[(k + 1) % direction_count])
      continue;
    const double middle = direction_step * static_cast<double>(k);
    least = std::min(least, least_between(middle - direction_step, middle + direction_step, of));
  }
  return least;
}

template <class Of>
std::vector<double> over_steps(Of of) {
  std::vector<double> out(direction_count);
  for (std::size_t k = 0; k < direction_count; ++k) out[k] = of(direction_step * static_cast<double>(k));
  return out;
}

/// The least R >= 0 at which held + R load is 1.
double single_factor(double load, double held) {
  return held >= 1.0 ? 0.0 : load > 0.0 ? (1.0 - held) / load : infinity;
}

/// The least R >= 0 at which a sum that only grows with R, f(R), is 1: `two` shares, held + R load each, nothing where
/// it is pulled, the smaller to a power.
double joint_factor(const Vector2& load, const Vector2& held, int power) {
  const auto sum = [&](double R) {
    const double a = std::max(0.0, held[0] + R * load[0]), b = std::max(0.0, held[1] + R * load[1]);
    double of_smaller = std::min(a, b);
    for (int k = 1; k < power; ++k) of_smaller *= std::min(a, b);
    return std::max(a, b) + of_smaller;
  };
  if (sum(0.0) >= 1.0) return 0.0;
  double high = infinity;  // where one alone is 1
  for (int k = 0; k < 2; ++k)
    if (load[k] > 0.0) high = std::min(high, (1.0 - held[k]) / load[k]);
  if (!std::isfinite(high)) return infinity;
  double low = 0.0;
  for (int step = 0; step < 60 && high - low > 1e-14 * high; ++step) {
    // By the line between the ends where that helps, halving otherwise.
    const double at_low = sum(low) - 1.0, at_high = sum(high) - 1.0;
    double R = at_high > 0.0 ? low - at_low * (high - low) / (at_high - at_low) : high;
    if (step % 2 == 1 || !(R > low && R < high)) R = 0.5 * (low + high);
    (sum(R) >= 1.0 ? high : low) = R;
  }
  return high;
}

/// Forces of no more than this share of the largest are round-off: nothing fails by them.
constexpr double round_off = 1e-12;

FailureMode mode_of(Criterion criterion) {
  switch (criterion) {
    case Criterion::core_shear:
      return FailureMode::core_shear;
    case Criterion::core_crushing:
      return FailureMode::core_crushing;
    case Criterion::crimping:
      return FailureMode::crimping;
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
    of.judged_as = layer.judged_as;
    of.to_ply = strains_to(layer.angle);
    of.stiffness = plane_stress_stiffness(layer.elastic) * of.to_ply;
    for (const Criterion criterion : criteria) {
      if (!applied(criterion, m)) continue;
      if (auto keys = missing_for(criterion, m); !keys.empty()) {
        left_out_.push_back({i, criterion, std::move(keys)});
      } else if (of_a_ply(criterion)) {
        of.surfaces.push_back({*applied(criterion, m), FailureSurface(criterion, m)});
      } else if (criterion == Criterion::interlaminar_shear || criterion == Criterion::core_shear) {
        of.shear = criterion;
        const auto strengths = shear_strengths(m);
        of.shear_strengths = {strengths[0], strengths[1]};
        const double c = layer.angle.cos(), s = layer.angle.sin();
        Matrix2 turn;
        turn << c / strengths[0], s / strengths[0], -s / strengths[1], c / strengths[1];
        for (std::size_t k = 0; k < 3; ++k)
          of.shear_from_Q[k] = turn * flows[i].at(flows[i].z + 0.5 * static_cast<double>(k) * layer.thickness);
      } else if (criterion == Criterion::peel) {
        const auto strengths = shear_strengths(m);
        of.peel = Vector3(m.strength.Zt ? *m.strength.Zt : *m.strength.Xt, strengths[0], strengths[1]);
      }
    }
    layers_.push_back(std::move(of));
    z += layer.thickness;
  }
  z0_ = z0, thickness_ = z - z0;
  if (wanted(Criterion::crimping))
    for (std::size_t i = layers.size(); i-- > 0;)
      if (material::is_core(materials[i]->kind)) crimps_ = i;
  const auto bears = [&](std::size_t first, std::size_t last, Matrix3& A, Matrix3& B) {
    for (std::size_t i = first; i <= last; ++i) {
      const Matrix3 Q = layers_[i].to_ply.transpose() * layers_[i].stiffness;
      A += layers_[i].thickness * Q;
      B += layers_[i].thickness * (layers_[i].bottom + 0.5 * layers_[i].thickness) * Q;
    }
  };
  if (crimps_) {
    bears(0, layers.size() - 1, A_, B_);
    H_ = transverse_shear(layers);
    shears_off_ = over_steps([&](double at) { return shears_off(at); });
  }
  if (!wrinkling_ && !dimpling_ && !crushing_) return;
  for (const Face& face : faces_of(layers, materials)) {
    OfFace of{face, Matrix3::Zero(), Matrix3::Zero(), {}, {}};
    if (wrinkling_) of.wrinkles = over_steps([&](double at) { return face.wrinkles(at); });
    if (dimpling_ && face.cell) of.dimples = over_steps([&](double at) { return face.dimples(at); });
    bears(face.first, face.last, of.A, of.B);
    faces_.push_back(of);
  }
}

Vector3 Judge::force(std::span<const Vector3> stresses, std::size_t first, std::size_t last) const {
  Vector3 out = Vector3::Zero();
  if (stresses.empty()) return out;
  for (std::size_t i = first; i <= last; ++i) {
    const Vector3* const s = &stresses[3 * i];
    out += layers_[i].thickness / 6.0 * (layers_[i].to_ply.transpose() * (s[0] + 4.0 * s[1] + s[2]));
  }
  return out;
}

double Judge::shears_off(double direction) const {
  const Vector2 u(std::cos(direction), std::sin(direction));
  return u.dot(H_ * u);
}

template <class With>
void Judge::judge_crimping(const SectionLoad& load, With with) const {
  const Vector3 N =
      A_ * load.deformation.strain + B_ * load.deformation.curvature + force(load.added, 0, layers_.size() - 1);
  const Vector3 held = force(load.held, 0, layers_.size() - 1);
  const double least_force =
      round_off * (A_.norm() * load.deformation.strain.norm() + B_.norm() * load.deformation.curvature.norm());
  const auto factor_of = [&](const Vector3& along, double bears) {
    const double pushed = -along.dot(N), before = -along.dot(held);
    return before >= bears ? 0.0 : pushed > least_force ? (bears - before) / pushed : infinity;
  };
  const double factor = least_over_directions(
      [&](std::size_t k) { return factor_of(across().at[k], shears_off_[k]); },
      [&](double direction) { return factor_of(across_waves(direction), shears_off(direction)); });
  if (factor < infinity) with(Failing{factor, FailureMode::crimping, Criterion::crimping, *crimps_, 1});
}

template <class With>
void Judge::judge_face(const OfFace& of, const SectionLoad& load, With with) const {
  const Face& face = of.face;
  const Vector3 N =
      of.A * load.deformation.strain + of.B * load.deformation.curvature + force(load.added, face.first, face.last);
  const Vector3 held = force(load.held, face.first, face.last);
  const auto tell = [&](Criterion criterion, double factor) {
    if (factor < infinity) with(Failing{std::max(0.0, factor), mode_of(criterion), criterion, face.first, 1});
  };
  const double bound =
      of.A.norm() * (load.deformation.strain.norm() + (std::abs(z0_) + thickness_) * load.deformation.curvature.norm());
  const double least_force = round_off * bound;
  const auto share = [&](const Vector3& along, double limit) {
    const double pushed = -along.dot(N);
    return Vector2(std::abs(pushed) > least_force ? pushed / limit : 0.0, -along.dot(held) / limit);
  };
  // In every direction by itself; and of the two directions in which a force only pushes both shares together: there the
  // rules for two pushes hold. What is held may turn these: they are those of the load, of what is held, and of both
  // where one direction alone gives way.
  const auto joint = [&](const std::vector<double>& steps, auto bears, int power) {
    const auto single = [&](const Vector3& along, double limit) {
      const Vector2 one = share(along, limit);
      return single_factor(one[0], one[1]);
    };
    double least = least_over_directions([&](std::size_t k) { return single(across().at[k], steps[k]); },
                                         [&](double at) { return single(across_waves(at), bears(at)); });
    const auto axes = [](const Vector3& force) { return 0.5 * std::atan2(2.0 * force[2], force[0] - force[1]); };
    const Vector3 both = std::isfinite(least) ? Vector3(held + least * N) : N;
    for (const Vector3& force : {N, held, both}) {
      const double at = axes(force), square_to = at + 0.5 * std::numbers::pi;
      const Vector2 a = share(across_waves(at), bears(at)), b = share(across_waves(square_to), bears(square_to));
      least = std::min(least, joint_factor({a[0], b[0]}, {a[1], b[1]}, power));
    }
    return least;
  };
  if (wrinkling_)
    tell(Criterion::wrinkling, joint(
                                   of.wrinkles, [&](double at) { return face.wrinkles(at); }, 3));
  if (dimpling_ && face.cell)
    tell(Criterion::dimpling, joint(
                                  of.dimples, [&](double at) { return face.dimples(at); }, 1));
  if (!crushing_ || !std::isfinite(face.crushes)) return;
  // A face that is pulled over a bend, or pushed into one, presses on the core: its force times its curvature. Both grow
  // with the load, from what is held and from how the part was made.
  const double side = face.above ? 1.0 : -1.0;
  const Vector3& k = load.deformation.curvature;
  const Vector3 stands = load.curved + load.held_curvature;
  // Of moments alone without a force, or of forces alone that bend nothing, there is only round-off.
  const auto product = [&](const Vector3& force, const Vector3& by, double floor) {
    const double out = side * force.dot(by);
    return std::abs(out) > floor ? out : 0.0;
  };
  const double bent = k.norm() + load.deformation.strain.norm() / thickness_;
  const double square = product(N, k, round_off * bound * bent);
  const double linear = std::abs(load.pressure) + side * held.dot(k) + product(N, stands, least_force * stands.norm());
  const double left = face.crushes - side * held.dot(stands);
  if (left <= 0.0) return tell(Criterion::core_crushing, 0.0);
  // square R² + linear R = left, the first positive root.
  if (square == 0.0 && linear <= 0.0) return;
  const double inside = linear * linear + 4.0 * square * left;
  if (inside < 0.0) return;
  const double below = linear + std::sqrt(inside);
  if (below > 0.0) tell(Criterion::core_crushing, 2.0 * left / below);
}

namespace {

/// Shear stresses over their strengths within a layer: quadratic over its thickness, so that what they are at its
/// bottom, middle and top says all. Tells the places where that is most: those three, and between them.
template <class With>
void judge_shear(const std::array<Vector2, 3>& used, const std::array<Vector2, 3>& held, double least, With with) {
  const bool bare = held[0].isZero(0.0) && held[1].isZero(0.0) && held[2].isZero(0.0);
  // No point of the parabola is outside of its control points.
  const auto control = [](const std::array<Vector2, 3>& v) -> Vector2 { return 2.0 * v[1] - 0.5 * (v[0] + v[2]); };
  if (bare) {
    const double most = std::max({used[0].squaredNorm(), control(used).squaredNorm(), used[2].squaredNorm()});
    if (most * least * least < 1.0 - 1e-12) return;
  }
  const auto at = [](const std::array<Vector2, 3>& v, double share) -> Vector2 {
    return v[0] + share * (-3.0 * v[0] + 4.0 * v[1] - v[2]) + share * share * (2.0 * v[0] - 4.0 * v[1] + 2.0 * v[2]);
  };
  // |held + R used| = 1.
  const auto factor = [&](double share) {
    const Vector2 u = at(used, share);
    if (bare) {
      const double size = u.stableNorm();
      return size > 0.0 ? 1.0 / size : infinity;
    }
    const Vector2 h = at(held, share);
    const double c = h.squaredNorm() - 1.0, a = u.squaredNorm(), b = u.dot(h);
    if (c >= 0.0) return 0.0;
    if (!(a > 0.0)) return infinity;
    const double root = std::sqrt(b * b - a * c);
    return b > 0.0 ? -c / (b + root) : (root - b) / a;
  };
  constexpr std::size_t count = 8;
  std::array<double, count + 1> found;
  for (std::size_t k = 0; k <= count; ++k) found[k] = factor(static_cast<double>(k) / count);
  double told = infinity;
  for (const std::size_t k : {std::size_t{0}, count / 2, count}) {
    if (found[k] < least) with(found[k], static_cast<std::uint8_t>(2 * k / count));
    told = std::min(told, found[k]);
  }
  for (std::size_t k = 0; k <= count; ++k) {
    const std::size_t before = k > 0 ? k - 1 : 0, behind = std::min(k + 1, count);
    if (found[k] > found[before] || found[k] > found[behind] || !std::isfinite(found[k])) continue;
    const double within =
        least_between(static_cast<double>(before) / count, static_cast<double>(behind) / count, factor);
    if (within < least && within < (1.0 - 1e-9) * told) with(within, std::uint8_t{3});
  }
}

}  // namespace

namespace {

/// The least R >= 0 at which held + R load, shares of strengths 33, 13, 23, lies on a sphere, where 33 counts as long as it
/// pulls.
double peel_factor(const Vector3& load, const Vector3& held) {
  const auto pulls = [](double share) { return std::max(0.0, share); };
  if (Vector3(pulls(held[0]), held[1], held[2]).squaredNorm() >= 1.0) return 0.0;
  double least = infinity;
  for (const bool counts : {true, false}) {
    Vector3 u = load, h = held;
    if (!counts) u[0] = h[0] = 0.0;
    const double a = u.squaredNorm(), b = u.dot(h), c = h.squaredNorm() - 1.0;
    if (!(a > 0.0)) continue;
    const double inside = b * b - a * c;
    if (inside < 0.0) continue;
    for (const double root : {(-b - std::sqrt(inside)) / a, (-b + std::sqrt(inside)) / a}) {
      const double at = held[0] + root * load[0];
      if (root >= 0.0 && (counts ? at >= 0.0 : at <= 0.0)) least = std::min(least, root);
    }
  }
  return least;
}

/// What bears so many times the load is not loaded but by rounding: no reserve is told of it.
constexpr double largest_reserve = 1e10;

}  // namespace

template <class Limit, class With>
void Judge::judge(const SectionLoad& load, Limit limit, With every) const {
  const auto with = [&](const Failing& failing) {
    if (failing.factor <= largest_reserve) every(failing);
  };
  const Deformation& d = load.deformation;
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
        if (!load.added.empty()) stress += load.added[3 * i + place];
        Vector3 held = load.held.empty() ? Vector3(Vector3::Zero()) : load.held[3 * i + place];
        if (of.judged_as) stress = *of.judged_as * stress, held = *of.judged_as * held;
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
      std::array<Vector2, 3> used, held;
      for (std::size_t place = 0; place < 3; ++place) {
        used[place] = of.shear_from_Q[place] * load.Q;
        held[place] = of.shear_from_Q[place] * load.held_Q;
        if (!load.shear.empty()) used[place] += load.shear[3 * i + place].cwiseQuotient(of.shear_strengths);
        if (!load.held_shear.empty()) held[place] += load.held_shear[3 * i + place].cwiseQuotient(of.shear_strengths);
      }
      judge_shear(used, held, least, [&](double factor, std::uint8_t place) {
        with(Failing{factor, mode_of(*of.shear), *of.shear, i, place});
      });
    }
  }
  for (std::size_t i = 0; i < layers_.size() && !load.through.empty(); ++i) {
    const OfLayer& of = layers_[i];
    if (!of.peel) continue;
    const double least = limit(i, Criterion::peel);
    for (std::uint8_t place = 0; place < 3; ++place) {
      const std::size_t at = 3 * i + place;
      const auto shares = [&](std::span<const double> through, std::span<const Vector2> shear) {
        Vector3 out = Vector3::Zero();
        if (!through.empty()) out[0] = through[at];
        if (!shear.empty()) out.tail<2>() = shear[at];
        return Vector3(out.cwiseQuotient(*of.peel));
      };
      const double factor = peel_factor(shares(load.through, load.shear), shares(load.held_through, load.held_shear));
      if (factor < least) with(Failing{factor, FailureMode::delamination, Criterion::peel, i, place});
    }
  }
  if (crimps_) judge_crimping(load, with);
  for (const OfFace& face : faces_) judge_face(face, load, with);
}

namespace {

double no_limit(std::size_t, Criterion) { return infinity; }

}  // namespace

Failing Judge::worst(const SectionLoad& load) const {
  Failing out;
  const auto limit = [&](std::size_t, Criterion) { return out.factor; };
  judge(load, limit, [&](const Failing& failing) {
    if (failing.factor < (1.0 - 1e-9) * out.factor) out = failing;  // of equals the first
  });
  return out;
}

std::vector<Failing> Judge::all(const SectionLoad& load) const {
  std::vector<Failing> out;
  judge(load, no_limit, [&](const Failing& failing) {
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

void Judge::each(const SectionLoad& load, Watch& watch) const {
  judge(
      load, [&](std::size_t layer, Criterion criterion) { return watch.limit(layer, criterion); },
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
  SectionLoad section_load;
  section_load.deformation = deformation(stack.layers, stack.z0, multiplied);
  section_load.Q = load.Q;
  section_load.held = held;
  Load alone;
  alone.temperature = load.temperature, alone.moisture = load.moisture;
  section_load.held_curvature = deformation(stack.layers, stack.z0, alone).curvature;
  std::vector<Failing> out = judge.all(section_load);
  std::stable_sort(out.begin(), out.end(), [](const Failing& a, const Failing& b) { return a.factor < b.factor; });
  return out;
}

}  // namespace bordado::laminate
