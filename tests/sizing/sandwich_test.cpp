// Faces on their core, against finite elements through the thickness that are written here, closed forms and invariants.
#include "support.hpp"

#include <bordado/base/files.hpp>
#include <bordado/sandwich.hpp>
#include <bordado/strength.hpp>

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/LU>

#include <cmath>
#include <numbers>
#include <random>
#include <sstream>

namespace of_sizing_sandwich {

using namespace bordado;
using namespace bordado::sizing;
using test::near;

namespace {

constexpr double pi = std::numbers::pi;

/// Layers and their materials: bottom face, core, top face.
struct Given {
  std::vector<laminate::Layer> layers;
  std::vector<material::Material> materials;
  void add(material::Kind kind, const material::Elastic& elastic, double thickness, double degrees) {
    material::Material m;
    m.kind = kind;
    m.elastic = elastic;
    materials.push_back(m);
    layers.push_back({elastic, thickness, Angle::degrees(degrees), 1e-9});
  }
  Sandwich sandwich() const {
    std::vector<const material::Material*> pointers;
    for (const material::Material& m : materials) pointers.push_back(&m);
    return sandwich_of(layers, pointers).value();
  }
};

Given foam_core(double face_E, double face_t, double core_E, double nu, double core_t) {
  Given out;
  const auto face = material::isotropic(face_E, 0.3);
  out.add(material::Kind::isotropic, face, face_t, 0);
  out.add(material::Kind::foam, material::isotropic(core_E, nu), core_t, 0);
  out.add(material::Kind::isotropic, face, face_t, 0);
  return out;
}

struct Random {
  std::mt19937 engine{29};
  double operator()(double low, double high) { return std::uniform_real_distribution<double>(low, high)(engine); }
  material::Elastic core() {
    material::Elastic out;
    out.E1 = (*this)(1, 200), out.E2 = (*this)(1, 200), out.E3 = (*this)(40, 400);
    out.nu12 = (*this)(0, 0.3), out.nu13 = 0.05 * (*this)(0, 1), out.nu23 = 0.05 * (*this)(0, 1);
    out.G12 = (*this)(1, 50), out.G13 = (*this)(10, 80), out.G23 = (*this)(10, 80);
    return out;
  }
  Given given() {
    Given out;
    const auto face = [&] {
      const int plies = 1 + static_cast<int>(engine() % 3);
      for (int i = 0; i < plies; ++i)
        out.add(material::Kind::unidirectional, test::carbon(), (*this)(0.1, 0.4), (*this)(-90, 90));
    };
    face();
    out.add(material::Kind::honeycomb, core(), (*this)(3, 40), (*this)(-90, 90));
    face();
    return out;
  }
  FaceForces forces() {
    FaceForces out;
    for (Vector3* const face : {&out.bottom, &out.top})
      for (double& value : *face) value = (*this)(-1, 0.5);
    return out;
  }
};

double push(const Vector3& N, double direction) {
  const double c = std::cos(direction), s = std::sin(direction);
  return -(c * c * N[0] + s * s * N[1] + 2 * c * s * N[2]);
}

/// The same wave by finite elements: u, v, w of second order through the core, faces by the energy of each of their layers, at
/// Gauss places. The least factor above nought.
double by_elements(const Given& given, const FaceForces& forces, double direction, double half_wave, int elements) {
  std::size_t core = 0;
  while (!material::is_core(given.materials[core].kind)) ++core;
  const double k = pi / half_wave, c = given.layers[core].thickness;
  const auto size = static_cast<Eigen::Index>(3 * (2 * elements + 1));
  Eigen::MatrixXd K = Eigen::MatrixXd::Zero(size, size);
  const double places[3] = {-std::sqrt(0.6), 0.0, std::sqrt(0.6)}, weights[3] = {5.0 / 9, 8.0 / 9, 5.0 / 9};
  // Axes of the wave, seen from the core's.
  const double turn = direction - given.layers[core].angle.degrees() * pi / 180.0;
  Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();
  axes.topLeftCorner<2, 2>() << std::cos(turn), -std::sin(turn), std::sin(turn), std::cos(turn);
  const material::Matrix6 C = material::turned(material::stiffness(given.layers[core].elastic), axes);
  const double length = c / elements;
  for (int e = 0; e < elements; ++e)
    for (int q = 0; q < 3; ++q) {
      const double x = places[q];
      const double N[3] = {0.5 * x * (x - 1), 1 - x * x, 0.5 * x * (x + 1)};
      const double slope[3] = {(x - 0.5) * 2 / length, -4 * x / length, (x + 0.5) * 2 / length};
      Eigen::MatrixXd B = Eigen::MatrixXd::Zero(6, 9);  // 11 22 33 23 13 12
      for (int i = 0; i < 3; ++i) {
        B(0, 3 * i) = -k * N[i];
        B(5, 3 * i + 1) = -k * N[i];
        B(2, 3 * i + 2) = slope[i];
        B(3, 3 * i + 1) = slope[i];
        B(4, 3 * i) = slope[i];
        B(4, 3 * i + 2) = k * N[i];
      }
      K.block(6 * e, 6 * e, 9, 9) += 0.5 * length * weights[q] * B.transpose() * C * B;
    }
  const auto face = [&](std::size_t first, std::size_t last, Eigen::Index at, double z) {
    for (std::size_t i = first; i < last; ++i) {
      const laminate::Layer& layer = given.layers[i];
      const Matrix3 Q = laminate::rotated(laminate::plane_stress_stiffness(layer.elastic),
                                          Angle::degrees(layer.angle.degrees() - direction * 180.0 / pi));
      for (int q = 0; q < 3; ++q) {
        const double height = z + layer.thickness * 0.5 * (1 + places[q]);
        Eigen::Matrix3d B = Eigen::Matrix3d::Zero();
        B(0, 0) = -k, B(0, 2) = height * k * k, B(2, 1) = -k;
        K.block(at, at, 3, 3) += 0.5 * layer.thickness * weights[q] * B.transpose() * Q * B;
      }
      z += layer.thickness;
    }
  };
  double below = 0.0;
  for (std::size_t i = 0; i < core; ++i) below += given.layers[i].thickness;
  face(0, core, 0, -below);
  face(core + 1, given.layers.size(), size - 3, 0.0);
  Eigen::MatrixXd G = Eigen::MatrixXd::Zero(size, size);
  G(2, 2) = push(forces.bottom, direction) * k * k;
  G(size - 1, size - 1) = push(forces.top, direction) * k * k;
  const Eigen::MatrixXd flexible = K.ldlt().solve(G);
  const Eigen::Matrix2d both =
      (Eigen::Matrix2d() << flexible(2, 2), flexible(2, size - 1), flexible(size - 1, 2), flexible(size - 1, size - 1))
          .finished();
  return 1.0 / both.eigenvalues().real().maxCoeff();
}

}  // namespace

TEST_CASE("waves of any faces on any core, in any direction: as finite elements through the thickness have them") {
  Random random;
  int counted = 0;
  for (int i = 0; i < 60; ++i) {
    const Given given = random.given();
    const FaceForces forces = random.forces();
    const double direction = random(-pi, pi), half_wave = std::exp(random(std::log(2.0), std::log(300.0)));
    const auto wave = face_wave(given.sandwich(), forces, direction, half_wave);
    CAPTURE(i);
    CHECK(wave.has_value() == (std::max(push(forces.bottom, direction), push(forces.top, direction)) > 0.0));
    if (!wave) continue;
    ++counted;
    CHECK(near(wave->factor, by_elements(given, forces, direction, half_wave, 60), 1e-5));
    CHECK(near(std::max(std::abs(wave->bottom), std::abs(wave->top)), 1.0, 1e-12));
  }
  CHECK(counted > 30);
}

TEST_CASE("what faces carry is the sum of their layers' stress, stretched and bent, wherever z is counted from") {
  Random random;
  for (int i = 0; i < 20; ++i) {
    const Given given = random.given();
    laminate::Deformation deformation;
    for (double& value : deformation.strain) value = random(-1e-3, 1e-3);
    for (double& value : deformation.curvature) value = random(-1e-3, 1e-3);
    const double z0 = random(-30, 10);
    FaceForces summed;
    bool above = false;
    double z = z0;
    for (std::size_t k = 0; k < given.layers.size(); ++k) {
      const laminate::Layer& layer = given.layers[k];
      const double middle = z + 0.5 * layer.thickness;
      z += layer.thickness;
      if (material::is_core(given.materials[k].kind)) {
        above = true;
        continue;
      }
      const Matrix3 Q = laminate::rotated(laminate::plane_stress_stiffness(layer.elastic), layer.angle);
      (above ? summed.top : summed.bottom) +=
          layer.thickness * Q * (deformation.strain + middle * deformation.curvature);
    }
    const FaceForces found = face_forces(given.sandwich(), deformation, z0);
    CAPTURE(i);
    CHECK((found.bottom - summed.bottom).norm() < 1e-10 * summed.bottom.norm());
    CHECK((found.top - summed.top).norm() < 1e-10 * summed.top.norm());
  }
}

TEST_CASE("thick cores of foam: Gough, Elam and de Bruyne's half space, its half wave too") {
  // They hold the face's neutral plane on the core, and its plane from moving along.
  for (const double nu : {0.0, 0.2, 0.33, 0.45}) {
    Sandwich sandwich = foam_core(70e3, 0.5, 60.0, nu, 500.0).sandwich();
    for (CoveringFace* const face : {&sandwich.bottom, &sandwich.top}) {
      face->about_core.A *= 1e6;
      face->about_core.B.setZero();
      face->about_core.D = face->D;
    }
    FaceForces forces;
    forces.bottom[0] = forces.top[0] = -1.0;
    const double D = sandwich.top.D(0, 0), a = 2.0 * 60.0 * (1.0 - nu) / ((1.0 + nu) * (3.0 - 4.0 * nu));
    const auto wave = least_face_wave(sandwich, forces, 400.0, FaceMotion::mirrored);
    REQUIRE(wave);
    CHECK(!wave->longest);
    CHECK(near(wave->factor, 3.0 * std::cbrt(0.25 * D * a * a), 1e-4));
    CHECK(near(wave->half_wave, pi / std::cbrt(0.5 * a / D), 1e-2));
    // The book's formula has plane stress: nu / (1 - nu) in its place makes this of it.
    const double flat = nu / (1.0 - nu);
    sandwich.poisson = flat;
    for (const FormulaAnswer& answer : wrinkling_formulas(sandwich, sandwich.top, 0.0))
      if (answer.formula == WrinklingFormula::half_space) {
        const double E_flat = 60.0 / (1.0 - nu * nu);
        CHECK(near(answer.force * std::cbrt(E_flat * E_flat / 3600.0), wave->factor, 1e-4));
        CHECK(answer.in_range);
      }
  }
}

TEST_CASE("cores without stiffness in their plane: springs for mirrored faces, bending with shear for alike ones") {
  Random random;
  for (int i = 0; i < 10; ++i) {
    const double t = random(0.3, 1.5), c = random(5, 30), E = 70e3, G = random(5, 60);
    Sandwich sandwich = foam_core(E, t, 100.0, 0.3, c).sandwich();
    FaceForces forces;
    forces.bottom[0] = forces.top[0] = -1.0;
    const double plane = E / (1.0 - 0.09), D = plane * t * t * t / 12.0;
    CAPTURE(i);
    // Shear so soft that only what lies between counts: each face on springs of 2 Ez / c.
    sandwich.core.setZero();
    sandwich.core.diagonal() << 1e-7, 1e-7, 90.0, 1e-6, 1e-6, 1e-7;
    const auto springs = least_face_wave(sandwich, forces, 400.0, FaceMotion::mirrored);
    REQUIRE(springs);
    CHECK(near(springs->factor, 2.0 * std::sqrt(D * 180.0 / c), 1e-4));
    CHECK(near(springs->half_wave, pi * std::pow(D * c / 180.0, 0.25), 1e-2));
    // A core that does not thin: H. G. Allen's thick faces, sections 8.1 and 2.4.
    sandwich.core.diagonal() << 1e-7, 1e-7, 1e8, G, G, 1e-7;
    for (const double half_wave : {20.0, 60.0, 200.0}) {
      const double k = pi / half_wave, d = c + t, A = plane * t;
      const double both = 2.0 * D * k * k + 0.5 * A * d * d * k * k / (1.0 + 0.5 * A * c / G * k * k);
      const auto alike = face_wave(sandwich, forces, 0.0, half_wave, FaceMotion::alike);
      REQUIRE(alike);
      CHECK(near(alike->factor, 0.5 * both, 1e-5));
      // As they like, they move so, too: nothing else is as soft.
      const auto any = face_wave(sandwich, forces, 0.0, half_wave);
      CHECK(near(any.value().factor, alike->factor, 1e-5));
      CHECK(near(any.value().bottom, any.value().top, 1e-3));
    }
  }
}

TEST_CASE("a sandwich that is larger, turned, turned over or stiffer: waves follow") {
  Random random;
  for (int i = 0; i < 6; ++i) {
    const Given given = random.given();
    FaceForces forces = random.forces();
    forces.bottom[0] = forces.top[0] = -1.0;
    const auto least = least_face_wave(given.sandwich(), forces, 200.0);
    CAPTURE(i);
    REQUIRE(least);
    CHECK(near(face_wave(given.sandwich(), forces, least->direction, least->half_wave)->factor, least->factor, 1e-12));
    // Nothing near is below.
    if (!least->longest)
      for (const double more : {-0.05, 0.05}) {
        CHECK(face_wave(given.sandwich(), forces, least->direction + more, least->half_wave)->factor >=
              least->factor * (1 - 1e-6));
        CHECK(face_wave(given.sandwich(), forces, least->direction, least->half_wave * (1 + more))->factor >=
              least->factor * (1 - 1e-9));
      }
    Given larger = given;
    for (laminate::Layer& layer : larger.layers) layer.thickness *= 3.0;
    CHECK(near(least_face_wave(larger.sandwich(), forces, 600.0)->factor, 3.0 * least->factor, 1e-6));
    Given turned = given;
    for (laminate::Layer& layer : turned.layers) layer.angle = Angle::degrees(layer.angle.degrees() + 30.0);
    const Matrix3 along = laminate::strains_to(std::cos(pi / 6), std::sin(pi / 6)).transpose();
    const FaceForces moved{along * forces.bottom, along * forces.top};
    const auto again = least_face_wave(turned.sandwich(), moved, 200.0);
    CHECK(near(again.value().factor, least->factor, 1e-4));
    if (!least->longest) CHECK(std::abs(std::remainder(again->direction - least->direction - pi / 6, pi)) < 0.02);
    Given over;  // y to -y, z to -z
    for (std::size_t k = given.layers.size(); k-- > 0;)
      over.add(given.materials[k].kind, given.layers[k].elastic, given.layers[k].thickness,
               -given.layers[k].angle.degrees());
    const auto mirrored = [](const Vector3& N) { return Vector3(N[0], N[1], -N[2]); };
    CHECK(near(least_face_wave(over.sandwich(), {mirrored(forces.top), mirrored(forces.bottom)}, 200.0)->factor,
               least->factor, 1e-4));
    Sandwich stiffer = given.sandwich();
    stiffer.core *= 1.3;
    CHECK(least_face_wave(stiffer, forces, 200.0)->factor >= least->factor * (1 - 1e-9));
    FaceForces doubled{2.0 * forces.bottom, 2.0 * forces.top};
    CHECK(near(least_face_wave(given.sandwich(), doubled, 200.0)->factor, 0.5 * least->factor, 1e-9));
    CHECK(!least_face_wave(given.sandwich(), {Vector3(1, 1, 0), Vector3(2, 1, 0)}, 200.0));
  }
}

TEST_CASE("what the formulas say, in figures worked out by hand") {
  // Ef 70000, t 1, D = 70000 / 0.91 / 12; Ez 70, G 26.923: Ef t³ is 76923.
  const Sandwich thick = foam_core(70e3, 1.0, 70.0, 0.3, 60.0).sandwich(),
                 thin = foam_core(70e3, 1.0, 70.0, 0.3, 10.0).sandwich();
  const auto of = [](const Sandwich& sandwich, WrinklingFormula formula) {
    for (const FormulaAnswer& answer : wrinkling_formulas(sandwich, sandwich.top, 0.0))
      if (answer.formula == formula) return answer;
    FAIL("no such formula");
    return FormulaAnswer{};
  };
  CHECK(near(of(thick, WrinklingFormula::mirrored_thick).force, 478.0, 1e-3));
  CHECK(near(of(thick, WrinklingFormula::advised).force, 262.7, 1e-3));
  CHECK(near(of(thick, WrinklingFormula::half_space).force, 409.8, 1e-3));
  CHECK(near(of(thin, WrinklingFormula::mirrored_thin).force, 0.817 * 733.8 + 0.166 * 269.2, 1e-3));
  CHECK(near(of(thin, WrinklingFormula::alike_thin).force, 0.59 * 733.8 + 0.387 * 269.2, 1e-3));
  CHECK(near(of(thin, WrinklingFormula::springs).force, 599.1, 1e-3));
  CHECK(of(thick, WrinklingFormula::mirrored_thick).in_range);
  CHECK(!of(thick, WrinklingFormula::mirrored_thin).in_range);
  CHECK(of(thin, WrinklingFormula::alike_thin).in_range);
  CHECK(!of(thin, WrinklingFormula::advised).in_range);
  // One place: the criterion of a laminate is the advised one.
  const Given given = foam_core(70e3, 1.0, 70.0, 0.3, 60.0);
  std::vector<const material::Material*> materials;
  for (const material::Material& m : given.materials) materials.push_back(&m);
  for (const laminate::Face& face : laminate::faces_of(given.layers, materials))
    CHECK(near(face.wrinkles(0.0), of(thick, WrinklingFormula::advised).force, 1e-3));
}

TEST_CASE("a small load on a face: Westergaard's on springs, all of it through a face that does not bend") {
  Sandwich sandwich = foam_core(70e3, 1.0, 70.0, 0.3, 15.0).sandwich();
  sandwich.core.setZero();
  sandwich.core.diagonal() << 1e-7, 1e-7, 90.0, 1e-6, 1e-6, 1e-7;
  const double springs = 90.0 / 15.0, D = sandwich.top.D(0, 0), reach = std::pow(D / springs, 0.25);
  for (const FaceSide side : {FaceSide::bottom, FaceSide::top}) {
    const Indentation small = indentation(sandwich, side, 0.03 * reach);
    CHECK(near(small.depth, 1.0 / (8.0 * std::sqrt(springs * D)), 3e-3));
    CHECK(near(small.core_stress, std::sqrt(springs / D) / 8.0, 3e-3));
  }
  // A patch that is wide beside the face's reach presses what lies below it and no more.
  const double wide = 40.0 * reach;
  CHECK(near(indentation(sandwich, FaceSide::top, wide).core_stress, 1.0 / (pi * wide * wide), 1e-2));
  // A solid core spreads the load: less than what lies on springs of the same height.
  const Sandwich solid = foam_core(70e3, 1.0, 70.0, 0.3, 15.0).sandwich();
  const Indentation told = indentation(solid, FaceSide::top, 5.0);
  CHECK(told.core_stress > 0.0);
  CHECK(told.core_stress < 1.0 / (pi * 25.0));
  CHECK(near(indentation(solid, FaceSide::bottom, 5.0).core_stress, told.core_stress, 1e-9));
}

TEST_CASE("docs/sizing.md: when which formula lies, computed again") {
  std::istringstream page(read_file(test::source("docs/sizing.md")));
  std::string line;
  int rows = 0;
  bool in_table = false;
  std::vector<WrinklingFormula> formulas;
  while (std::getline(page, line)) {
    std::vector<std::string> cells;
    std::istringstream parts(line);
    for (std::string cell; std::getline(parts, cell, '|');) {
      while (cell.starts_with(' ')) cell.erase(0, 1);
      while (cell.ends_with(' ')) cell.pop_back();
      cells.push_back(cell);
    }
    if (line.starts_with("| core |")) {
      in_table = true;
      for (std::size_t k = 6; k < cells.size(); ++k)
        for (std::size_t f = 0; f < wrinkling_formula_count; ++f)
          if (cells[k] == name_of(static_cast<WrinklingFormula>(f)))
            formulas.push_back(static_cast<WrinklingFormula>(f));
      REQUIRE(formulas.size() == cells.size() - 6);
      continue;
    }
    if (!in_table || line.starts_with("|---")) continue;
    if (!line.starts_with("|")) {
      in_table = false;
      continue;
    }
    ++rows;
    INFO(line);
    const double core_E = std::stod(cells.at(2)), c = std::stod(cells.at(3));
    Sandwich sandwich = foam_core(1.0, 1.0, core_E, 0.3, c).sandwich();
    if (cells[1] == "honeycomb") {
      sandwich.core.setZero();
      sandwich.core.diagonal() << 1e-4 * core_E, 1e-4 * core_E, core_E, 0.25 * core_E, 0.25 * core_E, 1e-4 * core_E;
      sandwich.poisson.reset();
      sandwich.cell = 1.0;
    }
    FaceForces forces;
    forces.bottom[0] = forces.top[0] = -1.0;
    const auto own = [&](FaceMotion motion) {
      const auto wave = least_face_wave(sandwich, forces, 40.0 * (c + 2.0), motion);
      return wave && !wave->longest ? wave->factor : 1e300;
    };
    const double mirrored = own(FaceMotion::mirrored), alike = own(FaceMotion::alike),
                 exact = std::min(mirrored, alike);
    CHECK(near(std::stod(cells.at(4)), 1e4 * exact, 6e-3));
    CHECK(cells.at(5) == (std::abs(mirrored - alike) < 5e-3 * exact ? "either"
                          : mirrored < alike                        ? "mirrored"
                                                                    : "alike"));
    for (std::size_t k = 0; k < formulas.size(); ++k) {
      std::string said = cells.at(6 + k), wanted = "-";
      for (const FormulaAnswer& answer : wrinkling_formulas(sandwich, sandwich.top, 0.0))
        if (answer.formula == formulas[k])
          wanted = answer.in_range ? fmt::format("{:.2f}", answer.force / exact)
                                   : fmt::format("({:.2f})", answer.force / exact);
      CHECK(said == wanted);
    }
  }
  CHECK(rows >= 20);
}

TEST_CASE("what is no sandwich, and what are no numbers") {
  Given plain;
  plain.add(material::Kind::unidirectional, test::carbon(), 1.0, 0);
  const std::vector<const material::Material*> one{&plain.materials[0]};
  CHECK(!sandwich_of(plain.layers, one));
  Given two = foam_core(70e3, 1.0, 70.0, 0.3, 15.0);
  two.add(material::Kind::foam, material::isotropic(70, 0.3), 5.0, 0);
  std::vector<const material::Material*> pointers;
  for (const material::Material& m : two.materials) pointers.push_back(&m);
  CHECK(!sandwich_of(two.layers, pointers));
  const Sandwich good = foam_core(70e3, 1.0, 70.0, 0.3, 15.0).sandwich();
  FaceForces forces;
  forces.top[0] = -1.0;
  CHECK_THROWS_AS(face_wave(good, forces, 0.0, 0.0), std::invalid_argument);
  CHECK_THROWS_AS(face_wave(good, forces, std::nan(""), 1.0), std::invalid_argument);
  CHECK_THROWS_AS(least_face_wave(good, forces, -1.0), std::invalid_argument);
  CHECK_THROWS_AS(indentation(good, FaceSide::top, 0.0), std::invalid_argument);
  forces.top[0] = std::nan("");
  CHECK_THROWS_AS(face_wave(good, forces, 0.0, 1.0), std::invalid_argument);
}

}  // namespace of_sizing_sandwich
