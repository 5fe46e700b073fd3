// bordado summary: what came of all cases on one page.
#include "answers.hpp"
#include "reserve_text.hpp"
#include "strength_text.hpp"

#include <bordado/drawing.hpp>
#include <bordado/picture.hpp>
#include <bordado/review/check.hpp>
#include <bordado/review/summary.hpp>

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
  bool json = false;
};

/// The page's tables as they stand on it, and the reserves as numbers.
Json as_json(const review::Summary& page, const Design& design, const model::Model& model,
             const result::Reserves& reserves) {
  Json tables = Json::array();
  for (const review::SummaryTable& table : page.tables)
    tables.push_back({{"title", table.title}, {"head", table.head}, {"rows", table.rows}, {"note", table.note}});
  return {{"part", page.title},
          {"about", page.subtitle},
          {"tables", std::move(tables)},
          {"assumptions", page.assumptions},
          {"reserves", reserves_json(design, model, reserves)}};
}

int run(Choices choices) {
  return guarded({"summary", choices.json}, [&](Findings& findings) {
    check_answer_options(choices.answers, choices.model);
    if (choices.write.empty() && !choices.json)
      throw Failure({Severity::error,
                     "summary.nowhere",
                     "there is no file to write the page to",
                     {},
                     "name it with --write, or ask for --json"});
    take_records(choices.answers, choices.part, choices.cases, choices.sections, choices.model);
    const Design design = open_part(choices.part, findings, choices.sections.options(), progress_line());
    review::check(design, findings);
    const model::Model model =
        assemble(design, {.quadratic = true, .laminate_only = false, .solids = choices.model.options()}, findings);
    const auto criteria = criteria_named(choices.criteria, model.solids != nullptr);
    for (const part::MaterialId m : design.part.materials.ids())
      if (std::any_of(design.layup.plies.begin(), design.layup.plies.end(),
                      [&](const layup::Ply& ply) { return ply.material == m; }))
        if (auto missing = laminate::strengths_missing(design.part.materials[m], criteria)) findings.add(*missing);
    AnswerPlace place = choices.answers;
    place.part_file = choices.part.file;
    const Answers answers = read_answers(place, model, choices.cases, Modes::read, findings);
    const result::Recovery recovery(model, criteria);
    const result::Reserves reserves = recovery.reserves(answers.fields, answers.cases, progress_line());
    const review::Results results{design, model, recovery, answers.fields, answers.cases, reserves};
    const review::Summary page = review::summary(results, answers.modes, findings.all());
    if (!choices.write.empty()) drawing::write(page, drawing::summary_pictures(results, answers.modes), choices.write);
    if (choices.json)
      print_document("summary", design.part.units, as_json(page, design, model, reserves), findings);
    else
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
  add_output_option(*command, "-o,--write", choices->write, "The page, .html or .pdf");
  command->add_flag("--json", choices->json, "Print JSON");
  command->footer("Example:\n  bordado summary skiff.toml --folder out -o skiff.pdf");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
