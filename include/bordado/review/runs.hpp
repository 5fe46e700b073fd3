/// \file runs.hpp
/// Runs side by side.
#ifndef BORDADO_REVIEW_RUNS_HPP
#define BORDADO_REVIEW_RUNS_HPP

#include <bordado/mesh/io.hpp>
#include <bordado/review/results.hpp>

#include <array>
#include <optional>

namespace bordado::review {

/// What a run comes to. Part units.
struct RunFigures {
  std::string name;
  std::size_t elements = 0;
  double size = 0.0;  ///< of an element: the root of the mean area
  double mass = 0.0;
  std::vector<std::pair<std::string, double>> deflections;         ///< the largest of each static case
  std::vector<std::pair<std::string, double>> modes;               ///< "hum 1", value
  std::vector<std::pair<std::string, result::Critical>> reserves;  ///< the least of each static case, beside steps too
};
RunFigures run_of(const std::string& name, const Results& results, std::span<const model::CaseFields> modes);

/// A number that three meshes gave, and what it tends to.
struct Extrapolation {
  double value = 0.0, order = 0.0;
};
/// From f = value + c size^order through three sizes (L. F. Richardson, Phil. Trans. Royal Society A 226 (1927) 299),
/// any three, the order by bisection. Nothing where the numbers do not approach anything: the steps change sign or grow.
std::optional<Extrapolation> extrapolated(std::array<double, 3> sizes, std::array<double, 3> values);

/// Fields of two runs on the mesh of the first, and their differences: displacements and reserves of cases of one name. The
/// second is looked up at the nearest place of its mesh, and is not a number where that is farther than an element.
std::vector<mesh::Array> differences(const Results& first, const Results& second);

}  // namespace bordado::review

#endif
