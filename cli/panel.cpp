// bordado panel: a panel of one laminate by hand, flat or curved, before any model.
#include "against.hpp"
#include "by_file.hpp"
#include "curved_text.hpp"
#include "panel_text.hpp"
#include "sensitivity_text.hpp"
#include "zone_panels.hpp"

#include <fmt/format.h>

#include <memory>
#include <numbers>

namespace bordado::cli {

namespace panel_command {

struct Choices {
  StackChoice stack;
  std::vector<double> size, N;
  std::vector<std::string> edges{"simple"}, criteria;
  double pressure = 0.0, patch = 0.0;
  std::optional<double> radius;
  std::optional<std::size_t> terms;
  std::size_t frequencies = 4;
  bool json = false, sensitivities = false;
  std::string draw;
  AgainstChoice against;
  ZoneChoices zones;
};

sizing::PanelCase case_of(const Choices& choices, const NamedStack& stack) {
  Findings wrong;
  if (choices.size.size() != 2 || !(std::min(choices.size[0], choices.size[1]) > 0.0))
    wrong.error("panel.size", "a panel has two lengths above nought", {},
                "--size 400,300: along 0 degrees, and across");
  const auto edges = edges_named(choices.edges, wrong);
  wrong.throw_if_errors();
  sizing::PanelCase out;
  out.stack = stack.stack();
  out.a = choices.size[0], out.b = choices.size[1];
  out.x0 = edges[0], out.x1 = edges[1], out.y0 = edges[2], out.y1 = edges[3];
  if (!choices.N.empty()) out.N = {choices.N[0], choices.N[1], choices.N[2]};
  out.pressure = choices.pressure;
  out.patch = choices.patch;
  out.criteria = criteria_named(choices.criteria);
  if (choices.terms) out.terms = sizing::Terms{*choices.terms, *choices.terms};
  out.frequencies = choices.frequencies;
  return out;
}

sizing::CurvedCase curved_case_of(CLI::App& command, const Choices& choices, const NamedStack& stack) {
  Findings wrong;
  for (const char* const other : {"--patch", "--terms", "--frequencies"})
    if (command.count(other) > 0)
      wrong.error("panel.choices", fmt::format("{} is of a flat panel", other), {}, "leave it out, or --radius");
  if (!std::all_of(choices.edges.begin(), choices.edges.end(),
                   [](const std::string& edge) { return edge == "simple"; }))
    wrong.error("panel.choices", "the edges of a curved panel keep their shape and turn freely", {},
                "leave --edges out: what is clamped bears more");
  if (choices.size.empty() || !(*std::min_element(choices.size.begin(), choices.size.end()) > 0.0))
    wrong.error("panel.size", "a curved panel has lengths above nought", {},
                "--size 400,300: along the axis, and round; --size 400: the whole cylinder");
  const double around = 2.0 * std::numbers::pi * *choices.radius;
  if (choices.size.size() == 2 && choices.size[1] > around)
    wrong.error("panel.size", fmt::format("it is wider than once round, {:.4g}", around), {},
                "--size 400: the whole cylinder");
  if (!choices.N.empty() && choices.N[1] != 0.0)
    wrong.error("panel.radius", "a force round a curved wall is of pressure", {},
                fmt::format("--force {:g},0,{:g} --pressure {:.6g}: outwards, Ny / radius", choices.N[0], choices.N[2],
                            choices.N[1] / *choices.radius));
  wrong.throw_if_errors();
  sizing::CurvedCase out;
  out.stack = stack.stack();
  out.length = choices.size[0], out.radius = *choices.radius;
  if (choices.size.size() == 2) out.width = choices.size[1];
  if (!choices.N.empty()) out.axial = choices.N[0], out.shear = choices.N[2];
  out.pressure = choices.pressure;
  out.criteria = criteria_named(choices.criteria);
  return out;
}

std::optional<sizing::Sweep> swept(const sizing::CurvedCase& given, const Choices& choices, const NamedStack& stack,
                                   const UnitSystem& units) {
  std::vector<Variable> all = laminate_variables(stack, 0, {}, units);
  all.push_back(length_variable("a", "length a", given.length, units));
  if (given.width > 0.0) all.push_back(length_variable("b", "width b", given.width, units));
  all.push_back(length_variable("radius", "radius", given.radius, units));
  const std::vector<Variable> chosen = varied_ones(choices.against, all);
  if (chosen.empty()) return std::nullopt;
  const auto with = [&](std::span<const double> values) -> std::optional<sizing::CurvedCase> {
    sizing::CurvedCase out = given;
    auto plies = stack_with(given.stack, chosen, values, [&](const std::string& name, double value) {
      (name == "a" ? out.length : name == "b" ? out.width : out.radius) = value;
    });
    if (!plies) return std::nullopt;
    out.stack = std::move(*plies);
    return out;
  };
  return sizing::sweep(varied_of(chosen), sizing::CurvedWith(with), progress_line());
}

/// \throws Failure "panel.cannot" with what is thrown.
template <class Check>
auto answered(const Check& check) {
  try {
    return check();
  } catch (const std::invalid_argument& trouble) {
    throw Failure({Severity::error, "panel.cannot", trouble.what(), {}, "bordado panel --help tells what it takes"});
  }
}

void run_curved(CLI::App& command, const Choices& choices, const NamedStack& stack, const UnitSystem& units,
                Findings& findings) {
  const sizing::CurvedCase given = curved_case_of(command, choices, stack);
  const std::optional<sizing::Sweep> sweep = answered([&] { return swept(given, choices, stack, units); });
  const sizing::CurvedAnswer answer = answered([&] { return sizing::check_curved(given); });
  StrengthChoices strength;
  strength.criteria = choices.criteria;
  if (!answer.criteria.empty() || !answer.left_out.empty()) find_missing(stack, strength, findings);
  find_curved(given, answer, findings);
  const std::vector<sizing::Sensitivity> changes =
      choices.sensitivities ? sizing::sensitivities(given) : std::vector<sizing::Sensitivity>();
  if (choices.json) {
    Json out = curved_json(given, answer, stack);
    out["sensitivities"] = sensitivities_json(changes, {&stack, 1});
    out["against"] = sweep_json(sweep);
    print_document("panel", units, out, findings);
  } else {
    print_findings(findings.all(), stderr);
    print_curved(given, answer, stack, units);
    if (choices.sensitivities) print_sensitivities(changes, {&stack, 1}, sizing::outcome_of(given, answer), units);
    if (sweep) print_sweep(*sweep);
  }
  if (sweep) draw_chart(choices.against, *sweep, stack.title, curved_text(given, units));
  if (!choices.draw.empty()) draw_curved(given, answer, stack, units, choices.draw);
}

/// The panel over what varies; nothing where nothing does.
std::optional<sizing::Sweep> swept(const sizing::PanelCase& given, const Choices& choices, const NamedStack& stack,
                                   const UnitSystem& units) {
  std::vector<Variable> all = laminate_variables(stack, 0, {}, units);
  all.push_back(length_variable("a", "length a", given.a, units));
  all.push_back(length_variable("b", "width b", given.b, units));
  const std::vector<Variable> chosen = varied_ones(choices.against, all);
  if (chosen.empty()) return std::nullopt;
  const auto with = [&](std::span<const double> values) -> std::optional<sizing::PanelCase> {
    sizing::PanelCase out = given;
    auto plies = stack_with(given.stack, chosen, values,
                            [&](const std::string& name, double value) { (name == "a" ? out.a : out.b) = value; });
    if (!plies) return std::nullopt;
    out.stack = std::move(*plies);
    return out;
  };
  return sizing::sweep(varied_of(chosen), sizing::PanelWith(with), progress_line());
}

/// Zones of a part: what the command line says of a laminate has no place there.
int run_zones(CLI::App& command, Choices& choices) {
  return guarded({"panel", choices.json}, [&](Findings& findings) {
    Findings wrong;
    for (const char* const other :
         {"--force", "--pressure", "--patch", "--material", "--thickness", "--units", "--library", "--criterion",
          "--terms", "--frequencies", "--radius", "--sensitivities", "--against", "--chart"})
      if (command.count(other) > 0)
        wrong.error(
            "panel.choices", fmt::format("{} is of a laminate that is typed", other), {},
            "leave it out: a zone has its laminates, and forces come from answers (--folder) or a table (--from)");
    choices.zones.edges = edges_named(choices.edges, wrong);
    if (!choices.size.empty() && !(choices.size.size() == 2 && std::min(choices.size[0], choices.size[1]) > 0.0))
      wrong.error("panel.size", "a panel has two lengths above nought", {},
                  "--size 400,300: along 0 degrees, and across");
    wrong.throw_if_errors();
    choices.zones.part.file = choices.stack.code;
    if (!choices.size.empty()) choices.zones.size = {choices.size[0], choices.size[1]};
    check_zones(choices.zones, choices.json, choices.draw, findings);
    return 0;
  });
}

int run(CLI::App& command, Choices& choices) {
  if (!choices.zones.names.empty()) return run_zones(command, choices);
  return guarded({"panel", choices.json}, [&](Findings& findings) {
    if (is_option_file(choices.stack.code)) {
      const std::string path = choices.stack.code;
      try {
        read_options(command, path, choices.stack.code, {});
      } catch (const Failure&) {
        if (!is_part_file(path)) throw;
        throw Failure({Severity::error, "panel.zone", "this is a part, of which a panel is a zone", Place::in(path),
                       fmt::format("say which: bordado panel {} --zone NAME", plain_text(path, 80))});
      }
      if (!choices.zones.names.empty())
        throw Failure({Severity::error, "options.value", "zones are of a part, which is named on the command line",
                       Place::in(path), "bordado panel part.toml --zone NAME"});
      if (choices.stack.code.empty())
        throw Failure({Severity::error, "options.value", "the file says no laminate", Place::in(path),
                       "laminate = \"[0/45/-45/90]s\""});
    }
    const UnitSystem units = units_named(choices.stack.units, findings);
    const CodedStack stack = stack_of(choices.stack, units, findings);
    const NamedStack named = stack.named(-0.5 * laminate::thickness(stack.layers));
    if (choices.radius) {
      run_curved(command, choices, named, units, findings);
      return 0;
    }
    const sizing::PanelCase given = case_of(choices, named);
    const std::optional<sizing::Sweep> sweep = answered([&] { return swept(given, choices, named, units); });
    const sizing::PanelAnswer answer = answered([&] { return sizing::check_panel(given); });
    StrengthChoices strength;
    strength.criteria = choices.criteria;
    if (!answer.criteria.empty() || !answer.left_out.empty()) find_missing(named, strength, findings);
    const sizing::PanelRange range = sizing::range_of(given, answer);
    if (range.is_thick())
      findings.warning(
          "panel.thick",
          fmt::format(
              "its shorter side is {:.3g} times its thickness: from ten on this theory is within a few per cent",
              range.side),
          {}, "take a model of solids");
    if (range.bends_far())
      findings.warning("panel.bends-far",
                       fmt::format("it bends by {:.2g} times its thickness: stretching, which is left out, holds it "
                                   "back from about a half on",
                                   range.deflection),
                       {}, "take a model that counts large deflections, or know that it bends less than this");
    if (given.patch > 0.0 && !answer.sandwich)
      findings.warning("panel.no-sandwich", "a small load on a face is of a sandwich: two faces on one core", {},
                       "leave --patch out, or give the laminate a core");
    const std::vector<sizing::Sensitivity> changes =
        choices.sensitivities ? sizing::sensitivities(given, answer.terms) : std::vector<sizing::Sensitivity>();
    if (choices.json) {
      Json out = panel_json(given, answer, named);
      out["sensitivities"] = sensitivities_json(changes, {&named, 1});
      out["against"] = sweep_json(sweep);
      print_document("panel", units, out, findings);
    } else {
      print_findings(findings.all(), stderr);
      print_panel(given, answer, named, units);
      if (choices.sensitivities) print_sensitivities(changes, {&named, 1}, sizing::outcome_of(given, answer), units);
      if (sweep) print_sweep(*sweep);
    }
    if (sweep) draw_chart(choices.against, *sweep, named.title, panel_text(given, units));
    if (!choices.draw.empty()) draw_panel(given, answer, named, units, choices.draw);
    return 0;
  });
}

}  // namespace panel_command

void add_panel(CLI::App& program, int& exit_code) {
  using namespace panel_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "panel", "A panel by hand, flat or curved: how it buckles, vibrates, bends, and what its faces and core bear");
  command
      ->add_option("laminate", choices->stack.code,
                   "The laminate, first laid first: \"[0/45/-45/90]s\"; a .toml of these options, a key each; or with "
                   "--zone a part")
      ->required();
  add_stack_options(*command, choices->stack);
  command
      ->add_option("--size", choices->size,
                   "a,b: along the laminate's 0 degrees, and across; with --radius a alone is a whole cylinder")
      ->delimiter(',')
      ->expected(1, 2);
  command->add_option("--radius", choices->radius, "Of a panel that is curved across, 0 degrees along its axis")
      ->check(CLI::PositiveNumber);
  command->add_option("--edges", choices->edges, "simple, clamped or free; four of them for x = 0, x = a, y = 0, y = b")
      ->delimiter(',')
      ->expected(1, 4)
      ->check(CLI::IsMember(edge_words()))
      ->default_str("simple");
  command->add_option("--force", choices->N, "Nx,Ny,Nxy, force per length, the same everywhere; tension positive")
      ->delimiter(',')
      ->expected(3);
  command->add_option("--pressure", choices->pressure, "On it, along the laminate's normal: of a curved one outwards");
  command->add_option("--patch", choices->patch, "Radius of a small load on the top face of a sandwich")
      ->check(CLI::PositiveNumber);
  add_criterion_option(*command, choices->criteria);
  command->add_option("--frequencies", choices->frequencies, "How many")
      ->check(CLI::Range(0, 50))
      ->capture_default_str();
  command
      ->add_option("--terms", choices->terms,
                   "Functions each way, of the Ritz method; as many as it takes if not given")
      ->check(CLI::Range(std::size_t{4}, sizing::most_terms));
  add_output_option(
      *command, "--draw", choices->draw,
      "A sheet, .svg or .pdf: the shape that it buckles in, what the pressure does, all margins; of a curved "
      "one what is left of classical loads");
  command->add_flag("--sensitivities", choices->sensitivities,
                    "What changes the least reserve most: each ply's angle and count, the core's thickness");
  add_against_options(*command, choices->against);
  add_zone_options(*command, choices->zones);
  command->add_flag("--json", choices->json, "Print JSON");
  command->footer(
      "Examples:\n  bordado panel \"[0/±45/90]s\" --material carbon-ud --size 400,300 --force -50,0,10\n  bordado "
      "panel "
      "\"[±45/0F/±45]\" --material glass-ud --material pvc-foam-80 --thickness 10 --size 600,300 --edges "
      "clamped --pressure 0.02\n  bordado panel daggerboard-case.toml --against core=4:20 --chart core.svg\n  bordado "
      "panel \"[±45/0/90]s\" --material carbon-ud --size 600 --radius 150 --force -40,0,8\n  bordado panel skiff.toml "
      "--zone deck --folder "
      "out --write panels.vtu");
  command->callback([command, choices, &exit_code] { exit_code = run(*command, *choices); });
}

}  // namespace bordado::cli
