/// \file sweep.hpp
/// The margins of a panel or a bar while one or two of its numbers vary: where the least is 1, where it is largest, what comes first
/// where.
#ifndef BORDADO_SWEEP_HPP
#define BORDADO_SWEEP_HPP

#include <bordado/sensitivity.hpp>

#include <functional>

namespace bordado::sizing {

/// A number that varies.
struct Varied {
  std::string words;           ///< what it is: "thickness of the core"
  std::string unit;            ///< may be empty
  std::vector<double> values;  ///< rising, two at least
  std::optional<double> now;   ///< as it is
  bool whole = false;          ///< whole numbers only
};
/// So many values from one to the other, evenly; of whole numbers no more than there are.
/// \throws std::invalid_argument where they do not rise.
std::vector<double> even_values(double from, double to, std::size_t most, bool whole);

/// A value of the first that is varied, of a sweep of one.
struct Crossing {
  double value = 0.0;  ///< where the least margin is 1; of whole numbers the first on the other side
  bool rises = false;  ///< above 1 from there on
};
/// What comes first from one value to another.
struct Stretch {
  double from = 0.0, to = 0.0;
  std::string what;  ///< empty: nothing happens, or there is no such panel or bar
};
struct Sweep {
  std::vector<Varied> varied;                  ///< one or two
  std::vector<std::optional<Outcome>> points;  ///< values of the first one after the other, for each of the second
  std::optional<std::size_t> largest,
      smallest;                  ///< of the points by their least margin; nothing where nothing ever happens
  std::vector<Crossing> ones;    ///< of one that varies, to 1e-4 of its range
  std::vector<Stretch> first;    ///< of one that varies, to 1e-4 of its range
  std::size_t out_of_range = 0;  ///< so many of the points
  /// The least margin there; nothing as in `points`.
  const Margin* least(std::size_t point) const;
};
/// The thing with other values, one for each that varies; nothing where there is none.
using PanelWith = std::function<std::optional<PanelCase>(std::span<const double> values)>;
using CurvedWith = std::function<std::optional<CurvedCase>(std::span<const double> values)>;
using BarWith = std::function<std::optional<BarCase>(std::span<const double> values)>;
/// \throws std::invalid_argument where neither one nor two vary, or their values do not rise.
Sweep sweep(std::vector<Varied> varied, const PanelWith& with, const Progress& progress = {});
Sweep sweep(std::vector<Varied> varied, const CurvedWith& with, const Progress& progress = {});
Sweep sweep(std::vector<Varied> varied, const BarWith& with, const Progress& progress = {});

/// "12.5 mm", "30°".
std::string value_text(const Varied& varied, double value);
/// A line each: what comes first where and where the least margin is 1 (of one that varies), the largest and the smallest, how many
/// points are out of range.
std::vector<std::string> words_of(const Sweep& sweep);

}  // namespace bordado::sizing

#endif
