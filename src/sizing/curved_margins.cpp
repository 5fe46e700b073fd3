#include <bordado/curved_margins.hpp>

#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <stdexcept>

namespace bordado::sizing {

namespace {

/// What the flat panel bears of one load, simply supported. \param N of a size of 1
double flat_load(const CurvedCase& given, const Vector3& N) {
  const Panel panel{given.length, given.width, plate_stiffness(given.stack.layers)};
  BucklingFactors found;
  enough_terms(panel, N, found);
  return found.forward ? found.forward->value : std::numeric_limits<double>::infinity();
}

/// What pushes by itself.
CurvedShare share_of(const CurvedCase& given, const CurvedPanel& panel, const KnockDown& left, CurvedShare::Of of) {
  CurvedShare out;
  out.of = of;
  const bool is_panel = given.width > 0.0;
  Vector3 flat = Vector3::Zero();
  if (of == CurvedShare::Of::shear) {
    out.load = std::abs(given.shear), out.left = left.torsion;
    if (is_panel) {
      out.classical = out.bears = flat_load(given, {0.0, 0.0, given.shear > 0.0 ? 1.0 : -1.0});
      out.left = 1.0, out.flat = true;
      return out;
    }
    const CurvedBuckling found = torsion_buckling(panel);
    out.classical = found.factor, out.n = found.n;
  } else {
    const bool axial = of == CurvedShare::Of::axial;
    out.load = axial ? -given.axial : -given.pressure;
    out.left = axial ? left.axial : left.pressure;
    const CurvedLoad one = axial ? CurvedLoad{-1.0, 0.0} : CurvedLoad{0.0, 1.0};
    const auto found = curved_buckling(panel, one, is_panel);
    if (!found) throw std::invalid_argument("a shell that is pushed has a load at which it buckles");
    out.classical = found->factor, out.m = found->m, out.n = found->n;
    flat = axial ? Vector3(-1.0, 0.0, 0.0) : Vector3(0.0, -given.radius, 0.0);
  }
  out.bears = out.left * out.classical;
  // A long cylinder bends as a bar, which dents do not bring on earlier.
  if (!is_panel && of == CurvedShare::Of::axial)
    if (const auto bar = curved_buckling(panel, {-1.0, 0.0}); bar && bar->n == 1 && bar->factor < out.bears) {
      out.classical = out.bears = bar->factor, out.left = 1.0;
      out.m = bar->m, out.n = 1;
    }
  if (is_panel)
    if (const double by_itself = flat_load(given, flat); by_itself > out.bears) out.bears = by_itself, out.flat = true;
  return out;
}

}  // namespace

std::string_view name_of(CurvedShare::Of of) {
  constexpr std::array<std::string_view, 3> names{"along", "pressure", "shear"};
  return names[static_cast<std::size_t>(of)];
}

CurvedRange range_of(const CurvedCase& given, const CurvedAnswer& answer) {
  return {given.radius / laminate::thickness(given.stack.layers), answer.coupled, answer.left.in_range};
}

CurvedAnswer check_curved(const CurvedCase& given) {
  constexpr double largest_number = 1e30;
  for (const double load : {given.axial, given.shear, given.pressure})
    if (!(std::abs(load) <= largest_number)) throw std::invalid_argument("loads are numbers, no larger than 1e30");
  CurvedAnswer out;
  out.panel = curved_panel(given.stack.layers, given.length, given.radius, given.width);
  out.left = knock_down(out.panel);
  out.coupled = coupled(out.panel);
  out.mass = laminate::areal_mass(given.stack.layers);
  out.N = {given.axial, given.pressure * given.radius, given.shear};
  if (given.axial < 0.0) out.shares.push_back(share_of(given, out.panel, out.left, CurvedShare::Of::axial));
  if (given.pressure < 0.0) out.shares.push_back(share_of(given, out.panel, out.left, CurvedShare::Of::pressure));
  if (given.shear != 0.0) out.shares.push_back(share_of(given, out.panel, out.left, CurvedShare::Of::shear));
  double all = 0.0;
  for (const CurvedShare& share : out.shares) all += share.load / share.bears;
  if (all > 0.0) out.buckles = 1.0 / all;

  const double z0 = -0.5 * laminate::thickness(given.stack.layers);
  const laminate::Judge judge(given.stack.layers, given.stack.materials, z0, given.criteria);
  out.left_out.assign(judge.left_out().begin(), judge.left_out().end());
  laminate::SectionLoad load;
  load.deformation.strain = out.panel.about_middle.A.fullPivLu().solve(out.N);
  load.pressure = std::abs(given.pressure);
  load.curved = {0.0, 1.0 / given.radius, 0.0};
  if (out.N != Vector3::Zero()) {
    for (const laminate::Failing& failing : judge.all(load)) {
      const auto known = std::find_if(out.criteria.begin(), out.criteria.end(),
                                      [&](const laminate::Failing& one) { return one.criterion == failing.criterion; });
      if (known == out.criteria.end())
        out.criteria.push_back(failing);
      else if (failing.factor < (1.0 - 1e-9) * known->factor)
        *known = failing;
    }
    std::stable_sort(out.criteria.begin(), out.criteria.end(),
                     [](const auto& a, const auto& b) { return a.factor < b.factor; });
  }
  out.sandwich = sandwich_of(given.stack.layers, given.stack.materials);
  if (out.sandwich) {
    out.faces = face_forces(*out.sandwich, load.deformation, z0);
    const double around = given.width > 0.0 ? given.width : std::numbers::pi * given.radius;
    out.wave = least_face_wave(*out.sandwich, out.faces, std::min(given.length, around));
  }

  if (out.buckles) out.margins.push_back({std::string(curved_words), *out.buckles});
  if (out.wave && !out.wave->longest) out.margins.push_back({std::string(exact_wrinkling_words), out.wave->factor});
  for (const laminate::Failing& failing : out.criteria)
    out.margins.push_back({std::string(laminate::words(failing.mode)), failing.factor});
  std::erase_if(out.margins, [](const Margin& margin) { return margin.factor > largest_margin; });
  std::stable_sort(out.margins.begin(), out.margins.end(),
                   [](const Margin& a, const Margin& b) { return a.factor < b.factor; });
  return out;
}

}  // namespace bordado::sizing
