// Answers that are not to be believed, and answers of others.
#include "cases.hpp"

#include <bordado/base/files.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/recovery.hpp>

#include <fstream>

namespace of_calculix_answers {

using namespace bordado;
using laminate::Criterion;
using test::Cases;
using test::Grid;

namespace {

const std::string conditions = test::knife_edges(100) + "[load.p]\non = \"plate\"\nface = \"tool\"\npressure = 0.01\n";

struct Deck {
  Design design;
  model::Model model;
  std::vector<deck::Mark> marks;
};

/// The deck of a part as it would be written now; nothing is written.
std::unique_ptr<Deck> deck_of(const std::string& part_file) {
  Findings findings;
  auto out = std::make_unique<Deck>();
  out->design = open(part_file, findings);
  out->model = assemble(out->design, {.quadratic = true}, findings);
  deck::WriteOptions options;
  options.nowhere = true;
  out->marks = deck::find_format("calculix")->write(out->model, "none.inp", options, findings).marks;
  return out;
}

model::CaseFields read(const Deck& deck, const std::string& dat) {
  return calculix::read_case(deck.model, 0, dat, deck.marks, {});
}

}  // namespace

TEST_CASE("an answer is told apart from that of any other deck") {
  const test::Folder folder;
  const std::string text = test::case_part("[0/90]s", conditions);
  const Cases solved = test::solve_cases(folder, text, Grid::rectangle(6, 6, 100, 100),
                                         {.solids = {}, .layers = deck::LayersAs::equivalents, .ply_results = true});
  const std::string dat = solved.all[0].run.dat;
  const auto same = deck_of(folder / "part.toml");
  REQUIRE(same->marks.size() == 1);
  CHECK(same->marks[0].name == solved.all[0].deck.marks[0].name);
  const model::CaseFields fields = read(*same, dat);
  REQUIRE(fields.sections.size() == 36);
  CHECK(fields.sections[14].deformation.curvature == solved.all[0].fields.sections[14].deformation.curvature);
  // A ply turned, a load changed in its seventh digit, a node moved: another deck.
  const auto with = [&](const std::string& what, const std::string& instead) {
    std::string other = text;
    const auto at = other.find(what);
    REQUIRE(at != std::string::npos);
    other.replace(at, what.size(), instead);
    return deck_of(folder.write("other.toml", other));
  };
  for (const auto& other : {with("[0/90]s", "[0/89]s"), with("pressure = 0.01", "pressure = 0.01000001"),
                            with("surface = \"middle\"", "surface = \"bottom\"")}) {
    CHECK(other->marks[0].name != same->marks[0].name);
    CHECK(test::failure([&] { read(*other, dat); }).find("the answer is of another deck") != std::string::npos);
    CHECK(test::failure([&] { read(*other, dat); }).find("[result.other-deck]") != std::string::npos);
  }
  // What is only said in its head changes nothing.
  CHECK(with("name = \"Test\"", "name = \"Another name\"")->marks[0].name == same->marks[0].name);
}

TEST_CASE("an answer that is cut short anywhere, or broken, is refused with one message") {
  const test::Folder folder;
  const std::string text = test::case_part("[0/90]s", conditions);
  test::solve_cases(folder, text, Grid::rectangle(3, 3, 100, 100),
                    {.solids = {}, .layers = deck::LayersAs::equivalents, .ply_results = true});
  const auto deck = deck_of(folder / "part.toml");
  const std::string whole = read_file(folder / "part.dat");
  CHECK_NOTHROW(read(*deck, folder / "part.dat"));
  for (int i = 0; i < 60; ++i) {
    const std::size_t size = whole.size() * static_cast<std::size_t>(i) / 60;
    const std::string said = test::failure([&] { read(*deck, folder.write("cut.dat", whole.substr(0, size))); });
    CAPTURE(size);
    CHECK(said.find("[result.") != std::string::npos);
    CHECK(said.find("\n") == said.rfind("\n    ", said.size()));
  }
  const auto broken = [&](const std::string& what, const std::string& instead) {
    std::string bad = whole;
    const auto at = bad.rfind(what);
    REQUIRE(at != std::string::npos);
    bad.replace(at, what.size(), instead);
    return test::failure([&] { read(*deck, folder.write("bad.dat", bad)); });
  };
  const std::string last = whole.substr(whole.rfind("E-") - 8, 12);
  CHECK(broken(last, "         NaN").find("is not a number [result.not-finite]") != std::string::npos);
  CHECK(broken(last, " 1.0 rubbish").find("[result.unreadable]") != std::string::npos);
  CHECK(broken("strains (elem", "stresses (elem").find("0 of strain in plies") != std::string::npos);
  CHECK(test::failure([&] {
          read(*deck, folder.write("foreign.dat", "once upon a time\nfor set nothing\n"));
        }).find("[result.empty]") != std::string::npos);
  CHECK(test::failure([&] { read(*deck, folder / "none.dat"); }).find("[file.missing]") != std::string::npos);
  CHECK(test::failure([&] { read(*deck, folder.path()); }).find("[file.unreadable]") != std::string::npos);
}

TEST_CASE("a deck of several cases answers for each by its name") {
  const test::Folder folder;
  const std::string text = test::case_part("[0/90]s", conditions + R"(
[load.q]
on = "plate"
face = "bag"
pressure = 0.02
[case.one]
loads = ["p"]
[case.two]
loads = ["q"]
)");
  Findings findings;
  const Design design = test::open_on(folder, text, Grid::rectangle(4, 4, 100, 100), findings);
  const model::Model model = assemble(design, {.quadratic = true}, findings);
  const deck::Written written = deck::find_format("calculix")->write(model, folder / "both.inp", {}, findings);
  REQUIRE(written.marks.size() == 2);
  const auto run = calculix::run(folder / "both.inp");
  const auto one = calculix::read_case(model, 0, run.dat, written.marks, {});
  const auto two = calculix::read_case(model, 1, run.dat, written.marks, {});
  CHECK(one.name == "one");
  CHECK(test::off(two.sections[5].deformation.curvature[0] / one.sections[5].deformation.curvature[0], -2.0) < 1e-3);
}

TEST_CASE("section forces of anyone: a table or a VTU file is judged like an answer") {
  const test::Folder folder;
  std::string text = test::known_part("[0/90]s", conditions);
  Findings findings;
  const Design design = test::open_on(folder, text, Grid::rectangle(2, 1, 100, 100), findings);
  const model::Model model = assemble(design, {.quadratic = true}, findings);
  const auto stack = section::laminate_of(design.part, design.sections, section::SectionId{0});
  laminate::Load load;
  load.N = {30, 10, 5}, load.M = {1, -2, 0.5}, load.Q = {0.3, 0.1};
  const laminate::Deformation d = laminate::deformation(stack, design.sections.bottom[section::SectionId{0}], load);
  const auto ids = design.surface.element_ids;
  const std::string by_force = fmt::format(
      "element;Nx N/mm;Ny N/mm;Nxy N/mm;Mx N;My N;Mxy N;Qx;Qy\n{};30;10;5;1;-2;0.5;0.3;0.1\n\n{};0;0;0;0;0;0;0;0\n",
      ids[0], ids[1]);
  const std::string by_strain =
      fmt::format("# made by hand\nkx,ky,kxy,element,ex,ey,gxy\n{},{},{},{},{},{},{}\n0,0,0,{},0,0,0\n", d.curvature[0],
                  d.curvature[1], d.curvature[2], ids[0], d.strain[0], d.strain[1], d.strain[2], ids[1]);
  for (const std::string& table : {by_force, by_strain}) {
    const auto fields = result::read_sections(design, folder.write("sections.csv", table)).fields;
    CHECK((fields.sections[0].deformation.strain - d.strain).norm() < 1e-6 * d.strain.norm());
    CHECK((fields.sections[0].deformation.curvature - d.curvature).norm() < 1e-5 * d.curvature.norm());
    CHECK(fields.sections[1].deformation.strain.norm() == 0.0);
  }
  mesh::Array values[6];
  constexpr const char* names[] = {"Nx", "Ny", "Nxy", "Mx", "My", "Mxy"};
  for (int k = 0; k < 6; ++k) values[k] = {names[k], false, 1, {k < 3 ? load.N[k] : load.M[k - 3], 0.0}};
  mesh::write(design.surface, folder / "sections.vtu", values);
  const auto given = result::read_sections(design, folder / "sections.vtu");
  CHECK((given.forces && !given.shear));
  const auto& fields = given.fields;
  CHECK((fields.sections[0].deformation.strain - d.strain).norm() < 1e-9 * d.strain.norm());
  const Criterion criteria[] = {Criterion::tsai_wu};
  const result::Recovery recovery(model, {criteria, criteria + 1});
  const material::Material* known = nullptr;
  for (const auto& m : design.part.materials)
    if (m.name == "known") known = &m;
  const auto expected = laminate::first_failures({stack, std::vector<const material::Material*>(stack.size(), known),
                                                  design.sections.bottom[section::SectionId{0}]},
                                                 load, criteria);
  CHECK(test::off(recovery.failing(fields, 0, 0).front().factor, expected.front().factor) < 1e-9);

  // Units behind names are read: N/m and kN are not N/mm and N.
  const auto in_metres = result::read_sections(
      design,
      folder.write("metres.csv", fmt::format("element,Nx (N/m),Ny [N/m],\"Nxy, N/m\",Mx kN,My kN,Mxy kN,Qx N/m,Qy "
                                             "N/m\n{},30000,10000,5000,0.001,-0.002,0.0005,300,100\n{},0,0,0,0,0,0,"
                                             "0,0\n",
                                             ids[0], ids[1])));
  CHECK((in_metres.fields.sections[0].deformation.strain - d.strain).norm() < 1e-6 * d.strain.norm());
  CHECK(test::near(in_metres.fields.sections[0].Q[0], 0.3, 1e-12));
  // The template comes back as noughts, whatever stands behind the forces.
  result::write_template(design, folder / "template.csv");
  const auto blank = result::read_sections(design, folder / "template.csv");
  CHECK(blank.shear);
  CHECK(blank.fields.sections[1].deformation.strain.norm() == 0.0);
  // A file of cells in another order is known by where they lie; one of another place is refused.
  mesh::Surface reversed = design.surface;
  std::reverse(reversed.element_ids.begin(), reversed.element_ids.end());
  std::vector<mesh::NodeIndex> nodes;
  for (const mesh::ElementIndex e : {1u, 0u})
    for (const mesh::NodeIndex n : design.surface.nodes_of(e)) nodes.push_back(n);
  reversed.nodes = nodes;
  mesh::Array backwards[6];
  for (int k = 0; k < 6; ++k) backwards[k] = {names[k], false, 1, {0.0, values[k].values[0]}};
  mesh::write(reversed, folder / "backwards.vtu", backwards);
  CHECK((result::read_sections(design, folder / "backwards.vtu").fields.sections[0].deformation.strain - d.strain)
            .norm() < 1e-9 * d.strain.norm());
  for (Vec3& point : reversed.points) point.x() += 30.0;
  mesh::write(reversed, folder / "elsewhere.vtu", backwards);
  CHECK(test::failure([&] { result::read_sections(design, folder / "elsewhere.vtu"); }).find("[result.place]") !=
        std::string::npos);

  const auto said = [&](const std::string& table) {
    return test::failure([&] { result::read_sections(design, folder.write("bad.csv", table)); });
  };
  CHECK(said("").find("the table is empty [result.columns]") != std::string::npos);
  CHECK(said("element,Nx,Ny,Nxy,Mx,My\n").find("there is no column Mxy [result.columns]") != std::string::npos);
  CHECK(said("Nx,Ny,Nxy,Mx,My,Mxy\n").find("there is no column element") != std::string::npos);
  CHECK(said("element,Nx,Ny,Nxy,Mx,My,Mxy,Nx\n").find("there are two columns Nx") != std::string::npos);
  CHECK(said("element,Nx,Ny,Nxy,Mx,My,Mxy,ex\n").find("forces and strains are both given") != std::string::npos);
  CHECK(said("element,Nx m,Ny,Nxy,Mx,My,Mxy\n").find("[result.units]") != std::string::npos);
  CHECK(said("element,Nx,Ny,Nxy,Mx,My,Mxy\n1.9,1,1,1,1,1,1\n").find("'1.9' is no element of the part") !=
        std::string::npos);
  CHECK(
      said(fmt::format("element;Nx;Ny;Nxy;Mx;My;Mxy\n{};1,5;1;1;1;1;1\n", ids[0])).find("'1,5' has a decimal comma") !=
      std::string::npos);
  CHECK(said("element,Nx,Ny,Nxy,Mx,My,Mxy\n1,1,5,1,1,1,1,1\n").find("the line has 8 cells, the headings have 7") !=
        std::string::npos);
  const std::string all = said(fmt::format(
      "element,Nx,Ny,Nxy,Mx,My,Mxy\n{0},1,1,1,1,1,nan\n{0},1,1,1,1,1\n77,1,1,1,1,1,1\nx,1,1,1,1,1,1\n", ids[0]));
  for (const char* const part : {"a number of element", "the line has 6 cells, the headings have 7",
                                 "'77' is no element of the part", "'x' is no element of the part", "has no line"})
    CHECK(all.find(part) != std::string::npos);
  CHECK(said(fmt::format("element,Nx,Ny,Nxy,Mx,My,Mxy\n{0},1,1,1,1,1,1\n{0},1,1,1,1,1,1\n{1},1,1,1,1,1,1\n", ids[0],
                         ids[1]))
            .find(fmt::format("element {} stands there twice [result.element-twice]", ids[0])) != std::string::npos);
}

TEST_CASE("a fingerprint is of the bytes, not of the pieces they come in; lines come whole from any file") {
  const auto print = [](std::initializer_list<std::string_view> pieces) {
    OutputFile file{OutputFile::Nowhere{}};
    for (const auto piece : pieces) file.write(piece);
    return file.fingerprint();
  };
  CHECK(print({"abcdefghijklmnopq"}) == print({"abc", "", "defghijklm", "nopq"}));
  CHECK(print({"abcdefgh"}) != print({"abcdefgi"}));
  CHECK(print({"abc"}) != print({std::string_view("abc\0", 4)}));
  CHECK(print({"abcdefgh", "ijklmnop"}) != print({"ijklmnop", "abcdefgh"}));
  const test::Folder folder;
  std::string text;
  std::vector<std::string> lines;
  for (int i = 0; i < 3000; ++i) {
    lines.push_back(std::string(static_cast<std::size_t>(i) % 2111, static_cast<char>('a' + i % 26)));
    text += lines.back() + "\n";
  }
  lines.emplace_back("no end");
  InputFile file(folder.write("lines.txt", text + "no end"));
  for (const std::string& line : lines) {
    const auto found = file.line();
    REQUIRE(found);
    CHECK(*found == line);
  }
  CHECK(!file.line());
  CHECK(file.number() == lines.size());
}

}  // namespace of_calculix_answers
