#include "balance.hpp"
#include "run.hpp"
#include "section_fit.hpp"
#include "solid_requests.hpp"

#include <bordado/base/files.hpp>
#include <bordado/deck/record.hpp>
#include <bordado/design.hpp>
#include <bordado/mesh/at_nodes.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <cmath>
#include <condition_variable>
#include <filesystem>
#include <mutex>
#include <set>
#include <thread>
#include <unordered_map>

namespace bordado::calculix {

namespace {

/// The forces that could balance each other: what the reactions are measured against.
double size_of_loads(const Model& model, const Model::Case& load_case) {
  double out = 0.0;
  const auto add = [&](const auto& load, double factor) {
    for (const Vec3& share : load.forces) out += std::abs(factor) * share.norm();
  };
  model::for_each_load<Model::Force>(model, load_case, add);
  model::for_each_load<Model::Pressure>(model, load_case, add);
  model::for_each_load<Model::Inertia>(model, load_case, add);
  model::for_each_load<Model::Link>(
      model, load_case, [&](const Model::Link& link, double factor) { out += std::abs(factor) * link.force.norm(); });
  return out;
}

std::string in_force(const Vec3& force, const UnitSystem& units) {
  return fmt::format("({:.4g}, {:.4g}, {:.4g}) {}", force.x(), force.y(), force.z(), units.unit(Dimension::force));
}

void check_balance(const Solved& solved, const Answer& answer, const Model& model, const Model::Case& load_case,
                   const Vec3& load, double scale) {
  Vec3 left = solved.reaction + load;
  if (const Vec3 all = left_of_forces(answer, model, load_case); all.norm() > left.norm()) left = all;
  if (left.norm() <= 0.002 * std::max({load.norm(), 0.01 * size_of_loads(model, load_case), scale})) return;
  throw Failure({Severity::error, "solve.unbalanced",
                 fmt::format("reactions {} do not balance the loads {}: {} are left",
                             in_force(solved.reaction, model.design->part.units),
                             in_force(load, model.design->part.units), in_force(left, model.design->part.units)),
                 Place::in(solved.run.dat),
                 "do not use this answer: check that the supports hold the part, and what the solver printed"});
}

void check_moments(const Solved& solved, const Model& model, const LeftOfMoments& left) {
  if (left.moment.norm() <= 0.002 * left.scale) return;
  const Vec3& m = left.moment;
  throw Failure({Severity::error, "solve.unbalanced",
                 fmt::format("reactions and loads leave a moment of ({:.4g}, {:.4g}, {:.4g}) {}", m.x(), m.y(), m.z(),
                             model.design->part.units.unit(Dimension::moment)),
                 Place::in(solved.run.dat),
                 "do not use this answer: check that the supports hold the part, and what the solver printed"});
}

/// How large forces are where loads have no resultant: nodes that are moved or warmed, and moments.
double scale_of_forces(const Solved& solved, const Answer& answer, const Model& model, const Model::Case& load_case) {
  double out = 0.0;
  const bool inner =
      model::has_load<Model::Displacement>(model, load_case) || model::has_load<Model::Temperature>(model, load_case);
  const double size = extent(model.surface.points).diagonal();
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (load_case.acts(i))
      out = std::max(out, std::abs(load_case.factors[i]) * model::total(model, model.loads[i]).moment.norm() / size);
  if (!inner) return out;
  for (const SetForce& force : answer.forces) out = std::max(out, force.total.norm());
  if (const double largest = solved.largest.value.norm(); largest > 0.0)
    out = std::max(out, solved.strain_energy / largest);
  // A part that is free to expand has no force but that of rounding.
  const auto layers = section::laminate_of(model.design->part, model.design->sections, section::SectionId{0});
  return std::max(out, 1e-9 * size * laminate::stiffness(layers, 0.0).A.norm());
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

void find_largest(Solved& solved, const Answer& answer, const Model& model) {
  solved.largest = *answer.largest();
  if (model.solids) {
    solved.largest_at = model.solids->points[static_cast<std::size_t>(solved.largest.id - 1)];
    return;
  }
  const auto node = mesh::node_with_id(model.surface, solved.largest.id);
  if (!node) return;
  solved.largest_at = model.surface.points[*node];
  if (*node >= model.mesh_node_count) return;  // added in the middle of an edge
  solved.largest_mesh_id = model.mesh_node_ids.empty() ? solved.largest.id : model.mesh_node_ids[*node];
}

void check_deflection(const Solved& solved, const Model& model, const Model::Case& load_case, Findings& findings) {
  const UnitSystem& units = model.design->part.units;
  const double largest = solved.largest.value.norm();
  if (largest == 0.0 && size_of_loads(model, load_case) > 0.0)
    throw Failure({Severity::error, "solve.no-deflection", "no node moves, though loads act", Place::in(solved.run.dat),
                   "check that they do not act on held nodes only"});
  const double size = extent(model.surface.points).diagonal();
  // Large displacements may well be as large as the part, and an answer that came to its end balances.
  const bool large = load_case.analysis == part::Analysis::large_displacements;
  if (largest > (large ? 2.0 : 0.5) * size)
    findings.warning("solve.deflection-unlikely",
                     fmt::format("the largest deflection, {:.4g} {}, is more than {} the size of the part", largest,
                                 units.unit(Dimension::length), large ? "twice" : "half"),
                     {}, "check that the supports hold the part: a free one solves to nonsense without an error");
}

/// Part of a shape's motion that goes along the normals.
double across(const Mode& mode, const std::unordered_map<std::int64_t, Vec3>& normals) {
  double along = 0.0, all = 0.0;
  for (const NodeRow& row : mode.shape) {
    const auto found = normals.find(row.id);
    if (found == normals.end()) continue;
    along += std::pow(row.value.dot(found->second), 2);
    all += row.value.squaredNorm();
  }
  return all > 0.0 ? along / all : 0.0;
}

/// Of a buckling mode, what the loads do in the motion of the laminate's middle, about: of all that is 1, as the solver
/// scales its modes by their strain energy. Hardly any where layers move against each other only, as those of a soft core
/// do in shells: what is seen of their middle then is rounding.
double of_the_middle(const Mode& mode, double factor, const Model& model, const Model::Case& load_case) {
  std::unordered_map<std::int64_t, Vec3> moved;
  for (const NodeRow& row : mode.shape) moved.emplace(row.id, row.value);
  const double size = extent(model.surface.points).diagonal();
  double sloped = 0.0;  // area times slope squared
  for (mesh::ElementIndex e = 0; e < model.surface.element_count(); ++e) {
    const auto nodes = model.surface.nodes_of(e);
    const std::size_t corners = mesh::corner_count(model.surface.shapes[e]);
    for (std::size_t k = 0; k < corners; ++k) {
      const mesh::NodeIndex from = nodes[k], to = nodes[(k + 1) % corners];
      const auto a = moved.find(model.surface.node_ids[from]), b = moved.find(model.surface.node_ids[to]);
      if (a == moved.end() || b == moved.end()) continue;
      sloped += model.design->geometry.areas[e] / static_cast<double>(corners) * (b->second - a->second).squaredNorm() /
                (model.surface.points[to] - model.surface.points[from]).squaredNorm();
    }
  }
  return factor * size_of_loads(model, load_case) / size * sloped;
}

std::unordered_map<std::int64_t, Vec3> normals_of(const Model& model) {
  std::unordered_map<std::int64_t, Vec3> out;
  const mesh::Geometry& geometry = model.design->geometry;
  const std::vector<Vec3> sums = mesh::area_sums_at_nodes(model.surface, geometry, geometry.normals);
  for (const mesh::NodeIndex n : model.surface.nodes) out.try_emplace(model.surface.node_ids[n], sums[n].normalized());
  if (!model.solids) return out;
  std::unordered_map<std::int64_t, Vec3> of_solids;
  for (mesh::NodeIndex n = 0; n < model.surface.points.size(); ++n)
    for (const std::uint32_t node : model.solids->column_of(n))
      of_solids.emplace(static_cast<std::int64_t>(node) + 1, out.at(model.surface.node_ids[n]));
  return of_solids;
}

void tell_modes(Solved& solved, const Answer& answer, const Model& model, const Model::Case& load_case,
                Findings& findings) {
  if (answer.modes.empty()) return;
  const auto normals = normals_of(model);
  bool missed = false;
  for (const auto& [mode, value, reversed] : modes_of(answer, model, load_case, missed)) {
    const bool against = load_case.analysis == part::Analysis::buckling && !model.solids &&
                         size_of_loads(model, load_case) > 0.0 && of_the_middle(*mode, value, model, load_case) < 1e-4;
    solved.modes.push_back({value, against ? 0.0 : across(*mode, normals), reversed, mode->unstable, false});
  }
  std::stable_sort(solved.modes.begin(), solved.modes.end(), [](const ToldMode& a, const ToldMode& b) {
    return std::pair(!a.unstable, a.value) < std::pair(!b.unstable, b.value);
  });
  const Place where = Place::in(solved.run.dat);
  if (load_case.analysis == part::Analysis::frequencies) {
    if (!solved.modes.empty() && !model::loose(model, load_case).empty())
      for (ToldMode& mode : solved.modes) mode.rigid = mode.value < 0.01 * solved.modes.back().value;
    if (solved.modes.size() < static_cast<std::size_t>(load_case.count))
      findings.warning("solve.few-modes",
                       fmt::format("the solver found {} of {} frequencies", solved.modes.size(), load_case.count),
                       where, "a part with few nodes has few; otherwise read what it printed");
    if (std::any_of(solved.modes.begin(), solved.modes.end(), [](const ToldMode& mode) { return mode.unstable; }))
      findings.warning("solve.unstable", "the loads that the part vibrates under are above those that buckle it", where,
                       "look at its buckling factors");
    return;
  }
  if (missed)
    findings.note(
        "solve.below-one",
        "these loads buckle the part: the solver passed over factors below one, and told them when it was asked "
        "with smaller loads",
        where, "what is told here is right; the first table of that file is not");
  const auto lowest = [&](bool reversed) -> const ToldMode* {
    for (const ToldMode& mode : solved.modes)
      if (mode.reversed == reversed) return &mode;
    return nullptr;
  };
  const ToldMode* const forward = lowest(false);
  const ToldMode* const back = lowest(true);
  if (!forward)
    findings.warning("solve.few-modes", "the solver found no factor at which these loads buckle the part", where,
                     "loads that only pull buckle nothing");
  else if (forward->across < 0.05)
    findings.warning(
        "solve.in-plane",
        fmt::format(
            "the lowest buckling mode ({:.4g}) moves within the surface, or layers against each other: {:.1g} % "
            "of it goes across",
            forward->value, 100.0 * forward->across),
        where,
        "hold the part within its surface along lines, not at single nodes; of a soft-cored sandwich the faces of "
        "layered shells shear off in themselves first: ask for more factors, or use --solids material");
  if (back && (!forward || back->value < forward->value))
    findings.note("solve.reversed",
                  fmt::format("loads the other way round buckle the part first: at {:.4g} times theirs", back->value),
                  where);
}

/// Reads the answer of a run and judges it. \throws Failure where it is not to be believed.
void judge(Solved& out, const Model& model, const Model::Case& load_case, const deck::WriteOptions& options,
           Findings& findings, const Progress& progress) {
  if (const auto why = trouble(out.run.exit_status, read_file(out.run.log)))
    throw Failure({Severity::error, "solve.failed", fmt::format("the solver failed: {}", *why), Place::in(out.run.log),
                   "read the whole of what it printed in that file"});
  if (!std::filesystem::exists(out.run.dat))
    throw Failure({Severity::error, "result.empty", "the solver ended well but wrote no answer", Place::in(out.run.log),
                   "look for a full disk, and at what it printed in that file"});
  for (const std::string& file : {out.run.dat, out.run.frd}) {
    std::error_code none;
    const auto size = std::filesystem::file_size(file, none);
    if (!none) out.answer_bytes += size;
  }
  Whole whole = read_whole(model, options.cases.front(), out.run.dat, out.deck.marks, options, progress);
  const Answer& answer = whole.answer;
  check_whole(answer, expected(model, load_case, options), out.run.dat);
  check_strains(whole, load_case, out.run.dat);
  check_whole_frd(out.run.frd);
  out.fields = std::move(whole.fields);
  tell_modes(out, answer, model, load_case, findings);
  if (!answer.displacements.empty()) find_largest(out, answer, model);
  if (load_case.analysis == part::Analysis::frequencies || load_case.analysis == part::Analysis::buckling) return;
  out.reaction = reaction(answer, model, load_case);
  if (work_tells(model, load_case)) out.work = work_of_loads(answer, model, load_case, options, out.run.frd);
  out.strain_energy = *answer.strain_energy;
  check_deflection(out, model, load_case, findings);
  if (model.solids) {
    const model::Total loads = total_on_solids(model, load_case);
    check_balance(out, answer, model, load_case, loads.force, scale_of_forces(out, answer, model, load_case));
    check_moments(out, model, left_of_moments(answer, model, load_case, loads));
  } else {
    check_balance(out, answer, model, load_case, out.deck.loads.front().second.force,
                  scale_of_forces(out, answer, model, load_case));
  }
  if (work_tells(model, load_case)) check_work(out);
}

/// A deck is written, solved, read and judged; what came of it stands beside it.
/// More than any answer to this deck has: ten kilobytes for each node and each point of a layer in every table, and a
/// gigabyte. What one looks at (.frd) has every layer, whether strains of plies are asked for or not.
std::size_t most_bytes(const Model& model, const Model::Case& load_case, const deck::WriteOptions& options) {
  const Expected asked = expected(model, load_case, options);
  // Large displacements are written step by step.
  std::size_t tables = (load_case.analysis == part::Analysis::large_displacements ? 200 : 2) * asked.steps;
  for (const std::size_t count : asked.modes) tables += 2 * count;
  std::size_t points = model.solids ? 27 * model.solids->count() : 0;
  const section::Sections& sections = model.design->sections;
  for (mesh::ElementIndex e = 0; e < (model.solids ? 0 : model.surface.element_count()); ++e)
    points += 9 * sections.layers_of(sections.section_of[e]).size();
  return 1'000'000'000 + 10'000 * tables * (asked.node_ids.size() + points);
}

Solved solve_one(const Model& model, std::size_t number, const std::string& deck_path, const SolveOptions& options,
                 Findings& findings, const Progress& progress) {
  const auto tell = [&](std::string_view activity, double fraction) {
    if (progress) progress(activity, fraction);
  };
  const Model::Case& load_case = model.cases[number];
  if (load_case.analysis != part::Analysis::frequencies && !load_case.any_load())
    throw Failure({Severity::error, "solve.no-load", "the part declares no load, so there is nothing to solve",
                   Place::in(model.design->part.file), "add [load.NAME] with pressure or force"});
  if (load_case.analysis != part::Analysis::frequencies) {
    Findings loose;
    for (const std::string& motion : model::loose(model, load_case))
      loose.error("solve.loose", fmt::format("nothing keeps {}", motion), Place::in(model.design->part.file),
                  "add a support there: a part that can move solves to nonsense without an error");
    loose.throw_if_errors();
  }
  Solved out;
  out.name = load_case.name;
  out.analysis = load_case.analysis;
  tell("writing the deck", 0.1);
  deck::WriteOptions own = options.deck;
  own.cases = {number};
  const RunFolder folder(deck_path);
  check_answers_replaceable(deck_path, options.run.may_replace);
  check_replaceable(deck::record_path(deck_path), own.may_replace);
  out.deck = deck::find_format("calculix")->write(model, deck_path, own, findings);
  deck::Record record = deck::record_of(model, own, out.deck);
  const auto note = [&](std::optional<deck::Refused> refused) {
    record.refused = std::move(refused);
    deck::write_record(record, deck_path, own.may_replace);
  };
  deck::keep_refusal(record, deck_path);
  note(record.refused);
  tell("the solver runs", 0.3);
  const auto begin = std::chrono::steady_clock::now();
  RunOptions run = options.run;
  run.most_answers = std::min(run.most_answers, most_bytes(model, load_case, own));
  out.run = run_in(folder, deck_path, run);
  out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  tell("reading the answer", 0.9);
  const std::string print = deck::answer_print(out.run.dat);
  note(deck::Refused{"solve.unjudged", "solve was stopped before it had judged it", print});
  try {
    judge(out, model, load_case, own, findings, progress);
  } catch (const Failure& failure) {
    const Finding& first = failure.findings().front();
    note(deck::Refused{first.code, first.what, print});
    throw;
  }
  note(std::nullopt);
  tell("", 1.0);
  return out;
}

}  // namespace

Solved::Solved() = default;
Solved::Solved(Solved&&) noexcept = default;
Solved::Solved(const Solved&) = default;
Solved& Solved::operator=(Solved&&) noexcept = default;
Solved& Solved::operator=(const Solved&) = default;
Solved::~Solved() = default;

Solved solve(const Model& model, const std::string& deck_path, const SolveOptions& options, Findings& findings,
             const Progress& progress, std::size_t case_index) {
  if (case_index >= model.cases.size())
    throw Failure({Severity::error, "solve.no-load", "there is no such case", Place::in(model.design->part.file), {}});
  return solve_one(model, case_index, deck_path, options, findings, progress);
}

std::string path_of_case(const Model& model, const std::string& deck_path, std::size_t case_index) {
  if (model.cases.size() == 1) return deck_path;
  const std::filesystem::path path(deck_path);
  std::string word;
  for (const char c : model.cases[case_index].name)
    word += std::isalnum(static_cast<unsigned char>(c)) || c == '-' || c == '_' ? c : '_';
  return (path.parent_path() / (path.stem().string() + "-" + word + path.extension().string())).string();
}

namespace {

/// A finding that names the case.
Finding of_case(Finding finding, const std::string& name) {
  finding.what = fmt::format("case {}: {}", name, finding.what);
  return finding;
}

}  // namespace

std::vector<Solved> solve_cases(const Model& model, const std::string& deck_path, const SolveOptions& options,
                                std::span<const std::size_t> cases, std::size_t side_by_side, Findings& findings,
                                const Progress& progress) {
  std::vector<std::size_t> wanted(cases.begin(), cases.end());
  if (wanted.empty())
    for (std::size_t k = 0; k < model.cases.size(); ++k) wanted.push_back(k);
  if (wanted.size() == 1 && model.cases.size() == 1)
    return {solve_one(model, wanted.front(), deck_path, options, findings, progress)};
  std::vector<std::string> paths;
  for (const std::size_t k : wanted) {
    paths.push_back(path_of_case(model, deck_path, k));
    if (std::count(paths.begin(), paths.end(), paths.back()) > 1)
      throw Failure({Severity::error, "case.names",
                     fmt::format("two cases would both be written to '{}'", paths.back()),
                     Place::in(model.design->part.file), "name them so that letters and digits tell them apart"});
  }
  std::vector<Solved> out(wanted.size());
  std::vector<Findings> found(wanted.size());
  std::vector<std::vector<Finding>> errors(wanted.size());
  std::atomic<std::size_t> next{0}, done{0};
  std::mutex mutex;
  std::condition_variable one_done;
  std::size_t running = std::min(std::max<std::size_t>(side_by_side, 1), wanted.size());
  std::vector<std::jthread> threads;
  for (std::size_t t = running; t-- > 0;)
    threads.emplace_back([&] {
      for (std::size_t i = next++; i < wanted.size(); i = next++) {
        try {
          out[i] = solve_one(model, wanted[i], paths[i], options, found[i], {});
        } catch (const Failure& failure) {
          errors[i] = failure.findings();
        } catch (const std::exception& trouble) {
          errors[i] = {{Severity::error, "solve.failed", trouble.what(), Place::in(paths[i]), {}}};
        }
        const std::lock_guard lock(mutex);
        ++done;
        one_done.notify_all();
      }
    });
  const auto begin = std::chrono::steady_clock::now();
  for (std::unique_lock lock(mutex); done < wanted.size();) {
    one_done.wait_for(lock, std::chrono::milliseconds(500));
    if (!progress) continue;
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
    progress(fmt::format("{} of {} cases solved, {:.0f} s", done.load(), wanted.size(), seconds),
             static_cast<double>(done) / static_cast<double>(wanted.size() + 1));
  }
  threads.clear();
  if (progress) progress("", 1.0);
  // What the writer says of every case is said once.
  std::set<std::pair<std::string, std::string>> said;
  std::vector<Finding> failed;
  for (std::size_t i = 0; i < wanted.size(); ++i) {
    const std::string& name = model.cases[wanted[i]].name;
    for (const Finding& finding : found[i].all())
      if (said.emplace(finding.code, finding.what).second)
        findings.add(finding.code.starts_with("solve.") ? of_case(finding, name) : finding);
    for (const Finding& error : errors[i]) failed.push_back(of_case(error, name));
  }
  if (!failed.empty()) throw Failure(std::move(failed));
  return out;
}

}  // namespace bordado::calculix
