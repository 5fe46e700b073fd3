/// \file laminate.hpp
/// Lamination theory of one stack: stiffness, transverse shear, engineering constants; laminate codes.
///
///      z, n ^      ____________  z_N = z0 + h      top: the last ply laid
///           |     |____________|  ply N - 1
///           |     |____________|  ...
///           |     |____________|  ply 0 (first laid, against the tool)
///        mesh ----------------- z0                 bottom
///
/// z is measured from the mesh surface along n. z0 = 0 when the bottom lies on the mesh, -h/2 for the middle, -h for
/// the top. Strain through the thickness: e(z) = e0 + z k, engineering shear. Order of components: x, y, xy; x is the
/// reference.
#ifndef BORDADO_LAMINATE_HPP
#define BORDADO_LAMINATE_HPP

#include <bordado/material.hpp>

namespace bordado::laminate {

using Matrix2 = Eigen::Matrix2d;
using Matrix3 = Eigen::Matrix3d;
using Vector2 = Eigen::Vector2d;
using Vector3 = Eigen::Vector3d;

/// One layer of a stack; layers are listed bottom to top, first laid first.
struct Layer {
  material::Elastic elastic;
  double thickness = 0.0;                            ///< part length unit, positive
  Angle angle;                                       ///< from the reference towards t = n × r
  std::optional<double> density;                     ///< where it is not known it adds nothing to a mass
  Vec3 thermal = Vec3::Zero();                       ///< strain per kelvin along the ply's 1, 2, 3
  Vec3 moisture = Vec3::Zero();                      ///< strain per mass of water per mass of the dry ply
  double thermal_shear = 0.0, moisture_shear = 0.0;  ///< the same, engineering shear 12
  /// Of sheared cloth: what its stress in ply axes (1 along the warp) is held against the strengths of the cloth at rest as.
  std::optional<Matrix3> judged_as = {};
};

/// A layer of a material.
Layer layer_of(const material::Material& material, double thickness, Angle angle);

/// Plane-stress stiffness in ply axes (Jones eq. 2.61): [s1 s2 t12] = Q [e1 e2 g12]. Of an anisotropic material the
/// couplings between plane and transverse shear are left out: a shell theory of this kind has no place for them.
Matrix3 plane_stress_stiffness(const material::Elastic& elastic);

/// Q turned by `angle` into the reference axes (Jones eqs. 2.80 to 2.85).
Matrix3 rotated(const Matrix3& Q, Angle angle);

/// Transverse shear stiffness of a layer in the reference axes: [txz tyz] = G [gxz gyz].
Matrix2 transverse_stiffness(const material::Elastic& elastic, Angle angle);

/// Stiffness of a laminate about the mesh surface: N = A e0 + B k, M = B e0 + D k, Q = H g.
struct Stiffness {
  Matrix3 A = Matrix3::Zero();  ///< force per length
  Matrix3 B = Matrix3::Zero();  ///< force
  Matrix3 D = Matrix3::Zero();  ///< force times length
  Matrix2 H = Matrix2::Zero();  ///< force per length, order xz, yz; see transverse_shear()

  /// The 6 x 6 matrix [A B; B D].
  Eigen::Matrix<double, 6, 6> ABD() const;
};

/// How strains (x, y, xy; engineering shear) are seen along axes that are turned by an angle, counted from x towards y.
/// Transposed it takes stresses, or N or M, from there back. Jones eqs. 2.71 to 2.77.
Matrix3 strains_to(double cosine, double sine);
inline Matrix3 strains_to(Angle angle) { return strains_to(angle.cos(), angle.sin()); }

/// Strain and curvature under N and M (or any column for any other), and all such columns at once. By full pivoting: entries
/// of A and of D are powers of ten apart.
material::Vector6 solve(const material::Matrix6& stiffness, const material::Vector6& load);
material::Matrix6 inverse(const material::Matrix6& stiffness);

/// A, B, D by summing over the layers (Jones eqs. 4.22 to 4.26) and H by transverse_shear().
/// \param z0 bottom of the first layer, from the mesh surface along n.
/// \throws std::invalid_argument for an empty stack or a thickness that is not positive.
Stiffness stiffness(std::span<const Layer> layers, double z0);

/// Energy-consistent transverse shear stiffness. The shear stresses come from equilibrium, t(z) = -∫ (ds/dx + dt/dy)
/// dz, for the moment gradients dMx/dx = Qx and dMy/dy = Qy (two cylindrical bendings); H is such that Qᵀ H⁻¹ Q is the
/// integral of tᵀ G⁻¹ t over the thickness, exactly (the stress is quadratic in each layer). Reference: K. Rohwer,
/// Improved Transverse Shear Stiffnesses for Layered Finite Elements, DFVLR-FB 88-32 (1988). One homogeneous layer
/// gives 5/6 G h; a sandwich with stiff thin faces gives Gc d² / tc. Does not depend on z0. It is exact for bending
/// into a cylinder about y and about x; in between it depends on the axes (by 3 to 20 % for thin carbon laminates, by
/// nothing for a sandwich with an isotropic core).
Matrix2 transverse_shear(std::span<const Layer> layers);

/// The sum of G t over the layers: what an element with one constant shear strain through the thickness feels.
Matrix2 transverse_shear_voigt(std::span<const Layer> layers);

/// The inverse of the stiffness: e0 = a N + b M, k = bᵀ N + d M.
struct Compliance {
  Matrix3 a = Matrix3::Zero();  ///< length per force
  Matrix3 b = Matrix3::Zero();  ///< 1 per force
  Matrix3 d = Matrix3::Zero();  ///< 1 per force and length
};
Compliance compliance(const Stiffness& stiffness);

/// Engineering constants of the laminate as a plate of thickness h.
struct EngineeringConstants {
  double Ex, Ey, Gxy, nuxy;
};

/// From the inverse of the full ABD about the laminate's own mid-plane: it is free to bend when pulled there.
/// \param middle z of the mid-plane from the mesh surface: z0 + h/2.
EngineeringConstants in_plane(const Stiffness& stiffness, double thickness, double middle);
/// From A alone: bending held.
EngineeringConstants in_plane_constrained(const Stiffness& stiffness, double thickness);
/// From the inverse of D about the laminate's own mid-plane, the laminate free to stretch: Ex = 12 / (h³ d11).
EngineeringConstants in_bending(const Stiffness& stiffness, double thickness, double middle);

/// Moduli of a strip cut from the laminate along a direction.
struct AlongDirection {
  Angle direction;       ///< from x towards y
  double in_plane;       ///< pulled, free to bend: as Ex of in_plane()
  double in_plane_held;  ///< pulled, bending held: as Ex of in_plane_constrained()
  double in_bending;     ///< bent, free to stretch: as Ex of in_bending()
  double shear;          ///< as Gxy of in_plane()
};
/// Stiffness against direction: `count` directions at even steps from 0°, once round. From the compliance turned into
/// each direction (Jones eqs. 2.93 to 2.98).
std::vector<AlongDirection> against_direction(const Stiffness& stiffness, double thickness, double middle,
                                              std::size_t count = 360);

/// The same laminate with z measured from a plane at height `distance` along n above the present one.
Stiffness moved(const Stiffness& stiffness, double distance);

double thickness(std::span<const Layer> layers);
double areal_mass(std::span<const Layer> layers);

// --- loads and layers by hand
// --------------------------------------------------------------------------------------------

/// What a section carries about the mesh surface.
struct Resultants {
  Vector3 N = Vector3::Zero();  ///< force per length
  Vector3 M = Vector3::Zero();  ///< force
};
/// e(z) = strain + z curvature, z from the mesh surface; engineering shear, curvature xy twice the twist.
struct Deformation {
  Vector3 strain = Vector3::Zero();
  Vector3 curvature = Vector3::Zero();
};
/// Loads on a piece of laminate without edges.
struct Load {
  Vector3 N = Vector3::Zero(), M = Vector3::Zero();  ///< about the mesh surface
  Vector2 Q = Vector2::Zero();                       ///< transverse shear force per length, xz and yz
  double temperature = 0.0;                          ///< above the stress-free one, in kelvin
  double moisture = 0.0;                             ///< mass of water per mass of the dry laminate
};
enum class Expands { by_temperature, by_moisture };

/// Resultants that hold the laminate while it would expand, per kelvin or per moisture: the integral of Q alpha (Jones
/// eqs. 4.82 ff.), with the sign of what pushes outwards.
Resultants held_expansion(std::span<const Layer> layers, double z0, Expands by);
/// Strain and curvature of the free laminate, per kelvin or per moisture.
Deformation free_expansion(std::span<const Layer> layers, double z0, Expands by);
/// What the laminate does under a load. \throws std::invalid_argument as stiffness().
Deformation deformation(std::span<const Layer> layers, double z0, const Load& load);

/// One place of one layer.
struct LayerState {
  std::size_t layer = 0;
  double z = 0.0;                  ///< from the mesh surface
  Vector3 strain, stress;          ///< x, y, xy in the reference axes; strain is the whole one, engineering shear
  Vector3 ply_strain, ply_stress;  ///< 1, 2, 12 in ply axes
  Vector2 ply_shear;               ///< transverse shear stresses 13, 23 in ply axes, from equilibrium with Q
};
/// Bottom, middle and top of each layer, bottom to top: state 3 i + k.
/// \param load its temperature and moisture are taken off the strains before stresses, its Q gives ply_shear; its N and
/// M are not used.
std::vector<LayerState> layer_states(std::span<const Layer> layers, double z0, const Deformation& deformation,
                                     const Load& load);

/// The strain that a layer takes by itself for one kelvin or one part of moisture: x, y, xy in the reference axes,
/// engineering shear.
Vector3 free_strain(const Layer& layer, Expands by);

/// A laminate as one solid material in the reference axes. C. T. Sun and S. Li, J. Composite Materials 22 (1988) 629.
struct Equivalent {
  material::Elastic elastic;  ///< with all 21 constants where it is not orthotropic in the reference axes
  material::Vector6 thermal = material::Vector6::Zero(), moisture = material::Vector6::Zero();  ///< 11 22 33 23 13 12
  std::optional<double> density;  ///< nothing where a layer has none
};
Equivalent equivalent(std::span<const Layer> layers);

/// Couplings in plain words: what the laminate does when it is pulled along x and along y, bent along each, and, where
/// its layers expand, cooled by 100 kelvin. One sentence each, with amounts; about its own middle, where side effects
/// below 1 % of what causes them count as none. \param units of the amounts.
std::vector<std::string> in_words(std::span<const Layer> layers, const UnitSystem& units);

// --- laminate codes
// ------------------------------------------------------------------------------------------------------

/// One ply of a code.
struct CodePly {
  Angle angle;
  std::string mark;        ///< material mark or name, empty where the code has none
  std::string frame;       ///< name of a frame of its own, empty where the code has none
  std::size_t column = 0;  ///< of the angle in the code, from 1
};

/// Tells whether a mark ("" for none) stands for a fabric: (0/90) is then one ply, and two plies otherwise.
using IsFabric = std::function<bool(std::string_view mark)>;

/// Reads a laminate code, left to right as first laid first (ASTM D6507 and common use):
///
///     [0/45/-45/90]2s   the run twice, then all of it mirrored      [±45/0_3]s   0_3: three plies at 0
///     [0/90^]s          90 stands in the middle, counted once       [0/90]_2     the run twice
///     [(0/90)/±45]      (0/90): one fabric ply, warp at 0           [0C/45G]     C, G: material marks
///     [0/(45/-45)2/90]  a group twice                               [0{e-glass}]  a material by its name
///     [0/0@athwart]     0@athwart: 0 degrees of the frame of that name
///
/// \throws Failure "laminate.code" that shows the code with a mark under the character, at most 10000 plies.
std::vector<CodePly> parse_code(std::string_view code, const IsFabric& is_fabric = {}, const Place& where = {});

/// A stack by its code.
struct Coded {
  std::vector<Layer> layers;
  std::vector<material::Material> materials;  ///< of each layer
  bool thickness_used = false;                ///< whether a material has no thickness of its own
  std::vector<std::string> unused;            ///< names of materials that were given and are in no layer
};
/// \param given materials by name or mark: the first serves angles without a mark, and a mark means one of them. Names are
/// looked up in the library, too; so are marks where nothing is given. \param thickness of plies whose material has none
/// of its own.
/// \throws Failure "laminate.code"; "part.mark-unknown", "part.mark-twice", "part.key-missing" (a ply without thickness),
/// all at once.
Coded stack_by_code(std::string_view code, std::span<const material::Material> given, const material::Library& library,
                    std::optional<double> thickness);

/// A short code for a list of plies: repeats and symmetry are found. Angles with at most two decimals.
/// Reading it gives the same list back.
std::string code_of(std::span<const CodePly> plies);

}  // namespace bordado::laminate

#endif
