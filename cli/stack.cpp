// bordado stack: the laminate at one place as a drawing, on the terminal or on a sheet.
#include "print.hpp"

#include <bordado/drawing.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <cmath>
#include <memory>

namespace bordado::cli {

namespace stack_command {

struct Choices {
  PartChoice part;
  PlaceChoice place;
  std::string write;
  bool json = false;
};

/// How a layer looks from above, x to the right: the nearest of eight directions.
std::string_view pattern(Angle angle, bool core) {
  if (core) return "○ ";
  const int eighth = static_cast<int>(std::lround((same_fibre(angle).degrees() + 90.0) / 45.0));
  constexpr std::string_view marks[] = {"│ ", "╲ ", "──", "╱ ", "│ "};
  return marks[eighth];
}

/// To a hundredth of a degree.
std::string degrees(Angle angle) { return fmt::format("{:g}°", std::round(angle.degrees() * 100.0) / 100.0 + 0.0); }

/// From the top down, thick layers on several lines.
void print(const drawing::StackDrawing& stack, const UnitSystem& units) {
  const double h = laminate::thickness(stack.layers);
  const std::size_t count = stack.layers.size();
  const double lines = std::max(24.0, 1.5 * static_cast<double>(count));
  fmt::print("{}\n{}\nfrom the top down; the lowest layer lies against the tool\n\n",
             styled(stack.title, Style::bold, fileno(stdout)), stack.subtitle);
  std::vector<double> z{stack.z0}, t;
  for (const laminate::Layer& layer : stack.layers) {
    t.push_back(layer.thickness);
    const double top = z.back() + layer.thickness;
    z.push_back(std::abs(top) < 1e-12 * h ? 0.0 : top);
  }
  const auto heights = column(z), thicknesses = column(t);
  std::size_t width = 0, ply_width = 0, angle_width = 0;
  for (const std::string& text : heights) width = std::max(width, text.size());
  for (std::size_t i = 0; i < count; ++i) {
    ply_width = std::max(ply_width, stack.plies[i].size());
    angle_width =
        std::max(angle_width, degrees(same_fibre(stack.layers[i].angle)).size() - 1);  // the sign takes two bytes
  }
  const std::string side(width, ' ');
  const auto face = [&](std::size_t i) { fmt::print("{:>{}} ├\n", heights[i], width); };
  for (std::size_t i = count; i-- > 0;) {
    const auto rows = static_cast<std::size_t>(std::max(1.0, std::round(stack.layers[i].thickness / h * lines)));
    if (i + 1 == count) face(count);
    for (std::size_t row = 0; row < rows; ++row) {
      std::string drawn;
      for (int k = 0; k < 9; ++k) drawn += pattern(stack.layers[i].angle, stack.cores[i]);
      fmt::print("{} │ {}", side, drawn);
      if (row == rows / 2)
        fmt::print("  {:>{}}  {:<{}}  {} {}  {}", degrees(same_fibre(stack.layers[i].angle)), angle_width,
                   stack.plies[i], ply_width, thicknesses[i], units.unit(Dimension::length), stack.materials[i]);
      fmt::print("\n");
    }
    face(i);
  }
}

int run(const Choices& choices) {
  return guarded({"stack", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, {}, progress_line());
    const std::size_t opened = findings.all().size();
    const mesh::ElementIndex e = element_at(design, choices.place, findings);
    if (!choices.json) print_findings(worth_saying(findings, opened), stderr);
    const drawing::StackDrawing stack = drawing::stack_at(design, e);
    if (!choices.write.empty()) {
      drawing::draw(stack, design.part.units, choices.write);
      fmt::print(stderr, "wrote {}\n", choices.write);
    }
    if (!choices.json) {
      print(stack, design.part.units);
      return 0;
    }
    Json layers = Json::array();
    double z = stack.z0;
    for (std::size_t i = 0; i < stack.layers.size(); ++i) {
      const laminate::Layer& layer = stack.layers[i];
      layers.push_back({{"layer", i + 1},
                        {"ply", stack.plies[i]},
                        {"material", stack.materials[i]},
                        {"thickness", layer.thickness},
                        {"angle_deg", layer.angle.degrees()},
                        {"z_low", z},
                        {"z_high", z + layer.thickness}});
      z += layer.thickness;
    }
    const double h = laminate::thickness(stack.layers);
    Json directions = Json::array();
    for (const auto& a :
         laminate::against_direction(laminate::stiffness(stack.layers, stack.z0), h, stack.z0 + 0.5 * h, 72))
      directions.push_back({{"direction_deg", a.direction.degrees()},
                            {"in_plane", a.in_plane},
                            {"in_plane_held", a.in_plane_held},
                            {"in_bending", a.in_bending},
                            {"shear", a.shear}});
    print_document("stack", design.part.units,
                   {{"element", design.surface.element_ids[e]},
                    {"order", "first laid first"},
                    {"layers", layers},
                    {"stiffness_against_direction", directions}},
                   findings);
    return 0;
  });
}

}  // namespace stack_command

void add_stack(CLI::App& program, int& exit_code) {
  using namespace stack_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command =
      program.add_subcommand("stack", "Draw the laminate at one place to scale, here or as SVG or PDF");
  add_part_option(*command, choices->part);
  add_place_options(*command, choices->place);
  add_output_option(*command, "-o,--write", choices->write,
                    "A sheet, .svg or .pdf: the stack, stiffness against direction, A, B, D and what they mean");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Examples:\n  bordado stack skiff.toml --point 2600,0,40\n  bordado stack skiff.toml --element 1200 -o "
      "stack.pdf");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
