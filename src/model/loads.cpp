// What loads come to at nodes.
#include "amounts.hpp"
#include "assembling.hpp"

#include <bordado/base/absolute_zero.hpp>
#include <bordado/design.hpp>

#include <fmt/format.h>
#include <Eigen/Dense>

#include <algorithm>
#include <cmath>
#include <map>

namespace bordado::model {

using mesh::ElementIndex;
using mesh::NodeIndex;

std::vector<double> mass_per_area(const Model& model) {
  const section::Sections& sections = model.design->sections;
  List<section::SectionId, double> own;
  for (const section::SectionId s : sections.ids())
    own.push_back(laminate::areal_mass(section::laminate_of(model.design->part, sections, s)));
  std::vector<double> out(sections.section_of.size());
  for (std::size_t e = 0; e < out.size(); ++e) {
    out[e] = own[sections.section_of[e]];
    if (!model.design->layup.added_mass.empty()) out[e] += model.design->layup.added_mass[e];
  }
  return out;
}

namespace {

using Loaded = std::optional<decltype(Model::Load::what)>;

class Loads {
 public:
  explicit Loads(const Assembling& on)
      : model_(on.model),
        part_(on.model.design->part),
        surface_(on.model.surface),
        errors_(on.errors),
        findings_(on.findings) {}

  void run() {
    for (const part::Load& load : part_.loads) {
      who_ = fmt::format("[load.{}]", load.name);
      const auto target = target_of(load.on, who_, part_, surface_, model_.design->layup, errors_, findings_);
      if (!target || !fits(load, *target, errors_)) continue;
      load_ = &load;
      Loaded what = std::visit([&](const auto& kind) { return of(kind, *target); }, load.kind);
      if (what) model_.loads.push_back({load.name, std::move(*what)});
    }
  }

 private:
  void wrong(std::string code, std::string_view what, std::string remedy) {
    errors_.error(std::move(code), fmt::format("{}: {}", who_, what), load_->on.where, std::move(remedy));
  }

  // --- pressure

  Loaded of(const part::Pressure& pressure, const zone::Target& target) {
    // The tool face is under the first ply: what pushes on it pushes along n.
    const double sign = pressure.on_tool_face ? 1.0 : -1.0;
    Model::Pressure out;
    out.elements = target.elements;
    out.nodes = target.nodes;
    out.on_tool_face = pressure.on_tool_face;
    const auto* const amount = std::get_if<part::Amount>(&pressure.value);
    if (normals_.empty()) normals_ = mesh::nodal_normals(surface_, model_.design->geometry);
    if (amount) {
      out.at_nodes = amounts_at(*amount, out.nodes, who_, model_, errors_, findings_);
      if (out.at_nodes.empty()) return std::nullopt;
      if (!amount->varies()) out.along_normal = sign * std::get<double>(amount->kind);
    } else {
      const auto& water = std::get<part::Hydrostatic>(pressure.value);
      bool wet = false;
      // Depth is that of the wet face, which lies a laminate's thickness from the mesh or none.
      const std::vector<Vec3> off = to_face(out.elements, pressure.on_tool_face);
      for (const NodeIndex node : out.nodes) {
        const double depth = water.level - water.up.dot(surface_.points[node] + off[node]);
        out.at_nodes.push_back(water.density * water.acceleration * std::max(0.0, depth));
        wet = wet || depth > 0.0;
      }
      if (!wet) {
        wrong("load.nothing", "nothing of it is below the level of the liquid",
              "check 'level' (along 'up', from the origin) and 'up'");
        return std::nullopt;
      }
    }
    for (double& value : out.at_nodes) value *= sign;
    push(out, pressure.on_tool_face);
    return out;
  }

  /// How far a face lies from the mesh along n, above each element.
  double height_of_face(ElementIndex e, bool on_tool_face) const {
    const section::SectionId s = model_.design->sections.section_of[e];
    return model_.design->sections.bottom[s] + (on_tool_face ? 0.0 : model_.design->sections.thickness[s]);
  }

  /// From every node to that face of the elements given, in the mean of these.
  std::vector<Vec3> to_face(std::span<const ElementIndex> elements, bool on_tool_face) const {
    std::vector<Vec3> out(surface_.points.size(), Vec3::Zero());
    std::vector<double> many(out.size(), 0.0);
    for (const ElementIndex e : elements) {
      const double height = height_of_face(e, on_tool_face);
      const auto nodes = surface_.nodes_of(e);
      for (std::size_t k = 0; k < nodes.size(); ++k) {
        out[nodes[k]] += height * normals_[surface_.first[e] + k];
        many[nodes[k]] += 1.0;
      }
    }
    for (std::size_t n = 0; n < out.size(); ++n)
      if (many[n] > 0.0) out[n] /= many[n];
    return out;
  }

  void push(Model::Pressure& out, bool on_tool_face) {
    std::vector<double> values(surface_.points.size(), 0.0);
    for (std::size_t i = 0; i < out.nodes.size(); ++i) values[out.nodes[i]] = out.at_nodes[i];
    std::vector<Vec3> sums(surface_.points.size(), Vec3::Zero());
    out.face_ratio.resize(out.elements.size());
    // Some elements at a time: their shares side by side, then added up in order, whatever the number of threads.
    constexpr std::size_t at_a_time = 65536;
    std::vector<std::array<Vec3, 8>> shares(std::min(at_a_time, out.elements.size()));
    for (std::size_t from = 0; from < out.elements.size(); from += at_a_time) {
      const std::size_t many = std::min(at_a_time, out.elements.size() - from);
      parallel_blocks(many, [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i) shares[i] = pressed_shares(out, from + i, values, on_tool_face);
      });
      for (std::size_t i = 0; i < many; ++i) {
        const auto nodes = surface_.nodes_of(out.elements[from + i]);
        for (std::size_t k = 0; k < nodes.size(); ++k) sums[nodes[k]] += shares[i][k];
      }
    }
    for (const NodeIndex n : out.nodes) out.forces.push_back(sums[n]);
  }

  /// What the pressure on a face comes to at the nodes of an element; sets the face's area over the mesh's.
  std::array<Vec3, 8> pressed_shares(Model::Pressure& out, std::size_t i, const std::vector<double>& values,
                                     bool on_tool_face) const {
    const ElementIndex e = out.elements[i];
    const double height = height_of_face(e, on_tool_face);
    const auto nodes = surface_.nodes_of(e);
    const std::span<const Vec3> normals(normals_.data() + surface_.first[e], nodes.size());
    std::array<double, 8> here{};
    for (std::size_t k = 0; k < nodes.size(); ++k) here[k] = values[nodes[k]];
    const mesh::FaceVectors face =
        mesh::nodal_face_vectors(surface_, e, normals, height, std::span(here).first(nodes.size()));
    out.face_ratio[i] = std::abs(face.over_mesh - 1.0) >= 1e-12 ? face.over_mesh : 1.0;
    return face.shares;
  }

  // --- forces

  /// Shares of what is spread over a target: by number, length or area.
  struct Spread {
    std::vector<NodeIndex> nodes;
    std::vector<double> shares;  ///< add up to one
    Vec3 middle = Vec3::Zero();
  };
  std::optional<Spread> spread_over(const zone::Target& target) {
    std::map<NodeIndex, double> shares;
    double whole = 0.0;
    const auto give = [&](NodeIndex node, double share) {
      shares[node] += share;
      whole += share;
    };
    for (const NodeIndex node : target.points) give(node, 1.0);
    for (const mesh::Edge& edge : target.edges) {
      const auto lengths = mesh::nodal_lengths(surface_, edge);
      give(edge.first, lengths[0]);
      give(edge.second, lengths[1]);
      if (edge.middle != mesh::no_index) give(edge.middle, lengths[2]);
    }
    for (const ElementIndex e : target.elements) {
      const auto areas = mesh::nodal_areas(surface_, e);
      const auto nodes = surface_.nodes_of(e);
      for (std::size_t i = 0; i < nodes.size(); ++i) give(nodes[i], areas[i]);
    }
    if (!(whole > 0.0)) {
      wrong("deck.on-kind", "what it acts on has no length or area to spread a force over", {});
      return std::nullopt;
    }
    Spread out;
    for (const auto& [node, share] : shares) {
      out.nodes.push_back(node);
      out.shares.push_back(share / whole);
      out.middle += share / whole * surface_.points[node];
    }
    return out;
  }

  Loaded of(const part::Force& force, const zone::Target& target) {
    if (force.reach == part::Reach::link) return linked(force, target);
    const auto spread = spread_over(target);
    if (!spread) return std::nullopt;
    Model::Force out;
    out.nodes = spread->nodes;
    for (const double share : spread->shares) out.forces.push_back(share * force.total);
    const Vec3 moment =
        force.moment + (force.at ? Vec3((*force.at - spread->middle).cross(force.total)) : Vec3::Zero());
    if (moment != Vec3::Zero()) turn(*spread, moment, out);
    return out;
  }

  /// Forces on the nodes that come to a moment about their middle, in proportion to their distance; what they cannot
  /// (about the line that they lie on) as moments on the nodes.
  void turn(const Spread& spread, const Vec3& moment, Model::Force& out) const {
    Eigen::Matrix3d inertia = Eigen::Matrix3d::Zero();
    for (std::size_t i = 0; i < spread.nodes.size(); ++i) {
      const Vec3 arm = surface_.points[spread.nodes[i]] - spread.middle;
      inertia += spread.shares[i] * (arm.squaredNorm() * Eigen::Matrix3d::Identity() - arm * arm.transpose());
    }
    const Principal own = principal(inertia);
    const double largest = own.values.cwiseAbs().maxCoeff();
    Vec3 turning = Vec3::Zero(), left = Vec3::Zero();
    for (int k = 0; k < 3; ++k) {
      const Vec3 axis = own.axes.col(k);
      if (largest > 0.0 && own.values[k] > 1e-9 * largest)
        turning += axis.dot(moment) / own.values[k] * axis;
      else
        left += axis.dot(moment) * axis;
    }
    for (std::size_t i = 0; i < spread.nodes.size(); ++i)
      out.forces[i] += spread.shares[i] * turning.cross(surface_.points[spread.nodes[i]] - spread.middle);
    if (left.norm() <= 1e-12 * moment.norm()) return;
    for (const double share : spread.shares) out.moments.push_back(share * left);
  }

  Loaded linked(const part::Force& force, const zone::Target& target) {
    Vec3 middle = Vec3::Zero();
    for (const NodeIndex n : target.nodes) middle += surface_.points[n] / static_cast<double>(target.nodes.size());
    Eigen::Matrix3d scatter = Eigen::Matrix3d::Zero();
    for (const NodeIndex n : target.nodes)
      scatter += (surface_.points[n] - middle) * (surface_.points[n] - middle).transpose();
    const Principal own = principal(scatter);
    if (!(own.values[1] > 1e-8 * own.values[2])) {
      wrong("load.link-line", "a stiff link to nodes on one line cannot hold them from turning about it",
            "leave out by = \"link\", so that the force is spread, or link a zone");
      return std::nullopt;
    }
    return Model::Link{force.at.value_or(middle), target.nodes, force.total, force.moment};
  }

  Loaded of(const part::EdgeForce& force, const zone::Target& target) {
    std::map<NodeIndex, std::pair<Vec3, Vec3>> sums;
    std::map<std::array<NodeIndex, 2>, std::vector<ElementIndex>> beside;
    if (force.in_edge_axes) {
      for (const mesh::Edge& edge : target.edges) beside[key(edge)];
      for (ElementIndex e = 0; e < surface_.element_count(); ++e) {
        const auto corners = surface_.corners_of(e);
        for (std::size_t i = 0; i < corners.size(); ++i) {
          const auto found = beside.find(key({corners[i], corners[(i + 1) % corners.size()]}));
          if (found != beside.end()) found->second.push_back(e);
        }
      }
    }
    for (const mesh::Edge& edge : target.edges) {
      Vec3 f = force.force, m = force.moment;
      if (force.in_edge_axes) {
        const auto& elements = beside[key(edge)];
        if (elements.size() != 1) {
          wrong("load.axes",
                fmt::format("edge {} - {} has an element on each side, so that no direction leads out of the surface",
                            surface_.node_ids[edge.first], surface_.node_ids[edge.second]),
                "name a border, or give the force in the part's axes");
          return std::nullopt;
        }
        const Vec3 n = model_.design->geometry.normals[elements.front()];
        Vec3 along = (surface_.points[edge.second] - surface_.points[edge.first]).normalized();
        Vec3 out = along.cross(n).normalized();
        if (out.dot(0.5 * (surface_.points[edge.first] + surface_.points[edge.second]) -
                    model_.design->geometry.centres[elements.front()]) < 0.0)
          out = -out;
        along = n.cross(out);
        f = force.force[0] * out + force.force[1] * along + force.force[2] * n;
        m = force.moment[0] * out + force.moment[1] * along + force.moment[2] * n;
      }
      const auto lengths = mesh::nodal_lengths(surface_, edge);
      const NodeIndex nodes[] = {edge.first, edge.second, edge.middle};
      for (std::size_t i = 0; i < 3; ++i) {
        if (nodes[i] == mesh::no_index) continue;
        auto& [force_here, moment_here] = sums.try_emplace(nodes[i], Vec3::Zero(), Vec3::Zero()).first->second;
        force_here += lengths[i] * f;
        moment_here += lengths[i] * m;
      }
    }
    Model::Force out;
    for (const auto& [node, sum] : sums) {
      out.nodes.push_back(node);
      out.forces.push_back(sum.first);
      if (force.moment != Vec3::Zero()) out.moments.push_back(sum.second);
    }
    return out;
  }
  static std::array<NodeIndex, 2> key(const mesh::Edge& edge) {
    return {std::min(edge.first, edge.second), std::max(edge.first, edge.second)};
  }

  Loaded of(const part::Traction& traction, const zone::Target& target) {
    const auto spread = spread_over(target);
    if (!spread) return std::nullopt;
    double area = 0.0;
    for (const ElementIndex e : target.elements)
      for (const double share : mesh::nodal_areas(surface_, e)) area += share;
    Model::Force out;
    out.nodes = spread->nodes;
    for (const double share : spread->shares) out.forces.push_back(area * share * traction.force);
    return out;
  }

  // --- weight and turning

  template <class Acceleration>
  Model::Inertia inertia(Acceleration at) const {
    Model::Inertia out;
    const std::vector<double> masses = mass_per_area(model_);
    out.forces.assign(surface_.points.size(), Vec3::Zero());
    for (ElementIndex e = 0; e < surface_.element_count(); ++e) {
      const auto areas = mesh::nodal_areas(surface_, e);
      const auto nodes = surface_.nodes_of(e);
      const Vec3 force = masses[e] * at(model_.design->geometry.centres[e]);
      for (std::size_t i = 0; i < nodes.size(); ++i) out.forces[nodes[i]] += areas[i] * force;
    }
    out.nodes.resize(surface_.points.size());
    for (NodeIndex n = 0; n < out.nodes.size(); ++n) out.nodes[n] = n;
    return out;
  }

  Loaded of(const part::Gravity& gravity, const zone::Target&) {
    Model::Inertia out = inertia([&](const Vec3&) { return gravity.acceleration; });
    out.gravity = gravity.acceleration;
    return out;
  }

  Loaded of(const part::Rotation& rotation, const zone::Target&) {
    const double square = rotation.speed * rotation.speed;
    Model::Inertia out = inertia([&](const Vec3& point) -> Vec3 {
      const Vec3 arm = point - rotation.through;
      return square * (arm - arm.dot(rotation.along) * rotation.along);
    });
    out.rotation = rotation;
    return out;
  }

  // --- displacement and temperature

  Loaded of(const part::Displacement& displacement, const zone::Target& target) {
    return Model::Displacement{target.nodes, displacement.by};
  }

  Loaded of(const part::Temperature& temperature, const zone::Target& target) {
    Model::Temperature out;
    out.nodes = target.nodes;
    out.elements = target.elements;
    out.through = temperature.through;
    out.from = temperature.from;
    out.tool = amounts_at(temperature.tool, out.nodes, who_, model_, errors_, findings_);
    if (out.tool.empty()) return std::nullopt;
    out.bag = temperature.through ? amounts_at(temperature.bag, out.nodes, who_, model_, errors_, findings_) : out.tool;
    if (out.bag.empty()) return std::nullopt;
    for (const std::vector<double>* const side : {&out.tool, &out.bag}) {
      const auto least = std::min_element(side->begin(), side->end());
      if (*least >= absolute_zero) continue;
      wrong("load.too-cold",
            fmt::format("it is {:g} degC at node {}, below absolute zero", *least,
                        surface_.node_ids[out.nodes[static_cast<std::size_t>(least - side->begin())]]),
            "look at the units of the formula, table or field: they are degrees Celsius");
      return std::nullopt;
    }
    return out;
  }

  Model& model_;
  const part::Part& part_;
  const mesh::Surface& surface_;
  Findings& errors_;
  Findings& findings_;
  const part::Load* load_ = nullptr;
  std::string who_;
  std::vector<Vec3> normals_;  ///< at the nodes of every element, made for the first pressure
};

}  // namespace

void assemble_loads(const Assembling& on) { Loads(on).run(); }

// --- sums
// ------------------------------------------------------------------------------------------------------------

namespace {

struct Summing {
  const Model& model;
  Total operator()(const Model::Pressure& load) const { return of(load.nodes, load.forces); }
  Total operator()(const Model::Inertia& load) const { return of(load.nodes, load.forces); }
  Total operator()(const Model::Force& load) const {
    Total out = of(load.nodes, load.forces);
    for (const Vec3& moment : load.moments) out.moment += moment;
    return out;
  }
  Total operator()(const Model::Link& load) const { return {load.force, load.moment + load.at.cross(load.force)}; }
  Total operator()(const Model::Displacement&) const { return {}; }
  Total operator()(const Model::Temperature&) const { return {}; }

 private:
  Total of(const std::vector<NodeIndex>& nodes, const std::vector<Vec3>& forces) const {
    Total out;
    for (std::size_t i = 0; i < nodes.size(); ++i) {
      out.force += forces[i];
      out.moment += model.surface.points[nodes[i]].cross(forces[i]);
    }
    return out;
  }
};

}  // namespace

Total total(const Model& model, const Model::Load& load) { return std::visit(Summing{model}, load.what); }

Total total(const Model& model, const Model::Case& load_case) {
  Total out;
  for (std::size_t i = 0; i < model.loads.size(); ++i) {
    if (!load_case.acts(i)) continue;
    const Total own = total(model, model.loads[i]);
    out.force += load_case.factors[i] * own.force;
    out.moment += load_case.factors[i] * own.moment;
  }
  return out;
}

std::vector<Vec3> nodal_loads(const Model& model, const Model::Case& load_case) {
  std::vector<Vec3> out(model.surface.points.size(), Vec3::Zero());
  const auto add = [&](const auto& load, double factor) {
    for (std::size_t i = 0; i < load.nodes.size(); ++i) out[load.nodes[i]] += factor * load.forces[i];
  };
  for_each_load<Model::Force>(model, load_case, add);
  for_each_load<Model::Pressure>(model, load_case, add);
  for_each_load<Model::Inertia>(model, load_case, add);
  return out;
}

}  // namespace bordado::model
