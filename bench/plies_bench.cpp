// ./run bench, second part: 200 plies over 1,000,000 quadrilaterals, laid and looked at.
//   laying + condensing   floor: copying the table of plies of every element once, 4 bytes each
//   ply book              floor: summing the area of every ply over its elements, one after another
//   checks                floor: finding the edges of the mesh once
//   comparing             floor: the same as laying: two designs, one pass over zones each
//   ramps                 floor: the distances from the borders of their zones, as far as they are asked for
//   review page           floor: packing points and corners with zlib, as they lie; all elements drawn, then 200,000
// Memory is the peak resident size of each step above what was resident before it.
#include "measure.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/page.hpp>
#include <bordado/picture.hpp>
#include <bordado/review/book.hpp>
#include <bordado/review/check.hpp>
#include <bordado/review/compare.hpp>
#include <bordado/review/fields.hpp>

#include <zlib.h>

#include <fmt/format.h>

#include <cmath>
#include <cstring>
#include <filesystem>

namespace {

using namespace bordado;
using namespace measure;

constexpr int side = 1000;

/// A gently curved shell, made in memory.
mesh::Surface shell() {
  mesh::Surface out;
  const auto nodes = static_cast<std::size_t>(side) + 1;
  out.file = "shell";
  for (std::size_t j = 0; j < nodes; ++j)
    for (std::size_t i = 0; i < nodes; ++i) {
      const double u = static_cast<double>(i) / side, v = static_cast<double>(j) / side;
      out.points.emplace_back(4000 * u, 2000 * v, 300 * std::sin(3 * u) * std::cos(v));
      out.node_ids.push_back(static_cast<std::int64_t>(out.points.size()));
    }
  out.first.assign(1, 0);
  for (std::size_t j = 0; j + 1 < nodes; ++j)
    for (std::size_t i = 0; i + 1 < nodes; ++i) {
      const std::size_t a = j * nodes + i;
      for (const std::size_t n : {a, a + 1, a + 1 + nodes, a + nodes})
        out.nodes.push_back(static_cast<mesh::NodeIndex>(n));
      out.first.push_back(static_cast<std::uint32_t>(out.nodes.size()));
      out.shapes.push_back(mesh::Shape::quadrilateral4);
      out.element_ids.push_back(static_cast<std::int64_t>(out.shapes.size()));
    }
  return out;
}

const std::string head = R"([part]
name = "bench"
units = "mm, t, s"
mesh = { file = "none.msh", length = "mm" }
side = { along = [0, 0, 1] }
surface = "bottom"
[frame.x]
vector = [1, 0, 0]
)";

std::string part_text() {
  std::string text = head + R"([frame.y]
vector = [0, 1, 0]
[laminate.four]
code = "[0/45/-45/90]"
)";
  for (int z = 0; z < 40; ++z)
    text += fmt::format("[zone.z{}]\nbox = {{ from = [{}, {}, -1000], to = [{}, {}, 1000] }}\n", z, (z % 8) * 300,
                        (z / 8) * 200, (z % 8) * 300 + 1500, (z / 8) * 200 + 900);
  text += "[layup]\nmaterial = \"carbon-ud\"\nframe = \"x\"\nplies = [\n";
  for (int p = 0; p < 50; ++p)  // four plies each
    text += fmt::format("{{ id = \"P{}\", laminate = \"four\", frame = \"{}\", zone = \"{}\" }},\n", p,
                        p % 10 == 9 ? "y" : "x", p % 5 == 0 ? "everything" : fmt::format("z{}", p % 40));
  return text + "]\n";
}

/// 12 patches of 40 plies, each ending in pairs round its patch.
std::string ramps_text() {
  std::string text = head + R"([laminate.ten]
code = "[0/45/-45/90/0/0/45/-45/90/0]"
symmetric = "even"
repeat = 2
)";
  std::string plies;
  for (int z = 0; z < 12; ++z) {
    text += fmt::format(
        "[zone.z{0}]\nbox = {{ from = [{1}, {2}, -1000], to = [{3}, {4}, 1000] }}\n[ramp.z{0}]\nfrom = "
        "\"z{0}\"\nslope = \"1:10\"\ntogether = 4\n",
        z, (z % 4) * 1000 + 111, (z / 4) * 660 + 77, (z % 4) * 1000 + 889, (z / 4) * 660 + 603);
    plies += fmt::format("{{ id = \"P{0}\", laminate = \"ten\", zone = \"z{0}\" }},\n", z);
  }
  return text + "[layup]\nmaterial = \"carbon-ud\"\nframe = \"x\"\nplies = [\n{ id = \"L\", code = \"[0/90]\" },\n" +
         plies + "{ id = \"U\", code = \"[90/0]\" },\n]\n";
}

void row(std::string_view step, double time, double floor, double aim, double bytes) {
  fmt::print("  {:<34}{:>8.2f} s  floor {:>7.3f} s  ratio {:>6.2f}  (aim {:g}: {})   peak {:>5.0f} bytes an element\n",
             step, time, floor, time / floor, aim, time / floor <= aim ? "met" : "missed", bytes / (1.0 * side * side));
  std::fflush(stdout);
}

}  // namespace

int main() {
  Findings findings;
  Design design;
  const double reading = seconds([&] { design.part = part::read_text(part_text(), "bench.toml", findings); });
  design.surface = shell();
  design.orientation = mesh::orient(design.surface, design.part.side, findings);
  design.geometry = mesh::geometry(design.surface);
  fmt::print("{} quadrilaterals, {} plies over 40 zones and everywhere, 2 frames; the list is read in {:.3f} s\n",
             side * side, design.part.plies.size(), reading);
  const auto lay = [&] {
    design.layup = layup::lay(design.part, design.surface, design.geometry, findings);
    design.sections = section::condense(design);
  };
  const double used = peak(lay), laid = best(2, lay);
  std::size_t count = 0;
  for (const layup::StackId stack : design.layup.stack_of) count += design.layup.plies_of(stack).size();
  {
    std::vector<std::uint32_t> table(count / 16, 1), copy(count / 16, 2);  // a sixteenth of it, sixteen times
    const double floor = best(5, [&] {
      for (int i = 0; i < 16; ++i) std::memcpy(copy.data(), table.data(), table.size() * sizeof table[0]);
    });
    row(fmt::format("laying and condensing ({:.0f} plies)", static_cast<double>(count) / (1.0 * side * side)), laid,
        floor, 10.0, used);
    fmt::print("  {:<34}{} stacks, {} sections; the table of plies alone would take {:.0f} bytes an element\n", "",
               design.layup.stack_count(), design.sections.count(),
               4.0 * static_cast<double>(count) / (1.0 * side * side));
  }
  {
    volatile double keep = 0.0;
    const double floor = best(3, [&] {
      for (const part::PlyId p : design.layup.plies.ids()) {
        double sum = 0.0;
        for (const mesh::ElementIndex e : design.layup.elements_of(p)) sum += design.geometry.areas[e];
        keep = keep + sum;
      }
    });
    review::PlyBook book;
    const double used_by_book = peak([&] { book = review::ply_book(design); });
    row("ply book", best(2, [&] { book = review::ply_book(design); }), floor, 10.0, used_by_book);
  }
  {
    mesh::EdgeTable edges;
    const double floor = best(3, [&] { edges = mesh::edges(design.surface); });
    Findings told;
    const double used_by_checks = peak([&] { review::check(design, told); });
    row("checks", best(2, [&] { review::check(design, told); }), floor, 10.0, used_by_checks);
  }
  {
    review::Comparison comparison;
    const double used_by_comparing = peak([&] { comparison = review::compare(design, design); });
    row("comparing with itself", best(2, [&] { comparison = review::compare(design, design); }), laid, 5.0,
        used_by_comparing);
  }
  {
    Design ramped;
    ramped.part = part::read_text(ramps_text(), "ramps.toml", findings);
    const auto lay_ramps = [&] { ramped.layup = layup::lay(ramped.part, design.surface, design.geometry, findings); };
    const double used_by_ramps = peak(lay_ramps), time = best(2, lay_ramps);
    double run = 0.0;
    for (const layup::Ramp& ramp : ramped.layup.ramps) run = std::max(run, ramp.run);
    volatile double keep = 0.0;
    const double floor = best(2, [&] {
      for (const auto& [zone, border] : ramped.layup.zones.borders)
        keep =
            keep + mesh::distances(design.surface, {.curves = zone::lines(design.surface, border)}, run + 15.0).back();
    });
    row(fmt::format("{} plies ramped round {} zones", ramped.part.plies.size() - 4, ramped.layup.ramps.size()), time,
        floor, 3.0, used_by_ramps);
    fmt::print("  {:<34}{} stacks, {:.1f} parts of plies an element\n", "", ramped.layup.stack_count(),
               static_cast<double>(ramped.layup.parts.region.size()) / (1.0 * side * side));
  }
  {
    // What `bordado fields --plies` writes: three numbers for each ply and element.
    const std::string path = (std::filesystem::temp_directory_path() / "bordado-fields-bench.vtu").string();
    const double used_by_fields =
        peak([&] { mesh::write(design.surface, path, review::fields(design, review::Plies::included)); });
    fmt::print("  {:<34}{:.0f} MB   peak {:.0f} bytes an element (aim 400: {})\n", "fields of every ply",
               static_cast<double>(std::filesystem::file_size(path)) / 1e6, used_by_fields / (1.0 * side * side),
               used_by_fields / (1.0 * side * side) <= 400.0 ? "met" : "missed");
    std::filesystem::remove(path);
  }
  {
    // A still picture, with borders and folds, beside writing what it shows for a viewer.
    const std::string path = (std::filesystem::temp_directory_path() / "bordado-picture-bench").string();
    const auto arrays = review::fields(design, review::Plies::left_out);
    const auto thickness = review::arrays_named(arrays, "thickness");
    drawing::PictureSheet sheet;
    sheet.length_unit = "mm";
    sheet.frames.push_back(drawing::frame_of(design.surface, review::shown(design, *thickness.front())));
    const double used_by_picture = peak([&] { drawing::draw(sheet, path + ".png"); });
    const double time = best(2, [&] { drawing::draw(sheet, path + ".png"); }),
                 floor = best(2, [&] {
                   mesh::write(design.surface, path + ".vtu", {thickness.front(), 1});
                 });
    row("a picture, beside its field as .vtu", time, floor, 3.0, used_by_picture);
    for (const char* const ending : {".png", ".vtu"}) std::filesystem::remove(path + ending);
  }
  {
    std::vector<float> points;
    for (const Vec3& p : design.surface.points)
      for (int i = 0; i < 3; ++i) points.push_back(static_cast<float>(p[i]));
    const auto pack = [](const auto& values) {
      uLongf size = ::compressBound(values.size() * sizeof values[0]);
      std::vector<Bytef> out(size);
      ::compress2(out.data(), &size, reinterpret_cast<const Bytef*>(values.data()), values.size() * sizeof values[0],
                  6);
    };
    const double floor = best(1, [&] {
      pack(points);
      pack(design.surface.nodes);
    });
    const page::PagePart part{&design, {}, {}};
    page::Page page;
    for (const std::size_t most : {std::size_t{2'000'000}, page::PageOptions{}.most_elements}) {
      const double used_by_page = peak([&] { page = page::page({&part, 1}, {.most_elements = most}); });
      row(fmt::format("review page, {} drawn", page.drawn[0]),
          best(1,
               [&] {
                 page = page::page({&part, 1}, {.most_elements = most});
               }),
          floor, 4.0, used_by_page);
      fmt::print("  {:<34}{:.1f} bytes an element\n", "",
                 static_cast<double>(page.data_bytes) / static_cast<double>(page.drawn[0]));
    }
  }
  return 0;
}
