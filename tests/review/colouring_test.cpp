// What a picture shows of a field: names in the place of numbers, lengths, fibres, places moved; which fields a name means.
#include "cases.hpp"

#include <bordado/design.hpp>
#include <bordado/review/colouring.hpp>
#include <bordado/review/fields.hpp>

#include <set>

namespace of_review_colouring {

using namespace bordado;
using test::Grid;
using test::near;

namespace {

Design plate(const test::Folder& folder) {
  Findings findings;
  return test::open_on(folder,
                       test::case_part("[0/45]s",
                                       "[zone.half]\nbox = { from = [-1, -1, -1], to = [100, 100, 1] }\n"
                                       "[zone.strip]\nbox = { from = [50, -1, -1], to = [300, 100, 1] }\n"),
                       Grid::rectangle(4, 2, 200, 100), findings);
}

}  // namespace

TEST_CASE("zones together: the elements of each combination are those that lie in all of its zones and in no other") {
  const test::Folder folder;
  const Design design = plate(folder);
  const review::Shown shown = review::shown(design, review::zones_together(design));
  const review::Colouring& colouring = shown.colouring;
  REQUIRE(colouring.of_elements.size() == 8);
  for (mesh::ElementIndex e = 0; e < 8; ++e) {
    const double x = design.geometry.centres[e].x();
    const std::string& name = colouring.categories.at(static_cast<std::size_t>(colouring.of_elements[e]));
    CAPTURE(x);
    CHECK((name.find("half") != std::string::npos) == (x < 100));
    CHECK((name.find("strip") != std::string::npos) == (x > 50));
  }
  CHECK(colouring.categories.size() == 3);
}

TEST_CASE("fibres are lines along them where the ply lies; numbers of materials, plies, criteria and cases are names") {
  const test::Folder folder;
  const Design design = plate(folder);
  const auto arrays = review::fields(design, review::Plies::included);
  const auto named = [&](const std::string& name) {
    const auto found = review::arrays_named(arrays, name);
    REQUIRE(found.size() == 1);
    return found[0];
  };
  const review::Shown ply = review::shown(design, *named("ply P.2"));
  REQUIRE(ply.strokes.size() == 8);
  for (const review::Stroke& stroke : ply.strokes) {
    CHECK(near(stroke.along.x(), std::sqrt(0.5), 1e-9));
    CHECK(near(stroke.along.y(), std::sqrt(0.5), 1e-9));
  }
  CHECK(ply.colouring.none == "not there");
  CHECK(review::shown(design, *named("top material")).colouring.categories == std::vector<std::string>{"ud"});
  CHECK(review::shown(design, *named("zone half")).colouring.categories == std::vector<std::string>{"no", "yes"});
  CHECK(review::shown(design, *named("thickness")).colouring.categories.empty());
  mesh::Array counted{"critical ply", false, 1, {1, 3, 3, 1, 1, 1, 1, std::nan("")}};
  review::Colouring colouring = review::shown(design, counted).colouring;
  CHECK(colouring.categories == std::vector<std::string>{"P.1", "P.3"});
  CHECK(colouring.of_elements[1] == 1.0);
  CHECK(std::isnan(colouring.of_elements[7]));
  counted = {"critical case", false, 1, {2, 2, 2, 2, 1, 1, 1, 1}};
  const std::vector<std::string> cases{"gust", "landing"};
  CHECK(review::shown(design, counted, cases).colouring.categories == cases);
}

TEST_CASE("materials of draped cloth are those of the part, by their names") {
  Findings findings;
  const Design design = open(test::source("examples/draped/draped.toml"), findings);
  REQUIRE(!design.sections.sheared.empty());
  std::set<std::string> known;
  for (const part::MaterialId m : design.part.materials.ids()) known.insert(design.part.materials[m].name);
  for (const char* const name : {"bottom material", "top material"}) {
    const auto arrays = review::fields(design, review::Plies::left_out);
    const auto found = review::arrays_named(arrays, name);
    REQUIRE(found.size() == 1);
    for (const double value : found[0]->values) CHECK(value <= static_cast<double>(design.part.materials.size()));
    for (const std::string& category : review::shown(design, *found[0]).colouring.categories)
      CHECK_MESSAGE(known.count(category) == 1, category);
  }
  // Numbers that name nothing are told as numbers.
  const mesh::Array odd{"top material", false, 1, std::vector<double>(design.surface.element_count(), 9999.0)};
  CHECK(review::shown(design, odd).colouring.categories == std::vector<std::string>{"material 9999"});
}

TEST_CASE(
    "vectors show their length and move nodes; modes are of their largest; reserves have none where stress is "
    "doubtful") {
  const test::Folder folder;
  const Design design = plate(folder);
  const std::size_t nodes = design.surface.points.size();
  mesh::Array moved{"displacement mm", true, 3, std::vector<double>(3 * nodes, 0.0)};
  moved.values[3] = 3.0, moved.values[5] = -4.0;
  const review::Shown one = review::shown(design, moved);
  CHECK(one.colouring.of_nodes[1] == 5.0);
  CHECK(one.moved.at(1) == Vec3(3, 0, -4));
  CHECK(!one.of_any_size);
  moved.name = "hum: mode 1, 12.5";
  const review::Shown mode = review::shown(design, moved);
  CHECK(mode.colouring.of_nodes[1] == 1.0);
  CHECK(mode.of_any_size);
  const mesh::Array reserve{"reserve", false, 1, {1, 2, 3, 4, 5, 6, 7, 8}},
      beside{"stress doubtful", false, 1, {1, 0, 0, 0, 0, 0, 0, 0}};
  const review::Colouring all = review::shown(design, reserve).colouring,
                          told = review::shown(design, reserve, {}, &beside).colouring;
  CHECK(all.reserve);
  CHECK(all.of_elements[0] == 1.0);
  CHECK(std::isnan(told.of_elements[0]));
  CHECK(told.of_elements[1] == 2.0);
}

TEST_CASE("a name means the field of that name, or all that begin with it") {
  std::vector<mesh::Array> all;
  for (const char* name : {"thickness mm", "hum: mode 1, 51.5", "hum: mode 2, 105", "ply K", "ply K1", "reserve"})
    all.push_back({name, false, 1, {}});
  const auto names = [&](const std::string& asked) {
    std::vector<std::string> out;
    for (const mesh::Array* array : review::arrays_named(all, asked)) out.push_back(array->name);
    return out;
  };
  CHECK(names("thickness") == std::vector<std::string>{"thickness mm"});
  CHECK(names("hum: mode") == std::vector<std::string>{"hum: mode 1, 51.5", "hum: mode 2, 105"});
  CHECK(names("hum: mode 2") == std::vector<std::string>{"hum: mode 2, 105"});
  CHECK(names("ply K") == std::vector<std::string>{"ply K"});
  CHECK(names("ply").size() == 2);
  CHECK(names("thick").empty());
  // Behind a case.
  CHECK(names("mode").size() == 2);
  CHECK(names("mode 2") == std::vector<std::string>{"hum: mode 2, 105"});
  CHECK(names("ode").empty());
}

}  // namespace of_review_colouring
