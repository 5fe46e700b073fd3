// bordado review: the page to open, mail or print.
#include "answers.hpp"
#include "strength_text.hpp"

#include <bordado/base/files.hpp>
#include <bordado/page.hpp>
#include <bordado/review/check.hpp>

#include <fmt/format.h>

#include <cmath>
#include <memory>

namespace bordado::cli {

namespace review_command {

struct Choices {
  PartChoice part;
  SectionChoice sections;
  std::optional<std::string> other, other_variant;
  std::string write;
  std::vector<std::string> fields, cases, criteria;
  std::optional<std::string> results;  ///< a folder
  bool real_plies = false;
  ModelChoice model;
  std::vector<double> profiles;  ///< six numbers each
  std::size_t most_elements = page::PageOptions{}.most_elements;
  bool json = false;
};

/// Values of VTU files; the files are in the part's length unit.
std::vector<page::PageField> fields_of(const std::vector<std::string>& files, const Design& design,
                                       Findings& findings) {
  std::vector<page::PageField> out;
  for (const std::string& file : files) {
    const mesh::Sampled sampled = mesh::read_sampled(file, {}, findings);
    for (page::PageField& field : page::page_fields(sampled, design)) {
      if (std::all_of(field.values.begin(), field.values.end(), [](double v) { return std::isnan(v); }))
        findings.warning("page.field-elsewhere",
                         fmt::format("'{}' of '{}' has no value near any element of the part", field.name, file),
                         Place::in(file), "its points must be in the part's length unit and axes");
      out.push_back(std::move(field));
    }
    if (sampled.arrays.empty())
      findings.warning("page.no-field", fmt::format("'{}' has no values", file), Place::in(file),
                       "give a VTU file with arrays on its points or cells");
  }
  return out;
}

/// What the solver answered of the first part.
page::PageResults results_of(const Choices& choices, const Design& design, Findings& findings) {
  const model::Model model =
      assemble(design, {.quadratic = true, .laminate_only = false, .solids = choices.model.options()}, findings);
  AnswerPlace place{choices.part.file, *choices.results, choices.real_plies};
  const Answers answers = read_answers(place, model, choices.cases, Modes::read, findings);
  const result::Recovery recovery(model, criteria_named(choices.criteria, model.solids != nullptr));
  const result::Reserves reserves = recovery.reserves(answers.fields, answers.cases, progress_line());
  return page::page_results({design, model, recovery, answers.fields, answers.cases, reserves}, answers.modes);
}

int run(Choices choices) {
  return guarded({"review", choices.json}, [&](Findings& findings) {
    if (choices.results) {
      AnswerPlace place{choices.part.file, *choices.results, choices.real_plies};
      take_records(place, choices.part, choices.cases, choices.sections, choices.model);
      choices.real_plies = place.real_plies;
    }
    std::vector<PartChoice> wanted{choices.part};
    if (choices.other || choices.other_variant)
      wanted.push_back({choices.other.value_or(choices.part.file), choices.other_variant});
    std::vector<Design> designs;
    std::vector<page::PagePart> parts;
    std::vector<std::vector<Finding>> found;
    const Progress progress = progress_line();
    for (const PartChoice& choice : wanted) {
      Findings here;
      designs.push_back(open_part(choice, here, choices.sections.options(), progress));
      review::check(designs.back(), here);
      found.push_back(here.all());
    }
    for (std::size_t i = 0; i < designs.size(); ++i)
      parts.push_back({&designs[i],
                       found[i],
                       i == 0 ? fields_of(choices.fields, designs[i], findings) : std::vector<page::PageField>{},
                       {}});
    for (page::PagePart& part : parts) part.envelopes = criteria_named(choices.criteria);
    if (choices.results) parts[0].results = results_of(choices, designs[0], findings);
    for (std::size_t k = 0; k + 5 < choices.profiles.size(); k += 6) {
      const double* const at = choices.profiles.data() + k;
      parts[0].profiles.push_back({Vec3(at[0], at[1], at[2]), Vec3(at[3], at[4], at[5])});
    }
    if (!choices.json) print_findings(findings.all(), stderr);
    const page::Page page = page::page(parts, {.most_elements = choices.most_elements}, progress);
    OutputFile file(choices.write);
    file.write(page.html);
    file.commit();
    std::size_t elements = 0, drawn = 0;
    for (std::size_t i = 0; i < designs.size(); ++i) {
      elements += designs[i].surface.element_count();
      drawn += page.drawn[i];
    }
    const double each = static_cast<double>(page.data_bytes) / static_cast<double>(elements);
    if (choices.write == "-") return 0;  // the page went where this would go
    if (choices.json) {
      print_document("review", designs.front().part.units,
                     {{"wrote", choices.write},
                      {"bytes", page.html.size()},
                      {"program_bytes", page.program_bytes},
                      {"data_bytes", page.data_bytes},
                      {"elements", elements},
                      {"drawn", drawn},
                      {"data_bytes_per_element", each}},
                     findings);
    } else {
      fmt::print("wrote {}: {:.2f} MB, of which the page {:.2f} MB and {} elements {:.1f} bytes each\n", choices.write,
                 static_cast<double>(page.html.size()) * 1e-6, static_cast<double>(page.program_bytes) * 1e-6, elements,
                 each);
      if (drawn < elements)
        fmt::print("{} of {} elements are drawn, nodes near each other as one; numbers are of the whole part\n", drawn,
                   elements);
      fmt::print("open it in a browser; it needs no network\n");
    }
    return 0;
  });
}

}  // namespace review_command

void add_review(CLI::App& program, int& exit_code) {
  using namespace review_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "review", "One page with the part in 3D and everything about it, to open from disk or mail");
  add_part_option(*command, choices->part);
  add_section_options(*command, choices->sections);
  command->add_option("other", choices->other, "A second part file, shown beside the first with the differences");
  command->add_option("--other-variant", choices->other_variant,
                      "Variant of the second; without a second file, of the same one");
  add_output_option(*command, "-o,--write", choices->write, "The page, .html")->required();
  command->add_option("--results", choices->results,
                      "The folder where solve put its answers: shapes, stresses, reserves");
  command->add_option("--case", choices->cases, "Of the results, which load cases; all when not given");
  add_criterion_option(*command, choices->criteria);
  command->add_flag("--real-plies", choices->real_plies, "Of decks made in several ways those with real plies");
  command
      ->add_option("--solids", choices->model.solids,
                   "Of decks made in several ways those of solids; otherwise what stands beside the answers says it")
      ->type_name("ply|material|COUNT")
      ->check(solids_choice);
  command->add_option("--fields", choices->fields,
                      "VTU files that lie where the part lies; their values become colours");
  command
      ->add_option("--profile", choices->profiles,
                   "A section to show, from x,y,z to x,y,z: six numbers; again for another one")
      ->delimiter(',')
      ->expected(6)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  command->add_option("--most-elements", choices->most_elements, "Larger meshes are drawn coarser; numbers stay whole")
      ->check(CLI::Range(std::size_t{1000}, std::size_t{16'000'000}));
  command->add_flag("--json", choices->json, "Print JSON");
  command->footer(
      "Examples:\n  bordado review skiff.toml -o skiff.html\n  bordado review rudder.toml --other-variant training -o "
      "both.html\n  bordado review skiff.toml --results out -o skiff.html");
  command->callback([choices, &exit_code] {
    if (choices->profiles.size() % 6 != 0)
      throw CLI::ValidationError("--profile", "takes six numbers: x,y,z of where the section begins and ends");
    exit_code = run(*choices);
  });
}

}  // namespace bordado::cli
