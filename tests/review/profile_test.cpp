// Sections along lines: where plies end, how high they lie, against the ramp's own rules; and their drawings.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/design.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/fields.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <cmath>
#include <map>

namespace of_review_profile {

using namespace bordado;
using test::Grid;

namespace {

std::string text(const std::string& more, const std::string& plies, const std::string& surface = "bottom") {
  return "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"g.msh\", length = \"mm\" }\nside = "
         "\"as-meshed\"\nsurface = \"" +
         surface + "\"\n" + test::materials() + more + "[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [\n" +
         plies + "]\n";
}
const std::string thick = "[zone.thick]\nbox = { from = [-1, -1, -1], to = [60, 99, 1] }\n";
const std::string ramp = "[ramp.r]\nfrom = \"thick\"\nstep = 6.7\n";
const std::string plies =
    "{ id = \"L\", angle = 0 },\n{ id = \"D\", code = \"[0/90]s\", zone = \"thick\" },\n{ id = \"U\", angle = 0 },\n";

Design design(const std::string& part, const Grid& grid = Grid::rectangle(37, 11, 100, 20)) {
  Findings findings;
  return open(part::read_text(part, "p.toml", findings), test::surface(grid), findings);
}

/// z of the bottom and of the top of a ply at a place; nothing where it is not there.
std::optional<std::array<double, 2>> at(const review::Profile& profile, const Design& d, std::string_view id,
                                        double s) {
  for (const review::Profile::Band& band : profile.bands)
    if (d.part.plies[band.ply].id == id && band.from <= s && s < band.to) {
      const double share = (s - band.from) / (band.to - band.from);
      const double bottom = band.bottom[0] + share * (band.bottom[1] - band.bottom[0]);
      return std::array{bottom, bottom + band.thickness[0] + share * (band.thickness[1] - band.thickness[0])};
    }
  return std::nullopt;
}

}  // namespace

TEST_CASE("along a strip every ply ends where its ramp says, whatever the mesh, and plies lie on each other") {
  for (const bool triangles : {false, true})
    for (const auto& [surface, flush] : {std::pair{"bottom", 0.0}, {"middle", 0.5}, {"top", 1.0}}) {
      Grid grid = Grid::rectangle(37, 11, 100, 20);
      grid.triangles = triangles;
      const Design d = design(text(thick + ramp, plies, surface), grid);
      const review::Profile profile = review::profile(d, Vec3(10, 7.3, 5), Vec3(95, 9.1, -3));  // off the surface
      const double length = std::hypot(85.0, 1.8), stretch = length / 85.0;
      CHECK(test::near(profile.at.back(), length));
      REQUIRE(profile.edges.size() == 4);
      for (const auto& [k, at_x] : {std::pair{0, 53.3}, {1, 53.3}, {2, 60.0}, {3, 60.0}}) {
        CHECK(test::near(profile.edges[static_cast<std::size_t>(k)].at, (at_x - 10) * stretch, 1e-9));
        CHECK(profile.edges[static_cast<std::size_t>(k)].ends);
      }
      for (const auto& [s, h] : {std::pair{20.0, 1.5}, {45.0 * stretch, 1.0}, {80.0, 0.5}}) {
        const auto low = at(profile, d, "L", s), up = at(profile, d, "U", s);
        REQUIRE(low);
        REQUIRE(up);
        CHECK(test::near((*low)[0], -flush * h));
        CHECK(test::near((*up)[1], (1 - flush) * h));
      }
      CHECK(at(profile, d, "D.2", 40.0));
      CHECK_FALSE(at(profile, d, "D.2", 45.0 * stretch));
      CHECK(at(profile, d, "D.1", 45.0 * stretch));
      // The other way round they begin.
      const review::Profile back = review::profile(d, Vec3(95, 9.1, 0), Vec3(10, 7.3, 0));
      REQUIRE(back.edges.size() == 4);
      CHECK_FALSE(back.edges[0].ends);
      CHECK(test::near(back.edges[0].at, 35 * stretch, 1e-9));
    }
}

TEST_CASE("along the very border of the part, too") {
  const Design d = design(text(thick + ramp, plies));
  const review::Profile profile = review::profile(d, Vec3(0, 0, 0), Vec3(100, 0, 0));
  CHECK(test::near(profile.at.back(), 100));
  CHECK(profile.edges.size() == 4);
}

TEST_CASE("a chamfered core is a wedge, its filling what is missing") {
  const Design d =
      design(text("[zone.core]\nbox = { from = [30, -1, -1], to = [101, 99, 1] }\n",
                  "{ id = \"L\", angle = 0 },\n{ id = \"C\", material = \"foam\", thickness = 8, zone = \"core\", "
                  "chamfer = { length = 16, edge-thickness = 2, fill = \"foam\" } },\n{ id = \"U\", angle = 0 },\n"));
  const review::Profile profile = review::profile(d, Vec3(5, 10, 0), Vec3(90, 10, 0));
  for (const double x : {30.5, 34.0, 40.0, 45.0, 60.0}) {
    const auto core = at(profile, d, "C", x - 5), fill = at(profile, d, "C.fill", x - 5);
    REQUIRE(core);
    const double t = 2 + 6 * std::min(1.0, (x - 30) / 16);
    CHECK(test::near((*core)[1] - (*core)[0], t, 1e-6));
    if (x < 46) {
      REQUIRE(fill);
      CHECK(test::near((*fill)[1], 8.25, 1e-6));
    }
  }
  CHECK_FALSE(at(profile, d, "C", 20.0));
}

TEST_CASE("on a closed tube the shorter way round is taken; a plane that leaves the surface is told") {
  const double pi = std::numbers::pi;
  const Grid tube{
      .nx = 60,
      .ny = 20,
      .map = [=](double u, double v) { return Vec3(20 * std::cos(2 * pi * u), 20 * std::sin(2 * pi * u), 100 * v); },
      .closed_u = true};
  Findings findings;
  std::string part = text("[frame.z]\nvector = [0, 0, 1]\n", "{ id = \"L\", angle = 0, frame = \"z\" },\n");
  const Design d = open(part::read_text(part, "p.toml", findings), test::surface(tube), findings);
  const review::Profile round = review::profile(d, Vec3(20, 0, 50), Vec3(0, 20, 50));
  CHECK(test::near(round.at.back(), 10 * pi, 2e-3));
  CHECK(round.edges.empty());
  const review::Profile along = review::profile(d, Vec3(20, 0, 10), Vec3(20, 0, 70));
  CHECK(test::near(along.at.back(), 60));
  CHECK(test::failure([&] { review::profile(d, Vec3(20, 0, 50), Vec3(20, 0, 50)); }).find("[profile.no-way]") !=
        std::string::npos);
}

TEST_CASE("ramps have a cut across each, drawn as SVG and PDF; edges are lines in VTU") {
  const Design d = design(text(thick + ramp, plies));
  const auto cuts = review::profiles_across(d);
  REQUIRE(cuts.size() == 1);
  REQUIRE(cuts[layup::RampId{0}]);
  CHECK(cuts[layup::RampId{0}]->edges.size() == 4);
  const test::Folder folder;
  drawing::draw_ramps(d, folder / "all.svg");
  drawing::draw_ramps(d, folder / "all.pdf");
  drawing::draw(review::profile(d, Vec3(10, 10, 0), Vec3(95, 10, 0)), d, folder / "one.svg");
  for (const std::string name : {"all.svg", "one.svg"})
    CHECK(read_file(folder / name).find("<svg") != std::string::npos);
  CHECK(read_file(folder / "all.pdf").starts_with("%PDF"));
  CHECK(test::failure([&] { drawing::draw_ramps(d, folder / "all.png"); }).find("drawing.ending-unknown") !=
        std::string::npos);
  const review::EdgeLines edges = review::edge_lines(d);
  REQUIRE(edges.lines.size() == 4);
  for (const mesh::Curve& line : edges.lines) CHECK(test::near(mesh::length(line), 20.0, 1e-9));
  mesh::Array number{"ply", false, 1, {}};
  for (const part::PlyId p : edges.plies) number.values.push_back(index(p) + 1.0);
  mesh::write(edges.lines, folder / "edges.vtu", {&number, 1});
  CHECK(read_file(folder / "edges.vtu").find("NumberOfCells=\"4\"") != std::string::npos);
  CHECK(test::failure([&] { mesh::write(edges.lines, folder / "edges.msh"); }).find("mesh.ending-unknown") !=
        std::string::npos);
  // What is settled comes down over a way as long as it is high, and nothing else changes.
  const review::Profile& cut = *cuts[layup::RampId{0}];
  double area = 0.0, drawn = 0.0;
  for (const auto& band : cut.bands) area += (band.to - band.from) * 0.5 * (band.thickness[0] + band.thickness[1]);
  for (const auto& band : review::settled(cut, 2.0))
    drawn += (band.to - band.from) * 0.5 * (band.thickness[0] + band.thickness[1]);
  CHECK(test::near(drawn, area));
}

TEST_CASE("the commands: ramps and profile as tables, JSON and drawings") {
  const test::Folder folder;
  folder.write("g.msh", test::msh(Grid::rectangle(37, 11, 100, 20)));
  folder.write("p.toml", text(thick + ramp, plies));
  const auto run = [&](const std::string& arguments) {
    return test::run(test::program() + " " + arguments, folder.path());
  };
  const test::Run ramps = run("ramps p.toml -o r.pdf");
  CHECK(ramps.status == 0);
  CHECK(ramps.out.find("r round thick") != std::string::npos);
  CHECK(ramps.out.find("D.2, D.3") != std::string::npos);
  CHECK(ramps.err.find("wrote r.pdf") != std::string::npos);
  const test::Run profile = run("profile p.toml --from 10,10,0 --to 95,10,0");
  CHECK(profile.status == 0);
  CHECK(profile.out.find("4 ends of plies on it") != std::string::npos);
  CHECK(profile.out.find("43.30") != std::string::npos);
  CHECK(run("profile p.toml --from 10,10 --to 95,10,0").status == 2);
  CHECK(run("profile p.toml --from 10,10,0 --to nan,10,0").status == 2);
  CHECK(run("profile p.toml --from 10,10,0 --to 10,10,0").status == 1);
  // Drawings do not go over what was read.
  CHECK(run("ramps p.toml -o p.toml").status == 1);
  CHECK(run("fields p.toml --edges e.vtu").status == 0);
  folder.write("none.toml", text("", "{ id = \"L\", angle = 0 },\n"));
  const test::Run none = run("ramps none.toml");
  CHECK(none.status == 0);
  CHECK(none.out.find("[ramp.NAME]") != std::string::npos);
}

}  // namespace of_review_profile
