// bordado diff: what changed from one part file to another.
#include "print.hpp"

#include <bordado/review/compare.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace diff_command {

struct Choices {
  PartChoice before, after;
  bool json = false;
};

std::string_view name_of(review::Change::What what) {
  constexpr std::string_view names[] = {"added", "removed", "moved", "changed"};
  return names[static_cast<int>(what)];
}

Json as_json(const review::Comparison& all) {
  Json changes = Json::array(), zones = Json::array(), figures = Json::array();
  for (const review::Change& c : all.changes)
    changes.push_back({{"what", name_of(c.what)}, {"kind", c.kind}, {"name", c.name}, {"detail", c.detail}});
  const auto pair = [](double before, double after) { return Json{{"before", before}, {"after", after}}; };
  for (const review::ZoneChange& z : all.zones)
    zones.push_back({{"zone", z.zone},
                     {"laminate", {{"before", z.before}, {"after", z.after}}},
                     {"area", pair(z.area_before, z.area_after)},
                     {"mass", pair(z.mass_before, z.mass_after)},
                     {"mean_thickness", pair(z.thickness_before, z.thickness_after)},
                     {"mean_A11", pair(z.A11_before, z.A11_after)},
                     {"mean_D11", pair(z.D11_before, z.D11_after)}});
  for (const review::Figure& f : all.figures)
    figures.push_back({{"name", f.name}, {"before", f.before}, {"after", f.after}});
  return {{"same", all.same()}, {"changes", changes}, {"zones", zones}, {"whole", figures}};
}

std::string arrow(double before, double after) {
  return std::abs(before - after) <= 1e-9 * std::abs(after) ? number(after)
                                                            : fmt::format("{} -> {}", number(before), number(after));
}

std::string share(double before, double after) {
  return before > 0.0 ? fmt::format("{:+.3g} %", 100.0 * (after / before - 1.0)) : std::string("new");
}

void print(const Design& after, const review::Comparison& all) {
  const UnitSystem& units = after.part.units;
  if (all.same()) {
    fmt::print("no difference\n");
    return;
  }
  constexpr std::string_view signs[] = {"+", "-", ">", "*"};
  for (const review::Change& c : all.changes) {
    const std::string head =
        fmt::format("{} {}{}", signs[static_cast<int>(c.what)], c.kind, c.kind == c.name ? "" : " " + c.name);
    fmt::print("{} {}{}\n", styled(head, Style::bold, fileno(stdout)), name_of(c.what),
               c.detail.empty() ? "" : fmt::format(": {}", c.detail));
  }
  if (!all.zones.empty()) {
    const double kg = units.to_si(Dimension::mass), m2 = units.to_si(Dimension::area);
    const std::string length = units.unit(Dimension::length), force = units.unit(Dimension::force);
    fmt::print("{}zones whose laminates differ; means over the area, D about the middle\n\n",
               all.changes.empty() ? "" : "\n");
    TableText table({"zone", "area m^2", "mass kg", "t " + length, "A11 " + units.unit(Dimension::line_force),
                     "D11 " + force + " " + length, "mostly"});
    for (const review::ZoneChange& z : all.zones)
      table.add({z.zone, arrow(z.area_before * m2, z.area_after * m2), arrow(z.mass_before * kg, z.mass_after * kg),
                 arrow(z.thickness_before, z.thickness_after), arrow(z.A11_before, z.A11_after),
                 arrow(z.D11_before, z.D11_after),
                 z.before == z.after
                     ? z.after
                     : fmt::format("{} -> {}", z.before.empty() ? "-" : z.before, z.after.empty() ? "-" : z.after)});
    table.print(stdout);
  }
  if (all.figures.empty()) return;
  fmt::print("\nthe whole part\n\n");
  TableText table({"", "before", "after", "", ""});
  for (const review::Figure& f : all.figures) {
    const bool mass = f.dimension == Dimension::mass, area = f.dimension == Dimension::area;
    const double si = mass || area ? units.to_si(f.dimension) : 1.0;
    const std::string unit = mass   ? "kg"
                             : area ? "m^2"
                             : f.dimension == Dimension::none
                                 ? units.unit(Dimension::force) + " " + units.unit(Dimension::length)
                                 : units.unit(f.dimension);
    table.add({f.name, number(f.before * si, 5), number(f.after * si, 5), unit, share(f.before, f.after)});
  }
  table.print(stdout);
}

int run(const Choices& choices) {
  return guarded({"diff", choices.json}, [&](Findings& findings) {
    const Design before = open_part(choices.before, findings, {}, progress_line());
    const Design after = open_part(choices.after, findings, {}, progress_line());
    const review::Comparison all = review::compare(before, after);
    if (choices.json)
      print_document("diff", after.part.units, as_json(all), findings);
    else
      print(after, all);
    return 0;
  });
}

}  // namespace diff_command

void add_diff(CLI::App& program, int& exit_code) {
  using namespace diff_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "diff", "What changed between two part files: plies, materials, zones, mass, thickness, stiffness");
  command->add_option("before", choices->before.file, "A part file")->required();
  command->add_option("after", choices->after.file, "Another, or the same with another variant")->required();
  command->add_option("--variant-before", choices->before.variant, "Variant of the first");
  command->add_option("--variant-after", choices->after.variant, "Variant of the second");
  command->add_flag("--json", choices->json, "Print JSON; values in the units of the second");
  command->footer(
      "Examples:\n  bordado diff skiff.toml skiff-2.toml\n  bordado diff rudder.toml rudder.toml --variant-after "
      "training");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
