#include "plies.hpp"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

namespace bordado::part {

std::optional<double> read_slope(Table& table, std::string_view key) {
  const auto text = table.text(key);
  if (!text) return std::nullopt;
  double rise = 0.0, run = 0.0;
  const std::string& all = text->value;
  const auto colon = all.find(':');
  const auto number = [](std::string_view of, double& into) {
    while (!of.empty() && of.front() == ' ') of.remove_prefix(1);
    while (!of.empty() && of.back() == ' ') of.remove_suffix(1);
    const auto [end, error] = std::from_chars(of.data(), of.data() + of.size(), into);
    return error == std::errc() && end == of.data() + of.size() && std::isfinite(into);
  };
  if (colon != std::string::npos && number(std::string_view(all).substr(0, colon), rise) &&
      number(std::string_view(all).substr(colon + 1), run) && rise > 0.0 && run > 0.0 && run / rise <= 1e6 &&
      run / rise >= 1e-3)
    return run / rise;
  table.error("part.value", fmt::format("{}: '{}' is no slope", table.name(), all), text->where,
              "write rise to run, as \"1:20\"; plies that end together without a slope need no ramp");
  return std::nullopt;
}

Ramp read_ramp(Table& table, const std::string& name) {
  Ramp out{.name = name, .where = table.place()};
  if (table.node("from")) out.from = table.text("from").value_or(Declared<std::string>{"", table.place("from")});
  if (table.node("to")) out.to = table.text("to").value_or(Declared<std::string>{"", table.place("to")});
  if (table.node("jump")) out.jump = table.positive("jump", Dimension::length).value_or(1.0);
  const auto needs_one = [&](bool first, bool second, std::string_view what, std::string remedy) {
    if (first == second)
      table.error("part.key-missing", fmt::format("{} needs one of {}", table.name(), what), table.place(),
                  std::move(remedy));
  };
  needs_one(out.from.has_value(), out.jump.has_value(), "'from' and 'jump'",
            "from = \"the thick zone\", or jump = the thickness from which every border gets a ramp");
  if (out.to && out.jump)
    table.error("part.value", fmt::format("{}: 'to' goes with 'from'", table.name()), table.place("to"),
                "leave it out: 'jump' finds both zones");
  if (table.node("slope")) out.slope = read_slope(table, "slope").value_or(1.0);
  if (table.node("step")) out.step = table.positive("step", Dimension::length).value_or(1.0);
  needs_one(out.slope.has_value(), out.step.has_value(), "'slope' and 'step'",
            "slope = \"1:20\", or step = the distance from one ply's end to the next");
  if (table.node("least-step")) out.least_step = table.positive("least-step", Dimension::length).value_or(0.0);
  if (const toml::node* const first = table.node("first")) {
    if (first->is_array()) {
      if (auto order = table.texts("first")) out.order = std::move(*order);
      if (out.order.empty() && first->as_array()->empty())
        table.error("part.value", fmt::format("{}: 'first' is an empty list", table.name()), table.place("first"),
                    "list the plies in the order in which they end, or write \"inner\"");
    } else if (const auto way = table.choice("first", ends_first_names)) {
      out.first = static_cast<EndsFirst>(*way);
    }
  }
  if (out.jump && !out.order.empty())
    table.error("part.value", fmt::format("{}: a list of plies goes with 'from'", table.name()), table.place("first"),
                "say first = \"inner\" or the like: 'jump' finds the plies");
  const auto count = [&](std::string_view key, int least, int& into) {
    if (!table.node(key)) return;
    const auto value = table.whole(key);
    if (value && *value >= least && *value <= 1000)
      into = static_cast<int>(*value);
    else if (value)
      table.error("part.value", fmt::format("{}: '{}' is {}; it can be {} to 1000", table.name(), key, *value, least),
                  table.place(key));
  };
  count("together", 1, out.together);
  count("covers", 0, out.covers);
  if (table.node("side"))
    if (const auto side = table.choice("side", ramp_side_names)) out.side = static_cast<RampSide>(*side);
  if (table.node("pairs")) {
    constexpr std::string_view ways[] = {"together", "single"};
    if (const auto way = table.choice("pairs", ways)) out.pairs = *way == 0;
  }
  return out;
}

std::optional<Chamfer> read_chamfer(Table& table) {
  auto inner = table.inner("chamfer");
  if (!inner) return std::nullopt;
  Table& chamfer = *inner;
  Chamfer out;
  const bool length = chamfer.node("length") != nullptr, angle = chamfer.node("angle") != nullptr;
  bool good = length != angle;
  if (!good)
    chamfer.error("part.key-missing", fmt::format("{} needs one of 'length' and 'angle'", chamfer.name()),
                  chamfer.place(), "write chamfer = { length = 30 } or { angle = \"20 deg\" }");
  if (length) out.length = chamfer.positive("length", Dimension::length);
  if (angle)
    if (const auto degrees = chamfer.number("angle", Dimension::angle)) {
      out.angle = Angle::degrees(*degrees);
      if (!(*degrees >= 0.1 && *degrees < 90.0)) {
        good = false;
        chamfer.error(
            "part.value",
            fmt::format("{}: 'angle' is {:g}°; it can be 0.1° and more, less than 90°", chamfer.name(), *degrees),
            chamfer.place("angle"));
      }
    }
  if (chamfer.node("edge-thickness"))
    out.edge_thickness = chamfer.positive("edge-thickness", Dimension::length).value_or(0.0);
  if (chamfer.node("fill")) out.fill = chamfer.text("fill");
  chamfer.finish();
  if (!good || (!out.length && !out.angle)) return std::nullopt;
  return out;
}

std::optional<Scallop> read_scallop(Table& table) {
  auto inner = table.inner("scallop");
  if (!inner) return std::nullopt;
  const auto pitch = inner->positive("pitch", Dimension::length), depth = inner->positive("depth", Dimension::length);
  inner->finish();
  return pitch && depth ? std::optional(Scallop{*pitch, *depth}) : std::nullopt;
}

std::string toml_text(const Scallop& scallop) {
  return fmt::format("{{ pitch = {}, depth = {} }}", toml_number(scallop.pitch), toml_number(scallop.depth));
}

std::string toml_text(const Chamfer& chamfer) {
  std::string out = chamfer.length ? fmt::format("{{ length = {}", toml_number(*chamfer.length))
                                   : fmt::format("{{ angle = {}", toml_number(chamfer.angle->degrees()));
  if (chamfer.edge_thickness > 0.0) out += fmt::format(", edge-thickness = {}", toml_number(chamfer.edge_thickness));
  if (chamfer.fill) out += fmt::format(", fill = {}", toml_string(chamfer.fill->value));
  return out + " }";
}

}  // namespace bordado::part
