#include "support.hpp"

#include <fmt/format.h>

using namespace bordado;
using test::Grid;

namespace {

struct Resolved {
  zone::ZoneSets sets;
  Findings findings;
};

Resolved resolve(const std::string& zones) {
  Resolved out;
  const part::Part part = part::read_text(
      "[part]\nname = \"Z\"\nunits = \"mm, t, s\"\nmesh = { file = \"g.msh\", length = \"mm\" }\nside = "
      "\"as-meshed\"\nsurface = \"bottom\"\n" +
          test::materials() + "[layup]\nplies = [ { id = \"P\", material = \"ud\", frame = \"x\", angle = 0 } ]\n" +
          zones,
      "z.toml", out.findings);
  const mesh::Surface surface = test::surface(Grid::rectangle(10, 10, 10, 10));
  out.sets = zone::zones(part, surface, mesh::geometry(surface), out.findings);
  return out;
}

std::size_t count(const Resolved& resolved, std::string_view name) {
  return resolved.sets.counts[*resolved.sets.find(name)];
}

}  // namespace

TEST_CASE("everything and the mesh's own groups are zones without being declared") {
  const Resolved r = resolve("");
  CHECK(count(r, "everything") == 100);
  CHECK(count(r, "plate") == 100);
  CHECK(!r.sets.find("left").has_value());  // a group of edges is no zone
}

TEST_CASE("boxes take elements by their centres, whichever corners are given") {
  const Resolved r = resolve(
      "[zone.a]\nbox = { from = [0, 0, -1], to = [5, 10, 1] }\n[zone.b]\nbox = { from = [9.4, 9.4, 1], to = [5.6, 5.6, "
      "-1] }\n[zone.edge]\nbox = { from = [0.5, 0.5, 0], to = [1.5, 0.5, 0] }\n");
  CHECK(count(r, "a") == 50);
  CHECK(count(r, "b") == 9);
  CHECK(count(r, "edge") == 2);  // borders count
}

TEST_CASE("union and minus follow set algebra in any order of declaration") {
  const Resolved r = resolve(R"([zone.both]
union = ["a", "b"]
[zone.only-a]
from = "a"
minus = ["b"]
[zone.none]
from = "a"
minus = ["everything"]
[zone.a]
box = { from = [0, 0, -1], to = [6, 10, 1] }
[zone.b]
box = { from = [4, 0, -1], to = [10, 10, 1] }
[zone.common]
from = "a"
minus = ["only-a"]
)");
  CHECK(count(r, "both") == 100);
  CHECK(count(r, "only-a") == 40);
  CHECK(count(r, "common") == 20);
  CHECK(count(r, "none") == 0);
  for (mesh::ElementIndex e = 0; e < 100; ++e) {
    const auto in = [&](std::string_view name) { return r.sets.contains(*r.sets.find(name), e); };
    CHECK(in("both") == (in("a") || in("b")));
    CHECK(in("only-a") == (in("a") && !in("b")));
    CHECK(in("common") == (in("a") && in("b")));
  }
  REQUIRE(r.findings.all().size() == 1);
  CHECK(r.findings.all()[0].text() ==
        "z.toml:37:1: warning: zone 'none' has no elements [zone.empty]\n    check its group name, box or length unit");
}

TEST_CASE("balls, cylinders, half spaces and facing directions take elements by centre or normal") {
  const Resolved r = resolve(R"([zone.ball]
sphere = { centre = [5, 5, 3], radius = 5 }
[zone.tube]
cylinder = { through = [5, 5, -70], along = [0, 0, -2], radius = 4 }
[zone.disc]
sphere = { centre = [5, 5, 0], radius = 4 }
[zone.far]
beyond = { point = [7, 0, 0], along = [1, 0, 0] }
[zone.up]
facing = { along = [0, 0.1, 1], within = 10 }
[zone.steep]
facing = { along = [1, 0, 0.1], within = "80 deg" }
[zone.all-ways]
facing = { along = [0, 0, -1], within = 180 }
)");
  CHECK(count(r, "ball") == count(r, "tube"));  // a ball of 5 cut 3 above its middle is a disc of 4
  CHECK(count(r, "disc") == count(r, "tube"));
  std::size_t within = 0;
  for (int i = 0; i < 10; ++i)
    for (int j = 0; j < 10; ++j) within += (i - 4.5) * (i - 4.5) + (j - 4.5) * (j - 4.5) <= 16.0;
  CHECK(count(r, "disc") == within);
  CHECK(count(r, "far") == 30);
  CHECK(count(r, "up") == 100);
  CHECK(count(r, "steep") == 0);
  CHECK(count(r, "all-ways") == 100);
}

TEST_CASE("common part and opposite follow set algebra") {
  const Resolved r = resolve(
      "[zone.a]\nbox = { from = [0, 0, -1], to = [6, 10, 1] }\n[zone.b]\nbox = { from = [4, 0, -1], to = [10, 10, 1] "
      "}\n"
      "[zone.both]\ncommon = [\"a\", \"b\"]\n[zone.not-a]\nopposite = \"a\"\n");
  CHECK(count(r, "both") == 20);
  CHECK(count(r, "not-a") == 40);
  for (mesh::ElementIndex e = 0; e < 100; ++e) {
    const auto in = [&](std::string_view name) { return r.sets.contains(*r.sets.find(name), e); };
    CHECK(in("both") == (in("a") && in("b")));
    CHECK(in("not-a") == !in("a"));
  }
}

TEST_CASE("a declared zone hides a mesh group of its name, and can be made from a group by the same name") {
  const Resolved r = resolve("[zone.plate]\nbox = { from = [0, 0, -1], to = [1, 1, 1] }\n");
  CHECK(count(r, "plate") == 1);
}

TEST_CASE("more than 64 zones fit") {
  std::string many;
  for (int i = 0; i < 100; ++i)
    many += fmt::format("[zone.z{}]\nbox = {{ from = [{}, {}, -1], to = [{}, {}, 1] }}\n", i, i % 10, i / 10,
                        i % 10 + 1, i / 10 + 1);
  const Resolved r = resolve(many);
  for (int i = 0; i < 100; ++i) {
    CHECK(count(r, fmt::format("z{}", i)) == 1);
    CHECK(r.sets.elements(*r.sets.find(fmt::format("z{}", i))).size() == 1);
  }
}

TEST_CASE("unknown, circular and misspelt names are told together") {
  const std::string told = test::failure([] {
    resolve(
        "[zone.a]\nunion = [\"b\"]\n[zone.b]\nunion = [\"a\"]\n[zone.c]\ngroup = \"plait\"\n[zone.d]\nunion = "
        "[\"platte\"]\n");
  });
  CHECK(told.find("zone 'b' is made from 'a', which is made from it [zone.circular]") != std::string::npos);
  CHECK(told.find("zone 'c': the mesh has no element group 'plait' [zone.group-unknown]") != std::string::npos);
  CHECK(told.find("zone 'd': zone 'platte' is not declared and is no element group of the mesh [zone.unknown]\n    did "
                  "you mean 'plate'?") != std::string::npos);
}
