// Zones of a part as panels: what each element is told against the same panel by hand, and what is measured of a zone.
#include "cases.hpp"

#include <bordado/mesh/io.hpp>
#include <bordado/zone_panels.hpp>

namespace of_result_zone_panels {

using namespace bordado;
using laminate::Criterion;
using laminate::Vector3;
using sizing::Edge;
using test::Grid;
using test::near;

namespace {

/// A sandwich over a rectangle whose middle is thicker, known strengths of the core, in two cases.
std::string part_text(const std::string& zones = "", const std::string& surface = "middle") {
  return test::case_part("[0/45/0F/45/0]",
                         R"(
[support.left]
on = "left"
hold = "clamped"
[load.first]
on = "right"
edge-force = [1, 0, 0]
[load.second]
on = "right"
edge-force = [2, 0, 0]
[case.first]
loads = ["first"]
[case.second]
loads = ["second"]
)" + zones,
                         "", surface);
}

struct Loaded {
  Design design;
  model::Model model;
  std::vector<model::CaseFields> fields;
  std::vector<std::vector<Vector3>> N;
  Findings findings;
};

/// Forces by chance on every element, in both cases.
Loaded loaded(const test::Folder& folder, const std::string& text, const Grid& grid, double spread) {
  Loaded out;
  out.design = test::open_on(folder, text, grid, out.findings);
  out.model = assemble(out.design, {.quadratic = true}, out.findings);
  std::mt19937 engine(29);
  std::normal_distribution<double> normal;
  for (std::size_t c = 0; c < 2; ++c) {
    std::string table = "element,Nx,Ny,Nxy,Mx,My,Mxy,Qx,Qy\n";
    out.N.emplace_back();
    for (const std::int64_t id : out.design.surface.element_ids) {
      Vector3 N(-20, -8, 6);
      for (double& one : N) one += spread * normal(engine);
      out.N.back().push_back(N);
      table +=
          fmt::format("{},{:.17g},{:.17g},{:.17g},{},{},3,0.4,0.2\n", id, N[0], N[1], N[2], 4 * normal(engine), 9.0);
    }
    out.fields.push_back(result::read_sections(out.design, folder.write("forces.csv", table)).fields);
  }
  return out;
}

const std::vector<std::size_t> both{0, 1};

}  // namespace

TEST_CASE(
    "every element of a zone: buckling as the panel by hand has it under its laminate and forces, the least case "
    "told") {
  const std::string zones = R"(
[zone.thick]
box = { from = [100, -10, -10], to = [200, 210, 10] }
)";
  std::string text = part_text(zones);
  const std::string more =
      "{ id = \"P\", material = \"ud\", frame = \"x\", code = \"[0/45/0F/45/0]\" },\n { id = \"Q\", "
      "material = \"ud\", frame = \"x\", angle = 90, zone = \"thick\" }";
  const std::string one = "{ id = \"P\", material = \"ud\", frame = \"x\", code = \"[0/45/0F/45/0]\" }";
  text.replace(text.find(one), one.size(), more);
  for (const double spread : {4.0, 30.0}) {
    const test::Folder folder;
    const Loaded part = loaded(folder, text, Grid::rectangle(6, 4, 300, 200), spread);
    const std::vector<result::ZonePanel> panels{result::panel_under(part.design, "plate"),
                                                result::panel_under(part.design, "thick", {{150.0, 90.0}})};
    CHECK(near(panels[0].a, 300, 1e-9));
    CHECK(near(panels[0].b, 200, 1e-9));
    CHECK(near(panels[0].filled, 1, 1e-9));
    CHECK(panels[0].bulge < 1e-9);
    CHECK(panels[1].a == 150.0);
    CHECK(panels[1].said);
    const result::PanelEdges edges{Edge::simple, Edge::clamped, Edge::simple, Edge::free};
    const auto checks = result::check_panels(part.model, panels, edges, part.fields, both);
    REQUIRE(checks.size() == 2);
    CHECK(checks[0].laminates == 2);
    CHECK(checks[1].laminates == 1);
    for (const result::PanelCheck& check : checks) {
      const auto buckling = std::find_if(check.things.begin(), check.things.end(),
                                         [](const auto& thing) { return thing.what == sizing::buckling_words; });
      REQUIRE(buckling != check.things.end());
      const double least = buckling->factors[buckling->least];
      CHECK(buckling->below_one ==
            static_cast<std::size_t>(
                std::count_if(buckling->factors.begin(), buckling->factors.end(), [](double f) { return f < 1.0; })));
      for (std::size_t i = 0; i < check.panel.elements.size(); i += 2) {
        const mesh::ElementIndex e = check.panel.elements[i];
        const sizing::Panel panel{check.panel.a,
                                  check.panel.b,
                                  sizing::plate_stiffness(section::laminate_of(part.design.part, part.design.sections,
                                                                               part.design.sections.section_of[e])),
                                  edges.x0,
                                  edges.x1,
                                  edges.y0,
                                  edges.y1};
        double alone = 1e300, other = 1e300;  // in the case that needs less, and in the other
        std::size_t which = 0;
        for (std::size_t c = 0; c < 2; ++c) {
          const auto factor = sizing::buckling_factors(panel, part.N[c][e], check.terms).forward;
          if (!factor) continue;
          other = std::min(other, std::max(alone, factor->value));
          if (factor->value < alone) alone = factor->value, which = c;
        }
        CHECK(alone > least * (1.0 - 2e-4));
        CHECK(buckling->factors[i] > alone * (1.0 - 2e-4));  // of two shapes that need nearly the same either is found
        if (alone < 8.0 * least) CHECK(near(buckling->factors[i], alone, 2e-2));
        if (alone < 2.0 * least && other > 1.03 * alone) CHECK(buckling->cases[i] == which);
      }
      // By hand, whole: the same number.
      const mesh::ElementIndex worst = check.panel.elements[buckling->least];
      const std::size_t c = buckling->cases[buckling->least];
      const sizing::PanelCase given = result::panel_case(part.model, check, worst, part.fields[c], c);
      CHECK((given.N - part.N[c][worst]).norm() < 1e-6 * given.N.norm());
      CHECK(near(sizing::check_panel(given).buckling.forward.value().value, least, 1e-3));
      Findings findings;
      result::tell_reserves(check, part.model, findings);
      CHECK((findings.all().size() > 0) == (least < 1.0));
    }
  }
}

TEST_CASE("short waves of faces are those that stress tells; fields have the least of what is checked") {
  const test::Folder folder;
  const Loaded part = loaded(folder, part_text(), Grid::rectangle(6, 4, 300, 200), 10.0);
  const std::vector<result::ZonePanel> panels{result::panel_under(part.design, "plate"),
                                              result::panel_under(part.design, "plate", {{100.0, 100.0}})};
  const auto checks = result::check_panels(part.model, panels, {}, part.fields, both);
  const result::Recovery recovery(part.model, {Criterion::wrinkling, Criterion::crimping});
  std::size_t compared = 0;
  for (const result::ElementReserves& thing : checks[0].things) {
    if (thing.what == sizing::buckling_words) continue;
    for (std::size_t i = 0; i < thing.factors.size(); ++i) {
      double least = 1e300;
      for (std::size_t c = 0; c < 2; ++c)
        for (const result::Critical& one : recovery.failing(part.fields[c], c, checks[0].panel.elements[i]))
          if (laminate::words(one.mode) == thing.what) least = std::min(least, one.factor);
      if (least < sizing::largest_margin) CHECK(near(thing.factors[i], least, 1e-9));
      ++compared;
    }
  }
  CHECK(compared == 2 * 24);  // wrinkling and crimping; foam has no cells
  for (const mesh::Array& array : result::fields_of(part.design, checks)) {
    if (array.name == "panel") {
      for (const double value : array.values) CHECK(value == 2.0);
      continue;
    }
    for (std::size_t i = 0; i < array.values.size(); ++i) {
      double least = std::nan("");
      for (const auto& check : checks)
        for (const auto& thing : check.things)
          if (array.name == "reserve, " + thing.what && std::isfinite(thing.factors[i]))
            least = std::fmin(least, thing.factors[i]);
      CHECK((array.values[i] == least || (std::isnan(least) && std::isnan(array.values[i]))));
    }
  }
}

TEST_CASE(
    "the panel by hand judges faces by the same forces, moments among them, wherever the mesh lies in the laminate") {
  for (const std::string surface : {"middle", "bottom", "top"}) {
    const test::Folder folder;
    const Loaded part = loaded(folder, part_text("", surface), Grid::rectangle(6, 4, 300, 200), 10.0);
    const auto checks =
        result::check_panels(part.model, std::vector{result::panel_under(part.design, "plate")}, {}, part.fields, both);
    const result::Recovery recovery(part.model, {Criterion::wrinkling});
    for (const std::size_t i : {0u, 5u, 17u}) {
      const mesh::ElementIndex e = checks[0].panel.elements[i];
      const sizing::PanelAnswer by_hand =
          sizing::check_panel(result::panel_case(part.model, checks[0], e, part.fields[1], 1));
      const auto least = [](const auto& all, const auto& factor_of) {
        double out = 1e300;
        for (const auto& one : all) out = std::min(out, factor_of(one));
        return out;
      };
      const double told =
          least(recovery.failing(part.fields[1], 1, e), [](const result::Critical& one) { return one.factor; });
      INFO(surface << ", element " << i);
      REQUIRE(told < 1e300);
      CHECK(near(least(by_hand.criteria,
                       [](const sizing::PlaceFailing& one) {
                         return one.failing.criterion == Criterion::wrinkling ? one.failing.factor : 1e300;
                       }),
                 told, 1e-6));
    }
  }
}

TEST_CASE("elements with next to no force have no reserve that anybody could read") {
  const test::Folder folder;
  Loaded part = loaded(folder, part_text(), Grid::rectangle(6, 4, 300, 200), 0.0);
  for (const double size : {1.0, 1e-14}) {
    std::string table = "element,Nx,Ny,Nxy,Mx,My,Mxy,Qx,Qy\n";
    for (const std::int64_t id : part.design.surface.element_ids)
      table += fmt::format("{},{},0,0,0,0,0,0,0\n", id, -10.0 * size);
    const std::vector fields{result::read_sections(part.design, folder.write("forces.csv", table)).fields};
    const auto checks = result::check_panels(part.model, std::vector{result::panel_under(part.design, "plate")}, {},
                                             fields, std::vector<std::size_t>{0});
    REQUIRE(!checks[0].things.empty());
    for (const result::ElementReserves& thing : checks[0].things)
      for (const double factor : thing.factors) {
        INFO(thing.what << " at " << size);
        CHECK((factor < sizing::largest_margin) == (size == 1.0));
        CHECK((size == 1.0 || std::isinf(factor)));
      }
  }
}

TEST_CASE(
    "a zone is measured in its own plane, wherever it lies; what is no rectangle, turns, bulges or wraps is said") {
  const test::Folder folder;
  const auto told = [&](const std::string& text, const Grid& grid, const std::string& zone) {
    Findings unheard, findings;
    const Design design = test::open_on(folder, text, grid, unheard);
    const result::ZonePanel panel = result::panel_under(design, zone);
    result::tell_shape(panel, design.part.units, {}, findings);
    std::string codes;
    for (const Finding& finding : findings.all()) codes += finding.code + " ";
    return std::pair(panel, codes);
  };
  // Turned in space with its frame's direction.
  const Eigen::AngleAxisd turn(0.6, Vec3(1, 2, 0.5).normalized());
  Grid askew = Grid::rectangle(6, 4, 300, 200);
  askew.map = [=](double u, double v) { return Vec3(turn * Vec3(300 * u, 200 * v, 0) + Vec3(50, 60, 70)); };
  const Vec3 along = turn * Vec3::UnitX();
  std::string text = part_text();
  text.replace(text.find("vector = [1, 0, 0]"), 18, fmt::format("vector = [{}, {}, {}]", along[0], along[1], along[2]));
  const auto [flat, nothing] = told(text, askew, "plate");
  CHECK(near(flat.a, 300, 1e-5));
  CHECK(near(flat.b, 200, 1e-5));
  CHECK((flat.x - along).norm() < 1e-5);
  CHECK(nothing.empty());
  // A triangle of it, a barrel, a tube.
  CHECK(
      told(part_text("[zone.half]\npolygon = { corners = [[0, 0, 0], [300, 0, 0], [0, 200, 0]], along = [0, 0, 1] }\n"),
           Grid::rectangle(12, 8, 300, 200), "half")
          .second == "panel.not-rectangular ");
  Grid barrel = Grid::rectangle(6, 8, 300, 200);
  barrel.map = [](double u, double v) { return Vec3(300 * u, 200 * v, 20 * std::sin(3.14159265 * v)); };
  CHECK(told(part_text(), barrel, "plate").second == "panel.curved ");
  Grid tube{.nx = 16, .ny = 4, .map = [](double u, double v) {
              return Vec3(200 * v, 50 * std::cos(6.283185307 * u), 50 * std::sin(6.283185307 * u));
            }};
  std::string out = part_text();
  out.replace(out.find("along = [0, 0, 1]"), 17, "away-from = [100, 0, 0]");
  CHECK_THROWS_WITH_AS(told(out, tube, "plate"), doctest::Contains("panel.wraps"), Failure);
  CHECK_THROWS_WITH_AS(told(part_text(), askew, "plat"), doctest::Contains("did you mean 'plate'"), Failure);
}

}  // namespace of_result_zone_panels
