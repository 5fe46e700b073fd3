/// \file drape.hpp
/// Cloth on the surface: the smooth surface under it, nets of yarns, how far they shear, tape laid straight.
#ifndef BORDADO_DRAPE_HPP
#define BORDADO_DRAPE_HPP

#include <bordado/mesh/curves.hpp>
#include <bordado/part/lay.hpp>

#include <Eigen/Geometry>

#include <array>
#include <functional>
#include <memory>

namespace bordado::drape {

// ---------------------------------------------------------------------------------------------------------------------
// The smooth surface
// ---------------------------------------------------------------------------------------------------------------------

/// A place on a smooth surface, in the coordinates of an element: triangles on xi, eta >= 0, xi + eta <= 1;
/// quadrilaterals on [-1, 1]^2. A little outside these is still a place.
struct Spot {
  mesh::ElementIndex element = mesh::no_index;
  double xi = 0.0, eta = 0.0;
};

/// How a surface goes on past its border. Likely: where the curvature of nodes within the border changes evenly it goes on
/// changing so, elsewhere it stays as it is at the border. Otherwise: the other one of both.
enum class GoesOn : std::uint8_t { likely, otherwise };

struct SmoothOptions {
  Angle crease = Angle::degrees(35.0);  ///< edges where the surface turns by more stay sharp
  mesh::NodePairs creases = {};         ///< further sharp edges: corner nodes, smaller index first, ascending
  mesh::NodePairs cuts = {};            ///< edges across which the cloth does not hold together, as above
  /// How far the surface is carried on past its border, part length, 0 and more; no further than four tenths of its
  /// radius of curvature there. Holes are filled where they are no wider than twice that.
  double margin = 0.0;
  GoesOn goes_on = GoesOn::likely;
};

/// A mesh as one smooth surface: every element is a quadratic patch. At each node a polynomial is fitted to the nodes
/// round it (a height above a plane; F. Cazals and M. Pouget, Computer Aided Geometric Design 22 (2005) 121): cubic
/// inside, quadratic at borders and sharp edges; those of an element's corners, mixed by its shape functions, give the
/// middles of its sides. Where the mesh has curved sides, their own middles are taken. Its error falls with the third
/// power of the size of elements and faster.
struct SmoothSurface {
  std::size_t own = 0;                    ///< elements of the mesh; those behind them carry it on
  std::vector<std::uint8_t> corners;      ///< per element 3 or 4
  std::vector<Vec3> control;              ///< per element 9: corners, middles of sides from 1-2 on, the centre
  std::vector<std::uint32_t> neighbours;  ///< per element 4: across side 1-2, 2-3, ...; no_index at a border
  std::vector<std::uint8_t> sharp;        ///< per element a bit for each side that is a sharp edge
  std::vector<float> radius;              ///< per element the least radius of curvature; infinite on planes
  double size = 0.0;                      ///< of the box round the mesh, corner to corner
  std::size_t rejected = 0;               ///< sides that stayed straight, because curved patches would have folded

  std::size_t element_count() const { return corners.size(); }
  bool is_own(mesh::ElementIndex element) const { return element < own; }

  struct Sample {
    Vec3 point, by_xi, by_eta;
    Vec3 normal() const { return by_xi.cross(by_eta).normalized(); }
  };
  /// The place, and its derivatives by both coordinates.
  Sample at(const Spot& spot) const;
  /// The place alone.
  Vec3 point(const Spot& spot) const { return at(spot).point; }
  /// The middle of an element's coordinates.
  Spot centre(mesh::ElementIndex element) const {
    return corners[element] == 3 ? Spot{element, 1.0 / 3.0, 1.0 / 3.0} : Spot{element, 0.0, 0.0};
  }
  /// How far a place lies outside its element, and past which side; nothing where it is inside it.
  struct Outside {
    unsigned side;
    double by;  ///< in the element's coordinates
  };
  std::optional<Outside> outside(const Spot& spot) const;
  /// The coordinates on an element's flat facet of the place on it that is nearest to a point, roughly. They can lie
  /// outside it.
  Spot on_facet(mesh::ElementIndex element, const Vec3& point) const;
  /// Walks from an element towards a point, and to the place under it, along the surface's normal. Nothing where the
  /// border comes first.
  std::optional<Spot> under(const Vec3& point, mesh::ElementIndex from) const;
  /// The second fundamental form over the first: curvature of the surface along a unit tangent, positive where it bends
  /// towards the normal (hollow seen from the normal's tip).
  double curvature_along(const Spot& spot, const Vec3& direction) const;
};
/// Sides of elements along a line on the surface or near it: the shortest way along sides from point to point of it.
mesh::NodePairs sides_along(const mesh::Surface& surface, const mesh::Curve& line);

SmoothSurface smooth(const mesh::Surface& surface, const mesh::Geometry& geometry, const SmoothOptions& options = {});

// ---------------------------------------------------------------------------------------------------------------------
// The net
// ---------------------------------------------------------------------------------------------------------------------

/// Why a net does not go on.
enum class Stop : std::uint8_t {
  none,
  border,  ///< the surface ends there
  locked,  ///< the yarns lie along each other: no cell can follow
  folded,  ///< the next cell would fold back over the last
  apart,   ///< yarns that came another way are not where they would have to be
  lost     ///< no crossing was found
};
inline constexpr std::array<std::string_view, 6> stop_names = {"none", "border", "locked", "folded", "apart", "lost"};

/// Where warp and weft cross, at whole numbers i, j of cells from the seed along warp and weft.
struct Knot {
  Vec3 point = Vec3::Zero(), normal = Vec3::Zero();
  Spot spot;
  std::uint8_t placed = 0;
  std::uint8_t goes_on = 0;  ///< cells may be laid on from here
  std::uint8_t beside = 0;   ///< the way to it from the seed leads past the border
  std::uint8_t lap = 0;      ///< cells from where the net began to lie on itself; 0 where it does not
  Stop stop = Stop::none;    ///< why it was not placed
};

/// Knots by whole numbers, in tiles that are made where the net comes to.
class Lattice {
 public:
  /// nullptr where nothing was made.
  const Knot* find(int i, int j) const;
  /// nullptr where there is no placed one.
  const Knot* placed(int i, int j) const {
    const Knot* const knot = find(i, j);
    return knot && knot->placed ? knot : nullptr;
  }
  Knot& make(int i, int j);
  /// Calls with(i, j, knot) for every placed knot, in a fixed order.
  template <class With>
  void for_each(With with) const {
    for (std::size_t r = 0; r < rows_.size(); ++r)
      for (std::size_t c = 0; c < rows_[r].tiles.size(); ++c)
        if (const auto& tile = rows_[r].tiles[c])
          for (int k = 0; k < side * side; ++k)
            if (const Knot& knot = (*tile)[static_cast<std::size_t>(k)]; knot.placed)
              with((rows_[r].first + static_cast<int>(c)) * side + k % side,
                   (first_ + static_cast<int>(r)) * side + k / side, knot);
  }
  std::size_t bytes() const;

 private:
  static constexpr int side = 16;
  using Tile = std::array<Knot, side * side>;
  struct Row {
    int first = 0;
    std::vector<std::unique_ptr<Tile>> tiles;
  };
  int first_ = 0;
  std::vector<Row> rows_;
};

/// How a half of a generator turns on the surface as it runs outwards, to the left (about the normal): geodesic curvature
/// at the seed, and its change per length.
struct Steering {
  double curvature = 0.0, change = 0.0;  ///< per part length, per its square
};

struct NetOptions {
  Vec3 seed = Vec3::Zero();               ///< a point on the surface or near it
  std::optional<Spot> at = {};            ///< where that is on it, if it is known already
  Vec3 direction = Vec3::UnitX();         ///< of the warp at the seed, projected on the surface there
  double cell = 0.0;                      ///< length of a yarn from knot to knot
  Angle rest = Angle::degrees(90.0);      ///< from warp to weft, unsheared
  std::array<Steering, 4> steering = {};  ///< of warp forward, weft forward, warp back, weft back
  /// A line that the yarn through the seed which runs along it follows as far as it goes, warp or weft.
  std::vector<Vec3> along = {};
  /// Per element of the mesh whether cloth is wanted there; empty: everywhere. The net goes on past it by `beyond`.
  std::vector<std::uint8_t> wanted = {};
  double beyond = 0.0;
  std::size_t most_knots = 30'000'000;
  bool fill = true;  ///< go on where the generators do not reach, with yarns that run straight on from known ones
};

/// Pin-jointed, inextensible yarns on a surface: after C. Mack and H. M. Taylor, J. Textile Institute 47 (1956) T477. All
/// sides of cells have the same length along the surface.
struct Net {
  NetOptions options;
  bool strips = false;  ///< tape, strip beside strip
  Lattice lattice;
  std::size_t knots = 0;
  std::size_t laps = 0;                ///< of them where the net lies on itself
  std::size_t filled = 0;              ///< yarns that had to run straight on from known ones
  std::array<std::size_t, 6> stops{};  ///< how often each reason was met
  struct Stopped {
    Stop why;
    Vec3 near;            ///< the last knot before it
    bool wanted = false;  ///< cloth is wanted there
  };
  std::vector<Stopped> stopped;  ///< the first thousand that no border was the reason of
  bool cut_short = false;        ///< by `most_knots`
};

/// The place of the surface nearest to a point, and its normal. \throws Failure "drape.seed" where the surface is not
/// near: further away than a twentieth of its size.
std::pair<Spot, Vec3> seed_on(const SmoothSurface& surface, const Vec3& point);

/// Lays a net from the seed on, nearest knots first.
/// \throws Failure "drape.seed", "drape.direction", "drape.cell".
Net net(const SmoothSurface& surface, const NetOptions& options);

/// Tape laid straight, strip beside strip: a line runs straight from the seed square to the fibres, and from every
/// `cell` of it a strip runs straight both ways. Knots are i cells along strip j. Between strips that come nearer to each
/// other or part there are overlaps and gaps. \throws Failure as net().
Net strips(const SmoothSurface& surface, const NetOptions& options);

/// The steering of the generators with which the cloth shears least: four numbers, then eight, by Gauss-Newton steps on
/// coarse nets; what is least is the eighth power of the shear in the mean over the area, with 90° wherever cloth is
/// wanted and no net comes. \param options those of the net; the cell is chosen here.
struct Led {
  std::array<Steering, 4> steering = {};
  double before = 0.0, after = 0.0;  ///< that mean, degrees, of straight generators and of these
  std::size_t nets = 0;              ///< how many were tried
};
Led led_for_least_shear(const SmoothSurface& surface, const NetOptions& options);

// ---------------------------------------------------------------------------------------------------------------------
// Cloth on the elements
// ---------------------------------------------------------------------------------------------------------------------

/// What a net makes of every element of the mesh, at its centre.
struct OnElements {
  std::vector<Vec3> warp, weft;  ///< unit vectors in the smooth surface; zero where the net does not come
  std::vector<double> shear;  ///< degrees: the angle at rest less the angle between warp and weft; not a number there
  std::vector<std::array<double, 2>> cloth;  ///< along warp and weft from the seed, part length; not numbers there
  std::vector<std::uint8_t>
      beside;  ///< the way there from the seed leads past the border, where nobody knows the surface
  /// Of strips: the distance of their middles over their width. Above one a gap, below an overlap. Empty of nets.
  std::vector<double> spacing;
  bool reached(mesh::ElementIndex element) const { return !warp[element].isZero(); }
};
OnElements on_elements(const SmoothSurface& surface, const Net& net);

/// Thickness of sheared cloth over that at rest, at a constant fibre volume: sin(rest) / sin(rest - shear).
double thickening(Angle rest, double shear_degrees);

using part::Lay;

struct Options {
  NetOptions net = {};  ///< a cell of nought: chosen by size and curvature
  Lay lay = Lay::straight;
  bool with_error = true;  ///< lay it again with twice the cell
  /// The same surface carried on otherwise (GoesOn), asked for where cloth leads past the border: what is known of such cloth.
  std::function<std::shared_ptr<const SmoothSurface>()> otherwise = {};
  /// With that, and a cell of nought: the cell is halved until shear is known to this at the worst place, degrees, as long
  /// as that helps and a million cells suffice.
  double aim = 0.5;
};

/// Why a cell is as large as it is.
enum class CellBy { given, curvature, size, count, accuracy };

/// Cloth on a surface, laid once for all plies that share it.
struct Drape {
  Lay lay = Lay::straight;
  Net net;
  OnElements elements;
  CellBy cell_by = CellBy::given;
  double radius = 0.0;  ///< the least that the cell was chosen for; infinite on planes
  Led led;              ///< of Lay::led
  /// What the shear of each element is known to, degrees: the difference from the net of twice the cell and, where cloth leads
  /// past the border, that from the net on the surface carried on otherwise. Of strips the direction. Not a number where nothing tells; empty
  /// where it was not asked for.
  std::vector<float> known_to;
  std::optional<double> largest_error, mean_error;  ///< the largest of it, and its mean over the area
  std::vector<mesh::ElementIndex> unreached;        ///< of those where cloth is wanted, ascending
  bool folds = false;                               ///< it is bent over sharp edges
};
/// \throws Failure as net().
Drape lay(const SmoothSurface& surface, const mesh::Geometry& geometry, const Options& options);

/// The cell that suits a surface: a tenth of its radius of curvature where that is small (of a twentieth of the area),
/// no more than a fortieth of what is to be covered and no less than makes 200,000 cells.
std::pair<double, CellBy> cell_for(const SmoothSurface& surface, const mesh::Geometry& geometry,
                                   std::span<const std::uint8_t> wanted, double* radius = nullptr);

/// What comes of cloth on some elements.
struct Verdict {
  double area = 0.0;                           ///< of the elements
  double reached = 0.0;                        ///< of those that the net comes to
  double mean_shear = 0.0;                     ///< of its absolute value over the area, degrees
  double least_shear = 0.0, most_shear = 0.0;  ///< degrees, with their sign
  std::optional<mesh::ElementIndex> worst;     ///< of the largest absolute value
  double past_limit = 0.0;                     ///< area sheared by more than the limit
  std::vector<mesh::ElementIndex> past;        ///< those elements, worst first
  double mean_thickening = 1.0, most_thickening = 1.0;
  double cloth_area = 0.0;                        ///< of the flat cloth that lies there
  double widest_gap = 0.0, widest_overlap = 0.0;  ///< of strips, in shares of their width
  /// The tightest hollow along warp or weft, where fibres under tension would bridge: a radius, and where.
  std::optional<double> bridging;
  std::optional<mesh::ElementIndex> bridges_at;
};
/// \param limit of the absolute shear, degrees. \param elements ascending.
Verdict judge(const SmoothSurface& surface, const mesh::Geometry& geometry, const Drape& drape,
              std::span<const mesh::ElementIndex> elements, std::optional<double> limit);

}  // namespace bordado::drape

#endif
