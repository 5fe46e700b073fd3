// bordado drape: what comes of draping plies.
#include "print.hpp"

#include <bordado/drawing.hpp>
#include <bordado/review/drapes.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <csignal>
#include <memory>

namespace bordado::cli {

namespace drape_command {

struct Choices {
  PartChoice part;
  std::string ply, write, patterns, rolls;
  bool shear = false;
  double gap = 0.0;
  std::optional<std::size_t> seeds, directions;
  bool json = false;
  bool searches() const { return seeds || directions; }
};

volatile std::sig_atomic_t interrupted = 0;
extern "C" void end_the_search(int) { interrupted = 1; }

std::string_view reason(drape::CellBy by) {
  switch (by) {
    case drape::CellBy::given:
      return "given";
    case drape::CellBy::curvature:
      return "a tenth of the radius of curvature";
    case drape::CellBy::size:
      return "a fortieth of what is covered";
    case drape::CellBy::accuracy:
      return "halved for the sake of half a degree of shear";
    case drape::CellBy::count:
      break;
  }
  return "no more than 200,000 cells";
}

double largest_shear(const drape::Verdict& v) { return std::max(std::abs(v.least_shear), std::abs(v.most_shear)); }

std::string_view verdict_text(const review::PlyDrape& one, bool is_strips) {
  if (one.verdict.reached < (1.0 - 1e-9) * one.verdict.area) return "not reached everywhere";
  if (is_strips) return "";
  if (!one.limit) return "no limit known";
  return one.verdict.past.empty() ? "can be laid" : "past its limit";
}

std::vector<review::PlyDrape> chosen(const Design& design, const Choices& choices) {
  std::vector<review::PlyDrape> out = review::draped_plies(design);
  if (choices.ply.empty()) return out;
  std::vector<std::string> known;
  for (const review::PlyDrape& one : out) known.push_back(design.part.plies[one.ply].id);
  std::erase_if(out, [&](const review::PlyDrape& one) { return design.part.plies[one.ply].id != choices.ply; });
  if (!out.empty()) return out;
  const auto near = nearest_name(choices.ply, known);
  throw Failure({Severity::error,
                 "drape.ply-unknown",
                 fmt::format("no draped ply '{}'", plain_text(choices.ply)),
                 {},
                 near            ? fmt::format("did you mean '{}'?", *near)
                 : known.empty() ? "no ply of the part is draped: add drape = \"NAME\" to one, and [drape.NAME]"
                                 : fmt::format("draped plies: {}", listed(known, 20))});
}

Json optional(const std::optional<double>& value) { return value ? Json(*value) : Json(nullptr); }

Json as_json(const Design& design, const std::vector<review::PlyDrape>& plies) {
  Json out = Json::array();
  for (const review::PlyDrape& one : plies) {
    const layup::Draping& draping = design.layup.drapes[one.drape];
    const drape::Verdict& v = one.verdict;
    Json pieces = Json::array();
    for (const auto& piece : draping.pieces) {
      Json stops = Json::object();
      for (std::size_t k = 1; k < drape::stop_names.size(); ++k)
        stops[std::string(drape::stop_names[k])] = piece.laid.net.stops[k];
      pieces.push_back({{"drape", design.part.drapes[piece.declared].name},
                        {"lay", part::lay_names[static_cast<std::size_t>(piece.laid.lay)]},
                        {"cell", piece.laid.net.options.cell},
                        {"cell_by", reason(piece.laid.cell_by)},
                        {"knots", piece.laid.net.knots},
                        {"lies_on_itself", piece.laid.net.laps},
                        {"run_on", piece.laid.net.filled},
                        {"folds", piece.laid.folds},
                        {"unreached", piece.laid.unreached.size()},
                        {"largest_error_deg", optional(piece.laid.largest_error)},
                        {"mean_error_deg", optional(piece.laid.mean_error)},
                        {"stops", stops}});
    }
    Json past = Json::array();
    for (const mesh::ElementIndex e : v.past) past.push_back(design.surface.element_ids[e]);
    const auto id = [&](const std::optional<mesh::ElementIndex>& e) {
      return e ? Json(design.surface.element_ids[*e]) : Json(nullptr);
    };
    out.push_back({{"ply", design.part.plies[one.ply].id},
                   {"material", design.part.plies[one.ply].material.value},
                   {"drape", design.part.drapes[draping.declared].name},
                   {"angle_deg", draping.angle.degrees()},
                   {"area", v.area},
                   {"reached", v.reached},
                   {"cloth_area", v.cloth_area},
                   {"mean_shear_deg", v.mean_shear},
                   {"least_shear_deg", v.least_shear},
                   {"most_shear_deg", v.most_shear},
                   {"worst_element", id(v.worst)},
                   {"limit_deg", optional(one.limit)},
                   {"area_past_limit", v.past_limit},
                   {"elements_past_limit", past},
                   {"mean_thickening", v.mean_thickening},
                   {"most_thickening", v.most_thickening},
                   {"widest_gap", v.widest_gap},
                   {"widest_overlap", v.widest_overlap},
                   {"least_hollow_radius", optional(v.bridging)},
                   {"hollow_element", id(v.bridges_at)},
                   {"known_to_deg", one.known ? Json(one.known->largest) : Json(nullptr)},
                   {"known_to_mean_deg", one.known ? Json(one.known->mean) : Json(nullptr)},
                   {"known_to_element", one.known ? id(one.known->worst) : Json(nullptr)},
                   {"area_known_no_better_than_a_degree", one.known ? Json(one.known->badly) : Json(nullptr)},
                   {"area_led_past_the_border", one.known ? Json(one.known->beside) : Json(nullptr)},
                   {"pieces", pieces}});
  }
  return {{"part", design.part.name}, {"plies", out}};
}

/// Whether all of it is tape.
bool is_strips(const layup::Draping& draping) {
  return std::all_of(draping.pieces.begin(), draping.pieces.end(),
                     [](const auto& piece) { return piece.laid.lay == part::Lay::strips; });
}

void print_table(const Design& design, const std::vector<review::PlyDrape>& plies) {
  const std::string unit = design.part.units.unit(Dimension::length);
  fmt::print("{}: {} draped, by {}\n\n", styled(design.part.name, Style::bold, fileno(stdout)),
             plies.size() == 1 ? "1 ply is" : fmt::format("{} plies are", plies.size()),
             counted(design.layup.drapes.size(), "drape"));
  if (plies.empty()) {
    fmt::print("add drape = \"NAME\" to a ply, and [drape.NAME] with a seed\n");
    return;
  }
  TableText table({"ply", "material", "drape", "angle", "cell " + unit, "reached", "shear, mean", "largest",
                   "at element", "limit", "area past", "thicker by", "known to", "verdict"});
  for (const review::PlyDrape& one : plies) {
    const layup::Draping& draping = design.layup.drapes[one.drape];
    const drape::Verdict& v = one.verdict;
    table.add(
        {design.part.plies[one.ply].id, design.part.plies[one.ply].material.value,
         design.part.drapes[draping.declared].name, fmt::format("{:g}°", draping.angle.degrees()),
         number(draping.pieces.front().laid.net.options.cell, 3), fmt::format("{:.1f} %", 100.0 * v.reached / v.area),
         fmt::format("{:.1f}°", v.mean_shear), fmt::format("{:.1f}°", largest_shear(v)),
         v.worst ? fmt::format("{}", design.surface.element_ids[*v.worst]) : "",
         one.limit ? fmt::format("{:g}°", *one.limit) : "", fmt::format("{:.1f} %", 100.0 * v.past_limit / v.area),
         fmt::format("{:.1f} %", 100.0 * (v.most_thickening - 1.0)),
         one.known ? fmt::format("{:.2g}°", one.known->largest) : "",
         std::string(verdict_text(one, is_strips(draping)))});
  }
  table.print(stdout);
}

void print_ply(const Design& design, const review::PlyDrape& one) {
  const layup::Draping& draping = design.layup.drapes[one.drape];
  const drape::Verdict& v = one.verdict;
  const std::string unit = design.part.units.unit(Dimension::length);
  const part::Ply& ply = design.part.plies[one.ply];
  const auto percent = [&](double area) { return fmt::format("{:.1f} %", 100.0 * area / v.area); };
  const auto at = [&](mesh::ElementIndex e) {
    return fmt::format("element {} at {} {}", design.surface.element_ids[e], point_text(design.geometry.centres[e]),
                       unit);
  };
  fmt::print("{}, ply {} of {}: drape '{}' at {:g}°\n", styled(design.part.name, Style::bold, fileno(stdout)), ply.id,
             ply.material.value, design.part.drapes[draping.declared].name, draping.angle.degrees());
  for (const auto& piece : draping.pieces) {
    const drape::Drape& laid = piece.laid;
    const part::Drape& declared = design.part.drapes[piece.declared];
    fmt::print("  laid {} from {} {}, cells of {} {} ({}), {} knots\n",
               laid.lay == part::Lay::strips ? "strip beside strip"
               : laid.lay == part::Lay::led  ? "as a net led for least shear"
               : declared.along              ? fmt::format("as a net along '{}'", declared.along->value)
                                             : "as a net of straight generators",
               point_text(declared.seed), unit, number(laid.net.options.cell, 3), unit, reason(laid.cell_by),
               laid.net.knots);
    if (laid.lay == part::Lay::led)
      fmt::print("  led by {} coarse nets: from {:.1f}° to {:.1f}° (eighth power mean)\n", laid.led.nets,
                 laid.led.before, laid.led.after);
    if (laid.net.filled > 0)
      fmt::print("  {} where no generator reaches run straight on from known ones\n",
                 laid.net.filled == 1 ? "1 yarn" : fmt::format("{} yarns", laid.net.filled));
    if (laid.net.laps > 0) fmt::print("  the net meets itself: {} knots lie on cloth that is there\n", laid.net.laps);
    if (laid.folds) fmt::print("  it is bent over sharp edges\n");
  }
  fmt::print("\nreached    {} of {} {}²\n", percent(v.reached), number(v.area), unit);
  if (is_strips(draping)) {
    fmt::print("gaps       up to {:.1f} % of a strip's width, overlaps up to {:.1f} %\n", 100 * v.widest_gap,
               100 * v.widest_overlap);
  } else {
    fmt::print("shear      {:.1f}° in the mean, from {:.1f}° to {:.1f}°{}\n", v.mean_shear, v.least_shear, v.most_shear,
               v.worst ? "; largest in " + at(*v.worst) : "");
    if (one.limit)
      fmt::print("limit      {:g}°: {} of the area is past it{}\n", *one.limit, percent(v.past_limit),
                 v.past.empty() ? "" : fmt::format(", {}", counted(v.past.size(), "element")));
    else
      fmt::print("limit      none: its material has no shear-limit\n");
    fmt::print("thickness  {:.1f} % more in the mean, {:.1f} % at the most\n", 100 * (v.mean_thickening - 1),
               100 * (v.most_thickening - 1));
    fmt::print("cloth      {} {}² lie there\n", number(v.cloth_area), unit);
  }
  if (const auto& known = one.known) {
    fmt::print("known to   {:.2g}° in the mean, {:.2g}° at the worst place, {}\n", known->mean, known->largest,
               at(*known->worst));
    if (known->badly > 0.0) fmt::print("           no better than to a degree on {}\n", percent(known->badly));
    if (known->beside > 0.0)
      fmt::print("           {} has cloth that was led past the border, where the surface is anyone's guess\n",
                 percent(known->beside));
  }
  if (v.bridging)
    fmt::print("hollow     least radius along a fibre {} {} in {}: fibres under tension would bridge\n",
               number(*v.bridging, 3), unit, at(*v.bridges_at));
  const std::string_view text = verdict_text(one, is_strips(draping));
  if (!text.empty()) fmt::print("verdict    {}\n", text);
}

// --- search

Json as_json(const Design& design, const part::Ply& ply, const drape::SeedSearch& search) {
  Json trials = Json::array();
  for (const drape::Trial& t : search.trials)
    trials.push_back({{"seed", to_json(t.seed)},
                      {"element", design.surface.element_ids[t.element]},
                      {"direction", to_json(t.direction)},
                      {"turn_deg", t.turn.degrees()},
                      {"largest_shear_deg", t.largest},
                      {"mean_shear_deg", t.mean},
                      {"past_limit", t.past},
                      {"missing", t.missing},
                      {"waste", t.waste}});
  return {
      {"part", design.part.name}, {"ply", ply.id}, {"cell", search.cell}, {"asked", search.asked}, {"trials", trials}};
}

void print_search(const Design& design, const part::Ply& ply, const drape::SeedOptions& options,
                  const drape::SeedSearch& search) {
  const std::string unit = design.part.units.unit(Dimension::length);
  fmt::print("{}, ply {} of {}: {} of {} trials, nets of {} {}{}\n\n",
             styled(design.part.name, Style::bold, fileno(stdout)), ply.id, ply.material.value, search.trials.size(),
             search.asked, number(search.cell, 3), unit,
             options.drape.lay == part::Lay::led ? ", each led for least shear" : "");
  TableText table({"rank", "seed " + unit, "warp", "turned", "largest", "mean", "past limit", "not reached", "waste"});
  for (std::size_t k = 0; k < std::min<std::size_t>(10, search.trials.size()); ++k) {
    const drape::Trial& t = search.trials[k];
    table.add({fmt::format("{}", k + 1), point_text(t.seed),
               fmt::format("{:.3f} {:.3f} {:.3f}", t.direction.x(), t.direction.y(), t.direction.z()),
               fmt::format("{:g}°", t.turn.degrees()), fmt::format("{:.1f}°", t.largest),
               fmt::format("{:.1f}°", t.mean), options.limit ? fmt::format("{:.1f} %", 100.0 * t.past) : "",
               fmt::format("{:.0f} %", 100.0 * t.missing), fmt::format("{:.0f} %", 100.0 * t.waste)});
  }
  table.print(stdout);
  if (search.trials.empty()) return;
  const drape::Trial& best = search.trials.front();
  fmt::print(
      "\nmean: eighth power mean over the area, 90° where no cloth comes. The best, in [drape.{}]:\n  seed = [{}, {}, "
      "{}]\n",
      ply.drape->value, number(best.seed.x()), number(best.seed.y()), number(best.seed.z()));
  if (best.turn.degrees() != 0.0)
    fmt::print("  and the ply at {:g}°, its warp along {:.3f} {:.3f} {:.3f} there\n",
               ply.angle.degrees() + best.turn.degrees(), best.direction.x(), best.direction.y(), best.direction.z());
}

/// The best trial of each seed, on the elements nearest to it.
std::vector<mesh::Array> map_of(const Design& design, const drape::SeedSearch& search) {
  std::vector<const drape::Trial*> best;  // trials are best first
  for (const drape::Trial& t : search.trials)
    if (std::none_of(best.begin(), best.end(), [&](const auto* other) { return other->element == t.element; }))
      best.push_back(&t);
  const std::size_t count = design.surface.element_count();
  mesh::Array largest{"largest shear from here [deg]", false, 1, std::vector<double>(count)},
      mean{"mean shear from here [deg]", false, 1, std::vector<double>(count)},
      past{"part past limit from here", false, 1, std::vector<double>(count)},
      turn{"best turn [deg]", false, 1, std::vector<double>(count)};
  for (std::size_t e = 0; e < count; ++e) {
    const drape::Trial& t = **std::min_element(best.begin(), best.end(), [&](const auto* a, const auto* b) {
      return (a->seed - design.geometry.centres[e]).squaredNorm() <
             (b->seed - design.geometry.centres[e]).squaredNorm();
    });
    largest.values[e] = t.largest, mean.values[e] = t.mean, past.values[e] = t.past, turn.values[e] = t.turn.degrees();
  }
  return {largest, mean, past, turn};
}

int search(const Choices& choices, const Design& design, Findings& findings) {
  const std::vector<review::PlyDrape> plies = chosen(design, choices);
  if (plies.empty())
    throw Failure(
        {Severity::error, "drape.no-pattern", "no ply of the part is draped", {}, "add drape = \"NAME\" to one"});
  const part::PlyId ply = plies.front().ply;
  drape::SeedOptions options = review::seed_options(design, ply);
  options.seeds = choices.seeds.value_or(1);
  options.directions = choices.directions.value_or(8);
  options.progress = progress_line();
  options.stop = [] { return interrupted != 0; };
  const auto before = std::signal(SIGINT, end_the_search);
  const layup::Draping::Piece& piece = design.layup.draping_of(ply)->pieces.front();
  const drape::SeedSearch found = drape::search_seeds(*piece.surface, design.geometry, options);
  std::signal(SIGINT, before);
  if (!choices.write.empty() && !found.trials.empty()) {
    mesh::write(design.surface, choices.write, map_of(design, found));
    fmt::print(stderr, "wrote {}\n", choices.write);
  }
  if (choices.json)
    print_document("drape", design.part.units, as_json(design, design.part.plies[ply], found), findings);
  else
    print_search(design, design.part.plies[ply], options, found);
  return 0;
}

void print_rolls(const Design& design, std::span<const review::Roll> rolls) {
  const double mm = design.part.units.to_si(Dimension::length) * 1e3;
  for (const review::Roll& roll : rolls)
    fmt::print("{}: {} on a roll {:.0f} mm wide, {:.2f} m used, {:.0f} % waste\n",
               design.part.materials[roll.material].name, counted(roll.nest.placed.size(), "piece"),
               roll.nest.width * mm, roll.nest.length * mm * 1e-3, 100.0 * roll.nest.waste());
}

int run(const Choices& choices) {
  return guarded({"drape", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, {}, progress_line());
    if (choices.searches()) return search(choices, design, findings);
    const std::vector<review::PlyDrape> plies = chosen(design, choices);
    std::vector<review::PlyPattern> patterns;
    if (!choices.patterns.empty() || !choices.rolls.empty()) {
      patterns = review::ply_patterns(design);
      if (!choices.ply.empty())
        std::erase_if(patterns, [&](const review::PlyPattern& of) { return of.ply != plies.front().ply; });
    }
    if (!choices.patterns.empty()) {
      drawing::draw_patterns(design, patterns, choices.shear, choices.patterns);
      fmt::print(stderr, "wrote {}\n", choices.patterns);
    }
    if (!choices.rolls.empty()) {
      const std::vector<review::Roll> rolls = review::rolls(design, patterns, choices.gap);
      drawing::draw_rolls(design, patterns, rolls, choices.rolls);
      fmt::print(stderr, "wrote {}\n", choices.rolls);
      if (!choices.json) print_rolls(design, rolls);
    }
    if (!choices.write.empty()) {
      const std::vector<mesh::Array> arrays = review::drape_fields(design);
      mesh::write(design.surface, choices.write, arrays);
      fmt::print(stderr, "wrote {}\n", choices.write);
    }
    if (choices.json)
      print_document("drape", design.part.units, as_json(design, plies), findings);
    else if (!choices.ply.empty())
      for (const review::PlyDrape& one : plies) print_ply(design, one);
    else
      print_table(design, plies);
    return 0;
  });
}

}  // namespace drape_command

void add_drape(CLI::App& program, int& exit_code) {
  using namespace drape_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "drape",
      "Lay draped plies as cloth lies: shear, where it is past the limit, what is not reached, how well it is known");
  add_part_option(*command, choices->part);
  command->add_option("--ply", choices->ply, "One ply in full");
  add_output_option(
      *command, "-o,--write", choices->write,
      "Fields on the elements: warp, weft, shear, thickness, cloth coordinates of each drape; of a search "
      "the best shear per seed; .vtu");
  add_output_option(*command, "--patterns", choices->patterns,
                    "Flat patterns to cut: .dxf and .svg at full size, .pdf to scale");
  command->add_flag("--shear", choices->shear, "With --patterns as .svg or .pdf: shear as colours");
  add_output_option(*command, "--rolls", choices->rolls,
                    "The patterns of each material laid on its roll: .dxf, .svg or .pdf");
  command->add_option("--gap", choices->gap, "Between pieces on a roll, part length")->check(CLI::NonNegativeNumber);
  command->add_option("--seeds", choices->seeds, "Try so many seeds for the ply (or the first draped one)")
      ->check(CLI::Range(1, 10000));
  command
      ->add_option("--directions", choices->directions,
                   "Try so many directions per seed, 8; without --seeds only at the seed that it has")
      ->check(CLI::Range(1, 360));
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Examples:\n  bordado drape skiff.toml\n  bordado drape skiff.toml --ply H1\n  bordado drape skiff.toml -o "
      "drape.vtu");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
