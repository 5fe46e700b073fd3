/// \file colouring.hpp
/// What a picture of a part shows of a field: a number or a name on each element or node, lines along fibres, places moved.
#ifndef BORDADO_REVIEW_COLOURING_HPP
#define BORDADO_REVIEW_COLOURING_HPP

#include <bordado/mesh/io.hpp>

#include <string>
#include <vector>

namespace bordado {
struct Design;
}

namespace bordado::review {

/// What a part is coloured by.
struct Colouring {
  std::string name;                     ///< with its unit
  std::vector<double> of_elements;      ///< one each; NaN where there is none
  std::vector<double> of_nodes;         ///< or one for each node
  std::vector<std::string> categories;  ///< of_elements counts these from 0; empty: numbers
  std::string none = "no value";        ///< why there is none
  bool reserve = false;                 ///< of a load: what is far beyond one is all alike
};

/// A short line on an element, as fibres lie.
struct Stroke {
  mesh::ElementIndex element;
  Vec3 along;  ///< unit
};

struct Shown {
  std::string name;  ///< of the array
  Colouring colouring;
  std::vector<Stroke> strokes;
  std::vector<Vec3> moved;   ///< of a displacement or a mode, per node; else empty
  bool of_any_size = false;  ///< a mode: its size means nothing
};

/// An array of fields(), drape_fields() or result_fields(). Numbers that stand for plies, materials, criteria, cases, zones and
/// laminates get their names, those that are there; of vectors the length, of unit vectors on elements where they are, and lines along them.
/// \param cases names of all cases of the part: "critical case" counts them
/// \param doubtful the array of that name, or none: a reserve has no value where it is not nought, as stresses do not hold there
Shown shown(const Design& design, const mesh::Array& array, std::span<const std::string> cases = {},
            const mesh::Array* doubtful = nullptr);

/// "zones": which lie on each element, in words of all together where several do; from 0, its names by shown().
mesh::Array zones_together(const Design& design);

/// Arrays of that name, or where none is, all whose names begin with it and a blank or a comma; or where none does, all in which that
/// stands behind a case, a mode's or a cloth's name: "displacement" of every case.
std::vector<const mesh::Array*> arrays_named(std::span<const mesh::Array> all, std::string_view name);

}  // namespace bordado::review

#endif
