#include <bordado/deck/carrier.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace bordado::deck {

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
                       Place::in(model.design->part.file), "take from the support what the load moves"});
    }
  // What is moved already is not held.
  for (const std::size_t i : supports)
    for (const HeldSum& held : carrier.held_sums(model.supports[i])) equations.add(held.sum, 0);
  out.all = equations.all();
  return out;
}

}  // namespace bordado::deck
