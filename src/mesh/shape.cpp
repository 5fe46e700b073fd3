#include <bordado/mesh/shape.hpp>

namespace bordado::mesh {

ShapeValues shape_values(Shape shape, double xi, double eta) {
  ShapeValues s{};
  const double zeta = 1.0 - xi - eta;
  const auto corner_signs = [](int i) { return std::pair{i == 0 || i == 3 ? -1.0 : 1.0, i < 2 ? -1.0 : 1.0}; };
  switch (shape) {
    case Shape::triangle3:
      return {{zeta, xi, eta}, {-1.0, 1.0, 0.0}, {-1.0, 0.0, 1.0}};
    case Shape::triangle6:
      return {
          {zeta * (2 * zeta - 1), xi * (2 * xi - 1), eta * (2 * eta - 1), 4 * zeta * xi, 4 * xi * eta, 4 * eta * zeta},
          {1 - 4 * zeta, 4 * xi - 1, 0.0, 4 * (zeta - xi), 4 * eta, -4 * eta},
          {1 - 4 * zeta, 0.0, 4 * eta - 1, -4 * xi, 4 * xi, 4 * (zeta - eta)}};
    case Shape::quadrilateral4:
      for (int i = 0; i < 4; ++i) {
        const auto [a, b] = corner_signs(i);
        s.value[i] = 0.25 * (1 + a * xi) * (1 + b * eta);
        s.by_xi[i] = 0.25 * a * (1 + b * eta);
        s.by_eta[i] = 0.25 * b * (1 + a * xi);
      }
      return s;
    case Shape::quadrilateral8:
      for (int i = 0; i < 4; ++i) {
        const auto [a, b] = corner_signs(i);
        s.value[i] = 0.25 * (1 + a * xi) * (1 + b * eta) * (a * xi + b * eta - 1);
        s.by_xi[i] = 0.25 * a * (1 + b * eta) * (2 * a * xi + b * eta);
        s.by_eta[i] = 0.25 * b * (1 + a * xi) * (a * xi + 2 * b * eta);
      }
      for (const int i : {4, 6}) {
        const double b = i == 4 ? -1.0 : 1.0;
        s.value[i] = 0.5 * (1 - xi * xi) * (1 + b * eta);
        s.by_xi[i] = -xi * (1 + b * eta);
        s.by_eta[i] = 0.5 * b * (1 - xi * xi);
      }
      for (const int i : {5, 7}) {
        const double a = i == 5 ? 1.0 : -1.0;
        s.value[i] = 0.5 * (1 + a * xi) * (1 - eta * eta);
        s.by_xi[i] = 0.5 * a * (1 - eta * eta);
        s.by_eta[i] = -eta * (1 + a * xi);
      }
      return s;
  }
  return s;
}

}  // namespace bordado::mesh
