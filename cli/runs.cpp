// bordado runs: answers of several runs side by side; what three meshes tend to.
#include "answers.hpp"
#include "reserve_text.hpp"

#include <bordado/review/runs.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <memory>

namespace bordado::cli {

namespace runs_command {

struct Choices {
  SideBySide of;
  std::vector<std::string> cases, criteria;
  std::string write;
  bool json = false;
};

/// A run with all that its figures are of. Does not move: its parts refer to each other.
struct Opened {
  Design design;
  model::Model model;
  Answers answers;
  std::optional<result::Recovery> recovery;
  result::Reserves reserves;
  review::RunFigures run;
  review::Results results() const { return {design, model, *recovery, answers.fields, answers.cases, reserves}; }
};

std::unique_ptr<Opened> open_run(const Choices& choices, std::size_t i, Findings& findings) {
  auto out = std::make_unique<Opened>();
  auto [part, place, as] = choices.of.one(i);
  const std::string folder = place.folder;
  SectionChoice sections;
  take_records(place, part, choices.cases, sections, as);
  out->design = open_part(part, findings, sections.options(), progress_line());
  out->model = assemble(out->design, {.quadratic = true, .laminate_only = false, .solids = as.options()}, findings);
  out->answers = read_answers(place, out->model, choices.cases, Modes::read, findings);
  out->recovery.emplace(out->model, criteria_named(choices.criteria, out->model.solids != nullptr));
  out->reserves = out->recovery->reserves(out->answers.fields, out->answers.cases, progress_line());
  out->run =
      review::run_of(part.file + (part.variant ? ":" + *part.variant : "") + (folder == "." ? "" : " in " + folder) +
                         (as.solids.empty() ? "" : ", solids: " + as.solids),
                     out->results(), out->answers.modes);
  return out;
}

/// The modes of each run that have the shape of one of the first run's.
using Matches = std::vector<std::vector<review::ModeMatch>>;
Matches matches_of(const std::vector<std::unique_ptr<Opened>>& runs) {
  Matches out(1);
  for (std::size_t r = 1; r < runs.size(); ++r)
    out.push_back(
        review::matched_modes(runs[0]->design, runs[0]->answers.modes, runs[r]->design, runs[r]->answers.modes));
  return out;
}

/// A line of figures: a value for each run, where it has it.
struct Line {
  std::string name, unit;
  std::vector<std::optional<double>> values;
};

std::vector<Line> lines_of(const std::vector<std::unique_ptr<Opened>>& runs, const Matches& matches) {
  std::vector<Line> out;
  const UnitSystem& units = runs.front()->design.part.units;
  const auto add = [&](const std::string& name, const std::string& unit, std::size_t run, double value) {
    auto line = std::find_if(out.begin(), out.end(), [&](const Line& l) { return l.name == name; });
    if (line == out.end()) line = out.insert(out.end(), {name, unit, std::vector<std::optional<double>>(runs.size())});
    line->values[run] = value;
  };
  const std::string length = units.unit(Dimension::length);
  const auto each = [&](auto with) {
    for (std::size_t r = 0; r < runs.size(); ++r) with(r, runs[r]->run);
  };
  each([&](std::size_t r, const review::RunFigures& run) {
    add("mass", "kg", r, run.mass * units.to_si(Dimension::mass));
  });
  each([&](std::size_t r, const review::RunFigures& run) {
    for (const auto& [name, value] : run.deflections) add("deflection, " + name, length, r, value);
  });
  each([&](std::size_t r, const review::RunFigures& run) {
    for (const review::RunFigures::Mode& mode : run.modes) {
      const auto match = std::find_if(matches[r].begin(), matches[r].end(), [&](const review::ModeMatch& one) {
        return one.case_name == mode.case_name && one.second == mode.number;
      });
      if (r == 0 || match != matches[r].end())
        add(fmt::format("{} {}", mode.case_name, r == 0 ? mode.number : match->first), mode.unit, r, mode.value);
      else
        add(fmt::format("{} {} of run {}", mode.case_name, mode.number, r + 1), mode.unit, r, mode.value);
    }
  });
  each([&](std::size_t r, const review::RunFigures& run) {
    for (const auto& [name, one] : run.reserves) add("least reserve, " + name, "", r, one.factor);
  });
  return out;
}

std::optional<review::Extrapolation> tends_to(const std::vector<std::unique_ptr<Opened>>& runs, const Line& line) {
  if (runs.size() != 3 || !line.values[0] || !line.values[1] || !line.values[2] || line.name == "mass")
    return std::nullopt;
  return review::extrapolated({runs[0]->run.size, runs[1]->run.size, runs[2]->run.size},
                              {*line.values[0], *line.values[1], *line.values[2]});
}

void print(const std::vector<std::unique_ptr<Opened>>& runs, const Matches& matches) {
  const std::string length = runs.front()->design.part.units.unit(Dimension::length);
  for (std::size_t r = 0; r < runs.size(); ++r)
    fmt::print("{}: {}, {}, of {} {} in the mean\n", r + 1,
               styled(plain_text(runs[r]->run.name), Style::bold, fileno(stdout)),
               counted(runs[r]->run.elements, "element"), number(runs[r]->run.size, 3), length);
  fmt::print("\n");
  std::vector<std::string> head = {"", ""};
  for (std::size_t r = 0; r < runs.size(); ++r) head.push_back(fmt::format("{}", r + 1));
  for (std::size_t r = 1; r < runs.size(); ++r) head.push_back(fmt::format("{} against 1", r + 1));
  const bool three = runs.size() == 3;
  if (three) head.insert(head.end(), {"tends to", "order"});
  TableText table(head);
  for (const Line& line : lines_of(runs, matches)) {
    std::vector<std::string> row = {line.name, line.unit};
    for (const auto& value : line.values) row.push_back(value ? number(*value) : "");
    for (std::size_t r = 1; r < runs.size(); ++r)
      row.push_back(line.values[0] && line.values[r] && *line.values[0] != 0.0
                        ? fmt::format("{:+.2f} %", 100.0 * (*line.values[r] / *line.values[0] - 1.0))
                        : "");
    if (three) {
      const auto limit = tends_to(runs, line);
      row.push_back(limit ? number(limit->value) : "");
      row.push_back(limit ? number(limit->order, 2) : "");
    }
    table.add(std::move(row));
  }
  table.print(stdout);
  fmt::print("\n");
  TableText shapes({"case", "mode of 1", "run", "its mode", "alike"});
  bool any_mode = false;
  for (std::size_t r = 1; r < runs.size(); ++r)
    for (const review::ModeMatch& match : matches[r]) {
      any_mode = true;
      shapes.add({match.case_name, fmt::format("{}", match.first), fmt::format("{}", r + 1),
                  fmt::format("{}", match.second), fmt::format("{:.3f}", match.assurance)});
    }
  if (any_mode) {
    fmt::print("modes by their shape, modal assurance; those of run 1 that are like no other are not listed:\n\n");
    shapes.print(stdout);
    fmt::print("\n");
  }
  TableText first({"run", "case", "reserve", "fails", "by", "ply", "element", ""});
  for (std::size_t r = 0; r < runs.size(); ++r)
    for (const auto& [name, one] : runs[r]->run.reserves)
      first.add({fmt::format("{}", r + 1), name, number(one.factor), std::string(laminate::words(one.mode)),
                 std::string(laminate::name_of(one.criterion)), runs[r]->design.part.plies[one.ply].id,
                 fmt::format("{}", runs[r]->design.surface.element_ids[one.element]),
                 std::string(result::words(one.doubt))});
  const auto judged = [](const auto& one) { return !one->run.reserves.empty(); };
  if (std::any_of(runs.begin(), runs.end(), judged))
    first.print(stdout);
  else
    fmt::print("{}\n", no_reserves);
  if (three)
    fmt::print(
        "\n'tends to' and 'order' are of a number that changes less with each finer mesh; empty where it does not\n");
}

Json as_json(const std::vector<std::unique_ptr<Opened>>& runs, const Matches& matches) {
  Json list = Json::array(), figures = Json::array();
  for (const auto& one : runs) {
    Json reserves = Json::array();
    for (const auto& [name, least] : one->run.reserves)
      reserves.push_back(critical_json(one->design, one->model, least));
    list.push_back({{"name", one->run.name},
                    {"elements", one->run.elements},
                    {"element_size", one->run.size},
                    {"reserves", std::move(reserves)}});
  }
  for (const Line& line : lines_of(runs, matches)) {
    Json values = Json::array();
    for (const auto& value : line.values) values.push_back(value ? Json(*value) : Json(nullptr));
    Json figure = {{"name", line.name}, {"unit", line.unit}, {"values", std::move(values)}};
    if (const auto limit = tends_to(runs, line)) figure["tends_to"] = limit->value, figure["order"] = limit->order;
    figures.push_back(std::move(figure));
  }
  Json modes = Json::array();
  for (std::size_t r = 1; r < runs.size(); ++r)
    for (const review::ModeMatch& match : matches[r])
      modes.push_back({{"run", r + 1},
                       {"case", match.case_name},
                       {"first", match.first},
                       {"mode", match.second},
                       {"assurance", match.assurance}});
  return {{"runs", std::move(list)}, {"figures", std::move(figures)}, {"modes", std::move(modes)}};
}

void check(const Choices& choices) { check_lists(choices.of); }

int run(const Choices& choices) {
  return guarded({"runs", choices.json}, [&](Findings& findings) {
    check(choices);
    std::vector<std::unique_ptr<Opened>> runs;
    Findings heard;
    for (std::size_t i = 0; i < choices.of.parts.size(); ++i) runs.push_back(open_run(choices, i, heard));
    for (const Finding& finding : heard.all())
      if (finding.severity != Severity::note) findings.add(finding);
    for (const auto& one : runs) check_units(runs.front()->design, one->design);
    const Matches matches = matches_of(runs);
    if (!choices.write.empty()) {
      constexpr std::array<std::string_view, 8> names{"second", "third",   "fourth", "fifth",
                                                      "sixth",  "seventh", "eighth", "ninth"};
      std::vector<mesh::Array> arrays;
      for (std::size_t r = 1; r < runs.size(); ++r) {
        for (mesh::Array& array : review::differences(runs[0]->results(), runs[r]->results(), names[r - 1]))
          if (r == 1 || array.name != "reserve") arrays.push_back(std::move(array));
        for (mesh::Array& array : review::mode_fields(runs[0]->design, runs[0]->answers.modes, runs[r]->design,
                                                      runs[r]->answers.modes, matches[r], names[r - 1]))
          arrays.push_back(std::move(array));
      }
      mesh::write(runs[0]->design.surface, choices.write, arrays);
      fmt::print(stderr, "wrote {}\n", choices.write);
    }
    if (choices.json) {
      print_document("runs", runs.front()->design.part.units, as_json(runs, matches), findings);
      return 0;
    }
    print_findings(findings.all(), stderr);
    print(runs, matches);
    return 0;
  });
}

}  // namespace runs_command

void add_runs(CLI::App& program, int& exit_code) {
  using namespace runs_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "runs", "Solved parts side by side: mass, deflections, frequencies, reserves; what three meshes tend to");
  command->add_option("parts", choices->of.parts, "Part files, two and more, each solved already")
      ->required()
      ->expected(2, 9);
  add_side_by_side_options(*command, choices->of);
  command->add_option("--case", choices->cases, "Which load cases; all when not given");
  add_criterion_option(*command, choices->criteria);
  add_output_option(
      *command, "--write", choices->write,
      "Fields of all runs and their differences on the mesh of the first, shapes of like modes too, .vtu");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Examples:\n  bordado runs coarse.toml middle.toml fine.toml\n  bordado runs rudder.toml rudder.toml --variant - "
      "--variant training --folder out --folder out/training");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
