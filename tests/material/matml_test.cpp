#include "support.hpp"

#include <fmt/format.h>

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
  CHECK(all[0].elastic.E1 == doctest::Approx(200e3));
  CHECK(all[0].density == doctest::Approx(7.9e-9));
  CHECK(*all[0].thermal.along == doctest::Approx(16e-6));
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
