#include "support.hpp"

#include <bordado/laminate.hpp>

#include <fmt/format.h>

#include <random>

namespace of_laminate_code {

using namespace bordado;
using namespace bordado::laminate;

namespace {

std::string angles(const std::string& code, const IsFabric& is_fabric = {}) {
  std::string out;
  for (const CodePly& ply : parse_code(code, is_fabric))
    out += fmt::format("{}{:g}{}", out.empty() ? "" : " ", ply.angle.degrees(), ply.mark);
  return out;
}

std::string refused(const std::string& code) {
  const std::string text = test::failure([&] { parse_code(code); });
  return text.substr(0, text.find(" [laminate.code]"));
}

}  // namespace

TEST_CASE("laminate codes read as the trade writes them, first laid first") {
  CHECK(angles("[0/45/-45/90]") == "0 45 -45 90");
  CHECK(angles("[0/90]s") == "0 90 90 0");
  CHECK(angles("[0/90^]s") == "0 90 0");
  CHECK(angles("[0/90\u0305]s") == "0 90 0");
  CHECK(angles("[0/45]2s") == "0 45 0 45 45 0 45 0");
  CHECK(angles("[0/90]_2") == "0 90 0 90");
  CHECK(angles("[0/90]_2s") == "0 90 0 90 90 0 90 0");
  CHECK(angles("[0/90]_s") == "0 90 90 0");
  CHECK(angles("[\u00b145/0_3]s") == "45 -45 0 0 0 0 0 0 -45 45");
  CHECK(angles("[+-45/-+30]") == "45 -45 -30 30");
  CHECK(angles("[0/(45/-45)2/90]") == "0 45 -45 45 -45 90");
  CHECK(angles("[0_2/(\u00b130)_2]") == "0 0 30 -30 30 -30");
  CHECK(angles("[0C/45G_2]s") == "0C 45G 45G 45G 45G 0C");
  CHECK(angles("[0{e-glass}/90]") == "0e-glass 90");
  CHECK(angles(" [ 22.5 / -67.5 ] ") == "22.5 -67.5");
  CHECK(angles("[45°/\u221245°]") == "45 -45");
  CHECK(angles("[0]") == "0");
}

TEST_CASE("a ply of a code can have a frame of its own") {
  const auto plies = parse_code("[0C/90C@keel-2_2/(\u00b145)@{my frame}]");
  REQUIRE(plies.size() == 5);
  CHECK(plies[0].frame == "");
  CHECK(plies[1].frame == "keel-2");
  CHECK(plies[2].frame == "keel-2");
  CHECK(plies[3].frame == "my frame");
  CHECK(plies[4].angle == Angle::degrees(-45));
  CHECK(refused("[0@/90]") ==
        "error: laminate code cannot be read at character 3: a frame's name should stand behind '@'");
  CHECK(refused("[0@{x/90]") == "error: laminate code cannot be read at character 4: '}' is missing behind a name");
}

TEST_CASE("two crossed angles in brackets are one ply of a fabric, and two plies of anything else") {
  const IsFabric only_w = [](std::string_view mark) { return mark == "W"; };
  CHECK(angles("[(0/90)W/45]", only_w) == "0W 45");
  CHECK(angles("[(\u00b145)W_2/0]s", only_w) == "45W 45W 0 0 45W 45W");
  CHECK(angles("[(0/90)/45]", only_w) == "0 90 45");
  CHECK(angles("[(0/90)/\u00b145]", [](std::string_view) { return true; }) == "0 45 -45");
  CHECK(angles("[(0/60)W]", only_w) == "0W 60W");
}

TEST_CASE("a code that cannot be read is refused at the character") {
  CHECK(refused("0/90") == "error: laminate code cannot be read at character 1: a code begins with '['");
  CHECK(refused("[0/90") == "error: laminate code cannot be read at character 6: ']' is missing");
  CHECK(refused("[0//90]") ==
        "error: laminate code cannot be read at character 4: an angle in degrees should stand here");
  CHECK(refused("[0/90/]") == "error: laminate code cannot be read at character 7: an angle is missing");
  CHECK(refused("[\u00b145/x]") ==
        "error: laminate code cannot be read at character 6: an angle in degrees should stand here");
  CHECK(refused("[0/90]t") == "error: laminate code cannot be read at character 7: nothing may follow here");
  CHECK(refused("[0^/90]s") ==
        "error: laminate code cannot be read at character 3: only the last ply can be the middle ply (^)");
  CHECK(refused("[0/90^]") ==
        "error: laminate code cannot be read at character 6: a middle ply (^) needs an 's' behind the bracket");
  CHECK(refused("[0/90^]2s") ==
        "error: laminate code cannot be read at character 9: a code with a middle ply (^) cannot be repeated");
  CHECK(refused("[0/(45/90]") ==
        "error: laminate code cannot be read at character 10: ')' is missing for the '(' at character 4");
  CHECK(refused("[0/400]") ==
        "error: laminate code cannot be read at character 4: 400 is no angle between -360 and 360 degrees");
  CHECK(refused("[0_0]") ==
        "error: laminate code cannot be read at character 4: a repeat is a whole number from 1 to 10000");
  CHECK(refused("[(0_1000)_1000]") ==
        "error: laminate code cannot be read at character 3: this makes 1000000 plies; at most 10000 are read");
  CHECK(refused("") == "error: laminate code cannot be read at character 1: a code begins with '['");
  CHECK(refused("[]") == "error: laminate code cannot be read at character 2: an angle is missing");
  CHECK(refused(std::string(100, '(')) != "");
  CHECK(refused("[" + std::string(100, '(')) ==
        "error: laminate code cannot be read at character 52: groups are nested too deep");
  CHECK(test::failure([] {
          parse_code("[0/45/90/o]", {}, {"skiff.toml", 7, 20, {}});
        }) ==
        "skiff.toml:7:20: error: laminate code cannot be read at character 10: an angle in degrees should stand here "
        "[laminate.code]\n    [0/45/90/o]\n             ^");
}

TEST_CASE("the short code of a list of plies reads back as the list") {
  const auto shortened = [](const std::string& code) { return code_of(parse_code(code)); };
  CHECK(shortened("[0/45/-45/90/90/-45/45/0]") == "[0/\u00b145/90]s");
  CHECK(shortened("[0/90/0]") == "[0/90^]s");
  CHECK(shortened("[0/0/0/0]") == "[0_4]");
  CHECK(shortened("[0/90/0/90]") == "[0/90]2");
  CHECK(shortened("[0/90/0/90/90/0/90/0]") == "[0/90]2s");
  CHECK(shortened("[45]") == "[45]");
  CHECK(code_of({}) == "[]");

  std::mt19937 random(5);
  const double choices[] = {0, 45, -45, 90, 22.5, -30, 30};
  const char* marks[] = {"", "C", "e-glass"};
  const char* frames[] = {"", "keel-2", "odd name"};
  for (int round = 0; round < 2000; ++round) {
    std::vector<CodePly> plies;
    const int period = 1 + static_cast<int>(random() % 4), count = 1 + static_cast<int>(random() % 14);
    const bool mirrored = random() % 2, marked = random() % 3 == 0;
    for (int i = 0; i < count; ++i)
      plies.push_back(i >= period && random() % 4
                          ? plies[static_cast<std::size_t>(i - period)]
                          : CodePly{Angle::degrees(choices[random() % 7]), marks[marked ? random() % 3 : 0],
                                    frames[marked ? random() % 3 : 0], 0});
    if (mirrored)
      for (int i = count - 1 - static_cast<int>(random() % 2); i >= 0; --i)
        plies.push_back(CodePly(plies[static_cast<std::size_t>(i)]));
    const std::string code = code_of(plies);
    const auto back = parse_code(code);
    INFO(code);
    REQUIRE(back.size() == plies.size());
    for (std::size_t i = 0; i < plies.size(); ++i) {
      CHECK(back[i].angle == plies[i].angle);
      CHECK(back[i].mark == plies[i].mark);
      CHECK(back[i].frame == plies[i].frame);
    }
  }
}

}  // namespace of_laminate_code
