#include "panel_text.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace bordado::cli {

namespace {

constexpr std::array<std::string_view, 3> edge_names{"free", "simple", "clamped"};
std::string_view name_of(sizing::Edge edge) { return edge_names[static_cast<std::size_t>(edge)]; }

/// "alike", "mirrored", "top face", ...
std::string_view moves(const sizing::FaceWave& wave) {
  const double less = std::min(std::abs(wave.bottom), std::abs(wave.top));
  if (less < 0.1) return std::abs(wave.top) > std::abs(wave.bottom) ? "top face alone" : "bottom face alone";
  return wave.bottom * wave.top > 0.0 ? "faces alike" : "faces mirrored";
}

Json settled_or_none(const std::optional<sizing::Settled>& value) {
  return value ? settled_json(*value) : Json(nullptr);
}

Json wave_json(const std::optional<sizing::FaceWave>& wave) {
  if (!wave) return nullptr;
  return {{"factor", wave->factor},
          {"half_wave", wave->half_wave},
          {"direction_deg", degrees(wave->direction)},
          {"bottom", wave->bottom},
          {"top", wave->top},
          {"longest", wave->longest}};
}

}  // namespace

std::vector<std::string> edge_words() { return {edge_names.begin(), edge_names.end()}; }

std::array<sizing::Edge, 4> edges_named(const std::vector<std::string>& names, Findings& wrong) {
  if (names.size() != 1 && names.size() != 4)
    wrong.error(
        "panel.edges", fmt::format("edges are said once for all or four times, not {}", names.size()), {},
        "--edges simple, or --edges simple,simple,clamped,free: at x = 0 and at its end, at y = 0 and at its end");
  std::array<sizing::Edge, 4> out{};
  for (std::size_t k = 0; k < 4 && !names.empty(); ++k) {
    const auto found = std::find(edge_names.begin(), edge_names.end(), names[names.size() == 4 ? k : 0]);
    out[k] = static_cast<sizing::Edge>(found - edge_names.begin());
  }
  return out;
}

std::string edges_text(const sizing::PanelCase& panel) {
  const std::array<sizing::Edge, 4> all{panel.x0, panel.x1, panel.y0, panel.y1};
  if (std::all_of(all.begin(), all.end(), [&](sizing::Edge edge) { return edge == all[0]; }))
    return fmt::format("all edges {}", name_of(all[0]));
  return fmt::format("edges at x = 0 {}, x = a {}, y = 0 {}, y = b {}", name_of(all[0]), name_of(all[1]),
                     name_of(all[2]), name_of(all[3]));
}

namespace {

std::vector<std::string> loads_of(const sizing::PanelCase& given, const UnitSystem& units) {
  const std::string length = units.unit(Dimension::length), force = units.unit(Dimension::force),
                    stress = units.unit(Dimension::stress);
  std::vector<std::string> loads;
  if (given.N != laminate::Vector3::Zero())
    loads.push_back(fmt::format("Nx {}, Ny {}, Nxy {} {}/{}", number(given.N[0]), number(given.N[1]),
                                number(given.N[2]), force, length));
  if (given.place)
    loads.push_back(fmt::format("there, about its middle, Mx {}, My {}, Mxy {} {}, Qx {}, Qy {} {}/{}",
                                number(given.place->M[0]), number(given.place->M[1]), number(given.place->M[2]), force,
                                number(given.place->Q[0]), number(given.place->Q[1]), force, length));
  if (given.pressure != 0.0) loads.push_back(fmt::format("pressure {} {}", number(given.pressure), stress));
  return loads;
}

}  // namespace

std::string panel_text(const sizing::PanelCase& given, const UnitSystem& units) {
  const auto loads = loads_of(given, units);
  return fmt::format("{} x {} {}, {}; {}", number(given.a), number(given.b), units.unit(Dimension::length),
                     edges_text(given), loads.empty() ? "no load" : fmt::format("{}", fmt::join(loads, ", and ")));
}

void print_panel(const sizing::PanelCase& given, const sizing::PanelAnswer& answer, const NamedStack& stack,
                 const UnitSystem& units) {
  const std::string length = units.unit(Dimension::length), force = units.unit(Dimension::force),
                    stress = units.unit(Dimension::stress);
  const double h = laminate::thickness(given.stack.layers);
  fmt::print("{}: panel {} x {} {}, {}; {} layers, {} {}, {}\n", styled(stack.title, Style::bold, fileno(stdout)),
             number(given.a), number(given.b), length, edges_text(given), stack.layers.size(), number(h), length,
             areal_mass_text(units, laminate::areal_mass(given.stack.layers)));
  const bool pushed = given.N != laminate::Vector3::Zero();
  if (const auto loads = loads_of(given, units); !loads.empty())
    fmt::print("it carries {}\n", fmt::join(loads, ", and "));

  if (!answer.margins.empty()) {
    print_reserves_head(answer.margins);
    TableText table({"reserve", "what happens", "by", "in", "where"});
    for (const sizing::Margin& margin : answer.margins) {
      std::string by, in, where;
      if (margin.what == sizing::buckling_words) {
        by = "Ritz";
        if (answer.closed && answer.closed->buckling)
          in = fmt::format("{} x {} half waves", answer.closed->m, answer.closed->n);
      } else if (margin.what == sizing::exact_wrinkling_words) {
        by = "faces on a solid core";
        in = std::string(moves(*answer.wave));
        where = fmt::format("half waves of {} {} along {:.0f}°", number(answer.wave->half_wave, 3), length,
                            degrees(answer.wave->direction));
      } else {
        for (const sizing::PlaceFailing& place : answer.criteria)
          if (laminate::words(place.failing.mode) == margin.what && place.failing.factor == margin.factor) {
            by = laminate::name_of(place.failing.criterion);
            in = fmt::format("{}, {}", layer_text(stack, place.failing.layer), place_text(place.failing));
            if (answer.bent) where = fmt::format("at {}, {}", number(place.x), number(place.y));
          }
      }
      table.add({number(margin.factor), margin.what, by, in, where});
    }
    table.print(stdout);
    print_first(answer.margins, "the panel");
  } else if (pushed || answer.bent) {
    fmt::print("\nnothing fails by these criteria, or no strength is known\n");
  }

  if (pushed) {
    if (answer.buckling.forward)
      fmt::print("buckling: {}, which the last third of {} x {} functions lowered by {:.2g} %",
                 number(answer.buckling.forward->value), answer.terms.x, answer.terms.y,
                 100.0 * answer.buckling.forward->change);
    else
      fmt::print("buckling: not under these loads");
    if (answer.closed && answer.closed->buckling)
      fmt::print("; Navier's closed form {}", number(*answer.closed->buckling));
    if (answer.buckling.reversed)
      fmt::print("; all loads the other way round {}", number(answer.buckling.reversed->value));
    fmt::print("\n");
  }
  if (!answer.frequencies.empty()) {
    std::vector<std::string> all;
    for (const sizing::Settled& frequency : answer.frequencies) all.push_back(number(frequency.value));
    fmt::print("frequencies, unloaded: {} {}", fmt::join(all, ", "), drawing::frequency_unit(units));
    if (answer.closed && answer.closed->frequency > 0.0)
      fmt::print("; Navier's closed form {}", number(answer.closed->frequency));
    fmt::print("\n");
  }
  if (answer.bent) {
    fmt::print("under the pressure: {} {} at {}, {}; {} on the mean", number(answer.bent->largest.value), length,
               number(answer.bent->x), number(answer.bent->y), number(answer.bent->mean));
    if (pushed)
      fmt::print("{}", answer.bent_without_N ? "; without the forces in the plane, which buckle it"
                                             : "; with the forces in the plane acting");
    fmt::print("\n");
  }

  if (!answer.sandwich) return;
  if (!answer.formulas.empty()) {
    fmt::print("\nwrinkling of its faces\n\n");
    TableText table({"reserve", "by", "face", "along", "for", "in range"});
    const auto wave = [&](const char* name, const std::optional<sizing::FaceWave>& one) {
      if (!one) return;
      table.add({number(one->factor), fmt::format("solid core, {}", name), "both",
                 fmt::format("{:.0f}°", degrees(one->direction)),
                 one->longest ? "no short wave of its own: the longest"
                              : fmt::format("half waves of {} {}", number(one->half_wave, 3), length),
                 "any core"});
    };
    wave("as they like", answer.wave);
    // Of faces that are not alike these are bounds from above, and tell nothing.
    const double uneven = (answer.faces.top - answer.faces.bottom).norm();
    if (uneven < 0.02 * answer.faces.top.norm() &&
        (answer.sandwich->top.D - answer.sandwich->bottom.D).norm() < 0.02 * answer.sandwich->top.D.norm()) {
      wave("mirrored", answer.mirrored);
      wave("alike", answer.alike);
    }
    for (const sizing::FormulaMargin& margin : answer.formulas) {
      // One line where both faces have the same.
      const auto twin = std::find_if(answer.formulas.begin(), answer.formulas.end(), [&](const auto& other) {
        return other.top != margin.top && other.answer.formula == margin.answer.formula;
      });
      const bool same = twin != answer.formulas.end() &&
                        std::abs(twin->factor - margin.factor) < 1e-9 * margin.factor &&
                        std::abs(twin->direction - margin.direction) < 1e-9;
      if (same && margin.top) continue;
      table.add({number(margin.factor), std::string(sizing::words(margin.answer.formula)),
                 same         ? "each"
                 : margin.top ? "top"
                              : "bottom",
                 fmt::format("{:.0f}°", degrees(margin.direction)), std::string(sizing::name_of(margin.answer.formula)),
                 margin.answer.in_range ? "yes" : fmt::format("no: for {}", margin.answer.range)});
    }
    table.print(stdout);
  }
  if (answer.indentation) {
    fmt::print("\na load on a patch of radius {} {} of the top face: {} {} press it in by 1 {}", number(given.patch),
               length, number(1.0 / answer.indentation->depth), force, length);
    if (answer.sandwich->crushes)
      fmt::print("; the core below it crushes at {} {}",
                 number(*answer.sandwich->crushes / answer.indentation->core_stress), force);
    fmt::print("\n");
  }
}

Json panel_json(const sizing::PanelCase& given, const sizing::PanelAnswer& answer, const NamedStack& stack) {
  Json out = {{"laminate", stack.title},
              {"size", {given.a, given.b}},
              {"edges", {name_of(given.x0), name_of(given.x1), name_of(given.y0), name_of(given.y1)}},
              {"thickness", laminate::thickness(given.stack.layers)},
              {"areal_mass", answer.panel.plate.mass},
              {"D", matrix_json(answer.panel.plate.D)},
              {"H", matrix_json(answer.panel.plate.H)},
              {"N", {given.N[0], given.N[1], given.N[2]}},
              {"pressure", given.pressure},
              {"margins", Json::array()},
              {"governing", answer.margins.empty() ? Json(nullptr) : Json(answer.margins.front().what)},
              {"terms", answer.terms.x},
              {"buckling",
               {{"forward", settled_or_none(answer.buckling.forward)},
                {"reversed", settled_or_none(answer.buckling.reversed)}}},
              {"closed_form", nullptr},
              {"frequencies", Json::array()},
              {"under_pressure", nullptr},
              {"criteria", Json::array()},
              {"sandwich", nullptr}};
  for (const sizing::Margin& margin : answer.margins)
    out["margins"].push_back({{"what", margin.what}, {"factor", margin.factor}});
  if (answer.closed)
    out["closed_form"] = {{"buckling", answer.closed->buckling ? Json(*answer.closed->buckling) : Json(nullptr)},
                          {"half_waves", {answer.closed->m, answer.closed->n}},
                          {"frequency", answer.closed->frequency},
                          {"middle_per_pressure", answer.closed->middle}};
  for (const sizing::Settled& frequency : answer.frequencies) out["frequencies"].push_back(settled_json(frequency));
  if (answer.bent)
    out["under_pressure"] = {{"deflection", settled_json(answer.bent->largest)},
                             {"at", {answer.bent->x, answer.bent->y}},
                             {"mean", answer.bent->mean},
                             {"without_forces_in_plane", answer.bent_without_N}};
  for (const sizing::PlaceFailing& place : answer.criteria) {
    Json one = failing_json(stack, place.failing);
    one["at"] = {place.x, place.y};
    out["criteria"].push_back(std::move(one));
  }
  if (!answer.sandwich) return out;
  Json formulas = Json::array();
  for (const sizing::FormulaMargin& margin : answer.formulas)
    formulas.push_back({{"formula", sizing::name_of(margin.answer.formula)},
                        {"source", sizing::words(margin.answer.formula)},
                        {"face", margin.top ? "top" : "bottom"},
                        {"factor", margin.factor},
                        {"direction_deg", degrees(margin.direction)},
                        {"force", margin.answer.force},
                        {"in_range", margin.answer.in_range},
                        {"range", margin.answer.range}});
  const auto three = [](const laminate::Vector3& v) { return Json{v[0], v[1], v[2]}; };
  out["sandwich"] = {{"core_thickness", answer.sandwich->core_thickness},
                     {"faces", {{"bottom", three(answer.faces.bottom)}, {"top", three(answer.faces.top)}}},
                     {"wrinkling", wave_json(answer.wave)},
                     {"mirrored", wave_json(answer.mirrored)},
                     {"alike", wave_json(answer.alike)},
                     {"formulas", std::move(formulas)},
                     {"patch", nullptr}};
  if (answer.indentation)
    out["sandwich"]["patch"] = {
        {"radius", given.patch},
        {"depth_per_force", answer.indentation->depth},
        {"core_stress_per_force", answer.indentation->core_stress},
        {"crushes_at",
         answer.sandwich->crushes ? Json(*answer.sandwich->crushes / answer.indentation->core_stress) : Json(nullptr)}};
  return out;
}

void draw_panel(const sizing::PanelCase& given, const sizing::PanelAnswer& answer, const NamedStack& stack,
                const UnitSystem& units, const std::string& path) {
  const std::string length = units.unit(Dimension::length);
  drawing::draw(
      drawing::PanelSheet{stack.title,
                          fmt::format("{} x {} {}, {}; {} layers, {} {}, {}", number(given.a), number(given.b), length,
                                      edges_text(given), stack.layers.size(), number(laminate::thickness(stack.layers)),
                                      length, areal_mass_text(units, laminate::areal_mass(stack.layers))),
                          given, answer},
      units, path);
  fmt::print(stderr, "wrote {}\n", path);
}

}  // namespace bordado::cli
