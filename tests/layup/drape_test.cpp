// Draped plies: their fibres, thickness and properties in the layup and in sections, against closed forms.
#include "parts.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/locate.hpp>
#include <bordado/pattern.hpp>
#include <bordado/review/check.hpp>
#include <bordado/review/profile.hpp>
#include <bordado/strength.hpp>

#include <fmt/format.h>

namespace of_layup_drape {

using namespace bordado;
using test::cap;
using test::pi;

namespace {

constexpr std::string_view materials = R"(
[material.ud]
kind = "unidirectional"
E1 = 135000
E2 = 10000
nu12 = 0.3
G12 = 5000
G13 = 5000
G23 = 3500
density = 1.6e-9
thickness = 0.2
shear-limit = 30
[material.yarn]
kind = "fibre"
E1 = 230000
E2 = 15000
nu12 = 0.2
G12 = 15000
nu23 = 0.4
density = 1.78e-9
[material.resin]
kind = "resin"
E = 3200
nu = 0.35
density = 1.2e-9
[material.twill]
kind = "fabric"
fibre = "yarn"
matrix = "resin"
fibre-volume = 0.5
density = 1.5e-9
thickness = 0.3
shear-limit = 20
)";

/// A part of radius 1 (the unit of length is what it is): plies and drapes as given.
std::string text(const std::string& plies, const std::string& more) {
  return fmt::format(
      "[part]\nname = \"D\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"g.msh\", length = \"mm\" }}\nside = "
      "\"as-meshed\"\nsurface = \"bottom\"\n{}[frame.x]\nvector = [1, 0, 0]\nfallback = [0, 1, 0]\n[layup]\nframe = "
      "\"x\"\nplies = [\n{}\n]\n{}",
      materials, plies, more);
}

Design design(const std::string& part, const test::Grid& grid, Findings& findings,
              const section::Options& options = {}) {
  return open(part::read_text(part, "d.toml", findings), test::surface(grid), findings, options);
}

bool told(const Findings& findings, std::string_view code) {
  return std::any_of(findings.all().begin(), findings.all().end(), [&](const Finding& f) { return f.code == code; });
}

std::string failure(const std::string& part, const test::Grid& grid) {
  Findings findings;
  try {
    design(part, grid, findings);
  } catch (const Failure& trouble) {
    std::string codes;
    for (const Finding& f : trouble.findings()) codes += f.code + " ";
    return codes;
  }
  return "none";
}

const std::string net = "[drape.net]\nseed = [0, 0, 100]\n";

/// A cap of radius 100.
test::Grid hundredfold(int n, double half) {
  test::Grid grid = cap(n, half);
  const auto map = grid.map;
  grid.map = [map](double u, double v) { return Vec3(100 * map(u, v)); };
  return grid;
}

}  // namespace

TEST_CASE("draped plies get their fibres from the net, and plies of one drape share it") {
  Findings findings;
  const Design d = design(text(R"({ id = "A", material = "ud", angle = 0, drape = "net" },
{ id = "B", material = "ud", angle = 90, drape = "net" },
{ id = "C", material = "ud", angle = 0, drape = "net" },
{ id = "D", material = "ud", angle = 0 },)",
                               net),
                          hundredfold(24, 0.8), findings);
  REQUIRE(d.layup.drapes.size() == 2);  // 0° and 90°
  const auto& first = d.layup.drapes[layup::DrapeId{0}];
  CHECK(d.layup.draping_of(part::PlyId{0}) == &first);
  CHECK(d.layup.draping_of(part::PlyId{2}) == &first);
  CHECK(d.layup.draping_of(part::PlyId{3}) == nullptr);
  layup::LayersOn layers_on(d);
  double sheared = 0.0;
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    const auto layers = layers_on(e);
    REQUIRE(layers.size() == 4);
    const Vec3 &n = d.geometry.normals[e], r = layers_on.reference(e);
    for (std::size_t k = 0; k < 3; ++k) {
      const layup::Draping& draping = *d.layup.draping_of(layers[k].ply);
      // The layer's angle, from the reference, is where the warp is.
      CHECK((frame::turned(r, n, layers[k].angle) - draping.warp[e]).norm() < 1e-9);
      CHECK(std::abs(draping.warp[e].dot(n)) < 1e-12);
      // A net laid by straight yarns turns 90° into itself: warp of one is weft of the other, and shear changes its sign
      // with the sense in which warp is turned to weft.
      CHECK(test::near(layers[k].thickness, 0.2 / std::cos(layers[k].shear.radians()), 1e-9));
    }
    CHECK(layers[3].angle.degrees() == 0.0);
    CHECK(layers[3].shear.degrees() == 0.0);
    CHECK(std::abs(std::abs(layers[0].shear.degrees()) - std::abs(layers[1].shear.degrees())) < 0.05);
    sheared = std::max(sheared, std::abs(layers[0].shear.degrees()));
  }
  CHECK(sheared > 25.0);
  // Mass: thicker where it is sheared, as much as the flat cloth weighs.
  double flat = 0.0;
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e)
    flat += d.geometry.areas[e] / std::cos(first.shear[e] * pi / 180);
  const double mass = layup::mass(d).mass;
  double area = 0.0;
  for (const double a : d.geometry.areas) area += a;
  CHECK(test::near(mass, 1.6e-9 * 0.2 * (3 * flat + area), 1e-4));
}

TEST_CASE("sections of draped plies are within their tolerances, and smaller ones make a smaller error") {
  double last = 1.0;
  for (const double tolerance : {2.0, 0.5}) {
    Findings findings;
    section::Options options;
    options.angle_tolerance = Angle::degrees(tolerance);
    const Design d = design(text(R"({ id = "A", material = "twill", angle = 0, drape = "net" },
{ id = "B", material = "ud", angle = 0 },)",
                                 net),
                            hundredfold(16, 0.7), findings, options);
    CHECK(d.sections.deviation.largest_angle.degrees() <= tolerance + 1e-9);
    CHECK(d.sections.deviation.largest_A < 0.1 * tolerance);
    CHECK(d.sections.deviation.largest_A < last);
    last = d.sections.deviation.largest_A;
    CHECK_FALSE(d.sections.sheared.empty());
    layup::LayersOn layers_on(d);
    for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
      std::vector<laminate::Layer> real;
      for (const layup::LaidLayer& layer : layers_on(e)) real.push_back(layup::layer_of(d.part, layer));
      const double z = layup::bottom(d.part, laminate::thickness(real));
      const auto k = laminate::stiffness(real, z),
                 used = laminate::stiffness(section::laminate_of(d.part, d.sections, d.sections.section_of[e]),
                                            d.sections.bottom[d.sections.section_of[e]]);
      CHECK((used.A - k.A).norm() / k.A.norm() <= 1.001 * d.sections.deviation.largest_A + 1e-5);
      CHECK(std::abs(static_cast<double>(d.sections.off[e])) <=
            std::max({d.sections.deviation.largest_A, d.sections.deviation.largest_B, d.sections.deviation.largest_D}) +
                1e-6);
    }
  }
}

TEST_CASE("a sheared fabric is two crossed layers at warp and weft") {
  Findings findings;
  const Design d = design(text(R"({ id = "A", material = "twill", angle = 0, drape = "net" },)", net),
                          hundredfold(16, 0.8), findings);
  const material::Material& twill = d.part.materials[part::MaterialId{static_cast<std::uint32_t>(
      std::find_if(d.part.materials.begin(), d.part.materials.end(), [](const auto& m) { return m.name == "twill"; }) -
      d.part.materials.begin())}];
  REQUIRE(twill.yarns);
  layup::LayersOn layers_on(d);
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); e += 7) {
    const layup::LaidLayer layer = layers_on(e)[0];
    const auto cloth = laminate::plane_stress_stiffness(layup::layer_of(d.part, layer).elastic);
    // Straight warp and weft, each half of it, in plane stress side by side: the in-plane stiffness of two crossed layers.
    const double between = 90 - layer.shear.degrees();
    const laminate::Matrix3 crossed =
        0.5 * laminate::plane_stress_stiffness(twill.yarns->warp) +
        0.5 * laminate::rotated(laminate::plane_stress_stiffness(twill.yarns->weft), Angle::degrees(between));
    CHECK((cloth - crossed).norm() / crossed.norm() < 0.01);
  }
}

TEST_CASE("plies that take angles only run as the cloth does, and are as thick and stiff as at rest") {
  Findings findings;
  const std::string plies = R"({ id = "A", material = "twill", angle = 20, drape = "net" },
{ id = "B", material = "ud", angle = 20, drape = "net" },)";
  const Design whole = design(text(plies, net), hundredfold(16, 0.8), findings),
               angles = design(text(plies, net + "takes = \"angles\"\n"), hundredfold(16, 0.8), findings);
  CHECK(angles.part.drapes[0].angles_only);
  CHECK(angles.sections.sheared.empty());
  CHECK(!whole.sections.sheared.empty());
  layup::LayersOn of_whole(whole), of_angles(angles);
  double sheared = 0.0;
  for (mesh::ElementIndex e = 0; e < whole.surface.element_count(); ++e) {
    const auto a = of_whole(e);
    const auto b = of_angles(e);
    REQUIRE(b.size() == 2);
    for (std::size_t k = 0; k < 2; ++k) {
      CHECK(test::near(a[k].angle.degrees(), b[k].angle.degrees(), 1e-9, 90.0));
      CHECK(b[k].shear.degrees() == 0.0);
      CHECK(b[k].thickness == (k == 0 ? 0.3 : 0.2));
      CHECK(test::near(a[k].thickness, b[k].thickness / std::cos(a[k].shear.radians()), 1e-9));
    }
    sheared = std::max(sheared, std::abs(a[0].shear.degrees()));
    CHECK(layup::thickness(angles.layup, part::PlyId{0}, e) == 0.3);
    // The section is that of cloth at rest, turned with the warp.
    const section::SectionId s = angles.sections.section_of[e];
    CHECK(angles.sections.thickness[s] == 0.5);
    for (const section::LaidLayer& layer : angles.sections.layers_of(s))
      CHECK(index(layer.material) < angles.part.materials.size());
  }
  CHECK(sheared > 20.0);
  // The cloth itself shears as it did: what is told of it does not change. Written and read it is the same.
  const auto d = layup::DrapeId{0};
  CHECK(whole.layup.drapes[d].shear == angles.layup.drapes[d].shear);
  const std::string again = part::toml_text(angles.part, "d.toml");
  CHECK(again.find("takes = \"angles\"") != std::string::npos);
  double area = 0.0;
  for (const double one : angles.geometry.areas) area += one;
  CHECK(test::near(layup::mass(angles).mass, area * (1.5e-9 * 0.3 + 1.6e-9 * 0.2), 1e-9));
}

TEST_CASE("cloth lies on quadrilaterals of which two corners are one node, wherever these are") {
  for (const unsigned same : {0u, 1u, 2u, 3u}) {
    Findings findings;
    mesh::Surface surface = test::surface(hundredfold(10, 0.6));
    for (const std::size_t e : {0u, 44u, 99u}) surface.nodes[4 * e + same] = surface.nodes[4 * e + (same + 1) % 4];
    const Design d = open(part::read_text(text(R"({ id = "A", material = "twill", angle = 0, drape = "net" },)", net),
                                          "d.toml", findings),
                          surface, findings);
    CHECK(d.layup.drapes[layup::DrapeId{0}].shear.size() == 100);
    for (const float shear : d.layup.drapes[layup::DrapeId{0}].shear) CHECK(std::isfinite(shear));
  }
}

TEST_CASE("where cloth does not come plies follow their frame, and it is said") {
  Findings findings;
  const Design d =
      design(text(R"({ id = "A", material = "ud", angle = 30, drape = "net" },)", net), hundredfold(40, 2.7), findings);
  const auto& draping = d.layup.drapes[layup::DrapeId{0}];
  CHECK(told(findings, "drape.unreached"));
  std::size_t bare = 0;
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    CHECK(test::near(draping.warp[e].norm(), 1.0));
    if (draping.piece_of[e]) continue;
    ++bare;
    CHECK(draping.shear[e] == 0.0f);
    CHECK((draping.warp[e] -
           frame::turned(d.layup.directions_of(part::PlyId{0})[e], d.geometry.normals[e], Angle::degrees(30)))
              .norm() < 1e-9);
  }
  CHECK(bare > 0);
}

TEST_CASE("a ply of two pieces, each from its own seed; a dart that yarns do not cross") {
  const std::string more = R"([zone.left]
box = { from = [-200, -200, -200], to = [0, 200, 200] }
[zone.right]
opposite = "left"
[drape.two]
pieces = ["port", "starboard"]
[drape.port]
seed = [-40, 0, 91.65]
zone = "left"
[drape.starboard]
seed = [40, 0, 91.65]
zone = "right"
[curve.slit]
points = [[0, 5, 99.87], [0, 75, 66.1]]
[drape.cut]
seed = [30, 40, 86.6]
darts = ["slit"]
)";
  Findings findings;
  const Design d = design(text(R"({ id = "A", material = "ud", angle = 0, drape = "two" },
{ id = "B", material = "ud", angle = 0, drape = "cut" },)",
                               more),
                          hundredfold(30, 0.8), findings);
  const auto& two = *d.layup.draping_of(part::PlyId{0});
  REQUIRE(two.pieces.size() == 2);
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e)
    CHECK(two.piece_of[e] == (d.geometry.centres[e].x() < 0 ? 1 : 2));
  const auto& cut = *d.layup.draping_of(part::PlyId{1});
  // The flat cloth's outline runs along both sides of the dart.
  const auto flat = drape::patterns(d.surface, *cut.pieces[0].surface, cut.pieces[0].laid, cut.elements);
  REQUIRE(flat.size() == 1);
  std::size_t beside = 0;
  for (const mesh::ElementIndex e : flat[0].beside[0]) {
    const Vec3& c = d.geometry.centres[e];
    beside += std::abs(c.x()) < 4 && c.y() > 10 && c.y() < 65;
  }
  CHECK(beside >= 2 * 2 * 8);
  const auto whole = drape::patterns(d.surface, *two.pieces[0].surface, two.pieces[0].laid, two.pieces[0].elements);
  REQUIRE(whole.size() == 1);
  CHECK(test::near(whole[0].area, 0.5 * flat[0].area, 0.05));
}

TEST_CASE("a part file with drapes reads back as the same part") {
  const std::string part =
      text(R"({ id = "A", material = "ud", angle = 30, drape = "net" },)",
           "[drape.net]\nseed = [1, 2, 99]\ndirection = [0, 2, 0]\nlay = \"led\"\ncell = 4\ndarts = [\"c\"]\nzone = "
           "\"everything\"\n[drape.two]\npieces = [\"net\"]\n[curve.c]\npoints = [[0, 0, 100], [50, 0, 80]]\n");
  Findings findings;
  const part::Part read = part::read_text(part, "d.toml", findings);
  REQUIRE(read.drapes.size() == 2);
  CHECK(read.drapes[0].direction->y() == 1.0);
  CHECK(read.plies[part::PlyId{0}].drape->value == "net");
  const std::string again = part::toml_text(read, "d.toml");
  CHECK(part::toml_text(part::read_text(again, "d.toml", findings), "d.toml") == again);
}

TEST_CASE("what is wrong with a drape is said once each") {
  const auto grid = hundredfold(8, 0.7);
  const std::string ply = R"({ id = "A", material = "ud", angle = 0, drape = "net" },)";
  CHECK(failure(text(ply, ""), grid).find("part.drape-unknown") == 0);
  CHECK(failure(text(ply, "[drape.net]\nlay = \"straight\"\n"), grid).find("part.key-missing") == 0);
  CHECK(failure(text(ply, "[drape.net]\nseed = [0, 0, 500]\n"), grid) == "drape.seed ");
  CHECK(failure(text(ply, net + "direction = [0, 0, 1]\n"), grid) == "drape.direction ");
  CHECK(failure(text(ply, net + "direction = [0, 0, 0]\n"), grid) == "part.value ");
  CHECK(failure(text(ply, net + "cell = 900\n"), grid) == "drape.cell ");
  CHECK(failure(text(ply, net + "cell = 1e-5\n"), grid) == "drape.cell ");
  CHECK(failure(text(ply, net + "along = \"keel\"\n"), grid) == "drape.curve-unknown ");
  CHECK(failure(text(ply, net + "darts = [\"keel\"]\n"), grid) == "drape.curve-unknown ");
  CHECK(failure(text(ply, net + "zone = \"hull\"\n"), grid) == "zone.unknown ");
  CHECK(failure(text(ply, net + "lay = \"fast\"\n"), grid) == "part.value ");
  CHECK(failure(text(ply, "[drape.net]\npieces = [\"a\"]\n[drape.a]\nseed = [0, 0, 100]\n"), grid) ==
        "part.key-missing ");
}

TEST_CASE("on a flat plate draping changes nothing, whatever the seed") {
  const auto grid = test::Grid::rectangle(12, 8, 300.0, 200.0);
  const std::string plies = R"({ id = "A", material = "twill", angle = 30DRAPED },
{ id = "B", material = "ud", angle = -45DRAPED },
{ id = "C", material = "ud", angle = 0 },)";
  const auto with = [&](const std::string& drape) {
    std::string out = plies;
    for (std::size_t at; (at = out.find("DRAPED")) != std::string::npos;) out.replace(at, 6, drape);
    return out;
  };
  Findings findings;
  const Design flat = design(text(with(""), ""), grid, findings),
               draped = design(text(with(", drape = \"net\""), "[drape.net]\nseed = [70, 40, 0]\n"), grid, findings);
  CHECK(draped.layup.drapes.size() == 2);
  for (mesh::ElementIndex e = 0; e < flat.surface.element_count(); ++e) {
    const auto stiffness = [&](const Design& d) {
      const section::SectionId s = d.sections.section_of[e];
      return laminate::stiffness(section::laminate_of(d.part, d.sections, s), d.sections.bottom[s]);
    };
    const auto a = stiffness(flat), b = stiffness(draped);
    CHECK((a.A - b.A).norm() < 1e-3 * a.A.norm());
    CHECK((a.D - b.D).norm() < 1e-3 * a.D.norm());
  }
  CHECK(test::near(layup::mass(draped).mass, layup::mass(flat).mass, 1e-6));
}

TEST_CASE("the warp follows a curve as far as it goes") {
  const auto grid = test::Grid::rectangle(30, 20, 300.0, 200.0);
  std::string points;
  for (int k = 0; k <= 40; ++k)  // a quarter of a circle of radius 150 from (50, 30)
    points +=
        fmt::format("[{:.6f}, {:.6f}, 0], ", 50 + 150 * std::sin(k * pi / 80), 30 + 150 * (1 - std::cos(k * pi / 80)));
  Findings findings;
  const Design d = design(
      text(R"({ id = "A", material = "ud", angle = 0, drape = "net" },)",
           "[drape.net]\nseed = [50, 30, 0]\nalong = \"arc\"\ncell = 4\n[curve.arc]\npoints = [" + points + "]\n"),
      grid, findings);
  const auto& net = d.layup.drapes[layup::DrapeId{0}].pieces[0].laid.net;
  std::size_t on_arc = 0;
  for (int i = 1; i < 55; ++i) {
    const auto* const knot = net.lattice.placed(i, 0);
    if (!knot) break;
    CHECK(test::near(std::hypot(knot->point.x() - 50, knot->point.y() - 180), 150, 1e-3));
    ++on_arc;
  }
  CHECK(on_arc > 45);
  // A net on a plane whose warp turns with the arc: weft runs straight, so every warp is the same arc, moved. Its shear is
  // how far the arc has turned.
  CHECK(d.layup.drapes[layup::DrapeId{0}].pieces[0].laid.net.stops[static_cast<std::size_t>(drape::Stop::apart)] == 0);
  const auto* const far = net.lattice.placed(20, 10);
  REQUIRE(far);
  const Vec3 moved =
      net.lattice.placed(20, 0)->point + (net.lattice.placed(0, 10)->point - net.lattice.placed(0, 0)->point);
  CHECK((far->point - moved).norm() < 1e-4);
}

TEST_CASE("a curve that cloth cannot follow is told, and at its seed cloth that can is as it is at rest") {
  const auto grid = test::Grid::rectangle(30, 20, 300.0, 200.0);
  const auto laid = [&](double angle, const std::string& seed) {
    Findings findings;
    return design(
        text(fmt::format("{{ id = \"A\", material = \"ud\", angle = {}, drape = \"net\" }},", angle),
             "[drape.net]\nseed = " + seed +
                 "\nalong = \"arc\"\ncell = 4\n[curve.arc]\npoints = [[20, 60, 0], [100, 70, 0], [280, 120, 0]]\n"),
        grid, findings);
  };
  const auto refused = [&](double angle, const std::string& seed) { return test::failure([&] { laid(angle, seed); }); };
  CHECK(refused(45, "[60, 65, 0]").find("[drape.along-askew]") != std::string::npos);
  CHECK(refused(0, "[60, 75, 0]").find("[drape.along-beside]") != std::string::npos);
  // Along the curve, which runs at 7.1° there, and across it: no shear at the seed.
  for (const double angle : {0.0, 90.0, -90.0, 180.0}) {
    INFO(angle);
    const Design d = laid(angle, "[60, 66, 0]");
    const layup::Draping& draping = d.layup.drapes[layup::DrapeId{0}];
    const auto at = mesh::nearest_element(d.geometry, Vec3(61, 65, 0)).index;
    CHECK(std::abs(draping.shear[at]) < 0.5f);
    const auto& knots = draping.pieces[0].laid.net.lattice;
    const bool warp = std::abs(std::fmod(angle, 180.0)) < 45;
    const auto* const next = warp ? knots.placed(5, 0) : knots.placed(0, 5);
    REQUIRE(next);
    CHECK(test::near(next->point.y() - 65.0, (next->point.x() - 60.0) / 8.0, 1e-6, 10.0));
  }
}

TEST_CASE("plies past their limit are told, and cloth without one") {
  const auto checked = [&](const std::string& limit) {
    std::string part = text(R"({ id = "A", material = "ud", angle = 0, drape = "net" },)", net);
    part.replace(part.find("shear-limit = 30\n"), 17, limit);
    Findings findings;
    const Design d = design(part, hundredfold(20, 0.8), findings);
    review::check(d, findings);
    return findings;
  };
  CHECK(told(checked("shear-limit = 20\n"), "drape.past-limit"));
  CHECK_FALSE(told(checked("shear-limit = 45\n"), "drape.past-limit"));
  CHECK(told(checked(""), "drape.no-limit"));
}

TEST_CASE("tape and cloth in one ply: the cloth thickens where it shears, the tape does not") {
  Findings findings;
  const Design d = design(text(R"({ id = "A", material = "ud", angle = 0, drape = "two" },)",
                               R"([drape.two]
pieces = ["tape", "cloth"]
[drape.tape]
seed = [-40, 0, 91.65]
zone = "left"
lay = "strips"
[drape.cloth]
seed = [40, 0, 91.65]
zone = "right"
[zone.left]
box = { from = [-200, -200, -200], to = [0, 200, 200] }
[zone.right]
opposite = "left"
)"),
                          hundredfold(20, 0.8), findings);
  layup::LayersOn layers_on(d);
  double thickest = 0.0;
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    const layup::LaidLayer layer = layers_on(e)[0];
    CHECK(test::near(layer.thickness, 0.2 / std::cos(layer.shear.radians())));
    if (d.geometry.centres[e].x() < 0)
      CHECK(layer.thickness == 0.2);
    else
      thickest = std::max(thickest, layer.thickness);
  }
  CHECK(thickest > 0.205);  // there is shear to tell it by
}

TEST_CASE("sheared cloth is held against its strengths yarn by yarn: warp and weft of a balanced one are alike") {
  std::string part = text(R"({ id = "A", material = "even", angle = 0 },)", "");
  part +=
      "[material.even]\nkind = \"fabric\"\nfibre = \"tow\"\nmatrix = \"glue\"\nfibre-volume = 0.5\nthickness = 0.3\nXt "
      "= 600\nXc = 500\nYt = 600\nYc = 500\nS12 = 90\n[material.tow]\nkind = \"fibre\"\nE1 = 230000\nE2 = 15000\nnu12 "
      "= "
      "0.2\nG12 = 15000\nnu23 = 0.4\ndensity = 1.78e-9\n[material.glue]\nkind = \"resin\"\nE = 3200\nnu = "
      "0.35\ndensity = 1.2e-9\n";
  Findings findings;
  const Design d = design(part, test::Grid::rectangle(2, 2, 10.0, 10.0), findings);
  layup::LayersOn layers_on(d);
  layup::LaidLayer laid = layers_on(0)[0];
  const material::Material& cloth = d.part.materials[laid.material];
  const std::array criteria{laminate::Criterion::maximum_stress};
  /// Pulled along a direction from the warp.
  const auto reserve = [&](double shear, double degrees) {
    laid.shear = Angle::degrees(shear);
    laid.angle = Angle();
    const laminate::Layer layer = layup::layer_of(d.part, laid);
    const double c = std::cos(degrees * pi / 180), s = std::sin(degrees * pi / 180);
    laminate::Load load;
    load.N = 100.0 * laminate::Vector3(c * c, s * s, c * s);
    return laminate::first_failures({{layer}, {&cloth}, 0.0}, load, criteria).front().factor;
  };
  for (const double shear : {-35.0, -10.0, 10.0, 35.0}) {
    INFO(shear);
    const double weft = 90.0 - shear;
    CHECK(test::near(reserve(shear, 0), reserve(shear, weft), 1e-9));
    CHECK(test::near(reserve(shear, 15), reserve(shear, weft - 15), 1e-9));
  }
  CHECK(test::near(reserve(1e-7, 20), reserve(0, 20), 1e-6));
}

TEST_CASE("sheared cloth is as thick along a line as on its elements, and expands as its yarns do") {
  // Expansion of the yarns: a fibre that shrinks a little, across it resin.
  std::string part = text(R"({ id = "A", material = "warm", angle = 0, drape = "net" },
{ id = "B", material = "ud", angle = 0 },)",
                          net);
  part +=
      "[material.warm]\nkind = \"fabric\"\nfibre = \"warm-yarn\"\nmatrix = \"warm-resin\"\nfibre-volume = "
      "0.5\nthickness = "
      "0.3\nshear-limit = 60\n[material.warm-yarn]\nkind = \"fibre\"\nE1 = 230000\nE2 = 15000\nnu12 = 0.2\nG12 = "
      "15000\nnu23 = 0.4\nalpha1 = -0.5e-6\nalpha2 = 15e-6\ndensity = 1.78e-9\n[material.warm-resin]\nkind = "
      "\"resin\"\nE = 3200\nnu = 0.35\nalpha = 60e-6\ndensity = 1.2e-9\n";
  Findings findings;
  const Design d = design(part, hundredfold(16, 0.8), findings);
  CHECK_FALSE(told(findings, "drape.expansion-unsheared"));
  layup::LayersOn layers_on(d);
  // Where the cap is sheared most, on a diagonal.
  const review::Profile cut = review::profile(d, {20, 20, 95}, {48, 48, 70});
  double thickest = 0.0;
  const mesh::Locator locator(d.surface);
  for (const review::Profile::Band& band : cut.bands) {
    if (band.ply != part::PlyId{0}) continue;
    const double at = 0.5 * (band.from + band.to);
    std::size_t k = 1;
    while (k + 1 < cut.at.size() && cut.at[k] < at) ++k;
    const double s = (at - cut.at[k - 1]) / (cut.at[k] - cut.at[k - 1]);
    const Vec3 point = (1 - s) * cut.points[k - 1] + s * cut.points[k];
    CHECK(test::near(band.thickness[0], layers_on(locator.nearest(point).element)[0].thickness, 1e-9));
    thickest = std::max(thickest, band.thickness[0]);
  }
  CHECK(thickest > 0.31);  // sheared by 15°
  // Two crossed layers by lamination theory, element by element.
  const material::Material& cloth = *std::find_if(d.part.materials.begin(), d.part.materials.end(),
                                                  [](const material::Material& m) { return m.name == "warm"; });
  REQUIRE((cloth.yarns && cloth.yarns->thermal));
  double most = 0.0;
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    const layup::LaidLayer laid = layers_on(e)[0];
    const auto yarn = [&](const material::Elastic& elastic, double share, Angle angle) {
      laminate::Layer out{.elastic = elastic, .thickness = share * laid.thickness, .angle = angle, .density = {}};
      out.thermal = *cloth.yarns->thermal;
      return out;
    };
    const Angle weft = laid.angle + Angle::degrees(90.0 - laid.shear.degrees());
    // Warp and weft in the middle of each other: no bending.
    const std::vector<laminate::Layer> crossed = {yarn(cloth.yarns->warp, 0.25, laid.angle),
                                                  yarn(cloth.yarns->weft, 0.5, weft),
                                                  yarn(cloth.yarns->warp, 0.25, laid.angle)};
    const laminate::Vector3 wanted =
        laminate::free_expansion(crossed, -0.5 * laid.thickness, laminate::Expands::by_temperature).strain;
    const laminate::Vector3 found =
        laminate::free_strain(layup::layer_of(d.part, laid), laminate::Expands::by_temperature);
    CHECK((found - wanted).norm() < 1e-6 * wanted.norm());
    most = std::max(most, std::abs(wanted[0] - wanted[1]) + std::abs(wanted[2]));
  }
  CHECK(most > 5e-6);
}

TEST_CASE("a table of properties by shear that ends before the cloth's shear is told") {
  std::string part = text(R"({ id = "A", material = "plain", angle = 0, drape = "net" },)", net);
  part +=
      "[material.plain]\nkind = \"fabric\"\nE1 = 58000\nE2 = 57000\nnu12 = 0.05\nG12 = 3900\nG13 = 3000\nG23 = "
      "3000\nthickness = 0.3\nshear-limit = 60\nalpha1 = 3e-6\nalpha2 = 3e-6\nsheared = [[0, 20000, 20000, 0.5, "
      "25000], "
      "[10, 22000, 19000, 0.5, 24000]]\n";
  Findings findings;
  design(part, hundredfold(16, 0.8), findings);
  CHECK(told(findings, "drape.table-ends"));
  CHECK(told(findings, "drape.expansion-unsheared"));
  // A line that no material has is refused.
  const std::string broken = part.replace(part.find("19000"), 5, "0    ");
  CHECK(failure(broken, hundredfold(6, 0.5)).find("part.value") != std::string::npos);
}

TEST_CASE("a fabric of which nobody knows what shear makes of it is told") {
  std::string part = text(R"({ id = "A", material = "plain", angle = 0, drape = "net" },)", net);
  part +=
      "[material.plain]\nkind = \"fabric\"\nE1 = 58000\nE2 = 57000\nnu12 = 0.05\nG12 = 3900\nG13 = 3000\nG23 = "
      "3000\nthickness = 0.3\nshear-limit = 60\n";
  Findings findings;
  design(part, hundredfold(16, 0.8), findings);
  CHECK(told(findings, "drape.unsheared"));
  Findings known;
  design(text(R"({ id = "A", material = "twill", angle = 0, drape = "net" },)", net), hundredfold(16, 0.8), known);
  CHECK_FALSE(told(known, "drape.unsheared"));
}

TEST_CASE("a seed on a dart is said to be there") {
  CHECK(failure(text(R"({ id = "A", material = "ud", angle = 0, drape = "net" },)",
                     net + "darts = [\"slit\"]\n[curve.slit]\npoints = [[0, -40, 91.6], [0, 40, 91.6]]\n"),
                hundredfold(10, 0.7)) == "drape.dart ");
}

}  // namespace of_layup_drape
