// The list of plies: followers, laminates, repeats, listing order, groups, and the same from CSV.
#include "support.hpp"

#include <bordado/part.hpp>

#include <fmt/format.h>

namespace of_part_plies {

using namespace bordado;

namespace {

const std::string head = R"([part]
name = "Plate"
units = "mm, t, s"
mesh = { file = "plate.msh", length = "mm" }
side = { along = [0, 0, 1] }
surface = "bottom"
)";

part::Part read(const std::string& layup, const part::ReadOptions& options = {},
                const std::string& path = "plate.toml") {
  Findings findings;
  return part::read_text(head + test::materials() + layup, path, findings, options);
}
std::string refused(const std::string& layup, const part::ReadOptions& options = {}) {
  return test::failure([&] { read(layup, options); });
}
std::string plies(const std::string& lines, const std::string& more = "") {
  return "[layup]\nmaterial = \"ud\"\nframe = \"x\"\n" + more + "plies = [\n" + lines + "]\n";
}
/// "A 0 ud everything; B.1 45 ud rim; ..."
std::string laid(const part::Part& part) {
  std::string out;
  for (const part::Ply& ply : part.plies)
    out += fmt::format("{}{} {:g} {}", out.empty() ? "" : "; ", ply.id, ply.angle.degrees(), ply.material.value);
  return out;
}

}  // namespace

TEST_CASE("a ply that follows another takes all that it does not say, and changes with it") {
  const std::string lines = R"({ id = "A", angle = 30, zone = "rim", thickness = 0.3 },
{ id = "B", follows = "A" },
{ id = "C", follows = "B", turned = 90 },
{ id = "D", follows = "C", turned = -90, zone = "hatch", material = "foam" },
)";
  const part::Part part = read(plies(lines));
  CHECK(laid(part) == "A 30 ud; B 30 ud; C 120 ud; D 30 foam");
  CHECK(part.plies.all()[2].zone.value == "rim");
  CHECK(*part.plies.all()[2].thickness == 0.3);
  CHECK(part.plies.all()[3].zone.value == "hatch");
  std::string changed = lines;
  changed.replace(changed.find("30"), 2, "10");
  CHECK(laid(read(plies(changed))) == "A 10 ud; B 10 ud; C 100 ud; D 10 foam");
  // A leader may stand behind, and may be a code or a run.
  CHECK(laid(read(plies(
            "{ id = \"A\", follows = \"B\", turned = 90 },\n{ id = \"B\", code = \"[0/45]\", repeat = 2 },\n"))) ==
        "A.1 90 ud; A.2 135 ud; A.3 90 ud; A.4 135 ud; B.1 0 ud; B.2 45 ud; B.3 0 ud; B.4 45 ud");
}

TEST_CASE("laminates are named once and used with any material; halves are mirrored, runs repeated") {
  const std::string named = R"([laminate.skin]
code = "[0/45]"
[laminate.sandwich]
plies = [ { angle = 0 }, { angle = 90, thickness = 0.4 }, { material = "foam" } ]
symmetric = "odd"
[laminate.twice]
plies = [ { angle = 0 }, { angle = 30 } ]
symmetric = "even"
repeat = 2
)";
  CHECK(laid(read(named + plies("{ id = \"A\", laminate = \"skin\" },\n{ id = \"B\", laminate = \"skin\", material = "
                                "\"foam\", thickness = 1 },\n"))) == "A.1 0 ud; A.2 45 ud; B.1 0 foam; B.2 45 foam");
  const part::Part sandwich = read(named + plies("{ id = \"S\", laminate = \"sandwich\" },\n"));
  CHECK(laid(sandwich) == "S.1 0 ud; S.2 90 ud; S.3 0 foam; S.4 90 ud; S.5 0 ud");
  CHECK(*sandwich.plies.all()[1].thickness == 0.4);
  CHECK(!sandwich.plies.all()[0].thickness);
  CHECK(laid(read(named + plies("{ id = \"T\", laminate = \"twice\" },\n"))) ==
        "T.1 0 ud; T.2 30 ud; T.3 0 ud; T.4 30 ud; T.5 30 ud; T.6 0 ud; T.7 30 ud; T.8 0 ud");
}

TEST_CASE("a list that reads from the top is laid from its end") {
  const std::string lines = "{ id = \"A\", angle = 0 },\n{ id = \"B\", code = \"[30/60]\" },\n";
  CHECK(laid(read(plies(lines))) == "A 0 ud; B.1 30 ud; B.2 60 ud");
  CHECK(laid(read(plies(lines, "listed = \"last-laid-first\"\n"))) == "B.2 60 ud; B.1 30 ud; A 0 ud");
}

TEST_CASE("groups are switched by variants") {
  const std::string text = plies(
                               "{ id = \"A\", angle = 0 },\n{ id = \"R\", angle = 10, group = \"race\" },\n{ id = "
                               "\"T\", angle = 20, group = \"club\" },\n",
                               "off = [\"club\"]\n") +
                           "[variant.club]\non = [\"club\"]\noff = [\"race\"]\n[variant.both]\non = [\"club\"]\n";
  CHECK(laid(read(text)) == "A 0 ud; R 10 ud");
  CHECK(laid(read(text, {.variant = "club"})) == "A 0 ud; T 20 ud");
  CHECK(laid(read(text, {.variant = "both"})) == "A 0 ud; R 10 ud; T 20 ud");
  CHECK(refused(text, {.variant = "clubs"}) ==
        "plate.toml: error: there is no variant 'clubs' [part.variant-unknown]\n    variants: club, both");
  CHECK(refused(plies("{ id = \"A\", angle = 0, group = \"race\" },\n", "off = [\"rase\"]\n")) ==
        "plate.toml:33:8: error: [layup] off: no ply is in a group 'rase' [part.group-unknown]\n    did you mean "
        "'race'?");
}

TEST_CASE("what is wrong in a list of plies") {
  CHECK(refused(plies("{ id = \"A\", follows = \"B\" },\n{ id = \"B\", follows = \"A\" },\n")) ==
        "plate.toml:34:23: error: ply 'A' follows itself [part.follows-circular]\n"
        "    one of the plies that follow each other must say its own\n"
        "plate.toml:35:23: error: ply 'B' follows itself [part.follows-circular]\n"
        "    one of the plies that follow each other must say its own");
  CHECK(refused(plies("{ id = \"A1\", angle = 0 },\n{ id = \"B\", follows = \"A2\" },\n")) ==
        "plate.toml:35:23: error: ply 'B' follows 'A2', which there is not [part.ply-unknown]\n    did you mean 'A1'?");
  CHECK(refused("[laminate.skin]\ncode = \"[0]\"\n" + plies("{ id = \"A\", laminate = \"skim\" },\n")) ==
        "plate.toml:36:24: error: ply 'A': laminate 'skim' is not declared [part.laminate-unknown]\n    did you mean "
        "'skin'?");
  CHECK(refused(plies("{ id = \"A\", angle = 0, code = \"[0]\" },\n")) ==
        "plate.toml:34:1: error: ply 'A' has 'angle' and 'code' [part.value]\n    they say the same thing; leave all "
        "but one out");
  CHECK(refused(plies("{ id = \"A\", angle = 0, turned = 5 },\n")).find("'turned' goes with 'follows'") !=
        std::string::npos);
  CHECK(refused(plies("{ id = \"A\", angle = 0, repeat = 0 },\n")).find("'repeat' is 0; it can be 1 to 1000") !=
        std::string::npos);
  CHECK(refused(plies("{ id = \"A\", angle = 0, material = \"e-glass-fibre\", thickness = 1 },\n")) ==
        "plate.toml:34:1: error: ply 'A': material 'e-glass-fibre' is a fibre, not a ply [part.fibre-laid]\n"
        "    make a unidirectional material of it: fibre, matrix, fibre-volume");
  CHECK(refused(plies("{ id = \"A\", angle = 0 },\n") + "[checks]\noff = [\"laminate.unsymetric\"]\n") ==
        "plate.toml:37:8: error: [checks]: no warning or note has the code 'laminate.unsymetric' [part.check-unknown]\n"
        "    did you mean 'laminate.unsymmetric'?");
  CHECK(refused(plies("{ id = \"A\", angle = 0 },\n") + "[checks]\noff = [\"part.value\"]\n")
            .find("errors cannot be switched off") != std::string::npos);
}

namespace {

part::Part read_csv_part(const test::Folder& folder, const std::string& csv) {
  folder.write("plies.csv", csv);
  return read("[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = \"plies.csv\"\n", {}, folder / "plate.toml");
}

}  // namespace

TEST_CASE("plies from a table, as spreadsheets of all sorts write it") {
  const test::Folder folder;
  const std::string wanted = "A 0 ud; B.1 30 ud; B.2 60 ud; C 22.5 foam";
  CHECK(laid(read_csv_part(
            folder,
            "id,angle,code,material,note\nA,0,,,\"first, of all\"\n# a remark\nB,,[30/60],,\n\nC,22.5,,foam,\n")) ==
        wanted);
  const part::Part european = read_csv_part(
      folder, "\xef\xbb\xbfid;angle;code;material;thickness\r\nA;0;;;0,25\r\nB;;[30/60];;\r\nC;22,5;;foam;1,5 mm\r\n");
  CHECK(laid(european) == wanted);
  CHECK(*european.plies.all()[0].thickness == 0.25);
  CHECK(*european.plies.all()[3].thickness == 1.5);
  CHECK(laid(read_csv_part(folder, "id\tangle\tcode\tmaterial\nA\t0\nB\t\t[30/60]\nC\t22.5\t\tfoam\n")) == wanted);
  CHECK(read_csv_part(folder, "id,angle,note\nA,0,\"two\nlines, \"\"quoted\"\"\"\nB,1,\n").list.lines[0].note ==
        "two\nlines, \"quoted\"");
}

TEST_CASE("what is wrong in a table names the file and line") {
  const test::Folder folder;
  const auto refused_csv = [&](const std::string& csv) {
    std::string text = test::failure([&] { read_csv_part(folder, csv); });
    for (std::size_t at; (at = text.find(folder.path() + "/")) != std::string::npos;)
      text.erase(at, folder.path().size() + 1);
    return text;
  };
  CHECK(refused_csv("id,angel\nA,0\n") ==
        "plies.csv:2: error: ply 'A': there is no key 'angel' here [part.key-unknown]\n    did you mean 'angle'?\n"
        "plies.csv:2: error: ply 'A' has no 'angle' [part.key-missing]\n"
        "    add angle = 0, or a code = \"[...]\", or a laminate = \"...\"");
  CHECK(refused_csv("id,angle\nA,0\nB,up\n")
            .find("plies.csv:3: error: ply 'B': 'angle' should be a number in deg or with its "
                  "unit: 'up' does not begin with a number [part.value]") == 0);
  CHECK(refused_csv("id,angle\nA,0,7\n")
            .find("plies.csv:2: error: the line has 3 cells, the headings have 2 [part.csv]") == 0);
  CHECK(refused_csv("id,angle,angle\nA,0,1\n").find("there are two columns 'angle' [part.csv]") != std::string::npos);
  CHECK(refused_csv("").find("the table is empty [part.csv]") != std::string::npos);
  CHECK(refused_csv("id,angle,repeat\nA,0,two\n").find("'repeat' should be a whole number, not text") !=
        std::string::npos);
  CHECK(refused_csv("id,angle\nA,0\nA,1\n")
            .find("plies.csv:3: error: there are two plies with id 'A' [part.name-twice]") == 0);
  CHECK(refused_csv("id,angle\nA,0,\"\n\"\"").size() > 0);
  CHECK(test::failure([&] {
          read("[layup]\nframe = \"x\"\nmaterial = \"ud\"\nplies = \"none.csv\"\n", {}, folder / "plate.toml");
        }).find("plate.toml:33:9: error: ") != std::string::npos);
}

TEST_CASE("a ply whose name begins with a hash is no comment") {
  const test::Folder folder;
  const part::Part part = read_csv_part(folder, "id,angle\n\"#1\",0\n#2,45\n \"#3 \"\"a\"\"\",90\n");
  CHECK(laid(part) == "#1 0 ud; #3 \"a\" 90 ud");
  const part::Part again = read_csv_part(folder, part::plies_csv(part));
  CHECK(laid(again) == laid(part));
}

TEST_CASE("names that a spreadsheet would compute are written as text, numbers as numbers, and both are read again") {
  const test::Folder folder;
  const part::Part part = read(plies(
      "{ id = \"=1+2\", angle = -45 }, { id = \"@a\", angle = 0, edge = -2.5 }, { id = \"-b\", angle = 0 }, { id = "
      "\"+c\", angle = 0 }, { id = \"'=d\", angle = 0 }, { id = \"''@e\", angle = 0 }, { id = \"'f\", angle = "
      "0 }, { id = \"-7\", angle = 0 }, { id = \"-inf\", angle = 0 }, { id = \"=1,2\", angle = 0 }\n"));
  const std::string table = part::plies_csv(part);
  for (const std::string cell : {"\n'=1+2,", ",-45,", "\n'@a,", ",-2.5,", "\n'-b,", "\n'+c,", "\n''=d,", "\n'''@e,",
                                 "\n'f,", "\n-7,", "\n'-inf,", "\n\"'=1,2\","}) {
    INFO(cell);
    CHECK(table.find(cell) != std::string::npos);
  }
  const part::Part again = read_csv_part(folder, table);
  CHECK(laid(again) == laid(part));
  CHECK(part::plies_csv(again) == table);
}

TEST_CASE("a table of a spreadsheet in Latin-1 is read") {
  const test::Folder folder;
  const part::Part part = read_csv_part(folder,
                                        "id,angle,note\nB\xf6"
                                        "den,0,f\xfc"
                                        "r unten\n");
  CHECK(part.plies.all()[0].id == "Böden");
  CHECK(part.list.lines[0].note == "für unten");
}

}  // namespace of_part_plies
