/// \file solid_carrier.hpp
/// Supports and loads at the nodes of a deck of solids.
#ifndef BORDADO_DECK_SOLID_CARRIER_HPP
#define BORDADO_DECK_SOLID_CARRIER_HPP

#include <bordado/deck/carrier.hpp>
#include <bordado/solids.hpp>

namespace bordado::deck {

/// The id that a node or a solid has in a deck.
inline std::int64_t id_of(std::uint32_t place) { return static_cast<std::int64_t>(place) + 1; }

/// Columns of nodes stand for the nodes of the mesh.
class SolidCarrier : public Carrier {
 public:
  SolidCarrier(const Model& model, double first_temperature);

  std::vector<HeldNodes> held(const Model::Support& support) const override;
  std::vector<HeldSum> held_sums(const Model::Support& support) const override;
  LoadCards cards(const Model::Load& load, bool turns) const override;
  std::vector<std::int64_t> linked(const Model::Link& link) const override;
  std::int64_t free_node() override { return next_node_++; }
  double first_temperature() const override { return first_temperature_; }

  /// Nodes that supports hold, or loads move, in any direction in a case; ascending.
  std::vector<std::int64_t> held_nodes(const Model::Case& load_case) const;
  /// The next number that free_node() gives; nodes below it are taken.
  std::int64_t next_node() const { return next_node_; }
  void take_nodes_below(std::int64_t next) { next_node_ = next; }
  /// The node at the foot of a column: on the tool face.
  std::uint32_t foot(mesh::NodeIndex n) const { return face(n, true); }

 private:
  std::vector<std::uint32_t> column(mesh::NodeIndex n) const { return solids_.column_of(n); }
  std::uint32_t face(mesh::NodeIndex n, bool tool) const {
    return solids_.levels[tool ? solids_.column[n] : solids_.column[n + 1] - 1];
  }
  double height_of(mesh::NodeIndex n, std::uint32_t node) const;
  /// Where a column has a height above the mesh: the two nodes beside it, of which the low one alone counts where it lies
  /// there.
  struct Place {
    std::uint32_t low, high;
    double share;  ///< of the high one, below 1
    bool at_node() const { return share == 0.0; }
    Sum mean(int freedom, double value) const {
      return {{{id_of(low), freedom, 1.0 - share}, {id_of(high), freedom, share}}, value};
    }
  };
  Place place(mesh::NodeIndex n, double height) const;
  /// What a support holds at a node of the mesh: at all of its column, and in the middle of the laminate only.
  struct HeldColumn {
    std::uint8_t all = 0, middle = 0;
    Model::Axes axes;
    Place centre;
  };
  std::optional<HeldColumn> held_column(const Model::Support& support, std::size_t i) const;
  /// A force at the mesh: at the node there, or on the two beside it as a lever.
  void put_at_mesh(std::vector<NodeValue>& out, mesh::NodeIndex n, const Vec3& force) const;
  /// A moment as a pair of forces on the two faces; what turns about the column is left out.
  void turn(std::vector<NodeValue>& out, mesh::NodeIndex n, const Vec3& moment) const;
  void move(LoadCards& out, mesh::NodeIndex n, const Model::Displacement& displacement) const;

  const Model& model_;
  const model::Solids& solids_;
  double first_temperature_;
  std::int64_t next_node_;
};

}  // namespace bordado::deck

#endif
