// Supports, loads and steps of a CalculiX deck, whatever carries them: shells or solids.
#pragma once

#include "writers.hpp"

#include <bordado/base/files.hpp>

#include <functional>
#include <map>
#include <optional>
#include <set>

namespace bordado::deck {

/// A number of up to 19 characters: this solver reads no more.
std::string calculix_real(double value);
/// A text as comment lines.
std::string calculix_comment(std::string_view text);

/// A set of nodes or elements as lines: as runs of ids, first and last, where that is shorter, else all, twelve to a
/// line. \param ids ascending.
std::string calculix_set(std::string_view kind, std::string_view name, std::span<const std::int64_t> ids);

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
  std::vector<std::string> body;                              ///< "EALL,GRAV", then its magnitude, then the rest:
  std::vector<double> magnitudes;                             ///< one for each of `body`
  std::vector<std::string> body_rest;                         ///< ",0,0,-1"
  std::vector<Couple> couples;                                ///< moments on columns as they turn; see Carrier::cards
  std::vector<NodeValue> moved;                               ///< prescribed
  std::vector<Sum> moved_sums;                                ///< likewise
  std::vector<std::pair<std::int64_t, double>> temperatures;  ///< above the stress-free one; see Carrier::heat
};

/// Weight and turning as the solver's own cards over all elements.
void add_inertia(const Model::Inertia& inertia, LoadCards& out);

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

/// Where a bed is put: numbers that are free, and the nodes of the deck that it carries.
struct BedMesh {
  std::int64_t next_node, next_element;
  std::function<std::int64_t(mesh::NodeIndex)> id;
  std::function<Vec3(mesh::NodeIndex)> point;
};
/// Writes a bed as solids below the model: this solver has no springs beside layered shells, and solids that are stiff
/// along the normal only are exact [28]. Returns the name of the set of nodes that are held. \param number in
/// Model::beds.
std::string write_bed(const Model& model, std::size_t number, BedMesh& mesh, OutputFile& file,
                      std::vector<Stands>& names);

class Carrier;
/// The equations of cases that are held alike, and per load the free nodes (their first freedom) that move its sums.
struct EquationsOf {
  std::vector<std::vector<NodeValue>> all;
  std::map<std::size_t, std::vector<std::int64_t>> movers;
};
/// \throws Failure "deck.moved-held".
EquationsOf equations_of(const Model& model, Carrier& carrier, std::span<const std::size_t> cases);

/// What the steps stand on.
class Carrier {
 public:
  virtual ~Carrier() = default;
  virtual std::vector<HeldNodes> held(const Model::Support& support) const = 0;
  /// What a support holds beside nodes.
  virtual std::vector<HeldSum> held_sums(const Model::Support&) const { return {}; }
  /// \param turns whether what bears moments turns far: pairs of forces would not turn with it
  virtual LoadCards cards(const Model::Load& load, bool turns) const = 0;
  /// Nodes of a part of the model for sums of forces; empty where there are none to be had.
  virtual std::vector<std::pair<std::string, std::vector<std::int64_t>>> sums(const Model::Case& one) const = 0;
  /// Whether the forces on a set of these are asked for node by node, too: they are what supports put on the part.
  virtual bool node_by_node(const Model::Case& one, const std::string& set) const = 0;
  /// Of links: the nodes that move as one.
  virtual std::vector<std::int64_t> linked(const Model::Link& link) const = 0;
  /// What is asked of elements in a static step, beside the energy.
  virtual std::string requests() const = 0;
  /// A number no node has; each call another.
  virtual std::int64_t free_node() = 0;
  /// Sets of nodes that are held in every case: what beds stand on.
  virtual std::vector<std::string> grounds() const { return {}; }
  virtual bool has_bed() const { return false; }
  /// Whether what is held while loads are multiplied is asked for in a step of its own.
  virtual bool wants_held() const = 0;
  /// Whether the strain energy of each element is asked for.
  virtual bool wants_energies() const { return false; }
  /// Room that ties take in the solver's arrays of supports.
  virtual std::size_t ties() const { return 0; }
  /// Whether temperatures in the deck stand for the number of the case, each material knowing what it does then.
  virtual bool heat_by_number() const { return false; }
  /// The temperature that all begin with.
  virtual double first_temperature() const { return 0.0; }
};

/// Writes everything behind the sections.
class StepWriter {
 public:
  StepWriter(const Model& model, std::span<const std::size_t> cases, Carrier& carrier, OutputFile& file,
             std::vector<Stands>& names);
  /// \returns the steps whose answers are asked for.
  std::vector<Mark> write();

 private:
  void line(std::string_view text);
  void comment(std::string_view text) { file_.write(calculix_comment(text)); }
  void write_supports();
  void write_axes(const std::map<std::int64_t, Model::Axes>& axes);
  void write_links();
  void write_equations();
  void write_couples();
  /// \param share of what moves nodes
  void write_boundary(const Model::Case& one, bool in_step, double share = 1.0);
  void write_case(std::size_t k);
  void write_loads(const Model::Case& one, double sign);
  void write_nodal(const std::vector<NodeValue>& values, double factor, bool may_turn);
  void write_temperatures(const Model::Case& one, std::size_t k);
  void write_results(const Model::Case& one, std::size_t k, bool modes, bool held = false);
  void write_held(const Model::Case& one, std::size_t k);
  std::string set_name(const std::string& name, std::size_t k) const;

  const Model& model_;
  std::vector<std::size_t> cases_;
  Carrier& carrier_;
  OutputFile& file_;
  std::vector<Stands>& names_;
  std::map<std::size_t, std::vector<std::pair<std::string, HeldNodes>>> held_;  ///< per support
  std::map<std::int64_t, Eigen::Matrix3d> turned_;                              ///< nodes with axes of their own
  EquationsOf equations_;
  std::map<std::size_t, std::int64_t> link_nodes_;         ///< per load: where its force acts
  std::map<std::size_t, std::vector<NodeValue>> couples_;  ///< per load: moments on the nodes that stand for them
  bool heated_ = false;
  std::vector<Mark> marks_;
};

/// Whether a static case has a temperature and other loads.
bool holds_besides(const Model& model, const Model::Case& one);
/// The cases that options ask for, in order.
std::vector<std::size_t> wanted_cases(const Model& model, const WriteOptions& options);

}  // namespace bordado::deck
