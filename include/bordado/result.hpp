/// \file result.hpp
/// What the solver answered.
#pragma once

#include <bordado/base.hpp>

namespace bordado::result {

/// A value per entity id.
struct Row {
  std::int64_t id;
  Vec3 value;
};

/// What a CalculiX .dat file says about the last step.
struct Answer {
  std::vector<Row> displacements;  ///< by node id, at the laminate's middle surface
  std::optional<Vec3> reaction;    ///< total force of the node set SUPPORTED, where the deck asked for it
  /// The largest displacement; nothing when there are none.
  std::optional<Row> largest() const;
};

/// \throws Failure "file.*", "result.empty" when there is no displacement block, "result.not-finite".
Answer read_calculix(const std::string& path);

/// Whether a CalculiX run really finished: its exit status alone does not tell. Text is what it printed.
/// \returns why it did not, or nothing.
std::optional<std::string> calculix_trouble(int exit_status, std::string_view printed);

}  // namespace bordado::result
