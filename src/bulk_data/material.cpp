// Materials as bulk data.
#include "card.hpp"
#include "writers.hpp"

#include <bordado/deck/writing.hpp>

#include <fmt/format.h>

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

std::string shell_material(std::int64_t id, const material::Material& material) {
  // Only the card of plane constants has a place for what couples pulling and shear, and for thermal shear.
  const bool plane = shears_not(material);
  const material::Elastic e = plane ? material.elastic : *as_orthotropic(material.elastic);
  const auto expansion = [&](LargeCard& card) {
    if (!expands(material)) return;
    const Vec3 a = material.thermal.all();
    card.real(a[0]);
    if (plane || !is_isotropic(e)) card.real(a[1]);
    if (plane) card.real(material.thermal.shear.value_or(0.0));
    if (material.stress_free_temperature) card.real(*material.stress_free_temperature);
  };
  if (is_isotropic(e) && !plane) {
    LargeCard card("MAT1");
    card.integer(id).real(e.E1).real(e.G12).real(e.nu12).real(material.density.value_or(0.0));
    expansion(card);
    return card.text();
  }
  if (plane) {  // what couples plane and transverse shear has no place on a shell's card
    const laminate::Matrix3 Q = laminate::plane_stress_stiffness(e);
    LargeCard card("MAT2");
    card.integer(id).real(Q(0, 0)).real(Q(0, 1)).real(Q(0, 2)).real(Q(1, 1)).real(Q(1, 2)).real(Q(2, 2));
    card.real(material.density.value_or(0.0));
    expansion(card);
    return card.text();
  }
  LargeCard card("MAT8");
  card.integer(id).real(e.E1).real(e.E2).real(e.nu12).real(e.G12).real(e.G13).real(e.G23).real(
      material.density.value_or(0.0));
  expansion(card);
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
