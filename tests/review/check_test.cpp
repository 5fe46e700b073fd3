// Every check has a case where it speaks and one where it is silent.
#include "support.hpp"

#include <bordado/design.hpp>
#include <bordado/review/check.hpp>

#include <fmt/format.h>

#include <set>

namespace of_review_check {

using namespace bordado;

namespace {

const std::string zones = R"([zone.left-half]
box = { from = [0, 0, -1], to = [100, 100, 1] }
)";

/// Codes and texts of what the checks say of a plate of 200 by 100 mm, 20 by 10 elements.
struct Told {
  std::set<std::string> codes;
  std::string text;
  bool has(const std::string& part) const { return text.find(part) != std::string::npos; }
};

Told told(const std::string& plies, const std::string& more = "", const std::string& frame = "vector = [1, 0, 0]",
          double size = 200, bool tilted = false) {
  const test::Folder folder;
  test::Grid grid = test::Grid::rectangle(20, 10, size, size / 2);
  if (tilted)  // half of it stands up, ten degrees from upright
    grid.map = [](double u, double v) {
      const double s = 200 * u - 100, a = 80 * std::numbers::pi / 180;
      return s < 0 ? Vec3(s, 100 * v, 0) : Vec3(s * std::cos(a), 100 * v, s * std::sin(a));
    };
  folder.write("plate.msh", test::msh(grid));
  Findings findings;
  const Design d = open(folder.write("p.toml", R"([part]
name = "Plate"
units = "mm, t, s"
mesh = { file = "plate.msh", length = "mm" }
side = "as-meshed"
surface = "bottom"
[frame.x]
)" + frame + "\n" + zones + more + "[layup]\nframe = \"x\"\nmaterial = \"carbon-ud\"\nplies = [\n" +
                                                   plies + "]\n"),
                        findings);
  Findings checked;
  for (const auto& code : d.part.checks.off) checked.silence(code.value);
  review::check(d, checked);
  Told out;
  for (const Finding& finding : checked.all()) {
    out.codes.insert(finding.code);
    std::string line = finding.text();
    for (std::size_t at; (at = line.find(folder.path() + "/")) != std::string::npos;)
      line.erase(at, folder.path().size() + 1);
    out.text += line + "\n";
    CHECK(finding.severity != Severity::error);
  }
  return out;
}

const std::string good = "{ id = \"A\", code = \"[45/0/-45/90]s\" },\n";

void speaks(const Told& t, const std::string& code, const std::string& part) {
  INFO(t.text);
  CHECK(t.codes.count(code) == 1);
  CHECK_MESSAGE(t.has(part), part);
}

}  // namespace

TEST_CASE("a good laminate: nothing is said") {
  const Told t = told(good);
  CHECK(t.text == "");
}

TEST_CASE("slips of numbers in plies and their materials are told") {
  speaks(told("{ id = \"A\", code = \"[45/0/-45/90]s\", thickness = 0.0032 },\n"), "layup.thickness-unlikely",
         "a thickness of 0.0032 mm is unlikely for a unidirectional ply");
  Findings findings;
  material::Material m;
  m.name = "slip", m.kind = material::Kind::unidirectional, m.elastic = test::carbon();
  material::check_plausible(m, UnitSystem(), findings);
  CHECK(findings.all().empty());
  m.elastic.G12 *= 1e6;
  m.elastic.E2 = m.elastic.E1;
  material::check_plausible(m, UnitSystem(), findings);
  std::set<std::string> codes;
  for (const Finding& finding : findings.all()) codes.insert(finding.code);
  CHECK(codes == std::set<std::string>{"material.no-direction", "material.stiffness-unlikely"});
}

TEST_CASE("laminates: symmetry, balance, directions, rows, jumps, outer plies, bare cores") {
  speaks(told("{ id = \"A\", code = \"[45/0/-45/90]\", repeat = 2 },\n"), "laminate.unsymmetric",
         "plate.msh: element 62: note: laminate 1 (100 % of the area): not symmetric, so it bends or twists when "
         "pulled or cooled; "
         "most in "
         "laminate 1, |B| = ");
  speaks(told("{ id = \"A\", code = \"[45/0_2/90]s\" },\n"), "laminate.unbalanced",
         "plate.msh: element 62: warning: laminate 1 (100 % of the area): not balanced, so it shears when pulled; "
         "most in laminate "
         "1, A");
  const Told few = told("{ id = \"A\", code = \"[45/0/-45/0]s\" },\n");
  speaks(few, "laminate.few-in-direction", "least in laminate 1, 0 % along 90°");
  CHECK(!told("{ id = \"A\", code = \"[45/0/-45/0]s\" },\n", "[checks]\nleast-share = 0\n")
             .codes.count("laminate.few-in-direction"));
  const std::string row = "{ id = \"A\", code = \"[45/-45/90/0_3]s\" },\n";
  speaks(told(row), "laminate.row",
         "more than 4 plies of one angle in a row, which crack together; most in laminate 1, 6 at 0°");
  CHECK(told(row, "[checks]\nmost-in-a-row = 6\n").codes.count("laminate.row") == 0);
  const std::string jump = "{ id = \"A\", code = \"[45/-45/0/90]s\" },\n";
  speaks(told(jump), "laminate.jump", "most in laminate 1, 45° beside -45°");
  CHECK(told(jump, "[checks]\nlargest-jump = 90\n").codes.count("laminate.jump") == 0);
  speaks(told("{ id = \"A\", code = \"[0/45/90/-45]s\" },\n"), "laminate.outer-ply",
         "the first ply of laminate 1 is unidirectional at 0°");
  speaks(told(good + "{ id = \"F\", material = \"pvc-foam-80\", thickness = 5, zone = \"left-half\" },\n"),
         "laminate.core-outside", "the last ply of laminate 1 is pvc-foam-80");
  // A fabric counts both ways and may be next to anything.
  CHECK(told("{ id = \"A\", code = \"[45/0/0/45]\", material = \"carbon-twill\" },\n").text == "");
}

TEST_CASE("checks are switched off by name, and only those") {
  const std::string bad = "{ id = \"A\", code = \"[0/45/0/45]\" },\n";
  const Told all = told(bad), fewer = told(bad, "[checks]\noff = [\"laminate.unsymmetric\", \"laminate.outer-ply\"]\n");
  CHECK(all.codes.count("laminate.unsymmetric") == 1);
  CHECK(fewer.codes.count("laminate.unsymmetric") == 0);
  CHECK(fewer.codes.size() == all.codes.size() - 2);
}

TEST_CASE("plies that end on one line, and plies in pieces") {
  const std::string ends = good + "{ id = \"R\", code = \"[45/0/-45]\", zone = \"left-half\" },\n";
  speaks(
      told(ends), "layup.ends-together",
      "plate.msh: element 71: warning: 3 plies end on one line: R.1, R.2, R.3, over 100 mm between laminates 1 and 2");
  CHECK(told(ends, "[checks]\nmost-ends = 3\n").codes.count("layup.ends-together") == 0);
  CHECK(
      told(good + "{ id = \"R\", code = \"[45/-45]\", zone = \"left-half\" },\n").codes.count("layup.ends-together") ==
      0);
  const std::string two =
      "[zone.two]\nunion = [\"a\", \"b\"]\n[zone.a]\nbox = { from = [0, 0, -1], to = [20, 100, 1] }\n[zone.b]\nbox = { "
      "from = [100, 0, -1], to = [120, 100, 1] }\n";
  speaks(told(good + "{ id = \"R\", angle = 45, zone = \"two\" },\n{ id = \"S\", angle = 45, zone = \"two\" },\n", two),
         "layup.ply-pieces", "2 plies lie each in 2 pieces that share no edge: R, S");
  CHECK(told(good + "{ id = \"R\", angle = 45, zone = \"a\" },\n", two).codes.count("layup.ply-pieces") == 0);
}

TEST_CASE("sizes that smell of units") {
  speaks(told(good, "", "vector = [1, 0, 0]", 200e3), "mesh.size-unlikely",
         "warning: the part is 200 m long [mesh.size-unlikely]");
  speaks(told(good, "", "vector = [1, 0, 0]", 5), "mesh.size-unlikely", "the part is 0.005 m long");
  speaks(told("{ id = \"A\", code = \"[45/0/-45/90]s\", thickness = 5 },\n"), "layup.thick",
         "the laminate is up to 40 mm thick on a part 200 by 100 mm in size");
}

TEST_CASE("frames near degenerate: between 5° and 15° of the normal") {
  const Told t = told(good, "", "vector = [1, 0, 0]", 200, true);
  speaks(t, "frame.near-degenerate",
         "frame 'x': its direction lies within 15° of the normal on 100 elements, 10.0° at the least, so 0° turns "
         "quickly from one to the next");
  CHECK(told(good, "", "vector = [0, 1, 0]", 200, true).codes.count("frame.near-degenerate") == 0);
  speaks(told(good, "", "axis = { through = [0, 0, 0], along = [1, 0, 0], take = \"axial\" }", 200, true),
         "frame.near-degenerate", "");
}

TEST_CASE("zones of one element, and zones that are the same") {
  speaks(told(good, "[zone.dot]\nbox = { from = [0, 0, -1], to = [10, 10, 1] }\n"), "zone.one-element",
         "zone 'dot' is one element: 62");
  speaks(told(good, "[zone.again]\nbox = { from = [-5, 0, -1], to = [100, 100, 1] }\n"), "zone.same",
         "zones 'left-half', 'again' hold the same 100 elements");
}

TEST_CASE("materials without density or strengths, groups that are off, laminates that nobody uses") {
  const std::string bare =
      "[material.bare]\nkind = \"unidirectional\"\nE1 = 1e5\nE2 = 1e4\nnu12 = 0.3\nG12 = 5e3\nG13 = 5e3\nG23 = 3e3\n"
      "thickness = 0.2\n";
  const Told t = told("{ id = \"A\", code = \"[45/0/-45/90]s\", material = \"bare\" },\n", bare);
  speaks(t, "material.no-density", "warning: no density: bare");
  speaks(t, "material.no-strength", "note: strengths are missing: bare");
  CHECK(told(good, bare).codes.count("material.no-density") == 0);  // not laid
  speaks(told(good + "{ id = \"R\", angle = 0, group = \"race\" },\n",
              "[variant.club]\noff = [\"race\"]\n[laminate.spare]\ncode = \"[0]\"\n"),
         "layup.laminate-unused", "laminate 'spare' is used by no ply");
}

TEST_CASE("an anisotropic material that a shell cannot hold whole") {
  const auto odd = [](const std::string& C14) {
    return "[material.odd]\nkind = \"anisotropic\"\ndensity = 1.5e-9\nthickness = 0.2\nC = [[50e3, 5e3, 5e3, " + C14 +
           ", 0, 4e3], [20e3, 5e3, 0, 0, 2e3], [12e3, 0, 0, 0], [4e3, 0, 0], [4e3, 0], [6e3]]\n";
  };
  const std::string plies = "{ id = \"A\", code = \"[0/0]\", material = \"odd\" },\n";
  speaks(told(plies, odd("2e3")), "material.coupling-left-out",
         "material 'odd': strain in the plane and shear through the thickness are coupled by ");
  CHECK(told(plies, odd("0")).codes.count("material.coupling-left-out") == 0);
}

TEST_CASE("a group that is off is told, in its variant") {
  const test::Folder folder;
  folder.write("plate.msh", test::msh(test::Grid::rectangle(2, 2, 200, 100)));
  Findings findings;
  const std::string path = folder.write("p.toml", R"([part]
name = "Plate"
units = "mm, t, s"
mesh = { file = "plate.msh", length = "mm" }
side = "as-meshed"
surface = "bottom"
[frame.x]
vector = [1, 0, 0]
[variant.club]
off = ["race"]
[layup]
frame = "x"
material = "carbon-ud"
plies = [ { id = "A", code = "[45/0/-45/90]s" }, { id = "R", angle = 0, group = "race" } ]
)");
  const Design club = open(part::read(path, findings, {.variant = "club"}), findings);
  review::check(club, findings);
  std::string text;
  for (const Finding& finding : findings.all()) text += finding.text() + "\n";
  CHECK(text.find("note: group 'race' is off in variant 'club': not laid are R [layup.group-off]") !=
        std::string::npos);
}

}  // namespace of_review_check
