#include "strength_text.hpp"

#include <bordado/base/absolute_zero.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <set>

namespace bordado::cli {

using laminate::Criterion;
using laminate::Failing;

std::string layer_text(const NamedStack& stack, std::size_t layer) {
  return fmt::format("{} ({:g}°, layer {})", stack.names[layer], same_fibre(stack.layers[layer].angle).degrees(),
                     layer + 1);
}

std::string place_text(const Failing& failing) {
  return std::string(laminate::words(failing.criterion, failing.place));
}

Json failing_json(const NamedStack& stack, const Failing& failing) {
  return {{"factor", failing.factor},
          {"criterion", laminate::name_of(failing.criterion)},
          {"mode", laminate::words(failing.mode)},
          {"layer", failing.layer + 1},
          {"ply", stack.names[failing.layer]},
          {"place", place_text(failing)}};
}

namespace {

laminate::Load load_of(const LoadChoices& load) { return load.load(); }

bool loaded(const LoadChoices& load) { return !load.N.empty() || !load.M.empty() || !load.Q.empty(); }

std::vector<std::size_t> components_of(const std::string& text) {
  std::vector<std::size_t> out;
  const auto comma = text.find(',');
  for (const std::string& name : {text.substr(0, comma), comma == std::string::npos ? "" : text.substr(comma + 1)})
    for (std::size_t k = 0; k < 6; ++k)
      if (laminate::component_name(k) == name) out.push_back(k);
  if (out.size() != 2 || out[0] == out[1])
    throw Failure({Severity::error,
                   "strength.components",
                   fmt::format("'{}' should be two different components of a load", text),
                   {},
                   "two of Nx, Ny, Nxy, Mx, My, Mxy, with a comma between them"});
  return out;
}

}  // namespace

std::vector<Criterion> criteria_named(const std::vector<std::string>& names, bool solids) {
  std::vector<Criterion> out;
  for (const std::string& name : names) {
    const Criterion criterion = *laminate::criterion_named(name);
    if (std::find(out.begin(), out.end(), criterion) == out.end()) out.push_back(criterion);
  }
  if (!out.empty()) return out;
  out.assign(laminate::usual_criteria().begin(), laminate::usual_criteria().end());
  if (solids) out.push_back(Criterion::peel);
  return out;
}

std::vector<Criterion> StrengthChoices::chosen() const { return criteria_named(criteria); }

void add_criterion_option(CLI::App& command, std::vector<std::string>& criteria) {
  std::vector<std::string> names;
  for (std::size_t i = 0; i < laminate::criterion_count; ++i)
    names.emplace_back(laminate::name_of(static_cast<Criterion>(i)));
  std::vector<std::string_view> usual;
  for (const Criterion criterion : laminate::usual_criteria()) usual.push_back(laminate::name_of(criterion));
  command
      .add_option("--criterion", criteria,
                  fmt::format("What failure is judged by, several of them; without it {}; of solids {}, too",
                              fmt::join(usual, ", "), laminate::name_of(Criterion::peel)))
      ->check(CLI::IsMember(names));
}

void add_strength_options(CLI::App& command, StrengthChoices& choices) {
  add_criterion_option(command, choices.criteria);
  command.add_flag("--discount", choices.discount,
                   "Go on where plies fail: ply discount, an estimate of what the laminate bears in the end");
  add_output_option(command, "--envelope", choices.envelope,
                    "Draw the loads at which the first ply fails, .svg or .pdf; .csv: their points");
  command.add_option("--between", choices.components, "Its two components, of Nx, Ny, Nxy, Mx, My, Mxy")
      ->capture_default_str();
}

void find_missing(const NamedStack& stack, const StrengthChoices& choices, Findings& findings) {
  std::set<std::string> said;
  const auto chosen = choices.chosen();
  for (const material::Material* const m : stack.materials) {
    if (!said.insert(m->name).second) continue;
    if (auto missing = laminate::strengths_missing(*m, chosen)) findings.add(std::move(*missing));
  }
  if (std::find(chosen.begin(), chosen.end(), Criterion::peel) != chosen.end())
    findings.warning("result.peel-none",
                     "a laminate by hand has no stress through the thickness, so that nothing peels", {},
                     "solids tell it: bordado solve --solids ply; or leave the criterion out");
}

void check_warmed(const NamedStack& stack, const LoadChoices& load) {
  // Nothing is free of stress at more than this.
  constexpr double hottest = 1000.0;
  for (const material::Material* const m : stack.materials) {
    const auto& stated = m->stress_free_temperature;
    const double free = stated.value_or(hottest);
    if (free + load.temperature >= absolute_zero) continue;
    throw Failure({Severity::error,
                   "load.too-cold",
                   fmt::format("--warmed {:g}: {} {:g} degrees Celsius{} that is below absolute zero", load.temperature,
                               stated ? "from the" : "even from", free,
                               stated ? fmt::format(" at which {} is free of stress", m->name) : ""),
                   {},
                   "it is the difference to that temperature, in kelvin"});
  }
}

void print_strength(const NamedStack& stack, const LoadChoices& load, const StrengthChoices& choices) {
  if (!loaded(load)) return;
  const laminate::Load by = load_of(load);
  const auto failing = laminate::first_failures(stack.stack(), by, choices.chosen());
  if (failing.empty()) {
    fmt::print("\nnothing fails by these criteria, or no strength is known\n");
    return;
  }
  const bool held = by.temperature != 0.0 || by.moisture != 0.0;
  fmt::print("\nreserve: times the load{}{}, until\n\n",
             failing.front().factor < 1.0 ? " (below 1: it has failed)" : "",
             held ? " (temperature and moisture held)" : "");
  TableText table({"reserve", "fails", "by", "ply", "at"});
  // The first of each criterion, and the next plies of the first of all.
  std::set<Criterion> seen;
  std::size_t next = 0;
  for (const Failing& one : failing) {
    const bool first = seen.insert(one.criterion).second;
    if (!first && next++ >= 4) continue;
    table.add({number(one.factor), std::string(laminate::words(one.mode)),
               std::string(laminate::name_of(one.criterion)), layer_text(stack, one.layer), place_text(one)});
  }
  table.print(stdout);
  if (!choices.discount) return;
  const laminate::Discount all = laminate::discount(stack.stack(), by, choices.chosen());
  fmt::print("\nply discount, an estimate: first failure at {} times the load, the most that it bears {} times\n\n",
             number(all.first), number(all.ultimate));
  TableText sequence({"at", "fails", "by", "ply"});
  for (const laminate::Discounted& event : all.sequence)
    for (const Failing& one : event.failing)
      sequence.add({number(event.factor), std::string(laminate::words(one.mode)),
                    std::string(laminate::name_of(one.criterion)), layer_text(stack, one.layer)});
  sequence.print(stdout);
}

Json strength_json(const NamedStack& stack, const LoadChoices& load, const StrengthChoices& choices) {
  if (!loaded(load)) return Json(nullptr);
  const laminate::Load by = load_of(load);
  Json out = {{"criteria", Json::array()}, {"failing", Json::array()}};
  for (const Criterion criterion : choices.chosen()) out["criteria"].push_back(laminate::name_of(criterion));
  for (const Failing& one : laminate::first_failures(stack.stack(), by, choices.chosen()))
    out["failing"].push_back(failing_json(stack, one));
  if (choices.discount) {
    const laminate::Discount all = laminate::discount(stack.stack(), by, choices.chosen());
    Json sequence = Json::array();
    for (const laminate::Discounted& event : all.sequence) {
      Json failing = Json::array();
      for (const Failing& one : event.failing) failing.push_back(failing_json(stack, one));
      sequence.push_back({{"factor", event.factor}, {"failing", std::move(failing)}});
    }
    out["discount"] = {{"first", all.first}, {"ultimate", all.ultimate}, {"sequence", std::move(sequence)}};
  }
  return out;
}

void write_envelope(const NamedStack& stack, const UnitSystem& units, const LoadChoices& load,
                    const StrengthChoices& choices, Findings& findings) {
  if (choices.envelope.empty()) return;
  const auto components = components_of(choices.components);
  drawing::EnvelopeDrawing drawing;
  drawing.title = fmt::format("{}: first failure", stack.title);
  drawing.first = components[0], drawing.second = components[1];
  for (std::size_t i = 0; i < stack.layers.size(); ++i) drawing.layers.push_back(layer_text(stack, i));
  const laminate::Load held = load_of(load);
  for (const Criterion criterion : choices.chosen()) {
    const Criterion one[] = {criterion};
    auto points = laminate::envelope(stack.stack(), held, components[0], components[1], one);
    if (points.empty()) continue;
    drawing.criteria.push_back(criterion);
    drawing.curves.push_back(std::move(points));
  }
  drawing.subtitle = load.any() ? "with what is held besides: " : "nothing else acts";
  const auto add = [&](std::string_view name, double value, const std::string& unit) {
    if (value != 0.0) drawing.subtitle += fmt::format("{} {:g} {}  ", name, value, unit);
  };
  for (std::size_t k = 0; k < 6; ++k)
    add(laminate::component_name(k), (k < 3 ? held.N : held.M)[static_cast<Eigen::Index>(k % 3)],
        k < 3 ? units.unit(Dimension::force) + "/" + units.unit(Dimension::length) : units.unit(Dimension::force));
  add("temperature", held.temperature, "K");
  add("moisture", held.moisture, "");
  if (drawing.curves.empty())
    findings.warning("strength.no-envelope", "there is no envelope: nothing fails along an axis, or it fails by itself",
                     {}, "name the strengths of its materials, or other components with --between");
  drawing::draw(drawing, units, choices.envelope);
  fmt::print(stderr, "wrote {}\n", choices.envelope);
}

}  // namespace bordado::cli
