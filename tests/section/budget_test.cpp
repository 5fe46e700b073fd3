// Condensing thickness that varies, by tolerance and within a budget.
#include "support.hpp"

#include <bordado/deck.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>

#include <cmath>
#include <random>
#include <set>

namespace of_section_budget {

using namespace bordado;
using test::Grid;

namespace {

/// A dome with two frames and two plies that vary by the distance from a point and from an edge.
Design dome(const section::Options& options, double steep = 1.0) {
  const test::Folder folder;
  folder.write("g.msh", test::msh({.nx = 24, .ny = 24, .map = [](double u, double v) {
                                     return Vec3(100 * u, 100 * v, 40 * std::sin(2 * u) * std::cos(v));
                                   }}));
  const std::string text = fmt::format(
      "[part]\nname = \"D\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"g.msh\", length = \"mm\" }}\nside = {{ along = "
      "[0, 0, 1] }}\nsurface = \"bottom\"\n{}[frame.y]\nvector = [0, 1, 0]\n[layup]\nmaterial = \"ud\"\nframe = "
      "\"x\"\nplies = [ {{ id = \"A\", angle = 0 }}, {{ id = \"B\", angle = 30, frame = \"y\" }}, {{ id = \"C\", "
      "material "
      "= \"foam\", thickness = {{ of = [0, 0, 0], table = [[0, 0], [30, 0], [120, {}]] }} }}, {{ id = \"D\", angle = "
      "45, "
      "thickness = {{ of = \"right\", table = [[0, 1], [50, 0.2]] }} }} ]\n",
      test::materials(), 8.0 * steep);
  Findings findings;
  return open(folder.write("d.toml", text), findings, options);
}

/// The largest of the relative errors of A, B and D on an element: layer by layer from what lies there.
double off_on(const Design& d, mesh::ElementIndex e) {
  layup::LayersOn layers_on(d);
  std::vector<laminate::Layer> exact;
  const auto laid = layers_on(e);
  for (const layup::LaidLayer& layer : laid)
    exact.push_back({d.part.materials[layer.material].elastic, layer.thickness, layer.angle, 0});
  const auto s = d.sections.section_of[e];
  const auto is = laminate::stiffness(exact, laid.front().bottom),
             used = laminate::stiffness(section::laminate_of(d.part, d.sections, s), d.sections.bottom[s]);
  const double h = laminate::thickness(exact), A = is.A.norm();
  return std::max(
      {(used.A - is.A).norm() / A, (used.B - is.B).norm() / (0.5 * h * A), (used.D - is.D).norm() / is.D.norm()});
}

}  // namespace

TEST_CASE("no element is further off than said, whatever tolerance or budget") {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> steep(0.1, 3.0), tolerance(0.002, 0.1);
  std::uniform_int_distribution<std::size_t> most(1, 60);
  for (int i = 0; i < 12; ++i) {
    section::Options options{.thickness_tolerance = tolerance(random)};
    if (i % 3 != 0) options.most_sections = most(random);
    const Design d = dome(options, steep(random));
    if (options.most_sections) CHECK(d.sections.count() <= *options.most_sections);
    REQUIRE(d.sections.off.size() == d.surface.element_count());
    double largest = 0.0;
    for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
      const double off = off_on(d, e), said = static_cast<double>(d.sections.off[e]);
      CHECK(off <= said * (1.0 + 1e-9) + 1e-12);
      CHECK(said <= off * (1.0 + 1e-6) + 1e-9);
      largest = std::max(largest, off);
    }
    const auto& told = d.sections.deviation;
    CHECK(test::near(std::max({told.largest_A, told.largest_B, told.largest_D}), largest));
  }
}

TEST_CASE("by tolerance thicknesses stay within their share, and the mass is that of the part") {
  for (const double tolerance : {0.05, 0.01, 0.002}) {
    const Design d = dome({.thickness_tolerance = tolerance});
    double mass = 0.0;
    layup::LayersOn layers_on(d);
    for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
      const auto laid = layers_on(e);
      const auto s = d.sections.section_of[e];
      const auto used = d.sections.layers_of(s);
      REQUIRE(used.size() == laid.size());
      double off = 0.0, h = 0.0;
      for (std::size_t i = 0; i < laid.size(); ++i) {
        CHECK(used[i].ply == laid[i].ply);
        off += std::abs(used[i].thickness - laid[i].thickness);
        h += laid[i].thickness;
      }
      CHECK(off <= tolerance * h * (1.0 + 1e-12));
      mass += d.geometry.areas[e] * laminate::areal_mass(section::laminate_of(d.part, d.sections, s));
    }
    CHECK(d.sections.deviation.largest_thickness <= tolerance);
    CHECK(test::near(mass, layup::mass(d).mass, 1e-12));
  }
}

TEST_CASE("a larger budget is never worse, and one that suffices changes nothing") {
  const Design free = dome({});
  double before = 1e300;
  for (const std::size_t most : {4, 16, 64, 256}) {
    const Design d = dome({.most_sections = most});
    const auto& told = d.sections.deviation;
    const double largest = std::max({told.largest_A, told.largest_B, told.largest_D});
    CHECK(largest < before);
    before = largest;
    CHECK(told.sections_by_tolerance == free.sections.count());
  }
  const Design enough = dome({.most_sections = free.sections.count()});
  CHECK(enough.sections.section_of == free.sections.section_of);
  CHECK(enough.sections.layers == free.sections.layers);
}

TEST_CASE("a budget keeps the mass of the part, and says how far an element's is off") {
  for (const std::size_t most : {1, 3, 20}) {
    const Design d = dome({.most_sections = most});
    double mass = 0.0, largest = 0.0;
    layup::LayersOn layers_on(d);
    for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
      double own = 0.0;
      for (const layup::LaidLayer& layer : layers_on(e))
        own += layer.thickness * d.part.materials[layer.material].density.value_or(0.0);
      const double used = laminate::areal_mass(section::laminate_of(d.part, d.sections, d.sections.section_of[e]));
      mass += d.geometry.areas[e] * used;
      largest = std::max(largest, std::abs(used - own) / own);
    }
    CHECK(test::near(mass, layup::mass(d).mass, 1e-12));
    CHECK(test::near(d.sections.deviation.largest_mass, largest, 1e-9));
    CHECK(largest > 0.01);
    // Each deck is read back as it is written, its masses too.
    Findings findings;
    const model::Model model = assemble(d, {.quadratic = true}, findings);
    for (const std::string format : {"calculix", "bulk-data"})
      for (const deck::LayersAs layers : {deck::LayersAs::plies, deck::LayersAs::equivalents}) {
        const test::Folder folder;
        CHECK_NOTHROW(deck::find_format(format)->write(model, folder / "d.inp", {.layers = layers}, findings));
      }
  }
}

TEST_CASE("sections are the same in any unit") {
  const auto in = [](const std::string& units, double scale) {
    const test::Folder folder;
    folder.write("g.msh", test::msh({.nx = 24, .ny = 24, .map = [scale](double u, double v) {
                                       return Vec3(scale * Vec3(100 * u, 100 * v, 40 * std::sin(2 * u) * std::cos(v)));
                                     }}));
    Findings findings;
    return open(folder.write("d.toml", fmt::format(R"(
[part]
name = "D"
units = "{}"
mesh = {{ file = "g.msh", length = "{}" }}
side = {{ along = [0, 0, 1] }}
surface = "bottom"
{}
[frame.y]
vector = [0, 1, 0]
[layup]
material = "ud"
frame = "x"
plies = [
  {{ id = "A", angle = 0 }},
  {{ id = "B", angle = 30, frame = "y" }},
  {{ id = "C", material = "foam", thickness = {{ of = [0, 0, 0], table = [[0, 0], [{}, 0], [{}, {}]] }} }},
  {{ id = "D", angle = 45, thickness = {{ of = "right", table = [[0, {}], [{}, {}]] }} }},
]
)",
                                                   units, units.substr(0, units.find(',')), test::materials(),
                                                   30 * scale, 120 * scale, 8 * scale, scale, 50 * scale, 0.2 * scale)),
                findings);
  };
  const Design mm = in("mm, t, s", 1.0), m = in("m, kg, s", 1e-3), inch = in("in, lbf s^2/in, s", 1.0 / 25.4);
  CHECK(mm.sections.count() > 50);
  CHECK(mm.sections.section_of == m.sections.section_of);
  CHECK(mm.sections.section_of == inch.sections.section_of);
}

TEST_CASE("a budget of few sections is near the best there is") {
  // A plain strip of one ply whose thickness rises from 1 to 4 mm: D goes with the third power, so the best k sections
  // part its logarithm evenly. Relative errors of a section c on [a, b] are (c/a)^3 - 1 and 1 - (c/b)^3.
  const test::Folder folder;
  folder.write("g.msh", test::msh(Grid::rectangle(400, 1, 400, 1)));
  const std::string text =
      "[part]\nname = \"S\"\nunits = \"mm, t, s\"\nmesh = { file = \"g.msh\", length = \"mm\" }\nside = { along = [0, "
      "0, "
      "1] }\nsurface = \"middle\"\n" +
      test::materials() +
      "[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ { id = \"A\", angle = 0, thickness = { of = \"left\", "
      "table = "
      "[[0, 1], [400, 4]] } } ]\n";
  Findings findings;
  const Design d = open(folder.write("s.toml", text), findings, {.thickness_tolerance = 0.001, .most_sections = 10});
  const double ratio = std::pow(64.0, 1.0 / 10.0);  // of D from end to end of each part
  // The best c leaves the same error at both ends: q - 1 = 1 - q / ratio, with q = (c/a)^3.
  const double best = 2.0 / (1.0 + 1.0 / ratio) - 1.0;
  CHECK(d.sections.count() == 10);
  CHECK(d.sections.deviation.largest_D > 0.9 * best);
  CHECK(d.sections.deviation.largest_D < 2.1 * best);
}

TEST_CASE("options out of range are refused") {
  const double nan = std::nan("");
  for (const section::Options& options :
       {section::Options{.angle_tolerance = Angle::degrees(0)},
        section::Options{.angle_tolerance = Angle::degrees(nan)}, section::Options{.thickness_tolerance = 0.0},
        section::Options{.thickness_tolerance = nan}, section::Options{.thickness_tolerance = 0.3},
        section::Options{.most_sections = 0}})
    CHECK(test::failure([&] { dome(options); }).find("[section.options]") != std::string::npos);
}

}  // namespace of_section_budget
