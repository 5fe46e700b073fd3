#include <bordado/base/findings.hpp>
#include <bordado/base/text.hpp>
#include <bordado/base/units.hpp>

#include <fmt/format.h>
#include <udunits2.h>

#include <locale.h>

#include <array>
#include <charconv>
#include <cmath>
#include <memory>
#include <mutex>
#include <stdexcept>

namespace bordado {

double Angle::cos() const {
  const double turn = std::remainder(degrees_, 360.0);
  if (turn == 0.0) return 1.0;
  if (std::abs(turn) == 90.0) return 0.0;
  if (std::abs(turn) == 180.0) return -1.0;
  return std::cos(radians_);
}

double Angle::sin() const {
  const double turn = std::remainder(degrees_, 360.0);
  if (turn == 0.0 || std::abs(turn) == 180.0) return 0.0;
  if (std::abs(turn) == 90.0) return std::copysign(1.0, turn);
  return std::sin(radians_);
}

Angle same_fibre(Angle angle) {
  const double turn = std::remainder(angle.degrees(), 180.0);
  if (turn == angle.degrees() && turn != -90.0) return angle;
  return Angle::degrees(turn == -90.0 ? 90.0 : turn);
}

namespace {

/// Exponents of length, mass and time.
struct Exponents {
  int length, mass, time;
};

Exponents exponents(Dimension dimension) {
  switch (dimension) {
    case Dimension::none:
    case Dimension::angle:
    case Dimension::temperature:
    case Dimension::expansion:
      return {0, 0, 0};
    case Dimension::length:
      return {1, 0, 0};
    case Dimension::area:
      return {2, 0, 0};
    case Dimension::mass:
      return {0, 1, 0};
    case Dimension::time:
      return {0, 0, 1};
    case Dimension::stress:
      return {-1, 1, -2};
    case Dimension::density:
      return {-3, 1, 0};
    case Dimension::areal_mass:
      return {-2, 1, 0};
    case Dimension::force:
      return {1, 1, -2};
    case Dimension::line_force:
      return {0, 1, -2};
    case Dimension::moment:
      return {2, 1, -2};
    case Dimension::line_mass:
      return {-1, 1, 0};
    case Dimension::acceleration:
      return {1, 0, -2};
    case Dimension::angular_speed:
      return {0, 0, -1};
    case Dimension::bed:
      return {-2, 1, -2};
  }
  return {0, 0, 0};
}

std::string_view words(Dimension dimension) {
  switch (dimension) {
    case Dimension::none:
      return "plain number";
    case Dimension::angle:
      return "angle";
    case Dimension::length:
      return "length";
    case Dimension::area:
      return "area";
    case Dimension::mass:
      return "mass";
    case Dimension::time:
      return "time";
    case Dimension::stress:
      return "stress";
    case Dimension::density:
      return "density";
    case Dimension::areal_mass:
      return "mass per area";
    case Dimension::force:
      return "force";
    case Dimension::line_force:
      return "force per length";
    case Dimension::moment:
      return "moment";
    case Dimension::line_mass:
      return "mass per length";
    case Dimension::acceleration:
      return "acceleration";
    case Dimension::angular_speed:
      return "angular speed";
    case Dimension::bed:
      return "stress per length";
    case Dimension::temperature:
      return "temperature";
    case Dimension::expansion:
      return "strain per temperature";
  }
  return "quantity";
}

/// The unit library reads numbers by the locale of the program that we are in: it gets the plain one while it works.
class PlainLocale {
 public:
  PlainLocale() : plain_(::newlocale(LC_ALL_MASK, "C", nullptr)), before_(::uselocale(plain_)) {}
  ~PlainLocale() {
    ::uselocale(before_);
    ::freelocale(plain_);
  }
  PlainLocale(const PlainLocale&) = delete;
  PlainLocale& operator=(const PlainLocale&) = delete;

 private:
  locale_t plain_, before_;
};

/// The UDUNITS-2 data base, read once. Its own messages go nowhere: we write ours.
ut_system* unit_data_base() {
  static ut_system* const system = [] {
    ut_set_error_message_handler(ut_ignore);
    return ut_read_xml(nullptr);
  }();
  if (!system)
    throw Failure({Severity::error,
                   "base.unit-data",
                   "the data base of units cannot be read",
                   {},
                   "install the package libudunits2-data"});
  return system;
}

struct FreeUnit {
  void operator()(ut_unit* unit) const { ut_free(unit); }
};
using Unit = std::unique_ptr<ut_unit, FreeUnit>;

/// A unit as people write it: names with powers, multiplied and divided from left to right: "kg/m^3", "N.mm-2", "/K",
/// "10 mm". The unit library is asked for single names only: it loses memory over longer texts that it cannot read.
class UnitText {
 public:
  UnitText(ut_system* system, std::string_view text) : system_(system), text_(text) {}

  Unit read() {
    Unit out;
    bool divide = false, any = false;
    skip_blanks();
    if (take("/")) divide = true;
    for (skip_blanks(); !text_.empty(); skip_blanks()) {
      Unit factor = read_factor();
      if (!factor) return nullptr;
      if (!any && !divide)
        out = std::move(factor);
      else
        out.reset(divide ? ut_divide(out ? out.get() : ut_get_dimensionless_unit_one(system_), factor.get())
                         : ut_multiply(out.get(), factor.get()));
      if (!out) return nullptr;
      any = true;
      skip_blanks();
      divide = take("/");
      if (!divide) take("*") || take(".") || take("·");
      skip_blanks();
      if (divide && text_.empty()) return nullptr;
    }
    return out;
  }

 private:
  void skip_blanks() {
    while (!text_.empty() && (text_.front() == ' ' || text_.front() == '\t')) text_.remove_prefix(1);
  }
  bool take(std::string_view mark) {
    if (!text_.starts_with(mark)) return false;
    text_.remove_prefix(mark.size());
    return true;
  }
  Unit read_factor() {
    double number = 0.0;
    if (const auto [end, error] = std::from_chars(text_.data(), text_.data() + text_.size(), number);
        error == std::errc{} && std::isdigit(static_cast<unsigned char>(text_.front())) != 0) {
      text_.remove_prefix(static_cast<std::size_t>(end - text_.data()));
      if (!(number > 0.0 && std::isfinite(number))) return nullptr;
      return Unit(ut_scale(number, ut_get_dimensionless_unit_one(system_)));
    }
    const std::string name(read_name());
    if (name.empty() || name.size() > 40) return nullptr;
    // The data base lacks the common short form of degrees.
    const Unit unit(ut_parse(system_, name == "deg" ? "degree" : name.c_str(), UT_UTF8));
    const int power = read_power();
    if (!unit || power < -9 || power > 9) return nullptr;
    return Unit(power == 1 ? ut_clone(unit.get()) : ut_raise(unit.get(), power));
  }
  std::string_view read_name() {
    std::size_t end = 0;
    while (end < text_.size()) {
      const auto c = static_cast<unsigned char>(text_[end]);
      const std::string_view rest = text_.substr(end);
      const bool mark = rest.starts_with("²") || rest.starts_with("³") || rest.starts_with("·");
      if (mark || !(std::isalpha(c) != 0 || c >= 0x80 || c == '%' || c == '_')) break;
      ++end;
    }
    const std::string_view name = text_.substr(0, end);
    text_.remove_prefix(end);
    return name;
  }
  int read_power() {
    if (take("²")) return 2;
    if (take("³")) return 3;
    const bool raised = take("^") || take("**");
    const bool negative = take("-");
    if (!negative) take("+");
    int power = 0;
    const auto [end, error] = std::from_chars(text_.data(), text_.data() + text_.size(), power);
    if (error != std::errc{} || (!text_.empty() && text_.front() == '-')) return raised || negative ? 99 : 1;
    text_.remove_prefix(static_cast<std::size_t>(end - text_.data()));
    return negative ? -power : power;
  }

  ut_system* system_;
  std::string_view text_;
};

/// The SI value of `value` in the unit `name`; temperatures in degrees Celsius.
double in_si(double value, std::string_view name, Dimension dimension) {
  static std::mutex one_at_a_time;  // the unit library has state
  const std::lock_guard lock(one_at_a_time);
  const PlainLocale plain;
  ut_system* const system = unit_data_base();
  const Unit unit = UnitText(system, name).read();
  if (!unit) throw std::invalid_argument(fmt::format("'{}' is not a unit", plain_text(name, 40)));
  const Exponents e = exponents(dimension);
  const std::string target = dimension == Dimension::angle         ? std::string("rad")
                             : dimension == Dimension::none        ? std::string("1")
                             : dimension == Dimension::temperature ? std::string("celsius")
                             : dimension == Dimension::expansion
                                 ? std::string("K-1")
                                 : fmt::format("m{}.kg{}.s{}", e.length, e.mass, e.time);
  const Unit si(ut_parse(system, target.c_str(), UT_UTF8));
  cv_converter* const converter =
      ut_are_convertible(unit.get(), si.get()) ? ut_get_converter(unit.get(), si.get()) : nullptr;
  if (!converter)
    throw std::invalid_argument(fmt::format("'{}' is not a unit of {}", plain_text(name, 40), words(dimension)));
  const double converted = cv_convert_double(converter, value);
  cv_free(converter);
  return converted;
}

/// SI value of one `name`.
double si_factor(std::string_view name, Dimension dimension) { return in_si(1.0, name, dimension); }

std::string_view trimmed(std::string_view text) {
  const auto first = text.find_first_not_of(" \t");
  if (first == std::string_view::npos) return {};
  return text.substr(first, text.find_last_not_of(" \t") - first + 1);
}

}  // namespace

double without_stray_bits(double value) {
  const std::string text = fmt::format("{:.15g}", value);
  double rounded = value;
  std::from_chars(text.data(), text.data() + text.size(), rounded);
  return rounded;
}

UnitSystem::UnitSystem()
    : length_(1e-3), mass_(1e3), time_(1.0), length_name_("mm"), mass_name_("t"), time_name_("s"), name_("mm, t, s") {}

UnitSystem UnitSystem::parse(std::string_view text) {
  UnitSystem system;
  bool have_length = false, have_mass = false, have_time = false;
  double force = 0.0;
  std::string_view rest = text;
  while (!rest.empty()) {
    const auto comma = rest.find(',');
    const std::string name(trimmed(rest.substr(0, comma)));
    rest = comma == std::string_view::npos ? std::string_view{} : rest.substr(comma + 1);
    const auto take = [&](Dimension dimension, double& factor, std::string& kept, bool& have) {
      try {
        factor = si_factor(name, dimension);
      } catch (const std::invalid_argument&) {
        return false;
      }
      if (!(factor > 1e-30 && factor < 1e30)) return false;
      if (have) throw std::invalid_argument(fmt::format("two units of {} in '{}'", words(dimension), text));
      kept = name;
      return have = true;
    };
    if (name.empty() || (!take(Dimension::length, system.length_, system.length_name_, have_length) &&
                         !take(Dimension::mass, system.mass_, system.mass_name_, have_mass) &&
                         !take(Dimension::time, system.time_, system.time_name_, have_time) &&
                         !take(Dimension::force, force, system.force_name_, have_mass)))
      throw std::invalid_argument(
          fmt::format("'{}' is not a unit of length, mass or time, or of force for mass", plain_text(name, 40)));
  }
  if (!have_length || !have_mass || !have_time)
    throw std::invalid_argument(fmt::format("'{}' has no unit of {}", text,
                                            !have_length ? "length"
                                            : !have_mass ? "mass"
                                                         : "time"));
  if (!system.force_name_.empty()) {
    system.mass_ = without_stray_bits(force * system.time_ * system.time_ / system.length_);
    if (!(system.mass_ > 1e-30 && system.mass_ < 1e30))
      throw std::invalid_argument(fmt::format("'{}' makes no mass to work with", plain_text(text, 80)));
    system.mass_name_ = system.mass_ == 1.0 ? "kg"
                        : system.mass_ == 1e3
                            ? "t"
                            : fmt::format("{} {}^2/{}", system.force_name_, system.time_name_, system.length_name_);
  }
  system.name_ = fmt::format("{}, {}, {}", system.length_name_,
                             system.force_name_.empty() ? system.mass_name_ : system.force_name_, system.time_name_);
  return system;
}

namespace {

constexpr double newtons_in_pound_force = 4.4482216152605;  // 0.45359237 kg times 9.80665 m/s²

}  // namespace

std::optional<std::string> UnitSystem::doubt() const {
  if (!force_name_.empty()) return std::nullopt;
  const double newtons = to_si(Dimension::force);
  for (const double known : {1.0, newtons_in_pound_force}) {
    const double ten = std::log10(newtons / known);
    if (std::abs(ten - std::round(ten)) < 1e-5) return std::nullopt;  // a slug is told to six digits
  }
  return fmt::format("with '{}' forces are in {}, which is {:.4g} N or {:.4g} lbf", name_, unit(Dimension::force),
                     newtons, newtons / newtons_in_pound_force);
}

double UnitSystem::to_si(Dimension dimension) const {
  if (dimension == Dimension::angle) return std::numbers::pi / 180.0;
  const Exponents e = exponents(dimension);
  return std::pow(length_, e.length) * std::pow(mass_, e.mass) * std::pow(time_, e.time);
}

std::string UnitSystem::unit(Dimension dimension) const {
  struct Named {
    Dimension dimension;
    double si;
    std::string_view name;
  };
  constexpr double inch = 0.0254, foot = 0.3048, pound = newtons_in_pound_force;
  static constexpr std::array<Named, 18> common{{{Dimension::stress, pound / (inch * inch), "psi"},
                                                 {Dimension::stress, 1e3 * pound / (inch * inch), "ksi"},
                                                 {Dimension::stress, pound / (foot * foot), "lbf/ft^2"},
                                                 {Dimension::force, pound, "lbf"},
                                                 {Dimension::line_force, pound / inch, "lbf/in"},
                                                 {Dimension::line_force, pound / foot, "lbf/ft"},
                                                 {Dimension::stress, 1.0, "Pa"},
                                                 {Dimension::stress, 1e3, "kPa"},
                                                 {Dimension::stress, 1e6, "MPa"},
                                                 {Dimension::stress, 1e9, "GPa"},
                                                 {Dimension::force, 1.0, "N"},
                                                 {Dimension::force, 1e-3, "mN"},
                                                 {Dimension::force, 1e3, "kN"},
                                                 {Dimension::line_force, 1.0, "N/m"},
                                                 {Dimension::line_force, 1e3, "N/mm"},
                                                 {Dimension::line_force, 1e6, "kN/mm"},
                                                 {Dimension::none, 1.0, ""},
                                                 {Dimension::angle, std::numbers::pi / 180.0, "deg"}}};
  const double si = to_si(dimension);
  for (const Named& named : common)
    if (named.dimension == dimension && std::abs(named.si / si - 1.0) < 1e-9) return std::string(named.name);
  switch (dimension) {
    case Dimension::length:
      return length_name_;
    case Dimension::area:
      return length_name_ + "^2";
    case Dimension::mass:
      return mass_name_;
    case Dimension::time:
      return time_name_;
    case Dimension::density:
      return composed_mass() ? fmt::format("{} {}^2/{}^4", force_name_, time_name_, length_name_)
                             : fmt::format("{}/{}^3", mass_name_, length_name_);
    case Dimension::areal_mass:
      return composed_mass() ? fmt::format("{} {}^2/{}^3", force_name_, time_name_, length_name_)
                             : fmt::format("{}/{}^2", mass_name_, length_name_);
    case Dimension::stress:
      return force_name_.empty() ? fmt::format("{}/({} {}^2)", mass_name_, length_name_, time_name_)
                                 : fmt::format("{}/{}^2", force_name_, length_name_);
    case Dimension::force:
      return force_name_.empty() ? fmt::format("{} {}/{}^2", mass_name_, length_name_, time_name_) : force_name_;
    case Dimension::line_force:
      return force_name_.empty() ? fmt::format("{}/{}^2", mass_name_, time_name_)
                                 : fmt::format("{}/{}", force_name_, length_name_);
    case Dimension::moment:
      return fmt::format("{} {}", unit(Dimension::force), length_name_);
    case Dimension::line_mass:
      return composed_mass() ? fmt::format("{} {}^2/{}^2", force_name_, time_name_, length_name_)
                             : fmt::format("{}/{}", mass_name_, length_name_);
    case Dimension::acceleration:
      return fmt::format("{}/{}^2", length_name_, time_name_);
    case Dimension::angular_speed:
      return fmt::format("rad/{}", time_name_);
    case Dimension::bed:
      return fmt::format("{}/{}", unit(Dimension::stress), length_name_);
    case Dimension::temperature:
      return "degC";
    case Dimension::expansion:
      return "1/K";
    default:
      return {};
  }
}

double UnitSystem::read(std::string_view text, Dimension dimension) const {
  const std::string_view clean = trimmed(text);
  const std::string_view digits = !clean.empty() && clean.front() == '+' ? clean.substr(1) : clean;
  double value = 0.0;
  const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
  if (error != std::errc{} || !std::isfinite(value))
    throw std::invalid_argument(fmt::format("'{}' does not begin with a number", plain_text(text, 40)));
  const std::string_view unit = trimmed(digits.substr(static_cast<std::size_t>(end - digits.data())));
  if (unit.empty()) return value;
  const double converted = without_stray_bits(in_si(value, unit, dimension) / to_si(dimension));
  if (!std::isfinite(converted))
    throw std::invalid_argument(fmt::format("'{}' is too large to work with", plain_text(text, 40)));
  return converted;
}

double metres_in(std::string_view unit) {
  const double factor = si_factor(unit, Dimension::length);
  if (!(factor > 1e-30 && factor < 1e30))
    throw std::invalid_argument(fmt::format("'{}' is no length to measure by", plain_text(unit, 40)));
  return factor;
}

}  // namespace bordado
