// bordado solve: write the CalculiX deck, run the solver, and tell whether to believe it.
#include "print.hpp"

#include <fmt/format.h>

#include <sys/wait.h>
#include <cstdlib>
#include <filesystem>
#include <memory>

namespace bordado::cli {

namespace solve_command {

struct Choices {
  PartChoice part;
  std::string folder = ".";
  std::string solver = "ccx";
  bool json = false;
};

std::string quoted(const std::string& text) {
  std::string out = "'";
  for (const char c : text) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return out + "'";
}

/// Removes an earlier run's answers: the solver leaves them when it fails.
void remove_old(const std::filesystem::path& stem) {
  for (const std::string_view extension : {".dat", ".frd", ".sta", ".cvg", ".12d", ".log"}) {
    std::error_code ignored;
    std::filesystem::remove(stem.string() + std::string(extension), ignored);
  }
}

int run(const Choices& choices) {
  return guarded(choices.json, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, {}, progress_line());
    const std::size_t opened = findings.all().size();
    const std::string job = std::filesystem::path(choices.part.file).stem().string();
    const std::filesystem::path stem = std::filesystem::path(choices.folder) / job;
    const deck::Written written = write_deck(design, "calculix", stem.string() + ".inp", {}, findings);
    if (design.part.loads.empty())
      throw Failure({Severity::error, "solve.no-load", "the part declares no load, so there is nothing to solve",
                     Place::in(design.part.file), "add [load.NAME] with pressure or force"});
    remove_old(stem);
    const auto progress = progress_line();
    if (progress) progress("the solver runs", 0.5);
    const int status = std::system(fmt::format("cd {} && {} -i {} > {}.log 2>&1", quoted(choices.folder),
                                               quoted(choices.solver), quoted(job), quoted(job))
                                       .c_str());
    if (progress) progress("", 1.0);
    const int exit_status = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
    if (exit_status == 127)
      throw Failure({Severity::error,
                     "solve.no-solver",
                     fmt::format("the solver '{}' is not installed", choices.solver),
                     {},
                     "apt-get install calculix-ccx, or name it with --solver"});
    const std::string log = stem.string() + ".log";
    if (const auto trouble = result::calculix_trouble(exit_status, read_file(log)))
      throw Failure({Severity::error, "solve.failed", fmt::format("the solver failed: {}", *trouble), Place::in(log),
                     "read the whole of what it printed in that file"});
    const result::Answer answer = result::read_calculix(stem.string() + ".dat");
    const result::Row largest = *answer.largest();
    const UnitSystem& units = design.part.units;
    Vec3 where = Vec3::Zero();
    const mesh::Surface raised = mesh::raised_to_quadratic(design.surface);
    if (const auto node = mesh::node_with_id(raised, largest.id)) where = raised.points[*node];
    const Vec3 reaction = answer.reaction.value_or(Vec3::Zero()), imbalance = reaction + written.total_load;
    if (imbalance.norm() > 0.2 * std::max(reaction.norm(), written.total_load.norm()))
      findings.warning(
          "solve.unbalanced",
          fmt::format("reactions {} do not balance the loads {}", point_text(reaction), point_text(written.total_load)),
          {},
          "the solver's reactions leave out what acts on held nodes, and are some percent off where rotations are held "
          "on a curved edge; beyond that, check the supports");
    const mesh::Size size = mesh::size(design.surface, design.geometry);
    if (largest.value.norm() > 0.5 * (size.high - size.low).norm())
      findings.warning("solve.deflection-unlikely",
                       fmt::format("the largest deflection, {}, is more than half the size of the part",
                                   length_text(units, largest.value.norm())),
                       {}, "check that the supports hold the part: a free one solves to nonsense without an error");
    if (choices.json) {
      fmt::print("{}\n", Json{{"part", design.part.name},
                              {"largest_deflection", largest.value.norm()},
                              {"node", largest.id},
                              {"displacement", to_json(largest.value)},
                              {"at", to_json(where)},
                              {"load", to_json(written.total_load)},
                              {"reaction", to_json(reaction)},
                              {"deck", written.path},
                              {"results", {stem.string() + ".dat", stem.string() + ".frd", log}},
                              {"findings", to_json(findings.all())}}
                             .dump(2));
      return 0;
    }
    const std::vector<Finding> said = worth_saying(findings, opened);
    print_findings(said, stdout);
    if (!said.empty()) fmt::print("\n");
    fmt::print("{}\n", styled(design.part.name, Style::bold, fileno(stdout)));
    fmt::print("  largest deflection  {} at {} {} (node {}): {}\n", length_text(units, largest.value.norm()),
               point_text(where), units.unit(Dimension::length), largest.id, point_text(largest.value));
    fmt::print("  loads               {} {} in all\n", point_text(written.total_load), units.unit(Dimension::force));
    fmt::print("  reactions           {} {}, without what acts on held nodes\n", point_text(reaction),
               units.unit(Dimension::force));
    fmt::print("  files               {}, {}.dat, {}.frd, {}\n", written.path, stem.string(), stem.string(), log);
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
  command->add_option("--folder", choices->folder, "Where deck and results go")->capture_default_str();
  command->add_option("--solver", choices->solver, "The CalculiX program")->capture_default_str();
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer("Example:\n  bordado solve skiff.toml --folder out");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
