#include <bordado/base/vector.hpp>

#include <Eigen/Eigenvalues>

namespace bordado {

Extent extent(std::span<const Vec3> points) {
  if (points.empty()) return {};
  Extent out{points.front(), points.front()};
  for (const Vec3& point : points) out.low = out.low.cwiseMin(point), out.high = out.high.cwiseMax(point);
  return out;
}

Principal principal(const Eigen::Matrix3d& symmetric) {
  const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(symmetric);
  return {solver.eigenvalues(), solver.eigenvectors()};
}

}  // namespace bordado
