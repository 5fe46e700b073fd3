// bordado begin: a first part file from a mesh.
#include "print.hpp"

#include <bordado/base/files.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/review/first_part.hpp>

#include <fmt/format.h>

#include <filesystem>
#include <memory>

namespace bordado::cli {

namespace begin_command {

struct Choices {
  std::string mesh;
  std::string output;
  review::FirstPartOptions first;
  std::string length, units;
};

int run(const Choices& choices) {
  return guarded({"begin", false}, [&](Findings& findings) {
    namespace fs = std::filesystem;
    review::FirstPartOptions options = choices.first;
    if (!choices.length.empty()) options.length = choices.length;
    if (!choices.units.empty()) options.units = choices.units;
    const std::string output =
        choices.output.empty() ? fs::path(choices.mesh).replace_extension(".toml").string() : choices.output;
    check_replaceable(output, MayReplace::nothing);
    const mesh::Surface surface = mesh::read(choices.mesh, {}, findings);
    const fs::path folder = output == "-" ? fs::current_path() : fs::absolute(output).parent_path();
    options.mesh_as_seen =
        fs::absolute(choices.mesh).lexically_normal().lexically_relative(folder.lexically_normal()).string();
    const std::string part = review::first_part(surface, options, findings);
    OutputFile file(output, MayReplace::nothing);
    file.write(part);
    file.commit();
    if (output == "-") return 0;
    print_findings(worth_saying(findings, 0), stdout);
    fmt::print("{}: a first part file; look at it, then\n  bordado check {}\n", output, output);
    return 0;
  });
}

}  // namespace begin_command

void add_begin(CLI::App& program, int& exit_code) {
  using namespace begin_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand("begin", "Write a first part file from a mesh");
  command->add_option("mesh", choices->mesh, "The mesh")->required();
  add_new_file_option(*command, "-o,--output", choices->output,
                      "The part file; beside the mesh under its name if not given");
  command->add_option("--length", choices->length, "Length unit of the mesh; guessed from its size if not given");
  command->add_option("--units", choices->units, "What bare numbers of the part file mean, as \"mm, t, s\"");
  command->footer("Example:\n  bordado begin panel.msh --length mm");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
