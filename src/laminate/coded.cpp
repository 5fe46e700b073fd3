#include <bordado/laminate.hpp>

#include <fmt/format.h>

namespace bordado::laminate {

Coded stack_by_code(std::string_view code, std::span<const material::Material> given, const material::Library& library,
                    std::optional<double> thickness) {
  const std::vector<std::string> all = library.names();
  const auto marked = [&](std::string_view mark) -> std::optional<material::Material> {
    if (mark.empty() && !given.empty()) return given.front();
    for (const material::Material& m : given)
      if (m.mark == mark || m.name == mark) return m;
    Findings errors;
    for (const std::string& name : all)
      if (const auto found = library.find(name, errors); found && (found->mark == mark || name == mark)) return found;
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
      errors.error("part.mark-unknown", fmt::format("no material has the mark or name '{}'", ply.mark), {},
                   "give it with --material, or see bordado material list");
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
  return out;
}

}  // namespace bordado::laminate
