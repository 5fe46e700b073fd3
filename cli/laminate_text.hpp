// Stiffness, constants and layers of one laminate as tables and JSON, for at and laminate.
#pragma once

#include "print.hpp"

namespace bordado::cli {

Json matrix_json(const Eigen::MatrixXd& matrix);
/// A, B, D, H, engineering constants, couplings in words, free expansion and the solid equivalent.
Json laminate_json(const UnitSystem& units, std::span<const laminate::Layer> stack, double z0);
/// The same as text. \param about what 0° is, for the heading.
void print_laminate(const UnitSystem& units, std::span<const laminate::Layer> stack, double z0,
                    const std::string& about);

/// The inverse of A, B, D as text.
void print_compliance(const UnitSystem& units, std::span<const laminate::Layer> stack, double z0);

/// Options that say what a laminate carries.
struct LoadChoices {
  std::vector<double> N, M, Q;
  double temperature = 0.0, moisture = 0.0;
  bool any() const { return !N.empty() || !M.empty() || !Q.empty() || temperature != 0.0 || moisture != 0.0; }
  laminate::Load load() const;
};
void add_load_options(CLI::App& command, LoadChoices& choices);
/// Strains and stresses of each layer at bottom, middle and top.
/// \param names of the layers, first laid first.
void print_states(const UnitSystem& units, std::span<const laminate::Layer> stack, double z0,
                  const LoadChoices& choices, std::span<const std::string> names, bool from_top);
Json states_json(std::span<const laminate::Layer> stack, double z0, const LoadChoices& choices,
                 std::span<const std::string> names, bool from_top);

/// Options that write a laminate as one material of a solver.
struct WriteChoices {
  std::string path, name = "LAMINATE", format;
  std::int64_t id = 1;
  int constants = 0;  ///< 9 or 21; 0: as many as it has
  bool append = false;
};
void add_write_options(CLI::App& command, WriteChoices& choices);
/// Writes it where asked, and says so on stderr.
void write_equivalent(const UnitSystem& units, std::span<const laminate::Layer> stack, const WriteChoices& choices,
                      const std::string& made_of);

}  // namespace bordado::cli
