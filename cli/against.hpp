// A chart of reserves against one or two numbers, for panel and column.
#pragma once

#include "by_hand_text.hpp"

#include <bordado/sweep.hpp>

#include <functional>

namespace bordado::cli {

struct AgainstChoice {
  std::vector<std::string> against;  ///< "core=5:40"
  std::string chart;
};
void add_against_options(CLI::App& command, AgainstChoice& choice);

/// A number that can vary, as --against names it.
struct Variable {
  /// "angle:2", "count:2:upper flange", "core", "a".
  std::string name;
  sizing::Varied varied;  ///< still without values
  double least = 0.0;     ///< values are above it, or are it where they are whole
  double most = 1e30;
  std::size_t laminate = 0;
  std::optional<sizing::StackChange> change;  ///< of that laminate; nothing: a length
};
/// A length, above nought.
Variable length_variable(std::string name, std::string words, double now, const UnitSystem& units);
/// What can be chosen of a laminate. \param wall a wall that has it; empty where there is only one laminate.
std::vector<Variable> laminate_variables(const NamedStack& stack, std::size_t laminate, const std::string& wall,
                                         const UnitSystem& units);

/// Those that vary, with their values. \throws Failure "against.form", "against.unknown", "against.range", all at once.
std::vector<Variable> varied_ones(const AgainstChoice& choice, std::span<const Variable> all);
/// The laminate with what varies of it, lengths by `set`; nothing where no layer would be left.
std::optional<laminate::Stack> stack_with(const laminate::Stack& stack, std::span<const Variable> chosen,
                                          std::span<const double> values,
                                          const std::function<void(const std::string& name, double value)>& set);
std::vector<sizing::Varied> varied_of(std::span<const Variable> chosen);

void print_sweep(const sizing::Sweep& sweep);
Json sweep_json(const std::optional<sizing::Sweep>& sweep);
/// Writes the chart where one is wanted.
void draw_chart(const AgainstChoice& choice, const sizing::Sweep& sweep, const std::string& title,
                const std::string& subtitle);

}  // namespace bordado::cli
