#include "zone_panels.hpp"

#include "panel_text.hpp"
#include "reserve_text.hpp"

#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <numbers>
#include <stdexcept>

namespace bordado::cli {

namespace {

/// What needs the least of all that was checked; where nothing happens, any.
struct Worst {
  const result::PanelCheck* check = nullptr;
  const result::ElementReserves* thing = nullptr;
  mesh::ElementIndex element() const { return check->panel.elements[thing->least]; }
  std::size_t case_index() const { return thing->cases[thing->least]; }
  double factor() const { return thing->factors[thing->least]; }
};

Worst worst_of(std::span<const result::PanelCheck> checks) {
  Worst out;
  for (const result::PanelCheck& check : checks)
    if (const Worst one{&check, &check.things.front()}; !out.check || one.factor() < out.factor()) out = one;
  return out;
}

NamedStack named(const Design& design, const sizing::PanelCase& given, mesh::ElementIndex e) {
  NamedStack out{given.stack.layers, given.stack.materials, {}, given.stack.z0, {}};
  for (const section::LaidLayer& layer : design.sections.layers_of(design.sections.section_of[e]))
    out.names.push_back(design.part.plies[layer.ply].id);
  out.title = fmt::format("element {} of {}", design.surface.element_ids[e], plain_text(design.part.name));
  return out;
}

void print_checks(const Design& design, const model::Model& model, std::span<const result::PanelCheck> checks) {
  const std::string length = design.part.units.unit(Dimension::length);
  fmt::print("{}: {} as {}, every element under its own laminate and forces\n\n",
             styled(plain_text(design.part.name), Style::bold, fileno(stdout)), counted(checks.size(), "zone"),
             checks.size() == 1 ? "a flat panel" : "flat panels");
  TableText table({"reserve", "what happens", "zone", "size " + length, "element", "case", "below 1"});
  for (const result::PanelCheck& check : checks) {
    const std::string size = fmt::format("{} x {}", number(check.panel.a), number(check.panel.b));
    for (const result::ElementReserves& thing : check.things) {
      const double least = thing.factors[thing.least];
      if (!std::isfinite(least)) {
        table.add({"none", thing.what, check.panel.zone, size, "", "", ""});
        continue;
      }
      table.add({number(least), thing.what, check.panel.zone, size,
                 fmt::format("{}", design.surface.element_ids[check.panel.elements[thing.least]]),
                 model.cases[thing.cases[thing.least]].name,
                 thing.below_one == 0
                     ? ""
                     : fmt::format("{} of {}, {:.0f} % of its area", thing.below_one, check.panel.elements.size(),
                                   100.0 * thing.area_below_one / check.panel.area)});
    }
  }
  table.print(stdout);
}

Json checks_json(const Design& design, const model::Model& model, std::span<const result::PanelCheck> checks) {
  Json out = Json::array();
  for (const result::PanelCheck& check : checks) {
    Json things = Json::array();
    for (const result::ElementReserves& thing : check.things) {
      const double least = thing.factors[thing.least];
      const bool any = std::isfinite(least);
      things.push_back(
          {{"what", thing.what},
           {"factor", any ? Json(least) : Json(nullptr)},
           {"element", any ? Json(design.surface.element_ids[check.panel.elements[thing.least]]) : Json(nullptr)},
           {"case", any ? Json(model.cases[thing.cases[thing.least]].name) : Json(nullptr)},
           {"below_one", thing.below_one},
           {"area_below_one", thing.area_below_one}});
    }
    out.push_back({{"zone", check.panel.zone},
                   {"size", {check.panel.a, check.panel.b}},
                   {"size_said", check.panel.said},
                   {"elements", check.panel.elements.size()},
                   {"laminates", check.laminates},
                   {"area", check.panel.area},
                   {"filled", check.panel.filled},
                   {"bulge", check.panel.bulge},
                   {"turns_deg", degrees(check.panel.turns)},
                   {"x", to_json(check.panel.x)},
                   {"normal", to_json(check.panel.normal)},
                   {"terms", check.terms.x},
                   {"reserves", std::move(things)}});
  }
  return out;
}

}  // namespace

void add_zone_options(CLI::App& command, ZoneChoices& choice) {
  CLI::Option* const zone = command.add_option(
      "--zone", choice.names, "Of a part instead: the panel under a zone, each element under its laminate and forces");
  command.add_option("--case", choice.cases, "With --zone: which load cases; all static ones when not given")
      ->needs(zone);
  command.add_option("--variant", choice.part.variant, "With --zone: a variant that the part file declares")
      ->needs(zone);
  command.add_option("--folder", choice.answers.folder, "With --zone: where the answers of solve are")
      ->capture_default_str()
      ->needs(zone);
  command
      .add_option(
          "--from", choice.from,
          "With --zone: section forces or strains of every element instead, .csv or .vtu, whoever computed them")
      ->needs(zone);
  add_output_option(command, "--write", choice.write, "With --zone: reserves as fields for viewers, .vtu")->needs(zone);
}

void check_zones(ZoneChoices& choices, bool json, const std::string& draw, Findings& findings) {
  choices.answers.part_file = choices.part.file;
  if (choices.from.empty()) take_records(choices.answers, choices.part, choices.cases, choices.sections, choices.model);
  const Design design = open_part(choices.part, findings, choices.sections.options(), progress_line());
  const std::size_t opened = findings.all().size();
  std::vector<result::ZonePanel> panels;
  Findings wrong;
  for (const std::string& name : choices.names) try {
      panels.push_back(result::panel_under(design, name, choices.size));
      result::tell_shape(panels.back(), design.part.units, Place::in(choices.part.file), findings);
    } catch (const Failure& failure) {
      for (const Finding& finding : failure.findings()) wrong.add(finding);
    }
  wrong.throw_if_errors();
  const model::Model model =
      assemble(design, {.quadratic = true, .laminate_only = false, .solids = choices.model.options()}, findings);
  find_missing(design, result::short_waves(), findings);
  const Answers answers =
      section_answers(choices.answers, choices.from, model, choices.cases, Modes::passed_over, findings);
  const auto [x0, x1, y0, y1] = choices.edges;
  const std::vector<result::PanelCheck> checks = [&] {
    try {
      return result::check_panels(model, panels, {x0, x1, y0, y1}, answers.fields, answers.cases, progress_line());
    } catch (const std::invalid_argument& trouble) {
      throw Failure({Severity::error, "panel.cannot", trouble.what(), {}, "bordado panel --help tells what it takes"});
    }
  }();
  for (const result::PanelCheck& check : checks) result::tell_reserves(check, model, findings);
  const Worst worst = worst_of(checks);
  const auto found = std::find(answers.cases.begin(), answers.cases.end(), worst.case_index());
  const sizing::PanelCase given =
      result::panel_case(model, *worst.check, worst.element(),
                         answers.fields[static_cast<std::size_t>(found - answers.cases.begin())], *found);
  const sizing::PanelAnswer answer = sizing::check_panel(given);
  const NamedStack stack = named(design, given, worst.element());
  if (!choices.write.empty()) {
    mesh::write(design.surface, choices.write, result::fields_of(design, checks));
    fmt::print(stderr, "wrote {}\n", choices.write);
  }
  if (json) {
    Json out = panel_json(given, answer, stack);
    out["part"] = design.part.name;
    out["element"] = design.surface.element_ids[worst.element()];
    out["case"] = model.cases[worst.case_index()].name;
    out["M"] = {given.place->M[0], given.place->M[1], given.place->M[2]};
    out["Q"] = {given.place->Q[0], given.place->Q[1]};
    out["zones"] = checks_json(design, model, checks);
    print_document("panel", design.part.units, out, findings);
  } else {
    const std::vector<Finding> said = worth_saying(findings, opened);
    print_findings(said, stdout);
    if (!said.empty()) fmt::print("\n");
    print_checks(design, model, checks);
    if (std::isfinite(worst.factor())) {
      fmt::print("\nwhere the first of these happens, all that can: zone {}, case {}\n\n", worst.check->panel.zone,
                 model.cases[worst.case_index()].name);
      print_panel(given, answer, stack, design.part.units);
    } else {
      fmt::print("\nnothing of these happens under these forces\n");
    }
  }
  if (!draw.empty()) draw_panel(given, answer, stack, design.part.units, draw);
}

}  // namespace bordado::cli
