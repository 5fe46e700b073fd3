// Failure envelopes: all loads in two components at which the first ply fails.
#include <bordado/strength.hpp>

#include <algorithm>
#include <array>
#include <cmath>

namespace bordado::laminate {

namespace {

/// A load of 1 in one component.
Load unit(std::size_t component) {
  Load out;
  (component < 3 ? out.N : out.M)[static_cast<Eigen::Index>(component % 3)] = 1.0;
  return out;
}

double component_of(const Load& load, std::size_t component) {
  return (component < 3 ? load.N : load.M)[static_cast<Eigen::Index>(component % 3)];
}

class Tracer {
 public:
  Tracer(const Stack& stack, const Load& other, std::size_t first, std::size_t second,
         std::span<const Criterion> criteria)
      : judge_(stack.layers, stack.materials, stack.z0, criteria),
        along_{deformation(stack.layers, stack.z0, unit(first)), deformation(stack.layers, stack.z0, unit(second))},
        from_{component_of(other, first), component_of(other, second)} {
    const Deformation d = deformation(stack.layers, stack.z0, other);
    for (const LayerState& state : layer_states(stack.layers, stack.z0, d, other)) held_.push_back(state.ply_stress);
    held_curvature_ = d.curvature;
    held_Q_ = other.Q;
    size_ = {reach(0), reach(1)};
    // Where nothing fails along an axis, it is as long as the other one says.
    const double h = thickness(stack.layers);
    const double other_kind = (first < 3) == (second < 3) ? 1.0 : first < 3 ? h : 1.0 / h;  // second of first
    const double second_of_first = size_[0] * other_kind, far = 1e6;
    if (size_[1] > 0.0 && size_[0] > 0.0) {
      if (second_of_first > far * size_[1]) size_[0] = 0.0;
      if (size_[1] > far * second_of_first) size_[1] = 0.0;
    }
    if (size_[0] == 0.0) size_[0] = size_[1] / other_kind;
    if (size_[1] == 0.0) size_[1] = size_[0] * other_kind;
  }

  /// Whether there is anything to go round.
  bool bounded() const { return size_[0] > 0.0 && size_[1] > 0.0; }

  /// From here on what is farther than open_reach is open.
  void cut_off() { farthest_ = open_reach; }

  /// Open directions have a point at open_reach where nothing fails.
  EnvelopePoint at(double angle) const {
    const double x = size_[0] * std::cos(angle), y = size_[1] * std::sin(angle);
    Failing failing = towards(x, y);
    if (!(failing.factor <= farthest_)) failing = {.factor = open_reach, .mode = FailureMode::none};
    return {from_[0] + failing.factor * x, from_[1] + failing.factor * y, failing};
  }

 private:
  Failing towards(double x, double y) const {
    SectionLoad section_load;
    section_load.deformation.strain = x * along_[0].strain + y * along_[1].strain;
    section_load.deformation.curvature = x * along_[0].curvature + y * along_[1].curvature;
    section_load.held = held_;
    section_load.held_curvature = held_curvature_;
    section_load.held_Q = held_Q_;
    return judge_.worst(section_load);
  }

  /// How far the envelope goes along an axis, the farther way; nought where it is open both ways or empty.
  double reach(int axis) const {
    double out = 0.0;
    for (const double sign : {1.0, -1.0}) {
      const double factor = towards(axis == 0 ? sign : 0.0, axis == 1 ? sign : 0.0).factor;
      if (std::isfinite(factor)) out = std::max(out, factor);
    }
    return out;
  }

  Judge judge_;
  std::array<Deformation, 2> along_;
  std::array<double, 2> from_, size_{};
  std::vector<Vector3> held_;
  Vector3 held_curvature_ = Vector3::Zero();
  Vector2 held_Q_ = Vector2::Zero();
  double farthest_ = 1e6;  ///< farther than that, by its own size, is open
};

bool same_failing(const EnvelopePoint& a, const EnvelopePoint& b) {
  if (a.open() || b.open()) return a.open() == b.open();
  return a.failing.layer == b.failing.layer && a.failing.mode == b.failing.mode &&
         a.failing.criterion == b.failing.criterion;
}

}  // namespace

std::string_view component_name(std::size_t component) {
  constexpr std::array<std::string_view, 6> names = {"Nx", "Ny", "Nxy", "Mx", "My", "Mxy"};
  return names.at(component);
}

std::vector<EnvelopePoint> envelope(const Stack& stack, const Load& other, std::size_t first, std::size_t second,
                                    std::span<const Criterion> criteria, std::size_t count) {
  Tracer tracer(stack, other, first, second, criteria);
  std::vector<EnvelopePoint> out;
  if (!tracer.bounded()) return out;
  const auto add = [&](const EnvelopePoint& point) { out.push_back(point); };
  const double step = 2.0 * std::numbers::pi / static_cast<double>(count);
  // A closed line is as long as it is; how far an open one runs says nothing.
  for (std::size_t i = 0; i < count; ++i)
    if (tracer.at(step * static_cast<double>(i)).open()) {
      tracer.cut_off();
      break;
    }
  EnvelopePoint last = tracer.at(0.0);
  for (std::size_t i = 0; i < count; ++i) {
    const double from = step * static_cast<double>(i);
    const EnvelopePoint next = tracer.at(from + step);
    add(last);
    // Every corner between them, from both sides.
    EnvelopePoint before = last;
    double low = from;
    for (int corner = 0; corner < 16 && !same_failing(before, next); ++corner) {
      double high = from + step;
      EnvelopePoint after = next;
      const EnvelopePoint begin = before;
      for (int halving = 0; halving < 24; ++halving) {
        const double middle = 0.5 * (low + high);
        const EnvelopePoint point = tracer.at(middle);
        if (same_failing(point, begin))
          low = middle, before = point;
        else
          high = middle, after = point;
      }
      add(before);
      add(after);
      before = after;
      low = high;
    }
    last = next;
  }
  return out;
}

}  // namespace bordado::laminate
