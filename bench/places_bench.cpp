// ./run bench, second part: mesh formats, distances, frames and zones on 1000 x 1000 quadrilaterals, each beside its
// floor in the same run: formats beside parsing every number of the same mesh as text; distances beside one sweep over
// the edges; frames beside copying a field of directions; zones beside one sweep over the elements' centres.
// Cores: processor time divided by time.
#include "measure.hpp"

#include <bordado/base/files.hpp>
#include <bordado/frame.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

namespace {

using namespace bordado;
using namespace measure;

constexpr int n = 1000;
constexpr double elements = double{n} * n;

Vec3 shell(double u, double v) { return {4000 * u, 2000 * v, 300 * std::sin(3 * u) * std::cos(v)}; }

/// The same mesh in other text formats.
void write_text(const std::string& path, const mesh::Surface& surface, std::string_view head, std::string_view node,
                std::string_view between, std::string_view element, std::string_view tail) {
  OutputFile file(path);
  file.write(head);
  file.write_lines(surface.points.size(), [&](std::size_t i, std::string& text) {
    const Vec3& p = surface.points[i];
    fmt::format_to(std::back_inserter(text), fmt::runtime(node), i + 1, p.x(), p.y(), p.z());
  });
  file.write(between);
  file.write_lines(surface.element_count(), [&](std::size_t e, std::string& text) {
    const auto c = surface.corners_of(static_cast<mesh::ElementIndex>(e));
    fmt::format_to(std::back_inserter(text), fmt::runtime(element), e + 1, c[0] + 1, c[1] + 1, c[2] + 1, c[3] + 1);
  });
  file.write(tail);
  file.commit();
}

/// Triangles as binary STL: each corner with its own three numbers.
void write_stl(const std::string& path, const mesh::Surface& surface) {
  OutputFile file(path);
  std::string head(80, ' ');
  const auto count = static_cast<std::uint32_t>(2 * surface.element_count());
  head.append(reinterpret_cast<const char*>(&count), 4);
  file.write(head);
  file.write_lines(surface.element_count(), [&](std::size_t e, std::string& text) {
    const auto c = surface.corners_of(static_cast<mesh::ElementIndex>(e));
    for (const auto& [i, j, k] : {std::array{0, 1, 2}, {0, 2, 3}}) {
      text.append(12, '\0');
      for (const int corner : {i, j, k})
        for (const double x : surface.points[c[static_cast<std::size_t>(corner)]]) {
          const auto f = static_cast<float>(x);
          text.append(reinterpret_cast<const char*>(&f), 4);
        }
      text.append(2, '\0');
    }
  });
  file.commit();
}

struct Timed {
  double time, cores;
};
Timed timed(const std::function<void()>& body) {
  const std::clock_t before = std::clock();
  const double time = seconds(body);
  return {time, double(std::clock() - before) / CLOCKS_PER_SEC / time};
}

void row(std::string_view what, const Timed& t, double floor, double bytes) {
  fmt::print("  {:<34}{:>8.3f} s  floor {:>7.4f} s  ratio {:>7.1f}   cores {:.1f}   peak {:>5.0f} bytes an element\n",
             what, t.time, floor, t.time / floor, t.cores, std::max(0.0, bytes) / elements);
  std::fflush(stdout);
}

}  // namespace

int main() {
  const std::filesystem::path folder = std::filesystem::temp_directory_path() / "bordado-places";
  std::filesystem::create_directories(folder);
  const auto path = [&](const std::string& name) { return (folder / name).string(); };
  mesh::Surface surface;
  surface.file = "made";
  for (int j = 0; j <= n; ++j)
    for (int i = 0; i <= n; ++i) surface.points.push_back(shell(double(i) / n, double(j) / n));
  surface.first.push_back(0);
  mesh::Group left{"left", 1, {}, {}, {}}, all{"shell", 2, {}, {}, {}};
  for (std::uint32_t j = 0; j < n; ++j)
    for (std::uint32_t i = 0; i < n; ++i) {
      const std::uint32_t a = j * (n + 1) + i;
      if (i == 0) left.edges.push_back({a, a + n + 1});
      surface.nodes.insert(surface.nodes.end(), {a, a + 1, a + n + 2, a + n + 1});
      surface.shapes.push_back(mesh::Shape::quadrilateral4);
      surface.first.push_back(static_cast<std::uint32_t>(surface.nodes.size()));
      all.elements.push_back(j * n + i);
      surface.element_ids.push_back(std::int64_t{j} * n + i + 1);
    }
  for (std::size_t k = 0; k < surface.points.size(); ++k) surface.node_ids.push_back(static_cast<std::int64_t>(k) + 1);
  surface.groups = {left, all};
  const mesh::Geometry geometry = mesh::geometry(surface);

  fmt::print("mesh formats, beside parsing the numbers of the same mesh as text\n");
  mesh::write(surface, path("a.msh"));
  mesh::write(surface, path("a.vtu"));
  write_stl(path("a.stl"), surface);
  write_text(path("a.inp"), surface, "*NODE\n", "{},{:.12g},{:.12g},{:.12g}\n", "*ELEMENT,TYPE=S4,ELSET=shell\n",
             "{},{},{},{},{}\n", "");
  write_text(path("a.bdf"), surface, "BEGIN BULK\n", "GRID,{},,{:.12g},{:.12g},{:.12g}\n", "",
             "CQUAD4,{},1,{},{},{},{}\n", "ENDDATA\n");
  write_text(path("a.obj"), surface, "", "v {1:.12g} {2:.12g} {3:.12g}\n", "", "f {1} {2} {3} {4}\n", "");
  const std::string text = read_file(path("a.inp"));
  volatile double keep = 0.0;
  const double floor = best(3, [&] { keep = parse_numbers(text); });
  for (const std::string name : {"a.msh", "a.vtu", "a.stl", "a.inp", "a.bdf", "a.obj"}) {
    Findings findings;
    mesh::Surface again;
    const double bytes = peak([&] { again = mesh::read(path(name), {}, findings); });
    again = {};
    const Timed t = timed([&] { again = mesh::read(path(name), {}, findings); });
    row(fmt::format("reading .{} ({:.0f} MB)", name.substr(2), double(std::filesystem::file_size(path(name))) / 1e6), t,
        floor, bytes);
  }
  row("writing .msh", timed([&] { mesh::write(surface, path("b.msh")); }), floor, 0);
  row("writing .vtu", timed([&] { mesh::write(surface, path("b.vtu")); }), floor, 0);

  fmt::print("distance along the surface, beside one sweep over the edges\n");
  const mesh::EdgeTable table = mesh::edges(surface);
  const double sweep = best(3, [&] {
    double sum = 0.0;
    for (const auto& [a, b] : table.nodes) sum += (surface.points[a] - surface.points[b]).norm();
    keep = sum;
  });
  const std::vector<std::pair<std::string, mesh::Sources>> from{
      {"a point", {.points = {shell(0.4, 0.3)}}},
      {"an edge", {.curves = mesh::curves_of(surface, mesh::free_edges(surface))}}};
  for (const auto& [name, sources] : from) {
    const auto run = [&, &of = sources] { keep = mesh::distances(surface, of).back(); };
    const double bytes = peak(run);
    row("everywhere from " + name, timed(run), sweep, bytes);
    row("within 100 of " + name, timed([&, &of = sources] { keep = mesh::distances(surface, of, 100).back(); }), sweep,
        0);
  }

  // --- all kinds of frames and zones, as a part file says them
  mesh::Surface coarse;
  {
    mesh::Array fibre{"fibre", true, 3, {}}, angle{"angle", true, 1, {}};
    std::string grid = "v 0 0 0\n";
    const int m = 200;
    std::string obj;
    for (int j = 0; j <= m; ++j)
      for (int i = 0; i <= m; ++i) {
        const Vec3 p = shell(double(i) / m, double(j) / m);
        obj += fmt::format("v {} {} {}\n", p.x(), p.y(), p.z());
      }
    obj += "g guide\n";
    for (int j = 0; j < m; ++j)
      for (int i = 0; i < m; ++i) {
        const int a = j * (m + 1) + i + 1;
        obj += fmt::format("f {} {} {} {}\n", a, a + 1, a + m + 2, a + m + 1);
        if (i == 0) obj += fmt::format("l {} {}\n", a, a + m + 1);
      }
    Findings findings;
    coarse = mesh::read_bytes(obj, "coarse.obj", {}, findings);
    for (const Vec3& p : coarse.points) {
      fibre.values.insert(fibre.values.end(), {1.0, 0.001 * p.x(), 0.0});
      angle.values.push_back(0.01 * p.x());
    }
    mesh::write(coarse, path("coarse.vtu"), std::vector{fibre, angle});
  }
  const std::string frames = R"(
[frame.vector]
vector = [1, 0, 0]
[frame.axis]
axis = { through = [0, 0, -900], along = [1, 0, 0], take = "hoop" }
[frame.globe]
globe = { centre = [2000, 1000, -5000], pole = [0, 1, 0], take = "parallel" }
[frame.axes]
axes = { x = [1, 1, 0], y = [0, 1, 0], take = "x" }
[frame.element]
element = "side 1-2"
[frame.along]
along = "left"
[frame.guide]
guide = { file = "coarse.vtu", edge = "guide" }
[frame.blend]
blend = { from = "vector", to = "axes", start = "left", over = 1500 }
[frame.mapped]
mapped = { file = "coarse.vtu", field = "fibre" }
[frame.turned-by-distance]
vector = [1, 0, 0]
turn = { of = "left", table = [[0, 0], [4000, 30]] }
[frame.turned-by-field]
vector = [1, 0, 0]
turn = { file = "coarse.vtu", field = "angle" }
)";
  const std::vector<std::pair<std::string, std::string>> zones{
      {"group", "group = \"shell\""},
      {"box", "box = { from = [500, 300, -900], to = [2500, 1300, 900] }"},
      {"sphere", "sphere = { centre = [2000, 1000, 0], radius = 800 }"},
      {"cylinder", "cylinder = { through = [0, 1000, 0], along = [1, 0, 0], radius = 400 }"},
      {"beyond", "beyond = { point = [1000, 0, 0], along = [1, 0.3, 0] }"},
      {"facing", "facing = { along = [0, 0, 1], within = 5 }"},
      {"polygon",
       "polygon = { corners = [[500, 300, 0], [2000, 200, 0], [3500, 1500, 0], [1800, 900, 0]], along = [0, 0, 1] }"},
      {"near a point", "near = { of = [2000, 1000, 0], within = 200 }"},
      {"near an edge", "near = { of = \"left\", within = 200 }"},
      {"rows", "rows = { of = \"left\", count = 4 }"},
      {"piece", "piece = [0, 0, 0]"},
      {"grown", "grown = { zone = \"base\", by = 50 }"},
      {"shrunk", "shrunk = { zone = \"base\", by = 50 }"},
      {"elements", "elements = [1, 2, 3]"},
      {"union", "union = [\"base\"]"},
      {"opposite", "opposite = \"base\""}};
  const std::string head =
      "[part]\nname = \"B\"\nunits = \"mm, t, s\"\nmesh = { file = \"a.msh\", length = \"mm\" }\nside = "
      "\"as-meshed\"\nsurface = \"bottom\"\n[material.m]\nkind = \"isotropic\"\nE = 70000\nnu = 0.3\nthickness = 1\n"
      "[layup]\nplies = [ { id = \"P\", material = \"m\", frame = \"vector\" } ]\n";
  Findings findings;
  const part::Part part = part::read_text(head + frames, path("bench.toml"), findings);
  const zone::Curves curves = zone::curves(part, surface, geometry);
  const zone::ZoneSets sets = zone::zones(part, surface, geometry, curves, findings);
  fmt::print("frames, beside copying a field of directions\n");
  const std::vector<Vec3> field(surface.element_count(), Vec3::UnitX());
  std::vector<Vec3> copy(field.size(), Vec3::Zero());
  const double copying = best(5, [&] { std::copy(field.begin(), field.end(), copy.begin()); });
  for (const part::Frame& frame : part.frames) {
    const auto run = [&] {
      keep = frame::field(frame, {part, surface, geometry, curves, sets}, findings).directions[7].x();
    };
    const double bytes = peak(run);
    row(frame.name, timed(run), copying, bytes);
  }
  fmt::print("zones (each with the one it is made of, sets and exact areas), beside one sweep over the centres\n");
  const double looking = best(5, [&] {
    std::size_t inside = 0;
    for (const Vec3& c : geometry.centres) inside += c.x() > 500 && c.y() > 300 && c.x() < 2500 && c.y() < 1300;
    keep = double(inside);
  });
  for (const auto& [name, zone] : zones) {
    const bool on_other = zone.find("base") != std::string::npos;
    const part::Part one = part::read_text(
        head + "[frame.vector]\nvector = [1, 0, 0]\n" +
            (on_other ? "[zone.base]\nbox = { from = [500, 300, -900], to = [2500, 1300, 900] }\n" : "") +
            "[zone.z]\n" + zone + "\n",
        path("bench.toml"), findings);
    const auto run = [&] { keep = zone::zones(one, surface, geometry, curves, findings).exact_areas.back(); };
    const double bytes = peak(run);
    row(name, timed(run), looking, bytes);
  }
  std::filesystem::remove_all(folder);
  return 0;
}
