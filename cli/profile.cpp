// bordado profile: a cut through the laminate along a line.
#include "print.hpp"

#include <bordado/drawing.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace profile_command {

struct Choices {
  PartChoice part;
  std::vector<double> from, to;
  std::string write;
  bool json = false;
};

int run(const Choices& choices) {
  return guarded({"profile", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, {}, progress_line());
    const auto point = [](const std::vector<double>& xyz) { return Vec3(xyz[0], xyz[1], xyz[2]); };
    const review::Profile profile = review::profile(design, point(choices.from), point(choices.to));
    if (!choices.write.empty()) {
      drawing::draw(profile, design, choices.write);
      fmt::print(stderr, "wrote {}\n", choices.write);
    }
    const auto id = [&](part::PlyId p) { return design.part.plies[p].id; };
    const std::string unit = design.part.units.unit(Dimension::length);
    if (choices.json) {
      Json points = Json::array(), bands = Json::array(), edges = Json::array();
      for (std::size_t k = 0; k < profile.points.size(); ++k)
        points.push_back({{"at", profile.at[k]}, {"point", to_json(profile.points[k])}});
      for (const review::Profile::Band& band : profile.bands)
        bands.push_back({{"ply", id(band.ply)},
                         {"from", band.from},
                         {"to", band.to},
                         {"bottom", band.bottom},
                         {"thickness", band.thickness}});
      for (const review::Profile::Edge& edge : profile.edges)
        edges.push_back({{"ply", id(edge.ply)}, {"at", edge.at}, {"ends", edge.ends}});
      print_document("profile", design.part.units,
                     {{"length", profile.at.back()}, {"line", points}, {"layers", bands}, {"edges", edges}}, findings);
      return 0;
    }
    fmt::print("{}: {} {} along the surface, {}\n", styled(design.part.name, Style::bold, fileno(stdout)),
               number(profile.at.back()), unit,
               profile.edges.empty() ? std::string("no ply ends on it")
                                     : fmt::format("{} of plies on it", counted(profile.edges.size(), "end")));
    if (profile.edges.empty()) return 0;
    fmt::print("\n");
    std::vector<double> at, from_first, step;
    for (const review::Profile::Edge& edge : profile.edges) {
      step.push_back(at.empty() ? 0.0 : edge.at - at.back());
      at.push_back(edge.at);
      from_first.push_back(edge.at - at.front());
    }
    const auto a = column(at), f = column(from_first), s = column(step);
    TableText table({"ply", "", "at " + unit, "from the first " + unit, "step " + unit});
    for (std::size_t k = 0; k < at.size(); ++k)
      table.add({id(profile.edges[k].ply), profile.edges[k].ends ? "ends" : "begins", a[k], f[k], k > 0 ? s[k] : ""});
    table.print(stdout);
    return 0;
  });
}

}  // namespace profile_command

void add_profile(CLI::App& program, int& exit_code) {
  using namespace profile_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "profile", "Cut through the laminate along a line: where every ply ends, as a table or a drawing");
  add_part_option(*command, choices->part);
  command->add_option("--from", choices->from, "Where the line begins; the nearest place of the surface")
      ->delimiter(',')
      ->expected(3)
      ->required();
  command->add_option("--to", choices->to, "Where it ends")->delimiter(',')->expected(3)->required();
  add_output_option(*command, "-o,--write", choices->write, "A drawing for the shop, .svg or .pdf");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer("Example:\n  bordado profile rudder.toml --from 62,10,-250 --to 62,10,-420 -o profile.pdf");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
