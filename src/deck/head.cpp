#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>

#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <charconv>
#include <numeric>

namespace bordado::deck {

namespace {

bool is_blank(char c) { return c == ' ' || c == '\t' || c == '\r'; }

}  // namespace

std::vector<std::string> head_lines(const Model& model, std::string_view format_title, const WriteOptions& options) {
  const part::Part& part = model.design->part;
  const section::Sections& sections = model.design->sections;
  const section::Deviation& off = sections.deviation;
  const UnitSystem& units = part.units;
  std::vector<std::string> out;
  out.push_back(fmt::format("{}: {}{}, written by Bordado {}", plain_text(part.name), format_title,
                            options.laminate_only ? ", laminate only" : "", version()));
  out.push_back(fmt::format("units: {} (force {}, stress {}, density {})", units.name(), units.unit(Dimension::force),
                            units.unit(Dimension::stress), units.unit(Dimension::density)));
  out.push_back(fmt::format(
      "{} shell elements; {} of the laminate on the mesh, offset {:g} {}; plies listed first laid first, along the "
      "element normal",
      model.surface.element_count(), part::name_of(part.flush), part.offset, units.unit(Dimension::length)));
  out.push_back(fmt::format("{} plies, {} different stacks, {} sections", part.plies.size(), sections.stack_count,
                            sections.count()));
  out.push_back(
      fmt::format("angles between frames rounded to within {:g} deg: largest {:.3g} deg, mean {:.3g} deg; largest "
                  "change of A {:.2g} %, B {:.2g} %, D {:.2g} %",
                  off.angle_tolerance.degrees(), off.largest_angle.degrees(), off.mean_angle.degrees(),
                  100 * off.largest_A, 100 * off.largest_B, 100 * off.largest_D));
  const auto& varies = model.design->layup.varies;
  if (std::any_of(varies.begin(), varies.end(), [](auto one) { return one != 0; }))
    out.push_back(
        fmt::format("thickness that varies: layers of a section have their elements' mean, within {:g} % of the "
                    "laminate; largest change of its thickness {:.2g} %",
                    100 * off.thickness_tolerance, 100 * off.largest_thickness));
  if (off.sections_by_tolerance > sections.count())
    out.push_back(
        fmt::format("kept to {} sections of {} that the tolerances make, so that the errors above are the "
                    "smallest found",
                    sections.count(), off.sections_by_tolerance));
  if (!sections.density_factor.empty())
    out.push_back(
        fmt::format("densities keep the mass of the elements of each section; largest change of an element's "
                    "mass per area {:.2g} %",
                    100 * off.largest_mass));
  return out;
}

Written summary(const Model& model, const WriteOptions& options, const OutputFile& file, const std::string& path) {
  Written out;
  out.path = path;
  out.bytes = file.bytes();
  out.nodes = model.surface.points.size();
  out.elements = model.surface.element_count();
  out.sections = model.design->sections.count();
  for (std::size_t k = 0; k < model.cases.size(); ++k)
    if (options.cases.empty() || std::find(options.cases.begin(), options.cases.end(), k) != options.cases.end())
      out.loads.emplace_back(model.cases[k].name, total(model, model.cases[k]));
  out.mesh_node_ids = model.mesh_node_ids;
  out.mesh_element_ids = model.mesh_element_ids;
  return out;
}

std::vector<std::string> wrapped(std::string_view text) {
  constexpr std::size_t width = 76;
  std::vector<std::string> out;
  while (text.size() > width) {
    const std::size_t blank = text.rfind(' ', width);
    const std::size_t end = blank == std::string_view::npos || blank == 0 ? width : blank;
    out.emplace_back(text.substr(0, end));
    text.remove_prefix(end);
    text.remove_prefix(std::min(text.size(), text.find_first_not_of(' ')));
  }
  out.emplace_back(text);
  return out;
}

std::string solver_name(std::string_view name) {
  std::string out;
  for (const char c : name.substr(0, 40))
    if ((static_cast<unsigned char>(c) & 0xC0) != 0x80)  // one mark for a letter of several bytes
      out += std::isalnum(static_cast<unsigned char>(c))
                 ? static_cast<char>(std::toupper(static_cast<unsigned char>(c)))
                 : '_';
  return out;
}

std::string plies_text(const Model& model, section::SectionId section) {
  std::string out;
  for (const section::LaidLayer& layer : model.design->sections.layers_of(section))
    out += (out.empty() ? "" : " ") + model.design->part.plies[layer.ply].id;
  return plain_text(out);
}

std::vector<std::size_t> wanted_cases(const Model& model, const WriteOptions& options) {
  if (!options.cases.empty()) return options.cases;
  std::vector<std::size_t> all(model.cases.size());
  std::iota(all.begin(), all.end(), std::size_t{0});
  return all;
}

std::vector<std::array<std::int64_t, 2>> runs_of(std::span<const std::int64_t> ids) {
  std::vector<std::array<std::int64_t, 2>> out;
  for (const std::int64_t id : ids) {
    if (out.empty() || id != out.back()[1] + 1) out.push_back({id, id});
    out.back()[1] = id;
  }
  return out;
}

std::optional<double> number_in(std::string_view field) {
  while (!field.empty() && is_blank(field.front())) field.remove_prefix(1);
  while (!field.empty() && is_blank(field.back())) field.remove_suffix(1);
  if (field.empty()) return std::nullopt;
  std::string filled;
  for (std::size_t i = 0; i < field.size(); ++i) {
    const bool exponent = i > 0 && (field[i] == '+' || field[i] == '-') && field[i - 1] != 'e' && field[i - 1] != 'E';
    if (exponent) filled += 'e';
    if (field[i] != '+') filled += field[i];
  }
  double out = 0.0;
  const auto [end, error] = std::from_chars(filled.data(), filled.data() + filled.size(), out);
  if (error != std::errc() || end != filled.data() + filled.size()) return std::nullopt;
  return out;
}

void for_each_line(std::string_view text, const std::function<void(std::string_view line)>& with) {
  while (!text.empty()) {
    const auto end = text.find('\n');
    std::string_view line = text.substr(0, end);
    if (line.ends_with('\r')) line.remove_suffix(1);
    with(line);
    text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
  }
}

}  // namespace bordado::deck
