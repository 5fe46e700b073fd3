// Stress through the thickness from solids, and peel by it: at free edges, where what must balance is known exactly.
//
// R. B. Pipes and N. J. Pagano, J. Composite Materials 4 (1970) 538, and R. M. Jones, Mechanics of Composite Materials (2nd ed.),
// section 4.6: lamination theory holds inside; within a thickness of a free edge stresses between plies carry what it leaves over there.
// A cut between plies, from the edge to the middle, balances the plies above it: forces and moments are exact, however the stress runs.
#include "stresses.hpp"

#include <random>

namespace of_result_peel {

using namespace bordado;
using laminate::Criterion;
using laminate::Vector2;
using laminate::Vector3;
using test::Cases;
using test::Grid;
using test::near;
using Per = model::SolidOptions::Per;

namespace {

constexpr double width = 8.0, length = 27.0, ply = 0.25;

/// "known" with what it bears between its layers.
const std::string bonded = test::known_material + "[material.bonded]\nfrom = \"known\"\nZt = 40\nS13 = 80\nS23 = 60\n";

/// A strip that is pulled, its elements narrow along both free edges. \param thickness of a ply of the code
Cases pulled(const test::Folder& folder, const std::string& code, int across, double thickness = ply) {
  Grid grid{.nx = 9, .ny = across, .map = [](double u, double v) {
              return Vec3(length * u, 0.5 * width * (1.0 - std::cos(std::numbers::pi * v)), 0.0);
            }};
  std::string text =
      test::case_part(code,
                      test::held_statically(length, width) +
                          "[load.ends]\non = [\"left\", \"right\"]\nedge-force = [100, 0, 0]\naxes = \"edge\"\n",
                      fmt::format("{}thickness = {}\n", bonded, thickness));
  text.replace(text.find("material = \"ud\", frame"), 15, "material = \"bonded\"");
  return test::solve_cases(
      folder, text, grid,
      {.solids = model::SolidOptions{Per::ply, 0}, .layers = deck::LayersAs::plies, .ply_results = true});
}

/// Integrals from the edge y = 0 to the middle, at half the length, over the plane below a layer: of zz, yz, xz, and of zz y.
struct Cut {
  double zz = 0, yz = 0, xz = 0, zz_y = 0;
};
Cut cut_below(const Cases& solved, const result::Recovery& recovery, std::size_t layer) {
  Cut out;
  for (mesh::ElementIndex e = 0; e < solved.design.surface.element_count(); ++e) {
    const Vec3& at = solved.design.geometry.centres[e];
    if (std::abs(at.x() - 0.5 * length) > 0.1 || at.y() > 0.5 * width) continue;
    const double dy = solved.design.geometry.areas[e] / (length / 9);
    const auto states = recovery.at(solved.all[0].fields, 0, e);
    // What both sides of the plane say, in the mean.
    const auto below = result::stress_in_section(states[3 * (layer - 1) + 2]),
               above = result::stress_in_section(states[3 * layer]);
    const auto mean = [&](std::size_t k) { return 0.5 * (below[k] + above[k]) * dy; };
    out.zz += mean(2), out.yz += mean(3), out.xz += mean(4), out.zz_y += mean(2) * at.y();
  }
  return out;
}

std::vector<laminate::LayerState> theory(const Cases& solved) {
  const auto layers = section::laminate_of(solved.design.part, solved.design.sections, section::SectionId{0});
  const double z0 = solved.design.sections.bottom[section::SectionId{0}];
  laminate::Load load;
  load.N = {100, 0, 0};
  return laminate::layer_states(layers, z0, laminate::deformation(layers, z0, load), load);
}

bool told(const Findings& findings, std::string_view code) {
  return std::any_of(findings.all().begin(), findings.all().end(), [&](const Finding& f) { return f.code == code; });
}

}  // namespace

TEST_CASE("a free edge of [0/90]s: the cut above the 90s bears what the 0 leaves over, that in the middle its moment") {
  const test::Folder folder;
  const Cases solved = pulled(folder, "[0/90]s", 24);
  const result::Recovery recovery(solved.model, {Criterion::peel});
  const double over = theory(solved)[3 * 3 + 1].stress[1] * ply;  // of the upper 0
  CHECK(over > 0.3);
  const Cut above = cut_below(solved, recovery, 3), middle = cut_below(solved, recovery, 2);
  CHECK(near(above.yz, over, 0.002));
  CHECK(std::abs(middle.zz) < 0.03 * over);
  // Strains of a solid are straight through it: with two a ply the moment is four times as near.
  CHECK(near(middle.zz_y, -over * ply, 0.1));
  const test::Folder finer;
  const Cases two = pulled(finer, "[0_2/90_2]s", 24, 0.5 * ply);
  const Cut half = cut_below(two, result::Recovery(two.model, {Criterion::peel}), 4);
  CHECK(near(half.zz_y, -over * ply, 0.025));
  CHECK(std::abs(middle.xz) < 0.01 * over);
  // The middle is pulled apart at the edge: peel comes first along it, by the 90s, and far from it nothing peels.
  const std::vector<std::size_t> cases = {0};
  const result::Reserves reserves = recovery.reserves({&solved.all[0].fields, 1}, cases);
  const result::Critical& first = reserves.of_criteria[static_cast<std::size_t>(Criterion::peel)].clear;
  REQUIRE(first.any());
  CHECK(std::min(solved.design.geometry.centres[first.element].y(),
                 width - solved.design.geometry.centres[first.element].y()) < 0.5);
  const auto inside =
      recovery.failing(solved.all[0].fields, 0, test::nearest(solved.design, {0.5 * length, 0.5 * width, 0}));
  for (const result::Critical& one : inside) CHECK(one.factor > 20.0 * first.factor);
}

TEST_CASE("a free edge of [45/-45]s: the cut between them bears the shear that each leaves over") {
  const test::Folder folder;
  const Cases solved = pulled(folder, "[45/-45]s", 24);
  const result::Recovery recovery(solved.model, {Criterion::peel});
  const double over = theory(solved)[3 * 3 + 1].stress[2] * ply;  // of the upper 45
  CHECK(std::abs(over) > 5.0);
  const Cut above = cut_below(solved, recovery, 3), middle = cut_below(solved, recovery, 2);
  CHECK(near(above.xz, over, 0.02));
  CHECK(std::abs(middle.xz) < 0.01 * std::abs(over));
}

TEST_CASE("narrower elements at the edge of [45/-45]s tell more stress and the same force: that is said") {
  std::vector<double> most, force;
  for (const int across : {12, 24}) {
    const test::Folder folder;
    const Cases solved = pulled(folder, "[45/-45]s", across);
    const result::Recovery recovery(solved.model, {Criterion::peel});
    force.push_back(cut_below(solved, recovery, 3).xz);
    const auto states = recovery.at(solved.all[0].fields, 0, test::nearest(solved.design, {0.5 * length, 0, 0}));
    most.push_back(std::abs(result::stress_in_section(states[9])[4]));
    Findings findings;
    result::check_peel(solved.model, recovery.criteria(), findings);
    CHECK(told(findings, "result.peel-edges"));
  }
  CHECK(most[1] > 1.1 * most[0]);
  CHECK(near(force[1], force[0], 0.06));
}

TEST_CASE("peel: a layer by itself against its closed form, with what is held, pushed together and without strengths") {
  material::Material m;
  m.name = "m", m.kind = material::Kind::unidirectional;
  m.elastic = material::transversely_isotropic(135e3, 9e3, 0.3, 5e3, 0.4, 3.2e3);
  m.strength.Zt = 40, m.strength.S13 = 80, m.strength.S23 = 60;
  const laminate::Layer layer = laminate::layer_of(m, 1.0, Angle::degrees(30));
  const material::Material* const of[] = {&m};
  const Criterion criteria[] = {Criterion::peel};
  const laminate::Judge judge({&layer, 1}, of, 0.0, criteria);
  std::mt19937 engine(11);
  std::uniform_real_distribution<double> any(-1, 1);
  for (int trial = 0; trial < 300; ++trial) {
    const double s3 = 50 * any(engine), h3 = 25 * any(engine);
    const Vector2 t(60 * any(engine), 60 * any(engine)), h(20 * any(engine), 20 * any(engine));
    const std::array<double, 3> through = {s3, s3, s3}, held_through = {h3, h3, h3};
    const std::array<Vector2, 3> shear = {t, t, t}, held_shear = {h, h, h};
    laminate::SectionLoad load;
    load.through = through, load.shear = shear, load.held_through = held_through, load.held_shear = held_shear;
    const laminate::Failing found = judge.worst(load);
    // On the surface at that factor, and nowhere outside before it.
    const auto sum = [&](double R) {
      const double pull = std::max(0.0, h3 + R * s3) / 40, a = (h[0] + R * t[0]) / 80, b = (h[1] + R * t[1]) / 60;
      return pull * pull + a * a + b * b;
    };
    REQUIRE(found.mode == laminate::FailureMode::delamination);
    if (sum(0.0) >= 1.0) {
      CHECK(found.factor == 0.0);
      continue;
    }
    CHECK(near(sum(found.factor), 1.0, 1e-9));
    for (int k = 1; k < 50; ++k) CHECK(sum(found.factor * k / 50.0) < 1.0 + 1e-9);
  }
  // Pushed together alone nothing peels; without stress through the thickness nothing is judged.
  laminate::SectionLoad load;
  const std::array<double, 3> pushed = {-30, -30, -30};
  const std::array<Vector2, 3> none = {Vector2(0, 0), Vector2(0, 0), Vector2(0, 0)};
  load.through = pushed, load.shear = none;
  CHECK(judge.worst(load).mode == laminate::FailureMode::none);
  load.through = {};
  load.Q = {100, 100};
  CHECK(judge.worst(load).mode == laminate::FailureMode::none);
  m.strength.Zt.reset();
  CHECK(laminate::missing_for(Criterion::peel, m) == std::vector<std::string_view>{"Zt"});
  material::Material film;
  film.kind = material::Kind::isotropic, film.elastic = material::isotropic(2200, 0.38);
  film.strength.Xt = 30, film.strength.S12 = 25;
  CHECK(laminate::missing_for(Criterion::peel, film).empty());
}

TEST_CASE("of sections nothing peels, and that is said where it is asked for") {
  const test::Folder folder;
  Findings findings;
  const Design design = test::open_on(folder, test::known_part("[0/90]s", ""), Grid::rectangle(4, 4, 10, 10), findings);
  const model::Model model = assemble(design, {.quadratic = true, .laminate_only = true}, findings);
  Findings said;
  result::check_peel(model, std::array{Criterion::puck}, said);
  CHECK(said.all().empty());
  result::check_peel(model, std::array{Criterion::puck, Criterion::peel}, said);
  CHECK(told(said, "result.peel-none"));
}

}  // namespace of_result_peel
