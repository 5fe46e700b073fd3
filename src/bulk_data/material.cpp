// Materials as bulk data.
#include "card.hpp"
#include "writers.hpp"

#include <bordado/deck/writing.hpp>

#include <fmt/format.h>
#include <Eigen/LU>
#include <Eigen/SVD>

#include <algorithm>
#include <cctype>

namespace bordado::bulk_data {

using material::Matrix6;

namespace {

bool is_isotropic(const material::Elastic& e) {
  return !e.full && e.E1 == e.E2 && e.E1 == e.E3 && e.G12 == e.G13 && e.G12 == e.G23;
}

bool expands(const material::Material& m) { return m.thermal.along || m.thermal.across || m.thermal.through; }

/// The constants of a shell that bends and shears as one of 21 constants does, where its axes are those of an orthotropic one.
std::optional<material::Elastic> as_orthotropic(const material::Elastic& e) {
  if (!e.full) return e;
  const laminate::Matrix3 Q = laminate::plane_stress_stiffness(e);
  const laminate::Matrix2 G = laminate::transverse_stiffness(e, Angle());
  const double couples = std::max(std::abs(Q(0, 2)), std::abs(Q(1, 2)));
  if (couples > 1e-9 * Q.norm() || std::abs(G(0, 1)) > 1e-9 * G.norm()) return std::nullopt;
  material::Elastic out = e;
  out.full.reset();
  out.E1 = Q(0, 0) - Q(0, 1) * Q(0, 1) / Q(1, 1);
  out.E2 = Q(1, 1) - Q(0, 1) * Q(0, 1) / Q(0, 0);
  out.nu12 = Q(0, 1) / Q(1, 1);
  out.G12 = Q(2, 2);
  out.G13 = G(0, 0);
  out.G23 = G(1, 1);
  return out;
}

}  // namespace

bool shears_not(const material::Material& material) {
  const Vec3 a = material.thermal.all();
  return !as_orthotropic(material.elastic) || std::abs(material.thermal.shear.value_or(0.0)) > 1e-9 * a.norm();
}

namespace {

struct Word {
  laminate::Criterion criterion;
  std::string_view word;
};
constexpr std::array<Word, 4> words_for = {{{laminate::Criterion::tsai_hill, "HILL"},
                                            {laminate::Criterion::hoffman, "HOFF"},
                                            {laminate::Criterion::tsai_wu, "TSAI"},
                                            {laminate::Criterion::maximum_strain, "STRN"}}};

bool has_all(const material::StrainLimits& e) { return e.e1t && e.e1c && e.e2t && e.e2c && e.g12; }
bool has_all(const material::Strength& s) { return s.Xt && s.Xc && s.Yt && s.Yc && s.S12; }
bool judged_by_strains(const material::Material& m, std::optional<laminate::Criterion> by) {
  return by == laminate::Criterion::maximum_strain && has_all(m.strain_limits);
}

/// The fields that begin with a tension strength: for all directions, or along 1 and along 2.
void write_strengths(LargeCard& card, const material::Material& m, std::optional<laminate::Criterion> by,
                     bool directions) {
  const material::Strength& s = m.strength;
  if (!directions) {
    if (!s.Xt) return;
    card.blank().real(*s.Xt).real(s.Xc.value_or(*s.Xt)).real(s.S12.value_or(*s.Xt / std::sqrt(3.0)));
    return;
  }
  const material::StrainLimits& e = m.strain_limits;
  const bool strains = judged_by_strains(m, by);
  if (strains)
    card.real(*e.e1t).real(*e.e1c).real(*e.e2t).real(*e.e2c).real(*e.g12);
  else if (has_all(s))
    card.real(*s.Xt).real(*s.Xc).real(*s.Yt).real(*s.Yc).real(*s.S12);
  else
    return;
  card.blank();  // damping
  if (strains)
    card.blank().real(1.0);
  else
    card.real(m.interaction.F12.value_or(-0.5) / std::sqrt(*s.Xt * *s.Xc * *s.Yt * *s.Yc));
}

}  // namespace

std::string_view word_for(laminate::Criterion criterion) {
  for (const Word& one : words_for)
    if (one.criterion == criterion) return one.word;
  return {};
}

std::span<const laminate::Criterion> judges() {
  static constexpr auto all = [] {
    std::array<laminate::Criterion, words_for.size()> out{};
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = words_for[i].criterion;
    return out;
  }();
  return all;
}

std::string_view missing_for_cards(laminate::Criterion criterion, const material::Material& m) {
  if (shears_not(m)) return "a card with strengths for what couples pulling and shear";
  const material::Strength& s = m.strength;
  if (is_isotropic(*as_orthotropic(m.elastic))) return s.Xt ? "" : "Xt";
  if (judged_by_strains(m, criterion)) return {};
  return !s.Xt ? "Xt" : !s.Xc ? "Xc" : !s.Yt ? "Yt" : !s.Yc ? "Yc" : !s.S12 ? "S12" : "";
}

std::optional<double> bond_strength(const material::Material& m) {
  std::optional<double> out;
  for (const std::optional<double>& one : {m.strength.S13, m.strength.S23})
    if (one) out = std::min(out.value_or(*one), *one);
  return out ? out : material::is_isotropic(m.kind) ? m.strength.S12 : std::nullopt;
}

Homogenised homogenised(std::span<const laminate::Layer> layers, double bottom, std::optional<double> stress_free) {
  using laminate::Matrix3;
  using laminate::Vector3;
  const laminate::Stiffness k = laminate::stiffness(layers, bottom);
  const double T = laminate::thickness(layers), far = std::max(std::abs(bottom), std::abs(bottom + T));
  Homogenised out;
  out.G = {k.A / T, 12.0 * k.D / (T * T * T), Matrix3::Zero(), -k.B / (T * T)};
  out.G[2].topLeftCorner<2, 2>() = k.H / T;
  out.density = laminate::areal_mass(layers) / T;
  out.stress_free = stress_free;
  out.couples = k.B.norm() > 1e-9 * k.A.norm() * T;
  // What holds it per kelvin, and per kelvin and length of a gradient from the mesh on.
  const auto [N, M] = laminate::held_expansion(layers, bottom, laminate::Expands::by_temperature);
  Vector3 by_gradient = Vector3::Zero();
  double z = bottom, pushes = 0.0;
  for (const laminate::Layer& layer : layers) {
    const double t = layer.thickness, middle = z + 0.5 * t;
    const Vector3 push = laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle) *
                         laminate::free_strain(layer, laminate::Expands::by_temperature);
    by_gradient += t * (middle * middle + t * t / 12.0) * push;
    pushes += t * push.norm();
    z += t;
  }
  out.expansion = {k.A.inverse() * N, k.D.inverse() * by_gradient, Vector3::Zero(), Vector3::Zero()};
  if (out.couples) {
    // Where coupling is next to nothing no expansion makes the moment; the card's digits would not hold it.
    Eigen::JacobiSVD<Matrix3> svd(k.B, Eigen::ComputeFullU | Eigen::ComputeFullV);
    svd.setThreshold(1e-4);
    out.expansion[3] = svd.solve(M);
  }
  if (pushes > 0.0) out.moment_unsaid = (M - k.B * out.expansion[3]).norm() / (pushes * far);
  return out;
}

std::string Homogenised::card(std::size_t which, std::int64_t id) const {
  const laminate::Matrix3& Q = G[which];
  const double least = 1e-12 * Q.norm();
  const auto value = [&](int i, int j) { return std::abs(Q(i, j)) < least ? 0.0 : Q(i, j); };
  LargeCard out("MAT2");
  out.integer(id).real(value(0, 0)).real(value(0, 1)).real(value(0, 2)).real(value(1, 1)).real(value(1, 2));
  if (which == 2)
    out.blank();
  else
    out.real(value(2, 2));
  out.real(which == 0 ? density : 0.0);
  if (expansion[which].norm() == 0.0) return out.text();
  out.real(expansion[which][0]).real(expansion[which][1]).real(expansion[which][2]);
  if (stress_free) out.real(*stress_free);
  return out.text();
}

std::string shell_material(std::int64_t id, const material::Material& material,
                           std::optional<laminate::Criterion> judged_by) {
  // Only the card of plane constants has a place for what couples pulling and shear, and for thermal shear.
  const bool plane = shears_not(material);
  const material::Elastic e = plane ? material.elastic : *as_orthotropic(material.elastic);
  const bool isotropic = is_isotropic(e) && !plane;
  const auto expansion_and_strength = [&](LargeCard& card) {
    const bool strong = isotropic ? material.strength.Xt.has_value()
                                  : !plane && (has_all(material.strength) || judged_by_strains(material, judged_by));
    if (expands(material)) {
      const Vec3 a = material.thermal.all();
      card.real(a[0]);
      if (!isotropic) card.real(a[1]);
      if (plane) card.real(material.thermal.shear.value_or(0.0));
    } else if (strong) {
      card.blank();
      if (!isotropic) card.blank();
    }
    if (expands(material) && material.stress_free_temperature)
      card.real(*material.stress_free_temperature);
    else if (strong)
      card.blank();
    if (strong) write_strengths(card, material, judged_by, !isotropic);
  };
  if (isotropic) {
    LargeCard card("MAT1");
    card.integer(id).real(e.E1).real(e.G12).real(e.nu12).real(material.density.value_or(0.0));
    expansion_and_strength(card);
    return card.text();
  }
  if (plane) {  // what couples plane and transverse shear has no place on a shell's card
    const laminate::Matrix3 Q = laminate::plane_stress_stiffness(e);
    LargeCard card("MAT2");
    card.integer(id).real(Q(0, 0)).real(Q(0, 1)).real(Q(0, 2)).real(Q(1, 1)).real(Q(1, 2)).real(Q(2, 2));
    card.real(material.density.value_or(0.0));
    expansion_and_strength(card);
    return card.text();
  }
  LargeCard card("MAT8");
  card.integer(id).real(e.E1).real(e.E2).real(e.nu12).real(e.G12).real(e.G13).real(e.G23).real(
      material.density.value_or(0.0));
  expansion_and_strength(card);
  return card.text();
}

/// Order xx, yy, zz, xy, yz, zx.
std::string solid_material(std::int64_t id, const material::Material& material) {
  constexpr int ours[] = {0, 1, 2, 5, 3, 4};
  const Matrix6 C = material::stiffness(material.elastic);
  LargeCard card("MAT9");
  card.integer(id);
  for (int row = 0; row < 6; ++row)
    for (int column = row; column < 6; ++column) {
      const double value = C(ours[row], ours[column]);
      card.real(std::abs(value) < 1e-12 * C.norm() ? 0.0 : value);
    }
  card.real(material.density.value_or(0.0));
  if (expands(material)) {
    const Vec3 a = material.thermal.all();
    for (int i = 0; i < 6; ++i) card.real(i < 3 ? a[i] : i == 3 ? material.thermal.shear.value_or(0.0) : 0.0);
    if (material.stress_free_temperature) card.real(*material.stress_free_temperature);
  }
  return card.text();
}

std::string material_cards(const material::Material& material, std::int64_t id) {
  return fmt::format("$ number {} for shells, {} for solids\n", id, id + 1) + shell_material(id, material) +
         solid_material(id + 1, material);
}

bool has_material(std::string_view text, const material::Material&, std::int64_t id) {
  const std::string first = fmt::format("{}", id), second = fmt::format("{}", id + 1);
  return deck::any_material_line(text, [&](const std::vector<std::string>& fields) {
    const bool is_material = fields[0].size() > 3 && fields[0].starts_with("MAT") &&
                             std::isdigit(static_cast<unsigned char>(fields[0][3])) != 0;
    return is_material && fields.size() > 1 && (fields[1] == first || fields[1] == second);
  });
}

std::string material_is(const material::Material&, std::int64_t id) {
  return fmt::format("material with number {} or {}", id, id + 1);
}

}  // namespace bordado::bulk_data
