// bordado ramps: how plies end one after another.
#include "print.hpp"

#include <bordado/drawing.hpp>
#include <bordado/review/fields.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <cmath>
#include <memory>

namespace bordado::cli {

namespace ramps_command {

struct Choices {
  PartChoice part;
  std::string write, lines;
  bool json = false;
};

std::vector<std::string> ids(const Design& design, const std::vector<part::PlyId>& plies) {
  std::vector<std::string> out;
  for (const part::PlyId p : plies) out.push_back(design.part.plies[p].id);
  return out;
}

std::string between(const Design& design, const layup::Ramp& ramp) {
  const auto& names = design.layup.zones.names;
  return ramp.to ? fmt::format("from {} to {}", names[ramp.from], names[*ramp.to])
                 : fmt::format("round {}", names[ramp.from]);
}

/// Run per rise of a step; nothing for the last.
std::optional<double> slope(const layup::RampStep& step) {
  return step.run > 0.0 && step.thickness > 0.0 ? std::optional(step.run / step.thickness) : std::nullopt;
}

Json finite(double value) { return std::isfinite(value) ? Json(value) : Json(nullptr); }

Json as_json(const Design& design) {
  Json ramps = Json::array();
  for (const layup::Ramp& ramp : design.layup.ramps) {
    Json steps = Json::array();
    for (const layup::RampStep& step : ramp.steps)
      steps.push_back({{"plies", ids(design, step.plies)},
                       {"edge", step.by},
                       {"thickness", step.thickness},
                       {"run", step.run},
                       {"slope", slope(step) ? Json(*slope(step)) : Json(nullptr)},
                       {"length", step.length},
                       {"symmetric", step.symmetric},
                       {"balanced", step.balanced}});
    ramps.push_back({{"ramp", ramp.name},
                     {"from", design.layup.zones.names[ramp.from]},
                     {"to", ramp.to ? Json(design.layup.zones.names[*ramp.to]) : Json(nullptr)},
                     {"plies", ids(design, ramp.thick)},
                     {"run", ramp.run},
                     {"length", ramp.length},
                     {"room_inside", finite(ramp.room_inside)},
                     {"room_outside", finite(ramp.room_outside)},
                     {"steps", steps}});
  }
  const review::EdgeLines edges = review::edge_lines(design);
  const auto of_ramps = review::ramp_lines(design);
  Json lines = Json::array();
  for (std::size_t i = 0; i < edges.lines.size(); ++i) {
    Json points = Json::array(), ends = Json::array();
    for (const Vec3& point : edges.lines[i].points) points.push_back({point.x(), point.y(), point.z()});
    for (const review::RampLine& at : of_ramps[edges.plies[i]])
      ends.push_back({{"ramp", design.layup.ramps[at.ramp].name}, {"line", at.line}});
    lines.push_back({{"ply", design.part.plies[edges.plies[i]].id},
                     {"ramps", std::move(ends)},
                     {"closed", edges.lines[i].closed},
                     {"length", mesh::length(edges.lines[i])},
                     {"points", std::move(points)}});
  }
  return {{"part", design.part.name}, {"ramps", ramps}, {"lines", lines}};
}

void print(const Design& design) {
  const std::string unit = design.part.units.unit(Dimension::length);
  fmt::print("{}: {}\n", styled(design.part.name, Style::bold, fileno(stdout)),
             counted(design.layup.ramps.size(), "ramp"));
  for (const layup::Ramp& ramp : design.layup.ramps) {
    double ended = 0.0;
    for (const layup::RampStep& step : ramp.steps) ended += step.thickness;
    const bool inside = ramp.steps.front().by<0.0, outside = ramp.steps.back().by> 0.0;
    fmt::print("\n{} {}, {} {} long: {} {} end {}\n", styled(ramp.name, Style::bold, fileno(stdout)),
               between(design, ramp), number(ramp.length), unit, number(ended), unit,
               // Where all end on one line there is no slope.
               ramp.run > 0.0 ? fmt::format("over {} {}, 1:{}", number(ramp.run), unit,
                                            number(ramp.run / (ended - ramp.steps.back().thickness)))
                              : std::string("on one line"));
    std::vector<double> by, thickness, run, length;
    for (const layup::RampStep& step : ramp.steps) {
      by.push_back(step.by);
      thickness.push_back(step.thickness);
      run.push_back(step.run);
      length.push_back(step.length);
    }
    const auto b = column(by), t = column(thickness), r = column(run), l = column(length);
    TableText table(
        {"line", "plies that end", "edge " + unit, "t " + unit, "run " + unit, "slope", "length " + unit, "left is"});
    for (std::size_t k = 0; k < ramp.steps.size(); ++k) {
      const layup::RampStep& step = ramp.steps[k];
      const auto steep = slope(step);
      table.add({fmt::format("{}", k + 1), fmt::format("{}", fmt::join(ids(design, step.plies), ", ")), b[k], t[k],
                 k + 1 < ramp.steps.size() ? r[k] : "", steep ? fmt::format("1:{}", number(*steep, 3)) : "", l[k],
                 step.symmetric && step.balanced ? "symmetric, balanced"
                 : step.symmetric                ? "symmetric"
                 : step.balanced                 ? "balanced"
                                                 : ""});
    }
    table.print(stdout);
    const auto room = [&](double has, double takes, std::string_view where) {
      if (std::isfinite(has))
        fmt::print("{} there is room for {} {}: {} {} are left\n", where, number(has), unit, number(has - takes), unit);
      else
        fmt::print("{} there is more room than it needs\n", where);
    };
    if (inside) room(ramp.room_inside, -ramp.steps.front().by, "inside");
    if (outside) room(ramp.room_outside, ramp.steps.back().by, "outside");
  }
  if (design.layup.ramps.size() == 0)
    fmt::print("\nplies end where their zones do; [ramp.NAME] in the part file lets them end one after another\n");
}

int run(const Choices& choices) {
  return guarded({"ramps", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, {}, progress_line());
    if (!choices.write.empty()) {
      drawing::draw_ramps(design, choices.write);
      fmt::print(stderr, "wrote {}\n", choices.write);
    }
    if (!choices.lines.empty()) {
      const std::size_t count = drawing::write_ply_lines(design, choices.lines);
      fmt::print(stderr, "wrote {}: {} of plies\n", choices.lines, counted(count, "line"));
    }
    if (choices.json)
      print_document("ramps", design.part.units, as_json(design), findings);
    else
      print(design);
    return 0;
  });
}

}  // namespace ramps_command

void add_ramps(CLI::App& program, int& exit_code) {
  using namespace ramps_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command =
      program.add_subcommand("ramps", "List how plies end one after another: lines, steps, slopes, what is left");
  add_part_option(*command, choices->part);
  add_output_option(*command, "-o,--write", choices->write,
                    "A drawing of the section across each of them, .pdf or .svg");
  add_output_option(*command, "--lines", choices->lines,
                    "Where plies end, as curves in space: .dxf, in millimetres, a layer a ply; or .vtu");
  command->add_flag("--json", choices->json, "Print JSON, curves too; values in the part's units");
  command->footer(
      "Examples:\n  bordado ramps rudder.toml\n  bordado ramps rudder.toml -o ramps.pdf\n  bordado ramps rudder.toml "
      "--lines ends.dxf");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
