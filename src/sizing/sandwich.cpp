#include <bordado/sandwich.hpp>

#include "foundation.hpp"

#include <Eigen/Geometry>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace bordado::sizing {

namespace {

constexpr double pi = std::numbers::pi;

CoveringFace face_of(std::span<const laminate::Layer> layers, double plane, bool above) {
  CoveringFace out;
  out.thickness = laminate::thickness(layers);
  out.about_core = laminate::stiffness(layers, above ? 0.0 : -out.thickness);
  const auto& [A, B, D, H] = out.about_core;
  const Matrix3 own = D - B * A.fullPivLu().solve(B);
  out.D = 0.5 * (own + own.transpose());
  out.plane = plane;
  return out;
}

void check(const FaceForces& forces) {
  if (!forces.bottom.allFinite() || !forces.top.allFinite()) throw std::invalid_argument("forces of faces are numbers");
}
void check_length(double length) {
  if (!(length > 0.0) || !std::isfinite(length)) throw std::invalid_argument("a length is a number above nought");
}

double compression(const Vector3& force, double direction) {
  const double c = std::cos(direction), s = std::sin(direction);
  return -(c * c * force[0] + s * s * force[1] + 2.0 * c * s * force[2]);
}

/// The factor at which a wave stays: of a symmetric positive 2 x 2 stiffness against the pushes of both faces.
std::optional<FaceWave> factor_of(const Matrix2& stiffness, const Vector2& push, FaceMotion motion) {
  FaceWave out;
  if (motion != FaceMotion::any) {
    const Vector2 shape(motion == FaceMotion::mirrored ? -1.0 : 1.0, 1.0);
    const double pushed = push.sum();
    if (pushed <= 0.0) return std::nullopt;
    out.factor = shape.dot(stiffness * shape) / pushed;
    out.bottom = shape[0], out.top = shape[1];
    return out;
  }
  // det(S - f P) = 0: push_b push_t f² - (s_bb push_t + s_tt push_b) f + det S = 0; the least root above nought, by the form
  // that loses no digits.
  const double a = push[0] * push[1], half = 0.5 * (stiffness(0, 0) * push[1] + stiffness(1, 1) * push[0]),
               c = stiffness.determinant();
  const double root = std::sqrt(std::max(0.0, half * half - a * c));
  double factor = 0.0;
  if (half + root > 0.0) factor = c / (half + root);
  if (!(factor > 0.0)) return std::nullopt;
  out.factor = factor;
  const Matrix2 left = stiffness - factor * Matrix2(push.asDiagonal());
  // Its longer row is square to the wave.
  const int row = left.row(0).norm() > left.row(1).norm() ? 0 : 1;
  Vector2 shape(-left(row, 1), left(row, 0));
  if (shape.isZero(0.0)) shape = Vector2(1.0, 1.0);
  shape /= std::abs(shape[0]) > std::abs(shape[1]) ? std::abs(shape[0]) : std::abs(shape[1]);
  if (shape[1] < 0.0 || (shape[1] == 0.0 && shape[0] < 0.0)) shape = -shape;
  out.bottom = shape[0], out.top = shape[1];
  return out;
}

/// Waves of one sandwich in one direction.
class Waves {
 public:
  Waves(const Sandwich& sandwich, const FaceForces& forces, double direction, FaceMotion motion)
      : foundation_(sandwich, direction),
        push_(compression(forces.bottom, direction), compression(forces.top, direction)),
        direction_(direction),
        motion_(motion) {}
  bool any_pushed() const { return push_.maxCoeff() > 0.0; }
  std::optional<FaceWave> at(double half_wave) const {
    const double k = pi / half_wave;
    auto out = factor_of(foundation_.stiffness(k), push_ * (k * k), motion_);
    if (out) out->half_wave = half_wave, out->direction = direction_;
    return out;
  }

 private:
  Foundation foundation_;
  Vector2 push_;
  double direction_;
  FaceMotion motion_;
};

constexpr double golden = 0.6180339887498949;

/// The place of least value between two, by the golden section.
template <class Value>
double least_between(double low, double high, int steps, const Value& value) {
  double one = high - golden * (high - low), two = low + golden * (high - low);
  double at_one = value(one), at_two = value(two);
  for (int i = 0; i < steps; ++i) {
    if (at_one < at_two) {
      high = two, two = one, at_two = at_one;
      at_one = value(one = high - golden * (high - low));
    } else {
      low = one, one = two, at_one = at_two;
      at_two = value(two = low + golden * (high - low));
    }
  }
  return 0.5 * (low + high);
}

/// In one direction. Half waves are looked at in even steps of their logarithm, then between the neighbours of the best.
std::optional<FaceWave> least_in(const Waves& waves, double shortest, double longest, int steps_of_section) {
  if (!waves.any_pushed()) return std::nullopt;
  const double low = std::log(shortest), high = std::log(longest);
  const auto steps = static_cast<int>(std::clamp(std::ceil((high - low) / 0.15), 8.0, 120.0));
  const auto place = [&](int i) { return low + (high - low) * i / steps; };
  const auto value = [&](double log_half_wave) {
    const auto wave = waves.at(std::exp(log_half_wave));
    return wave ? wave->factor : std::numeric_limits<double>::infinity();
  };
  std::vector<double> values;
  for (int i = 0; i <= steps; ++i) values.push_back(value(place(i)));
  std::optional<int> best;
  for (int i = 1; i < steps; ++i) {
    const auto at = static_cast<std::size_t>(i);
    if (std::isfinite(values[at]) && values[at] <= values[at - 1] && values[at] < values[at + 1] &&
        (!best || values[at] < values[static_cast<std::size_t>(*best)]))
      best = i;
  }
  if (best) return waves.at(std::exp(least_between(place(*best - 1), place(*best + 1), steps_of_section, value)));
  auto out = waves.at(longest);
  if (out) out->longest = true;
  return out;
}

}  // namespace

double Sandwich::core_normal() const { return 1.0 / core.inverse()(2, 2); }

Matrix2 Sandwich::core_shear() const {
  Matrix2 out;
  out << core(4, 4), core(3, 4), core(3, 4), core(3, 3);
  return out;
}

std::optional<Sandwich> sandwich_of(std::span<const laminate::Layer> layers,
                                    std::span<const material::Material* const> materials) {
  const auto is_core = [&](std::size_t i) { return material::is_core(materials[i]->kind); };
  std::size_t first = 0;
  while (first < layers.size() && !is_core(first)) ++first;
  std::size_t last = first;
  while (last + 1 < layers.size() && is_core(last + 1)) ++last;
  if (first == 0 || last + 1 >= layers.size()) return std::nullopt;
  for (std::size_t i = last + 1; i < layers.size(); ++i)
    if (is_core(i)) return std::nullopt;
  for (std::size_t i = first + 1; i <= last; ++i)
    if (layers[i].elastic != layers[first].elastic || layers[i].angle.degrees() != layers[first].angle.degrees())
      return std::nullopt;
  Sandwich out;
  const double bottom = laminate::thickness(layers.first(first));
  out.core_thickness = laminate::thickness(layers.subspan(first, last + 1 - first));
  out.bottom = face_of(layers.first(first), bottom, false);
  out.top = face_of(layers.subspan(last + 1), bottom + out.core_thickness, true);
  // The axes of the laminate, seen from the core's own.
  Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();
  const double c = layers[first].angle.cos(), s = layers[first].angle.sin();
  axes.topLeftCorner<2, 2>() << c, s, -s, c;
  out.core = material::turned(material::stiffness(layers[first].elastic), axes);
  const material::Material& of_core = *materials[first];
  out.isotropic_core = material::is_isotropic(of_core.kind);
  if (out.isotropic_core) out.poisson = of_core.elastic.nu12;
  if (of_core.kind == material::Kind::honeycomb) out.cell = of_core.form.cell;
  out.crushes = of_core.strength.Zc;
  if (!out.crushes && out.isotropic_core) out.crushes = of_core.strength.Xc;
  return out;
}

FaceForces face_forces(const Sandwich& sandwich, const laminate::Deformation& deformation, double z0) {
  const auto of = [&](const CoveringFace& face) {
    const Vector3 strain = deformation.strain + (z0 + face.plane) * deformation.curvature;
    return Vector3(face.about_core.A * strain + face.about_core.B * deformation.curvature);
  };
  return {of(sandwich.bottom), of(sandwich.top)};
}

std::optional<FaceWave> face_wave(const Sandwich& sandwich, const FaceForces& forces, double direction,
                                  double half_wave, FaceMotion motion) {
  check(forces);
  check_length(half_wave);
  if (!std::isfinite(direction)) throw std::invalid_argument("a direction is a number");
  const Waves waves(sandwich, forces, direction, motion);
  if (!waves.any_pushed()) return std::nullopt;
  return waves.at(half_wave);
}

std::optional<FaceWave> least_face_wave(const Sandwich& sandwich, const FaceForces& forces, double longest_half_wave,
                                        FaceMotion motion) {
  check(forces);
  check_length(longest_half_wave);
  const double thinner = std::min(sandwich.bottom.thickness, sandwich.top.thickness);
  const double shortest = std::min(thinner, 0.5 * longest_half_wave);
  constexpr int directions = 24;
  const double step = pi / directions;
  const auto in = [&](double direction, int section) {
    return least_in(Waves(sandwich, forces, direction, motion), shortest, longest_half_wave, section);
  };
  std::optional<FaceWave> best;
  // A wave of its own goes before one that is the longest.
  const auto better = [](const FaceWave& one, const FaceWave& other) {
    return one.longest != other.longest ? other.longest : one.factor < other.factor;
  };
  for (int i = 0; i < directions; ++i)
    if (const auto wave = in(i * step, 6); wave && (!best || better(*wave, *best))) best = wave;
  if (!best) return std::nullopt;
  const double middle = best->direction;
  const double direction = least_between(middle - step, middle + step, 16, [&](double at) {
    const auto wave = in(at, 12);
    return wave && wave->longest == best->longest ? wave->factor : std::numeric_limits<double>::infinity();
  });
  for (const double at : {middle, direction})
    if (auto wave = in(at, 30); wave && !better(*best, *wave)) best = wave;
  best->direction = std::remainder(best->direction, pi);
  return best;
}

Indentation indentation(const Sandwich& sandwich, FaceSide side, double radius) {
  check_length(radius);
  const bool above = side == FaceSide::top;
  const CoveringFace& face = above ? sandwich.top : sandwich.bottom;
  constexpr int directions = 24;
  std::vector<Foundation> foundations;
  for (int i = 0; i < directions; ++i) foundations.emplace_back(sandwich, pi * i / directions);
  // A patch of force 1 is the sum of waves k J1(k r) / (pi r) dk. Each presses the face by itself.
  const auto of_wave = [&](double k) {
    Vector2 out = Vector2::Zero();  // depth and stress of a wave of pressure 1
    for (const Foundation& foundation : foundations) {
      const auto [whole, below] = foundation.lying(k, above);
      out += Vector2(1.0, below) / whole;
    }
    return Vector2(out / directions);
  };
  // Bending rules above some k: from there on the sum falls with its fifth power.
  const double bending = face.D.trace() / 3.0, core = sandwich.core_normal();
  const double k_face = std::cbrt(core / bending), k_last = std::max(12.0 * k_face, 3.0 / radius);
  const double strip = std::min(0.25 * k_face, 0.5 / radius), k_most = std::min(k_last, 4000.0 * strip);
  // Gauss, three places a strip.
  constexpr double place = 0.7745966692414834;
  Vector2 sum = Vector2::Zero();
  const auto strips = static_cast<int>(std::ceil(k_most / strip));
  for (int i = 0; i < strips; ++i)
    for (const auto& [at, weight] : {std::pair{-place, 5.0 / 9.0}, {0.0, 8.0 / 9.0}, {place, 5.0 / 9.0}}) {
      const double k = strip * (i + 0.5 + 0.5 * at);
      sum += of_wave(k) * (0.5 * strip * weight * std::cyl_bessel_j(1.0, k * radius) / (pi * radius));
    }
  return {sum[1], sum[0]};
}

namespace {

constexpr std::array<std::array<std::string_view, 3>, wrinkling_formula_count> texts = {{
    {"mirrored, thick core", "0.91 (Ef Ez G)^1/3: Hoff and Mautner 1945", "cores thicker than 1.82 t (Ef Ez / G²)^1/3"},
    {"mirrored, thin core", "0.817 (Ef Ez t/c)^1/2 + 0.166 G c/t: Hoff and Mautner 1945",
     "cores thinner than 1.82 t (Ef Ez / G²)^1/3"},
    {"alike, thick core", "0.51 (Ef Ez G)^1/3 + 0.33 G c/t: Hoff and Mautner 1945",
     "cores thicker than 1.82 t (Ef Ez / G²)^1/3"},
    {"alike, thin core", "0.59 (Ef Ez t/c)^1/2 + 0.387 G c/t: Hoff and Mautner 1945",
     "cores thinner than 1.82 t (Ef Ez / G²)^1/3"},
    {"advised", "0.5 (Ef Ez G)^1/3: Hoff and Mautner 1945, for real, wavy faces",
     "cores thicker than 1.82 t (Ef Ez / G²)^1/3"},
    {"solid without end", "3 (12 (3-v)² (1+v)²)^-1/3 (Ef Ec²)^1/3: Gough, Elam and de Bruyne 1940",
     "thick cores that are the same in all directions"},
    {"springs", "(2/3)^1/2 (Ef Ez t/c)^1/2: Allen 1969, section 8.3", "cores thinner than 1.82 t (Ef Ez / G²)^1/3"},
    {"honeycomb, wavy faces", "0.33 (Ef Ez t/c)^1/2: NASA CR-1457 1969", "honeycomb cores"},
}};

}  // namespace

std::string_view name_of(WrinklingFormula formula) { return texts[static_cast<std::size_t>(formula)][0]; }
std::string_view words(WrinklingFormula formula) { return texts[static_cast<std::size_t>(formula)][1]; }

std::vector<FormulaAnswer> wrinkling_formulas(const Sandwich& sandwich, const CoveringFace& face, double direction) {
  if (!std::isfinite(direction)) throw std::invalid_argument("a direction is a number");
  const Vector2 u(std::cos(direction), std::sin(direction));
  const Vector3 along(u[0] * u[0], u[1] * u[1], 2.0 * u[0] * u[1]);
  const double D = 12.0 * along.dot(face.D * along);  // Ef t³
  const double E = sandwich.core_normal(), G = u.dot(sandwich.core_shear() * u), c = sandwich.core_thickness;
  const double thick = std::cbrt(D * E * G), thin = std::sqrt(D * E / c);
  const bool is_thick = c >= 1.817 * std::cbrt(D * E / (G * G));
  std::vector<FormulaAnswer> out;
  const auto add = [&](WrinklingFormula formula, double force, bool in_range) {
    out.push_back({formula, force, in_range, texts[static_cast<std::size_t>(formula)][2]});
  };
  add(WrinklingFormula::mirrored_thick, 0.91 * thick, is_thick);
  add(WrinklingFormula::mirrored_thin, 0.817 * thin + 0.166 * G * c, !is_thick);
  add(WrinklingFormula::alike_thick, 0.51 * thick + 0.33 * G * c, is_thick);
  add(WrinklingFormula::alike_thin, 0.59 * thin + 0.387 * G * c, !is_thick);
  add(WrinklingFormula::advised, 0.5 * thick, is_thick);
  if (sandwich.poisson) {
    const double nu = *sandwich.poisson;
    add(WrinklingFormula::half_space,
        3.0 / std::cbrt(12.0 * (3.0 - nu) * (3.0 - nu) * (1.0 + nu) * (1.0 + nu)) * std::cbrt(D * E * E), is_thick);
  }
  add(WrinklingFormula::springs, std::sqrt(2.0 / 3.0) * thin, !is_thick);
  if (sandwich.cell) add(WrinklingFormula::honeycomb, 0.33 * thin, true);
  return out;
}

}  // namespace bordado::sizing
