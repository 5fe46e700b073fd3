#include "support.hpp"

#include <bordado/part.hpp>

#include <fmt/format.h>

namespace of_part_read {

using namespace bordado;

namespace {

const std::string head = R"([part]
name = "Plate"
units = "mm, t, s"
mesh = { file = "plate.msh", length = "mm" }
side = { along = [0, 0, 1] }
surface = "bottom"
)";

part::Part read(const std::string& text) {
  Findings findings;
  return part::read_text(text, "a/plate.toml", findings);
}

std::string refused(const std::string& text) {
  return test::failure([&] { read(text); });
}

/// A good part with one ply, and lines put behind it.
std::string with(const std::string& more,
                 const std::string& ply = R"({ id = "P", material = "ud", frame = "x", angle = 0 })") {
  return head + test::materials() + "[layup]\nplies = [\n  " + ply + ",\n]\n" + more;
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
  const auto at = text.find(from);
  REQUIRE(at != std::string::npos);
  return text.replace(at, from.size(), to);
}

}  // namespace

TEST_CASE("a part is read with units, defaults and places") {
  const part::Part part = read(with(R"([zone.field]
box = { from = ["1 m", 0, 0], to = [0, 10, 5] }
[zone.rest]
from = "everything"
minus = ["field"]
[support.s]
on = "left"
hold = ["x", "rz"]
[load.p]
on = "field"
pressure = "5 kPa"
face = "bag"
[load.f]
point = [1, 2, 3]
force = [0, 0, "-1 kN"]
)"));
  CHECK(part.name == "Plate");
  CHECK(part.mesh_path() == "a/plate.msh");
  CHECK(part.mesh_factor == 1.0);
  CHECK(part.flush == part::Flush::bottom);
  REQUIRE(part.materials.size() == 2);
  CHECK(part.materials.all()[0].name == "ud");  // in the file's order
  CHECK(part.materials.all()[0].elastic.E1 == 135000.0);
  CHECK(part.materials.all()[0].elastic.nu13 == 0.3);  // transversely isotropic where nothing is said
  CHECK(test::near(part.materials.all()[1].elastic.nu12, 70.0 / 50 - 1));
  CHECK(test::near(part.materials.all()[1].density.value(), 8e-11));
  const auto& box = std::get<part::Box>(part.zones[0].kind);
  CHECK(box.low == Vec3(0, 0, 0));
  CHECK(box.high == Vec3(1000, 10, 5));
  REQUIRE(part.plies.size() == 1);
  CHECK(part.plies.all()[0].zone.value == "everything");
  CHECK(part.plies.all()[0].where.text() == "a/plate.toml:32:3");
  CHECK(part.supports[0].held == (part::x | part::rz));
  CHECK(test::near(std::get<double>(std::get<part::Amount>(std::get<part::Pressure>(part.loads[0].kind).value).kind),
                   0.005));
  CHECK(!std::get<part::Pressure>(part.loads[0].kind).on_tool_face);
  CHECK(std::get<part::Force>(part.loads[1].kind).total == Vec3(0, 0, -1000));
}

TEST_CASE("mesh length unit and scale make one factor") {
  CHECK(test::near(read(replaced(with(""), R"(length = "mm")", R"(length = "inch", scale = 2)")).mesh_factor, 50.8));
  CHECK(test::near(read(replaced(with(""), R"(length = "mm")", R"(length = "m")")).mesh_factor, 1000.0));
}

TEST_CASE("a laminate code is written out as plies with their own ids, materials by mark") {
  const part::Part part = read(with("", R"({ id = "B", material = "ud", frame = "x", code = "[±45/0F^]s" })"));
  REQUIRE(part.plies.size() == 5);
  CHECK(part.plies.all()[0].id == "B.1");
  CHECK(part.plies.all()[4].id == "B.5");
  CHECK(part.plies.all()[1].angle == Angle::degrees(-45));
  CHECK(part.plies.all()[2].material.value == "foam");
  CHECK(part.plies.all()[3].material.value == "ud");
}

TEST_CASE("plies take what they leave out from the layup, and cores need no angle") {
  const part::Part part = read(head + test::materials() + R"([layup]
material = "ud"
frame = "x"
zone = "plate"
plies = [ { id = "A", angle = "0.5 rad" }, { id = "C", material = "foam", thickness = "5 mm" }, { id = "B", angle = 90, zone = "rim" } ]
)");
  CHECK(test::near(part.plies.all()[0].angle.degrees(), 28.6478898, 1e-8));
  CHECK(part.plies.all()[1].thickness == 5.0);
  CHECK(part.plies.all()[1].zone.value == "plate");
  CHECK(part.plies.all()[2].zone.value == "rim");
}

TEST_CASE("each slip gets one message with line, column and remedy") {
  CHECK(refused(replaced(with(""), "density = \"1550", "densty = \"1550")) ==
        "a/plate.toml:17:1: error: [material.ud]: there is no key 'densty' here [part.key-unknown]\n    did you mean "
        "'density'?");
  CHECK(refused(with("", R"({ id = "P", material = "ud", frame = "x", angle = "forty-five" })")) ==
        "a/plate.toml:32:53: error: ply 'P': 'angle' should be a number in deg or with its unit: 'forty-five' does not "
        "begin with a number [part.value]\n"
        "    write angle = 1.5 or angle = \"1.5 deg\"");
  CHECK(refused(with("", R"({ id = "P", material = "ud", frame = "x", angle = 0, thickness = "-0.2 mm" })")) ==
        "a/plate.toml:32:68: error: ply 'P': 'thickness' is -0.2 mm; it must be positive [part.value]");
  CHECK(refused(with("", R"({ id = "P", material = "du", frame = "x", angle = 0 })")) ==
        "a/plate.toml:32:26: error: ply 'P': material 'du' is not declared [part.material-unknown]\n    declared: "
        "foam, ud");
  CHECK(refused(with("", R"({ id = "P", material = "ud", frame = "xx", angle = 0 })")) ==
        "a/plate.toml:32:40: error: ply 'P': frame 'xx' is not declared [part.frame-unknown]\n    did you mean 'x'?");
  CHECK(refused(replaced(with(""), "nu12 = 0.3", "nu12 = 4.5")) ==
        "a/plate.toml:8:1: error: material 'ud' cannot exist: nu12 = 4.5 is outside ±sqrt(E1/E2) = ±3.873 "
        "[material.not-positive-definite]\n"
        "    check units and that nu12 is the strain across for a stress along (nu21 = nu12 E2/E1 is the small one)");
  CHECK(refused(replaced(with(""), "E1 = \"135 GPa\"", "E1 = \"135 kg\"")) ==
        "a/plate.toml:10:6: error: [material.ud]: 'E1' should be a number in MPa or with its unit: 'kg' is not a unit "
        "of stress [part.value]\n    write E1 = 1.5 or E1 = \"1.5 MPa\"");
  CHECK(refused(replaced(with(""), "units = \"mm, t, s\"", "units = \"mm, s\"")) ==
        "a/plate.toml:3:9: error: [part]: units: 'mm, s' has no unit of mass [part.units]\n    name a length, a mass "
        "and a time unit, as units = \"mm, t, s\"");
  CHECK(refused(replaced(with(""), "surface = \"bottom\"", "surface = \"under\"")) ==
        "a/plate.toml:6:11: error: [part]: 'surface' is 'under'; it can be bottom, middle, top [part.value]");
  CHECK(refused(with("", R"({ id = "P", material = "ud", frame = "x", angle = inf })")) ==
        "a/plate.toml:32:53: error: ply 'P': 'angle' is inf, which is no number to work with [part.value]\n    give a "
        "number between -1e+30 and 1e+30");
  CHECK(refused(with("", R"({ id = "P", material = "ud", frame = "x", code = "[0/9x" })")) ==
        "a/plate.toml:32:52: error: laminate code cannot be read at character 6: ']' is missing [laminate.code]\n    "
        "[0/9x\n         ^");
  CHECK(refused(with("", R"({ id = "P", material = "ud", frame = "x", code = "[0Q/90]" })")) ==
        "a/plate.toml:32:52: error: ply 'P': no material has the mark or name 'Q' [part.mark-unknown]\n    add mark = "
        "\"Q\" to a material");
  const std::string zone_told = refused(with("[zone.a]\ngroup = \"a\"\nunion = [\"b\"]\n"));
  CHECK(zone_told.find("a/plate.toml:34:1: error: [zone.a] should say in one way where it is; it says several "
                       "[part.zone-kind]\n    give one of group = \"...\", box = {") == 0);
  CHECK(refused(replaced(with(""), "vector = [1, 0, 0]", "vektor = [1, 0, 0]"))
            .find("error: [frame.x] should say in one way what 0° is; it says none [part.frame-kind]") !=
        std::string::npos);
  CHECK(refused(replaced(with(""), "vector = [1, 0, 0]",
                         "axis = { through = [0, 0, 0], along = [0, 0, 0], take = \"hop\" }")) ==
        "a/plate.toml:29:39: error: [frame.x] axis: 'along' has no length [part.value]\n"
        "a/plate.toml:29:57: error: [frame.x] axis: 'take' is 'hop'; it can be axial, hoop, radial [part.value]");
  CHECK(refused(with("[load.a]\non = \"x\"\n"))
            .find("a/plate.toml:34:1: error: [load.a] should say one kind of load; it "
                  "says none [part.load-kind]") == 0);
  CHECK(refused(with("[support.a]\non = \"x\"\nhold = \"clampd\"\n")) ==
        "a/plate.toml:36:8: error: [support.a]: 'hold' is 'clampd'; it can be clamped, pinned, symmetry-x, symmetry-y, "
        "symmetry-z, symmetry [part.value]");
  CHECK(refused("[part\n").find("a/plate.toml:1:6: error: the part file cannot be read as TOML: ") == 0);
  CHECK(refused(replaced(with(""), "side = { along = [0, 0, 1] }\n", "")) ==
        "a/plate.toml:1:1: error: [part] has no 'side': which way the plies build up from the mesh [part.key-missing]\n"
        "    write side = { towards = [x, y, z] }, { away-from = [x, y, z] }, { along = [x, y, z] }, of a closed body "
        "\"outwards\" or \"inwards\", or \"as-meshed\"");
  CHECK(
      refused(with(
          "",
          R"({ id = "P", material = "ud", frame = "x", angle = 0 }, { id = "P", material = "ud", frame = "x", angle = 0 })")) ==
      "a/plate.toml:32:58: error: there are two plies with id 'P' [part.name-twice]\n    each piece of cloth has an id "
      "of its own");
  CHECK(refused(with("[zone.everything]\ngroup = \"a\"\n"))
            .find("the zone 'everything' is always there and cannot be declared [part.name-taken]") !=
        std::string::npos);
}

TEST_CASE("many slips are told at once, each in its place") {
  std::string text = replaced(with(""), "E2 = \"9 GPa\"", "E2 = true");
  text = replaced(text, "vector = [1, 0, 0]", "vector = [1, 0]");
  text = replaced(text, "angle = 0", "angle = []");
  const std::string told = refused(text);
  CHECK(
      told.find(":11:6: error: [material.ud]: 'E2' should be a number in MPa or with its unit: it is true or false") !=
      std::string::npos);
  CHECK(told.find("error: [frame.x]: 'vector' should be a list of three numbers, not of 2") != std::string::npos);
  CHECK(told.find("error: ply 'P': 'angle' should be a number in deg or with its unit: it is a list") !=
        std::string::npos);
  CHECK(std::count(told.begin(), told.end(), '[') >= 3);
  CHECK(told.find("is not declared") == std::string::npos);  // a material with a slip of its own is still declared
}

TEST_CASE("a part file of random bytes is refused or read, never a crash") {
  const std::string good = with("[load.p]\non = \"plate\"\npressure = 1\nface = \"tool\"\n");
  std::uint32_t state = 99;
  const auto next = [&] { return state = state * 1664525u + 1013904223u; };
  for (int round = 0; round < 1500; ++round) {
    std::string broken = good;
    for (int k = 0; k < 1 + round % 4; ++k) broken[(next() >> 8) % broken.size()] = static_cast<char>(next() >> 16);
    if (round % 5 == 0) broken.resize((next() >> 8) % broken.size());
    CHECK_NOTHROW(refused(broken));
  }
}

TEST_CASE("materials come from the part, its files, the caller's files and the shipped library, in this order") {
  const test::Folder folder;
  const auto library = [&](const std::string& file, const std::string& name, double E1) {
    return folder.write(file,
                        fmt::format("units = \"mm, t, s\"\n[material.{}]\nfrom = \"carbon-ud\"\nE1 = {}\n", name, E1));
  };
  library("house.toml", "tape", 111e3);
  const std::string user = library("user.toml", "tape", 222e3);
  library("other.toml", "glass-ud", 333e3);
  const std::string text =
      replaced(head, "surface", "materials = [\"house.toml\"]\nsurface") +
      "[frame.x]\nvector = [1, 0, 0]\n[layup]\nframe = \"x\"\nplies = [ { id = \"A\", material = \"tape\", angle "
      "= 0 }, { id = \"B\", material = \"glass-ud\", angle = 0 } ]\n";
  Findings findings;
  const part::Part part =
      part::read_text(text, folder / "p.toml", findings, {.libraries = {user, folder / "other.toml"}});
  REQUIRE(part.materials.size() == 2);
  CHECK(part.materials.all()[0].elastic.E1 == 111e3);
  CHECK(part.materials.all()[0].where.file == folder / "house.toml");
  CHECK(part.materials.all()[1].elastic.E1 == 333e3);
  const part::Part shipped = part::read_text(text, folder / "p.toml", findings);
  CHECK(shipped.materials.all()[1].where.file == material::shipped_name);
  CHECK(test::failure([&] {
          part::read_text(replaced(text, "house.toml", "hous.toml"), folder / "p.toml", findings,
                          {.libraries = {user}});
        }).find("p.toml:6:14: error: there is no file '") != std::string::npos);
  folder.write("house.toml", "units = \"mm, t\"\n");
  CHECK(test::failure([&] {
          part::read_text(text, folder / "p.toml", findings, {.libraries = {user}});
        }).find("house.toml:1:9: error: units: 'mm, t' has no unit of time [part.units]") != std::string::npos);
}

}  // namespace of_part_read
