#include "budget.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace bordado::section {

namespace {

/// A, B and D of a section as three vectors of six whose length is the Frobenius norm, and what their errors are
/// measured against.
struct Point {
  std::array<std::array<double, 6>, 3> values;
  std::array<double, 3> scale;
};

Point point_of(const part::Part& part, const Sections& sections, SectionId s) {
  const laminate::Stiffness k = laminate::stiffness(laminate_of(part, sections, s), sections.bottom[s]);
  const double twice = std::sqrt(2.0);  // off the diagonal each number stands twice
  Point out;
  const laminate::Matrix3* const matrices[3] = {&k.A, &k.B, &k.D};
  for (std::size_t i = 0; i < 3; ++i) {
    const laminate::Matrix3& m = *matrices[i];
    out.values[i] = {m(0, 0), m(1, 1), m(2, 2), twice * m(0, 1), twice * m(0, 2), twice * m(1, 2)};
  }
  out.scale = {k.A.norm(), 0.5 * sections.thickness[s] * k.A.norm(), k.D.norm()};
  return out;
}

/// The largest relative error where `centre` stands for `own`.
double error(const Point& centre, const Point& own) {
  double worst = 0.0;
  for (std::size_t i = 0; i < 3; ++i) {
    double sum = 0.0;
    for (std::size_t k = 0; k < 6; ++k) {
      const double difference = centre.values[i][k] - own.values[i][k];
      sum += difference * difference;
    }
    worst = std::max(worst, sum / (own.scale[i] * own.scale[i]));
  }
  return std::sqrt(worst);
}

/// Which sections stand for all. The next is always the one that is served worst (T. F. Gonzalez, Theoretical Computer
/// Science 38 (1985) 293: at most twice the least possible radius where the distance is a metric); then each of them
/// moves to the middle of those that it serves, as long as that helps.
class Chooser {
 public:
  Chooser(std::vector<Point> points, std::size_t first) : points_(std::move(points)), first_(first) {}

  /// Per section the one that stands for it.
  List<SectionId, SectionId> choose(std::size_t most) {
    error_.assign(points_.size(), std::numeric_limits<double>::infinity());
    nearest_.assign(points_.size(), 0);
    std::size_t next = first_;
    while (centres_.size() < most) {
      add(next);
      const auto worst = std::max_element(error_.begin(), error_.end());
      if (*worst == 0.0) break;
      next = static_cast<std::size_t>(worst - error_.begin());
    }
    constexpr int rounds = 5;
    for (int round = 0; round < rounds && improve(); ++round) {
    }
    List<SectionId, SectionId> out;
    for (const std::size_t own : nearest_) out.push_back(SectionId(centres_[own]));
    return out;
  }

 private:
  void add(std::size_t centre) {
    const std::size_t number = centres_.size();
    centres_.push_back(centre);
    parallel_blocks(points_.size(), [&](std::size_t begin, std::size_t end) {
      for (std::size_t i = begin; i < end; ++i)
        if (const double here = error(points_[centre], points_[i]); here < error_[i]) {
          error_[i] = here;
          nearest_[i] = number;
        }
    });
  }

  bool improve() {
    constexpr std::size_t too_many = 3000;  // to compare each with each
    const double before = *std::max_element(error_.begin(), error_.end());
    const auto kept_centres = centres_;
    const auto kept_error = error_;
    const auto kept_nearest = nearest_;
    std::vector<std::vector<std::size_t>> members(centres_.size());
    for (std::size_t i = 0; i < points_.size(); ++i) members[nearest_[i]].push_back(i);
    std::vector<std::size_t> middles(centres_);
    parallel_blocks(
        members.size(),
        [&](std::size_t begin, std::size_t end) {
          for (std::size_t c = begin; c < end; ++c) {
            if (members[c].size() > too_many) continue;
            double best = std::numeric_limits<double>::infinity();
            for (const std::size_t candidate : members[c]) {
              double worst = 0.0;
              for (const std::size_t other : members[c]) {
                worst = std::max(worst, error(points_[candidate], points_[other]));
                if (worst >= best) break;
              }
              if (worst < best) best = worst, middles[c] = candidate;
            }
          }
        },
        1);
    centres_.clear();
    std::fill(error_.begin(), error_.end(), std::numeric_limits<double>::infinity());
    for (const std::size_t middle : middles) add(middle);
    if (*std::max_element(error_.begin(), error_.end()) < before) return true;
    centres_ = kept_centres;
    error_ = kept_error;
    nearest_ = kept_nearest;
    return false;
  }

  std::vector<Point> points_;
  std::size_t first_;
  std::vector<std::size_t> centres_;
  std::vector<double> error_;         ///< per section: where its centre stands for it
  std::vector<std::size_t> nearest_;  ///< per section: in centres_
};

}  // namespace

void keep_to_budget(Sections& sections, const part::Part& part, std::span<const double> areas, std::size_t most) {
  std::vector<Point> points(sections.count());
  parallel_blocks(
      points.size(),
      [&](std::size_t begin, std::size_t end) {
        for (std::size_t s = begin; s < end; ++s) points[s] = point_of(part, sections, SectionId(s));
      },
      16);
  List<SectionId, double> covered(sections.count(), 0.0);
  for (std::size_t e = 0; e < areas.size(); ++e) covered[sections.section_of[e]] += areas[e];
  const auto largest = std::max_element(covered.begin(), covered.end());
  const List<SectionId, SectionId> stands_for =
      Chooser(std::move(points), static_cast<std::size_t>(largest - covered.begin())).choose(most);

  // What the elements of a section weigh by themselves, and with its layers.
  struct Weight {
    double own = 0.0, laid = 0.0;
  };
  List<SectionId, double> areal_mass;
  for (const SectionId s : sections.ids()) areal_mass.push_back(laminate::areal_mass(laminate_of(part, sections, s)));
  List<SectionId, Weight> weights;

  constexpr SectionId none{mesh::no_index};
  List<SectionId, SectionId> number(sections.count(), none);
  Sections kept;
  kept.first.assign(1, 0);
  for (SectionId& own : sections.section_of) {
    const SectionId s = stands_for[own];
    if (number[s] == none) {
      number[s] = kept.thickness.next();
      const auto layers = sections.layers_of(s);
      kept.layers.insert(kept.layers.end(), layers.begin(), layers.end());
      kept.first.push_back(static_cast<std::uint32_t>(kept.layers.size()));
      kept.thickness.push_back(sections.thickness[s]);
      kept.bottom.push_back(sections.bottom[s]);
      kept.stack.push_back(sections.stack[s]);
      weights.push_back({});
    }
    const double area = areas[static_cast<std::size_t>(&own - sections.section_of.data())];
    weights[number[s]].own += area * areal_mass[own];
    weights[number[s]].laid += area * areal_mass[s];
    own = number[s];
  }
  for (const Weight& weight : weights)
    kept.density_factor.push_back(weight.laid > 0.0 ? weight.own / weight.laid : 1.0);
  sections.density_factor = std::move(kept.density_factor);
  sections.first = std::move(kept.first);
  sections.layers = std::move(kept.layers);
  sections.thickness = std::move(kept.thickness);
  sections.bottom = std::move(kept.bottom);
  sections.stack = std::move(kept.stack);
}

}  // namespace bordado::section
