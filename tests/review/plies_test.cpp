// The ply book against what a hand would reckon.
#include "support.hpp"

#include <bordado/design.hpp>
#include <bordado/review/book.hpp>

#include <fmt/format.h>

#include <random>
#include <utility>

namespace of_review_plies {

using namespace bordado;

namespace {

const std::string head = R"([part]
name = "Plate"
units = "mm, t, s"
mesh = { file = "plate.msh", length = "mm" }
side = { along = [0, 0, 1] }
surface = "bottom"
[material.tape]
from = "carbon-ud"
roll-width = 30
cost = "40 EUR/m^2"
[material.heavy]
from = "steel"
thickness = 1
cost = "5 EUR/kg"
[material.light]
kind = "unidirectional"
E1 = 1e5
E2 = 1e4
nu12 = 0.3
G12 = 5e3
G13 = 5e3
G23 = 3e3
thickness = 0.2
[frame.x]
vector = [1, 0, 0]
[zone.ends]
union = ["near", "far"]
[zone.near]
box = { from = [0, 0, -1], to = [20, 100, 1] }
[zone.far]
box = { from = [180, 0, -1], to = [200, 100, 1] }
[layup]
frame = "x"
plies = [
  { id = "A", material = "tape", angle = 90 },
  { id = "B", material = "heavy", zone = "ends" },
  { id = "C", material = "light", angle = 30, zone = "near" },
]
)";

Design plate(const test::Folder& folder) {
  folder.write("plate.msh", test::msh(test::Grid::rectangle(40, 20, 200, 100)));
  Findings findings;
  return open(folder.write("p.toml", head), findings);
}

}  // namespace

TEST_CASE("area, mass, pieces, direction, roll and cost of plies on a plate") {
  const test::Folder folder;
  const Design d = plate(folder);
  const review::PlyBook book = review::ply_book(d);
  REQUIRE(book.plies.size() == 3);
  const review::PlyEntry &a = book.plies[0], &b = book.plies[1], &c = book.plies[2];
  CHECK(test::near(a.area, 20000));
  CHECK(test::near(*a.mass, 20000 * 0.2 * 1530e-12));
  CHECK(a.pieces == 1);
  CHECK(b.pieces == 2);
  CHECK(test::near(b.area, 4000));
  // Fibres of A run along y: the roll is laid across the plate, 100 mm long in seven strips of 30 mm.
  CHECK(test::near(std::abs(a.direction.y()), 1.0));
  CHECK(test::near(a.furthest.degrees(), 0.0, 1e-6, 1.0));
  CHECK(test::near(a.along, 100));
  CHECK(test::near(a.across, 200));
  CHECK(a.strips == 7);
  CHECK(test::near(*a.roll_length, 700));
  CHECK(test::near(*a.cost, 40 * 0.02));
  CHECK(test::near(*b.cost, 5 * 7900 * 0.004 * 0.001));
  CHECK(!c.mass);  // nobody said what it weighs
  CHECK(!c.roll_length);
  CHECK(!c.cost);
  // A rectangle 20 by 100 seen along 30°.
  CHECK(test::near(c.along, 20 * std::cos(std::numbers::pi / 6) + 100 * 0.5));
  REQUIRE(book.materials.size() == 3);
  CHECK(book.materials[0].plies == 1);
}

TEST_CASE("the extreme direction is where the surface turns most") {
  // A quarter of a tube of radius 50: hoop fibres turn by 45° to either side of their mean.
  const test::Folder folder;
  test::Grid grid{.nx = 90, .ny = 4, .map = [](double u, double v) {
                    return Vec3(50 * std::cos(u * std::numbers::pi / 2), 50 * std::sin(u * std::numbers::pi / 2),
                                100 * v);
                  }};
  folder.write("plate.msh", test::msh(grid));
  Findings findings;
  const Design d = open(folder.write("p.toml", R"([part]
name = "Quarter"
units = "mm, t, s"
mesh = { file = "plate.msh", length = "mm" }
side = { away-from = [0, 0, 50] }
surface = "bottom"
[frame.round]
axis = { through = [0, 0, 0], along = [0, 0, 1], take = "hoop" }
[layup]
frame = "round"
material = "carbon-ud"
plies = [ { id = "A", angle = 0 }, { id = "B", angle = 90 } ]
)"),
                        findings);
  const review::PlyBook book = review::ply_book(d);
  CHECK(test::near(book.plies[0].furthest.degrees(), 44.5, 1e-3));  // the outermost element's middle
  CHECK(test::near(book.plies[0].direction.dot(Vec3(-1, 1, 0).normalized()), 1.0, 1e-6));
  CHECK(book.plies[1].furthest.degrees() < 1e-5);
}

TEST_CASE("pieces of many zones are those that walking from neighbour to neighbour finds in each") {
  std::mt19937 engine(8);
  constexpr int side = 14, zones = 70;  // more than a word of bits
  std::string text = head.substr(0, head.find("[zone.ends]"));
  const test::Grid grid = test::Grid::rectangle(side, side, 200, 100);
  const mesh::Surface plain = test::surface(grid);
  std::vector<std::vector<std::uint8_t>> inside(zones, std::vector<std::uint8_t>(side * side, 0));
  std::string plies;
  for (int z = 0; z < zones; ++z) {
    std::string ids;
    const double share = (z % 10 + 0.5) / 10.0;
    for (int e = 0; e < side * side; ++e)
      if (std::uniform_real_distribution<double>()(engine) < share) {
        inside[static_cast<std::size_t>(z)][static_cast<std::size_t>(e)] = 1;
        ids += fmt::format("{}{}", ids.empty() ? "" : ", ", plain.element_ids[static_cast<std::size_t>(e)]);
      }
    text += fmt::format("[zone.z{}]\nelements = [{}]\n", z, ids);
    plies += fmt::format("{{ id = \"P{}\", material = \"tape\", angle = 0, zone = \"z{}\" }},\n", z, z);
  }
  text += "[layup]\nframe = \"x\"\nplies = [ { id = \"A\", material = \"tape\", angle = 90 },\n" + plies + "]\n";
  const test::Folder folder;
  folder.write("plate.msh", test::msh(grid));
  Findings findings;
  const Design d = open(folder.write("p.toml", text), findings);
  // Which grid cell an element is, by its centre.
  std::vector<mesh::ElementIndex> at(side * side);
  for (mesh::ElementIndex e = 0; e < side * side; ++e)
    at[static_cast<std::size_t>(d.geometry.centres[e].y() / 100 * side) * side +
       static_cast<std::size_t>(d.geometry.centres[e].x() / 200 * side)] = e;
  const review::PlyBook book = review::ply_book(d);
  for (std::size_t z = 0; z < zones; ++z) {
    std::vector<std::uint8_t> open_cells(side * side);
    for (std::size_t c = 0; c < open_cells.size(); ++c)
      open_cells[c] = inside[z][static_cast<std::size_t>(d.surface.element_ids[at[c]] - plain.element_ids[0])];
    std::size_t pieces = 0;
    const std::function<void(int, int)> walk = [&](int i, int j) {
      if (i < 0 || j < 0 || i >= side || j >= side) return;
      std::uint8_t& cell = open_cells[static_cast<std::size_t>(j * side + i)];
      if (!std::exchange(cell, 0)) return;
      walk(i + 1, j), walk(i - 1, j), walk(i, j + 1), walk(i, j - 1);
    };
    for (int j = 0; j < side; ++j)
      for (int i = 0; i < side; ++i)
        if (open_cells[static_cast<std::size_t>(j * side + i)]) ++pieces, walk(i, j);
    CHECK_MESSAGE(book.plies[z + 1].pieces == pieces, "zone ", z);
  }
}

}  // namespace of_review_plies
