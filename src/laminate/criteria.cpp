// Failure criteria of one ply in its plane.
#include <bordado/strength.hpp>

#include <fmt/format.h>
#include <Eigen/LU>

#include <algorithm>
#include <array>
#include <cmath>
#include <stdexcept>

namespace bordado::laminate {

namespace {

constexpr std::array<std::string_view, criterion_count> names = {
    "maximum-stress", "maximum-strain",     "tsai-hill",  "tsai-wu", "hoffman",       "hashin",   "puck",
    "von-mises",      "interlaminar-shear", "core-shear", "peel",    "core-crushing", "crimping", "wrinkling",
    "dimpling"};

constexpr std::array<Criterion, 7> usual = {
    Criterion::puck,     Criterion::interlaminar_shear, Criterion::core_shear, Criterion::core_crushing,
    Criterion::crimping, Criterion::wrinkling,          Criterion::dimpling};

/// Strengths of a ply, those that follow from others filled in.
struct Filled {
  material::Strength s;
  material::StrainLimits e;
};

Filled filled(const material::Material& m) {
  Filled out{m.strength, m.strain_limits};
  const auto fall_back = [](std::optional<double>& value, const std::optional<double>& other, double factor = 1.0) {
    if (!value && other) value = factor * *other;
  };
  if (material::is_isotropic(m.kind)) fall_back(out.s.Xc, out.s.Xt);
  fall_back(out.e.e1t, out.s.Xt, 1.0 / m.elastic.E1);
  fall_back(out.e.e1c, out.s.Xc, 1.0 / m.elastic.E1);
  fall_back(out.e.e2t, out.s.Yt, 1.0 / m.elastic.E2);
  fall_back(out.e.e2c, out.s.Yc, 1.0 / m.elastic.E2);
  fall_back(out.e.g12, out.s.S12, 1.0 / m.elastic.G12);
  return out;
}

/// How the terms of a criterion are called where it does not tell a mode itself: along 1 in tension and compression,
/// along 2, shear.
std::array<FailureMode, 5> modes_of(const material::Material& m) {
  using enum FailureMode;
  if (m.kind == material::Kind::fabric)
    return {fibre_tension, fibre_compression, weft_tension, weft_compression, shear};
  return {fibre_tension, fibre_compression, matrix_tension, matrix_compression, shear};
}

}  // namespace

std::string_view name_of(Criterion criterion) { return names[static_cast<std::size_t>(criterion)]; }

std::optional<Criterion> criterion_named(std::string_view name) {
  for (std::size_t i = 0; i < names.size(); ++i)
    if (names[i] == name) return static_cast<Criterion>(i);
  return std::nullopt;
}

std::span<const Criterion> usual_criteria() { return usual; }

std::string_view words(FailureMode mode) {
  switch (mode) {
    case FailureMode::none:
      return "nothing fails";
    case FailureMode::fibre_tension:
      return "fibre tension";
    case FailureMode::fibre_compression:
      return "fibre compression";
    case FailureMode::weft_tension:
      return "weft tension";
    case FailureMode::weft_compression:
      return "weft compression";
    case FailureMode::matrix_tension:
      return "matrix tension";
    case FailureMode::matrix_compression:
      return "matrix compression";
    case FailureMode::shear:
      return "shear in the plane";
    case FailureMode::inter_fibre_A:
      return "crack between fibres, opening (A)";
    case FailureMode::inter_fibre_B:
      return "crack between fibres, shear (B)";
    case FailureMode::inter_fibre_C:
      return "crack between fibres, wedging (C)";
    case FailureMode::yielding:
      return "yielding";
    case FailureMode::delamination:
      return "delamination";
    case FailureMode::core_shear:
      return "shear of the core";
    case FailureMode::core_crushing:
      return "crushing of the core";
    case FailureMode::crimping:
      return "crimping: the sandwich shears off";
    case FailureMode::wrinkling:
      return "wrinkling of the face";
    case FailureMode::dimpling:
      break;
  }
  return "dimpling between cell walls";
}

std::string_view words(Criterion criterion, std::uint8_t place) {
  constexpr std::array<std::string_view, 4> places = {"bottom", "middle", "top", "within"};
  return criterion == Criterion::crimping ? "sandwich" : of_a_sandwich(criterion) ? "face" : places.at(place);
}

std::optional<Criterion> applied(Criterion criterion, const material::Material& material) {
  const bool core = material::is_core(material.kind);
  if (of_a_ply(criterion)) {
    if (core) return std::nullopt;
    if (material::is_isotropic(material.kind)) return Criterion::von_mises;
    const bool of_fibres = criterion == Criterion::hashin || criterion == Criterion::puck;
    if (criterion == Criterion::von_mises) return Criterion::maximum_stress;
    return of_fibres && material.kind != material::Kind::unidirectional ? Criterion::maximum_stress : criterion;
  }
  if (criterion == Criterion::interlaminar_shear) {
    const auto& s = material.strength;
    const bool metal = material::is_isotropic(material.kind) && !s.S12 && !s.S13 && !s.S23;
    return core || metal ? std::nullopt : std::optional(criterion);
  }
  if (criterion == Criterion::peel) return criterion;
  return core ? std::optional(criterion) : std::nullopt;
}

std::vector<std::string_view> missing_for(Criterion criterion, const material::Material& material) {
  const auto own = applied(criterion, material);
  if (!own) return {};
  const Filled f = filled(material);
  std::vector<std::string_view> out;
  const auto need = [&](std::string_view key, const std::optional<double>& value) {
    if (!value) out.push_back(key);
  };
  switch (*own) {
    case Criterion::maximum_strain:
      need("e1t", f.e.e1t), need("e1c", f.e.e1c), need("e2t", f.e.e2t), need("e2c", f.e.e2c), need("g12", f.e.g12);
      break;
    case Criterion::interlaminar_shear:
    case Criterion::core_shear:
      if (material::is_isotropic(material.kind) && (material.strength.S12 || f.s.S13 || f.s.S23)) break;
      need("S13", f.s.S13), need("S23", f.s.S23);
      break;
    case Criterion::peel:
      if (!(material::is_isotropic(material.kind) && f.s.Xt)) need("Zt", f.s.Zt);
      if (material::is_isotropic(material.kind) && (material.strength.S12 || f.s.S13 || f.s.S23)) break;
      need("S13", f.s.S13), need("S23", f.s.S23);
      break;
    case Criterion::core_crushing:
      if (material::is_isotropic(material.kind) && (f.s.Zc || material.strength.Xc)) break;
      need("Zc", f.s.Zc);
      break;
    case Criterion::von_mises:
      need("Xt", f.s.Xt);
      break;
    case Criterion::crimping:  // from stiffness alone
    case Criterion::wrinkling:
    case Criterion::dimpling:  // and the size of cells, where it has any
      break;
    default:
      need("Xt", f.s.Xt), need("Xc", f.s.Xc), need("Yt", f.s.Yt), need("Yc", f.s.Yc), need("S12", f.s.S12);
  }
  return out;
}

std::optional<Finding> strengths_missing(const material::Material& material, std::span<const Criterion> criteria) {
  std::vector<std::string> of_each;
  std::vector<std::string_view> all;
  for (const Criterion criterion : criteria) {
    const auto keys = missing_for(criterion, material);
    if (keys.empty()) continue;
    of_each.emplace_back(name_of(criterion));
    for (const std::string_view key : keys)
      if (std::find(all.begin(), all.end(), key) == all.end()) all.push_back(key);
  }
  if (all.empty()) return std::nullopt;
  // Of a material without any strength nobody expects a judgement.
  const bool some = material.strength != material::Strength{} || material.strain_limits != material::StrainLimits{};
  return Finding{some ? Severity::warning : Severity::note, "strength.missing",
                 fmt::format("material '{}' says no {}: it is not judged by {}", material.name, fmt::join(all, ", "),
                             fmt::join(of_each, ", ")),
                 material.where, "add them to the material, from tests or its data sheet, or ask for other criteria"};
}

bool FailureSurface::Branch::holds(const Vector3& s) const {
  const double slack = 1e-9 * s.cwiseAbs().maxCoeff();
  if (sign1 * s[0] < -slack || sign2 * s[1] < -slack || s[1] > most2 + slack) return false;
  if (across > 0.0) return std::abs(s[1]) <= across * std::abs(s[2]) + slack;
  if (across < 0.0) return std::abs(s[1]) >= -across * std::abs(s[2]) - slack;
  return true;
}

FailureSurface::FailureSurface(Criterion criterion, const material::Material& material) : by_term_(modes_of(material)) {
  if (!of_a_ply(criterion)) throw std::invalid_argument("this criterion judges stacks, not plies");
  const auto own = applied(criterion, material);
  if (!own) throw std::invalid_argument("a core is judged by its shear and by crushing");
  if (const auto keys = missing_for(criterion, material); !keys.empty())
    throw std::invalid_argument(fmt::format("{} is missing", keys.front()));
  const Filled f = filled(material);
  const auto linear = [&](Vector3 direction, double limit, FailureMode mode) {
    Branch piece;
    piece.linear = direction / limit;
    piece.mode = mode;
    add(piece);
  };
  using enum FailureMode;
  if (*own == Criterion::maximum_strain) {
    const Matrix3 S = plane_stress_stiffness(material.elastic).inverse();
    const auto both = [&](int i, double tension, double compression, FailureMode pulled, FailureMode pushed) {
      linear(S.row(i), tension, pulled);
      linear(-S.row(i), compression, pushed);
    };
    both(0, *f.e.e1t, *f.e.e1c, by_term_[0], by_term_[1]);
    both(1, *f.e.e2t, *f.e.e2c, by_term_[2], by_term_[3]);
    both(2, *f.e.g12, *f.e.g12, by_term_[4], by_term_[4]);
    return;
  }
  const auto square = [](double x) { return x * x; };
  if (*own == Criterion::von_mises) {
    sums_ = true;
    const double Xt = *f.s.Xt, Xc = *f.s.Xc;
    Branch piece;
    piece.linear = {1.0 / Xt - 1.0 / Xc, 1.0 / Xt - 1.0 / Xc, 0.0};
    piece.q11 = piece.q22 = 1.0 / (Xt * Xc), piece.q12 = -piece.q11, piece.q66 = 3.0 * piece.q11;
    piece.mode = yielding;
    add(piece);
    if (!material.strength.S12) return;
    Branch largest_shear;
    largest_shear.q11 = largest_shear.q22 = 0.25 / square(*material.strength.S12);
    largest_shear.q12 = -2.0 * largest_shear.q11, largest_shear.q66 = 4.0 * largest_shear.q11;
    largest_shear.mode = yielding;
    add(largest_shear);
    return;
  }
  const double Xt = *f.s.Xt, Xc = *f.s.Xc, Yt = *f.s.Yt, Yc = *f.s.Yc, S = *f.s.S12;
  switch (*own) {
    case Criterion::maximum_stress:
      linear(Vector3::UnitX(), Xt, by_term_[0]);
      linear(-Vector3::UnitX(), Xc, by_term_[1]);
      linear(Vector3::UnitY(), Yt, by_term_[2]);
      linear(-Vector3::UnitY(), Yc, by_term_[3]);
      linear(Vector3::UnitZ(), S, by_term_[4]);
      linear(-Vector3::UnitZ(), S, by_term_[4]);
      break;
    case Criterion::tsai_hill:
      sums_ = true;
      for (const std::int8_t sign1 : {std::int8_t{1}, std::int8_t{-1}})
        for (const std::int8_t sign2 : {std::int8_t{1}, std::int8_t{-1}}) {
          const double X = sign1 > 0 ? Xt : Xc, Y = sign2 > 0 ? Yt : Yc;
          Branch piece;
          piece.sign1 = sign1, piece.sign2 = sign2;
          piece.q11 = 1.0 / square(X), piece.q12 = -1.0 / square(X);
          piece.q22 = 1.0 / square(Y), piece.q66 = 1.0 / square(S);
          add(piece);
        }
      break;
    case Criterion::tsai_wu:
    case Criterion::hoffman: {
      sums_ = true;
      Branch piece;
      piece.linear = {1.0 / Xt - 1.0 / Xc, 1.0 / Yt - 1.0 / Yc, 0.0};
      piece.q11 = 1.0 / (Xt * Xc), piece.q22 = 1.0 / (Yt * Yc), piece.q66 = 1.0 / square(S);
      piece.q12 = *own == Criterion::hoffman
                      ? -piece.q11
                      : 2.0 * material.interaction.F12.value_or(-0.5) * std::sqrt(piece.q11 * piece.q22);
      add(piece);
      break;
    }
    case Criterion::hashin: {
      sums_ = true;
      const double S23 = f.s.S23.value_or(0.5 * Yc);
      Branch pulled, pushed, opened, closed;
      pulled.sign1 = 1, pulled.q11 = 1.0 / square(Xt), pulled.q66 = 1.0 / square(S), pulled.mode = fibre_tension;
      pushed.sign1 = -1, pushed.q11 = 1.0 / square(Xc), pushed.mode = fibre_compression;
      opened.sign2 = 1, opened.q22 = 1.0 / square(Yt), opened.q66 = 1.0 / square(S), opened.mode = matrix_tension;
      closed.sign2 = -1, closed.q22 = 1.0 / square(2.0 * S23), closed.q66 = 1.0 / square(S);
      closed.linear = {0.0, (square(Yc / (2.0 * S23)) - 1.0) / Yc, 0.0}, closed.mode = matrix_compression;
      for (const Branch& piece : {pulled, pushed, opened, closed}) add(piece);
      break;
    }
    default: {
      const bool carbon = material.elastic.E1 > 8.0 * material.elastic.E2;
      // At S / Yt the curve is a straight line to Yt; beyond it would never meet it.
      const double pt = material.interaction.p12t.value_or(std::min(carbon ? 0.35 : 0.30, 0.9 * S / Yt));
      const double pc = material.interaction.p12c.value_or(carbon ? 0.30 : 0.25);
      linear(Vector3::UnitX(), Xt, fibre_tension);
      linear(-Vector3::UnitX(), Xc, fibre_compression);
      // A: (t / S)² + (1 - p Yt / S)² (s2 / Yt)² = (1 - p s2 / S)².
      Branch a;
      a.mode = inter_fibre_A, a.sign2 = 1, a.most2 = S / pt;
      a.q66 = 1.0 / square(S), a.q22 = square((1.0 - pt * Yt / S) / Yt) - square(pt / S);
      a.linear = {0.0, 2.0 * pt / S, 0.0};
      add(a);
      // B: t² + (p s2)² = (S - p s2)².
      const double R = S / (2.0 * pc) * (std::sqrt(1.0 + 2.0 * pc * Yc / S) - 1.0);
      const double inclined = pc * R / S;  // p22c
      const double turn = R / (S * std::sqrt(1.0 + 2.0 * inclined));
      Branch b;
      b.mode = inter_fibre_B, b.sign2 = -1, b.across = turn;
      b.q66 = 1.0 / square(S), b.linear = {0.0, 2.0 * pc / S, 0.0};
      add(b);
      // C: ((t / (2 (1 + p22) S))² + (s2 / Yc)²) Yc / -s2 = 1.
      Branch c;
      // It also goes through the origin, where nothing fails: all of it that counts lies beyond the turn.
      c.mode = inter_fibre_C, c.sign2 = -1, c.across = -turn, c.constant = 0.0, c.most2 = -(1.0 - 1e-9) * R;
      c.q66 = 1.0 / square(2.0 * (1.0 + inclined) * S), c.q22 = 1.0 / square(Yc), c.linear = {0.0, 1.0 / Yc, 0.0};
      add(c);
    }
  }
}

Reserve FailureSurface::reserve(const Vector3& whole, const Vector3& held) const {
  Reserve out;
  const bool bare = held.isZero(0.0);
  // By its size, so that no square of it is too large or too small a number.
  const double size = whole.cwiseAbs().maxCoeff();
  if (size == 0.0 && bare) return out;
  const Vector3 load = size > 0.0 ? Vector3(whole / size) : whole;
  for (std::size_t i = 0; i < count_; ++i) {
    const Branch& p = pieces_[i];
    const double a = p.along(load, load), b = p.linear.dot(load) + 2.0 * p.along(load, held);
    const double c = p.constant + p.linear.dot(held) + p.along(held, held);
    if (!bare && c >= 0.0 && p.holds(held)) {
      out = {0.0, p.mode};
      break;
    }
    // a R² + b R + c = 0, both roots without cancellation.
    double roots[2] = {-1.0, -1.0};
    const double inside = b * b - 4.0 * a * c;
    if (!(inside >= 0.0)) continue;
    const double q = -0.5 * (b + std::copysign(std::sqrt(inside), b));
    if (a != 0.0) roots[0] = q / a;
    if (q != 0.0) roots[1] = c / q;
    for (const double R : roots)
      if (R > 0.0 && R < out.factor && p.holds(held + R * load)) out = {R, p.mode};
  }
  if (!std::isfinite(out.factor)) return out;
  if (out.mode == FailureMode::none) out.mode = largest_term(held + out.factor * load);
  if (size > 0.0) out.factor /= size;
  return out;
}

bool FailureSurface::surely_above(double factor, const Vector3& load, const Vector3& held) const {
  const Vector3 end = held + factor * load;
  if (held[0] == 0.0 && held[1] == 0.0 && held[2] == 0.0) {
    // From nought on: as below, with the squares formed once.
    const double s11 = end[0] * end[0], s22 = end[1] * end[1], s66 = end[2] * end[2], s12 = end[0] * end[1];
    for (std::size_t i = 0; i < count_; ++i) {
      const Branch& p = pieces_[i];
      if (p.sign1 * end[0] < 0.0 || p.sign2 * end[1] < 0.0) continue;
      const double second = p.q11 * s11 + p.q22 * s22 + p.q66 * s66 + p.q12 * s12;
      const double first = p.linear[0] * end[0] + p.linear[1] * end[1] + p.linear[2] * end[2];
      if (second < 0.0 || p.constant > 0.0 || !(p.constant + first + second < 0.0)) return false;
    }
    return true;
  }
  for (std::size_t i = 0; i < count_; ++i) {
    // Where the piece is convex along the way, and inside at both ends, it is not met in between. It is nowhere on the way
    // where both ends have the other sign.
    const Branch& p = pieces_[i];
    if (p.sign1 * held[0] <= 0.0 && p.sign1 * end[0] < 0.0) continue;
    if (p.sign2 * held[1] <= 0.0 && p.sign2 * end[1] < 0.0) continue;
    const double a = p.along(load, load), b = p.linear.dot(load) + 2.0 * p.along(load, held);
    const double c = p.constant + p.linear.dot(held) + p.along(held, held);
    if (a < 0.0 || c > 0.0 || !((a * factor + b) * factor + c < 0.0)) return false;
  }
  return true;
}

FailureMode FailureSurface::largest_term(const Vector3& s) const {
  for (std::size_t i = 0; i < count_; ++i) {
    const Branch& p = pieces_[i];
    if (!p.holds(s)) continue;
    const double terms[3] = {p.q11 * s[0] * s[0] + p.linear[0] * s[0], p.q22 * s[1] * s[1] + p.linear[1] * s[1],
                             p.q66 * s[2] * s[2]};
    const int most = terms[0] >= terms[1] && terms[0] >= terms[2] ? 0 : terms[1] >= terms[2] ? 1 : 2;
    return most == 2 ? by_term_[4] : by_term_[static_cast<std::size_t>(2 * most + (s[most] < 0.0 ? 1 : 0))];
  }
  return FailureMode::none;
}

double FailureSurface::index(const Vector3& stress) const {
  if (!sums_) {
    const double R = reserve(stress).factor;
    return std::isfinite(R) ? 1.0 / R : 0.0;
  }
  double out = 0.0;
  for (std::size_t i = 0; i < count_; ++i)
    if (const Branch& p = pieces_[i]; p.holds(stress))
      out = std::max(out, p.linear.dot(stress) + p.along(stress, stress));
  return out;
}

}  // namespace bordado::laminate
