#include "support.hpp"

#include <bordado/base/vector.hpp>

#include <Eigen/LU>

#include <random>

namespace of_base_vector {

using namespace bordado;

TEST_CASE("the box of points, and of none") {
  const std::vector<Vec3> points{{1, -2, 3}, {-4, 5, 0}, {0, 0, 9}};
  const Extent box = extent(points);
  CHECK(box.low == Vec3(-4, -2, 0));
  CHECK(box.high == Vec3(1, 5, 9));
  CHECK(box.middle() == Vec3(-1.5, 1.5, 4.5));
  CHECK(test::near(box.diagonal(), std::sqrt(25.0 + 49.0 + 81.0)));
  CHECK(extent({}).diagonal() == 0.0);
}

TEST_CASE("a symmetric matrix is put together again from its own axes, which rise and stand square to each other") {
  std::mt19937 engine{5};
  std::uniform_real_distribution<double> any(-3.0, 3.0);
  for (int k = 0; k < 200; ++k) {
    Eigen::Matrix3d a;
    for (int i = 0; i < 9; ++i) a(i / 3, i % 3) = any(engine);
    a = (a + a.transpose()).eval();
    const Principal own = principal(a);
    CHECK(own.values[0] <= own.values[1]);
    CHECK(own.values[1] <= own.values[2]);
    CHECK((own.axes.transpose() * own.axes - Eigen::Matrix3d::Identity()).norm() < 1e-12);
    CHECK((own.axes * own.values.asDiagonal() * own.axes.transpose() - a).norm() < 1e-12 * a.norm());
  }
}

}  // namespace of_base_vector
