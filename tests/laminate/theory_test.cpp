#include "support.hpp"

#include <bordado/laminate.hpp>

#include <Eigen/Eigenvalues>
#include <Eigen/LU>

#include <cmath>
#include <random>

namespace of_laminate_theory {

using namespace bordado;
using namespace bordado::laminate;

namespace {

std::vector<Layer> stack(const std::string& code, double t = 0.125, const material::Elastic& elastic = test::carbon()) {
  std::vector<Layer> out;
  for (const CodePly& ply : parse_code(code)) out.push_back({elastic, t, ply.angle, 1.55e-9});
  return out;
}

void check_near(const Eigen::MatrixXd& a, const Eigen::MatrixXd& b, double tolerance) {
  INFO("a\n" << a << "\nb\n" << b);
  CHECK((a - b).norm() <= tolerance * std::max(a.norm(), b.norm()));
}

struct Random {
  std::mt19937 engine{11};
  double operator()(double low, double high) { return std::uniform_real_distribution<double>(low, high)(engine); }
  material::Elastic elastic() {
    for (;;) {
      const double E2 = std::pow(10, (*this)(2, 4));
      const material::Elastic m = material::transversely_isotropic(
          E2 * (*this)(1, 40), E2, (*this)(0, 0.4), E2 * (*this)(0.2, 1), (*this)(0, 0.5), E2 * (*this)(0.2, 0.6));
      if (!material::not_positive_definite(m)) return m;
    }
  }
  std::vector<Layer> stack(int layers) {
    std::vector<Layer> out;
    for (int i = 0; i < layers; ++i)
      out.push_back({elastic(), (*this)(0.05, 2.0), Angle::degrees((*this)(-90, 90)), (*this)(1e-9, 2e-9)});
    return out;
  }
};

Angle turned_by(double degrees, const Layer& layer) { return Angle::degrees(layer.angle.degrees() + degrees); }

}  // namespace

TEST_CASE("a textbook laminate comes out as printed") {
  // A. K. Kaw, Mechanics of Composite Materials, 2nd ed. (CRC Press 2006), examples 4.2 and 4.3: [0/30/-45]
  // graphite/epoxy, plies of 5 mm, E1 = 181 GPa, E2 = 10.3 GPa, nu12 = 0.28, G12 = 7.17 GPa, about the mid-plane; Nx =
  // Ny = 1000 N/m. Printed to four digits.
  const auto layers =
      stack("[0/30/-45]", 0.005, material::transversely_isotropic(181e9, 10.3e9, 0.28, 7.17e9, 0.4, 3e9));
  const Stiffness k = stiffness(layers, -0.0075);
  Matrix3 A, B, D;
  A << 1.739e9, 3.884e8, 5.663e7, 3.884e8, 4.533e8, -1.141e8, 5.663e7, -1.141e8, 4.525e8;
  B << -3.129e6, 9.855e5, -1.072e6, 9.855e5, 1.158e6, -1.072e6, -1.072e6, -1.072e6, 9.855e5;
  D << 3.343e4, 6.461e3, -5.240e3, 6.461e3, 9.320e3, -5.596e3, -5.240e3, -5.596e3, 7.663e3;
  check_near(k.A, A, 5e-4);
  check_near(k.B, B, 5e-4);
  check_near(k.D, D, 5e-4);
  Eigen::Matrix<double, 6, 1> load, printed;
  load << 1000, 1000, 0, 0, 0, 0;
  printed << 3.123e-7, 3.492e-6, -7.598e-7, 2.971e-5, -3.285e-4, 4.101e-4;
  check_near(k.ABD().inverse() * load, printed, 5e-4);
}

TEST_CASE("a symmetric laminate has no coupling about its middle; an antisymmetric one couples by shear only") {
  const auto symmetric = stack("[20/-35/70/0]s");
  CHECK(stiffness(symmetric, -0.5).B.norm() < 1e-12 * stiffness(symmetric, 0).B.norm());
  const Stiffness k = stiffness(stack("[30/-30]"), -0.125);
  CHECK(std::abs(k.B(0, 0)) + std::abs(k.B(1, 1)) + std::abs(k.B(0, 1)) + std::abs(k.B(2, 2)) <
        1e-9 * std::abs(k.B(0, 2)));
  CHECK(k.B(0, 2) <
        0);  // the +30 ply lies below: pulled along x, it makes the laminate twist one way and not the other
}

TEST_CASE("a quasi-isotropic laminate is isotropic in its plane at any angle") {
  for (const std::string code : {"[0/60/-60]s", "[0/45/-45/90]s", "[0/36/72/-72/-36]s"}) {
    const Matrix3 A = stiffness(stack(code), 0).A;
    CHECK(test::near(A(0, 0), A(1, 1), 1e-12));
    CHECK(test::near(A(2, 2), 0.5 * (A(0, 0) - A(0, 1)), 1e-12));
    check_near(rotated(A, Angle::degrees(17)), A, 1e-12);
  }
}

TEST_CASE("random stacks keep the invariants") {
  Random random;
  for (int round = 0; round < 200; ++round) {
    const auto layers = random.stack(1 + round % 12);
    const double h = thickness(layers), z0 = random(-3, 3), turn = random(-180, 180), shift = random(-2, 2);
    const Stiffness k = stiffness(layers, z0);

    // Stable: the whole 6 x 6 matrix and H have positive eigenvalues.
    CHECK(Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd>(k.ABD()).eigenvalues()(0) > 0);
    CHECK(Eigen::SelfAdjointEigenSolver<Matrix2>(k.H).eigenvalues()(0) > 0);

    // Turning every ply turns A, B and D, and H by right angles: between them H depends on the axes (see
    // transverse_shear).
    auto turned = layers;
    for (Layer& layer : turned) layer.angle = turned_by(turn, layer);
    const Stiffness kt = stiffness(turned, z0);
    check_near(kt.A, rotated(k.A, Angle::degrees(turn)), 1e-11);
    check_near(kt.B, rotated(k.B, Angle::degrees(turn)), 1e-11);
    check_near(kt.D, rotated(k.D, Angle::degrees(turn)), 1e-11);
    auto crossed = layers;
    for (Layer& layer : crossed) layer.angle = turned_by(90, layer);
    Matrix2 R;
    R << 0, -1, 1, 0;
    check_near(stiffness(crossed, z0).H, R * k.H * R.transpose(), 1e-9);

    // Half a turn changes nothing.
    auto half = layers;
    for (Layer& layer : half) layer.angle = turned_by(180, layer);
    check_near(stiffness(half, z0).ABD(), k.ABD(), 1e-12);

    // Moving the reference plane and moving the laminate are the same.
    check_near(moved(k, shift).ABD(), stiffness(layers, z0 - shift).ABD(), 1e-10);

    // Listed from the other side, B changes its sign about the middle.
    std::vector<Layer> reversed(layers.rbegin(), layers.rend());
    const Stiffness middle = stiffness(layers, -0.5 * h), back = stiffness(reversed, -0.5 * h);
    check_near(back.A, middle.A, 1e-12);
    CHECK((back.B + middle.B).norm() < 1e-11 * middle.A.norm() * h);
    check_near(back.D, middle.D, 1e-11);
    check_near(back.H, middle.H, 1e-9);

    // A ply cut in two plies is the same ply.
    auto split = layers;
    split.front().thickness *= 0.3;
    split.insert(split.begin(), layers.front());
    split.front().thickness *= 0.7;
    check_near(stiffness(split, z0).ABD(), k.ABD(), 1e-12);
    check_near(stiffness(split, z0).H, k.H, 1e-9);

    // Equilibrium shear is never stiffer than equal strain in all layers.
    CHECK(k.H.trace() <= transverse_shear_voigt(layers).trace() * (1 + 1e-9));
  }
}

TEST_CASE("transverse shear: one layer gives 5/6, and published shear factors are met") {
  const auto one = stack("[0]", 2.0);
  CHECK(test::near(transverse_shear(one)(0, 0), 5.0 / 6 * 5000 * 2, 1e-12));
  CHECK(test::near(transverse_shear(one)(1, 1), 5.0 / 6 * 3200 * 2, 1e-12));
  // J. M. Whitney, Shear correction factors for orthotropic laminates under static load, J. Applied Mechanics 40 (1973)
  // 302: E1/E2 = 25, G12 = G13 = 0.5 E2, G23 = 0.2 E2, nu12 = 0.25: 0.8212 for [0/90], 0.5952 for [0/90]s, with the
  // curvature across held; here it is free, which changes them by 3 in 10,000.
  for (const auto& [code, published] : {std::pair{"[0/90]", 0.8212}, std::pair{"[0/90]s", 0.5952}}) {
    const auto layers = stack(code, 1.0, material::transversely_isotropic(25, 1, 0.25, 0.5, 0.25, 0.2));
    CHECK(test::near(transverse_shear(layers)(0, 0) / transverse_shear_voigt(layers)(0, 0), published, 5e-4));
  }
}

TEST_CASE("transverse shear of random stacks is what slicing them finely and adding up gives") {
  Random random;
  for (int round = 0; round < 20; ++round) {
    const auto layers = random.stack(1 + round % 6);
    const double h = thickness(layers);
    const Eigen::Matrix<double, 6, 6> inverse = stiffness(layers, -0.5 * h).ABD().inverse();
    // One unit shear force at a time: dMx/dx = 1 (along x), dMy/dy = 1 (along y); shear stress grows by equilibrium,
    // slice by slice.
    Matrix2 flexibility = Matrix2::Zero(), stress = Matrix2::Zero();
    double z = -0.5 * h;
    const int slices = 400;
    for (const Layer& layer : layers) {
      const Matrix3 Q = rotated(plane_stress_stiffness(layer.elastic), layer.angle);
      const double dz = layer.thickness / slices;
      for (int i = 0; i < slices; ++i, z += dz) {
        const Vector3 along_x = Q * (inverse.block<3, 1>(0, 3) + (z + 0.5 * dz) * inverse.block<3, 1>(3, 3));
        const Vector3 along_y = Q * (inverse.block<3, 1>(0, 4) + (z + 0.5 * dz) * inverse.block<3, 1>(3, 4));
        Matrix2 change;
        change << along_x(0), along_y(2), along_x(2), along_y(1);
        const Matrix2 middle = stress - 0.5 * dz * change;
        stress -= dz * change;
        flexibility += dz * middle.transpose() * transverse_stiffness(layer.elastic, layer.angle).inverse() * middle;
      }
    }
    CHECK(stress.norm() < 1e-9);  // nothing is left at the free face
    check_near(transverse_shear(layers), flexibility.inverse(), 1e-4);
  }
}

TEST_CASE("transverse shear of a sandwich is that of its core, Gc d^2 / tc, ever more so with thinner faces") {
  const auto foam = material::isotropic(10, 0.3);  // soft: what it adds to bending is left out of the formula
  double previous = 1.0;
  for (const double face : {1.0, 0.3, 0.1}) {
    std::vector<Layer> layers = stack("[0]", face);
    layers.push_back({foam, 20.0, Angle(), 0});
    layers.push_back(layers.front());
    const double d = 20 + face, formula = foam.G13 * d * d / 20;
    const double error = std::abs(transverse_shear(layers)(0, 0) / formula - 1);
    CHECK(error < 0.01);
    CHECK(error < previous);
    previous = error;
  }
}

TEST_CASE("transverse shear is a plane tensor for one material at one angle and for isotropic layers") {
  const auto foam = material::isotropic(70, 0.4), metal = material::isotropic(70000, 0.33);
  for (const double turn : {0.0, 17.0, 45.0, -60.0}) {
    const Matrix2 H = transverse_shear(std::vector<Layer>{{test::carbon(), 0.4, Angle::degrees(turn), 0},
                                                          {test::carbon(), 0.6, Angle::degrees(turn), 0}});
    check_near(H, 5.0 / 6 * transverse_stiffness(test::carbon(), Angle::degrees(turn)), 1e-12);
    const Matrix2 sandwich = transverse_shear(std::vector<Layer>{
        {metal, 1, Angle::degrees(turn), 0}, {foam, 9, Angle::degrees(-turn), 0}, {metal, 2, Angle(), 0}});
    check_near(sandwich, sandwich(0, 0) * Matrix2::Identity(), 1e-12);
  }
}

TEST_CASE("engineering constants: one ply gives its own, and held is stiffer than free") {
  const Stiffness k = stiffness(stack("[0]", 0.25), 0.0);
  const auto e = in_plane(k, 0.25, 0.125);
  CHECK(test::near(e.Ex, 135000, 1e-10));
  CHECK(test::near(e.Ey, 9000, 1e-10));
  CHECK(test::near(e.Gxy, 5000, 1e-10));
  CHECK(test::near(e.nuxy, 0.3, 1e-10));
  const auto bent = in_bending(k, 0.25, 0.125);
  CHECK(test::near(bent.Ex, 135000, 1e-10));
  const Stiffness u = stiffness(stack("[0/90]"), 0.0);
  CHECK(in_plane_constrained(u, 0.25).Ex > 1.1 * in_plane(u, 0.25, 0.125).Ex);
  // They do not depend on where the mesh lies.
  const Stiffness v = stiffness(stack("[0/90]"), -7.0);
  CHECK(test::near(in_plane(v, 0.25, -7.0 + 0.125).Ex, in_plane(u, 0.25, 0.125).Ex, 1e-9));
  CHECK(test::near(in_bending(v, 0.25, -7.0 + 0.125).Gxy, in_bending(u, 0.25, 0.125).Gxy, 1e-9));
}

TEST_CASE("an empty stack and a layer without thickness are refused") {
  CHECK_THROWS_AS(stiffness({}, 0), std::invalid_argument);
  auto layers = stack("[0/90]");
  layers[1].thickness = 0;
  CHECK_THROWS_WITH(stiffness(layers, 0), "a layer has thickness 0; it must be positive");
  layers[1].thickness = std::nan("");
  CHECK_THROWS_AS(stiffness(layers, 0), std::invalid_argument);
}

TEST_CASE("stiffness against direction is that of the same laminate turned the other way") {
  Random random;
  for (int n = 0; n < 20; ++n) {
    const std::vector<Layer> layers = random.stack(1 + n % 5);
    const double h = thickness(layers), z0 = random(-1, 1);
    const auto all = against_direction(stiffness(layers, z0), h, z0 + 0.5 * h, 24);
    REQUIRE(all.size() == 24);
    for (const AlongDirection& at : all) {
      std::vector<Layer> turned = layers;
      for (Layer& layer : turned) layer.angle = layer.angle - at.direction;
      const Stiffness k = stiffness(turned, z0);
      CHECK(test::near(at.in_plane, in_plane(k, h, z0 + 0.5 * h).Ex, 1e-8));
      CHECK(test::near(at.shear, in_plane(k, h, z0 + 0.5 * h).Gxy, 1e-8));
      CHECK(test::near(at.in_plane_held, in_plane_constrained(k, h).Ex, 1e-8));
      CHECK(test::near(at.in_bending, in_bending(k, h, z0 + 0.5 * h).Ex, 1e-8));
    }
  }
}

TEST_CASE("the compliance undoes the stiffness, coupling included") {
  Random random;
  for (int n = 0; n < 20; ++n) {
    const std::vector<Layer> layers = random.stack(2 + n % 4);
    const Stiffness k = stiffness(layers, random(-1, 1));
    const Compliance c = compliance(k);
    const Eigen::Matrix3d strain = c.a * k.A + c.b * k.B, none = c.a * k.B + c.b * k.D;
    check_near(strain, Eigen::Matrix3d::Identity(), 1e-8);
    CHECK(none.norm() < 1e-8 * thickness(layers));
    check_near(c.b.transpose() * k.B + c.d * k.D, Eigen::Matrix3d::Identity(), 1e-8);
  }
}

TEST_CASE("strains turned: stretch along 45 degrees is seen as it is, work is the same in all axes, and back is back") {
  // Stretched by e along 45 degrees alone: ex = ey = e / 2, gxy = e (Mohr's circle).
  const Vector3 stretched = strains_to(Angle::degrees(45)) * Vector3(0.5e-3, 0.5e-3, 1e-3);
  CHECK(test::near(stretched[0], 1e-3));
  CHECK(test::near(stretched[1], 0.0, 1e-12, 1e-3));
  CHECK(test::near(stretched[2], 0.0, 1e-12, 1e-3));
  CHECK(strains_to(Angle::degrees(90)) * Vector3(1, 2, 3) == Vector3(2, 1, -3));
  Random random;
  for (int k = 0; k < 100; ++k) {
    const Angle angle = Angle::degrees(random(-180, 180));
    const Vector3 strain(random(-1, 1), random(-1, 1), random(-1, 1)),
        turned = strains_to(angle) * strain, stress(random(-1, 1), random(-1, 1), random(-1, 1));
    const Vector3 back = strains_to(angle).transpose() * stress;  // of the turned axes, seen from the first
    CHECK(test::near(stress.dot(turned), back.dot(strain), 1e-12, 1.0));
    CHECK((strains_to(-angle) * turned - strain).norm() < 1e-12);
  }
}

TEST_CASE("six equations whose rows are powers of ten apart are solved, and undone") {
  Random random;
  for (int k = 0; k < 50; ++k) {
    const material::Matrix6 stiffness = laminate::stiffness(stack("[0/45/90]s", 0.125), random(-3, 3)).ABD();
    material::Vector6 load;
    for (int i = 0; i < 6; ++i) load[i] = random(-1, 1);
    CHECK((stiffness * laminate::solve(stiffness, load) - load).norm() < 1e-10);
    CHECK((laminate::inverse(stiffness) * load - laminate::solve(stiffness, load)).norm() <
          1e-10 * laminate::solve(stiffness, load).norm());
  }
}

TEST_CASE("shear through the thickness keeps its sign whichever way the fibre is run along") {
  // The same ply at -45 and at 135: its axes 1 and 2 both point the other way, and so do the stresses 13 and 23.
  const auto states = [](double degrees) {
    const std::vector<laminate::Layer> stack = {{test::carbon(), 0.5, Angle::degrees(0), {}},
                                                {test::carbon(), 0.5, Angle::degrees(degrees), {}},
                                                {test::carbon(), 0.5, Angle::degrees(0), {}}};
    const laminate::Load load{.Q = {3.0, -2.0}};
    return laminate::layer_states(stack, -0.75, laminate::deformation(stack, -0.75, load), load);
  };
  const auto one = states(-45), other = states(135);
  const laminate::LayerState &a = one[4], &b = other[4];  // the middle of the middle ply
  CHECK((a.ply_shear + b.ply_shear).norm() < 1e-12 * a.ply_shear.norm());
  CHECK(a.ply_shear.norm() > 0.1);
  CHECK((a.ply_stress - b.ply_stress).norm() < 1e-12);
  // Back in the reference axes they are one.
  for (const auto& [s, degrees] : {std::pair{a, -45.0}, std::pair{b, 135.0}}) {
    const double c = std::cos(degrees * 3.14159265358979 / 180), sn = std::sin(degrees * 3.14159265358979 / 180);
    CHECK(c * s.ply_shear[0] - sn * s.ply_shear[1] > 0.0);  // along x with Qx
  }
}

}  // namespace of_laminate_theory
