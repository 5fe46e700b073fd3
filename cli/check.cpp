// bordado check: is the part fit to be laid, and what would a colleague point out?
#include "print.hpp"

#include <bordado/mesh/care.hpp>
#include <bordado/review/check.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <memory>

namespace bordado::cli {

namespace check_command {

struct Choices {
  PartChoice part;
  SectionChoice sections;
  bool json = false;
};

Json summary(const Design& design) {
  const mesh::Size size = mesh::size(design.surface, design.geometry);
  const layup::Mass mass = layup::mass(design);
  const auto& off = design.sections.deviation;
  const auto [thinnest, thickest] =
      std::minmax_element(design.sections.thickness.begin(), design.sections.thickness.end());
  Json surface = to_json(size);
  surface["file"] = design.surface.file;
  surface["pieces"] = design.orientation.pieces;
  surface["turned"] = design.orientation.flipped;
  return {
      {"part", design.part.name},
      {"surface", surface},
      {"laminate",
       {{"plies", design.part.plies.size()},
        {"stacks", design.layup.stack_count()},
        {"variant", design.part.variant},
        {"listed", design.part.list.listed == part::Listed::first_laid_first ? "first laid first" : "last laid first"},
        {"sections", design.sections.count()},
        {"thinnest", *thinnest},
        {"thickest", *thickest}}},
      {"condensing",
       {{"angle_tolerance_deg", off.angle_tolerance.degrees()},
        {"thickness_tolerance", off.thickness_tolerance},
        {"sections_by_tolerance", off.sections_by_tolerance},
        {"largest_angle_deg", off.largest_angle.degrees()},
        {"largest_thickness", off.largest_thickness},
        {"largest_mass", off.largest_mass},
        {"mean_angle_deg", off.mean_angle.degrees()},
        {"largest_A", off.largest_A},
        {"largest_B", off.largest_B},
        {"largest_D", off.largest_D},
        {"mean_A", off.mean_A},
        {"mean_B", off.mean_B},
        {"mean_D", off.mean_D}}},
      {"mass", {{"area", mass.area}, {"mass", mass.mass}, {"centre", mass.centre ? to_json(*mass.centre) : Json()}}}};
}

void print(const Design& design) {
  const mesh::Size size = mesh::size(design.surface, design.geometry);
  const layup::Mass mass = layup::mass(design);
  const UnitSystem& units = design.part.units;
  const std::string length = units.unit(Dimension::length);
  const auto& off = design.sections.deviation;
  const auto [thinnest, thickest] =
      std::minmax_element(design.sections.thickness.begin(), design.sections.thickness.end());
  const auto row = [](std::string_view name, const std::string& text) { fmt::print("  {:<10}{}\n", name, text); };
  fmt::print("{}\n", styled(design.part.name, Style::bold, fileno(stdout)));
  const Vec3 extent = size.high - size.low;
  row("surface", fmt::format("{} x {} x {} {} from {}, area {}", number(extent.x()), number(extent.y()),
                             number(extent.z()), length, point_text(size.low), area_text(units, size.area)));
  row("mesh",
      fmt::format("{} quadrilaterals, {} triangles{}, {} nodes; edges {} to {}, mean {} {}", size.quadrilaterals,
                  size.triangles, size.quadratic > 0 ? fmt::format(" ({} of them quadratic)", size.quadratic) : "",
                  size.nodes, number(size.shortest_edge, 3), number(size.longest_edge, 3), number(size.mean_edge, 3),
                  length));
  row("sides", fmt::format("{} of {} elements turned round to agree; {} piece{}", design.orientation.flipped,
                           design.surface.element_count(), design.orientation.pieces,
                           design.orientation.pieces == 1 ? "" : "s"));
  row("laminate",
      fmt::format("{} in {}, {} to {} {} thick, {} of it on the mesh; listed {} laid first{}",
                  design.part.plies.size() == 1 ? "1 ply" : fmt::format("{} plies", design.part.plies.size()),
                  counted(design.layup.stack_count(), "stack"), number(*thinnest), number(*thickest), length,
                  part::name_of(design.part.flush),
                  design.part.list.listed == part::Listed::first_laid_first ? "first" : "last",
                  design.part.variant.empty() ? "" : fmt::format("; variant {}", design.part.variant)));
  const std::string thickness =
      std::none_of(design.layup.varies.begin(), design.layup.varies.end(), [](auto varies) { return varies != 0; })
          ? ""
          : fmt::format(" and {:g} % of the thickness", 100 * off.thickness_tolerance);
  const std::string kept = off.sections_by_tolerance > design.sections.count()
                               ? fmt::format(" chosen of the {}", off.sections_by_tolerance)
                               : "";
  row("sections",
      design.sections.count() == design.layup.stack_count() && off.largest_angle.degrees() == 0.0 && kept.empty()
          ? fmt::format("{}, exact", design.sections.count())
          : fmt::format(
                "{}{} within {:g}°{}: largest angle off {:.2f}°, mean {:.3f}°; A off by {:.2g} %, B {:.2g} %, D "
                "{:.2g} % at most{}",
                design.sections.count(), kept, off.angle_tolerance.degrees(), thickness, off.largest_angle.degrees(),
                off.mean_angle.degrees(), 100 * off.largest_A, 100 * off.largest_B, 100 * off.largest_D,
                off.largest_mass > 1e-6
                    ? fmt::format("; mass per area {:.2g} %, of the part exact", 100 * off.largest_mass)
                    : ""));
  row("mass", fmt::format("{} over {}{}", mass_text(units, mass.mass), area_text(units, mass.area),
                          mass.centre ? fmt::format(", centre at {} {}", point_text(*mass.centre), length) : ""));
}

int run(const Choices& choices) {
  return guarded({"check", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, choices.sections.options(), progress_line());
    review::check(design, findings);
    if (choices.json) {
      Json out = summary(design);
      print_document("check", design.part.units, out, findings);
    } else {
      print(design);
      if (!findings.all().empty()) fmt::print("\n");
      print_findings(findings.all(), stdout);
      fmt::print("{}\n", tally(findings));
    }
    return findings.has_errors() ? 1 : 0;
  });
}

}  // namespace check_command

void add_check(CLI::App& program, int& exit_code) {
  using namespace check_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command =
      program.add_subcommand("check", "Read a part and its mesh, lay it, and tell what was found");
  add_part_option(*command, choices->part);
  add_section_options(*command, choices->sections);
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Exit code: 0 without errors (warnings and notes may be there), 1 with errors.\nExample:\n  bordado check "
      "skiff.toml");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
