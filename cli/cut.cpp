// bordado cut: a mesh whose elements end where plies do.
#include "print.hpp"

#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace cut_command {

struct Choices {
  PartChoice part;
  std::string write;
  double slide = mesh::CutOptions{}.slide;
  bool json = false;
};

int run(const Choices& choices) {
  return guarded({"cut", choices.json}, [&](Findings& findings) {
    const Progress progress = progress_line();
    const Design design = open_part(choices.part, findings, {}, progress);
    const std::size_t opened = findings.all().size();
    if (progress) progress("cutting", 0.5);
    mesh::CutReport report;
    const mesh::Surface cut = layup::cut_at_edges(design, {.slide = choices.slide}, report, findings);
    mesh::write(cut, choices.write);
    if (progress) progress("", 1.0);
    const UnitSystem& units = design.part.units;
    if (choices.json) {
      print_document("cut", units,
                     {{"file", choices.write},
                      {"lines", report.lines},
                      {"nodes_slid", report.slid},
                      {"elements_parted", report.split},
                      {"elements_before", design.surface.element_count()},
                      {"elements", cut.element_count()},
                      {"nodes", cut.points.size()},
                      {"smallest_angle_before_deg", report.least_before},
                      {"smallest_angle_deg", report.least_angle}},
                     findings);
      return 0;
    }
    print_findings(worth_saying(findings, opened), stdout);
    fmt::print("{}: {} elements, before {}; {} cut in, {} moved onto {}, {} parted\n", choices.write,
               cut.element_count(), design.surface.element_count(), counted(report.lines, "line"),
               counted(report.slid, "node"), report.lines == 1 ? "it" : "them", counted(report.split, "element"));
    fmt::print("smallest angle of an element {:.1f}°, before {:.1f}°\n", report.least_angle, report.least_before);
    fmt::print("\nto use it: mesh = {{ file = \"{}\", length = \"{}\" }} in [part], edges = \"whole\" in [layup]\n",
               choices.write, units.unit(Dimension::length));
    return 0;
  });
}

}  // namespace cut_command

void add_cut(CLI::App& program, int& exit_code) {
  using namespace cut_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "cut", "Cut the mesh along the edges of plies, so that each element lies under whole plies");
  add_part_option(*command, choices->part);
  add_output_option(*command, "-o,--write", choices->write, "The new mesh, .msh or .vtu")->required();
  command
      ->add_option("--slide", choices->slide,
                   "Nodes nearer to an edge than this part of their sides move onto it; others stay and elements are "
                   "parted")
      ->check(CLI::Range(1e-6, 0.4))
      ->capture_default_str();
  command->add_flag("--json", choices->json, "Print JSON");
  command->footer("Example:\n  bordado cut rudder.toml -o rudder-cut.msh");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
