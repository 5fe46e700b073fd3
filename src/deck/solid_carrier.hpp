// What carries the steps of a deck of solids.
#pragma once

#include "calculix_steps.hpp"

#include <bordado/solids.hpp>

namespace bordado::deck {

/// The id that a node or a solid has in a deck.
inline std::int64_t id_of(std::uint32_t place) { return static_cast<std::int64_t>(place) + 1; }

/// What acts on all nodes of a deck of solids: at its own nodes, and with its own masses, which are not quite those of the
/// mesh where plies end in wedges.
Total total_on_solids(const Model& model, const Model::Case& one);

/// Per solid whether its element has 27 points and not 8, in a deck of these cases: where couples turn far with columns
/// (SolidCarrier::cards), elements of eight points would give way to forces on single nodes. Empty where none has.
std::vector<std::uint8_t> fully_integrated(const Model& model, std::span<const std::size_t> cases);

/// Columns of nodes stand for the nodes of the mesh.
class SolidCarrier : public Carrier {
 public:
  SolidCarrier(const Model& model, std::string requests, double first_temperature);

  std::vector<HeldNodes> held(const Model::Support& support) const override;
  std::vector<HeldSum> held_sums(const Model::Support& support) const override;
  LoadCards cards(const Model::Load& load, bool turns) const override;
  std::vector<std::pair<std::string, std::vector<std::int64_t>>> sums(const Model::Case& one) const override;
  bool node_by_node(const Model::Case& one, const std::string& set) const override;
  std::vector<std::int64_t> linked(const Model::Link& link) const override;
  std::string requests() const override { return requests_; }
  std::int64_t free_node() override { return next_node_++; }
  double first_temperature() const override { return first_temperature_; }
  std::vector<std::string> grounds() const override { return grounds_; }
  bool has_bed() const override { return !grounds_.empty(); }
  bool wants_held() const override { return !requests_.empty(); }
  bool wants_energies() const override { return !requests_.empty(); }

  /// The node at the foot of a column: on the tool face.
  std::uint32_t foot(mesh::NodeIndex n) const { return face(n, true); }
  /// Beds of a case, under the tool face.
  void write_beds(const Model::Case& one, OutputFile& file, std::vector<Stands>& names);

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
  const Solids& solids_;
  std::string requests_;
  double first_temperature_;
  std::int64_t next_node_;
  std::vector<std::string> grounds_;
};

}  // namespace bordado::deck
