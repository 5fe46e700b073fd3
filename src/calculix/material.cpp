// Materials as CalculiX reads them.
#include "materials.hpp"
#include "steps.hpp"

#include <bordado/deck/writing.hpp>

#include <fmt/format.h>

#include <algorithm>

namespace bordado::calculix {

using material::Matrix6;

namespace {

bool expands(const material::Material& m) { return m.thermal.along || m.thermal.across || m.thermal.through; }

/// As a shell needs it: the same in the plane and in transverse shear, nothing between these and the thickness.
material::Elastic without_thickness_strain(const material::Elastic& elastic) {
  material::Elastic out = elastic;
  // Not nought itself: measured with this (docs/calculix.md).
  out.nu13 = out.nu23 = 1e-9;
  if (!elastic.full) return out;
  Matrix6 C = Matrix6::Zero();
  const laminate::Matrix3 Q = laminate::plane_stress_stiffness(elastic);
  const laminate::Matrix2 G = laminate::transverse_stiffness(elastic, Angle());
  constexpr int plane[] = {0, 1, 5}, across[] = {4, 3};  // of 11 22 33 23 13 12
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j) C(plane[i], plane[j]) = Q(i, j);
  for (int i = 0; i < 2; ++i)
    for (int j = 0; j < 2; ++j) C(across[i], across[j]) = G(i, j);
  C(2, 2) = (*elastic.full)(2, 2);
  out.full = C;
  return out;
}

}  // namespace

double stiffness_through(const material::Material& material) {
  const double own = material.elastic.full ? (*material.elastic.full)(2, 2) : material.elastic.E3;
  return material::is_core(material.kind) ? 1000.0 * own : own;
}
double stiffness_through(const ThreeLayers& three) {
  return std::max({three.Q[0].trace(), three.Q[1].trace(), three.Q[2].trace()}) / 4.0;
}

std::string material_text(const std::string& name, const material::Material& material, MaterialUse use) {
  material::Elastic m = use == MaterialUse::shell ? without_thickness_strain(material.elastic) : material.elastic;
  if (use == MaterialUse::shell) {
    m.E3 = stiffness_through(material);
    if (m.full) (*m.full)(2, 2) = m.E3;
  }
  std::string text = fmt::format("*MATERIAL, NAME={}\n", name);
  if (m.full) {
    // The solver's order: 1111, 1122, 2222, 1133, 2233, 3333, 1112, 2212, 3312, 1212, 1113, ..., 2323: by columns of
    // 11, 22, 33, 12, 13, 23; eight to a line.
    constexpr int ours[] = {0, 1, 2, 5, 4, 3};
    text += "*ELASTIC, TYPE=ANISO\n";
    int written = 0;
    for (int column = 0; column < 6; ++column)
      for (int row = 0; row <= column; ++row, ++written) {
        text += real((*m.full)(ours[row], ours[column]));
        text += written == 20 || written % 8 == 7 ? '\n' : ',';
      }
  } else {
    text += "*ELASTIC, TYPE=ENGINEERING CONSTANTS\n";
    const double nine[] = {m.E1, m.E2, m.E3, m.nu12, m.nu13, m.nu23, m.G12, m.G13, m.G23};
    for (int i = 0; i < 9; ++i) text += real(nine[i]) + (i == 7 || i == 8 ? "\n" : ",");
  }
  if (expands(material)) {
    const Vec3 a = material.thermal.all();
    const double shear = material.thermal.shear.value_or(0.0);
    text += fmt::format("*EXPANSION, TYPE={}", shear == 0.0 ? "ORTHO" : "ANISO");
    if (material.stress_free_temperature) text += fmt::format(", ZERO={}", real(*material.stress_free_temperature));
    text += fmt::format("\n{},{},{}", real(a[0]), real(a[1]), real(a[2]));
    // Order 11 22 33 12 13 23, the shear strains tensorial.
    text += shear == 0.0 ? "\n" : fmt::format(",{},0.,0.\n", real(0.5 * shear));
  }
  if (material.density) text += fmt::format("*DENSITY\n{}\n", real(*material.density));
  return text;
}

std::string expansion_by_number(std::span<const Vec3> by_case) {
  // The strain is alpha(T) T with T the number: alpha = strain / T there, straight in between. Nought at nought.
  std::string text = "*EXPANSION, TYPE=ANISO, ZERO=0.\n0.,0.,0.,0.,0.,0.,0.\n";
  for (std::size_t k = 0; k < by_case.size(); ++k) {
    const double number = static_cast<double>(k + 1);
    const Vec3 a = by_case[k] / number;
    text += fmt::format("{},{},0.,{},0.,0.,{}.\n", real(a[0]), real(a[1]), real(0.5 * a[2]), k + 1);
  }
  return text;
}

std::string heated_material(const std::string& name, const material::Material& material,
                            std::span<const Vec3> by_case) {
  material::Material cold = material;
  cold.thermal = {};
  std::string text = material_text(name, cold, MaterialUse::shell);
  return text + expansion_by_number(by_case);
}

std::string material_cards(const material::Material& material, std::int64_t) {
  return material_text(deck::solver_name(material.name), material, MaterialUse::solid);
}

bool has_material(std::string_view text, const material::Material& material, std::int64_t) {
  const std::string name = "NAME=" + deck::solver_name(material.name);
  return deck::any_material_line(text, [&](const std::vector<std::string>& fields) {
    return fields[0] == "*MATERIAL" && std::find(fields.begin(), fields.end(), name) != fields.end();
  });
}

std::string material_is(const material::Material& material, std::int64_t) {
  return fmt::format("material {}", deck::solver_name(material.name));
}

}  // namespace bordado::calculix
