// What diff says of one change is that change.
#include "support.hpp"

#include <bordado/design.hpp>
#include <bordado/review/compare.hpp>

#include <fmt/format.h>

#include <set>

namespace of_review_compare {

using namespace bordado;

namespace {

const std::string text = R"([part]
name = "Plate"
units = "mm, t, s"
mesh = { file = "plate.msh", length = "mm" }
side = { along = [0, 0, 1] }
surface = "bottom"
[material.tape]
from = "carbon-ud"
mark = "C"
[laminate.skin]
code = "[45/-45]"
[frame.x]
vector = [1, 0, 0]
[zone.half]
box = { from = [0, 0, -1], to = [100, 100, 1] }
[layup]
frame = "x"
material = "tape"
plies = [
  { id = "A", angle = 0 },
  { id = "B", follows = "A", zone = "half" },
  { id = "C", laminate = "skin" },
  { id = "D", angle = 90, group = "race" },
]
[variant.club]
off = ["race"]
[load.p]
on = "everything"
pressure = 0.1
face = "bag"
)";

Design design(const test::Folder& folder, const std::string& part, const part::ReadOptions& options = {}) {
  Findings findings;
  return open(part::read(folder.write("p.toml", part), findings, options), findings);
}
std::string replaced(std::string all, const std::string& from, const std::string& to) {
  const auto at = all.find(from);
  REQUIRE(at != std::string::npos);
  return all.replace(at, from.size(), to);
}
std::string words(const review::Comparison& all) {
  std::string out;
  for (const review::Change& c : all.changes) {
    constexpr const char* what[] = {"added", "removed", "moved", "changed"};
    out += fmt::format("{} {} {}: {}\n", what[static_cast<int>(c.what)], c.kind, c.name, c.detail);
  }
  return out;
}
std::string zone_names(const review::Comparison& all) {
  std::string out;
  for (const review::ZoneChange& z : all.zones) out += z.zone + " ";
  return out;
}

struct Plate : test::Folder {
  Plate() { write("plate.msh", test::msh(test::Grid::rectangle(20, 10, 200, 100))); }
};

}  // namespace

TEST_CASE("a part is the same as itself, also as it is written anew") {
  const Plate folder;
  const Design d = design(folder, text);
  CHECK(review::compare(d, d).same());
  const review::Comparison again = review::compare(d, design(folder, part::toml_text(d.part, d.part.file)));
  CHECK(again.zones.empty());
  CHECK(again.figures.empty());
  CHECK(words(again) == "");
  for (const char* name : {"skiff", "rudder", "spar", "panel", "hatch"}) {
    Findings findings;
    const Design e = open(test::source(fmt::format("examples/{0}/{0}.toml", name)), findings);
    CHECK(review::compare(e, e).same());
  }
}

TEST_CASE("one change is that change, what follows from it, and the zones and figures it reaches") {
  const Plate folder;
  const Design before = design(folder, text);
  const auto after = [&](const std::string& from, const std::string& to) {
    return review::compare(before, design(folder, replaced(text, from, to)));
  };
  const auto angle = after("{ id = \"A\", angle = 0 }", "{ id = \"A\", angle = 30 }");
  CHECK(words(angle) ==
        "changed ply A: angle 0 -> 30\n"
        "changed ply B: by what it follows or uses: tape at 0° in x over half -> tape at 30° in x over half\n");
  CHECK(zone_names(angle) == "everything half plate ");
  for (const review::Figure& f : angle.figures) CHECK(f.name.find("mean ") == 0);  // no mass, no area

  const auto laminate = after("[45/-45]", "[45/-45_2]");
  CHECK(words(laminate).find("changed laminate skin: code ") == 0);
  CHECK(words(laminate).find("changed ply C: by what it follows or uses: - -> tape at -45° in x over everything\n") !=
        std::string::npos);
  REQUIRE(!laminate.figures.empty());
  CHECK(laminate.figures[0].name == "mass");
  CHECK(test::near(laminate.figures[0].after - laminate.figures[0].before, 20000 * 0.2 * 1530e-12));

  const auto zone = after("to = [100, 100, 1]", "to = [50, 100, 1]");
  CHECK(words(zone).find("changed zone half: box ") == 0);
  REQUIRE(zone.zones.size() == 2);
  CHECK(zone.zones[0].zone == "everything");

  const std::string plain = replaced(text, "[variant.club]\noff = [\"race\"]\n", "");
  const auto fewer = review::compare(
      design(folder, plain), design(folder, replaced(plain, "  { id = \"D\", angle = 90, group = \"race\" },\n", "")));
  CHECK(words(fewer) == "removed ply D: tape at 90° in x over everything\n");
}

TEST_CASE("plies added, taken out, moved, switched off") {
  const Plate folder;
  const Design before = design(folder, text);
  const std::string d = "  { id = \"D\", angle = 90, group = \"race\" },\n";
  const auto added = review::compare(before, design(folder, replaced(text, d, d + "  { id = \"E\", angle = 15 },\n")));
  CHECK(words(added) == "added ply E: tape at 15° in x over everything\n");
  const auto moved =
      review::compare(before, design(folder, replaced(replaced(text, d, ""), "plies = [\n", "plies = [\n" + d)));
  CHECK(words(moved) == "moved ply D: from behind C to the front\n");
  CHECK(moved.zones.size() == 3);
  for (const review::Figure& f : moved.figures)
    CHECK(f.name.find("mean D") == 0);  // the order bends, it does not weigh
  const auto club = review::compare(before, design(folder, text, {.variant = "club"}));
  CHECK(words(club) == "changed part part: variant - -> \"club\"\nchanged ply D: switched off\n");
}

TEST_CASE("materials are compared by value, loads and checks by key") {
  const Plate folder;
  const Design before = design(folder, text);
  const auto stiffer =
      review::compare(before, design(folder, replaced(text, "mark = \"C\"\n", "mark = \"C\"\nE1 = \"130 GPa\"\n")));
  CHECK(words(stiffer) == "changed material tape: E1 125000 -> 130000 MPa\n");
  CHECK(stiffer.zones.empty());  // the same laminates of another material
  CHECK(stiffer.figures.size() == 6);
  CHECK(words(review::compare(before, design(folder, replaced(text, "pressure = 0.1", "pressure = 0.2")))) ==
        "changed load p: pressure 0.1 -> 0.2\n");
  const auto price =
      review::compare(before, design(folder, replaced(text, "mark = \"C\"\n", "mark = \"C\"\ncost = \"3 EUR/kg\"\n")));
  CHECK(words(price) == "changed material tape: cost - -> \"3 EUR/kg\"\n");
}

TEST_CASE("another mesh of the same part is no change") {
  const Plate coarse, fine;
  fine.write("plate.msh", test::msh(test::Grid::rectangle(40, 20, 200, 100)));
  CHECK(review::compare(design(coarse, text), design(fine, text)).zones.empty());
}

TEST_CASE("laminates are the same by all that their plies are declared to be, in any unit") {
  const test::Folder folder;
  folder.write("plate.msh", test::msh(test::Grid::rectangle(10, 10, 200, 100)));
  const auto signed_by = [&](const std::string& part) {
    const Design d = design(folder, part);
    return layup::signature(d, d.layup.stack_of[0]);
  };
  const std::string b = "{ id = \"B\", follows = \"A\", zone = \"half\"";
  const auto with = [&](const std::string& keys) { return signed_by(replaced(text, b, b + keys)); };
  const std::string plain = signed_by(text);
  std::set<std::string> all = {plain};
  for (const char* const keys : {", edge = 5", ", edge = 6", ", edge = 5, corners = \"mitred\"",
                                 ", edge = 5, scallop = { pitch = 20, depth = 4 }", ", thickness = 0.3", ", angle = 1",
                                 ", chamfer = { length = 20, edge-thickness = 0.05 }",
                                 ", chamfer = { length = 20, edge-thickness = 0.05, fill = \"tape\" }",
                                 ", thickness = { of = \"half\", table = [[0, 0.2], [50, 0.3]] }",
                                 ", thickness = { of = \"half\", table = [[0, 0.2], [60, 0.3]] }"}) {
    CAPTURE(keys);
    CHECK(all.insert(with(keys)).second);
  }
  // The same part in metres.
  std::string metres = replaced(text, "units = \"mm, t, s\"", "units = \"m, kg, s\"");
  metres = replaced(metres, "from = [0, 0, -1], to = [100, 100, 1]", "from = [0, 0, -0.001], to = [0.1, 0.1, 0.001]");
  CHECK(signed_by(replaced(metres, b, b + ", edge = 0.005, thickness = 0.0003")) ==
        with(", edge = 5, thickness = 0.3"));
  CHECK(signed_by(replaced(metres, b, b + ", chamfer = { length = 0.02, edge-thickness = 0.00005 }")) ==
        with(", chamfer = { length = 20, edge-thickness = 0.05 }"));
}

}  // namespace of_review_compare
