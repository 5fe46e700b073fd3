/// \file material.hpp
/// What a ply is made of: elastic constants in the ply's own axes, and what else is known of it; micromechanics; files
/// of materials.
///
///     axes of a ply:   1 along the fibre, the warp or the ribbon     2 across it in the plane     3 through the thickness
///     order of six:    11, 22, 33, 23, 13, 12, with engineering shear strains
#ifndef BORDADO_MATERIAL_HPP
#define BORDADO_MATERIAL_HPP

#include <bordado/base/findings.hpp>
#include <bordado/base/units.hpp>
#include <bordado/base/vector.hpp>

#include <array>
#include <memory>

namespace bordado {
enum class Existing;
}

namespace bordado::material {

using Matrix6 = Eigen::Matrix<double, 6, 6>;
using Vector6 = Eigen::Matrix<double, 6, 1>;

// ---------------------------------------------------------------------------------------------------------------------
// Elastic constants
// ---------------------------------------------------------------------------------------------------------------------

/// Orthotropic constants in ply axes. nu12 is the strain along 2 for a stress along 1: nu12 / E1 = nu21 / E2.
/// Stresses in the part's stress unit.
struct Elastic {
  double E1 = 0, E2 = 0, E3 = 0;
  double nu12 = 0, nu13 = 0, nu23 = 0;
  double G12 = 0, G13 = 0, G23 = 0;
  /// All 21 constants of an anisotropic material, as a symmetric stiffness; the nine are then those of its compliance.
  std::optional<Matrix6> full = std::nullopt;

  friend bool operator==(const Elastic&, const Elastic&) = default;
};

/// Transversely isotropic about the fibre: E3 = E2, nu13 = nu12, G13 = G12.
Elastic transversely_isotropic(double E1, double E2, double nu12, double G12, double nu23, double G23);
/// G = E / (2 (1 + nu)) in all planes.
Elastic isotropic(double E, double nu);
/// From a symmetric, positive definite stiffness. Where it is orthotropic (to 1e-9 of its norm) `full` stays empty.
Elastic from_stiffness(const Matrix6& stiffness);

/// stress = C strain, and its inverse, in ply axes (Jones eqs. 2.15 and 2.25).
Matrix6 stiffness(const Elastic& elastic);
Matrix6 compliance(const Elastic& elastic);

/// A stiffness seen from axes 1', 2', 3', given by their unit vectors in the old axes as columns. Energy is the same.
Matrix6 turned(const Matrix6& stiffness, const Eigen::Matrix3d& new_axes);

/// Why the constants cannot be those of any material, or nothing where they can: all moduli positive and the compliance
/// matrix positive definite. R. M. Jones, Mechanics of Composite Materials (2nd ed.), eqs. 2.44 to 2.52.
std::optional<std::string> not_positive_definite(const Elastic& elastic);

/// One of the layers that together act as one material.
struct LayerShare {
  Matrix6 stiffness = Matrix6::Zero();  ///< in common axes; 3 is square to the layers
  double share = 0.0;                   ///< of the thickness; the shares sum to 1
  Vector6 expansion = Vector6::Zero();  ///< strain per kelvin (or per anything else) in common axes
};
/// What layers act as when many of them lie on each other in turns: strains 11, 22, 12 and stresses 33, 23, 13 are the
/// same in all. N. J. Pagano, Composite Materials 2 (ed. G. P. Sendeckyj, 1974) 23; C. T. Sun and S. Li, J. Composite
/// Materials 22 (1988) 629.
struct Layered {
  Matrix6 stiffness = Matrix6::Zero();
  Vector6 expansion = Vector6::Zero();
};
Layered layered(std::span<const LayerShare> parts);

// ---------------------------------------------------------------------------------------------------------------------
// Materials
// ---------------------------------------------------------------------------------------------------------------------

enum class Kind {
  unidirectional,  ///< fibres along axis 1
  fabric,          ///< one orthotropic ply, warp along axis 1, weft along axis 2
  isotropic,       ///< a metal, or an adhesive
  foam,            ///< an isotropic core
  honeycomb,       ///< a core with its ribbon along axis 1
  orthotropic,     ///< nine constants
  anisotropic,     ///< 21 constants
  fibre,           ///< a constituent: transversely isotropic about axis 1
  resin            ///< a constituent: isotropic
};
inline constexpr std::array<Kind, 9> kinds = {Kind::unidirectional, Kind::fabric,    Kind::isotropic,
                                              Kind::foam,           Kind::honeycomb, Kind::orthotropic,
                                              Kind::anisotropic,    Kind::fibre,     Kind::resin};
std::string_view name_of(Kind kind);
std::optional<Kind> kind_named(std::string_view name);
/// Foam and honeycomb: soft in shear between stiff faces.
bool is_core(Kind kind);
/// Everything that a ply of it needs an angle for.
bool is_directional(Kind kind);
/// Given by E and nu.
bool is_isotropic(Kind kind);

/// A change of length along axes 1, 2, 3 by something.
struct Expansion {
  std::optional<double> along, across, through;
  /// Engineering shear 12: of a cloth whose weft is not square to its warp, say; 0 without one.
  std::optional<double> shear = std::nullopt;
  friend bool operator==(const Expansion&, const Expansion&) = default;
  /// All three, what is not given taken from its neighbour (through from across, across from along); 0 without any.
  Vec3 all() const;
};
/// The same seen from axes turned by an angle about 3; nothing stays nothing.
Expansion turned(const Expansion& expansion, Angle angle);

/// Strengths are stresses, all positive: t in tension, c in compression.
struct Strength {
  std::optional<double> Xt, Xc, Yt, Yc, Zt, Zc, S12, S13, S23;
  friend bool operator==(const Strength&, const Strength&) = default;
};
/// Largest strains, all positive; g12 is the engineering shear strain.
struct StrainLimits {
  std::optional<double> e1t, e1c, e2t, e2c, g12;
  friend bool operator==(const StrainLimits&, const StrainLimits&) = default;
};
/// How stresses together break it, where criteria ask for more than strengths; see strength.hpp.
struct Interaction {
  std::optional<double> F12;         ///< Tsai-Wu: F12 / sqrt(F11 F22), (-1, 1)
  std::optional<double> p12t, p12c;  ///< Puck: inclinations of the master curve at no stress across, positive
  friend bool operator==(const Interaction&, const Interaction&) = default;
};

/// What the shop knows of a cloth or a sheet.
struct Form {
  std::string weave;                   ///< "plain", "2/2 twill", ...
  std::optional<double> rest_angle;    ///< degrees between warp and weft before it is sheared; 90 where not given
  std::optional<double> areal_weight;  ///< of the dry fibres
  std::optional<double> roll_width;
  std::optional<double> thickness_uncured;  ///< of a ply before the cure
  std::optional<double> shear_limit;        ///< degrees of shear past which it wrinkles
  std::optional<double> least_width;        ///< of a piece that can still be laid
  std::optional<double> steepest;           ///< run per rise of the steepest end of a ply or a core
  std::optional<double> cell;               ///< of honeycomb: distance of opposite walls
  friend bool operator==(const Form&, const Form&) = default;
};

/// A price, in whatever currency.
struct Cost {
  enum class Per { area, mass };
  double value = 0.0;    ///< per square metre or per kilogram, whatever the part's units
  std::string currency;  ///< "EUR"
  Per per = Per::area;
  friend bool operator==(const Cost&, const Cost&) = default;
};

/// Properties of a cloth that is sheared, in its own axes: 1 along the longer diagonal of its cells, 2 along the other.
struct Sheared {
  double shear = 0.0;  ///< degrees by which warp and weft have left their angle at rest
  double E1 = 0, E2 = 0, nu12 = 0, G12 = 0;
  friend bool operator==(const Sheared&, const Sheared&) = default;
};

/// The yarns of a fabric that was computed from them, straight warp and weft as two crossed layers.
struct Yarns {
  Elastic warp, weft;  ///< each in its own axes, its crimp accounted for
  double warp_share = 0.5;
  /// Strain of a yarn along its 1, 2, 3 per kelvin, and per mass of water; nothing where nobody knows.
  std::optional<Vec3> thermal = {}, moisture = {};
  friend bool operator==(const Yarns&, const Yarns&) = default;
};

struct Material {
  std::string name;
  std::string mark;  ///< letters that stand for it in laminate codes; may be empty
  Kind kind = Kind::unidirectional;
  Elastic elastic;
  std::optional<double> density;    ///< part's mass per volume
  std::optional<double> thickness;  ///< of one ply, where the ply does not say its own
  Place where;
  Expansion thermal = {};                              ///< strain per kelvin
  Expansion moisture = {};                             ///< strain per mass of water taken up per mass of the dry ply
  std::optional<double> stress_free_temperature = {};  ///< degrees Celsius
  Strength strength = {};
  StrainLimits strain_limits = {};
  Interaction interaction = {};
  Form form = {};
  std::optional<Cost> cost = {};
  std::vector<Sheared> sheared = {};  ///< measured, by ascending shear; at least two where there are any
  std::optional<Yarns> yarns = {};
  std::string note = {};     ///< where the values come from
  std::string made_of = {};  ///< what it was computed from, in words; empty where it was given
  bool of_others = false;    ///< another material of the part is made of it or begins from it
};

/// Equal in everything but the place and who uses it.
bool same(const Material& a, const Material& b);

/// A number that a material may have, under its key in part files and libraries.
struct Quantity {
  std::string_view key;  ///< "E1", "alpha1", "Xt", ...
  Dimension dimension;
  std::string_view meaning;
  std::optional<double> (*get)(const Material&);
  void (*set)(Material&, double);
};
/// All of them, in the order of tables. The 21 constants of anisotropic materials, cost and sheared properties are not
/// single numbers and are not here.
std::span<const Quantity> quantities();

/// The same material with values in other units.
Material in_units(const Material& material, const UnitSystem& from, const UnitSystem& to);

/// From what to what a layer of a kind is thick, in metres.
std::array<double, 2> likely_thickness(Kind kind);

/// Findings for constants that are possible but look like a slip of units or of an index, judged in SI:
/// "material.stiffness-unlikely", "material.density-unlikely", "material.nu21-for-nu12", "material.thickness-unlikely",
/// "material.expansion-unlikely", "material.strength-unlikely", "material.no-direction".
void check_plausible(const Material& material, const UnitSystem& units, Findings& findings);

// ---------------------------------------------------------------------------------------------------------------------
// Micromechanics
// ---------------------------------------------------------------------------------------------------------------------

enum class Theory {
  /// E1, nu12 by the rule of mixtures; E2 (xi = 2) and G12 (xi = 1) by J. C. Halpin and J. L. Kardos, Polymer
  /// Engineering and Science 16 (1976) 344; nu23 by R. L. Foye, J. Composite Materials 6 (1972) 293, but G23
  /// no less than Halpin and Kardos say, which is its lower bound.
  halpin_tsai,
  /// Z. Hashin and B. W. Rosen, J. Applied Mechanics 31 (1964) 223, for fibres transversely isotropic: Z. Hashin, J.
  /// Applied Mechanics 46 (1979) 543; G23 by the three-phase model of R. M. Christensen and K. H. Lo, J. Mechanics and
  /// Physics of Solids 27 (1979) 315.
  cylinder_assemblage,
  /// T. Mori and K. Tanaka, Acta Metallurgica 21 (1973) 571, for long fibres: Y. Benveniste, Mechanics of Materials 6
  /// (1987) 147; the same as the lower bounds where the matrix is the softer phase.
  mori_tanaka
};
inline constexpr std::array<Theory, 3> theories = {Theory::halpin_tsai, Theory::cylinder_assemblage,
                                                   Theory::mori_tanaka};
/// "halpin-tsai", "cylinder-assemblage", "mori-tanaka".
std::string_view name_of(Theory theory);

/// How fibre and matrix are mixed.
struct Mix {
  Theory theory = Theory::cylinder_assemblage;
  double fibre_volume = 0.55;  ///< of the whole, voids included; [0, 1)
  double voids = 0.0;  ///< volume of pores, of the whole; [0, 1 - fibre_volume). They are taken as round, in the matrix
  std::optional<double> aspect = {};  ///< of short fibres, length over diameter, 1 and more: by Mori and Tanaka
};

/// Constants of a matrix with round pores. \param porosity of its own volume, [0, 1).
/// Y. Benveniste, Mechanics of Materials 6 (1987) 147, for pores.
Elastic porous(const Elastic& matrix, double porosity);

/// Effective constants of parallel fibres in a matrix.
/// \param fibre transversely isotropic about axis 1. \param matrix isotropic.
Elastic mixed(Theory theory, const Elastic& fibre, const Elastic& matrix, double fibre_volume);

/// A unidirectional ply from its constituents: constants, density, thermal expansion and swelling (B. W. Rosen and Z.
/// Hashin, Int. J. Engineering Science 8 (1970) 157: exact for two phases once the constants are known), and the
/// thickness that follows from `form.areal_weight` where that is given.
/// \param form name, mark, form and notes of the ply; its numbers are kept where they are given.
/// \throws std::invalid_argument where the fractions are out of range or a constituent is of the wrong kind.
Material unidirectional(const Material& fibre, const Material& matrix, const Mix& mix, Material form);

/// The least crimp angle: a yarn whose length exceeds the cloth's by `crimp` (0.01: one hundredth) runs in a sine wave
/// that is steepest by this angle.
Angle steepest(double crimp);
/// A yarn that waves through the thickness: compliance averaged along it, as T. Ishikawa and T. W. Chou, J. Materials
/// Science 17 (1982) 3211, do for undulating fibres.
Elastic crimped(const Elastic& yarn, double crimp);

/// How a cloth is made of its yarns.
struct Weave {
  double warp_share = 0.5;   ///< of all fibres; (0, 1)
  double crimp = 0.0;        ///< length of the yarn above the cloth's, per length of the cloth; [0, 0.3)
  double yarn_volume = 1.0;  ///< of yarns in the cloth; (0, 1]. The rest is resin between them
  double yarn_aspect = 8.0;  ///< width of a yarn's section over its height, 1 and more: an ellipse
};
/// A fabric from the ply that its yarns make when they lie straight: two crossed layers. Where resin lies between the
/// yarns each layer is parallel elliptic yarns in that resin (in_matrix()), its yarns waving as one.
/// \param between the resin between yarns; needed where yarn_volume is less than 1. \throws as unidirectional().
Material fabric(const Material& yarn, const Weave& weave, Material form, const Material* between = nullptr);

/// From the warp to the longer diagonal of sheared cells, which lies in the acute angle.
Angle to_diagonal(const Material& cloth, Angle shear);

/// What a cloth becomes at an angle of shear.
struct ShearedCloth {
  /// In axes 1 along the warp, 3 through the thickness: warp at 0°, weft at rest angle - shear.
  Elastic along_warp;
  /// The same seen along the longer diagonal: midway between warp and weft.
  Elastic along_diagonal;
  /// What it does when it is warmed or wetted, in axes along the warp; nothing where its yarns do not say.
  std::optional<Expansion> thermal, moisture;
  double thickness_ratio = 1.0;  ///< sin(rest) / sin(rest - shear): the fibres gather, at a constant fibre volume
  bool measured = false;         ///< from Material::sheared, otherwise from the yarns
};
/// By the measured table where there is one (straight between its lines; nothing outside them), otherwise by crossed
/// layers from the yarns; nothing where the material has neither. \param shear either sense; within (-90°, 90°) of
/// rest.
std::optional<ShearedCloth> sheared(const Material& material, Angle shear);

// ---------------------------------------------------------------------------------------------------------------------
// Files of materials
// ---------------------------------------------------------------------------------------------------------------------

/// Materials of several files, looked up by name; files added first come first. TOML files have `units` at the top and
/// a [material.NAME] for each; a MatML file is XML. A material is computed when it is first asked for.
class Library {
 public:
  /// \param units of the materials that come out.
  explicit Library(UnitSystem units);

  /// \throws Failure "file.*", "part.toml", "material.matml". \param findings takes what MatML holds and we do not
  /// read.
  void add_file(const std::string& path, Findings& findings);
  /// As add_file() for text in memory; `path` names the place in messages and ends in ".xml" for MatML.
  void add_text(std::string_view text, const std::string& path, Findings& findings);
  /// The one that comes with the program.
  void add_shipped();

  /// Names in order of files, each once.
  std::vector<std::string> names() const;
  /// The file that a name comes from, or nothing where it is unknown.
  std::optional<std::string> file_of(std::string_view name) const;
  /// The material of that name, or nothing where there is none or `errors` has got the reason why it cannot be.
  std::optional<Material> find(std::string_view name, Findings& errors) const;

  struct Impl;
  /// For the reader of part files.
  Impl& impl() { return *impl_; }

 private:
  std::shared_ptr<Impl> impl_;
};

/// The place of the shipped library in messages.
inline constexpr std::string_view shipped_name = "shipped library";
std::string_view shipped_text();

/// [material.NAME] of a part file or library that reads back as the same material: bare values, in its own units.
std::string toml_text(const Material& material);
/// A whole library file.
std::string library_text(std::span<const Material> materials, const UnitSystem& units);

/// MatML 3.1 (the open XML schema for materials data), values in the given units, which it names. Carried: name, kind,
/// every quantity, weave, note, the 21 constants, sheared properties, cost, mark. Not carried: places.
std::string matml_text(std::span<const Material> materials, const UnitSystem& units);
/// A MatML text with materials added to it: everything that stands in it stays to the letter, and what is added gets
/// ids that nothing there has. \throws Failure "material.matml" where the text is no MatML in UTF-8.
std::string matml_with(const std::string& text, const std::string& path, std::span<const Material> materials,
                       const UnitSystem& units);
/// Reads MatML by property name: ours, and common ones such as "Young's modulus" and "Poisson's ratio".
/// \param findings a note "material.matml-left" for each property that is not understood.
/// \throws Failure "material.matml".
std::vector<Material> read_matml(std::string_view text, const std::string& path, const UnitSystem& units,
                                 Findings& findings);

/// Writes a library (.toml) or MatML (.xml). Added to an existing TOML library, values come in its units and the rest
/// of it stays as it is; a MatML file is written anew with what is understood of it. \throws Failure
/// "material.ending-unknown", "material.name-taken", "file.*".
void write_materials(const std::string& path, std::span<const Material> materials, const UnitSystem& units,
                     Existing existing);

}  // namespace bordado::material

#endif
