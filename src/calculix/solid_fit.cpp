// The strains of solids at integration points as states of these.
#include "solid_fit.hpp"

#include "solid_requests.hpp"

#include <bordado/design.hpp>
#include <bordado/solid_shapes.hpp>

#include <Eigen/Geometry>

#include <cmath>

namespace bordado::calculix {

using material::Vector6;
using mesh::ElementIndex;

namespace {

/// How high each integration point lies, in the solver's order: -1 the lower face, 1 the upper.
std::span<const double> heights_of(std::size_t points, bool lying) {
  static const double g = 1.0 / std::sqrt(3.0), k = std::sqrt(0.6);
  static const std::array<double, 8> eight = {-g, -g, -g, -g, g, g, g, g};
  static const std::array<double, 9> upright = {-k, -k, -k, 0, 0, 0, k, k, k};
  // The triangles of a wedge that lies on its side stand: two corners at its thick side, one at its edge. Points at
  // (1/6, 1/6), (2/3, 1/6), (1/6, 2/3), along the thick side and to the edge, lie at 1/5, 4/5, 1/2 of the height there.
  static const std::array<double, 9> on_its_side = {-0.6, 0.6, 0, -0.6, 0.6, 0, -0.6, 0.6, 0};
  static const std::array<double, 27> full = {-k, -k, -k, -k, -k, -k, -k, -k, -k, 0, 0, 0, 0, 0,
                                              0,  0,  0,  0,  k,  k,  k,  k,  k,  k, k, k, k};
  if (points == 8) return eight;
  if (points == 27) return full;
  return lying ? std::span<const double>(on_its_side) : std::span<const double>(upright);
}

}  // namespace

SolidFit::SolidFit(const Model& model, std::span<const std::size_t> cases)
    : model_(model), solids_(*model.solids), full_(calculix::fully_integrated(model, cases)) {
  for (const material::Material& m : solids_.materials) {
    const material::Matrix6 C = material::stiffness(m.elastic);
    Eigen::Matrix<double, 2, 6> rows;
    rows.row(0) = C.row(4);
    rows.row(1) = C.row(3);
    shear_.push_back(rows);
    stiffness_.push_back(C);
  }
}

StrainEnergy SolidFit::energy(std::size_t solid, std::span<const double> strains, const model::Warmth* heat) const {
  const ElementIndex e = solids_.element[solid];
  const Vec3& n = model_.design->geometry.normals[e];
  const Vec3 first = frame::turned(model_.design->sections.references[e], n, solids_.turn[solid]),
             second = n.cross(first);
  const material::Matrix6& C = stiffness_[solids_.material[solid]];
  const std::vector<double> volumes = model::volumes_of_points(solids_.points, solids_.nodes_of(solid), is_full(solid));
  const material::Material& material = solids_.materials[solids_.material[solid]];
  Vector6 free = Vector6::Zero();
  if (heat) {
    free.head<3>() = material.thermal.all();
    free[5] = material.thermal.shear.value_or(0.0);
    free *= heat->above(material, 0.5);
  }
  StrainEnergy out;
  for (std::size_t p = 0; p < volumes.size(); ++p) {
    const double* const s = &strains[6 * p];  // xx yy zz xy xz yz, tensorial
    Eigen::Matrix3d E;
    E << s[0], s[3], s[4], s[3], s[1], s[5], s[4], s[5], s[2];
    const Vec3 E1 = E * first, E2 = E * second, En = E * n;
    Vector6 own;
    own << first.dot(E1), second.dot(E2), n.dot(En), 2.0 * second.dot(En), 2.0 * first.dot(En), 2.0 * first.dot(E2);
    out.elastic += 0.5 * volumes[p] * (own - free).dot(C * (own - free));
    out.held += 0.5 * volumes[p] * free.dot(C * free);
  }
  return out;
}

model::SolidState SolidFit::operator()(std::size_t solid, std::span<const double> strains) const {
  const ElementIndex e = solids_.element[solid];
  const std::size_t count = points(solid);
  const auto heights = heights_of(count, count == 9 && mesh::corner_count(model_.surface.shapes[e]) == 4);
  model::SolidState out;
  // Points of one solid have equal shares of it, but for those of fully integrated ones.
  std::vector<double> shares(count, 1.0);
  if (count == 27) shares = model::volumes_of_points(solids_.points, solids_.nodes_of(solid), true);
  double squares = 0.0, whole = 0.0;
  Vector6 mean = Vector6::Zero(), slope = Vector6::Zero();  // xx yy zz xy xz yz, tensorial
  for (std::size_t p = 0; p < count; ++p) {
    const Eigen::Map<const Vector6> own(&strains[6 * p]);
    whole += shares[p];
    mean += shares[p] * own;
    slope += shares[p] * heights[p] * own;
    squares += shares[p] * heights[p] * heights[p];
  }
  const Vec3& r = model_.design->sections.references[e];
  const Vec3& n = model_.design->geometry.normals[e];
  const Vec3 t = n.cross(r);
  const auto in_axes = [&](const Vector6& six) {
    Eigen::Matrix3d E;
    E << six[0], six[3], six[4], six[3], six[1], six[5], six[4], six[5], six[2];
    const Vec3 Er = E * r, Et = E * t, En = E * n;
    Vector6 own;
    own << r.dot(Er), t.dot(Et), n.dot(En), 2.0 * t.dot(En), 2.0 * r.dot(En), 2.0 * r.dot(Et);
    return own;
  };
  out.mean = in_axes(mean / whole);
  out.slope = in_axes(slope / squares);
  return out;
}

std::vector<model::SectionState> SolidFit::sections(std::span<const model::SolidState> states) const {
  std::vector<model::SectionState> out(model_.surface.element_count());
  const std::vector<std::uint32_t> first = first_solids(model_);
  parallel_blocks(out.size(), [&](std::size_t begin, std::size_t end) {
    layup::LayersOn layers_on(*model_.design);
    std::vector<model::InSolid> within;
    for (std::size_t i = begin; i < end; ++i) {
      const auto e = static_cast<ElementIndex>(i);
      const auto laid = layers_on(e);
      find_in_solids(solids_, first[e], first[e + 1], laid, within);
      double h = 0.0;
      for (const layup::LaidLayer& layer : laid) h += layer.thickness;
      double z = layup::bottom(model_.design->part, h);
      // Integrals over z of 1, z, z², and of strain and z times strain.
      double I0 = 0.0, I1 = 0.0, I2 = 0.0;
      laminate::Vector3 E0 = laminate::Vector3::Zero(), E1 = E0;
      for (std::size_t l = 0; l < laid.size(); ++l) {
        const double thickness = laid[l].thickness, middle = z + 0.5 * thickness;
        z += thickness;
        if (within[l].solid == model::InSolid::none) continue;
        const model::SolidState& state = states[within[l].solid];
        const double u = 0.5 * (within[l].low + within[l].high), half = 0.5 * (within[l].high - within[l].low);
        const Vector6 here = state.mean + u * state.slope;
        const laminate::Vector3 mean(here[0], here[1], here[5]);
        const laminate::Vector3 rise = half * laminate::Vector3(state.slope[0], state.slope[1], state.slope[5]);
        I0 += thickness, I1 += thickness * middle;
        I2 += thickness * (middle * middle + thickness * thickness / 12.0);
        E0 += thickness * mean;
        E1 += thickness * (middle * mean + thickness / 6.0 * rise);
        const Angle turn = solids_.turn[within[l].solid];
        const laminate::Vector2 shear = shear_[solids_.material[within[l].solid]] * model::turned(here, turn);
        out[e].Q += thickness * laminate::Vector2(turn.cos() * shear[0] - turn.sin() * shear[1],
                                                  turn.sin() * shear[0] + turn.cos() * shear[1]);
      }
      const double spread = I0 * I2 - I1 * I1;
      if (!(spread > 0.0)) continue;
      out[e].deformation.curvature = (I0 * E1 - I1 * E0) / spread;
      out[e].deformation.strain = (I2 * E0 - I1 * E1) / spread;
    }
  });
  return out;
}

std::vector<Vec3> halfway_up(const Model& model, const std::vector<Vec3>& of_solids) {
  const model::Solids& solids = *model.solids;
  std::vector<Vec3> out(model.surface.points.size(), Vec3::Zero());
  for (mesh::NodeIndex n = 0; n < out.size(); ++n) {
    const std::vector<std::uint32_t> column = solids.column_of(n);
    if (column.empty()) continue;
    const Vec3& up = solids.upright[n];
    const auto height = [&](std::uint32_t node) {
      return (solids.points[node] - model.surface.points[n]).dot(up) / up.squaredNorm();
    };
    const double middle = solids.bottom[n] + 0.5 * solids.height[n];
    std::size_t k = 1;
    while (k + 1 < column.size() && height(column[k]) < middle) ++k;
    if (column.size() == 1) {
      out[n] = of_solids[column[0]];
      continue;
    }
    const double low = height(column[k - 1]), high = height(column[k]);
    const double share = high > low ? (middle - low) / (high - low) : 0.5;
    out[n] = (1.0 - share) * of_solids[column[k - 1]] + share * of_solids[column[k]];
  }
  return out;
}

}  // namespace bordado::calculix
