#include "solid_groups.hpp"

#include <bordado/design.hpp>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace bordado::model {

namespace {

using mesh::ElementIndex;
using part::PlyId;

}  // namespace

PliesOn plies_on(const Model& model) {
  PliesOn out;
  const std::size_t count = model.surface.element_count();
  out.first.assign(count + 1, 0);
  layup::LayersOn layers_on(*model.design);
  for (ElementIndex e = 0; e < count; ++e) {
    double h = 0.0;
    for (const layup::LaidLayer& layer : layers_on(e)) {
      out.plies.push_back(layer.ply);
      out.thicknesses.push_back(layer.thickness);
      h += layer.thickness;
    }
    out.heights.push_back(h);
    out.volume += h * model.design->geometry.areas[e];
    out.first[e + 1] = static_cast<std::uint32_t>(out.plies.size());
  }
  return out;
}

namespace {

/// The volume of every ply.
std::vector<double> volumes_of(const Model& model, const PliesOn& on) {
  std::vector<double> out(model.design->part.plies.size(), 0.0);
  for (ElementIndex e = 0; e < model.surface.element_count(); ++e)
    for (std::size_t k = 0; k < on.of(e).size(); ++k)
      out[index(on.of(e)[k])] += on.thickness(e, k) * model.design->geometry.areas[e];
  return out;
}

/// An element of every section, of so many at most.
std::vector<ElementIndex> of_each_section(const Model& model, std::size_t most) {
  const section::Sections& sections = model.design->sections;
  std::vector<ElementIndex> out;
  std::vector<std::uint8_t> done(sections.count(), 0);
  for (ElementIndex e = 0; e < model.surface.element_count() && out.size() < most; ++e)
    if (auto& known = done[index(sections.section_of[e])]; !known) known = 1, out.push_back(e);
  return out;
}

/// The largest change of a stress of plies under each of the six forces and moments alone, where `made` stands for `real`
/// (both about the middle).
double stress_error(std::span<const laminate::Layer> layers, const laminate::Stiffness& real,
                    const laminate::Stiffness& made) {
  const Eigen::Matrix<double, 6, 6> is = real.ABD().inverse(), off = made.ABD().inverse() - is;
  std::array<double, 6> largest{}, change{};
  double z = -0.5 * laminate::thickness(layers);
  for (const laminate::Layer& layer : layers) {
    const laminate::Matrix3 Q = laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle);
    for (const double height : {z, z + layer.thickness})
      for (std::size_t load = 0; load < 6; ++load) {
        const auto k = static_cast<Eigen::Index>(load);
        largest[load] = std::max(largest[load], (Q * (is.col(k).head<3>() + height * is.col(k).tail<3>())).norm());
        change[load] = std::max(change[load], (Q * (off.col(k).head<3>() + height * off.col(k).tail<3>())).norm());
      }
    z += layer.thickness;
  }
  double out = 0.0;
  for (std::size_t load = 0; load < 6; ++load) out = std::max(out, change[load] / largest[load]);
  return out;
}

/// What grouping changes of the sections of some elements.
GroupingError error_on(const Model& model, const PliesOn& on, std::span<const ElementIndex> elements,
                       const List<PlyId, std::uint32_t>& group_of) {
  GroupingError out;
  for (const ElementIndex e : elements) {
    const std::vector<laminate::Layer> all =
        section::laminate_of(model.design->part, model.design->sections, model.design->sections.section_of[e]);
    std::vector<laminate::Layer> grouped;
    const auto plies = on.of(e);
    for (std::size_t k = 0; k < plies.size();) {
      std::size_t end = k + 1;
      while (end < plies.size() && group_of[plies[end]] == group_of[plies[k]]) ++end;
      const std::span<const laminate::Layer> own(all.data() + k, end - k);
      grouped.push_back(own.front());
      if (own.size() > 1) {
        grouped.back() = {};
        grouped.back().elastic = laminate::equivalent(own).elastic;
        grouped.back().thickness = laminate::thickness(own);
      }
      k = end;
    }
    const double h = laminate::thickness(all);
    const laminate::Stiffness real = laminate::stiffness(all, -0.5 * h), made = laminate::stiffness(grouped, -0.5 * h);
    out.A = std::max(out.A, (made.A - real.A).norm() / real.A.norm());
    out.B = std::max(out.B, (made.B - real.B).norm() / (0.5 * h * real.A.norm()));
    out.D = std::max(out.D, (made.D - real.D).norm() / real.D.norm());
    out.H = std::max(out.H, (made.H - real.H).norm() / real.H.norm());
    out.stress = std::max(out.stress, stress_error(all, real, made));
  }
  return out;
}

class Grouper {
 public:
  Grouper(const Model& model, const PliesOn& on) : model_(model), part_(model.design->part), on_(on) {}

  List<PlyId, std::uint32_t> group(const SolidOptions& options) const {
    std::vector<std::uint8_t> begins(part_.plies.size(), 0);
    for (const PlyId p : part_.plies.ids()) {
      const std::size_t i = index(p);
      const PlyId before{static_cast<std::uint32_t>(i == 0 ? 0 : i - 1)};
      begins[i] = i == 0 || options.per == SolidOptions::Per::ply || is_core(p) != is_core(before) ||
                  (is_core(p) && part_.plies[p].material.value != part_.plies[before].material.value);
    }
    if (options.per == SolidOptions::Per::count) part_into(volumes_of(model_, on_), begins, options.most);
    return groups_of(begins);
  }

 private:
  bool is_core(PlyId ply) const {
    return material::is_core(part_.materials[model_.design->layup.plies[ply].material].kind);
  }

  /// Faces are cut where that changes the laminates' bending stiffness least, until there are `most` groups; where there
  /// are more runs of faces and cores than that, neighbours that are thinnest together become one.
  void part_into(const std::vector<double>& volume, std::vector<std::uint8_t>& begins, std::size_t most) const {
    const auto runs = [&] {
      std::vector<std::size_t> first;
      for (std::size_t i = 0; i < begins.size(); ++i)
        if (begins[i]) first.push_back(i);
      first.push_back(begins.size());
      return first;
    };
    const auto sum = [&](std::size_t from, std::size_t to) {
      return std::accumulate(volume.begin() + static_cast<std::ptrdiff_t>(from),
                             volume.begin() + static_cast<std::ptrdiff_t>(to), 0.0);
    };
    for (std::vector<std::size_t> first = runs(); first.size() - 1 > most; first = runs()) {
      std::size_t best = 1;
      for (std::size_t r = 1; r + 1 < first.size(); ++r)
        if (sum(first[r - 1], first[r + 1]) < sum(first[best - 1], first[best + 1])) best = r;
      begins[first[best]] = 0;
    }
    const std::vector<ElementIndex> typical = of_each_section(model_, 200);
    const auto off = [&](const std::vector<std::uint8_t>& cut) {
      const GroupingError error = error_on(model_, on_, typical, groups_of(cut));
      return error.B + error.D + 0.05 * error.H;
    };
    const auto may_begin = [&](std::size_t i) {
      return !begins[i] && !is_core(PlyId{static_cast<std::uint32_t>(i)}) && volume[i] > 0.0;
    };
    std::vector<std::size_t> cuts;  // those made here
    for (std::size_t groups = runs().size() - 1; groups < most; ++groups) {
      std::size_t best = 0;
      double least = std::numeric_limits<double>::infinity();
      for (std::size_t i = 1; i < begins.size(); ++i) {
        if (!may_begin(i)) continue;
        begins[i] = 1;
        if (const double here = off(begins); here < least - 1e-12) least = here, best = i;
        begins[i] = 0;
      }
      if (best == 0) break;
      begins[best] = 1;
      cuts.push_back(best);
    }
    // Then each is put where it is best beside the others, and two together, as long as that helps.
    const auto improve = [&](std::span<std::size_t* const> moved) {
      double least = off(begins);
      const std::size_t first = *moved[0], second = moved.size() > 1 ? *moved[1] : 0;
      begins[first] = 0;
      if (second) begins[second] = 0;
      std::size_t best = first, best_second = second;
      for (std::size_t i = 1; i < begins.size(); ++i) {
        if (!may_begin(i)) continue;
        begins[i] = 1;
        for (std::size_t j = second ? i + 1 : 0; j < (second ? begins.size() : 1); ++j) {
          if (second && !may_begin(j)) continue;
          if (second) begins[j] = 1;
          if (const double here = off(begins); here < least - 1e-12) least = here, best = i, best_second = j;
          if (second) begins[j] = 0;
        }
        begins[i] = 0;
      }
      begins[best] = 1;
      if (second) begins[best_second] = 1;
      const bool better = best != first || (second && best_second != second);
      *moved[0] = best;
      if (second) *moved[1] = best_second;
      return better;
    };
    bool pairs = begins.size() <= 40;  // each with each
    for (int round = 0; round < 20; ++round) {
      bool better = false;
      for (std::size_t& cut : cuts) better = improve(std::array{&cut}) || better;
      if (!better && pairs)
        for (std::size_t a = 0; a < cuts.size(); ++a)
          for (std::size_t b = a + 1; b < cuts.size(); ++b) better = improve(std::array{&cuts[a], &cuts[b]}) || better;
      if (!better) return;
    }
  }

  static List<PlyId, std::uint32_t> groups_of(const std::vector<std::uint8_t>& begins) {
    List<PlyId, std::uint32_t> out;
    std::uint32_t group = 0xFFFFFFFFu;
    for (const std::uint8_t begin : begins) out.push_back(begin ? ++group : group);
    return out;
  }

  const Model& model_;
  const part::Part& part_;
  const PliesOn& on_;
};

}  // namespace

List<PlyId, std::uint32_t> group_plies(const Model& model, const PliesOn& on, const SolidOptions& options) {
  return Grouper(model, on).group(options);
}

std::vector<std::string> names_of_groups(const Model& model, const PliesOn& on,
                                         const List<PlyId, std::uint32_t>& group_of) {
  const std::vector<double> volume = volumes_of(model, on);
  std::vector<std::string> out;
  for (const PlyId p : group_of.ids()) {
    if (group_of[p] >= out.size()) out.emplace_back();
    if (volume[index(p)] == 0.0) continue;
    std::string& name = out.back();
    const std::string& id = model.design->part.plies[p].id;
    const std::size_t to = name.find(" to ");
    name = name.empty() ? id : (to == std::string::npos ? name : name.substr(0, to)) + " to " + id;
  }
  return out;
}

GroupingError grouping_error(const Model& model, const PliesOn& on, const List<PlyId, std::uint32_t>& group_of) {
  return error_on(model, on, of_each_section(model, model.design->sections.count()), group_of);
}

}  // namespace bordado::model
