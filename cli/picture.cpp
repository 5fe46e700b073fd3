// bordado picture: still pictures of a part, coloured by any of its fields.
#include "answers.hpp"
#include "strength_text.hpp"

#include <bordado/picture.hpp>
#include <bordado/review/drapes.hpp>
#include <bordado/review/fields.hpp>
#include <bordado/review/results.hpp>
#include <bordado/zone_panels.hpp>

#include <fmt/format.h>

#include <charconv>
#include <memory>

namespace bordado::cli {

namespace picture_command {

struct Choices {
  SideBySide of_parts;
  SectionChoice sections;
  std::vector<std::string> of{"thickness"}, cases, criteria;
  std::string zone, write, view = "corner", lines = "borders", title;
  std::optional<double> moved;
  std::vector<double> range;
  std::string scales = "field";
  bool edges = false, json = false;
};

constexpr std::array<std::string_view, 3> line_names{"none", "borders", "mesh"}, scale_names{"field", "one", "own"};
/// A sheet has no room for more.
constexpr std::size_t most_frames = 12;

drawing::View view_of(const std::string& text) {
  if (auto named = drawing::view_named(text)) return *named;
  drawing::View out;
  std::string_view left = text;
  Eigen::Index k = 0;
  for (; k < 3; ++k) {
    const std::size_t end = std::min(left.find(','), left.size());
    const auto [stop, error] = std::from_chars(left.data(), left.data() + end, out.towards_eye[k]);
    if (error != std::errc{} || stop != left.data() + end) break;
    if (k < 2 && end == left.size()) break;
    left.remove_prefix(std::min(left.size(), end + 1));
  }
  if (k == 3 && left.empty() && out.towards_eye.allFinite() && out.towards_eye.cwiseAbs().maxCoeff() > 1e-12)
    return out;
  throw Failure({Severity::error,
                 "picture.view",
                 fmt::format("'{}' is no place to look from", plain_text(text, 40)),
                 {},
                 fmt::format("--view: {}; or a direction from the part to the eye, 1,-1,0.5",
                             fmt::join(drawing::view_names(), ", "))});
}

/// A part with all that a picture may show of it; what answers tell is read when it is asked for.
struct Source {
  std::size_t number;  ///< from 1
  std::string variant, folder;
  Design design;
  std::vector<mesh::Array> arrays;
  std::vector<std::string> case_names;
};

void add_results(Source& source, const Choices& choices, const SideBySide::One& one, Findings& findings) {
  const model::Model model =
      assemble(source.design, {.quadratic = true, .laminate_only = false, .solids = one.model.options()}, findings);
  const auto criteria = criteria_named(choices.criteria);
  const Answers answers = read_answers(one.answers, model, choices.cases, Modes::where_there, findings);
  const result::Recovery recovery(model, criteria);
  const result::Reserves reserves = recovery.reserves(answers.fields, answers.cases, progress_line());
  review::FieldsToWrite written;
  written.modes = answers.modes;
  // Plies whose stresses are asked for by name: "K1 top: s1 ply".
  for (const part::PlyId p : source.design.part.plies.ids())
    if (std::any_of(choices.of.begin(), choices.of.end(), [&](const std::string& of) {
          return of.find(source.design.part.plies[p].id + " ") != std::string::npos;
        }))
      written.plies.push_back(p);
  for (mesh::Array& array :
       review::result_fields({source.design, model, recovery, answers.fields, answers.cases, reserves}, written))
    source.arrays.push_back(std::move(array));
  for (const model::Model::Case& of : model.cases) source.case_names.push_back(of.name);
}

/// All names there are; zones and plies by one.
std::string names_of(std::span<const mesh::Array> arrays) {
  std::vector<std::string> names;
  const auto once = [&](std::string name) {
    if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(std::move(name));
  };
  for (const mesh::Array& array : arrays)
    once(array.name.starts_with("zone ") ? "zone NAME" : array.name.starts_with("ply ") ? "ply NAME" : array.name);
  return listed(names, 100);
}

/// \param more what else there is to say than which fields there are, or in their place
Failure unknown_field(const Source& source, const std::string& of, const std::string& more) {
  const bool solved = !review::arrays_named(source.arrays, "reserve").empty(), near = more.starts_with("did you");
  const std::string there = fmt::format("fields: {}{}", names_of(source.arrays),
                                        solved ? "; and of a ply that answers tell of: \"NAME top: s1\"" : "");
  return Failure(
      {Severity::error, "picture.field-unknown",
       fmt::format("{} no field '{}'", more.empty() || near ? "there is" : "the part itself has", plain_text(of, 60)),
       Place::in(source.design.part.file),
       near           ? more
       : more.empty() ? there
                      : fmt::format("{}; {}", more, there)});
}

/// With and without their units.
std::vector<std::string> names_to_compare(std::span<const mesh::Array> arrays) {
  std::vector<std::string> out;
  for (const mesh::Array& array : arrays) {
    out.push_back(array.name);
    if (const std::size_t blank = array.name.rfind(' '); blank != std::string::npos)
      out.push_back(array.name.substr(0, blank));
  }
  return out;
}

/// Of each part, what answers tell, too, where something is asked that is like nothing of the part itself.
std::vector<std::unique_ptr<Source>> sources_of(const Choices& choices, Findings& findings) {
  std::vector<std::unique_ptr<Source>> out;
  for (std::size_t i = 0; i < choices.of_parts.parts.size(); ++i) {
    auto one = choices.of_parts.one(i);
    SectionChoice sections = choices.sections;
    take_records(one.answers, one.part, choices.cases, sections, one.model);
    auto source = std::make_unique<Source>(Source{i + 1,
                                                  one.part.variant.value_or(""),
                                                  one.answers.folder,
                                                  open_part(one.part, findings, sections.options(), progress_line()),
                                                  {},
                                                  {}});
    check_units(out.empty() ? source->design : out.front()->design, source->design);
    source->arrays = review::fields(source->design, review::Plies::included);
    source->arrays.push_back(review::zones_together(source->design));
    for (mesh::Array& array : review::drape_fields(source->design)) source->arrays.push_back(std::move(array));
    const std::vector<std::string> names = names_to_compare(source->arrays);
    const auto other = std::find_if(choices.of.begin(), choices.of.end(), [&](const std::string& of) {
      return review::arrays_named(source->arrays, of).empty() && !nearest_name(of, names);
    });
    if (other != choices.of.end()) {
      try {
        add_results(*source, choices, one, findings);
      } catch (const Failure& failure) {
        const Finding& none = failure.findings().front();
        if (none.code != "result.none") throw;
        throw unknown_field(*source, *other, fmt::format("for fields of answers {}", none.remedy));
      }
    }
    out.push_back(std::move(source));
  }
  return out;
}

/// The fields that an option asks for. \throws Failure "picture.field-unknown".
std::vector<const mesh::Array*> arrays_of(const Source& source, const std::string& of) {
  auto out = review::arrays_named(source.arrays, of);
  if (!out.empty()) return out;
  const auto near = nearest_name(of, names_to_compare(source.arrays));
  throw unknown_field(source, of, near ? fmt::format("did you mean '{}'?", *near) : "");
}

drawing::PictureFrame frame_of(const Source& source, const mesh::Array& array, const Choices& choices) {
  const auto beside = review::arrays_named(source.arrays, "stress doubtful");
  drawing::PictureFrame out = drawing::frame_of(
      source.design.surface,
      review::shown(source.design, array, source.case_names, beside.empty() ? nullptr : beside.front()), choices.moved);
  if (!choices.zone.empty()) {
    const zone::ZoneId z = result::zone_named(source.design, choices.zone);
    out.shown.assign(source.design.surface.element_count(), 0);
    for (const mesh::ElementIndex e : source.design.layup.zones.elements(z)) out.shown[e] = 1;
  }
  if (choices.edges && out.points.empty()) out.over = review::edge_lines(source.design).lines;
  return out;
}

/// What tells a part from those beside it: its name, its variant, its file, or its number.
std::string title_of(const Source& source, const std::vector<std::unique_ptr<Source>>& all) {
  const auto tells = [&](const auto& what) {
    return std::all_of(all.begin(), all.end(),
                       [&](const auto& other) { return other.get() == &source || what(*other) != what(source); });
  };
  if (tells([](const Source& of) { return of.design.part.name; })) return source.design.part.name;
  if (tells([](const Source& of) { return of.variant; })) return source.variant.empty() ? "as it is" : source.variant;
  if (tells([](const Source& of) { return of.design.part.file; })) return source.design.part.file;
  if (tells([](const Source& of) { return of.folder; })) return "in " + source.folder;
  return fmt::format("{}, {}", source.design.part.name, source.number);
}

drawing::PictureSheet sheet_of(const Choices& choices) {
  if (choices.range.size() == 2 &&
      !(choices.range[0] < choices.range[1] && std::isfinite(choices.range[1] - choices.range[0])))
    throw Failure(
        {Severity::error, "picture.range", "a scale goes from one number to a larger one", {}, "--range 0,5"});
  drawing::PictureSheet out;
  out.view = view_of(choices.view);
  out.lines =
      static_cast<drawing::Lines>(std::find(line_names.begin(), line_names.end(), choices.lines) - line_names.begin());
  if (choices.range.size() == 2) out.range = {choices.range[0], choices.range[1]};
  return out;
}

int run(const Choices& choices) {
  return guarded({"picture", choices.json}, [&](Findings& findings) {
    check_lists(choices.of_parts);
    drawing::PictureSheet sheet = sheet_of(choices);
    const auto sources = sources_of(choices, findings);
    const part::Part& first = sources.front()->design.part;
    Json told = Json::array();
    TableText table({"picture", "field", "least", "largest"});
    for (std::size_t of = 0; of < choices.of.size(); ++of)
      for (const auto& source : sources)
        for (const mesh::Array* const array : arrays_of(*source, choices.of[of])) {
          if (sheet.frames.size() == most_frames)
            throw Failure({Severity::error,
                           "picture.too-many",
                           fmt::format("more than {} pictures do not fit on a sheet", most_frames),
                           {},
                           "name fewer fields, or one by its whole name"});
          drawing::PictureFrame frame = frame_of(*source, *array, choices);
          frame.scale = choices.scales == "one" ? 0 : choices.scales == "own" ? sheet.frames.size() : of;
          if (sources.size() > 1) frame.title = fmt::format("{}: {}", title_of(*source, sources), array->name);
          const auto range = drawing::range_of(frame);
          const std::vector<std::string>& categories = frame.colouring.categories;
          const bool numbers = range && categories.empty();
          told.push_back({{"title", frame.title},
                          {"field", array->name},
                          {"least", numbers ? Json((*range)[0]) : Json(nullptr)},
                          {"largest", numbers ? Json((*range)[1]) : Json(nullptr)},
                          {"categories", categories},
                          {"moved", frame.moved}});
          table.add({frame.title, array->name, numbers ? number((*range)[0]) : "",
                     numbers ? number((*range)[1]) : listed(categories, 6)});
          sheet.frames.push_back(std::move(frame));
        }
    sheet.title = choices.title.empty() ? first.name : choices.title;
    const drawing::PictureFrame& whole = sheet.frames.front();
    const auto count = whole.shown.empty()
                           ? whole.surface->element_count()
                           : static_cast<std::size_t>(std::count(whole.shown.begin(), whole.shown.end(), 1));
    sheet.subtitle = fmt::format("{}{}; seen from {}", counted(count, "element"),
                                 choices.zone.empty() ? "" : " of zone " + choices.zone, choices.view);
    if (sources.size() > 1) sheet.subtitle = "seen from " + choices.view;
    sheet.length_unit = first.units.unit(Dimension::length);
    drawing::draw(sheet, choices.write);
    if (choices.json) {
      print_document("picture", first.units, {{"part", first.name}, {"written", choices.write}, {"pictures", told}},
                     findings);
    } else {
      print_findings(worth_saying(findings, findings.all().size()), stderr);
      table.print(stdout);
      fmt::print(stderr, "wrote {}\n", choices.write);
    }
    return 0;
  });
}

}  // namespace picture_command

void add_picture(CLI::App& program, int& exit_code) {
  using namespace picture_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "picture", "Still pictures of a part, coloured by any field of it or of its answers, as SVG, PDF or PNG");
  command->add_option("part", choices->of_parts.parts, "The part file; several, one beside the other")->required();
  add_section_options(*command, choices->sections);
  command
      ->add_option(
          "--of", choices->of,
          "Field of `bordado fields --plies`, of cloth or of answers, by its name or what that begins with: thickness, "
          "\"ply K1\", laminate, reserve, displacement, \"hum: mode\"; several")
      ->allow_extra_args(false)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  command
      ->add_option(
          "--view", choices->view,
          fmt::format("From where: {}; or the direction to the eye, x,y,z", fmt::join(drawing::view_names(), ", ")))
      ->capture_default_str();
  command->add_option("--lines", choices->lines, "none, borders (and folds), or mesh")
      ->check(CLI::IsMember(std::vector<std::string>(line_names.begin(), line_names.end())))
      ->capture_default_str();
  command->add_option("--zone", choices->zone, "Only this zone of the part, as large as it can be");
  command->add_option("--moved", choices->moved,
                      "How many times as far as it moves, of displacements and modes; round and visible if not given");
  command->add_option("--range", choices->range, "least,largest of the colours")->delimiter(',')->expected(2);
  command->add_option("--scales", choices->scales, "Of colours: one for each --of, one for all, or each picture's own")
      ->check(CLI::IsMember(std::vector<std::string>(scale_names.begin(), scale_names.end())))
      ->capture_default_str();
  command->add_flag("--edges", choices->edges, "With the edges of plies as lines");
  command->add_option("--title", choices->title, "Over the sheet; the part's name if not given");
  command->add_option("--case", choices->cases, "Which load cases; all when not given");
  add_side_by_side_options(*command, choices->of_parts);
  add_criterion_option(*command, choices->criteria);
  add_output_option(*command, "-o,--write", choices->write, "The sheet, .svg, .pdf or .png")->required();
  command->add_flag("--json", choices->json, "Print JSON");
  command->footer(
      "Examples:\n  bordado picture skiff.toml --of thickness -o hull.png\n"
      "  bordado picture skiff.toml --of \"ply K1\" --view below -o keel.svg\n"
      "  bordado picture blade.toml --of displacement --of reserve --folder out -o answers.pdf\n");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
