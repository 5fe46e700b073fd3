#include "print.hpp"

#include <bordado/mesh/care.hpp>

#include <fmt/format.h>

#include <sys/ioctl.h>
#include <unistd.h>
#include <cmath>
#include <cstdio>
#include <cstdlib>

namespace bordado::cli {

namespace {

bool colours(int descriptor) {
  const char* const no_colour = std::getenv("NO_COLOR");
  const char* const terminal = std::getenv("TERM");
  return ::isatty(descriptor) == 1 && !(no_colour && *no_colour) && !(terminal && std::string_view(terminal) == "dumb");
}

/// Width on the screen: characters, not bytes.
std::size_t width(std::string_view text) {
  return static_cast<std::size_t>(std::count_if(text.begin(), text.end(), [](char c) { return (c & 0xC0) != 0x80; }));
}

bool is_number(std::string_view text) {
  return !text.empty() && (std::isdigit(static_cast<unsigned char>(text[0])) || (text[0] == '-' && text.size() > 1));
}

/// Columns of the terminal; a pipe has no end of line to run into.
std::size_t terminal_width(int descriptor) {
  winsize size{};
  const bool known = ::isatty(descriptor) == 1 && ::ioctl(descriptor, TIOCGWINSZ, &size) == 0 && size.ws_col >= 40;
  return known ? size.ws_col : 1000000;
}

/// A cell cut behind '/' or a blank into pieces of at most `room` characters, where that can be.
std::vector<std::string> pieces(const std::string& text, std::size_t room) {
  std::vector<std::string> out(1);
  std::string word;
  for (const char c : text) {
    word += c;
    if (c != '/' && c != ' ') continue;
    if (!out.back().empty() && width(out.back()) + width(word) > room) out.emplace_back();
    out.back() += word;
    word.clear();
  }
  if (!out.back().empty() && width(out.back()) + width(word) > room) out.emplace_back();
  out.back() += word;
  return out;
}

/// The text broken at blanks into lines of at most `columns`, the later ones indented. Lines it has stay lines.
std::string broken(std::string_view text, std::size_t columns, std::string_view indent) {
  if (text.find('\n') != std::string_view::npos || width(text) <= columns) return std::string(text);
  std::string out, line;
  std::size_t at = 0;
  while (at < text.size()) {
    const std::size_t end = std::min(text.find(' ', at), text.size());
    const std::string_view word = text.substr(at, end - at);
    if (!line.empty() && width(line) + 1 + width(word) > columns) {
      out += line + "\n";
      line = indent;
    } else if (!line.empty()) {
      line += ' ';
    }
    line += word;
    at = end + 1;
  }
  return out + line;
}

}  // namespace

/// Messages keep their lines, but nothing that steers the terminal, and no name of a hundred thousand letters.
std::string message(std::string_view text) {
  std::string out;
  for (std::size_t at = 0; at <= text.size();) {
    const std::size_t end = std::min(text.find('\n', at), text.size());
    out += (at > 0 ? "\n" : "") + plain_text(text.substr(at, end - at), 1000);
    at = end + 1;
  }
  return out;
}

std::string styled(const std::string& text, Style style, int descriptor) {
  if (style == Style::plain || !colours(descriptor)) return text;
  constexpr std::string_view codes[] = {"0", "1", "2", "1;31", "1;35", "1;34"};
  return fmt::format("\033[{}m{}\033[0m", codes[static_cast<std::size_t>(style)], text);
}

void print_findings(const std::vector<Finding>& findings, std::FILE* stream) {
  const int descriptor = fileno(stream);
  const std::size_t columns = terminal_width(descriptor);
  for (const Finding& finding : findings) {
    constexpr std::string_view names[] = {"note", "warning", "error"};
    constexpr Style styles[] = {Style::note, Style::warning, Style::error};
    const auto severity = static_cast<std::size_t>(finding.severity);
    const std::string name(names[severity]), code = "[" + finding.code + "]";
    std::string what = broken(fmt::format("{}: {} {}", name, message(finding.what), code), columns, "    ");
    what.replace(0, name.size(), styled(name, styles[severity], descriptor));
    what.replace(what.size() - code.size(), code.size(), styled(code, Style::dim, descriptor));
    fmt::print(stream, "{}\n", what);
    const std::string place = finding.where.text();
    const bool only_a_file = !finding.where.line && !finding.where.element;
    if (!place.empty() && !(only_a_file && finding.severity == Severity::note))
      fmt::print(stream, "    at {}\n", plain_text(place, 500));
    if (!finding.remedy.empty()) fmt::print(stream, "    {}\n", broken(message(finding.remedy), columns - 4, "    "));
  }
}

std::string tally(const Findings& findings) {
  return fmt::format("{}, {}, {}", counted(findings.count(Severity::error), "error"),
                     counted(findings.count(Severity::warning), "warning"),
                     counted(findings.count(Severity::note), "note"));
}

Json to_json(const Vec3& vector) { return {vector.x(), vector.y(), vector.z()}; }

Json to_json(const mesh::Size& size) {
  return {{"low", to_json(size.low)},
          {"high", to_json(size.high)},
          {"nodes", size.nodes},
          {"triangles", size.triangles},
          {"quadrilaterals", size.quadrilaterals},
          {"quadratic", size.quadratic},
          {"shortest_edge", size.shortest_edge},
          {"mean_edge", size.mean_edge},
          {"longest_edge", size.longest_edge},
          {"area", size.area}};
}

Json to_json(const Finding& finding) {
  constexpr std::string_view names[] = {"note", "warning", "error"};
  Json out{{"severity", names[static_cast<std::size_t>(finding.severity)]},
           {"code", finding.code},
           {"what", message(finding.what)}};
  if (!finding.where.file.empty()) out["file"] = finding.where.file;
  if (finding.where.line) out["line"] = *finding.where.line;
  if (finding.where.column) out["column"] = *finding.where.column;
  if (finding.where.element) out["element"] = *finding.where.element;
  if (!finding.remedy.empty()) out["remedy"] = message(finding.remedy);
  return out;
}

Json to_json(const std::vector<Finding>& findings) {
  Json out = Json::array();
  for (const Finding& finding : findings) out.push_back(to_json(finding));
  return out;
}

Json to_json(const UnitSystem& units) {
  Json out = {{"system", units.name()}};
  for (const auto& [name, dimension] : {std::pair{"length", Dimension::length},
                                        {"area", Dimension::area},
                                        {"mass", Dimension::mass},
                                        {"time", Dimension::time},
                                        {"force", Dimension::force},
                                        {"line_force", Dimension::line_force},
                                        {"stress", Dimension::stress},
                                        {"density", Dimension::density},
                                        {"areal_mass", Dimension::areal_mass},
                                        {"angle", Dimension::angle},
                                        {"temperature", Dimension::temperature},
                                        {"expansion", Dimension::expansion}})
    out[name] = units.unit(dimension);
  return out;
}

void print_document(std::string_view command, const std::optional<UnitSystem>& units, const Json& body,
                    const Findings& findings) {
  Json out = {{"bordado", version()}, {"command", command}};
  if (units) out["units"] = to_json(*units);
  out.update(body);
  out["findings"] = to_json(findings.all());
  fmt::print("{}\n", out.dump(2, ' ', false, Json::error_handler_t::replace));
}

void TableText::print(std::FILE* stream) const {
  const std::size_t columns = rows_[0].size();
  std::vector<std::size_t> widths(columns, 0);
  std::vector<bool> right(columns, rows_.size() > 1);
  for (std::size_t r = 0; r < rows_.size(); ++r)
    for (std::size_t c = 0; c < columns; ++c) {
      widths[c] = std::max(widths[c], width(rows_[r][c]));
      if (r > 0 && !rows_[r][c].empty() && !is_number(rows_[r][c])) right[c] = false;
    }
  std::size_t before = 2;  // where the last column begins
  for (std::size_t c = 0; c + 1 < columns; ++c) before += widths[c] + 3;
  const std::size_t screen = terminal_width(fileno(stream));
  const std::size_t room = screen > before + 20 ? screen - before : 20;
  for (std::size_t r = 0; r < rows_.size(); ++r) {
    std::string line;
    for (std::size_t c = 0; c + 1 < columns; ++c) {
      const std::string gap(widths[c] - width(rows_[r][c]), ' ');
      line += (c == 0 ? "  " : "   ") + (right[c] ? gap + rows_[r][c] : rows_[r][c] + gap);
    }
    // The last column runs over into further lines below itself where the screen is too narrow.
    const std::vector<std::string> last = pieces(rows_[r].back(), room);
    line += (columns == 1 ? "  " : "   ");
    if (right[columns - 1] && last.size() == 1) line += std::string(widths.back() - width(last[0]), ' ');
    line += last[0];
    line.erase(line.find_last_not_of(' ') + 1);
    fmt::print(stream, "{}\n", r == 0 ? styled(line, Style::dim, fileno(stream)) : line);
    for (std::size_t i = 1; i < last.size(); ++i) fmt::print(stream, "{}{}\n", std::string(before + 1, ' '), last[i]);
  }
}

std::string ends_text(const Design& design, part::PlyId ply, Ramps ramps) {
  const part::Ply& declared = design.part.plies[ply];
  const layup::Region& region = design.layup.regions[design.layup.plies[ply].region];
  std::string out = declared.zone.value;
  if (region.edge && *region.edge != 0.0) out += fmt::format(", {:+.4g}", *region.edge);
  for (const layup::Moved& moved : region.moved)
    out += fmt::format(", {:+.4g}{}", moved.by,
                       ramps == Ramps::named ? " by ramp " + design.layup.ramps[moved.ramp].name : std::string());
  if (region.scallop) out += ", scalloped";
  if (declared.chamfer && !declared.fills) out += ", chamfered";
  return out;
}

std::string number(double value, int digits) {
  if (value == 0.0 || !std::isfinite(value)) return fmt::format("{:g}", value);
  const int exponent = static_cast<int>(std::floor(std::log10(std::abs(value))));
  if (exponent < -4 || exponent > 6) return fmt::format("{:.{}e}", value, digits - 1);
  return fmt::format("{:.{}f}", value, std::max(0, digits - 1 - exponent));
}

std::string mass_text(const UnitSystem& units, double mass) {
  return number(mass * units.to_si(Dimension::mass)) + " kg";
}
std::string area_text(const UnitSystem& units, double area) {
  return number(area * units.to_si(Dimension::area)) + " m^2";
}
std::string areal_mass_text(const UnitSystem& units, double areal_mass) {
  return number(areal_mass * units.to_si(Dimension::areal_mass)) + " kg/m^2";
}
std::string length_text(const UnitSystem& units, double length) {
  return number(length) + " " + units.unit(Dimension::length);
}
std::vector<std::string> column(const std::vector<double>& values, int digits) {
  double largest = 0.0;
  for (const double value : values) largest = std::max(largest, std::abs(value));
  const int whole = largest > 0.0 ? static_cast<int>(std::floor(std::log10(largest))) + 1 : 1;
  const int decimals = std::clamp(digits - whole, 0, 6);
  std::vector<std::string> out;
  for (const double value : values) {
    std::string text = fmt::format("{:.{}f}", value, decimals);
    if (text.find_first_of("123456789") == std::string::npos && text[0] == '-') text.erase(0, 1);  // no -0
    out.push_back(std::move(text));
  }
  return out;
}
std::string point_text(const Vec3& point) {
  return fmt::format("({})", fmt::join(column({point.x(), point.y(), point.z()}), ", "));
}

std::vector<Finding> worth_saying(const Findings& findings, std::size_t first) {
  std::vector<Finding> out;
  for (std::size_t i = 0; i < findings.all().size(); ++i)
    if (i >= first || findings.all()[i].severity != Severity::note) out.push_back(findings.all()[i]);
  return out;
}

Progress progress_line() {
  if (::isatty(STDERR_FILENO) != 1) return {};
  return [](std::string_view activity, double fraction) {
    if (fraction >= 1.0)
      fmt::print(stderr, "\r\033[K");
    else
      fmt::print(stderr, "\r\033[K{:3.0f} %  {}", 100.0 * fraction, activity);
    std::fflush(stderr);
  };
}

int guarded(const Answering& answering, const std::function<int(Findings&)>& body) {
  Findings findings;
  const auto clear_progress = [] {
    if (::isatty(STDERR_FILENO) == 1) fmt::print(stderr, "\r\033[K");
  };
  const auto tell_all = [&](const std::vector<Finding>& more) {
    clear_progress();
    Findings all = findings;
    for (const Finding& finding : more) all.add(finding);
    if (answering.json) {
      print_document(answering.command, std::nullopt, Json::object(), all);
    } else {
      print_findings(all.all(), stderr);
      fmt::print(stderr, "{}\n", tally(all));
    }
    return 1;
  };
  const auto tell = [&](Finding finding) { return tell_all({std::move(finding)}); };
  try {
    check_outputs();
    return body(findings);
  } catch (const Failure& failure) {
    return tell_all(failure.findings());
  } catch (const std::bad_alloc&) {
    return tell({Severity::error,
                 "base.memory",
                 "there is not enough memory for this part and its mesh",
                 {},
                 "close other programs, or split the part"});
  } catch (const std::system_error& trouble) {
    return tell({Severity::error,
                 "base.system",
                 fmt::format("the system refused: {}", plain_text(trouble.what())),
                 {},
                 "look for a full disk, a closed output, and limits on memory, files and threads"});
  } catch (const std::exception& trouble) {
    if (std::string_view(trouble.what()).find("pthread") !=
        std::string_view::npos)  // the parallel library has no type for it
      return tell({Severity::error,
                   "base.system",
                   "the system refused to begin another thread",
                   {},
                   "look at the limits on processes and threads: ulimit -u"});
    return tell({Severity::error,
                 "base.unforeseen",
                 fmt::format("something went wrong that should not: {}", plain_text(trouble.what())),
                 {},
                 "please report it with the files that led to it"});
  }
}

void add_part_option(CLI::App& command, PartChoice& choice) {
  command.add_option("part", choice.file, "The part file")->required();
  command.add_option("--variant", choice.variant, "A variant that the part file declares");
}

void add_place_options(CLI::App& command, PlaceChoice& choice, Needed needed) {
  auto* const place = command.add_option_group("place")->require_option(needed == Needed::yes ? 1 : 0, 1);
  place->add_option("--element", choice.element, "Element id as in the mesh file");
  place->add_option("--point", choice.point, "x,y,z in the part's length unit: the element whose centre is nearest")
      ->delimiter(',')
      ->expected(3);
}

mesh::ElementIndex element_at(const Design& design, const PlaceChoice& choice, Findings& findings) {
  if (choice.element) {
    if (const auto found = mesh::element_with_id(design.surface, *choice.element)) return *found;
    const auto [low, high] = std::minmax_element(design.surface.element_ids.begin(), design.surface.element_ids.end());
    throw Failure({Severity::error, "at.element-unknown",
                   fmt::format("the mesh has no shell element {}", *choice.element), Place::in(design.surface.file),
                   fmt::format("shell element ids run from {} to {}", *low, *high)});
  }
  const mesh::Nearest nearest =
      mesh::nearest_element(design.geometry, {choice.point[0], choice.point[1], choice.point[2]});
  const double reach = std::sqrt(design.geometry.areas[nearest.index]);
  if (nearest.distance > 2.0 * reach)
    findings.warning(
        "at.point-far",
        fmt::format("the point lies {} from the centre of the nearest element, which is some {} wide",
                    length_text(design.part.units, nearest.distance), length_text(design.part.units, reach)),
        {}, "check the coordinates; they are in the part's length unit");
  return nearest.index;
}

std::vector<std::string> user_libraries() {
  std::vector<std::string> out;
  const char* const set = std::getenv("BORDADO_MATERIALS");
  for (std::string_view rest = set ? set : ""; !rest.empty();) {
    const auto colon = std::min(rest.find(':'), rest.size());
    if (colon > 0) out.emplace_back(rest.substr(0, colon));
    rest.remove_prefix(std::min(colon + 1, rest.size()));
  }
  return out;
}

material::Library open_library(const UnitSystem& units, std::span<const std::string> files, Findings& findings) {
  material::Library library(units);
  for (const std::string& file : files) library.add_file(file, findings);
  for (const std::string& file : user_libraries()) library.add_file(file, findings);
  library.add_shipped();
  return library;
}

material::Material material_named(const material::Library& library, const std::string& name) {
  Findings errors;
  const auto found = library.find(name, errors);
  errors.throw_if_errors();
  if (found) return *found;
  const std::vector<std::string> names = library.names();
  const auto near = nearest_name(name, names);
  throw Failure({Severity::error,
                 "material.unknown",
                 fmt::format("there is no material '{}'", name),
                 {},
                 near ? fmt::format("did you mean '{}'?", *near) : "see bordado material list"});
}

UnitSystem units_named(const std::string& text, Findings& findings) {
  try {
    const UnitSystem units = UnitSystem::parse(text);
    if (const auto doubt = units.doubt())
      findings.warning("part.units-force", fmt::format("units: {}", *doubt), {},
                       "name the force for the mass: \"in, lbf, s\"");
    return units;
  } catch (const std::invalid_argument& trouble) {
    throw Failure({Severity::error,
                   "part.units",
                   fmt::format("units: {}", trouble.what()),
                   {},
                   "name a length, a mass and a time unit, as \"mm, t, s\""});
  }
}

void add_section_options(CLI::App& command, SectionChoice& choice) {
  command
      .add_option("--angle-tolerance", choice.angle_tolerance, "Degrees by which plies of other frames may be rounded")
      ->check(CLI::Range(1e-3, 10.0))
      ->capture_default_str();
  command
      .add_option("--thickness-tolerance", choice.thickness_tolerance,
                  "Per cent of the laminate by which layers that vary may be off in a section")
      ->check(CLI::Range(1e-3, 20.0))
      ->capture_default_str();
  command.add_option("--most-sections", choice.most, "No more sections than this, with the least error")
      ->check(CLI::Range(1, 1000000));
}

void add_real_plies_option(CLI::App& command, bool& choice) {
  command.add_flag("--real-plies", choice,
                   "CalculiX: every ply as a layer of its own, not three with the stiffness of all: slower");
}

std::optional<model::SolidOptions> ModelChoice::options() const {
  using Per = model::SolidOptions::Per;
  if (solids.empty()) return std::nullopt;
  using Constants = model::SolidOptions::Constants;
  const Constants as = constants == 9 ? Constants::nine : constants == 21 ? Constants::all : Constants::as_they_are;
  if (solids == "ply") return model::SolidOptions{Per::ply, 0, false, as};
  if (solids == "material") return model::SolidOptions{Per::material, 0, rough, as};
  return model::SolidOptions{Per::count, static_cast<std::size_t>(std::stoul(solids)), rough, as};
}

std::string solids_choice(const std::string& text) {
  const bool count = !text.empty() && text.size() <= 4 && text.find_first_not_of("0123456789") == std::string::npos;
  if (text == "ply" || text == "material" || (count && std::stoul(text) >= 1 && std::stoul(text) <= 1000)) return {};
  return "say ply, material, or a count from 1 to 1000";
}

void add_model_options(CLI::App& command, ModelChoice& choice) {
  command
      .add_option(
          "--solids", choice.solids,
          "Solids instead of shells: one for each ply, for plies of a kind that lie together, or at most so many")
      ->type_name("ply|material|COUNT")
      ->check(solids_choice);
  add_rough_option(command, choice);
  command
      .add_option("--constants", choice.constants,
                  "Of the material of every solid: 9, what couples left out, or 21; as many as it has if not given")
      ->check(CLI::IsMember({9, 21}));
}

void add_rough_option(CLI::App& command, ModelChoice& choice) {
  command.add_flag("--rough-solids", choice.rough,
                   "Solids, too, whose groups of plies change B or D by more than a fifth");
}

std::vector<std::size_t> cases_of(const model::Model& model, const std::vector<std::string>& names) {
  std::vector<std::size_t> out;
  std::vector<std::string> known;
  for (const model::Model::Case& load_case : model.cases) known.push_back(load_case.name);
  for (const std::string& name : names) {
    const auto found = std::find(known.begin(), known.end(), name);
    if (found == known.end()) {
      const auto near = nearest_name(name, known);
      throw Failure({Severity::error, "case.unknown", fmt::format("there is no case '{}'", plain_text(name)),
                     Place::in(model.design->part.file),
                     near ? fmt::format("did you mean '{}'?", *near) : fmt::format("cases: {}", listed(known, 20))});
    }
    out.push_back(static_cast<std::size_t>(found - known.begin()));
  }
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

Design open_part(const PartChoice& choice, Findings& findings, const section::Options& options,
                 const Progress& progress) {
  return open(part::read(choice.file, findings, {.libraries = user_libraries(), .variant = choice.variant}), findings,
              options, progress);
}

}  // namespace bordado::cli
