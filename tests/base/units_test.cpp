#include "support.hpp"

#include <clocale>
#include <cmath>

namespace of_base_units {

using namespace bordado;

namespace {

std::string refusal(const std::function<void()>& body) {
  try {
    body();
  } catch (const std::invalid_argument& trouble) {
    return trouble.what();
  }
  return "";
}

}  // namespace

TEST_CASE("values with units are read into the part's system") {
  const UnitSystem mm = UnitSystem::parse("mm, t, s");
  CHECK(mm.read("0.25 mm", Dimension::length) == 0.25);
  CHECK(mm.read("0.25", Dimension::length) == 0.25);
  CHECK(mm.read("135 GPa", Dimension::stress) == 135000.0);
  CHECK(test::near(mm.read("1550 kg/m^3", Dimension::density), 1.55e-9, 1e-14));
  CHECK(mm.read("2.5 kN", Dimension::force) == 2500.0);
  CHECK(test::near(mm.read("0.5 rad", Dimension::angle), 0.5 * 180 / std::numbers::pi, 1e-14));
  CHECK(test::near(mm.read("45 deg", Dimension::angle), 45.0, 1e-14));
  CHECK(test::near(mm.read("+3 inch", Dimension::length), 76.2, 1e-14));
  const UnitSystem si = UnitSystem::parse("s, kg, m");  // in any order
  CHECK(si.name() == "m, kg, s");
  CHECK(si.read("0.25 mm", Dimension::length) == 0.00025);
  CHECK(si.read("135 GPa", Dimension::stress) == 135e9);
}

TEST_CASE("a converted value equals the bare one to the last bit") {
  const UnitSystem mm;
  for (const char* text : {"0.1", "0.125", "0.2", "0.3", "0.33", "12.7"})
    CHECK(mm.read(std::string(text) + " mm", Dimension::length) == mm.read(text, Dimension::length));
}

TEST_CASE("what cannot be read is refused with the reason") {
  const UnitSystem mm;
  CHECK(refusal([&] { mm.read("forty-five", Dimension::angle); }) == "'forty-five' does not begin with a number");
  CHECK(refusal([&] { mm.read("3 kg", Dimension::length); }) == "'kg' is not a unit of length");
  CHECK(refusal([&] { mm.read("3 foo", Dimension::length); }) == "'foo' is not a unit");
  CHECK(refusal([&] { mm.read("nan", Dimension::length); }) == "'nan' does not begin with a number");
  CHECK(refusal([&] { mm.read("", Dimension::length); }) == "'' does not begin with a number");
  CHECK(refusal([] { UnitSystem::parse("mm, s"); }) == "'mm, s' has no unit of mass");
  CHECK(refusal([] { UnitSystem::parse("mm, t, s, m"); }) == "two units of length in 'mm, t, s, m'");
  CHECK(refusal([] { UnitSystem::parse("mm, t, bananas"); }) ==
        "'bananas' is not a unit of length, mass or time, or of force for mass");
  CHECK(refusal([] { UnitSystem::parse("in, lbf, lb, s"); }) == "two units of mass in 'in, lbf, lb, s'");
  CHECK(refusal([] { metres_in("kg"); }) == "'kg' is not a unit of length");
}

TEST_CASE("units are named as engineers name them, and consistently") {
  const UnitSystem mm, si = UnitSystem::parse("m, kg, s"), odd = UnitSystem::parse("cm, g, ms");
  CHECK(mm.unit(Dimension::stress) == "MPa");
  CHECK(mm.unit(Dimension::force) == "N");
  CHECK(mm.unit(Dimension::density) == "t/mm^3");
  CHECK(si.unit(Dimension::stress) == "Pa");
  CHECK(odd.unit(Dimension::stress) == "g/(cm ms^2)");
  // Stress is force per area in every system.
  for (const UnitSystem& u : {mm, si, odd})
    CHECK(test::near(u.to_si(Dimension::stress), u.to_si(Dimension::force) / u.to_si(Dimension::area), 1e-13));
}

TEST_CASE("a unit of force stands for the mass; a system whose forces nobody measures says so") {
  const UnitSystem inch = UnitSystem::parse("in, lbf, s"), metric = UnitSystem::parse("mm, N, s");
  CHECK(inch.name() == "in, lbf, s");
  CHECK(UnitSystem::parse(inch.name()).name() == inch.name());
  // 0.45359237 kg times 9.80665 m/s², over an inch squared.
  CHECK(test::near(inch.to_si(Dimension::force), 4.4482216152605, 1e-12));
  CHECK(test::near(inch.to_si(Dimension::stress), 6894.757293168361, 1e-12));
  CHECK(inch.unit(Dimension::force) == "lbf");
  CHECK(inch.unit(Dimension::stress) == "psi");
  CHECK(inch.unit(Dimension::line_force) == "lbf/in");
  CHECK(inch.unit(Dimension::density) == "lbf s^2/in^4");
  // 1600 kg/m³ as people of these units know it.
  CHECK(test::near(inch.read("1600 kg/m^3", Dimension::density), 1.4972e-4, 1e-4));
  CHECK(test::near(inch.read("20000 psi", Dimension::stress), 20000.0, 1e-12));
  // What is shown is read back as the same.
  for (const UnitSystem& u : {inch, metric, UnitSystem::parse("ft, lbf, s")})
    for (const Dimension d : {Dimension::stress, Dimension::density, Dimension::areal_mass, Dimension::line_mass,
                              Dimension::force, Dimension::line_force, Dimension::moment, Dimension::bed})
      CHECK_MESSAGE(test::near(u.read("3 " + u.unit(d), d), 3.0, 1e-9), u.unit(d));
  CHECK(metric.unit(Dimension::stress) == "MPa");
  CHECK(metric.unit(Dimension::mass) == "t");
  for (const std::string good : {"mm, t, s", "m, kg, s", "mm, kg, ms", "cm, g, s", "in, lbf, s", "ft, slug, s"})
    CHECK_MESSAGE(!UnitSystem::parse(good).doubt(), good);
  const auto doubt = UnitSystem::parse("in, lb, s").doubt();
  REQUIRE(doubt);
  CHECK(doubt->find("0.00259 lbf") != std::string::npos);
  CHECK(UnitSystem::parse("mm, t, min").doubt());
}

TEST_CASE("temperatures are Celsius in every system, expansions per kelvin") {
  for (const UnitSystem& u : {UnitSystem(), UnitSystem::parse("m, kg, s")}) {
    CHECK(u.read("120 degC", Dimension::temperature) == 120.0);
    CHECK(test::near(u.read("393.15 K", Dimension::temperature), 120.0, 1e-12));
    CHECK(test::near(u.read("248 degF", Dimension::temperature), 120.0, 1e-12));
    CHECK(u.read("23e-6 /K", Dimension::expansion) == 23e-6);
    CHECK(test::near(u.read("18e-6 /degF", Dimension::expansion), 32.4e-6, 1e-12));
    CHECK(u.unit(Dimension::temperature) == "degC");
    CHECK(u.unit(Dimension::expansion) == "1/K");
  }
  CHECK(refusal([] { UnitSystem().read("3 mm", Dimension::temperature); }) == "'mm' is not a unit of temperature");
}

TEST_CASE("angles know their sines exactly at right angles and fibres at half turns") {
  CHECK(Angle::degrees(90).cos() == 0.0);
  CHECK(Angle::degrees(-90).sin() == -1.0);
  CHECK(Angle::degrees(270).sin() == -1.0);
  CHECK(Angle::degrees(180).sin() == 0.0);
  CHECK(test::near(Angle::degrees(30).sin(), 0.5, 1e-15));
  CHECK(same_fibre(Angle::degrees(180)).degrees() == 0.0);
  CHECK(same_fibre(Angle::degrees(-90)).degrees() == 90.0);
  CHECK(same_fibre(Angle::degrees(135)).degrees() == -45.0);
  CHECK(same_fibre(Angle::degrees(45)).degrees() == 45.0);
}

TEST_CASE("units are read as people write them, and nothing else reaches the unit library") {
  const UnitSystem mm;
  for (const auto& [text, value] : {std::pair{"2 kg/m^3", 2e-12},
                                    {"2 kg/m3", 2e-12},
                                    {"2 kg m-3", 2e-12},
                                    {"2 kg.m^-3", 2e-12},
                                    {"2 g/cm³", 2e-9},
                                    {"2000 kg/m^3", 2e-9},
                                    {"2 kg / m / m / m", 2e-12}})
    CHECK(test::near(mm.read(text, Dimension::density), value, 1e-12));
  CHECK(mm.read("3 N/mm^2", Dimension::stress) == 3.0);
  CHECK(mm.read("3 N/mm²", Dimension::stress) == 3.0);
  CHECK(test::near(mm.read("4 kN m-1", Dimension::line_force), 4.0, 1e-12));
  CHECK(test::near(mm.read("1.5 µm", Dimension::length), 1.5e-3, 1e-12));
  CHECK(test::near(mm.read("5 %", Dimension::none), 0.05, 1e-12));
  for (const std::string text : {"3 mm)", "3 (mm", "3 mm @ 4", "3 lg(re 1 mm)", "3 mm since 1900", "3 mm^", "3 mm/",
                                 "3 mm^99", "3 m/-2", "3 --mm", "3 \x01", "3 mm^2^2^2"})
    CHECK_MESSAGE(!refusal([&] { mm.read(text, Dimension::length); }).empty(), text);
  CHECK(refusal([&] { mm.read("3 " + std::string(100000, 'm'), Dimension::length); }).size() < 200);
  CHECK(refusal([&] { mm.read("1e305 km", Dimension::length); }) == "'1e305 km' is too large to work with");
}

TEST_CASE("a unit system measures forwards") {
  for (const std::string text : {"-1 mm, t, s", "0 mm, t, s", "mm, -1 t, s", "1e-40 mm, t, s", "nan mm, t, s"})
    CHECK_MESSAGE(!refusal([&] { UnitSystem::parse(text); }).empty(), text);
  CHECK(test::near(UnitSystem::parse("10 mm, t, s").to_si(Dimension::length), 0.01, 1e-12));
  CHECK(!refusal([] { metres_in("-1 mm"); }).empty());
}

TEST_CASE("units are read in a program with a decimal comma") {
  const char* const comma = std::setlocale(LC_ALL, "de_DE.UTF-8");
  if (!comma) {
    MESSAGE("no locale with a decimal comma here; what is checked is that reading sets none");
    std::setlocale(LC_ALL, "C");
  }
  CHECK(test::near(UnitSystem().read("2.5 inch", Dimension::length), 63.5, 1e-12));
  CHECK(UnitSystem().read("23e-6 /K", Dimension::expansion) == 23e-6);
  std::setlocale(LC_ALL, "C");
}

}  // namespace of_base_units
