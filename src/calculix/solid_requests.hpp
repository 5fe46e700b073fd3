// What is asked of the solver of a deck of solids.
#pragma once

#include "steps.hpp"

#include <bordado/deck/solid_carrier.hpp>

namespace bordado::calculix {

/// What acts on all nodes of a deck of solids: at its own nodes, and with its own masses, which are not quite those of the
/// mesh where plies end in wedges.
model::Total total_on_solids(const Model& model, const Model::Case& load_case);

/// Per solid whether its element has 27 points and not 8, in a deck of these cases: where couples turn far with columns
/// (deck::SolidCarrier::cards), elements of eight points would give way to forces on single nodes. Empty where none has.
std::vector<std::uint8_t> fully_integrated(const Model& model, std::span<const std::size_t> cases);

class SolidRequests : public Requests {
 public:
  /// Refers to both. \param of_elements what is asked of them in a static step
  SolidRequests(const Model& model, const deck::SolidCarrier& carrier, std::string of_elements)
      : model_(model), carrier_(carrier), of_elements_(std::move(of_elements)) {}

  std::vector<std::pair<std::string, std::vector<std::int64_t>>> sums(const Model::Case& load_case) const override;
  bool node_by_node(const Model::Case& load_case, const std::string& set) const override;
  std::string of_elements() const override { return of_elements_; }
  std::vector<std::string> grounds() const override { return grounds_; }

  /// Beds of a case, under the tool face.
  void write_beds(const Model::Case& load_case, deck::SolidCarrier& carrier, OutputFile& file,
                  std::vector<deck::Stands>& names);

 private:
  const Model& model_;
  const deck::SolidCarrier& carrier_;
  std::string of_elements_;
  std::vector<std::string> grounds_;
};

}  // namespace bordado::calculix
