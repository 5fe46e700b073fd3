// A laminate that is given on the command line: its code and its materials.
#pragma once

#include "strength_text.hpp"

namespace bordado::cli {

struct StackChoice {
  std::string code, units = "mm, t, s";
  std::vector<std::string> materials, libraries;
  std::optional<double> thickness;
};
/// Without the code itself.
void add_stack_options(CLI::App& command, StackChoice& choice);

struct CodedStack {
  std::vector<laminate::Layer> layers;
  std::vector<material::Material> materials;  ///< of each layer
  std::vector<std::string> names;             ///< of these
  std::vector<bool> cores;
  std::string code;  ///< of a named laminate its name
  NamedStack named(double z0) const;
};
/// \throws Failure as laminate::stack_by_code(). Warns of what is given and not used.
CodedStack stack_of(const StackChoice& choice, const UnitSystem& units, Findings& findings);

}  // namespace bordado::cli
