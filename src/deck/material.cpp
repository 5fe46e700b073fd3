// Materials as solvers read them.
#include "card.hpp"
#include "writers.hpp"

#include <fmt/format.h>
#include <Eigen/LU>

#include <filesystem>
#include <regex>

namespace bordado::deck {

using material::Matrix6;

namespace {

std::string real(double value) { return field(value, 19); }

bool is_isotropic(const material::Elastic& e) {
  return !e.full && e.E1 == e.E2 && e.E1 == e.E3 && e.G12 == e.G13 && e.G12 == e.G23;
}

bool expands(const material::Material& m) { return m.thermal.along || m.thermal.across || m.thermal.through; }

}  // namespace

std::string calculix_material(const std::string& name, const material::Material& material) {
  const material::Elastic& m = material.elastic;
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
    text += "*EXPANSION, TYPE=ORTHO";
    if (material.stress_free_temperature) text += fmt::format(", ZERO={}", real(*material.stress_free_temperature));
    text += fmt::format("\n{},{},{}\n", real(a[0]), real(a[1]), real(a[2]));
  }
  if (material.density > 0.0) text += fmt::format("*DENSITY\n{}\n", real(material.density));
  return text;
}

std::string bulk_data_shell_material(std::int64_t id, const material::Material& material) {
  const material::Elastic& e = material.elastic;
  const auto expansion = [&](LargeCard& card) {
    if (!expands(material)) return;
    const Vec3 a = material.thermal.all();
    card.real(a[0]);
    if (!is_isotropic(e)) card.real(a[1]);
    if (e.full) card.real(0.0);
    if (material.stress_free_temperature) card.real(*material.stress_free_temperature);
  };
  if (is_isotropic(e)) {
    LargeCard card("MAT1");
    card.integer(id).real(e.E1).real(e.G12).real(e.nu12).real(material.density);
    expansion(card);
    return card.text();
  }
  if (e.full) {  // what couples plane and transverse shear has no place on a shell's card
    const laminate::Matrix3 Q = laminate::plane_stress_stiffness(e);
    LargeCard card("MAT2");
    card.integer(id).real(Q(0, 0)).real(Q(0, 1)).real(Q(0, 2)).real(Q(1, 1)).real(Q(1, 2)).real(Q(2, 2));
    card.real(material.density);
    expansion(card);
    return card.text();
  }
  LargeCard card("MAT8");
  card.integer(id).real(e.E1).real(e.E2).real(e.nu12).real(e.G12).real(e.G13).real(e.G23).real(material.density);
  expansion(card);
  return card.text();
}

namespace {

/// MAT9: 21 constants of a solid, order xx, yy, zz, xy, yz, zx.
std::string bulk_data_solid_material(std::int64_t id, const material::Material& material) {
  constexpr int ours[] = {0, 1, 2, 5, 3, 4};
  const Matrix6 C = material::stiffness(material.elastic);
  LargeCard card("MAT9");
  card.integer(id);
  for (int row = 0; row < 6; ++row)
    for (int column = row; column < 6; ++column) {
      const double value = C(ours[row], ours[column]);
      card.real(std::abs(value) < 1e-12 * C.norm() ? 0.0 : value);
    }
  card.real(material.density);
  if (expands(material)) {
    const Vec3 a = material.thermal.all();
    for (int i = 0; i < 6; ++i) card.real(i < 3 ? a[i] : 0.0);
    if (material.stress_free_temperature) card.real(*material.stress_free_temperature);
  }
  return card.text();
}

}  // namespace

std::string material_text(const material::Material& material, const UnitSystem& units, std::string_view format,
                          std::int64_t id, std::span<const std::string> remarks) {
  const bool calculix = format == "calculix";
  if (!calculix && format != "bulk-data")
    throw Failure({Severity::error,
                   "deck.format-unknown",
                   fmt::format("there is no deck format '{}'", format),
                   {},
                   "formats: calculix, bulk-data"});
  std::string text;
  const std::string sign = calculix ? "** " : "$ ";
  text += fmt::format("{}material {}: {}\n", sign, material.name, name_of(material.kind));
  text += fmt::format("{}units: {} (stress {}, density {}), temperature in degC\n", sign, units.name(),
                      units.unit(Dimension::stress), units.unit(Dimension::density));
  if (!material.made_of.empty()) text += fmt::format("{}made of: {}\n", sign, material.made_of);
  if (!material.note.empty()) text += fmt::format("{}values: {}\n", sign, material.note);
  for (const std::string& remark : remarks) text += fmt::format("{}{}\n", sign, remark);
  for (char& c : text)
    if (static_cast<unsigned char>(c) < 0x20 && c != '\n') c = ' ';
  if (calculix) return text + calculix_material(solver_name(material.name), material);
  return text + fmt::format("$ number {} for shells, {} for solids\n", id, id + 1) +
         bulk_data_shell_material(id, material) + bulk_data_solid_material(id + 1, material);
}

void write_material(const std::string& path, const material::Material& material, const UnitSystem& units,
                    std::string_view format, std::int64_t id, std::span<const std::string> remarks, Existing existing) {
  const std::string text = material_text(material, units, format, id, remarks);
  std::string before;
  if (existing == Existing::added_to && std::filesystem::exists(path)) {
    before = read_file(path);
    if (!before.empty() && before.back() != '\n') before += '\n';
    const std::string name = solver_name(material.name);
    const std::regex taken(format == "calculix"
                               ? fmt::format("(^|\\n)\\*MATERIAL *, *NAME *= *{} *(,|\\r?\\n|$)", name)
                               : fmt::format("(^|\\n)MAT[0-9]+(\\*? +|\\*? *, *)({}|{})( |,|\\r?\\n|$)", id, id + 1),
                           std::regex::icase);
    if (std::regex_search(before, taken))
      throw Failure({Severity::error, "deck.material-taken",
                     format == "calculix"
                         ? fmt::format("the file has a material {} already", name)
                         : fmt::format("the file has a material with number {} or {} already", id, id + 1),
                     Place::in(path), format == "calculix" ? "give another name" : "give another number"});
  }
  OutputFile file(path);
  file.write(before);
  file.write(text);
  file.commit();
}

}  // namespace bordado::deck
