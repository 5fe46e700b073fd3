/// \file units.hpp
/// Angles and unit systems.
#ifndef BORDADO_BASE_UNITS_HPP
#define BORDADO_BASE_UNITS_HPP

#include <numbers>
#include <optional>
#include <string>
#include <string_view>

namespace bordado {

/// A plane angle; never a bare double across a public function.
class Angle {
 public:
  constexpr Angle() = default;
  static constexpr Angle degrees(double value) { return Angle(value * std::numbers::pi / 180.0, value); }
  static constexpr Angle radians(double value) { return Angle(value, value * 180.0 / std::numbers::pi); }

  constexpr double degrees() const { return degrees_; }
  constexpr double radians() const { return radians_; }
  /// Cosine and sine; exact at multiples of 90° so that a 90° ply has no stray coupling.
  double cos() const;
  double sin() const;

  constexpr Angle operator-() const { return Angle(-radians_, -degrees_); }
  constexpr Angle operator+(Angle other) const { return degrees(degrees_ + other.degrees_); }
  constexpr Angle operator-(Angle other) const { return degrees(degrees_ - other.degrees_); }
  friend constexpr bool operator==(Angle a, Angle b) { return a.degrees_ == b.degrees_; }

 private:
  constexpr Angle(double radians, double degrees) : radians_(radians), degrees_(degrees) {}
  double radians_ = 0.0;
  double degrees_ = 0.0;
};

/// The same fibre direction in (-90°, 90°]: a ply at 180° is a ply at 0°.
Angle same_fibre(Angle angle);

/// What kind of quantity a number is.
enum class Dimension {
  none,
  angle,
  length,
  area,
  mass,
  time,
  stress,
  density,
  areal_mass,
  force,
  line_force,
  moment,
  line_mass,
  acceleration,
  angular_speed,  ///< radians per time
  bed,            ///< stress per length
  temperature,    ///< in degrees Celsius whatever the system; differences of them in kelvin
  expansion       ///< strain per kelvin whatever the system
};

/// The consistent unit system of a part: what a bare number means.
/// Angles are degrees, temperatures degrees Celsius in every system.
class UnitSystem {
 public:
  /// Millimetre, tonne, second: newton and megapascal.
  UnitSystem();

  /// Reads "mm, t, s" (a length, a mass and a time unit in any order), or "in, lbf, s": with a unit of force the mass is
  /// what that moves by one length per time squared.
  /// \throws std::invalid_argument that says what is missing or unknown.
  static UnitSystem parse(std::string_view text);

  /// As declared: "mm, t, s".
  const std::string& name() const { return name_; }

  /// What is odd about it: with "in, lb, s" forces are in lb in/s^2, which nobody measures; nothing where force is a newton
  /// or a pound-force, times a power of ten.
  std::optional<std::string> doubt() const;

  /// Name of the unit of a quantity: "MPa" for stress in mm, t, s; composed where there is no common name.
  std::string unit(Dimension dimension) const;

  /// Factor from this system to SI: value_SI = factor * value.
  double to_si(Dimension dimension) const;

  /// Value of "0.25 mm" or "135 GPa" in this system; a bare number ("0.25") is taken to be in this system already.
  /// \throws std::invalid_argument that says what cannot be read, or that the unit is of another kind.
  double read(std::string_view text, Dimension dimension) const;

 private:
  double length_, mass_, time_;  // in m, kg, s
  std::string length_name_, mass_name_, time_name_, name_;
  std::string force_name_;  // where it was declared by that
  bool composed_mass() const { return !force_name_.empty() && mass_name_.size() > 2; }
};

/// A conversion of units leaves a stray last bit (0.25 mm would not equal a bare 0.25): the value to 15 digits.
double without_stray_bits(double value);

/// Metres in one `unit` ("mm", "inch").
/// \throws std::invalid_argument when it is not a length unit.
double metres_in(std::string_view unit);

}  // namespace bordado

#endif
