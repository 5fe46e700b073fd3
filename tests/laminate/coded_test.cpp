#include "support.hpp"

#include <bordado/laminate.hpp>

namespace of_laminate_coded {

using namespace bordado;
using namespace bordado::laminate;

namespace {

material::Library library() {
  material::Library out(UnitSystem::parse("mm, t, s"));
  out.add_shipped();
  return out;
}

material::Material named(const std::string& name) {
  Findings errors;
  return *library().find(name, errors);
}

}  // namespace

TEST_CASE("a code finds its materials: the first given without a mark, others by mark or name, then the library") {
  material::Material ud = named("carbon-ud"), core = named("carbon-ud");
  ud.mark = "U";
  core.name = "middle";
  core.mark = "M";
  core.thickness = 8.0;
  const material::Material given[] = {ud, core};
  const Coded found = stack_by_code("[0/45U/0M/90{steel}]", given, library(), 1.5);
  REQUIRE(found.layers.size() == 4);
  CHECK(found.materials[0].name == "carbon-ud");
  CHECK(found.materials[1].name == "carbon-ud");
  CHECK(found.materials[2].name == "middle");
  CHECK(found.materials[3].name == "steel");
  CHECK(found.layers[2].thickness == 8.0);  // its own
  CHECK(test::near(found.layers[1].angle.degrees(), 45.0));
  // Steel has no thickness of its own and takes the one for all; the others do not.
  CHECK(found.layers[3].thickness == 1.5);
  CHECK(found.thickness_used);
  CHECK(!stack_by_code("[0/0M]", given, library(), 1.5).thickness_used);
}

TEST_CASE("a mark means a material that was given, and what is given and not laid is told") {
  const material::Material twill = named("glass-twill"), comb = named("aluminium-honeycomb-50");
  const material::Material given[] = {twill, comb};
  // The library has a ply with the mark A; nobody asked for that.
  const std::string told = test::failure([&] { stack_by_code("[0/0A/0]", given, library(), 0.3); });
  CHECK(told.find("[part.mark-unknown]") != std::string::npos);
  CHECK(told.find("'aluminium-honeycomb-50'") != std::string::npos);
  // By its name it is found; without anything given marks are those of the library.
  CHECK(stack_by_code("[0/0{aluminium-honeycomb-50}/0]", given, library(), 0.3).unused.empty());
  CHECK(stack_by_code("[0]", given, library(), 0.3).unused == std::vector<std::string>{"aluminium-honeycomb-50"});
  material::Material twin = twill;
  twin.name = "twin";
  const material::Material alike[] = {twill, twin};
  const std::string both = test::failure([&] { stack_by_code("[0" + twill.mark + "]", alike, library(), 0.3); });
  CHECK(both.find("[part.mark-twice]") != std::string::npos);
}

TEST_CASE("what a code lacks is told all at once") {
  const material::Material given[] = {named("steel")};
  const std::string told = test::failure([&] { stack_by_code("[0/0{nobody}/45]", given, library(), {}); });
  CHECK(told.find("no material given has the mark or name 'nobody'") != std::string::npos);
  CHECK(told.find("'steel' has no thickness") != std::string::npos);
}

}  // namespace of_laminate_coded
