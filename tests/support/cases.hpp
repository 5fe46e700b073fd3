// Parts of a formula and a few lines of text, with load cases that CalculiX solves.
#pragma once

#include "solving.hpp"

#include <bordado/solids.hpp>

#include <fmt/format.h>
#include <Eigen/Eigenvalues>

#include <cmath>
#include <numbers>
#include <sstream>

namespace test {

/// A part and its solved cases.
struct Cases {
  bordado::Design design;
  bordado::model::Model model;
  std::vector<bordado::calculix::Solved> all;
  std::vector<bordado::calculix::Answer> answers;
  bordado::Findings findings;

  const bordado::calculix::Solved& of(const std::string& name) const { return all[at(name)]; }
  std::size_t at(const std::string& name) const {
    for (std::size_t i = 0; i < all.size(); ++i)
      if (all[i].name == name) return i;
    FAIL("no case " << name);
    return 0;
  }
  /// Displacement of the node of the deck nearest to a point.
  Vec3 moved(const std::string& name, const Vec3& point) const {
    const auto& answer = answers[at(name)];
    std::int64_t id = 0;
    double best = 1e300;
    const auto look = [&](const Vec3& place, std::int64_t node) {
      if ((place - point).norm() < best) best = (place - point).norm(), id = node;
    };
    if (model.solids)
      for (std::size_t n = 0; n < model.solids->points.size(); ++n)
        look(model.solids->points[n], static_cast<std::int64_t>(n) + 1);
    else
      for (std::size_t n = 0; n < model.surface.points.size(); ++n)
        look(model.surface.points[n], model.surface.node_ids[n]);
    for (const auto& row : answer.displacements)
      if (row.id == id) return row.value;
    FAIL("no displacement of node " << id);
    return Vec3::Zero();
  }
  /// Modes that move across the surface.
  std::vector<double> bending(const std::string& name) const {
    std::vector<double> out;
    for (const auto& mode : of(name).modes)
      if (!mode.reversed && mode.across > 0.5) out.push_back(mode.value);
    return out;
  }
  /// Values of the modes, of the loads the other way left out.
  std::vector<double> modes(const std::string& name) const {
    std::vector<double> out;
    for (const auto& mode : of(name).modes)
      if (!mode.reversed) out.push_back(mode.value);
    return out;
  }
};

struct CaseOptions {
  std::optional<bordado::model::SolidOptions> solids = {};
  bordado::deck::LayersAs layers = bordado::deck::LayersAs::plies;
  bool ply_results = false;
};

inline bordado::Design open_on(const Folder& folder, const std::string& text, const Grid& grid,
                               bordado::Findings& findings) {
  folder.write("grid.msh", msh(grid));
  return bordado::open(folder.write("part.toml", text), findings);
}

inline Cases solve_cases(const Folder& folder, const std::string& text, const Grid& grid,
                         const CaseOptions& options = {}) {
  using namespace bordado;
  Cases out;
  out.design = open_on(folder, text, grid, out.findings);
  // The model refers to its design, which stays where it is.
  out.model = assemble(out.design, {.quadratic = true, .laminate_only = false, .solids = options.solids}, out.findings);
  deck::WriteOptions write;
  write.ply_results = options.ply_results;
  write.layers = options.layers;
  out.all = calculix::solve_cases(out.model, folder / "part.inp", {.run = {}, .deck = write}, {}, 2, out.findings);
  for (const auto& solved : out.all) out.answers.push_back(calculix::read_answer(solved.run.dat));
  return out;
}

/// Loads of a rectangle's sides, each a force per length of 1: "pull-left" and its like out of the border, "shear-left" and its like
/// round it so that all four together shear the rectangle positively.
inline std::string edge_loads() {
  std::string out;
  for (const std::string side : {"left", "right", "front", "back"}) {
    out += fmt::format("[load.pull-{0}]\non = \"{0}\"\nedge-force = [1, 0, 0]\naxes = \"edge\"\n", side);
    out += fmt::format("[load.shear-{0}]\non = \"{0}\"\nedge-force = [0, {1}, 0]\naxes = \"edge\"\n", side,
                       side == "left" || side == "right" ? 1 : -1);
  }
  return out;
}

/// A part file for grid.msh: materials, plies as a code over everything, then whatever is loaded and held.
inline std::string case_part(const std::string& code, const std::string& conditions,
                             const std::string& more_materials = "", const std::string& surface = "middle") {
  return fmt::format(R"(
[part]
name = "Test"
units = "mm, t, s"
mesh = {{ file = "grid.msh", length = "mm" }}
side = {{ along = [0, 0, 1] }}
surface = "{}"
{}
{}
[layup]
plies = [ {{ id = "P", material = "ud", frame = "x", code = "{}" }} ]
{}
)",
                     surface, materials(), more_materials, code, conditions);
}

/// A listing of the solver with the strains of all elements, or of the first one, times a factor.
inline std::string with_strains(const std::string& listing, double factor, bool all) {
  std::istringstream in(listing);
  std::string out, first;
  bool strains = false;
  for (std::string line; std::getline(in, line);) {
    if (line.find("(") != std::string::npos) strains = line.find("strains (elem") != std::string::npos;
    std::istringstream words(line);
    std::string id, point;
    std::vector<double> six;
    words >> id >> point;
    for (double value = 0; words >> value;) six.push_back(value);
    if (strains && six.size() == 6) {
      if (first.empty()) first = id;
      if (all || id == first) {
        line = fmt::format("{:>10} {:>3}", id, point);
        for (const double value : six) line += fmt::format(" {:.6E}", factor * value);
      }
    }
    out += line + "\n";
  }
  return out;
}

/// "known": "ud" with strengths.
inline const std::string known_material = R"(
[material.known]
from = "ud"
Xt = 1900
Xc = 1100
Yt = 45
Yc = 160
S12 = 70
)";
/// A case_part() whose plies are of it.
inline std::string known_part(const std::string& code, const std::string& conditions) {
  std::string out = case_part(code, conditions, known_material);
  return out.replace(out.find("material = \"ud\", frame"), 15, "material = \"known\"");
}

/// A rectangle from the origin, held so that nothing but rigid motion is taken away.
inline std::string held_statically(double length, double width) {
  return fmt::format(
      "[support.origin]\npoint = [0, 0, 0]\nhold = [\"x\", \"y\", \"z\"]\n[support.right-corner]\npoint = [{}, 0, "
      "0]\nhold = [\"y\", \"z\"]\n[support.back-corner]\npoint = [0, {}, 0]\nhold = [\"z\"]\n",
      length, width);
}

/// All four sides of a rectangle on knife edges; the plane is held at two corners.
inline std::string knife_edges(double length) {
  std::string out;
  for (const std::string side : {"left", "right", "front", "back"})
    out += fmt::format("[support.{0}]\non = \"{0}\"\nhold = [\"z\"]\n", side);
  return out + fmt::format(
                   "[support.origin]\non = \"corner\"\nhold = [\"x\", \"y\"]\n"
                   "[support.right-corner]\npoint = [{}, 0, 0]\nhold = [\"y\"]\n",
                   length);
}

inline bordado::laminate::Stiffness stiffness_of(const bordado::Design& design, std::uint32_t section = 0) {
  const bordado::section::SectionId s{section};
  return bordado::laminate::stiffness(bordado::section::laminate_of(design.part, design.sections, s),
                                      design.sections.bottom[s]);
}
inline double mass_per_area(const bordado::Design& design) {
  return bordado::laminate::areal_mass(
      bordado::section::laminate_of(design.part, design.sections, bordado::section::SectionId{0}));
}

}  // namespace test
