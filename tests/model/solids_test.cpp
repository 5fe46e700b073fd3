// Solids through the thickness: what they are made of, and what CalculiX makes of them.
#include "stresses.hpp"

#include <bordado/solids.hpp>

#include <fstream>
#include <set>

namespace of_model_solids {

using namespace bordado;
using test::Cases;
using test::Grid;
using Per = model::SolidOptions::Per;

namespace {

const double pi = std::numbers::pi;

/// A plate whose left half has more plies than the right, ended along x = 50.
std::string dropped(const std::string& surface, const std::string& conditions) {
  return fmt::format(R"(
[part]
name = "Step"
units = "mm, t, s"
mesh = {{ file = "grid.msh", length = "mm" }}
side = {{ along = [0, 0, 1] }}
surface = "{}"
{}
[zone.thick]
box = {{ from = [-1, -1, -1], to = [50, 99, 1] }}
[layup]
material = "ud"
frame = "x"
zone = "everything"
plies = [
  {{ id = "A", angle = 0 }},
  {{ id = "B", angle = 90, zone = "thick" }},
  {{ id = "C", angle = 0 }},
]
{}
)",
                     surface, test::materials(), conditions);
}

model::Model solid_model(const Design& design, model::SolidOptions options, Findings& findings) {
  return assemble(design, {.quadratic = true, .laminate_only = false, .solids = options}, findings);
}

}  // namespace

TEST_CASE("solids have nine constants or 21 where that is asked, and what nine leave out is said") {
  using Constants = model::SolidOptions::Constants;
  const test::Folder folder;
  const auto made = [&](const std::string& code, Constants constants, Findings& findings) {
    const Design design = test::open_on(folder, test::case_part(code, ""), Grid::rectangle(2, 1, 20, 10), findings);
    return solid_model(design, {Per::material, 0, true, constants}, findings).solids->materials.front();
  };
  const auto told = [](const Findings& findings) {
    return std::any_of(findings.all().begin(), findings.all().end(),
                       [](const Finding& f) { return f.code == "solid.nine-constants"; });
  };
  Findings findings;
  const material::Material skewed = made("[30/0]", Constants::as_they_are, findings),
                           nine = made("[30/0]", Constants::nine, findings);
  REQUIRE(skewed.elastic.full);
  CHECK(!nine.elastic.full);
  CHECK(told(findings));
  // Pulled along one axis alone, or sheared, it does what it did.
  const material::Matrix6 whole = material::compliance(skewed.elastic), part = material::compliance(nine.elastic);
  CHECK((whole.diagonal() - part.diagonal()).norm() < 1e-12 * whole.norm());
  CHECK(test::near(whole(0, 1), part(0, 1), 1e-9));
  CHECK(part(0, 5) == 0.0);
  Findings quiet;
  const material::Material plain = made("[0/90]s", Constants::as_they_are, quiet),
                           all = made("[0/90]s", Constants::all, quiet);
  CHECK(!plain.elastic.full);
  REQUIRE(all.elastic.full);
  CHECK((*all.elastic.full - material::stiffness(plain.elastic)).norm() < 1e-12 * all.elastic.full->norm());
  CHECK(!made("[0/90]s", Constants::nine, quiet).elastic.full);
  CHECK(!told(quiet));
}

TEST_CASE("solids fill the laminate: plates, tubes, folds, ended plies") {
  const test::Folder folder;
  Findings findings;
  SUBCASE("a plate") {
    const Design design =
        test::open_on(folder, test::case_part("[0/45/90]", ""), Grid::rectangle(4, 3, 40, 30), findings);
    for (const auto& [per, count] : {std::pair(Per::ply, 36), {Per::material, 12}}) {
      const auto model = solid_model(design, {per, 0, true}, findings);
      CHECK(model.solids->count() == static_cast<std::size_t>(count));
      CHECK(test::off(model.solids->volume, 40 * 30 * 0.75) < 1e-12);
      CHECK(test::off(model.solids->laminate_volume, 40 * 30 * 0.75) < 1e-12);
    }
    const auto two = solid_model(design, {Per::count, 2, true}, findings);
    CHECK(two.solids->count() == 24);
    CHECK(two.solids->groups.size() == 2);
  }
  SUBCASE("a tube, inside and outside") {
    Grid tube{.nx = 24, .ny = 2, .map = [](double u, double v) {
                return Vec3(20 * std::cos(2 * pi * u), 20 * std::sin(2 * pi * u), 15 * v);
              }};
    tube.closed_u = true;
    tube.quadratic = true;
    for (const std::string surface : {"bottom", "middle", "top"}) {
      std::string text = test::case_part("[0/90]2", "", "", surface);
      const std::string side = "side = { along = [0, 0, 1] }", frame = "vector = [1, 0, 0]";
      text.replace(text.find(side), side.size(), "side = { away-from = [0, 0, 7] }");
      text.replace(text.find(frame), frame.size(), "vector = [0, 0, 1]");
      const Design design = test::open_on(folder, text, tube, findings);
      const double inner = 20 + design.sections.bottom.all()[0];
      const auto model = solid_model(design, {Per::ply, 0}, findings);
      CHECK(test::off(model.solids->volume, pi * 15 * ((inner + 1) * (inner + 1) - inner * inner)) < 1e-4);
    }
  }
  SUBCASE("a fold of 90 degrees keeps its thickness on both sides") {
    Grid fold{.nx = 8, .ny = 2, .map = [](double u, double v) {
                return u < 0.5 ? Vec3(80 * u, 20 * v, 0) : Vec3(40, 20 * v, 80 * (u - 0.5));
              }};
    std::string text = test::case_part("[0/90]2", "", "", "bottom");
    const std::string side = "side = { along = [0, 0, 1] }";
    text.replace(text.find(side), side.size(), "side = { towards = [0, 10, 40] }");
    const std::string frame = "vector = [1, 0, 0]";
    text.replace(text.find(frame), frame.size(), "vector = [0, 1, 0]");
    const Design design = test::open_on(folder, text, fold, findings);
    const auto model = solid_model(design, {Per::ply, 0}, findings);
    // Two walls of 40 with their common corner counted once: inside, the corner's square is missing.
    CHECK(test::off(model.solids->volume, 20 * (2 * 40 * 1 - 1)) < 1e-9);
  }
  SUBCASE("a ply that ends closes with wedges") {
    const Design design = test::open_on(folder, dropped("bottom", ""), Grid::rectangle(10, 2, 100, 20), findings);
    const auto model = solid_model(design, {Per::ply, 0}, findings);
    const model::Solids& solids = *model.solids;
    CHECK(solids.count() == 20 * 2 + 10);
    CHECK(solids.wedges == 2);
    std::size_t wedges = 0;
    for (std::size_t s = 0; s < solids.count(); ++s) wedges += solids.nodes_of(s).size() == 15;
    CHECK(wedges == 2);
    // Half of the last row of the ply is gone.
    CHECK(test::off(solids.volume, 20 * (100 * 0.5 + 45 * 0.25)) < 1e-12);
    // Told back: every solid stands on an element that holds its ply.
    for (std::size_t s = 0; s < solids.count(); ++s) {
      const part::PlyId ply{solids.group[s]};
      CHECK(design.layup.lies_on(ply, solids.element[s]));
      CHECK(solids.groups[solids.group[s]] == design.part.plies[ply].id);
    }
  }
  SUBCASE("a corner that is too thick for its mesh is told") {
    Grid bend{.nx = 40, .ny = 2, .map = [](double u, double v) {
                const double t = pi / 2 * u;
                return Vec3(5 * std::sin(t), 20 * v, 5 * (1 - std::cos(t)));
              }};
    std::string text = test::case_part("[0]30", "", "", "bottom");
    const std::string side = "side = { along = [0, 0, 1] }", frame = "vector = [1, 0, 0]";
    text.replace(text.find(side), side.size(), "side = { towards = [0, 10, 5] }");
    text.replace(text.find(frame), frame.size(), "vector = [0, 1, 0]");
    const Design design = test::open_on(folder, text, bend, findings);
    const std::string told = test::failure([&] { solid_model(design, {Per::ply, 0}, findings); });
    INFO(told);
    CHECK(told.find("turned inside out") != std::string::npos);
    CHECK(told.find("columns on the inner side of a bend cross") != std::string::npos);
  }
}

TEST_CASE("grouped plies state what they change of the stiffness") {
  const test::Folder folder;
  Findings findings;
  const Design design =
      test::open_on(folder, test::case_part("[0/90/90/0/0/90/90/0]s", ""), Grid::rectangle(2, 2, 20, 20), findings);
  const auto error = [&](std::size_t most) { return solid_model(design, {Per::count, most}, findings).solids->error; };
  // All in one: the plane keeps its stiffness, bending takes that of a mixture: D = A h^2 / 12.
  const auto one = error(1);
  const auto k = test::stiffness_of(design);
  const double h = 4.0;
  CHECK(one.A < 1e-9);
  CHECK(test::off(one.D, (k.A * h * h / 12 - k.D).norm() / k.D.norm()) < 1e-6);
  // More groups never change the plane, and bending less than one does; two halves are all alike here, and others would
  // couple pulling with bending.
  CHECK(error(2).B + error(2).D < one.D * (1.0 + 1e-6));
  for (std::size_t most : {4, 8}) {
    CHECK(error(most).A < 1e-9);
    CHECK(error(most).B < 1e-9);
    CHECK(error(most).D < 0.5 * one.D);
  }
  CHECK(error(16).D < 1e-12);
}

TEST_CASE("groups keep what couples pulling and bending, and are refused where they lose it") {
  const test::Folder folder;
  Findings findings;
  const auto solids = [&](const std::string& code, model::SolidOptions options) {
    return *solid_model(test::open_on(folder, test::case_part(code, ""), Grid::rectangle(2, 2, 20, 20), findings),
                        options, findings)
                .solids;
  };
  // Three groups hold a cross-ply exactly: its faces and what lies between. A first cut in the middle would not.
  const model::Solids three = solids("[0/90/90/0]", {Per::count, 3});
  CHECK(three.error.D < 1e-9);
  CHECK(three.error.B < 1e-9);
  CHECK(three.error.stress < 1e-9);
  CHECK(solids("[0_2/90_6/0_2]", {Per::count, 3}).error.D < 1e-9);
  // Two unbalanced halves: the error in the stress of plies is larger than that in bending.
  const model::Solids two = solids("[0/90/90/0]", {Per::count, 2, true});
  CHECK(two.error.stress > two.error.D);
  CHECK(two.error.D > 0.02);
  // One solid of an unsymmetric stack loses all of its coupling.
  CHECK(test::failure([&] { solids("[0_4/90_4]", {Per::count, 1}); }).find("[solid.rough]") != std::string::npos);
  const model::Solids one = solids("[0_4/90_4]", {Per::count, 1, true});
  const Design design =
      test::open_on(folder, test::case_part("[0_4/90_4]", ""), Grid::rectangle(2, 2, 20, 20), findings);
  const laminate::Stiffness k = test::stiffness_of(design);
  CHECK(test::near(one.error.B, k.B.norm() / (0.5 * 2.0 * k.A.norm()), 1e-6));
}

TEST_CASE("a plate of solids deflects as the exact answer in three dimensions") {
  for (const double a : {10.0, 100.0}) {
    INFO("side / thickness " << a);
    const std::string text = test::sine_plate(a, "[0/90/90/0]");
    const test::Folder folder, shell_folder;
    const Cases solids =
        test::solve_cases(folder, text, Grid::rectangle(8, 8, a, a), {.solids = model::SolidOptions{Per::ply, 0}});
    const auto layers = section::laminate_of(solids.design.part, solids.design.sections, section::SectionId{0});
    const double exact = test::ExactPlate(layers, a, a, 0.001).middle()[2];
    const double found = solids.moved("press", {a / 2, a / 2, 0}).z();
    INFO("found " << found << " for " << exact);
    CHECK(test::off(found, exact) < 0.004);
    // Shells with their true transverse shear come near it, too: within a few per cent where they are thick.
    const Cases shells =
        test::solve_cases(shell_folder, text, Grid::rectangle(8, 8, a, a), {.layers = deck::LayersAs::equivalents});
    CHECK(test::off(shells.moved("press", {a / 2, a / 2, 0}).z(), exact) < (a < 50 ? 0.03 : 0.012));
  }
}

TEST_CASE(
    "a soft-cored sandwich: three groups are exact, shells with equivalent shear hold in frequency and buckling") {
  const std::string code = "[0/90/0F/90/0]";
  const double a = 200;
  const std::string text = test::sine_plate(a, code, 3);
  const test::Folder one, two, three;
  const Cases solids =
      test::solve_cases(one, text, Grid::rectangle(8, 8, a, a), {.solids = model::SolidOptions{Per::material, 0}});
  const auto layers = section::laminate_of(solids.design.part, solids.design.sections, section::SectionId{0});
  const double exact = test::ExactPlate(layers, a, a, 0.001).middle()[2];
  CHECK(solids.model.solids->groups.size() == 3);
  CHECK(test::off(solids.moved("press", {a / 2, a / 2, 0}).z(), exact) < 0.006);
  const Cases shells =
      test::solve_cases(two, text, Grid::rectangle(8, 8, a, a), {.layers = deck::LayersAs::equivalents});
  const Cases plies = test::solve_cases(three, text, Grid::rectangle(8, 8, a, a));
  for (const Cases* const other : {&shells, &plies}) {
    CHECK(test::off(other->moved("press", {a / 2, a / 2, 0}).z(), exact) < 0.012);
    CHECK(test::off(other->bending("bell")[0], solids.bending("bell")[0]) < 0.015);
  }
}

TEST_CASE("in buckling the equivalent shear of a soft-cored sandwich does not hold, and that is said") {
  // Pressed along x between knife edges: N = k / x^2 with k of a plate that gives in shear, W as in the frequencies of
  // J. N. Reddy, op. cit., section 7.3. In shells the layers share the core's small shear stiffness: where the stress in
  // the faces comes up to it they shear off in themselves, within the surface, before the plate buckles.
  // The plane is held along lines: about single nodes it would turn first.
  std::string text = test::case_part("[0/90/0F/90/0]", R"(
[support.left]
on = "left"
hold = ["y", "z"]
[support.right]
on = "right"
hold = ["y", "z"]
[support.front]
on = "front"
hold = ["z"]
[support.back]
on = "back"
hold = ["z"]
[support.middle]
point = [100, 100, 0]
hold = ["x"]
[load.left]
on = "left"
edge-force = [-1, 0, 0]
axes = "edge"
[load.right]
on = "right"
edge-force = [-1, 0, 0]
axes = "edge"
[case.press]
analysis = "buckling"
loads = ["left", "right"]
)");
  for (const auto layers : {deck::LayersAs::equivalents, deck::LayersAs::plies}) {
    const test::Folder folder;
    const Cases shells = test::solve_cases(folder, text, Grid::rectangle(16, 16, 200, 200), {.layers = layers});
    const auto k = test::stiffness_of(shells.design);
    double exact = 1e300, bending = 1e300;
    for (int m = 1; m < 4; ++m) {
      const double x = m * pi / 200, y = pi / 200;
      laminate::Matrix3 K;
      K << k.H(0, 0) * x * x + k.H(1, 1) * y * y, k.H(0, 0) * x, k.H(1, 1) * y, k.H(0, 0) * x,
          k.D(0, 0) * x * x + k.D(2, 2) * y * y + k.H(0, 0), (k.D(0, 1) + k.D(2, 2)) * x * y, k.H(1, 1) * y,
          (k.D(0, 1) + k.D(2, 2)) * x * y, k.D(2, 2) * x * x + k.D(1, 1) * y * y + k.H(1, 1);
      exact = std::min(exact, 1.0 / K.inverse()(0, 0) / (x * x));
      bending = std::min(bending, (k.D(0, 0) * std::pow(x, 4) + 2 * (k.D(0, 1) + 2 * k.D(2, 2)) * x * x * y * y +
                                   k.D(1, 1) * std::pow(y, 4)) /
                                      (x * x));
    }
    CHECK(exact < 0.6 * bending);
    const auto& lowest = shells.of("press").modes.front();
    INFO("found " << lowest.value << ", " << lowest.across << " across; exact " << exact << ", without shear "
                  << bending);
    CHECK(lowest.value < exact);
    CHECK(lowest.across < 0.05);
    const auto& said = shells.findings.all();
    CHECK(std::any_of(said.begin(), said.end(), [](const Finding& one) { return one.code == "solve.in-plane"; }));
  }
}

TEST_CASE("a clamped sandwich: layered solids and shells agree") {
  const std::string conditions = R"(
[support.left]
on = "left"
hold = "clamped"
[support.right]
on = "right"
hold = "clamped"
[support.front]
on = "front"
hold = "clamped"
[support.back]
on = "back"
hold = "clamped"
[load.press]
on = "plate"
face = "bag"
pressure = "10 kPa"
)";
  const std::string text = test::case_part("[0/90/0F/90/0]", conditions);
  const test::Folder one, two, three;
  const auto centre = [&](const test::Folder& folder, int n, const test::CaseOptions& options) {
    return test::solve_cases(folder, text, Grid::rectangle(n, n, 200, 200), options).moved("static", {100, 100, 0}).z();
  };
  const double shells = centre(one, 16, {.layers = deck::LayersAs::equivalents});
  const double coarse = centre(two, 8, {.solids = model::SolidOptions{Per::material, 0}});
  const double fine = centre(three, 16, {.solids = model::SolidOptions{Per::material, 0}});
  INFO("shells " << shells << ", solids " << coarse << " and " << fine);
  CHECK(test::off(coarse, fine) < 0.01);
  // At a clamp the faces of a soft-cored sandwich bend each by itself, which a shell does not know: it gives more.
  CHECK(std::abs(shells) > std::abs(fine));
  CHECK(test::off(shells, fine) < 0.05);
}

TEST_CASE("an unsymmetric strip of solids in tension curves as lamination theory says") {
  // All that moves both faces alike; N = (Nx, 0, 0), M = 0 at the middle.
  const std::string conditions = test::held_statically(100, 20) + R"(
[load.pull]
on = "right"
force = [200, 0, 0]
[load.hold]
on = "left"
force = [-200, 0, 0]
)";
  const test::Folder folder;
  const Cases solved = test::solve_cases(folder, test::case_part("[0/90]2", conditions),
                                         Grid::rectangle(20, 4, 100, 20), {.solids = model::SolidOptions{Per::ply, 0}});
  Eigen::Matrix<double, 6, 1> load = Eigen::Matrix<double, 6, 1>::Zero();
  load[0] = 10;
  const Eigen::Matrix<double, 6, 1> state = test::stiffness_of(solved.design).ABD().inverse() * load;
  // Away from the ends, where forces on nodes of the middle spread first.
  const double stretch = (solved.moved("static", {80, 10, 0}).x() - solved.moved("static", {20, 10, 0}).x()) / 60;
  const auto w = [&](double x) { return solved.moved("static", {x, 10, 0}).z(); };
  const double curvature = -(w(20) - 2 * w(50) + w(80)) / (30.0 * 30.0);
  CHECK(test::off(stretch, state[0]) < 0.01);
  CHECK(test::off(curvature, state[3]) < 0.02);
}

TEST_CASE("a step in a cantilever of solids bends as a stepped beam; weight and turning balance") {
  const std::string conditions = test::cantilever("[0, 0, 1]") + R"(
[load.weight]
gravity = [0, 0, -9810]
[load.spin]
rotation = { through = [0, 10, 0], along = [0, 0, 1], speed = 100 }
[case.tip]
loads = ["tip"]
[case.weight]
loads = ["weight"]
[case.spin]
loads = ["spin"]
)";
  const test::Folder folder;
  const Cases solved = test::solve_cases(folder, dropped("bottom", conditions), Grid::rectangle(50, 2, 100, 20),
                                         {.solids = model::SolidOptions{Per::ply, 0}});
  // Free to stretch at the mesh: 1 / EI is d11 of each part.
  const double thick = laminate::compliance(test::stiffness_of(solved.design, 0)).d(0, 0) / 20;
  const double thin = laminate::compliance(test::stiffness_of(solved.design, 1)).d(0, 0) / 20;
  const double w = thick * (std::pow(100, 3) - std::pow(50, 3)) / 3 + thin * std::pow(50, 3) / 3;
  const double found = solved.moved("tip", {100, 10, 0}).z();
  INFO("found " << found << " for " << w);
  CHECK(test::off(found, w) < 0.03);
  const double density = 1.55e-9;
  CHECK(test::off(solved.of("weight").reaction.z(), density * solved.model.solids->volume * 9810) < 1e-4);
  CHECK(solved.of("spin").reaction.x() < 0.0);
  CHECK(test::off(solved.of("tip").reaction.z(), -1.0) < 1e-6);
}

TEST_CASE("solids that cool curve as lamination theory says, and face to face temperatures are their own") {
  const std::string warm = R"(
[material.warm]
kind = "isotropic"
E = "70 GPa"
nu = 0.3
density = "2700 kg/m^3"
thickness = "1 mm"
alpha = 23e-6
stress-free-temperature = 20
)";
  std::string text = test::case_part("[0]2", R"(
[support.origin]
point = [0, 0, 0]
hold = ["x", "y", "z"]
[support.right-corner]
point = [100, 0, 0]
hold = ["y", "z"]
[support.back-corner]
point = [0, 100, 0]
hold = ["z"]
[load.sun]
temperature = { tool = 20, bag = 60 }
)",
                                     warm);
  const std::string ud = "material = \"ud\"";
  text.replace(text.find(ud), ud.size(), "material = \"warm\"");
  const test::Folder folder;
  const Cases solved =
      test::solve_cases(folder, text, Grid::rectangle(6, 6, 100, 100), {.solids = model::SolidOptions{Per::ply, 0}});
  // k = alpha dT / h = 23e-6 * 40 / 2, and the edges lift: w = -k x (x - L) / 2 about a chord.
  const double k = 23e-6 * 40 / 2;
  CHECK(test::off(std::abs(solved.moved("static", {50, 0, 0}).z()), k * 50 * 50 / 2) < 0.01);
  CHECK(test::off(solved.moved("static", {100, 0, 0}).x(), 23e-6 * 20 * 100) < 0.01);
  const auto again = [&](const std::string& changed) {
    const test::Folder other;
    return test::solve_cases(other, changed, Grid::rectangle(6, 6, 100, 100),
                             {.solids = model::SolidOptions{Per::ply, 0}});
  };
  // What a load says of materials that say it themselves is of no account.
  const Cases said = again(text + "stress-free = 100\n");
  CHECK((said.moved("static", {50, 0, 0}) - solved.moved("static", {50, 0, 0})).norm() < 1e-12);
  // Two temperatures are one too many.
  std::string two = text;
  const std::string end_of_plies = "code = \"[0]2\" } ]";
  std::string cold = warm;
  cold.replace(cold.find("warm"), 4, "cold").replace(cold.find("= 20"), 4, "= 80");
  two.replace(two.find(end_of_plies), end_of_plies.size(),
              "code = \"[0]2\" }, { id = \"Q\", material = \"cold\", frame = \"x\", angle = 0 } ]");
  two.replace(two.find("[layup]"), 7, cold + "[layup]");
  CHECK(test::failure([&] { again(two); }).find("[solid.stress-free]") != std::string::npos);
}

}  // namespace of_model_solids
