// Bad input as it reaches a user: one clear message, exit code 1, nothing left half-written, no earlier file lost.
#include "support.hpp"

#include <bordado/base/files.hpp>

#include <fmt/format.h>

#include <unistd.h>

namespace of_cli_bad_input {

using namespace bordado;
using test::Grid;

namespace {

const std::string head =
    "[part]\nname = \"Plate\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" }\nside = { along = "
    "[0, 0, 1] }\nsurface = \"bottom\"\n";

std::string part_text(const std::string& ply = R"({ id = "P", material = "ud", frame = "x", angle = 0 })",
                      const std::string& more = "") {
  return head + test::materials() + "[layup]\nplies = [\n  " + ply + ",\n]\n" + more +
         "[support.s]\non = \"left\"\nhold = \"clamped\"\n[load.f]\non = \"right\"\nforce = [0, 0, 1]\n";
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
  const auto at = text.find(from);
  REQUIRE(at != std::string::npos);
  return text.replace(at, from.size(), to);
}

/// Lets the deck command loose on a part and a mesh in a folder that holds an earlier deck; returns what it said.
std::string told(const std::string& part_text, const std::string& mesh_text, int expected_status = 1) {
  const test::Folder folder;
  if (!mesh_text.empty()) folder.write("grid.msh", mesh_text);
  folder.write("p.toml", part_text);
  folder.write("p.inp", "earlier deck");
  const std::size_t files = folder.file_count();
  const test::Run run = test::run(fmt::format("'{}' deck p.toml", test::program()), folder.path());
  INFO(run.out << run.err);
  CHECK(run.status == expected_status);
  CHECK(run.out.empty());
  CHECK(folder.file_count() == files);                   // nothing half-written
  CHECK(read_file(folder / "p.inp") == "earlier deck");  // nothing lost
  return run.err;
}

const std::string plate = test::msh(Grid::rectangle(4, 4, 10, 10));

}  // namespace

TEST_CASE("a missing mesh") {
  CHECK(told(part_text(), "") ==
        "error: there is no file 'grid.msh' [file.missing]\n    at p.toml:4:17\n    check the name; a path in a part "
        "file "
        "counts from the part file's folder\n1 error, 0 warnings, 0 notes\n");
}

TEST_CASE("a truncated mesh") {
  const std::string text = told(part_text(), plate.substr(0, plate.size() * 2 / 3));
  CHECK(text.find("error: the mesh file is cut short: ") == 0);
  CHECK(text.find("[mesh.truncated]\n    at grid.msh:") != std::string::npos);
  CHECK(text.find("    save the mesh again (Gmsh MSH 4.1 or 2.2)\n1 error, 0 warnings, 0 notes\n") !=
        std::string::npos);
}

TEST_CASE("an unknown zone") {
  CHECK(told(part_text(R"({ id = "P", material = "ud", frame = "x", angle = 0, zone = "plait" })"), plate) ==
        "error: ply 'P': zone 'plait' is not declared and is no element group of the mesh [zone.unknown]\n    at "
        "p.toml:32:63\n    did you mean 'plate'?\n1 error, 0 warnings, 0 notes\n");
}

TEST_CASE("an angle as text") {
  CHECK(told(part_text(R"({ id = "P", material = "ud", frame = "x", angle = "along" })"), plate) ==
        "error: ply 'P': 'angle' should be a number in deg or with its unit: 'along' does not begin with a number "
        "[part.value]\n    at p.toml:32:53\n"
        "    write angle = 1.5 or angle = \"1.5 deg\"\n1 error, 0 warnings, 0 notes\n");
}

TEST_CASE("a negative thickness") {
  CHECK(told(part_text(R"({ id = "P", material = "ud", frame = "x", angle = 0, thickness = -1 })"), plate) ==
        "error: ply 'P': 'thickness' is -1 mm; it must be positive [part.value]\n    at p.toml:32:68\n1 error, 0 "
        "warnings, 0 notes\n");
}

TEST_CASE("a material that is not positive definite") {
  CHECK(told(replaced(part_text(), "nu12 = 0.3", "nu12 = 4"), plate)
            .find("error: material 'ud' cannot exist: nu12 = 4 is outside ±sqrt(E1/E2) = ±3.873 "
                  "[material.not-positive-definite]\n") == 0);
}

TEST_CASE("a ply over an empty zone") {
  const std::string text = told(
      part_text(
          R"({ id = "P", material = "ud", frame = "x", angle = 0 }, { id = "Q", material = "ud", frame = "x", angle = 0, zone = "far" })",
          "[zone.far]\nbox = { from = [90, 0, 0], to = [99, 9, 9] }\n"),
      plate);
  CHECK(text.find("warning: zone 'far' has no elements [zone.empty]\n    at p.toml:34:1\n") != std::string::npos);
  CHECK(text.find("error: ply 'Q' lies on zone 'far', which has no elements [layup.ply-nowhere]\n    at "
                  "p.toml:32:118\n    correct the zone or take the ply out\n") != std::string::npos);
}

TEST_CASE("an element in no ply") {
  const std::string text = told(part_text(R"({ id = "P", material = "ud", frame = "x", angle = 0, zone = "some" })",
                                          "[zone.some]\nbox = { from = [0, 0, 0], to = [10, 7, 9] }\n"),
                                plate);
  CHECK(text.find("error: 4 elements have no ply: elements 30, 31, 32, 33 [layup.element-bare]\n    at grid.msh: "
                  "element 30\n") != std::string::npos);
}

TEST_CASE("a reference vector normal to the surface") {
  const std::string text = told(replaced(part_text(), "vector = [1, 0, 0]", "vector = [0, 0.05, 1]"), plate);
  CHECK(
      text.find("error: frame 'x': its direction lies within 5° of the normal on 16 elements that plies need it on, so "
                "0° has no meaning there: elements 18, 19, 20, 21, 22 and 11 more "
                "[frame.near-normal]\n    at p.toml:28:1\n    give the frame a fallback = [x, y, z], or use another "
                "frame there\n") != std::string::npos);
}

TEST_CASE("a mesh with a coordinate that is not a number") {
  const std::string text = told(part_text(), replaced(plate, "\n1 0 0 0\n", "\n1 0 nan 0\n"));
  CHECK(text.find("error: node 1 has a coordinate that is not a number: (0, nan, 0) [mesh.not-finite]\n") !=
        std::string::npos);
}

TEST_CASE("duplicate element ids") {
  CHECK(told(part_text(), replaced(plate, "\n19 3 2", "\n18 3 2")) ==
        "error: element id 18 stands twice [mesh.element-twice]\n    at grid.msh: element 18\n    renumber the mesh "
        "and save it again\n1 error, 0 warnings, 0 notes\n");
}

TEST_CASE("a million stray nodes are dropped and said, and the deck holds none") {
  const std::size_t begin = plate.find("$Nodes\n") + 7, end = plate.find("$EndNodes");
  std::string nodes = plate.substr(plate.find('\n', begin) + 1, end - plate.find('\n', begin) - 1);
  for (int i = 0; i < 1000000; ++i) nodes += fmt::format("{} {} 1 2\n", 1000 + i, i);
  const std::string many = plate.substr(0, begin) + fmt::format("{}\n", 1000025) + nodes + plate.substr(end);
  const test::Folder folder;
  folder.write("grid.msh", many);
  folder.write("p.toml", part_text());
  const test::Run run = test::run(fmt::format("'{}' deck p.toml --format bulk-data", test::program()), folder.path());
  CHECK(run.status == 0);
  CHECK(
      test::run(fmt::format("'{}' check p.toml", test::program()), folder.path())
          .out.find("note: 1000000 of 1000025 nodes belong to no shell element and were dropped [mesh.stray-nodes]") !=
      std::string::npos);
  CHECK(std::filesystem::file_size(folder / "p.bdf") < 20000);
}

TEST_CASE("a full disk: the deck is refused, the earlier one stays, nothing is left") {
  if (::geteuid() != 0) return;  // only root may mount
  const test::Folder folder;
  folder.write("grid.msh", test::msh(Grid::rectangle(60, 60, 10, 10)));
  folder.write("p.toml", part_text());
  std::filesystem::create_directory(folder / "disk");
  if (test::run(fmt::format("mount -t tmpfs -o size=64k none '{}'", folder / "disk")).status != 0) {
    MESSAGE("mounting is not allowed here; the full disk was not tried");
    return;
  }
  test::run("echo '** earlier, written by Bordado' > disk/p.inp", folder.path());
  const test::Run run =
      test::run(fmt::format("'{}' deck p.toml --format calculix --folder disk; echo $?; ls disk; cat disk/p.inp",
                            test::program()),
                folder.path());
  test::run(fmt::format("umount '{}'", folder / "disk"));
  CHECK(run.out == "1\np.inp\n** earlier, written by Bordado\n");
  CHECK(
      run.err.find(
          "error: file 'disk/p.inp' cannot be written: No space left on device [file.not-written]\n    at disk/p.inp\n"
          "    make room on the disk or name another folder; nothing was left behind\n") != std::string::npos);
}

TEST_CASE("an output folder that is missing, cannot be made or is not writable") {
  const test::Folder folder;
  folder.write("grid.msh", plate);
  folder.write("p.toml", part_text());
  const test::Run missing =
      test::run(fmt::format("'{}' plies p.toml --write no/where/p.csv", test::program()), folder.path());
  CHECK(missing.status == 1);
  CHECK(missing.err.find("error: file 'no/where/p.csv' cannot be made: No such file or directory [file.not-writable]\n "
                         "   at no/where/p.csv\n"
                         "    name a folder that exists and that you may write to\n") != std::string::npos);
  const test::Run below =
      test::run(fmt::format("'{}' deck p.toml --folder p.toml/where", test::program()), folder.path());
  CHECK(below.status == 1);
  CHECK(below.err.find("error: folder 'p.toml/where' cannot be made: Not a directory [file.not-writable]\n"
                       "    at p.toml/where\n"
                       "    name a folder that may be made, or one that exists\n") != std::string::npos);
  const test::Run refused = test::run(fmt::format("'{}' deck p.toml --folder /proc", test::program()),
                                      folder.path());  // nobody, not even root, writes there
  CHECK(refused.status == 1);
  CHECK(refused.err.find("[file.not-writable]") != std::string::npos);
}

TEST_CASE("errors come as JSON where JSON was asked for") {
  const test::Folder folder;
  folder.write("p.toml", part_text());
  const test::Run run = test::run(fmt::format("'{}' check p.toml --json", test::program()), folder.path());
  CHECK(run.status == 1);
  CHECK(run.out ==
        "{\n  \"bordado\": \"0.1.0\",\n  \"command\": \"check\",\n  \"findings\": [\n    {\n      \"severity\": "
        "\"error\",\n      \"code\": \"file.missing\",\n      "
        "\"what\": \"there is no file 'grid.msh'\",\n      \"file\": \"p.toml\",\n      \"line\": 4,\n      "
        "\"column\": 17,\n"
        "      \"remedy\": \"check the name; a path in a part file counts from the part file's folder\"\n    }\n  "
        "]\n}\n");
  CHECK(run.err.empty());
}

}  // namespace of_cli_bad_input
