// bordado zones: each distinct laminate of the part and where it lies.
#include "print.hpp"

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace zones_command {

struct Choices {
  PartChoice part;
  bool json = false;
};

std::vector<std::string> ply_ids(const Design& design, layup::StackId stack) {
  std::vector<std::string> out;
  for (const part::PlyId p : design.layup.plies_of(stack)) out.push_back(design.part.plies[p].id);
  return out;
}

/// In the mean over the stack's elements.
double areal_mass_of(const Design& design, const layup::Mass& mass, layup::StackId s) {
  if (!design.layup.varies[s]) return layup::areal_mass(design.part, design.layup, s);
  return mass.stack_areas[s] > 0.0 ? mass.stack_masses[s] / mass.stack_areas[s] : 0.0;
}

Json as_json(const Design& design, const layup::Mass& mass) {
  Json laminates = Json::array(), zones = Json::array();
  const auto where = layup::zones_of_stacks(design.layup);
  for (const layup::StackId s : design.layup.stacks()) {
    const double areal = areal_mass_of(design, mass, s);
    laminates.push_back({{"laminate", index(s) + 1},
                         {"code", layup::code(design.part, design.layup, s)},
                         {"plies", ply_ids(design, s)},
                         {"thickness", mass.stack_thickness[s][1]},
                         {"areal_mass", areal},
                         {"area", mass.stack_areas[s]},
                         {"mass", mass.stack_masses[s]},
                         {"where", where[s]}});
    if (design.layup.varies[s]) laminates.back()["thickness_range"] = mass.stack_thickness[s];
  }
  for (const zone::ZoneId z : design.layup.zones.names.ids())
    zones.push_back({{"zone", design.layup.zones.names[z]},
                     {"elements", design.layup.zones.counts[z]},
                     {"area", mass.zone_areas[z]},
                     {"exact_area", design.layup.zones.exact_areas[z]},
                     {"mass", mass.zone_masses[z]}});
  const UnitSystem& units = design.part.units;
  return {{"part", design.part.name},
          {"units",
           {{"length", units.unit(Dimension::length)},
            {"mass", units.unit(Dimension::mass)},
            {"area", units.unit(Dimension::area)},
            {"areal_mass", units.unit(Dimension::areal_mass)}}},
          {"laminates", laminates},
          {"zones", zones}};
}

void print(const Design& design, const layup::Mass& mass) {
  const UnitSystem& units = design.part.units;
  fmt::print("{}: {}, first laid first\n\n", styled(design.part.name, Style::bold, fileno(stdout)),
             counted(design.layup.stack_count(), "laminate"));
  std::vector<double> thickness, thinnest, areal, area, weight;
  for (const layup::StackId s : design.layup.stacks()) {
    const double per_area = areal_mass_of(design, mass, s);
    thickness.push_back(mass.stack_thickness[s][1]);
    thinnest.push_back(mass.stack_thickness[s][0]);
    areal.push_back(per_area * units.to_si(Dimension::areal_mass));
    area.push_back(mass.stack_areas[s] * units.to_si(Dimension::area));
    weight.push_back(mass.stack_masses[s] * units.to_si(Dimension::mass));
  }
  auto t = column(thickness);
  const auto least = column(thinnest);
  for (const layup::StackId s : design.layup.stacks())
    if (design.layup.varies[s] && least[index(s)] != t[index(s)])
      t[index(s)] = fmt::format("{} to {}", least[index(s)], t[index(s)]);
  const auto p = column(areal), a = column(area), m = column(weight);
  const auto where = layup::zones_of_stacks(design.layup);
  TableText laminates(
      {"", "plies", "t " + units.unit(Dimension::length), "kg/m^2", "area m^2", "mass kg", "where", "code"});
  for (const layup::StackId s : design.layup.stacks())
    laminates.add({fmt::format("{}", index(s) + 1), fmt::format("{}", design.layup.plies_of(s).size()), t[index(s)],
                   p[index(s)], a[index(s)], m[index(s)], fmt::format("{}", fmt::join(where[s], ", ")),
                   layup::code(design.part, design.layup, s)});
  laminates.print(stdout);
  bool any = false;
  for (const material::Material& material : design.part.materials) {
    if (material.mark.empty()) continue;
    fmt::print("{}{} {}", any ? ", " : "\nmarks: ", material.mark, material.name);
    any = true;
  }
  fmt::print("{}\n", any ? "\n" : "");
  std::vector<double> zone_area, zone_exact, zone_mass;
  for (const zone::ZoneId z : design.layup.zones.names.ids()) {
    zone_area.push_back(mass.zone_areas[z] * units.to_si(Dimension::area));
    zone_exact.push_back(design.layup.zones.exact_areas[z] * units.to_si(Dimension::area));
    zone_mass.push_back(mass.zone_masses[z] * units.to_si(Dimension::mass));
  }
  const auto areas = column(zone_area), exact = column(zone_exact), masses = column(zone_mass);
  TableText table({"zone", "elements", "area m^2", "as declared m^2", "mass kg"});
  for (const zone::ZoneId z : design.layup.zones.names.ids())
    table.add({design.layup.zones.names[z], fmt::format("{}", design.layup.zones.counts[z]), areas[index(z)],
               exact[index(z)], masses[index(z)]});
  table.print(stdout);
}

int run(const Choices& choices) {
  return guarded({"zones", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, {}, progress_line());
    const layup::Mass mass = layup::mass(design);
    if (choices.json)
      print_document("zones", design.part.units, as_json(design, mass), findings);
    else
      print(design, mass);
    return 0;
  });
}

}  // namespace zones_command

void add_zones(CLI::App& program, int& exit_code) {
  using namespace zones_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command =
      program.add_subcommand("zones", "List each distinct laminate: code, layers, thickness, mass, area, where");
  add_part_option(*command, choices->part);
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer("Example:\n  bordado zones skiff.toml");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
