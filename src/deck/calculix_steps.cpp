#include "calculix_steps.hpp"

#include <bordado/base/text.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace bordado::deck {

using part::Analysis;

std::string calculix_real(double value) {
  std::string out;
  append_real(out, value);
  return out;
}

std::string calculix_comment(std::string_view text) {
  std::string out;
  for (const std::string& part : wrapped(text)) out += "** " + part + "\n";
  return out;
}

std::string calculix_set(std::string_view kind, std::string_view name, std::span<const std::int64_t> ids) {
  std::vector<std::size_t> first;
  for (std::size_t i = 0; i < ids.size(); ++i)
    if (i == 0 || ids[i] != ids[i - 1] + 1) first.push_back(i);
  const std::size_t runs = first.size();
  first.push_back(ids.size());
  const bool generate = 3 * runs < ids.size();
  std::string text = fmt::format("*{}, {}={}{}\n", kind, kind, name, generate ? ", GENERATE" : "");
  if (generate) {
    for (std::size_t run = 0; run < runs; ++run)
      text += fmt::format("{},{},1\n", ids[first[run]], ids[first[run + 1] - 1]);
    return text;
  }
  for (std::size_t i = 0; i < ids.size(); ++i) {
    append_integer(text, ids[i]);
    text += i % 12 == 11 || i + 1 == ids.size() ? '\n' : ',';
  }
  return text;
}

void add_inertia(const Model::Inertia& inertia, LoadCards& out) {
  if (const double size = inertia.gravity.norm(); size > 0.0) {
    const Vec3 d = inertia.gravity / size;
    out.body.push_back("EALL,GRAV");
    out.magnitudes.push_back(size);
    out.body_rest.push_back(fmt::format(",{},{},{}", calculix_real(d.x()), calculix_real(d.y()), calculix_real(d.z())));
  }
  if (inertia.rotation) {
    const part::Rotation& r = *inertia.rotation;
    out.body.push_back("EALL,CENTRIF");
    out.magnitudes.push_back(r.speed * r.speed);
    out.body_rest.push_back(fmt::format(
        ",{},{},{},{},{},{}", calculix_real(r.through.x()), calculix_real(r.through.y()), calculix_real(r.through.z()),
        calculix_real(r.along.x()), calculix_real(r.along.y()), calculix_real(r.along.z())));
  }
}

std::vector<std::size_t> wanted_cases(const Model& model, const WriteOptions& options) {
  if (!options.cases.empty()) return options.cases;
  std::vector<std::size_t> all(model.cases.size());
  std::iota(all.begin(), all.end(), std::size_t{0});
  return all;
}

namespace {

bool turns_far(const Model::Case& one) { return one.analysis == Analysis::large_displacements; }

}  // namespace

bool holds_besides(const Model& model, const Model::Case& one) {
  bool warm = false, other = false;
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (one.acts(i)) (std::holds_alternative<Model::Temperature>(model.loads[i].what) ? warm : other) = true;
  return one.analysis == Analysis::linear && warm && other;
}

bool Equations::add(const Sum& sum, std::int64_t free_node) {
  std::vector<std::pair<std::int64_t, int>> freedoms;
  for (const NodeValue& term : sum.terms) freedoms.emplace_back(term.node, term.freedom);
  if (!known_.insert(freedoms).second) return true;
  // What stands first in another equation is said by its other terms.
  std::map<std::pair<std::int64_t, int>, double> factors;
  if (free_node != 0) factors[{free_node, 1}] = -1.0;
  for (const NodeValue& term : sum.terms) factors[{term.node, term.freedom}] += term.value;
  for (;;) {
    const auto known = std::find_if(factors.begin(), factors.end(),
                                    [&](const auto& factor) { return first_in_.count(factor.first) > 0; });
    if (known == factors.end()) break;
    const double value = known->second;
    const std::vector<NodeValue>& terms = all_[first_in_.at(known->first)];
    factors.erase(known);
    for (std::size_t t = 1; t < terms.size(); ++t)
      factors[{terms[t].node, terms[t].freedom}] -= value * terms[t].value / terms.front().value;
  }
  if (free_node != 0) held_.emplace(free_node, 1);
  std::vector<NodeValue> terms;
  for (const auto& [freedom, factor] : factors)
    if (std::abs(factor) > 1e-12) terms.push_back({freedom.first, freedom.second, factor});
  // The largest that may be comes first.
  auto first = terms.end();
  for (auto term = terms.begin(); term != terms.end(); ++term)
    if (held_.count({term->node, term->freedom}) == 0 &&
        (first == terms.end() || std::abs(term->value) > std::abs(first->value) * (1.0 + 1e-9)))
      first = term;
  if (first == terms.end()) return false;
  std::iter_swap(terms.begin(), first);
  first_in_.emplace(std::pair(terms.front().node, terms.front().freedom), all_.size());
  all_.push_back(std::move(terms));
  return true;
}

EquationsOf equations_of(const Model& model, Carrier& carrier, std::span<const std::size_t> cases) {
  std::set<std::size_t> supports, loads;
  for (const std::size_t k : cases) {
    supports.insert(model.cases[k].supports.begin(), model.cases[k].supports.end());
    for (std::size_t i = 0; i < model.loads.size(); ++i)
      if (model.cases[k].acts(i) && std::holds_alternative<Model::Displacement>(model.loads[i].what)) loads.insert(i);
  }
  std::set<std::pair<std::int64_t, int>> by_themselves;
  for (const std::size_t i : supports)
    for (const HeldNodes& held : carrier.held(model.supports[i]))
      for (int k = 0; k < 3; ++k)
        if (held.held >> k & 1)
          for (const std::int64_t node : held.nodes) by_themselves.emplace(node, k + 1);
  std::map<std::size_t, std::vector<Sum>> moved;
  for (const std::size_t i : loads) {
    LoadCards cards = carrier.cards(model.loads[i], false);
    for (const NodeValue& value : cards.moved) by_themselves.emplace(value.node, value.freedom);
    moved.emplace(i, std::move(cards.moved_sums));
  }
  Equations equations(std::move(by_themselves));
  EquationsOf out;
  for (const auto& [i, sums] : moved)
    for (const Sum& sum : sums) {
      out.movers[i].push_back(carrier.free_node());
      if (!equations.add(sum, out.movers[i].back()))
        throw Failure({Severity::error, "deck.moved-held",
                       fmt::format("[load.{}] moves nodes that a support holds", model.loads[i].name),
                       Place::in(model.part->file), "take from the support what the load moves"});
    }
  // What is moved already is not held.
  for (const std::size_t i : supports)
    for (const HeldSum& held : carrier.held_sums(model.supports[i])) equations.add(held.sum, 0);
  out.all = equations.all();
  return out;
}

StepWriter::StepWriter(const Model& model, std::span<const std::size_t> cases, Carrier& carrier, OutputFile& file,
                       std::vector<Stands>& names)
    : model_(model), cases_(cases.begin(), cases.end()), carrier_(carrier), file_(file), names_(names) {}

void StepWriter::line(std::string_view text) {
  file_.write(text);
  file_.write("\n");
}

std::string StepWriter::set_name(const std::string& name, std::size_t k) const {
  return cases_.size() == 1 ? name : fmt::format("{}_{}", name, k + 1);
}

std::vector<Mark> StepWriter::write() {
  if (cases_.empty()) return {};
  const Model::Case& first = model_.cases[cases_.front()];
  for (const std::size_t k : cases_) {
    const Model::Case& one = model_.cases[k];
    check_linked_alike(model_, first, one);
    if (!held_alike(model_, first, one))
      throw Failure({Severity::error, "deck.cases-apart",
                     fmt::format("cases '{}' and '{}' are not held alike, which one deck cannot say to this solver",
                                 first.name, one.name),
                     Place::in(model_.part->file), "write a deck of each: bordado deck --case NAME"});
    bool warm = false;
    for_each_load<Model::Temperature>(model_, one, [&](const auto&, double) { warm = true; });
    heated_ = heated_ || warm;
    if (warm && one.analysis == Analysis::buckling)
      throw Failure(
          {Severity::error, "deck.buckling-heat",
           fmt::format("[case.{}]: this solver finds no buckling factor of a temperature: it refuses the step",
                       one.name),
           Place::in(model_.part->file),
           "give the forces that the held laminate pushes with as loads (bordado laminate --warmed tells them), "
           "or let large-displacements show where it gives way"});
  }
  write_supports();
  write_equations();
  write_links();
  write_couples();
  if (heated_) {
    line("*INITIAL CONDITIONS, TYPE=TEMPERATURE");
    line(fmt::format("NALL,{}", calculix_real(carrier_.heat_by_number() ? 0.0 : carrier_.first_temperature())));
  }
  write_boundary(first, false);
  comment("nodes by what supports hold of them, for sums of forces that can be trusted");
  for (const std::size_t k : cases_) {
    if (model_.cases[k].analysis == Analysis::frequencies) continue;
    for (const auto& [name, nodes] : carrier_.sums(model_.cases[k])) {
      file_.write(calculix_set("NSET", set_name(name, k), nodes));
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
    const std::string name = fmt::format("S{}_{}", i + 1, solver_name(support.name));
    std::size_t part = 0;
    for (HeldNodes& held : carrier_.held(support)) {
      if (held.nodes.empty()) continue;
      const std::string set = part++ == 0 ? name : fmt::format("{}_{}", name, part);
      file_.write(calculix_set("NSET", set, held.nodes));
      names_.push_back({set, "node set", fmt::format("support {}", support.name)});
      for (std::size_t n = 0; n < held.axes.size(); ++n) axes.emplace(held.nodes[n], held.axes[n]);
      held_[i].emplace_back(set, std::move(held));
    }
    for (const HeldSum& held : carrier_.held_sums(support))
      if (held.axes)
        for (const NodeValue& term : held.sum.terms) axes.emplace(term.node, *held.axes);
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
    file_.write(calculix_set("NSET", name, nodes));
    line(fmt::format("*TRANSFORM, NSET={}, TYPE=R", name));
    line(fmt::format("{},{},{},{},{},{}", calculix_real(own[0][0]), calculix_real(own[0][1]), calculix_real(own[0][2]),
                     calculix_real(own[1][0]), calculix_real(own[1][1]), calculix_real(own[1][2])));
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
  for (const std::vector<NodeValue>& terms : equations_.all) {
    line(fmt::format("{}", terms.size()));
    std::string text;
    for (std::size_t t = 0; t < terms.size(); ++t)
      text += fmt::format("{}{},{},{}",
                          t == 0       ? ""
                          : t % 4 == 0 ? ",\n"
                                       : ",",
                          terms[t].node, terms[t].freedom, calculix_real(terms[t].value));
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
      line(fmt::format("{},{},{},{}", node, calculix_real(link->at.x()), calculix_real(link->at.y()),
                       calculix_real(link->at.z())));
    const std::string set = fmt::format("LINK{}", i + 1);
    file_.write(calculix_set("NSET", set, carrier_.linked(*link)));
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
    const LoadCards cards = carrier_.cards(model_.loads[i], true);
    if (cards.couples.empty()) continue;
    comment(fmt::format("load {}: its moments act on nodes that turn as columns do in the mean", model_.loads[i].name));
    // What stands as the place of such a node is the axis that it turns about.
    std::string nodes, means;
    for (const Couple& couple : cards.couples) {
      const std::int64_t node = carrier_.free_node();
      const Vec3 axis = couple.moment.normalized();
      nodes +=
          fmt::format("{},{},{},{}\n", node, calculix_real(axis.x()), calculix_real(axis.y()), calculix_real(axis.z()));
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

void StepWriter::write_boundary(const Model::Case& one, bool in_step, double share) {
  std::string lines;
  std::size_t freedoms = 0;
  for (const std::size_t i : in_step ? std::vector<std::size_t>() : one.supports)
    for (const auto& [set, held] : held_[i])
      for (int freedom = 0; freedom < 6; ++freedom) {
        if ((held.held >> freedom & 1) == 0) continue;
        lines += fmt::format("{},{}\n", set, freedom + 1);
        freedoms += held.nodes.size();
      }
  for (std::size_t i = 0; i < model_.loads.size(); ++i) {
    if (!one.acts(i) || !in_step) continue;
    const LoadCards cards = carrier_.cards(model_.loads[i], false);
    const auto move = [&](std::int64_t node, int freedom, double value) {
      lines += fmt::format("{},{},{},{}\n", node, freedom, freedom, calculix_real(share * one.factors[i] * value));
    };
    for (const NodeValue& moved : cards.moved) move(moved.node, moved.freedom, moved.value);
    for (std::size_t m = 0; m < cards.moved_sums.size(); ++m)
      move(equations_.movers.at(i)[m], 1, cards.moved_sums[m].value);
  }
  if (!in_step)
    for (const std::string& set : carrier_.grounds()) lines += fmt::format("{},1,3\n", set);
  if (lines.empty()) return;
  lines = "*BOUNDARY\n" + lines;
  // The ties at knots take room in an array that the solver sizes by the lines of supports [19].
  const std::size_t ties = carrier_.ties();
  const std::size_t copies = in_step || ties <= 1000 ? 1 : 1 + 3 * ties / std::max<std::size_t>(freedoms, 1);
  if (copies > 1)
    comment(
        fmt::format("supports stand {} times: the copies change nothing but the size of the solver's arrays", copies));
  for (std::size_t copy = 0; copy < copies; ++copy) file_.write(lines);
}

void StepWriter::write_nodal(const std::vector<NodeValue>& values, double factor, bool may_turn) {
  file_.write_lines(values.size(), [&](std::size_t i, std::string& text) {
    const NodeValue& one = values[i];
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
  for (const NodeValue& one : values) {
    if (!turned_.count(one.node)) continue;
    auto& sum = sums.try_emplace(one.node, std::array<Vec3, 2>{Vec3::Zero(), Vec3::Zero()}).first->second;
    sum[one.freedom > 3][(one.freedom - 1) % 3] += one.value;
  }
  for (const auto& [node, sum] : sums)
    for (int k = 0; k < 6; ++k) {
      const double value = (turned_.at(node) * sum[static_cast<std::size_t>(k / 3)])[k % 3];
      if (std::abs(value) > 1e-14 * sum[static_cast<std::size_t>(k / 3)].norm())
        line(fmt::format("{},{},{}", node, k + 1, calculix_real(factor * value)));
    }
}

void StepWriter::write_loads(const Model::Case& one, double sign) {
  for (std::size_t i = 0; i < model_.loads.size(); ++i) {
    if (!one.acts(i)) continue;
    const double factor = sign * one.factors[i];
    comment(fmt::format("load {}{}", plain_text(model_.loads[i].name),
                        factor == 1.0 ? "" : fmt::format(", times {:g}", factor)));
    LoadCards cards = carrier_.cards(model_.loads[i], turns_far(one));
    if (turns_far(one))
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
    if (!cards.body.empty()) {
      line("*DLOAD");
      for (std::size_t b = 0; b < cards.body.size(); ++b)
        line(fmt::format("{},{}{}", cards.body[b], calculix_real(factor * cards.magnitudes[b]), cards.body_rest[b]));
    }
  }
}

void StepWriter::write_temperatures(const Model::Case& one, std::size_t k) {
  if (!heated_) return;
  line(fmt::format("*TEMPERATURE{}", k != cases_.front() ? ", OP=NEW" : ""));
  if (carrier_.heat_by_number()) {
    const auto number = 1 + (std::find(cases_.begin(), cases_.end(), k) - cases_.begin());
    line(fmt::format("NALL,{}", has_load<Model::Temperature>(model_, one) ? fmt::format("{}.", number) : "0."));
    return;
  }
  // Later loads win where several say a node.
  const double first = carrier_.first_temperature();
  std::map<std::int64_t, double> all;
  for (std::size_t i = 0; i < model_.loads.size(); ++i)
    if (one.acts(i) && std::holds_alternative<Model::Temperature>(model_.loads[i].what))
      for (const auto& [node, value] : carrier_.cards(model_.loads[i], false).temperatures)
        all[node] = first + one.factors[i] * (value - first);
  if (all.empty()) line(fmt::format("NALL,{}", calculix_real(first)));
  std::string text;
  for (const auto& [node, value] : all) text += fmt::format("{},{}\n", node, calculix_real(value));
  file_.write(text);
}

void StepWriter::write_results(const Model::Case& one, std::size_t k, bool modes, bool held) {
  const std::string last = one.analysis == Analysis::large_displacements ? ", FREQUENCY=100000" : "";
  // In the part's axes, also where a node has its own.
  // The answer carries the name of this set, which is that of all that was written: an answer of another deck has another.
  const std::string mark = fmt::format("D{:016X}", file_.fingerprint());
  line(fmt::format("*NSET, NSET={}", mark));
  line("NALL");
  names_.push_back({mark, "node set", fmt::format("all nodes; answers of this deck to case {} carry it", one.name)});
  marks_.push_back({k, mark, held});
  line(fmt::format("*NODE PRINT, NSET={}{}{}", mark, turned_.empty() ? "" : ", GLOBAL=YES", last));
  line("U");
  if (!modes) {
    for (const auto& [name, nodes] : carrier_.sums(one)) {
      line(fmt::format("*NODE PRINT, NSET={}, TOTALS={}{}{}", set_name(name, k),
                       !held && carrier_.node_by_node(one, name) ? "YES" : "ONLY",
                       turned_.empty() ? "" : ", GLOBAL=YES", last));
      line("RF");
    }
    for (const std::string& set : carrier_.grounds()) {
      line(fmt::format("*NODE PRINT, NSET={}, TOTALS=ONLY{}", set, last));
      line("RF");
    }
    // Of each element, too, where its strains are asked for: the two belong together.
    line(fmt::format("*EL PRINT, ELSET=EALL, TOTALS={}", carrier_.wants_energies() ? "YES" : "ONLY") + last);
    line("ELSE");
    for (const std::string& set : carrier_.grounds()) {
      line(fmt::format("*EL PRINT, ELSET={}, TOTALS=ONLY{}", set.substr(0, set.find('_')), last));
      line("ELSE");
    }
    file_.write(carrier_.requests());
  } else {
    // What an earlier step asked of elements goes on for every mode, until something else is asked for.
    line("*EL PRINT, ELSET=EALL, TOTALS=ONLY");
    line("ELSE");
  }
  line("*NODE FILE" + last);
  line("U");
}

/// The temperature alone: the stress that stays the same when loads are multiplied.
void StepWriter::write_held(const Model::Case& one, std::size_t k) {
  comment(fmt::format("case {}: its temperature alone, which reserves do not multiply", plain_text(one.name)));
  line("*STEP");
  names_.push_back({fmt::format("step {}", 1 + std::count_if(names_.begin(), names_.end(),
                                                             [](const Stands& s) { return s.kind == "step"; })),
                    "step", fmt::format("case {}, temperature alone", one.name)});
  line("*STATIC");
  write_boundary(one, true, 0.0);
  line("*CLOAD, OP=NEW");
  line("*DLOAD, OP=NEW");
  write_temperatures(one, k);
  write_results(one, k, false, true);
  line("*END STEP");
}

void StepWriter::write_case(std::size_t k) {
  const Model::Case& one = model_.cases[k];
  const bool first = k == cases_.front();
  const bool modes = one.analysis == Analysis::frequencies || one.analysis == Analysis::buckling;
  const auto begin = [&](std::string_view step, bool repeated) {
    line(step);
    names_.push_back({fmt::format("step {}", 1 + std::count_if(names_.begin(), names_.end(),
                                                               [](const Stands& s) { return s.kind == "step"; })),
                      "step", fmt::format("case {}{}", one.name, repeated ? ", loads reversed" : "")});
  };
  const auto act = [&](double sign, bool again) {
    write_boundary(one, true);
    if (!first || again) {
      line("*CLOAD, OP=NEW");
      line("*DLOAD, OP=NEW");
    }
    write_loads(one, sign);
    write_temperatures(one, k);
  };
  comment(
      fmt::format("case {}: {}", plain_text(one.name), part::analysis_names[static_cast<std::size_t>(one.analysis)]));
  switch (one.analysis) {
    case Analysis::linear:
      begin("*STEP", false);
      line("*STATIC");
      act(1.0, false);
      write_results(one, k, false);
      line("*END STEP");
      if (carrier_.wants_held() && holds_besides(model_, one)) write_held(one, k);
      return;
    case Analysis::large_displacements:
      begin("*STEP, NLGEOM, INC=1000", false);
      line("*STATIC");
      line("0.1,1.");
      act(1.0, false);
      write_results(one, k, false);
      line("*END STEP");
      return;
    case Analysis::frequencies:
      if (one.any_load()) {
        comment("the stress that it vibrates under");
        begin("*STEP", false);
        line("*STATIC");
        act(1.0, false);
        write_results(one, k, true);
        line("*END STEP");
        line("*STEP, PERTURBATION");
        line("*FREQUENCY");
        line(fmt::format("{}", one.count));
      } else {
        begin("*STEP", false);
        line("*FREQUENCY");
        line(fmt::format("{}", one.count));
        act(1.0, false);
      }
      write_results(one, k, modes);
      line("*END STEP");
      return;
    case Analysis::buckling:
      // This solver finds factors above nought only, and the lowest of few may be wrong: at least four, and the loads
      // the other way round, too.
      for (const double sign : {1.0, -1.0}) {
        begin("*STEP", sign < 0.0);
        line("*BUCKLE");
        line(fmt::format("{}", std::max(4, one.count)));
        act(sign, sign < 0.0);
        write_results(one, k, modes);
        line("*END STEP");
      }
      return;
  }
}

}  // namespace bordado::deck
