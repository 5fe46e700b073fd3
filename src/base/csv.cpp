#include "csv.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/findings.hpp>

#include <csv.h>

#include <fmt/format.h>

#include <charconv>
#include <cmath>
#include <filesystem>

namespace bordado {

std::string beside(const std::string& part_file, const std::string& path) {
  if (std::filesystem::path(path).is_absolute()) return path;
  return (std::filesystem::path(part_file).parent_path() / path).string();
}

Csv read_csv(const std::string& path, std::size_t least_columns) {
  const std::string text = read_file(path);
  Csv out;
  Findings errors;
  std::size_t number = 0;
  for (std::size_t at = 0; at < text.size() && errors.all().size() < 20;) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    const std::string_view line = std::string_view(text).substr(at, end - at);
    at = end + 1;
    ++number;
    std::vector<std::string_view> words;
    for (std::size_t from = 0; from < line.size();) {
      const std::size_t begin = line.find_first_not_of(",; \t\r", from);
      if (begin == std::string_view::npos) break;
      const std::size_t stop = std::min(line.find_first_of(",; \t\r", begin), line.size());
      words.push_back(line.substr(begin, stop - begin));
      from = stop;
    }
    if (words.empty() || words[0].starts_with('#')) continue;
    std::vector<double> row;
    std::string_view strange;
    for (std::string_view word : words) {
      if (word.starts_with('+')) word.remove_prefix(1);
      double value = 0.0;
      const auto [stop, error] = std::from_chars(word.data(), word.data() + word.size(), value);
      if ((error != std::errc{} || stop != word.data() + word.size() || !std::isfinite(value)) && strange.empty())
        strange = word;
      row.push_back(value);
    }
    const Place where{path, number, {}, {}};
    if (!strange.empty() && out.rows.empty() && out.headings.empty())
      out.headings.assign(words.begin(), words.end());
    else if (!strange.empty())
      errors.error("part.csv", fmt::format("'{}' stands where a number should", strange.substr(0, 24)), where);
    else if (row.size() < least_columns)
      errors.error("part.csv", fmt::format("the line has {} numbers; {} are needed", row.size(), least_columns), where);
    else
      out.rows.push_back(std::move(row));
  }
  if (errors.all().empty() && out.rows.empty())
    errors.error("part.csv", "the table has no lines of numbers", Place::in(path),
                 fmt::format("write {} numbers to a line, parted by commas", least_columns));
  errors.throw_if_errors();
  return out;
}

std::vector<Vec3> read_points_csv(const std::string& path) {
  std::vector<Vec3> out;
  for (const std::vector<double>& row : read_csv(path, 3).rows) out.emplace_back(row[0], row[1], row[2]);
  return out;
}

namespace {

/// Whether a spreadsheet would compute it.
bool computes(std::string_view text) {
  if (text.size() < 2) return false;
  if (text[0] == '=' || text[0] == '@') return true;
  if (text[0] != '+' && text[0] != '-') return false;
  double value = 0.0;
  const auto [stop, error] = std::from_chars(text.data() + 1, text.data() + text.size(), value);
  return error != std::errc{} || stop != text.data() + text.size() || text[1] == '-' || !std::isfinite(value);
}

/// Behind any apostrophes, so that a name that begins with one comes back, too.
bool guarded(std::string_view text) {
  return computes(text.substr(std::min(text.find_first_not_of('\''), text.size())));
}

}  // namespace

std::string csv_cell(std::string_view text) {
  std::string said = guarded(text) ? "'" : "";
  said += text;
  const bool plain = said.find_first_of(",;\t\"\r\n") == std::string::npos && !said.starts_with('#');
  if (plain && !said.starts_with(' ') && !said.ends_with(' ')) return said;
  std::string quoted(csv_write(nullptr, 0, said.data(), said.size()), '\0');
  csv_write(quoted.data(), quoted.size(), said.data(), said.size());
  return quoted;
}

std::string csv_text(std::string_view cell) {
  if (cell.starts_with('\'') && guarded(cell)) cell.remove_prefix(1);
  return std::string(cell);
}

}  // namespace bordado
