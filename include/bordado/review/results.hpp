/// \file results.hpp
/// Results of cases as tables and fields.
#ifndef BORDADO_REVIEW_RESULTS_HPP
#define BORDADO_REVIEW_RESULTS_HPP

#include <bordado/mesh/io.hpp>
#include <bordado/recovery.hpp>

#include <cstddef>
#include <span>
#include <string>
#include <vector>

namespace bordado {
struct Design;
}

namespace bordado::review {

/// Cases that were solved.
struct Results {
  const Design& design;
  const model::Model& model;
  const result::Recovery& recovery;
  std::span<const model::CaseFields> fields;
  std::span<const std::size_t> cases;  ///< in the model's cases
  const result::Reserves& reserves;
};

/// What is written besides, or only.
struct FieldsToWrite {
  std::span<const model::CaseFields> modes = {};  ///< .vtu: their shapes
  std::vector<part::PlyId> plies = {};  ///< .vtu: their stresses at bottom, middle and top; .csv: no others, where any
};

/// What write_results() writes for viewers.
std::vector<mesh::Array> result_fields(const Results& results, const FieldsToWrite& written = {});

/// Writes what was recovered: .csv, a line for each case, element, layer and place, with stresses and strains in ply axes
/// and in the section's; .vtu, fields for viewers: displacements, rotations, reactions, section forces, strains,
/// reserves with the ply, criterion and case that decide. Units stand in the names.
/// \throws Failure "results.ending-unknown", "file.*".
void write_results(const Results& results, const std::string& path, const Progress& progress = {},
                   const FieldsToWrite& written = {});

}  // namespace bordado::review

#endif
