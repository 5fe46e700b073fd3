// Materials as solvers read them.
#include "card.hpp"
#include "writers.hpp"

#include <fmt/format.h>
#include <Eigen/LU>

#include <algorithm>
#include <cctype>
#include <filesystem>
#include <functional>

namespace bordado::deck {

using material::Matrix6;

namespace {

std::string real(double value) { return field(value, 19); }

bool is_isotropic(const material::Elastic& e) {
  return !e.full && e.E1 == e.E2 && e.E1 == e.E3 && e.G12 == e.G13 && e.G12 == e.G23;
}

bool expands(const material::Material& m) { return m.thermal.along || m.thermal.across || m.thermal.through; }

}  // namespace

namespace {

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

std::string calculix_material(const std::string& name, const material::Material& material, MaterialUse use) {
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

std::string calculix_heated(const std::string& name, const material::Material& material,
                            std::span<const Vec3> by_case) {
  material::Material cold = material;
  cold.thermal = {};
  std::string text = calculix_material(name, cold, MaterialUse::shell);
  return text + expansion_by_number(by_case);
}

namespace {

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

bool bulk_data_shears_not(const material::Material& material) {
  const Vec3 a = material.thermal.all();
  return !as_orthotropic(material.elastic) || std::abs(material.thermal.shear.value_or(0.0)) > 1e-9 * a.norm();
}

std::string bulk_data_shell_material(std::int64_t id, const material::Material& material) {
  // Only the card of plane constants has a place for what couples pulling and shear, and for thermal shear.
  const bool plane = bulk_data_shears_not(material);
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
  card.real(material.density.value_or(0.0));
  if (expands(material)) {
    const Vec3 a = material.thermal.all();
    for (int i = 0; i < 6; ++i) card.real(i < 3 ? a[i] : i == 3 ? material.thermal.shear.value_or(0.0) : 0.0);
    if (material.stress_free_temperature) card.real(*material.stress_free_temperature);
  }
  return card.text();
}

std::string calculix_solid_material(const material::Material& material, std::int64_t) {
  return calculix_material(solver_name(material.name), material, MaterialUse::solid);
}

std::string bulk_data_materials(const material::Material& material, std::int64_t id) {
  return fmt::format("$ number {} for shells, {} for solids\n", id, id + 1) + bulk_data_shell_material(id, material) +
         bulk_data_solid_material(id + 1, material);
}

namespace {

const Format& known_format(std::string_view name) {
  if (const Format* const found = find_format(name)) return *found;
  std::vector<std::string> names;
  for (const Format& format : formats()) names.emplace_back(format.name);
  throw Failure({Severity::error,
                 "deck.format-unknown",
                 fmt::format("there is no deck format '{}'", name),
                 {},
                 fmt::format("formats: {}", listed(names))});
}

}  // namespace

std::string material_text(const material::Material& material, const UnitSystem& units, std::string_view format,
                          std::int64_t id, std::span<const std::string> remarks) {
  const Format& known = known_format(format);
  const std::string_view sign = known.remark;
  std::string text;
  text += fmt::format("{}material {}: {}\n", sign, material.name, name_of(material.kind));
  text += fmt::format("{}units: {} (stress {}, density {}), temperature in degC\n", sign, units.name(),
                      units.unit(Dimension::stress), units.unit(Dimension::density));
  if (!material.made_of.empty()) text += fmt::format("{}made of: {}\n", sign, material.made_of);
  if (!material.note.empty()) text += fmt::format("{}values: {}\n", sign, material.note);
  for (const std::string& remark : remarks) text += fmt::format("{}{}\n", sign, remark);
  for (char& c : text)
    if (static_cast<unsigned char>(c) < 0x20 && c != '\n') c = ' ';
  return text + known.material(material, id);
}

namespace {

/// Fields of a line between commas, or of eight columns, trimmed, in capitals.
std::vector<std::string> fields_of(std::string_view line) {
  std::vector<std::string> out;
  const auto add = [&](std::string_view field) {
    std::string word;
    for (const char c : field)
      if (c != ' ' && c != '\t' && c != '\r') word += static_cast<char>(std::toupper(static_cast<unsigned char>(c)));
    out.push_back(std::move(word));
  };
  if (line.find(',') != std::string_view::npos) {
    for (std::size_t at = 0; at <= line.size() && out.size() < 20;) {
      const std::size_t end = std::min(line.find(',', at), line.size());
      add(line.substr(at, end - at));
      at = end + 1;
    }
    return out;
  }
  add(line.substr(0, 8));
  const std::size_t width = out[0].find('*') != std::string::npos ? 16 : 8;
  if (line.size() > 8) add(line.substr(8, width));
  return out;
}

/// Whether a line that may declare a material is the one.
bool any_line(std::string_view deck, const std::function<bool(const std::vector<std::string>& fields)>& is) {
  for (std::size_t at = 0; at < deck.size();) {
    const std::size_t end = std::min(deck.find('\n', at), deck.size());
    const std::string_view line = deck.substr(at, end - at);
    at = end + 1;
    if (!line.empty() && (line[0] == '*' || line[0] == 'M' || line[0] == 'm') && is(fields_of(line))) return true;
  }
  return false;
}

}  // namespace

bool calculix_has_material(std::string_view deck, const material::Material& material, std::int64_t) {
  const std::string name = "NAME=" + solver_name(material.name);
  return any_line(deck, [&](const std::vector<std::string>& fields) {
    return fields[0] == "*MATERIAL" && std::find(fields.begin(), fields.end(), name) != fields.end();
  });
}

bool bulk_data_has_material(std::string_view deck, const material::Material&, std::int64_t id) {
  const std::string first = fmt::format("{}", id), second = fmt::format("{}", id + 1);
  return any_line(deck, [&](const std::vector<std::string>& fields) {
    const bool is_material = fields[0].size() > 3 && fields[0].starts_with("MAT") &&
                             std::isdigit(static_cast<unsigned char>(fields[0][3])) != 0;
    return is_material && fields.size() > 1 && (fields[1] == first || fields[1] == second);
  });
}

std::string calculix_material_is(const material::Material& material, std::int64_t) {
  return fmt::format("material {}", solver_name(material.name));
}

std::string bulk_data_material_is(const material::Material&, std::int64_t id) {
  return fmt::format("material with number {} or {}", id, id + 1);
}

void write_material(const std::string& path, const material::Material& material, const UnitSystem& units,
                    std::string_view format, std::int64_t id, std::span<const std::string> remarks, Existing existing) {
  const std::string text = material_text(material, units, format, id, remarks);
  std::optional<FolderLock> lock;  // others may want to add at the same time
  if (existing == Existing::added_to) lock.emplace(path);
  std::string before;
  if (existing == Existing::added_to && std::filesystem::exists(path)) {
    before = read_file(path);
    if (!before.empty() && before.back() != '\n') before += '\n';
    const Format& known = known_format(format);
    if (known.has_material(before, material, id))
      throw Failure({Severity::error, "deck.material-taken",
                     fmt::format("the file has a {} already", known.material_is(material, id)), Place::in(path),
                     "give another name or number"});
  }
  OutputFile file(path, existing == Existing::added_to ? MayReplace::the_one_read : MayReplace::the_one_named);
  file.write(before);
  file.write(text);
  file.commit();
}

}  // namespace bordado::deck
