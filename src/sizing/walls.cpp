#include <bordado/walls.hpp>

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/LU>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <stdexcept>

#include "junctions.hpp"

namespace bordado::sizing {

namespace {

/// A function over the walls: its value at places along a wall, and its slope through the wall.
struct Pattern {
  std::array<double, 3> value;  ///< at the wall's beginning, middle and end; quadratic in between
  std::array<double, 3> across;
};

/// The integral of two patterns over a wall, with the wall's stiffness: Simpson's rule, exact up to degree three; patterns here
/// are linear.
double together(const WallStiffness& wall, double length, const Pattern& one, const Pattern& other) {
  constexpr std::array<double, 3> weight{1.0 / 6.0, 4.0 / 6.0, 1.0 / 6.0};
  double out = 0.0;
  for (std::size_t i = 0; i < 3; ++i) {
    const Vector2 a(one.value[i], one.across[i]), b(other.value[i], other.across[i]);
    out += length * weight[i] * a.dot(wall.along * b);
  }
  return out;
}

/// 1, y, z over a wall.
std::array<Pattern, 3> plain(const Wall& wall) {
  const Vector2 middle = 0.5 * (wall.from + wall.to), n = wall.normal();
  return {{{{1, 1, 1}, {0, 0, 0}},
           {{wall.from[0], middle[0], wall.to[0]}, {n[0], n[0], n[0]}},
           {{wall.from[1], middle[1], wall.to[1]}, {n[1], n[1], n[1]}}}};
}

/// Stiffness of a wall's twist, less what it gives near free edges: shear through the thickness carries the twisting moment there,
/// over a length (d / H)^(1/2). By the normal that turns by itself this is exact: of the width b is left b - tanh(k b) / k with one
/// free edge and b - 2 tanh(k b / 2) / k with two; for metal b - 0.63 t, as S. P. Timoshenko and J. N. Goodier have it
/// (Theory of Elasticity, section 109).
double twisted(const Wall& wall, const WallStiffness& k, int free_edges) {
  const Matrix2 H = laminate::stiffness(wall.layers, -0.5 * laminate::thickness(wall.layers)).H;
  const double held = k.sheared(0, 1) * k.sheared(0, 1) / k.sheared(0, 0), d = k.sheared(1, 1) - held,
               near = std::sqrt(d / (H(0, 0) - H(0, 1) * H(0, 1) / H(1, 1))), b = wall.length();
  const double lost = free_edges == 0   ? 0.0
                      : free_edges == 1 ? near * std::tanh(b / near)
                                        : 2.0 * near * std::tanh(0.5 * b / near);
  return held + d * (1.0 - lost / b);
}

/// Shear flow problem: functions are linear between junctions, and two humps on each wall. K is the work of As over slopes.
/// Humps h1 = 4 t (1 - t), h2 = t (1 - t) (1 - 2 t), t from 0 to 1 along the wall: slopes are at right angles to those of the
/// linear part and to each other.
struct Flow {
  Eigen::VectorXd nodes;                     ///< values at junctions
  std::vector<std::array<double, 2>> humps;  ///< of each wall
};

}  // namespace

WallStiffness wall_stiffness(std::span<const laminate::Layer> layers) {
  const laminate::Compliance c = laminate::compliance(laminate::stiffness(layers, -0.5 * laminate::thickness(layers)));
  Matrix2 along, sheared;
  along << c.a(0, 0), c.b(0, 0), c.b(0, 0), c.d(0, 0);
  sheared << c.a(2, 2), c.b(2, 2), c.b(2, 2), c.d(2, 2);
  return {along.inverse(), sheared.inverse()};
}

SectionStiffness section_stiffness(std::span<const Wall> walls) {
  const Junctions junctions(walls);
  const std::size_t count = walls.size();
  std::vector<WallStiffness> k;
  SectionStiffness out;
  for (const Wall& wall : walls) {
    k.push_back(wall_stiffness(wall.layers));
    const laminate::Compliance c =
        laminate::compliance(laminate::stiffness(wall.layers, -0.5 * laminate::thickness(wall.layers)));
    out.unbalanced = std::max(out.unbalanced, c.a(0, 2) * c.a(0, 2) / (c.a(0, 0) * c.a(2, 2)));
  }
  out.closed = junctions.cells() > 0;

  // Stretching and bending: products of 1, y, z.
  Matrix3 products = Matrix3::Zero();
  for (std::size_t w = 0; w < count; ++w) {
    const auto p = plain(walls[w]);
    for (int i = 0; i < 3; ++i)
      for (int j = 0; j < 3; ++j)
        products(i, j) +=
            together(k[w], walls[w].length(), p[static_cast<std::size_t>(i)], p[static_cast<std::size_t>(j)]);
  }
  out.EA = products(0, 0);
  out.centroid = Vector2(products(0, 1), products(0, 2)) / out.EA;
  out.EI = products.bottomRightCorner<2, 2>() - out.EA * out.centroid * out.centroid.transpose();
  const Eigen::SelfAdjointEigenSolver<Matrix2> axes(out.EI);
  out.weak = axes.eigenvalues()[0], out.strong = axes.eigenvalues()[1];
  out.turned = std::atan2(axes.eigenvectors()(1, 1), axes.eigenvectors()(0, 1));
  out.turned = std::remainder(out.turned, std::numbers::pi);
  if (out.strong - out.weak < 1e-9 * out.strong) out.turned = 0.0;

  // Twisting by a rate of one about the origin: shear of a wall is the slope of warping and its lever r, its twist is -2.
  const auto nodes = static_cast<Eigen::Index>(junctions.count());
  Eigen::MatrixXd shear = Eigen::MatrixXd::Zero(nodes, nodes);
  Eigen::VectorXd twisting = Eigen::VectorXd::Zero(nodes);
  double held = 0.0;
  for (std::size_t w = 0; w < count; ++w) {
    const double length = walls[w].length(), lever = -walls[w].normal().dot(walls[w].from);
    const auto [a, b] = junctions.ends(w);
    const double As = k[w].sheared(0, 0), Bs = k[w].sheared(0, 1),
                 Ds = twisted(
                     walls[w], k[w],
                     static_cast<int>(junctions.walls_at(a) == 1) + static_cast<int>(junctions.walls_at(b) == 1));
    const double flow = As * lever - 2.0 * Bs;
    shear(a, a) += As / length, shear(b, b) += As / length;
    shear(a, b) -= As / length, shear(b, a) -= As / length;
    twisting[a] += flow, twisting[b] -= flow;
    held += length * (As * lever * lever - 4.0 * Bs * lever + 4.0 * Ds);
  }
  // Warping of all by the same is none: one junction is held.
  shear.row(0).setZero(), shear.col(0).setZero();
  shear(0, 0) = 1.0;
  Eigen::VectorXd right = twisting;
  right[0] = 0.0;
  const Eigen::LLT<Eigen::MatrixXd> factors(shear);
  const Eigen::VectorXd warping = factors.solve(right);
  out.GJ = held - right.dot(warping);
  for (std::size_t w = 0; w < count; ++w) {
    const auto [a, b] = junctions.ends(w);
    out.twist_shear.push_back((warping[b] - warping[a]) / walls[w].length() - walls[w].normal().dot(walls[w].from));
  }

  // Warping about the shear centre does not go with stretching and bending: psi + c + z Py - y Pz. Through a wall it goes by
  // minus its own distance along s from the pole.
  std::vector<std::array<Pattern, 4>> all;  // 1, y, z, warping about the origin
  Eigen::Vector3d mixed = Eigen::Vector3d::Zero();
  for (std::size_t w = 0; w < count; ++w) {
    const auto p = plain(walls[w]);
    const auto [a, b] = junctions.ends(w);
    const Vector2 s = walls[w].along(), middle = 0.5 * (walls[w].from + walls[w].to);
    const Pattern psi{{warping[a], 0.5 * (warping[a] + warping[b]), warping[b]},
                      {-s.dot(walls[w].from), -s.dot(middle), -s.dot(walls[w].to)}};
    all.push_back({p[0], p[1], p[2], psi});
    for (int i = 0; i < 3; ++i) mixed[i] += together(k[w], walls[w].length(), p[static_cast<std::size_t>(i)], psi);
  }
  const Eigen::Vector3d taken = products.fullPivLu().solve(-mixed);  // c, -Pz, Py
  out.shear_centre = {taken[2], -taken[1]};
  std::vector<Pattern> omega;
  double largest = 0.0, size = 0.0;
  for (std::size_t w = 0; w < count; ++w) {
    Pattern one = all[w][3];
    for (std::size_t i = 0; i < 3; ++i)
      for (std::size_t j = 0; j < 3; ++j) {
        one.value[i] += taken[static_cast<Eigen::Index>(j)] * all[w][j].value[i];
        one.across[i] += taken[static_cast<Eigen::Index>(j)] * all[w][j].across[i];
      }
    omega.push_back(one);
    out.EGamma += together(k[w], walls[w].length(), one, one);
    out.warping.push_back({one.value[0], one.value[2]});
    largest = std::max({largest, std::abs(one.value[0]), std::abs(one.value[2])});
    size = std::max({size, (walls[w].from - out.centroid).squaredNorm(), (walls[w].to - out.centroid).squaredNorm()});
  }
  if (largest < 1e-12 * size)
    for (auto& ends : out.warping) ends = {0.0, 0.0};

  // Shear: for force in y, in z, and the rate of the bimoment, what the walls' forces along the beam change by along it,
  // f(s), and the flow that holds it: -(As phi')' = f.
  const Matrix2 flexible = out.EI.inverse();
  std::array<Flow, 3> flows;
  for (std::size_t c = 0; c < 3; ++c) {
    Eigen::VectorXd loads = Eigen::VectorXd::Zero(nodes);
    flows[c].humps.assign(count, {0.0, 0.0});
    for (std::size_t w = 0; w < count; ++w) {
      // f at the wall's beginning and end; linear.
      std::array<double, 2> f{};
      for (const std::size_t e : {std::size_t{0}, std::size_t{2}}) {
        const auto force = [&](const Pattern& p) { return k[w].along.row(0).dot(Vector2(p.value[e], p.across[e])); };
        double value = 0.0;
        if (c < 2) {
          const auto i = static_cast<Eigen::Index>(c);
          value = flexible(i, 0) * (force(all[w][1]) - out.centroid[0] * force(all[w][0])) +
                  flexible(i, 1) * (force(all[w][2]) - out.centroid[1] * force(all[w][0]));
        } else if (out.EGamma > 0.0) {
          value = -force(omega[w]) / out.EGamma;
        }
        f[e / 2] = value;
      }
      const double length = walls[w].length(), As = k[w].sheared(0, 0);
      const auto [a, b] = junctions.ends(w);
      loads[a] += length * (2.0 * f[0] + f[1]) / 6.0;
      loads[b] += length * (f[0] + 2.0 * f[1]) / 6.0;
      // Work of f over the humps, over the work of their slopes: 16/3 and 1/5 over the length.
      flows[c].humps[w] = {length * (f[0] + f[1]) / 3.0 / (As / length * 16.0 / 3.0),
                           length * (f[0] - f[1]) / 60.0 / (As / length / 5.0)};
    }
    loads[0] = 0.0;
    flows[c].nodes = factors.solve(loads);
  }
  for (int i = 0; i < 3; ++i)
    for (int j = 0; j < 3; ++j) {
      const Flow &one = flows[static_cast<std::size_t>(i)], &other = flows[static_cast<std::size_t>(j)];
      double energy = 0.0;
      for (std::size_t w = 0; w < count; ++w) {
        const auto [a, b] = junctions.ends(w);
        energy += k[w].sheared(0, 0) / walls[w].length() *
                  ((one.nodes[b] - one.nodes[a]) * (other.nodes[b] - other.nodes[a]) +
                   16.0 / 3.0 * one.humps[w][0] * other.humps[w][0] + one.humps[w][1] * other.humps[w][1] / 5.0);
      }
      out.shear_compliance(i, j) = energy;
    }

  out.flow.resize(count);
  for (std::size_t w = 0; w < count; ++w)
    for (std::size_t c = 0; c < 2; ++c) {
      const auto [a, b] = junctions.ends(w);
      const double factor = k[w].sheared(0, 0) / walls[w].length(), rise = flows[c].nodes[b] - flows[c].nodes[a];
      const auto [h1, h2] = flows[c].humps[w];
      out.flow[w][c] = {factor * (rise + 4.0 * h1 + h2), factor * (rise - 0.5 * h2), factor * (rise - 4.0 * h1 + h2)};
    }

  // Mass, and radii of gyration.
  const auto about = [&](const Wall& wall, const Vector2& pole) {
    const Vector2 a = wall.from - pole, b = wall.to - pole;
    return wall.length() * (a.squaredNorm() + a.dot(b) + b.squaredNorm()) / 3.0;
  };
  for (std::size_t w = 0; w < count; ++w) {
    const double areal = laminate::areal_mass(walls[w].layers), mass = areal * walls[w].length();
    out.mass += mass;
    out.mass_centre += mass * 0.5 * (walls[w].from + walls[w].to);
    out.mass_polar += areal * about(walls[w], out.shear_centre);
    out.polar += (k[w].along(0, 0) * about(walls[w], out.shear_centre) + k[w].along(1, 1) * walls[w].length()) / out.EA;
  }
  out.mass_centre = out.mass > 0.0 ? Vector2(out.mass_centre / out.mass) : out.centroid;
  return out;
}

namespace {

constexpr std::array<std::string_view, shape_count> shape_names{"angle", "T", "C", "Z", "I", "hat", "box", "tube"};
constexpr std::array<std::string_view, shape_count> shape_lengths{
    "upright leg, lying leg", "web, flange",   "web, flange", "web, flange", "web, flange",
    "height, top, one brim",  "height, width", "radius"};

}  // namespace

std::string_view name_of(Shape shape) { return shape_names[static_cast<std::size_t>(shape)]; }
std::string_view lengths_of(Shape shape) { return shape_lengths[static_cast<std::size_t>(shape)]; }
std::size_t length_count(Shape shape) {
  const std::string_view words = lengths_of(shape);
  return 1 + static_cast<std::size_t>(std::count(words.begin(), words.end(), ','));
}

std::vector<Wall> walls_of(Shape shape, std::span<const double> lengths, const laminate::Stack& web,
                           const laminate::Stack& flange) {
  if (lengths.size() != length_count(shape))
    throw std::invalid_argument(fmt::format("a section of shape {} has {} lengths: {}", name_of(shape),
                                            length_count(shape), lengths_of(shape)));
  for (const double length : lengths)
    if (!(length > 0.0) || !std::isfinite(length))
      throw std::invalid_argument(fmt::format("lengths of a section ({}) are numbers above nought", lengths_of(shape)));
  std::vector<Wall> out;
  const auto wall = [&](Vector2 from, Vector2 to, const laminate::Stack& stack, std::string name) {
    out.push_back({from, to, stack.layers, std::move(name), stack.materials});
  };
  const double h = lengths[0], b = lengths.size() > 1 ? lengths[1] : 0.0;
  switch (shape) {
    case Shape::angle:
      wall({0, h}, {0, 0}, web, "upright leg");
      wall({0, 0}, {b, 0}, flange, "lying leg");
      break;
    case Shape::T:
      wall({0, 0}, {0, h}, web, "web");
      wall({0, h}, {-0.5 * b, h}, flange, "left flange");
      wall({0.5 * b, h}, {0, h}, flange, "right flange");
      break;
    case Shape::C:
      wall({b, h}, {0, h}, flange, "upper flange");
      wall({0, h}, {0, 0}, web, "web");
      wall({0, 0}, {b, 0}, flange, "lower flange");
      break;
    case Shape::Z:
      wall({-b, h}, {0, h}, flange, "upper flange");
      wall({0, h}, {0, 0}, web, "web");
      wall({0, 0}, {b, 0}, flange, "lower flange");
      break;
    case Shape::I:
      wall({0, 0}, {0, h}, web, "web");
      wall({0, h}, {-0.5 * b, h}, flange, "upper left flange");
      wall({0.5 * b, h}, {0, h}, flange, "upper right flange");
      wall({-0.5 * b, 0}, {0, 0}, flange, "lower left flange");
      wall({0, 0}, {0.5 * b, 0}, flange, "lower right flange");
      break;
    case Shape::hat:
      wall({-0.5 * b - lengths[2], 0}, {-0.5 * b, 0}, flange, "left brim");
      wall({-0.5 * b, 0}, {-0.5 * b, h}, web, "left web");
      wall({-0.5 * b, h}, {0.5 * b, h}, flange, "top");
      wall({0.5 * b, h}, {0.5 * b, 0}, web, "right web");
      wall({0.5 * b, 0}, {0.5 * b + lengths[2], 0}, flange, "right brim");
      break;
    case Shape::box:
      // Clockwise, so that normals point outwards.
      wall({0, 0}, {0, h}, web, "left web");
      wall({0, h}, {b, h}, flange, "upper flange");
      wall({b, h}, {b, 0}, web, "right web");
      wall({b, 0}, {0, 0}, flange, "lower flange");
      break;
    case Shape::tube: {
      // So many flats that their stiffness is the circle's to 1e-3, with its circumference.
      constexpr int flats = 96;
      const double step = 2.0 * std::numbers::pi / flats, radius = h * 0.5 * step / std::sin(0.5 * step);
      const auto place = [&](int i) { return Vector2(radius * std::cos(-step * i), radius * std::sin(-step * i)); };
      for (int i = 0; i < flats; ++i) wall(place(i), i + 1 < flats ? place(i + 1) : place(0), web, "wall");
      break;
    }
  }
  return out;
}

}  // namespace bordado::sizing
