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
  std::vector<std::pair<std::string, double>> deflections;  ///< the largest of each static case
  struct Mode {
    std::string case_name;
    std::size_t number = 0;  ///< from 1, those under reversed loads left out
    double value = 0.0;
    std::string unit;  ///< of frequencies; factors have none
  };
  std::vector<Mode> modes;
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
/// \param second_name how its fields call it
std::vector<mesh::Array> differences(const Results& first, const Results& second,
                                     std::string_view second_name = "second");

/// Modes of two runs that have one shape, whatever their numbers.
struct ModeMatch {
  std::string case_name;
  std::size_t first = 0, second = 0;  ///< from 1, modes under reversed loads left out
  double assurance = 0.0;             ///< how alike they are, 0 to 1
};
/// Modal assurance, (a b)² / (a² b²) over displacements (R. J. Allemang and D. L. Brown, Proc. 1st International Modal Analysis Conference
/// (1982) 110), at the nodes of the first mesh by the area that each has; the second is looked up as for differences(). The most alike are
/// taken first; below a half nothing is. Cases of one name, by case, then by the number in the first.
std::vector<ModeMatch> matched_modes(const Design& first, std::span<const model::CaseFields> modes,
                                     const Design& second, std::span<const model::CaseFields> others);
/// Shapes of matched modes on the mesh of the first: the second's, as large as the first's and the same way.
std::vector<mesh::Array> mode_fields(const Design& first, std::span<const model::CaseFields> modes,
                                     const Design& second, std::span<const model::CaseFields> others,
                                     std::span<const ModeMatch> matches, std::string_view second_name = "second");

}  // namespace bordado::review

#endif
