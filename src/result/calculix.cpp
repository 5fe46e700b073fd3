#include <bordado/result.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <fstream>
#include <limits>
#include <unordered_map>

namespace bordado::result {

namespace {

/// All numbers of a line, or nothing where it holds anything else.
std::optional<std::vector<double>> numbers(std::string_view line) {
  std::vector<double> out;
  const char* at = line.data();
  const char* const end = at + line.size();
  for (;;) {
    while (at != end && (*at == ' ' || *at == '\t' || *at == '\r')) ++at;
    if (at == end) return out;
    double value = 0.0;
    const auto [next, error] = std::from_chars(at, end, value);
    if (error != std::errc{} || (next != end && *next != ' ' && *next != '\t' && *next != '\r')) return std::nullopt;
    out.push_back(value);
    at = next;
  }
}

/// Reads the blocks of a .dat file, one line after the other.
class Reader {
 public:
  explicit Reader(const std::string& path) : path_(path), text_(read_file(path)) {}

  Answer read() {
    for (std::size_t at = 0, number = 1; at < text_.size(); ++number) {
      const std::size_t stop = std::min(text_.find('\n', at), text_.size());
      const std::string_view line = std::string_view(text_).substr(at, stop - at);
      at = stop + 1;
      if (line.find_first_not_of(" \r") == std::string_view::npos) continue;
      if (line.find(" for set ") != std::string_view::npos)
        open_block(line);
      else
        read_row(line, number);
    }
    if (out_.displacements.empty())
      throw Failure({Severity::error, "result.empty", "the solver wrote no displacements", Place::in(path_),
                     "look at what it printed; a deck without a load has no step"});
    return std::move(out_);
  }

 private:
  enum class Block { none, displacements, forces, energy, stresses, strains };

  void open_block(std::string_view line) {
    block_ = Block::none;
    const auto has = [&](std::string_view words) { return line.find(words) != std::string_view::npos; };
    if (has("displacements (vx,vy,vz)")) {
      block_ = Block::displacements;
      ++out_.steps;
      out_.displacements.clear();
      out_.forces.clear();
      out_.stress_lines = out_.strain_lines = 0;
      out_.strain_energy.reset();
    } else if (has("total force (fx,fy,fz)")) {
      block_ = Block::forces;
      const std::size_t from = line.find(" for set ") + 9;
      set_ = line.substr(from, line.find(' ', from) - from);
    } else if (has("total internal energy")) {
      block_ = Block::energy;
    } else if (has("stresses (elem")) {
      block_ = Block::stresses;
    } else if (has("strains (elem")) {
      block_ = Block::strains;
    }
  }

  void read_row(std::string_view line, std::size_t number) {
    if (block_ == Block::stresses) return void(++out_.stress_lines);
    if (block_ == Block::strains) return void(++out_.strain_lines);
    if (block_ == Block::none) return;
    const auto row = numbers(line);
    const std::size_t wanted = block_ == Block::displacements ? 4 : block_ == Block::forces ? 3 : 1;
    const bool headline = line.find_first_not_of(" STEPINCR0123456789\r") == std::string_view::npos &&
                          line.find_first_of("STEPINCR") != std::string_view::npos;
    if (headline) return;
    if (!row || row->size() != wanted)
      throw Failure({Severity::error,
                     "result.unreadable",
                     fmt::format("'{}' stands where {} numbers should", plain_text(line, 40), wanted),
                     {path_, number, {}, {}},
                     "the answer is broken or cut short: look at what the solver printed, and for a full disk"});
    for (const double value : *row)
      if (!std::isfinite(value)) not_finite((*row)[0], number);
    if (block_ == Block::displacements)
      out_.displacements.push_back({static_cast<std::int64_t>((*row)[0]), {(*row)[1], (*row)[2], (*row)[3]}});
    else if (block_ == Block::forces)
      out_.forces.push_back({set_, {(*row)[0], (*row)[1], (*row)[2]}});
    else
      out_.strain_energy = (*row)[0];
  }

  [[noreturn]] void not_finite(double id, std::size_t line) const {
    throw Failure({Severity::error,
                   "result.not-finite",
                   block_ == Block::displacements ? fmt::format("the displacement of node {} is not a number", id)
                   : block_ == Block::forces      ? fmt::format("the force on the nodes of {} is not a number", set_)
                                                  : "the strain energy is not a number",
                   {path_, line, {}, {}},
                   "check that the supports hold the part"});
  }

  const std::string& path_;
  std::string text_;
  Answer out_;
  Block block_ = Block::none;
  std::string set_;
};

[[noreturn]] void cut(const std::string& path, std::string what) {
  throw Failure({Severity::error, "result.cut", std::move(what), Place::in(path),
                 "the answer is not that of this deck, or was cut short: look at what the solver printed, and for a "
                 "full disk"});
}

}  // namespace

std::optional<Row> Answer::largest() const {
  std::optional<Row> out;
  for (const Row& row : displacements)
    if (!out || row.value.norm() > out->value.norm()) out = row;
  return out;
}

Answer read_calculix(const std::string& path) { return Reader(path).read(); }

Expected expected(const deck::Model& model, const deck::WriteOptions& options) {
  Expected out;
  out.node_ids = model.surface.node_ids;
  std::sort(out.node_ids.begin(), out.node_ids.end());
  for (const deck::ForceSet& set : deck::force_sets(model))
    if (set.trusted) out.force_sets.push_back(set.name);
  if (options.ply_results) {
    const auto boxes = deck::boxes(model, options);
    for (mesh::ElementIndex e = 0; e < model.surface.element_count(); ++e) {
      const std::size_t layers = boxes[model.sections->section_of[e]].layers;
      const bool triangle = mesh::corner_count(model.surface.shapes[e]) == 3;
      out.strain_lines += triangle ? (layers == 1 ? 9 : 6 * layers) : 8 * layers;
    }
    const bool any =
        std::any_of(boxes.begin(), boxes.end(), [](const auto& box) { return box.equivalents.has_value(); });
    out.stress_lines = any ? 0 : out.strain_lines;
  }
  return out;
}

void check_whole(const Answer& answer, const Expected& expected, const std::string& path) {
  if (answer.steps != 1) cut(path, fmt::format("the answer has {}, not one", counted(answer.steps, "step")));
  std::vector<std::int64_t> ids;
  for (const Row& row : answer.displacements) ids.push_back(row.id);
  std::sort(ids.begin(), ids.end());
  if (ids.size() != expected.node_ids.size())
    cut(path, fmt::format("the answer has displacements of {}; the deck has {}", counted(ids.size(), "node"),
                          expected.node_ids.size()));
  if (const auto [own, other] = std::mismatch(ids.begin(), ids.end(), expected.node_ids.begin()); own != ids.end())
    cut(path, fmt::format("the answer has a displacement of node {} where node {} should stand", *own, *other));
  std::vector<std::string> sets;
  for (const SetForce& force : answer.forces) sets.push_back(force.set);
  for (const std::string& set : expected.force_sets)
    if (std::count(sets.begin(), sets.end(), set) != 1)
      cut(path, fmt::format("the answer has {} totals of force on the nodes of {}, not one",
                            std::count(sets.begin(), sets.end(), set), set));
  if (!answer.strain_energy) cut(path, "the answer has no strain energy");
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

Vec3 reaction(const Answer& answer, const deck::Model& model) {
  const std::vector<Vec3> loads = deck::nodal_loads(model);
  const bool turned = std::any_of(model.supports.begin(), model.supports.end(), [](const auto& support) {
    return (support.held & (part::rx | part::ry | part::rz)) != 0;
  });
  Vec3 on_held = Vec3::Zero(), on_free = Vec3::Zero();            // forces of the elements
  Vec3 load_on_held = Vec3::Zero(), load_on_rest = Vec3::Zero();  // loads that no trusted free node feels
  bool held_untrusted = false;
  for (const deck::ForceSet& set : deck::force_sets(model)) {
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
    for (const deck::Model::Support& support : model.supports)
      held_untrusted =
          held_untrusted || std::any_of(support.nodes.begin(), support.nodes.end(), [&](mesh::NodeIndex n) {
            return std::binary_search(set.nodes.begin(), set.nodes.end(), n);
          });
  }
  return turned || held_untrusted ? Vec3(-on_free - load_on_rest) : Vec3(on_held - load_on_held);
}

namespace {

/// How the unit normal at each node turns with the displacements: of the first element at the node.
std::vector<Vec3> change_of_normals(const mesh::Surface& surface, const std::vector<Vec3>& moved) {
  double largest = 0.0, shortest = std::numeric_limits<double>::infinity();
  for (const Vec3& u : moved) largest = std::max(largest, u.norm());
  for (mesh::ElementIndex e = 0; e < surface.element_count(); ++e) {
    const auto nodes = surface.nodes_of(e);
    for (std::size_t i = 1; i < nodes.size(); ++i)
      shortest = std::min(shortest, (surface.points[nodes[i]] - surface.points[nodes[i - 1]]).norm());
  }
  std::vector<Vec3> out(surface.points.size(), Vec3::Zero());
  if (!(largest > 0.0)) return out;
  // A part of the displacements so small that the normals turn in proportion to it, one way and the other.
  const double part = 1e-4 * shortest / largest;
  std::array<std::vector<Vec3>, 2> normals;
  for (const int side : {0, 1}) {
    mesh::Surface other = surface;
    for (std::size_t n = 0; n < moved.size(); ++n) other.points[n] += (side == 0 ? -part : part) * moved[n];
    normals[static_cast<std::size_t>(side)] = mesh::nodal_normals(other, mesh::geometry(other));
  }
  for (std::size_t use = surface.nodes.size(); use-- > 0;)
    out[surface.nodes[use]] = (normals[1][use] - normals[0][use]) / (2.0 * part);
  return out;
}

}  // namespace

double work_of_loads(const Answer& answer, const deck::Model& model, const deck::WriteOptions& options) {
  const mesh::Surface& surface = model.surface;
  std::vector<Vec3> moved(surface.points.size(), Vec3::Zero());
  std::unordered_map<std::int64_t, mesh::NodeIndex> node_of;
  for (mesh::NodeIndex n = 0; n < moved.size(); ++n) node_of.emplace(surface.node_ids[n], n);
  for (const Row& row : answer.displacements)
    if (const auto found = node_of.find(row.id); found != node_of.end()) moved[found->second] = row.value;
  double out = 0.0;
  const auto add = [&](const std::vector<mesh::NodeIndex>& nodes, const std::vector<Vec3>& forces,
                       const std::vector<Vec3>& at) {
    for (std::size_t i = 0; i < nodes.size(); ++i) out += 0.5 * forces[i].dot(at[nodes[i]]);
  };
  for (const deck::Model::Pressure& pressure : model.pressures) add(pressure.nodes, pressure.forces, moved);
  if (model.forces.empty()) return out;
  // A force acts at the mesh; the displacements are those of the middle of the laminate, and a normal leads from one
  // to the other.
  const std::vector<double> heights = deck::heights_of_forces(model, options);
  const std::vector<Vec3> turned = change_of_normals(surface, moved);
  for (std::size_t n = 0; n < moved.size(); ++n) moved[n] -= heights[n] * turned[n];
  for (const deck::Model::Force& force : model.forces) add(force.nodes, force.forces, moved);
  return out;
}

std::optional<std::string> calculix_trouble(int exit_status, std::string_view printed) {
  if (const std::size_t error = printed.find("*ERROR"); error != std::string_view::npos) {
    std::string_view message = printed.substr(error, printed.find("\n\n", error) - error);
    return std::string(message.substr(0, 400));
  }
  if (exit_status != 0) return fmt::format("the solver ended with status {}", exit_status);
  if (printed.find("Job finished") == std::string_view::npos)
    return "the solver stopped without saying that the job finished";
  return std::nullopt;
}

}  // namespace bordado::result
