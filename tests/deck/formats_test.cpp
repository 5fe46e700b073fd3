// What both writers have in common: the same bytes every time, an independent reader, laminate only, files whole or not
// at all.
#include "cases.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <map>
#include <regex>
#include <set>

namespace of_deck_formats {

using namespace bordado;
using test::Grid;

namespace {

Design skiff() {
  Findings findings;
  return open(test::source("examples/skiff/skiff.toml"), findings);
}

deck::Written write(const Design& design, std::string_view format, const std::string& path,
                    const deck::WriteOptions& options = {}) {
  Findings findings;
  return write_deck(design, format, path, options, findings);
}

}  // namespace

TEST_CASE("an independent reader finds the same nodes and elements in the decks as in the mesh") {
  const Design design = skiff();
  const test::Folder folder;
  const mesh::Surface raised = mesh::raised_to_quadratic(design.surface);
  const std::map<std::string, mesh::Shape> shapes{{"quad", mesh::Shape::quadrilateral4},
                                                  {"triangle", mesh::Shape::triangle3},
                                                  {"quad8", mesh::Shape::quadrilateral8},
                                                  {"triangle6", mesh::Shape::triangle6}};
  for (const deck::Format& format : deck::formats()) {
    INFO(format.title);
    const std::string path = folder / ("skiff" + std::string(format.extension));
    write(design, format.name, path);
    const test::Run reader =
        test::run(fmt::format("/usr/bin/python3 '{}' '{}'", test::source("tests/deck/read_back.py"), path));
    REQUIRE_MESSAGE(reader.status == 0, reader.err);
    const auto read = nlohmann::json::parse(reader.out);
    const mesh::Surface& expected = format.quadratic ? raised : design.surface;
    REQUIRE(read["points"].size() == expected.points.size());
    double largest = 0;
    for (std::size_t i = 0; i < expected.points.size(); ++i)
      for (int k = 0; k < 3; ++k)
        largest = std::max(
            largest, std::abs(read["points"][i][static_cast<std::size_t>(k)].get<double>() - expected.points[i][k]));
    CHECK(largest < 1e-7);  // mm; coordinates of some thousand have 12 digits
    std::map<std::vector<std::uint32_t>, mesh::Shape> wanted;
    for (mesh::ElementIndex e = 0; e < expected.element_count(); ++e) {
      const auto nodes = expected.nodes_of(e);
      wanted[{nodes.begin(), nodes.end()}] = expected.shapes[e];
    }
    // Every element, and nothing else; ties at loaded nodes (docs/calculix.md) are written over elements.
    std::set<std::vector<std::uint32_t>> seen;
    for (const auto& block : read["cells"])
      for (const auto& cell : block["nodes"]) {
        const auto found = wanted.find(cell.get<std::vector<std::uint32_t>>());
        REQUIRE(found != wanted.end());
        CHECK(found->second == shapes.at(block["type"]));
        seen.insert(found->first);
      }
    CHECK(seen.size() == expected.element_count());
  }
}

TEST_CASE("the same input gives the same bytes, and no date") {
  const test::Folder folder;
  for (const deck::Format& format : deck::formats()) {
    write(skiff(), format.name, folder / "a");
    write(skiff(), format.name, folder / "b");
    const std::string a = read_file(folder / "a");
    CHECK(a == read_file(folder / "b"));
    const std::string head = a.substr(0, 1000);
    CHECK(!std::regex_search(head, std::regex("(19|20)[0-9]{2}[-/.]|[0-9]{2}:[0-9]{2}")));  // neither date nor time
  }
}

TEST_CASE("the head tells part, units, version and what was condensed") {
  const test::Folder folder;
  for (const deck::Format& format : deck::formats()) {
    write(skiff(), format.name, folder / "a");
    const std::string text = read_file(folder / "a").substr(0, 2000);
    CHECK(text.find("Skiff hull: ") != std::string::npos);
    CHECK(text.find(fmt::format("written by Bordado {}", version())) != std::string::npos);
    CHECK(text.find("units: mm, t, s (force N, stress MPa, density t/mm^3)") != std::string::npos);
    CHECK(text.find(fmt::format("31 plies, {} different stacks, {} sections", skiff().layup.stack_count(),
                                skiff().sections.count())) != std::string::npos);
    CHECK(text.find("rounded to within 0.5 deg: largest") != std::string::npos);
  }
}

TEST_CASE("a part's name cannot break out of its comment") {
  const test::Folder folder;
  Design design = skiff();
  design.part.name = "Hull\n*BOUNDARY\nEALL,1,6";
  for (const deck::Format& format : deck::formats()) {
    write(design, format.name, folder / "a");
    const std::string text = read_file(folder / "a");
    CHECK(text.find("Hull *BOUNDARY EALL,1,6: ") != std::string::npos);
    CHECK(text.find("\nEALL,1,6") == std::string::npos);
  }
}

TEST_CASE("laminate only has sections and nothing of mesh, supports and loads") {
  const test::Folder folder;
  const deck::WriteOptions only{
      .orientation_tolerance = Angle::degrees(0.1), .laminate_only = true, .ply_results = true};
  write(skiff(), "calculix", folder / "a.inp", only);
  const std::string calculix = read_file(folder / "a.inp");
  for (const char* card : {"*NODE", "*ELEMENT", "*STEP", "*BOUNDARY", "*CLOAD", "*DLOAD"})
    CHECK(calculix.find(card) == std::string::npos);
  for (const char* card : {"*MATERIAL", "*ORIENTATION", "*ELSET", "*SHELL SECTION, COMPOSITE"})
    CHECK(calculix.find(card) != std::string::npos);
  write(skiff(), "bulk-data", folder / "a.bdf", only);
  const std::string bulk = read_file(folder / "a.bdf");
  for (const char* card : {"GRID", "SOL", "BEGIN BULK", "ENDDATA", "SPC1", "FORCE", "PLOAD4"})
    CHECK(bulk.find(fmt::format("\n{}", card)) == std::string::npos);
  for (const char* card : {"CQUAD4", "CTRIA3", "PCOMP*", "MAT8*"})
    CHECK(bulk.find(fmt::format("\n{}", card)) != std::string::npos);
}

namespace {

/// Somebody's own deck: mesh, supports and a pressure by hand, the laminate included.
std::string own_deck(const mesh::Surface& surface) {
  std::string own = "*NODE, NSET=NALL\n", left;
  for (std::size_t i = 0; i < surface.points.size(); ++i) {
    const Vec3& p = surface.points[i];
    own += fmt::format("{},{:.10g},{:.10g},{:.10g}\n", surface.node_ids[i], p.x(), p.y(), p.z());
    if (p.x() < 1e-9) left += fmt::format("{},\n", surface.node_ids[i]);
  }
  own += "*ELEMENT, TYPE=S8R, ELSET=ALL\n";
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
    own += fmt::format("{}", surface.element_ids[e]);
    for (const auto n : surface.nodes_of(e)) own += fmt::format(",{}", surface.node_ids[n]);
    own += "\n";
  }
  return own + "*INCLUDE, INPUT=laminate.inp\n*NSET, NSET=LEFT\n" + left +
         "*BOUNDARY\nLEFT,1,6\n*STEP\n*STATIC\n*DLOAD\nALL,P,0.001\n*NODE PRINT, NSET=NALL\nU\n*END STEP\n";
}

}  // namespace

TEST_CASE("a laminate-only file, included in a deck that has mesh and loads, gives the same answer as the whole deck") {
  const std::string text = test::case_part(
      "[30/-60/0]",
      "[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.l]\non = \"plate\"\npressure = 0.001\nface = \"tool\"\n",
      "", "bottom");
  const test::Folder folder;
  Grid grid = Grid::rectangle(6, 3, 60, 30);
  grid.quadratic = true;  // the mesh is as the solver needs it
  const test::Solved whole = test::solve(folder, text, grid);
  write(whole.design, "calculix", folder / "laminate.inp",
        {.orientation_tolerance = Angle::degrees(0.1),
         .laminate_only = true,
         .ply_results = true,
         .layers = deck::LayersAs::equivalents});
  folder.write("own.inp", own_deck(whole.nodes));
  const test::Run solver = test::run("OMP_NUM_THREADS=1 ccx -i own", folder.path());
  REQUIRE(!calculix::trouble(solver.status, solver.out).has_value());
  const auto a = whole.answer.largest(), b = calculix::read_answer(folder / "own.dat").largest();
  CHECK(a->id == b->id);
  // The whole deck makes knots of held nodes.
  CHECK((a->value - b->value).norm() < 2e-5 * a->value.norm());
}

TEST_CASE("the laminate alone as three layers deflects and vibrates as with all its plies, in somebody's own deck") {
  const std::string text = test::case_part("[30/-60/0_2/45/90]", "", "", "bottom");
  const test::Folder folder;
  Grid grid = Grid::rectangle(8, 4, 80, 40);
  grid.quadratic = true;
  folder.write("grid.msh", test::msh(grid));
  Findings findings;
  const Design design = open(folder.write("p.toml", text), findings);
  const std::string own = own_deck(design.surface) + "*STEP\n*FREQUENCY\n4\n*END STEP\n";
  Vec3 most[2];
  std::vector<double> frequencies[2];
  for (const bool three : {false, true}) {
    const test::Run run =
        test::run(fmt::format("'{}' deck p.toml --format calculix --laminate-only{} --folder . && mv p-laminate.inp "
                              "laminate.inp",
                              test::program(), three ? " --without-layers" : ""),
                  folder.path());
    INFO(run.out << run.err);
    REQUIRE(run.status == 0);
    const std::string laminate = read_file(folder / "laminate.inp");
    CHECK((laminate.find("as three layers with its A, B, D, H, mass and expansion") != std::string::npos) == three);
    folder.write("own.inp", own);
    const test::Run solver = test::run("OMP_NUM_THREADS=1 ccx -i own", folder.path());
    REQUIRE(!calculix::trouble(solver.status, solver.out).has_value());
    most[three] = calculix::read_answer(folder / "own.dat").largest()->value;
    std::istringstream lines(read_file(folder / "own.dat"));
    bool table = false;
    for (std::string line; std::getline(lines, line);) {
      if (line.find("E I G E N V A L U E   O U T P U T") != std::string::npos) table = true;
      if (line.find("P A R T I C I P A T I O N") != std::string::npos) table = false;
      std::istringstream words(line);
      double mode = 0, eigenvalue = 0, radians = 0, hertz = 0;
      if (table && words >> mode >> eigenvalue >> radians >> hertz) frequencies[three].push_back(hertz);
    }
  }
  CHECK(most[0].norm() > 0.01);
  CHECK((most[1] - most[0]).norm() < 0.005 * most[0].norm());
  REQUIRE(frequencies[0].size() == 4);
  REQUIRE(frequencies[1].size() == 4);
  for (std::size_t i = 0; i < 4; ++i) CHECK(test::near(frequencies[1][i], frequencies[0][i], 0.005));
}

TEST_CASE("an unknown format is refused with the known ones") {
  CHECK(test::failure([] { write(skiff(), "paper", "/tmp/none"); }) ==
        "error: there is no deck format 'paper' [deck.format-unknown]\n    formats: calculix, bulk-data");
}

}  // namespace of_deck_formats
