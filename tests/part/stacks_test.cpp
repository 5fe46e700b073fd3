// Laminates by name: of a part, of its libraries, by hand with any material.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/part/stacks.hpp>

#include <fmt/format.h>

namespace of_part_stacks {

using namespace bordado;
using test::near;

namespace {

constexpr std::string_view house = R"(units = "m, kg, s"
[material.glass]
from = "glass-ud"
thickness = 0.0004
[material.core]
kind = "foam"
E = 70e6
G = 25e6
density = 80
[laminate.skin]
plies = [{ angle = 0 }, { angle = 45, thickness = 0.0003 }, { material = "core", thickness = 0.012 }]
symmetric = "odd"
[laminate.bare]
code = "[0/90]"
repeat = 2
symmetric = "even"
material = "glass"
[laminate.framed]
plies = [{ angle = 0, frame = "athwart" }]
[laminate.wrong]
code = "[0/9x]"
)";

material::Library library(Findings& findings) {
  material::Library out(UnitSystem::parse("mm, t, s"));
  out.add_text(house, "house.toml", findings);
  out.add_shipped();
  return out;
}

std::vector<double> angles(const laminate::Coded& stack) {
  std::vector<double> out;
  for (const auto& layer : stack.layers) out.push_back(std::round(layer.angle.degrees()));
  return out;
}

}  // namespace

TEST_CASE(
    "a laminate of a library: its lengths in the caller's units, its layers mirrored and repeated, any material") {
  Findings findings;
  const material::Library all = library(findings);
  std::vector<std::string> names = part::laminate_names(all);
  REQUIRE(names.size() > 4);
  names.resize(4);  // behind them those of the shipped one
  CHECK(names == std::vector<std::string>{"skin", "bare", "framed", "wrong"});
  CHECK(!part::laminate_named(all, "none", findings));
  const auto skin = part::laminate_named(all, "skin", findings), bare = part::laminate_named(all, "bare", findings);
  REQUIRE((skin && bare));
  const material::Material glass = *all.find("glass", findings);
  material::Material other = glass;
  other.name = "other", other.thickness = 0.25;
  const auto of_glass = part::stack_of(*skin, std::array{glass}, all, {}),
             of_other = part::stack_of(*skin, std::array{other}, all, {});
  CHECK(angles(of_glass) == std::vector<double>{0, 45, 0, 45, 0});
  REQUIRE(of_other.layers.size() == 5);
  const double thick[] = {0.25, 0.3, 12, 0.3, 0.25};
  for (std::size_t i = 0; i < 5; ++i) CHECK(near(of_other.layers[i].thickness, thick[i], 1e-12));
  CHECK(of_other.materials[0].name == "other");
  CHECK(of_other.materials[2].name == "core");
  CHECK(near(of_glass.layers[0].thickness, 0.4, 1e-12));
  // Its own material, where none is given; what is given goes first.
  CHECK(angles(part::stack_of(*bare, {}, all, {})) == std::vector<double>{0, 90, 0, 90, 90, 0, 90, 0});
  CHECK(part::stack_of(*bare, {}, all, {}).materials[3].name == "glass");
  CHECK(part::stack_of(*bare, std::array{other}, all, {}).materials[3].name == "other");
  CHECK(findings.all().empty());
}

TEST_CASE("what a laminate lacks is said at its place") {
  Findings findings;
  const material::Library all = library(findings);
  const auto skin = part::laminate_named(all, "skin", findings), framed = part::laminate_named(all, "framed", findings),
             wrong = part::laminate_named(all, "wrong", findings);
  REQUIRE((skin && framed && wrong));
  CHECK(test::failure([&] { part::stack_of(*skin, {}, all, {}); }).find("is of no material") != std::string::npos);
  const material::Material glass = *all.find("glass", findings);
  CHECK(test::failure([&] { part::stack_of(*framed, std::array{glass}, all, {}); }).find("which only a part has") !=
        std::string::npos);
  CHECK(test::failure([&] { part::stack_of(*wrong, std::array{glass}, all, {}); }).find("house.toml") !=
        std::string::npos);
  material::Material thin = glass;
  thin.thickness.reset();
  CHECK(test::failure([&] { part::stack_of(*skin, std::array{thin}, all, {}); }).find("no thickness") !=
        std::string::npos);
  CHECK(part::stack_of(*skin, std::array{thin}, all, 0.5).thickness_used);
}

TEST_CASE("plies of a part take laminates of its libraries; its own go before them; it reads back") {
  const test::Folder folder;
  folder.write("grid.msh", test::msh(test::Grid::rectangle(2, 2, 10, 10)));
  folder.write("house.toml", std::string(house));
  const std::string head =
      "[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = { file = \"grid.msh\", length = \"mm\" }\nside = "
      "\"as-meshed\"\n"
      "surface = \"bottom\"\nmaterials = [\"house.toml\"]\n[frame.x]\nvector = [1, 0, 0]\n";
  const auto read = [&](const std::string& text) {
    Findings findings;
    return part::read(folder.write("p.toml", head + text), findings);
  };
  const part::Part part = read(
      "[layup]\nmaterial = \"glass\"\nframe = \"x\"\nplies = [ { id = \"A\", laminate = \"skin\" }, { id = \"B\", "
      "laminate = "
      "\"quasi-isotropic\", thickness = 0.1 } ]\n");
  REQUIRE(part.plies.size() == 13);
  CHECK(near(*part.plies[part::PlyId{1}].thickness, 0.3, 1e-12));
  CHECK(part.plies[part::PlyId{2}].material.value == "core");
  CHECK(near(part.plies[part::PlyId{6}].angle.degrees(), 45.0, 1e-12));
  Findings findings;
  const std::string again = part::toml_text(part, folder / "q.toml");
  const part::Part back = part::read(folder.write("q.toml", again), findings);
  REQUIRE(back.plies.size() == 13);
  for (const part::PlyId p : part.plies.ids()) {
    CHECK(back.plies[p].id == part.plies[p].id);
    CHECK(back.plies[p].angle == part.plies[p].angle);
    CHECK(back.plies[p].material.value == part.plies[p].material.value);
  }
  const part::Part own = read(
      "[laminate.skin]\ncode = \"[30]\"\n[layup]\nmaterial = \"glass\"\nframe = \"x\"\nplies = [ { id = "
      "\"A\", laminate = \"skin\" } ]\n");
  CHECK(own.plies.size() == 1);
  CHECK(test::failure([&] {
          read(
              "[layup]\nmaterial = \"glass\"\nframe = \"x\"\nplies = [ { id = \"A\", laminate = \"quasi-isotropc\" } "
              "]\n");
        }).find("did you mean 'quasi-isotropic'?") != std::string::npos);
}

}  // namespace of_part_stacks
