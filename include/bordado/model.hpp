/// \file model.hpp
/// The finite element model: supports, what loads come to, cases; and which solids stand for its shells.
#ifndef BORDADO_MODEL_HPP
#define BORDADO_MODEL_HPP

#include <bordado/section.hpp>

#include <algorithm>
#include <array>
#include <memory>
#include <variant>

namespace bordado {
struct Design;
}

namespace bordado::model {

struct Solids;  // see solids.hpp

/// The finite element model, whoever solves it.
struct Model {
  std::shared_ptr<const Design> design;  ///< that it is of
  mesh::Surface surface;                 ///< linear or quadratic as the format needs, ids as written

  /// Directions x and y of axes; z is across both.
  using Axes = std::array<Vec3, 2>;
  struct Support {
    std::string name;
    std::uint8_t held;                   ///< part::Freedom bits
    std::vector<mesh::NodeIndex> nodes;  ///< ascending
    std::vector<Axes> axes = {};         ///< per node: of what it holds; empty: the part's
  };
  /// Springs along the normal, under every element.
  struct Bed {
    std::string name;
    double stiffness;  ///< stress per length
    std::vector<mesh::ElementIndex> elements;
    std::vector<mesh::NodeIndex> nodes;  ///< ascending
    std::vector<Vec3> normals;           ///< per node
    std::vector<double> areas;           ///< per node: its share of the elements' area
  };

  struct Pressure {
    std::optional<double> along_normal;  ///< positive pushes along n; nothing where it varies
    std::vector<mesh::ElementIndex> elements;
    std::vector<double> face_ratio;      ///< per element: area of the face that is pressed over that of the mesh
    std::vector<mesh::NodeIndex> nodes;  ///< ascending
    std::vector<Vec3> forces;            ///< per node: what the pressure on that face comes to
    std::vector<double> at_nodes;        ///< along n, beside `nodes`
    bool on_tool_face = true;            ///< which face is pressed
  };
  struct Force {
    std::vector<mesh::NodeIndex> nodes;  ///< ascending
    std::vector<Vec3> forces;            ///< per node, at the node, consistent with the elements' shape functions
    std::vector<Vec3> moments = {};      ///< per node, or empty
  };
  /// Weight, or what turning brings about; the solver works it out from densities.
  struct Inertia {
    Vec3 gravity = Vec3::Zero();
    std::optional<part::Rotation> rotation = {};
    std::vector<mesh::NodeIndex> nodes;  ///< ascending
    std::vector<Vec3> forces;            ///< per node: what it comes to
  };
  struct Displacement {
    std::vector<mesh::NodeIndex> nodes;
    std::array<std::optional<double>, 6> by;
  };
  struct Temperature {
    std::vector<mesh::NodeIndex> nodes;        ///< ascending
    std::vector<double> tool, bag;             ///< per node, degrees Celsius
    std::vector<mesh::ElementIndex> elements;  ///< that it holds for
    bool through = false;                      ///< tool and bag differ
    std::optional<double> from = {};           ///< stress-free temperature of materials that say none
  };
  /// Nodes that move as one body, pushed at a point.
  struct Link {
    Vec3 at;
    std::vector<mesh::NodeIndex> nodes;
    Vec3 force, moment;
  };
  struct Load {
    std::string name;
    std::variant<Pressure, Force, Inertia, Displacement, Temperature, Link> what;
  };
  struct Case {
    std::string name;
    part::Analysis analysis = part::Analysis::linear;
    std::vector<double> factors;        ///< per load; nought: it does not act
    std::vector<std::size_t> supports;  ///< that hold
    std::vector<std::size_t> beds;      ///< that the part lies on
    int count = 6;                      ///< frequencies or factors
    bool acts(std::size_t load) const { return factors[load] != 0.0; }
    bool any_load() const {
      return std::any_of(factors.begin(), factors.end(), [](double factor) { return factor != 0.0; });
    }
  };
  std::vector<Support> supports;
  std::vector<Bed> beds;
  std::vector<Load> loads;
  std::vector<Case> cases;  ///< not empty, unless it is of the laminate only

  /// Solids that stand for the shells; nothing: shells.
  std::shared_ptr<const Solids> solids;

  /// Ids that the mesh file has, where the model's are others; empty where they are the same. Nodes that were added in
  /// the middle of edges have none.
  std::vector<std::int64_t> mesh_node_ids, mesh_element_ids;
  std::size_t mesh_node_count = 0;  ///< nodes from here on were added in the middle of edges

  Model();
  Model(Model&&) noexcept;
  Model(const Model&);
  Model& operator=(Model&&) noexcept;
  Model& operator=(const Model&);
  ~Model();
};

/// Calls with(load, factor) for every load of one kind that acts in a case.
template <class Kind, class With>
void for_each_load(const Model& model, const Model::Case& load_case, With with) {
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (const auto* const what = std::get_if<Kind>(&model.loads[i].what); what && load_case.acts(i))
      with(*what, load_case.factors[i]);
}

/// Whether a load of that kind acts in a case.
template <class Kind>
bool has_load(const Model& model, const Model::Case& load_case) {
  bool out = false;
  for_each_load<Kind>(model, load_case, [&](const Kind&, double) { out = true; });
  return out;
}

/// Whether two cases hold the same nodes and move them alike. CalculiX crashes where supports of layered shells change
/// from step to step.
bool held_alike(const Model& model, const Model::Case& load_case, const Model::Case& other);
/// Whether two cases have the same stiff links: a deck has them in all its cases or in none.
bool linked_alike(const Model& model, const Model::Case& load_case, const Model::Case& other);
/// \throws Failure "deck.cases-apart" where they have not.
void check_linked_alike(const Model& model, const Model::Case& load_case, const Model::Case& other);
/// Whether a case has loads that are forces: all but temperatures and prescribed motion.
bool has_forces(const Model& model, const Model::Case& load_case);
/// Whether anything is held or moved in a case.
bool has_supports(const Model& model, const Model::Case& load_case);

/// A sum of forces and their moment about the origin of the part's axes.
struct Total {
  Vec3 force = Vec3::Zero(), moment = Vec3::Zero();
};
/// What a load comes to, and all that act in a case, each at the face or place that it acts on.
Total total(const Model& model, const Model::Load& load);
Total total(const Model& model, const Model::Case& load_case);

/// What a part, or a piece of it, can still do in a case though supports hold it: "the part from moving along (1, 0,
/// 0)". Nothing: it is held.
std::vector<std::string> loose(const Model& model, const Model::Case& load_case);

/// Per node, all forces of a case; of a link nothing.
std::vector<Vec3> nodal_loads(const Model& model, const Model::Case& load_case);

/// How plies become solids.
struct SolidOptions {
  enum class Per {
    ply,       ///< each ply is one
    material,  ///< plies of a kind that lie together (the faces, a core) are one
    count      ///< so many through the thickness at most
  };
  /// How a group's material is written: as it is, or of every material nine constants or all 21.
  enum class Constants { as_they_are, nine, all };
  Per per = Per::ply;
  std::size_t most = 4;  ///< with count; 1 to 1000
  bool rough = false;    ///< also where groups change B or D by more than a fifth
  Constants constants = Constants::as_they_are;
  friend bool operator==(const SolidOptions&, const SolidOptions&) = default;
};

struct AssembleOptions {
  bool quadratic = false;      ///< raise linear elements to quadratic ones
  bool laminate_only = false;  ///< keep the mesh file's ids whatever they are; leave out supports and loads
  std::optional<SolidOptions> solids = {};  ///< solids instead of shells; needs quadratic
};

/// What assemble() would say of where supports and loads act; assembles nothing.
void check_targets(const layup::Laid& laid, Findings& findings);

/// Looks up where supports and loads act and spreads forces over nodes, and puts cases together.
/// Findings: "deck.on-unknown", "deck.on-kind", "load.formula", "load.field", "load.not-finite", "load.of-unknown",
/// "load.nothing", "load.axes", "case.load-unknown", "case.support-unknown", "case.circular", "case.no-load",
/// "case.no-density", "case.no-expansion", "case.no-stress-free", "case.loose" (errors), "deck.point-far",
/// "deck.no-supports", "deck.no-loads" (warnings), "deck.renumbered", "deck.raised" (notes).
/// \throws Failure with all errors.
Model assemble(std::shared_ptr<const Design> design, const AssembleOptions& options, Findings& findings);

}  // namespace bordado::model

namespace bordado {

/// The model of a design that outlives it: the model does not share it. \throws Failure as model::assemble().
model::Model assemble(const Design& design, const model::AssembleOptions& options, Findings& findings);

}  // namespace bordado

#endif
