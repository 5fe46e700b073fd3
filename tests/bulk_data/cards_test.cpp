// Bulk data decks, read field by field as the format lays them out: 8 columns, or 16 behind a name with a star.
#include "bulk_cards.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>

#include <cmath>
#include <map>
#include <random>
#include <set>
#include <sstream>

namespace of_bulk_data_cards {

using namespace bordado;
using test::Card;
using test::cards;
using test::Grid;

namespace {

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
  CHECK(test::near(sum, 4.0));
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

TEST_CASE("every number in every card is right to a millionth, however large or small") {
  std::mt19937_64 random(11);
  std::uniform_real_distribution<double> exponent(-6, 6), sign(-1, 1), degrees(-90, 90);
  const auto any = [&](double low, double high) {
    return std::pow(10.0, std::uniform_real_distribution<double>(low, high)(random));
  };
  std::map<std::string, double> worst;
  const auto compare = [&](const std::string& card, const std::string& field, double value) {
    double& error = worst[card];
    error = std::max(error, std::abs(std::stod(field) - value) / std::abs(value));
  };
  for (int round = 0; round < 40; ++round) {
    const double scale = any(-3, 3), pressure = any(-9, 3) * (sign(random) < 0 ? -1 : 1), force = any(-6, 6);
    const double angle = degrees(random), thickness = scale * any(-4, -2);
    const Deck deck =
        write(fmt::format("{{ id = \"A\", angle = {}, thickness = {}, frame = \"skew\" }}", angle, thickness),
              {.nx = 3,
               .ny = 2,
               .map =
                   [scale](double u, double v) {
                     return Vec3(scale * (u + 0.1 * v), scale * (v - 0.2 * u * u), scale * 0.1 * u * v);
                   }},
              "middle",
              fmt::format("[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.p]\non = "
                          "\"plate\"\npressure = {}\nface = \"tool\"\n[load.f]\non = \"right\"\nforce = "
                          "[{}, 0, 0]\n",
                          pressure, force));
    const Design& design = deck.design;
    for (std::size_t n = 0; n < design.surface.points.size(); ++n)
      for (std::size_t k = 0; k < 3; ++k)
        if (const double x = design.surface.points[n][static_cast<Eigen::Index>(k)]; x != 0.0)
          compare("GRID", deck.cards.at("GRID")[n][2 + k], x);
    Findings ignored;
    const model::Model model = assemble(design, {}, ignored);
    for (std::size_t i = 0; i < deck.cards.at("PLOAD4").size(); ++i)
      compare("PLOAD4", deck.cards.at("PLOAD4")[i][2],
              pressure * std::get<model::Model::Pressure>(model.loads[0].what).face_ratio[i]);
    double sum = 0.0;
    for (const Card& card : deck.cards.at("FORCE")) sum += std::stod(card[3]) * std::stod(card[4]);
    compare("FORCE", fmt::format("{}", sum), force);
    compare("PCOMP", deck.cards.at("PCOMP")[0][9], thickness);
    compare("PCOMP", deck.cards.at("PCOMP")[0][10], angle);
    compare("MAT8", deck.cards.at("MAT8")[0][1], 135000.0);
    for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) {
      const auto corners = design.surface.corners_of(e);
      const Vec3& n = design.geometry.normals[e];
      const Vec3 side = design.surface.points[corners[1]] - design.surface.points[corners[0]];
      const Angle theta = same_fibre(frame::between(side - side.dot(n) * n, design.sections.references[e], n));
      compare("CQUAD4", deck.cards.at("CQUAD4")[e][6], theta.degrees());
    }
  }
  for (const auto& [card, error] : worst) {
    INFO(card << " " << error);
    CHECK(error < 1e-6);
  }
  // The pressure itself, on a flat part: 0.155 kPa once lost its third digit.
  const Deck flat =
      write("{ id = \"A\", angle = 0 }", Grid::rectangle(2, 1, 10, 10), "middle",
            "[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.p]\non = \"plate\"\npressure = \"0.155 "
            "kPa\"\nface = \"bag\"\n");
  for (const Card& card : flat.cards.at("PLOAD4")) CHECK(test::near(std::stod(card[2]), -0.000155, 1e-7));
}

TEST_CASE("ids of nine and more digits keep their digits") {
  const test::Folder folder;
  std::string mesh = test::msh(Grid::rectangle(1, 1, 10, 10));
  // One quadrilateral, its ids made long.
  folder.write("grid.msh",
               "$MeshFormat\n2.2 0 8\n$EndMeshFormat\n$Nodes\n4\n1000000001 0 0 0\n1000000002 1 0 0\n"
               "1000000003 1 1 0\n1000000004 0 1 0\n$EndNodes\n$Elements\n1\n1234567890 3 2 0 1 1000000001 "
               "1000000002 1000000003 1000000004\n$EndElements\n");
  Findings findings;
  const Design design =
      open(folder.write("p.toml",
                        "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" "
                        "}\nside = { along = [0, 0, 1] }\nsurface = \"bottom\"\n" +
                            test::materials() +
                            "[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ { id = \"A\", angle = 30 } ]\n"),
           findings);
  write_deck(design, "bulk-data", folder / "p.bdf", {.laminate_only = true}, findings);
  const auto all = cards("BEGIN BULK\n" + read_file(folder / "p.bdf"));
  REQUIRE(all.at("CQUAD4").size() == 1);
  CHECK(all.at("CQUAD4")[0][0] == "1234567890");
  CHECK(all.at("CQUAD4")[0][5] == "1000000004");
}

TEST_CASE("pressure on a curved part is that of the face that is pressed") {
  // A quarter tube of mean radius 100 with a wall of 4: on the mesh at its inner face the outer one is 4 % larger.
  const auto value = [](const std::string& face) {
    const Deck deck = write(
        "{ id = \"A\", angle = 0, thickness = 4 }",
        {.nx = 40,
         .ny = 2,
         .map = [](double u,
                   double v) { return Vec3(20 * v, 100 * std::cos(1.5707963 * u), -100 * std::sin(1.5707963 * u)); }},
        "bottom",
        "[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.p]\non = \"plate\"\npressure = 1\nface = "
        "\"" +
            face + "\"\n");
    double sum = 0.0;
    for (const Card& card : deck.cards.at("PLOAD4")) sum += std::abs(std::stod(card[2])) / 80.0;
    // side = along z, seen from below: which face is outside follows from the normals.
    const Vec3 outward = deck.design.geometry.centres[40] - Vec3(deck.design.geometry.centres[40].x(), 0, 0);
    return std::pair(sum, deck.design.geometry.normals[40].dot(outward) > 0.0 ? 1.04 : 0.96);
  };
  const auto [tool, unused] = value("tool");
  const auto [bag, wanted] = value("bag");
  CHECK(test::near(tool, 1.0, 1e-9));
  CHECK(test::near(bag, wanted,
                   2e-3));  // flat elements of 2.25 degrees; those at the ends have neighbours on one side
}

namespace {

const std::string warm_materials =
    "[material.hot]\nfrom = \"ud\"\nalpha1 = -0.3e-6\nalpha2 = 30e-6\nstress-free-temperature = 120\n";
const std::string warm_cases = R"(
[zone.half]
box = { from = [-1, -1, -1], to = [5, 99, 1] }
[support.s]
on = "left"
hold = "clamped"
[load.warm]
on = "half"
temperature = 60
[load.pull]
on = "right"
force = [7, 0, 0]
[load.move]
on = "right"
displacement = { x = 0.5 }
[case.warmed]
loads = { warm = 0.5 }
[case.moved]
loads = ["move"]
supports = []
[case.pulled]
loads = ["pull"]
)";

/// The lines before BEGIN BULK.
std::vector<std::string> case_control(const std::string& deck) {
  std::vector<std::string> out;
  std::istringstream in(deck);
  for (std::string line; std::getline(in, line) && line != "BEGIN BULK";) out.push_back(test::trimmed(line));
  return out;
}

}  // namespace

TEST_CASE("what cases call is there: temperatures everywhere, prescribed motion alone, no loads that are none") {
  for (const bool solids : {false, true}) {
    CAPTURE(solids);
    const test::Folder folder;
    folder.write("grid.msh", test::msh(Grid::rectangle(4, 2, 10, 10)));
    Findings findings;
    const Design design = open(
        folder.write("p.toml",
                     "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" }\n"
                     "side = { along = [0, 0, 1] }\nsurface = \"bottom\"\n" +
                         test::materials() + warm_materials +
                         "[layup]\nmaterial = \"hot\"\nframe = \"x\"\nplies = [ { id = \"A\", code = \"[0/90]\" } ]\n" +
                         warm_cases),
        findings);
    model::AssembleOptions how;
    if (solids) how.quadratic = true, how.solids = model::SolidOptions{};
    const model::Model model = assemble(design, how, findings);
    const deck::Format& format = *deck::find_format("bulk-data");
    format.write(model, folder / "p.bdf", {}, findings);
    const std::string text = read_file(folder / "p.bdf");
    const auto all = cards(text);
    // Every set that a subcase calls is defined by cards, and each subcase of moved nodes has supports.
    std::set<std::string> loads, spcs, heats, defined_loads, defined_spcs, defined_heats;
    std::size_t with_supports = 0;
    for (const std::string& line : case_control(text)) {
      const auto value = [&](const std::string& key, std::set<std::string>& into) {
        if (line.starts_with(key)) into.insert(line.substr(key.size()));
        return line.starts_with(key);
      };
      value("LOAD = ", loads);
      value("TEMPERATURE(LOAD) = ", heats);
      with_supports += value("SPC = ", spcs);
    }
    for (const char* const name : {"FORCE", "MOMENT", "PLOAD4", "GRAV", "RFORCE", "LOAD"})
      if (all.count(name))
        for (const Card& card : all.at(name)) defined_loads.insert(card[0]);
    for (const char* const name : {"SPC", "SPC1", "SPCADD"})
      if (all.count(name))
        for (const Card& card : all.at(name)) defined_spcs.insert(card[0]);
    for (const char* const name : {"TEMP", "TEMPD", "TEMPP1"})
      if (all.count(name))
        for (const Card& card : all.at(name)) defined_heats.insert(card[0]);
    for (const std::string& set : loads) CHECK_MESSAGE(defined_loads.count(set) == 1, "load " << set);
    for (const std::string& set : spcs) CHECK_MESSAGE(defined_spcs.count(set) == 1, "supports " << set);
    for (const std::string& set : heats) CHECK_MESSAGE(defined_heats.count(set) == 1, "temperature " << set);
    CHECK(with_supports == 3);
    CHECK(loads.size() == 1);
    CHECK(heats.size() == 1);
    // What no load warms is at the stress-free temperature; the rest half way from there to 60.
    REQUIRE(all.at("TEMPD").size() == 1);
    CHECK(std::stod(all.at("TEMPD")[0][1]) == 120.0);
    for (const Card& card : all.at("TEMP")) CHECK(std::stod(card[2]) == 90.0);
    // Properties of shells say it (TREF, seventh field, from memory of the card), materials of solids in their last.
    if (solids) {
      for (const Card& card : all.at("MAT9")) CHECK(std::stod(card[29]) == 120.0);
    } else {
      for (const Card& card : all.at("PCOMP")) CHECK(std::stod(card[5]) == 120.0);
    }
  }
}

TEST_CASE("materials free of stress at different temperatures are no bulk data; a link is in the decks of its cases") {
  const std::string two = "[material.cold]\nfrom = \"ud\"\nalpha1 = 0\nalpha2 = 1e-6\nstress-free-temperature = 20\n";
  const std::string told = test::failure([&] {
    write(R"({ id = "A", angle = 0, material = "hot" }, { id = "B", angle = 0, material = "cold" })",
          Grid::rectangle(2, 2, 10, 10), "bottom",
          warm_materials + two + "[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.w]\ntemperature = 60\n");
  });
  CHECK(told.find("[deck.stress-free-differs]") != std::string::npos);

  const test::Folder folder;
  folder.write("grid.msh", test::msh(Grid::rectangle(4, 4, 10, 10)));
  Findings findings;
  const Design design =
      open(folder.write(
               "p.toml",
               "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" }\n"
               "side = { along = [0, 0, 1] }\nsurface = \"bottom\"\n" +
                   test::materials() +
                   "[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ { id = \"A\", code = \"[0/90]\" } ]\n"
                   "[zone.patch]\nbox = { from = [4, 4, -1], to = [10, 10, 1] }\n[support.s]\non = \"left\"\nhold = "
                   "\"clamped\"\n[load.linked]\non = \"patch\"\nforce = [0, 0, 1]\nby = \"link\"\n[load.plain]\non = "
                   "\"right\"\nforce = [0, 0, 1]\n[case.one]\nloads = [\"linked\"]\n[case.two]\nloads = [\"plain\"]\n"),
           findings);
  const model::Model model = assemble(design, {}, findings);
  for (const deck::Format& format : deck::formats()) {
    const auto decks = deck::decks_of(format, model, {});
    CHECK(decks == std::vector<std::vector<std::size_t>>{{0}, {1}});
    CHECK(test::failure([&] { format.write(model, folder / "all.deck", {}, findings); }).find("other stiff links") !=
          std::string::npos);
  }
  const deck::Format& bulk = *deck::find_format("bulk-data");
  for (std::size_t k = 0; k < 2; ++k) {
    deck::WriteOptions options;
    options.cases = {k};
    bulk.write(model, folder / "one.bdf", options, findings);
    CHECK((read_file(folder / "one.bdf").find("RBE2") != std::string::npos) == (k == 0));
  }
}

}  // namespace of_bulk_data_cards
