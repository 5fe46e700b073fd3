// Stress beside steps of thickness, and in elements that edges of plies cross.
#include "cases.hpp"

#include <bordado/recovery.hpp>

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
  const deck::Model model = assemble(design, {.quadratic = true}, findings);
  const auto solved = result::solve(model, folder / "strip.inp", {}, findings);
  const result::Recovery recovery(design, model, {criteria, criteria + 1});
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
    laminate::Straining straining;
    straining.deformation = solved.fields.sections[e].deformation;
    const laminate::Judge judge(stack, materials, design.sections.bottom[s], criteria);
    out.smeared = std::min(out.smeared, judge.worst(straining).factor);
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
    mesh::write(layup::cut_at_edges(design.layup, design.surface, design.geometry, {}, report, findings),
                folder / "cut.msh");
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
  const deck::Model model = assemble(design, {.quadratic = true}, findings);
  const result::Recovery recovery(design, model, {criteria, criteria + 1});
  double low = 1e300, high = -1e300;
  for (mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e)
    if (recovery.doubtful(e)) {
      low = std::min(low, design.geometry.centres[e].x());
      high = std::max(high, design.geometry.centres[e].x());
    } else {
      CHECK((design.geometry.centres[e].x() < 52 - 4.5 || design.geometry.centres[e].x() > 53.0));
    }
  CHECK(low == doctest::Approx(52 - 4.25));
  CHECK(high == doctest::Approx(52.75));
}
