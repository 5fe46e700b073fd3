// What a laminate does besides what one wants of it, in plain words.
#include <bordado/laminate.hpp>

#include <fmt/format.h>
#include <Eigen/LU>

#include <cmath>

namespace bordado::laminate {

namespace {

using Vector6 = Eigen::Matrix<double, 6, 1>;

/// Strain and curvature about the middle, for something that acts on the laminate by itself.
struct Motion {
  Vector3 strain, curvature;
};

/// "bends", "bends and twists", "bends, twists and shears".
std::string joined(const std::vector<std::string>& words) {
  std::string out;
  for (std::size_t i = 0; i < words.size(); ++i)
    out += (i == 0 ? "" : i + 1 == words.size() ? " and " : ", ") + words[i];
  return out;
}

class Reader {
 public:
  Reader(std::span<const Layer> layers, const UnitSystem& units)
      : layers_(layers), length_(units.unit(Dimension::length)), h_(thickness(layers)) {
    flexibility_ = inverse(stiffness(layers, -0.5 * h_).ABD());
  }

  std::vector<std::string> read() const {
    std::vector<std::string> out;
    out.push_back(pulled(0, "x"));
    out.push_back(pulled(1, "y"));
    out.push_back(bent(0, "x"));
    out.push_back(bent(1, "y"));
    if (auto text = cooled(); !text.empty()) out.push_back(std::move(text));
    return out;
  }

 private:
  Motion under(int load) const { return {flexibility_.block<3, 1>(0, load), flexibility_.block<3, 1>(3, load)}; }

  /// Of the size of the strain that causes it: less is no matter.
  static constexpr double least = 0.01;

  bool bends(const Motion& m, double strain) const {
    return m.curvature.head<2>().cwiseAbs().maxCoeff() * 0.5 * h_ > least * strain;
  }
  bool twists(const Motion& m, double strain) const { return std::abs(m.curvature[2]) * 0.5 * h_ > least * strain; }
  static bool shears(const Motion& m, double strain) { return std::abs(m.strain[2]) > least * strain; }

  /// Three digits, without an exponent where that can be avoided.
  std::string length(double value) const {
    return value >= 100.0 ? fmt::format("{:.0f} {}", value, length_) : fmt::format("{:.3g} {}", value, length_);
  }

  /// Radius of the larger bend, and along which axis.
  std::string bend_amount(const Motion& m) const {
    const int i = std::abs(m.curvature[0]) >= std::abs(m.curvature[1]) ? 0 : 1;
    return fmt::format("to a radius of {} along {}", length(1.0 / std::abs(m.curvature[i])), i == 0 ? "x" : "y");
  }
  /// Angle that the section turns by over a hundred thicknesses: half of the curvature xy is the rate.
  std::string twist_amount(const Motion& m) const {
    const double degrees = 0.5 * std::abs(m.curvature[2]) * 100.0 * h_ * 180.0 / std::numbers::pi;
    return fmt::format("by {:.2g}° over {}", degrees, length(100.0 * h_));
  }

  std::string pulled(int axis, std::string_view name) const {
    Motion m = under(axis);
    const double scale = 1e-3 / m.strain[axis];
    m.strain *= scale, m.curvature *= scale;
    std::vector<std::string> does, amounts;
    if (bends(m, 1e-3)) does.emplace_back("bends"), amounts.push_back(bend_amount(m));
    if (twists(m, 1e-3)) does.emplace_back("twists"), amounts.push_back("twists " + twist_amount(m));
    if (shears(m, 1e-3))
      does.emplace_back("shears"), amounts.push_back(fmt::format("shears by {:.2g} %", 100.0 * std::abs(m.strain[2])));
    const std::string pull = fmt::format("pulled along {}, it ", name);
    if (does.empty()) return pull + "stretches and narrows, and does not bend, twist or shear";
    const std::string how_much = fmt::format(" (at 0.1 % of strain: {})", fmt::join(amounts, ", "));
    if (does.size() == 1 && does[0] == "shears") return pull + "does not bend or twist, but shears" + how_much;
    return pull + joined(does) + how_much;
  }

  std::string bent(int axis, std::string_view name) const {
    Motion m = under(3 + axis);
    const double curvature = std::abs(m.curvature[axis]), twist = std::abs(m.curvature[2]) / curvature;
    const std::string bend = fmt::format("bent along {}, it ", name);
    const bool twisting = twist > least;
    const bool stretching = m.strain.cwiseAbs().maxCoeff() > least * 0.5 * h_ * curvature;
    if (!twisting && !stretching) return bend + "only bends, and does not twist or stretch";
    std::vector<std::string> does;
    if (twisting)
      does.push_back(fmt::format("twists (half of the curvature xy is {:.2g} of that along {})", 0.5 * twist, name));
    if (stretching) does.emplace_back("changes its length: its middle is not where it bends about");
    return bend + joined(does);
  }

  std::string cooled() const {
    bool any = false;
    for (const Layer& layer : layers_) any = any || layer.thermal.norm() > 0.0;
    if (!any) return {};
    const Deformation free = free_expansion(layers_, -0.5 * h_, Expands::by_temperature);
    const Motion m{-100.0 * free.strain, -100.0 * free.curvature};
    const double size = std::max(m.strain.head<2>().cwiseAbs().maxCoeff(), 1e-5);
    std::vector<std::string> does;
    if (bends(m, size)) does.push_back("bends " + bend_amount(m));
    if (twists(m, size)) does.push_back("twists " + twist_amount(m));
    if (shears(m, size)) does.push_back(fmt::format("shears by {:.2g} %", 100.0 * std::abs(m.strain[2])));
    const std::string cool = "cooled by 100 K, it ";
    return does.empty() ? cool + "stays flat and keeps its angles" : cool + joined(does);
  }

  std::span<const Layer> layers_;
  std::string length_;
  double h_;
  Eigen::Matrix<double, 6, 6> flexibility_;
};

}  // namespace

std::vector<std::string> in_words(std::span<const Layer> layers, const UnitSystem& units) {
  return Reader(layers, units).read();
}

}  // namespace bordado::laminate
