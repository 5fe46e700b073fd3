#include "support.hpp"

#include <bordado/design.hpp>

#include <fmt/format.h>

#include <cmath>

namespace of_section_condense {

using namespace bordado;
using test::Grid;

namespace {

/// A dome, with plies in two frames whose angle to each other varies over it.
Design dome(const std::string& plies, double tolerance, int n = 24) {
  const test::Folder folder;
  folder.write("g.msh", test::msh({.nx = n, .ny = n, .map = [](double u, double v) {
                                     return Vec3(100 * u, 100 * v, 40 * std::sin(2 * u) * std::cos(v));
                                   }}));
  const std::string text = fmt::format(
      "[part]\nname = \"D\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"g.msh\", length = \"mm\" }}\nside = {{ along = "
      "[0, 0, 1] }}\nsurface = \"top\"\n{}"
      "[frame.y]\nvector = [0, 1, 0]\n[zone.half]\nbox = {{ from = [0, 0, -99], to = [50, 100, 99] "
      "}}\n[zone.other]\nfrom = \"everything\"\nminus = [\"half\"]\n"
      "[layup]\nmaterial = \"ud\"\nframe = \"x\"\nplies = [ {} ]\n",
      test::materials(), plies);
  Findings findings;
  return open(folder.write("d.toml", text), findings, {.angle_tolerance = Angle::degrees(tolerance)});
}

/// The element's stack with exact angles, from the directions of its plies.
std::vector<laminate::Layer> exact(const Design& d, mesh::ElementIndex e) {
  std::vector<laminate::Layer> out;
  for (const auto p : d.layup.plies_of(d.layup.stack_of[e])) {
    const layup::Ply& ply = d.layup.plies[p];
    const Vec3 fibre = frame::turned(d.layup.directions_of(p)[e], d.geometry.normals[e], ply.angle);
    out.push_back({d.part.materials[ply.material].elastic, ply.thickness,
                   frame::between(d.sections.references[e], fibre, d.geometry.normals[e]), 0});
  }
  return out;
}

const std::string two_frames =
    R"({ id = "A", angle = 0 }, { id = "B", angle = 30, frame = "y" }, { id = "C", angle = 45 })";

}  // namespace

TEST_CASE("stacks in one frame become one section each, exactly") {
  const Design d = dome(R"({ id = "A", code = "[0/45/-45/90]s" }, { id = "B", angle = 0, zone = "half" })", 0.5);
  CHECK(d.sections.count() == 2);
  CHECK(d.sections.deviation.largest_angle.degrees() == 0.0);
  CHECK(d.sections.deviation.largest_A == 0.0);
  CHECK(test::near(d.sections.bottom[d.sections.section_of[0]],
                   -d.sections.thickness[d.sections.section_of[0]]));  // top on the mesh
}

TEST_CASE("equal layers share a section even where the plies are other pieces") {
  const Design d = dome(
      R"({ id = "A", angle = 0 }, { id = "L", angle = 45, zone = "half" }, { id = "R", angle = 45, zone = "other" })",
      0.5);
  CHECK(d.layup.stack_count() == 2);
  CHECK(d.sections.count() == 1);
}

TEST_CASE("the deviation told is the deviation there is, and within the tolerance") {
  for (const double tolerance : {2.0, 0.5, 0.1}) {
    const Design d = dome(two_frames, tolerance);
    const auto& told = d.sections.deviation;
    double largest_angle = 0, largest[3] = {}, mean[3] = {}, sum_angle = 0;
    for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
      const auto real = exact(d, e), used = section::laminate_of(d.part, d.sections, d.sections.section_of[e]);
      const double z0 = d.sections.bottom[d.sections.section_of[e]], h = laminate::thickness(real);
      const auto k = laminate::stiffness(real, z0), c = laminate::stiffness(used, z0);
      const double relative[3] = {(c.A - k.A).norm() / k.A.norm(), (c.B - k.B).norm() / (0.5 * h * k.A.norm()),
                                  (c.D - k.D).norm() / k.D.norm()};
      for (int i = 0; i < 3; ++i)
        largest[i] = std::max(largest[i], relative[i]),
        mean[i] += relative[i] / static_cast<double>(d.surface.element_count());
      for (std::size_t i = 0; i < real.size(); ++i) {
        const double off = std::abs(same_fibre(used[i].angle - real[i].angle).degrees());
        largest_angle = std::max(largest_angle, off);
        sum_angle += off;
      }
    }
    INFO("tolerance " << tolerance << ", " << d.sections.count() << " sections");
    CHECK(told.largest_angle.degrees() <= tolerance * (1 + 1e-9));
    CHECK(test::near(told.largest_angle.degrees(), largest_angle, 1e-6));
    CHECK(test::near(told.mean_angle.degrees(), sum_angle / (3.0 * static_cast<double>(d.surface.element_count())),
                     1e-6));
    CHECK(test::near(told.largest_A, largest[0], 1e-6));
    CHECK(test::near(told.largest_B, largest[1], 1e-6));
    CHECK(test::near(told.largest_D, largest[2], 1e-6));
    CHECK(test::near(told.mean_A, mean[0], 1e-6));
    CHECK(test::near(told.mean_B, mean[1], 1e-6));
    CHECK(test::near(told.mean_D, mean[2], 1e-6));
    CHECK(largest_angle > 0.5 * tolerance);  // the tolerance was really used
  }
}

TEST_CASE("a smaller tolerance makes more sections and a smaller error") {
  const Design coarse = dome(two_frames, 2.0), fine = dome(two_frames, 0.1);
  CHECK(fine.sections.count() > 3 * coarse.sections.count());
  CHECK(fine.sections.deviation.largest_A < 0.2 * coarse.sections.deviation.largest_A);
}

TEST_CASE("the reference is the frame of the first ply, in the element's plane") {
  const Design d = dome(R"({ id = "A", angle = 30, frame = "y" }, { id = "B", angle = 0 })", 0.5);
  for (mesh::ElementIndex e = 0; e < d.surface.element_count(); ++e) {
    CHECK((d.sections.references[e] - d.layup.frames.all()[1].directions[e]).norm() < 1e-15);
    CHECK(d.sections.layers_of(d.sections.section_of[e])[0].angle.degrees() ==
          30.0);  // in its own frame a ply keeps its declared angle
  }
}

TEST_CASE("sections are numbered alike in every run") {
  const Design a = dome(two_frames, 0.5, 90), b = dome(two_frames, 0.5, 90);  // 8100 elements: several blocks of work
  CHECK(a.sections.section_of == b.sections.section_of);
  CHECK(a.sections.layers == b.sections.layers);
  CHECK(a.sections.deviation.mean_A == b.sections.deviation.mean_A);
}

}  // namespace of_section_condense
