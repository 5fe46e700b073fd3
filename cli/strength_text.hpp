// What a stack bears as tables, JSON and drawings, for at and laminate.
#pragma once

#include "laminate_text.hpp"

#include <bordado/strength.hpp>

namespace bordado::cli {

/// Options that say how strength is judged.
struct StrengthChoices {
  std::vector<std::string> criteria;
  bool discount = false;
  std::string envelope;  ///< a file
  std::string components = "Nx,Ny";
  std::vector<laminate::Criterion> chosen() const;
  bool any() const { return !criteria.empty() || discount || !envelope.empty(); }
};
void add_criterion_option(CLI::App& command, std::vector<std::string>& criteria);
/// The criteria of that name; the usual ones where there are none, of solids with what they tell besides.
std::vector<laminate::Criterion> criteria_named(const std::vector<std::string>& names, bool solids = false);
void add_strength_options(CLI::App& command, StrengthChoices& choices);

/// A stack by hand and how its layers are called.
struct NamedStack {
  std::span<const laminate::Layer> layers;
  std::vector<const material::Material*> materials;
  std::vector<std::string> names;  ///< of the layers, first laid first
  double z0 = 0.0;
  std::string title;
  laminate::Stack stack() const { return {{layers.begin(), layers.end()}, materials, z0}; }
};

/// Strengths that the criteria ask for and materials do not say, as "strength.missing" (a warning for each material).
/// \throws Failure "load.too-cold".
void check_warmed(const NamedStack& stack, const LoadChoices& load);
void find_missing(const NamedStack& stack, const StrengthChoices& choices, Findings& findings);

/// "carbon-ud (45°, layer 3)"; "bottom", "within", "face".
std::string layer_text(const NamedStack& stack, std::size_t layer);
std::string place_text(const laminate::Failing& failing);
Json failing_json(const NamedStack& stack, const laminate::Failing& failing);

/// What fails first under a load, and, where asked, what happens then.
void print_strength(const NamedStack& stack, const LoadChoices& load, const StrengthChoices& choices);
Json strength_json(const NamedStack& stack, const LoadChoices& load, const StrengthChoices& choices);

/// Writes failure envelopes where asked (.svg, .pdf, or .csv of their points), and says so on stderr.
void write_envelope(const NamedStack& stack, const UnitSystem& units, const LoadChoices& load,
                    const StrengthChoices& choices, Findings& findings);

}  // namespace bordado::cli
