// bordado column: a column or beam of laminated walls by hand, before any model.
#include "against.hpp"
#include "by_file.hpp"
#include "sensitivity_text.hpp"

#include <fmt/format.h>

#include <charconv>
#include <map>
#include <memory>
#include <numbers>
#include <set>

namespace bordado::cli {

namespace column_command {

struct Choices {
  StackChoice stack;
  std::string shape, flange;
  std::vector<double> size, line_load, through;
  std::vector<std::string> ends{"pinned"}, criteria;
  std::optional<double> length;
  double force = 0.0;
  std::size_t terms = 14, frequencies = 4;
  bool json = false, sensitivities = false;
  std::string draw;
  AgainstChoice against;
};

constexpr std::array<std::string_view, 3> end_names{"free", "pinned", "fixed"};
std::string_view name_of(sizing::End end) { return end_names[static_cast<std::size_t>(end)]; }

std::vector<std::string> shape_names() {
  std::vector<std::string> out;
  for (std::size_t i = 0; i < sizing::shape_count; ++i)
    out.emplace_back(sizing::name_of(static_cast<sizing::Shape>(i)));
  return out;
}

sizing::Shape shape_named(const std::string& name) {
  const std::vector<std::string> names = shape_names();
  return static_cast<sizing::Shape>(std::find(names.begin(), names.end(), name) - names.begin());
}

/// Stacks by their codes, made once. What each has to say is told where all say it: a material may serve one of them only.
class Stacks {
 public:
  Stacks(const StackChoice& choice, const UnitSystem& units) : choice_(choice), units_(units) {}
  const CodedStack& of(const std::string& code) {
    if (const auto found = all_.find(code); found != all_.end()) return found->second;
    StackChoice one = choice_;
    one.code = code;
    Findings said;
    CodedStack stack = stack_of(one, units_, said);
    ++count_;
    for (const Finding& finding : said.all()) ++said_.try_emplace(finding.text(), 0, finding).first->second.first;
    return all_.emplace(code, std::move(stack)).first->second;
  }
  void tell(Findings& findings) const {
    for (const auto& [text, said] : said_)
      if (said.first == count_ || said.second.severity == Severity::error) findings.add(said.second);
  }
  const std::map<std::string, CodedStack>& all() const { return all_; }

 private:
  struct Said : std::pair<std::size_t, Finding> {
    Said(std::size_t count, const Finding& finding) : std::pair<std::size_t, Finding>(count, finding) {}
  };
  const StackChoice& choice_;
  const UnitSystem& units_;
  std::map<std::string, CodedStack> all_;
  std::map<std::string, Said> said_;
  std::size_t count_ = 0;
};

/// Walls and the code of each.
struct Walls {
  std::vector<sizing::Wall> walls;
  std::vector<std::string> codes;
};

std::optional<laminate::Vector2> place_of(const Setting& setting, Findings& findings) {
  laminate::Vector2 out;
  bool good = setting.values.size() == 2;
  for (std::size_t i = 0; good && i < 2; ++i) {
    const std::string& text = setting.values[i];
    const auto [end, error] =
        std::from_chars(text.data(), text.data() + text.size(), out[static_cast<Eigen::Index>(i)]);
    good = error == std::errc{} && end == text.data() + text.size() && std::isfinite(out[static_cast<Eigen::Index>(i)]);
  }
  if (good) return out;
  findings.error("options.value", fmt::format("'{}' is a place: two numbers, y and z", setting.key), setting.where,
                 fmt::format("{} = [0, 40]", setting.key));
  return std::nullopt;
}

Walls from_tables(const std::vector<Settings>& tables, Stacks& stacks, const std::string& usual) {
  Walls out;
  Findings findings;
  const std::vector<std::string> known{"from", "to", "laminate", "name"};
  for (const Settings& table : tables) {
    std::optional<laminate::Vector2> from, to;
    std::string code = usual, name = fmt::format("wall {}", out.walls.size() + 1);
    bool misses_from = true, misses_to = true;
    for (const Setting& setting : table.all) {
      const auto text = [&]() -> std::optional<std::string> {
        if (setting.values.size() == 1 && !setting.is_list && !setting.values.front().empty())
          return setting.values.front();
        findings.error("options.value", fmt::format("'{}' is one text", setting.key), setting.where, {});
        return std::nullopt;
      };
      if (setting.key == "from")
        misses_from = false, from = place_of(setting, findings);
      else if (setting.key == "to")
        misses_to = false, to = place_of(setting, findings);
      else if (setting.key == "laminate")
        code = text().value_or(code);
      else if (setting.key == "name")
        name = text().value_or(name);
      else
        findings.add(unknown_key(setting, known));
    }
    if (misses_from || misses_to)
      findings.error("options.value",
                     fmt::format("a wall goes from a place to another: '{}' is missing", misses_from ? "from" : "to"),
                     table.where, "from = [0, 0] and to = [0, 40]: y and z");
    if (code.empty())
      findings.error("options.value", "a wall has a laminate", table.where,
                     "laminate = \"[0/45/-45/90]s\", here or for all walls above");
    if (!from || !to || code.empty()) continue;
    const laminate::Stack stack = stacks.of(code).named(0.0).stack();
    out.walls.push_back({*from, *to, stack.layers, name, stack.materials});
    out.codes.push_back(code);
  }
  findings.throw_if_errors();
  return out;
}

Walls from_shape(const Choices& choices, Stacks& stacks) {
  const sizing::Shape shape = shape_named(choices.shape);
  const std::string& web = choices.stack.code;
  const std::string& flange = choices.flange.empty() ? web : choices.flange;
  try {
    Walls out;
    out.walls =
        sizing::walls_of(shape, choices.size, stacks.of(web).named(0.0).stack(), stacks.of(flange).named(0.0).stack());
    for (const sizing::Wall& wall : out.walls)
      out.codes.push_back(
          wall.name.find("web") != std::string::npos || wall.name == "upright leg" || wall.name == "wall" ? web
                                                                                                          : flange);
    return out;
  } catch (const std::invalid_argument& trouble) {
    throw Failure(
        {Severity::error, "column.size", trouble.what(), {}, fmt::format("--size: {}", sizing::lengths_of(shape))});
  }
}

std::string shares_text(const sizing::Modes& shares) {
  std::vector<std::string> out;
  for (const auto& [share, words] :
       {std::pair{shares.bends_y, "bends in y"}, {shares.bends_z, "bends in z"}, {shares.twists, "twists"}})
    if (share > 0.005)
      out.push_back(share > 0.995 ? std::string(words) : fmt::format("{} {:.0f} %", words, 100.0 * share));
  return fmt::format("{}", fmt::join(out, ", "));
}

void print_column(const sizing::BarCase& given, const sizing::BarAnswer& answer, const Choices& choices,
                  const Walls& walls, const Stacks& stacks, const UnitSystem& units) {
  const std::string length = units.unit(Dimension::length), force = units.unit(Dimension::force);
  const auto point = [](const laminate::Vector2& p, double size) {
    const auto clean = [&](double value) { return std::abs(value) < 1e-9 * size ? 0.0 : value; };
    return fmt::format("{}, {}", number(clean(p[0])), number(clean(p[1])));
  };
  double size = 0.0;
  for (const sizing::Wall& wall : given.walls) size = std::max({size, wall.from.norm(), wall.to.norm()});
  const sizing::SectionStiffness& s = answer.section;
  fmt::print("{}: {} long, begins {}, ends {}; {}\n",
             styled(choices.shape.empty() ? fmt::format("{} walls", given.walls.size()) : "shape " + choices.shape,
                    Style::bold, fileno(stdout)),
             length_text(units, given.length), name_of(given.begin), name_of(given.end),
             mass_text(units, s.mass * given.length));
  std::vector<std::string> loads;
  if (given.force != 0.0) loads.push_back(fmt::format("{} {} along it", number(given.force), force));
  if (given.line_load != laminate::Vector2::Zero())
    loads.push_back(fmt::format("{} {}/{} in y and z", point(given.line_load, given.line_load.norm()), force, length));
  if (!loads.empty()) fmt::print("it carries {}\n", fmt::join(loads, ", and "));

  if (!answer.margins.empty()) {
    print_reserves_head(answer.margins);
    TableText table({"reserve", "what happens", "by", "in"});
    for (const sizing::Margin& margin : answer.margins) {
      std::string by, in;
      if (margin.what == sizing::column_words) {
        by = "Ritz", in = shares_text(answer.buckling.front().shares);
      } else if (margin.what == sizing::wall_words) {
        by = "strips";
        in = fmt::format("{} most, half waves of {} {}", given.walls[answer.walls->local->wall].name,
                         number(answer.walls->local->half_wave, 3), length);
      } else if (margin.what == sizing::dents_words) {
        by = "NASA SP-8007";
        in = fmt::format("{:.2g} of the classical load along it, {:.2g} in bending; R / t {:.3g}",
                         answer.dents->left.axial, answer.dents->left.bending, answer.dents->left.radius_to_thickness);
      } else if (margin.what == sizing::crippling_words) {
        by = "tests", in = "all walls, one edge free or none";
      } else {
        for (const sizing::WallFailing& one : answer.criteria)
          if (laminate::words(one.failing.mode) == margin.what && one.failing.factor == margin.factor) {
            by = laminate::name_of(one.failing.criterion);
            const CodedStack& stack = stacks.all().at(walls.codes[one.wall]);
            in = fmt::format("{}, {}, {}", given.walls[one.wall].name, layer_text(stack.named(0.0), one.failing.layer),
                             place_text(one.failing));
            if (answer.bent) in += fmt::format(", at x = {}", number(one.x));
          }
      }
      table.add({number(margin.factor), margin.what, by, in});
    }
    table.print(stdout);
    print_first(answer.margins, "the bar");
  }

  fmt::print("\nbuckling under compression\n\n");
  TableText modes({"force " + force, "how"});
  for (const sizing::ColumnBuckling& one : answer.buckling)
    modes.add({number(one.force.value), shares_text(one.shares)});
  modes.print(stdout);
  fmt::print("\n");
  TableText table({"section", "", ""});
  table.add({"EA", number(s.EA), force});
  table.add({"centroid y, z", point(s.centroid, size), length});
  table.add({"EI strong", number(s.strong), force + " " + length + "^2"});
  table.add({"EI weak", number(s.weak), force + " " + length + "^2"});
  table.add({"bends most stiffly in", fmt::format("{:.1f}°", degrees(s.turned)), "from y to z"});
  table.add({"GJ", number(s.GJ), force + " " + length + "^2"});
  table.add({"shear centre y, z", point(s.shear_centre, size), length});
  table.add({"warping stiffness", number(s.EGamma), force + " " + length + "^4"});
  table.add({"shear stiffness in y", number(1.0 / s.shear_compliance(0, 0)), force});
  table.add({"shear stiffness in z", number(1.0 / s.shear_compliance(1, 1)), force});
  table.print(stdout);
  if (!answer.frequencies.empty()) {
    std::vector<std::string> all;
    for (const sizing::BarFrequency& one : answer.frequencies)
      all.push_back(fmt::format("{} ({})", number(one.frequency.value), shares_text(one.shares)));
    fmt::print("\nfrequencies, unloaded, {}: {}\n", drawing::frequency_unit(units), fmt::join(all, "; "));
  }
  if (answer.bent)
    fmt::print("under the line load: {} {} at x = {}{}\n", number(answer.bent->largest.value), length,
               number(answer.bent->x),
               given.force == 0.0          ? ""
               : answer.bent_without_force ? "; without the force along it, which buckles it"
                                           : "; with the force along it acting");
}

Json shares_json(const sizing::Modes& shares) {
  return {{"bends_y", shares.bends_y}, {"bends_z", shares.bends_z}, {"twists", shares.twists}};
}
Json strips_json(const sizing::StripBuckling& one, const sizing::BarCase& given) {
  return {{"factor", one.factor}, {"half_wave", one.half_wave}, {"wall", given.walls[one.wall].name}};
}

Json column_json(const sizing::BarCase& given, const sizing::BarAnswer& answer, const Choices& choices,
                 const Walls& walls, const Stacks& stacks) {
  const auto two = [](const laminate::Vector2& v) { return Json{v[0], v[1]}; };
  const sizing::SectionStiffness& s = answer.section;
  Json out = {{"shape", choices.shape.empty() ? Json(nullptr) : Json(choices.shape)},
              {"length", given.length},
              {"ends", {name_of(given.begin), name_of(given.end)}},
              {"force", given.force},
              {"line_load", two(given.line_load)},
              {"walls", Json::array()},
              {"section",
               {{"EA", s.EA},
                {"centroid", two(s.centroid)},
                {"EI", matrix_json(s.EI)},
                {"EI_strong", s.strong},
                {"EI_weak", s.weak},
                {"strong_deg", degrees(s.turned)},
                {"GJ", s.GJ},
                {"shear_centre", two(s.shear_centre)},
                {"warping_stiffness", s.EGamma},
                {"shear_compliance", matrix_json(s.shear_compliance)},
                {"mass_per_length", s.mass},
                {"closed", s.closed}}},
              {"margins", Json::array()},
              {"governing", answer.margins.empty() ? Json(nullptr) : Json(answer.margins.front().what)},
              {"buckling", Json::array()},
              {"walls_buckle", nullptr},
              {"dents", nullptr},
              {"cripples_at", answer.cripples_at ? Json(*answer.cripples_at) : Json(nullptr)},
              {"frequencies", Json::array()},
              {"under_line_load", nullptr},
              {"criteria", Json::array()}};
  for (std::size_t w = 0; w < given.walls.size(); ++w)
    out["walls"].push_back({{"name", given.walls[w].name},
                            {"from", two(given.walls[w].from)},
                            {"to", two(given.walls[w].to)},
                            {"laminate", walls.codes[w]}});
  for (const sizing::Margin& margin : answer.margins)
    out["margins"].push_back({{"what", margin.what}, {"factor", margin.factor}});
  for (const sizing::ColumnBuckling& one : answer.buckling)
    out["buckling"].push_back({{"force", settled_json(one.force)}, {"shares", shares_json(one.shares)}});
  if (answer.walls) {
    Json curve = Json::array();
    for (const sizing::StripBuckling& one : answer.walls->curve) curve.push_back(strips_json(one, given));
    out["walls_buckle"] = {{"local", answer.walls->local ? strips_json(*answer.walls->local, given) : Json(nullptr)},
                           {"curve", std::move(curve)}};
  }
  if (answer.dents)
    out["dents"] = {{"factor", answer.dents->factor},
                    {"classical", answer.dents->classical},
                    {"axial_share", answer.dents->left.axial},
                    {"bending_share", answer.dents->left.bending},
                    {"radius_to_thickness", answer.dents->left.radius_to_thickness}};
  for (const sizing::BarFrequency& one : answer.frequencies)
    out["frequencies"].push_back({{"frequency", settled_json(one.frequency)}, {"shares", shares_json(one.shares)}});
  if (answer.bent)
    out["under_line_load"] = {{"deflection", settled_json(answer.bent->largest)},
                              {"at", answer.bent->x},
                              {"without_force", answer.bent_without_force}};
  for (const sizing::WallFailing& one : answer.criteria) {
    Json failing = failing_json(stacks.all().at(walls.codes[one.wall]).named(0.0), one.failing);
    failing["wall"] = given.walls[one.wall].name;
    failing["at"] = {one.x, one.s};
    out["criteria"].push_back(std::move(failing));
  }
  return out;
}

sizing::BarCase case_of(const Choices& choices, const Walls& walls) {
  sizing::BarCase out;
  out.walls = walls.walls;
  out.length = *choices.length;
  const auto end = [&](std::size_t k) {
    const auto found = std::find(end_names.begin(), end_names.end(), choices.ends[choices.ends.size() == 1 ? 0 : k]);
    return static_cast<sizing::End>(found - end_names.begin());
  };
  out.begin = end(0), out.end = end(1);
  out.force = choices.force;
  if (!choices.line_load.empty()) out.line_load = {choices.line_load[0], choices.line_load[1]};
  if (!choices.through.empty()) out.through = laminate::Vector2(choices.through[0], choices.through[1]);
  out.criteria = criteria_named(choices.criteria);
  out.terms = choices.terms;
  out.frequencies = choices.frequencies;
  out.is_tube = choices.shape == sizing::name_of(sizing::Shape::tube);
  return out;
}

/// Laminates by their codes, in the order in which walls have them.
struct Laminates {
  std::vector<std::string> codes;
  std::vector<NamedStack> stacks;
  std::vector<std::size_t> of;  ///< of each wall
};
Laminates laminates_in(const Walls& walls, const Stacks& stacks) {
  Laminates out;
  for (const std::string& code : walls.codes) {
    const auto found = std::find(out.codes.begin(), out.codes.end(), code);
    out.of.push_back(static_cast<std::size_t>(found - out.codes.begin()));
    if (found != out.codes.end()) continue;
    out.codes.push_back(code);
    out.stacks.push_back(stacks.all().at(code).named(0.0));
  }
  return out;
}

/// The bar over what varies; nothing where nothing does.
std::optional<sizing::Sweep> swept(const sizing::BarCase& given, const Choices& choices, const Laminates& laminates,
                                   const Walls& walls, const UnitSystem& units) {
  std::vector<Variable> all;
  for (std::size_t l = 0; l < laminates.stacks.size(); ++l) {
    const auto wall =
        static_cast<std::size_t>(std::find(laminates.of.begin(), laminates.of.end(), l) - laminates.of.begin());
    const std::string name = laminates.stacks.size() == 1 ? std::string() : walls.walls[wall].name;
    for (Variable& one : laminate_variables(laminates.stacks[l], l, name, units)) all.push_back(std::move(one));
  }
  all.push_back(length_variable("length", "length of the bar", given.length, units));
  if (!choices.shape.empty()) {
    std::string_view words = sizing::lengths_of(shape_named(choices.shape));  // parted by commas
    for (std::size_t k = 0; k < choices.size.size(); ++k) {
      const std::size_t end = std::min(words.find(','), words.size());
      all.push_back(
          length_variable(fmt::format("size:{}", k + 1), std::string(words.substr(0, end)), choices.size[k], units));
      words.remove_prefix(std::min(words.size(), end + 2));
    }
  }
  const std::vector<Variable> chosen = varied_ones(choices.against, all);
  if (chosen.empty()) return std::nullopt;
  const std::vector<laminate::Stack> plies = sizing::laminates_of(given, laminates.of);
  const auto with = [&](std::span<const double> values) -> std::optional<sizing::BarCase> {
    sizing::BarCase out = given;
    std::vector<double> size = choices.size;
    std::vector<std::vector<sizing::Chosen>> of_stack(plies.size());
    for (std::size_t k = 0; k < chosen.size(); ++k) {
      if (chosen[k].change)
        of_stack[chosen[k].laminate].emplace_back(*chosen[k].change, values[k]);
      else if (chosen[k].name == "length")
        out.length = values[k];
      else
        size[static_cast<std::size_t>(chosen[k].name.back() - '1')] = values[k];
    }
    if (size != choices.size) {
      try {
        out.walls = sizing::walls_of(shape_named(choices.shape), size, plies.front(), plies.front());
      } catch (const std::invalid_argument&) {  // there is no such section
        return std::nullopt;
      }
    }
    std::vector<laminate::Stack> changed;
    for (std::size_t l = 0; l < plies.size(); ++l) {
      std::optional<laminate::Stack> one = sizing::with_values(plies[l], of_stack[l]);
      if (!one) return std::nullopt;
      changed.push_back(std::move(*one));
    }
    return sizing::with_laminates(std::move(out), laminates.of, changed);
  };
  return sizing::sweep(varied_of(chosen), sizing::BarWith(with), progress_line());
}

int run(CLI::App& command, Choices& choices) {
  return guarded({"column", choices.json}, [&](Findings& findings) {
    std::vector<Settings> tables;
    if (is_option_file(choices.stack.code)) {
      const std::string path = choices.stack.code;
      tables = read_options(command, path, choices.stack.code, {"wall"});
      if (choices.stack.code.empty() && tables.empty())
        throw Failure({Severity::error, "options.value", "the file says no laminate", Place::in(path),
                       "laminate = \"[0/45/-45/90]s\""});
    }
    Findings wrong;
    if (choices.shape.empty() == tables.empty())
      wrong.error("column.shape",
                  tables.empty() ? "a section has a shape, or walls" : "a section has a shape or walls, not both", {},
                  fmt::format("--shape: {}; or a [[wall]] for each in a file", fmt::join(shape_names(), ", ")));
    if (!choices.length) wrong.error("column.length", "a column has a length", {}, "--length 1500");
    wrong.throw_if_errors();
    const UnitSystem units = units_named(choices.stack.units, findings);
    Stacks stacks(choices.stack, units);
    const Walls walls = tables.empty() ? from_shape(choices, stacks) : from_tables(tables, stacks, choices.stack.code);
    stacks.tell(findings);
    const sizing::BarCase given = case_of(choices, walls);
    const Laminates laminates = laminates_in(walls, stacks);
    const std::optional<sizing::Sweep> sweep = swept(given, choices, laminates, walls, units);
    const sizing::BarAnswer answer = [&] {
      try {
        return sizing::check_bar(given);
      } catch (const std::invalid_argument& trouble) {
        throw Failure(
            {Severity::error, "column.cannot", trouble.what(), {}, "bordado column --help tells what it takes"});
      }
    }();
    std::set<std::string> said;
    for (const auto& [code, stack] : stacks.all())
      for (const material::Material& m : stack.materials)
        if (said.insert(m.name).second && !answer.criteria.empty())
          if (auto missing = laminate::strengths_missing(m, given.criteria)) findings.add(std::move(*missing));
    if (answer.section.unbalanced > 0.01)
      findings.warning(
          "column.unbalanced",
          fmt::format("walls shear when they are pulled (a16² is {:.0f} % of a11 a66): that is left out here",
                      100.0 * answer.section.unbalanced),
          {}, "give every ply at an angle its opposite, or take a model");
    const sizing::BarRange range = sizing::range_of(given, answer);
    if (range.is_short())
      findings.warning("column.short",
                       fmt::format("it is {:.2g} times as long as its section is far out: below about six it is no bar",
                                   range.length),
                       {}, "take a model of shells");
    if (range.has_thick_walls())
      findings.warning(
          "column.thick-walls",
          fmt::format("a wall is {:.2g} times as wide as it is thick: walls are thin here, from about five on",
                      range.wall),
          {}, "take a model of solids");
    if (!range.of_tests)
      findings.warning(
          "column.tube-wall",
          fmt::format("R / t is {:.0f}: the knock-down is of tests up to 1500", answer.dents->left.radius_to_thickness),
          {}, "test it");
    const std::vector<sizing::Sensitivity> changes =
        choices.sensitivities ? sizing::sensitivities(given, laminates.of) : std::vector<sizing::Sensitivity>();
    if (choices.json) {
      Json out = column_json(given, answer, choices, walls, stacks);
      out["sensitivities"] = sensitivities_json(changes, laminates.stacks);
      out["against"] = sweep_json(sweep);
      print_document("column", units, out, findings);
    } else {
      print_findings(findings.all(), stderr);
      print_column(given, answer, choices, walls, stacks, units);
      if (choices.sensitivities)
        print_sensitivities(changes, laminates.stacks, sizing::outcome_of(given, answer), units);
      if (sweep) print_sweep(*sweep);
    }
    const std::string title =
        choices.shape.empty() ? fmt::format("{} walls", given.walls.size()) : fmt::format("Section {}", choices.shape);
    const std::string subtitle =
        fmt::format("walls of {}; {} long, begins {}, ends {}; carries {:g} {} along it, line load {:g}, {:g} {}/{}",
                    fmt::join(laminates.codes, ", "), length_text(units, given.length), name_of(given.begin),
                    name_of(given.end), given.force, units.unit(Dimension::force), given.line_load[0],
                    given.line_load[1], units.unit(Dimension::force), units.unit(Dimension::length));
    if (sweep) draw_chart(choices.against, *sweep, title, subtitle);
    if (!choices.draw.empty()) {
      drawing::draw(drawing::SectionSheet{title, subtitle, given, answer}, units, choices.draw);
      fmt::print(stderr, "wrote {}\n", choices.draw);
    }
    return 0;
  });
}

}  // namespace column_command

void add_column(CLI::App& program, int& exit_code) {
  using namespace column_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand(
      "column",
      "A column or beam of laminated walls by hand: its section, how it and its walls buckle, bends and vibrates");
  command
      ->add_option("laminate", choices->stack.code,
                   "The laminate of its walls, 0 degrees along it: \"[0/45/-45/90]s\"; or a .toml of these options, a "
                   "key each, and a [[wall]] for each wall")
      ->required();
  add_stack_options(*command, choices->stack);
  command->add_option("--flange", choices->flange,
                      "The laminate of flanges, top, brims or the lying leg, where it is another one");
  command->add_option("--shape", choices->shape, "Of the section")->check(CLI::IsMember(shape_names()));
  std::string lengths;
  for (std::size_t i = 0; i < sizing::shape_count; ++i)
    lengths += fmt::format("{}{}: {}", i == 0 ? "" : "; ", sizing::name_of(static_cast<sizing::Shape>(i)),
                           sizing::lengths_of(static_cast<sizing::Shape>(i)));
  command->add_option("--size", choices->size, "Widths of its walls, between middles. " + lengths)
      ->delimiter(',')
      ->expected(1, 3);
  command->add_option("--length", choices->length, "Of the bar")->check(CLI::PositiveNumber);
  command->add_option("--ends", choices->ends, "pinned, fixed or free; one for both, or two")
      ->delimiter(',')
      ->expected(1, 2)
      ->check(CLI::IsMember(std::vector<std::string>(end_names.begin(), end_names.end())))
      ->default_str("pinned");
  command->add_option("--force", choices->force, "Along it, through the line of centroids; tension positive");
  command->add_option("--line-load", choices->line_load, "qy,qz, force per length across it")
      ->delimiter(',')
      ->expected(2);
  command
      ->add_option("--through", choices->through,
                   "y,z of the section where the line load acts; the shear centre if not given")
      ->delimiter(',')
      ->expected(2);
  add_criterion_option(*command, choices->criteria);
  command->add_option("--frequencies", choices->frequencies, "How many")
      ->check(CLI::Range(0, 50))
      ->capture_default_str();
  command->add_option("--terms", choices->terms, "Functions along it, of the Ritz method")
      ->check(CLI::Range(std::size_t{4}, sizing::most_terms))
      ->capture_default_str();
  add_output_option(
      *command, "--draw", choices->draw,
      "A sheet, .svg or .pdf: the section with its plies, axes and centres, when its walls buckle, all margins");
  command->add_flag("--sensitivities", choices->sensitivities,
                    "What changes the least reserve most: each ply's angle and count, cores' thickness");
  add_against_options(*command, choices->against);
  command->add_flag("--json", choices->json, "Print JSON");
  command->footer(
      "Examples:\n  bordado column \"[0/±45/90]s\" --material carbon-ud --shape C --size 80,40 --length 1500 --force "
      "-2000\n  bordado "
      "column \"[±45/0_2/±45]\" --material carbon-ud --shape tube --size 30 --length 2600 --line-load 0,-0.2\n  "
      "bordado column wing-rack.toml");
  command->callback([command, choices, &exit_code] { exit_code = run(*command, *choices); });
}

}  // namespace bordado::cli
