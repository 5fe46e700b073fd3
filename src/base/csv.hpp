// Tables of numbers as text.
#pragma once

#include <bordado/base/vector.hpp>

namespace bordado {

/// A path as the part file writes it: from the folder of the part file unless absolute.
std::string beside(const std::string& part_file, const std::string& path);

/// Rows of numbers, parted by commas, semicolons or blanks; lines that begin with '#' and one line of headings are
/// passed over. \throws Failure "file.*", "part.csv" with the line.
struct Csv {
  std::vector<std::string> headings;  ///< where there are any
  std::vector<std::vector<double>> rows;
};
Csv read_csv(const std::string& path, std::size_t least_columns);

/// A cell of a table that says this text: in quotes where it needs them, and with an apostrophe before what a spreadsheet
/// would else compute ("=1+2", "@sum", "-name"). Numbers stay as they are. csv_text() takes the apostrophe away again.
std::string csv_cell(std::string_view text);
/// What a cell says that csv_cell() or a spreadsheet wrote, its quotes already taken away.
std::string csv_text(std::string_view cell);

/// The first three columns.
std::vector<Vec3> read_points_csv(const std::string& path);

}  // namespace bordado
