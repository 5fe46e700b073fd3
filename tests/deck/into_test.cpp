// A laminate put into decks that exist, and the cards of cases and solids as independent readers see them.
#include "bulk_cards.hpp"
#include "cases.hpp"

#include <bordado/base/files.hpp>
#include <bordado/solids.hpp>

#include <nlohmann/json.hpp>

namespace of_deck_into {

using namespace bordado;
using test::Cases;
using test::Grid;

namespace {

const std::string bent = test::cantilever("[0, 0, 1]");

/// Held where no node is made a knot by it.
const std::string spanned = R"(
[support.left]
on = "left"
hold = "pinned"
[support.right]
on = "right"
hold = ["z"]
[load.over]
on = "everything"
force = [0, 0, 1]
)";

std::string replaced(std::string text, const std::string& what, const std::string& by) {
  const auto at = text.find(what);
  REQUIRE(at != std::string::npos);
  return text.replace(at, what.size(), by);
}

/// Writes a deck again with another laminate in it.
deck::Written put_into(const test::Folder& folder, const std::string& format, const std::string& existing,
                       const std::string& part, const std::string& out, Findings& findings) {
  const Design design = open(folder.write("into.toml", part), findings);
  const model::Model model = assemble(design, {.quadratic = false, .laminate_only = true, .solids = {}}, findings);
  deck::WriteOptions options;
  options.ply_results = false;
  return deck::write_into(*deck::find_format(format), model, folder / existing, folder / out, options, findings);
}

/// What is left of a text without whole lines that another has, too.
std::vector<std::string> lines_of(const std::string& text) {
  std::vector<std::string> out;
  std::istringstream in(text);
  for (std::string line; std::getline(in, line);) out.push_back(line);
  return out;
}

}  // namespace

TEST_CASE("a laminate put into somebody's CalculiX deck answers as that laminate, on whichever side it is laid") {
  // Somebody's: one ply over all. Ours: unsymmetric, laid from the other side, on the mesh of that deck.
  const test::Folder folder;
  const Grid grid = Grid::rectangle(10, 2, 100, 20);
  Findings findings;
  const Design theirs = test::open_on(folder, test::case_part("[0]", spanned), grid, findings);
  deck::WriteOptions options;
  options.ply_results = false;
  write_deck(theirs, "calculix", folder / "theirs.inp", options, findings);
  // What else stands in it stays, comments and odd spaces included.
  std::string text = read_file(folder / "theirs.inp");
  text = "** a remark of theirs\r\n" + replaced(text, "*STEP\n", "** and one more   \n*Step\n");
  folder.write("theirs.inp", text);
  for (const std::string side : {"[0, 0, 1]", "[0, 0, -1]"})
    for (const std::string surface : {"bottom", "middle"}) {
      INFO(side << " " << surface);
      std::string part = test::case_part("[0/90]", spanned, "", surface);
      part = replaced(replaced(part, "grid.msh", "theirs.inp"), "along = [0, 0, 1]", "along = " + side);
      put_into(folder, "calculix", "theirs.inp", part, "ours.inp", findings);
      const std::string ours = read_file(folder / "ours.inp");
      // Byte for byte but for the section that went and what came.
      const auto begin = text.find("*SHELL SECTION"), end = text.find("** nodes by", begin) < text.find("*NSET", begin)
                                                                ? text.find("** nodes by", begin)
                                                                : text.find("*NSET", begin);
      CHECK(ours.substr(0, begin) == text.substr(0, begin));
      CHECK(ours.substr(ours.size() - (text.size() - end)) == text.substr(end));
      const auto run = calculix::run(folder / "ours.inp");
      CHECK(!calculix::trouble(run.exit_status, read_file(run.log)));
      const calculix::Answer answer = calculix::read_answer(run.dat);
      const test::Folder own_folder;
      const std::string own =
          replaced(test::case_part("[0/90]", spanned, "", surface), "along = [0, 0, 1]", "along = " + side);
      const Cases direct = test::solve_cases(own_folder, own, grid);
      // The clamped corner nodes of both decks stand at the same places; so does the largest displacement.
      CHECK(test::off(answer.largest()->value.norm(), direct.answers[0].largest()->value.norm()) < 1e-6);
      // In a strip that is not symmetric the pull of its side shows in x.
      double along = 0, direct_along = 0;
      for (const auto& row : answer.displacements) along += row.value.x();
      for (const auto& row : direct.answers[0].displacements) direct_along += row.value.x();
      CHECK(std::abs(along - direct_along) < 1e-6 * (1e-3 + std::abs(direct_along)));
    }
}

TEST_CASE("a deck that is not the part's is refused; sections shared with other shells are kept for these") {
  const test::Folder folder;
  Findings findings;
  const std::string shells = R"(*NODE
1,0,0,0
2,1,0,0
3,2,0,0
4,0,1,0
5,1,1,0
6,2,1,0
11,0.5,0,0
12,1.5,0,0
13,0.5,1,0
14,1.5,1,0
15,0,0.5,0
16,1,0.5,0
17,2,0.5,0
*ELEMENT,TYPE=S8R,ELSET=Both
1,1,2,5,4,11,16,13,15
2,2,3,6,5,12,17,14,16
*MATERIAL,NAME=M1_OLD
*ELASTIC
70000,.3
*ELSET,ELSET=One
1
*SHELL SECTION,ELSET=Both,MATERIAL=M1_OLD
1.
)";
  folder.write("theirs.inp", shells);
  folder.write("one.inp", replaced(shells, "2,2,3,6,5,12,17,14,16\n", ""));
  const std::string part = replaced(test::case_part("[0/90]", ""), "grid.msh", "one.inp");
  put_into(folder, "calculix", "theirs.inp", part, "ours.inp", findings);
  const std::string ours = read_file(folder / "ours.inp");
  INFO(ours);
  CHECK(ours.find("*ELSET, ELSET=L2_REST1\n2\n*SHELL SECTION,ELSET=L2_REST1,MATERIAL=M1_OLD\n1.\n") !=
        std::string::npos);
  CHECK(ours.find("L2_M1_UD") != std::string::npos);
  CHECK(ours.substr(0, 200) == shells.substr(0, 200));
  const auto refused = [&](const std::string& what, const std::string& by) {
    folder.write("theirs.inp", replaced(shells, what, by));
    return test::failure([&] { put_into(folder, "calculix", "theirs.inp", part, "no.inp", findings); });
  };
  const auto told = [&](std::string_view code) {
    return std::any_of(findings.all().begin(), findings.all().end(), [&](const Finding& f) { return f.code == code; });
  };
  CHECK(told("into.no-locking"));
  CHECK(!told("into.refused"));
  folder.write("theirs.inp", replaced(shells, "*MATERIAL", "*ELEMENT,TYPE=SPRINGA,ELSET=Rope\n9,1,6\n*MATERIAL"));
  put_into(folder, "calculix", "theirs.inp", part, "roped.inp", findings);
  CHECK(told("into.refused"));
  CHECK(refused("1,1,2,5,4,11,16,13,15\n", "").find("[into.element-missing]") != std::string::npos);
  CHECK(refused("1,1,2,5,4,11,16,13,15\n", "1,1,2,6,4,11,16,13,15\n").find("[into.nodes-differ]") != std::string::npos);
  CHECK(refused("*SHELL SECTION,ELSET=Both,MATERIAL=M1_OLD\n1.\n", "").find("[into.no-section]") != std::string::npos);
  CHECK(refused("TYPE=S8R", "TYPE=S8").find("[into.type]") != std::string::npos);
  CHECK(refused("1,1,2,5,4,11,16,13,15\n", "*INCLUDE,INPUT=more.inp\n").find("[into.include]") != std::string::npos);
  // The same mesh in metres, and with a node elsewhere.
  folder.write("theirs.inp", shells);
  const auto on = [&](const std::string& length) {
    return test::failure([&] {
      put_into(folder, "calculix", "theirs.inp", replaced(part, "length = \"mm\"", "length = \"" + length + "\""),
               "no.inp", findings);
    });
  };
  const std::string in_metres = on("m");
  CHECK(in_metres.find("[into.other-units]") != std::string::npos);
  CHECK(in_metres.find("lie 0.001 times as far apart") != std::string::npos);
  CHECK(refused("5,1,1,0\n", "5,1.05,1,0\n").find("[into.nodes-moved]") != std::string::npos);
  CHECK(!std::filesystem::exists(folder / "no.inp"));
  // Sets that name each other, in circles and fortyfold, and numbers that run on without end: each is looked at once.
  std::string sets = "*ELSET,ELSET=Last\nBoth,First\n*ELSET,ELSET=Far,GENERATE\n1,9000000000000000000,1\n";
  for (int k = 0; k < 40; ++k)
    sets += fmt::format("*ELSET,ELSET={0}\n{1},{1},Far\n", k == 0 ? "First" : fmt::format("S{}", k),
                        k == 39 ? std::string("Last") : fmt::format("S{}", k + 1));
  folder.write("theirs.inp",
               replaced(replaced(shells, "*SHELL SECTION,ELSET=Both", sets + "*SHELL SECTION,ELSET=First"),
                        "*ELSET,ELSET=One", "*ELSET,ELSET=One"));
  put_into(folder, "calculix", "theirs.inp", part, "nested.inp", findings);
  CHECK(read_file(folder / "nested.inp").find("*ELSET, ELSET=L2_REST1\n2\n") != std::string::npos);
}

TEST_CASE("a laminate put into somebody's bulk data") {
  const test::Folder folder;
  Findings findings;
  const std::string theirs = R"($ theirs
SOL 101
CEND
BEGIN BULK
GRID,1,,0.,0.,0.
GRID,2,,1.,0.,0.
GRID,3,,2.,0.,0.
GRID    4               0.0     1.0     0.0
GRID    5               1.0     1.0     0.0
GRID    6               2.0     1.0     0.0
CQUAD4  1       7       1       2       5       4
$ between
CQUAD4,2,8,2,3,6,5
PSHELL  7       3       1.0     3
PSHELL,8,3,2.0
MAT1    3       70000.          .3
FORCE   2       3       0       1.0     0.0     0.0     1.0
ENDDATA
)";
  folder.write("theirs.bdf", theirs);
  folder.write("one.bdf", replaced(theirs, "CQUAD4,2,8,2,3,6,5\n", ""));
  const std::string part = replaced(test::case_part("[0/45]", ""), "grid.msh", "one.bdf");
  put_into(folder, "bulk-data", "theirs.bdf", part, "ours.bdf", findings);
  const std::string ours = read_file(folder / "ours.bdf");
  INFO(ours);
  // Element 1 and its property went; all other lines stand in their order.
  std::vector<std::string> left = lines_of(ours);
  std::size_t at = 0;
  for (const std::string& line : lines_of(theirs)) {
    if (line.starts_with("CQUAD4  1") || line.starts_with("PSHELL  7")) continue;
    while (at < left.size() && left[at] != line) ++at;
    CHECK_MESSAGE(at < left.size(), line);
  }
  CHECK(ours.find("PSHELL  7") == std::string::npos);
  CHECK(ours.find("CQUAD4  1       9       1       2       5       4") != std::string::npos);
  CHECK(ours.find("MAT8*") != std::string::npos);
}

TEST_CASE("cases, supports askew, links, beds and masses on bulk data cards") {
  const std::string conditions = R"(
[support.left]
on = "left"
hold = ["x", "y", "z"]
[support.right]
on = "right"
hold = "symmetry"
normal = [0.6, 0.8, 0]
[support.bed]
on = "plate"
bed = 0.5
[mass.paint]
on = "plate"
per-area = "2 kg/m^2"
[load.press]
on = "plate"
face = "tool"
pressure = 0.25
[load.sine]
on = "plate"
face = "tool"
pressure = { formula = "x*x" }
[load.weight]
gravity = [0, 0, -9810]
[load.spin]
rotation = { through = [0, 0, 5], along = [0, 0, 1], speed = 6.283185307179586 }
[load.linked]
on = "plate"
force = [0, 0, 7]
moment = [1, 0, 0]
at = [0, 0, 9]
by = "link"
[load.moved]
on = "front"
displacement = { z = 0.125 }
[case.a]
loads = { press = 2, sine = 1, weight = 1.5 }
[case.b]
loads = ["spin", "linked", "moved"]
supports = ["left"]
[case.bell]
analysis = "frequencies"
count = 9
)";
  const test::Folder folder;
  Findings findings;
  const Design design =
      test::open_on(folder, test::case_part("[0/90]", conditions), Grid::rectangle(2, 2, 4, 4), findings);
  const model::Model model = assemble(design, {}, findings);
  const deck::Format& format = *deck::find_format("bulk-data");
  const auto decks = deck::decks_of(format, model, {});
  REQUIRE(decks ==
          std::vector<std::vector<std::size_t>>{{0}, {1}, {2}});  // the second has a link, the third is of modes
  deck::WriteOptions options;
  options.cases = decks[0];
  format.write(model, folder / "a.bdf", options, findings);
  const std::string text = read_file(folder / "a.bdf");
  const auto found = test::cards(text);
  CHECK(text.find("SUBCASE 1\n  SUBTITLE = A\n  SPC = 5001\n  LOAD = 6001\n") != std::string::npos);
  // LOAD of case a: its factors on the sets of its loads.
  const auto& load = found.at("LOAD")[0];
  CHECK(std::stod(load[1]) == 1.0);
  CHECK(std::stod(load[2]) == 2.0);
  CHECK(load[3] == "2001");
  CHECK(std::stod(load[6]) == 1.5);
  CHECK(load[7] == "2003");
  double whole = 0.0;  // sine: the integral of x^2 over 4 by 4, by cells of 2 with straight pressure: 4 (0 + 2*4 + 16)
  for (const auto& force : found.at("FORCE"))
    if (force[0] == "2002") whole += std::stod(force[3]) * std::stod(force[6]);
  CHECK(test::off(whole, 4.0 * (0 + 2 * 4 + 16)) < 1e-9);
  CHECK(test::off(std::stod(found.at("GRAV")[0][2]), 9810) < 1e-12);
  CHECK(test::off(std::stod(found.at("RFORCE")[0][3]), 1.0) < 1e-9);  // turns a second
  CHECK(found.count("RBE2") == 0);
  CHECK(test::off(std::stod(found.at("PCOMP")[0][2]), 2e-9) < 1e-6);  // mass per area that carries nothing
  // Nodes of the askew support stand in a system of their own: x along its normal.
  std::size_t own = 0;
  for (const auto& grid : found.at("GRID"))
    if (grid.size() > 5 && grid[5] == "1") ++own;
  CHECK(own == 3);
  const auto& axes = found.at("CORD2R")[0];
  CHECK(test::off(std::stod(axes[8]), 0.6) < 1e-9);
  CHECK(test::off(std::stod(axes[9]), 0.8) < 1e-9);
  // Springs of the bed: their stiffnesses add up to bed times area.
  double stiffness = 0.0;
  for (const auto& spring : found.at("PBUSH")) stiffness += std::stod(spring[2]);
  CHECK(test::off(stiffness, 0.5 * 16) < 1e-9);
  options.cases = decks[1];
  format.write(model, folder / "b.bdf", options, findings);
  const auto linked = test::cards(read_file(folder / "b.bdf"));
  CHECK(linked.at("RBE2")[0][2] == "123");
  CHECK(linked.at("SPC").size() == 3);
  CHECK(std::stod(linked.at("SPC")[0][3]) == 0.125);
  options.cases = decks[2];
  format.write(model, folder / "bell.bdf", options, findings);
  const std::string bell = read_file(folder / "bell.bdf");
  CHECK(bell.find("SOL 103") != std::string::npos);
  CHECK(test::cards(bell).at("EIGRL")[0][3] == "9");
}

TEST_CASE("solids are read back by independent readers from both formats") {
  const test::Folder folder;
  Findings findings;
  const std::string part = replaced(
      test::case_part("[0/90]", bent + "[zone.half]\nbox = { from = [-1, -1, -1], to = [50, 99, 1] }\n"), "plies = [ {",
      "plies = [ { id = \"Q\", material = \"ud\", frame = \"x\", angle = 45, zone = \"half\" }, {");
  const Design design = test::open_on(folder, part, Grid::rectangle(4, 2, 100, 20), findings);
  const model::Model model =
      assemble(design, {.quadratic = true, .laminate_only = false, .solids = model::SolidOptions{}}, findings);
  const model::Solids& solids = *model.solids;
  for (const deck::Format& format : deck::formats()) {
    INFO(format.title);
    const std::string path = folder / ("solids" + std::string(format.extension));
    const deck::Written written = format.write(model, path, {}, findings);
    CHECK(written.solids == 4 * 2 * 2 + 2 * 2);
    // Told back: the table beside the deck says of every solid on which element it stands and which ply it is.
    const auto names = nlohmann::json::parse(read_file(deck::write_names(written, model, MayReplace::the_one_named)));
    REQUIRE(names["solids"]["element"].size() == solids.count());
    for (std::size_t s = 0; s < solids.count(); ++s) {
      CHECK(names["solids"]["element"][s].get<std::int64_t>() == model.surface.element_ids[solids.element[s]]);
      CHECK(names["solids"]["groups"][names["solids"]["group"][s].get<std::size_t>()].get<std::string>() ==
            solids.groups[solids.group[s]]);
    }
    const test::Run reader =
        test::run(fmt::format("/usr/bin/python3 '{}' '{}'", test::source("tests/deck/read_back.py"), path));
    REQUIRE_MESSAGE(reader.status == 0, reader.err);
    const auto read = nlohmann::json::parse(reader.out);
    REQUIRE(read["points"].size() == solids.points.size());
    for (std::size_t i = 0; i < solids.points.size(); ++i)
      for (int k = 0; k < 3; ++k)
        CHECK(std::abs(read["points"][i][static_cast<std::size_t>(k)].get<double>() - solids.points[i][k]) < 1e-9);
    std::map<std::string, std::size_t> counts;
    for (const auto& cell : read["cells"]) counts[cell["type"].get<std::string>()] += cell["nodes"].size();
    CHECK(counts["hexahedron20"] == 18);
    CHECK(counts["wedge15"] == 2);
    // The first brick's nodes, in that reader's own order.
    for (const auto& cell : read["cells"]) {
      if (cell["type"] != "hexahedron20") continue;
      std::size_t brick = 0;
      while (solids.nodes_of(brick).size() != 20) ++brick;
      for (std::size_t k = 0; k < 8; ++k) CHECK(cell["nodes"][0][k].get<std::uint32_t>() == solids.nodes_of(brick)[k]);
      break;
    }
  }
  // Material axes of every solid of the bulk data: along the fibres of its ply.
  const auto found = test::cards(read_file(folder / "solids.bdf"));
  std::map<std::string, std::vector<std::string>> properties, systems;
  for (const auto& card : found.at("PSOLID")) properties[card[0]] = card;
  for (const auto& card : found.at("CORD2R")) systems[card[0]] = card;
  for (const std::string name : {"CHEXA", "CPENTA"})
    for (const auto& card : found.at(name)) {
      const auto solid = static_cast<std::size_t>(std::stoul(card[0]) - 1);
      const auto& axes = systems.at(properties.at(card[1])[2]);
      const part::PlyId ply{solids.group[solid]};
      const Vec3 fibre = design.layup.fibre(ply, solids.element[solid], {0, 0, 1});
      const Vec3 x(std::stod(axes[8]), std::stod(axes[9]), std::stod(axes[10]));
      CHECK(std::abs(x.dot(fibre)) > 1 - 1e-6);
    }
}

}  // namespace of_deck_into
