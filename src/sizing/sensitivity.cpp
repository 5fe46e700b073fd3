#include <bordado/sensitivity.hpp>

#include <algorithm>
#include <cmath>
#include <mutex>
#include <stdexcept>

namespace bordado::sizing {

namespace {

bool is_symmetric(const laminate::Stack& stack) {
  for (std::size_t i = 0, k = stack.layers.size(); i < k--; ++i) {
    const laminate::Layer &low = stack.layers[i], &high = stack.layers[k];
    if (stack.materials[i]->name != stack.materials[k]->name || low.thickness != high.thickness ||
        std::abs(std::remainder(low.angle.degrees() - high.angle.degrees(), 180.0)) > 1e-9)
      return false;
  }
  return true;
}

template <class Case, class Answer>
std::vector<std::optional<Outcome>> outcomes_by(std::span<const Case> cases, Answer (*check)(const Case&),
                                                const Progress& progress) {
  std::vector<std::optional<Outcome>> out(cases.size());
  std::mutex told;
  std::size_t done = 0;
  parallel_blocks(
      cases.size(),
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i) {
          Case one = cases[i];
          if constexpr (!std::is_same_v<Case, CurvedCase>) one.frequencies = 0;
          if constexpr (std::is_same_v<Case, PanelCase>) one.margins_only = true;
          try {
            out[i] = outcome_of(one, check(one));
          } catch (const std::invalid_argument&) {  // there is none
          }
        }
        if (!progress) return;
        const std::lock_guard lock(told);
        done += end - begin;
        progress("by hand", static_cast<double>(done) / static_cast<double>(cases.size()));
      },
      1);
  return out;
}

/// All that can be changed of these laminates, and what is least then.
template <class Case, class With>
std::vector<Sensitivity> asked(const Case& given, std::span<const laminate::Stack> laminates, const With& with) {
  std::vector<Sensitivity> out;
  std::vector<Case> cases{given};
  std::vector<std::optional<Outcome> Sensitivity::*> sides;
  std::vector<std::size_t> of;
  for (std::size_t l = 0; l < laminates.size(); ++l)
    for (const StackChange& change : changes_of(laminates[l])) {
      const double now = value_of(laminates[l], change), step = step_of(laminates[l], change);
      for (const bool more : {false, true}) {
        const Chosen chosen{change, more ? now + step : now - step};
        std::optional<laminate::Stack> stack = with_values(laminates[l], {&chosen, 1});
        if (!stack) continue;
        cases.push_back(with(l, std::move(*stack)));
        sides.push_back(more ? &Sensitivity::more : &Sensitivity::less);
        of.push_back(out.size());
      }
      out.push_back({change, l, {}, {}});
    }
  std::vector<std::optional<Outcome>> found = outcomes(std::span<const Case>(cases));
  if (!found.front() || found.front()->margins.empty()) return {};
  for (std::size_t i = 0; i < of.size(); ++i)
    if (found[i + 1] && !found[i + 1]->margins.empty()) out[of[i]].*sides[i] = std::move(found[i + 1]);
  const double now = found.front()->margins.front().factor;
  const auto effect = [&](const Sensitivity& one) {
    double most = 0.0;
    for (const auto& outcome : {one.less, one.more})
      if (outcome) most = std::max(most, std::abs(outcome->margins.front().factor / now - 1.0));
    return most;
  };
  std::stable_sort(out.begin(), out.end(),
                   [&](const Sensitivity& a, const Sensitivity& b) { return effect(a) > effect(b); });
  return out;
}

}  // namespace

std::string_view name_of(StackChange::Kind kind) {
  constexpr std::array<std::string_view, 3> names{"angle", "count", "core"};
  return names[static_cast<std::size_t>(kind)];
}

std::vector<StackChange> changes_of(const laminate::Stack& stack) {
  std::vector<StackChange> out;
  const bool mirrored = is_symmetric(stack);
  const std::size_t count = stack.layers.size();
  for (std::size_t i = 0; i < count; ++i) {
    const std::size_t other = mirrored ? count - 1 - i : i;
    if (other < i) break;
    std::vector<std::size_t> layers{i};
    if (other != i) layers.push_back(other);
    if (material::is_core(stack.materials[i]->kind)) {
      out.push_back({StackChange::Kind::core, layers});
      continue;
    }
    if (!material::is_isotropic(stack.materials[i]->kind)) out.push_back({StackChange::Kind::angle, layers});
    out.push_back({StackChange::Kind::count, layers});
  }
  return out;
}

double value_of(const laminate::Stack& stack, const StackChange& change) {
  const laminate::Layer& layer = stack.layers[change.layers.front()];
  switch (change.kind) {
    case StackChange::Kind::angle:
      return layer.angle.degrees();
    case StackChange::Kind::count:
      return 1.0;
    default:
      return layer.thickness;
  }
}

double step_of(const laminate::Stack& stack, const StackChange& change) {
  switch (change.kind) {
    case StackChange::Kind::angle:
      return angle_step;
    case StackChange::Kind::count:
      return 1.0;
    default:
      return core_step * value_of(stack, change);
  }
}

std::optional<laminate::Stack> with_values(const laminate::Stack& stack, std::span<const Chosen> all) {
  laminate::Stack changed = stack;
  std::vector<std::size_t> counts(stack.layers.size(), 1);
  for (const auto& [change, value] : all) {
    if (change.kind == StackChange::Kind::angle && !std::isfinite(value))
      throw std::invalid_argument("an angle is a number");
    if (change.kind == StackChange::Kind::core && !(value > 0.0 && std::isfinite(value)))
      throw std::invalid_argument("a core has a thickness above nought");
    if (change.kind == StackChange::Kind::count &&
        (!(value >= 0.0 && value <= most_count) || value != std::floor(value)))
      throw std::invalid_argument("a ply lies there a whole number of times, from 0 to 200");
    for (const std::size_t layer : change.layers) switch (change.kind) {
        case StackChange::Kind::angle:
          changed.layers[layer].angle = Angle::degrees(value);
          break;
        case StackChange::Kind::core:
          changed.layers[layer].thickness = value;
          break;
        case StackChange::Kind::count:
          counts[layer] = static_cast<std::size_t>(value);
          break;
      }
  }
  laminate::Stack out;
  out.z0 = stack.z0;
  for (std::size_t i = 0; i < counts.size(); ++i) {
    out.layers.insert(out.layers.end(), counts[i], changed.layers[i]);
    out.materials.insert(out.materials.end(), counts[i], stack.materials[i]);
  }
  if (out.layers.empty()) return std::nullopt;
  return out;
}

Outcome outcome_of(const PanelCase& given, const PanelAnswer& answer) {
  const PanelRange range = range_of(given, answer);
  return {answer.margins, answer.panel.plate.mass, !range.is_thick() && !range.bends_far()};
}
Outcome outcome_of(const CurvedCase& given, const CurvedAnswer& answer) {
  const CurvedRange range = range_of(given, answer);
  return {answer.margins, answer.mass, !range.is_thick() && !range.is_coupled() && range.of_tests};
}
Outcome outcome_of(const BarCase& given, const BarAnswer& answer) {
  const BarRange range = range_of(given, answer);
  return {answer.margins, answer.section.mass, !range.is_short() && !range.has_thick_walls() && range.of_tests};
}

std::vector<std::optional<Outcome>> outcomes(std::span<const PanelCase> cases, const Progress& progress) {
  return outcomes_by(cases, check_panel, progress);
}
std::vector<std::optional<Outcome>> outcomes(std::span<const CurvedCase> cases, const Progress& progress) {
  return outcomes_by(cases, check_curved, progress);
}
std::vector<std::optional<Outcome>> outcomes(std::span<const BarCase> cases, const Progress& progress) {
  return outcomes_by(cases, check_bar, progress);
}

std::vector<Sensitivity> sensitivities(const PanelCase& given, const Terms& terms) {
  PanelCase fixed = given;
  fixed.terms = terms;
  return asked(fixed, {&given.stack, 1}, [&](std::size_t, laminate::Stack stack) {
    PanelCase one = fixed;
    one.stack = std::move(stack);
    return one;
  });
}

std::vector<Sensitivity> sensitivities(const CurvedCase& given) {
  return asked(given, {&given.stack, 1}, [&](std::size_t, laminate::Stack stack) {
    CurvedCase one = given;
    one.stack = std::move(stack);
    return one;
  });
}

std::vector<laminate::Stack> laminates_of(const BarCase& given, std::span<const std::size_t> laminate_of) {
  std::vector<laminate::Stack> out;
  for (std::size_t w = 0; w < given.walls.size(); ++w) {
    const Wall& wall = given.walls[w];
    if (wall.materials.size() != wall.layers.size())
      throw std::invalid_argument("other laminates need the material of every layer");
    if (laminate_of[w] >= out.size()) out.resize(laminate_of[w] + 1);
    out[laminate_of[w]] = {wall.layers, wall.materials, 0.0};
  }
  return out;
}

BarCase with_laminates(BarCase given, std::span<const std::size_t> laminate_of, std::span<const laminate::Stack> all) {
  for (std::size_t w = 0; w < given.walls.size(); ++w) {
    given.walls[w].layers = all[laminate_of[w]].layers;
    given.walls[w].materials = all[laminate_of[w]].materials;
  }
  return given;
}

std::vector<Sensitivity> sensitivities(const BarCase& given, std::span<const std::size_t> laminate_of) {
  const std::vector<laminate::Stack> laminates = laminates_of(given, laminate_of);
  return asked(given, laminates, [&](std::size_t l, laminate::Stack stack) {
    std::vector<laminate::Stack> all = laminates;
    all[l] = std::move(stack);
    return with_laminates(given, laminate_of, all);
  });
}

}  // namespace bordado::sizing
