// What the plain words say of laminates that one knows.
#include "support.hpp"

#include <bordado/strength.hpp>

namespace of_laminate_words {

using namespace bordado;
using namespace bordado::laminate;

namespace {

std::vector<std::string> words(const std::string& code, const Vec3& thermal = Vec3::Zero()) {
  std::vector<Layer> layers;
  for (const CodePly& ply : parse_code(code))
    layers.push_back({test::carbon(), 0.2, ply.angle, 1.5e-9, thermal, Vec3::Zero()});
  return in_words(layers, UnitSystem());
}
bool starts(const std::string& text, const std::string& begin) { return text.rfind(begin, 0) == 0; }

const Vec3 alpha(0.2e-6, 30e-6, 30e-6);

}  // namespace

TEST_CASE("an odd laminate bends, twists and shears; its symmetric double does not bend, but shears") {
  const auto odd = words("[20/-35/70]");
  CHECK(starts(odd[0], "pulled along x, it bends, twists and shears (at 0.1 % of strain: to a radius of "));
  CHECK(odd[0].find(" mm along x, twists by ") != std::string::npos);
  CHECK(starts(odd[2], "bent along x, it twists (half of the curvature xy is "));
  CHECK(odd[2].find("changes its length") != std::string::npos);
  const auto twice = words("[20/-35/70]s");
  CHECK(starts(twice[0], "pulled along x, it does not bend or twist, but shears (at 0.1 % of strain: shears by "));
  CHECK(twice[2].find("changes its length") == std::string::npos);
}

TEST_CASE("laminates that one knows") {
  CHECK(words("[0/90]s")[0] == "pulled along x, it stretches and narrows, and does not bend, twist or shear");
  CHECK(words("[0/90]s")[2] == "bent along x, it only bends, and does not twist or stretch");
  CHECK(starts(words("[0/90]")[0], "pulled along x, it bends (at"));     // B11 and nothing else
  CHECK(starts(words("[45/-45]")[0], "pulled along x, it twists (at"));  // B16
  CHECK(starts(words("[45/-45]s")[0], "pulled along x, it stretches and narrows"));
  CHECK(starts(words("[45/-45]s")[2], "bent along x, it twists (half of"));  // D16: symmetric, and yet
  CHECK(words("[0/90]s", alpha)[4] == "cooled by 100 K, it stays flat and keeps its angles");
  CHECK(starts(words("[0/90]", alpha)[4], "cooled by 100 K, it bends to a radius of "));
  CHECK(words("[0/90]").size() == 4);  // nothing is known of its expansion
}

TEST_CASE("the amounts are those of the matrices") {
  std::vector<Layer> layers;
  for (const CodePly& ply : parse_code("[0/90]")) layers.push_back({test::carbon(), 0.2, ply.angle, {}});
  const Deformation d = deformation(layers, -0.2, {.N = {1, 0, 0}});
  const double radius = d.strain[0] / std::abs(d.curvature[0]) / 1e-3;  // at 0.1 % of strain
  const std::string text = in_words(layers, UnitSystem())[0];
  const auto at = text.find("radius of ") + 10;
  CHECK(test::near(std::stod(text.substr(at)), radius, 0.005));
}

}  // namespace of_laminate_words
