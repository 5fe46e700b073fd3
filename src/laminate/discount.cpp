// Ply discount: what a stack bears once plies have failed.
#include <bordado/strength.hpp>

#include <algorithm>

namespace bordado::laminate {

namespace {

constexpr double left = 1e-3;  // of a stiffness that has failed

enum class Damage { none, between_fibres, of_fibres };

Damage damage_by(FailureMode mode) {
  using enum FailureMode;
  switch (mode) {
    case weft_tension:
    case weft_compression:
    case matrix_tension:
    case matrix_compression:
    case shear:
    case inter_fibre_A:
    case inter_fibre_B:
    case inter_fibre_C:
      return Damage::between_fibres;
    case fibre_tension:
    case fibre_compression:
    case yielding:
      return Damage::of_fibres;
    default:
      return Damage::none;  // of the stack, not of a ply
  }
}

void weaken(Layer& layer, Damage damage) {
  material::Elastic& m = layer.elastic;
  m.full.reset();
  m.E2 *= left, m.G12 *= left, m.nu12 *= left;
  if (damage == Damage::of_fibres) m.E1 *= left;
}

}  // namespace

Discount discount(const Stack& stack, const Load& load, std::span<const Criterion> criteria) {
  Stack now = stack;
  std::vector<Damage> damage(stack.layers.size(), Damage::none);
  Discount out;
  for (std::size_t round = 0; round < 2 * stack.layers.size() + 1; ++round) {
    const std::vector<Failing> failing = first_failures(now, load, criteria);
    // Plies whose fibres are broken fail no more.
    const auto counts = [&](const Failing& one) {
      return damage_by(one.mode) == Damage::none || damage[one.layer] != Damage::of_fibres;
    };
    const auto first = std::find_if(failing.begin(), failing.end(), counts);
    if (first == failing.end()) break;
    const double factor = first->factor;
    if (factor < 0.01 * out.ultimate) break;  // nothing is left to bear it
    Discounted event{factor, {}};
    bool ends = false;
    for (auto one = first; one != failing.end() && one->factor <= factor * (1.0 + 1e-6); ++one) {
      if (!counts(*one)) continue;
      event.failing.push_back(*one);
      const Damage by = damage_by(one->mode);
      ends = ends || by == Damage::none;
      if (by == Damage::none) continue;
      Damage& before = damage[one->layer];
      // A ply that fails between its fibres once more has no fibres that bear.
      before = before == Damage::none ? by : Damage::of_fibres;
      now.layers[one->layer] = stack.layers[one->layer];
      weaken(now.layers[one->layer], before);
    }
    if (out.sequence.empty()) out.first = factor;
    out.ultimate = std::max(out.ultimate, factor);
    out.sequence.push_back(std::move(event));
    if (ends || std::all_of(damage.begin(), damage.end(), [](Damage d) { return d == Damage::of_fibres; })) break;
  }
  return out;
}

}  // namespace bordado::laminate
