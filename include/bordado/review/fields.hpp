/// \file fields.hpp
/// A design as fields on its elements, for viewers.
#ifndef BORDADO_REVIEW_FIELDS_HPP
#define BORDADO_REVIEW_FIELDS_HPP

#include <bordado/layup.hpp>
#include <bordado/mesh/curves.hpp>
#include <bordado/mesh/io.hpp>
#include <bordado/part.hpp>

#include <vector>

namespace bordado {
struct Design;
}

namespace bordado::review {

/// The edges of plies that have edges of their own, as lines over the surface, and of each the number of its ply, from 1.
/// For mesh::write() of lines.
struct EdgeLines {
  std::vector<mesh::Curve> lines;
  std::vector<part::PlyId> plies;
};

EdgeLines edge_lines(const Design& design);

/// A line of a ramp on which a ply ends.
struct RampLine {
  layup::RampId ramp{};
  std::size_t line = 0;  ///< from 1, the thick zone's first
};
/// All lines of ramps on which each ply ends.
List<part::PlyId, std::vector<RampLine>> ramp_lines(const Design& design);

enum class Plies { left_out, included };

/// Everything that is known of every element, with the unit in the name: numbers of section and laminate (from 1),
/// plies, thickness, bottom, mass per area, diagonal of A and of D about the middle, materials at both faces by number
/// (from 1, in Part::materials), normal, 0 degrees, zones (1 inside, 0 outside); and, where asked, the fibre direction
/// of each ply, a unit vector where it lies and nought elsewhere: made when it is written, so the design must outlive
/// the arrays. For mesh::write().
std::vector<mesh::Array> fields(const Design& design, Plies plies);

}  // namespace bordado::review

#endif
