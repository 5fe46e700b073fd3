// Numbers that vary in space, at nodes.
#pragma once

#include <bordado/model.hpp>

namespace bordado::model {

/// \returns one number for each of the nodes, in part units; empty where an error was told ("load.formula",
/// "load.not-finite", "load.of-unknown", "load.field"). \param who "[load.wind]".
std::vector<double> amounts_at(const part::Amount& amount, std::span<const mesh::NodeIndex> nodes,
                               const std::string& who, const Model& model, Findings& errors, Findings& findings);

}  // namespace bordado::model
