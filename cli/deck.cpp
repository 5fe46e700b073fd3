// bordado deck: solver decks.
#include "answers.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck/record.hpp>
#include <bordado/strength.hpp>

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <memory>

namespace bordado::cli {

namespace deck_command {

struct Choices {
  PartChoice part;
  std::vector<std::string> formats;
  std::string folder = ".";
  std::string into;
  bool laminate_only = false;
  bool no_ply_results = false;
  bool real_plies = false;
  bool without_layers = false;
  std::string judged_by;
  ModelChoice model;
  std::vector<std::string> cases;
  double orientation_tolerance = deck::WriteOptions{}.orientation_tolerance.degrees();
  SectionChoice sections;
  bool json = false;
};

/// What acts in each case, where there are several or a moment says more than the force.
void print_loads(const Design& design, const deck::Written& written) {
  if (design.part.cases.empty() || written.loads.empty()) return;
  const UnitSystem& units = design.part.units;
  TableText table(
      {"case", "force " + units.unit(Dimension::force), "moment about the origin " + units.unit(Dimension::moment)});
  for (const auto& [name, load] : written.loads) table.add({name, point_text(load.force), point_text(load.moment)});
  fmt::print("\n");
  table.print(stdout);
}

/// The format of a deck that exists: the one that was named, or what its lines look like.
const deck::Format& format_of(const Choices& choices) {
  if (choices.formats.size() == 1) return *deck::find_format(choices.formats.front());
  const std::string text = read_file(choices.into);
  for (const std::string_view keyword : {"\n*NODE", "\n*Node", "\n*node", "\n*ELEMENT", "\n*Element", "\n*element"})
    if (("\n" + text).find(keyword) != std::string::npos) return *deck::find_format("calculix");
  return *deck::find_format("bulk-data");
}

/// Somebody's deck again, with our laminate in it.
deck::Written put_into(const Choices& choices, const Design& design, const deck::WriteOptions& options,
                       Findings& findings) {
  const deck::Format& format = format_of(choices);
  const std::filesystem::path existing(choices.into);
  const std::string path = (std::filesystem::path(choices.folder) /
                            (existing.stem().string() + "-laminated" + existing.extension().string()))
                               .string();
  const model::Model model = assemble(design, {.quadratic = false, .laminate_only = true, .solids = {}}, findings);
  deck::WriteOptions own = options;
  own.laminate_only = true;
  make_folder(choices.folder);
  return write_into(format, model, choices.into, path, own, findings);
}

/// Choices that do not go together.
void check_choices(const Choices& choices) {
  const auto no = [](std::string_view one, std::string_view other) {
    throw Failure({Severity::error,
                   "deck.choices",
                   fmt::format("{} and {} do not go together", one, other),
                   {},
                   "leave one of them out"});
  };
  const bool solids = choices.model.options().has_value();
  if (solids && !choices.into.empty()) no("--solids", "--into");
  if (solids && choices.real_plies) no("--solids", "--real-plies");
  if (solids && choices.without_layers) no("--solids", "--without-layers");
  if (choices.without_layers && choices.real_plies) no("--without-layers", "--real-plies");
  if (choices.without_layers && !choices.judged_by.empty()) no("--without-layers", "--judged-by");
  if (solids && !choices.judged_by.empty()) no("--solids", "--judged-by");
  if (!solids && choices.model.constants != 0)
    throw Failure({Severity::error,
                   "deck.choices",
                   "--constants is of solids, and this deck has shells",
                   {},
                   "add --solids, or leave it out"});
  if (!choices.into.empty() && !choices.cases.empty()) no("--into", "--case");
  if (choices.laminate_only && !choices.cases.empty()) no("--laminate-only", "--case");
}

int run(const Choices& choices) {
  return guarded({"deck", choices.json}, [&](Findings& findings) {
    check_choices(choices);
    const Design design = open_part(choices.part, findings, choices.sections.options(), progress_line());
    const deck::WriteOptions options{.orientation_tolerance = Angle::degrees(choices.orientation_tolerance),
                                     .laminate_only = choices.laminate_only,
                                     .ply_results = !choices.no_ply_results,
                                     .layers = choices.real_plies       ? std::optional(deck::LayersAs::plies)
                                               : choices.without_layers ? std::optional(deck::LayersAs::equivalents)
                                                                        : std::nullopt,
                                     .judged_by = laminate::criterion_named(choices.judged_by),
                                     .may_replace = may_replace()};
    const std::string stem =
        std::filesystem::path(choices.part.file).stem().string() + (choices.laminate_only ? "-laminate" : "");
    const std::size_t opened = findings.all().size();
    std::vector<deck::Written> all;
    std::vector<std::string> names;
    const Progress progress = progress_line();
    if (!choices.into.empty()) {
      all.push_back(put_into(choices, design, options, findings));
      names.emplace_back();
    }
    std::optional<model::Model> model;
    bool was_quadratic = false;
    for (const deck::Format& format : deck::formats()) {
      if (!choices.into.empty()) break;
      if (!choices.formats.empty() &&
          std::find(choices.formats.begin(), choices.formats.end(), format.name) == choices.formats.end())
        continue;
      // Formats that want the same model share it.
      const auto solids = choices.model.options();
      const bool quadratic = format.quadratic || solids;
      if (!model || quadratic != was_quadratic)
        model = assemble(design, {.quadratic = quadratic, .laminate_only = choices.laminate_only, .solids = solids},
                         findings);
      was_quadratic = quadratic;
      make_folder(choices.folder);
      for (const auto& [path, cases] :
           deck_files(format, *model, cases_of(*model, choices.cases), choices.folder, stem)) {
        if (std::any_of(all.begin(), all.end(), [&](const deck::Written& other) { return other.path == path; }))
          throw Failure({Severity::error, "case.names", fmt::format("two decks would both be '{}'", path),
                         Place::in(design.part.file), "name cases so that letters and digits tell them apart"});
        if (progress) progress("writing " + path, 0.5);
        deck::WriteOptions own = options;
        own.cases = cases;
        if (!choices.laminate_only) check_replaceable(deck::record_path(path), options.may_replace);
        all.push_back(format.write(*model, path, own, findings));
        names.push_back(write_names(all.back(), *model, options.may_replace));
        deck::Record record = deck::record_of(*model, own, all.back());
        deck::keep_refusal(record, path);
        if (!choices.laminate_only) deck::write_record(record, path, options.may_replace);
      }
    }
    if (progress) progress("", 1.0);
    // What was written is read again: one face of the laminate lies where the part says.
    const auto flush = [&](const deck::Written& written) {
      return written.equivalent_sections > 0 ? std::nullopt
                                             : deck::flush_face(read_file(written.path), design.part.flush);
    };
    if (choices.json) {
      Json decks = Json::array();
      for (const deck::Written& written : all) {
        Json one = {{"file", written.path},
                    {"bytes", written.bytes},
                    {"nodes", written.nodes},
                    {"elements", written.elements},
                    {"sections", written.sections},
                    {"orientations", written.orientations},
                    {"largest_orientation_error_deg", written.largest_orientation_error.degrees()},
                    {"names", names[decks.size()]}};
        if (names[decks.size()].empty()) one.erase("names");
        Json loads = Json::array();
        for (const auto& [name, load] : written.loads)
          loads.push_back({{"case", name}, {"force", to_json(load.force)}, {"moment", to_json(load.moment)}});
        if (!written.loads.empty()) one["load"] = to_json(written.loads.front().second.force);
        one["loads"] = std::move(loads);
        if (written.solids > 0) one["solids"] = written.solids;
        if (const auto face = flush(written))
          one["flush"] = {{"face", part::name_of(design.part.flush)},
                          {"sections", face->sections},
                          {"lowest", face->lowest},
                          {"highest", face->highest}};
        if (written.shear_fit)
          one["shear_fit"] = {{"sections", written.shear_fit->sections},
                              {"too_stiff_by", written.shear_fit->voigt_over_H},
                              {"left_over", written.shear_fit->leftover}};
        // Where the deck numbers anew: what the mesh file calls number 1, 2, ... of the deck.
        if (!written.mesh_element_ids.empty()) one["mesh_element_ids"] = written.mesh_element_ids;
        if (!written.mesh_node_ids.empty()) one["mesh_node_ids"] = written.mesh_node_ids;
        decks.push_back(std::move(one));
      }
      print_document("deck", design.part.units, {{"part", design.part.name}, {"decks", decks}}, findings);
      return 0;
    }
    TableText table(
        {"deck", "nodes", choices.model.options() ? "solids" : "elements", "sections", "orientations", "kB"});
    for (const deck::Written& written : all)
      table.add({written.path, choices.laminate_only ? "none" : fmt::format("{}", written.nodes),
                 fmt::format("{}", written.solids > 0 ? written.solids : written.elements),
                 fmt::format("{}", written.sections),
                 written.orientations ? fmt::format("{}", written.orientations) : "by angle",
                 fmt::format("{}", (written.bytes + 999) / 1000)});
    const std::vector<Finding> said = worth_saying(findings, opened);
    print_findings(said, stdout);
    if (!said.empty()) fmt::print("\n");
    table.print(stdout);
    if (!choices.laminate_only && !all.empty()) print_loads(design, all.front());
    const std::string unit = design.part.units.unit(Dimension::length);
    for (const deck::Written& written : all)
      if (const auto face = flush(written))
        fmt::print("{}: by its {} the {} of the laminate lies {} above the mesh\n", written.path,
                   counted(face->sections, "shell section"),
                   design.part.flush == part::Flush::middle ? "middle"
                                                            : fmt::format("{} face", part::name_of(design.part.flush)),
                   face->highest - face->lowest <= 1e-9 * (1.0 + std::abs(face->highest))
                       ? fmt::format("{:.4g} {}", face->lowest + 0.0, unit)
                       : fmt::format("{:.6g} to {:.6g} {}", face->lowest, face->highest, unit));
    return 0;
  });
}

}  // namespace deck_command

void add_deck(CLI::App& program, int& exit_code) {
  using namespace deck_command;
  auto choices = std::make_shared<Choices>();
  std::vector<std::string> names;
  for (const deck::Format& format : deck::formats()) names.emplace_back(format.name);
  CLI::App* const command = program.add_subcommand("deck", "Write solver decks");
  add_part_option(*command, choices->part);
  command->add_option("--format", choices->formats, "Which decks; all when not given")->check(CLI::IsMember(names));
  add_output_folder(*command, choices->folder, "Where to write; made where it is not there");
  command->add_flag("--laminate-only", choices->laminate_only,
                    "Materials and sections only, to include in a deck that has mesh and loads");
  command
      ->add_option("--into", choices->into,
                   "A deck that exists: write it again as NAME-laminated with its shell sections replaced by the "
                   "laminate's, everything else byte for byte")
      ->check(CLI::ExistingFile);
  command->add_flag("--no-ply-results", choices->no_ply_results, "Do not ask for stress and strain in every ply");
  add_real_plies_option(*command, choices->real_plies);
  command->add_flag(
      "--without-layers", choices->without_layers,
      "Sections with their laminate's stiffness, mass and expansion, not its layers: bulk data a material for "
      "each of stretching, bending, shear and coupling, CalculiX three layers, with --laminate-only, too");
  std::vector<std::string> judges;
  for (const deck::Format& format : deck::formats())
    for (const laminate::Criterion criterion : format.judges) judges.emplace_back(laminate::name_of(criterion));
  command
      ->add_option("--judged-by", choices->judged_by,
                   "Bulk data: by what the solver is to judge layers, where all their strengths are known")
      ->check(CLI::IsMember(judges));
  add_model_options(*command, choices->model);
  command->add_option("--case", choices->cases, "Which load cases; all when not given");
  add_section_options(*command, choices->sections);
  command
      ->add_option("--orientation-tolerance", choices->orientation_tolerance,
                   "Degrees within which CalculiX elements share axes")
      ->check(CLI::Range(1e-3, 5.0))
      ->capture_default_str();
  command->add_flag("--json", choices->json, "Print JSON");
  command->footer(
      "Examples:\n  bordado deck skiff.toml --folder out\n  bordado deck skiff.toml --format bulk-data "
      "--laminate-only\n  bordado deck skiff.toml --into hull.inp --folder out");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
