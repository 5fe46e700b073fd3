#include <bordado/material.hpp>

#include <fmt/format.h>

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
    case Kind::core:
      break;
  }
  return "core";
}

Elastic transversely_isotropic(double E1, double E2, double nu12, double G12, double nu23, double G23) {
  return {.E1 = E1, .E2 = E2, .E3 = E2, .nu12 = nu12, .nu13 = nu12, .nu23 = nu23, .G12 = G12, .G13 = G12, .G23 = G23};
}

Elastic isotropic(double E, double nu) {
  const double G = E / (2.0 * (1.0 + nu));
  return {.E1 = E, .E2 = E, .E3 = E, .nu12 = nu, .nu13 = nu, .nu23 = nu, .G12 = G, .G13 = G, .G23 = G};
}

std::optional<std::string> not_positive_definite(const Elastic& m) {
  const std::pair<std::string_view, double> moduli[] = {{"E1", m.E1},   {"E2", m.E2},   {"E3", m.E3},
                                                        {"G12", m.G12}, {"G13", m.G13}, {"G23", m.G23}};
  for (const auto& [name, value] : moduli)
    if (!(value > 0.0) || !std::isfinite(value)) return fmt::format("{} = {:g} is not a positive number", name, value);
  struct Pair {
    std::string_view name;
    double nu, ratio;
    std::string_view bound;
  };
  for (const auto& [name, nu, ratio, bound] :
       {Pair{"nu12", m.nu12, m.E1 / m.E2, "sqrt(E1/E2)"}, Pair{"nu13", m.nu13, m.E1 / m.E3, "sqrt(E1/E3)"},
        Pair{"nu23", m.nu23, m.E2 / m.E3, "sqrt(E2/E3)"}})
    if (!(std::abs(nu) < std::sqrt(ratio)))
      return fmt::format("{} = {:g} is outside ±{} = ±{:.4g}", name, nu, bound, std::sqrt(ratio));
  const double nu21 = m.nu12 * m.E2 / m.E1, nu31 = m.nu13 * m.E3 / m.E1, nu32 = m.nu23 * m.E3 / m.E2;
  const double determinant = 1.0 - m.nu12 * nu21 - m.nu23 * nu32 - m.nu13 * nu31 - 2.0 * nu21 * nu32 * m.nu13;
  if (!(determinant > 0.0))
    return fmt::format("1 - nu12 nu21 - nu23 nu32 - nu31 nu13 - 2 nu21 nu32 nu13 = {:.4g} is not positive",
                       determinant);
  return std::nullopt;
}

void check_plausible(const Material& material, const UnitSystem& units, Findings& findings) {
  const Elastic& m = material.elastic;
  const double E1 = m.E1 * units.to_si(Dimension::stress);
  struct Range {
    double low, high;
  };
  const Range stiffness = material.kind == Kind::core ? Range{1e4, 20e9} : Range{0.5e9, 1000e9};
  const Range density = material.kind == Kind::core ? Range{15.0, 1200.0} : Range{700.0, 20000.0};
  const Range thickness = material.kind == Kind::core ? Range{0.2e-3, 0.3} : Range{5e-6, 20e-3};
  const auto outside = [](double value, Range range) { return value < range.low || value > range.high; };
  if (outside(E1, stiffness))
    findings.warning("material.stiffness-unlikely",
                     fmt::format("material '{}': E{} = {:g} {} is {:.3g} GPa, unlikely for a {} material",
                                 material.name, material.kind == Kind::isotropic ? "" : "1", m.E1,
                                 units.unit(Dimension::stress), E1 / 1e9, name_of(material.kind)),
                     material.where, "write the unit beside the value, as \"135 GPa\"");
  const double rho = material.density * units.to_si(Dimension::density);
  if (material.density != 0.0 && outside(rho, density))
    findings.warning(
        "material.density-unlikely",
        fmt::format("material '{}': density {:g} {} is {:.3g} kg/m^3, unlikely for a {} material", material.name,
                    material.density, units.unit(Dimension::density), rho, name_of(material.kind)),
        material.where, "write the unit beside the value, as \"1550 kg/m^3\"");
  if (material.thickness) {
    const double t = *material.thickness * units.to_si(Dimension::length);
    if (outside(t, thickness))
      findings.warning(
          "material.thickness-unlikely",
          fmt::format("material '{}': thickness {:g} {} is {:.3g} mm, unlikely for one {} ply", material.name,
                      *material.thickness, units.unit(Dimension::length), 1e3 * t, name_of(material.kind)),
          material.where, "write the unit beside the value, as \"0.25 mm\"");
  }
  if (material.kind == Kind::unidirectional && m.E1 > 3.0 * m.E2 && m.nu12 > 0.0 && m.nu12 < 0.1)
    findings.warning(
        "material.nu21-for-nu12",
        fmt::format("material '{}': nu12 = {:g} is low for a unidirectional ply; nu21 would be {:.3g} for nu12 = 0.3",
                    material.name, m.nu12, 0.3 * m.E2 / m.E1),
        material.where, "nu12 is the strain across the fibres for a stress along them");
}

}  // namespace bordado::material
