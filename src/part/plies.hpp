// Lines of the ply list as they are written, and the plies that they make.
#pragma once

#include <bordado/part.hpp>

#include "../base/toml_table.hpp"

namespace bordado::part {

/// Reads one line; `table` is a line of [layup] plies, or a row of a CSV file.
PlyLine read_ply_line(Table& table, std::size_t number);
/// A slope "1:20" as run per rise; nothing, and an error, where it is none.
std::optional<double> read_slope(Table& table, std::string_view key);
/// Reads [ramp.NAME].
Ramp read_ramp(Table& table, const std::string& name);
/// Reads [drape.NAME].
Drape read_drape(Table& table, const std::string& name);
/// Reads what a core's 'chamfer' says; nothing, and errors, where that cannot be.
std::optional<Chamfer> read_chamfer(Table& table);
/// The same of 'scallop'.
std::optional<Scallop> read_scallop(Table& table);
/// Reads [laminate.NAME].
Laminate read_laminate(Table& table, const std::string& name);

/// Lines of a CSV file: one row of headings, which are the keys of a ply, then a line each. Parted by commas,
/// semicolons or tabs, whichever the headings have; with the latter two, numbers may have a decimal comma. Errors go to
/// `errors`.
std::vector<PlyLine> read_ply_csv(const std::string& path, const UnitSystem& units, Findings& errors);
/// The same from text in memory.
std::vector<PlyLine> ply_lines(std::string text, const std::string& path, const UnitSystem& units, Findings& errors);

/// What the list of plies wants to know of a material. A copy: the reader's list of materials grows while plies are
/// written out.
struct KnownMaterial {
  std::string name;
  material::Kind kind;
  bool has_thickness;
};
/// Materials by name and by mark, as the reader of a part knows them; nothing where there is none.
struct MaterialFinder {
  std::function<std::optional<KnownMaterial>(const std::string& name)> by_name;
  std::function<std::optional<KnownMaterial>(std::string_view mark)> by_mark;  ///< or name
  /// Laminates by name, those of libraries, too.
  std::function<std::optional<Laminate>(const std::string& name)> laminate;
  std::function<std::vector<std::string>()> laminates;
};

/// Writes the lines out: followers, laminates, codes, repeats, listing order, groups that are off. In laying order.
std::vector<Ply> write_out(const Part& part, const MaterialFinder& find, Findings& errors);

}  // namespace bordado::part
