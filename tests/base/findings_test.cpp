#include "support.hpp"

namespace of_base_findings {

using namespace bordado;

TEST_CASE("a finding says where, what and what to do") {
  const Finding finding{
      Severity::warning, "zone.empty", "zone 'rim' has no elements", {"skiff.toml", 12, 7, {}}, "check its box"};
  CHECK(finding.text() == "skiff.toml:12:7: warning: zone 'rim' has no elements [zone.empty]\n    check its box");
  CHECK(Place{"skiff.msh", {}, {}, 42}.text() == "skiff.msh: element 42");
  CHECK(Place{}.text().empty());
  CHECK(Finding{Severity::note, "a.b", "so it is", {}, ""}.text() == "note: so it is [a.b]");
}

TEST_CASE("a failure carries every error and only errors") {
  Findings findings;
  findings.note("a.note", "one");
  findings.error("a.first", "two");
  findings.warning("a.warning", "three");
  findings.error("a.second", "four");
  CHECK(findings.count(Severity::error) == 2);
  CHECK(test::failure([&] { findings.throw_if_errors(); }) == "error: two [a.first]\nerror: four [a.second]");
  Findings fine;
  fine.warning("a.warning", "three");
  CHECK_NOTHROW(fine.throw_if_errors());
}

TEST_CASE("the nearest name is offered when it is near, and none when it is not") {
  const std::vector<std::string> known{"thickness", "density", "nu12"};
  CHECK(nearest_name("thicknes", known) == "thickness");
  CHECK(nearest_name("densty", known) == "density");
  CHECK(nearest_name("nu21", known) == "nu12");
  CHECK(nearest_name("nux", known).has_value() == false);
  CHECK(nearest_name("colour", known).has_value() == false);
  CHECK(nearest_name("x", {}).has_value() == false);
}

TEST_CASE("long lists are cut and say how much is left") {
  const std::vector<std::int64_t> ids{1, 2, 3, 4, 5, 6, 7};
  CHECK(listed(ids, 3) == "1, 2, 3 and 4 more");
  CHECK(listed(std::span(ids).first(2)) == "1, 2");
  CHECK(listed(std::vector<std::string>{}) == "");
}

}  // namespace of_base_findings
