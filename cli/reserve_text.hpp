// Reserves of a solved part as tables and JSON, for solve and stress.
#pragma once

#include "strength_text.hpp"

#include <bordado/recovery.hpp>

namespace bordado::cli {

/// Where a table of reserves would be empty.
constexpr std::string_view no_reserves = "no reserves: nothing fails by these criteria, or no strength is known";

/// How a critical place is told: element by the mesh file's id, ply, face, and whether it is doubtful.
Json critical_json(const Design& design, const model::Model& model, const result::Critical& one);
/// Reserves of all cases: the first to fail, of each criterion and of each ply, least factor first.
Json reserves_json(const Design& design, const model::Model& model, const result::Reserves& reserves);
/// \param most lines of plies
void print_reserves(const Design& design, const model::Model& model, const result::Reserves& reserves,
                    std::size_t most);
/// Strengths that the criteria ask for and materials that are laid do not say.
void find_missing(const Design& design, std::span<const laminate::Criterion> criteria, Findings& findings);

}  // namespace bordado::cli
