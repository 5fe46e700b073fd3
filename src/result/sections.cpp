// Section forces or strains from a table or a VTU file that anyone can produce.
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

/// The columns that are used, in the order of a file.
struct Columns {
  std::optional<std::size_t> element;
  std::array<std::optional<std::size_t>, 6> values;
  std::array<std::optional<std::size_t>, 2> shear;
  bool forces = true;
};

/// "Nx N/mm" is Nx: units may stand behind a name.
std::string_view first_word(std::string_view name) {
  while (name.starts_with(' ')) name.remove_prefix(1);
  return name.substr(0, name.find_first_of(" ,[("));
}

Columns columns_of(std::span<const std::string> names, const std::string& path, bool with_element) {
  const auto find = [&](std::string_view wanted) -> std::optional<std::size_t> {
    for (std::size_t i = 0; i < names.size(); ++i)
      if (first_word(names[i]) == wanted) return i;
    return std::nullopt;
  };
  Columns out;
  if (with_element) out.element = find("element");
  const auto all = [&](const std::array<std::string_view, 6>& wanted) {
    std::size_t found = 0;
    for (std::size_t k = 0; k < 6; ++k) found += (out.values[k] = find(wanted[k])).has_value() ? 1 : 0;
    return found;
  };
  out.forces = true;
  const std::size_t forces = all(force_names);
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
      compliance_.push_back(
          laminate::stiffness(section::laminate_of(design.part, design.sections, s), design.sections.bottom[s])
              .ABD()
              .fullPivLu()
              .inverse());
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

  CaseFields finish() {
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
  CaseFields out_;
  Findings errors_;
  std::map<std::string, int> told_;
};

/// Cells of one line.
std::vector<std::string> cells(std::string_view line) {
  std::vector<std::string> out;
  csv_parser parser;
  if (csv_init(&parser, 0) != 0) throw std::bad_alloc();
  const auto cell = [](void* text, std::size_t size, void* into) {
    static_cast<std::vector<std::string>*>(into)->emplace_back(static_cast<const char*>(text), size);
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

CaseFields read_table(const Design& design, const std::string& path) {
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
      columns = columns_of(row, path, true);
      width = row.size();
      taking.emplace(design, path, columns->forces);
      continue;
    }
    const Place where{path, file.number(), {}, {}};
    if (row.size() < width) {
      taking->few("result.columns", fmt::format("the line has {} cells, the headings have {}", row.size(), width),
                  where, "the file may be cut short");
      continue;
    }
    const auto value = [&](std::size_t column) { return number_of(row[column]).value_or(std::nan("")); };
    const auto id = number_of(row[*columns->element]);
    const auto found = id && std::abs(*id) < 9e15 ? elements.find(static_cast<std::int64_t>(*id)) : elements.end();
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
  return taking->finish();
}

CaseFields read_vtu(const Design& design, const std::string& path) {
  Findings unheard;
  const mesh::Sampled file = mesh::read_sampled(path, {}, unheard);
  const std::size_t count = design.surface.element_count();
  std::vector<std::string> names;
  std::vector<const mesh::Array*> arrays;
  for (const mesh::Array& array : file.arrays)
    if (!array.on_nodes && array.components == 1) names.push_back(array.name), arrays.push_back(&array);
  const Columns columns = columns_of(names, path, false);
  if (file.surface.element_count() != count)
    throw Failure(
        {Severity::error, "result.element-missing",
         fmt::format("the file has {}, the part has {}", counted(file.surface.element_count(), "cell"), count),
         Place::in(path), "give the cells of the part's mesh in its order"});
  // Cells go by their ids where they have the part's, otherwise by their order.
  std::unordered_map<std::int64_t, ElementIndex> elements;
  for (ElementIndex e = 0; e < count; ++e) elements.emplace(design.surface.element_ids[e], e);
  const bool by_id = std::all_of(file.surface.element_ids.begin(), file.surface.element_ids.end(),
                                 [&](std::int64_t id) { return elements.count(id) > 0; });
  Taking taking(design, path, columns.forces);
  for (ElementIndex cell = 0; cell < count; ++cell) {
    Eigen::Matrix<double, 6, 1> values;
    for (std::size_t k = 0; k < 6; ++k) values[static_cast<Eigen::Index>(k)] = arrays[*columns.values[k]]->values[cell];
    laminate::Vector2 Q = laminate::Vector2::Zero();
    for (std::size_t k = 0; k < 2; ++k)
      if (columns.shear[k]) Q[static_cast<Eigen::Index>(k)] = arrays[*columns.shear[k]]->values[cell];
    taking.take(by_id ? elements.at(file.surface.element_ids[cell]) : cell, values, Q, 0);
  }
  return taking.finish();
}

}  // namespace

CaseFields read_sections(const Design& design, const std::string& path) {
  return path.ends_with(".vtu") ? read_vtu(design, path) : read_table(design, path);
}

}  // namespace bordado::result
