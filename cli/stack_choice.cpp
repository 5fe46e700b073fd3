#include "stack_choice.hpp"

#include <bordado/part/stacks.hpp>

#include <fmt/format.h>

namespace bordado::cli {

void add_stack_options(CLI::App& command, StackChoice& choice) {
  command.add_option("--material", choice.materials, "Its material, by name; more of them for marks in the code");
  command.add_option("--thickness", choice.thickness, "Of plies whose material says none")->check(CLI::PositiveNumber);
  command.add_option("--library", choice.libraries,
                     "A file of materials and laminates (TOML), or of materials (MatML), looked into first");
  command.add_option("--units", choice.units, "Length, mass and time unit of numbers given and shown");
}

NamedStack CodedStack::named(double z0) const {
  NamedStack out{layers, {}, names, z0, code};
  for (const material::Material& m : materials) out.materials.push_back(&m);
  return out;
}

namespace {

/// By a code, or by the name of a laminate that a library has.
laminate::Coded layers_of(const StackChoice& choice, std::span<const material::Material> given,
                          const material::Library& library) {
  const std::vector<std::string> names = part::laminate_names(library);
  if (choice.code.find('[') != std::string::npos) {
    if (given.empty())
      throw Failure({Severity::error,
                     "laminate.no-material",
                     fmt::format("nothing says what '{}' is of", plain_text(choice.code)),
                     {},
                     "name a material with --material; bordado material list has names"});
    return laminate::stack_by_code(choice.code, given, library, choice.thickness);
  }
  Findings errors;
  const auto named = part::laminate_named(library, choice.code, errors);
  errors.throw_if_errors();
  if (named) return part::stack_of(*named, given, library, choice.thickness);
  const auto near = nearest_name(choice.code, names);
  throw Failure({Severity::error,
                 "laminate.unknown",
                 fmt::format("'{}' is no laminate code and no laminate of a library", plain_text(choice.code)),
                 {},
                 near ? fmt::format("did you mean '{}'?", *near)
                      : fmt::format("write \"[0/45/-45/90]s\", or one of {}", listed(names, 10))});
}

}  // namespace

CodedStack stack_of(const StackChoice& choice, const UnitSystem& units, Findings& findings) {
  const material::Library library = open_library(units, choice.libraries, findings);
  std::vector<material::Material> given;
  for (const std::string& name : choice.materials) given.push_back(material_named(library, name));
  const laminate::Coded coded = layers_of(choice, given, library);
  CodedStack out;
  out.layers = coded.layers;
  out.materials = coded.materials;
  for (const material::Material& m : coded.materials) {
    out.names.push_back(m.name);
    out.cores.push_back(material::is_core(m.kind));
  }
  if (choice.thickness && !coded.thickness_used)
    findings.warning(
        "laminate.thickness-unused",
        fmt::format("--thickness {:g} is not used: each material says its own thickness", *choice.thickness), {},
        "leave it out, or name a material without a thickness of its own");
  for (const std::string& name : coded.unused)
    findings.warning("laminate.material-unused", fmt::format("no layer is of '{}'", name), {},
                     fmt::format("behind an angle stands its mark or its name: [0{{{}}}]", name));
  out.code = choice.code;
  return out;
}

}  // namespace bordado::cli
