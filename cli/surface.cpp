// bordado surface: what a mesh is, before any ply.
#include "print.hpp"

#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <memory>

namespace bordado::cli {

namespace surface_command {

struct Choices {
  std::string mesh, length = "mm", write;
  std::vector<double> from, to;
  double crease = 30.0, scale = 1.0, merge = 0.0;
  bool repair = false, includes_anywhere = false, json = false;
};

/// A length in metres as a person would say it.
std::string said(double metres) {
  if (metres < 1e-3) return number(metres * 1e6, 3) + " um";
  if (metres < 1.0) return number(metres * 1e3, 3) + " mm";
  if (metres < 1e3) return number(metres, 3) + " m";
  return number(metres / 1e3, 3) + " km";
}

mesh::Surface repaired(mesh::Surface surface, const Choices& choices, Findings& findings) {
  mesh::RepairOptions options{.scale = choices.scale};
  if (choices.merge > 0.0) options.merge = choices.merge;
  if (choices.repair) return mesh::repaired(std::move(surface), options, findings);
  for (Vec3& p : surface.points) p *= choices.scale;
  findings.note("repair.scaled", fmt::format("all coordinates were multiplied by {:g}", choices.scale),
                Place::in(surface.file));
  return surface;
}

/// Connected across edges that two elements share.
std::size_t pieces_of(mesh::Surface surface) {
  Findings ignored;
  return mesh::orient(surface, mesh::AsMeshed{}, ignored).pieces;
}

struct Measured {
  mesh::Nearest from, to;
  double distance;
};

std::optional<Measured> measure(const mesh::Surface& surface, const Choices& choices) {
  if (choices.from.empty()) return std::nullopt;
  const auto nearest = [&](const std::vector<double>& p) { return mesh::nearest_node(surface, {p[0], p[1], p[2]}); };
  const mesh::Nearest from = nearest(choices.from), to = nearest(choices.to);
  return Measured{from, to, (surface.points[from.index] - surface.points[to.index]).norm()};
}

int run(const Choices& choices) {
  return guarded({"surface", choices.json}, [&](Findings& findings) {
    double metre = 0.0;
    try {
      metre = metres_in(choices.length);
    } catch (const std::invalid_argument& trouble) {
      throw Failure(
          {Severity::error, "part.units", trouble.what(), {}, "name the length unit of the mesh, as --length mm"});
    }
    mesh::Surface surface = mesh::read(choices.mesh, {.includes_anywhere = choices.includes_anywhere}, findings);
    if (choices.repair || choices.scale != 1.0) surface = repaired(std::move(surface), choices, findings);
    if (!choices.write.empty()) mesh::write(surface, choices.write);
    const mesh::Geometry geometry = mesh::geometry(surface);
    const mesh::Size size = mesh::size(surface, geometry);
    const mesh::Inspection found = mesh::inspect(surface, geometry);
    const std::vector<Finding> doubted = mesh::doubts(surface, found);
    const std::vector<mesh::Curve> creases =
        mesh::curves_of(surface, mesh::creases(surface, geometry, Angle::degrees(choices.crease)));
    const std::size_t pieces = pieces_of(surface);
    const auto measured = measure(surface, choices);
    const Vec3 extent = size.high - size.low;
    const double longest = extent.maxCoeff();
    if (choices.json) {
      Json rims = Json::array(), groups = Json::array();
      for (const mesh::Rim& rim : found.rims)
        rims.push_back({{"length", rim.length}, {"nodes", rim.nodes.size()}, {"closed", rim.closed}});
      for (const mesh::Group& group : surface.groups)
        groups.push_back({{"name", group.name},
                          {"dimension", group.dimension},
                          {"members", group.dimension == 2   ? group.elements.size()
                                      : group.dimension == 1 ? group.edges.size()
                                                             : group.points.size()}});
      Json out = to_json(size);
      out["file"] = surface.file;
      out["length_unit"] = "that of the mesh file";
      out["largest_warp_deg"] = found.largest_warp.degrees();
      out["pieces"] = pieces;
      out["rims"] = rims;
      out["creases"] = Json::array();
      for (const mesh::Curve& crease : creases)
        out["creases"].push_back({{"length", mesh::length(crease)},
                                  {"closed", crease.closed},
                                  {"from", to_json(crease.points.front())},
                                  {"to", to_json(crease.points.back())}});
      out["groups"] = groups;
      out["doubts"] = to_json(doubted);
      if (measured) out["distance"] = measured->distance;
      print_document("surface", std::nullopt, out, findings);
      return 0;
    }
    const auto row = [](std::string_view name, const std::string& text) { fmt::print("  {:<10}{}\n", name, text); };
    fmt::print("{}\n", styled(surface.file, Style::bold, fileno(stdout)));
    row("size", fmt::format("{} x {} x {} from {} to {}", number(extent.x()), number(extent.y()), number(extent.z()),
                            point_text(size.low), point_text(size.high)));
    std::vector<std::string> otherwise;
    for (const std::string unit : {"mm", "inch", "m"})
      if (unit != choices.length) otherwise.push_back(fmt::format("{} if {}", said(longest * metres_in(unit)), unit));
    row("unit", fmt::format("{} long if {}; {}", said(longest * metre), choices.length, listed(otherwise)));
    row("mesh",
        fmt::format("{}, {}{}, {}", counted(size.quadrilaterals, "quadrilateral"), counted(size.triangles, "triangle"),
                    size.quadratic > 0 ? fmt::format(" ({} of them quadratic)", size.quadratic) : "",
                    counted(size.nodes, "node")));
    row("edges",
        fmt::format("{} to {}, mean {}; largest warp of a quadrilateral {:.1f}°", number(size.shortest_edge, 3),
                    number(size.longest_edge, 3), number(size.mean_edge, 3), found.largest_warp.degrees()));
    row("area", number(size.area));
    std::vector<std::string> lengths;
    for (const mesh::Rim& rim : found.rims) lengths.push_back(number(rim.length));
    row("borders", found.rims.empty() ? std::string("none: the surface is closed")
                                      : fmt::format("{} of length {}", found.rims.size(), listed(lengths, 8)));
    std::vector<std::string> sharp;
    for (const mesh::Curve& crease : creases) sharp.push_back(number(mesh::length(crease)));
    row("creases", creases.empty() ? fmt::format("none: no edge turns by {:g}° or more", choices.crease)
                                   : fmt::format("{} of length {} (edges that turn by {:g}° or more)", creases.size(),
                                                 listed(sharp, 8), choices.crease));
    row("pieces", fmt::format("{}", pieces));
    if (measured)
      row("distance",
          fmt::format("{} between node {} at {} and node {} at {}", number(measured->distance),
                      surface.node_ids[measured->from.index], point_text(surface.points[measured->from.index]),
                      surface.node_ids[measured->to.index], point_text(surface.points[measured->to.index])));
    TableText groups({"group", "of", "members"});
    constexpr std::string_view kinds[] = {"points", "edges", "elements"};
    for (const mesh::Group& group : surface.groups)
      groups.add({group.name, std::string(kinds[group.dimension]),
                  fmt::format("{}", group.dimension == 2   ? group.elements.size()
                                    : group.dimension == 1 ? group.edges.size()
                                                           : group.points.size())});
    if (!surface.groups.empty()) {
      fmt::print("\n");
      groups.print(stdout);
    }
    fmt::print("\n");
    for (const Finding& doubt : doubted)
      fmt::print("{} {}\n", styled("look at", Style::warning, fileno(stdout)), doubt.what);
    if (doubted.empty()) fmt::print("nothing to doubt\n");
    print_findings(findings.all(), stdout);
    if (!choices.write.empty()) fmt::print("\n{}: the surface{}\n", choices.write, choices.repair ? ", repaired" : "");
    return 0;
  });
}

}  // namespace surface_command

void add_surface(CLI::App& program, int& exit_code) {
  using namespace surface_command;
  auto choices = std::make_shared<Choices>();
  CLI::App* const command = program.add_subcommand("surface", "Measure and inspect a mesh before any ply is declared");
  command->add_option("mesh", choices->mesh, "The mesh file")->required();
  command->add_option("--length", choices->length, "The length unit it is thought to be in")->capture_default_str();
  auto* const from =
      command->add_option("--from", choices->from, "x,y,z in mesh units: measure from the node nearest to it")
          ->delimiter(',')
          ->expected(3);
  auto* const to =
      command->add_option("--to", choices->to, "x,y,z: to the node nearest to it")->delimiter(',')->expected(3);
  from->needs(to);
  to->needs(from);
  command->add_option("--crease", choices->crease, "Edges that turn by so many degrees are creases")
      ->check(CLI::Range(1.0, 180.0))
      ->capture_default_str();
  command->add_option("--scale", choices->scale, "Multiply all coordinates")->check(CLI::PositiveNumber);
  command->add_flag("--repair", choices->repair,
                    "Merge coincident nodes, take out elements without area and twins, unfold, make sides agree; each "
                    "repair is listed");
  command->add_option("--merge", choices->merge, "With --repair: nodes no further apart are one (mesh units)")
      ->check(CLI::PositiveNumber);
  command->add_flag("--includes-anywhere", choices->includes_anywhere,
                    "Open files that the mesh file includes from other folders than its own, too");
  add_output_option(*command, "--write", choices->write, "A .msh or .vtu file for the surface as it is then");
  command->add_flag("--json", choices->json, "Print JSON; lengths in the mesh file's unit");
  command->footer(
      "Examples:\n  bordado surface skiff.msh --from 0,0,85 --to 4200,0,625\n  bordado surface scan.stl --scale 25.4 "
      "--repair --write part.msh");
  command->callback([choices, &exit_code] { exit_code = run(*choices); });
}

}  // namespace bordado::cli
