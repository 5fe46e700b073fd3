#include <bordado/laminate.hpp>

#include <fmt/format.h>

#include <algorithm>

namespace bordado::laminate {

Coded stack_by_code(std::string_view code, std::span<const material::Material> given, const material::Library& library,
                    std::optional<double> thickness) {
  // A mark is short and stands in many libraries: it means a material that was given. A name means what has it.
  const auto marked = [&](std::string_view mark) -> std::optional<material::Material> {
    if (mark.empty() && !given.empty()) return given.front();
    for (const bool by_name : {true, false})
      for (const material::Material& m : given)
        if ((by_name ? m.name : m.mark) == mark) return m;
    Findings errors;
    const std::vector<std::string> all = library.names();
    if (std::find(all.begin(), all.end(), mark) != all.end()) return library.find(std::string(mark), errors);
    if (!given.empty()) return std::nullopt;
    for (const std::string& name : all)
      if (const auto found = library.find(name, errors); found && found->mark == mark) return found;
    return std::nullopt;
  };
  const auto is_fabric = [&](std::string_view mark) {
    const auto found = marked(mark);
    return found && found->kind == material::Kind::fabric;
  };
  Coded out;
  Findings errors;
  for (const CodePly& ply : parse_code(code, is_fabric)) {
    const auto material = marked(ply.mark);
    if (!material) {
      std::vector<std::string> those;
      for (const material::Material& m : given)
        those.push_back(m.mark.empty() ? fmt::format("'{}' (no mark)", m.name)
                                       : fmt::format("'{}' (mark {})", m.name, m.mark));
      errors.error(
          "part.mark-unknown",
          fmt::format("no {} has the mark or name '{}'", given.empty() ? "material" : "material given", ply.mark) +
              (those.empty() ? "" : fmt::format(": given are {}", fmt::join(those, ", "))),
          {},
          "give it with --material, or write the name of one in braces: [0{NAME}]; bordado material list "
          "has names and marks");
      continue;
    }
    const auto same = [&](const material::Material& m) { return m.mark == ply.mark && m.name != material->name; };
    if (!ply.mark.empty() && material->mark == ply.mark && material->name != ply.mark)
      if (const auto other = std::find_if(given.begin(), given.end(), same); other != given.end()) {
        errors.error("part.mark-twice",
                     fmt::format("'{}' is the mark of '{}' and of '{}'", ply.mark, material->name, other->name), {},
                     "write the name in braces: [0{NAME}]");
        continue;
      }
    // What a material says of itself goes first: a foam in a code of thin plies stays as thick as it is.
    out.thickness_used = out.thickness_used || !material->thickness;
    const auto each = material->thickness ? material->thickness : thickness;
    if (!each) {
      errors.error("part.key-missing", fmt::format("material '{}' has no thickness", material->name), {},
                   "say it with --thickness");
      continue;
    }
    out.layers.push_back(layer_of(*material, *each, ply.angle));
    out.materials.push_back(*material);
  }
  errors.throw_if_errors();
  for (const material::Material& m : given)
    if (std::none_of(out.materials.begin(), out.materials.end(),
                     [&](const material::Material& used) { return used.name == m.name; }))
      out.unused.push_back(m.name);
  return out;
}

}  // namespace bordado::laminate
