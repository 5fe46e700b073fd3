// Temperature, links, beds, supports askew, prescribed motion and combinations, as CalculiX solves the decks; and what
// is told before it is asked.
#include "cases.hpp"

#include <bordado/base/files.hpp>

#include <sstream>

namespace of_model_loads {

using namespace bordado;
using laminate::Vector3;
using test::Cases;
using test::Grid;

namespace {

const std::string expanding = R"(
[material.warm]
kind = "unidirectional"
E1 = "135 GPa"
E2 = "9 GPa"
nu12 = 0.3
G12 = "5 GPa"
G13 = "5 GPa"
G23 = "3.2 GPa"
nu23 = 0.4
density = "1550 kg/m^3"
thickness = "0.5 mm"
alpha1 = -0.3e-6
alpha2 = 30e-6
stress-free-temperature = 180
[material.resin]
kind = "isotropic"
mark = "R"
E = "3 GPa"
nu = 0.35
density = "1200 kg/m^3"
thickness = "0.5 mm"
alpha = 60e-6
stress-free-temperature = 80
)";

/// Held so that nothing but rigid motion is taken away.
const std::string statically = test::held_statically(100, 100);

std::string with(std::string text, const std::string& what, const std::string& instead) {
  const auto at = text.find(what);
  REQUIRE(at != std::string::npos);
  return text.replace(at, what.size(), instead);
}

/// Strain and curvature of a free plate of 100 by 100 from its motion: u = ex x + gxy y / 2, w = -(kx x^2 + ...) / 2.
std::array<Vector3, 2> state_of(const Cases& solved, const std::string& name) {
  const auto w = [&](double x, double y) { return solved.moved(name, {x, y, 0}).z(); };
  const Vec3 right = solved.moved(name, {100, 0, 0}), back = solved.moved(name, {0, 100, 0});
  const double kx = -2 * w(50, 0) / (50.0 * 50 - 50 * 100), ky = -2 * w(0, 50) / (50.0 * 50 - 50 * 100);
  return {Vector3(right.x() / 100, back.y() / 100, back.x() / 100), Vector3(kx, ky, -2 * w(100, 100) / (100.0 * 100))};
}

/// What a free laminate does at temperatures straight from face to face: [e; k] = ABD^-1 of what would hold it.
std::array<Vector3, 2> free_state(const Design& design, double tool, double bag, std::optional<double> from = {}) {
  const section::SectionId s{0};
  const auto layers = section::laminate_of(design.part, design.sections, s);
  const auto laid = design.sections.layers_of(s);
  const double h = laminate::thickness(layers), bottom = design.sections.bottom[s];
  Eigen::Matrix<double, 6, 1> push = Eigen::Matrix<double, 6, 1>::Zero();
  double z = bottom;
  for (std::size_t k = 0; k < layers.size(); ++k) {
    const double t = layers[k].thickness;
    const double own = design.part.materials[laid[k].material].stress_free_temperature.value_or(from.value_or(0.0));
    const laminate::Matrix3 Q = laminate::rotated(laminate::plane_stress_stiffness(layers[k].elastic), layers[k].angle);
    const Vector3 alpha = laminate::free_strain(layers[k], laminate::Expands::by_temperature);
    // Simpson: the integrand is a parabola at most.
    for (const auto& [at, weight] : {std::pair(0.0, 1.0 / 6), {0.5, 4.0 / 6}, {1.0, 1.0 / 6}}) {
      const double height = z + at * t, here = tool + (bag - tool) * (height - bottom) / h - own;
      push.head<3>() += weight * t * here * Q * alpha;
      push.tail<3>() += weight * t * height * here * Q * alpha;
    }
    z += t;
  }
  const Eigen::Matrix<double, 6, 1> state = test::stiffness_of(design).ABD().inverse() * push;
  return {Vector3(state.head<3>()), Vector3(state.tail<3>())};
}

void compare(const std::array<Vector3, 2>& found, const std::array<Vector3, 2>& exact, double within) {
  INFO("strain " << found[0].transpose() << " for " << exact[0].transpose() << "; curvature " << found[1].transpose()
                 << " for " << exact[1].transpose());
  const double strain = exact[0].norm(), curvature = exact[1].norm();
  CHECK((found[0] - exact[0]).norm() < within * std::max(strain, 0.5 * curvature));
  CHECK((found[1] - exact[1]).norm() < within * std::max(curvature, 0.5 * strain));
}

}  // namespace

TEST_CASE("a cross-ply plate that cools shrinks and curves as lamination theory says") {
  const std::string text =
      test::case_part("[0/90]",
                      statically +
                          "[load.cold]\ntemperature = 20\n[load.warm]\ntemperature = { formula = \"100 + x*0\" }\n"
                          "[case.cold]\nloads = [\"cold\"]\n[case.warm]\nloads = [\"warm\"]\n[case.half]\nloads = { "
                          "cold = 0.5 }\n",
                      expanding);
  const std::string part = with(text, "material = \"ud\"", "material = \"warm\"");
  for (const auto layers : {deck::LayersAs::plies, deck::LayersAs::equivalents}) {
    const test::Folder folder;
    const Cases solved =
        test::solve_cases(folder, part, Grid::rectangle(8, 8, 100, 100), {.solids = {}, .layers = layers});
    compare(state_of(solved, "cold"), free_state(solved.design, 20, 20), 0.005);
    compare(state_of(solved, "warm"), free_state(solved.design, 100, 100), 0.005);
    compare(state_of(solved, "half"), free_state(solved.design, 100, 100), 0.005);
  }
}

TEST_CASE("plies keep the stress that cooling leaves in them") {
  const std::string part = with(test::case_part("[0/90]s", statically + "[load.cold]\ntemperature = 20\n", expanding),
                                "material = \"ud\"", "material = \"warm\"");
  const test::Folder folder;
  const Cases solved = test::solve_cases(folder, part, Grid::rectangle(4, 4, 100, 100), {.ply_results = true});
  // What the solver says of strain at every point of every ply, less what the ply would take by itself, times its
  // stiffness is the stress of theory: 0 along x against 90 across.
  const auto exact = free_state(solved.design, 20, 20);
  compare(state_of(solved, "static"), exact, 0.005);
  CHECK(solved.answers[0].strain_lines == 16 * 4 * 8);
  const auto layers = section::laminate_of(solved.design.part, solved.design.sections, section::SectionId{0});
  std::istringstream listing(read_file(folder / "part.dat"));
  bool strains = false;
  std::size_t compared = 0;
  double sum = 0.0;
  for (std::string line; std::getline(listing, line);) {
    if (line.find("strains (elem") != std::string::npos) strains = true;
    std::istringstream words(line);
    double element = 0, point = 0, xx = 0, yy = 0, zz = 0, xy = 0;
    if (!strains || !(words >> element >> point >> xx >> yy >> zz >> xy)) continue;
    const auto& layer = layers[(static_cast<std::size_t>(point) - 1) / 8];
    const laminate::Matrix3 Q = laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle);
    const Vector3 own = -160 * laminate::free_strain(layer, laminate::Expands::by_temperature);
    const Vector3 stress = Q * (Vector3(xx, yy, 2 * xy) - own), theory = Q * (exact[0] - own);
    const double off = (stress - theory).norm() / theory.norm();
    CHECK(off < 0.01);  // the largest at free edges
    sum += off;
    ++compared;
  }
  CHECK(sum / static_cast<double>(compared) < 0.004);
  CHECK(compared == 16 * 4 * 8);
}

TEST_CASE("temperatures that differ from face to face, and materials free of stress at different ones") {
  const std::string conditions = statically + R"(
[load.sun]
temperature = { tool = 20, bag = 60 }
[load.shade]
temperature = { tool = 40, bag = 10 }
[case.sun]
loads = ["sun"]
[case.shade]
loads = ["shade"]
[case.twice]
loads = { sun = 2 }
)";
  for (const std::string code : {"[0/90]", "[0/90/0R/45]"}) {
    const std::string part =
        with(test::case_part(code, conditions, expanding), "material = \"ud\"", "material = \"warm\"");
    for (const auto layers : {deck::LayersAs::plies, deck::LayersAs::equivalents}) {
      INFO(code << (layers == deck::LayersAs::plies ? ", plies" : ", three layers"));
      const test::Folder folder;
      const Cases solved =
          test::solve_cases(folder, part, Grid::rectangle(8, 8, 100, 100), {.solids = {}, .layers = layers});
      // Plies have the mean of their temperature: what it changes within them bends, too, by t^2 of h^2.
      const double within = layers == deck::LayersAs::equivalents ? 0.006 : 0.03;
      compare(state_of(solved, "sun"), free_state(solved.design, 20, 60), within);
      compare(state_of(solved, "shade"), free_state(solved.design, 40, 10), within);
      auto twice = free_state(solved.design, 20, 60);
      for (Vector3& one : twice) one *= 2.0;
      compare(state_of(solved, "twice"), twice, within);
    }
  }
}

TEST_CASE("a link moves nodes as one; a force beside what it acts on turns it") {
  const std::string conditions = R"(
[zone.end]
box = { from = [150, -1, -1], to = [201, 21, 1] }
[support.left]
on = "left"
hold = "clamped"
[load.linked]
on = "end"
force = [0, 0, 1]
at = [180, 10, 40]
by = "link"
[load.turned]
on = "end"
force = [0, 0, 0]
moment = [0, -50, 0]
by = "link"
at = [180, 10, 0]
[load.spread]
on = "end"
force = [1, 0, 0]
at = [180, 10, 40]
[case.linked]
loads = ["linked"]
[case.turned]
loads = ["turned"]
[case.spread]
loads = ["spread"]
)";
  const test::Folder folder;
  const Cases solved =
      test::solve_cases(folder, test::case_part("[0/90]s", conditions), Grid::rectangle(20, 2, 200, 20));
  const double EI = 20 / laminate::compliance(test::stiffness_of(solved.design)).d(0, 0);
  // Up to x = 150 a beam with P at 180: w = P x^2 (3 * 180 - x) / 6 EI; beyond it goes on straight.
  const double x = 150, w = x * x * (3 * 180 - x) / (6 * EI), slope = x * (2 * 180 - x) / (2 * EI);
  CHECK(test::off(solved.moved("linked", {150, 10, 0}).z(), w) < 0.01);
  CHECK(test::off(solved.moved("linked", {200, 10, 0}).z(), w + 50 * slope) < 0.01);
  CHECK(test::off(solved.of("linked").reaction.z(), -1.0) < 1e-3);
  // A moment about -y lifts the end: w = M x^2 / 2 EI, slope M x / EI.
  CHECK(test::off(solved.moved("turned", {200, 10, 0}).z(), 50 * (150 * 150 / 2.0 + 50 * 150) / EI) < 0.01);
  // A pull along x, 40 above the strip, is a moment of 40 about y: the sums say so.
  const auto total = model::total(solved.model, solved.model.cases[2]);
  CHECK((total.force - Vec3(1, 0, 0)).norm() < 1e-12);
  CHECK((total.moment - Vec3(180, 10, 40).cross(Vec3(1, 0, 0))).norm() < 1e-9);
  CHECK(solved.moved("spread", {200, 10, 0}).z() < 0.0);
}

TEST_CASE("moments along an edge bend a strip to a circle, as shells and as solids") {
  // About the edge, with the normal, out and along right-handed: tension on the side of the normal, so that it bends
  // away from it: w = -M x^2 / 2 EI.
  const std::string conditions = R"(
[support.left]
on = "left"
hold = "clamped"
[load.bend]
on = "right"
edge-force = [0, 0, 0]
edge-moment = [0, 2, 0]
axes = "edge"
)";
  for (const bool solids : {false, true}) {
    const test::Folder folder;
    test::CaseOptions options;
    if (solids) options.solids = model::SolidOptions{};
    const Cases solved =
        test::solve_cases(folder, test::case_part("[0/90]s", conditions), Grid::rectangle(20, 2, 200, 20), options);
    const double EI = 20 / laminate::compliance(test::stiffness_of(solved.design)).d(0, 0);
    INFO(solids << ": " << solved.moved("static", {200, 10, 0}).z() << " for " << -40.0 * 200 * 200 / (2 * EI));
    CHECK(test::off(solved.moved("static", {200, 10, 0}).z(), -40.0 * 200 * 200 / (2 * EI)) < 0.02);
    CHECK(test::off(model::total(solved.model, solved.model.cases[0]).moment.y(), 40.0) < 1e-9);
  }
}

TEST_CASE("a bed carries a plate: evenly, and a beam as Winkler's") {
  const std::string conditions = R"(
[support.bed]
on = "plate"
bed = "0.02 MPa/mm"
[support.plane]
on = "corner"
hold = ["x", "y"]
[support.right-corner]
point = [400, 0, 0]
hold = ["y"]
[load.even]
on = "plate"
pressure = "1 kPa"
face = "bag"
[load.line]
on = "middle"
force = [0, 0, -10]
[curve.middle]
points = [[200, 0, 0], [200, 20, 0]]
[case.even]
loads = ["even"]
)";
  std::string text = test::case_part("[0/90]s", conditions);
  text = with(text, "[curve.middle]\npoints = [[200, 0, 0], [200, 20, 0]]\n", "");
  text = with(text, "on = \"middle\"\nforce = [0, 0, -10]", "point = [200, 10, 0]\nforce = [0, 0, -10]");
  text += "[case.line]\nloads = [\"line\"]\n";
  {  // Under solids it carries as well.
    const test::Folder other;
    const Cases solids =
        test::solve_cases(other, text, Grid::rectangle(20, 2, 400, 20), {.solids = model::SolidOptions{}});
    for (const Vec3& at : {Vec3(0, 0, 0), Vec3(200, 10, 0), Vec3(400, 20, 0)})
      CHECK(test::off(solids.moved("even", at).z(), -1e-3 / 0.02) < 1e-3);
    CHECK(test::off(solids.of("even").reaction.z(), 1e-3 * 400 * 20) < 1e-4);
  }
  const test::Folder folder;
  const Cases solved = test::solve_cases(folder, text, Grid::rectangle(80, 4, 400, 20));
  for (const Vec3& at : {Vec3(0, 0, 0), Vec3(200, 10, 0), Vec3(400, 20, 0)})
    CHECK(test::off(solved.moved("even", at).z(), -1e-3 / 0.02) < 1e-4);
  CHECK(test::off(solved.of("even").reaction.z(), 1e-3 * 400 * 20) < 1e-6);
  // M. Hetenyi, Beams on Elastic Foundation (1946): w = P b / 2 k under the force, k by length. The strip is so narrow
  // that it bends as a beam.
  const double EI = 20 / laminate::compliance(test::stiffness_of(solved.design)).d(0, 0), k = 0.02 * 20;
  const double beta = std::pow(k / (4 * EI), 0.25);
  const double mean = (solved.moved("line", {200, 0, 0}).z() + 2 * solved.moved("line", {200, 5, 0}).z() +
                       2 * solved.moved("line", {200, 15, 0}).z() + solved.moved("line", {200, 20, 0}).z()) /
                      6;
  CHECK(test::off(mean, -10 * beta / (2 * k)) < 0.03);
}

TEST_CASE("a quarter is the whole; planes of symmetry may stand askew") {
  const std::string press = "[load.press]\non = \"plate\"\nface = \"tool\"\npressure = \"1 kPa\"\n";
  const test::Folder whole_folder, quarter_folder, askew_folder;
  const Cases whole = test::solve_cases(whole_folder, test::case_part("[0/90]s", test::knife_edges(200) + press),
                                        Grid::rectangle(8, 8, 200, 200));
  const std::string quarter_supports = R"(
[support.left]
on = "left"
hold = ["z"]
[support.front]
on = "front"
hold = ["z"]
)";
  const Cases quarter = test::solve_cases(
      quarter_folder,
      test::case_part("[0/90]s", quarter_supports + press +
                                     "[support.right]\non = \"right\"\nhold = \"symmetry-x\"\n[support.back]\non = "
                                     "\"back\"\nhold = \"symmetry-y\"\n"),
      Grid::rectangle(4, 4, 100, 100));
  const double w = whole.moved("static", {100, 100, 0}).z();
  CHECK(test::off(quarter.moved("static", {100, 100, 0}).z(), w) < 1e-4);
  // The same, turned by 30 degrees about z.
  const double c = std::sqrt(0.75), s = 0.5;
  Grid turned = Grid::rectangle(4, 4, 100, 100);
  turned.map = [=](double u, double v) { return Vec3(100 * (c * u - s * v), 100 * (s * u + c * v), 0); };
  std::string text = test::case_part(
      "[0/90]s", quarter_supports + press +
                     fmt::format("[support.right]\non = \"right\"\nhold = \"symmetry\"\nnormal = [{0}, {1}, 0]\n"
                                 "[support.back]\non = \"back\"\nhold = [\"y\", \"rx\", \"rz\"]\naxes = \"x\"\n",
                                 c, s));
  text = with(text, "vector = [1, 0, 0]", fmt::format("vector = [{}, {}, 0]", c, s));
  const Cases askew = test::solve_cases(askew_folder, text, turned);
  CHECK(test::off(askew.moved("static", {100 * (c - s), 100 * (s + c), 0}).z(), w) < 1e-4);
}

TEST_CASE("edges that are moved stretch a strip as its stiffness says") {
  const std::string conditions = R"(
[support.left]
on = "left"
hold = ["x", "z"]
[support.corner]
on = "corner"
hold = ["y"]
[load.pull]
on = "right"
displacement = { x = 0.5, z = 0 }
[case.pull]
loads = ["pull"]
[case.push]
loads = { pull = -0.5 }
)";
  const test::Folder folder;
  const Cases solved =
      test::solve_cases(folder, test::case_part("[0/90]s", conditions), Grid::rectangle(10, 4, 100, 20));
  const double EA = 20 / laminate::compliance(test::stiffness_of(solved.design)).a(0, 0);
  CHECK(test::off(solved.moved("pull", {100, 10, 0}).x(), 0.5) < 1e-12);
  CHECK(test::off(solved.moved("push", {100, 10, 0}).x(), -0.25) < 1e-12);
  CHECK(test::off(solved.moved("pull", {50, 10, 0}).x(), 0.25) < 1e-3);
  // Its energy is EA u^2 / 2 L.
  CHECK(test::off(*solved.answers[0].strain_energy, EA * 0.25 / 200) < 2e-3);
}

TEST_CASE("one deck of several cases answers as decks of each do") {
  const std::string conditions = R"(
[support.left]
on = "left"
hold = "clamped"
[support.right]
on = "right"
hold = ["z"]
[load.press]
on = "plate"
pressure = "1 kPa"
face = "tool"
[load.pull]
on = "right"
force = [100, 0, 0]
[load.weight]
gravity = [0, 0, -9810]
[case.press]
loads = { press = 2, weight = 1 }
[case.pull]
loads = ["pull"]
supports = ["left"]
[case.both]
cases = { press = 0.5, pull = 3 }
)";
  const test::Folder folder;
  Cases solved = test::solve_cases(folder, test::case_part("[0/90]s", conditions), Grid::rectangle(8, 2, 100, 20));
  Findings findings;
  deck::WriteOptions options;
  options.ply_results = false;
  options.layers = deck::LayersAs::plies;  // as solve_cases() has them
  const deck::Format& format = *deck::find_format("calculix");
  const auto decks = deck::decks_of(format, solved.model, {});
  CHECK(decks == std::vector<std::vector<std::size_t>>{{0, 2}, {1}});  // 'pull' has other supports
  CHECK(test::failure([&] {
          format.write(solved.model, folder / "all.inp", options, findings);
        }).find("not held alike") != std::string::npos);
  options.cases = decks[0];
  format.write(solved.model, folder / "all.inp", options, findings);
  const auto run = calculix::run(folder / "all.inp");
  CHECK(!calculix::trouble(run.exit_status, read_file(run.log)));
  const calculix::Answer last = calculix::read_answer(run.dat);
  CHECK(last.steps == 2);
  const auto& own = solved.answers[solved.at("both")];
  REQUIRE(last.displacements.size() == own.displacements.size());
  for (std::size_t i = 0; i < own.displacements.size(); ++i)
    CHECK((last.displacements[i].value - own.displacements[i].value).norm() < 1e-6 * own.largest()->value.norm());
  CHECK(own.displacements.size() > 10);
}

TEST_CASE("several names are taken together as one: what they share counts once") {
  const auto solved = [](const std::string& conditions) {
    const test::Folder folder;
    return test::solve_cases(
        folder,
        test::case_part("[0/90]s", conditions + "[zone.a]\nbox = { from = [-1, -1, -1], to = [60, 51, 1] "
                                                "}\n[zone.b]\nbox = { from = [40, -1, -1], to = [101, 51, 1] }\n"),
        Grid::rectangle(10, 5, 100, 50));
  };
  const std::string acts = "[load.p]\non = {}\nface = \"bag\"\npressure = 1e-4\n[load.f]\non = {}\nforce = [0, 0, 5]\n";
  // Two zones that overlap and cover the plate are the plate; two ends held are each held.
  const Cases one =
      solved(fmt::format(fmt::runtime(acts), "\"plate\"", "\"plate\"") +
             "[support.l]\non = \"left\"\nhold = \"clamped\"\n[support.r]\non = \"right\"\nhold = \"clamped\"\n");
  const Cases other = solved(fmt::format(fmt::runtime(acts), "[\"a\", \"b\"]", "[\"b\", \"a\"]") +
                             "[support.both]\non = [\"left\", \"right\"]\nhold = \"clamped\"\n");
  CHECK(test::near(other.moved("static", {50, 20, 0}).z(), one.moved("static", {50, 20, 0}).z(), 1e-9));
  CHECK(test::near(other.all[0].reaction.z(), one.all[0].reaction.z(), 1e-9));
  // 5 and 0.5 N, as pressure on the bag face pushes down.
  CHECK(test::near(one.all[0].reaction.z(), -4.5, 1e-6));
  // A force on two edges is spread over both by length: half of it at each.
  const Cases edges = solved(
      "[load.f]\non = [\"left\", \"right\"]\nforce = [0, 0, 6]\n[support.s]\non = [\"front\", \"back\"]\nhold = "
      "\"clamped\"\n");
  CHECK(test::near(edges.all[0].reaction.z(), -6.0, 1e-6));
  CHECK(test::near(edges.moved("static", {0, 20, 0}).z(), edges.moved("static", {100, 20, 0}).z(), 1e-6));
}

TEST_CASE("what cannot be solved is told before the solver is asked") {
  const std::string held = "[support.left]\non = \"left\"\nhold = \"clamped\"\n";
  const auto said = [&](const std::string& conditions, const std::string& materials = "") {
    const test::Folder folder;
    return test::failure([&] {
      test::solve_cases(folder, test::case_part("[0/90]s", conditions, materials), Grid::rectangle(4, 2, 100, 20));
    });
  };
  const auto has = [](const std::string& text, const std::string& words) {
    INFO(text);
    CHECK(text.find(words) != std::string::npos);
  };
  const auto press = [](const std::string& formula) {
    return fmt::format("[load.p]\non = \"plate\"\nface = \"tool\"\npressure = {{ formula = \"{}\" }}\n", formula);
  };
  has(said(held + press("2 * (x")), "cannot be read");
  has(said(held + press("q * x")), "cannot be read");
  has(said(held + press("x = 3")), "'=' at character 3");
  has(said(held + press("1 / (x - 50)")), "no finite number at node");
  has(said(held + press("1, 2")), "cannot be read");
  has(said(held + press("sqrt(-1 - x)")), "no finite number");
  has(said(held +
           "[load.p]\non = \"plate\"\nface = \"tool\"\npressure = { level = -5, up = [0, 1, 0], density = 1e-9 }\n"),
      "nothing of it is below the level");
  has(said(held + press("1") + "[case.a]\nloads = [\"q\"]\n"), "there is no load 'q'");
  has(said(held + press("1") + "[case.a]\nloads = [\"p\"]\nsupports = [\"lefd\"]\n"), "did you mean 'left'");
  has(said(held + press("1") + "[case.a]\ncases = [\"b\"]\n[case.b]\ncases = [\"a\"]\n"), "combine each other");
  has(said(held + "[load.t]\ntemperature = 20\n"), "needs expansion");
  has(said(held + "[load.t]\ntemperature = -274\n"), "'temperature' is -274 degC, below absolute zero [part.value]");
  has(said(held + "[load.t]\ntemperature = \"-1 K\"\n"), "below absolute zero");
  has(said(held + "[load.t]\ntemperature = 20\nstress-free = -300\n"), "below absolute zero");
  has(said(held + "[load.t]\ntemperature = { formula = \"20 - 3 * x\" }\n"), "below absolute zero [load.too-cold]");
  has(said(held + press("1") + "[case.a]\nanalysis = \"buckling\"\n"), "no load acts that could buckle");
  has(said("[load.p]\non = \"plate\"\nface = \"tool\"\npressure = 1\n[support.a]\non = \"left\"\nhold = [\"z\"]\n"),
      "nothing keeps the part from moving along");
  has(said("[load.p]\non = \"plate\"\nface = \"tool\"\npressure = 1\n[support.a]\non = \"left\"\nhold = \"pinned\"\n"),
      "nothing keeps the part from turning about (0, 1, 0) through (0");
  has(said(held + "[load.f]\non = \"right\"\nforce = [0, 0, 1]\nby = \"link\"\n"), "nodes on one line");
  has(said(held + "[load.f]\non = \"plate\"\nedge-force = [0, 0, 1]\n"), "acts on an edge group or curve");
  has(said(held + "[load.f]\non = [\"plate\", \"right\"]\nforce = [0, 0, 1]\n"), "is of several kinds [deck.on-kind]");
  has(said(held + "[load.f]\non = [\"right\", \"reight\"]\nforce = [0, 0, 1]\n"), "did you mean 'right'?");
  has(said(held + "[load.f]\non = [\"right\", \"right\"]\nforce = [0, 0, 1]\n"),
      "'right' stands twice in 'on' [part.value]");
  has(said(held + "[load.f]\non = []\nforce = [0, 0, 1]\n"), "'on' lists nothing [part.value]");
  const std::string weightless = with(test::materials(), "density = \"1550 kg/m^3\"\n", "");
  const std::string own = weightless.substr(weightless.find("[material.ud]"), weightless.find("[material.foam]") - 1);
  const std::string renamed = with(own.substr(0, own.find("[material.foam]")), "[material.ud]", "[material.light]");
  const test::Folder folder;
  const std::string light = with(test::case_part("[0/90]s", held + "[case.a]\nanalysis = \"frequencies\"\n", renamed),
                                 "material = \"ud\"", "material = \"light\"");
  has(test::failure([&] { test::solve_cases(folder, light, Grid::rectangle(4, 2, 100, 20)); }), "needs densities");
}

TEST_CASE(
    "a temperature through the thickness that varies over the surface bends as theory says, and coarse meshes are "
    "told") {
  // A plate on knife edges whose thermal moment is one wave: w = (1 + nu) alpha dT / h / (2 pi^2 / a^2) in the middle
  // (S. Timoshenko, S. Woinowsky-Krieger, Theory of Plates and Shells, section 40, with the load -(1 - nu) times the
  // Laplacian of the moment).
  const std::string metal = R"(
[material.al]
kind = "isotropic"
E = "70 GPa"
nu = 0.3
alpha = 23e-6
thickness = "1 mm"
stress-free-temperature = 20
)";
  const std::string wave = "20*sin(0.0314159265358979*x)*sin(0.0314159265358979*y)";
  const std::string sun = fmt::format(
      "[load.sun]\non = \"plate\"\ntemperature = {{ tool = {{ formula = \"20 + {0}\" }}, bag = {{ formula = \"20 - "
      "{0}\" "
      "}} }}\n",
      wave);
  std::string text = test::case_part("[0]2", test::knife_edges(100) + sun, metal);
  text.replace(text.find("material = \"ud\""), 15, "material = \"al\"");
  const double w = 1.3 * 23e-6 * 20.0 / (2 * std::numbers::pi * std::numbers::pi / 1e4);
  for (const int n : {4, 8, 16}) {
    const test::Folder folder;
    const auto grid = test::Grid::rectangle(n, n, 100, 100);
    const test::Cases solved = test::solve_cases(folder, text, grid, {.layers = deck::LayersAs::equivalents});
    const double found = solved.moved("static", {50, 50, 0}).z();
    INFO(n << ": " << found << " for " << -w);
    CHECK(test::near(found, -w, n == 4 ? 0.1 : 0.015));
    const auto told = [](const test::Cases& cases, std::string_view code) {
      const auto& all = cases.findings.all();
      return std::any_of(all.begin(), all.end(), [&](const Finding& f) { return f.code == code; });
    };
    CHECK(told(solved, "deck.heat-coarse") == (n == 4));
    CHECK(!told(solved, "deck.heat-layers"));
    if (n != 8) continue;
    // Two plies as layers of their own have the mean of each: a quarter of the moment is lost, which is told.
    const test::Cases plies = test::solve_cases(folder, text, grid, {.layers = deck::LayersAs::plies});
    CHECK(test::near(plies.moved("static", {50, 50, 0}).z(), 0.75 * found, 0.01));
    CHECK(told(plies, "deck.heat-layers"));
  }
}

}  // namespace of_model_loads
