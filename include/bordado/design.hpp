/// \file design.hpp
/// Everything that follows from one part file, before a deck is written.
#ifndef BORDADO_DESIGN_HPP
#define BORDADO_DESIGN_HPP

#include <bordado/section.hpp>

namespace bordado {

/// A part, its surface with sides agreed, and what lies on every element.
struct Design {
  part::Part part;
  mesh::Surface surface;
  mesh::Geometry geometry;
  mesh::OrientReport orientation;
  layup::Layup layup;
  section::Sections sections;
};

}  // namespace bordado

#endif
