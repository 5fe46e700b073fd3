#include "support.hpp"

#include <bordado/deck.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>

namespace of_deck_soft_core {

using namespace bordado;

namespace {

Design sandwich(const std::string& plies) {
  const test::Folder folder;
  folder.write("g.msh", test::msh(test::Grid::rectangle(1, 1, 1, 1)));
  Findings findings;
  return open(
      folder.write("p.toml", fmt::format("[part]\nname = \"P\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"g.msh\", "
                                         "length = \"mm\" }}\nside = \"as-meshed\"\nsurface = \"bottom\"\n{}"
                                         "[material.comb]\nkind = \"honeycomb\"\nmark = \"H\"\nE1 = 1\nE2 = 1\nE3 = "
                                         "200\nnu12 = 0.1\nG12 = 1\nG13 = 60\nG23 = 30\nthickness = 10\n"
                                         "[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ {} ]\n",
                                         test::materials(), plies)),
      findings);
}

/// The laminate with the fitted moduli: its layer sum must be the true H of the unfitted one.
void check_fit(const Design& d, double tolerance) {
  const auto fit = deck::fit_soft_core(d.part, d.sections, section::SectionId{0});
  REQUIRE(fit.has_value());
  auto stack = section::laminate_of(d.part, d.sections, section::SectionId{0});
  const laminate::Matrix2 H = laminate::transverse_shear(stack);
  for (std::size_t i = 0; i < stack.size(); ++i) {
    stack[i].elastic.G13 = fit->G13[i];
    stack[i].elastic.G23 = fit->G23[i];
    CHECK(fit->G13[i] > 0);
    CHECK(fit->G23[i] > 0);
  }
  const double off = (laminate::transverse_shear_voigt(stack) - H).norm() / H.norm();
  INFO("off by " << off << ", told " << fit->leftover);
  CHECK(test::near(off, fit->leftover, 1e-9));
  CHECK(off < tolerance);
}

}  // namespace

TEST_CASE("fitted faces give a foam-cored laminate its true shear stiffness, core untouched") {
  for (const std::string code : {"[0_4/0F/0_4]", "[0/90/0F/90/0]", "[45/-45/0F/-45/45]"}) {
    INFO(code);
    const Design d = sandwich("{ id = \"A\", code = \"" + code + "\" }");
    check_fit(d, 0.01);
    const auto fit = deck::fit_soft_core(d.part, d.sections, section::SectionId{0});
    CHECK(fit->voigt_over_H > 10);
    const auto layers = d.sections.layers_of(section::SectionId{0});
    for (std::size_t i = 0; i < layers.size(); ++i)
      if (d.part.materials[layers[i].material].kind == material::Kind::foam) CHECK(test::near(fit->G13[i], 25));
  }
}

TEST_CASE(
    "a honeycomb, twice as stiff along its ribbon, is met with faces along and across it; what is left over is told") {
  check_fit(sandwich(R"({ id = "A", code = "[0/90/0H/90/0]" })"), 0.01);
  const Design slanted = sandwich(R"({ id = "A", code = "[45/-45/0H/-45/45]" })");
  const auto fit = deck::fit_soft_core(slanted.part, slanted.sections, section::SectionId{0});
  CHECK(fit->leftover > 0.01);  // faces at 45 degrees cannot tell along from across
  check_fit(slanted, 0.25);
}

TEST_CASE("a laminate without a core is left alone") {
  const Design d = sandwich(R"({ id = "A", code = "[0/90]s" })");
  CHECK(!deck::fit_soft_core(d.part, d.sections, section::SectionId{0}).has_value());
}

}  // namespace of_deck_soft_core
