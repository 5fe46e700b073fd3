// bordado solve: write CalculiX decks, run the solver, and tell whether to believe it.
#include "reserve_text.hpp"

#include <bordado/base/replacing.hpp>
#include <bordado/calculix.hpp>

#include <fmt/format.h>

#include <filesystem>
#include <memory>
#include <thread>

namespace bordado::cli {

namespace solve_command {

struct Choices {
  PartChoice part;
  SectionChoice sections;
  ModelChoice model;
  std::vector<std::string> cases;
  std::string folder = ".";
  std::string solver = "ccx";
  std::size_t side_by_side = 0;
  double idle = calculix::RunOptions{}.longest_idle;
  std::vector<std::string> criteria;
  bool real_plies = false;
  bool no_ply_results = false;
  bool json = false;
};

bool has_modes(const calculix::Solved& solved) {
  return solved.analysis == part::Analysis::frequencies || solved.analysis == part::Analysis::buckling;
}

std::vector<result::SupportForce> by_support(const model::Model& model, const calculix::Solved& solved) {
  const auto one = std::find_if(model.cases.begin(), model.cases.end(),
                                [&](const model::Model::Case& c) { return c.name == solved.name; });
  return one == model.cases.end() ? std::vector<result::SupportForce>()
                                  : result::forces_of_supports(model, *one, solved.fields, solved.reaction);
}

Json as_json(const model::Model& model, const calculix::Solved& solved, const model::Total& load) {
  Json out = {{"case", solved.name}, {"analysis", part::analysis_names[static_cast<std::size_t>(solved.analysis)]}};
  if (has_modes(solved)) {
    Json modes = Json::array();
    for (const calculix::ToldMode& mode : solved.modes) {
      Json one = {{solved.analysis == part::Analysis::buckling ? "factor" : "frequency", mode.value},
                  {"across", mode.across}};
      if (solved.analysis == part::Analysis::buckling) one["reversed"] = mode.reversed;
      if (solved.analysis == part::Analysis::frequencies) one["rigid"] = mode.rigid;
      if (mode.unstable) one["unstable"] = true;
      modes.push_back(std::move(one));
    }
    out["modes"] = std::move(modes);
  } else {
    out["largest_deflection"] = solved.largest.value.norm();
    out["node"] = solved.largest.id;
    out["displacement"] = to_json(solved.largest.value);
    out["at"] = to_json(solved.largest_at);
    out["load"] = to_json(load.force);
    out["load_moment"] = to_json(load.moment);
    out["reaction"] = to_json(solved.reaction);
    out["supports"] = Json::array();
    for (const result::SupportForce& support : by_support(model, solved)) {
      Json told = {{support.moves ? "load" : "support", support.name}, {"reaction", to_json(support.force)}};
      if (support.moment) told["moment"] = to_json(*support.moment);
      out["supports"].push_back(std::move(told));
    }
    out["work"] = solved.work;
    out["strain_energy"] = solved.strain_energy;
    if (solved.largest_mesh_id) out["mesh_node"] = *solved.largest_mesh_id;
  }
  out["seconds"] = solved.seconds;
  out["answer_bytes"] = solved.answer_bytes;
  out["deck"] = solved.deck.path;
  out["results"] = solved.run.answers;
  return out;
}

void print_static(const model::Model& model, const UnitSystem& units, const calculix::Solved& solved,
                  const model::Total& load) {
  const std::string force = units.unit(Dimension::force);
  const std::string node = solved.largest_mesh_id == solved.largest.id ? fmt::format("node {}", solved.largest.id)
                           : solved.largest_mesh_id
                               ? fmt::format("node {}, {} in the mesh file", solved.largest.id, *solved.largest_mesh_id)
                               : fmt::format("node {}, added in the middle of an edge", solved.largest.id);
  fmt::print("  largest deflection  {} at {} {} ({}): {}\n", length_text(units, solved.largest.value.norm()),
             point_text(solved.largest_at), units.unit(Dimension::length), node, point_text(solved.largest.value));
  fmt::print("  loads               {} {} in all, moment {} {} about the origin\n", point_text(load.force), force,
             point_text(load.moment), units.unit(Dimension::moment));
  fmt::print("  reactions           {} {}\n", point_text(solved.reaction), force);
  const auto supports = by_support(model, solved);
  if (supports.size() == 1 && supports.front().moment)
    fmt::print("    {:<18}moment {} {} about the origin\n", plain_text(supports.front().name),
               point_text(*supports.front().moment), units.unit(Dimension::moment));
  if (supports.size() > 1)
    for (const result::SupportForce& support : supports)
      fmt::print("    {:<18}{} {}{}{}\n", plain_text(support.name), point_text(support.force), force,
                 support.moment ? fmt::format(", moment {} {} about the origin", point_text(*support.moment),
                                              units.unit(Dimension::moment))
                                : "",
                 support.moves ? ", which moves it" : "");
  if (solved.work != 0.0)
    fmt::print("  work of the loads   {:.4g} {}; strain energy {:.4g}\n", solved.work, units.unit(Dimension::moment),
               solved.strain_energy);
}

void print_modes(const calculix::Solved& solved, const UnitSystem& units) {
  const bool buckling = solved.analysis == part::Analysis::buckling;
  TableText table({"mode", buckling ? "factor" : fmt::format("frequency 1/{}", units.unit(Dimension::time)),
                   "across the surface", ""});
  std::size_t number = 0;
  for (const calculix::ToldMode& mode : solved.modes)
    table.add({fmt::format("{}", ++number), fmt::format("{:#.5g}", mode.value),
               fmt::format("{:.0f} %", 100.0 * mode.across),
               mode.rigid           ? "moves as a whole"
               : mode.unstable      ? "unstable"
               : mode.reversed      ? "loads reversed"
               : mode.across < 0.05 ? "within the surface"
                                    : ""});
  table.print(stdout);
}

void print(const Design& design, const model::Model& model, const calculix::Solved& solved, const model::Total& load,
           bool named) {
  const UnitSystem& units = design.part.units;
  const std::string title = named ? fmt::format("{}: {}, {}", plain_text(design.part.name), solved.name,
                                                part::analysis_names[static_cast<std::size_t>(solved.analysis)])
                                  : plain_text(design.part.name);
  fmt::print("{}\n", styled(title, Style::bold, fileno(stdout)));
  if (has_modes(solved))
    print_modes(solved, units);
  else
    print_static(model, units, solved, load);
  fmt::print("  solver              {:.1f} s, {:.1f} MB of answers\n", solved.seconds,
             static_cast<double>(solved.answer_bytes) / 1e6);
  // All stand beside each other under one name: their endings tell them apart.
  std::string files = solved.deck.path;
  for (const std::string& answer : solved.run.answers)
    files += ", " + std::filesystem::path(answer).extension().string();
  fmt::print("  files               {}\n", files);
}

int run(const Choices& choices) {
  return guarded({"solve", choices.json}, [&](Findings& findings) {
    if (choices.model.options() && choices.real_plies)
      throw Failure({Severity::error,
                     "deck.choices",
                     "--solids and --real-plies do not go together",
                     {},
                     "leave one of them out"});
    const Design design = open_part(choices.part, findings, choices.sections.options(), progress_line());
    const std::size_t opened = findings.all().size();
    const std::string path =
        (std::filesystem::path(choices.folder) / std::filesystem::path(choices.part.file).stem()).string() + ".inp";
    const model::Model model =
        assemble(design, {.quadratic = true, .laminate_only = false, .solids = choices.model.options()}, findings);
    const auto criteria = criteria_named(choices.criteria, model.solids != nullptr);
    const bool judged = !choices.no_ply_results;
    if (judged) find_missing(design, criteria, findings);
    if (judged) result::check_peel(model, criteria, findings);
    const std::size_t cores = std::max(1u, std::thread::hardware_concurrency());
    make_folder(choices.folder);
    const std::vector<calculix::Solved> all = calculix::solve_cases(
        model, path,
        {.run = {.solver = choices.solver, .may_replace = may_replace(), .longest_idle = choices.idle},
         .deck = {.ply_results = !choices.no_ply_results,
                  .layers = choices.real_plies ? std::optional(deck::LayersAs::plies) : std::nullopt,
                  .may_replace = may_replace()}},
        cases_of(model, choices.cases), choices.side_by_side ? choices.side_by_side : cores, findings, progress_line());
    // Static cases together.
    std::vector<model::CaseFields> fields;
    std::vector<std::size_t> of_cases;
    for (const calculix::Solved& solved : all)
      if (judged && !solved.fields.sections.empty()) {
        fields.push_back(solved.fields);
        of_cases.push_back(static_cast<std::size_t>(
            std::find_if(model.cases.begin(), model.cases.end(),
                         [&](const model::Model::Case& load_case) { return load_case.name == solved.name; }) -
            model.cases.begin()));
      }
    std::optional<result::Reserves> reserves;
    if (!fields.empty()) reserves = result::Recovery(model, criteria).reserves(fields, of_cases, progress_line());
    if (choices.json) {
      Json cases = Json::array();
      for (const calculix::Solved& solved : all)
        cases.push_back(as_json(model, solved, solved.deck.loads.front().second));
      Json out = {{"part", design.part.name}, {"cases", cases}};
      out["reserves"] = reserves ? reserves_json(design, model, *reserves) : Json(nullptr);
      print_document("solve", design.part.units, out, findings);
      return 0;
    }
    const std::vector<Finding> said = worth_saying(findings, opened);
    print_findings(said, stdout);
    if (!said.empty()) fmt::print("\n");
    for (std::size_t i = 0; i < all.size(); ++i) {
      if (i > 0) fmt::print("\n");
      print(design, model, all[i], all[i].deck.loads.front().second, !design.part.cases.empty());
    }
    if (reserves) {
      fmt::print("\n");
      print_reserves(design, model, *reserves, 5);
    }
    return 0;
  });
}

}  // namespace solve_command

void add_solve(CLI::App& program, int& exit_code) {
  using namespace solve_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "solve",
      "Write CalculiX decks, run them, check that they finished, print deflections, frequencies, factors, reserves");
  add_part_option(*command, choices->part);
  add_section_options(*command, choices->sections);
  add_model_options(*command, choices->model);
  command->add_option("--case", choices->cases, "Which load cases; all when not given");
  command->add_option("--side-by-side", choices->side_by_side, "Cases solved at a time; as many as there are cores")
      ->check(CLI::Range(1, 256));
  add_output_folder(*command, choices->folder, "Where deck and results go; made where it is not there");
  command->add_option("--solver", choices->solver, "The CalculiX program")->capture_default_str();
  command->add_option("--idle", choices->idle, "Seconds after which a solver is stopped that neither works nor writes")
      ->check(CLI::Range(0.1, 1e9))
      ->capture_default_str();
  add_real_plies_option(*command, choices->real_plies);
  add_criterion_option(*command, choices->criteria);
  command->add_flag("--no-ply-results", choices->no_ply_results, "Do not ask for strain in every ply");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Examples:\n  bordado solve skiff.toml --folder out\n  bordado solve rudder.toml --solids 3 --case gust");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
