// From the solver's strains to stress in every ply: against closed forms, the exact answer in three dimensions and the
// solver's own stresses.
#include "stresses.hpp"

#include <bordado/base/files.hpp>

#include <fstream>
#include <map>
#include <random>

namespace of_result_recovery {

using namespace bordado;
using laminate::Criterion;
using laminate::Vector3;
using test::Cases;
using test::Grid;

namespace {

const double pi = std::numbers::pi;

test::CaseOptions with(deck::LayersAs layers) { return {.solids = {}, .layers = layers, .ply_results = true}; }

constexpr Criterion tsai_wu[] = {Criterion::tsai_wu};

result::Recovery recovery_of(const Cases& solved, std::span<const Criterion> criteria = tsai_wu) {
  return result::Recovery(solved.model, {criteria.begin(), criteria.end()});
}

/// The solver's own stresses on an element, in global axes: the mean of the points of each level, two levels a layer. The
/// deck part.inp is run again, asked for stresses.
std::vector<Eigen::Matrix3d> own_stresses(const test::Folder& folder, const Cases& solved, mesh::ElementIndex e) {
  std::string deck = read_file(folder / "part.inp");
  const auto at = deck.find("GLOBAL=YES\nE\n");
  REQUIRE(at != std::string::npos);
  deck.replace(at, 13, "GLOBAL=YES\nS\n");
  const auto run = calculix::run(folder.write("own.inp", deck));
  const std::int64_t id = solved.model.surface.element_ids[e];
  std::vector<Eigen::Matrix3d> levels;
  std::ifstream in(run.dat);
  std::string line;
  bool stresses = false;
  while (std::getline(in, line)) {
    if (line.find(" for set ") != std::string::npos) stresses = line.find("stresses (elem") != std::string::npos;
    std::istringstream numbers(line);
    std::int64_t element = 0;
    std::size_t point = 0;
    double s[6];
    if (!stresses || !(numbers >> element >> point >> s[0] >> s[1] >> s[2] >> s[3] >> s[4] >> s[5]) || element != id)
      continue;
    Eigen::Matrix3d S;
    S << s[0], s[3], s[4], s[3], s[1], s[5], s[4], s[5], s[2];
    levels.resize(std::max(levels.size(), (point + 3) / 4), Eigen::Matrix3d::Zero());
    levels.at((point - 1) / 4) += 0.25 * S;
  }
  return levels;
}

}  // namespace

TEST_CASE("a free plate under N and M: every ply's stress to a thousandth") {
  const Vector3 N(40, -15, 10), M(6, 2, -3);
  for (const auto layers : {deck::LayersAs::plies, deck::LayersAs::equivalents})
    for (const bool triangles : {false, true}) {
      const test::Folder folder;
      Grid grid = Grid::rectangle(12, 12, 100, 100);
      grid.triangles = triangles;
      const Cases solved = test::solve_cases(
          folder, test::case_part("[0/45/-45/90]", test::held_at_corners + test::edge_loads(N, M)), grid, with(layers));
      const mesh::ElementIndex e = test::nearest(solved.design, {52, 52, 0});
      const auto stack = section::laminate_of(solved.design.part, solved.design.sections, section::SectionId{0});
      laminate::Load load;
      load.N = N, load.M = M;
      const double z0 = solved.design.sections.bottom[section::SectionId{0}];
      const auto exact = laminate::layer_states(stack, z0, laminate::deformation(stack, z0, load), load);
      const model::CaseFields& fields = solved.all[0].fields;
      const auto states = recovery_of(solved).at(fields, 0, e);
      REQUIRE(states.size() == exact.size());
      double size = 0.0, worst = 0.0;
      for (const auto& s : exact) size = std::max(size, s.ply_stress.cwiseAbs().maxCoeff());
      for (std::size_t i = 0; i < exact.size(); ++i)
        worst = std::max({worst, (states[i].ply_stress - exact[i].ply_stress).cwiseAbs().maxCoeff() / size,
                          (states[i].stress - exact[i].stress).cwiseAbs().maxCoeff() / size});
      CAPTURE(triangles);
      CAPTURE(static_cast<int>(layers));
      CHECK(worst < 1e-3);
      const laminate::Resultants carried = recovery_of(solved).carried(fields, 0)[e];
      CHECK((carried.N - N).norm() < 1e-3 * N.norm());
      CHECK((carried.M - M).norm() < 2e-3 * M.norm());
    }
}

TEST_CASE("a cooled cross-ply: what is free to shrink has no force and the closed form's stress") {
  const auto solve = [&](double pull, const test::Folder& folder) {
    std::string text = test::case_part("[0/90]",
                                       test::held_at_corners + "[load.cold]\ntemperature = 20\n" +
                                           (pull != 0.0 ? test::edge_loads({pull, 0, 0}, {0, 0, 0}) : ""),
                                       test::expanding(45));
    text.replace(text.find("material = \"ud\", frame"), 15, "material = \"hot\"");
    return test::solve_cases(folder, text, Grid::rectangle(10, 10, 100, 100), with(deck::LayersAs::equivalents));
  };
  const test::Folder one, two, three;
  const Cases cold = solve(0.0, one);
  const mesh::ElementIndex e = test::nearest(cold.design, {55, 55, 0});
  const auto stack = section::laminate_of(cold.design.part, cold.design.sections, section::SectionId{0});
  const double z0 = cold.design.sections.bottom[section::SectionId{0}];
  laminate::Load load;
  load.temperature = -160.0;
  const auto exact = laminate::layer_states(stack, z0, laminate::deformation(stack, z0, load), load);
  const auto states = recovery_of(cold).at(cold.all[0].fields, 0, e);
  double size = 0.0;
  for (const auto& s : exact) size = std::max(size, s.ply_stress.cwiseAbs().maxCoeff());
  for (std::size_t i = 0; i < exact.size(); ++i)
    CHECK((states[i].ply_stress - exact[i].ply_stress).cwiseAbs().maxCoeff() < 2e-3 * size);
  CHECK(recovery_of(cold).carried(cold.all[0].fields, 0)[e].N.norm() < 2e-3 * size);

  // Pulled besides: the cold part is held, whatever the pull is.
  const Cases pulled = solve(20.0, two), twice = solve(40.0, three);
  REQUIRE(!pulled.all[0].fields.held.empty());
  const auto cold_states = recovery_of(pulled).at(pulled.all[0].fields, 0, e);
  for (std::size_t i = 0; i < exact.size(); ++i)
    CHECK((cold_states[i].ply_held - exact[i].ply_stress).cwiseAbs().maxCoeff() < 2e-3 * size);
  const double R = recovery_of(pulled).failing(pulled.all[0].fields, 0, e).front().factor;
  CHECK(test::off(recovery_of(twice).failing(twice.all[0].fields, 0, e).front().factor, 0.5 * R) < 1e-3);
  // The closed form of the same.
  load.N = {20, 0, 0};
  const auto& materials = pulled.design.part.materials;
  const auto hot = std::find_if(materials.begin(), materials.end(), [](const auto& m) { return m.name == "hot"; });
  REQUIRE(hot != materials.end());
  const std::size_t plies = stack.size();
  CHECK(test::off(R, laminate::first_failures({stack, std::vector(plies, &*hot), z0}, load, tsai_wu).front().factor) <
        2e-3);
}

TEST_CASE("interlaminar shear by equilibrium against the exact strip, and the solver's own") {
  // Half the strip's span lies between two points where it is simply supported; plane strain along y.
  for (const auto& [slenderness, within] : {std::pair{4.0, 0.1}, {10.0, 0.02}, {50.0, 0.002}}) {
    const test::Folder folder;
    const double h = 0.75, a = slenderness * h, p = 0.01;
    const std::string part = test::case_part("[0/90/0]", test::plane_strain(0.5 * a) + test::sine_pressure(a, p));
    const Cases solved =
        test::solve_cases(folder, part, Grid::rectangle(40, 2, a, 0.1 * a), with(deck::LayersAs::equivalents));
    const auto stack = section::laminate_of(solved.design.part, solved.design.sections, section::SectionId{0});
    const mesh::ElementIndex e = test::nearest(solved.design, {0.26 * a, 0.02 * a, 0});
    const double cosine = std::cos(pi * solved.design.geometry.centres[e].x() / a);
    const auto states = recovery_of(solved).at(solved.all[0].fields, 0, e);
    const auto exact = test::exact_strip(stack, a, p, states);
    double largest = 0.0, off = 0.0, off_own = 0.0;
    for (const auto& one : exact) largest = std::max(largest, std::abs(one.txz));
    for (std::size_t i = 0; i < states.size(); ++i)
      off = std::max(off, std::abs(test::shear_xz(states[i], stack[states[i].layer].angle) - cosine * exact[i].txz) /
                              (std::abs(cosine) * largest));
    // The solver's own stress with real plies, at the points that it has: constant in each layer.
    const test::Folder beside;
    const Cases real = test::solve_cases(beside, part, Grid::rectangle(40, 2, a, 0.1 * a), with(deck::LayersAs::plies));
    const auto levels = own_stresses(beside, real, e);
    REQUIRE(levels.size() == 2 * stack.size());
    std::vector<double> at_faces;
    for (std::size_t i = 0; i < stack.size(); ++i)
      for (const std::size_t face : {0u, 2u}) at_faces.push_back(exact[3 * i + face].txz);
    for (std::size_t k = 0; k < levels.size(); ++k)
      off_own = std::max(off_own, std::abs(levels[k](0, 2) - cosine * at_faces[k]) / (std::abs(cosine) * largest));
    // The free faces have none, where the solver's own, constant in each layer, has its most.
    CHECK(std::abs(states.front().ply_shear[0]) < 1e-9 * largest);
    CHECK(std::abs(states.back().ply_shear[0]) < 1e-9 * largest);
    INFO("span over depth " << slenderness << ": off by " << off << " of the largest, " << largest
                            << "; the solver's own by " << off_own);
    CHECK(off < within);
    CHECK(off_own > 0.5);
  }
}

TEST_CASE("shear between the plies of a plate, both ways, against the exact plate") {
  // Where the smaller of the two shears is looked at, by Qx and Qy alone it is up to 23 % off: twisting moments change, too.
  for (const std::string code : {"[0/90/0]", "[0/90]2", "[0_2/90]s"})
    for (const double slenderness : {10.0, 20.0}) {
      const test::Folder folder;
      const double h = 0.25 * (code == "[0/90/0]" ? 3 : code == "[0/90]2" ? 4 : 6), a = slenderness * h;
      const Cases solved = test::solve_cases(folder, test::sine_plate(a, code), Grid::rectangle(16, 16, a, a),
                                             with(deck::LayersAs::equivalents));
      const auto stack = section::laminate_of(solved.design.part, solved.design.sections, section::SectionId{0});
      const test::ExactPlate exact(stack, a, a, 0.001);
      const auto recovery = recovery_of(solved);
      for (const Vec3& place : {Vec3(0.01, 0.47, 0), Vec3(0.47, 0.99, 0), Vec3(0.2, 0.3, 0)}) {
        const mesh::ElementIndex e = test::nearest(solved.design, a * place);
        const Vec3 at = solved.design.geometry.centres[e] * pi / a;
        const double cs = std::cos(at.x()) * std::sin(at.y()), sc = std::sin(at.x()) * std::cos(at.y());
        double largest = 0.0, off = 0.0, off_by_rule = 0.0;
        const auto states = recovery.at(solved.all[0].fields, 0, e);
        laminate::Load by_rule;
        by_rule.Q = solved.all[0].fields.sections[e].Q;
        const auto ruled = laminate::layer_states(stack, -0.5 * h, {}, by_rule);
        for (std::size_t i = 0; i < states.size(); ++i) {
          const auto state = exact.at(states[i].layer, 0.5 * states[i].place);
          const laminate::Vector2 wanted(cs * state[3], sc * state[4]);
          const Angle angle = stack[states[i].layer].angle;
          const auto seen = [&](const laminate::Vector2& v) {
            return laminate::Vector2(angle.cos() * v[0] - angle.sin() * v[1], angle.sin() * v[0] + angle.cos() * v[1]);
          };
          largest = std::max(largest, wanted.cwiseAbs().maxCoeff());
          off = std::max(off, (seen(states[i].ply_shear) - wanted).cwiseAbs().maxCoeff());
          off_by_rule = std::max(off_by_rule, (seen(ruled[i].ply_shear) - wanted).cwiseAbs().maxCoeff());
        }
        INFO(code << " " << slenderness << " at " << place.transpose() << ": off by " << off / largest
                  << ", by Q alone " << off_by_rule / largest);
        CHECK(off < (slenderness > 15.0 ? 0.01 : 0.03) * largest);
        CHECK(off < 0.85 * off_by_rule);
      }
    }
}

TEST_CASE("a simply supported sandwich: its core shears by Q over d, its faces bear M over d") {
  const std::string soft = R"(
[material.soft]
kind = "honeycomb"
mark = "K"
E3 = 100
G13 = 40
G23 = 25
S13 = 1.2
S23 = 0.7
thickness = 18
)";
  const test::Folder folder;
  const double a = 400, p = 0.01;
  std::string text = test::case_part("[0_2/0K/0_2]", test::plane_strain(200) + test::sine_pressure(a, p), soft);
  const Cases solved =
      test::solve_cases(folder, text, Grid::rectangle(40, 2, a, 20), with(deck::LayersAs::equivalents));
  const auto stack = section::laminate_of(solved.design.part, solved.design.sections, section::SectionId{0});
  const double tp = stack[0].thickness, d = 18 + 2 * tp;
  const Criterion criteria[] = {Criterion::core_shear};
  const auto recovery = recovery_of(solved, criteria);
  const mesh::ElementIndex quarter = test::nearest(solved.design, {95, 5, 0}),
                           middle = test::nearest(solved.design, {205, 5, 0});
  const double Q = p * a / pi * std::cos(pi * solved.design.geometry.centres[quarter].x() / a);
  const auto failing = recovery.failing(solved.all[0].fields, 0, quarter);
  REQUIRE(!failing.empty());
  CHECK(test::off(failing.front().factor, 1.2 * d / Q) < 0.01);
  const double M = p * a * a / (pi * pi) * std::sin(pi * solved.design.geometry.centres[middle].x() / a);
  const auto states = recovery.at(solved.all[0].fields, 0, middle);
  // The mean of a face, of 2 plies.
  const double face =
      0.25 * (states[0].ply_stress[0] + states[2].ply_stress[0] + states[3].ply_stress[0] + states[5].ply_stress[0]);
  CHECK(test::off(std::abs(face), M / (d * 2 * tp)) < 0.01);
}

TEST_CASE("a pressurised tube of +-55: nothing but the plies' own stress in every ply") {
  const test::Folder folder;
  const double R = 40, L = 160, p = 2.0;
  std::string text = test::case_part("[55/-55]s", fmt::format(R"(
[support.end]
on = "front"
hold = ["z"]
[support.right]
point = [40, 0, 0]
hold = ["y"]
[support.left]
point = [-40, 0, 0]
hold = ["y"]
[support.top]
point = [0, 40, 0]
hold = ["x"]
[load.inside]
on = "plate"
face = "tool"
pressure = {}
[load.end]
on = "back"
edge-force = [0, 0, {}]
)",
                                                              p, 0.5 * p * R));
  text.replace(text.find("along = [0, 0, 1]"), 17, "away-from = [0, 0, 80]");
  text.replace(text.find("vector = [1, 0, 0]"), 18, "vector = [0, 0, 1]");
  const Grid tube{
      .nx = 72,
      .ny = 24,
      .map = [=](double u, double v) { return Vec3(R * std::cos(2 * pi * u), R * std::sin(2 * pi * u), L * v); },
      .quadratic = true,
      .closed_u = true};
  const Cases solved = test::solve_cases(folder, text, tube, with(deck::LayersAs::equivalents));
  const mesh::ElementIndex e = test::nearest(solved.design, {R * std::cos(1.0), R * std::sin(1.0), 0.5 * L});
  const auto stack = section::laminate_of(solved.design.part, solved.design.sections, section::SectionId{0});
  const double z0 = solved.design.sections.bottom[section::SectionId{0}], h = laminate::thickness(stack);
  laminate::Load load;
  load.N = {0.5 * p * R, p * (R - 0.5 * h), 0.0};  // the pressure acts on the inner face
  const auto exact = laminate::layer_states(stack, z0, laminate::deformation(stack, z0, load), load);
  const auto states = recovery_of(solved).at(solved.all[0].fields, 0, e);
  REQUIRE(states.size() == exact.size());
  double size = 0.0;
  for (const auto& s : exact) size = std::max(size, s.ply_stress.cwiseAbs().maxCoeff());
  for (std::size_t i = 0; i < exact.size(); ++i) {
    CAPTURE(i);
    // Hoop strain is larger inside, by h / 2 R of it, which a section's straight line has and the closed form has not.
    CHECK((states[i].ply_stress - exact[i].ply_stress).cwiseAbs().maxCoeff() < 0.8 * h / (2.0 * R) * size);
  }
}

TEST_CASE("recovered stresses are the solver's own where these are right") {
  const test::Folder folder;
  const std::string part = test::case_part(
      "[30/-60/0/90]", test::knife_edges(100) + "[load.p]\non = \"plate\"\nface = \"tool\"\npressure = 0.01\n");
  Cases solved = test::solve_cases(folder, part, Grid::rectangle(10, 10, 100, 100), with(deck::LayersAs::plies));
  const mesh::ElementIndex e = test::nearest(solved.design, {45, 45, 0});
  const std::vector<Eigen::Matrix3d> levels = own_stresses(folder, solved, e);
  const auto states = recovery_of(solved).at(solved.all[0].fields, 0, e);
  double size = 0.0;
  for (const auto& s : states) size = std::max(size, s.stress.cwiseAbs().maxCoeff());
  for (std::size_t layer = 0; layer < 4; ++layer)
    for (std::size_t side = 0; side < 2; ++side) {
      const Eigen::Matrix3d& S = levels[2 * layer + side];
      const double share = 0.5 * (1.0 + (side == 0 ? -1.0 : 1.0) / std::sqrt(3.0));
      const Vector3 own = (1.0 - share) * states[3 * layer].stress + share * states[3 * layer + 2].stress;
      CHECK((own - Vector3(S(0, 0), S(1, 1), S(0, 1))).cwiseAbs().maxCoeff() < 2e-3 * size);
    }
}

TEST_CASE("three layers for all lose nothing: the same stress in every ply as with real plies") {
  const std::string part = test::case_part(
      "[0/45/90/-45/0_2]", test::knife_edges(100) + "[load.p]\non = \"plate\"\nface = \"tool\"\npressure = 0.01\n");
  const test::Folder one, two;
  const Grid grid = Grid::rectangle(12, 12, 100, 100);
  const Cases plies = test::solve_cases(one, part, grid, with(deck::LayersAs::plies));
  const Cases three = test::solve_cases(two, part, grid, with(deck::LayersAs::equivalents));
  double size = 0.0, worst = 0.0;
  for (const Vec3& place : {Vec3(45, 45, 0), Vec3(20, 70, 0), Vec3(80, 30, 0)}) {
    const mesh::ElementIndex e = test::nearest(plies.design, place);
    const auto a = recovery_of(plies).at(plies.all[0].fields, 0, e),
               b = recovery_of(three).at(three.all[0].fields, 0, e);
    for (std::size_t i = 0; i < a.size(); ++i) {
      size = std::max(size, a[i].ply_stress.cwiseAbs().maxCoeff());
      worst = std::max(worst, (a[i].ply_stress - b[i].ply_stress).cwiseAbs().maxCoeff());
    }
  }
  CHECK(worst < 5e-3 * size);
}

TEST_CASE("a curved sandwich: its core is crushed by what its faces bear over the radius") {
  // Half of a tube about z, pulled round by forces at its edges: the curvature is that of the tube, square to its axis.
  const double R = 300;
  const Grid shell{.nx = 24, .ny = 4, .map = [=](double u, double v) {
                     return Vec3(R * std::cos(pi * u), R * std::sin(pi * u), 100 * v);
                   }};
  const test::Folder folder;
  Findings findings;
  std::string text = test::case_part("[0_2]", "");
  text.replace(text.find("along = [0, 0, 1]"), 17, "away-from = [0, 0, 50]");
  text.replace(text.find("vector = [1, 0, 0]"), 18, "vector = [0, 0, 1]");
  const Design design = test::open_on(folder, text, shell, findings);
  const model::Model model = assemble(design, {.quadratic = true}, findings);
  const result::Recovery recovery(model, {Criterion::core_crushing});
  for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) {
    const double angle = std::atan2(design.geometry.centres[e].y(), design.geometry.centres[e].x());
    if (angle < 0.2 || angle > pi - 0.2) continue;  // at the border normals turn half as much
    const Vec3 curved = recovery.curved_of(e);
    CHECK(std::abs(curved[0]) < 1e-9);
    CHECK(test::off(std::abs(curved[1]), 1.0 / R) < 0.01);
    CHECK(curved[1] > 0.0);  // convex outwards, where the plies build up
    CHECK(std::abs(curved[2]) < 1e-9);
  }
  const result::Recovery without(model, {Criterion::tsai_wu});
  CHECK(without.curved_of(30) == Vec3::Zero());  // nobody asks
}

TEST_CASE("plies bear what their section bears, however coarsely sections were condensed; warmed, too") {
  // A section stands for elements whose angles and thicknesses are not all its own. Whatever they are, the stresses of an
  // element's plies add up to N and M: an invariant, whatever the section was taken to be.
  const test::Folder folder;
  folder.write("grid.msh", test::msh(Grid::rectangle(12, 4, 100, 20)));
  section::Options few;
  few.most_sections = 3;
  Findings findings;
  const Design design =
      open(folder.write("p.toml",
                        fmt::format("[part]\nname = \"V\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"grid.msh\", length "
                                    "= \"mm\" }}\nside = {{ along = [0, 0, 1] }}\nsurface = \"bottom\"\n{}"
                                    "[material.warm]\nfrom = \"ud\"\nalpha1 = -1e-6\nalpha2 = 3e-5\nalpha3 = 3e-5\n"
                                    "[layup]\nmaterial = \"warm\"\nframe = \"x\"\nplies = [ {{ id = \"A\", code = "
                                    "\"[0/45]\" }}, {{ id = \"C\", angle = 90, thickness = {{ of = \"left\", table = "
                                    "[[0, 1], [100, 8]] }} }} ]\n[support.s]\non = \"left\"\nhold = \"clamped\"\n"
                                    "[load.warm]\ntemperature = 80\nstress-free = 20\n[load.pull]\non = \"right\"\n"
                                    "force = [1, 0, 0]\n[case.cold]\nloads = [\"pull\"]\n[case.hot]\nloads = "
                                    "[\"pull\", \"warm\"]\n",
                                    test::materials())),
           findings, few);
  REQUIRE(design.sections.count() == 3);
  const model::Model model = assemble(design, {}, findings);
  const Vector3 N(40, -15, 10), M(6, 2, -3);
  for (const std::size_t case_index : {0u, 1u}) {
    model::CaseFields fields;
    fields.sections.resize(design.surface.element_count());
    double most_off = 0.0;
    for (mesh::ElementIndex e = 0; e < fields.sections.size(); ++e) {
      const section::SectionId s = design.sections.section_of[e];
      const auto layers = section::laminate_of(design.part, design.sections, s);
      laminate::Load load;
      load.N = N, load.M = M, load.temperature = case_index == 1 ? 60.0 : 0.0;
      fields.sections[e].deformation = laminate::deformation(layers, design.sections.bottom[s], load);
      layup::LayersOn own(design);
      double h = 0.0;
      for (const layup::LaidLayer& layer : own(e)) h += layer.thickness;
      most_off = std::max(most_off, std::abs(design.sections.thickness[s] / h - 1.0));
    }
    CHECK(most_off > 0.1);
    const result::Recovery recovery(model, {tsai_wu[0]});
    double worst_N = 0.0, worst_M = 0.0;
    for (mesh::ElementIndex e = 0; e < fields.sections.size(); ++e) {
      const auto states = recovery.at(fields, case_index, e);
      Vector3 sum_N = Vector3::Zero(), sum_M = Vector3::Zero();
      for (std::size_t i = 0; i + 2 < states.size(); i += 3) {  // straight over each ply
        const double t = states[i + 2].z - states[i].z;
        sum_N += t * states[i + 1].stress;
        sum_M += t / 6.0 *
                 (states[i].z * states[i].stress + 4.0 * states[i + 1].z * states[i + 1].stress +
                  states[i + 2].z * states[i + 2].stress);
      }
      worst_N = std::max(worst_N, (sum_N - N).norm() / N.norm());
      worst_M = std::max(worst_M, (sum_M - M).norm() / (M.norm() + 10.0 * N.norm()));
    }
    CAPTURE(case_index);
    CHECK(worst_N < 1e-9);
    CHECK(worst_M < 1e-9);
  }
}

TEST_CASE(
    "shear between plies stays the same however frames are turned; on any mesh it follows from N and M that vary "
    "evenly") {
  // Nodes off by up to a quarter of an element; N that balances itself, M and the Q that goes with it, all linear.
  const auto uneven = [](double u, double v) {
    const auto off = [&](double a, double b) {
      return u * (1 - u) * v * (1 - v) > 0.0 ? 0.025 * std::sin(100 * a * u + 77 * b * v) : 0.0;
    };
    return Vec3(100 * (u + off(1.0, 3.1)), 100 * (v + off(2.3, 1.7)), 0);
  };
  const Grid grid{.nx = 10, .ny = 10, .map = uneven};
  using Six = Eigen::Matrix<double, 6, 1>;
  Eigen::Matrix<double, 6, 3> linear;  // Nx Ny Nxy Mx My Mxy: constant, by x, by y
  linear << 20, 0.1, 0.3, -10, 0.05, -0.2, 4, 0.2, -0.1, 5, 0.4, -0.1, 3, 0.2, 0.25, -2, -0.15, 0.3;
  REQUIRE(std::abs(linear(0, 1) + linear(2, 2)) < 1e-15);
  REQUIRE(std::abs(linear(1, 2) + linear(2, 1)) < 1e-15);
  const laminate::Vector2 Q(linear(3, 1) + linear(5, 2), linear(4, 2) + linear(5, 1));
  std::vector<std::vector<result::PlyState>> told;
  for (const double turn : {0.0, 35.0}) {
    const test::Folder folder;
    Findings findings;
    std::string text = test::case_part(turn == 0.0 ? "[0/45/-20]" : "[-35/10/-55]", "");
    const Angle angle = Angle::degrees(turn);
    text.replace(text.find("vector = [1, 0, 0]"), 18, fmt::format("vector = [{}, {}, 0]", angle.cos(), angle.sin()));
    const Design design = test::open_on(folder, text, grid, findings);
    const model::Model model = assemble(design, {.quadratic = true, .laminate_only = true}, findings);
    const auto layers = section::laminate_of(design.part, design.sections, section::SectionId{0});
    const auto ABD = laminate::stiffness(layers, design.sections.bottom[section::SectionId{0}]).ABD();
    const double c = angle.cos(), s = angle.sin();
    laminate::Matrix3 seen;  // forces in the frame's axes
    seen << c * c, s * s, 2 * c * s, s * s, c * c, -2 * c * s, -c * s, c * s, c * c - s * s;
    model::CaseFields fields;
    for (const Vec3& at : design.geometry.centres) {
      const Six all = linear * Vec3(1, at.x(), at.y());
      Six own;
      own << seen * all.head<3>(), seen * all.tail<3>();
      const Six strains = ABD.partialPivLu().solve(own);
      model::SectionState state;
      state.deformation = {strains.head<3>(), strains.tail<3>()};
      state.Q = {c * Q[0] + s * Q[1], c * Q[1] - s * Q[0]};
      fields.sections.push_back(state);
    }
    model::Model::Case one;
    model::Model of_case = model;
    one.factors.assign(of_case.loads.size(), 0.0);
    of_case.cases = {one};
    const result::Recovery recovery(of_case, {Criterion::interlaminar_shear});
    auto& own = told.emplace_back();
    for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e)
      for (const result::PlyState& state : recovery.at(fields, 0, e)) own.push_back(state);
    if (turn != 0.0) continue;
    const Eigen::Matrix<double, 6, 2> wanted = ABD.inverse() * linear.rightCols<2>();
    for (const result::StrainChanges& changes : recovery.changes(fields, 0))
      CHECK((changes - wanted).norm() < 1e-9 * wanted.norm());
  }
  double largest = 0.0, differ = 0.0, left = 0.0;
  for (std::size_t i = 0; i < told[0].size(); ++i) {
    largest = std::max(largest, told[0][i].ply_shear.norm());
    differ = std::max(differ, (told[0][i].ply_shear - told[1][i].ply_shear).norm());
    // Nothing pulls at the faces.
    if (i % 9 == 0 || i % 9 == 8) left = std::max(left, told[0][i].ply_shear.norm());
  }
  CHECK(largest > 0.01);
  CHECK(differ < 1e-9 * largest);
  CHECK(left < 1e-9 * largest);
}

TEST_CASE("a least reserve keeps places beside steps apart") {
  const auto of = [](double factor, bool doubtful) {
    result::Critical one;
    one.factor = factor, one.doubt = doubtful ? result::Doubt::step : result::Doubt::none;
    one.mode = laminate::FailureMode::fibre_tension;
    return one;
  };
  result::Least least, other;
  CHECK(!least.of_both().any());
  least.take(of(3.0, false));
  least.take(of(2.0, true));
  least.take(of(2.5, false));
  least.take(of(2.2, true));
  CHECK(least.clear.factor == 2.5);
  CHECK(least.doubtful.factor == 2.0);
  CHECK(least.of_both().factor == 2.0);
  other.take(of(1.0, false));
  least.take(other);
  CHECK(least.clear.factor == 1.0);
  CHECK(least.doubtful.factor == 2.0);
  CHECK(!least.of_both().doubtful());
}

TEST_CASE("of each criterion the least and the next ply are kept, whatever the order and the blocks they come in") {
  std::mt19937 engine(17);
  std::uniform_real_distribution<double> any(0.5, 9.0);
  for (int trial = 0; trial < 200; ++trial) {
    std::vector<result::Critical> all;
    for (int k = 0; k < 40; ++k) {
      result::Critical one;
      one.factor = any(engine), one.mode = laminate::FailureMode::fibre_tension;
      one.criterion = Criterion::tsai_wu;
      one.ply = part::PlyId{static_cast<std::uint32_t>(engine() % (trial % 2 ? 1 : 6))};
      if (engine() % 4 == 0) one.doubt = result::Doubt::force;
      all.push_back(one);
    }
    result::Reserves whole;
    for (int block = 0; block < 4; ++block) {
      result::Reserves own;
      for (int k = 10 * block; k < 10 * block + 10; ++k) own.take_criterion(all[static_cast<std::size_t>(k)]);
      const auto c = static_cast<std::size_t>(Criterion::tsai_wu);
      for (const result::Critical& one :
           {own.of_criteria[c].clear, own.of_criteria[c].doubtful, own.next_of_criteria[c]})
        if (one.any()) whole.take_criterion(one);
    }
    result::Critical least, next;
    for (const result::Critical& one : all)
      if (!one.doubtful() && one.factor < least.factor) least = one;
    for (const result::Critical& one : all)
      if (!one.doubtful() && one.ply != least.ply && one.factor < next.factor) next = one;
    const auto c = static_cast<std::size_t>(Criterion::tsai_wu);
    CHECK(whole.of_criteria[c].clear.factor == least.factor);
    CHECK(whole.next_of_criteria[c].factor == next.factor);
    CHECK(whole.next_of_criteria[c].any() == (trial % 2 == 0));
  }
}

TEST_CASE("at a force on one node and a node that is held alone stress is doubtful, along an edge it is not") {
  const auto doubts = [](const std::string& conditions, double thickness) {
    const test::Folder folder;
    Findings findings;
    std::string text = test::case_part("[0/90]", conditions);
    const std::string thick = "thickness = \"0.25 mm\"";
    text.replace(text.find(thick), thick.size(), fmt::format("thickness = {}", thickness));
    const Design design = test::open_on(folder, text, Grid::rectangle(10, 10, 100, 100), findings);
    const model::Model model = assemble(design, {.quadratic = true, .laminate_only = false}, findings);
    const result::Recovery recovery(model, {Criterion::tsai_wu});
    std::map<result::Doubt, std::size_t> out;
    for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) ++out[recovery.doubt(e)];
    return out;
  };
  const std::string edge = "[support.edge]\non = \"left\"\nhold = \"clamped\"\n";
  const auto line = doubts(edge + "[load.line]\non = \"right\"\nforce = [0, 0, 1]\n", 0.25);
  CHECK(line.at(result::Doubt::none) == 100);
  // A node within has four elements; thick laminates spoil more round it.
  const std::string point = "[load.point]\npoint = [50, 50, 0]\nforce = [0, 0, 1]\n";
  const auto thin = doubts(edge + point, 0.25), thick = doubts(edge + point, 8.0);
  CHECK(thin.at(result::Doubt::force) == 4);
  CHECK(thin.at(result::Doubt::none) == 96);
  CHECK(thick.at(result::Doubt::force) == 12);  // centres within 16 of it: 7.1 and 15.8
  const auto corners = doubts(test::held_at_corners, 0.25);
  CHECK(corners.at(result::Doubt::held) == 3);
}

}  // namespace of_result_recovery
