// What carries the steps of a deck of layered shells.
#pragma once

#include "node_survey.hpp"
#include "steps.hpp"

#include <bordado/base/files.hpp>

namespace bordado::calculix {

class ShellCarrier : public deck::Carrier, public Requests {
 public:
  /// Refers to all it is given. \param heat_by_number see deck::Carrier.
  ShellCarrier(const Model& model, std::span<const std::size_t> cases, const NodeSurvey& survey,
               std::string of_elements, bool heat_by_number, double first_temperature);

  std::vector<deck::HeldNodes> held(const Model::Support& support) const override;
  deck::LoadCards cards(const Model::Load& load, bool turns) const override;
  std::vector<std::pair<std::string, std::vector<std::int64_t>>> sums(const Model::Case& load_case) const override;
  bool node_by_node(const Model::Case& load_case, const std::string& set) const override;
  std::vector<std::int64_t> linked(const Model::Link& link) const override;
  std::string of_elements() const override { return of_elements_; }
  std::int64_t free_node() override { return next_node_++; }
  std::size_t ties() const override { return survey_.ties(); }
  bool heat_by_number() const override { return heat_by_number_; }
  double first_temperature() const override { return first_temperature_; }
  std::vector<std::string> grounds() const override { return grounds_; }

  /// Beds as solids under the shells: their far faces are held.
  void write_beds(OutputFile& file, std::vector<deck::Stands>& names);

 private:
  std::vector<std::int64_t> ids(const std::vector<mesh::NodeIndex>& nodes) const;
  void put(std::vector<deck::NodeValue>& out, mesh::NodeIndex node, const Vec3& value, int first_freedom) const;

  const Model& model_;
  const NodeSurvey& survey_;
  std::vector<std::size_t> beds_;  ///< in Model::beds
  std::string of_elements_;
  bool heat_by_number_;
  double first_temperature_;
  std::int64_t next_node_, next_element_;
  std::vector<std::string> grounds_;
};

}  // namespace bordado::calculix
