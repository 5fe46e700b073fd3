// Laminates of libraries: named lists of angles, used with any material.
#include "plies.hpp"

#include <bordado/part/stacks.hpp>

#include "../material/library.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace bordado::part {

namespace {

/// Reading looks, and changes nothing that is not its own.
const material::Library::Impl& impl_of(const material::Library& library) {
  return const_cast<material::Library&>(library).impl();
}

}  // namespace

std::optional<Laminate> laminate_named(const material::Library& library, std::string_view name, Findings& errors) {
  const material::Library::Impl& impl = impl_of(library);
  for (const material::Library::Impl::LaminateEntry& entry : impl.laminates) {
    if (entry.name != name) continue;
    const std::size_t before = errors.all().size();
    Table table(*entry.table, fmt::format("[laminate.{}]", entry.name), entry.file, entry.units, errors);
    Laminate out = read_laminate(table, entry.name);
    table.finish();
    if (errors.all().size() > before) return std::nullopt;
    const double factor = entry.units.to_si(Dimension::length) / impl.units.to_si(Dimension::length);
    for (LaminateLine& line : out.lines)
      if (line.thickness) *line.thickness *= factor;
    return out;
  }
  return std::nullopt;
}

std::vector<std::string> laminate_names(const material::Library& library) {
  std::vector<std::string> out;
  for (const auto& entry : impl_of(library).laminates)
    if (std::find(out.begin(), out.end(), entry.name) == out.end()) out.push_back(entry.name);
  return out;
}

namespace {

/// The layers that a laminate lists, before they are repeated and mirrored.
laminate::Coded listed_layers(const Laminate& named, std::span<const material::Material> given,
                              const material::Library& library, std::optional<double> thickness) {
  laminate::Coded out;
  Findings errors;
  std::vector<std::uint8_t> used(given.size(), 0);
  for (const LaminateLine& line : named.lines) {
    std::optional<material::Material> material;
    if (line.material) {
      const auto own = std::find_if(given.begin(), given.end(),
                                    [&](const material::Material& m) { return m.name == line.material->value; });
      if (own != given.end()) used[static_cast<std::size_t>(own - given.begin())] = 1;
      material = own != given.end() ? std::optional(*own) : library.find(line.material->value, errors);
      if (!material && !errors.has_errors())
        errors.error("material.unknown",
                     fmt::format("laminate '{}': there is no material '{}'", named.name, line.material->value),
                     line.material->where, "bordado material list has names");
    } else if (!given.empty()) {
      material = given.front();
      used.front() = 1;
    }
    if (!material) {
      if (!errors.has_errors())
        errors.error("part.key-missing", fmt::format("a layer of laminate '{}' is of no material", named.name),
                     named.where, "say one with --material");
      continue;
    }
    const auto each = line.thickness ? line.thickness : material->thickness ? material->thickness : thickness;
    if (!line.thickness && !material->thickness) out.thickness_used = true;
    if (!each) {
      errors.error("part.key-missing", fmt::format("material '{}' has no thickness", material->name), named.where,
                   "say it with --thickness");
      break;
    }
    if (!line.angle && material::is_directional(material->kind)) {
      errors.error(
          "part.key-missing",
          fmt::format("a layer of laminate '{}' has no 'angle', and '{}' needs one", named.name, material->name),
          named.where, "add angle = 0");
      break;
    }
    out.layers.push_back(laminate::layer_of(*material, *each, line.angle.value_or(Angle())));
    out.materials.push_back(std::move(*material));
  }
  errors.throw_if_errors();
  for (std::size_t i = 0; i < given.size(); ++i)
    if (!used[i]) out.unused.push_back(given[i].name);
  return out;
}

/// The code's layers; what is wrong with it is said at its place.
laminate::Coded coded_layers(const Laminate& named, std::span<const material::Material> materials,
                             const material::Library& library, std::optional<double> thickness) {
  try {
    return laminate::stack_by_code(named.code->value, materials, library, thickness);
  } catch (const Failure& failure) {
    Findings errors;
    for (Finding finding : failure.findings()) {
      if (finding.where.file.empty()) finding.where = named.code->where;
      errors.add(std::move(finding));
    }
    errors.throw_if_errors();
    throw;
  }
}

}  // namespace

laminate::Coded stack_of(const Laminate& named, std::span<const material::Material> given,
                         const material::Library& library, std::optional<double> thickness) {
  // What is given goes before what the laminate itself says.
  std::vector<material::Material> materials(given.begin(), given.end());
  Findings errors;
  if (materials.empty() && named.material) {
    if (auto own = library.find(named.material->value, errors))
      materials.push_back(std::move(*own));
    else if (!errors.has_errors())
      errors.error("material.unknown",
                   fmt::format("laminate '{}': there is no material '{}'", named.name, named.material->value),
                   named.material->where, "bordado material list has names");
  }
  const bool framed = named.frame || std::any_of(named.lines.begin(), named.lines.end(),
                                                 [](const LaminateLine& line) { return line.frame.has_value(); });
  if (framed)
    errors.error("part.frame-unknown",
                 fmt::format("laminate '{}' has layers of a frame, which only a part has", named.name), named.where,
                 "use it in a part, or leave frames out");
  errors.throw_if_errors();
  if (materials.empty() && named.code)
    errors.error("part.key-missing", fmt::format("laminate '{}' says no material", named.name), named.where,
                 "say one with --material");
  errors.throw_if_errors();
  const laminate::Coded run = named.code ? coded_layers(named, materials, library, thickness)
                                         : listed_layers(named, materials, library, thickness);
  laminate::Coded out = run;
  constexpr std::size_t most_layers = 10'000;  // as of a code
  if (2 * run.layers.size() * static_cast<std::size_t>(named.repeat) > most_layers)
    throw Failure({Severity::error, "part.too-many-plies",
                   fmt::format("laminate '{}' has more than {} layers", named.name, most_layers), named.where,
                   "check 'repeat'"});
  for (int i = 1; i < named.repeat; ++i) {
    out.layers.insert(out.layers.end(), run.layers.begin(), run.layers.end());
    out.materials.insert(out.materials.end(), run.materials.begin(), run.materials.end());
  }
  if (named.mirror != Mirror::none)
    for (std::size_t i = out.layers.size() - (named.mirror == Mirror::odd && !out.layers.empty() ? 1 : 0); i-- > 0;) {
      out.layers.push_back(out.layers[i]);
      out.materials.push_back(out.materials[i]);
    }
  return out;
}

}  // namespace bordado::part
