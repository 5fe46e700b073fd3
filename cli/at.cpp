// bordado at: the laminate at one place, layer by layer.
#include "strength_text.hpp"

#include <bordado/drawing.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace at_command {

struct Choices {
  PartChoice part;
  PlaceChoice place;
  bool from_top = false;
  bool json = false;
  LoadChoices load;
  StrengthChoices strength;
  WriteChoices write;
};

struct LayerText {
  part::PlyId id;
  const part::Ply* ply;
  const layup::Ply* laid;
  double thickness;
  double covered;    ///< part of the element's area
  double low, high;  ///< z
  Vec3 direction;    ///< of the fibre, global
  Angle shear;       ///< of draped cloth
  Angle angle;       ///< of its fibres from the reference of the element
  /// The weft of draped cloth, from the reference.
  std::optional<Angle> weft(const Design& design) const {
    const layup::Draping* const draping = design.layup.draping_of(id);
    return draping ? std::optional(angle + Angle::degrees(draping->rest.degrees() - shear.degrees())) : std::nullopt;
  }
};

std::vector<LayerText> layers_at(const Design& design, mesh::ElementIndex e) {
  std::vector<LayerText> out;
  layup::LayersOn layers_on(design);
  for (const layup::LaidLayer& layer : layers_on(e)) {
    const layup::Ply& laid = design.layup.plies[layer.ply];
    out.push_back({layer.ply, &design.part.plies[layer.ply], &laid, layer.thickness, layer.covered, layer.bottom,
                   layer.bottom + layer.thickness, design.layup.fibre(layer.ply, e, design.geometry.normals[e]),
                   layer.shear, layer.angle});
  }
  return out;
}

std::string code_at(const Design& design, mesh::ElementIndex e) {
  layup::LayersOn layers_on(design);
  return layup::code(design.part, design.layup, layers_on(e));
}

/// Frames of the plies at an element, in the order they are met.
std::vector<part::FrameId> frames_at(const Design& design, mesh::ElementIndex e) {
  std::vector<part::FrameId> out;
  for (const part::PlyId p : design.layup.plies_of(design.layup.stack_of[e]))
    if (const part::FrameId f = design.layup.frame_of(p); std::find(out.begin(), out.end(), f) == out.end())
      out.push_back(f);
  return out;
}

std::string how(const Design& design, part::FrameId f, mesh::ElementIndex e) {
  return frame::explain(design.part.frames[f], design.part, design.geometry, design.layup.frames[f], e);
}

std::vector<std::string> ply_names(const Design& design, mesh::ElementIndex e) {
  std::vector<std::string> out;
  for (const LayerText& layer : layers_at(design, e)) out.push_back(layer.ply->id);
  return out;
}

/// The stack that lies there, with the names of its plies. \param stack must outlive it
NamedStack named_at(const Design& design, mesh::ElementIndex e, const drawing::StackDrawing& stack) {
  NamedStack out{stack.layers, {}, ply_names(design, e), stack.z0, stack.title};
  for (const LayerText& layer : layers_at(design, e))
    out.materials.push_back(&design.part.materials[layer.laid->material]);
  return out;
}

Json as_json(const Design& design, mesh::ElementIndex e, const Choices& choices) {
  Json layers = Json::array();
  auto list = layers_at(design, e);
  if (choices.from_top) std::reverse(list.begin(), list.end());
  for (std::size_t i = 0; i < list.size(); ++i) {
    const LayerText& layer = list[i];
    layers.push_back(
        {{"layer", choices.from_top ? list.size() - i : i + 1},
         {"ply", layer.ply->id},
         {"material", layer.ply->material.value},
         {"thickness", layer.thickness},
         {"covered", layer.covered},
         {"angle_deg", same_fibre(layer.angle).degrees()},
         {"design_angle_deg", layer.laid->angle.degrees()},
         {"weft_deg", layer.weft(design) ? Json(same_fibre(*layer.weft(design)).degrees()) : Json(nullptr)},
         {"frame", layer.ply->frame.value},
         {"drape", layer.ply->drape ? Json(layer.ply->drape->value) : Json(nullptr)},
         {"shear_deg", layer.shear.degrees()},
         {"direction", to_json(layer.direction)},
         {"z_low", layer.low},
         {"z_high", layer.high}});
  }
  const drawing::StackDrawing there = drawing::stack_at(design, e);
  const auto& stack = there.layers;
  const double h = laminate::thickness(stack), z0 = layup::bottom(design.part, h);
  Json frames = Json::object();
  for (const part::FrameId f : frames_at(design, e)) frames[design.part.frames[f].name] = how(design, f, e);
  Json out = {{"part", design.part.name},
              {"element", design.surface.element_ids[e]},
              {"centre", to_json(design.geometry.centres[e])},
              {"normal", to_json(design.geometry.normals[e])},
              {"reference", to_json(design.sections.references[e])},
              {"order", choices.from_top ? "last laid first" : "first laid first"},
              {"layers", layers},
              {"frames", frames}};
  out.update(laminate_json(design.part.units, stack, z0));
  if (choices.load.any()) out["load"] = states_json(stack, z0, choices.load, ply_names(design, e), choices.from_top);
  if (choices.load.any()) out["strength"] = strength_json(named_at(design, e, there), choices.load, choices.strength);
  return out;
}

/// By its frame, which stands beside it; of draped cloth where its warp lies.
std::string angle_text(const Design& design, const LayerText& layer) {
  return design.layup.draping_of(layer.id) ? fmt::format("{:.1f}°", same_fibre(layer.angle).degrees())
                                           : fmt::format("{:g}°", layer.laid->angle.degrees());
}

void print(const Design& design, mesh::ElementIndex e, const Choices& choices) {
  const bool from_top = choices.from_top;
  const UnitSystem& units = design.part.units;
  const std::string length = units.unit(Dimension::length);
  const drawing::StackDrawing there = drawing::stack_at(design, e);
  const auto& stack = there.layers;
  const double h = laminate::thickness(stack), z0 = layup::bottom(design.part, h);
  const std::vector<std::string> zones = [&] {
    std::vector<std::string> out;
    for (const zone::ZoneId z : design.layup.zones.declared())
      if (design.layup.zones.contains(z, e)) out.push_back(design.layup.zones.names[z]);
    return out;
  }();
  fmt::print("{}, element {} at {} {}, normal {}{}\n", styled(design.part.name, Style::bold, fileno(stdout)),
             design.surface.element_ids[e], point_text(design.geometry.centres[e]), length,
             point_text(design.geometry.normals[e]),
             zones.empty() ? "" : fmt::format(", in {}", fmt::join(zones, ", ")));
  fmt::print("{}, {} {}, {}\n\n", code_at(design, e), number(h), length,
             areal_mass_text(units, laminate::areal_mass(stack)));
  fmt::print("layers, {}:\n", from_top ? "last laid first (from the top down)" : "first laid first (from the tool up)");
  TableText table(
      {"ply", "material", "t " + length, "angle", "frame", "fibre direction x y z", "z from", "z to " + length});
  auto list = layers_at(design, e);
  if (from_top) std::reverse(list.begin(), list.end());
  std::vector<double> thicknesses, heights;
  for (const LayerText& layer : list) {
    thicknesses.push_back(layer.thickness);
    heights.push_back(from_top ? layer.high : layer.low);
    heights.push_back(from_top ? layer.low : layer.high);
  }
  const auto t = column(thicknesses), z = column(heights);
  for (std::size_t i = 0; i < list.size(); ++i)
    table.add(
        {list[i].ply->id, list[i].ply->material.value, t[i], angle_text(design, list[i]), list[i].ply->frame.value,
         fmt::format("{:7.4f} {:7.4f} {:7.4f}", list[i].direction.x(), list[i].direction.y(), list[i].direction.z()),
         z[2 * i], z[2 * i + 1]});
  table.print(stdout);
  for (const LayerText& layer : list)
    if (layer.ply->drape)
      fmt::print(
          "ply {} is draped ('{}', {:g}° by design): {} here, warp at {:.1f}° and weft at {:.1f}° from the 0° below\n",
          layer.ply->id, layer.ply->drape->value, layer.laid->angle.degrees(),
          layer.shear.degrees() == 0.0 ? "unsheared" : fmt::format("sheared by {:.1f}°", layer.shear.degrees()),
          same_fibre(layer.angle).degrees(), same_fibre(*layer.weft(design)).degrees());
  for (const LayerText& layer : list)
    if (layer.covered < 1.0)
      fmt::print("ply {} ({}) covers {:.3g} % of the element: its thickness is spread over all of it\n", layer.ply->id,
                 ends_text(design, layer.id, Ramps::named), 100.0 * layer.covered);
  fmt::print("\n");
  for (const part::FrameId f : frames_at(design, e))
    fmt::print("0° of frame '{}': {}\n", design.part.frames[f].name, how(design, f, e));
  print_laminate(units, stack, z0,
                 fmt::format("0° = frame '{}' = {}", list.empty() ? "" : layers_at(design, e).front().ply->frame.value,
                             point_text(design.sections.references[e])));
  if (choices.load.any()) print_states(units, stack, z0, choices.load, ply_names(design, e), from_top);
  print_strength(named_at(design, e, there), choices.load, choices.strength);
}

int run(const Choices& choices) {
  return guarded({"at", choices.json}, [&](Findings& findings) {
    const Design design = open_part(choices.part, findings, {}, progress_line());
    const std::size_t opened = findings.all().size();
    const mesh::ElementIndex e = element_at(design, choices.place, findings);
    const drawing::StackDrawing there = drawing::stack_at(design, e);
    check_warmed(named_at(design, e, there), choices.load);
    if (choices.load.any() || choices.strength.any())
      find_missing(named_at(design, e, there), choices.strength, findings);
    const auto laid = layers_at(design, e);
    if ((choices.load.any() || choices.strength.any()) &&
        std::any_of(laid.begin(), laid.end(), [](const LayerText& layer) { return layer.covered < 1.0; }))
      findings.warning("strength.smeared",
                       fmt::format("edges of plies cross element {}: the stack with their thickness spread over it is "
                                   "judged, and no such stack lies anywhere",
                                   design.surface.element_ids[e]),
                       design.surface.place_of(e),
                       "take an element beside it; bordado stress judges the true pieces of a solved part");
    write_envelope(named_at(design, e, there), design.part.units, choices.load, choices.strength, findings);
    if (!choices.json) print_findings(worth_saying(findings, opened), stderr);
    if (choices.json)
      print_document("at", design.part.units, as_json(design, e, choices), findings);
    else
      print(design, e, choices);
    write_equivalent(design.part.units, there.layers, choices.write,
                     fmt::format("{} at element {} of part {}", code_at(design, e), design.surface.element_ids[e],
                                 design.part.name));
    return 0;
  });
}

}  // namespace at_command

void add_at(CLI::App& program, int& exit_code) {
  using namespace at_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command =
      program.add_subcommand("at", "Show the laminate at one place, layer by layer, with its stiffness");
  add_part_option(*command, choices->part);
  add_place_options(*command, choices->place);
  command->add_flag("--from-top", choices->from_top,
                    "List the last laid ply first, as drawings that read from the top");
  add_load_options(*command, choices->load);
  add_strength_options(*command, choices->strength);
  add_write_options(*command, choices->write);
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Examples:\n  bordado at skiff.toml --element 1200\n  bordado at skiff.toml --point 2600,0,40 --from-top\n  "
      "bordado at skiff.toml --element 1200 --force 50,0,0 --warmed -60");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
