// bordado laminate: one laminate by its code, without a part.
#include "stack_choice.hpp"

#include <bordado/drawing.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace laminate_command {

struct Choices {
  StackChoice stack;
  std::string surface = "middle";
  bool from_top = false, json = false;
  LoadChoices load;
  StrengthChoices strength;
  WriteChoices write;
  std::string draw;
};

/// What the code was read as, layer by layer.
void print_layers(const CodedStack& stack, double z0, bool from_top, const UnitSystem& units) {
  TableText table({"layer", "material", "angle", "thickness", "z from", "to"});
  std::vector<std::vector<std::string>> rows;
  double z = z0;
  const double least = 1e-12 * laminate::thickness(stack.layers);
  const auto height = [&](double value) { return std::abs(value) < least ? 0.0 : value; };
  for (std::size_t i = 0; i < stack.layers.size(); ++i) {
    const laminate::Layer& layer = stack.layers[i];
    rows.push_back({std::to_string(i + 1), stack.names[i], fmt::format("{:g}°", layer.angle.degrees()),
                    number(layer.thickness), number(height(z)), number(height(z + layer.thickness))});
    z += layer.thickness;
  }
  if (from_top) std::reverse(rows.begin(), rows.end());
  for (auto& row : rows) table.add(std::move(row));
  fmt::print("\n");
  table.print(stdout);
  fmt::print("thickness and z in {}\n", units.unit(Dimension::length));
}

int run(const Choices& choices) {
  return guarded({"laminate", choices.json}, [&](Findings& findings) {
    const UnitSystem units = units_named(choices.stack.units, findings);
    const CodedStack stack = stack_of(choices.stack, units, findings);
    const double h = laminate::thickness(stack.layers);
    const double z0 = choices.surface == "bottom" ? 0.0 : choices.surface == "top" ? -h : -0.5 * h;
    const NamedStack named = stack.named(z0);
    check_warmed(named, choices.load);
    if (choices.load.any() || choices.strength.any()) find_missing(named, choices.strength, findings);
    write_envelope(named, units, choices.load, choices.strength, findings);
    if (!choices.json) print_findings(findings.all(), stderr);
    if (choices.json) {
      Json layers = Json::array();
      double z = z0;
      for (std::size_t i = 0; i < stack.layers.size(); ++i) {
        layers.push_back({{"layer", i + 1},
                          {"material", stack.names[i]},
                          {"thickness", stack.layers[i].thickness},
                          {"angle_deg", stack.layers[i].angle.degrees()},
                          {"z_low", z},
                          {"z_high", z + stack.layers[i].thickness}});
        z += stack.layers[i].thickness;
      }
      if (choices.from_top) std::reverse(layers.begin(), layers.end());
      Json out = {{"code", choices.stack.code},
                  {"order", choices.from_top ? "last laid first" : "first laid first"},
                  {"surface", choices.surface},
                  {"layers", layers}};
      out.update(laminate_json(units, stack.layers, z0));
      if (choices.load.any()) out["load"] = states_json(stack.layers, z0, choices.load, stack.names, choices.from_top);
      if (choices.load.any()) out["strength"] = strength_json(named, choices.load, choices.strength);
      print_document("laminate", units, out, findings);
    } else {
      fmt::print("{}, read as first laid first: {} layers, {} {}, {}\n",
                 styled(choices.stack.code, Style::bold, fileno(stdout)), stack.layers.size(), number(h),
                 units.unit(Dimension::length), areal_mass_text(units, laminate::areal_mass(stack.layers)));
      print_layers(stack, z0, choices.from_top, units);
      print_laminate(units, stack.layers, z0, fmt::format("which is its {}", choices.surface));
      print_compliance(units, stack.layers, z0);
      if (choices.load.any()) print_states(units, stack.layers, z0, choices.load, stack.names, choices.from_top);
      print_strength(named, choices.load, choices.strength);
    }
    if (!choices.draw.empty()) {
      drawing::draw(
          {.title = choices.stack.code,
           .subtitle = fmt::format("first laid first: {} layers, {} {}, {}; the mesh at its {}", stack.layers.size(),
                                   number(h), units.unit(Dimension::length),
                                   areal_mass_text(units, laminate::areal_mass(stack.layers)), choices.surface),
           .layers = stack.layers,
           .plies = {},
           .materials = stack.names,
           .cores = stack.cores,
           .z0 = z0},
          units, choices.draw);
      fmt::print(stderr, "wrote {}\n", choices.draw);
    }
    write_equivalent(
        units, stack.layers, choices.write,
        fmt::format("{} of {}, first laid first", choices.stack.code, fmt::join(choices.stack.materials, ", ")));
    return 0;
  });
}

}  // namespace laminate_command

void add_laminate(CLI::App& program, int& exit_code) {
  using namespace laminate_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "laminate", "One laminate by its code: stiffness, constants, expansion, layers under a load, what it bears");
  command
      ->add_option("code", choices->stack.code,
                   "The laminate, first laid first: \"[0/45/-45/90]s\", or the name of one that a library has")
      ->required();
  add_stack_options(*command, choices->stack);
  command->add_option("--surface", choices->surface, "Which face z is measured from")
      ->check(CLI::IsMember({"bottom", "middle", "top"}));
  command->add_flag("--from-top", choices->from_top, "List layers from the last laid down");
  add_load_options(*command, choices->load);
  add_strength_options(*command, choices->strength);
  add_output_option(*command, "--draw", choices->draw,
                    "A sheet, .svg or .pdf: the stack, stiffness against direction, A, B, D and what they mean");
  add_write_options(*command, choices->write);
  command->add_flag("--json", choices->json, "Print JSON");
  command->footer(
      "Examples:\n  bordado laminate \"[0/±45/90]s\" --material carbon-ud\n  bordado laminate \"[0_2/0F/0_2]\" "
      "--material "
      "glass-ud --material pvc-foam-80 --thickness 2 --moment 100,0,0\n  bordado laminate \"[0/±45/90]s\" --material "
      "carbon-ud --force 100,0,20 --criterion puck --criterion tsai-wu --envelope envelope.svg --between Nx,Nxy");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
