// Section forces or strains from a table or a VTU file that anyone can produce.
#include "../base/csv.hpp"
#include "section_forces.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/mesh/locate.hpp>
#include <bordado/recovery.hpp>

#include <csv.h>
#include <fmt/format.h>
#include <Eigen/LU>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <map>
#include <unordered_map>

namespace bordado::result {

namespace {

using mesh::ElementIndex;

constexpr std::array<std::string_view, 6> force_names = {"Nx", "Ny", "Nxy", "Mx", "My", "Mxy"};
constexpr std::array<std::string_view, 6> strain_names = {"ex", "ey", "gxy", "kx", "ky", "kxy"};
constexpr std::array<std::string_view, 2> shear_names = {"Qx", "Qy"};

/// A column that is used, and what its numbers are multiplied by to be in the part's units.
struct Column {
  std::size_t at = 0;
  double factor = 1.0;
};

/// The columns that are used, in the order of a file.
struct Columns {
  std::optional<std::size_t> element;
  std::array<std::optional<Column>, 6> values;
  std::array<std::optional<Column>, 2> shear;
  bool forces = true;
};

/// "Nx N/mm", "Nx (N/m)", "Nx [N/m]": the name, and the unit behind it.
std::pair<std::string_view, std::string_view> name_and_unit(std::string_view heading) {
  const auto trim = [](std::string_view text) {
    const auto first = text.find_first_not_of(" \t\r");
    return first == std::string_view::npos ? std::string_view()
                                           : text.substr(first, text.find_last_not_of(" \t\r") - first + 1);
  };
  heading = trim(heading);
  const std::size_t end = std::min(heading.find_first_of(" \t,[("), heading.size());
  std::string_view unit = trim(heading.substr(end));
  if (unit.starts_with(',')) unit = trim(unit.substr(1));
  if (unit.size() > 1 && ((unit.front() == '(' && unit.back() == ')') || (unit.front() == '[' && unit.back() == ']')))
    unit = trim(unit.substr(1, unit.size() - 2));
  return {heading.substr(0, end), unit};
}

/// What a unit of such a column is in the part's.
double factor_of(std::string_view name, std::string_view unit, const UnitSystem& units, const std::string& path) {
  if (unit.empty()) return 1.0;
  const bool force = name[0] == 'N' || name[0] == 'Q', moment = name[0] == 'M', curvature = name[0] == 'k';
  try {
    // A curvature is nothing per length: what a length is, turned over.
    if (curvature) {
      if (unit != "1" && !unit.starts_with("1/") && !unit.starts_with("/"))
        throw std::invalid_argument("a curvature is told as 1/mm, 1/m or the like");
      const std::string length(unit.starts_with("1/") ? unit.substr(2) : unit.substr(1));
      return 1.0 / units.read("1 " + length, Dimension::length);
    }
    return units.read("1 " + std::string(unit), force    ? Dimension::line_force
                                                : moment ? Dimension::force
                                                         : Dimension::none);
  } catch (const std::invalid_argument& trouble) {
    throw Failure({Severity::error, "result.units", fmt::format("column '{}': {}", name, trouble.what()),
                   Place::in(path),
                   force    ? "a force per length is told in N/mm, N/m or the like, or without a unit in the part's"
                   : moment ? "a moment per length is told as a force: N, N mm/mm"
                            : "write the heading without a unit, or in one that is known"});
  }
}

Columns columns_of(std::span<const std::string> names, const UnitSystem& units, const std::string& path,
                   bool with_element) {
  const auto place = [&](std::string_view wanted) -> std::optional<std::size_t> {
    std::optional<std::size_t> out;
    for (std::size_t i = 0; i < names.size(); ++i) {
      if (name_and_unit(names[i]).first != wanted) continue;
      if (out)
        throw Failure({Severity::error, "result.columns",
                       fmt::format("there are two columns {}: '{}' and '{}'", wanted, plain_text(names[*out], 40),
                                   plain_text(names[i], 40)),
                       Place::in(path), "leave one of them"});
      out = i;
    }
    return out;
  };
  const auto find = [&](std::string_view wanted) -> std::optional<Column> {
    const auto at = place(wanted);
    if (!at) return std::nullopt;
    return Column{*at, factor_of(wanted, name_and_unit(names[*at]).second, units, path)};
  };
  Columns out;
  if (with_element) out.element = place("element");
  const auto all = [&](const std::array<std::string_view, 6>& wanted) {
    std::size_t found = 0;
    for (std::size_t k = 0; k < 6; ++k) found += (out.values[k] = find(wanted[k])).has_value() ? 1 : 0;
    return found;
  };
  out.forces = true;
  const std::size_t forces = all(force_names);
  const auto any_of = [&](const std::array<std::string_view, 6>& wanted) {
    return std::any_of(wanted.begin(), wanted.end(), [&](std::string_view name) { return place(name).has_value(); });
  };
  if (forces == 6 && any_of(strain_names))
    throw Failure({Severity::error, "result.columns",
                   "forces and strains are both given, and one follows from the other", Place::in(path),
                   "leave the columns of the one that is not meant"});
  if (forces < 6) {
    const auto kept = out.values;
    out.forces = false;
    if (const std::size_t strains = all(strain_names); strains < 6) {
      const bool nearer = forces >= strains;
      if (nearer) out.values = kept;
      std::string missing;
      for (std::size_t k = 0; k < 6; ++k)
        if (!out.values[k])
          missing += fmt::format("{}{}", missing.empty() ? "" : ", ", nearer ? force_names[k] : strain_names[k]);
      throw Failure({Severity::error, "result.columns", fmt::format("there is no column {}", missing), Place::in(path),
                     "name them element, then Nx Ny Nxy Mx My Mxy or ex ey gxy kx ky kxy, and Qx Qy where they are "
                     "known"});
    }
  }
  if (with_element && !out.element)
    throw Failure({Severity::error, "result.columns", "there is no column element", Place::in(path),
                   "the first column says which element a line is of, by its id in the mesh file"});
  for (std::size_t k = 0; k < 2; ++k) out.shear[k] = find(shear_names[k]);
  return out;
}

/// A row of a file turned into a state.
class Taking {
 public:
  Taking(const Design& design, const std::string& path, bool forces)
      : design_(design), path_(path), forces_(forces), given_(design.surface.element_count(), 0) {
    out_.name = path;
    out_.sections.resize(given_.size());
    if (!forces) return;
    for (const section::SectionId s : design.sections.ids())
      compliance_.push_back(laminate::inverse(
          laminate::stiffness(section::laminate_of(design.part, design.sections, s), design.sections.bottom[s]).ABD()));
  }

  void take(ElementIndex e, const Eigen::Matrix<double, 6, 1>& values, const laminate::Vector2& Q, std::size_t line) {
    const Place where{path_, line > 0 ? std::optional(line) : std::nullopt, {}, {}};
    const std::int64_t id = design_.surface.element_ids[e];
    if (!values.allFinite() || !Q.allFinite())
      return few("result.not-finite", fmt::format("a number of element {} is not finite", id), where,
                 "leave no empty cells");
    if (given_[e]++ > 0)
      return few("result.element-twice", fmt::format("element {} stands there twice", id), where,
                 "give one line for each: the mean over the element");
    const Eigen::Matrix<double, 6, 1> strains =
        forces_ ? Eigen::Matrix<double, 6, 1>(compliance_[design_.sections.section_of[e]] * values) : values;
    out_.sections[e] = {{strains.head<3>(), strains.tail<3>()}, Q};
  }
  /// At most five of a kind are told.
  void few(const std::string& code, std::string what, const Place& where, std::string remedy) {
    if (++told_[code] <= 5) errors_.add({Severity::error, code, std::move(what), where, std::move(remedy)});
  }

  model::CaseFields finish() {
    std::size_t missing = 0;
    for (ElementIndex e = 0; e < given_.size(); ++e)
      if (given_[e] == 0 && ++missing <= 5)
        errors_.error("result.element-missing", fmt::format("element {} has no line", design_.surface.element_ids[e]),
                      Place::in(path_), "every element of the part needs one");
    if (missing > 5)
      errors_.error("result.element-missing", fmt::format("{} more have none", counted(missing - 5, "element")),
                    Place::in(path_), {});
    errors_.throw_if_errors();
    return std::move(out_);
  }

 private:
  const Design& design_;
  const std::string& path_;
  bool forces_;
  std::vector<std::uint8_t> given_;
  List<section::SectionId, Eigen::Matrix<double, 6, 6>> compliance_;
  model::CaseFields out_;
  Findings errors_;
  std::map<std::string, int> told_;
};

/// Cells of one line.
std::vector<std::string> cells(std::string_view line) {
  std::vector<std::string> out;
  csv_parser parser;
  if (csv_init(&parser, 0) != 0) throw std::bad_alloc();
  const auto cell = [](void* text, std::size_t size, void* into) {
    static_cast<std::vector<std::string>*>(into)->push_back(csv_text({static_cast<const char*>(text), size}));
  };
  const char separator = line.find(';') != std::string_view::npos    ? ';'
                         : line.find('\t') != std::string_view::npos ? '\t'
                                                                     : ',';
  csv_set_delim(&parser, static_cast<unsigned char>(separator));
  csv_parse(&parser, line.data(), line.size(), cell, nullptr, &out);
  csv_fini(&parser, cell, nullptr, &out);
  csv_free(&parser);
  return out;
}

std::optional<double> number_of(std::string_view text) {
  while (text.starts_with(' ') || text.starts_with('+')) text.remove_prefix(1);
  while (text.ends_with(' ') || text.ends_with('\r')) text.remove_suffix(1);
  double value = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size()) return std::nullopt;
  return value;
}

GivenSections read_table(const Design& design, const std::string& path) {
  InputFile file(path);
  std::optional<Columns> columns;
  std::optional<Taking> taking;
  std::unordered_map<std::int64_t, ElementIndex> elements;
  for (ElementIndex e = 0; e < design.surface.element_count(); ++e) elements.emplace(design.surface.element_ids[e], e);
  std::size_t width = 0;
  while (const auto line = file.line()) {
    std::string_view text = *line;
    if (file.number() == 1 && text.starts_with("\xef\xbb\xbf")) text.remove_prefix(3);
    if (text.ends_with('\r')) text.remove_suffix(1);
    if (text.find_first_not_of(" \t,;") == std::string_view::npos || text.starts_with('#')) continue;
    const std::vector<std::string> row = cells(text);
    if (!columns) {
      columns = columns_of(row, design.part.units, path, true);
      width = row.size();
      taking.emplace(design, path, columns->forces);
      continue;
    }
    const Place where{path, file.number(), {}, {}};
    if (row.size() > width) {
      const bool commas = text.find(';') == std::string_view::npos && row.size() > width + 2;
      taking->few("result.columns", fmt::format("the line has {} cells, the headings have {}", row.size(), width),
                  where,
                  commas ? "if its numbers have decimal commas, part its cells by semicolons and write points"
                         : "every cell needs a heading");
      continue;
    }
    if (row.size() < width) {
      taking->few("result.columns", fmt::format("the line has {} cells, the headings have {}", row.size(), width),
                  where, "the file may be cut short");
      continue;
    }
    const auto value = [&](const Column& column) {
      const std::string& cell = row[column.at];
      const auto number = number_of(cell);
      if (!number && cell.find(',') != std::string::npos &&
          cell.find_first_not_of("0123456789+-eE, ") == std::string::npos)
        taking->few("result.decimal-comma", fmt::format("'{}' has a decimal comma", plain_text(cell, 20)), where,
                    "write decimal points: 12.5");
      return number ? column.factor * *number : std::nan("");
    };
    const auto id = number_of(row[*columns->element]);
    const bool whole = id && std::abs(*id) < 9e15 && *id == std::trunc(*id);
    const auto found = whole ? elements.find(static_cast<std::int64_t>(*id)) : elements.end();
    if (found == elements.end()) {
      taking->few("result.element-unknown",
                  fmt::format("'{}' is no element of the part", plain_text(row[*columns->element], 20)), where,
                  "elements go by their ids in the mesh file");
      continue;
    }
    Eigen::Matrix<double, 6, 1> values;
    for (std::size_t k = 0; k < 6; ++k) values[static_cast<Eigen::Index>(k)] = value(*columns->values[k]);
    laminate::Vector2 Q = laminate::Vector2::Zero();
    for (std::size_t k = 0; k < 2; ++k)
      if (columns->shear[k]) Q[static_cast<Eigen::Index>(k)] = value(*columns->shear[k]);
    taking->take(found->second, values, Q, file.number());
  }
  if (!taking)
    throw Failure({Severity::error, "result.columns", "the table is empty", Place::in(path),
                   "its first line names the columns: element, Nx, Ny, Nxy, Mx, My, Mxy"});
  return {taking->finish(), columns->forces, columns->shear[0] && columns->shear[1]};
}

GivenSections read_vtu(const Design& design, const std::string& path) {
  Findings unheard;
  const mesh::Sampled file = mesh::read_sampled(path, {}, unheard);
  const std::size_t count = design.surface.element_count();
  std::vector<std::string> names;
  std::vector<const mesh::Array*> arrays;
  for (const mesh::Array& array : file.arrays)
    if (!array.on_nodes && array.components == 1) names.push_back(array.name), arrays.push_back(&array);
  const Columns columns = columns_of(names, design.part.units, path, false);
  if (file.surface.element_count() != count)
    throw Failure(
        {Severity::error, "result.element-missing",
         fmt::format("the file has {}, the part has {}", counted(file.surface.element_count(), "cell"), count),
         Place::in(path), "give the cells of the part's mesh in its order"});
  // Cells go by where they lie; ids, where the file has any, must say the same.
  std::unordered_map<std::int64_t, ElementIndex> elements;
  for (ElementIndex e = 0; e < count; ++e) elements.emplace(design.surface.element_ids[e], e);
  const mesh::Geometry there = mesh::geometry(file.surface);
  const mesh::Locator locator(design.surface);
  const mesh::Array* const ids = [&]() -> const mesh::Array* {
    for (const mesh::Array& array : file.arrays)
      if (!array.on_nodes && array.components == 1 && array.name == "element") return &array;
    return nullptr;
  }();
  Taking taking(design, path, columns.forces);
  for (ElementIndex cell = 0; cell < count; ++cell) {
    const Vec3& centre = there.centres[cell];
    ElementIndex e = mesh::no_index;
    if (ids) {
      const double id = ids->values[cell];
      const auto found =
          id == std::trunc(id) && std::abs(id) < 9e15 ? elements.find(static_cast<std::int64_t>(id)) : elements.end();
      if (found == elements.end()) {
        taking.few("result.element-unknown", fmt::format("cell {} says element {:g}, which the part has not", cell, id),
                   Place::in(path), "elements go by their ids in the mesh file");
        continue;
      }
      e = found->second;
    } else {
      e = locator.nearest(centre).element;
    }
    const double size = std::sqrt(design.geometry.areas[e]);
    if (const double off = (centre - design.geometry.centres[e]).norm(); !(off < 0.05 * size)) {
      taking.few("result.place",
                 fmt::format("cell {} lies {:.3g} {} from the middle of element {}", cell, off,
                             design.part.units.unit(Dimension::length), design.surface.element_ids[e]),
                 Place::in(path), "give the cells of the part's mesh, in the part's length unit");
      continue;
    }
    Eigen::Matrix<double, 6, 1> values;
    for (std::size_t k = 0; k < 6; ++k)
      values[static_cast<Eigen::Index>(k)] = columns.values[k]->factor * arrays[columns.values[k]->at]->values[cell];
    laminate::Vector2 Q = laminate::Vector2::Zero();
    for (std::size_t k = 0; k < 2; ++k)
      if (columns.shear[k])
        Q[static_cast<Eigen::Index>(k)] = columns.shear[k]->factor * arrays[columns.shear[k]->at]->values[cell];
    taking.take(e, values, Q, 0);
  }
  return {taking.finish(), columns.forces, columns.shear[0] && columns.shear[1]};
}

}  // namespace

GivenSections read_sections(const Design& design, const std::string& path) {
  return path.ends_with(".vtu") ? read_vtu(design, path) : read_table(design, path);
}

model::CaseFields with_temperature(GivenSections given, const Design& design, const model::Model& model,
                                   std::size_t case_index) {
  model::CaseFields out = std::move(given.fields);
  out.shear = given.shear;
  const model::Within within(model, model.cases[case_index]);
  if (!within.warm()) return out;
  SectionForces forces(design.part, design.sections);
  out.held.resize(out.sections.size());
  for (ElementIndex e = 0; e < out.sections.size(); ++e) {
    const Carried free = laminate::solve(forces.section(e).stiffness, forces.pushed(e, within.heat(e)));
    out.held[e].deformation = {free.head<3>(), free.tail<3>()};
    if (!given.forces) continue;
    out.sections[e].deformation.strain += free.head<3>();
    out.sections[e].deformation.curvature += free.tail<3>();
  }
  return out;
}

void write_template(const Design& design, const std::string& path) {
  const UnitSystem& units = design.part.units;
  const std::string length = units.unit(Dimension::length), force = units.unit(Dimension::force);
  const std::string line = force + "/" + length;
  OutputFile out(path);
  out.write(
      fmt::format("# Forces of sections for bordado stress --from, of the part {}, by Bordado {}: to be filled in\n"
                  "# N, M and Q per length, about the mesh, in the axes of each element: x along the 0 that stands "
                  "behind, y = normal x 0; tension and tension on the side that plies build up to are positive\n",
                  plain_text(design.part.name), version()));
  out.write(
      fmt::format("element,Nx {0},Ny {0},Nxy {0},Mx {1},My {1},Mxy {1},Qx {0},Qy {0},at x {2},at y {2},at z {2},0 "
                  "along x,0 along y,0 along z\n",
                  line, force, length));
  out.write_lines(design.surface.element_count(), [&](std::size_t i, std::string& text) {
    const auto e = static_cast<ElementIndex>(i);
    const Vec3 &at = design.geometry.centres[e], &r = design.sections.references[e];
    text += fmt::format("{},0,0,0,0,0,0,0,0,{:.9g},{:.9g},{:.9g},{:.6f},{:.6f},{:.6f}\n", design.surface.element_ids[e],
                        at.x(), at.y(), at.z(), r.x(), r.y(), r.z());
  });
  out.commit();
}

}  // namespace bordado::result
