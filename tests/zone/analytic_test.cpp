// Areas, zones by distance and frames on surfaces that have closed forms, on three meshes each, with the order at which
// the errors fall.
#include "support.hpp"

#include <bordado/frame.hpp>
#include <bordado/mesh/care.hpp>

#include <fmt/format.h>

#include <Eigen/Geometry>

#include <cmath>

namespace of_zone_analytic {

using namespace bordado;
using test::Grid;

namespace {

constexpr double pi = std::numbers::pi;

/// A surface of revolution about z, or a plane: u runs round it, v away from its front edge.
struct Shape {
  std::string name;
  std::function<Vec3(double u, double v)> map;
  double area;                               ///< of all of it
  double within;                             ///< distance from the edge v = 0
  double strip;                              ///< exact area within that distance
  std::function<Vec3(const Vec3& p)> round;  ///< exact direction of growing u
};

std::vector<Shape> shapes() {
  const auto hoop = [](const Vec3& p) { return Vec3(-p.y(), p.x(), 0).normalized(); };
  const double turn = 1.5;  // how far round, radians
  const auto revolved = [turn](auto radius, auto height) {
    return [=](double u, double v) {
      return Vec3(radius(v) * std::cos(turn * u), radius(v) * std::sin(turn * u), height(v));
    };
  };
  return {
      {"plane", [](double u, double v) { return Vec3(3 * u, 2 * v, 1); }, 6.0, 0.7, 3 * 0.7,
       [](const Vec3&) { return Vec3::UnitX(); }},
      {"cylinder", revolved([](double) { return 2.0; }, [](double v) { return 3 * v; }), turn * 2 * 3, 1.1,
       turn * 2 * 1.1, hoop},
      {"cone", revolved([](double v) { return 1 + 1.2 * v; }, [](double v) { return 1.6 * v; }), turn * (1 + 0.6) * 2,
       0.9, turn * (1 + 0.6 * 0.45) * 0.9, hoop},
      {"sphere",
       revolved([](double v) { return 2 * std::cos(1.1 * v); }, [](double v) { return 2 * std::sin(1.1 * v); }),
       turn * 4 * std::sin(1.1), 0.9, turn * 4 * std::sin(0.45), hoop},
      {"torus", revolved([](double v) { return 3 + std::cos(2 * v); }, [](double v) { return std::sin(2 * v); }),
       turn * (3 * 2 + std::sin(2.0)), 1.3, turn * (3 * 1.3 + std::sin(1.3)), hoop},
  };
}

struct Errors {
  double area, strip, along, axis;
};

Errors errors(const Shape& shape, int n, bool triangles) {
  const mesh::Surface surface = test::surface({.nx = n, .ny = n, .map = shape.map, .triangles = triangles});
  const mesh::Geometry geometry = mesh::geometry(surface);
  Findings findings;
  const part::Part part = part::read_text(
      fmt::format("[part]\nname = \"A\"\nunits = \"mm, t, s\"\nmesh = {{ file = \"g.msh\", length = \"mm\" }}\nside = "
                  "\"as-meshed\"\nsurface = \"bottom\"\n{}[zone.strip]\nnear = {{ of = \"front\", within = {} }}\n"
                  "[layup]\nplies = [ {{ id = \"P\", material = \"ud\", frame = \"x\", angle = 0 }} ]\n",
                  test::materials(), shape.within),
      "a.toml", findings);
  const zone::Curves curves = zone::curves(part, surface, geometry);
  const zone::ZoneSets zones = zone::zones(part, surface, geometry, curves, findings);
  const auto field = [&](const auto& kind) {
    return frame::field({"f", kind, {}, {}, {}, {}}, {part, surface, geometry, curves, zones}, findings).directions;
  };
  const auto axial = field(part::Cylindrical{{0, 0, 0}, {0, 0, 1}, part::Cylindrical::Take::hoop});
  // Along the front edge itself the carried direction is the edge's.
  const auto along = field(part::AlongCurves{{{"front", {}}}});
  Errors out{std::abs(mesh::size(surface, geometry).area / shape.area - 1),
             std::abs(zones.exact_areas[*zones.find("strip")] / shape.strip - 1), 0.0, 0.0};
  const mesh::Group* const front = surface.group("front", 1);
  const mesh::NodeTable at_nodes = mesh::elements_at_nodes(surface);
  // Away from the corners, where nothing holds the direction on the other side.
  for (std::size_t k = front->edges.size() / 4; k < 3 * front->edges.size() / 4; ++k)
    for (const mesh::ElementIndex e : at_nodes.of(front->edges[k].first)) {
      const double cosine = std::abs(shape.round(geometry.centres[e]).dot(along[e]));
      out.along = std::max(out.along, std::acos(std::min(1.0, cosine)));
    }
  for (mesh::ElementIndex e = 0; e < surface.element_count() && shape.name != "plane"; ++e) {
    const Vec3& normal = geometry.normals[e];
    const Vec3 exact = shape.round(geometry.centres[e]);
    out.axis = std::max(
        out.axis,
        std::abs(frame::between((exact - exact.dot(normal) * normal).normalized(), axial[e], normal).radians()));
  }
  return out;
}

}  // namespace

TEST_CASE(
    "plane, cylinder, cone, sphere, torus: areas and distance zones of second order, frames along edges of first") {
  for (const Shape& shape : shapes())
    for (const bool triangles : {false, true}) {
      const Errors coarse = errors(shape, 8, triangles), middle = errors(shape, 16, triangles),
                   fine = errors(shape, 32, triangles);
      const auto order = [](double first, double last) { return last > 1e-12 ? std::log2(first / last) / 2 : 99.0; };
      INFO(fmt::format("{}{}: area {:.1e} {:.1e} {:.1e}, strip {:.1e} {:.1e} {:.1e}, along {:.1e} {:.1e} {:.1e}",
                       shape.name, triangles ? ", triangles" : "", coarse.area, middle.area, fine.area, coarse.strip,
                       middle.strip, fine.strip, coarse.along, middle.along, fine.along));
      CHECK(fine.area < 1e-3);
      CHECK(order(coarse.area, fine.area) > 1.8);
      CHECK(fine.strip < 2e-3);
      CHECK((fine.strip < 1e-9 || order(coarse.strip, fine.strip) > 1.5));
      CHECK(fine.along < 0.05);
      CHECK((fine.along < 1e-6 || order(coarse.along, fine.along) > 0.8));
      CHECK(fine.axis < 1e-12);  // what is exact about an axis stays exact at each element's centre
    }
}

}  // namespace of_zone_analytic
