// What tests of stresses share: plates and strips with known answers, and the exact strip.
#pragma once

#include "cases.hpp"

#include <bordado/recovery.hpp>

#include <unsupported/Eigen/MatrixFunctions>

namespace test {

/// A plate of 100 by 100 held so that nothing is forced: six freedoms at three corners.
inline const std::string held_at_corners = R"(
[support.a]
on = "corner"
hold = ["x", "y", "z"]
[support.b]
point = [100, 0, 0]
hold = ["y", "z"]
[support.c]
point = [0, 100, 0]
hold = ["z"]
)";

/// N and M along all four sides of it.
inline std::string edge_loads(const bordado::laminate::Vector3& N, const bordado::laminate::Vector3& M) {
  const auto load = [](const std::string& side, double fx, double fy, double mx, double my) {
    return fmt::format(
        "[load.f-{0}]\non = \"{0}\"\nedge-force = [{1}, {2}, 0]\n[load.m-{0}]\non = \"{0}\"\nedge-moment = [{3}, {4}, "
        "0]\n",
        side, fx, fy, mx, my);
  };
  // A moment Mx (tension on top) turns about +y at the +x side; Mxy there about -x.
  return load("right", N[0], N[2], -M[2], M[0]) + load("left", -N[0], -N[2], M[2], -M[0]) +
         load("back", N[2], N[1], -M[1], M[2]) + load("front", -N[2], -N[1], M[1], -M[2]);
}

/// "hot": "ud" with strengths, free of stress at 180.
inline std::string expanding(double Yt) {
  return fmt::format(R"(
[material.hot]
from = "ud"
alpha1 = -0.3e-6
alpha2 = 30e-6
stress-free-temperature = 180
Xt = 1900
Xc = 1100
Yt = {}
Yc = 160
S12 = 70
)",
                     Yt);
}

/// Supports of all four sides. \param ends what is held of "left" and "right" \param sides of "front" and "back"
inline std::string held_sides(const std::string& ends, const std::string& sides) {
  std::string out = "\n";
  for (const std::string side : {"left", "right", "front", "back"})
    out += fmt::format("[support.{0}]\non = \"{0}\"\nhold = {1}\n", side,
                       side == "left" || side == "right" ? ends : sides);
  return out;
}
/// A strip along x on two supports, held in plane strain along its sides. \param middle where x is held
inline std::string plane_strain(double middle) {
  return held_sides(R"(["z"])", R"(["y", "rx", "rz"])") +
         fmt::format("[support.middle]\npoint = [{}, 0, 0]\nhold = [\"x\"]\n", middle);
}
/// Half a wave of pressure over the span, which pulls its upper face up.
inline std::string sine_pressure(double span, double p) {
  return fmt::format(R"x(
[load.sine]
on = "plate"
face = "bag"
pressure = {{ formula = "-{} * sin(pi*x/{})" }}
)x",
                     p, span);
}

inline bordado::mesh::ElementIndex nearest(const bordado::Design& design, const Vec3& point) {
  bordado::mesh::ElementIndex best = 0;
  for (bordado::mesh::ElementIndex e = 0; e < design.surface.element_count(); ++e)
    if ((design.geometry.centres[e] - point).norm() < (design.geometry.centres[best] - point).norm()) best = e;
  return best;
}

/// Amplitudes of stresses along x and xz.
struct StripStress {
  double sx, txz;
};
/// Of such a strip under half a wave of pull p on its top, exactly in three dimensions: (u, w, txz, sz) by layers. N. J.
/// Pagano, J. Composite Materials 3 (1969) 398. \param at layers and places: sx where its sine is one, txz where its cosine is
inline std::vector<StripStress> exact_strip(std::span<const bordado::laminate::Layer> layers, double span, double p,
                                            std::span<const bordado::result::PlyState> at) {
  using Matrix4 = Eigen::Matrix4d;
  const double x = std::numbers::pi / span;
  std::vector<Matrix4> each;
  std::vector<std::array<double, 2>> along;  // sx from u and sz
  Matrix4 through = Matrix4::Identity();
  for (const auto& layer : layers) {
    bordado::material::Matrix6 C = bordado::material::stiffness(layer.elastic);
    if (std::abs(layer.angle.degrees()) == 90.0) {
      Eigen::PermutationMatrix<6> swap;
      swap.indices() << 1, 0, 2, 4, 3, 5;
      C = swap * C * swap.transpose();
    }
    const double C33 = C(2, 2), k13 = C(0, 2) / C33, Q11 = C(0, 0) - C(0, 2) * k13;
    Matrix4 M = Matrix4::Zero();
    M(0, 1) = -x, M(0, 2) = 1.0 / C(4, 4);
    M(1, 0) = k13 * x, M(1, 3) = 1.0 / C33;
    M(2, 0) = Q11 * x * x, M(2, 3) = -k13 * x;
    M(3, 2) = x;
    each.push_back(M);
    along.push_back({-Q11 * x, k13});
    through = (M * layer.thickness).exp() * through;
  }
  const Eigen::Vector2d displaced = through.bottomLeftCorner<2, 2>().partialPivLu().solve(Eigen::Vector2d(0, p));
  std::vector<StripStress> out;
  for (const bordado::result::PlyState& s : at) {
    Eigen::Vector4d state(displaced[0], displaced[1], 0, 0);
    for (std::size_t i = 0; i < s.layer; ++i) state = (each[i] * layers[i].thickness).exp() * state;
    state = (each[s.layer] * (0.5 * s.place * layers[s.layer].thickness)).exp() * state;
    out.push_back({along[s.layer][0] * state[0] + along[s.layer][1] * state[3], state[2]});
  }
  return out;
}

/// A simply supported cross-ply plate under half a wave of pull p on its top both ways, exactly in three dimensions: per
/// layer d/dz of the amplitudes of (u, v, w, txz, tyz, sz) is a constant matrix; u and txz go with cos mx sin ny, v and tyz
/// with sin mx cos ny, w and sz with sin sin. N. J. Pagano, J. Composite Materials 4 (1970) 20; by the transfer matrices
/// of K. Bhaskar and T. K. Varadan.
class ExactPlate {
 public:
  using Vector6 = Eigen::Matrix<double, 6, 1>;
  using Matrix6 = Eigen::Matrix<double, 6, 6>;

  ExactPlate(std::span<const bordado::laminate::Layer> layers, double a, double b, double p) {
    const double x = std::numbers::pi / a, y = std::numbers::pi / b;
    Matrix6 through = Matrix6::Identity();
    for (const auto& layer : layers) {
      bordado::material::Matrix6 C = bordado::material::stiffness(layer.elastic);
      if (std::abs(layer.angle.degrees()) == 90.0) {  // 1 and 2 change places, and 13 and 23
        Eigen::PermutationMatrix<6> swap;
        swap.indices() << 1, 0, 2, 4, 3, 5;
        C = swap * C * swap.transpose();
      }
      // Order 11 22 33 23 13 12. Stresses in the plane follow from those across.
      const double C33 = C(2, 2), k13 = C(0, 2) / C33, k23 = C(1, 2) / C33;
      const double Q11 = C(0, 0) - C(0, 2) * k13, Q12 = C(0, 1) - C(0, 2) * k23, Q22 = C(1, 1) - C(1, 2) * k23;
      Matrix6 M = Matrix6::Zero();
      M(0, 2) = -x;
      M(0, 3) = 1.0 / C(4, 4);
      M(1, 2) = -y;
      M(1, 4) = 1.0 / C(3, 3);
      M(2, 0) = k13 * x;
      M(2, 1) = k23 * y;
      M(2, 5) = 1.0 / C33;
      M(3, 0) = Q11 * x * x + C(5, 5) * y * y;
      M(3, 1) = (Q12 + C(5, 5)) * x * y;
      M(3, 5) = -k13 * x;
      M(4, 0) = (Q12 + C(5, 5)) * x * y;
      M(4, 1) = Q22 * y * y + C(5, 5) * x * x;
      M(4, 5) = -k23 * y;
      M(5, 3) = x;
      M(5, 4) = y;
      each_.push_back(M);
      thickness_.push_back(layer.thickness);
      through = (M * layer.thickness).exp() * through;
    }
    // Faces are free but for sz = p on the top.
    const Eigen::Vector3d displaced = through.bottomLeftCorner<3, 3>().partialPivLu().solve(Eigen::Vector3d(0, 0, p));
    foot_ << displaced, Eigen::Vector3d::Zero();
  }
  /// Amplitudes at a share of a layer's thickness.
  Vector6 at(std::size_t layer, double share) const {
    Vector6 state = foot_;
    for (std::size_t i = 0; i < layer; ++i) state = (each_[i] * thickness_[i]).exp() * state;
    return (each_[layer] * (share * thickness_[layer])).exp() * state;
  }
  /// Halfway up.
  Vector6 middle() const {
    double z = 0.0;
    for (const double t : thickness_) z += 0.5 * t;
    std::size_t layer = 0;
    while (z > thickness_[layer]) z -= thickness_[layer++];
    return at(layer, z / thickness_[layer]);
  }

 private:
  std::vector<Matrix6> each_;
  std::vector<double> thickness_;
  Vector6 foot_;
};

/// Sides that keep their height and do not move along themselves, at no height: what the exact answer has.
inline const std::string diaphragms = held_sides(R"(["y", "z", "rx"])", R"(["x", "z", "ry"])");

/// A plate on these, under half a wave of pull both ways ("press"); and its frequencies ("bell").
inline std::string sine_plate(double a, const std::string& code, int count = 1) {
  return test::case_part(code, diaphragms + fmt::format(R"x(
[load.sine]
on = "plate"
face = "bag"
pressure = {{ formula = "-0.001 * sin(pi*x/{0}) * sin(pi*y/{0})" }}
[case.press]
loads = ["sine"]
[case.bell]
analysis = "frequencies"
count = {1}
)x",
                                                        a, count));
}

/// txz of a ply.
inline double shear_xz(const bordado::result::PlyState& state, bordado::Angle angle) {
  return angle.cos() * state.ply_shear[0] - angle.sin() * state.ply_shear[1];
}

}  // namespace test
