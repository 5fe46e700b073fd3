#include "steps.hpp"

#include "set_names.hpp"

#include <bordado/deck/writing.hpp>
#include <bordado/design.hpp>

#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace bordado::calculix {

using part::Analysis;

std::string real(double value) {
  std::string out;
  append_real(out, value);
  return out;
}

std::string comment_lines(std::string_view text) {
  std::string out;
  for (const std::string& part : deck::wrapped(text)) out += "** " + part + "\n";
  return out;
}

std::string set_text(std::string_view kind, std::string_view name, std::span<const std::int64_t> ids) {
  std::string text;
  set_lines(kind, name, ids, [&](const std::string& head, std::size_t lines, const auto& append) {
    text += head;
    for (std::size_t k = 0; k < lines; ++k) append(k, text);
  });
  return text;
}

namespace {

bool turns_far(const Model::Case& load_case) { return load_case.analysis == Analysis::large_displacements; }

}  // namespace

std::string DeckNames::fit(std::string_view name, std::string_view otherwise) {
  std::string word = deck::solver_name(name);
  if (word.find_first_not_of('_') == std::string::npos) word = otherwise;
  if (is_ours(word)) word += '_';
  std::string out = word;
  for (int number = 2; !used_.insert(out).second; ++number) out = fmt::format("{}_{}", word, number);
  return out;
}

StepWriter::StepWriter(const Model& model, std::span<const std::size_t> cases, deck::Carrier& carrier,
                       const Requests& requests, OutputFile& file, std::vector<deck::Stands>& names)
    : model_(model),
      cases_(cases.begin(), cases.end()),
      carrier_(carrier),
      requests_(requests),
      file_(file),
      names_(names) {}

void StepWriter::line(std::string_view text) {
  file_.write(text);
  file_.write("\n");
}

std::string StepWriter::set_name(const std::string& name, std::size_t k) const {
  return cases_.size() == 1 ? name : fmt::format("{}_{}", name, k + 1);
}

std::vector<deck::Mark> StepWriter::write() {
  if (cases_.empty()) return {};
  const Model::Case& first = model_.cases[cases_.front()];
  for (const std::size_t k : cases_) {
    const Model::Case& load_case = model_.cases[k];
    check_linked_alike(model_, first, load_case);
    if (!held_alike(model_, first, load_case))
      throw Failure({Severity::error, "deck.cases-apart",
                     fmt::format("cases '{}' and '{}' are not held alike, which one deck cannot say to this solver",
                                 first.name, load_case.name),
                     Place::in(model_.design->part.file), "write a deck of each: bordado deck --case NAME"});
    bool warm = false;
    for_each_load<Model::Temperature>(model_, load_case, [&](const auto&, double) { warm = true; });
    heated_ = heated_ || warm;
    if (warm && load_case.analysis == Analysis::buckling)
      throw Failure(
          {Severity::error, "deck.buckling-heat",
           fmt::format("[case.{}]: this solver finds no buckling factor of a temperature: it refuses the step",
                       load_case.name),
           Place::in(model_.design->part.file),
           "give the forces that the held laminate pushes with as loads (bordado laminate --warmed tells them), "
           "or let large-displacements show where it gives way"});
  }
  write_supports();
  write_equations();
  write_links();
  write_couples();
  if (heated_) {
    line("*INITIAL CONDITIONS, TYPE=TEMPERATURE");
    line(fmt::format("NALL,{}", real(requests_.heat_by_number() ? 0.0 : carrier_.first_temperature())));
  }
  write_boundary(first, false);
  comment("nodes by what supports hold of them, for sums of forces that can be trusted");
  for (const std::size_t k : cases_) {
    if (model_.cases[k].analysis == Analysis::frequencies) continue;
    for (const auto& [name, nodes] : requests_.sums(model_.cases[k])) {
      file_.write(set_text("NSET", set_name(name, k), nodes));
      names_.push_back({set_name(name, k), "node set", "nodes by what supports hold, for sums of forces"});
    }
  }
  for (const std::size_t k : cases_) write_case(k);
  return std::move(marks_);
}

void StepWriter::write_supports() {
  std::vector<std::size_t> used;
  for (const std::size_t k : cases_)
    for (const std::size_t i : model_.cases[k].supports) used.push_back(i);
  std::sort(used.begin(), used.end());
  used.erase(std::unique(used.begin(), used.end()), used.end());
  std::map<std::int64_t, Model::Axes> axes;
  for (const std::size_t i : used) {
    const Model::Support& support = model_.supports[i];
    const std::string name = fmt::format("S{}_{}", i + 1, deck::solver_name(support.name));
    std::size_t part = 0;
    for (deck::HeldNodes& held : carrier_.held(support)) {
      if (held.nodes.empty()) continue;
      const std::string set = part++ == 0 ? name : fmt::format("{}_{}", name, part);
      file_.write(set_text("NSET", set, held.nodes));
      names_.push_back({set, "node set", fmt::format("support {}", support.name)});
      for (std::size_t n = 0; n < held.axes.size(); ++n) axes.emplace(held.nodes[n], held.axes[n]);
      held_[i].emplace_back(set, std::move(held));
    }
    for (const deck::HeldSum& held : carrier_.held_sums(support))
      if (held.axes)
        for (const deck::NodeValue& term : held.sum.terms) axes.emplace(term.node, *held.axes);
  }
  write_axes(axes);
}

void StepWriter::write_axes(const std::map<std::int64_t, Model::Axes>& axes) {
  if (axes.empty()) return;
  comment("directions of supports that are not the part's: forces on these nodes stand in them, too");
  std::map<std::array<std::int64_t, 6>, std::vector<std::int64_t>> alike;
  for (const auto& [node, own] : axes) {
    std::array<std::int64_t, 6> key{};
    for (std::size_t k = 0; k < 6; ++k) key[k] = std::llround(1e9 * own[k / 3][static_cast<Eigen::Index>(k % 3)]);
    alike[key].push_back(node);
    Eigen::Matrix3d turn;
    turn.row(0) = own[0];
    turn.row(1) = own[1];
    turn.row(2) = own[0].cross(own[1]);
    turned_.emplace(node, turn);
  }
  std::size_t number = 0;
  for (const auto& [key, nodes] : alike) {
    const Model::Axes& own = axes.at(nodes.front());
    const std::string name = fmt::format("AXES{}", ++number);
    file_.write(set_text("NSET", name, nodes));
    line(fmt::format("*TRANSFORM, NSET={}, TYPE=R", name));
    line(fmt::format("{},{},{},{},{},{}", real(own[0][0]), real(own[0][1]), real(own[0][2]), real(own[1][0]),
                     real(own[1][1]), real(own[1][2])));
  }
}

void StepWriter::write_equations() {
  equations_ = equations_of(model_, carrier_, cases_);
  if (equations_.all.empty()) return;
  comment(
      "where no node lies in the middle the mean of the two beside it is held; what turns is moved as a difference");
  std::string nodes;
  for (const auto& [load, movers] : equations_.movers)
    for (const std::int64_t mover : movers) nodes += fmt::format("{},0.,0.,0.\n", mover);
  if (!nodes.empty()) {
    comment("free nodes: what moves such a sum");
    line("*NODE");
    file_.write(nodes);
  }
  line("*EQUATION");
  for (const std::vector<deck::NodeValue>& terms : equations_.all) {
    line(fmt::format("{}", terms.size()));
    std::string text;
    for (std::size_t t = 0; t < terms.size(); ++t)
      text += fmt::format("{}{},{},{}",
                          t == 0       ? ""
                          : t % 4 == 0 ? ",\n"
                                       : ",",
                          terms[t].node, terms[t].freedom, real(terms[t].value));
    line(text);
  }
}

void StepWriter::write_links() {
  for (std::size_t i = 0; i < model_.loads.size(); ++i) {
    const auto* const link = std::get_if<Model::Link>(&model_.loads[i].what);
    if (!link || std::none_of(cases_.begin(), cases_.end(), [&](std::size_t k) { return model_.cases[k].acts(i); }))
      continue;
    const std::int64_t at = carrier_.free_node(), turn = carrier_.free_node();
    comment(fmt::format("load {}: node {} moves and node {} turns with the nodes of the link", model_.loads[i].name, at,
                        turn));
    line("*NODE");
    for (const std::int64_t node : {at, turn})
      line(fmt::format("{},{},{},{}", node, real(link->at.x()), real(link->at.y()), real(link->at.z())));
    const std::string set = fmt::format("LINK{}", i + 1);
    file_.write(set_text("NSET", set, carrier_.linked(*link)));
    names_.push_back({set, "node set", fmt::format("stiff link of load {}", model_.loads[i].name)});
    line(fmt::format("*RIGID BODY, NSET={}, REF NODE={}, ROT NODE={}", set, at, turn));
    link_nodes_.emplace(i, at);
  }
}

void StepWriter::write_couples() {
  for (std::size_t i = 0; i < model_.loads.size(); ++i) {
    if (std::none_of(cases_.begin(), cases_.end(),
                     [&](std::size_t k) { return model_.cases[k].acts(i) && turns_far(model_.cases[k]); }))
      continue;
    const deck::LoadCards cards = carrier_.cards(model_.loads[i], true);
    if (cards.couples.empty()) continue;
    comment(fmt::format("load {}: its moments act on nodes that turn as columns do in the mean", model_.loads[i].name));
    // What stands as the place of such a node is the axis that it turns about.
    std::string nodes, means;
    for (const deck::Couple& couple : cards.couples) {
      const std::int64_t node = carrier_.free_node();
      const Vec3 axis = couple.moment.normalized();
      nodes += fmt::format("{},{},{},{}\n", node, real(axis.x()), real(axis.y()), real(axis.z()));
      means += "*MPC\nMEANROT";
      std::size_t on_line = 1;
      const auto add = [&](std::int64_t id) {
        means += fmt::format("{}{}", on_line == 16 ? ",\n" : ",", id);
        on_line = on_line == 16 ? 1 : on_line + 1;
      };
      for (const std::int64_t id : couple.nodes)
        for (int freedom = 0; freedom < 3; ++freedom) add(id);
      add(node);
      means += '\n';
      couples_[i].push_back({node, 1, couple.moment.norm()});
    }
    line("*NODE");
    file_.write(nodes);
    file_.write(means);
  }
}

void StepWriter::write_boundary(const Model::Case& load_case, bool in_step, double share) {
  std::string lines;
  std::size_t freedoms = 0;
  for (const std::size_t i : in_step ? std::vector<std::size_t>() : load_case.supports)
    for (const auto& [set, held] : held_[i])
      for (int freedom = 0; freedom < 6; ++freedom) {
        if ((held.held >> freedom & 1) == 0) continue;
        lines += fmt::format("{},{}\n", set, freedom + 1);
        freedoms += held.nodes.size();
      }
  for (std::size_t i = 0; i < model_.loads.size(); ++i) {
    if (!load_case.acts(i) || !in_step) continue;
    const deck::LoadCards cards = carrier_.cards(model_.loads[i], false);
    const auto move = [&](std::int64_t node, int freedom, double value) {
      lines += fmt::format("{},{},{},{}\n", node, freedom, freedom, real(share * load_case.factors[i] * value));
    };
    for (const deck::NodeValue& moved : cards.moved) move(moved.node, moved.freedom, moved.value);
    for (std::size_t m = 0; m < cards.moved_sums.size(); ++m)
      move(equations_.movers.at(i)[m], 1, cards.moved_sums[m].value);
  }
  if (!in_step)
    for (const std::string& set : requests_.grounds()) lines += fmt::format("{},1,3\n", set);
  if (lines.empty()) return;
  lines = "*BOUNDARY\n" + lines;
  // The ties at knots take room in an array that the solver sizes by the lines of supports [19].
  const std::size_t ties = requests_.ties();
  const std::size_t copies = in_step || ties <= 1000 ? 1 : 1 + 3 * ties / std::max<std::size_t>(freedoms, 1);
  if (copies > 1)
    comment(
        fmt::format("supports stand {} times: the copies change nothing but the size of the solver's arrays", copies));
  for (std::size_t copy = 0; copy < copies; ++copy) file_.write(lines);
}

void StepWriter::write_nodal(const std::vector<deck::NodeValue>& values, double factor, bool may_turn) {
  file_.write_lines(values.size(), [&](std::size_t i, std::string& text) {
    const deck::NodeValue& one = values[i];
    if (may_turn && turned_.count(one.node)) return;
    append_integer(text, one.node);
    text += ',';
    text += static_cast<char>('0' + one.freedom);
    text += ',';
    append_real(text, factor * one.value);
    text += '\n';
  });
  if (!may_turn || turned_.empty()) return;
  // Of nodes with axes of their own in those.
  std::map<std::int64_t, std::array<Vec3, 2>> sums;
  for (const deck::NodeValue& one : values) {
    if (!turned_.count(one.node)) continue;
    auto& sum = sums.try_emplace(one.node, std::array<Vec3, 2>{Vec3::Zero(), Vec3::Zero()}).first->second;
    sum[one.freedom > 3][(one.freedom - 1) % 3] += one.value;
  }
  for (const auto& [node, sum] : sums)
    for (int k = 0; k < 6; ++k) {
      const double value = (turned_.at(node) * sum[static_cast<std::size_t>(k / 3)])[k % 3];
      if (std::abs(value) > 1e-14 * sum[static_cast<std::size_t>(k / 3)].norm())
        line(fmt::format("{},{},{}", node, k + 1, real(factor * value)));
    }
}

void StepWriter::write_loads(const Model::Case& load_case, double share) {
  for (std::size_t i = 0; i < model_.loads.size(); ++i) {
    if (!load_case.acts(i)) continue;
    const double factor = share * load_case.factors[i];
    comment(fmt::format("load {}{}", plain_text(model_.loads[i].name),
                        factor == 1.0 ? "" : fmt::format(", times {:g}", factor)));
    deck::LoadCards cards = carrier_.cards(model_.loads[i], turns_far(load_case));
    if (turns_far(load_case))
      if (const auto couples = couples_.find(i); couples != couples_.end())
        cards.forces.insert(cards.forces.end(), couples->second.begin(), couples->second.end());
    if (const auto at = link_nodes_.find(i); at != link_nodes_.end()) {
      const auto& link = std::get<Model::Link>(model_.loads[i].what);
      for (int k = 0; k < 3; ++k)
        if (link.force[k] != 0.0) cards.forces.push_back({at->second, k + 1, link.force[k]});
      // A moment is a force on the node that turns.
      for (int k = 0; k < 3; ++k)
        if (link.moment[k] != 0.0) cards.forces.push_back({at->second + 1, k + 1, link.moment[k]});
    }
    if (!cards.forces.empty()) {
      line("*CLOAD");
      write_nodal(cards.forces, factor, true);
    }
    if (!cards.more.empty()) {
      comment(cards.remark);
      if (cards.forces.empty()) line("*CLOAD");
      write_nodal(cards.more, factor, true);
    }
    if (cards.inertia) write_inertia(*cards.inertia, factor);
  }
}

/// Weight and turning as the solver's own cards over all elements.
void StepWriter::write_inertia(const Model::Inertia& inertia, double factor) {
  const auto in_line = [](const Vec3& v) { return fmt::format("{},{},{}", real(v.x()), real(v.y()), real(v.z())); };
  const double size = inertia.gravity.norm();
  if (size > 0.0 || inertia.rotation) line("*DLOAD");
  if (size > 0.0) line(fmt::format("EALL,GRAV,{},{}", real(factor * size), in_line(inertia.gravity / size)));
  if (inertia.rotation) {
    const part::Rotation& r = *inertia.rotation;
    line(
        fmt::format("EALL,CENTRIF,{},{},{}", real(factor * (r.speed * r.speed)), in_line(r.through), in_line(r.along)));
  }
}

void StepWriter::write_temperatures(const Model::Case& load_case, std::size_t k) {
  if (!heated_) return;
  line(fmt::format("*TEMPERATURE{}", k != cases_.front() ? ", OP=NEW" : ""));
  if (requests_.heat_by_number()) {
    const auto number = 1 + (std::find(cases_.begin(), cases_.end(), k) - cases_.begin());
    line(fmt::format("NALL,{}", has_load<Model::Temperature>(model_, load_case) ? fmt::format("{}.", number) : "0."));
    return;
  }
  // Later loads win where several say a node.
  const double first = carrier_.first_temperature();
  std::map<std::int64_t, double> all;
  for (std::size_t i = 0; i < model_.loads.size(); ++i)
    if (load_case.acts(i) && std::holds_alternative<Model::Temperature>(model_.loads[i].what))
      for (const auto& [node, value] : carrier_.cards(model_.loads[i], false).temperatures)
        all[node] = first + load_case.factors[i] * (value - first);
  if (all.empty()) line(fmt::format("NALL,{}", real(first)));
  std::string text;
  for (const auto& [node, value] : all) text += fmt::format("{},{}\n", node, real(value));
  file_.write(text);
}

void StepWriter::write_results(const Model::Case& load_case, std::size_t k, bool modes, bool held) {
  const std::string last = load_case.analysis == Analysis::large_displacements ? ", FREQUENCY=100000" : "";
  // In the part's axes, also where a node has its own.
  // The answer carries the name of this set, which is that of all that was written: an answer of another deck has another.
  const std::string mark = fmt::format("D{:016X}", file_.fingerprint());
  line(fmt::format("*NSET, NSET={}", mark));
  line("NALL");
  names_.push_back(
      {mark, "node set", fmt::format("all nodes; answers of this deck to case {} carry it", load_case.name)});
  marks_.push_back({k, mark, held});
  line(fmt::format("*NODE PRINT, NSET={}{}{}", mark, turned_.empty() ? "" : ", GLOBAL=YES", last));
  line("U");
  if (!modes) {
    for (const auto& [name, nodes] : requests_.sums(load_case)) {
      line(fmt::format("*NODE PRINT, NSET={}, TOTALS={}{}{}", set_name(name, k),
                       !held && requests_.node_by_node(load_case, name) ? "YES" : "ONLY",
                       turned_.empty() ? "" : ", GLOBAL=YES", last));
      line("RF");
    }
    for (const std::string& set : requests_.grounds()) {
      line(fmt::format("*NODE PRINT, NSET={}, TOTALS=ONLY{}", set, last));
      line("RF");
    }
    // Of each element, too, where its strains are asked for: the two belong together.
    line(fmt::format("*EL PRINT, ELSET=EALL, TOTALS={}", requests_.wants_energies() ? "YES" : "ONLY") + last);
    line("ELSE");
    for (const std::string& set : requests_.grounds()) {
      line(fmt::format("*EL PRINT, ELSET={}, TOTALS=ONLY{}", set.substr(0, set.find('_')), last));
      line("ELSE");
    }
    file_.write(requests_.of_elements());
  } else {
    // What an earlier step asked of elements goes on for every mode, until something else is asked for.
    line("*EL PRINT, ELSET=EALL, TOTALS=ONLY");
    line("ELSE");
  }
  line("*NODE FILE" + last);
  line("U");
}

void StepWriter::write_case(std::size_t k) {
  const Model::Case& load_case = model_.cases[k];
  comment(fmt::format("case {}: {}", plain_text(load_case.name),
                      part::analysis_names[static_cast<std::size_t>(load_case.analysis)]));
  for (const PlannedStep& step : steps_of(model_, load_case, requests_.wants_held())) write_step(k, step);
}

void StepWriter::write_step(std::size_t k, const PlannedStep& step) {
  using Does = PlannedStep::Does;
  const Model::Case& load_case = model_.cases[k];
  const bool held = step.does == Does::held;
  const bool modes = load_case.analysis == Analysis::frequencies || load_case.analysis == Analysis::buckling;
  // Of a case that vibrates under loads these act in the step before.
  const bool acts = !(step.does == Does::frequencies && load_case.any_load());
  if (held)
    comment(fmt::format("case {}: its temperature alone, which reserves do not multiply", plain_text(load_case.name)));
  if (step.does == Does::preload) comment("the stress that it vibrates under");
  if (step.share != 1.0)
    comment(fmt::format("{}: {:g} times what is said here is the factor of the loads",
                        step.share < 0.0 ? "the loads reversed, of which this solver finds none by itself"
                                         : "once more, since this solver passes over factors below one",
                        std::abs(step.share)));
  line(step.does == Does::far ? "*STEP, NLGEOM, INC=1000" : acts ? "*STEP" : "*STEP, PERTURBATION");
  if (acts)
    names_.push_back({fmt::format("step {}", 1 + std::count_if(names_.begin(), names_.end(),
                                                               [](const deck::Stands& s) { return s.kind == "step"; })),
                      "step",
                      fmt::format("case {}{}", load_case.name,
                                  held                ? ", temperature alone"
                                  : step.share < 0.0  ? ", loads reversed"
                                  : step.share != 1.0 ? ", once more for factors below one"
                                                      : "")});
  switch (step.does) {
    case Does::linear:
    case Does::held:
    case Does::preload:
      line("*STATIC");
      break;
    case Does::far:
      line("*STATIC");
      line("0.1,1.");
      break;
    case Does::frequencies:
    case Does::buckling:
      line(step.does == Does::buckling ? "*BUCKLE" : "*FREQUENCY");
      line(fmt::format("{}", step.modes));
      break;
  }
  if (acts) {
    write_boundary(load_case, true, held ? 0.0 : step.share);
    if (k != cases_.front() || held || step.share != 1.0) {
      line("*CLOAD, OP=NEW");
      line("*DLOAD, OP=NEW");
    }
    if (!held) write_loads(load_case, step.share);
    write_temperatures(load_case, k);
  }
  write_results(load_case, k, modes, held);
  line("*END STEP");
}

}  // namespace bordado::calculix
