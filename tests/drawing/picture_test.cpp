// Still pictures, read back pixel by pixel: known shapes, what lies before what, scales, lines.
#include "png.hpp"
#include "support.hpp"

#include <bordado/picture.hpp>

#include <cmath>
#include <limits>
#include <map>
#include <numbers>
#include <set>

namespace of_drawing_picture {

using namespace bordado;
using drawing::PictureFrame;
using drawing::PictureSheet;
using test::Colour;
using test::Grid;
using test::Image;
using test::near;

namespace {

/// Two surfaces as one, without common nodes.
mesh::Surface both(const Grid& one, const Grid& other) {
  mesh::Surface out = test::surface(one);
  const mesh::Surface more = test::surface(other);
  const auto before = static_cast<mesh::NodeIndex>(out.points.size());
  out.points.insert(out.points.end(), more.points.begin(), more.points.end());
  out.node_ids.resize(out.points.size());
  for (mesh::ElementIndex e = 0; e < more.element_count(); ++e) {
    for (const mesh::NodeIndex node : more.nodes_of(e)) out.nodes.push_back(before + node);
    out.first.push_back(static_cast<std::uint32_t>(out.nodes.size()));
    out.shapes.push_back(more.shapes[e]);
    out.element_ids.push_back(0);
  }
  return out;
}

PictureSheet sheet_of(const mesh::Surface& surface, std::vector<double> values, const char* view) {
  PictureSheet out;
  out.title = "Test", out.length_unit = "mm";
  out.view = *drawing::view_named(view);
  out.lines = drawing::Lines::none;
  PictureFrame frame;
  frame.surface = &surface;
  frame.colouring.name = "value";
  frame.colouring.of_elements = std::move(values);
  out.frames.push_back(std::move(frame));
  return out;
}

Image drawn(const PictureSheet& sheet) {
  const test::Folder folder;
  drawing::draw(sheet, folder / "p.png");
  Image out = test::read_png(folder / "p.png");
  CHECK(out.width == 1684);
  CHECK(out.height == 1190);
  CHECK(out.says.find("written by Bordado") != std::string::npos);
  return out;
}

/// Where a single picture lies: left of the legend, below the heading, above the bar.
constexpr std::array<int, 4> cell{72, 198, 1300, 1060};
bool seen(const Colour& c) { return !test::is_white(c); }
bool dark(const Colour& c) { return c[0] < 110 && c[1] < 110 && c[2] < 110; }

/// Colours of more than a few pixels there.
std::set<Colour> colours(const Image& image, std::array<int, 4> box = cell) {
  std::map<Colour, int> counts;
  for (int row = box[1]; row < box[3]; ++row)
    for (int column = box[0]; column < box[2]; ++column) ++counts[image.at(column, row)];
  std::set<Colour> out;
  for (const auto& [colour, count] : counts)
    if (count > 400 && !test::is_white(colour)) out.insert(colour);
  return out;
}

}  // namespace

TEST_CASE(
    "known shapes: a rectangle fills what it spans, a disc pi / 4 of it, a ball's shadow too; elements of all kinds") {
  const auto shares = [](const mesh::Surface& surface, const char* view) {
    const Image image = drawn(sheet_of(surface, std::vector<double>(surface.element_count(), 1.0), view));
    int low_x = 10000, high_x = 0, low_y = 10000, high_y = 0;
    for (int row = cell[1]; row < cell[3]; ++row)
      for (int column = cell[0]; column < cell[2]; ++column)
        if (seen(image.at(column, row))) {
          low_x = std::min(low_x, column), high_x = std::max(high_x, column + 1);
          low_y = std::min(low_y, row), high_y = std::max(high_y, row + 1);
        }
    const double w = high_x - low_x, h = high_y - low_y;
    return std::pair(w / h, image.count(cell, seen) / (w * h));
  };
  const auto [ratio, filled] = shares(test::surface(Grid::rectangle(3, 2, 150, 60)), "above");
  CHECK(near(ratio, 2.5, 5e-3));
  CHECK(near(filled, 1.0, 2e-3));
  for (const bool triangles : {false, true})
    for (const bool quadratic : {false, true}) {
      const mesh::Surface disc = test::surface({.nx = 24,
                                                .ny = 3,
                                                .map =
                                                    [](double u, double v) {
                                                      const double a = 2 * std::numbers::pi * u, r = 1e-3 + v;
                                                      return Vec3(r * std::cos(a), r * std::sin(a), 0);
                                                    },
                                                .triangles = triangles,
                                                .quadratic = quadratic,
                                                .closed_u = true});
      INFO(triangles << quadratic);
      const auto [w_by_h, covers] = shares(disc, "above");
      CHECK(near(w_by_h, 1.0, 5e-3));
      // Sides of quadratic elements are drawn by way of their middle nodes.
      const double sides = quadratic ? 48 : 24;
      CHECK(near(covers, sides / 8 * std::sin(2 * std::numbers::pi / sides), 6e-3));
    }
  const mesh::Surface ball =
      test::surface({.nx = 60, .ny = 40, .map = [](double u, double v) {
                       const double a = 2 * std::numbers::pi * u, b = std::numbers::pi * (0.001 + 0.998 * v);
                       return Vec3(std::sin(b) * std::cos(a), std::sin(b) * std::sin(a), std::cos(b));
                     }});
  for (const std::string& view : drawing::view_names()) {
    const auto [w_by_h, covers] = shares(ball, view.c_str());
    INFO(view);
    CHECK(near(w_by_h, 1.0, 1e-2));
    CHECK(near(covers, std::numbers::pi / 4, 1e-2));
  }
}

TEST_CASE("what is nearer hides what is behind, from every side; two that cut each other show half of each") {
  const mesh::Surface plates =
      both(Grid::rectangle(2, 2, 100, 100),
           {.nx = 2, .ny = 2, .map = [](double u, double v) { return Vec3(100 * u, 100 * v, 30); }});
  std::vector<double> values;
  for (mesh::ElementIndex e = 0; e < plates.element_count(); ++e) {
    double z = 0;
    for (const auto node : plates.corners_of(e)) z += plates.points[node].z() / 4;
    values.push_back(z < 1 ? 0.0 : 1.0);
  }
  const auto from_above = colours(drawn(sheet_of(plates, values, "above"))),
             from_below = colours(drawn(sheet_of(plates, values, "below")));
  CHECK(from_above.size() == 1);
  CHECK(from_below.size() == 1);
  CHECK(from_above != from_below);
  // Two that cross in the middle.
  const mesh::Surface cross =
      both({.nx = 1, .ny = 1, .map = [](double u, double v) { return Vec3(100 * u, 100 * v, 20 * (u - 0.5)); }},
           {.nx = 1, .ny = 1, .map = [](double u, double v) { return Vec3(100 * u, 100 * v, 20 * (0.5 - u)); }});
  const Image image = drawn(sheet_of(cross, {0.0, 1.0}, "above"));
  const auto two = colours(image);
  REQUIRE(two.size() == 2);
  std::vector<int> counts;
  for (const Colour& colour : two) counts.push_back(image.count(cell, [&](const Colour& c) { return c == colour; }));
  std::sort(counts.rbegin(), counts.rend());
  CHECK(near(counts[0], counts[1], 1e-2));
}

TEST_CASE(
    "frames of one scale have one colour for one number; own scales have their own; what is beyond has the ends'") {
  const mesh::Surface plate = test::surface(Grid::rectangle(2, 1, 100, 100));
  PictureSheet sheet = sheet_of(plate, {1.0, 0.0}, "above");
  sheet.frames.push_back(sheet.frames[0]);
  sheet.frames[1].colouring.of_elements = {1.0, 4.0};
  const auto halves = [&](const PictureSheet& of) {
    const Image image = drawn(of);
    // Two frames side by side: the middle of each element.
    std::vector<Colour> out;
    std::vector<int> starts;
    const int row = 620;
    for (int column = 60; column < 1300; ++column)
      if (seen(image.at(column, row)) && !seen(image.at(column - 1, row))) starts.push_back(column);
    REQUIRE(starts.size() >= 2);
    for (const std::size_t frame : {0u, 1u}) {
      int end = starts[frame];
      while (seen(image.at(end, row))) ++end;
      for (const double share : {0.25, 0.75})
        out.push_back(image.at(starts[frame] + static_cast<int>(share * (end - starts[frame])), row));
    }
    return out;
  };
  const auto one = halves(sheet);
  CHECK(one[0] == one[2]);
  CHECK(one[1] != one[2]);
  CHECK(one[3] != one[0]);
  sheet.frames[1].scale = 1;
  const auto own = halves(sheet);
  CHECK(own[1] == own[2]);  // the least of each
  CHECK(own[0] == own[3]);
  sheet.range = {1.0, 2.0};
  const auto cut = halves(sheet);
  CHECK(cut[0] == cut[1]);
  CHECK(cut[0] == cut[2]);
  CHECK(cut[3] != cut[0]);
  // Lightness falls from the least to the most; of both signs nought is the lightest.
  const auto light = [](const Colour& c) { return 2 * c[0] + 5 * c[1] + c[2]; };
  CHECK(light(one[1]) > light(one[0]));
  CHECK(light(one[0]) > light(one[3]));
  sheet.range.reset();
  sheet.frames[0].colouring.of_elements = {-3.0, 0.0};
  sheet.frames[1].colouring.of_elements = {3.0, 0.0};
  sheet.frames[1].scale = 0;
  const auto both_signs = halves(sheet);
  CHECK(both_signs[1] == both_signs[3]);
  CHECK(light(both_signs[1]) > light(both_signs[0]) + 300);
  CHECK(light(both_signs[1]) > light(both_signs[2]) + 300);
  CHECK(both_signs[0][2] > both_signs[0][0]);  // pushed: blue; pulled: red
  CHECK(both_signs[2][0] > both_signs[2][2]);
}

TEST_CASE("reserves: the least are darkest, below one red, what is far beyond all alike") {
  const mesh::Surface plate = test::surface(Grid::rectangle(4, 1, 400, 100));
  PictureSheet sheet = sheet_of(plate, {0.5, 1.5, 30.0, 3000.0}, "above");
  sheet.frames[0].colouring.reserve = true;
  const Image image = drawn(sheet);
  const auto at = [&](int k) { return image.at(72 + static_cast<int>((0.125 + 0.25 * k) * 1228), 630); };
  CHECK(at(2) == at(3));
  CHECK(at(0)[0] > at(0)[2] + 80);
  const test::Folder folder;
  drawing::draw(sheet, folder / "p.pdf");
  CHECK(test::run("pdftotext p.pdf -", folder.path()).out.find("below 1: 1 element") != std::string::npos);
  CHECK(at(1)[0] + at(1)[1] + at(1)[2] < at(2)[0] + at(2)[1] + at(2)[2]);
}

TEST_CASE("lines: borders, folds and, where asked, all sides; none that something lies before; without gaps") {
  const mesh::Surface plate = test::surface(Grid::rectangle(6, 4, 120, 80));
  PictureSheet sheet = sheet_of(plate, std::vector<double>(24, 0.0), "above");
  const auto lined = [&](drawing::Lines lines) {
    sheet.lines = lines;
    return drawn(sheet);
  };
  CHECK(lined(drawing::Lines::none).count(cell, dark) == 0);
  const Image borders = lined(drawing::Lines::borders);
  const std::array<int, 4> inside{300, 350, 1100, 900};
  CHECK(borders.count(inside, dark) == 0);
  // Without gaps: dark in every column along the upper side.
  int first = 0, last = 0, missing = 0;
  for (int column = cell[0]; column < cell[2]; ++column) {
    const bool line = borders.count({column, cell[1], column + 1, 630}, dark) > 0;
    if (line) last = column;
    if (line && first == 0) first = column;
  }
  for (int column = first; column <= last; ++column)
    missing += borders.count({column, cell[1], column + 1, 630}, dark) == 0;
  CHECK(last - first > 900);
  CHECK(missing == 0);
  const Image all = lined(drawing::Lines::mesh);
  const auto plain = all.at(330, 400);
  CHECK(all.count(inside, [&](const Colour& c) { return c != plain; }) > 3000);
  // A fold of 90 degrees; and a plate whose sides lie behind another.
  const mesh::Surface angle =
      test::surface({.nx = 2, .ny = 1, .map = [](double u, double v) {
                       return Vec3(100 * std::min(u, 0.5), 100 * v, 100 * std::max(u - 0.5, 0.0));
                     }});
  PictureSheet folded = sheet_of(angle, {0.0, 0.0}, "corner");
  const auto dark_in = [&](drawing::Lines lines) {
    folded.lines = lines;
    return drawn(folded).count(cell, dark);
  };
  CHECK(dark_in(drawing::Lines::borders) > 1.1 * 4 * 500);
  const mesh::Surface hidden =
      both({.nx = 8, .ny = 8, .map = [](double u, double v) { return Vec3(10 + 80 * u, 10 + 80 * v, 0); }},
           {.nx = 1, .ny = 1, .map = [](double u, double v) { return Vec3(100 * u, 100 * v, 30); }});
  PictureSheet behind = sheet_of(hidden, std::vector<double>(hidden.element_count(), 0.0), "above");
  behind.lines = drawing::Lines::mesh;
  const Image covered = drawn(behind);
  behind.lines = drawing::Lines::none;
  for (mesh::ElementIndex e = 0; e < 64; ++e) behind.frames[0].strokes.push_back({e, Vec3::UnitX()});
  CHECK(drawn(behind).count(cell, dark) == 0);  // fibres behind it, too
  const auto front = covered.at(686, 640);
  CHECK(covered.count({420, 380, 950, 900}, [&](const Colour& c) { return c != front; }) == 0);
}

TEST_CASE("moved nodes, fibres and lines over the surface are where they belong; the same picture is the same bytes") {
  const mesh::Surface plate = test::surface(Grid::rectangle(6, 6, 100, 100));
  PictureSheet sheet = sheet_of(plate, std::vector<double>(36, 0.0), "above");
  sheet.frames[0].points = plate.points;
  for (Vec3& point : sheet.frames[0].points) point.x() *= 2.0;
  const Image wide = drawn(sheet);
  int columns = 0, rows = 0;
  for (int column = cell[0]; column < cell[2]; ++column) columns += seen(wide.at(column, 630));
  for (int row = cell[1]; row < cell[3]; ++row) rows += seen(wide.at(680, row));
  CHECK(near(columns, 2.0 * rows, 1e-2));
  // Strokes along x are wide, not high: dark runs in a row are longer than in a column.
  sheet.frames[0].points.clear();
  for (mesh::ElementIndex e = 0; e < 36; ++e) sheet.frames[0].strokes.push_back({e, Vec3::UnitX()});
  const auto longest = [](const Image& image, bool across) {
    int most = 0;
    for (int i = across ? cell[1] : cell[0]; i < (across ? cell[3] : cell[2]); ++i) {
      int run = 0;
      for (int k = across ? cell[0] : cell[1]; k < (across ? cell[2] : cell[3]); ++k) {
        run = dark(across ? image.at(k, i) : image.at(i, k)) ? run + 1 : 0;
        most = std::max(most, run);
      }
    }
    return most;
  };
  const Image lying = drawn(sheet);
  CHECK(longest(lying, true) > 12);
  CHECK(longest(lying, false) < 5);
  // Seen from below they lie behind nothing; a line over the surface is hidden where it runs behind it.
  sheet.frames[0].strokes.clear();
  sheet.frames[0].over.push_back({{Vec3(20, 50, 0), Vec3(80, 50, 0)}, {}, false});
  CHECK(longest(drawn(sheet), true) > 300);
  sheet.frames[0].over[0].points = {Vec3(20, 50, -20), Vec3(80, 50, -20)};
  CHECK(longest(drawn(sheet), true) == 0);
  const test::Folder folder;
  for (const std::string ending : {"png", "svg", "pdf"}) {
    for (const char* name : {"a.", "b."}) drawing::draw(sheet, folder / (name + ending));
    const std::string one = read_file(folder / ("a." + ending));
    const bool same = one == read_file(folder / ("b." + ending)),
               says = one.find("written by Bordado") != std::string::npos;
    INFO(ending);
    CHECK(same);
    CHECK((says || ending == "pdf"));  // packed there
  }
}

TEST_CASE("of some elements only: as large as they can be, on the scale of what is drawn; nothing hangs in the air") {
  const mesh::Surface plate = test::surface(Grid::rectangle(10, 4, 200, 80));
  std::vector<double> values;
  for (mesh::ElementIndex e = 0; e < 40; ++e) values.push_back(e);
  PictureSheet sheet = sheet_of(plate, values, "above");
  PictureFrame& frame = sheet.frames[0];
  CHECK((*drawing::range_of(frame))[1] == 39.0);
  // The left half: 100 by 80.
  const mesh::Geometry geometry = mesh::geometry(plate);
  double least = 1e300, most = -1e300;
  for (mesh::ElementIndex e = 0; e < 40; ++e) {
    frame.shown.push_back(geometry.centres[e].x() < 100);
    if (frame.shown.back()) least = std::min(least, values[e]), most = std::max(most, values[e]);
  }
  CHECK(*drawing::range_of(frame) == std::array{least, most});
  CHECK(drawing::values_of(frame).size() == 20);
  frame.over.push_back({{Vec3(150, 10, 0), Vec3(190, 70, 0)}, {}, false});
  frame.strokes.push_back({39, Vec3::UnitX()});
  const Image image = drawn(sheet);
  int columns = 0, rows = 0;
  for (int column = cell[0]; column < cell[2]; ++column)
    columns += image.count({column, cell[1], column + 1, cell[3]}, seen) > 0;
  for (int row = cell[1]; row < cell[3]; ++row) rows += image.count({cell[0], row, cell[2], row + 1}, seen) > 0;
  CHECK(near(columns, 1.25 * rows, 1e-2));
  CHECK(rows > 800);
  CHECK(image.count(cell, dark) == image.count({cell[0], cell[1], cell[0] + columns + 100, cell[3]}, dark));
  frame.shown.assign(40, 0);
  const test::Folder folder;
  CHECK_THROWS_WITH_AS(drawing::draw(sheet, folder / "p.png"), doctest::Contains("picture.nothing"), Failure);
}

TEST_CASE("what is no picture is refused: seen on edge, nothing, another ending, values for other elements") {
  const mesh::Surface plate = test::surface(Grid::rectangle(2, 2, 100, 100));
  const test::Folder folder;
  const PictureSheet good = sheet_of(plate, std::vector<double>(4, 1.0), "above");
  CHECK_THROWS_WITH_AS(drawing::draw(sheet_of(plate, std::vector<double>(4, 1.0), "ahead"), folder / "p.png"),
                       doctest::Contains("picture.nothing"), Failure);
  CHECK_THROWS_WITH_AS(drawing::draw({}, folder / "p.png"), doctest::Contains("picture.nothing"), Failure);
  CHECK_THROWS_WITH_AS(drawing::draw(good, folder / "p.jpg"), doctest::Contains(".svg, .pdf or .png"), Failure);
  CHECK_THROWS_AS(drawing::draw(sheet_of(plate, {1.0}, "above"), folder / "p.png"), std::invalid_argument);
  PictureSheet far = good;
  far.frames[0].points.assign(plate.points.size(), Vec3(1e300, 0, 0));
  CHECK_THROWS_AS(drawing::draw(far, folder / "p.png"), std::invalid_argument);
  CHECK(folder.file_count() == 0);
  CHECK(!drawing::view_named("sideways"));
}

}  // namespace of_drawing_picture
