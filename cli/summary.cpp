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
  std::vector<std::string> cases, criteria;
  AnswerPlace answers;
  ModelChoice model;
  std::string write;
};

int run(const Choices& choices) {
  return guarded({"summary", false}, [&](Findings& findings) {
    check_answer_options(choices.answers, choices.model);
    const Design design = open_part(choices.part, findings, choices.sections.options(), progress_line());
    review::check(design, findings);
    const deck::Model model =
        assemble(design, {.quadratic = true, .laminate_only = false, .solids = choices.model.options()}, findings);
    const auto criteria = criteria_named(choices.criteria);
    for (const part::MaterialId m : design.part.materials.ids())
      if (std::any_of(design.layup.plies.begin(), design.layup.plies.end(),
                      [&](const layup::Ply& ply) { return ply.material == m; }))
        if (auto missing = laminate::strengths_missing(design.part.materials[m], criteria)) findings.add(*missing);
    AnswerPlace place = choices.answers;
    place.part_file = choices.part.file;
    const Answers answers = read_answers(place, model, choices.cases, Modes::read, findings);
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
  command->add_option("--case", choices->cases, "Which load cases; all when not given");
  add_answer_options(*command, choices->answers, choices->model);
  add_criterion_option(*command, choices->criteria);
  command->add_option("-o,--write", choices->write, "The page, .html or .pdf")->required();
  command->footer("Example:\n  bordado summary skiff.toml --folder out -o skiff.pdf");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
