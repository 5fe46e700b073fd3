// What there is to tell of a part that goes to CalculiX, whatever the text of its deck.
#pragma once

#include "node_survey.hpp"

#include <bordado/deck/uses.hpp>

namespace bordado::calculix {

/// The equivalent shear moduli of faces, per section; see fit_soft_core().
struct CoreFits {
  List<section::SectionId, std::optional<deck::ShearFit>> fits;
  std::size_t fitted = 0;              ///< sections that have one
  double worst = 1.0, leftover = 0.0;  ///< the largest of them
};
/// Findings: "deck.soft-core" (a note), "deck.soft-core-leftover", "deck.shear-too-stiff" (warnings).
CoreFits fit_cores(const Model& model, const List<section::SectionId, Box>& boxes, Findings& findings);

/// Sections that stand as three layers.
std::size_t equivalents(const List<section::SectionId, Box>& boxes);

/// A deck as far as it is to be judged. Refers to all it is given.
struct WrittenDeck {
  const Model& model;
  const deck::WriteOptions& options;
  const List<section::SectionId, Box>& boxes;
  const NodeSurvey* survey;          ///< none where the laminate alone is written
  double largest_orientation_error;  ///< radians
  std::size_t orientations;
};
/// Findings: "deck.equivalents", "deck.support-at-middle", "deck.knots", "deck.orientations-shared" (notes),
/// "deck.equivalents-none", "deck.coarse-arc", "deck.very-thin", "deck.thick-at-edge" (warnings).
void report_calculix(const WrittenDeck& deck, Findings& findings);

/// Of the moment with which temperatures from face to face bend a laminate of plies, the largest share that is within
/// layers, which expand by their mean, of those sections that stand as plies.
double lost_within_layers(const Model& model, const deck::Uses& uses, const List<section::SectionId, Box>& boxes);

}  // namespace bordado::calculix
