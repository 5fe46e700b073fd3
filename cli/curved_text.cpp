#include "curved_text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace bordado::cli {

namespace {

using Of = sizing::CurvedShare::Of;

std::string size_text(const sizing::CurvedCase& given, const UnitSystem& units) {
  const std::string length = units.unit(Dimension::length);
  return given.width > 0.0
             ? fmt::format("panel {} x {} {}, curved across, radius {} {}", number(given.length), number(given.width),
                           length, number(given.radius), length)
             : fmt::format("cylinder {} long, radius {} {}", number(given.length), number(given.radius), length);
}

std::string loads_text(const sizing::CurvedCase& given, const UnitSystem& units) {
  const std::string flow = units.unit(Dimension::force) + "/" + units.unit(Dimension::length);
  std::vector<std::string> loads;
  if (given.axial != 0.0) loads.push_back(fmt::format("{} {} along its axis", number(given.axial), flow));
  if (given.shear != 0.0) loads.push_back(fmt::format("shear {} {}", number(given.shear), flow));
  if (given.pressure != 0.0)
    loads.push_back(fmt::format("pressure {} {} {}", number(std::abs(given.pressure)), units.unit(Dimension::stress),
                                given.pressure > 0.0 ? "from inside" : "from outside"));
  return fmt::format("{}", fmt::join(loads, ", "));
}

std::string waves_text(const sizing::CurvedCase& given, const sizing::CurvedShare& share) {
  if (share.of == Of::shear) return share.flat ? "" : fmt::format("{} waves round, like a screw", share.n);
  return given.width > 0.0 ? fmt::format("{} x {} half waves", share.m, share.n)
                           : fmt::format("{} half {} along, {} {} round", share.m, share.m == 1 ? "wave" : "waves",
                                         share.n, share.n == 1 ? "wave" : "waves");
}

}  // namespace

std::string curved_text(const sizing::CurvedCase& given, const UnitSystem& units) {
  const std::string loads = loads_text(given, units);
  return fmt::format("{}; {}", size_text(given, units), loads.empty() ? "no load" : loads);
}

void find_curved(const sizing::CurvedCase& given, const sizing::CurvedAnswer& answer, Findings& findings) {
  const sizing::CurvedRange range = sizing::range_of(given, answer);
  if (!range.of_tests)
    findings.warning(
        "panel.thin-shell",
        fmt::format("R / t is {:.0f}: the knock-down is of tests up to 1500", answer.left.radius_to_thickness), {},
        "test it");
  if (range.is_coupled())
    findings.warning(
        "panel.coupled",
        fmt::format("{:.0f} % of bending and twisting, or of stretching and shear, go together in this laminate: "
                    "that is left out of the shell's loads",
                    100.0 * range.coupled),
        {}, "give plies at an angle their opposites, more of them and thinner, or take a model");
  if (range.is_thick())
    findings.warning(
        "panel.thick",
        fmt::format("its radius is {:.3g} times its thickness: from ten on this theory is within a few per cent",
                    range.radius),
        {}, "take a model of solids");
}

void print_curved(const sizing::CurvedCase& given, const sizing::CurvedAnswer& answer, const NamedStack& stack,
                  const UnitSystem& units) {
  const std::string length = units.unit(Dimension::length);
  const double h = laminate::thickness(given.stack.layers);
  fmt::print("{}: {}; {} layers, {} {}, {}\n", styled(stack.title, Style::bold, fileno(stdout)),
             size_text(given, units), stack.layers.size(), number(h), length, areal_mass_text(units, answer.mass));
  if (const std::string loads = loads_text(given, units); !loads.empty()) fmt::print("it carries {}\n", loads);
  if (!answer.margins.empty()) {
    print_reserves_head(answer.margins);
    TableText table({"reserve", "what happens", "by", "in"});
    for (const sizing::Margin& margin : answer.margins) {
      std::string by, in;
      if (margin.what == sizing::curved_words) {
        by = "NASA SP-8007";
        in = "loads as below";
      } else if (margin.what == sizing::exact_wrinkling_words) {
        by = "faces on a solid core";
        in = fmt::format("half waves of {} {} along {:.0f}°", number(answer.wave->half_wave, 3), length,
                         degrees(answer.wave->direction));
      } else {
        for (const laminate::Failing& failing : answer.criteria)
          if (laminate::words(failing.mode) == margin.what && failing.factor == margin.factor) {
            by = laminate::name_of(failing.criterion);
            in = fmt::format("{}, {}", layer_text(stack, failing.layer), place_text(failing));
          }
      }
      table.add({number(margin.factor), margin.what, by, in});
    }
    table.print(stdout);
    print_first(answer.margins, "the shell");
  } else if (answer.N != laminate::Vector3::Zero()) {
    fmt::print("\nnothing fails by these criteria, or no strength is known\n");
  }
  if (!answer.shares.empty()) {
    fmt::print("\nbuckling, load by load: the classical load of a perfect shape, and what is counted on\n\n");
    TableText table({"load", "pushes", "classical", "left of it", "bears", "waves", "by"});
    for (const sizing::CurvedShare& share : answer.shares)
      table.add({std::string(sizing::name_of(share.of)), number(share.load), number(share.classical),
                 fmt::format("{:.2f}", share.bears / share.classical), number(share.bears), waves_text(given, share),
                 share.flat                                   ? "the flat panel"
                 : share.of == Of::axial && share.left == 1.0 ? "as a bar"
                                                              : "NASA SP-8007 (1968)"});
    table.print(stdout);
    fmt::print("\nR / t {}; shares of loads are added, and what pulls helps nothing\n",
               number(answer.left.radius_to_thickness, 3));
  }
}

Json curved_json(const sizing::CurvedCase& given, const sizing::CurvedAnswer& answer, const NamedStack& stack) {
  Json shares = Json::array();
  for (const sizing::CurvedShare& share : answer.shares)
    shares.push_back({{"load", sizing::name_of(share.of)},
                      {"pushes", share.load},
                      {"classical", share.classical},
                      {"waves", {share.m, share.n}},
                      {"left", share.left},
                      {"flat", share.flat},
                      {"bears", share.bears}});
  Json out = {{"laminate", stack.title},
              {"length", given.length},
              {"radius", given.radius},
              {"width", given.width > 0.0 ? Json(given.width) : Json(nullptr)},
              {"thickness", laminate::thickness(given.stack.layers)},
              {"areal_mass", answer.mass},
              {"N", {answer.N[0], answer.N[1], answer.N[2]}},
              {"pressure", given.pressure},
              {"margins", Json::array()},
              {"governing", answer.margins.empty() ? Json(nullptr) : Json(answer.margins.front().what)},
              {"shell",
               {{"loads", std::move(shares)},
                {"radius_to_thickness", answer.left.radius_to_thickness},
                {"in_range", answer.left.in_range},
                {"coupled", answer.coupled}}},
              {"criteria", Json::array()},
              {"wrinkling", nullptr}};
  for (const sizing::Margin& margin : answer.margins)
    out["margins"].push_back({{"what", margin.what}, {"factor", margin.factor}});
  for (const laminate::Failing& failing : answer.criteria) out["criteria"].push_back(failing_json(stack, failing));
  if (answer.wave)
    out["wrinkling"] = {{"factor", answer.wave->factor},
                        {"half_wave", answer.wave->half_wave},
                        {"direction_deg", degrees(answer.wave->direction)},
                        {"longest", answer.wave->longest}};
  return out;
}

void draw_curved(const sizing::CurvedCase& given, const sizing::CurvedAnswer& answer, const NamedStack& stack,
                 const UnitSystem& units, const std::string& path) {
  drawing::draw(drawing::CurvedSheet{stack.title,
                                     fmt::format("{}; {} layers, {} {}, {}", size_text(given, units),
                                                 stack.layers.size(), number(laminate::thickness(stack.layers)),
                                                 units.unit(Dimension::length), areal_mass_text(units, answer.mass)),
                                     given, answer},
                units, path);
  fmt::print(stderr, "wrote {}\n", path);
}

}  // namespace bordado::cli
