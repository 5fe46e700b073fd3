/// \file shape.hpp
/// Shape functions of the elements.
#ifndef BORDADO_MESH_SHAPE_HPP
#define BORDADO_MESH_SHAPE_HPP

#include <bordado/mesh/surface.hpp>

namespace bordado::mesh {

/// Values and derivatives of the shape functions at (xi, eta), one per node.
/// Triangles on 0 <= xi, eta, xi + eta <= 1; quadrilaterals on [-1, 1]^2. Reference: O. C. Zienkiewicz and R. L.
/// Taylor, The Finite Element Method, vol. 1, ch. 8 (Lagrange triangles, serendipity quadrilaterals).
struct ShapeValues {
  double value[8], by_xi[8], by_eta[8];
};

ShapeValues shape_values(Shape shape, double xi, double eta);

}  // namespace bordado::mesh

#endif
