// ./run bench: how far each step is from its measured floor, in one run on one machine. Ratios, not seconds, are what
// counts.
//
// The part: 1000 x 1000 quadrilaterals on a gently curved shell, 12 overlapping zones, 60 plies in 2 frames.
//   reading    mesh::read()                     floor: parsing every number of the same bytes, one thread, nothing
//   stored laying     layup::lay() + condense()        floor: copying the per-element ply table (element x plies, 4
//   bytes each) once writing    deck writers                     floor: writing the same finished bytes to the same
//   disk, flushed the same way
// Memory is the peak resident size of each step above what was resident before it.
#include "measure.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>

namespace {

using namespace bordado;
using namespace measure;

void write_mesh(const std::string& path, int n) {
  OutputFile file(path);
  const std::size_t side = static_cast<std::size_t>(n) + 1, nodes = side * side,
                    elements = static_cast<std::size_t>(n) * static_cast<std::size_t>(n);
  file.write(
      fmt::format("$MeshFormat\n4.1 0 8\n$EndMeshFormat\n$PhysicalNames\n1\n2 1 "
                  "\"shell\"\n$EndPhysicalNames\n$Entities\n0 0 1 0\n1 0 0 0 1 1 1 1 1 0\n$EndEntities\n"
                  "$Nodes\n1 {} 1 {}\n2 1 0 {}\n",
                  nodes, nodes, nodes));
  file.write_lines(nodes,
                   [](std::size_t i, std::string& text) { fmt::format_to(std::back_inserter(text), "{}\n", i + 1); });
  file.write_lines(nodes, [&](std::size_t i, std::string& text) {
    const double u = static_cast<double>(i % side) / n, v = static_cast<double>(i / side) / n;
    fmt::format_to(std::back_inserter(text), "{:.16g} {:.16g} {:.16g}\n", 4000 * u, 2000 * v,
                   300 * std::sin(3 * u) * std::cos(v));
  });
  file.write(fmt::format("$EndNodes\n$Elements\n1 {} 1 {}\n2 1 3 {}\n", elements, elements, elements));
  file.write_lines(elements, [&](std::size_t i, std::string& text) {
    const std::size_t a = i / static_cast<std::size_t>(n) * side + i % static_cast<std::size_t>(n) + 1;
    fmt::format_to(std::back_inserter(text), "{} {} {} {} {}\n", i + 1, a, a + 1, a + 1 + side, a + side);
  });
  file.write("$EndElements\n");
  file.commit();
}

std::string part_text() {
  std::string text = R"([part]
name = "Bench"
units = "mm, t, s"
mesh = { file = "bench.msh", length = "mm" }
side = { along = [0, 0, 1] }
surface = "bottom"
[material.ud]
kind = "unidirectional"
E1 = 135000
E2 = 9000
nu12 = 0.3
G12 = 5000
G13 = 5000
G23 = 3200
density = 1.55e-9
thickness = 0.2
[frame.x]
vector = [1, 0, 0]
[frame.y]
vector = [0, 1, 0]
)";
  for (int z = 0; z < 12; ++z)
    text += fmt::format("[zone.z{}]\nbox = {{ from = [{}, {}, -1000], to = [{}, {}, 1000] }}\n", z, (z % 4) * 600,
                        (z / 4) * 300, (z % 4) * 600 + 2000, (z / 4) * 300 + 1300);
  text += "[layup]\nmaterial = \"ud\"\nplies = [\n";
  const int angles[] = {0, 45, -45, 90};
  for (int p = 0; p < 60; ++p)
    text += fmt::format("{{ id = \"P{}\", angle = {}, frame = \"{}\", zone = \"{}\" }},\n", p, angles[p % 4],
                        p % 10 == 9 ? "y" : "x", p % 3 == 0 ? "everything" : fmt::format("z{}", p % 12));
  return text +
         "]\n[support.s]\npoint = [0, 0, 0]\nhold = \"clamped\"\n[load.l]\non = \"z0\"\npressure = \"1 kPa\"\nface = "
         "\"tool\"\n";
}

void row(std::string_view step, double time, double floor, double aim, double bytes, double elements) {
  fmt::print("  {:<34}{:>8.2f} s  floor {:>7.3f} s  ratio {:>6.2f}  (aim {:g}: {})   peak {:>5.0f} bytes an element\n",
             step, time, floor, time / floor, aim, time / floor <= aim ? "met" : "missed", bytes / elements);
  std::fflush(stdout);
}

}  // namespace

/// \param arguments how many elements along each side; 1000.
int main(int count, char** arguments) {
  const int n = count > 1 ? std::max(2, std::atoi(arguments[1])) : 1000;
  const double elements = static_cast<double>(n) * n;
  const std::filesystem::path folder = std::filesystem::temp_directory_path() / "bordado-bench";
  std::filesystem::create_directories(folder);
  const std::string mesh_path = (folder / "bench.msh").string();
  write_mesh(mesh_path, n);
  std::ofstream(folder / "bench.toml") << part_text();
  fmt::print("{:.0f} quadrilaterals, 60 plies over 12 zones and everywhere, 2 frames; mesh file {:.0f} MB\n", elements,
             static_cast<double>(std::filesystem::file_size(mesh_path)) / 1e6);

  Findings findings;
  const part::Part part = part::read((folder / "bench.toml").string(), findings);
  mesh::Surface surface;
  {
    const std::string bytes = read_file(mesh_path);
    volatile double keep = 0.0;
    const double floor = best(5, [&] { keep = parse_numbers(bytes); });
    const double time = best(5, [&] { surface = mesh::read(mesh_path, {}, findings); });
    surface = {};
    const double used = peak([&] { surface = mesh::read(mesh_path, {}, findings); });
    row("reading the mesh", time, floor, 2.0, used, elements);
  }
  {
    const double time = seconds([&] { mesh::orient(surface, part.side, findings); });
    fmt::print("  {:<34}{:>8.2f} s\n", "making the sides agree", time);
  }
  mesh::Geometry geometry;
  fmt::print("  {:<34}{:>8.2f} s\n", "centres, normals, areas", seconds([&] { geometry = mesh::geometry(surface); }));

  Design design;
  design.part = part;
  design.surface = std::move(surface);
  design.geometry = std::move(geometry);
  const layup::Layup& layup = design.layup;
  const section::Sections& sections = design.sections;
  const auto lay = [&] {
    design.layup = layup::lay(design.part, design.surface, design.geometry, findings);
    design.sections = section::condense(design);
  };
  const double used = peak(lay);
  const double laid = best(3, lay);
  {
    std::vector<part::PlyId> table;
    for (const layup::StackId stack : layup.stack_of) {
      const auto plies = layup.plies_of(stack);
      table.insert(table.end(), plies.begin(), plies.end());
    }
    std::vector<part::PlyId> copy(table.size());
    const double floor = best(5, [&] { std::memcpy(copy.data(), table.data(), table.size() * sizeof table[0]); });
    row(fmt::format("laying and condensing ({:.1f} plies)", static_cast<double>(table.size()) / elements), laid, floor,
        10.0, used, elements);
    fmt::print("  {:<34}{} stacks, {} sections, largest angle off {:.2f} deg\n", "", layup.stack_count(),
               sections.count(), sections.deviation.largest_angle.degrees());
  }

  for (const deck::Format& format : deck::formats()) {
    const std::string path = (folder / "bench").string() + std::string(format.extension);
    model::Model model;
    const double assembling =
        seconds([&] { model = assemble(design, {.quadratic = format.quadratic, .laminate_only = false}, findings); });
    deck::Written written;
    double time = 1e300;
    const double used_writing =
        peak([&] { time = best(2, [&] { written = format.write(model, path, {}, findings); }); });
    const std::string bytes = read_file(path);
    const double floor = best(2, [&] {
      OutputFile file((folder / "floor").string());
      for (std::size_t at = 0; at < bytes.size(); at += 1 << 20)
        file.write(std::string_view(bytes).substr(at, 1 << 20));
      file.commit();
    });
    row(fmt::format("writing {} ({:.0f} MB)", format.title, static_cast<double>(bytes.size()) / 1e6), time, floor, 4.0,
        used_writing, elements);
    fmt::print("  {:<34}{:>8.2f} s\n", "  assembling it before", assembling);
  }
  {
    // All of it, beside reading the mesh's bytes and writing the deck's.
    const std::string deck = (folder / "bench.inp").string();
    const double time = best(2, [&] {
      Findings said;
      const Design whole = open((folder / "bench.toml").string(), said);
      write_deck(whole, "calculix", deck, {}, said);
    });
    const std::string bytes = read_file(deck);
    const double floor = best(2, [&] {
      const std::string mesh = read_file(mesh_path);
      OutputFile file((folder / "floor").string());
      for (std::size_t at = 0; at < bytes.size(); at += 1 << 20)
        file.write(std::string_view(bytes).substr(at, 1 << 20));
      file.commit();
    });
    fmt::print("  {:<34}{:>8.2f} s  floor {:>7.3f} s  ratio {:>6.2f}  (aim 6: {})\n", "from part file to CalculiX deck",
               time, floor, time / floor, time <= 6.0 * floor ? "met" : "missed");
  }
  std::filesystem::remove_all(folder);
  return 0;
}
