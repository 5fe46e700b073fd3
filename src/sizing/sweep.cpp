#include <bordado/sweep.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace bordado::sizing {

namespace {

const Margin* least_of(const std::optional<Outcome>& outcome) {
  return outcome && !outcome->margins.empty() ? &outcome->margins.front() : nullptr;
}

template <class Case, class With>
Sweep swept(std::vector<Varied> varied, const With& with, const Progress& progress) {
  if (varied.empty() || varied.size() > 2) throw std::invalid_argument("one number varies, or two");
  for (const Varied& one : varied)
    if (one.values.size() < 2 || std::adjacent_find(one.values.begin(), one.values.end(),
                                                    [](double a, double b) { return !(a < b); }) != one.values.end())
      throw std::invalid_argument("values rise, and are two at least");
  Sweep out;
  out.varied = std::move(varied);
  const std::size_t columns = out.varied[0].values.size(),
                    rows = out.varied.size() == 2 ? out.varied[1].values.size() : 1;
  std::vector<Case> cases;
  std::vector<std::size_t> of;
  for (std::size_t row = 0; row < rows; ++row)
    for (std::size_t column = 0; column < columns; ++column) {
      std::vector<double> values{out.varied[0].values[column]};
      if (rows > 1) values.push_back(out.varied[1].values[row]);
      if (auto one = with(values)) cases.push_back(std::move(*one)), of.push_back(row * columns + column);
    }
  out.points.resize(rows * columns);
  std::vector<std::optional<Outcome>> found = outcomes(std::span<const Case>(cases), progress);
  for (std::size_t i = 0; i < of.size(); ++i) out.points[of[i]] = std::move(found[i]);
  for (std::size_t p = 0; p < out.points.size(); ++p) {
    if (out.points[p] && !out.points[p]->in_range) ++out.out_of_range;
    const Margin* const least = out.least(p);
    if (least == nullptr) continue;
    if (!out.largest || least->factor > out.least(*out.largest)->factor) out.largest = p;
    if (!out.smallest || least->factor < out.least(*out.smallest)->factor) out.smallest = p;
  }
  if (out.varied.size() == 2) return out;

  // Between two values one by one, as long as they differ in what is asked.
  const std::vector<double>& values = out.varied[0].values;
  const auto at = [&](double value) -> std::optional<Outcome> {
    const auto one = with(std::span(&value, 1));
    if (!one) return std::nullopt;
    return outcomes(std::span<const Case>(&*one, 1)).front();
  };
  const double enough = 1e-4 * (values.back() - values.front());
  const auto narrowed = [&](std::size_t i, const auto& is_as_first) {
    double low = values[i], high = values[i + 1];
    const bool whole = out.varied[0].whole;
    while (high - low > (whole ? 1.5 : enough)) {
      const double middle = whole ? std::floor(0.5 * (low + high)) : 0.5 * (low + high);
      (is_as_first(at(middle)) ? low : high) = middle;
    }
    return whole ? high : 0.5 * (low + high);
  };
  const auto what_at = [](const std::optional<Outcome>& outcome) {
    const Margin* const least = least_of(outcome);
    return least == nullptr ? std::string() : least->what;
  };
  double begin = values.front();
  for (std::size_t i = 0; i + 1 < values.size(); ++i) {
    const Margin *const here = out.least(i), *const next = out.least(i + 1);
    const std::string what = what_at(out.points[i]);
    if (what != what_at(out.points[i + 1])) {
      const double end = narrowed(i, [&](const auto& outcome) { return what_at(outcome) == what; });
      out.first.push_back({begin, out.varied[0].whole ? end - 1.0 : end, what});
      begin = end;
    }
    if (here == nullptr || next == nullptr || (here->factor >= 1.0) == (next->factor >= 1.0)) continue;
    const bool rises = next->factor >= 1.0;
    out.ones.push_back({narrowed(i,
                                 [&](const auto& outcome) {
                                   const Margin* const least = least_of(outcome);
                                   return least != nullptr && (least->factor >= 1.0) != rises;
                                 }),
                        rises});
  }
  out.first.push_back({begin, values.back(), what_at(out.points.back())});
  return out;
}

}  // namespace

std::vector<double> even_values(double from, double to, std::size_t most, bool whole) {
  if (!(from < to) || !std::isfinite(from) || !std::isfinite(to) || most < 2)
    throw std::invalid_argument("values go from one to a larger one");
  std::vector<double> out;
  if (whole) {
    const double step = std::max(1.0, std::ceil((to - from) / static_cast<double>(most - 1)));
    for (double value = from; value < to + 0.5; value += step) out.push_back(value);
    return out;
  }
  for (std::size_t i = 0; i < most; ++i) {
    const double share = static_cast<double>(i) / static_cast<double>(most - 1);
    out.push_back(i + 1 == most ? to : from + share * (to - from));
  }
  return out;
}

const Margin* Sweep::least(std::size_t point) const { return least_of(points[point]); }

Sweep sweep(std::vector<Varied> varied, const PanelWith& with, const Progress& progress) {
  return swept<PanelCase>(std::move(varied), with, progress);
}
Sweep sweep(std::vector<Varied> varied, const CurvedWith& with, const Progress& progress) {
  return swept<CurvedCase>(std::move(varied), with, progress);
}
Sweep sweep(std::vector<Varied> varied, const BarWith& with, const Progress& progress) {
  return swept<BarCase>(std::move(varied), with, progress);
}

std::string value_text(const Varied& varied, double value) {
  const std::string text = fmt::format("{:.4g}", value);
  if (varied.unit.empty()) return text;
  return text + (varied.unit == "°" ? "" : " ") + varied.unit;
}

std::vector<std::string> words_of(const Sweep& sweep) {
  std::vector<std::string> out;
  const Varied& first = sweep.varied.front();
  for (const Stretch& stretch : sweep.first)
    out.push_back((stretch.from == stretch.to
                       ? value_text(first, stretch.from)
                       : value_text(first, stretch.from) + " to " + value_text(first, stretch.to)) +
                  (stretch.what.empty() ? ": nothing" : ": " + stretch.what + " comes first"));
  for (const Crossing& crossing : sweep.ones)
    out.push_back(first.whole ? fmt::format("from {} on: reserve {} 1", value_text(first, crossing.value),
                                            crossing.rises ? "at least" : "below")
                              : fmt::format("reserve 1 at {}, {} 1 beyond", value_text(first, crossing.value),
                                            crossing.rises ? "above" : "below"));
  const std::size_t columns = first.values.size();
  for (const auto& [words, point] : {std::pair{"largest", sweep.largest}, {"smallest", sweep.smallest}}) {
    if (!point) continue;
    std::string at = value_text(first, first.values[*point % columns]);
    if (sweep.varied.size() == 2) at += " and " + value_text(sweep.varied[1], sweep.varied[1].values[*point / columns]);
    out.push_back(
        fmt::format("{} {:.4g} at {}: {}", words, sweep.least(*point)->factor, at, sweep.least(*point)->what));
  }
  if (sweep.out_of_range > 0)
    out.push_back(fmt::format("out of the theory's range: {} of {}, which by themselves say why", sweep.out_of_range,
                              sweep.points.size()));
  return out;
}

}  // namespace bordado::sizing
