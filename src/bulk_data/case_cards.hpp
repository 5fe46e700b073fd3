// Supports, loads and cases of a bulk data deck of shells.
#pragma once

#include "writers.hpp"

#include <map>
#include <optional>

namespace bordado::bulk_data {

class CaseCards {
 public:
  /// Refers to what it is given but for the list of cases. \param sections how many properties stand before those of springs
  /// \throws Failure "deck.cases-apart" where they do not fit one deck.
  CaseCards(const Model& model, std::span<const std::size_t> cases, OutputFile& file, std::vector<deck::Stands>& names,
            std::int64_t sections);
  /// What is asked for above the bulk data.
  struct Asked {
    bool layers = true;     ///< stress and strain of layers
    bool sections = false;  ///< strains and forces of sections instead
    std::string sets = {};  ///< sets of elements, written as they are
  };
  /// Everything above the bulk data.
  void write_control(const Asked& asked);
  /// Everything behind materials.
  void write();
  /// The number of the axes that a node's supports hold it along, where these are not the part's.
  std::optional<std::int64_t> axes_of(mesh::NodeIndex node) const {
    const auto own = axes_of_.find(node);
    return own == axes_of_.end() ? std::nullopt : std::optional(static_cast<std::int64_t>(own->second) + 1);
  }

 private:
  static constexpr int support_set = 1, load_set = 2;
  // Sets of several cases: those of supports, of loads, and what a case puts together.
  static constexpr std::size_t supports_from = 1000, loads_from = 2000, moved_from = 3000, heat_from = 4000,
                               case_supports_from = 5000, case_loads_from = 6000;
  std::size_t set_of_support(std::size_t i) const { return plain_ ? support_set : supports_from + i + 1; }
  std::size_t set_of_load(std::size_t i) const { return plain_ ? load_set : loads_from + i + 1; }

  void line(std::string_view text);
  void comment(std::string_view text);
  void write_subcases();
  bool heated(const Model::Case& load_case) const;
  /// Directions of supports that are not the part's, numbered from 1: those of the cases' supports.
  void collect_axes();
  void write_axes();
  void write_supports();
  void write_loads();
  void write_vector(std::string_view card, std::int64_t node, const Vec3& v);
  void write_load(const Model::Force& force);
  void write_load(const Model::Pressure& pressure);
  void write_load(const Model::Inertia& inertia);
  void write_load(const Model::Link& link);
  // These stand with the cases, whose factors they take.
  void write_load(const Model::Displacement&);
  void write_load(const Model::Temperature&);
  /// Springs to the ground along the normal at every node.
  void write_beds();
  /// What every case puts together.
  void write_cases();
  void write_heat(std::size_t k);

  const Model& model_;
  const mesh::Surface& surface_;
  std::vector<std::size_t> cases_;
  std::optional<double> stress_free_;  ///< where a case is warmed
  OutputFile& file_;
  std::vector<deck::Stands>& names_;
  std::int64_t sections_;
  bool plain_ = true;
  std::vector<Model::Axes> axes_;
  std::map<mesh::NodeIndex, std::size_t> axes_of_;  ///< nodes that supports hold along axes of their own
  std::size_t beds_ = 0;
  std::int64_t set_ = load_set, next_node_ = 0, next_element_ = 0;
};

}  // namespace bordado::bulk_data
