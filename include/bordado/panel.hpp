/// \file panel.hpp
/// A flat rectangular panel of one laminate, by hand: at which loads it buckles, how it vibrates, how far it bends.
///
///        y ^      edge y1
///        b |  +-------------+         x along the laminate's reference, the panel from 0 to a;
///          |  |             |  edge   y across it, from 0 to b.
///   edge   |  |             |  x1     Loads in its plane are those of the laminate: Nx positive where it pulls.
///    x0    |  +-------------+
///          +------------------> x
///                edge y0     a
///
/// Theory: the normal stays straight and turns by itself (R. D. Mindlin, J. Appl. Mech. 18 (1951) 31; for laminates J. M.
/// Whitney and N. J. Pagano, J. Appl. Mech. 37 (1970) 1031), with the energy-consistent transverse shear stiffness of
/// laminate::transverse_shear(). Stretching and bending that go together enter by the reduced bending stiffness D - B A⁻¹ B
/// (E. Reissner and Y. Stavsky, J. Appl. Mech. 28 (1961) 402; J. E. Ashton, J. Composite Materials 3 (1969) 694), which
/// takes the edges as free to move in the plane: exact where B is nought, on the soft side else.
///
/// Method: Ritz, with products of integrated Legendre polynomials for the deflection and both turns. Each set of functions
/// holds the smaller ones, so buckling factors and frequencies come down to the exact ones from above, and the mean deflection
/// under pressure comes up. What is told carries by how much the last third of the functions changed it.
#ifndef BORDADO_PANEL_HPP
#define BORDADO_PANEL_HPP

#include <bordado/laminate.hpp>

#include <array>
#include <optional>
#include <span>
#include <vector>

namespace bordado::sizing {

using laminate::Matrix2;
using laminate::Matrix3;
using laminate::Vector2;
using laminate::Vector3;

/// How an edge is held across the panel. Simply supported: it neither moves nor turns along itself, and turns about itself
/// freely. Clamped: it does not turn either.
enum class Edge : std::uint8_t { free, simple, clamped };

/// Stiffness of a panel across itself.
struct PlateStiffness {
  Matrix3 D = Matrix3::Zero();  ///< force times length: moments by curvatures, x, y, xy, with N = 0
  Matrix2 H = Matrix2::Zero();  ///< force per length: transverse shear, order xz, yz
  double mass = 0.0;            ///< per area
};

/// Of a stack: the reduced bending stiffness, the same whichever plane z is counted from.
/// \throws std::invalid_argument as laminate::stiffness().
PlateStiffness plate_stiffness(std::span<const laminate::Layer> layers);

struct Panel {
  double a = 0.0, b = 0.0;  ///< lengths along x and y
  PlateStiffness plate;
  Edge x0 = Edge::simple, x1 = Edge::simple, y0 = Edge::simple, y1 = Edge::simple;
};

/// How many functions a Ritz method takes along each side, those of the ends among them. Thin panels, and long ones that
/// buckle in many waves, need more.
struct Terms {
  std::size_t x = 14, y = 14;
};
inline constexpr std::size_t most_terms = 60;

/// A number and how far it is still from rest.
struct Settled {
  double value = 0.0;
  double change = 0.0;  ///< of it, relative: against two thirds of the functions; what is left is less
};

/// The factors of loads N at which the panel buckles.
struct BucklingFactors {
  std::optional<Settled> forward;   ///< the least one above nought; none where these loads buckle nothing
  std::optional<Settled> reversed;  ///< the least one with all loads the other way round, above nought, too
};

/// \param N in the plane, the same everywhere: Nx, Ny, Nxy, force per length, tension positive.
/// \throws std::invalid_argument where lengths, stiffness or loads are no numbers to work with, terms are fewer than 4 or more
/// than most_terms, or the edges do not hold the panel in place.
BucklingFactors buckling_factors(const Panel& panel, const Vector3& N, const Terms& terms = {});

/// As many functions as it takes until the last third of them changes the factor of N by no more than 0.1 %: from 14 each way on,
/// at most 42. \param found what buckling_factors() says with these. \throws std::invalid_argument as buckling_factors().
Terms enough_terms(const Panel& panel, const Vector3& N, BucklingFactors& found);

/// One panel under many loads: made once, asked often. The shapes in which it buckles at loads far apart among those it is made for
/// are taken together (a Ritz method within the Ritz method) until six more in a row were told within a share of what is
/// stated, and at the load that needs the least; so what is told is never below buckling_factors() with these terms.
class ManyLoads {
 public:
  /// \param loads of which factors will be asked. \param within relative; of factors more than ten times the least of loads of that
  /// size, of that. \throws std::invalid_argument as buckling_factors(), loads of nought apart.
  ManyLoads(const Panel& panel, std::span<const Vector3> loads, const Terms& terms = {}, double within = 2e-3);
  /// Infinite where N buckles nothing.
  double factor(const Vector3& N) const;
  std::size_t shape_count() const { return static_cast<std::size_t>(by_[0].rows()); }

 private:
  struct Exact {
    double share;           ///< 1 / factor
    Eigen::VectorXd shape;  ///< of the shapes
  };
  /// Of all the shapes together.
  Exact exact_among(const Vector3& direction) const;
  void start_from(std::span<const Vector3> directions);
  std::array<Eigen::MatrixXd, 3> by_;  ///< what Nx, Ny, Nxy do among the shapes, over their stiffness
  Eigen::MatrixXd starts_;             ///< sums of the shapes that some loads buckle it in, a column each
  Eigen::Matrix3Xd straight_;          ///< what Nx, Ny, Nxy do to each of these
};

/// What a place of a bent panel carries.
struct BentPlace {
  double x = 0.0, y = 0.0;
  double deflection = 0.0;
  Vector3 curvature = Vector3::Zero();  ///< x, y, xy (twice the twist)
  Vector3 moment = Vector3::Zero();     ///< force: about the plane of no stretching
  Vector2 shear = Vector2::Zero();      ///< force per length, by the strains of shear
};

/// The shape in which it buckles at `forward`, the largest deflection 1, at places in a grid of rows along x, edges included.
/// \throws std::invalid_argument as buckling_factors(), and where these loads buckle nothing.
std::vector<BentPlace> buckling_shape(const Panel& panel, const Vector3& N, const Terms& terms = {},
                                      std::size_t rows = 41);

/// The lowest frequencies, cycles per time, in rising order; as many as were asked for. The mass turns with nothing (no
/// rotary inertia). \param preload forces in the plane that it vibrates under, tension positive.
/// \throws std::invalid_argument as buckling_factors(), and where the preload buckles it.
std::vector<Settled> natural_frequencies(const Panel& panel, std::size_t count,
                                         const Vector3& preload = Vector3::Zero(), const Terms& terms = {});

/// A panel under an even pressure, small deflections.
struct Bent {
  Settled largest;                ///< deflection
  double x = 0.0, y = 0.0;        ///< where
  double mean = 0.0;              ///< deflection over the panel
  std::vector<BentPlace> places;  ///< in a grid of rows along x, edges included
};

/// \param pressure force per area along z. \param rows of places, each way. \param preload forces in the plane that act, too:
/// they add to what the pressure bends, or take off it.
/// \throws std::invalid_argument as natural_frequencies().
Bent under_pressure(const Panel& panel, double pressure, const Terms& terms = {}, std::size_t rows = 21,
                    const Vector3& preload = Vector3::Zero());

/// Navier's answers of the same theory, mode by mode, where it has them: all edges simply supported, D16, D26 and H12 nought, no
/// Nxy. J. N. Reddy, Mechanics of Laminated Composite Plates and Shells, sections 6.3 and 6.5.
struct ClosedForm {
  std::optional<double> buckling;  ///< factor of N; nothing where it buckles nothing
  int m = 0, n = 0;                ///< half waves along x and y that it buckles in
  double frequency = 0.0;          ///< the first; nought without mass
  double middle = 0.0;             ///< deflection in the middle under a pressure of 1; nothing in the plane acts
};
/// \returns nothing where there is none. \throws std::invalid_argument as buckling_factors(), but for loads that are nought.
std::optional<ClosedForm> closed_form(const Panel& panel, const Vector3& N);

}  // namespace bordado::sizing

#endif
