// Input that means harm, or looks as if: each ends with a message and without a crash, within seconds and with memory
// in proportion to the input.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <chrono>
#include <fstream>
#include <random>

namespace of_cli_hostile {

using namespace bordado;
using test::Grid;

namespace {

/// Runs the program with bounds on time and memory; 124 and signals are crashes and hangs.
test::Run run(const std::string& arguments, const std::string& folder) {
  // The address sanitizer reserves more address space than any bound: there the time alone is bounded.
  const std::string bound = BORDADO_SANITIZED ? "" : "ulimit -v 4000000; ";
  return test::run(fmt::format("{}timeout 60 '{}' {}", bound, test::program(), arguments), folder);
}
bool ended_well(const test::Run& run) { return run.status >= 0 && run.status <= 2; }
bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

std::string part_text(const std::string& layup, const std::string& more = "") {
  return "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" }\nside = { along "
         "= [0, 0, 1] }\nsurface = "
         "\"bottom\"\n" +
         test::materials() + "[layup]\nmaterial = \"ud\"\nframe = \"x\"\n" + layup + more;
}
const std::string one_ply = "plies = [ { id = \"A\", angle = 0 } ]\n";

struct Here {
  test::Folder folder;
  Here() { folder.write("grid.msh", test::msh(Grid::rectangle(8, 6, 80, 60))); }
  test::Run check(const std::string& part) const {
    folder.write("p.toml", part);
    return run("check p.toml", folder.path());
  }
  std::string error(const std::string& part) const {
    const test::Run result = check(part);
    INFO(result.err.substr(0, 2000));
    CHECK(result.status == 1);
    CHECK(result.err.size() < 20000);
    return result.err;
  }
};

}  // namespace

TEST_CASE("chains and repeats without end are told, not followed") {
  const Here here;
  std::string plies = "plies = [ { id = \"P0\", angle = 0 }";
  for (int i = 1; i < 8000; ++i) plies += fmt::format(",\n{{ id = \"P{}\", follows = \"P{}\" }}", i, i - 1);
  CHECK(has(here.error(part_text(plies + " ]\n")), "[part.too-deep]"));
  std::string zones;
  for (int i = 0; i < 16000; ++i) zones += fmt::format("[zone.z{}]\nunion = [\"z{}\"]\n", i, i + 1);
  CHECK(has(here.error(part_text(one_ply, zones + "[zone.z16000]\ngroup = \"plate\"\n")), "[zone.too-deep]"));
  std::string materials;
  for (int i = 0; i < 5000; ++i) materials += fmt::format("[material.m{}]\nfrom = \"m{}\"\n", i, i + 1);
  CHECK(ended_well(here.check(part_text(one_ply, materials + "[material.m5000]\nfrom = \"ud\"\n"))));
  std::string frames;
  for (int i = 0; i < 5000; ++i)
    frames +=
        fmt::format("[frame.f{}]\nblend = {{ from = \"f{}\", to = \"x\", start = [0, 0, 0], over = 10 }}\n", i, i + 1);
  CHECK(ended_well(here.check(part_text("plies = [ { id = \"A\", angle = 0, frame = \"f0\" } ]\n",
                                        frames + "[frame.f5000]\nvector = [1, 0, 0]\n"))));
  // Cases of cases: 2^60 ways, each case worked out once; circles and factors past all numbers are told.
  const std::string held =
      "[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.l]\non = \"right\"\nforce = [1, 0, 0]\n";
  std::string cases = "[case.c0]\nloads = [\"l\"]\n[case.d0]\nloads = [\"l\"]\n";
  for (int i = 1; i < 60; ++i)
    cases +=
        fmt::format("[case.c{0}]\ncases = [\"c{1}\", \"d{1}\"]\n[case.d{0}]\ncases = [\"c{1}\", \"d{1}\"]\n", i, i - 1);
  CHECK(ended_well(here.check(part_text(one_ply, held + cases))));
  CHECK(has(here.check(part_text(one_ply, held + "[case.a]\ncases = [\"b\"]\n[case.b]\ncases = [\"a\"]\n")).out,
            "cases that combine each other: a, b, a [case.circular]"));
  std::string grown = "[case.c0]\nloads = { l = 1e20 }\n";
  for (int i = 1; i < 20; ++i) grown += fmt::format("[case.c{}]\ncases = {{ c{} = 1e20 }}\n", i, i - 1);
  CHECK(has(here.check(part_text(one_ply, held + grown)).out, "[case.factor]"));
  CHECK(has(here.error(part_text("plies = [ { id = \"A\", angle = 0, chamfer = { length = 1, fill = \"\" } } ]\n")),
            "'fill' is empty [part.value]"));
  std::string key = "a";
  for (int i = 0; i < 40000; ++i) key += ".a";
  CHECK(has(here.error(key + " = 1\n"), "a key has more than 1000 parts [part.toml]"));
  CHECK(has(here.error("[" + key + "]\n"), "a key has more than 1000 parts [part.toml]"));
  CHECK(ended_well(here.check("a = " + std::string(100000, '[') + "\n")));
  CHECK(has(here.error(part_text("plies = [ { id = \"A\", code = \"[0/90]_1000\", repeat = 1000 } ]\n")),
            "[part.too-many-plies]"));
  CHECK(has(here.error(part_text("plies = [ { id = \"A\", laminate = \"l\", repeat = 1000 } ]\n",
                                 "[laminate.l]\ncode = \"[0/90]_1000\"\nrepeat = 1000\nsymmetric = \"even\"\n")),
            "[part.too-many-plies]"));
}

TEST_CASE("shapes without end") {
  const Here here;
  std::string outline;
  for (int i = 0; i < 200000; ++i)
    outline += fmt::format("[{:.3f}, {:.3f}, 0], ", 40 + 30 * std::cos(i * 3e-5), 30 + 20 * std::sin(i * 3e-5));
  const std::string polygon =
      "[zone.p]\npolygon = { along = [0, 0, 1], corners = [" + outline + "], from = -1, to = 1 }\n";
  CHECK(ended_well(here.check(part_text(one_ply, polygon))));
  CHECK(
      has(here.error(part_text(
              one_ply, "[curve.c]\npoints = [[0, 0, 0], [1e11, 0, 0]]\n[zone.z]\nnear = { of = \"c\", within = 3 }\n")),
          "[curve.far]"));
  for (const std::string number : {"1e300", "-1e300", "nan", "inf", "1e31"})
    CHECK(has(here.error(part_text(fmt::format("plies = [ {{ id = \"A\", angle = 0, thickness = {} }} ]\n", number))),
              "[part.value]"));
  // Two hundred zones that are the same: one note, not 19,900.
  std::string same;
  for (int i = 0; i < 200; ++i) same += fmt::format("[zone.z{}]\nbox = {{ from = [0, 0, -1], to = [40, 60, 1] }}\n", i);
  const test::Run noted = here.check(part_text(one_ply, same));
  CHECK(noted.status == 0);
  CHECK(has(noted.out, "zones 'z0', 'z1', 'z2', 'z3', 'z4' and 195 more hold the same 24 elements"));
  CHECK(noted.out.size() < 5000);
}

TEST_CASE("names that break lines, steer terminals or are no UTF-8") {
  const Here here;
  CHECK(has(here.error(part_text("plies = [ { id = \"A\\nB\", angle = 0 } ]\n")), "holds a line break"));
  CHECK(has(here.error(part_text(one_ply, "[zone.\"a\\u001b[31m\"]\nbox = { from = [0, 0, 0], to = [1, 1, 1] }\n")),
            "holds a line break or the like"));
  const std::string hundred =
      here.error(part_text("plies = [ { id = \"A\", angle = 0, zone = \"" + std::string(100000, 'z') + "\" } ]\n"));
  CHECK(hundred.size() < 3000);
  // What no XML may hold is no letter of a name.
  CHECK(has(here.error(part_text("plies = [ { id = \"A\xef\xbf\xbf\", angle = 0 } ]\n")), "[part.value]"));
  // A Latin-1 table of plies and a mesh with Latin-1 groups: every output is UTF-8.
  here.folder.write("plies.csv",
                    "id,angle\nB\xf6"
                    "den,0\n");
  std::string mesh = test::msh(Grid::rectangle(8, 6, 80, 60));
  mesh.replace(mesh.find("\"plate\""), 7, "\"pl\xe4tte\"");
  here.folder.write("grid.msh", mesh);
  here.folder.write("p.toml", part_text("plies = \"plies.csv\"\n"));
  for (const std::string command :
       {"check", "zones", "plies", "frames", "fields", "at --element 60", "stack --element 60", "diff p.toml"}) {
    const auto blank = command.find(' ');
    const test::Run result = run(
        command.substr(0, blank) + " p.toml" + (blank == std::string::npos ? "" : command.substr(blank)) + " --json",
        here.folder.path());
    INFO(command << result.err);
    CHECK(result.status == 0);
    CHECK(is_utf8(result.out));
    CHECK(nlohmann::json::accept(result.out));
    if (command == "check") CHECK(has(result.out, "part.latin-1"));
    if (command == "check") CHECK(has(result.out, "mesh.name-changed"));
  }
  CHECK(run("stack p.toml --element 60 -o s.svg", here.folder.path()).status == 0);
  CHECK(is_utf8(read_file(here.folder / "s.svg")));
  CHECK(has(read_file(here.folder / "s.svg"), "</svg>"));
  CHECK(run("deck p.toml", here.folder.path()).status == 0);
  CHECK(is_utf8(read_file(here.folder / "p.inp")));
  // A part file whose own name is no UTF-8.
  std::filesystem::copy_file(here.folder / "p.toml", here.folder / "p\xff.toml");
  const test::Run odd = run("check 'p\xff.toml' --json", here.folder.path());
  CHECK(odd.status == 0);
  CHECK(nlohmann::json::accept(odd.out));
}

TEST_CASE("empty names, wherever a name may stand") {
  const Here here;
  for (const std::string table : {"zone", "frame", "material", "curve", "load", "support", "mass", "case", "drape",
                                  "ramp", "laminate", "variant"})
    for (const std::string name : {"", "  "}) {
      INFO(table);
      CHECK(has(here.error(part_text(one_ply, fmt::format("[{}.\"{}\"]\n", table, name))),
                fmt::format("[{}.\"{}\"]: the name is empty [part.value]", table, name)));
    }
  CHECK(has(here.error(part_text("plies = \"\"\n")), "'plies' is empty [part.value]"));
  here.folder.write("p.toml", part_text(one_ply));
  const std::size_t files = here.folder.file_count();
  for (const std::string arguments :
       {"check ''", "surface ''", "begin '' -o x.toml", "begin grid.msh -o ''", "laminate '' --material carbon-ud",
        "laminate '[0]' --material ''", "material show ''", "material write carbon-ud --to ''", "review p.toml -o ''",
        "stack p.toml --element 60 -o ''", "plies p.toml --write ''", "cut p.toml -o ''", "schema -o ''",
        "deck p.toml --case ''", "deck p.toml --into ''", "diff p.toml ''", "runs '' p.toml", "summary p.toml -o ''",
        "frames p.toml --write ''"}) {
    const test::Run result = run(arguments, here.folder.path());
    INFO(arguments << ": " << result.err);
    CHECK(result.status > 0);
    CHECK(ended_well(result));
    CHECK(!result.err.empty());
    CHECK(!has(result.err, "[base.unforeseen]"));
  }
  CHECK(here.folder.file_count() == files);
}

TEST_CASE("cells of a table that are broken are told as that, not as a mistake of the program") {
  const Here here;
  for (const std::string column :
       {"angle", "thickness", "repeat", "edge", "code", "follows", "turned", "chamfer", "scallop"})
    for (const std::string cell :
         {"{", "{ of = 1 }", "{ pitch = -1", "[0/", "nan", "1e999", "5 furlong", "--1", "=1+1"}) {
      here.folder.write("plies.csv", fmt::format("id,{}\nA,{}\n", column, cell));
      const test::Run result = here.check(part_text("plies = \"plies.csv\"\n"));
      INFO(column << " " << cell << result.err);
      CHECK(ended_well(result));
      CHECK(!has(result.err, "[base.unforeseen]"));
    }
}

TEST_CASE("slips that were taken in silence are told: out of range, twice, too many") {
  const Here here;
  const auto material = [&](const std::string& more) {
    return here.error(part_text(one_ply, "[material.m]\nfrom = \"carbon-ud\"\n" + more + "\n"));
  };
  CHECK(has(material("puck-p12t = 1.5"), "puck-p12t = 1.5 should be below "));
  CHECK(has(material("puck-p12c = 1"), "puck-p12c = 1 should be below 1 [part.value]"));
  CHECK(has(material("puck-p12t = 0.5\nS12 = \"30 MPa\"\nYt = \"100 MPa\""), "should be below 0.3, which is S12 / Yt"));
  CHECK(has(here.error(part_text(one_ply, "[material.m]\nfrom = \"carbon-twill-yarns\"\nrest-angle = 1000\n")),
            "rest-angle = 1000 should lie between 10 and 170 degrees [part.value]"));
  CHECK(has(here.error(part_text(one_ply, "[zone.z]\nelements = [60, 61, 60]\n")),
            "element 60 stands twice in 'elements' [part.value]"));
  CHECK(has(here.error(part_text(one_ply, "[zone.z]\nunion = [\"plate\", \"plate\"]\n")),
            "'plate' stands twice in 'union' [part.value]"));
  const std::string draped =
      "plies = [ { id = \"A\", material = \"cloth\", angle = 0, drape = \"d\" } ]\n[material.cloth]\nfrom = "
      "\"carbon-twill-yarns\"\n[drape.d]\nseed = [40, 30, 0]\ncell = ";
  CHECK(has(here.error(part_text(draped + "0.01\n")),
            "48 million cells would cover this, and 5 million are the most [drape.cell]"));
  here.folder.write("p.toml", part_text(one_ply));
  CHECK(has(run("laminate '[0]' --material carbon-ud --force 1,0,0 --warmed -400", here.folder.path()).err,
            "[load.too-cold]"));
  // A material of which another is made is used; frequencies need no load; a ramp on one line has no slope.
  const test::Run yarn = here.check(part_text(one_ply,
                                              "[material.yarn]\nfrom = \"carbon-ud\"\n[material.cloth]\nkind = "
                                              "\"fabric\"\nyarn = \"yarn\"\nthickness = 0.3\n"));
  CHECK(!has(yarn.out, "'yarn' is in no ply"));
  CHECK(has(yarn.out, "'cloth' is in no ply"));
  const std::string held = "[support.s]\non = \"left\"\nhold = \"clamped\"\n";
  here.folder.write("p.toml", part_text(one_ply, held + "[case.f]\nanalysis = \"frequencies\"\n"));
  CHECK(!has(run("deck p.toml", here.folder.path()).out, "declares no load"));
  here.folder.write("p.toml", part_text(one_ply, held));
  CHECK(has(run("deck p.toml --replace", here.folder.path()).out, "declares no load"));
  here.folder.write("p.toml",
                    part_text("plies = [ { id = \"A\", angle = 0 }, { id = \"B\", angle = 0, zone = \"z\" } ]\n",
                              "[zone.z]\nbox = { from = [20, 10, -1], to = [60, 50, 1] }\n[ramp.r]\nfrom = "
                              "\"z\"\nslope = \"1:20\"\n"));
  const test::Run ramp = run("ramps p.toml", here.folder.path());
  CHECK(has(ramp.out, "end on one line\n"));
  CHECK(!has(ramp.out, "nan"));
}

TEST_CASE("numbers on the command line are numbers to work with") {
  const Here here;
  here.folder.write("p.toml", part_text(one_ply));
  for (const std::string arguments :
       {"at p.toml --point nan,0,0", "at p.toml --point 0,inf,0", "at p.toml --element 60 --force 1,nan,0",
        "at p.toml --element 60 --warmed inf", "deck p.toml --angle-tolerance nan", "deck p.toml --angle-tolerance 0",
        "deck p.toml --orientation-tolerance nan", "surface grid.msh --scale nan", "surface grid.msh --scale 0",
        "surface grid.msh --scale 1e999", "surface grid.msh --repair --merge nan", "surface grid.msh --crease nan",
        "laminate '[0]' --material carbon-ud --thickness nan", "laminate '[0]' --material carbon-ud --moment 1e999,0,0",
        "material compute --fibre carbon-fibre-standard --matrix epoxy-hot-cured --fibre-volume nan"}) {
    const test::Run result = run(arguments, here.folder.path());
    INFO(arguments << ": " << result.err);
    CHECK(result.status != 0);
    CHECK(ended_well(result));
    CHECK(!result.err.empty());
  }
  const std::size_t files = here.folder.file_count();
  CHECK(files == 2);
  const test::Run wrong = run("chek p.toml", here.folder.path());
  CHECK(wrong.status == 2);
  CHECK(wrong.err == "error: there is no command 'chek' [command.arguments]\n    did you mean 'check'?\n");
}

TEST_CASE("nothing that was read or that Bordado did not make is overwritten by a command") {
  const test::Folder folder;
  const std::string deck =
      "*NODE\n1,0,0\n2,10,0\n3,10,10\n4,0,10\n*ELEMENT,TYPE=S4,ELSET=PLATE\n1,1,2,3,4\n*NSET,NSET=LEFT\n1,4\n*NSET,"
      "NSET=RIGHT\n2,3\n";
  const std::string part =
      "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"p.inp\", length = \"mm\" }\nside = { along = [0, "
      "0, 1] }\nsurface = \"bottom\"\n" +
      test::materials() + "[layup]\nmaterial = \"ud\"\nframe = \"x\"\n" + one_ply +
      "[support.s]\non = \"LEFT\"\nhold = \"clamped\"\n[load.f]\non = \"RIGHT\"\nforce = [1, 0, 0]\n";
  folder.write("p.inp", deck);
  folder.write("p.toml", part);
  folder.write("q.toml", part);
  folder.write("q.inp", "somebody's\n");
  // A table that only an unused frame names, and one that an unused material of a library does.
  folder.write("r.toml", part + "[frame.unused]\nmapped = { file = \"table.csv\", field = \"fibre\" }\n");
  folder.write("table.csv", "x,y,z\n");
  test::run("mkdir sub; ln table.csv link.csv", folder.path());
  folder.write("lib.toml",
               "units = \"mm, t, s\"\n[material.x]\nkind = \"isotropic\"\nE = 70000\nnu = 0.3\nthickness = 1\nXt = "
               "100\n[material.y]\nkind = \"fabric\"\nsheared = \"sheared.csv\"\n");
  folder.write("sheared.csv", "0,1,1,0,1\n");
  const auto text = [&](const std::string& name) {
    std::ifstream in(folder / name);
    return std::string{std::istreambuf_iterator<char>(in), {}};
  };
  for (const auto& [arguments, code] : std::vector<std::pair<std::string, std::string>>{
           {"deck p.toml", "file.was-read"},
           {"solve p.toml", "file.was-read"},
           {"deck q.toml", "file.not-ours"},
           {"solve q.toml", "file.not-ours"},
           {"review p.toml -o p.toml", "file.was-read"},
           {"review p.toml -o p.inp --replace", "file.was-read"},
           {"plies p.toml --write p.toml", "file.was-read"},
           {"plies p.toml --write ./p.inp --replace", "file.was-read"},
           // Named by the part, or on the command line, and not read.
           {"plies r.toml --write table.csv --replace", "file.was-read"},
           {"plies r.toml --write link.csv --replace", "file.was-read"},
           {"plies r.toml --write sub/../table.csv --replace", "file.was-read"},
           {"laminate [0] --material x --library lib.toml --write lib.toml", "file.was-read"},
           {"laminate [0] --material x --library lib.toml --force 1,0,0 "
            "--envelope sheared.csv --replace",
            "file.was-read"}}) {
    const test::Run result = run(arguments, folder.path());
    INFO(arguments << ": " << result.err);
    CHECK(result.status == 1);
    CHECK(has(result.err, "[" + code + "]"));
    CHECK(text("p.inp") == deck);
    CHECK(text("p.toml") == part);
    CHECK(text("q.inp") == "somebody's\n");
    CHECK(text("table.csv") == "x,y,z\n");
    CHECK(text("sheared.csv") == "0,1,1,0,1\n");
    CHECK(text("lib.toml").starts_with("units"));
  }
  CHECK(run("deck p.toml --folder /tmp --format nothing", folder.path()).status == 2);
  // Streams mean what they mean elsewhere.
  const test::Run streamed = run("plies p.toml --write -", folder.path());
  CHECK(streamed.status == 0);
  CHECK(streamed.out.starts_with("id,material,angle"));
  CHECK(run("review p.toml -o /dev/null", folder.path()).status == 0);
  CHECK(std::filesystem::is_character_file("/dev/null"));
  const test::Run page = run("review p.toml -o -", folder.path());
  CHECK(page.out.starts_with("<!"));
  CHECK(page.out.ends_with("</html>\n"));
  for (const std::string input : {"/dev/zero", "/dev/null", "/", "pipe"}) {
    test::run("mkfifo pipe", folder.path());
    const test::Run result = run("surface " + input, folder.path());
    CHECK(result.status == 1);
    CHECK(has(result.err, "[file."));
  }
}

TEST_CASE("a full or closed output, a folder that went away, a signal: an end, a message, nothing left") {
  const Here here;
  here.folder.write("p.toml", part_text(one_ply));
  const std::string program = test::program();
  const test::Run full = test::run(fmt::format("'{}' check p.toml > /dev/full; echo $?", program), here.folder.path());
  CHECK(full.out == "1\n");
  CHECK(has(full.err, "error: "));
  const test::Run closed = test::run(fmt::format("'{}' check p.toml >&-; echo $?", program), here.folder.path());
  CHECK(closed.out == "1\n");
  const test::Run gone =
      test::run(fmt::format("mkdir d; cd d; rmdir ../d; '{}' check p.toml; echo $?", program), here.folder.path());
  CHECK(gone.out == "1\n");
  const test::Run nowhere =
      test::run(fmt::format("mkdir e; cd e; rmdir ../e; '{}' solve '{}'; echo $?", program, here.folder / "p.toml"),
                here.folder.path());
  CHECK(nowhere.out == "1\n");
  const std::size_t files = here.folder.file_count();
  for (const std::string signal : {"TERM", "INT", "KILL", "HUP"})
    for (const std::string delay : {"0.01", "0.05", "0.15"}) {
      test::run(fmt::format("'{0}' review p.toml -o page.html & pid=$!; sleep {1}; kill -{2} $pid 2> /dev/null; wait "
                            "$pid; rm -f page.html",
                            program, delay, signal),
                here.folder.path());
      CHECK(here.folder.file_count() == files);
    }
}

TEST_CASE("five hundred bad inputs: no crash, no hang, none accepted in silence where it was cut") {
  // Files of every kind the program reads, cut, with bytes changed, doubled and blown up.
  const test::Folder folder;
  std::mt19937 random(23);
  const auto text_of = [](const std::string& path) {
    std::ifstream in(path, std::ios::binary);
    return std::string{std::istreambuf_iterator<char>(in), {}};
  };
  const std::vector<std::string> seeds = {
      "examples/panel/panel.msh",  "tests/fuzz/seeds/vtu", "tests/fuzz/seeds/stl", "tests/fuzz/seeds/bulk_data",
      "tests/fuzz/seeds/keywords", "tests/fuzz/seeds/obj", "tests/fuzz/seeds/msh"};
  std::vector<std::string> meshes;
  for (const std::string& seed : seeds) {
    if (std::filesystem::is_regular_file(test::source(seed))) meshes.push_back(text_of(test::source(seed)));
    if (std::filesystem::is_directory(test::source(seed)))
      for (const auto& entry : std::filesystem::directory_iterator(test::source(seed)))
        meshes.push_back(text_of(entry.path().string()));
  }
  const std::string good_part = part_text(
      "plies = [ { id = \"A\", code = \"[0/90]s\" }, { id = \"B\", angle = 45, zone = \"z\" } ]\n",
      "[zone.z]\nbox = { from = [0, 0, -1], to = [40, 60, 1] }\n[support.s]\non = \"left\"\nhold = \"clamped\"\n");
  folder.write("grid.msh", test::msh(Grid::rectangle(8, 6, 80, 60)));
  const auto spoiled = [&](std::string text) {
    const auto at = [&] { return text.empty() ? 0 : random() % text.size(); };
    switch (random() % 6) {
      case 0:
        text.resize(at());
        break;
      case 1:
        for (int k = 0; k < 5 && !text.empty(); ++k) text[at()] = static_cast<char>(random());
        break;
      case 2:
        text.insert(at(), text.substr(at(), random() % 200));
        break;
      case 3:
        for (int k = 0; k < 3 && !text.empty(); ++k) {
          const std::size_t digit = text.find_first_of("0123456789", at());
          if (digit != std::string::npos) text.insert(digit, "99999999999");
        }
        break;
      case 4:
        if (!text.empty()) text.erase(at(), random() % 100);
        break;
      default:
        for (int k = 0; k < 3 && !text.empty(); ++k) text[at()] = "-+eE.,'\"[]{}=\n\0*$"[random() % 18];
    }
    return text;
  };
  const int rounds = BORDADO_SANITIZED ? 12 : 40;
  for (int batch = 0; batch < rounds; ++batch) {
    // Thirteen at a time by one shell, since to begin a process takes longest.
    std::string lines;
    for (int k = 0; k < 13; ++k) {
      const bool part = k % 3 == 0;
      const std::string name = fmt::format("bad{}.{}", k, part ? "toml" : "mesh");
      folder.write(name, spoiled(part ? good_part : meshes[random() % meshes.size()]));
      lines += fmt::format("timeout 60 '{}' {} {} > o{} 2> e{}; echo $?\n", test::program(), part ? "check" : "surface",
                           name, k, k);
    }
    const test::Run result = test::run(lines, folder.path());
    std::istringstream statuses(result.out);
    int k = 0;
    for (int status; statuses >> status; ++k) {
      INFO("batch " << batch << " input " << k);
      if (status != 0 && status != 1 && status != 2)
        std::filesystem::copy(folder / fmt::format("bad{}.{}", k, k % 3 == 0 ? "toml" : "mesh"), "/tmp/bordado-crash",
                              std::filesystem::copy_options::overwrite_existing);
      CHECK((status == 0 || status == 1));
      if (status == 1) CHECK(has(text_of(folder / fmt::format("e{}", k)), "error"));
      CHECK(std::filesystem::file_size(folder / fmt::format("e{}", k)) < 50000);
    }
    CHECK(k == 13);
  }
}

}  // namespace of_cli_hostile
