#include <bordado/base/files.hpp>
#include <bordado/inclusions.hpp>

#include <fmt/format.h>
#include <Eigen/LU>

#include <algorithm>
#include <cmath>
#include <stdexcept>

namespace bordado::material {

std::string_view name_of(Theory theory) {
  switch (theory) {
    case Theory::halpin_tsai:
      return "halpin-tsai";
    case Theory::cylinder_assemblage:
      return "cylinder-assemblage";
    case Theory::mori_tanaka:
      break;
  }
  return "mori-tanaka";
}

namespace {

/// A transversely isotropic phase by the five constants that formulas for parallel fibres use.
struct Phase {
  double E, nu, G, k, g;  ///< along: E1, nu12, G12; across: plane-strain bulk modulus k23 and G23

  explicit Phase(const Elastic& m)
      : E(m.E1), nu(m.nu12), G(m.G12), k(1.0 / (4.0 / m.E2 - 1.0 / m.G23 - 4.0 * m.nu12 * m.nu12 / m.E1)), g(m.G23) {}
};

Elastic from_phase(double E, double nu, double G, double k, double g) {
  const double E2 = 4.0 / (1.0 / g + 1.0 / k + 4.0 * nu * nu / E);
  return transversely_isotropic(E, E2, nu, G, E2 / (2.0 * g) - 1.0, g);
}

/// m + vf (f - m) / (1 + vm (f - m) / divisor): the shape of all lower bounds.
double bounded(double f, double m, double vf, double divisor) {
  return m + vf * (f - m) / (1.0 + (1.0 - vf) * (f - m) / divisor);
}

/// The interpolation of J. C. Halpin and S. W. Tsai.
double halpin_tsai(double f, double m, double vf, double xi) {
  const double eta = (f / m - 1.0) / (f / m + xi);
  return m * (1.0 + xi * eta * vf) / (1.0 - eta * vf);
}

/// Transverse shear modulus of the three-phase model (Christensen and Lo 1979, eqs. 4.11 ff., with 3 - 4 nu written as
/// 1 + 2 g / k so that transversely isotropic fibres are covered).
double three_phase(const Phase& f, const Phase& m, double c) {
  const double y = f.g / m.g, ef = 1.0 + 2.0 * f.g / f.k, em = 1.0 + 2.0 * m.g / m.k, c3 = c * c * c;
  const double first = 3.0 * c * (1.0 - c) * (1.0 - c) * (y - 1.0) * (y + ef);
  const double A = first + (y * em + ef * em - (y * em - ef) * c3) * (c * em * (y - 1.0) - (y * em + 1.0));
  const double B = -first + 0.5 * (y * em + (y - 1.0) * c + 1.0) * ((em - 1.0) * (y + ef) - 2.0 * (y * em - ef) * c3) +
                   0.5 * c * (em + 1.0) * (y - 1.0) * (y + ef + (y * em - ef) * c3);
  const double C = first + (y * em + (y - 1.0) * c + 1.0) * (y + ef + (y * em - ef) * c3);
  return m.g * (-B - std::sqrt(B * B - A * C)) / A;  // A < 0 < C: the positive root
}

}  // namespace

Elastic porous(const Elastic& matrix, double porosity) {
  if (porosity == 0.0) return matrix;
  const double K = matrix.E1 / (3.0 * (1.0 - 2.0 * matrix.nu12)), G = matrix.G12, c = porosity;
  const double around = G * (9.0 * K + 8.0 * G) / (6.0 * (K + 2.0 * G));
  const double K_left = K - c * K / (1.0 - (1.0 - c) * K / (K + 4.0 / 3.0 * G));
  const double G_left = G - c * G / (1.0 - (1.0 - c) * G / (G + around));
  const double E = 9.0 * K_left * G_left / (3.0 * K_left + G_left);
  return isotropic(E, E / (2.0 * G_left) - 1.0);
}

Elastic mixed(Theory theory, const Elastic& fibre, const Elastic& matrix, double vf) {
  const Phase f(fibre), m(matrix);
  const double vm = 1.0 - vf;
  if (theory == Theory::halpin_tsai) {
    const double E2 = halpin_tsai(fibre.E2, matrix.E2, vf, 2.0);
    const double E1 = vf * f.E + vm * m.E, nu12 = vf * f.nu + vm * m.nu, held = nu12 * m.E / E1;
    const double nu23 = vf * fibre.nu23 + vm * m.nu * (1.0 + m.nu - held) / (1.0 - m.nu * m.nu + m.nu * held);
    const double xi = (m.k / m.g) / (m.k / m.g + 2.0);
    const double G23 = std::max(E2 / (2.0 * (1.0 + nu23)), halpin_tsai(f.g, m.g, vf, xi));
    return transversely_isotropic(E1, E2, nu12, halpin_tsai(f.G, m.G, vf, 1.0), E2 / (2.0 * G23) - 1.0, G23);
  }
  const double squeeze = vm / f.k + vf / m.k + 1.0 / m.g;
  const double E = vm * m.E + vf * f.E + 4.0 * (f.nu - m.nu) * (f.nu - m.nu) * vm * vf / squeeze;
  const double nu = vm * m.nu + vf * f.nu + (f.nu - m.nu) * (1.0 / m.k - 1.0 / f.k) * vm * vf / squeeze;
  const double k = bounded(f.k, m.k, vf, m.k + m.g), G = bounded(f.G, m.G, vf, 2.0 * m.G);
  const double g = theory == Theory::cylinder_assemblage
                       ? three_phase(f, m, vf)
                       : bounded(f.g, m.g, vf, 2.0 * m.g * (m.k + m.g) / (m.k + 2.0 * m.g));
  return from_phase(E, nu, G, k, g);
}

namespace {

/// Strain along and across of two phases of which each has its own free strain (Rosen and Hashin 1970, eq. 2.21), by
/// (along, sqrt 2 across) so that the compliances stay symmetric.
Expansion mixed_expansion(const Elastic& fibre, const Elastic& matrix, const Elastic& whole, double vf,
                          const Expansion& of_fibre, const Expansion& of_matrix) {
  using Eigen::Matrix2d;
  using Eigen::Vector2d;
  const double root = std::sqrt(2.0);
  const auto two = [&](const Elastic& m) {
    const Matrix6 S = compliance(m);
    Matrix2d out;
    out << S(0, 0), root * S(0, 1), root * S(0, 1), S(1, 1) + S(1, 2);
    return out;
  };
  const auto free = [&](const Expansion& e) { return Vector2d(e.all()[0], root * e.all()[1]); };
  const Matrix2d Sf = two(fibre), Sm = two(matrix), mean = vf * Sf + (1.0 - vf) * Sm;
  const Vector2d af = free(of_fibre), am = free(of_matrix);
  // Phases that do not differ, or not in one direction, leave the second term undefined there: it is nought then.
  Eigen::Matrix3d difference = Eigen::Matrix3d::Zero();
  difference.topLeftCorner<2, 2>() = Sf - Sm;
  const Principal own = principal(difference);
  const double least = 1e-9 * own.values.cwiseAbs().maxCoeff();
  Vector2d over = Vector2d::Zero();
  for (int k = 0; k < 3; ++k) {
    const Vector2d axis = own.axes.col(k).head<2>();
    if (std::abs(own.values[k]) > least) over += axis.dot(af - am) / own.values[k] * axis;
  }
  const Vector2d out = vf * af + (1.0 - vf) * am + (two(whole) - mean) * over;
  return {out[0], out[1] / root, out[1] / root};
}

bool given(const Expansion& e) { return e.along || e.across || e.through; }

void keep(std::optional<double>& mine, const std::optional<double>& computed) {
  if (!mine) mine = computed;
}
void keep(Expansion& mine, const Expansion& computed) {
  if (!given(mine)) mine = computed;
}

}  // namespace

Material unidirectional(const Material& fibre, const Material& matrix, const Mix& mix, Material form) {
  const double vf = mix.fibre_volume;
  if (!(vf >= 0.0 && vf < 1.0))
    throw std::invalid_argument(fmt::format("the fibre volume is {:g}; it lies between 0 and 1", vf));
  if (!(mix.voids >= 0.0 && mix.voids < 1.0 - vf))
    throw std::invalid_argument(
        fmt::format("voids take {:g} of the volume; they lie between 0 and {:g}", mix.voids, 1.0 - vf));
  if (fibre.kind != Kind::fibre && fibre.kind != Kind::isotropic)
    throw std::invalid_argument(fmt::format("'{}' is {}, not a fibre", fibre.name, name_of(fibre.kind)));
  if (matrix.kind != Kind::resin && matrix.kind != Kind::isotropic)
    throw std::invalid_argument(fmt::format("'{}' is {}, not a resin", matrix.name, name_of(matrix.kind)));
  Material out = std::move(form);
  out.kind = Kind::unidirectional;
  const Elastic around = porous(matrix.elastic, mix.voids / (1.0 - vf));
  if (mix.aspect && !(*mix.aspect >= 1.0 && *mix.aspect <= 1e6))
    throw std::invalid_argument(
        fmt::format("fibres are {:g} times as long as thick; that is 1 and more, a million at most", *mix.aspect));
  if (mix.aspect)
    out.elastic = from_stiffness(in_matrix(stiffness(fibre.elastic), around, vf, {*mix.aspect, 1.0, 1.0}));
  else
    out.elastic = mixed(mix.theory, fibre.elastic, around, vf);
  if (!out.density && fibre.density && matrix.density)
    out.density = vf * *fibre.density + (1.0 - vf - mix.voids) * *matrix.density;
  const auto expand = [&](const Expansion& f, const Expansion& m) {
    return mixed_expansion(fibre.elastic, around, out.elastic, vf, f, m);
  };
  if (given(fibre.thermal) && given(matrix.thermal)) keep(out.thermal, expand(fibre.thermal, matrix.thermal));
  if (given(matrix.moisture) && matrix.density && out.density) {
    // Water goes into the matrix only: per mass of the ply there is that much more in the matrix.
    const double more = *out.density / ((1.0 - vf - mix.voids) * *matrix.density);
    const Vec3 swelling = more * matrix.moisture.all();
    keep(out.moisture, expand({0.0, 0.0, 0.0}, {swelling[0], swelling[1], swelling[2]}));
  }
  keep(out.stress_free_temperature, matrix.stress_free_temperature);
  if (out.form.areal_weight && fibre.density && vf > 0.0)
    keep(out.thickness, *out.form.areal_weight / (*fibre.density * vf));
  out.made_of = fmt::format("{} {:g} % by volume{} in {}{} by {}", fibre.name, 100.0 * vf,
                            mix.aspect ? fmt::format(", {:g} times as long as thick,", *mix.aspect) : "", matrix.name,
                            mix.voids > 0.0 ? fmt::format(" with {:g} % voids", 100.0 * mix.voids) : "",
                            name_of(mix.aspect ? Theory::mori_tanaka : mix.theory));
  return out;
}

Angle steepest(double crimp) {
  if (!(crimp >= 0.0 && crimp < 0.3))
    throw std::invalid_argument(fmt::format("the crimp is {:g}; it lies between 0 and 0.3", crimp));
  const auto excess = [](double slope) {
    double sum = 0.0;
    constexpr int count = 64;
    for (int i = 0; i < count; ++i) {
      const double c = std::cos(2.0 * std::numbers::pi * (i + 0.5) / count);
      sum += std::sqrt(1.0 + slope * slope * c * c) - 1.0;
    }
    return sum / count;
  };
  double low = 0.0, high = 2.0;
  for (int i = 0; i < 60; ++i) (excess(0.5 * (low + high)) < crimp ? low : high) = 0.5 * (low + high);
  return crimp == 0.0 ? Angle() : Angle::radians(std::atan(0.5 * (low + high)));
}

namespace {

Eigen::Matrix3d about_2(double angle) {
  Eigen::Matrix3d R;
  R << std::cos(angle), 0, std::sin(angle), 0, 1, 0, -std::sin(angle), 0, std::cos(angle);
  return R;
}
Eigen::Matrix3d about_3(Angle angle) {
  Eigen::Matrix3d R;
  R << angle.cos(), -angle.sin(), 0, angle.sin(), angle.cos(), 0, 0, 0, 1;
  return R;
}

}  // namespace

Elastic crimped(const Elastic& yarn, double crimp) {
  const double slope = std::tan(steepest(crimp).radians());
  if (slope == 0.0) return yarn;
  const Matrix6 straight = stiffness(yarn);
  Matrix6 sum = Matrix6::Zero();
  constexpr int count = 64;
  for (int i = 0; i < count; ++i) {
    const double angle = std::atan(slope * std::cos(2.0 * std::numbers::pi * (i + 0.5) / count));
    sum += turned(straight, about_2(angle)).inverse() / count;
  }
  return from_stiffness(sum.inverse());
}

namespace {

/// Warp at 0° and weft at an angle, as one material along the warp.
Layered crossed(const Yarns& yarns, Angle between, const Vec3& expansion = Vec3::Zero()) {
  Vector6 along = Vector6::Zero(), across = Vector6::Zero();
  along.head<3>() = expansion;
  const double c = between.cos(), s = between.sin();
  across << c * c * expansion[0] + s * s * expansion[1], s * s * expansion[0] + c * c * expansion[1], expansion[2], 0,
      0, 2 * c * s * (expansion[0] - expansion[1]);
  const LayerShare parts[] = {{stiffness(yarns.warp), yarns.warp_share, along},
                              {turned(stiffness(yarns.weft), about_3(-between)), 1.0 - yarns.warp_share, across}};
  return layered(parts);
}

Expansion expansion_of(const Layered& layers) {
  Expansion e{layers.expansion[0], layers.expansion[1], layers.expansion[2]};
  if (std::abs(layers.expansion[5]) > 1e-12 * layers.expansion.norm()) e.shear = layers.expansion[5];
  return e;
}

}  // namespace

namespace {

/// Elliptic yarns side by side in resin, as one layer.
struct YarnLayer {
  Elastic elastic;
  std::optional<double> density;
  Expansion thermal;
};
YarnLayer layer_of_yarns(const Material& yarn, const Material& between, const Weave& weave) {
  const Matrix6 of_yarn = stiffness(yarn.elastic), of_resin = stiffness(between.elastic);
  const Vec3 section(std::numeric_limits<double>::infinity(), weave.yarn_aspect, 1.0);
  const double share = weave.yarn_volume;
  const Matrix6 whole = in_matrix(of_yarn, between.elastic, share, section);
  YarnLayer out;
  out.elastic = from_stiffness(whole);
  if (yarn.density && between.density) out.density = share * *yarn.density + (1.0 - share) * *between.density;
  if (given(yarn.thermal) && given(between.thermal)) {
    Vector6 own = Vector6::Zero(), resin = Vector6::Zero();
    own.head<3>() = yarn.thermal.all(), resin.head<3>() = between.thermal.all();
    const Vector6 strain = mixed_strain(of_yarn, of_resin, whole, share, own, resin);
    out.thermal = {strain[0], strain[1], strain[2]};
  }
  return out;
}

/// \throws std::invalid_argument.
void check_weave(const Material& yarn, const Weave& weave, const Material* between) {
  if (!(weave.warp_share > 0.0 && weave.warp_share < 1.0))
    throw std::invalid_argument(
        fmt::format("the warp's share of the fibres is {:g}; it lies between 0 and 1", weave.warp_share));
  if (yarn.kind != Kind::unidirectional)
    throw std::invalid_argument(
        fmt::format("'{}' is {}, not the unidirectional material that yarns make", yarn.name, name_of(yarn.kind)));
  if (!(weave.yarn_volume > 0.0 && weave.yarn_volume <= 1.0))
    throw std::invalid_argument(fmt::format(
        "yarns take {:g} of the cloth; they take no more than all of it: fibres lie closer in yarns than in the cloth",
        weave.yarn_volume));
  if (!(weave.yarn_aspect >= 1.0 && weave.yarn_aspect <= 1000.0))
    throw std::invalid_argument(
        fmt::format("yarns are {:g} times as wide as high; that is 1 to 1000", weave.yarn_aspect));
  if (weave.yarn_volume == 1.0) return;
  if (!between) throw std::invalid_argument("there is resin between the yarns, and no 'matrix' says which");
  if (between->kind != Kind::resin && between->kind != Kind::isotropic)
    throw std::invalid_argument(fmt::format("'{}' is {}, not a resin", between->name, name_of(between->kind)));
}

}  // namespace

Material fabric(const Material& yarn, const Weave& weave, Material form, const Material* between) {
  check_weave(yarn, weave, between);
  const bool pockets = weave.yarn_volume < 1.0;
  const YarnLayer layer =
      pockets ? layer_of_yarns(yarn, *between, weave) : YarnLayer{yarn.elastic, yarn.density, yarn.thermal};
  Material out = std::move(form);
  out.kind = Kind::fabric;
  const Elastic wavy = crimped(layer.elastic, weave.crimp);
  out.yarns = Yarns{wavy, wavy, weave.warp_share};
  // How water parts between yarns and what is between them is not known here.
  const bool swells = given(yarn.moisture) && !pockets;
  if (given(layer.thermal)) out.yarns->thermal = layer.thermal.all();
  if (swells) out.yarns->moisture = yarn.moisture.all();
  const Angle rest = Angle::degrees(out.form.rest_angle.value_or(90.0));
  const Layered whole = crossed(*out.yarns, rest, layer.thermal.all());
  out.elastic = from_stiffness(whole.stiffness);
  if (!out.density) out.density = layer.density;
  if (given(layer.thermal)) keep(out.thermal, expansion_of(whole));
  if (swells) keep(out.moisture, expansion_of(crossed(*out.yarns, rest, yarn.moisture.all())));
  keep(out.stress_free_temperature, yarn.stress_free_temperature);
  if (yarn.thickness) keep(out.thickness, *yarn.thickness / weave.yarn_volume);
  const std::string inside = yarn.name == out.name  ? yarn.made_of
                             : yarn.made_of.empty() ? yarn.name
                                                    : fmt::format("{} ({})", yarn.name, yarn.made_of);
  out.made_of = fmt::format("yarns of {}, {:g} % of them warp, crimp {:g} %", inside, 100.0 * weave.warp_share,
                            100.0 * weave.crimp);
  if (pockets)
    out.made_of += fmt::format("; they take {:.4g} % of the cloth, {:g} times as wide as high, {} between them",
                               100.0 * weave.yarn_volume, weave.yarn_aspect, between->name);
  return out;
}

Angle to_diagonal(const Material& cloth, Angle shear) {
  const double between = cloth.form.rest_angle.value_or(90.0) - shear.degrees();
  return Angle::degrees(between <= 90.0 ? 0.5 * between : 0.5 * between - 90.0);
}

std::optional<ShearedCloth> sheared(const Material& material, Angle shear) {
  const double rest = material.form.rest_angle.value_or(90.0), between = rest - shear.degrees();
  if (!(between > 0.0 && between < 180.0)) return std::nullopt;
  ShearedCloth out;
  out.thickness_ratio = Angle::degrees(rest).sin() / Angle::degrees(between).sin();
  const Angle diagonal = to_diagonal(material, shear);
  if (material.yarns) {
    if (const auto& t = material.yarns->thermal)
      out.thermal = expansion_of(crossed(*material.yarns, Angle::degrees(between), *t));
    if (const auto& m = material.yarns->moisture)
      out.moisture = expansion_of(crossed(*material.yarns, Angle::degrees(between), *m));
  }
  if (!material.sheared.empty()) {
    const double amount = std::abs(shear.degrees());
    const auto& rows = material.sheared;
    if (amount < rows.front().shear || amount > rows.back().shear) return std::nullopt;
    const auto above = std::lower_bound(rows.begin(), rows.end(), amount,
                                        [](const Sheared& row, double value) { return row.shear < value; });
    const Sheared& high = *above;
    const Sheared& low = above == rows.begin() ? high : *(above - 1);
    const double t = high.shear > low.shear ? (amount - low.shear) / (high.shear - low.shear) : 0.0;
    const auto between_rows = [&](double Sheared::*value) { return low.*value + t * (high.*value - low.*value); };
    Elastic m = material.elastic;
    m.full.reset();
    m.E1 = between_rows(&Sheared::E1), m.E2 = between_rows(&Sheared::E2);
    m.nu12 = between_rows(&Sheared::nu12), m.G12 = between_rows(&Sheared::G12);
    m.G13 = m.G23 = 0.5 * (m.G13 + m.G23);
    if (not_positive_definite(m)) {  // what the table leaves open must not make it impossible
      m.nu13 = m.nu23 = 0.0;
      if (not_positive_definite(m)) return std::nullopt;
    }
    out.along_diagonal = m;
    out.along_warp = from_stiffness(turned(stiffness(m), about_3(-diagonal)));
    out.measured = true;
    return out;
  }
  if (!material.yarns) return std::nullopt;
  const Matrix6 along_warp = crossed(*material.yarns, Angle::degrees(between)).stiffness;
  out.along_warp = from_stiffness(along_warp);
  out.along_diagonal = from_stiffness(turned(along_warp, about_3(diagonal)));
  return out;
}

}  // namespace bordado::material
