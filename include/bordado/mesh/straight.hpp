/// \file straight.hpp
/// Distance from a line, straight over the surface: at the line itself, and wherever the surface is flat.
#ifndef BORDADO_MESH_STRAIGHT_HPP
#define BORDADO_MESH_STRAIGHT_HPP

#include <bordado/mesh/curves.hpp>

#include <functional>

namespace bordado::mesh {

/// A straight piece of a line that distance is measured from.
struct LinePiece {
  Vec3 a, b;
  ElementIndex element;  ///< that it lies on, or along a side of
};

/// What is said of a line that ends at the border of the part.
enum class EndsAtBorder {
  are_ends,  ///< what is nearest to its end is measured from that
  go_on      ///< it is measured as if it went on straight: what is moved by a distance stays parallel up to the border
};

/// As distances(), from the border of a zone, which ends where the part does.
std::vector<double> distances_from_border(const Surface& surface, std::span<const Curve> lines, double limit);

/// What lies straight before a line.
class Straight {
 public:
  Straight(const Surface& surface, const NodeTable& at_nodes, std::vector<LinePiece> pieces, EndsAtBorder ends);

  /// For every corner of an element that a piece lies on its distance from all pieces near it, over whichever elements:
  /// calls with(node, distance, unit direction away from the line, element). Of the third order in the distance over the
  /// radius of curvature. Not round sharp folds.
  void start(const std::function<void(NodeIndex, double, const Vec3&, ElementIndex)>& with);

  /// Distances over flat surface made exact: a node and the pieces of line in its plane, known from its neighbours in
  /// that plane. Nodes to which no straight way leads keep theirs. \param away unit; changed with the distance.
  void straighten(std::vector<double>& distance, std::vector<Vec3>& away);

 private:
  struct Foot {
    double distance = std::numeric_limits<double>::infinity();
    Vec3 point = Vec3::Zero();
    int end = -1;         ///< of the piece, where it is one
    bool beyond = false;  ///< behind an end from which the line goes on
  };
  Foot foot(std::uint32_t piece, const Vec3& from) const;
  /// The nearest of the pieces that hang together with this one, downhill.
  std::uint32_t downhill(std::uint32_t piece, const Vec3& from) const;
  Vec3 normal(ElementIndex e) const;
  bool flat(NodeIndex n, std::uint32_t piece) const;

  const Surface& surface_;
  const NodeTable& at_nodes_;
  std::vector<LinePiece> pieces_;
  std::vector<std::uint32_t> first_, on_element_;  ///< pieces of each element
  std::vector<std::uint32_t> end_keys_, first_at_end_, at_end_;
  std::vector<std::uint32_t> label_;   ///< per node the piece that it is straight before
  std::vector<std::uint8_t> goes_on_;  ///< per end of a piece: whether the line goes on there
};

}  // namespace bordado::mesh

#endif
