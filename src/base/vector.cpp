#include <bordado/base/vector.hpp>

#include <Eigen/Eigenvalues>

namespace bordado {

Principal principal(const Eigen::Matrix3d& symmetric) {
  const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(symmetric);
  return {solver.eigenvalues(), solver.eigenvectors()};
}

}  // namespace bordado
