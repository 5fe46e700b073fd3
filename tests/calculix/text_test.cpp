// What the solver needs of its decks, read from the deck's text. The answers are in solver_test.cpp.
#include "solving.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <cmath>
#include <sstream>

namespace of_calculix_text {

using namespace bordado;
using test::Grid;

namespace {

struct Deck {
  Design design;
  Findings findings;
  std::vector<std::string> lines;

  std::vector<std::string> with(std::string_view start) const {
    std::vector<std::string> out;
    for (const std::string& line : lines)
      if (line.starts_with(start)) out.push_back(line);
    return out;
  }
  /// The line behind the first that starts so.
  std::string behind(std::string_view start, std::size_t by = 1) const {
    for (std::size_t i = 0; i + by < lines.size(); ++i)
      if (lines[i].starts_with(start)) return lines[i + by];
    return "";
  }
  const Finding* finding(std::string_view code) const {
    for (const Finding& found : findings.all())
      if (found.code == code) return &found;
    return nullptr;
  }
};

Deck write(const std::string& plies, const Grid& grid, const std::string& conditions = "",
           const std::string& surface = "bottom", const std::string& side = "{ along = [0, 0, 1] }") {
  const test::Folder folder;
  folder.write("grid.msh", test::msh(grid));
  Deck out;
  out.design =
      open(folder.write("p.toml", fmt::format("[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = {{ file = "
                                              "\"grid.msh\", length = \"mm\" }}\nside = {}\nsurface = \"{}\"\n{}"
                                              "[zone.half]\nbox = {{ from = [0, 0, -99], to = [5, 99, 99] "
                                              "}}\n[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ {} ]\n{}",
                                              side, surface, test::materials(), plies, conditions)),
           out.findings);
  deck::WriteOptions options;
  options.layers = deck::LayersAs::plies;
  write_deck(out.design, "calculix", folder / "p.inp", options, out.findings);
  std::istringstream text(read_file(folder / "p.inp"));
  for (std::string line; std::getline(text, line);) out.lines.push_back(line);
  return out;
}

const std::string pulled =
    "[support.s]\non = \"left\"\nhold = \"pinned\"\n[load.f]\non = \"right\"\nforce = [6, 0, 0]\n";

}  // namespace

TEST_CASE("no number is longer than the solver reads, no line has more fields, every layer names its orientation") {
  const Deck deck = write(
      R"({ id = "A", code = "[33.3/-12.345]s" }, { id = "F", material = "foam" })",
      {.nx = 9, .ny = 9, .map = [](double u, double v) { return Vec3(10 * u / 3, 10 * v / 7, 1e-5 * u + u * v / 3); }},
      pulled);
  for (const std::string& line : deck.lines) {
    if (line.starts_with("**")) continue;
    std::istringstream fields(line);
    std::size_t count = 0;
    for (std::string field; std::getline(fields, field, ','); ++count)
      if (!field.empty() && (std::isdigit(static_cast<unsigned char>(field[0])) || field[0] == '-'))
        CHECK_MESSAGE(field.size() <= 19, line);
    CHECK_MESSAGE(count <= 16, line);
  }
  for (std::size_t i = 0; i < deck.lines.size(); ++i)
    if (deck.lines[i].starts_with("*SHELL SECTION, COMPOSITE"))
      for (int layer = 1; layer <= 5; ++layer)
        CHECK(deck.lines[i + static_cast<std::size_t>(layer)].find(",O") != std::string::npos);
}

TEST_CASE("the offset keeps the declared face on the mesh") {
  const auto offset = [](const std::string& surface) {
    return write(R"({ id = "A", angle = 0 }, { id = "B", angle = 90 })", Grid::rectangle(2, 2, 10, 10), pulled, surface)
        .with("*SHELL SECTION, COMPOSITE")
        .front();
  };
  CHECK(offset("bottom") == "*SHELL SECTION, COMPOSITE, ELSET=G1, OFFSET=-0.5");
  CHECK(offset("middle") == "*SHELL SECTION, COMPOSITE, ELSET=G1, OFFSET=0.");
  CHECK(offset("top") == "*SHELL SECTION, COMPOSITE, ELSET=G1, OFFSET=0.5");
}

TEST_CASE("layers are listed bottom to top with their fibre directions; a turned side mirrors the angle in space") {
  const Grid plate = Grid::rectangle(2, 2, 10, 10);
  const Deck up = write(R"({ id = "A", angle = 30 }, { id = "B", angle = 0, thickness = 0.5 })", plate, pulled);
  const auto layer = [](const Deck& deck, std::size_t i) { return deck.behind("*SHELL SECTION, COMPOSITE", i); };
  CHECK(layer(up, 1).starts_with("0.25,,M1_UD,O"));
  CHECK(layer(up, 2).starts_with("0.5,,M1_UD,O"));
  // Orientations are numbered by angle: O1 is 0 degrees, O2 is 30.
  CHECK(layer(up, 1) == "0.25,,M1_UD,O2");
  CHECK(up.behind("*ORIENTATION, NAME=O1") == "1.,0.,0.,0.,1.,0.");
  CHECK(up.behind("*ORIENTATION, NAME=O2") == "0.866025403784,0.5,0.,-0.5,0.866025403784,0.");
  const Deck down = write(R"({ id = "A", angle = 30 }, { id = "B", angle = 0, thickness = 0.5 })", plate, pulled,
                          "bottom", "{ along = [0, 0, -1] }");
  CHECK(down.behind("*ORIENTATION, NAME=O2") == "0.866025403784,-0.5,0.,-0.5,-0.866025403784,0.");
}

TEST_CASE("axes are shared within the tolerance, and the error told is no larger") {
  const Deck flat = write(R"({ id = "A", code = "[0/45]" })", Grid::rectangle(20, 20, 10, 10), pulled);
  CHECK(flat.with("*ORIENTATION").size() == 2);
  CHECK(flat.with("*SHELL SECTION, COMPOSITE").size() == 1);
  const Deck curved =
      write(R"({ id = "A", code = "[0/45]" })",
            {.nx = 20, .ny = 20, .map = [](double u, double v) { return Vec3(10 * u, 10 * v, 0.05 * u * v); }}, pulled);
  CHECK(curved.with("*ORIENTATION").size() > 50);
  CHECK(curved.with("*ORIENTATION").size() < 500);  // 400 elements with two angles each
  const Finding* const shared = curved.finding("deck.orientations-shared");
  REQUIRE(shared);
  CHECK(std::stod(shared->what.substr(shared->what.rfind(' ') + 1)) <= 0.1);
}

TEST_CASE("the mesh is raised with shared middle nodes and the count is said") {
  const Deck deck = write(R"({ id = "A", angle = 0 })", Grid::rectangle(2, 2, 10, 10), pulled);
  REQUIRE(deck.finding("deck.raised"));
  CHECK(
      deck.finding("deck.raised")->what ==
      "the mesh was raised to quadratic elements: 12 nodes in the middle of straight edges were added to 9, 21 in all");
}

TEST_CASE("a strip of one element across is told where it may turn far") {
  const std::string far = pulled + "[case.far]\nanalysis = \"large-displacements\"\nloads = [\"f\"]\n";
  const std::string ply = R"({ id = "A", code = "[0_4]" })";
  CHECK(write(ply, Grid::rectangle(5, 1, 50, 10), far).finding("deck.one-across"));
  CHECK(!write(ply, Grid::rectangle(5, 2, 50, 10), far).finding("deck.one-across"));
  CHECK(!write(ply, Grid::rectangle(5, 1, 50, 10), pulled).finding("deck.one-across"));
}

TEST_CASE("results are asked for every ply in the form that does not crash the solver") {
  const Deck deck = write(R"({ id = "A", code = "[0_20]" })", Grid::rectangle(2, 2, 10, 10), pulled);
  CHECK(deck.with("*EL PRINT") ==
        std::vector<std::string>{"*EL PRINT, ELSET=EALL, TOTALS=YES", "*EL PRINT, ELSET=EALL, GLOBAL=YES"});
}

TEST_CASE(
    "a twenty-layer laminate in one corner of a thin part solves: section cards are repeated as the solver needs") {
  // One element of 20 layers among 399 of 2: the solver's knot array is sized by the mean, its need by the largest.
  const std::string text = fmt::format(
      "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"grid.msh\", length = \"mm\" }}\nside = {{ along "
      "= [0, 0, 1] }}\nsurface = \"bottom\"\n{}"
      "[zone.corner]\nbox = {{ from = [0, 0, -1], to = [1, 1, 1] }}\n[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies "
      "= [ {{ id = \"A\", code = \"[0/90]\" }}, "
      "{{ id = \"B\", code = \"[0/90]_9\", zone = \"corner\" }} ]\n[support.s]\non = \"left\"\nhold = "
      "\"clamped\"\n[load.f]\non = \"right\"\nforce = [0, 0, 0.1]\n",
      test::materials());
  const test::Folder folder;
  calculix::SolveOptions options;
  options.deck.layers = deck::LayersAs::plies;
  const test::Solved solved = test::solve(folder, text, Grid::rectangle(20, 20, 20, 20), options);
  CHECK(solved.answer.largest()->value.allFinite());
  const std::string deck = read_file(folder / "part.inp"), card = "*SHELL SECTION, COMPOSITE, ELSET=G1,";
  CHECK(deck.find(card, deck.find(card) + 1) != std::string::npos);
  CHECK((solved.reaction - Vec3(0, 0, -0.1)).norm() < 1e-6);  // reactions balance the load
}

TEST_CASE("a pressure on the tool face pushes along the normal, on the bag face against it") {
  const auto sum = [](const std::string& face) {
    const Deck deck = write(R"({ id = "A", angle = 0 })", Grid::rectangle(2, 2, 10, 10),
                            "[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.p]\non = \"half\"\npressure = "
                            "\"2 kPa\"\nface = \"" +
                                face + "\"\n");
    CHECK(deck.with("*DLOAD").empty());
    double z = 0.0;
    for (std::size_t i = 0; i < deck.lines.size(); ++i)
      if (deck.lines[i] == "*CLOAD")
        for (std::size_t k = i + 1; deck.lines[k][0] != '*'; ++k) {
          CHECK(deck.lines[k].find(",3,") != std::string::npos);
          z += std::stod(deck.lines[k].substr(deck.lines[k].rfind(',') + 1));
        }
    return z;
  };
  CHECK(test::near(sum("tool"), 0.1, 1e-11));  // 0.002 MPa on 50 mm^2
  CHECK(test::near(sum("bag"), -0.1, 1e-11));
}

TEST_CASE("names travel into the deck, fit for it and each once") {
  const Deck deck =
      write(R"({ id = "H 1", angle = 0 })", Grid::rectangle(2, 2, 10, 10),
            "[zone.\"bug \u00fcnder\"]\nbox = { from = [0, 0, -9], to = [5, 9, 9] }\n[zone.\"bug_under\"]\n"
            "box = { from = [0, 0, -9], to = [9, 9, 9] }\n[zone.G1]\nbox = { from = [0, 0, -9], to = [9, 9, "
            "9] }\n[zone.held]\nbox = { from = [0, 0, -9], to = [9, 9, 9] }\n[zone.BED1_GROUND]\nbox = { from = [0, 0, "
            "-9], to = [9, 9, 9] }\n" +
                pulled);
  for (const std::string_view set :
       {"*ELSET, ELSET=HALF", "*ELSET, ELSET=PLATE", "*NSET, NSET=LEFT", "*NSET, NSET=CORNER", "*ELSET, ELSET=G1_",
        "*NSET, NSET=S1_S", "*ELSET, ELSET=HELD_", "*ELSET, ELSET=BED1_GROUND_"})
    CHECK_MESSAGE(!deck.with(set).empty(), set);
  CHECK(deck.with("*ELSET, ELSET=BUG").size() == 2);
  CHECK(deck.with("*ELSET, ELSET=BUG__NDER").size() == 1);
  CHECK(deck.with("** zone bug ünder").size() == 1);
  std::vector<std::string> sets = deck.with("*ELSET");
  std::sort(sets.begin(), sets.end());
  CHECK(std::adjacent_find(sets.begin(), sets.end()) == sets.end());
}

TEST_CASE("shell materials let the thickness go its own way") {
  const Deck deck = write(R"({ id = "A", angle = 0 })", Grid::rectangle(2, 2, 10, 10), pulled);
  CHECK(deck.behind("*ELASTIC") == "135000.,9000.,9000.,0.3,1.e-9,1.e-9,5000.,5000.");
  material::Material ud;
  ud.name = "ud";
  ud.elastic = test::carbon();
  CHECK(deck::material_text(ud, UnitSystem(), "calculix", 1).find("135000.,9000.,9000.,0.3,0.3,0.4,5000.,5000.") !=
        std::string::npos);  // a solid's material is whole
}

TEST_CASE("a laminate thicker than its elements at a sharp edge is told before the solver stops at it") {
  const auto angle = [](int n) {
    return write(
        R"({ id = "A", angle = 0, thickness = 2.4 })",
        {.nx = 2 * n,
         .ny = 2,
         .map = [](double u, double v) { return Vec3(10 * v, 20 * std::min(u, 0.5), 20 * std::max(u - 0.5, 0.0)); }},
        pulled, "bottom", "{ away-from = [5, 20, 0] }");
  };
  CHECK(!angle(1).finding("deck.thick-at-edge"));
  REQUIRE(angle(3).finding("deck.thick-at-edge"));
  CHECK(angle(3).finding("deck.thick-at-edge")->what.starts_with("4 elements at a sharp edge"));
}

TEST_CASE("a force is spread with the elements' own weights and adds up") {
  const Deck edge = write(R"({ id = "A", angle = 0 })", Grid::rectangle(2, 2, 10, 10), pulled, "middle");
  std::vector<double> shares;
  for (std::size_t i = 0; i < edge.lines.size(); ++i)
    if (edge.lines[i] == "*CLOAD")
      for (std::size_t k = i + 1; edge.lines[k][0] != '*'; ++k)
        shares.push_back(std::stod(edge.lines[k].substr(edge.lines[k].rfind(',') + 1)));
  std::sort(shares.begin(), shares.end());
  CHECK(shares == std::vector<double>{0.5, 0.5, 1.0, 2.0, 2.0});  // 6 N over two quadratic edges: 1/6, 4/6, 1/6 each
}

TEST_CASE("knots and coarse arcs are said") {
  const Deck step = write(R"({ id = "A", angle = 0 }, { id = "B", angle = 0, zone = "half" })",
                          Grid::rectangle(4, 2, 10, 10), pulled);
  REQUIRE(step.finding("deck.knots"));
  CHECK(step.finding("deck.knots")->what.starts_with("5 nodes where"));  // one line of two quadratic elements
  const Deck even = write(R"({ id = "A", angle = 0 })", Grid::rectangle(4, 2, 10, 10), pulled);
  CHECK(!even.finding("deck.knots"));
  // A thickness that differs by a rounding is no step: no knots, and the same thickness in the deck.
  const Deck rounding = write(
      R"({ id = "A", angle = 0 }, { id = "B", angle = 0, zone = "half", thickness = 0.25000001 }, { id = "C", angle = 0, zone = "rest" })",
      Grid::rectangle(4, 2, 10, 10), "[zone.rest]\nfrom = \"everything\"\nminus = [\"half\"]\n" + pulled);
  CHECK(!rounding.finding("deck.knots"));
  const auto layers = rounding.with("0.2");
  REQUIRE(layers.size() == 4);
  for (const std::size_t i : {0u, 2u}) CHECK(std::abs(std::stod(layers[i]) + std::stod(layers[i + 1]) - 0.5) < 1e-12);
  const auto tube = [](int n) {
    return write(
        R"({ id = "A", angle = 0 })",
        {.nx = n, .ny = 2, .map = [](double u, double v) { return Vec3(10 * v, std::sin(3 * u), std::cos(3 * u)); }},
        pulled, "bottom", "{ away-from = [5, 0, 0] }");
  };
  CHECK(tube(15).finding("deck.coarse-arc"));   // 11.5 degrees an element
  CHECK(!tube(40).finding("deck.coarse-arc"));  // 4.3
}

TEST_CASE("a part without supports or loads is written, with a warning each") {
  const Deck deck = write(R"({ id = "A", angle = 0 })", Grid::rectangle(2, 2, 10, 10));
  CHECK(deck.finding("deck.no-supports"));
  CHECK(deck.finding("deck.no-loads"));
  CHECK(deck.with("*BOUNDARY").empty());
}

TEST_CASE("wrong targets of supports and loads are told together") {
  CHECK(test::failure([] {
          write(
              R"({ id = "A", angle = 0 })", Grid::rectangle(2, 2, 10, 10),
              "[support.s]\non = \"lft\"\nhold = \"pinned\"\n[load.p]\non = \"left\"\npressure = 1\nface = \"tool\"\n");
        })
            .find("[support.s]: 'lft' is neither a zone nor a group of the mesh [deck.on-unknown]\n    did you mean "
                  "'left'?") != std::string::npos);
  CHECK(test::failure([] {
          write(
              R"({ id = "A", angle = 0 })", Grid::rectangle(2, 2, 10, 10),
              "[support.s]\non = \"lft\"\nhold = \"pinned\"\n[load.p]\non = \"left\"\npressure = 1\nface = \"tool\"\n");
        }).find("[load.p]: a pressure acts on a zone or element group, not on points or edges [deck.on-kind]") !=
        std::string::npos);
}

TEST_CASE("a point far from the part is doubted") {
  const Deck deck =
      write(R"({ id = "A", angle = 0 })", Grid::rectangle(2, 2, 10, 10),
            "[support.s]\non = \"left\"\nhold = \"pinned\"\n[load.f]\npoint = [10, 10, 90]\nforce = [0, 0, 1]\n");
  REQUIRE(deck.finding("deck.point-far"));
  CHECK(deck.finding("deck.point-far")->what.find("is 90 mm away") != std::string::npos);
}

}  // namespace of_calculix_text
