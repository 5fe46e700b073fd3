#include "gradients.hpp"

#include <algorithm>
#include <cmath>

namespace bordado::result {

using laminate::Matrix3;
using laminate::Vector2;
using laminate::Vector3;

Carried seen_from(const Carried& carried, double angle) {
  const Matrix3 to = laminate::strains_to(std::cos(angle), -std::sin(angle)).transpose();
  Carried out;
  out << to * carried.head<3>(), to * carried.tail<3>();
  return out;
}

Gradients Changing::operator()(mesh::ElementIndex e, const std::function<Carried(mesh::ElementIndex)>& carried_by) {
  const Vec3 &n = geometry_.normals[e], &r = references_[e], t = n.cross(r);
  const Carried here = carried_by(e);
  Eigen::Matrix2d squares = Eigen::Matrix2d::Zero();
  Gradients products = Gradients::Zero();
  around_.clear();
  for (const mesh::NodeIndex node : surface_.corners_of(e))
    for (const mesh::ElementIndex other : at_nodes_.of(node)) {
      if (other == e || layup_.stack_of[other] != layup_.stack_of[e]) continue;
      if (geometry_.normals[other].dot(n) < 0.8) continue;  // round a fold
      if (std::find(around_.begin(), around_.end(), other) != around_.end()) continue;
      around_.push_back(other);
      const Vec3 way = geometry_.centres[other] - geometry_.centres[e];
      const Eigen::Vector2d to(way.dot(r), way.dot(t));
      const double weight = 1.0 / to.squaredNorm();
      Carried there = carried_by(other);
      if (references_[other] != r) there = seen_from(there, frame::between(references_[other], r, n).radians());
      squares += weight * to * to.transpose();
      products += weight * (there - here) * to.transpose();
    }
  // Across a row of elements nothing is known: there it does not change.
  const double mean = 0.5 * squares.trace(), apart = 0.5 * (squares(0, 0) - squares(1, 1));
  const double half = std::hypot(apart, squares(0, 1)), largest = mean + half;
  if (!(largest > 0.0)) return Gradients::Zero();
  if (mean - half > 0.02 * largest) return products * squares.inverse();
  const Eigen::Vector2d along =
      (apart > 0.0 ? Eigen::Vector2d(apart + half, squares(0, 1)) : Eigen::Vector2d(squares(0, 1), half - apart))
          .normalized();
  return products * (along * along.transpose() / largest);
}

void balance(Gradients& g, const Vector2& Q) {
  const auto share = [](double& own, double& other, double sum) {
    const double left = sum - own - other, squares = own * own + other * other;
    const double part = squares > 0.0 ? own * own / squares : 1.0;
    own += part * left;
    other += (1.0 - part) * left;
  };
  share(g(3, 0), g(5, 1), Q[0]);
  share(g(4, 1), g(5, 0), Q[1]);
  share(g(0, 0), g(2, 1), 0.0);
  share(g(1, 1), g(2, 0), 0.0);
}

PlaneLayer::PlaneLayer(const laminate::Layer& layer)
    : Q(laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle)),
      thickness(layer.thickness),
      cos(layer.angle.cos()),
      sin(layer.angle.sin()) {}

void shear_between(std::span<const PlaneLayer> layers, double z0, const StrainChanges& strains,
                   std::vector<Vector2>& into) {
  // dt/dz of xz and yz.
  const auto grows = [](const Matrix3& Q, const Vector3& by_x, const Vector3& by_y) {
    const Vector3 x = Q * by_x, y = Q * by_y;
    return Vector2(-x[0] - y[2], -x[2] - y[1]);
  };
  into.clear();
  Vector2 below = Vector2::Zero();
  double z = z0;
  for (const PlaneLayer& layer : layers) {
    const double t = layer.thickness, c = layer.cos, s = layer.sin;
    const Vector2 even = grows(layer.Q, strains.col(0).head<3>(), strains.col(1).head<3>()),
                  linear = grows(layer.Q, strains.col(0).tail<3>(), strains.col(1).tail<3>());
    const auto at = [&](double up) -> Vector2 { return below + up * (even + (z + 0.5 * up) * linear); };
    for (int place = 0; place < 3; ++place) {
      const Vector2 shear = at(0.5 * place * t);
      into.emplace_back(c * shear[0] + s * shear[1], c * shear[1] - s * shear[0]);
    }
    below = at(t);
    z += t;
  }
}

}  // namespace bordado::result
