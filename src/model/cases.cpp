// Load cases, and what must be known of the part before a solver is asked about them.
#include "assembling.hpp"

#include <bordado/design.hpp>
#include <bordado/mesh/at_nodes.hpp>

#include <fmt/format.h>
#include <Eigen/Eigenvalues>

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <set>

namespace bordado::model {

using mesh::NodeIndex;
using part::Analysis;

namespace {

void unknown(std::string code, const part::Case& declared, std::string_view what, const Declared<std::string>& name,
             const std::vector<std::string>& known, Findings& errors) {
  const auto near = nearest_name(name.value, known);
  errors.error(std::move(code), fmt::format("[case.{}]: there is no {} '{}'", declared.name, what, name.value),
               name.where,
               near            ? fmt::format("did you mean '{}'?", *near)
               : known.empty() ? fmt::format("declare [{}.{}]", what, name.value)
                               : fmt::format("declared: {}", listed(known, 20)));
}

constexpr double largest_factor = 1e30;

/// Cases that combine cases, each worked out once, however many ways lead to it.
class Shares {
 public:
  Shares(const part::Part& part, Findings& errors) : part_(part), errors_(errors), out_(part.cases.size()) {
    state_.assign(part.cases.size(), State::open);
    bad_.assign(part.cases.size(), 0);
    for (const part::Load& load : part.loads) loads_.push_back(load.name);
    for (const part::Case& one : part.cases) cases_.push_back(one.name);
    for (std::size_t c = 0; c < out_.size(); ++c) work_out(c);
  }
  std::vector<std::map<std::string, double>> take() { return std::move(out_); }

 private:
  void work_out(std::size_t c) {
    if (state_[c] == State::done) return;
    const part::Case& declared = part_.cases[c];
    const auto begun = std::find(way_.begin(), way_.end(), c);
    if (begun != way_.end() || way_.size() > 200) {
      std::vector<std::string> names;
      for (auto one = begun == way_.end() ? way_.begin() : begun; one != way_.end(); ++one)
        names.push_back(cases_[*one]);
      names.push_back(declared.name);
      errors_.error("case.circular",
                    begun == way_.end()
                        ? fmt::format("cases that combine each other over more than 200 steps: {}", listed(names, 6))
                        : fmt::format("cases that combine each other: {}", listed(names, 20)),
                    declared.where, "a combination names other cases, and none of them it");
      return;
    }
    way_.push_back(c);
    for (const part::Share& share : declared.loads)
      if (std::find(loads_.begin(), loads_.end(), share.name.value) == loads_.end())
        unknown("case.load-unknown", declared, "load", share.name, loads_, errors_);
      else
        add(c, share.name.value, share.factor);
    for (const part::Share& share : declared.cases) {
      const auto found = std::find(cases_.begin(), cases_.end(), share.name.value);
      if (found == cases_.end()) {
        unknown("case.load-unknown", declared, "case", share.name, cases_, errors_);
        continue;
      }
      const auto other = static_cast<std::size_t>(found - cases_.begin());
      work_out(other);
      if (bad_[other]) bad_[c] = 1;  // told there
      if (other != c && !bad_[other])
        for (const auto& [load, factor] : out_[other]) add(c, load, share.factor * factor);
    }
    way_.pop_back();
    state_[c] = State::done;
  }

  void add(std::size_t c, const std::string& load, double factor) {
    double& sum = out_[c][load];
    const bool was_fine = std::abs(sum) <= largest_factor;
    sum += factor;
    if (was_fine && !(std::abs(sum) <= largest_factor)) {
      bad_[c] = 1;
      errors_.error("case.factor",
                    fmt::format("[case.{}]: its factors come to {:g} times load '{}', which is no number to work with",
                                part_.cases[c].name, sum, load),
                    part_.cases[c].where, fmt::format("keep them between -{0:g} and {0:g}", largest_factor));
    }
  }

  const part::Part& part_;
  Findings& errors_;
  std::vector<std::string> loads_, cases_;
  std::vector<std::size_t> way_;
  enum class State : std::uint8_t { open, done };
  std::vector<State> state_;
  std::vector<std::uint8_t> bad_;  ///< its factors are no numbers to work with
  std::vector<std::map<std::string, double>> out_;
};

}  // namespace

std::vector<std::map<std::string, double>> shares_of_cases(const part::Part& part, Findings& errors) {
  return Shares(part, errors).take();
}

namespace {

class Cases {
 public:
  explicit Cases(const Assembling& on)
      : model_(on.model), part_(on.model.design->part), errors_(on.errors), findings_(on.findings) {}

  void run() {
    if (part_.supports.empty())
      findings_.warning("deck.no-supports", "the part file declares no support: the part is free in space",
                        Place::in(part_.file),
                        "add [support.NAME] with on = \"...\" and hold = \"clamped\", or write the laminate only");
    const auto vibrates = [](const part::Case& one) { return one.analysis == Analysis::frequencies; };
    const bool only_vibrates = !part_.cases.empty() && std::all_of(part_.cases.begin(), part_.cases.end(), vibrates);
    if (part_.loads.empty() && !only_vibrates)
      findings_.warning("deck.no-loads", "the part file declares no load", Place::in(part_.file),
                        "add [load.NAME] with pressure or force, or write the laminate only");
    if (part_.cases.empty()) {
      Model::Case all;
      all.name = "static";
      all.factors.assign(model_.loads.size(), 1.0);
      hold(all, nullptr);
      check(all, Place::in(part_.file));
      model_.cases.push_back(std::move(all));
      return;
    }
    const auto shares = shares_of_cases(part_, errors_);
    const auto first = [&](std::size_t i) {
      return std::none_of(model_.loads.begin(), model_.loads.begin() + static_cast<std::ptrdiff_t>(i),
                          [&](const Model::Load& other) { return other.name == model_.loads[i].name; });
    };
    for (std::size_t c = 0; c < part_.cases.size(); ++c) {
      const part::Case& declared = part_.cases[c];
      Model::Case one;
      one.name = declared.name;
      one.analysis = declared.analysis;
      one.count = declared.count;
      one.factors.assign(model_.loads.size(), 0.0);
      for (std::size_t i = 0; i < model_.loads.size(); ++i)
        if (const auto found = shares[c].find(model_.loads[i].name); found != shares[c].end() && first(i))
          one.factors[i] = found->second;
      hold(one, &declared);
      check(one, declared.where);
      model_.cases.push_back(std::move(one));
    }
  }

 private:
  void hold(Model::Case& out, const part::Case* declared) {
    std::vector<std::string> known;
    for (const part::Support& support : part_.supports) known.push_back(support.name);
    const auto held = [&](const std::string& name) {
      if (!declared || !declared->supports) return true;
      return std::any_of(declared->supports->begin(), declared->supports->end(),
                         [&](const auto& one) { return one.value == name; });
    };
    for (std::size_t i = 0; i < model_.supports.size(); ++i)
      if (held(model_.supports[i].name)) out.supports.push_back(i);
    for (std::size_t i = 0; i < model_.beds.size(); ++i)
      if (held(model_.beds[i].name)) out.beds.push_back(i);
    if (!declared || !declared->supports) return;
    for (const Declared<std::string>& name : *declared->supports)
      if (std::find(known.begin(), known.end(), name.value) == known.end())
        unknown("case.support-unknown", *declared, "support", name, known, errors_);
  }

  // --- what it needs

  void check(const Model::Case& load_case, const Place& where) {
    if (errors_.has_errors()) return;
    const std::string who = part_.cases.empty() ? std::string("the part") : fmt::format("[case.{}]", load_case.name);
    const bool modes = load_case.analysis == Analysis::frequencies || load_case.analysis == Analysis::buckling;
    if (!load_case.any_load() && (load_case.analysis == Analysis::buckling || (!modes && !part_.cases.empty())))
      errors_.error("case.no-load",
                    load_case.analysis == Analysis::buckling
                        ? fmt::format("{}: no load acts that could buckle the part", who)
                        : fmt::format("{}: no load acts", who),
                    where, "name loads = [\"...\"]");
    bool weighs = load_case.analysis == Analysis::frequencies, heated = false;
    std::optional<double> from;
    for (std::size_t i = 0; i < model_.loads.size(); ++i) {
      if (!load_case.acts(i)) continue;
      weighs = weighs || std::holds_alternative<Model::Inertia>(model_.loads[i].what);
      if (const auto* const heat = std::get_if<Model::Temperature>(&model_.loads[i].what)) {
        heated = true;
        if (heat->from) from = heat->from;
      }
    }
    std::vector<std::string> weightless, rigid, unknown;
    for (const part::MaterialId m : used()) {
      const material::Material& material = section::material_of(part_, model_.design->sections, m);
      if (!material.density) weightless.push_back(material.name);
      if (!material.thermal.along && !material.thermal.across) rigid.push_back(material.name);
      if (!material.stress_free_temperature && !from) unknown.push_back(material.name);
    }
    if (weighs && !weightless.empty())
      errors_.error(
          "case.no-density",
          fmt::format("{}: {} needs densities, and {} none: {}", who,
                      load_case.analysis == Analysis::frequencies ? "a frequency" : "weight or turning",
                      weightless.size() == 1 ? "this material has" : "these materials have", listed(weightless)),
          where, "add density = \"1600 kg/m^3\" to the material");
    if (heated && !rigid.empty())
      errors_.error("case.no-expansion",
                    fmt::format("{}: a temperature needs expansion, and {} none: {}", who,
                                rigid.size() == 1 ? "this material has" : "these materials have", listed(rigid)),
                    where, "add expansion to the material, with noughts where it has none");
    else if (heated && !unknown.empty())
      errors_.error("case.no-stress-free",
                    fmt::format("{}: at which temperature {} free of stress is not known: {}", who,
                                unknown.size() == 1 ? "this material is" : "these materials are", listed(unknown)),
                    where, "add stress-free = 120 to the load, or stress-free-temperature to the material");
    check_axes(load_case, who);
    if (load_case.analysis != Analysis::frequencies && !(part_.supports.empty() && part_.cases.empty()))
      for (const std::string& motion : loose(model_, load_case))
        findings_.warning("case.loose", fmt::format("{}: nothing keeps {}", who, motion), where,
                          "hold it there: a part that can move solves to nonsense without an error");
  }

  /// Two supports whose directions differ cannot both hold a node.
  void check_axes(const Model::Case& load_case, const std::string& who) {
    std::map<NodeIndex, std::pair<std::size_t, Model::Axes>> own;
    for (const std::size_t i : load_case.supports) {
      const Model::Support& support = model_.supports[i];
      for (std::size_t k = 0; k < support.axes.size(); ++k) {
        const auto [found, is_new] = own.emplace(support.nodes[k], std::pair(i, support.axes[k]));
        const Model::Axes &one_way = found->second.second, &other = support.axes[k];
        if (is_new ||
            (std::abs(one_way[0].dot(other[0])) > 1.0 - 1e-9 && std::abs(one_way[1].dot(other[1])) > 1.0 - 1e-9))
          continue;
        errors_.error("load.axes",
                      fmt::format("{}: supports '{}' and '{}' hold node {} along different directions", who,
                                  model_.supports[found->second.first].name, support.name,
                                  model_.surface.node_ids[support.nodes[k]]),
                      Place::in(part_.file), "let them meet at no node, or hold x, y and z there in one of them");
        return;
      }
    }
    constexpr std::uint8_t translations = part::x | part::y | part::z;
    for (const std::size_t i : load_case.supports) {
      const Model::Support& support = model_.supports[i];
      if (!support.axes.empty() || (support.held & translations) == translations) continue;
      for (const NodeIndex node : support.nodes) {
        const auto found = own.find(node);
        if (found == own.end()) continue;
        // What it holds may be along one of those directions.
        const Model::Axes& axes = found->second.second;
        const Vec3 direction[] = {axes[0], axes[1], axes[0].cross(axes[1])};
        bool same = true;
        for (int f = 0; f < 6; ++f)
          if (support.held >> f & 1) same = same && std::abs(direction[f % 3][f % 3]) > 1.0 - 1e-9;
        if (same) continue;
        errors_.error(
            "load.axes",
            fmt::format("{}: support '{}' holds node {} along the part's axes, and '{}' along its own", who,
                        support.name, model_.surface.node_ids[node], model_.supports[found->second.first].name),
            Place::in(part_.file), "let them meet at no node, or hold x, y and z there in one of them");
        return;
      }
    }
  }

  std::set<part::MaterialId> used() const {
    std::set<part::MaterialId> out;
    for (const section::LaidLayer& layer : model_.design->sections.layers) out.insert(layer.material);
    return out;
  }

  Model& model_;
  const part::Part& part_;
  Findings& errors_;
  Findings& findings_;
};

/// Nodes that hang together through elements and stiff links: per node the number of its piece.
std::vector<std::uint32_t> pieces_of(const Model& model, const Model::Case& load_case) {
  std::vector<std::uint32_t> up(model.surface.points.size());
  std::iota(up.begin(), up.end(), 0u);
  const auto root = [&](std::uint32_t n) {
    while (up[n] != n) n = up[n] = up[up[n]];
    return n;
  };
  const auto join = [&](std::uint32_t a, std::uint32_t b) {
    const std::uint32_t ra = root(a), rb = root(b);
    up[std::max(ra, rb)] = std::min(ra, rb);
  };
  for (mesh::ElementIndex e = 0; e < model.surface.element_count(); ++e)
    for (const NodeIndex n : model.surface.nodes_of(e)) join(model.surface.nodes_of(e).front(), n);
  for_each_load<Model::Link>(model, load_case, [&](const Model::Link& link, double) {
    for (const NodeIndex n : link.nodes) join(link.nodes.front(), n);
  });
  std::vector<std::uint32_t> out(up.size());
  for (std::uint32_t n = 0; n < out.size(); ++n) out[n] = root(n);
  return out;
}

using Matrix6 = Eigen::Matrix<double, 6, 6>;
using Vector6 = Eigen::Matrix<double, 6, 1>;

std::string words_of(const Vector6& motion, const Vec3& middle, double size) {
  const Vec3 shift = motion.head<3>(), turn = motion.tail<3>() / size;
  const auto direction = [](Vec3 d) {
    d.normalize();
    for (int k = 2; k >= 0; --k)
      if (std::abs(d[k]) > 0.3 && d[k] < 0.0) {
        d = -d;
        break;
      }
    for (double& value : d)
      if (std::abs(value) < 5e-4) value = 0.0;
    return fmt::format("({:.3g}, {:.3g}, {:.3g})", d.x(), d.y(), d.z());
  };
  if (turn.norm() * size < 1e-3) return fmt::format("from moving along {}", direction(shift));
  // The axis goes where the motion is along it only.
  Vec3 through = middle + turn.cross(shift) / turn.squaredNorm();
  for (double& value : through)
    if (std::abs(value) < 1e-6 * size) value = 0.0;
  return fmt::format("from turning about {} through ({:.4g}, {:.4g}, {:.4g})", direction(turn), through.x(),
                     through.y(), through.z());
}

}  // namespace

std::vector<std::string> loose(const Model& model, const Model::Case& load_case) {
  const std::vector<std::uint32_t> piece = pieces_of(model, load_case);
  std::map<std::uint32_t, Matrix6> held;
  Vec3 low = model.surface.points.front(), high = low;
  std::vector<std::uint8_t> used(piece.size(), 0);
  for (const NodeIndex n : model.surface.nodes) used[n] = 1;
  const mesh::Geometry& geometry = model.design->geometry;
  const std::vector<Vec3> normals = mesh::area_sums_at_nodes(model.surface, geometry, geometry.normals);
  for (NodeIndex n = 0; n < piece.size(); ++n) {
    if (!used[n]) continue;
    low = low.cwiseMin(model.surface.points[n]), high = high.cwiseMax(model.surface.points[n]);
    held.try_emplace(piece[n], Matrix6::Zero());
  }
  const Vec3 middle = 0.5 * (low + high);
  const double size = std::max((high - low).norm(), 1e-30);
  const auto hold = [&](NodeIndex n, const Vec3& direction, bool rotation) {
    Vector6 row = Vector6::Zero();
    if (rotation) {
      const Vec3 normal = normals[n].normalized();
      row.tail<3>() = direction - direction.dot(normal) * normal;
    } else {
      row.head<3>() = direction;
      row.tail<3>() = ((model.surface.points[n] - middle) / size).cross(direction);
    }
    held[piece[n]] += row * row.transpose();
  };
  for (const std::size_t i : load_case.supports) {
    const Model::Support& support = model.supports[i];
    for (std::size_t k = 0; k < support.nodes.size(); ++k) {
      Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();
      if (!support.axes.empty())
        axes << support.axes[k][0], support.axes[k][1], support.axes[k][0].cross(support.axes[k][1]);
      for (int f = 0; f < 6; ++f)
        if (support.held >> f & 1) hold(support.nodes[k], axes.col(f % 3), f >= 3);
    }
  }
  for (const std::size_t i : load_case.beds)
    for (std::size_t k = 0; k < model.beds[i].nodes.size(); ++k)
      hold(model.beds[i].nodes[k], model.beds[i].normals[k], false);
  for_each_load<Model::Displacement>(model, load_case, [&](const Model::Displacement& displacement, double) {
    for (const NodeIndex n : displacement.nodes)
      for (int f = 0; f < 6; ++f)
        if (displacement.by[static_cast<std::size_t>(f)]) hold(n, Vec3::Unit(f % 3), f >= 3);
  });
  std::vector<std::string> out;
  constexpr std::size_t most = 6;
  for (const auto& [root, gram] : held) {
    const Eigen::SelfAdjointEigenSolver<Matrix6> solver(gram);
    const double largest = std::max(solver.eigenvalues()[5], 1e-30);
    const std::string what = held.size() == 1 ? std::string("the part")
                                              : fmt::format("the piece with node {}", model.surface.node_ids[root]);
    if (gram == Matrix6::Zero()) {
      out.push_back(fmt::format("{} at all", what));
      continue;
    }
    for (int k = 0; k < 6 && out.size() < most; ++k)
      if (solver.eigenvalues()[k] < 1e-9 * largest)
        out.push_back(fmt::format("{} {}", what, words_of(solver.eigenvectors().col(k), middle, size)));
  }
  return out;
}

void assemble_cases(const Assembling& on) { Cases(on).run(); }

bool linked_alike(const Model& model, const Model::Case& load_case, const Model::Case& other) {
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (std::holds_alternative<Model::Link>(model.loads[i].what) && load_case.acts(i) != other.acts(i)) return false;
  return true;
}

void check_linked_alike(const Model& model, const Model::Case& load_case, const Model::Case& other) {
  if (!linked_alike(model, load_case, other))
    throw Failure(
        {Severity::error, "deck.cases-apart",
         fmt::format("cases '{}' and '{}' have other stiff links, and a link is there in every case of a deck",
                     load_case.name, other.name),
         Place::in(model.design->part.file), "write a deck of each: bordado deck --case NAME"});
}

bool has_forces(const Model& model, const Model::Case& load_case) {
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (load_case.acts(i) && !std::holds_alternative<Model::Temperature>(model.loads[i].what) &&
        !std::holds_alternative<Model::Displacement>(model.loads[i].what))
      return true;
  return false;
}

bool has_supports(const Model& model, const Model::Case& load_case) {
  return !load_case.supports.empty() || has_load<Model::Displacement>(model, load_case);
}

bool held_alike(const Model& model, const Model::Case& load_case, const Model::Case& other) {
  if (load_case.supports != other.supports || load_case.beds != other.beds) return false;
  for (std::size_t i = 0; i < model.loads.size(); ++i)
    if (std::holds_alternative<Model::Displacement>(model.loads[i].what) && load_case.factors[i] != other.factors[i])
      return false;
  return true;
}
}  // namespace bordado::model
