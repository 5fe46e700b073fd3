/// \file carrier.hpp
/// Supports and loads at the nodes of a deck, for whoever writes a format.
#ifndef BORDADO_DECK_CARRIER_HPP
#define BORDADO_DECK_CARRIER_HPP

#include <bordado/deck.hpp>

#include <map>
#include <optional>
#include <set>

namespace bordado::deck {

/// A value at a freedom (1 to 6) of a node.
struct NodeValue {
  std::int64_t node;
  int freedom;
  double value;
};

/// Freedoms of nodes, each times a factor, that are held or moved as a whole: the mean of two nodes, the turn of a column.
struct Sum {
  std::vector<NodeValue> terms;
  double value = 0.0;
};

/// A moment on what turns in the mean as some nodes do, so that it goes on turning with them.
struct Couple {
  std::vector<std::int64_t> nodes;
  Vec3 moment;
};

/// What a load comes to at nodes of the deck, with a factor of one.
struct LoadCards {
  std::vector<NodeValue> forces;                              ///< in the part's axes, freedoms 1 to 3; then moments
  std::string remark;                                         ///< on them
  std::vector<NodeValue> more;                                ///< forces and moments that stand behind the remark
  const Model::Inertia* inertia = nullptr;                    ///< of the load, over all elements
  std::vector<Couple> couples;                                ///< moments on columns as they turn; see Carrier::cards
  std::vector<NodeValue> moved;                               ///< prescribed
  std::vector<Sum> moved_sums;                                ///< likewise
  std::vector<std::pair<std::int64_t, double>> temperatures;  ///< for a factor of one; see Carrier::first_temperature
};

/// Nodes that a support holds alike.
struct HeldNodes {
  std::vector<std::int64_t> nodes;  ///< ascending
  std::uint8_t held = 0;
  std::vector<Model::Axes> axes = {};  ///< per node, or empty
};

/// Sums that a support holds at nought, and the directions of their nodes where these are not the part's.
struct HeldSum {
  Sum sum;
  std::optional<Model::Axes> axes = {};
};

/// Sums as equations, in each of which the first term is not held by itself and stands in no later one.
class Equations {
 public:
  /// \param held freedoms that are held or moved by themselves
  explicit Equations(std::set<std::pair<std::int64_t, int>> held) : held_(std::move(held)) {}
  /// One that stands already is passed over. \param free_node whose first freedom the sum is, or 0 where it is nought.
  /// \returns false where all of its terms are held already.
  bool add(const Sum& sum, std::int64_t free_node);
  /// Terms whose sum is nought.
  const std::vector<std::vector<NodeValue>>& all() const { return all_; }

 private:
  std::set<std::pair<std::int64_t, int>> held_;
  std::set<std::vector<std::pair<std::int64_t, int>>> known_;
  std::map<std::pair<std::int64_t, int>, std::size_t> first_in_;  ///< of a first term: its equation
  std::vector<std::vector<NodeValue>> all_;
};

/// What supports and loads come to at the nodes of a deck, whatever stands there: shells or solids.
class Carrier {
 public:
  virtual ~Carrier() = default;
  virtual std::vector<HeldNodes> held(const Model::Support& support) const = 0;
  /// What a support holds beside nodes.
  virtual std::vector<HeldSum> held_sums(const Model::Support&) const { return {}; }
  /// \param turns whether what bears moments turns far: pairs of forces would not turn with it
  virtual LoadCards cards(const Model::Load& load, bool turns) const = 0;
  /// Of links: the nodes that move as one.
  virtual std::vector<std::int64_t> linked(const Model::Link& link) const = 0;
  /// A number no node has; each call another.
  virtual std::int64_t free_node() = 0;
  /// The temperature that all begin with.
  virtual double first_temperature() const { return 0.0; }
};

/// The equations of cases that are held alike, and per load the free nodes (their first freedom) that move its sums.
struct EquationsOf {
  std::vector<std::vector<NodeValue>> all;
  std::map<std::size_t, std::vector<std::int64_t>> movers;
};
/// \throws Failure "deck.moved-held".
EquationsOf equations_of(const Model& model, Carrier& carrier, std::span<const std::size_t> cases);

}  // namespace bordado::deck

#endif
