// Ramps: which plies end where, against what the rules say by hand; chamfers, mitres and scallops against closed forms.
#include "support.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/care.hpp>
#include <bordado/review/book.hpp>
#include <bordado/review/check.hpp>
#include <bordado/review/compare.hpp>
#include <bordado/review/profile.hpp>

#include <fmt/format.h>

#include <cmath>
#include <set>

namespace of_layup_ramps {

using namespace bordado;
using test::Grid;

namespace {

constexpr double pi = std::numbers::pi;

std::string head(const std::string& frame = "x") {
  return "[part]\nname = \"R\"\nunits = \"mm, t, s\"\nmesh = { file = \"g.msh\", length = \"mm\" }\nside = "
         "\"as-meshed\"\nsurface = \"bottom\"\n" +
         test::materials() + "[layup]\nmaterial = \"ud\"\nframe = \"" + frame + "\"\n";
}
const std::string thick = "[zone.thick]\nbox = { from = [-1, -1, -1], to = [60, 99, 1] }\n";

/// [0/90] over everything at both faces, and a run of plies by a code between them over zone 'thick'.
std::string between_covers(const std::string& code, const std::string& ramp, const std::string& more = "") {
  return head() + more + "plies = [\n{ id = \"L\", code = \"[0/90]\" },\n{ id = \"D\", code = \"" + code +
         "\", zone = \"thick\" },\n{ id = \"U\", code = \"[90/0]\" },\n]\n" + thick + "[ramp.r]\nfrom = \"thick\"\n" +
         ramp;
}

Design design(const std::string& text, Findings& findings, const Grid& grid = Grid::rectangle(50, 10, 100, 20)) {
  return open(part::read_text(text, "r.toml", findings), test::surface(grid), findings);
}
Design design(const std::string& text, const Grid& grid = Grid::rectangle(50, 10, 100, 20)) {
  Findings findings;
  return design(text, findings, grid);
}

std::vector<std::string> steps(const Design& d, std::size_t ramp = 0) {
  std::vector<std::string> out;
  for (const layup::RampStep& step : d.layup.ramps[layup::RampId(ramp)].steps) {
    std::string line;
    for (const part::PlyId p : step.plies) line += (line.empty() ? "" : " ") + d.part.plies[p].id;
    out.push_back(line);
  }
  return out;
}
std::vector<double> places(const Design& d, std::size_t ramp = 0) {
  std::vector<double> out;
  for (const layup::RampStep& step : d.layup.ramps[layup::RampId(ramp)].steps) out.push_back(step.by);
  return out;
}
using Lines = std::vector<std::string>;

bool told(const Findings& findings, std::string_view code) {
  return std::any_of(findings.all().begin(), findings.all().end(), [&](const Finding& f) { return f.code == code; });
}
bool checked(const std::string& text, std::string_view code) {
  Findings findings;
  const Design d = design(text, findings);
  review::check(d, findings);
  return told(findings, code);
}

double area_of(const Design& d, std::string_view id) {
  for (const review::PlyEntry& entry : review::ply_book(d).plies)
    if (d.part.plies[entry.ply].id == id) return entry.area;
  return -1.0;
}

}  // namespace

TEST_CASE("the order in which plies end: inner, outer, alternating, from the middle, by a list") {
  const std::string code = "[0/90/0/90]";  // not symmetric with the covers: one by one
  const std::string slope = "slope = \"1:20\"\n";
  CHECK(steps(design(between_covers(code, slope))) == Lines{"D.2", "D.3", "D.1", "D.4"});
  CHECK(steps(design(between_covers(code, slope + "first = \"outer\"\n"))) == Lines{"D.4", "D.1", "D.3", "D.2"});
  CHECK(steps(design(between_covers(code, slope + "first = \"alternating\"\n"))) == Lines{"D.2", "D.4", "D.3", "D.1"});
  CHECK(steps(design(between_covers(code, slope + "first = [\"D.4\", \"D.1\"]\n"))) == Lines{"D.4", "D.1"});
  CHECK(steps(design(between_covers(code, slope + "first = [\"D\"]\n"))) == Lines{"D.1", "D.2", "D.3", "D.4"});
  // Plies at one face of the stack: the middle of the stack is not the middle of those that end.
  const std::string one_face = head() +
                               "plies = [\n{ id = \"L\", code = \"[0/90/0/90/0/90/0/90]\" },\n{ id = \"D\", code = "
                               "\"[0/90/0/90/0]\", zone = \"thick\" },\n{ id = \"U\", angle = 45 },\n]\n" +
                               thick + "[ramp.r]\nfrom = \"thick\"\n" + slope;
  CHECK(steps(design(one_face)) == Lines{"D.1", "D.2", "D.3", "D.4", "D.5"});
  CHECK(steps(design(one_face + "first = \"middle\"\n")) == Lines{"D.3", "D.2", "D.4", "D.1", "D.5"});
}

TEST_CASE("the order of a ramp is that of its zones, wherever elements end") {
  // 103 and 104: within one column of elements on the coarse meshes. All plies of the thicker zone and those of the other
  // belong to what the ramp begins with.
  const std::string part =
      head() +
      "plies = [\n{ id = \"L\", code = \"[0/90]\" },\n{ id = \"P\", code = \"[0/90/45]\", zone = \"a\" },\n{ id = "
      "\"Q\", code = \"[90/0/-45/0/90/0]\", zone = \"b\" },\n{ id = \"U\", code = \"[90/0]\" },\n]\n[zone.a]\nbox = "
      "{ from = [-1, -1, -1], to = [104, 99, 1] }\n[zone.b]\nbox = { from = [-1, -1, -1], to = [103, 99, 1] "
      "}\n[ramp.r]\nfrom = \"b\"\nslope = \"1:5\"\n";
  const Design reference = design(part, Grid::rectangle(200, 10, 200, 20));
  CHECK(reference.layup.ramps[layup::RampId{0}].thick.size() == 13);
  for (const int n : {20, 22, 25, 37}) {
    const Design d = design(part, Grid::rectangle(n, 5, 200, 20));
    CAPTURE(n);
    CHECK(steps(d) == steps(reference));
    CHECK(places(d) == places(reference));
    CHECK(d.layup.ramps[layup::RampId{0}].thick == reference.layup.ramps[layup::RampId{0}].thick);
    for (const std::string id : {"Q.1", "Q.3", "Q.6"}) CHECK(test::near(area_of(d, id), area_of(reference, id), 1e-7));
    // On the mesh cut along its own edges, too.
    Findings findings;
    mesh::CutReport report;
    const mesh::Surface cut = layup::cut_at_edges(d, {}, report, findings);
    const Design again = open(part::read_text(part, "r.toml", findings), cut, findings);
    CHECK(steps(again) == steps(reference));
    CHECK(test::near(area_of(again, "Q.6"), area_of(reference, "Q.6"), 1e-7));
  }
}

TEST_CASE("a ply that a ramp leaves no room for is told") {
  // The ramp of the wide zone runs 20 deep; a zone that shares its border is 12 wide.
  const auto part = [](double width, const std::string& step) {
    return head() +
           "plies = [\n{ id = \"A\", code = \"[0/90]\" },\n{ id = \"W\", code = \"[0/90/0/90/0]\", zone = \"wide\" "
           "},\n{ id = \"N\", code = \"[45]\", zone = \"narrow\" },\n]\n[zone.wide]\nbox = { from = [-1, -1, -1], to = "
           "[60, 99, 1] }\n[zone.narrow]\nbox = { from = [" +
           fmt::format("{}", 60.0 - width) +
           ", -1, -1], to = [60, 99, 1] }\n[ramp.r]\nfrom = \"wide\"\nside = \"inside\"\n" +
           "pairs = \"single\"\nfirst = [\"N\", \"W\"]\ncovers = 0\nstep = " + step + "\n";
  };
  const std::string told = test::failure([&] { design(part(12.0, "4")); });
  CHECK(told.find("[ramp.swallows]") != std::string::npos);
  CHECK(told.find("ply 'N.1'") != std::string::npos);
  // As deep as the zone is wide: nothing is left, either.
  CHECK(test::failure([&] { design(part(20.0, "4")); }).find("[ramp.swallows]") != std::string::npos);
  CHECK(test::near(area_of(design(part(24.0, "4")), "N.1"), 4.0 * 20.0, 1e-7));
}

TEST_CASE("plies that mirror each other end together, +θ with -θ where as many may") {
  const std::string code = "[0/45/-45/90]s", slope = "slope = \"1:20\"\n";
  const Design pairs = design(between_covers(code, slope));
  CHECK(steps(pairs) == Lines{"D.4 D.5", "D.3 D.6", "D.2 D.7", "D.1 D.8"});
  const auto& made = pairs.layup.ramps[layup::RampId{0}].steps;
  CHECK(std::all_of(made.begin(), made.end(), [](const auto& step) { return step.symmetric; }));
  CHECK(made[0].balanced);
  CHECK_FALSE(made[1].balanced);  // +45 is left alone
  CHECK(made[2].balanced);
  const Design four = design(between_covers(code, slope + "together = 4\n"));
  CHECK(steps(four) == Lines{"D.4 D.5", "D.2 D.3 D.6 D.7", "D.1 D.8"});
  for (const auto& step : four.layup.ramps[layup::RampId{0}].steps) CHECK((step.symmetric && step.balanced));
  const std::string one_by_one = slope + "pairs = \"single\"\nfirst = \"outer\"\n";
  const Design single = design(between_covers(code, one_by_one));
  CHECK(steps(single).size() == 8);
  CHECK_FALSE(single.layup.ramps[layup::RampId{0}].steps[0].symmetric);
  // Checks say the same.
  CHECK_FALSE(checked(between_covers(code, slope), "ramp.unsymmetric"));
  CHECK(checked(between_covers(code, slope), "ramp.unbalanced"));
  CHECK_FALSE(checked(between_covers(code, slope + "together = 4\n"), "ramp.unbalanced"));
  CHECK(checked(between_covers(code, one_by_one), "ramp.unsymmetric"));
  CHECK(checked(between_covers(code, slope), "ramp.neighbours"));
  // Lists keep pairs, too.
  CHECK(steps(design(between_covers(code, slope + "first = [\"D.1\", \"D.3\", \"D.8\", \"D.6\"]\n"))) ==
        Lines{"D.1 D.8", "D.3 D.6"});
}

TEST_CASE("steps are slope times what ends, a least step, or the same each; inside, outside and about the border") {
  // 0.25 mm each, two at a line.
  const std::string code = "[0/45/-45/90]s";
  const auto at = [&](const std::string& ramp) { return places(design(between_covers(code, ramp))); };
  const auto near = [](const std::vector<double>& a, const std::vector<double>& b) {
    if (a.size() != b.size()) return false;
    for (std::size_t i = 0; i < a.size(); ++i)
      if (std::abs(a[i] - b[i]) > 1e-12) return false;
    return true;
  };
  CHECK(near(at("slope = \"1:20\"\n"), {-30, -20, -10, 0}));
  CHECK(near(at("slope = \"1:20\"\nside = \"outside\"\n"), {0, 10, 20, 30}));
  CHECK(near(at("slope = \"1:20\"\nside = \"about\"\n"), {-15, -5, 5, 15}));
  CHECK(near(at("slope = \"1:20\"\nleast-step = 12\n"), {-36, -24, -12, 0}));
  CHECK(near(at("slope = \"0.5:10\"\nleast-step = 2\n"), {-30, -20, -10, 0}));
  CHECK(near(at("step = \"0.7 cm\"\n"), {-21, -14, -7, 0}));
  CHECK(near(at("slope = \"1:10\"\ntogether = 4\n"), {-15, -10, 0}));
  // Every ply's area follows: 20 wide, up to where it ends; also between the lines of elements.
  const Design d = design(between_covers(code, "slope = \"1:13\"\n"), Grid::rectangle(47, 7, 100, 20));
  const layup::Ramp& ramp = d.layup.ramps[layup::RampId{0}];
  for (const layup::RampStep& step : ramp.steps) {
    CHECK(test::near(step.length, 20.0, 1e-9));
    for (const part::PlyId p : step.plies)
      CHECK(test::near(area_of(d, d.part.plies[p].id), 20.0 * (60.0 + step.by), 1e-6));
  }
  CHECK(test::near(ramp.run, 3 * 6.5));
  CHECK(test::near(ramp.length, 20.0));
}

TEST_CASE("covers end last, and it is told that nothing lies over them") {
  const std::string text =
      head() +
      "plies = [\n{ id = \"L\", code = \"[0/90]\" },\n{ id = \"D\", code = \"[0/90/45]\", zone = \"thick\" },\n]\n" +
      thick + "[ramp.r]\nfrom = \"thick\"\nslope = \"1:20\"\nfirst = \"outer\"\n";
  Findings findings;
  CHECK(steps(design(text, findings)) == Lines{"D.2", "D.1", "D.3"});
  CHECK(told(findings, "ramp.cover-ends"));
  Findings none;
  CHECK(steps(design(text + "covers = 0\n", none)).front() == "D.3");
  CHECK_FALSE(told(none, "ramp.cover-ends"));
}

TEST_CASE("a ramp from one zone to another runs along their common border only") {
  // Three fields beside each other in a strip 20 wide: a from 20 to 60, thin on both sides.
  const std::string zones =
      "[zone.a]\nbox = { from = [20, -1, -1], to = [60, 99, 1] }\n[zone.left]\nbox = { from = [-1, -1, -1], to = [20, "
      "99, 1] }\n[zone.right]\nbox = { from = [60, -1, -1], to = [101, 99, 1] }\n[zone.both]\nunion = [\"left\", "
      "\"a\"]\n";
  const std::string plies =
      "plies = [\n{ id = \"L\", code = \"[0/90]\" },\n{ id = \"A1\", angle = 0, zone = \"a\" },\n{ id = \"A2\", angle "
      "= "
      "90, zone = \"a\" },\n{ id = \"B\", angle = 45, zone = \"both\" },\n{ id = \"U\", code = \"[90/0]\" },\n]\n";
  for (const int n : {50, 37}) {  // borders along sides of elements, and across them
    const Grid grid = Grid::rectangle(n, 6, 100, 20);
    const Design d = design(head() + plies + zones + "[ramp.r]\nfrom = \"a\"\nto = \"right\"\nstep = 5\n", grid);
    // B ends there, too; at the left border A1 and A2 stay.
    CHECK(steps(d) == Lines{"A2", "A1", "B"});
    CHECK(test::near(area_of(d, "A2"), 20 * (40 - 10), 1e-6));
    CHECK(test::near(area_of(d, "A1"), 20 * (40 - 5), 1e-6));
    CHECK(test::near(area_of(d, "B"), 20 * 60, 1e-6));
    // Two ramps, one to each side, by their own rules.
    const Design two =
        design(head() + plies + zones +
                   "[ramp.r]\nfrom = \"a\"\nto = \"right\"\nstep = 5\nside = \"outside\"\n[ramp.l]\nfrom = "
                   "\"a\"\nto = \"left\"\nstep = 3\n",
               grid);
    CHECK(steps(two, 1) == Lines{"A2", "A1"});
    CHECK(test::near(area_of(two, "A2"), 20 * (40 + 0 - 3), 1e-6));
    CHECK(test::near(area_of(two, "A1"), 20 * (40 + 5), 1e-6));
    CHECK(test::near(area_of(two, "B"), 20 * (60 + 10), 1e-6));
  }
}

TEST_CASE("a ramp takes what ends along its line, whatever zones the plies are laid over") {
  // 'from' is a zone that no ply is laid over; its border is that of two others in part.
  const std::string text = head() +
                           "plies = [\n{ id = \"L\", code = \"[0/90]\" },\n{ id = \"A\", angle = 0, zone = \"thick\" "
                           "},\n{ id = \"B\", angle = 90, "
                           "zone = \"band\" },\n{ id = \"U\", code = \"[90/0]\" },\n]\n" +
                           thick +
                           "[zone.band]\nbox = { from = [30, -1, -1], to = [60, 99, 1] }\n[zone.line]\nbeyond = { "
                           "point = [60, 0, 0], along = "
                           "[-1, 0, 0] }\n[ramp.r]\nfrom = \"line\"\nstep = 4\n";
  for (const int n : {50, 41}) {
    const Design d = design(text, Grid::rectangle(n, 6, 100, 20));
    CHECK(steps(d) == Lines{"A", "B"});
    CHECK(test::near(area_of(d, "A"), 20 * 56.0, 1e-6));
    CHECK(test::near(area_of(d, "B"), 20 * 30.0, 1e-6));
    REQUIRE(review::profiles_across(d)[layup::RampId{0}]);
  }
}

TEST_CASE("borders over which the thickness jumps get ramps by themselves; zones that share a border share one") {
  const std::string zones =
      "[zone.a]\nbox = { from = [20, -1, -1], to = [50, 99, 1] }\n[zone.same]\nbox = { from = [20, -1, -2], to = [50, "
      "99, "
      "2] }\n[zone.far]\nbox = { from = [80, -1, -1], to = [101, 99, 1] }\n";
  const std::string plies =
      "plies = [\n{ id = \"L\", code = \"[0/90]\" },\n{ id = \"A\", code = \"[0/90]\", zone = \"a\" },\n{ id = \"S\", "
      "angle = 45, zone = \"same\" },\n{ id = \"F\", code = \"[0/90]\", zone = \"far\" },\n{ id = \"U\", code = "
      "\"[90/0]\" },\n]\n";
  Findings findings;
  const Design d = design(head() + plies + zones + "[ramp.all]\njump = 0.6\nstep = 4\n", findings);
  REQUIRE(d.layup.ramps.size() == 1);
  CHECK(d.layup.ramps[layup::RampId{0}].name == "all a");
  CHECK(steps(d) == Lines{"A.2", "A.1", "S"});
  for (const auto& [id, area] : {std::pair{"A.2", 14.0}, {"A.1", 22.0}, {"S", 30.0}, {"F.1", 20.0}})
    CHECK(test::near(area_of(d, id), 20 * area, 1e-6));
  CHECK(design(head() + plies + zones + "[ramp.all]\njump = 0.4\nstep = 4\n").layup.ramps.size() == 2);
  Findings none;
  CHECK(design(head() + plies + zones + "[ramp.all]\njump = 2\nstep = 4\n", none).layup.ramps.size() == 0);
  CHECK(told(none, "ramp.none"));
  // What a ramp of its own says goes before.
  const Design own =
      design(head() + plies + zones +
             "[ramp.all]\njump = 0.4\nstep = 4\n[ramp.own]\nfrom = \"a\"\nstep = 2\nside = \"outside\"\n");
  REQUIRE(own.layup.ramps.size() == 2);
  CHECK(places(own, 0) == std::vector<double>{0, 2, 4});
}

TEST_CASE("what cannot be made is told once, with its place") {
  const auto failure = [&](const std::string& text) { return test::failure([&] { design(text); }); };
  const std::string code = "[0/45/-45/90]s";
  CHECK(failure(between_covers(code, "slope = \"1:200\"\n"))
            .find("ramp 'r' goes 300 mm into zone 'thick', but there are only 60 mm: 240 mm are missing, and 6 plies "
                  "would have no place") != std::string::npos);
  CHECK(failure(between_covers(code, "slope = \"1:50\"\nside = \"outside\"\n")).find("beyond zone 'thick'") !=
        std::string::npos);
  CHECK(failure(between_covers(code, "step = 2\n") + "[ramp.s]\nfrom = \"thick\"\nstep = 3\n")
            .find("ramps 'r' and 's' both say where ply 'D.4' ends along the same border [ramp.twice]") !=
        std::string::npos);
  CHECK(failure(between_covers(code, "step = 2\nfirst = [\"L.1\"]\n")).find("ply 'L.1' does not end there") !=
        std::string::npos);
  CHECK(failure(between_covers(code, "step = 2\nfirst = [\"D.44\"]\n")).find("did you mean 'D.4'?") !=
        std::string::npos);
  CHECK(failure(between_covers(code, "step = 2\nto = \"nowhere\"\n")).find("[ramp.zone-unknown]") != std::string::npos);
  CHECK(failure(head() + "plies = [{ id = \"A\", angle = 0 }]\n" + thick + "[ramp.r]\nfrom = \"thick\"\nstep = 1\n")
            .find("no ply ends at the border of zone 'thick'") != std::string::npos);
  CHECK(failure(head() + "plies = [{ id = \"A\", angle = 0 }]\n[ramp.r]\nfrom = \"everything\"\nstep = 1\n")
            .find("has no border within the part") != std::string::npos);
  for (const char* slope : {"1:0", "0:20", "20", "1:-3", "1:nan", "1:1e9", "a:b", "1:20:3", ""})
    CHECK(failure(between_covers(code, fmt::format("slope = \"{}\"\n", slope)))
              .find(*slope ? "is no slope" : "is empty") != std::string::npos);
  CHECK(failure(between_covers(code, "step = 0\n")).find("'step'") != std::string::npos);
  CHECK(failure(between_covers(code, "")).find("needs one of 'slope' and 'step'") != std::string::npos);
  CHECK(failure(between_covers(code, "step = 1\nslope = \"1:3\"\n")).find("needs one of") != std::string::npos);
  CHECK(failure(between_covers(code, "step = 1\njump = 1\n")).find("needs one of 'from' and 'jump'") !=
        std::string::npos);
  CHECK(failure(between_covers(code, "step = 1\ntogether = 0\n")).find("it can be 1 to 1000") != std::string::npos);
  CHECK(failure(between_covers(code, "step = 1\nfirst = \"thickest\"\n")).find("inner") != std::string::npos);
  CHECK(failure(between_covers(code, "step = 1\nfirst = []\n")).find("an empty list") != std::string::npos);
  CHECK(failure(between_covers(code, "step = 1\nspeed = 1\n")).find("speed") != std::string::npos);
}

TEST_CASE("random parts: no step ends more than is allowed, covers stay, no element is bare, or it is said why") {
  std::mt19937 random(20261126);
  const auto pick = [&](int from, int to) { return std::uniform_int_distribution<int>(from, to)(random); };
  int made = 0, refused = 0;
  for (int part = 0; part < 60; ++part) {
    std::string code = "[";
    const int plies = pick(2, 10);
    for (int k = 0; k < plies; ++k) code += fmt::format("{}{}", k ? "/" : "", std::array{0, 45, -45, 90}[pick(0, 3)]);
    code += pick(0, 1) ? "]s" : "]";
    const int together = pick(1, 5), covers = pick(0, 3);
    const std::string ramp =
        fmt::format("{}together = {}\ncovers = {}\nfirst = \"{}\"\nside = \"{}\"\npairs = \"{}\"\n",
                    pick(0, 1) ? fmt::format("slope = \"1:{}\"\nleast-step = {}\n", pick(2, 60), pick(1, 4))
                               : fmt::format("step = {}\n", pick(1, 9)),
                    together, covers, part::ends_first_names[static_cast<std::size_t>(pick(0, 3))],
                    part::ramp_side_names[static_cast<std::size_t>(pick(0, 2))], pick(0, 1) ? "together" : "single");
    const std::string text = head() + "plies = [\n" +
                             (pick(0, 1) ? "{ id = \"L\", code = \"[0/90]\" },\n" : "{ id = \"L\", angle = 0 },\n") +
                             "{ id = \"D\", code = \"" + code + "\", zone = \"thick\" },\n" +
                             (pick(0, 1) ? "{ id = \"U\", code = \"[90/0]\" },\n" : "") + "]\n" + thick +
                             "[ramp.r]\nfrom = \"thick\"\n" + ramp;
    INFO(text);
    Findings findings;
    const Grid grid = Grid::rectangle(pick(20, 60), pick(3, 8), 100, 20);
    std::optional<Design> d;
    try {
      d.emplace(design(text, findings, grid));
    } catch (const Failure& failure) {
      CHECK(failure.findings().front().code == "ramp.too-long");
      ++refused;
      continue;
    }
    ++made;
    const layup::Ramp& r = d->layup.ramps[layup::RampId{0}];
    std::set<part::PlyId> seen;
    double last = -1e9;
    bool covers_began = false;
    for (const layup::RampStep& step : r.steps) {
      CHECK(step.plies.size() <= static_cast<std::size_t>(together));
      CHECK(step.by > last);
      last = step.by;
      bool cover = false;
      for (const part::PlyId p : step.plies) {
        CHECK(seen.insert(p).second);
        const auto at = static_cast<int>(std::find(r.thick.begin(), r.thick.end(), p) - r.thick.begin());
        cover = cover || at < covers || at >= static_cast<int>(r.thick.size()) - covers;
      }
      CHECK((cover || !covers_began));  // once covers end, nothing else does
      covers_began = covers_began || cover;
    }
    CHECK(covers_began == told(findings, "ramp.cover-ends"));
    CHECK(seen.size() ==
          static_cast<std::size_t>(std::count_if(d->part.plies.begin(), d->part.plies.end(),
                                                 [](const auto& p) { return p.zone.value == "thick"; })));
    layup::LayersOn layers_on(*d);
    for (mesh::ElementIndex e = 0; e < d->surface.element_count(); ++e) CHECK_FALSE(layers_on(e).empty());
    for (const part::PlyId p : seen) {
      const layup::Region& region = d->layup.regions[d->layup.plies[p].region];
      CHECK(test::near(area_of(*d, d->part.plies[p].id), 20.0 * (60.0 + region.moved.at(0).by), 1e-6));
    }
  }
  CHECK(made > 30);
  CHECK(refused > 0);
}

TEST_CASE("ramps on a cone and a sphere end where the offset circles are, better with every refinement") {
  const double half = 0.3;  // the cone's half angle
  std::vector<double> cone, sphere;
  for (const int n : {1, 2, 4}) {
    // Slant distances 50 to 150 from the apex; the thick zone is up to 100.
    const Grid on_cone{.nx = 36 * n,
                       .ny = 21 * n,
                       .map =
                           [=](double u, double v) {
                             const double s = 50 + 100 * v, r = s * std::sin(half);
                             return Vec3(r * std::cos(2 * pi * u), r * std::sin(2 * pi * u), -s * std::cos(half));
                           },
                       .closed_u = true};
    const std::string plies =
        "plies = [\n{ id = \"L\", angle = 0 },\n{ id = \"D\", code = \"[0/90]\", zone = \"thick\" },\n]\n";
    const Design a =
        design(head("z") + plies + "[frame.z]\nvector = [0, 0, 1]\n[zone.thick]\n" +
                   fmt::format("beyond = {{ point = [0, 0, {}], along = [0, 0, 1] }}\n", -100 * std::cos(half)) +
                   "[ramp.r]\nfrom = \"thick\"\nstep = 7.3\ncovers = 0\n",
               on_cone);
    cone.push_back(area_of(a, "D.1") - pi * std::sin(half) * (std::pow(100 - 7.3, 2) - 2500));
    const double R = 50;
    const Grid on_sphere{.nx = 27 * n, .ny = 27 * n, .map = [=](double u, double v) {
                           const Vec3 p(std::tan(0.8 * (2 * u - 1)), std::tan(0.8 * (2 * v - 1)), 1.0);
                           return Vec3(R * p.normalized());
                         }};
    const Design b = design(head() + plies +
                                fmt::format("[zone.thick]\nsphere = {{ centre = [0, 0, {0}], radius = {1} }}\n", R,
                                            2 * R * std::sin(0.25)) +
                                "[ramp.r]\nfrom = \"thick\"\nstep = 6.1\ncovers = 0\nside = \"outside\"\n",
                            on_sphere);
    const std::string outer = steps(b).back();
    sphere.push_back(area_of(b, outer) - 2 * pi * R * R * (1 - std::cos(0.5 + 6.1 / R)));
  }
  for (const auto& errors : {cone, sphere}) {
    INFO(errors[0], " ", errors[1], " ", errors[2]);
    CHECK(std::log2(std::abs(errors[0] / errors[2])) / 2 > 1.4);
    CHECK(std::abs(errors[2]) < 5.0);  // of 2300 and 2700
  }
}

TEST_CASE("a chamfered core has the volume of its frustum, face plies stay, and a filling makes up for the rest") {
  const double a = 50, b = 30, T = 8;
  const auto core = [&](const std::string& chamfer, const Grid& grid) {
    return design(
        head() +
            fmt::format("plies = [\n{{ id = \"L\", angle = 0 }},\n{{ id = \"C\", material = \"foam\", thickness = {}, "
                        "zone = \"z\", chamfer = {} }},\n{{ id = \"U\", angle = 0 }},\n]\n[zone.z]\nbox = {{ from = "
                        "[21.3, 11.7, -1], to = [71.3, 41.7, 1] }}\n",
                        T, chamfer),
        grid);
  };
  const auto volume = [&](const Design& d, std::string_view id) {
    const review::PlyBook book = review::ply_book(d);
    for (const review::PlyEntry& entry : book.plies)
      if (d.part.plies[entry.ply].id == id) return entry.area * entry.thickness;
    return -1.0;
  };
  // The area within depth d is (a - 2 d)(b - 2 d): integrated over the height.
  const auto frustum = [&](double length, double left) {
    const auto sum = [&](double d) { return a * b * d - (a + b) * d * d + 4.0 / 3.0 * d * d * d; };
    return left * a * b + (T - left) * sum(length) / length;
  };
  for (const auto& [chamfer, exact] :
       {std::pair{std::string("{ length = 9 }"), frustum(9, 0)},
        {std::string("{ length = 9, edge-thickness = 2 }"), frustum(9, 2)},
        {fmt::format("{{ angle = {} }}", std::atan(T / 12.0) * 180 / pi), frustum(12, 0)}}) {
    std::vector<double> errors;
    for (const int n : {1, 2, 4})
      errors.push_back(volume(core(chamfer, Grid::rectangle(29 * n, 17 * n, 100, 60)), "C") - exact);
    INFO(chamfer, ": ", exact, " ", errors[0], " ", errors[1], " ", errors[2]);
    CHECK(std::abs(errors[2]) < 2e-3 * exact);
    for (int k = 0; k < 3; ++k)
      CHECK(std::abs(errors[static_cast<std::size_t>(k)]) < 7.5e-3 * std::pow(2.0, -1.4 * k) * exact);
  }
  const Design filled = core("{ length = 9, fill = \"foam\" }", Grid::rectangle(58, 34, 100, 60));
  CHECK(test::near(volume(filled, "C") + volume(filled, "C.fill"), T * area_of(filled, "C"), 1e-9));
  // With it what lies above stays level.
  layup::LayersOn layers_on(filled);
  for (mesh::ElementIndex e = 0; e < filled.surface.element_count(); ++e) {
    const auto layers = layers_on(e);
    if (layers.size() < 3 || layers[1].covered < 1.0) continue;
    CHECK(test::near(layers.back().bottom, 0.25 + T));
  }
  const std::string refused =
      test::failure([&] { core("{ length = 9, edge-thickness = 8 }", Grid::rectangle(29, 17, 100, 60)); });
  CHECK(refused.find("the chamfer leaves 8 mm, the ply has 8") != std::string::npos);
}

TEST_CASE("mitred corners are sharp, scalloped edges go to and fro") {
  const auto area = [&](const std::string& keys, int n) {
    return area_of(design(head() + "plies = [\n{ id = \"A\", angle = 0 },\n{ id = \"B\", angle = 0, zone = \"z\", " +
                              keys + " },\n]\n[zone.z]\nbox = { from = [21.3, 11.7, -1], to = [71.3, 41.7, 1] }\n",
                          Grid::rectangle(29 * n, 17 * n, 100, 60)),
                   "B");
  };
  for (const double by : {3.0, 6.0}) {
    const double round = 1500 + 160 * by + pi * by * by, sharp = 1500 + 160 * by + 4 * by * by;
    CHECK(test::near(area(fmt::format("edge = {}", by), 4), round, 4e-3));  // a corner is cut straight
    CHECK(test::near(area(fmt::format("edge = {}, corners = \"mitred\"", by), 4), sharp, 5e-4));
  }
  // A zigzag takes half its depth in the mean; at the corners it meets itself.
  const double scalloped = area("edge = 0, scallop = { pitch = 10, depth = 3 }", 8);
  CHECK(test::near(scalloped, 1500 - 160 * 1.5, 0.02));
  // Its edge is as much longer as the slope of the zigzag says.
  const Design d =
      design(head() +
                 "plies = [\n{ id = \"A\", angle = 0 },\n{ id = \"B\", angle = 0, zone = \"z\", scallop = { "
                 "pitch = 10, depth = 3 } },\n]\n[zone.z]\nbox = { from = [-1, -1, -1], to = [50, 99, 1] }\n",
             Grid::rectangle(400, 120, 100, 60));
  CHECK(test::near(area_of(d, "B"), 60 * 48.5, 1e-3));
  double length = 0.0;
  for (const mesh::Curve& line : layup::edge_lines(d.layup, d.surface, d.layup.plies[part::PlyId{1}].region))
    length += mesh::length(line);
  CHECK(test::near(length, 60 * std::sqrt(1 + 0.36), 0.01));
}

TEST_CASE("rules are checked: slopes, thickness on one line, narrow plies, edges near holes, two ramps") {
  const std::string code = "[0/90]s";
  CHECK(checked(between_covers(code, "slope = \"1:5\"\n"), "ramp.steep"));
  CHECK_FALSE(checked(between_covers(code, "slope = \"1:10\"\n"), "ramp.steep"));
  CHECK_FALSE(checked(between_covers(code, "slope = \"1:5\"\n") + "[checks]\nsteepest = 5\n", "ramp.steep"));
  CHECK(checked(between_covers(code, "slope = \"1:10\"\n") + "[checks]\nmost-ended = 0.4\n", "layup.ends-much"));
  CHECK_FALSE(checked(between_covers(code, "slope = \"1:10\"\n") + "[checks]\nmost-ended = 0.5\n", "layup.ends-much"));
  // Without a ramp all four end on one line.
  const std::string together = head() +
                               "plies = [\n{ id = \"L\", angle = 0 },\n{ id = \"D\", code = \"[0/90]s\", zone = "
                               "\"thick\" },\n]\n" +
                               thick;
  CHECK(checked(together, "layup.ends-together"));
  CHECK_FALSE(checked(between_covers(code, "slope = \"1:10\"\n"), "layup.ends-together"));
  // A material that cannot be laid narrower than 70 mm; a strip 20 wide, 60 long is 20 wide.
  const auto narrow = [](double least) {
    return head() +
           "plies = [\n{ id = \"L\", angle = 0 },\n{ id = \"D\", material = \"tape\", angle = 0, zone = \"thick\" "
           "},\n]\n" +
           thick + fmt::format("[material.tape]\nfrom = \"carbon-ud\"\nleast-width = {}\n", least);
  };
  CHECK(checked(narrow(25), "layup.narrow"));
  CHECK_FALSE(checked(narrow(15), "layup.narrow"));
  // Edges that run past the border of the part at 5 mm, and those that end on it.
  const std::string beside =
      head() +
      "plies = [\n{ id = \"L\", angle = 0 },\n{ id = \"D\", angle = 0, zone = \"band\" },\n]\n[zone.band]\nbox = { "
      "from = [-1, -1, -1], to = [101, 15, 1] }\n";
  CHECK(checked(beside + "[checks]\nedge-distance = 6\n", "layup.edge-near"));
  CHECK_FALSE(checked(beside + "[checks]\nedge-distance = 4\n", "layup.edge-near"));
  CHECK_FALSE(checked(between_covers(code, "slope = \"1:10\"\n") + "[checks]\nedge-distance = 6\n", "layup.edge-near"));
  // Two ramps whose steps cross the same elements.
  const std::string two =
      head() +
      "plies = [\n{ id = \"L\", angle = 0 },\n{ id = \"A\", code = \"[0/90]\", zone = \"a\" },\n{ id = \"B\", code "
      "= \"[0/90]\", zone = \"b\" },\n]\n[zone.a]\nbox = { from = [-1, -1, -1], to = [40, 99, 1] }\n[zone.b]\nbox = "
      "{ from = [51, -1, -1], to = [101, 99, 1] }\n[ramp.a]\nfrom = \"a\"\nside = \"outside\"\nstep = "
      "5\n[ramp.b]\nfrom = \"b\"\nside = \"outside\"\nstep = 5.5\n";
  CHECK(checked(two, "ramp.meets"));
  CHECK(checked(two + "[checks]\nedge-distance = 3\n", "layup.edge-near"));
  // One ply of three that carries the bending, half over an element.
  const std::string few = head() +
                          "plies = [\n{ id = \"L\", angle = 0 },\n{ id = \"M\", angle = 90 },\n{ id = \"D\", angle = "
                          "0, zone = \"thick\", edge = 1 },\n]\n" +
                          thick;
  CHECK(checked(few, "layup.smeared-misleads"));
}

TEST_CASE("ramps survive being written, and differences tell them") {
  Findings findings;
  const std::string text = between_covers("[0/45/-45/90]s",
                                          "slope = \"1:20\"\nleast-step = 2\nfirst = \"outer\"\ntogether = 4\ncovers = "
                                          "2\nside = \"about\"\npairs = \"single\"\n") +
                           "[ramp.j]\njump = 0.7\nstep = 3\n";
  const part::Part part = part::read_text(text, "r.toml", findings);
  const part::Part again = part::read_text(part::toml_text(part, "r.toml"), "r.toml", findings);
  REQUIRE(again.ramps.size() == 2);
  const part::Ramp &a = part.ramps[0], &b = again.ramps[0];
  CHECK(a.from->value == b.from->value);
  CHECK(a.slope == b.slope);
  CHECK(a.least_step == b.least_step);
  CHECK(a.first == b.first);
  CHECK(a.together == b.together);
  CHECK(a.covers == b.covers);
  CHECK(a.side == b.side);
  CHECK(a.pairs == b.pairs);
  CHECK(part.ramps[1].jump == again.ramps[1].jump);
  CHECK(part.ramps[1].step == again.ramps[1].step);
  const auto changes = review::compare(design(between_covers("[0/90]s", "slope = \"1:20\"\n")),
                                       design(between_covers("[0/90]s", "slope = \"1:30\"\n")))
                           .changes;
  REQUIRE(changes.size() == 1);
  CHECK(changes[0].kind == "ramp");
  CHECK(changes[0].detail.find("1:30") != std::string::npos);
}

}  // namespace of_layup_ramps
