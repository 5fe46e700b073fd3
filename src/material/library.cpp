#include "library.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <algorithm>

namespace bordado::material {

std::vector<std::pair<std::string, const toml::table*>> tables_in_order(const toml::table& all) {
  std::vector<std::pair<std::string, const toml::table*>> out;
  for (const auto& [name, node] : all)
    if (node.is_table()) out.emplace_back(name.str(), node.as_table());
  std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) {
    return a.second->source().begin.line < b.second->source().begin.line;
  });
  return out;
}

void Library::Impl::add_tables(std::shared_ptr<const toml::table> root, const std::string& file,
                               const UnitSystem& units_of_file) {
  const toml::table* const all = (*root)["material"].as_table();
  if (!all) return;
  for (const auto& [name, table] : tables_in_order(*all))
    entries.push_back({name, file, units_of_file, root, table, std::nullopt});
}

std::optional<std::size_t> Library::Impl::position(std::string_view name, std::size_t from) const {
  for (std::size_t i = from; i < entries.size(); ++i)
    if (entries[i].name == name) return i;
  return std::nullopt;
}

std::optional<Material> Library::Impl::find(const Declared<std::string>& name, std::size_t from, const std::string& who,
                                            Findings& errors) const {
  if (const auto at = position(name.value, from)) return make(*at, errors);
  std::vector<std::string> names;
  for (const Entry& entry : entries)
    if (entry.name != name.value && std::find(names.begin(), names.end(), entry.name) == names.end())
      names.push_back(entry.name);
  if (from > 0) {  // one of the same name further on: from a library, say
    errors.error("material.unknown",
                 fmt::format("{}: it is taken from '{}', and there is no other material of that name", who, name.value),
                 name.where, "take it from another one, or give its own numbers");
    return std::nullopt;
  }
  const auto near = nearest_name(name.value, names);
  errors.error(
      "material.unknown", fmt::format("{}: there is no material '{}'", who, name.value), name.where,
      near ? fmt::format("did you mean '{}'?", *near) : "declare it, or look at what there is: bordado material list");
  return std::nullopt;
}

std::optional<Material> Library::Impl::make(std::size_t at, Findings& errors) const {
  if (const auto known = made.find(at); known != made.end()) return known->second;
  const Entry& entry = entries[at];
  if (entry.ready) return made[at] = in_units(*entry.ready, entry.units, units);
  Table table(*entry.table, fmt::format("[material.{}]", entry.name), entry.file, entry.units, errors);
  if (!being_made.insert(at).second) {
    errors.error("material.circular", fmt::format("material '{}' is made from itself", entry.name), table.place(),
                 "one of the materials that it is made from must be given by its own numbers");
    return std::nullopt;
  }
  constexpr std::size_t deepest = 100;
  if (being_made.size() > deepest) {
    if (errors.all().empty() || errors.all().back().code != "material.too-deep")
      errors.error("material.too-deep",
                   fmt::format("material '{}' is taken from others by way of more than {}", entry.name, deepest),
                   table.place(), "take it from one of the first of them");
    being_made.erase(at);
    return std::nullopt;
  }
  const std::size_t errors_before = errors.all().size();
  const FindMaterial others = [&](const Declared<std::string>& name) -> std::optional<Material> {
    // A material may be taken from one of its own name further on: from a library, say.
    auto found = find(name, name.value == entry.name ? at + 1 : 0, table.name(), errors);
    if (found) found = in_units(*found, units, entry.units);
    return found;
  };
  auto out = read_material(table, entry.name, others);
  table.finish();
  being_made.erase(at);
  if (errors.all().size() > errors_before) out.reset();
  if (out) {
    if (const auto why = not_positive_definite(out->elastic)) {
      errors.error(
          "material.not-positive-definite", fmt::format("material '{}' cannot exist: {}", entry.name, *why), out->where,
          out->made_of.empty()
              ? "check units and that nu12 is the strain across for a stress along (nu21 = nu12 E2/E1 is the small one)"
              : "check what it is computed from, or choose another theory");
      out.reset();
    } else {
      out = in_units(*out, entry.units, units);
    }
  }
  return made[at] = out;
}

Library::Library(UnitSystem units) : impl_(std::make_shared<Impl>()) { impl_->units = std::move(units); }

namespace {

std::shared_ptr<const toml::table> parsed(std::string_view text, const std::string& path) {
  try {
    return std::make_shared<const toml::table>(parse_toml(text, path));
  } catch (const toml::parse_error& trouble) {
    throw Failure({Severity::error,
                   "part.toml",
                   fmt::format("the material library cannot be read as TOML: {}", trouble.description()),
                   {path, trouble.source().begin.line, trouble.source().begin.column, {}},
                   "see docs/materials.md"});
  }
}

}  // namespace

void Library::add_text(std::string_view text, const std::string& path, Findings& findings) {
  if (path.ends_with(".xml")) {
    for (Material& material : read_matml(text, path, impl_->units, findings))
      impl_->entries.push_back({material.name, path, impl_->units, nullptr, nullptr, material});
    return;
  }
  const auto root = parsed(text, path);
  Findings errors;
  UnitSystem units;
  Table head(*root, "the material library", path, units, errors);
  if (const auto named = head.text("units")) {
    try {
      units = UnitSystem::parse(named->value);
    } catch (const std::invalid_argument& trouble) {
      errors.error("part.units", fmt::format("units: {}", trouble.what()), named->where,
                   "name a length, a mass and a time unit, as units = \"mm, t, s\"");
    }
  }
  head.node("note");
  const bool laminates = head.node("laminate") != nullptr;
  for (const std::string_view key : {"material", "laminate"}) {
    if (!head.has(key) && (key == "laminate" || laminates)) continue;
    if (const toml::table* const all = head.table(key))
      for (const auto& [name, node] : *all)
        if (!node.is_table())
          errors.error("part.value", fmt::format("[{}.{}] should be a table", key, name.str()), head.place(node),
                       fmt::format("write [{}.{}] on a line of its own", key, name.str()));
  }
  head.finish();
  errors.throw_if_errors();
  impl_->add_tables(root, path, units);
  if (laminates)
    for (const auto& [name, table] : tables_in_order(*(*root)["laminate"].as_table()))
      impl_->laminates.push_back({name, path, units, root, table});
}

void Library::add_file(const std::string& path, Findings& findings) { add_text(read_file(path), path, findings); }

void Library::add_shipped() {
  Findings findings;
  add_text(shipped_text(), std::string(shipped_name), findings);
}

std::vector<std::string> Library::names() const {
  std::vector<std::string> out;
  for (const Impl::Entry& entry : impl_->entries)
    if (std::find(out.begin(), out.end(), entry.name) == out.end()) out.push_back(entry.name);
  return out;
}

std::optional<std::string> Library::file_of(std::string_view name) const {
  const auto at = impl_->position(name);
  return at ? std::optional(impl_->entries[*at].file) : std::nullopt;
}

std::optional<Material> Library::find(std::string_view name, Findings& errors) const {
  const auto at = impl_->position(name);
  return at ? impl_->make(*at, errors) : std::nullopt;
}

}  // namespace bordado::material
