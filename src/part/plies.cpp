#include "plies.hpp"

#include "kinds.hpp"

#include <bordado/laminate.hpp>

#include <csv.h>
#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>
#include <utility>

namespace bordado::part {

namespace {

/// A name that may be left out. One that cannot be read is empty: its error is told, and no other follows from it.
std::optional<Declared<std::string>> text_of(Table& table, std::string_view key) {
  if (!table.node(key)) return std::nullopt;
  return table.text(key).value_or(Declared<std::string>{"", table.place(key)});
}

int repeats(Table& table) {
  if (!table.node("repeat")) return 1;
  const auto count = table.whole("repeat");
  if (count && *count >= 1 && *count <= 1000) return static_cast<int>(*count);
  if (count)
    table.error("part.value", fmt::format("{}: 'repeat' is {}; it can be 1 to 1000", table.name(), *count),
                table.place("repeat"));
  return 1;
}

std::optional<Angle> angle_of(Table& table, std::string_view key) {
  if (!table.node(key)) return std::nullopt;
  const auto value = table.number(key, Dimension::angle);
  return Angle::degrees(value.value_or(0.0));  // where it cannot be read that is told, and enough
}

std::optional<double> thickness_of(Table& table) {
  return table.node("thickness") ? table.positive("thickness", Dimension::length) : std::nullopt;
}

/// A length, or a table by which it varies.
void read_thickness(Table& table, PlyLine& line) {
  const toml::node* const node = table.node("thickness");
  if (node && node->is_table()) {
    line.varies = read_varying_thickness(table);
    if (!line.varies) line.thickness = 1.0;  // what is wrong is told, and enough
  } else {
    line.thickness = thickness_of(table);
  }
}

void only_one(Table& table, std::initializer_list<std::string_view> keys) {
  std::vector<std::string> given;
  for (const std::string_view key : keys)
    if (table.has(key)) given.push_back(fmt::format("'{}'", key));
  if (given.size() > 1)
    table.error("part.value", fmt::format("{} has {}", table.name(), fmt::join(given, " and ")), table.place(),
                "they say the same thing; leave all but one out");
}

}  // namespace

PlyLine read_ply_line(Table& table, std::size_t number) {
  PlyLine line;
  line.where = table.place();
  const auto id = table.text("id");
  line.id = id ? id->value : fmt::format("{}", number);
  line.material = text_of(table, "material");
  line.frame = text_of(table, "frame");
  line.zone = text_of(table, "zone");
  if (table.node("edge")) line.edge = table.number("edge", Dimension::length);
  if (table.node("corners"))
    if (const auto way = table.choice("corners", corners_names)) line.corners = static_cast<Corners>(*way);
  if (table.node("scallop")) line.scallop = read_scallop(table);
  if (table.node("chamfer")) line.chamfer = read_chamfer(table);
  line.drape = text_of(table, "drape");
  line.angle = angle_of(table, "angle");
  read_thickness(table, line);
  line.code = text_of(table, "code");
  line.laminate = text_of(table, "laminate");
  line.follows = text_of(table, "follows");
  line.turned = angle_of(table, "turned");
  line.repeat = repeats(table);
  if (const auto group = text_of(table, "group")) line.group = group->value;
  if (const auto note = text_of(table, "note")) line.note = note->value;
  only_one(table, {"angle", "code", "laminate"});
  if (line.turned && !line.follows)
    table.error("part.value", fmt::format("{}: 'turned' goes with 'follows'", table.name()), table.place("turned"),
                "write the angle itself, or say which ply it follows");
  return line;
}

Laminate read_laminate(Table& table, const std::string& name) {
  Laminate out;
  out.name = name;
  out.where = table.place();
  out.material = text_of(table, "material");
  out.frame = text_of(table, "frame");
  out.code = text_of(table, "code");
  out.repeat = repeats(table);
  if (table.node("symmetric")) {
    constexpr std::string_view ways[] = {"even", "odd"};
    if (const auto way = table.choice("symmetric", ways)) out.mirror = *way == 0 ? Mirror::even : Mirror::odd;
  }
  only_one(table, {"code", "plies"});
  if (!table.has("plies") && !out.code)
    table.error("part.key-missing", fmt::format("{} needs one of 'code' and 'plies'", table.name()), table.place(),
                "write code = \"[0/45/-45/90]\" or plies = [ { angle = 0 }, ... ]");
  if (!table.node("plies")) return out;
  const toml::array* const plies = table.array("plies");
  if (!plies) return out;
  std::size_t number = 0;
  for (const toml::node& node : *plies) {
    ++number;
    if (!node.is_table()) {
      table.error("part.value", fmt::format("{}: ply {} should be a table", table.name(), number), table.place(node),
                  "write { angle = 45, thickness = 0.2 }");
      continue;
    }
    Table ply(*node.as_table(), fmt::format("{} ply {}", table.name(), number), table.file(), table.units(),
              table.findings());
    LaminateLine line;
    line.material = text_of(ply, "material");
    line.frame = text_of(ply, "frame");
    line.angle = angle_of(ply, "angle");
    line.thickness = thickness_of(ply);
    ply.finish();
    out.lines.push_back(std::move(line));
  }
  return out;
}

// --- CSV
// -------------------------------------------------------------------------------------------------------------

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
    static_cast<CsvRows*>(into)->row.emplace_back(static_cast<const char*>(data), size);
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
  text = to_utf8(text);  // a spreadsheet may write Latin-1
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
    if (text.find_first_of(",;\t\"\r\n") != std::string_view::npos || text.starts_with('#') || text.starts_with(' ') ||
        text.ends_with(' ')) {
      std::string quoted(csv_write(nullptr, 0, text.data(), text.size()), '\0');
      csv_write(quoted.data(), quoted.size(), text.data(), text.size());
      out += quoted;
    } else {
      out += text;
    }
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

// --- writing out
// -------------------------------------------------------------------------------------------------------

namespace {

class Writer {
 public:
  Writer(const Part& part, const MaterialFinder& find, Findings& errors) : part_(part), find_(find), errors_(errors) {
    for (std::size_t i = 0; i < part.list.lines.size(); ++i) {
      const PlyLine& line = part.list.lines[i];
      if (!by_id_.emplace(line.id, i).second)
        errors.error("part.name-twice", fmt::format("there are two plies with id '{}'", line.id), line.where,
                     "each piece of cloth has an id of its own");
    }
  }

  std::vector<Ply> write() {
    const std::set<std::string> off = groups_off();
    for (std::size_t i = 0; i < part_.list.lines.size(); ++i) {
      line_ = i;
      first_of_line_ = out_.size();
      add(part_.list.lines[i]);
      if (off.count(part_.list.lines[i].group)) out_.resize(first_of_line_);
    }
    if (part_.list.listed == Listed::last_laid_first) std::reverse(out_.begin(), out_.end());
    check_laminates();
    return std::move(out_);
  }

 private:
  std::set<std::string> groups_off() {
    std::set<std::string> known, off;
    for (const PlyLine& line : part_.list.lines) known.insert(line.group);
    const auto check = [&](const Declared<std::string>& name, const std::string& who) {
      if (known.count(name.value)) return true;
      std::vector<std::string> names(known.begin(), known.end());
      std::erase(names, "");
      const auto near = nearest_name(name.value, names);
      errors_.error("part.group-unknown", fmt::format("{}: no ply is in a group '{}'", who, name.value), name.where,
                    near            ? fmt::format("did you mean '{}'?", *near)
                    : names.empty() ? std::string("write group = \"...\" in the plies that belong to it")
                                    : fmt::format("groups: {}", listed(names, 20)));
      return false;
    };
    for (const Declared<std::string>& name : part_.list.off)
      if (check(name, "[layup] off")) off.insert(name.value);
    for (const Variant& variant : part_.variants) {
      for (const Declared<std::string>& name : variant.on)
        if (check(name, fmt::format("[variant.{}]", variant.name)) && variant.name == part_.variant)
          off.erase(name.value);
      for (const Declared<std::string>& name : variant.off)
        if (check(name, fmt::format("[variant.{}]", variant.name)) && variant.name == part_.variant)
          off.insert(name.value);
    }
    return off;
  }

  /// A line with everything that it takes from the plies it follows.
  PlyLine whole(const PlyLine& line, std::set<std::string>& seen, bool& good) {
    PlyLine out = line;
    if (!line.follows) return out;
    constexpr std::size_t deepest = 100;
    if (seen.size() > deepest) {
      if (told_circular_.insert("").second)
        errors_.error("part.too-deep",
                      fmt::format("ply '{}' follows another by way of more than {} others", line.id, deepest),
                      line.follows->where, "let it follow one of the first of them");
      good = false;
      return out;
    }
    if (!seen.insert(line.id).second) {
      if (told_circular_.insert(line.id).second)
        errors_.error("part.follows-circular", fmt::format("ply '{}' follows itself", line.id), line.follows->where,
                      "one of the plies that follow each other must say its own");
      good = false;
      return out;
    }
    const auto found = by_id_.find(line.follows->value);
    if (found == by_id_.end()) {
      std::vector<std::string> names;
      for (const auto& [id, at] : by_id_) names.push_back(id);
      const auto near = nearest_name(line.follows->value, names);
      if (told_unknown_.insert(line.id).second)
        errors_.error(
            "part.ply-unknown", fmt::format("ply '{}' follows '{}', which there is not", line.id, line.follows->value),
            line.follows->where, near ? fmt::format("did you mean '{}'?", *near) : "name the id of a line of the list");
      good = false;
      return out;
    }
    const PlyLine leader = whole(part_.list.lines[found->second], seen, good);
    const auto take = [](auto& mine, const auto& theirs) {
      if (!mine) mine = theirs;
    };
    take(out.material, leader.material);
    take(out.frame, leader.frame);
    take(out.zone, leader.zone);
    take(out.edge, leader.edge);
    take(out.corners, leader.corners);
    take(out.scallop, leader.scallop);
    take(out.chamfer, leader.chamfer);
    take(out.drape, leader.drape);
    if (!out.thickness && !out.varies) {
      out.thickness = leader.thickness;
      out.varies = leader.varies;
    }
    if (!out.angle && !out.code && !out.laminate) {
      out.angle = leader.angle;
      out.code = leader.code;
      out.laminate = leader.laminate;
      out.turned = Angle::degrees((line.turned ? line.turned->degrees() : 0.0) +
                                  (leader.turned ? leader.turned->degrees() : 0.0));
      if (out.repeat == 1) out.repeat = leader.repeat;
    }
    return out;
  }

  void add(const PlyLine& written) {
    std::set<std::string> seen;
    bool good = true;
    const PlyLine line = whole(written, seen, good);
    if (!good) return;
    std::vector<Ply> run;
    if (line.code)
      run = coded(line, *line.code, line.material);
    else if (line.laminate)
      run = templated(line, *line.laminate);
    else
      run = single(line);
    if (line.turned)
      for (Ply& ply : run) ply.angle = ply.angle + *line.turned;
    if (too_many(out_.size() + run.size() * static_cast<std::size_t>(line.repeat), line)) return;
    const bool several = line.code || line.laminate || line.repeat > 1;
    std::size_t number = 0;
    for (int i = 0; i < line.repeat; ++i)
      for (const Ply& ply : run) {
        out_.push_back(ply);
        out_.back().id = several ? fmt::format("{}.{}", line.id, ++number) : line.id;
        if (ply.chamfer && ply.chamfer->fill) add_fill();
      }
  }

  /// What makes up for the thickness that the last ply loses lies on it.
  void add_fill() {
    Ply fill = out_.back();
    fill.id += ".fill";
    fill.material = *fill.chamfer->fill;
    fill.angle = Angle();
    fill.fills = true;
    const std::optional<KnownMaterial> material = find_.by_name(fill.material.value);
    if (material && material->kind == material::Kind::fibre)
      errors_.error("part.fibre-laid",
                    fmt::format("ply '{}': material '{}' is a fibre, not a ply", fill.id, material->name),
                    fill.material.where, "fill with a resin or a filler");
    out_.push_back(std::move(fill));
    if (part_.list.listed == Listed::last_laid_first) std::swap(out_.back(), out_[out_.size() - 2]);
  }

  static constexpr std::size_t most_plies = 100'000;
  bool too_many(std::size_t plies, const PlyLine& line) {
    if (plies <= most_plies) return false;
    if (!std::exchange(told_many_, true))
      errors_.error("part.too-many-plies",
                    fmt::format("with ply '{}' the part has {} plies; at most {} are laid", line.id, plies, most_plies),
                    line.where, "check 'repeat' here and in the laminate");
    return true;
  }

  /// A ply with the names of its line or of [layup].
  std::optional<Ply> pattern(const PlyLine& line, const std::optional<Declared<std::string>>& material,
                             const std::optional<Declared<std::string>>& frame) {
    Ply ply;
    ply.line = line_;
    ply.where = line.where;
    ply.thickness = line.thickness;
    ply.varies = line.varies;
    ply.edge = line.edge;
    ply.corners = line.corners.value_or(Corners::round);
    ply.scallop = line.scallop;
    ply.chamfer = line.chamfer;
    ply.drape = line.drape;
    if (ply.chamfer && ply.varies) {
      if (told_chamfer_.insert(line.id).second)
        errors_.error("part.value", fmt::format("ply '{}' has a thickness that varies and a chamfer", line.id),
                      line.where, "both say how thick it is: leave one out");
      ply.chamfer.reset();
    }
    const auto name =
        [&](std::string_view key, const std::optional<Declared<std::string>>& first,
            const std::optional<Declared<std::string>>& otherwise) -> std::optional<Declared<std::string>> {
      if (first) return first;
      if (otherwise) return otherwise;
      errors_.error("part.key-missing", fmt::format("ply '{}' has no '{}'", line.id, key), line.where,
                    fmt::format("add {} = \"...\", here or in [layup]", key));
      return std::nullopt;
    };
    const auto m = name("material", material, part_.list.material), f = name("frame", frame, part_.list.frame);
    if (!m || !f) return std::nullopt;
    ply.material = *m;
    ply.frame = *f;
    ply.zone = line.zone         ? *line.zone
               : part_.list.zone ? *part_.list.zone
                                 : Declared<std::string>{std::string(everything), line.where};
    return ply;
  }

  std::vector<Ply> single(const PlyLine& line) {
    auto ply = pattern(line, line.material, line.frame);
    const std::optional<KnownMaterial> material =
        find_.by_name((line.material ? line.material : part_.list.material).value_or(Declared<std::string>{}).value);
    if (line.angle)
      (ply ? *ply : unused_).angle = *line.angle;
    else if (material && material::is_directional(material->kind)) {
      errors_.error("part.key-missing", fmt::format("ply '{}' has no 'angle'", line.id), line.where,
                    "add angle = 0, or a code = \"[...]\", or a laminate = \"...\"");
      return {};
    }
    if (!ply || !complete(*ply, line)) return {};
    return {*ply};
  }

  /// A thickness must come from somewhere, and fibres or dry resin are nothing to lay.
  bool complete(const Ply& ply, const PlyLine& line) {
    const std::optional<KnownMaterial> material = find_.by_name(ply.material.value);
    if (!material) return true;  // told when names are checked
    if (material->kind == material::Kind::fibre) {
      errors_.error("part.fibre-laid",
                    fmt::format("ply '{}': material '{}' is a fibre, not a ply", line.id, material->name), line.where,
                    "make a unidirectional material of it: fibre, matrix, fibre-volume");
      return false;
    }
    if (ply.thickness || ply.varies || material->has_thickness) return true;
    if (told_thickness_.insert(line.id + " " + material->name).second)
      errors_.error(
          "part.key-missing",
          fmt::format("ply '{}' has no thickness, and its material '{}' has none either", line.id, material->name),
          line.where, "add a thickness to the ply or to the material");
    return false;
  }

  std::vector<Ply> coded(const PlyLine& line, const Declared<std::string>& code,
                         const std::optional<Declared<std::string>>& material) {
    const auto start = pattern(line, material, line.frame);
    if (!start) return {};
    const auto is_fabric = [&](std::string_view mark) {
      const std::optional<KnownMaterial> found =
          mark.empty() ? find_.by_name(start->material.value) : find_.by_mark(mark);
      return found && found->kind == material::Kind::fabric;
    };
    std::vector<Ply> out;
    try {
      std::set<std::string> unknown;
      for (const laminate::CodePly& coded : laminate::parse_code(code.value, is_fabric, code.where)) {
        Ply ply = *start;
        ply.angle = coded.angle;
        if (!coded.frame.empty()) ply.frame = {coded.frame, code.where};
        if (!coded.mark.empty()) {
          if (const std::optional<KnownMaterial> found = find_.by_mark(coded.mark))
            ply.material.value = found->name;
          else if (unknown.insert(coded.mark).second)
            errors_.error("part.mark-unknown",
                          fmt::format("ply '{}': no material has the mark or name '{}'", line.id, coded.mark),
                          code.where, fmt::format("add mark = \"{}\" to a material", coded.mark));
        }
        if (complete(ply, line)) out.push_back(std::move(ply));
      }
    } catch (const Failure& failure) {
      for (const Finding& finding : failure.findings())
        if (told_code_.insert(finding.text()).second) errors_.add(finding);
    }
    return out;
  }

  std::vector<Ply> templated(const PlyLine& line, const Declared<std::string>& name) {
    const auto found = std::find_if(part_.laminates.begin(), part_.laminates.end(),
                                    [&](const Laminate& laminate) { return laminate.name == name.value; });
    if (found == part_.laminates.end()) {
      std::vector<std::string> names;
      for (const Laminate& laminate : part_.laminates) names.push_back(laminate.name);
      const auto near = nearest_name(name.value, names);
      errors_.error("part.laminate-unknown",
                    fmt::format("ply '{}': laminate '{}' is not declared", line.id, name.value), name.where,
                    near ? fmt::format("did you mean '{}'?", *near) : fmt::format("declare [laminate.{}]", name.value));
      return {};
    }
    used_laminates_.insert(found->name);
    PlyLine filled = line;  // what the line says itself goes before what the laminate says for all its plies
    if (!filled.material) filled.material = found->material;
    if (!filled.frame) filled.frame = found->frame;
    std::vector<Ply> run;
    if (found->code) {
      run = coded(filled, *found->code, filled.material);
    } else {
      for (const LaminateLine& layer : found->lines) {
        PlyLine one = filled;
        if (layer.material) one.material = layer.material;
        if (layer.frame) one.frame = layer.frame;
        if (layer.thickness) one.thickness = layer.thickness, one.varies.reset();
        one.angle = layer.angle;
        const std::vector<Ply> ply = single(one);
        run.insert(run.end(), ply.begin(), ply.end());
      }
    }
    std::vector<Ply> out;
    if (too_many(2 * run.size() * static_cast<std::size_t>(found->repeat), line)) return {};
    for (int i = 0; i < found->repeat; ++i) out.insert(out.end(), run.begin(), run.end());
    if (found->mirror != Mirror::none && !out.empty()) {
      const std::size_t half = out.size() - (found->mirror == Mirror::odd ? 1 : 0);
      for (std::size_t i = half; i-- > 0;) out.push_back(out[i]);
    }
    return out;
  }

  void check_laminates() {
    for (const Laminate& laminate : part_.laminates)
      if (laminate.code && !used_laminates_.count(laminate.name)) {
        try {
          laminate::parse_code(laminate.code->value, {}, laminate.code->where);
        } catch (const Failure& failure) {
          for (const Finding& finding : failure.findings()) errors_.add(finding);
        }
      }
  }

  const Part& part_;
  const MaterialFinder& find_;
  Findings& errors_;
  std::map<std::string, std::size_t> by_id_;
  std::vector<Ply> out_;
  Ply unused_;
  std::size_t line_ = 0, first_of_line_ = 0;
  bool told_many_ = false;
  std::set<std::string> told_circular_, told_unknown_, told_thickness_, told_code_, told_chamfer_, used_laminates_;
};

}  // namespace

std::vector<Ply> write_out(const Part& part, const MaterialFinder& find, Findings& errors) {
  return Writer(part, find, errors).write();
}

}  // namespace bordado::part
