/// \file strength.hpp
/// What a ply and a stack bear: failure criteria, reserve factors, first ply failure, envelopes, ply discount.
///
/// A reserve factor R multiplies the loads that act; what the stack holds by itself (stresses of cure and temperature) is
/// not multiplied. R = 1 lies on the surface of the criterion, R < 1 has failed. Stresses in ply axes 1, 2, 12; tension
/// is positive.
#ifndef BORDADO_STRENGTH_HPP
#define BORDADO_STRENGTH_HPP

#include <bordado/laminate.hpp>

#include <limits>

namespace bordado::laminate {

/// Those up to von_mises judge a ply in its plane, the others what a stack does.
enum class Criterion : std::uint8_t {
  /// Each stress by itself. R. M. Jones, Mechanics of Composite Materials (2nd ed.), eqs. 2.116 to 2.118.
  maximum_stress,
  /// Each strain that stress brings about by itself (Jones eqs. 2.121 to 2.123). A limit that is not given is the strength
  /// over the modulus.
  maximum_strain,
  /// V. D. Azzi and S. W. Tsai, Experimental Mechanics 5 (1965) 283, with strengths by the sign of each stress.
  tsai_hill,
  /// S. W. Tsai and E. M. Wu, J. Composite Materials 5 (1971) 58. Interaction of 11 and 22: F12 = f sqrt(F11 F22), f from
  /// the material or -1/2.
  tsai_wu,
  /// O. Hoffman, J. Composite Materials 1 (1967) 200.
  hoffman,
  /// Z. Hashin, J. Applied Mechanics 47 (1980) 329, in plane stress. S23 that is not given is Yc / 2. Of
  /// unidirectional plies.
  hashin,
  /// A. Puck and H. Schürmann, Composites Science and Technology 58 (1998) 1045; inclinations p12 of the master curve
  /// as A. Puck, J. Kopp and M. Knops, same journal 62 (2002) 371 advise: 0.35 and 0.30 for carbon (E1 > 8 E2), 0.30
  /// and 0.25 otherwise. Fibres fail at their own strength. Of unidirectional plies.
  puck,
  /// s1² - s1 s2 + s2² + 3 t² + (Xc - Xt)(s1 + s2) = Xt Xc: R. von Mises, Göttinger Nachrichten (1913) 582, where Xc is
  /// Xt; with another Xc R. Raghava, R. M. Caddell, G. S. Y. Yeh, J. Materials Science 8 (1973) 225. A shear strength
  /// that is given limits the largest shear in the plane, too (H. Tresca). Of isotropic plies, whatever criterion of plies
  /// is asked for: what they bear does not depend on the axes.
  von_mises,
  /// (t13 / S13)² + (t23 / S23)² = 1 wherever in a layer that is most, stresses by equilibrium. Of isotropic layers
  /// (adhesive films) where they say S13, S23 or S12; each stands for those that are not given.
  interlaminar_shear,
  /// The same in the layers of a core; of foam S12 stands for both.
  core_shear,
  /// (s33 / Zt)² + (t13 / S13)² + (t23 / S23)² = 1, s33 where it pulls layers apart alone: J. C. Brewer and P. A. Lagace, J.
  /// Composite Materials 22 (1988) 1141. At bottom, middle and top of every layer, where stresses through the thickness are known:
  /// of solids. Of isotropic layers Xt stands for Zt, and shears as above.
  peel,
  /// Pressure on a core that curved faces put on it, their forces times the curvature they were made with and that of
  /// the load, and that of a pressure on one face:
  /// Zc. H. G. Allen, Analysis and Design of Structural Sandwich Panels (1969).
  core_crushing,
  /// The whole sandwich shears off in short waves across any direction u: -N(u) = uᵀ H u. NASA CR-1457 (1969), section 2.
  crimping,
  /// Short waves of a face on its core, in every direction: see Face. Pushed along both its principal axes, it
  /// wrinkles where the larger share of what it bears in each, and the cube of the smaller, make one (R. T. Sullins, G. W.
  /// Smith, E. E. Spier, NASA CR-1457 (1969)).
  wrinkling,
  /// Of a face between the walls of honeycomb cells. C. B. Norris, FPL Report 1817 (1964), with the bending stiffness
  /// of the face as it is laid, in every direction: N = 24 D / s². Pushed along both its principal axes the
  /// shares add up, as of a square plate held along its sides.
  dimpling
};
inline constexpr std::size_t criterion_count = 15;
/// "maximum-stress", "tsai-wu", "interlaminar-shear", ...
std::string_view name_of(Criterion criterion);
std::optional<Criterion> criterion_named(std::string_view name);
/// Whether it judges a ply in its plane.
constexpr bool of_a_ply(Criterion criterion) { return criterion <= Criterion::von_mises; }
/// Whether it judges faces or the whole sandwich, and not one place of a layer.
constexpr bool of_a_sandwich(Criterion criterion) { return criterion >= Criterion::core_crushing; }
/// Puck, and all that judge the stack.
std::span<const Criterion> usual_criteria();

enum class FailureMode : std::uint8_t {
  none,
  fibre_tension,
  fibre_compression,
  weft_tension,
  weft_compression,
  matrix_tension,
  matrix_compression,
  shear,
  inter_fibre_A,  ///< Puck's A: a crack along the fibres that opens
  inter_fibre_B,  ///< B: a crack along the fibres under shear, closed by pressure across them
  inter_fibre_C,  ///< C: a slanted crack that wedges the ply apart
  yielding,
  delamination,
  core_shear,
  core_crushing,
  crimping,
  wrinkling,
  dimpling
};
/// "fibre tension", "inter-fibre crack (A, opening)", ...
std::string_view words(FailureMode mode);

/// Where it fails: "bottom", "middle", "top" of a layer, "within" it; "face", "sandwich". \param place as in Failing
std::string_view words(Criterion criterion, std::uint8_t place);

/// How far a stress is from a criterion.
struct Reserve {
  double factor = std::numeric_limits<double>::infinity();  ///< nought: what is held is past the surface by itself
  FailureMode mode = FailureMode::none;
};

/// Keys of the strengths that a criterion needs and a material does not say ("Xc", "S12", ...).
std::vector<std::string_view> missing_for(Criterion criterion, const material::Material& material);
/// The same of several criteria as a warning, "strength.missing", at the material's place (a note where it has no strength
/// at all); nothing where all is known.
std::optional<Finding> strengths_missing(const material::Material& material, std::span<const Criterion> criteria);
/// The criterion by which a material is judged where one is asked for: isotropic plies by Von Mises always; Hashin and
/// Puck are of unidirectional plies and Von Mises is of isotropic ones, so others are judged by the largest stress; cores
/// not at all.
std::optional<Criterion> applied(Criterion criterion, const material::Material& material);

/// A criterion of a ply with the strengths of a material: pieces, each of second order in the stress, that meet in the
/// surface where the ply fails. Isotropic materials need Xt only: Xc is the same.
class FailureSurface {
 public:
  /// \throws std::invalid_argument where strengths are missing (missing_for()) or the criterion is not of a ply.
  FailureSurface(Criterion criterion, const material::Material& material);

  /// The least R >= 0 for which `held` + R `load` lies on the surface.
  Reserve reserve(const Vector3& load, const Vector3& held = Vector3::Zero()) const;
  /// Whether the reserve is surely more than a factor: quickly, and not always where it is.
  bool surely_above(double factor, const Vector3& load, const Vector3& held = Vector3::Zero()) const;
  /// What the criterion's own sum comes to, 1 on the surface: as printed in its source, or 1 / R where it is homogeneous.
  double index(const Vector3& stress) const;

  /// constant + linear · s + s1² q11 + s2² q22 + s12² q66 + s1 s2 q12 = 0 on the surface, where the stress has these signs.
  struct Branch {
    double constant = -1.0;
    Vector3 linear = Vector3::Zero();
    double q11 = 0.0, q22 = 0.0, q66 = 0.0, q12 = 0.0;
    FailureMode mode = FailureMode::none;  ///< none: the largest of its terms tells
    std::int8_t sign1 = 0, sign2 = 0;      ///< 0: either
    double across = 0.0;                   ///< where not 0: |s2| / |s12| is below it (B), or above its negative (C)
    double most2 = std::numeric_limits<double>::infinity();  ///< s2 is no more than this
    double along(const Vector3& a, const Vector3& b) const {
      return q11 * a[0] * b[0] + q22 * a[1] * b[1] + q66 * a[2] * b[2] + 0.5 * q12 * (a[0] * b[1] + a[1] * b[0]);
    }
    bool holds(const Vector3& stress) const;
  };
  std::span<const Branch> pieces() const { return {pieces_.data(), count_}; }

 private:
  void add(const Branch& piece) { pieces_[count_++] = piece; }
  FailureMode largest_term(const Vector3& stress) const;
  std::array<Branch, 6> pieces_;
  std::size_t count_ = 0;
  bool sums_ = false;  ///< the index is the sum of the piece itself
  std::array<FailureMode, 5> by_term_{};
};

/// A face of a sandwich: layers that lie together on a core.
struct Face {
  std::size_t first = 0, last = 0;  ///< layers, both included
  std::size_t core = 0;             ///< the layer that it lies on
  bool above = false;               ///< its core
  Matrix3 D = Matrix3::Zero();      ///< bending stiffness about its own neutral plane, free to stretch
  /// Compression per length in a direction at which it wrinkles: with waves of length 2 l across it, k = pi / l, the
  /// face needs D k² and the core sqrt(Ez G) / k, which is least at k³ = sqrt(Ez G) / 2 D; 1.89 (D Ez G)^(1/3). For
  /// an isotropic face this is 0.825 (Ef Ec Gc)^(1/3) of stress (N. J. Hoff and S. E. Mautner, J. Aeronautical
  /// Sciences 12 (1945) 285: 0.91 with a linear decay). As they advise for real, wavy faces, 0.5 / 0.825 of it is taken.
  double wrinkles(double direction) const;  ///< radians from 0°
  Matrix2 core_shear = Matrix2::Zero();     ///< G of the core in the reference axes, xz and yz
  double core_normal = 0.0;                 ///< Ez of the core
  std::optional<double> cell;               ///< of a honeycomb core
  /// Compression per length at which it dimples; infinite where the core has no cells. \param direction as above
  double dimples(double direction) const;
  double crushes = std::numeric_limits<double>::infinity();  ///< the core's Zc
};
/// One for each group of layers that lie together and each core beside it: a face between two cores is held by the softer,
/// direction by direction.
std::vector<Face> faces_of(std::span<const Layer> layers, std::span<const material::Material* const> materials);

/// Where and how a stack fails first.
struct Failing {
  double factor = std::numeric_limits<double>::infinity();
  FailureMode mode = FailureMode::none;
  Criterion criterion = Criterion::maximum_stress;
  std::size_t layer = 0;   ///< of a face its first layer
  std::uint8_t place = 0;  ///< 0 bottom, 1 middle, 2 top of the layer, 3 within it, in between (shear alone)
};

/// What a stack is judged for.
struct SectionLoad {
  Deformation deformation;      ///< by the loads that are multiplied, about the mesh surface
  Vector2 Q = Vector2::Zero();  ///< transverse shear forces of these
  double pressure = 0.0;        ///< of these on a face, whichever, against the core; a stress
  /// Curvature of the part as it was made, x, y, xy as those of a deformation: positive where it is convex upwards.
  Vector3 curved = Vector3::Zero();
  std::span<const Vector3> held{};  ///< ply stresses that are not multiplied, three places a layer; empty: none
  Vector3 held_curvature = Vector3::Zero();  ///< by what is not multiplied, in the axes of `curved`: it comes to that
  Vector2 held_Q = Vector2::Zero();          ///< transverse shear forces that are not multiplied
  /// Ply stresses that come to those of the deformation and are multiplied with them (less what is free to expand, where
  /// temperature is the load); likewise.
  std::span<const Vector3> added{};
  /// Shear stresses 13, 23 in ply axes that come to those of Q; likewise. Those of held_shear are not multiplied.
  std::span<const Vector2> shear{}, held_shear{};
  /// Stresses 33 at the same places, those that are multiplied and those that are held; empty: not known, and nothing peels.
  std::span<const double> through{}, held_through{};
};

/// Judges a stack by criteria: made once, asked often.
class Judge {
 public:
  /// Criteria for which strengths are missing judge nothing; `left_out()` says which. Refers to nothing it was given.
  Judge(std::span<const Layer> layers, std::span<const material::Material* const> materials, double z0,
        std::span<const Criterion> criteria);

  /// What fails first.
  Failing worst(const SectionLoad& load) const;
  /// The worst of each layer and criterion, by layers, then in the order of criteria; faces count as their first layer.
  std::vector<Failing> all(const SectionLoad& load) const;
  /// What is told of every layer, criterion and place, and of every face, in no order of factors.
  class Watch {
   public:
    virtual ~Watch() = default;
    /// Factors that are not below this need not be told.
    virtual double limit(std::size_t layer, Criterion criterion) const = 0;
    virtual void take(const Failing& failing) = 0;
  };
  void each(const SectionLoad& load, Watch& watch) const;
  /// Stress in ply axes at a place of a layer.
  Vector3 ply_stress(const Deformation& deformation, std::size_t layer, int place) const;
  std::size_t layer_count() const { return layers_.size(); }

  struct LeftOut {
    std::size_t layer;
    Criterion criterion;
    std::vector<std::string_view> keys;
  };
  std::span<const LeftOut> left_out() const { return left_out_; }

 private:
  struct OfPly {
    Criterion criterion;
    FailureSurface surface;
  };
  struct OfLayer {
    double bottom, thickness;          ///< bottom from the mesh
    Matrix3 to_ply;                    ///< strains, engineering shear
    Matrix3 stiffness;                 ///< stress in ply axes from strain in the reference axes
    std::optional<Matrix3> judged_as;  ///< as Layer
    std::vector<OfPly> surfaces;
    std::optional<Criterion> shear;       ///< interlaminar, or of the core
    std::array<Matrix2, 3> shear_from_Q;  ///< 13, 23 over their strengths, at bottom, middle, top: quadratic in between
    Vector2 shear_strengths{1.0, 1.0};    ///< these
    std::optional<Vector3> peel;          ///< strengths 33 in tension, 13, 23
  };
  struct OfFace {
    Face face;
    Matrix3 A, B;                           ///< its force from strain and curvature about the mesh
    std::vector<double> wrinkles, dimples;  ///< what it bears every 2.5 degrees
  };
  template <class Limit, class With>
  void judge(const SectionLoad& load, Limit limit, With with) const;
  template <class With>
  void judge_face(const OfFace& of, const SectionLoad& load, With with) const;
  /// Compression per length at which the core shears off across that direction.
  double shears_off(double direction) const;
  template <class With>
  void judge_crimping(const SectionLoad& load, With with) const;
  /// The force of some layers that ply stresses, three a layer, come to; in the reference axes.
  Vector3 force(std::span<const Vector3> stresses, std::size_t first, std::size_t last) const;

  std::vector<OfLayer> layers_;
  std::vector<OfFace> faces_;
  std::vector<LeftOut> left_out_;
  bool wrinkling_ = false, dimpling_ = false, crushing_ = false;
  std::optional<std::size_t> crimps_;  ///< the first core's layer, where crimping is asked for
  double z0_ = 0.0, thickness_ = 0.0;
  Matrix3 A_ = Matrix3::Zero(), B_ = Matrix3::Zero();  ///< of the whole stack, about the mesh
  Matrix2 H_ = Matrix2::Zero();                        ///< its transverse shear stiffness
  std::vector<double> shears_off_;                     ///< what it bears every 2.5 degrees
};

/// Stresses that are held while loads are multiplied: what a free stack has by its own expansion, as SectionLoad::held wants
/// them. \param load its temperature and moisture.
std::vector<Vector3> held_stresses(std::span<const Layer> layers, double z0, const Load& load);

// --- by hand
// ------------------------------------------------------------------------------------------------------------

/// A stack whose layers have materials, on its mesh.
struct Stack {
  std::vector<Layer> layers;
  std::vector<const material::Material*> materials;  ///< of each layer
  double z0 = 0.0;
};

/// What of a load is multiplied: forces, moments and shear. Temperature and moisture are held.
/// The worst of every layer and criterion, least factor first.
std::vector<Failing> first_failures(const Stack& stack, const Load& load, std::span<const Criterion> criteria);

/// A point of a failure envelope.
struct EnvelopePoint {
  double first = 0.0, second = 0.0;  ///< the two components
  Failing failing;                   ///< what decides there
  /// Nothing fails in this direction, or far away only: the point stands for that, at open_reach.
  bool open() const { return failing.mode == FailureMode::none; }
};
/// Which component of a load: Nx, Ny, Nxy, Mx, My, Mxy as 0 to 5.
std::string_view component_name(std::size_t component);
/// The loads, in two components, at which the first ply fails, once round from the first component on: `count` points
/// evenly round the envelope's own proportions, and points on both sides of every change of ply or mode. \param other
/// held while the two are multiplied: temperature, moisture, transverse shear and other components. Where a direction is
/// open (nothing fails that way) its points stand at `open_reach` times what fails along the axes, and so do all that
/// fail farther out. Empty where nothing fails along either axis, or where `other` fails by itself.
inline constexpr double open_reach = 4.0;
std::vector<EnvelopePoint> envelope(const Stack& stack, const Load& other, std::size_t first, std::size_t second,
                                    std::span<const Criterion> criteria, std::size_t count = 180);

/// One failure on the way to the end.
struct Discounted {
  double factor = 0.0;           ///< of the load
  std::vector<Failing> failing;  ///< layers that fail there, each with its mode
};
/// How far a stack goes when plies that have failed stop to bear.
struct Discount {
  std::vector<Discounted> sequence;    ///< in the order it happens; factors may fall
  double first = 0.0, ultimate = 0.0;  ///< the first factor, and the largest of the sequence
};
/// Ply discount, an estimate: a crack between fibres leaves a ply one part in a thousand of E2, G12 (and nu12), a broken fibre of
/// all. Total discount as Jones section 4.6. Failing by shear of a core, crushing, crimping or wrinkling ends it. A ply
/// that has cracked is judged on by its own strengths and by the limits of strain of the whole ply (strength over its first
/// modulus where none is given), under the stress that its weakened stiffness leaves it.
Discount discount(const Stack& stack, const Load& load, std::span<const Criterion> criteria);

}  // namespace bordado::laminate

#endif
