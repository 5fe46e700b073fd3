#include "shear_flow.hpp"

#include <fmt/format.h>
#include <Eigen/Cholesky>
#include <Eigen/LU>

#include <stdexcept>

namespace bordado::laminate {

Layer layer_of(const material::Material& material, double thickness, Angle angle) {
  return {material.elastic,
          thickness,
          angle,
          material.density,
          material.thermal.all(),
          material.moisture.all(),
          material.thermal.shear.value_or(0.0),
          material.moisture.shear.value_or(0.0)};
}

Matrix3 plane_stress_stiffness(const material::Elastic& m) {
  if (m.full) {
    const material::Matrix6 S = material::compliance(m);
    constexpr int in_plane[] = {0, 1, 5};
    Matrix3 out;
    for (int i = 0; i < 3; ++i)
      for (int j = 0; j < 3; ++j) out(i, j) = S(in_plane[i], in_plane[j]);
    return out.inverse();
  }
  const double nu21 = m.nu12 * m.E2 / m.E1, divisor = 1.0 - m.nu12 * nu21;
  Matrix3 Q = Matrix3::Zero();
  Q(0, 0) = m.E1 / divisor;
  Q(1, 1) = m.E2 / divisor;
  Q(0, 1) = Q(1, 0) = m.nu12 * m.E2 / divisor;
  Q(2, 2) = m.G12;
  return Q;
}

Matrix3 strains_to(double cosine, double sine) {
  const double c = cosine, s = sine;
  Matrix3 out;
  out << c * c, s * s, c * s,  //
      s * s, c * c, -c * s,    //
      -2 * c * s, 2 * c * s, c * c - s * s;
  return out;
}

Matrix3 rotated(const Matrix3& Q, Angle angle) {
  const Matrix3 T = strains_to(angle);  // energy is the same in both
  return T.transpose() * Q * T;
}

Matrix2 transverse_stiffness(const material::Elastic& m, Angle angle) {
  const double c = angle.cos(), s = angle.sin();
  Matrix2 G;
  if (m.full) {
    const material::Matrix6 S = material::compliance(m);
    Matrix2 softness, turn;
    softness << S(4, 4), S(4, 3), S(3, 4), S(3, 3);
    turn << c, -s, s, c;
    return turn * softness.inverse() * turn.transpose();
  }
  G(0, 0) = c * c * m.G13 + s * s * m.G23;
  G(1, 1) = s * s * m.G13 + c * c * m.G23;
  G(0, 1) = G(1, 0) = c * s * (m.G13 - m.G23);
  return G;
}

Eigen::Matrix<double, 6, 6> Stiffness::ABD() const {
  Eigen::Matrix<double, 6, 6> out;
  out << A, B, B, D;
  return out;
}

namespace {

void check(std::span<const Layer> layers) {
  if (layers.empty()) throw std::invalid_argument("the stack has no layers");
  for (const Layer& layer : layers)
    if (!(layer.thickness > 0.0))
      throw std::invalid_argument(fmt::format("a layer has thickness {:g}; it must be positive", layer.thickness));
}

Stiffness membrane_and_bending(std::span<const Layer> layers, double z0) {
  Stiffness out;
  double z = z0;
  for (const Layer& layer : layers) {
    const Matrix3 Q = rotated(plane_stress_stiffness(layer.elastic), layer.angle);
    const double t = layer.thickness, middle = z + 0.5 * t;
    out.A += t * Q;
    out.B += t * middle * Q;
    out.D += (t * middle * middle + t * t * t / 12.0) * Q;
    z += t;
  }
  return out;
}

}  // namespace

std::vector<ShearFlow> shear_flows(std::span<const Layer> layers) {
  check(layers);
  const double bottom = -0.5 * thickness(layers);
  const Stiffness about_middle = membrane_and_bending(layers, bottom);
  // Strain gradients for unit moment gradients: column 0 for dMx/dx = 1 (derivatives along x), column 1 for dMy/dy = 1
  // (along y).
  const Eigen::Matrix<double, 6, 6> compliance = inverse(about_middle.ABD());
  const Vector3 e_x = compliance.block<3, 1>(0, 3), k_x = compliance.block<3, 1>(3, 3);
  const Vector3 e_y = compliance.block<3, 1>(0, 4), k_y = compliance.block<3, 1>(3, 4);

  // dt/dz = -(ds along x, y): with d/dx only for column 0 (sx -> txz, txy -> tyz), d/dy only for column 1 (txy -> txz,
  // sy -> tyz).
  const auto gradient = [](const Matrix3& Q, const Vector3& along_x, const Vector3& along_y) {
    const Vector3 x = Q * along_x, y = Q * along_y;
    Matrix2 out;
    out << -x(0), -y(2), -x(2), -y(1);
    return out;
  };

  std::vector<ShearFlow> out;
  Matrix2 below = Matrix2::Zero();
  double z = bottom;
  for (const Layer& layer : layers) {
    const Matrix3 Q = rotated(plane_stress_stiffness(layer.elastic), layer.angle);
    out.push_back({z, below, gradient(Q, e_x, e_y), gradient(Q, k_x, k_y)});
    z += layer.thickness;
    below = out.back().at(z);
  }
  return out;
}

Matrix2 transverse_shear(std::span<const Layer> layers) {
  const double position[] = {-0.7745966692414834, 0.0, 0.7745966692414834}, weight[] = {5.0 / 9, 8.0 / 9, 5.0 / 9};
  const std::vector<ShearFlow> flows = shear_flows(layers);
  Matrix2 flexibility = Matrix2::Zero();
  for (std::size_t i = 0; i < layers.size(); ++i) {
    const Matrix2 inverse_G = transverse_stiffness(layers[i].elastic, layers[i].angle).inverse();
    for (int q = 0; q < 3; ++q) {
      const Matrix2 t = flows[i].at(flows[i].z + 0.5 * layers[i].thickness * (1.0 + position[q]));
      flexibility += 0.5 * layers[i].thickness * weight[q] * (t.transpose() * inverse_G * t);
    }
  }
  return flexibility.inverse();
}

Matrix2 transverse_shear_voigt(std::span<const Layer> layers) {
  Matrix2 out = Matrix2::Zero();
  for (const Layer& layer : layers) out += layer.thickness * transverse_stiffness(layer.elastic, layer.angle);
  return out;
}

Stiffness stiffness(std::span<const Layer> layers, double z0) {
  check(layers);
  Stiffness out = membrane_and_bending(layers, z0);
  out.H = transverse_shear(layers);
  return out;
}

Stiffness moved(const Stiffness& s, double distance) {
  // e0 (new plane) = e0 + distance k and N, M follow: B' = B - d A, D' = D - 2 d B + d² A.
  Stiffness out = s;
  out.B = s.B - distance * s.A;
  out.D = s.D - 2.0 * distance * s.B + distance * distance * s.A;
  return out;
}

namespace {

EngineeringConstants constants(const Matrix3& compliance, double scale) {
  return {1.0 / (scale * compliance(0, 0)), 1.0 / (scale * compliance(1, 1)), 1.0 / (scale * compliance(2, 2)),
          -compliance(0, 1) / compliance(0, 0)};
}

}  // namespace

material::Vector6 solve(const material::Matrix6& stiffness, const material::Vector6& load) {
  return stiffness.fullPivLu().solve(load);
}

material::Matrix6 inverse(const material::Matrix6& stiffness) { return stiffness.fullPivLu().inverse(); }

Compliance compliance(const Stiffness& stiffness) {
  const Eigen::Matrix<double, 6, 6> all = inverse(stiffness.ABD());
  return {all.topLeftCorner<3, 3>(), all.topRightCorner<3, 3>(), all.bottomRightCorner<3, 3>()};
}

std::vector<AlongDirection> against_direction(const Stiffness& stiffness, double thickness, double middle,
                                              std::size_t count) {
  const Compliance free = compliance(moved(stiffness, middle));
  const Matrix3 held = stiffness.A.inverse();
  std::vector<AlongDirection> out;
  out.reserve(count);
  for (std::size_t i = 0; i < count; ++i) {
    const Angle angle = Angle::degrees(360.0 * static_cast<double>(i) / static_cast<double>(count));
    const double c = angle.cos(), s = angle.sin();
    const Matrix3 to_direction = strains_to(c, s);
    const Vector3 pull = to_direction.row(0);   // a unit stress along the direction, in x, y
    const Vector3 shear = to_direction.row(2);  // a unit shear stress along and across it
    out.push_back({angle, 1.0 / (thickness * pull.dot(free.a * pull)), 1.0 / (thickness * pull.dot(held * pull)),
                   12.0 / (thickness * thickness * thickness * pull.dot(free.d * pull)),
                   1.0 / (thickness * shear.dot(free.a * shear))});
  }
  return out;
}

EngineeringConstants in_plane(const Stiffness& s, double thickness, double middle) {
  return constants(compliance(moved(s, middle)).a, thickness);
}

EngineeringConstants in_plane_constrained(const Stiffness& s, double thickness) {
  return constants(s.A.inverse(), thickness);
}

EngineeringConstants in_bending(const Stiffness& s, double thickness, double middle) {
  return constants(compliance(moved(s, middle)).d, thickness * thickness * thickness / 12.0);
}

Deformation free_expansion(std::span<const Layer> layers, double z0, Expands by) {
  check(layers);
  const Stiffness k = membrane_and_bending(layers, z0);
  Eigen::Matrix<double, 6, 1> held;
  const Resultants push = held_expansion(layers, z0, by);
  held << push.N, push.M;
  const Eigen::Matrix<double, 6, 1> free = solve(k.ABD(), held);
  return {free.head<3>(), free.tail<3>()};
}

Vector3 free_strain(const Layer& layer, Expands by) {
  const Vec3& e = by == Expands::by_temperature ? layer.thermal : layer.moisture;
  const double g = by == Expands::by_temperature ? layer.thermal_shear : layer.moisture_shear;
  return strains_to(-layer.angle) * Vector3(e[0], e[1], g);
}

Resultants held_expansion(std::span<const Layer> layers, double z0, Expands by) {
  Resultants out;
  double z = z0;
  for (const Layer& layer : layers) {
    const Vector3 stress =
        rotated(plane_stress_stiffness(layer.elastic), layer.angle) * free_strain(layer, by) * layer.thickness;
    out.N += stress;
    out.M += (z + 0.5 * layer.thickness) * stress;
    z += layer.thickness;
  }
  return out;
}

Deformation deformation(std::span<const Layer> layers, double z0, const Load& load) {
  check(layers);
  Eigen::Matrix<double, 6, 1> total;
  total << load.N, load.M;
  for (const auto& [by, amount] :
       {std::pair{Expands::by_temperature, load.temperature}, std::pair{Expands::by_moisture, load.moisture}}) {
    const Resultants held = held_expansion(layers, z0, by);
    total.head<3>() += amount * held.N;
    total.tail<3>() += amount * held.M;
  }
  const Eigen::Matrix<double, 6, 1> answer = solve(membrane_and_bending(layers, z0).ABD(), total);
  return {answer.head<3>(), answer.tail<3>()};
}

std::vector<LayerState> layer_states(std::span<const Layer> layers, double z0, const Deformation& deformation,
                                     const Load& load) {
  const std::vector<ShearFlow> flows = shear_flows(layers);
  const double middle = z0 + 0.5 * thickness(layers);
  std::vector<LayerState> out;
  double z = z0;
  for (std::size_t i = 0; i < layers.size(); ++i) {
    const Layer& layer = layers[i];
    const double c = layer.angle.cos(), s = layer.angle.sin();
    const Matrix3 to_ply = strains_to(c, s);
    const Matrix3 Q = plane_stress_stiffness(layer.elastic);
    const Vector3 free = load.temperature * free_strain(layer, Expands::by_temperature) +
                         load.moisture * free_strain(layer, Expands::by_moisture);
    for (int k = 0; k < 3; ++k) {
      LayerState state;
      state.layer = i;
      state.z = z + 0.5 * k * layer.thickness;
      state.strain = deformation.strain + state.z * deformation.curvature;
      state.ply_strain = to_ply * state.strain;
      state.ply_stress = Q * (to_ply * (state.strain - free));
      state.stress = to_ply.transpose() * state.ply_stress;
      const Vector2 shear = flows[i].at(state.z - middle) * load.Q;
      state.ply_shear = Vector2(c * shear[0] + s * shear[1], -s * shear[0] + c * shear[1]);
      out.push_back(state);
    }
    z += layer.thickness;
  }
  return out;
}

Equivalent equivalent(std::span<const Layer> layers) {
  check(layers);
  const double h = thickness(layers);
  std::vector<material::LayerShare> warm, wet;
  Equivalent out;
  for (const Layer& layer : layers) {
    const double c = layer.angle.cos(), s = layer.angle.sin();
    Eigen::Matrix3d common;  // the reference axes seen from the ply's
    common << c, s, 0, -s, c, 0, 0, 0, 1;
    const material::Matrix6 C = material::turned(material::stiffness(layer.elastic), common);
    const auto part = [&](Expands by, double through) {
      const Vector3 in_plane = free_strain(layer, by);
      material::Vector6 expansion = material::Vector6::Zero();
      expansion << in_plane[0], in_plane[1], through, 0.0, 0.0, in_plane[2];
      return material::LayerShare{C, layer.thickness / h, expansion};
    };
    warm.push_back(part(Expands::by_temperature, layer.thermal[2]));
    wet.push_back(part(Expands::by_moisture, layer.moisture[2]));
  }
  const material::Layered whole = material::layered(warm);
  out.elastic = material::from_stiffness(whole.stiffness);
  out.thermal = whole.expansion;
  out.moisture = material::layered(wet).expansion;
  if (std::all_of(layers.begin(), layers.end(), [](const Layer& layer) { return layer.density.has_value(); }))
    out.density = areal_mass(layers) / h;
  return out;
}

double thickness(std::span<const Layer> layers) {
  double sum = 0.0;
  for (const Layer& layer : layers) sum += layer.thickness;
  return sum;
}

double areal_mass(std::span<const Layer> layers) {
  double sum = 0.0;
  for (const Layer& layer : layers) sum += layer.thickness * layer.density.value_or(0.0);
  return sum;
}

}  // namespace bordado::laminate
