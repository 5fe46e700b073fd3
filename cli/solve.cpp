// bordado solve: write the CalculiX deck, run the solver, and tell whether to believe it.
#include "print.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <memory>

namespace bordado::cli {

namespace solve_command {

struct Choices {
  PartChoice part;
  SectionChoice sections;
  std::string folder = ".";
  std::string solver = "ccx";
  bool equivalent = false;
  bool no_ply_results = false;
  bool json = false;
};

Json as_json(const Design& design, const result::Solved& solved) {
  Json out = {{"part", design.part.name},
              {"largest_deflection", solved.largest.value.norm()},
              {"node", solved.largest.id},
              {"displacement", to_json(solved.largest.value)},
              {"at", to_json(solved.largest_at)},
              {"load", to_json(solved.deck.total_load)},
              {"reaction", to_json(solved.reaction)},
              {"work", solved.work},
              {"strain_energy", solved.strain_energy},
              {"deck", solved.deck.path},
              {"results", solved.run.answers}};
  if (solved.largest_mesh_id) out["mesh_node"] = *solved.largest_mesh_id;
  return out;
}

void print(const Design& design, const result::Solved& solved) {
  const UnitSystem& units = design.part.units;
  const std::string force = units.unit(Dimension::force);
  const std::string node = solved.largest_mesh_id == solved.largest.id ? fmt::format("node {}", solved.largest.id)
                           : solved.largest_mesh_id
                               ? fmt::format("node {}, {} in the mesh file", solved.largest.id, *solved.largest_mesh_id)
                               : fmt::format("node {}, added in the middle of an edge", solved.largest.id);
  fmt::print("{}\n", styled(plain_text(design.part.name), Style::bold, fileno(stdout)));
  fmt::print("  largest deflection  {} at {} {} ({}): {}\n", length_text(units, solved.largest.value.norm()),
             point_text(solved.largest_at), units.unit(Dimension::length), node, point_text(solved.largest.value));
  fmt::print("  loads               {} {} in all\n", point_text(solved.deck.total_load), force);
  fmt::print("  reactions           {} {}\n", point_text(solved.reaction), force);
  fmt::print("  work of the loads   {:.4g} {} {}; strain energy {:.4g}\n", solved.work, force,
             units.unit(Dimension::length), solved.strain_energy);
  fmt::print("  files               {}, {}\n", solved.deck.path, fmt::join(solved.run.answers, ", "));
}

int run(const Choices& choices) {
  return guarded({"solve", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, choices.sections.options(), progress_line());
    const std::size_t opened = findings.all().size();
    const std::string deck =
        (std::filesystem::path(choices.folder) / std::filesystem::path(choices.part.file).stem()).string() + ".inp";
    const result::Solved solved =
        solve(design, deck,
              {.run = {.solver = choices.solver},
               .deck = {.ply_results = !choices.no_ply_results,
                        .layers = choices.equivalent ? deck::LayersAs::equivalents : deck::LayersAs::plies,
                        .may_replace = MayReplace::only_our_own}},
              findings, progress_line());
    if (choices.json) {
      print_document("solve", design.part.units, as_json(design, solved), findings);
      return 0;
    }
    const std::vector<Finding> said = worth_saying(findings, opened);
    print_findings(said, stdout);
    if (!said.empty()) fmt::print("\n");
    print(design, solved);
    return 0;
  });
}

}  // namespace solve_command

void add_solve(CLI::App& program, int& exit_code) {
  using namespace solve_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "solve", "Write the CalculiX deck, run it, check that it finished, print the largest deflection");
  add_part_option(*command, choices->part);
  add_section_options(*command, choices->sections);
  command->add_option("--folder", choices->folder, "Where deck and results go")->capture_default_str();
  command->add_option("--solver", choices->solver, "The CalculiX program")->capture_default_str();
  add_equivalent_option(*command, choices->equivalent);
  command->add_flag("--no-ply-results", choices->no_ply_results, "Do not ask for stress and strain in every ply");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer("Example:\n  bordado solve skiff.toml --folder out");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
