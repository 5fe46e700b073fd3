// bordado summary: what came of all cases on one page.
#include "answers.hpp"
#include "strength_text.hpp"

#include <bordado/summary.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace summary_command {

struct Choices {
  PartChoice part;
  SectionChoice sections;
  std::vector<std::string> criteria;
  std::string folder = ".", write;
  bool real_plies = false;
};

int run(const Choices& choices) {
  return guarded({"summary", false}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, choices.sections.options(), progress_line());
    review::check(design, findings);
    const deck::Model model = assemble(design, {.quadratic = true, .laminate_only = false, .solids = {}}, findings);
    const auto criteria = criteria_named(choices.criteria);
    for (const part::MaterialId m : design.part.materials.ids())
      if (std::any_of(design.layup.plies.begin(), design.layup.plies.end(),
                      [&](const layup::Ply& ply) { return ply.material == m; }))
        if (auto missing = laminate::strengths_missing(design.part.materials[m], criteria)) findings.add(*missing);
    const Answers answers =
        read_answers({choices.part.file, choices.folder, choices.real_plies}, model, {}, Modes::read, findings);
    const result::Recovery recovery(design, model, criteria);
    const result::Reserves reserves = recovery.reserves(answers.fields, answers.cases, progress_line());
    const review::Results results{design, model, recovery, answers.fields, answers.cases, reserves};
    review::write(review::summary(results, answers.modes, findings.all()), choices.write);
    fmt::print(stderr, "wrote {}\n", choices.write);
    return 0;
  });
}

}  // namespace summary_command

void add_summary(CLI::App& program, int& exit_code) {
  using namespace summary_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "summary",
      "One page: cases, deflections, frequencies, least reserves by material and zone, assumptions, findings");
  add_part_option(*command, choices->part);
  add_section_options(*command, choices->sections);
  command->add_option("--folder", choices->folder, "Where solve put deck and answers")->capture_default_str();
  add_criterion_option(*command, choices->criteria);
  command->add_flag("--real-plies", choices->real_plies, "The decks were written with --real-plies");
  command->add_option("-o,--write", choices->write, "The page, .html or .pdf")->required();
  command->footer("Example:\n  bordado summary skiff.toml --folder out -o skiff.pdf");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
