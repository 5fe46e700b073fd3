#include "balance.hpp"
#include "columns.hpp"
#include "set_names.hpp"
#include "solid_fit.hpp"

#include <bordado/base/files.hpp>
#include <bordado/base/text.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <fstream>
#include <limits>
#include <numbers>
#include <numeric>
#include <unordered_map>

namespace bordado::calculix {

namespace {

/// The numbers of a line, as many as there is room for.
struct Numbers {
  std::array<double, 10> value;
  std::size_t count = 0;
  bool good = true;  ///< nothing else stands there
};

Numbers numbers(std::string_view line) {
  Numbers out;
  const char* at = line.data();
  const char* const end = at + line.size();
  for (;;) {
    while (at != end && (*at == ' ' || *at == '\t' || *at == '\r')) ++at;
    if (at == end) return out;
    if (out.count == out.value.size()) break;
    const auto [next, error] = std::from_chars(at, end, out.value[out.count]);
    if (error != std::errc{}) break;
    // Fortran's numbers run together where one is negative: "-1.0E+00-2.0E+00".
    if (next != end && *next != ' ' && *next != '-' && *next != '\t' && *next != '\r') break;
    ++out.count;
    at = next;
  }
  out.good = false;
  return out;
}

/// A number of a node or element; -1 where it can be none.
std::int64_t whole(double value) { return std::abs(value) < 9e15 ? static_cast<std::int64_t>(value) : -1; }

/// Reads the blocks of a .dat file, one line after the other.
class Reader {
 public:
  Reader(const std::string& path, const ReadOptions& options) : path_(path), options_(options), file_(path) {}

  Answer read() {
    while (const auto line = file_.line()) {
      if (file_.number() % (std::size_t{1} << 17) == 0 && options_.progress)
        options_.progress("reading the answer", static_cast<double>(file_.at()) /
                                                    static_cast<double>(std::max<std::size_t>(file_.bytes(), 1)));
      const std::size_t first = line->find_first_not_of(" \r");
      if (first == std::string_view::npos) continue;
      if (std::isalpha(static_cast<unsigned char>((*line)[first])) == 0) {
        if (block_ != Block::strains || !read_strains(*line)) read_row(*line);
      } else if (line->find(" for set ") != std::string_view::npos) {
        open_block(*line);
      } else if (!open_table(*line)) {
        read_row(*line);
      }
    }
    give_strains();
    leave_table();
    if (!others_.empty() && out_.marks.empty())
      throw Failure(
          {Severity::error, "result.other-deck",
           fmt::format("the answer is of another deck: it carries {}, not {}", others_.front(), options_.marks.front()),
           Place::in(path_),
           "the part, its mesh or an option has changed since, or it is of another part: solve it again"});
    if (out_.displacements.empty() && out_.modes.empty())
      throw Failure({Severity::error, "result.empty", "the solver wrote no displacements", Place::in(path_),
                     "look at what it printed; a deck without a load has no step"});
    return std::move(out_);
  }

 private:
  enum class Block {
    none,
    displacements,
    shape,
    frequencies,
    factors,
    node_forces,
    forces,
    energy,
    energies,
    stresses,
    strains
  };

  /// Headlines of modes, which are spaced out.
  bool open_table(std::string_view line) {
    const auto has = [&](std::string_view words) { return line.find(words) != std::string_view::npos; };
    if (has("E I G E N V A L U E   O U T P U T") || has("B U C K L I N G   F A C T O R")) {
      give_strains();
      leave_table();
      block_ = has("B U C K") ? Block::factors : Block::frequencies;
      table_waits_ = true;
    } else if (has("E I G E N V A L U E    N U M B E R")) {
      const Numbers row = numbers(line.substr(line.rfind('R') + 1));
      if (!row.good || row.count != 1) return false;
      active_ = false;  // what stands before its displacements is the mode's, whose ever it is
      mode_ = row.value[0] >= 1.0 && row.value[0] <= 1e6 ? static_cast<std::size_t>(row.value[0]) : 0;
      block_ = Block::none;
    } else if (has("P A R T I C I P A T I O N") || has("E F F E C T I V E")) {
      block_ = Block::none;
    } else {
      return false;
    }
    return true;
  }

  /// Whether a block of displacements belongs to what is read; its mark is remembered.
  bool mine(const std::string& mark) {
    if (!options_.marks.empty() &&
        std::find(options_.marks.begin(), options_.marks.end(), mark) == options_.marks.end()) {
      others_.push_back(mark);
      if (others_.size() > 1) others_.pop_back();
      return false;
    }
    if (std::find(out_.marks.begin(), out_.marks.end(), mark) == out_.marks.end()) out_.marks.push_back(mark);
    return true;
  }

  /// "... for set EALL and time  0.1000000E+01"
  double time_in(std::string_view line) const {
    const std::size_t from = line.find(" and time ");
    const Numbers row = from == std::string_view::npos ? Numbers{} : numbers(line.substr(from + 10));
    if (row.good && row.count == 1 && std::isfinite(row.value[0])) return row.value[0];
    throw Failure({Severity::error,
                   "result.unreadable",
                   fmt::format("'{}' tells no time", plain_text(line, 80)),
                   {path_, file_.number(), {}, {}},
                   "the answer is broken or cut short: look at what the solver printed, and for a full disk"});
  }

  void open_block(std::string_view line) {
    give_strains();
    block_ = Block::none;
    const auto has = [&](std::string_view words) { return line.find(words) != std::string_view::npos; };
    const std::size_t from = line.find(" for set ") + 9;
    const std::string set(line.substr(from, line.find(' ', from) - from));
    if (has("displacements (vx,vy,vz)")) {
      active_ = mine(set);
      if (!active_) {
        mode_ = 0;
        return;
      }
      is_static_ = mode_ == 0;
      if (!is_static_) return open_shape();
      block_ = Block::displacements;
      out_.time = time_in(line);
      ++out_.steps;
      out_.displacements.clear();
      out_.forces.clear();
      out_.node_forces.clear();
      out_.stress_lines = out_.strain_lines = 0;
      out_.strain_energy.reset();
      out_.element_energies.clear();
      return;
    }
    if (!active_) return;
    if (has("total force (fx,fy,fz)")) {
      block_ = Block::forces;
      set_ = set;
    } else if (has("forces (fx,fy,fz)")) {
      block_ = Block::node_forces;
      set_ = set;
    } else if (has("total internal energy")) {
      block_ = Block::energy;
    } else if (has("internal energy (element")) {
      block_ = set == calculix::all_elements ? Block::energies : Block::none;
    } else if (has("stresses (elem")) {
      block_ = Block::stresses;
    } else if (has("strains (elem")) {
      block_ = Block::strains;
      strained_ = 0;
    }
    if (block_ == Block::none || !is_static_) return;
    if (const double time = time_in(line); time != out_.time)
      throw Failure({Severity::error,
                     "result.cut",
                     fmt::format("a table is of time {} where the displacements are of time {}", time, out_.time),
                     {path_, file_.number(), {}, {}},
                     "tables of this answer are missing, or of another one: solve again"});
  }

  /// A table without modes has no shapes behind it.
  void leave_table() {
    if (table_waits_ && table_.empty()) out_.modes.emplace_back();
    table_.clear();
    table_waits_ = false;
  }

  /// The shape of a mode of the table that was read last.
  void open_shape() {
    if (table_waits_) out_.modes.push_back(std::move(table_));
    table_.clear();
    table_waits_ = false;
    if (mode_ <= out_.modes.back().size()) {
      block_ = Block::shape;
      shape_ = &out_.modes.back()[mode_ - 1].shape;
    }
    mode_ = 0;
  }

  /// The hot path: number of element, of point, six strains. \returns whether it was such a line.
  bool read_strains(std::string_view line) {
    const Numbers row = numbers(line);
    std::size_t first = 2;
    if (!row.good || row.count != 8) {
      // Beyond 999 the number of the point is printed as stars.
      const std::size_t stars = line.find("***");
      if (stars == std::string_view::npos) return false;
      return read_starred(line, stars);
    }
    take_strains(whole(row.value[0]), whole(row.value[1]), &row.value[first]);
    return true;
  }
  bool read_starred(std::string_view line, std::size_t stars) {
    const Numbers id = numbers(line.substr(0, stars)), rest = numbers(line.substr(line.find_first_not_of('*', stars)));
    if (!id.good || id.count != 1 || !rest.good || rest.count != 6) return false;
    take_strains(whole(id.value[0]), std::nullopt, rest.value.data());
    return true;
  }
  void take_strains(std::int64_t element, std::optional<std::int64_t> point, const double* six) {
    ++out_.strain_lines;
    next_point_ = element == strained_ ? next_point_ + 1 : 1;
    strained_ = element;
    if (point && *point != next_point_)
      throw Failure({Severity::error,
                     "result.cut",
                     fmt::format("a strain of element {} says it is at point {}, where {} should stand", element,
                                 *point, next_point_),
                     {path_, file_.number(), {}, {}},
                     "lines of this answer are missing, doubled or in another order: solve again"});
    if (!options_.strains) return;
    for (int k = 0; k < 6; ++k)
      if (!std::isfinite(six[k])) not_finite(static_cast<double>(element));
    if (element != element_) give_strains();
    element_ = element;
    strains_.insert(strains_.end(), six, six + 6);
  }
  void give_strains() {
    if (options_.strains && !strains_.empty()) options_.strains(element_, strains_);
    strains_.clear();
  }

  void read_row(std::string_view line) {
    if (block_ == Block::stresses) return void(++out_.stress_lines);
    if (block_ == Block::none) return;
    const Numbers row = numbers(line);
    const bool table = block_ == Block::frequencies || block_ == Block::factors;
    if (table && (!row.good || row.count != (block_ == Block::factors ? 2 : 5))) return;  // a headline
    const std::size_t wanted =
        table                                                                                      ? row.count
        : block_ == Block::displacements || block_ == Block::shape || block_ == Block::node_forces ? 4
        : block_ == Block::forces                                                                  ? 3
        : block_ == Block::strains                                                                 ? 8
        : block_ == Block::energies                                                                ? 2
                                                                                                   : 1;
    const bool headline = line.find_first_not_of(" STEPINCR0123456789\r") == std::string_view::npos &&
                          line.find_first_of("STEPINCR") != std::string_view::npos;
    if (headline) return;
    if (block_ == Block::strains && read_strains(line)) return;
    if (!row.good || row.count != wanted)
      throw Failure({Severity::error,
                     "result.unreadable",
                     fmt::format("'{}' stands where {} numbers should", plain_text(line, 40), wanted),
                     {path_, file_.number(), {}, {}},
                     "the answer is broken or cut short: look at what the solver printed, and for a full disk"});
    const auto& value = row.value;
    for (std::size_t k = 0; k < row.count; ++k)
      if (!std::isfinite(value[k])) not_finite(value[0]);
    const auto vector = [&] { return NodeRow{whole(value[0]), {value[1], value[2], value[3]}}; };
    if (block_ == Block::displacements)
      out_.displacements.push_back(vector());
    else if (block_ == Block::node_forces)
      out_.node_forces.push_back(vector());
    else if (block_ == Block::energies)
      out_.element_energies.push_back({whole(value[0]), value[1]});
    else if (block_ == Block::shape)
      shape_->push_back(vector());
    else if (block_ == Block::factors)
      table_.push_back({value[1], false, {}});
    else if (block_ == Block::frequencies) {
      const bool unstable = value[1] < 0.0;
      table_.push_back({unstable ? value[4] / (2.0 * std::numbers::pi) : value[3], unstable, {}});
    } else if (block_ == Block::forces)
      out_.forces.push_back({set_, {value[0], value[1], value[2]}});
    else
      out_.strain_energy = out_.strain_energy.value_or(0.0) + value[0];
  }

  [[noreturn]] void not_finite(double id) const {
    const std::string what = block_ == Block::displacements || block_ == Block::shape
                                 ? fmt::format("the displacement of node {}", id)
                             : block_ == Block::strains ? fmt::format("a strain of element {}", id)
                             : block_ == Block::frequencies || block_ == Block::factors ? fmt::format("mode {}", id)
                             : block_ == Block::node_forces ? fmt::format("the force on node {}", id)
                             : block_ == Block::forces      ? fmt::format("the force on the nodes of {}", set_)
                                                            : "the strain energy";
    throw Failure({Severity::error,
                   "result.not-finite",
                   what + " is not a number",
                   {path_, file_.number(), {}, {}},
                   "check that the supports hold the part"});
  }

  const std::string& path_;
  const ReadOptions& options_;
  InputFile file_;
  Answer out_;
  Block block_ = Block::none;
  bool active_ = true;      ///< the blocks that come are of a step that is read
  bool is_static_ = false;  ///< and of one that has a time of its own
  std::string set_;
  std::vector<std::string> others_;  ///< a mark that was passed over
  std::vector<Mode> table_;          ///< of modes, whose shapes come behind it and say whose they are
  bool table_waits_ = false;
  std::size_t mode_ = 0;                   ///< whose shape comes next, from 1
  std::vector<NodeRow>* shape_ = nullptr;  ///< that is being read
  std::int64_t element_ = 0;
  std::vector<double> strains_;                 ///< of that element
  std::int64_t strained_ = 0, next_point_ = 0;  ///< element and point of the last line of strains
};

[[noreturn]] void cut(const std::string& path, std::string what) {
  throw Failure({Severity::error, "result.cut", std::move(what), Place::in(path),
                 "the answer is not that of this deck, or was cut short: look at what the solver printed, and for a "
                 "full disk"});
}

}  // namespace

std::optional<NodeRow> Answer::largest() const {
  std::optional<NodeRow> out;
  for (const NodeRow& row : displacements)
    if (!out || row.value.norm() > out->value.norm()) out = row;
  return out;
}

Answer read_answer(const std::string& path, const ReadOptions& options) { return Reader(path, options).read(); }

std::vector<std::string> marks_in(const std::string& path, const Progress& progress) {
  InputFile file(path);
  std::vector<std::string> out;
  constexpr std::string_view headline = " displacements (vx,vy,vz) for set ";
  while (const auto line = file.line()) {
    if (file.number() % (std::size_t{1} << 18) == 0 && progress)
      progress("looking through the answer",
               static_cast<double>(file.at()) / static_cast<double>(std::max<std::size_t>(file.bytes(), 1)));
    if (!line->starts_with(headline)) continue;
    const std::string_view rest = line->substr(headline.size());
    const std::string mark = plain_text(rest.substr(0, rest.find(' ')), 40);
    if (std::find(out.begin(), out.end(), mark) == out.end()) out.push_back(mark);
  }
  return out;
}

Expected expected(const Model& model, const Model::Case& load_case, const deck::WriteOptions& options) {
  Expected out;
  if (model.solids) {
    out.node_ids.resize(model.solids->points.size());
    std::iota(out.node_ids.begin(), out.node_ids.end(), std::int64_t{1});
  } else {
    out.node_ids = model.surface.node_ids;
    std::sort(out.node_ids.begin(), out.node_ids.end());
  }
  out.steps = 0;
  for (const PlannedStep& step : steps_of(model, load_case, false)) {
    if (step.displaces()) ++out.steps;
    if (step.modes > 0) out.modes.push_back(step.modes);
  }
  if (!out.modes.empty()) return out;
  out.time = static_cast<double>(out.steps);  // each lasts for one
  if (model.solids) {
    out.node_forces = calculix::loads_on_held(model, load_case).size();
    if (!options.ply_results) return out;
    const SolidFit fit(model, options.cases);
    for (std::size_t solid = 0; solid < model.solids->count(); ++solid) {
      ++out.element_energies;
      out.strain_lines += fit.points(solid);
    }
    return out;
  }
  const bool told = calculix::can_tell_reactions(model, load_case);
  for (const ForceSet& set : calculix::force_sets(model, load_case)) {
    if (!set.trusted) continue;
    out.force_sets.push_back(set.name);
    if (told && set.held != 0) out.node_forces += set.nodes.size();
  }
  if (options.ply_results) {
    Findings unheard;
    const Standing standing(model, options, unheard);
    for (mesh::ElementIndex e = 0; e < model.surface.element_count(); ++e) {
      ++out.element_energies;
      out.strain_lines += standing.points(e);
    }
  }
  return out;
}

namespace {

/// The first id that stands twice.
template <class Row>
std::optional<std::int64_t> doubled(const std::vector<Row>& rows) {
  std::vector<std::int64_t> ids;
  for (const Row& row : rows) ids.push_back(row.id);
  std::sort(ids.begin(), ids.end());
  const auto found = std::adjacent_find(ids.begin(), ids.end());
  return found == ids.end() ? std::nullopt : std::optional(*found);
}

void check_nodes(const std::vector<NodeRow>& rows, const Expected& expected, const std::string& path) {
  std::vector<std::int64_t> ids;
  for (const NodeRow& row : rows) ids.push_back(row.id);
  std::sort(ids.begin(), ids.end());
  if (ids.size() != expected.node_ids.size())
    cut(path, fmt::format("the answer has displacements of {}; the deck has {}", counted(ids.size(), "node"),
                          expected.node_ids.size()));
  if (const auto [own, other] = std::mismatch(ids.begin(), ids.end(), expected.node_ids.begin()); own != ids.end())
    cut(path, fmt::format("the answer has a displacement of node {} where node {} should stand", *own, *other));
}

}  // namespace

void check_whole(const Answer& answer, const Expected& expected, const std::string& path) {
  if (answer.steps != expected.steps)
    cut(path, expected.steps == 1
                  ? fmt::format("the answer has {}, not one", counted(answer.steps, "step"))
                  : fmt::format("the answer has {}, not {}", counted(answer.steps, "step"), expected.steps));
  // A deck of several cases has more steps before these.
  if (expected.time && (std::abs(answer.time - std::round(answer.time)) > 1e-6 * answer.time ||
                        answer.time < (1.0 - 1e-6) * *expected.time))
    cut(path, fmt::format("the answer is that of time {}, at which no step ends", answer.time));
  if (expected.steps > 0) check_nodes(answer.displacements, expected, path);
  if (answer.modes.size() != expected.modes.size())
    cut(path, fmt::format("the answer has {} of modes, not {}", counted(answer.modes.size(), "table"),
                          expected.modes.size()));
  for (const auto& table : answer.modes)
    for (const Mode& mode : table) check_nodes(mode.shape, expected, path);
  if (!expected.modes.empty()) return;
  std::vector<std::string> sets;
  for (const SetForce& force : answer.forces) sets.push_back(force.set);
  for (const std::string& set : expected.force_sets)
    if (std::count(sets.begin(), sets.end(), set) != 1)
      cut(path, fmt::format("the answer has {} totals of force on the nodes of {}, not one",
                            std::count(sets.begin(), sets.end(), set), set));
  if (answer.node_forces.size() != expected.node_forces)
    cut(path, fmt::format("the answer has forces on {}; {} were asked for",
                          counted(answer.node_forces.size(), "held node"), expected.node_forces));
  if (const auto twice = doubled(answer.node_forces))
    cut(path, fmt::format("the answer has the force on node {} twice", *twice));
  if (const auto twice = doubled(answer.element_energies))
    cut(path, fmt::format("the answer has the strain energy of element {} twice", *twice));
  if (!answer.strain_energy) cut(path, "the answer has no strain energy");
  if (answer.element_energies.size() < expected.element_energies)
    cut(path, fmt::format("the answer has the strain energy of {}; that of {} was asked for",
                          counted(answer.element_energies.size(), "element"), expected.element_energies));
  if (answer.stress_lines != expected.stress_lines || answer.strain_lines != expected.strain_lines)
    cut(path, fmt::format("the answer has {} lines of stress and {} of strain in plies; {} and {} were asked for",
                          answer.stress_lines, answer.strain_lines, expected.stress_lines, expected.strain_lines));
}

void check_whole_frd(const std::string& path) {
  std::ifstream in(path, std::ios::binary | std::ios::ate);
  const auto size = static_cast<std::streamoff>(in.tellg());
  std::string end(static_cast<std::size_t>(std::clamp<std::streamoff>(size, 0, 16)), '\0');
  in.seekg(size - static_cast<std::streamoff>(end.size()));
  in.read(end.data(), static_cast<std::streamsize>(end.size()));
  end.erase(end.find_last_not_of(" \r\n") + 1);
  if (!in || !end.ends_with(" 9999")) cut(path, "the answer stops before its last line");
}

namespace {

/// Of solids what the elements put on held nodes, less the loads that act on these.
Vec3 solid_reaction(const Answer& answer, const Model& model, const Model::Case& load_case) {
  Vec3 out = Vec3::Zero();
  for (const SetForce& force : answer.forces)
    if (force.set == calculix::held_columns || calculix::is_bed_ground(force.set)) out += force.total;
  for (const auto& [node, force] : calculix::loads_on_held(model, load_case)) out -= force;
  return out;
}

}  // namespace

Vec3 reaction(const Answer& answer, const Model& model, const Model::Case& load_case) {
  if (model.solids) return solid_reaction(answer, model, load_case);
  const std::vector<Vec3> loads = model::nodal_loads(model, load_case);
  Vec3 on_held = Vec3::Zero(), on_free = Vec3::Zero();            // forces of the elements
  Vec3 load_on_held = Vec3::Zero(), load_on_rest = Vec3::Zero();  // loads that no trusted free node feels
  bool held_untrusted = false;
  // What a link carries is felt by its nodes, of which no sum is trusted.
  model::for_each_load<Model::Link>(
      model, load_case, [&](const Model::Link& link, double factor) { load_on_rest += factor * link.force; });
  for (const ForceSet& set : calculix::force_sets(model, load_case)) {
    const auto found = std::find_if(answer.forces.begin(), answer.forces.end(),
                                    [&](const SetForce& force) { return force.set == set.name; });
    for (int k = 0; k < 3; ++k) {
      const bool held = (set.held >> k & 1) != 0;
      if (found != answer.forces.end()) (held ? on_held : on_free)[k] += found->total[k];
      for (const mesh::NodeIndex n : set.nodes) {
        if (held) load_on_held[k] += loads[n][k];
        if (held || !set.trusted) load_on_rest[k] += loads[n][k];
      }
    }
    if (set.trusted) continue;
    for (const std::size_t i : load_case.supports) {
      const auto& nodes = model.supports[i].nodes;
      held_untrusted = held_untrusted || std::any_of(nodes.begin(), nodes.end(), [&](mesh::NodeIndex n) {
                         return std::binary_search(set.nodes.begin(), set.nodes.end(), n);
                       });
    }
    for (const std::size_t b : load_case.beds) {
      const std::string ground = calculix::bed_ground(b + 1);
      for (const SetForce& force : answer.forces)
        if (force.set == ground) on_held += force.total;
    }
  }
  const bool turned = std::any_of(load_case.supports.begin(), load_case.supports.end(), [&](std::size_t i) {
    return (model.supports[i].held & (part::rx | part::ry | part::rz)) != 0;
  });
  const bool wrong_there = load_case.beds.empty() ? !calculix::can_tell_reactions(model, load_case) : turned;
  return wrong_there || held_untrusted ? Vec3(-on_free - load_on_rest) : Vec3(on_held - load_on_held);
}

LeftOfMoments left_of_moments(const Answer& answer, const Model& model, const Model::Case& load_case,
                              const model::Total& loads) {
  LeftOfMoments out;
  if (!model.solids || !load_case.beds.empty() || load_case.analysis != part::Analysis::linear) return out;
  const std::vector<Vec3>& points = model.solids->points;
  const Extent box = extent(points);
  const Vec3 centre = box.middle();
  out.moment = loads.moment - centre.cross(loads.force);
  out.scale = std::max(out.moment.norm(), loads.force.norm() * box.diagonal());
  double couples = 0.0;
  const auto add = [&](std::int64_t id, const Vec3& force) {
    if (id < 1 || static_cast<std::size_t>(id) > points.size()) return;
    const Vec3 moment = (points[static_cast<std::size_t>(id - 1)] - centre).cross(force);
    out.moment += moment;
    couples += moment.norm();
  };
  for (const NodeRow& row : answer.node_forces) add(row.id, row.value);
  for (const auto& [id, force] : calculix::loads_on_held(model, load_case)) add(id, -force);
  out.scale = std::max(out.scale, 0.05 * couples);
  return out;
}

Vec3 left_of_forces(const Answer& answer, const Model& model, const Model::Case& load_case) {
  Vec3 out = Vec3::Zero();
  if (model.solids || !calculix::can_tell_reactions(model, load_case)) return out;
  for (const ForceSet& set : calculix::force_sets(model, load_case)) {
    if (!set.trusted) return Vec3::Zero();
    for (const SetForce& force : answer.forces)
      if (force.set == set.name) out += force.total;
  }
  return out;
}

bool work_tells(const Model& model, const Model::Case& load_case) {
  if (load_case.analysis != part::Analysis::linear || model.solids) return false;
  for (std::size_t i = 0; i < model.loads.size(); ++i) {
    if (!load_case.acts(i)) continue;
    const auto& what = model.loads[i].what;
    if (std::holds_alternative<Model::Displacement>(what) || std::holds_alternative<Model::Temperature>(what) ||
        std::holds_alternative<Model::Link>(what))
      return false;
    const auto* const force = std::get_if<Model::Force>(&what);
    if (force && !force->moments.empty()) return false;
  }
  return true;
}

double work_of_loads(const Answer& answer, const Model& model, const Model::Case& load_case,
                     const deck::WriteOptions& options, const std::string& frd) {
  const mesh::Surface& surface = model.surface;
  std::vector<Vec3> moved(surface.points.size(), Vec3::Zero());
  std::unordered_map<std::int64_t, mesh::NodeIndex> node_of;
  for (mesh::NodeIndex n = 0; n < moved.size(); ++n) node_of.emplace(surface.node_ids[n], n);
  for (const NodeRow& row : answer.displacements)
    if (const auto found = node_of.find(row.id); found != node_of.end()) moved[found->second] = row.value;
  double out = 0.0;
  const auto add = [&](const auto& load, double factor) {
    for (std::size_t i = 0; i < load.nodes.size(); ++i) out += 0.5 * factor * load.forces[i].dot(moved[load.nodes[i]]);
  };
  model::for_each_load<Model::Pressure>(model, load_case, add);
  model::for_each_load<Model::Inertia>(model, load_case, add);
  // A force acts at the mesh; the displacements are those of the middle of the laminate, and its column leads from one to
  // the other. (Nor is the turn of a column that of the surface: a soft core is sheared.)
  const std::vector<Column> columns = calculix::columns_of_forces(model, load_case, options);
  const std::vector<Vec3> turned = turns(columns, frd);
  for (std::size_t i = 0; i < columns.size(); ++i) moved[columns[i].node] -= columns[i].height * turned[i];
  model::for_each_load<Model::Force>(model, load_case, add);
  return out;
}

std::optional<std::string> trouble(int exit_status, std::string_view printed) {
  if (const std::size_t error = printed.find("*ERROR"); error != std::string_view::npos) {
    std::string_view message = printed.substr(error, printed.find("\n\n", error) - error);
    return std::string(message.substr(0, 400));
  }
  if (exit_status != 0) return fmt::format("the solver ended with status {}", exit_status);
  if (printed.find("Job finished") == std::string_view::npos)
    return "the solver stopped without saying that the job finished";
  return std::nullopt;
}

}  // namespace bordado::calculix
