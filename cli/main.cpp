// bordado: ply-based layups on shell meshes, from a part file to solver decks.
#include "print.hpp"

#include <fmt/format.h>

int main(int argc, char** argv) {
  CLI::App program("Bordado: ply-based layups on shell meshes, from a part file to sections and solver decks.",
                   "bordado");
  program.set_version_flag("--version", fmt::format("bordado {}", bordado::version()));
  program.require_subcommand(1);
  program.footer(
      "Begin with:\n  bordado check examples/skiff/skiff.toml\nManual: docs/, part files: docs/part-file.md, messages: "
      "docs/findings.md");
  int exit_code = 0;
  bordado::cli::add_surface(program, exit_code);
  bordado::cli::add_check(program, exit_code);
  bordado::cli::add_zones(program, exit_code);
  bordado::cli::add_frames(program, exit_code);
  bordado::cli::add_at(program, exit_code);
  bordado::cli::add_plies(program, exit_code);
  bordado::cli::add_fields(program, exit_code);
  bordado::cli::add_stack(program, exit_code);
  bordado::cli::add_review(program, exit_code);
  bordado::cli::add_diff(program, exit_code);
  bordado::cli::add_laminate(program, exit_code);
  bordado::cli::add_material(program, exit_code);
  bordado::cli::add_deck(program, exit_code);
  bordado::cli::add_solve(program, exit_code);
  bordado::cli::add_explain(program, exit_code);
  try {
    program.parse(argc, argv);
  } catch (const CLI::ParseError& trouble) {
    return program.exit(trouble) == 0 ? 0 : 2;
  }
  if (std::fflush(stdout) != 0) {
    fmt::print(stderr, "error: the output could not be written\n");
    return 1;
  }
  return exit_code;
}
