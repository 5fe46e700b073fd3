#include <bordado/solid_shapes.hpp>

#include <Eigen/LU>

#include <array>
#include <cmath>

namespace bordado::model {

namespace {

/// All shape functions and their derivatives at a point, and its weight.
template <std::size_t nodes>
struct PointOf {
  std::array<Vec3, nodes> by;
  double weight;
  std::array<double, nodes> value;
};

/// Serendipity functions of the brick: corners at (+-1, +-1, +-1), then the middles of edges.
constexpr double brick_nodes[20][3] = {{-1, -1, -1}, {1, -1, -1}, {1, 1, -1}, {-1, 1, -1}, {-1, -1, 1},
                                       {1, -1, 1},   {1, 1, 1},   {-1, 1, 1}, {0, -1, -1}, {1, 0, -1},
                                       {0, 1, -1},   {-1, 0, -1}, {0, -1, 1}, {1, 0, 1},   {0, 1, 1},
                                       {-1, 0, 1},   {-1, -1, 0}, {1, -1, 0}, {1, 1, 0},   {-1, 1, 0}};

std::array<double, 20> brick_values(double x, double y, double z) {
  std::array<double, 20> out;
  const double here[3] = {x, y, z};
  for (std::size_t i = 0; i < 20; ++i) {
    double product = 1.0, last = -2.0;
    bool middle = false;
    for (int k = 0; k < 3; ++k) {
      const double at = brick_nodes[i][k];
      middle = middle || at == 0.0;
      product *= at == 0.0 ? 1.0 - here[k] * here[k] : 1.0 + at * here[k];
      last += at * here[k];
    }
    out[i] = middle ? 0.25 * product : 0.125 * product * last;
  }
  return out;
}

std::array<Vec3, 20> brick_derivatives(double x, double y, double z) {
  const auto& at = brick_nodes;
  std::array<Vec3, 20> out;
  const double here[3] = {x, y, z};
  for (std::size_t i = 0; i < 20; ++i) {
    double f[3], d[3];  // the factor of each direction and its derivative
    int middle = -1;
    for (int k = 0; k < 3; ++k) {
      if (at[i][k] == 0.0) {
        middle = k;
        f[k] = 1.0 - here[k] * here[k];
        d[k] = -2.0 * here[k];
      } else {
        f[k] = 1.0 + at[i][k] * here[k];
        d[k] = at[i][k];
      }
    }
    for (int k = 0; k < 3; ++k) {
      const int a = (k + 1) % 3, b = (k + 2) % 3;
      if (middle >= 0) {
        out[i][k] = 0.25 * d[k] * f[a] * f[b];
      } else {
        const double last = at[i][0] * x + at[i][1] * y + at[i][2] * z - 2.0;
        out[i][k] = 0.125 * (d[k] * f[a] * f[b] * last + f[0] * f[1] * f[2] * at[i][k]);
      }
    }
  }
  return out;
}

std::array<double, 15> wedge_values(double r, double s, double t) {
  std::array<double, 15> out;
  const double L[3] = {1.0 - r - s, r, s};
  for (std::size_t face = 0; face < 2; ++face) {
    const double up = 1.0 + (face == 0 ? -t : t);
    for (std::size_t i = 0; i < 3; ++i) {
      out[3 * face + i] = 0.5 * L[i] * ((2.0 * L[i] - 1.0) * up - (1.0 - t * t));
      out[6 + 3 * face + i] = 2.0 * up * L[i] * L[(i + 1) % 3];
    }
  }
  for (std::size_t i = 0; i < 3; ++i) out[12 + i] = (1.0 - t * t) * L[i];
  return out;
}

/// The wedge: triangle coordinates r, s and height t from -1 to 1.
std::array<Vec3, 15> wedge_derivatives(double r, double s, double t) {
  std::array<Vec3, 15> out;
  const double L[3] = {1.0 - r - s, r, s};
  const double Lr[3] = {-1.0, 1.0, 0.0}, Ls[3] = {-1.0, 0.0, 1.0};
  for (std::size_t face = 0; face < 2; ++face) {
    const double sign = face == 0 ? -1.0 : 1.0, up = 1.0 + sign * t;
    for (std::size_t i = 0; i < 3; ++i) {
      // N = L (2 L - 1) (1 + st) / 2 - L (1 - t^2) / 2
      const double by_L = 0.5 * ((4.0 * L[i] - 1.0) * up - (1.0 - t * t));
      out[3 * face + i] = {by_L * Lr[i], by_L * Ls[i], 0.5 * (L[i] * (2.0 * L[i] - 1.0) * sign + 2.0 * t * L[i])};
      const std::size_t j = (i + 1) % 3;
      // N = 2 L_i L_j (1 + st)
      out[6 + 3 * face + i] = {2.0 * up * (Lr[i] * L[j] + L[i] * Lr[j]), 2.0 * up * (Ls[i] * L[j] + L[i] * Ls[j]),
                               2.0 * sign * L[i] * L[j]};
    }
  }
  for (std::size_t i = 0; i < 3; ++i) out[12 + i] = {(1.0 - t * t) * Lr[i], (1.0 - t * t) * Ls[i], -2.0 * t * L[i]};
  return out;
}

const std::array<PointOf<20>, 8>& brick_points() {
  static const auto points = [] {
    std::array<PointOf<20>, 8> out;
    const double a = 1.0 / std::sqrt(3.0);
    for (std::size_t q = 0; q < 8; ++q) {
      const double x = q & 1 ? a : -a, y = q & 2 ? a : -a, z = q & 4 ? a : -a;
      out[q] = {brick_derivatives(x, y, z), 1.0, brick_values(x, y, z)};
    }
    return out;
  }();
  return points;
}

const std::array<PointOf<20>, 27>& full_brick_points() {
  static const auto points = [] {
    std::array<PointOf<20>, 27> out;
    const double at[] = {-std::sqrt(0.6), 0.0, std::sqrt(0.6)}, weight[] = {5.0 / 9.0, 8.0 / 9.0, 5.0 / 9.0};
    for (std::size_t q = 0; q < 27; ++q) {
      const std::size_t i = q % 3, j = q / 3 % 3, k = q / 9;
      out[q] = {brick_derivatives(at[i], at[j], at[k]), weight[i] * weight[j] * weight[k],
                brick_values(at[i], at[j], at[k])};
    }
    return out;
  }();
  return points;
}

const std::array<PointOf<15>, 9>& wedge_points() {
  static const auto points = [] {
    std::array<PointOf<15>, 9> out;
    constexpr double triangle[3][2] = {{1.0 / 6.0, 1.0 / 6.0}, {2.0 / 3.0, 1.0 / 6.0}, {1.0 / 6.0, 2.0 / 3.0}};
    const double heights[3] = {-std::sqrt(0.6), 0.0, std::sqrt(0.6)};
    constexpr double weights[3] = {5.0 / 9.0, 8.0 / 9.0, 5.0 / 9.0};
    for (std::size_t q = 0; q < 9; ++q)
      out[q] = {wedge_derivatives(triangle[q % 3][0], triangle[q % 3][1], heights[q / 3]), weights[q / 3] / 6.0,
                wedge_values(triangle[q % 3][0], triangle[q % 3][1], heights[q / 3])};
    return out;
  }();
  return points;
}

template <class Points>
SolidSize measured(std::span<const Vec3> points, std::span<const std::uint32_t> nodes, const Points& at) {
  SolidSize out;
  out.least = 1e300;
  for (const auto& point : at) {
    Eigen::Matrix3d map = Eigen::Matrix3d::Zero();
    for (std::size_t i = 0; i < nodes.size(); ++i) map += point.by[i] * points[nodes[i]].transpose();
    const double determinant = map.determinant();
    out.least = std::min(out.least, determinant);
    out.volume += point.weight * determinant;
  }
  return out;
}

}  // namespace

namespace {

template <class Points>
void body_forces(std::span<const Vec3> points, std::span<const std::uint32_t> nodes, const Points& at,
                 const std::function<Vec3(const Vec3&)>& per_volume,
                 const std::function<void(std::uint32_t, const Vec3&)>& with) {
  for (const auto& point : at) {
    Eigen::Matrix3d map = Eigen::Matrix3d::Zero();
    Vec3 place = Vec3::Zero();
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      map += point.by[i] * points[nodes[i]].transpose();
      place += point.value[i] * points[nodes[i]];
    }
    const Vec3 force = point.weight * map.determinant() * per_volume(place);
    for (std::size_t i = 0; i < nodes.size(); ++i) with(nodes[i], point.value[i] * force);
  }
}

}  // namespace

void add_body_forces(std::span<const Vec3> points, std::span<const std::uint32_t> nodes,
                     const std::function<Vec3(const Vec3& point)>& per_volume,
                     const std::function<void(std::uint32_t node, const Vec3& force)>& with) {
  if (nodes.size() == 20)
    body_forces(points, nodes, brick_points(), per_volume, with);
  else
    body_forces(points, nodes, wedge_points(), per_volume, with);
}

namespace {

template <class Points>
std::vector<double> volumes(std::span<const Vec3> points, std::span<const std::uint32_t> nodes, const Points& at) {
  std::vector<double> out;
  for (const auto& point : at) {
    Eigen::Matrix3d map = Eigen::Matrix3d::Zero();
    for (std::size_t i = 0; i < nodes.size(); ++i) map += point.by[i] * points[nodes[i]].transpose();
    out.push_back(point.weight * map.determinant());
  }
  return out;
}

}  // namespace

std::vector<double> volumes_of_points(std::span<const Vec3> points, std::span<const std::uint32_t> nodes, bool full) {
  if (full && nodes.size() == 20) return volumes(points, nodes, full_brick_points());
  return nodes.size() == 20 ? volumes(points, nodes, brick_points()) : volumes(points, nodes, wedge_points());
}

SolidSize size_of_solid(std::span<const Vec3> points, std::span<const std::uint32_t> nodes) {
  return nodes.size() == 20 ? measured(points, nodes, brick_points()) : measured(points, nodes, wedge_points());
}

}  // namespace bordado::model
