/// \file loads.hpp
/// What a part file declares of supports, loads, masses and load cases, as plain data; nothing computed.
/// Keys: docs/part-file.md.
#ifndef BORDADO_LOADS_HPP
#define BORDADO_LOADS_HPP

#include <bordado/base/findings.hpp>
#include <bordado/base/vector.hpp>

#include <array>
#include <variant>

namespace bordado::part {

/// A curve, zone or group by name, or a point of the surface: where something acts or is measured from.
struct PointOrName {
  std::variant<std::string, Vec3> what;
  Place where;
};

/// What supports, loads and masses act on: a point, or mesh groups, curves and zones taken together as one.
struct ActsOn : PointOrName {
  std::vector<Declared<std::string>> also = {};  ///< the second name and what follows
};

// --- amounts that vary in space
// --------------------------------------------------------------------------------------

/// A formula of x, y and z, in part lengths.
struct Formula {
  Declared<std::string> text;
};
/// By the coordinate along an axis, straight between the lines of a table and level beyond its ends.
struct AlongAxis {
  Vec3 from = Vec3::Zero(), along = Vec3::UnitX();  ///< `along` is a unit direction
  std::vector<std::pair<double, double>> table;     ///< coordinate, value; coordinates ascending, part length
};
/// By the distance along the surface from something.
struct ByDistance {
  PointOrName of;
  std::vector<std::pair<double, double>> table;  ///< distance, value; distances ascending, part length
};
/// A field of another mesh that lies where the part is: a number on the nodes or cells of a VTU file.
struct OfField {
  Declared<std::string> file;
  std::string field;
  double factor = 1.0;  ///< part length per length unit of the file
};
/// A number, or one that varies.
struct Amount {
  std::variant<double, Formula, AlongAxis, ByDistance, OfField> kind = 0.0;
  double scale = 1.0;  ///< what it says is times this in part units; of a plain number 1
  bool varies() const { return kind.index() != 0; }
};

// --- supports
// --------------------------------------------------------------------------------------------------------

/// Degrees of freedom of a node, as bits: x, y, z, then rotations about them.
enum Freedom : std::uint8_t { x = 1, y = 2, z = 4, rx = 8, ry = 16, rz = 32 };

/// Holds freedoms, or beds a zone on springs.
struct Support {
  std::string name;
  ActsOn on;              ///< mesh groups, curves or zones, or the node nearest to a point
  std::uint8_t held = 0;  ///< Freedom bits
  Place where;
  /// Whose directions x, y and z are: 0° of a frame, across it in the surface, and the surface's normal.
  std::optional<Declared<std::string>> axes = {};
  std::optional<Vec3> normal = {};  ///< or x along this, a unit direction: of a symmetry plane that stands askew
  /// Instead of holding: stiffness along the normal of the surface, stress per length, both ways.
  std::optional<double> bed = {};
};

// --- loads
// -----------------------------------------------------------------------------------------------------------

/// Pressure of a liquid at rest below its level.
struct Hydrostatic {
  double level = 0.0;                        ///< of its surface: coordinate along `up`; part length
  Vec3 up = Vec3::UnitZ();                   ///< unit direction
  double density = 0.0, acceleration = 0.0;  ///< part units
};
/// Pressure pushing on one face of the laminate.
struct Pressure {
  std::variant<Amount, Hydrostatic> value;  ///< part stress unit, positive pushes
  bool on_tool_face = true;                 ///< the face of the first ply; otherwise the bag face, of the last
};
/// How a force reaches what it acts on from a point beside it.
enum class Reach {
  spread,  ///< by forces on the nodes that balance it and add no stiffness
  link     ///< by a stiff link: the nodes move as one body
};
inline constexpr std::array<std::string_view, 2> reach_names = {"spread", "link"};
/// A total force and moment: at a point, or spread evenly over an edge by length or a zone by area.
struct Force {
  Vec3 total = Vec3::Zero();    ///< part force
  Vec3 moment = Vec3::Zero();   ///< part force times length
  std::optional<Vec3> at = {};  ///< where the force acts; without it in the middle of what it acts on
  Reach reach = Reach::spread;
};
/// Force and moment per length along an edge.
struct EdgeForce {
  Vec3 force = Vec3::Zero(), moment = Vec3::Zero();
  /// Their directions are those of each edge: out of the surface across it, along it (normal, out and along are
  /// right-handed), and the normal. Otherwise the part's.
  bool in_edge_axes = false;
};
/// Force per area over a zone.
struct Traction {
  Vec3 force = Vec3::Zero();
};
/// The part's own weight: force per mass.
struct Gravity {
  Vec3 acceleration = Vec3::Zero();  ///< of free fall; part length per time squared
  bool of_part = false;              ///< written as an acceleration of the part, which pushes the other way
};
/// The part turns about an axis; positive or negative speed is the same.
struct Rotation {
  Vec3 through = Vec3::Zero(), along = Vec3::UnitZ();  ///< a point of the axis, and its unit direction
  double speed = 0.0;                                  ///< radians per part time
};
/// Where nodes are moved to.
struct Displacement {
  std::array<std::optional<double>, 6> by;  ///< part length, then radians about x, y, z
};
/// Temperature at the two faces of the laminate, straight between them; degrees Celsius.
struct Temperature {
  Amount tool, bag;
  bool through = false;             ///< the faces differ
  std::optional<double> from = {};  ///< stress-free temperature of materials that say none
};
struct Load {
  std::string name;
  ActsOn on;  ///< mesh groups, curves or zones, or the node nearest to a point; "everything" of gravity and rotation
  std::variant<Pressure, Force, EdgeForce, Traction, Gravity, Rotation, Displacement, Temperature> kind;
  Place where;
};

// --- masses
// ----------------------------------------------------------------------------------------------------------

/// Mass that carries nothing: water, sand, paint, fittings.
struct Mass {
  enum class Per { total, area, length };
  std::string name;
  ActsOn on;
  Per per = Per::total;
  double value = 0.0;  ///< part mass, per part area or length
  Place where;
};

// --- cases
// -----------------------------------------------------------------------------------------------------------

enum class Analysis {
  linear,               ///< static, small displacements
  large_displacements,  ///< static
  frequencies,
  buckling
};
inline constexpr std::array<std::string_view, 4> analysis_names = {"static", "large-displacements", "frequencies",
                                                                   "buckling"};
struct Share {
  Declared<std::string> name;
  double factor = 1.0;
};
/// A load case.
struct Case {
  std::string name;
  Analysis analysis = Analysis::linear;
  std::vector<Share> loads = {};  ///< with factors; in frequencies they make the stress that the part vibrates under
  std::vector<Share> cases = {};  ///< other cases, whose loads are taken with these factors: a combination
  std::optional<std::vector<Declared<std::string>>> supports = {};  ///< all of the part where it does not say
  int count = 6;                                                    ///< frequencies or factors asked for
  Place where = {};
};

}  // namespace bordado::part

#endif
