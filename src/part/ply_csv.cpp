// Lists of plies as CSV.
#include "../base/csv.hpp"
#include "plies.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>

#include <csv.h>
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>

namespace bordado::part {

namespace {

/// CsvRows of cells with the line each begins on.
struct CsvRows {
  std::vector<std::vector<std::string>> cells;
  std::vector<std::size_t> lines;
  std::vector<std::string> row;
  std::size_t line = 1, begin = 1;
  bool comment = false;  ///< the row that is being read begins with a bare '#': one in quotes is a name
};

char separator_of(std::string_view text) {
  const std::string_view head = text.substr(0, text.find('\n'));
  char best = ',';
  for (const char c : {';', '\t'})
    if (std::count(head.begin(), head.end(), c) > std::count(head.begin(), head.end(), best)) best = c;
  return best;
}

CsvRows rows_of(std::string_view text, char separator, const std::string& path) {
  CsvRows out;
  csv_parser parser;
  if (csv_init(&parser, 0) != 0) throw std::bad_alloc();
  csv_set_delim(&parser, static_cast<unsigned char>(separator));
  const auto cell = [](void* data, std::size_t size, void* into) {
    static_cast<CsvRows*>(into)->row.push_back(csv_text({static_cast<const char*>(data), size}));
  };
  const auto end = [](int, void* into) {
    CsvRows& rows = *static_cast<CsvRows*>(into);
    const bool empty = std::all_of(rows.row.begin(), rows.row.end(), [](const std::string& s) { return s.empty(); });
    if (!rows.comment && !empty) {
      rows.cells.push_back(rows.row);
      rows.lines.push_back(rows.begin);
    }
    rows.row.clear();
  };
  bool good = true;
  for (std::size_t at = 0; good && at < text.size();) {
    const std::size_t stop = std::min(text.find('\n', at), text.size() - 1) + 1;
    if (out.row.empty()) {
      out.begin = out.line;
      const std::size_t first = text.find_first_not_of(" \t", at);
      out.comment = first < stop && text[first] == '#';
    }
    good = csv_parse(&parser, text.data() + at, stop - at, cell, end, &out) == stop - at;
    ++out.line;
    at = stop;
  }
  csv_fini(&parser, cell, end, &out);
  csv_free(&parser);
  if (!good)
    throw Failure({Severity::error,
                   "part.csv",
                   "the table cannot be read",
                   {path, out.line, {}, {}},
                   "quotes inside a quoted cell are written twice"});
  return out;
}

/// "0,25" as a spreadsheet of half the world writes it.
std::string with_point(std::string text) {
  const auto comma = text.find(',');
  if (comma == std::string::npos || text.find(',', comma + 1) != std::string::npos) return text;
  if (comma > 0 && std::isdigit(static_cast<unsigned char>(text[comma - 1]))) text[comma] = '.';
  return text;
}

}  // namespace

std::vector<PlyLine> read_ply_csv(const std::string& path, const UnitSystem& units, Findings& errors) {
  return ply_lines(read_file(path), path, units, errors);
}

std::vector<PlyLine> ply_lines(std::string text, const std::string& path, const UnitSystem& units, Findings& errors) {
  if (text.starts_with("\xef\xbb\xbf")) text.erase(0, 3);
  if (!is_utf8(text)) {
    const auto lines = [&](std::string_view upto) {
      return 1 + static_cast<std::size_t>(std::count(upto.begin(), upto.end(), '\n'));
    };
    std::size_t good = 0;  // lines before the first that is none
    for (std::size_t at = 0; at < text.size(); at = good) {
      const std::size_t end = std::min(text.find('\n', at), text.size() - 1) + 1;
      if (!is_utf8(std::string_view(text).substr(at, end - at))) break;
      good = end;
    }
    errors.warning("part.latin-1",
                   "the table is not UTF-8: its letters were taken as Latin-1, as some spreadsheets write",
                   {path, lines(std::string_view(text).substr(0, good)), {}, {}},
                   "look at names with letters beyond a to z, or save the table as UTF-8");
    text = to_utf8(text);
  }
  const char separator = separator_of(text);
  const CsvRows rows = rows_of(text, separator, path);
  if (rows.cells.empty())
    throw Failure({Severity::error, "part.csv", "the table is empty", Place::in(path),
                   "its first line has the headings: id, material, angle, frame, zone, ..."});
  const std::vector<std::string>& head = rows.cells[0];
  const std::set<std::string> numbers = {"angle", "edge", "thickness", "turned"};
  const std::map<std::string, std::string> tables = {{"thickness", "{ of = \"...\", table = [[0, 0], [60, 20]] }"},
                                                     {"scallop", "{ pitch = 30, depth = 6 }"},
                                                     {"chamfer", "{ length = 30 }"}};
  std::set<std::string> seen;
  for (const std::string& key : head)
    if (!key.empty() && !seen.insert(key).second)
      errors.error("part.csv", fmt::format("there are two columns '{}'", key), {path, rows.lines[0], {}, {}});
  std::vector<PlyLine> out;
  for (std::size_t r = 1; r < rows.cells.size(); ++r) {
    const Place where{path, rows.lines[r], {}, {}};
    const std::vector<std::string>& row = rows.cells[r];
    if (row.size() > head.size())
      errors.error("part.csv", fmt::format("the line has {} cells, the headings have {}", row.size(), head.size()),
                   where, "cells with a separator inside stand in quotes");
    toml::table cells;
    for (std::size_t c = 0; c < std::min(row.size(), head.size()); ++c) {
      if (row[c].empty()) continue;
      if (head[c] == "repeat") {
        const bool whole = row[c].size() < 9 && row[c].find_first_not_of("0123456789") == std::string::npos;
        if (whole)
          cells.insert(head[c], static_cast<std::int64_t>(std::stoll(row[c])));
        else
          cells.insert(head[c], row[c]);
      } else if (tables.count(head[c]) && row[c].starts_with('{')) {  // as in a part file
        try {
          cells.insert(head[c], *parse_toml(head[c] + " = " + row[c], path).get(head[c]));
        } catch (const Failure& failure) {
          errors.error("part.csv", fmt::format("{}: {}", head[c], failure.findings().front().what), where,
                       "write " + tables.at(head[c]));
        } catch (const toml::parse_error& trouble) {
          errors.error(
              "part.csv",
              fmt::format("{}: '{}' cannot be read: {}", head[c], plain_text(row[c], 60), trouble.description()), where,
              "write " + tables.at(head[c]) + ", in quotes");
        }
      } else {
        cells.insert(head[c], numbers.count(head[c]) && separator != ',' ? with_point(row[c]) : row[c]);
      }
    }
    const auto id = cells["id"].value<std::string>();
    Table table(cells, id ? fmt::format("ply '{}'", *id) : fmt::format("ply {}", r), path, units, errors);
    table.all_at(where);
    out.push_back(read_ply_line(table, r));
    table.finish();
  }
  return out;
}

std::string plies_csv(const Part& part) {
  std::string out =
      "id,material,angle,frame,zone,edge,corners,scallop,chamfer,drape,thickness,code,laminate,follows,turned,repeat,"
      "group,"
      "note\n";
  const auto cell = [&](std::string_view text, bool last = false) {
    out += csv_cell(text);
    out += last ? '\n' : ',';
  };
  const auto name = [](const std::optional<Declared<std::string>>& declared) {
    return declared ? declared->value : std::string();
  };
  const auto number = [](const std::optional<double>& value) { return value ? toml_number(*value) : std::string(); };
  const auto angle = [](const std::optional<Angle>& value) {
    return value ? toml_number(value->degrees()) : std::string();
  };
  for (const PlyLine& line : part.list.lines) {
    cell(line.id);
    cell(name(line.material));
    cell(angle(line.angle));
    cell(name(line.frame));
    cell(name(line.zone));
    cell(number(line.edge));
    cell(line.corners ? std::string(corners_names[static_cast<std::size_t>(*line.corners)]) : std::string());
    cell(line.scallop ? toml_text(*line.scallop) : std::string());
    cell(line.chamfer ? toml_text(*line.chamfer) : std::string());
    cell(name(line.drape));
    cell(line.varies ? toml_text(*line.varies, part.file, part.units) : number(line.thickness));
    cell(name(line.code));
    cell(name(line.laminate));
    cell(name(line.follows));
    cell(angle(line.turned));
    cell(line.repeat == 1 ? std::string() : fmt::format("{}", line.repeat));
    cell(line.group);
    cell(line.note, true);
  }
  return out;
}

}  // namespace bordado::part
