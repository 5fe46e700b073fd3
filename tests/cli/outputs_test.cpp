// What commands write: every option that names a file, of every command, as the program's own help lists them.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <fstream>
#include <map>
#include <set>
#include <sstream>

namespace of_cli_outputs {

using namespace bordado;
using test::Grid;

namespace {

bool has(const std::string& text, const std::string& part) { return text.find(part) != std::string::npos; }

test::Run run(const std::string& arguments, const std::string& folder) {
  return test::run(fmt::format("'{}' {}", test::program(), arguments), folder);
}

/// A part with a ramp, draped cloth and a load; table.csv is named by it and read by no command.
void write_part(const test::Folder& folder) {
  folder.write("grid.msh", test::msh(Grid::rectangle(12, 8, 120, 80)));
  folder.write("table.csv", "x,y,z\n");
  folder.write("p.toml",
               "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" }\nside = { "
               "along = [0, 0, 1] }\nsurface = \"bottom\"\n[material.ud]\nfrom = \"carbon-ud\"\n[material.cloth]\nfrom "
               "= \"carbon-twill-yarns\"\n[frame.x]\nvector = [1, 0, 0]\n[frame.unused]\nmapped = { file = "
               "\"table.csv\", field = \"fibre\" }\n[zone.thick]\nbox = { from = [50, -1, -1], to = [121, 81, 1] }\n"
               "[drape.net]\nseed = [60, 40, 0]\n[layup]\nframe = \"x\"\nmaterial = \"ud\"\nplies = [ { id = \"A\", "
               "angle = 0 }, { id = \"B\", angle = 0, zone = \"thick\" }, { id = \"C\", angle = 90, zone = \"thick\" "
               "}, { id = \"T\", material = \"cloth\", angle = 0, drape = \"net\" } ]\n[ramp.r]\nfrom = "
               "\"thick\"\nslope = \"1:20\"\n[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.f]\non = "
               "\"right\"\nforce = [10, 0, 0]\n");
}

/// By command and option: how it is called, $O for the file that the option names.
const std::map<std::string, std::string> calls = {
    {"begin --output", "grid.msh -o $O.toml"},
    {"cut --write", "p.toml -o $O.msh"},
    {"drape --write", "p.toml -o $O.vtu"},
    {"drape --patterns", "p.toml --patterns $O.dxf"},
    {"drape --rolls", "p.toml --rolls $O.pdf"},
    {"fields --write", "p.toml --write $O.vtu"},
    {"fields --edges", "p.toml --edges $O.vtu"},
    {"frames --write", "p.toml --write $O.vtu"},
    {"laminate --draw", "'[0/45/90]s' --material carbon-ud --draw $O.svg"},
    {"laminate --write", "'[0/45/90]s' --material carbon-ud --write $O.inp"},
    {"laminate --envelope", "'[0/45/90]s' --material carbon-ud --force 1,0,0 --envelope $O.csv"},
    {"panel --draw", "'[0/45/90]s' --material carbon-ud --size 400,300 --force -1,0,0 --draw $O.svg"},
    {"panel --chart",
     "'[0/45/90]s' --material carbon-ud --size 400,300 --force -1,0,0 --against a=300:500:3 --chart $O.csv"},
    {"panel --write", "p.toml --zone plate --folder answers --write $O.vtu"},
    {"column --chart",
     "'[0/45/90]s' --material carbon-ud --shape C --size 60,30 --length 900 --force -1 --against count:1=1:2 --chart "
     "$O.svg"},
    {"column --draw", "'[0/45/90]s' --material carbon-ud --shape C --size 60,30 --length 900 --force -1 --draw $O.svg"},
    {"at --envelope", "p.toml --point 30,30,0 --force 1,0,0 --envelope $O.pdf"},
    {"at --write", "p.toml --point 30,30,0 --write $O.inp"},
    {"material show --write", "carbon-twill-yarns --write $O.csv"},
    {"material write --to", "carbon-ud --to $O.toml"},
    {"plies --write", "p.toml --write $O.csv"},
    {"plies --draw", "p.toml --draw $O.svg"},
    {"picture --write", "p.toml --of thickness --of zones -o $O.svg"},
    {"profile --write", "p.toml --from 10,40,0 --to 110,40,0 -o $O.pdf"},
    {"ramps --lines", "p.toml --lines $O.dxf"},
    {"ramps --write", "p.toml -o $O.svg"},
    {"review --write", "p.toml -o $O.html"},
    {"runs --write", "p.toml p.toml --folder answers --write $O.vtu"},
    {"schema --output", "-o $O.json"},
    {"stack --write", "p.toml --point 30,30,0 -o $O.svg"},
    {"stress --write", "p.toml --folder answers --write $O.csv"},
    {"stress --template", "p.toml --template $O.csv"},
    {"stress --draw", "p.toml --folder answers --draw $O.svg"},
    {"summary --write", "p.toml --folder answers -o $O.html"},
    {"surface --write", "grid.msh --write $O.vtu"}};

/// What people go on to edit by hand: it is theirs, and a second time asks for --replace, too.
const std::set<std::string> edited = {"at --write",          "laminate --write", "material show --write",
                                      "material write --to", "plies --write",    "stress --template"};

/// Options of a command that name a file to write, by their long names.
std::vector<std::string> outputs_of(const std::string& command) {
  std::vector<std::string> out;
  std::istringstream help(run(command + " --help", ".").out);
  for (std::string line; std::getline(help, line);) {
    const std::size_t type = line.find(" FILE"), name = line.find("--");
    if (type == std::string::npos || name == std::string::npos || name > type) continue;
    out.push_back(line.substr(name, type - name));
  }
  return out;
}

std::vector<std::string> all_outputs() {
  std::vector<std::string> out;
  for (const std::string& command : test::commands()) {
    std::vector<std::string> own = {command};
    if (command == "material")
      own = {"material list", "material show", "material compare", "material compute", "material write"};
    for (const std::string& one : own)
      for (const std::string& option : outputs_of(one)) out.push_back(one + " " + option);
  }
  return out;
}

struct Call {
  std::string arguments, path;
};
Call call_of(const std::string& output, const std::string& stem) {
  std::string text = output.substr(0, output.rfind(' ')) + " " + calls.at(output);
  const std::size_t at = text.find("$O");
  text.replace(at, 2, stem);
  const std::size_t end = std::min(text.find(' ', at), text.size());
  return {text, text.substr(at, end - at)};
}

}  // namespace

TEST_CASE("what Bordado did not make goes only with --replace, what it made is made anew") {
  const test::Folder folder;
  write_part(folder);
  REQUIRE(run("solve p.toml --folder answers", folder.path()).status == 0);  // the folder is made
  const std::vector<std::string> outputs = all_outputs();
  CHECK(outputs.size() == calls.size());
  for (const std::string& output : outputs) {
    INFO(output);
    REQUIRE(calls.count(output) == 1);
    const auto [arguments, name] = call_of(output, "there");
    const std::string path = folder / name;
    const auto text = [&] { return read_file(path); };
    folder.write(name, "somebody's\n");
    const test::Run refused = run(arguments, folder.path());
    INFO(refused.err);
    CHECK(refused.status == 1);
    CHECK(text() == "somebody's\n");
    if (output == "begin --output") {  // a first part file takes the place of nothing
      CHECK(has(refused.err, "[file.is-there]"));
      // What it begins is somebody's from then on.
      REQUIRE(run("begin grid.msh -o begun.toml", folder.path()).status == 0);
      CHECK(!made_here(folder / "begun.toml"));
      continue;
    }
    CHECK(has(refused.err, "1 error, "));  // told once
    CHECK(
        has(refused.err, fmt::format("'{}' would be overwritten, and Bordado did not make it [file.not-ours]", name)));
    const test::Run replaced = run(arguments + " --replace", folder.path());
    INFO(replaced.err);
    CHECK(replaced.status == 0);
    CHECK(text().size() > 20);
    const std::string made = text();
    const test::Run again = run(arguments, folder.path());
    CHECK(again.status == (edited.count(output) ? 1 : 0));
    CHECK(made_here(path) == !edited.count(output));
    CHECK((text() == made));
  }
}

TEST_CASE("no output takes the place of what a part names, read or not, whatever is said") {
  const test::Folder folder;
  write_part(folder);
  REQUIRE(run("solve p.toml --folder answers", folder.path()).status == 0);
  test::run("ln -s table.csv link.csv; ln table.csv same.csv", folder.path());
  const auto text = [&](const std::string& name) { return read_file(folder / name); };
  const std::map<std::string, std::string> before = {
      {"p.toml", text("p.toml")}, {"grid.msh", text("grid.msh")}, {"table.csv", text("table.csv")}};
  for (const std::string& output : all_outputs()) {
    const auto [arguments, name] = call_of(output, "out");
    if (!has(arguments, " p.toml")) continue;
    const std::string ending = name.substr(name.find('.'));
    // Under its own name where the ending says what to write, under a link that ends so.
    for (const std::string input : {"p.toml", "grid.msh", "table.csv"}) {
      const std::string link = fmt::format("link-{}{}", input.substr(0, input.find('.')), ending);
      test::run(fmt::format("ln -sf {} {}", input, link), folder.path());
      std::string aimed = arguments;
      aimed.replace(aimed.find(name), name.size(), link);
      const test::Run result = run(aimed + " --replace", folder.path());
      INFO(aimed << ": " << result.err);
      CHECK(result.status == 1);
      CHECK(has(result.err, "[file.was-read]"));
    }
    for (const auto& [file, bytes] : before) CHECK((text(file) == bytes));
  }
}

TEST_CASE("hostile names stay names in whatever is written") {
  const test::Folder folder;
  // As TOML writes them; what they are.
  const std::pair<std::string, std::string> names[] = {
      {"a<b>&\\\"c'd]]>--%s;,\xc3\xa9\xf0\x9f\x98\x80\xe2\x80\x8b",
       "a<b>&\"c'd]]>--%s;,\xc3\xa9\xf0\x9f\x98\x80\xe2\x80\x8b"},
      {"=cmd()/../..//{0}%n$HOME`id`", "=cmd()/../..//{0}%n$HOME`id`"}};
  for (const auto& [written, name] : names) {
    write_part(folder);
    std::string text = read_file(folder / "p.toml");
    // Part, ply, zone, frame, material, cloth, ramp, support and load bear it.
    for (const std::string old : {"\"P\"", "\"A\"", "\"thick\"", "\"ud\"", "\"net\"", "\"x\""})
      for (std::size_t at = 0; (at = text.find(old, at)) != std::string::npos; at += written.size())
        text.replace(at, old.size(), "\"" + written + "\"");
    for (const std::string old :
         {"zone.thick", "material.ud", "drape.net", "frame.x", "ramp.r", "support.s", "load.f"}) {
      const std::size_t at = text.find("[" + old + "]");
      REQUIRE(at != std::string::npos);
      text.replace(at, old.size() + 2, fmt::format("[{}.\"{}\"]", old.substr(0, old.find('.')), written));
    }
    folder.write("p.toml", text);
    INFO(name);
    const test::Run solved = run("solve p.toml --folder answers --replace", folder.path());
    INFO(solved.err);
    REQUIRE(solved.status == 0);
    for (const std::string& output : all_outputs()) {
      const auto [arguments, path] = call_of(output, "out");
      if (!has(arguments, " p.toml")) continue;
      INFO(arguments);
      const test::Run result = run(arguments + " --replace", folder.path());
      INFO(result.err);
      CHECK(result.status == 0);
      const std::string bytes = read_file(folder / path);
      if (!path.ends_with(".pdf")) CHECK(is_utf8(bytes));
      if (path.ends_with(".vtu") || path.ends_with(".svg"))
        CHECK(test::run(fmt::format("/usr/bin/python3 -c 'import xml.etree.ElementTree as e; e.parse(\"{}\")'", path),
                        folder.path())
                  .status == 0);
      if (path.ends_with(".html")) CHECK(!has(bytes, "<b>&"));
      if (path.ends_with(".csv") && name.starts_with('=')) CHECK(!has(bytes, "," + name));
    }
    for (const std::string command :
         {"check", "zones", "plies", "frames", "ramps", "drape", "fields", "stress --folder answers"}) {
      const std::size_t blank = std::min(command.find(' '), command.size());
      const test::Run told =
          run(command.substr(0, blank) + " p.toml" + command.substr(blank) + " --json", folder.path());
      INFO(command << told.err);
      CHECK(told.status == 0);
      CHECK(nlohmann::json::accept(told.out));
    }
  }
  // Nothing went where a name pointed to.
  CHECK(!std::filesystem::exists(folder / "../x"));
}

TEST_CASE("folders are made where they are not, and said where they cannot be") {
  const test::Folder folder;
  write_part(folder);
  CHECK(run("deck p.toml --folder a/b/c", folder.path()).status == 0);
  CHECK(std::filesystem::exists(folder / "a/b/c/p.inp"));
  folder.write("taken", "somebody's\n");
  for (const std::string command : {"deck", "solve"}) {
    const test::Run result = run(command + " p.toml --folder taken/b", folder.path());
    CHECK(result.status == 1);
    CHECK(has(result.err, "folder 'taken/b' cannot be made"));
  }
  // A part that is wrong leaves no folder.
  folder.write("q.toml", "[part]\n");
  CHECK(run("deck q.toml --folder none", folder.path()).status == 1);
  CHECK(!std::filesystem::exists(folder / "none"));
  // A deck that Bordado did not make.
  folder.write("a/p.inp", "somebody's\n");
  CHECK(has(run("deck p.toml --folder a", folder.path()).err, "[file.not-ours]"));
  CHECK(run("deck p.toml --folder a --replace", folder.path()).status == 0);
}

}  // namespace of_cli_outputs
