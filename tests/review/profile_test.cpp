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

constexpr double pi = std::numbers::pi;
const Grid tube{
    .nx = 60,
    .ny = 20,
    .map = [](double u, double v) { return Vec3(20 * std::cos(2 * pi * u), 20 * std::sin(2 * pi * u), 100 * v); },
    .closed_u = true};

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

namespace {

/// A square of 100 with a window from 40 to 60 both ways, of elements of 10; its sides "rim" are a group.
std::string with_window() {
  std::string nodes, elements;
  int count = 0;
  for (int j = 0; j <= 10; ++j)
    for (int i = 0; i <= 10; ++i) nodes += fmt::format("{} {} {} 0\n", 11 * j + i + 1, 10 * i, 10 * j);
  for (int j = 0; j < 10; ++j)
    for (int i = 0; i < 10; ++i) {
      if ((i == 4 || i == 5) && (j == 4 || j == 5)) continue;
      const int n = 11 * j + i + 1;
      elements += fmt::format("{} 3 2 1 1 {} {} {} {}\n", ++count, n, n + 1, n + 12, n + 11);
    }
  return fmt::format("$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$Nodes\n121\n{}$EndNodes\n$Elements\n{}\n{}$EndElements\n",
                     nodes, count, elements);
}

}  // namespace

TEST_CASE("a line goes straight over an opening and on behind it; no ply ends at its border") {
  const test::Folder folder;
  folder.write("g.msh", with_window());
  Findings findings;
  const Design d =
      open(folder.write("p.toml", text("[zone.far]\nbox = { from = [76, -1, -1], to = [101, 101, 1] }\n",
                                       "{ id = \"L\", angle = 0 },\n{ id = \"F\", angle = 90, zone = \"far\" },\n")),
           findings);
  const auto check = [&](const review::Profile& cut, double begin) {
    REQUIRE(cut.openings.size() == 1);
    CHECK(test::near(cut.openings[0][0], 40 - begin, 1e-9));
    CHECK(test::near(cut.openings[0][1], 60 - begin, 1e-9));
    CHECK(!at(cut, d, "L", 50 - begin));
    CHECK(at(cut, d, "L", 39 - begin));
    CHECK(at(cut, d, "L", 61 - begin));
    REQUIRE(cut.edges.size() == 1);  // of F alone, by its elements
    CHECK(d.part.plies[cut.edges[0].ply].id == "F");
    CHECK(test::near(cut.edges[0].at, 80 - begin, 1e-6));
  };
  const review::Profile between = review::profile(d, Vec3(5, 47, 0), Vec3(95, 47, 0));
  CHECK(test::near(between.at.back(), 90));
  check(between, 5);
  const review::Profile plane = review::profile_in_plane(d, Vec3(0, 53, 0), Vec3(0, -3, 0));
  CHECK(test::near(plane.at.back(), 100));
  check(plane.points.front().x() < 1 ? plane : review::profile_in_plane(d, Vec3(0, 53, 0), Vec3(0, 3, 0)), 0);
  CHECK(review::profile_in_plane(d, Vec3(0, 20, 0), Vec3(0, 1, 0)).openings.empty());
  // Along borders, of the part and of the window, it lies on the side that has more of the surface: as between two places.
  for (const double y : {0.0, 40.0, 60.0, 100.0}) {
    const review::Profile border = review::profile_in_plane(d, Vec3(0, y, 0), Vec3(0, 1, 0));
    CHECK(test::near(border.at.back(), 100, 1e-6));
    CHECK(border.openings.empty());
    CHECK(review::profile(d, Vec3(0, y, 0), Vec3(100, y, 0)).openings.empty());
  }
  // Askew over a corner of the window, both ways the same.
  const review::Profile there = review::profile(d, Vec3(30, 40, 0), Vec3(60, 70, 0)),
                        back = review::profile(d, Vec3(60, 70, 0), Vec3(30, 40, 0));
  REQUIRE(there.openings.size() == 1);
  CHECK(test::near(there.openings[0][1] - there.openings[0][0], std::sqrt(200.0), 1e-9));
  CHECK(test::near(there.at.back(), back.at.back(), 1e-12));
  CHECK(test::failure([&] { review::profile_in_plane(d, Vec3(0, 200, 0), Vec3(0, 1, 0)); }).find("between 0 and 100") !=
        std::string::npos);
  // Across a fold the line is as long as the surface.
  const Grid fold{.nx = 20, .ny = 4, .map = [](double u, double v) {
                    return u < 0.5 ? Vec3(80 * u, 20 * v, 0) : Vec3(40, 20 * v, 80 * (u - 0.5));
                  }};
  const Design bent =
      open(part::read_text(text("[frame.y]\nvector = [0, 1, 0]\n", "{ id = \"L\", angle = 0, frame = \"y\" },\n"),
                           "p.toml", findings),
           test::surface(fold), findings);
  CHECK(test::near(review::profile_in_plane(bent, Vec3(0, 7, 0), Vec3(0, 1, 0)).at.back(), 80));
  CHECK(test::near(review::profile(bent, Vec3(10, 7, 0), Vec3(40, 7, 25)).at.back(), 55));
}

TEST_CASE("a plane cuts a tube once round; a line goes along a curve of the part") {
  Findings findings;
  const std::string upper = "[zone.upper]\nbox = { from = [-99, -99, 50], to = [99, 99, 101] }\n";
  const Design d = open(
      part::read_text(text("[frame.z]\nvector = [0, 0, 1]\n" + upper,
                           "{ id = \"L\", angle = 0, frame = \"z\" },\n{ id = \"U\", angle = 90, frame = \"z\", zone = "
                           "\"upper\" },\n"),
                      "p.toml", findings),
      test::surface(tube), findings);
  const review::Profile round = review::profile_in_plane(d, Vec3(0, 0, 30.1), Vec3(0, 0, 1));
  CHECK(test::near(round.at.back(), 60 * 2 * 20 * std::sin(pi / 60), 1e-6));
  CHECK(round.openings.empty());
  CHECK(round.loops == 0);
  CHECK((round.points.front() - round.points.back()).norm() < 1e-9);
  const review::Profile askew = review::profile_in_plane(d, Vec3(0, 0, 50), Vec3(0.3, 0, 1));
  CHECK(askew.edges.size() == 2);  // where it comes into the upper half and out of it
  // The border of the mesh is a curve of its own name.
  const Design flat = design(text(thick + ramp, plies));
  const review::Profile along = review::profile_along(flat, "front");
  CHECK(test::near(along.at.back(), 100, 1e-6));
  CHECK(along.edges.size() == 4);
  CHECK(test::failure([&] { review::profile_along(flat, "frnt"); }).find("did you mean 'front'?") != std::string::npos);
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
  const test::Run plane = run("profile p.toml --plane 'y=1 cm' -o cut.svg");
  CHECK(plane.out.find("100.0 mm along the surface, 4 ends of plies on it") != std::string::npos);
  CHECK(run("profile p.toml --plane 0,2,0,20").out == plane.out);
  CHECK(run("profile p.toml --along front").status == 0);
  for (const auto& [bad, code] : {std::pair{"--plane y=99", "[profile.no-way]"},
                                  {"--plane y", "[profile.plane]"},
                                  {"--plane 0,0,0,1", "[profile.plane]"},
                                  {"--plane 1,2,3", "[profile.plane]"},
                                  {"--plane x=5 --along front", "[profile.choices]"},
                                  {"--from 1,1,0", "[profile.choices]"},
                                  {"", "[profile.choices]"},
                                  {"--along keel", "[profile.curve-unknown]"}}) {
    const test::Run refused = run(fmt::format("profile p.toml {}", bad));
    INFO(bad << refused.err);
    CHECK(refused.status == 1);
    CHECK(refused.err.find(code) != std::string::npos);
  }
  CHECK(run("profile p.toml --from 10,10,50 --to 95,10,0").out.find("[profile.far]") != std::string::npos);
  // Drawings do not go over what was read.
  CHECK(run("ramps p.toml -o p.toml").status == 1);
  CHECK(run("fields p.toml --edges e.vtu").status == 0);
  folder.write("none.toml", text("", "{ id = \"L\", angle = 0 },\n"));
  const test::Run none = run("ramps none.toml");
  CHECK(none.status == 0);
  CHECK(none.out.find("[ramp.NAME]") != std::string::npos);
}

}  // namespace of_review_profile
