#include <bordado/margins.hpp>

#include <Eigen/LU>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <stdexcept>

namespace bordado::sizing {

namespace {

/// Flat under N, or as M of a model bends it there; bent besides by the pressure, about the plane of no stretching.
laminate::Deformation deformation_at(const PanelCase& given, const laminate::Stiffness& k, const BentPlace& place) {
  Vector3 curvature = place.curvature;
  if (given.place) {
    laminate::Load load;
    load.N = given.N, load.M = given.place->M;
    curvature +=
        laminate::deformation(given.stack.layers, -0.5 * laminate::thickness(given.stack.layers), load).curvature;
  }
  return {k.A.fullPivLu().solve(given.N - k.B * curvature), curvature};
}

/// The least of each criterion over the panel.
std::vector<PlaceFailing> judged(const PanelCase& given, const laminate::Judge& judge, double z0, const Bent* bent) {
  const laminate::Stiffness k = laminate::stiffness(given.stack.layers, z0);
  std::map<laminate::Criterion, PlaceFailing> least;
  const auto take = [&](const laminate::SectionLoad& load, double x, double y) {
    for (const laminate::Failing& failing : judge.all(load)) {
      const auto [found, is_new] = least.try_emplace(failing.criterion, PlaceFailing{failing, x, y});
      // Of equals the first.
      if (!is_new && failing.factor < (1.0 - 1e-9) * found->second.failing.factor) found->second = {failing, x, y};
    }
  };
  const auto at = [&](const BentPlace& place) {
    laminate::SectionLoad load;
    load.deformation = deformation_at(given, k, place);
    load.Q = place.shear;
    if (given.place) load.Q += given.place->Q;
    load.pressure = bent ? std::abs(given.pressure) : 0.0;
    take(load, place.x, place.y);
  };
  if (bent)
    for (const BentPlace& place : bent->places) at(place);
  else
    at({0.5 * given.a, 0.5 * given.b});
  std::vector<PlaceFailing> out;
  for (const auto& [criterion, failing] : least) out.push_back(failing);
  std::stable_sort(out.begin(), out.end(),
                   [](const auto& a, const auto& b) { return a.failing.factor < b.failing.factor; });
  return out;
}

/// Of one face: for each formula the direction in which least of the load is needed.
void add_formulas(const Sandwich& sandwich, const CoveringFace& face, const Vector3& force, bool top,
                  std::vector<FormulaMargin>& out) {
  std::map<WrinklingFormula, FormulaMargin> least;
  for (int degree = -89; degree <= 90; ++degree) {
    const double direction = degree * std::numbers::pi / 180.0, c = std::cos(direction), s = std::sin(direction);
    const double push = -(c * c * force[0] + s * s * force[1] + 2.0 * c * s * force[2]);
    if (push <= 1e-12 * force.norm()) continue;
    for (const FormulaAnswer& answer : wrinkling_formulas(sandwich, face, direction)) {
      const FormulaMargin margin{answer, top, answer.force / push, direction};
      const auto [found, is_new] = least.try_emplace(answer.formula, margin);
      if (!is_new && margin.factor < (1.0 - 1e-9) * found->second.factor) found->second = margin;
    }
  }
  for (const auto& [formula, margin] : least) out.push_back(margin);
}

}  // namespace

PanelRange range_of(const PanelCase& given, const PanelAnswer& answer) {
  const double h = laminate::thickness(given.stack.layers);
  return {std::min(given.a, given.b) / h, answer.bent ? std::abs(answer.bent->largest.value) / h : 0.0};
}

PanelAnswer check_panel(const PanelCase& given) {
  PanelAnswer out;
  out.panel = given.panel();
  const Panel& panel = out.panel;
  const double h = laminate::thickness(given.stack.layers), z0 = -0.5 * h;
  const bool pushed = given.N != Vector3::Zero();
  out.terms = given.terms.value_or(Terms{14, 14});
  if (pushed && given.terms)
    out.buckling = buckling_factors(panel, given.N, out.terms);
  else if (pushed)
    out.terms = enough_terms(panel, given.N, out.buckling);
  if (!given.margins_only) out.closed = closed_form(panel, given.N);
  if (panel.plate.mass > 0.0 && given.frequencies > 0)
    out.frequencies = natural_frequencies(panel, given.frequencies, Vector3::Zero(), out.terms);
  if (given.pressure != 0.0 || !std::isfinite(given.pressure)) {
    out.bent_without_N = out.buckling.forward && out.buckling.forward->value <= 1.0;
    out.bent =
        under_pressure(panel, given.pressure, out.terms, 21, out.bent_without_N ? Vector3(Vector3::Zero()) : given.N);
  }
  const laminate::Judge judge(given.stack.layers, given.stack.materials, z0, given.criteria);
  out.left_out.assign(judge.left_out().begin(), judge.left_out().end());
  if (pushed || out.bent || given.place) out.criteria = judged(given, judge, z0, out.bent ? &*out.bent : nullptr);

  out.sandwich = sandwich_of(given.stack.layers, given.stack.materials);
  if (out.sandwich) {
    // Where its faces wrinkle first, by the criterion; else where it bends most.
    BentPlace worst;
    if (out.bent) {
      const auto wrinkles = std::find_if(out.criteria.begin(), out.criteria.end(), [](const PlaceFailing& place) {
        return place.failing.criterion == laminate::Criterion::wrinkling;
      });
      const auto urgency = [&](const BentPlace& place) {
        return wrinkles == out.criteria.end() ? place.curvature.norm()
                                              : -std::hypot(place.x - wrinkles->x, place.y - wrinkles->y);
      };
      worst = *std::max_element(out.bent->places.begin(), out.bent->places.end(),
                                [&](const auto& a, const auto& b) { return urgency(a) < urgency(b); });
    }
    const laminate::Stiffness k = laminate::stiffness(given.stack.layers, z0);
    out.faces = face_forces(*out.sandwich, deformation_at(given, k, worst), z0);
    const double longest = std::min(given.a, given.b);
    out.wave = least_face_wave(*out.sandwich, out.faces, longest);
    if (!given.margins_only) {
      out.mirrored = least_face_wave(*out.sandwich, out.faces, longest, FaceMotion::mirrored);
      out.alike = least_face_wave(*out.sandwich, out.faces, longest, FaceMotion::alike);
      add_formulas(*out.sandwich, out.sandwich->bottom, out.faces.bottom, false, out.formulas);
      add_formulas(*out.sandwich, out.sandwich->top, out.faces.top, true, out.formulas);
      if (given.patch > 0.0) out.indentation = indentation(*out.sandwich, FaceSide::top, given.patch);
    }
  }

  if (out.buckling.forward) out.margins.push_back({std::string(buckling_words), out.buckling.forward->value});
  if (out.wave && !out.wave->longest) out.margins.push_back({std::string(exact_wrinkling_words), out.wave->factor});
  for (const PlaceFailing& place : out.criteria)
    out.margins.push_back({std::string(laminate::words(place.failing.mode)), place.failing.factor});
  // What bears so many times its load is not loaded, as reserves have it.
  std::erase_if(out.margins, [](const Margin& margin) { return margin.factor > largest_margin; });
  std::stable_sort(out.margins.begin(), out.margins.end(),
                   [](const Margin& a, const Margin& b) { return a.factor < b.factor; });
  return out;
}

}  // namespace bordado::sizing
