#include "support.hpp"

#include <fmt/format.h>
#include <sstream>

namespace of_material_matml {

using namespace bordado;
using material::Material;

TEST_CASE("random materials written as MatML and read back are the same, bit by bit") {
  std::mt19937 engine(31);
  std::vector<Material> all;
  for (int i = 0; i < 200; ++i) all.push_back(test::random_material(engine, fmt::format("m{} <&>", i)));
  Findings findings;
  const auto back = material::read_matml(material::matml_text(all, UnitSystem()), "m.xml", UnitSystem(), findings);
  CHECK(findings.all().empty());
  REQUIRE(back.size() == all.size());
  for (std::size_t i = 0; i < all.size(); ++i) {
    INFO(material::toml_text(all[i]) << "\nread back:\n" << material::toml_text(back[i]));
    CHECK(material::same(back[i], all[i]));
  }
}

TEST_CASE("MatML in other units, and as other programs name things") {
  Findings findings;
  const auto all = material::read_matml(R"(<?xml version="1.0"?>
<MatML_Doc>
  <Material id="a">
    <BulkDetails>
      <Name>Steel 1.4404</Name>
      <Class><Name>Metal</Name></Class>
      <PropertyData property="p1"><Data format="float">200</Data></PropertyData>
      <PropertyData property="p2"><Data format="float">0.29</Data></PropertyData>
      <PropertyData property="p3"><Data format="float">7.9</Data></PropertyData>
      <PropertyData property="p4"><Data format="float">16</Data></PropertyData>
      <PropertyData property="p5"><Data format="float">15</Data></PropertyData>
      <PropertyData property="p6"><Data format="float">1,2</Data><ParameterValue parameter="t"/></PropertyData>
    </BulkDetails>
  </Material>
  <Material id="b"><BulkDetails><Name>Empty</Name></BulkDetails></Material>
  <Metadata>
    <PropertyDetails id="p1"><Name>Young's Modulus</Name><Units><Unit><Name>GPa</Name></Unit></Units></PropertyDetails>
    <PropertyDetails id="p2"><Name>Poisson's Ratio</Name><Unitless/></PropertyDetails>
    <PropertyDetails id="p3"><Name>Density</Name><Units><Unit><Name>g</Name></Unit><Unit power="-3"><Name>cm</Name></Unit></Units></PropertyDetails>
    <PropertyDetails id="p4"><Name>Coefficient of thermal expansion</Name><Units><Unit><Name>1e-6</Name></Unit><Unit power="-1"><Name>K</Name></Unit></Units></PropertyDetails>
    <PropertyDetails id="p5"><Name>Thermal conductivity</Name><Units><Unit><Name>W</Name></Unit></Units></PropertyDetails>
    <PropertyDetails id="p6"><Name>Creep</Name><Unitless/></PropertyDetails>
  </Metadata>
</MatML_Doc>)",
                                        "s.xml", UnitSystem(), findings);
  REQUIRE(all.size() == 1);
  CHECK(all[0].kind == material::Kind::isotropic);
  CHECK(test::near(all[0].elastic.E1, 200e3));
  CHECK(test::near(all[0].density.value(), 7.9e-9));
  CHECK(test::near(*all[0].thermal.along, 16e-6));
  std::string told;
  for (const Finding& finding : findings.all()) told += finding.text() + "\n";
  CHECK(told ==
        "s.xml: note: material 'Steel 1.4404': property 'Thermal conductivity' is not read: we have no such property "
        "[material.matml-left]\n"
        "s.xml: note: material 'Steel 1.4404': property 'Creep' is not read: it depends on a parameter "
        "[material.matml-left]\n"
        "s.xml: note: material 'Empty': property 'elastic constants' is not read: there are too few "
        "[material.matml-left]\n");
}

TEST_CASE("what is no MatML is refused with the line") {
  Findings findings;
  const auto refused = [&](std::string_view text) {
    return test::failure([&] { material::read_matml(text, "x.xml", UnitSystem(), findings); });
  };
  CHECK(refused("<a>\n<b></a>").find("x.xml:2: error: the file is not XML: ") == 0);
  CHECK(refused("<a/>") ==
        "x.xml: error: the file is XML, but has no <MatML_Doc> [material.matml]\n    MatML 3.1 is read");
}

TEST_CASE("adding to somebody else's file leaves all of it to the letter") {
  const std::string theirs =
      "<?xml version=\"1.0\"?>\n<!-- ours since 1998 -->\n<MatML_Doc>\n  <Material id=\"m1\">\n    "
      "<BulkDetails><Name>Steel "
      "&amp; Co</Name>\n      <PropertyData property=\"p-E1\"><Data format=\"float\">200,210</Data><ParameterValue "
      "parameter=\"t\" format=\"float\"><Data>20,100</Data></ParameterValue></PropertyData>\n      <PropertyData "
      "property=\"unknown\"><Data format=\"string\">blue</Data></PropertyData>\n    </BulkDetails>\n  </Material>\n  "
      "<Material id=\"m2\"><BulkDetails><Name>No constants</Name></BulkDetails></Material>\n  <!-- end -->\n  "
      "<Metadata>\n    "
      "<PropertyDetails "
      "id=\"p-E1\"><Name>Modulus</Name><Units><Unit><Name>kpsi</Name></Unit></Units></PropertyDetails>\n  "
      "</Metadata>\n</MatML_Doc>\n";
  std::mt19937 engine(5);
  const std::vector<material::Material> ours = {test::random_material(engine, "one"),
                                                test::random_material(engine, "two")};
  const UnitSystem units;
  const std::string both = material::matml_with(theirs, "theirs.xml", ours, units);
  // Every line of theirs is there, in order.
  std::size_t at = 0;
  std::istringstream lines(theirs);
  for (std::string line; std::getline(lines, line);) {
    const std::size_t found = both.find(line, at);
    REQUIRE_MESSAGE(found != std::string::npos, line);
    at = found + line.size();
  }
  Findings findings;
  const std::vector<material::Material> read = material::read_matml(both, "theirs.xml", units, findings);
  for (const material::Material& wanted : ours) {
    const auto found =
        std::find_if(read.begin(), read.end(), [&](const material::Material& m) { return m.name == wanted.name; });
    REQUIRE(found != read.end());
    CHECK(material::same(*found, wanted));
  }
  // Again, and into files without metadata or with empty ones.
  CHECK(material::matml_with(both, "b.xml", std::vector{test::random_material(engine, "three")}, units)
            .find("ours since 1998") != std::string::npos);
  for (const std::string empty : {"<MatML_Doc></MatML_Doc>", "<MatML_Doc><Metadata/></MatML_Doc>"})
    CHECK(material::read_matml(material::matml_with(empty, "e.xml", ours, units), "e.xml", units, findings).size() ==
          2);
  CHECK(test::failure([&] { material::matml_with("<a/>", "a.xml", ours, units); }).find("is no MatML with an end") !=
        std::string::npos);
  CHECK(test::failure([&] {
          material::matml_with("<MatML_Doc>\xff</MatML_Doc>", "a.xml", ours, units);
        }).find("not in UTF-8") != std::string::npos);
}

}  // namespace of_material_matml
