// Cells as the VTK formats number their types, put into a mesh: what XML, legacy, PLY and OFF files share.
#pragma once

#include "builder.hpp"

namespace bordado::mesh {

/// Takes cells one after the other; polygons and strips become triangles, lines of many points several edges.
class CellSink {
 public:
  /// \param mesh its nodes and coordinates are there already: points are counted from 0 in their order.
  CellSink(RawMesh& mesh, const std::string& path);

  /// \param type number of the cell's type in VTK's list. \param id of the cell, taken by its first element.
  /// \throws Unreadable for a type that is not read, or a point that there is not.
  void add(std::int64_t type, std::span<const std::int64_t> points, std::int64_t id);
  /// A group of some cells, as elements, edges and points.
  void add_group(const std::string& name, std::span<const std::uint32_t> cells);
  /// Groups by the values of a whole number on each cell, where they are few.
  void add_groups_by_value(const std::string& name, std::span<const std::int64_t> values);
  /// Gives elements beyond the first of a cell their ids, and says what was done.
  void finish(Findings& findings);

  /// Per element, the cell that it comes from.
  const std::vector<std::uint32_t>& cell_of() const { return cell_of_; }
  std::size_t count() const { return cells_.size(); }

 private:
  struct Cell {
    std::uint32_t element = 0, elements = 0;
    std::uint32_t edge = 0, edges = 0;
    std::uint32_t point = 0, points = 0;
  };
  void add_shell(Shape shape, std::span<const std::int64_t> points, std::int64_t id);
  void add_polygon(std::span<const std::int64_t> points, std::int64_t id);
  Vec3 at(std::int64_t point) const;
  RawMesh& mesh_;
  const std::string& path_;
  std::vector<Cell> cells_;
  std::vector<std::uint32_t> cell_of_;
  std::vector<std::array<std::int64_t, 3>> edges_;
  std::vector<std::int64_t> points_;
  std::vector<std::uint32_t> without_id_;  ///< elements that are not the first of their cell
  std::size_t polygons_ = 0, lowered_ = 0;
};

}  // namespace bordado::mesh
