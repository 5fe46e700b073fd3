/// \file calculix.hpp
/// Running CalculiX, and what it answered: read only where it is whole, told only where it can be believed.
#ifndef BORDADO_CALCULIX_HPP
#define BORDADO_CALCULIX_HPP

#include <bordado/deck.hpp>
#include <bordado/fields.hpp>

#include <functional>

namespace bordado {
struct Design;
}

namespace bordado::calculix {

using model::Model;

/// A value per entity id.
struct NodeRow {
  std::int64_t id;
  Vec3 value;
};

/// The sum of the forces that elements put on the nodes of a set.
struct SetForce {
  std::string set;
  Vec3 total;
};

/// The strain energy of an element.
struct ElementEnergy {
  std::int64_t id;
  double value;  ///< force times length
};

/// A frequency, or a factor of buckling, and its shape.
struct Mode {
  double value = 0.0;          ///< cycles per part time, or the factor by which the loads buckle the part
  bool unstable = false;       ///< of a frequency: its square is negative
  std::vector<NodeRow> shape;  ///< displacements, of any size
};

/// What a CalculiX .dat file says about a static step and the modes. Lengths and forces are in the deck's units.
struct Answer {
  std::vector<NodeRow> displacements;     ///< by node id as in the deck, at the laminate's middle surface
  std::vector<SetForce> forces;           ///< of the node sets that the deck asked for
  std::vector<NodeRow> node_forces = {};  ///< what elements put on held nodes, where that can be trusted
  std::optional<double> strain_energy;    ///< of all elements
  /// Of each, where the deck asked for it.
  std::vector<ElementEnergy> element_energies = {};
  std::size_t steps = 0;                           ///< blocks of displacements, without those of modes
  double time = 0.0;                               ///< of the last of them, which all tables of its step bear
  std::vector<std::vector<Mode>> modes = {};       ///< per step that asked for them, in the solver's order
  std::size_t stress_lines = 0, strain_lines = 0;  ///< of the last step
  std::vector<std::string> marks = {};             ///< that its displacements carry, each once, in order
  /// The largest displacement; nothing when there are none.
  std::optional<NodeRow> largest() const;
};

/// What an answer must hold to be a whole one.
struct Expected {
  std::vector<std::int64_t> node_ids = {};         ///< a displacement of each, and of no other
  std::size_t node_forces = 0;                     ///< of held nodes
  std::vector<std::string> force_sets = {};        ///< one total of each
  std::size_t stress_lines = 0, strain_lines = 0;  ///< of ply results
  std::size_t element_energies = 0;                ///< of the same elements
  std::size_t steps = 1;                           ///< static ones
  std::optional<double> time = {};                 ///< that they take: steps end at whole ones
  std::vector<std::size_t> modes = {};             ///< per step that asks for them, how many
};
/// What the CalculiX writer asks the solver for in a deck of one case.
Expected expected(const Model& model, const Model::Case& load_case, const deck::WriteOptions& options);

struct ReadOptions {
  /// Steps by the names that their answers carry (deck::Mark::name): what stands under others is passed over. Empty: the
  /// last static step, and all modes.
  std::vector<std::string> marks = {};
  /// Called with the strains of each element in turn, if anything is to be called: six for each of its integration
  /// points, xx yy zz xy xz yz in global axes, shear strains tensorial. Of several steps the last counts.
  std::function<void(std::int64_t element, std::span<const double> strains)> strains = {};
  Progress progress = {};
};
/// Reads an answer in bounded memory, whatever its size, but for what it returns.
/// \throws Failure "file.*", "result.unreadable" for a line that is no line of numbers, "result.empty" when there is no
/// displacement block, "result.not-finite", "result.other-deck" where it carries none of the marks.
Answer read_answer(const std::string& path, const ReadOptions& options = {});

/// The marks (deck::Mark::name) that an answer carries, each once, in order: of which deck, and of which of its steps, it is.
/// \throws Failure "file.*".
std::vector<std::string> marks_in(const std::string& path, const Progress& progress = {});

/// \throws Failure "result.cut" where the answer is not what was asked for: nodes, sets or lines are missing or are
/// others, or there are several steps.
void check_whole(const Answer& answer, const Expected& expected, const std::string& path);

/// Reads a static case of a deck that solve() or the CalculiX writer made.
/// \param marks of the deck (deck::Written::marks).
/// \throws Failure as read_answer() and check_whole().
model::CaseFields read_case(const Model& model, std::size_t case_index, const std::string& dat,
                            std::span<const deck::Mark> marks, const deck::WriteOptions& options,
                            const Progress& progress = {});

/// \throws Failure "result.cut" where a .frd file (what one looks at) does not stop with its own last line.
void check_whole_frd(const std::string& path);

/// The forces of the supports on the part in a case. Where these hold no rotation: what the elements put on held nodes, less the
/// loads there. Otherwise the solver's forces at held nodes are wrong, and it is what balances the forces that the
/// elements put on all other nodes. Order x, y, z; part force.
Vec3 reaction(const Answer& answer, const Model& model, const Model::Case& load_case);

/// The work of the loads, each grown from nought: half the sum of force times displacement, at the points of the mesh
/// where they act. An answer that is right has as much strain energy. Unlike the reactions this tells of forces, too,
/// that act where the solver's own sums go wrong.
/// \param frd the solver's other file: how a laminate whose middle does not lie on the mesh turns where a force acts.
/// \throws Failure "result.cut" where it does not say so.
double work_of_loads(const Answer& answer, const Model& model, const Model::Case& load_case,
                     const deck::WriteOptions& options, const std::string& frd);
/// Whether that holds for a case: small displacements, and no temperature, prescribed displacement or link.
bool work_tells(const Model& model, const Model::Case& load_case);

/// Whether a CalculiX run really finished: its exit status alone does not tell. Text is what it printed.
/// \returns why it did not, or nothing.
std::optional<std::string> trouble(int exit_status, std::string_view printed);

// --- running it
// ----------------------------------------------------------------------------------------------------------

struct RunOptions {
  std::string solver = "ccx";                         ///< a program on the PATH, or a path
  MayReplace may_replace = MayReplace::only_our_own;  ///< answers of this solver may always be
  std::size_t most_log = 256'000'000;                 ///< bytes that it may print
  std::size_t most_answers = 1'000'000'000'000;       ///< bytes that it may write in all
  double longest_idle = 600.0;                        ///< seconds without any work and without a byte
};
/// What a run left, beside the deck and under its name.
struct SolverRun {
  int exit_status = 0;               ///< 128 and the signal's number where one ended it
  std::string log, dat, frd;         ///< paths
  std::vector<std::string> answers;  ///< all that were put there
};
/// Runs CalculiX on a deck in a folder of its own, then puts what it answered beside the deck: STEM.log, STEM.dat,
/// STEM.frd, STEM.sta, STEM.cvg. Earlier answers are replaced only when the solver has ended, and only where they are
/// answers of this solver. The solver dies with this process.
/// \throws Failure "solve.no-solver", "solve.stopped" where it went beyond a bound: of its answers only the log is kept,
/// "file.not-ours", "file.in-use" where another run works on this deck, "file.*".
SolverRun run(const std::string& deck_path, const RunOptions& options = {});

/// A mode as it is told.
struct ToldMode {
  double value = 0.0;     ///< cycles per part time, or the factor
  double across = 0.0;    ///< part of the motion that goes along the normals, 0 to 1; a mode in the plane has little
  bool reversed = false;  ///< it buckles under the loads the other way
  bool unstable = false;  ///< as Mode
  bool rigid = false;     ///< of a part that nothing holds: motion as a whole
};

/// What is told of a solved case.
struct Solved {
  std::string name;
  part::Analysis analysis = part::Analysis::linear;
  deck::Written deck;
  SolverRun run;
  NodeRow largest{};                            ///< the largest displacement, part length, by the deck's node id
  std::optional<std::int64_t> largest_mesh_id;  ///< that node in the mesh file; nothing for one that was added
  Vec3 largest_at = Vec3::Zero();               ///< part length
  Vec3 reaction = Vec3::Zero();                 ///< part force
  double work = 0.0;                            ///< of the loads, by work_of_loads(); part force times part length
  double strain_energy = 0.0;                   ///< as the solver says; the same where work_tells()
  std::vector<ToldMode> modes = {};             ///< by size
  double seconds = 0.0;                         ///< that the solver took
  std::size_t answer_bytes = 0;                 ///< that it wrote
  model::CaseFields fields = {};                ///< of the case

  Solved();
  Solved(Solved&&) noexcept;
  Solved(const Solved&);
  Solved& operator=(Solved&&) noexcept;
  Solved& operator=(const Solved&);
  ~Solved();
};
struct SolveOptions {
  RunOptions run = {};
  deck::WriteOptions deck = {};
};
/// Writes the deck of a case, runs the solver, reads its answer and judges it. \param case_index in Model::cases.
/// Findings: "solve.deflection-unlikely", "solve.few-modes", "solve.in-plane", "solve.reversed" (warnings), those of the
/// writer.
/// \throws Failure "solve.no-load", "solve.failed", "solve.unbalanced" where reactions and loads differ by more than
/// 0.2 % of the loads (or of the forces that balance each other) or the work of the loads by more than 2 % from the
/// strain energy, "solve.no-deflection", and as the functions above.
Solved solve(const Model& model, const std::string& deck_path, const SolveOptions& options, Findings& findings,
             const Progress& progress = {}, std::size_t case_index = 0);

/// The deck of one of a model's cases: `deck_path` where it has one only, otherwise STEM-CASE.inp beside it. Its answer has
/// the same name with .dat.
std::string path_of_case(const Model& model, const std::string& deck_path, std::size_t case_index);

/// Solves cases side by side, as many at a time as asked for. Where the model has one case its deck is `deck_path`,
/// otherwise each has its own, STEM-CASE.inp. Findings and errors name the case. \param cases in Model::cases; empty: all.
std::vector<Solved> solve_cases(const Model& model, const std::string& deck_path, const SolveOptions& options,
                                std::span<const std::size_t> cases, std::size_t side_by_side, Findings& findings,
                                const Progress& progress = {});

}  // namespace bordado::calculix

namespace bordado {

/// Assembles the model, writes the CalculiX deck of its first case, runs the solver and judges its answer.
/// \throws Failure as model::assemble() and calculix::solve().
calculix::Solved solve(const Design& design, const std::string& deck_path, const calculix::SolveOptions& options,
                       Findings& findings, const Progress& progress = {});

}  // namespace bordado

#endif
