#include "support.hpp"

#include <bordado/design.hpp>

#include <fmt/format.h>

namespace of_layup_lay {

using namespace bordado;
using test::Grid;

namespace {

const std::string zones = R"([zone.left-half]
box = { from = [0, 0, -1], to = [5, 10, 1] }
[zone.lower-half]
box = { from = [0, 0, -1], to = [10, 5, 1] }
)";

/// The part on a 10 x 10 plate, side 10 mm.
Design lay(const std::string& plies, Findings& findings, const std::string& surface = "bottom",
           const std::string& more = zones) {
  const test::Folder folder;
  folder.write("g.msh", test::msh(Grid::rectangle(10, 10, 10, 10)));
  const std::string text = fmt::format(
      "[part]\nname = \"L\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"g.msh\", length = \"mm\" }}\nside = {{ along = "
      "[0, 0, 1] }}\nsurface = \"{}\"\n{}{}[layup]\n"
      "material = \"ud\"\nframe = \"x\"\nplies = [\n{}\n]\n",
      surface, test::materials(), more, plies);
  return open(folder.write("l.toml", text), findings);
}

Design lay(const std::string& plies, const std::string& surface = "bottom") {
  Findings findings;
  return lay(plies, findings, surface);
}

std::string refused(const std::string& plies) {
  return test::failure([&] { lay(plies); });
}

std::string ids(const Design& design, mesh::ElementIndex e) {
  std::string out;
  for (const auto p : design.layup.plies_of(design.layup.stack_of[e]))
    out += (out.empty() ? "" : " ") + design.part.plies[p].id;
  return out;
}

}  // namespace

TEST_CASE("each element gets the plies whose zones hold it, in laying order") {
  const Design d = lay(
      R"({ id = "A", angle = 0 }, { id = "B", angle = 45, zone = "left-half" }, { id = "C", angle = 90, zone = "lower-half" }, { id = "D", angle = 0 })");
  CHECK(d.layup.stack_count() == 4);
  CHECK(ids(d, 0) == "A B C D");  // lower left
  CHECK(ids(d, 9) == "A C D");    // lower right
  CHECK(ids(d, 90) == "A B D");   // upper left
  CHECK(ids(d, 99) == "A D");
  for (mesh::ElementIndex e = 0; e < 100; ++e) {  // stacks are what the zones say, element by element
    std::vector<part::PlyId> expected;
    for (const part::PlyId p : d.layup.plies.ids())
      if (d.layup.zones.contains(d.layup.regions[d.layup.plies[p].region].zone, e)) expected.push_back(p);
    const auto got = d.layup.plies_of(d.layup.stack_of[e]);
    CHECK(std::vector<part::PlyId>(got.begin(), got.end()) == expected);
  }
}

TEST_CASE("changing one ply in the middle reaches every zone it crosses") {
  const Design before =
      lay(R"({ id = "A", angle = 0 }, { id = "B", angle = 45, zone = "left-half" }, { id = "C", angle = 90 })");
  const Design after = lay(
      R"({ id = "A", angle = 0 }, { id = "B", angle = -45, zone = "lower-half", thickness = 1 }, { id = "C", angle = 90 })");
  CHECK(ids(before, 90) == "A B C");
  CHECK(ids(after, 90) == "A C");
  CHECK(ids(after, 9) == "A B C");
  CHECK(test::near(layup::thickness(after.layup, after.layup.stack_of[9]), 1.5));
}

TEST_CASE("thickness, mass and centre of mass, with layers at their own height") {
  const std::string plies =
      R"({ id = "A", angle = 0 }, { id = "F", material = "foam", zone = "left-half" }, { id = "B", angle = 0 })";
  for (const std::string surface : {"bottom", "middle", "top"}) {
    const Design d = lay(plies, surface);
    const layup::Mass m = layup::mass(d);
    const double skin = 1.55e-9 * 0.25, core = 8e-11 * 10;
    CHECK(test::near(m.area, 100));
    CHECK(test::near(m.mass, 100 * 2 * skin + 50 * core));
    CHECK(test::near(m.centre->x(), (100 * 2 * skin * 5 + 50 * core * 2.5) / m.mass));
    CHECK(test::near(m.centre->y(), 5));
    // Both stacks are symmetric: each weighs in at its own middle.
    const double thick = 10.5, thin = 0.5, share = surface == "bottom" ? 0.5 : surface == "top" ? -0.5 : 0.0;
    CHECK(test::near(m.centre->z(), share * (50 * (2 * skin + core) * thick + 50 * 2 * skin * thin) / m.mass));
    CHECK(test::near(m.zone_areas[*d.layup.zones.find("left-half")], 50));
    CHECK(test::near(m.zone_masses[*d.layup.zones.find("left-half")], 50 * (2 * skin + core)));
    CHECK(test::near(m.zone_masses.all()[0], m.mass));
    CHECK(test::near(m.stack_areas[d.layup.stack_of[0]], 50));
  }
}

TEST_CASE("the code of a stack names materials where they differ") {
  const Design d = lay(
      R"({ id = "A", code = "[45/-45]" }, { id = "F", material = "foam", zone = "left-half" }, { id = "B", code = "[-45/45]" })");
  CHECK(layup::code(d.part, d.layup, d.layup.stack_of[99]) == "[±45]s");
  CHECK(layup::code(d.part, d.layup, d.layup.stack_of[0]) ==
        "[±45ud/0F^]s");  // foam has the mark F, ud stands by its name
}

TEST_CASE("what cannot be laid is told") {
  CHECK(refused(R"({ id = "A", angle = 0, zone = "left-half" })")
            .find("error: 50 elements have no ply: elements 47, 48, 49, 50, 51 and 45 more [layup.element-bare]\n"
                  "    lay a ply over zone 'everything', or over a zone that holds them") != std::string::npos);
  CHECK(refused(R"({ id = "A", angle = 0, zone = "lefthalf" })")
            .find("ply 'A': zone 'lefthalf' is not declared and is no element group of the mesh [zone.unknown]\n    "
                  "did you mean 'left-half'?") != std::string::npos);
  Findings findings;
  const std::string empty = "[zone.far]\nbox = { from = [90, 0, 0], to = [99, 9, 9] }\n";
  CHECK(test::failure([&] {
          lay(R"({ id = "A", angle = 0 }, { id = "B", angle = 0, zone = "far" })", findings, "bottom", empty);
        })
            .find("ply 'B' lies on zone 'far', which has no elements [layup.ply-nowhere]\n    correct the zone or take "
                  "the ply out") != std::string::npos);
}

TEST_CASE("a frame that stands upright on the surface is an error only where a ply needs it") {
  const std::string upright = "[frame.z]\nvector = [0, 0, 1]\n";
  Findings findings;
  CHECK(
      test::failure([&] { lay(R"({ id = "A", angle = 0, frame = "z" })", findings, "bottom", upright); })
          .find(
              "error: frame 'z': its direction lies within 5° of the normal on 100 elements that plies need it on, so "
              "0° has no meaning there: elements ") != std::string::npos);
  Findings fine;
  lay(R"({ id = "A", angle = 0 })", fine, "bottom", upright);
  std::vector<std::string> codes;
  for (const Finding& finding : fine.all()) codes.push_back(finding.code);
  CHECK(codes == std::vector<std::string>{"layup.material-unused", "layup.frame-unused"});
}

}  // namespace of_layup_lay
