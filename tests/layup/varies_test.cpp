// Plies whose thickness varies: by distance and by a field, and what lies on every element then.
#include "support.hpp"

#include <bordado/design.hpp>
#include <bordado/drawing.hpp>
#include <bordado/review/book.hpp>
#include <bordado/review/fields.hpp>

#include <fmt/format.h>

#include <cmath>

namespace of_layup_varies {

using namespace bordado;
using test::Grid;

namespace {

std::string head(const std::string& surface = "bottom") {
  return fmt::format(
      "[part]\nname = \"V\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"g.msh\", length = \"mm\" }}\nside = {{ along = "
      "[0, 0, 1] }}\nsurface = \"{}\"\n{}[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [\n",
      surface, test::materials());
}

/// Skins of 1 mm with a core between them that runs from nothing at x = 20 to 10 mm at x = 80.
const std::string skins_and_core =
    "{ id = \"A\", code = \"[0_4]\" },\n"
    "{ id = \"C\", material = \"foam\", thickness = { of = \"left\", table = [[20, 0], [80, 10]] } },\n"
    "{ id = \"B\", code = \"[90_4]\" },\n";

Design tapered(const std::string& plies, const std::string& surface = "bottom", section::Options options = {},
               int nx = 50, const std::function<void(const test::Folder&)>& more = {}) {
  const test::Folder folder;
  folder.write("g.msh", test::msh(Grid::rectangle(nx, 4, 100, 20)));
  if (more) more(folder);
  Findings findings;
  return open(folder.write("v.toml", head(surface) + plies + "]\n"), findings, options);
}

double core_at(double x) { return 10.0 * std::clamp((x - 20.0) / 60.0, 0.0, 1.0); }

}  // namespace

TEST_CASE("a core runs out by the distance from an edge: mass, centre and every element's layers have its slope") {
  for (const std::string surface : {"bottom", "middle", "top"}) {
    const Design d = tapered(skins_and_core, surface);
    layup::LayersOn layers_on(d);
    const double share = surface == "bottom" ? 0.0 : surface == "middle" ? 0.5 : 1.0;
    for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
      const double c = core_at(d.geometry.centres[e].x()), h = 2.0 + c;
      const auto layers = layers_on(e);
      REQUIRE(layers.size() == (c > 0.0 ? 9 : 8));
      CHECK(test::near(layers.front().bottom, -share * h, 1e-12, h));
      CHECK(test::near(layers.back().bottom + layers.back().thickness, (1.0 - share) * h, 1e-12, h));
      if (c > 0.0) CHECK(test::near(layers[4].thickness, c));
      for (std::size_t i = 1; i < layers.size(); ++i)
        CHECK(test::near(layers[i].bottom, layers[i - 1].bottom + layers[i - 1].thickness));
    }
    // Closed form: the core is 10 mm thick over 20 mm, and 5 in the mean over 60.
    const double skins = 100.0 * 20.0 * 2.0 * 1.55e-9, core = 20.0 * (20.0 * 10.0 + 60.0 * 5.0) * 8e-11;
    const layup::Mass mass = layup::mass(d);
    CHECK(test::near(mass.mass, skins + core));
    // Where the core is whole, where it runs out and where it is gone are stacks of their own.
    double all = 0.0, thinnest = 1e9, thickest = 0.0;
    for (const layup::StackId s : d.layup.stacks()) {
      all += mass.stack_masses[s];
      thinnest = std::min(thinnest, mass.stack_thickness[s][0]);
      thickest = std::max(thickest, mass.stack_thickness[s][1]);
    }
    CHECK(d.layup.stack_count() == 3);
    CHECK(test::near(all, mass.mass));
    CHECK(test::near(thinnest, 2.0));
    CHECK(test::near(thickest, 12.0));
    // The core's own centre along x: 20 mm of full thickness about x = 90, and a triangle with its centre at x = 60.
    const double core_x = (20.0 * 10.0 * 90.0 + 60.0 * 5.0 * 60.0) / (20.0 * 10.0 + 60.0 * 5.0);
    CHECK(test::near(mass.centre->x(), (skins * 50.0 + core * core_x) / (skins + core), 1e-4));
    const review::PlyBook book = review::ply_book(d);
    CHECK(test::near(*book.plies[4].mass, core));
    CHECK(test::near(book.plies[4].area, 80.0 * 20.0));  // where it has run out it is not
  }
}

TEST_CASE("a ply lies where it has not run out: the same in its elements, the book, fields and layers") {
  const Design d = tapered(skins_and_core);
  const part::PlyId core{4};
  layup::LayersOn layers_on(d);
  std::vector<mesh::ElementIndex> laid;
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    const bool there = core_at(d.geometry.centres[e].x()) > 0.0;
    CHECK(d.layup.lies_on(core, e) == there);
    const auto layers = layers_on(e);
    CHECK(std::any_of(layers.begin(), layers.end(), [&](const auto& layer) { return layer.ply == core; }) == there);
    if (there) laid.push_back(e);
  }
  CHECK(d.layup.elements_of(core) == laid);
  CHECK(review::ply_book(d).plies[4].elements == laid.size());
}

TEST_CASE("pieces of an element that edges cross lie in each other, each with whole layers in its own place") {
  part::Part part;
  part.flush = part::Flush::bottom;
  const auto layer = [](std::uint32_t ply, double thickness, double covered) {
    layup::LaidLayer out;
    out.ply = part::PlyId{ply};
    out.thickness = thickness * covered;
    out.covered = covered;
    return out;
  };
  const std::vector<layup::LaidLayer> all{layer(0, 1.0, 1.0), layer(1, 2.0, 0.5), layer(2, 3.0, 0.25),
                                          layer(3, 4.0, 1.0)};
  CHECK(layup::is_crossed(all));
  const auto pieces = layup::pieces(part, all);
  REQUIRE(pieces.size() == 3);
  const std::vector<std::vector<std::uint32_t>> plies{{0, 3}, {0, 1, 3}, {0, 1, 2, 3}};
  for (std::size_t p = 0; p < 3; ++p) {
    CHECK(pieces[p].number == p);
    CHECK(pieces[p].bottom == 0.0);
    REQUIRE(pieces[p].layers.size() == plies[p].size());
    double z = 0.0;
    for (std::size_t i = 0; i < plies[p].size(); ++i) {
      CHECK(index(pieces[p].layers[i].ply) == plies[p][i]);
      CHECK(pieces[p].layers[i].thickness == plies[p][i] + 1.0);
      CHECK(pieces[p].layers[i].bottom == z);
      CHECK(pieces[p].layers[i].covered == 1.0);
      z += pieces[p].layers[i].thickness;
    }
  }
  const std::vector<layup::LaidLayer> whole{all.front(), all.back()};
  CHECK_FALSE(layup::is_crossed(whole));
  CHECK(layup::pieces(part, whole).size() == 1);
}

TEST_CASE("thickness as a field of another mesh, in that file's length unit") {
  // A coarser mesh in cm that lies in the same place, with thickness in cm on its nodes: t = 2 + x / 50 mm.
  const auto field = [](const test::Folder& folder) {
    const mesh::Surface other = test::surface(Grid::rectangle(5, 2, 10, 2));
    mesh::Array array{"t", true, 1, {}};
    for (const Vec3& p : other.points) array.values.push_back(0.2 + p.x() / 50.0);
    mesh::write(other, folder / "core.vtu", std::span(&array, 1));
  };
  const Design d = tapered(
      "{ id = \"A\", angle = 0 },\n{ id = \"C\", material = \"foam\", thickness = { file = \"core.vtu\", field = "
      "\"t\", "
      "length = \"cm\" } },\n",
      "bottom", {}, 20, field);
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e)
    CHECK(test::near(layup::thickness(d.layup, part::PlyId{1}, e), 2.0 + d.geometry.centres[e].x() / 50.0));
}

TEST_CASE("what varies is the same in at, stack and fields") {
  const Design d = tapered(skins_and_core);
  const auto fields = review::fields(d, review::Plies::left_out);
  const auto values = [&](const std::string& name) {
    return std::find_if(fields.begin(), fields.end(), [&](const auto& array) { return array.name == name; })->values;
  };
  const auto thickness = values("thickness mm"), areal = values("mass per area kg/m^2");
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    const double c = core_at(d.geometry.centres[e].x());
    const drawing::StackDrawing stack = drawing::stack_at(d, e);
    CHECK(test::near(laminate::thickness(stack.layers), 2.0 + c));
    CHECK(test::near(thickness[e], 2.0 + c));
    CHECK(test::near(areal[e], 2.0 * 1.55 + c * 0.08));
  }
}

TEST_CASE("a part whose thickness varies is written and read again, as part file and as a table of plies") {
  const test::Folder folder;
  folder.write("g.msh", test::msh(Grid::rectangle(50, 4, 100, 20)));
  Findings findings;
  const part::Part part =
      part::read(folder.write("v.toml", head() + skins_and_core +
                                            "{ id = \"D\", follows = \"C\", zone = \"plate\" },\n"
                                            "{ id = \"E\", angle = 0, thickness = { file = \"t.vtu\", "
                                            "field = \"a b\", length = \"cm\" } },\n]\n"),
                 findings);
  CHECK(part.plies.all()[9].varies.has_value());  // as the one it follows
  part::write(part, folder / "again.toml");
  const part::Part again = part::read(folder / "again.toml", findings);
  const std::string csv = part::plies_csv(part);
  folder.write("plies.csv", csv);
  std::string text = head();
  text.replace(text.find("plies = ["), std::string::npos, "plies = \"plies.csv\"\n");
  const part::Part from_table = part::read(folder.write("table.toml", text), findings);
  for (const part::Part* const other : {&again, &from_table}) {
    REQUIRE(other->plies.size() == part.plies.size());
    for (std::size_t p = 0; p < part.plies.size(); ++p) {
      const auto &mine = part.plies.all()[p].varies, &theirs = other->plies.all()[p].varies;
      REQUIRE(mine.has_value() == theirs.has_value());
      if (mine) CHECK(part::toml_text(*mine, part.file, part.units) == part::toml_text(*theirs, part.file, part.units));
    }
  }
  CHECK(part::plies_csv(from_table) == csv);
}

TEST_CASE("what is wrong with a thickness that varies") {
  const auto refused = [](const std::string& thickness) {
    return test::failure([&] {
      tapered("{ id = \"A\", angle = 0 },\n{ id = \"C\", material = \"foam\", thickness = " + thickness + " },\n");
    });
  };
  const auto has = [](const std::string& text, const std::string& part) {
    INFO(text);
    return text.find(part) != std::string::npos;
  };
  CHECK(has(refused("{ of = \"lift\", table = [[0, 1]] }"), "there is no such curve or zone [layup.of-unknown]"));
  CHECK(has(refused("{ of = \"lift\", table = [[0, 1]] }"), "did you mean 'left'?"));
  CHECK(has(refused("{ of = \"left\", table = [[0, -1]] }"), "a thickness that is not negative"));
  CHECK(!has(refused("{ of = \"left\", table = [[0, -1]] }"), "has none either"));  // said once
  CHECK(has(refused("{ of = \"left\", table = [[0, 1], [0, 2]] }"), "distances rising"));
  CHECK(has(refused("{ of = \"left\", table = [[0, 1, 2]] }"), "distances rising"));
  CHECK(has(refused("{ of = \"left\", table = [] }"), "distances rising"));
  CHECK(has(refused("{ of = \"left\", table = [[0, 0], [9, 0]] }"), "no line of 'table' has a thickness"));
  CHECK(has(refused("{ of = \"left\", table = [[500, 0], [600, 1]] }"), "has no thickness on any element"));
  CHECK(has(refused("{ of = \"left\", tabel = [[0, 1]] }"), "tabel"));
  CHECK(has(refused("{ table = [[0, 1]] }"), "has no 'of'"));
  CHECK(has(refused("{ file = \"none.vtu\", field = \"t\" }"), "none.vtu"));
  CHECK(has(refused("[1, 2]"), "thickness"));
  // Nothing lies where the only ply has run out.
  CHECK(has(test::failure([] {
              tapered(
                  "{ id = \"C\", material = \"foam\", thickness = { of = \"left\", table = [[20, 0], [80, 10]] } },\n");
            }),
            "[layup.element-bare]"));
}

}  // namespace of_layup_varies
