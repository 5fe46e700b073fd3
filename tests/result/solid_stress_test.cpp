// Stresses of plies from solids, read directly: against lamination theory where it is exact, and the exact answer in three
// dimensions where it is not.
#include "stresses.hpp"

#include <bordado/base/files.hpp>

#include <fstream>
#include <sstream>

namespace of_result_solid_stress {

using namespace bordado;
using laminate::Criterion;
using laminate::Vector3;
using test::Cases;
using test::Grid;
using Per = model::SolidOptions::Per;

namespace {

const double pi = std::numbers::pi;
constexpr Criterion criteria[] = {Criterion::tsai_wu, Criterion::interlaminar_shear};

test::CaseOptions solids(Per per, std::size_t most = 4) {
  return {.solids = model::SolidOptions{per, most, true}, .layers = deck::LayersAs::plies, .ply_results = true};
}

result::Recovery recovery_of(const Cases& solved) { return result::Recovery(solved.model, {criteria, criteria + 2}); }

std::vector<laminate::Layer> stack_of(const Cases& solved) {
  return section::laminate_of(solved.design.part, solved.design.sections, section::SectionId{0});
}
double bottom_of(const Cases& solved) { return solved.design.sections.bottom[section::SectionId{0}]; }

/// By how much ply stresses are off those of lamination theory, of the largest of these.
double off_theory(const std::vector<result::PlyState>& states, const std::vector<laminate::LayerState>& exact) {
  REQUIRE(states.size() == exact.size());
  double size = 0.0, off = 0.0;
  for (std::size_t i = 0; i < exact.size(); ++i) {
    size = std::max(size, exact[i].ply_stress.cwiseAbs().maxCoeff());
    off = std::max(off, (states[i].ply_stress - exact[i].ply_stress).cwiseAbs().maxCoeff());
  }
  return off / size;
}

std::vector<laminate::LayerState> theory(const Cases& solved, const Vector3& N, const Vector3& M) {
  const auto stack = stack_of(solved);
  laminate::Load load;
  load.N = N, load.M = M;
  return laminate::layer_states(stack, bottom_of(solved), laminate::deformation(stack, bottom_of(solved), load), load);
}

}  // namespace

TEST_CASE("solids in a free plate under N and M: every ply's stress, one for each ply or one for several") {
  const Vector3 N(40, -15, 10), M(6, 2, -3);
  for (const bool triangles : {false, true}) {
    const test::Folder folder;
    Grid grid = Grid::rectangle(16, 16, 100, 100);
    grid.triangles = triangles;
    const Cases solved =
        test::solve_cases(folder, test::case_part("[0/45/-45/90]", test::held_at_corners + test::edge_loads(N, M)),
                          grid, solids(Per::ply));
    const mesh::ElementIndex e = test::nearest(solved.design, {52, 52, 0});
    const auto recovery = recovery_of(solved);
    const auto states = recovery.at(solved.all[0].fields, 0, e);
    CAPTURE(triangles);
    CHECK(off_theory(states, theory(solved, N, M)) < 5e-3);
    const laminate::Resultants carried = recovery.carried(solved.all[0].fields, 0)[e];
    CHECK((carried.N - N).norm() < 5e-3 * N.norm());
    CHECK((carried.M - M).norm() < 0.015 * M.norm());
    for (const auto& s : states) CHECK(std::abs(s.ply_through) < 0.02 * states.front().ply_stress.norm());
  }
  // One solid through all plies: its strain in the plane is that of a symmetric stack, and so is the stress of every ply.
  const test::Folder folder;
  const Cases solved = test::solve_cases(
      folder, test::case_part("[0/45/-45/90]s", test::held_at_corners + test::edge_loads(N, Vector3::Zero())),
      Grid::rectangle(16, 16, 100, 100), solids(Per::count, 1));
  REQUIRE(solved.model.solids->count() == 256);
  const auto states = recovery_of(solved).at(solved.all[0].fields, 0, test::nearest(solved.design, {52, 52, 0}));
  CHECK(off_theory(states, theory(solved, N, Vector3::Zero())) < 5e-3);
}

TEST_CASE("solids against the exact strip, where lamination theory is off") {
  const double h = 0.75, a = 4.0 * h, p = 0.01;
  const test::Folder folder;
  const Cases solved = test::solve_cases(
      folder, test::case_part("[0_2/90_2/0_2]", test::plane_strain(a) + test::sine_pressure(2 * a, p)),
      Grid::rectangle(48, 2, 2 * a, 0.1 * a), solids(Per::ply));
  const auto stack = stack_of(solved);
  REQUIRE(test::off(laminate::thickness(stack), 2 * h) < 1e-9);
  const auto recovery = recovery_of(solved);
  const model::CaseFields& fields = solved.all[0].fields;
  // Shear near the quarter, stress along near the middle.
  for (const double where : {0.25, 0.5}) {
    const mesh::ElementIndex e = test::nearest(solved.design, {2 * a * where + 0.01, 0.02 * a, 0});
    const double at = pi * solved.design.geometry.centres[e].x() / (2 * a);
    const auto states = recovery.at(fields, 0, e);
    const auto exact = test::exact_strip(stack, 2 * a, p, states);
    double sx = 0.0, txz = 0.0, off_sx = 0.0, off_txz = 0.0, off_theory_sx = 0.0;
    // Lamination theory's stress along: M over the stiffness, plane strain.
    const laminate::Stiffness k = laminate::stiffness(stack, bottom_of(solved));
    const double M = p * 4 * a * a / (pi * pi);
    for (std::size_t i = 0; i < states.size(); ++i)
      sx = std::max(sx, std::abs(exact[i].sx)), txz = std::max(txz, std::abs(exact[i].txz));
    for (std::size_t i = 0; i < states.size(); ++i) {
      const result::PlyState& s = states[i];
      const double c = stack[s.layer].angle.cos(), n = stack[s.layer].angle.sin();
      off_sx = std::max(off_sx, std::abs(s.stress[0] - exact[i].sx * std::sin(at)) / sx);
      if (s.place == 1)
        off_txz =
            std::max(off_txz, std::abs(c * s.ply_shear[0] - n * s.ply_shear[1] - exact[i].txz * std::cos(at)) / txz);
      const double theory =
          laminate::rotated(laminate::plane_stress_stiffness(stack[s.layer].elastic), stack[s.layer].angle)(0, 0) *
          s.z * M / k.D(0, 0);
      off_theory_sx = std::max(off_theory_sx, std::abs(theory - exact[i].sx) / sx);
    }
    INFO("at " << where << ": along off by " << off_sx << ", shear by " << off_txz << "; theory " << off_theory_sx);
    if (where == 0.5) {
      CHECK(off_sx < 0.03);
      CHECK(off_theory_sx > 0.15);  // what sections would say
    } else {
      CHECK(off_txz < 0.04);
    }
  }
  // Fails by shear through the thickness where the strip ends, as it should at this depth.
  const std::size_t cases[] = {0};
  const auto reserves = recovery.reserves(std::span(&fields, 1), cases);
  CHECK(reserves.of_elements.size() == solved.design.surface.element_count());
}

TEST_CASE("a cooled cross-ply of solids, and the same pulled: what temperature leaves is held") {
  for (const double pull : {0.0, 20.0})
    for (const Per per : {Per::ply, Per::material}) {
      const test::Folder folder;
      std::string text = test::case_part(
          "[0/90]s",
          test::held_at_corners + "[load.cold]\ntemperature = 20\n" +
              (pull > 0.0 ? fmt::format("[load.r]\non = \"right\"\nedge-force = [{0}, 0, 0]\n[load.l]\non = "
                                        "\"left\"\nedge-force = [-{0}, 0, 0]\n",
                                        pull)
                          : ""),
          test::expanding(120));
      text.replace(text.find("material = \"ud\", frame"), 15, "material = \"hot\"");
      const Cases solved = test::solve_cases(folder, text, Grid::rectangle(14, 14, 100, 100), solids(per));
      const mesh::ElementIndex e = test::nearest(solved.design, {53, 53, 0});
      const auto stack = stack_of(solved);
      laminate::Load cold;
      cold.temperature = -160.0;
      const auto exact_held =
          laminate::layer_states(stack, bottom_of(solved), laminate::deformation(stack, bottom_of(solved), cold), cold);
      laminate::Load both = cold;
      both.N = {pull, 0, 0};
      const auto exact =
          laminate::layer_states(stack, bottom_of(solved), laminate::deformation(stack, bottom_of(solved), both), both);
      const model::CaseFields& fields = solved.all[0].fields;
      const auto recovery = recovery_of(solved);
      const auto states = recovery.at(fields, 0, e);
      CAPTURE(pull);
      CAPTURE(static_cast<int>(per));
      CHECK(off_theory(states, exact) < 0.01);
      REQUIRE(fields.held_solids.empty() == (pull == 0.0));
      if (pull == 0.0) continue;
      double size = 0.0, off = 0.0;
      for (std::size_t i = 0; i < states.size(); ++i) {
        size = std::max(size, exact_held[i].ply_stress.cwiseAbs().maxCoeff());
        off = std::max(off, (states[i].ply_held - exact_held[i].ply_stress).cwiseAbs().maxCoeff());
      }
      CHECK(off < 0.01 * size);
      const std::vector<const material::Material*> materials(
          stack.size(), &*std::find_if(solved.design.part.materials.begin(), solved.design.part.materials.end(),
                                       [](const auto& m) { return m.name == "hot"; }));
      const double R =
          laminate::first_failures({stack, materials, bottom_of(solved)}, both, {criteria, 1}).front().factor;
      // One solid a ply has half a per cent of the large held stress in its slope, and the pull is small beside that.
      CHECK(test::off(recovery.failing(fields, 0, e).front().factor, R) < (per == Per::ply ? 0.1 : 2e-3));
    }
}

TEST_CASE("plies that end in wedges are read where they lie, and solids tell deflection, rotation and reactions") {
  // Two outer plies of six end at x = 52; bent as a beam that is held at both ends.
  const std::string text = fmt::format(R"(
[part]
name = "Step"
units = "mm, t, s"
mesh = {{ file = "grid.msh", length = "mm" }}
side = {{ along = [0, 0, 1] }}
surface = "bottom"
{}
[zone.thick]
box = {{ from = [-1, -1, -1], to = [52, 99, 1] }}
[layup]
material = "known"
frame = "x"
plies = [
  {{ id = "A", code = "[0/90]s" }},
  {{ id = "B", code = "[0_2]", zone = "thick" }},
]
[support.left]
on = "left"
hold = ["z"]
[support.right]
on = "right"
hold = ["z"]
[support.front]
on = "front"
hold = ["y"]
[support.middle]
point = [0, 0, 0]
hold = ["x"]
[load.p]
on = "plate"
face = "tool"
pressure = 0.002
)",
                                       test::materials() + test::known_material);
  const test::Folder one, two;
  const Grid grid = Grid::rectangle(50, 3, 100, 6);
  const Cases shells =
      test::solve_cases(one, text, grid, {.solids = {}, .layers = deck::LayersAs::equivalents, .ply_results = true});
  const Cases thick = test::solve_cases(two, text, grid, solids(Per::ply));
  REQUIRE(thick.model.solids->wedges > 0);
  const model::CaseFields &a = shells.all[0].fields, &b = thick.all[0].fields;
  const auto of_shells = recovery_of(shells), of_solids = recovery_of(thick);
  double largest = 0.0;
  for (const Vec3& moved : a.displacements) largest = std::max(largest, moved.norm());
  for (std::size_t n = 0; n < shells.design.surface.points.size(); ++n)
    CHECK((a.displacements[n] - b.displacements[n]).norm() < 0.04 * largest);
  // Away from the step and the ends both say the same; beside it only solids know.
  for (const double x : {20.0, 40.0, 64.0, 80.0}) {
    const auto s = of_shells.at(a, 0, test::nearest(shells.design, {x + 0.1, 3, 0}));
    const auto t = of_solids.at(b, 0, test::nearest(thick.design, {x + 0.1, 3, 0}));
    REQUIRE(s.size() == t.size());
    double size = 0.0, off = 0.0;
    for (std::size_t i = 0; i < s.size(); ++i) {
      size = std::max(size, s[i].ply_stress.cwiseAbs().maxCoeff());
      off = std::max(off, (s[i].ply_stress - t[i].ply_stress).cwiseAbs().maxCoeff());
    }
    CAPTURE(x);
    CHECK(off < 0.04 * size);
  }
  // Supports bear the pressure, half at each end, in both.
  for (const model::CaseFields* fields : {&a, &b}) {
    REQUIRE(fields->reactions.size() >= shells.design.surface.points.size());
    double left = 0.0, right = 0.0;
    for (std::size_t n = 0; n < fields->reactions.size(); ++n)
      (thick.model.surface.points[n].x() < 50 ? left : right) += fields->reactions[n].z();
    CHECK(test::off(left, -0.5 * 0.002 * 600) < 0.01);
    CHECK(test::off(right, -0.5 * 0.002 * 600) < 0.01);
  }
  // The slope at the left end, from deflections beside it and from the rotation there.
  const auto turned = model::rotations(shells.model.surface, a.displacements);
  for (std::size_t n = 0; n < shells.design.surface.points.size(); ++n) {
    const Vec3& here = shells.design.surface.points[n];
    if (std::abs(here.x() - 30) > 1e-9 || std::abs(here.y() - 2) > 1e-9) continue;
    double before = 0.0, behind = 0.0;
    for (std::size_t m = 0; m < shells.design.surface.points.size(); ++m) {
      const Vec3& there = shells.design.surface.points[m];
      if (std::abs(there.y() - 2) > 1e-9) continue;
      if (std::abs(there.x() - 28) < 1e-9) before = a.displacements[m].z();
      if (std::abs(there.x() - 32) < 1e-9) behind = a.displacements[m].z();
    }
    CHECK(test::off(turned[n].y(), -(behind - before) / 4.0) < 0.01);
  }
}

TEST_CASE("solids on the edge that a couple turns, with 27 points each, bear it as the others do") {
  // Large displacements, but half a degree of them: M / b in every element, the last ones fully integrated. One solid
  // through all plies: what it bears is read from how its strains run through the thickness.
  const double L = 100, b = 20, couple = 4.0;
  const test::Folder folder;
  const Cases solved = test::solve_cases(
      folder,
      test::case_part("[0/90/90/0]", fmt::format("[support.left]\non = \"left\"\nhold = [\"x\", \"z\", \"ry\"]\n"
                                                 "[support.middle]\npoint = [0, 10, 0]\nhold = [\"y\", \"rz\"]\n"
                                                 "[load.couple]\non = \"right\"\nmoment = [0, {}, 0]\n[case.far]\n"
                                                 "analysis = \"large-displacements\"\nloads = [\"couple\"]\n",
                                                 -couple)),
      Grid::rectangle(20, 4, L, b), solids(Per::count, 1));
  const auto carried = recovery_of(solved).carried(solved.all[0].fields, 0);
  const double inside = carried[test::nearest(solved.design, {52, 12, 0})].M[0],
               edge = carried[test::nearest(solved.design, {98, 12, 0})].M[0];
  INFO("inside " << inside << ", at the edge " << edge);
  CHECK(test::near(edge, inside, 1e-4));
}

TEST_CASE("rotations are those of a body that is turned, but for what turns about the normal") {
  Grid bowl = Grid::rectangle(6, 5, 60, 50);
  bowl.map = [](double u, double v) { return Vec3(60 * u, 50 * v, 20 * u * u + 12 * u * v); };
  const test::Folder folder;
  Findings findings;
  const Design design = test::open_on(folder, test::case_part("[0/90]", ""), bowl, findings);
  const Vec3 turn(1e-4, -2e-4, 3e-4);
  std::vector<Vec3> moved;
  for (const Vec3& p : design.surface.points) moved.push_back(turn.cross(p) + Vec3(0.1, 0, 2));
  const auto told = model::rotations(design.surface, moved);
  const auto normals = mesh::nodal_normals(design.surface, design.geometry);
  for (std::size_t use = 0; use < design.surface.nodes.size(); ++use) {
    const Vec3& n = normals[use];
    const Vec3 got = told[design.surface.nodes[use]];
    CHECK((got - got.dot(n) * n - (turn - turn.dot(n) * n)).norm() < 2e-3 * turn.norm());
  }
}

TEST_CASE("strains of solids that do not hold the solver's energy are refused, of all and of one") {
  const test::Folder folder;
  const Cases solved = test::solve_cases(folder, test::case_part("[0/90/45]", test::cantilever("[0, 0, 1]")),
                                         Grid::rectangle(10, 2, 100, 20), solids(Per::ply));
  const calculix::Solved& one = solved.all[0];
  deck::WriteOptions options;
  options.cases = {0};
  const std::string text = read_file(one.run.dat);
  const auto read = [&] {
    calculix::read_case(solved.model, 0, one.run.dat, one.deck.marks, options);
    return std::string();
  };
  CHECK(test::failure([&] { read(); }).empty());
  const auto spoiled = [&](double factor, bool all) {
    std::ofstream(one.run.dat) << test::with_strains(text, factor, all);
    return test::failure([&] { read(); });
  };
  for (const bool all : {true, false})
    for (const double factor : {0.0, 0.5, 2.0}) {
      INFO(all << " " << factor);
      CHECK(spoiled(factor, all).find("[result.energy]") != std::string::npos);
    }
  CHECK(spoiled(1.0, true).empty());
}

}  // namespace of_result_solid_stress
