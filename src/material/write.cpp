#include "library.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

namespace bordado::material {

namespace {

void write_elastic(std::string& text, const Material& material) {
  const Elastic& m = material.elastic;
  const auto line = [&](std::string_view key, double value) {
    text += fmt::format("{} = {}\n", key, toml_number(value));
  };
  if (is_isotropic(material.kind)) {
    line("E", m.E1);
    // Of nu and G the one that gives the other back to the last bit.
    isotropic(m.E1, m.nu12) == m ? line("nu", m.nu12) : line("G", m.G12);
    return;
  }
  if (material.kind == Kind::fibre) {
    line("E1", m.E1), line("E2", m.E2), line("nu12", m.nu12), line("G12", m.G12);
    m.E2 / (2.0 * (1.0 + m.nu23)) == m.G23 ? line("nu23", m.nu23) : line("G23", m.G23);
    return;
  }
  if (m.full || material.kind == Kind::anisotropic) {
    const Matrix6 C = stiffness(m);
    text += "C = [";
    for (Eigen::Index i = 0; i < 6; ++i) {
      text += i == 0 ? "[" : "], [";
      for (Eigen::Index j = i; j < 6; ++j) text += fmt::format("{}{}", j > i ? ", " : "", toml_number(C(i, j)));
    }
    text += "]]\n";
    return;
  }
  Elastic copy = m;
  constexpr std::string_view keys[] = {"E1", "E2", "E3", "nu12", "nu13", "nu23", "G12", "G13", "G23"};
  const auto values = nine(copy);
  for (std::size_t i = 0; i < 9; ++i) line(keys[i], *values[i]);
}

std::string nine_text(Elastic m) {
  std::string out;
  for (const double* const value : nine(m)) out += fmt::format("{}{}", out.empty() ? "" : ", ", toml_number(*value));
  return out;
}

}  // namespace

std::string toml_text(const Material& material) {
  std::string text = fmt::format("[material.{}]\nkind = \"{}\"\n", toml_key(material.name), name_of(material.kind));
  const auto word = [&](std::string_view key, std::string_view value) {
    if (!value.empty()) text += fmt::format("{} = {}\n", key, toml_string(value));
  };
  word("mark", material.mark);
  write_elastic(text, material);
  for (const Quantity& q : quantities()) {
    if (q.key[0] == 'E' || q.key[0] == 'G' || q.key.starts_with("nu")) continue;
    if (const auto value = q.get(material)) text += fmt::format("{} = {}\n", q.key, toml_number(*value));
  }
  word("weave", material.form.weave);
  if (material.cost)
    text += fmt::format("cost = \"{} {}/{}\"\n", material.cost->value, material.cost->currency,
                        material.cost->per == Cost::Per::mass ? "kg" : "m^2");
  if (!material.sheared.empty()) {
    text += "sheared = [";
    for (const Sheared& row : material.sheared)
      text += fmt::format("{}[{}, {}, {}, {}, {}]", &row == &material.sheared.front() ? "" : ", ", row.shear, row.E1,
                          row.E2, row.nu12, row.G12);
    text += "]\n";
  }
  if (material.yarns) {
    const auto three = [](std::string_view key, const std::optional<Vec3>& v) {
      return v ? fmt::format(", {} = [{}, {}, {}]", key, v->x(), v->y(), v->z()) : std::string();
    };
    text += fmt::format("yarns = {{ warp = [{}], weft = [{}], warp-share = {}{}{} }}\n",
                        nine_text(material.yarns->warp), nine_text(material.yarns->weft), material.yarns->warp_share,
                        three("alpha", material.yarns->thermal), three("beta", material.yarns->moisture));
  }
  word("made-of", material.made_of);
  word("note", material.note);
  return text;
}

std::string library_text(std::span<const Material> materials, const UnitSystem& units) {
  std::string text = fmt::format("units = {}\n", toml_string(units.name()));
  for (const Material& material : materials) text += "\n" + toml_text(material);
  return text;
}

namespace {

UnitSystem units_of_library(const std::string& text, const std::string& path) {
  try {
    const toml::table root = toml::parse(text, path);
    return UnitSystem::parse(root["units"].value_or(std::string()));
  } catch (const std::exception& trouble) {  // of the parser or of the units
    throw Failure({Severity::error, "part.units",
                   fmt::format("no material can be added to the file: {}", trouble.what()), Place::in(path),
                   "it needs units = \"mm, t, s\" at its top; see docs/materials.md"});
  }
}

}  // namespace

void write_materials(const std::string& path, std::span<const Material> materials, const UnitSystem& units,
                     Existing existing) {
  const bool xml = path.ends_with(".xml");
  if (!xml && !path.ends_with(".toml"))
    throw Failure({Severity::error,
                   "material.ending-unknown",
                   fmt::format("what format should '{}' have?", path),
                   {},
                   "name the file .toml for a library, .xml for MatML"});
  std::optional<FolderLock> lock;  // others may want to add at the same time
  if (existing == Existing::added_to) lock.emplace(path);
  std::string text;
  if (existing == Existing::added_to && std::filesystem::exists(path)) {
    text = read_file(path);
    const UnitSystem there = xml ? units : units_of_library(text, path);
    Findings findings, errors;
    Library library(there);
    library.add_text(text, path, findings);
    const std::vector<std::string> names = library.names();
    for (const Material& material : materials)
      if (std::find(names.begin(), names.end(), material.name) != names.end())
        errors.error("material.name-taken", fmt::format("the file has a material '{}' already", material.name),
                     Place::in(path), "choose another file, or take it out there");
    errors.throw_if_errors();
    if (xml) {
      text = matml_with(text, path, materials, units);
    } else {
      for (const Material& material : materials) text += "\n" + toml_text(in_units(material, units, there));
    }
  } else {
    text = xml ? matml_text(materials, units) : library_text(materials, units);
  }
  OutputFile file(path, existing == Existing::added_to ? MayReplace::the_one_read : MayReplace::the_one_named);
  file.write(text);
  file.commit();
}

}  // namespace bordado::material
