// Stress beside steps of thickness, and in elements that edges of plies cross.
#include "stresses.hpp"

#include <bordado/mesh/care.hpp>
#include <bordado/mesh/io.hpp>

namespace of_result_ramp_stress {

using namespace bordado;
using laminate::Criterion;
using test::Grid;

namespace {

constexpr double length = 100, width = 10;

/// A strip bent by a pressure, with four plies that end at x = 52 (elements end at 50 and 55).
std::string part_text(const std::string& mesh, const std::string& edges, double slant) {
  return fmt::format(R"(
[part]
name = "Strip"
units = "mm, t, s"
mesh = {{ file = "{}", length = "mm" }}
side = {{ along = [0, 0, 1] }}
surface = "bottom"
{}thickness = 0.125
[zone.thick]
polygon = {{ corners = [[-10, -10, 0], [{}, -10, 0], [{}, 30, 0], [-10, 30, 0]], along = [0, 0, 1] }}
[layup]
material = "known"
frame = "x"
edges = "{}"
plies = [
  {{ id = "A", code = "[0/90/0/90]" }},
  {{ id = "B", code = "[0/90/90/0]", zone = "thick", edge = 2 }},
  {{ id = "C", code = "[90/0/90/0]" }},
]
[support.left]
on = "left"
hold = ["x", "z"]
[support.right]
on = "right"
hold = ["z"]
[support.middle]
point = [0, 0, 0]
hold = ["y"]
[load.p]
on = "plate"
face = "tool"
pressure = 0.01
)",
                     mesh, test::materials() + test::known_material, 50 - slant, 50 + 3 * slant, edges);
}

constexpr Criterion criteria[] = {Criterion::tsai_wu};

struct Judged {
  double least = 0.0;    ///< reserve of elements, those beside steps too
  double smeared = 0.0;  ///< the same if the mean strains were those of smeared plies
  Vec3 at;
  std::size_t doubtful = 0;
};

Judged judged(const test::Folder& folder, const std::string& part) {
  Findings findings;
  const Design design = open(part, findings);
  const model::Model model = assemble(design, {.quadratic = true}, findings);
  const auto solved = calculix::solve(model, folder / "strip.inp", {}, findings);
  const result::Recovery recovery(model, {criteria, criteria + 1});
  const std::size_t cases[] = {0};
  const auto reserves = recovery.reserves(std::span(&solved.fields, 1), cases);
  Judged out;
  out.doubtful = reserves.doubtful;
  out.least = 1e300;
  for (const result::Critical& one : reserves.of_elements)
    if (one.factor < out.least) out.least = one.factor, out.at = design.geometry.centres[one.element];
  // The usual way: the smeared stack under the section's strain.
  out.smeared = 1e300;
  for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) {
    const section::SectionId s = design.sections.section_of[e];
    const auto stack = section::laminate_of(design.part, design.sections, s);
    const std::vector<const material::Material*> materials(
        stack.size(), &*std::find_if(design.part.materials.begin(), design.part.materials.end(),
                                     [](const auto& m) { return m.name == "known"; }));
    laminate::SectionLoad section_load;
    section_load.deformation = solved.fields.sections[e].deformation;
    const laminate::Judge judge(stack, materials, design.sections.bottom[s], criteria);
    out.smeared = std::min(out.smeared, judge.worst(section_load).factor);
  }
  return out;
}

}  // namespace

TEST_CASE("an element that an edge crosses is judged by its true pieces, as a mesh cut there confirms") {
  for (const double slant : {0.0, 5.0}) {
    const test::Folder folder;
    folder.write("grid.msh", test::msh(Grid::rectangle(20, 4, length, 20)));
    const std::string part = folder.write("part.toml", part_text("grid.msh", "smeared", slant));
    const Judged crossed = judged(folder, part);
    Findings findings;
    const Design design = open(part, findings);
    mesh::CutReport report;
    mesh::write(layup::cut_at_edges(design, {}, report, findings), folder / "cut.msh");
    const Judged cut = judged(folder, folder.write("cut.toml", part_text("cut.msh", "whole", slant)));
    CAPTURE(slant);
    INFO("pieces " << crossed.least << " at " << crossed.at.transpose() << ", cut " << cut.least << " at "
                   << cut.at.transpose() << ", smeared " << crossed.smeared);
    // Straight across a row of elements it is the same; askew it is a little on the safe side.
    CHECK(crossed.least < 1.005 * cut.least);
    CHECK(crossed.least > (slant == 0.0 ? 0.995 : 0.9) * cut.least);
    CHECK(crossed.smeared > 1.015 * cut.least);  // what it would be otherwise is not safe
  }
}

TEST_CASE("elements beside a step are marked as far as stresses do not hold there") {
  const test::Folder folder;
  // Sides of 0.5 mm; 12 plies (1.5 mm) to 8 (1 mm) at x = 52: three times 1.5 before it, once 1.0 behind it.
  folder.write("grid.msh", test::msh(Grid::rectangle(200, 2, length, width)));
  Findings findings;
  const Design design = open(folder.write("part.toml", part_text("grid.msh", "smeared", 0.0)), findings);
  const model::Model model = assemble(design, {.quadratic = true}, findings);
  const result::Recovery recovery(model, {criteria, criteria + 1});
  double low = 1e300, high = -1e300;
  for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e)
    if (recovery.doubt(e) == result::Doubt::step) {
      low = std::min(low, design.geometry.centres[e].x());
      high = std::max(high, design.geometry.centres[e].x());
    } else {
      CHECK((design.geometry.centres[e].x() < 52 - 4.5 || design.geometry.centres[e].x() > 53.0));
    }
  CHECK(test::near(low, 52 - 4.25));
  CHECK(test::near(high, 52.75));
}

namespace {

/// A strip in plane strain, simply supported at its lower face, under a pressure p: M = p x (L - x) / 2 and no N, whatever
/// lies where, so that each place is a beam of the section there.
std::string bent_strip(const std::string& layup, double p) {
  return fmt::format(R"(
[part]
name = "Beam"
units = "mm, t, s"
mesh = {{ file = "grid.msh", length = "mm" }}
side = {{ along = [0, 0, 1] }}
surface = "bottom"
{}
[material.soft]
kind = "foam"
mark = "K"
E = 60
nu = 0.3
density = 80e-12
thickness = 6
{}
{}
[load.p]
on = "plate"
face = "tool"
pressure = {}
)",
                     test::materials() + test::known_material, layup, test::plane_strain(0), p);
}

/// The largest difference of stresses along plies from those of the stepped beam, of the largest anywhere, at elements that
/// are not doubtful and not crossed. \param thickness of every layer at a place along the strip; nought is none
struct AgainstBeam {
  double off = 0.0;
  Vec3 at;
  std::size_t judged = 0, doubtful = 0;
};
template <class Layers>
AgainstBeam against_beam(const Design& design, const result::Recovery& recovery, const model::CaseFields& fields,
                         double span, double p, Layers layers_at) {
  AgainstBeam out;
  double largest = 0.0;
  for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) {
    const double x = design.geometry.centres[e].x();
    if (recovery.doubtful(e)) {
      ++out.doubtful;
      continue;
    }
    const auto states = recovery.at(fields, 0, e);
    const std::vector<laminate::Layer> layers = layers_at(x);
    if (states.size() != 3 * layers.size() || x < 6 || x > span - 6) continue;  // crossed, or beside the supports
    ++out.judged;
    // Plane strain: A11, B11, D11 about the lower face; N = 0 gives the strain there.
    double A = 0, B = 0, D = 0, z = 0;
    for (const laminate::Layer& l : layers) {
      const double Q = laminate::rotated(laminate::plane_stress_stiffness(l.elastic), l.angle)(0, 0),
                   top = z + l.thickness;
      A += Q * (top - z), B += Q * (top * top - z * z) / 2, D += Q * (top * top * top - z * z * z) / 3;
      z = top;
    }
    const double M = 0.5 * p * x * (span - x), k = M / (D - B * B / A), e0 = -B / A * k;
    z = 0;
    for (std::size_t l = 0; l < layers.size(); ++l) {
      const auto Q = laminate::rotated(laminate::plane_stress_stiffness(layers[l].elastic), layers[l].angle);
      for (std::size_t place = 0; place < 3; ++place) {
        const double exact = Q(0, 0) * (e0 + k * (z + 0.5 * static_cast<double>(place) * layers[l].thickness));
        largest = std::max(largest, std::abs(exact));
        if (const double off = std::abs(states[3 * l + place].stress[0] - exact); off > out.off)
          out.off = off, out.at = design.geometry.centres[e];
      }
      z += layers[l].thickness;
    }
  }
  out.off /= largest;
  return out;
}

}  // namespace

TEST_CASE("a ply drop and a core's chamfer: stresses of the stepped beam") {
  const double span = 160, p = 0.005;
  struct Kind {
    std::string name, layup;
    bool core;
  };
  const Kind kinds[] = {{"ply drop", R"([zone.thick]
box = { from = [-1, -1, -1], to = [80, 99, 1] }
[layup]
material = "known"
frame = "x"
plies = [
  { id = "A", code = "[0/90/0/90]" },
  { id = "B", code = "[0/90]", zone = "thick" },
  { id = "C", code = "[90/0/90/0]" },
])",
                         false},
                        {"core", R"([zone.core]
box = { from = [-1, -1, -1], to = [100, 99, 1] }
[layup]
material = "known"
frame = "x"
plies = [
  { id = "A", code = "[0_4]" },
  { id = "K", material = "soft", zone = "core", chamfer = { length = 40 } },
  { id = "C", code = "[0_4]" },
])",
                         true}};
  for (const Kind& kind : kinds) {
    const test::Folder folder;
    folder.write("grid.msh", test::msh(Grid::rectangle(160, 2, span, 4)));
    Findings findings;
    const Design design = open(folder.write("part.toml", bent_strip(kind.layup, p)), findings);
    const model::Model model = assemble(design, {.quadratic = true}, findings);
    const auto solved = calculix::solve(model, folder / "strip.inp", {}, findings);
    const result::Recovery recovery(model, {criteria, criteria + 1});
    const auto named = [&](const std::string& name) {
      return *std::find_if(design.part.materials.begin(), design.part.materials.end(),
                           [&](const auto& m) { return m.name == name; });
    };
    const material::Material ply = named("known"), core = named("soft");
    const double t = design.layup.plies[part::PlyId{0}].thickness;
    const auto layers_at = [&](double x) {
      std::vector<laminate::Layer> out;
      const auto add = [&](const material::Material& m, double thickness, double angle) {
        laminate::Layer layer;
        layer.elastic = m.elastic, layer.thickness = thickness, layer.angle = Angle::degrees(angle);
        out.push_back(layer);
      };
      if (!kind.core) {
        for (const double angle : {0, 90, 0, 90}) add(ply, t, angle);
        if (x < 80)
          for (const double angle : {0, 90}) add(ply, t, angle);
        for (const double angle : {90, 0, 90, 0}) add(ply, t, angle);
      } else {
        for (int i = 0; i < 4; ++i) add(ply, t, 0);
        if (x < 100) add(core, 6.0 * std::min(1.0, (100 - x) / 40), 0);
        for (int i = 0; i < 4; ++i) add(ply, t, 0);
      }
      return out;
    };
    const AgainstBeam found = against_beam(design, recovery, solved.fields, span, p, layers_at);
    INFO(kind.name << ": off by " << found.off << " at " << found.at.transpose() << ", judged " << found.judged
                   << ", doubtful " << found.doubtful);
    CHECK(found.judged > 200);
    CHECK(found.off < 1e-3);
    // Plies that end are steps; a core that runs out slowly has none but where it is through.
    CHECK(found.doubtful > 0);
  }
}

TEST_CASE("where a core runs out its shear is that of the stepped beam, which solids confirm") {
  // Bent between supports and clamped like: the core is whole at the left and gone at x = 110. N = 0, M = p x (L - x) / 2.
  const double span = 160, p = 0.005, from = 40, to = 110, whole = 6;
  const std::string layup = fmt::format(R"([zone.core]
box = {{ from = [-1, -1, -1], to = [{}, 99, 1] }}
[layup]
material = "known"
frame = "x"
plies = [
  {{ id = "A", code = "[0_4]" }},
  {{ id = "K", material = "soft", zone = "core", chamfer = {{ length = {} }} }},
  {{ id = "C", code = "[0_4]" }},
])",
                                        to, to - from);
  const test::Folder folder;
  folder.write("grid.msh", test::msh(Grid::rectangle(160, 2, span, 4)));
  Findings findings;
  const Design design = open(folder.write("part.toml", bent_strip(layup, p)), findings);
  const auto recovered = [&](const std::optional<model::SolidOptions>& solids, const std::string& name) {
    const model::Model model =
        assemble(design, {.quadratic = true, .laminate_only = false, .solids = solids}, findings);
    const auto solved = calculix::solve(model, folder / name, {}, findings);
    const result::Recovery recovery(model, {criteria, criteria + 1});
    // Statics, in the chamfer, too: no N, and the M of a beam on two supports.
    const auto carried = recovery.carried(solved.fields, 0);
    for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e) {
      const double x = design.geometry.centres[e].x(), M = 0.5 * p * x * (span - x);
      if (x < 10 || x > span - 10) continue;
      CHECK(std::abs(carried[e].M[0] - M) < (solids ? 2e-3 : 1e-3) * M);
      CHECK(std::abs(carried[e].N[0]) < (solids ? 2e-3 : 1e-3) * M);
    }
    std::map<double, double> out;  // txz in the middle of the core, by x
    for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e)
      if (design.geometry.centres[e].y() < 2)
        for (const result::PlyState& s : recovery.at(solved.fields, 0, e))
          if (s.place == 1 && design.part.plies[s.ply].id == "K") out[design.geometry.centres[e].x()] = s.ply_shear[0];
    return out;
  };
  const auto named = [&](const std::string& name) {
    return *std::find_if(design.part.materials.begin(), design.part.materials.end(),
                         [&](const auto& m) { return m.name == name; });
  };
  const double Qf = laminate::plane_stress_stiffness(named("known").elastic)(0, 0),
               Qc = laminate::plane_stress_stiffness(named("soft").elastic)(0, 0), tf = 1.0;
  // What lies below the middle of the core bears, at x.
  const auto below = [&](double x) {
    const double c = whole * std::clamp((to - x) / (to - from), 0.0, 1.0);
    double A = 0, B = 0, D = 0, z = 0;
    for (const auto& [Q, t] : {std::pair{Qf, tf}, {Qc, c}, {Qf, tf}}) {
      A += Q * t, B += Q * (std::pow(z + t, 2) - z * z) / 2, D += Q * (std::pow(z + t, 3) - z * z * z) / 3;
      z += t;
    }
    const double k = 0.5 * p * x * (span - x) / (D - B * B / A), e0 = -B / A * k, half = 0.5 * c;
    return Qf * tf * (e0 + k * tf / 2) + Qc * half * (e0 + k * (tf + half / 2));
  };
  const auto shells = recovered({}, "shells.inp");
  const auto solids = recovered(model::SolidOptions{model::SolidOptions::Per::ply, 4}, "solids.inp");
  double largest = 0.0, off = 0.0, prismatic = 0.0, off_solids = 0.0;
  for (const auto& [x, txz] : shells) {
    if (x < 46 || x > 95) continue;  // where it begins and where it ends its slope is another
    const double exact = -(below(x + 1e-3) - below(x - 1e-3)) / 2e-3;
    largest = std::max(largest, std::abs(exact));
    off = std::max(off, std::abs(txz - exact));
    const double c = whole * (to - x) / (to - from);
    prismatic = std::max(prismatic, std::abs(-0.5 * p * (span - 2 * x) / (c + tf) * -1.0 - exact));
    // Solids know that faces on little core bend by themselves, and then shear it less.
    if (x < 70) off_solids = std::max(off_solids, std::abs(txz - solids.at(x)));
    CHECK(std::abs(txz) > std::abs(solids.at(x)));
  }
  INFO("off by " << off / largest << " of " << largest << ", prismatic " << prismatic / largest << ", solids "
                 << off_solids / largest);
  CHECK(off < 1e-3 * largest);
  CHECK(off_solids < 0.1 * largest);
  CHECK(prismatic > 0.5 * largest);  // what Q over d says
}

}  // namespace of_result_ramp_stress
