#include <bordado/material.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::material {

std::string_view name_of(Kind kind) {
  switch (kind) {
    case Kind::unidirectional:
      return "unidirectional";
    case Kind::fabric:
      return "fabric";
    case Kind::isotropic:
      return "isotropic";
    case Kind::foam:
      return "foam";
    case Kind::honeycomb:
      return "honeycomb";
    case Kind::orthotropic:
      return "orthotropic";
    case Kind::anisotropic:
      return "anisotropic";
    case Kind::fibre:
      return "fibre";
    case Kind::resin:
      break;
  }
  return "resin";
}

std::optional<Kind> kind_named(std::string_view name) {
  for (const Kind kind : kinds)
    if (name_of(kind) == name) return kind;
  return std::nullopt;
}

bool is_core(Kind kind) { return kind == Kind::foam || kind == Kind::honeycomb; }
bool is_isotropic(Kind kind) { return kind == Kind::isotropic || kind == Kind::foam || kind == Kind::resin; }
bool is_directional(Kind kind) { return !is_isotropic(kind) && kind != Kind::honeycomb; }

Vec3 Expansion::all() const {
  const double first = along.value_or(across.value_or(through.value_or(0.0)));
  const double second = across.value_or(first);
  return {first, second, through.value_or(second)};
}

Expansion turned(const Expansion& expansion, Angle angle) {
  Expansion out = expansion;
  if (!expansion.along && !expansion.across) return out;
  const Vec3 all = expansion.all();
  const double c = angle.cos(), s = angle.sin(), g = expansion.shear.value_or(0.0);
  out.along = c * c * all.x() + s * s * all.y() + c * s * g;
  out.across = s * s * all.x() + c * c * all.y() - c * s * g;
  out.through = all.z();
  const double shearing = 2.0 * c * s * (all.y() - all.x()) + (c * c - s * s) * g;
  out.shear.reset();
  if (std::abs(shearing) > 1e-18) out.shear = shearing;
  return out;
}

bool same(const Material& a, const Material& b) {
  return a.name == b.name && a.mark == b.mark && a.kind == b.kind && a.elastic == b.elastic && a.density == b.density &&
         a.thickness == b.thickness && a.thermal == b.thermal && a.moisture == b.moisture &&
         a.stress_free_temperature == b.stress_free_temperature && a.strength == b.strength &&
         a.strain_limits == b.strain_limits && a.interaction == b.interaction && a.form == b.form && a.cost == b.cost &&
         a.sheared == b.sheared && a.yarns == b.yarns && a.note == b.note && a.made_of == b.made_of;
}

namespace {

/// A number of a material as a pair of functions: the path of members that leads to it. Plain numbers count as not
/// given where they are 0.
template <auto... Path>
struct Number {
  static auto& in(auto& material) {
    auto* const at = &material;
    return follow<Path...>(*at);
  }
  template <auto First, auto... Rest>
  static auto& follow(auto& object) {
    if constexpr (sizeof...(Rest) == 0)
      return object.*First;
    else
      return follow<Rest...>(object.*First);
  }
  static std::optional<double> get(const Material& material) {
    const auto& value = in(material);
    if constexpr (std::is_same_v<std::decay_t<decltype(value)>, double>)
      return value != 0.0 ? std::optional(value) : std::nullopt;
    else
      return value;
  }
  static void set(Material& material, double value) { in(material) = value; }
};

template <auto... Path>
constexpr Quantity quantity(std::string_view key, Dimension dimension, std::string_view meaning) {
  return {key, dimension, meaning, &Number<Path...>::get, &Number<Path...>::set};
}

using M = Material;
using D = Dimension;
constexpr auto el = &M::elastic;
constexpr auto st = &M::strength;
constexpr auto sl = &M::strain_limits;
constexpr auto in = &M::interaction;

constexpr Quantity all[] = {
    quantity<el, &Elastic::E1>("E1", D::stress, "stiffness along 1"),
    quantity<el, &Elastic::E2>("E2", D::stress, "stiffness along 2"),
    quantity<el, &Elastic::E3>("E3", D::stress, "stiffness through the thickness"),
    quantity<el, &Elastic::nu12>("nu12", D::none, "strain along 2 for a stress along 1"),
    quantity<el, &Elastic::nu13>("nu13", D::none, "strain along 3 for a stress along 1"),
    quantity<el, &Elastic::nu23>("nu23", D::none, "strain along 3 for a stress along 2"),
    quantity<el, &Elastic::G12>("G12", D::stress, "shear stiffness in the plane"),
    quantity<el, &Elastic::G13>("G13", D::stress, "transverse shear stiffness 13"),
    quantity<el, &Elastic::G23>("G23", D::stress, "transverse shear stiffness 23"),
    quantity<&M::density>("density", D::density, "mass per volume"),
    quantity<&M::thickness>("thickness", D::length, "thickness of one cured ply"),
    quantity<&M::thermal, &Expansion::along>("alpha1", D::expansion, "thermal expansion along 1"),
    quantity<&M::thermal, &Expansion::across>("alpha2", D::expansion, "thermal expansion along 2"),
    quantity<&M::thermal, &Expansion::through>("alpha3", D::expansion, "thermal expansion along 3"),
    quantity<&M::thermal, &Expansion::shear>("alpha12", D::expansion, "thermal shear between 1 and 2"),
    quantity<&M::moisture, &Expansion::along>("beta1", D::none, "swelling along 1 per mass of water"),
    quantity<&M::moisture, &Expansion::across>("beta2", D::none, "swelling along 2 per mass of water"),
    quantity<&M::moisture, &Expansion::through>("beta3", D::none, "swelling along 3 per mass of water"),
    quantity<&M::moisture, &Expansion::shear>("beta12", D::none, "shear between 1 and 2 per mass of water"),
    quantity<&M::stress_free_temperature>("stress-free-temperature", D::temperature, "temperature without stress"),
    quantity<st, &Strength::Xt>("Xt", D::stress, "tensile strength along 1"),
    quantity<st, &Strength::Xc>("Xc", D::stress, "compressive strength along 1"),
    quantity<st, &Strength::Yt>("Yt", D::stress, "tensile strength along 2"),
    quantity<st, &Strength::Yc>("Yc", D::stress, "compressive strength along 2"),
    quantity<st, &Strength::Zt>("Zt", D::stress, "tensile strength along 3"),
    quantity<st, &Strength::Zc>("Zc", D::stress, "compressive strength along 3"),
    quantity<st, &Strength::S12>("S12", D::stress, "shear strength in the plane"),
    quantity<st, &Strength::S13>("S13", D::stress, "transverse shear strength 13"),
    quantity<st, &Strength::S23>("S23", D::stress, "transverse shear strength 23"),
    quantity<sl, &StrainLimits::e1t>("e1t", D::none, "largest tensile strain along 1"),
    quantity<sl, &StrainLimits::e1c>("e1c", D::none, "largest compressive strain along 1"),
    quantity<sl, &StrainLimits::e2t>("e2t", D::none, "largest tensile strain along 2"),
    quantity<sl, &StrainLimits::e2c>("e2c", D::none, "largest compressive strain along 2"),
    quantity<sl, &StrainLimits::g12>("g12", D::none, "largest shear strain in the plane"),
    quantity<in, &Interaction::F12>("tsai-wu-F12", D::none, "interaction of 11 and 22, F12 / sqrt(F11 F22)"),
    quantity<in, &Interaction::p12t>("puck-p12t", D::none, "inclination of the master curve, tension across"),
    quantity<in, &Interaction::p12c>("puck-p12c", D::none, "inclination of the master curve, compression across"),
    quantity<&M::form, &Form::rest_angle>("rest-angle", D::angle, "angle between warp and weft at rest"),
    quantity<&M::form, &Form::areal_weight>("areal-weight", D::areal_mass, "dry fibres per area"),
    quantity<&M::form, &Form::roll_width>("roll-width", D::length, "width of the roll"),
    quantity<&M::form, &Form::thickness_uncured>("thickness-uncured", D::length, "thickness before the cure"),
    quantity<&M::form, &Form::shear_limit>("shear-limit", D::angle, "shear past which it wrinkles"),
    quantity<&M::form, &Form::least_width>("least-width", D::length, "narrowest piece that can be laid"),
    quantity<&M::form, &Form::steepest>("steepest", D::none, "run per rise of the steepest end"),
    quantity<&M::form, &Form::cell>("cell", D::length, "distance of opposite walls of a honeycomb's cells"),
};

}  // namespace

std::span<const Quantity> quantities() { return all; }

Material in_units(const Material& material, const UnitSystem& from, const UnitSystem& to) {
  if (from.name() == to.name()) return material;
  const auto factor = [&](Dimension dimension) {
    return dimension == Dimension::angle ? 1.0 : from.to_si(dimension) / to.to_si(dimension);
  };
  Material out = material;
  for (const Quantity& q : all)
    if (const auto value = q.get(out)) q.set(out, without_stray_bits(*value * factor(q.dimension)));
  const double stress = factor(Dimension::stress);
  const auto scale = [&](Elastic& m) {
    for (double* const value : {&m.E1, &m.E2, &m.E3, &m.G12, &m.G13, &m.G23}) *value *= stress;
    if (m.full) *m.full *= stress;
  };
  if (out.elastic.full) *out.elastic.full *= stress;
  if (out.yarns) scale(out.yarns->warp), scale(out.yarns->weft);
  for (Sheared& row : out.sheared) row.E1 *= stress, row.E2 *= stress, row.G12 *= stress;
  return out;
}

std::array<double, 2> likely_thickness(Kind kind) {
  return is_core(kind) ? std::array{0.2e-3, 0.3} : std::array{5e-6, 20e-3};
}

void check_plausible(const Material& material, const UnitSystem& units, Findings& findings) {
  const Elastic& m = material.elastic;
  struct Range {
    double low, high;
  };
  const bool core = is_core(material.kind);
  const auto judge = [&](std::string_view code, std::string_view key, double value, Dimension dimension, Range range,
                         double per_shown, std::string_view shown, std::string_view example) {
    const double si = value * (dimension == Dimension::expansion ? 1.0 : units.to_si(dimension));
    if (value == 0.0 || (si >= range.low && si <= range.high)) return true;
    findings.warning(std::string(code),
                     fmt::format("material '{}': {} = {:g} {} is {:.3g} {}, unlikely for a {} material", material.name,
                                 key, value, units.unit(dimension), si / per_shown, shown, name_of(material.kind)),
                     material.where, fmt::format("write the unit beside the value, as \"{}\"", example));
    return false;
  };
  const bool likely = judge("material.stiffness-unlikely", is_isotropic(material.kind) ? "E" : "E1", m.E1,
                            Dimension::stress, core ? Range{1e4, 20e9} : Range{0.5e9, 1000e9}, 1e9, "GPa", "135 GPa");
  // A slip of units in all of them is told once.
  if (!is_isotropic(material.kind) && likely)
    for (const auto& [key, value] : {std::pair{"E2", m.E2}, std::pair{"E3", m.E3}, std::pair{"G12", m.G12},
                                     std::pair{"G13", m.G13}, std::pair{"G23", m.G23}})
      judge("material.stiffness-unlikely", key, value, Dimension::stress, core ? Range{0.0, 20e9} : Range{1e7, 1000e9},
            1e9, "GPa", "5 GPa");
  judge("material.density-unlikely", "density", material.density.value_or(0.0), Dimension::density,
        core ? Range{15.0, 1200.0} : Range{700.0, 20000.0}, 1.0, "kg/m^3", "1550 kg/m^3");
  const auto thickness = likely_thickness(material.kind);
  judge("material.thickness-unlikely", "thickness", material.thickness.value_or(0.0), Dimension::length,
        {thickness[0], thickness[1]}, 1e-3, "mm", "0.25 mm");
  for (const auto& [key, value] :
       {std::pair{"alpha1", material.thermal.along}, std::pair{"alpha2", material.thermal.across},
        std::pair{"alpha3", material.thermal.through}})
    judge("material.expansion-unlikely", key, value.value_or(0.0), Dimension::expansion, {-20e-6, 400e-6}, 1e-6,
          "1e-6/K", "28e-6 /K");
  for (const Quantity& q : all)
    if (const auto value = q.get(material); value && q.meaning.find("strength") != std::string_view::npos)
      judge("material.strength-unlikely", q.key, *value, Dimension::stress, core ? Range{1e4, 1e9} : Range{1e6, 1e10},
            1e6, "MPa", "1500 MPa");
  if (material.kind == Kind::unidirectional && likely && m.E2 > 0.9 * m.E1)
    findings.warning(
        "material.no-direction",
        fmt::format("material '{}': E2 = {:g} beside E1 = {:g}: a unidirectional ply is much softer across "
                    "its fibres",
                    material.name, m.E2, m.E1),
        material.where, "correct E2, or say kind = \"fabric\"");
  if (material.kind == Kind::unidirectional && m.E1 > 3.0 * m.E2 && m.nu12 > 0.0 && m.nu12 < 0.1)
    findings.warning(
        "material.nu21-for-nu12",
        fmt::format("material '{}': nu12 = {:g} is low for a unidirectional ply; nu21 would be {:.3g} for nu12 = 0.3",
                    material.name, m.nu12, 0.3 * m.E2 / m.E1),
        material.where, "nu12 is the strain across the fibres for a stress along them");
}

}  // namespace bordado::material
