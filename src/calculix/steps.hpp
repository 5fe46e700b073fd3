// Supports, loads and steps of a CalculiX deck, whatever carries them: shells or solids.
#pragma once

#include "plan.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/calculix/boxes.hpp>
#include <bordado/deck/carrier.hpp>
#include <bordado/deck/writing.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <functional>
#include <map>

namespace bordado::calculix {

/// A number of up to 19 characters: this solver reads no more.
std::string real(double value);
/// A text as comment lines.
std::string comment_lines(std::string_view text);

/// A set of nodes or elements as lines: as runs of ids, first and last, where that is shorter, else all, twelve to a
/// line. Calls with(head, number of lines, what appends a line to a text). \param ids ascending.
template <class With>
void set_lines(std::string_view kind, std::string_view name, std::span<const std::int64_t> ids, With with) {
  const auto runs = deck::runs_of(ids);
  const bool generate = 3 * runs.size() < ids.size();
  const std::string head = fmt::format("*{}, {}={}{}\n", kind, kind, name, generate ? ", GENERATE" : "");
  if (generate)
    with(head, runs.size(), [&](std::size_t run, std::string& text) {
      append_integer(text, runs[run][0]);
      text += ',';
      append_integer(text, runs[run][1]);
      text += ",1\n";
    });
  else
    with(head, (ids.size() + 11) / 12, [&](std::size_t row, std::string& text) {
      append_integers(text, ids.subspan(12 * row, std::min<std::size_t>(12, ids.size() - 12 * row)));
      text += '\n';
    });
}
/// The same as one text.
std::string set_text(std::string_view kind, std::string_view name, std::span<const std::int64_t> ids);

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
                      std::vector<deck::Stands>& names);

/// What is asked of the solver, beside displacements.
class Requests {
 public:
  virtual ~Requests() = default;
  /// Nodes of a part of the model for sums of forces; empty where there are none to be had.
  virtual std::vector<std::pair<std::string, std::vector<std::int64_t>>> sums(const Model::Case& load_case) const = 0;
  /// Whether the forces on a set of these are asked for node by node, too: they are what supports put on the part.
  virtual bool node_by_node(const Model::Case& load_case, const std::string& set) const = 0;
  /// What is asked of elements in a static step, beside the energy.
  virtual std::string of_elements() const = 0;
  /// Sets of nodes that are held in every case: what beds stand on.
  virtual std::vector<std::string> grounds() const { return {}; }
  /// Whether what is held while loads are multiplied is asked for in a step of its own.
  virtual bool wants_held() const { return !of_elements().empty(); }
  /// Whether the strain energy of each element is asked for.
  virtual bool wants_energies() const { return !of_elements().empty(); }
  /// Room that ties take in the solver's arrays of supports.
  virtual std::size_t ties() const { return 0; }
  /// Whether temperatures in the deck stand for the number of the case, each material knowing what it does then.
  virtual bool heat_by_number() const { return false; }
};

/// Writes everything behind the sections.
class StepWriter {
 public:
  /// Refers to all it is given.
  StepWriter(const Model& model, std::span<const std::size_t> cases, deck::Carrier& carrier, const Requests& requests,
             OutputFile& file, std::vector<deck::Stands>& names);
  /// \returns the steps whose answers are asked for.
  std::vector<deck::Mark> write();

 private:
  void line(std::string_view text);
  void comment(std::string_view text) { file_.write(comment_lines(text)); }
  void write_supports();
  void write_axes(const std::map<std::int64_t, Model::Axes>& axes);
  void write_links();
  void write_equations();
  void write_couples();
  /// \param share of what moves nodes
  void write_boundary(const Model::Case& load_case, bool in_step, double share = 1.0);
  void write_case(std::size_t k);
  void write_step(std::size_t k, const PlannedStep& step);
  void write_loads(const Model::Case& load_case, double share);
  void write_nodal(const std::vector<deck::NodeValue>& values, double factor, bool may_turn);
  void write_inertia(const Model::Inertia& inertia, double factor);
  void write_temperatures(const Model::Case& load_case, std::size_t k);
  void write_results(const Model::Case& load_case, std::size_t k, bool modes, bool held = false);
  std::string set_name(const std::string& name, std::size_t k) const;

  const Model& model_;
  std::vector<std::size_t> cases_;
  deck::Carrier& carrier_;
  const Requests& requests_;
  OutputFile& file_;
  std::vector<deck::Stands>& names_;
  std::map<std::size_t, std::vector<std::pair<std::string, deck::HeldNodes>>> held_;  ///< per support
  std::map<std::int64_t, Eigen::Matrix3d> turned_;                                    ///< nodes with axes of their own
  deck::EquationsOf equations_;
  std::map<std::size_t, std::int64_t> link_nodes_;               ///< per load: where its force acts
  std::map<std::size_t, std::vector<deck::NodeValue>> couples_;  ///< per load: moments on the nodes that stand for them
  bool heated_ = false;
  std::vector<deck::Mark> marks_;
};

}  // namespace bordado::calculix
