// The curved sides of a surface while elements are cut: which new sides lie on them, and from where to where.
#pragma once

#include <bordado/base/files.hpp>
#include <bordado/mesh/surface.hpp>

#include <map>
#include <optional>
#include <set>
#include <span>
#include <vector>

namespace bordado::mesh {

/// Sides by their end nodes, in either order; shares run from the first node that is named. Refers to the surface.
class OldCurves {
 public:
  explicit OldCurves(const Surface& surface);
  /// Of a side of the old surface: it may not change its shape.
  void keep(const std::array<NodeIndex, 2>& side);

  /// A place on a side that lies on one of the old surface; nothing of others, and where all sides are straight.
  std::optional<Vec3> place(NodeIndex a, NodeIndex b, double share) const;
  /// A side that is parted by a new node.
  void part(NodeIndex a, NodeIndex b, NodeIndex by, double share);
  /// A node that moves along a side towards another: sides from it to any other no longer lie on old ones.
  void slide(NodeIndex node, NodeIndex to, double share, std::span<const NodeIndex> others);
  /// Whether a new or moved node lies on an old side.
  bool holds(NodeIndex node) const { return on_.count(node) > 0; }

  /// The nearest place of the sides that are kept.
  Vec3 nearest_kept(const Vec3& point) const;

 private:
  /// A piece of an old side: its ends and its middle node, and from where to where it goes along it.
  struct Arc {
    NodeIndex first, middle, last;
    double from = 0.0, to = 1.0;
  };
  Vec3 at(const Arc& arc, double share) const;
  /// The piece from a to b.
  std::optional<Arc> find(NodeIndex a, NodeIndex b) const;
  void put(NodeIndex a, NodeIndex b, Arc arc);

  const Surface& surface_;
  std::map<std::array<NodeIndex, 2>, Arc> arcs_;  ///< from the smaller node
  std::vector<Arc> kept_;
  std::set<NodeIndex> on_;
};

}  // namespace bordado::mesh
