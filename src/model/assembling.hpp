// What the steps of assembling a model work on.
#pragma once

#include <bordado/model.hpp>

namespace bordado::model {

struct Assembling {
  Model& model;
  Findings& errors;
  Findings& findings;
};

/// What a support or load acts on; an error and nothing where there is no such thing. Warns of a point that is far.
/// \param who "[load.wind]".
std::optional<zone::Target> target_of(const part::ActsOn& on, const std::string& who, const part::Part& part,
                                      const mesh::Surface& surface, const layup::Layup& layup, Findings& errors,
                                      Findings& findings);

/// Whether a load can act on that; an error where it cannot.
bool fits(const part::Load& load, const zone::Target& target, Findings& errors);

/// How many times each declared load acts in each case, with all that the cases it combines bring. Findings:
/// "case.load-unknown", "case.circular", "case.factor".
std::vector<std::map<std::string, double>> shares_of_cases(const part::Part& part, Findings& errors);

void assemble_supports(const Assembling& on);
void assemble_loads(const Assembling& on);
/// Cases, with what has to be known of the part before a solver is asked.
void assemble_cases(const Assembling& on);

/// Warns of cores that run out steeply and are soft: "deck.soft-chamfer". \param surface as it came.
void report_chamfers(const Model& model, const mesh::Surface& surface, Findings& findings);

/// Mass per area of every element, with what is added.
std::vector<double> mass_per_area(const Model& model);

}  // namespace bordado::model
