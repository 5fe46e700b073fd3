// Frames along curves, by guide surfaces, blended, turned by fields and mapped from other meshes, against closed forms.
#include "support.hpp"

#include <bordado/frame.hpp>
#include <bordado/mesh/io.hpp>

#include <fmt/format.h>

#include <Eigen/Geometry>

#include <cmath>
#include <random>

namespace of_frame_carried {

using namespace bordado;
using test::Grid;

namespace {

constexpr double pi = std::numbers::pi;

struct Made {
  mesh::Surface surface;
  mesh::Geometry geometry;
  part::Part part;
  frame::Field field;
  Findings findings;
  Vec3 at(mesh::ElementIndex e) const { return field.directions[e]; }
  std::string explained(mesh::ElementIndex e) const {
    return frame::explain(part.frames.front(), part, geometry, field, e);
  }
};

/// The first frame of the text on a grid.
Made make(const std::string& text, const Grid& grid, const std::string& folder = "") {
  Made out;
  out.part = part::read_text(
      "[part]\nname = \"F\"\nunits = \"mm, t, s\"\nmesh = { file = \"g.msh\", length = \"mm\" }\nside = \"as-meshed\"\n"
      "surface = \"bottom\"\n" +
          text + test::materials() +
          "[layup]\nplies = [ { id = \"P\", material = \"ud\", frame = \"x\", angle = 0 } ]\n",
      (folder.empty() ? "" : folder + "/") + "f.toml", out.findings);
  out.surface = test::surface(grid);
  out.geometry = mesh::geometry(out.surface);
  const zone::Curves curves = zone::curves(out.part, out.surface, out.geometry);
  const zone::ZoneSets zones = zone::zones(out.part, out.surface, out.geometry, curves, out.findings);
  out.field = frame::field(out.part.frames.front(), {out.part, out.surface, out.geometry, curves, zones}, out.findings);
  return out;
}

/// The largest angle between the field and what it should be, degrees.
double largest_error(const Made& made, const std::function<Vec3(const Vec3& centre, const Vec3& normal)>& exact) {
  double largest = 0.0;
  for (mesh::ElementIndex e = 0; e < made.surface.element_count(); ++e) {
    const Vec3& n = made.geometry.normals[e];
    const Vec3 wanted = exact(made.geometry.centres[e], n);
    const Vec3 in_plane = wanted - wanted.dot(n) * n;
    largest = std::max(largest, std::abs(frame::between(in_plane.normalized(), made.at(e), n).degrees()));
  }
  return largest;
}

/// Cut off askew, so that it lies on itself in one way only.
Grid tube(int n, bool triangles = false) {
  return {.nx = n,
          .ny = n,
          .map = [](double u,
                    double v) { return Vec3(10 * std::cos(2 * u), 10 * std::sin(2 * u), 20 * v * (1 + 0.4 * u)); },
          .triangles = triangles};
}

}  // namespace

TEST_CASE("along a straight edge of a plane, a cylinder and a cone the direction is carried unchanged") {
  for (const bool triangles : {false, true}) {
    const Grid plate{.nx = 14,
                     .ny = 9,
                     .map = [](double u, double v) { return Vec3(3 * u + v * v, 2 * v - u * v, 0); },
                     .triangles = triangles};
    // The left edge is curved; a straight line across it guides.
    const Made plane = make("[curve.c]\npoints = [[0.5, 0.2, 0], [2, 0.7, 0]]\n[frame.f]\nalong = \"c\"\n", plate);
    CHECK(largest_error(plane, [](const Vec3&, const Vec3&) { return Vec3(3, 1, 0); }) < 1e-4);
    for (const double doubt : plane.field.doubt) CHECK(doubt < 1e-5);
    // A helix on a cylinder keeps its angle to the axis.
    std::string helix = "[curve.c]\npoints = [";
    for (int k = 0; k <= 200; ++k)
      helix += fmt::format("[{}, {}, {}],", 10 * std::cos(0.01 * k), 10 * std::sin(0.01 * k), 2 + 0.08 * k);
    const Made cylinder = make(helix + "]\n[frame.f]\nalong = \"c\"\n", tube(24, triangles));
    CHECK(largest_error(cylinder, [](const Vec3& c, const Vec3&) {
            return Vec3(Vec3(-c.y(), c.x(), 0).normalized() * 0.1 + Vec3(0, 0, 0.08));
          }) < 0.15);
    // From one straight line of a cone: rolled out, the direction stays that of the line.
    const auto cone = [](double u, double v) {
      const double s = 4 + 6 * v;
      return Vec3(0.5 * s * std::cos(2 * u), 0.5 * s * std::sin(2 * u), std::sqrt(0.75) * s);
    };
    const Made line = make("[frame.f]\nalong = \"left\"\n", {.nx = 30, .ny = 20, .map = cone, .triangles = triangles});
    CHECK(largest_error(line, [](const Vec3& c, const Vec3&) {
            const double rolled = 0.5 * std::atan2(c.y(), c.x());
            return Vec3(std::cos(rolled) * c.normalized() - std::sin(rolled) * Vec3(-c.y(), c.x(), 0).normalized());
          }) < 0.1);
  }
}

TEST_CASE(
    "a wavy edge steers the fibres: the waves fade as the closed form says, with the square of the element size") {
  // A small wave a cos(2 pi x) of the angle at y = 0 of a plate 1 by 0.5 obeys Laplace's equation with nothing crossing
  // the other sides: angle = a cos(2 pi x) cosh(2 pi (0.5 - y)) / cosh(pi).
  const double amplitude = 0.1;
  const auto height = [&](double x) { return amplitude * std::sin(2 * pi * x) / (2 * pi); };
  double before = 0.0;
  for (const int n : {8, 16, 32}) {
    const double small = 0.003;  // the line itself must stay near y = 0
    std::string points = "[curve.c]\npoints = [";
    for (int k = 0; k <= 400; ++k) points += fmt::format("[{}, {}, 0],", k / 400.0, small * height(k / 400.0));
    const Made made = make(points + "]\n[frame.f]\nalong = \"c\"\n",
                           {.nx = 2 * n, .ny = n, .map = [](double u, double v) { return Vec3(u, 0.5 * v, 0); }});
    double error = 0.0;
    for (mesh::ElementIndex e = 0; e < made.surface.element_count(); ++e) {
      const Vec3& p = made.geometry.centres[e];
      const double angle = amplitude * std::cos(2 * pi * p.x()) * std::cosh(2 * pi * (0.5 - p.y())) / std::cosh(pi);
      error = std::max(error, std::abs(std::atan2(made.at(e).y(), made.at(e).x()) / small - angle));
    }
    INFO(n << ": " << error / amplitude);
    CHECK(error < 0.15 * amplitude);
    if (before > 0.0) CHECK(error < 0.45 * before);
    before = error;
  }
}

TEST_CASE("round a sphere's equator the direction is that of the parallels, whatever the mesh") {
  double before = 0.0;
  for (const int n : {8, 16, 32}) {
    const Grid band{.nx = 2 * n,
                    .ny = n,
                    .map =
                        [](double u, double v) {
                          const double a = 2 * pi * u, b = 1.2 * (v - 0.5);
                          return Vec3(std::cos(b) * std::cos(a), std::cos(b) * std::sin(a), std::sin(b));
                        },
                    .triangles = true,
                    .closed_u = true};
    std::string circle = "[curve.c]\nclosed = true\npoints = [";
    for (int k = 0; k < 4 * n; ++k)
      circle += fmt::format("[{}, {}, 0],", std::cos(pi * k / (2 * n)), std::sin(pi * k / (2 * n)));
    const Made made = make(circle + "]\n[frame.f]\nalong = \"c\"\n", band);
    const double error = largest_error(made, [](const Vec3& p, const Vec3&) { return Vec3(-p.y(), p.x(), 0); });
    INFO(n << ": " << error);
    if (before > 0.0) CHECK(error < 0.6 * before);
    before = error;
  }
  CHECK(before < 1.0);
}

TEST_CASE("the direction does not jump where the nearest point of the curve does") {
  // A V of two lines: between its arms the nearest point jumps from one to the other.
  const Made made = make("[curve.c]\npoints = [[0, 10, 0], [10, 5, 0], [20, 10, 0]]\n[frame.f]\nalong = \"c\"\n",
                         Grid::rectangle(40, 20, 20, 10));
  const mesh::EdgeTable table = mesh::edges(made.surface);
  double largest = 0.0;
  for (std::size_t j = 0; j < table.size(); ++j) {
    if (table.first[j + 1] - table.first[j] != 2) continue;
    const mesh::ElementIndex a = table.uses[table.first[j]].element, b = table.uses[table.first[j] + 1].element;
    if ((made.geometry.centres[a] - Vec3(10, 5, 0)).norm() < 2.0) continue;  // at the point of the V it must turn
    largest = std::max(largest, std::abs(frame::between(made.at(a), made.at(b), Vec3::UnitZ()).degrees()));
  }
  CHECK(largest < 8.0);  // the arms differ by 53 degrees
}

TEST_CASE("a frame is blended smoothly over a distance, and turned by a table or a field") {
  const std::string two = "[frame.a]\nvector = [1, 0, 0]\n[frame.b]\nvector = [1, 1, 0]\n";
  const Grid plate = Grid::rectangle(40, 4, 40, 4);
  const Made blend =
      make("[frame.f]\nblend = { from = \"a\", to = \"b\", start = \"left\", over = 20 }\n" + two, plate);
  for (mesh::ElementIndex e = 0; e < blend.surface.element_count(); ++e) {
    const double s = std::min(1.0, blend.geometry.centres[e].x() / 20);
    CHECK(test::near(frame::between(Vec3::UnitX(), blend.at(e), Vec3::UnitZ()).degrees(), 45 * s * s * (3 - 2 * s)));
  }
  CHECK(blend.explained(9).find("% of the way from frame 'a' to 'b'") != std::string::npos);
  const Made table =
      make("[frame.f]\nvector = [1, 0, 0]\nturn = { of = \"left\", table = [[0, 10], [10, 10], [30, -20]] }\n", plate);
  for (mesh::ElementIndex e = 0; e < table.surface.element_count(); ++e) {
    const double d = table.geometry.centres[e].x();
    CHECK(test::near(frame::between(Vec3::UnitX(), table.at(e), Vec3::UnitZ()).degrees(), d < 10 ? 10
                                                                                          : d > 30
                                                                                              ? -20
                                                                                              : 10 - 1.5 * (d - 10)));
  }
  const test::Folder folder;
  const mesh::Surface coarse = test::surface(Grid::rectangle(5, 2, 40, 4));
  mesh::Array angle{"steer", true, 1, {}};
  for (const Vec3& p : coarse.points) angle.values.push_back(0.5 * p.x() - 2 * p.y());
  mesh::write(coarse, folder / "steer.vtu", std::vector{angle});
  const Made field =
      make("[frame.f]\nvector = [1, 0, 0]\nturn = { file = \"steer.vtu\", field = \"steer\" }\n", plate, folder.path());
  for (mesh::ElementIndex e = 0; e < field.surface.element_count(); ++e) {
    const Vec3& p = field.geometry.centres[e];
    CHECK(test::near(frame::between(Vec3::UnitX(), field.at(e), Vec3::UnitZ()).degrees(), 0.5 * p.x() - 2 * p.y()));
  }
}

namespace {

/// A direction on the tube that is known everywhere: it turns as it goes along.
Vec3 spiral(const Vec3& p) {
  const double angle = 0.3 + 0.04 * p.z();
  return std::cos(angle) * Vec3(-p.y(), p.x(), 0).normalized() + std::sin(angle) * Vec3::UnitZ();
}

/// A tube of other elements with the spiral on it, in another place; vectors or tensors, on nodes or cells.
void write_source(const std::string& path, int n, const Eigen::Isometry3d& away, bool tensors, bool on_nodes) {
  mesh::Surface source = test::surface(tube(n, true));
  const mesh::Geometry geometry = mesh::geometry(source);
  mesh::Array fibre{"fibre", on_nodes, tensors ? 6u : 3u, {}};
  for (const Vec3& p : on_nodes ? source.points : geometry.centres) {
    const Vec3 d = away.linear() * spiral(p);
    if (tensors)
      for (const auto& [i, j] : {std::pair(0, 0), {1, 1}, {2, 2}, {0, 1}, {1, 2}, {0, 2}})
        fibre.values.push_back(d[i] * d[j]);
    else
      fibre.values.insert(fibre.values.end(), d.begin(), d.end());
  }
  for (Vec3& p : source.points) p = away * p;
  mesh::write(source, path, std::vector{fibre});
}

}  // namespace

TEST_CASE("directions of another mesh in another place are mapped, better with finer meshes") {
  const test::Folder folder;
  Eigen::Isometry3d away = Eigen::Isometry3d::Identity();
  away.linear() = Eigen::AngleAxisd(0.5, Vec3(1, 2, 3).normalized()).toRotationMatrix();
  away.translation() = Vec3(70, -20, 5);
  const Eigen::Isometry3d back = away.inverse();
  const Eigen::AngleAxisd turn(back.linear());
  std::string pairs = "pairs = [";
  for (const Vec3& p : {Vec3(10, 0, 0), Vec3(0, 10, 20), Vec3(10, 0, 20), Vec3(-4, 9, 3)}) {
    const Vec3 q = away * p;
    pairs += fmt::format("[[{}, {}, {}], [{}, {}, {}]],", q.x(), q.y(), q.z(), p.x(), p.y(), p.z());
  }
  const Vec3 axis = turn.axis(), move = back.translation();
  const std::string rigid = fmt::format("axis = [{}, {}, {}], angle = {}, move = [{}, {}, {}]", axis.x(), axis.y(),
                                        axis.z(), turn.angle() * 180 / pi, move.x(), move.y(), move.z());
  const auto exact = [](const Vec3& c, const Vec3&) { return spiral(c); };
  const auto mapped = [&](const std::string& position) {
    return make("[frame.f]\nmapped = { file = \"away.vtu\", field = \"fibre\", " + position + " }\n", tube(17),
                folder.path());
  };
  for (const bool on_nodes : {true, false})
    for (const bool tensors : {false, true}) {
      double before = 0.0;
      for (const int n : {10, 20, 40}) {
        write_source(folder / "away.vtu", n, away, tensors, on_nodes);
        const Made made = mapped(rigid);
        const auto line = [&](const Vec3& c, const Vec3& normal) {  // a tensor has no sense
          const Vec3 d = spiral(c);
          (void)normal;
          return d;
        };
        double error = 0.0;
        for (mesh::ElementIndex e = 0; e < made.surface.element_count(); ++e) {
          const Vec3& normal = made.geometry.normals[e];
          Vec3 wanted = line(made.geometry.centres[e], normal);
          wanted = (wanted - wanted.dot(normal) * normal).normalized();
          const double sense = tensors && wanted.dot(made.at(e)) < 0 ? -1 : 1;
          error = std::max(error, std::abs(frame::between(sense * wanted, made.at(e), normal).degrees()));
        }
        INFO(on_nodes << tensors << " " << n << ": " << error);
        // Nodes: second order. Cells are taken as they are: off by half a cell at the most, first order.
        if (before > 0.0) CHECK(error < (on_nodes ? 0.35 : 0.62) * before);
        before = error;
      }
      CHECK(before < (on_nodes ? 0.05 : 1.0));  // the spiral turns by 1.9 degrees over one of 40 cells
    }
  write_source(folder / "away.vtu", 40, away, false, true);
  const Made by_pairs = mapped(pairs + "]");
  CHECK(largest_error(by_pairs, exact) < 0.05);
  CHECK(by_pairs.field.fit < 1e-9);
  const Made fitted = mapped("fit = true");
  CHECK(largest_error(fitted, exact) < 0.5);
  CHECK(fitted.field.fit < 0.1);
  for (const double distance : fitted.field.distance) CHECK(distance < 0.15);
  CHECK(fitted.explained(3).find("mapped from field 'fibre' of ") == 0);
  // Without any position it is far away, and its distance says so.
  const Made off = mapped("move = [0, 0, 0]");
  CHECK(off.field.distance[0] > 20);
}

TEST_CASE("a table of points is mapped by its nearest few; opposite directions leave doubt") {
  const test::Folder folder;
  std::string csv = "x, y, z, dx, dy, dz\n# made up\n";
  for (int i = 0; i <= 40; ++i)
    for (int j = 0; j <= 40; ++j) {
      const Vec3 p(10 * std::cos(0.05 * i), 10 * std::sin(0.05 * i), 0.5 * j * (1 + 0.01 * i)), d = spiral(p);
      csv += fmt::format("{}, {}, {}, {}, {}, {}\n", p.x(), p.y(), p.z(), d.x(), d.y(), d.z());
    }
  folder.write("points.csv", csv);
  const Made made = make("[frame.f]\nmapped = { file = \"points.csv\" }\n", tube(17), folder.path());
  CHECK(largest_error(made, [](const Vec3& c, const Vec3&) { return spiral(c); }) < 1.0);
  folder.write("two.csv", "0,0,0,1,0,0\n10,0,0,0,1,0\n");
  const Made crossed =
      make("[frame.f]\nmapped = { file = \"two.csv\" }\n", Grid::rectangle(11, 1, 10, 1), folder.path());
  CHECK(crossed.field.doubt[0] < 0.01);
  CHECK(crossed.field.doubt[5] > 0.95);
  CHECK(crossed.field.undefined == std::vector<mesh::ElementIndex>{5});
  folder.write("bad.csv", "0,0,0,1,0,0\n10,0,zero,0,1,0\n1,2\n");
  const std::string told =
      test::failure([&] { make("[frame.f]\nmapped = { file = \"bad.csv\" }\n", tube(3), folder.path()); });
  CHECK(told.find("bad.csv:2: error: 'zero' stands where a number should") != std::string::npos);
  CHECK(told.find("bad.csv:3: error: the line has 2 numbers; 6 are needed") != std::string::npos);
}

TEST_CASE("a guide surface lends its direction to what lies near it") {
  const test::Folder folder;
  folder.write("guide.msh", test::msh({.nx = 20, .ny = 10, .map = [](double u, double v) {
                                         return Vec3(12 * std::cos(2.2 * u - 0.1), 12 * std::sin(2.2 * u - 0.1),
                                                     24 * v - 2);
                                       }}));
  const Made made = make("[frame.f]\nguide = { file = \"guide.msh\", edge = \"front\" }\n", tube(12), folder.path());
  CHECK(largest_error(made, [](const Vec3& c, const Vec3&) { return Vec3(c.y(), -c.x(), 0); }) < 1.0);
  CHECK(test::near(made.field.distance[0], 2.0, 0.05));
  CHECK(made.explained(0).find("from the nearest place of guide surface") == 0);
  CHECK(test::failure([&] {
          make("[frame.f]\nguide = { file = \"guide.msh\", edge = \"frnt\" }\n", tube(3), folder.path());
        }).find("has no edge group 'frnt' [frame.field]\n    did you mean 'front'?") != std::string::npos);
}

TEST_CASE("an axis system gives each of its axes") {
  const auto axis = [](const std::string& take) {
    return make("[frame.f]\naxes = { x = [1, 1, 0], y = [0, 2, 0], take = \"" + take + "\" }\n",
                Grid::rectangle(1, 1, 1, 1))
        .at(0);
  };
  CHECK((axis("x") - Vec3(1, 1, 0).normalized()).norm() < 1e-12);
  CHECK((axis("y") - Vec3(-1, 1, 0).normalized()).norm() < 1e-12);
  const Made up =
      make("[frame.f]\naxes = { x = [1, 1, 0], y = [0, 2, 0], take = \"z\" }\n", Grid::rectangle(1, 1, 1, 1));
  CHECK(up.field.undefined.size() == 1);  // z stands on the plate
}

TEST_CASE("names that are not there and circles are told with their place") {
  const auto told = [](const std::string& frames) {
    return test::failure([&] { make(frames, Grid::rectangle(2, 2, 1, 1)); });
  };
  CHECK(told("[frame.f]\nalong = \"lefft\"\n")
            .find("there is no curve 'lefft' [frame.of-unknown]\n    did you mean 'left'?") != std::string::npos);
  CHECK(told("[frame.f]\nblend = { from = \"f\", to = \"x\", start = \"left\", over = 1 }\n").find("frame.circular") !=
        std::string::npos);
  CHECK(told("[frame.f]\nblend = { from = \"x\", to = \"g\", start = \"left\", over = 1 }\n")
            .find("there is no frame 'g'") != std::string::npos);
  CHECK(told("[frame.f]\nvector = [1, 0, 0]\nturn = { of = \"rigt\", table = [[0, 1]] }\n")
            .find("did you mean 'right'?") != std::string::npos);
}

TEST_CASE("a field of cells comes back from its own mesh as it was, jumps and all") {
  const test::Folder folder;
  mesh::Surface source = test::surface(Grid::rectangle(12, 7, 12, 7));
  const mesh::Geometry geometry = mesh::geometry(source);
  mesh::Array fibre{"fibre", false, 3, {}};
  std::mt19937 random(3);
  std::vector<Vec3> wanted;
  for (mesh::ElementIndex e = 0; e < source.element_count(); ++e) {
    const Angle angle = Angle::degrees(std::uniform_real_distribution<double>(-90, 90)(random));  // each its own
    wanted.push_back(frame::turned(Vec3::UnitX(), geometry.normals[e], angle));
    fibre.values.insert(fibre.values.end(), wanted.back().begin(), wanted.back().end());
  }
  mesh::write(source, folder / "own.vtu", std::array{fibre});
  const Made made = make("[frame.f]\nmapped = { file = \"own.vtu\", field = \"fibre\" }\n",
                         Grid::rectangle(12, 7, 12, 7), folder.path());
  for (mesh::ElementIndex e = 0; e < made.surface.element_count(); ++e) CHECK((made.at(e) - wanted[e]).norm() < 1e-9);
}

}  // namespace of_frame_carried
