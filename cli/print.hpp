// How commands speak: findings, tables, colours only on a terminal, JSON on request.
#pragma once

#include <bordado/base/text.hpp>
#include <bordado/deck.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/care.hpp>

#include "outputs.hpp"

#include <CLI/CLI.hpp>
#include <nlohmann/json.hpp>

#include <string>
#include <vector>

namespace bordado::cli {

using Json = nlohmann::ordered_json;

/// Each command adds itself to the program and leaves its exit code: 0 fine, 1 errors in the part, 2 wrong use.
void add_surface(CLI::App& program, int& exit_code);
void add_drape(CLI::App& program, int& exit_code);
void add_ramps(CLI::App& program, int& exit_code);
void add_profile(CLI::App& program, int& exit_code);
void add_cut(CLI::App& program, int& exit_code);
void add_begin(CLI::App& program, int& exit_code);
void add_schema(CLI::App& program, int& exit_code);
void add_check(CLI::App& program, int& exit_code);
void add_zones(CLI::App& program, int& exit_code);
void add_frames(CLI::App& program, int& exit_code);
void add_at(CLI::App& program, int& exit_code);
void add_plies(CLI::App& program, int& exit_code);
void add_fields(CLI::App& program, int& exit_code);
void add_stack(CLI::App& program, int& exit_code);
void add_picture(CLI::App& program, int& exit_code);
void add_review(CLI::App& program, int& exit_code);
void add_diff(CLI::App& program, int& exit_code);
void add_laminate(CLI::App& program, int& exit_code);
void add_panel(CLI::App& program, int& exit_code);
void add_column(CLI::App& program, int& exit_code);
void add_material(CLI::App& program, int& exit_code);
void add_deck(CLI::App& program, int& exit_code);
void add_solve(CLI::App& program, int& exit_code);
void add_stress(CLI::App& program, int& exit_code);
void add_summary(CLI::App& program, int& exit_code);
void add_runs(CLI::App& program, int& exit_code);
void add_explain(CLI::App& program, int& exit_code);
/// In the order of --help.
inline constexpr void (*commands[])(CLI::App&, int&) = {
    add_surface, add_begin,    add_check,   add_zones,   add_drape,  add_ramps,   add_frames, add_at,       add_plies,
    add_fields,  add_stack,    add_profile, add_picture, add_review, add_diff,    add_cut,    add_laminate, add_panel,
    add_column,  add_material, add_deck,    add_solve,   add_stress, add_summary, add_runs,   add_explain,  add_schema};

/// A part file and the variant of it that is meant.
struct PartChoice {
  std::string file;
  std::optional<std::string> variant;
};
void add_part_option(CLI::App& command, PartChoice& choice);

/// How sections are made; see section::Options.
struct SectionChoice {
  double angle_tolerance = section::Options{}.angle_tolerance.degrees();
  double thickness_tolerance = 100.0 * section::Options{}.thickness_tolerance;  ///< per cent
  std::optional<std::size_t> most;
  std::optional<double> recorded_thickness = {};  ///< a share, as a record has it
  section::Options options() const {
    return {.angle_tolerance = Angle::degrees(angle_tolerance),
            .thickness_tolerance = recorded_thickness.value_or(0.01 * thickness_tolerance),
            .most_sections = most};
  }
};
void add_section_options(CLI::App& command, SectionChoice& choice);
void add_real_plies_option(CLI::App& command, bool& choice);

/// Shells, or solids that stand for them.
struct ModelChoice {
  std::string solids;  ///< "ply", "material" or a count; empty: shells
  bool rough = false;  ///< however far groups are off
  int constants = 0;   ///< 9 or 21 of every solid's material; 0: as it is
  std::optional<model::SolidOptions> options() const;
};
void add_model_options(CLI::App& command, ModelChoice& choice);
void add_rough_option(CLI::App& command, ModelChoice& choice);
/// What is wrong with such a word; empty where nothing is.
std::string solids_choice(const std::string& text);
/// The named cases, in the model's order; none: all. \throws Failure "case.unknown".
std::vector<std::size_t> cases_of(const model::Model& model, const std::vector<std::string>& names);

/// A place of a part: an element by its id, or the one whose centre is nearest to a point.
struct PlaceChoice {
  std::optional<std::int64_t> element;
  std::vector<double> point;
};
enum class Needed { yes, no };
void add_place_options(CLI::App& command, PlaceChoice& choice, Needed needed = Needed::yes);
/// \throws Failure "at.element-unknown"; warns "at.point-far".
mesh::ElementIndex element_at(const Design& design, const PlaceChoice& choice, Findings& findings);

/// Files of materials that the user has set up: BORDADO_MATERIALS, parted by colons.
std::vector<std::string> user_libraries();
/// Those given, then the user's, then the shipped ones.
material::Library open_library(const UnitSystem& units, std::span<const std::string> files, Findings& findings);
/// \throws Failure "material.unknown" with the nearest name.
material::Material material_named(const material::Library& library, const std::string& name);
/// \throws Failure "part.units".
UnitSystem units_named(const std::string& text, Findings& findings);
/// A part with the user's libraries.
Design open_part(const PartChoice& choice, Findings& findings, const section::Options& options = {},
                 const Progress& progress = {});

/// Ways to write text on a terminal; plain in a pipe, with NO_COLOR set, or with TERM=dumb.
enum class Style { plain, bold, dim, error, warning, note };
std::string styled(const std::string& text, Style style, int descriptor);

/// "skiff.toml:12:7" dim, severity coloured, remedy below.
void print_findings(const std::vector<Finding>& findings, std::FILE* stream);
/// "2 errors, 1 warning and 3 notes".
std::string tally(const Findings& findings);
Json to_json(const Finding& finding);
Json to_json(const std::vector<Finding>& findings);
Json to_json(const Vec3& vector);
Json to_json(const mesh::Size& size);

/// The names of the units that numbers are in: "length", "mass", "force", "stress", ...
Json to_json(const UnitSystem& units);
/// Prints the answer of a command: its name, units, what it has to say, findings. docs/json has a schema for each.
/// Bytes of a path that are no UTF-8 come out as a replacement mark.
void print_document(std::string_view command, const std::optional<UnitSystem>& units, const Json& body,
                    const Findings& findings);

/// A table with aligned columns; numbers to the right.
class TableText {
 public:
  explicit TableText(std::vector<std::string> head) : rows_{std::move(head)} {}
  void add(std::vector<std::string> row) {
    for (std::string& cell : row) cell = plain_text(cell);
    rows_.push_back(std::move(row));
  }
  void print(std::FILE* stream) const;

 private:
  std::vector<std::vector<std::string>> rows_;
};

/// Four significant digits without an exponent where that can be avoided.
std::string number(double value, int digits = 4);
/// Numbers with the same decimals, so many that the largest has `digits` significant ones.
std::vector<std::string> column(const std::vector<double>& values, int digits = 4);

/// Where a ply ends: its zone, and how its edge is moved against that: "doubler, +8 by ramp patch".
enum class Ramps { left_out, named };
std::string ends_text(const Design& design, part::PlyId ply, Ramps ramps);

/// Values in the units a person reads: kg, m^2, kg/m^2.
std::string mass_text(const UnitSystem& units, double mass);
std::string area_text(const UnitSystem& units, double area);
std::string areal_mass_text(const UnitSystem& units, double areal_mass);
std::string length_text(const UnitSystem& units, double length);
std::string point_text(const Vec3& point);

/// What other commands than check say: every warning, and the notes of their own step, those from `first` on.
std::vector<Finding> worth_saying(const Findings& findings, std::size_t first);

/// A progress line on stderr when that is a terminal, nothing otherwise.
Progress progress_line();

/// Whose answer it is, and how it is wanted.
struct Answering {
  std::string_view command;
  bool json;
};
/// Runs a command's body; a Failure is printed (or put out as JSON) and gives exit code 1.
int guarded(const Answering& answering, const std::function<int(Findings&)>& body);

}  // namespace bordado::cli
