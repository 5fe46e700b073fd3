// bordado fields: everything that is known of every element, for a viewer.
#include "print.hpp"

#include <bordado/review/fields.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace fields_command {

struct Choices {
  PartChoice part;
  SectionChoice sections;
  std::string write, edges;
  bool plies = false, json = false;
};

int run(const Choices& choices) {
  return guarded({"fields", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, choices.sections.options(), progress_line());
    const std::vector<mesh::Array> arrays =
        review::fields(design, choices.plies ? review::Plies::included : review::Plies::left_out);
    if (!choices.write.empty()) {
      mesh::write(design.surface, choices.write, arrays);
      fmt::print(stderr, "wrote {}: {} fields\n", choices.write, arrays.size());
    }
    if (!choices.edges.empty()) {
      const review::EdgeLines edges = review::edge_lines(design);
      mesh::Array number{"ply", false, 1, {}};
      for (const part::PlyId p : edges.plies) number.values.push_back(index(p) + 1.0);
      mesh::write(edges.lines, choices.edges, {&number, 1});
      fmt::print(stderr, "wrote {}: {} of plies, numbered as in the ply book\n", choices.edges,
                 counted(edges.lines.size(), "edge"));
    }
    Json all = Json::array();
    TableText table({"field", "numbers", "least", "largest"});
    for (const mesh::Array& array : arrays) {
      const std::vector<double> values = array.now();
      const auto [low, high] = std::minmax_element(values.begin(), values.end());
      all.push_back({{"field", array.name}, {"components", array.components}, {"least", *low}, {"largest", *high}});
      table.add({array.name, fmt::format("{}", array.components), number(*low), number(*high)});
    }
    if (choices.json) {
      print_document("fields", design.part.units, {{"part", design.part.name}, {"fields", all}}, findings);
    } else {
      fmt::print("{}: {} fields on {} elements\n\n", styled(design.part.name, Style::bold, fileno(stdout)),
                 arrays.size(), design.surface.element_count());
      table.print(stdout);
      fmt::print("\nmaterials by number:");
      for (const part::MaterialId m : design.part.materials.ids())
        fmt::print("{} {} {}", index(m) == 0 ? "" : ",", index(m) + 1, design.part.materials[m].name);
      fmt::print("\n");
    }
    return 0;
  });
}

}  // namespace fields_command

void add_fields(CLI::App& program, int& exit_code) {
  using namespace fields_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "fields", "Thickness, stiffness, mass, directions and zones of every element, as a VTU file");
  add_part_option(*command, choices->part);
  add_section_options(*command, choices->sections);
  add_output_option(*command, "--write", choices->write, "The file, .vtu");
  add_output_option(*command, "--edges", choices->edges, "The edges of plies as lines, .vtu");
  command->add_flag("--plies", choices->plies, "With the fibre direction of every ply where it lies");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer("Example:\n  bordado fields skiff.toml --write skiff.vtu --plies");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
