// Plies that end one after another on a strip, solved for real, against a beam of piecewise constant stiffness.
#include "support.hpp"

#include <fmt/format.h>

#include <cmath>

using namespace bordado;
using test::Grid;

namespace {

constexpr double length = 120.0, width = 8.0, ends_at = 80.0, ply = 0.125, force = 1.0;
constexpr int covers = 4, dropped = 16;  // on each face; between them, each ending one step before the last

/// Cross-ply, the middle plies first: [0/90] covers on both faces run through.
std::string strip(double step, std::string_view edges) {
  std::string plies;
  const auto add = [&](const std::string& name, int k, const std::string& more) {
    plies +=
        fmt::format("  {{ id = \"{}{}\", angle = {}, thickness = {}{} }},\n", name, k, k % 2 == 0 ? 0 : 90, ply, more);
  };
  for (int k = 0; k < covers; ++k) add("L", k, "");
  for (int k = 0; k < dropped; ++k)
    add("D", k, fmt::format(", zone = \"thick\", edge = {}", -step * std::abs(k - dropped / 2 + 0.5) + 0.5 * step));
  for (int k = 0; k < covers; ++k) add("U", k, "");
  return fmt::format(R"([part]
name = "Strip"
units = "mm, t, s"
mesh = {{ file = "grid.msh", length = "mm" }}
side = {{ along = [0, 0, 1] }}
surface = "bottom"
{}[zone.thick]
box = {{ from = [-1, -99, -1], to = [{}, 99, 1] }}
[layup]
material = "ud"
frame = "x"
edges = "{}"
plies = [
{}]
[support.root]
on = "left"
hold = "clamped"
[load.tip]
on = "right"
force = [0, 0, {}]
)",
                     test::materials(), ends_at, edges, plies, force);
}

/// The tip's deflection: unit-load theorem over pieces of constant laminate, each bent and sheared about its own neutral
/// axis, which the load (no axial force) asks nothing of. Independent of layups and sections: which plies there are at x
/// follows from where each ends.
double beam(double step) {
  std::vector<double> ends{length};
  for (int k = 0; k < dropped; ++k) ends.push_back(ends_at - step * std::abs(k - dropped / 2 + 0.5) + 0.5 * step);
  std::sort(ends.begin(), ends.end());
  double w = 0.0, from = 0.0;
  for (const double to : ends) {
    if (to <= from) continue;
    const double x = 0.5 * (from + to);
    std::vector<laminate::Layer> layers;
    const auto add = [&](int k) {
      layers.push_back({test::carbon(), ply, Angle::degrees(k % 2 == 0 ? 0.0 : 90.0), {}});
    };
    for (int k = 0; k < covers; ++k) add(k);
    for (int k = 0; k < dropped; ++k)
      if (x < ends_at - step * std::abs(k - dropped / 2 + 0.5) + 0.5 * step) add(k);
    for (int k = 0; k < covers; ++k) add(k);
    const laminate::Stiffness s = laminate::stiffness(layers, 0.0);
    const laminate::Compliance c = laminate::compliance(s);
    const auto cubed = [](double a) { return a * a * a; };
    w += force / width * c.d(0, 0) * (cubed(length - from) - cubed(length - to)) / 3.0;
    w += force / width * s.H.inverse()(0, 0) * (to - from);
    from = to;
  }
  return w;
}

double solved(const std::string& part, double element) {
  const test::Folder folder;
  const int along = static_cast<int>(std::lround(length / element));
  result::SolveOptions options;
  options.deck.layers = deck::LayersAs::equivalents;
  options.deck.ply_results = false;
  return test::solve(folder, part, Grid::rectangle(along, 2, length, width), options)
      .at(Vec3(length, width / 2, 0))
      .z();
}

}  // namespace

TEST_CASE(
    "a strip whose plies end in pairs bends as the stepped beam does; smeared edges are several times nearer to it "
    "than whole elements") {
  if (!test::have("ccx")) return;
  const double step = 2.5;  // two plies of it: 1:10
  const double exact = beam(step);
  // Elements that fit no step, about as long as a step and twice as long.
  for (const double element : {length / 47, length / 23}) {
    const double smeared = solved(strip(step, "smeared"), element) / exact - 1.0;
    const double whole = solved(strip(step, "whole"), element) / exact - 1.0;
    MESSAGE("elements of ", element, " mm: smeared off by ", 100 * smeared, " %, whole by ", 100 * whole, " %");
    // An element that holds less than a step of each ply is a little too stiff; one that holds all or nothing is off by
    // where the border of elements happens to lie.
    CHECK(std::abs(smeared) < 0.015);
    CHECK(std::abs(smeared) < 0.4 * std::abs(whole));
  }
  // Elements that end where the plies do hold them whole: what is left is the element's own error.
  CHECK(solved(strip(step, "whole"), step / 2) == doctest::Approx(exact).epsilon(0.003));
}
