// Materials in files: libraries, references between them, and back to text.
#include "support.hpp"

#include <fmt/format.h>

#include <set>

namespace of_material_library {

using namespace bordado;
using material::Kind;
using material::Library;
using material::Material;

namespace {

/// Everything a library says of a name, or the errors.
Material found(const Library& library, const std::string& name) {
  Findings errors;
  const auto out = library.find(name, errors);
  errors.throw_if_errors();
  REQUIRE(out.has_value());
  return *out;
}

std::string refused(const std::string& text, const std::string& name) {
  return test::failure([&] {
    Findings findings;
    Library library{UnitSystem()};
    library.add_text("units = \"mm, t, s\"\n" + text, "house.toml", findings);
    found(library, name);
  });
}

const std::string ud = R"(kind = "unidirectional"
E1 = "130 GPa"
E2 = "9 GPa"
nu12 = 0.3
G12 = 4500
G13 = 4500
G23 = 3100
)";

}  // namespace

TEST_CASE("the shipped library: every material can be, looks likely, and has a density and a note") {
  Library library{UnitSystem()};
  library.add_shipped();
  CHECK(library.names().size() > 30);
  std::set<Kind> kinds;
  std::set<std::string> marks;
  for (const std::string& name : library.names()) {
    INFO(name);
    const Material m = found(library, name);
    Findings findings;
    check_plausible(m, UnitSystem(), findings);
    if (m.kind != Kind::fibre && m.kind != Kind::resin) CHECK(findings.all().empty());
    CHECK(m.density > 0);
    CHECK(m.note.find("typical of the class") == 0);
    CHECK(*library.file_of(name) == material::shipped_name);
    if (!m.mark.empty()) CHECK(marks.insert(m.mark).second);
    kinds.insert(m.kind);
    if (m.kind == Kind::unidirectional)
      CHECK((m.thickness && m.strength.Xt && m.thermal.along && m.stress_free_temperature));
  }
  CHECK(kinds.size() >= 7);
  const auto cloth = sheared(found(library, "carbon-twill-yarns"), Angle::degrees(30));
  REQUIRE(cloth);
  CHECK(cloth->along_diagonal.E1 > 2 * cloth->along_diagonal.E2);
}

TEST_CASE("a material may be taken from another, of the same name in a later file too, in other units") {
  Findings findings;
  Library library{UnitSystem()};
  library.add_text("units = \"m, kg, s\"\n[material.ply]\nfrom = \"ply\"\nthickness = 0.0003\nE2 = \"8 GPa\"\n",
                   "mine.toml", findings);
  library.add_text("units = \"mm, t, s\"\n[material.ply]\n" + ud + "density = \"1550 kg/m^3\"\nmark = \"C\"\n",
                   "house.toml", findings);
  CHECK(library.names() == std::vector<std::string>{"ply"});
  CHECK(*library.file_of("ply") == "mine.toml");
  const Material m = found(library, "ply");
  CHECK(test::near(m.elastic.E1, 130e3));
  CHECK(test::near(m.elastic.E2, 8e3));
  CHECK(test::near(*m.thickness, 0.3));
  CHECK(test::near(m.density.value(), 1.55e-9));
  CHECK(m.mark.empty());  // a mark is the part's affair
  CHECK(m.where.text() == "mine.toml:2:1");
  CHECK(m.note == "from ply of house.toml");
}

TEST_CASE("plies from fibre and resin, fabrics from yarns, in a file") {
  Findings findings;
  Library library{UnitSystem()};
  library.add_shipped();
  library.add_text(R"(units = "mm, t, s"
[material.mine]
kind = "unidirectional"
fibre = "e-glass-fibre"
matrix = "epoxy"
fibre-volume = 0.5
voids = 0.01
theory = "mori-tanaka"
areal-weight = "300 g/m^2"
Xt = 800
[material.cloth]
kind = "fabric"
yarn = "mine"
crimp = 0.01
warp-share = 0.6
weave = "plain"
cost = "12.5 EUR/m^2"
sheared = [[0, "10 GPa", "10 GPa", 0.5, "8 GPa"], [40, 15e3, 7e3, 0.7, 5e3]]
)",
                   "mine.toml", findings);
  const Material ply = found(library, "mine"), cloth = found(library, "cloth");
  const auto direct = material::unidirectional(found(library, "e-glass-fibre"), found(library, "epoxy"),
                                               {material::Theory::mori_tanaka, 0.5, 0.01}, {});
  CHECK(ply.elastic == direct.elastic);
  CHECK(*ply.strength.Xt == 800);
  CHECK(test::near(*ply.thickness, 300e-3 / (2580.0 * 0.5) * 1e3));
  CHECK(cloth.elastic.E1 > cloth.elastic.E2);
  CHECK(cloth.made_of ==
        "yarns of mine (e-glass-fibre 50 % by volume in epoxy with 1 % voids by mori-tanaka), 60 % of them warp, crimp "
        "1 %");
  CHECK(cloth.cost->value == 12.5);
  CHECK(cloth.cost->currency == "EUR");
  CHECK(cloth.sheared[0].E1 == 10e3);
}

TEST_CASE("21 constants and honeycombs") {
  Findings findings;
  Library library{UnitSystem()};
  library.add_text(R"(units = "mm, t, s"
[material.odd]
kind = "anisotropic"
C = [[50e3, 5e3, 5e3, 0, 0, 4e3], [20e3, 5e3, 0, 0, 2e3], [12e3, 0, 0, 0], [4e3, 500, 0], [4e3, 0], ["6 GPa"]]
[material.comb]
kind = "honeycomb"
G13 = 40
G23 = 25
)",
                   "x.toml", findings);
  const Material odd = found(library, "odd"), comb = found(library, "comb");
  REQUIRE(odd.elastic.full);
  CHECK((*odd.elastic.full)(5, 0) == 4e3);
  CHECK((*odd.elastic.full)(3, 4) == 500);
  CHECK((*odd.elastic.full)(5, 5) == 6e3);
  CHECK(test::near(comb.elastic.E1, 0.04));
  CHECK(test::near(comb.elastic.E3, 120));
}

TEST_CASE("what is wrong with a material is said once, with the line and a remedy") {
  CHECK(refused("[material.a]\nfrom = \"b\"\n[material.b]\nfrom = \"a\"\n", "a") ==
        "house.toml:2:1: error: material 'a' is made from itself [material.circular]\n"
        "    one of the materials that it is made from must be given by its own numbers");
  CHECK(refused("[material.carbon]\n" + ud + "[material.a]\nfrom = \"carbn\"\n", "a") ==
        "house.toml:11:8: error: [material.a]: there is no material 'carbn' [material.unknown]\n    did you mean "
        "'carbon'?");
  CHECK(refused("[material.f]\nkind = \"resin\"\nE = 3000\nnu = 0.3\n[material.a]\nkind = \"unidirectional\"\nfibre = "
                "\"f\"\nmatrix = \"f\"\nfibre-volume = 0.5\n",
                "a") ==
        "house.toml:6:1: error: [material.a]: 'f' is resin, not a fibre [material.cannot-mix]\n"
        "    see docs/materials.md on what plies are computed from");
  CHECK(refused("[material.a]\nkind = \"anisotropic\"\nC = [[1, 2], [3]]\n", "a") ==
        "house.toml:4:5: error: [material.a]: 'C' should be six rows of 6, 5, 4, 3, 2 and 1 numbers: 21 constants "
        "[part.value]\n    order 11, 22, 33, 23, 13, 12; each row from the diagonal on");
  CHECK(refused("[material.a]\n" + ud + "cost = \"12 EUR\"\n", "a") ==
        "house.toml:10:8: error: [material.a]: cost '12 EUR' cannot be read: it needs an amount, a currency of three "
        "letters and what it is for [part.value]\n    write it as \"38 EUR/m^2\" or \"45 EUR/kg\"");
  CHECK(refused("[material.a]\n" + ud + "Xt = -5\n", "a") ==
        "house.toml:10:6: error: [material.a]: 'Xt' is -5 MPa; it must be positive [part.value]");
  CHECK(refused("[material.a]\n" + ud + "sheared = [[10, 1, 1, 0, 1]]\n", "a") ==
        "house.toml:10:11: error: [material.a]: 'sheared' belongs to a fabric and needs at least two lines with shear "
        "angles that rise from 0 or more [part.value]");
  CHECK(refused(
            "[material.a]\nkind = \"anisotropic\"\nC = [[1, 2, 0, 0, 0, 0], [1, 0, 0, 0, 0], [1, 0, 0, 0], [1, 0, 0], "
            "[1, 0], [1]]\n",
            "a")
            .find("material 'a' cannot exist: ") != std::string::npos);
  const test::Folder folder;
  Findings findings;
  Library library{UnitSystem()};
  CHECK(test::failure([&] { library.add_text("[material.a]\n", "u.toml", findings); }) ==
        "u.toml:1:1: error: the material library has no 'units' [part.key-missing]\n    add units = \"...\"");
  CHECK(test::failure([&] { library.add_text("units = ", "u.toml", findings); }).find("cannot be read as TOML") !=
        std::string::npos);
}

TEST_CASE("random materials written as a library and read back are the same, bit by bit") {
  std::mt19937 engine(21);
  std::vector<Material> all;
  for (int i = 0; i < 200; ++i) all.push_back(test::random_material(engine, fmt::format("m{} \"x\"", i)));
  Findings findings;
  Library library{UnitSystem()};
  const std::string text = material::library_text(all, UnitSystem());
  library.add_text(text, "random.toml", findings);
  for (const Material& m : all) {
    const Material back = found(library, m.name);
    INFO(material::toml_text(m) << "\nread back:\n" << material::toml_text(back));
    CHECK(material::same(back, m));
  }
}

TEST_CASE("other units say the same thing") {
  std::mt19937 engine(22);
  const UnitSystem mm, si = UnitSystem::parse("m, kg, s");
  for (int i = 0; i < 50; ++i) {
    const Material m = test::random_material(engine, "m"), there = in_units(m, mm, si), back = in_units(there, si, mm);
    CHECK(test::near(there.elastic.E1, m.elastic.E1 * 1e6));
    for (const material::Quantity& q : material::quantities()) {
      INFO(q.key);
      CHECK(q.get(m).has_value() == q.get(back).has_value());
      if (q.get(m)) CHECK(test::near(*q.get(back), *q.get(m), 1e-13));
    }
  }
}

}  // namespace of_material_library
