#include "sensitivity_text.hpp"

#include <fmt/format.h>

namespace bordado::cli {

namespace {

using Kind = sizing::StackChange::Kind;

/// Layers counted from 1.
std::vector<std::size_t> counted_from_one(const sizing::StackChange& change) {
  std::vector<std::size_t> out;
  for (const std::size_t layer : change.layers) out.push_back(layer + 1);
  return out;
}

}  // namespace

void print_sensitivities(std::span<const sizing::Sensitivity> all, std::span<const NamedStack> stacks,
                         const sizing::Outcome& now, const UnitSystem& units) {
  if (all.empty()) return fmt::print("\nnothing happens to it, so nothing changes that\n");
  fmt::print("\nwhat changes the least reserve ({}) most, all else as it is\n\n", number(now.margins.front().factor));
  TableText table({"change", "of", "less", "reserve", "mass", "first then", "more", "reserve", "mass", "first then"});
  for (const sizing::Sensitivity& one : all) {
    const NamedStack& stack = stacks[one.laminate];
    const auto layers = counted_from_one(one.change);
    const laminate::Stack plies = stack.stack();
    const double value_then = sizing::value_of(plies, one.change), by = sizing::step_of(plies, one.change);
    std::string of = fmt::format("{}, {} {}", stack.names[one.change.layers.front()],
                                 layers.size() == 1 ? "layer" : "layers", fmt::join(layers, " and "));
    if (stacks.size() > 1) of = fmt::format("{}: {}", stack.title, of);
    const auto value = [&](bool more) {
      switch (one.change.kind) {
        case Kind::angle:
          return fmt::format("{:g}°", value_then + (more ? by : -by));
        case Kind::count:
          return std::string(more ? "twice" : "none");
        default:
          return fmt::format("{} {}", number(value_then + (more ? by : -by)), units.unit(Dimension::length));
      }
    };
    std::vector<std::string> row{std::string(sizing::name_of(one.change.kind)), std::move(of)};
    for (const bool more : {false, true}) {
      const auto& outcome = more ? one.more : one.less;
      row.push_back(value(more));
      row.push_back(outcome ? number(outcome->margins.front().factor) : "none");
      row.push_back(outcome && outcome->mass != now.mass
                        ? fmt::format("{:+.1f} %", 100.0 * (outcome->mass / now.mass - 1.0))
                        : "");
      row.push_back(outcome && outcome->margins.front().what != now.margins.front().what ? outcome->margins.front().what
                                                                                         : "");
    }
    table.add(std::move(row));
  }
  table.print(stdout);
}

Json sensitivities_json(std::span<const sizing::Sensitivity> all, std::span<const NamedStack> stacks) {
  Json out = Json::array();
  const auto outcome = [](const std::optional<sizing::Outcome>& one) {
    return one ? Json{{"factor", one->margins.front().factor}, {"what", one->margins.front().what}, {"mass", one->mass}}
               : Json(nullptr);
  };
  for (const sizing::Sensitivity& one : all) {
    const NamedStack& stack = stacks[one.laminate];
    out.push_back({{"change", sizing::name_of(one.change.kind)},
                   {"laminate", stack.title},
                   {"layers", counted_from_one(one.change)},
                   {"now", sizing::value_of(stack.stack(), one.change)},
                   {"step", sizing::step_of(stack.stack(), one.change)},
                   {"less", outcome(one.less)},
                   {"more", outcome(one.more)}});
  }
  return out;
}

}  // namespace bordado::cli
