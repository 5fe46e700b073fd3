/// \file layup.hpp
/// Plies over zones: the stack on every element.
#ifndef BORDADO_LAYUP_HPP
#define BORDADO_LAYUP_HPP

#include <bordado/base/work.hpp>
#include <bordado/drape.hpp>
#include <bordado/frame.hpp>
#include <bordado/laminate.hpp>

#include <algorithm>
#include <array>
#include <functional>

namespace bordado::mesh {
struct CutOptions;
struct CutReport;
}  // namespace bordado::mesh

namespace bordado::layup {

using part::FrameId;
using part::MaterialId;
using part::PlyId;
enum class StackId : std::uint32_t {};   ///< in order of first elements
enum class TaperId : std::uint32_t {};   ///< in Layup::tapers
enum class ClothId : std::uint32_t {};   ///< in Layup::cloths
enum class RegionId : std::uint32_t {};  ///< in Layup::regions
enum class RampId : std::uint32_t {};    ///< in Layup::ramps
enum class DrapeId : std::uint32_t {};   ///< in Layup::drapes

/// What tells the direction of fibres: plies of one cloth share it.
struct Cloth {
  FrameId frame{};
  std::optional<DrapeId> drape = {};  ///< its fibres run as that says, and not as the frame and their angle
  friend bool operator==(const Cloth&, const Cloth&) = default;
};

/// Cloth as it was draped, for all plies of one seed, direction and angle at rest.
struct Draping {
  std::size_t declared = 0;  ///< in Part::drapes
  Angle angle;               ///< from 0° to its warp at the seed
  Angle rest = Angle::degrees(90.0);
  FrameId frame{};  ///< of its first ply
  struct Piece {
    std::size_t declared = 0;  ///< in Part::drapes
    drape::Drape laid;
    std::vector<mesh::ElementIndex> elements;             ///< where it is wanted, ascending
    std::shared_ptr<const drape::SmoothSurface> surface;  ///< that it lies on, cut along its darts
  };
  std::vector<Piece> pieces;
  std::vector<mesh::ElementIndex> elements;  ///< that its plies lie on, ascending
  std::vector<std::uint8_t> piece_of;  ///< per element: the piece that lies there, plus one; nought where none reaches
  /// Per element, as in drape::OnElements. Where no piece reaches: the frame's direction, unsheared.
  std::vector<Vec3> warp, weft;
  std::vector<float> shear;  ///< degrees
  bool angles_only = false;  ///< plies take where fibres run, and are as thick and stiff as at rest
  /// Thickness of the cloth over that at rest.
  double thickening(mesh::ElementIndex element) const {
    return drape::thickening(rest, static_cast<double>(shear[element]));
  }
  /// Degrees of shear that its plies take the thickness and properties of.
  double taken(mesh::ElementIndex element) const { return angles_only ? 0.0 : static_cast<double>(shear[element]); }
};

/// An edge moved along the surface, where a ramp runs along it. Outwards > 0, part length.
struct Moved {
  RampId ramp{};
  double by = 0.0;
  friend auto operator<=>(const Moved&, const Moved&) = default;
};

/// Where plies lie: on the elements of a zone; or within its edge as the shape has it, moved all round or by ramps.
struct Region {
  zone::ZoneId zone = zone::everything;
  std::optional<double> edge = {};  ///< moved by this all round
  std::vector<Moved> moved = {};    ///< or by these
  part::Corners corners = part::Corners::round;
  std::optional<part::Scallop> scallop = {};
  /// Whether its edge goes through elements; otherwise it holds whole elements.
  bool has_edge() const { return edge || !moved.empty(); }
};

/// Where edges make regions differ from the elements of their zones: element e has entries first[e] .. first[e + 1] - 1,
/// by ascending region.
struct Parts {
  std::vector<std::uint32_t> first;
  std::vector<RegionId> region;
  std::vector<float> covered;  ///< part of the element's area, 0 to 1
};

/// Plies that end on one line of a ramp.
struct RampStep {
  std::vector<PlyId> plies;  ///< in laying order
  double by = 0.0;           ///< their edge against the border of the thick zone, outwards > 0; part length
  double thickness = 0.0;    ///< that ends here
  double run = 0.0;          ///< to the next line; nought for the last
  double length = 0.0;       ///< of the line over the surface
  bool symmetric = false;    ///< what is left is a mirror of itself
  bool balanced = false;     ///< what is left has -θ for every θ
};

/// A ramp as it was made.
struct Ramp {
  std::string name;
  std::size_t declared = 0;  ///< in Part::ramps
  zone::ZoneId from = zone::everything;
  std::optional<zone::ZoneId> to;
  std::vector<PlyId> thick;                  ///< the stack that it begins with, along most of the line
  bool symmetric = false, balanced = false;  ///< that stack, as RampStep says of what is left
  std::vector<RampStep> steps;               ///< from the thick zone on
  double run = 0.0;                          ///< from the first line to the last
  double length = 0.0;                       ///< of the border that it runs along
  /// How far the surface goes on from there at the most; infinite where that is far more than the ramp takes.
  double room_inside = 0.0, room_outside = 0.0;
  /// Per zone of its plies: along which pieces of the border the ramp runs.
  std::map<zone::ZoneId, std::vector<std::uint8_t>> along;
};

/// A ply with its names looked up.
struct Ply {
  MaterialId material{};
  ClothId cloth{};
  RegionId region{};
  double thickness = 0.0;  ///< part length; where it varies the largest there is, of draped cloth that at rest
  Angle angle;
  std::optional<TaperId> taper;  ///< where its thickness varies
};

/// The thickness of plies that vary alike.
struct Taper {
  std::vector<double> thickness;  ///< per element, part length; the mean over the element
};

/// Which plies lie on which element. Elements covered by the same plies share one stack.
struct Layup {
  List<PlyId, Ply> plies;
  List<ClothId, Cloth> cloths;
  List<DrapeId, Draping> drapes;
  List<RegionId, Region> regions;
  Parts parts;
  List<RampId, Ramp> ramps;
  zone::Curves curves;
  zone::ZoneSets zones;
  List<FrameId, frame::Field> frames;  ///< per declared frame; empty directions where no ply uses it
  List<TaperId, Taper> tapers;
  List<StackId, std::uint8_t> varies;  ///< per stack: whether the thickness of a ply of it varies
  std::vector<StackId> stack_of;       ///< per element
  std::vector<std::uint32_t>
      first;  ///< stack s has plies[stack_plies[first[s]]] .. [first[s + 1] - 1], first laid first
  std::vector<PlyId> stack_plies;
  std::vector<std::uint8_t> ply_varies;  ///< beside stack_plies: whether the ply's thickness varies on these elements
  /// Per element: mass per area that carries nothing (part::Mass), in the middle of the laminate. Empty where there is
  /// none. What is declared at a point or by length lies on the elements there.
  std::vector<double> added_mass;

  Layup();
  Layup(Layup&&) noexcept;
  Layup& operator=(Layup&&) noexcept;
  ~Layup();

  std::size_t stack_count() const { return varies.size(); }
  Ids<StackId> stacks() const { return varies.ids(); }
  std::span<const std::uint8_t> varying_of(StackId stack) const {
    return {ply_varies.data() + first[index(stack)], ply_varies.data() + first[index(stack) + 1]};
  }
  FrameId frame_of(PlyId ply) const { return cloths[plies[ply].cloth].frame; }
  /// How a ply is draped, or nullptr.
  const Draping* draping_of(PlyId ply) const {
    const auto& drape = cloths[plies[ply].cloth].drape;
    return drape ? &drapes[*drape] : nullptr;
  }
  /// The direction of a ply's fibres (the warp of a fabric) on an element: a unit vector in its plane.
  Vec3 fibre(PlyId ply, mesh::ElementIndex element, const Vec3& normal) const;
  /// 0° of a ply's frame on every element.
  const std::vector<Vec3>& directions_of(PlyId ply) const { return frames[frame_of(ply)].directions; }
  /// The part of an element's area that a ply covers, 0 to 1.
  double covered(PlyId ply, mesh::ElementIndex element) const { return covered(plies[ply].region, element); }
  double covered(RegionId region, mesh::ElementIndex element) const {
    if (regions[region].has_edge()) {
      const auto begin = parts.region.begin() + parts.first[element];
      const auto end = parts.region.begin() + parts.first[element + 1];
      const auto found = std::lower_bound(begin, end, region);
      if (found != end && *found == region)
        return static_cast<double>(parts.covered[static_cast<std::size_t>(found - parts.region.begin())]);
    }
    return zones.contains(regions[region].zone, element) ? 1.0 : 0.0;
  }
  /// Whether a ply covers a part of an element, and has not run out there.
  bool lies_on(PlyId ply, mesh::ElementIndex element) const;
  /// Elements that a ply lies on, ascending.
  std::vector<mesh::ElementIndex> elements_of(PlyId ply) const;
  std::span<const PlyId> plies_of(StackId stack) const {
    return {stack_plies.data() + first[index(stack)], stack_plies.data() + first[index(stack) + 1]};
  }
};

/// Lays every ply of the part on the surface, draped ones as cloth lies. Stacks are numbered in order of their first element.
/// Findings: "layup.ply-nowhere", "layup.edge-swallows", "layup.edge-narrow" (a warning), "layup.edge-none", "layup.element-bare", "layup.of-unknown",
/// "layup.field", "layup.no-thickness", "ramp.zone-unknown", "ramp.nothing-ends", "ramp.ply-unknown", "ramp.ply-not",
/// "ramp.twice", "ramp.too-long", "ramp.swallows", "layup.chamfer", "frame.near-normal", "mesh.no-area", "drape.seed",
/// "drape.direction", "drape.cell", "drape.curve-unknown", "drape.dart", "drape.nowhere" (errors); "drape.unreached",
/// "drape.apart", "drape.locked", "drape.unsheared", "drape.table-ends", "drape.expansion-unsheared" (warnings); "drape.folds", "drape.unused" (notes);
/// "ramp.cover-ends", "ramp.none", "layup.chamfer-long", "layup.scallop-fine" (warnings); "frame.fallback", "layup.edges", "layup.material-unused",
/// "layup.frame-unused" (notes); "mass.on-unknown", "mass.on-kind" (errors); those of zone::zones().
/// \throws Failure with all errors.
Layup lay(const part::Part& part, const mesh::Surface& surface, const mesh::Geometry& geometry, Findings& findings,
          const Progress& progress = {});

/// A part on its surface, with what lies there.
struct Laid {
  part::Part part;
  mesh::Surface surface;  ///< sides agreed
  mesh::Geometry geometry;
  Layup layup;
};

/// The edge of a ply as lines over the surface; where it has none of its own, sides of the elements it ends on. The
/// part's own border is none.
std::vector<mesh::Curve> edge_lines(const Layup& layup, const mesh::Surface& surface, RegionId region);
/// The same of all regions that have edges of their own; of the others nothing.
List<RegionId, std::vector<mesh::Curve>> edge_lines(const Layup& layup, const mesh::Surface& surface);

/// The surface cut along the edges of all plies that have edges of their own; see mesh::cut().
/// Findings: "cut.nothing" (a note) where no ply has one.
mesh::Surface cut_at_edges(const Laid& laid, const mesh::CutOptions& options, mesh::CutReport& report,
                           Findings& findings);

/// A layer as it lies on one element.
struct LaidLayer {
  PlyId ply{};
  MaterialId material{};
  double bottom = 0.0;     ///< part length; height of its lower face above the mesh along n
  double thickness = 0.0;  ///< of what covers a part of the element: spread over all of it
  double covered = 1.0;    ///< that part of its area
  Angle angle;             ///< of its fibres (the warp of a fabric) from 0° of the element's reference
  Angle shear = {};        ///< by which warp and weft have left their angle at rest
  friend bool operator==(const LaidLayer&, const LaidLayer&) = default;
};

/// A layer that runs out to less than this share of what it is at its thickest is not there.
inline constexpr double run_out = 1e-6;

/// Whether edges of plies go through the element that these lie on.
inline bool is_crossed(std::span<const LaidLayer> layers) {
  return std::any_of(layers.begin(), layers.end(), [](const LaidLayer& layer) { return layer.covered < 1.0; });
}

/// What lies on a piece of an element that edges of plies cross: whole layers, bottom to top.
struct Piece {
  std::vector<LaidLayer> layers;
  double bottom = 0.0;      ///< from the mesh along n
  std::uint8_t number = 0;  ///< from the one with the most plies ended
};
/// The pieces of an element, one where nothing crosses it. They are taken to lie in each other: what covers least lies within
/// what covers more.
std::vector<Piece> pieces(const part::Part& part, std::span<const LaidLayer> layers);

/// A layer at both ends of a piece of a line.
struct LayerAlong {
  PlyId ply{};
  std::array<double, 2> bottom{}, thickness{};  ///< bottom from the mesh along n
};

/// What lies on an element: the one place that knows. Refers to all it is given. One for each thread.
class LayersOn {
 public:
  explicit LayersOn(const Laid& laid) : part_(laid.part), geometry_(laid.geometry), layup_(laid.layup) {}
  /// Bottom to top; until the next call.
  std::span<const LaidLayer> operator()(mesh::ElementIndex element);
  /// What lies along a straight piece of a line within an element, bottom to top. \param inside how far its two ends lie
  /// within the edge of a region, where that edge runs through elements here; nothing of a region that goes on
  std::vector<LayerAlong> along(mesh::ElementIndex element,
                                const std::function<std::optional<std::array<double, 2>>(RegionId)>& inside) const;
  /// The direction of 0° on an element: the frame of its stack's first ply.
  const Vec3& reference(mesh::ElementIndex element) const;

 private:
  const part::Part& part_;
  const mesh::Geometry& geometry_;
  const Layup& layup_;
  std::vector<LaidLayer> layers_;
  std::optional<StackId> stack_;  ///< whose layers these are
  bool alike_ = false;            ///< all its elements have the same
};

/// The thickness of what lies on every element.
std::vector<double> thicknesses(const Laid& laid);

/// A layer with the constants of its material; of sheared cloth those at its shear, in axes along the warp.
laminate::Layer layer_of(const part::Part& part, const LaidLayer& layer);
/// What a material becomes at an angle of shear; outside its table what stands at the table's end. Nothing where the
/// material is no fabric, or has neither yarns nor a table.
std::optional<material::ShearedCloth> sheared_cloth(const material::Material& material, Angle shear);
enum class ClothAxes { warp, diagonal };  ///< 1 along the warp, or along the longer diagonal of its cells
/// The material that a cloth is at an angle of shear: stiffness, and expansion and swelling where its yarns tell them (they
/// are those of the unsheared cloth otherwise). Nothing where sheared_cloth() has nothing.
std::optional<material::Material> at_shear(const material::Material& material, Angle shear, ClothAxes axes);

/// The thickness of a ply on an element; nought where it has run out.
double thickness(const Layup& layup, PlyId ply, mesh::ElementIndex element);

/// The same at a place within the element. \param inside how far that lies within the edge of the ply, where the edge goes
/// through elements; beyond it there is nothing.
double thickness_at(const part::Part& part, const Layup& layup, PlyId ply, mesh::ElementIndex element,
                    std::optional<double> inside);

/// Thickness of a stack and its mass per area (without what is added); where plies vary, with each as thick as it gets.
double thickness(const Layup& layup, StackId stack);
double areal_mass(const part::Part& part, const Layup& layup, StackId stack);

/// z of the bottom of a laminate of thickness h, from the mesh along n: 0, -h/2 or -h, plus the part's offset.
double bottom(const part::Part& part, double h);

/// The nominal code of a stack, "[0/45C]", with material marks where the stack has more than one material,
/// and "@frame" behind plies whose frame is not that of the first.
std::string code(const part::Part& part, const Layup& layup, StackId stack);
/// The same of the plies that lie on an element.
std::string code(const part::Part& part, const Layup& layup, std::span<const LaidLayer> layers);

/// Everything that the plies of a stack are declared to be, by names and in SI: material, thickness and how it varies, angle,
/// frame, cloth, edge, corners and chamfer. Stacks of two parts that are laid alike have the same one.
std::string signature(const Laid& laid, StackId stack);

/// Per stack the names of the zones that hold the whole of it, narrowest first; one that holds a narrower one named
/// already says nothing new. "everything" where none other does.
List<StackId, std::vector<std::string>> zones_of_stacks(const Layup& layup);

/// Mass of the laid part.
struct Mass {
  double area = 0.0;
  double mass = 0.0;           ///< with what is added to the laminate
  double added = 0.0;          ///< that part of it: water, paint, fittings
  std::optional<Vec3> centre;  ///< with each layer at its own height above the mesh; nothing where there is no mass
  List<zone::ZoneId, double> zone_areas;
  List<zone::ZoneId, double> zone_masses;  ///< of everything laid over each zone
  List<StackId, double> stack_areas;
  List<StackId, double> stack_masses;
  /// The thinnest and the thickest that it lies anywhere.
  List<StackId, std::array<double, 2>> stack_thickness;
};
Mass mass(const Laid& laid);

}  // namespace bordado::layup

#endif
