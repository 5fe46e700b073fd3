// Bulk data decks, read field by field as the format lays them out: 8 columns, or 16 behind a name with a star.
#include "support.hpp"

#include <fmt/format.h>

#include <cmath>
#include <map>
#include <sstream>

using namespace bordado;
using test::Grid;

namespace {

using Card = std::vector<std::string>;

std::string trimmed(const std::string& text) {
  const auto first = text.find_first_not_of(' ');
  return first == std::string::npos ? "" : text.substr(first, text.find_last_not_of(' ') - first + 1);
}

/// Cards by name, with the star gone and continuation lines joined.
std::map<std::string, std::vector<Card>> cards(const std::string& text) {
  std::map<std::string, std::vector<Card>> out;
  std::istringstream lines(text);
  bool bulk = false;
  Card* current = nullptr;
  for (std::string line; std::getline(lines, line);) {
    CHECK_MESSAGE(line.size() <= 80, line);
    if (line == "BEGIN BULK") bulk = true;
    if (!bulk || line[0] == '$' || line == "BEGIN BULK" || line == "ENDDATA") continue;
    line.resize(80, ' ');
    const std::string name = trimmed(line.substr(0, 8));
    const bool large = name.find('*') != std::string::npos;
    if (!name.empty() && name != "*") current = &out[name.substr(0, name.find('*'))].emplace_back();
    REQUIRE(current);
    for (std::size_t at = 8; at < 72; at += large ? 16 : 8)
      current->push_back(trimmed(line.substr(at, large ? 16 : 8)));
  }
  return out;
}

struct Deck {
  Design design;
  std::map<std::string, std::vector<Card>> cards;
};

Deck write(const std::string& plies, const Grid& grid, const std::string& surface = "bottom",
           const std::string& conditions = "") {
  const test::Folder folder;
  folder.write("grid.msh", test::msh(grid));
  Findings findings;
  Deck out{
      open(folder.write(
               "p.toml",
               fmt::format(
                   "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"grid.msh\", length = \"mm\" "
                   "}}\nside = {{ along = [0, 0, 1] }}\nsurface = \"{}\"\n{}"
                   "[frame.skew]\nvector = [1, 2, 0.3]\n[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ {} ]\n{}",
                   surface, test::materials(), plies, conditions)),
           findings),
      {}};
  write_deck(out.design, "bulk-data", folder / "p.bdf", {}, findings);
  out.cards = cards(read_file(folder / "p.bdf"));
  return out;
}

const Grid hill{.nx = 5, .ny = 4, .map = [](double u, double v) {
                  return Vec3(10 * u + v, 8 * v - 0.5 * u, std::sin(2 * u) + v * v);
                }};

}  // namespace

TEST_CASE("the material angle turns side 1-2 of each element into the laminate's reference") {
  for (const bool triangles : {false, true}) {
    Grid grid = hill;
    grid.triangles = triangles;
    const Deck deck = write(R"({ id = "A", angle = 0, frame = "skew" })", grid);
    const auto& elements = deck.cards.at(triangles ? "CTRIA3" : "CQUAD4");
    REQUIRE(elements.size() == deck.design.surface.element_count());
    for (mesh::ElementIndex e = 0; e < elements.size(); ++e) {
      const auto corners = deck.design.surface.corners_of(e);
      const Vec3& n = deck.design.geometry.normals[e];
      Vec3 side = deck.design.surface.points[corners[1]] - deck.design.surface.points[corners[0]];
      side = (side - side.dot(n) * n).normalized();
      const double angle = std::stod(elements[e][2 + corners.size()]);
      const Vec3 fibre = frame::turned(side, n, Angle::degrees(angle));
      CHECK(std::abs(std::abs(fibre.dot(deck.design.sections.references[e])) - 1) <
            1e-10);  // the same fibre, to 1e-3 degrees
      CHECK(elements[e][0] == std::to_string(deck.design.surface.element_ids[e]));
    }
  }
}

TEST_CASE("layered properties carry z0, layers first laid first, and ask for their results") {
  for (const auto& [surface, z0] :
       {std::pair{"bottom", "0."}, std::pair{"middle", "-0.375"}, std::pair{"top", "-0.75"}}) {
    const Deck deck = write(R"({ id = "A", angle = 30 }, { id = "B", angle = -60, thickness = 0.5 })", hill, surface);
    REQUIRE(deck.cards.at("PCOMP").size() == 1);
    const Card& property = deck.cards.at("PCOMP")[0];
    CHECK(property[0] == "1");
    CHECK(property[1] == z0);
    CHECK(Card(property.begin() + 8, property.begin() + 16) ==
          Card{"1", "0.25", "30.", "YES", "1", "0.5", "-60.", "YES"});
  }
}

TEST_CASE("materials: orthotropic and isotropic cards in the part's units") {
  const Deck deck = write(R"({ id = "A", angle = 0 }, { id = "F", material = "foam" })", hill);
  CHECK(Card(deck.cards.at("MAT8")[0].begin(), deck.cards.at("MAT8")[0].begin() + 8) ==
        Card{"1", "135000.", "9000.", "0.3", "5000.", "5000.", "3200.", "1.55e-9"});
  CHECK(Card(deck.cards.at("MAT1")[0].begin(), deck.cards.at("MAT1")[0].begin() + 5) ==
        Card{"2", "70.", "25.", "0.4", "8.e-11"});
}

TEST_CASE("supports and loads: the freedoms held, the force spread over linear edges, the pressure on elements") {
  const Deck deck = write(R"({ id = "A", angle = 0 })", Grid::rectangle(2, 2, 10, 10), "bottom",
                          "[support.s]\non = \"left\"\nhold = [\"x\", \"z\", \"ry\"]\n[load.a]\non = \"right\"\nforce "
                          "= [0, 4, 0]\n[load.b]\non = \"plate\"\npressure = 0.25\nface = \"bag\"\n");
  const Card& held = deck.cards.at("SPC1")[0];
  CHECK(Card(held.begin(), held.begin() + 2) == Card{"1", "135"});
  for (std::size_t i = 2; i < 5; ++i)
    CHECK(deck.design.surface.points[*mesh::node_with_id(deck.design.surface, std::stol(held[i]))].x() == 0.0);
  CHECK(held[5].empty());
  double sum = 0;
  for (const Card& force : deck.cards.at("FORCE")) {
    CHECK(force[3] == "1.");  // scale
    sum += std::stod(force[5]);
  }
  CHECK(deck.cards.at("FORCE").size() == 3);  // a linear mesh stays linear
  CHECK(sum == doctest::Approx(4.0));
  CHECK(deck.cards.at("PLOAD4").size() == 4);
  CHECK(deck.cards.at("PLOAD4")[0][2] == "-0.25");
}

TEST_CASE("quadratic elements keep their shape and nodes") {
  for (const bool triangles : {false, true}) {
    Grid grid = hill;
    grid.quadratic = true;
    grid.triangles = triangles;
    const Deck deck = write(R"({ id = "A", angle = 0 })", grid);
    const auto& elements = deck.cards.at(triangles ? "CTRIA6" : "CQUAD8");
    for (mesh::ElementIndex e = 0; e < elements.size(); ++e) {
      const auto nodes = deck.design.surface.nodes_of(e);
      for (std::size_t i = 0; i < nodes.size(); ++i)
        CHECK(elements[e][2 + i] == std::to_string(deck.design.surface.node_ids[nodes[i]]));
      CHECK(elements[e][triangles ? 8 : 14] != "");  // the angle, behind the corner thicknesses of a quadrilateral
    }
  }
}

TEST_CASE("coordinates are written to 1e-9 of the part's size") {
  const Deck deck = write(R"({ id = "A", angle = 0 })", hill);
  for (std::size_t i = 0; i < deck.design.surface.points.size(); ++i) {
    const Card& grid = deck.cards.at("GRID")[i];
    CHECK(grid[0] == std::to_string(deck.design.surface.node_ids[i]));
    CHECK((Vec3(std::stod(grid[2]), std::stod(grid[3]), std::stod(grid[4])) - deck.design.surface.points[i]).norm() <
          1e-9);
  }
}
