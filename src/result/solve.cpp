#include <bordado/result.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

namespace bordado::result {

namespace {

/// The forces that could balance each other: what the reactions are measured against.
double size_of_loads(const deck::Model& model) {
  double out = 0.0;
  for (const deck::Model::Force& force : model.forces)
    for (const Vec3& share : force.forces) out += share.norm();
  for (const deck::Model::Pressure& pressure : model.pressures)
    for (const Vec3& share : pressure.forces) out += share.norm();
  return out;
}

std::string in_force(const Vec3& force, const UnitSystem& units) {
  return fmt::format("({:.4g}, {:.4g}, {:.4g}) {}", force.x(), force.y(), force.z(), units.unit(Dimension::force));
}

void check_balance(const Solved& solved, const deck::Model& model) {
  const Vec3 left = solved.reaction + solved.deck.total_load;
  if (left.norm() <= 0.01 * std::max(solved.deck.total_load.norm(), 0.01 * size_of_loads(model))) return;
  throw Failure({Severity::error, "solve.unbalanced",
                 fmt::format("reactions {} do not balance the loads {}: {} are left",
                             in_force(solved.reaction, model.part->units),
                             in_force(solved.deck.total_load, model.part->units), in_force(left, model.part->units)),
                 Place::in(solved.run.dat),
                 "do not use this answer: check that the supports hold the part, and what the solver printed"});
}

/// The energy tells what reactions cannot: whether the forces that stand in for the solver's sums were felt.
void check_work(const Solved& solved) {
  const double off = std::abs(solved.work - solved.strain_energy);
  const double size = std::max(std::abs(solved.work), std::abs(solved.strain_energy));
  if (off <= 0.02 * size) return;
  throw Failure({Severity::error, "solve.unbalanced",
                 fmt::format("the loads do the work {:.4g}, but the strain energy is {:.4g}: they should be equal",
                             solved.work, solved.strain_energy),
                 Place::in(solved.run.dat),
                 "do not use this answer: check that the supports hold the part, and what the solver printed"});
}

void find_largest(Solved& solved, const Answer& answer, const deck::Model& model) {
  solved.largest = *answer.largest();
  const auto node = mesh::node_with_id(model.surface, solved.largest.id);
  if (!node) return;
  solved.largest_at = model.surface.points[*node];
  if (*node >= model.mesh_node_count) return;  // added in the middle of an edge
  solved.largest_mesh_id = model.mesh_node_ids.empty() ? solved.largest.id : model.mesh_node_ids[*node];
}

void check_deflection(const Solved& solved, const deck::Model& model, Findings& findings) {
  const UnitSystem& units = model.part->units;
  const double largest = solved.largest.value.norm();
  if (largest == 0.0 && size_of_loads(model) > 0.0)
    throw Failure({Severity::error, "solve.no-deflection", "no node moves, though loads act", Place::in(solved.run.dat),
                   "check that they do not act on held nodes only"});
  Vec3 low = model.surface.points[0], high = low;
  for (const Vec3& point : model.surface.points) low = low.cwiseMin(point), high = high.cwiseMax(point);
  if (largest > 0.5 * (high - low).norm())
    findings.warning("solve.deflection-unlikely",
                     fmt::format("the largest deflection, {:.4g} {}, is more than half the size of the part", largest,
                                 units.unit(Dimension::length)),
                     {}, "check that the supports hold the part: a free one solves to nonsense without an error");
}

}  // namespace

Solved solve(const deck::Model& model, const std::string& deck_path, const SolveOptions& options, Findings& findings,
             const Progress& progress) {
  const auto tell = [&](std::string_view activity, double fraction) {
    if (progress) progress(activity, fraction);
  };
  if (model.part->loads.empty())
    throw Failure({Severity::error, "solve.no-load", "the part declares no load, so there is nothing to solve",
                   Place::in(model.part->file), "add [load.NAME] with pressure or force"});
  Solved out;
  tell("writing the deck", 0.1);
  out.deck = deck::find_format("calculix")->write(model, deck_path, options.deck, findings);
  tell("the solver runs", 0.3);
  out.run = run_calculix(deck_path, options.run);
  tell("reading the answer", 0.9);
  if (const auto trouble = calculix_trouble(out.run.exit_status, read_file(out.run.log)))
    throw Failure({Severity::error, "solve.failed", fmt::format("the solver failed: {}", *trouble),
                   Place::in(out.run.log), "read the whole of what it printed in that file"});
  if (!std::filesystem::exists(out.run.dat))
    throw Failure({Severity::error, "result.empty", "the solver ended well but wrote no answer", Place::in(out.run.log),
                   "look for a full disk, and at what it printed in that file"});
  const Answer answer = read_calculix(out.run.dat);
  check_whole(answer, expected(model, options.deck), out.run.dat);
  check_whole_frd(out.run.frd);
  out.reaction = reaction(answer, model);
  out.work = work_of_loads(answer, model, options.deck);
  out.strain_energy = *answer.strain_energy;
  find_largest(out, answer, model);
  check_deflection(out, model, findings);
  check_balance(out, model);
  check_work(out);
  tell("", 1.0);
  return out;
}

}  // namespace bordado::result
