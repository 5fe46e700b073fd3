/// \file result.hpp
/// Running the solver, and what it answered: read only where it is whole, told only where it can be believed.
#pragma once

#include <bordado/deck.hpp>

namespace bordado::result {

/// A value per entity id.
struct Row {
  std::int64_t id;
  Vec3 value;
};

/// The sum of the forces that elements put on the nodes of a set.
struct SetForce {
  std::string set;
  Vec3 total;
};

/// What a CalculiX .dat file says about its last step. Lengths and forces are in the deck's units.
struct Answer {
  std::vector<Row> displacements;                  ///< by node id as in the deck, at the laminate's middle surface
  std::vector<SetForce> forces;                    ///< of the node sets that the deck asked for
  std::optional<double> strain_energy;             ///< of all elements
  std::size_t steps = 0;                           ///< blocks of displacements
  std::size_t stress_lines = 0, strain_lines = 0;  ///< of the last step
  /// The largest displacement; nothing when there are none.
  std::optional<Row> largest() const;
};

/// What an answer must hold to be a whole one.
struct Expected {
  std::vector<std::int64_t> node_ids = {};         ///< a displacement of each, and of no other
  std::vector<std::string> force_sets = {};        ///< one total of each
  std::size_t stress_lines = 0, strain_lines = 0;  ///< of ply results
};
/// What the CalculiX writer asks the solver for.
Expected expected(const deck::Model& model, const deck::WriteOptions& options);

/// \throws Failure "file.*", "result.unreadable" for a line that is no line of numbers, "result.empty" when there is no
/// displacement block, "result.not-finite".
Answer read_calculix(const std::string& path);

/// \throws Failure "result.cut" where the answer is not what was asked for: nodes, sets or lines are missing or are
/// others, or there are several steps.
void check_whole(const Answer& answer, const Expected& expected, const std::string& path);

/// \throws Failure "result.cut" where a .frd file (what one looks at) does not stop with its own last line.
void check_whole_frd(const std::string& path);

/// The forces of the supports on the part. Where these hold no rotation: what the elements put on held nodes, less the
/// loads there. Otherwise the solver's forces at held nodes are wrong, and it is what balances the forces that the
/// elements put on all other nodes. Order x, y, z; part force.
Vec3 reaction(const Answer& answer, const deck::Model& model);

/// The work of the loads, each grown from nought: half the sum of force times displacement, at the points of the mesh
/// where they act. An answer that is right has as much strain energy. Unlike the reactions this tells of forces, too,
/// that act where the solver's own sums go wrong.
double work_of_loads(const Answer& answer, const deck::Model& model, const deck::WriteOptions& options = {});

/// Whether a CalculiX run really finished: its exit status alone does not tell. Text is what it printed.
/// \returns why it did not, or nothing.
std::optional<std::string> calculix_trouble(int exit_status, std::string_view printed);

// --- running it
// ----------------------------------------------------------------------------------------------------------

struct RunOptions {
  std::string solver = "ccx";  ///< a program on the PATH, or a path
};
/// What a run left, beside the deck and under its name.
struct Run {
  int exit_status = 0;               ///< 128 and the signal's number where one ended it
  std::string log, dat, frd;         ///< paths
  std::vector<std::string> answers;  ///< all that were put there
};
/// Runs CalculiX on a deck in a folder of its own, then puts what it answered beside the deck: STEM.log, STEM.dat,
/// STEM.frd, STEM.sta, STEM.cvg. Earlier answers are replaced only when the solver has ended, and only where they are
/// answers of this solver. The solver dies with this process.
/// \throws Failure "solve.no-solver", "file.not-ours", "file.*".
Run run_calculix(const std::string& deck_path, const RunOptions& options = {});

/// What is told of a solved part.
struct Solved {
  deck::Written deck;
  Run run;
  Row largest;                                  ///< the largest displacement, part length, by the deck's node id
  std::optional<std::int64_t> largest_mesh_id;  ///< that node in the mesh file; nothing for one that was added
  Vec3 largest_at = Vec3::Zero();               ///< part length
  Vec3 reaction = Vec3::Zero();                 ///< part force
  double work = 0.0;                            ///< of the loads, by work_of_loads(); part force times part length
  double strain_energy = 0.0;                   ///< as the solver says; the same
};
struct SolveOptions {
  RunOptions run = {};
  deck::WriteOptions deck = {};
};
/// Writes the deck, runs the solver, reads its answer and judges it.
/// Findings: "solve.deflection-unlikely" (a warning), those of the writer.
/// \throws Failure "solve.no-load", "solve.failed", "solve.unbalanced" where reactions and loads differ by more than
/// 1 % of the loads (or of the forces that balance each other) or the work of the loads by more than 2 % from the
/// strain energy, "solve.no-deflection", and as the functions above.
Solved solve(const deck::Model& model, const std::string& deck_path, const SolveOptions& options, Findings& findings,
             const Progress& progress = {});

}  // namespace bordado::result
