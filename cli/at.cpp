// bordado at: the laminate at one place, layer by layer.
#include "print.hpp"

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace {

struct Choices {
  std::string part;
  std::optional<std::int64_t> element;
  std::vector<double> point;
  bool from_top = false;
  bool json = false;
};

mesh::ElementIndex find(const Design& design, const Choices& choices, Findings& findings) {
  if (choices.element) {
    if (const auto found = mesh::element_with_id(design.surface, *choices.element)) return *found;
    const auto [low, high] = std::minmax_element(design.surface.element_ids.begin(), design.surface.element_ids.end());
    throw Failure({Severity::error, "at.element-unknown",
                   fmt::format("the mesh has no shell element {}", *choices.element), Place::in(design.surface.file),
                   fmt::format("shell element ids run from {} to {}", *low, *high)});
  }
  const mesh::Nearest nearest =
      mesh::nearest_element(design.geometry, {choices.point[0], choices.point[1], choices.point[2]});
  const double reach = std::sqrt(design.geometry.areas[nearest.index]);
  if (nearest.distance > 2.0 * reach)
    findings.warning(
        "at.point-far",
        fmt::format("the point lies {} from the centre of the nearest element, which is some {} wide",
                    length_text(design.part.units, nearest.distance), length_text(design.part.units, reach)),
        {}, "check the coordinates; they are in the part's length unit");
  return nearest.index;
}

struct LayerText {
  const part::Ply* ply;
  const layup::Ply* laid;
  double low, high;  ///< z
  Vec3 direction;    ///< of the fibre, global
};

std::vector<LayerText> layers_at(const Design& design, mesh::ElementIndex e) {
  std::vector<LayerText> out;
  const layup::StackIndex stack = design.layup.stack_of[e];
  double z = layup::bottom(design.part, layup::thickness(design.layup, stack));
  for (const layup::PlyIndex p : design.layup.plies_of(stack)) {
    const layup::Ply& laid = design.layup.plies[p];
    const Vec3& r = design.layup.frames[laid.frame].directions[e];
    out.push_back({&design.part.plies[p], &laid, z, z + laid.thickness,
                   frame::turned(r, design.geometry.normals[e], laid.angle)});
    z += laid.thickness;
  }
  return out;
}

/// Frames of the plies at an element, in the order they are met.
std::vector<std::uint32_t> frames_at(const Design& design, mesh::ElementIndex e) {
  std::vector<std::uint32_t> out;
  for (const layup::PlyIndex p : design.layup.plies_of(design.layup.stack_of[e]))
    if (const std::uint32_t f = design.layup.plies[p].frame; std::find(out.begin(), out.end(), f) == out.end())
      out.push_back(f);
  return out;
}

std::string how(const Design& design, std::uint32_t f, mesh::ElementIndex e) {
  return frame::explain(design.part.frames[f], design.part, design.geometry, design.layup.frames[f], e);
}

/// Exact at this element: angles of plies in other frames are not rounded as in the sections.
std::vector<laminate::Layer> stack_at(const Design& design, mesh::ElementIndex e) {
  std::vector<laminate::Layer> out;
  for (const LayerText& layer : layers_at(design, e)) {
    const Angle angle = frame::between(design.sections.references[e], layer.direction, design.geometry.normals[e]);
    const material::Material& material = design.part.materials[layer.laid->material];
    out.push_back({material.elastic, layer.laid->thickness,
                   same_fibre(Angle::degrees(std::round(angle.degrees() * 1e9) / 1e9)), material.density});
  }
  return out;
}

Json matrix_json(const Eigen::MatrixXd& matrix) {
  Json out = Json::array();
  for (Eigen::Index i = 0; i < matrix.rows(); ++i) {
    Json row = Json::array();
    for (Eigen::Index j = 0; j < matrix.cols(); ++j) row.push_back(matrix(i, j));
    out.push_back(row);
  }
  return out;
}

Json constants_json(const laminate::EngineeringConstants& c) {
  return {{"Ex", c.Ex}, {"Ey", c.Ey}, {"Gxy", c.Gxy}, {"nuxy", c.nuxy}};
}

Json as_json(const Design& design, mesh::ElementIndex e, bool from_top) {
  Json layers = Json::array();
  auto list = layers_at(design, e);
  if (from_top) std::reverse(list.begin(), list.end());
  for (const LayerText& layer : list)
    layers.push_back({{"ply", layer.ply->id},
                      {"material", layer.ply->material.value},
                      {"thickness", layer.laid->thickness},
                      {"angle_deg", layer.laid->angle.degrees()},
                      {"frame", layer.ply->frame.value},
                      {"direction", to_json(layer.direction)},
                      {"z_low", layer.low},
                      {"z_high", layer.high}});
  const auto stack = stack_at(design, e);
  const double h = laminate::thickness(stack), z0 = layup::bottom(design.part, h);
  const laminate::Stiffness k = laminate::stiffness(stack, z0);
  Json frames = Json::object();
  for (const std::uint32_t f : frames_at(design, e)) frames[design.part.frames[f].name] = how(design, f, e);
  return {{"element", design.surface.element_ids[e]},
          {"centre", to_json(design.geometry.centres[e])},
          {"normal", to_json(design.geometry.normals[e])},
          {"reference", to_json(design.sections.references[e])},
          {"order", from_top ? "last laid first" : "first laid first"},
          {"layers", layers},
          {"frames", frames},
          {"thickness", h},
          {"areal_mass", laminate::areal_mass(stack)},
          {"A", matrix_json(k.A)},
          {"B", matrix_json(k.B)},
          {"D", matrix_json(k.D)},
          {"H", matrix_json(k.H)},
          {"in_plane", constants_json(laminate::in_plane(k, h, z0 + 0.5 * h))},
          {"in_plane_constrained", constants_json(laminate::in_plane_constrained(k, h))},
          {"bending", constants_json(laminate::in_bending(k, h, z0 + 0.5 * h))}};
}

void print_matrix(std::string_view name, const Eigen::MatrixXd& matrix, const std::string& unit) {
  const double noise = 1e-12 * matrix.cwiseAbs().maxCoeff();
  std::vector<double> values;
  for (Eigen::Index i = 0; i < matrix.rows(); ++i)
    for (Eigen::Index j = 0; j < matrix.cols(); ++j)
      values.push_back(std::abs(matrix(i, j)) < noise ? 0.0 : matrix(i, j));
  const auto texts = column(values, 5);
  for (Eigen::Index i = 0; i < matrix.rows(); ++i) {
    std::string row;
    for (Eigen::Index j = 0; j < matrix.cols(); ++j)
      row += fmt::format("{:>13}", texts[static_cast<std::size_t>(i * matrix.cols() + j)]);
    fmt::print("  {:<3}{}   {}\n", i == 0 ? name : "", row, i == 0 ? unit : "");
  }
}

void print(const Design& design, mesh::ElementIndex e, bool from_top) {
  const UnitSystem& units = design.part.units;
  const std::string length = units.unit(Dimension::length), stress = units.unit(Dimension::stress),
                    force = units.unit(Dimension::force);
  const auto stack = stack_at(design, e);
  const double h = laminate::thickness(stack), z0 = layup::bottom(design.part, h);
  const std::vector<std::string> zones = [&] {
    std::vector<std::string> out;
    for (zone::ZoneId z = 1; z < design.layup.zones.names.size(); ++z)
      if (design.layup.zones.contains(z, e)) out.push_back(design.layup.zones.names[z]);
    return out;
  }();
  fmt::print("{}, element {} at {} {}, normal {}{}\n", styled(design.part.name, Style::bold, fileno(stdout)),
             design.surface.element_ids[e], point_text(design.geometry.centres[e]), length,
             point_text(design.geometry.normals[e]),
             zones.empty() ? "" : fmt::format(", in {}", fmt::join(zones, ", ")));
  fmt::print("{}, {} {}, {}\n\n", layup::code(design.part, design.layup, design.layup.stack_of[e]), number(h), length,
             areal_mass_text(units, laminate::areal_mass(stack)));
  fmt::print("layers, {}:\n", from_top ? "last laid first (from the top down)" : "first laid first (from the tool up)");
  TableText table(
      {"ply", "material", "t " + length, "angle", "frame", "fibre direction x y z", "z from", "z to " + length});
  auto list = layers_at(design, e);
  if (from_top) std::reverse(list.begin(), list.end());
  std::vector<double> thicknesses, heights;
  for (const LayerText& layer : list) {
    thicknesses.push_back(layer.laid->thickness);
    heights.push_back(from_top ? layer.high : layer.low);
    heights.push_back(from_top ? layer.low : layer.high);
  }
  const auto t = column(thicknesses), z = column(heights);
  for (std::size_t i = 0; i < list.size(); ++i)
    table.add(
        {list[i].ply->id, list[i].ply->material.value, t[i], fmt::format("{:g}°", list[i].laid->angle.degrees()),
         list[i].ply->frame.value,
         fmt::format("{:7.4f} {:7.4f} {:7.4f}", list[i].direction.x(), list[i].direction.y(), list[i].direction.z()),
         z[2 * i], z[2 * i + 1]});
  table.print(stdout);
  fmt::print("\n");
  for (const std::uint32_t f : frames_at(design, e))
    fmt::print("0° of frame '{}': {}\n", design.part.frames[f].name, how(design, f, e));
  const laminate::Stiffness k = laminate::stiffness(stack, z0);
  fmt::print("\nstiffness about the mesh surface, 0° = frame '{}' = {}:\n",
             list.empty() ? "" : layers_at(design, e).front().ply->frame.value,
             point_text(design.sections.references[e]));
  print_matrix("A", k.A, fmt::format("{}/{}", force, length));
  print_matrix("B", k.B, force);
  print_matrix("D", k.D, fmt::format("{} {}", force, length));
  print_matrix("H", k.H, fmt::format("{}/{}  (transverse shear xz, yz)", force, length));
  fmt::print("\n");
  TableText constants({"engineering constants", "Ex " + stress, "Ey " + stress, "Gxy " + stress, "nuxy"});
  const auto add = [&](std::string_view name, const laminate::EngineeringConstants& c) {
    constants.add({std::string(name), number(c.Ex), number(c.Ey), number(c.Gxy), number(c.nuxy, 3)});
  };
  add("in plane, free to bend", laminate::in_plane(k, h, z0 + 0.5 * h));
  add("in plane, bending held", laminate::in_plane_constrained(k, h));
  add("in bending", laminate::in_bending(k, h, z0 + 0.5 * h));
  constants.print(stdout);
}

int run(const Choices& choices) {
  return guarded(choices.json, [&](Findings& findings) {
    const Design design = open(choices.part, findings, {}, progress_line());
    const std::size_t opened = findings.all().size();
    const mesh::ElementIndex e = find(design, choices, findings);
    print_findings(worth_saying(findings, opened), stderr);
    if (choices.json)
      fmt::print("{}\n", as_json(design, e, choices.from_top).dump(2));
    else
      print(design, e, choices.from_top);
    return 0;
  });
}

}  // namespace

void add_at(CLI::App& program, int& exit_code) {
  auto choices = std::make_shared<Choices>();
  CLI::App* const command =
      program.add_subcommand("at", "Show the laminate at one place, layer by layer, with its stiffness");
  command->add_option("part", choices->part, "The part file")->required();
  auto* const place = command->add_option_group("place")->require_option(1);
  place->add_option("--element", choices->element, "Element id as in the mesh file");
  place->add_option("--point", choices->point, "x,y,z in the part's length unit: the element whose centre is nearest")
      ->delimiter(',')
      ->expected(3);
  command->add_flag("--from-top", choices->from_top,
                    "List the last laid ply first, as drawings that read from the top");
  command->add_flag("--json", choices->json, "Print JSON; values in the part's units");
  command->footer(
      "Examples:\n  bordado at skiff.toml --element 1200\n  bordado at skiff.toml --point 2600,0,40 --from-top");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
