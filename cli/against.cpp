#include "against.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>

namespace bordado::cli {

namespace {

using Kind = sizing::StackChange::Kind;

/// Values of a curve, and of each side of a map, where none are said; and at the most.
constexpr std::size_t values_of_one = 31, values_of_two = 21, most_values = 201;

std::optional<double> number_of(std::string_view text) {
  double out = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), out);
  if (error != std::errc{} || end != text.data() + text.size() || !std::isfinite(out)) return std::nullopt;
  return out;
}

}  // namespace

void add_against_options(CLI::App& command, AgainstChoice& choice) {
  command
      .add_option("--against", choice.against,
                  "What varies, from where to where, one or two of them: core=5:40, angle:2=0:90 (of layer 2), "
                  "count:2=0:4, or a length; core=5:40:8 in eight values")
      ->allow_extra_args(false)
      ->multi_option_policy(CLI::MultiOptionPolicy::TakeAll);
  add_output_option(command, "--chart", choice.chart,
                    "Reserves over what varies, .svg or .pdf: curves, or of two a map; .csv: their points");
}

Variable length_variable(std::string name, std::string words, double now, const UnitSystem& units) {
  Variable out;
  out.name = std::move(name);
  out.varied.words = std::move(words);
  out.varied.unit = units.unit(Dimension::length);
  out.varied.now = now;
  return out;
}

std::vector<Variable> laminate_variables(const NamedStack& stack, std::size_t laminate, const std::string& wall,
                                         const UnitSystem& units) {
  std::vector<Variable> out;
  const laminate::Stack plies = stack.stack();
  const std::vector<sizing::StackChange> changes = sizing::changes_of(plies);
  const auto cores =
      std::count_if(changes.begin(), changes.end(), [](const auto& change) { return change.kind == Kind::core; });
  for (const sizing::StackChange& change : changes)
    for (const std::size_t layer : change.layers) {
      Variable one;
      one.laminate = laminate;
      one.change = change;
      one.varied.now = sizing::value_of(plies, change);
      const bool only = change.kind == Kind::core && cores == 1;
      one.name = std::string(sizing::name_of(change.kind)) + (only ? "" : fmt::format(":{}", layer + 1)) +
                 (wall.empty() ? "" : ":" + wall);
      std::vector<std::size_t> layers;
      for (const std::size_t each : change.layers) layers.push_back(each + 1);
      const std::string of = fmt::format("{} {}", layers.size() == 1 ? "layer" : "layers", fmt::join(layers, " and "));
      switch (change.kind) {
        case Kind::angle:
          one.varied.words = "angle of " + of, one.varied.unit = "°", one.least = -360.0, one.most = 360.0;
          break;
        case Kind::count:
          one.varied.words = (layers.size() == 1 ? "plies in " : "plies in each of ") + of, one.varied.whole = true;
          one.most = sizing::most_count;
          break;
        case Kind::core:
          one.varied.words = only ? "thickness of the core" : "thickness of the core of " + of;
          one.varied.unit = units.unit(Dimension::length);
          break;
      }
      if (!wall.empty()) one.varied.words += ", " + wall;
      out.push_back(std::move(one));
      if (only) break;
    }
  return out;
}

std::vector<Variable> varied_ones(const AgainstChoice& choice, std::span<const Variable> all) {
  Findings wrong;
  std::vector<Variable> out;
  if (choice.against.empty() && !choice.chart.empty())
    wrong.error("against.form", "a chart is of what varies, and nothing does", {}, "--against core=5:40");
  if (choice.against.size() > 2)
    wrong.error("against.form", fmt::format("one number varies, or two, not {}", choice.against.size()), {},
                "make a chart for each pair");
  std::vector<std::string> names;
  for (const Variable& one : all) names.push_back(one.name);
  for (const std::string& text : choice.against) {
    const std::string shown = plain_text(text, 60);
    const std::size_t equals = text.rfind('=');
    // From, to, and how many.
    std::vector<std::optional<double>> numbers;
    for (std::size_t at = equals; at < text.size();) {
      const std::size_t end = std::min(text.find(':', at + 1), text.size());
      numbers.push_back(number_of(std::string_view(text).substr(at + 1, end - at - 1)));
      at = end;
    }
    if (numbers.size() < 2 || numbers.size() > 3 || !numbers[0] || !numbers[1]) {
      wrong.error("against.form", fmt::format("'{}' does not say what varies from where to where", shown), {},
                  "--against core=5:40");
      continue;
    }
    const double from = *numbers[0], to = *numbers[1];
    const double usual = static_cast<double>(choice.against.size() == 1 ? values_of_one : values_of_two);
    const double many = numbers.size() == 3 ? numbers[2].value_or(0.0) : usual;
    if (!(many >= 2.0 && many <= most_values) || many != std::floor(many)) {
      wrong.error("against.form", fmt::format("'{}' does not say how many values, 2 to {}", shown, most_values), {},
                  "--against core=5:40:8, or leave it out");
      continue;
    }
    const std::string name = text.substr(0, equals);
    const auto found = std::find_if(all.begin(), all.end(), [&](const Variable& one) { return one.name == name; });
    if (found == all.end()) {
      const auto near = nearest_name(name, names);
      wrong.error("against.unknown", fmt::format("'{}' is nothing that varies here", plain_text(name, 40)), {},
                  near ? fmt::format("did you mean '{}'? all: {}", *near, fmt::join(names, ", "))
                       : fmt::format("one of {}", fmt::join(names, ", ")));
      continue;
    }
    Variable one = *found;
    const bool whole = one.varied.whole, is_angle = one.change && one.change->kind == Kind::angle;
    const bool low_enough = whole || is_angle ? from >= one.least : from > one.least;
    if (!(from < to) || !low_enough || to > one.most || (whole && (from != std::floor(from) || to != std::floor(to)))) {
      wrong.error("against.range",
                  fmt::format("'{}' goes from {:g} to {:g}: the {} goes from {} to a larger one, {:g} at most", shown,
                              from, to, one.varied.words,
                              whole      ? "a whole number, nought or more,"
                              : is_angle ? "-360 or more"
                                         : "above nought",
                              one.most),
                  {},
                  fmt::format("--against {}={}", name,
                              whole      ? "0:4"
                              : is_angle ? "0:90"
                                         : "5:40"));
      continue;
    }
    const auto same = [&](const Variable& other) {
      return other.change && one.change ? other.laminate == one.laminate && other.change->kind == one.change->kind &&
                                              other.change->layers == one.change->layers
                                        : other.name == one.name;
    };
    if (std::any_of(out.begin(), out.end(), same)) {
      wrong.error("against.form", fmt::format("the {} varies twice", one.varied.words), {}, "let another one vary");
      continue;
    }
    one.varied.values = sizing::even_values(from, to, static_cast<std::size_t>(many), whole);
    out.push_back(std::move(one));
  }
  wrong.throw_if_errors();
  return out;
}

std::optional<laminate::Stack> stack_with(const laminate::Stack& stack, std::span<const Variable> chosen,
                                          std::span<const double> values,
                                          const std::function<void(const std::string&, double)>& set) {
  std::vector<sizing::Chosen> of_stack;
  for (std::size_t k = 0; k < chosen.size(); ++k) {
    if (chosen[k].change)
      of_stack.emplace_back(*chosen[k].change, values[k]);
    else
      set(chosen[k].name, values[k]);
  }
  return sizing::with_values(stack, of_stack);
}

std::vector<sizing::Varied> varied_of(std::span<const Variable> chosen) {
  std::vector<sizing::Varied> out;
  for (const Variable& one : chosen) out.push_back(one.varied);
  return out;
}

void print_sweep(const sizing::Sweep& sweep) {
  std::vector<std::string> of;
  for (const sizing::Varied& one : sweep.varied)
    of.push_back(fmt::format("{}, {} to {}", one.words, sizing::value_text(one, one.values.front()),
                             sizing::value_text(one, one.values.back())));
  fmt::print("\nthe least reserve over the {}\n", fmt::join(of, ", and the "));
  if (!sweep.largest) return fmt::print("  nothing happens to it anywhere there\n");
  for (const std::string& line : sizing::words_of(sweep)) fmt::print("  {}\n", line);
}

Json sweep_json(const std::optional<sizing::Sweep>& sweep) {
  if (!sweep) return nullptr;
  Json out = {{"varied", Json::array()}, {"points", Json::array()}, {"first", Json::array()}, {"ones", Json::array()}};
  for (const sizing::Varied& one : sweep->varied)
    out["varied"].push_back({{"what", one.words},
                             {"unit", one.unit},
                             {"now", one.now ? Json(*one.now) : Json(nullptr)},
                             {"values", one.values}});
  const std::size_t columns = sweep->varied[0].values.size();
  for (std::size_t p = 0; p < sweep->points.size(); ++p) {
    Json values = {sweep->varied[0].values[p % columns]};
    if (sweep->varied.size() == 2) values.push_back(sweep->varied[1].values[p / columns]);
    Json margins = Json::array();
    if (sweep->points[p])
      for (const sizing::Margin& one : sweep->points[p]->margins)
        margins.push_back({{"what", one.what}, {"factor", one.factor}});
    out["points"].push_back({{"values", std::move(values)},
                             {"mass", sweep->points[p] ? Json(sweep->points[p]->mass) : Json(nullptr)},
                             {"in_range", sweep->points[p] ? Json(sweep->points[p]->in_range) : Json(nullptr)},
                             {"margins", std::move(margins)}});
  }
  for (const sizing::Stretch& one : sweep->first)
    out["first"].push_back(
        {{"from", one.from}, {"to", one.to}, {"what", one.what.empty() ? Json(nullptr) : Json(one.what)}});
  for (const sizing::Crossing& one : sweep->ones) out["ones"].push_back({{"value", one.value}, {"rises", one.rises}});
  return out;
}

void draw_chart(const AgainstChoice& choice, const sizing::Sweep& sweep, const std::string& title,
                const std::string& subtitle) {
  if (choice.chart.empty()) return;
  drawing::draw(drawing::SweepSheet{title, subtitle, sweep}, choice.chart);
  fmt::print(stderr, "wrote {}\n", choice.chart);
}

}  // namespace bordado::cli
