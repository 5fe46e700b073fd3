// bordado plies: the ply book.
#include "print.hpp"

#include <bordado/base/files.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/book.hpp>
#include <bordado/review/drapes.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace plies_command {

struct Choices {
  PartChoice part;
  std::string write, draw;
  bool from_top = false, json = false;
};

/// Nought without a sign where three decimals show nought.
double plain(double value) { return std::abs(value) < 5e-4 ? 0.0 : value; }

std::string optional_text(const std::optional<double>& value, double factor, int digits = 4) {
  return value ? number(*value * factor, digits) : "-";
}

/// "EUR" where all costs are in one currency; nothing where there are none or several.
std::string currency_of(const part::Part& part, const review::PlyBook& book) {
  std::string out;
  for (const review::MaterialEntry& entry : book.materials) {
    const auto& cost = part.materials[entry.material].cost;
    if (!cost) continue;
    if (!out.empty() && out != cost->currency) return {};
    out = cost->currency;
  }
  return out;
}

Json as_json(const Design& design, const review::PlyBook& book, bool from_top) {
  const part::Part& part = design.part;
  Json plies = Json::array(), materials = Json::array();
  const auto put = [](Json& out, const char* key, const std::optional<double>& value) {
    if (value) out[key] = *value;
  };
  for (const review::PlyEntry& entry : book.plies) {
    const part::Ply& ply = part.plies[entry.ply];
    Json one = {{"ply", ply.id},
                {"material", ply.material.value},
                {"angle_deg", ply.angle.degrees()},
                {"frame", ply.frame.value},
                {"zone", ply.zone.value},
                {"thickness", entry.thickness},
                {"elements", entry.elements},
                {"area", entry.area},
                {"pieces", entry.pieces},
                {"mean_direction", to_json(entry.direction)},
                {"furthest_deg", entry.furthest.degrees()},
                {"furthest_at_element", design.surface.element_ids[entry.furthest_at]},
                {"along", entry.along},
                {"across", entry.across},
                {"strips", entry.strips}};
    const layup::Region& region = design.layup.regions[design.layup.plies[entry.ply].region];
    put(one, "edge", region.edge);
    if (!region.moved.empty()) {
      Json ramps = Json::array();
      for (const layup::Moved& moved : region.moved)
        ramps.push_back({{"ramp", design.layup.ramps[moved.ramp].name}, {"edge", moved.by}});
      one["ramps"] = std::move(ramps);
    }
    put(one, "mass", entry.mass);
    put(one, "roll_length", entry.roll_length);
    put(one, "cost", entry.cost);
    const part::PlyLine& line = part.list.lines[ply.line];
    if (!line.group.empty()) one["group"] = line.group;
    if (!line.note.empty()) one["note"] = line.note;
    plies.push_back(one);
  }
  if (from_top) std::reverse(plies.begin(), plies.end());
  for (const review::MaterialEntry& entry : book.materials) {
    Json one = {{"material", part.materials[entry.material].name}, {"plies", entry.plies}, {"area", entry.area}};
    put(one, "mass", entry.mass);
    put(one, "roll_length", entry.roll_length);
    put(one, "cost", entry.cost);
    materials.push_back(one);
  }
  return {{"part", part.name},
          {"variant", part.variant},
          {"order", from_top ? "last laid first" : "first laid first"},
          {"currency", currency_of(part, book)},
          {"plies", plies},
          {"materials", materials}};
}

void print(const Design& design, const review::PlyBook& book, bool from_top) {
  const part::Part& part = design.part;
  const UnitSystem& units = part.units;
  const double kg = units.to_si(Dimension::mass), m2 = units.to_si(Dimension::area), m = units.to_si(Dimension::length);
  const std::string currency = currency_of(part, book), length = units.unit(Dimension::length);
  fmt::print("{}{}: {} plies, listed {}; the part file lists them {}\n\n",
             styled(part.name, Style::bold, fileno(stdout)),
             part.variant.empty() ? "" : fmt::format(", variant {}", part.variant), book.plies.size(),
             from_top ? "last laid first (from the top down)" : "first laid first (from the tool up)",
             part.list.listed == part::Listed::first_laid_first ? "first laid first" : "last laid first");
  std::vector<std::string> head = {"ply",
                                   "material",
                                   "angle",
                                   "zone",
                                   "t " + length,
                                   "area m^2",
                                   "mass kg",
                                   "pieces",
                                   "mean fibre direction",
                                   "off by",
                                   "along x across " + length,
                                   "roll m"};
  if (!currency.empty()) head.push_back("cost " + currency);
  TableText table(head);
  std::vector<const review::PlyEntry*> list;
  for (const review::PlyEntry& entry : book.plies) list.push_back(&entry);
  if (from_top) std::reverse(list.begin(), list.end());
  for (const review::PlyEntry* const entry : list) {
    const part::Ply& ply = part.plies[entry->ply];
    std::vector<std::string> row = {ply.id,
                                    ply.material.value,
                                    fmt::format("{:g}°", ply.angle.degrees()),
                                    ends_text(design, entry->ply, Ramps::left_out),
                                    number(entry->thickness),
                                    number(entry->area * m2),
                                    optional_text(entry->mass, kg),
                                    fmt::format("{}", entry->pieces),
                                    fmt::format("{:6.3f} {:6.3f} {:6.3f}", plain(entry->direction.x()),
                                                plain(entry->direction.y()), plain(entry->direction.z())),
                                    fmt::format("{:.1f}°", entry->furthest.degrees()),
                                    fmt::format("{:.0f} x {:.0f}", entry->along, entry->across),
                                    entry->roll_length
                                        ? fmt::format("{}{}", number(*entry->roll_length * m, 3),
                                                      entry->strips > 1 ? fmt::format(" in {}", entry->strips) : "")
                                        : "-"};
    if (!currency.empty()) row.push_back(optional_text(entry->cost, 1.0, 3));
    table.add(std::move(row));
  }
  table.print(stdout);
  fmt::print("\n");
  head = {"material", "plies", "area m^2", "mass kg", "roll m"};
  if (!currency.empty()) head.push_back("cost " + currency);
  TableText sums(head);
  for (const review::MaterialEntry& entry : book.materials) {
    std::vector<std::string> row = {part.materials[entry.material].name, fmt::format("{}", entry.plies),
                                    number(entry.area * m2), optional_text(entry.mass, kg),
                                    optional_text(entry.roll_length, m, 3)};
    if (!currency.empty()) row.push_back(optional_text(entry.cost, 1.0, 4));
    sums.add(std::move(row));
  }
  sums.print(stdout);
  fmt::print(
      "\noff by: the largest angle of a fibre against the mean. along x across: the rectangle round the ply, seen "
      "flat; roll: its "
      "length in as many strips\nas the roll is too narrow for. Before draping: a ply that curves needs more.\n");
}

int run(const Choices& choices) {
  return guarded({"plies", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, {}, progress_line());
    if (!choices.write.empty()) {
      OutputFile file(choices.write);
      file.write(part::plies_csv(design.part));
      file.commit();
      if (choices.write == "-") return 0;
      fmt::print(stderr, "wrote {}: {} lines; read it with [layup] plies = \"{}\"\n", choices.write,
                 design.part.list.lines.size(), choices.write);
    }
    if (!choices.draw.empty()) {
      drawing::draw_flat(design, choices.draw);
      fmt::print(stderr, "wrote {}\n", choices.draw);
    }
    const review::PlyBook book = review::ply_book(design);
    if (choices.json)
      print_document("plies", design.part.units, as_json(design, book, choices.from_top), findings);
    else
      print(design, book, choices.from_top);
    return 0;
  });
}

}  // namespace plies_command

void add_plies(CLI::App& program, int& exit_code) {
  using namespace plies_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command =
      program.add_subcommand("plies", "The ply book: area, mass, direction, roll and cost of every ply");
  add_part_option(*command, choices->part);
  command->add_flag("--from-top", choices->from_top, "List the last laid ply first");
  add_output_option(*command, "--write", choices->write, "Write the list of plies as it is declared to this CSV file");
  add_output_option(*command, "--draw", choices->draw, "Outlines of all plies seen flat, to scale, .svg or .pdf");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Examples:\n  bordado plies skiff.toml\n  bordado plies skiff.toml --write plies.csv\n  bordado plies skiff.toml "
      "--draw plies.pdf");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
