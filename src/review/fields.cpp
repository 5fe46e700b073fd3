#include <bordado/design.hpp>
#include <bordado/review/fields.hpp>

#include <fmt/format.h>

#include <algorithm>

namespace bordado::review {

namespace {

/// A number of each section, on every element.
std::vector<double> by_section(const Design& design, const std::function<double(section::SectionId)>& value) {
  std::vector<double> each, out;
  for (const section::SectionId s : design.sections.ids()) each.push_back(value(s));
  out.reserve(design.sections.section_of.size());
  for (const section::SectionId s : design.sections.section_of) out.push_back(each[index(s)]);
  return out;
}

mesh::Array vectors(std::string name, std::span<const Vec3> values) {
  mesh::Array out{std::move(name), false, 3, {}};
  out.values.reserve(3 * values.size());
  for (const Vec3& v : values) out.values.insert(out.values.end(), v.begin(), v.end());
  return out;
}

}  // namespace

namespace {

/// The fibre direction of a ply where it lies, nought elsewhere.
std::vector<double> fibres(const Design& design, part::PlyId p) {
  std::vector<double> out(3 * design.surface.element_count(), 0.0);
  parallel_blocks(design.surface.element_count(), [&](std::size_t begin, std::size_t end) {
    for (std::size_t e = begin; e < end; ++e) {
      const auto element = static_cast<mesh::ElementIndex>(e);
      if (!design.layup.lies_on(p, element)) continue;
      const Vec3 fibre = design.layup.fibre(p, element, design.geometry.normals[e]);
      std::copy(fibre.begin(), fibre.end(), out.begin() + static_cast<std::ptrdiff_t>(3 * e));
    }
  });
  return out;
}

/// 1 inside, 0 outside.
std::vector<double> inside(const Design& design, zone::ZoneId z) {
  std::vector<double> out(design.surface.element_count(), 0.0);
  for (const mesh::ElementIndex e : design.layup.zones.elements(z)) out[e] = 1.0;
  return out;
}

/// Where thickness varies it is known on every element: better than by sections.
void for_what_varies(const Design& design, mesh::Array& thickness, mesh::Array& bottom, mesh::Array& mass) {
  const layup::Layup& layup = design.layup;
  if (std::none_of(layup.varies.begin(), layup.varies.end(), [](auto varies) { return varies != 0; })) return;
  const double to_si = design.part.units.to_si(Dimension::areal_mass);
  parallel_blocks(layup.stack_of.size(), [&](std::size_t begin, std::size_t end) {
    layup::LayersOn layers_on(design);
    for (std::size_t e = begin; e < end; ++e) {
      if (!layup.varies[layup.stack_of[e]]) continue;
      const auto layers = layers_on(static_cast<mesh::ElementIndex>(e));
      double areal = 0.0;
      for (const layup::LaidLayer& layer : layers)
        areal += layer.thickness * design.part.materials[layer.material].density.value_or(0.0);
      bottom.values[e] = layers.front().bottom;
      thickness.values[e] = layers.back().bottom + layers.back().thickness - layers.front().bottom;
      mass.values[e] = areal * to_si;
    }
  });
}

}  // namespace

std::vector<mesh::Array> fields(const Design& design, Plies plies) {
  const part::Part& part = design.part;
  const section::Sections& sections = design.sections;
  const std::string length = part.units.unit(Dimension::length), line = part.units.unit(Dimension::line_force);
  const std::string moment = part.units.unit(Dimension::force) + " " + length;
  std::vector<mesh::Array> out;
  const auto add = [&](std::string name, const std::function<double(section::SectionId)>& value) {
    out.push_back({std::move(name), false, 1, by_section(design, value)});
  };
  List<section::SectionId, laminate::Stiffness> about_middle;
  for (const section::SectionId s : sections.ids())
    about_middle.push_back(laminate::stiffness(section::laminate_of(part, sections, s), -0.5 * sections.thickness[s]));
  add("section", [](section::SectionId s) { return index(s) + 1.0; });
  add("laminate", [&](section::SectionId s) { return index(sections.stack[s]) + 1.0; });
  add("plies", [&](section::SectionId s) { return static_cast<double>(sections.layers_of(s).size()); });
  const std::size_t first_exact = out.size();
  add("thickness " + length, [&](section::SectionId s) { return sections.thickness[s]; });
  add("bottom z " + length, [&](section::SectionId s) { return sections.bottom[s]; });
  add("mass per area kg/m^2", [&](section::SectionId s) {
    return laminate::areal_mass(section::laminate_of(part, sections, s)) * part.units.to_si(Dimension::areal_mass);
  });
  for_what_varies(design, out[first_exact], out[first_exact + 1], out[first_exact + 2]);
  constexpr const char* names[] = {"11", "22", "66"};
  for (int i = 0; i < 3; ++i) {
    add(fmt::format("A{} {}", names[i], line), [&](section::SectionId s) { return about_middle[s].A(i, i); });
    add(fmt::format("D{} about the middle {}", names[i], moment),
        [&](section::SectionId s) { return about_middle[s].D(i, i); });
  }
  // Of the ply: a section's own is, of draped cloth, one behind those of the part.
  const auto of_ply = [&](const section::LaidLayer& layer) {
    return index(design.layup.plies[layer.ply].material) + 1.0;
  };
  add("bottom material", [&](section::SectionId s) { return of_ply(sections.layers_of(s).front()); });
  add("top material", [&](section::SectionId s) { return of_ply(sections.layers_of(s).back()); });
  if (!sections.off.empty()) {
    mesh::Array off{"section off by %", false, 1, {}};
    for (const float share : sections.off) off.values.push_back(100.0 * static_cast<double>(share));
    out.push_back(std::move(off));
  }
  out.push_back(vectors("normal", design.geometry.normals));
  out.push_back(vectors("0 degrees", sections.references));
  for (const zone::ZoneId z : design.layup.zones.declared()) {
    out.push_back({"zone " + design.layup.zones.names[z], false, 1, {}, [&design, z] { return inside(design, z); }});
  }
  if (plies == Plies::left_out) return out;
  for (const part::PlyId p : design.layup.plies.ids()) {
    out.push_back({"ply " + part.plies[p].id, false, 3, {}, [&design, p] { return fibres(design, p); }});
  }
  return out;
}

}  // namespace bordado::review
